//! Rules over whole messages of any protocol.

use super::catalogue::checks;
use super::context::MessageContext;
use super::declare::{Find, PlanContext};
use super::options;
use crate::codebook::Codebook;
use crate::finding::{About, Finding};
use crate::packet::{AnyMessage, Message as _, ra, v4};

/// Reads a message's options, each once. What is wrong with single options goes into `findings`.
fn context<'m>(codebook: &'m Codebook, message: AnyMessage<'m>, findings: &mut Vec<Finding>) -> MessageContext<'m> {
    let mut context = MessageContext::new(codebook, message);
    for option in message.options() {
        let octets = option.joined();
        let definition = codebook.own(message.protocol(), option.code());
        let read = definition.map(|definition| options::read(codebook, definition, &octets));
        // Joined, one that is never split is of the wrong length, and another rule says why.
        let whole = definition.is_some_and(|definition| !(option.is_split() && definition.single));
        if let (Some(definition), Some(read)) = (definition.filter(|_| whole), &read) {
            let base = message.base();
            findings.extend(read.findings.iter().cloned().map(|finding| {
                let inside = finding.octets.clone().unwrap_or(0..octets.len());
                let octets = option.rebased(&inside);
                let message = format!("{}: {}", definition.name, finding.message);
                Finding { message, ..finding }.on(base + octets.start..base + octets.end)
            }));
        }
        context.add(option, octets, read.map(|read| read.decoded).unwrap_or_default());
    }
    context
}

/// What the rules about whole messages of its protocol find.
fn look(context: &MessageContext<'_>, findings: &mut Vec<Finding>) {
    for check in checks() {
        if let (Find::Message(find), About::Message(protocols)) = (&check.find, check.rule.about)
            && protocols.contains(&context.protocol())
        {
            find(context, findings);
        }
    }
}

/// Everything the rules find in a message and in those that it carries, in the order of the octets.
pub(super) fn findings(codebook: &Codebook, message: AnyMessage<'_>) -> Vec<Finding> {
    let mut findings = Vec::new();
    let (mut message, mut base) = (message, 0);
    // Every relay header takes 38 octets, so that this ends.
    loop {
        let mut found = Vec::new();
        look(&context(codebook, message, &mut found), &mut found);
        for finding in &mut found {
            finding.octets = finding.octets.take().map(|octets| base + octets.start..base + octets.end);
        }
        findings.append(&mut found);
        match message.relayed() {
            Some((Ok(inner), at)) => (message, base) = (inner, base + at),
            _ => break,
        }
    }
    in_order(findings)
}

/// Everything the rules find in a reply when they see what it replies to.
pub(super) fn exchange(codebook: &Codebook, request: v4::Message<'_>, reply: v4::Message<'_>) -> Vec<Finding> {
    let mut ignored = Vec::new();
    let [request, reply] = [request, reply].map(|one| context(codebook, one.into(), &mut ignored));
    let mut findings = Vec::new();
    for check in checks() {
        if let Find::Exchange(find) = check.find {
            find(&request, &reply, &mut findings);
        }
    }
    in_order(findings)
}

fn in_order(mut findings: Vec<Finding>) -> Vec<Finding> {
    let start = |finding: &Finding| finding.octets.as_ref().map_or(0, |octets| octets.start);
    findings.sort_by_key(|finding| (start(finding), std::cmp::Reverse(finding.severity)));
    findings
}

/// What the rules find in what a network's router advertises, besides what they find in single values, at the line that says
/// so.
pub(super) fn of_advertisement(plan: &PlanContext<'_>, network: usize) -> Vec<Finding> {
    let Some(said) = &plan.compiled.networks[network].advertises else { return Vec::new() };
    let (Ok(octets), Some(origin)) = (said.octets(), said.origin) else { return Vec::new() };
    let Ok(message) = ra::Message::read(&octets) else { return Vec::new() };
    let mut findings = Vec::new();
    let message = context(&plan.plan.codebook, message.into(), &mut Vec::new());
    look(&message, &mut findings);
    let here = |finding: Finding| Finding { octets: None, ..finding }.at(origin.spot.clone());
    findings.into_iter().map(here).collect()
}
