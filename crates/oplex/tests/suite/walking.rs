//! What a reader of the walk is sent, event by event.

use std::fmt::Write;
use std::ops::Range;
use std::sync::LazyLock;

use oplex::codebook::{Codebook, Definition};
use oplex::layout::{Fault, Framing, Input, Layout, Scalar, ScalarForm, Shape, Visitor};
use oplex::octets::hex;
use proptest::collection::vec;
use proptest::prelude::*;
use proptest::sample::Index;

/// Writes down every event: `(` and `)` around parts, `name:` before a field, `[octets]` of everything that has some.
#[derive(Default)]
struct Scribe(String);

impl Scribe {
    fn note(&mut self, text: impl std::fmt::Display) {
        let gap = if self.0.is_empty() { "" } else { " " };
        let _ = write!(self.0, "{gap}{text}");
    }
}

impl<'l, 'o> Visitor<'l, 'o> for Scribe {
    fn begin(&mut self, shape: Shape<'l>, _: usize) {
        match shape {
            Shape::Option { code, name, .. } => self.note(format_args!("option-{code}-{}(", name.unwrap_or("?"))),
            shape => self.note(format_args!("{}(", format!("{shape:?}").to_lowercase())),
        }
    }

    fn end(&mut self, at: usize) {
        self.note(format_args!(")@{at}"));
    }

    fn field(&mut self, name: &'l str) {
        self.note(format_args!("{name}:"));
    }

    fn key(&mut self, name: &'o str, octets: Range<usize>) {
        self.note(format_args!("key-{name}[{octets:?}]"));
    }

    fn scalar(&mut self, form: ScalarForm<'l>, _: Scalar<'o>, octets: Range<usize>) {
        let known = if matches!(form, ScalarForm::Unknown) { "unknown" } else { "scalar" };
        self.note(format_args!("{known}[{octets:?}]"));
    }

    fn frame(&mut self, frame: Framing, octets: Range<usize>) {
        self.note(format_args!("{}[{octets:?}]", format!("{frame:?}").to_lowercase()));
    }

    fn fault(&mut self, fault: Fault) {
        self.note(format_args!("FAULT[{:?}]", fault.octets));
    }
}

#[track_caller]
fn tells(layout: &str, octets: &str, events: &str) {
    let codebook = Codebook::standard();
    let layout = Layout::parse_with(layout, codebook).unwrap();
    let octets = hex::parse(octets).unwrap();
    let mut scribe = Scribe::default();
    layout.walk(codebook, &octets, &mut scribe);
    assert_eq!(scribe.0, events.split_whitespace().collect::<Vec<_>>().join(" "), "{layout}");
}

#[test]
fn parts_begin_and_end_around_what_is_in_them() {
    tells("u8", "01", "scalar[0..1]");
    tells("ipv4+", "0a4004010a400402", "list( scalar[0..4] scalar[4..8] )@8");
    tells("{ a: u8, b: u16 }", "010002", "record( a: scalar[0..1] b: scalar[1..3] )@3");
    tells("{ a: u8, b: u16? }", "01", "record( a: scalar[0..1] )@1");
    tells("bits { a: 4, b: 12 }", "1234", "bits( a: scalar[0..1] b: scalar[0..2] )@2");
    tells("len8(text)+", "01610162", "list( length(1)[0..1] scalar[1..2] length(1)[2..3] scalar[3..4] )@4");
    tells("compressed-names", "016100c000", "list( scalar[0..3] scalar[3..5] )@5");
}

#[test]
fn options_have_a_code_a_length_and_what_they_hold() {
    tells(
        "options(relay-agent)",
        "010170 c80109",
        "options(
            option-1-agent-circuit-id( code(1)[0..1] length(1)[1..2] scalar[2..3] )@3
            option-200-?( code(200)[3..4] length(1)[4..5] unknown[5..6] )@6
        )@6",
    );
    tells(
        "options(service-parameters)",
        "0003 0002 0355",
        "options( option-3-port( code(3)[0..2] length(2)[2..4] scalar[4..6] )@6 )@6",
    );
}

