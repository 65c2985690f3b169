//! The full names that clients are answered with, in both families: what a plan says, what goes out, and what is wrong.

use std::time::Duration;

use oplex::audit::{Audit, Policy};
use oplex::check;
use oplex::codebook::Codebook;
use oplex::compiled::Compiled;
use oplex::family::{Family, Protocol};
use oplex::octets::hex;
use oplex::packet::AnyMessage;
use oplex::plan::{ClientFacts, Loaded, Plan};
use oplex::release;
use oplex::server::{InMemory, Ingress, Server};

use proptest::prelude::*;

use crate::traffic::seen;

const YARD: &str = "server = \"10.64.0.67\"\nserver-duid = \"00:03:00:01:02:00:5e:00:53:67\"\nfqdn = \"*.tarnfell.example\"\n\
    send.v4 = { domain-server = \"10.64.0.53\", domain-name = \"tarnfell.example\" }\n\
    send.v6 = { dns-servers = \"2001:db8:64::53\" }\n\
    [network.yard]\nsubnet = \"10.64.9.0/24\"\nprefix = \"2001:db8:64:9::/64\"\nadvertise = { managed = true }\n\
    pool = [\"10.64.9.20-10.64.9.99\", \"2001:db8:64:9::100-2001:db8:64:9::1ff\"]\nsend.v4 = { router = \"10.64.9.1\" }\n\
    [network.pier]\nsubnet = \"10.64.10.0/24\"\npool = \"10.64.10.20-10.64.10.29\"\nsend.v4 = { router = \"10.64.10.1\" }\n\
    fqdn = { name = \"*.pier.tarnfell.example.\", updates = true }\n\
    [network.loft]\nsubnet = \"10.64.11.0/24\"\npool = \"10.64.11.20-10.64.11.29\"\nsend.v4 = { router = \"10.64.11.1\" }\n\
    withhold = [\"client-fqdn\"]\n\
    [[reservation]]\nnetwork = \"yard\"\nmac = \"02:00:5e:00:53:07\"\naddress = \"10.64.9.7\"\nfqdn = \"crane.tarnfell.example\"\n";

fn read(text: &str) -> Loaded {
    Plan::read("plan.toml", text, &mut |path| Err(format!("no file {path}").into()))
}

/// The name option of each reply, as people read it.
fn names(compiled: &Compiled<'_>, facts: &ClientFacts, family: Family) -> Vec<Option<String>> {
    let code = if family == Family::V4 { 81 } else { 39 };
    let answer = compiled.answer(family, facts).unwrap();
    let exchange = compiled.exchange(facts, &answer).unwrap();
    let (mut server, mut leases) = (Server::new(compiled), InMemory::default());
    let ingress = Ingress::on(&compiled.networks[facts.network].name);
    let mut names = Vec::new();
    for pair in exchange.messages.windows(2) {
        let [request, reply] = pair else { continue };
        let Ok(message) = AnyMessage::read(family.protocol(), &reply.octets) else { continue };
        if !request.from_client
            || reply.from_client
            || message.protocol() == Protocol::Ra
            || reply.name.contains("Router")
        {
            continue;
        }
        // A server answers with the very octets.
        assert_eq!(
            server.answer(&request.octets, &ingress, &mut leases).unwrap().octets,
            reply.octets,
            "{}",
            reply.name
        );
        let asked = AnyMessage::read(family.protocol(), &request.octets).unwrap();
        let found = check::exchange(Codebook::standard(), asked, message);
        assert!(found.is_empty(), "{found:?}");
        let option = message.options().into_iter().find(|option| option.code() == code);
        names.push(option.map(|option| {
            let definition = Codebook::standard().own(family.protocol(), code).unwrap();
            let (value, faults) = Codebook::standard().decode(definition, &option.joined());
            assert!(faults.is_empty(), "{faults:?}");
            value.unwrap().to_string()
        }));
    }
    names
}

fn client(network: usize, last: u8, fqdn: Option<&str>) -> ClientFacts {
    let mut facts = ClientFacts { mac: Some([2, 0, 0x5e, 0, 0x53, last].into()), ..ClientFacts::on(network) };
    fqdn.into_iter().for_each(|name| facts.describe(Codebook::standard(), "fqdn", name).unwrap());
    facts
}

