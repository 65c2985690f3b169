//! What came of a lab.

use std::collections::HashMap;
use std::net::{IpAddr, Ipv4Addr, Ipv6Addr};
use std::time::Duration;

use super::{Client, End, Event};
use crate::answer::lease::{blocked, merged, pools};
use crate::compiled::Compiled;
use crate::family::{Address, Family};
use crate::octets::Mac;
use crate::plan::gaps;
use crate::server::Leased;

/// What came of the clients of one group.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
#[non_exhaustive]
pub struct GroupTally {
    /// What it is called.
    pub name: String,
    /// Its network, by its place.
    pub network: usize,
    /// How many clients it has.
    pub clients: u64,
    /// How many of them had what their network has for them when the time was up, or were switched off.
    pub content: u64,
    /// How many addresses and prefixes they were leased, not counting when those were extended.
    pub leased: u64,
    /// How many leases were extended.
    pub renewed: u64,
    /// How many were released.
    pub released: u64,
    /// How many ended before they were extended.
    pub expired: u64,
    /// How many requests were refused.
    pub refused: u64,
    /// How often a client gave up waiting for a reply.
    pub unanswered: u64,
    /// How often a client had settings without an address.
    pub settings: u64,
    /// How many addresses they formed by themselves.
    pub formed: u64,
}

/// What clients are leased from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Stock {
    /// Addresses of a family.
    Addresses(Family),
    /// Prefixes.
    Prefixes,
}

/// How far the pools of a network, or of a fleet on it, were used.
#[derive(Debug, Clone, PartialEq, Eq)]
#[non_exhaustive]
pub struct PoolTally {
    /// The network, by its place.
    pub network: usize,
    /// The fleet whose pools they are; `None` for the network's own.
    pub fleet: Option<String>,
    /// What is leased.
    pub stock: Stock,
    /// How many there are.
    pub size: u128,
    /// How many were leased at a time at most.
    pub peak: u64,
    /// How often nothing was left for a client, and when that was first.
    pub empty: Option<(u64, Duration)>,
    held: u64,
}

/// What came of a lab.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
#[non_exhaustive]
pub struct Tally {
    /// Of each group.
    pub groups: Vec<GroupTally>,
    /// Of each pool that a client could be leased something from.
    pub pools: Vec<PoolTally>,
    /// How many messages reached the server.
    pub requests: u64,
    /// How many it sent.
    pub replies: u64,
    /// What two clients held at a time: the lease, who had it, who got it too, and when.
    pub twice: Vec<(Leased, Mac, Mac, Duration)>,
    held: HashMap<(usize, Leased), usize>,
    known: HashMap<(usize, Option<String>, Stock), usize>,
}

/// The pools of one client, by their places in the tally.
#[derive(Debug, Clone, Copy, Default)]
pub(super) struct Own {
    v4: Option<usize>,
    v6: Option<usize>,
    prefixes: Option<usize>,
}

impl Own {
    fn of(self, leased: Leased) -> Option<usize> {
        match leased {
            Leased::Address(IpAddr::V4(_)) => self.v4,
            Leased::Address(IpAddr::V6(_)) => self.v6,
            Leased::Prefix(_) => self.prefixes,
        }
    }
}

impl Tally {
    /// The pools that a client's leases come from.
    pub(super) fn pools_of(&mut self, compiled: &Compiled<'_>, client: &Client) -> Own {
        let facts = client.facts();
        let network = facts.network;
        let mut own = Own::default();
        for family in Family::ALL {
            let Some(known) = compiled.identify(family, facts) else { continue };
            let reserved = known.reservation;
            let at = match family {
                Family::V4 if reserved.is_none_or(|row| row.address::<Ipv4Addr>().is_none()) => {
                    self.pool::<Ipv4Addr>(compiled, network, &known)
                }
                Family::V6 if reserved.is_none_or(|row| row.address::<Ipv6Addr>().is_none()) => {
                    self.pool::<Ipv6Addr>(compiled, network, &known)
                }
                _ => None,
            };
            match family {
                Family::V4 => own.v4 = at,
                Family::V6 => own.v6 = at,
            }
            if family == Family::V6 && facts.delegation && reserved.is_none_or(|row| row.delegated().is_none()) {
                let ranges = known.network.delegates.iter();
                let sizes = ranges.map(|one| 1u128.unbounded_shl(u32::from(one.length - one.within.length())));
                let size = sizes.fold(0u128, u128::saturating_add);
                own.prefixes = (size > 0).then(|| self.place(network, None, Stock::Prefixes, size));
            }
        }
        own
    }

