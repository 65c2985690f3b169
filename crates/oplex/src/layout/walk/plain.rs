//! The walk where nothing is wrong: most octets are right, and to see that takes a fraction of saying what is not.
//!
//! A layout comes to a list of steps, which have no names and skip what cannot be wrong. They look for no reason and give up at the
//! first octet that is anything but plainly right: what a layout has against octets, [`walk`](super::walk) alone decides.
//!
//! An address is plainly right whosever it is, a number of an open enumeration only where it has a name.

use core::ops::Range;

use super::DEPTH;
use crate::layout::atoms::{end_of_plain_name, is_plain_dotted_name, is_plain_uri, is_printable};
use crate::layout::form::atom::{Atom, Bound, Count, Enumeration, Meaning, Number, Run};
use crate::layout::node::{Choice, Nested, Node, Prefix, SLOTS, Selector, Slots, padding};
use crate::layout::scalar::{Route4, Scalar};
use crate::layout::{ChapterRef, Layout, Nesting};
use crate::octets::number;
use crate::prelude::*;
use alloc::sync::Arc;

pub(in crate::layout) type Steps = Box<[Step]>;

#[derive(Debug, Clone, PartialEq)]
pub(in crate::layout) enum Step {
    /// So many octets of which none can be wrong.
    Skip(usize),
    /// A number of so many octets within these.
    Number(usize, u64, u64),
    /// One of the named numbers.
    Member(usize, Arc<Enumeration>),
    /// No bits but these.
    Flags(usize, u64),
    Netmask,
    Ipv4(Atom),
    Ipv6(Atom),
    Route4(Atom),
    Prefix6,
    Duid(Atom),
    Run(Run, Count),
    Name,
    /// Addresses of one length, and names: nearly all lists are of these.
    List(Atom, Count),
    Repeat(Steps, Count),
    Optional(Steps),
    Sized(Prefix, Steps),
    Padded(usize, Steps),
    Zeros(usize),
    Options(Nested),
    Choice(Selector, Vec<(u64, Steps)>, Option<Steps>),
    /// The number in the last so many octets decides something later.
    Keep(u8, usize),
    /// The complete walk must look.
    Never,
}

/// The steps of a layout.
pub(in crate::layout) fn steps(root: &Node) -> Steps {
    let mut steps = Vec::new();
    add(&mut steps, root);
    steps.into()
}

fn add(steps: &mut Vec<Step>, node: &Node) {
    let step = match node {
        Node::Atom(atom) => of_atom(atom),
        Node::Record(fields) => {
            for field in fields {
                add(steps, &field.node);
                if let Some(slot) = field.keep {
                    let Node::Atom(Atom::Number(Number { octets, .. })) = field.node else {
                        return steps.push(Step::Never);
                    };
                    steps.push(Step::Keep(slot, octets));
                }
            }
            return;
        }
        Node::Repeat(item, count) => match &**item {
            Node::Atom(atom @ (Atom::Ipv4(_) | Atom::Ipv6(_) | Atom::Name)) => Step::List(atom.clone(), *count),
            item => Step::Repeat(self::steps(item), *count),
        },
        Node::Optional(inner) => Step::Optional(self::steps(inner)),
        Node::Sized(prefix, inner) => Step::Sized(*prefix, self::steps(inner)),
        Node::Padded(before, inner) => Step::Padded(*before, self::steps(inner)),
        Node::Zeros(count) => Step::Zeros(*count),
        Node::Options(nested) => Step::Options(nested.clone()),
        Node::Choice(Choice { by, arms, otherwise }) => {
            let arms = arms.iter().map(|(number, node)| (*number, self::steps(node))).collect();
            Step::Choice(by.clone(), arms, otherwise.as_deref().map(self::steps))
        }
        Node::Pairs(_) | Node::Bits(_) => Step::Never,
    };
    match (steps.last_mut(), step) {
        (Some(Step::Skip(before)), Step::Skip(more)) => *before += more,
        (_, step) => steps.push(step),
    }
}

