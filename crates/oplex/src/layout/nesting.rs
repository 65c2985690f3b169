//! What layouts ask of a codebook: names, and the options behind codes.

use crate::prelude::*;
use alloc::sync::Arc;

use super::{Enumeration, Layout, Nested};

/// The names that layouts may use: enumerations, sets of flags, chapters of options.
pub trait Vocabulary {
    /// The enumeration of this name.
    fn enumeration(&self, name: &str) -> Option<Arc<Enumeration>>;
    /// The set of flags of this name.
    fn flags(&self, name: &str) -> Option<Arc<Enumeration>>;
    /// Where the chapter of this name is, and how many octets the code and length of an option take in it.
    fn chapter_header(&self, name: &str) -> Option<(usize, usize)>;
    /// All names of enumerations and sets of flags, for suggestions.
    fn names(&self) -> Vec<&str>;
    /// All names of chapters, for suggestions.
    fn chapters(&self) -> Vec<&str>;
}

/// How options stand in a chapter, and which chapter it is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct ChapterRef {
    /// Which chapter, as the codebook counts them; `None` is one it does not know.
    pub index: Option<usize>,
    /// Octets of a code: 1 or 2.
    pub code_octets: usize,
    /// Octets of a length: 1 or 2.
    pub length_octets: usize,
    /// Whether 0 is pad and 255 the end, both without a length.
    pub pad_and_end: bool,
}

/// An option found in a chapter.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct DefinitionRef<'l> {
    /// Its name.
    pub name: &'l str,
    /// The layout of its payload.
    pub layout: &'l Layout,
}

/// The definitions behind nested options.
pub trait Nesting {
    /// The chapter of this name, or the one that `chosen` (an enterprise number) picks.
    fn chapter(&self, nested: &Nested, chosen: Option<u64>) -> ChapterRef;
    /// The option of this code.
    fn definition(&self, chapter: ChapterRef, code: u16) -> Option<DefinitionRef<'_>>;
    /// The code of the option of this name.
    fn code(&self, chapter: ChapterRef, name: &str) -> Option<u16>;
    /// The names of all options in the chapter, for suggestions.
    fn names(&self, chapter: ChapterRef) -> Vec<&str>;
}

/// No names and no definitions: for layouts that need none.
#[derive(Debug, Clone, Copy, Default)]
pub struct NoCodebook;

impl Vocabulary for NoCodebook {
    fn enumeration(&self, _: &str) -> Option<Arc<Enumeration>> {
        None
    }
    fn flags(&self, _: &str) -> Option<Arc<Enumeration>> {
        None
    }
    fn chapter_header(&self, _: &str) -> Option<(usize, usize)> {
        None
    }
    fn names(&self) -> Vec<&str> {
        Vec::new()
    }
    fn chapters(&self) -> Vec<&str> {
        Vec::new()
    }
}

impl Nesting for NoCodebook {
    fn chapter(&self, _: &Nested, _: Option<u64>) -> ChapterRef {
        ChapterRef { index: None, code_octets: 1, length_octets: 1, pad_and_end: false }
    }
    fn definition(&self, _: ChapterRef, _: u16) -> Option<DefinitionRef<'_>> {
        None
    }
    fn code(&self, _: ChapterRef, _: &str) -> Option<u16> {
        None
    }
    fn names(&self, _: ChapterRef) -> Vec<&str> {
        Vec::new()
    }
}
