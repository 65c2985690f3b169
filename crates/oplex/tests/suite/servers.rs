//! A server without sockets: it replies as rehearsals do, remembers leases, and keeps to the RFCs about whom it answers.

use std::net::{IpAddr, Ipv4Addr};

use oplex::answer::Ends;
use oplex::compiled::Compiled;
use oplex::family::{Family, Protocol};
use oplex::layout::Value;
use oplex::octets::Mac;
use oplex::packet::v6;
use oplex::packet::{AnyMessage, Composer, Message as _, v4};
use oplex::plan::{ClientFacts, Loaded, Plan};
use oplex::server::{Destination, InMemory, Ingress, Server};
use proptest::prelude::*;

fn read(text: &str) -> Loaded {
    Plan::read("plan.toml", text, &mut |path| Err(format!("no file {path}").into()))
}

pub(crate) fn demo() -> Loaded {
    let read = |path: &str| std::fs::read_to_string(format!("{}/../../demo/{path}", env!("CARGO_MANIFEST_DIR")));
    Plan::read("plan.toml", &read("plan.toml").unwrap(), &mut |path| Ok(read(path)?))
}

/// Every message of a rehearsal is answered with the very octets of the next.
#[test]
fn a_server_replies_as_rehearsals_do() {
    let loaded = demo();
    let plan = loaded.plan.as_ref().unwrap();
    let compiled = Compiled::of(plan);
    let mut server = Server::new(&compiled);
    let kinds: [&[(&str, &str)]; 6] = [
        &[],
        &[("vendor-class", "Tern D2")],
        &[("vendor-class", "Gannet R1"), ("hostname", "lab-7")],
        &[("arch", "x64-uefi"), ("client-id", "01:02:03")],
        &[("duid", "00:03:00:01:02:00:5e:00:53:61")],
        &[("vendor-class", "Tern D2"), ("circuit-id", "port-7")],
    ];
    let mut replies = 0;
    for (network, name) in plan.networks.iter().map(|network| &network.name).enumerate() {
        for (last, kind, flags) in [0x33, 0x41, 0x77].iter().flat_map(|last| {
            kinds
                .iter()
                .flat_map(move |kind| [(false, false), (true, false), (false, true)].map(|flags| (*last, *kind, flags)))
        }) {
            let mut facts = ClientFacts { mac: Some(Mac([2, 0, 0x5e, 0, 0x53, last])), ..ClientFacts::on(network) };
            (facts.rapid, facts.delegation) = flags;
            kind.iter().for_each(|(key, text)| facts.describe(&plan.codebook, key, text).unwrap());
            for family in Family::ALL {
                // A server that sees a DUID alone knows the hardware address in it, and no other.
                facts.mac = facts.mac.filter(|_| facts.duid.is_none() || family == Family::V4);
                let Some(answer) = compiled.answer(family, &facts) else { continue };
                let messages = compiled.exchange(&facts, &answer).unwrap().messages;
                let mut leases = InMemory::default();
                for pair in messages.windows(2) {
                    let [request, reply] = pair else { continue };
                    if !request.from_client || reply.from_client || matches!(request.ends, Ends::Icmp(_)) {
                        continue;
                    }
                    let ingress = Ingress::on(name);
                    let given = server.answer(&request.octets, &ingress, &mut leases);
                    let given = given.unwrap_or_else(|| panic!("no reply to {} of {facts:?}", request.name));
                    assert_eq!(given.octets, reply.octets, "{} to {facts:?} on {name}", reply.name);
                    replies += 1;
                }
            }
        }
    }
    assert!(replies > 500, "{replies}");
}

const YARD: &str = "server = \"10.64.0.67\"\nserver-duid = \"00:03:00:01:02:00:5e:00:53:67\"\nlease = \"1h\"\n\
    [network.yard]\nsubnet = \"10.64.9.0/24\"\nprefix = \"2001:db8:64:9::/64\"\nrelay = [\"10.64.9.2\"]\n\
    pool = [\"10.64.9.20-10.64.9.22\", \"2001:db8:64:9::100-2001:db8:64:9::101\"]\ndelegate = \"2001:db8:6400::/55 as /56\"\n\
    send.v4 = { router = \"10.64.9.1\" }\nsend.v6 = { dns-servers = \"2001:db8:64::53\" }\n\
    [network.pier]\nsubnet = \"10.64.10.0/24\"\npool = \"10.64.10.20-10.64.10.29\"\n\
    [[reservation]]\nnetwork = \"yard\"\nmac = \"02:00:5e:00:53:07\"\naddress = \"10.64.9.7\"\n";

