//! Any octets as a request and its reply: the rules over both find what lies in the reply, and what is plainly a message is one.

#![no_main]

use libfuzzer_sys::fuzz_target;
use oplex::check;
use oplex::codebook::Codebook;
use oplex::family::Protocol;
use oplex::packet::AnyMessage;
use oplex::packet::v4::COOKIE;

fuzz_target!(|octets: &[u8]| {
    // The first octets say which protocol, and where the reply begins.
    let [protocol, at, rest @ ..] = octets else { return };
    let protocol = Protocol::ALL[usize::from(*protocol) % 3];
    let (request, reply) = rest.split_at(usize::from(*at).min(rest.len()));
    let whole = |octets: &[u8]| match protocol {
        // The header of BOOTP is long, and what is in it is for another target.
        Protocol::V4 => [&[1, 1, 6][..], &[0; 233], &COOKIE, octets].concat(),
        _ => octets.to_vec(),
    };
    let (request, reply) = (whole(request), whole(reply));
    if let Some(plain) = AnyMessage::plainly(&reply) {
        assert!(AnyMessage::read(plain, &reply).is_ok());
    }
    let (Ok(asked), Ok(answer)) = (AnyMessage::read(protocol, &request), AnyMessage::read(protocol, &reply)) else {
        return;
    };
    for finding in check::exchange(Codebook::standard(), asked, answer) {
        let place = finding.octets.clone().unwrap_or_default();
        assert!(place.start <= place.end && place.end <= reply.len(), "{} {place:?}", finding.rule.name);
    }
});
