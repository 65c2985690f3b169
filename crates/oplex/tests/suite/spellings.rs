//! The ways a person may write a value, and what is said about those that are none.

use oplex::codebook::Codebook;
use oplex::layout::{Input, InputKind, Key, Layout, ValueErrors};
use oplex::octets::hex;

fn read(layout: &str, written: &Input) -> Result<String, ValueErrors> {
    let codebook = Codebook::standard();
    let layout = Layout::parse_with(layout, codebook).unwrap();
    let value = layout.read(codebook, written)?.value;
    Ok(hex::plain(&layout.encode(codebook, &value).unwrap().octets))
}

/// All of these texts are the same octets.
#[track_caller]
fn same(layout: &str, octets: &str, texts: &[&str]) {
    for text in texts {
        assert_eq!(read(layout, &Input::from_text(text)).as_deref(), Ok(octets), "{layout} {text}");
    }
}

#[track_caller]
fn refused(layout: &str, text: &str, message: &str) {
    let misfits = read(layout, &Input::from_text(text)).unwrap_err();
    assert_eq!(misfits[0].to_string(), message, "{layout} {text}");
}

/// The same from JSON.
#[track_caller]
fn json(layout: &str, text: &str, octets: Result<&str, &str>) {
    let read = read(layout, &serde_json::from_str(text).unwrap());
    let read = read.map_err(|misfits| misfits[0].to_string());
    assert_eq!(read.as_deref().map_err(String::as_str), octets, "{layout} {text}");
}

#[test]
fn numbers() {
    same("u16", "05dc", &["1500", "0x5dc", "0X05DC"]);
    same("i32", "fffff1f0", &["-3600"]);
    refused("u16", "1.5", "`1.5` is not a whole number");
    refused("u16", "+5", "`+5` is not a whole number");
    refused("u16", "", "`` is not a whole number");
    refused("u16", "65536", "65536 is outside 0 to 65535");
    refused("u8", "-1", "-1 is outside 0 to 255");
    refused("i8", "128", "128 is outside -128 to 127");
    json("u16", "1500", Ok("05dc"));
    json("u16", "\"1500\"", Ok("05dc"));
    json("u16", "1.5", Err("the number 1.5 is not allowed here; write a whole number"));
    json("u16", "true", Err("`true` is not allowed here; write a whole number"));
    json("u16", "[1, 2]", Err("a list is not allowed here; write a whole number"));
}

#[test]
fn switches() {
    same("bool", "01", &["true", "on", "yes", "1", "True"]);
    same("bool", "00", &["false", "off", "no", "0"]);
    refused("bool", "maybe", "`maybe` is neither `true` nor `false`");
    json("bool", "true", Ok("01"));
    json("bool", "1", Err("the number 1 is not allowed here; write `true` or `false`"));
}

#[test]
fn durations() {
    same("seconds", "00007080", &["28800", "8h", "8 hours", "7h60m", "480m", "28800s"]);
    same("seconds", "0001fa40", &["1d12h", "36h", "1d 12h", "1 day 12 hours"]);
    same("seconds", "ffffffff", &["infinite", "4294967295"]);
    same("seconds", "00093a80", &["1w", "7d"]);
    for text in ["soon", "", "h", "8x", "1h-", "8h and a bit"] {
        let message = "is not a duration; write seconds (`28800`) or a duration such as `8h`, `1d12h`, `infinite`";
        refused("seconds", text, &format!("`{text}` {message}"));
    }
    refused("seconds", "50000d", "4320000000 seconds are more than 4294967294, the most that fits; write `infinite`");
    refused(
        "seconds",
        "99999999999999999999d",
        "8639999999999999999913600 seconds are more than 4294967294, the most that fits; write `infinite`",
    );
    json("seconds", "28800", Ok("00007080"));
    json("seconds", "\"8h\"", Ok("00007080"));
}

