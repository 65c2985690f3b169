//! What people are shown of numbers, codes and octets, and what they may write for them.

use oplex::check;
use oplex::codebook::{Carrier, Codebook, Definition, Status};
use oplex::family::Protocol;
use oplex::layout::{Input, Layout, Unit, Value};
use oplex::octets::hex;
use oplex::packet::AnyMessage;
use oplex::specimen::Specimen;

#[test]
fn times_are_written_and_shown_in_any_unit() {
    let codebook = Codebook::standard();
    for (layout, written, octets, shown) in [
        ("u16 unit centiseconds", "250", "00fa", "250 (2s500ms)"),
        ("u16 unit centiseconds", "2s500ms", "00fa", "250 (2s500ms)"),
        ("u16 unit centiseconds", "0", "0000", "0 (0s)"),
        ("u16 unit centiseconds", "10ms", "0001", "1 (10ms)"),
        ("i32 unit seconds", "-4h", "ffffc7c0", "-14400 (-4h)"),
        ("i32 unit seconds", "3600", "00000e10", "3600 (1h)"),
        ("u32 unit seconds", "1d12h", "0001fa40", "129600 (1d12h)"),
        ("u32 unit seconds", "4294967295", "ffffffff", "4294967295 (49710d6h28m15s)"),
        ("u32 unit milliseconds", "1m", "0000ea60", "60000 (1m)"),
        ("u16 unit eight-seconds", "30m", "00e1", "225 (30m)"),
        ("u16 unit seconds in 1..=9000", "2h30m", "2328", "9000 (2h30m)"),
    ] {
        let parsed = Layout::parse_with(layout, codebook).unwrap();
        assert_eq!(parsed.to_string(), layout);
        let value = parsed.read(codebook, &Input::from_text(written)).unwrap().value;
        assert_eq!(hex::plain(&parsed.encode(codebook, &value).unwrap().octets), octets, "{layout} {written}");
        assert_eq!(parsed.spelled(codebook, &value).as_deref(), Some(shown), "{layout} {written}");
        // Programs get the number.
        assert!(serde_json::to_value(&value).unwrap().is_i64() || serde_json::to_value(&value).unwrap().is_u64());
    }
}

#[test]
fn times_that_are_none_say_why() {
    let codebook = Codebook::standard();
    for (layout, written, why) in [
        ("u16 unit centiseconds", "soon", "`soon` is neither a number nor a duration such as `1h30m`"),
        ("u16 unit centiseconds", "15ms", "`15ms` is no whole number of centiseconds"),
        ("u16 unit eight-seconds", "1s", "`1s` is no whole number of eight-seconds"),
        ("u16 unit centiseconds", "1h", "360000 is outside 0 to 65535"),
        ("u32 unit seconds", "-1s", "-1 is outside 0 to 4294967295"),
        ("u32 unit seconds", "", "`` is neither a number nor a duration such as `1h30m`"),
        ("u32 unit seconds", "99999999999999999999999999999999999999999w", "is neither a number nor a duration"),
    ] {
        let parsed = Layout::parse_with(layout, codebook).unwrap();
        let wrong = parsed.read(codebook, &Input::from_text(written)).unwrap_err().to_string();
        assert!(wrong.contains(why), "{layout} {written}: {wrong}");
    }
    for (layout, why) in [
        ("u16 unit fortnights", "unknown unit `fortnights`"),
        ("u16 unit centisecond", "did you mean `centiseconds`?"),
        ("u8 code v7", "unknown chapter `v7`"),
    ] {
        let wrong = Layout::parse_with(layout, codebook).unwrap_err().to_string();
        assert!(wrong.contains(why), "{layout}: {wrong}");
    }
    for (word, unit, _) in Unit::ALL {
        assert_eq!(unit.word(), word);
    }
}

#[test]
fn codes_are_shown_with_their_names() {
    let codebook = Codebook::standard();
    let spelled = |option: &str, octets: &[u8]| {
        let layout = codebook.layout(codebook.find(option).unwrap());
        layout.spelled(codebook, &layout.decode(codebook, octets).0.unwrap())
    };
    assert_eq!(spelled("v4:55", &[1, 121]).as_deref(), Some("1 subnet-mask, 121 classless-static-route"));
    assert_eq!(spelled("v6:6", &[0, 23, 0xfd, 0xe8]).as_deref(), Some("23 dns-servers, 65000"));
    // Nothing is known of these, or they are no codes.
    assert_eq!(spelled("v6:6", &[0xfd, 0xe8]), None);
    assert_eq!(spelled("v4:6", &[10, 64, 0, 53]), None);
    assert_eq!(spelled("v4:23", &[64]), None);
    let rows = codebook.explain(codebook.find("v4:55").unwrap(), &[6]).rows;
    assert_eq!(rows[0].meaning, "6  domain-server");
}

