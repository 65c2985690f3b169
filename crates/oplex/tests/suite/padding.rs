//! What the layout language has for options that are padded: zeros behind a part, reserved octets, heads of addresses.

use oplex::codebook::Codebook;
use oplex::layout::{Input, Layout};
use oplex::octets::hex;
use proptest::prelude::*;

fn layout(text: &str) -> Layout {
    Layout::parse(text).unwrap_or_else(|error| panic!("{text}: {}", error.message))
}

/// The octets of a value, and what is wrong with them.
fn encoded(layout: &Layout, value: &str) -> Result<String, String> {
    let codebook = Codebook::standard();
    let reading = layout.read(codebook, &Input::from_text(value)).map_err(|misfits| misfits[0].message.clone())?;
    let octets = layout.encode(codebook, &reading.value).map_err(|error| error.message)?.octets;
    assert_eq!(layout.faults(codebook, &octets), [], "{layout} {value}");
    let (decoded, _) = layout.decode(codebook, &octets);
    assert_eq!(decoded.as_ref(), Some(&reading.value), "{layout} {value}");
    Ok(hex::plain(&octets))
}

fn faults(text: &str, octets: &str) -> Vec<String> {
    let found = layout(text).faults(Codebook::standard(), &hex::parse(octets).unwrap());
    found.into_iter().map(|fault| format!("{:?}: {}", fault.octets, fault.kind)).collect()
}

#[test]
fn zeros_bring_a_part_to_a_multiple_of_eight() {
    for (text, value, octets) in [
        ("padded8(text)", "dome", "646f6d6500000000"),
        ("padded8(text)", "eight-ch", "65696768742d6368"),
        ("padded8+2(text)", "domes6", "646f6d657336"),
        ("padded8+2(text)", "domes-7", "646f6d65732d3700000000000000"),
        ("padded8+7(u8)", "7", "07"),
        ("padded8(name+)", "a.b, c", "0161016200016300"),
        ("padded8(len8(bytes))", "01:00", "0201000000000000"),
        ("padded8({ a: u8, b: u16?, c: u16? })", "{ a = 1 }", "0100000000000000"),
        ("padded8({ a: u8, b: u16?, c: u16? })", "{ a = 1, b = 2, c = 3 }", "0100020003000000"),
    ] {
        assert_eq!(encoded(&layout(text), value).as_deref(), Ok(octets), "{text} {value}");
    }
}

#[test]
fn zeros_that_are_no_padding_are_told() {
    let none: [&str; 0] = [];
    assert_eq!(faults("padded8(text)", "646f6d6500000000"), none);
    assert_eq!(
        faults("padded8(text)", "646f6d65000000"),
        ["0..7: 7 octets here; zeros must bring them to a multiple of 8"]
    );
    assert_eq!(faults("padded8+2(text)", "646f6d650000"), none);
    // What stands behind zeros is no padding.
    assert_eq!(faults("padded8(text)", "646f000000000078").len(), 1);
    assert_eq!(faults("padded8(u8)", "0100000000000001"), ["1..8: 7 octets left over after the last part"]);
    assert_eq!(faults("padded8(name+)", "0000000000000000"), ["0..8: at least 1 expected, found 0"]);
    assert_eq!(faults("padded8(name+)", "0161016200000000"), none);
    assert_eq!(faults("padded8(name+)", "0161016205000000"), ["4..5: this length counts 5 octets, but only 3 follow"]);
}

#[test]
fn reserved_octets_hold_no_value() {
    let record = layout("{ reserved: zeros{2}, port: u16, also: zeros{1} }");
    assert_eq!(encoded(&record, "{ port = 69 }").as_deref(), Ok("0000004500"));
    assert_eq!(
        encoded(&record, "{ port = 69, reserved = 0 }"),
        Err("unknown field `reserved`; expected one of port".to_owned())
    );
    assert_eq!(record.lengths(), (5, Some(5)));
    let text = record.to_string();
    assert_eq!(faults(&text, "0000004500"), [""; 0]);
    assert_eq!(
        faults(&text, "0100004501"),
        ["0..2: these octets are reserved and must be zero", "4..5: these octets are reserved and must be zero"]
    );
    assert_eq!(faults(&text, "00"), ["0..1: 2 octets expected for what is reserved, 1 left"]);
    let rows = record.explained(Codebook::standard(), &[0, 0, 0, 69, 0]).rows;
    let rows: Vec<_> = rows.iter().map(|row| (row.octets.clone(), row.label.as_str(), row.meaning.as_str())).collect();
    assert_eq!(rows, [(0..2, "reserved", ""), (2..4, "port", "69"), (4..5, "reserved", "")]);
}

