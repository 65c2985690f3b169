//! An exchange by IPv6: with the router, and by DHCPv6 as that advertises.

use std::borrow::Cow;
use std::net::{Ipv6Addr, SocketAddr};

use smallvec::SmallVec;

use super::associations::{Association, Filled, associations};
use super::exchange::{stands_in, unrequested};
use super::host::host_link_local;
use super::{Answer, Ends, Exchange, HostMode, NoAddress, Played, Room};
use crate::compiled::Compiled;
use crate::family::{Address, Family, Protocol};
use crate::octets::{Duid, Mac};
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

/// The options of a message, by code: of most there is no allocation.
type Options<'o> = SmallVec<[(u16, &'o [u8]); 24]>;

pub(super) fn exchange(
    compiled: &Compiled<'_>,
    facts: &ClientFacts,
    answer: &Answer<'_>,
) -> Result<Exchange, ComposeError> {
    let mode = answer.host.as_ref().map_or(HostMode::Unknown, |host| host.mode);
    let mut play = Play::new(compiled, facts, answer);
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
        let mut play = Play::new(compiled, facts, answer);
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
/// settings are requested again, and INF_MAX_RT, are for the former (RFC 8415, sections 21.23 and 21.25).
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

/// What distinguishes a client's identity associations: as long as it has one of a kind, the end of its hardware address.
pub(crate) fn iaid(facts: &ClientFacts) -> u32 {
    let Mac([.., a, b, c]) = facts.own_mac().unwrap_or_default();
    u32::from_be_bytes([0, a, b, c])
}

struct Play<'a> {
    compiled: &'a Compiled<'a>,
    facts: &'a ClientFacts,
    answer: &'a Answer<'a>,
    /// Who the client is.
    duid: Option<Duid>,
    composer: Composer,
    /// A message on its way into that of a relay agent.
    inner: Vec<u8>,
    messages: Vec<Played>,
    used: usize,
    /// How many messages the client has sent: each begins a transaction.
    exchanges: u32,
}

impl<'a> Play<'a> {
    fn new(compiled: &'a Compiled<'a>, facts: &'a ClientFacts, answer: &'a Answer<'a>) -> Self {
        let (composer, messages) = (Composer::default(), Vec::with_capacity(6));
        Self {
            compiled,
            facts,
            answer,
            duid: facts.own_duid(),
            composer,
            inner: Vec::new(),
            messages,
            used: 0,
            exchanges: 0,
        }
    }

    /// The host's own address on the link.
    fn host(&self) -> Ipv6Addr {
        host_link_local(self.facts)
    }

    fn transaction(&self) -> u32 {
        // A new one for each message of the client, which the reply repeats (RFC 8415, section 16.1).
        let first = iaid(self.facts) & 0x00ff_ffff;
        first.wrapping_add(self.exchanges.saturating_sub(1).wrapping_mul(0x0123_4567)) & 0x00ff_ffff
    }

    /// What the host solicits from its router, and what that advertises, if the plan says so.
    fn router(&mut self) -> Result<(), ComposeError> {
        let mac = self.facts.own_mac();
        let option = mac.as_ref().map(|mac| (1, &mac[..]));
        let ends = ra::Ends { source: self.host(), destination: ra::ALL_ROUTERS };
        let draft = ra::Draft { header: ra::Header::Solicitation, ends, options: option.as_slice() };
        let octets = self.composer.compose(&draft)?.to_vec();
        let (name, ends) = ("Router Solicitation".into(), Ends::Icmp(ends));
        self.messages.push(Played { name, from_client: true, ends, octets });
        if let Some(said) = &self.answer.network.advertises {
            let octets = said.compose(&mut self.composer)?.to_vec();
            let (name, ends) = ("Router Advertisement".into(), Ends::Icmp(said.ends));
            self.messages.push(Played { name, from_client: false, ends, octets });
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
        let alone = kind == MessageType::INFORMATION_REQUEST;
        let filled = if kind == MessageType::REQUEST { Filled::Wish } else { Filled::Empty };
        let (duid, associations) = (self.duid.clone(), self.associations(filled));
        let requested = self.requested(alone);
        let mut options: Options<'_> = duid.iter().map(|duid| (1, &duid[..])).collect();
        if kind == MessageType::REQUEST {
            options.push((2, self.server_duid()));
        }
        if !alone {
            options.extend(associations.iter().map(|(code, octets)| (*code, &octets[..])));
        }
        // No time has passed (RFC 8415, section 21.9).
        options.push((8, &[0, 0]));
        options.push((6, &requested));
        if self.facts.rapid && kind == MessageType::SOLICIT {
            options.push((14, &[]));
        }
        // RFC 4704, section 5: the name stands in requests for addresses alone.
        let named = |code: u16| code != 39 || !alone;
        let sent = self.facts.sends.v6.iter().filter(|(code, _)| !RELAYED.contains(code) && named(*code));
        options.extend(sent.map(|(code, octets)| (*code, &octets[..])));
        self.send(kind, &options, false)
    }

    /// The octets of the list of what the client requests (RFC 8415, section 21.7).
    fn requested(&self, alone: bool) -> SmallVec<[u8; 64]> {
        let mut list: SmallVec<[u16; 32]> = SmallVec::new();
        // One that says its name requests the full one (RFC 4704, section 6).
        let name = self.facts.sent(Family::V6, 39).filter(|_| !alone).map(|_| 39);
        let all = self.answer.payloads.iter().map(|sent| sent.code).chain(name);
        match &self.facts.wants.v6 {
            Some(wants) => list.extend_from_slice(wants),
            None => list.extend(all),
        }
        for code in own_requests(self.answer, self.facts) {
            if !list.contains(code) {
                list.push(*code);
            }
        }
        list.iter().filter(|code| fits_exchange(**code, alone)).flat_map(|code| code.to_be_bytes()).collect()
    }

    /// A message of the server.
    fn reply(&mut self, kind: MessageType) -> Result<(), ComposeError> {
        let alone = !self.for_address() && !self.facts.delegation;
        let (duid, associations) = (self.duid.clone(), self.associations(Filled::Assigned));
        // The reply to a request for settings alone has no name (RFC 4704, section 5).
        let name = self.answer.fqdn.as_ref().filter(|_| !alone);
        let name = name.and_then(|name| name.for_client(Family::V6, self.facts));
        let mut options: Options<'_> = duid.iter().map(|duid| (1, &duid[..])).collect();
        options.push((2, self.server_duid()));
        if !alone {
            options.extend(associations.iter().map(|(code, octets)| (*code, &octets[..])));
            if self.facts.rapid && kind == MessageType::REPLY {
                options.push((14, &[]));
            }
        }
        let (codebook, last) = (&self.compiled.codebook, MessageType::REPLY.0);
        let stands = |code| stands_in(codebook, Protocol::V6, code, last, kind.0) && fits_exchange(code, alone);
        let own = own_requests(self.answer, self.facts);
        let wanted = |code| (self.facts.requests(Family::V6, code) || own.contains(&code)) && stands(code);
        let payloads = self.answer.payloads.iter().filter(|sent| wanted(sent.code));
        options.extend(payloads.map(|sent| (sent.code, &sent.octets[..])));
        options.extend(name.as_deref().map(|name| (39, name)));
        self.send(kind, &options, true)
    }

    fn server_duid(&self) -> &'a [u8] {
        self.compiled.server.duid.as_deref().unwrap_or(&SERVER)
    }

