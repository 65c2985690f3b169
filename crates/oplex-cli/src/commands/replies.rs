//! Every distinct reply of a plan, as frames for a packet analyser.

use std::collections::HashSet;
use std::net::{IpAddr, Ipv4Addr, Ipv6Addr, SocketAddr};
use std::path::Path;
use std::time::SystemTime;

use oplex::answer::Audience;
use oplex::compiled::Compiled;
use oplex::family::Family;
use oplex::packet::{Message as _, v4};
use oplex_io::capture;

use crate::exit::{Failure, because};

/// The client that replies go to (RFC 7042, section 2.1.2), and its address on the link.
const CLIENT: [u8; 6] = [0, 0, 0x5e, 0, 0x53, 3];
const HOST: Ipv6Addr = Ipv6Addr::new(0xfe80, 0, 0, 0, 0x0200, 0x5eff, 0xfe00, 0x5303);

/// Where DHCPv6 is answered from, where the plan does not say.
const LINK: Ipv6Addr = Ipv6Addr::new(0xfe80, 0, 0, 0, 0, 0, 0, 1);

/// Writes what each kind of client on each network is sent, and what routers advertise; says how many frames that is.
pub(super) fn write(
    compiled: &Compiled<'_>,
    only: Option<usize>,
    path: &Path,
    replace: bool,
) -> Result<usize, Failure> {
    let (mut seen, mut frames) = (HashSet::new(), Vec::new());
    for at in (0..compiled.networks.len()).filter(|at| only.is_none_or(|only| only == *at)) {
        if let Some(said) = &compiled.networks[at].advertises {
            let Ok(octets) = said.octets() else { return because("an advertisement has an option that none can hold") };
            let to = capture::multicast(said.ends.destination).unwrap_or(CLIENT);
            frames.extend(capture::frame_icmpv6(
                (capture::SERVER, said.ends.source),
                (to, said.ends.destination),
                &octets,
            ));
        }
        for fleet in std::iter::once(None).chain(compiled.fleets.iter().map(Some)) {
            let audience = Audience { compiled, at, fleet, reservation: None };
            for family in Family::ALL.into_iter().filter(|family| audience.network().sides.has(*family)) {
                let messages = match audience.messages(family) {
                    Ok(messages) => messages,
                    Err(why) => return because(format!("{audience}: {why}")),
                };
                for message in messages {
                    let Some(frame) = frame(compiled, family, &message) else {
                        return because(format!("{audience}: a message is longer than a datagram"));
                    };
                    if seen.insert(message) {
                        frames.push(frame);
                    }
                }
            }
        }
    }
    crate::exit::leave_nothing_half_written();
    capture::write(path, SystemTime::now(), &frames, replace)?;
    Ok(frames.len())
}

fn frame(compiled: &Compiled<'_>, family: Family, message: &[u8]) -> Option<Vec<u8>> {
    let at = |address: IpAddr, port| SocketAddr::from((address, port));
    match family {
        Family::V4 => {
            let own = compiled.server.v4.as_ref().map_or(Ipv4Addr::UNSPECIFIED, |(own, _)| *own);
            let given = v4::Message::read(message).ok()?.header().yiaddr;
            let (to, address) = if given.is_unspecified() { ([0xff; 6], Ipv4Addr::BROADCAST) } else { (CLIENT, given) };
            capture::frame((capture::SERVER, at(own.into(), 67)), (to, at(address.into(), 68)), message)
        }
        Family::V6 => {
            let own = compiled.server.v6.as_ref().map_or(LINK, |(own, _)| *own);
            capture::frame((capture::SERVER, at(own.into(), 547)), (CLIENT, at(HOST.into(), 546)), message)
        }
    }
}
