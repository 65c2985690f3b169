//! DHCPv6 messages: read where they lie, written, and what the rules say of them.

use std::net::Ipv6Addr;

use oplex::check;
use oplex::codebook::Codebook;
use oplex::family::Protocol;
use oplex::layout::Input;
use oplex::packet::v6::{Draft, Header, Message, MessageType, Relay};
use oplex::packet::{ComposeError, Composer, Element, Message as _, MessageError};
use oplex::specimen::Specimen;
use proptest::prelude::*;

fn written(message_type: MessageType, header: Header, options: &[(u16, &[u8])]) -> Vec<u8> {
    Composer::default().compose(&Draft { message_type, header, options }).unwrap().to_vec()
}

/// Wraps a message in so many relays.
fn relayed(mut message: Vec<u8>, relays: u8) -> Vec<u8> {
    for hops in 0..relays {
        let relay = Relay { hops, link: Ipv6Addr::LOCALHOST, peer: Ipv6Addr::UNSPECIFIED };
        message = written(MessageType::RELAY_FORWARD, Header::Relay(relay), &[(18, b"port"), (9, &message)]);
    }
    message
}

/// RFC 8415, section 8: a type, three octets of transaction, options. Section 9: a type, a hop count, two addresses.
#[test]
fn headers_are_those_of_the_rfc() {
    let solicit = written(MessageType::SOLICIT, Header::Transaction(0x01_0203), &[(8, &[0, 7]), (14, &[])]);
    assert_eq!(solicit, [1, 1, 2, 3, 0, 8, 0, 2, 0, 7, 0, 14, 0, 0]);
    let message = Message::read(&solicit).unwrap();
    assert_eq!(
        (message.message_type(), message.transaction(), message.relay()),
        (MessageType::SOLICIT, Some(0x01_0203), None)
    );

    let relay = Relay { hops: 2, link: "2001:db8:64:40::1".parse().unwrap(), peer: "fe80::2".parse().unwrap() };
    let outer = written(MessageType::RELAY_REPLY, Header::Relay(relay), &[(9, &solicit)]);
    assert_eq!((outer[..2].to_vec(), outer.len()), (vec![13, 2], 34 + 4 + 14));
    let outer = Message::read(&outer).unwrap();
    assert_eq!((outer.relay(), outer.transaction()), (Some(relay), None));
    assert_eq!(outer.relayed(), Some((Ok(message), 38)));
    // RFC 7341, section 6.2 has flags in place of a transaction; RFC 8156, section 5.2 a time after it.
    assert_eq!(Message::read(&[20, 0x80, 0, 0]).unwrap().transaction(), None);
    assert_eq!(Message::read(&[24, 0, 0, 1, 0, 0, 0, 9]).unwrap().elements().count(), 0);
}

#[test]
fn what_is_no_message_is_refused_and_what_is_cut_short_is_told() {
    assert_eq!(Message::read(&[]), Err(MessageError::TooShort { protocol: Protocol::V6, octets: 0, header: 4 }));
    assert_eq!(
        Message::read(&[12; 33]),
        Err(MessageError::TooShort { protocol: Protocol::V6, octets: 33, header: 34 })
    );
    assert_eq!(
        Message::read(&[1; 65_528]),
        Err(MessageError::TooLong { protocol: Protocol::V6, octets: 65_528, most: 65_527 })
    );
    let steps: Vec<_> =
        Message::read(&[1, 0, 0, 0, 0, 14, 0, 0, 0, 23, 0, 16, 1]).unwrap().elements().skip(1).collect();
    assert_eq!(steps, [Element::Cut { at: 8, octets: 5, needed: 20 }]);
    assert_eq!(
        Message::read(&[1, 0, 0, 0, 9]).unwrap().elements().next(),
        Some(Element::Cut { at: 4, octets: 1, needed: 4 })
    );
    fn draft(message_type: MessageType, header: Header, options: &[(u16, &[u8])]) -> Result<(), ComposeError> {
        Composer::default().compose(&Draft { message_type, header, options }).map(|_| ())
    }
    let long = vec![0; 65_536];
    assert_eq!(
        draft(MessageType::REPLY, Header::Transaction(0), &[(17, &long)]),
        Err(ComposeError::OptionTooLong { protocol: Protocol::V6, code: 17, octets: 65_536, most: 65_535 })
    );
    assert_eq!(
        draft(MessageType::REPLY, Header::Transaction(0), &[(17, &long[..65_535])]),
        Err(ComposeError::MessageTooLong { octets: 65_543, most: 65_527 })
    );
    assert_eq!(
        draft(MessageType::RELAY_REPLY, Header::Transaction(0), &[]),
        Err(ComposeError::WrongHeader(MessageType::RELAY_REPLY))
    );
}

