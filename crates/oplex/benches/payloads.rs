//! How long reading a payload takes, measured against hand-written loops for the same layouts in the same run.
//!
//! `cargo bench -p oplex` prints for each layout the median time of a loop written by hand for it, of Oplex, and the
//! ratio. Both check everything and make the same Rust values; they take turns, so that both meet the same machine.

#![allow(clippy::print_stdout, clippy::unwrap_used, reason = "a bench prints, and stops when it cannot go on")]

use std::hint::black_box;
use std::net::Ipv4Addr;
use std::time::{Duration, Instant};

use oplex::codebook::Codebook;
use oplex::layout::{Fault, Input, Route4, Scalar, ScalarForm, Visitor};
use oplex::packet::{FromPayload, IaNa, LeasedAddress, RelayInformation, StatusCode};

/// Calls in one measurement, and measurements of which the median counts.
const CALLS: u32 = 2000;
const ROUNDS: usize = 301;

fn main() {
    println!("{:<34} {:>10} {:>10} {:>7}", "payload", "by hand", "oplex", "ratio");
    let codebook = Codebook::standard();
    let octets = |option: &str, text: &str| {
        let option = codebook.find(option).unwrap();
        codebook.encode(option, &Input::from_text(text)).unwrap().octets
    };

    let servers = octets("v4:6", "10.64.0.53, 10.64.0.54, 10.64.0.55, 10.64.0.56");
    let dns = codebook.find("v4:6").unwrap();
    compare("ipv4+, 4 addresses", &servers, addresses_by_hand, |octets| codebook.list::<Ipv4Addr>(dns, octets).ok());

    let routes = octets("v4:121", "10.64.8.0/21 via 10.64.4.1, 10.64.16.0/22 via 10.64.4.2, 0.0.0.0/0 via 10.64.4.1");
    let classless = codebook.find("v4:121").unwrap();
    compare("route4+, 3 routes", &routes, routes_by_hand, |octets| codebook.list::<Route4>(classless, octets).ok());

    let file = octets("v4:67", "domes/controller-with-a-long-name.efi");
    let bootfile = codebook.find("v4:67").unwrap();
    compare("text, 37 octets", &file, text_by_hand, |octets| codebook.one::<String>(bootfile, octets).ok());

    let domains = octets("v4:119", "tarnfell.example, domes.tarnfell.example, visitors.tarnfell.example");
    let search = codebook.find("v4:119").unwrap();
    compare("compressed-names, 3 names", &domains, names_by_hand, |octets| {
        codebook.list::<String>(search, octets).ok()
    });

    let relay = octets(
        "v4:82",
        "{ agent-circuit-id = 70:6f:72:74:37, agent-remote-id = 02:00:5e:00:53:fe, link-selection = 10.64.4.0 }",
    );
    let information = codebook.find("v4:82").unwrap();
    compare("relay agent, 3 options", &relay, relay_by_hand, |octets| {
        RelayInformation::from_payload(codebook, information, octets).ok()
    });
    compare("the same, only added up", &relay, options_by_hand, |octets| {
        let mut sum = Sum::default();
        codebook.layout(information).walk(codebook, octets, &mut sum);
        (!sum.fault).then_some(sum.octets)
    });

    let lease = "address = 2001:db8:64:10::20, preferred-lifetime = 4h, valid-lifetime = 8h, options = {}";
    let status = "status-code = { status = Success, message = all yours }";
    let value = format!("{{ iaid = 1, t1 = 2h, t2 = 3h, options = {{ iaaddr = {{ {lease} }}, {status} }} }}");
    let association = codebook.find("v6:3").unwrap();
    compare("IA_NA, an address and a status", &octets("v6:3", &value), association_by_hand, |octets| {
        IaNa::from_payload(codebook, association, octets).ok()
    });
}

