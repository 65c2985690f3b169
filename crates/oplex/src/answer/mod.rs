//! What a plan's layers come to: who is told what, and which layer says so.

mod announce;
mod client;
mod client_v6;
mod exchange;
mod exchange_v6;

use std::sync::Arc;

use crate::codebook::{Assembled, Definition, assemble};
use crate::finding::Spot;
use crate::layout::Value;
use crate::packet::v4::{Budget, COOKIE, Composer, Draft, HEADER, Limit, MessageType};
use crate::plan::{ClientFacts, DEFAULT_LEASE, Family, Fleet, FleetOn, Layer, Network, Plan, Sent};

pub use announce::announcement;
pub use client::{Answer, Fit, Given, NoAddress, Recognised};
pub use client_v6::{AnswerV6, Asks, By, GivenV6, HostAddress, NoAddressV6, TimersV6};
pub use exchange::{Exchange, Sent as SentMessage};
pub use exchange_v6::{Carried, ExchangeV6, SentV6};

impl Plan {
    /// What one client gets; `None` when it is on no network of the plan.
    #[must_use]
    pub fn answer(&self, facts: &ClientFacts) -> Option<Answer<'_>> {
        client::answer(self, facts)
    }

    /// The messages by which a client gets its answer, octet for octet.
    ///
    /// # Errors
    /// Options in the plan that no message can hold.
    pub fn exchange(
        &self,
        facts: &ClientFacts,
        answer: &Answer<'_>,
    ) -> Result<Exchange, crate::packet::v4::ComposeError> {
        exchange::exchange(self, facts, answer)
    }
}

impl Plan {
    /// What one client gets by IPv6; `None` when it is on no network of the plan, or on one without a prefix.
    #[must_use]
    pub fn answer_v6(&self, facts: &ClientFacts) -> Option<AnswerV6<'_>> {
        client_v6::answer(self, facts)
    }

    /// The messages by which a client gets its answer by IPv6, octet for octet: its router's announcement, and what follows
    /// from that by DHCPv6.
    ///
    /// # Errors
    /// Options in the plan that no message can hold.
    pub fn exchange_v6(
        &self,
        facts: &ClientFacts,
        answer: &AnswerV6<'_>,
    ) -> Result<ExchangeV6, crate::packet::v6::ComposeError> {
        exchange_v6::exchange(self, facts, answer)
    }
}

/// One option that a device is told.
#[derive(Debug, Clone)]
pub struct Told<'p> {
    /// The option, its octets and its place in the plan.
    pub sent: &'p Sent,
    /// The layer that says so.
    pub layer: &'p Layer,
    /// What wider layers would have said, the nearest first.
    pub overrides: Vec<(&'p Layer, &'p Sent)>,
}

/// What every device on a network is told, in the order of the codes. The narrower layer wins, option by option;
/// what it withholds is not told.
#[must_use]
pub fn told<'p>(plan: &'p Plan, network: &'p Network) -> Vec<Told<'p>> {
    told_by(&[&plan.everyone, &network.layer], Family::V4)
}

/// What the devices of a fleet are told on a network, or those of none.
#[must_use]
pub fn told_on<'p>(plan: &'p Plan, network: &'p Network, fleet: Option<&'p Fleet>) -> Vec<Told<'p>> {
    told_by(&layers_on(plan, network, fleet), Family::V4)
}

/// What the devices of a fleet are told on a network by DHCPv6, or those of none.
#[must_use]
pub fn told_v6_on<'p>(plan: &'p Plan, network: &'p Network, fleet: Option<&'p Fleet>) -> Vec<Told<'p>> {
    told_by(&layers_on(plan, network, fleet), Family::V6)
}

/// The payloads of everything a network's devices are told by DHCPv6, vendors' options in what carries them.
#[must_use]
pub fn payloads_v6<'p>(plan: &'p Plan, network: &'p Network) -> Vec<Assembled<SaidBy<'p>>> {
    client_v6::payloads(&told_v6_on(plan, network, None))
}

/// The times of what a network lends by DHCPv6.
#[must_use]
pub fn timers_v6<'p>(plan: &'p Plan, network: &'p Network) -> TimersV6<'p> {
    client_v6::timers(&[&plan.everyone, &network.layer])
}

fn layers_on<'p>(plan: &'p Plan, network: &'p Network, fleet: Option<&'p Fleet>) -> Vec<&'p Layer> {
    let here = |on: &&FleetOn| std::ptr::eq(&plan.networks[on.network], network);
    let on = fleet.and_then(|fleet| fleet.on.iter().find(here));
    let layers = [Some(&plan.everyone), Some(&network.layer), fleet.map(|fleet| &fleet.layer), on.map(|on| &on.layer)];
    layers.into_iter().flatten().collect()
}

