//! What a plan's layers come to: who is told what, and which layer says so.

use std::sync::Arc;

use crate::codebook::{Assembled, Definition, assemble};
use crate::finding::Spot;
use crate::layout::Value;
use crate::packet::v4::{Budget, Composer, Draft, MessageType};
use crate::plan::{Layer, Network, Plan, Sent};

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
    let mut told: Vec<Told<'p>> = Vec::new();
    for layer in [&plan.everyone, &network.layer] {
        told.retain(|told| !layer.withheld.iter().any(|out| same(&out.definition, &told.sent.definition)));
        for sent in &layer.sends {
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
pub struct Timer {
    /// In seconds; [`u32::MAX`] is for ever.
    pub seconds: u32,
    /// Where it is written; `None` when it follows from the lease, or from nothing.
    pub spot: Option<Spot>,
}

/// The times that a network's devices are told with their leases.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Timers {
    /// How long the address is lent.
    pub lease: Timer,
    /// When the client starts to renew (T1); half the lease where the plan says nothing.
    pub renew: Timer,
    /// When the client starts to rebind (T2); seven eighths of the lease where the plan says nothing.
    pub rebind: Timer,
}

/// The times of a network's leases: its own, the plan's, or the defaults of RFC 2131, section 4.4.5.
#[must_use]
pub fn timers(plan: &Plan, network: &Network) -> Timers {
    let (lease, spot) = plan.lease(network);
    let part = |numerator: u64| {
        let seconds = if lease == u32::MAX { lease } else { (u64::from(lease) * numerator / 8) as u32 };
        Timer { seconds, spot: None }
    };
    let layers = [&network.layer, &plan.everyone];
    let told = told(plan, network);
    let timer = |id: &str, written: Option<(u32, Spot)>, default: Timer| {
        let sent = told.iter().find(|told| told.sent.definition.has_id(id)).map(|told| told.sent);
        match sent.and_then(|sent| Some((&sent.payload()?.value, &sent.spot))) {
            Some((Value::Seconds(seconds), spot)) => Timer { seconds: *seconds, spot: Some(spot.clone()) },
            _ => written.map_or(default, |(seconds, spot)| Timer { seconds, spot: Some(spot) }),
        }
    };
    Timers {
        renew: timer("v4:58", layers.iter().find_map(|layer| layer.renew.clone()), part(4)),
        rebind: timer("v4:59", layers.iter().find_map(|layer| layer.rebind.clone()), part(7)),
        lease: Timer { seconds: lease, spot },
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
    let subnet = network.subnet.as_ref()?;
    let timers = timers(plan, network);
    let own = [
        (1, u32::from(subnet.net.netmask()), Some(subnet.spot.clone())),
        (51, timers.lease.seconds, timers.lease.spot),
        (58, timers.renew.seconds, timers.renew.spot),
        (59, timers.rebind.seconds, timers.rebind.spot),
    ];
    let own = own.map(|(code, number, spot)| (code, number.to_be_bytes(), spot));
    let computed = own.iter().filter_map(|(code, octets, spot)| {
        let by = SaidBy { layer: &network.layer.name, spot: spot.clone() };
        Some((plan.codebook.v4(*code)?, &octets[..], by))
    });
    let told = told(plan, network);
    let sent = told.iter().filter_map(|told| {
        let by = SaidBy { layer: &told.layer.name, spot: Some(told.sent.key.clone()) };
        Some((&*told.sent.definition, &told.sent.payload()?.octets[..], by))
    });
    Some(assemble(computed.chain(sent)))
}

/// The octets of a client identifier as most clients send it: the kind of hardware and its address.
const CLIENT_ID: [u8; 7] = [1, 0, 0, 0, 0, 0, 0];

/// What the largest answer on a network has room for: one to a client that asks for everything, sends an identifier,
/// says nothing of how much it accepts, and may not join parts. `None` without a subnet, or when an option's code is
/// none that a message can hold.
#[must_use]
pub fn largest_reply(plan: &Plan, network: &Network) -> Option<Budget> {
    let payloads = payloads(plan, network)?;
    let own = [(54, &[0; 4][..]), (61, &CLIENT_ID[..])];
    // These two follow from the server and the client, whatever a layer says.
    let told = payloads.iter().filter(|told| ![52, 53, 54, 61].contains(&told.code));
    let told = told.map(|told| Some((u8::try_from(told.code).ok()?, &told.octets[..])));
    let options: Vec<(u8, &[u8])> = own.into_iter().map(Some).chain(told).collect::<Option<_>>()?;
    // In the draft's own order: asking for an option that must be joined would say that the client joins.
    let mut composer = Composer::default();
    let draft = Draft { options: &options, ..Draft::new(MessageType::ACK) };
    composer.compose(&draft).ok().map(|composed| composed.budget.clone())
}
