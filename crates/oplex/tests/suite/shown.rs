//! Values as text and as JSON: what people read, and what programs do.

use oplex::codebook::Codebook;
use oplex::layout::{Layout, NoCodebook, SubOption, Value, duration, duration_text};
use oplex::octets::hex;

/// The text and the JSON of what these octets mean.
fn shown(layout: &str, octets: &str) -> (String, String) {
    let codebook = Codebook::standard();
    let layout = Layout::parse_with(layout, codebook).unwrap();
    let (value, _) = layout.decode(codebook, &hex::parse(octets).unwrap());
    let value = value.unwrap();
    (value.to_string(), serde_json::to_string(&value).unwrap())
}

#[track_caller]
fn is(layout: &str, octets: &str, text: &str, json: &str) {
    assert_eq!(shown(layout, octets), (text.to_owned(), json.to_owned()), "{layout} {octets}");
}

#[test]
fn single_things() {
    is("u16", "05dc", "1500", "1500");
    is("i32", "fffffff0", "-16", "-16");
    is("bool", "01", "true", "true");
    is("seconds", "00007080", "8h", "28800");
    is("seconds", "ffffffff", "infinite", "4294967295");
    is("ipv4", "0a400401", "10.64.4.1", "\"10.64.4.1\"");
    is("ipv6", "20010db8000000000000000000000053", "2001:db8::53", "\"2001:db8::53\"");
    is("mac", "02005e005311", "02:00:5e:00:53:11", "\"02:00:5e:00:53:11\"");
    is("bytes", "0102", "01:02", "\"01:02\"");
    is("text", "646f6d65", "dome", "\"dome\"");
    is("name", "04646f6d6500", "dome", "\"dome\"");
    is("name", "00", ".", "\".\"");
    is("partial-name", "04646f6d6500", "dome.", "\"dome.\"");
    is("empty", "", "empty", "true");
    is("route4", "000a400401", "0.0.0.0/0 via 10.64.4.1", "\"0.0.0.0/0 via 10.64.4.1\"");
    is("route4", "150a400800000000", "10.64.8.0/21 on-link", "\"10.64.8.0/21 on-link\"");
    is("prefix6", "3020010db80064", "2001:db8:64::/48", "\"2001:db8:64::/48\"");
    is(
        "uuid",
        "123e4567e89b12d3a456426614174000",
        "123e4567-e89b-12d3-a456-426614174000",
        "\"123e4567-e89b-12d3-a456-426614174000\"",
    );
    is("bits { a: s4.4, b: 8 }", "1805", "{ a = 1.5, b = 5 }", "{\"a\":1.5,\"b\":5}");
}

#[test]
fn named_numbers() {
    is("u8 of message-type", "05", "DHCPACK", "\"DHCPACK\"");
    is("u16 of architecture", "ffff", "65535", "65535");
    is("u8 flags { s = 1, e = 4 }", "05", "s+e", "[\"s\",\"e\"]");
    is("u8 flags { s = 1, e = 4 }", "00", "none", "[]");
    is("u8 flags { s = 1, e = 4 }", "80", "0x80", "[\"0x80\"]");
    is("u8 flags ra-prefix", "c8", "on-link+autonomous+0x08", "[\"on-link\",\"autonomous\",\"0x08\"]");
}

#[test]
fn lists_and_records() {
    is("ipv4+", "0a4004010a400402", "10.64.4.1, 10.64.4.2", "[\"10.64.4.1\",\"10.64.4.2\"]");
    is("len8(ipv4+)+", "040a400401", "[[10.64.4.1]]", "[[\"10.64.4.1\"]]");
    is("len8(ipv4+)+", "040a400401040a400402", "[10.64.4.1], [10.64.4.2]", "[[\"10.64.4.1\"],[\"10.64.4.2\"]]");
    is("{ a: u8, b: ipv4+ }", "010a400401", "{ a = 1, b = [10.64.4.1] }", "{\"a\":1,\"b\":[\"10.64.4.1\"]}");
    is("{ a: u8, b: u16? }", "01", "{ a = 1 }", "{\"a\":1}");
    is("{ a: u8 }+", "0102", "{ a = 1 }, { a = 2 }", "[{\"a\":1},{\"a\":2}]");
}