    fn pool<A: Address>(
        &mut self,
        compiled: &Compiled<'_>,
        network: usize,
        known: &crate::answer::Identified<'_>,
    ) -> Option<usize> {
        let (all, fleet) = pools::<A>(compiled, network, &known.fleets);
        let stock = Stock::Addresses(A::FAMILY);
        let key = (network, fleet.map(str::to_owned), stock);
        if let Some(at) = self.known.get(&key) {
            return Some(*at);
        }
        let blocked = blocked::<A>(compiled, network, fleet.is_some());
        let size = all.iter().flat_map(|pool| {
            let (first, last) = pool.bits();
            let reserved = compiled.reservations.addresses_from(network, pool.first);
            let reserved = reserved.map(|address: A| (address.bits(), address.bits()));
            gaps(first, last, merged(blocked.from(first).iter().copied(), reserved))
        });
        let size = size.fold(0u128, |sum, (first, last)| sum.saturating_add(last - first).saturating_add(1));
        (!all.is_empty()).then(|| self.place(network, key.1, stock, size))
    }

    fn place(&mut self, network: usize, fleet: Option<String>, stock: Stock, size: u128) -> usize {
        let Self { pools, known, .. } = self;
        *known.entry((network, fleet.clone(), stock)).or_insert_with(|| {
            pools.push(PoolTally { network, fleet, stock, size, peak: 0, empty: None, held: 0 });
            pools.len() - 1
        })
    }

    /// Counts what became of a client. `others` says whether another client holds something.
    pub(super) fn count(&mut self, (at, clients): (usize, &[super::run::Placed]), event: &Event, now: Duration) {
        let placed = &clients[at];
        let group = &mut self.groups[placed.group];
        let network = group.network;
        match event {
            Event::Leased { leased, .. } => {
                group.leased += 1;
                if let Some(other) = self.held.insert((network, *leased), at).filter(|other| *other != at) {
                    let other = &clients[other];
                    if other.client.held(now).any(|held| held == *leased) {
                        self.twice.push((*leased, other.client.mac(), placed.client.mac(), now));
                    } else if let Some(pool) = other.own.of(*leased) {
                        // Whoever was switched off without a word had it.
                        self.pools[pool].held = self.pools[pool].held.saturating_sub(1);
                    }
                }
                if let Some(pool) = placed.own.of(*leased).map(|pool| &mut self.pools[pool]) {
                    pool.held += 1;
                    pool.peak = pool.peak.max(pool.held);
                }
            }
            Event::Renewed { .. } => group.renewed += 1,
            Event::Ended { leased, why } => {
                match why {
                    End::Expired => group.expired += 1,
                    End::Released => group.released += 1,
                    End::Refused => {}
                }
                if self.held.get(&(network, *leased)) == Some(&at) {
                    self.held.remove(&(network, *leased));
                    if let Some(pool) = placed.own.of(*leased).map(|pool| &mut self.pools[pool]) {
                        pool.held = pool.held.saturating_sub(1);
                    }
                }
            }
            Event::Refused { family, .. } => {
                group.refused += 1;
                self.empty(placed.own, *family, now);
            }
            Event::Unanswered(family) => {
                group.unanswered += 1;
                self.empty(placed.own, *family, now);
            }
            Event::Settings(_) => group.settings += 1,
            Event::Formed(_) => group.formed += 1,
            Event::WithoutIpv4 => {}
        }
    }

    /// Notes that nothing was left for a client, where that is so.
    fn empty(&mut self, own: Own, family: Family, now: Duration) {
        let of = match family {
            Family::V4 => [own.v4, None],
            Family::V6 => [own.v6, own.prefixes],
        };
        for pool in of.into_iter().flatten() {
            let pool = &mut self.pools[pool];
            if u128::from(pool.held) >= pool.size {
                let (count, first) = pool.empty.unwrap_or((0, now));
                pool.empty = Some((count + 1, first));
            }
        }
    }
}
