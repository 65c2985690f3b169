//! An exchange as frames for a packet analyser.

use std::net::IpAddr;
use std::path::Path;
use std::time::SystemTime;

use oplex::answer::{Ends, Played};
use oplex::plan::ClientFacts;
use oplex_io::capture;

use crate::exit::{Failure, because};
use crate::rehearsal::between;

/// Writes the messages as frames, a millisecond apart.
pub(super) fn write<'m>(
    path: &Path,
    replace: bool,
    client: &ClientFacts,
    messages: impl Iterator<Item = &'m Played>,
) -> Result<(), Failure> {
    let own = client.own_mac().unwrap_or_default().into();
    let Some(frames) = messages.map(|played| frame(played, own)).collect::<Option<Vec<_>>>() else {
        return because("a message is longer than a datagram");
    };
    crate::exit::leave_nothing_half_written();
    Ok(capture::write(path, SystemTime::now(), &frames, replace)?)
}

fn frame(played: &Played, own: [u8; 6]) -> Option<Vec<u8>> {
    let relayed = matches!(played.ends, Ends::Udp(from, to) if from.port() == to.port());
    // The host's own messages come from its own card; a relay agent's from the relay agent's.
    let near = if relayed { capture::RELAY } else { own };
    let (from, to) = if played.from_client { (near, capture::SERVER) } else { (capture::SERVER, near) };
    let many = match between(played.ends).1 {
        IpAddr::V4(address) => address.is_broadcast().then_some([0xff; 6]),
        IpAddr::V6(address) => capture::multicast(address),
    };
    let to = many.unwrap_or(to);
    match played.ends {
        Ends::Icmp(ends) => capture::frame_icmpv6((from, ends.source), (to, ends.destination), &played.octets),
        Ends::Udp(source, destination) => capture::frame((from, source), (to, destination), &played.octets),
    }
}
