//! What machines need early: the time (RFC 5905), and files to boot from (RFC 1350).

use std::io;
use std::net::{IpAddr, SocketAddr, UdpSocket};
use std::time::Duration;

use rsntp::{Config, SntpClient, SynchronizationError};

use super::{Verdict, any, silent};

/// A clock that is further off than this does more harm than good: names with signatures, certificates and logs rest on it.
const OFF: f64 = 60.0;

/// What time a server has.
pub(super) fn time(address: IpAddr, timeout: Duration) -> Verdict {
    let client = SntpClient::with_config(Config::default().timeout(timeout).bind_address(any(address)));
    let at = SocketAddr::new(address, 123).to_string();
    match client.synchronize(&at) {
        Ok(result) => {
            let offset = result.clock_offset().as_secs_f64();
            let said = format!("stratum {}, {offset:+.3} s from the clock of this machine", result.stratum());
            if offset.abs() > OFF { Verdict::Wrong(said) } else { Verdict::Answers(said) }
        }
        Err(SynchronizationError::IOError(error)) if error.kind() == io::ErrorKind::ConnectionRefused => {
            Verdict::Wrong("nothing listens on UDP port 123".to_owned())
        }
        Err(SynchronizationError::IOError(error)) => silent("UDP port 123", &error, timeout),
        Err(SynchronizationError::ProtocolError(error)) => Verdict::Wrong(error.to_string()),
    }
}

/// Types of packets (RFC 1350, section 5).
const READ: u16 = 1;
const DATA: u16 = 3;
const ERROR: u16 = 5;
const SIZES: u16 = 6;

/// Whether a server has a file: its first block, and its size where the server says that (RFC 2349).
pub(super) fn file(address: IpAddr, name: Option<&str>, timeout: Duration) -> Verdict {
    let Some(name) = name else {
        return Verdict::NotTried("the plan names no file on it".to_owned());
    };
    match first_block(address, name, timeout) {
        Ok(reply) => read(&reply, name),
        Err(error) if error.kind() == io::ErrorKind::ConnectionRefused => {
            Verdict::Wrong("nothing listens on UDP port 69".to_owned())
        }
        Err(error) => silent(&format!("UDP port 69 about {name}"), &error, timeout),
    }
}

fn first_block(address: IpAddr, name: &str, timeout: Duration) -> io::Result<Vec<u8>> {
    let socket = UdpSocket::bind(any(address))?;
    socket.set_read_timeout(Some(timeout))?;
    let request = [&READ.to_be_bytes()[..], name.as_bytes(), b"\0octet\0tsize\x000\0"].concat();
    socket.send_to(&request, (address, 69))?;
    let mut octets = vec![0; 65_535];
    let (count, source) = socket.recv_from(&mut octets)?;
    octets.truncate(count);
    if source.ip() != address {
        return Err(io::Error::other("a reply of another machine"));
    }
    // Whoever asked no more than whether there is a file says so, and the server stops.
    let _ = socket.send_to(&[&ERROR.to_be_bytes()[..], &[0, 0], b"enough\0"].concat(), source);
    Ok(octets)
}

fn read(reply: &[u8], name: &str) -> Verdict {
    let Some((kind, rest)) = reply.split_first_chunk().map(|(kind, rest)| (u16::from_be_bytes(*kind), rest)) else {
        return Verdict::Wrong("answers with what is no packet of TFTP".to_owned());
    };
    match kind {
        DATA => Verdict::Answers(format!("has {name}")),
        SIZES => {
            let mut words = rest.split(|octet| *octet == 0).map(String::from_utf8_lossy);
            let size = words.find(|word| word.eq_ignore_ascii_case("tsize")).and_then(|_| words.next());
            Verdict::Answers(match size {
                Some(size) => format!("has {name}, {size} octets"),
                None => format!("has {name}"),
            })
        }
        ERROR => {
            let text = String::from_utf8_lossy(rest.get(2..).unwrap_or_default());
            let text = text.trim_end_matches('\0');
            match rest.first_chunk().map(|code| u16::from_be_bytes(*code)) {
                Some(1) => Verdict::Wrong(format!("has no file {name}")),
                _ => Verdict::Wrong(format!("does not give {name}: {text}")),
            }
        }
        _ => Verdict::Wrong("answers with what is no packet of TFTP".to_owned()),
    }
}
