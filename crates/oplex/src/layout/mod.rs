//! The layout language: what the octets of a payload are.
//!
//! A [`Layout`] is parsed from one line of text and then does everything a payload needs: [`Layout::read`] turns what
//! is written into a [`Value`], [`Layout::encode`] turns a value into octets, [`Layout::walk`] goes through octets
//! and reports to a [`Visitor`] what it meets, [`Layout::decode`] makes a value of them and [`Layout::faults`] says what is
//! wrong.
//!
//! # Single things
//!
//! | layout | what it is | octets |
//! |---|---|---|
//! | `u8` `u16` `u24` `u32` `u64`, `i8` `i16` `i32` | a number, most significant octet first | 1 to 8 |
//! | `bool` | `true` or `false` | 1 |
//! | `seconds` | a duration; `infinite` is all ones | 4 |
//! | `ipv4`, `ipv6` | an address of a host; `as network`, `as group` or `as any` says what else it may be | 4, 16 |
//! | `netmask` | a subnet mask | 4 |
//! | `route4` | a destination and a router (RFC 3442) | 5 to 9 |
//! | `prefix6` | a prefix, with as many octets as its length needs | 1 to 17 |
//! | `mac`, `duid`, `uuid`, `guid` | identifiers | 6, 3 to 130, 16, 16 |
//! | `name`, `partial-name` | a DNS name; without its root label where it is partial | any |
//! | `compressed-names`, `lenient-names` | lists of names, with pointers (RFC 3397), and read with them (RFC 3361) | any |
//! | `text`, `utf8`, `uri`, `dotted-name` | text to the end, or of as many octets as `{1..64}` behind it says | any |
//! | `bytes` | octets without a form of their own | any |
//! | `empty` | nothing: that the option is there is all that it says | 0 |
//!
//! A number may be bounded (`u16 in 68..`), named (`u8 of message-type`), made of bits (`u8 flags { s = 1 }`), be the code of an
//! option (`u8 code v4`), or count something (`u16 unit centiseconds`).
//!
//! # What they make
//!
//! | layout | what it is |
//! |---|---|
//! | `X+`, `X*`, `X{2}`, `X{1..3}` | one or more, any number, two, one to three |
//! | `X?` | there when octets remain |
//! | `{ port: u16, path: text }` | a record: one thing after the other |
//! | `len8(X)`, `len16(X)` | the length in front, in one octet or two |
//! | `padded8(X)`, `zeros{2}` | filled up to a multiple of eight octets, and octets that must be zero |
//! | `bits { a: 6, b: 2 }` | whole octets, divided |
//! | `options(NAME)` | options of a chapter of the [codebook](crate::codebook) |
//! | `by FIELD { 0 => X, else => Y }` | a choice by a number that stands before it |
//! | `pairs("," "=") { KEY!: ipv4 }` | `KEY=value` texts |
//!
//! A layout under which some octets could be read in two ways is refused when it is parsed, with the place in its text
//! ([`LayoutError`]). Reading costs a time that grows as the octets do, whatever the layout; options inside options, and layouts
//! inside layouts, have a depth that cannot be passed.
//!
//! # Values
//!
//! A [`Value`] is what octets mean: a number, an address, a list, a record. It is written as people write it ([`Input`], which has
//! where each part stands, so that a mistake is shown there), as JSON and TOML, or comes from and goes to Rust types by
//! [`FromScalar`] and, with the feature `serde`, by `serde`. The same octets have one value, and every value that was read comes
//! back as the same octets, bits without a name included.
//!
//! # Mistakes
//!
//! What is wrong with octets is a list of [`Fault`]s, each with the octets it is about; reading goes on behind them where the
//! layout allows that. What is wrong with a value is a list of [`ValueErrors`], each with the characters it is about and, where one
//! is known, what to write instead. Neither stops at the first.
//!
//! # Example
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
use core::fmt;
use core::ops::Range;

mod atoms;
mod form;
mod nesting;
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
pub use nesting::{ChapterRef, DefinitionRef, Nesting, NoCodebook, Vocabulary};
pub use node::{BitField, Choice, Field, Nested, Node, PairKey, Pairs, Prefix, Selector, Slots};
pub use path::PathStep;
pub use read::{LeafSource, Reading};
pub use scalar::{NameRef, Prefix6, Route4, Scalar};
pub use typed::{FromScalar, TypedError};
pub use value::duration::duration_text;
pub use value::{SubOption, Value};
pub use value_builder::{Decoded, NestedOption};
#[cfg(feature = "std")]
pub(crate) use value_builder::{Finder, NestedOptions};
#[cfg(feature = "std")]
pub(crate) use walk::PlainVisitor;
pub use walk::{Framing, ScalarForm, Shape, Visitor};

