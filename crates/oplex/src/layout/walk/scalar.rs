//! The single things a walk meets, borrowed from the octets.

use core::fmt::{self, Write};
use core::net::{Ipv4Addr, Ipv6Addr};

/// One thing read from octets, without copying them.
#[derive(Debug, Clone, Copy, PartialEq)]
#[non_exhaustive]
pub enum Scalar<'o> {
    /// No octets.
    Empty,
    /// An unsigned number; its [atom](crate::layout::Atom) or bit field says what it means.
    Number(u64),
    /// A signed number.
    Integer(i64),
    /// A fixed-point number.
    Decimal(f64),
    /// Off or on.
    Bool(bool),
    /// A number of seconds; [`u32::MAX`] is for ever.
    Seconds(u32),
    /// An IPv4 address or mask.
    Ipv4(Ipv4Addr),
    /// An IPv6 address.
    Ipv6(Ipv6Addr),
    /// A six-octet hardware address.
    Mac([u8; 6]),
    /// Text that is UTF-8, without any NUL at its end.
    Text(&'o str),
    /// Octets that are opaque, or text that is not UTF-8 (the walk reports that).
    Bytes(&'o [u8]),
    /// A DNS name.
    Name(NameRef<'o>),
    /// Sixteen octets of a UUID.
    Uuid([u8; 16]),
    /// A route.
    Route4(Route4),
    /// An IPv6 prefix.
    Prefix6(Prefix6),
}

/// A route of option 121 (RFC 3442).
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Route4 {
    /// Where it leads.
    pub destination: Ipv4Addr,
    /// How many bits of the destination count.
    pub length: u8,
    /// The next hop; 0.0.0.0 is "on this link".
    pub router: Ipv4Addr,
}

/// `10.64.8.0/21 via 10.64.4.1`, `10.64.8.0/21 on-link`
impl fmt::Display for Route4 {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Self { destination, length, router } = self;
        match router.is_unspecified() {
            true => write!(f, "{destination}/{length} on-link"),
            false => write!(f, "{destination}/{length} via {router}"),
        }
    }
}

/// An IPv6 prefix as options hold it: its length, and as many octets as that needs.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Prefix6 {
    /// The prefix, filled up with zeros.
    pub prefix: Ipv6Addr,
    /// How many bits of it count.
    pub length: u8,
}

/// `2001:db8:64::/48`
impl fmt::Display for Prefix6 {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}/{}", self.prefix, self.length)
    }
}

/// A DNS name in octets, already walked: reading its labels cannot fail.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct NameRef<'o> {
    /// The octets that pointers count from the start of.
    base: &'o [u8],
    at: usize,
    absolute: bool,
}

impl<'o> NameRef<'o> {
    pub(in crate::layout) fn new(base: &'o [u8], at: usize, absolute: bool) -> Self {
        Self { base, at, absolute }
    }

    /// Whether the name ends in the root label.
    #[must_use]
    pub fn is_absolute(&self) -> bool {
        self.absolute
    }

    /// The labels that stand where the name does, up to a pointer or the root label.
    pub(in crate::layout) fn labels_in_place(self) -> impl Iterator<Item = &'o [u8]> {
        let mut at = self.at;
        core::iter::from_fn(move || {
            let length = usize::from(*self.base.get(at).filter(|length| (1..64).contains(*length))?);
            let label = self.base.get(at + 1..at + 1 + length)?;
            at += 1 + length;
            Some(label)
        })
    }

    /// The labels, the root label left out.
    pub fn labels(self) -> impl Iterator<Item = &'o [u8]> {
        let mut at = self.at;
        core::iter::from_fn(move || {
            let mut length = *self.base.get(at)?;
            while length >= 0xc0 {
                at = usize::from(length & 0x3f) << 8 | usize::from(*self.base.get(at + 1)?);
                length = *self.base.get(at)?;
            }
            let label = self.base.get(at + 1..at + 1 + usize::from(length))?;
            at += 1 + label.len();
            (!label.is_empty()).then_some(label)
        })
    }
}

/// In dotted form: `control.tarnfell.example`, the root alone as `.`; odd characters as `\.` and `\032` (RFC 1035,
/// section 5.1). A partial name that happens to be whole ends in a dot.
impl fmt::Display for NameRef<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let mut first = true;
        for label in self.labels() {
            if !first {
                f.write_char('.')?;
            }
            first = false;
            for octet in label {
                match octet {
                    b'.' | b'\\' => write!(f, "\\{}", char::from(*octet))?,
                    b'!'..=b'~' => f.write_char(char::from(*octet))?,
                    _ => write!(f, "\\{octet:03}")?,
                }
            }
        }
        if first && self.absolute { f.write_char('.') } else { Ok(()) }
    }
}

/// The nearest integer, halves away from zero: `f64::round` needs `std`.
pub(in crate::layout) fn nearest_integer(number: f64) -> i128 {
    (number + 0.5_f64.copysign(number)) as i128
}