fn of_atom(atom: &Atom) -> Step {
    match atom {
        Atom::Number(form) => of_number(form),
        Atom::Bool => Step::Number(1, 0, 1),
        Atom::Seconds(bound) => within(4, *bound),
        Atom::Ipv4(_) => Step::Ipv4(atom.clone()),
        Atom::Ipv6(_) => Step::Ipv6(atom.clone()),
        Atom::Netmask => Step::Netmask,
        Atom::Mac => Step::Skip(6),
        Atom::Uuid | Atom::Guid => Step::Skip(16),
        Atom::Run(run, count) => Step::Run(*run, *count),
        Atom::Empty => Step::Skip(0),
        Atom::Name => Step::Name,
        Atom::Duid => Step::Duid(atom.clone()),
        Atom::Route4 => Step::Route4(atom.clone()),
        Atom::Prefix6 => Step::Prefix6,
        Atom::Names(_) => Step::List(Atom::Name, Count::SOME),
        Atom::PartialName | Atom::Ipv6Head(_) => Step::Never,
    }
}

fn of_number(form: &Number) -> Step {
    match &form.meaning {
        // A number without a name may be right, but not plainly.
        Meaning::Member(of) if form.bound.is_none() => Step::Member(form.octets, of.clone()),
        Meaning::Flags(of) if !of.open && form.bound.is_none() => Step::Flags(form.octets, of.all_bits()),
        Meaning::Member(_) => Step::Never,
        Meaning::Flags(of) if !of.open => Step::Never,
        _ if form.signed && form.bound.is_some() => Step::Never,
        _ => within(form.octets, form.bound),
    }
}

fn within(octets: usize, bound: Option<Bound>) -> Step {
    let Some(bound) = bound else { return Step::Skip(octets) };
    let least = bound.min.unwrap_or(0).max(0);
    let greatest = bound.max.unwrap_or(i128::MAX).min(u64::MAX.into());
    match (least.try_into(), greatest.try_into()) {
        (Ok(least), Ok(greatest)) => Step::Number(octets, least, greatest),
        _ => Step::Never,
    }
}

/// Is sent what the rules look at in octets that are plainly right.
pub(crate) trait PlainVisitor<'l, 'o> {
    /// An address, a route or a DUID.
    fn scalar(&mut self, _atom: &'l Atom, _scalar: Scalar<'o>, _octets: Range<usize>) {}
    /// An option begins at this octet, with this payload.
    fn begin(&mut self, _code: u16, _chapter: Option<usize>, _at: usize, _payload: Range<usize>) {}
    /// That option ends.
    fn end(&mut self) {}
}

/// A reader that keeps nothing.
impl PlainVisitor<'_, '_> for () {}

/// Whether nothing is wrong with `octets`, as far as that is plain. `false` says nothing, and what the visitor was sent by then
/// counts for nothing.
#[inline]
pub(in crate::layout) fn is_plain<'l, 'o, V: PlainVisitor<'l, 'o>, N: Nesting + ?Sized>(
    layout: &'l Layout,
    nesting: &'l N,
    octets: &'o [u8],
    visitor: &mut V,
) -> bool {
    let mut plain = Plain { octets, nesting, visitor, slots: [0; SLOTS], depth: 0, zeros_from: usize::MAX };
    plain.run(&layout.steps, 0, octets.len()) == Some(octets.len())
}

/// As the complete walker has them.
struct Plain<'l, 'o, 'v, V, N: ?Sized> {
    octets: &'o [u8],
    nesting: &'l N,
    visitor: &'v mut V,
    slots: Slots,
    depth: u8,
    zeros_from: usize,
}

