//! Which option may stand where, and which must.

use super::super::{Check, Find};
use crate::codebook::Status;
use crate::finding::{Example, Rule, Severity};
use crate::packet::v6::MessageType;

pub(super) static CHECKS: [&Check; 4] = [&OPTION_OUT_OF_PLACE, &NOT_IN_THIS_MESSAGE, &MISSING, &SINGLE_STANDS_TWICE];

/// What clients send, and servers, in the order of their numbers from 1 to 13.
const EVERY: u16 = 0b11_1111_1111_1110;

/// The types of messages that an option may stand in, a bit for each: RFC 8415, appendix B, with section 18.2.8 (no
/// prefixes in a Decline), 18.2.9 (83 in an Advertise) and 21.13 (a status in a message of a client).
const ALLOWED: [(u16, &[u8]); 20] = [
    (1, &[1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11]),
    (2, &[2, 3, 5, 7, 8, 9, 10, 11]),
    (3, &[1, 2, 3, 4, 5, 6, 7, 8, 9]),
    (4, &[1, 2, 3, 4, 5, 6, 7, 8, 9]),
    (6, &[1, 3, 5, 6, 11]),
    (7, &[2]),
    (8, &[1, 3, 4, 5, 6, 8, 9, 11]),
    (9, &[12, 13]),
    (11, &[7, 10]),
    (12, &[7]),
    (14, &[1, 7]),
    (15, &[1, 2, 3, 4, 5, 6, 7, 8, 9, 11]),
    (16, &[1, 2, 3, 4, 5, 6, 7, 8, 9, 11]),
    (18, &[12, 13]),
    (19, &[10]),
    (20, &[1, 2, 3, 5, 6, 7, 11]),
    (25, &[1, 2, 3, 5, 6, 7, 8]),
    (32, &[7]),
    (82, &[2, 7]),
    (83, &[2, 7]),
];

/// What each type of message must have: RFC 8415, sections 16 and 18; RFC 5007, section 4; RFC 6977, section 6; RFC 7341,
/// section 9.
const NEEDED: [(u8, &[u16], &str); 17] = [
    (1, &[1, 8], "RFC 8415, section 18.2.1"),
    (2, &[1, 2], "RFC 8415, section 16.3"),
    (3, &[1, 2, 8, 6], "RFC 8415, section 18.2.2"),
    (4, &[1, 8], "RFC 8415, section 18.2.3"),
    (5, &[1, 2, 8, 6], "RFC 8415, section 18.2.4"),
    (6, &[1, 8, 6], "RFC 8415, section 18.2.5"),
    (7, &[2], "RFC 8415, section 16.10"),
    (8, &[1, 2, 8], "RFC 8415, section 18.2.7"),
    (9, &[1, 2, 8], "RFC 8415, section 18.2.8"),
    (10, &[1, 2, 19, 11], "RFC 8415, section 16.11"),
    (11, &[8, 6], "RFC 8415, section 18.2.6"),
    (12, &[9], "RFC 8415, section 9.1"),
    (13, &[9], "RFC 8415, section 9.2"),
    (14, &[1, 44], "RFC 5007, section 4.2.1"),
    (15, &[1, 2], "RFC 5007, section 4.2.2"),
    (20, &[87], "RFC 7341, section 9"),
    (21, &[87], "RFC 7341, section 9"),
];

static OPTION_OUT_OF_PLACE: Check = Check {
    rule: Rule {
        name: "option-out-of-place",
        severity: Severity::Error,
        rfc: "RFC 8415, section 21 and appendix C",
        summary: "a DHCPv6 option stands where it has no meaning: at the top, or in another that may not hold it",
        why: "Receivers pass over it, or over everything that it stands in.",
        example: Example::MessageV6(
            "type = \"reply\"\n[options]\nserverid = \"00:03:00:01:00:00:5e:00:53:01\"\n\
             iaaddr = { address = \"2001:db8:64:10::20\", preferred-lifetime = \"8h\", valid-lifetime = \"12h\", options = {} }\n",
        ),
    },
    find: Find::MessageV6(|seen, findings| {
        for place in &seen.options {
            let Some(definition) = seen.codebook.v6(place.code) else { continue };
            let around = place.inside.map_or(0, |outer| seen.options[outer].code);
            // Queries and failover partners have tables of their own.
            let other = EVERY >> seen.kind.0.min(15) & 1 == 0;
            let at_top_alone = definition.within.is_empty() && around == 0;
            // What a relay has a server pass on to the client stands at the top there (RFC 6422, section 4).
            if at_top_alone || definition.within.contains(&around) || around == 66 || other {
                continue;
            }
            let message = match around {
                0 => format!("{} stands at the top of a message", definition.label()),
                around => format!("{} stands in {}", definition.label(), seen.label(around)),
            };
            let places: Vec<String> = definition
                .within
                .iter()
                .map(|code| if *code == 0 { "the top of a message".to_owned() } else { seen.label(*code) })
                .collect();
            let instead = if places.is_empty() { "the top of a message".to_owned() } else { places.join(", ") };
            let finding = OPTION_OUT_OF_PLACE.rule.finding(message).instead(format!("in {instead}"));
            findings.push(finding.on(place.whole()));
        }
    }),
};

