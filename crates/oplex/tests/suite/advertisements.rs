//! Router advertisements: read where they lie, written, and what the rules say of them.

use std::net::Ipv6Addr;

use oplex::check;
use oplex::codebook::Codebook;
use oplex::family::Protocol;
use oplex::finding::Finding;
use oplex::layout::Input;
use oplex::octets::hex;
use oplex::packet::ra::{Advertisement, Draft, Ends, Header, Message, Packet, Preference, checksum};
use oplex::packet::{ComposeError, Composer, Element, Message as _, MessageError};
use oplex::specimen::Specimen;
use proptest::prelude::*;

fn ends() -> Ends {
    Ends { source: "fe80::1".parse().unwrap(), destination: "ff02::1".parse().unwrap() }
}

fn composed(header: Header, options: &[(u16, &[u8])]) -> Result<Vec<u8>, ComposeError> {
    Composer::default().compose(&Draft { header, ends: ends(), options }).map(<[u8]>::to_vec)
}

fn specimen(text: &str) -> Vec<u8> {
    let specimen = Specimen::read(Protocol::Ra, "message.toml", text, &mut |_| Err("no such file".into()));
    assert_eq!(specimen.findings, [], "{text}");
    specimen.octets.unwrap()
}

fn findings(octets: &[u8]) -> Vec<Finding> {
    check::message(Codebook::standard(), Message::read(octets).unwrap())
}

/// RFC 4861, section 4.2 and RFC 4191, section 2.2: type, code, checksum, hop limit, M O H Prf P, lifetime, two times.
#[test]
fn the_header_is_that_of_the_rfcs() {
    let said = Advertisement {
        hop_limit: 64,
        managed: true,
        home_agent: true,
        preference: Preference::Low,
        router_lifetime: 0x0102,
        reachable_time: 0x0304_0506,
        retrans_timer: 0x0708_090a,
        ..Advertisement::default()
    };
    let mut octets = composed(Header::Advertisement(said), &[]).unwrap();
    assert_eq!(octets[..2], [134, 0]);
    assert_eq!(octets[4..], [64, 0b1011_1000, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10]);
    assert_eq!(Message::read(&octets).unwrap().advertisement(), Some(said));
    for (bits, preference) in [(0, "medium"), (8, "high"), (16, "reserved"), (24, "low")] {
        octets[5] = bits;
        assert_eq!(Message::read(&octets).unwrap().advertisement().unwrap().preference.name(), preference);
    }
    let octets = composed(Header::Solicitation, &[(1, &[0, 0, 0x5e, 0, 0x53, 1])]).unwrap();
    assert_eq!((octets[0], &octets[4..]), (133, &[0, 0, 0, 0, 1, 1, 0, 0, 0x5e, 0, 0x53, 1][..]));
}

