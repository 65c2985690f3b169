//! Rules about what relay agents relay, and what they say of clients.

use crate::check::context::MessageContext;
use crate::check::declare::{OptionValue, check, checks, v4_message, v6_message};
use crate::finding::{Example, Finding, Findings};
use crate::layout::Value;
use crate::packet::AnyMessage;
use crate::packet::v6::{MOST_HOPS, MessageType};

checks! {
    RELAY_HOPS_INCONSISTENT, RELAYED_THE_WRONG_WAY, ACCESS_NETWORK_WITHOUT_TYPE, CARRIED_THE_WRONG_WAY,
    DHCPV4_OVER_DHCPV6_FLAGS_RESERVED, RELAY_INFORMATION_ENDED, RELAY_IDENTIFIER_WITH_ADDRESS,
    CLIENT_IDENTIFIER_NOT_CARRIED, RELAY_FLAGS_TOO_LONG
}

/// A DHCPDISCOVER of 300 octets, with a client identifier or nine pads in its place.
macro_rules! discover {
    ($identifier:literal) => {
        concat!(
            "0101060000000001000000000000000000000000000000000000000002005e005311000000000000000000000000000000000000000000",
            "00000000000000000000000000000000000000000000000000000000000000000000000000000000000000000000000000000000000000",
            "00000000000000000000000000000000000000000000000000000000000000000000000000000000000000000000000000000000000000",
            "00000000000000000000000000000000000000000000000000000000000000000000000000000000000000000000000000000000000000",
            "0000000000000000000000000000000063825363350101", $identifier, "ff00000000000000000000000000000000000000000000",
            "00000000000000000000000000000000000000000000000000",
        )
    };
}

check! { Message(relay_hops_inconsistent),
    /// the hop count of a relay agent's message does not follow from the message in it
    ///
    /// Relay agents count so that a message that goes round is dropped; one that counts wrong is dropped too early.
    static RELAY_HOPS_INCONSISTENT = "relay-hops-inconsistent", Error, Message(V6), "RFC 8415, sections 19.1.1 and 19.1.2";
    v6_message("type = \"relay-forward\"\nlink = \"2001:db8:64:10::1\"\npeer = \"fe80::1\"\nhops = 3\n\
        options = { relay-msg = \"0b:00:00:07:00:08:00:02:00:00:00:06:00:06:00:17:00:20:00:53\" }\n")
}

fn relay_hops_inconsistent(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some(outer) = context.v6().filter(|message| message.message_type() == MessageType::RELAY_FORWARD) else {
        return;
    };
    let Some((Ok(inner), _)) = outer.relayed() else { return };
    // More than that is a matter of the count itself.
    let Some(hops) = outer.relay().map(|relay| relay.hops).filter(|hops| *hops <= MOST_HOPS) else { return };
    let wanted = inner.relay().map_or(0, |inner| inner.hops.saturating_add(1));
    if hops != wanted {
        let around = if inner.relay().is_some() { "another relay agent's message" } else { "a client's message" };
        let message = format!("hop count is {hops}, around {around}; it must be {wanted}");
        findings.push(RELAY_HOPS_INCONSISTENT.finding(message).advice(wanted.to_string()).on(1..2));
    }
}

check! { Message(relayed_the_wrong_way),
    /// a message to a client in a Relay-forward, or one from a client in a Relay-reply
    ///
    /// Who receives it must drop it: servers take messages of clients, and clients those of servers.
    static RELAYED_THE_WRONG_WAY = "relayed-the-wrong-way", Error, Message(V6), "RFC 8415, section 16";
    v6_message("type = \"relay-reply\"\nlink = \"2001:db8:64:10::1\"\npeer = \"fe80::1\"\n\
        options = { relay-msg = \"0b:00:00:07:00:08:00:02:00:00:00:06:00:06:00:17:00:20:00:53\" }\n")
}

