//! Places in a text as editors count them: lines from 0, and in a line the units of UTF-16.

use std::ops::Range;

use lsp_types::{Position, Range as Between};

/// Where the lines of a text begin.
#[derive(Debug, Clone)]
pub(super) struct Lines {
    starts: Vec<usize>,
    /// How many units are before each piece of [`PIECE`] octets: a line may be as long as its text.
    units: Vec<usize>,
}

const PIECE: usize = 4096;

/// How many units octets have: one for each character, two for those outside the first plane, which begin with 0xf0 or more.
fn units(octets: &[u8]) -> usize {
    octets.iter().map(|octet| usize::from(octet & 0xc0 != 0x80) + usize::from(*octet >= 0xf0)).sum()
}

impl Lines {
    pub(super) fn of(text: &str) -> Self {
        // A carriage return alone ends a line, too, as the protocol has it.
        let octets = text.as_bytes();
        let ends = octets.iter().enumerate().filter(|(at, octet)| match octet {
            b'\n' => true,
            b'\r' => octets.get(at + 1) != Some(&b'\n'),
            _ => false,
        });
        let starts = std::iter::once(0).chain(ends.map(|(at, _)| at + 1)).collect();
        let pieces = octets.chunks(PIECE).scan(0, |before, piece| {
            *before += units(piece);
            Some(*before)
        });
        Self { starts, units: std::iter::once(0).chain(pieces).collect() }
    }

    fn units_before(&self, text: &str, octet: usize) -> usize {
        let piece = octet / PIECE;
        self.units[piece] + units(&text.as_bytes()[piece * PIECE..octet])
    }

    pub(super) fn position(&self, text: &str, octet: usize) -> Position {
        let octet = octet.min(text.len());
        let line = self.starts.partition_point(|start| *start <= octet).saturating_sub(1);
        let units = self.units_before(text, octet) - self.units_before(text, self.starts[line]);
        Position::new(u32::try_from(line).unwrap_or(u32::MAX), u32::try_from(units).unwrap_or(u32::MAX))
    }

    pub(super) fn between(&self, text: &str, span: &Range<usize>) -> Between {
        Between::new(self.position(text, span.start), self.position(text, span.end))
    }

    /// The octet of a position; one behind the end of a line is its end.
    pub(super) fn octet(&self, text: &str, position: Position) -> usize {
        let line = position.line as usize;
        let Some(start) = self.starts.get(line).copied() else { return text.len() };
        let end = self.starts.get(line + 1).copied().unwrap_or(text.len());
        let own = text.get(start..end).unwrap_or_default().trim_end_matches(['\n', '\r']);
        let mut units = position.character as usize;
        for (at, c) in own.char_indices() {
            if units < c.len_utf16() {
                return start + at;
            }
            units -= c.len_utf16();
        }
        start + own.len()
    }
}
