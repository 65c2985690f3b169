//! Rules about options beside each other in one message.

use super::super::{Check, Find};
use super::{Seen, around, whole};
use crate::finding::{Example, Rule, Severity};
use crate::layout::duration_text;
use crate::packet::v4::{Field, MessageType};

pub(super) static CHECKS: [&Check; 11] = [
    &MESSAGE_TYPE_MISSING,
    &REPEATED_BUT_SINGLE,
    &SPLIT_FOR_NOTHING,
    &MASK_AFTER_ROUTER,
    &RELAY_INFORMATION_MISPLACED,
    &LEASE_TIMES_OUT_OF_ORDER,
    &TWO_HOST_NAMES,
    &BOOT_FACTS_INCOMPLETE,
    &LEASEQUERY_KEYS,
    &PROOF_WITHOUT_IDENTITY,
    &AUTO_CONFIG_MISPLACED,
];

static MESSAGE_TYPE_MISSING: Check = Check {
    rule: Rule {
        name: "message-type-missing",
        severity: Severity::Warning,
        rfc: "RFC 2131, section 3",
        summary: "a message has options that only DHCP knows, and no type (53)",
        why: "Without a type it is a message of BOOTP, and those options mean nothing to its receivers.",
        example: Example::Message("chaddr = \"02:00:5e:00:53:11\"\n[options]\naddress-request = \"10.64.4.20\"\n"),
    },
    find: Find::Message(|seen, findings| {
        // RFC 2132, section 2: the options of its section 9 are DHCP's own.
        let first = seen.message.options().find(|option| matches!(option.code(), 50..=61 | 66 | 67));
        if let Some(option) = first.filter(|_| !seen.message.has(53)) {
            let message = format!("{} stands in a message without a type", seen.label(option.code()));
            findings.push(MESSAGE_TYPE_MISSING.rule.finding(message).on(around(&option)));
        }
    }),
};

static REPEATED_BUT_SINGLE: Check = Check {
    rule: Rule {
        name: "repeated-but-single",
        severity: Severity::Error,
        rfc: "RFC 3396, section 7",
        summary: "an option of a fixed length stands in a message twice",
        why: "Receivers must join the two to one, which is then too long; others take the first, or the last.",
        example: Example::Message(
            "chaddr = \"02:00:5e:00:53:11\"\nafter-header = \"63825363 350101 39020240 39020240 ff\"\n",
        ),
    },
    find: Find::Message(|seen, findings| {
        for option in seen.message.options().filter(|option| option.is_split()) {
            if seen.codebook.v4(option.code().into()).is_some_and(|known| known.single) {
                let second = option.parts().nth(1).map_or(0, |part| part.at);
                let message = format!("{} stands here again; it is never split", seen.label(option.code()));
                findings.push(REPEATED_BUT_SINGLE.rule.finding(message).on(second..second + 2));
            }
        }
    }),
};

static SPLIT_FOR_NOTHING: Check = Check {
    rule: Rule {
        name: "split-for-nothing",
        severity: Severity::Warning,
        rfc: "RFC 3396, section 4",
        summary: "an option is split although its octets would fit in one, in the same field",
        why: "Clients that do not join parts take the first or the last for all of it.",
        example: Example::Message(
            "type = \"ack\"\nop = 2\nyiaddr = \"10.64.4.20\"\nchaddr = \"02:00:5e:00:53:11\"\nafter-header = \"63825363 350105 36040a400043 330400007080 06040a400035 06040a400036ff\"\n",
        ),
    },
    find: Find::Message(|seen, findings| {
        for option in seen.message.options().filter(|option| option.is_split()) {
            let single = seen.codebook.v4(option.code().into()).is_some_and(|known| known.single);
            let field = option.first().field;
            if !single && option.length() <= 255 && option.parts().all(|part| part.field == field) {
                let message =
                    format!("{} is split, and has {} octets in all", seen.label(option.code()), option.length());
                findings.push(SPLIT_FOR_NOTHING.rule.finding(message).on(around(&option)));
            }
        }
    }),
};

