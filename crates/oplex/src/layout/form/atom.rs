//! Single things, and what is written beside them.

use crate::layout::form::selector::Selector;
use crate::layout::form::unit::Unit;
use crate::prelude::*;
use alloc::sync::Arc;

/// The least and the greatest number of octets; `None` is no limit of its own.
pub(in crate::layout) type Lengths = (usize, Option<usize>);

/// A single thing on the wire.
#[derive(Debug, Clone, PartialEq)]
#[non_exhaustive]
pub enum Atom {
    /// `u8` to `u64`, `i32`.
    Number(Number),
    /// One octet, 0 or 1.
    Bool,
    /// A 32-bit number of seconds, all ones being for ever, in a range or in any.
    Seconds(Option<Bound>),
    /// An IPv4 address, and whose.
    Ipv4(Role),
    /// An IPv6 address, and whose.
    Ipv6(Role),
    /// An IPv4 network mask.
    Netmask,
    /// A six-octet hardware address.
    Mac,
    /// A run of octets read as some sort of text, or as itself.
    Run(Run, Count),
    /// No octets at all.
    Empty,
    /// An uncompressed DNS name that ends in the root label (RFC 1035, section 3.1).
    Name,
    /// A DNS name that ends with its octets, with or without the root label (RFC 4702, section 2.3.1).
    PartialName,
    /// A list of DNS names; see [`Names`].
    Names(Names),
    /// A DHCP unique identifier (RFC 8415, section 11).
    Duid,
    /// Sixteen octets in the order of RFC 4122.
    Uuid,
    /// Sixteen octets whose first three fields are little-endian, as EFI has them.
    Guid,
    /// A route with its prefix length (RFC 3442).
    Route4,
    /// A length octet and as many octets of an IPv6 prefix as it needs.
    Prefix6,
    /// The leading octets of an IPv6 address whose others are zero.
    Ipv6Head(Head),
}

/// How many leading octets of an IPv6 address stand.
#[derive(Debug, Clone, PartialEq)]
#[non_exhaustive]
pub enum Head {
    /// None, 8 or all 16, as its bits need.
    Needed,
    /// So many.
    Octets(usize),
    /// None, 8 or all 16, as the length of the prefix in an earlier field needs, or more (RFC 4191, section 2.3).
    By(Selector),
}

impl Head {
    /// The fewest octets for a prefix of this length.
    pub(in crate::layout) fn least(bits: u64) -> usize {
        match bits {
            0 => 0,
            1..=64 => 8,
            _ => 16,
        }
    }
}

/// Whose an address is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
#[non_exhaustive]
pub enum Role {
    /// A host's: a server's, a router's, a client's.
    #[default]
    Host,
    /// Anybody's, or none at all.
    Any,
    /// A multicast group's.
    Group,
    /// A network's: a destination, a subnet, a prefix.
    Network,
}

impl Role {
    /// All of them, with the words that layouts write for them.
    pub const ALL: [(&'static str, Self); 4] =
        [("host", Self::Host), ("any", Self::Any), ("group", Self::Group), ("network", Self::Network)];

    /// The word that layouts write for it.
    #[must_use]
    pub fn word(self) -> &'static str {
        Self::ALL[self as usize].0
    }
}

/// A number of one to eight octets.
#[derive(Debug, Clone, PartialEq)]
pub struct Number {
    /// Octets on the wire.
    pub octets: usize,
    /// Whether it is two's complement.
    pub signed: bool,
    /// What its values mean.
    pub meaning: Meaning,
    /// The values it may hold.
    pub bound: Option<Bound>,
}

/// What the values of a number mean.
#[derive(Debug, Clone, PartialEq)]
#[non_exhaustive]
pub enum Meaning {
    /// The number itself.
    Plain,
    /// One of named values: `u8 of message-type`.
    Member(Arc<Enumeration>),
    /// A set of named bits: `u8 flags fqdn`.
    Flags(Arc<Enumeration>),
    /// A time, counted in a unit: `u16 unit centiseconds`.
    Unit(Unit),
    /// The code of an option of this chapter: `u8 code v4`.
    Code(Box<str>),
}

impl Meaning {
    /// Whether the values have names, which some values may lack.
    pub(in crate::layout) fn is_of_names(&self) -> bool {
        matches!(self, Self::Member(_) | Self::Flags(_))
    }
}

/// A named set of named numbers, or of named bits.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Enumeration {
    /// The name layouts use; empty for one written in the layout itself.
    pub name: Box<str>,
    /// Whether numbers that are not listed may stand too.
    pub open: bool,
    /// The listed numbers (or bits) and their names.
    pub members: Vec<(u64, Box<str>)>,
}

