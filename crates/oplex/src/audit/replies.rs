//! What servers say.

use std::sync::Arc;

use super::Audit;
use super::against::Planned;
use super::clients::{Lease, Offer};
use super::compare::{Difference, What, differences, meaning};
use super::conversation::{Answered, NONE, Open};
use super::memo::without_transaction;
use super::requests::text;
use super::seen::{CapturedMessage, Read};
use crate::check::{
    self,
    traffic::{
        ADDRESS_OF_TWO_CLIENTS, NETWORK_NOT_OF_PLAN, OFFER_NOT_KEPT, REQUEST_REFUSED, REQUEST_REPEATED,
        SERVER_NOT_OF_PLAN, SEVERAL_SERVERS_ANSWER,
    },
};
use crate::codebook::Codebook;
use crate::family::Protocol;
use crate::finding::{Finding, Severity};
use crate::layout::Vocabulary as _;
use crate::octets::hex;
use crate::packet::{AnyMessage, Message as _, v4, v6};
use crate::server::Leased;
use crate::server::associations::asked;

impl Audit<'_> {
    /// A message of a server.
    pub(super) fn reply(&mut self, open: &mut Open, seen: &CapturedMessage, read: &Read<'_>) {
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
        let offer = self.offered(open, seen, read, server.as_deref());
        let planned = known != Some(false) && self.is_placed(open, seen, read, &octets);
        let judged = self.judge(seen, &octets, offer.as_deref(), open.network.filter(|_| planned));
        judged.codes.iter().for_each(|code| self.codes.sent(seen.protocol, *code));
        judged.exchange.iter().for_each(|finding| self.tell(open, finding.clone(), seen, NONE));
        for (finding, was, planned) in judged.planned.iter().cloned() {
            self.tell(open, finding, seen, (was, planned));
        }
        judged.refused.iter().for_each(|finding| self.tell(open, finding.clone(), seen, NONE));
        judged.kept.iter().for_each(|finding| self.tell(open, finding.clone(), seen, NONE));
        self.leased(open, seen, &judged.leases);
        open.conversation.answered = Some(Answered { request: octets, reply: Arc::clone(&seen.octets) });
    }

    /// Says when a reply is of a type that answers nothing that the client sent.
    fn of_wrong_type(&mut self, open: &mut Open, seen: &CapturedMessage, read: &Read<'_>) {
        let Some(request) = open.requests.last().map(|last| last.octets.clone()) else { return };
        let Ok(request) = AnyMessage::read(seen.protocol, &request) else { return };
        let found = check::exchange(self.codebook, request, read.whole).into_iter();
        for finding in found.filter(|finding| finding.rule.name == "reply-of-wrong-type") {
            self.tell(open, finding, seen, NONE);
        }
    }

    /// Counts a server, and says when the plan does not know it.
    fn server(
        &mut self,
        open: &mut Open,
        seen: &CapturedMessage,
        read: &Read<'_>,
        server: Option<&[u8]>,
    ) -> Option<bool> {
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
    fn several(&mut self, open: &mut Open, seen: &CapturedMessage, kind: u8, server: Option<&[u8]>) {
        let server = server.unwrap_or_default();
        if open.servers.iter().any(|known| known.0 == kind && known.1[..] == *server) {
            return;
        }
        let other = open.servers.iter().find(|known| known.0 == kind).map(|(_, other)| other.clone());
        if let Some(other) = other {
            let (one, other) = (named(seen.protocol, server), named(seen.protocol, &other));
            let message = format!("both {other} and {one} answer the same request");
            self.tell(open, SEVERAL_SERVERS_ANSWER.finding(message), seen, NONE);
        }
        if open.servers.len() < 64 {
            open.servers.push((kind, server.into()));
        }
    }

    /// Whether it is known which network of the plan a conversation is of; finds it out where it is not.
    fn is_placed(&mut self, open: &mut Open, seen: &CapturedMessage, read: &Read<'_>, request: &[u8]) -> bool {
        let Some(against) = &mut self.against else { return false };
        if open.network.is_none()
            && let Some(network) = against.network_of(read, seen.link)
            && let Ok(request) = AnyMessage::read(seen.protocol, request)
            && let Some(request) = Read::of(request)
        {
            self.place(open, &request, network);
        }
        if open.network.is_none() {
            let message = match read.relay {
                Some(relay) => format!("no network of the plan has the relay agent {relay}"),
                None => "neither the message nor its addresses say which network of the plan this is".to_owned(),
            };
            self.tell(open, NETWORK_NOT_OF_PLAN.finding(message), seen, NONE);
        }
        open.network.is_some()
    }

    /// What the same server offered before, where this acknowledges an offer; remembers an offer.
    fn offered(
        &mut self,
        open: &Open,
        seen: &CapturedMessage,
        read: &Read<'_>,
        server: Option<&[u8]>,
    ) -> Option<Arc<[u8]>> {
        let kind = read.kind;
        let (offers, keeps) = match read.own {
            AnyMessage::V4(_) => (kind == v4::MessageType::OFFER.0, kind == v4::MessageType::ACK.0),
            _ => (kind == v6::MessageType::ADVERTISE.0, kind == v6::MessageType::REPLY.0),
        };
        let by = server.unwrap_or_default();
        let client = self.memory.clients.or_insert(&*open.conversation.client, || open.conversation.client.clone());
        // Larger ones than a link carries whole do not come.
        if offers && seen.octets.len() <= LARGEST_OFFER {
            client.offer = Some(Offer { by: by.into(), octets: Arc::clone(&seen.octets) });
            return None;
        }
        client.offer.take_if(|offer| keeps && offer.by[..] == *by).map(|offer| offer.octets)
    }

    /// What there is to say of a reply beside its request, what was offered before, and the plan's reply on this network.
    fn judge(
        &mut self,
        seen: &CapturedMessage,
        request: &[u8],
        offer: Option<&[u8]>,
        network: Option<usize>,
    ) -> Arc<Judged> {
        let Self { judged, against, codebook, .. } = self;
        let protocol = seen.protocol;
        let key = |to: &mut Vec<u8>| {
            let network = network.map_or(u32::MAX, |at| at as u32);
            to.push(protocol as u8);
            let numbers = [network, request.len() as u32, offer.map_or(0, <[u8]>::len) as u32].map(u32::to_be_bytes);
            to.extend_from_slice(numbers.as_flattened());
            without_transaction(protocol, request, to);
            without_transaction(protocol, offer.unwrap_or_default(), to);
            without_transaction(protocol, &seen.octets, to);
        };
        judged.get(key, || {
            let read = |octets| AnyMessage::read(protocol, octets).ok().and_then(Read::of);
            let Some((asked, reply)) = read(request).zip(read(&seen.octets)) else { return Arc::default() };
            let codes = reply.own.options().iter().map(|option| option.code()).collect();
            // What goes through a relay agent and what does not is not one exchange.
            let same_way = asked.relay.is_some() == reply.relay.is_some();
            let exchange = if same_way { check::exchange(codebook, asked.whole, reply.whole) } else { Vec::new() };
            let planned = against.as_mut().zip(network).map(|(against, at)| against.reply(request, at, &reply));
            let (planned, refuses) = planned.unwrap_or_default();
            let kept = offer.map(|offer| not_kept(codebook, protocol, offer, &reply)).unwrap_or_default();
            let refused = refused(codebook, reply.own, refuses);
            Arc::new(Judged { codes, exchange, planned, kept, refused, leases: leases(reply.own) })
        })
    }

    /// Remembers what a client is leased, and says when another client has it.
    fn leased(&mut self, open: &mut Open, seen: &CapturedMessage, leases: &[(Leased, u32, u32)]) {
        let now = seen.at;
        for (leased, t1, seconds) in leases.iter().copied() {
            let lease = Lease { at: now, t1, seconds };
            let client = open.conversation.client.clone();
            if let Some(other) = self.memory.hold(leased, &client, lease, now) {
                let message = format!(
                    "{leased} is leased for {} while the client {} has it",
                    text(lease.seconds),
                    hex::colon(other.get(1..).filter(|_| seen.protocol == Protocol::V4).unwrap_or(&other))
                );
                self.tell(open, ADDRESS_OF_TWO_CLIENTS.finding(message), seen, NONE);
            }
            self.memory.clients.or_insert(&*client, || client.clone()).lease = Some(lease);
        }
    }
}

