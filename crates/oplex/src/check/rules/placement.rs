//! Rules about which option stands where, and in which messages: what codebooks say of that, for all protocols alike.

use crate::check::context::{MessageContext, Occurrence};
use crate::check::declare::{OptionValue, check, checks, ra_message, v4_message, v6_message};
use crate::check::firsts::Firsts;
use crate::codebook::{Codebook, Definition, MessageFactKind, Status};
use crate::family::Protocol;
use crate::finding::{Finding, Findings, Severity};
use crate::packet::ra::SOLICITATION;
use crate::packet::v4;
use crate::packet::v6::RELAY_DATA;

/// Whether the codebooks say of this type of message what may stand in it: of DHCPv6 those of RFC 8415 itself. Queries and
/// failover partners have tables of their own.
fn is_tabled(context: &MessageContext<'_>) -> bool {
    context.v6().is_none_or(|message| (1..=13).contains(&message.message_type().0))
}

checks! {
    OPTION_NOT_ALLOWED_IN_MESSAGE, OPTION_MISSING_IN_MESSAGE, OPTION_MISPLACED, OPTION_REPEATED,
    MESSAGE_TYPE_MISSING, OPTION_SPLIT_NEEDLESSLY, MASK_AFTER_ROUTER, RELAY_INFORMATION_MISPLACED
}

check! { Message(option_not_allowed_in_message),
    /// an option in a message type that must not have it
    ///
    /// Receivers may drop the whole message, or misinterpret it.
    static OPTION_NOT_ALLOWED_IN_MESSAGE = "option-not-allowed-in-message", Error, Message(V4, V6, Ra),
        "RFC 2131, section 4.4.1, table 5";
    v4_message("type = \"discover\"\nchaddr = \"02:00:5e:00:53:11\"\n[options]\ndhcp-server-id = \"10.64.0.67\"\n"),
    v6_message("type = \"solicit\"\n[options]\nclientid = \"00:03:00:01:02:00:5e:00:53:11\"\n\
     serverid = \"00:03:00:01:00:00:5e:00:53:01\"\nelapsed-time = 0\noro = [23, 82]\n"),
    ra_message("type = \"solicitation\"\noptions = { mtu = { mtu = 1500 } }\n")
}

fn option_not_allowed_in_message(context: &MessageContext<'_>, findings: &mut Findings) {
    if context.protocol() == Protocol::Ra {
        return solicitation(context, findings);
    }
    let Some(kind) = context.kind else { return };
    let closed = context.codebook.closed(context.protocol(), kind);
    if closed.is_none() && !context.marks.is_against_message {
        return;
    }
    for place in context.top().filter(|place| closed.is_some() || place.is_against_message) {
        let says = |what: MessageFactKind| {
            let mut facts = place.definition.into_iter().flat_map(|definition| definition.in_message(kind));
            facts.find(|fact| fact.kind == what && context.fulfils(fact.when))
        };
        let (severity, rfc) = match (says(MessageFactKind::Barred), says(MessageFactKind::Discouraged), closed) {
            (Some(fact), ..) => (Severity::Error, &*fact.reference),
            (None, Some(fact), _) => (Severity::Warning, &*fact.reference),
            (None, None, Some(closed)) if says(MessageFactKind::Allowed).is_none() => (Severity::Error, closed),
            _ => continue,
        };
        let message = format!("{} must not be in {}", context.label(place.code), context.called());
        let finding = OPTION_NOT_ALLOWED_IN_MESSAGE.finding(message).as_severity(severity).by(rfc);
        findings.push(finding.on(context.around(place)));
    }
}

/// A solicitation has the sender's hardware address or nothing, and that only where the packet has a source.
fn solicitation(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some(message) = context.ra().filter(|_| context.is(SOLICITATION)) else { return };
    let without_source = message.packet().is_some_and(|packet| packet.ends.source.is_unspecified());
    for place in context.top() {
        let message = match place.definition.map(|definition| definition.label()) {
            Some(label) if place.code != 1 => format!("{label} must not be in a router solicitation"),
            Some(label) if without_source => format!("{label} is present, but the packet has no source address"),
            _ => continue,
        };
        // Receivers must ignore it and go on (RFC 4861, section 6.1.1).
        let finding = OPTION_NOT_ALLOWED_IN_MESSAGE.finding(message).by("RFC 4861, section 4.1").borne();
        findings.push(finding.on(context.around(place)));
    }
}

