//! Networks: their subnets, pools and exclusions.

use std::collections::HashMap;
use std::net::Ipv4Addr;

use ipnet::Ipv4Net;

use super::{Layer, NetworkV6, Ranges};
use crate::finding::Spot;

/// One link: its addresses, and what its devices are told.
#[derive(Debug, Clone)]
pub struct Network {
    /// Its name in the plan.
    pub name: String,
    /// Where the name stands.
    pub spot: Spot,
    /// Its IPv4 subnet.
    pub subnet: Option<Subnet>,
    /// The addresses it lends.
    pub pools: Vec<Pool>,
    /// Addresses in the pools that it does not lend.
    pub excluded: Vec<Pool>,
    /// Its IPv6 side.
    pub v6: NetworkV6,
    /// What its devices are told.
    pub layer: Layer,
}

/// An IPv4 subnet as it was written.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Subnet {
    /// The address and prefix length; the address may have host bits.
    pub net: Ipv4Net,
    /// Where it is written.
    pub spot: Spot,
}

impl Subnet {
    /// Whether the address belongs to the subnet.
    #[must_use]
    pub fn holds(&self, address: Ipv4Addr) -> bool {
        self.net.contains(&address)
    }

    /// The subnet's own address and its broadcast address, where it has them: RFC 3021 gives a /31 neither, and a /32
    /// is a single host.
    #[must_use]
    pub fn reserved(&self) -> Option<(Ipv4Addr, Ipv4Addr)> {
        (self.net.prefix_len() < 31).then(|| (self.net.network(), self.net.broadcast()))
    }
}

/// Addresses from first to last, both included.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Pool {
    /// The first address as written; greater than the last when the range is backwards.
    pub first: Ipv4Addr,
    /// The last address as written.
    pub last: Ipv4Addr,
    /// Where the range is written.
    pub spot: Spot,
    /// Where the first address is written.
    pub first_spot: Spot,
    /// Where the last address is written.
    pub last_spot: Spot,
}

impl Pool {
    /// Reads `10.64.4.20-10.64.5.250`, `10.64.5.128/27` or a single address.
    pub(super) fn parse(text: &str, spot: &Spot) -> Result<Self, String> {
        // The characters inside the quotes; text with escapes cannot be an address anyway.
        let inner = |from: usize, part: &str| Spot {
            span: spot.span.start + 1 + from..spot.span.start + 1 + from + part.len(),
            ..spot.clone()
        };
        let pool =
            |first, last| Self { first, last, spot: spot.clone(), first_spot: spot.clone(), last_spot: spot.clone() };
        if text.contains('/') {
            let net = net(text)?;
            return Ok(pool(net.network(), net.broadcast()));
        }
        let Some((first, last)) = text.split_once('-') else {
            let address = address(text.trim())?;
            return Ok(pool(address, address));
        };
        let last_at = first.len() + 1 + last.len() - last.trim_start().len();
        let (first, last) = (first.trim_end(), last.trim());
        Ok(Self {
            first: address(first)?,
            last: address(last)?,
            spot: spot.clone(),
            first_spot: inner(0, first),
            last_spot: inner(last_at, last),
        })
    }

    /// Whether the address lies in it.
    #[must_use]
    pub fn holds(&self, address: Ipv4Addr) -> bool {
        self.first <= address && address <= self.last
    }

    /// Whether any address lies in both.
    #[must_use]
    pub fn meets(&self, other: &Self) -> bool {
        self.first <= other.last && other.first <= self.last
    }

    /// Its addresses as numbers, the end not included.
    fn span(&self) -> (u64, u64) {
        (u32::from(self.first).into(), u64::from(u32::from(self.last)) + 1)
    }

    /// How many addresses it has.
    #[must_use]
    pub fn size(&self) -> u64 {
        (u64::from(u32::from(self.last)) + 1).saturating_sub(u32::from(self.first).into())
    }
}

/// As it is shown: `10.64.4.20-10.64.5.250`.
impl std::fmt::Display for Pool {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        if self.first == self.last { write!(f, "{}", self.first) } else { write!(f, "{}-{}", self.first, self.last) }
    }
}

impl Network {
    /// Whether the address may be lent: it lies in a pool and is not excluded.
    #[must_use]
    pub fn lends(&self, address: Ipv4Addr) -> bool {
        self.pools.iter().any(|pool| pool.holds(address)) && !self.excluded.iter().any(|out| out.holds(address))
    }
}

/// The networks of a plan that is being read, found by name and by address without a search.
pub(super) struct Networks<'n> {
    pub(super) all: &'n [Network],
    by_name: HashMap<&'n str, usize>,
    subnets: Ranges,
}

impl<'n> Networks<'n> {
    pub(super) fn new(all: &'n [Network]) -> Self {
        let subnets = all.iter().enumerate().filter_map(|(at, network)| {
            let net = network.subnet.as_ref()?.net;
            Some((net.network(), net.broadcast(), at))
        });
        let by_name = all.iter().enumerate().map(|(at, network)| (network.name.as_str(), at)).collect();
        Self { all, by_name, subnets: Ranges::new(subnets) }
    }

    /// The network of this name, by its place in the plan.
    pub(super) fn named(&self, name: &str) -> Option<usize> {
        self.by_name.get(name).copied()
    }

    /// The same, when it may well be the one at that place.
    pub(super) fn named_near(&self, name: &str, near: usize) -> Option<usize> {
        let same = self.all.get(near).is_some_and(|network| network.name == name);
        if same { Some(near) } else { self.named(name) }
    }

    /// The network whose subnet holds the address; the first written of several.
    pub(super) fn holding(&self, address: Ipv4Addr) -> Option<usize> {
        self.subnets.holding(address).min()
    }
}

/// How many addresses these pools have without the ones taken out, each counted once.
pub(super) fn lendable(pools: &[Pool], taken: &[Pool]) -> u64 {
    let spans = |pools: &[Pool]| {
        let mut spans: Vec<(u64, u64)> = pools.iter().map(Pool::span).filter(|(from, to)| from < to).collect();
        spans.sort_unstable();
        spans
    };
    let (mut lent, mut reached) = (0, 0);
    let taken = spans(taken);
    for (from, to) in spans(pools) {
        let mut from = from.max(reached);
        reached = reached.max(to);
        for (out_from, out_to) in &taken {
            if *out_from < to && *out_to > from {
                lent += out_from.saturating_sub(from);
                from = *out_to;
            }
        }
        lent += to.saturating_sub(from);
    }
    lent
}

fn address(text: &str) -> Result<Ipv4Addr, String> {
    crate::layout::address(text)
}

/// A subnet, `10.64.4.0/23`.
pub(super) fn net(text: &str) -> Result<Ipv4Net, String> {
    let Some((at, length)) = text.split_once('/') else {
        return Err(format!("`{text}` has no prefix length; write it like `10.64.4.0/23`"));
    };
    let at = address(at)?;
    let length = length.parse().ok().filter(|length| *length <= 32);
    let length = length.ok_or_else(|| format!("`{text}` is not a subnet: after the slash stands 0 to 32"))?;
    Ipv4Net::new(at, length).map_err(|_| format!("`{text}` is not a subnet"))
}