impl<'l, 'o, V: PlainVisitor<'l, 'o>, N: Nesting + ?Sized> Plain<'l, 'o, '_, V, N> {
    /// Where the octets of these steps end; `None` where not all is plainly right.
    fn run(&mut self, steps: &'l [Step], mut at: usize, end: usize) -> Option<usize> {
        for step in steps {
            let rest = self.octets.get(at..end)?;
            at += match step {
                Step::Skip(octets) => (*octets <= rest.len()).then_some(*octets)?,
                Step::Number(octets, least, greatest) => {
                    (*least..=*greatest).contains(&number(rest.get(..*octets)?)).then_some(*octets)?
                }
                Step::Member(octets, of) => of.name_of(number(rest.get(..*octets)?)).map(|_| *octets)?,
                Step::Flags(octets, bits) => (number(rest.get(..*octets)?) & !bits == 0).then_some(*octets)?,
                Step::Netmask => {
                    let mask = u32::from_be_bytes(*rest.first_chunk()?);
                    (mask.leading_ones() + mask.trailing_zeros() >= 32).then_some(4)?
                }
                Step::Ipv4(atom) => {
                    let address = Scalar::Ipv4((*rest.first_chunk::<4>()?).into());
                    self.visitor.scalar(atom, address, at..at + 4);
                    4
                }
                Step::Ipv6(atom) => {
                    let address = Scalar::Ipv6((*rest.first_chunk::<16>()?).into());
                    self.visitor.scalar(atom, address, at..at + 16);
                    16
                }
                Step::Duid(atom) => {
                    (3..=130).contains(&rest.len()).then_some(())?;
                    self.visitor.scalar(atom, Scalar::Bytes(rest), at..end);
                    rest.len()
                }
                Step::Run(run, count) => is_run(*run, *count, rest, self.zeros_from.saturating_sub(at))?,
                Step::Name => end_of_plain_name(rest)?,
                Step::List(atom, count) => self.list(atom, *count, at, end)? - at,
                Step::Options(nested) => self.options(nested, at, end)? - at,
                Step::Keep(slot, octets) => {
                    self.slots[usize::from(*slot)] = number(&self.octets[at - octets..at]);
                    0
                }
                step => self.rare(step, at, end)? - at,
            };
        }
        Some(at)
    }

    #[inline(never)]
    fn rare(&mut self, step: &'l Step, at: usize, end: usize) -> Option<usize> {
        let rest = self.octets.get(at..end)?;
        match step {
            Step::Route4(atom) => {
                let (octets, length, destination) = prefix::<4>(rest)?;
                let router = (*rest.get(octets..)?.first_chunk::<4>()?).into();
                let route = Route4 { destination: destination.into(), length, router };
                self.visitor.scalar(atom, Scalar::Route4(route), at..at + octets + 4);
                Some(at + octets + 4)
            }
            Step::Prefix6 => prefix::<16>(rest).map(|(octets, ..)| at + octets),
            Step::Zeros(count) => rest.get(..*count)?.iter().all(|octet| *octet == 0).then_some(at + count),
            Step::Optional(inner) if at < end.min(self.zeros_from) => self.run(inner, at, end),
            Step::Optional(_) => Some(at),
            Step::Choice(by, arms, otherwise) => {
                let number = by.pick(&self.slots);
                let arm = arms.iter().find(|(at, _)| *at == number).map(|(_, steps)| steps);
                self.run(arm.or(otherwise.as_ref())?, at, end)
            }
            Step::Repeat(item, count) => {
                let (mut next, mut have) = (at, 0);
                while next < end.min(self.zeros_from) && count.max.is_none_or(|max| have < max) {
                    next = self.run(item, next, end)?;
                    have += 1;
                }
                (have >= count.min).then_some(next)
            }
            Step::Sized(prefix, inner) => {
                let start = at + prefix.octets;
                let length = (number(rest.get(..prefix.octets)?) as usize).checked_sub(prefix.extra)?;
                let stop = start.checked_add(length).filter(|stop| *stop <= end)?;
                let outer = core::mem::replace(&mut self.zeros_from, usize::MAX);
                let next = self.run(inner, start, stop)?;
                self.zeros_from = outer;
                (next == stop).then_some(stop)
            }
            Step::Padded(before, inner) => {
                let zeros = rest.iter().rev().take_while(|octet| **octet == 0).count();
                let outer = core::mem::replace(&mut self.zeros_from, end - zeros);
                let next = self.run(inner, at, end)?;
                self.zeros_from = outer;
                (next >= end - zeros && padding(before + rest.len()) == 0).then_some(end)
            }
            _ => None,
        }
    }

    fn list(&mut self, atom: &'l Atom, count: Count, at: usize, end: usize) -> Option<usize> {
        let (mut next, mut have) = (at, 0);
        while next < end.min(self.zeros_from) && count.max.is_none_or(|max| have < max) {
            let rest = &self.octets[next..end];
            let start = next;
            match atom {
                Atom::Ipv4(_) => {
                    next += 4;
                    self.visitor.scalar(atom, Scalar::Ipv4((*rest.first_chunk::<4>()?).into()), start..next);
                }
                Atom::Ipv6(_) => {
                    next += 16;
                    self.visitor.scalar(atom, Scalar::Ipv6((*rest.first_chunk::<16>()?).into()), start..next);
                }
                _ => next += end_of_plain_name(rest)?,
            }
            have += 1;
        }
        (have >= count.min).then_some(next)
    }

    #[inline(never)]
    fn options(&mut self, nested: &'l Nested, at: usize, end: usize) -> Option<usize> {
        let chosen = nested.by.as_ref().map(|by| by.pick(&self.slots));
        let (mut next, mut have) = (at, 0);
        if next < end {
            let chapter = self.nesting.chapter(nested, chosen);
            if self.depth >= DEPTH || chapter.pad_and_end {
                return None;
            }
            while next < end {
                next = self.option(chapter, next, end)?;
                have += 1;
            }
        }
        (have >= nested.count.min).then_some(next)
    }

    fn option(&mut self, chapter: ChapterRef, at: usize, end: usize) -> Option<usize> {
        let start = at + chapter.code_octets + chapter.length_octets;
        let head = self.octets.get(at..start).filter(|_| start <= end)?;
        let (code, length) = match *head {
            [code, length] => (u16::from(code), u16::from(length)),
            [a, b, c, d] => (u16::from_be_bytes([a, b]), u16::from_be_bytes([c, d])),
            _ => return None,
        };
        let stop = start + usize::from(length);
        (stop <= end).then_some(())?;
        self.visitor.begin(code, chapter.index, at, start..stop);
        if let Some(known) = self.nesting.definition(chapter, code) {
            let outer = (self.slots, self.zeros_from);
            self.zeros_from = usize::MAX;
            self.depth += 1;
            let next = self.run(&known.layout.steps, start, stop)?;
            self.depth -= 1;
            (self.slots, self.zeros_from) = outer;
            (next == stop).then_some(())?;
        }
        self.visitor.end();
        Some(stop)
    }
}

/// How many octets of text or others stand here, of which zeros that follow in `before_zeros` octets are none.
#[inline]
fn is_run(run: Run, count: Count, rest: &[u8], before_zeros: usize) -> Option<usize> {
    let octets = rest.get(..count.fixed().unwrap_or(rest.len().min(before_zeros)))?;
    if octets.len() < count.min || count.max.is_some_and(|max| octets.len() > max) {
        return None;
    }
    let is_plain = match run {
        Run::Bytes => true,
        Run::Text | Run::Utf8 | Run::TextAndOctets => is_printable(octets),
        Run::DottedName => is_plain_dotted_name(octets),
        Run::Uri => is_plain_uri(octets),
    };
    is_plain.then_some(octets.len())
}

/// How many octets a prefix takes, with its length and its own octets.
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