/// A message of DHCPv4 from a client whose hardware address ends so.
fn request(kind: v4::MessageType, last: u8, ciaddr: [u8; 4], giaddr: [u8; 4], options: &[(u16, &[u8])]) -> Vec<u8> {
    let header = v4::Header::from_client(u32::from(last), [2, 0, 0x5e, 0, 0x53, last]);
    let header = v4::Header { ciaddr: ciaddr.into(), giaddr: giaddr.into(), ..header };
    Composer::default().compose(&v4::Draft { header, options, ..v4::Draft::new(kind) }).unwrap().octets.to_vec()
}

/// What comes of a request: the type of the reply and its address, `-` for none.
fn said(server: &mut Server<'_>, leases: &mut InMemory, octets: &[u8]) -> String {
    match server.answer(octets, &Ingress::on("yard"), leases) {
        None => "-".to_owned(),
        Some(reply) => {
            let message = v4::Message::read(reply.octets).unwrap();
            format!("{} {}", message.message_type().unwrap(), message.header().yiaddr)
        }
    }
}

#[test]
fn leases_of_dhcpv4_are_remembered() {
    use v4::MessageType as Kind;
    let loaded = read(YARD);
    let compiled = Compiled::of(loaded.plan.as_ref().unwrap());
    let (mut server, mut leases) = (Server::new(&compiled), InMemory::default());
    let none = [0; 4];
    let own: &[u8] = &[10, 64, 0, 67];
    let discover = |last| request(Kind::DISCOVER, last, none, none, &[]);
    let take =
        |last, address: &[u8], server: &[u8]| request(Kind::REQUEST, last, none, none, &[(50, address), (54, server)]);
    let back = |last, address: &[u8]| request(Kind::REQUEST, last, none, none, &[(50, address)]);
    let renew = |last, address: [u8; 4]| request(Kind::REQUEST, last, address, none, &[]);
    for (octets, expected) in [
        (discover(0x11), "DHCPOFFER 10.64.9.20"),
        // Nobody else is offered it, and the same client is offered it again.
        (discover(0x12), "DHCPOFFER 10.64.9.21"),
        (discover(0x11), "DHCPOFFER 10.64.9.20"),
        (take(0x11, &[10, 64, 9, 20], own), "DHCPACK 10.64.9.20"),
        // It takes another server's offer: what it was offered here is free again.
        (take(0x12, &[10, 64, 9, 21], &[10, 64, 0, 99]), "-"),
        (discover(0x13), "DHCPOFFER 10.64.9.21"),
        (discover(0x14), "DHCPOFFER 10.64.9.22"),
        // Nothing is left.
        (discover(0x15), "-"),
        // What is reserved is offered to whom it is reserved for, and to nobody else.
        (discover(0x07), "DHCPOFFER 10.64.9.7"),
        (take(0x15, &[10, 64, 9, 7], own), "DHCPNAK 0.0.0.0"),
        (back(0x07, &[10, 64, 9, 7]), "DHCPACK 10.64.9.7"),
        // A client that comes back, one that comes to another network, one that nobody here knows.
        (back(0x11, &[10, 64, 9, 20]), "DHCPACK 10.64.9.20"),
        (back(0x11, &[10, 64, 10, 20]), "DHCPNAK 0.0.0.0"),
        (back(0x16, &[10, 64, 9, 22]), "-"),
        (renew(0x11, [10, 64, 9, 20]), "DHCPACK 10.64.9.20"),
        (renew(0x16, [10, 64, 9, 20]), "DHCPNAK 0.0.0.0"),
        // Settings alone, without an address.
        (request(Kind::INFORM, 0x77, [10, 64, 9, 200], none, &[]), "DHCPACK 0.0.0.0"),
        // Released, and declined.
        (request(Kind::RELEASE, 0x11, [10, 64, 9, 20], none, &[(54, own)]), "-"),
        (discover(0x15), "DHCPOFFER 10.64.9.20"),
        (request(Kind::DECLINE, 0x15, none, none, &[(50, &[10, 64, 9, 20]), (54, own)]), "-"),
        (discover(0x15), "-"),
    ] {
        assert_eq!(said(&mut server, &mut leases, &octets), expected, "{}", oplex::octets::hex::plain(&octets));
    }
    // Offers and leases end.
    leases.at(3700);
    assert_eq!(said(&mut server, &mut leases, &discover(0x15)), "DHCPOFFER 10.64.9.20");
    // Which network it is, and where the reply goes.
    let relayed = request(Kind::DISCOVER, 0x17, none, [10, 64, 9, 2], &[]);
    let reply = server.answer(&relayed, &Ingress::default(), &mut leases).unwrap();
    assert_eq!(reply.to, Destination::Address((Ipv4Addr::new(10, 64, 9, 2), 67).into()));
    let selected =
        request(Kind::DISCOVER, 0x17, none, [10, 64, 9, 2], &[(118, &[10, 64, 9, 0]), (82, &[5, 4, 10, 64, 10, 0])]);
    let reply = server.answer(&selected, &Ingress::on("yard"), &mut leases).unwrap();
    assert_eq!(v4::Message::read(reply.octets).unwrap().header().yiaddr, Ipv4Addr::new(10, 64, 10, 20));
    assert!(server.answer(&discover(0x17), &Ingress::default(), &mut leases).is_none(), "nobody says which network");
    let reply = server.answer(&discover(0x17), &Ingress::on("yard"), &mut leases).unwrap();
    assert!(matches!(reply.to, Destination::Link(to, mac) if to.ip().is_ipv4() && mac.0[5] == 0x17), "{:?}", reply.to);
}

