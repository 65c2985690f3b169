//! What one client gets by IPv6: from its router's announcement, and by DHCPv6.

use std::net::Ipv6Addr;

use ipnet::Ipv6Net;

use super::client::{Recognised, recognise};
use super::{SaidBy, Told, told_by};
use crate::codebook::{Assembled, assemble_v6};
use crate::finding::Spot;
use crate::plan::{
    ClientFacts, DEFAULT_LEASE, Delegation, Family, Fleet, FleetOn, Layer, Network, Plan, PoolV6, Reservation,
};

/// What one client gets by IPv6 under a plan.
#[derive(Debug, Clone)]
pub struct AnswerV6<'p> {
    /// The network it is on.
    pub network: &'p Network,
    /// What its router's flags make it ask DHCPv6 for.
    pub asks: Asks,
    /// The fleets it belongs to, in the order in which they apply.
    pub fleets: Vec<Recognised<'p>>,
    /// The reservation that names it.
    pub reservation: Option<&'p Reservation>,
    /// The addresses it ends with.
    pub addresses: Vec<HostAddress>,
    /// The address that DHCPv6 lends it, or why it lends none.
    pub lent: Result<GivenV6<'p>, NoAddressV6>,
    /// The prefix it may hand on, when it asks for one and there is one.
    pub delegated: Option<Ipv6Net>,
    /// How long it may keep what it is lent.
    pub timers: TimersV6<'p>,
    /// Every option of DHCPv6 the plan has for it, before anybody asks whether the client wants it.
    pub told: Vec<Told<'p>>,
    /// The payloads of these.
    pub payloads: Vec<Assembled<SaidBy<'p>>>,
}

/// What a host asks DHCPv6 for, by the flags that its router announces (RFC 4861, section 4.2).
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Asks {
    /// The plan does not say what is announced; the host is taken to ask for everything.
    Unknown,
    /// Nothing: neither flag is set.
    Nothing,
    /// Everything but addresses: O is set, and M is not.
    Other,
    /// Addresses and everything else: M is set.
    Addresses,
}

impl Asks {
    /// What hosts on this network ask for.
    #[must_use]
    pub fn on(network: &Network) -> Self {
        match network.v6.advertise.as_deref().map(|said| (said.header.managed, said.header.other)) {
            None => Self::Unknown,
            Some((true, _)) => Self::Addresses,
            Some((false, true)) => Self::Other,
            Some((false, false)) => Self::Nothing,
        }
    }

    /// Whether hosts send anything by DHCPv6.
    #[must_use]
    pub fn asks(self) -> bool {
        self != Self::Nothing
    }

    /// Whether they ask for addresses.
    #[must_use]
    pub fn for_addresses(self) -> bool {
        matches!(self, Self::Addresses | Self::Unknown)
    }
}

/// What this means for a host.
impl std::fmt::Display for Asks {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(match self {
            Self::Unknown => "no line says what the router announces; taken to ask DHCPv6 for everything",
            Self::Nothing => "autonomous only: neither M nor O is set, so it asks nothing by DHCPv6",
            Self::Other => "stateless: O is set, so it asks DHCPv6 for everything but addresses",
            Self::Addresses => "stateful: M is set, so it asks DHCPv6 for addresses and everything else",
        })
    }
}

/// An address of a host, and how it came by it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct HostAddress {
    /// The address; `None` when nobody but the host can know it.
    pub address: Option<Ipv6Addr>,
    /// The prefix it is made of, or the address itself.
    pub prefix: Ipv6Net,
    /// How it came by it.
    pub by: By,
}

/// How a host comes by an address.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum By {
    /// By itself, on this link alone.
    LinkLocal,
    /// By itself, out of the announced prefix and its hardware address (RFC 4291, appendix A).
    HardwareAddress,
    /// By itself, out of the announced prefix and a secret of its own (RFC 7217), as most hosts do today.
    Secret,
    /// By DHCPv6.
    Lent,
}

impl std::fmt::Display for By {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(match self {
            Self::LinkLocal => "link-local, of its hardware address",
            Self::HardwareAddress => "made by itself of the prefix and its hardware address (EUI-64)",
            Self::Secret => "or made of the prefix and a secret (stable, private: RFC 7217), which nobody can foresee",
            Self::Lent => "lent by DHCPv6",
        })
    }
}

/// An IPv6 address that is lent, and where it comes from.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct GivenV6<'p> {
    /// The address.
    pub address: Ipv6Addr,
    /// The pool it is the first free one of; `None` when it is reserved.
    pub pool: Option<&'p PoolV6>,
    /// The fleet whose pool that is; `None` for the network's own.
    pub fleet: Option<&'p str>,
}

