//! The octets of one client's exchange by IPv6 with a router and a server that follow a plan.

use std::net::{Ipv6Addr, SocketAddrV6};

use super::client_v6::{AnswerV6, NoAddressV6, link_local};
use super::{Asks, announcement};
use crate::packet::ra::{self, ALL_ROUTERS, Ends};
use crate::packet::v6::{ComposeError, Draft, Header, MessageType, RELAY_MESSAGE, Relay, UNFRAGMENTED, compose};
use crate::plan::{ClientFacts, Plan};

/// The messages by which a host gets on an IPv6 network.
#[derive(Debug, Clone)]
pub struct ExchangeV6 {
    /// The messages, in their order.
    pub messages: Vec<SentV6>,
    /// Octets of the server's last message; 0 when it sends none.
    pub used: usize,
    /// How many a packet holds that every link carries whole.
    pub limit: usize,
    /// Codes that the plan has for the client, and the client does not ask for.
    pub unasked: Vec<u16>,
}

/// One message of an exchange.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SentV6 {
    /// What it is: `Router Advertisement`, `Reply`.
    pub name: String,
    /// Whether the host sends it, or a relay for it.
    pub from_host: bool,
    /// What it travels in.
    pub carried: Carried,
    /// Its octets.
    pub octets: Vec<u8>,
}

/// What a message travels in, and between whom.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Carried {
    /// ICMPv6.
    Icmp(Ends),
    /// UDP, from where to where.
    Udp(SocketAddrV6, SocketAddrV6),
}

/// All relay agents and servers on the link, and all servers of the site (RFC 8415, section 7.1).
const ALL_SERVERS: Ipv6Addr = Ipv6Addr::new(0xff02, 0, 0, 0, 0, 0, 1, 2);
const ALL_SERVERS_OF_SITE: Ipv6Addr = Ipv6Addr::new(0xff05, 0, 0, 0, 0, 0, 1, 3);

/// What relays put beside a client's message: the interface and the remote identifier.
const RELAYED: [u16; 2] = [18, 37];

/// Who a server is when the plan does not say: a DUID of the enterprise number of examples (RFC 8415, section 11.3; RFC
/// 5612).
const SERVER: [u8; 7] = [0, 2, 0, 0, 0x7e, 0xd9, 0];

/// A status in an identity association (RFC 8415, section 21.13): no address is left.
const NO_ADDRESS: [u8; 6] = [0, 13, 0, 2, 0, 2];

pub(super) fn exchange(plan: &Plan, facts: &ClientFacts, answer: &AnswerV6<'_>) -> Result<ExchangeV6, ComposeError> {
    let mut play = Play { plan, facts, answer, messages: Vec::new(), used: 0 };
    play.solicit_router();
    match answer.asks {
        Asks::Nothing if !facts.delegation => {}
        Asks::Other if !facts.delegation => {
            play.ask(MessageType::INFORMATION_REQUEST)?;
            play.reply(MessageType::REPLY)?;
        }
        _ if facts.rapid => {
            play.ask(MessageType::SOLICIT)?;
            play.reply(MessageType::REPLY)?;
        }
        _ => {
            play.ask(MessageType::SOLICIT)?;
            play.reply(MessageType::ADVERTISE)?;
            if play.has_something() {
                play.ask(MessageType::REQUEST)?;
                play.reply(MessageType::REPLY)?;
            }
        }
    }
    let Play { messages, used, .. } = play;
    let unasked = answer.payloads.iter().map(|told| told.code).filter(|code| !wanted(facts, *code));
    Ok(ExchangeV6 { messages, used, limit: UNFRAGMENTED, unasked: unasked.collect() })
}

fn wanted(facts: &ClientFacts, code: u16) -> bool {
    facts.wants_v6.as_ref().is_none_or(|wants| wants.contains(&code))
}

struct Play<'a, 'p> {
    plan: &'a Plan,
    facts: &'a ClientFacts,
    answer: &'a AnswerV6<'p>,
    messages: Vec<SentV6>,
    used: usize,
}

