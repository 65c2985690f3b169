//! Single things as the text a person writes: addresses, numbers, durations, names.

use std::net::{Ipv4Addr, Ipv6Addr};
use std::ops::Range;

use super::fault::{FaultKind, Topic};
use super::node::{Atom, Enumeration, Meaning, Number, Run};
use super::scalar::Scalar;
use crate::family::Address;
use crate::nearest;

/// Why a text is not what it should be.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct Wrong {
    /// The characters it is about, within the text.
    pub(super) at: Range<usize>,
    pub(super) topic: Topic,
    pub(super) message: String,
    /// What was probably meant.
    pub(super) instead: Option<String>,
}

impl Wrong {
    pub(super) fn all(text: &str, message: impl Into<String>) -> Self {
        Self { at: 0..text.len(), topic: Topic::Shape, message: message.into(), instead: None }
    }

    /// What is wrong with a part, as what is wrong with the whole it stands in.
    fn within(self, part: &str, whole: &str) -> Self {
        let start = part.as_ptr() as usize - whole.as_ptr() as usize;
        Self { at: start + self.at.start..start + self.at.end, ..self }
    }
}

/// Whether the atom has a form as text that needs no octets of its own.
pub(super) fn has_text(atom: &Atom) -> bool {
    match atom {
        Atom::Run(run, _) => *run != Run::Bytes,
        Atom::Number(number) => !matches!(number.meaning, Meaning::Flags(_)),
        Atom::Bool
        | Atom::Seconds(_)
        | Atom::Ipv4(_)
        | Atom::Ipv6(_)
        | Atom::Ipv6Head(_)
        | Atom::Netmask
        | Atom::Mac => true,
        _ => false,
    }
}

/// What a number's layout has against it: out of range, or without meaning.
#[inline]
pub(super) fn objection(atom: &Atom, scalar: &Scalar<'_>) -> Option<FaultKind> {
    if let (Atom::Seconds(Some(bound)), Scalar::Seconds(seconds)) = (atom, scalar) {
        let number = i128::from(*seconds);
        return (!bound.holds(number)).then_some(FaultKind::OutOfBounds { number, bound: *bound });
    }
    let Atom::Number(form) = atom else { return None };
    if form.meaning == Meaning::Plain && form.bound.is_none() {
        return None;
    }
    let (raw, number) = match scalar {
        Scalar::Number(raw) => (*raw, i128::from(*raw)),
        Scalar::Integer(number) => (*number as u64, i128::from(*number)),
        _ => return None,
    };
    if let Some(bound) = form.bound.filter(|bound| !bound.holds(number)) {
        return Some(FaultKind::OutOfBounds { number, bound });
    }
    match &form.meaning {
        Meaning::Member(of) if !of.open && of.name_of(raw).is_none() => {
            Some(FaultKind::NotMember { number: raw, of: of.clone() })
        }
        Meaning::Flags(of) if !of.open && raw & !of.all_bits() != 0 => {
            Some(FaultKind::UndefinedBits { bits: raw & !of.all_bits() })
        }
        _ => None,
    }
}

/// Reads one thing from text, for the atoms that [have text](has_text) and a few more.
pub(super) fn scalar<'t>(atom: &Atom, text: &'t str) -> Result<Scalar<'t>, Wrong> {
    match atom {
        Atom::Number(number) => self::number(number, text),
        Atom::Bool => bool(text)
            .map(Scalar::Bool)
            .ok_or_else(|| Wrong::all(text, format!("`{text}` is neither `true` nor `false`"))),
        Atom::Seconds(_) => seconds(text).map(Scalar::Seconds),
        Atom::Ipv4(_) => address(text).map(Scalar::Ipv4),
        Atom::Ipv6(_) | Atom::Ipv6Head(_) => address(text).map(Scalar::Ipv6),
        Atom::Netmask => netmask(text).map(Scalar::Ipv4),
        Atom::Mac => mac(text).map(Scalar::Mac),
        Atom::Run(..) => Ok(Scalar::Text(text)),
        Atom::Route4 => route4(text),
        Atom::Prefix6 => prefix6(text),
        Atom::Uuid => uuid(text).map(Scalar::Uuid),
        Atom::Empty if matches!(text, "" | "empty" | "true") => Ok(Scalar::Empty),
        Atom::Empty => Err(Wrong::all(text, "this takes no value; write `true`")),
        Atom::Name | Atom::PartialName | Atom::Names(_) | Atom::Duid => {
            Err(Wrong::all(text, "this has no form as plain text"))
        }
    }
}

