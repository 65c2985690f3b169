//! What a payload means: a tree that can be printed, written as JSON, read back and encoded.

use crate::prelude::*;
pub(in crate::layout) mod atom_error;
pub(in crate::layout) mod duration;
pub(in crate::layout) mod edits;
pub(in crate::layout) mod encode;
#[cfg(feature = "serde")]
pub(in crate::layout) mod from_serde;
pub(in crate::layout) mod input;
pub(in crate::layout) mod name;
pub(in crate::layout) mod path;
pub(in crate::layout) mod read;
pub(in crate::layout) mod read_atoms;
mod read_named;
#[cfg(feature = "serde")]
pub(in crate::layout) mod serde;
mod written;

use core::fmt::{self, Write};
use core::net::{Ipv4Addr, Ipv6Addr};

use crate::layout::form::atom::{Atom, Enumeration, Meaning};
use crate::layout::input::Input;
use crate::layout::scalar::{Prefix6, Route4, Scalar};
use crate::layout::value::duration::duration_text;
use crate::layout::walk::ScalarForm;
use crate::octets::hex;

/// What a payload means.
///
/// Its `Display` is the text that [`Input::from_text`](crate::layout::Input::from_text) reads back; its serde form is what
/// JSON shows.
#[derive(Debug, Clone, PartialEq)]
#[non_exhaustive]
pub enum Value {
    /// No octets: the option's being there is all it says.
    Empty,
    /// Off or on.
    Bool(bool),
    /// An unsigned number.
    Number(u64),
    /// A signed number.
    Integer(i64),
    /// A fixed-point number.
    Decimal(f64),
    /// A number out of an enumeration, with its name if it has one.
    Member(u64, Option<Box<str>>),
    /// Bits, and the names of those that are set; those without a name together as hexadecimal: `0x08`.
    Flags(u64, Vec<Box<str>>),
    /// A number of seconds; [`u32::MAX`] is for ever.
    Seconds(u32),
    /// An IPv4 address or mask.
    Ipv4(Ipv4Addr),
    /// An IPv6 address.
    Ipv6(Ipv6Addr),
    /// A hardware address.
    Mac([u8; 6]),
    /// Text.
    Text(String),
    /// A DNS name in dotted form, without the final dot unless it is the root.
    Name(String),
    /// Opaque octets.
    Bytes(Vec<u8>),
    /// Octets that stand in for a value of another form: written raw, or not readable as what they should be.
    Raw(Vec<u8>),
    /// A UUID.
    Uuid([u8; 16]),
    /// A route with its prefix length.
    Route4(Route4),
    /// An IPv6 prefix.
    Prefix6(Prefix6),
    /// Several values.
    List(Vec<Self>),
    /// Named values.
    Record(Vec<(Box<str>, Self)>),
    /// Nested options.
    Options(Vec<SubOption>),
}

/// One option inside another.
#[derive(Debug, Clone, PartialEq)]
pub struct SubOption {
    /// Its code.
    pub code: u16,
    /// Its name, when the codebook knows it.
    pub name: Option<Box<str>>,
    /// What it means.
    pub value: Value,
}

impl SubOption {
    /// The name, or the code where there is none.
    #[must_use]
    pub fn key(&self) -> String {
        self.name.as_deref().map_or_else(|| self.code.to_string(), str::to_owned)
    }
}

