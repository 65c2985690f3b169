//! What clients of one kind are sent, put together once.

use std::net::{IpAddr, Ipv4Addr, Ipv6Addr};

use foldhash::HashMap;
use smallvec::SmallVec;

use crate::answer::lease::blocked;
use crate::answer::{Answer, Assigned, Identified, NoAddress};
use crate::compiled::Compiled;
use crate::family::{Address, Family, Net};
use crate::plan::{ClientFacts, Disjoint};

/// As many kinds are kept.
const MOST: usize = 4096;

/// Clients that are sent the same: of one network, of the same fleets, with an address in the same subnet.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
struct Kind {
    family: Family,
    network: usize,
    subnet: usize,
    /// In place as a rule, also where there are none: to compare two empty vectors takes long, as the processor masks a read from an
    /// address that there is not.
    fleets: SmallVec<[usize; 4]>,
}

#[derive(Debug, Default)]
pub(super) struct Prepared<'c> {
    kinds: HashMap<Kind, Answer<'c>>,
    /// What a client with values of its own is sent.
    single: Option<Answer<'c>>,
    blocked: HashMap<(Family, usize, bool), Disjoint>,
    delegated: HashMap<usize, Vec<Net<Ipv6Addr>>>,
}

impl<'c> Prepared<'c> {
    /// What a client is sent with this address.
    pub(super) fn answer(
        &mut self,
        compiled: &'c Compiled<'c>,
        family: Family,
        facts: &ClientFacts,
        known: Identified<'c>,
        address: Option<IpAddr>,
    ) -> &Answer<'c> {
        let assigned =
            address.map(|address| Assigned { address, pool: None, fleet: None }).ok_or(NoAddress::NotRequested);
        if known.reservation.is_some_and(|row| row.layer().is_some()) {
            return self.single.insert(compiled.answer_of(family, facts, known, assigned));
        }
        let subnets = &known.network.sides.v4.subnets;
        let own = address.and_then(Ipv4Addr::of);
        let subnet = subnets.iter().position(|subnet| own.is_some_and(|own| subnet.net.holds(own)));
        let fleets = known.fleets.iter().filter_map(|fleet| fleet.place()).collect();
        let kind = Kind { family, network: facts.network, subnet: subnet.unwrap_or(usize::MAX), fleets };
        if self.kinds.len() >= MOST {
            self.kinds.clear();
        }
        self.kinds.entry(kind).or_insert_with(|| compiled.answer_of(family, facts, known, assigned))
    }

    /// What may not be leased on a network besides what is reserved.
    pub(super) fn blocked<A: Address>(&mut self, compiled: &Compiled<'_>, network: usize, of_fleet: bool) -> &Disjoint {
        let blocked = || blocked::<A>(compiled, network, of_fleet);
        self.blocked.entry((A::FAMILY, network, of_fleet)).or_insert_with(blocked)
    }

    /// The prefixes of a network that are reserved for single clients, in their order.
    pub(super) fn delegated(&mut self, compiled: &Compiled<'_>, network: usize) -> &[Net<Ipv6Addr>] {
        self.delegated.entry(network).or_insert_with(|| {
            let facts = ClientFacts { delegation: true, ..ClientFacts::on(network) };
            let mut all = compiled.delegated_on(&facts);
            all.sort_unstable_by_key(|net| net.first());
            all
        })
    }
}
