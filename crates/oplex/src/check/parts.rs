//! Rules about the parts of one option's value that need or rule out each other, and about text with a grammar of its own.

use super::formats::{field, number};
use super::{Check, Find};
use crate::finding::{Example, Rule, Severity};
use crate::layout::{Topic, Value};

pub(super) static CHECKS: [&Check; 8] = [
    &USER_CLASS_WITHOUT_LENGTHS,
    &NUL_WHERE_FORBIDDEN,
    &SCOPE_NOT_ESCAPED,
    &CIVIC_PART_FORM,
    &LOCATION_NOT_THE_CLIENTS,
    &AUTHENTICATION_MIXED,
    &RELAY_PART_ALONE,
    &REALM_NOT_CAPITAL,
];

static USER_CLASS_WITHOUT_LENGTHS: Check = Check {
    rule: Rule {
        name: "user-class-without-lengths",
        severity: Severity::Warning,
        rfc: "RFC 3004, section 4",
        summary: "option 77 holds text where each class should have its length in front",
        why: "Many clients send the bare text, so servers should match it whole. What reads the option by its RFC takes \
              the first letter for a length and finds nothing.",
        example: Example::Payload("v4:77", "646f6d6573"),
    },
    find: Find::Topics(&[Topic::Shape], |definition| definition.has_id("v4:77")),
};

static NUL_WHERE_FORBIDDEN: Check = Check {
    rule: Rule {
        name: "nul-where-forbidden",
        severity: Severity::Error,
        rfc: "",
        summary: "a NUL at the end of a text whose RFC forbids it outright",
        why: "Elsewhere receivers cut it off. Here they may take it for a part of the text, and compare unequal.",
        example: Example::Payload("v4:101", "4575726f70652f4f736c6f00"),
    },
    find: Find::Topics(&[Topic::Nul], |definition| {
        // RFC 6926, section 6.2.2; RFC 6607, section 3.5; RFC 3993, section 3.1; RFC 8910, section 2.1; RFC 4833, section 2.
        let forbidding = ["v4:151", "v4:221", "v4:114", "v4:100", "v4:101", "v4:82/6", "v4:82/151"];
        // RFC 8415, section 21.13; RFC 5970, sections 3.1 and 3.2; RFCs 6607, 8910 and 4833 as above.
        let of_dhcpv6 = ["v6:13", "v6:59", "v6:60", "v6:68", "v6:103", "v6:41", "v6:42"];
        forbidding.iter().chain(&of_dhcpv6).any(|id| definition.has_id(id))
    }),
};

static SCOPE_NOT_ESCAPED: Check = Check {
    rule: Rule {
        name: "scope-not-escaped",
        severity: Severity::Error,
        rfc: "RFC 2608, section 6.4.1",
        summary: "a service scope holds a character that must be written as backslash and two digits",
        why: "Agents that meet it take the list apart in another place than was meant, or drop it.",
        example: Example::Payload("v4:79", "0161286229"),
    },
    find: Find::Value(|one| {
        let Some(Value::Text(scopes)) = field(one.value, "scopes").filter(|_| one.is("v4:79")) else { return None };
        let wrong = unescaped(scopes)?;
        let finding = SCOPE_NOT_ESCAPED.rule.finding(format!("`{}` must be escaped in a scope", wrong.escape_debug()));
        Some(finding.instead(format!("\\{:02x}", u32::from(wrong))))
    }),
};

/// The first reserved character that no escape stands for.
fn unescaped(scopes: &str) -> Option<char> {
    let mut rest = scopes.chars();
    while let Some(c) = rest.next() {
        match c {
            '\\' if rest.clone().take(2).filter(char::is_ascii_hexdigit).count() == 2 => {
                rest.nth(1);
            }
            '(' | ')' | '\\' | '!' | '<' | '=' | '>' | '~' | ';' | '*' | '+' => return Some(c),
            c if c.is_control() => return Some(c),
            _ => {}
        }
    }
    None
}

static CIVIC_PART_FORM: Check = Check {
    rule: Rule {
        name: "civic-part-form",
        severity: Severity::Error,
        rfc: "RFC 4776, section 3.4",
        summary: "a script or an extension of a postal address is not in its form",
        why: "Whoever shows the address picks the rendering by its script, and finds extensions by their name space.",
        example: Example::Payload("v4:99", "024e4f80046c61746e"),
    },
    find: Find::Value(|one| {
        let Some(Value::List(elements)) = field(one.value, "elements").filter(|_| one.is("v4:99")) else { return None };
        elements.iter().find_map(|element| {
            let catype = field(element, "catype").and_then(number)?;
            let Some(Value::Text(text)) = field(element, "value") else { return None };
            match catype {
                128 if !is_script(text) => {
                    let finding = CIVIC_PART_FORM.rule.finding(format!("`{text}` is not the name of a script"));
                    Some(finding.instead("four letters, the first a capital: Latn"))
                }
                40 if text.splitn(3, ' ').filter(|part| !part.is_empty()).count() < 3 => {
                    let finding = CIVIC_PART_FORM.rule.finding(format!("`{text}` is not an extension's three parts"));
                    let finding = finding.by("RFC 6848, section 3.2");
                    Some(finding.instead("its name space, its name and its text, with a space between each"))
                }
                _ => None,
            }
        })
    }),
};

