//! Reading reservations from a table with commas, as people keep them in spreadsheets.

use std::collections::HashMap;
use std::net::Ipv4Addr;
use std::ops::Range;
use std::sync::Arc;

use super::fleet::mac;
use super::read_fleets::client_id;
use super::{ClientKey, Layer, Network, PlanReader, Reservation, Sent};
use crate::codebook::Definition;
use crate::document::{MISSING_KEY, WRONG_KIND};
use crate::finding::{FileId, Spot};
use crate::layout::{Written, WrittenKind, address};

/// What a column holds.
enum Column {
    Network,
    Mac,
    ClientId,
    Address,
    Name,
    Option(Arc<Definition>),
    /// A heading that means nothing, which is a finding already.
    Unknown,
}

/// The table and where its cells stand.
struct Grid<'t> {
    file: FileId,
    text: &'t str,
    separator: char,
}

impl Grid<'_> {
    /// Where a cell of the record that begins here stands, without blanks and quotes around it.
    fn cell(&self, record: usize, wanted: usize) -> Spot {
        let (mut start, mut column, mut quoted) = (record, 0, false);
        let rest = self.text[record..].char_indices().map(|(at, c)| (record + at, c));
        let mut end = self.text.len();
        for (at, c) in rest {
            match c {
                '"' => quoted = !quoted,
                c if !quoted && (c == self.separator || c == '\n' || c == '\r') => {
                    if column == wanted || c != self.separator {
                        end = at;
                        break;
                    }
                    column += 1;
                    start = at + c.len_utf8();
                }
                _ => {}
            }
        }
        let span = if column == wanted { trimmed(self.text, start..end) } else { end..end };
        Spot { file: self.file, span }
    }

    /// Where the record begins that the reader says begins here: after empty lines and remarks.
    fn record(&self, mut at: usize) -> usize {
        while let Some(line) = self.text.get(at..).and_then(|rest| rest.split_inclusive('\n').next()) {
            if !line.trim().is_empty() && !line.starts_with('#') {
                break;
            }
            at += line.len();
        }
        at
    }
}

fn trimmed(text: &str, span: Range<usize>) -> Range<usize> {
    let cell = &text[span.clone()];
    let inner = cell.trim();
    let start = span.start + cell.len() - cell.trim_start().len();
    let quotes = usize::from(inner.len() > 1 && inner.starts_with('"') && inner.ends_with('"'));
    start + quotes..start + inner.len() - quotes
}

