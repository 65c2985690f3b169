//! Rules about which options stand in which message: the tables of RFC 2131 and what later RFCs changed in them.

use super::super::{Check, Find};
use super::{Seen, whole};
use crate::finding::{Example, Rule, Severity};
use crate::packet::v4::MessageType;

pub(super) static CHECKS: [&Check; 4] =
    [&OPTION_NOT_IN_THIS_MESSAGE, &OPTION_MISSING_IN_MESSAGE, &REQUEST_IN_NO_STATE, &FORCERENEW_NOT_PROVEN];

const SERVERS: &str = "RFC 2131, section 4.3.1, table 3";
const CLIENTS: &str = "RFC 2131, section 4.4.1, table 5";

/// What a message may not hold.
struct Barred {
    message_type: MessageType,
    /// These codes; and when `others_too` is set, all codes but these.
    codes: &'static [u8],
    others_too: bool,
    rfc: &'static str,
}

const fn barred(message_type: MessageType, codes: &'static [u8], rfc: &'static str) -> Barred {
    Barred { message_type, codes, others_too: false, rfc }
}

const fn only(message_type: MessageType, codes: &'static [u8], rfc: &'static str) -> Barred {
    Barred { message_type, codes, others_too: true, rfc }
}

/// The MUST NOTs. Relays may add 82 to anything a client sends, and servers echo it.
const BARRED: [Barred; 13] = [
    barred(MessageType::OFFER, &[50, 55, 57], SERVERS),
    barred(MessageType::ACK, &[50, 55, 57], SERVERS),
    barred(MessageType::OFFER, &[80], "RFC 4039, section 3"),
    // 61 is echoed since RFC 6842, section 3; 90 proves who sends (RFC 3118, section 5.6).
    only(MessageType::NAK, &[53, 54, 56, 60, 61, 82, 90], SERVERS),
    barred(MessageType::DISCOVER, &[54], CLIENTS),
    barred(MessageType::INFORM, &[50, 51, 54], CLIENTS),
    barred(MessageType::INFORM, &[80], "RFC 4039, section 3"),
    barred(MessageType::REQUEST, &[80], "RFC 4039, section 3"),
    barred(MessageType::DISCOVER, &[150], "RFC 5859, section 3"),
    barred(MessageType::REQUEST, &[150], "RFC 5859, section 3"),
    barred(MessageType::INFORM, &[150], "RFC 5859, section 3"),
    // 90: RFC 3118, section 5.5.6; 159: RFC 7618, section 7; 220: RFC 6656, section 5.3.
    only(MessageType::DECLINE, &[50, 52, 53, 54, 56, 61, 82, 90], CLIENTS),
    only(MessageType::RELEASE, &[52, 53, 54, 56, 61, 82, 90, 159, 220], CLIENTS),
];

static OPTION_NOT_IN_THIS_MESSAGE: Check = Check {
    rule: Rule {
        name: "option-not-in-this-message",
        severity: Severity::Error,
        rfc: CLIENTS,
        summary: "an option in a type of message that must not have it",
        why: "Receivers may drop the whole message, or take it for one of another kind.",
        example: Example::Message(
            "type = \"discover\"\nchaddr = \"02:00:5e:00:53:11\"\n[options]\ndhcp-server-id = \"10.64.0.67\"\n",
        ),
    },
    find: Find::Message(|seen, findings| {
        let Some(message_type) = seen.message_type else { return };
        for option in seen.message.options() {
            let code = option.code();
            let bars = |row: &&Barred| row.message_type == message_type && row.codes.contains(&code) != row.others_too;
            let finding = |rfc: &str| {
                let message = format!("{} does not belong in {}", seen.label(code), seen.called());
                OPTION_NOT_IN_THIS_MESSAGE.rule.finding(message).by(rfc).on(super::around(&option))
            };
            if let Some(row) = BARRED.iter().find(bars) {
                findings.push(finding(row.rfc));
            } else if is_answer_to_inform(seen) && matches!(code, 51 | 58 | 59) {
                findings.push(finding("RFC 2131, section 4.3.5"));
            } else if code == 56
                && matches!(message_type, MessageType::DISCOVER | MessageType::INFORM | MessageType::REQUEST)
            {
                findings.push(finding(CLIENTS).as_severity(Severity::Warning));
            }
        }
    }),
};

