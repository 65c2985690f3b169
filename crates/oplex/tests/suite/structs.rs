//! Options as Rust structs, and the identifiers that people write.

use std::net::{Ipv4Addr, Ipv6Addr};
use std::time::Duration;

use oplex::codebook::{Codebook, Definition, OptionId};
use oplex::family::Net;
use oplex::layout::{Input, TypedError, Value};
use oplex::octets::{Duid, Mac};
use oplex::packet::{
    ClientFqdn, DelegatedPrefix, FromPayload, IaNa, IaPd, LeasedAddress, RelayInformation, StatusCode,
};
use proptest::prelude::*;

/// Struct, value, octets, struct.
fn back<T: FromPayload>(id: &str, value: &Value) -> T {
    let codebook = Codebook::standard();
    let definition = codebook.find(id).unwrap();
    let octets = codebook.encode_value(definition, value).unwrap_or_else(|error| panic!("{id}: {error}"));
    T::from_payload(codebook, definition, &octets).unwrap_or_else(|error| panic!("{id}: {error}"))
}

fn time() -> impl Strategy<Value = Duration> {
    any::<u32>()
        .prop_map(|seconds| if seconds == u32::MAX { Duration::MAX } else { Duration::from_secs(seconds.into()) })
}

fn status() -> impl Strategy<Value = Option<StatusCode>> {
    prop::option::of((0u16..7, "[a-z ]{0,12}").prop_map(|(code, message)| StatusCode { code, message }))
}

fn address() -> impl Strategy<Value = LeasedAddress> {
    (any::<u32>(), time(), time(), status()).prop_map(|(host, preferred, valid, status)| {
        let address = Ipv6Addr::from_bits((0x2001_0db8 << 96) + u128::from(host) + 1);
        LeasedAddress { status, ..LeasedAddress::new(address, preferred, valid) }
    })
}

fn prefix() -> impl Strategy<Value = DelegatedPrefix> {
    (48u8..=64, time(), time(), status()).prop_map(|(length, preferred, valid, status)| {
        let prefix = Net::new(Ipv6Addr::from_bits(0x2001_0db8 << 96), length).unwrap();
        DelegatedPrefix { status, ..DelegatedPrefix::new(prefix, preferred, valid) }
    })
}

proptest! {
    #[test]
    fn associations_come_back(iaid: u32, t1 in time(), t2 in time(), addresses in prop::collection::vec(address(), 0..3), prefixes in prop::collection::vec(prefix(), 0..3), status in status()) {
        let leased = IaNa { iaid, t1, t2, addresses, status: status.clone() };
        prop_assert_eq!(back::<IaNa>("v6:3", &(&leased).into()), leased);
        let delegated = IaPd { iaid, t1, t2, prefixes, status };
        prop_assert_eq!(back::<IaPd>("v6:25", &(&delegated).into()), delegated);
    }

    #[test]
    fn names_and_relays_come_back(name in "[a-z]{1,8}(\\.[a-z]{1,8}){0,2}\\.?", flags in any::<[bool; 3]>(), circuit in prop::option::of(prop::collection::vec(any::<u8>(), 1..9)), host in any::<[u8; 2]>()) {
        let [server_updates, overridden, no_updates] = flags;
        let full = ClientFqdn { name, server_updates, overridden, no_updates };
        prop_assert_eq!(&back::<ClientFqdn>("v6:39", &full.to_v6()), &full);
        prop_assert_eq!(&back::<ClientFqdn>("v4:81", &full.to_v4()), &full);
        let address = Some(Ipv4Addr::new(10, 64, host[0], host[1]));
        let relay = RelayInformation { circuit_id: circuit, link_selection: address, server_id_override: address, ..RelayInformation::default() };
        prop_assert_eq!(&back::<RelayInformation>("v4:82", &(&relay).into()), &relay);
    }

    #[test]
    fn identifiers_are_read_as_they_are_written(mac: [u8; 6], duid in prop::collection::vec(any::<u8>(), 3..130), code: u16) {
        prop_assert_eq!(Mac(mac).to_string().parse(), Ok(Mac(mac)));
        let duid = Duid::new(&duid).unwrap();
        prop_assert_eq!(duid.to_string().parse(), Ok(duid));
        prop_assert_eq!(Duid::of_mac(Mac(mac)).mac(), Some(Mac(mac)));
        for text in [format!("v4:{code}"), format!("tern:{code}"), format!("v6:94/{code}"), format!("v6:3/5/{code}")] {
            prop_assert_eq!(text.parse::<OptionId>().map(|id| id.to_string()), Ok(text));
        }
    }
}

