//! Captures: messages as the frames they travel in, in files that packet analysers open.

use std::fs::File;
use std::io::Write;
use std::net::{IpAddr, Ipv6Addr, SocketAddr};
use std::path::Path;
use std::time::{Duration, SystemTime};

use etherparse::{EtherType, Ethernet2Header, IpNumber, Ipv6Header, PacketBuilder};
use oplex::answer::Ends;
use oplex::octets::Mac;
use pcap_file::DataLink;
use pcap_file::pcapng::blocks::enhanced_packet::EnhancedPacketBlock;
use pcap_file::pcapng::blocks::interface_description::{InterfaceDescriptionBlock, InterfaceDescriptionOption};
use pcap_file::pcapng::{PcapNgWriteError, PcapNgWriter};

use crate::files::{FileError, reason};
use crate::staged;

/// The hardware addresses of a made-up server and a made-up relay, out of those that are kept for documentation (RFC
/// 7042, section 2.1.2).
pub const SERVER: [u8; 6] = [0, 0, 0x5e, 0, 0x53, 1];
/// See [`SERVER`].
pub const RELAY: [u8; 6] = [0, 0, 0x5e, 0, 0x53, 2];

/// All DHCPv6 servers of a site (RFC 8415, section 7.1).
const ALL_SERVERS: Ipv6Addr = Ipv6Addr::new(0xff05, 0, 0, 0, 0, 0, 1, 3);

/// A hardware address, and the address and port behind it.
pub type End = ([u8; 6], SocketAddr);

/// A message as the frame it travels in: Ethernet, IPv4 or IPv6, and UDP, with their lengths and checksums. Both ends
/// have addresses of one family; else, and when the message is longer than a datagram can be, there is none.
#[must_use]
pub fn frame(source: End, destination: End, message: &[u8]) -> Option<Vec<u8>> {
    let link = PacketBuilder::ethernet2(source.0, destination.0);
    let ports = (source.1.port(), destination.1.port());
    let packet = match (source.1, destination.1) {
        (SocketAddr::V4(from), SocketAddr::V4(to)) => link.ipv4(from.ip().octets(), to.ip().octets(), 64),
        (SocketAddr::V6(from), SocketAddr::V6(to)) => {
            // What relay agents send to all servers of the site goes eight hops (RFC 8415, section 19).
            let hops = if *to.ip() == ALL_SERVERS { 8 } else { 64 };
            link.ipv6(from.ip().octets(), to.ip().octets(), hops)
        }
        _ => return None,
    };
    let packet = packet.udp(ports.0, ports.1);
    let mut frame = Vec::with_capacity(packet.size(message.len()));
    packet.write(&mut frame, message).ok()?;
    Some(frame)
}

/// A message of a rehearsal or a lab as the frame it would travel in; `own` is the client's hardware address.
#[must_use]
pub fn frame_of(ends: Ends, from_client: bool, octets: &[u8], own: Mac) -> Option<Vec<u8>> {
    let own: [u8; 6] = own.into();
    let relayed = matches!(ends, Ends::Udp(from, to) if from.port() == to.port());
    // The host's own messages come from its own card; a relay agent's from the relay agent's.
    let near = if relayed { RELAY } else { own };
    let (from, to) = if from_client { (near, SERVER) } else { (SERVER, near) };
    let destination = match ends {
        Ends::Icmp(ends) => ends.destination.into(),
        Ends::Udp(_, destination) => destination.ip(),
    };
    let many = match destination {
        IpAddr::V4(address) => address.is_broadcast().then_some([0xff; 6]),
        IpAddr::V6(address) => multicast(address),
    };
    let to = many.unwrap_or(to);
    match ends {
        Ends::Icmp(ends) => frame_icmpv6((from, ends.source), (to, ends.destination), octets),
        Ends::Udp(source, destination) => frame((from, source), (to, destination), octets),
    }
}

