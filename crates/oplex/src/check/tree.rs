//! An option and those inside it, as its rules see them.

use std::borrow::Cow;
use std::ops::Range;

use crate::codebook::{Codebook, Definition};
use crate::family::Protocol;
use crate::finding::Finding;
use crate::layout::{Decoded, NestedOption, SubOption, Value};

/// Who looks at octets, and from where.
#[derive(Clone, Copy)]
pub(super) struct View<'c> {
    pub(super) codebook: &'c Codebook,
    /// The number of the message's type, where the option stands in one.
    pub(super) message: Option<(Protocol, u8)>,
    /// Whether somebody else sent the octets.
    pub(super) received: bool,
    /// How many messages are around this one.
    pub(super) depth: u8,
    /// What the rules find in a message that an option carries.
    pub(super) carried: FindInCarried,
}

/// Looks at a message that an option carries, with how many messages are around it.
pub(super) type FindInCarried = fn(&Codebook, Carried<'_>) -> Vec<Finding>;

/// A message that an option carries.
pub(super) struct Carried<'o> {
    pub(super) protocol: Protocol,
    pub(super) octets: &'o [u8],
    /// The code of the option.
    pub(super) by: u16,
    /// The type of the message that the option stands in.
    pub(super) within: Option<(Protocol, u8)>,
    pub(super) depth: u8,
}

/// One of the options inside another, in the order of their octets.
pub(super) struct Inner<'v> {
    pub(super) code: u16,
    pub(super) definition: Option<&'v Definition>,
    /// The one it stands in; `None` where that is the outermost.
    pub(super) inside: Option<usize>,
    pub(super) around: Range<usize>,
    pub(super) payload: Range<usize>,
    /// What it means; `None` where something is wrong with its form.
    pub(super) value: Option<Cow<'v, Value>>,
}

/// The options inside an option as a tree.
pub(super) struct Tree<'v> {
    pub(super) all: Vec<Inner<'v>>,
}

impl<'v> Tree<'v> {
    pub(super) fn of(codebook: &'v Codebook, octets: &[u8], decoded: &'v Decoded) -> Self {
        let mut values = Vec::new();
        // Where nothing is wrong, the value holds the same options in the same order.
        if let Some(value) = decoded.value.as_ref().filter(|_| decoded.faults.is_empty()) {
            gather(value, &mut values);
        }
        let whole = values.len() == decoded.options.len();
        let inner = |(at, one): (usize, &'v NestedOption)| {
            let definition = codebook.nested(one.chapter, one.code);
            let broken = || decoded.faults.iter().any(|fault| overlaps(&fault.octets, &one.around));
            let value = match values.get(at).filter(|value| whole && value.code == one.code) {
                Some(value) => Some(Cow::Borrowed(&value.value)),
                None if broken() => None,
                None => definition
                    .zip(octets.get(one.payload.clone()))
                    .and_then(|(definition, octets)| codebook.decode(definition, octets).0.map(Cow::Owned)),
            };
            let (around, payload) = (one.around.clone(), one.payload.clone());
            Inner { code: one.code, definition, inside: one.inside, around, payload, value }
        };
        Self { all: decoded.options.iter().enumerate().map(inner).collect() }
    }

    /// Those that stand directly in one of them, or in the outermost.
    pub(super) fn inside(&self, at: Option<usize>) -> impl Iterator<Item = &Inner<'v>> {
        let (from, end) = at.map_or((0, usize::MAX), |at| (at + 1, self.all[at].around.end));
        let within = self.all[from..].iter().take_while(move |inner| inner.around.start < end);
        within.filter(move |inner| inner.inside == at)
    }

    /// The innermost that holds these octets.
    pub(super) fn innermost(&self, octets: &Range<usize>) -> Option<usize> {
        // They are in the order of their octets, and what is inside follows what is around.
        let before = self.all.partition_point(|inner| inner.around.start <= octets.start);
        let mut at = before.checked_sub(1)?;
        loop {
            let inner = &self.all[at];
            if octets.end <= inner.around.end && (octets.start < inner.around.end || octets.is_empty()) {
                return Some(at);
            }
            at = inner.inside?;
        }
    }
}

pub(super) fn overlaps(one: &Range<usize>, other: &Range<usize>) -> bool {
    one.start <= other.end && other.start < one.end.max(one.start + 1)
}

/// All options in a value, in the order of their octets.
fn gather<'v>(value: &'v Value, all: &mut Vec<&'v SubOption>) {
    match value {
        Value::List(items) => items.iter().for_each(|item| gather(item, all)),
        Value::Record(fields) => fields.iter().for_each(|(_, field)| gather(field, all)),
        Value::Options(options) => {
            for option in options {
                all.push(option);
                gather(&option.value, all);
            }
        }
        _ => {}
    }
}