/// No larger offer is kept.
const LARGEST_OFFER: usize = 1500;

/// What there is to say of a reply.
#[derive(Debug, Default)]
pub(super) struct Judged {
    /// The codes of its options.
    codes: Box<[u16]>,
    /// What is found beside its request.
    exchange: Vec<Finding>,
    /// What is not as planned.
    planned: Vec<Planned>,
    /// What is not as it was offered.
    kept: Vec<Finding>,
    /// That it refuses something.
    refused: Vec<Finding>,
    /// What it leases, with T1 and for how many seconds.
    leases: Box<[(Leased, u32, u32)]>,
}

/// What a reply leases, with T1 and for how many seconds.
fn leases(reply: AnyMessage<'_>) -> Box<[(Leased, u32, u32)]> {
    match reply {
        AnyMessage::V4(message) if message.message_type() == Some(v4::MessageType::ACK) => {
            let number = |code: u16| {
                let octets = message.option(code)?.joined();
                Some(u32::from_be_bytes(<[u8; 4]>::try_from(&*octets).ok()?))
            };
            let given = message.header().yiaddr;
            // The reply to a DHCPINFORM leases nothing.
            let seconds = number(51).filter(|_| !given.is_unspecified());
            let lease =
                seconds.map(|seconds| (Leased::Address(given.into()), number(58).unwrap_or(seconds / 2), seconds));
            lease.into_iter().collect()
        }
        AnyMessage::V6(message) if message.message_type() == v6::MessageType::REPLY => {
            let leased = asked(message).into_iter().filter(|one| one.valid > 0);
            leased.filter_map(|one| Some((one.wants?, one.t1, one.valid))).collect()
        }
        _ => Box::default(),
    }
}