#[test]
fn clients_that_say_their_name_are_answered_the_full_one() {
    let loaded = read(YARD);
    assert!(check::plan(&loaded).iter().all(|finding| finding.severity != oplex::finding::Severity::Error));
    let compiled = Compiled::of(loaded.plan.as_ref().unwrap());
    let v4 = |flags: &str, name: &str| {
        Some(format!("{{ flags = {flags}, rcode1 = from-server, rcode2 = from-server, name = {name} }}"))
    };
    for (network, last, says, expected) in [
        // Nothing updates DNS, and the client that wishes for it is overridden.
        (0, 0x33, Some("dome-3"), v4("o+e+n", "dome-3.tarnfell.example.")),
        (0, 0x33, Some("dome-3.elsewhere.example"), v4("o+e+n", "dome-3.tarnfell.example.")),
        (0, 0x07, Some("winch"), v4("o+e+n", "crane.tarnfell.example.")),
        (0, 0x33, None, None),
        // Where the server does update it, the client has its wish.
        (1, 0x33, Some("dome-3"), v4("s+e", "dome-3.pier.tarnfell.example.")),
        (2, 0x33, Some("dome-3"), None),
    ] {
        let given = names(&compiled, &client(network, last, says), Family::V4);
        assert_eq!(given, [expected.clone(), expected], "{says:?} on {network}");
    }
    for (last, says, expected) in [
        (0x33, Some("dome-3"), Some("{ flags = o+n, name = dome-3.tarnfell.example. }")),
        (0x07, Some("winch"), Some("{ flags = o+n, name = crane.tarnfell.example. }")),
        (0x33, None, None),
    ] {
        let given = names(&compiled, &client(0, last, says), Family::V6);
        let expected = expected.map(str::to_owned);
        assert_eq!(given, [expected.clone(), expected], "{says:?}");
    }
    // By DHCPv6 the option must be requested, too (RFC 4704, section 6).
    let mut silent = client(0, 0x33, Some("dome-3"));
    silent.wants.v6 = Some(vec![23]);
    assert_eq!(names(&compiled, &silent, Family::V6), [None, None]);
}

/// What a client sends, and the option that it is answered with, in octets.
#[test]
fn a_reply_has_the_encoding_and_the_wishes_of_the_client() {
    let loaded = read(YARD);
    let compiled = Compiled::of(loaded.plan.as_ref().unwrap());
    let tarnfell = "087461726e66656c6c076578616d706c6500";
    for (network, family, sent, expected) in [
        // N: no updates are wished for, and none are made.
        (0, Family::V4, "0c000004646f6d65", Some(format!("0cffff04646f6d65{tarnfell}"))),
        // The text of old clients (RFC 4702, section 2.3.1).
        (0, Family::V4, "000000646f6d65", Some("08ffff646f6d652e7461726e66656c6c2e6578616d706c65".to_owned())),
        (1, Family::V4, "0800006431", Some("08ffff64312e706965722e7461726e66656c6c2e6578616d706c65".to_owned())),
        // Without a name there is none to complete, and octets that are no label are none.
        (0, Family::V4, "040000", None),
        (0, Family::V4, "04000005646f", None),
        (0, Family::V4, "0400", None),
        (0, Family::V4, "04000000", None),
        (0, Family::V6, "0002643100", Some(format!("04026431{tarnfell}"))),
        (0, Family::V6, "00", None),
        (0, Family::V6, "", None),
    ] {
        let name = compiled.answer(family, &client(network, 0x33, None)).unwrap().fqdn.unwrap();
        let octets = hex::parse(sent).unwrap();
        let given = name.returned(family, &octets).map(|octets| hex::plain(&octets));
        assert_eq!(given, expected, "{sent}");
    }
    // What a release says is held to the same.
    for name in ["*..example", "", "a.", &format!("*.{}", "a".repeat(64))] {
        let mut answered = compiled.answer(Family::V4, &client(0, 0x33, None)).unwrap().fqdn.unwrap();
        answered.fqdn.to_mut().name = name.to_owned();
        assert_eq!(answered.returned(Family::V4, b"\x04\0\0\x01a"), None, "{name}");
    }
    // A label of 63 octets before a name of 200 is longer than a name may be (RFC 1035, section 2.3.4).
    let long = YARD.replace("\"*.tarnfell.example\"", &format!("\"*.{}\"", vec!["a".repeat(49); 4].join(".")));
    let loaded = read(&long);
    let compiled = Compiled::of(loaded.plan.as_ref().unwrap());
    let name = compiled.answer(Family::V4, &client(0, 0x33, None)).unwrap().fqdn.unwrap();
    let label = |length: u8| [&[4, 0, 0, length][..], &vec![b'b'; length.into()]].concat();
    assert_eq!(name.returned(Family::V4, &label(53)).map(|octets| octets.len()), Some(3 + 255));
    assert_eq!(name.returned(Family::V4, &label(54)), None);
}

