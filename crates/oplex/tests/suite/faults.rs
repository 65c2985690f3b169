//! What a walk finds wrong with octets: each kind of fault, where it is, and whether reading goes on after it.

use oplex::codebook::Codebook;
use oplex::layout::Layout;
use oplex::octets::hex;
use proptest::prelude::*;

/// The faults of these octets, each as `first..last+1: message`.
fn faults(layout: &str, octets: &str) -> Vec<String> {
    let codebook = Codebook::standard();
    let layout = Layout::parse_with(layout, codebook).unwrap();
    let found = layout.faults(codebook, &hex::parse(octets).unwrap());
    found.into_iter().map(|fault| format!("{:?}: {}", fault.octets, fault.kind)).collect()
}

#[track_caller]
fn one(layout: &str, octets: &str, fault: &str) {
    assert_eq!(faults(layout, octets), [fault], "{layout} {octets}");
}

#[track_caller]
fn none(layout: &str, octets: &str) {
    assert_eq!(faults(layout, octets), Vec::<String>::new(), "{layout} {octets}");
}

#[test]
fn octets_that_are_missing() {
    one("u16", "05", "0..1: 2 octets expected for a number, 1 left");
    one("u16", "", "0..0: 2 octets expected for a number, but the payload ends here");
    one("ipv4+", "0a4000350a", "4..5: 4 octets expected for an IPv4 address, 1 left");
    one("ipv6", "2001", "0..2: 16 octets expected for an IPv6 address, 2 left");
    one("mac", "0200", "0..2: 6 octets expected for a hardware address, 2 left");
    one("uuid", "00", "0..1: 16 octets expected for a UUID, 1 left");
    one("netmask", "ff", "0..1: 4 octets expected for a mask, 1 left");
    one("seconds", "ffff", "0..2: 4 octets expected for a number of seconds, 2 left");
    one("bool", "", "0..0: 1 octet expected for an octet, but the payload ends here");
    one("bytes{4}", "0102", "0..2: 4 octets expected for this text, 2 left");
    one("text", "", "0..0: 1 octet expected for this, but the payload ends here");
    one("bits { a: 12, b: 4 }", "ff", "0..1: 2 octets expected for these bits, 1 left");
    one("route4", "", "0..0: 1 octet expected for a route, but the payload ends here");
    one("route4", "150a40", "1..3: 3 octets expected for the route's destination, 2 left");
    one("route4", "150a40080a", "4..5: 4 octets expected for the route's router, 1 left");
    one("prefix6", "302001", "1..3: 6 octets expected for the prefix's octets, 2 left");
    one("len8(text)", "", "0..0: 1 octet expected for a length, but the payload ends here");
}

#[test]
fn octets_that_are_too_many_or_too_few() {
    one("u8", "0102", "1..2: 1 octet left over after the last part");
    one("ipv4", "0a4000350a4000", "4..7: 3 octets left over after the last part");
    one("{ a: u8, b: u8 }", "010203", "2..3: 1 octet left over after the last part");
    one("len8(u8)", "020102", "2..3: 1 octet left over after the last part");
    one("ipv4+", "", "0..0: at least 1 expected, found 0");
    one("ipv4{2}", "0a400035", "0..4: at least 2 expected, found 1");
    one("u16{1..2}", "000100020003", "4..6: 2 octets left over after the last part");
    one("bytes{1..2}", "010203", "0..3: at most 2 allowed, found 3");
    one("options(relay-agent)", "", "0..0: at least 1 expected, found 0");
    one("duid", "0001", "0..2: a DUID of 2 octets; it has 3 to 130");
    one("compressed-names", "", "0..0: at least 1 expected, found 0");
}

#[test]
fn lengths_that_lie() {
    one("len8(text)", "056162", "0..1: this length counts 5 octets, but only 2 follow");
    one("len16(bytes)", "000401", "0..2: this length counts 4 octets, but only 1 follow");
    one(
        "{ t: u8, v: len8+2(bytes) }",
        "0101",
        "1..2: this length is 1, but counting its own header it must be at least 2",
    );
    one("options(relay-agent)", "010570", "1..2: this length counts 5 octets, but only 1 follow");
    one("options(relay-agent)", "01", "1..1: 1 octet expected for an option's length, but the payload ends here");
    one("name", "05616200", "0..1: this length counts 5 octets, but only 3 follow");
    none("{ t: u8, v: len8+2(bytes) }", "010361");
}

#[test]
fn a_broken_part_with_a_length_does_not_keep_the_next_from_being_read() {
    assert_eq!(
        faults("len8(ipv4+)+", "020a40 040a400035 00"),
        ["1..3: 4 octets expected for an IPv4 address, 2 left", "9..9: at least 1 expected, found 0",]
    );
    assert_eq!(
        faults("options(relay-agent)", "05020a40 0b040a400402 13020102"),
        ["2..4: 4 octets expected for an IPv4 address, 2 left", "12..14: 2 octets left over after the last part",]
    );
}

