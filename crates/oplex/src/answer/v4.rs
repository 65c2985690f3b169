//! An exchange by DHCPv4.

use std::borrow::Cow;
use std::net::{Ipv4Addr, SocketAddr};

use smallvec::SmallVec;

use super::exchange::{stands_in, unrequested};
use super::{Answer, BootField, Chosen, Ends, Exchange, Played, Room};
use crate::codebook::Codebook;
use crate::compiled::Compiled;
use crate::family::{Address, Family, Protocol};
use crate::packet::v4::{Budget, Composed, Draft, Header, Limit, MessageType};
use crate::packet::{ComposeError, Composer};
use crate::plan::ClientFacts;

/// What a server sends whether it is requested or not: the lease and its times (RFC 2131, sections 4.3.1 and 4.4.5).
pub(crate) const ALWAYS: [u16; 3] = [51, 58, 59];

/// What follows from the server, the client and the message, whatever a layer sends.
pub(super) const AUTOMATIC: [u16; 6] = [52, 53, 54, 61, 82, 81];

pub(super) fn exchange(
    compiled: &Compiled<'_>,
    facts: &ClientFacts,
    answer: &Answer<'_>,
) -> Result<Exchange, ComposeError> {
    let play = Play { asked: of_client(facts), ..Play::new(compiled, facts, answer) };
    let mut composer = Composer::default();
    let last = match answer.address {
        // Without an address there is nothing to request.
        Err(_) => MessageType::DISCOVER,
        // A client that is offered to do without IPv4 stops there (RFC 8925, section 3.2).
        Ok(_) if does_without_ipv4(facts, answer) => MessageType::OFFER,
        Ok(_) => MessageType::ACK,
    };
    let (mut messages, mut budget) = (Vec::with_capacity(4), Budget::default());
    for message_type in [MessageType::DISCOVER, MessageType::OFFER, MessageType::REQUEST, MessageType::ACK] {
        let (message, used) = play.message(message_type, &mut composer)?;
        messages.push(message);
        if message_type == last {
            budget = used.clone();
            break;
        }
    }
    let room = Room { used: budget.used, limit: budget.limit.octets, budget: Some(budget) };
    Ok(Exchange { messages, room, unrequested: unrequested(facts, answer, &ALWAYS) })
}

/// Whether the client requests option 108 and is sent it.
pub(super) fn does_without_ipv4(facts: &ClientFacts, answer: &Answer<'_>) -> bool {
    let requests = facts.wants.v4.as_ref().is_some_and(|wants| wants.contains(&108));
    requests && answer.payloads.iter().any(|sent| sent.code == 108)
}

/// What a server sends to a client that requests an address, and to one that has one and requests the rest.
pub(super) fn replies(
    compiled: &Compiled<'_>,
    facts: &ClientFacts,
    answer: &Answer<'_>,
) -> Result<Vec<Vec<u8>>, ComposeError> {
    let play = Play::new(compiled, facts, answer);
    let mut composer = Composer::default();
    let mut replies = Vec::with_capacity(3);
    for kind in [MessageType::OFFER, MessageType::ACK] {
        replies.push(play.message(kind, &mut composer)?.0.octets);
    }
    // The reply to a DHCPINFORM has neither an address nor a lease (RFC 2131, section 4.3.5).
    let mut without = answer.clone();
    without.payloads.retain(|sent| !ALWAYS.contains(&sent.code));
    let inform = Play { address: Ipv4Addr::UNSPECIFIED, ..Play::new(compiled, facts, &without) };
    replies.push(inform.message(MessageType::ACK, &mut composer)?.0.octets);
    Ok(replies)
}

/// The codes of what the server's last message has for a client, in their order.
pub(super) fn codes(compiled: &Compiled<'_>, facts: &ClientFacts, answer: &Answer<'_>) -> Vec<u16> {
    let play = Play::new(compiled, facts, answer);
    let sent = play.sent(MessageType::ACK).map(|(code, _)| code);
    let relayed = facts.sent(Family::V4, 82).map(|_| 82);
    let named = play.name().map(|_| 81);
    sent.chain([53, 54]).chain(named).chain(relayed).collect()
}

/// The options of a message, by code: of most there is no allocation.
type Options<'o> = SmallVec<[(u16, &'o [u8]); 24]>;

