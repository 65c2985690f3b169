//! The lines and cells of a table with commas, and where in its text they stand.

use std::borrow::Cow;
use std::ops::Range;

use crate::finding::{FileId, Spot};

/// The table and where its cells stand.
#[derive(Clone, Copy)]
pub(super) struct Grid<'t> {
    pub(super) file: FileId,
    pub(super) text: &'t str,
    pub(super) separator: char,
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
    pub(super) fn record(&self, mut at: usize) -> usize {
        // As most lines follow each other directly, this is nearly always all.
        if self.text.as_bytes().get(at).is_some_and(|first| first.is_ascii_graphic() && *first != b'#') {
            return at;
        }
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

/// A cell without the blanks around it, of which there are mostly none.
fn bare(cell: &str) -> &str {
    let is_mark = |octet: &u8| octet.is_ascii_graphic();
    let edges = (cell.as_bytes().first(), cell.as_bytes().last());
    if let (Some(first), Some(last)) = edges
        && is_mark(first)
        && is_mark(last)
    {
        return cell;
    }
    cell.trim()
}

/// How many lines a text has at most, counted in pieces that a processor counts at once.
pub(super) fn lines_in(text: &str) -> usize {
    let count = |piece: &[u8]| usize::from(piece.iter().map(|octet| u8::from(*octet == b'\n')).sum::<u8>());
    text.as_bytes().chunks(255).map(count).sum::<usize>() + 1
}

/// One line of the table.
pub(super) struct Line<'g, 't> {
    grid: &'g Grid<'t>,
    cells: Cells<'g>,
}

/// Where the cells of a line are.
enum Cells<'g> {
    /// In the text, as they stand there.
    Plain(&'g [Range<usize>]),
    /// In what was read from the line that begins there; quotes are gone.
    Read(&'g csv::ByteRecord, usize),
}

impl<'g, 't> Line<'g, 't> {
    /// How many cells it has.
    pub(super) fn len(&self) -> usize {
        match self.cells {
            Cells::Plain(cells) => cells.len(),
            Cells::Read(record, _) => record.len(),
        }
    }

    /// What a cell holds, without blanks around it, and where.
    pub(super) fn cell(&self, column: usize) -> (Cow<'g, str>, Spot)
    where
        't: 'g,
    {
        let text = match self.cells {
            Cells::Plain(cells) => {
                let text = &self.grid.text[cells[column].clone()];
                let inner = bare(text);
                if inner.len() == text.len() {
                    return (Cow::Borrowed(text), Spot { file: self.grid.file, span: cells[column].clone() });
                }
                Cow::Borrowed(inner)
            }
            Cells::Read(record, _) => match String::from_utf8_lossy(&record[column]) {
                Cow::Borrowed(text) => Cow::Borrowed(text.trim()),
                Cow::Owned(text) => Cow::Owned(text.trim().to_owned()),
            },
        };
        (text, self.spot(column))
    }

    /// Where a cell stands; the first when there is none.
    pub(super) fn spot(&self, column: usize) -> Spot {
        let Grid { file, text, .. } = *self.grid;
        match self.cells {
            Cells::Plain(cells) => {
                let span = cells.get(column).unwrap_or(&cells[0]).clone();
                let cell = &text[span.clone()];
                let inner = bare(cell).len();
                let start =
                    if inner == cell.len() { span.start } else { span.start + cell.len() - cell.trim_start().len() };
                Spot { file, span: start..start + inner }
            }
            Cells::Read(_, start) => self.grid.cell(start, column),
        }
    }
}

impl Grid<'_> {
    /// Calls `see` for each line of a part of the table that holds something, until it has seen enough, and says where the
    /// next one begins.
    pub(super) fn each_line(&self, part: Range<usize>, see: impl FnMut(Line<'_, '_>) -> bool) -> usize {
        let text = &self.text[part.clone()];
        // Lines may also end in a carriage return alone, as they did long ago.
        let old_ends = || text.matches('\r').count() > text.matches("\r\n").count();
        let plain = !(text.contains('"') || text.contains('\r') && old_ends());
        if plain { self.each_plain_line(part, see) } else { self.each_quoted_line(part, see) }
    }

    fn each_plain_line(&self, part: Range<usize>, mut see: impl FnMut(Line<'_, '_>) -> bool) -> usize {
        let mut cells: Vec<Range<usize>> = Vec::new();
        let (mut at, separator) = (part.start, self.separator as u8);
        for whole in self.text[part].split_inclusive('\n') {
            let line = whole.strip_suffix('\n').unwrap_or(whole);
            let (start, line) = (at, line.strip_suffix('\r').unwrap_or(line));
            at += whole.len();
            if line.starts_with('#') || line.is_empty() {
                continue;
            }
            cells.clear();
            let mut begin = start;
            for (end, octet) in (start..).zip(line.bytes()) {
                if octet == separator {
                    cells.push(begin..end);
                    begin = end + 1;
                }
            }
            cells.push(begin..start + line.len());
            let blank = cells.iter().all(|cell| bare(&self.text[cell.clone()]).is_empty());
            if !blank && !see(Line { grid: self, cells: Cells::Plain(&cells) }) {
                break;
            }
        }
        at
    }

    fn each_quoted_line(&self, part: Range<usize>, mut see: impl FnMut(Line<'_, '_>) -> bool) -> usize {
        let mut lines = csv::ReaderBuilder::new();
        lines.delimiter(self.separator as u8).flexible(true).has_headers(false).comment(Some(b'#'));
        let mut lines = lines.from_reader(&self.text.as_bytes()[part.clone()]);
        let mut record = csv::ByteRecord::new();
        // Octets in memory, of any number of cells, can always be read.
        while let Ok(true) = lines.read_byte_record(&mut record) {
            if record.iter().all(|cell| cell.trim_ascii().is_empty()) {
                continue;
            }
            let start = self.record(part.start + record.position().map_or(0, |position| position.byte() as usize));
            if !see(Line { grid: self, cells: Cells::Read(&record, start) }) {
                break;
            }
        }
        part.start + lines.position().byte() as usize
    }
}
