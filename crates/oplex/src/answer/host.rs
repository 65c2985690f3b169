//! What an IPv6 host makes of its router's advertisement.

use std::fmt;
use std::net::Ipv6Addr;

use super::{Assigned, NoAddress};
use crate::compiled::{Advertisement, Network};
use crate::family::{Address, Net};
use crate::octets::Mac;
use crate::plan::{ClientFacts, Delegation};

/// What a host uses DHCPv6 for, by the flags that its router advertises (RFC 4861, section 4.2).
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum HostMode {
    /// The plan does not say what is advertised; the host is taken to use it for everything.
    Unknown,
    /// Nothing: neither flag is set.
    Autonomous,
    /// Everything but addresses: O is set, and M is not.
    Stateless,
    /// Addresses and everything else: M is set.
    Stateful,
}

impl HostMode {
    /// What hosts on this network use it for.
    #[must_use]
    pub fn on(network: &Network<'_>) -> Self {
        let flags = |said: &Advertisement<'_>| {
            let obeyed = said.is_obeyed();
            (obeyed && said.header.managed, obeyed && said.header.other)
        };
        match network.advertises.as_ref().map(flags) {
            None => Self::Unknown,
            Some((true, _)) => Self::Stateful,
            Some((false, true)) => Self::Stateless,
            Some((false, false)) => Self::Autonomous,
        }
    }

    /// Whether hosts send anything by DHCPv6.
    ///
    /// ```
    /// use oplex::answer::HostMode;
    ///
    /// // M has hosts request addresses, O other settings alone, and without either nothing is requested (RFC 4861, section 4.2).
    /// assert!(HostMode::Stateful.uses_dhcp() && HostMode::Stateful.requests_addresses());
    /// assert!(HostMode::Stateless.uses_dhcp() && !HostMode::Stateless.requests_addresses());
    /// assert!(!HostMode::Autonomous.uses_dhcp());
    /// ```
    #[must_use]
    pub fn uses_dhcp(self) -> bool {
        self != Self::Autonomous
    }

    /// Whether they request addresses.
    #[must_use]
    pub fn requests_addresses(self) -> bool {
        matches!(self, Self::Stateful | Self::Unknown)
    }
}

/// What this means for a host.
impl fmt::Display for HostMode {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            Self::Unknown => "the plan has no `advertise`; assumed to use DHCPv6 for everything",
            Self::Autonomous => "autonomous only: neither M nor O is set, so it does not use DHCPv6",
            Self::Stateless => "stateless: O is set, so it uses DHCPv6 for everything but addresses",
            Self::Stateful => "stateful: M is set, so it uses DHCPv6 for addresses and everything else",
        })
    }
}

/// What a host has on its link.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct HostState {
    /// What it uses DHCPv6 for.
    pub mode: HostMode,
    /// The addresses it ends with.
    pub addresses: Vec<HostAddress>,
    /// The prefix that is delegated to it, when it requests one and there is one.
    pub delegated: Option<Net<Ipv6Addr>>,
}

/// An address of a host, and how it came by it.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct HostAddress {
    /// The address; `None` when only the host can know it.
    pub address: Option<Ipv6Addr>,
    /// The prefix it is made of, or the address itself.
    pub prefix: Net<Ipv6Addr>,
    /// How it came by it.
    pub origin: AddressOrigin,
}

/// How a host comes by an address.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum AddressOrigin {
    /// By itself, on this link alone.
    LinkLocal,
    /// The same, of a host whose hardware address is not known: only it can know the address.
    MadeUp,
    /// By itself, out of the advertised prefix and its hardware address (RFC 4291, appendix A).
    HardwareAddress,
    /// By itself, out of the advertised prefix and a secret of its own (RFC 7217), as most hosts do today.
    Secret,
    /// By DHCPv6.
    Leased,
}

impl fmt::Display for AddressOrigin {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            Self::LinkLocal => "link-local, from its hardware address",
            Self::MadeUp => "link-local, made up here: its hardware address is not known",
            Self::HardwareAddress => "from the prefix and its hardware address (EUI-64)",
            Self::Secret => "or from the prefix and a secret (stable, private: RFC 7217), which only the host knows",
            Self::Leased => "leased by DHCPv6",
        })
    }
}

/// What a host on a network ends with, given what DHCPv6 assigns it.
pub(super) fn host(
    network: &Network<'_>,
    facts: &ClientFacts,
    assigned: &Result<Assigned<'_>, NoAddress>,
    (reserved, taken): (Option<Net<Ipv6Addr>>, &[Net<Ipv6Addr>]),
) -> HostState {
    // A router that delegates prefixes further requests one whatever the flags say (RFC 7084, section 4.2).
    let delegates = network.delegates.first().filter(|_| facts.delegation && reserved.is_none());
    let delegated = reserved.filter(|_| facts.delegation).or_else(|| nth_prefix(delegates?, facts.leased, taken));
    HostState { mode: HostMode::on(network), addresses: addresses(network, facts, assigned), delegated }
}