#[test]
fn reading_allocates_nothing_however_deep() {
    let message = relayed(written(MessageType::SOLICIT, Header::Transaction(1), &[(8, &[0, 0]), (6, &[0, 23])]), 30);
    let mut codes = 0;
    let allocated = allocation_counter::measure(|| {
        let inner = Message::read(&message).unwrap().innermost().unwrap();
        codes = inner.options().map(|option| option.code()).sum();
    });
    assert_eq!((allocated.count_total, codes), (0, 14));
}

proptest! {
    #[test]
    fn what_is_written_is_read(
        kind in 1u8..12, transaction in 0u32..0x100_0000, relays in 0u8..9,
        options in prop::collection::vec((any::<u16>(), prop::collection::vec(any::<u8>(), 0..40)), 0..12),
    ) {
        let given: Vec<(u16, &[u8])> = options.iter().map(|(code, octets)| (*code, &octets[..])).collect();
        let whole = relayed(written(MessageType(kind), Header::Transaction(transaction), &given), relays);
        let message = Message::read(&whole).unwrap().innermost().unwrap();
        assert_eq!((message.message_type(), message.transaction()), (MessageType(kind), Some(transaction)));
        assert_eq!(message.options().map(|option| (option.code(), option.octets().unwrap())).collect::<Vec<_>>(), given);
        assert_eq!(message.options().map(|option| option.at()).collect::<Vec<_>>(), starts(&given));
    }

    #[test]
    fn any_octets_are_looked_at_and_findings_lie_in_them(octets in prop::collection::vec(any::<u8>(), 0..200), first in 0u8..40) {
        let octets: Vec<u8> = std::iter::once(first).chain(octets).collect();
        let Ok(message) = Message::read(&octets) else { return Ok(()) };
        let whole: usize = message.elements().map(|step| match step {
            Element::Option(option) => 4 + option.length(),
            Element::Cut { octets, .. } => octets,
            Element::Empty { .. } => 0,
        }).sum();
        assert_eq!(whole + message.message_type().header_octets(), octets.len());
        for finding in check::message(Codebook::standard(), message) {
            // What is missing stands nowhere.
            let Some(place) = finding.octets.clone() else {
                assert!(finding.message.contains(" is missing from "), "{finding:?}");
                continue;
            };
            assert!(place.start < place.end && place.end <= octets.len(), "{finding:?}");
        }
    }
}

fn starts(options: &[(u16, &[u8])]) -> Vec<usize> {
    let next = |at: &mut usize, (_, octets): &(u16, &[u8])| {
        let here = *at;
        *at += 4 + octets.len();
        Some(here)
    };
    options.iter().scan(4, next).collect()
}