/// Octets that spell something are shown as that, and come back as the same octets.
#[test]
fn octets_that_spell_text_are_text() {
    let codebook = Codebook::standard();
    let definition = codebook.find("v4:82/1").unwrap();
    for (octets, shown) in [
        (&b"port7"[..], "{ text = port7 }"),
        (b"port 7, \"left\"", "{ text = \"port 7, \\\"left\\\"\" }"),
        (b"{ hex = 00 }", "{ text = \"{ hex = 00 }\" }"),
        (b"p7", "70:37"),
        (b"port\x00", "70:6f:72:74:00"),
        (b"p\xc3\xb8rt", "70:c3:b8:72:74"),
        (&[1, 2, 3], "01:02:03"),
    ] {
        let value = codebook.decode(definition, octets).0.unwrap();
        assert_eq!(value.to_string(), shown);
        let again = codebook.encode(definition, &Input::from_text(shown)).unwrap();
        assert_eq!(again.octets, octets, "{shown}");
        assert_eq!(serde_json::to_value(&value).unwrap(), serde_json::json!(hex::colon(octets)));
    }
}

#[test]
fn codes_that_no_codebook_defines_are_octets() {
    let codebook = Codebook::standard();
    for (query, reference) in [
        ("v6:65000", "RFC 8415, section 24"),
        ("v6:0", "RFC 8415, section 24"),
        ("ra:14", "RFC 4861, section 9"),
        ("v4:82/77", "RFC 3046, section 2.0"),
        ("v4:43/9", "RFC 2132, section 8.4"),
    ] {
        let option = codebook.find_or_undefined(query).unwrap();
        assert_eq!(
            (option.id().to_string().as_str(), option.status, &*option.reference),
            (query, Status::Undefined, reference)
        );
        let value = codebook.decode(&option, &[1, 2]).0.unwrap();
        assert_eq!(value, Value::Bytes(vec![1, 2]));
        let found = check::payload(codebook, &option, &[1, 2]);
        assert_eq!(found.iter().map(|finding| finding.rule.name).collect::<Vec<_>>(), ["option-undefined"], "{query}");
        // Who writes it knows what it is for.
        assert_eq!(check::payload_to_send(codebook, &option, &[1, 2]), []);
    }
    for query in ["ra:256", "v4:256", "v4:82/256", "tern:9", "v6:dns-serverz", "v6:65536", "v4:3/1/2"] {
        assert!(codebook.find_or_undefined(query).is_err(), "{query}");
    }
    assert_eq!(codebook.find_or_undefined("v4:router").unwrap().code, 3);
}

#[test]
fn what_octets_plainly_are() {
    let message = |protocol, text: &str| {
        Specimen::read(protocol, "message.toml", text, &mut |_| Err("no such file".into())).octets.unwrap()
    };
    let v4 = message(Protocol::V4, "type = \"discover\"\nchaddr = \"02:00:5e:00:53:11\"\n");
    let v6 = message(Protocol::V6, "type = \"solicit\"\noptions = { elapsed-time = 0 }\n");
    let ra = message(Protocol::Ra, "managed = true\noptions = { mtu = { mtu = 1500 } }\n");
    let packet = message(Protocol::Ra, "source = \"fe80::1\"\nmanaged = true\n");
    for (protocol, octets) in [(Protocol::V4, &v4), (Protocol::V6, &v6), (Protocol::Ra, &ra), (Protocol::Ra, &packet)] {
        assert_eq!(AnyMessage::plainly(octets), Some(protocol));
    }
    // Cut off, or of no type that there is, it may be anything.
    for octets in [&v6[..v6.len() - 1], &[][..], &[99, 0, 0, 1, 0, 8, 0, 2, 0, 0], b"01000001", &v4[..200]] {
        assert_eq!(AnyMessage::plainly(octets), None, "{octets:?}");
    }
}

