//! The events of a walk.

use core::ops::Range;

use crate::layout::fault::Fault;
use crate::layout::form::atom::Atom;
use crate::layout::node::BitField;
use crate::layout::scalar::Scalar;

/// A part with parts in it.
#[derive(Debug, Clone, Copy, PartialEq)]
#[non_exhaustive]
pub enum Shape<'l> {
    /// Named parts.
    Record,
    /// Parts without names.
    List,
    /// Options with code and length.
    Options,
    /// One option among them.
    Option {
        /// Its code.
        code: u16,
        /// Its name, when the codebook knows it.
        name: Option<&'l str>,
        /// The chapter of codes that it is of, as the codebook counts them.
        chapter: Option<usize>,
    },
    /// `KEY=value` text.
    Pairs,
    /// Fields narrower than octets.
    Bits,
}

/// What a single thing is: a whole atom, or a field of some bits.
#[derive(Debug, Clone, Copy, PartialEq)]
#[non_exhaustive]
pub enum ScalarForm<'l> {
    /// An atom of the layout.
    Atom(&'l Atom),
    /// A field of some bits.
    Bits(&'l BitField),
    /// Octets of an option that the codebook does not know.
    Unknown,
}

/// Octets that hold no value of their own.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[non_exhaustive]
pub enum Framing {
    /// A length in front, and what it says.
    Length(usize),
    /// The code of a nested option.
    Code(u16),
    /// Pad octets between nested options, or behind a part.
    Pad,
    /// Octets that must be zero.
    Reserved,
    /// The end of nested options.
    End,
    /// Octets after that end.
    AfterEnd,
    /// A sign between keys and values.
    Sign,
}

/// Receives the events of a walk, in the order of the octets.
///
/// What has parts begins and ends, also where reading stops in it; a field's name comes before what stands there. For
/// `{ port: u16, servers: ipv4+ }` and two servers the events are:
///
/// | event | of |
/// |---|---|
/// | `begin` | [`Shape::Record`] |
/// | `field` | `port` |
/// | `scalar` | the number, with its two octets |
/// | `field` | `servers` |
/// | `begin` | [`Shape::List`] |
/// | `scalar`, `scalar` | the addresses, each with its four octets |
/// | `end`, `end` | the list, the record |
///
/// A nested option begins as [`Shape::Option`], and its code and length are [`Framing`]. A fault comes where it is met, and
/// the walk goes on behind it where the layout allows that. All methods but two have a body that does nothing.
pub trait Visitor<'l, 'o> {
    /// A part with parts in it begins.
    fn begin(&mut self, _shape: Shape<'l>, _at: usize) {}
    /// That part ends.
    fn end(&mut self, _at: usize) {}
    /// The next part has this name.
    fn field(&mut self, _name: &'l str) {}
    /// The next part is this key's, whose name stands in the octets.
    fn key(&mut self, _name: &'o str, _octets: Range<usize>) {}
    /// A single thing.
    fn scalar(&mut self, form: ScalarForm<'l>, scalar: Scalar<'o>, octets: Range<usize>);
    /// Octets that hold no value of their own.
    fn frame(&mut self, _frame: Framing, _octets: Range<usize>) {}
    /// Something is wrong.
    fn fault(&mut self, fault: Fault);
}
