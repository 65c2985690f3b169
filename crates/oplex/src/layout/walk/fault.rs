//! What a walk can find wrong with octets.

use crate::prelude::*;
use alloc::sync::Arc;
use core::fmt;
use core::ops::Range;

use crate::layout::form::atom::{Bound, Enumeration};
use crate::layout::node::PADDED_TO;

/// One thing wrong, and the octets it is about.
#[derive(Debug, Clone, PartialEq)]
pub struct Fault {
    /// The octets, counted from the start of the payload.
    pub octets: Range<usize>,
    /// What is wrong with them.
    pub kind: FaultKind,
}

/// What is wrong. Kinds that [end the reading](FaultKind::ends_reading) leave the rest of their region unread.
#[derive(Debug, Clone, PartialEq)]
#[non_exhaustive]
#[allow(missing_docs, reason = "each kind says itself in its message, and the fields are the message's numbers")]
pub enum FaultKind {
    /// Octets are missing.
    Truncated { what: &'static str, need: usize, have: usize },
    /// A length in front counts more octets than there are.
    LengthOverruns { length: usize, have: usize },
    /// A length that counts its own header is smaller than that header.
    LengthTooSmall { length: usize, least: usize },
    /// Octets are left over.
    Trailing { octets: usize },
    /// Too few parts.
    TooFew { min: usize, have: usize },
    /// More octets or parts than allowed.
    TooMany { max: usize, have: usize },
    /// A choice that the layout gives no form for.
    NoChoice { by: Box<str>, number: u64 },
    /// Octets behind a part that should be zeros up to a multiple of eight.
    NotPadded { have: usize },
    /// Octets that must be zero are not.
    NotZero,
    /// Options nested deeper than anything real.
    TooDeep,
    /// A number outside its range.
    OutOfBounds { number: i128, bound: Bound },
    /// A number that has no name in a closed enumeration.
    NotMember { number: u64, of: Arc<Enumeration> },
    /// Bits that have no meaning, or are reserved, are set.
    UndefinedBits { bits: u64 },
    /// An octet that should be 0 or 1.
    NotBool { octet: u8 },
    /// A character outside NVT ASCII.
    NotAscii,
    /// A control character in text.
    ControlCharacter { octet: u8 },
    /// A NUL at the end of text.
    NulAtEnd,
    /// Octets that are not UTF-8.
    NotUtf8,
    /// Not a URI.
    NotUri,
    /// Not a host or domain name.
    NotAName { why: NameFlaw },
    /// A mask whose ones are not all to the left.
    MaskNotContiguous,
    /// A label of a name is longer than 63 octets.
    LabelTooLong { length: usize },
    /// A name is longer than 255 octets.
    NameTooLong { length: usize },
    /// A name does not end in the root label.
    NameNotEnded,
    /// A compression pointer where names must be whole.
    PointerNotAllowed,
    /// A compression pointer that does not point backwards to a name.
    PointerAstray { to: usize },
    /// A prefix length above the size of an address.
    PrefixTooLong { length: u8, max: u8 },
    /// Bits of a prefix below its length are set.
    HostBits { length: u8 },
    /// A DUID of fewer or more octets than RFC 8415, section 11.1 allows.
    DuidLength { have: usize },
    /// `KEY=value` text without the sign between key and value.
    PairWithoutEquals,
    /// A key that the layout does not list.
    PairUnknownKey { key: Box<str> },
    /// The same key twice.
    PairTwice { key: Box<str> },
    /// A key that must be there.
    PairMissing { key: Box<str> },
    /// The value of a pair does not fit its key's form.
    PairValue { key: Box<str>, why: Box<str> },
}

/// Why a text is not a host or domain name (RFC 952, RFC 1123 section 2.1).
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[non_exhaustive]
pub enum NameFlaw {
    /// Two dots in a row, or a dot in front.
    EmptyLabel,
    /// A label that begins or ends in a hyphen.
    HyphenAtEdge,
    /// A character that is neither letter, digit nor hyphen.
    Character(char),
}

/// What kind of mistake a fault is, by which the rule that reports it is chosen.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
#[non_exhaustive]
pub enum Topic {
    /// The payload does not have the layout's shape.
    Shape,
    /// A number is outside its range.
    Bound,
    /// A number or bit has no meaning.
    Meaning,
    /// Text holds what text may not hold.
    Ascii,
    /// Text ends in NUL.
    Nul,
    /// A name's label or the name itself is too long.
    LabelLength,
    /// A name has characters that names do not have.
    NameSyntax,
    /// Several names stand where one may.
    NameList,
    /// A mask is not contiguous.
    Mask,
    /// A prefix has bits below its length.
    HostBits,
    /// Not a URI.
    Uri,
    /// A compression pointer is wrong.
    Pointer,
}

impl FaultKind {
    /// Whether the octets after the fault, within the same length, could not be read.
    #[must_use]
    pub fn ends_reading(&self) -> bool {
        matches!(
            self,
            Self::Truncated { .. }
                | Self::LengthOverruns { .. }
                | Self::LengthTooSmall { .. }
                | Self::NoChoice { .. }
                | Self::TooDeep
                | Self::LabelTooLong { .. }
                | Self::NameNotEnded
                | Self::PointerNotAllowed
                | Self::PointerAstray { .. }
                | Self::PrefixTooLong { .. }
        )
    }

    /// Whether receivers must bear it, and use the rest: bits and octets that are reserved are for those who come later, and
    /// they ignore them.
    #[must_use]
    pub fn is_borne(&self) -> bool {
        matches!(self, Self::UndefinedBits { .. } | Self::NotZero)
    }

