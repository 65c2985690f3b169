//! Rules about a reply beside what it replies to.

use crate::check::context::MessageContext;
use crate::check::declare::{check, checks};
use crate::finding::{Example, Finding};
use crate::packet::Message as _;
use crate::packet::v4::{DATAGRAM_HEADERS, Limit};

checks! {
    REPLY_DOES_NOT_MATCH_REQUEST, CLIENT_ID_NOT_ECHOED, RELAY_INFORMATION_NOT_ECHOED, OPTION_NOT_REQUESTED,
    REPLY_TOO_LARGE
}

/// A request and its reply, with nothing wrong but what these lines add.
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

check! { Exchange(reply_does_not_match_request),
    /// a reply's transaction ID, client or relay agent differs from the request's
    ///
    /// Clients and relay agents match replies by these, and drop replies that do not match.
    static REPLY_DOES_NOT_MATCH_REQUEST = "reply-does-not-match-request", Error, Exchange,
        "RFC 2131, section 4.3.1, table 3";
    exchange!("xid = 1\n", "", "xid = 2\n", "")
}

fn reply_does_not_match_request(request: &MessageContext<'_>, reply: &MessageContext<'_>, findings: &mut Vec<Finding>) {
    let (Some((_, requested)), Some((_, answer))) = (request.v4(), reply.v4()) else { return };
    let differs = [
        ("xid", requested.xid != answer.xid, 4..8),
        ("chaddr", requested.chaddr != answer.chaddr, 28..44),
        ("giaddr", requested.giaddr != answer.giaddr, 24..28),
    ];
    for (name, _, octets) in differs.into_iter().filter(|(_, differs, _)| *differs) {
        let message = format!("{name} differs from the request");
        findings.push(REPLY_DOES_NOT_MATCH_REQUEST.finding(message).on(octets));
    }
}

check! { Exchange(client_id_not_echoed),
    /// a reply's client identifier (61) is not the one the client sent
    ///
    /// Clients must drop such a reply. The identifier is returned as it was sent, and only if it was sent.
    static CLIENT_ID_NOT_ECHOED = "client-id-not-echoed", Error, Exchange, "RFC 6842, section 3";
    exchange!("", "client-id = { type = \"ethernet\", id = \"02:00:5e:00:53:11\" }\n", "", "")
}

fn client_id_not_echoed(request: &MessageContext<'_>, reply: &MessageContext<'_>, findings: &mut Vec<Finding>) {
    let (sent, echoed) = (request.option(61), reply.option(61));
    let message = match (sent, echoed) {
        (Some(_), None) => "the client sent a client identifier, but the reply has none",
        (None, Some(_)) => "the client sent no client identifier, but the reply has one",
        (Some(sent), Some(echoed)) if sent.octets != echoed.octets => {
            "the reply has a different client identifier than the client sent"
        }
        _ => return,
    };
    let finding = CLIENT_ID_NOT_ECHOED.finding(message);
    findings.push(finding.on(echoed.map_or_else(|| reply.whole(), |place| reply.around(place))));
}

check! { Exchange(relay_information_not_echoed),
    /// the relay agent information (82) is not returned as it was sent
    ///
    /// Relay agents find the client's port by it. A server that does not support the option, or has no room for it,
    /// omits it; a changed one misleads the relay agent.
    static RELAY_INFORMATION_NOT_ECHOED = "relay-information-not-echoed", Warning, Exchange, "RFC 3046, section 2.2";
    exchange!(
        "giaddr = \"10.64.4.1\"\n",
        "relay-agent-information = { agent-circuit-id = \"70:6f:72:74\" }\n",
        "giaddr = \"10.64.4.1\"\n",
        ""
    )
}

fn relay_information_not_echoed(request: &MessageContext<'_>, reply: &MessageContext<'_>, findings: &mut Vec<Finding>) {
    let Some(sent) = request.option(82) else { return };
    let rule = &RELAY_INFORMATION_NOT_ECHOED;
    match reply.option(82) {
        None => findings.push(rule.finding("the reply has no relay agent information").on(reply.whole())),
        // RFC 4030, section 11.2 and RFC 6607, section 7.2 have servers put in their own proof and subnet.
        Some(echoed) if echoed.octets != sent.octets => {
            let finding = rule.finding("the relay agent information differs from the request");
            findings.push(finding.on(reply.around(echoed)));
        }
        Some(_) => {}
    }
}

check! { Exchange(option_not_requested),
    /// a reply has an option that may be sent only to clients that requested it
    ///
    /// A client that did not request it may give up IPv4, or its ports, unintentionally.
    static OPTION_NOT_REQUESTED = "option-not-requested", Error, Exchange, "";
    exchange!("", "", "", "ipv6-only-preferred = 1800\n")
}

fn option_not_requested(request: &MessageContext<'_>, reply: &MessageContext<'_>, findings: &mut Vec<Finding>) {
    let requested = request.option(55).map(|place| place.octets.to_vec()).unwrap_or_default();
    for (code, rfc) in [(108, "RFC 8925, section 3.3"), (159, "RFC 7618, section 8")] {
        if let Some(place) = reply.option(code.into()).filter(|_| !requested.contains(&code)) {
            let message = format!("the client did not request {}", reply.label(code.into()));
            findings.push(OPTION_NOT_REQUESTED.finding(message).by(rfc).on(reply.around(place)));
        }
    }
}

check! { Exchange(reply_too_large),
    /// a reply is larger than its client accepts
    ///
    /// A client must accept a datagram of 576 octets, and more only if it says so (57). It drops larger ones.
    static REPLY_TOO_LARGE = "reply-too-large", Error, Exchange, "RFC 2131, section 2";
    exchange!("", "", "smallest = 560\nlimit = 700\n", "")
}

fn reply_too_large(request: &MessageContext<'_>, reply: &MessageContext<'_>, findings: &mut Vec<Finding>) {
    let Some((message, header)) = reply.v4() else { return };
    let said = request.number(57).and_then(|said| u16::try_from(said).ok());
    let (limit, length) = (Limit::of_client(said), message.octets().len());
    // Relayed replies are for the relay agent to receive, which has its own limit.
    if length > limit.octets && header.giaddr.is_unspecified() {
        let message = format!("{} octets with the headers; the client accepts {limit}", length + DATAGRAM_HEADERS);
        findings.push(REPLY_TOO_LARGE.finding(message).on(reply.whole()));
    }
}
