//! Messages as they lie in memory.

use std::fmt;
use std::net::Ipv6Addr;

use super::{ADVERTISEMENT, Advertisement, SOLICITATION, UNIT};

/// A router advertisement or solicitation, looked at where it lies.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Message<'o> {
    octets: &'o [u8],
    packet: Option<Packet>,
}

/// Between whom a message goes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Ends {
    /// Who sends it.
    pub source: Ipv6Addr,
    /// Who gets it.
    pub destination: Ipv6Addr,
}

/// What the IPv6 header in front of a message says.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Packet {
    /// Between whom it goes.
    pub ends: Ends,
    /// How many routers may still pass it on.
    pub hop_limit: u8,
}

impl Packet {
    /// Octets of an IPv6 header (RFC 8200, section 3).
    pub const OCTETS: usize = 40;
    /// What stands in it for ICMPv6.
    const ICMPV6: u8 = 58;

    /// The packet that holds an ICMPv6 message of 65,535 octets at most.
    #[must_use]
    pub fn around(&self, message: &[u8]) -> Vec<u8> {
        let mut octets = vec![0x60, 0, 0, 0];
        octets.extend_from_slice(&(message.len() as u16).to_be_bytes());
        octets.extend_from_slice(&[Self::ICMPV6, self.hop_limit]);
        octets.extend_from_slice(&self.ends.source.octets());
        octets.extend_from_slice(&self.ends.destination.octets());
        octets.extend_from_slice(message);
        octets
    }
}

/// Why octets are no router advertisement or solicitation.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum MessageError {
    /// There are fewer than its header has.
    TooShort {
        /// How many there are.
        octets: usize,
        /// How many its header has.
        header: usize,
    },
    /// The IPv6 header counts more octets than there are.
    CutOff {
        /// How many there are after it.
        octets: usize,
        /// How many it counts.
        counted: usize,
    },
    /// Something else than ICMPv6 follows the IPv6 header.
    NotIcmpV6(u8),
    /// An ICMPv6 message of another type.
    OtherType(u8),
}

impl fmt::Display for MessageError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::TooShort { octets, header } => write!(
                f,
                "these {octets} octets are no router advertisement: its header alone has {header} (RFC 4861, section 4.2)"
            ),
            Self::CutOff { octets, counted } => {
                write!(f, "the IPv6 header counts {counted} octets after it, and there are {octets}")
            }
            Self::NotIcmpV6(next) => write!(f, "the IPv6 header is followed by protocol {next}, and ICMPv6 is 58"),
            Self::OtherType(kind) => {
                let begin = "an advertisement begins with 86 (134), a solicitation with 85, and an IPv6 header with 6";
                write!(f, "these octets begin with {kind:02x}, so they are no router advertisement: {begin}")
            }
        }
    }
}

impl std::error::Error for MessageError {}

/// One option, where it lies.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct MessageOption<'o> {
    /// Its type.
    pub code: u8,
    /// What stands after its type and length, the padding included.
    pub octets: &'o [u8],
    /// Where its type stands, counted from the start of the message.
    pub at: usize,
}

/// One step through the options.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Step<'o> {
    /// An option.
    Option(MessageOption<'o>),
    /// An option of length 0, for which the whole message is dropped (RFC 4861, section 4.6); nothing comes after it.
    Empty {
        /// Where it stands.
        at: usize,
    },
    /// Octets that are no whole option; nothing comes after them.
    Cut {
        /// Where they begin.
        at: usize,
        /// How many there are.
        octets: usize,
        /// How many the option would have.
        needed: usize,
    },
}

/// Goes through options that stand one after the other.
#[derive(Debug, Clone)]
pub struct Steps<'o> {
    rest: &'o [u8],
    at: usize,
}

impl<'o> Iterator for Steps<'o> {
    type Item = Step<'o>;

    #[inline]
    fn next(&mut self) -> Option<Step<'o>> {
        let (at, rest) = (self.at, self.rest);
        self.rest = &[];
        Some(match rest {
            [] => return None,
            [_, 0, ..] => Step::Empty { at },
            [code, units, ..] => {
                let needed = usize::from(*units) * UNIT;
                match rest.split_at_checked(needed) {
                    Some((option, rest)) => {
                        (self.rest, self.at) = (rest, at + needed);
                        Step::Option(MessageOption { code: *code, octets: &option[2..], at })
                    }
                    None => Step::Cut { at, octets: rest.len(), needed },
                }
            }
            [_] => Step::Cut { at, octets: 1, needed: UNIT },
        })
    }
}

