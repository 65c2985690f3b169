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
    /// Its text. Lines that end in a carriage return alone, as they did long ago, end in a newline here.
    pub text: String,
    /// Found on first use, as most texts are never pointed into.
    measured: Once<Measured>,
}

/// What places are counted from.
#[derive(Debug, Clone)]
struct Measured {
    /// Where the lines begin.
    lines: Vec<usize>,
    /// How many characters are before each piece of [`PIECE`] octets: a line may be as long as its text.
    characters: Vec<usize>,
}

const PIECE: usize = 4096;

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
    /// Adds a text. Places in what was given are the same in what is kept.
    ///
    /// ```
    /// use oplex::finding::{Sources, Spot};
    ///
    /// let mut sources = Sources::default();
    /// let file = sources.add("plan.toml", "title = \"Tarn Fell\"\nlease = \"8x\"\n");
    /// let place = sources.location(&Spot { file, span: 28..32 });
    /// assert_eq!((&*place.file, place.line, place.column), ("plan.toml", 2, 9));
    /// assert_eq!(sources.all().map(|source| source.name.as_str()).collect::<Vec<_>>(), ["plan.toml"]);
    /// ```
    pub fn add(&mut self, name: impl Into<String>, text: impl Into<String>) -> FileId {
        let id = FileId(u32::try_from(self.files.len()).unwrap_or(u32::MAX));
        self.files.push(Source { name: name.into(), text: with_newlines(text.into()), measured: Once::new() });
        id
    }

    /// One of the texts.
    #[must_use]
    pub fn get(&self, file: FileId) -> &Source {
        &self.files[file.0 as usize]
    }

    /// All of them, in the order in which they were read.
    pub fn all(&self) -> impl Iterator<Item = &Source> {
        self.files.iter()
    }

    /// The line and column of a spot.
    ///
    /// ```
    /// use oplex::finding::{Sources, Spot};
    ///
    /// let mut sources = Sources::default();
    /// let file = sources.add("plan.toml", "[network.desk]\nsubnet = \"10.64.4.0/24\"\n");
    /// let location = sources.location(&Spot { file, span: 24..38 });
    /// assert_eq!((location.line, location.column), (2, 10));
    /// ```
    #[must_use]
    pub fn location(&self, spot: &Spot) -> Location {
        let source = self.get(spot.file);
        let (line, column) = source.line_and_column(spot.span.start);
        let (end_line, end_column) = source.line_and_column(spot.span.end);
        Location { file: source.name.clone(), line, column, end_line, end_column }
    }
}

impl Source {
    /// The whole lines around an octet: its own, and up to `near` before it and after it.
    #[must_use]
    pub fn lines_around(&self, at: usize, near: usize) -> Range<usize> {
        let lines = &self.measured().lines;
        let line = self.line(at) - 1;
        let end = lines.get(line + near + 1).copied().unwrap_or(self.text.len());
        lines[line.saturating_sub(near)]..end
    }

    fn line_and_column(&self, at: usize) -> (usize, usize) {
        let at = at.min(self.text.len());
        let line = self.line(at);
        let start = self.measured().lines[line - 1];
        // A byte order mark is no column.
        let bom = usize::from(line == 1 && at > 0 && self.text.starts_with('\u{feff}'));
        (line, self.characters_before(at) - self.characters_before(start) - bom + 1)
    }

    /// The line an octet stands on, from 1.
    fn line(&self, at: usize) -> usize {
        self.measured().lines.partition_point(|start| *start <= at)
    }

    fn characters_before(&self, at: usize) -> usize {
        let piece = at / PIECE;
        self.measured().characters[piece] + characters(&self.text.as_bytes()[piece * PIECE..at])
    }

    fn measured(&self) -> &Measured {
        self.measured.get_or_init(|| {
            let octets = self.text.as_bytes();
            let ends = self.text.match_indices('\n').map(|(at, _)| at + 1);
            let lines = core::iter::once(0).chain(ends).collect();
            let mut before = 0;
            let pieces = octets.chunks(PIECE).map(|piece| {
                before += characters(piece);
                before
            });
            Measured { lines, characters: core::iter::once(0).chain(pieces).collect() }
        })
    }
}

/// How many characters begin in there: the octets of UTF-8 that go on with one are none of their own.
fn characters(octets: &[u8]) -> usize {
    octets.iter().filter(|octet| **octet & 0xc0 != 0x80).count()
}

/// The text with a newline for each carriage return that has none behind it.
fn with_newlines(text: String) -> String {
    let lone = |octets: &[u8], at: usize| octets[at] == b'\r' && octets.get(at + 1) != Some(&b'\n');
    if !text.match_indices('\r').any(|(at, _)| lone(text.as_bytes(), at)) {
        return text;
    }
    let mut octets = text.into_bytes();
    for at in 0..octets.len() {
        if lone(&octets, at) {
            octets[at] = b'\n';
        }
    }
    String::from_utf8(octets).unwrap_or_default()
}
