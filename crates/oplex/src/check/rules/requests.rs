//! Rules about what clients request, and how.

use crate::check::context::MessageContext;
use crate::check::declare::{OptionValue, check, checks, v4_message, v6_message};
use crate::codebook::{Definition, MessageFactKind};
use crate::family::Protocol;
use crate::finding::{Finding, Findings};
use crate::octets::number;
use crate::packet::v4::MessageType;
use crate::packet::v6;

checks! { OPTION_NOT_REQUESTABLE, REQUEST_LIST_INCOMPLETE, REQUEST_WITHOUT_STATE, LEASEQUERY_KEYS_WRONG }

check! { MessageAndValue(option_not_requestable, |_, definition| list_of(definition).is_some(), not_requestable_alone),
    /// a client requests options that cannot be requested
    ///
    /// Servers send them where they belong, and some drop a message that requests them.
    static OPTION_NOT_REQUESTABLE = "option-not-requestable", Error, Message(V4, V6), "RFC 8415, section 21.7";
    v6_message("type = \"information-request\"\noptions = { elapsed-time = 0, oro = [1, 23, 32, 83] }\n")
}

fn option_not_requestable(context: &MessageContext<'_>, findings: &mut Findings) {
    // What lists the codes that a client requests, and in how many octets each.
    let (list, octets) = match context.protocol() {
        Protocol::V4 => (55, 1),
        Protocol::V6 => (6, 2),
        Protocol::Ra => return,
    };
    for place in context.top().filter(|place| place.code == list) {
        for (index, code) in requested(&place.octets, octets).enumerate() {
            let definition = context.codebook.own(context.protocol(), code);
            let Some((definition, rfc)) = definition.and_then(|definition| barred(context, definition)) else {
                continue;
            };
            let at = match context.split(place) {
                Some(option) => option.position(octets * index),
                None => place.around.end - place.octets.len() + octets * index,
            };
            let finding = OPTION_NOT_REQUESTABLE.finding(format!("{} is requested", context.label(code)));
            let finding = finding.advice("remove it").on(at..at + octets);
            let rfc = rfc.or_else(|| (!definition.is_standard()).then_some(&*definition.reference));
            findings.push(match rfc {
                Some(rfc) => finding.by(rfc),
                None => finding,
            });
        }
    }
}

/// The same of a list that stands in no message.
/// Whose options a list of codes requests, and in how many octets each.
fn list_of(definition: &Definition) -> Option<(Protocol, usize)> {
    match definition.code {
        6 => Some((Protocol::V6, 2)),
        55 => Some((Protocol::V4, 1)),
        _ => None,
    }
    .filter(|(protocol, _)| definition.is_own_of(*protocol))
}

fn not_requestable_alone(one: &OptionValue<'_>) -> Option<Finding> {
    let (protocol, octets) = list_of(one.definition)?;
    let codes = requested(one.octets, octets).enumerate();
    let mut known = codes.filter_map(|(at, code)| Some((at, one.view.codebook.own(protocol, code)?)));
    let (at, wrong) = known.find(|(_, known)| !known.requestable && one.view.message.is_none())?;
    let finding = OPTION_NOT_REQUESTABLE.finding(format!("{} is requested", wrong.label())).advice("remove it");
    Some(finding.by("RFC 8415, section 21.7").on(at * octets..(at + 1) * octets))
}

/// An option that may not be requested in this message, and what says so of this one.
fn barred<'d>(context: &MessageContext<'_>, definition: &'d Definition) -> Option<(&'d Definition, Option<&'d str>)> {
    let facts = || context.kind.into_iter().flat_map(|kind| definition.in_message(kind));
    let says = |kind| facts().find(|fact| fact.kind == kind);
    if let Some(fact) = says(MessageFactKind::Unrequestable) {
        return Some((definition, Some(&*fact.reference)));
    }
    let barred = !definition.requestable && says(MessageFactKind::Requestable).is_none();
    barred.then_some((definition, None))
}

/// The codes in an option request, each in one octet or two.
fn requested(octets: &[u8], each: usize) -> impl Iterator<Item = u16> + Clone {
    octets.chunks_exact(each).map(|code| number(code) as u16)
}

check! { Message(request_list_incomplete),
    /// a client does not request the options that its message type must request
    ///
    /// The server cannot tell it to retry less often, or to refresh its settings.
    static REQUEST_LIST_INCOMPLETE = "request-list-incomplete", Warning, Message(V6),
        "RFC 8415, sections 18.2.1, 18.2.2 and 18.2.6";
    v6_message("type = \"information-request\"\noptions = { elapsed-time = 0, oro = [23, 83] }\n")
}

