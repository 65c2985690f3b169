//! The one walk through an option that all of its rules share: what is wrong with its form, the options inside, and every single
//! thing in it. Nothing is decoded, and nothing allocated where few things are in it and nothing is wrong.

use std::ops::Range;

use smallvec::SmallVec;

use super::declare::{AtomSeen, Check};
use crate::codebook::{Codebook, Definition, Picked};
use crate::finding::Finding;
use crate::layout::{Fault, Finder, Framing, Scalar, ScalarForm, Shape, Visitor};

/// So many single things in an option take no allocation.
const FEW: usize = 12;

/// The single things in an option, those of options inside it as well, in the order of the octets.
pub(super) type Things<'v> = SmallVec<[Thing<'v>; FEW]>;

/// A single thing in an option.
#[derive(Clone)]
pub(super) struct Thing<'v> {
    pub(super) form: ScalarForm<'v>,
    pub(super) scalar: Scalar<'v>,
    /// The field or option that it stands in.
    pub(super) name: Option<&'v str>,
    pub(super) octets: Range<usize>,
    /// Which of the options inside it is of; `None` where that is the outermost.
    inside: Option<usize>,
    /// Whether it is all of a field of that option's record.
    pub(super) is_field: bool,
}

impl Thing<'_> {
    /// Whether it is all of this field of the record that an option is.
    pub(super) fn is_field_of(&self, option: Option<usize>, name: &str) -> bool {
        self.is_field && self.inside == option && self.name == Some(name)
    }
}

/// What a rule about single things found, and where.
pub(super) type InAtom = (&'static Check, Finding, Range<usize>);

/// What the walk came to. It is large, so that one is there for all options of a message.
#[derive(Default)]
pub(super) struct Scan<'v> {
    picked: Option<&'v Picked>,
    wants_things: bool,
    pub(super) faults: Vec<Fault>,
    pub(super) found: Vec<InAtom>,
    pub(super) things: Things<'v>,
    pub(super) finder: Finder,
    name: Option<&'v str>,
    /// Whether the next thing is all of a field.
    at_field: bool,
}

impl<'v> Scan<'v> {
    /// Walks through an option, and forgets the last.
    #[inline]
    pub(super) fn walk(
        &mut self,
        codebook: &'v Codebook,
        definition: &'v Definition,
        octets: &'v [u8],
        picked: &'v Picked,
    ) {
        (self.picked, self.wants_things) = (Some(picked), picked.wants_things);
        self.faults.clear();
        self.found.clear();
        self.things.clear();
        self.finder.clear();
        (self.name, self.at_field) = (None, false);
        codebook.layout(definition).walk(codebook, octets, self);
    }
}

impl<'v> Visitor<'v, 'v> for Scan<'v> {
    fn begin(&mut self, shape: Shape<'v>, at: usize) {
        self.at_field = false;
        if let Shape::Option { name, .. } = shape {
            self.name = name;
        }
        self.finder.begin(shape, at);
    }

    fn end(&mut self, at: usize) {
        self.at_field = false;
        self.finder.end(at);
    }

    fn field(&mut self, name: &'v str) {
        (self.name, self.at_field) = (Some(name), true);
    }

    fn frame(&mut self, frame: Framing, octets: Range<usize>) {
        self.finder.frame(frame, octets);
    }

    fn scalar(&mut self, form: ScalarForm<'v>, scalar: Scalar<'v>, octets: Range<usize>) {
        for (check, find) in self.picked.into_iter().flat_map(|picked| picked.in_atoms(scalar)) {
            if let Some(finding) = find(&AtomSeen { form, scalar }) {
                self.found.push((check, finding, octets.clone()));
            }
        }
        if self.wants_things {
            let (inside, depth) = self.finder.innermost();
            let is_field = self.at_field && depth == 1;
            self.things.push(Thing { form, scalar, name: self.name, octets, inside, is_field });
        }
        self.at_field = false;
    }

    fn fault(&mut self, fault: Fault) {
        self.faults.push(fault);
    }
}
