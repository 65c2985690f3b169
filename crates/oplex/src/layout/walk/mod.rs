//! The one walk over octets that every reader of payloads shares.
//!
//! [`walk`] goes through a payload as its layout says and reports to a [`Visitor`] what it meets, with the octets each
//! thing takes. It allocates nothing; what readers keep is their own affair. Who only asks whether octets are right is answered by
//! [`plain`] first, which sees that of most without it.

pub(in crate::layout) mod explain;
pub(in crate::layout) mod fault;
pub(in crate::layout) mod pairs;
pub(in crate::layout) mod plain;
pub(in crate::layout) mod scalar;
pub(in crate::layout) mod typed;
pub(in crate::layout) mod value_builder;
mod visitor;

use core::ops::Range;

#[cfg(feature = "std")]
pub(crate) use plain::PlainVisitor;
pub use visitor::{Framing, ScalarForm, Shape, Visitor};

use crate::layout::fault::{Fault, FaultKind};
use crate::layout::form::atom::{Atom, Count, Run};
use crate::layout::node::padding;
use crate::layout::node::{BitField, Choice, Field, Nested, Node, Prefix, SLOTS, Slots};
use crate::layout::scalar::Scalar;
use crate::layout::{ChapterRef, DefinitionRef, Layout, Nesting};
use crate::octets::number;

/// Walks `octets` as `layout` says.
pub(in crate::layout) fn walk<'l, 'o, V: Visitor<'l, 'o>, N: Nesting + ?Sized>(
    layout: &'l Layout,
    nesting: &'l N,
    octets: &'o [u8],
    visitor: &mut V,
) {
    let mut walker = Walker { octets, base: 0, nesting, visitor, slots: [0; SLOTS], depth: 0, zeros_from: usize::MAX };
    walker.region(layout.root(), 0, octets.len());
}

/// A fault was reported, and what follows in the same region cannot be read.
pub(in crate::layout) struct Stop;

/// Where the next part begins.
pub(in crate::layout) type Walked = Result<usize, Stop>;

/// More options inside options than anything real; keeps hostile octets from exhausting the stack.
const DEPTH: u8 = 12;

pub(in crate::layout) struct Walker<'l, 'o, 'v, V, N: ?Sized> {
    pub(in crate::layout) octets: &'o [u8],
    /// Where compression pointers count from.
    pub(in crate::layout) base: usize,
    nesting: &'l N,
    pub(in crate::layout) visitor: &'v mut V,
    pub(in crate::layout) slots: Slots,
    depth: u8,
    /// Where the zeros begin that bring the part that is being read to its length.
    pub(in crate::layout) zeros_from: usize,
}

