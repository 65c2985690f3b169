//! Ways into octets that need no layout: what a release says of where something stands in an option.

use serde::{Deserialize, Serialize};

use crate::layout::{Atom, Node, Selector};

/// One step into the octets of an option. Each begins where the step before it led to; the first begins with the whole payload.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
#[non_exhaustive]
pub enum OctetStep {
    /// Behind this part.
    Skip(OctetPart),
    /// Into this part; where it has its length in front, behind that.
    Take(OctetPart),
    /// Into each of the items that stand one after the other, each of which is made of these parts.
    Each(Vec<OctetPart>),
    /// Into the sub-options of this code, among those that stand one after the other with an octet for the code and one for the
    /// length.
    Option(u16),
}

/// A part of an option's octets, by how long it is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
#[non_exhaustive]
pub enum OctetPart {
    /// So many octets.
    Octets(usize),
    /// A length of so many octets, and as many octets as it says.
    Length(usize),
}

/// How long a part of a layout is, where one of the two ways to say so holds.
pub(super) fn part(node: &Node) -> Option<OctetPart> {
    match node {
        Node::Sized(prefix, _) if prefix.extra == 0 => Some(OctetPart::Length(prefix.octets)),
        Node::Zeros(octets) => Some(OctetPart::Octets(*octets)),
        Node::Atom(atom) => octets(atom).map(OctetPart::Octets),
        Node::Bits(fields) => {
            Some(OctetPart::Octets(fields.iter().map(|field| field.width as usize).sum::<usize>() / 8))
        }
        Node::Repeat(inner, count) => match part(inner)? {
            OctetPart::Octets(octets) => Some(OctetPart::Octets(octets * count.fixed()?)),
            OctetPart::Length(_) => None,
        },
        _ => None,
    }
}

/// How many octets an atom has, where it is always the same number.
fn octets(atom: &Atom) -> Option<usize> {
    Some(match atom {
        Atom::Number(number) => number.octets,
        Atom::Bool => 1,
        Atom::Seconds(_) | Atom::Ipv4(_) | Atom::Netmask => 4,
        Atom::Mac => 6,
        Atom::Ipv6(_) | Atom::Uuid | Atom::Guid => 16,
        Atom::Empty => 0,
        Atom::Run(_, count) => count.fixed()?,
        _ => return None,
    })
}

/// Where the number stands that a field of a record keeps for later choices: how many octets before it, and how many it has.
pub(super) fn selected(fields: &[crate::layout::Field], by: &Selector) -> Option<(usize, usize)> {
    let mut before = 0;
    for field in fields {
        let OctetPart::Octets(length) = part(&field.node)? else { return None };
        if field.keep == Some(by.slot) {
            return Some((before, length));
        }
        before += length;
    }
    None
}