impl Enumeration {
    /// The name of a number.
    #[must_use]
    pub fn name_of(&self, number: u64) -> Option<&str> {
        self.members.iter().find(|(at, _)| *at == number).map(|(_, name)| &**name)
    }

    /// The number behind a name.
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    /// use oplex::layout::Vocabulary;
    ///
    /// let types = Codebook::standard().enumeration("message-type").ok_or("there is one")?;
    /// assert_eq!((types.number_of("dhcpack"), types.name_of(5)), (Some(5), Some("DHCPACK")));
    /// # Ok::<(), &str>(())
    /// ```
    #[must_use]
    pub fn number_of(&self, name: &str) -> Option<u64> {
        self.members.iter().find(|(_, at)| at.eq_ignore_ascii_case(name)).map(|(number, _)| *number)
    }

    /// All listed bits together.
    #[must_use]
    pub fn all_bits(&self) -> u64 {
        self.members.iter().fold(0, |bits, (bit, _)| bits | bit)
    }

    /// `disabled (0), enabled (1)`, cut after a dozen.
    #[must_use]
    pub fn listing(&self) -> String {
        let mut shown: Vec<String> =
            self.members.iter().take(12).map(|(number, name)| format!("{name} ({number})")).collect();
        if self.members.len() > shown.len() {
            shown.push(format!("and {} more", self.members.len() - shown.len()));
        }
        shown.join(", ")
    }
}

/// A range of numbers, both ends included.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Bound {
    /// The least, if there is one.
    pub min: Option<i128>,
    /// The greatest, if there is one.
    pub max: Option<i128>,
}

impl Bound {
    /// Whether `number` lies in the range.
    ///
    /// ```
    /// use oplex::layout::Bound;
    ///
    /// let mtu = Bound { min: Some(68), max: None };
    /// assert!(mtu.holds(1500) && !mtu.holds(67));
    /// ```
    #[must_use]
    pub fn holds(&self, number: i128) -> bool {
        self.min.is_none_or(|min| min <= number) && self.max.is_none_or(|max| number <= max)
    }
}

/// How a run of octets is read.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[non_exhaustive]
pub enum Run {
    /// NVT ASCII (RFC 2132, section 2).
    Text,
    /// A host or domain name in dotted form.
    DottedName,
    /// UTF-8.
    Utf8,
    /// A URI (RFC 3986).
    Uri,
    /// NVT ASCII, and behind its first space any octets (RFC 8520, section 10).
    TextAndOctets,
    /// Octets.
    Bytes,
}

/// How a list of DNS names is written and read.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[non_exhaustive]
pub enum Names {
    /// Compressed on writing and reading (RFC 3397).
    Compressed,
    /// Uncompressed on writing, either on reading (RFC 3361, section 3.1).
    Lenient,
}

/// How often a part may stand, both ends included.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Count {
    /// The least number.
    pub min: usize,
    /// The greatest number; `None` is as many as there are octets for.
    pub max: Option<usize>,
}

impl Count {
    /// One or more.
    pub const SOME: Self = Self { min: 1, max: None };
    /// Any number, none included.
    pub const ANY: Self = Self { min: 0, max: None };

    /// The number when it is fixed.
    #[must_use]
    pub fn fixed(self) -> Option<usize> {
        self.max.filter(|max| *max == self.min)
    }
}