fn request_list_incomplete(context: &MessageContext<'_>, findings: &mut Findings) {
    let wanted: &[u16] = match context.kind.map(v6::MessageType) {
        Some(v6::MessageType::SOLICIT | v6::MessageType::REQUEST) => &[82],
        Some(v6::MessageType::INFORMATION_REQUEST) => &[32, 83],
        _ => return,
    };
    let Some(place) = context.option(6) else { return };
    let list = requested(&place.octets, 2);
    let lists = |wanted: &u16| list.clone().any(|code| code == *wanted);
    for code in wanted.iter().filter(|code| !lists(code)) {
        let message = format!("{} must request {}", context.called(), context.label(*code));
        findings.push(REQUEST_LIST_INCOMPLETE.finding(message).on(context.around(place)));
    }
    // Of a home network all is requested, or nothing.
    let home = [50, 69, 70].into_iter().find(&lists);
    for part in home.into_iter().flat_map(|_| [49, 71, 72, 73]).filter(|part| !lists(part)) {
        let message =
            format!("who requests {} must request {}", context.label(home.unwrap_or_default()), context.label(part));
        let finding = REQUEST_LIST_INCOMPLETE.finding(message).by("RFC 6610, section 4.1.1");
        findings.push(finding.on(context.around(place)));
    }
}

check! { Message(request_without_state),
    /// a DHCPREQUEST that fits no client state
    ///
    /// Servers use 50, 54 and ciaddr to tell selecting, rebooting and renewing clients apart. They cannot classify this
    /// one, and do not answer.
    static REQUEST_WITHOUT_STATE = "request-without-state", Error, Message(V4), "RFC 2131, section 4.3.6, table 4";
    v4_message("type = \"request\"\nchaddr = \"02:00:5e:00:53:11\"\n[options]\nhostname = \"dome-3\"\n")
}

fn request_without_state(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some((_message, header)) = context.v4() else { return };
    if !context.is(MessageType::REQUEST.0) {
        return;
    }
    let has = |code| context.has(code);
    let message = match (has(54), has(50), !header.ciaddr.is_unspecified()) {
        (true, true, false) | (false, true, false) | (false, false, true) => return,
        (true, _, true) => "it selects an offer (54) and renews an address (ciaddr) at once",
        (true, false, false) => "it selects an offer (54), but has no requested address (50)",
        (false, true, true) => "it requests an address (50) and renews one (ciaddr) at once",
        (false, false, false) => "it has no server identifier (54), requested address (50) or ciaddr",
    };
    // Where all are missing there is nothing to point at.
    let place = context.option(54).or_else(|| context.option(50)).map(|place| context.around(place));
    findings.push(REQUEST_WITHOUT_STATE.finding(message).on_some(place));
}

check! { Message(leasequery_keys_wrong),
    /// a DHCPLEASEQUERY has more than one key, or none
    ///
    /// It queries by address, hardware address or client identifier; with two keys, servers give different answers.
    static LEASEQUERY_KEYS_WRONG = "leasequery-keys-wrong", Error, Message(V4), "RFC 4388, section 6.3";
    v4_message("type = \"leasequery\"\nciaddr = \"10.64.4.20\"\ngiaddr = \"10.64.4.1\"\n\
        chaddr = \"02:00:5e:00:53:11\"\n")
}

fn leasequery_keys_wrong(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some((_, header)) = context.v4().filter(|_| context.is(MessageType::LEASEQUERY.0)) else { return };
    let by = [
        ("ciaddr", !header.ciaddr.is_unspecified()),
        ("chaddr", header.chaddr != [0; 16]),
        ("client-id (61)", context.has(61)),
    ];
    let keys: Vec<&str> = by.into_iter().filter(|(_, is)| *is).map(|(name, _)| name).collect();
    // RFC 6148, section 4.1: a remote identifier (82) may be the key when nothing else is.
    if keys.len() > 1 || (keys.is_empty() && !context.has(82)) {
        let message = match &keys[..] {
            [] => "it has no key".to_owned(),
            keys => format!("it has the keys {}", keys.join(" and ")),
        };
        let octets = Some(context.whole()).filter(|_| !keys.is_empty());
        findings.push(LEASEQUERY_KEYS_WRONG.finding(message).on_some(octets));
    }
}
