//! A client that does what it should not: it floods, takes what it does not need, repeats what others said, and sends what is no
//! message.

use std::net::{Ipv4Addr, SocketAddr};
use std::time::Duration;

use super::Packet;
use super::client::Host;
use crate::answer::Ends;
use crate::answer::v6::ALL_SERVERS;
use crate::octets::{Duid, Mac};
use crate::packet::{Message as _, v4, v6};

/// It does something this often.
const EVERY: Duration = Duration::from_secs(5);

/// As much it remembers of what it heard and said.
const REMEMBERED: usize = 64;

#[derive(Debug, Default)]
pub(super) struct Hostile {
    due: Option<Duration>,
    /// What it could say again: both what it sent and what it was sent.
    known: Vec<Packet>,
}

impl Hostile {
    pub(super) fn due(&self) -> Option<Duration> {
        self.due
    }

    pub(super) fn start(&mut self, host: &mut Host<'_>) {
        self.due = Some(host.now);
    }

    pub(super) fn stop(&mut self, _: &mut Host<'_>) {
        self.due = None;
    }

    pub(super) fn wake(&mut self, host: &mut Host<'_>) {
        if self.due.is_none_or(|due| due > host.now) {
            return;
        }
        self.due = Some(host.now + EVERY);
        let packet = match host.random.u8(..6) {
            0 | 1 => discover(host),
            2 => solicit(host),
            3 => self.taken(host),
            4 => self.known(host),
            _ => self.known(host).map(|packet| broken(packet, host)),
        };
        let Some(packet) = packet.or_else(|| discover(host)) else { return };
        self.remember(&packet, host.random.usize(..));
        host.out.packets.push(packet);
    }

    pub(super) fn receive(&mut self, packet: &Packet) {
        self.remember(packet, packet.octets.len());
    }

    fn remember(&mut self, packet: &Packet, chance: usize) {
        if self.known.len() < REMEMBERED {
            self.known.push(packet.clone());
        } else {
            self.known[chance % REMEMBERED] = packet.clone();
        }
    }

    /// Something that was said before.
    fn known(&self, host: &mut Host<'_>) -> Option<Packet> {
        let packet = host.random.choice(&self.known)?;
        let ends = match packet.ends {
            ends if packet.from_client => ends,
            Ends::Udp(SocketAddr::V6(_), to) => Ends::Udp(to, SocketAddr::from((ALL_SERVERS, 547))),
            Ends::Udp(..) => everybody(),
            Ends::Icmp(ends) => Ends::Icmp(ends),
        };
        Some(Packet { from_client: true, ends, octets: packet.octets.clone() })
    }

    /// An address that was offered to a client: taken, given back for its owner, or said to be in use.
    fn taken(&self, host: &mut Host<'_>) -> Option<Packet> {
        let offers = self.known.iter().filter(|packet| !packet.from_client);
        let offers: Vec<v4::Message<'_>> = offers.filter_map(|packet| v4::Message::read(&packet.octets).ok()).collect();
        let offer = host.random.choice(&offers)?;
        let (header, address) = (offer.header(), offer.header().yiaddr.octets());
        let server = offer.option(54)?.joined().into_owned();
        let kinds = [v4::MessageType::REQUEST, v4::MessageType::DECLINE, v4::MessageType::RELEASE];
        let kind = *host.random.choice(&kinds)?;
        let ciaddr = if kind == v4::MessageType::RELEASE { header.yiaddr } else { Ipv4Addr::UNSPECIFIED };
        let header =
            v4::Header { op: 1, ciaddr, yiaddr: Ipv4Addr::UNSPECIFIED, siaddr: Ipv4Addr::UNSPECIFIED, ..header };
        let options: [(u16, &[u8]); 2] = [(54, &server), (50, &address)];
        let options = if kind == v4::MessageType::RELEASE { &options[..1] } else { &options[..] };
        let draft = v4::Draft { header, options, ..v4::Draft::new(kind) };
        let octets = host.composer.compose(&draft).ok()?.octets.to_vec();
        Some(Packet { from_client: true, ends: everybody(), octets })
    }
}

fn everybody() -> Ends {
    Ends::Udp(SocketAddr::from((Ipv4Addr::UNSPECIFIED, 68)), SocketAddr::from((Ipv4Addr::BROADCAST, 67)))
}

/// A machine that does not exist.
fn stranger(host: &mut Host<'_>) -> Mac {
    let [a, b, c, d] = host.random.u32(..).to_be_bytes();
    Mac([2, 0xee, a, b, c, d])
}

fn discover(host: &mut Host<'_>) -> Option<Packet> {
    let header = v4::Header::from_client(host.random.u32(..), stranger(host));
    let draft = v4::Draft { header, options: &[(55, &[1, 3, 6])], ..v4::Draft::new(v4::MessageType::DISCOVER) };
    let octets = host.composer.compose(&draft).ok()?.octets.to_vec();
    Some(Packet { from_client: true, ends: everybody(), octets })
}

fn solicit(host: &mut Host<'_>) -> Option<Packet> {
    let mac = stranger(host);
    let (duid, iaid) = (Duid::of_mac(mac), [&mac[2..], &[0; 8]].concat());
    let options: [(u16, &[u8]); 4] = [(1, &duid), (3, &iaid), (8, &[0, 0]), (14, &[])];
    let header = v6::Header::Transaction(host.random.u32(..0x0100_0000));
    let draft = v6::Draft { message_type: v6::MessageType::SOLICIT, header, options: &options };
    let octets = host.composer.compose(&draft).ok()?.to_vec();
    let own = SocketAddr::from((crate::answer::host::link_local(mac), 546));
    Some(Packet { from_client: true, ends: Ends::Udp(own, SocketAddr::from((ALL_SERVERS, 547))), octets })
}

/// What was a message, with some of its octets changed or its end cut off.
fn broken(mut packet: Packet, host: &mut Host<'_>) -> Packet {
    for _ in 0..host.random.usize(1..8) {
        let (at, with) = (host.random.usize(..packet.octets.len().max(1)), host.random.u8(..));
        packet.octets.get_mut(at).into_iter().for_each(|octet| *octet = with);
    }
    if host.random.bool() {
        packet.octets.truncate(host.random.usize(..=packet.octets.len()));
    }
    packet
}