/// What the octets of a payload are.
#[derive(Debug, Clone, PartialEq)]
pub struct Layout {
    root: Node,
    /// What it comes to where nothing is wrong.
    steps: walk::plain::Steps,
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
    /// ```
    /// use oplex::layout::Layout;
    ///
    /// assert!(Layout::parse("{ priority: u8, servers: ipv4+ }").is_ok());
    /// let error = Layout::parse("{ servers: ipv4+, priority: u8 }").expect_err("where the servers end is not said");
    /// assert!(error.ambiguous);
    /// let error = Layout::parse("ipv5").expect_err("there is no such thing");
    /// assert_eq!(error.span, 0..4);
    /// ```
    ///
    /// # Errors
    /// The first thing in the text that is not the language, or a layout under which some payload could be read in
    /// two ways.
    pub fn parse(text: &str) -> Result<Self, LayoutError> {
        Self::parse_with(text, &NoCodebook)
    }

    /// Parses a layout whose names the vocabulary knows.
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    /// use oplex::layout::Layout;
    ///
    /// // The names of message types are the standard book's.
    /// let layout = Layout::parse_with("u8 of message-type", Codebook::standard())?;
    /// let (value, faults) = layout.decode(Codebook::standard(), &[5]);
    /// assert_eq!((value.map(|value| value.to_string()).as_deref(), faults.len()), (Some("DHCPACK"), 0));
    /// assert!(Layout::parse("u8 of message-type").is_err(), "without a vocabulary there are no names");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// As [`Layout::parse`], and names that the vocabulary does not know.
    pub fn parse_with(text: &str, vocabulary: &dyn Vocabulary) -> Result<Self, LayoutError> {
        let root = parse::parse(text, vocabulary)?;
        match validate::ambiguity(&root) {
            Some(message) => Err(LayoutError { span: 0..text.len(), message, ambiguous: true }),
            None => Ok(Self { steps: walk::plain::steps(&root), root }),
        }
    }

    /// Whether options may stand in a payload.
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    ///
    /// let codebook = Codebook::standard();
    /// let holds = |id| codebook.find(id).map(|option| codebook.layout(option).holds_options());
    /// // An identity association holds addresses, a list of addresses nothing but these.
    /// assert_eq!((holds("v6:3")?, holds("v6:23")?), (true, false));
    /// # Ok::<(), oplex::codebook::Unknown>(())
    /// ```
    #[must_use]
    pub fn holds_options(&self) -> bool {
        self.has(&|node| matches!(node, Node::Options(_)))
    }