/// Values worked out by hand from the figures of the RFCs that define them.
#[test]
fn options_are_laid_out_as_their_figures_show() {
    let codebook = Codebook::standard();
    for (option, value, octets) in [
        // RFC 4861, section 4.6.2: length, L and A, valid, preferred, reserved, prefix.
        (
            "ra:3",
            "{ length = 64, flags = on-link+autonomous, valid = 4h, preferred = infinite, prefix = 2001:db8:64:10:: }",
            "40 c0 00003840 ffffffff 00000000 20010db8006400100000000000000000",
        ),
        ("ra:5", "{ mtu = 1280 }", "0000 00000500"),
        // RFC 4191, section 2.3: none, 8 or 16 octets of prefix.
        ("ra:24", "{ length = 0, preference = low, lifetime = 30m, prefix = :: }", "00 18 00000708"),
        (
            "ra:24",
            "{ length = 48, preference = high, lifetime = 30m, prefix = 2001:db8:64:: }",
            "30 08 00000708 20010db800640000",
        ),
        (
            "ra:24",
            "{ length = 128, preference = medium, lifetime = 0s, prefix = 2001:db8::1 }",
            "80 00 00000000 20010db8000000000000000000000001",
        ),
        // RFC 8106, section 5.1: reserved, lifetime, addresses.
        (
            "ra:25",
            "{ lifetime = 1h, servers = [2001:db8::1, fe80::1] }",
            "0000 00000e10 20010db8000000000000000000000001 fe800000000000000000000000000001",
        ),
        // RFC 8106, section 5.2: names one after the other, zeros up to a multiple of 8.
        (
            "ra:31",
            "{ lifetime = 1h, domains = [a.example, b] }",
            "0000 00000e10 01 61 07 6578616d706c65 00 01 62 00 0000",
        ),
        // RFC 8910, section 2.3.
        ("ra:37", "https://a.example", "68747470733a2f2f612e6578616d706c65 0000000000"),
        // RFC 8781, section 4: 13 bits of lifetime, 3 of length, the highest 96 bits.
        (
            "ra:38",
            "{ scale = { lifetime = 75, length = /64 }, prefix = 2001:db8:64:: }",
            "0259 20010db80064000000000000",
        ),
        // RFC 9463, section 6.1.
        (
            "ra:144",
            "{ priority = 1, lifetime = 1h, rest = { authentication-domain = a.b, addresses = [2001:db8::1] } }",
            "0001 00000e10 0005 0161016200 0010 20010db8000000000000000000000001 00000000000000",
        ),
    ] {
        let definition = codebook.find(option).unwrap();
        let payload = codebook.encode(definition, &Input::from_text(value)).unwrap();
        assert_eq!(hex::plain(&payload.octets), octets.replace(' ', ""), "{option}");
        let (decoded, faults) = codebook.decode(definition, &payload.octets);
        assert_eq!((decoded, faults), (Some(payload.value), vec![]), "{option}");
        assert_eq!(
            codebook.framed(definition, &payload.octets).len(),
            8 * usize::from(codebook.framed(definition, &payload.octets)[1])
        );
    }
}

/// RFC 4443, section 2.3 and RFC 8200, section 8.1, added up the slow way.
#[test]
fn the_checksum_makes_the_packet_add_up() {
    for options in ["", "mtu = { mtu = 1500 }", "source-link-layer-address = \"00:00:5e:00:53:01\""] {
        let packet = specimen(&format!("managed = true\nsource = \"fe80::1\"\n[options]\n{options}"));
        let length = u16::from_be_bytes([packet[4], packet[5]]);
        let words = packet[8..].chunks(2).map(|pair| u32::from(u16::from_be_bytes([pair[0], pair[1]])));
        let sum = words.sum::<u32>() + u32::from(length) + 58;
        assert_eq!((sum & 0xffff) + (sum >> 16), 0xffff, "{options}");
    }
    assert_eq!(
        checksum(Ends { source: Ipv6Addr::UNSPECIFIED, destination: Ipv6Addr::UNSPECIFIED }, &[1]),
        !(0x100 + 1 + 58)
    );
}

#[test]
fn what_is_no_advertisement_is_refused_and_what_is_cut_short_is_told() {
    let whole = specimen("managed = true\nsource = \"fe80::1\"\noptions = { mtu = { mtu = 1500 } }\n");
    let bare = &whole[40..];
    assert_eq!(Message::read(&[]), Err(MessageError::TooShort { protocol: Protocol::Ra, octets: 0, header: 16 }));
    assert_eq!(
        Message::read(&bare[..15]),
        Err(MessageError::TooShort { protocol: Protocol::Ra, octets: 15, header: 16 })
    );
    assert_eq!(Message::read(&[133; 7]), Err(MessageError::TooShort { protocol: Protocol::Ra, octets: 7, header: 8 }));
    assert_eq!(
        Message::read(&whole[..39]),
        Err(MessageError::TooShort { protocol: Protocol::Ra, octets: 39, header: 40 })
    );
    assert_eq!(Message::read(&whole[..63]), Err(MessageError::CutOff { octets: 23, counted: 24 }));
    assert_eq!(Message::read(&[135; 24]), Err(MessageError::OtherType(135)));
    let mut udp = whole.clone();
    udp[6] = 17;
    assert_eq!(Message::read(&udp), Err(MessageError::NotIcmpV6(17)));
    // What an Ethernet card adds to a short packet is no part of the message.
    let padded = [&whole[..], &[0; 6]].concat();
    assert_eq!(Message::read(&padded).unwrap(), Message::read(&whole).unwrap());
    assert_eq!(
        Message::read(&bare[..20]).unwrap().elements().next(),
        Some(Element::Cut { at: 16, octets: 4, needed: 8 })
    );
    assert_eq!(
        Message::read(&bare[..17]).unwrap().elements().next(),
        Some(Element::Cut { at: 16, octets: 1, needed: 8 })
    );
    let mut empty = bare.to_vec();
    empty[17] = 0;
    assert_eq!(Message::read(&empty).unwrap().elements().collect::<Vec<_>>(), [Element::Empty { at: 16 }]);
    let refused = |payload: &[u8]| composed(Header::Solicitation, &[(37, payload)]).map(|_| ());
    assert_eq!(refused(&[0; 7]), Err(ComposeError::NotPadded { code: 37, octets: 9 }));
    assert_eq!(
        refused(&[0; 2046]),
        Err(ComposeError::OptionTooLong { protocol: Protocol::Ra, code: 37, octets: 2046, most: 2038 })
    );
    assert_eq!(refused(&[0; 2038]), Ok(()));
}

