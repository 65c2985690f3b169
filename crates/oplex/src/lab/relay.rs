//! A relay agent between clients and the server (RFC 1542, section 4; RFC 3046; RFC 8415, section 19).

use std::net::{Ipv4Addr, Ipv6Addr, SocketAddr};

use super::Packet;
use crate::answer::Ends;
use crate::answer::v6::{ALL_SERVERS_OF_SITE, RELAYED};
use crate::compiled::{Compiled, Network};
use crate::family::{Address as _, Family};
use crate::packet::v6::{self, RELAY_MESSAGE, Relay};
use crate::packet::{Composer, Message as _, v4};
use crate::plan::ClientFacts;

/// What a client sends as its relay agent sends it on; `None` where there is none on its network, or it does not send it on: what a client
/// sends to a server itself goes there without it.
pub(super) fn forwarded(
    compiled: &Compiled<'_>,
    facts: &ClientFacts,
    network: &Network<'_>,
    packet: &Packet,
    composer: &mut Composer,
) -> Option<Packet> {
    let Ends::Udp(from, to) = packet.ends else { return None };
    match (from, to) {
        (SocketAddr::V4(_), SocketAddr::V4(to)) if to.ip().is_broadcast() => {
            let relay = agent(
                network.relays.v4.first().map(|(relay, _)| *relay),
                facts.sent(Family::V4, 82).is_some(),
                || network.sides.v4.subnet().map(|subnet| subnet.hosts().0),
            )?;
            let octets = v4_forwarded(&packet.octets, facts, relay, composer)?;
            let server = compiled.server.v4.as_ref().map_or(Ipv4Addr::BROADCAST, |(server, _)| *server);
            let ends = Ends::Udp(SocketAddr::from((relay, 67)), SocketAddr::from((server, 67)));
            Some(Packet { from_client: true, ends, octets })
        }
        (SocketAddr::V6(from), SocketAddr::V6(_)) => {
            let says = RELAYED.iter().any(|code| facts.sent(Family::V6, *code).is_some());
            let relay = agent(network.relays.v6.first().map(|(relay, _)| *relay), says, || {
                let prefix = network.sides.v6.subnet()?;
                Some(Ipv6Addr::from_bits(prefix.net.first().bits() | 1))
            })?;
            let octets = v6_forwarded(&packet.octets, facts, relay, *from.ip(), composer)?;
            let ends = Ends::Udp(SocketAddr::from((relay, 547)), SocketAddr::from((ALL_SERVERS_OF_SITE, 547)));
            Some(Packet { from_client: true, ends, octets })
        }
        _ => None,
    }
}

/// The relay agent: the plan's, or one with an address of the network where the client is said to be behind one.
fn agent<A>(planned: Option<A>, says: bool, default: impl FnOnce() -> Option<A>) -> Option<A> {
    planned.or_else(|| if says { default() } else { None })
}

fn v4_forwarded(octets: &[u8], facts: &ClientFacts, relay: Ipv4Addr, composer: &mut Composer) -> Option<Vec<u8>> {
    let message = v4::Message::read(octets).ok()?;
    let header = message.header();
    let header = v4::Header { giaddr: relay, hops: header.hops.saturating_add(1), ..header };
    let own: Vec<(u16, Vec<u8>)> = message
        .options()
        .filter(|option| !matches!(option.code(), 52 | 53))
        .map(|option| (option.code(), option.joined().into_owned()))
        .collect();
    let own = own.iter().map(|(code, octets)| (*code, octets.as_slice()));
    // Behind all others (RFC 3046, section 2.1).
    let options: Vec<(u16, &[u8])> = own.chain(facts.sent(Family::V4, 82).map(|octets| (82, octets))).collect();
    let draft = v4::Draft { header, options: &options, ..v4::Draft::new(message.message_type()?) };
    Some(composer.compose(&draft).ok()?.octets.to_vec())
}

fn v6_forwarded(
    octets: &[u8],
    facts: &ClientFacts,
    relay: Ipv6Addr,
    peer: Ipv6Addr,
    composer: &mut Composer,
) -> Option<Vec<u8>> {
    let says = RELAYED.iter().filter_map(|code| Some((*code, facts.sent(Family::V6, *code)?)));
    let options: Vec<(u16, &[u8])> = says.chain([(RELAY_MESSAGE, octets)]).collect();
    let header = v6::Header::Relay(Relay { hops: 0, link: relay, peer });
    let draft = v6::Draft { message_type: v6::MessageType::RELAY_FORWARD, header, options: &options };
    composer.compose(&draft).ok().map(<[u8]>::to_vec)
}

/// A reply as the relay agent hands it to the client.
pub(super) fn returned(octets: &[u8]) -> Option<Vec<u8>> {
    let message = v6::Message::read(octets).ok()?;
    match message.relayed() {
        Some((inner, _)) => Some(inner.ok()?.octets().to_vec()),
        None => Some(octets.to_vec()),
    }
}
