//! A stand-in server, and a stand-in router.

use std::net::{Ipv4Addr, Ipv6Addr, SocketAddr};
use std::time::{Duration, Instant};

use oplex::answer::Ends;
use oplex::compiled::Compiled;
use oplex::family::{Both, Family, Protocol};
use oplex::lab::Packet;
use oplex::octets::{Duid, Mac};
use oplex::packet::{AnyMessage, Composer, Message as _, ra, v4, v6};
use oplex::server::{Destination, InMemory, Ingress, Server};
use tokio::signal::unix::{SignalKind, signal};
use tokio::time::{sleep_until, timeout_at};

use super::sockets::{End, SERVERS, Sockets, source};
use super::{Interface, LabError, run};

/// How long it waits for another server to answer, before it answers itself; it asks twice.
const LISTENING: Duration = Duration::from_millis(1500);

/// The client that asks whether another server answers: a hardware address that no machine has.
const ASKING: Mac = Mac([2, 0, 0x5e, 0, 0x53, 0xfe]);

/// What is served, and where.
#[derive(Debug)]
pub struct Serving<'s> {
    /// What is answered from.
    pub compiled: &'s Compiled<'s>,
    /// The interface.
    pub interface: Interface,
    /// The networks that are served, by their places; clients on the interface itself are on the first.
    pub networks: &'s [usize],
    /// Whether to advertise as the router of the first network, as the plan says.
    pub advertise: bool,
    /// For how long.
    pub time: Duration,
}

/// A request and what came of it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Exchange {
    /// What arrived.
    pub request: Packet,
    /// What was sent, if anything was due.
    pub reply: Option<Packet>,
}

impl Serving<'_> {
    /// The families that it answers.
    fn families(&self) -> Both<bool> {
        let has = |family| self.networks.iter().any(|at| self.compiled.networks[*at].sides.has(family));
        Both::new(has)
    }

    /// Whether a message is of a network that is served.
    fn serves(&self, packet: &Packet) -> bool {
        let protocol = match packet.ends {
            Ends::Udp(SocketAddr::V4(_), _) => Protocol::V4,
            _ => Protocol::V6,
        };
        let Ok(message) = AnyMessage::read(protocol, &packet.octets) else { return false };
        self.compiled.network_of(message).is_none_or(|network| self.networks.contains(&network))
    }
}

/// Answers until the time is up or the program is asked to end, and says so of each exchange. Leases are in memory, and gone
/// afterwards.
///
/// # Errors
/// Sockets that cannot be had; a link on which another server answers already.
pub fn serve(serving: &Serving<'_>, began: &mut dyn FnMut(), each: &mut dyn FnMut(&Exchange)) -> Result<(), LabError> {
    run(async {
        asks_first(serving).await?;
        let sockets = Sockets::open(serving.interface.clone(), End::Server, serving.families(), serving.advertise)?;
        began();
        let end = tokio::time::Instant::now() + serving.time;
        let mut at_work = AtWork { serving, sockets, leases: InMemory::default(), start: Instant::now() };
        at_work.until(end, each).await?;
        at_work.say_farewell().await
    })
}

struct AtWork<'s> {
    serving: &'s Serving<'s>,
    sockets: Sockets,
    leases: InMemory,
    /// Time is counted from here: clocks that people set do not end leases.
    start: Instant,
}

impl AtWork<'_> {
    async fn until(&mut self, end: tokio::time::Instant, each: &mut dyn FnMut(&Exchange)) -> Result<(), LabError> {
        let mut server = Server::new(self.serving.compiled);
        let mut ended = signal(SignalKind::terminate()).map_err(|error| LabError::Socket("signals", error))?;
        let mut interrupted = std::pin::pin!(tokio::signal::ctrl_c());
        let mut advertise = tokio::time::Instant::now();
        loop {
            let packet = tokio::select! {
                packet = self.sockets.receive() => Some(packet?),
                () = sleep_until(advertise), if self.serving.advertise => None,
                () = sleep_until(end) => return Ok(()),
                _ = &mut interrupted => return Ok(()),
                _ = ended.recv() => return Ok(()),
            };
            match packet {
                Some(request) => {
                    let solicits = request.octets.first() == Some(&ra::SOLICITATION);
                    let exchange = match request.ends {
                        Ends::Icmp(_) if !solicits => continue,
                        Ends::Icmp(_) => Exchange { request, reply: self.advertise(true).await? },
                        Ends::Udp(..) => self.answer(&mut server, request).await?,
                    };
                    each(&exchange);
                }
                None => {
                    self.advertise(true).await?;
                    advertise += Duration::from_secs(self.interval());
                }
            }
        }
    }

    fn interval(&self) -> u64 {
        let network = self.serving.networks.first().map(|at| &self.serving.compiled.networks[*at]);
        network.and_then(|network| network.advertises.as_ref()).map_or(600, |said| u64::from(said.interval.max(4)))
    }

    async fn answer(&mut self, server: &mut Server<'_>, request: Packet) -> Result<Exchange, LabError> {
        let Ends::Udp(source, _) = request.ends else { return Ok(Exchange { request, reply: None }) };
        if !self.serving.serves(&request) {
            return Ok(Exchange { request, reply: None });
        }
        self.leases.at(self.start.elapsed().as_secs());
        let networks = self.serving.networks;
        let network = networks.first().map(|at| &*self.serving.compiled.networks[*at].name);
        let ingress = Ingress { network, source: Some(source) };
        let Some(reply) = server.answer(&request.octets, &ingress, &mut self.leases) else {
            return Ok(Exchange { request, reply: None });
        };
        let own = match source {
            SocketAddr::V4(_) => SocketAddr::from((Ipv4Addr::UNSPECIFIED, 67)),
            SocketAddr::V6(_) => SocketAddr::from((Ipv6Addr::UNSPECIFIED, 547)),
        };
        let to = match reply.to {
            Destination::Address(to) => to,
            // It has no address yet, and no other socket reaches it (RFC 2131, section 4.1).
            Destination::Link(..) | Destination::Broadcast => SocketAddr::from((Ipv4Addr::BROADCAST, 68)),
            Destination::Source => source,
        };
        let reply = Packet { from_client: false, ends: Ends::Udp(own, to), octets: reply.octets.to_vec() };
        // What cannot be sent to one client must not end the others'.
        let reply = self.sockets.send(&reply).await.is_ok().then_some(reply);
        Ok(Exchange { request, reply })
    }

    /// Says what the plan has its router say; a router that goes away says that it is none (RFC 4861, section 6.2.5).
    async fn advertise(&self, stays: bool) -> Result<Option<Packet>, LabError> {
        let network = self.serving.networks.first().map(|at| &self.serving.compiled.networks[*at]);
        let Some(said) = network.and_then(|network| network.advertises.as_ref()) else { return Ok(None) };
        let mut said = said.clone();
        if !stays {
            said.header.router_lifetime = 0;
        }
        let Ok(octets) = said.octets() else { return Ok(None) };
        let ends = Ends::Icmp(ra::Ends { destination: ra::ALL_NODES, ..said.ends });
        let packet = Packet { from_client: false, ends, octets };
        self.sockets.send(&packet).await?;
        Ok(Some(packet))
    }

    async fn say_farewell(&self) -> Result<(), LabError> {
        if self.serving.advertise {
            self.advertise(false).await?;
        }
        Ok(())
    }
}