#[test]
fn keys_and_signs_have_their_octets_too() {
    tells("pairs(\",\" \"=\") { A: u8 }", &hex::plain(b"A=7"), "pairs( key-A[0..1] sign[1..2] scalar[2..3] )@3");
    tells(
        "pairs(\", \" \"==\") { A: u8, .. }",
        &hex::plain(b"A==7, B==x"),
        "pairs( key-A[0..1] sign[1..3] scalar[3..4] sign[4..6] key-B[6..7] sign[7..9] unknown[9..10] )@10",
    );
}

#[test]
fn parts_end_after_a_fault_too() {
    tells("ipv4+", "0a4004010a", "list( scalar[0..4] FAULT[4..5] )@5");
    tells("{ a: u8, b: { c: u16 } }", "0100", "record( a: scalar[0..1] b: record( c: FAULT[1..2] )@2 )@2");
    tells("u8", "0102", "scalar[0..1] FAULT[1..2]");
    tells("u8 in 5..", "01", "FAULT[0..1] scalar[0..1]");
    tells(
        "options(relay-agent)",
        "0105",
        "options( option-1-agent-circuit-id( code(1)[0..1] length(5)[1..2] FAULT[1..2] scalar[2..2] )@2 )@2",
    );
    tells("len8(u16)", "0500 01", "length(5)[0..1] FAULT[0..1] scalar[1..3]");
    tells("name", "0161", "FAULT[0..2]");
}

/// However the octets are broken, what begins also ends.
#[test]
fn every_part_that_begins_ends() {
    let codebook = Codebook::standard();
    for option in codebook.definitions() {
        let Some(example) = &option.example else { continue };
        let whole = codebook.encode(option, &Input::from_text(example)).unwrap().octets;
        for length in 0..whole.len() {
            let mut scribe = Scribe::default();
            codebook.layout(option).walk(codebook, &whole[..length], &mut scribe);
            let count = |sign: char| scribe.0.matches(sign).count();
            // Frames are written with brackets of their own, in pairs.
            assert_eq!(count('('), count(')'), "{}: {}", option.label(), scribe.0);
        }
    }
}

/// Where single things begin, in the order in which they are met.
#[derive(Default)]
struct Starts(Vec<usize>);

impl<'l, 'o> Visitor<'l, 'o> for Starts {
    fn scalar(&mut self, _: ScalarForm<'l>, _: Scalar<'o>, octets: Range<usize>) {
        self.0.push(octets.start);
    }

    fn fault(&mut self, _: Fault) {}
}

/// Every option of the standard books that has an example, and the example's octets.
static EXAMPLES: LazyLock<Vec<(&Definition, Vec<u8>)>> = LazyLock::new(|| {
    let codebook = Codebook::standard();
    let encoded = |definition: &'static Definition| {
        let example = Input::from_text(definition.example.as_deref()?);
        Some((definition, codebook.encode(definition, &example).ok()?.octets))
    };
    codebook.definitions().filter_map(encoded).collect()
});

/// What is asked first is whether octets are plainly right; it must be so for what the complete walk finds nothing in.
#[test]
fn examples_fit() {
    assert!(EXAMPLES.len() > 300, "{}", EXAMPLES.len());
    let codebook = Codebook::standard();
    for (definition, octets) in &*EXAMPLES {
        let layout = codebook.layout(definition);
        assert_eq!(layout.fits(codebook, octets), layout.faults(codebook, octets).is_empty(), "{}", definition.label());
    }
}