/// Findings count from where the octets were read, the IPv6 header included, and name the very octets.
#[test]
fn findings_point_at_their_octets() {
    for (text, rule, octets) in [
        ("managed = true\nsource = \"2001:db8::1\"\n", "ra-source-not-link-local", 8..24),
        ("managed = true\nsource = \"fe80::1\"\nip-hop-limit = 64\n", "ra-hop-limit-not-255", 7..8),
        ("managed = true\nsource = \"fe80::1\"\nchecksum = 7\n", "ra-checksum-wrong", 42..44),
        ("managed = true\nsource = \"fe80::1\"\ncode = 1\n", "ra-code-not-zero", 41..42),
        ("managed = true\npreference = \"reserved\"\n", "ra-preference-invalid", 5..6),
        ("managed = true\nsource = \"fe80::1\"\nafter-options = \"0500\"\n", "ra-option-length-zero", 56..58),
        ("managed = true\noptions = { mtu = { hex = \"0000000004ff\" } }\n", "value-out-of-range", 20..24),
        ("managed = true\noptions = { mtu = { hex = \"0001000005dc\" } }\n", "value-undefined", 18..20),
        (
            "managed = true\n[[options]]\nrdnss = { lifetime = \"1h\", servers = [\"2001:db8::1\"] }\n[[options]]\nrdnss = { lifetime = \"1h\", servers = [\"ff02::1\"] }\n",
            "address-not-a-host",
            48..64,
        ),
        (
            "type = \"solicitation\"\nsource = \"::\"\noptions = { source-link-layer-address = \"00:00:5e:00:53:01\" }\n",
            "option-not-allowed-in-message",
            48..56,
        ),
        ("managed = true\noptions = { captive-portal = \"http://portal.example\" }\n", "uri-not-https", 16..40),
    ] {
        let found = findings(&specimen(text));
        let places: Vec<_> = found.iter().map(|finding| (finding.rule.name, finding.octets.clone().unwrap())).collect();
        assert_eq!(places, [(rule, octets)], "{text}");
    }
    let solicitation = specimen("type = \"solicitation\"\nsource = \"fe80::7\"\ndestination = \"ff02::2\"\n");
    assert_eq!(findings(&solicitation), []);
}

