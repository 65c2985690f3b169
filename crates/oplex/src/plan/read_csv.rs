//! Reading reservations from a table with commas, as people keep them in spreadsheets.

use std::borrow::Cow;
use std::net::{Ipv4Addr, Ipv6Addr};
use std::ops::Range;
use std::sync::Arc;

use super::csv_lines::{Grid, Line, count};
use super::facts::identifier;
use super::fleet::client_id;
use super::read_fleets::{Keyed, RESERVATION_KEY_IGNORED, counting};
use super::rows::Rows;
use super::{ClientKey, Layer, Networks, PlanReader, Reservation, Sent};
use crate::codebook::{Codebook, Definition};
use crate::document::{KEY_MISSING, UNKNOWN_KEY, VALUE_WRONG_KIND};
use crate::family::{Address, Both, Family, Net, Protocol};
use crate::finding::{FileId, Findings, Spot};
use crate::layout::{Input, InputKind};
use crate::parallel;
use crate::words;

/// What a column holds.
enum Column {
    Network,
    Mac,
    ClientId,
    Duid,
    CircuitId,
    RemoteId,
    Delegated,
    Address,
    AddressV6,
    Name,
    Option(Arc<Definition>),
    /// One that the plan ignores, or a heading that is unknown, which is a finding already.
    Ignored,
}

impl PlanReader<'_> {
    /// The reservations in a table: one a line, the columns named by the first.
    pub(super) fn csv(
        &mut self,
        file: FileId,
        text: &str,
        ignored: &[String],
        networks: &Networks<'_>,
        all: &mut Rows,
    ) {
        let bom = if text.starts_with('\u{feff}') { '\u{feff}'.len_utf8() } else { 0 };
        let mut grid = Grid { text, separator: ',' };
        let heading = grid.record(bom);
        let first = text.get(heading..).and_then(|rest| rest.lines().next()).unwrap_or_default();
        if first.contains(';') && !first.contains(',') {
            grid.separator = ';';
        }
        let mut columns = None;
        let body = grid.each_line(bom..text.len(), |line| {
            columns = Some(self.columns(file, &line, ignored));
            false
        });
        let Some(columns) = columns else { return };
        let sheet = Sheet { file, grid, columns, networks, codebook: &self.codebook };
        for (rows, findings) in sheet.read(body) {
            all.add(rows);
            self.reader.findings.extend(findings);
        }
    }

    fn columns(&mut self, file: FileId, line: &Line<'_, '_>, ignored: &[String]) -> Vec<Column> {
        let mut columns = Vec::new();
        for at in 0..line.len() {
            let (name, span) = line.cell(at);
            let before = (0..at).find(|before| line.cell(*before).0.eq_ignore_ascii_case(&name));
            if let Some(before) = before.filter(|_| !name.is_empty()) {
                let finding = VALUE_WRONG_KIND.finding(format!("two columns `{name}`"));
                let first = Spot { file, span: line.cell(before).1 };
                self.reader.findings.push(finding.at(Spot { file, span }).related(first, "the first"));
                columns.push(Column::Ignored);
                continue;
            }
            columns.push(match name.to_ascii_lowercase().as_str() {
                "network" => Column::Network,
                "mac" => Column::Mac,
                "client-id" => Column::ClientId,
                "duid" => Column::Duid,
                "circuit-id" => Column::CircuitId,
                "remote-id" => Column::RemoteId,
                "delegated" => Column::Delegated,
                "address" => Column::Address,
                "address-v6" => Column::AddressV6,
                "name" => Column::Name,
                ignorable if ignored.iter().any(|known| known == ignorable) => Column::Ignored,
                _ if let Some(instead) = words::instead("a table of reservations", &name) => {
                    let finding = UNKNOWN_KEY.finding(format!("unknown column `{name}`")).at(Spot { file, span });
                    self.reader.findings.push(instead.offered(finding, ""));
                    Column::Ignored
                }
                _ => match self.option(&name, Protocol::V4, &Spot { file, span }) {
                    Some(definition) => Column::Option(definition),
                    None => Column::Ignored,
                },
            });
        }
        if !columns.iter().any(|column| {
            matches!(column, Column::Mac | Column::ClientId | Column::Duid | Column::CircuitId | Column::RemoteId)
        }) {
            let finding = KEY_MISSING
                .finding("no column says which client it is: `mac`, `client-id`, `duid`, `circuit-id` or `remote-id`")
                .at(Spot { file, span: line.span(0) });
            self.reader.findings.push(finding.advice("mac,address,name,network in the first line"));
        }
        columns
    }
}

