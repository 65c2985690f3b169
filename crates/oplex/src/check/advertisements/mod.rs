//! Rules about router advertisements and solicitations.

mod frames;
mod options;
mod values;

use std::ops::Range;

use super::{Check, Find, checks};
use crate::answer::announcement;
use crate::codebook::Codebook;
use crate::finding::Finding;
use crate::layout::Value;
use crate::packet::ra::{Message, MessageOption};
use crate::plan::{Network, Plan};

pub(super) static CHECKS: [&[&Check]; 3] = [&frames::CHECKS, &options::CHECKS, &values::CHECKS];

/// A message, and what its rules ask about most.
pub(super) struct Seen<'m> {
    message: Message<'m>,
    codebook: &'m Codebook,
}

impl<'m> Seen<'m> {
    /// Octets of the message, counted from where it was read.
    fn at(&self, octets: Range<usize>) -> Range<usize> {
        let base = self.message.base();
        base + octets.start..base + octets.end
    }

    /// An option with its type and length.
    fn whole(&self, option: &MessageOption<'_>) -> Range<usize> {
        self.at(option.at..option.at + 2 + option.octets.len())
    }

    /// The options of this type, each with its value, when it can be read.
    fn all(&self, code: u8) -> impl Iterator<Item = (MessageOption<'m>, Option<Value>)> {
        let definition = self.codebook.ra(code);
        let these = self.message.options().filter(move |option| option.code == code);
        these.map(move |option| {
            let value = definition.and_then(|definition| self.codebook.decode(definition, option.octets).0);
            (option, value)
        })
    }
}

/// What the rules find in what a network's router announces, besides what they find in single values, at the line that says
/// so.
pub(super) fn of_network(plan: &Plan, network: &Network) -> Vec<Finding> {
    let (Some(said), Ok(Some((octets, _)))) = (&network.v6.advertise, announcement(network)) else { return Vec::new() };
    let Ok(message) = Message::read(&octets) else { return Vec::new() };
    let seen = Seen { message, codebook: &plan.codebook };
    let mut findings = Vec::new();
    for check in checks() {
        if let Find::Advertisement(find) = check.find {
            find(&seen, &mut findings);
        }
    }
    let here = |finding: Finding| Finding { octets: None, ..finding }.at(said.spot.clone());
    findings.into_iter().map(here).collect()
}

/// Everything the rules find in a message, in the order of the octets, which count from where it was read.
pub(super) fn message(codebook: &Codebook, message: Message<'_>) -> Vec<Finding> {
    let seen = Seen { message, codebook };
    let mut findings = Vec::new();
    for check in checks() {
        if let Find::Advertisement(find) = check.find {
            find(&seen, &mut findings);
        }
    }
    for option in message.options() {
        let Some(definition) = codebook.ra(option.code) else { continue };
        findings.extend(super::payload(codebook, definition, option.octets).into_iter().map(|finding| {
            let inside = finding.octets.clone().unwrap_or(0..option.octets.len());
            let all = inside == (0..option.octets.len()) || inside.is_empty();
            let start = option.at + 2;
            let octets = if all { seen.whole(&option) } else { seen.at(start + inside.start..start + inside.end) };
            let message = format!("{}: {}", definition.name, finding.message);
            Finding { message, ..finding }.on(octets)
        }));
    }
    let start = |finding: &Finding| finding.octets.as_ref().map_or(0, |octets| octets.start);
    findings.sort_by_key(|finding| (start(finding), std::cmp::Reverse(finding.severity)));
    findings
}
