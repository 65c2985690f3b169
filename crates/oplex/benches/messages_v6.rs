//! How long reading and writing DHCPv6 messages takes, measured against a bare walk in the same run.
//!
//! The yardstick W visits each option's code and length in the same octets and adds up every octet of the payloads.
//! `cargo bench -p oplex --bench messages_v6` prints the median times and their ratios to W, and then the time for each
//! octet of messages behind more and more relays, and of larger and larger ones. The loops take turns.

#![allow(clippy::print_stdout, clippy::unwrap_used, reason = "a bench prints, and stops when it cannot go on")]

mod turns;

use std::hint::black_box;
use std::net::Ipv6Addr;

use oplex::check;
use oplex::codebook::Codebook;
use oplex::layout::{Fault, Input, Scalar, ScalarForm, Visitor};
use oplex::packet::ra;
use oplex::packet::v6::{Draft, Header, Message, MessageType, Relay};
use oplex::packet::{self, Composer, Message as _};
use turns::{in_turns, print_ratios};

fn main() {
    let codebook = Codebook::standard();
    let payloads: Vec<(u16, Vec<u8>)> = OPTIONS
        .iter()
        .map(|(name, value)| {
            let option = codebook.find(&format!("v6:{name}")).unwrap();
            (option.code, codebook.encode(option, &Input::from_text(value)).unwrap().octets)
        })
        .collect();
    let options: Vec<(u16, &[u8])> = payloads.iter().map(|(code, octets)| (*code, octets.as_slice())).collect();
    let draft = Draft { message_type: MessageType::REPLY, header: Header::Transaction(0x6411), options: &options };
    let mut composer = Composer::default();
    let message = composer.compose(&draft).unwrap().to_vec();
    println!("A reply with {} options, {} octets\n", options.len(), message.len());
    println!("{:<34} {:>10} {:>7}", "what", "time", "ratio");
    let mut seen = Sum::default();
    let times = in_turns(
        2000,
        &mut [
            &mut || walk_bare(black_box(&message), 4),
            &mut || iterate(black_box(&message)),
            &mut || validate(codebook, Message::read(black_box(&message)).unwrap()),
            &mut || walk(codebook, Message::read(black_box(&message)).unwrap(), &mut seen),
            &mut || check::message(codebook, Message::read(black_box(&message)).unwrap()).len() as u64,
            &mut || composer.compose(black_box(&draft)).unwrap().len() as u64,
        ],
    );
    print_ratios(
        &[
            "W: bare walk",
            "read, and iterate all options",
            "read, and validate every option",
            "read, and walk every option",
            "read, and all rules",
            "compose",
        ],
        &times,
    );

    announcements(codebook);

    println!("\n{:<34} {:>10} {:>10} {:>10}", "read through all relays", "octets", "time", "per relay");
    for relays in [1, 4, 8, 32] {
        let whole = relayed(&message, relays);
        let time = in_turns(2000, &mut [&mut || innermost(black_box(&whole))])[0];
        println!(
            "{:<34} {:>10} {:>7.0} ns {:>7.2} ns",
            format!("{relays} relays"),
            whole.len(),
            time,
            time / f64::from(relays)
        );
    }
    println!("\n{:<34} {:>10} {:>10} {:>10}", "read and touch every octet", "octets", "time", "per octet");
    for octets in [300, 1500, 60_000] {
        let addresses = [7; 160];
        let options = vec![(23, &addresses[..]); octets / 164];
        let whole = Composer::default().compose(&Draft { options: &options, ..draft }).unwrap().to_vec();
        let time = in_turns((600_000 / octets) as u32, &mut [&mut || iterate(black_box(&whole))])[0];
        println!("{:<34} {:>10} {:>7.0} ns {:>7.2} ns", "", whole.len(), time, time / whole.len() as f64);
    }
}

/// The same for a router advertisement.
fn announcements(codebook: &Codebook) {
    let payloads: Vec<(u16, Vec<u8>)> = ANNOUNCED
        .iter()
        .map(|(name, value)| {
            let option = codebook.find(&format!("ra:{name}")).unwrap();
            (option.code, codebook.encode(option, &Input::from_text(value)).unwrap().octets)
        })
        .collect();
    let options: Vec<(u16, &[u8])> = payloads.iter().map(|(code, octets)| (*code, octets.as_slice())).collect();
    let header =
        ra::Header::Advertisement(ra::Advertisement { other: true, router_lifetime: 1800, ..Default::default() });
    let ends = ra::Ends { source: Ipv6Addr::LOCALHOST, destination: ra::ALL_NODES };
    let draft = ra::Draft { header, ends, options: &options };
    let mut composer = Composer::default();
    let message = composer.compose(&draft).unwrap().to_vec();
    println!("\nAn advertisement with {} options, {} octets\n", options.len(), message.len());
    let mut seen = Sum::default();
    let times = in_turns(
        2000,
        &mut [
            &mut || walk_bare_ra(black_box(&message), 16),
            &mut || {
                let message = ra::Message::read(black_box(&message)).unwrap();
                message.options().map(|option| u64::from(option.code()) + option.octets().map_or(0, sum)).sum()
            },
            &mut || validate(codebook, ra::Message::read(black_box(&message)).unwrap()),
            &mut || walk(codebook, ra::Message::read(black_box(&message)).unwrap(), &mut seen),
            &mut || check::message(codebook, ra::Message::read(black_box(&message)).unwrap()).len() as u64,
            &mut || composer.compose(black_box(&draft)).unwrap().len() as u64,
        ],
    );
    let what = [
        "W: bare walk",
        "read, and iterate all options",
        "read, and validate every option",
        "read, and walk every option",
        "read, and all rules",
        "compose, with the checksum",
    ];
    print_ratios(&what, &times);
}

