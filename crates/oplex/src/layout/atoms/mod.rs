//! Single things: one table of their words, and for each family of them a file that reads and writes it.

use crate::prelude::*;
mod address;
mod identifier;
mod names;
mod number;
mod run;

use crate::layout::form::atom::{Atom, Count, Head, Lengths, Meaning, Names, Number, Role, Run};
use crate::layout::value::atom_error::AtomError;

use super::Nesting;
use super::encode::{EncodeError, Encoder, wrong};
use super::scalar::Scalar;
use super::value::Value;
use super::walk::{ScalarForm, Visitor, Walked, Walker};

pub(super) use names::end_of_plain_name;
pub use number::duration;
pub(super) use number::{fit, integer, member, never, objection, seconds, unsound};
pub(super) use run::{is_plain_dotted_name, is_plain_uri, is_printable};

/// A word of the language for a single thing, and what is always so of it.
pub(super) struct Word {
    pub(super) word: &'static str,
    /// The thing that the word alone means.
    pub(super) atom: Atom,
    lengths: Lengths,
    /// Whether it has a form as text that needs no octets of its own, so that it can stand in `KEY=value` text.
    text: bool,
    /// How messages describe what should have been written.
    form: &'static str,
}

const fn word(word: &'static str, atom: Atom, lengths: Lengths, text: bool, form: &'static str) -> Word {
    Word { word, atom, lengths, text, form }
}

const fn number(octets: usize, signed: bool) -> Atom {
    Atom::Number(Number { octets, signed, meaning: Meaning::Plain, bound: None })
}

/// All of them: what the parser knows and suggests, what the printer writes, and what the documentation shows.
pub(super) static WORDS: [Word; 30] = [
    word("u8", number(1, false), (1, Some(1)), true, "a whole number"),
    word("u16", number(2, false), (2, Some(2)), true, "a whole number"),
    word("u24", number(3, false), (3, Some(3)), true, "a whole number"),
    word("u32", number(4, false), (4, Some(4)), true, "a whole number"),
    word("u64", number(8, false), (8, Some(8)), true, "a whole number"),
    word("i8", number(1, true), (1, Some(1)), true, "a whole number"),
    word("i32", number(4, true), (4, Some(4)), true, "a whole number"),
    word("bool", Atom::Bool, (1, Some(1)), true, "`true` or `false`"),
    word("seconds", Atom::Seconds(None), (4, Some(4)), true, "seconds or a duration such as \"8h\""),
    word("ipv4", Atom::Ipv4(Role::Host), (4, Some(4)), true, "an address in quotes, \"10.64.4.1\""),
    word("ipv6", Atom::Ipv6(Role::Host), (16, Some(16)), true, "an address in quotes, \"2001:db8::53\""),
    word("ipv6-head", Atom::Ipv6Head(Head::Needed), (0, Some(16)), true, "an address in quotes, \"2001:db8::53\""),
    word("netmask", Atom::Netmask, (4, Some(4)), true, "a mask in quotes, \"255.255.254.0\""),
    word("route4", Atom::Route4, (5, Some(9)), false, "a route in quotes, \"10.64.8.0/21 via 10.64.4.1\""),
    word("prefix6", Atom::Prefix6, (1, Some(17)), false, "a prefix in quotes, \"2001:db8:64::/48\""),
    word("mac", Atom::Mac, (6, Some(6)), true, "a hardware address in quotes, \"02:00:5e:00:53:11\""),
    word("duid", Atom::Duid, (3, Some(130)), false, "hexadecimal digits in quotes"),
    word("uuid", Atom::Uuid, (16, Some(16)), false, "hexadecimal digits in quotes"),
    word("guid", Atom::Guid, (16, Some(16)), false, "hexadecimal digits in quotes"),
    word("text", Atom::Run(Run::Text, Count::SOME), (1, None), true, "text in quotes"),
    word("text-and-octets", Atom::Run(Run::TextAndOctets, Count::SOME), (1, None), false, "text in quotes"),
    word("dotted-name", Atom::Run(Run::DottedName, Count::SOME), (1, None), true, "text in quotes"),
    word("utf8", Atom::Run(Run::Utf8, Count::SOME), (1, None), true, "text in quotes"),
    word("uri", Atom::Run(Run::Uri, Count::SOME), (1, None), true, "text in quotes"),
    word("bytes", Atom::Run(Run::Bytes, Count::SOME), (1, None), false, "octets in quotes, \"0a:40:04:01\""),
    word("empty", Atom::Empty, (0, Some(0)), false, "`true`"),
    word("name", Atom::Name, (1, Some(255)), false, "a name in quotes, \"tarnfell.example\""),
    word("partial-name", Atom::PartialName, (0, Some(255)), false, "a name in quotes, \"tarnfell.example\""),
    word(
        "compressed-names",
        Atom::Names(Names::Compressed),
        (1, None),
        false,
        "a name in quotes, \"tarnfell.example\"",
    ),
    word("lenient-names", Atom::Names(Names::Lenient), (1, None), false, "a name in quotes, \"tarnfell.example\""),
];

