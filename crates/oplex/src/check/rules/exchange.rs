//! Rules about a reply beside what it replies to.

use crate::check::context::MessageContext;
use crate::check::declare::{check, checks, v4_exchange};
use crate::family::Protocol;
use crate::finding::{Example, Findings, Severity};
use crate::packet::Message as _;
use crate::packet::v4::{DATAGRAM_HEADERS, Header, Limit, MessageType};

checks! {
    REPLY_DOES_NOT_MATCH_REQUEST, CLIENT_ID_NOT_ECHOED, RELAY_INFORMATION_NOT_ECHOED, OPTION_NOT_REQUESTED,
    REPLY_TOO_LARGE, REPLY_OF_WRONG_TYPE, RAPID_COMMIT_MISMATCH, SUBNET_SELECTION_NOT_ECHOED, INFORM_ANSWERED_WITH_LEASE
}

check! { Exchange(reply_does_not_match_request),
    /// a reply's transaction ID, client or relay agent differs from the request's
    ///
    /// Clients and relay agents match replies by these, and drop replies that do not match.
    static REPLY_DOES_NOT_MATCH_REQUEST = "reply-does-not-match-request", Error, Exchange,
        "RFC 2131, section 4.3.1, table 3";
    v4_exchange!("xid = 1\n", "", "xid = 2\n", "")
}

