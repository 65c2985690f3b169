//! What a reply must have of its request, and what one message must have of itself.

use oplex::check;
use oplex::codebook::Codebook;
use oplex::family::Protocol;
use oplex::finding::Finding;
use oplex::packet::AnyMessage;
use oplex::specimen::Specimen;

fn octets(protocol: Protocol, text: &str) -> Vec<u8> {
    let specimen = Specimen::read(protocol, "message.toml", text, &mut |_| Err("no such file".into()));
    assert_eq!(specimen.findings, [], "{text}");
    specimen.octets.unwrap()
}

fn said(finding: &Finding) -> String {
    let place = finding.octets.clone().unwrap_or_default();
    format!("{} {}: {} [{}..{}]", finding.severity, finding.rule.name, finding.message, place.start, place.end)
}

/// What is found in a reply beside its request, with its octets.
fn exchange(protocol: Protocol, request: &str, reply: &str) -> Vec<String> {
    let (request, reply) = (octets(protocol, request), octets(protocol, reply));
    let [asked, answer] = [&request, &reply].map(|octets| AnyMessage::read(protocol, octets).unwrap());
    check::exchange(Codebook::standard(), asked, answer).iter().map(said).collect()
}

/// What a rule finds in a message.
fn found(protocol: Protocol, text: &str, rule: &str) -> Vec<String> {
    let octets = octets(protocol, text);
    let message = AnyMessage::read(protocol, &octets).unwrap();
    let found = check::message(Codebook::standard(), message);
    found.iter().filter(|finding| finding.rule.name == rule).map(said).collect()
}

const NOTHING: [&str; 0] = [];

/// An Information-request and its Reply.
const ASKED: &str = "0b:00:00:07:00:08:00:02:00:00:00:06:00:06:00:17:00:20:00:53";
const ANSWERED: &str = "07:00:00:07:00:02:00:0a:00:03:00:01:00:00:5e:00:53:01";

fn relayed(kind: &str, link: &str, peer: &str, options: &str) -> String {
    let inner = if kind == "relay-forward" { ASKED } else { ANSWERED };
    format!("type = \"{kind}\"\nlink = \"{link}\"\npeer = \"{peer}\"\n[options]\n{options}relay-msg = \"{inner}\"\n")
}

#[test]
fn a_relay_reply_is_the_one_of_its_relay_forward() {
    let link = "2001:db8:64:10::1";
    let forward = |options: &str| relayed("relay-forward", link, "fe80::1", options);
    let reply = |link: &str, peer: &str, options: &str| relayed("relay-reply", link, peer, options);
    let interface = "interface-id = { text = \"mast/1\" }\n";
    let found = |sent: &str, returned: &str| exchange(Protocol::V6, sent, returned);
    assert_eq!(found(&forward(interface), &reply(link, "fe80::1", interface)), NOTHING);
    assert_eq!(found(&forward(""), &reply(link, "fe80::1", "")), NOTHING);
    assert_eq!(
        found(&forward(""), &reply("2001:db8:64:10::2", "fe80::1", "")),
        ["error relay-reply-of-another: the link address is 2001:db8:64:10::2, not 2001:db8:64:10::1 [2..18]"]
    );
    assert_eq!(
        found(&forward(""), &reply(link, "fe80::2", "")),
        ["error relay-reply-of-another: the peer address is fe80::2, not fe80::1 [18..34]"]
    );
    assert_eq!(
        found(&forward(interface), &reply(link, "fe80::1", "")),
        ["error relay-reply-of-another: v6:18 interface-id is missing, which is of the Relay-forward [0..34]"]
    );
    // What the relay agent keeps comes back only when it asks for it (RFC 4994).
    let remote = "remote-id = { enterprise = 32473, remote-id = \"01:02\" }\n";
    assert_eq!(found(&forward(remote), &reply(link, "fe80::1", "")), NOTHING);
    let echoed = format!("{remote}ero = [37]\n");
    assert_eq!(
        found(&forward(&echoed), &reply(link, "fe80::1", "")),
        ["error relay-reply-of-another: v6:37 remote-id is missing, which is of the Relay-forward [0..34]"]
    );
    assert_eq!(found(&forward(&echoed), &reply(link, "fe80::1", remote)), NOTHING);
    // Codes that the relay agent lists and does not send are nobody's to return.
    assert_eq!(found(&forward("ero = [37, 38]\n"), &reply(link, "fe80::1", "")), NOTHING);
}

