//! Rules about the header.

use super::super::{Check, Find};
use super::{ADDRESSES, Seen, address};
use crate::finding::{Example, Finding, Rule, Severity};
use crate::octets::hex;
use crate::packet::v4::{Header, MessageOption, MessageType};

pub(super) static CHECKS: [&Check; 9] = [
    &OP_WRONG,
    &HARDWARE_LENGTH_WRONG,
    &HARDWARE_PADDING_USED,
    &FLAGS_RESERVED,
    &TOO_MANY_HOPS,
    &HEADER_FIELD_NOT_ZERO,
    &HEADER_ADDRESS_MISSING,
    &HEADER_TEXT_WITHOUT_END,
    &BOOT_SAID_TWICE,
];

/// Where things stand in the header (RFC 2131, section 2).
const OP: usize = 0;
const HLEN: usize = 2;
const HOPS: usize = 3;
const SECS: usize = 8;
const FLAGS: usize = 10;
const CHADDR: usize = 28;

static OP_WRONG: Check = Check {
    rule: Rule {
        name: "op-wrong",
        severity: Severity::Error,
        rfc: "RFC 2131, section 2",
        summary: "the header's op is neither request nor reply, or not what the message's type is",
        why: "Relays and clients sort messages by it alone, and this one goes to the wrong side or nowhere.",
        example: Example::Message("type = \"discover\"\nop = 2\nchaddr = \"02:00:5e:00:53:11\"\n"),
    },
    find: Find::Message(|seen, findings| {
        let op = seen.header.op;
        let wanted = seen.message_type.and_then(MessageType::is_reply).map(|reply| if reply { 2 } else { 1 });
        let finding = match wanted {
            _ if !matches!(op, 1 | 2) => {
                OP_WRONG.rule.finding(format!("op is {op}")).instead("1 (request) or 2 (reply)")
            }
            Some(wanted) if op != wanted => {
                OP_WRONG.rule.finding(format!("op is {op} in {}", seen.called())).instead(wanted.to_string())
            }
            _ => return,
        };
        findings.push(finding.on(OP..OP + 1));
    }),
};

static HARDWARE_LENGTH_WRONG: Check = Check {
    rule: Rule {
        name: "hardware-length-wrong",
        severity: Severity::Error,
        rfc: "RFC 2131, section 2",
        summary: "the length of the hardware address is not the one its kind has",
        why: "Servers take that many octets for the client, so that it gets another's lease, or none.",
        example: Example::Message("type = \"discover\"\nhlen = 16\nchaddr = \"02:00:5e:00:53:11\"\n"),
    },
    find: Find::Message(|seen, findings| {
        let Header { htype, hlen, .. } = seen.header;
        let (wanted, rfc) = match htype {
            1 => (6, "RFC 2131, section 2"),
            24 => (0, "RFC 2855, section 3"),
            32 => (0, "RFC 4390, section 2.1"),
            _ if hlen > 16 => (16, "RFC 2131, section 2"),
            _ => return,
        };
        if hlen != wanted {
            let finding = HARDWARE_LENGTH_WRONG.rule.finding(format!("hlen is {hlen} with hardware of type {htype}"));
            let at_most = if matches!(htype, 1 | 24 | 32) { "" } else { " at most" };
            findings.push(finding.by(rfc).on(HLEN..HLEN + 1).instead(format!("{wanted}{at_most}")));
        }
    }),
};

static HARDWARE_PADDING_USED: Check = Check {
    rule: Rule {
        name: "hardware-padding-used",
        severity: Severity::Note,
        rfc: "RFC 2131, section 2",
        summary: "octets after the end of the hardware address are not zero",
        why: "No RFC demands zeros, but a server that compares all sixteen octets takes it for another client.",
        example: Example::Message("type = \"discover\"\nchaddr = \"02:00:5e:00:53:11:ff\"\n"),
    },
    find: Find::Message(|seen, findings| {
        let length = seen.header.hardware().len();
        let rest = &seen.header.chaddr[length..];
        if let Some(first) = rest.iter().position(|octet| *octet != 0) {
            let shown = hex::colon(&rest[first..]);
            let finding = HARDWARE_PADDING_USED.rule.finding(format!("after the hardware address stands {shown}"));
            findings.push(finding.on(CHADDR + length + first..CHADDR + 16));
        }
    }),
};

