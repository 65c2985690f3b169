//! The messages that servers send to clients of one audience, whoever they are.

use std::net::IpAddr;

use super::client::Answer;
use super::fqdn;
use super::host::host;
use super::sent::{on_subnet, payloads};
use super::{Assigned, Audience, HostMode, NoAddress, v4, v6};
use crate::compiled::Assembled;
use crate::family::Family;
use crate::octets::Mac;
use crate::packet::ComposeError;
use crate::plan::ClientFacts;

/// The client that messages are composed for where only its network and fleet are known (RFC 7042, section 2.1.2).
const SOMEONE: Mac = Mac([0, 0, 0x5e, 0, 0x53, 1]);

impl<'a> Audience<'a> {
    /// One message of each type that a server sends them: what answers a request for an address, and one for settings alone.
    ///
    /// # Errors
    /// Options that no message can hold.
    pub fn messages(&self, family: Family) -> Result<Vec<Vec<u8>>, ComposeError> {
        let (facts, answer) = self.answer(family);
        match family {
            Family::V4 => v4::replies(self.compiled, &facts, &answer),
            Family::V6 => v6::replies(self.compiled, &facts, &answer),
        }
    }

    /// What someone of them is answered who requests everything.
    fn answer(&self, family: Family) -> (ClientFacts, Answer<'a>) {
        let network = self.network();
        let delegation = !network.delegates.is_empty();
        let mut facts = ClientFacts { mac: Some(SOMEONE), delegation, ..ClientFacts::on(self.at) };
        let fleets = self.fleet.into_iter().collect();
        let sent = self.sent(family);
        let timers = self.timers(family, &sent);
        // Some address of the network: which one makes no difference to what is sent with it.
        let some: Option<IpAddr> = match family {
            Family::V4 => network.sides.v4.subnet().map(|subnet| subnet.hosts().1.into()),
            Family::V6 if !HostMode::on(network).requests_addresses() => None,
            Family::V6 => network.sides.v6.subnet().map(|subnet| subnet.hosts().1.into()),
        };
        let sent = on_subnet(sent, network, some);
        let address = some.map(|address| Assigned { address, pool: None, fleet: None }).ok_or(NoAddress::NotRequested);
        let payloads: Vec<Assembled<'a>> = payloads(family, network, some, &timers, &sent);
        let host = (family == Family::V6).then(|| host(network, &facts, &address, (None, &[])));
        let reservation = None;
        let fqdn = self.fqdn(family);
        if fqdn.is_some() {
            facts.send(family, fqdn::code(family), fqdn::sample(family));
        }
        (
            facts,
            Answer {
                family,
                network,
                fleets,
                reservation,
                address,
                timers,
                sent,
                payloads,
                boot: self.boot(),
                fqdn,
                host,
            },
        )
    }
}