impl Value {
    /// The value of one thing that a walk met.
    #[must_use]
    pub fn of(form: ScalarForm<'_>, scalar: Scalar<'_>) -> Self {
        match (form, scalar) {
            (ScalarForm::Atom(Atom::Number(number)), Scalar::Number(raw)) => match &number.meaning {
                Meaning::Plain | Meaning::Unit(_) | Meaning::Code(_) => Self::Number(raw),
                Meaning::Member(of) => Self::member(of, raw),
                Meaning::Flags(of) => Self::flags(of, raw),
            },
            (ScalarForm::Bits(field), Scalar::Number(raw)) => {
                field.of.as_ref().map_or(Self::Number(raw), |of| Self::member(of, raw))
            }
            (ScalarForm::Atom(Atom::Run(run, _)), Scalar::Bytes(octets))
                if *run != crate::layout::form::atom::Run::Bytes =>
            {
                Self::Raw(octets.to_vec())
            }
            (_, Scalar::Empty) => Self::Empty,
            (_, Scalar::Number(number)) => Self::Number(number),
            (_, Scalar::Integer(number)) => Self::Integer(number),
            (_, Scalar::Decimal(number)) => Self::Decimal(number),
            (_, Scalar::Bool(on)) => Self::Bool(on),
            (_, Scalar::Seconds(seconds)) => Self::Seconds(seconds),
            (_, Scalar::Ipv4(address)) => Self::Ipv4(address),
            (_, Scalar::Ipv6(address)) => Self::Ipv6(address),
            (_, Scalar::Mac(octets)) => Self::Mac(octets),
            (_, Scalar::Text(text)) => Self::Text(text.to_owned()),
            (_, Scalar::Bytes(octets)) => Self::Bytes(octets.to_vec()),
            (ScalarForm::Atom(Atom::PartialName), Scalar::Name(name)) if name.is_absolute() => {
                let text = name.to_string();
                Self::Name(if text == "." { text } else { text + "." })
            }
            (_, Scalar::Name(name)) => Self::Name(name.to_string()),
            (_, Scalar::Uuid(octets)) => Self::Uuid(octets),
            (_, Scalar::Route4(route)) => Self::Route4(route),
            (_, Scalar::Prefix6(prefix)) => Self::Prefix6(prefix),
        }
    }

    fn member(of: &Enumeration, number: u64) -> Self {
        Self::Member(number, of.name_of(number).map(Into::into))
    }

    fn flags(of: &Enumeration, bits: u64) -> Self {
        let set = of.members.iter().filter(|(bit, _)| *bit != 0 && bits & bit == *bit);
        let left = set.clone().fold(bits, |left, (bit, _)| left & !bit);
        let unnamed = (left != 0).then(|| format!("{left:#04x}").into());
        Self::Flags(bits, set.map(|(_, name)| name.clone()).chain(unnamed).collect())
    }

    /// Whether it has no values inside.
    #[must_use]
    pub fn is_leaf(&self) -> bool {
        !matches!(self, Self::List(_) | Self::Record(_) | Self::Options(_))
    }

    /// Calls `see` with every value that has none inside, in the order of the octets, and the name of the nearest
    /// field or option around it.
    pub fn leaves<'v>(&'v self, see: &mut dyn FnMut(&'v Self, Option<&'v str>)) {
        self.leaves_in(None, see);
    }

    fn leaves_in<'v>(&'v self, name: Option<&'v str>, see: &mut dyn FnMut(&'v Self, Option<&'v str>)) {
        match self {
            Self::List(items) => items.iter().for_each(|item| item.leaves_in(name, see)),
            Self::Record(fields) => fields.iter().for_each(|(name, value)| value.leaves_in(Some(name), see)),
            Self::Options(options) => {
                options.iter().for_each(|option| option.value.leaves_in(option.name.as_deref(), see));
            }
            leaf => see(leaf, name),
        }
    }
}

impl fmt::Display for Value {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            // Alone, a list needs no brackets, unless its only item would be taken for the list itself.
            Self::List(items) if !matches!(&items[..], [Self::List(_)]) => join(f, items, |f, item| item.inside(f)),
            // What looks like raw octets is shown as the raw octets it is.
            Self::Text(text) if Input::from_text(text).is_table() => Self::Raw(text.clone().into_bytes()).inside(f),
            Self::Text(text) => f.write_str(text),
            Self::Bytes(octets) if octets.is_empty() => Ok(()),
            other => other.inside(f),
        }
    }
}

