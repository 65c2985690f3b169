//! What one client gets: which fleets it belongs to, its address, and everything it is told.

use std::net::Ipv4Addr;

use super::{SaidBy, Timers, Told, assembled, timers_of, told_by};
use crate::codebook::Assembled;
use crate::plan::{ClientFacts, Family, Fleet, FleetOn, Layer, Match, Network, Plan, Pool, Reservation};

/// What one client gets under a plan.
#[derive(Debug, Clone)]
pub struct Answer<'p> {
    /// The network it is on.
    pub network: &'p Network,
    /// The fleets it belongs to, in the order in which they apply.
    pub fleets: Vec<Recognised<'p>>,
    /// The reservation that names it.
    pub reservation: Option<&'p Reservation>,
    /// The address it gets, or why it gets none.
    pub address: Result<Given<'p>, NoAddress>,
    /// How long it may keep the address.
    pub timers: Timers<'p>,
    /// Every option the plan has for it, before anybody asks whether the client wants it.
    pub told: Vec<Told<'p>>,
    /// The payloads of these, and of what follows from the network itself.
    pub payloads: Vec<Assembled<SaidBy<'p>>>,
}

/// A fleet that a client belongs to, and why.
#[derive(Debug, Clone)]
pub struct Recognised<'p> {
    /// The fleet.
    pub fleet: &'p Fleet,
    /// What of the client fits which pattern.
    pub by: Vec<Fit>,
}

/// Something a client sends that fits a pattern.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Fit {
    /// What it is, as a plan writes it.
    pub fact: String,
    /// What the client sends.
    pub seen: String,
    /// The pattern that it fits.
    pub pattern: String,
}

/// An address, and where it comes from.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Given<'p> {
    /// The address.
    pub address: Ipv4Addr,
    /// The pool it is the first free one of; `None` when it is reserved.
    pub pool: Option<&'p Pool>,
    /// The fleet whose pool that is; `None` for the network's own.
    pub fleet: Option<&'p str>,
}

/// Why a client gets no address.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum NoAddress {
    /// The network lends none.
    NoPool,
    /// All are taken.
    AllTaken,
}

impl std::fmt::Display for NoAddress {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(match self {
            Self::NoPool => "the network lends no addresses",
            Self::AllTaken => "every address of its pool is taken",
        })
    }
}

/// What one client gets.
pub(super) fn answer<'p>(plan: &'p Plan, facts: &ClientFacts) -> Option<Answer<'p>> {
    let network = plan.networks.get(facts.network)?;
    let fleets: Vec<Recognised<'p>> =
        plan.fleets.iter().filter_map(|fleet| recognise(plan, fleet, facts, Family::V4)).collect();
    let on: Vec<(&Fleet, &FleetOn)> =
        fleets.iter().filter_map(|known| Some((known.fleet, known.fleet.on(facts.network)?))).collect();
    let reservation = facts.keys().find_map(|key| plan.reservations.of(facts.network, &key));
    let mut layers: Vec<&Layer> = vec![&plan.everyone, &network.layer];
    layers.extend(fleets.iter().map(|known| &known.fleet.layer));
    layers.extend(on.iter().map(|(_, on)| &on.layer));
    layers.extend(reservation.and_then(Reservation::layer));
    let told = told_by(&layers, Family::V4);
    let timers = timers_of(&layers, &told);
    let payloads = assembled(plan, network, &timers, &told);
    let address = address(plan, network, facts, reservation, &on);
    Some(Answer { network, fleets, reservation, address, timers, told, payloads })
}

pub(super) fn recognise<'p>(
    plan: &Plan,
    fleet: &'p Fleet,
    facts: &ClientFacts,
    family: Family,
) -> Option<Recognised<'p>> {
    let mut by = Vec::new();
    holds(plan, &fleet.recognised, (facts, family), &mut by).then_some(Recognised { fleet, by })
}

fn holds(plan: &Plan, wanted: &Match, client: (&ClientFacts, Family), by: &mut Vec<Fit>) -> bool {
    match wanted {
        // A fleet that says nothing is recognised by nothing.
        Match::All(all) => !all.is_empty() && all.iter().all(|one| holds(plan, one, client, by)),
        Match::Any(any) => any.iter().any(|one| holds(plan, one, client, by)),
        Match::None(none) => {
            let hit = none.iter().any(|one| holds(plan, one, client, &mut Vec::new()));
            if !hit {
                let fact = "none of".to_owned();
                by.push(Fit { fact, seen: String::new(), pattern: format!("{} others", none.len()) });
            }
            !hit
        }
        Match::Sends { fact, patterns, .. } => {
            let texts = client.0.texts(&plan.codebook, fact, client.1);
            let pairs = texts.iter().flat_map(|text| patterns.iter().map(move |pattern| (text, pattern)));
            let mut fitting = pairs.filter(|(text, pattern)| pattern.fits(text));
            let Some((text, pattern)) = fitting.next() else { return false };
            by.push(Fit { fact: fact.to_string(), seen: text.clone(), pattern: pattern.to_string() });
            true
        }
    }
}

/// The reserved address; else the first free one of the first fleet that has a pool of its own here; else the first
/// free one of the network's, which leaves out what fleets have for themselves.
fn address<'p>(
    plan: &'p Plan,
    network: &'p Network,
    facts: &ClientFacts,
    reservation: Option<&Reservation>,
    on: &[(&'p Fleet, &'p FleetOn)],
) -> Result<Given<'p>, NoAddress> {
    if let Some((address, _)) = reservation.and_then(Reservation::address) {
        return Ok(Given { address, pool: None, fleet: None });
    }
    let own = on.iter().find(|(_, on)| !on.pools.is_empty());
    let (pools, fleet) = match own {
        Some((fleet, on)) => (&on.pools, Some(fleet.name.as_str())),
        None => (&network.pools, None),
    };
    if pools.is_empty() {
        return Err(NoAddress::NoPool);
    }
    let mut left = facts.leased;
    for pool in pools {
        let mut at = u32::from(pool.first);
        while at <= u32::from(pool.last) {
            let address = Ipv4Addr::from(at);
            if let Some(end) = taken(plan, facts.network, address, fleet.is_some()) {
                // Nothing up to there is free either.
                match u32::from(end).checked_add(1) {
                    Some(next) => at = next.max(at + 1),
                    None => break,
                }
                continue;
            }
            if left == 0 {
                return Ok(Given { address, pool: Some(pool), fleet });
            }
            left -= 1;
            at += 1;
        }
    }
    Err(NoAddress::AllTaken)
}

/// Up to where, from this address on, none may be lent; `None` when it may.
fn taken(plan: &Plan, network: usize, address: Ipv4Addr, of_fleet: bool) -> Option<Ipv4Addr> {
    let at = &plan.networks[network];
    let fleets = plan.fleets.iter().filter(|_| !of_fleet).filter_map(|fleet| fleet.on(network));
    let mut ranges = at.excluded.iter().chain(fleets.flat_map(|on| &on.pools));
    let range = ranges.find(|pool| pool.holds(address)).map(|pool| pool.last);
    range.or_else(|| plan.reservations.has(network, address).then_some(address))
}
