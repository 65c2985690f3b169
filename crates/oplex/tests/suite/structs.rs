//! Options as Rust structs, and the identifiers that people write.

use std::net::{Ipv4Addr, Ipv6Addr};
use std::time::Duration;

use oplex::codebook::{Codebook, OptionId};
use oplex::family::Net;
use oplex::layout::Value;
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
