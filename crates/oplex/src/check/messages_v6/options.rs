//! Rules about what options of one DHCPv6 message say together.

use std::collections::HashMap;

use super::super::{Check, Find};
use super::Place;
use crate::finding::{Example, Rule, Severity};
use crate::layout::duration_text;
use crate::packet::v6::MessageType;

pub(super) static CHECKS: [&Check; 7] = [
    &EXCLUDED_PREFIX,
    &IDENTITY_TWICE,
    &IDENTITY_TIMES,
    &REQUEST_NAMES_UNASKABLE,
    &REQUEST_LACKS,
    &REFRESH_WITH_ADDRESSES,
    &ENTERPRISE_STANDS_TWICE,
];

/// Identity associations with T1 and T2, and those with an identity at least.
const WITH_TIMES: [u16; 3] = [3, 25, 138];
const WITH_IDENTITY: [u16; 4] = [3, 4, 25, 138];

static IDENTITY_TWICE: Check = Check {
    rule: Rule {
        name: "identity-stands-twice",
        severity: Severity::Error,
        rfc: "RFC 8415, section 12",
        summary: "two identity associations of a kind have the same identity",
        why: "Which of the two an answer belongs to cannot be told.",
        example: Example::MessageV6(
            "type = \"solicit\"\noptions = [{ clientid = \"00:03:00:01:02:00:5e:00:53:11\", elapsed-time = 0, oro = [23, 82] }, \
             { ia-na = { iaid = 1, t1 = 0, t2 = 0, options = {} } }, { ia-na = { iaid = 1, t1 = 0, t2 = 0, options = {} } }]\n",
        ),
    },
    find: Find::MessageV6(|seen, findings| {
        let mut known: HashMap<(u16, u32, Option<usize>), usize> = HashMap::new();
        for place in seen.options.iter().filter(|place| WITH_IDENTITY.contains(&place.code)) {
            let Some(identity) = seen.long(place, 0) else { continue };
            if let Some(first) = known.insert((place.code, identity, place.inside), place.whole().start) {
                let message =
                    format!("{} has the identity {identity} of the one at octet {first}", seen.label(place.code));
                findings.push(IDENTITY_TWICE.rule.finding(message).on(place.payload.start..place.payload.start + 4));
            }
        }
    }),
};

static EXCLUDED_PREFIX: Check = Check {
    rule: Rule {
        name: "excluded-prefix-does-not-fit",
        severity: Severity::Error,
        rfc: "RFC 6603, section 4.2",
        summary: "a prefix left out of one that is handed on is not longer, or has too few or too many octets",
        why: "The router cannot tell which prefix to leave to the link it came by, and numbers its own network with it.",
        example: Example::MessageV6(
            "type = \"reply\"\n[options]\nserverid = \"00:03:00:01:00:00:5e:00:53:01\"\n\
             ia-pd = { iaid = 1, t1 = \"4h\", t2 = \"6h\", options = { iaprefix = { preferred-lifetime = \"8h\", valid-lifetime = \"12h\", \
             prefix-length = 56, prefix = \"2001:db8:64:100::\", options = { pd-exclude = { prefix-length = 56, subnet-id = \"01\" } } } } }\n",
        ),
    },
    find: Find::MessageV6(|seen, findings| {
        for place in seen.options.iter().filter(|place| place.code == 67) {
            let outer = place.inside.map(|at| &seen.options[at]).filter(|outer| outer.code == 26);
            let lengths = outer.and_then(|outer| Some((*seen.octets(outer).get(8)?, *seen.octets(place).first()?)));
            let Some((outer, length)) = lengths else { continue };
            let has = place.payload.len() - 1;
            let needed = usize::from(length.saturating_sub(outer)).div_ceil(8);
            let message = if length <= outer {
                format!("a prefix of {length} bits cannot be left out of one of {outer}")
            } else if has != needed {
                let octets = if needed == 1 { "1 octet" } else { &format!("{needed} octets") };
                format!("a prefix of {length} bits in one of {outer} is told by {octets}, and {has} stand here")
            } else {
                continue;
            };
            findings.push(EXCLUDED_PREFIX.rule.finding(message).on(place.whole()));
        }
    }),
};

static IDENTITY_TIMES: Check = Check {
    rule: Rule {
        name: "v6-times-out-of-order",
        severity: Severity::Error,
        rfc: "RFC 8415, sections 21.4, 21.6, 21.21 and 21.22",
        summary: "T1 comes after T2, or an address is preferred for longer than it is valid",
        why: "Clients drop the whole association, or the address.",
        example: Example::MessageV6(
            "type = \"reply\"\n[options]\nserverid = \"00:03:00:01:00:00:5e:00:53:01\"\nia-na = { iaid = 1, t1 = \"8h\", t2 = \"4h\", options = {} }\n",
        ),
    },
    find: Find::MessageV6(|seen, findings| {
        for place in &seen.options {
            // Where the earlier and the later time stand, and what they are called.
            let (first, then, names) = match place.code {
                code if WITH_TIMES.contains(&code) => (4, 8, ("T1", "T2")),
                5 => (16, 20, ("the preferred lifetime", "the valid lifetime")),
                26 => (0, 4, ("the preferred lifetime", "the valid lifetime")),
                _ => continue,
            };
            let (Some(earlier), Some(later)) = (seen.long(place, first), seen.long(place, then)) else { continue };
            // Of T1 and T2, zero leaves the time to the client.
            let open = WITH_TIMES.contains(&place.code) && (earlier == 0 || later == 0);
            if earlier > later && !open {
                let [shorter, longer] = [later, earlier].map(duration_text);
                let message = format!("{} is {longer}, and {} is {shorter}", names.0, names.1);
                let octets = place.payload.start + first..place.payload.start + then + 4;
                findings.push(
                    IDENTITY_TIMES.rule.finding(message).instead(format!("{} up to {shorter}", names.0)).on(octets),
                );
            }
        }
    }),
};

