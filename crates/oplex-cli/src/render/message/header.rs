//! What stands in front of the options, in each protocol's own words.

use oplex::codebook::Codebook;
use oplex::layout::{Value, Vocabulary as _};
use oplex::octets::hex;
use oplex::packet::ra::{self, Advertisement, checksum};
use oplex::packet::v4::{self, Header};
use oplex::packet::{AnyMessage, Message as _, v6};

type Facts = Vec<(&'static str, String)>;

/// What stands in the header, line by line.
pub(super) fn facts(codebook: &Codebook, message: &AnyMessage<'_>) -> Facts {
    match message {
        AnyMessage::V4(message) => dhcpv4_facts(codebook, message),
        AnyMessage::V6(message) => dhcpv6_facts(message),
        AnyMessage::Ra(message) => facts_ra(message),
    }
}

/// The same behind the name of a message that another carries.
pub(super) fn aside(message: &AnyMessage<'_>) -> String {
    match message {
        AnyMessage::V6(inner) if inner.relay().is_some() => {
            dhcpv6_facts(inner).iter().map(|(what, text)| format!(", {what} {text}")).collect()
        }
        _ => String::new(),
    }
}

/// All but zeros.
fn dhcpv4_facts(codebook: &Codebook, message: &v4::Message<'_>) -> Facts {
    let header = message.header();
    let Header { op, htype, hlen, hops, xid, secs, flags, .. } = header;
    let named = |enumeration: &str, number: u8| {
        let name = codebook.enumeration(enumeration).and_then(|of| of.name_of(number.into()).map(str::to_owned));
        name.unwrap_or_else(|| number.to_string())
    };
    let op = named("message-op", op);
    let flags = match flags {
        0 => "no flags".to_owned(),
        Header::BROADCAST => "flags BROADCAST".to_owned(),
        other => format!("flags {other:#06x}"),
    };
    let hardware = format!("{}, {hlen} octets", named("client-id-type", htype));
    let mut lines = vec![
        ("header", format!("{op}, xid {xid:#010x}, secs {secs}, hops {hops}, {flags}")),
        ("chaddr", format!("{} ({hardware})", hex::colon(header.hardware()))),
    ];
    let addresses =
        [("ciaddr", header.ciaddr), ("yiaddr", header.yiaddr), ("siaddr", header.siaddr), ("giaddr", header.giaddr)];
    lines.extend(addresses.into_iter().filter(|(_, at)| !at.is_unspecified()).map(|(name, at)| (name, at.to_string())));
    let overload = message.overload();
    for (name, octets, bit) in [("sname", message.sname(), 2), ("file", message.file(), 1)] {
        let end = octets.iter().position(|octet| *octet == 0).unwrap_or(octets.len());
        match (overload & bit != 0, end) {
            (true, _) => lines.push((name, "holds options".to_owned())),
            (false, 0) => {}
            (false, end) => lines.push((name, String::from_utf8_lossy(&octets[..end]).into_owned())),
        }
    }
    lines
}

fn dhcpv6_facts(message: &v6::Message<'_>) -> Facts {
    match (message.relay(), message.transaction()) {
        (Some(relay), _) => {
            vec![("hops", relay.hops.to_string()), ("link", relay.link.to_string()), ("peer", relay.peer.to_string())]
        }
        (None, Some(transaction)) => vec![("transaction", format!("{transaction:#08x}"))],
        (None, None) => vec![("flags", hex::plain(&message.octets()[1..4]))],
    }
}

fn facts_ra(message: &ra::Message<'_>) -> Facts {
    let mut lines = Vec::new();
    if let Some(packet) = message.packet() {
        lines.push(("packet", format!("from {} to {}", packet.ends.source, packet.ends.destination)));
        let right = checksum(packet.ends, message.octets()) == message.checksum();
        let verdict = if right { "right" } else { "wrong" };
        lines.push(("checksum", format!("{:#06x}, {verdict}", message.checksum())));
    } else {
        let why = "the IPv6 header with its addresses is missing";
        lines.push(("checksum", format!("{:#06x}, not checked: {why}", message.checksum())));
    }
    if let Some(said) = message.advertisement() {
        lines.push(("hosts", said.directs().to_owned()));
        lines.push(("flags", flags(&said)));
        lines.push(("router", router(&said)));
        let time = |milliseconds: u32| match milliseconds {
            0 => "unspecified".to_owned(),
            time => format!("{time} ms"),
        };
        let limit = if said.hop_limit == 0 { "unspecified".to_owned() } else { said.hop_limit.to_string() };
        let (reachable, retransmit) = (time(said.reachable_time), time(said.retrans_timer));
        lines.push(("hop limit", format!("{limit}; reachable time {reachable}; retransmission {retransmit}")));
    }
    lines
}

fn flags(said: &Advertisement) -> String {
    let named = [
        (said.managed, "M (addresses by DHCPv6)"),
        (said.other, "O (other things by DHCPv6)"),
        (said.home_agent, "H (home agent)"),
        (said.proxy, "P (proxy)"),
    ];
    let set: Vec<&str> = named.into_iter().filter_map(|(on, name)| on.then_some(name)).collect();
    if set.is_empty() { "none: hosts do not use DHCPv6".to_owned() } else { set.join(", ") }
}

fn router(said: &Advertisement) -> String {
    let preference = said.preference.name();
    match said.router_lifetime {
        0 => "no default router".to_owned(),
        seconds => format!("default router for {}, preference {preference}", Value::Seconds(seconds.into())),
    }
}