/// Values as the figures of their RFCs lay them out.
#[test]
fn options_have_the_octets_of_their_figures() {
    let codebook = Codebook::standard();
    for (option, value, octets) in [
        // RFC 8415, sections 21.21 and 21.22.
        (
            "v6:ia-pd",
            "{ iaid = 7, t1 = 1h, t2 = 2h, options = { iaprefix = { preferred-lifetime = 2h, valid-lifetime = 4h, prefix-length = 56, prefix = \"2001:db8:64:100::\", options = {} } } }",
            "00000007 00000e10 00001c20 001a0019 00001c20 00003840 38 20010db8006401000000000000000000",
        ),
        // RFC 8415, section 21.13: a code and text without a NUL.
        ("v6:status-code", "{ status = NoAddrsAvail, message = none }", "0002 6e6f6e65"),
        // RFC 5908, sections 4.1 and 4.3: one time source in each option.
        ("v6:ntp-server", "{ srv-addr = 2001:db8:64::123 }", "0001 0010 20010db8006400000000000000000123"),
        ("v6:ntp-server", "{ srv-fqdn = ntp.example }", "0003 000d 036e7470076578616d706c6500"),
        // RFC 5970, section 3.2: each parameter after its length.
        ("v6:bootfile-param", "ro, quiet", "0002 726f 0005 7175696574"),
        // RFC 7598, sections 4.1, 4.2 and 5.1.
        (
            "v6:s46-cont-mape",
            "{ s46-rule = { flags = f, ea-len = 16, ipv4-prefix-len = 24, ipv4-prefix = 192.0.2.0, ipv6-prefix = 2001:db8::/40, options = { s46-portparams = { offset = 6, psid-len = 8, psid = 0x3400 } } }, s46-br = 2001:db8::1 }",
            "0059 0015 01 10 18 c0000200 28 20010db800 005d0004 06 08 3400 005a 0010 20010db8000000000000000000000001",
        ),
        // RFC 4704, section 4; RFC 8910, section 2.2; RFC 7078, section 2.
        ("v6:client-fqdn", "{ flags = s, name = dome-3. }", "01 06646f6d652d33 00"),
        ("v6:captive-portal", "https://p.example", "68747470733a2f2f702e6578616d706c65"),
        (
            "v6:addrsel",
            "{ flags = a, options = { addrsel-table = { label = 1, precedence = 50, prefix = 2001:db8::/32 } } }",
            "02 0055 0007 01 32 20 20010db8",
        ),
    ] {
        let definition = codebook.find(option).unwrap();
        let payload = codebook.encode(definition, &Input::from_text(value)).unwrap();
        let wanted = oplex::octets::hex::parse(octets).unwrap();
        assert_eq!(oplex::octets::hex::plain(&payload.octets), oplex::octets::hex::plain(&wanted), "{option}");
        let again = codebook.decode(definition, &wanted);
        assert_eq!(again, (Some(payload.value), vec![]), "{option}");
    }
}

fn findings(text: &str) -> Vec<String> {
    let specimen = Specimen::read(Protocol::V6, "message.toml", text, &mut |_| Err("no such file".into()));
    let octets = specimen.octets.unwrap_or_else(|| panic!("{text}\n{:#?}", specimen.findings));
    let found = check::message(Codebook::standard(), Message::read(&octets).unwrap());
    found
        .iter()
        .map(|finding| {
            let octets = finding.octets.as_ref().map(|octets| format!(" {}..{}", octets.start, octets.end));
            format!("{} {}{}", finding.severity, finding.rule.name, octets.unwrap_or_default())
        })
        .collect()
}

const CLIENT: &str = "clientid = \"00:03:00:01:02:00:5e:00:53:11\"\n";
const SERVER: &str = "serverid = \"00:03:00:01:00:00:5e:00:53:01\"\n";
const ADDRESS: &str = "ia-na = { iaid = 1, t1 = 0, t2 = 0, options = { iaaddr = { address = \"2001:db8:64:10::20\", preferred-lifetime = 600, valid-lifetime = 900, options = {} } } }\n";

