//! What servers say.

use std::borrow::Cow;

use super::Audit;
use super::clients::{Lease, Offer};
use super::compare::{What, differences, meaning};
use super::conversation::{Answered, NONE, Open};
use super::requests::text;
use super::seen::{Read, Seen};
use crate::check::{
    self,
    traffic::{
        ADDRESS_OF_TWO_CLIENTS, NETWORK_NOT_OF_PLAN, OFFER_NOT_KEPT, REQUEST_REFUSED, REQUEST_REPEATED,
        SERVER_NOT_OF_PLAN, SEVERAL_SERVERS_ANSWER,
    },
};
use crate::family::Protocol;
use crate::finding::Severity;
use crate::layout::Vocabulary as _;
use crate::octets::hex;
use crate::packet::{AnyMessage, Message as _, v4, v6};
use crate::server::Leased;
use crate::server::associations::asked;

impl Audit<'_> {
    /// A message of a server.
    pub(super) fn reply(&mut self, open: &mut Open, seen: &Seen, read: &Read<'_>) {
        let server = read.server();
        let known = self.server(open, seen, read, server.as_deref());
        let Some(at) = open.answered_by(read) else { return self.of_wrong_type(open, seen, read) };
        let request = &mut open.requests[at];
        request.answered = true;
        let (octets, kind, repeated) = (request.octets.clone(), request.kind, std::mem::take(&mut request.repeated));
        if repeated > 0 {
            let waited = seen.at.saturating_sub(request.at);
            let message = format!("the client sent it {} times in {:.1} s", repeated + 1, waited.as_secs_f64());
            self.tell(open, REQUEST_REPEATED.finding(message), seen, NONE);
        }
        self.several(open, seen, kind, server.as_deref());
        open.had.extend(read.own.options().iter().map(|option| option.code()));
        if let Ok(asked) = AnyMessage::read(seen.protocol, &octets)
            && let Some(asked) = Read::of(asked)
        {
            // What goes through a relay agent and what does not is not one exchange.
            let pair = match asked.relay.is_some() == read.relay.is_some() {
                true => check::exchange(self.codebook, asked.whole, read.whole),
                false => Vec::new(),
            };
            pair.into_iter().for_each(|finding| self.tell(open, finding, seen, NONE));
        }
        let planned = known != Some(false) && self.against_plan(open, seen, read, &octets);
        self.refusal(open, seen, read, planned);
        self.kept(open, seen, read, server.as_deref());
        self.leased(open, seen, read);
        open.conversation.answered = Some(Answered { request: octets, reply: seen.octets.as_slice().into() });
    }

    /// Says when a reply is of a type that answers nothing that the client sent.
    fn of_wrong_type(&mut self, open: &mut Open, seen: &Seen, read: &Read<'_>) {
        let Some(request) = open.requests.last().map(|last| last.octets.clone()) else { return };
        let Ok(request) = AnyMessage::read(seen.protocol, &request) else { return };
        let found = check::exchange(self.codebook, request, read.whole).into_iter();
        for finding in found.filter(|finding| finding.rule.name == "reply-of-wrong-type") {
            self.tell(open, finding, seen, NONE);
        }
    }

    /// Counts a server, and says when the plan does not know it.
    fn server(&mut self, open: &mut Open, seen: &Seen, read: &Read<'_>, server: Option<&[u8]>) -> Option<bool> {
        let server = server?;
        let known = self.against.as_ref().and_then(|against| against.knows_server(seen.protocol, server));
        self.summary.answered(seen.protocol, server, seen.frame, known);
        if known == Some(false) {
            let code = if seen.protocol == Protocol::V6 { 2 } else { 54 };
            let place = read.own.options().into_iter().find(|option| option.code() == code);
            let message = format!("{} answers, which is no server of the plan", named(seen.protocol, server));
            let finding = SERVER_NOT_OF_PLAN.finding(message).of(format!("{}:{code}", seen.protocol.name()));
            let base = read.own.octets().as_ptr().addr() - seen.octets.as_ptr().addr();
            let around = place.map_or(0..0, |place| place.around());
            self.tell(open, finding.on(base + around.start..base + around.end), seen, NONE);
        }
        known
    }

    /// Says when two servers answer one request.
    fn several(&mut self, open: &mut Open, seen: &Seen, kind: u8, server: Option<&[u8]>) {
        let server: Box<[u8]> = server.unwrap_or_default().into();
        if open.servers.iter().any(|known| known.0 == kind && known.1 == server) {
            return;
        }
        let other = open.servers.iter().find(|known| known.0 == kind).map(|(_, other)| other.clone());
        if let Some(other) = other {
            let (one, other) = (named(seen.protocol, &server), named(seen.protocol, &other));
            let message = format!("{one} answers as {other} did");
            self.tell(open, SEVERAL_SERVERS_ANSWER.finding(message), seen, NONE);
        }
        if open.servers.len() < 64 {
            open.servers.push((kind, server));
        }
    }

    /// A DHCPNAK, or a status that is no success. Where the plan has it so it is worth a note.
    fn refusal(&mut self, open: &mut Open, seen: &Seen, read: &Read<'_>, planned: bool) {
        match read.own {
            AnyMessage::V4(message) if message.message_type() == Some(v4::MessageType::NAK) => {
                let why = message.option(56).map(|option| String::from_utf8_lossy(&option.joined()).into_owned());
                let why = why.map_or_else(|| "the server does not say why".to_owned(), |why| format!("“{why}”"));
                self.tell(open, REQUEST_REFUSED.finding(format!("the server refuses the request: {why}")), seen, NONE);
            }
            AnyMessage::V6(message) => {
                let whole = message.option(13).and_then(|option| {
                    let octets = option.joined();
                    Some(u16::from_be_bytes(*octets.first_chunk()?))
                });
                let inside = asked(message).into_iter().filter_map(|one| one.status);
                for status in whole.into_iter().chain(inside).filter(|status| *status != 0) {
                    let names = self.codebook.enumeration("v6-status");
                    let name = names.and_then(|names| names.name_of(status.into()).map(str::to_owned));
                    let name = name.unwrap_or_else(|| format!("status {status}"));
                    let message = format!("the server refuses the request: {name}");
                    let finding = REQUEST_REFUSED.finding(message).by("RFC 8415, section 21.13");
                    let finding = if planned { finding.as_severity(Severity::Note) } else { finding };
                    self.tell(open, finding, seen, NONE);
                }
            }
            _ => {}
        }
    }

    /// Holds a reply against the one that the plan has in its place; whether that refuses something.
    fn against_plan(&mut self, open: &mut Open, seen: &Seen, read: &Read<'_>, request: &[u8]) -> bool {
        let Some(against) = &mut self.against else { return false };
        if open.network.is_none()
            && let Some(network) = against.network_of(read, seen.link)
            && let Ok(request) = AnyMessage::read(seen.protocol, request)
            && let Some(request) = Read::of(request)
        {
            self.place(open, &request, network);
        }
        let Some(against) = &mut self.against else { return false };
        let Some(network) = open.network else {
            let message = match read.relay {
                Some(relay) => format!("no network of the plan has the relay agent {relay}"),
                None => "neither the message nor its addresses say which network of the plan this is".to_owned(),
            };
            self.tell(open, NETWORK_NOT_OF_PLAN.finding(message), seen, NONE);
            return false;
        };
        let (found, refuses) = against.reply(request, network, read);
        found.into_iter().for_each(|(finding, was, planned)| self.tell(open, finding, seen, (was, planned)));
        refuses
    }

    /// Holds what a server acknowledges against what it offered.
    fn kept(&mut self, open: &mut Open, seen: &Seen, read: &Read<'_>, server: Option<&[u8]>) {
        let kind = read.kind;
        let (offers, keeps) = match read.own {
            AnyMessage::V4(_) => (kind == v4::MessageType::OFFER.0, kind == v4::MessageType::ACK.0),
            _ => (kind == v6::MessageType::ADVERTISE.0, kind == v6::MessageType::REPLY.0),
        };
        let server: Box<[u8]> = server.unwrap_or_default().into();
        let client = self.memory.clients.or_insert(&open.conversation.client, Default::default);
        if offers {
            client.offer = Some(Offer { by: server, octets: read.own.octets().into() });
            return;
        }
        if !keeps {
            return;
        }
        let Some(Offer { octets, .. }) = client.offer.take_if(|offer| offer.by == server) else { return };
        let Ok(offer) = AnyMessage::read(seen.protocol, &octets) else { return };
        let base = read.own.octets().as_ptr().addr() - seen.octets.as_ptr().addr();
        for difference in differences(read.own, offer, base) {
            // What only the last message of an exchange has, or the client asked for only then, was not promised.
            let (What::Option(code), Some(now), Some(before)) =
                (difference.what, &difference.seen, &difference.planned)
            else {
                continue;
            };
            if matches!((seen.protocol, code), (Protocol::V4, 52 | 53) | (Protocol::V6, 13)) {
                continue;
            }
            let means = |octets: &[u8]| meaning(self.codebook, read.own, difference.what, octets);
            let name = self
                .codebook
                .own(seen.protocol, code)
                .map_or(Cow::Borrowed("an option"), |known| Cow::Owned(known.name.to_string()));
            let message = format!("{name} is {}; offered was {}", means(now), means(before));
            let option = format!("{}:{code}", seen.protocol.name());
            self.tell(open, OFFER_NOT_KEPT.finding(message).of(option).on(difference.at.clone()), seen, NONE);
        }
    }

    /// Remembers what a client is leased, and says when somebody else has it.
    fn leased(&mut self, open: &mut Open, seen: &Seen, read: &Read<'_>) {
        let now = seen.at;
        let leases: Vec<(Leased, Lease)> = match read.own {
            AnyMessage::V4(message) if message.message_type() == Some(v4::MessageType::ACK) => {
                let number = |code: u16| {
                    let octets = message.option(code)?.joined();
                    Some(u32::from_be_bytes(<[u8; 4]>::try_from(&*octets).ok()?))
                };
                let given = message.header().yiaddr;
                // The reply to a DHCPINFORM leases nothing.
                let seconds = number(51).filter(|_| !given.is_unspecified());
                let lease = seconds.map(|seconds| Lease { at: now, t1: number(58).unwrap_or(seconds / 2), seconds });
                lease.map(|lease| (Leased::Address(given.into()), lease)).into_iter().collect()
            }
            AnyMessage::V6(message) if message.message_type() == v6::MessageType::REPLY => {
                let leased = asked(message).into_iter().filter(|one| one.valid > 0);
                leased.filter_map(|one| Some((one.wants?, Lease { at: now, t1: one.t1, seconds: one.valid }))).collect()
            }
            _ => return,
        };
        for (leased, lease) in leases {
            let client = open.conversation.client.clone();
            if let Some(other) = self.memory.hold(leased, &client, lease, now) {
                let message = format!(
                    "{leased} is leased for {} while the client {} has it",
                    text(lease.seconds),
                    hex::colon(if seen.protocol == Protocol::V4 { &other[1..] } else { &other })
                );
                self.tell(open, ADDRESS_OF_TWO_CLIENTS.finding(message), seen, NONE);
            }
            self.memory.clients.or_insert(&client, Default::default).lease = Some(lease);
        }
    }
}

/// A server as people name it: its address, or its DUID.
fn named(protocol: Protocol, server: &[u8]) -> String {
    match (protocol, <[u8; 4]>::try_from(server)) {
        (_, Err(_)) if server.is_empty() => "a server without a name".to_owned(),
        (Protocol::V4, Ok(address)) => std::net::Ipv4Addr::from(address).to_string(),
        _ => hex::colon(server),
    }
}
