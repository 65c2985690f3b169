//! Rules about whole messages of DHCPv6.

mod frames;
mod options;
mod tables;

use std::ops::Range;

use super::{Check, Find, checks};
use crate::codebook::{Codebook, Definition};
use crate::finding::Finding;
use crate::layout::{Fault, Form, Frame, Node, Scalar, Shape, Visitor};
use crate::packet::v6::{Message, MessageType};

pub(super) static CHECKS: [&[&Check]; 3] = [&frames::CHECKS, &tables::CHECKS, &options::CHECKS];

/// A message, and what its rules ask about most.
pub(super) struct Seen<'m> {
    message: Message<'m>,
    kind: MessageType,
    codebook: &'m Codebook,
    /// Its options and those inside them, in the order of their octets.
    options: Vec<Place>,
}

/// An option of DHCPv6, at the top of a message or in another.
struct Place {
    code: u16,
    /// The option it stands in, by its place among all; `None` at the top.
    inside: Option<usize>,
    /// Its payload, in octets of the message.
    payload: Range<usize>,
}

impl Place {
    /// All of it, its code and length included.
    fn whole(&self) -> Range<usize> {
        self.payload.start - 4..self.payload.end
    }
}

impl<'m> Seen<'m> {
    fn new(codebook: &'m Codebook, message: Message<'m>) -> Self {
        let mut options = Vec::new();
        for option in message.options() {
            let payload = option.at + 4..option.at + 4 + option.octets.len();
            options.push(Place { code: option.code, inside: None, payload });
            if let Some(definition) = codebook.v6(option.code).filter(|known| holds_options(codebook, known)) {
                let mut finder = Finder { codebook, base: option.at + 4, open: vec![Some(options.len() - 1)], options };
                codebook.layout(definition).walk(codebook, option.octets, &mut finder);
                options = finder.options;
            }
        }
        Self { message, kind: message.message_type(), codebook, options }
    }

    /// The options at the top.
    fn top(&self) -> impl Iterator<Item = &Place> {
        self.options.iter().filter(|place| place.inside.is_none())
    }

    fn octets(&self, place: &Place) -> &'m [u8] {
        self.message.octets().get(place.payload.clone()).unwrap_or_default()
    }

    /// What it is called in a finding: `an Advertise`.
    fn called(&self) -> String {
        let name = self.kind.to_string();
        if name.starts_with(['A', 'I']) { format!("an {name}") } else { format!("a {name}") }
    }

    /// How an option is called: `v6:3 ia-na`.
    fn label(&self, code: u16) -> String {
        self.codebook.v6(code).map_or_else(|| format!("v6:{code}"), Definition::label)
    }

    /// The four octets of a number in an option, from there on.
    fn long(&self, place: &Place, at: usize) -> Option<u32> {
        self.octets(place).get(at..at + 4)?.try_into().ok().map(u32::from_be_bytes)
    }
}

/// Whether options of DHCPv6 itself stand in it: vendors' and others have codes of their own.
fn holds_options(codebook: &Codebook, definition: &Definition) -> bool {
    fn any(node: &Node) -> bool {
        match node {
            Node::Options(nested) => *nested.space == *"v6",
            Node::Record(fields) => fields.iter().any(|field| any(&field.node)),
            Node::Repeat(inner, _) | Node::Optional(inner) | Node::Sized(_, inner) | Node::Padded(_, inner) => {
                any(inner)
            }
            Node::Choice(choice) => {
                choice.arms.iter().map(|(_, node)| node).chain(choice.otherwise.as_deref()).any(any)
            }
            Node::Atom(_) | Node::Zeros(_) | Node::Pairs(_) | Node::Bits(_) => false,
        }
    }
    any(codebook.layout(definition).root())
}

/// Notes where options inside an option stand.
struct Finder<'c> {
    codebook: &'c Codebook,
    base: usize,
    /// The options that are open; `None` for parts that are none.
    open: Vec<Option<usize>>,
    options: Vec<Place>,
}

impl<'l, 'o> Visitor<'l, 'o> for Finder<'_> {
    fn begin(&mut self, shape: Shape<'l>, at: usize) {
        let place = match shape {
            Shape::Option { code, .. } => {
                let inside = self.open.iter().rev().find_map(|open| *open);
                let outer = inside.and_then(|outer| self.codebook.v6(self.options[outer].code));
                // Codes inside a vendor's option, or an NTP server's, mean something else.
                outer.filter(|outer| holds_options(self.codebook, outer)).map(|_| {
                    self.options.push(Place { code, inside, payload: self.base + at..self.base + at });
                    self.options.len() - 1
                })
            }
            _ => None,
        };
        self.open.push(place);
    }

    fn end(&mut self, at: usize) {
        if let Some(Some(place)) = self.open.pop() {
            let payload = &mut self.options[place].payload;
            payload.end = (self.base + at).max(payload.start);
        }
    }

    fn frame(&mut self, frame: Frame, octets: Range<usize>) {
        if let (Frame::Code(_) | Frame::Length(_), Some(Some(place))) = (frame, self.open.last()) {
            let payload = &mut self.options[*place].payload;
            *payload = self.base + octets.end..(self.base + octets.end).max(payload.end);
        }
    }

    fn scalar(&mut self, _: Form<'l>, _: Scalar<'o>, _: Range<usize>) {}

    fn fault(&mut self, _: Fault) {}
}

/// Everything the rules find in a message and in those that it carries, in the order of the octets.
pub(super) fn message(codebook: &Codebook, message: Message<'_>) -> Vec<Finding> {
    let mut findings = Vec::new();
    let (mut message, mut base) = (message, 0);
    // Every relay takes 38 octets, so that this ends.
    loop {
        let mut found = one(codebook, message);
        for finding in &mut found {
            finding.octets = finding.octets.take().map(|octets| base + octets.start..base + octets.end);
        }
        findings.append(&mut found);
        match message.relayed() {
            Some((Ok(inner), at)) => (message, base) = (inner, base + at),
            _ => break,
        }
    }
    let start = |finding: &Finding| finding.octets.as_ref().map_or(0, |octets| octets.start);
    findings.sort_by_key(|finding| (start(finding), std::cmp::Reverse(finding.severity)));
    findings
}

fn one(codebook: &Codebook, message: Message<'_>) -> Vec<Finding> {
    let seen = Seen::new(codebook, message);
    let mut findings = Vec::new();
    for check in checks() {
        if let Find::MessageV6(find) = check.find {
            find(&seen, &mut findings);
        }
    }
    for place in seen.top() {
        let Some(definition) = codebook.v6(place.code) else { continue };
        let octets = seen.octets(place);
        findings.extend(super::payload(codebook, definition, octets).into_iter().map(|finding| {
            let inside = finding.octets.clone().unwrap_or(0..octets.len());
            // What is about all of an option, or stands where octets are missing, is about the option with its head.
            let whole = inside == (0..octets.len()) || inside.is_empty();
            let start = place.payload.start;
            let octets = if whole { place.whole() } else { start + inside.start..start + inside.end };
            let message = format!("{}: {}", definition.name, finding.message);
            Finding { message, ..finding }.on(octets)
        }));
    }
    findings
}
