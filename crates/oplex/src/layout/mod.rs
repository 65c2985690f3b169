//! The layout language: what the octets of a payload are.
//!
//! A [`Layout`] is parsed from one line of text and then does everything a payload needs: [`Layout::read`] turns what
//! is written into a [`Value`], [`Layout::encode`] turns a value into octets, [`Layout::walk`] goes through octets
//! and reports to a [`Visitor`] what it meets, [`Layout::decode`] makes a value of them and [`Layout::faults`] says what is
//! wrong.
//!
//! ```
//! use oplex::layout::{Layout, NoCodebook, Input};
//!
//! let layout = Layout::parse("{ priority: u8, servers: ipv4+ }")?;
//! let written = Input::from_text("{ priority = 10, servers = [10.64.0.53, 10.64.0.54] }");
//! let value = layout.read(&NoCodebook, &written)?.value;
//! let octets = layout.encode(&NoCodebook, &value)?.octets;
//! assert_eq!(octets, [10, 10, 64, 0, 53, 10, 64, 0, 54]);
//! assert_eq!(layout.decode(&NoCodebook, &octets), (Some(value), vec![]));
//!
//! let short = layout.faults(&NoCodebook, &octets[..7]);
//! assert_eq!(short[0].octets, 5..7);
//! assert_eq!(short[0].kind.to_string(), "4 octets expected for an IPv4 address, 2 left");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use crate::prelude::*;
use alloc::sync::Arc;
use core::fmt;
use core::ops::Range;

mod atoms;
mod form;
mod text;
mod value;
mod walk;

// Every part knows the others by their own names.
use form::{node, validate};
use text::{lex, parse};
use value::{edits, encode, input, name, path, read, read_atoms};
use walk::{explain, fault, scalar, typed, value_builder};

pub use atoms::duration;
pub use edits::{Edit, EditsText};
pub(crate) use encode::encode_part;
pub use encode::{EncodeError, Encoded};
pub use explain::ExplainedRow;
pub use fault::{Fault, FaultKind, NameFlaw, Topic};
pub use form::atom::{Atom, Bound, Count, Enumeration, Head, Meaning, Names, Number, Role, Run};
pub use form::unit::Unit;
pub use input::{Input, InputKind, Key, ValueError, ValueErrors};
pub use node::{BitField, Choice, Field, Nested, Node, PairKey, Pairs, Prefix, Selector, Slots};
pub use path::Step;
pub use read::{LeafSource, Reading};
pub use scalar::{NameRef, Prefix6, Route4, Scalar};
pub use typed::{FromScalar, TypedError};
pub use value::duration::duration_text;
pub use value::{SubOption, Value};
pub use value_builder::{Decoded, NestedOption};
pub use walk::{Frame, ScalarForm, Shape, Visitor};

/// What the octets of a payload are.
#[derive(Debug, Clone, PartialEq)]
pub struct Layout {
    root: Node,
}

/// Why a text is not a layout, and where.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct LayoutError {
    /// The characters it is about, in bytes of the text.
    pub span: Range<usize>,
    /// What is wrong, and what to write instead where that can be said.
    pub message: String,
    /// Whether the text is a layout, but one under which some payload could be read in two ways.
    pub ambiguous: bool,
}

impl LayoutError {
    fn new(span: Range<usize>, message: String) -> Self {
        Self { span, message, ambiguous: false }
    }
}

impl fmt::Display for LayoutError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "at character {}: {}", self.span.start + 1, self.message)
    }
}

impl core::error::Error for LayoutError {}

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

/// A layout that uses no names of a codebook.
impl core::str::FromStr for Layout {
    type Err = LayoutError;

    fn from_str(text: &str) -> Result<Self, LayoutError> {
        Self::parse(text)
    }
}