#[test]
fn a_release_answers_the_same_names() {
    let loaded = read(YARD);
    let plan = loaded.plan.as_ref().unwrap();
    let document = release::compile(plan, &loaded.sources).unwrap();
    let written = serde_json::to_string(&document.content).unwrap();
    let content: release::Content = serde_json::from_str(&written).unwrap();
    assert_eq!(content, document.content);
    let (here, back) = (Compiled::of(plan), document.compiled().unwrap());
    for (network, last) in [(0, 0x33), (0, 0x07), (1, 0x33), (2, 0x33)] {
        let facts = client(network, last, Some("dome-3"));
        // A release has its networks in the order of their names.
        let name = &here.networks[network].name;
        let at = back.networks.iter().position(|known| known.name == *name).unwrap();
        let there = ClientFacts { network: at, ..facts.clone() };
        assert_eq!(names(&here, &facts, Family::V4), names(&back, &there, Family::V4), "{name}");
    }
    let changed = read(&YARD.replace("crane.", "hoist.").replace("*.tarnfell", "*.yard.tarnfell"));
    let other = Compiled::of(changed.plan.as_ref().unwrap());
    let said: Vec<String> = release::compare(&here, &other)
        .iter()
        .flat_map(|change| change.changes.iter().map(move |detail| format!("{} {}", change.concerned, detail.what)))
        .collect();
    assert!(said.iter().any(|line| line.ends_with("fqdn")), "{said:?}");
}

/// What changes for the clients of a network is said once where both families change alike, and of each where they do not.
#[test]
fn a_change_of_names_is_said_of_the_families_that_it_is_about() {
    let said = |before: &str, after: &str| -> Vec<String> {
        let yard = |more: &str| {
            read(&format!(
                "{more}[network.yard]\nsubnet = \"10.64.9.0/24\"\nprefix = \"2001:db8:64:9::/64\"\n\
                 advertise = {{ managed = true }}\n"
            ))
        };
        let [before, after] = [yard(before), yard(after)];
        let [before, after] = [&before, &after].map(|loaded| Compiled::of(loaded.plan.as_ref().unwrap()));
        let all = release::compare(&before, &after);
        all.iter().flat_map(|one| one.changes.iter().map(|change| change.what.clone())).collect()
    };
    let (one, other) = ("fqdn = \"*.tarnfell.example\"\n", "fqdn = \"*.fell.example\"\n");
    assert_eq!(said(one, other), ["fqdn"]);
    assert_eq!(said("", one), ["fqdn"]);
    assert_eq!(said(one, one), Vec::<String>::new());
    let updates = "fqdn = { name = \"*.tarnfell.example\", updates = true }\n";
    assert_eq!(said(one, updates), ["fqdn"]);
}

