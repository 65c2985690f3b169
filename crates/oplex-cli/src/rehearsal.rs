//! What one client gets by one family: what pages and forms show of it.

use std::net::IpAddr;

use oplex::answer::{AddressOrigin, Answer, Chosen, Ends, Exchange};
use oplex::codebook::{Carrier, Origins};
use oplex::compiled::{Assembled, Compiled, LayerKind, Origin, SentOption};
use oplex::family::Protocol;
use oplex::packet::AnyMessage;
use oplex::plan::{ClientFacts, Loaded};

use crate::render::option::Meaning;

/// A client, what it gets, and how.
pub(crate) struct Rehearsal<'r> {
    pub(crate) loaded: &'r Loaded,
    pub(crate) compiled: &'r Compiled<'r>,
    pub(crate) client: &'r ClientFacts,
    pub(crate) answer: Answer<'r>,
    pub(crate) exchange: Exchange,
}

impl Rehearsal<'_> {
    pub(crate) fn protocol(&self) -> Protocol {
        self.answer.family.protocol()
    }

    /// Whether the client is without an address, something had no room, or never receives what the plan has for it.
    pub(crate) fn falls_short(&self) -> bool {
        let Self { answer, exchange, .. } = self;
        let alone = match &answer.host {
            Some(host) => {
                host.addresses.iter().all(|at| matches!(at.origin, AddressOrigin::LinkLocal | AddressOrigin::MadeUp))
            }
            None => answer.address.is_err(),
        };
        // What everyone is sent may well be meant for other networks.
        let in_vain = answer.host.as_ref().is_some_and(|host| !host.mode.uses_dhcp())
            && answer.sent.iter().any(|chosen| chosen.layer.kind != LayerKind::Everyone);
        let left_out = exchange.room.budget.as_ref().is_some_and(|budget| !budget.left_out.is_empty());
        alone || in_vain || left_out || exchange.room.used > exchange.room.limit
    }

    /// Whether the client sends anything by DHCP at all.
    pub(crate) fn uses_dhcp(&self) -> bool {
        self.answer.host.as_ref().is_none_or(|host| host.mode.uses_dhcp()) || self.client.delegation
    }

    /// The options that it is sent in the end, in the order of the message.
    pub(crate) fn received(&self) -> Vec<&Assembled<'_>> {
        let payloads = self.answer.payloads.iter();
        match &self.exchange.room.budget {
            Some(budget) => {
                let of = |code: u8| self.answer.payloads.iter().find(|sent| sent.code == u16::from(code));
                budget.lines().filter_map(|line| of(line.code)).collect()
            }
            None if self.uses_dhcp() => {
                payloads.filter(|sent| !self.exchange.unrequested.contains(&sent.code)).collect()
            }
            None => Vec::new(),
        }
    }

    /// What the server's last message has besides: its type, the server, the client, and what it assigns.
    pub(crate) fn automatic(&self) -> Vec<(u16, Vec<u8>)> {
        let replies = self.exchange.messages.iter().rev().filter(|played| !played.from_client);
        let mut replies = replies.filter(|played| matches!(played.ends, Ends::Udp(..)));
        let message = replies.next().and_then(|played| AnyMessage::read(self.protocol(), &played.octets).ok());
        let Some(message) = message else { return Vec::new() };
        let inner = message.relayed().and_then(|(inner, _)| inner.ok()).unwrap_or(message);
        let planned: Vec<u16> = self.received().iter().map(|sent| sent.code).collect();
        let own = inner.options().into_iter().filter(|option| !planned.contains(&option.code()));
        own.map(|option| (option.code(), option.joined().into_owned())).collect()
    }

    /// The options that the router advertises.
    pub(crate) fn advertised(&self) -> &[SentOption<'_>] {
        let of = self.answer.host.as_ref().and(self.answer.network.advertises.as_ref());
        of.map_or(&[], |said| &said.options)
    }

    /// What an option of the answer means.
    pub(crate) fn meaning(&self, sent: &Assembled<'_>) -> Meaning {
        self.meaning_of(sent.code, &sent.octets)
    }

    pub(crate) fn meaning_of(&self, code: u16, octets: &[u8]) -> Meaning {
        let codebook = &self.compiled.codebook;
        let definition = codebook.own(self.protocol(), code);
        definition.map(|known| Meaning::of(codebook, known, octets, self.book(code))).unwrap_or_default()
    }

    /// The name that the last reply answers the client with, and what says so.
    pub(crate) fn answered_name(&self) -> Option<Assembled<'_>> {
        let by = self.answer.fqdn.as_ref()?;
        let code = if self.protocol() == Protocol::V4 { 81 } else { 39 };
        let (code, octets) = self.automatic().into_iter().find(|(own, _)| *own == code)?;
        let from = Origin { layer: by.layer, spot: by.fqdn.spot.as_ref() };
        Some(Assembled { code, octets: octets.into(), from: Origins::one(from) })
    }

    /// The vendor whose options an option carries.
    fn book(&self, code: u16) -> Option<&str> {
        let family = self.answer.family;
        let carries = |chosen: &&Chosen<'_>| {
            let carriers = chosen.option.definition.carriers.iter();
            carriers
                .into_iter()
                .any(|at| matches!(at, Carrier::Vendor { family: of, code: at, .. } if (*of, *at) == (family, code)))
        };
        self.answer.sent.iter().find(carries)?.option.origin.map(|sent| sent.definition.book())
    }

    /// What layers send as this option itself.
    pub(crate) fn chosen(&self, code: u16) -> Option<&Chosen<'_>> {
        Chosen::find(&self.answer.sent, self.protocol(), code)
    }
}

/// Source and destination.
pub(crate) fn between(ends: Ends) -> (IpAddr, IpAddr) {
    match ends {
        Ends::Icmp(ends) => (ends.source.into(), ends.destination.into()),
        Ends::Udp(from, to) => (from.ip(), to.ip()),
    }
}
