//! Any octets as a router advertisement: the options and what is left over are all of it, and findings lie in it.

#![no_main]

use libfuzzer_sys::fuzz_target;
use oplex::check;
use oplex::codebook::Codebook;
use oplex::packet::ra::{Draft, Ends, Header, Message};
use oplex::packet::{Composer, Element, Message as _};

fuzz_target!(|octets: &[u8]| {
    let Ok(message) = Message::read(octets) else { return };
    let all = message.octets();
    let start = if message.advertisement().is_some() { 16 } else { 8 };
    let mut end = start;
    for step in message.elements() {
        match step {
            Element::Option(option) => end += option.length() + 2,
            Element::Cut { octets, .. } => assert_eq!(end + octets, all.len()),
            Element::Empty { at } => assert_eq!(end, at),
        }
    }
    assert!(end <= all.len());
    for finding in check::message(Codebook::standard(), message) {
        let place = finding.octets.expect("a finding in a message has its octets");
        assert!(place.start < place.end && place.end <= octets.len());
    }
    // What is read is written again as it was, but for the code, the checksum, and what a solicitation has reserved.
    let header = message.advertisement().map_or(Header::Solicitation, Header::Advertisement);
    let options: Vec<(u16, &[u8])> =
        message.options().map(|option| (option.code(), option.octets().expect("never split"))).collect();
    let ends =
        message.packet().map_or(Ends { source: [0; 16].into(), destination: [0; 16].into() }, |packet| packet.ends);
    let mut composer = Composer::default();
    let again = composer.compose(&Draft { header, ends, options: &options }).expect("it was a message");
    assert_eq!(again.len(), end);
    let same = if start == 16 { 4 } else { 8 };
    assert_eq!(again[same..], all[same..end]);
});