/// The options of a reply of DHCPv6 as text.
fn shown(octets: &[u8]) -> String {
    let message = AnyMessage::read(Protocol::V6, octets).unwrap();
    let codebook = oplex::codebook::Codebook::standard();
    let option = |option: &oplex::packet::MessageOption<'_>| {
        let definition = codebook.own(Protocol::V6, option.code()).unwrap();
        let value = codebook.decode(definition, &option.joined()).0.unwrap_or(Value::Empty);
        format!("{}: {value}", definition.name)
    };
    message.options().iter().map(option).collect::<Vec<_>>().join("; ")
}

#[test]
fn leases_of_dhcpv6_are_remembered() {
    use v6::MessageType as Kind;
    let loaded = read(YARD);
    let compiled = Compiled::of(loaded.plan.as_ref().unwrap());
    let (mut server, mut leases) = (Server::new(&compiled), InMemory::default());
    let duid = |last: u8| vec![0, 3, 0, 1, 2, 0, 0x5e, 0, 0x53, last];
    let ia = |iaid: u8, address: Option<&str>| {
        let mut octets = vec![0, 0, 0, iaid, 0, 0, 0, 0, 0, 0, 0, 0];
        if let Some(IpAddr::V6(address)) = address.map(|address| address.parse().unwrap()) {
            octets.extend([&[0, 5, 0, 24][..], &address.octets(), &[0; 8]].concat());
        }
        octets
    };
    let message = |kind: Kind, last: u8, more: &[(u16, &[u8])]| {
        let duid = duid(last);
        let options: Vec<(u16, &[u8])> = [(1, &duid[..])].into_iter().chain(more.iter().copied()).collect();
        let draft = v6::Draft { message_type: kind, header: v6::Header::Transaction(7), options: &options };
        Composer::default().compose(&draft).unwrap().to_vec()
    };
    let own = [0, 3, 0, 1, 2, 0, 0x5e, 0, 0x53, 0x67];
    let (first, second, prefixes) = (ia(1, None), ia(2, None), ia(9, None));
    let held = ia(1, Some("2001:db8:64:9::100"));
    let elsewhere = ia(1, Some("2001:db8:64:a::100"));
    for (octets, expected) in [
        // Each association has an address of its own, and nobody else has them.
        (
            message(Kind::SOLICIT, 0x11, &[(3, &first), (3, &second)]),
            Some("iaid = 2, t1 = 30m, t2 = 48m, options = { iaaddr = { address = 2001:db8:64:9::101"),
        ),
        (message(Kind::REQUEST, 0x11, &[(2, &own), (3, &first)]), Some("address = 2001:db8:64:9::100")),
        (message(Kind::REQUEST, 0x11, &[(2, &own), (3, &second)]), Some("address = 2001:db8:64:9::101")),
        (message(Kind::SOLICIT, 0x12, &[(3, &first)]), Some("status = NoAddrsAvail")),
        (message(Kind::SOLICIT, 0x12, &[(25, &prefixes), (14, &[])]), Some("prefix = 2001:db8:6400:")),
        // For another server, from nobody, and to a server where none may be named.
        (message(Kind::REQUEST, 0x11, &[(2, &[0, 1]), (3, &first)]), None),
        (message(Kind::SOLICIT, 0x11, &[(2, &own), (3, &first)]), None),
        (message(Kind::ADVERTISE, 0x11, &[(2, &own)]), None),
        (message(Kind::RENEW, 0x11, &[(2, &own), (3, &held)]), Some("address = 2001:db8:64:9::100")),
        (message(Kind::REBIND, 0x15, &[(3, &held)]), Some("status = NoBinding")),
        (message(Kind::CONFIRM, 0x11, &[(3, &held)]), Some("status = Success")),
        (message(Kind::CONFIRM, 0x11, &[(3, &elsewhere)]), Some("status = NotOnLink")),
        (message(Kind::CONFIRM, 0x11, &[(3, &first)]), None),
        (message(Kind::INFORMATION_REQUEST, 0x13, &[(6, &[0, 23])]), Some("dns-servers: 2001:db8:64::53")),
        (message(Kind::RELEASE, 0x11, &[(2, &own), (3, &held)]), Some("status = Success")),
        (message(Kind::SOLICIT, 0x12, &[(3, &first)]), Some("address = 2001:db8:64:9::100")),
    ] {
        let reply = server.answer(&octets, &Ingress::on("yard"), &mut leases).map(|reply| shown(reply.octets));
        match (expected, &reply) {
            (None, None) => {}
            (Some(part), Some(all)) => assert!(all.contains(part), "{part}\n{all}"),
            _ => panic!("{expected:?} {reply:?} {}", oplex::octets::hex::plain(&octets)),
        }
    }
}