impl Value {
    /// The text among others, where commas and brackets have a meaning.
    fn inside(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Empty => f.write_str("empty"),
            Self::Bool(on) => write!(f, "{on}"),
            Self::Number(number) | Self::Member(number, None) => write!(f, "{number}"),
            Self::Integer(number) => write!(f, "{number}"),
            Self::Decimal(number) => write!(f, "{number}"),
            Self::Member(_, Some(name)) => f.write_str(name),
            Self::Flags(0, _) => f.write_str("none"),
            Self::Flags(_, names) => f.write_str(&names.join("+")),
            Self::Seconds(seconds) => f.write_str(&duration_text(*seconds)),
            Self::Ipv4(address) => write!(f, "{address}"),
            Self::Ipv6(address) => write!(f, "{address}"),
            Self::Mac(octets) => f.write_str(&hex::colon(octets)),
            Self::Text(text) => quoted(f, text),
            Self::Name(name) => quoted(f, name),
            Self::Bytes(octets) if octets.is_empty() => f.write_str("\"\""),
            Self::Bytes(octets) => match printable(octets) {
                Some(text) => {
                    f.write_str("{ text = ")?;
                    quoted(f, text)?;
                    f.write_str(" }")
                }
                None => f.write_str(&hex::colon(octets)),
            },
            Self::Raw(octets) => match octets.is_empty() {
                true => f.write_str("{ hex = \"\" }"),
                false => write!(f, "{{ hex = {} }}", hex::colon(octets)),
            },
            Self::Uuid(octets) => {
                let digits = hex::plain(octets);
                let parts = [&digits[..8], &digits[8..12], &digits[12..16], &digits[16..20], &digits[20..]];
                f.write_str(&parts.join("-"))
            }
            Self::Route4(route) => write!(f, "{route}"),
            Self::Prefix6(prefix) => write!(f, "{prefix}"),
            Self::List(items) => {
                f.write_char('[')?;
                join(f, items, |f, item| item.inside(f))?;
                f.write_char(']')
            }
            Self::Record(fields) => braced(f, fields, |f, (name, value)| {
                quoted(f, name)?;
                f.write_str(" = ")?;
                value.inside(f)
            }),
            Self::Options(options) => braced(f, options, |f, option| {
                write!(f, "{} = ", option.key())?;
                option.value.inside(f)
            }),
        }
    }
}

/// The text that octets spell, if they spell one that a person would read as such.
pub(in crate::layout) fn printable(octets: &[u8]) -> Option<&str> {
    let spelled = octets.len() > 2 && octets.iter().all(|octet| (b' '..=b'~').contains(octet));
    str::from_utf8(octets).ok().filter(|_| spelled)
}

type WriteItem<T> = fn(&mut fmt::Formatter<'_>, &T) -> fmt::Result;

fn join<T>(f: &mut fmt::Formatter<'_>, items: &[T], put: WriteItem<T>) -> fmt::Result {
    for (index, item) in items.iter().enumerate() {
        if index > 0 {
            f.write_str(", ")?;
        }
        put(f, item)?;
    }
    Ok(())
}

fn braced<T>(f: &mut fmt::Formatter<'_>, items: &[T], put: WriteItem<T>) -> fmt::Result {
    f.write_str("{ ")?;
    join(f, items, put)?;
    f.write_str(if items.is_empty() { "}" } else { " }" })
}

/// The text as it is, or in quotes where it would be read as something else.
fn quoted(f: &mut fmt::Formatter<'_>, text: &str) -> fmt::Result {
    let odd = |c: char| matches!(c, ',' | '[' | ']' | '{' | '}' | '"' | '=' | '\\') || c.is_control();
    if !text.is_empty() && !text.contains(odd) && text.trim() == text {
        return f.write_str(text);
    }
    f.write_char('"')?;
    for c in text.chars() {
        if matches!(c, '"' | '\\') {
            f.write_char('\\')?;
        }
        f.write_char(c)?;
    }
    f.write_char('"')
}