/// A DHCPNAK, or a status that is no success. Where the plan has it so it is worth a note.
fn refused(codebook: &Codebook, reply: AnyMessage<'_>, planned: bool) -> Vec<Finding> {
    match reply {
        AnyMessage::V4(message) if message.message_type() == Some(v4::MessageType::NAK) => {
            let why = message.option(56).map(|option| String::from_utf8_lossy(&option.joined()).into_owned());
            let why = why.map_or_else(|| "the server does not say why".to_owned(), |why| format!("“{why}”"));
            vec![REQUEST_REFUSED.finding(format!("the server refuses the request: {why}"))]
        }
        AnyMessage::V6(message) => {
            let whole = message.option(13).and_then(|option| {
                let octets = option.joined();
                Some(u16::from_be_bytes(*octets.first_chunk()?))
            });
            let inside = asked(message).into_iter().filter_map(|one| one.status);
            let refusing = whole.into_iter().chain(inside).filter(|status| *status != 0);
            let finding = |status: u16| {
                let names = codebook.enumeration("v6-status");
                let name = names.and_then(|names| names.name_of(status.into()).map(str::to_owned));
                let name = name.unwrap_or_else(|| format!("status {status}"));
                let finding = REQUEST_REFUSED.finding(format!("the server refuses the request: {name}"));
                let finding = finding.by("RFC 8415, section 21.13");
                if planned { finding.as_severity(Severity::Note) } else { finding }
            };
            refusing.map(finding).collect()
        }
        _ => Vec::new(),
    }
}

/// What a server acknowledges and offered otherwise.
fn not_kept(codebook: &Codebook, protocol: Protocol, offer: &[u8], reply: &Read<'_>) -> Vec<Finding> {
    let Some(offer) = AnyMessage::read(protocol, offer).ok().and_then(Read::of) else { return Vec::new() };
    let base = reply.own.octets().as_ptr().addr() - reply.whole.octets().as_ptr().addr();
    let finding = |difference: Difference| {
        // What only the last message of an exchange has, or the client asked for only then, was not promised.
        let (What::Option(code), Some(now), Some(before)) = (difference.what, &difference.seen, &difference.planned)
        else {
            return None;
        };
        if matches!((protocol, code), (Protocol::V4, 52 | 53) | (Protocol::V6, 13)) {
            return None;
        }
        let means = |octets: &[u8]| meaning(codebook, reply.own, difference.what, octets);
        let name = codebook.own(protocol, code).map_or("an option", |known| &known.name);
        let message = format!("{name} is {}; offered was {}", means(now), means(before));
        Some(OFFER_NOT_KEPT.finding(message).of(format!("{}:{code}", protocol.name())).on(difference.at.clone()))
    };
    differences(reply.own, offer.own, base).into_iter().filter_map(finding).collect()
}

/// A server as people name it: its address, or its DUID.
fn named(protocol: Protocol, server: &[u8]) -> String {
    match (protocol, <[u8; 4]>::try_from(server)) {
        (_, Err(_)) if server.is_empty() => "a server without a name".to_owned(),
        (Protocol::V4, Ok(address)) => std::net::Ipv4Addr::from(address).to_string(),
        _ => hex::colon(server),
    }
}