#[test]
fn addresses() {
    same("ipv4", "0a400401", &["10.64.4.1"]);
    same("ipv6", "20010db8000000000000000000000053", &["2001:db8::53", "2001:DB8:0:0:0:0:0:53"]);
    same("netmask", "fffffe00", &["255.255.254.0", "/23"]);
    same("netmask", "00000000", &["/0"]);
    same(
        "mac",
        "02005e005311",
        &["02:00:5e:00:53:11", "02-00-5E-00-53-11", "0200.5e00.5311", "02005e005311", "2:0:5e:0:53:11"],
    );
    refused("ipv4", "10.64.4.0/23", "`10.64.4.0/23` is a network, not an address; remove the slash and the length");
    refused("ipv4", "10.64.4.1.9", "`10.64.4.1.9` is not an IPv4 address: it has 5 of 4 numbers");
    refused("ipv4", "gateway", "`gateway` is not an IPv4 address; write it like `10.64.4.1`");
    refused("ipv6", "10.64.4.1", "`10.64.4.1` is not an IPv6 address; write it like `2001:db8:64::53`");
    refused("netmask", "/33", "`/33` is not a prefix length; `/0` to `/32` are");
    refused("netmask", "23", "`23` is not a mask; write it like `255.255.254.0` or `/23`");
    refused("mac", "02:00:5e", "`02:00:5e` is not a hardware address of six octets; write it like `02:00:5e:00:53:11`");
    json("ipv4", "1", Err("the number 1 is not allowed here; write an address in quotes, \"10.64.4.1\""));
}

#[test]
fn routes_and_prefixes() {
    same("route4", "000a400401", &["0.0.0.0/0 via 10.64.4.1", "default via 10.64.4.1"]);
    same("route4", "150a400800000000", &["10.64.8.0/21 on-link", "10.64.8.0/21 via 0.0.0.0"]);
    refused("route4", "10.64.8.0/21", "`10.64.8.0/21` names no router; write it like `10.64.8.0/21 via 10.64.4.1`");
    refused("route4", "10.64.8.0/33 via 10.64.4.1", "`/33` is not a prefix length; `/0` to `/32` are");
    same("prefix6", "3020010db80064", &["2001:db8:64::/48"]);
    refused("prefix6", "2001:db8::", "`2001:db8::` is not an IPv6 prefix; write it like `2001:db8:64::/48`");
    refused("prefix6", "2001:db8::/129", "`2001:db8::/129` is not an IPv6 prefix; write it like `2001:db8:64::/48`");
}

#[test]
fn octets_and_identifiers() {
    same(
        "bytes",
        "0a400401",
        &[
            "0a400401",
            "0a:40:04:01",
            "0a 40 04 01",
            "0x0a400401",
            "0A-40-04-01",
            "0x0a, 0x40, 0x04, 0x01",
            "\\x0a\\x40\\x04\\x01",
        ],
    );
    same(
        "uuid",
        "123e4567e89b12d3a456426614174000",
        &[
            "123e4567-e89b-12d3-a456-426614174000",
            "{123E4567-E89B-12D3-A456-426614174000}",
            "123e4567e89b12d3a456426614174000",
        ],
    );
    same("duid", "0003000102005e005311", &["00:03:00:01:02:00:5e:00:53:11"]);
    refused(
        "uuid",
        "123e",
        "`123e` is not a UUID of 32 hexadecimal digits, like `123e4567-e89b-12d3-a456-426614174000`",
    );
    refused(
        "duid",
        "dome",
        "octets are written in hexadecimal, like `0a:40:04:01`: 'o' at character 2 is not a hexadecimal digit (0-9, a-f)",
    );
    json("bytes", "{ \"text\": \"dome\" }", Ok("646f6d65"));
    json("bytes", "5", Err("the number 5 is not allowed here; write octets in quotes, \"0a:40:04:01\""));
}

#[test]
fn names() {
    same("name", "047461726e076578616d706c6500", &["tarn.example", "tarn.example."]);
    same("name", "00", &["."]);
    same("name", "03612e6200", &["a\\.b", "a\\046b"]);
    same("partial-name", "047461726e", &["tarn"]);
    same("partial-name", "047461726e00", &["tarn."]);
    same("compressed-names", "0161000162c000", &["a, b.a"]);
    same("lenient-names", "01610001620161 00".replace(' ', "").as_str(), &["a, b.a"]);
    refused("name", "", "an empty name; the root of all names is written `.`");
    refused("name", "a..b", "a name with nothing between two dots");
    refused("name", "a\\9", "a backslash must be followed by a character or by three digits up to 255");
    refused(
        "name",
        &"a".repeat(64),
        "a label of 64 octets; between two dots a name may have 63 at most (RFC 1035, section 2.3.4)",
    );
    refused(
        "name",
        &vec!["a".repeat(60); 5].join("."),
        "the name takes 306 octets; 255 is the most (RFC 1035, section 2.3.4)",
    );
}