#[test]
fn numbers_out_of_range_and_without_meaning() {
    one("u16 in 68..", "0043", "0..2: 67 is out of range; it must be 68 or more");
    one("u8 in ..=9", "0a", "0..1: 10 is out of range; it must be 9 or less");
    one("u8 in 6", "07", "0..1: 7 is out of range; it must be 6");
    one("i8 in -1..=1", "fe", "0..1: -2 is out of range; it must be -1 to 1");
    one("u8 of { off = 0, on = 1 }", "02", "0..1: 2 is undefined; defined are off (0), on (1)");
    one("u8 flags { s = 1, o = 2 }", "07", "0..1: bits 0x4 are undefined and must be zero");
    one("bool", "02", "0..1: 2 is neither 0 (off) nor 1 (on)");
    one("bits { reserved: 6, preference: 2 }", "04", "0..1: bits 0x1 are undefined and must be zero");
    one("bits { a: 4 of { x = 1 }, b: 4 }", "20", "0..1: 2 is undefined; defined are x (1)");
    one("bits { latitude: s8.8 in -90..=90 }", "5a01", "0..2: 90 is out of range; it must be -90 to 90");
    none("bits { latitude: s8.8 in -90..=90 }", "5a00");
    none("bits { latitude: s8.8 in -90..=90 }", "a600");
    one("bits { latitude: s8.8 in -90..=90 }", "a5ff", "0..2: -90 is out of range; it must be -90 to 90");
    none("(u16 of architecture)+", "0007ffff");
}

#[test]
fn text_that_is_not_what_it_should_be() {
    one("text", "61c3a962", "1..3: a character outside ASCII; this text is NVT ASCII");
    one("text", "610a62", "1..2: control character 0x0a in the text");
    one("text", "61620000", "2..4: the text ends in NUL, which senders should not add");
    one("utf8", "61ff62", "1..2: these octets are not UTF-8");
    one("utf8", "61c3", "1..2: these octets are not UTF-8");
    none("utf8", "61c3a962");
    one("uri", "61", "0..1: this is not a URI; it needs a scheme, as in https://portal.example/api");
    one(
        "uri",
        "68747470733a2f2f61205b",
        "0..11: this is not a URI; it needs a scheme, as in https://portal.example/api",
    );
    // `a://b`, `a://b:8/c`, `a://b/%7e`, and `a://b/%7`.
    none("uri", "613a2f2f62");
    none("uri", "613a2f2f623a382f63");
    none("uri", "613a2f2f622f253765");
    one("uri", "613a2f2f622f2537", "0..8: this is not a URI; it needs a scheme, as in https://portal.example/api");
    one("dotted-name", "612e2e62", "1..3: a name with nothing between two dots");
    one("dotted-name", "2e61", "0..1: a name with nothing between two dots");
    one("dotted-name", "612d2e62", "0..2: a label of a name may not begin or end in a hyphen");
    one("dotted-name", "612062", "0..3: ' ' is not allowed in a host name; use letters, digits and hyphens");
    none("dotted-name", "612e622e");
    one("dotted-name", &"61".repeat(64), "0..64: label of 64 octets; the limit is 63");
    let long = [&"61".repeat(60), "2e"].concat().repeat(5);
    one("dotted-name", &long, "0..305: name of 306 octets; the limit is 255");
}

#[test]
fn masks_and_prefixes() {
    one("netmask", "ff00ff00", "0..4: the one bits of a mask must be contiguous from the left");
    none("netmask", "00000000");
    none("netmask", "ffffffff");
    one("route4", "210a4008000a400401", "0..1: prefix length 33 exceeds 32");
    one("route4", "150a40090a400401", "1..4: bits are set below the prefix length 21");
    one("prefix6", "81", "0..1: prefix length 129 exceeds 128");
    one("prefix6", "0981ff", "1..3: bits are set below the prefix length 9");
}

#[test]
fn names_that_do_not_end_or_lead_astray() {
    one("name", "0161", "0..2: the name never ends: its root label (a zero octet) is missing");
    one("name", "0161c000", "2..3: a compression pointer, where names must be written out");
    one("name", "4061", "0..1: label of 64 octets; the limit is 63");
    one("name", "01610001", "3..4: 1 octet left over after the last part");
    none("partial-name", "0161");
    none("partial-name", "");
    none("name", "00");
    one("compressed-names", "0161c004", "2..4: the pointer leads to octet 4, where no earlier part of a name begins");
    one("compressed-names", "0161c000", "2..4: the pointer leads to octet 0, where no earlier part of a name begins");
    one("compressed-names", "0161000162c0", "5..6: 2 octets expected for a compression pointer, 1 left");
    one("compressed-names", "0161000162", "3..5: the name never ends: its root label (a zero octet) is missing");
    assert_eq!(
        faults("compressed-names", "0120c001"),
        [
            "1..2: ' ' is not allowed in a host name; use letters, digits and hyphens",
            "2..4: the pointer leads to octet 1, where no earlier part of a name begins",
        ]
    );
    none("compressed-names", "016100c000");
    // Into the middle of a label, where something like a label happens to stand.
    assert_eq!(
        faults("compressed-names", "0301610000c001"),
        [
            "1..2: '\\u{1}' is not allowed in a host name; use letters, digits and hyphens",
            "5..7: the pointer leads to octet 1, where no earlier part of a name begins",
        ]
    );
    let label = ["3f".to_owned(), "61".repeat(63)].concat();
    one("name", &[label.repeat(4), "00".to_owned()].concat(), "0..256: name of 257 octets; the limit is 255");
}

