//! The octets of one client's exchange.

use std::borrow::Cow;
use std::net::SocketAddr;

use super::Answer;
use crate::codebook::Codebook;
use crate::family::Protocol;
use crate::packet::ra;
use crate::packet::v4::Budget;
use crate::plan::ClientFacts;

/// The messages by which a client gets its answer.
#[derive(Debug, Clone)]
pub struct Exchange {
    /// The messages, in their order.
    pub messages: Vec<Played>,
    /// What the server's last message had room for.
    pub room: Room,
    /// Codes that there are options of for the client, and that it does not request.
    pub unrequested: Vec<u16>,
}

/// What the server's last message had room for.
#[derive(Debug, Clone)]
pub struct Room {
    /// Its octets, without the pads behind its end; 0 when there is none.
    pub used: usize,
    /// How many it may have: what the client of DHCPv4 accepts, or what every link carries whole.
    pub limit: usize,
    /// Where its options found room, and which found none: only DHCPv4 leaves options out.
    pub budget: Option<Budget>,
}

/// One message of an exchange.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Played {
    /// What it is: `DHCPOFFER`, `Router Advertisement`, `Reply`.
    pub name: Cow<'static, str>,
    /// Whether the client sends it, or a relay agent for it.
    pub from_client: bool,
    /// What it travels in, with its source and destination.
    pub ends: Ends,
    /// Its octets.
    pub octets: Vec<u8>,
}

/// What a message travels in, with its source and destination.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Ends {
    /// ICMPv6.
    Icmp(ra::Ends),
    /// UDP, from where to where.
    Udp(SocketAddr, SocketAddr),
}

/// Whether an option stands in a type of message: some are for the last one of an exchange alone.
pub(crate) fn stands_in(codebook: &Codebook, protocol: Protocol, code: u16, last: u8, number: u8) -> bool {
    last == number || !codebook.own(protocol, code).is_some_and(|definition| definition.waits_for(last, number))
}

/// Codes of an answer's options that the client does not request.
pub(super) fn unrequested(facts: &ClientFacts, answer: &Answer<'_>, always: &[u16]) -> Vec<u16> {
    let codes = answer.payloads.iter().map(|sent| sent.code);
    codes.filter(|code| !always.contains(code) && !facts.requests(answer.family, *code)).collect()
}
