//! The same walk where nothing is wrong: most octets are right, and to see that takes a fraction of saying what is not.
//!
//! It looks for no reason, reports no framing but that of options, and gives up at the first octet that is anything but plainly right; what a layout has
//! against octets, [`walk`](super::walk) alone decides.

use super::{DEPTH, Framing, ScalarForm, Shape, Visitor};
use crate::layout::atoms::{end_of_plain_name, is_plain_dotted_name, is_plain_uri, is_printable};
use crate::layout::form::atom::{Atom, Count, Meaning, Number, Run};
use crate::layout::node::{Choice, Field, Nested, Node, SLOTS, Slots, padding};
use crate::layout::scalar::{NameRef, Prefix6, Route4, Scalar};
use crate::layout::{ChapterRef, Layout, Nesting};
use crate::octets::number;

/// Whether nothing is wrong with `octets`, as far as that is plain. `false` says nothing, and what the visitor was told by
/// then counts for nothing. Whoever keeps nothing needs no text.
#[inline]
pub(in crate::layout) fn quick<'l, 'o, const TEXT: bool, V: Visitor<'l, 'o>, N: Nesting + ?Sized>(
    layout: &'l Layout,
    nesting: &'l N,
    octets: &'o [u8],
    visitor: &mut V,
) -> bool {
    let end = octets.len();
    // Most options are a single thing, for which nothing need be set up.
    if let Node::Atom(atom) = layout.root() {
        let Some((next, scalar)) = plain::<TEXT>(atom, octets, Place { base: 0, at: 0, end, limit: end }) else {
            return false;
        };
        visitor.scalar(ScalarForm::Atom(atom), scalar, 0..next);
        return next == end;
    }
    let mut quick =
        Quick::<TEXT, V, N> { octets, base: 0, nesting, visitor, slots: [0; SLOTS], depth: 0, zeros_from: usize::MAX };
    quick.node(layout.root(), 0, end) == Some(end)
}

/// Where the next part begins; `None` where not all is plainly right.
type Next = Option<usize>;

/// As the complete walker has them.
struct Quick<'l, 'o, 'v, const TEXT: bool, V, N: ?Sized> {
    octets: &'o [u8],
    base: usize,
    nesting: &'l N,
    visitor: &'v mut V,
    slots: Slots,
    depth: u8,
    zeros_from: usize,
}