/// A pointer to a pointer to a pointer: each leads backwards, and none may lead round.
#[test]
fn pointers_to_pointers_end() {
    none("compressed-names", "0161 00 0162 c000 0163 c003");
    let chain: String = (0..200)
        .map(|index: u16| format!("{:04x}", 0xc000 | if index == 0 { 0 } else { 3 + 2 * (index - 1) }))
        .collect();
    let found = faults("compressed-names", &format!("016100{chain}"));
    assert_eq!(found.len(), 1, "{found:?}");
    assert!(found[0].contains("where no earlier part of a name begins"), "{found:?}");
}

#[test]
fn key_value_text() {
    let layout = "pairs(\",\" \"=\") { SERVER!: ipv4, PORT: u16 in 1.., MODE: u8 of { off = 0, on = 1 } }";
    let text = |text: &str| hex::plain(text.as_bytes());
    none(layout, &text("SERVER=10.64.0.70,PORT=5061,MODE=on"));
    one(layout, &text("PORT=5061"), "0..9: the key `SERVER` must be given");
    one(layout, &text("SERVER=10.64.0.70,PORT"), "18..22: no value is given for this key");
    one(layout, &text("SERVER=10.64.0.70,COLOUR=red"), "18..24: the key `COLOUR` is not one of this option's");
    one(layout, &text("SERVER=10.64.0.70,SERVER=10.64.0.71"), "18..24: the key `SERVER` stands here a second time");
    one(layout, &text("SERVER=10.64.0.70,PORT=0"), "23..24: 0 is out of range; it must be 1 or more");
    one(layout, &text("SERVER=10.64.0"), "7..14: `SERVER`: `10.64.0` is not an IPv4 address: it has 3 of 4 numbers");
    one(
        layout,
        &text("SERVER=10.64.0.70,MODE=up"),
        "23..25: `MODE`: unknown value `up`; expected one of off (0), on (1)",
    );
    none("pairs(\";\" \":\") { A: text, .. }", &text("A:1;B:2"));
}

#[test]
fn choices_without_a_form() {
    one("{ t: u8, v: by t { 0 => u8 } }", "0101", "1..2: no form is defined for `t` = 1");
    none("{ t: u8, v: by t { 0 => u8, else => bytes* } }", "0101");
}

#[test]
fn options_inside_options_have_a_limit() {
    let mut codebook = Codebook::standard().clone();
    let mut sources = oplex::finding::Sources::default();
    let book = "book = \"nest\"\ncarriers = [\"v4:43\"]\n\
                [chapter.inner]\n\
                [[option]]\ncode = 1\nchapter = \"inner\"\nname = \"again\"\nlayout = \"options(inner)*\"\nreference = \"none\"\n";
    let file = sources.add("nest.toml", book);
    assert_eq!(codebook.add(&sources, file), []);
    let layout = Layout::parse_with("options(inner)", &codebook).unwrap();
    let nested =
        |depth: usize| (0..depth).fold(Vec::new(), |inner: Vec<u8>, _| [&[1, inner.len() as u8][..], &inner].concat());
    assert_eq!(layout.faults(&codebook, &nested(12)), []);
    let found = layout.faults(&codebook, &nested(120));
    assert_eq!(found[0].kind.to_string(), "options are nested deeper here than can be read");
}

proptest! {
    /// URIs of the commonest form are seen at a glance; whatever the text is, the grammar of RFC 3986 has the last word.
    #[test]
    fn uris_are_what_the_grammar_says(
        plain in "[a-z]{0,3}(://|:/|:)[a-zA-Z0-9.-]{0,6}(:[0-9]{0,3}|:x)?(/[a-zA-Z0-9/._~-]{0,8})?",
        odd in "[a-z:/?#@%\\[\\] 0-9]{1,14}",
    ) {
        for text in [plain, odd] {
            let found = faults("uri", &hex::plain(text.as_bytes()));
            prop_assert_eq!(found.is_empty(), iri_string::types::UriStr::new(&text).is_ok(), "{}", text);
        }
    }
}
