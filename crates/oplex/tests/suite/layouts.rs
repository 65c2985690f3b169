//! The layout language itself.

use oplex::codebook::Codebook;
use oplex::layout::{Input, Layout, NoCodebook};
use proptest::prelude::proptest;

#[test]
fn layouts_print_as_text_that_parses_to_the_same() {
    let codebook = Codebook::standard();
    for option in codebook.definitions() {
        let layout = codebook.layout(option);
        assert_eq!(Layout::parse_with(&layout.to_string(), codebook).as_ref(), Ok(layout), "{}", option.layout_text);
    }
}

#[test]
fn errors_point_at_the_characters_and_say_what_to_write() {
    let cases = [
        ("ip4+", 0..3, "unknown layout `ip4`; did you mean `ipv4`?"),
        ("{ a: u8, a: u8 }", 9..10, "the field `a` is already there"),
        ("u8 in 5..2", 6..10, "no number fits this range; write the smaller end first"),
        ("bits { a: 3 }", 5..13, "the fields are 3 bits together; they must fill 1 to 16 whole octets"),
        ("{ a: u8, b: by c { 0 => u8 } }", 15..16, "there is no earlier field `c`"),
        ("ipv4+ u8", 6..8, "unexpected `u8` after the end of the layout"),
        ("len8(u8", 7..7, "expected `)`, found the end of the layout"),
        ("u8 of colours", 6..13, "unknown enumeration `colours`"),
        ("\u{1f441}", 0..4, "unexpected '👁' in a layout"),
        ("pairs(\",\" \"=\") { KEY: bytes }", 22..27, "`bytes` has no form as the value of a KEY=value text"),
    ];
    for (text, span, message) in cases {
        let error = Layout::parse(text).unwrap_err();
        assert_eq!((error.span, error.message.as_str()), (span, message), "{text}");
    }
}

#[test]
fn layouts_under_which_octets_could_be_read_in_two_ways_are_refused() {
    for text in ["{ a: ipv4+, b: u8 }", "empty*", "text*?", "{ a: u8?, b: u8 }", "compressed-names+"] {
        let error = Layout::parse(text);
        assert!(error.is_err(), "{text}: {error:?}");
    }
    for text in ["{ a: u8, b: ipv4+ }", "{ a: u8?, b: u16? }", "len8(bytes*)*", "{ a: ipv4{2}, b: text }"] {
        assert!(Layout::parse(text).is_ok(), "{text}");
    }
}

/// Found by fuzzing: counts multiply beyond any number.
#[test]
fn counts_of_counts_of_counts_are_never_reached() {
    let text = format!("u8{}", "{99999999999}".repeat(6));
    let layout = Layout::parse(&text).unwrap();
    assert_eq!(layout.lengths(), (usize::MAX, Some(usize::MAX)));
    assert!(layout.faults(&NoCodebook, &[1]).iter().all(|fault| fault.octets == (0..1)));
    let option = Layout::parse("len8(bytes{18446744073709551615..})").unwrap();
    assert_eq!(option.lengths().0, usize::MAX);
    assert!(!option.faults(&NoCodebook, &[1, 1]).is_empty());
    assert!(Layout::parse("u8{18446744073709551616}").unwrap_err().message.contains("is too large"));
    // Also found by fuzzing: signs after signs nest, too.
    for (deep, says) in
        [(40, "nested 24 deep"), (5_000, "nested 24 deep"), (100_000, "a layout is up to 16384 characters long")]
    {
        assert!(Layout::parse(&format!("u8{}", "{8}".repeat(deep))).unwrap_err().message.contains(says));
    }
    for (deep, says) in
        [(30, "nested 24 deep"), (2_000, "nested 24 deep"), (100_000, "a layout is up to 16384 characters long")]
    {
        let text = format!("{}u8{}", "len8(".repeat(deep), ")".repeat(deep));
        assert!(Layout::parse(&text).unwrap_err().message.contains(says));
    }
    let deepest = format!("u8{}", "{1}".repeat(23));
    let layout = Layout::parse(&deepest).unwrap();
    assert_eq!(Layout::parse(&layout.to_string()), Ok(layout));
    assert!(Layout::parse("len8+300(bytes)").unwrap_err().message.contains("64 is the most"));
}

