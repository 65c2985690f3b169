//! What a layout is once it is parsed: a tree of nodes.

use crate::prelude::*;
use alloc::sync::Arc;

use crate::layout::form::atom::{Atom, Bound, Count, Enumeration};
pub(in crate::layout) use crate::layout::form::selector::SLOTS;
pub use crate::layout::form::selector::{Selector, Slots};
use crate::layout::form::unit::Unit;

/// One part of a layout.
#[derive(Debug, Clone, PartialEq)]
#[non_exhaustive]
pub enum Node {
    /// A single thing: a number, an address, a text.
    Atom(Atom),
    /// Named parts, one after the other: `{ destination: ipv4, router: ipv4 }`.
    Record(Vec<Field>),
    /// The same part several times: `ipv4+`, `ipv4*`, `ipv4{2}`.
    Repeat(Box<Self>, Count),
    /// A part that is there when octets remain: `X?`.
    Optional(Box<Self>),
    /// A part with its length in front: `len8(X)`, `len16(X)`.
    Sized(Prefix, Box<Self>),
    /// A part with zeros behind it, up to a multiple of eight octets: `padded8(X)`. The number is how many octets before
    /// it count, too.
    Padded(usize, Box<Self>),
    /// So many octets that must be zero and hold no value: `zeros{2}`.
    Zeros(usize),
    /// Options with code and length, of the named chapter: `options(relay-agent)`.
    Options(Nested),
    /// One of several parts, chosen by an earlier field: `by encoding { 0 => name+, else => bytes }`.
    Choice(Choice),
    /// `KEY=value` text: `pairs("," "=") { SERVER: ipv4 }`.
    Pairs(Pairs),
    /// Fields narrower than octets, most significant bit first: `bits { reserved: 6, preference: 2 }`.
    Bits(Vec<BitField>),
}

impl Node {
    /// Whether this is true of it, or of a node in it.
    pub(crate) fn any(&self, is: &dyn Fn(&Self) -> bool) -> bool {
        is(self)
            || match self {
                Self::Record(fields) => fields.iter().any(|field| field.node.any(is)),
                Self::Repeat(inner, _) | Self::Optional(inner) | Self::Sized(_, inner) | Self::Padded(_, inner) => {
                    inner.any(is)
                }
                Self::Choice(choice) => {
                    let mut arms = choice.arms.iter().map(|(_, node)| node).chain(choice.otherwise.as_deref());
                    arms.any(|arm| arm.any(is))
                }
                _ => false,
            }
    }
}

/// A named part of a record.
#[derive(Debug, Clone, PartialEq)]
pub struct Field {
    /// The name a person writes.
    pub name: Box<str>,
    /// What stands there.
    pub node: Node,
    /// Where the walk keeps the number, when a later choice requests it.
    pub keep: Option<u8>,
}

/// The length in front of a sized part.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Prefix {
    /// Octets of the length itself: 1 or 2.
    pub octets: usize,
    /// How many octets more than the part the number counts, as where a length includes its own header.
    pub extra: usize,
}

/// Nested options.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Nested {
    /// The chapter of codes, as the codebook names it.
    pub chapter: Box<str>,
    /// Which of the codebook's chapters that was when the layout was parsed: where to look first.
    pub index: usize,
    /// Octets of one option's code and length together.
    pub header: usize,
    /// How many options may stand.
    pub count: Count,
    /// The earlier field whose number picks the chapter (an enterprise number).
    pub by: Option<Selector>,
}

impl Nested {
    /// All options of a chapter, for who only looks at their names.
    pub(in crate::layout) fn all_of(chapter: &str) -> Self {
        Self { chapter: chapter.into(), index: usize::MAX, header: 0, count: Count::ANY, by: None }
    }
}

/// What padding goes up to.
pub(in crate::layout) const PADDED_TO: usize = 8;

/// A choice by an earlier field.
#[derive(Debug, Clone, PartialEq)]
pub struct Choice {
    /// What decides.
    pub by: Selector,
    /// The number and what stands there then.
    pub arms: Vec<(u64, Node)>,
    /// What stands there for every other number.
    pub otherwise: Option<Box<Node>>,
}

impl Choice {
    /// What stands there when the deciding field holds `number`.
    #[must_use]
    pub fn arm(&self, number: u64) -> Option<&Node> {
        let arm = self.arms.iter().find(|(at, _)| *at == number).map(|(_, node)| node);
        arm.or(self.otherwise.as_deref())
    }
}

/// `KEY=value` text.
#[derive(Debug, Clone, PartialEq)]
pub struct Pairs {
    /// What stands between two pairs.
    pub between: Box<str>,
    /// What stands between a key and its value.
    pub equals: Box<str>,
    /// The keys that may stand, with the form of their values.
    pub keys: Vec<PairKey>,
    /// Whether keys that are not listed may stand too, as text.
    pub open: bool,
}

/// One key of `KEY=value` text.
#[derive(Debug, Clone, PartialEq)]
pub struct PairKey {
    /// The key as it is written.
    pub name: Box<str>,
    /// The form of its value, written as text.
    pub atom: Atom,
    /// Whether it must be there.
    pub required: bool,
}

/// A field narrower than octets.
#[derive(Debug, Clone, PartialEq)]
pub struct BitField {
    /// The name a person writes; `reserved` bits must be zero.
    pub name: Box<str>,
    /// Width in bits.
    pub width: u32,
    /// Fraction bits, when the field is a fixed-point number.
    pub fraction: Option<u32>,
    /// Whether the number is two's complement.
    pub signed: bool,
    /// The named numbers it may hold.
    pub of: Option<Arc<Enumeration>>,
    /// The numbers it may hold.
    pub bound: Option<Bound>,
    /// The unit of time that it counts.
    pub unit: Option<Unit>,
}

impl BitField {
    /// Whether the field must be zero.
    #[must_use]
    pub fn is_reserved(&self) -> bool {
        &*self.name == "reserved"
    }
}

/// How many zeros bring so many octets to the next multiple.
pub(in crate::layout) fn padding(octets: usize) -> usize {
    octets.wrapping_neg() % PADDED_TO
}