#[test]
fn named_numbers_and_flags() {
    same("u8 of message-type", "05", &["DHCPACK", "dhcpack", "5", "0x05"]);
    same("u8 flags { s = 1, o = 2, e = 4 }", "05", &["s+e", "e s", "s,e", "s|e", "5", "e+1"]);
    same("u8 flags { s = 1 }", "00", &["none", "", "0"]);
    refused(
        "u8 of { off = 0, on = 1 }",
        "onn",
        "unknown value `onn`; expected one of off (0), on (1); did you mean `on`?",
    );
    refused("u8 flags { s = 1 }", "s+x", "unknown value `x`; expected one of s (1)");
    json("u8 flags { s = 1, o = 2 }", "[\"s\", \"o\"]", Ok("03"));
    json("u8 of { off = 0, on = 1 }", "1", Ok("01"));
}

#[test]
fn lists() {
    same(
        "ipv4+",
        "0a4000350a400036",
        &[
            "10.64.0.53, 10.64.0.54",
            "10.64.0.53,10.64.0.54",
            "[10.64.0.53, 10.64.0.54]",
            " 10.64.0.53 , 10.64.0.54 ",
            "10.64.0.53, 10.64.0.54,",
        ],
    );
    same("len8(text)+", "03612c620163", &["\"a,b\", c", "[\"a,b\", \"c\"]"]);
    same("len8(ipv4+)+", "040a400054080a4000550a400056", &["[10.64.0.84], [10.64.0.85, 10.64.0.86]"]);
    refused(
        "ipv4+",
        "10.64.0.53 10.64.0.54",
        "`10.64.0.53 10.64.0.54` is not an IPv4 address; write it like `10.64.4.1`",
    );
    refused("ipv4+", "[10.64.0.53", "this `[` is never closed");
    refused("ipv4+", "\"10.64.0.53", "this quote is never closed");
    refused("ipv4+", "[10.64.0.53] 9", "a comma must stand between two values");
    json("ipv4+", "\"10.64.0.53\"", Ok("0a400035"));
    json(
        "ipv4+",
        "[\"10.64.0.53\", 5]",
        Err("the number 5 is not allowed here; write an address in quotes, \"10.64.4.1\""),
    );
}

#[test]
fn records() {
    let layout = "{ a: u8, b: ipv4, c: text? }";
    same(layout, "010a400035", &["{ a = 1, b = 10.64.0.53 }", "{ b = 10.64.0.53, a = 1 }", "{a=1,b=10.64.0.53,}"]);
    same(layout, "010a40003564", &["{ a = 1, b = 10.64.0.53, c = d }"]);
    refused(layout, "{ a = 1 }", "the field `b` is missing");
    refused(layout, "{ a = 1, b = 10.64.0.53, d = 5 }", "unknown field `d`; expected one of a, b, c");
    refused(layout, "{ a = 1, a = 2, b = 10.64.0.53 }", "`a` is already given");
    refused(layout, "{ a, b }", "expected `{ name = value, … }`");
    refused(layout, "{ a = 1", "this `{` is never closed");
    refused(layout, "1, 10.64.0.53", "expected a table, `{ field = value, … }`");
    refused(layout, "10.64.0.53", "the text \"10.64.0.53\" is not allowed here; write a table, `{ field = value, … }`");
    json(layout, "{ \"a\": 1, \"b\": \"10.64.0.53\" }", Ok("010a400035"));
}