/// A tag of ISO 15924: `Latn`.
fn is_script(text: &str) -> bool {
    matches!(text.as_bytes(), [first, rest @ ..]
        if first.is_ascii_uppercase() && rest.len() == 3 && rest.iter().all(u8::is_ascii_lowercase))
}

static LOCATION_NOT_THE_CLIENTS: Check = Check {
    rule: Rule {
        name: "location-not-the-clients",
        severity: Severity::Warning,
        rfc: "RFC 4776, section 3.1",
        summary: "a postal address that is not the client's own",
        why: "It should be used only where the client is known to be close to that place: help is sent there.",
        example: Example::Payload("v4:99", "004e4f"),
    },
    find: Find::Value(|one| {
        let what = field(one.value, "what").filter(|what| one.is("v4:99") && number(what).is_some_and(|what| what < 2));
        what.map(|what| {
            let finding = LOCATION_NOT_THE_CLIENTS.rule.finding(format!("the address is that of the {what}"));
            finding.instead("what = client")
        })
    }),
};

static AUTHENTICATION_MIXED: Check = Check {
    rule: Rule {
        name: "authentication-mixed",
        severity: Severity::Error,
        rfc: "RFC 3118, section 6",
        summary: "the algorithm or the way of replay detection does not belong to the protocol",
        why: "The other side cannot tell how to verify the message, and drops it.",
        example: Example::Payload("v4:90", "0001000000000000000001746f6b656e"),
    },
    find: Find::Value(|one| {
        let part = |name| field(one.value, name).and_then(number);
        let (protocol, algorithm) = part("protocol").zip(part("algorithm")).filter(|_| one.is("v4:90"))?;
        // Protocol 3 and its algorithm: RFC 6704, section 3.1.2.
        let (wanted, rfc) = match protocol {
            0 => (0, "RFC 3118, section 6"),
            1 => (1, "RFC 3118, section 6"),
            3 => (1, "RFC 6704, section 3.1.2"),
            _ => return None,
        };
        let message = if algorithm != wanted {
            format!("algorithm {algorithm} with protocol {protocol}, which has {wanted}")
        } else if part("rdm").is_some_and(|rdm| rdm != 0) {
            format!("protocol {protocol} detects replays by a counter (0)")
        } else {
            return None;
        };
        Some(AUTHENTICATION_MIXED.rule.finding(message).by(rfc))
    }),
};

static RELAY_PART_ALONE: Check = Check {
    rule: Rule {
        name: "relay-part-alone",
        severity: Severity::Error,
        rfc: "",
        summary: "a relay's sub-option lacks the one that must come with it",
        why: "Servers must ignore it then, or cannot say whether they heeded it.",
        example: Example::Payload("v4:82", "0e046665666c"),
    },
    find: Find::Value(|one| {
        let Value::Options(parts) = one.value else { return None };
        let has = |code: u16| parts.iter().any(|part| part.code == code);
        if !one.is("v4:82") {
            return None;
        }
        let network = [14, 15, 16].into_iter().find(|code| has(*code) && !has(13));
        if let Some(code) = network {
            let finding =
                RELAY_PART_ALONE.rule.finding(format!("sub-option {code} without the access technology (13)"));
            return Some(finding.by("RFC 7839, section 7"));
        }
        // In an answer 151 stands alone, and that means it was heeded.
        (has(151) && !has(152)).then(|| {
            let finding = RELAY_PART_ALONE.rule.finding("a virtual subnet (151) without its control (152)");
            finding
                .as_severity(Severity::Note)
                .by("RFC 6607, section 5")
                .instead("152 beside it, unless a server sends this")
        })
    }),
};

static REALM_NOT_CAPITAL: Check = Check {
    rule: Rule {
        name: "realm-not-capital",
        severity: Severity::Error,
        rfc: "RFC 3495, section 5.5",
        summary: "a Kerberos realm with small letters",
        why: "Realms are compared letter by letter, and this one is defined to be in capitals.",
        example: Example::Payload("v4:122", "060a047465737403636f6d00"),
    },
    find: Find::Value(|one| {
        let Value::Options(parts) = one.value else { return None };
        let Value::Name(realm) = &parts.iter().find(|part| part.code == 6 && one.is("v4:122"))?.value else {
            return None;
        };
        realm
            .chars()
            .any(|c| c.is_ascii_lowercase())
            .then(|| REALM_NOT_CAPITAL.rule.finding(format!("{realm} has small letters")).instead(realm.to_uppercase()))
    }),
};