#[test]
fn heads_of_addresses_leave_their_zeros_out() {
    for (text, value, octets) in [
        ("ipv6-head", "::", Ok("")),
        ("ipv6-head", "2001:db8::", Ok("20010db800000000")),
        ("ipv6-head", "2001:db8::1", Ok("20010db8000000000000000000000001")),
        ("ipv6-head{12}", "64:ff9b::", Ok("0064ff9b0000000000000000")),
        ("ipv6-head{4}", "2001:db8::", Ok("20010db8")),
        (
            "ipv6-head{4}",
            "2001:db8:1::",
            Err("`2001:db8:1::` has bits set after its first 4 octets, which must be zero"),
        ),
        ("ipv6-head{16}", "::1", Ok("00000000000000000000000000000001")),
        ("ipv6-head", "10.64.4.1", Err("`10.64.4.1` is not an IPv6 address; write it like `2001:db8:64::53`")),
    ] {
        let octets = octets.map(str::to_owned).map_err(str::to_owned);
        assert_eq!(encoded(&layout(text), value), octets, "{text} {value}");
    }
    assert_eq!(faults("ipv6-head{12}", "0064ff9b"), ["0..4: 12 octets expected for the address's octets, 4 left"]);
    assert_eq!(faults("ipv6-head", "20010db800000000ff"), ["8..9: 1 octet left over after the last part"]);
    assert_eq!(faults("ipv6-head", "20010db8"), ["0..4: 4 octets left over after the last part"]);
}

#[test]
fn layouts_that_could_not_be_read_back_are_refused() {
    for (text, message) in [
        ("padded8(bytes)", "ambiguous: the end of this part is not distinguishable from the zeros after it"),
        ("padded8(ipv6+)", "ambiguous: the end of this part is not distinguishable from the zeros after it"),
        // Where a list ends cannot be sent from zeros that each might be a length.
        (
            "padded8({ a: len8(text)+ })",
            "ambiguous: the end of this part is not distinguishable from the zeros after it",
        ),
        ("padded8(padded8(text))", "ambiguous: the end of this part is not distinguishable from the zeros after it"),
        ("padded8+8(text)", "8 octets before it; 7 is the most"),
        (
            "{ a: padded8(text), b: u8 }",
            "`a` takes all octets that are left, so `b` never gets any; put it last or give it a length",
        ),
        ("zeros{2}", "zeros hold no value, so they must be a field of a record"),
        ("{ a: zeros{0} }", "no number fits this range; write the smaller end first"),
        ("{ a: zeros{1..2} }", "write how many, 1 to 16: `zeros{2}`"),
        ("{ a: zeros{17} }", "write how many, 1 to 16: `zeros{2}`"),
        ("seconds in 5000000000..", "the range lies outside 0 to 4294967295, all that fits in these octets"),
        ("padded16(text)", "unknown layout `padded16`; did you mean `padded8`?"),
    ] {
        assert_eq!(Layout::parse(text).map_err(|error| error.message), Err(message.to_owned()), "{text}");
    }
    for text in [
        "padded8+2(uri)",
        "{ a: zeros{16}, b: padded8(name+) }",
        "ipv6-head{12}",
        "seconds in 60..=86400",
        "(seconds in 60..)+",
    ] {
        assert_eq!(layout(text).to_string(), text);
    }
}

/// Seconds may have bounds, whatever way they are written.
#[test]
fn durations_have_bounds() {
    let refresh = layout("seconds in 600..");
    assert_eq!(encoded(&refresh, "10m").as_deref(), Ok("00000258"));
    assert_eq!(encoded(&refresh, "infinite").as_deref(), Ok("ffffffff"));
    assert_eq!(faults("seconds in 600..", "00000257"), ["0..4: 599 is out of range; it must be 600 or more"]);
    assert_eq!(faults("seconds in 60..=86400", "00015181"), ["0..4: 86401 is out of range; it must be 60 to 86400"]);
}

proptest! {
    /// Whatever text and names are padded come back without the padding.
    #[test]
    fn what_is_padded_comes_back(
        text in "[a-z][a-z0-9/:.-]{0,40}[a-z]",
        names in prop::collection::vec("[a-z]{1,9}(\\.[a-z]{1,9}){0,3}", 1..5),
        before in 0usize..8,
    ) {
        let codebook = Codebook::standard();
        for (form, value) in [("text".to_owned(), text), ("name+".to_owned(), names.join(", "))] {
            let layout = layout(&if before > 0 { format!("padded8+{before}({form})") } else { format!("padded8({form})") });
            let reading = layout.read(codebook, &Input::from_text(&value)).unwrap();
            let octets = layout.encode(codebook, &reading.value).unwrap().octets;
            prop_assert_eq!((octets.len() + before) % 8, 0);
            prop_assert_eq!(layout.decode(codebook, &octets), (Some(reading.value), vec![]));
        }
    }
}
