//! Numbers, names for numbers and bits, truth and time: what they are, as text, on the wire, and in octets.

use crate::ParseError;
use crate::layout::Nesting;
use crate::layout::encode::{EncodeError, Encoder, wrong};
use crate::layout::fault::{FaultKind, Topic};
use crate::layout::form::atom::{Atom, Bound, Enumeration, Meaning, Number};
use crate::layout::scalar::Scalar;
use crate::layout::value::Value;
use crate::layout::value::atom_error::AtomError;
use crate::layout::value::duration::parts;
use crate::layout::walk::{ScalarForm, Stop, Visitor, Walked, Walker, signed};
use crate::nearest;
use crate::octets::decimal;
use crate::octets::number as number_of;
use crate::prelude::*;

/// What a number's layout has against it: out of range, or without meaning.
#[inline]
pub(in crate::layout) fn objection(atom: &Atom, scalar: &Scalar<'_>) -> Option<FaultKind> {
    if let (Atom::Seconds(Some(bound)), Scalar::Seconds(seconds)) = (atom, scalar) {
        let number = i128::from(*seconds);
        return (!bound.holds(number)).then_some(FaultKind::OutOfBounds { number, bound: *bound });
    }
    let Atom::Number(form) = atom else { return None };
    if !form.meaning.is_of_names() && form.bound.is_none() {
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

/// `true` or `false`, in whatever words.
pub(super) fn truth<'t>(text: &str) -> Result<Scalar<'t>, AtomError> {
    let found = bool(text).map(Scalar::Bool);
    found.ok_or_else(|| AtomError::all(text, format!("`{text}` is neither `true` nor `false`")))
}

fn bool(text: &str) -> Option<bool> {
    match text.to_ascii_lowercase().as_str() {
        "true" | "on" | "yes" | "1" => Some(true),
        "false" | "off" | "no" | "0" => Some(false),
        _ => None,
    }
}

/// A number in decimal or, after `0x`, in hexadecimal.
pub(in crate::layout) fn integer(text: &str) -> Option<i128> {
    let (sign, digits) = text.strip_prefix('-').map_or((1, text), |digits| (-1, digits));
    let number = match digits.strip_prefix("0x").or_else(|| digits.strip_prefix("0X")) {
        Some(hex) if hex.starts_with(|c: char| c.is_ascii_hexdigit()) => i128::from_str_radix(hex, 16).ok()?,
        Some(_) => return None,
        None => decimal(digits)?,
    };
    Some(sign * number)
}

pub(super) fn number<'t>(form: &Number, text: &str) -> Result<Scalar<'t>, AtomError> {
    let number = match &form.meaning {
        Meaning::Member(of) => member(of, text)?,
        Meaning::Flags(of) => flags(of, text)?,
        Meaning::Unit(unit) if integer(text).is_none() => {
            unit.count(text).map_err(|message| AtomError::all(text, message))?
        }
        Meaning::Plain | Meaning::Unit(_) | Meaning::Code(_) => {
            integer(text).ok_or_else(|| AtomError::all(text, format!("`{text}` is not a whole number")))?
        }
    };
    fit(form, number).map_err(|message| AtomError { topic: Topic::Bound, ..AtomError::all(text, message) })
}

/// The number as the layout's octets can hold it.
pub(in crate::layout) fn fit<'t>(form: &Number, number: i128) -> Result<Scalar<'t>, String> {
    let bits = 8 * form.octets as u32;
    let (min, max) =
        if form.signed { (-(1i128 << (bits - 1)), (1 << (bits - 1)) - 1) } else { (0, (1i128 << bits) - 1) };
    if number < min || number > max {
        return Err(format!("{number} is outside {min} to {max}"));
    }
    Ok(if form.signed { Scalar::Integer(number as i64) } else { Scalar::Number(number as u64) })
}

pub(in crate::layout) fn member(of: &Enumeration, text: &str) -> Result<i128, AtomError> {
    let number = of.number_of(text).map(i128::from).or_else(|| integer(text));
    number.ok_or_else(|| {
        let message = format!("unknown value `{text}`; expected one of {}", of.listing());
        let near = nearest::nearest(text, of.members.iter().map(|(_, name)| &**name));
        AtomError { topic: Topic::Meaning, instead: near.map(str::to_owned), ..AtomError::all(text, message) }
    })
}

fn flags(of: &Enumeration, text: &str) -> Result<i128, AtomError> {
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
/// ```
/// use oplex::layout::{duration, duration_text};
///
/// assert_eq!((duration("8h")?, duration("1h30m")?, duration("3600")?), (28_800, 5400, 3600));
/// assert_eq!((duration_text(5400), duration_text(u32::MAX)), ("1h30m".to_owned(), "infinite".to_owned()));
/// assert!(duration("8x").is_err());
/// # Ok::<(), oplex::ParseError>(())
/// ```
///
/// # Errors
/// What is wrong with the text, and how to write it.
pub fn duration(text: &str) -> Result<u32, ParseError> {
    seconds(text).map_err(|wrong| wrong.message.into())
}

pub(in crate::layout) fn seconds(text: &str) -> Result<u32, AtomError> {
    let form = "write seconds (`28800`) or a duration such as `8h`, `1d12h`, `infinite`";
    let wrong = || AtomError::all(text, format!("`{text}` is not a duration; {form}"));
    if text == "infinite" {
        return Ok(u32::MAX);
    }
    let plain = text.parse::<u128>().ok().filter(|_| text.bytes().all(|octet| octet.is_ascii_digit()));
    let whole = || parts(text).filter(|total| total.is_multiple_of(1000)).map(|total| total / 1000);
    let total = plain.or_else(whole).ok_or_else(wrong)?;
    // The largest number is "for ever" (RFC 2131, section 3.3), whichever way it is written.
    u32::try_from(total).map_err(|_| {
        let most = u32::MAX - 1;
        AtomError::all(text, format!("{total} seconds are more than {most}, the most that fits; write `infinite`"))
    })
}

/// Why no number could ever stand there.
pub(in crate::layout) fn unsound(atom: &Atom) -> Option<String> {
    if let Atom::Seconds(bound) = atom {
        return bound.and_then(|bound| never(bound, 0, u32::MAX.into()));
    }
    let Atom::Number(number) = atom else { return None };
    let bits = 8 * number.octets as u32;
    let (min, max) = match (&number.meaning, number.signed) {
        (Meaning::Member(named), _) if !named.open && named.members.is_empty() => {
            return Some("the enumeration names no number, so none can stand here".to_owned());
        }
        (_, true) => (-(1i128 << (bits - 1)), (1i128 << (bits - 1)) - 1),
        (_, false) => (0, (1i128 << bits) - 1),
    };
    number.bound.and_then(|bound| never(bound, min, max))
}

pub(in crate::layout) fn never(bound: Bound, min: i128, max: i128) -> Option<String> {
    let reachable = bound.min.is_none_or(|at| at <= max) && bound.max.is_none_or(|at| at >= min);
    (!reachable).then(|| format!("the range lies outside {min} to {max}, all that fits in these octets"))
}

impl<'l, 'o, V: Visitor<'l, 'o>, N: Nesting + ?Sized> Walker<'l, 'o, '_, V, N> {
    #[inline]
    pub(super) fn number(&mut self, form: &'l Number, atom: &'l Atom, at: usize, end: usize) -> Walked {
        let next = self.need("a number", form.octets, at, end)?;
        let raw = number_of(&self.octets[at..next]);
        let signed = if form.signed { signed(raw, 8 * form.octets as u32) } else { 0 };
        let scalar = if form.signed { Scalar::Integer(signed) } else { Scalar::Number(raw) };
        // To ask takes longer than to read the number, so only those are asked that may object.
        let may_object = form.bound.is_some() || form.meaning.is_of_names();
        if may_object && let Some(kind) = objection(atom, &scalar) {
            self.fault(at..next, kind);
        }
        self.visitor.scalar(ScalarForm::Atom(atom), scalar, at..next);
        Ok(next)
    }

    pub(super) fn truth(&mut self, at: usize, end: usize) -> Result<(usize, Scalar<'o>), Stop> {
        let next = self.need("an octet", 1, at, end)?;
        let octet = self.octets[at];
        if octet > 1 {
            self.fault(at..next, FaultKind::NotBool { octet });
        }
        Ok((next, Scalar::Bool(octet != 0)))
    }

    pub(super) fn seconds(&mut self, atom: &Atom, at: usize, end: usize) -> Result<(usize, Scalar<'o>), Stop> {
        let next = self.need("a number of seconds", 4, at, end)?;
        let scalar = Scalar::Seconds(u32::from_be_bytes(self.array(at)));
        if let Some(kind) = objection(atom, &scalar) {
            self.fault(at..next, kind);
        }
        Ok((next, scalar))
    }
}

impl Encoder<'_> {
    pub(super) fn number(&mut self, form: &Number, value: &Value) -> Result<(), EncodeError> {
        let raw = number_octets(form, value)?;
        self.leaf(&raw.to_be_bytes()[8 - form.octets..]);
        Ok(())
    }

    pub(super) fn seconds(&mut self, value: &Value) -> Result<(), EncodeError> {
        let seconds = match value {
            Value::Seconds(seconds) => *seconds,
            Value::Number(seconds) => match u32::try_from(*seconds) {
                Ok(seconds) => seconds,
                Err(_) => return wrong(format!("{seconds} seconds do not fit in 32 bits")),
            },
            value => return wrong(format!("`{value}` is not of this layout's form")),
        };
        self.leaf(&seconds.to_be_bytes());
        Ok(())
    }
}

fn number_octets(form: &Number, value: &Value) -> Result<u64, EncodeError> {
    let (number, meant) = match value {
        Value::Number(number) => (i128::from(*number), true),
        Value::Integer(number) => (i128::from(*number), true),
        Value::Member(number, _) => (i128::from(*number), matches!(form.meaning, Meaning::Member(_))),
        Value::Text(name) => match &form.meaning {
            Meaning::Member(of) | Meaning::Flags(of) => {
                (of.number_of(name).unwrap_or_default().into(), of.number_of(name).is_some())
            }
            _ => (0, false),
        },
        Value::Flags(number, _) => (i128::from(*number), matches!(form.meaning, Meaning::Flags(_))),
        _ => (0, false),
    };
    if !meant {
        return wrong(format!("`{value}` is not a number"));
    }
    match fit(form, number) {
        Ok(_) => Ok(number as u64),
        Err(message) => wrong(message),
    }
}