/// A vendor's options in 43 are held to their own layouts and rules wherever a codebook was named that reads them.
#[test]
fn option_43_is_checked_as_its_vendor_reads_it() {
    let book = "book = \"tern\"\ntitle = \"Tern\"\ncarriers = [\"v4:43\"]\n[[option]]\ncode = 1\nname = \"servers\"\n\
        layout = \"ipv4+\"\nreference = \"Tern D2 manual, page 9\"\n";
    let codebook = Codebook::with("tern.toml", book).unwrap();
    let vendors = codebook.find("v4:43").unwrap();
    let found = |octets: &[u8]| -> Vec<String> {
        let found = check::payload(&codebook, vendors, octets);
        found.iter().map(|finding| format!("{} {:?} {}", finding.rule.name, finding.octets, finding.rfc)).collect()
    };
    assert_eq!(found(&[1, 4, 10, 64, 0, 70]), [""; 0]);
    assert_eq!(found(&[1, 4, 224, 0, 0, 1]), ["address-not-a-host Some(2..6) RFC 1122, section 3.2.1.3"]);
    assert_eq!(found(&[1, 3, 10, 64, 0]), ["value-malformed Some(2..5) Tern D2 manual, page 9"]);
    // Without the codebook they are any octets.
    let standard = Codebook::standard();
    assert_eq!(check::payload(standard, standard.find("v4:43").unwrap(), &[1, 3, 10, 64, 0]), []);
    // With two that read it, neither does.
    let mut two = codebook.clone();
    two.define(Definition::new("gull", 1, "ring", Layout::parse("u8").unwrap()).carried(Carrier::IN_43));
    assert!(two.by_vendor(vendors, None).is_none() && two.by_vendor(vendors, Some("gull")).is_some());
    assert_eq!(check::payload(&two, vendors, &[1, 3, 10, 64, 0]), []);
}

#[test]
fn doubles_are_found_in_lists_of_any_length_and_form() {
    let codebook = Codebook::standard();
    let doubles = |option: &str, octets: &[u8]| -> Vec<String> {
        let found = check::payload(codebook, codebook.find(option).unwrap(), octets);
        let found = found.into_iter().filter(|finding| finding.rule.name == "list-item-repeated");
        found.map(|finding| finding.message).collect()
    };
    let servers = |count: u8| (1..=count).flat_map(|last| [10, 64, 0, last]).collect::<Vec<u8>>();
    for count in [2, 16, 17, 60] {
        assert_eq!(doubles("v4:6", &servers(count)), [""; 0], "{count}");
        let again = [servers(count), vec![10, 64, 0, 1]].concat();
        assert_eq!(doubles("v4:6", &again), ["duplicate 10.64.0.1 in the list"], "{count}");
    }
    assert_eq!(doubles("v6:6", &[0, 23, 0, 24, 0, 23]), ["duplicate 23 in the list"]);
    // What stands at another place among the octets is no double.
    assert_eq!(doubles("v6:6", &[0, 23, 23, 0, 0, 24]), [""; 0]);
    assert_eq!(doubles("v6:24", b"\x01a\x00\x01b\x00\x01a\x00"), ["duplicate a in the list"]);
    assert_eq!(doubles("v4:77", b"\x02ab\x02ba\x02ab"), ["duplicate 61:62 in the list"]);
}

#[test]
fn routes_have_as_much_of_their_prefix_as_they_need() {
    let codebook = Codebook::standard();
    let route = codebook.find("ra:24").unwrap();
    for (length, prefix, octets) in [
        (0, "::", 0),
        (1, "::", 8),
        (48, "2001:db8:64::", 8),
        (64, "2001:db8:64:1::", 8),
        (65, "2001:db8:64:1::", 16),
        (96, "64:ff9b::", 16),
        (128, "2001:db8::1", 16),
    ] {
        let text = format!("{{ length = {length}, preference = medium, lifetime = 1h, prefix = \"{prefix}\" }}");
        let payload = codebook.encode(route, &Input::from_text(&text)).unwrap();
        assert_eq!((payload.octets.len(), payload.faults.len()), (6 + octets, 0), "{text}");
        // With less it cannot be read, with more it can.
        if octets > 0 {
            let faults = codebook.decode(route, &payload.octets[..payload.octets.len() - 8]).1;
            assert_eq!(faults.len(), 1, "{text}");
        }
        if octets < 16 {
            let longer = [payload.octets.as_slice(), &[0; 8]].concat();
            assert_eq!(codebook.decode(route, &longer).1, [], "{text}");
        }
    }
    let unknown = Layout::parse_with("{ length: u8, prefix: ipv6-head by size }", codebook).unwrap_err();
    assert!(unknown.to_string().contains("there is no earlier field `size`"), "{unknown}");
}
