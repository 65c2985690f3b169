//! Rules about the frame of an advertisement: the packet it stands in, its header, and where its options end.

use super::super::{Check, Find};
use crate::finding::{Example, Rule, Severity};
use crate::packet::ra::{HOP_LIMIT, Preference, Step, checksum};

pub(super) static CHECKS: [&Check; 8] = [
    &HOP_LIMIT_NOT_255,
    &SOURCE_NOT_LINK_LOCAL,
    &CHECKSUM_WRONG,
    &CODE_NOT_ZERO,
    &OPTION_WITHOUT_LENGTH,
    &OPTION_CUT_SHORT,
    &PREFERENCE_NOT_ALLOWED,
    &REACHABLE_TIME_TOO_LONG,
];

static HOP_LIMIT_NOT_255: Check = Check {
    rule: Rule {
        name: "ra-hop-limit-not-255",
        severity: Severity::Error,
        rfc: "RFC 4861, section 6.1.2",
        summary: "an advertisement or solicitation whose hop limit is not 255",
        why: "Receivers drop it: it may come from beyond the link, where nobody may say who the router is.",
        example: Example::Advertisement("managed = true\nsource = \"fe80::1\"\nip-hop-limit = 64\n"),
    },
    find: Find::Advertisement(|seen, findings| {
        if let Some(packet) = seen.message.packet().filter(|packet| packet.hop_limit != HOP_LIMIT) {
            let message = format!("the hop limit is {}, and receivers take 255 alone", packet.hop_limit);
            findings.push(HOP_LIMIT_NOT_255.rule.finding(message).instead("255").on(7..8));
        }
    }),
};

static SOURCE_NOT_LINK_LOCAL: Check = Check {
    rule: Rule {
        name: "ra-source-not-link-local",
        severity: Severity::Error,
        rfc: "RFC 4861, section 6.1.2",
        summary: "an advertisement from an address that is not link-local",
        why: "Hosts drop it, as they know routers by their link-local addresses.",
        example: Example::Advertisement("managed = true\nsource = \"2001:db8:64:10::1\"\n"),
    },
    find: Find::Advertisement(|seen, findings| {
        // A host may ask before it has an address (RFC 4861, section 4.1).
        let Some(packet) = seen.message.packet().filter(|_| seen.message.advertisement().is_some()) else { return };
        if !packet.ends.source.is_unicast_link_local() {
            let message = format!("{} is no link-local address", packet.ends.source);
            let finding = SOURCE_NOT_LINK_LOCAL.rule.finding(message).on(8..24);
            findings.push(finding.instead("the router's own address in fe80::/10"));
        }
    }),
};

static CHECKSUM_WRONG: Check = Check {
    rule: Rule {
        name: "ra-checksum-wrong",
        severity: Severity::Error,
        rfc: "RFC 4443, section 2.3",
        summary: "the checksum of an advertisement or solicitation is not that of its octets",
        why: "Receivers drop it. In a capture of one's own machine it may only be that the network card fills it in later.",
        example: Example::Advertisement("managed = true\nsource = \"fe80::1\"\nchecksum = 1\n"),
    },
    find: Find::Advertisement(|seen, findings| {
        let Some(packet) = seen.message.packet() else { return };
        let (has, right) = (seen.message.checksum(), checksum(packet.ends, seen.message.octets()));
        if has != right {
            let finding = CHECKSUM_WRONG.rule.finding(format!("the checksum is {has:#06x}, and {right:#06x} is right"));
            findings.push(finding.instead(format!("{right:#06x}")).on(seen.at(2..4)));
        }
    }),
};

static CODE_NOT_ZERO: Check = Check {
    rule: Rule {
        name: "ra-code-not-zero",
        severity: Severity::Error,
        rfc: "RFC 4861, section 6.1.2",
        summary: "an advertisement or solicitation with an ICMPv6 code other than 0",
        why: "Receivers drop it.",
        example: Example::Advertisement("managed = true\ncode = 1\n"),
    },
    find: Find::Advertisement(|seen, findings| {
        if seen.message.code() != 0 {
            let message = format!("the code is {}, and only 0 has a meaning", seen.message.code());
            findings.push(CODE_NOT_ZERO.rule.finding(message).instead("0").on(seen.at(1..2)));
        }
    }),
};

static OPTION_WITHOUT_LENGTH: Check = Check {
    rule: Rule {
        name: "ra-option-length-zero",
        severity: Severity::Error,
        rfc: "RFC 4861, section 4.6",
        summary: "an option of an advertisement has the length 0",
        why: "Receivers drop the whole message, not the option alone.",
        example: Example::Advertisement("managed = true\nafter-options = \"0500000000000000\"\n"),
    },
    find: Find::Advertisement(|seen, findings| {
        for step in seen.message.steps() {
            if let Step::Empty { at } = step {
                let message = "the length of this option is 0; it counts the option's own 2 octets, too";
                findings.push(OPTION_WITHOUT_LENGTH.rule.finding(message).on(seen.at(at..at + 2)));
            }
        }
    }),
};

static OPTION_CUT_SHORT: Check = Check {
    rule: Rule {
        name: "ra-option-cut-short",
        severity: Severity::Error,
        rfc: "RFC 4861, section 4.6",
        summary: "the last option of an advertisement is longer than what is left of it",
        why: "The option cannot be read, and most receivers drop the whole message.",
        example: Example::Advertisement("managed = true\nafter-options = \"0304\"\n"),
    },
    find: Find::Advertisement(|seen, findings| {
        for step in seen.message.steps() {
            if let Step::Cut { at, octets, needed } = step {
                let message = format!("an option of {needed} octets begins here, and {octets} are left");
                findings.push(OPTION_CUT_SHORT.rule.finding(message).on(seen.at(at..at + octets)));
            }
        }
    }),
};

static PREFERENCE_NOT_ALLOWED: Check = Check {
    rule: Rule {
        name: "ra-preference-not-allowed",
        severity: Severity::Error,
        rfc: "RFC 4191, section 2.2",
        summary: "a router's preference is the reserved one, or other than medium though it is no default router",
        why: "Hosts take it for medium, or know a router that says of itself that it is none.",
        example: Example::Advertisement("managed = true\npreference = \"high\"\nlifetime = 0\n"),
    },
    find: Find::Advertisement(|seen, findings| {
        let Some(said) = seen.message.advertisement() else { return };
        let message = match said.preference {
            Preference::Reserved => "nobody may send the preference 10".to_owned(),
            Preference::High | Preference::Low if said.router_lifetime == 0 => {
                format!("the preference is {}, and the router lifetime is 0", said.preference.name())
            }
            _ => return,
        };
        findings.push(PREFERENCE_NOT_ALLOWED.rule.finding(message).instead("medium").on(seen.at(5..6)));
    }),
};

static REACHABLE_TIME_TOO_LONG: Check = Check {
    rule: Rule {
        name: "ra-reachable-time-too-long",
        severity: Severity::Error,
        rfc: "RFC 4861, section 6.2.1",
        summary: "an advertisement says that neighbours stay reachable for more than an hour",
        why: "A neighbour that went away would be sent packets all that time. The field counts milliseconds.",
        example: Example::Advertisement("managed = true\nreachable = 7200000\n"),
    },
    find: Find::Advertisement(|seen, findings| {
        let reachable = seen.message.advertisement().map_or(0, |said| said.reachable_time);
        if reachable > 3_600_000 {
            let finding = REACHABLE_TIME_TOO_LONG
                .rule
                .finding(format!("the reachable time is {reachable} milliseconds; 3600000 is the most"));
            findings.push(finding.on(seen.at(8..12)));
        }
    }),
};
