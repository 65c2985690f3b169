//! Which clients a lab has.

use std::collections::{HashMap, HashSet};
use std::sync::Arc;
use std::time::Duration;

use super::ClientKind;
use crate::compiled::{Compiled, Fleet};
use crate::family::{Both, Family};
use crate::octets::Mac;
use crate::plan::{ClientFacts, ClientKey, Fact, Match, Pattern};

/// The first hardware address that clients without one of their own are given: locally administered, as those of no maker are.
const FIRST: u64 = 0x02_00_00_00_00_01;

/// Clients of one kind on one network.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Group {
    /// What it is called where it is counted: its kind, or its fleet.
    pub name: String,
    /// How they behave.
    pub kind: Arc<ClientKind>,
    /// The network that they are on, by its place.
    pub network: usize,
    /// What they say of themselves; each is switched on at its time.
    pub members: Vec<(Duration, ClientFacts)>,
}

/// The clients of a lab.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Population {
    /// The groups, in the order in which they are counted.
    pub groups: Vec<Group>,
    /// Fleets of which no client could be made up: what they are recognised by is not what a client can be described by.
    pub unmatched: Vec<String>,
    /// Whether there would be more than [`Population::MOST`], and some are left out.
    pub more: bool,
}

/// Gives out hardware addresses that no client has yet.
#[derive(Debug)]
pub(super) struct Macs {
    next: u64,
    given: HashSet<Mac>,
}

impl Macs {
    pub(super) fn new(compiled: &Compiled<'_>) -> Self {
        let reserved = compiled.reservations.iter().filter_map(|row| match row.client() {
            ClientKey::Mac(mac) => Some(*mac),
            _ => None,
        });
        Self { next: FIRST, given: reserved.collect() }
    }

    pub(super) fn next(&mut self) -> Mac {
        loop {
            let [_, _, octets @ ..] = self.next.to_be_bytes();
            self.next += 1;
            if self.given.insert(Mac(octets)) {
                return Mac(octets);
            }
        }
    }

    /// The first one from there on that is free.
    fn within(&mut self, first: Mac, last: Mac) -> Option<Mac> {
        let number = |mac: Mac| u64::from_be_bytes([0, 0, mac[0], mac[1], mac[2], mac[3], mac[4], mac[5]]);
        let all = (number(first)..=number(last)).map(|number| {
            let [_, _, octets @ ..] = number.to_be_bytes();
            Mac(octets)
        });
        all.take(1 << 16).find(|mac| self.given.insert(*mac))
    }
}

/// As many clients of reservations are made up for one network.
const RESERVED: usize = 20;

impl Population {
    /// As many clients there are at most: what a lab does with more takes too long to wait for.
    pub const MOST: usize = 100_000;

    /// How many clients there are.
    #[must_use]
    pub fn count(&self) -> usize {
        self.groups.iter().map(|group| group.members.len()).sum()
    }

    /// What there could be on a plan's networks: on each some machines that no fleet knows, some of each fleet that is at home
    /// there, and those that are reserved for; `each` of every group, switched on within ten minutes.
    #[must_use]
    pub fn of(compiled: &Compiled<'_>, each: u32) -> Self {
        let mut made = Self::default();
        let mut macs = Macs::new(compiled);
        let mut unmatched: Vec<&str> = Vec::new();
        let met = met(compiled);
        let mut count = 0;
        for (at, network) in compiled.networks.iter().enumerate() {
            // Each network adds as many kinds as it has fleets, so it is looked at before them.
            let adds = (1 + met[at].len()) * each as usize + RESERVED;
            if count + adds > Self::MOST + RESERVED {
                made.more = true;
                break;
            }
            count += adds - RESERVED;
            let has = |family| network.sides.has(family);
            let kind = match (has(Family::V4), network.delegates.is_empty()) {
                (_, false) => "router",
                (true, _) => "desktop",
                (false, _) => "sensor",
            };
            made.add(compiled, at, kind, each, &mut macs);
            for fleet in &met[at] {
                if !made.add_fleet(compiled, at, fleet, each, &mut macs) && !unmatched.contains(&&*fleet.name) {
                    unmatched.push(&fleet.name);
                }
            }
            made.add_reserved(compiled, at);
        }
        made.unmatched = unmatched.into_iter().map(str::to_owned).collect();
        made
    }

    fn add(&mut self, compiled: &Compiled<'_>, network: usize, kind: &str, each: u32, macs: &mut Macs) {
        let Some(kind) = ClientKind::named(kind) else { return };
        let members = (0..each).filter_map(|number| {
            let facts = kind.facts(&compiled.codebook, network, macs.next(), number + 1).ok()?;
            Some((spread(number, each), facts))
        });
        let members = members.collect();
        self.groups.push(Group { name: kind.name.clone(), kind: Arc::new(kind.clone()), network, members });
    }

