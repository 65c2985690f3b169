//! Whole DHCPv4 messages: reading, joining, composing, room.

use std::net::Ipv4Addr;
use std::time::Duration;

use oplex::codebook::Codebook;
use oplex::family::Protocol;
use oplex::octets::hex;
use oplex::packet::v4::{
    self, Budget, COOKIE, Draft, Element, Field, HEADER, Header, Limit, LimitFrom, Line, Message, MessageType, Reason,
    SMALLEST,
};
use oplex::packet::{ComposeError, Composer, Message as _, MessageError, MessageOption, OptionKey};
use proptest::prelude::*;

/// A message with these octets after the cookie, in `file` and in `sname`, all in hexadecimal.
fn message(options: &str, file: &str, sname: &str) -> Vec<u8> {
    let mut octets = vec![0; HEADER];
    octets[..3].copy_from_slice(&[2, 1, 6]);
    for (at, text) in [(44, sname), (108, file)] {
        let part = hex::parse(text).unwrap_or_default();
        octets[at..at + part.len()].copy_from_slice(&part);
    }
    octets.extend_from_slice(&COOKIE);
    octets.extend(hex::parse(options).unwrap());
    octets
}

/// Every option with its code and octets, joined.
fn options(octets: &[u8]) -> Vec<(u16, Vec<u8>)> {
    let message = Message::read(octets).unwrap();
    message.options().map(|option| (option.code(), option.joined().into_owned())).collect()
}

#[test]
fn parts_are_joined_in_the_order_of_the_fields() {
    // RFC 3396, section 5: options, file, sname, which is not the order in which they lie.
    let octets = message("350105 340103 0f027461 ff", "0f03726e66 0c0164 ff", "0f03656c6c 0f00 ff");
    assert_eq!(options(&octets), [(53, vec![5]), (52, vec![3]), (15, b"tarnfell".to_vec()), (12, b"d".to_vec())]);
    let read = Message::read(&octets).unwrap();
    let domain = read.option(15).unwrap();
    assert_eq!(
        domain.parts().map(|part| Field::around(part.at)).collect::<Vec<_>>(),
        [Field::Options, Field::File, Field::Sname, Field::Sname,]
    );
    // Each octet is found where it lies.
    assert_eq!([0, 1, 2, 4, 5, 7].map(|at| octets[domain.position(at)]), *b"tarfel");
    assert_eq!(domain.position(8), 44 + 7, "after the last octet the last part ends");
    assert_eq!((read.count(), read.overload(), domain.length(), domain.octets()), (4, 3, 8, None));
    assert_eq!(read.get(Codebook::standard(), v4::DOMAIN_NAME), Ok(Some("tarnfell".to_owned())));
}

#[test]
fn parts_may_stand_among_others_and_have_no_octets() {
    let octets = message("06040a400035 0f00 06040a400036 0f0161 0600 ff", "", "");
    assert_eq!(options(&octets), [(6, vec![10, 64, 0, 53, 10, 64, 0, 54]), (15, b"a".to_vec())]);
    let read = Message::read(&octets).unwrap();
    assert_eq!(read.parts().map(|part| part.code).collect::<Vec<_>>(), [6, 15, 6, 15, 6]);
    // Without the word of option 52, `file` and `sname` are texts.
    let octets = message("350105 ff", "0c0161ff", "0c0162ff");
    assert_eq!(options(&octets), [(53, vec![5])]);
}

#[test]
fn what_is_broken_in_one_field_leaves_the_others_to_be_read() {
    let octets = message("340103 350105 0cff6161", "3604 0a400043 0c09 ff", "0f0161 ff");
    assert_eq!(options(&octets)[3..], [(12, vec![0xff, 0, 0, 0, 0, 0, 0, 0, 0]), (15, b"a".to_vec())]);
    let octets = message("340101 350105 0c", "36040a400043 0cff", "");
    assert_eq!(options(&octets), [(52, vec![1]), (53, vec![5]), (54, vec![10, 64, 0, 67])]);
    assert_eq!(Message::read(&octets).unwrap().message_type(), Some(MessageType::ACK));
}

