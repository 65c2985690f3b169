//! The standard codebook against columns of the registry, which the data files beside this hold.

use std::collections::BTreeMap;

use oplex::codebook::{Codebook, Definition, Status};
use oplex::family::Protocol;
use oplex::layout::{Layout, Node, Vocabulary};

const OPTIONS: &str = include_str!("../data/dhcpv4-options.tsv");
const SUB_OPTIONS: &str = include_str!("../data/dhcpv4-suboptions.tsv");

/// The rows of a table, each a map from column to cell.
fn rows(table: &'static str) -> impl Iterator<Item = BTreeMap<&'static str, &'static str>> {
    let mut lines = table.lines();
    let columns: Vec<&str> = lines.next().unwrap().split('\t').collect();
    lines.map(move |line| columns.iter().copied().zip(line.split('\t')).collect())
}

/// `163-174` is twelve codes, `150` is one.
fn codes(cell: &str) -> std::ops::RangeInclusive<u16> {
    let (first, last) = cell.split_once('-').unwrap_or((cell, cell));
    first.parse().unwrap()..=last.parse().unwrap()
}

/// The most octets that one option can hold under the layout: repeated parts of a fixed size come whole.
fn most(layout: &Layout) -> usize {
    let max = layout.lengths().1.unwrap_or(255).min(255);
    match layout.root() {
        Node::Repeat(..) => {
            let unit =
                Layout::parse(layout.to_string().trim_end_matches(['+', '*'])).map_or(1, |item| item.lengths().0);
            max / unit * unit
        }
        _ => max,
    }
}

/// How the codebook's lengths differ from the row's, if they do.
fn differs(option: &Definition, row: &BTreeMap<&str, &str>, in_one: bool) -> Option<String> {
    let layout = Codebook::standard().layout(option);
    let (min, max) = layout.lengths();
    let table = (row["min"], row["max"]);
    let most = match table.1 {
        "-" if max.is_none_or(|max| max > 255) => "-".to_owned(),
        _ if option.single || in_one => most(layout).to_string(),
        _ => max.map_or_else(|| "-".to_owned(), |max| max.to_string()),
    };
    let book = (&*min.to_string(), &*most);
    (book != table).then(|| format!("{}: {book:?}, not {table:?}", option.id()))
}

#[test]
fn every_option_has_the_registrys_name_and_lengths() {
    let codebook = Codebook::standard();
    let mut count = 0;
    let mut different = Vec::new();
    for row in rows(OPTIONS) {
        for code in codes(row["code"]) {
            count += 1;
            let option = codebook.own(Protocol::V4, code).unwrap_or_else(|| panic!("{code} is missing"));
            let unassigned = matches!(option.status, Status::Unassigned | Status::Removed | Status::Tentative);
            assert_eq!(unassigned, row["name"] == "-" && row["min"] == "-", "{}", option.label());
            if row["name"] != "-" {
                assert!(*option.name == *row["name"] || row["code"].contains('-'), "{}", option.label());
            }
            different.extend((row["min"] != "-").then(|| differs(option, &row, false)).flatten());
        }
    }
    assert_eq!(
        different,
        [
            // RFC 3361, section 3.1 states 3, and does not say of what; the root alone takes an octet after the encoding.
            "v4:120: (\"2\", \"-\"), not (\"3\", \"-\")",
            // RFC 8572, section 8.3: each entry is a length and a URI, and no URI is empty.
            "v4:143: (\"3\", \"-\"), not (\"2\", \"-\")",
        ]
    );
    assert_eq!(count, codebook.definitions().filter(|option| option.is_own_of(Protocol::V4)).count());
}

#[test]
fn every_sub_option_has_the_registrys_name_and_lengths() {
    let codebook = Codebook::standard();
    let mut count = 0;
    let mut different = Vec::new();
    for row in rows(SUB_OPTIONS) {
        let numbered = row["code"].parse::<u16>().is_ok() && row["name"] != "-";
        // The parts of option 99 are named values of its layout, and 43 is the vendor's; see the tests below.
        if !numbered || matches!(row["parent"], "99" | "43") {
            continue;
        }
        count += 1;
        let option = codebook.find(&format!("v4:{}/{}", row["parent"], row["code"])).unwrap();
        assert_eq!(*option.name, *row["name"], "{}", option.label());
        different.extend((row["min"] != "-").then(|| differs(option, &row, row["max"] != "-")).flatten());
    }
    assert_eq!(
        different,
        [
            // RFC 4243, section 3 states 4, but a length octet follows each enterprise number.
            "v4:82/9: (\"5\", \"255\"), not (\"4\", \"255\")",
            // RFC 6757, section 3.1.3, which RFC 7839 refers to: the realm is never empty.
            "v4:82/18: (\"1\", \"255\"), not (\"0\", \"255\")",
            // RFC 9460, section 7.1.1: a protocol's name is never empty, and has a length octet.
            "v4:162/1: (\"2\", \"-\"), not (\"1\", \"-\")",
        ]
    );
    let inside = |option: &&Definition| option.id().book() == "v4" && !option.is_own_of(Protocol::V4);
    assert_eq!(count, codebook.definitions().filter(inside).count());
}

#[test]
fn every_kind_of_civic_address_part_is_named() {
    let civic = Codebook::standard().enumeration("civic").unwrap();
    let listed: Vec<(u64, &str)> = rows(SUB_OPTIONS)
        .filter(|row| row["parent"] == "99" && row["name"] != "-")
        .map(|row| (row["code"].parse().unwrap(), row["name"]))
        .collect();
    assert_eq!(civic.members.iter().map(|(code, name)| (*code, &**name)).collect::<Vec<_>>(), listed);
}