#[test]
fn text_that_would_be_taken_for_something_else_stands_in_quotes() {
    is("len8(text)+", "03612c62", "\"a,b\"", "[\"a,b\"]");
    is("len8(text)+", "0361225c", "\"a\\\"\\\\\"", "[\"a\\\"\\\\\"]");
    is("len8(text)+", "026120", "\"a \"", "[\"a \"]");
    is("len8(text*)+", "00", "\"\"", "[\"\"]");
    is("{ a: text }", "613d62", "{ a = \"a=b\" }", "{\"a\":\"a=b\"}");
    // Alone, text is what it is.
    is("text", "612c62", "a,b", "\"a,b\"");
}

#[test]
fn octets_that_are_no_text_are_shown_as_octets() {
    is("utf8", "61ff", "{ hex = 61:ff }", "{\"hex\":\"61ff\"}");
    is("bytes*", "", "", "\"\"");
    is("{ a: bytes* }", "", "{ a = \"\" }", "{\"a\":\"\"}");
    // NUL at the end is not part of the text (RFC 2132, section 2).
    is("text", "616200", "ab", "\"ab\"");
}

#[test]
fn nested_options_keep_their_order_and_their_doubles() {
    is(
        "options(relay-agent)",
        "0201aa 010170",
        "{ agent-remote-id = aa, agent-circuit-id = 70 }",
        r#"[{"code":2,"name":"agent-remote-id","value":"aa"},{"code":1,"name":"agent-circuit-id","value":"70"}]"#,
    );
    is(
        "options(relay-agent)",
        "010170 010171",
        "{ agent-circuit-id = 70, agent-circuit-id = 71 }",
        r#"[{"code":1,"name":"agent-circuit-id","value":"70"},{"code":1,"name":"agent-circuit-id","value":"71"}]"#,
    );
    is("options(relay-agent)", "c80105", "{ 200 = 05 }", r#"[{"code":200,"value":"05"}]"#);
    let unnamed = SubOption { code: 9, name: None, value: Value::Empty };
    assert_eq!(unnamed.key(), "9");
    assert_eq!(Value::Options(vec![]).to_string(), "{ }");
}

#[test]
fn durations_are_shown_in_the_largest_units_that_fit() {
    for (seconds, text) in [
        (0, "0s"),
        (59, "59s"),
        (60, "1m"),
        (3600, "1h"),
        (27_000, "7h30m"),
        (86_400, "1d"),
        (129_600, "1d12h"),
        (90_061, "1d1h1m1s"),
        (u32::MAX, "infinite"),
    ] {
        assert_eq!(duration_text(seconds), text);
        assert_eq!(duration(text), Ok(seconds));
    }
}

#[test]
fn leaves_come_in_the_order_of_the_octets_with_the_names_around_them() {
    let layout = Layout::parse("{ kind: u8, hosts: { name: text{2}, address: ipv4 }+ }").unwrap();
    let (value, _) = layout.decode(&NoCodebook, &hex::parse("07 6162 0a400401 6364 0a400402").unwrap());
    let value = value.unwrap();
    let mut leaves = Vec::new();
    value.leaves(&mut |leaf, name| leaves.push(format!("{} {leaf}", name.unwrap_or_default())));
    assert_eq!(leaves, ["kind 7", "name ab", "address 10.64.4.1", "name cd", "address 10.64.4.2"]);
}

#[test]
fn lengths_follow_from_the_layout() {
    let codebook = Codebook::standard();
    let lengths = |text: &str| Layout::parse_with(text, codebook).unwrap().lengths();
    assert_eq!(lengths("u8"), (1, Some(1)));
    assert_eq!(lengths("ipv4+"), (4, None));
    assert_eq!(lengths("ipv4{2..3}"), (8, Some(12)));
    assert_eq!(lengths("{ a: u8, b: ipv4? }"), (1, Some(5)));
    assert_eq!(lengths("len8(text)"), (2, Some(256)));
    assert_eq!(lengths("len8+2(bytes)"), (2, Some(254)));
    assert_eq!(lengths("len16(u8)"), (3, Some(3)));
    assert_eq!(lengths("options(relay-agent)"), (2, None));
    assert_eq!(lengths("options(service-parameters)*"), (0, None));
    assert_eq!(lengths("{ t: u8, v: by t { 0 => u8, 1 => ipv4 } }"), (2, Some(5)));
    assert_eq!(lengths("bits { a: 12, b: 4 }"), (2, Some(2)));
    assert_eq!(lengths("route4+"), (5, None));
    assert_eq!(lengths("duid"), (3, Some(130)));
}