/// What these layers come to, from wide to narrow.
fn told_by<'p>(layers: &[&'p Layer], family: Family) -> Vec<Told<'p>> {
    let mut told: Vec<Told<'p>> = Vec::new();
    for layer in layers {
        told.retain(|told| !layer.withheld.iter().any(|out| same(&out.definition, &told.sent.definition)));
        let sends = if family == Family::V6 { &layer.sends_v6 } else { &layer.sends };
        for sent in sends {
            match told.iter_mut().find(|told| same(&told.sent.definition, &sent.definition)) {
                Some(wider) => {
                    wider.overrides.insert(0, (wider.layer, wider.sent));
                    (wider.layer, wider.sent) = (layer, sent);
                }
                None => told.push(Told { sent, layer, overrides: Vec::new() }),
            }
        }
    }
    told.sort_by_key(|told| told.sent.definition.code);
    told
}

fn same(a: &Arc<Definition>, b: &Arc<Definition>) -> bool {
    Arc::ptr_eq(a, b)
}

/// One of the times that go with a lease.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Timer<'p> {
    /// In seconds; [`u32::MAX`] is for ever.
    pub seconds: u32,
    /// Where it is written; `None` when it follows from the lease, or from nothing.
    pub spot: Option<Spot>,
    /// The layer that says so.
    pub layer: Option<&'p str>,
}

/// The times that a network's devices are told with their leases.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Timers<'p> {
    /// How long the address is lent.
    pub lease: Timer<'p>,
    /// When the client starts to renew (T1); half the lease where the plan says nothing.
    pub renew: Timer<'p>,
    /// When the client starts to rebind (T2); seven eighths of the lease where the plan says nothing.
    pub rebind: Timer<'p>,
}

/// The times of a network's leases: its own, the plan's, or the defaults of RFC 2131, section 4.4.5.
#[must_use]
pub fn timers<'p>(plan: &'p Plan, network: &'p Network) -> Timers<'p> {
    timers_of(&[&plan.everyone, &network.layer], &told(plan, network))
}

/// The times that these layers come to, from wide to narrow.
fn timers_of<'p>(layers: &[&'p Layer], told: &[Told<'p>]) -> Timers<'p> {
    let written = |of: fn(&Layer) -> &Option<(u32, Spot)>| {
        layers.iter().rev().find_map(|layer| {
            let (seconds, spot) = of(layer).clone()?;
            Some(Timer { seconds, spot: Some(spot), layer: Some(&layer.name) })
        })
    };
    let lease = written(|layer| &layer.lease).unwrap_or(Timer { seconds: DEFAULT_LEASE, spot: None, layer: None });
    let part = |numerator: u64| {
        let all = lease.seconds;
        let seconds = if all == u32::MAX { all } else { (u64::from(all) * numerator / 8) as u32 };
        Timer { seconds, spot: None, layer: None }
    };
    let timer = |id: &str, written: Option<Timer<'p>>, default: Timer<'p>| {
        let sent = told.iter().find(|told| told.sent.definition.has_id(id));
        match sent.and_then(|told| Some((&told.sent.payload()?.value, told))) {
            Some((Value::Seconds(seconds), told)) => {
                let spot = Some(told.sent.spot.clone());
                Timer { seconds: *seconds, spot, layer: Some(&told.layer.name) }
            }
            _ => written.unwrap_or(default),
        }
    };
    Timers {
        renew: timer("v4:58", written(|layer| &layer.renew), part(4)),
        rebind: timer("v4:59", written(|layer| &layer.rebind), part(7)),
        lease,
    }
}

/// Where an option of an answer comes from.
#[derive(Debug, Clone)]
pub struct SaidBy<'p> {
    /// The layer that says so.
    pub layer: &'p str,
    /// Where it says so; `None` for what no line says, such as the default lease.
    pub spot: Option<Spot>,
}

/// The payloads of everything a network's devices are told, in the order of the codes: what follows from the network
/// itself, what its layers send, and vendors' options in what carries them. `None` without a subnet. What has no octets
/// is left out.
#[must_use]
pub fn payloads<'p>(plan: &'p Plan, network: &'p Network) -> Option<Vec<Assembled<SaidBy<'p>>>> {
    network.subnet.as_ref()?;
    Some(assembled(plan, network, &timers(plan, network), &told(plan, network)))
}