static MASK_AFTER_ROUTER: Check = Check {
    rule: Rule {
        name: "mask-after-router",
        severity: Severity::Error,
        rfc: "RFC 2132, section 3.3",
        summary: "the subnet's mask stands after the routers",
        why: "Clients that read in order set up the router before they know whether it is on their link.",
        example: Example::Message(
            "type = \"ack\"\nop = 2\nyiaddr = \"10.64.4.20\"\nchaddr = \"02:00:5e:00:53:11\"\nafter-header = \"63825363 350105 36040a400043 330400007080 03040a400401 0104fffffe00ff\"\n",
        ),
    },
    find: Find::Message(|seen, findings| {
        let order: Vec<u8> = seen.message.options().map(|option| option.code()).collect();
        let at = |code| order.iter().position(|at| *at == code);
        if let (Some(mask), Some(router)) = (at(1), at(3))
            && router < mask
            && let Some(octets) = seen.place(1)
        {
            let message = format!("{} stands after {}", seen.label(1), seen.label(3));
            findings.push(MASK_AFTER_ROUTER.rule.finding(message).on(octets));
        }
    }),
};

static RELAY_INFORMATION_MISPLACED: Check = Check {
    rule: Rule {
        name: "relay-information-misplaced",
        severity: Severity::Warning,
        rfc: "RFC 3046, section 2.1",
        summary: "the relay's information is not the last option, or stands in a header field",
        why: "Relays that take it off again look for it at the end of the options field.",
        example: Example::Message(
            "chaddr = \"02:00:5e:00:53:11\"\ngiaddr = \"10.64.4.1\"\nafter-header = \"63825363 350101 52060104706f7274 0c06646f6d652d33 ff\"\n",
        ),
    },
    find: Find::Message(|seen, findings| {
        let Some(option) = seen.message.option(82) else { return };
        let finding = |message: &str| RELAY_INFORMATION_MISPLACED.rule.finding(message).on(around(&option));
        if option.first().field != Field::Options {
            let name = option.first().field.name();
            findings.push(
                finding(&format!("it stands in `{name}`, where relays must not look")).as_severity(Severity::Error),
            );
        } else if seen.message.parts().filter(|part| part.field == Field::Options).last().map(|part| part.code)
            != Some(82)
        {
            findings.push(finding("other options stand after it"));
        }
    }),
};

static LEASE_TIMES_OUT_OF_ORDER: Check = Check {
    rule: Rule {
        name: "lease-times-out-of-order",
        severity: Severity::Error,
        rfc: "RFC 2131, section 4.4.5",
        summary: "a message tells a client to renew after it rebinds, or to rebind after its lease ends",
        why: "The client loses its address before it asks for it again, or asks every server at once.",
        example: Example::Message(
            "type = \"ack\"\nyiaddr = \"10.64.4.20\"\nchaddr = \"02:00:5e:00:53:11\"\n[options]\ndhcp-server-id = \"10.64.0.67\"\n\
             address-time = \"8h\"\nrenewal-time = \"9h\"\n",
        ),
    },
    find: Find::Message(|seen, findings| {
        let times: Vec<(u8, u32)> =
            [58, 59, 51].into_iter().filter_map(|code| Some((code, seen.seconds(code)?))).collect();
        for pair in times.windows(2) {
            let [(earlier, first), (later, then)] = *pair else { continue };
            if first >= then && then != u32::MAX {
                let message = format!(
                    "{} ({}) does not come before {} ({})",
                    seen.label(earlier),
                    duration_text(first),
                    seen.label(later),
                    duration_text(then)
                );
                let finding = LEASE_TIMES_OUT_OF_ORDER.rule.finding(message);
                findings.push(finding.on(seen.place(earlier).unwrap_or_default()));
            }
        }
    }),
};

static TWO_HOST_NAMES: Check = Check {
    rule: Rule {
        name: "two-host-names",
        severity: Severity::Error,
        rfc: "RFC 4702, section 3.1",
        summary: "a client sends its full name (81) and its host name (12)",
        why: "Servers should pass over the host name then; those that do not register the client under both.",
        example: Example::Message(
            "type = \"discover\"\nchaddr = \"02:00:5e:00:53:11\"\n[options]\nhostname = \"dome-3\"\n\
             client-fqdn = { flags = \"s+e\", rcode1 = 0, rcode2 = 0, name = \"dome-3.tarnfell.example.\" }\n",
        ),
    },
    find: Find::Message(|seen, findings| {
        if !seen.is_reply()
            && seen.message.has(81)
            && let Some(octets) = seen.place(12)
        {
            let message = format!("{} beside {}", seen.label(12), seen.label(81));
            findings.push(TWO_HOST_NAMES.rule.finding(message).on(octets));
        }
    }),
};

