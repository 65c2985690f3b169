//! What layers come to: the narrower one wins, option by option.

use std::fmt;
use std::net::{IpAddr, Ipv4Addr};
use std::sync::Arc;

use smallvec::SmallVec;

use super::chosen::{BootHeader, Chosen, chosen};
use super::fqdn::AnsweredName;
use super::timers::{Timers, timers};
use crate::compiled::{Amended, Assembled, Compiled, Computed, Fleet, Layer, Network, OnNetwork, assembled};
use crate::family::{Address, Family, Protocol};
use crate::finding::Spot;
use crate::layout::Value;

/// Clients that are sent the same: those of one fleet on a network, or those of none.
#[derive(Clone, Copy)]
pub struct Audience<'a> {
    /// What the plan comes to.
    pub compiled: &'a Compiled<'a>,
    /// The network, by its place.
    pub at: usize,
    /// The fleet; `None` for clients of none.
    pub fleet: Option<&'a Fleet<'a>>,
    /// What a reservation sends, where they are one client.
    pub reservation: Option<&'a Layer<'a>>,
}

impl<'a> Audience<'a> {
    /// The network.
    #[must_use]
    pub fn network(&self) -> &'a Network<'a> {
        &self.compiled.networks[self.at]
    }

    /// Where the network's name stands in the plan.
    #[must_use]
    pub fn spot(&self) -> Option<&'a Spot> {
        self.network().spot
    }

    pub(crate) fn layers(&self) -> Vec<&'a Layer<'a>> {
        let on: Option<&OnNetwork<'a>> = self.fleet.and_then(|fleet| fleet.on(self.at));
        let layers = [
            Some(&self.compiled.everyone),
            Some(&self.network().layer),
            self.fleet.map(|fleet| &fleet.layer),
            on.map(|on| &on.layer),
            self.reservation,
        ];
        layers.into_iter().flatten().collect()
    }

    /// What they are sent.
    #[must_use]
    pub fn sent(&self, family: Family) -> Vec<Chosen<'a>> {
        chosen(&self.compiled.codebook, &self.layers(), family)
    }

    /// What the header of their replies says of where they boot from.
    #[must_use]
    pub fn boot(&self) -> BootHeader<'a> {
        BootHeader::of(&self.layers())
    }

    /// The name that they are answered with, if they send one.
    #[must_use]
    pub fn fqdn(&self, family: Family) -> Option<AnsweredName<'a>> {
        AnsweredName::of(&self.layers(), family)
    }

    /// The times of what they are leased, given what they are sent.
    #[must_use]
    pub fn timers(&self, family: Family, sent: &[Chosen<'a>]) -> Timers<'a> {
        timers(family, &self.layers(), sent)
    }
}

/// `intercoms on control-room`
impl fmt::Display for Audience<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.fleet {
            _ if let Some(layer) = self.reservation => f.write_str(layer.id.name),
            Some(fleet) => write!(f, "{} on {}", fleet.name, self.network().name),
            None => f.write_str(&self.network().name),
        }
    }
}

/// On a link with several subnets, the routers that are in the subnet of the address: a client cannot reach the others (RFC 2132,
/// section 3.5).
pub(super) fn on_subnet<'a>(
    mut sent: Vec<Chosen<'a>>,
    network: &Network<'_>,
    address: Option<IpAddr>,
) -> Vec<Chosen<'a>> {
    let side = &network.sides.v4;
    let address = address.and_then(Ipv4Addr::of).filter(|_| side.subnets.len() > 1);
    let Some(subnet) = address.and_then(|address| side.subnet_with(address)) else { return sent };
    let Some(chosen) = sent.iter_mut().find(|chosen| chosen.option.is(Protocol::V4, 3)) else { return sent };
    let octets = chosen.option.octets.as_deref().unwrap_or_default();
    let routers = octets.as_chunks::<4>().0.iter().map(|router| Ipv4Addr::from(*router));
    let own: Vec<Ipv4Addr> = routers.filter(|router| subnet.net.holds(*router)).collect();
    if !own.is_empty() {
        let value = Value::List(own.iter().map(|router| (*router).into()).collect());
        let octets: Arc<[u8]> = own.iter().flat_map(Ipv4Addr::octets).collect();
        chosen.option.octets = Some(octets.into());
        chosen.option.amended = Some(Amended { value: Arc::new(value), by: None });
    }
    sent
}

/// The options as they go into messages: of DHCPv4 with what follows from the network itself, the mask and the times.
pub(super) fn payloads<'a>(
    family: Family,
    network: &'a Network<'a>,
    address: Option<IpAddr>,
    timers: &Timers<'a>,
    sent: &[Chosen<'a>],
) -> Vec<Assembled<'a>> {
    let mut computed: SmallVec<[Computed<'a>; 4]> = SmallVec::new();
    if family == Family::V4 {
        computed.extend(network.mask(address.and_then(Ipv4Addr::of)));
        computed.extend(timers.computed(network.layer.id));
    }
    assembled(family, &computed, sent.iter().map(|chosen| (&chosen.option, chosen.layer)))
}

impl<'p> Compiled<'p> {
    /// What all clients on a network are sent by one family, as it goes into messages: vendors' options in what carries them,
    /// and of DHCPv4 what follows from the network itself. `None` where the network has no subnet or prefix of it.
    #[must_use]
    pub fn payloads<'a>(&'a self, family: Family, network: usize) -> Option<Vec<Assembled<'a>>> {
        let audience = Audience { compiled: self, at: network, fleet: None, reservation: None };
        audience.network().sides.has(family).then(|| {
            let sent = audience.sent(family);
            payloads(family, audience.network(), None, &audience.timers(family, &sent), &sent)
        })
    }
}