/// Why a client is lent no IPv6 address.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum NoAddressV6 {
    /// It does not ask.
    NotAsked,
    /// The network lends none.
    NoPool,
    /// All are taken.
    AllTaken,
}

impl std::fmt::Display for NoAddressV6 {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(match self {
            Self::NotAsked => "it asks for none: M is not set",
            Self::NoPool => "the network lends no IPv6 addresses",
            Self::AllTaken => "every address of its pool is taken",
        })
    }
}

/// The times that go with what DHCPv6 lends, in seconds, each with the layer that says so.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct TimersV6<'p> {
    /// How long an address is valid.
    pub valid: (u32, Option<&'p str>),
    /// How long it is preferred.
    pub preferred: (u32, Option<&'p str>),
    /// When the client starts to renew (T1); half of the preferred lifetime where nothing is said.
    pub renew: u32,
    /// When it starts to rebind (T2); four fifths of it where nothing is said (RFC 8415, section 21.4).
    pub rebind: u32,
}

pub(super) fn answer<'p>(plan: &'p Plan, facts: &ClientFacts) -> Option<AnswerV6<'p>> {
    let network = plan.networks.get(facts.network)?;
    network.v6.prefix.as_ref()?;
    let fleets = plan.fleets.iter().filter_map(|fleet| recognise(plan, fleet, facts, Family::V6));
    let fleets: Vec<Recognised<'p>> = fleets.collect();
    let on: Vec<(&Fleet, &FleetOn)> =
        fleets.iter().filter_map(|known| Some((known.fleet, known.fleet.on(facts.network)?))).collect();
    let reservation = facts.keys_v6().find_map(|key| plan.reservations.of(facts.network, &key));
    let mut layers: Vec<&Layer> = vec![&plan.everyone, &network.layer];
    layers.extend(fleets.iter().map(|known| &known.fleet.layer));
    layers.extend(on.iter().map(|(_, on)| &on.layer));
    layers.extend(reservation.and_then(Reservation::layer));
    let told = told_by(&layers, Family::V6);
    let asks = Asks::on(network);
    let lent =
        if asks.for_addresses() { lend(plan, network, facts, reservation, &on) } else { Err(NoAddressV6::NotAsked) };
    // A router that hands prefixes on asks for one whatever the flags say (RFC 7084, section 4.2).
    let delegated = network.v6.delegates.first().filter(|_| facts.delegation);
    let delegated = delegated.and_then(|known| nth_prefix(known, facts.leased));
    Some(AnswerV6 {
        network,
        asks,
        fleets,
        reservation,
        addresses: addresses(network, facts, &lent),
        lent,
        delegated,
        timers: timers(&layers),
        payloads: payloads(&told),
        told,
    })
}

/// The prefix that is handed on when so many others are already.
fn nth_prefix(known: &Delegation, others: u32) -> Option<Ipv6Net> {
    let within = known.within.trunc();
    let step = 128 - u32::from(known.length);
    let room = u32::from(known.length - within.prefix_len());
    if room < 32 && others >> room != 0 {
        return None;
    }
    let offset = u128::from(others).unbounded_shl(step);
    Ipv6Net::new((u128::from(within.network()) | offset).into(), known.length).ok()
}

/// The octets of what is told, vendors' options in what carries them.
pub(super) fn payloads<'p>(told: &[Told<'p>]) -> Vec<Assembled<SaidBy<'p>>> {
    assemble_v6(told.iter().filter_map(|told| {
        let by = SaidBy { layer: &told.layer.name, spot: Some(told.sent.key.clone()) };
        Some((&*told.sent.definition, &told.sent.payload()?.octets[..], by))
    }))
}

pub(super) fn timers<'p>(layers: &[&'p Layer]) -> TimersV6<'p> {
    let written = |of: fn(&Layer) -> &Option<(u32, Spot)>| {
        layers.iter().rev().find_map(|layer| of(layer).as_ref().map(|(seconds, _)| (*seconds, Some(&*layer.name))))
    };
    let valid = written(|layer| &layer.lease).unwrap_or((DEFAULT_LEASE, None));
    let preferred = written(|layer| &layer.preferred).unwrap_or(valid);
    let part = |numerator: u64, denominator: u64| match preferred.0 {
        u32::MAX => u32::MAX,
        seconds => (u64::from(seconds) * numerator / denominator) as u32,
    };
    TimersV6 {
        valid,
        preferred,
        renew: written(|layer| &layer.renew).map_or_else(|| part(1, 2), |(renew, _)| renew),
        rebind: written(|layer| &layer.rebind).map_or_else(|| part(4, 5), |(rebind, _)| rebind),
    }
}

