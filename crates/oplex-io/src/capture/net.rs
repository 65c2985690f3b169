//! IP packets, and the messages of DHCP and of routers in them.

use std::fmt;
use std::net::{IpAddr, Ipv6Addr, SocketAddr};
use std::sync::Arc;

use etherparse::{IpNumber, LaxIpSlice, UdpSlice};
use oplex::packet::ra::{Ends, Packet};

use super::fragments::{Fragment, Fragments, Piece};
use super::link::{self, Layer, Way};

/// What a packet travels in on its way.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[non_exhaustive]
pub enum Tunnel {
    /// An IPv4 packet in an IPv4 or IPv6 packet (RFC 2003).
    IpInIp,
    /// An IPv6 packet in an IPv4 or IPv6 packet (RFC 4213).
    Ipv6InIp,
    /// Generic routing encapsulation (RFC 2784).
    Gre,
    /// A virtual local network over UDP (RFC 7348).
    Vxlan,
    /// Labels (RFC 3032).
    Mpls,
}

impl fmt::Display for Tunnel {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            Self::IpInIp => "IP in IP",
            Self::Ipv6InIp => "IPv6 in IP",
            Self::Gre => "GRE",
            Self::Vxlan => "VXLAN",
            Self::Mpls => "MPLS",
        })
    }
}

/// A datagram that carries a message.
#[derive(Debug)]
pub(super) struct Found {
    pub(super) source: SocketAddr,
    pub(super) destination: SocketAddr,
    pub(super) octets: Arc<[u8]>,
    /// Where these begin in the frame; `None` where they come from several.
    pub(super) at: Option<usize>,
    pub(super) missing: usize,
    pub(super) checksum_wrong: bool,
    /// Whether it is an ICMPv6 message.
    pub(super) of_router: bool,
}

/// No frame has more layers.
const DEEPEST: usize = 16;

const VXLAN: u16 = 4789;

/// The message of DHCP or of a router in a frame.
pub(super) fn message(
    link_type: u32,
    frame: &[u8],
    fragments: &mut Fragments,
    of: (u32, std::time::Duration),
    way: &mut Way,
) -> Option<Found> {
    let (mut layer, mut octets) = link::payload(link_type, frame, way)?;
    for _ in 0..DEEPEST {
        if layer != Layer::Ip {
            (layer, octets) = link::inside(layer, octets, way)?;
            continue;
        }
        if !may_matter(octets) {
            return None;
        }
        let (ip, _) = LaxIpSlice::from_slice(octets).ok()?;
        let ends = (ip.source_addr(), ip.destination_addr());
        let payload = ip.payload();
        if payload.fragmented {
            let whole = fragments.add(fragment(&ip, of.0, way)?, of.1)?;
            return datagram(ends, payload.ip_number, &whole, None, (false, hops(octets)));
        }
        match payload.ip_number {
            IpNumber::UDP if destination_port(payload.payload) == Some(VXLAN) => {
                way.tunnels.push(Tunnel::Vxlan);
                (layer, octets) = (Layer::Ethernet, payload.payload.get(16..)?);
            }
            IpNumber::IPV4 | IpNumber::IPV6 => {
                let tunnel = if payload.ip_number == IpNumber::IPV4 { Tunnel::IpInIp } else { Tunnel::Ipv6InIp };
                way.tunnels.push(tunnel);
                octets = payload.payload;
            }
            IpNumber::GRE => {
                way.tunnels.push(Tunnel::Gre);
                (layer, octets) = of_gre(payload.payload)?;
            }
            // MPLS in IP (RFC 4023).
            IpNumber::MPLS_IN_IP => (layer, octets) = (Layer::Mpls, payload.payload),
            number => {
                let at = payload.payload.as_ptr().addr() - frame.as_ptr().addr();
                return datagram(ends, number, payload.payload, Some(at), (payload.incomplete, hops(octets)));
            }
        }
    }
    None
}

/// Whether an IP packet may hold a message, or something that does: most do not, and are not looked at further.
fn may_matter(octets: &[u8]) -> bool {
    let number = match octets.first().map(|first| first >> 4) {
        Some(4) => octets.get(9),
        Some(6) => octets.get(6),
        _ => None,
    };
    // Extension headers of IPv6, authentication headers, tunnels, UDP and ICMPv6.
    matches!(number, Some(0 | 4 | 17 | 41 | 43 | 44 | 47 | 51 | 58 | 60 | 135 | 137))
}

fn hops(octets: &[u8]) -> u8 {
    octets.get(7).copied().unwrap_or_default()
}