proptest! {
    /// Whatever comes in, one octet of it changed or cut: a reply is a message, or there is none.
    #[test]
    fn no_request_breaks_a_server(last in 0u8..4, at in 0usize..400, octet: u8, cut in 0usize..60, kind in 0u8..14) {
        let loaded = read(YARD);
        let compiled = Compiled::of(loaded.plan.as_ref().unwrap());
        let (mut server, mut leases) = (Server::new(&compiled), InMemory::default());
        let ia = [0, 0, 0, 1, 0, 0, 0, 0, 0, 0, 0, 0, 0, 5, 0, 24, 0x20, 1, 0xd, 0xb8, 0, 0x64, 0, 9];
        let options: [(u16, &[u8]); 3] = [(1, &[0, 3, 0, 1, 2, 0, 0x5e, 0, 0x53, 7]), (3, &ia), (25, &ia[..12])];
        let header = v6::Header::Transaction(7);
        let draft = v6::Draft { message_type: v6::MessageType(kind.clamp(1, 11)), header, options: &options };
        let six = Composer::default().compose(&draft).unwrap().to_vec();
        let four = request(v4::MessageType(kind), last, [0; 4], [10, 64, 9, 2], &[(50, &[10, 64, 9, 20]), (60, b"Tern"), (82, b"\x01\x02p7")]);
        for mut octets in [four, six] {
            let length = octets.len();
            octets[at % length] = octet;
            octets.truncate(length - cut.min(length));
            for _ in 0..2 {
                if let Some(reply) = server.answer(&octets, &Ingress::on("yard"), &mut leases) {
                    let four = reply.octets.first() == Some(&2) && reply.octets.len() >= 300;
                    let protocol = if four { Protocol::V4 } else { Protocol::V6 };
                    prop_assert!(AnyMessage::read(protocol, reply.octets).is_ok());
                }
            }
        }
    }
}

