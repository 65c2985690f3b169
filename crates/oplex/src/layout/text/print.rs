//! From a layout's tree back to its text.

use crate::prelude::*;
use core::fmt::{self, Display, Formatter, Write};

use crate::layout::Layout;
use crate::layout::form::atom::{Atom, Bound, Count, Enumeration, Head, Meaning, Number, Role};
use crate::layout::lex::in_quotes;
use crate::layout::node::{BitField, Choice, Node, Pairs};

/// The layout as text that parses to the same layout.
impl Display for Layout {
    fn fmt(&self, f: &mut Formatter<'_>) -> fmt::Result {
        node(f, self.root())
    }
}

fn node(f: &mut Formatter<'_>, at: &Node) -> fmt::Result {
    match at {
        Node::Atom(one) => atom(f, one),
        Node::Record(fields) => braced(f, "{ ", fields, |f, field| {
            write!(f, "{}: ", field.name)?;
            node(f, &field.node)
        }),
        Node::Repeat(item, many) => {
            repeatable(f, item)?;
            count(f, *many)
        }
        Node::Optional(inner) => {
            repeatable(f, inner)?;
            f.write_char('?')
        }
        Node::Sized(prefix, inner) => {
            write!(f, "len{}", prefix.octets * 8)?;
            if prefix.extra > 0 {
                write!(f, "+{}", prefix.extra)?;
            }
            f.write_char('(')?;
            node(f, inner)?;
            f.write_char(')')
        }
        Node::Padded(before, inner) => {
            f.write_str("padded8")?;
            if *before > 0 {
                write!(f, "+{before}")?;
            }
            f.write_char('(')?;
            node(f, inner)?;
            f.write_char(')')
        }
        Node::Zeros(many) => write!(f, "zeros{{{many}}}"),
        Node::Options(nested) => {
            write!(f, "options({}", nested.chapter)?;
            if let Some(by) = &nested.by {
                write!(f, " by {}", by.text)?;
            }
            f.write_char(')')?;
            if nested.count == Count::SOME { Ok(()) } else { count(f, nested.count) }
        }
        Node::Choice(of) => choice(f, of),
        Node::Pairs(of) => pairs(f, of),
        Node::Bits(fields) => braced(f, "bits { ", fields, bit_field),
    }
}

fn choice(f: &mut Formatter<'_>, choice: &Choice) -> fmt::Result {
    let arms = choice.arms.iter().map(|(number, node)| (Some(*number), node));
    let arms: Vec<_> = arms.chain(choice.otherwise.as_deref().map(|node| (None, node))).collect();
    write!(f, "by {} ", choice.by.text)?;
    braced(f, "{ ", &arms, |f, (number, arm)| {
        match number {
            Some(number) => write!(f, "{number} => ")?,
            None => f.write_str("else => ")?,
        }
        node(f, arm)
    })
}

fn pairs(f: &mut Formatter<'_>, pairs: &Pairs) -> fmt::Result {
    write!(f, "pairs({} {}) ", in_quotes(&pairs.between), in_quotes(&pairs.equals))?;
    let keys: Vec<_> = pairs.keys.iter().map(Some).chain(pairs.open.then_some(None)).collect();
    braced(f, "{ ", &keys, |f, key| {
        let Some(key) = key else { return f.write_str("..") };
        let word = key.name.chars().all(|c| c.is_ascii_alphanumeric() || c == '_');
        let word = word && key.name.starts_with(|c: char| c.is_ascii_alphabetic() || c == '_');
        if word {
            f.write_str(&key.name)?;
        } else {
            f.write_str(&in_quotes(&key.name))?;
        }
        f.write_str(if key.required { "!: " } else { ": " })?;
        atom(f, &key.atom)
    })
}