    /// What kind of mistake this is.
    #[must_use]
    pub fn topic(&self) -> Topic {
        match self {
            Self::OutOfBounds { .. } => Topic::Bound,
            Self::NotMember { .. } | Self::UndefinedBits { .. } | Self::NotBool { .. } | Self::NotZero => {
                Topic::Meaning
            }
            Self::NotAscii | Self::ControlCharacter { .. } => Topic::Ascii,
            Self::NulAtEnd => Topic::Nul,
            Self::LabelTooLong { .. } | Self::NameTooLong { .. } => Topic::LabelLength,
            Self::NotAName { why: NameFlaw::Character(' ' | ',' | ';') } => Topic::NameList,
            Self::NotAName { .. } => Topic::NameSyntax,
            Self::MaskNotContiguous => Topic::Mask,
            Self::HostBits { .. } => Topic::HostBits,
            Self::NotUri => Topic::Uri,
            Self::PointerNotAllowed | Self::PointerAstray { .. } => Topic::Pointer,
            _ => Topic::Shape,
        }
    }
}

fn octets(number: usize) -> String {
    if number == 1 { "1 octet".to_owned() } else { format!("{number} octets") }
}

impl fmt::Display for FaultKind {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Truncated { what, need, have: 0 } => {
                write!(f, "{} expected for {what}, but the payload ends here", octets(*need))
            }
            Self::Truncated { what, need, have } => {
                write!(f, "{} expected for {what}, {have} left", octets(*need))
            }
            Self::LengthOverruns { length, have } => {
                write!(f, "this length counts {}, but only {have} follow", octets(*length))
            }
            Self::LengthTooSmall { length, least } => {
                write!(f, "this length is {length}, but counting its own header it must be at least {least}")
            }
            Self::Trailing { octets: count } => write!(f, "{} left over after the last part", octets(*count)),
            Self::TooFew { min, have } => write!(f, "at least {min} expected, found {have}"),
            Self::TooMany { max, have } => write!(f, "at most {max} allowed, found {have}"),
            Self::NoChoice { by, number } => write!(f, "no form is defined for `{by}` = {number}"),
            Self::NotPadded { have } => {
                write!(f, "{} here; zeros must bring them to a multiple of {PADDED_TO}", octets(*have))
            }
            Self::NotZero => f.write_str("these octets are reserved and must be zero"),
            Self::TooDeep => f.write_str("options are nested deeper here than can be read"),
            Self::OutOfBounds { number, bound } => write!(f, "{number} is out of range; it must be {bound}"),
            Self::NotMember { number, of } => {
                write!(f, "{number} is undefined; defined are {}", of.listing())
            }
            Self::UndefinedBits { bits } => write!(f, "bits {bits:#x} are undefined and must be zero"),
            Self::NotBool { octet } => write!(f, "{octet} is neither 0 (off) nor 1 (on)"),
            Self::NotAscii => f.write_str("a character outside ASCII; this text is NVT ASCII"),
            Self::ControlCharacter { octet } => write!(f, "control character {octet:#04x} in the text"),
            Self::NulAtEnd => f.write_str("the text ends in NUL, which senders should not add"),
            Self::NotUtf8 => f.write_str("these octets are not UTF-8"),
            Self::NotUri => f.write_str("this is not a URI; it needs a scheme, as in https://portal.example/api"),
            Self::NotAName { why } => why.fmt(f),
            Self::MaskNotContiguous => f.write_str("the one bits of a mask must be contiguous from the left"),
            Self::LabelTooLong { length } => {
                write!(f, "label of {length} octets; the limit is 63")
            }
            Self::NameTooLong { length } => write!(f, "name of {length} octets; the limit is 255"),
            Self::NameNotEnded => f.write_str("the name never ends: its root label (a zero octet) is missing"),
            Self::PointerNotAllowed => f.write_str("a compression pointer, where names must be written out"),
            Self::PointerAstray { to } => {
                write!(f, "the pointer leads to octet {to}, where no earlier part of a name begins")
            }
            Self::PrefixTooLong { length, max } => write!(f, "prefix length {length} exceeds {max}"),
            Self::HostBits { length } => write!(f, "bits are set below the prefix length {length}"),
            Self::DuidLength { have } => write!(f, "a DUID of {}; it has 3 to 130", octets(*have)),
            Self::PairWithoutEquals => f.write_str("no value is given for this key"),
            Self::PairUnknownKey { key } => write!(f, "the key `{key}` is not one of this option's"),
            Self::PairTwice { key } => write!(f, "the key `{key}` stands here a second time"),
            Self::PairMissing { key } => write!(f, "the key `{key}` must be given"),
            Self::PairValue { key, why } => write!(f, "`{key}`: {why}"),
        }
    }
}

impl fmt::Display for NameFlaw {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::EmptyLabel => f.write_str("a name with nothing between two dots"),
            Self::HyphenAtEdge => f.write_str("a label of a name may not begin or end in a hyphen"),
            Self::Character(c) => write!(f, "{c:?} is not allowed in a host name; use letters, digits and hyphens"),
        }
    }
}

impl fmt::Display for Bound {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match (self.min, self.max) {
            (Some(min), Some(max)) if min == max => write!(f, "{min}"),
            (Some(min), Some(max)) => write!(f, "{min} to {max}"),
            (Some(min), None) => write!(f, "{min} or more"),
            (None, Some(max)) => write!(f, "{max} or less"),
            (None, None) => f.write_str("any number"),
        }
    }
}
