//! A lab: a server, its clients, and the links between them, in simulated time.

use std::collections::BTreeMap;
use std::net::{Ipv4Addr, SocketAddr};
use std::time::Duration;

use fastrand::Rng;

use super::client::Output;
use super::population::families;
use super::relay::{forwarded, returned};
use super::tally::{GroupTally, Own, Tally};
use super::{Client, Event, Packet, Population};
use crate::answer::Ends;
use crate::audit::{CapturedMessage, Frame};
use crate::compiled::Compiled;
use crate::family::Protocol;
use crate::octets::Mac;
use crate::packet::{Composer, ra};
use crate::server::{Destination, InMemory, Ingress, Server};

/// What goes wrong between clients and the server, of so many packets in a thousand.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Faults {
    /// Packets that get lost.
    pub lost: u16,
    /// Packets that arrive twice.
    pub doubled: u16,
    /// Packets that others overtake: they arrive up to two seconds late.
    pub late: u16,
}

/// A packet as it was seen where the server is.
#[derive(Debug, Clone, Copy)]
pub struct Heard<'h> {
    /// When, from the beginning of the lab.
    pub at: Duration,
    /// The network, by its place.
    pub network: usize,
    /// The hardware address of the client; of what a router advertises to all of them the first of the network.
    pub client: Mac,
    /// What it is.
    pub packet: &'h Packet,
}

impl Heard<'_> {
    /// The packet as an audit takes it, of a lab that began at `start`.
    #[must_use]
    pub fn seen(&self, start: Duration, number: u64) -> CapturedMessage {
        let Packet { ends, octets, .. } = self.packet;
        let (protocol, source, destination) = match *ends {
            Ends::Udp(from, to) => (if from.is_ipv4() { Protocol::V4 } else { Protocol::V6 }, from, to),
            Ends::Icmp(ends) => {
                (Protocol::Ra, SocketAddr::from((ends.source, 0)), SocketAddr::from((ends.destination, 0)))
            }
        };
        let octets = match *ends {
            Ends::Icmp(ends) => ra::Packet { ends, hop_limit: ra::HOP_LIMIT }.around(octets),
            Ends::Udp(..) => octets.clone(),
        };
        CapturedMessage {
            at: start + self.at,
            frame: Frame { file: 0, number },
            link: self.network as u32,
            protocol,
            source,
            destination,
            hardware: self.packet.from_client.then_some(self.client),
            octets: octets.into(),
            missing: 0,
            checksum_wrong: false,
            comment: None,
        }
    }
}

/// What a lab reports while it runs.
#[derive(Debug, Clone, Copy)]
pub enum LabReport<'r> {
    /// A packet.
    Packet(Heard<'r>),
    /// What became of a client: when, and of which.
    Event(Duration, &'r Client, &'r Event),
}

/// A lab. What happens by chance in it follows from its seed alone.
#[derive(Debug)]
pub struct Lab<'c> {
    compiled: &'c Compiled<'c>,
    server: Server<'c>,
    leases: InMemory,
    clients: Vec<Placed>,
    /// The clients of each network that has some.
    links: BTreeMap<usize, Vec<usize>>,
    queue: BTreeMap<(Duration, u64), Due>,
    /// How many things were put into the queue: what is due at the same time is done in this order.
    count: u64,
    now: Duration,
    faults: Faults,
    random: Rng,
    composer: Composer,
    tally: Tally,
}

/// A client, and where it is counted.
#[derive(Debug)]
pub(super) struct Placed {
    pub(super) client: Client,
    pub(super) group: usize,
    pub(super) own: Own,
    /// When it will be woken.
    woken: Option<Duration>,
}

#[derive(Debug)]
enum Due {
    Wake(usize),
    /// A router says what it says every now and then.
    Advertise(usize),
    ToServer(usize, Packet),
    ToClient(usize, Packet),
}