impl<'l, 'o, const TEXT: bool, V: Visitor<'l, 'o>, N: Nesting + ?Sized> Quick<'l, 'o, '_, TEXT, V, N> {
    fn node(&mut self, node: &'l Node, at: usize, end: usize) -> Next {
        match node {
            Node::Atom(atom) => self.atom(atom, at, end),
            Node::Repeat(item, count) => self.repeat(item, *count, at, end),
            Node::Record(fields) => self.record(fields, at, end),
            Node::Optional(inner) if at < end.min(self.zeros_from) => self.node(inner, at, end),
            Node::Optional(_) => Some(at),
            Node::Sized(prefix, inner) => {
                let start = at + prefix.octets;
                let length = number(self.octets.get(at..start.min(end))?) as usize;
                let stop = start.checked_add(length.checked_sub(prefix.extra)?)?;
                let outer = core::mem::replace(&mut self.zeros_from, usize::MAX);
                let next = if stop <= end { self.node(inner, start, stop)? } else { return None };
                self.zeros_from = outer;
                (next == stop).then_some(stop)
            }
            Node::Padded(before, inner) => self.padded(*before, inner, at, end),
            Node::Zeros(count) => {
                let reserved = self.take(*count, at, end)?;
                reserved.iter().all(|octet| *octet == 0).then_some(at + count)
            }
            Node::Options(nested) => self.options(nested, at, end),
            Node::Choice(choice) => self.choice(choice, at, end),
            Node::Pairs(_) | Node::Bits(_) => None,
        }
    }

    /// A part of a record or list, most of which are short and of one length.
    #[inline(always)]
    fn part(&mut self, node: &'l Node, at: usize, end: usize) -> Next {
        let Node::Atom(atom) = node else { return self.node(node, at, end) };
        let rest = self.octets.get(at..end)?;
        let (width, scalar) = match atom {
            Atom::Ipv4(_) => (4, Scalar::Ipv4(array::<4>(rest)?.into())),
            Atom::Ipv6(_) => (16, Scalar::Ipv6(array::<16>(rest)?.into())),
            Atom::Seconds(None) => (4, Scalar::Seconds(u32::from_be_bytes(array(rest)?))),
            _ => return self.node(node, at, end),
        };
        self.visitor.scalar(ScalarForm::Atom(atom), scalar, at..at + width);
        Some(at + width)
    }

    #[inline(never)]
    fn record(&mut self, fields: &'l [Field], at: usize, end: usize) -> Next {
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
            next = self.part(&field.node, next, end)?;
            if let Some(slot) = field.keep {
                self.slots[usize::from(slot)] = number(&self.octets[start..next]);
            }
        }
        self.visitor.end(next);
        Some(next)
    }

    #[inline(never)]
    fn repeat(&mut self, item: &'l Node, count: Count, at: usize, end: usize) -> Next {
        self.visitor.begin(Shape::List, at);
        let (mut next, mut have) = (at, 0);
        let end_of_items = end.min(self.zeros_from);
        while next < end_of_items && count.max.is_none_or(|max| have < max) {
            next = self.part(item, next, end)?;
            have += 1;
        }
        self.visitor.end(next);
        (have >= count.min).then_some(next)
    }

    #[inline(never)]
    fn padded(&mut self, before: usize, inner: &'l Node, at: usize, end: usize) -> Next {
        let zeros = self.octets[at..end].iter().rev().take_while(|octet| **octet == 0).count();
        let outer = core::mem::replace(&mut self.zeros_from, end - zeros);
        let next = self.node(inner, at, end)?;
        self.zeros_from = outer;
        let whole = next == end || next >= end - zeros;
        (whole && padding(before + end - at) == 0).then_some(end)
    }

    fn choice(&mut self, choice: &'l Choice, at: usize, end: usize) -> Next {
        self.node(choice.arm(choice.by.pick(&self.slots))?, at, end)
    }

    #[inline(never)]
    fn options(&mut self, nested: &'l Nested, at: usize, end: usize) -> Next {
        let chosen = nested.by.as_ref().map(|by| by.pick(&self.slots));
        let chapter = self.nesting.chapter(nested, chosen);
        if self.depth >= DEPTH || chapter.pad_and_end {
            return None;
        }
        self.visitor.begin(Shape::Options, at);
        let (mut next, mut have) = (at, 0);
        while next < end {
            next = self.option(chapter, next, end)?;
            have += 1;
        }
        self.visitor.end(next);
        (have >= nested.count.min).then_some(next)
    }

    fn option(&mut self, chapter: ChapterRef, at: usize, end: usize) -> Next {
        let ChapterRef { code_octets, length_octets, index, .. } = chapter;
        let start = at + code_octets + length_octets;
        let head = self.octets.get(at..start).filter(|_| start <= end)?;
        let (code, length) = match *head {
            [code, length] => (u16::from(code), u16::from(length)),
            [a, b, c, d] => (u16::from_be_bytes([a, b]), u16::from_be_bytes([c, d])),
            _ => return None,
        };
        let stop = start + usize::from(length);
        let payload = self.octets.get(start..stop).filter(|_| stop <= end)?;
        let known = self.nesting.definition(chapter, code);
        self.visitor.begin(Shape::Option { code, name: known.as_ref().map(|known| known.name), chapter: index }, at);
        self.visitor.frame(Framing::Code(code), at..at + code_octets);
        self.visitor.frame(Framing::Length(stop - start), at + code_octets..start);
        match known.map(|known| known.layout.root()) {
            None => self.visitor.scalar(ScalarForm::Unknown, Scalar::Bytes(payload), start..stop),
            Some(Node::Atom(atom)) => {
                let place = Place { base: start, at: start, end: stop, limit: stop };
                let (next, scalar) = plain::<TEXT>(atom, self.octets, place)?;
                self.visitor.scalar(ScalarForm::Atom(atom), scalar, start..next);
                (next == stop).then_some(())?;
            }
            Some(root) => self.payload(root, start, stop)?,
        }
        self.visitor.end(stop);
        Some(stop)
    }

    #[inline(never)]
    fn payload(&mut self, root: &'l Node, start: usize, stop: usize) -> Option<()> {
        let outer = (self.base, self.slots, self.zeros_from);
        (self.base, self.zeros_from) = (start, usize::MAX);
        self.depth += 1;
        let next = self.node(root, start, stop)?;
        self.depth -= 1;
        (self.base, self.slots, self.zeros_from) = outer;
        (next == stop).then_some(())
    }

    fn take(&self, count: usize, at: usize, end: usize) -> Option<&'o [u8]> {
        let next = at.checked_add(count).filter(|next| *next <= end)?;
        self.octets.get(at..next)
    }

    fn atom(&mut self, atom: &'l Atom, at: usize, end: usize) -> Next {
        let place = Place { base: self.base, at, end, limit: end.min(self.zeros_from).max(at) };
        let (next, scalar) = plain::<TEXT>(atom, self.octets, place)?;
        self.visitor.scalar(ScalarForm::Atom(atom), scalar, at..next);
        Some(next)
    }
}

/// Where a single thing stands among octets.
#[derive(Clone, Copy)]
struct Place {
    /// Where compression pointers count from.
    base: usize,
    at: usize,
    /// Where its part ends at the latest.
    end: usize,
    /// The same where zeros follow that are no text.
    limit: usize,
}