static NOT_IN_THIS_MESSAGE: Check = Check {
    rule: Rule {
        name: "not-in-this-v6-message",
        severity: Severity::Error,
        rfc: "RFC 8415, appendix B",
        summary: "a DHCPv6 option in a type of message that must not have it",
        why: "Receivers pass over the option, or drop the message.",
        example: Example::MessageV6(
            "type = \"solicit\"\n[options]\nclientid = \"00:03:00:01:02:00:5e:00:53:11\"\n\
             serverid = \"00:03:00:01:00:00:5e:00:53:01\"\nelapsed-time = 0\noro = [23, 82]\n",
        ),
    },
    find: Find::MessageV6(|seen, findings| {
        if EVERY >> seen.kind.0.min(15) & 1 == 0 {
            return;
        }
        for place in seen.top() {
            let Some((_, kinds)) = ALLOWED.iter().find(|(code, _)| *code == place.code) else { continue };
            if !kinds.contains(&seen.kind.0) {
                let message = format!("{} in {}", seen.label(place.code), seen.called());
                let names: Vec<String> = kinds.iter().map(|kind| MessageType(*kind).to_string()).collect();
                let finding = NOT_IN_THIS_MESSAGE.rule.finding(message);
                findings.push(finding.instead(format!("only in {}", names.join(", "))).on(place.whole()));
            }
        }
    }),
};

static MISSING: Check = Check {
    rule: Rule {
        name: "missing-in-v6-message",
        severity: Severity::Error,
        rfc: "RFC 8415, section 16",
        summary: "an option that every DHCPv6 message of this type has is not there",
        why: "The receiver drops the message.",
        example: Example::MessageV6("type = \"solicit\"\n[options]\nelapsed-time = 0\noro = [23, 82]\n"),
    },
    find: Find::MessageV6(|seen, findings| {
        let Some((_, codes, rfc)) = NEEDED.iter().find(|(kind, ..)| *kind == seen.kind.0) else { return };
        for code in codes.iter().filter(|code| !seen.top().any(|place| place.code == **code)) {
            let message = format!("{} has {}, and this has none", seen.called(), seen.label(*code));
            findings.push(MISSING.rule.finding(message).by(*rfc).on(0..seen.message.octets().len()));
        }
    }),
};

static SINGLE_STANDS_TWICE: Check = Check {
    rule: Rule {
        name: "single-stands-twice",
        severity: Severity::Error,
        rfc: "RFC 8415, section 21",
        summary: "a DHCPv6 option stands twice where it may stand once",
        why: "Nothing joins the two; some receivers take the first, some the last, some drop the message.",
        example: Example::MessageV6(
            "type = \"reply\"\noptions = [{ serverid = \"00:03:00:01:00:00:5e:00:53:01\", dns-servers = \"2001:db8:64::53\" }, { dns-servers = \"2001:db8:64::54\" }]\n",
        ),
    },
    find: Find::MessageV6(|seen, findings| {
        for (at, place) in seen.options.iter().enumerate() {
            let known =
                seen.codebook.v6(place.code).filter(|known| !known.several && known.status != Status::Unassigned);
            // A relay's Reconfigure-request names several clients (RFC 6977, section 6.3).
            let Some(definition) = known.filter(|_| !(place.code == 1 && seen.kind.0 == 18)) else { continue };
            let same = |other: &&super::Place| other.code == place.code && other.inside == place.inside;
            if let Some(first) = seen.options[..at].iter().rev().take(LOOKED_BACK).find(same) {
                let message =
                    format!("{} stands a second time, first at octet {}", definition.label(), first.whole().start);
                findings.push(SINGLE_STANDS_TWICE.rule.finding(message).on(place.whole()));
            }
        }
    }),
};

/// How far back an option is looked for: a message of a hundred thousand octets is no reason to look at all pairs.
const LOOKED_BACK: usize = 200;