/// Values of the table that no name is given to, each for a reason.
const UNNAMED: [(&str, u64); 5] = [
    // Reserved, which is no name.
    ("civic", 255),
    ("rdnss-preference", 2),
    ("access-technology", 0),
    // A hardware type has one octet here, so this one never stands in it.
    ("client-id-type", 256),
    // Split-horizon DNS is DHCPv6's.
    ("authentication-protocol", 4),
];

#[test]
fn every_named_value_of_the_registry_has_a_name() {
    let codebook = Codebook::standard();
    let v4 = include_str!("../data/dhcpv4-enumerations.tsv");
    let v6 = include_str!("../data/dhcpv6-enumerations.tsv");
    let mut missing = Vec::new();
    for row in rows(v4).chain(rows(v6)) {
        let of = codebook.enumeration(row["enumeration"]).unwrap_or_else(|| panic!("{row:?}"));
        let value: u64 = row["value"].parse().unwrap();
        if of.name_of(value).is_none() && !UNNAMED.contains(&(row["enumeration"], value)) {
            missing.push((row["enumeration"], value));
        }
    }
    assert_eq!(missing, []);
}

/// Whether DHCPv6's lengths are the row's: what the table has near 65,535 is whatever a length can say.
fn differs6(option: &Definition, row: &BTreeMap<&str, &str>) -> Option<String> {
    let (min, max) = Codebook::standard().layout(option).lengths();
    let open = |most: usize| if most > 65_000 { "-".to_owned() } else { most.to_string() };
    let book = (min.to_string(), max.map_or("-".to_owned(), open));
    let table = (row["min"].to_owned(), open(row["max"].parse().unwrap()));
    (book != table).then(|| format!("{}: {book:?}, not {table:?}", option.id()))
}

#[test]
fn every_option_of_dhcpv6_has_the_registrys_name_and_lengths() {
    let codebook = Codebook::standard();
    let (mut count, mut different) = (0, Vec::new());
    for row in rows(include_str!("../data/dhcpv6-options.tsv")) {
        count += 1;
        let option = codebook.find(&format!("v6:{}", row["code"])).unwrap();
        assert!(option.is_own_of(Protocol::V6) && !option.is_own_of(Protocol::V4));
        assert_eq!(option.status == Status::Unassigned, row["name"] == "-", "{}", option.label());
        if row["name"] == "-" {
            continue;
        }
        assert_eq!(*option.name, *row["name"], "{}", option.label());
        assert_eq!(option.status == Status::Deprecated, row["status"] == "deprecated", "{}", option.label());
        // The registry's column is wrong about these: RFC 6610, sections 3.1 and 3.2.2; RFC 5908, section 4; RFC 6784,
        // section 3; RFC 7078, section 2; RFC 7600, section 4.9.
        let several = row["several"] == "No" || [49, 56, 69, 78, 85, 98].contains(&option.code);
        assert_eq!(option.several, several, "{}", option.label());
        different.extend(differs6(option, &row));
    }
    assert_eq!(count, codebook.definitions().filter(|option| option.is_own_of(Protocol::V6)).count());
    assert_eq!(
        different,
        [
            // What must stand inside these, and is not said by lengths: RFC 5908, section 4; RFC 7598, section 5; RFC 7600,
            // section 4.9. A layout counts one option's header.
            "v6:56: (\"4\", \"-\"), not (\"5\", \"-\")",
            // No URI is shorter than two characters, which is for the rule about URIs.
            "v6:59: (\"1\", \"-\"), not (\"2\", \"-\")",
            // RFC 6334, section 3: a name of one label at least.
            "v6:64: (\"1\", \"255\"), not (\"4\", \"255\")",
            "v6:94: (\"4\", \"-\"), not (\"32\", \"-\")",
            "v6:95: (\"4\", \"-\"), not (\"17\", \"-\")",
            "v6:96: (\"4\", \"-\"), not (\"20\", \"-\")",
            "v6:97: (\"4\", \"-\"), not (\"24\", \"-\")",
            "v6:103: (\"1\", \"-\"), not (\"2\", \"-\")",
            "v6:112: (\"1\", \"-\"), not (\"2\", \"-\")",
            // RFC 8115, section 3: the third prefix may not be longer than 96, which is no question of octets.
            "v6:113: (\"3\", \"51\"), not (\"3\", \"39\")",
            "v6:136: (\"3\", \"-\"), not (\"4\", \"-\")",
        ]
    );
}

#[test]
fn every_sub_option_of_dhcpv6_has_its_name_and_lengths() {
    let codebook = Codebook::standard();
    let (mut count, mut different) = (0, Vec::new());
    for row in rows(include_str!("../data/dhcpv6-suboptions.tsv")) {
        let (Ok(parent), Ok(code)) = (row["parent"].parse::<u16>(), row["code"].parse::<u16>()) else { continue };
        match parent {
            54..=56 => {
                count += 1;
                let option = codebook.find(&format!("v6:{parent}/{code}")).unwrap();
                assert_eq!(*option.name, *row["name"]);
                different.extend(differs6(option, &row));
            }
            // These two are named values of their options' layouts.
            36 | 81 => {}
            // The others are options that stand in another, and say so.
            _ => {
                let option = codebook.find(&format!("v6:{code}")).unwrap();
                assert_eq!(*option.name, *row["name"]);
                let inside = option.within.contains(&parent);
                let forbidden = [(50, 49), (70, 49), (94, 91), (94, 92), (95, 90), (95, 92), (96, 89), (96, 91)];
                // Port parameters stand one level further down (RFC 7598, section 4.5).
                let deeper = code == 93 && (94..=96).contains(&parent);
                assert_eq!(inside, !forbidden.contains(&(parent, code)) && !deeper, "{code} in {parent}");
            }
        }
    }
    assert_eq!((count, different), (9, vec![]));
}