/// What is written down wrongly is pointed at, and no message is made of it.
#[test]
fn announcements_that_cannot_be_written_down_are_refused() {
    for (text, message) in [
        ("type = «\"redirect\"»\n", "unknown type `redirect`; expected `advertisement` or `solicitation`"),
        ("preference = «\"hi\"»\n", "unknown preference `hi`; did you mean `high`?"),
        ("source = «\"fe80\"»\n", "`fe80` is not an IPv6 address; write it like `2001:db8:64::53`"),
        ("lifetime = «70000»\n", "`lifetime` is 70000, outside 0 to 65535"),
        ("managed = «1»\n", "`managed` is `true` or `false`, not a number"),
        ("«mangaed» = true\n", "unknown key `mangaed` in a router advertisement"),
        ("options = { «dns» = 1 }\n", "unknown option `dns`"),
        (
            "options = { «\"v6:dns-servers\"» = \"2001:db8::1\" }\n",
            "v6:23 dns-servers cannot be sent by router advertisements",
        ),
        (
            "options = { rdnss = { lifetime = \"1h\", servers = [\"«10.64.0.53»\"] } }\n",
            "rdnss: `10.64.0.53` is not an IPv6 address; write it like `2001:db8:64::53`",
        ),
        ("options = { rdnss = «{ servers = [\"2001:db8::1\"] }» }\n", "rdnss: the field `lifetime` is missing"),
        (
            "options = { route-information = { length = 48, preference = \"«best»\", lifetime = 1, prefix = \"::\" } }\n",
            "route-information: unknown value `best`",
        ),
        (
            "after-options = «\"0g\"»\n",
            "`after-options` is not hexadecimal: 'g' at character 2 is not a hexadecimal digit (0-9, a-f)",
        ),
    ] {
        let (text, span) = crate::marked::unmarked(text);
        let specimen = Specimen::read(Protocol::Ra, "message.toml", &text, &mut |_| Err("no such file".into()));
        let [finding] = &specimen.findings[..] else { panic!("{text}\n{:#?}", specimen.findings) };
        let at = finding.spot.as_ref().unwrap().span.clone();
        assert!(finding.message.starts_with(message), "{text}: {}", finding.message);
        assert_eq!((&text[at], specimen.octets), (&text[span.unwrap()], None), "{text}");
    }
    // Padding that is missing cannot be sent; the message says which option.
    let text =
        "options = { expanded-flags = \"80:00:00:00:00:00\", captive-portal = { hex = \"68747470733a2f2f61\" } }\n";
    let specimen = Specimen::read(Protocol::Ra, "message.toml", text, &mut |_| Err("no such file".into()));
    assert_eq!(
        specimen.findings[0].message,
        "option 37 has 11 octets with its type and length, which is no multiple of 8"
    );
}

/// What the rules say of whole advertisements, and what they leave alone.
#[test]
fn rules_look_at_whole_announcements() {
    let prefix = |length: u8, flags: &str, prefix: &str| {
        format!(
            "[[options]]\nprefix-information = {{ length = {length}, flags = \"{flags}\", valid = \"2h\", preferred = \"1h\", prefix = \"{prefix}\" }}\n"
        )
    };
    let route = |length: u8, preference: &str, prefix: &str| {
        format!(
            "[[options]]\nroute-information = {{ length = {length}, preference = \"{preference}\", lifetime = \"1h\", prefix = \"{prefix}\" }}\n"
        )
    };
    let own = prefix(64, "on-link+autonomous", "2001:db8:64:10::");
    for (text, rules) in [
        (own.clone(), &[][..]),
        ("managed = true\n".to_owned() + &prefix(64, "on-link", "2001:db8:64:10::"), &[]),
        ("managed = true\n".to_owned() + &own, &["ra-addresses-by-both"]),
        (prefix(64, "on-link", "2001:db8:64:10::"), &["ra-addresses-by-none"]),
        // A router that is no default router may only add to what another says.
        ("lifetime = 0\n".to_owned() + &prefix(64, "on-link", "2001:db8:64:10::"), &[]),
        (own.clone() + &own, &["ra-prefix-repeated"]),
        (own.clone() + &prefix(64, "on-link+autonomous", "2001:db8:64:11::"), &[]),
        (own.clone() + &route(48, "high", "2001:db8:64::") + &route(48, "low", "2001:db8:65::"), &[]),
        (
            own.clone() + &route(48, "high", "2001:db8:64::") + &route(48, "low", "2001:db8:64::"),
            &["ra-prefix-repeated"],
        ),
        (own.clone() + &route(48, "high", "2001:db8:64:1::"), &["ra-prefix-host-bits-set"]),
        (own.clone() + &route(0, "medium", "::"), &[]),
        (prefix(65, "on-link+autonomous", "2001:db8:64:10::"), &["ra-autonomous-prefix-not-64"]),
        (own.clone() + &prefix(48, "on-link", "2001:db8:64::"), &[]),
        // With R the whole address of the router stands there (RFC 6275, section 7.2).
        (own.clone() + &prefix(64, "router-address", "2001:db8:64:12::1"), &[]),
        (own.clone() + &prefix(64, "on-link", "2001:db8:64:12::1"), &["ra-prefix-host-bits-set"]),
        (own.clone() + &prefix(64, "on-link", "fe80::"), &["ra-prefix-link-local"]),
        (own.clone() + "[[options]]\nmtu = { mtu = 1500 }\n[[options]]\nmtu = { mtu = 1500 }\n", &["option-repeated"]),
        (own.clone() + "[[options]]\nrdnss = { lifetime = 0, servers = [\"2001:db8::1\"] }\n", &["ra-lifetime-zero"]),
        (
            own.clone() + "[[options]]\nrdnss = { lifetime = 1, servers = [\"2001:db8::1\", \"2001:db8::1\"] }\n",
            &["list-item-repeated"],
        ),
        (own.clone() + "[[options]]\ncaptive-portal = \"https://10.64.0.1/\"\n", &["captive-portal-by-address"]),
        ("reachable = 3600000\n".to_owned() + &own, &[]),
        ("reachable = 3600001\n".to_owned() + &own, &["ra-reachable-time-too-long"]),
        ("type = \"solicitation\"\n".to_owned() + &own, &["option-not-allowed-in-message"]),
    ] {
        let found = findings(&specimen(&text));
        assert_eq!(found.iter().map(|one| one.rule.name).collect::<Vec<_>>(), rules, "{text}\n{found:#?}");
    }
    // What nobody defined is passed over (RFC 4861, section 4.2).
    assert_eq!(findings(&specimen(&(own + "[[options]]\n\"ra:5\" = { mtu = 1500 }\n"))), []);
    let unknown =
        specimen("managed = true\nafter-options = \"fe010000000000000\"\n".replace("00000\"", "0000\"").as_str());
    assert_eq!(findings(&unknown), []);
}

