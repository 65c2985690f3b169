//! Routers, by an echo (RFC 792 and RFC 4443), where the system permits that.

use std::io::{self, Read};
use std::net::{IpAddr, SocketAddr};
use std::time::{Duration, Instant};

use socket2::{Domain, Protocol, Socket, Type};

use super::{Verdict, silent};

/// Asks for an echo.
pub(super) fn ask(address: IpAddr, timeout: Duration) -> Verdict {
    match echo(address, timeout) {
        Ok(time) => Verdict::Answers(format!("an echo after {:.1} ms", time.as_secs_f64() * 1000.0)),
        Err(error) if error.kind() == io::ErrorKind::PermissionDenied => {
            Verdict::NotTried("the system does not permit echoes to whoever runs this".to_owned())
        }
        Err(error) => silent("an echo", &error, timeout),
    }
}

/// The number that tells these echoes from those of other programs.
const SEQUENCE: [u8; 2] = [0x6f, 0x70];

fn echo(address: IpAddr, timeout: Duration) -> io::Result<Duration> {
    // The system fills in the identifier and the checksum of the first kind, which it permits to some; the second is for administrators.
    match echo_by(Type::DGRAM, address, timeout) {
        Err(error) if error.kind() == io::ErrorKind::PermissionDenied => echo_by(Type::RAW, address, timeout),
        other => other,
    }
}

fn echo_by(kind: Type, address: IpAddr, timeout: Duration) -> io::Result<Duration> {
    let (domain, protocol, request, reply) = match address {
        IpAddr::V4(_) => (Domain::IPV4, Protocol::ICMPV4, 8, 0),
        IpAddr::V6(_) => (Domain::IPV6, Protocol::ICMPV6, 128, 129),
    };
    let mut socket = Socket::new(domain, kind, Some(protocol))?;
    socket.connect(&SocketAddr::new(address, 0).into())?;
    let mut octets = [request, 0, 0, 0, 0, 0, SEQUENCE[0], SEQUENCE[1]];
    let sum = checksum(&octets);
    // Of ICMPv6 the system makes it in either case.
    octets[2..4].copy_from_slice(&sum.to_be_bytes());
    let start = Instant::now();
    socket.send(&octets)?;
    let mut heard = [0; 128];
    loop {
        let left = timeout.saturating_sub(start.elapsed()).max(Duration::from_millis(1));
        socket.set_read_timeout(Some(left))?;
        let count = socket.read(&mut heard)?;
        // In front of what a raw socket of IPv4 hears stands the IP header.
        let header = if kind == Type::RAW && address.is_ipv4() { usize::from(heard[0] & 0x0f) * 4 } else { 0 };
        let message = heard[..count].get(header..).unwrap_or_default();
        if message.first() == Some(&reply) && message.get(6..8) == Some(&SEQUENCE) {
            return Ok(start.elapsed());
        }
        if start.elapsed() >= timeout {
            return Err(io::ErrorKind::TimedOut.into());
        }
    }
}

/// The checksum of ICMP (RFC 792).
fn checksum(octets: &[u8; 8]) -> u16 {
    let sum: u32 = octets.chunks_exact(2).map(|pair| u32::from(pair[0]) << 8 | u32::from(pair[1])).sum();
    !((sum & 0xffff) + (sum >> 16)) as u16
}