/// What a router of a network with public Wi-Fi advertises.
const ANNOUNCED: [(&str, &str); 6] = [
    ("source-link-layer-address", "00:00:5e:00:53:01"),
    ("mtu", "{ mtu = 1500 }"),
    (
        "prefix-information",
        "{ length = 64, flags = on-link+autonomous, valid = 30d, preferred = 7d, prefix = 2001:db8:64:10:: }",
    ),
    ("rdnss", "{ lifetime = 30m, servers = [2001:db8:64::53, 2001:db8:64::54] }"),
    ("dnssl", "{ lifetime = 30m, domains = [tarnfell.example, domes.tarnfell.example] }"),
    ("captive-portal", "https://portal.tarnfell.example/api"),
];

/// The yardstick for advertisements, whose lengths count eight octets.
fn walk_bare_ra(message: &[u8], mut at: usize) -> u64 {
    let mut total = 0;
    while at < message.len() {
        let end = at + 8 * usize::from(message[at + 1]);
        total += u64::from(message[at]) + sum(&message[at + 2..end]);
        at = end;
    }
    total
}

/// What a client with an address and a prefix is sent.
const OPTIONS: [(&str, &str); 11] = [
    ("clientid", "00:03:00:01:02:00:5e:00:53:11"),
    ("serverid", "00:03:00:01:00:00:5e:00:53:01"),
    (
        "ia-na",
        "{ iaid = 1, t1 = 4h, t2 = 6h24m, options = { iaaddr = { address = 2001:db8:64:10::20, preferred-lifetime = 8h, valid-lifetime = 12h, options = {} } } }",
    ),
    (
        "ia-pd",
        "{ iaid = 1, t1 = 4h, t2 = 6h24m, options = { iaprefix = { preferred-lifetime = 8h, valid-lifetime = 12h, prefix-length = 56, prefix = \"2001:db8:64:100::\", options = {} } } }",
    ),
    ("dns-servers", "2001:db8:64::53, 2001:db8:64::54"),
    ("domain-list", "tarnfell.example, domes.tarnfell.example"),
    ("ntp-server", "{ srv-addr = 2001:db8:64::123 }"),
    ("bootfile-url", "http://boot.tarnfell.example/domes/controller.efi"),
    ("captive-portal", "https://portal.tarnfell.example/api"),
    ("sol-max-rt", "3600"),
    ("new-tzdb-timezone", "Europe/Zurich"),
];

fn relayed(message: &[u8], relays: u8) -> Vec<u8> {
    let mut whole = message.to_vec();
    for hops in 0..relays {
        let relay = Relay { hops, link: Ipv6Addr::LOCALHOST, peer: Ipv6Addr::LOCALHOST };
        let options = [(18, &b"port7"[..]), (9, &whole)];
        let draft = Draft { message_type: MessageType::RELAY_FORWARD, header: Header::Relay(relay), options: &options };
        whole = Composer::default().compose(&draft).unwrap().to_vec();
    }
    whole
}

fn sum(octets: &[u8]) -> u64 {
    octets.iter().map(|octet| u64::from(*octet)).sum()
}

/// The yardstick.
fn walk_bare(message: &[u8], mut at: usize) -> u64 {
    let mut total = 0;
    while at < message.len() {
        let number = |at: usize| u16::from_be_bytes([message[at], message[at + 1]]);
        let end = at + 4 + usize::from(number(at + 2));
        total += u64::from(number(at)) + sum(&message[at + 4..end]);
        at = end;
    }
    total
}

fn iterate(message: &[u8]) -> u64 {
    Message::read(message)
        .unwrap()
        .options()
        .map(|option| u64::from(option.code()) + option.octets().map_or(0, sum))
        .sum()
}

fn innermost(message: &[u8]) -> u64 {
    Message::read(message).unwrap().innermost().unwrap().octets().len() as u64
}

/// Adds up what a walk finds.
#[derive(Default)]
struct Sum(u64);

impl<'l, 'o> Visitor<'l, 'o> for Sum {
    fn scalar(&mut self, _: ScalarForm<'l>, scalar: Scalar<'o>, _: std::ops::Range<usize>) {
        self.0 += match scalar {
            Scalar::Number(number) => number,
            _ => 1,
        };
    }

    fn fault(&mut self, _: Fault) {
        self.0 += 1;
    }
}

/// Whether every option fits its layout.
fn validate<'m, M: packet::Message<'m>>(codebook: &Codebook, message: M) -> u64 {
    let wrong = message.options().filter(|option| {
        let definition = codebook.own(M::PROTOCOL, option.code()).unwrap();
        !codebook.layout(definition).fits(codebook, option.octets().unwrap_or_default())
    });
    let count = wrong.count();
    assert_eq!(count, 0, "the messages of this bench are right");
    count as u64
}

/// Walks every option by its layout, as all readers of payloads do.
fn walk<'m, M: packet::Message<'m>>(codebook: &Codebook, message: M, seen: &mut Sum) -> u64 {
    for option in message.options() {
        let definition = codebook.own(M::PROTOCOL, option.code()).unwrap();
        codebook.layout(definition).walk(codebook, option.octets().unwrap_or_default(), seen);
    }
    seen.0
}
