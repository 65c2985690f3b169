//! Which address a client is assigned: the same in both families.

use std::fmt;
use std::net::IpAddr;

use crate::compiled::{Compiled, Fleet, OnNetwork};
use crate::family::{Address, Family};
use crate::finding::Spot;
use crate::plan::{ClientFacts, Disjoint, Pool, Reservation, Subnet, gaps};

/// An address, and where it comes from.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Assigned<'a> {
    /// The address.
    pub address: IpAddr,
    /// The pool it is first free, of; `None` when it is reserved.
    pub pool: Option<AnyPool<'a>>,
    /// The fleet whose pool that is; `None` for the network's own.
    pub fleet: Option<&'a str>,
}

/// A pool of either family.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct AnyPool<'a> {
    /// Its first address.
    pub first: IpAddr,
    /// Its last address.
    pub last: IpAddr,
    /// Where it is written; `None` in what was read back from a release.
    pub spot: Option<&'a Spot>,
}

/// `10.64.4.20-10.64.5.250`
impl fmt::Display for AnyPool<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if self.first == self.last { write!(f, "{}", self.first) } else { write!(f, "{}-{}", self.first, self.last) }
    }
}

impl<'a, A: Address> From<&'a Pool<A>> for AnyPool<'a> {
    fn from(pool: &'a Pool<A>) -> Self {
        Self { first: pool.first.into(), last: pool.last.into(), spot: pool.spot.somewhere() }
    }
}

/// Why a client is assigned no address.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[non_exhaustive]
pub enum NoAddress {
    /// It requests none: its router's flags do not say that it should.
    NotRequested,
    /// The network has no pool for it.
    NoPool(Family),
    /// All addresses are taken.
    AllTaken,
}

impl fmt::Display for NoAddress {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            Self::NotRequested => "it requests none: M is not set",
            Self::NoPool(Family::V4) => "the network leases no addresses",
            Self::NoPool(Family::V6) => "the network leases no IPv6 addresses",
            Self::AllTaken => "every address of its pool is leased",
        })
    }
}

/// The reserved address; else first free, of the first fleet that has a pool of its own here; else the first free one
/// of the network's, which leaves out what fleets have for themselves.
pub(super) fn assigned<'a, A: Address>(
    compiled: &'a Compiled<'a>,
    facts: &ClientFacts,
    reservation: Option<&Reservation>,
    fleets: &[&'a Fleet<'a>],
) -> Result<Assigned<'a>, NoAddress> {
    if let Some((address, _)) = reservation.and_then(Reservation::address::<A>) {
        return Ok(Assigned { address: address.into(), pool: None, fleet: None });
    }
    let (pools, fleet) = pools::<A>(compiled, facts.network, fleets);
    if pools.is_empty() {
        return Err(NoAddress::NoPool(A::FAMILY));
    }
    let ranges = blocked::<A>(compiled, facts.network, fleet.is_some());
    let mut left = u128::from(facts.leased);
    for pool in pools {
        let (first, last) = pool.bits();
        // There may be more addresses than anybody counts, so gaps are gone through, not addresses.
        let reserved = compiled.reservations.addresses_from(facts.network, pool.first);
        let reserved = reserved.map(|address: A| (address.bits(), address.bits()));
        for (from, to) in gaps(first, last, merged(ranges.from(first).iter().copied(), reserved)) {
            let free = (to - from).saturating_add(1);
            if left < free {
                let address = A::from_bits(from + left).into();
                return Ok(Assigned { address, pool: Some(pool.into()), fleet });
            }
            left -= free;
        }
    }
    Err(NoAddress::AllTaken)
}

/// The pools that a client's address comes from, and the fleet whose they are, if not the network's.
pub(crate) fn pools<'a, A: Address>(
    compiled: &'a Compiled<'a>,
    network: usize,
    fleets: &[&'a Fleet<'a>],
) -> (&'a [Pool<A>], Option<&'a str>) {
    let own = fleets.iter().find_map(|fleet| {
        let on: &'a OnNetwork<'a> = fleet.on(network)?;
        let pools = on.pools.of::<A>();
        (!pools.is_empty()).then_some((&pools[..], &*fleet.name))
    });
    own.map_or((&compiled.networks[network].sides.of::<A>().pools[..], None), |(pools, fleet)| (pools, Some(fleet)))
}

/// What may not be leased on a network besides what is reserved for single clients, in the order of the addresses: exclusions,
/// the pools of fleets for clients of none, and what is reserved in every subnet.
pub(crate) fn blocked<A: Address>(compiled: &Compiled<'_>, network: usize, of_fleet: bool) -> Disjoint {
    let side = compiled.networks[network].sides.of::<A>();
    let fleets = compiled.fleets_on(network).filter(|_| !of_fleet);
    let out = side.excluded.iter().chain(fleets.flat_map(|(_, on)| on.pools.of::<A>())).map(Pool::bits);
    let reserved = side.subnets.iter().flat_map(Subnet::reserved);
    Disjoint::new(out.chain(reserved.map(|(address, _)| (address.bits(), address.bits()))))
}

/// Two series, each in order, as one. There may be many more of either than are looked at.
pub(crate) fn merged<T: Ord>(one: impl Iterator<Item = T>, other: impl Iterator<Item = T>) -> impl Iterator<Item = T> {
    let (mut one, mut other) = (one.peekable(), other.peekable());
    std::iter::from_fn(move || match (one.peek(), other.peek()) {
        (Some(first), Some(second)) if first > second => other.next(),
        (Some(_), _) => one.next(),
        (None, _) => other.next(),
    })
}
