//! How clients, servers and times of captures are written.

use std::time::Duration;

use oplex::audit::Conversation;
use oplex::family::Protocol;
use oplex::octets::hex;

pub(crate) fn protocol_name(protocol: Protocol) -> &'static str {
    if protocol == Protocol::V4 { "DHCPv4" } else { "DHCPv6" }
}

/// Octets as an address, or as a DUID.
pub(crate) fn address(octets: &[u8], duid: bool) -> String {
    match (<[u8; 4]>::try_from(octets), <[u8; 16]>::try_from(octets)) {
        (Ok(octets), _) if !duid => std::net::Ipv4Addr::from(octets).to_string(),
        (_, Ok(octets)) if !duid => std::net::Ipv6Addr::from(octets).to_string(),
        _ => hex::colon(octets),
    }
}

/// A client as people name it.
pub(crate) fn client(conversation: &Conversation) -> String {
    let octets = &conversation.client;
    match conversation.protocol {
        Protocol::V4 if octets.first() == Some(&1) => hex::colon(&octets[1..]),
        Protocol::Ra => address(octets, false),
        _ => hex::colon(octets),
    }
}

/// A time as people read it: `2026-11-02 06:58:00 UTC`.
pub(crate) fn moment(at: Duration) -> String {
    let seconds = i64::try_from(at.as_secs()).unwrap_or(i64::MAX);
    let stamp = jiff::Timestamp::from_second(seconds).map(|stamp| stamp.to_string());
    stamp.map_or_else(|_| format!("{seconds} s"), |text| text.replace('T', " ").replace('Z', " UTC"))
}