    fn associations(&self, filled: Filled) -> SmallVec<[Association; 2]> {
        associations(self.answer, iaid(self.facts), self.facts.delegation, filled)
    }

    fn send(&mut self, kind: MessageType, options: &[(u16, &[u8])], reply: bool) -> Result<(), ComposeError> {
        let (header, link, peer) = (Header::Transaction(self.transaction()), self.relay(), self.host());
        let message = self.composer.compose(&Draft { message_type: kind, header, options })?;
        if reply {
            self.used = message.len();
        }
        let at = |address: Ipv6Addr, port| SocketAddr::from((address, port));
        let host = at(peer, 546);
        let router = self.answer.network.advertises.as_ref().map_or(ROUTER, |said| said.ends.source);
        let sends: &'a [(u16, Vec<u8>)] = &self.facts.sends.v6;
        // A server returns the interface, and keeps the rest (RFC 8415, section 19.3; RFC 4649, section 4).
        let relayed = || sends.iter().filter(|(code, _)| RELAYED.contains(code));
        let returned = relayed().filter(|(code, _)| !reply || *code == RELAYED[0]);
        let played = if relayed().next().is_none() {
            let server = at(router, 547);
            let ends = if reply { Ends::Udp(server, host) } else { Ends::Udp(host, at(ALL_SERVERS, 547)) };
            Played { name: named(kind), from_client: !reply, ends, octets: message.to_vec() }
        } else {
            let outer = if reply { MessageType::RELAY_REPLY } else { MessageType::RELAY_FORWARD };
            self.inner.clear();
            self.inner.extend_from_slice(message);
            let mut options: Options<'_> = returned.map(|(code, octets)| (*code, &octets[..])).collect();
            options.push((RELAY_MESSAGE, &self.inner));
            let header = Header::Relay(Relay { hops: 0, link, peer });
            let draft = Draft { message_type: outer, header, options: &options };
            let octets = self.composer.compose(&draft)?.to_vec();
            let relay = at(link, 547);
            let ends = if reply {
                Ends::Udp(at(self.compiled.server.v6.as_ref().map_or(router, |(server, _)| *server), 547), relay)
            } else {
                Ends::Udp(relay, at(ALL_SERVERS_OF_SITE, 547))
            };
            Played { name: relayed_name(kind), from_client: !reply, ends, octets }
        };
        self.messages.push(played);
        Ok(())
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

/// What a message is called that a relay agent carries.
fn relayed_name(kind: MessageType) -> Cow<'static, str> {
    Cow::Borrowed(match kind {
        MessageType::SOLICIT => "Solicit, in a Relay-forward",
        MessageType::REQUEST => "Request, in a Relay-forward",
        MessageType::INFORMATION_REQUEST => "Information-request, in a Relay-forward",
        MessageType::ADVERTISE => "Advertise, in a Relay-reply",
        MessageType::REPLY => "Reply, in a Relay-reply",
        other => return format!("{other}, relayed").into(),
    })
}

/// What a message is called.
fn named(kind: MessageType) -> Cow<'static, str> {
    kind.name().map_or_else(|| kind.to_string().into(), Cow::Borrowed)
}
