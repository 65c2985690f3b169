//! Clients as they are described, the texts that patterns are held against, and how these read in words.

use oplex::codebook::{Assembled, Codebook, OptionToSend, assemble};
use oplex::family::{Both, Family};
use oplex::finding::Sources;
use oplex::layout::{Input, PathStep, Value};
use oplex::octets::hex;
use oplex::packet::v4::{Field, Limit, LimitFrom};
use oplex::plan::{ClientFacts, ClientKey, Fact, Plan};
use proptest::collection::vec;
use proptest::prelude::*;

/// A client described by key and text, or the first thing that is wrong with that.
fn described(texts: &[(&str, &str)]) -> Result<ClientFacts, String> {
    let mut facts = ClientFacts::on(0);
    for (key, text) in texts {
        facts.describe(Codebook::standard(), key, text)?;
    }
    Ok(facts)
}

#[test]
fn what_is_described_becomes_the_octets_that_a_client_sends() {
    let facts = described(&[
        ("vendor-class", "Tern D2"),
        ("user-class", "dome"),
        ("arch", "x64-uefi"),
        ("hostname", "dome-3"),
        ("client-id", "01:02:00:5e:00:53:11"),
        ("circuit-id", "port7"),
        ("remote-id", "0x0a0b"),
    ])
    .unwrap();
    for (code, octets) in [
        (60, &b"Tern D2"[..]),
        (77, b"\x04dome"),
        (93, &[0, 7]),
        (12, b"dome-3"),
        (61, &[1, 2, 0, 0x5e, 0, 0x53, 0x11]),
        (82, b"\x01\x05port7\x02\x02\x0a\x0b"),
    ] {
        assert_eq!(facts.sent(Family::V4, code), Some(octets), "{code}");
    }
    assert_eq!(facts.sent(Family::V4, 55), None);
    // Said again, it is said instead.
    assert_eq!(described(&[("hostname", "a"), ("hostname", "b")]).unwrap().sends.v4, [(12, b"b".to_vec())]);
    let keys: Vec<ClientKey> = ClientFacts { mac: Some([2; 6].into()), ..facts }.keys(Family::V4).collect();
    assert_eq!(
        keys.iter().map(ToString::to_string).collect::<Vec<_>>(),
        ["client 01:02:00:5e:00:53:11", "02:02:02:02:02:02", "circuit port7", "remote 0x0a0b"]
    );
}

/// A full name takes the place of a host name by DHCPv4 (RFC 4702, section 3.1); one label is a part of a name, several are the
/// whole, and the updates of DNS are left to the server (section 3.3).
#[test]
fn full_names_are_described() {
    for (says, v4, v6) in [
        ("dome-3", &b"\x05\0\0\x06dome-3"[..], &b"\x01\x06dome-3"[..]),
        (
            "dome-3.tarnfell.example",
            b"\x05\0\0\x06dome-3\x08tarnfell\x07example\0",
            b"\x01\x06dome-3\x08tarnfell\x07example\0",
        ),
        ("dome-3.", b"\x05\0\0\x06dome-3\0", b"\x01\x06dome-3\0"),
    ] {
        let facts = described(&[("hostname", "other"), ("fqdn", says)]).unwrap();
        assert_eq!((facts.sent(Family::V4, 12), facts.sent(Family::V4, 81)), (None, Some(v4)), "{says}");
        assert_eq!(facts.sent(Family::V6, 39), Some(v6), "{says}");
        // Fleets recognise it by its host name, whichever option says it.
        let name = says.trim_end_matches('.');
        let texts = facts.texts(Codebook::standard(), &Fact::Hostname, Family::V4);
        assert!(texts.iter().any(|text| text.trim_end_matches('.') == name), "{texts:?}");
    }
    assert!(described(&[("fqdn", "dome..3")]).is_err());
    assert!(described(&[("fqdn", &"a".repeat(64))]).is_err());
}

#[test]
fn what_cannot_be_described_is_said_why() {
    let wrong = |key: &str, text: &str| described(&[(key, text)]).unwrap_err();
    assert_eq!(wrong("arch", "x64"), "unknown architecture `x64`; did you mean `x64-uefi`?");
    assert_eq!(
        wrong("user-class", &"a".repeat(256)),
        "v4:77 user-class: 1: 256 octets, but the length in front can count at most 255"
    );
    assert_eq!(
        wrong("circuit-id", &"a".repeat(256)),
        "v4:82 relay-agent-information: 1: 256 octets, but the length in front can count at most 255"
    );
    assert_eq!(wrong("client-id", ""), "a client identifier has an octet at least");
    assert!(wrong("client-id", "zy").starts_with("`zy` is not a client identifier in hexadecimal: "));
    assert!(wrong("remote-id", "0xzy").starts_with("`0xzy` is not hexadecimal: "));
}