/// What goes between a client and its server.
pub(crate) struct Play<'a> {
    codebook: &'a Codebook,
    facts: &'a ClientFacts,
    answer: &'a Answer<'a>,
    server: Ipv4Addr,
    address: Ipv4Addr,
    /// The header of the client's messages.
    header: Header,
    /// What the client sends in each of them.
    asked: Vec<(u16, Cow<'a, [u8]>)>,
}

impl<'a> Play<'a> {
    pub(crate) fn new(compiled: &'a Compiled<'_>, facts: &'a ClientFacts, answer: &'a Answer<'a>) -> Self {
        let server = compiled.server.v4.as_ref().map_or(Ipv4Addr::UNSPECIFIED, |(server, _)| *server);
        let assigned = answer.address.as_ref().ok().and_then(|assigned| Ipv4Addr::of(assigned.address));
        let codebook = &*compiled.codebook;
        let mac = facts.mac.unwrap_or_default();
        let xid = u32::from_be_bytes([mac[2], mac[3], mac[4], mac[5]]);
        // A relay agent that says where the client is (82) also says who it is (RFC 3046, section 2.1).
        let relay = facts.sent(Family::V4, 82).map(|_| relay(answer));
        let giaddr = relay.unwrap_or(Ipv4Addr::UNSPECIFIED);
        let header = Header { giaddr, hops: u8::from(relay.is_some()), ..Header::from_client(xid, mac) };
        let address = assigned.unwrap_or(Ipv4Addr::UNSPECIFIED);
        Self { codebook, facts, answer, server, address, header, asked: Vec::new() }
    }

    /// What a server sends in reply to a message with this header.
    pub(crate) fn replying(self, header: Header, address: Ipv4Addr) -> Self {
        Self { header, address, ..self }
    }

    fn message<'c>(
        &self,
        message_type: MessageType,
        composer: &'c mut Composer,
    ) -> Result<(Played, &'c Budget), ComposeError> {
        let reply = message_type.is_reply() == Some(true);
        let composed = self.compose(message_type, composer)?;
        let name = message_type.title().unwrap_or_default().into();
        let octets = composed.octets.to_vec();
        Ok((Played { name, from_client: !reply, ends: self.ends(reply), octets }, composed.budget))
    }

    /// One of the messages.
    pub(crate) fn compose<'c>(
        &self,
        message_type: MessageType,
        composer: &'c mut Composer,
    ) -> Result<Composed<'c>, ComposeError> {
        let reply = message_type.is_reply() == Some(true);
        let asked = if reply { &[][..] } else { &self.asked };
        let (server, address) = (self.server.octets(), self.address.octets());
        let name = if reply { self.name() } else { None };
        let mut options: Options<'_> = if reply { self.sent(message_type).collect() } else { SmallVec::new() };
        options.extend(asked.iter().map(|(code, octets)| (*code, &**octets)));
        if message_type != MessageType::DISCOVER {
            options.push((54, &server));
        }
        if message_type == MessageType::REQUEST {
            options.push((50, &address));
        }
        options.extend(name.as_deref().map(|name| (81, name)));
        options.extend(self.facts.sent(Family::V4, 82).map(|octets| (82, octets)));
        let header = if reply { Header { yiaddr: self.address, ..self.header.answered() } } else { self.header };
        let limit = if reply { Limit::of_client(self.facts.max_size) } else { Limit::DEFAULT };
        let requested = self.facts.wants.v4.as_deref().filter(|_| reply).unwrap_or_default();
        let boot = reply.then_some(&self.answer.boot);
        let text =
            |field: Option<&'a BootField<'a, Cow<'a, str>>>| field.map_or(&[][..], |field| field.value.as_bytes());
        let siaddr = boot.and_then(|boot| boot.server.as_ref()).map_or(header.siaddr, |server| server.value);
        let (sname, file) =
            (text(boot.and_then(|boot| boot.host.as_ref())), text(boot.and_then(|boot| boot.file.as_ref())));
        let header = Header { siaddr, ..header };
        let draft = Draft { header, sname, file, options: &options, requested, limit, ..Draft::new(message_type) };
        let crowded = !file.is_empty() && !composer.compose(&draft)?.budget.left_out.is_empty();
        // Where the file's field must hold options, the option says the file to those that did not request it, too (RFC 2132,
        // section 9.5).
        if !crowded {
            return composer.compose(&draft);
        }
        let forced: Vec<(u16, &[u8])> =
            std::iter::once((67, file)).chain(options.iter().filter(|(code, _)| *code != 67).copied()).collect();
        composer.compose(&Draft { file: &[], options: &forced, ..draft })
    }

    /// What the server sends: what there is for the client and it requests, and the client's identifier (RFC 6842).
    fn sent(&self, message_type: MessageType) -> impl Iterator<Item = (u16, &'a [u8])> {
        let stands = move |code| stands_in(self.codebook, Protocol::V4, code, MessageType::ACK.0, message_type.0);
        let requested = move |code| ALWAYS.contains(&code) || self.facts.requests(Family::V4, code);
        let wanted = move |code: u16| requested(code) && stands(code);
        let payloads = self.answer.payloads.iter();
        let payloads = payloads.filter(move |sent| wanted(sent.code) && !AUTOMATIC.contains(&sent.code));
        let id = self.facts.sent(Family::V4, 61).map(|id| (61, id));
        payloads.map(|sent| (sent.code, &sent.octets[..])).chain(id)
    }

    /// The name that the client is answered with, if it sends one (RFC 4702, section 4).
    fn name(&self) -> Option<Vec<u8>> {
        self.answer.fqdn.as_ref()?.for_client(Family::V4, self.facts)
    }

    /// From where to where a message goes. A client without an address broadcasts; the reply goes to the address it is about
    /// to have, as the client does not request a broadcast (RFC 2131, section 4.1). A relay agent and a server know each other.
    fn ends(&self, reply: bool) -> Ends {
        let at = |address: Ipv4Addr, port| SocketAddr::from((address, port));
        let server = at(self.server, 67);
        let relay = Some(self.header.giaddr).filter(|relay| !relay.is_unspecified());
        match (relay, reply) {
            (Some(relay), false) => Ends::Udp(at(relay, 67), server),
            (Some(relay), true) => Ends::Udp(server, at(relay, 67)),
            (None, false) => Ends::Udp(at(Ipv4Addr::UNSPECIFIED, 68), at(Ipv4Addr::BROADCAST, 67)),
            (None, true) => Ends::Udp(server, at(self.address, 68)),
        }
    }
}

