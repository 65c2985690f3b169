//! Rules about how messages and their options are framed.

use crate::check::context::MessageContext;
use crate::check::declare::{check, checks, ra_message, v4_message, v6_message};
use crate::finding::{Finding, Findings};
use crate::packet::v4::{self, COOKIE, Field, HEADER, SMALLEST};
use crate::packet::v6::RELAY_MESSAGE;
use crate::packet::{AnyMessage, Element, Message as _};

checks! {
    OPTION_CUT_SHORT, COOKIE_MISSING, MESSAGE_TOO_SHORT, END_OPTION_MISSING, OCTETS_AFTER_END, OVERLOAD_MISUSED,
    OVERLOAD_WITHOUT_OPTIONS, RELAYED_MESSAGE_MALFORMED, MESSAGE_TYPE_UNKNOWN, RA_OPTION_LENGTH_ZERO
}

check! { Message(option_cut_short),
    /// an option is longer than the rest of the message, or of its field
    ///
    /// The message was truncated, or a length is wrong. Nothing after it in that field can be read.
    static OPTION_CUT_SHORT = "option-cut-short", Error, Message(V4, V6, Ra), "RFC 2131, section 4.1";
    v4_message("chaddr = \"02:00:5e:00:53:11\"\nafter-header = \"63825363 350101 0cff646f6d652d33\"\n"),
    v6_message("type = \"reply\"\ntransaction = 7\noptions = { serverid = \"00:03:00:01:00:00:5e:00:53:01\" }\n\
        after-options = \"0017001020010db8\"\n"),
    ra_message("managed = true\nafter-options = \"0304\"\n")
}

fn option_cut_short(context: &MessageContext<'_>, findings: &mut Findings) {
    match context.message {
        AnyMessage::V4(_) if !context.has_odd_framing() => {}
        // Its options fill it to its last octet.
        AnyMessage::V6(_) | AnyMessage::Ra(_) if context.is_filled() => {}
        AnyMessage::V4(message) => {
            for element in message.elements() {
                let v4::Element::Overrun { code, field, length, octets } = element else { continue };
                let label = context.label(code.into());
                let message = match length {
                    Some(length) => {
                        let have = octets.len() - 2;
                        format!("{label} has length {length}, but `{}` has {have} octets left", field.name())
                    }
                    None => format!("`{}` ends before the length of {label}", field.name()),
                };
                findings.push(OPTION_CUT_SHORT.finding(message).on(octets));
            }
        }
        AnyMessage::V6(message) => {
            findings
                .extend(message.elements().filter_map(|element| cut_short(context, element, "RFC 8415, section 21.1")));
        }
        AnyMessage::Ra(message) => {
            findings
                .extend(message.elements().filter_map(|element| cut_short(context, element, "RFC 4861, section 4.6")));
        }
    }
}

fn cut_short(context: &MessageContext<'_>, element: Element<'_>, rfc: &str) -> Option<Finding> {
    let Element::Cut { at, octets, needed } = element else { return None };
    let message = format!("an option of {needed} octets begins here, but {octets} are left");
    Some(OPTION_CUT_SHORT.finding(message).by(rfc).on(context.at(at..at + octets)))
}

check! { Message(cookie_missing),
    /// the options do not begin with the magic cookie
    ///
    /// Receivers then look for no options after the header.
    static COOKIE_MISSING = "cookie-missing", Error, Message(V4), "RFC 2131, section 3";
    v4_message("chaddr = \"02:00:5e:00:53:11\"\nafter-header = \"00000000\"\n")
}

fn cookie_missing(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some((message, _header)) = context.v4() else { return };
    if !message.has_cookie() {
        let end = message.octets().len().min(HEADER + COOKIE.len());
        let finding = COOKIE_MISSING.finding("the magic cookie 63:82:53:63 is missing after the header");
        findings.push(finding.on(HEADER..end));
    }
}

check! { Message(message_too_short),
    /// a message of fewer than 300 octets
    ///
    /// DHCP sets no minimum length, but BOOTP does: relay agents and clients that enforce it drop shorter messages.
    static MESSAGE_TOO_SHORT = "message-too-short", Note, Message(V4), "RFC 1542, section 2.1";
    v4_message("type = \"discover\"\nchaddr = \"02:00:5e:00:53:11\"\nsmallest = 0\n[options]\nhostname = \"dome-3\"\n")
}

fn message_too_short(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some((message, _)) = context.v4() else { return };
    let length = message.octets().len();
    if length < SMALLEST {
        let finding = MESSAGE_TOO_SHORT.finding(format!("the message has {length} octets; BOOTP requires {SMALLEST}"));
        findings.push(finding.on(0..length).advice("pads (0) after the end, up to 300 octets"));
    }
}

check! { Message(end_option_missing),
    /// a field with options does not end with option 255
    ///
    /// Receivers cannot tell whether the message is complete; some read past its end.
    static END_OPTION_MISSING = "end-option-missing", Error, Message(V4), "RFC 2131, section 4.1";
    v4_message("chaddr = \"02:00:5e:00:53:11\"\nafter-header = \"63825363 350101 3d070102005e005311\"\n")
}

fn end_option_missing(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some((message, _)) = context.v4().filter(|_| context.has_odd_framing()) else { return };
    for element in message.elements() {
        let v4::Element::NoEnd { field, at } = element else { continue };
        let message = format!("the options in `{}` do not end in 255", field.name());
        findings.push(END_OPTION_MISSING.finding(message).on(at.saturating_sub(1)..at));
    }
}