/// Codes that no client may ask for (RFC 8415, section 21.7).
const UNASKABLE: [u16; 20] = [1, 2, 3, 4, 5, 6, 7, 8, 9, 11, 12, 13, 14, 15, 16, 18, 19, 20, 25, 26];

fn asked(octets: &[u8]) -> impl Iterator<Item = u16> {
    octets.chunks_exact(2).map(|pair| u16::from_be_bytes([pair[0], pair[1]]))
}

static REQUEST_NAMES_UNASKABLE: Check = Check {
    rule: Rule {
        name: "asks-for-unaskable",
        severity: Severity::Error,
        rfc: "RFC 8415, section 21.7",
        summary: "a client asks for options that are never sent because somebody asked",
        why: "Servers send them where they belong, and some drop a message that asks for them.",
        example: Example::MessageV6(
            "type = \"information-request\"\noptions = { elapsed-time = 0, oro = [1, 23, 32, 83] }\n",
        ),
    },
    find: Find::MessageV6(|seen, findings| {
        for place in seen.top().filter(|place| place.code == 6) {
            for (index, code) in asked(seen.octets(place)).enumerate().filter(|(_, code)| UNASKABLE.contains(code)) {
                let at = place.payload.start + 2 * index;
                let message = format!("{} is asked for", seen.label(code));
                findings.push(REQUEST_NAMES_UNASKABLE.rule.finding(message).instead("leave it out").on(at..at + 2));
            }
        }
    }),
};

static REQUEST_LACKS: Check = Check {
    rule: Rule {
        name: "does-not-ask-for-times",
        severity: Severity::Warning,
        rfc: "RFC 8415, sections 18.2.1, 18.2.2 and 18.2.6",
        summary: "a client does not ask for the times by which it is to ask again",
        why: "A server that wants fewer messages, or fresh settings sooner, cannot say so.",
        example: Example::MessageV6("type = \"information-request\"\noptions = { elapsed-time = 0, oro = [23, 83] }\n"),
    },
    find: Find::MessageV6(|seen, findings| {
        let wanted: &[u16] = match seen.kind {
            MessageType::SOLICIT | MessageType::REQUEST => &[82],
            MessageType::INFORMATION_REQUEST => &[32, 83],
            _ => return,
        };
        let Some(place) = seen.top().find(|place| place.code == 6) else { return };
        let lacks = |code: &&u16| !asked(seen.octets(place)).any(|asked| asked == **code);
        for code in wanted.iter().filter(lacks) {
            let message = format!("{} asks for {}, and this does not", seen.called(), seen.label(*code));
            findings.push(REQUEST_LACKS.rule.finding(message).on(place.whole()));
        }
    }),
};

static REFRESH_WITH_ADDRESSES: Check = Check {
    rule: Rule {
        name: "refresh-time-with-addresses",
        severity: Severity::Warning,
        rfc: "RFC 8415, section 21.23",
        summary: "a Reply that lends something says when settings are to be asked for again (32)",
        why: "The time is for clients without addresses. Others ask again when they renew, and pass over it.",
        example: Example::MessageV6(
            "type = \"reply\"\n[options]\nserverid = \"00:03:00:01:00:00:5e:00:53:01\"\nclientid = \"00:03:00:01:02:00:5e:00:53:11\"\n\
             ia-na = { iaid = 1, t1 = \"4h\", t2 = \"6h\", options = {} }\ninformation-refresh-time = 86400\n",
        ),
    },
    find: Find::MessageV6(|seen, findings| {
        let lends = seen.top().any(|place| WITH_IDENTITY.contains(&place.code));
        let refresh = seen.top().find(|place| place.code == 32);
        if let Some(place) = refresh.filter(|_| lends && seen.kind == MessageType::REPLY) {
            let message = "this Reply lends something, and says when to ask for settings again";
            findings.push(REFRESH_WITH_ADDRESSES.rule.finding(message).on(place.whole()));
        }
    }),
};

static ENTERPRISE_STANDS_TWICE: Check = Check {
    rule: Rule {
        name: "enterprise-stands-twice",
        severity: Severity::Error,
        rfc: "RFC 8415, sections 21.16 and 21.17",
        summary: "two options of one vendor's (16, 17) stand in a DHCPv6 message",
        why: "Nothing joins the two, and the vendor's devices read one of them.",
        example: Example::MessageV6(
            "type = \"reply\"\noptions = [{ serverid = \"00:03:00:01:00:00:5e:00:53:01\", vendor-opts = { enterprise = 32473, options = {} } }, \
             { vendor-opts = { enterprise = 32473, options = {} } }]\n",
        ),
    },
    find: Find::MessageV6(|seen, findings| {
        let mut known: HashMap<(u16, u32), usize> = HashMap::new();
        for place in seen.top().filter(|place: &&Place| matches!(place.code, 16 | 17)) {
            let Some(enterprise) = seen.long(place, 0) else { continue };
            if let Some(first) = known.insert((place.code, enterprise), place.whole().start) {
                let label = seen.label(place.code);
                let message =
                    format!("{label} of enterprise {enterprise} stands a second time, first at octet {first}");
                findings.push(ENTERPRISE_STANDS_TWICE.rule.finding(message).on(place.whole()));
            }
        }
    }),
};
