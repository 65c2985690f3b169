//! Rules about the frame of a DHCPv6 message: its header, and where its options end.

use super::super::{Check, Find};
use crate::finding::{Example, Rule, Severity};
use crate::packet::v6::{MOST_HOPS, MessageType, Step};

pub(super) static CHECKS: [&Check; 5] =
    [&OPTION_CUT_SHORT, &RELAYED_IS_NONE, &HOPS_TOO_MANY, &MESSAGE_TYPE_UNKNOWN, &RECONFIGURE_WITH_TRANSACTION];

static OPTION_CUT_SHORT: Check = Check {
    rule: Rule {
        name: "option-cut-short",
        severity: Severity::Error,
        rfc: "RFC 8415, section 21.1",
        summary: "the last option of a DHCPv6 message is longer than what is left of it",
        why: "The option cannot be read, and whoever counts on its length reads what is not there.",
        example: Example::MessageV6(
            "type = \"reply\"\ntransaction = 7\noptions = { serverid = \"00:03:00:01:00:00:5e:00:53:01\" }\nafter-options = \"0017001020010db8\"\n",
        ),
    },
    find: Find::MessageV6(|seen, findings| {
        for step in seen.message.steps() {
            if let Step::Cut { at, octets, needed } = step {
                let message = format!("an option of {needed} octets begins here, and {octets} are left");
                findings.push(OPTION_CUT_SHORT.rule.finding(message).on(at..at + octets));
            }
        }
    }),
};

static RELAYED_IS_NONE: Check = Check {
    rule: Rule {
        name: "relayed-message-unread",
        severity: Severity::Error,
        rfc: "RFC 8415, section 21.10",
        summary: "what a relay passes on is no message",
        why: "The client's message, or the server's, is lost on the way.",
        example: Example::MessageV6(
            "type = \"relay-forward\"\nlink = \"2001:db8:64:10::1\"\npeer = \"fe80::1\"\noptions = { relay-msg = \"0c:00:01:02\" }\n",
        ),
    },
    find: Find::MessageV6(|seen, findings| {
        if let Some((Err(error), at)) = seen.message.relayed() {
            let end =
                at + seen.message.option(crate::packet::v6::RELAY_MESSAGE).map_or(0, |option| option.octets.len());
            findings.push(RELAYED_IS_NONE.rule.finding(error.to_string()).on(at - 4..end));
        }
    }),
};

static HOPS_TOO_MANY: Check = Check {
    rule: Rule {
        name: "relayed-too-often",
        severity: Severity::Error,
        rfc: "RFC 8415, section 19.1.2",
        summary: "more relays passed a DHCPv6 message on than may",
        why: "Relays drop it, so that a loop ends; here is one, or the network is too deep.",
        example: Example::MessageV6(
            "type = \"relay-forward\"\nhops = 9\nlink = \"2001:db8:64:10::1\"\npeer = \"fe80::1\"\n[message]\ntype = \"information-request\"\n\
             options = { elapsed-time = 0, oro = [23, 32, 83] }\n",
        ),
    },
    find: Find::MessageV6(|seen, findings| {
        let hops = seen.message.relay().map(|relay| relay.hops);
        if let Some(hops) = hops.filter(|hops| seen.kind == MessageType::RELAY_FORWARD && *hops > MOST_HOPS) {
            let message = format!("{hops} relays passed it on before, and {MOST_HOPS} may");
            findings.push(HOPS_TOO_MANY.rule.finding(message).on(1..2));
        }
    }),
};

static MESSAGE_TYPE_UNKNOWN: Check = Check {
    rule: Rule {
        name: "v6-message-type-unknown",
        severity: Severity::Error,
        rfc: "RFC 8415, section 16",
        summary: "a DHCPv6 message of a type that nobody defined",
        why: "Clients and servers must drop it.",
        example: Example::MessageV6("type = 200\n"),
    },
    find: Find::MessageV6(|seen, findings| {
        if seen.kind.name().is_none() {
            let message = format!("no message is of type {}", seen.kind.0);
            findings.push(MESSAGE_TYPE_UNKNOWN.rule.finding(message).on(0..1));
        }
    }),
};

static RECONFIGURE_WITH_TRANSACTION: Check = Check {
    rule: Rule {
        name: "reconfigure-with-transaction",
        severity: Severity::Warning,
        rfc: "RFC 8415, section 18.3.11",
        summary: "a Reconfigure has a transaction",
        why: "It answers nothing, so its transaction is zero. Clients pass over it, people in captures do not.",
        example: Example::MessageV6(
            "type = \"reconfigure\"\ntransaction = 7\n[options]\nclientid = \"00:03:00:01:02:00:5e:00:53:11\"\n\
             serverid = \"00:03:00:01:00:00:5e:00:53:01\"\nreconf-msg = \"renew\"\n\
             auth = { protocol = \"reconfigure-key\", algorithm = 1, rdm = 0, replay-detection = 7, information = { type = \"hmac-md5\", value = \"000102030405060708090a0b0c0d0e0f\" } }\n",
        ),
    },
    find: Find::MessageV6(|seen, findings| {
        let transaction = seen.message.transaction().filter(|_| seen.kind == MessageType::RECONFIGURE).unwrap_or(0);
        if transaction != 0 {
            let message = format!("the transaction is {transaction:#08x}");
            findings.push(RECONFIGURE_WITH_TRANSACTION.rule.finding(message).instead("0x000000").on(1..4));
        }
    }),
};