#[test]
fn every_option_is_found_by_its_id() {
    let codebook = Codebook::standard();
    for option in codebook.definitions() {
        let id: OptionId = option.id().to_string().parse().unwrap();
        assert!(codebook.get(&id).is_some_and(|found| found.is_same(option)), "{id}");
    }
    assert_eq!(codebook.get(&"v4:82/254".parse().unwrap()).map(|found| found.label()), None);
}

#[test]
fn what_is_no_identifier_says_why() {
    let wrong = |error: oplex::ParseError| error.to_string();
    for (text, why) in [
        ("router", "`router` is not the id of an option: no colon; write it like `v4:121` or `v4:82/1`"),
        (
            ":3",
            "`:3` is not the id of an option: no protocol or book before the colon; write it like `v4:121` or `v4:82/1`",
        ),
        (
            "v4:70000",
            "`v4:70000` is not the id of an option: a code is a number from 0 to 65535; write it like `v4:121` or `v4:82/1`",
        ),
    ] {
        assert_eq!(text.parse::<OptionId>().map_err(wrong), Err(why.to_owned()));
    }
    assert_eq!("02:00:5e".parse::<Mac>().map_err(wrong), Err("`02:00:5e` has 3 octets; a MAC has 6".to_owned()));
    assert_eq!("00:03".parse::<Duid>().map_err(wrong), Err("`00:03` has 2 octets; a DUID has 3 to 130".to_owned()));
    assert_eq!(Duid::new(&[0; 131]), None);
}

/// Which options of the codebook become this struct: those whose examples do.
fn options_that_become<T: FromPayload>() -> Vec<String> {
    let codebook = Codebook::standard();
    let becomes = |option: &&Definition| {
        let input = Input::from_text(option.example.as_deref().unwrap_or_default());
        let encoded = codebook.encode(option, &input);
        encoded.is_ok_and(|encoded| T::from_payload(codebook, option, &encoded.octets).is_ok())
    };
    codebook.definitions().filter(becomes).map(|option| option.id().to_string()).collect()
}

#[test]
fn only_options_of_its_form_become_a_struct() {
    assert_eq!(options_that_become::<StatusCode>(), ["v6:13"]);
    assert_eq!(options_that_become::<LeasedAddress>(), ["v6:5"]);
    assert_eq!(options_that_become::<DelegatedPrefix>(), ["v6:26"]);
    // All identity associations have one layout.
    assert_eq!(options_that_become::<IaNa>(), ["v6:3", "v6:25", "v6:138"]);
    assert_eq!(options_that_become::<IaPd>(), ["v6:3", "v6:25", "v6:138"]);
    assert_eq!(options_that_become::<ClientFqdn>(), ["v4:81", "v6:39"]);
    assert_eq!(options_that_become::<RelayInformation>(), ["v4:82"]);
}

#[test]
fn options_of_a_site_become_a_struct_too() {
    let book = "book = \"hill\"\n[[option]]\ncarrier = \"v6\"\ncode = 65100\nname = \"lease\"\nlayout = \"{ address: ipv6 as any, \
                preferred-lifetime: seconds,   valid-lifetime: seconds, options: options(v6)* }\"\nreference = \"Hill manual, page 2\"\n\
                [[option]]\ncarrier = \"v6\"\ncode = 65101\nname = \"brief\"\nlayout = \"{ address: ipv6 as any, preferred-lifetime: \
                seconds }\"\nreference = \"Hill manual, page 3\"\n";
    let codebook = Codebook::with("hill.toml", book).unwrap_or_else(|error| panic!("{error}"));
    let lease = |id: &str, octets: &[u8]| LeasedAddress::from_payload(&codebook, codebook.find(id).unwrap(), octets);
    let octets = [&[0x20, 1, 0x0d, 0xb8], &[0; 12][..], &[0, 0, 0, 60], &[255; 4]].concat();
    let same = LeasedAddress::new("2001:db8::".parse().unwrap(), Duration::from_secs(60), Duration::MAX);
    assert_eq!(lease("hill:lease", &octets), Ok(same));
    assert_eq!(lease("hill:brief", &octets[..20]), Err(TypedError::OtherType("a leased address")));
    let missing = lease("hill:lease", &octets[..22]).unwrap_err().to_string();
    assert_eq!(missing, "octet 20: 4 octets expected for a number of seconds, 2 left");
}

