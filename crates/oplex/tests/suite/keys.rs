//! The constants for options: each has the type its layout gives, and reads the codebook's own example.

use std::net::Ipv4Addr;
use std::time::Duration;

use oplex::codebook::Codebook;
use oplex::family::Protocol;
use oplex::layout::{Input, Route4, Value};
use oplex::packet::v4::{self, Draft, Message, MessageType};
use oplex::packet::{Composer, FromPayload, Message as _, OptionKey};

/// What an option's example is as the constant's type.
fn example<T: FromPayload>(key: OptionKey<T>) -> T {
    let codebook = Codebook::standard();
    let definition = codebook.own(Protocol::V4, key.code()).unwrap();
    let payload = codebook.encode(definition, &Input::from_text(definition.example.as_ref().unwrap())).unwrap();
    let options = [(key.code(), payload.octets.as_slice())];
    let draft = Draft { options: &options, message_type: None, ..Draft::new(MessageType::ACK) };
    let mut composer = Composer::default();
    let composed = composer.compose(&draft).unwrap();
    Message::read(composed.octets).unwrap().get(codebook, key).unwrap().unwrap()
}

#[test]
fn constants_have_the_types_of_their_layouts() {
    assert_eq!(example(v4::SUBNET_MASK), Ipv4Addr::new(255, 255, 254, 0));
    assert_eq!(example(v4::TIME_OFFSET), 3600);
    assert_eq!(example(v4::HOSTNAME), "dome-3");
    assert_eq!(example(v4::BOOT_FILE_SIZE), 160);
    assert!(!example(v4::FORWARD_ON_OFF));
    assert_eq!(example(v4::DEFAULT_IP_TTL), 64);
    assert_eq!(example(v4::MTU_PLATEAU), [68, 296, 1500]);
    assert_eq!(example(v4::ARP_TIMEOUT), 60);
    assert_eq!(example(v4::ADDRESS_TIME), Duration::from_secs(28_800));
    assert_eq!(example(v4::DOMAIN_SERVER).len(), 2);
    assert_eq!(
        example(v4::CLASSLESS_STATIC_ROUTE)[0],
        Route4 { destination: Ipv4Addr::new(10, 64, 8, 0), length: 21, router: Ipv4Addr::new(10, 64, 4, 1) }
    );
    assert!(example(v4::DOMAIN_SEARCH).iter().all(|name| name.ends_with("tarnfell.example")));
    assert!(!example(v4::CLASS_ID).is_empty() && !example(v4::PARAMETER_LIST).is_empty());
    assert!(example(v4::RELAY_AGENT_INFORMATION).circuit_id.is_some());
    assert!(matches!(example(v4::OPTION_6RD), Value::Record(_)));
}

#[test]
fn every_option_that_is_in_use_has_a_constant() {
    let text = include_str!("../../src/packet/v4/keys.rs");
    for option in Codebook::standard().definitions().filter(|option| option.is_own_of(Protocol::V4)) {
        let listed = text.contains(&format!("- Option: `{}` (", option.id()));
        let meant = option.example.is_some() && !matches!(option.code, 0 | 255);
        let used =
            !["removed", "unassigned", "tentative", "undocumented"].contains(&option.status.to_string().as_str());
        assert!(listed || !(meant && used) || option.sent_by == oplex::codebook::Sender::None, "{}", option.label());
    }
}

/// Each example in a message of its own: nothing that stands in the codebook is wrong in a message.
#[test]
fn every_example_can_be_sent_and_read_back() {
    let codebook = Codebook::standard();
    let mut composer = Composer::default();
    for option in codebook
        .definitions()
        .filter(|option| option.is_own_of(Protocol::V4) && !matches!(option.code, 0 | 52 | 53 | 255))
    {
        let Some(text) = &option.example else { continue };
        let payload = codebook.encode(option, &Input::from_text(text)).unwrap();
        let options = [(option.code, payload.octets.as_slice())];
        let draft = Draft { options: &options, ..Draft::new(MessageType::DISCOVER) };
        let composed = composer.compose(&draft).unwrap();
        let message = Message::read(composed.octets).unwrap();
        let read = message.option(option.code).unwrap();
        let (value, faults) = codebook.decode(option, &read.joined());
        assert_eq!(faults, [], "{}", option.label());
        let again = codebook.encode_value(option, &value.unwrap());
        assert_eq!(again.as_deref(), Ok(payload.octets.as_slice()), "{}", option.label());
        let found = oplex::check::message(codebook, message);
        let about = found.iter().filter(|at| at.message.starts_with(&format!("{}: ", option.name)));
        let errors: Vec<_> = about.filter(|at| at.severity == oplex::finding::Severity::Error).collect();
        assert!(errors.is_empty(), "{}: {errors:?}", option.label());
    }
}
