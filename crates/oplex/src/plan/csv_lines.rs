//! The lines and cells of a table with commas, and where in its text they stand.

use std::borrow::Cow;
use std::ops::Range;

/// The table and where its cells stand.
#[derive(Clone, Copy)]
pub(super) struct Grid<'t> {
    pub(super) text: &'t str,
    pub(super) separator: char,
}

impl Grid<'_> {
    /// Where a cell of the record that begins here stands, without blanks and quotes around it.
    fn cell(&self, record: usize, wanted: usize) -> Range<usize> {
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
        if column == wanted { trimmed(self.text, start..end) } else { end..end }
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

/// How many octets of a kind a text has, counted in pieces that a processor counts at once.
pub(super) fn count(text: &str, wanted: u8) -> usize {
    let count = |piece: &[u8]| usize::from(piece.iter().map(|octet| u8::from(*octet == wanted)).sum::<u8>());
    text.as_bytes().chunks(255).map(count).sum()
}

/// One line of the table.
pub(super) struct Line<'g, 't> {
    grid: &'g Grid<'t>,
    cells: Cells<'g>,
}

/// Where the cells of a line are.
enum Cells<'g> {
    /// In the text, as they stand there.
    Bare(&'g [Range<usize>]),
    /// In what was read from the line that begins there; quotes are gone.
    Read(&'g csv::ByteRecord, usize),
}

impl<'g, 't> Line<'g, 't> {
    /// How many cells it has.
    pub(super) fn len(&self) -> usize {
        match self.cells {
            Cells::Bare(cells) => cells.len(),
            Cells::Read(record, _) => record.len(),
        }
    }

    /// What a cell holds, without blanks around it, and where.
    pub(super) fn cell(&self, column: usize) -> (Cow<'g, str>, Range<usize>)
    where
        't: 'g,
    {
        let text = match self.cells {
            Cells::Bare(cells) => {
                let (text, span) = bare_at(self.grid.text, &cells[column]);
                return (Cow::Borrowed(text), span);
            }
            Cells::Read(record, _) => match String::from_utf8_lossy(&record[column]) {
                Cow::Borrowed(text) => Cow::Borrowed(text.trim()),
                Cow::Owned(text) => Cow::Owned(text.trim().to_owned()),
            },
        };
        (text, self.span(column))
    }

    /// The quote with which a cell begins that does not end on its line.
    pub(super) fn open_quote(&self, column: usize, text: &str) -> Option<Range<usize>> {
        let Cells::Read(_, start) = self.cells else { return None };
        let span = self.grid.cell(start, column);
        // Quotes around a cell are not in its span, unless one of them is missing.
        let open = self.grid.text[span.clone()].starts_with('"') && !text.starts_with('"');
        let quote = if open { span.start } else { span.start.saturating_sub(1) };
        (open || text.contains(['\n', '\r'])).then(|| quote..quote + 1)
    }

    /// Where a cell stands; the first when there is none.
    pub(super) fn span(&self, column: usize) -> Range<usize> {
        match self.cells {
            Cells::Bare(cells) => bare_at(self.grid.text, cells.get(column).unwrap_or(&cells[0])).1,
            Cells::Read(_, start) => self.grid.cell(start, column),
        }
    }
}

/// What stands there without the blanks around it, of which there are mostly none, and where.
fn bare_at<'t>(text: &'t str, cell: &Range<usize>) -> (&'t str, Range<usize>) {
    let whole = &text[cell.clone()];
    let inner = bare(whole);
    if inner.len() == whole.len() {
        return (whole, cell.clone());
    }
    let start = cell.start + whole.len() - whole.trim_start().len();
    (inner, start..start + inner.len())
}

impl Grid<'_> {
    /// Calls `see` for each line of a part of the table that holds something, until it has seen enough, and says where the
    /// next one begins.
    pub(super) fn each_line(&self, part: Range<usize>, see: impl FnMut(Line<'_, '_>) -> bool) -> usize {
        let text = &self.text[part.clone()];
        if count(text, b'"') == 0 { self.each_plain_line(part, see) } else { self.each_quoted_line(part, see) }
    }

    fn each_plain_line(&self, part: Range<usize>, mut see: impl FnMut(Line<'_, '_>) -> bool) -> usize {
        let mut cells: Vec<Range<usize>> = Vec::new();
        let (mut at, separator) = (part.start, self.separator as u8);
        let octets = &self.text.as_bytes()[..part.end];
        while at < octets.len() {
            cells.clear();
            let (start, mut begin) = (at, at);
            while let Some(octet) = octets.get(at).filter(|octet| **octet != b'\n') {
                if *octet == separator {
                    cells.push(begin..at);
                    begin = at + 1;
                }
                at += 1;
            }
            let end = if at > begin && octets[at - 1] == b'\r' { at - 1 } else { at };
            cells.push(begin..end);
            at += 1;
            if octets[start] == b'#' || self.is_blank(&cells) {
                continue;
            }
            if !see(Line { grid: self, cells: Cells::Bare(&cells) }) {
                break;
            }
        }
        at.min(part.end)
    }

    fn is_blank(&self, cells: &[Range<usize>]) -> bool {
        cells.iter().all(|cell| bare(&self.text[cell.clone()]).is_empty())
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
