//! What a plan's layers come to: who is told what, and which layer says so.

use std::sync::Arc;

use crate::codebook::Definition;
use crate::finding::Spot;
use crate::layout::Value;
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
