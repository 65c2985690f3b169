//! What a client may be leased.

use std::net::Ipv6Addr;

use super::leases::{Choices, Holder, Leased, Leases, Range};
use super::{Server, address, leased};
use crate::answer::Identified;
use crate::answer::lease::{merged, pools};
use crate::family::{Address, Net};
use crate::plan::{Disjoint, Pool, Reservation, Reservations, gaps};

/// What a client may be leased.
struct Leasable<'s, A: Address> {
    /// This and nothing else.
    reserved: Option<A>,
    pools: &'s [Pool<A>],
    blocked: &'s Disjoint,
    network: usize,
    reservations: &'s Reservations,
}

impl<A: Address> Leasable<'_, A> {
    fn has(&self, wanted: A) -> bool {
        if let Some(reserved) = self.reserved {
            return reserved == wanted;
        }
        let other = || self.reservations.addresses_from(self.network, wanted).next() == Some(wanted);
        self.pools.iter().any(|pool| pool.holds(wanted)) && !self.blocked.holds(wanted.bits()) && !other()
    }
}

impl<'c> Server<'c> {
    /// Whether a client may have this address: it is reserved for it, or in its pools and free of what is not leased.
    pub(super) fn may_have<A: Address>(&mut self, network: usize, known: &Identified<'c>, wanted: A) -> bool {
        self.leasable(network, known).has(wanted)
    }

    fn leasable<A: Address>(&mut self, network: usize, known: &Identified<'c>) -> Leasable<'_, A> {
        let compiled = self.compiled;
        let (pools, fleet) = pools::<A>(compiled, network, &known.fleets);
        let blocked = self.prepared.blocked::<A>(compiled, network, fleet.is_some());
        let reserved = known.reservation.and_then(Reservation::address::<A>).map(|(address, _)| address);
        Leasable { reserved, pools, blocked, network, reservations: &compiled.reservations }
    }

    /// An address for a client: the reserved one, the one it had, the one it wants, or a free one.
    pub(super) fn offer<A: Address>(
        &mut self,
        network: usize,
        known: &Identified<'c>,
        holder: &Holder<'_>,
        wanted: Option<A>,
        leases: &mut impl Leases,
    ) -> Option<A> {
        let leasable = self.leasable::<A>(network, known);
        let had = leases.find(holder).and_then(address::<A>).filter(|had| leasable.has(*had));
        let wanted = had.or_else(|| wanted.filter(|wanted| leasable.has(*wanted)));
        let Leasable { reserved, pools, blocked, reservations, .. } = leasable;
        let mut ranges = pools.iter().flat_map(|pool| {
            let (first, last) = pool.bits();
            let reserved = reservations.addresses_from(network, pool.first);
            let reserved = reserved.map(|address: A| (address.bits(), address.bits()));
            gaps(first, last, merged(blocked.from(first).iter().copied(), reserved))
        });
        let mut ranges = std::iter::from_fn(|| ranges.next().map(|(first, last)| Range::of::<A>(first, last)));
        let mut choices = Choices { reserved: reserved.map(leased), wanted: wanted.map(leased), ranges: &mut ranges };
        leases.offer(holder, &mut choices).and_then(address::<A>)
    }

    /// Whether a client may have this prefix.
    pub(super) fn may_have_prefix(&mut self, network: usize, known: &Identified<'c>, wanted: Net<Ipv6Addr>) -> bool {
        if let Some((reserved, _)) = known.reservation.and_then(Reservation::delegated) {
            return reserved == wanted;
        }
        let within =
            |one: &crate::plan::Delegation| one.length == wanted.length() && one.within.trunc().holds(wanted.first());
        let reserved = self.prepared.delegated(self.compiled, network).iter().any(|net| net.meets(&wanted));
        known.network.delegates.iter().any(within) && !reserved
    }

    /// A prefix for a client, as an address.
    pub(super) fn delegate(
        &mut self,
        network: usize,
        known: &Identified<'c>,
        holder: &Holder<'_>,
        wanted: Option<Net<Ipv6Addr>>,
        leases: &mut impl Leases,
    ) -> Option<Net<Ipv6Addr>> {
        let prefix = |leased: Leased| match leased {
            Leased::Prefix(net) => Some(net),
            Leased::Address(_) => None,
        };
        let reserved = known.reservation.and_then(Reservation::delegated).map(|(net, _)| Leased::Prefix(net));
        let had = leases.find(holder).and_then(prefix).filter(|had| self.may_have_prefix(network, known, *had));
        let wanted = had.or_else(|| wanted.filter(|wanted| self.may_have_prefix(network, known, *wanted)));
        let taken = self.prepared.delegated(self.compiled, network);
        let mut ranges = known.network.delegates.iter().flat_map(|one| {
            let step = 128 - u32::from(one.length);
            let within = one.within.trunc();
            let number = move |address: Ipv6Addr| address.bits().unbounded_shr(step);
            let taken = taken.iter().map(move |net| (number(net.first()), number(net.last())));
            let free = gaps(number(within.first()), number(within.last()), taken);
            free.map(move |(first, last)| Range::prefixes(first, last, one.length))
        });
        let mut choices = Choices { reserved, wanted: wanted.map(Leased::Prefix), ranges: &mut ranges };
        leases.offer(holder, &mut choices).and_then(prefix)
    }
}
