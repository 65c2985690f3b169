//! What is composed is read back as what went in, within its limit, and nothing is lost in silence.

#![no_main]

use std::collections::BTreeMap;

use libfuzzer_sys::arbitrary::{self, Arbitrary};
use libfuzzer_sys::fuzz_target;
use oplex::packet::v4::{Draft, Header, Limit, Message, MessageType};
use oplex::packet::{Composer, Message as _};

#[derive(Debug, Arbitrary)]
struct Input {
    message_type: u8,
    requested: Vec<u16>,
    options: Vec<(u8, u8, u16)>,
    boot: (bool, bool),
    limit: u16,
    joins: bool,
}

fuzz_target!(|input: Input| {
    let payloads: BTreeMap<u16, Vec<u8>> = input
        .options
        .iter()
        .map(|(code, fill, length)| (u16::from(*code), vec![*fill; usize::from(length % 700)]))
        .collect();
    let options: Vec<(u16, &[u8])> = payloads.iter().map(|(code, octets)| (*code, octets.as_slice())).collect();
    let draft = Draft {
        header: Header::from_server(7, [2, 0, 0x5e, 0, 0x53, 0x11]),
        sname: if input.boot.0 { b"boot.tarnfell.example" } else { b"" },
        file: if input.boot.1 { b"domes/controller.efi" } else { b"" },
        options: &options,
        requested: &input.requested,
        limit: Limit::of_client(Some(input.limit)),
        joins: input.joins,
        ..Draft::new(MessageType(input.message_type))
    };
    let mut composer = Composer::default();
    let Ok(composed) = composer.compose(&draft) else {
        assert!(payloads.keys().any(|code| [0, 52, 53, 255].contains(code)));
        return;
    };
    assert!(composed.octets.len() <= draft.limit.octets && composed.budget.used <= composed.octets.len());
    let message = Message::read(composed.octets).expect("composed");
    assert_eq!(message.header(), draft.header);
    assert_eq!(message.message_type(), draft.message_type);
    for (code, octets) in &options {
        let left_out = composed.budget.left_out.iter().any(|out| u16::from(out.code) == *code);
        let read = message.option(*code).map(|option| option.joined().into_owned());
        assert_eq!(read.as_deref(), (!left_out).then_some(*octets), "option {code}");
    }
    let extra = 1 + usize::from(composed.budget.overload != 0);
    assert_eq!(message.count() + composed.budget.left_out.len(), options.len() + extra);
    assert_eq!(composed.budget.lines().count(), message.count());
});