#[test]
fn what_is_no_message_is_refused() {
    assert_eq!(
        Message::read(&[0; 235]).unwrap_err(),
        MessageError::TooShort { protocol: Protocol::V4, octets: 235, header: 236 }
    );
    let error = Message::read(&vec![0; 65_536]).unwrap_err();
    assert_eq!(error.to_string(), "these 65536 octets are no DHCPv4 message: a datagram has at most 65535");
    // A header alone is a message without options, and so is one with anything but the cookie.
    let bare = Message::read(&[0; 236]).unwrap();
    assert!(!bare.has_cookie() && bare.count() == 0 && bare.elements().next().is_none());
    assert_eq!(bare.to_string(), "BOOTP request, 0 options, 236 octets");
    assert_eq!(Message::read(&[0; 300]).unwrap().count(), 0);
}

#[test]
fn options_become_rust_types() {
    let octets = message(
        "350103 01 04fffffe00 03080a4004010a400402 0f0474617264 330400007080 1a0205dc 790d150a40080a400402000a400401 \
         52 07 0105706f727437 13 0101 ff",
        "",
        "",
    );
    let read = Message::read(&octets).unwrap();
    assert_eq!(read.get(Codebook::standard(), v4::SUBNET_MASK), Ok(Some(Ipv4Addr::new(255, 255, 254, 0))));
    assert_eq!(read.get(Codebook::standard(), v4::ROUTER).unwrap().unwrap().len(), 2);
    assert_eq!(read.get(Codebook::standard(), v4::ADDRESS_TIME), Ok(Some(Duration::from_secs(28_800))));
    assert_eq!(read.get(Codebook::standard(), v4::MTU_INTERFACE), Ok(Some(1500)));
    assert_eq!(read.get(Codebook::standard(), v4::FORWARD_ON_OFF), Ok(Some(true)));
    assert_eq!(read.get(Codebook::standard(), v4::CLASSLESS_STATIC_ROUTE).unwrap().unwrap()[1].length, 0);
    let relay = read.get(Codebook::standard(), v4::RELAY_AGENT_INFORMATION).unwrap().unwrap();
    assert!(relay.circuit_id.is_some() && relay.remote_id.is_none());
    assert_eq!(read.get(Codebook::standard(), v4::HOSTNAME), Ok(None));
    assert_eq!(format!("{:?} {:?}", v4::HOSTNAME, v4::PARAMETER_LIST.clone()), "v4:12 v4:55");
    // A fault is sent with its place in the message.
    let octets = message("350103 03060a400401 0a40 ff", "", "");
    let error = Message::read(&octets).unwrap().get(Codebook::standard(), v4::ROUTER).unwrap_err();
    assert_eq!((error.code, error.at), (3, 249));
    let said = "option 3, octet 249 of the message: 4 octets expected for an IPv4 address, 2 left";
    assert_eq!(error.to_string(), said);
    assert!(
        Message::read(&octets).unwrap().get(Codebook::standard(), OptionKey::<bool>::new(Protocol::V4, 53)).is_err()
    );
}

/// Composes these options, and delegates what came of it.
fn compose<T>(draft: &Draft<'_>, look: impl FnOnce(Message<'_>, &Budget) -> T) -> T {
    let mut composer = Composer::default();
    let composed = composer.compose(draft).unwrap();
    look(Message::read(composed.octets).unwrap(), composed.budget)
}

fn field(message: &Message<'_>, code: u16) -> Field {
    Field::around(message.option(code).unwrap().at())
}

fn codes(message: Message<'_>) -> Vec<u8> {
    message.parts().map(|part| part.code).collect()
}

#[test]
fn what_must_be_there_comes_first_then_what_was_asked_for_then_the_rest() {
    let address = [10, 64, 4, 1];
    let options: Vec<(u16, &[u8])> =
        [82, 15, 3, 61, 28, 6, 1, 51, 54, 42].iter().map(|code| (*code, &address[..])).collect();
    let draft = Draft { options: &options, requested: &[6, 3, 99, 6, 15], ..Draft::new(MessageType::ACK) };
    compose(&draft, |message, budget| {
        // The mask stands before the routers (RFC 2132, section 3.3), and the relay's information last.
        assert_eq!(codes(message), [53, 54, 51, 61, 6, 1, 3, 15, 28, 42, 82]);
        assert_eq!(budget.lines().map(|line| line.code).collect::<Vec<_>>(), codes(message));
        assert_eq!(message.octets().len(), SMALLEST.max(budget.used));
        assert_eq!((budget.overload, budget.saved(), budget.limit.from), (0, 0, LimitFrom::Default));
    });
    // BOOTP has no types.
    let bootp = Draft { message_type: None, options: &options[1..3], ..draft };
    compose(&bootp, |message, _| assert_eq!(codes(message), [3, 15]));
}