/// The findings of an exchange behind two relay agents stand where the inner messages are.
#[test]
fn exchanges_are_looked_at_through_all_relay_agents() {
    let nested = |kind: &str, id: &str, transaction: u8| {
        let inner = if kind == "relay-forward" { "information-request" } else { "reply" };
        let options = match inner {
            "reply" => "serverid = \"00:03:00:01:00:00:5e:00:53:01\"\n",
            _ => "elapsed-time = 0\noro = [23, 32, 83]\n",
        };
        format!(
            "type = \"{kind}\"\nlink = \"2001:db8:64:20::1\"\npeer = \"2001:db8:64:10::1\"\nhops = 1\n[message]\n\
             type = \"{kind}\"\nlink = \"2001:db8:64:10::1\"\npeer = \"fe80::1\"\n[message.options]\n\
             interface-id = {{ text = \"{id}\" }}\n[message.message]\ntype = \"{inner}\"\ntransaction = {transaction}\n\
             [message.message.options]\n{options}"
        )
    };
    let asked = nested("relay-forward", "mast/1", 7);
    assert_eq!(exchange(Protocol::V6, &asked, &nested("relay-reply", "mast/1", 7)), NOTHING);
    // 34 octets of each header, 4 of the option that carries the next message, and 10 of the interface.
    assert_eq!(
        exchange(Protocol::V6, &asked, &nested("relay-reply", "mast/2", 7)),
        ["error relay-reply-of-another: v6:18 interface-id is not the one of the Relay-forward [72..82]"]
    );
    assert_eq!(
        exchange(Protocol::V6, &asked, &nested("relay-reply", "mast/1", 8)),
        ["error reply-does-not-match-request: the transaction ID differs from the request [87..90]"]
    );
}

fn discover(options: &str) -> String {
    format!("type = \"discover\"\nchaddr = \"02:00:5e:00:53:11\"\n[options]\n{options}")
}

fn offer(options: &str) -> String {
    format!(
        "type = \"offer\"\nyiaddr = \"10.64.4.20\"\nchaddr = \"02:00:5e:00:53:11\"\n[options]\n\
         dhcp-server-id = \"10.64.0.67\"\naddress-time = \"8h\"\n{options}"
    )
}

#[test]
fn a_server_answers_the_flags_of_a_name() {
    let sent = |flags: &str| {
        let name = format!("{{ flags = \"{flags}\", rcode1 = 0, rcode2 = 0, name = \"dome-3.tarnfell.example.\" }}");
        discover(&format!("client-fqdn = {name}\n"))
    };
    let returned = |flags: &str| {
        let name =
            format!("{{ flags = \"{flags}\", rcode1 = 255, rcode2 = 255, name = \"dome-3.tarnfell.example.\" }}");
        offer(&format!("client-fqdn = {name}\n"))
    };
    let found = |asked: &str, answered: &str| exchange(Protocol::V4, &sent(asked), &returned(answered));
    for (asked, answered) in [("s+e", "s+e"), ("e", "e"), ("e", "s+o+e"), ("s+e", "o+e"), ("n+e", "n+e")] {
        assert_eq!(found(asked, answered), NOTHING, "{asked} {answered}");
    }
    for (asked, answered, why) in [
        ("s+e", "e", "flag s differs from the client's, but o is not set"),
        ("e", "s+e", "flag s differs from the client's, but o is not set"),
        ("s+e", "s+o+e", "flag o is set, but s is the client's"),
    ] {
        let found = found(asked, answered);
        assert!(found.len() == 1 && found[0].contains(why), "{asked} {answered}: {found:?}");
    }
    // The reply has the encoding of the request, which is ASCII without the flag.
    let ascii = discover("client-fqdn = { flags = \"s\", rcode1 = 0, rcode2 = 0, name = \"dome-3\" }\n");
    let found = exchange(Protocol::V4, &ascii, &returned("s+e"));
    assert!(found.len() == 1 && found[0].contains("another encoding"), "{found:?}");
    // A reply without the option says nothing.
    assert_eq!(exchange(Protocol::V4, &sent("s+e"), &offer("")), NOTHING);
}