type WriteItem<T> = fn(&mut Formatter<'_>, &T) -> fmt::Result;

fn braced<T>(f: &mut Formatter<'_>, open: &str, items: &[T], put: WriteItem<T>) -> fmt::Result {
    f.write_str(open)?;
    for (index, item) in items.iter().enumerate() {
        if index > 0 {
            f.write_str(", ")?;
        }
        put(f, item)?;
    }
    f.write_str(" }")
}

/// In parentheses where a sign after it would be taken for part of it, or would mean something else.
fn repeatable(f: &mut Formatter<'_>, item: &Node) -> fmt::Result {
    let plain = match item {
        Node::Atom(Atom::Number(number)) => number.bound.is_none() && number.meaning == Meaning::Plain,
        Node::Atom(Atom::Seconds(Some(_))) => false,
        Node::Atom(Atom::Ipv4(role) | Atom::Ipv6(role)) => *role == Role::Host,
        Node::Repeat(..) | Node::Optional(_) | Node::Options(_) | Node::Atom(Atom::Run(..) | Atom::Ipv6Head(_)) => {
            false
        }
        _ => true,
    };
    if plain {
        return node(f, item);
    }
    f.write_char('(')?;
    node(f, item)?;
    f.write_char(')')
}

fn count(f: &mut Formatter<'_>, count: Count) -> fmt::Result {
    match (count.min, count.max) {
        (1, None) => f.write_char('+'),
        (0, None) => f.write_char('*'),
        (min, None) => write!(f, "{{{min}..}}"),
        (min, Some(max)) if min == max => write!(f, "{{{min}}}"),
        (min, Some(max)) => write!(f, "{{{min}..{max}}}"),
    }
}

fn atom(f: &mut Formatter<'_>, atom: &Atom) -> fmt::Result {
    f.write_str(atom.word())?;
    match atom {
        Atom::Number(one) => details(f, one),
        Atom::Run(_, many) if *many != Count::SOME => count(f, *many),
        Atom::Seconds(range) => bound(f, *range),
        Atom::Ipv4(role) | Atom::Ipv6(role) if *role != Role::Host => write!(f, " as {}", role.word()),
        Atom::Ipv6Head(Head::Octets(many)) => write!(f, "{{{many}}}"),
        Atom::Ipv6Head(Head::By(by)) => write!(f, " by {}", by.text),
        _ => Ok(()),
    }
}

fn details(f: &mut Formatter<'_>, number: &Number) -> fmt::Result {
    match &number.meaning {
        Meaning::Plain => {}
        Meaning::Member(of) => named(f, " of ", of)?,
        Meaning::Flags(of) => named(f, " flags ", of)?,
        Meaning::Unit(unit) => write!(f, " unit {}", unit.word())?,
        Meaning::Code(chapter) => write!(f, " code {chapter}")?,
    }
    bound(f, number.bound)
}

fn named(f: &mut Formatter<'_>, word: &str, of: &Enumeration) -> fmt::Result {
    f.write_str(word)?;
    if of.name.is_empty() {
        braced(f, "{ ", &of.members, |f, (number, name)| write!(f, "{name} = {number}"))
    } else {
        f.write_str(&of.name)
    }
}

fn bound(f: &mut Formatter<'_>, bound: Option<Bound>) -> fmt::Result {
    match bound.map(|bound| (bound.min, bound.max)) {
        None => Ok(()),
        Some((Some(min), Some(max))) if min == max => write!(f, " in {min}"),
        Some((Some(min), Some(max))) => write!(f, " in {min}..={max}"),
        Some((min, max)) => {
            f.write_str(" in ")?;
            min.map_or(Ok(()), |min| write!(f, "{min}"))?;
            f.write_str("..")?;
            max.map_or(Ok(()), |max| write!(f, "{max}"))
        }
    }
}

fn bit_field(f: &mut Formatter<'_>, field: &BitField) -> fmt::Result {
    write!(f, "{}: ", field.name)?;
    let sign = if field.signed { "s" } else { "u" };
    match field.fraction {
        Some(fraction) => write!(f, "{sign}{}.{fraction}", field.width - fraction)?,
        None if field.signed => write!(f, "s{}", field.width)?,
        None => write!(f, "{}", field.width)?,
    }
    if let Some(of) = &field.of {
        named(f, " of ", of)?;
    }
    if let Some(unit) = field.unit {
        write!(f, " unit {}", unit.word())?;
    }
    bound(f, field.bound)
}
