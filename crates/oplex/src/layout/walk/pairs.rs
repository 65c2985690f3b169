//! The part of the walk that reads `KEY=value` pairs.

use core::ops::Range;

use crate::layout::Nesting;
use crate::layout::atoms::objection;
use crate::layout::fault::FaultKind;
use crate::layout::form::atom::Run;
use crate::layout::node::{PairKey, Pairs};
use crate::layout::scalar::Scalar;
use crate::layout::walk::{Framing, ScalarForm, Shape, Visitor, Walked, Walker};

impl<'l, 'o, V: Visitor<'l, 'o>, N: Nesting + ?Sized> Walker<'l, 'o, '_, V, N> {
    pub(in crate::layout) fn pairs(&mut self, pairs: &'l Pairs, at: usize, end: usize) -> Walked {
        self.visitor.begin(Shape::Pairs, at);
        let octets = &self.octets[at..end];
        match str::from_utf8(octets) {
            Ok(text) => self.pair_list(pairs, text, at),
            Err(_) => {
                self.odd_characters(Run::Text, octets, at);
                self.visitor.scalar(ScalarForm::Unknown, Scalar::Bytes(octets), at..end);
            }
        }
        self.visitor.end(end);
        Ok(end)
    }

    fn pair_list(&mut self, pairs: &'l Pairs, text: &'o str, at: usize) {
        let mut start = at;
        let mut seen = 0u64;
        for (index, pair) in text.split(&*pairs.between).enumerate() {
            if index > 0 {
                self.visitor.frame(Framing::Sign, start..start + pairs.between.len());
                start += pairs.between.len();
            }
            let octets = start..start + pair.len();
            start = octets.end;
            let Some((key, value)) = pair.split_once(&*pairs.equals) else {
                self.fault(octets, FaultKind::PairWithoutEquals);
                continue;
            };
            let key_at = octets.start..octets.start + key.len();
            let value_at = key_at.end + pairs.equals.len()..octets.end;
            self.visitor.key(key, key_at.clone());
            self.visitor.frame(Framing::Sign, key_at.end..value_at.start);
            match pairs.keys.iter().position(|known| *known.name == *key) {
                Some(known) => {
                    if seen & 1 << known != 0 {
                        self.fault(key_at, FaultKind::PairTwice { key: key.into() });
                    }
                    seen |= 1 << known;
                    self.pair_value(&pairs.keys[known], value, value_at);
                }
                None => {
                    if !pairs.open {
                        self.fault(key_at, FaultKind::PairUnknownKey { key: key.into() });
                    }
                    self.visitor.scalar(ScalarForm::Unknown, Scalar::Text(value), value_at);
                }
            }
        }
        for (index, key) in pairs.keys.iter().enumerate().filter(|(_, key)| key.required) {
            if seen & 1 << index == 0 {
                self.fault(at..at + text.len(), FaultKind::PairMissing { key: key.name.clone() });
            }
        }
    }

    fn pair_value(&mut self, key: &'l PairKey, value: &'o str, octets: Range<usize>) {
        match key.atom.scalar(value) {
            Ok(scalar) => {
                if let Some(kind) = objection(&key.atom, &scalar) {
                    self.fault(octets.clone(), kind);
                }
                self.visitor.scalar(ScalarForm::Atom(&key.atom), scalar, octets);
            }
            Err(wrong) => {
                let kind = FaultKind::PairValue { key: key.name.clone(), why: wrong.message.into() };
                self.fault(octets.clone(), kind);
                self.visitor.scalar(ScalarForm::Unknown, Scalar::Text(value), octets);
            }
        }
    }
}