static BOOT_FACTS_INCOMPLETE: Check = Check {
    rule: Rule {
        name: "boot-facts-incomplete",
        severity: Severity::Warning,
        rfc: "RFC 4578, section 2",
        summary: "a client that boots from the network sends some of 93, 94 and 97, but not all",
        why: "Boot servers choose the file by them, and must have all three from each client.",
        example: Example::Message(
            "type = \"discover\"\nchaddr = \"02:00:5e:00:53:11\"\n[options]\nclient-system = [7]\n",
        ),
    },
    find: Find::Message(|seen, findings| {
        let codes = [93, 94, 97];
        let first = codes.into_iter().find(|code| seen.message.has(*code)).filter(|_| !seen.is_reply());
        let missing: Vec<String> =
            codes.into_iter().filter(|code| !seen.message.has(*code)).map(|code| seen.label(code)).collect();
        if let Some(octets) = first.and_then(|code| seen.place(code)).filter(|_| !missing.is_empty()) {
            let message =
                format!("{} {} missing", missing.join(" and "), if missing.len() == 1 { "is" } else { "are" });
            findings.push(BOOT_FACTS_INCOMPLETE.rule.finding(message).on(octets));
        }
    }),
};

static LEASEQUERY_KEYS: Check = Check {
    rule: Rule {
        name: "leasequery-keys",
        severity: Severity::Error,
        rfc: "RFC 4388, section 6.3",
        summary: "a DHCPLEASEQUERY asks by more than one thing, or by none",
        why: "It asks by an address, a hardware address or a client identifier; by two, each server answers another question.",
        example: Example::Message(
            "type = \"leasequery\"\nciaddr = \"10.64.4.20\"\ngiaddr = \"10.64.4.1\"\nchaddr = \"02:00:5e:00:53:11\"\n",
        ),
    },
    find: Find::Message(|seen, findings| {
        if !seen.is(MessageType::LEASEQUERY) {
            return;
        }
        let keys = keys(seen);
        // RFC 6148, section 4.1: a remote identifier (82) may be asked by when nothing else is.
        if keys.len() > 1 || (keys.is_empty() && !seen.message.has(82)) {
            let message = if keys.is_empty() {
                "it asks by nothing".to_owned()
            } else {
                format!("it asks by {}", keys.join(" and "))
            };
            findings.push(whole(seen, LEASEQUERY_KEYS.rule.finding(message)));
        }
    }),
};

fn keys(seen: &Seen<'_>) -> Vec<&'static str> {
    let mut keys = Vec::new();
    if !seen.header.ciaddr.is_unspecified() {
        keys.push("ciaddr");
    }
    if seen.header.chaddr != [0; 16] {
        keys.push("chaddr");
    }
    if seen.message.has(61) {
        keys.push("client-id (61)");
    }
    keys
}

static PROOF_WITHOUT_IDENTITY: Check = Check {
    rule: Rule {
        name: "proof-without-identity",
        severity: Severity::Error,
        rfc: "RFC 3118, section 5.5.1",
        summary: "a client proves who it is (90) and does not say who that is (61)",
        why: "The server picks the key by the client's identifier, and can verify nothing without it.",
        example: Example::Message(
            "type = \"discover\"\nchaddr = \"02:00:5e:00:53:11\"\n[options]\n\
             authentication = { hex = \"0101000000000000000001\" }\n",
        ),
    },
    find: Find::Message(|seen, findings| {
        let delayed = seen.message.option(90).filter(|option| option.joined().first() == Some(&1));
        if let Some(option) = delayed.filter(|_| seen.is(MessageType::DISCOVER) && !seen.message.has(61)) {
            let message = format!("{} without {}", seen.label(90), seen.label(61));
            findings.push(PROOF_WITHOUT_IDENTITY.rule.finding(message).on(around(&option)));
        }
    }),
};

static AUTO_CONFIG_MISPLACED: Check = Check {
    rule: Rule {
        name: "auto-config-misplaced",
        severity: Severity::Warning,
        rfc: "RFC 2563, section 2.3",
        summary: "an offer of an address says whether the client may make one up (116)",
        why: "The word counts only in an offer without an address, and clients pass over it here.",
        example: Example::Message(
            "type = \"offer\"\nyiaddr = \"10.64.4.20\"\nchaddr = \"02:00:5e:00:53:11\"\n[options]\ndhcp-server-id = \"10.64.0.67\"\n\
             address-time = \"8h\"\nauto-config = \"do-not-auto-configure\"\n",
        ),
    },
    find: Find::Message(|seen, findings| {
        let lends = seen.is(MessageType::OFFER) && !seen.header.yiaddr.is_unspecified();
        if let Some(octets) = seen.place(116).filter(|_| lends) {
            let message = format!("{} beside the address {}", seen.label(116), seen.header.yiaddr);
            findings.push(AUTO_CONFIG_MISPLACED.rule.finding(message).on(octets));
        }
    }),
};
