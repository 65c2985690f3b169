//! Rust types in and out.

use std::collections::BTreeMap;
use std::net::{Ipv4Addr, Ipv6Addr};
use std::time::Duration;

use oplex::codebook::{Codebook, EncodeFailure};
use oplex::layout::{Input, Layout, NoCodebook, Route4, SubOption, TypedError, Value};
use serde::{Deserialize, Serialize};

fn layout(text: &str) -> Layout {
    Layout::parse_with(text, Codebook::standard()).unwrap()
}

/// Encodes a Rust value by a layout.
fn octets(text: &str, value: impl Into<Value>) -> Result<Vec<u8>, String> {
    let encoded = layout(text).encode(Codebook::standard(), &value.into());
    encoded.map(|encoded| encoded.octets).map_err(|error| error.to_string())
}

#[test]
fn single_values_become_rust_values() {
    let one = |text: &str| layout(text);
    assert_eq!(one("u8").one::<u8>(&NoCodebook, &[7]), Ok(7));
    assert_eq!(one("u16").one::<u16>(&NoCodebook, &[1, 0]), Ok(256));
    assert_eq!(one("u24").one::<u32>(&NoCodebook, &[1, 0, 0]), Ok(65_536));
    assert_eq!(one("u64").one::<u64>(&NoCodebook, &[0, 0, 0, 0, 0, 0, 0, 9]), Ok(9));
    assert_eq!(one("i32").one::<i32>(&NoCodebook, &[255, 255, 255, 254]), Ok(-2));
    assert_eq!(one("i8").one::<i64>(&NoCodebook, &[255]), Ok(-1));
    assert_eq!(one("bool").one::<bool>(&NoCodebook, &[1]), Ok(true));
    assert_eq!(one("seconds").one::<Duration>(&NoCodebook, &[0, 0, 0, 60]), Ok(Duration::from_secs(60)));
    assert_eq!(one("seconds").one::<Duration>(&NoCodebook, &[255; 4]), Ok(Duration::MAX));
    assert_eq!(one("ipv4").one::<Ipv4Addr>(&NoCodebook, &[10, 64, 4, 1]), Ok(Ipv4Addr::new(10, 64, 4, 1)));
    assert_eq!(one("ipv6").one::<Ipv6Addr>(&NoCodebook, &[0; 16]), Ok(Ipv6Addr::UNSPECIFIED));
    assert_eq!(one("mac").one::<[u8; 6]>(&NoCodebook, &[2, 0, 0x5e, 0, 0x53, 1]), Ok([2, 0, 0x5e, 0, 0x53, 1]));
    assert_eq!(one("uuid").one::<[u8; 16]>(&NoCodebook, &[7; 16]), Ok([7; 16]));
    assert_eq!(one("text").one::<&str>(&NoCodebook, b"dome"), Ok("dome"));
    assert_eq!(one("text").one::<String>(&NoCodebook, b"dome"), Ok("dome".to_owned()));
    assert_eq!(one("name").one::<String>(&NoCodebook, &[4, b'd', b'o', b'm', b'e', 0]), Ok("dome".to_owned()));
    assert_eq!(one("bytes").one::<&[u8]>(&NoCodebook, &[1, 2]), Ok(&[1, 2][..]));
    assert_eq!(one("bytes").one::<Vec<u8>>(&NoCodebook, &[1, 2]), Ok(vec![1, 2]));
    assert_eq!(one("bits { a: s4.4 }").one::<f64>(&NoCodebook, &[0x18]), Ok(1.5));
}

#[test]
fn lists_become_vectors() {
    let servers = layout("ipv4+").list::<Ipv4Addr>(&NoCodebook, &[10, 0, 0, 1, 10, 0, 0, 2]);
    assert_eq!(servers, Ok(vec![Ipv4Addr::new(10, 0, 0, 1), Ipv4Addr::new(10, 0, 0, 2)]));
    let router = Ipv4Addr::new(10, 64, 4, 1);
    let routes = layout("route4+").list::<Route4>(&NoCodebook, &[0, 10, 64, 4, 1]);
    assert_eq!(routes, Ok(vec![Route4 { destination: Ipv4Addr::UNSPECIFIED, length: 0, router }]));
    assert_eq!(layout("len8(text)+").list::<&str>(&NoCodebook, b"\x01a\x02bc"), Ok(vec!["a", "bc"]));
}