impl<'l, 'o, V: Visitor<'l, 'o>, N: Nesting + ?Sized> Walker<'l, 'o, '_, V, N> {
    #[cold]
    pub(in crate::layout) fn fault(&mut self, octets: Range<usize>, kind: FaultKind) {
        self.visitor.fault(Fault { octets, kind });
    }

    /// Reports a fault that ends the reading of this region.
    #[cold]
    pub(in crate::layout) fn stop(&mut self, octets: Range<usize>, kind: FaultKind) -> Stop {
        self.fault(octets, kind);
        Stop
    }

    /// A part that should take all octets up to `end`.
    fn region(&mut self, node: &'l Node, at: usize, end: usize) {
        if let Ok(next) = self.node(node, at, end) {
            self.all_read(next, end);
        }
    }

    #[inline]
    fn all_read(&mut self, next: usize, end: usize) {
        if next < end {
            self.fault(next..end, FaultKind::Trailing { octets: end - next });
        }
    }

    #[inline]
    fn node(&mut self, node: &'l Node, at: usize, end: usize) -> Walked {
        match node {
            Node::Atom(atom) => self.atom(atom, at, end),
            Node::Repeat(item, count) => self.repeat(item, *count, at, end),
            Node::Record(fields) => self.record(fields, at, end),
            Node::Optional(inner) if at < end.min(self.zeros_from) => self.node(inner, at, end),
            Node::Optional(_) => Ok(at),
            Node::Sized(prefix, inner) => self.sized(*prefix, inner, at, end),
            Node::Padded(before, inner) => self.padded(*before, inner, at, end),
            Node::Zeros(count) => self.zeros(*count, at, end),
            Node::Options(nested) => self.options(nested, at, end),
            Node::Choice(choice) => self.choice(choice, at, end),
            Node::Pairs(pairs) => self.pairs(pairs, at, end),
            Node::Bits(fields) => self.bits(fields, at, end),
        }
    }

    // The shapes stay functions of their own, so that what calls itself again stays small.
    #[inline(never)]
    fn record(&mut self, fields: &'l [Field], at: usize, end: usize) -> Walked {
        self.visitor.begin(Shape::Record, at);
        let mut next = at;
        for field in fields {
            if matches!(field.node, Node::Optional(_)) && next >= end.min(self.zeros_from) {
                continue;
            }
            if !matches!(field.node, Node::Zeros(_)) {
                self.visitor.field(&field.name);
            }
            let start = next;
            next = self.node(&field.node, next, end).inspect_err(|_| self.visitor.end(end))?;
            if let Some(slot) = field.keep {
                self.slots[usize::from(slot)] = number(&self.octets[start..next]);
            }
        }
        self.visitor.end(next);
        Ok(next)
    }

    #[inline(never)]
    fn repeat(&mut self, item: &'l Node, count: Count, at: usize, end: usize) -> Walked {
        self.visitor.begin(Shape::List, at);
        let mut next = at;
        let mut have = 0;
        let end_of_items = end.min(self.zeros_from);
        while next < end_of_items && count.max.is_none_or(|max| have < max) {
            next = self.node(item, next, end).inspect_err(|_| self.visitor.end(end))?;
            have += 1;
        }
        if have < count.min {
            self.fault(at..end, FaultKind::TooFew { min: count.min, have });
        }
        self.visitor.end(next);
        Ok(next)
    }

    #[inline(never)]
    fn sized(&mut self, prefix: Prefix, inner: &'l Node, at: usize, end: usize) -> Walked {
        let start = self.need("a length", prefix.octets, at, end)?;
        let counted = number(&self.octets[at..start]) as usize;
        let Some(length) = counted.checked_sub(prefix.extra) else {
            let kind = FaultKind::LengthTooSmall { length: counted, least: prefix.extra };
            return Err(self.stop(at..start, kind));
        };
        self.visitor.frame(Framing::Length(counted), at..start);
        let stop = start + length;
        if stop > end {
            self.fault(at..start, FaultKind::LengthOverruns { length, have: end - start });
            self.region(inner, start, end);
            return Err(Stop);
        }
        let outer = core::mem::replace(&mut self.zeros_from, usize::MAX);
        self.region(inner, start, stop);
        self.zeros_from = outer;
        Ok(stop)
    }

    #[inline(never)]
    fn padded(&mut self, before: usize, inner: &'l Node, at: usize, end: usize) -> Walked {
        if padding(before + end - at) != 0 {
            self.fault(at..end, FaultKind::NotPadded { have: before + end - at });
        }
        let zeros = self.octets[at..end].iter().rev().take_while(|octet| **octet == 0).count();
        let outer = core::mem::replace(&mut self.zeros_from, end - zeros);
        let next = self.node(inner, at, end);
        self.zeros_from = outer;
        let next = next?;
        // A name takes the first of the zeros for its own.
        if next < end && next >= end - zeros {
            self.visitor.frame(Framing::Pad, next..end);
            return Ok(end);
        }
        Ok(next)
    }

    #[inline(never)]
    fn zeros(&mut self, count: usize, at: usize, end: usize) -> Walked {
        let next = self.need("what is reserved", count, at, end)?;
        self.visitor.frame(Framing::Reserved, at..next);
        if self.octets[at..next].iter().any(|octet| *octet != 0) {
            self.fault(at..next, FaultKind::NotZero);
        }
        Ok(next)
    }

    #[inline(never)]
    fn choice(&mut self, choice: &'l Choice, at: usize, end: usize) -> Walked {
        let number = choice.by.pick(&self.slots);
        match choice.arm(number) {
            Some(node) => self.node(node, at, end),
            None => Err(self.stop(at..end, FaultKind::NoChoice { by: choice.by.text.clone(), number })),
        }
    }

    #[inline(never)]
    fn options(&mut self, nested: &'l Nested, at: usize, end: usize) -> Walked {
        if self.depth >= DEPTH && at < end {
            return Err(self.stop(at..end, FaultKind::TooDeep));
        }
        let chosen = nested.by.as_ref().map(|by| by.pick(&self.slots));
        let chapter = self.nesting.chapter(nested, chosen);
        self.visitor.begin(Shape::Options, at);
        let mut next = at;
        let mut have = 0;
        while next < end {
            let code_end = self.need("an option's code", chapter.code_octets, next, end);
            let code_end = code_end.inspect_err(|_| self.visitor.end(end))?;
            let code = self.short(next, chapter.code_octets);
            if chapter.pad_and_end && (code == 0 || code == 255) {
                self.visitor.frame(if code == 0 { Framing::Pad } else { Framing::End }, next..code_end);
                next = code_end;
                if code == 255 {
                    if next < end {
                        self.visitor.frame(Framing::AfterEnd, next..end);
                    }
                    next = end;
                }
                continue;
            }
            next = self.nested(chapter, code, next..code_end, end).inspect_err(|_| self.visitor.end(end))?;
            have += 1;
        }
        if have < nested.count.min {
            self.fault(at..end, FaultKind::TooFew { min: nested.count.min, have });
        }
        self.visitor.end(next);
        Ok(next)
    }

    fn nested(&mut self, chapter: ChapterRef, code: u16, code_at: Range<usize>, end: usize) -> Walked {
        let known: Option<DefinitionRef<'l>> = self.nesting.definition(chapter, code);
        let shape = Shape::Option { code, name: known.as_ref().map(|known| known.name), chapter: chapter.index };
        self.visitor.begin(shape, code_at.start);
        self.visitor.frame(Framing::Code(code), code_at.clone());
        let start = self.need("an option's length", chapter.length_octets, code_at.end, end);
        let start = start.inspect_err(|_| self.visitor.end(end))?;
        let length = usize::from(self.short(code_at.end, chapter.length_octets));
        self.visitor.frame(Framing::Length(length), code_at.end..start);
        let whole = start + length <= end;
        let stop = end.min(start + length);
        if !whole {
            self.fault(code_at.end..start, FaultKind::LengthOverruns { length, have: end - start });
        }
        match known.map(|known| known.layout.root()) {
            None => self.visitor.scalar(ScalarForm::Unknown, Scalar::Bytes(&self.octets[start..stop]), start..stop),
            // By far the commonest options of all: some octets, and an address.
            Some(Node::Atom(atom @ Atom::Run(Run::Bytes, count)))
                if count.min <= stop - start && count.max.is_none() =>
            {
                self.visitor.scalar(ScalarForm::Atom(atom), Scalar::Bytes(&self.octets[start..stop]), start..stop);
            }
            Some(Node::Atom(atom @ Atom::Ipv4(_))) if stop - start == 4 => {
                let address = Scalar::Ipv4(self.array::<4>(start).into());
                self.visitor.scalar(ScalarForm::Atom(atom), address, start..stop);
            }
            Some(root) => self.payload(root, start, stop),
        }
        self.visitor.end(stop);
        if whole { Ok(stop) } else { Err(Stop) }
    }

    /// The payload of a nested option: pointers count from its start, and its fields are its own.
    #[inline(never)]
    fn payload(&mut self, root: &'l Node, start: usize, stop: usize) {
        let outer = (self.base, self.slots, self.zeros_from);
        (self.base, self.zeros_from) = (start, usize::MAX);
        self.depth += 1;
        self.region(root, start, stop);
        self.depth -= 1;
        (self.base, self.slots, self.zeros_from) = outer;
    }

    #[inline(never)]
    fn bits(&mut self, fields: &'l [BitField], at: usize, end: usize) -> Walked {
        let width: u32 = fields.iter().map(|field| field.width).sum();
        let next = self.need("these bits", width as usize / 8, at, end)?;
        self.visitor.begin(Shape::Bits, at);
        let mut left = width;
        let all = self.octets[at..next].iter().fold(0u128, |sum, octet| sum << 8 | u128::from(*octet));
        for field in fields {
            let first = at + ((width - left) / 8) as usize;
            left -= field.width;
            let last = at + ((width - left).div_ceil(8)) as usize;
            let raw = (all >> left) as u64 & (u64::MAX >> (64 - field.width));
            self.bit_field(field, raw, first..last);
        }
        self.visitor.end(next);
        Ok(next)
    }

    fn bit_field(&mut self, field: &'l BitField, raw: u64, octets: Range<usize>) {
        let signed = if field.signed { signed(raw, field.width) } else { raw as i64 };
        if field.is_reserved() && raw != 0 {
            self.fault(octets.clone(), FaultKind::UndefinedBits { bits: raw });
        }
        if let Some(of) = field.of.as_ref().filter(|of| !of.open && of.name_of(raw).is_none()) {
            self.fault(octets.clone(), FaultKind::NotMember { number: raw, of: of.clone() });
        }
        let scalar = match field.fraction {
            Some(fraction) => Scalar::Decimal(signed as f64 / (1u64 << fraction) as f64),
            None if field.signed => Scalar::Integer(signed),
            None => Scalar::Number(raw),
        };
        if let Some(bound) = field.bound {
            // A fixed-point number may reach the bound, not pass it: 90.0 is a latitude, 90.1 is not.
            let unit = 1i128 << field.fraction.unwrap_or(0);
            let inside = bound.min.is_none_or(|min| min * unit <= i128::from(signed))
                && bound.max.is_none_or(|max| i128::from(signed) <= max * unit);
            if !inside {
                let number = i128::from(signed) / unit;
                self.fault(octets.clone(), FaultKind::OutOfBounds { number, bound });
            }
        }
        self.visitor.field(&field.name);
        self.visitor.scalar(ScalarForm::Bits(field), scalar, octets);
    }

    /// Where `count` octets from `at` end, if they are there.
    #[inline]
    pub(in crate::layout) fn need(&mut self, what: &'static str, count: usize, at: usize, end: usize) -> Walked {
        if end - at >= count {
            Ok(at + count)
        } else {
            Err(self.stop(at..end, FaultKind::Truncated { what, need: count, have: end - at }))
        }
    }

    /// A number of one or two octets that are known to be there.
    #[inline]
    fn short(&self, at: usize, width: usize) -> u16 {
        let first = u16::from(self.octets[at]);
        if width == 1 { first } else { first << 8 | u16::from(self.octets[at + 1]) }
    }
}

/// The lowest `width` bits as a two's complement number.
pub(in crate::layout) fn signed(raw: u64, width: u32) -> i64 {
    ((raw << (64 - width)) as i64) >> (64 - width)
}