#[test]
fn reading_allocates_nothing() {
    let text = include_str!("../../../../demo/visitor-advertisement.toml");
    let octets = specimen(text);
    let mut seen = (0, 0);
    let allocated = allocation_counter::measure(|| {
        let message = Message::read(&octets).unwrap();
        let right =
            message.packet().is_some_and(|packet| checksum(packet.ends, message.octets()) == message.checksum());
        seen = (message.options().filter(|_| right).count(), message.advertisement().unwrap().router_lifetime);
    });
    assert_eq!((allocated.count_total, seen), (0, (7, 1800)));
}

proptest! {
    /// What is read is written again as it was, and whatever the octets are, findings lie in them.
    #[test]
    fn messages_survive_reading_and_writing(
        header in prop::array::uniform12(any::<u8>()),
        options in prop::collection::vec((any::<u8>(), 0usize..5, any::<u8>()), 0..6),
        cut in 0usize..200,
        packed in any::<bool>(),
    ) {
        let payloads: Vec<(u16, Vec<u8>)> = options.iter().map(|(code, units, fill)| (u16::from(*code), vec![*fill; 6 + 8 * units])).collect();
        let payloads: Vec<(u16, &[u8])> = payloads.iter().map(|(code, payload)| (*code, payload.as_slice())).collect();
        let first = [&[134, 0, 0, 0][..], &header].concat();
        let said = Message::read(&first).unwrap().advertisement().unwrap();
        let mut octets = composed(Header::Advertisement(said), &payloads).unwrap();
        prop_assert_eq!(&octets[4..16], &header);
        let again: Vec<(u16, &[u8])> = Message::read(&octets).unwrap().options().map(|option| (option.code(), option.octets().unwrap())).collect();
        prop_assert_eq!(again, payloads);
        if packed {
            octets = Packet { ends: ends(), hop_limit: 255 }.around(&octets);
            let message = Message::read(&octets).unwrap();
            prop_assert_eq!(message.checksum(), checksum(ends(), message.octets()));
        }
        let kept = &octets[..cut.min(octets.len())];
        if let Ok(message) = Message::read(kept) {
            for finding in check::message(Codebook::standard(), message) {
                let place = finding.octets.unwrap();
                prop_assert!(place.start < place.end && place.end <= kept.len());
            }
        }
    }
}
