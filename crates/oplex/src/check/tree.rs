//! An option and those inside it, as its rules see them.

use std::cell::OnceCell;
use std::ops::Range;

use crate::codebook::{Codebook, Definition};
use crate::family::Protocol;
use crate::finding::Finding;
use crate::layout::{Fault, NestedOption, Value};

/// Who looks at octets, and from where.
#[derive(Clone, Copy)]
pub(super) struct View<'c> {
    pub(super) codebook: &'c Codebook,
    /// The number of the message's type, where the option stands in one.
    pub(super) message: Option<(Protocol, u8)>,
    /// Whether the octets were received.
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
    /// Whether something is wrong with its form.
    pub(super) is_broken: bool,
    /// In a box, as few are decoded.
    value: OnceCell<Option<Box<Value>>>,
}

impl<'v> Inner<'v> {
    pub(super) fn of(codebook: &'v Codebook, one: &NestedOption, faults: &[Fault]) -> Self {
        Self {
            code: one.code,
            definition: codebook.nested(one.chapter, one.code),
            inside: one.inside,
            around: one.around.clone(),
            payload: one.payload.clone(),
            is_broken: faults.iter().any(|fault| overlaps(&fault.octets, &one.around)),
            value: OnceCell::new(),
        }
    }
}

/// The options inside an option as a tree.
pub(super) struct Tree<'v> {
    codebook: &'v Codebook,
    /// The outermost, with its octets.
    pub(super) definition: &'v Definition,
    pub(super) octets: &'v [u8],
    value: OnceCell<Option<Box<Value>>>,
    pub(super) all: &'v [Inner<'v>],
    /// Whether the octets are plainly right, and every option in them.
    pub(super) is_plain: bool,
}

impl<'v> Tree<'v> {
    pub(super) fn of(
        codebook: &'v Codebook,
        definition: &'v Definition,
        octets: &'v [u8],
        all: &'v [Inner<'v>],
        is_plain: bool,
    ) -> Self {
        Self { codebook, definition, octets, value: OnceCell::new(), all, is_plain }
    }

    /// What one of them, or the outermost, means: decoded when a rule wants to know.
    pub(super) fn value(&self, at: Option<usize>) -> Option<&Value> {
        let (cell, definition, octets) = match at.map(|at| &self.all[at]) {
            None => (&self.value, Some(self.definition), self.octets),
            Some(inner) => {
                let octets = self.octets.get(inner.payload.clone()).unwrap_or_default();
                (&inner.value, inner.definition, octets)
            }
        };
        cell.get_or_init(|| self.codebook.decode(definition?, octets).0.map(Box::new)).as_deref()
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
