//! Rules about lists.

use std::collections::HashSet;

use smallvec::SmallVec;

use crate::check::declare::{OptionValue, check, checks};
use crate::check::scalars;
use crate::codebook::{Codebook, Definition};
use crate::finding::{Example, Finding};
use crate::layout::{Atom, Layout, Node, Scalar, Value};

checks! { LIST_ITEM_REPEATED }

check! { ValueIf(has_list, list_item_repeated),
    /// a list holds the same item twice
    ///
    /// The duplicate costs octets and changes nothing; usually one digit should be different.
    static LIST_ITEM_REPEATED = "list-item-repeated", Note, AnyOption, "";
    Example::Payload("v4:6", "0a4000350a400035")
}

fn has_list(codebook: &Codebook, definition: &Definition) -> bool {
    codebook.layout(definition).has(&|node| matches!(node, Node::Repeat(..) | Node::Atom(Atom::Names(_))))
}

fn list_item_repeated(one: &OptionValue<'_>) -> Option<Finding> {
    // Many lists are of things of one length, which need not be decoded to be compared.
    if let Some(length) = fixed_items(one.view.codebook.layout(one.definition)) {
        if one.octets.len() <= length {
            return None;
        }
        let at = repeated(one.octets.chunks(length))?;
        let item = one.value().items().get(at)?;
        return Some(LIST_ITEM_REPEATED.finding(format!("duplicate {item} in the list")));
    }
    let differ = match scalars::names(one.view.codebook.layout(one.definition), one.octets) {
        Some(names) => are_new(names, |one, other| one == other),
        None => are_few_and_differ(one),
    };
    if differ {
        return None;
    }
    let item = match one.value() {
        Value::Record(fields) => fields.iter().find_map(|(_, field)| twice(field)),
        value => twice(value),
    };
    item.map(|item| LIST_ITEM_REPEATED.finding(format!("duplicate {item} in the list")))
}

/// Whether there are few things in it, and none of those that may be items is another of them.
fn are_few_and_differ(one: &OptionValue<'_>) -> bool {
    let (mut items, mut are_few) = (SmallVec::<[Scalar<'_>; FEW]>::new(), true);
    one.each_thing(|thing| match items.len() {
        _ if thing.is_field => {}
        FEW => are_few = false,
        _ => items.push(thing.scalar),
    });
    are_few && are_new(items.into_iter(), is_same)
}

/// Whether there are few of these, and none is another.
fn are_new<T: Copy>(items: impl Iterator<Item = T>, is_same: fn(T, T) -> bool) -> bool {
    let mut known: SmallVec<[T; FEW]> = SmallVec::new();
    for item in items {
        if known.len() == FEW || known.iter().any(|other| is_same(*other, item)) {
            return false;
        }
        known.push(item);
    }
    true
}

fn is_same(one: Scalar<'_>, other: Scalar<'_>) -> bool {
    match (one, other) {
        (Scalar::Name(one), Scalar::Name(other)) => one.labels().eq(other.labels()),
        _ => one == other,
    }
}

/// How many octets each item of a list has, where that is fixed.
fn fixed_items(layout: &Layout) -> Option<usize> {
    let Node::Repeat(inner, _) = layout.root() else { return None };
    match &**inner {
        Node::Atom(Atom::Number(number)) => Some(number.octets),
        Node::Atom(Atom::Ipv4(_)) => Some(4),
        Node::Atom(Atom::Ipv6(_)) => Some(16),
        _ => None,
    }
}

/// Which of these is the first to stand there again.
fn repeated<'o>(items: impl ExactSizeIterator<Item = &'o [u8]> + Clone) -> Option<usize> {
    if items.len() <= FEW {
        return items.clone().enumerate().position(|(at, item)| items.clone().take(at).any(|other| other == item));
    }
    // Request lists are the longest, and of single octets.
    let mut single = [false; 256];
    if items.clone().all(|item| item.len() == 1) {
        return items.into_iter().position(|item| std::mem::replace(&mut single[usize::from(item[0])], true));
    }
    let mut known = HashSet::with_capacity(items.len());
    items.into_iter().position(|item| !known.insert(item))
}

/// So few items are compared with each other.
const FEW: usize = 16;

/// The first single thing that stands in a list again.
fn twice(value: &Value) -> Option<&Value> {
    let Value::List(items) = value else { return None };
    let mut leaves = items.iter().filter(|item| item.is_leaf());
    let mut known = HashSet::with_capacity(items.len());
    leaves.find(|item| !known.insert(item.to_string()))
}