/// An option inside an association: one that structs have, one that they do not, or octets of a code without a meaning.
fn inside(deeper: bool) -> BoxedStrategy<Vec<u8>> {
    let option = |code: u16, payload: Vec<u8>| {
        [&code.to_be_bytes()[..], &(payload.len() as u16).to_be_bytes(), &payload].concat()
    };
    let status =
        (0u8..9, "[a-zü\0]{0,5}").prop_map(move |(code, text)| option(13, [&[0, code], text.as_bytes()].concat()));
    let other = prop::collection::vec(any::<u8>(), 0..6).prop_map(move |octets| option(65_000, octets));
    let elapsed = Just(option(8, vec![0, 7]));
    if !deeper {
        return prop_oneof![status, other, elapsed].boxed();
    }
    let leased = (any::<[u8; 24]>(), prop::collection::vec(inside(false), 0..3));
    let leased = leased.prop_map(move |(lease, options)| option(5, [&lease[..], &options.concat()].concat()));
    prop_oneof![2 => status, 1 => other, 1 => elapsed, 3 => leased].boxed()
}

/// The same struct out of the tree of values.
fn from_tree(value: &Value) -> IaNa {
    let time = |value: &Value, field| match value.field(field) {
        Some(Value::Seconds(u32::MAX)) => Duration::MAX,
        seconds => Duration::from_secs(seconds.and_then(Value::number).unwrap()),
    };
    let inside = |value: &Value, code: u16| -> Vec<Value> {
        let lists = value.field("options").map(|options| match options {
            Value::List(lists) => lists.clone(),
            one => vec![one.clone()],
        });
        let options = lists.unwrap_or_default().into_iter().flat_map(|list| match list {
            Value::Options(options) => options,
            other => panic!("{other:?}"),
        });
        options.filter(|option| option.code == code).map(|option| option.value).collect()
    };
    let status = |value: &Value| {
        inside(value, 13).first().map(|status| StatusCode {
            code: status.field("status").and_then(Value::number).unwrap() as u16,
            message: status.field("message").and_then(Value::text).unwrap_or_default().to_owned(),
        })
    };
    let address = |value: &Value| {
        let Some(Value::Ipv6(address)) = value.field("address") else { panic!("{value:?}") };
        let lease = LeasedAddress::new(*address, time(value, "preferred-lifetime"), time(value, "valid-lifetime"));
        LeasedAddress { status: status(value), ..lease }
    };
    IaNa {
        iaid: value.field("iaid").and_then(Value::number).unwrap() as u32,
        t1: time(value, "t1"),
        t2: time(value, "t2"),
        addresses: inside(value, 5).iter().map(address).collect(),
        status: status(value),
    }
}

proptest! {
    /// Whatever else stands in an association, and with octets missing.
    #[test]
    fn structs_say_what_the_tree_says(head: [u8; 12], options in prop::collection::vec(inside(true), 0..6), missing in 0usize..8) {
        let codebook = Codebook::standard();
        let definition = codebook.find("v6:3").unwrap();
        let mut octets = [&head[..], &options.concat()].concat();
        octets.truncate(octets.len() - missing.saturating_sub(4));
        let tree = Value::from_payload(codebook, definition, &octets);
        prop_assert_eq!(IaNa::from_payload(codebook, definition, &octets), tree.map(|tree| from_tree(&tree)));
    }
}