impl PlanReader<'_> {
    /// The reservations in a table: one a line, the columns named by the first.
    pub(super) fn csv(&mut self, file: FileId, text: &str, networks: &[Network]) -> Vec<Reservation> {
        let bom = if text.starts_with('\u{feff}') { '\u{feff}'.len_utf8() } else { 0 };
        let mut grid = Grid { file, text, separator: ',' };
        let heading = grid.record(bom);
        let first = text.get(heading..).and_then(|rest| rest.lines().next()).unwrap_or_default();
        if first.contains(';') && !first.contains(',') {
            grid.separator = ';';
        }
        let mut lines = csv::ReaderBuilder::new();
        lines
            .delimiter(grid.separator as u8)
            .flexible(true)
            .has_headers(false)
            .comment(Some(b'#'))
            .trim(csv::Trim::All);
        let mut lines = lines.from_reader(&text.as_bytes()[bom..]);
        let by_name: HashMap<&str, usize> =
            networks.iter().enumerate().map(|(at, network)| (network.name.as_str(), at)).collect();
        let mut record = csv::StringRecord::new();
        let mut columns: Option<Vec<Column>> = None;
        let mut reservations = Vec::new();
        loop {
            match lines.read_record(&mut record) {
                Ok(true) => {}
                Ok(false) => return reservations,
                Err(error) => {
                    let at = error.position().map_or(0, |position| bom + position.byte() as usize).min(text.len());
                    self.at(Spot { file, span: at..at }, format!("this line cannot be read: {error}"));
                    return reservations;
                }
            }
            let start = grid.record(bom + record.position().map_or(0, |position| position.byte() as usize));
            match &columns {
                None => columns = Some(self.columns(&grid, start, &record)),
                Some(columns) => {
                    reservations.extend(self.line(&grid, start, columns, &record, (networks, &by_name)));
                }
            }
        }
    }

    fn at(&mut self, spot: Spot, message: String) {
        self.reader.findings.push(WRONG_KIND.finding(message).at(spot));
    }

    fn columns(&mut self, grid: &Grid<'_>, start: usize, record: &csv::StringRecord) -> Vec<Column> {
        let mut columns = Vec::new();
        for (at, name) in record.iter().enumerate() {
            columns.push(match name.to_ascii_lowercase().as_str() {
                "network" => Column::Network,
                "mac" => Column::Mac,
                "client-id" => Column::ClientId,
                "address" => Column::Address,
                "name" => Column::Name,
                _ => match self.option(name, "v4", &grid.cell(start, at)) {
                    Some(definition) => Column::Option(definition),
                    None => Column::Unknown,
                },
            });
        }
        if !columns.iter().any(|column| matches!(column, Column::Mac | Column::ClientId)) {
            let finding = MISSING_KEY.finding("no column is called `mac` or `client-id`").at(grid.cell(start, 0));
            self.reader.findings.push(finding.instead("mac,address,name,network in the first line"));
        }
        columns
    }

    fn line(
        &mut self,
        grid: &Grid<'_>,
        start: usize,
        columns: &[Column],
        record: &csv::StringRecord,
        (networks, by_name): (&[Network], &HashMap<&str, usize>),
    ) -> Option<Reservation> {
        if record.len() > columns.len() {
            let message = format!("{} cells, and the first line has {} columns", record.len(), columns.len());
            self.at(grid.cell(start, columns.len()), message);
        }
        let (mut network, mut client, mut given, mut name) = (None, None, None, None);
        let mut sends: Vec<Sent> = Vec::new();
        for (at, (column, text)) in
            columns.iter().zip(record.iter()).enumerate().filter(|(_, (_, text))| !text.is_empty())
        {
            let spot = || grid.cell(start, at);
            let outcome = match column {
                Column::Network => match by_name.get(text) {
                    Some(index) => {
                        network = Some(*index);
                        Ok(())
                    }
                    None => Err(format!("no network is called `{text}`")),
                },
                Column::Mac => mac(text).map(|mac| client = Some((ClientKey::Mac(mac), spot()))),
                // Of both, the hardware address counts only where there is no identifier (RFC 2131, section 4.2).
                Column::ClientId => client_id(text).map(|id| client = Some((ClientKey::ClientId(id), spot()))),
                Column::Address => address(text).map(|address| given = Some((address, spot()))),
                Column::Name => {
                    name = Some((text.to_owned(), spot()));
                    Ok(())
                }
                Column::Option(definition) => {
                    sends.push(self.sent(definition, text, grid.cell(start, at)));
                    Ok(())
                }
                Column::Unknown => Ok(()),
            };
            if let Err(why) = outcome {
                self.at(spot(), why);
                return None;
            }
        }
        let Some((client, client_spot)) = client else {
            self.at(grid.cell(start, 0), "this line names no client: neither `mac` nor `client-id`".to_owned());
            return None;
        };
        // Without a network the address tells.
        let found = network.or_else(|| holder(networks, given.as_ref().map(|(address, _)| *address)?));
        let Some(network) = found else {
            self.at(grid.cell(start, 0), "this line names no network, and its address lies in none".to_owned());
            return None;
        };
        let called = name.as_ref().map_or_else(|| client.to_string(), |(name, _): &(String, Spot)| name.clone());
        let layer = Layer { name: format!("reservation {called}"), sends, ..Layer::default() };
        let layer = (!layer.is_empty()).then(|| Box::new(layer));
        Some(Reservation { network, client, client_spot, address: given, name, layer })
    }

    fn sent(&self, definition: &Arc<Definition>, text: &str, spot: Spot) -> Sent {
        let kind = WrittenKind::Text { text: text.to_owned(), start: Some(spot.span.start) };
        // A cell with quotes doubled in it does not stand in the file as it is read.
        let kind = match kind {
            WrittenKind::Text { text, .. } if text.contains('"') => WrittenKind::Text { text, start: None },
            kind => kind,
        };
        let outcome = self.codebook.encode(definition, &Written { kind, span: spot.span.clone() });
        Sent { definition: definition.clone(), key: spot.clone(), spot, outcome }
    }
}

/// The network whose subnet holds the address.
fn holder(networks: &[Network], address: Ipv4Addr) -> Option<usize> {
    networks.iter().position(|network| network.subnet.as_ref().is_some_and(|subnet| subnet.holds(address)))
}