#[test]
fn a_name_that_cannot_be_is_said_why() {
    for (says, expected) in [
        ("\"dome-3\"", "`dome-3` is not a full name; write it with its domain, as in `dome-3.tarnfell.example`"),
        ("\"*\"", "`*` is not a full name; write it with its domain, as in `*.tarnfell.example`"),
        ("7", "`fqdn` is text in quotes or a table, not a number"),
        ("{ updates = true }", "`fqdn` has no name; write name = \"*.tarnfell.example\""),
        ("{ name = \"*.tarnfell.example\", update = true }", "unknown key `update` in `fqdn`"),
        ("\"*.tarn..example\"", "a name with nothing between two dots"),
        (
            "\"*.tarn fell.example\"",
            "`*.tarn fell.example`: ' ' is not allowed in a host name; use letters, digits and hyphens",
        ),
        ("\"dome-.example\"", "`dome-.example`: "),
        ("\"*.tärn.example\"", "`*.tärn.example`: 'ä' is not ASCII; write its label in the form that begins with xn--"),
        ("\"a\\\\.b.example\"", "`a\\.b.example`: "),
        (
            "\"dome.*.example\"",
            "`*` of `dome.*.example` stands for the client's own label, so it is the first or none; write `*.tarnfell.example`",
        ),
    ] {
        let loaded = read(&format!("fqdn = {says}\n[network.yard]\nsubnet = \"10.64.9.0/24\"\n"));
        let messages: Vec<&str> = loaded.findings.iter().map(|finding| &*finding.message).collect();
        assert!(messages.iter().any(|message| message.contains(expected)), "{says}: {messages:?}");
    }
}

/// Another name, other flags, or none where the plan has one: an audit says so, and is silent of what the plan says.
#[test]
fn an_audit_holds_names_against_the_plan() {
    let loaded = read(YARD);
    let compiled = Compiled::of(loaded.plan.as_ref().unwrap());
    for family in Family::ALL {
        let facts = client(0, 0x33, Some("dome-3.elsewhere.example"));
        let answer = compiled.answer(family, &facts).unwrap();
        let exchange = compiled.exchange(&facts, &answer).unwrap();
        let dhcp = exchange.messages.iter().filter(|played| !played.name.starts_with("Router"));
        let right: Vec<Vec<u8>> = dhcp.map(|played| played.octets.clone()).collect();
        let found = |messages: &[Vec<u8>]| {
            let seen = (1u64..)
                .zip(messages)
                .map(|(number, octets)| seen(number, Duration::from_secs(number), family.protocol(), octets.clone()));
            let mut audit = Audit::against(&compiled, Policy::default()).on(0);
            seen.for_each(|one| audit.add(&one, one.findings(Codebook::standard())));
            audit.finish();
            let all = audit.closed().flat_map(|conversation| conversation.findings);
            all.map(|found| format!("{} {}", found.finding.rule.name, found.finding.message)).collect::<Vec<_>>()
        };
        assert_eq!(found(&right), Vec::<String>::new());
        // The first letter of the domain in the name, in the last reply: the name stands behind the domain.
        let mut wrong = right.clone();
        let last = wrong.last_mut().unwrap();
        let at = last.windows(8).rposition(|part| part == b"tarnfell").unwrap();
        last[at] = b'b';
        let said = found(&wrong);
        assert!(said.iter().any(|line| line.contains("client-fqdn")), "{said:?}");
    }
}