impl Play<'_, '_> {
    /// The host's own address on the link.
    fn host(&self) -> Ipv6Addr {
        self.facts.own_mac().map_or(Ipv6Addr::UNSPECIFIED, link_local)
    }

    fn transaction(&self) -> u32 {
        let [.., a, b, c] = self.facts.own_mac().unwrap_or_default();
        u32::from_be_bytes([0, a, b, c])
    }

    /// What the host asks its router, and what that announces, if the plan says so.
    fn solicit_router(&mut self) {
        let mac = self.facts.own_mac();
        let option = mac.as_ref().map(|mac| (1, &mac[..]));
        let ends = Ends { source: self.host(), destination: ALL_ROUTERS };
        let mut octets = Vec::new();
        let draft = ra::Draft { header: ra::Header::Solicitation, options: option.as_slice() };
        if ra::compose(&draft, ends, &mut octets).is_ok() {
            self.messages.push(SentV6 {
                name: "Router Solicitation".to_owned(),
                from_host: true,
                carried: Carried::Icmp(ends),
                octets,
            });
        }
        if let Ok(Some((octets, ends))) = announcement(self.answer.network) {
            self.messages.push(SentV6 {
                name: "Router Advertisement".to_owned(),
                from_host: false,
                carried: Carried::Icmp(ends),
                octets,
            });
        }
    }

    fn has_something(&self) -> bool {
        self.answer.lent.is_ok() || self.answer.delegated.is_some()
    }

    /// Whether the host asks for an address, as its router says.
    fn for_address(&self) -> bool {
        !matches!(self.answer.lent, Err(NoAddressV6::NotAsked))
    }

    /// A message of the client.
    fn ask(&mut self, kind: MessageType) -> Result<(), ComposeError> {
        let mut options: Vec<(u16, Vec<u8>)> = Vec::new();
        options.extend(self.facts.own_duid().map(|duid| (1, duid)));
        if kind == MessageType::REQUEST {
            options.push((2, self.server_duid()));
        }
        if kind != MessageType::INFORMATION_REQUEST {
            options.extend(self.associations(kind == MessageType::REQUEST));
        }
        options.push((8, vec![0, 0]));
        let wants = self.facts.wants_v6.clone();
        // RFC 8415, section 21.7: clients ask for SOL_MAX_RT (82), or for the stateless refresh and INF_MAX_RT (32, 83).
        let own: &[u16] = if kind == MessageType::INFORMATION_REQUEST { &[32, 83] } else { &[82] };
        let mut asked = wants.unwrap_or_else(|| self.answer.payloads.iter().map(|told| told.code).collect());
        asked.extend(own.iter().filter(|code| !asked.contains(code)).copied().collect::<Vec<_>>());
        options.push((6, asked.iter().flat_map(|code| code.to_be_bytes()).collect()));
        if self.facts.rapid && kind == MessageType::SOLICIT {
            options.push((14, Vec::new()));
        }
        let sent = self.facts.sends_v6.iter().filter(|(code, _)| !RELAYED.contains(code));
        options.extend(sent.cloned());
        self.send(kind, &options, false)
    }

    /// A message of the server.
    fn reply(&mut self, kind: MessageType) -> Result<(), ComposeError> {
        let mut options: Vec<(u16, Vec<u8>)> = Vec::new();
        options.extend(self.facts.own_duid().map(|duid| (1, duid)));
        options.push((2, self.server_duid()));
        if self.for_address() || self.facts.delegation {
            options.extend(self.associations(true));
            if self.facts.rapid && kind == MessageType::REPLY {
                options.push((14, Vec::new()));
            }
        }
        let told = self.answer.payloads.iter().filter(|told| wanted(self.facts, told.code));
        options.extend(told.map(|told| (told.code, told.octets.clone())));
        self.send(kind, &options, true)
    }

    fn server_duid(&self) -> Vec<u8> {
        self.plan.server_duid.as_deref().unwrap_or(&SERVER).to_vec()
    }