impl Layout {
    /// The words of the language: those for single things, and those in front of parts of parts.
    pub fn words() -> impl Iterator<Item = &'static str> {
        atoms::WORDS.iter().map(|known| known.word).chain(parse::FORMS)
    }

    /// Parses a layout that uses no names.
    ///
    /// # Errors
    /// The first thing in the text that is not the language, or a layout under which some payload could be read in
    /// two ways.
    pub fn parse(text: &str) -> Result<Self, LayoutError> {
        Self::parse_with(text, &NoCodebook)
    }

    /// Parses a layout whose names the vocabulary knows.
    ///
    /// # Errors
    /// As [`Layout::parse`], and names that the vocabulary does not know.
    pub fn parse_with(text: &str, vocabulary: &dyn Vocabulary) -> Result<Self, LayoutError> {
        let root = parse::parse(text, vocabulary)?;
        match validate::ambiguity(&root) {
            Some(message) => Err(LayoutError { span: 0..text.len(), message, ambiguous: true }),
            None => Ok(Self { root }),
        }
    }

    /// Whether options may stand in a payload.
    #[must_use]
    pub fn holds_options(&self) -> bool {
        self.has(&|node| matches!(node, Node::Options(_)))
    }

    /// Whether this is true of a node of the tree.
    #[must_use]
    pub fn has(&self, is: &dyn Fn(&Node) -> bool) -> bool {
        self.root.any(is)
    }

    /// The tree.
    #[must_use]
    pub fn root(&self) -> &Node {
        &self.root
    }

    /// The least and the greatest number of octets of a payload; `None` when the layout itself sets no limit.
    #[must_use]
    pub fn lengths(&self) -> (usize, Option<usize>) {
        validate::lengths(&self.root)
    }

    /// Walks octets and reports to `visitor` what they are, in their order. Allocates nothing.
    #[inline]
    pub fn walk<'l, 'o, N: Nesting + ?Sized, V: Visitor<'l, 'o>>(
        &'l self,
        nesting: &'l N,
        octets: &'o [u8],
        visitor: &mut V,
    ) {
        walk::walk(self, nesting, octets, visitor);
    }

    /// What is wrong with these octets.
    #[must_use]
    pub fn faults(&self, nesting: &dyn Nesting, octets: &[u8]) -> Vec<Fault> {
        value_builder::faults(self, nesting, octets)
    }

    /// What these octets mean, as far as they could be read, and what is wrong with them.
    #[must_use]
    pub fn decode(&self, nesting: &dyn Nesting, octets: &[u8]) -> (Option<Value>, Vec<Fault>) {
        value_builder::decode(self, nesting, octets)
    }

    /// The octets as a list of one Rust type, such as `Vec<Ipv4Addr>`, with everything about them checked.
    ///
    /// # Errors
    /// Octets that do not fit the layout, or a layout that holds something else.
    pub fn list<'o, T: FromScalar<'o>>(
        &self,
        nesting: &(impl Nesting + ?Sized),
        octets: &'o [u8],
    ) -> Result<Vec<T>, TypedError> {
        typed::list(self, nesting, octets)
    }

    /// The octets as one Rust value, such as a `u32` or a `String`, with everything about them checked.
    ///
    /// # Errors
    /// As [`Layout::list`], and more or fewer values than one.
    pub fn one<'o, T: FromScalar<'o>>(
        &self,
        nesting: &(impl Nesting + ?Sized),
        octets: &'o [u8],
    ) -> Result<T, TypedError> {
        typed::one(self, nesting, octets)
    }

    /// Everything about these octets, in one walk: what they mean, what is wrong with them, and the options inside.
    #[must_use]
    pub fn decoded(&self, nesting: &dyn Nesting, octets: &[u8]) -> Decoded {
        value_builder::decoded(self, nesting, octets, &mut value_builder::Nothing)
    }

    /// The same without the value, while another reader sees the walk. Nothing is allocated where nothing is wrong and no
    /// options are inside.
    #[must_use]
    pub fn scanned<'l, 'o, N: Nesting + ?Sized, V: Visitor<'l, 'o>>(
        &'l self,
        nesting: &'l N,
        octets: &'o [u8],
        beside: &mut V,
    ) -> Decoded {
        value_builder::scanned(self, nesting, octets, beside)
    }

    /// The same, and what every octet is.
    #[must_use]
    pub fn explained(&self, nesting: &dyn Nesting, octets: &[u8]) -> Decoded {
        value_builder::explained(self, nesting, octets)
    }

    /// Reads what is written.
    ///
    /// # Errors
    /// Everything that does not fit the layout, each with its place.
    pub fn read(&self, nesting: &dyn Nesting, written: &Input) -> Result<Reading, ValueErrors> {
        read::read(self, nesting, written)
    }

    /// Reads changes of a value's parts: `{ SERVER = "…" }` for keys, `{ VLAN = { remove = true } }`, `{ first = […] }` and
    /// `{ last = […] }` for lists.
    ///
    /// # Errors
    /// Everything that does not fit the layout, each with its place.
    pub fn read_edits(&self, nesting: &dyn Nesting, written: &Input) -> Result<Vec<Edit>, ValueErrors> {
        edits::read(self, nesting, written)
    }

    /// A value with these changes.
    ///
    /// ```
    /// use oplex::layout::{Input, Layout, NoCodebook};
    ///
    /// let layout = Layout::parse("pairs(\",\" \"=\") { SERVER: ipv4, VLAN: u16 }")?;
    /// let text = |text: &str| Input::from_text(text);
    /// let value = layout.read(&NoCodebook, &text("{ SERVER = 10.64.0.70, VLAN = 64 }"))?.value;
    /// let edits = layout.read_edits(&NoCodebook, &text("{ SERVER = 10.64.0.71 }"))?;
    /// let octets = layout.encode(&NoCodebook, &layout.amended(&value, &edits))?.octets;
    /// assert_eq!(octets, b"SERVER=10.64.0.71,VLAN=64");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn amended(&self, value: &Value, edits: &[Edit]) -> Value {
        edits::amended(self, value, edits)
    }

    /// Encodes a value. What the octets can hold is written, even where a rule forbids it: see [`Layout::faults`].
    ///
    /// # Errors
    /// A value that has no octets under this layout.
    pub fn encode(&self, nesting: &dyn Nesting, value: &Value) -> Result<Encoded, EncodeError> {
        encode::encode(self, nesting, value)
    }
}