#[test]
fn dhcpv6_names_have_one_encoding() {
    let solicit = |flags: &str| {
        format!(
            "type = \"solicit\"\ntransaction = 7\n[options]\nclientid = \"00:03:00:01:02:00:5e:00:53:11\"\nelapsed-time = 0\n\
             oro = [39, 82]\nclient-fqdn = {{ flags = \"{flags}\", name = \"dome-3.tarnfell.example.\" }}\n"
        )
    };
    let advertise = |flags: &str| {
        format!(
            "type = \"advertise\"\ntransaction = 7\n[options]\nclientid = \"00:03:00:01:02:00:5e:00:53:11\"\n\
             serverid = \"00:03:00:01:00:00:5e:00:53:01\"\n\
             client-fqdn = {{ flags = \"{flags}\", name = \"dome-3.tarnfell.example.\" }}\n"
        )
    };
    assert_eq!(exchange(Protocol::V6, &solicit("s"), &advertise("s")), NOTHING);
    assert_eq!(exchange(Protocol::V6, &solicit("s"), &advertise("o")), NOTHING);
    let found = exchange(Protocol::V6, &solicit("none"), &advertise("s"));
    assert!(found.len() == 1 && found[0].contains("fqdn-flags-not-answered"), "{found:?}");
}

#[test]
fn a_server_is_who_the_relay_agent_says() {
    let relay = "relay-agent-information = { server-identifier-override = \"10.64.4.1\" }\n";
    let asked = format!("giaddr = \"10.64.4.1\"\nhops = 1\n{}", discover(relay));
    let answered = |server: &str| format!("giaddr = \"10.64.4.1\"\n{}", offer(relay).replace("10.64.0.67", server));
    assert_eq!(exchange(Protocol::V4, &asked, &answered("10.64.4.1")), NOTHING);
    let found = exchange(Protocol::V4, &asked, &answered("10.64.0.67"));
    assert!(found.len() == 1 && found[0].contains("is not 10.64.4.1, which the relay agent requests"), "{found:?}");
}

#[test]
fn a_server_names_architectures_of_the_client() {
    let asked = |list: &str| {
        format!(
            "type = \"information-request\"\ntransaction = 7\n[options]\nelapsed-time = 0\noro = [32, 59, 83]\n\
             client-arch-type = [{list}]\n"
        )
    };
    let answered = |list: &str| {
        format!(
            "type = \"reply\"\ntransaction = 7\n[options]\nserverid = \"00:03:00:01:00:00:5e:00:53:01\"\n\
             client-arch-type = [{list}]\n"
        )
    };
    for (sent, returned, right) in [("7, 9", "9", true), ("7", "7", true), ("7", "9", false), ("7, 9", "9, 11", false)]
    {
        let found = exchange(Protocol::V6, &asked(sent), &answered(returned));
        let right = found.is_empty() == right && found.iter().all(|one| one.contains("architecture-not-requested"));
        assert!(right, "{sent} {returned}: {found:?}");
    }
}

fn reply(options: &str) -> String {
    format!(
        "type = \"reply\"\ntransaction = 7\n[options]\nclientid = \"00:03:00:01:02:00:5e:00:53:11\"\n\
         serverid = \"00:03:00:01:00:00:5e:00:53:01\"\n{options}"
    )
}

#[test]
fn associations_are_renewed_together() {
    let two = |first: &str, second: &str| {
        reply(&format!(
            "ia-na = {{ iaid = 1, {first}, options = {{}} }}\nia-pd = {{ iaid = 1, {second}, options = {{}} }}\n"
        ))
    };
    let times = "t1 = \"4h\", t2 = \"6h\"";
    let found = |text: &str| found(Protocol::V6, text, "identity-times-differ");
    assert_eq!(found(&two(times, times)), NOTHING);
    // Clients must bear it (RFC 8415, section 18.1), so that a reader is warned.
    assert_eq!(
        found(&two(times, "t1 = \"2h\", t2 = \"6h\"")),
        ["warning identity-times-differ: t1 is 2h, but 4h in the first identity association [48..64]"]
    );
    assert_eq!(found(&two(times, "t1 = \"2h\", t2 = \"5h\"")).len(), 2);
    // What a client says of it the server ignores.
    let client = two(times, "t1 = \"2h\", t2 = \"6h\"").replace("type = \"reply\"", "type = \"request\"");
    assert_eq!(found(&client), NOTHING);
}

