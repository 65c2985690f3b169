//! An exchange by IPv6: with the router, and by DHCPv6 as that advertises.

use std::net::{Ipv6Addr, SocketAddr};

use super::associations::{Filled, associations, octets};
use super::exchange::{stands_in, unrequested};
use super::host::host_link_local;
use super::{Answer, Ends, Exchange, HostMode, NoAddress, Played, Room};
use crate::compiled::Compiled;
use crate::family::{Address, Family, Protocol};
use crate::layout::Value;
use crate::octets::Mac;
use crate::packet::v6::{Draft, Header, MessageType, RELAY_MESSAGE, Relay, UNFRAGMENTED};
use crate::packet::{ComposeError, Composer, ra};
use crate::plan::ClientFacts;

/// All relay agents and servers on the link, and all servers of the site (RFC 8415, section 7.1).
pub(crate) const ALL_SERVERS: Ipv6Addr = Ipv6Addr::new(0xff02, 0, 0, 0, 0, 0, 1, 2);
pub(crate) const ALL_SERVERS_OF_SITE: Ipv6Addr = Ipv6Addr::new(0xff05, 0, 0, 0, 0, 0, 1, 3);

/// Where routers advertise from by default.
pub(crate) const ROUTER: Ipv6Addr = Ipv6Addr::new(0xfe80, 0, 0, 0, 0, 0, 0, 1);

/// What relay agents put beside a client's message: the interface and the remote identifier.
pub(crate) const RELAYED: [u16; 2] = [18, 37];

/// Who a server is by default: a DUID of the enterprise number of examples (RFC 8415, section 11.3; RFC 5612).
pub(crate) const SERVER: [u8; 7] = [0, 2, 0, 0, 0x7e, 0xd9, 0];

type Options = Vec<(u16, Vec<u8>)>;

pub(super) fn exchange(
    compiled: &Compiled<'_>,
    facts: &ClientFacts,
    answer: &Answer<'_>,
) -> Result<Exchange, ComposeError> {
    let mode = answer.host.as_ref().map_or(HostMode::Unknown, |host| host.mode);
    let mut play =
        Play { compiled, facts, answer, composer: Composer::default(), messages: Vec::new(), used: 0, exchanges: 0 };
    play.router()?;
    match mode {
        HostMode::Autonomous if !facts.delegation => {}
        HostMode::Stateless if !facts.delegation => {
            play.request(MessageType::INFORMATION_REQUEST)?;
            play.reply(MessageType::REPLY)?;
        }
        _ if facts.rapid => {
            play.request(MessageType::SOLICIT)?;
            play.reply(MessageType::REPLY)?;
        }
        _ => {
            play.request(MessageType::SOLICIT)?;
            play.reply(MessageType::ADVERTISE)?;
            if answer.address.is_ok() || answer.host.as_ref().is_some_and(|host| host.delegated.is_some()) {
                play.request(MessageType::REQUEST)?;
                play.reply(MessageType::REPLY)?;
            }
        }
    }
    let Play { messages, used, .. } = play;
    let room = Room { used, limit: UNFRAGMENTED, budget: None };
    Ok(Exchange { messages, room, unrequested: unrequested(facts, answer, own_requests(answer, facts)) })
}

/// What a server sends to a client that requests addresses or prefixes, and to one that requests the rest alone, as far as
/// hosts on the network send such requests.
pub(super) fn replies(
    compiled: &Compiled<'_>,
    facts: &ClientFacts,
    answer: &Answer<'_>,
) -> Result<Vec<Vec<u8>>, ComposeError> {
    let mode = answer.host.as_ref().map_or(HostMode::Unknown, |host| host.mode);
    let mut replies = Vec::new();
    let mut add = |facts: &ClientFacts, answer: &Answer<'_>, kind| {
        let (composer, messages) = (Composer::default(), Vec::new());
        let mut play = Play { compiled, facts, answer, composer, messages, used: 0, exchanges: 0 };
        play.reply(kind)?;
        replies.extend(play.messages.into_iter().map(|message| message.octets));
        Ok(())
    };
    if mode.requests_addresses() || facts.delegation {
        add(facts, answer, MessageType::ADVERTISE)?;
        add(facts, answer, MessageType::REPLY)?;
    }
    if mode.uses_dhcp() {
        let without = Answer { address: Err(NoAddress::NotRequested), ..answer.clone() };
        add(&ClientFacts { delegation: false, ..facts.clone() }, &without, MessageType::REPLY)?;
    }
    Ok(replies)
}

/// What clients request by themselves: SOL_MAX_RT (82), or of settings alone the time until they ask again and INF_MAX_RT (32, 83)
/// (RFC 8415, section 21.7).
fn own_requests(answer: &Answer<'_>, facts: &ClientFacts) -> &'static [u16] {
    let mode = answer.host.as_ref().map(|host| host.mode);
    requested_by_all(mode == Some(HostMode::Stateless) && !facts.delegation)
}

/// The same of an exchange about settings `alone`, or about addresses and prefixes.
pub(crate) fn requested_by_all(alone: bool) -> &'static [u16] {
    if alone { &[32, 83] } else { &[82] }
}

