//! Sockets that are held to one interface.

use std::io;
use std::net::{IpAddr, Ipv4Addr, Ipv6Addr, SocketAddr, SocketAddrV6};
use std::path::Path;
use std::time::Duration;

use oplex::answer::Ends;
use oplex::family::Both;
use oplex::lab::Packet;
use oplex::octets::Mac;
use oplex::packet::ra;
use socket2::{Domain, Protocol, Socket, Type};
use tokio::net::UdpSocket;

use super::LabError;

/// All relay agents and servers on the link, and all servers of the site (RFC 8415, section 7.1).
pub(super) const SERVERS: [Ipv6Addr; 2] =
    [Ipv6Addr::new(0xff02, 0, 0, 0, 0, 0, 1, 2), Ipv6Addr::new(0xff05, 0, 0, 0, 0, 0, 1, 3)];

/// How often it tries, a fifth of a second apart.
const PATIENCE: u32 = 20;

/// As many octets a packet has at most.
const LARGEST: usize = 65_535;

/// An interface of this machine.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Interface {
    /// Its name.
    pub name: String,
    /// Its number.
    pub index: u32,
    /// Its hardware address.
    pub mac: Mac,
}

impl Interface {
    /// The interface of this name.
    ///
    /// # Errors
    /// One that is not there, or has no hardware address of Ethernet.
    pub fn named(name: &str) -> Result<Self, LabError> {
        let wrong = |error| LabError::Interface(name.to_owned(), error);
        let folder = Path::new("/sys/class/net").join(name);
        let fact = |what: &str| std::fs::read_to_string(folder.join(what)).map(|text| text.trim().to_owned());
        let odd = || io::Error::new(io::ErrorKind::InvalidData, "it has no hardware address of Ethernet");
        let index = fact("ifindex").and_then(|text| text.parse().map_err(|_| odd())).map_err(wrong)?;
        let mac = fact("address").and_then(|text| text.parse().map_err(|_| odd())).map_err(wrong)?;
        Ok(Self { name: name.to_owned(), index, mac })
    }
}

/// Which end of an exchange a socket is for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum End {
    Client,
    Server,
}

/// The sockets of one end on one interface.
#[derive(Debug)]
pub(super) struct Sockets {
    interface: Interface,
    end: End,
    v4: Option<UdpSocket>,
    v6: Option<UdpSocket>,
    /// For what routers and hosts say to each other.
    icmp: Option<UdpSocket>,
}

impl Sockets {
    /// Sockets for these families; `routers` says whether what routers advertise is spoken as well.
    pub(super) fn open(interface: Interface, end: End, families: Both<bool>, routers: bool) -> Result<Self, LabError> {
        let v4 = families.v4.then(|| udp_v4(&interface, end)).transpose();
        let v4 = v4.map_err(|error| LabError::Socket("the UDP port of DHCPv4", error))?;
        let v6 = families.v6.then(|| udp_v6(&interface, end)).transpose();
        let v6 = v6.map_err(|error| LabError::Socket("the UDP port of DHCPv6", error))?;
        let icmp = routers.then(|| icmp(&interface, end)).transpose();
        let icmp = icmp.map_err(|error| LabError::Socket("ICMPv6", error))?;
        Ok(Self { interface, end, v4, v6, icmp })
    }

    /// The next packet that arrives.
    pub(super) async fn receive(&self) -> Result<Packet, LabError> {
        loop {
            let packet = self.any().await?;
            // Neighbors say more to each other than what routers advertise.
            let is_of_router = matches!(packet.octets.first(), Some(&ra::SOLICITATION | &ra::ADVERTISEMENT));
            if is_of_router || !matches!(packet.ends, Ends::Icmp(_)) {
                return Ok(packet);
            }
        }
    }

    async fn any(&self) -> Result<Packet, LabError> {
        let (mut v4, mut v6, mut icmp) = (vec![0; LARGEST], vec![0; LARGEST], vec![0; LARGEST]);
        let (octets, source) = tokio::select! {
            got = from(self.v4.as_ref(), &mut v4) => got.map(|(count, source)| (&v4[..count], source)),
            got = from(self.v6.as_ref(), &mut v6) => got.map(|(count, source)| (&v6[..count], source)),
            got = from(self.icmp.as_ref(), &mut icmp) => got.map(|(count, source)| (&icmp[..count], source)),
        }
        .map_err(|error| LabError::Socket("waiting for packets", error))?;
        let (from_client, octets) = (self.end == End::Server, octets.to_vec());
        let unknown = |source: SocketAddr| match source {
            SocketAddr::V4(_) => SocketAddr::from((Ipv4Addr::UNSPECIFIED, self.port(source))),
            SocketAddr::V6(_) => SocketAddr::from((Ipv6Addr::UNSPECIFIED, self.port(source))),
        };
        let ends = match source {
            SocketAddr::V6(source) if source.port() == 0 => {
                Ends::Icmp(ra::Ends { source: *source.ip(), destination: ra::ALL_NODES })
            }
            source => Ends::Udp(source, unknown(source)),
        };
        Ok(Packet { from_client, ends, octets })
    }