#[test]
fn header_fields_hold_options_only_when_there_is_no_other_room() {
    let (long, name) = ([7; 120], [8; 60]);
    let options: Vec<(u16, &[u8])> = vec![(224, &[1; 250]), (225, &long), (226, &name), (54, &[10, 64, 0, 67])];
    let draft = Draft { options: &options, ..Draft::new(MessageType::ACK) };
    compose(&draft, |message, budget| {
        assert_eq!((message.overload(), budget.overload, budget.left_out.len()), (3, 3, 0));
        assert_eq!(codes(message), [52, 53, 54, 224, 225, 226]);
        let place = |code| field(&message, code);
        assert_eq!([place(224), place(225), place(226)], [Field::Options, Field::File, Field::Sname]);
        let [options, file, sname] = budget.fields;
        assert_eq!((options.used, options.capacity), (3 + 3 + 6 + 252, 307));
        assert_eq!([(file.used, file.capacity), (sname.used, sname.capacity)], [(122, 127), (62, 63)]);
        assert_eq!((budget.saved(), budget.free()), (181, 548 - budget.used));
        assert_eq!(budget.lines().last().unwrap().fields().collect::<Vec<_>>(), [Field::Sname]);
        let read = Budget::of_message(&message, Limit::DEFAULT);
        assert_eq!((read.used, read.fields), (budget.used, budget.fields));
        assert_eq!(read.lines().collect::<Vec<_>>(), budget.lines().collect::<Vec<_>>());
    });
    // A boot file's name keeps `file` for itself, and a refusal keeps options out of both.
    compose(&Draft { file: b"domes/controller.efi", ..draft }, |message, budget| {
        assert_eq!((message.overload(), &message.file()[..6]), (2, &b"domes/"[..]));
        assert_eq!(budget.left_out.iter().map(|out| (out.code, out.cost)).collect::<Vec<_>>(), [(225, 122)]);
        assert_eq!(budget.left_out[0].why, Reason::NoRoomAtAll { room: 43 + 1 });
    });
    let nak = Draft { message_type: Some(MessageType::NAK), ..draft };
    compose(&nak, |message, budget| assert_eq!((message.overload(), budget.left_out.len()), (0, 2)));
    // A client that accepts more needs none of that.
    let roomy = Draft { limit: Limit::of_client(Some(1500)), ..draft };
    compose(&roomy, |message, budget| {
        assert_eq!((message.overload(), budget.left_out.len(), budget.limit.octets), (0, 0, 1472));
    });
}

#[test]
fn a_larger_option_may_go_before_when_all_fit_then() {
    // In the order of the draft, the two small ones would take the room of `file` that the large one needs.
    let options: Vec<(u16, &[u8])> = vec![(224, &[1; 240]), (225, &[2; 50]), (226, &[3; 50]), (227, &[4; 120])];
    let draft = Draft { options: &options, ..Draft::new(MessageType::ACK) };
    compose(&draft, |message, budget| {
        assert_eq!(budget.left_out, []);
        assert_eq!(field(&message, 227), Field::File);
    });
}