/// Whether an option may stand in an exchange, which is about settings `alone` or about addresses and prefixes: the time until
/// settings are asked for again, and INF_MAX_RT, are for the former (RFC 8415, sections 21.23 and 21.25).
pub(crate) fn fits_exchange(code: u16, alone: bool) -> bool {
    alone || !matches!(code, 32 | 83)
}

/// The codes of what the server's last message has for a client, in their order.
pub(super) fn codes(facts: &ClientFacts, answer: &Answer<'_>) -> Vec<u16> {
    let identity = facts.own_duid().map(|_| 1).into_iter().chain([2]);
    let leased = answer.address.as_ref().ok().map(|_| 3);
    let delegated = answer.host.as_ref().and_then(|host| host.delegated).map(|_| 25);
    let own = own_requests(answer, facts);
    let requests = |code: &u16| facts.requests(Family::V6, *code) || own.contains(code);
    let alone = leased.is_none() && delegated.is_none();
    let sent = answer.payloads.iter().map(|sent| sent.code).filter(requests).filter(|code| fits_exchange(*code, alone));
    let named = answer.fqdn.as_ref().and_then(|name| name.for_client(Family::V6, facts)).filter(|_| !alone).map(|_| 39);
    identity.chain(leased).chain(delegated).chain(sent).chain(named).collect()
}

/// What tells a client's identity associations apart: as long as it has one of a kind, the end of its hardware address.
pub(crate) fn iaid(facts: &ClientFacts) -> u32 {
    let Mac([.., a, b, c]) = facts.own_mac().unwrap_or_default();
    u32::from_be_bytes([0, a, b, c])
}

struct Play<'a> {
    compiled: &'a Compiled<'a>,
    facts: &'a ClientFacts,
    answer: &'a Answer<'a>,
    composer: Composer,
    messages: Vec<Played>,
    used: usize,
    /// How many messages the client has sent: each begins a transaction.
    exchanges: u32,
}