    /// The port of this end.
    fn port(&self, of: SocketAddr) -> u16 {
        port(self.end, of.is_ipv4())
    }

    /// Sends a packet to where it goes.
    pub(super) async fn send(&self, packet: &Packet) -> Result<(), LabError> {
        let (socket, to) = match packet.ends {
            Ends::Icmp(ends) => (self.icmp.as_ref(), self.scoped(ends.destination, 0)),
            Ends::Udp(_, to @ SocketAddr::V4(_)) => (self.v4.as_ref(), to),
            Ends::Udp(_, SocketAddr::V6(to)) => (self.v6.as_ref(), self.scoped(*to.ip(), to.port())),
        };
        let Some(socket) = socket else { return Ok(()) };
        let sent = socket.send_to(&packet.octets, to).await;
        sent.map(|_| ()).map_err(|error| LabError::Socket("sending", error))
    }

    /// The same where an interface may just have come up: its own address is not settled in the first seconds (RFC 4862, section 5.4).
    pub(super) async fn send_patiently(&self, packet: &Packet) -> Result<(), LabError> {
        for _ in 0..PATIENCE {
            match self.send(packet).await {
                Err(LabError::Socket(_, error)) if error.kind() == io::ErrorKind::AddrNotAvailable => {
                    tokio::time::sleep(Duration::from_millis(200)).await;
                }
                other => return other,
            }
        }
        self.send(packet).await
    }

    /// An address, on this interface where it is one of the link.
    fn scoped(&self, address: Ipv6Addr, port: u16) -> SocketAddr {
        let local = address.is_unicast_link_local() || address.is_multicast();
        let scope = if local { self.interface.index } else { 0 };
        SocketAddrV6::new(address, port, 0, scope).into()
    }
}

fn port(end: End, v4: bool) -> u16 {
    match (end, v4) {
        (End::Client, true) => 68,
        (End::Server, true) => 67,
        (End::Client, false) => 546,
        (End::Server, false) => 547,
    }
}

async fn from(socket: Option<&UdpSocket>, octets: &mut [u8]) -> io::Result<(usize, SocketAddr)> {
    match socket {
        Some(socket) => socket.recv_from(octets).await,
        None => std::future::pending().await,
    }
}

fn udp_v4(interface: &Interface, end: End) -> io::Result<UdpSocket> {
    let socket = Socket::new(Domain::IPV4, Type::DGRAM, Some(Protocol::UDP))?;
    socket.set_reuse_address(true)?;
    socket.set_broadcast(true)?;
    socket.bind_device(Some(interface.name.as_bytes()))?;
    socket.bind(&SocketAddr::from((Ipv4Addr::UNSPECIFIED, port(end, true))).into())?;
    nonblocking(socket)
}

fn udp_v6(interface: &Interface, end: End) -> io::Result<UdpSocket> {
    let socket = Socket::new(Domain::IPV6, Type::DGRAM, Some(Protocol::UDP))?;
    socket.set_only_v6(true)?;
    socket.set_reuse_address(true)?;
    socket.bind_device(Some(interface.name.as_bytes()))?;
    socket.set_multicast_if_v6(interface.index)?;
    socket.bind(&SocketAddr::from((Ipv6Addr::UNSPECIFIED, port(end, false))).into())?;
    for group in SERVERS.iter().filter(|_| end == End::Server) {
        socket.join_multicast_v6(group, interface.index)?;
    }
    nonblocking(socket)
}

/// What routers and hosts say to each other goes one hop, and says so (RFC 4861, section 6.1). The system makes the checksum.
fn icmp(interface: &Interface, end: End) -> io::Result<UdpSocket> {
    let socket = Socket::new(Domain::IPV6, Type::RAW, Some(Protocol::ICMPV6))?;
    socket.bind_device(Some(interface.name.as_bytes()))?;
    socket.set_multicast_if_v6(interface.index)?;
    socket.set_multicast_hops_v6(255)?;
    socket.set_unicast_hops_v6(255)?;
    socket.set_multicast_loop_v6(false)?;
    let group = if end == End::Server { ra::ALL_ROUTERS } else { ra::ALL_NODES };
    socket.join_multicast_v6(&group, interface.index)?;
    nonblocking(socket)
}

fn nonblocking(socket: Socket) -> io::Result<UdpSocket> {
    socket.set_nonblocking(true)?;
    UdpSocket::from_std(socket.into())
}

/// The address that a packet comes from.
pub(super) fn source(packet: &Packet) -> IpAddr {
    match packet.ends {
        Ends::Icmp(ends) => ends.source.into(),
        Ends::Udp(from, _) => from.ip(),
    }
}
