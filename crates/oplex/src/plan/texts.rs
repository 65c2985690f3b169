//! What a client sends, as the texts that patterns are held against.

use std::fmt::{self, Write};

use smallvec::SmallVec;

use crate::layout::{Atom, Fault, Meaning, Number, PathStep, Run, Scalar, ScalarForm, Shape, Value, Visitor};
use crate::octets::hex;

/// Texts one after the other, without an allocation where they are few and short, as those of most clients are: servers need them
/// at each message.
#[derive(Debug, Clone, Default)]
pub(crate) struct Texts {
    octets: SmallVec<[u8; 64]>,
    /// Where each ends.
    ends: SmallVec<[usize; 4]>,
}

impl Texts {
    pub(crate) fn iter(&self) -> impl Iterator<Item = &str> {
        let starts = std::iter::once(0).chain(self.ends.iter().copied());
        let octets = starts.zip(&self.ends).filter_map(|(start, end)| self.octets.get(start..*end));
        octets.filter_map(|octets| str::from_utf8(octets).ok())
    }

    pub(super) fn is_empty(&self) -> bool {
        self.ends.is_empty()
    }

    pub(super) fn clear(&mut self) {
        self.octets.clear();
        self.ends.clear();
    }

    /// Adds a text.
    pub(super) fn push(&mut self, text: impl fmt::Display) {
        // What is written into memory is always written.
        let _ = write!(self, "{text}");
        self.ends.push(self.octets.len());
    }

    /// Adds octets as what they spell, if they spell something, and in hexadecimal.
    pub(super) fn spell(&mut self, octets: &[u8]) {
        if let Some(text) = str::from_utf8(octets).ok().filter(|text| !text.chars().any(char::is_control)) {
            self.push(text);
        }
        self.push(hex::Colon(octets));
    }

    /// Adds a single thing as people may write it.
    pub(super) fn value(&mut self, leaf: &Value) {
        match leaf {
            Value::Bytes(octets) => self.spell(octets),
            Value::Member(number, Some(name)) => {
                self.push(number);
                self.push(name);
            }
            other => self.push(other),
        }
    }

    /// The same of one that a walk met.
    pub(super) fn scalar(&mut self, form: ScalarForm<'_>, scalar: Scalar<'_>) {
        match (form, scalar) {
            (ScalarForm::Atom(Atom::Run(Run::Bytes, _) | Atom::Duid), Scalar::Bytes(octets)) => self.spell(octets),
            // What looks like a table is shown otherwise.
            (_, Scalar::Text(text)) if !text.trim_start().starts_with('{') => self.push(text),
            (ScalarForm::Atom(Atom::Number(Number { meaning: Meaning::Member(of), .. })), Scalar::Number(number)) => {
                self.push(number);
                if let Some(name) = of.name_of(number) {
                    self.push(name);
                }
            }
            _ => self.value(&Value::of(form, scalar)),
        }
    }
}

impl Write for Texts {
    fn write_str(&mut self, text: &str) -> fmt::Result {
        self.octets.extend_from_slice(text.as_bytes());
        Ok(())
    }
}

/// Collects the texts of every single thing.
pub(super) struct OfAll<'t>(pub(super) &'t mut Texts);

impl<'l, 'o> Visitor<'l, 'o> for OfAll<'_> {
    fn scalar(&mut self, form: ScalarForm<'l>, scalar: Scalar<'o>, _: std::ops::Range<usize>) {
        self.0.scalar(form, scalar);
    }

    fn fault(&mut self, _: Fault) {}
}

/// Shows what a path of one step or none leads to, as [`Value::at`] finds it.
pub(super) struct AtPath<'s, 'o> {
    path: &'static [PathStep],
    see: &'s mut dyn FnMut(ScalarForm<'_>, Scalar<'o>),
    open: SmallVec<[Open; 8]>,
    /// Whether the field is the one of the path.
    here: bool,
    /// Whether something is wrong, or stands there that is no single thing and no list of them.
    pub(super) is_odd: bool,
}

/// A part that has begun.
#[derive(Clone, Copy, PartialEq)]
enum Open {
    /// Lists are passed through.
    List,
    /// What the step leads into.
    Around,
    /// The option that it leads to.
    Here,
    /// Anything else.
    Aside,
}

impl<'s, 'o> AtPath<'s, 'o> {
    pub(super) fn new(path: &'static [PathStep], see: &'s mut dyn FnMut(ScalarForm<'_>, Scalar<'o>)) -> Self {
        Self { path, see, open: SmallVec::new(), here: false, is_odd: path.len() > 1 }
    }

    /// The innermost part that is no list.
    fn within(&self) -> Option<Open> {
        self.open.iter().rev().find(|open| **open != Open::List).copied()
    }
}

impl<'l, 'o> Visitor<'l, 'o> for AtPath<'_, 'o> {
    fn begin(&mut self, shape: Shape<'l>, _: usize) {
        let open = match (self.within(), self.path, shape) {
            (_, _, Shape::List) => Open::List,
            (Some(Open::Aside), ..) => Open::Aside,
            (None, [PathStep::Field(_)], Shape::Record) | (None, [PathStep::Option(_)], Shape::Options) => Open::Around,
            (Some(Open::Around), [PathStep::Option(wanted)], Shape::Option { code, .. }) if code == *wanted => {
                Open::Here
            }
            (Some(Open::Around), [PathStep::Option(_)], _) => Open::Aside,
            (Some(Open::Around), [PathStep::Field(_)], _) if !self.here => Open::Aside,
            _ => {
                self.is_odd = true;
                Open::Aside
            }
        };
        self.open.push(open);
    }

    fn end(&mut self, _: usize) {
        self.open.pop();
    }

    fn field(&mut self, name: &'l str) {
        if self.within() == Some(Open::Around) {
            self.here = matches!(self.path, [PathStep::Field(wanted)] if *wanted == name);
        }
    }

    fn scalar(&mut self, form: ScalarForm<'l>, scalar: Scalar<'o>, _: std::ops::Range<usize>) {
        let is_it = match (self.path, self.within()) {
            ([], None) | ([PathStep::Option(_)], Some(Open::Here)) => true,
            ([PathStep::Field(_)], Some(Open::Around)) => self.here,
            _ => false,
        };
        if is_it {
            (self.see)(form, scalar);
        }
    }

    fn fault(&mut self, _: Fault) {
        self.is_odd = true;
    }
}
