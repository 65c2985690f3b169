//! Single things in an option's octets, for rules that need no more of its value: nothing is decoded, and nothing allocated.

use std::net::{Ipv4Addr, Ipv6Addr};

use crate::layout::{Atom, Layout, Node, Number, Scalar};
use crate::octets::number;

/// What these fields of an option hold, where it is a record, and those of them that there are stand before anything whose length
/// varies, as they do in most.
pub(super) fn at_fixed_places<'o, const N: usize>(
    root: &Node,
    octets: &'o [u8],
    names: [&str; N],
) -> Option<[Option<Scalar<'o>>; N]> {
    let Node::Record(fields) = root else { return None };
    let (mut found, mut rest) = ([None; N], octets);
    let place = |name: &str| names.iter().position(|known| *known == name);
    for (at, field) in fields.iter().enumerate() {
        if let Node::Zeros(count) = field.node {
            rest = rest.get(count..)?;
            continue;
        }
        let Some(scalar) = fixed(&field.node, &mut rest) else {
            let are_before = fields[at..].iter().all(|field| place(&field.name).is_none());
            return are_before.then_some(found);
        };
        if let Some(at) = place(&field.name) {
            found[at] = Some(scalar);
            if found.iter().all(Option::is_some) {
                break;
            }
        }
    }
    Some(found)
}

/// Takes a single thing of a length of its own from the front of the octets.
pub(super) fn fixed<'o>(node: &Node, rest: &mut &'o [u8]) -> Option<Scalar<'o>> {
    let mut take = |length: usize| {
        let (own, after) = rest.split_at_checked(length)?;
        *rest = after;
        Some(own)
    };
    Some(match node {
        Node::Atom(Atom::Number(Number { signed: false, octets, .. })) => Scalar::Number(number(take(*octets)?)),
        Node::Atom(Atom::Seconds(_)) => Scalar::Seconds(number(take(4)?) as u32),
        Node::Atom(Atom::Ipv4(_)) => Scalar::Ipv4(Ipv4Addr::from(*take(4)?.first_chunk()?)),
        Node::Atom(Atom::Ipv6(_)) => Scalar::Ipv6(Ipv6Addr::from(*take(16)?.first_chunk::<16>()?)),
        _ => return None,
    })
}

/// The names of a list that stands alone or behind what has a length of its own, where nothing is wrong with it: each ends with its
/// root label.
pub(super) fn names<'o>(layout: &Layout, octets: &'o [u8]) -> Option<impl Iterator<Item = &'o [u8]>> {
    let (mut rest, mut list) = (octets, layout.root());
    if let Node::Record(fields) = list {
        let (last, before) = fields.split_last()?;
        list = &last.node;
        for field in before {
            match field.node {
                Node::Zeros(count) => rest = rest.get(count..)?,
                _ => _ = fixed(&field.node, &mut rest)?,
            }
        }
    }
    // Zeros that fill up are no names.
    let is_padded = matches!(list, Node::Padded(..));
    if let Node::Padded(_, inner) = list {
        list = &**inner;
    }
    let next = move || {
        let mut end = 0;
        while let Some(length @ 1..) = rest.get(end) {
            end += 1 + usize::from(*length);
        }
        let (name, after) = rest.split_at_checked(end + 1).filter(|_| end > 0 || !is_padded)?;
        rest = after;
        Some(name)
    };
    let is_of_names = matches!(list, Node::Repeat(item, _) if matches!(**item, Node::Atom(Atom::Name)));
    is_of_names.then(|| std::iter::from_fn(next))
}