fn relayed_the_wrong_way(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some(outer) = context.v6().filter(|message| message.message_type().is_relays()) else { return };
    let Some((Ok(inner), at)) = outer.relayed() else { return };
    let kind = inner.message_type();
    let to_client = matches!(kind.0, 2 | 7 | 10 | 13 | 15 | 19 | 21 | 37);
    let to_server = matches!(kind.0, 1 | 3..=6 | 8 | 9 | 11 | 12 | 14 | 18 | 20 | 36);
    let wrong = if outer.message_type() == MessageType::RELAY_FORWARD { to_client } else { to_server };
    if wrong {
        let message = format!("{} holds a message of type {kind}", context.called());
        findings.push(RELAYED_THE_WRONG_WAY.finding(message).on(at..at + 1));
    }
}

check! { Message(access_network_without_type),
    /// an access network is named without its technology (105)
    ///
    /// Servers must ignore the name then.
    static ACCESS_NETWORK_WITHOUT_TYPE = "access-network-without-type", Error, Message(V6), "RFC 7839, sections 6 and 7";
    v6_message("type = \"relay-forward\"\nlink = \"2001:db8:64:10::1\"\npeer = \"fe80::1\"\n\
        options = { ani-network-name = \"fell\", relay-msg = \"0b:00:00:07:00:08:00:02:00:00:00:06:00:06:00:17:00:20:00:53\" }\n")
}

fn access_network_without_type(context: &MessageContext<'_>, findings: &mut Findings) {
    if context.v6().is_none_or(|message| !message.message_type().is_relays()) {
        return;
    }
    let named = context.top().find(|place| matches!(place.code, 106..=108));
    if let Some(place) = named.filter(|_| !context.has(105)) {
        let message = format!("{} without {}", context.label(place.code), context.label(105));
        findings.push(ACCESS_NETWORK_WITHOUT_TYPE.finding(message).on(context.around(place)));
    }
}

check! { Message(carried_the_wrong_way),
    /// a request of DHCPv4 in a DHCPv4-response, or a reply in a DHCPv4-query
    ///
    /// Who receives it takes the one or the other, and drops this.
    static CARRIED_THE_WRONG_WAY = "carried-the-wrong-way", Error, Message(V4), "RFC 7341, section 7.1";
    v6_message(concat!("type = \"dhcpv4-response\"\noptions = { dhcpv4-msg = \"", discover!("3d070102005e005311"), "\" }\n"))
}

fn carried_the_wrong_way(context: &MessageContext<'_>, findings: &mut Findings) {
    let (Some((_, header)), Some((Some((_, kind)), 87))) = (context.v4(), context.around) else { return };
    let (wanted, name) = match kind {
        20 => (1, "DHCPv4-query"),
        21 => (2, "DHCPv4-response"),
        _ => return,
    };
    if header.op != wanted {
        let message = format!("op is {} in a {name}; it must be {wanted}", header.op);
        findings.push(CARRIED_THE_WRONG_WAY.finding(message).on(0..1));
    }
}

check! { Message(client_identifier_not_carried),
    /// a request of DHCPv4 in a DHCPv4-query without a client identifier (61)
    ///
    /// The client has no hardware address on the link, so servers know it by nothing else.
    static CLIENT_IDENTIFIER_NOT_CARRIED = "client-identifier-not-carried", Error, Message(V4), "RFC 7341, section 9";
    v6_message(concat!("type = \"dhcpv4-query\"\noptions = { dhcpv4-msg = \"", discover!("000000000000000000"), "\" }\n"))
}

fn client_identifier_not_carried(context: &MessageContext<'_>, findings: &mut Findings) {
    let (Some((_, header)), Some((Some((_, 20)), 87))) = (context.v4(), context.around) else { return };
    if header.op == 1 && !context.has(61) {
        let message = format!("{} is missing from {}", context.label(61), context.called());
        findings.push(CLIENT_IDENTIFIER_NOT_CARRIED.finding(message));
    }
}

