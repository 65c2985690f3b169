//! What a network delegates, and what its router advertises.

use std::net::Ipv6Addr;

use super::Sent;
use crate::family::Net;
use crate::finding::Spot;
use crate::layout::duration_text;
use crate::packet::ra::{Advertisement, Preference};

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
    /// Whether hosts make addresses of the prefix by themselves.
    pub autonomous: bool,
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

/// What it says in front of its options: `managed, router for 30m, every 10m, from fe80::1`.
impl std::fmt::Display for Advertise {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let Advertisement {
            managed, other, preference, router_lifetime, hop_limit, reachable_time, retrans_timer, ..
        } = self.header;
        match (managed, other) {
            (true, true) => f.write_str("managed, other")?,
            (true, false) => f.write_str("managed")?,
            (false, true) => f.write_str("other")?,
            (false, false) => f.write_str("no flag")?,
        }
        let (lifetime, every) = (duration_text(router_lifetime.into()), duration_text(self.interval));
        write!(f, ", router for {lifetime}, every {every}, from {}", self.source)?;
        if preference != Preference::Medium {
            write!(f, ", preference {}", preference.name())?;
        }
        write!(f, ", hop limit {hop_limit}")?;
        for (what, milliseconds) in [("reachable", reachable_time), ("retransmit", retrans_timer)] {
            if milliseconds > 0 {
                write!(f, ", {what} {milliseconds} ms")?;
            }
        }
        Ok(())
    }
}

/// As it is shown: `2001:db8:6400::/40 as /56`.
impl std::fmt::Display for Delegation {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{} as /{}", self.within, self.length)
    }
}

/// `2001:db8:6400::/40 as /56`: a prefix, and the length of what is delegated of it.
pub(super) fn delegation(text: &str) -> Result<(Net<Ipv6Addr>, u8), String> {
    let wrong = || format!("`{text}` says nothing to delegate; write it like `2001:db8:6400::/40 as /56`");
    let (within, length) = text.split_once(" as /").ok_or_else(wrong)?;
    let within = Net::<Ipv6Addr>::parse(within.trim())?;
    let length: u8 = length.trim().parse().ok().filter(|length| *length <= 128).ok_or_else(wrong)?;
    if length < within.length() {
        return Err(format!("no /{length} fits into {within}"));
    }
    Ok((within, length))
}