#[test]
fn a_relay_agent_finds_its_client_again() {
    let forward = |link: &str, options: &str| relayed("relay-forward", link, "fe80::1", options);
    let found = |text: &str| found(Protocol::V6, text, "relay-link-unidentified").len();
    assert_eq!(found(&forward("::", "")), 1);
    assert_eq!(found(&forward("::", "interface-id = { text = \"mast/1\" }\n")), 0);
    assert_eq!(found(&forward("2001:db8:64:10::1", "")), 0);
    // It may leave that to the relay agent before it.
    let outer = "type = \"relay-forward\"\nlink = \"::\"\npeer = \"2001:db8:64:10::1\"\nhops = 1\n[message]\n\
        type = \"relay-forward\"\nlink = \"2001:db8:64:10::1\"\npeer = \"fe80::1\"\n[message.message]\n\
        type = \"information-request\"\n[message.message.options]\nelapsed-time = 0\noro = [23, 32, 83]\n";
    assert_eq!(found(outer), 0);
}

#[test]
fn a_portal_is_the_same_by_both_families() {
    let codebook = Codebook::standard();
    for (option, padded) in [("v6:103", false), ("ra:37", true)] {
        let definition = codebook.find(option).unwrap();
        for (length, count) in [(255, 0), (256, 1)] {
            let mut octets = format!("https://portal.example/{}", "a".repeat(length - 23)).into_bytes();
            // An advertisement's options end at multiples of eight octets, type and length counted in.
            octets.resize(if padded { (octets.len() + 2).next_multiple_of(8) - 2 } else { octets.len() }, 0);
            let found = check::payload(codebook, definition, &octets);
            let found = found.iter().filter(|finding| finding.rule.name == "captive-portal-too-long");
            assert_eq!(found.count(), count, "{option} {length}");
        }
    }
}

#[test]
fn prefixes_for_multicast_have_scopes_of_their_own() {
    let both = |first: &str, second: &str| {
        format!(
            "type = \"reply\"\ntransaction = 7\noptions = [{{ serverid = \"00:03:00:01:00:00:5e:00:53:01\" }}, \
             {{ v6-prefix64 = {{ hex = \"{first}\" }} }}, {{ v6-prefix64 = {{ hex = \"{second}\" }} }}]\n"
        )
    };
    let (global, other, site) =
        ("60ff0e0db800010000000000000000", "60ff0e0db800020000000000000000", "60ff050db800010000000000000000");
    let found = |one: &str, two: &str| found(Protocol::V6, &both(one, two), "multicast-scope-repeated").len();
    assert_eq!((found(global, other), found(global, site), found(global, global)), (1, 0, 0));
}

#[test]
fn messages_that_ask_for_tls_have_no_options() {
    let found = |protocol, text: &str| found(protocol, text, "tls-message-with-options");
    let v6 = |options: &str| format!("type = 23\ntransaction = 7\n[options]\n{options}");
    assert_eq!(found(Protocol::V6, &v6("")), NOTHING);
    assert_eq!(
        found(Protocol::V6, &v6("clientid = \"00:03:00:01:02:00:5e:00:53:11\"\n")),
        ["warning tls-message-with-options: v6:1 clientid is in a StartTLS, which has no options [4..18]"]
    );
    // Of DHCPv4 no specimen has this type.
    let v4 = |options: &str| format!("after-header = \"63825363 350112 {options} ff\"\n");
    assert_eq!(found(Protocol::V4, &v4("")), NOTHING);
    assert_eq!(found(Protocol::V4, &v4("0c06646f6d652d33")).len(), 1);
}

#[test]
fn a_home_network_is_requested_as_a_whole() {
    let solicit = |codes: &str| {
        format!(
            "type = \"solicit\"\n[options]\nclientid = \"00:03:00:01:02:00:5e:00:53:11\"\nelapsed-time = 0\noro = [82{codes}]\n"
        )
    };
    let found = |codes: &str| found(Protocol::V6, &solicit(codes), "request-list-incomplete");
    assert_eq!(found(""), NOTHING);
    assert_eq!(found(", 49, 70, 71, 72, 73"), NOTHING);
    let found = found(", 70, 71, 72");
    assert_eq!(found.len(), 2, "{found:?}");
    assert!(found[0].contains("who requests v6:70") && found[0].contains("v6:49"), "{found:?}");
}