fn destination_port(octets: &[u8]) -> Option<u16> {
    Some(u16::from_be_bytes([*octets.get(2)?, *octets.get(3)?]))
}

/// What a GRE packet carries: the flags say what stands before it (RFC 2784, section 2; RFC 2890, section 2).
fn of_gre(octets: &[u8]) -> Option<(Layer, &[u8])> {
    let flags = *octets.first()?;
    let optional = [0x80, 0x20, 0x10].iter().filter(|flag| flags & **flag != 0).count();
    let protocol = u16::from_be_bytes([*octets.get(2)?, *octets.get(3)?]);
    // Version 0 alone; the other is that of PPTP.
    (octets.get(1)? & 7 == 0).then_some(())?;
    Some((Layer::EtherType(protocol), octets.get(4 + 4 * optional..)?))
}

/// The fragment that an IP packet is.
fn fragment<'f>(ip: &LaxIpSlice<'f>, interface: u32, way: &Way) -> Option<Fragment<'f>> {
    let (id, offset, more) = match ip {
        LaxIpSlice::Ipv4(ip) => {
            let header = ip.header();
            (u32::from(header.identification()), header.fragments_offset(), header.more_fragments())
        }
        LaxIpSlice::Ipv6(ip) => {
            let fragment = ip.extensions().clone().into_iter().find_map(|extension| match extension {
                etherparse::Ipv6ExtensionSlice::Fragment(fragment) => Some(fragment),
                _ => None,
            })?;
            (fragment.identification(), fragment.fragment_offset(), fragment.more_fragments())
        }
    };
    let payload = ip.payload();
    // Of a fragment that was cut nothing whole can be made.
    (!payload.incomplete).then_some(())?;
    let piece = Piece { offset, more, octets: payload.payload };
    Some(Fragment {
        key: (ip.source_addr(), ip.destination_addr(), id, payload.ip_number, interface, way.vlans),
        piece,
    })
}

/// The message in a UDP datagram on a port of DHCP, or an ICMPv6 message of a router or for one.
fn datagram(
    (source, destination): (IpAddr, IpAddr),
    number: IpNumber,
    octets: &[u8],
    at: Option<usize>,
    (incomplete, hops): (bool, u8),
) -> Option<Found> {
    match number {
        IpNumber::UDP => {
            let ports = [u16::from_be_bytes([*octets.first()?, *octets.get(1)?]), destination_port(octets)?];
            let on_port = match source {
                IpAddr::V4(_) => ports.iter().any(|port| matches!(port, 67 | 68 | 4011)),
                IpAddr::V6(_) => ports.iter().any(|port| matches!(port, 546 | 547)),
            };
            on_port.then_some(())?;
            let udp = UdpSlice::from_slice_lax(octets).ok()?;
            let payload = udp.payload();
            let said = usize::from(udp.length()).saturating_sub(8);
            let missing = if incomplete { said.saturating_sub(payload.len()) } else { 0 };
            Some(Found {
                source: (source, ports[0]).into(),
                destination: (destination, ports[1]).into(),
                octets: payload.into(),
                at: at.map(|at| at + 8),
                missing,
                checksum_wrong: missing == 0 && is_wrong(&udp, source, destination),
                of_router: false,
            })
        }
        IpNumber::IPV6_ICMP if matches!(octets.first(), Some(133 | 134)) => {
            let (IpAddr::V6(from), IpAddr::V6(to)) = (source, destination) else { return None };
            let ends = Ends { source: from, destination: to };
            Some(Found {
                source: (source, 0).into(),
                destination: (destination, 0).into(),
                octets: Packet { ends, hop_limit: hops }.around(octets).into(),
                at,
                missing: usize::from(incomplete),
                checksum_wrong: false,
                of_router: true,
            })
        }
        _ => None,
    }
}

/// Whether a datagram's checksum is wrong; with IPv4 there need be none (RFC 768).
fn is_wrong(udp: &UdpSlice<'_>, source: IpAddr, destination: IpAddr) -> bool {
    let (header, payload) = (udp.to_header(), udp.payload());
    let right = match (source, destination) {
        (IpAddr::V4(_), _) if udp.checksum() == 0 => return false,
        (IpAddr::V4(from), IpAddr::V4(to)) => header.calc_checksum_ipv4_raw(from.octets(), to.octets(), payload),
        (IpAddr::V6(from), IpAddr::V6(to)) => {
            header.calc_checksum_ipv6_raw(Ipv6Addr::octets(&from), to.octets(), payload)
        }
        _ => return false,
    };
    right.is_ok_and(|right| right != udp.checksum())
}
