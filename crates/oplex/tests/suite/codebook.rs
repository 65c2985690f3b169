//! The standard codebook, option by option.

use oplex::codebook::{Codebook, Definition};
use oplex::layout::{Input, Layout, Value};
use oplex::octets::hex;
use proptest::prelude::{ProptestConfig, any, proptest};

use crate::generate;

fn encoded(option: &str, text: &str) -> Vec<u8> {
    let codebook = Codebook::standard();
    codebook.encode(codebook.find(option).unwrap(), &Input::from_text(text)).unwrap().octets
}

fn decoded(option: &str, octets: &[u8]) -> Value {
    let codebook = Codebook::standard();
    let (value, faults) = codebook.decode(codebook.find(option).unwrap(), octets);
    assert_eq!(faults, [], "{option}");
    value.unwrap()
}

#[test]
fn every_example_encodes_without_fault_and_decodes_to_itself() {
    let codebook = Codebook::standard();
    for option in codebook.definitions() {
        assert_eq!(Layout::parse_with(&option.layout_text, codebook).err(), None, "{}", option.id());
        let Some(example) = &option.example else { continue };
        let payload = codebook.encode(option, &Input::from_text(example));
        let payload = payload.unwrap_or_else(|wrong| panic!("{}: {wrong:?}", option.label()));
        assert_eq!(payload.faults, [], "{}", option.label());
        let value = decoded(&option.id().to_string(), &payload.octets);
        assert_eq!(
            encoded(&option.id().to_string(), &value.to_string()),
            payload.octets,
            "{}: {value}",
            option.label()
        );
    }
}

/// The descriptors of the table in RFC 3442, "Classless Route Option Format", each with a router after it.
#[test]
fn routes_have_the_octets_of_rfc_3442() {
    let table: [(&str, &[u8]); 7] = [
        ("0.0.0.0/0", &[0]),
        ("10.0.0.0/8", &[8, 10]),
        ("10.0.0.0/24", &[24, 10, 0, 0]),
        ("10.17.0.0/16", &[16, 10, 17]),
        ("10.27.129.0/24", &[24, 10, 27, 129]),
        ("10.229.0.128/25", &[25, 10, 229, 0, 128]),
        ("10.198.122.47/32", &[32, 10, 198, 122, 47]),
    ];
    let texts: Vec<String> = table.iter().map(|(route, _)| format!("{route} via 10.64.4.1")).collect();
    let octets: Vec<u8> = table.iter().flat_map(|(_, octets)| [octets, &[10, 64, 4, 1][..]].concat()).collect();
    assert_eq!(encoded("v4:121", &texts.join(", ")), octets);
    assert_eq!(decoded("v4:121", &octets).to_string(), texts.join(", "));
}

/// The worked example of RFC 3397, section 3: two names, the second ending in a pointer to octet 4.
#[test]
fn search_lists_have_the_octets_of_rfc_3397() {
    let octets = hex::parse("03656e67056170706c6503636f6d00 096d61726b6574696e67c004").unwrap();
    let value = decoded("v4:119", &octets);
    let Value::List(names) = &value else { panic!("{value}") };
    let parts = |name: &Value| name.to_string().split('.').map(str::len).collect::<Vec<_>>();
    assert_eq!(names.iter().map(parts).collect::<Vec<_>>(), [[3, 5, 3], [9, 5, 3]]);
    assert_eq!(encoded("v4:119", &value.to_string()), octets);
}

#[test]
fn long_values_are_split_only_where_the_option_allows_it() {
    let codebook = Codebook::standard();
    let long = |count: usize| vec!["10.64.0.53"; count].join(", ");
    assert_eq!(encoded("v4:6", &long(100)).len(), 400);
    let parts = oplex::codebook::split(&[0; 400]).map(<[u8]>::len).collect::<Vec<_>>();
    assert_eq!(parts, [255, 145]);
    let single = codebook.find("v4:98").unwrap();
    assert!(codebook.encode(single, &Input::from_text(&"x".repeat(256))).is_ok());
    let too_long = codebook.encode(codebook.find("v4:86").unwrap(), &Input::from_text(&"x".repeat(256)));
    assert!(too_long.unwrap_err()[0].message.contains("255"));
    let far_too_long = codebook.encode(codebook.find("v4:6").unwrap(), &Input::from_text(&long(16_400)));
    assert!(far_too_long.unwrap_err()[0].message.contains("65,535"));
}

fn round_trip(codebook: &Codebook, option: &Definition, seed: u64) {
    let layout = codebook.layout(option);
    let value = generate::value(layout, codebook, seed);
    let octets =
        layout.encode(codebook, &value).unwrap_or_else(|error| panic!("{}: {value}: {error}", option.label())).octets;
    let (min, max) = layout.lengths();
    assert!(octets.len() >= min && max.is_none_or(|max| octets.len() <= max), "{}", option.label());
    assert_eq!(codebook.decode(option, &octets), (Some(value.clone()), vec![]), "{}", option.label());
    let from_text = layout.read(codebook, &Input::from_text(&value.to_string()));
    let from_text = from_text.unwrap_or_else(|wrong| panic!("{}: {value}: {wrong:?}", option.label())).value;
    assert_eq!(from_text, value, "{}: {value}", option.label());
    let json = serde_json::to_string(&value).unwrap();
    let from_json = layout.read(codebook, &serde_json::from_str(&json).unwrap());
    let from_json = from_json.unwrap_or_else(|wrong| panic!("{}: {json}: {wrong:?}", option.label())).value;
    assert_eq!(from_json, value, "{}: {json}", option.label());
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn values_of_every_option_survive_octets_text_and_json(seed in any::<u64>()) {
        let codebook = Codebook::standard();
        for option in codebook.definitions() {
            round_trip(codebook, option, seed);
        }
    }

    #[test]
    fn arbitrary_octets_are_explained_whole_for_every_option(octets in proptest::collection::vec(any::<u8>(), 0..80)) {
        let codebook = Codebook::standard();
        for option in codebook.definitions() {
            let layout = codebook.layout(option);
            let read = layout.explained(codebook, &octets);
            let (rows, faults) = (read.rows, read.faults);
            let explained: usize = rows.iter().map(|row| row.octets.len()).sum();
            assert_eq!(explained, octets.len(), "{}: {rows:?}", option.label());
            let (value, same_faults) = layout.decode(codebook, &octets);
            assert_eq!(faults, same_faults);
            assert!(faults.iter().all(|fault| fault.octets.end <= octets.len()), "{}: {faults:?}", option.label());
            // What reads without a fault can be written again, and then reads the same.
            if let (Some(value), true) = (value, faults.is_empty()) {
                let again = layout.encode(codebook, &value).unwrap().octets;
                assert_eq!(codebook.decode(option, &again), (Some(value), vec![]), "{}", option.label());
            }
        }
    }
}
