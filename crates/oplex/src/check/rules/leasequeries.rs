//! Rules about the contents of lease queries.

use crate::check::context::MessageContext;
use crate::check::declare::{OptionValue, check, checks, v6_message};
use crate::family::Protocol;
use crate::finding::{Example, Finding, Findings};
use crate::layout::Value;

checks! { LEASEQUERY_INCOMPLETE, LEASEQUERY_LINK_INVALID, CLIENT_DATA_INCOMPLETE, RELAY_DATA_NOT_RELAYED, TLS_MESSAGE_WITH_OPTIONS }

check! { Value(leasequery_incomplete),
    /// a lease query without the option that its type queries by, or of a type that is not defined
    ///
    /// The server answers that the query is malformed.
    static LEASEQUERY_INCOMPLETE = "leasequery-incomplete", Error, Options("v6:44"), "RFC 5007, section 4.1.2.1";
    Example::Payload("v6:44", "0100000000000000000000000000000000")
}

fn leasequery_incomplete(one: &OptionValue<'_>) -> Option<Finding> {
    let kind = one.value().field("query-type")?.number()?;
    // RFC 5007, section 4.1.2.1 and RFC 5460, section 5.3; a link's address stands in the query itself.
    let (needed, rfc) = match kind {
        1 => (5, "RFC 5007, section 4.1.2.1"),
        2 => (1, "RFC 5007, section 4.1.2.1"),
        3 => (53, "RFC 5460, section 5.3.1"),
        5 => (37, "RFC 5460, section 5.3.3"),
        4 => return None,
        _ => return Some(LEASEQUERY_INCOMPLETE.finding(format!("query type {kind} is not defined"))),
    };
    let has = one.inside().any(|inner| inner.code == needed);
    (!has).then(|| {
        let label = one.view.codebook.label(Protocol::V6, needed);
        LEASEQUERY_INCOMPLETE.finding(format!("a query of type {kind} must hold {label}")).by(rfc)
    })
}

check! { Value(leasequery_link_invalid),
    /// a lease query whose link address is neither an address of a link nor ::
    ///
    /// The server knows no such link, and finds nothing.
    static LEASEQUERY_LINK_INVALID = "leasequery-link-invalid", Error, Options("v6:44"), "RFC 5007, section 4.1.2.1";
    Example::Payload("v6:44", "04ff020000000000000000000000000001")
}

fn leasequery_link_invalid(one: &OptionValue<'_>) -> Option<Finding> {
    let Value::Ipv6(link) = one.value().field("link-address")? else { return None };
    let what = match () {
        () if link.is_multicast() => "a multicast address",
        () if link.is_loopback() => "a loopback address",
        () if link.is_unicast_link_local() => "a link-local address",
        () => return None,
    };
    Some(LEASEQUERY_LINK_INVALID.finding(format!("link-address {link} is {what}; it must be global or ::")))
}

check! { Value(client_data_incomplete),
    /// what a lease query finds about a client lacks the client, its lease, or when it was last heard
    ///
    /// Relay agents restore their routes from it, and cannot without all three.
    static CLIENT_DATA_INCOMPLETE = "client-data-incomplete", Error, Options("v6:45"), "RFC 5007, section 4.4.2";
    Example::Payload("v6:45", "0001000a0003000102005e005311")
}

fn client_data_incomplete(one: &OptionValue<'_>) -> Option<Finding> {
    let has = |codes: &[u16]| one.inside().any(|inner| codes.contains(&inner.code));
    // Failover partners send whole associations (RFC 8156, section 7.4), and say in their own way when.
    if has(&[3, 4, 25]) || matches!(one.view.message, Some((Protocol::V6, 24..=35))) {
        return None;
    }
    let wanted: [&[u16]; 3] = [&[1], &[5, 26], &[46]];
    let missing = wanted.into_iter().find(|codes| !has(codes))?;
    let names: Vec<String> = missing.iter().map(|code| one.view.codebook.label(Protocol::V6, *code)).collect();
    Some(CLIENT_DATA_INCOMPLETE.finding(format!("{} is missing", names.join(" or "))))
}

check! { Value(relay_data_not_relayed),
    /// the relay data of a lease query that are not those of a Relay-forward
    ///
    /// They are the message of the relay agent, without the client's message in it.
    static RELAY_DATA_NOT_RELAYED = "relay-data-not-relayed", Error, Options("v6:47"), "RFC 5007, section 4.1.2.4";
    Example::Payload("v6:47", "fe8000000000000000000000000000010d0020010db8006400100000000000000001fe800000000000000000000000000001")
}

fn relay_data_not_relayed(one: &OptionValue<'_>) -> Option<Finding> {
    let kind = one.octets.get(16)?;
    (*kind != 12)
        .then(|| RELAY_DATA_NOT_RELAYED.finding(format!("the message is of type {kind}, not a Relay-forward (12)")))
}

check! { Message(tls_message_with_options),
    /// a message that requests TLS has options
    ///
    /// Whoever receives it ignores them; they belong into the messages that follow.
    static TLS_MESSAGE_WITH_OPTIONS = "tls-message-with-options", Warning, Message(V4, V6), "RFC 7653, section 6.2.2";
    v6_message("type = 23\ntransaction = 7\n[options]\nclientid = \"00:03:00:01:02:00:5e:00:53:11\"\n")
}

fn tls_message_with_options(context: &MessageContext<'_>, findings: &mut Findings) {
    let (kind, rfc) = match context.protocol() {
        Protocol::V4 => (18, "RFC 7724, section 7.2"),
        Protocol::V6 => (23, "RFC 7653, section 6.2.2"),
        Protocol::Ra => return,
    };
    let mut others = context.top().filter(|place| context.v4().is_none() || place.code != 53);
    if let Some(place) = others.next().filter(|_| context.is(kind)) {
        let message = format!("{} is in {}, which has no options", context.label(place.code), context.called());
        findings.push(TLS_MESSAGE_WITH_OPTIONS.finding(message).by(rfc).on(context.around(place)));
    }
}