#[test]
fn every_fact_is_seen_as_the_texts_that_a_person_would_write() {
    let codebook = Codebook::standard();
    let seen = |fact: &Fact, sends: &[(u16, &[u8])]| {
        let sends = sends.iter().map(|(code, octets)| (*code, octets.to_vec())).collect();
        let sends = Both { v4: sends, v6: Vec::new() };
        ClientFacts { mac: Some([2, 0, 0x5e, 0, 0x53, 0x11].into()), sends, ..ClientFacts::on(0) }.texts(
            codebook,
            fact,
            Family::V4,
        )
    };
    assert_eq!(seen(&Fact::Mac, &[]), ["02:00:5e:00:53:11"]);
    assert_eq!(seen(&Fact::VendorClass, &[(60, b"Tern")]), ["Tern", "54:65:72:6e"]);
    assert_eq!(seen(&Fact::VendorClass, &[(60, &[1, 0xff])]), ["01:ff"]);
    assert_eq!(seen(&Fact::VendorClass, &[]), [""; 0]);
    assert_eq!(seen(&Fact::UserClass, &[(77, b"\x01a\x02bc")]), ["a", "61", "bc", "62:63"]);
    // Many clients send the bare text.
    assert_eq!(seen(&Fact::UserClass, &[(77, b"domes")])[0], "domes");
    assert_eq!(seen(&Fact::Architecture, &[(93, &[0, 7, 0, 99])]), ["7", "x64-uefi", "99"]);
    assert_eq!(seen(&Fact::Hostname, &[(12, b"dome-3")]), ["dome-3"]);
    assert_eq!(seen(&Fact::Hostname, &[(81, b"\x04\0\0\x04dome\0")]), ["dome."]);
    assert_eq!(seen(&Fact::CircuitId, &[(82, b"\x02\x01x\x01\x02p7")]), ["p7", "70:37"]);
    assert_eq!(seen(&Fact::RemoteId, &[(82, b"\x02\x09x")]), [""; 0]);
    assert_eq!(seen(&Fact::Enterprise, &[(124, &[0, 0, 0x7e, 0xd9, 2, 1, b'a'])]), ["32473"]);
    let asks = Fact::Option(codebook.find("v4:55").unwrap().clone());
    let texts = seen(&asks, &[(55, &[1, 3])]);
    assert!(["01:03", "1", "3"].iter().all(|text| texts.contains(&(*text).to_owned())), "{texts:?}");
    assert_eq!(asks.to_string(), "v4:parameter-list");
}

#[test]
fn what_recognises_a_fleet_reads_as_a_sentence() {
    let words = |recognised: &str| {
        let text = format!("[network.desk]\nsubnet = \"10.64.4.0/24\"\n[fleet.it]\nmatch = {recognised}\n");
        let plan = Plan::read("plan.toml", &text, &mut |_| Err(String::new().into())).plan.unwrap();
        plan.fleets[0].recognised.to_string()
    };
    assert_eq!(words("{ vendor-class = [\"Tern *\", \"Gannet *\"] }"), "vendor-class is Tern * or Gannet *");
    assert_eq!(words("{ mac = \"02005E005311\" }"), "mac is 02:00:5e:00:53:11");
    assert_eq!(
        words("{ mac = \"02:00:5e:00:53:10 - 02:00:5e:00:53:1f\", arch = 7 }"),
        "mac is 02:00:5e:00:53:10-02:00:5e:00:53:1f, and arch is x64-uefi"
    );
    assert_eq!(
        words("{ none = [{ hostname = \"x\" }, { any = [{ user-class = \"a\" }, { circuit-id = \"b\" }] }] }"),
        "none of (hostname is x; one of (user-class is a; circuit-id is b))"
    );
    assert_eq!(words("{ all = { \"v4:class-id\" = true } }"), "v4:class-id is true");
}

const BOOK: &str = "book = \"gull\"\ntitle = \"Gull\"\nenterprise = 32473\ncarriers = [\"v4:43\", \"v4:125\"]\n\
    [[option]]\ncode = 1\nname = \"one\"\nlayout = \"u8\"\nreference = \"manual\"\n\
    [[option]]\ncode = 2\nname = \"two\"\nlayout = \"bytes\"\nreference = \"manual\"\n\
    [[option]]\ncode = 230\ncarrier = \"v4\"\nname = \"own\"\nlayout = \"text\"\nreference = \"manual\"\n";

#[test]
fn options_are_brought_to_where_they_travel() {
    let mut codebook = Codebook::standard().clone();
    let mut sources = Sources::default();
    let file = sources.add("gull.toml", BOOK);
    assert_eq!(codebook.add(&sources, file), []);
    let payload = |name: &str, text: &str| {
        let definition = codebook.find(name).unwrap().clone();
        let octets = codebook.encode(&definition, &Input::from_text(text)).unwrap().octets;
        (definition, octets)
    };
    let given = [
        payload("v4:router", "10.64.4.1"),
        payload("gull:two", "61:62"),
        payload("gull:own", "x"),
        payload("v4:router", "10.64.4.2"),
        payload("gull:one", "7"),
    ];
    let options =
        given.iter().zip(0..).map(|((definition, octets), at)| OptionToSend::new(Family::V4, definition, octets, at));
    let whole = assemble(Family::V4, options);
    let inner = [2, 2, b'a', b'b', 1, 1, 7];
    let in_125 = [&[0, 0, 0x7e, 0xd9, 7][..], &inner].concat();
    let expected = [
        (3, vec![10, 64, 4, 2], vec![3]),
        (43, inner.to_vec(), vec![1, 4]),
        (125, in_125, vec![1, 4]),
        (230, b"x".to_vec(), vec![2]),
    ];
    let expected = expected.map(|(code, octets, from)| Assembled { code, octets: octets.into(), from: from.into() });
    assert_eq!(whole, expected);
    // The book is requested by name when several have options in 43.
    let vendors = codebook.find("v4:43").unwrap();
    let (book, by_gull) = codebook.by_vendor(vendors, Some("gull")).unwrap();
    assert_eq!((book, codebook.read(&by_gull, &inner).faults.len()), ("gull", 0));
    assert!(codebook.by_vendor(vendors, Some("tern")).is_none());
    assert!(codebook.by_vendor(codebook.find("v4:3").unwrap(), None).is_none());
}