impl Play<'_> {
    /// The host's own address on the link.
    fn host(&self) -> Ipv6Addr {
        host_link_local(self.facts)
    }

    fn transaction(&self) -> u32 {
        // A new one for each message of the client, which the reply repeats (RFC 8415, section 16.1).
        let first = self.iaid() & 0x00ff_ffff;
        first.wrapping_add(self.exchanges.saturating_sub(1).wrapping_mul(0x0123_4567)) & 0x00ff_ffff
    }

    fn iaid(&self) -> u32 {
        iaid(self.facts)
    }

    /// What the host solicits from its router, and what that advertises, if the plan says so.
    fn router(&mut self) -> Result<(), ComposeError> {
        let mac = self.facts.own_mac();
        let option = mac.as_ref().map(|mac| (1, &mac[..]));
        let ends = ra::Ends { source: self.host(), destination: ra::ALL_ROUTERS };
        let draft = ra::Draft { header: ra::Header::Solicitation, ends, options: option.as_slice() };
        let octets = self.composer.compose(&draft)?.to_vec();
        let (name, ends) = ("Router Solicitation".to_owned(), Ends::Icmp(ends));
        self.messages.push(Played { name, from_client: true, ends, octets });
        if let Some(said) = &self.answer.network.advertises {
            let (name, ends) = ("Router Advertisement".to_owned(), Ends::Icmp(said.ends));
            self.messages.push(Played { name, from_client: false, ends, octets: said.octets()? });
        }
        Ok(())
    }

    /// Whether the host requests an address, as its router says.
    fn for_address(&self) -> bool {
        !matches!(self.answer.address, Err(NoAddress::NotRequested))
    }

    /// A message of the client.
    fn request(&mut self, kind: MessageType) -> Result<(), ComposeError> {
        self.exchanges += 1;
        let mut options = self.identity();
        if kind == MessageType::REQUEST {
            options.push((2, self.server_duid()));
        }
        if kind != MessageType::INFORMATION_REQUEST {
            options.extend(self.associations(if kind == MessageType::REQUEST { Filled::Wish } else { Filled::Empty }));
        }
        options.push((8, octets(Protocol::V6, 8, &0u16.into())));
        let own = own_requests(self.answer, self.facts);
        let wants = self.facts.wants.v6.clone();
        // One that says its name requests the full one (RFC 4704, section 6).
        let name = self.facts.sent(Family::V6, 39).filter(|_| kind != MessageType::INFORMATION_REQUEST).map(|_| 39);
        let mut list = wants.unwrap_or_else(|| self.answer.payloads.iter().map(|sent| sent.code).chain(name).collect());
        let missing: Vec<u16> = own.iter().filter(|code| !list.contains(code)).copied().collect();
        list.extend(missing);
        list.retain(|code| fits_exchange(*code, kind == MessageType::INFORMATION_REQUEST));
        options.push((6, octets(Protocol::V6, 6, &list.into())));
        if self.facts.rapid && kind == MessageType::SOLICIT {
            options.push((14, octets(Protocol::V6, 14, &Value::Empty)));
        }
        // RFC 4704, section 5: the name stands in requests for addresses alone.
        let named = |code: u16| code != 39 || kind != MessageType::INFORMATION_REQUEST;
        let sent = self.facts.sends.v6.iter().filter(|(code, _)| !RELAYED.contains(code) && named(*code));
        options.extend(sent.cloned());
        self.send(kind, &options, false)
    }

    /// A message of the server.
    fn reply(&mut self, kind: MessageType) -> Result<(), ComposeError> {
        let mut options = self.identity();
        options.push((2, self.server_duid()));
        if self.for_address() || self.facts.delegation {
            options.extend(self.associations(Filled::Assigned));
            if self.facts.rapid && kind == MessageType::REPLY {
                options.push((14, octets(Protocol::V6, 14, &Value::Empty)));
            }
        }
        let (codebook, last) = (&self.compiled.codebook, MessageType::REPLY.0);
        let alone = !self.for_address() && !self.facts.delegation;
        let stands = |code| stands_in(codebook, Protocol::V6, code, last, kind.0) && fits_exchange(code, alone);
        let own = own_requests(self.answer, self.facts);
        let wanted = |code| (self.facts.requests(Family::V6, code) || own.contains(&code)) && stands(code);
        let payloads = self.answer.payloads.iter().filter(|sent| wanted(sent.code));
        options.extend(payloads.map(|sent| (sent.code, sent.octets.clone())));
        // The reply to a request for settings alone has no name (RFC 4704, section 5).
        let name = self.answer.fqdn.as_ref().filter(|_| !alone);
        options.extend(name.and_then(|name| name.for_client(Family::V6, self.facts)).map(|name| (39, name)));
        self.send(kind, &options, true)
    }

    fn identity(&self) -> Options {
        self.facts
            .own_duid()
            .map(|duid| (1, octets(Protocol::V6, 1, &Value::Bytes(duid.to_vec()))))
            .into_iter()
            .collect()
    }

    fn server_duid(&self) -> Vec<u8> {
        self.compiled.server.duid.as_deref().unwrap_or(&SERVER).to_vec()
    }

    fn associations(&self, filled: Filled) -> Options {
        associations(self.answer, self.iaid(), self.facts.delegation, filled)
    }

    fn send(&mut self, kind: MessageType, options: &Options, reply: bool) -> Result<(), ComposeError> {
        let message = self.compose(kind, Header::Transaction(self.transaction()), options)?;
        if reply {
            self.used = message.len();
        }
        let at = |address: Ipv6Addr, port| SocketAddr::from((address, port));
        let host = at(self.host(), 546);
        let router = self.answer.network.advertises.as_ref().map_or(ROUTER, |said| said.ends.source);
        let relayed: Options = self.facts.sends.v6.iter().filter(|(code, _)| RELAYED.contains(code)).cloned().collect();
        let played = if relayed.is_empty() {
            let server = at(router, 547);
            let ends = if reply { Ends::Udp(server, host) } else { Ends::Udp(host, at(ALL_SERVERS, 547)) };
            Played { name: kind.to_string(), from_client: !reply, ends, octets: message }
        } else {
            let outer = if reply { MessageType::RELAY_REPLY } else { MessageType::RELAY_FORWARD };
            let link = self.relay();
            // A server returns the interface, and keeps the rest (RFC 8415, section 19.3; RFC 4649, section 4).
            let mut options: Options = relayed;
            options.retain(|(code, _)| !reply || *code == RELAYED[0]);
            options.push((RELAY_MESSAGE, message));
            let header = Header::Relay(Relay { hops: 0, link, peer: self.host() });
            let octets = self.compose(outer, header, &options)?;
            let relay = at(link, 547);
            let ends = if reply {
                Ends::Udp(at(self.compiled.server.v6.as_ref().map_or(router, |(server, _)| *server), 547), relay)
            } else {
                Ends::Udp(relay, at(ALL_SERVERS_OF_SITE, 547))
            };
            Played { name: format!("{kind}, in a {outer}"), from_client: !reply, ends, octets }
        };
        self.messages.push(played);
        Ok(())
    }

    fn compose(
        &mut self,
        message_type: MessageType,
        header: Header,
        options: &Options,
    ) -> Result<Vec<u8>, ComposeError> {
        let options: Vec<(u16, &[u8])> = options.iter().map(|(code, octets)| (*code, octets.as_slice())).collect();
        self.composer.compose(&Draft { message_type, header, options: &options }).map(<[u8]>::to_vec)
    }

    /// The relay agent's address on the client's link: the plan's, or the first one of its prefix but the routers' own.
    fn relay(&self) -> Ipv6Addr {
        if let Some((relay, _)) = self.answer.network.relays.v6.first() {
            return *relay;
        }
        let prefix = self.answer.network.sides.v6.subnet();
        prefix.map_or(Ipv6Addr::UNSPECIFIED, |prefix| Ipv6Addr::from_bits(prefix.net.first().bits() | 1))
    }
}