fn bool(text: &str) -> Option<bool> {
    match text.to_ascii_lowercase().as_str() {
        "true" | "on" | "yes" | "1" => Some(true),
        "false" | "off" | "no" | "0" => Some(false),
        _ => None,
    }
}

/// A number in decimal or, after `0x`, in hexadecimal.
pub(super) fn integer(text: &str) -> Option<i128> {
    let (sign, digits) = text.strip_prefix('-').map_or((1, text), |digits| (-1, digits));
    let number = match digits.strip_prefix("0x").or_else(|| digits.strip_prefix("0X")) {
        Some(hex) => i128::from_str_radix(hex, 16).ok()?,
        None if digits.starts_with('+') => return None,
        None => digits.parse().ok()?,
    };
    Some(sign * number)
}

fn number<'t>(form: &Number, text: &str) -> Result<Scalar<'t>, Wrong> {
    let number = match &form.meaning {
        Meaning::Member(of) => member(of, text)?,
        Meaning::Flags(of) => flags(of, text)?,
        Meaning::Plain => integer(text).ok_or_else(|| Wrong::all(text, format!("`{text}` is not a whole number")))?,
    };
    fit(form, number).map_err(|message| Wrong { topic: Topic::Bound, ..Wrong::all(text, message) })
}

/// The number as the layout's octets can hold it.
pub(super) fn fit<'t>(form: &Number, number: i128) -> Result<Scalar<'t>, String> {
    let bits = 8 * form.octets as u32;
    let (min, max) =
        if form.signed { (-(1i128 << (bits - 1)), (1 << (bits - 1)) - 1) } else { (0, (1i128 << bits) - 1) };
    if number < min || number > max {
        return Err(format!("{number} does not fit; this number lies between {min} and {max}"));
    }
    Ok(if form.signed { Scalar::Integer(number as i64) } else { Scalar::Number(number as u64) })
}

pub(super) fn member(of: &Enumeration, text: &str) -> Result<i128, Wrong> {
    let number = of.number_of(text).map(i128::from).or_else(|| integer(text));
    number.ok_or_else(|| {
        let message = format!("`{text}` is not one of the names that can stand here: {}", of.listing());
        let near = nearest::nearest(text, of.members.iter().map(|(_, name)| &**name));
        Wrong { topic: Topic::Meaning, instead: near.map(str::to_owned), ..Wrong::all(text, message) }
    })
}

fn flags(of: &Enumeration, text: &str) -> Result<i128, Wrong> {
    if text == "none" || text.is_empty() {
        return Ok(0);
    }
    let names = text.split(['+', ',', '|', ' ']).filter(|name| !name.is_empty());
    names
        .map(|name| member(of, name).map_err(|wrong| wrong.within(name, text)))
        .try_fold(0, |bits, bit| Ok(bits | bit?))
}

/// A duration: `28800`, `8h`, `1d12h`, `infinite`.
///
/// # Errors
/// What is wrong with the text, and how to write it.
pub fn duration(text: &str) -> Result<u32, String> {
    seconds(text).map_err(|wrong| wrong.message)
}

pub(super) fn seconds(text: &str) -> Result<u32, Wrong> {
    let form = "write seconds (`28800`) or a duration such as `8h`, `1d12h`, `infinite`";
    let wrong = || Wrong::all(text, format!("`{text}` is not a duration; {form}"));
    if text == "infinite" {
        return Ok(u32::MAX);
    }
    let mut total = 0u64;
    let mut rest = text;
    while !rest.is_empty() {
        let digits = rest.find(|c: char| !c.is_ascii_digit()).unwrap_or(rest.len());
        let number: u64 = rest[..digits].parse().map_err(|_| wrong())?;
        rest = rest[digits..].trim_start();
        let unit = rest.find(|c: char| !c.is_ascii_alphabetic()).unwrap_or(rest.len());
        let factor = match &rest[..unit] {
            "" if unit == rest.len() => 1,
            "s" | "sec" | "second" | "seconds" => 1,
            "m" | "min" | "minute" | "minutes" => 60,
            "h" | "hour" | "hours" => 3600,
            "d" | "day" | "days" => 86_400,
            "w" | "week" | "weeks" => 604_800,
            _ => return Err(wrong()),
        };
        rest = rest[unit..].trim_start();
        total = number.checked_mul(factor).and_then(|part| total.checked_add(part)).ok_or_else(wrong)?;
    }
    if text.is_empty() {
        return Err(wrong());
    }
    // The largest number is "for ever" (RFC 2131, section 3.3), whichever way it is written.
    u32::try_from(total).map_err(|_| {
        let most = u32::MAX - 1;
        Wrong::all(text, format!("{total} seconds are more than {most}, the most that fits; write `infinite`"))
    })
}

