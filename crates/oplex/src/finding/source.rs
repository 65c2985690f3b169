//! The texts that findings point into.

use crate::once::Once;
use crate::prelude::*;
use core::ops::Range;

/// One of the texts of [`Sources`].
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct FileId(pub(crate) u32);

/// A text and the name people know it by.
#[derive(Debug, Clone)]
pub struct Source {
    /// The file's name as it was given.
    pub name: String,
    /// Its text.
    pub text: String,
    /// Where its lines begin; found on first use, as most texts are never pointed into.
    lines: Once<Vec<usize>>,
}

/// The texts that findings point into.
#[derive(Debug, Clone, Default)]
pub struct Sources {
    files: Vec<Source>,
}

/// Some characters of one of the texts.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
pub struct Spot {
    /// Which text.
    pub file: FileId,
    /// Which characters, in bytes from its start.
    pub span: Range<usize>,
}

/// A spot as people count: lines and columns from 1, columns in characters.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Location {
    /// The file's name.
    pub file: String,
    /// The line it begins on.
    pub line: usize,
    /// The column it begins at.
    pub column: usize,
    /// The line it ends on.
    pub end_line: usize,
    /// The column after its last character.
    pub end_column: usize,
}

impl Spot {
    /// Where what was read back from a release stands: it points into no text.
    pub(crate) const NOWHERE: Self = Self { file: FileId(u32::MAX), span: 0..0 };

    /// This spot, unless it points into no text.
    pub(crate) fn somewhere(&self) -> Option<&Self> {
        Some(self).filter(|spot| **spot != Self::NOWHERE)
    }
}

impl Sources {
    /// Adds a text.
    pub fn add(&mut self, name: impl Into<String>, text: impl Into<String>) -> FileId {
        let id = FileId(u32::try_from(self.files.len()).unwrap_or(u32::MAX));
        self.files.push(Source { name: name.into(), text: text.into(), lines: Once::new() });
        id
    }

    /// One of the texts.
    #[must_use]
    pub fn get(&self, file: FileId) -> &Source {
        &self.files[file.0 as usize]
    }

    /// The line and column of a spot.
    #[must_use]
    pub fn location(&self, spot: &Spot) -> Location {
        let source = self.get(spot.file);
        let (line, column) = source.line_and_column(spot.span.start);
        let (end_line, end_column) = source.line_and_column(spot.span.end);
        Location { file: source.name.clone(), line, column, end_line, end_column }
    }
}

impl Source {
    fn line_and_column(&self, at: usize) -> (usize, usize) {
        let at = at.min(self.text.len());
        let begin = || core::iter::once(0).chain(self.text.match_indices('\n').map(|(at, _)| at + 1)).collect();
        let lines: &Vec<usize> = self.lines.get_or_init(begin);
        let line = lines.partition_point(|start| *start <= at);
        let before = &self.text.as_bytes()[lines[line - 1]..at];
        // A byte order mark is no column, and continuation octets of UTF-8 are not characters of their own.
        let bom = usize::from(line == 1 && before.starts_with(b"\xef\xbb\xbf"));
        let characters = before.iter().filter(|octet| **octet & 0xc0 != 0x80).count();
        (line, characters - bom + 1)
    }
}
