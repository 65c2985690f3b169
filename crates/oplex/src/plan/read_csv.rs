//! Reading reservations from a table with commas, as people keep them in spreadsheets.

use std::borrow::Cow;
use std::ops::Range;
use std::sync::Arc;

use super::fleet::mac;
use super::read_fleets::client_id;
use super::{ClientKey, Layer, Networks, PlanReader, Reservation, Sent};
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

/// One line of the table.
struct Line<'g, 't> {
    grid: &'g Grid<'t>,
    record: &'g csv::ByteRecord,
    /// Where it begins.
    start: usize,
    /// Whether its cells stand in the text as they are read, with one separator between them.
    plain: bool,
}

impl<'g, 't> Line<'g, 't> {
    fn new(grid: &'g Grid<'t>, record: &'g csv::ByteRecord, start: usize, end: usize) -> Self {
        let plain = grid.text.get(start..end).is_some_and(|line| !line.contains('"'));
        Self { grid, record, start, plain }
    }

    /// A cell of a plain line, blanks around it included.
    fn plain(&self, column: usize) -> Option<Range<usize>> {
        let range = self.record.range(column).filter(|_| self.plain)?;
        let start = self.start + range.start + column;
        Some(start..start + range.len())
    }

    /// What a cell holds, without blanks around it.
    fn cell(&self, column: usize) -> Cow<'g, str>
    where
        't: 'g,
    {
        match self.plain(column).and_then(|span| self.grid.text.get(span)) {
            Some(text) => Cow::Borrowed(text.trim()),
            None => match String::from_utf8_lossy(&self.record[column]) {
                Cow::Borrowed(text) => Cow::Borrowed(text.trim()),
                Cow::Owned(text) => Cow::Owned(text.trim().to_owned()),
            },
        }
    }

    /// Where it stands.
    fn spot(&self, column: usize) -> Spot {
        match self.plain(column) {
            Some(span) => Spot { file: self.grid.file, span: trimmed(self.grid.text, span) },
            None => self.grid.cell(self.start, column),
        }
    }
}

impl PlanReader<'_> {
    /// The reservations in a table: one a line, the columns named by the first.
    pub(super) fn csv(&mut self, file: FileId, text: &str, networks: &Networks<'_>, all: &mut Vec<Reservation>) {
        let bom = if text.starts_with('\u{feff}') { '\u{feff}'.len_utf8() } else { 0 };
        let mut grid = Grid { file, text, separator: ',' };
        let heading = grid.record(bom);
        let first = text.get(heading..).and_then(|rest| rest.lines().next()).unwrap_or_default();
        if first.contains(';') && !first.contains(',') {
            grid.separator = ';';
        }
        let mut lines = csv::ReaderBuilder::new();
        lines.delimiter(grid.separator as u8).flexible(true).has_headers(false).comment(Some(b'#'));
        let mut lines = lines.from_reader(&text.as_bytes()[bom..]);
        let mut record = csv::ByteRecord::new();
        let mut columns: Option<Vec<Column>> = None;
        // Exactly as many as there are: doubling would take half as much again, for a moment.
        all.reserve_exact(text.bytes().filter(|octet| *octet == b'\n').count());
        loop {
            match lines.read_byte_record(&mut record) {
                Ok(true) => {}
                Ok(false) => return,
                Err(error) => {
                    let at = error.position().map_or(0, |position| bom + position.byte() as usize).min(text.len());
                    return self.at(Spot { file, span: at..at }, format!("this line cannot be read: {error}"));
                }
            }
            if record.iter().all(|cell| cell.trim_ascii().is_empty()) {
                continue;
            }
            let start = grid.record(bom + record.position().map_or(0, |position| position.byte() as usize));
            let line = Line::new(&grid, &record, start, bom + lines.position().byte() as usize);
            match &columns {
                None => columns = Some(self.columns(&line)),
                Some(columns) => all.extend(self.line(&line, columns, networks)),
            }
        }
    }

    fn at(&mut self, spot: Spot, message: String) {
        self.reader.findings.push(WRONG_KIND.finding(message).at(spot));
    }

    fn columns(&mut self, line: &Line<'_, '_>) -> Vec<Column> {
        let mut columns = Vec::new();
        for at in 0..line.record.len() {
            let name = line.cell(at);
            columns.push(match name.to_ascii_lowercase().as_str() {
                "network" => Column::Network,
                "mac" => Column::Mac,
                "client-id" => Column::ClientId,
                "address" => Column::Address,
                "name" => Column::Name,
                _ => match self.option(&name, "v4", &line.spot(at)) {
                    Some(definition) => Column::Option(definition),
                    None => Column::Unknown,
                },
            });
        }
        if !columns.iter().any(|column| matches!(column, Column::Mac | Column::ClientId)) {
            let finding = MISSING_KEY.finding("no column is called `mac` or `client-id`").at(line.spot(0));
            self.reader.findings.push(finding.instead("mac,address,name,network in the first line"));
        }
        columns
    }

    fn line(&mut self, line: &Line<'_, '_>, columns: &[Column], networks: &Networks<'_>) -> Option<Reservation> {
        if line.record.len() > columns.len() {
            let message = format!("{} cells, and the first line has {} columns", line.record.len(), columns.len());
            self.at(line.spot(columns.len()), message);
        }
        let (mut network, mut client, mut given, mut name) = (None, None, None, None);
        let mut sends: Vec<Sent> = Vec::new();
        for (at, column) in columns.iter().enumerate().take(line.record.len()) {
            let text = line.cell(at);
            if text.is_empty() {
                continue;
            }
            let outcome = match column {
                Column::Network => match networks.named(&text) {
                    Some(index) => {
                        network = Some(index);
                        Ok(())
                    }
                    None => Err(format!("no network is called `{text}`")),
                },
                Column::Mac => mac(&text).map(|mac| client = Some((ClientKey::Mac(mac), line.spot(at)))),
                // Of both, the hardware address counts only where there is no identifier (RFC 2131, section 4.2).
                Column::ClientId => client_id(&text).map(|id| client = Some((ClientKey::ClientId(id), line.spot(at)))),
                Column::Address => address(&text).map(|address| given = Some((address, line.spot(at)))),
                Column::Name => {
                    name = Some((text, line.spot(at)));
                    Ok(())
                }
                Column::Option(definition) => {
                    sends.push(self.sent(definition, &text, line.spot(at)));
                    Ok(())
                }
                Column::Unknown => Ok(()),
            };
            if let Err(why) = outcome {
                self.at(line.spot(at), why);
                return None;
            }
        }
        let Some((client, client_spot)) = client else {
            self.at(line.spot(0), "this line names no client: neither `mac` nor `client-id`".to_owned());
            return None;
        };
        // Without a network the address tells.
        let found = network.or_else(|| networks.holding(given.as_ref().map(|(address, _)| *address)?));
        let Some(network) = found else {
            self.at(line.spot(0), "this line names no network, and its address lies in none".to_owned());
            return None;
        };
        let name = name.as_ref().map(|(name, spot)| (&**name, spot.clone()));
        let layer = (!sends.is_empty()).then(|| Layer { sends, ..Layer::default() });
        Some(Reservation::new(network, client, client_spot).with(given, name, layer))
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