check! { Message(dhcpv4_over_dhcpv6_flags_reserved),
    /// a reserved flag of a DHCPv4-query or DHCPv4-response is set
    ///
    /// They must be zero, and receivers ignore them.
    static DHCPV4_OVER_DHCPV6_FLAGS_RESERVED = "dhcpv4-over-dhcpv6-flags-reserved", Error, Message(V6),
        "RFC 7341, sections 6.3 and 6.4";
    v6_message(concat!("type = \"dhcpv4-query\"\ntransaction = 1\noptions = { dhcpv4-msg = \"", discover!("3d070102005e005311"), "\" }\n"))
}

fn dhcpv4_over_dhcpv6_flags_reserved(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some(message) = context.v6() else { return };
    // Only the query has one with a meaning: that it is unicast.
    let reserved = match message.message_type().0 {
        20 => 0x7f_ffff,
        21 => 0xff_ffff,
        _ => return,
    };
    let set = AnyMessage::V6(message).octets().get(1..4).map_or(0, crate::octets::number) & reserved;
    if set != 0 {
        let finding = DHCPV4_OVER_DHCPV6_FLAGS_RESERVED.finding(format!("reserved flags {set:#08x} are set")).borne();
        findings.push(finding.on(1..4));
    }
}

check! { Value(relay_information_ended),
    /// the relay agent information ends in an option 255
    ///
    /// It has neither pads nor an end, and servers take these octets for a sub-option.
    static RELAY_INFORMATION_ENDED = "relay-information-ended", Error, Options("v4:82"), "RFC 3046, section 2.0";
    Example::Payload("v4:82", "0102aabbff00")
}

fn relay_information_ended(one: &OptionValue<'_>) -> Option<Finding> {
    let Value::Options(parts) = one.value() else { return None };
    let last = parts.last().filter(|part| part.code == 255)?;
    Some(
        RELAY_INFORMATION_ENDED
            .finding(format!("sub-option {} stands at the end; it is not an end mark here", last.code)),
    )
}

check! { Message(relay_identifier_with_address),
    /// a relay agent identifies itself in its proof (82/8) although its address is in the header
    ///
    /// Receivers take one for the other when they choose the key, and the proof fails.
    static RELAY_IDENTIFIER_WITH_ADDRESS = "relay-identifier-with-address", Error, Message(V4), "RFC 4030, section 6";
    v4_message("type = \"discover\"\nchaddr = \"02:00:5e:00:53:11\"\ngiaddr = \"10.64.4.1\"\nhops = 1\n[options]\n\
        relay-agent-information = { authentication = { algorithm = 1, rdm = { rdm = 1 }, replay-detection = 1, relay-id = 167838721, information = { key-id = 1, hmac-sha1 = \"000102030405060708090a0b0c0d0e0f10111213\" } } }\n")
}

fn relay_identifier_with_address(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some((_, header)) = context.v4().filter(|(_, header)| !header.giaddr.is_unspecified()) else { return };
    let Some(place) = context.option(82) else { return };
    // The identifier follows the algorithm, the method and the counter (section 4).
    let value = context.value(place);
    let proof = value.as_ref().and_then(|value| value.option(8));
    let id =
        proof.and_then(|proof| proof.field("relay-id")).map(Value::to_string).filter(|id| id != "0.0.0.0" && id != "0");
    if let Some(id) = id {
        let message = format!("relay identifier {id} along with giaddr {}", header.giaddr);
        findings.push(RELAY_IDENTIFIER_WITH_ADDRESS.finding(message).on(context.around(place)));
    }
}

check! { Value(relay_flags_too_long),
    /// the flags of a relay agent have more than one octet
    ///
    /// Servers read the first and no more, so that what the others say is lost.
    static RELAY_FLAGS_TOO_LONG = "relay-flags-too-long", Warning, Options("v4:82/10"), "RFC 5010, section 5";
    Example::Payload("v4:82/10", "8000")
}

fn relay_flags_too_long(one: &OptionValue<'_>) -> Option<Finding> {
    let octets = one.octets.len();
    (octets > 1).then(|| {
        let message = format!("the flags have {octets} octets, of which servers read the first");
        RELAY_FLAGS_TOO_LONG.finding(message).on(1..octets)
    })
}
