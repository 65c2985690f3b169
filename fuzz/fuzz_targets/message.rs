//! Any octets as a DHCPv4 message: every element lies in it, every option can be joined and placed, and it ends.

#![no_main]

use libfuzzer_sys::fuzz_target;
use oplex::packet::Message as _;
use oplex::packet::v4::{Budget, Element, Limit, Message};

fuzz_target!(|octets: &[u8]| {
    // Most inputs would be no messages; these are, with the input in all the fields that can hold options.
    let mut whole = vec![0; 236];
    whole.extend_from_slice(&oplex::packet::v4::COOKIE);
    let (fields, rest) = octets.split_at(octets.len().min(192));
    whole[44..44 + fields.len()].copy_from_slice(fields);
    whole.extend_from_slice(rest);
    look(&whole);
    if octets.len() >= 236 {
        look(octets);
    }
});

fn look(octets: &[u8]) {
    let Ok(message) = Message::read(octets) else { return };
    let mut seen = 0;
    for element in message.elements() {
        let range = match element {
            Element::Part(part) => part.at..part.at + 2 + part.octets.len(),
            Element::Pads(range) => range,
            Element::End { octets, .. } | Element::Overrun { octets, .. } => octets,
            Element::NoEnd { at, .. } => at..at,
        };
        assert!(range.end <= octets.len());
        seen += range.len();
    }
    assert!(seen <= octets.len());
    let mut buffer = Vec::new();
    let mut parts = 0;
    for option in message.options() {
        let joined = option.joined_in(&mut buffer);
        assert_eq!(joined.len(), option.length());
        for at in [0, joined.len() / 2, joined.len().saturating_sub(1)] {
            assert_eq!(joined.get(at), octets.get(option.position(at)).filter(|_| at < joined.len()));
        }
        parts += option.parts().count();
    }
    assert_eq!(parts, message.parts().count());
    let _ = (message.to_string(), Budget::of_message(&message, Limit::DEFAULT));
}