check! { Message(option_missing_in_message),
    /// an option that every message of this type has is missing
    ///
    /// Without it the receiver cannot act on the message, and drops it.
    static OPTION_MISSING_IN_MESSAGE = "option-missing-in-message", Error, Message(V4, V6),
        "RFC 2131, section 4.3.1, table 3";
    v4_message("type = \"offer\"\nyiaddr = \"10.64.4.20\"\nchaddr = \"02:00:5e:00:53:11\"\n[options]\n\
        address-time = \"8h\"\n"),
    v6_message("type = \"solicit\"\n[options]\nelapsed-time = 0\noro = [23, 82]\n"),
    v4_message("type = \"forcerenew\"\nchaddr = \"02:00:5e:00:53:11\"\n[options]\ndhcp-server-id = \"10.64.0.67\"\n")
}

fn option_missing_in_message(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some(kind) = context.kind else { return };
    let missing = context.codebook.required(context.protocol(), kind).filter(|code| !context.has(*code));
    for definition in missing.filter_map(|code| context.codebook.own(context.protocol(), code)) {
        let mut facts = definition.in_message(kind).filter(|fact| fact.kind == MessageFactKind::Required);
        let Some(fact) = facts.find(|fact| context.fulfils(fact.when)) else { continue };
        // The data of a relay agent come without the client's message (RFC 5007, section 4.1.2.4).
        let left_out = definition.code == 9 && context.around.is_some_and(|(_, by)| by == RELAY_DATA);
        if !left_out {
            let message = format!("{} is missing from {}", definition.label(), context.called());
            let finding = OPTION_MISSING_IN_MESSAGE.finding(message).by(fact.reference.clone());
            // What is missing stands nowhere.
            findings.push(finding);
        }
    }
}

check! { MessageAndInside(option_misplaced, |_, definition| definition.is_own_of(Protocol::V6), misplaced_inside),
    /// a DHCPv6 option in a place where it has no meaning: at the top level, or in an option that may not hold it
    ///
    /// Receivers ignore it, or everything that it is in.
    static OPTION_MISPLACED = "option-misplaced", Error, Message(V6), "RFC 8415, section 21 and appendix C";
    v6_message("type = \"reply\"\n[options]\nserverid = \"00:03:00:01:00:00:5e:00:53:01\"\n\
         iaaddr = { address = \"2001:db8:64:10::20\", preferred-lifetime = \"8h\", valid-lifetime = \"12h\", options = {} }\n")
}

fn option_misplaced(context: &MessageContext<'_>, findings: &mut Findings) {
    if !context.marks.is_misplaced {
        return;
    }
    for place in context.top().filter(|place| place.is_own_of(Protocol::V6) && is_tabled(context)) {
        let finding = place.definition.and_then(|definition| misplaced(context.codebook, definition, 0));
        findings.extend(finding.map(|finding| finding.on(context.around(place))));
    }
}

/// An option inside another, which may not hold it.
fn misplaced_inside(one: &OptionValue<'_>) -> Option<Finding> {
    let outer = one.outer()?;
    if one.definition.within.contains(&outer.code) {
        return None;
    }
    // Codes inside options of vendors and of others are not these.
    let both = outer.is_own_of(Protocol::V6) && one.definition.is_own_of(Protocol::V6);
    // Another rule says of some containers what they must not hold.
    let code = one.definition.code;
    if outer.holds.iter().any(|content| content.most == Some(0) && content.options.contains(&code)) {
        return None;
    }
    let finding = misplaced(one.view.codebook, one.definition, outer.code).filter(|_| both)?;
    // About the option with its code and length.
    Some(finding.on(0..0))
}

/// What is wrong with this option in the one of this code; 0 is the top level.
fn misplaced(codebook: &Codebook, definition: &Definition, around: u16) -> Option<Finding> {
    let at_top_alone = definition.within.is_empty() && around == 0;
    // What a leasequery finds about a client is everything that the client has (RFC 5007, section 4.1.2.2).
    let at_top = definition.within.is_empty() || definition.within.contains(&0);
    if at_top_alone || definition.within.contains(&around) || (around == 45 && at_top) {
        return None;
    }
    let top = || "the top level of a message".to_owned();
    let label = |code: u16| codebook.label(Protocol::V6, code);
    let stands = if around == 0 { format!("at {}", top()) } else { format!("in {}", label(around)) };
    let message = format!("{} is {stands}", definition.label());
    let places = definition.within.iter().map(|code| if *code == 0 { top() } else { label(*code) });
    let places: Vec<String> = places.collect();
    let instead = if places.is_empty() { top() } else { places.join(", ") };
    Some(OPTION_MISPLACED.finding(message).advice(format!("in {instead}")))
}