/// Asks twice whether another server answers on the link.
async fn asks_first(serving: &Serving<'_>) -> Result<(), LabError> {
    let families = serving.families();
    let sockets = Sockets::open(serving.interface.clone(), End::Client, families, serving.advertise)?;
    for _ in 0..2 {
        for packet in questions(families, serving.advertise) {
            sockets.send_patiently(&packet).await?;
        }
        let end = tokio::time::Instant::now() + LISTENING;
        while let Ok(heard) = timeout_at(end, sockets.receive()).await {
            let heard = heard?;
            if let Some(protocol) = answers(&heard) {
                return Err(LabError::Answered { protocol, from: source(&heard) });
            }
        }
    }
    Ok(())
}

/// What a client that does not exist would request.
fn questions(families: Both<bool>, router: bool) -> Vec<Packet> {
    let mut composer = Composer::default();
    let packet = |ends, octets: &[u8]| Packet { from_client: true, ends, octets: octets.to_vec() };
    let mut all = Vec::new();
    if families[Family::V4] {
        let header = v4::Header { flags: v4::Header::BROADCAST, ..v4::Header::from_client(0x6f70_6c78, ASKING) };
        let draft = v4::Draft { header, ..v4::Draft::new(v4::MessageType::DISCOVER) };
        let ends = Ends::Udp((Ipv4Addr::UNSPECIFIED, 68).into(), (Ipv4Addr::BROADCAST, 67).into());
        all.extend(composer.compose(&draft).ok().map(|composed| packet(ends, composed.octets)));
    }
    if families[Family::V6] {
        let duid = Duid::of_mac(ASKING);
        let options: [(u16, &[u8]); 3] = [(1, &duid), (3, &[0, 0, 0x53, 0xfe, 0, 0, 0, 0, 0, 0, 0, 0]), (8, &[0, 0])];
        let header = v6::Header::Transaction(0x6f_706c);
        let draft = v6::Draft { message_type: v6::MessageType::SOLICIT, header, options: &options };
        let ends = Ends::Udp((Ipv6Addr::UNSPECIFIED, 546).into(), (SERVERS[0], 547).into());
        all.extend(composer.compose(&draft).ok().map(|octets| packet(ends, octets)));
    }
    if router {
        let ends = ra::Ends { source: Ipv6Addr::UNSPECIFIED, destination: ra::ALL_ROUTERS };
        let draft = ra::Draft { header: ra::Header::Solicitation, ends, options: &[] };
        all.extend(composer.compose(&draft).ok().map(|octets| packet(Ends::Icmp(ends), octets)));
    }
    all
}

/// Whether a packet is an answer of a server or router, and by which protocol.
fn answers(packet: &Packet) -> Option<Protocol> {
    match packet.ends {
        Ends::Icmp(_) => (packet.octets.first() == Some(&ra::ADVERTISEMENT)).then_some(Protocol::Ra),
        Ends::Udp(SocketAddr::V4(_), _) => {
            let message = v4::Message::read(&packet.octets).ok()?;
            (message.header().op == 2).then_some(Protocol::V4)
        }
        Ends::Udp(SocketAddr::V6(_), _) => {
            let kind = v6::Message::read(&packet.octets).ok()?.message_type();
            matches!(kind, v6::MessageType::ADVERTISE | v6::MessageType::REPLY).then_some(Protocol::V6)
        }
    }
}