#[test]
fn values_of_the_wrong_form_are_refused_with_their_place() {
    let cases = [
        ("ipv4+", "10.64.0.53, 10.64.0", 12..19, "`10.64.0` is not an IPv4 address: it has 3 of 4 numbers"),
        ("u16", "70000", 0..5, "70000 is outside 0 to 65535"),
        ("{ a: u8, b: u8 }", "{ a = 1, c = 2 }", 9..10, "unknown field `c`; expected one of a, b"),
        (
            "seconds",
            "soon",
            0..4,
            "`soon` is not a duration; write seconds (`28800`) or a duration such as `8h`, `1d12h`, `infinite`",
        ),
        ("name", "a..b", 2..2, "a name with nothing between two dots"),
        (
            "bytes",
            "0g",
            1..2,
            "octets are written in hexadecimal, like `0a:40:04:01`: 'g' at character 2 is not a hexadecimal digit (0-9, a-f); for the characters themselves write `{ text = \"…\" }`",
        ),
        ("ipv4+", "[10.64.0.53", 0..11, "this `[` is never closed"),
    ];
    for (layout, text, span, message) in cases {
        let misfits = Layout::parse(layout).unwrap().read(&NoCodebook, &Input::from_text(text)).unwrap_err();
        assert_eq!(misfits[0].message, message);
        assert!(misfits[0].span == span || span.is_empty(), "{text}: {:?}", misfits[0].span);
    }
}

#[test]
fn raw_octets_stand_for_any_value_and_are_still_checked() {
    let layout = Layout::parse("ipv4+").unwrap();
    let read = |text: &str| layout.read(&NoCodebook, &Input::from_text(text)).unwrap().value;
    let octets = |text: &str| layout.encode(&NoCodebook, &read(text)).unwrap().octets;
    assert_eq!(octets("{ hex = 0a400035 }"), [10, 64, 0, 53]);
    assert_eq!(layout.faults(&NoCodebook, &octets("{ hex = 0a4000 }"))[0].octets, 0..3);
    for layout in
        ["u32", "text", "{ a: u16, b: u16 }", "bits { a: 4, b: 28 }", "pairs(\",\" \"=\") { a: ipv4 }", "name", "u8{4}"]
    {
        let layout = Layout::parse(layout).unwrap();
        let reading = layout.read(&NoCodebook, &Input::from_text("{ hex = 61:3d:31:00 }")).unwrap();
        assert_eq!(layout.encode(&NoCodebook, &reading.value).unwrap().octets, [0x61, 0x3d, 0x31, 0], "{layout}");
    }
    let text = Layout::parse("text").unwrap();
    let (value, _) = text.decode(&NoCodebook, b"{ hex = 00 }");
    assert_eq!(value.unwrap().to_string(), "{ hex = 7b:20:68:65:78:20:3d:20:30:30:20:7d }");
}

#[test]
fn signs_between_pairs_may_be_control_characters() {
    let layout = Layout::parse(r#"pairs("\n" "\t") { a: u8, "b\"\\": u8 }"#).unwrap();
    let value = layout.read(&NoCodebook, &Input::from_text("{ a = 1, \"b\\\"\\\\\" = 2 }")).unwrap().value;
    assert_eq!(layout.encode(&NoCodebook, &value).unwrap().octets, b"a\t1\nb\"\\\t2");
    assert_eq!(layout.to_string(), r#"pairs("\n" "\t") { a: u8, "b\"\\": u8 }"#);
    let odd = Layout::parse("pairs(\"\u{1}\\0\" \"=\") { a: u8 }").unwrap();
    assert_eq!(Layout::parse(&odd.to_string()), Ok(odd));
}

proptest! {
    #[test]
    fn any_text_is_a_layout_or_an_error_with_a_place_in_it(text in "[a-z0-9{}()+*?,:.= \"]{0,40}") {
        match Layout::parse_with(&text, Codebook::standard()) {
            Ok(layout) => assert_eq!(Layout::parse_with(&layout.to_string(), Codebook::standard()), Ok(layout)),
            Err(error) => assert!(error.span.start <= error.span.end && error.span.end <= text.len(), "{error:?}"),
        }
    }

    #[test]
    fn any_text_is_a_value_or_a_misfit_with_a_place_in_it(text in "\\PC{0,40}") {
        for option in Codebook::standard().definitions() {
            if let Err(misfits) = Codebook::standard().encode(option, &Input::from_text(&text)) {
                assert!(!misfits.is_empty());
                for misfit in misfits {
                    assert!(text.get(misfit.span.clone()).is_some(), "{}: {misfit:?}", option.label());
                }
            }
        }
    }
}