/// What a client sends besides what only one message has.
pub(crate) fn of_client(facts: &ClientFacts) -> Vec<(u16, Cow<'_, [u8]>)> {
    let own = facts.sends.v4.iter().filter(|(code, _)| *code != 82);
    let mut options: Vec<(u16, Cow<'_, [u8]>)> = Vec::with_capacity(facts.sends.v4.len() + 4);
    options.extend(own.map(|(code, octets)| (*code, octets.into())));
    if facts.sent(Family::V4, 93).is_some() {
        options.extend(booting(facts));
    }
    let wants = facts.wants.v4.as_ref().filter(|wants| !wants.is_empty());
    // A code of DHCPv4 has one octet.
    let list = |wants: &Vec<u16>| wants.iter().filter_map(|code| u8::try_from(*code).ok()).collect();
    options.extend(wants.map(|wants| (55, Cow::Owned(list(wants)))));
    options.extend(facts.max_size.map(|size| (57, Cow::Owned(size.to_be_bytes().to_vec()))));
    options
}

/// What boot clients send beside their architecture, where it is not described: their network interface (94), of the kind
/// UNDI, and who the machine is (97), which is made up of its hardware address (RFC 4578, sections 2.2 and 2.3).
fn booting(facts: &ClientFacts) -> impl Iterator<Item = (u16, Cow<'_, [u8]>)> {
    let mac = facts.mac.unwrap_or_default();
    let machine = [&[0; 11][..], &mac[..]].concat();
    let both = [(94, Cow::Borrowed(&[1, 3, 16][..])), (97, machine.into())].into_iter();
    both.filter(|(code, _)| facts.sent(Family::V4, *code).is_none())
}

/// The relay agent on the client's network: the plan's, a router that it is sent, or else the subnet's first address.
fn relay(answer: &Answer<'_>) -> Ipv4Addr {
    if let Some((relay, _)) = answer.network.relays.v4.first() {
        return *relay;
    }
    let subnet = answer.network.sides.v4.subnet();
    let sent = Chosen::find(&answer.sent, Protocol::V4, 3).and_then(|sent| sent.option.octets.as_deref());
    let router = sent.and_then(|octets| octets.first_chunk::<4>()).map(|octets| Ipv4Addr::from(*octets));
    router
        .filter(|router| subnet.is_some_and(|subnet| subnet.net.holds(*router)))
        .or_else(|| subnet.map(|subnet| subnet.hosts().0))
        .unwrap_or(Ipv4Addr::UNSPECIFIED)
}
