//! Why octets are no message.

use core::fmt;

use crate::prelude::*;

use crate::family::Protocol;

/// Why octets are no message of a protocol.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[non_exhaustive]
pub enum MessageError {
    /// The header alone has more octets.
    TooShort {
        /// The protocol.
        protocol: Protocol,
        /// How many there are.
        octets: usize,
        /// How many the header has.
        header: usize,
    },
    /// No datagram, and no packet of IPv6, holds so many.
    TooLong {
        /// The protocol.
        protocol: Protocol,
        /// How many there are.
        octets: usize,
        /// How many a datagram holds.
        most: usize,
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
        let one = |protocol: Protocol| match protocol {
            Protocol::V4 => ("DHCPv4 message", "RFC 2131, section 2"),
            Protocol::V6 => ("DHCPv6 message", "RFC 8415, sections 8 and 9"),
            Protocol::Ra => ("router advertisement", "RFC 4861, section 4.2"),
        };
        match *self {
            Self::TooShort { protocol, octets, header } => {
                let (what, rfc) = one(protocol);
                let octets = if octets == 1 { "this octet is".into() } else { format!("these {octets} octets are") };
                write!(f, "{octets} no {what}: its header alone has {header} ({rfc})")
            }
            Self::TooLong { protocol, octets, most } => {
                let whole = if protocol == Protocol::Ra { "ICMPv6 message" } else { "datagram" };
                let article = if protocol == Protocol::Ra { "an" } else { "a" };
                write!(f, "these {octets} octets are no {}: {article} {whole} has at most {most}", one(protocol).0)
            }
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

impl core::error::Error for MessageError {}
