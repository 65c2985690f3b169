//! The octets of one client's exchange with a server that follows a plan.

use std::net::{Ipv4Addr, SocketAddrV4};

use super::Answer;
use crate::packet::v4::{Budget, ComposeError, Composer, Draft, Header, Limit, MessageType};
use crate::plan::{ClientFacts, Plan};

/// The four messages by which a client gets an address, and what the last one had room for.
#[derive(Debug, Clone)]
pub struct Exchange {
    /// The messages, in their order.
    pub messages: Vec<Sent>,
    /// What the acknowledgement had room for.
    pub budget: Budget,
    /// Codes that the plan has for the client, and the client does not ask for.
    pub unasked: Vec<u8>,
}

/// One message of an exchange.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Sent {
    /// What it is.
    pub message_type: MessageType,
    /// Its octets.
    pub octets: Vec<u8>,
    /// The address and port it comes from.
    pub source: SocketAddrV4,
    /// The address and port it goes to.
    pub destination: SocketAddrV4,
}

/// What a server sends whether it was asked for or not: the lease and its times (RFC 2131, sections 4.3.1 and 4.4.5).
const ALWAYS: [u16; 3] = [51, 58, 59];

pub(super) fn exchange(plan: &Plan, facts: &ClientFacts, answer: &Answer<'_>) -> Result<Exchange, ComposeError> {
    let mac = facts.mac.unwrap_or_default();
    let xid = u32::from_be_bytes([mac[2], mac[3], mac[4], mac[5]]);
    let server = plan.server.as_ref().map_or(Ipv4Addr::UNSPECIFIED, |(server, _)| *server).octets();
    let relay = facts.sent(82).map(|octets| (82, octets.to_vec()));
    let address = answer.address.as_ref().map_or(Ipv4Addr::UNSPECIFIED, |given| given.address);
    let relayed = relay.as_ref().map(|_| relay_of(answer));
    let mut composer = Composer::default();
    let mut messages = Vec::new();
    let mut budget = Budget::default();
    for message_type in [MessageType::DISCOVER, MessageType::OFFER, MessageType::REQUEST, MessageType::ACK] {
        let reply = message_type.is_reply() == Some(true);
        let mut options: Vec<(u8, Vec<u8>)> = if reply { told(facts, answer) } else { asked(facts) };
        if message_type != MessageType::DISCOVER {
            options.push((54, server.to_vec()));
        }
        if message_type == MessageType::REQUEST {
            options.push((50, address.octets().to_vec()));
        }
        options.extend(relay.clone());
        let options: Vec<(u8, &[u8])> = options.iter().map(|(code, octets)| (*code, octets.as_slice())).collect();
        // A relay that says where the client is (82) also says who it is (RFC 3046, section 2.1).
        let giaddr = relayed.unwrap_or(Ipv4Addr::UNSPECIFIED);
        let header = Header { giaddr, hops: u8::from(relayed.is_some()), ..Header::from_client(xid, mac) };
        let header = if reply { Header { yiaddr: address, ..header.answered() } } else { header };
        let limit = if reply { Limit::of_client(facts.max_size) } else { Limit::DEFAULT };
        let wants = facts.wants.as_deref().filter(|_| reply).unwrap_or_default();
        let draft = Draft { header, options: &options, asked: wants, limit, ..Draft::new(message_type) };
        let composed = composer.compose(&draft)?;
        let (source, destination) = ends(reply, server.into(), address, relayed);
        messages.push(Sent { message_type, octets: composed.octets.to_vec(), source, destination });
        budget = composed.budget.clone();
        // Without an address there is nothing to ask for.
        if message_type == MessageType::DISCOVER && answer.address.is_err() {
            break;
        }
    }
    let wanted = |code: &u16| ALWAYS.contains(code) || facts.wants.as_ref().is_none_or(|wants| has(wants, *code));
    let unasked = answer.payloads.iter().map(|told| told.code).filter(|code| !wanted(code) && *code < 256);
    Ok(Exchange { messages, budget, unasked: unasked.map(|code| code as u8).collect() })
}

/// The relay on the client's network: a router that it is told, or else the subnet's first address.
fn relay_of(answer: &Answer<'_>) -> Ipv4Addr {
    let subnet = answer.network.subnet.as_ref();
    let told = answer.told.iter().find(|told| told.sent.definition.has_id("v4:3"));
    let router = told.and_then(|told| told.sent.addresses().first().map(|(address, ..)| *address));
    let first = || subnet.and_then(|subnet| subnet.net.hosts().next());
    router
        .filter(|router| subnet.is_some_and(|subnet| subnet.holds(*router)))
        .or_else(first)
        .unwrap_or(Ipv4Addr::UNSPECIFIED)
}

/// From where to where a message goes. A client without an address asks everybody; the answer goes to the address it is
/// about to have, as the client does not ask for a broadcast (RFC 2131, section 4.1). A relay and a server know each other.
fn ends(reply: bool, server: Ipv4Addr, client: Ipv4Addr, relay: Option<Ipv4Addr>) -> (SocketAddrV4, SocketAddrV4) {
    let at = SocketAddrV4::new;
    let server = at(server, 67);
    match (relay, reply) {
        (Some(relay), false) => (at(relay, 67), server),
        (Some(relay), true) => (server, at(relay, 67)),
        (None, false) => (at(Ipv4Addr::UNSPECIFIED, 68), at(Ipv4Addr::BROADCAST, 67)),
        (None, true) => (server, at(client, 68)),
    }
}

fn has(wants: &[u8], code: u16) -> bool {
    wants.iter().any(|wanted| u16::from(*wanted) == code)
}

/// What a client sends besides what only one message has.
fn asked(facts: &ClientFacts) -> Vec<(u8, Vec<u8>)> {
    let mut options: Vec<(u8, Vec<u8>)> = facts.sends.iter().filter(|(code, _)| *code != 82).cloned().collect();
    options.extend(facts.wants.clone().filter(|wants| !wants.is_empty()).map(|wants| (55, wants)));
    options.extend(facts.max_size.map(|size| (57, size.to_be_bytes().to_vec())));
    options
}

/// What the server tells: what the plan has and the client asks for, and the client's identifier (RFC 6842).
fn told(facts: &ClientFacts, answer: &Answer<'_>) -> Vec<(u8, Vec<u8>)> {
    let wanted = |code: u16| ALWAYS.contains(&code) || facts.wants.as_ref().is_none_or(|wants| has(wants, code));
    let told = answer.payloads.iter().filter(|told| wanted(told.code) && ![52, 53, 54, 61, 82].contains(&told.code));
    let mut options: Vec<(u8, Vec<u8>)> =
        told.filter_map(|told| Some((u8::try_from(told.code).ok()?, told.octets.clone()))).collect();
    options.extend(facts.sent(61).map(|id| (61, id.to_vec())));
    options
}
