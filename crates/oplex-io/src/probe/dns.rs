//! Name servers (RFC 1035), by UDP and TCP.

use std::io::{self, Read, Write};
use std::net::{IpAddr, SocketAddr, TcpStream, UdpSocket};
use std::time::Duration;

use hickory_proto::op::{Message, Query, ResponseCode};
use hickory_proto::rr::{Name, RData, RecordType};
use oplex::compiled::Compiled;

use super::{Asking, Hasty, Verdict, any, silent};

const PORT: u16 = 53;

/// As many name servers are asked for an address: clients do not ask more either.
const RESOLVERS: usize = 3;

/// As many zones each name server is asked about, of domains and of subnets.
const ZONES: usize = 4;

/// What name servers should know: the plan's domains, and the reverse zones of its subnets and prefixes.
pub(super) fn zones(compiled: &Compiled<'_>) -> Vec<String> {
    let v4 = compiled.networks.iter().flat_map(|network| &network.sides.v4.subnets).map(|subnet| {
        let octets = subnet.net.first().octets();
        let count = usize::from(subnet.net.length() / 8).clamp(1, 3);
        let labels: Vec<String> = octets[..count].iter().rev().map(u8::to_string).collect();
        format!("{}.in-addr.arpa", labels.join("."))
    });
    let v6 = compiled.networks.iter().flat_map(|network| &network.sides.v6.subnets).map(|subnet| {
        let digits: String = subnet.net.first().octets().iter().map(|octet| format!("{octet:02x}")).collect();
        let count = usize::from(subnet.net.length() / 4).clamp(1, 32);
        let labels: Vec<String> = digits.chars().take(count).map(String::from).collect();
        format!("{}.ip6.arpa", labels.into_iter().rev().collect::<Vec<_>>().join("."))
    });
    let domains = compiled.domains().into_iter().take(ZONES);
    domains.chain(v4.take(ZONES)).chain(v6.take(ZONES)).collect()
}

/// Asks a name server about the zones by UDP, and about the first one by TCP.
pub(super) fn ask(address: IpAddr, asking: &Asking) -> Verdict {
    let server = SocketAddr::new(address, PORT);
    let root = [".".to_owned()];
    let zones = if asking.zones.is_empty() { &root[..] } else { &asking.zones };
    let (mut wrong, mut authoritative, mut recursive, mut nameless) = (Vec::new(), 0, false, 0);
    for zone in zones {
        let reply = match exchange_udp(server, zone, RecordType::SOA, false, asking.timeout) {
            Ok(reply) => reply,
            Err(error) if error.kind() == io::ErrorKind::ConnectionRefused => {
                return Verdict::Wrong("nothing listens on UDP port 53".to_owned());
            }
            Err(error) => return silent(&format!("UDP port 53 about {zone}"), &error, asking.timeout),
        };
        recursive |= reply.metadata.recursion_available;
        authoritative += usize::from(reply.metadata.authoritative);
        nameless += usize::from(reply.metadata.response_code == ResponseCode::NXDomain && is_reverse(zone));
        wrong.extend(match reply.metadata.response_code {
            ResponseCode::ServFail => Some(failure(server, zone, asking.timeout)),
            _ => refusal(&reply, zone),
        });
    }
    if let Some(first) = wrong.first() {
        let more = if wrong.len() > 1 { format!(", and {} more", wrong.len() - 1) } else { String::new() };
        return Verdict::Wrong(format!("{first}{more}"));
    }
    if exchange_tcp(server, &zones[0], asking.timeout).is_err() {
        return Verdict::Wrong("answers by UDP and not by TCP, which long answers need (RFC 7766)".to_owned());
    }
    let how = match (authoritative == zones.len(), recursive) {
        (true, false) => "authoritative",
        (true, true) => "authoritative and recursive",
        (false, true) => "recursive",
        (false, false) => "neither authoritative for all of it nor recursive",
    };
    let without = match nameless {
        0 => String::new(),
        count => format!("; no machine has a name in {count} reverse zones"),
    };
    Verdict::Answers(format!("{how}, by UDP and TCP, about {} zones{without}", zones.len()))
}