impl<'o> Message<'o> {
    /// Looks at octets as a message: ICMPv6, or an IPv6 packet that holds it and nothing else in front.
    ///
    /// # Errors
    /// Fewer octets than the headers have, an IPv6 header that counts more than there are, or something else.
    pub fn read(octets: &'o [u8]) -> Result<Self, MessageError> {
        let Some(0x60..=0x6f) = octets.first() else { return Self::of_icmpv6(octets, None) };
        let header = Packet::OCTETS;
        let Some((ip, inner)) = octets.split_first_chunk::<{ Packet::OCTETS }>() else {
            return Err(MessageError::TooShort { octets: octets.len(), header });
        };
        if ip[6] != Packet::ICMPV6 {
            return Err(MessageError::NotIcmpV6(ip[6]));
        }
        let counted = usize::from(u16::from_be_bytes([ip[4], ip[5]]));
        // What was added on the way, as some links do for short packets, is no part of it.
        let Some(inner) = inner.get(..counted) else {
            return Err(MessageError::CutOff { octets: inner.len(), counted });
        };
        let address = |at: usize| Ipv6Addr::from(<[u8; 16]>::try_from(&ip[at..at + 16]).unwrap_or_default());
        let ends = Ends { source: address(8), destination: address(24) };
        Self::of_icmpv6(inner, Some(Packet { ends, hop_limit: ip[7] }))
    }

    fn of_icmpv6(octets: &'o [u8], packet: Option<Packet>) -> Result<Self, MessageError> {
        let header = match octets.first() {
            Some(&SOLICITATION) => 8,
            Some(&ADVERTISEMENT) | None => Advertisement::OCTETS,
            Some(other) => return Err(MessageError::OtherType(*other)),
        };
        if octets.len() < header {
            return Err(MessageError::TooShort { octets: octets.len(), header });
        }
        Ok(Self { octets, packet })
    }

    /// All octets of the ICMPv6 message.
    #[must_use]
    pub fn octets(&self) -> &'o [u8] {
        self.octets
    }

    /// What the IPv6 header in front of it says, when it was read with one.
    #[must_use]
    pub fn packet(&self) -> Option<Packet> {
        self.packet
    }

    /// How many octets stood before it: those of the IPv6 header, or none.
    #[must_use]
    pub fn base(&self) -> usize {
        if self.packet.is_some() { Packet::OCTETS } else { 0 }
    }

    /// What an advertisement says in front of its options; `None` for a solicitation.
    #[must_use]
    pub fn advertisement(&self) -> Option<Advertisement> {
        let header = self.octets.get(4..Advertisement::OCTETS)?.try_into().ok()?;
        (self.octets[0] == ADVERTISEMENT).then(|| Advertisement::read(header))
    }

    /// The ICMPv6 code, which must be 0.
    #[must_use]
    pub fn code(&self) -> u8 {
        self.octets[1]
    }

    /// The checksum it has; see [`checksum`](super::checksum) for the one it should have.
    #[must_use]
    pub fn checksum(&self) -> u16 {
        u16::from_be_bytes([self.octets[2], self.octets[3]])
    }

    /// The options as they stand, and what is left over when they do not end where the message does.
    #[must_use]
    pub fn steps(&self) -> Steps<'o> {
        let at = if self.octets[0] == SOLICITATION { 8 } else { Advertisement::OCTETS };
        Steps { rest: &self.octets[at..], at }
    }

    /// The options, in their order.
    pub fn options(&self) -> impl Iterator<Item = MessageOption<'o>> + use<'o> {
        self.steps().filter_map(|step| match step {
            Step::Option(option) => Some(option),
            _ => None,
        })
    }
}

/// `Router Advertisement, 3 options, 96 octets`
impl fmt::Display for Message<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(if self.octets[0] == SOLICITATION { "Router Solicitation" } else { "Router Advertisement" })?;
        let count = self.options().count();
        write!(f, ", {count} option{}, {} octets", if count == 1 { "" } else { "s" }, self.octets.len())
    }
}
