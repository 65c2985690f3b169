//! Rules about what must agree: in a reply with its request, and in one message with itself.

use std::collections::{HashMap, HashSet};
use std::net::Ipv6Addr;

use crate::check::context::{MessageContext, Occurrence};
use crate::check::declare::{OptionValue, check, checks, v4_exchange, v6_exchange, v6_message};
use crate::family::Protocol;
use crate::finding::{Example, Finding, Findings};
use crate::layout::{Value, duration_text};
use crate::octets::number;
use crate::packet::v6::MessageType;

checks! {
    RELAY_REPLY_OF_ANOTHER, FQDN_FLAGS_NOT_ANSWERED, SERVER_IDENTIFIER_NOT_OVERRIDDEN, ARCHITECTURE_NOT_REQUESTED,
    IDENTITY_TIMES_DIFFER, RELAY_LINK_UNIDENTIFIED, CLIENT_LINKS_WITH_DATA, CAPTIVE_PORTAL_TOO_LONG,
    MULTICAST_SCOPE_REPEATED
}

check! { Exchange(relay_reply_of_another),
    /// a Relay-reply lacks the link, the peer or an option of the Relay-forward that it must return
    ///
    /// The relay agent finds the client by them, and sends the reply to another or to none.
    static RELAY_REPLY_OF_ANOTHER = "relay-reply-of-another", Error, Exchange, "RFC 8415, section 19.3";
    v6_exchange!(
        "type = \"relay-forward\"\nlink = \"2001:db8:64:10::1\"\npeer = \"fe80::1\"\n[options]\ninterface-id = { text = \"mast/1\" }\n\
         relay-msg = \"0b:00:00:07:00:08:00:02:00:00:00:06:00:06:00:17:00:20:00:53\"\n",
        "type = \"relay-reply\"\nlink = \"2001:db8:64:10::1\"\npeer = \"fe80::1\"\n[options]\ninterface-id = { text = \"mast/2\" }\n\
         relay-msg = \"07:00:00:07:00:02:00:0a:00:03:00:01:00:00:5e:00:53:01\"\n"
    )
}

fn relay_reply_of_another(request: &MessageContext<'_>, reply: &MessageContext<'_>, findings: &mut Findings) {
    let (Some(asked), Some(answer)) = (request.v6(), reply.v6()) else { return };
    let (Some(forward), Some(back)) = (asked.relay(), answer.relay()) else { return };
    let header = [("link address", forward.link, back.link, 2..18), ("peer address", forward.peer, back.peer, 18..34)];
    for (name, sent, returned, octets) in header {
        if sent != returned {
            let finding = RELAY_REPLY_OF_ANOTHER.finding(format!("the {name} is {returned}, not {sent}"));
            findings.push(finding.on(reply.at(octets)));
        }
    }
    // The interface and the port always come back, the others where the relay agent requests them.
    let mut wanted: HashMap<u16, &str> =
        HashMap::from([(18, "RFC 8415, section 19.3"), (135, "RFC 8357, section 5.3")]);
    for code in request.option(43).and_then(|place| request.value(place)).map(codes).unwrap_or_default() {
        wanted.entry(code).or_insert("RFC 4994, section 5");
    }
    let returns: HashMap<u16, &Occurrence<'_>> = reply.top().map(|place| (place.code, place)).collect();
    for sent in request.top() {
        let code = sent.code;
        let Some(rfc) = wanted.remove(&code) else { continue };
        let returned = returns.get(&code).copied();
        if returned.is_none_or(|returned| returned.octets != sent.octets) {
            let what = if returned.is_some() { "is not the one" } else { "is missing, which is" };
            let message = format!("{} {what} of the Relay-forward", reply.label(code));
            let octets = returned.map_or_else(|| reply.at(0..34), |place| reply.around(place));
            findings.push(RELAY_REPLY_OF_ANOTHER.finding(message).by(rfc).on(octets));
        }
    }
}

/// The codes that a list of them holds.
fn codes(value: &Value) -> Vec<u16> {
    let Value::List(items) = value else { return Vec::new() };
    items.iter().filter_map(|item| u16::try_from(item.number()?).ok()).collect()
}