#[test]
fn what_is_not_of_the_type_is_refused() {
    assert_eq!(layout("u16").one::<u8>(&NoCodebook, &[1, 0]), Err(TypedError::OtherType("u8")));
    assert_eq!(layout("text").one::<u8>(&NoCodebook, b"a"), Err(TypedError::OtherType("u8")));
    assert_eq!(layout("u8+").one::<u8>(&NoCodebook, &[1, 2]), Err(TypedError::OtherCount(2)));
    let short = layout("ipv4+").list::<Ipv4Addr>(&NoCodebook, &[10, 0]).unwrap_err();
    assert_eq!(short.to_string(), "octet 0: 4 octets expected for an IPv4 address, 2 left");
    // Everything is checked, although every octet could be read.
    let netmask = layout("netmask").one::<Ipv4Addr>(&NoCodebook, &[255, 0, 255, 0]).unwrap_err();
    assert_eq!(netmask.to_string(), "octet 0: the one bits of a mask must be contiguous from the left");
}

#[test]
fn rust_values_become_octets() {
    let address = Ipv4Addr::new(10, 64, 0, 53);
    assert_eq!(octets("ipv4", address), Ok(vec![10, 64, 0, 53]));
    assert_eq!(octets("ipv4+", address), Ok(vec![10, 64, 0, 53]), "one value where several could stand");
    assert_eq!(octets("ipv4+", vec![address, address]), Ok(vec![10, 64, 0, 53, 10, 64, 0, 53]));
    assert_eq!(octets("ipv6", Ipv6Addr::LOCALHOST).map(|octets| octets.len()), Ok(16));
    assert_eq!(octets("u16", 1500u16), Ok(vec![5, 0xdc]));
    assert_eq!(octets("u16", 9u8), Ok(vec![0, 9]));
    assert_eq!(octets("u64", 9u64), Ok(vec![0, 0, 0, 0, 0, 0, 0, 9]));
    assert_eq!(octets("i32", -1), Ok(vec![255; 4]));
    assert_eq!(octets("bool", true), Ok(vec![1]));
    assert_eq!(octets("seconds", Duration::from_secs(60)), Ok(vec![0, 0, 0, 60]));
    assert_eq!(octets("seconds", Duration::MAX), Ok(vec![255; 4]));
    assert_eq!(octets("seconds", 60u32), Ok(vec![0, 0, 0, 60]));
    assert_eq!(octets("text", "dome"), Ok(b"dome".to_vec()));
    assert_eq!(octets("text", "dome".to_owned()), Ok(b"dome".to_vec()));
    assert_eq!(octets("name", "dome"), Ok(b"\x04dome\x00".to_vec()));
    assert_eq!(octets("bytes", &[1u8, 2][..]), Ok(vec![1, 2]));
    assert_eq!(octets("u8 of message-type", "DHCPACK"), Ok(vec![5]));
    assert_eq!(octets("bits { a: s4.4 }", Value::record([("a", 1.5.into())])), Ok(vec![0x18]));
    let route = Route4 { destination: Ipv4Addr::new(10, 64, 8, 0), length: 21, router: address };
    assert_eq!(octets("route4+", vec![route]), Ok(vec![21, 10, 64, 8, 10, 64, 0, 53]));
}