/// An ICMPv6 message, with its checksum, as the frame it travels in: Ethernet and IPv6, with the hop limit that Neighbor
/// Discovery wants (RFC 4861, section 6.1). None when it is longer than a packet can be.
#[must_use]
pub fn frame_icmpv6(source: ([u8; 6], Ipv6Addr), destination: ([u8; 6], Ipv6Addr), message: &[u8]) -> Option<Vec<u8>> {
    let length = u16::try_from(message.len()).ok()?;
    let header = Ipv6Header {
        payload_length: length,
        next_header: IpNumber::IPV6_ICMP,
        hop_limit: 255,
        source: source.1.octets(),
        destination: destination.1.octets(),
        ..Ipv6Header::default()
    };
    let link = Ethernet2Header { source: source.0, destination: destination.0, ether_type: EtherType::IPV6 };
    Some([&link.to_bytes()[..], &header.to_bytes(), message].concat())
}

/// The hardware address that stands for a multicast address (RFC 2464, section 7).
#[must_use]
pub fn multicast(address: Ipv6Addr) -> Option<[u8; 6]> {
    let [.., a, b, c, d] = address.octets();
    address.is_multicast().then_some([0x33, 0x33, a, b, c, d])
}

/// The number with which every capture file of this kind begins (pcapng's section header).
const PCAPNG: [u8; 4] = [0x0a, 0x0d, 0x0d, 0x0a];

/// Whether a file may be written there: there is none, or, where it may be replaced, it is a capture.
fn may_stand(path: &Path, replace: bool) -> Result<(), FileError> {
    let wrong = |why: &str| Err(FileError { path: path.to_owned(), why: why.to_owned() });
    let Ok(known) = std::fs::symlink_metadata(path) else { return Ok(()) };
    if !known.is_file() {
        return wrong("there is something there that is no file");
    }
    if !replace {
        return wrong("the file already exists; choose another name, or --force to replace a capture");
    }
    let mut first = [0; 4];
    match File::open(path).and_then(|mut file| std::io::Read::read_exact(&mut file, &mut first)) {
        Ok(()) if first == PCAPNG => Ok(()),
        _ => wrong("the file is no capture, and is not replaced"),
    }
}

/// Writes frames into a capture file (pcapng), a millisecond apart from `start` on. A file that is there already is replaced only
/// where `replace` says so and it is a capture. What is written stands beside it until all of it is there.
///
/// # Errors
/// A file that cannot be written, or may not be replaced.
pub fn write(path: &Path, start: SystemTime, frames: &[Vec<u8>], replace: bool) -> Result<(), FileError> {
    let start = start.duration_since(SystemTime::UNIX_EPOCH).unwrap_or_default();
    let timed = frames.iter().zip(0..).map(|(frame, at)| (start + Duration::from_millis(at), 0, frame.as_slice()));
    write_timed(path, &[""], timed, replace)
}

/// The same of several interfaces, by their names, with the time of each frame, since the beginning of 1970, and the interface that
/// it was seen on, by its place.
///
/// # Errors
/// As [`write()`].
pub fn write_timed<'f>(
    path: &Path,
    interfaces: &[&str],
    frames: impl Iterator<Item = (Duration, u32, &'f [u8])>,
    replace: bool,
) -> Result<(), FileError> {
    may_stand(path, replace)?;
    let wrong = |why: String| FileError { path: path.to_owned(), why };
    let octets = octets(interfaces, frames).map_err(|error| wrong(error.to_string()))?;
    staged::write(path, replace, |file| file.write_all(&octets)).map_err(|error| wrong(reason(&error)))
}

fn octets<'f>(
    interfaces: &[&str],
    frames: impl Iterator<Item = (Duration, u32, &'f [u8])>,
) -> Result<Vec<u8>, PcapNgWriteError> {
    let mut capture = PcapNgWriter::new(Vec::new())?;
    for name in interfaces {
        let named = (!name.is_empty()).then_some(InterfaceDescriptionOption::IfName((*name).into()));
        let options = named.into_iter().collect();
        capture.write_pcapng_block(InterfaceDescriptionBlock { linktype: DataLink::ETHERNET, snaplen: 0, options })?;
    }
    for (timestamp, interface_id, frame) in frames {
        capture.write_pcapng_block(EnhancedPacketBlock {
            interface_id,
            timestamp,
            original_len: u32::try_from(frame.len()).unwrap_or(u32::MAX),
            data: frame.into(),
            options: Vec::new(),
        })?;
    }
    Ok(capture.into_inner())
}