/// An acknowledgement that names the client's own address and gives none.
fn is_answer_to_inform(seen: &Seen<'_>) -> bool {
    seen.is(MessageType::ACK) && seen.header.yiaddr.is_unspecified() && !seen.header.ciaddr.is_unspecified()
}

static OPTION_MISSING_IN_MESSAGE: Check = Check {
    rule: Rule {
        name: "option-missing-in-message",
        severity: Severity::Error,
        rfc: SERVERS,
        summary: "an option that every message of this type has is not there",
        why: "Without it the other side cannot act on the message, and drops it.",
        example: Example::Message(
            "type = \"offer\"\nyiaddr = \"10.64.4.20\"\nchaddr = \"02:00:5e:00:53:11\"\n[options]\naddress-time = \"8h\"\n",
        ),
    },
    find: Find::Message(|seen, findings| {
        let offers = seen.is(MessageType::OFFER) || seen.is(MessageType::ACK);
        let lends = offers && !seen.header.yiaddr.is_unspecified();
        let refuses = seen.is(MessageType::NAK);
        let declines = seen.is(MessageType::DECLINE);
        let leaves = declines || seen.is(MessageType::RELEASE);
        let missing =
            [(51, lends, SERVERS), (54, offers || refuses, SERVERS), (54, leaves, CLIENTS), (50, declines, CLIENTS)];
        for (code, wanted, rfc) in missing {
            if wanted && !seen.message.has(code) {
                let message = format!("{} is missing in {}", seen.label(code), seen.called());
                findings.push(whole(seen, OPTION_MISSING_IN_MESSAGE.rule.finding(message).by(rfc)));
            }
        }
    }),
};

static REQUEST_IN_NO_STATE: Check = Check {
    rule: Rule {
        name: "request-in-no-state",
        severity: Severity::Error,
        rfc: "RFC 2131, section 4.3.6, table 4",
        summary: "a DHCPREQUEST that no state of a client sends",
        why: "Servers tell by 50, 54 and ciaddr whether a client takes an offer, comes back or renews. Of this one they \
              cannot, and stay silent.",
        example: Example::Message(
            "type = \"request\"\nchaddr = \"02:00:5e:00:53:11\"\n[options]\nhostname = \"dome-3\"\n",
        ),
    },
    find: Find::Message(|seen, findings| {
        if !seen.is(MessageType::REQUEST) {
            return;
        }
        let has = |code| seen.message.has(code);
        let message = match (has(54), has(50), !seen.header.ciaddr.is_unspecified()) {
            (true, true, false) | (false, true, false) | (false, false, true) => return,
            (true, _, true) => "it takes an offer (54) and renews an address (ciaddr) at once",
            (true, false, false) => "it takes an offer (54), and 50 does not say which address",
            (false, true, true) => "it asks for an address (50) and renews one (ciaddr) at once",
            (false, false, false) => {
                "it neither takes an offer (54), nor asks for an address (50), nor renews one (ciaddr)"
            }
        };
        findings.push(whole(seen, REQUEST_IN_NO_STATE.rule.finding(message)));
    }),
};

static FORCERENEW_NOT_PROVEN: Check = Check {
    rule: Rule {
        name: "forcerenew-not-proven",
        severity: Severity::Error,
        rfc: "RFC 3203, section 6",
        summary: "a DHCPFORCERENEW without authentication (90)",
        why: "Anybody could make all clients renew at once, so clients must drop it.",
        example: Example::Message(
            "type = \"forcerenew\"\nchaddr = \"02:00:5e:00:53:11\"\n[options]\ndhcp-server-id = \"10.64.0.67\"\n",
        ),
    },
    find: Find::Message(|seen, findings| {
        if seen.is(MessageType::FORCERENEW) && !seen.message.has(90) {
            let message = format!("{} is missing", seen.label(90));
            findings.push(whole(seen, FORCERENEW_NOT_PROVEN.rule.finding(message)));
        }
    }),
};