#[test]
fn rust_values_that_have_no_octets_are_refused_with_their_path() {
    assert_eq!(octets("u8", 256u16), Err("256 is outside 0 to 255".to_owned()));
    assert_eq!(octets("u8", "x"), Err("`x` is not a number".to_owned()));
    assert_eq!(octets("ipv4", "10.64.0.53"), Err("`10.64.0.53` is not of this layout's form".to_owned()));
    assert_eq!(octets("name", "a..b"), Err("a name with nothing between two dots".to_owned()));
    assert_eq!(
        octets("len8(bytes)", &[0u8; 256][..]),
        Err("256 octets, but the length in front can count at most 255".to_owned())
    );
    let record = Value::record([("a", 1u8.into())]);
    assert_eq!(octets("{ a: u8, b: u8 }", record), Err("the field `b` is missing".to_owned()));
    let record = Value::record([("a", 1u8.into()), ("c", 2u8.into())]);
    assert_eq!(octets("{ a: u8, b: u8 }", record), Err("unknown field `c`".to_owned()));
    let record = Value::record([("a", 1u8.into()), ("a", 2u8.into())]);
    assert_eq!(octets("{ a: u8 }", record), Err("the field `a` is repeated".to_owned()));
    assert_eq!(octets("{ a: u8, more: options(v6)* }", Value::record([("a", 1u8.into())])), Ok(vec![1]));
    assert!(octets("seconds", Duration::from_secs(1 << 33)).is_err());
    let record = Value::record([("a", Value::record([("b", 300u16.into())]))]);
    assert_eq!(octets("{ a: { b: u8 } }", record), Err("a.b: 300 is outside 0 to 255".to_owned()));
    let list = Value::from(vec![Value::from(1u8), Value::from(999u16)]);
    assert_eq!(octets("u8+", list), Err("2: 999 is outside 0 to 255".to_owned()));
    let unknown = Value::Options(vec![SubOption { code: 200, name: None, value: 1u8.into() }]);
    assert_eq!(
        octets("options(relay-agent)", unknown),
        Err("200: this option is not in the codebook, so its value must be octets".to_owned())
    );
}

#[test]
fn a_codebook_refuses_what_an_options_layout_forbids() {
    let codebook = Codebook::standard();
    let mtu = codebook.find("v4:mtu").unwrap();
    assert_eq!(codebook.encode_value(mtu, &1500u16.into()), Ok(vec![5, 0xdc]));
    let refused = codebook.encode_value(mtu, &60u16.into()).unwrap_err();
    assert!(matches!(refused, EncodeFailure::Fault(_)));
    assert_eq!(refused.to_string(), "60 is out of range; it must be 68 or more");
    let refused = codebook.encode_value(mtu, &"big".into()).unwrap_err();
    assert_eq!(refused.to_string(), "v4:26 mtu-interface: `big` is not a number");
    assert_eq!(codebook.one::<u16>(mtu, &[5, 0xdc]), Ok(1500));
}

#[derive(Debug, PartialEq, Deserialize)]
struct Server {
    priority: u16,
    #[serde(rename = "authentication-domain")]
    domain: String,
    addresses: Option<Vec<Ipv4Addr>>,
}

#[test]
fn records_become_structs() {
    let codebook = Codebook::standard();
    let text = "{ priority = 1, authentication-domain = dns.example, addresses = [10.64.0.53, 10.64.0.54] }, \
                { priority = 2, authentication-domain = other.example }";
    let dnr = codebook.find("v4:162").unwrap();
    let octets = codebook.encode(dnr, &Input::from_text(text)).unwrap().octets;
    let servers: Vec<Server> = codebook.decode(dnr, &octets).0.unwrap().to().unwrap();
    assert_eq!(servers.len(), 2);
    assert_eq!((servers[0].priority, servers[0].domain.as_str()), (1, "dns.example"));
    assert_eq!(servers[0].addresses.as_ref().map(Vec::len), Some(2));
    assert_eq!(servers[1], Server { priority: 2, domain: "other.example".to_owned(), addresses: None });
    let wrong: Result<u32, _> = codebook.decode(dnr, &octets).0.unwrap().to();
    assert!(wrong.is_err());
}

#[test]
fn enumerations_and_nested_options_become_what_serde_makes_of_them() {
    #[derive(Deserialize)]
    #[serde(rename_all = "kebab-case")]
    struct Relay {
        agent_circuit_id: Vec<u8>,
        link_selection: Ipv4Addr,
    }
    let codebook = Codebook::standard();
    let value = |id: &str, octets: &[u8]| codebook.decode(codebook.find(id).unwrap(), octets).0.unwrap();
    assert_eq!(value("v4:46", &[8]).to::<String>().unwrap(), "h-node");
    let relay: Relay = value("v4:82", &[1, 1, 7, 5, 4, 10, 64, 4, 0]).to().unwrap();
    assert_eq!((relay.agent_circuit_id, relay.link_selection), (vec![7], Ipv4Addr::new(10, 64, 4, 0)));
    assert_eq!(value("v4:157", &[1]).to::<Vec<String>>().unwrap(), ["remote"]);
    assert!(value("v4:80", &[]).to::<()>().is_ok());
}