/// What a server answers a client that says its name, message by message: the name stands in what grants something, and in no
/// refusal, and a client that has an address and requests the rest is told it as well.
#[test]
fn names_stand_in_every_reply_that_grants() {
    use oplex::packet::v4::{Draft, Header, Message, MessageType as Kind};
    use oplex::packet::{Composer, Message as _};

    let loaded = read(YARD);
    let compiled = Compiled::of(loaded.plan.as_ref().unwrap());
    let mac = [2, 0, 0x5e, 0, 0x53, 0x33];
    let own: &[u8] = b"\x05\0\0\x06dome-3";
    let server: &[u8] = &[10, 64, 0, 67];
    let (address, elsewhere): (&[u8], &[u8]) = (&[10, 64, 9, 20], &[10, 64, 10, 20]);
    for (what, kind, ciaddr, options, expected) in [
        ("discovers", Kind::DISCOVER, [0; 4], &[(81, own)][..], Some((Kind::OFFER, true))),
        ("says nothing of itself", Kind::DISCOVER, [0; 4], &[], Some((Kind::OFFER, false))),
        ("requests", Kind::REQUEST, [0; 4], &[(50, address), (54, server), (81, own)], Some((Kind::ACK, true))),
        ("renews", Kind::REQUEST, [10, 64, 9, 20], &[(81, own)], Some((Kind::ACK, true))),
        // The list of what it requests is of no matter (RFC 4702, section 4).
        ("requests only routers", Kind::REQUEST, [10, 64, 9, 20], &[(55, &[3]), (81, own)], Some((Kind::ACK, true))),
        ("comes from elsewhere", Kind::REQUEST, [0; 4], &[(50, elsewhere), (81, own)], Some((Kind::NAK, false))),
        ("requests the rest", Kind::INFORM, [10, 64, 9, 44], &[(81, own)], Some((Kind::ACK, true))),
        ("leaves", Kind::RELEASE, [10, 64, 9, 20], &[(54, server)], None),
    ] {
        let mut server = Server::new(&compiled);
        let mut leases = InMemory::default();
        let mut composer = Composer::default();
        let header = Header { ciaddr: ciaddr.into(), ..Header::from_client(7, mac) };
        let request = composer.compose(&Draft { header, options, ..Draft::new(kind) }).unwrap().octets.to_vec();
        let reply = server.answer(&request, &Ingress::on("yard"), &mut leases);
        let given = reply.map(|reply| {
            let message = Message::read(reply.octets).unwrap();
            let name = message.option(81).map(|option| option.joined().into_owned());
            assert!(name.iter().all(|name| name.ends_with(b"\x08tarnfell\x07example\0")), "{what}: {name:?}");
            (message.message_type().unwrap(), name.is_some())
        });
        assert_eq!(given, expected, "a client that {what}");
    }
}

/// The labels of a name in the encoding of DNS.
fn labels(mut octets: &[u8]) -> Vec<Vec<u8>> {
    let mut all = Vec::new();
    while let [length @ (1..=63), rest @ ..] = octets {
        let (label, rest) = rest.split_at(usize::from(*length));
        all.push(label.to_vec());
        octets = rest;
    }
    all
}

proptest! {
    /// Whatever a client sends as its name: the reply has its first label before the plan's domain or is none, its flags are those
    /// of a server that updates nothing, and nothing else of what the client sends is repeated.
    #[test]
    fn any_octets_are_answered_as_a_name_or_not_at_all(octets in prop::collection::vec(any::<u8>(), 0..80), family in 0usize..2) {
        let family = Family::ALL[family];
        let loaded = read(YARD);
        let compiled = Compiled::of(loaded.plan.as_ref().unwrap());
        let name = compiled.answer(family, &client(0, 0x33, None)).unwrap().fqdn.unwrap();
        let Some(given) = name.returned(family, &octets) else { return Ok(()) };
        let (front, none, encoded) = match family {
            Family::V4 => (3, 8, octets[0] & 4 != 0),
            Family::V6 => (1, 4, true),
        };
        let wishes = octets[0] & 1 != 0 && octets[0] & none == 0;
        let own = if family == Family::V4 { octets[0] & 4 } else { 0 };
        prop_assert_eq!(given[0], none | own | if wishes { 2 } else { 0 });
        let codes: &[u8] = if family == Family::V4 { &[255, 255] } else { &[] };
        prop_assert_eq!(&given[1..front], codes);
        if encoded {
            let own = labels(&given[front..]);
            prop_assert_eq!(&own[1..], &[b"tarnfell".to_vec(), b"example".to_vec()]);
            let length = usize::from(octets[front]);
            prop_assert_eq!(&own[0][..], &octets[front + 1..front + 1 + length]);
        } else {
            let text = given[front..].strip_suffix(b".tarnfell.example").unwrap();
            prop_assert!(octets[front..].starts_with(text) && !text.contains(&b'.') && !text.is_empty());
        }
        // What is answered is a payload that nothing is wrong with, but for what the client calls itself.
        let definition = Codebook::standard().own(family.protocol(), if front == 3 { 81 } else { 39 }).unwrap();
        let (_, faults) = Codebook::standard().decode(definition, &given);
        prop_assert!(!encoded || faults.is_empty(), "{faults:?}");
    }
}