/// A table, and what its lines are read against.
struct Sheet<'s> {
    file: FileId,
    grid: Grid<'s>,
    columns: Vec<Column>,
    networks: &'s Networks<'s>,
    codebook: &'s Codebook,
}

/// What the cells of a line say.
#[derive(Default)]
struct Cells<'c> {
    network: Option<usize>,
    given: Option<(Ipv4Addr, Range<usize>)>,
    given_v6: Option<(Ipv6Addr, Range<usize>)>,
    name: Option<(Cow<'c, str>, Range<usize>)>,
    delegated: Option<(Net<Ipv6Addr>, Range<usize>)>,
    /// Most lines have one key.
    first_key: Option<Keyed>,
    more_keys: Vec<Keyed>,
    sends: Both<Vec<Sent>>,
}

impl Cells<'_> {
    fn key(&mut self, key: ClientKey, span: Range<usize>) {
        match self.first_key {
            None => self.first_key = Some((key, span)),
            Some(_) => self.more_keys.push((key, span)),
        }
    }
}

/// Tables larger than this are read by as many threads as the machine runs at once.
const LARGE: usize = 4 << 20;

impl Sheet<'_> {
    /// The reservations from there on, and what is wrong with the lines: both in parts, in their order.
    fn read(&self, body: usize) -> Vec<(Vec<Reservation>, Findings)> {
        let text = self.grid.text;
        // A cell with quotes may go over several lines, so where one begins is known only after reading what is before.
        let apart = text.len() > LARGE && count(text, b'"') == 0;
        let threads = if apart { parallel::threads() } else { 1 };
        let mut ends: Vec<usize> = (1..threads).map(|part| body + (text.len() - body) / threads * part).collect();
        for end in &mut ends {
            let rest = &text.as_bytes()[*end..];
            *end += rest.iter().position(|octet| *octet == b'\n').map_or(rest.len(), |newline| newline + 1);
        }
        ends.push(text.len());
        let starts = std::iter::once(body).chain(ends.iter().copied());
        let parts: Vec<Range<usize>> = starts.zip(&ends).map(|(start, end)| start..*end).collect();
        parallel::each(threads, &parts, |part| self.part(part.clone()))
    }

    fn part(&self, part: Range<usize>) -> (Vec<Reservation>, Findings) {
        let (mut rows, mut findings) = (Vec::new(), Findings::default());
        rows.reserve_exact(count(&self.grid.text[part.clone()], b'\n') + 1);
        let mut last = 0;
        self.grid.each_line(part, |line| {
            match self.line(&line, &mut last, &mut findings) {
                Ok(row) => rows.push(row),
                Err((span, message)) => findings.push(VALUE_WRONG_KIND.finding(message).at(self.spot(span))),
            }
            true
        });
        (rows, findings)
    }

    fn spot(&self, span: Range<usize>) -> Spot {
        Spot { file: self.file, span }
    }

    /// What a line reserves. `last` is the network of the line before: mostly it is the same.
    fn line(
        &self,
        line: &Line<'_, '_>,
        last: &mut usize,
        findings: &mut Findings,
    ) -> Result<Reservation, (Range<usize>, String)> {
        let columns = &self.columns;
        if line.len() > columns.len() {
            let message = format!("{} cells, but the first line has {} columns", line.len(), columns.len());
            findings.push(VALUE_WRONG_KIND.finding(message).at(self.spot(line.span(columns.len()))));
        }
        let mut cells = Cells::default();
        for (at, column) in columns.iter().enumerate().take(line.len()) {
            let (text, span) = line.cell(at);
            // Remarks in a column that is ignored may have several lines.
            if let Some(open) = line.open_quote(at, &text).filter(|_| !matches!(column, Column::Ignored)) {
                let message = "a quote that is not closed on its line; what follows is read as part of this cell";
                return Err((open, message.to_owned()));
            }
            if !text.is_empty() {
                self.cell(column, text, &span, last, &mut cells).map_err(|why| (span, why))?;
            }
        }
        let nothing = |message: &str| (line.span(0), message.to_owned());
        let Cells { network, given, given_v6, name, delegated, first_key, more_keys, sends } = cells;
        let (client, ignored) = match more_keys.is_empty() {
            true => (first_key, Vec::new()),
            false => counting(first_key.into_iter().chain(more_keys).collect()),
        };
        let ignored = ignored.into_iter();
        findings.extend(ignored.map(|(why, span)| RESERVATION_KEY_IGNORED.finding(why).at(self.spot(span))));
        let client = client.ok_or_else(|| {
            nothing("this line names no client: it has no `mac`, `client-id`, `duid`, `circuit-id` or `remote-id`")
        });
        let (client, client_at) = client?;
        // Without a network the address determines it.
        let network = network.or_else(|| self.networks.holding(given.as_ref().map(|(address, _)| *address)?));
        let network = network.ok_or_else(|| nothing("this line names no network, and its address lies in none"))?;
        let name = name.as_ref().map(|(name, span)| (&**name, span.clone()));
        let nothing_sent = sends.iter().all(Vec::is_empty);
        let layer = (!nothing_sent).then(|| Layer { sends, ..Layer::default() });
        let row = Reservation::new(network, client, self.spot(client_at));
        Ok(row.with((given, given_v6), name, layer).delegating(delegated))
    }

    /// What one cell says.
    fn cell<'c>(
        &self,
        column: &Column,
        text: Cow<'c, str>,
        span: &Range<usize>,
        last: &mut usize,
        cells: &mut Cells<'c>,
    ) -> Result<(), String> {
        let at = span.clone();
        match column {
            Column::Network => {
                let found = self.networks.named_near(&text, *last);
                *last = found.ok_or_else(|| format!("unknown network `{text}`"))?;
                cells.network = found;
            }
            Column::Mac => cells.key(ClientKey::Mac(text.parse().map_err(String::from)?), at),
            Column::ClientId => cells.key(ClientKey::ClientId(client_id(&text)?), at),
            Column::Duid => cells.key(ClientKey::Duid(text.parse().map_err(String::from)?), at),
            Column::CircuitId => cells.key(ClientKey::CircuitId(identifier(&text)?.into()), at),
            Column::RemoteId => cells.key(ClientKey::RemoteId(identifier(&text)?.into()), at),
            Column::Delegated => cells.delegated = Some((Net::parse(&text)?, at)),
            Column::AddressV6 => cells.given_v6 = Some((Ipv6Addr::parse(&text)?, at)),
            Column::Address => cells.given = Some((Ipv4Addr::parse(&text)?, at)),
            Column::Name => cells.name = Some((text, at)),
            Column::Option(definition) => {
                let family = if definition.travels_in(Protocol::V4) { Family::V4 } else { Family::V6 };
                cells.sends[family].push(self.sent(definition, &text, self.spot(at)));
            }
            Column::Ignored => {}
        }
        Ok(())
    }

    fn sent(&self, definition: &Arc<Definition>, text: &str, spot: Spot) -> Sent {
        let kind = InputKind::Text { text: text.to_owned(), start: Some(spot.span.start) };
        // A cell with quotes doubled in it does not stand in the file as it is read.
        let kind = match kind {
            InputKind::Text { text, .. } if text.contains('"') => InputKind::Text { text, start: None },
            kind => kind,
        };
        let outcome = self.codebook.encode(definition, &Input { kind, span: spot.span.clone() });
        Sent { definition: definition.clone(), key: spot.clone(), spot, outcome }
    }
}