check! { Exchange(fqdn_flags_not_answered),
    /// the flags of a reply's client FQDN do not answer those of the client
    ///
    /// The client reads the name in the wrong encoding, or thinks that the server does as it asked.
    static FQDN_FLAGS_NOT_ANSWERED = "fqdn-flags-not-answered", Error, Exchange, "RFC 4702, sections 2.1 and 4";
    v4_exchange!("", "client-fqdn = { flags = \"s+e\", rcode1 = 0, rcode2 = 0, name = \"dome-3.tarnfell.example.\" }\n", "",
        "client-fqdn = { flags = \"e\", rcode1 = 255, rcode2 = 255, name = \"dome-3.tarnfell.example.\" }\n")
}

fn fqdn_flags_not_answered(request: &MessageContext<'_>, reply: &MessageContext<'_>, findings: &mut Findings) {
    let (code, rfc, bits) = match reply.protocol() {
        Protocol::V4 => (81, "RFC 4702, sections 2.1 and 4", [1, 2, 4]),
        // There is one encoding.
        Protocol::V6 => (39, "RFC 4704, section 4.1", [1, 2, 0]),
        Protocol::Ra => return,
    };
    let flags = |context: &MessageContext<'_>| context.value(context.option(code)?)?.field("flags")?.number();
    let (Some(sent), Some(returned), Some(place)) = (flags(request), flags(reply), reply.option(code)) else { return };
    let [s, o, e] = bits;
    let message = match (sent ^ returned, returned & o != 0) {
        (changed, _) if changed & e != 0 => "flag e differs from the client's, so the name has another encoding",
        (changed, false) if changed & s != 0 => "flag s differs from the client's, but o is not set",
        (changed, true) if changed & s == 0 => "flag o is set, but s is the client's",
        _ => return,
    };
    findings.push(FQDN_FLAGS_NOT_ANSWERED.finding(message).by(rfc).on(reply.around(place)));
}

check! { Exchange(server_identifier_not_overridden),
    /// a reply's server identifier (54) is not the one that the relay agent requests (82/11)
    ///
    /// The client renews past the relay agent, and the server misses what the relay agent adds.
    static SERVER_IDENTIFIER_NOT_OVERRIDDEN = "server-identifier-not-overridden", Error, Exchange, "RFC 5107, section 4";
    v4_exchange!(
        "giaddr = \"10.64.4.1\"\nhops = 1\n", "relay-agent-information = { server-identifier-override = \"10.64.4.1\" }\n",
        "giaddr = \"10.64.4.1\"\n", "relay-agent-information = { server-identifier-override = \"10.64.4.1\" }\n"
    )
}

fn server_identifier_not_overridden(request: &MessageContext<'_>, reply: &MessageContext<'_>, findings: &mut Findings) {
    let Some(relay) = request.option(82).filter(|_| reply.v4().is_some()) else { return };
    let wanted = request.value(relay).and_then(|value| value.option(11));
    let (Some(Value::Ipv4(wanted)), Some(place)) = (wanted, reply.option(54)) else { return };
    if *place.octets != wanted.octets() {
        let message = format!("{} is not {wanted}, which the relay agent requests", reply.label(54));
        findings.push(SERVER_IDENTIFIER_NOT_OVERRIDDEN.finding(message).on(reply.around(place)));
    }
}

check! { Exchange(architecture_not_requested),
    /// a reply names a system architecture (61) that the client did not
    ///
    /// The client cannot run the boot file that is for it.
    static ARCHITECTURE_NOT_REQUESTED = "architecture-not-requested", Error, Exchange, "RFC 5970, section 3.3";
    v6_exchange!(
        "type = \"information-request\"\ntransaction = 7\n[options]\nelapsed-time = 0\noro = [32, 59, 83]\nclient-arch-type = \"x64-uefi\"\n",
        "type = \"reply\"\ntransaction = 7\n[options]\nserverid = \"00:03:00:01:00:00:5e:00:53:01\"\nclient-arch-type = \"x86-uefi\"\n"
    )
}

