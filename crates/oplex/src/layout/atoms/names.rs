//! Names of DNS, alone and in lists: on the wire, with pointers and without, and in octets.

use super::run::{IN_LABEL, STANDS_IN};
use crate::layout::Nesting;
use crate::layout::encode::{EncodeError, Encoder, at, wrong};
use crate::layout::fault::{FaultKind, NameFlaw};
use crate::layout::form::atom::{Atom, Names};
use crate::layout::name;
use crate::layout::scalar::{NameRef, Scalar};
use crate::layout::value::Value;
use crate::layout::walk::{ScalarForm, Shape, Stop, Visitor, Walked, Walker};
use crate::prelude::*;

/// RFC 1035, section 2.3.4.
pub(super) const LABEL: usize = 63;
/// RFC 1035, section 2.3.4: length octets and the root label included.
pub(super) const NAME: usize = 255;
/// A name of 255 octets cannot have more labels, so no honest name needs more pointers.
const JUMPS: usize = 127;

/// Where the name that these octets begin with ends, if it has labels of hosts and domains, no pointers, and its root label.
#[inline]
pub(in crate::layout) fn end_of_plain_name(octets: &[u8]) -> Option<usize> {
    let mut next = 0;
    loop {
        let length = usize::from(*octets.get(next)?);
        next += 1;
        if length == 0 {
            return (next <= NAME).then_some(next);
        }
        let label = octets.get(next..next + length).filter(|_| length <= LABEL)?;
        next += length;
        is_label(label).then_some(())?;
    }
}

/// Whether each octet may stand in the label of a host or domain.
fn is_label(label: &[u8]) -> bool {
    label.iter().fold(IN_LABEL, |all, octet| all & STANDS_IN[usize::from(*octet)]) != 0
}

impl<'l, 'o, V: Visitor<'l, 'o>, N: Nesting + ?Sized> Walker<'l, 'o, '_, V, N> {
    pub(in crate::layout) fn name(&mut self, form: ScalarForm<'l>, at: usize, end: usize) -> Walked {
        let Some(next) = self.labels(at, end, None)? else {
            return Err(self.stop(at..end, FaultKind::NameNotEnded));
        };
        self.visitor.scalar(
            form,
            Scalar::Name(NameRef::new(&self.octets[self.base..end], at - self.base, true)),
            at..next,
        );
        Ok(next)
    }

    pub(in crate::layout) fn partial_name(&mut self, atom: &'l Atom, at: usize, end: usize) -> Walked {
        let ended = self.labels(at, end, None)?;
        let name = NameRef::new(&self.octets[self.base..end], at - self.base, ended.is_some());
        let next = ended.unwrap_or(end);
        self.visitor.scalar(ScalarForm::Atom(atom), Scalar::Name(name), at..next);
        Ok(next)
    }

    // What it keeps on the stack would otherwise be kept for every part of a layout.
    #[inline(never)]
    pub(in crate::layout) fn names(&mut self, atom: &'l Atom, at: usize, end: usize) -> Walked {
        debug_assert!(matches!(atom, Atom::Names(Names::Compressed | Names::Lenient)));
        self.visitor.begin(Shape::List, at);
        let mut next = at;
        // Most lists are short, and clearing two kilobytes for them would cost more than reading them.
        let (mut few, mut all);
        let starts: &mut [u64] = if end - self.base <= 64 * FEW {
            few = [0; FEW];
            &mut few
        } else {
            all = [0; STARTS];
            &mut all
        };
        while next < end {
            let ended = self.labels(next, end, Some(starts)).inspect_err(|_| self.visitor.end(end))?;
            let Some(after) = ended else {
                let stop = self.stop(next..end, FaultKind::NameNotEnded);
                self.visitor.end(end);
                return Err(stop);
            };
            let name = NameRef::new(&self.octets[self.base..end], next - self.base, true);
            self.visitor.scalar(ScalarForm::Atom(atom), Scalar::Name(name), next..after);
            next = after;
        }
        if at == end {
            self.fault(at..end, FaultKind::TooFew { min: 1, have: 0 });
        }
        self.visitor.end(next);
        Ok(next)
    }

    /// Goes through the labels of the name at `first`, to where the octets after the name begin; `None` when the octets
    /// end before a root label. Pointers are followed where they may stand, which is where `starts` are kept.
    fn labels(&mut self, first: usize, end: usize, mut starts: Option<&mut [u64]>) -> Result<Option<usize>, Stop> {
        let (mut at, mut earliest, mut jumps, mut length) = (first, first, 0, 0);
        let mut next = None;
        loop {
            let Some(octet) = self.octets[..end].get(at).map(|octet| usize::from(*octet)) else { return Ok(None) };
            if let Some(starts) = starts.as_deref_mut().filter(|_| jumps == 0) {
                note(starts, at - self.base);
            }
            match octet {
                0 => return Ok(Some(next.unwrap_or(at + 1))),
                1..=LABEL => {
                    if at + 1 + octet > end {
                        let have = end - at - 1;
                        return Err(self.stop(at..at + 1, FaultKind::LengthOverruns { length: octet, have }));
                    }
                    // What a pointer leads to was looked at where it stands.
                    let label = &self.octets[at + 1..at + 1 + octet];
                    if jumps == 0 && !is_label(label) {
                        self.odd_label(at + 1, octet);
                    }
                    length += 1 + octet;
                    at += 1 + octet;
                }
                0xc0.. if starts.is_some() => {
                    let low = self.need("a compression pointer", 2, at, end)? - 1;
                    let to = (octet & 0x3f) << 8 | usize::from(self.octets[low]);
                    // RFC 1035, section 4.1.4: a prior occurrence. Only ever going backwards also rules out loops.
                    let begins = starts.as_ref().is_some_and(|starts| is_noted(starts, to));
                    if self.base + to >= earliest || !begins || jumps == JUMPS {
                        return Err(self.stop(at..at + 2, FaultKind::PointerAstray { to }));
                    }
                    next.get_or_insert(at + 2);
                    at = self.base + to;
                    earliest = at;
                    jumps += 1;
                }
                0xc0.. => return Err(self.stop(at..at + 1, FaultKind::PointerNotAllowed)),
                _ => return Err(self.stop(at..at + 1, FaultKind::LabelTooLong { length: octet })),
            }
            if length + 1 > NAME {
                let octets = first..next.unwrap_or(at);
                return Err(self.stop(octets, FaultKind::NameTooLong { length: length + 1 }));
            }
        }
    }

    /// A label that may stand in DNS, but that no host or domain has (RFC 1123, section 2.1).
    #[cold]
    fn odd_label(&mut self, at: usize, length: usize) {
        let label = &self.octets[at..at + length];
        let odd = |octet: &u8| STANDS_IN[usize::from(*octet)] & IN_LABEL == 0;
        let Some(place) = label.iter().position(odd) else { return };
        // The networks of RFC 2317: `0/25` in a reverse zone.
        if label.iter().filter(|octet| **octet == b'/').count() == 1
            && label.iter().all(|octet| octet.is_ascii_digit() || *octet == b'/')
        {
            return;
        }
        let why = NameFlaw::Character(char::from(label[place]));
        self.fault(at + place..at + place + 1, FaultKind::NotAName { why });
    }
}