/// Every kind of part, with octets that fit and octets that do not; a `~` stands before those that fit, though not plainly.
#[test]
fn parts_fit_or_do_not() {
    let cases = [
        ("u8 in 1..=3", "01 03", "00 04"),
        ("u16 in 68..", "0044 ffff", "0043"),
        ("i8 in -1..=1", "~ff ~01", "fe"),
        ("u8 of { off = 0, on = 1 }", "00 01", "02"),
        ("u8 flags { s = 1, e = 4 }", "00 05", "02"),
        ("u8 of client-id-type", "01 ff ~fe", "0100"),
        ("bool", "00 01", "02"),
        ("seconds in 60..=86400", "0000003c 00015180", "0000003b 00015181"),
        ("netmask", "00000000 fffffe00 ffffffff", "fffeff00 00ffffff"),
        ("mac", "02005e005311", "02005e0053 02005e00531100"),
        ("guid", "33221100554477668899aabbccddeeff", "3322"),
        ("duid", "000301", "0003"),
        ("text", "646f6d65 7e", "646f6d6500 0a 7f 80 c3a9"),
        ("utf8", "646f6d65 ~c3a9", "c3 0a"),
        ("text{2..3}", "6161 616161", "61 61616161"),
        ("uri", "687474703a2f2f612f ~75726e3a61", "6120 687474703a2f2f"),
        ("name", "00 0161016200", "0161 c000 40 026120"),
        ("compressed-names", "016100 016101620000 ~016100c000", "c000 0161"),
        ("partial-name", "~0161 ~016100 ~", "016120 02"),
        ("{ length: u8 in ..=64, rest: ipv4 as any }", "400a400001", "410a400001 400a4000"),
        ("{ a: u16, b: u8? }", "0001 000102", "00 00010203"),
        (
            "{ kind: u8, value: by kind { 0 => ipv4, 1 => { length: u16 }, else => bytes } }",
            "000a400001 010001 0201",
            "000a 0100 01000102",
        ),
        ("len8(text)", "0161 026162", "0261 016162 00"),
        ("padded8(name+)", "0474617266000000 0161016200000000", "047461726600 0474617266000001"),
        ("{ none: zeros{2}, one: u8 }", "000001", "000101 0000"),
        ("route4+", "000a400401 180a40080a400401", "210a4008000a400401 170a40090a400401 18"),
        ("prefix6", "00 3020010db80064", "81 2f20010db80065 30"),
        ("bits { reserved: 6, preference: 2 }", "~03", "04"),
        ("options(v6)*", "~ 000d00020000 fde8000101", "000d0002 000d000100 00"),
    ];
    let (codebook, mut wrong_ones) = (Codebook::standard(), Vec::new());
    for (text, right, wrong) in cases {
        let layout = Layout::parse_with(text, codebook).unwrap();
        for (octets, fits) in
            right.split(' ').map(|octets| (octets, true)).chain(wrong.split(' ').map(|octets| (octets, false)))
        {
            let octets = hex::parse(octets.trim_start_matches('~')).unwrap();
            let faults = layout.faults(codebook, &octets);
            if (layout.fits(codebook, &octets), faults.is_empty()) != (fits, fits) {
                wrong_ones.push(format!("{text}: {octets:02x?} {faults:?}"));
            }
        }
    }
    assert!(wrong_ones.is_empty(), "{wrong_ones:#?}");
}

proptest! {
    /// An octet is changed, put in or taken out, wherever it stands.
    #[test]
    fn what_fits_has_no_faults(at: Index, octet in prop_oneof![0..4_u8, b' '..b'~', any::<u8>()], more in 0..4_usize) {
        let codebook = Codebook::standard();
        for (definition, example) in &*EXAMPLES {
            let mut octets = example.clone();
            let at = at.index(octets.len() + 1);
            octets.splice(at..(at + more).min(octets.len()), [octet; 2].into_iter().take(3 - more.max(1)));
            let layout = codebook.layout(definition);
            let faults = layout.faults(codebook, &octets);
            prop_assert_eq!(layout.fits(codebook, &octets), faults.is_empty(), "{}: {:?}", definition.label(), faults);
        }
    }

    /// Readers may rely on it that what was met last ends last.
    #[test]
    fn single_things_are_met_in_the_order_of_their_octets(octets in vec(prop_oneof![0..16_u8, any::<u8>()], 0..64)) {
        let codebook = Codebook::standard();
        for definition in codebook.definitions() {
            let mut starts = Starts::default();
            codebook.layout(definition).walk(codebook, &octets, &mut starts);
            prop_assert!(starts.0.is_sorted(), "{}: {:?}", definition.label(), starts.0);
        }
    }
}