#[test]
fn messages_of_every_exchange_are_met_with_silence() {
    let solicit = format!("{CLIENT}elapsed-time = 0\noro = [23, 24, 82]\nrapid-commit = true\n{ADDRESS}");
    let request = format!("{CLIENT}{SERVER}elapsed-time = 0\noro = [23, 82]\n{ADDRESS}");
    let reply = format!("{CLIENT}{SERVER}{ADDRESS}dns-servers = \"2001:db8:64::53\"\nsol-max-rt = 3600\n");
    for (kind, options) in [
        ("solicit", &solicit),
        ("advertise", &reply),
        ("request", &request),
        ("confirm", &format!("{CLIENT}elapsed-time = 7\n{ADDRESS}")),
        ("renew", &request),
        ("rebind", &format!("{CLIENT}elapsed-time = 0\noro = [23]\n{ADDRESS}")),
        ("reply", &reply),
        ("release", &format!("{CLIENT}{SERVER}elapsed-time = 0\n{ADDRESS}")),
        ("decline", &format!("{CLIENT}{SERVER}elapsed-time = 0\n{ADDRESS}")),
        ("information-request", &"elapsed-time = 0\noro = [23, 32, 83]\n".to_owned()),
        ("reply", &format!("{SERVER}information-refresh-time = 86400\ninf-max-rt = 3600\n")),
    ] {
        let text = format!("type = \"{kind}\"\ntransaction = 7\n[options]\n{options}");
        assert_eq!(findings(&text), [""; 0], "{text}");
        // And the same behind a relay.
        let inner = text.replace("[options]", "[message.options]");
        let way = if ["advertise", "reply"].contains(&kind) { "reply" } else { "forward" };
        let relayed = "type = \"relay-WAY\"\nlink = \"2001:db8:64:10::1\"\npeer = \"fe80::1\"\noptions = { interface-id = \"01\" }\n[message]\n";
        assert_eq!(findings(&format!("{}{inner}", relayed.replace("WAY", way))), [""; 0], "{text}");
    }
}

#[test]
fn what_is_wrong_with_a_message_is_found_at_its_octets() {
    let of = |kind: &str, options: &str| findings(&format!("type = \"{kind}\"\ntransaction = 7\n[options]\n{options}"));
    // The octets of a client identifier with its head: 14 after the header.
    assert_eq!(
        of("reply", &format!("{CLIENT}elapsed-time = 0\n{SERVER}")),
        ["error option-not-allowed-in-message 18..24"]
    );
    assert_eq!(of("reply", CLIENT), ["error option-missing-in-message"]);
    let prefix = "ia-pd = { iaid = 1, t1 = 0, t2 = 0, options = {} }\n";
    assert_eq!(
        of("decline", &format!("{CLIENT}{SERVER}elapsed-time = 0\n{prefix}")),
        ["error option-not-allowed-in-message 38..54"]
    );
    let inside = "ia-na = { iaid = 1, t1 = 0, t2 = 0, options = { dns-servers = \"2001:db8:64::53\" } }\n";
    assert_eq!(of("reply", &format!("{SERVER}{inside}")), ["error option-misplaced 34..54"]);
    let lasting = ADDRESS.replace("preferred-lifetime = 600", "preferred-lifetime = 901");
    assert_eq!(of("reply", &format!("{SERVER}{lasting}")), ["error message-times-out-of-order 54..62"]);
    let status = "ia-na = { iaid = 1, t1 = 0, t2 = 0, options = [{ status-code = { status = 2, message = \"\" } }, { status-code = { status = 0, message = \"\" } }] }\n";
    assert_eq!(of("reply", &format!("{SERVER}{status}")), ["error option-repeated 40..46"]);
    assert_eq!(
        of("information-request", "elapsed-time = 0\noro = [23, 14, 32]\n"),
        ["warning request-list-incomplete 10..20", "error option-not-requestable 16..18",]
    );
    // What stands in an NTP server's option has codes of its own, and is not taken for options of DHCPv6.
    let ntp = "ia-na = { iaid = 1, t1 = 0, t2 = 0, options = { ntp-server = { srv-addr = \"2001:db8:64::123\" } } }\n";
    assert_eq!(of("reply", &format!("{SERVER}{ntp}")), ["error option-misplaced 34..58"]);
    assert_eq!(of("reply", &format!("{SERVER}inf-max-rt = 59\n")), ["error value-out-of-range 18..26"]);
    // What a payload's own rules find is counted from the start of the outermost message.
    let relayed = "type = \"relay-reply\"\nlink = \"2001:db8:64:10::1\"\npeer = \"fe80::1\"\n[message]\ntype = \"reply\"\n[message.options]\n";
    assert_eq!(findings(&format!("{relayed}{SERVER}dns-servers = \"ff02::1\"\n")), ["error address-not-a-host 56..76"]);
}