#[test]
fn long_options_are_split_and_short_ones_only_for_who_joins_them() {
    let long = [7; 300];
    let draft = Draft { options: &[(121, &long)], limit: Limit::of_datagram(1500), ..Draft::new(MessageType::ACK) };
    compose(&draft, |message, budget| {
        assert_eq!(message.parts().map(|part| part.octets.len()).collect::<Vec<_>>(), [1, 255, 45]);
        let line = budget.lines().last().unwrap();
        assert_eq!((line, line.cost()), (Line { code: 121, length: 300, share: [300, 0, 0], parts: 2 }, 304));
    });
    let longer = [7; 310];
    let draft = Draft { options: &[(121, &longer)], limit: Limit::DEFAULT, ..draft };
    compose(&draft, |message, budget| {
        assert_eq!(message.option(121).unwrap().joined()[..], longer);
        assert_eq!(budget.lines().last().unwrap().share, [297, 13, 0]);
    });
    // 200 octets would fit in one option, but not in one field.
    let options: Vec<(u16, &[u8])> = vec![(224, &[1; 140]), (225, &[2; 200])];
    let draft = Draft { options: &options, file: b"boot", ..Draft::new(MessageType::ACK) };
    compose(&draft, |_, budget| assert_eq!(budget.left_out[0].why, Reason::NoRoom { most: 159 }));
    for draft in [Draft { joins: true, ..draft }, Draft { requested: &[121], ..draft }] {
        compose(&draft, |message, budget| {
            assert_eq!((budget.left_out.len(), message.option(225).unwrap().parts().count()), (0, 2));
        });
    }
    // What has no octets cannot be split, and stands in the options field or nowhere.
    let options: Vec<(u16, &[u8])> = vec![(224, &[1; 250]), (225, &[2; 47]), (80, &[]), (226, &[3; 9])];
    compose(&Draft { options: &options, joins: true, ..draft }, |message, budget| {
        assert!(budget.left_out.is_empty() && field(&message, 80) == Field::Options);
    });
    let options: Vec<(u16, &[u8])> = vec![(54, &[1; 250]), (61, &[2; 50]), (80, &[])];
    let full = Draft { options: &options, joins: true, sname: b"boot", ..draft };
    compose(&full, |_, budget| assert_eq!(budget.left_out.iter().map(|out| out.code).collect::<Vec<_>>(), [80]));
    let huge = Draft { options: &[(224, &[1; 600])], ..Draft::new(MessageType::ACK) };
    compose(&huge, |_, budget| {
        assert_eq!(budget.left_out[0].to_owned().why, Reason::NoRoomAtAll { room: 301 + 127 + 63 });
        assert_eq!(budget.left_out[0].why.to_string(), "491 octets are left in all");
    });
}

#[test]
fn the_relays_information_goes_back_whole_or_not_at_all() {
    let (relay, long) = ([1; 100], [2; 280]);
    let options: Vec<(u16, &[u8])> = vec![(82, &relay), (224, &[3; 200]), (54, &[10, 64, 0, 67])];
    let draft = Draft { options: &options, joins: true, ..Draft::new(MessageType::OFFER) };
    compose(&draft, |message, budget| {
        let option = message.option(82).unwrap();
        assert_eq!((Field::around(option.at()), option.is_split(), budget.left_out.len()), (Field::Options, false, 0));
        assert_eq!(codes(message).iter().rposition(|code| *code == 82), Some(4));
    });
    let options: Vec<(u16, &[u8])> = vec![(82, &relay), (61, &long)];
    compose(&Draft { options: &options, ..draft }, |message, budget| {
        assert!(!message.has(82) && message.has(61));
        assert!(matches!(budget.left_out[..], [out] if out.why == Reason::RelayInformation { room: 304 - 3 - 284 }));
    });
}

#[test]
fn drafts_that_make_no_message_are_refused() {
    let refused = |draft: &Draft<'_>| Composer::default().compose(draft).unwrap_err();
    let with = |options| refused(&Draft { options, ..Draft::new(MessageType::ACK) });
    assert_eq!(with(&[(53, &[1])]), ComposeError::Automatic { code: 53 });
    assert_eq!(with(&[(255, &[])]).to_string(), "255 is no option, but what stands between and after options");
    assert_eq!(with(&[(3, &[]), (3, &[])]), ComposeError::Repeated { code: 3 });
    assert_eq!(
        with(&[(3, &[0; 65_536])]),
        ComposeError::OptionTooLong { protocol: Protocol::V4, code: 3, octets: 65_536, most: 65_535 }
    );
    let text = refused(&Draft { sname: &[b'a'; 64], ..Draft::new(MessageType::ACK) });
    assert_eq!(text.to_string(), "`sname` takes 63 octets without a NUL (RFC 2131, section 2)");
    assert!(Composer::default().compose(&Draft { file: &[b'a'; 127], ..Draft::new(MessageType::ACK) }).is_ok());
}

