//! Load: many clients at a time, over UDP on the loopback interface, and nowhere else.

use std::io;
use std::net::{Ipv4Addr, SocketAddr, UdpSocket};
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::{Duration, Instant};

use oplex::compiled::Compiled;
use oplex::octets::Mac;
use oplex::packet::{Composer, Message as _, v4};
use oplex::server::{InMemory, Ingress, Server};

use super::LabError;

/// A request without a reply after this time is lost.
const LOST: Duration = Duration::from_secs(5);

/// What clients request, as common systems do.
const REQUESTED: [u8; 9] = [1, 121, 3, 6, 15, 42, 51, 58, 59];

/// How much load there is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Load {
    /// How many clients request an address, one after the other.
    pub clients: u32,
    /// For how long at most.
    pub time: Duration,
    /// How many requests wait for their replies at a time; no more than the network has addresses.
    pub window: usize,
    /// Whether nothing answers but an echo of what the server would have sent last: what sockets alone cost.
    pub echo: bool,
}

/// What came of it.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Loaded {
    /// How many clients were leased an address.
    pub leased: u64,
    /// How many replies there were.
    pub replies: u64,
    /// How many requests had no reply.
    pub lost: u64,
    /// How long it took.
    pub time: Duration,
    /// How long each reply took, sorted.
    pub latencies: Vec<Duration>,
}

impl Loaded {
    /// The time that so many replies of a hundred took no longer than.
    #[must_use]
    pub fn percentile(&self, percent: usize) -> Duration {
        let at = (self.latencies.len() * percent / 100).min(self.latencies.len().saturating_sub(1));
        self.latencies.get(at).copied().unwrap_or_default()
    }

    /// Replies a second.
    #[must_use]
    pub fn rate(&self) -> f64 {
        self.replies as f64 / self.time.as_secs_f64().max(1e-9)
    }
}

/// Has clients request addresses on a network, of a server in a thread of its own.
///
/// # Errors
/// Sockets that cannot be had.
pub fn load(compiled: &Compiled<'_>, network: usize, load: Load) -> Result<Loaded, LabError> {
    let wrong = |error| LabError::Socket("UDP on the loopback interface", error);
    let socket = || UdpSocket::bind((Ipv4Addr::LOCALHOST, 0));
    let (server, client) = (socket().map_err(wrong)?, socket().map_err(wrong)?);
    let to = server.local_addr().map_err(wrong)?;
    let over = AtomicBool::new(false);
    std::thread::scope(|scope| {
        let served = scope.spawn(|| answer(compiled, network, load.echo, &server, &over));
        let loaded = ask(load, &client, to);
        over.store(true, Ordering::Relaxed);
        let served = served.join().unwrap_or_else(|_| Err(io::Error::other("the server ended")));
        loaded.and_then(|loaded| served.map(|()| loaded)).map_err(wrong)
    })
}

/// Answers until it is over.
fn answer(
    compiled: &Compiled<'_>,
    network: usize,
    echo: bool,
    socket: &UdpSocket,
    over: &AtomicBool,
) -> io::Result<()> {
    socket.set_read_timeout(Some(Duration::from_millis(50)))?;
    let (mut server, mut leases, start) = (Server::new(compiled), InMemory::default(), Instant::now());
    let ingress = Ingress::on(&compiled.networks[network].name);
    let mut octets = vec![0; 1500];
    let mut last = Vec::new();
    while !over.load(Ordering::Relaxed) {
        let (count, source) = match socket.recv_from(&mut octets) {
            Ok(got) => got,
            Err(error) if matches!(error.kind(), io::ErrorKind::WouldBlock | io::ErrorKind::TimedOut) => continue,
            Err(error) => return Err(error),
        };
        if echo && !last.is_empty() {
            // A release has no reply.
            if octets.get(240..243) == Some(&[53, 1, v4::MessageType::RELEASE.0]) {
                continue;
            }
            // As many octets as a reply has, with the transaction that its client waits for.
            last[4..8].copy_from_slice(&octets[4..8]);
            socket.send_to(&last, source)?;
            continue;
        }
        leases.at(start.elapsed().as_secs());
        if let Some(reply) = server.answer(&octets[..count], &ingress, &mut leases) {
            socket.send_to(reply.octets, source)?;
            if echo {
                last = reply.octets.to_vec();
            }
        }
    }
    Ok(())
}