fn assembled<'p>(
    plan: &'p Plan,
    network: &'p Network,
    timers: &Timers<'p>,
    told: &[Told<'p>],
) -> Vec<Assembled<SaidBy<'p>>> {
    let network_says = |spot: Option<Spot>| SaidBy { layer: &network.layer.name, spot };
    let mask = network
        .subnet
        .as_ref()
        .map(|subnet| (1, u32::from(subnet.net.netmask()).to_be_bytes(), network_says(Some(subnet.spot.clone()))));
    let times = [(51, &timers.lease), (58, &timers.renew), (59, &timers.rebind)].map(|(code, timer)| {
        let layer = timer.layer.unwrap_or(&network.layer.name);
        (code, timer.seconds.to_be_bytes(), SaidBy { layer, spot: timer.spot.clone() })
    });
    let own: Vec<(u16, [u8; 4], SaidBy<'p>)> = mask.into_iter().chain(times).collect();
    let computed =
        own.iter().filter_map(|(code, octets, by)| Some((plan.codebook.v4(*code)?, &octets[..], by.clone())));
    let sent = told.iter().filter_map(|told| {
        let by = SaidBy { layer: &told.layer.name, spot: Some(told.sent.key.clone()) };
        Some((&*told.sent.definition, &told.sent.payload()?.octets[..], by))
    });
    assemble(computed.chain(sent))
}

/// The octets of a client identifier as most clients send it: the kind of hardware and its address.
const CLIENT_ID: [u8; 7] = [1, 0, 0, 0, 0, 0, 0];

/// The largest answer on a network.
#[derive(Debug, Clone)]
pub struct Largest<'p> {
    /// The fleet it goes to; `None` for a device of none.
    pub fleet: Option<&'p str>,
    /// What it is made of.
    pub payloads: Vec<Assembled<SaidBy<'p>>>,
    /// What it has room for.
    pub budget: Budget,
}

/// The largest answer on a network: one to a device of no fleet or of one, that asks for everything, sends an
/// identifier, says nothing of how much it accepts, and may not join parts. `None` without a subnet, or when an option's
/// code is none that a message can hold.
#[must_use]
pub fn largest_reply<'p>(plan: &'p Plan, network: &'p Network) -> Option<Largest<'p>> {
    network.subnet.as_ref()?;
    let mut largest: Option<Largest<'p>> = None;
    for fleet in std::iter::once(None).chain(plan.fleets.iter().map(Some)) {
        let layers = layers_on(plan, network, fleet);
        let told = told_by(&layers, Family::V4);
        let payloads = assembled(plan, network, &timers_of(&layers, &told), &told);
        let budget = composed(&payloads)?;
        let size = |budget: &Budget| budget.used + budget.left_out.iter().map(|out| out.cost).sum::<usize>();
        if largest.as_ref().is_none_or(|known| size(&known.budget) < size(&budget)) {
            largest = Some(Largest { fleet: fleet.map(|fleet| fleet.name.as_str()), payloads, budget });
        }
    }
    largest
}

/// Whether an answer surely has room for all of this, so that nobody need compose it to know.
pub(crate) fn surely_fits(told: &[Told<'_>]) -> bool {
    // The lease and its times, the mask, the type and both identifiers take 51 octets.
    let own = 60;
    let cost = |told: &Told<'_>| {
        let length = told.sent.payload().map_or(0, |payload| payload.octets.len());
        // A vendor's option travels in each of its carriers, with a header and an enterprise number at most.
        (length + 2 * (length / 255 + 1) + 12) * told.sent.definition.carriers.len().max(1)
    };
    own + told.iter().map(cost).sum::<usize>() < Limit::DEFAULT.octets - HEADER - COOKIE.len()
}

fn composed(payloads: &[Assembled<SaidBy<'_>>]) -> Option<Budget> {
    let own = [(54, &[0; 4][..]), (61, &CLIENT_ID[..])];
    // These follow from the server and the client, whatever a layer says.
    let told = payloads.iter().filter(|told| ![52, 53, 54, 61].contains(&told.code));
    let told = told.map(|told| Some((u8::try_from(told.code).ok()?, &told.octets[..])));
    let options: Vec<(u8, &[u8])> = own.into_iter().map(Some).chain(told).collect::<Option<_>>()?;
    // In the draft's own order: asking for an option that must be joined would say that the client joins.
    let mut composer = Composer::default();
    let draft = Draft { options: &options, ..Draft::new(MessageType::ACK) };
    composer.compose(&draft).ok().map(|composed| composed.budget.clone())
}
