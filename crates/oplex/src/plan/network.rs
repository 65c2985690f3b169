//! Networks: their subnets and prefixes, pools and exclusions.

use std::collections::HashMap;
use std::net::Ipv4Addr;

use super::range::{Disjoint, leasable};
use super::{Advertise, Delegation, Layer, Pool, Ranges};
use crate::family::{Address, ByAddress, Family, Net, PerAddress};
use crate::finding::Spot;

/// One link: its addresses, and what its clients are sent.
#[derive(Debug, Clone)]
pub struct Network {
    /// Its name in the plan.
    pub name: String,
    /// Where the name stands.
    pub spot: Spot,
    /// Its addresses of each family.
    pub sides: ByAddress<Sides>,
    /// The prefixes that it delegates to routers behind it.
    pub delegates: Vec<Delegation>,
    /// What its router advertises; `None` where the plan does not say. Most networks of a large plan have none.
    pub advertise: Option<Box<Advertise>>,
    /// Whether its hosts have IPv6 from a router that is not in the plan.
    pub ipv6_elsewhere: bool,
    /// The addresses of its relay agents: those that forward what its clients send.
    pub relays: Relays,
    /// The interfaces by which relay agents name it (v6:18), where they give no address of it.
    pub interfaces: Vec<Box<[u8]>>,
    /// What its clients are sent.
    pub layer: Layer,
}

/// Addresses of relay agents with their places, once for each family.
pub struct RelayLists;

impl PerAddress for RelayLists {
    type Of<A: Address> = Vec<(A, Spot)>;
}

/// The relay agents of both families.
pub type Relays = ByAddress<RelayLists>;

/// A network's addresses, once for each family.
pub struct Sides;

impl PerAddress for Sides {
    type Of<A: Address> = Side<A>;
}

/// A network's addresses of one family.
#[derive(Debug, Clone)]
pub struct Side<A> {
    /// Its subnets or prefixes: all those of the link, the first being that of most of its clients.
    pub subnets: Vec<Subnet<A>>,
    /// The addresses it leases.
    pub pools: Vec<Pool<A>>,
    /// Addresses in the pools that it does not lease.
    pub excluded: Vec<Pool<A>>,
}

// Derived, it would ask the same of `A`.
impl<A> Default for Side<A> {
    fn default() -> Self {
        Self { subnets: Vec::new(), pools: Vec::new(), excluded: Vec::new() }
    }
}

/// An IPv4 subnet or IPv6 prefix as it was written.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Subnet<A> {
    /// The address and prefix length; the address may have bits below it.
    pub net: Net<A>,
    /// Where it is written.
    pub spot: Spot,
}

impl<A: Address> Subnet<A> {
    /// The addresses in it that no client can have, with what they are: the subnet's own and its broadcast address of
    /// IPv4, unless it is a /31 (RFC 3021) or a single host; the routers' own of IPv6 (RFC 4291, section 2.6.1).
    ///
    /// ```
    /// use oplex::finding::Spot;
    /// use oplex::plan::Subnet;
    /// use std::net::Ipv4Addr;
    ///
    /// # let text = "[network.desk]\nsubnet = \"10.64.4.0/24\"\n";
    /// # let plan = oplex::plan::Plan::read("plan.toml", text, &mut |path| Err(format!("no file {path}").into())).plan.expect("it is TOML");
    /// let subnet: &Subnet<Ipv4Addr> = plan.networks[0].sides.v4.subnet().expect("it has one");
    /// let reserved: Vec<String> = subnet.reserved().map(|(address, what)| format!("{address}, {what}")).collect();
    /// assert_eq!(reserved, ["10.64.4.0, the network address", "10.64.4.255, the broadcast address"]);
    /// assert_eq!(subnet.hosts(), ([10, 64, 4, 1].into(), [10, 64, 4, 254].into()));
    /// ```
    pub fn reserved(&self) -> impl Iterator<Item = (A, &'static str)> + Clone + use<A> {
        let (first, last) = (self.net.first(), self.net.last());
        let all = match A::FAMILY {
            Family::V4 => [Some((first, "the network address")), Some((last, "the broadcast address"))],
            Family::V6 => [Some((first, "the routers' own address")), None],
        };
        let has_room = A::BITS - self.net.length() >= 2;
        all.into_iter().flatten().filter(move |_| has_room)
    }

    /// The first and the last address that a host can have.
    #[must_use]
    pub fn hosts(&self) -> (A, A) {
        let (first, last) = (self.net.first(), self.net.last());
        let reserved = self.reserved();
        let is_reserved = |address: A| reserved.clone().any(|(known, _)| known == address);
        (
            first.next().filter(|_| is_reserved(first)).unwrap_or(first),
            last.previous().filter(|_| is_reserved(last)).unwrap_or(last),
        )
    }
}

impl<A: Address> Side<A> {
    /// Its first subnet or prefix.
    #[must_use]
    pub fn subnet(&self) -> Option<&Subnet<A>> {
        self.subnets.first()
    }

    /// The subnet or prefix that holds an address.
    #[must_use]
    pub fn subnet_with(&self, address: A) -> Option<&Subnet<A>> {
        self.subnets.iter().find(|subnet| subnet.net.holds(address))
    }

    /// What may be leased: what lies in a pool and is not excluded.
    pub(crate) fn leased(&self) -> Disjoint {
        leasable(&self.pools, &self.excluded)
    }
}

impl ByAddress<Sides> {
    /// Whether there is a subnet or prefix of this family.
    #[must_use]
    pub fn has(&self, family: Family) -> bool {
        match family {
            Family::V4 => !self.v4.subnets.is_empty(),
            Family::V6 => !self.v6.subnets.is_empty(),
        }
    }
}

/// The networks of a plan that is being read, found by name and by address without a search.
pub(super) struct Networks<'n> {
    pub(super) all: &'n [Network],
    by_name: HashMap<&'n str, usize>,
    subnets: Ranges<Ipv4Addr>,
}

impl<'n> Networks<'n> {
    pub(super) fn new(all: &'n [Network]) -> Self {
        let subnets = all.iter().enumerate().flat_map(|(at, network)| {
            network.sides.v4.subnets.iter().map(move |subnet| (subnet.net.first(), subnet.net.last(), at))
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
