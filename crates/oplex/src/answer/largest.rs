//! The largest answer on a network.

use super::fqdn;
use super::sent::payloads;
use super::v4::AUTOMATIC;
use super::{Audience, Chosen};
use crate::compiled::{Assembled, Compiled};
use crate::family::Family;
use crate::packet::Composer;
use crate::packet::v4::{Budget, COOKIE, Draft, HEADER, Limit, MessageType};

/// The octets of a client identifier as most clients send it: the kind of hardware and its address.
const CLIENT_ID: [u8; 7] = [1, 0, 0, 0, 0, 0, 0];

/// The largest answer of DHCPv4 on a network.
#[derive(Debug, Clone)]
pub struct Largest<'a> {
    /// The fleet it goes to; `None` for a client of none.
    pub fleet: Option<&'a str>,
    /// What it is made of.
    pub payloads: Vec<Assembled<'a>>,
    /// What it has room for.
    pub budget: Budget,
}

impl<'p> Compiled<'p> {
    /// The largest answer on a network: one to a client of no fleet or of one, that requests everything, sends an identifier,
    /// says nothing of how much it accepts, and may not join parts. `None` without a subnet, or when an option's code is none
    /// that a message can hold.
    #[must_use]
    pub fn largest_reply<'a>(&'a self, network: usize) -> Option<Largest<'a>> {
        let mut largest: Option<Largest<'a>> = None;
        for fleet in std::iter::once(None).chain(self.fleets.iter().map(Some)) {
            let audience = Audience { compiled: self, at: network, fleet, reservation: None };
            audience.network().sides.v4.subnet()?;
            let sent = audience.sent(Family::V4);
            let timers = audience.timers(Family::V4, &sent);
            let payloads = payloads(Family::V4, audience.network(), None, &timers, &sent);
            let budget = composed(&payloads, fqdn(audience).as_deref())?;
            let size = |budget: &Budget| budget.used + budget.left_out.iter().map(|out| out.cost).sum::<usize>();
            if largest.as_ref().is_none_or(|known| size(&known.budget) < size(&budget)) {
                largest = Some(Largest { fleet: fleet.map(|fleet| &*fleet.name), payloads, budget });
            }
        }
        largest
    }
}

/// Whether an answer surely has room for all of this, so that it need not be composed to know.
pub(crate) fn surely_fits(audience: Audience<'_>, sent: &[Chosen<'_>]) -> bool {
    // The lease and its times, the mask, the type and both identifiers take 51 octets.
    let own = 60 + fqdn(audience).map_or(0, |name| name.len() + 4);
    let cost = |chosen: &Chosen<'_>| {
        let length = chosen.option.octets.as_ref().map_or(0, |octets| octets.len());
        // A vendor's option travels in each of its carriers, with a header and an enterprise number at most.
        (length + 2 * (length / 255 + 1) + 12) * chosen.option.definition.carriers.len().max(1)
    };
    own + sent.iter().map(cost).sum::<usize>() < Limit::DEFAULT.octets - HEADER - COOKIE.len()
}

/// The name that a client of few letters is answered with.
fn fqdn(audience: Audience<'_>) -> Option<Vec<u8>> {
    audience.fqdn(Family::V4)?.returned(Family::V4, &fqdn::sample(Family::V4))
}

fn composed(payloads: &[Assembled<'_>], name: Option<&[u8]>) -> Option<Budget> {
    let own = [(54, &[0; 4][..]), (61, &CLIENT_ID[..])].into_iter().chain(name.map(|name| (81, name)));
    let sent = payloads.iter().filter(|sent| !AUTOMATIC[..4].contains(&sent.code));
    let sent = sent.map(|sent| (sent.code, &sent.octets[..]));
    let options: Vec<(u16, &[u8])> = own.chain(sent).collect();
    // In the draft's own order: requesting an option that must be joined would say that the client joins.
    let draft = Draft { options: &options, ..Draft::new(MessageType::ACK) };
    Composer::default().compose(&draft).ok().map(|composed| composed.budget.clone())
}