/// No machine of a subnet need have a name.
fn is_reverse(zone: &str) -> bool {
    zone.ends_with(".arpa")
}

/// What is wrong with a reply about a zone, by its code alone.
pub(super) fn refusal(reply: &Message, zone: &str) -> Option<String> {
    match reply.metadata.response_code {
        ResponseCode::NoError => None,
        ResponseCode::NXDomain if is_reverse(zone) => None,
        ResponseCode::NXDomain => Some(format!("says that {zone} does not exist")),
        ResponseCode::ServFail => Some(format!("fails to resolve {zone} (SERVFAIL)")),
        other => Some(format!("answers {other} about {zone}")),
    }
}

/// Why a name server fails: where it answers as soon as signatures are not checked, these are wrong (RFC 4035, section 5.5).
fn failure(server: SocketAddr, zone: &str, timeout: Duration) -> String {
    match exchange_udp(server, zone, RecordType::SOA, true, timeout) {
        Ok(reply) if reply.metadata.response_code == ResponseCode::NoError => {
            format!("finds the signatures of {zone} wrong (DNSSEC bogus)")
        }
        _ => format!("fails to resolve {zone} (SERVFAIL)"),
    }
}

/// An address of a name, by the plan's name servers.
pub(super) fn resolve(name: &str, asking: &Asking) -> Option<IpAddr> {
    let kinds = [RecordType::A, RecordType::AAAA];
    let questions = asking.resolvers.iter().take(RESOLVERS).flat_map(|server| kinds.map(|kind| (*server, kind)));
    questions.into_iter().find_map(|(server, kind)| {
        let reply = exchange_udp(SocketAddr::new(server, PORT), name, kind, false, asking.timeout).ok()?;
        reply.answers.iter().find_map(|record| match &record.data {
            RData::A(address) => Some(IpAddr::V4(address.0)),
            RData::AAAA(address) => Some(IpAddr::V6(address.0)),
            _ => None,
        })
    })
}

fn question(zone: &str, kind: RecordType, unchecked: bool) -> io::Result<Message> {
    let mut name = Name::from_utf8(zone).map_err(io::Error::other)?;
    name.set_fqdn(true);
    let mut message = Message::query();
    message.metadata.recursion_desired = true;
    message.metadata.checking_disabled = unchecked;
    message.add_query(Query::query(name, kind));
    Ok(message)
}

fn exchange_udp(
    server: SocketAddr,
    zone: &str,
    kind: RecordType,
    unchecked: bool,
    timeout: Duration,
) -> io::Result<Message> {
    let question = question(zone, kind, unchecked)?;
    let socket = UdpSocket::bind(any(server.ip()))?;
    socket.connect(server)?;
    socket.set_read_timeout(Some(timeout))?;
    socket.send(&question.to_vec().map_err(io::Error::other)?)?;
    let mut octets = vec![0; 65_535];
    let count = socket.recv(&mut octets)?;
    read(&octets[..count], &question)
}

fn exchange_tcp(server: SocketAddr, zone: &str, timeout: Duration) -> io::Result<Message> {
    let stream = TcpStream::connect_timeout(&server, timeout)?;
    exchange_stream(&mut Hasty::new(&stream, timeout), zone)
}

/// A question and its answer, each behind its length (RFC 1035, section 4.2.2).
pub(super) fn exchange_stream(stream: &mut (impl Read + Write), zone: &str) -> io::Result<Message> {
    let question = question(zone, RecordType::SOA, false)?;
    let octets = question.to_vec().map_err(io::Error::other)?;
    stream.write_all(&[&(octets.len() as u16).to_be_bytes()[..], &octets].concat())?;
    let mut length = [0; 2];
    stream.read_exact(&mut length)?;
    let mut octets = vec![0; u16::from_be_bytes(length).into()];
    stream.read_exact(&mut octets)?;
    read(&octets, &question)
}

/// A reply to a question.
fn read(octets: &[u8], question: &Message) -> io::Result<Message> {
    let reply = Message::from_vec(octets).map_err(io::Error::other)?;
    match reply.metadata.id == question.metadata.id {
        true => Ok(reply),
        false => Err(io::Error::other("a reply to another question")),
    }
}
