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
    pub(super) record: &'g csv::ByteRecord,
    /// Where it begins.
    start: usize,
    /// Whether its cells stand in the text as they are read, with one separator between them.
    plain: bool,
}

impl<'g, 't> Line<'g, 't> {
    pub(super) fn new(grid: &'g Grid<'t>, record: &'g csv::ByteRecord, start: usize, end: usize) -> Self {
        // Quotes would make the line longer than its cells, and something of the last cell would be left over.
        let cells = record.as_slice().len() + record.len() - 1;
        let left = grid.text.as_bytes().get(start + cells..end);
        let ends = left.is_some_and(|left| left.iter().all(|octet| matches!(octet, b'\r' | b'\n')));
        // After a quote that nothing closes, a line end is part of a cell.
        let plain = ends && !record.as_slice().contains(&b'\n');
        Self { grid, record, start, plain }
    }

    /// What a cell of a plain line holds, without blanks around it, and where.
    fn plain(&self, column: usize) -> Option<(&'g str, Range<usize>)> {
        let range = self.record.range(column).filter(|_| self.plain)?;
        let start = self.start + range.start + column;
        let text = self.grid.text.get(start..start + range.len())?;
        let bare = bare(text);
        if bare.len() == text.len() {
            return Some((text, start..start + text.len()));
        }
        let start = start + text.len() - text.trim_start().len();
        Some((bare, start..start + bare.len()))
    }

    /// What a cell holds, without blanks around it, and where.
    pub(super) fn cell(&self, column: usize) -> (Cow<'g, str>, Spot) {
        let file = self.grid.file;
        if let Some((text, span)) = self.plain(column) {
            return (Cow::Borrowed(text), Spot { file, span });
        }
        let text = match String::from_utf8_lossy(&self.record[column]) {
            Cow::Borrowed(text) => Cow::Borrowed(text.trim()),
            Cow::Owned(text) => Cow::Owned(text.trim().to_owned()),
        };
        (text, self.spot(column))
    }

    /// Where a cell stands that may not be there.
    pub(super) fn spot(&self, column: usize) -> Spot {
        match self.plain(column) {
            Some((_, span)) => Spot { file: self.grid.file, span },
            None => self.grid.cell(self.start, column),
        }
    }
}