check! { MessageAndValue(option_repeated, |codebook, definition| codebook.layout(definition).holds_options(), repeated_inside),
    /// an option that may occur once occurs twice, in a message or in the option that holds it
    ///
    /// Receivers of DHCPv4 must join the two, and the result is too long; others use the first, or the last.
    static OPTION_REPEATED = "option-repeated", Error, Message(V4, V6, Ra), "RFC 3396, section 7";
    v4_message("chaddr = \"02:00:5e:00:53:11\"\nafter-header = \"63825363 350101 39020240 39020240 ff\"\n"),
    v6_message("type = \"reply\"\n\
        options = [{ serverid = \"00:03:00:01:00:00:5e:00:53:01\", dns-servers = \"2001:db8:64::53\" }, { dns-servers = \"2001:db8:64::54\" }]\n"),
    ra_message("managed = true\n[[options]]\nmtu = { mtu = 1500 }\n[[options]]\nmtu = { mtu = 1280 }\n")
}

fn option_repeated(context: &MessageContext<'_>, findings: &mut Findings) {
    match context.protocol() {
        Protocol::V4 if context.marks.is_split => {
            findings.extend(context.top().filter_map(|place| split_though_single(context, place)));
        }
        Protocol::V6 | Protocol::Ra if context.marks.is_repeated => repeated(context, findings),
        _ => {}
    }
}

/// Of DHCPv4 an option that is a duplicate is one that was split; what comes of joining it has the wrong length then.
fn split_though_single(context: &MessageContext<'_>, place: &Occurrence<'_>) -> Option<Finding> {
    let definition = place.definition.filter(|definition| place.is_split && definition.single)?;
    let option = context.split(place)?;
    // Joined after RFC 3396 it may be right; each part alone is right where two were meant.
    let right = |octets: &[u8]| context.codebook.decode(definition, octets).1.is_empty();
    if right(&place.octets) || !option.parts().all(|part| right(part.octets)) {
        return None;
    }
    let second = option.parts().nth(1).map_or(0, |part| part.at - option.head());
    let message = format!("{} is repeated; it must not be split", context.label(place.code));
    Some(OPTION_REPEATED.finding(message).on(second..second + 2))
}

/// An option inside this one, whose book has it once, that stands in it twice.
fn repeated_inside(one: &OptionValue<'_>) -> Option<Finding> {
    one.inside().nth(1)?;
    let mut known = Firsts::new();
    one.inside().find_map(|inner| {
        let definition =
            inner.definition.filter(|definition| definition.is_own_of(Protocol::V6) && !definition.several)?;
        let first = known.first(inner.code, inner.around.start)?;
        let start = one.start();
        let message = format!("{} is repeated; it first occurs at octet {}", definition.label(), first - start);
        let finding = OPTION_REPEATED.finding(message).by("RFC 8415, section 21");
        Some(finding.on(inner.around.start - start..inner.around.end - start))
    })
}

fn repeated(context: &MessageContext<'_>, findings: &mut Findings) {
    let mut known = Firsts::new();
    for place in context.top().filter(|place| place.is_own_of(context.protocol())) {
        let single = |definition: &&Definition| {
            let facts = context.kind.into_iter().flat_map(|kind| definition.in_message(kind));
            let here = facts.into_iter().any(|fact| fact.kind == MessageFactKind::Several);
            !definition.several && !here && definition.status != Status::Unassigned
        };
        let Some(definition) = place.definition.filter(single) else { continue };
        if let Some(first) = known.first(place.code, context.around(place).start) {
            let message = format!("{} is repeated; it first occurs at octet {first}", definition.label());
            let finding = OPTION_REPEATED.finding(message).on(context.around(place));
            findings.push(match context.protocol() {
                Protocol::Ra => finding.by(definition.reference.clone()),
                _ => finding.by("RFC 8415, section 21"),
            });
        }
    }
}

check! { Message(message_type_missing),
    /// a message has DHCP options, but no message type (53)
    ///
    /// Without a type it is a BOOTP message, in which those options have no meaning.
    static MESSAGE_TYPE_MISSING = "message-type-missing", Warning, Message(V4), "RFC 2131, section 3";
    v4_message("chaddr = \"02:00:5e:00:53:11\"\n[options]\naddress-request = \"10.64.4.20\"\n")
}