    /// The identity associations for an address and for a prefix, empty or with what is lent.
    fn associations(&self, filled: bool) -> Vec<(u16, Vec<u8>)> {
        let times = &self.answer.timers;
        let iaid = self.transaction().to_be_bytes();
        let (renew, rebind) = if filled { (times.renew, times.rebind) } else { (0, 0) };
        let head = [&iaid[..], &renew.to_be_bytes(), &rebind.to_be_bytes()].concat();
        let lifetimes = [times.preferred.0.to_be_bytes(), times.valid.0.to_be_bytes()].concat();
        let inner =
            |code: u16, octets: &[u8]| [&code.to_be_bytes()[..], &(octets.len() as u16).to_be_bytes(), octets].concat();
        let mut options = Vec::new();
        if self.for_address() {
            let filling = match &self.answer.lent {
                _ if !filled => Vec::new(),
                Ok(given) => inner(5, &[&given.address.octets()[..], &lifetimes].concat()),
                Err(_) => NO_ADDRESS.to_vec(),
            };
            options.push((3, [&head[..], &filling].concat()));
        }
        if self.facts.delegation {
            let filling = match self.answer.delegated {
                _ if !filled => Vec::new(),
                Some(net) => inner(26, &[&lifetimes[..], &[net.prefix_len()], &net.network().octets()].concat()),
                // NoPrefixAvail.
                None => inner(13, &[0, 6]),
            };
            options.push((25, [&head[..], &filling].concat()));
        }
        options
    }

    fn send(&mut self, kind: MessageType, options: &[(u16, Vec<u8>)], reply: bool) -> Result<(), ComposeError> {
        let options: Vec<(u16, &[u8])> = options.iter().map(|(code, octets)| (*code, octets.as_slice())).collect();
        let header = Header::Transaction(self.transaction());
        let mut octets = Vec::new();
        compose(&Draft { message_type: kind, header, options: &options }, &mut octets)?;
        if reply {
            self.used = octets.len();
        }
        let relayed: Vec<(u16, &[u8])> = self
            .facts
            .sends_v6
            .iter()
            .filter(|(code, _)| RELAYED.contains(code))
            .map(|(code, it)| (*code, &it[..]))
            .collect();
        let at = |address, port| SocketAddrV6::new(address, port, 0, 0);
        let host = at(self.host(), 546);
        let router = self
            .answer
            .network
            .v6
            .advertise
            .as_ref()
            .map_or(Ipv6Addr::new(0xfe80, 0, 0, 0, 0, 0, 0, 1), |said| said.source);
        let (carried, name) = if relayed.is_empty() {
            let server = at(router, 547);
            let carried = if reply { Carried::Udp(server, host) } else { Carried::Udp(host, at(ALL_SERVERS, 547)) };
            (carried, kind.to_string())
        } else {
            let (outer, name) = if reply {
                (MessageType::RELAY_REPLY, format!("{kind}, in a Relay-reply"))
            } else {
                (MessageType::RELAY_FORWARD, format!("{kind}, in a Relay-forward"))
            };
            let link = self.relay();
            let relay = Relay { hops: 0, link, peer: self.host() };
            // A server gives the interface back, and keeps the rest (RFC 8415, section 19.3; RFC 4649, section 4).
            let kept = relayed.iter().filter(|(code, _)| !reply || *code == RELAYED[0]).copied();
            let options: Vec<(u16, &[u8])> = kept.chain([(RELAY_MESSAGE, &octets[..])]).collect();
            let mut whole = Vec::new();
            compose(&Draft { message_type: outer, header: Header::Relay(relay), options: &options }, &mut whole)?;
            octets = whole;
            let (relay, server) = (at(link, 547), at(ALL_SERVERS_OF_SITE, 547));
            (
                if reply {
                    Carried::Udp(at(self.plan.server_v6.unwrap_or(router), 547), relay)
                } else {
                    Carried::Udp(relay, server)
                },
                name,
            )
        };
        self.messages.push(SentV6 { name, from_host: !reply, carried, octets });
        Ok(())
    }

    /// The relay's address on the client's link: the first one of its prefix but the routers' own.
    fn relay(&self) -> Ipv6Addr {
        let prefix = self.answer.network.v6.prefix.as_ref();
        prefix.map_or(Ipv6Addr::UNSPECIFIED, |prefix| (u128::from(prefix.net.network()) | 1).into())
    }
}
