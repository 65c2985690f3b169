//! Rules about how options stand in a message's fields.

use super::super::{Check, Find};
use super::Seen;
use crate::finding::{Example, Rule, Severity};
use crate::packet::v4::{COOKIE, Field, HEADER, SMALLEST, Step};

pub(super) static CHECKS: [&Check; 7] = [
    &MESSAGE_WITHOUT_COOKIE,
    &MESSAGE_TOO_SHORT,
    &OPTION_OVERRUNS_FIELD,
    &OPTIONS_WITHOUT_END,
    &OCTETS_AFTER_END,
    &OVERLOAD_MISUSED,
    &OVERLOAD_FOR_NOTHING,
];

static MESSAGE_WITHOUT_COOKIE: Check = Check {
    rule: Rule {
        name: "message-without-cookie",
        severity: Severity::Error,
        rfc: "RFC 2131, section 3",
        summary: "the options do not begin with the magic cookie",
        why: "What follows the header is then anything, and no receiver looks for options in it.",
        example: Example::Message("chaddr = \"02:00:5e:00:53:11\"\nafter-header = \"00000000\"\n"),
    },
    find: Find::Message(|seen, findings| {
        if !seen.message.has_cookie() {
            let end = seen.message.octets().len().min(HEADER + COOKIE.len());
            let finding = MESSAGE_WITHOUT_COOKIE.rule.finding("after the header, 63:82:53:63 is missing");
            findings.push(finding.on(HEADER..end));
        }
    }),
};

static MESSAGE_TOO_SHORT: Check = Check {
    rule: Rule {
        name: "message-too-short",
        severity: Severity::Warning,
        rfc: "RFC 1542, section 2.1",
        summary: "a message of fewer than 300 octets",
        why: "DHCP sets no least length, but BOOTP does: relays and clients that keep to it drop shorter messages.",
        example: Example::Message(
            "type = \"discover\"\nchaddr = \"02:00:5e:00:53:11\"\nsmallest = 0\n[options]\nhostname = \"dome-3\"\n",
        ),
    },
    find: Find::Message(|seen, findings| {
        let length = seen.message.octets().len();
        if length < SMALLEST {
            let finding = MESSAGE_TOO_SHORT.rule.finding(format!("{length} octets, and BOOTP wants {SMALLEST}"));
            findings.push(finding.on(0..length).instead("pads (0) after the end, up to 300 octets"));
        }
    }),
};

static OPTION_OVERRUNS_FIELD: Check = Check {
    rule: Rule {
        name: "option-overruns-field",
        severity: Severity::Error,
        rfc: "RFC 2131, section 4.1",
        summary: "an option is longer than the field it stands in",
        why: "The message was cut off, or a length is wrong. Nothing after it in that field can be read.",
        example: Example::Message(
            "chaddr = \"02:00:5e:00:53:11\"\nafter-header = \"63825363 350101 0cff646f6d652d33\"\n",
        ),
    },
    find: Find::Message(|seen, findings| {
        for step in seen.message.steps() {
            let Step::Overrun { code, field, length, octets } = step else { continue };
            let label = seen.label(code);
            let message = match length {
                Some(length) => {
                    let have = octets.len() - 2;
                    format!("{label} should have {length} octets, and `{}` has {have} left", field.name())
                }
                None => format!("`{}` ends before the length of {label}", field.name()),
            };
            findings.push(OPTION_OVERRUNS_FIELD.rule.finding(message).on(octets));
        }
    }),
};

static OPTIONS_WITHOUT_END: Check = Check {
    rule: Rule {
        name: "options-without-end",
        severity: Severity::Error,
        rfc: "RFC 2131, section 4.1",
        summary: "a field with options does not end in 255",
        why: "Receivers cannot tell whether the message is whole; some read on into what they had in memory.",
        example: Example::Message(
            "chaddr = \"02:00:5e:00:53:11\"\nafter-header = \"63825363 350101 3d070102005e005311\"\n",
        ),
    },
    find: Find::Message(|seen, findings| {
        for step in seen.message.steps() {
            let Step::NoEnd { field, at } = step else { continue };
            let message = format!("the options in `{}` do not end in 255", field.name());
            findings.push(OPTIONS_WITHOUT_END.rule.finding(message).on(at.saturating_sub(1)..at));
        }
    }),
};

