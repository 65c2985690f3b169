//! The IPv6 side of a network: its prefix, what it lends and hands on, and what its router announces.

use std::net::Ipv6Addr;

use ipnet::Ipv6Net;

use super::Sent;
use crate::finding::Spot;
use crate::layout::duration_text;
use crate::packet::ra::{Advertisement, Preference};

/// The IPv6 side of a network.
#[derive(Debug, Clone, Default)]
pub struct NetworkV6 {
    /// Its prefix.
    pub prefix: Option<Prefix>,
    /// The addresses it lends.
    pub pools: Vec<PoolV6>,
    /// Addresses in the pools that it does not lend.
    pub excluded: Vec<PoolV6>,
    /// The prefixes that it hands on to routers behind it.
    pub delegates: Vec<Delegation>,
    /// What its router announces; `None` where the plan does not say. Most networks of a large plan have none.
    pub advertise: Option<Box<Advertise>>,
}

impl NetworkV6 {
    /// Whether the address may be lent: it lies in a pool and is not excluded.
    #[must_use]
    pub fn lends(&self, address: Ipv6Addr) -> bool {
        self.pools.iter().any(|pool| pool.holds(address)) && !self.excluded.iter().any(|out| out.holds(address))
    }
}

/// An IPv6 prefix as it was written.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Prefix {
    /// The address and prefix length; the address may have bits below it.
    pub net: Ipv6Net,
    /// Where it is written.
    pub spot: Spot,
}

/// IPv6 addresses from first to last, both included.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct PoolV6 {
    /// The first address as written; greater than the last when the range is backwards.
    pub first: Ipv6Addr,
    /// The last address as written.
    pub last: Ipv6Addr,
    /// Where the range is written.
    pub spot: Spot,
}

/// Prefixes that are handed on: those of one length in a larger one.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Delegation {
    /// The prefix that they are all in.
    pub within: Ipv6Net,
    /// How long each is.
    pub length: u8,
    /// Where it is written.
    pub spot: Spot,
}

/// What a router announces on a network.
#[derive(Debug, Clone)]
pub struct Advertise {
    /// Where the plan says so.
    pub spot: Spot,
    /// What stands in front of the options: the flags M and O, and for how long it is a router.
    pub header: Advertisement,
    /// The address it announces from; `fe80::1` where nothing is said.
    pub source: Ipv6Addr,
    /// How often it announces at least, in seconds; 600 where nothing is said (RFC 4861, section 6.2.1).
    pub interval: u32,
    /// Whether hosts make addresses of the prefix by themselves.
    pub autonomous: bool,
    /// Where the flags are written that the plan writes.
    pub flags: Vec<(&'static str, Spot)>,
    /// Its options, each with the place of what became them.
    pub sends: Vec<Sent>,
}

/// Where the router announces from, when the plan does not say.
pub(super) const ROUTER: Ipv6Addr = Ipv6Addr::new(0xfe80, 0, 0, 0, 0, 0, 0, 1);

/// How often it announces, when the plan does not say (RFC 4861, section 6.2.1).
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

impl PoolV6 {
    /// Reads `2001:db8::100-2001:db8::1ff`, `2001:db8::/80` or a single address.
    pub(super) fn parse(text: &str, spot: &Spot) -> Result<Self, String> {
        let pool = |first, last| Self { first, last, spot: spot.clone() };
        if text.contains('/') {
            let net = net(text)?;
            return Ok(pool(net.network(), net.broadcast()));
        }
        let (first, last) = text.split_once('-').unwrap_or((text, text));
        Ok(pool(address(first.trim())?, address(last.trim())?))
    }

    /// Whether the address lies in it.
    #[must_use]
    pub fn holds(&self, address: Ipv6Addr) -> bool {
        self.first <= address && address <= self.last
    }

    /// Whether any address lies in both.
    #[must_use]
    pub fn meets(&self, other: &Self) -> bool {
        self.first <= other.last && other.first <= self.last
    }
}

/// As it is shown: `2001:db8::100-2001:db8::1ff`.
impl std::fmt::Display for PoolV6 {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        if self.first == self.last { write!(f, "{}", self.first) } else { write!(f, "{}-{}", self.first, self.last) }
    }
}

/// As it is shown: `2001:db8:6400::/40 as /56`.
impl std::fmt::Display for Delegation {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{} as /{}", self.within, self.length)
    }
}

/// An IPv6 address.
pub(super) fn address(text: &str) -> Result<Ipv6Addr, String> {
    text.parse().map_err(|_| format!("`{text}` is not an IPv6 address; write it like `2001:db8:64::53`"))
}

/// An IPv6 prefix, `2001:db8:64:4::/64`.
pub(super) fn net(text: &str) -> Result<Ipv6Net, String> {
    let Some((at, length)) = text.split_once('/') else {
        return Err(format!("`{text}` has no prefix length; write it like `2001:db8:64:4::/64`"));
    };
    let at = address(at)?;
    let length = length.parse().ok().filter(|length| *length <= 128);
    let length = length.ok_or_else(|| format!("`{text}` is not a prefix: after the slash stands 0 to 128"))?;
    Ipv6Net::new(at, length).map_err(|_| format!("`{text}` is not a prefix"))
}

/// `2001:db8:6400::/40 as /56`: a prefix, and the length of what is handed on of it.
pub(super) fn delegation(text: &str) -> Result<(Ipv6Net, u8), String> {
    let wrong = || format!("`{text}` says nothing to hand on; write it like `2001:db8:6400::/40 as /56`");
    let (within, length) = text.split_once(" as /").ok_or_else(wrong)?;
    let within = net(within.trim())?;
    let length: u8 = length.trim().parse().ok().filter(|length| *length <= 128).ok_or_else(wrong)?;
    if length < within.prefix_len() {
        return Err(format!("no /{length} fits into {within}"));
    }
    Ok((within, length))
}