#[test]
fn choices_follow_the_field_that_decides() {
    let layout = "{ encoding: u8 of { names = 0, addresses = 1 }, servers: by encoding { 0 => name+, 1 => ipv4+ } }";
    same(
        layout,
        "010a400046",
        &["{ encoding = addresses, servers = 10.64.0.70 }", "{ servers = 10.64.0.70, encoding = 1 }"],
    );
    same(layout, "00016100", &["{ encoding = names, servers = a }"]);
    refused(layout, "{ encoding = addresses, servers = a }", "`a` is not an IPv4 address; write it like `10.64.4.1`");
    refused("{ t: u8, v: by t { 0 => u8 } }", "{ t = 1, v = 1 }", "nothing can stand here while `t` is 1");
    same("{ t: u8, v: by t { 0 => empty, else => bytes } }", "00", &["{ t = 0 }", "{ t = 0, v = true }"]);
}

#[test]
fn bit_fields() {
    let layout = "bits { reserved: 2, level: 6 of { low = 1, high = 2 }, height: s12.4 }";
    same(layout, "020018", &["{ level = high, height = 1.5 }", "{ level = 2, height = 1.5 }"]);
    same(layout, "01fff0", &["{ level = low, height = -1 }"]);
    refused(layout, "{ level = high }", "the field `height` is missing");
    refused(layout, "{ level = high, height = 2048 }", "2048 does not fit in this field of 16 bits");
    refused(layout, "{ level = high, height = tall }", "`tall` is not a number");
    refused("bits { a: 4, b: 4 }", "{ a = 1.5, b = 0 }", "1.5 does not fit in this field of 4 bits");
}

#[test]
fn nested_options() {
    let layout = "options(relay-agent)";
    same(layout, "01027037", &["{ agent-circuit-id = 70:37 }", "{ 1 = 7037 }"]);
    same(layout, "c8027037", &["{ 200 = 70:37 }"]);
    same(layout, "010170010171", &["{ 1 = 70, 1 = 71 }"]);
    refused(
        layout,
        "{ agent-circiut-id = 70 }",
        "unknown option here `agent-circiut-id`; expected one of agent-circuit-id, agent-remote-id, docsis-device-class, link-selection, subscriber-id, radius-attributes, authentication, vendor-specific-information, relay-agent-flags, server-identifier-override, relay-agent-identifier, access-technology-type, access-network-name, access-point-name, access-point-bssid, operator-identifier, operator-realm, relay-source-port, virtual-subnet-selection, virtual-subnet-selection-control; did you mean `agent-circuit-id`?",
    );
    json(layout, "[{ \"1\": \"70\" }, { \"1\": \"71\" }]", Ok("010170010171"));
    json(layout, "[1]", Err("expected a table of options, `{ name = value }`"));
}

#[test]
fn key_value_text() {
    let layout = "pairs(\",\" \"=\") { SERVER!: ipv4, PORT: u16 in 1.. }";
    let octets = hex::plain(b"SERVER=10.64.0.70,PORT=5061");
    same(layout, &octets, &["SERVER=10.64.0.70,PORT=5061", "{ SERVER = 10.64.0.70, PORT = 5061 }"]);
    refused(layout, "PORT=5061", "the key `SERVER` must be given");
    refused(
        layout,
        "SERVER=10.64.0.70,PROT=5061",
        "unknown key `PROT`; expected one of SERVER, PORT; did you mean `PORT`?",
    );
    refused(layout, "SERVER", "no value is given for this key; write `KEY=value`");
    refused(
        "pairs(\",\" \"=\") { NAME: text }",
        "{ NAME = \"a,b\" }",
        "\",\" and \"=\" separate pairs here and cannot stand in a value",
    );
    json(layout, "{ \"SERVER\": \"10.64.0.70\", \"PORT\": 5061 }", Ok(&octets));
}

/// What TOML gives has places; what is made by a program has none and is read the same.
#[test]
fn values_made_by_programs() {
    let text = |text: &str| Input { kind: InputKind::Text { text: text.to_owned(), start: None }, span: 0..0 };
    let key = |name: &str| Key { name: name.to_owned(), span: 0..0 };
    let table = Input {
        kind: InputKind::Table(vec![(key("destination"), text("10.64.8.0")), (key("router"), text("10.64.4.1"))]),
        span: 0..0,
    };
    assert_eq!(read("{ destination: ipv4, router: ipv4 }+", &table).as_deref(), Ok("0a4008000a400401"));
    assert_eq!(read("ipv4", &Input::from_octets(&[10, 64, 4, 1])).as_deref(), Ok("0a400401"));
}