/// Measures both in turns and prints the medians; they must agree on the result.
fn compare<T: PartialEq + std::fmt::Debug>(
    name: &str,
    octets: &[u8],
    by_hand: impl Fn(&[u8]) -> Option<T>,
    oplex: impl Fn(&[u8]) -> Option<T>,
) {
    assert_eq!(by_hand(octets), oplex(octets), "{name}");
    assert!(by_hand(octets).is_some(), "{name}");
    let (mut hand, mut ours) = (Vec::new(), Vec::new());
    for _ in 0..ROUNDS {
        hand.push(time(octets, &by_hand));
        ours.push(time(octets, &oplex));
    }
    let (hand, ours) = (median(&mut hand), median(&mut ours));
    println!("{name:<34} {hand:>7.1} ns {ours:>7.1} ns {:>6.2}x", ours / hand);
}

fn time<T>(octets: &[u8], read: impl Fn(&[u8]) -> Option<T>) -> f64 {
    let start = Instant::now();
    for _ in 0..CALLS {
        black_box(read(black_box(octets)));
    }
    start.elapsed().as_nanos() as f64 / f64::from(CALLS)
}

fn median(times: &mut [f64]) -> f64 {
    times.sort_by(f64::total_cmp);
    times[times.len() / 2]
}

fn addresses_by_hand(octets: &[u8]) -> Option<Vec<Ipv4Addr>> {
    if octets.is_empty() || !octets.len().is_multiple_of(4) {
        return None;
    }
    Some(octets.chunks_exact(4).map(|four| Ipv4Addr::new(four[0], four[1], four[2], four[3])).collect())
}

fn routes_by_hand(mut octets: &[u8]) -> Option<Vec<Route4>> {
    let mut routes = Vec::with_capacity(octets.len() / 5);
    while let Some((length, rest)) = octets.split_first() {
        let significant = usize::from(*length).div_ceil(8);
        if *length > 32 || rest.len() < significant + 4 {
            return None;
        }
        let mut destination = [0; 4];
        destination[..significant].copy_from_slice(&rest[..significant]);
        let destination = Ipv4Addr::from(destination);
        if u32::from(destination).unbounded_shl(u32::from(*length)) != 0 {
            return None;
        }
        let router: [u8; 4] = rest[significant..significant + 4].try_into().ok()?;
        routes.push(Route4 { destination, length: *length, router: router.into() });
        octets = &rest[significant + 4..];
    }
    (!routes.is_empty()).then_some(routes)
}

fn text_by_hand(octets: &[u8]) -> Option<String> {
    if octets.is_empty() || !octets.iter().all(|octet| (b' '..=b'~').contains(octet)) {
        return None;
    }
    String::from_utf8(octets.to_vec()).ok()
}

fn names_by_hand(octets: &[u8]) -> Option<Vec<String>> {
    let mut names = Vec::new();
    let mut at = 0;
    while at < octets.len() {
        let mut name = String::new();
        let (mut here, mut earliest, mut after) = (at, at, None);
        loop {
            let length = usize::from(*octets.get(here)?);
            match length {
                0 => break,
                1..=63 => {
                    let label = octets.get(here + 1..here + 1 + length)?;
                    if !label.iter().all(|octet| octet.is_ascii_alphanumeric() || matches!(octet, b'-' | b'_')) {
                        return None;
                    }
                    if !name.is_empty() {
                        name.push('.');
                    }
                    name.push_str(str::from_utf8(label).ok()?);
                    here += 1 + length;
                }
                0xc0.. => {
                    let to = (length & 0x3f) << 8 | usize::from(*octets.get(here + 1)?);
                    if to >= earliest {
                        return None;
                    }
                    after.get_or_insert(here + 2);
                    (here, earliest) = (to, to);
                }
                _ => return None,
            }
            if name.len() > 253 {
                return None;
            }
        }
        at = after.unwrap_or(here + 1);
        names.push(name);
    }
    (!names.is_empty()).then_some(names)
}

/// The sub-options of a relay agent that a program uses, which knows what each of them is.
fn relay_by_hand(octets: &[u8]) -> Option<RelayInformation> {
    let mut relay = RelayInformation::default();
    let mut rest = octets;
    while let Some((code, value)) = next_option::<1>(&mut rest)? {
        match code {
            1 => relay.circuit_id = Some(value.to_vec()),
            2 => relay.remote_id = Some(value.to_vec()),
            5 => relay.link_selection = Some(<[u8; 4]>::try_from(value).ok()?.into()),
            6 => relay.subscriber_id = Some(text_by_hand(value)?),
            11 => relay.server_id_override = Some(<[u8; 4]>::try_from(value).ok()?.into()),
            _ => {}
        }
    }
    (!octets.is_empty()).then_some(relay)
}

