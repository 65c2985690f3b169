//! The one walk through an option that all of its rules share: what is wrong with its form and with single things in it, and the
//! options inside. A second collects the single things, where a rule about the option's value looks at them. Nothing is decoded, and
//! nothing allocated where few things are in it and nothing is wrong.

use std::ops::Range;

use super::declare::{AtomSeen, Check};
use super::picked::kind_of;
use crate::codebook::{Codebook, Definition, Picked};
use crate::finding::Finding;
use crate::layout::{Fault, Finder, Framing, Layout, Scalar, ScalarForm, Shape, Visitor};

/// A single thing in an option.
pub(super) struct Thing<'v> {
    pub(super) form: ScalarForm<'v>,
    pub(super) scalar: Scalar<'v>,
    /// The field or option that it stands in.
    pub(super) name: Option<&'v str>,
    pub(super) octets: Range<usize>,
    /// Whether it is all of a field of the record that the option is.
    pub(super) is_field: bool,
}

/// What a rule about single things found, and where.
pub(super) type InAtom = (&'static Check, Finding, Range<usize>);

/// What the walk came to; one is there for all options of a message.
#[derive(Default)]
pub(super) struct Scan<'v> {
    picked: Option<&'v Picked>,
    pub(super) faults: Vec<Fault>,
    pub(super) found: Vec<InAtom>,
    pub(super) finder: Finder,
}

impl<'v> Scan<'v> {
    /// Walks through an option, and forgets the last.
    #[inline]
    pub(super) fn walk(&mut self, codebook: &'v Codebook, layout: &'v Layout, octets: &'v [u8], picked: &'v Picked) {
        self.picked = Some(picked).filter(|picked| !picked.atoms.is_empty());
        self.faults.clear();
        self.forget();
        if !layout.walk_plain(codebook, octets, self) {
            self.forget();
            layout.walk(codebook, octets, self);
        }
    }

    fn forget(&mut self) {
        self.found.clear();
        self.finder.clear();
    }
}

impl<'v> Visitor<'v, 'v> for Scan<'v> {
    #[inline]
    fn begin(&mut self, shape: Shape<'v>, at: usize) {
        self.finder.begin(shape, at);
    }

    #[inline]
    fn end(&mut self, at: usize) {
        self.finder.end(at);
    }

    #[inline]
    fn frame(&mut self, frame: Framing, octets: Range<usize>) {
        self.finder.frame(frame, octets);
    }

    #[inline]
    fn scalar(&mut self, form: ScalarForm<'v>, scalar: Scalar<'v>, octets: Range<usize>) {
        let kind = kind_of(form, scalar);
        let Some(picked) = self.picked.filter(|_| kind != 0) else { return };
        for (check, find) in picked.in_atoms(kind) {
            if let Some(finding) = find(&AtomSeen { form, scalar }) {
                self.found.push((check, finding, octets.clone()));
            }
        }
    }

    fn fault(&mut self, fault: Fault) {
        self.faults.push(fault);
    }
}

/// Hands in the single things in an option with nothing wrong in its form, those of options inside as well, in the order of the
/// octets.
pub(super) fn each_thing<'v>(
    codebook: &'v Codebook,
    definition: &'v Definition,
    octets: &'v [u8],
    hear: &mut dyn FnMut(&Thing<'v>),
) {
    let mut things = Things { hear, depth: 0, name: None, at_field: false };
    codebook.layout(definition).walk(codebook, octets, &mut things);
}

struct Things<'f, 'v> {
    hear: &'f mut dyn FnMut(&Thing<'v>),
    /// How many parts are open.
    depth: usize,
    name: Option<&'v str>,
    /// Whether the next thing is all of a field.
    at_field: bool,
}

impl<'v> Visitor<'v, 'v> for Things<'_, 'v> {
    fn begin(&mut self, shape: Shape<'v>, _: usize) {
        (self.at_field, self.depth) = (false, self.depth + 1);
        if let Shape::Option { name, .. } = shape {
            self.name = name;
        }
    }

    fn end(&mut self, _: usize) {
        (self.at_field, self.depth) = (false, self.depth.saturating_sub(1));
    }

    fn field(&mut self, name: &'v str) {
        (self.name, self.at_field) = (Some(name), true);
    }

    fn scalar(&mut self, form: ScalarForm<'v>, scalar: Scalar<'v>, octets: Range<usize>) {
        let is_field = self.at_field && self.depth == 1;
        (self.hear)(&Thing { form, scalar, name: self.name, octets, is_field });
        self.at_field = false;
    }

    fn fault(&mut self, _: Fault) {}
}