/// What cannot be a client's is answered by nobody: a reply would repeat it.
#[test]
fn who_cannot_be_is_not_answered() {
    let text = "server = \"10.64.0.67\"\n[network.desk]\nsubnet = \"10.64.4.0/24\"\npool = [\"10.64.4.20-10.64.4.90\", \"2001:db8:64:4::20-2001:db8:64:4::90\"]\n\
                prefix = \"2001:db8:64:4::/64\"\n";
    let plan = Plan::read("plan.toml", text, &mut |_| Err("no such file".into())).plan.unwrap();
    let compiled = Compiled::of(&plan);
    let mut composer = Composer::default();
    let mut discover = |change: &dyn Fn(&mut v4::Header), options: &[(u16, &[u8])]| {
        let mut header = v4::Header::from_client(7, [2, 0, 0x5e, 0, 0x53, 0x11]);
        change(&mut header);
        let draft = v4::Draft { header, options, ..v4::Draft::new(v4::MessageType::DISCOVER) };
        composer.compose(&draft).unwrap().octets.to_vec()
    };
    let answers = |octets: &[u8]| {
        let (mut server, mut leases) = (Server::new(&compiled), InMemory::default());
        server.answer(octets, &Ingress::on("desk"), &mut leases).map(|reply| reply.octets.to_vec())
    };
    type Case<'c> = (&'c str, &'c dyn Fn(&mut v4::Header), bool);
    let cases: [Case<'_>; 6] = [
        ("as it should be", &|_| {}, true),
        ("an Ethernet address of 5 octets", &|header| header.hlen = 5, false),
        ("a hardware address longer than its field", &|header| (header.htype, header.hlen) = (6, 17), false),
        ("InfiniBand with an address in the header (RFC 4390)", &|header| header.htype = 32, false),
        ("IEEE 1394 without one (RFC 2855)", &|header| (header.htype, header.hlen) = (24, 0), true),
        ("a reply", &|header| header.op = 2, false),
    ];
    for (what, change, answered) in cases {
        assert_eq!(answers(&discover(change, &[])).is_some(), answered, "{what}");
    }
    // An identifier of one octet is none: its client is known by its hardware address, and it is not repeated.
    let reply = answers(&discover(&|_| {}, &[(61, &[1])])).expect("it is answered");
    assert!(v4::Message::read(&reply).unwrap().option(61).is_none());
    let reply = answers(&discover(&|_| {}, &[(61, &[1, 2])])).expect("it is answered");
    assert!(v4::Message::read(&reply).unwrap().option(61).is_some());
    for (length, answered) in [(0, false), (2, false), (3, true), (130, true), (131, false)] {
        let duid = vec![0xff; length];
        let options: [(u16, &[u8]); 3] = [(1, &duid), (3, &[0, 0, 0, 1, 0, 0, 0, 0, 0, 0, 0, 0]), (8, &[0, 0])];
        let draft =
            v6::Draft { message_type: v6::MessageType::SOLICIT, header: v6::Header::Transaction(7), options: &options };
        let solicit = composer_of(&draft);
        assert_eq!(answers(&solicit).is_some(), answered, "a DUID of {length} octets");
    }
}

fn composer_of(draft: &v6::Draft<'_>) -> Vec<u8> {
    Composer::default().compose(draft).unwrap().to_vec()
}

/// What has ended makes room when there is much of it, and a client that has something keeps it.
#[test]
fn leases_that_have_ended_are_forgotten() {
    let text = "lease = \"10m\"\n[network.desk]\npool = \"2001:db8:64:4:1::-2001:db8:64:4:ffff::\"\nprefix = \"2001:db8:64:4::/64\"\n";
    let plan = Plan::read("plan.toml", text, &mut |_| Err("no such file".into())).plan.unwrap();
    let compiled = Compiled::of(&plan);
    let (mut server, mut leases) = (Server::new(&compiled), InMemory::default());
    let mut most = 0;
    for client in 0..6000u32 {
        leases.at(u64::from(client));
        let duid = [&[0, 2, 0, 0, 0x7e, 0xd9][..], &client.to_be_bytes()].concat();
        let options: [(u16, &[u8]); 4] =
            [(1, &duid), (3, &[0, 0, 0, 1, 0, 0, 0, 0, 0, 0, 0, 0]), (8, &[0, 0]), (14, &[])];
        let header = v6::Header::Transaction(client);
        let solicit = composer_of(&v6::Draft { message_type: v6::MessageType::SOLICIT, header, options: &options });
        let reply = server.answer(&solicit, &Ingress::on("desk"), &mut leases).expect("it is answered");
        let message = v6::Message::read(reply.octets).unwrap();
        assert!(message.option(3).unwrap().length() > 12 && message.option(14).is_some(), "client {client}");
        most = most.max(leases.len());
    }
    // 600 at a time are valid; twice as many, or as few as 1024, are kept before the others are forgotten.
    assert!((1000..=1400).contains(&most), "{most}");
}
