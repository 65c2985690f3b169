//! The one walk through an option that all of its rules share: what is wrong with its form and with single things in it, and the
//! options inside. A second collects the single things, where a rule about the option's value looks at them. Nothing is decoded, and
//! nothing allocated where few things are in it and nothing is wrong.

use std::ops::Range;

use super::declare::AtomSeen;
use super::picked::kind_of;
use crate::codebook::{Codebook, Definition, Picked};
use crate::finding::Finding;
use crate::layout::{
    Atom, Fault, Finder, Framing, Layout, NestedOption, PlainVisitor, Scalar, ScalarForm, Shape, Visitor,
};

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
pub(super) type InAtom = (Finding, Range<usize>);

/// What the walk came to; one is there for all options of a message.
#[derive(Default)]
pub(super) struct Scan<'v> {
    picked: Option<&'v Picked>,
    pub(super) faults: Vec<Fault>,
    pub(super) found: Vec<InAtom>,
    pub(super) finder: Finder,
    /// Whether the octets are plainly right, and every option in them.
    pub(super) is_plain: bool,
    /// The option that octets which are plainly right are in.
    within: Option<usize>,
    /// Whether anything was noted that the next option must not find there.
    is_used: bool,
}

impl<'v> Scan<'v> {
    /// Walks through an option, and forgets the last.
    #[inline]
    pub(super) fn walk(&mut self, codebook: &'v Codebook, layout: &'v Layout, octets: &'v [u8], picked: &'v Picked) {
        self.picked = Some(picked).filter(|picked| !picked.atoms.is_empty());
        if self.is_used {
            self.forget();
        }
        self.is_plain = layout.is_plain(codebook, octets, self);
        if !self.is_plain {
            self.forget();
            layout.walk(codebook, octets, self);
        }
        self.is_used = !self.is_plain || !self.found.is_empty() || !self.finder.options.is_empty();
    }

    fn forget(&mut self) {
        self.faults.clear();
        self.found.clear();
        self.finder.clear();
        self.within = None;
    }

    #[inline]
    fn see(&mut self, form: ScalarForm<'v>, scalar: Scalar<'v>, octets: Range<usize>) {
        let kind = kind_of(form, scalar);
        if kind != 0 {
            self.look(kind, &AtomSeen { form, scalar }, &octets);
        }
    }

    /// What the rules about single things find in one.
    #[inline(never)]
    fn look(&mut self, kind: u8, seen: &AtomSeen<'_>, octets: &Range<usize>) {
        for find in self.picked.into_iter().flat_map(|picked| picked.in_atoms(kind)) {
            if let Some(finding) = find(seen) {
                self.found.push((finding, octets.clone()));
            }
        }
    }
}

impl<'v> PlainVisitor<'v, 'v> for Scan<'v> {
    #[inline]
    fn scalar(&mut self, atom: &'v Atom, scalar: Scalar<'v>, octets: Range<usize>) {
        self.see(ScalarForm::Atom(atom), scalar, octets);
    }

    #[inline]
    fn begin(&mut self, code: u16, chapter: Option<usize>, at: usize, payload: Range<usize>) {
        let inside = self.within.replace(self.finder.options.len());
        self.finder.options.push(NestedOption { code, chapter, inside, around: at..payload.end, payload });
    }

    #[inline]
    fn end(&mut self) {
        self.within = self.within.and_then(|at| self.finder.options[at].inside);
    }
}

impl<'v> Visitor<'v, 'v> for Scan<'v> {
    fn begin(&mut self, shape: Shape<'v>, at: usize) {
        self.finder.begin(shape, at);
    }

    fn end(&mut self, at: usize) {
        self.finder.end(at);
    }

    fn frame(&mut self, frame: Framing, octets: Range<usize>) {
        self.finder.frame(frame, octets);
    }

    fn scalar(&mut self, form: ScalarForm<'v>, scalar: Scalar<'v>, octets: Range<usize>) {
        self.see(form, scalar, octets);
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