fn reply_does_not_match_request(request: &MessageContext<'_>, reply: &MessageContext<'_>, findings: &mut Findings) {
    if let (Some(asked), Some(answer)) = (request.v6(), reply.v6())
        && asked.transaction() != answer.transaction()
    {
        let finding = REPLY_DOES_NOT_MATCH_REQUEST.finding("the transaction ID differs from the request");
        findings.push(finding.by("RFC 8415, sections 16.3 and 16.10").on(1..4));
    }
    let (Some((_, requested)), Some((_, answer))) = (request.v4(), reply.v4()) else { return };
    // What a relay agent asks about is another's, whose address the answer has (RFC 4388, section 6.4.2).
    let queried = request.is(MessageType::LEASEQUERY.0);
    // A server on the link may be asked to broadcast by the relay agent alone, so only the client's bit counts.
    let flags = requested.flags & Header::BROADCAST != answer.flags & Header::BROADCAST;
    // The address is the client's own, or none (table 3); of a lease query the one that is queried (RFC 4388).
    let ciaddr = !answer.ciaddr.is_unspecified() && requested.ciaddr != answer.ciaddr;
    let by_address = !queried || !requested.ciaddr.is_unspecified();
    let differs = [
        ("flags", flags, 10..12),
        ("ciaddr", ciaddr && by_address, 12..16),
        ("xid", requested.xid != answer.xid, 4..8),
        ("chaddr", requested.chaddr != answer.chaddr && !queried, 28..44),
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
    v4_exchange!("", "client-id = { type = \"ethernet\", id = \"02:00:5e:00:53:11\" }\n", "", "")
}

fn client_id_not_echoed(request: &MessageContext<'_>, reply: &MessageContext<'_>, findings: &mut Findings) {
    let (code, rfc) = if request.v6().is_some() { (1, "RFC 8415, section 16.10") } else { (61, "RFC 6842, section 3") };
    if request.v4().is_some() && request.is(MessageType::LEASEQUERY.0) {
        return;
    }
    let (sent, echoed) = (request.option(code), reply.option(code));
    let message = match (sent, echoed) {
        (Some(_), None) => "the client sent a client identifier, but the reply has none",
        (None, Some(_)) => "the client sent no client identifier, but the reply has one",
        (Some(sent), Some(echoed)) if sent.octets != echoed.octets => {
            "the reply has a different client identifier than the client sent"
        }
        _ => return,
    };
    let finding = CLIENT_ID_NOT_ECHOED.finding(message).by(rfc);
    findings.push(finding.on_some(echoed.map(|place| reply.around(place))));
}

check! { Exchange(relay_information_not_echoed),
    /// the relay agent information (82) is not returned as it was sent
    ///
    /// Relay agents find the client's port by it. A server that does not support the option, or has no room for it,
    /// omits it; a changed one misleads the relay agent.
    static RELAY_INFORMATION_NOT_ECHOED = "relay-information-not-echoed", Warning, Exchange, "RFC 3046, section 2.2";
    v4_exchange!(
        "giaddr = \"10.64.4.1\"\n",
        "relay-agent-information = { agent-circuit-id = \"70:6f:72:74\" }\n",
        "giaddr = \"10.64.4.1\"\n",
        ""
    )
}

fn relay_information_not_echoed(request: &MessageContext<'_>, reply: &MessageContext<'_>, findings: &mut Findings) {
    let Some(sent) = request.option(82) else { return };
    let rule = &RELAY_INFORMATION_NOT_ECHOED;
    match reply.option(82) {
        None => findings.push(rule.finding("the reply has no relay agent information")),
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
    v4_exchange!("", "", "", "ipv6-only-preferred = 1800\n")
}

fn option_not_requested(request: &MessageContext<'_>, reply: &MessageContext<'_>, findings: &mut Findings) {
    // Only to who sent the option itself.
    for (protocol, code, rfc) in [
        (Protocol::V4, 116, "RFC 2563, section 2.3"),
        (Protocol::V6, 39, "RFC 4704, section 6"),
        (Protocol::V6, 14, "RFC 8415, section 21.14"),
        (Protocol::V6, 20, "RFC 8415, section 21.20"),
    ] {
        let unasked = reply.protocol() == protocol && !request.has(code);
        if let Some(place) = reply.option(code).filter(|_| unasked) {
            let message = format!("the client did not send {}", reply.label(code));
            findings.push(OPTION_NOT_REQUESTED.finding(message).by(rfc).on(reply.around(place)));
        }
    }
    if reply.v4().is_none() {
        return;
    }
    let requested = request.option(55).map_or(&[][..], |place| &place.octets);
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
    v4_exchange!("", "", "smallest = 560\nlimit = 700\n", "")
}

fn reply_too_large(request: &MessageContext<'_>, reply: &MessageContext<'_>, findings: &mut Findings) {
    let Some((message, header)) = reply.v4() else { return };
    let said = request.number(57).and_then(|said| u16::try_from(said).ok());
    let (limit, length) = (Limit::of_client(said), message.octets().len());
    // Relayed replies are for the relay agent to receive, which has its own limit.
    if length > limit.octets && header.giaddr.is_unspecified() {
        let message = format!("{} octets with the headers; the client accepts {limit}", length + DATAGRAM_HEADERS);
        findings.push(REPLY_TOO_LARGE.finding(message).on(reply.whole()));
    }
}

check! { Exchange(reply_of_wrong_type),
    /// a reply of a type that does not answer the request
    ///
    /// Clients wait for one of certain types, and drop any other.
    static REPLY_OF_WRONG_TYPE = "reply-of-wrong-type", Error, Exchange, "RFC 2131, section 3.1";
    Example::Exchange(
        Protocol::V4,
        "type = \"release\"\nciaddr = \"10.64.4.20\"\nchaddr = \"02:00:5e:00:53:11\"\n[options]\ndhcp-server-id = \"10.64.0.67\"\n",
        "type = \"ack\"\nyiaddr = \"10.64.4.20\"\nchaddr = \"02:00:5e:00:53:11\"\n[options]\ndhcp-server-id = \"10.64.0.67\"\naddress-time = \"8h\"\n"
    )
}

fn reply_of_wrong_type(request: &MessageContext<'_>, reply: &MessageContext<'_>, findings: &mut Findings) {
    let (Some(asked), Some(answer)) = (request.kind, reply.kind) else { return };
    let (right, rfc): (&[u8], _) = match (request.protocol(), asked) {
        (Protocol::V4, 1) if request.has(80) => (&[2, 5], "RFC 4039, section 3"),
        (Protocol::V4, 1) => (&[2], "RFC 2131, section 3.1"),
        (Protocol::V4, 3) => (&[5, 6], "RFC 2131, section 3.1"),
        (Protocol::V4, 8) => (&[5], "RFC 2131, section 3.4"),
        (Protocol::V4, 4 | 7) => (&[], "RFC 2131, sections 4.3.3 and 4.3.4"),
        (Protocol::V4, 10) => (&[11, 12, 13], "RFC 4388, section 6.1"),
        (Protocol::V6, 1) if request.has(14) => (&[2, 7], "RFC 8415, section 18.3.1"),
        (Protocol::V6, 1) => (&[2], "RFC 8415, section 18.3.1"),
        (Protocol::V6, 3..=6 | 8 | 9 | 11) => (&[7], "RFC 8415, section 18.3"),
        (Protocol::V6, 12) => (&[13], "RFC 8415, section 19.3"),
        (Protocol::V6, 14) => (&[15], "RFC 5007, section 4.3.3"),
        _ => return,
    };
    if !right.contains(&answer) {
        let message = format!("{} does not answer {}", reply.called(), request.called());
        let octets = reply.option(53).filter(|_| reply.v4().is_some()).map_or(0..1, |place| reply.around(place));
        let finding = REPLY_OF_WRONG_TYPE.finding(message).by(rfc).on(octets);
        // By DHCPv6 the type is in the header.
        findings.push(if reply.v4().is_some() { finding.of("v4:53") } else { finding });
    }
}

check! { Exchange(rapid_commit_mismatch),
    /// rapid commit is missing where two messages took the place of four, or present where they did not
    ///
    /// The client cannot tell whether the address is its own already.
    static RAPID_COMMIT_MISMATCH = "rapid-commit-mismatch", Error, Exchange, "RFC 4039, sections 3 and 4";
    Example::Exchange(
        Protocol::V4,
        "type = \"discover\"\nchaddr = \"02:00:5e:00:53:11\"\n[options]\nrapid-commit = true\n",
        "type = \"ack\"\nyiaddr = \"10.64.4.20\"\nchaddr = \"02:00:5e:00:53:11\"\n[options]\ndhcp-server-id = \"10.64.0.67\"\naddress-time = \"8h\"\n"
    )
}

fn rapid_commit_mismatch(request: &MessageContext<'_>, reply: &MessageContext<'_>, findings: &mut Findings) {
    let (code, first, last, rfc) = match reply.protocol() {
        Protocol::V4 => (80, 1, 5, "RFC 4039, sections 3 and 4"),
        Protocol::V6 => (14, 1, 7, "RFC 8415, section 18.3.1"),
        Protocol::Ra => return,
    };
    if !reply.is(last) {
        return;
    }
    let message = match (request.is(first), reply.option(code)) {
        (true, None) if request.has(code) => {
            format!("{} is missing from {} to {}", reply.label(code), reply.called(), request.called())
        }
        (false, Some(_)) => format!("{} is in {} to {}", reply.label(code), reply.called(), request.called()),
        _ => return,
    };
    let octets = reply.option(code).map(|place| reply.around(place));
    findings.push(RAPID_COMMIT_MISMATCH.finding(message).by(rfc).on_some(octets));
}

check! { Exchange(subnet_selection_not_echoed),
    /// a reply's subnet selection (118) is not the one that the client sent
    ///
    /// It shows the client that the server heeded it, so another one means that the address is of another subnet.
    static SUBNET_SELECTION_NOT_ECHOED = "subnet-selection-not-echoed", Error, Exchange, "RFC 3011, section 2";
    v4_exchange!("", "subnet-selection = \"10.64.4.0\"\n", "", "subnet-selection = \"10.64.6.0\"\n")
}

fn subnet_selection_not_echoed(request: &MessageContext<'_>, reply: &MessageContext<'_>, findings: &mut Findings) {
    let (Some(_), Some(echoed)) = (reply.v4(), reply.option(118)) else { return };
    let sent = request.option(118);
    if sent.is_none_or(|sent| sent.octets != echoed.octets) {
        let message = format!("{} differs from the request", reply.label(118));
        findings.push(SUBNET_SELECTION_NOT_ECHOED.finding(message).on(reply.around(echoed)));
    }
}

check! { Exchange(inform_answered_with_lease),
    /// a client that has its address already is answered with an address or a lease
    ///
    /// It would take the lease for its own, and renew an address that no server gave it.
    static INFORM_ANSWERED_WITH_LEASE = "inform-answered-with-lease", Error, Exchange, "RFC 2131, section 4.3.5";
    Example::Exchange(
        Protocol::V4,
        "type = \"inform\"\nciaddr = \"10.64.4.20\"\nchaddr = \"02:00:5e:00:53:11\"\n",
        "type = \"ack\"\nyiaddr = \"10.64.4.20\"\nchaddr = \"02:00:5e:00:53:11\"\n[options]\ndhcp-server-id = \"10.64.0.67\"\naddress-time = \"8h\"\n"
    )
}

fn inform_answered_with_lease(request: &MessageContext<'_>, reply: &MessageContext<'_>, findings: &mut Findings) {
    let Some((_, header)) = reply.v4().filter(|_| request.is(MessageType::INFORM.0)) else { return };
    let rule = &INFORM_ANSWERED_WITH_LEASE;
    if let Some(place) = [51, 58, 59].into_iter().find_map(|code| reply.option(code)) {
        let message = format!("{} is in a reply to a DHCPINFORM", reply.label(place.code));
        findings.push(rule.finding(message).on(reply.around(place)));
    }
    if !header.yiaddr.is_unspecified() {
        let finding = rule.finding(format!("yiaddr is {} in a reply to a DHCPINFORM", header.yiaddr));
        findings.push(finding.as_severity(Severity::Warning).on(16..20));
    }
}
