//! What can be sent from a layout alone: how many octets it takes, and whether every payload reads one way only.

use crate::layout::atoms::{never, unsound as atom_unsound};
use crate::layout::form::atom::{Atom, Count, Head, Lengths, Run};
use crate::layout::node::{Node, padding};
use crate::prelude::*;

pub(in crate::layout) fn lengths(node: &Node) -> Lengths {
    match node {
        Node::Atom(atom) => atom.lengths(),
        Node::Record(fields) => fields.iter().map(|field| lengths(&field.node)).fold((0, Some(0)), |sum, one| {
            (sum.0.saturating_add(one.0), sum.1.zip(one.1).map(|(a, b)| a.saturating_add(b)))
        }),
        Node::Repeat(item, count) => times(lengths(item), *count),
        Node::Optional(inner) => (0, lengths(inner).1),
        Node::Sized(prefix, inner) => {
            let (min, max) = lengths(inner);
            let limit = (1usize << (8 * prefix.octets)) - 1 - prefix.extra;
            (min.saturating_add(prefix.octets), Some(prefix.octets + max.map_or(limit, |max| max.min(limit))))
        }
        Node::Padded(before, inner) => {
            let padded = |octets: usize| octets.saturating_add(padding(octets.saturating_add(*before)));
            let (min, max) = lengths(inner);
            (padded(min), max.map(padded))
        }
        Node::Zeros(count) => (*count, Some(*count)),
        Node::Options(nested) => (nested.count.min.saturating_mul(nested.header), None),
        Node::Choice(choice) => {
            let arms = choice.arms.iter().map(|(_, node)| node).chain(choice.otherwise.as_deref());
            arms.map(lengths).reduce(|a, b| (a.0.min(b.0), a.1.zip(b.1).map(|(a, b)| a.max(b)))).unwrap_or((0, Some(0)))
        }
        Node::Pairs(_) => (1, None),
        Node::Bits(fields) => {
            let octets = fields.iter().map(|field| field.width as usize).sum::<usize>() / 8;
            (octets, Some(octets))
        }
    }
}

fn times((min, max): Lengths, count: Count) -> Lengths {
    // Counts of counts may say more than any payload has; that is then simply never reached.
    (min.saturating_mul(count.min), max.zip(count.max).map(|(max, count)| max.saturating_mul(count)))
}

/// How many parts stand in each other, the innermost included.
pub(in crate::layout) fn depth(node: &Node) -> usize {
    let inner = match node {
        Node::Record(fields) => fields.iter().map(|field| depth(&field.node)).max(),
        Node::Repeat(inner, _) | Node::Optional(inner) | Node::Sized(_, inner) | Node::Padded(_, inner) => {
            Some(depth(inner))
        }
        Node::Choice(choice) => {
            choice.arms.iter().map(|(_, node)| node).chain(choice.otherwise.as_deref()).map(depth).max()
        }
        Node::Atom(_) | Node::Zeros(_) | Node::Options(_) | Node::Pairs(_) | Node::Bits(_) => None,
    };
    1 + inner.unwrap_or(0)
}

/// Whether the part takes all the octets that are left to it.
fn takes_the_rest(node: &Node) -> bool {
    match node {
        Node::Atom(Atom::Run(_, count)) => count.fixed().is_none(),
        Node::Atom(Atom::PartialName | Atom::Names(_) | Atom::Duid | Atom::Ipv6Head(Head::Needed | Head::By(_)))
        | Node::Padded(..)
        | Node::Optional(_)
        | Node::Options(_)
        | Node::Pairs(_) => true,
        Node::Atom(_) | Node::Sized(..) | Node::Zeros(_) | Node::Bits(_) => false,
        Node::Record(fields) => fields.last().is_some_and(|field| takes_the_rest(&field.node)),
        Node::Repeat(_, count) => count.fixed().is_none(),
        Node::Choice(choice) => {
            choice.arms.iter().map(|(_, node)| node).chain(choice.otherwise.as_deref()).any(takes_the_rest)
        }
    }
}

/// Why payloads of this layout could be read in two ways or never to an end, if they could.
pub(in crate::layout) fn ambiguity(node: &Node) -> Option<String> {
    match node {
        Node::Atom(atom) => atom_unsound(atom),
        Node::Options(_) | Node::Pairs(_) => None,
        Node::Zeros(_) => Some("zeros hold no value, so they must be a field of a record".to_owned()),
        Node::Padded(_, inner) if !ends_before_zeros(inner) => {
            Some("ambiguous: the end of this part is not distinguishable from the zeros after it".to_owned())
        }
        Node::Padded(_, inner) => ambiguity(inner),
        Node::Bits(fields) => fields.iter().find_map(|field| {
            let bound = field.bound.filter(|_| field.fraction.is_none())?;
            let max = if field.signed { 1i128 << (field.width - 1) } else { 1i128 << field.width };
            let min = if field.signed { -max } else { 0 };
            never(bound, min, max - 1).map(|why| format!("`{}`: {why}", field.name))
        }),
        Node::Record(fields) => record_unsound(fields),
        Node::Optional(inner) if lengths(inner).0 == 0 => {
            Some("ambiguous: `?` after a part that may itself be empty".to_owned())
        }
        Node::Repeat(item, _) if lengths(item).0 == 0 => Some("a repeated part may not be empty".to_owned()),
        Node::Repeat(item, count) if *count != (Count { min: 1, max: Some(1) }) && takes_the_rest(item) => Some(
            "the repeated part takes all octets that are left, so a second one never comes; \
             give it a length in front, `len8(…)`"
                .to_owned(),
        ),
        Node::Repeat(inner, _) | Node::Optional(inner) | Node::Sized(_, inner) => ambiguity(inner),
        Node::Choice(choice) => {
            choice.arms.iter().map(|(_, node)| node).chain(choice.otherwise.as_deref()).find_map(ambiguity)
        }
    }
}

/// Whether it shows where the part ends when zeros follow: text has none, a name ends in one, and what has a length or a
/// fixed number of octets needs no end.
fn ends_before_zeros(node: &Node) -> bool {
    match node {
        Node::Atom(Atom::Run(run, _)) => *run != Run::Bytes,
        Node::Repeat(item, count) => {
            **item == Node::Atom(Atom::Name) || count.fixed().is_some() && ends_before_zeros(item)
        }
        Node::Optional(inner) => !takes_the_rest(inner),
        Node::Record(fields) => fields.iter().all(|field| ends_before_zeros(&field.node)),
        other => !takes_the_rest(other),
    }
}

fn record_unsound(fields: &[crate::layout::node::Field]) -> Option<String> {
    for (index, field) in fields.iter().enumerate() {
        let later = &fields[index + 1..];
        let optional = |field: &crate::layout::node::Field| matches!(field.node, Node::Optional(_));
        let tail_of_optionals = |inner: &Node| !takes_the_rest(inner) && later.iter().all(optional);
        let last = later.is_empty()
            || matches!(&field.node, Node::Optional(inner) if tail_of_optionals(inner))
            || later.iter().all(|later| lengths(&later.node) == (0, Some(0)));
        if !last && takes_the_rest(&field.node) {
            return Some(format!(
                "`{}` takes all octets that are left, so `{}` never gets any; put it last or give it a length",
                field.name, later[0].name
            ));
        }
        if matches!(field.node, Node::Zeros(_)) {
            continue;
        }
        if let Some(why) = ambiguity(&field.node) {
            return Some(why);
        }
    }
    None
}