#[test]
fn headers_are_answered_with_what_servers_copy() {
    let request = Header {
        hops: 1,
        secs: 3,
        flags: Header::BROADCAST,
        ciaddr: [10, 64, 4, 20].into(),
        giaddr: [10, 64, 4, 1].into(),
        ..Header::from_client(7, [2, 0, 0x5e, 0, 0x53, 0x11])
    };
    let reply = request.answered();
    assert_eq!((reply.op, reply.hops, reply.secs, reply.ciaddr.octets()), (2, 0, 0, [0; 4]));
    assert_eq!((reply.xid, reply.flags, reply.giaddr, reply.chaddr), (7, 0x8000, request.giaddr, request.chaddr));
    assert_eq!(MessageType::named("DISCOVER").map(|kind| kind.to_string()).as_deref(), Some("DHCPDISCOVER"));
    assert_eq!((MessageType(77).to_string().as_str(), MessageType(77).is_reply()), ("DHCP message of type 77", None));
}

fn payloads() -> impl Strategy<Value = std::collections::BTreeMap<u16, Vec<u8>>> {
    let code = (1u16..=254).prop_filter("the composer's own", |code| ![52, 53].contains(code));
    prop::collection::btree_map(code, prop::collection::vec(any::<u8>(), 0..300), 0..12)
}

proptest! {
    #[test]
    fn what_is_composed_is_read_back(
        payloads in payloads(), requested in prop::collection::vec(0u16..256, 0..12), limit in 500u16..1600,
        joins: bool, boot: bool, kind in 1u8..9,
    ) {
        let options: Vec<(u16, &[u8])> = payloads.iter().map(|(code, octets)| (*code, octets.as_slice())).collect();
        let draft = Draft {
            options: &options,
            requested: &requested,
            limit: Limit::of_client(Some(limit)),
            joins,
            file: if boot { b"domes/controller.efi" } else { b"" },
            ..Draft::new(MessageType(kind))
        };
        compose(&draft, |message, budget| {
            assert!(message.octets().len() <= draft.limit.octets);
            assert_eq!((message.header(), message.message_type()), (draft.header, draft.message_type));
            for (code, octets) in &options {
                let out = budget.left_out.iter().any(|out| u16::from(out.code) == *code);
                let read = message.option(*code).map(|option| option.joined().into_owned());
                assert_eq!(read.as_deref(), (!out).then_some(*octets));
            }
            assert_eq!(budget.lines().count(), message.count());
            for field in budget.fields {
                let used: usize = message.parts().filter(|part| part.field == field.field).map(|part| part.octets.len() + 2).sum();
                assert_eq!((used, used <= field.capacity), (field.used, true));
            }
        });
    }

    /// However a program goes through the options, they are those of RFC 3396: each code once, in the place of its first part, with
    /// the octets of all of its parts.
    #[test]
    fn options_are_the_same_whichever_way_they_are_read(
        octets in prop::collection::vec(prop_oneof![0..6_u8, 50..56_u8, Just(255)], 0..60),
        file in prop::collection::vec(0..6_u8, 128),
        cookie: bool,
    ) {
        let mut whole = message("", "", "");
        whole[108..HEADER].copy_from_slice(&file);
        whole.extend(&octets);
        if !cookie {
            whole[HEADER] = 0;
        }
        let message = Message::read(&whole).unwrap();
        let mut model: Vec<(u16, Vec<u8>, usize)> = Vec::new();
        for part in message.parts() {
            match model.iter_mut().find(|(code, ..)| *code == u16::from(part.code)) {
                Some((_, joined, _)) => joined.extend(part.octets),
                None => model.push((part.code.into(), part.octets.to_vec(), part.at)),
            }
        }
        let known = |option: &MessageOption<'_>| (option.code(), option.joined().into_owned(), option.at());
        // A loop takes one after the other, `for_each` all at once.
        let mut by_loop = Vec::new();
        for option in message.options() {
            by_loop.push(known(&option));
        }
        prop_assert_eq!(&by_loop, &model);
        let mut at_once = Vec::new();
        message.options().for_each(|option| at_once.push(known(&option)));
        prop_assert_eq!(&at_once, &model);
        // So does one that goes on behind the first.
        let mut rest = message.options();
        let first = rest.next();
        prop_assert_eq!(first.iter().count() + rest.fold(0, |count, _| count + 1), model.len());
        prop_assert_eq!(message.count(), model.len());
        for code in 0..=255 {
            let of_model = model.iter().find(|(known, ..)| *known == code);
            prop_assert_eq!(message.has(code), of_model.is_some());
            prop_assert_eq!(message.option(code).map(|option| known(&option)), of_model.cloned());
        }
        for option in message.options() {
            let end = option.parts().last().map_or(0, |part| part.at + part.octets.len());
            prop_assert_eq!(option.position(option.length()), end);
            let mut places = (0..option.length()).map(|octet| whole[option.position(octet)]);
            prop_assert!(places.by_ref().eq(option.joined().iter().copied()));
        }
    }

    #[test]
    fn any_octets_are_walked_to_their_end(octets in prop::collection::vec(any::<u8>(), 0..200), overload in 0u8..5) {
        let mut whole = message("", "", "");
        whole.extend([52, 1, overload]);
        whole.extend(&octets);
        let message = Message::read(&whole).unwrap();
        let joined: usize = message.options().map(|option| option.length()).sum();
        assert_eq!(joined, message.parts().map(|part| part.octets.len()).sum::<usize>());
        assert!(message.elements().count() <= whole.len());
    }
}