/// The prefix that is delegated when so many others are already.
fn nth_prefix(known: &Delegation, others: u32, taken: &[Net<Ipv6Addr>]) -> Option<Net<Ipv6Addr>> {
    let within = known.within.trunc();
    let step = 128 - u32::from(known.length);
    let room = u32::from(known.length - within.length());
    // What is reserved for single clients is not for others: each reservation before it moves it on by what that covers.
    let mut taken: Vec<(u128, u128)> = taken
        .iter()
        .filter(|net| net.meets(&within))
        .map(|net| {
            let place = |address: Ipv6Addr| {
                (address.bits().max(within.first().bits()) - within.first().bits()).unbounded_shr(step)
            };
            (place(net.first()), place(net.last()))
        })
        .collect();
    taken.sort_unstable();
    let mut place = u128::from(others);
    for (first, last) in taken {
        if first <= place {
            place = place.saturating_add(last - first + 1);
        }
    }
    if room < 128 && place >> room != 0 {
        return None;
    }
    Net::new((within.address().bits() | place.unbounded_shl(step)).into(), known.length)
}

/// The modified EUI-64 of a hardware address (RFC 4291, appendix A).
pub(crate) fn interface_id(mac: Mac) -> u64 {
    let Mac([a, b, c, d, e, f]) = mac;
    u64::from_be_bytes([a ^ 2, b, c, 0xff, 0xfe, d, e, f])
}

/// The link-local address of a host with this hardware address.
pub(crate) fn link_local(mac: Mac) -> Ipv6Addr {
    Ipv6Addr::from(0xfe80u128 << 112 | u128::from(interface_id(mac)))
}

/// The prefixes that hosts form addresses of (RFC 4862, section 5.5.3): only of 64 bits, as the other half is the host's, and
/// neither of the link-local prefix nor of one that is not valid.
fn formed_of(said: &Advertisement<'_>) -> impl Iterator<Item = Net<Ipv6Addr>> {
    let obeyed = said.is_obeyed();
    let prefixes = said.prefixes().filter(move |prefix| obeyed && prefix.autonomous && prefix.valid > 0);
    let nets = prefixes.map(|prefix| prefix.net);
    nets.filter(|net| net.length() == 64 && !net.address().is_unicast_link_local())
}

/// The link-local address of a host. Of one that is known by its DUID alone it is made up.
pub(crate) fn host_link_local(facts: &ClientFacts) -> Ipv6Addr {
    match (facts.own_mac(), facts.own_duid()) {
        (Some(mac), _) => link_local(mac),
        (None, Some(duid)) => {
            let mut octets = [0; 8];
            let last = duid.len().min(6);
            octets[8 - last..].copy_from_slice(&duid[duid.len() - last..]);
            Ipv6Addr::from(0xfe80u128 << 112 | u128::from(u64::from_be_bytes(octets) | 2 << 48))
        }
        (None, None) => Ipv6Addr::UNSPECIFIED,
    }
}

fn addresses(
    network: &Network<'_>,
    facts: &ClientFacts,
    assigned: &Result<Assigned<'_>, NoAddress>,
) -> Vec<HostAddress> {
    let single =
        |address: Ipv6Addr, origin| HostAddress { address: Some(address), prefix: Net::single(address), origin };
    let mac = facts.own_mac();
    let origin = if mac.is_some() { AddressOrigin::LinkLocal } else { AddressOrigin::MadeUp };
    let own = Some(host_link_local(facts)).filter(|own| !own.is_unspecified());
    // Few networks have more than one prefix.
    let mut addresses = Vec::with_capacity(4);
    addresses.extend(own.map(|own| single(own, origin)));
    for prefix in network.advertises.iter().flat_map(formed_of) {
        if let Some(mac) = mac {
            let address = Ipv6Addr::from_bits(prefix.address().bits() | u128::from(interface_id(mac)));
            addresses.push(HostAddress { address: Some(address), prefix, origin: AddressOrigin::HardwareAddress });
        }
        addresses.push(HostAddress { address: None, prefix, origin: AddressOrigin::Secret });
    }
    let leased = assigned.as_ref().ok().and_then(|assigned| Ipv6Addr::of(assigned.address));
    addresses.extend(leased.map(|address| single(address, AddressOrigin::Leased)));
    addresses
}