/// An address and a prefix association, as somebody's own types.
#[derive(Debug, PartialEq, Serialize, Deserialize)]
struct Association {
    iaid: u32,
    t1: u32,
    t2: u32,
    options: Inside,
}

#[derive(Debug, PartialEq, Serialize, Deserialize)]
struct Inside {
    iaaddr: Vec<Leased>,
}

#[derive(Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
struct Leased {
    address: Ipv6Addr,
    preferred_lifetime: u32,
    valid_lifetime: u32,
    options: BTreeMap<String, String>,
}

#[test]
fn rust_types_become_octets_and_octets_become_rust_types() {
    let codebook = Codebook::standard();
    let leased = |last: u16| Leased {
        address: Ipv6Addr::new(0x2001, 0xdb8, 0x64, 0x10, 0, 0, 0, last),
        preferred_lifetime: 3600,
        valid_lifetime: 7200,
        options: BTreeMap::new(),
    };
    let there_and_back = |association: Association| {
        let option = codebook.find("v6:ia-na").unwrap();
        let input = Input::from_serialize(&association).unwrap();
        let octets = codebook.encode(option, &input).unwrap().octets;
        assert_eq!(octets.len(), 12 + 28 * association.options.iaaddr.len());
        assert_eq!(codebook.read(option, &octets).value.unwrap().to::<Association>().unwrap(), association);
    };
    // One address and two are both a sequence.
    there_and_back(Association { iaid: 7, t1: 1800, t2: 2880, options: Inside { iaaddr: vec![leased(1)] } });
    there_and_back(Association { iaid: 7, t1: 0, t2: 0, options: Inside { iaaddr: vec![leased(1), leased(2)] } });
}

#[derive(Debug, PartialEq, Serialize, Deserialize)]
enum Kind {
    #[serde(rename = "h-node")]
    Hybrid,
    #[serde(rename = "p-node")]
    PointToPoint,
}

#[derive(Debug, PartialEq, Serialize, Deserialize)]
struct Mac([u8; 6]);

#[test]
fn enums_newtypes_numbers_and_octets_go_both_ways() {
    let codebook = Codebook::standard();
    let octets = |id: &str, input: Input| codebook.encode(codebook.find(id).unwrap(), &input).unwrap().octets;
    let value = |id: &str, octets: &[u8]| codebook.read(codebook.find(id).unwrap(), octets).value.unwrap();
    assert_eq!(octets("v4:46", Input::from_serialize(&Kind::PointToPoint).unwrap()), [2]);
    assert_eq!(value("v4:46", &[8]).to::<Kind>().unwrap(), Kind::Hybrid);
    assert_eq!(value("v4:46", &[8]).to::<u8>().unwrap(), 8);
    assert!(value("v4:46", &[1]).to::<Kind>().unwrap_err().to_string().contains("b-node"));
    let mac = Mac([2, 0, 0x5e, 0, 0x53, 0x11]);
    let layout = layout("mac");
    let written = layout.read(&NoCodebook, &Input::from_serialize(&mac).unwrap()).unwrap().value;
    assert_eq!(layout.encode(&NoCodebook, &written).unwrap().octets, mac.0);
    assert_eq!(
        (written.clone().to::<Mac>().unwrap(), written.to::<String>().unwrap()),
        (mac, "02:00:5e:00:53:11".into())
    );
    // A list of one is a list, and two of one name are not one.
    let twice: Result<BTreeMap<String, String>, _> = value("v4:82", &[1, 1, 7, 1, 1, 8]).to();
    assert!(twice.is_err());
    let twice: BTreeMap<String, Vec<String>> = value("v4:82", &[1, 1, 7, 1, 1, 8]).to().unwrap();
    assert_eq!(twice["agent-circuit-id"], ["07", "08"]);
}