fn architecture_not_requested(request: &MessageContext<'_>, reply: &MessageContext<'_>, findings: &mut Findings) {
    let (Some(place), Some(sent)) = (reply.option(61), request.option(61)) else { return };
    if reply.v6().is_none() {
        return;
    }
    let of_client: HashSet<&[u8]> = sent.octets.chunks(2).collect();
    if let Some(other) = place.octets.chunks(2).find(|architecture| !of_client.contains(architecture)) {
        let number = number(other);
        let message = format!("architecture {number} is none that the client named");
        findings.push(ARCHITECTURE_NOT_REQUESTED.finding(message).on(reply.around(place)));
    }
}

check! { Message(identity_times_differ),
    /// the identity associations of a reply have different T1 or T2
    ///
    /// The client renews all of them at once, and can do so only at one time.
    static IDENTITY_TIMES_DIFFER = "identity-times-differ", Error, Message(V6), "RFC 8415, sections 18.1 and 18.3.2";
    v6_message("type = \"reply\"\n[options]\nserverid = \"00:03:00:01:00:00:5e:00:53:01\"\nclientid = \"00:03:00:01:02:00:5e:00:53:11\"\n\
        ia-na = { iaid = 1, t1 = \"4h\", t2 = \"6h\", options = {} }\nia-pd = { iaid = 1, t1 = \"2h\", t2 = \"6h\", options = {} }\n")
}

fn identity_times_differ<'m>(context: &MessageContext<'m>, findings: &mut Findings) {
    let replies = context.is(MessageType::ADVERTISE.0) || context.is(MessageType::REPLY.0);
    let mut associations = context.top().filter(|place| replies && matches!(place.code, 3 | 25));
    let Some(first) = associations.next() else { return };
    // Behind the IAID of four octets, each in four (RFC 8415, sections 21.4 and 21.21).
    let time = |place: &Occurrence<'m>, at: usize| {
        let octets = place.octets.get(at..at + 4)?;
        Some(number(octets) as u32)
    };
    for other in associations {
        for (name, at) in [("t1", 4), ("t2", 8)] {
            let (Some(one), Some(two)) = (time(first, at), time(other, at)) else { continue };
            if one != two {
                let [one, two] = [one, two].map(duration_text);
                let message = format!("{name} is {two}, but {one} in the first identity association");
                findings.push(IDENTITY_TIMES_DIFFER.finding(message).borne().on(context.around(other)));
            }
        }
    }
}

check! { Message(relay_link_unidentified),
    /// a Relay-forward of a client's message has neither a link address nor an Interface-Id (18)
    ///
    /// The relay agent cannot tell from the reply on which interface the client is.
    static RELAY_LINK_UNIDENTIFIED = "relay-link-unidentified", Error, Message(V6), "RFC 8415, section 19.1.1";
    v6_message("type = \"relay-forward\"\nlink = \"::\"\npeer = \"fe80::1\"\n\
        options = { relay-msg = \"0b:00:00:07:00:08:00:02:00:00:00:06:00:06:00:17:00:20:00:53\" }\n")
}

fn relay_link_unidentified(context: &MessageContext<'_>, findings: &mut Findings) {
    let Some(message) = context.v6().filter(|message| message.message_type() == MessageType::RELAY_FORWARD) else {
        return;
    };
    let unknown = message.relay().is_some_and(|relay| relay.link.is_unspecified()) && !context.has(18);
    // A relay agent that relays for another one may leave it to that.
    let of_client = matches!(message.relayed(), Some((Ok(inner), _)) if !inner.message_type().is_relays());
    if unknown && of_client {
        let finding = RELAY_LINK_UNIDENTIFIED.finding(format!("the link address is ::, without {}", context.label(18)));
        findings.push(finding.on(context.at(2..18)));
    }
}