/// A request that waits for its reply.
#[derive(Clone, Copy)]
struct Waiting {
    xid: u32,
    sent: Instant,
    is_request: bool,
}

fn mac(xid: u32) -> Mac {
    let [a, b, c, d] = xid.to_be_bytes();
    Mac([2, 0, a, b, c, d])
}

fn message(xid: u32, offered: Option<v4::Message<'_>>, composer: &mut Composer) -> Option<Vec<u8>> {
    let header = v4::Header::from_client(xid, mac(xid));
    let offered = offered.and_then(|offer| {
        let server = offer.option(54)?.joined().into_owned();
        Some((offer.header().yiaddr.octets(), server))
    });
    let (kind, options): (_, Vec<(u16, &[u8])>) = match &offered {
        Some((address, server)) => (v4::MessageType::REQUEST, vec![(55, &REQUESTED), (50, address), (54, server)]),
        None => (v4::MessageType::DISCOVER, vec![(55, &REQUESTED)]),
    };
    let draft = v4::Draft { header, options: &options, ..v4::Draft::new(kind) };
    composer.compose(&draft).ok().map(|composed| composed.octets.to_vec())
}

/// What a client sends that gives its address back.
fn release(leased: v4::Message<'_>, composer: &mut Composer) -> Option<Vec<u8>> {
    let header = leased.header();
    let server = leased.option(54)?.joined().into_owned();
    let header = v4::Header { ciaddr: header.yiaddr, ..v4::Header::from_client(header.xid, mac(header.xid)) };
    let draft = v4::Draft { header, options: &[(54, &server)], ..v4::Draft::new(v4::MessageType::RELEASE) };
    composer.compose(&draft).ok().map(|composed| composed.octets.to_vec())
}

/// Asks for all clients, so many at a time.
fn ask(load: Load, socket: &UdpSocket, to: SocketAddr) -> io::Result<Loaded> {
    socket.set_read_timeout(Some(Duration::from_millis(100)))?;
    let (mut composer, mut octets) = (Composer::default(), vec![0; 1500]);
    let (mut loaded, mut waiting, start) =
        (Loaded::default(), Vec::<Waiting>::with_capacity(load.window), Instant::now());
    let mut next = 1u32;
    loop {
        while waiting.len() < load.window && next <= load.clients && start.elapsed() < load.time {
            let Some(discover) = message(next, None, &mut composer) else { break };
            waiting.push(Waiting { xid: next, sent: Instant::now(), is_request: false });
            socket.send_to(&discover, to)?;
            next += 1;
        }
        if waiting.is_empty() {
            break;
        }
        let count = match socket.recv_from(&mut octets) {
            Ok((count, _)) => count,
            Err(error) if matches!(error.kind(), io::ErrorKind::WouldBlock | io::ErrorKind::TimedOut) => 0,
            Err(error) => return Err(error),
        };
        let before = waiting.len();
        waiting.retain(|one| one.sent.elapsed() < LOST);
        loaded.lost += (before - waiting.len()) as u64;
        let Ok(reply) = v4::Message::read(&octets[..count]) else { continue };
        let xid = reply.header().xid;
        let Some(at) = waiting.iter().position(|one| one.xid == xid) else { continue };
        let one = waiting.swap_remove(at);
        loaded.replies += 1;
        loaded.latencies.push(one.sent.elapsed());
        match reply.message_type() {
            _ if one.is_request => {
                loaded.leased += 1;
                // Others need it: there may be more clients than addresses.
                if let Some(release) = release(reply, &mut composer) {
                    socket.send_to(&release, to)?;
                }
            }
            Some(v4::MessageType::OFFER | v4::MessageType::ACK) => {
                if let Some(request) = message(xid, Some(reply), &mut composer) {
                    waiting.push(Waiting { xid, sent: Instant::now(), is_request: true });
                    socket.send_to(&request, to)?;
                }
            }
            _ => {}
        }
    }
    loaded.time = start.elapsed();
    loaded.latencies.sort_unstable();
    Ok(loaded)
}