static OCTETS_AFTER_END: Check = Check {
    rule: Rule {
        name: "octets-after-end",
        severity: Severity::Warning,
        rfc: "RFC 2132, section 3.2",
        summary: "something other than pads after the end of the options",
        why: "Nobody reads it. If options were meant, they are lost; if not, memory of the sender leaks out.",
        example: Example::Message(
            "chaddr = \"02:00:5e:00:53:11\"\nafter-header = \"63825363 350101 ff 0c06646f6d652d33\"\n",
        ),
    },
    find: Find::Message(|seen, findings| {
        for step in seen.message.steps() {
            let Step::End { field, octets } = step else { continue };
            let after = octets.start + 1..octets.end;
            let Some(first) = seen.message.octets()[after.clone()].iter().position(|octet| *octet != 0) else {
                continue;
            };
            let message = format!("after the end of the options in `{}` there is more", field.name());
            findings.push(OCTETS_AFTER_END.rule.finding(message).on(after.start + first..after.end));
        }
    }),
};

static OVERLOAD_MISUSED: Check = Check {
    rule: Rule {
        name: "overload-misused",
        severity: Severity::Error,
        rfc: "RFC 2131, section 4.1",
        summary: "option 52 stands outside the options field, or a field it names does not begin with an option",
        why: "Receivers look for it in the options field only, and for options from the first octet on.",
        example: Example::Message(
            "chaddr = \"02:00:5e:00:53:11\"\nfile = { hex = \"00 0c06646f6d652d33 ff\" }\nafter-header = \"63825363 350101 340101 ff\"\n",
        ),
    },
    find: Find::Message(|seen, findings| {
        for part in seen.message.parts().filter(|part| part.code == 52 && part.field != Field::Options) {
            let message = format!("option 52 in `{}` is not looked at", part.field.name());
            findings.push(OVERLOAD_MISUSED.rule.finding(message).on(part.at..part.at + 2 + part.octets.len()));
        }
        for (field, octets, at) in overloaded(seen) {
            if octets[0] == 0 {
                let message = format!("the options in `{}` do not begin in its first octet", field.name());
                findings.push(OVERLOAD_MISUSED.rule.finding(message).on(at..at + 1));
            }
        }
    }),
};

static OVERLOAD_FOR_NOTHING: Check = Check {
    rule: Rule {
        name: "overload-for-nothing",
        severity: Severity::Warning,
        rfc: "RFC 2132, section 9.3",
        summary: "option 52 names a field that holds no option",
        why: "Receivers take the field for options and no longer for the name of a server or a boot file.",
        example: Example::Message(
            "chaddr = \"02:00:5e:00:53:11\"\nfile = { hex = \"ff\" }\nafter-header = \"63825363 350101 340101 ff\"\n",
        ),
    },
    find: Find::Message(|seen, findings| {
        for (field, octets, at) in overloaded(seen) {
            if octets[0] == 255 {
                let message = format!("option 52 says that `{}` holds options, and it holds none", field.name());
                findings.push(OVERLOAD_FOR_NOTHING.rule.finding(message).on(at..at + 1));
            }
        }
    }),
};

/// The header fields that hold options, and where they begin.
fn overloaded<'m>(seen: &Seen<'m>) -> impl Iterator<Item = (Field, &'m [u8], usize)> {
    let (bits, message) = (seen.message.overload(), seen.message);
    let fields = [(1, Field::File, message.file(), 108), (2, Field::Sname, message.sname(), 44)];
    fields.into_iter().filter(move |(bit, ..)| bits & bit != 0).map(|(_, field, octets, at)| (field, octets, at))
}
