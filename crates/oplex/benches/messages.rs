//! How long reading and composing whole messages takes, measured against a bare walk in the same run.
//!
//! The yardstick W is a loop that visits each option's code and length in the same octets and adds up every octet of the
//! payloads. `cargo bench -p oplex --bench messages` prints the median times and their ratios to W, and then the time for
//! each octet of messages from small to as large as a datagram. The loops take turns, so that all meet the same machine.

#![allow(clippy::print_stdout, clippy::unwrap_used, reason = "a bench prints, and stops when it cannot go on")]

mod turns;

use std::hint::black_box;

use oplex::check;
use oplex::codebook::Codebook;
use oplex::family::Protocol;
use oplex::layout::{Fault, Input, Scalar, ScalarForm, Visitor};
use oplex::packet::v4::{Draft, Header, Limit, Message, MessageType};
use oplex::packet::{Composer, Message as _};
use turns::{in_turns, print_ratios};

fn main() {
    let payloads = payloads();
    let options: Vec<(u16, &[u8])> = payloads.iter().map(|(code, octets)| (*code, octets.as_slice())).collect();
    let draft = Draft {
        header: Header { yiaddr: [10, 64, 4, 20].into(), ..Header::from_server(0x6411, [2, 0, 0x5e, 0, 0x53, 0x11]) },
        options: &options,
        requested: &[1, 121, 3, 6, 15, 119, 42, 26, 66, 67],
        ..Draft::new(MessageType::ACK)
    };
    let mut composer = Composer::default();
    let message = composer.compose(&draft).unwrap().octets.to_vec();
    let count = Message::read(&message).unwrap().count();
    println!("An acknowledgement with {count} options, {} octets\n", message.len());
    println!("{:<34} {:>10} {:>7}", "what", "time", "ratio");

    let codebook = Codebook::standard();
    let (mut buffer, mut sink) = (Vec::new(), Sum::default());
    let times = in_turns(
        2000,
        &mut [
            &mut || walk_bare(black_box(&message)),
            &mut || iterate(black_box(&message)),
            &mut || validate(codebook, black_box(&message)),
            &mut || walk(codebook, black_box(&message), &mut buffer, &mut sink),
            &mut || check::message(codebook, Message::read(black_box(&message)).unwrap()).len() as u64,
            &mut || composer.compose(black_box(&draft)).unwrap().octets.len() as u64,
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

    println!("\n{:<34} {:>10} {:>10} {:>10}", "read, join and touch every octet", "octets", "time", "per octet");
    for (name, message) in [
        ("300 octets", of_size(300)),
        ("1,500 octets", of_size(1500)),
        ("60,000 octets", of_size(60_000)),
        ("250 fragments of 230 octets", fragments(230)),
        ("250 fragments of 8 octets", fragments(8)),
    ] {
        let calls = (600_000 / message.len()).max(3) as u32;
        let time = in_turns(calls, &mut [&mut || join(black_box(&message), &mut buffer)])[0];
        println!("{name:<34} {:>10} {:>7.0} ns {:>7.2} ns", message.len(), time, time / message.len() as f64);
    }
}

fn sum(octets: &[u8]) -> u64 {
    octets.iter().map(|octet| u64::from(*octet)).sum()
}

/// The yardstick.
fn walk_bare(message: &[u8]) -> u64 {
    let (mut at, mut total) = (240, 0);
    while at < message.len() {
        match message[at] {
            0 => at += 1,
            255 => break,
            code => {
                let length = usize::from(message[at + 1]);
                total += u64::from(code) + sum(&message[at + 2..at + 2 + length]);
                at += 2 + length;
            }
        }
    }
    total
}

fn iterate(message: &[u8]) -> u64 {
    let message = Message::read(message).unwrap();
    message.options().map(|option| u64::from(option.code()) + option.octets().map_or(0, sum)).sum()
}

/// The same, with split options joined.
fn join(message: &[u8], buffer: &mut Vec<u8>) -> u64 {
    let message = Message::read(message).unwrap();
    message.options().map(|option| u64::from(option.code()) + sum(option.joined_in(buffer))).sum()
}

/// Whether every option fits its layout.
fn validate(codebook: &Codebook, message: &[u8]) -> u64 {
    let message = Message::read(message).unwrap();
    let wrong = message.options().filter(|option| {
        let definition = codebook.own(Protocol::V4, option.code()).unwrap();
        !codebook.layout(definition).fits(codebook, option.octets().unwrap_or_default())
    });
    let count = wrong.count();
    assert_eq!(count, 0, "the messages of this bench are right");
    count as u64
}

/// Walks every option by its layout, as all readers of payloads do.
fn walk(codebook: &Codebook, message: &[u8], buffer: &mut Vec<u8>, sink: &mut Sum) -> u64 {
    let message = Message::read(message).unwrap();
    for option in message.options() {
        if let Some(definition) = codebook.own(Protocol::V4, option.code()) {
            codebook.layout(definition).walk(codebook, option.joined_in(buffer), sink);
        }
    }
    sink.0
}

/// Counts what it is sent.
#[derive(Default)]
struct Sum(u64);

impl<'l, 'o> Visitor<'l, 'o> for Sum {
    fn scalar(&mut self, _: ScalarForm<'l>, _: Scalar<'o>, _: std::ops::Range<usize>) {
        self.0 += 1;
    }

    fn fault(&mut self, fault: Fault) {
        panic!("the messages of this bench are right: {}", fault.kind);
    }
}

/// What a campus tells a client.
fn payloads() -> Vec<(u16, Vec<u8>)> {
    let codebook = Codebook::standard();
    let payload = |(name, text): (&str, &str)| {
        let option = codebook.find(name).unwrap();
        (option.code, codebook.encode(option, &Input::from_text(text)).unwrap().octets)
    };
    [
        ("v4:54", "10.64.0.67"),
        ("v4:51", "8h"),
        ("v4:58", "4h"),
        ("v4:59", "7h"),
        ("v4:1", "255.255.254.0"),
        ("v4:3", "10.64.4.1, 10.64.4.2"),
        ("v4:6", "10.64.0.53, 10.64.0.54"),
        ("v4:15", "tarnfell.example"),
        ("v4:42", "10.64.0.123"),
        ("v4:67", "d/c.efi"),
        ("v4:28", "10.64.5.255"),
        ("v4:26", "1500"),
        ("v4:61", "{ hex = 01:02:00:5e:00:53:11 }"),
    ]
    .map(payload)
    .into()
}

/// A message of about this many octets, out of one domain name after the other.
fn of_size(size: usize) -> Vec<u8> {
    let name = b"name-of-a-dome.tarnfell.example";
    let mut options: Vec<(u16, Vec<u8>)> = vec![(15, name.to_vec())];
    let routes = [24, 10, 64, 8, 10, 64, 4, 1].repeat(size.saturating_sub(240 + 4 + 33 + size / 128 + 4) / 8);
    options.push((121, routes));
    let options: Vec<(u16, &[u8])> = options.iter().map(|(code, octets)| (*code, octets.as_slice())).collect();
    let draft = Draft { options: &options, limit: Limit::of_datagram(65_535), ..Draft::new(MessageType::ACK) };
    Composer::default().compose(&draft).unwrap().octets.to_vec()
}

/// One option in 250 parts of this many octets.
fn fragments(octets: u8) -> Vec<u8> {
    let mut message = of_size(300)[..240].to_vec();
    message.extend_from_slice(&[53, 1, 5]);
    for _ in 0..250 {
        message.extend_from_slice(&[67, octets]);
        message.resize(message.len() + usize::from(octets), b'a');
    }
    message.push(255);
    message
}