/// Everything the walk meets, as code and field or what else it is.
fn met(octets: &[u8]) -> Vec<String> {
    let shown = |element: Element<'_>| match element {
        Element::Part(part) => format!("{} in {} at {}", part.code, part.field.name(), part.at),
        Element::Pads(range) => format!("{} pads at {}", range.len(), range.start),
        Element::End { field, octets } => format!("end of {} and {} octets", field.name(), octets.len() - 1),
        Element::NoEnd { field, at } => format!("no end of {} at {at}", field.name()),
        Element::Overrun { code, field, length, octets } => {
            format!("{code} in {} should have {length:?}, of {}", field.name(), octets.len())
        }
    };
    Message::read(octets).unwrap().elements().map(shown).collect()
}

#[test]
fn the_walk_tells_everything_it_meets() {
    let octets = message("00 350105 0000 340103 ff 0000", "0c0161 ff", "0f03");
    assert_eq!(
        met(&octets)[..5],
        [
            "1 pads at 240",
            "53 in options at 241",
            "2 pads at 244",
            "52 in options at 246",
            "end of options and 2 octets",
        ]
    );
    assert_eq!(
        met(&octets)[5..],
        [
            "12 in file at 108",
            "end of file and 124 octets",
            "15 in sname at 44",
            "59 pads at 49",
            "no end of sname at 108"
        ]
    );
    assert_eq!(met(&message("", "", "")), ["no end of options at 240"]);
    assert_eq!(met(&message("0c", "", "")), ["12 in options should have None, of 1"]);
    assert_eq!(met(&message("0c05 6161", "", "")), ["12 in options should have Some(5), of 4"]);
    assert_eq!(met(&message("0c00", "", "")), ["12 in options at 240", "no end of options at 242"]);
    // The overload of a later option 52 is not heard, and neither is one in a header field.
    assert_eq!(
        met(&message("340101 340102 ff", "340103 ff", ""))[3..],
        ["52 in file at 108", "end of file and 124 octets"]
    );
    assert_eq!(met(&message("34020101 ff", "0c0161 ff", "")), ["52 in options at 240", "end of options and 0 octets"]);
}

#[test]
fn headers_are_read_as_they_are_written() {
    let header = Header {
        op: 1,
        htype: 6,
        hlen: 8,
        hops: 2,
        xid: 0x0102_0304,
        secs: 0x0506,
        flags: 0x8000,
        ciaddr: [10, 64, 4, 1].into(),
        yiaddr: [10, 64, 4, 2].into(),
        siaddr: [10, 64, 4, 3].into(),
        giaddr: [10, 64, 4, 4].into(),
        chaddr: [9; 16],
    };
    let draft = Draft { header, sname: b"boot", file: b"controller.efi", ..Draft::new(MessageType::INFORM) };
    compose(&draft, |message, budget| {
        assert_eq!((message.header(), &message.octets()[..44]), (header, &header.octets()[..]));
        assert_eq!((&message.sname()[..5], &message.file()[..15]), (&b"boot\0"[..], &b"controller.efi\0"[..]));
        assert_eq!(message.header().hardware(), [9; 8]);
        assert_eq!(message.to_string(), "DHCPINFORM 10.64.4.2, client 09:09:09:09:09:09:09:09, 1 option, 300 octets");
        assert!(budget.fields[1..].iter().all(|field| field.capacity == 0));
    });
    // However long a hardware address says it is, there are sixteen octets.
    assert_eq!(Header { hlen: 255, ..header }.hardware().len(), 16);
}