    /// Clients of a fleet; `false` where none can be made up.
    fn add_fleet(
        &mut self,
        compiled: &Compiled<'_>,
        network: usize,
        fleet: &Fleet<'_>,
        each: u32,
        macs: &mut Macs,
    ) -> bool {
        let mut kind = ClientKind::new(&*fleet.name);
        kind.requests.v4 = fleet.requests.as_ref().map(|codes| codes.to_vec());
        let mut members = Vec::new();
        for number in 0..each {
            let Ok(mut facts) = kind.facts(&compiled.codebook, network, macs.next(), number + 1) else { return false };
            describe(&fleet.recognised, compiled, &mut facts, macs);
            if kind.requests.v4.is_none() {
                facts.wants.v4 = Some(facts.common_requests());
            }
            let belongs = Family::ALL.into_iter().any(|family| compiled.unfit(fleet, &facts, family).is_empty());
            if !belongs {
                return false;
            }
            members.push((spread(number, each), facts));
        }
        self.groups.push(Group { name: fleet.name.to_string(), kind: Arc::new(kind), network, members });
        true
    }

    /// The clients that the network has reservations for.
    fn add_reserved(&mut self, compiled: &Compiled<'_>, network: usize) {
        let mut kind = ClientKind::new("reserved");
        kind.delegation = true;
        let rows = compiled.reservations.iter().filter(|row| row.network() == network);
        let members = rows.filter_map(|row| {
            let mut facts = ClientFacts::on(network);
            match row.client() {
                ClientKey::Mac(mac) => facts.mac = Some(*mac),
                ClientKey::Duid(duid) => facts.duid = Some(duid.clone()),
                _ => return None,
            }
            facts.wants.v4 = Some(facts.common_requests());
            facts.wants.v6 = Some(vec![23, 24, 56]);
            facts.delegation = row.delegated().is_some();
            Some((Duration::ZERO, facts))
        });
        let mut members: Vec<_> = members.take(RESERVED).collect();
        let (routers, others): (Vec<_>, Vec<_>) = members.drain(..).partition(|(_, facts)| facts.delegation);
        for (kind, members) in [(kind, routers), (ClientKind::new("reserved"), others)] {
            if !members.is_empty() {
                self.groups.push(Group { name: "reserved".to_owned(), kind: Arc::new(kind), network, members });
            }
        }
    }
}

/// On how many networks a fleet is met that is at home on none.
const ANYWHERE: usize = 4;

/// The fleets that are met on each network: those that are sent something of their own there, one that has its name, and those that
/// are at home on none where addresses are leased.
fn met<'c>(compiled: &'c Compiled<'c>) -> Vec<Vec<&'c Fleet<'c>>> {
    let mut met: Vec<Vec<&Fleet<'_>>> = compiled.networks.iter().map(|_| Vec::new()).collect();
    let named: HashMap<&str, usize> =
        compiled.networks.iter().zip(0..).map(|(network, at)| (&*network.name, at)).collect();
    let leasing = compiled.networks.iter().enumerate().filter(|(_, network)| !network.sides.v4.pools.is_empty());
    let anywhere: Vec<usize> = leasing.map(|(at, _)| at).take(ANYWHERE).collect();
    for fleet in &compiled.fleets {
        let mut home: Vec<usize> = fleet.on.iter().map(|on| on.network).collect();
        home.extend(named.get(&*fleet.name).filter(|at| !fleet.on.iter().any(|on| on.network == **at)));
        let places = if home.is_empty() { &anywhere } else { &home };
        for at in places {
            met[*at].push(fleet);
        }
    }
    met
}

/// The time of one of several that are switched on within ten minutes.
fn spread(number: u32, of: u32) -> Duration {
    Duration::from_secs(600) * number / of.max(1)
}

/// Makes a client one that is recognised so, as far as it can be described.
fn describe(wanted: &Match, compiled: &Compiled<'_>, facts: &mut ClientFacts, macs: &mut Macs) {
    match wanted {
        Match::All(all) => {
            for one in all {
                describe(one, compiled, facts, macs);
            }
        }
        Match::Any(any) => {
            if let Some(first) = any.first() {
                describe(first, compiled, facts, macs);
            }
        }
        Match::Sends { fact, patterns, .. } => match (fact, patterns.first()) {
            (Fact::Mac, Some(Pattern::Macs(first, last))) => facts.mac = macs.within(*first, *last).or(facts.mac),
            (Fact::Mac, Some(Pattern::Text(text))) => {
                let filled = format!("{}:00:00:00:00:00:00", text.trim_end_matches(['*', ':']));
                let first = filled.get(..17).and_then(|text| text.parse().ok());
                facts.mac = first.and_then(|first: Mac| macs.within(first, Mac([0xff; 6]))).or(facts.mac);
            }
            (fact, Some(Pattern::Text(text))) => {
                let text = text.replace(['*', '?'], "1");
                // What cannot be described so is seen when the client is held against its fleet.
                let _ = facts.describe(&compiled.codebook, &fact.to_string(), &text);
            }
            _ => {}
        },
        Match::None(_) => {}
    }
}

/// Which families clients on a network can speak.
pub(super) fn families(compiled: &Compiled<'_>, network: usize) -> Both<bool> {
    Both::new(|family| compiled.networks.get(network).is_some_and(|network| network.sides.has(family)))
}