/// Takes the next option; the outer `None` where octets are missing.
#[allow(clippy::option_option, reason = "no more options, and options that end too early")]
fn next_option<'o, const WIDTH: usize>(rest: &mut &'o [u8]) -> Option<Option<(u16, &'o [u8])>> {
    if rest.is_empty() {
        return Some(None);
    }
    let number = |octets: &[u8]| octets.iter().fold(0, |sum, octet| sum << 8 | u16::from(*octet));
    let (head, after) = rest.split_at_checked(2 * WIDTH)?;
    let (value, after) = after.split_at_checked(number(&head[WIDTH..]).into())?;
    *rest = after;
    Some(Some((number(&head[..WIDTH]), value)))
}

fn time_by_hand(octets: &[u8], at: usize) -> Option<Duration> {
    let seconds = u32::from_be_bytes(octets.get(at..at + 4)?.try_into().ok()?);
    Some(if seconds == u32::MAX { Duration::MAX } else { Duration::from_secs(seconds.into()) })
}

fn association_by_hand(octets: &[u8]) -> Option<IaNa> {
    let iaid = u32::from_be_bytes(octets.get(..4)?.try_into().ok()?);
    let (t1, t2) = (time_by_hand(octets, 4)?, time_by_hand(octets, 8)?);
    let mut association = IaNa { iaid, t1, t2, addresses: Vec::new(), status: None };
    let mut rest = &octets[12..];
    while let Some((code, value)) = next_option::<2>(&mut rest)? {
        match code {
            5 => association.addresses.push(address_by_hand(value)?),
            13 => association.status = Some(status_by_hand(value)?),
            _ => {}
        }
    }
    Some(association)
}

fn address_by_hand(octets: &[u8]) -> Option<LeasedAddress> {
    let address: [u8; 16] = octets.get(..16)?.try_into().ok()?;
    let mut lease = LeasedAddress::new(address.into(), time_by_hand(octets, 16)?, time_by_hand(octets, 20)?);
    let mut rest = &octets[24..];
    while let Some((code, value)) = next_option::<2>(&mut rest)? {
        if code == 13 {
            lease.status = Some(status_by_hand(value)?);
        }
    }
    Some(lease)
}

fn status_by_hand(octets: &[u8]) -> Option<StatusCode> {
    let (code, message) = octets.split_first_chunk::<2>()?;
    Some(StatusCode { code: u16::from_be_bytes(*code), message: str::from_utf8(message).ok()?.to_owned() })
}

/// Code, length and what each code says of its own length, as a program would that knows these three.
fn options_by_hand(mut octets: &[u8]) -> Option<usize> {
    let mut sum = 0;
    while let [code, length, rest @ ..] = octets {
        let value = rest.get(..usize::from(*length))?;
        if *code == 5 && value.len() != 4 {
            return None;
        }
        sum += value.iter().map(|octet| usize::from(*octet)).sum::<usize>();
        octets = &rest[value.len()..];
    }
    octets.is_empty().then_some(sum)
}

/// Touches every octet of every value.
#[derive(Default)]
struct Sum {
    octets: usize,
    fault: bool,
}

impl<'l, 'o> Visitor<'l, 'o> for Sum {
    fn scalar(&mut self, _: ScalarForm<'l>, scalar: Scalar<'o>, _: std::ops::Range<usize>) {
        let add = |octets: &[u8]| octets.iter().map(|octet| usize::from(*octet)).sum::<usize>();
        self.octets += match scalar {
            Scalar::Bytes(octets) => add(octets),
            Scalar::Ipv4(address) => add(&address.octets()),
            _ => 0,
        };
    }

    fn fault(&mut self, _: Fault) {
        self.fault = true;
    }
}