#[test]
fn specimens_that_are_none_say_why() {
    for (text, message) in [
        ("transaction = 1\n", "key `type` is missing"),
        ("type = \"solicitt\"\n", "unknown message type `solicitt`; did you mean `Solicit`?"),
        ("type = \"solicit\"\ntransaction = 16777216\n", "`transaction` is 16777216, outside 0 to 16777215"),
        ("type = \"relay-reply\"\nlink = \"2001\"\n", "`2001` is not an IPv6 address; write it like `2001:db8:64::53`"),
        ("type = \"solicit\"\noptions = { router = \"10.64.4.1\" }\n", "unknown option `router`"),
        (
            "type = \"solicit\"\noptions = { elapsed-time = \"soon\" }\n",
            "elapsed-time: `soon` is neither a number nor a duration",
        ),
    ] {
        let specimen = Specimen::read(Protocol::V6, "message.toml", text, &mut |_| Err("no such file".into()));
        assert!(specimen.octets.is_none() || message.contains("elapsed"), "{text}");
        let found: Vec<&str> = specimen.findings.iter().map(|finding| finding.message.as_str()).collect();
        assert!(found.iter().any(|found| found.starts_with(message)), "{text}\n{found:?}");
    }
}

/// One vendor's list of options travels in both families.
#[test]
fn vendors_options_travel_in_option_17_of_their_enterprise() {
    let book = "book = \"domes\"\ntitle = \"Domes\"\nenterprise = 32473\ncarriers = [\"v4:125\", \"v6:17\"]\n[[option]]\ncode = 1\nname = \"park\"\n\
                layout = \"u16\"\nreference = \"its manual\"\n[[option]]\ncode = 2\nname = \"mast\"\nlayout = \"name\"\nreference = \"its manual\"\n";
    let text = "codebooks = [\"domes\"]\ntype = \"reply\"\n[options]\n\"domes:park\" = 180\nserverid = \"00:03:00:01:00:00:5e:00:53:01\"\n\"domes:mast\" = \"m.example\"\n";
    let specimen = Specimen::read(Protocol::V6, "message.toml", text, &mut |_| Ok(book.to_owned()));
    assert_eq!(specimen.findings, []);
    let octets = specimen.octets.unwrap();
    let message = Message::read(&octets).unwrap();
    let vendors = message.option(17).unwrap();
    assert_eq!(
        oplex::octets::hex::plain(vendors.octets().unwrap()),
        "00007ed90001000200b40002000b016d076578616d706c6500"
    );
    let (value, faults) =
        specimen.codebook.decode(specimen.codebook.own(Protocol::V6, 17).unwrap(), vendors.octets().unwrap());
    assert_eq!(value.unwrap().to_string(), "{ enterprise = 32473, options = { park = 180, mast = m.example } }");
    assert_eq!((faults, check::message(&specimen.codebook, message)), (vec![], vec![]));
    // Options of the other family would be taken for something else.
    let v4 = Specimen::read(
        Protocol::V6,
        "message.toml",
        "type = \"reply\"\noptions = { \"v4:router\" = \"10.64.4.1\" }\n",
        &mut |_| unreachable!(),
    );
    assert_eq!(v4.findings[0].rule.name, "option-of-other-family");
}