impl<'c> Lab<'c> {
    /// A lab with these clients.
    #[must_use]
    pub fn new(compiled: &'c Compiled<'c>, population: Population, faults: Faults, seed: u64) -> Self {
        let mut lab = Self {
            compiled,
            server: Server::new(compiled),
            leases: InMemory::default(),
            clients: Vec::new(),
            links: BTreeMap::new(),
            queue: BTreeMap::new(),
            count: 0,
            now: Duration::ZERO,
            faults,
            random: Rng::with_seed(seed),
            composer: Composer::default(),
            tally: Tally::default(),
        };
        for group in population.groups {
            lab.add(group);
        }
        let routers: Vec<usize> = lab.links.keys().copied().filter(|at| lab.advertises(*at).is_some()).collect();
        for network in routers {
            lab.later(Duration::from_secs(1), Due::Advertise(network));
        }
        lab
    }

    fn add(&mut self, group: super::Group) {
        let (at, speaks) = (self.tally.groups.len(), families(self.compiled, group.network));
        let clients = group.members.len() as u64;
        let (name, network) = (group.name, group.network);
        self.tally.groups.push(GroupTally { name, network, clients, ..GroupTally::default() });
        for (on, facts) in group.members {
            let client = Client::new(group.kind.clone(), facts, speaks, on, self.random.u64(..));
            let own = self.tally.pools_of(self.compiled, &client);
            self.clients.push(Placed { client, group: at, own, woken: None });
            let place = self.clients.len() - 1;
            self.links.entry(network).or_default().push(place);
            self.schedule(place);
        }
    }

    fn later(&mut self, at: Duration, due: Due) {
        self.count += 1;
        self.queue.insert((at, self.count), due);
    }

    /// Sees to it that a client is woken when it wants to be.
    fn schedule(&mut self, at: usize) {
        let placed = &mut self.clients[at];
        let Some(due) = placed.client.due() else { return };
        if placed.woken.is_none_or(|woken| due < woken || woken < self.now) {
            placed.woken = Some(due);
            self.later(due, Due::Wake(at));
        }
    }

    /// Its clients.
    pub fn clients(&self) -> impl Iterator<Item = &Client> {
        self.clients.iter().map(|placed| &placed.client)
    }

    /// What time it is in it.
    #[must_use]
    pub fn now(&self) -> Duration {
        self.now
    }

    /// How many leases and offers its server keeps.
    #[must_use]
    pub fn leases(&self) -> usize {
        self.leases.len()
    }

    /// The server is started anew: it knows the leases, and nothing else.
    pub fn restart_server(&mut self) {
        self.server = Server::new(self.compiled);
    }

