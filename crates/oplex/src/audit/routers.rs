//! What routers advertise, and what hosts make of it.

use std::net::IpAddr;

use super::Audit;
use super::clients::Host;
use super::conversation::{NONE, Open};
use super::opened::KeyOf;
use super::seen::CapturedMessage;
use crate::check::traffic::HOST_NEVER_REQUESTS;
use crate::family::Protocol;
use crate::octets::Mac;
use crate::packet::{Message as _, ra};

impl Audit<'_> {
    /// A router advertisement or solicitation.
    pub(super) fn router(&mut self, open: &mut Open, seen: &CapturedMessage, message: ra::Message<'_>) {
        let Some(said) = message.advertisement() else { return self.solicited(seen, message) };
        let link = self.memory.links.or_insert(&seen.link, || seen.link);
        (link.managed, link.other) = (link.managed || said.managed, link.other || said.other);
        let mut known = None;
        if let Some(against) = self.against.as_mut().filter(|_| seen.missing == 0) {
            let (network, found) = against.advertisement(message, seen.link);
            known = Some(network.is_some());
            open.network = network;
            open.conversation.network = network.map(|at| against.compiled.networks[at].name.to_string());
            for (finding, was, planned) in found.iter().cloned() {
                self.tell(open, finding, seen, (was, planned));
            }
        }
        if let IpAddr::V6(source) = seen.source.ip() {
            self.summary.answered(Protocol::Ra, &source.octets(), seen.frame, known);
        }
    }

    /// A host looks for a router.
    fn solicited(&mut self, seen: &CapturedMessage, message: ra::Message<'_>) {
        let own = message.option(1).and_then(|option| <[u8; 6]>::try_from(&*option.joined()).ok().map(Mac));
        if let Some(mac) = own.or(seen.hardware) {
            let (at, frame) = (seen.at, seen.frame);
            let host = (seen.link, mac);
            self.memory.hosts.or_insert_with(&host, || host, || Host { at, frame, asks: false });
        }
    }

    /// Hosts whose router says that they should use DHCPv6, had the time to, and never did.
    pub(super) fn never_asked(&mut self) {
        let Some((_, last)) = self.summary.seen else { return };
        for ((link, mac), host) in self.memory.hosts.iter() {
            let flags = self.memory.links.get(link).copied().unwrap_or_default();
            if host.asks || host.at.saturating_add(self.policy.ask_within) > last || !(flags.managed || flags.other) {
                continue;
            }
            let wanted = if flags.managed { "M, for addresses" } else { "O, for other settings" };
            let message = format!("the host {mac} solicits a router, which sets {wanted}, and never uses DHCPv6");
            let mut open = Open::new(KeyOf { protocol: Protocol::Ra, link: *link, transaction: 0, client: &mac[..] });
            let finding = HOST_NEVER_REQUESTS.finding(message);
            self.kinds.count(&finding, host.frame);
            open.tell(finding, host.frame, &[], NONE);
            self.closed.push(open.conversation);
            self.summary.conversations.1 += 1;
        }
    }
}