/// `28800` as `8h`, [`u32::MAX`] as `infinite`.
#[must_use]
pub fn duration_text(seconds: u32) -> String {
    if seconds == u32::MAX {
        return "infinite".to_owned();
    }
    let mut text = String::new();
    let mut rest = seconds;
    for (unit, size) in [("d", 86_400), ("h", 3600), ("m", 60), ("s", 1)] {
        if rest >= size {
            text.push_str(&format!("{}{unit}", rest / size));
            rest %= size;
        }
    }
    if text.is_empty() { "0s".to_owned() } else { text }
}

/// An address of either family.
fn address<A: Address>(text: &str) -> Result<A, Wrong> {
    A::parse(text).map_err(|message| Wrong::all(text, message))
}

fn netmask(text: &str) -> Result<Ipv4Addr, Wrong> {
    let Some(length) = text.strip_prefix('/') else {
        return text
            .parse()
            .map_err(|_| Wrong::all(text, format!("`{text}` is not a mask; write it like `255.255.254.0` or `/23`")));
    };
    match length.parse::<u32>() {
        Ok(length @ 0..=32) => Ok(Ipv4Addr::from(u32::MAX.unbounded_shl(32 - length))),
        _ => Err(Wrong::all(text, format!("`{text}` is not a prefix length; `/0` to `/32` are"))),
    }
}

/// A six-octet hardware address in any common grouping.
fn mac(text: &str) -> Result<[u8; 6], Wrong> {
    let wrong = || {
        let why = "is not a hardware address of six octets; write it like `02:00:5e:00:53:11`";
        Wrong::all(text, format!("`{text}` {why}"))
    };
    let octets = crate::octets::hex::parse(text).map_err(|_| wrong())?;
    octets.try_into().map_err(|_| wrong())
}

/// `10.64.8.0/21 via 10.64.4.1`, `default via 10.64.4.1`, `10.64.8.0/21 on-link`.
fn route4<'t>(text: &str) -> Result<Scalar<'t>, Wrong> {
    let form = "write it like `10.64.8.0/21 via 10.64.4.1`";
    let (target, router) = match text.split_once(" via ") {
        Some((target, router)) => {
            let router = router.trim();
            (target.trim(), address::<Ipv4Addr>(router).map_err(|wrong| wrong.within(router, text))?)
        }
        None => match text.trim_end().strip_suffix(" on-link") {
            Some(target) => (target.trim(), Ipv4Addr::UNSPECIFIED),
            None => return Err(Wrong::all(text, format!("`{text}` names no router; {form}"))),
        },
    };
    if target == "default" {
        return Ok(Scalar::Route4 { destination: Ipv4Addr::UNSPECIFIED, length: 0, router });
    }
    let Some((address, length)) = target.split_once('/') else {
        return Err(Wrong::all(target, format!("`{target}` has no prefix length; {form}")).within(target, text));
    };
    let destination = self::address::<Ipv4Addr>(address).map_err(|wrong| wrong.within(address, text))?;
    match length.parse() {
        Ok(length @ 0..=32) => Ok(Scalar::Route4 { destination, length, router }),
        _ => {
            let message = format!("`/{length}` is not a prefix length; `/0` to `/32` are");
            Err(Wrong::all(length, message).within(length, text))
        }
    }
}

fn prefix6<'t>(text: &str) -> Result<Scalar<'t>, Wrong> {
    let parsed = text.split_once('/').and_then(|(address, length)| {
        Some((address.parse::<Ipv6Addr>().ok()?, length.parse::<u8>().ok().filter(|length| *length <= 128)?))
    });
    match parsed {
        Some((prefix, length)) => Ok(Scalar::Prefix6 { prefix, length }),
        None => Err(Wrong::all(text, format!("`{text}` is not an IPv6 prefix; write it like `2001:db8:64::/48`"))),
    }
}

fn uuid(text: &str) -> Result<[u8; 16], Wrong> {
    let digits: String = text.chars().filter(|c| !matches!(c, '-' | '{' | '}')).collect();
    let octets = crate::octets::hex::parse(&digits).ok().and_then(|octets| octets.try_into().ok());
    octets.ok_or_else(|| {
        let form = "32 hexadecimal digits, like `123e4567-e89b-12d3-a456-426614174000`";
        Wrong::all(text, format!("`{text}` is not a UUID of {form}"))
    })
}