    /// Client number `at` loses its power for a moment.
    pub fn restart_client(&mut self, at: usize, report: &mut dyn FnMut(LabReport<'_>)) {
        let mut out = Output::default();
        let now = self.now;
        if let Some(placed) = self.clients.get_mut(at) {
            placed.client.restart(now, &mut out);
            self.after(at, out, report);
        }
    }

    /// Lets time go by until it is so late, and reports what happens.
    pub fn run(&mut self, until: Duration, report: &mut dyn FnMut(LabReport<'_>)) {
        while let Some(first) = self.queue.first_entry().filter(|first| first.key().0 <= until) {
            let ((at, _), due) = first.remove_entry();
            self.now = at;
            self.leases.at(at.as_secs());
            match due {
                Due::Wake(at) => self.wake(at, report),
                Due::Advertise(network) => self.advertise(network, report),
                Due::ToServer(from, packet) => self.serve(from, packet, report),
                Due::ToClient(to, packet) => {
                    let mut out = Output::default();
                    self.clients[to].client.receive(at, &packet, &mut out);
                    self.after(to, out, report);
                }
            }
        }
        self.now = until;
    }

    /// What came of it so far.
    #[must_use]
    pub fn tally(&self) -> Tally {
        let mut tally = self.tally.clone();
        for placed in &self.clients {
            let content = placed.client.is_content(self.now);
            tally.groups[placed.group].content += u64::from(content);
        }
        tally
    }

    fn wake(&mut self, at: usize, report: &mut dyn FnMut(LabReport<'_>)) {
        let mut out = Output::default();
        let placed = &mut self.clients[at];
        // It may have been woken meanwhile for something else.
        if placed.client.due().is_some_and(|due| due <= self.now) {
            placed.client.wake(self.now, &mut out);
        }
        placed.woken = None;
        self.after(at, out, report);
    }

    /// Counts what became of a client, and sends what it sends.
    fn after(&mut self, at: usize, out: Output, report: &mut dyn FnMut(LabReport<'_>)) {
        for event in &out.events {
            self.tally.count((at, &self.clients), event, self.now);
            report(LabReport::Event(self.now, &self.clients[at].client, event));
        }
        for packet in out.packets {
            let network = &self.compiled.networks[self.clients[at].client.facts().network];
            let facts = self.clients[at].client.facts();
            let relayed = forwarded(self.compiled, facts, network, &packet, &mut self.composer);
            self.post(relayed.unwrap_or(packet), |packet| Due::ToServer(at, packet));
        }
        self.schedule(at);
    }

    /// Sends a packet, which the faults may befall.
    fn post(&mut self, packet: Packet, due: impl Fn(Packet) -> Due) {
        let mut befalls = |share: u16| share > 0 && self.random.u16(..1000) < share;
        if befalls(self.faults.lost) {
            return;
        }
        let (twice, late) = (befalls(self.faults.doubled), befalls(self.faults.late));
        for _ in 0..=u8::from(twice) {
            let most = if late { 2_000_000 } else { 1500 };
            let takes = Duration::from_micros(500 + self.random.u64(..most));
            self.later(self.now + takes, due(packet.clone()));
        }
    }

    fn advertises(&self, network: usize) -> Option<(Ends, Vec<u8>, u32)> {
        let said = self.compiled.networks[network].advertises.as_ref()?;
        Some((Ends::Icmp(said.ends), said.octets().ok()?, said.interval))
    }

    fn advertise(&mut self, network: usize, report: &mut dyn FnMut(LabReport<'_>)) {
        let Some((ends, octets, interval)) = self.advertises(network) else { return };
        let packet = Packet { from_client: false, ends, octets };
        let all = self.links.get(&network).cloned().unwrap_or_default();
        let client = all.first().map(|first| self.clients[*first].client.mac()).unwrap_or_default();
        report(LabReport::Packet(Heard { at: self.now, network, client, packet: &packet }));
        for at in all {
            let mut out = Output::default();
            self.clients[at].client.receive(self.now, &packet, &mut out);
            self.after(at, out, report);
        }
        self.later(self.now + Duration::from_secs(interval.max(1).into()), Due::Advertise(network));
    }

    /// What reaches the server or the router.
    fn serve(&mut self, from: usize, packet: Packet, report: &mut dyn FnMut(LabReport<'_>)) {
        let client = &self.clients[from].client;
        let (network, mac) = (client.facts().network, client.mac());
        let hear = |packet| LabReport::Packet(Heard { at: self.now, network, client: mac, packet });
        report(hear(&packet));
        let Ends::Udp(source, _) = packet.ends else {
            if let Some((ends, octets, _)) = self.advertises(network) {
                let said = Packet { from_client: false, ends, octets };
                report(hear(&said));
                self.post(said, |packet| Due::ToClient(from, packet));
            }
            return;
        };
        self.tally.requests += 1;
        let own = self.compiled.server.as_ref();
        let v4 = own.v4.as_ref().map_or(Ipv4Addr::UNSPECIFIED, |(address, _)| *address);
        let router = self.compiled.networks[network].advertises.as_ref().map(|said| said.ends.source);
        let relayed = source.port() == 547;
        let v6 = own.v6.as_ref().filter(|_| relayed).map(|(address, _)| *address).or(router);
        let v6 = v6.unwrap_or(crate::answer::v6::ROUTER);
        let ingress = Ingress { network: Some(&self.compiled.networks[network].name), source: Some(source) };
        let Some(reply) = self.server.answer(&packet.octets, &ingress, &mut self.leases) else { return };
        let ends = match reply.to {
            Destination::Address(to) | Destination::Link(to, _) => Ends::Udp((v4, 67).into(), to),
            Destination::Broadcast => Ends::Udp((v4, 67).into(), (Ipv4Addr::BROADCAST, 68).into()),
            Destination::Source => Ends::Udp((v6, 547).into(), source),
        };
        let reply = Packet { from_client: false, ends, octets: reply.octets.to_vec() };
        self.tally.replies += 1;
        report(hear(&reply));
        let octets = returned(&reply.octets).unwrap_or_default();
        let octets = if matches!(reply.ends, Ends::Udp(SocketAddr::V6(_), _)) { octets } else { reply.octets };
        let handed = Packet { octets, ..reply };
        self.post(handed, |packet| Due::ToClient(from, packet));
    }
}