static FLAGS_RESERVED: Check = Check {
    rule: Rule {
        name: "flags-reserved",
        severity: Severity::Warning,
        rfc: "RFC 2131, section 2",
        summary: "a bit of the header's flags other than the first is set",
        why: "Clients must leave them zero, and servers and relays pass over them: whatever it means, nobody heeds it.",
        example: Example::Message("type = \"discover\"\nflags = 0x8001\nchaddr = \"02:00:5e:00:53:11\"\n"),
    },
    find: Find::Message(|seen, findings| {
        let odd = seen.header.flags & !Header::BROADCAST;
        if odd != 0 {
            let finding = FLAGS_RESERVED.rule.finding(format!("the flags {odd:#06x} have no meaning"));
            findings.push(finding.on(FLAGS..FLAGS + 2).instead("0x8000 (broadcast) or 0"));
        }
    }),
};

static TOO_MANY_HOPS: Check = Check {
    rule: Rule {
        name: "too-many-hops",
        severity: Severity::Error,
        rfc: "RFC 1542, section 4.1.1",
        summary: "more than 16 relays passed the message on",
        why: "It goes round in a circle; every relay must drop it now.",
        example: Example::Message("type = \"discover\"\nhops = 17\nchaddr = \"02:00:5e:00:53:11\"\n"),
    },
    find: Find::Message(|seen, findings| {
        let hops = seen.header.hops;
        if hops > 16 {
            findings.push(TOO_MANY_HOPS.rule.finding(format!("hops is {hops}")).on(HOPS..HOPS + 1));
        }
    }),
};

static HEADER_FIELD_NOT_ZERO: Check = Check {
    rule: Rule {
        name: "header-field-not-zero",
        severity: Severity::Warning,
        rfc: "RFC 2131, section 4.4.1, table 5",
        summary: "a header field holds something in a message that leaves it zero",
        why: "Receivers should pass over it. Some do not, and act on an address nobody gave.",
        example: Example::Message("type = \"discover\"\nciaddr = \"10.64.4.20\"\nchaddr = \"02:00:5e:00:53:11\"\n"),
    },
    find: Find::Message(|seen, findings| {
        let Some(message_type) = seen.message_type else { return };
        let (zero, rfc): (&[&str], &str) = match message_type {
            MessageType::DISCOVER => (&["ciaddr", "yiaddr", "siaddr"], "RFC 2131, section 4.4.1, table 5"),
            MessageType::DECLINE => (&["ciaddr", "yiaddr", "siaddr", "secs"], "RFC 2131, section 4.4.1, table 5"),
            MessageType::RELEASE => (&["yiaddr", "siaddr", "secs"], "RFC 2131, section 4.4.1, table 5"),
            MessageType::REQUEST | MessageType::INFORM => (&["yiaddr", "siaddr"], "RFC 2131, section 4.4.1, table 5"),
            MessageType::OFFER => (&["ciaddr", "secs", "hops"], "RFC 2131, section 4.3.1, table 3"),
            MessageType::ACK => (&["secs", "hops"], "RFC 2131, section 4.3.1, table 3"),
            MessageType::NAK => (&["ciaddr", "yiaddr", "siaddr", "secs", "hops"], "RFC 2131, section 4.3.1, table 3"),
            _ => return,
        };
        for name in zero {
            findings.extend(not_zero(seen, name).map(|finding| finding.by(rfc)));
        }
    }),
};

fn not_zero(seen: &Seen<'_>, name: &str) -> Option<Finding> {
    let Header { secs, hops, .. } = seen.header;
    let (shown, octets) = match name {
        "secs" if secs != 0 => (secs.to_string(), SECS..SECS + 2),
        "hops" if hops != 0 => (hops.to_string(), HOPS..HOPS + 1),
        "secs" | "hops" => return None,
        _ => {
            let (_, at) = ADDRESSES.into_iter().find(|(known, _)| *known == name)?;
            let address = address(&seen.header, name);
            (!address.is_unspecified()).then(|| (address.to_string(), at..at + 4))?
        }
    };
    Some(HEADER_FIELD_NOT_ZERO.rule.finding(format!("{name} is {shown} in {}", seen.called())).on(octets))
}