/// A single thing and where it ends; `None` where it is not plainly right.
#[inline(always)]
fn plain<'o, const TEXT: bool>(atom: &Atom, octets: &'o [u8], place: Place) -> Option<(usize, Scalar<'o>)> {
    let Place { base, at, end, .. } = place;
    let rest = octets.get(at..end)?;
    Some(match atom {
        Atom::Ipv4(_) => (at + 4, Scalar::Ipv4(array::<4>(rest)?.into())),
        Atom::Seconds(bound) => {
            let seconds = u32::from_be_bytes(array(rest)?);
            let right = bound.is_none_or(|bound| bound.holds(seconds.into()));
            right.then_some((at + 4, Scalar::Seconds(seconds)))?
        }
        Atom::Number(form) => (at + form.octets, number_of(form, rest)?),
        Atom::Ipv6(_) => (at + 16, Scalar::Ipv6(array::<16>(rest)?.into())),
        Atom::Run(run, count) => {
            let next = count.fixed().map_or(place.limit, |fixed| at + fixed);
            (next, run_of::<TEXT>(*run, *count, octets.get(at..next).filter(|_| next <= end)?)?)
        }
        Atom::Name => {
            let next = end_of_plain_name(octets, at, end)?;
            (next, Scalar::Name(NameRef::new(&octets[base..end], at - base, true)))
        }
        Atom::Netmask => {
            let mask = u32::from_be_bytes(array(rest)?);
            (mask.leading_ones() + mask.trailing_zeros() >= 32).then_some((at + 4, Scalar::Ipv4(mask.into())))?
        }
        Atom::Mac => (at + 6, Scalar::Mac(array(rest)?)),
        Atom::Duid => (3..=130).contains(&rest.len()).then_some((end, Scalar::Bytes(rest)))?,
        Atom::Bool => (rest.first()? <= &1).then_some((at + 1, Scalar::Bool(rest[0] != 0)))?,
        Atom::Route4 => {
            let (significant, length, destination) = prefix::<4>(rest)?;
            let router = array::<4>(&rest[significant..])?.into();
            let route = Route4 { destination: destination.into(), length, router };
            (at + significant + 4, Scalar::Route4(route))
        }
        Atom::Prefix6 => {
            let (significant, length, prefix) = prefix::<16>(rest)?;
            (at + significant, Scalar::Prefix6(Prefix6 { prefix: prefix.into(), length }))
        }
        Atom::Empty => (at, Scalar::Empty),
        Atom::Uuid | Atom::Guid | Atom::PartialName | Atom::Names(_) | Atom::Ipv6Head(_) => return None,
    })
}

#[inline(always)]
fn array<const WIDTH: usize>(rest: &[u8]) -> Option<[u8; WIDTH]> {
    rest.first_chunk().copied()
}

#[inline(always)]
fn number_of<'o>(form: &Number, rest: &[u8]) -> Option<Scalar<'o>> {
    if form.signed {
        return None;
    }
    let raw = number(rest.get(..form.octets)?);
    let right = form.bound.is_none_or(|bound| bound.holds(raw.into()))
        && match &form.meaning {
            Meaning::Member(of) => of.open || of.name_of(raw).is_some(),
            Meaning::Flags(of) => of.open || raw & !of.all_bits() == 0,
            _ => true,
        };
    right.then_some(Scalar::Number(raw))
}

#[inline(always)]
fn run_of<const TEXT: bool>(run: Run, count: Count, octets: &[u8]) -> Option<Scalar<'_>> {
    if octets.len() < count.min || count.max.is_some_and(|max| octets.len() > max) {
        return None;
    }
    let is_plain = match run {
        Run::Bytes => return Some(Scalar::Bytes(octets)),
        Run::Text | Run::Utf8 | Run::TextAndOctets => is_printable(octets),
        Run::DottedName => is_plain_dotted_name(octets),
        Run::Uri => is_plain_uri(octets),
    };
    if !TEXT {
        return is_plain.then_some(Scalar::Empty);
    }
    str::from_utf8(octets).ok().filter(|_| is_plain).map(Scalar::Text)
}

/// The length of a prefix, and as many octets as it needs.
#[inline]
fn prefix<const OCTETS: usize>(rest: &[u8]) -> Option<(usize, u8, [u8; OCTETS])> {
    let (length, rest) = rest.split_first()?;
    let significant = usize::from(*length).div_ceil(8);
    let octets = rest.get(..significant)?;
    let mut prefix = [0; OCTETS];
    prefix.get_mut(..significant)?.copy_from_slice(octets);
    let whole = length % 8 == 0 || octets.last()? << (length % 8) == 0;
    whole.then_some((1 + significant, *length, prefix))
}
