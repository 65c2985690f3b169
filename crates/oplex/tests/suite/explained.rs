//! Explanations: a row for every octet, with its place among the parts.

use oplex::codebook::Codebook;
use oplex::layout::Layout;
use oplex::octets::hex;

/// The rows as a person sees them: the octets, the label indented by its depth, the meaning.
fn explained(layout: &str, octets: &str) -> String {
    let codebook = Codebook::standard();
    let octets = hex::parse(octets).unwrap();
    let layout = Layout::parse_with(layout, codebook).unwrap();
    let rows = layout.explained(codebook, &octets).rows;
    let line = |row: &oplex::layout::ExplainedRow| {
        let octets = hex::plain(&octets[row.octets.clone()]);
        format!("{octets:<12}{}{} {}", "  ".repeat(row.depth), row.label, row.meaning).trim_end().to_owned()
    };
    rows.iter().map(line).collect::<Vec<_>>().join("\n")
}

#[track_caller]
fn is(layout: &str, octets: &str, rows: &[&str]) {
    assert_eq!(explained(layout, octets), rows.join("\n"), "{layout} {octets}");
}

#[test]
fn single_things_and_lists() {
    is("ipv4", "0a400401", &["0a400401    value 10.64.4.1"]);
    is("ipv4+", "0a4004010a400402", &["0a400401    1. 10.64.4.1", "0a400402    2. 10.64.4.2"]);
    is("u8 of message-type", "05", &["05          value DHCPACK"]);
    is("text", "646f6d65", &["646f6d65    value dome"]);
    is("bytes", "646f6d65", &["646f6d65    value \"dome\""]);
    is("bytes", "0102", &["0102        value 01:02"]);
    is("empty", "", &["            value empty"]);
}

#[test]
fn records_and_lengths() {
    is(
        "{ kind: u8, name: len8(text) }",
        "0104646f6d65",
        &["01          kind 1", "04          length 4", "646f6d65    name dome"],
    );
    is("len8(ipv4+)+", "040a400401", &["04          length 4", "            1.", "0a400401      1. 10.64.4.1"]);
    is(
        "{ a: { b: u8, c: u8 }, d: u8 }",
        "010203",
        &["            a", "01            b 1", "02            c 2", "03          d 3"],
    );
}

#[test]
fn names_label_by_label() {
    is(
        "name",
        "0461626364016500",
        &[
            "            value abcd.e",
            "0461626364    label of 4 abcd",
            "0165          label of 1 e",
            "00            root label the name ends",
        ],
    );
    is(
        "compressed-names",
        "0161000162c000",
        &[
            "            1. a",
            "0161          label of 1 a",
            "00            root label the name ends",
            "            2. b.a",
            "0162          label of 1 b",
            "c000          pointer the rest stands earlier",
        ],
    );
}

#[test]
fn routes_part_by_part() {
    is(
        "route4+",
        "150a40080a400401 000a400402",
        &[
            "            1. 10.64.8.0/21 via 10.64.4.1",
            "15            prefix length 21",
            "0a4008        destination 10.64.8.0",
            "0a400401      router 10.64.4.1",
            "            2. 0.0.0.0/0 via 10.64.4.2",
            "00            prefix length 0",
            "0a400402      router 10.64.4.2",
        ],
    );
}

#[test]
fn options_inside_options() {
    is(
        "options(relay-agent)",
        "01017037 c80109",
        &[
            "            option 1 agent-circuit-id",
            "01            code 1",
            "01            length 1",
            "70            value 70",
            "            option 55 not in the codebook",
            "37            code 55",
            "c8            length 200",
            "0109          value 01:09",
        ],
    );
}

#[test]
fn bits_share_octets() {
    is(
        "bits { a: 4, b: 12, c: 8 }",
        "123456",
        &["12          a (4 bits) 1", "34          b (12 bits) 564", "56          c (8 bits) 86"],
    );
}

#[test]
fn keys_and_values() {
    is(
        "pairs(\",\" \"=\") { A: u8, B: text }",
        &hex::plain(b"A=7,B=x"),
        &[
            "41          key A",
            "3d          sign",
            "37          value 7",
            "2c          sign",
            "42          key B",
            "3d          sign",
            "78          value x",
        ],
    );
}

#[test]
fn octets_that_a_fault_kept_from_being_read() {
    is("{ a: u8, b: ipv4 }", "010a40", &["01          a 1", "0a40        unread"]);
    is("u8", "0102", &["01          value 1", "02          unread"]);
    is(
        "len8(ipv4)+",
        "020a40 040a400401",
        &["02          length 2", "0a40        unread", "04          length 4", "0a400401    1. 10.64.4.1"],
    );
}