check! { Message(client_links_with_data),
    /// a lease query is answered with the links of a client (48) and with its data (45)
    ///
    /// The requestor must then query each link, and cannot say of which one the data are.
    static CLIENT_LINKS_WITH_DATA = "client-links-with-data", Error, Message(V6), "RFC 5007, section 4.4.1";
    v6_message("type = 15\ntransaction = 7\n[options]\nclientid = \"00:03:00:01:02:00:5e:00:53:11\"\n\
        serverid = \"00:03:00:01:00:00:5e:00:53:01\"\nlq-client-link = \"2001:db8:64:10::1\"\n\
        client-data = { clientid = \"00:03:00:01:02:00:5e:00:53:11\", clt-time = 60, \
        iaaddr = { address = \"2001:db8:64:10::20\", preferred-lifetime = \"4h\", valid-lifetime = \"8h\", options = {} } }\n")
}

fn client_links_with_data(context: &MessageContext<'_>, findings: &mut Findings) {
    if let (Some(links), true) = (context.option(48), context.v6().is_some() && context.has(45)) {
        let message = format!("{} beside {}", context.label(48), context.label(45));
        findings.push(CLIENT_LINKS_WITH_DATA.finding(message).on(context.around(links)));
    }
}

check! { Value(captive_portal_too_long),
    /// a captive portal whose URI has more than the 255 octets that DHCPv4 can carry
    ///
    /// Hosts that learn of the portal by DHCPv4 learn of another, and must not.
    static CAPTIVE_PORTAL_TOO_LONG = "captive-portal-too-long", Warning, Options("v6:103", "ra:37"), "RFC 8910, section 2";
    Example::Payload("v6:103", PORTAL)
}

/// `https://portal.example/` and 240 letters.
const PORTAL: &str = concat!(
    "68747470733a2f2f706f7274616c2e6578616d706c652f",
    "616161616161616161616161616161616161616161616161616161616161616161616161616161616161616161616161616161616161616161616161",
    "616161616161616161616161616161616161616161616161616161616161616161616161616161616161616161616161616161616161616161616161",
    "616161616161616161616161616161616161616161616161616161616161616161616161616161616161616161616161616161616161616161616161",
    "616161616161616161616161616161616161616161616161616161616161616161616161616161616161616161616161616161616161616161616161",
);

fn captive_portal_too_long(one: &OptionValue<'_>) -> Option<Finding> {
    if one.octets.len() <= 255 {
        return None;
    }
    let length = one.text()?.len();
    (length > 255).then(|| CAPTIVE_PORTAL_TOO_LONG.finding(format!("the URI has {length} octets; DHCPv4 carries 255")))
}

check! { Message(multicast_scope_repeated),
    /// two options (113) with different multicast prefixes of one scope
    ///
    /// The client cannot tell which prefix a group of that scope has, and discards both.
    static MULTICAST_SCOPE_REPEATED = "multicast-scope-repeated", Error, Message(V6), "RFC 8115, section 4";
    v6_message("type = \"reply\"\noptions = [{ serverid = \"00:03:00:01:00:00:5e:00:53:01\" }, \
        { v6-prefix64 = { hex = \"60ff0e0db800010000000000000000\" } }, { v6-prefix64 = { hex = \"60ff0e0db800020000000000000000\" } }]\n")
}

fn multicast_scope_repeated(context: &MessageContext<'_>, findings: &mut Findings) {
    if !context.marks.is_repeated {
        return;
    }
    let mut known: HashMap<(&str, u8), Ipv6Addr> = HashMap::new();
    for place in context.top().filter(|place| place.is(Protocol::V6, 113)) {
        let value = context.value(place);
        for name in ["asm-prefix", "ssm-prefix"] {
            let prefix = value.and_then(|value| value.field(name));
            let Some(Value::Prefix6(prefix)) =
                prefix.filter(|prefix| !matches!(prefix, Value::Prefix6(one) if one.length == 0))
            else {
                continue;
            };
            // The scope is in the second octet (RFC 4291, section 2.7).
            let scope = prefix.prefix.octets()[1] & 15;
            if *known.entry((name, scope)).or_insert(prefix.prefix) != prefix.prefix {
                let message = format!("{name} has the scope {scope} of an earlier {}", context.label(113));
                findings.push(MULTICAST_SCOPE_REPEATED.finding(message).on(context.around(place)));
            }
        }
    }
}
