//! Any octets as a DHCPv4 message, and every rule over it: each finding lies in it.

#![no_main]

use libfuzzer_sys::fuzz_target;
use oplex::check;
use oplex::codebook::Codebook;
use oplex::packet::Message as _;
use oplex::packet::v4::Message;

fuzz_target!(|octets: &[u8]| {
    let mut whole = vec![0; 236];
    whole[..3].copy_from_slice(&[1, 1, 6]);
    whole.extend_from_slice(&oplex::packet::v4::COOKIE);
    whole.extend_from_slice(octets);
    let Ok(message) = Message::read(&whole) else { return };
    for finding in check::message(Codebook::standard(), message) {
        for place in finding.octets.into_iter().chain(finding.also.into_iter().map(|(octets, _)| octets)) {
            assert!(place.start <= place.end && place.end <= whole.len(), "{} {place:?}", finding.rule.name);
        }
    }
});