/// Words of 64 bits, a bit for each octet that the 14 bits of a compression pointer can reach.
const STARTS: usize = (1 << 14) / 64;
/// As many words as a list of a few names needs.
const FEW: usize = 8;

/// Notes that a label begins here, to which later pointers may lead.
fn note(starts: &mut [u64], at: usize) {
    if let Some(bits) = starts.get_mut(at / 64) {
        *bits |= 1 << (at % 64);
    }
}

fn is_noted(starts: &[u64], at: usize) -> bool {
    starts.get(at / 64).is_some_and(|bits| bits >> (at % 64) & 1 == 1)
}

impl Encoder<'_> {
    pub(in crate::layout) fn names(&mut self, atom: &Atom, value: &Value) -> Result<(), EncodeError> {
        let Value::List(items) = value else { return wrong(format!("`{value}` is not a list of names")) };
        let mut compressor = name::Compressor::default();
        for (index, item) in items.iter().enumerate() {
            let (Value::Name(text) | Value::Text(text)) = item else {
                return wrong(format!("`{item}` is not a name"));
            };
            let labels = name::labels(text).or_else(|error| wrong(error.message)).map_err(at(index + 1))?;
            let start = self.out.octets.len();
            if *atom == Atom::Names(Names::Compressed) {
                compressor.put(&mut self.out.octets, self.base, &labels);
            } else {
                name::put(&mut self.out.octets, &labels);
            }
            self.out.leaves.push(start..self.out.octets.len());
        }
        Ok(())
    }

    pub(super) fn name(&mut self, atom: &Atom, text: &str) -> Result<(), EncodeError> {
        let mut octets = Vec::new();
        if !(text.is_empty() && *atom == Atom::PartialName) {
            let labels = name::labels(text).or_else(|error| wrong(error.message))?;
            name::put_labels(&mut octets, &labels);
            if *atom == Atom::Name || text.ends_with('.') {
                octets.push(0);
            }
        }
        self.leaf(&octets);
        Ok(())
    }
}
