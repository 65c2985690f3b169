//! The messages that a plan comes to, as the rules about messages see them.

use std::collections::{BTreeSet, HashSet};

use super::declare::PlanContext;
use super::messages::read_and_look;
use crate::answer::{Audience, Chosen};
use crate::family::{Both, Family};
use crate::finding::Finding;
use crate::packet::AnyMessage;

/// What a rule finds in a message that the plan comes to.
pub(super) struct Composed {
    /// At the key of the option that it is about.
    finding: Finding,
    /// Where the option's value ends in the plan.
    end: usize,
}

/// Those of which nothing else was found in the plan: what is wrong with a line is said once.
pub(super) fn unsaid(mut composed: Vec<Composed>, findings: &[Finding]) -> Vec<Finding> {
    let said: BTreeSet<(u32, usize)> = findings
        .iter()
        .filter_map(|finding| finding.spot.as_ref())
        .map(|spot| (spot.file.0, spot.span.start))
        .collect();
    let mut seen = HashSet::new();
    composed.retain(|Composed { finding, end }| {
        let Some(spot) = &finding.spot else { return false };
        let unsaid = said.range((spot.file.0, spot.span.start)..=(spot.file.0, *end)).next().is_none();
        unsaid && seen.insert((finding.rule.name, spot.file.0, spot.span.start))
    });
    composed.into_iter().map(|composed| composed.finding).collect()
}

/// What the rules find in the messages that an audience is sent, at the keys of the options that they are about. What they
/// find in single values they find in the plan's own, and what else is in a message is not the plan's.
pub(super) fn of_audience(
    plan: &PlanContext<'_>,
    audience: &Audience<'_>,
    sent: &Both<Vec<Chosen<'_>>>,
    findings: &mut Vec<Composed>,
) {
    for family in Family::ALL.into_iter().filter(|family| audience.network().sides.has(*family)) {
        // What no message can hold is said by another rule.
        for octets in audience.messages(family).unwrap_or_default() {
            let Ok(message) = AnyMessage::read(family.protocol(), &octets) else { continue };
            let found = read_and_look(&plan.plan.codebook, message);
            findings.extend(found.into_iter().filter_map(|finding| at_key(finding, message, &sent[family])));
        }
    }
}

/// The finding at the key of the option that it is about, if the plan sends that.
fn at_key(finding: Finding, message: AnyMessage<'_>, sent: &[Chosen<'_>]) -> Option<Composed> {
    let at = finding.octets.as_ref()?.start;
    let options = message.options();
    let about = options.iter().filter(|option| option.at() <= at).max_by_key(|option| option.at())?;
    let chosen = Chosen::find(sent, message.protocol(), about.code())?;
    let (key, value) = (chosen.option.key()?, chosen.option.spot()?);
    Some(Composed { finding: Finding { octets: None, ..finding }.at(key.clone()), end: value.span.end })
}
