//! Any octets as a DHCPv6 message: the options and what is left over are all of it, and findings lie in it.

#![no_main]

use libfuzzer_sys::fuzz_target;
use oplex::check;
use oplex::codebook::Codebook;
use oplex::packet::v6::{Draft, Header, Message};
use oplex::packet::{Composer, Element, Message as _};

fuzz_target!(|octets: &[u8]| {
    let Ok(message) = Message::read(octets) else { return };
    let steps = message.elements().map(|step| match step {
        Element::Option(option) => 4 + option.length(),
        Element::Cut { octets, .. } => octets,
        Element::Empty { .. } => 0,
    });
    let kind = message.message_type();
    assert_eq!(steps.sum::<usize>() + kind.header_octets(), octets.len());
    let _ = (message.innermost(), message.to_string());
    for finding in check::message(Codebook::standard(), message) {
        // What is missing stands nowhere.
        let Some(place) = finding.octets else {
            assert!(finding.message.contains(" is missing from "));
            continue;
        };
        assert!(place.start < place.end && place.end <= octets.len());
    }
    // What is read can be written again, but for octets that are no option, and the time between failover partners.
    let header = message
        .relay()
        .map_or(Header::Transaction(u32::from_be_bytes([0, octets[1], octets[2], octets[3]])), Header::Relay);
    let options: Vec<(u16, &[u8])> =
        message.options().map(|option| (option.code(), option.octets().expect("never split"))).collect();
    let mut composer = Composer::default();
    let again = composer.compose(&Draft { message_type: kind, header, options: &options }).expect("it was a message");
    if kind.header_octets() != 8 {
        assert_eq!(*again, octets[..again.len()]);
    }
});
