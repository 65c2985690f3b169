//! Two messages option by option: the one that was captured, and the one that the plan has in its place.

use std::ops::Range;

use crate::codebook::Codebook;
use crate::octets::hex;
use crate::packet::{AnyMessage, MessageOption};

/// What differs.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct Difference {
    pub(super) what: What,
    /// Where in the captured message; all of it for what it lacks.
    pub(super) at: Range<usize>,
    /// The octets of both, where there are any.
    pub(super) seen: Option<Box<[u8]>>,
    pub(super) planned: Option<Box<[u8]>>,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum What {
    /// An option of this code.
    Option(u16),
    /// A field of the header.
    Field(&'static str),
}

/// What differs between a captured message and the planned one; the octets count from the start of the captured one. Options of
/// one code are compared one after the other.
pub(super) fn differences(seen: AnyMessage<'_>, planned: AnyMessage<'_>, base: usize) -> Vec<Difference> {
    let mut all = fields(seen, planned, base);
    let (have, want) = (seen.options(), planned.options());
    let mut codes: Vec<u16> = have.iter().chain(&want).map(MessageOption::code).collect();
    codes.sort_unstable();
    codes.dedup();
    for code in codes {
        let (mut have, mut want) =
            (have.iter().filter(|one| one.code() == code), want.iter().filter(|one| one.code() == code));
        loop {
            let (one, other) = (have.next(), want.next());
            if one.is_none() && other.is_none() {
                break;
            }
            let octets = [one, other].map(|option| option.map(|option| option.joined()));
            if octets[0] == octets[1] {
                continue;
            }
            let around = one.map_or(0..seen.octets().len(), MessageOption::around);
            let [seen, planned] = octets.map(|octets| octets.map(|octets| octets.into_owned().into_boxed_slice()));
            let at = base + around.start..base + around.end;
            all.push(Difference { what: What::Option(code), at, seen, planned });
        }
    }
    all
}

/// Where a field stands, and its octets in both.
type Pair<'o> = (&'static str, Range<usize>, &'o [u8], &'o [u8]);

/// What differs in the headers, as far as a server or router chooses it.
fn fields(seen: AnyMessage<'_>, planned: AnyMessage<'_>, base: usize) -> Vec<Difference> {
    let (have, want) = (seen.octets(), planned.octets());
    let places: &[(&'static str, Range<usize>)] = match (seen, planned) {
        (AnyMessage::V4(_), AnyMessage::V4(_)) => &[("siaddr", 20..24), ("sname", 44..108), ("file", 108..236)],
        (AnyMessage::Ra(_), AnyMessage::Ra(_)) => {
            &[("hop limit", 4..5), ("flags", 5..6), ("lifetime", 6..8), ("reachable", 8..12), ("retransmit", 12..16)]
        }
        _ => &[],
    };
    // Where one of both has options in these fields they hold no text.
    let holds_options = |message: AnyMessage<'_>, bit: u8| match message {
        AnyMessage::V4(message) => message.overload() & bit != 0,
        _ => false,
    };
    let overloaded = |bit| holds_options(seen, bit) || holds_options(planned, bit);
    let (file, sname) = (overloaded(1), overloaded(2));
    let pairs = places.iter().filter(|(name, _)| !(*name == "file" && file || *name == "sname" && sname));
    let pairs = pairs.filter_map(|(name, at)| Some((*name, at.clone(), have.get(at.clone())?, want.get(at.clone())?)));
    let differ = pairs.filter(|(name, _, one, other): &Pair<'_>| match *name {
        // Text ends where its first zero is.
        "sname" | "file" => text(one) != text(other),
        _ => one != other,
    });
    let difference = |(name, at, one, other): Pair<'_>| Difference {
        what: What::Field(name),
        at: base + at.start..base + at.end,
        seen: Some(one.into()),
        planned: Some(other.into()),
    };
    differ.map(difference).collect()
}

/// What a field holds before its first zero.
fn text(octets: &[u8]) -> &[u8] {
    octets.split(|octet| *octet == 0).next().unwrap_or_default()
}

/// Octets as the value that they mean.
pub(super) fn meaning(codebook: &Codebook, message: AnyMessage<'_>, what: What, octets: &[u8]) -> String {
    match what {
        What::Option(code) => {
            let definition = codebook.own(message.protocol(), code);
            let by_vendor = definition.and_then(|known| codebook.by_vendor(known, None)).map(|(_, known)| known);
            let value = by_vendor.as_ref().or(definition).map(|known| codebook.decode(known, octets));
            match value {
                Some((Some(value), faults)) if faults.is_empty() => value.to_string(),
                _ if octets.is_empty() => "nothing".to_owned(),
                _ => hex::colon(octets),
            }
        }
        What::Field("sname" | "file") if text(octets).is_empty() => "nothing".to_owned(),
        What::Field("sname" | "file") => String::from_utf8_lossy(text(octets)).into_owned(),
        What::Field("siaddr") => match <[u8; 4]>::try_from(octets) {
            Ok(octets) => std::net::Ipv4Addr::from(octets).to_string(),
            Err(_) => hex::colon(octets),
        },
        What::Field("flags") => flags(octets.first().copied().unwrap_or_default()),
        What::Field(_) => octets.iter().fold(0u32, |number, octet| number << 8 | u32::from(*octet)).to_string(),
    }
}

/// The flags of an advertisement by their letters (RFC 4861, section 4.2; RFC 4191, section 2.2).
fn flags(octet: u8) -> String {
    let letters = [(0x80, "M"), (0x40, "O"), (0x20, "H"), (0x04, "P")];
    let mut words: Vec<String> =
        letters.into_iter().filter(|(bit, _)| octet & bit != 0).map(|(_, letter)| letter.to_owned()).collect();
    match octet >> 3 & 3 {
        1 => words.push("high preference".to_owned()),
        3 => words.push("low preference".to_owned()),
        2 => words.push("reserved preference".to_owned()),
        _ => {}
    }
    if octet & 3 != 0 {
        words.push(format!("0x{:02x}", octet & 3));
    }
    if words.is_empty() { "none".to_owned() } else { words.join(" ") }
}