    /// Whether this is true of a node of the tree.
    ///
    /// ```
    /// use oplex::layout::{Atom, Layout, Node};
    ///
    /// let has_seconds = |layout: &Layout| layout.has(&|node| matches!(node, Node::Atom(Atom::Seconds(_))));
    /// assert!(has_seconds(&"{ iaid: u32, t1: seconds }".parse()?));
    /// assert!(!has_seconds(&"ipv4+".parse()?));
    /// # Ok::<(), oplex::layout::LayoutError>(())
    /// ```
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
    ///
    /// ```
    /// use oplex::layout::Layout;
    ///
    /// assert_eq!(Layout::parse("ipv4+")?.lengths(), (4, None));
    /// assert_eq!(Layout::parse("{ priority: u8, path: text{1..16} }")?.lengths(), (2, Some(17)));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn lengths(&self) -> (usize, Option<usize>) {
        validate::lengths(&self.root)
    }

    /// Walks octets and reports to `visitor` what they are, in their order. Allocates nothing.
    ///
    /// ```
    /// use oplex::layout::{Fault, Layout, NoCodebook, Scalar, ScalarForm, Visitor};
    /// use std::ops::Range;
    ///
    /// /// Counts what it meets.
    /// #[derive(Default)]
    /// struct Count { things: usize, faults: usize }
    ///
    /// impl<'l, 'o> Visitor<'l, 'o> for Count {
    ///     fn scalar(&mut self, _: ScalarForm<'l>, _: Scalar<'o>, _: Range<usize>) {
    ///         self.things += 1;
    ///     }
    ///     fn fault(&mut self, _: Fault) {
    ///         self.faults += 1;
    ///     }
    /// }
    ///
    /// let mut count = Count::default();
    /// Layout::parse("ipv4+")?.walk(&NoCodebook, &[10, 64, 0, 53, 10, 64, 0, 54, 10], &mut count);
    /// assert_eq!((count.things, count.faults), (2, 1));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[inline]
    pub fn walk<'l, 'o, N: Nesting + ?Sized, V: Visitor<'l, 'o>>(
        &'l self,
        nesting: &'l N,
        octets: &'o [u8],
        visitor: &mut V,
    ) {
        walk::walk(self, nesting, octets, visitor);
    }

    /// Whether nothing is wrong with these octets, and [`Layout::faults`] are none.
    ///
    /// It is the quickest thing to ask, as most octets are right and need no list of faults.
    ///
    /// ```
    /// use oplex::layout::{Layout, NoCodebook};
    ///
    /// let layout = Layout::parse("{ port: u16, path: text? }")?;
    /// assert!(layout.fits(&NoCodebook, &[0, 69, 0x61]));
    /// assert!(!layout.fits(&NoCodebook, &[0, 69, 0x0a]), "text has no control characters");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn fits(&self, nesting: &(impl Nesting + ?Sized), octets: &[u8]) -> bool {
        value_builder::fits(self, nesting, octets)
    }

    /// Whether octets are plainly right, of which `visitor` is sent what rules look at; `false` says nothing of them.
    #[cfg(feature = "std")]
    #[inline]
    pub(crate) fn is_plain<'l, 'o, N: Nesting + ?Sized, V: PlainVisitor<'l, 'o>>(
        &'l self,
        nesting: &'l N,
        octets: &'o [u8],
        visitor: &mut V,
    ) -> bool {
        walk::plain::is_plain(self, nesting, octets, visitor)
    }

    /// What is wrong with these octets.
    ///
    /// ```
    /// use oplex::layout::{Layout, NoCodebook};
    ///
    /// let layout = Layout::parse("u8 in 1..=3")?;
    /// assert!(layout.faults(&NoCodebook, &[2]).is_empty());
    /// let wrong = layout.faults(&NoCodebook, &[4, 0]);
    /// assert_eq!(wrong.iter().map(|fault| fault.octets.clone()).collect::<Vec<_>>(), [0..1, 1..2]);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn faults(&self, nesting: &dyn Nesting, octets: &[u8]) -> Vec<Fault> {
        value_builder::faults(self, nesting, octets)
    }

    /// What these octets mean, as far as they could be read, and what is wrong with them.
    ///
    /// ```
    /// use oplex::layout::{Layout, NoCodebook};
    ///
    /// let layout = Layout::parse("{ port: u16, path: text? }")?;
    /// let (value, faults) = layout.decode(&NoCodebook, &[0, 69, 0x61]);
    /// assert_eq!(value.map(|value| value.to_string()).as_deref(), Some("{ port = 69, path = a }"));
    /// assert!(faults.is_empty());
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn decode(&self, nesting: &dyn Nesting, octets: &[u8]) -> (Option<Value>, Vec<Fault>) {
        value_builder::decode(self, nesting, octets)
    }

    /// The octets as a list of one Rust type, such as `Vec<Ipv4Addr>`, with everything about them checked.
    ///
    /// ```
    /// use oplex::layout::{Layout, NoCodebook};
    /// use std::net::Ipv4Addr;
    ///
    /// let servers: Vec<Ipv4Addr> = Layout::parse("ipv4+")?.list(&NoCodebook, &[10, 64, 0, 53])?;
    /// assert_eq!(servers, [Ipv4Addr::new(10, 64, 0, 53)]);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
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
    /// ```
    /// use oplex::layout::{Layout, NoCodebook};
    ///
    /// let layout = Layout::parse("u16 in 68..")?;
    /// assert_eq!(layout.one::<u16>(&NoCodebook, &[5, 220])?, 1500);
    /// assert!(layout.one::<u16>(&NoCodebook, &[0, 67]).is_err(), "no interface has so small an MTU");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
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
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    ///
    /// let codebook = Codebook::standard();
    /// // Where a DHCPv4 client is: port 7 of a switch, and a text that is longer than the octets that follow.
    /// let decoded = codebook.layout(codebook.find("v4:82")?).decoded(codebook, b"\x01\x05port7\x02\x09dome");
    /// let options: Vec<_> = decoded.options.iter().map(|option| (option.code, option.payload.clone())).collect();
    /// assert_eq!(options, [(1, 2..7), (2, 9..13)]);
    /// assert_eq!(decoded.faults[0].octets, 8..9);
    /// # Ok::<(), oplex::codebook::Unknown>(())
    /// ```
    #[must_use]
    pub fn decoded(&self, nesting: &dyn Nesting, octets: &[u8]) -> Decoded {
        value_builder::decoded(self, nesting, octets, &mut value_builder::Nothing)
    }

    /// The same, and what every octet is.
    ///
    /// ```
    /// use oplex::layout::{Layout, NoCodebook};
    ///
    /// let layout: Layout = "{ priority: u8, server: ipv4 }".parse()?;
    /// let explained = layout.explained(&NoCodebook, &[10, 10, 64, 0, 53]);
    /// let rows: Vec<_> = explained.rows.iter().map(|row| (row.octets.clone(), row.label.as_str())).collect();
    /// assert_eq!(rows, [(0..1, "priority"), (1..5, "server")]);
    /// # Ok::<(), oplex::layout::LayoutError>(())
    /// ```
    #[must_use]
    pub fn explained(&self, nesting: &dyn Nesting, octets: &[u8]) -> Decoded {
        value_builder::explained(self, nesting, octets)
    }
}