/// The modified EUI-64 of a hardware address (RFC 4291, appendix A).
pub(super) fn interface_id(mac: [u8; 6]) -> u64 {
    let [a, b, c, d, e, f] = mac;
    u64::from_be_bytes([a ^ 2, b, c, 0xff, 0xfe, d, e, f])
}

pub(super) fn link_local(mac: [u8; 6]) -> Ipv6Addr {
    Ipv6Addr::from(0xfe80u128 << 112 | u128::from(interface_id(mac)))
}

fn addresses(network: &Network, facts: &ClientFacts, lent: &Result<GivenV6<'_>, NoAddressV6>) -> Vec<HostAddress> {
    let single = |address: Ipv6Addr, by| HostAddress { address: Some(address), prefix: Ipv6Net::from(address), by };
    let mac = facts.own_mac();
    let mut addresses: Vec<HostAddress> = mac.map(|mac| single(link_local(mac), By::LinkLocal)).into_iter().collect();
    let autonomous = network.v6.advertise.as_deref().is_some_and(|said| said.autonomous);
    // Only of 64 bits, as the other half is the host's (RFC 4862, section 5.5.3).
    let prefix = network.v6.prefix.as_ref().map(|prefix| prefix.net.trunc());
    if let Some(prefix) = prefix.filter(|prefix| autonomous && prefix.prefix_len() == 64) {
        if let Some(mac) = mac {
            let address = Ipv6Addr::from(u128::from(prefix.network()) | u128::from(interface_id(mac)));
            addresses.push(HostAddress { address: Some(address), prefix, by: By::HardwareAddress });
        }
        addresses.push(HostAddress { address: None, prefix, by: By::Secret });
    }
    addresses.extend(lent.as_ref().ok().map(|given| single(given.address, By::Lent)));
    addresses
}

/// The reserved address; else the first free one of the first fleet that has a pool of its own here; else the first
/// free one of the network's, which leaves out what fleets have for themselves.
fn lend<'p>(
    plan: &'p Plan,
    network: &'p Network,
    facts: &ClientFacts,
    reservation: Option<&Reservation>,
    on: &[(&'p Fleet, &'p FleetOn)],
) -> Result<GivenV6<'p>, NoAddressV6> {
    if let Some((address, _)) = reservation.and_then(Reservation::address_v6) {
        return Ok(GivenV6 { address, pool: None, fleet: None });
    }
    let own = on.iter().find(|(_, on)| !on.pools_v6.is_empty());
    let (pools, fleet) = match own {
        Some((fleet, on)) => (&on.pools_v6, Some(fleet.name.as_str())),
        None => (&network.v6.pools, None),
    };
    if pools.is_empty() {
        return Err(NoAddressV6::NoPool);
    }
    let blocked = blocked(plan, facts.network, fleet.is_some());
    let mut left = u128::from(facts.leased);
    for pool in pools {
        // Free are the gaps between what is blocked; there may be more addresses than anybody counts.
        let (mut at, last) = (u128::from(pool.first), u128::from(pool.last));
        for (from, to) in blocked.iter().copied().chain([(u128::MAX, u128::MAX)]) {
            let end = from.min(last.saturating_add(1));
            let free = end.saturating_sub(at);
            if left < free {
                return Ok(GivenV6 { address: (at + left).into(), pool: Some(pool), fleet });
            }
            left -= free;
            at = at.max(to.saturating_add(1));
        }
    }
    Err(NoAddressV6::AllTaken)
}

/// What may not be lent on a network, in the order of the addresses: exclusions, reservations, the pools of fleets for
/// devices of none, and the first address of the prefix, which is that of its routers (RFC 4291, section 2.6.1).
fn blocked(plan: &Plan, network: usize, of_fleet: bool) -> Vec<(u128, u128)> {
    let v6 = &plan.networks[network].v6;
    let fleets = plan.fleets.iter().filter(|_| !of_fleet).filter_map(|fleet| fleet.on(network));
    let ranges = v6.excluded.iter().chain(fleets.flat_map(|on| &on.pools_v6));
    let mut blocked: Vec<(u128, u128)> =
        ranges.map(|range| (range.first.into(), range.last.into())).filter(|(from, to)| from <= to).collect();
    let single = |address: Ipv6Addr| (u128::from(address), u128::from(address));
    let here = plan.reservations.with_v6().filter(|(row, ..)| row.network() == network);
    blocked.extend(here.map(|(_, address, _)| single(address)));
    let routers = v6.prefix.as_ref().filter(|prefix| prefix.net.prefix_len() < 127);
    blocked.extend(routers.map(|prefix| single(prefix.net.network())));
    blocked.sort_unstable();
    blocked
}
