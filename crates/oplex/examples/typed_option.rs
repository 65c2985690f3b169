//! A program's own option: defined in Rust, written into a message, and read from one as a Rust type.

#![allow(clippy::print_stdout, reason = "an example shows what it does")]

use std::net::Ipv4Addr;

use oplex::codebook::{Carrier, Codebook, Definition};
use oplex::family::Family;
use oplex::layout::{Input, Layout};
use oplex::packet::v4::{Draft, Message, MessageType};
use oplex::packet::{Composer, Message as _};

/// What an intercom is to know of its server.
#[derive(Debug, PartialEq, serde::Deserialize)]
struct Settings {
    server: Ipv4Addr,
    port: u16,
    ring: String,
}

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut codebook = Codebook::standard().clone();
    let layout = Layout::parse("{ server: ipv4, port: u16 in 1.., ring: text }")?;
    codebook.define(Definition::new("tern", 224, "settings", layout).carried(Carrier::Own(Family::V4)));

    let settings = codebook.find("tern:settings")?;
    let payload = codebook.encode(settings, &Input::from_text("{ server = 10.64.0.70, port = 5061, ring = chime }"))?;
    let options = [(settings.code, payload.octets.as_slice())];
    let mut composer = Composer::default();
    let octets = composer.compose(&Draft { options: &options, ..Draft::new(MessageType::OFFER) })?.octets.to_vec();

    let message = Message::read(&octets)?;
    let received = message.option(settings.code).ok_or("it is in the message")?;
    let (value, faults) = codebook.decode(settings, &received.joined());
    assert!(faults.is_empty());
    let read: Settings = value.ok_or("nothing was read")?.to()?;
    assert_eq!(read, Settings { server: [10, 64, 0, 70].into(), port: 5061, ring: "chime".to_owned() });
    println!("{read:?}");
    Ok(())
}