#[test]
fn limits_say_who_set_them() {
    assert_eq!(Limit::of_client(None).to_string(), "548 octets, what every client accepts");
    assert_eq!(Limit::of_client(Some(1500)).to_string(), "1472 octets, as the client says (1500 with the headers)");
    assert_eq!(Limit::of_datagram(1280).to_string(), "1252 octets, as the sender says");
    // Nobody may accept less than 576, and nothing is larger than a datagram.
    assert_eq!(Limit::of_client(Some(300)), Limit { octets: 548, from: LimitFrom::Client { said: 300 } });
    assert_eq!((Limit::of_datagram(0).octets, Limit::of_datagram(1 << 20).octets), (548, 65_507));
    assert_eq!(Field::ALL.map(Field::name), ["options", "file", "sname"]);
}

/// Where each fact stands, as docs/plans.md says.
fn places() -> Vec<(Fact, Family, u16, &'static [PathStep])> {
    use Family::{V4, V6};
    vec![
        (Fact::VendorClass, V4, 60, &[]),
        (Fact::VendorClass, V6, 16, &[PathStep::Field("classes")]),
        (Fact::Enterprise, V4, 124, &[PathStep::Field("enterprise")]),
        (Fact::Enterprise, V6, 16, &[PathStep::Field("enterprise")]),
        (Fact::UserClass, V4, 77, &[]),
        (Fact::UserClass, V6, 15, &[]),
        (Fact::Architecture, V4, 93, &[]),
        (Fact::Architecture, V6, 61, &[]),
        (Fact::Hostname, V4, 12, &[]),
        (Fact::Hostname, V4, 81, &[PathStep::Field("name")]),
        (Fact::Hostname, V6, 39, &[PathStep::Field("name")]),
        (Fact::CircuitId, V4, 82, &[PathStep::Option(1)]),
        (Fact::CircuitId, V6, 18, &[]),
        (Fact::RemoteId, V4, 82, &[PathStep::Option(2)]),
        (Fact::RemoteId, V6, 37, &[PathStep::Field("remote-id")]),
    ]
}

fn leaf_texts(leaf: &Value) -> Vec<String> {
    match leaf {
        Value::Bytes(octets) => spelled(octets),
        Value::Member(number, Some(name)) => vec![number.to_string(), name.to_string()],
        other => vec![other.to_string()],
    }
}

fn spelled(octets: &[u8]) -> Vec<String> {
    let text = str::from_utf8(octets).ok().filter(|text| !text.chars().any(char::is_control));
    text.map(str::to_owned).into_iter().chain([hex::colon(octets)]).collect()
}

proptest! {
    /// Texts are read while the octets are walked; decoding them comes to the same.
    #[test]
    fn texts_are_those_of_the_decoded_value(
        place in 0..15_usize,
        parts in vec(prop_oneof![vec(any::<u8>(), 0..4), "[a-zA-Z{ ]{0,6}".prop_map(String::into_bytes)], 0..4),
        framed in any::<bool>(),
    ) {
        let codebook = Codebook::standard();
        let (fact, family, code, path) = places().swap_remove(place);
        // Sub-options and classes with their lengths in front, or anything.
        let octets: Vec<u8> = parts.iter().enumerate().flat_map(|(at, part)| {
            let head: &[u8] = match (framed, code) {
                (true, 82) => &[at as u8 + 1, part.len() as u8],
                (true, 77) => &[part.len() as u8],
                (true, 15 | 16) => &[0, part.len() as u8],
                _ => &[],
            };
            [head, part].concat()
        }).collect();
        let octets = if framed && code == 16 { [&[0, 0, 0x7e, 0xd9][..], &octets].concat() } else { octets };
        let mut facts = ClientFacts::on(0);
        facts.send(family, code, octets.clone());
        let read = codebook.read(codebook.own(family.protocol(), code).unwrap(), &octets);
        let expected: Vec<String> = if read.faults.is_empty() {
            read.value.iter().flat_map(|value| value.at(path)).flat_map(leaf_texts).collect()
        } else if path.is_empty() {
            spelled(&octets)
        } else {
            // Of what is broken less is known, which other tests say.
            return Ok(());
        };
        prop_assert_eq!(facts.texts(codebook, &fact, family), expected);
    }
}
