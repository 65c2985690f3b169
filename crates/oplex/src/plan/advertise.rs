//! What a network delegates, and what its router advertises.

use std::net::Ipv6Addr;

use super::Sent;
use crate::family::Net;
use crate::finding::Spot;
use crate::octets::decimal;
use crate::packet::ra::Advertisement;

/// Prefixes that are delegated: those of one length in a larger one.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Delegation {
    /// The prefix that they are all in.
    pub within: Net<Ipv6Addr>,
    /// How long each is.
    pub length: u8,
    /// Where it is written.
    pub spot: Spot,
}

/// What a router advertises on a network.
#[derive(Debug, Clone)]
pub struct Advertise {
    /// Where the plan says so.
    pub spot: Spot,
    /// What stands in front of the options: the flags M and O, and for how long it is a router.
    pub header: Advertisement,
    /// The address it advertises from; `fe80::1` by default.
    pub source: Ipv6Addr,
    /// How often it advertises at least, in seconds; 600 by default (RFC 4861, section 6.2.1).
    pub interval: u32,
    /// Where the flags are written that the plan writes.
    pub flags: Vec<(&'static str, Spot)>,
    /// Its options, each with the place of what became them.
    pub sends: Vec<Sent>,
}

/// Where the router advertises from by default.
pub(super) const ROUTER: Ipv6Addr = Ipv6Addr::new(0xfe80, 0, 0, 0, 0, 0, 0, 1);

/// How often it advertises by default (RFC 4861, section 6.2.1).
pub(super) const INTERVAL: u32 = 600;

impl Advertise {
    /// Its option of this type.
    #[must_use]
    pub fn sent(&self, code: u16) -> Option<&Sent> {
        self.sends.iter().find(|sent| sent.definition.code == code)
    }

    /// Where a flag is written, or else the whole.
    #[must_use]
    pub fn flag_spot(&self, flag: &str) -> &Spot {
        self.flags.iter().find(|(name, _)| *name == flag).map_or(&self.spot, |(_, spot)| spot)
    }
}

/// As it is shown: `2001:db8:6400::/40 as /56`.
impl std::fmt::Display for Delegation {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{} as /{}", self.within, self.length)
    }
}

/// `2001:db8:6400::/40 as /56`: a prefix, and the length of what is delegated of it.
pub(crate) fn delegation(text: &str) -> Result<(Net<Ipv6Addr>, u8), String> {
    let wrong = || format!("`{text}` is not a range of delegated prefixes; write it like `2001:db8:6400::/40 as /56`");
    let (within, length) = text.split_once(" as /").ok_or_else(wrong)?;
    let within = Net::<Ipv6Addr>::parse(within.trim())?;
    let length: u8 = decimal(length.trim()).filter(|length| *length <= 128).ok_or_else(wrong)?;
    if length < within.length() {
        return Err(format!("no /{length} fits into {within}"));
    }
    Ok((within, length))
}
