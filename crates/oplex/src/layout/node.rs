//! What a layout is once it is parsed: a tree of nodes.

use std::sync::Arc;

/// One part of a layout.
#[derive(Debug, Clone, PartialEq)]
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
    /// Options with code and length, of the named space: `options(relay-agent)`.
    Options(Nested),
    /// One of several parts, chosen by an earlier field: `by encoding { 0 => name+, else => bytes }`.
    Choice(Choice),
    /// `KEY=value` text: `pairs("," "=") { SERVER: ipv4 }`.
    Pairs(Pairs),
    /// Fields narrower than octets, most significant bit first: `bits { reserved: 6, preference: 2 }`.
    Bits(Vec<BitField>),
}

/// A named part of a record.
#[derive(Debug, Clone, PartialEq)]
pub struct Field {
    /// The name a person writes.
    pub name: Box<str>,
    /// What stands there.
    pub node: Node,
    /// Where the walk keeps the number, when a later choice asks for it.
    pub keep: Option<u8>,
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
    /// The space of codes, as the codebook names it.
    pub space: Box<str>,
    /// Which of the codebook's spaces that was when the layout was parsed: where to look first.
    pub index: usize,
    /// Octets of one option's code and length together.
    pub header: usize,
    /// How many options may stand.
    pub count: Count,
    /// The earlier field whose number picks the space (an enterprise number).
    pub by: Option<Selector>,
}

/// An earlier field that decides something later.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Selector {
    /// The field, and the flag in it: `encoding`, `flags.e`.
    pub text: Box<str>,
    /// Where the walk kept the field's number.
    pub slot: u8,
    /// The bits of one flag, when a flag decides; the choice then sees 0 or 1.
    pub mask: Option<u64>,
}

impl Selector {
    /// The number that decides, from what the walk kept.
    #[inline]
    #[must_use]
    pub fn pick(&self, slots: &Slots) -> u64 {
        let number = slots[usize::from(self.slot)];
        self.mask.map_or(number, |mask| u64::from(number & mask != 0))
    }
}

/// The numbers that a walk keeps for later choices.
pub type Slots = [u64; SLOTS];

/// What padding goes up to.
pub(super) const PADDED_TO: usize = 8;

/// How many fields of one layout may decide something later.
pub(super) const SLOTS: usize = 4;

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
}

impl BitField {
    /// Whether the field must be zero.
    #[must_use]
    pub fn is_reserved(&self) -> bool {
        &*self.name == "reserved"
    }
}

/// A single thing on the wire.
#[derive(Debug, Clone, PartialEq)]
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
    /// A route with its prefix length (RFC 3442).
    Route4,
    /// A length octet and as many octets of an IPv6 prefix as it needs.
    Prefix6,
    /// The leading octets of an IPv6 address whose others are zero: so many, or else none, 8 or all 16.
    Ipv6Head(Option<usize>),
}

/// Whose an address is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
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
pub enum Meaning {
    /// The number itself.
    Plain,
    /// One of named values: `u8 of message-type`.
    Member(Arc<Enumeration>),
    /// A set of named bits: `u8 flags fqdn`.
    Flags(Arc<Enumeration>),
}

/// How a run of octets is read.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Run {
    /// NVT ASCII (RFC 2132, section 2).
    Text,
    /// A host or domain name in dotted form.
    DottedName,
    /// UTF-8.
    Utf8,
    /// A URI (RFC 3986).
    Uri,
    /// Octets.
    Bytes,
}

/// How a list of DNS names is written and read.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Names {
    /// Compressed on writing and reading (RFC 3397).
    Compressed,
    /// Uncompressed on writing, either on reading (RFC 3361, section 3.1).
    Lenient,
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
    #[must_use]
    pub fn holds(&self, number: i128) -> bool {
        self.min.is_none_or(|min| min <= number) && self.max.is_none_or(|max| number <= max)
    }
}