static HEADER_ADDRESS_MISSING: Check = Check {
    rule: Rule {
        name: "header-address-missing",
        severity: Severity::Error,
        rfc: "RFC 2131, section 4.3.1, table 3",
        summary: "the address that a message is about is not in its header",
        why: "An offer without an address is no offer, and a release without one gives nothing back.",
        example: Example::Message(
            "type = \"offer\"\nchaddr = \"02:00:5e:00:53:11\"\n[options]\ndhcp-server-id = \"10.64.0.67\"\naddress-time = \"8h\"\n",
        ),
    },
    find: Find::Message(|seen, findings| {
        let zero = |name| address(&seen.header, name).is_unspecified();
        // Without an address come only the offers of RFC 2563, section 2.3, RFC 8925, section 3.3 and RFC 6656,
        // section 4.2. An acknowledgement of an information request names the client's own address or none.
        let may_be_absent = [116, 108, 220].iter().any(|code| seen.message.has(*code));
        let (name, rfc) = match seen.message_type {
            Some(MessageType::OFFER) if zero("yiaddr") && !may_be_absent => {
                ("yiaddr", "RFC 2131, section 4.3.1, table 3")
            }
            Some(MessageType::ACK) if zero("yiaddr") && seen.message.has(51) && !may_be_absent => {
                ("yiaddr", "RFC 2131, section 4.3.1, table 3")
            }
            Some(MessageType::RELEASE | MessageType::INFORM) if zero("ciaddr") => {
                ("ciaddr", "RFC 2131, section 4.4.1, table 5")
            }
            Some(MessageType::LEASEQUERY) if zero("giaddr") => ("giaddr", "RFC 4388, section 6.3"),
            _ => return,
        };
        let at = ADDRESSES.iter().find(|(known, _)| *known == name).map_or(0, |(_, at)| *at);
        let finding = HEADER_ADDRESS_MISSING.rule.finding(format!("{} has no {name}", seen.called()));
        findings.push(finding.by(rfc).on(at..at + 4));
    }),
};

static HEADER_TEXT_WITHOUT_END: Check = Check {
    rule: Rule {
        name: "header-text-without-end",
        severity: Severity::Warning,
        rfc: "RFC 2131, section 2",
        summary: "`sname` or `file` holds text up to its last octet, without a NUL",
        why: "Receivers that look for the NUL read on into the next field.",
        example: Example::Message(
            "type = \"discover\"\nchaddr = \"02:00:5e:00:53:11\"\nsname = { hex = \"61616161616161616161616161616161616161616161616161616161616161616161\
             616161616161616161616161616161616161616161616161616161616161\" }\n",
        ),
    },
    find: Find::Message(|seen, findings| {
        let (bits, message) = (seen.message.overload(), seen.message);
        for (bit, name, octets, at) in [(1, "file", message.file(), 108), (2, "sname", message.sname(), 44)] {
            if bits & bit == 0 && !octets.contains(&0) {
                let finding = HEADER_TEXT_WITHOUT_END.rule.finding(format!("`{name}` has no NUL in it"));
                findings.push(finding.on(at..at + octets.len()));
            }
        }
    }),
};

static BOOT_SAID_TWICE: Check = Check {
    rule: Rule {
        name: "boot-said-twice",
        severity: Severity::Warning,
        rfc: "RFC 2132, sections 9.4 and 9.5",
        summary: "a header field names another boot server or file than the option for it (66, 67)",
        why: "The options are for messages whose header fields hold options. Some devices read the field, some the option.",
        example: Example::Message(
            "type = \"offer\"\nchaddr = \"02:00:5e:00:53:11\"\nyiaddr = \"10.64.4.20\"\nfile = \"domes/old.efi\"\n[options]\n\
             dhcp-server-id = \"10.64.0.67\"\naddress-time = \"8h\"\nbootfile-name = \"domes/controller.efi\"\n",
        ),
    },
    find: Find::Message(|seen, findings| {
        let (bits, message) = (seen.message.overload(), seen.message);
        for (bit, name, octets, at, code) in
            [(1, "file", message.file(), 108, 67), (2, "sname", message.sname(), 44, 66)]
        {
            let field = octets.split(|octet| *octet == 0).next().unwrap_or_default();
            let option = seen.message.option(code).filter(|_| bits & bit == 0 && !field.is_empty());
            let Some(option) = option.as_ref().map(MessageOption::joined) else { continue };
            let end = option.iter().rposition(|octet| *octet != 0).map_or(0, |last| last + 1);
            if option[..end] != *field {
                let [field, option] = [field, &option[..end]].map(|text| String::from_utf8_lossy(text).into_owned());
                let message = format!("`{name}` says `{field}`, and option {code} `{option}`");
                findings.push(BOOT_SAID_TWICE.rule.finding(message).on(at..at + octets.len()));
            }
        }
    }),
};