check! { Message(octets_after_end),
    /// octets other than pads after the end option
    ///
    /// They are ignored. If options were intended, they are lost; if not, the sender leaks memory.
    static OCTETS_AFTER_END = "octets-after-end", Warning, Message(V4), "RFC 2132, section 3.2";
    v4_message("chaddr = \"02:00:5e:00:53:11\"\nafter-header = \"63825363 350101 ff 0c06646f6d652d33\"\n")
}

fn octets_after_end(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some((message, _)) = context.v4().filter(|_| context.has_odd_framing()) else { return };
    for element in message.elements() {
        let v4::Element::End { field, octets } = element else { continue };
        let after = octets.start + 1..octets.end;
        let Some(first) = message.octets()[after.clone()].iter().position(|octet| *octet != 0) else {
            continue;
        };
        let message = format!("octets follow the end option in `{}`", field.name());
        findings.push(OCTETS_AFTER_END.finding(message).on(after.start + first..after.end));
    }
}

check! { Message(overload_misused),
    /// option 52 is outside the options field, or a field it names does not begin with an option
    ///
    /// Receivers look for it in the options field only, and for options from the first octet of the field.
    static OVERLOAD_MISUSED = "overload-misused", Error, Message(V4), "RFC 2131, section 4.1";
    v4_message("chaddr = \"02:00:5e:00:53:11\"\nfile = { hex = \"00 0c06646f6d652d33 ff\" }\n\
        after-header = \"63825363 350101 340101 ff\"\n")
}

fn overload_misused(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some((seen, _)) = context.v4().filter(|_| context.has(52)) else { return };
    for part in seen.parts().filter(|part| part.code == 52 && part.field != Field::Options) {
        let message = format!("option 52 in `{}` is ignored", part.field.name());
        findings.push(OVERLOAD_MISUSED.finding(message).on(part.at..part.at + 2 + part.octets.len()));
    }
    for (field, octets, at) in overloaded(context) {
        if octets[0] == 0 {
            let message = format!("the options in `{}` do not begin at its first octet", field.name());
            findings.push(OVERLOAD_MISUSED.finding(message).on(at..at + 1));
        }
    }
}

check! { Message(overload_without_options),
    /// option 52 names a field that holds no option
    ///
    /// Receivers read the field as options, and no longer as a server name or boot file.
    static OVERLOAD_WITHOUT_OPTIONS = "overload-without-options", Warning, Message(V4), "RFC 2132, section 9.3";
    v4_message("chaddr = \"02:00:5e:00:53:11\"\nfile = { hex = \"ff\" }\n\
        after-header = \"63825363 350101 340101 ff\"\n")
}

fn overload_without_options(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some((_message, _)) = context.v4() else { return };
    for (field, octets, at) in overloaded(context) {
        if octets[0] == 255 {
            let message = format!("option 52 names `{}`, which holds no option", field.name());
            findings.push(OVERLOAD_WITHOUT_OPTIONS.finding(message).on(at..at + 1));
        }
    }
}

/// The header fields that hold options, and where they begin.
fn overloaded<'m>(context: &MessageContext<'m>) -> impl Iterator<Item = (Field, &'m [u8], usize)> + use<'m> {
    let bits = context.overload();
    let message = context.v4().map(|(message, _)| message).filter(|_| bits != 0);
    message.into_iter().flat_map(move |message| {
        let fields = [(1, Field::File, message.file(), 108), (2, Field::Sname, message.sname(), 44)];
        let used = fields.into_iter().filter(move |(bit, ..)| bits & bit != 0);
        used.map(|(_, field, octets, at)| (field, octets, at))
    })
}

check! { Message(relayed_message_malformed),
    /// the message in a Relay Message option is malformed
    ///
    /// The client's message, or the server's, is lost on the way.
    static RELAYED_MESSAGE_MALFORMED = "relayed-message-malformed", Error, Message(V6), "RFC 8415, section 21.10";
    v6_message("type = \"relay-forward\"\nlink = \"2001:db8:64:10::1\"\npeer = \"fe80::1\"\n\
        options = { relay-msg = \"0c:00:01:02\" }\n")
}

fn relayed_message_malformed(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some(message) = context.v6() else { return };
    if let Some((Err(error), at)) = message.relayed() {
        let end = at + message.option(RELAY_MESSAGE).map_or(0, |option| option.length());
        findings.push(RELAYED_MESSAGE_MALFORMED.finding(error.to_string()).on(at - 4..end));
    }
}

check! { Message(message_type_unknown),
    /// a DHCPv6 message of an undefined type
    ///
    /// Clients and servers must drop it.
    static MESSAGE_TYPE_UNKNOWN = "message-type-unknown", Error, Message(V6), "RFC 8415, section 16";
    v6_message("type = 200\n")
}

fn message_type_unknown(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some(message) = context.v6() else { return };
    if message.message_type().name().is_none() {
        let message = format!("message type {} is not defined", message.message_type().0);
        // Relay agents relay it (RFC 8415, section 19).
        findings.push(MESSAGE_TYPE_UNKNOWN.finding(message).borne().on(0..1));
    }
}

check! { Message(ra_option_length_zero),
    /// an option of an advertisement has the length 0
    ///
    /// Receivers drop the whole message, not the option alone.
    static RA_OPTION_LENGTH_ZERO = "ra-option-length-zero", Error, Message(Ra), "RFC 4861, section 4.6";
    ra_message("managed = true\nafter-options = \"0500000000000000\"\n")
}

fn ra_option_length_zero(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some(message) = context.ra() else { return };
    for element in message.elements() {
        if let Element::Empty { at } = element {
            let message = "the length of this option is 0; it must include the option's own 2 octets";
            findings.push(RA_OPTION_LENGTH_ZERO.finding(message).on(context.at(at..at + 2)));
        }
    }
}
