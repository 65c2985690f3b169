//! Rules about an answer beside what it answers.

use super::super::{Check, Find};
use super::{around, whole};
use crate::finding::{Example, Rule, Severity};
use crate::packet::v4::{DATAGRAM_HEADERS, Limit};

pub(super) static CHECKS: [&Check; 5] =
    [&REPLY_TO_ANOTHER, &CLIENT_ID_NOT_ECHOED, &RELAY_INFORMATION_NOT_ECHOED, &TOLD_UNASKED, &REPLY_TOO_LARGE];

/// A request and its answer, with nothing wrong but what these lines add.
macro_rules! exchange {
    ($request:literal, $request_options:literal, $reply:literal, $reply_options:literal) => {
        Example::Exchange(
            concat!("type = \"discover\"\nchaddr = \"02:00:5e:00:53:11\"\n", $request, "[options]\n", $request_options),
            concat!(
                "type = \"offer\"\nyiaddr = \"10.64.4.20\"\nchaddr = \"02:00:5e:00:53:11\"\n",
                $reply,
                "[options]\ndhcp-server-id = \"10.64.0.67\"\naddress-time = \"8h\"\n",
                $reply_options
            ),
        )
    };
}

static REPLY_TO_ANOTHER: Check = Check {
    rule: Rule {
        name: "reply-to-another",
        severity: Severity::Error,
        rfc: "RFC 2131, section 4.3.1, table 3",
        summary: "an answer's transaction, client or relay is not the request's",
        why: "Clients and relays take an answer by these, and drop one that is not theirs.",
        example: exchange!("xid = 1\n", "", "xid = 2\n", ""),
    },
    find: Find::Exchange(|request, reply, findings| {
        let (asked, answer) = (&request.header, &reply.header);
        let differs = [
            ("xid", asked.xid != answer.xid, 4..8),
            ("chaddr", asked.chaddr != answer.chaddr, 28..44),
            ("giaddr", asked.giaddr != answer.giaddr, 24..28),
        ];
        for (name, _, octets) in differs.into_iter().filter(|(_, differs, _)| *differs) {
            let message = format!("{name} is not the one of the request");
            findings.push(REPLY_TO_ANOTHER.rule.finding(message).on(octets));
        }
    }),
};

static CLIENT_ID_NOT_ECHOED: Check = Check {
    rule: Rule {
        name: "client-id-not-echoed",
        severity: Severity::Error,
        rfc: "RFC 6842, section 3",
        summary: "an answer's client identifier (61) is not the one the client sent",
        why: "Clients must drop an answer with another one. It comes back as it was sent, and only when it was sent.",
        example: exchange!("", "client-id = { type = \"ethernet\", id = \"02:00:5e:00:53:11\" }\n", "", ""),
    },
    find: Find::Exchange(|request, reply, findings| {
        let sent = request.message.option(61).map(|option| option.joined());
        let echoed = reply.message.option(61);
        let message = match (&sent, &echoed) {
            (Some(_), None) => "the client sent an identifier, and it does not come back",
            (None, Some(_)) => "the client sent no identifier, and one comes back",
            (Some(sent), Some(echoed)) if *sent != echoed.joined() => {
                "another identifier comes back than the client sent"
            }
            _ => return,
        };
        let finding = CLIENT_ID_NOT_ECHOED.rule.finding(message);
        findings.push(match echoed {
            Some(option) => finding.on(around(&option)),
            None => whole(reply, finding),
        });
    }),
};

static RELAY_INFORMATION_NOT_ECHOED: Check = Check {
    rule: Rule {
        name: "relay-information-not-echoed",
        severity: Severity::Warning,
        rfc: "RFC 3046, section 2.2",
        summary: "the relay's information (82) does not come back as it was sent",
        why: "Relays find the client's port by it. A server that does not know the option, or had no room for it, leaves \
              it out; one that changes it misleads the relay.",
        example: exchange!(
            "giaddr = \"10.64.4.1\"\n",
            "relay-agent-information = { agent-circuit-id = \"70:6f:72:74\" }\n",
            "giaddr = \"10.64.4.1\"\n",
            ""
        ),
    },
    find: Find::Exchange(|request, reply, findings| {
        let Some(sent) = request.message.option(82) else { return };
        match reply.message.option(82) {
            None => {
                let finding = RELAY_INFORMATION_NOT_ECHOED.rule.finding("the relay's information does not come back");
                findings.push(whole(reply, finding));
            }
            // RFC 4030, section 11.2 and RFC 6607, section 7.2 have servers put in their own proof and subnet.
            Some(echoed) if echoed.joined() != sent.joined() => {
                let finding = RELAY_INFORMATION_NOT_ECHOED.rule.finding("the relay's information comes back changed");
                findings.push(finding.on(around(&echoed)));
            }
            Some(_) => {}
        }
    }),
};

static TOLD_UNASKED: Check = Check {
    rule: Rule {
        name: "told-unasked",
        severity: Severity::Error,
        rfc: "",
        summary: "an answer has an option that may be sent only to clients that asked for it",
        why: "A client that did not ask may give up IPv4, or its ports, without knowing what it does.",
        example: exchange!("", "", "", "ipv6-only-preferred = 1800\n"),
    },
    find: Find::Exchange(|request, reply, findings| {
        let asked = request.message.option(55).map(|option| option.joined()).unwrap_or_default();
        for (code, rfc) in [(108, "RFC 8925, section 3.3"), (159, "RFC 7618, section 8")] {
            if let Some(octets) = reply.place(code).filter(|_| !asked.contains(&code)) {
                let message = format!("the client did not ask for {}", reply.label(code));
                findings.push(TOLD_UNASKED.rule.finding(message).by(rfc).on(octets));
            }
        }
    }),
};

static REPLY_TOO_LARGE: Check = Check {
    rule: Rule {
        name: "reply-too-large",
        severity: Severity::Error,
        rfc: "RFC 2131, section 2",
        summary: "an answer is larger than its client accepts",
        why: "A client must accept a datagram of 576 octets, and more only when it says so (57). It drops the rest.",
        example: exchange!("", "", "smallest = 560\nlimit = 700\n", ""),
    },
    find: Find::Exchange(|request, reply, findings| {
        let said =
            request.message.option(57).and_then(|option| option.octets()?.try_into().ok().map(u16::from_be_bytes));
        let (limit, length) = (Limit::of_client(said), reply.message.octets().len());
        // Relayed answers are for the relay to receive, which has its own limit.
        if length > limit.octets && reply.header.giaddr.is_unspecified() {
            let message =
                format!("{} octets with the headers, and the client accepts {limit}", length + DATAGRAM_HEADERS);
            findings.push(whole(reply, REPLY_TOO_LARGE.rule.finding(message)));
        }
    }),
};
