//! The times that go with what is leased.

use super::associations;
use super::chosen::Chosen;
use crate::compiled::{Computed, Layer, LayerRef, Origin, Time};
use crate::family::{Family, Protocol};
use crate::finding::Spot;
use crate::plan::{DEFAULT_LEASE, Times};

/// One of the times that go with what is leased.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Timer<'a> {
    /// In seconds; [`u32::MAX`] is for ever.
    pub seconds: u32,
    /// Where it stands in the plan; `None` when it follows from another time, or is the default.
    pub spot: Option<&'a Spot>,
    /// The layer that sets it.
    pub layer: Option<LayerRef<'a>>,
}

/// The times that go with what clients are leased.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Timers<'a> {
    /// How long an address is leased, or valid; one day by default.
    pub lease: Timer<'a>,
    /// How long it is preferred: as long as it is valid by default, and always in DHCPv4.
    pub preferred: Timer<'a>,
    /// When the client starts to renew (T1).
    pub renew: Timer<'a>,
    /// When the client starts to rebind (T2).
    pub rebind: Timer<'a>,
}

/// The times that these layers come to, from wide to narrow. T1 and T2 follow by default from the lease (RFC 2131, section
/// 4.4.5) or from the preferred lifetime (RFC 8415, section 21.4).
pub(super) fn timers<'a>(family: Family, layers: &[&Layer<'a>], sent: &[Chosen<'a>]) -> Timers<'a> {
    let set = |of: fn(&Times<Time<'a>>) -> Option<Time<'a>>| {
        let nearest = layers.iter().rev().find_map(|layer| Some((of(&layer.times)?, layer.id)));
        nearest.map(|(time, layer)| Timer { seconds: time.seconds, spot: time.spot, layer: Some(layer) })
    };
    let lease = set(|times| times.lease).unwrap_or(Timer { seconds: DEFAULT_LEASE, spot: None, layer: None });
    let preferred = match family {
        Family::V4 => lease,
        Family::V6 => set(|times| times.preferred).unwrap_or(lease),
    };
    let part = |numerator: u64, denominator: u64| {
        let all = preferred.seconds;
        let seconds = if all == u32::MAX { all } else { (u64::from(all) * numerator / denominator) as u32 };
        Timer { seconds, spot: None, layer: None }
    };
    // DHCPv4 has options for both that a layer may send.
    let option = |code: u16| {
        let chosen = Chosen::find(sent, Protocol::V4, code).filter(|_| family == Family::V4)?;
        let seconds = u32::from_be_bytes(chosen.option.octets.as_deref()?.try_into().ok()?);
        Some(Timer { seconds, spot: chosen.option.spot(), layer: Some(chosen.layer) })
    };
    let rebind_part = if family == Family::V4 { part(7, 8) } else { part(4, 5) };
    Timers {
        lease,
        preferred,
        renew: option(58).or_else(|| set(|times| times.renew)).unwrap_or_else(|| part(1, 2)),
        rebind: option(59).or_else(|| set(|times| times.rebind)).unwrap_or(rebind_part),
    }
}

impl<'a> Timers<'a> {
    /// What stands in an association.
    pub(crate) fn seconds(&self) -> associations::Times {
        let [renew, rebind, preferred, valid] =
            [self.renew, self.rebind, self.preferred, self.lease].map(|timer| timer.seconds);
        associations::Times { renew, rebind, preferred, valid }
    }

    /// The options of DHCPv4 that say them; a time that no layer sets is its network's.
    pub(super) fn computed(&self, network: LayerRef<'a>) -> impl Iterator<Item = Computed<'a>> {
        [(51, self.lease), (58, self.renew), (59, self.rebind)].into_iter().map(move |(code, timer)| {
            let from = Origin { layer: timer.layer.unwrap_or(network), spot: timer.spot };
            Computed { code, octets: timer.seconds.to_be_bytes(), from }
        })
    }
}