fn message_type_missing(context: &MessageContext<'_>, findings: &mut Findings) {
    if context.has(53) {
        return;
    }
    // RFC 2132, section 2: the options of its section 9 are DHCP's own.
    let first = context.top().find(|place| matches!(place.code, 50..=61 | 66 | 67));
    findings.extend(first.map(|place| {
        let message = format!("{} is in a message without a message type (53)", context.label(place.code));
        MESSAGE_TYPE_MISSING.finding(message).on(context.around(place))
    }));
}

check! { Message(option_split_needlessly),
    /// an option is split, but would fit in one part in the same field
    ///
    /// Clients that do not join parts use only the first or the last.
    static OPTION_SPLIT_NEEDLESSLY = "option-split-needlessly", Warning, Message(V4), "RFC 3396, section 4";
    v4_message("type = \"ack\"\nop = 2\nyiaddr = \"10.64.4.20\"\nchaddr = \"02:00:5e:00:53:11\"\n\
        after-header = \"63825363 350105 36040a400043 330400007080 06040a400035 06040a400036ff\"\n")
}

fn option_split_needlessly(context: &MessageContext<'_>, findings: &mut Findings) {
    if !context.marks.is_split {
        return;
    }
    for place in context.top().filter(|place| place.is_split) {
        let Some(option) = context.split(place) else { continue };
        let single = place.definition.is_some_and(|definition| definition.single);
        // The options field begins after the header; the fields before it hold no option in part.
        let field = |at: usize| [44, 108, v4::HEADER].iter().filter(|start| **start <= at).count();
        let first = field(option.at());
        if !single && option.length() <= 255 && option.parts().all(|part| field(part.at) == first) {
            let (label, octets) = (context.label(place.code), option.length());
            let message = format!("{label} is split, but has only {octets} octets");
            findings.push(OPTION_SPLIT_NEEDLESSLY.finding(message).on(option.around()));
        }
    }
}

check! { Message(mask_after_router),
    /// the subnet mask comes after the routers
    ///
    /// Clients that read in order set up the router before they know whether it is on their link.
    static MASK_AFTER_ROUTER = "mask-after-router", Error, Message(V4), "RFC 2132, section 3.3";
    v4_message("type = \"ack\"\nop = 2\nyiaddr = \"10.64.4.20\"\nchaddr = \"02:00:5e:00:53:11\"\n\
        after-header = \"63825363 350105 36040a400043 330400007080 03040a400401 0104fffffe00ff\"\n")
}

fn mask_after_router(context: &MessageContext<'_>, findings: &mut Findings) {
    if !(context.has(1) && context.has(3)) {
        return;
    }
    let starts = [1, 3].map(|code| context.position(code));
    if let Some(mask) = context.option(1).filter(|_| starts[0] > starts[1]) {
        let message = format!("{} comes after {}", context.label(1), context.label(3));
        findings.push(MASK_AFTER_ROUTER.finding(message).on(context.around(mask)));
    }
}

check! { Message(relay_information_misplaced),
    /// the relay's information is not the last option, or stands in a header field
    ///
    /// Relays that take it off again look for it at the end of the options field.
    static RELAY_INFORMATION_MISPLACED = "relay-information-misplaced", Warning, Message(V4), "RFC 3046, section 2.1";
    v4_message("chaddr = \"02:00:5e:00:53:11\"\ngiaddr = \"10.64.4.1\"\n\
        after-header = \"63825363 350101 52060104706f7274 0c06646f6d652d33 ff\"\n")
}

fn relay_information_misplaced(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some((message, _)) = context.v4() else { return };
    let Some(place) = context.option(82) else { return };
    let field = message.parts().find(|part| part.code == 82).map_or(v4::Field::Options, |part| part.field);
    let finding = |text: &str| RELAY_INFORMATION_MISPLACED.finding(text).on(context.around(place));
    let last = message.parts().filter(|part| part.field == v4::Field::Options).last().map(|part| part.code);
    if field != v4::Field::Options {
        let text = format!("it is in `{}`, where relay agents must not look", field.name());
        findings.push(finding(&text).as_severity(Severity::Error));
    } else if last != Some(82) {
        findings.push(finding("other options follow it"));
    }
}