#[test]
fn types_of_messages_have_names_and_sides() {
    for (number, name) in (1..).zip(MessageType::names()) {
        let kind = MessageType(number);
        assert_eq!((kind.name(), MessageType::named(name)), (Some(*name), Some(kind)));
        assert_eq!(kind.to_string(), format!("DHCP{}", name.to_uppercase()));
        assert!(kind.is_reply().is_some(), "{name}");
    }
    let listed = oplex::layout::Vocabulary::enumeration(Codebook::standard(), "message-type").unwrap();
    let names: Vec<String> = listed.members.iter().map(|(number, _)| MessageType(*number as u8).to_string()).collect();
    assert_eq!(names, listed.members.iter().map(|(_, name)| name.to_string()).collect::<Vec<_>>());
    assert_eq!((MessageType::named("hello"), MessageType(0).name(), MessageType(19).name()), (None, None, None));
}

proptest! {
    #[test]
    fn the_rules_point_into_any_message(options in prop::collection::vec(any::<u8>(), 0..120), header in any::<[u8; 28]>(), fields in prop::collection::vec(any::<u8>(), 192)) {
        let mut whole = message("", "", "");
        whole[..28].copy_from_slice(&header);
        whole[44..HEADER].copy_from_slice(&fields);
        whole.extend(&options);
        let codebook = Codebook::standard();
        let read = Message::read(&whole).unwrap();
        for finding in oplex::check::message(codebook, read).into_iter().chain(oplex::check::exchange(codebook, read, read)) {
            let place = finding.octets.unwrap();
            assert!(place.start < place.end && place.end <= whole.len(), "{} {place:?}", finding.rule.name);
        }
    }

    #[test]
    fn what_a_message_takes_is_what_composing_it_took(payloads in payloads(), limit in 576u16..1500) {
        let options: Vec<(u16, &[u8])> = payloads.iter().map(|(code, octets)| (*code, octets.as_slice())).collect();
        let limit = Limit::of_client(Some(limit));
        let draft = Draft { options: &options, limit, ..Draft::new(MessageType::ACK) };
        compose(&draft, |message, budget| {
            let read = Budget::of_message(&message, limit);
            assert_eq!((read.used, read.overload, read.free()), (budget.used, budget.overload, budget.free()));
            assert_eq!(read.fields.map(|field| field.used), budget.fields.map(|field| field.used));
            assert_eq!(read.lines().map(|line| line.code).collect::<Vec<_>>(), budget.lines().map(|line| line.code).collect::<Vec<_>>());
        });
    }
}

/// Options that must be joined are ones that may be split, and a client that requests one shows that it joins.
#[test]
fn options_that_must_be_joined_may_be_split() {
    let joining = Codebook::standard().own_definitions(Protocol::V4).filter(|option| option.joined);
    for option in joining.inspect(|option| assert!(!option.single, "{} is never split", option.label())) {
        let options: Vec<(u16, &[u8])> = vec![(224, &[1; 140]), (225, &[2; 200])];
        let draft =
            Draft { options: &options, file: b"boot", requested: &[option.code], ..Draft::new(MessageType::ACK) };
        compose(&draft, |_, budget| assert!(budget.left_out.is_empty(), "{}", option.label()));
    }
}

/// A type of message has one name in text that programs read and one as the RFCs write it, and both lead back to its number.
#[test]
fn types_of_messages_are_named_alike() {
    use oplex::packet::v4::MessageType;
    let all: Vec<MessageType> = (0..=255).map(MessageType).filter(|kind| kind.name().is_some()).collect();
    assert_eq!(all.iter().map(|kind| kind.0).collect::<Vec<_>>(), (1..=18).collect::<Vec<u8>>());
    for kind in all {
        let (name, title) = (kind.name().unwrap(), kind.title().unwrap());
        assert_eq!(title, format!("DHCP{}", name.to_uppercase()));
        assert_eq!((MessageType::named(name), kind.to_string().as_str()), (Some(kind), title));
        assert!(MessageType::names().contains(&name));
    }
    assert_eq!(MessageType(0).title(), None);
    assert_eq!(MessageType(19).to_string(), "DHCP message of type 19");
}