impl Atom {
    fn entry(&self) -> &'static Word {
        let same = |known: &Self| match (known, self) {
            (Self::Number(one), Self::Number(other)) => (one.octets, one.signed) == (other.octets, other.signed),
            (Self::Run(one, _), Self::Run(other, _)) => one == other,
            (Self::Names(one), Self::Names(other)) => one == other,
            (one, other) => core::mem::discriminant(one) == core::mem::discriminant(other),
        };
        WORDS.iter().find(|entry| same(&entry.atom)).unwrap_or(&WORDS[0])
    }

    /// The word that layouts write for it.
    pub(super) fn word(&self) -> &'static str {
        self.entry().word
    }

    pub(super) fn form(&self) -> &'static str {
        self.entry().form
    }

    /// Whether the thing has a form as text that needs no octets of its own.
    pub(super) fn has_text(&self) -> bool {
        self.entry().text && !matches!(self, Self::Number(Number { meaning: Meaning::Flags(_), .. }))
    }

    pub(super) fn lengths(&self) -> Lengths {
        match self {
            Self::Run(_, count) => (count.min, count.max),
            Self::Ipv6Head(Head::Octets(count)) => (*count, Some(*count)),
            other => other.entry().lengths,
        }
    }

    /// Reads it from text, if it [has text](Atom::has_text), and a few more.
    pub(super) fn scalar<'t>(&self, text: &'t str) -> Result<Scalar<'t>, AtomError> {
        match self {
            Self::Number(form) => number::number(form, text),
            Self::Bool => number::truth(text),
            Self::Seconds(_) => seconds(text).map(Scalar::Seconds),
            Self::Ipv4(_) => address::address(text).map(Scalar::Ipv4),
            Self::Ipv6(_) | Self::Ipv6Head(_) => address::address(text).map(Scalar::Ipv6),
            Self::Netmask => address::netmask(text).map(Scalar::Ipv4),
            Self::Route4 => address::route4(text),
            Self::Prefix6 => address::prefix6(text),
            Self::Mac => identifier::mac(text).map(Scalar::Mac),
            Self::Uuid | Self::Guid => identifier::uuid(text).map(Scalar::Uuid),
            Self::Run(..) => Ok(Scalar::Text(text)),
            Self::Empty if matches!(text, "" | "empty" | "true") => Ok(Scalar::Empty),
            Self::Empty => Err(AtomError::all(text, "this takes no value; write `true`")),
            Self::Name | Self::PartialName | Self::Names(_) | Self::Duid => {
                Err(AtomError::all(text, "this has no form as plain text"))
            }
        }
    }
}

impl<'l, 'o, V: Visitor<'l, 'o>, N: Nesting + ?Sized> Walker<'l, 'o, '_, V, N> {
    #[inline]
    pub(super) fn array<const WIDTH: usize>(&self, at: usize) -> [u8; WIDTH] {
        let mut octets = [0; WIDTH];
        octets.copy_from_slice(&self.octets[at..at + WIDTH]);
        octets
    }

    #[inline]
    pub(super) fn atom(&mut self, atom: &'l Atom, at: usize, end: usize) -> Walked {
        let (next, scalar) = match atom {
            Atom::Ipv4(_) => self.ipv4(at, end)?,
            Atom::Number(number) => return self.number(number, atom, at, end),
            Atom::Run(run, count) => return self.run(*run, *count, atom, at, end),
            Atom::Bool => self.truth(at, end)?,
            Atom::Seconds(_) => self.seconds(atom, at, end)?,
            Atom::Netmask => self.netmask(at, end)?,
            Atom::Ipv6(_) => self.ipv6(at, end)?,
            Atom::Mac => self.mac(at, end)?,
            Atom::Uuid | Atom::Guid => self.uuid(atom, at, end)?,
            Atom::Duid => self.duid(at, end),
            Atom::Empty => (at, Scalar::Empty),
            Atom::Name => return self.name(ScalarForm::Atom(atom), at, end),
            Atom::PartialName => return self.partial_name(atom, at, end),
            Atom::Names(_) => return self.names(atom, at, end),
            Atom::Route4 => self.route4(at, end)?,
            Atom::Prefix6 => self.prefix6(at, end)?,
            Atom::Ipv6Head(head) => self.ipv6_head(head, at, end)?,
        };
        self.visitor.scalar(ScalarForm::Atom(atom), scalar, at..next);
        Ok(next)
    }
}

impl Encoder<'_> {
    pub(super) fn atom(&mut self, atom: &Atom, value: &Value) -> Result<(), EncodeError> {
        match (atom, value) {
            (Atom::Number(form), _) => return self.number(form, value),
            (Atom::Seconds(_), _) => return self.seconds(value),
            (Atom::Bool, Value::Bool(on)) => self.leaf(&[u8::from(*on)]),
            (Atom::Mac, Value::Mac(octets)) => self.leaf(octets),
            (Atom::Uuid, Value::Uuid(octets)) => self.leaf(octets),
            (Atom::Guid, Value::Uuid(octets)) => self.leaf(&identifier::swapped(*octets)),
            (Atom::Run(Run::Bytes, _) | Atom::Duid, Value::Bytes(octets)) => self.leaf(octets),
            (Atom::Run(run, _), Value::Text(text)) if *run != Run::Bytes => self.leaf(text.as_bytes()),
            (Atom::Empty, Value::Empty) => self.leaf(&[]),
            (Atom::Name | Atom::PartialName, Value::Name(text) | Value::Text(text)) => return self.name(atom, text),
            (_, Value::Ipv4(_) | Value::Ipv6(_) | Value::Route4(_) | Value::Prefix6(_)) => {
                return self.address(atom, value);
            }
            (_, value) => return wrong(format!("`{value}` is not of this layout's form")),
        }
        Ok(())
    }
}
