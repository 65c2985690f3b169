//! Rules over whole messages of any protocol.

use super::catalogue::checks;
use super::context::MessageContext;
use super::declare::{Find, PlanContext};
use super::options;
use super::picked::finds_in_message;
use super::rules::frames::RELAYED_MESSAGE_MALFORMED;
use super::tree::{Carried, View};
use crate::codebook::Codebook;
use crate::family::Protocol;
use crate::finding::{Finding, Findings};
use crate::packet::v6::{RELAY_DATA, RELAY_MESSAGE};
use crate::packet::{AnyMessage, Message as _, ra};

/// A look at octets that stand in no message.
pub(super) fn alone(codebook: &Codebook) -> View<'_> {
    View { codebook, message: None, received: false, depth: 0, carried: of_carried }
}

/// Messages may stand in messages, in those of relay agents and of leasequeries; nobody has more of them around each other.
const DEEPEST: u8 = 12;

/// Reads a message's options, each once. What is wrong with single options goes into `findings`.
fn context<'m>(
    codebook: &'m Codebook,
    message: AnyMessage<'m>,
    depth: u8,
    findings: &mut Findings,
) -> MessageContext<'m> {
    let mut context = MessageContext::new(codebook, message);
    let view = View {
        codebook,
        message: message.type_number().map(|kind| (message.protocol(), kind)),
        received: false,
        depth,
        carried: of_carried,
    };
    for option in message.options() {
        let octets = option.joined();
        let known = codebook.own(message.protocol(), option.code());
        let by_vendor = known.and_then(|known| codebook.by_vendor(known, None)).map(|(_, by_vendor)| by_vendor);
        let definition = by_vendor.as_ref().or(known);
        let read = definition.map(|definition| options::read(view, definition, &octets));
        // Joined, one that was meant twice is of the wrong length, and another rule says why.
        let right =
            |octets: &[u8]| definition.is_some_and(|definition| codebook.decode(definition, octets).1.is_empty());
        let twice = option.is_split() && definition.is_some_and(|definition| definition.single);
        let whole = !(twice && !right(&octets) && option.parts().all(|part| right(part.octets)));
        let decoded = read.map(|read| {
            let base = message.base();
            findings.extend(read.found.into_iter().filter(|_| whole).map(|found| {
                let finding = found.finding;
                let inside = finding.octets.clone().unwrap_or(0..octets.len());
                let octets = option.rebased(&inside);
                let name = definition.filter(|_| !found.inside).map(|definition| format!("{}: ", definition.name));
                let message = format!("{}{}", name.unwrap_or_default(), finding.message);
                Finding { message, ..finding }.on(base + octets.start..base + octets.end)
            }));
            read.decoded
        });
        context.add(option, octets, decoded.unwrap_or_default());
    }
    context
}

/// What the rules find in a message that an option carries, however deep.
fn of_carried(codebook: &Codebook, carried: Carried<'_>) -> Vec<Finding> {
    let whole = 0..carried.octets.len();
    if carried.depth > DEEPEST {
        let message = format!("more than {DEEPEST} messages are around each other here");
        return vec![RELAYED_MESSAGE_MALFORMED.finding(message).on(whole)];
    }
    match AnyMessage::read(carried.protocol, carried.octets) {
        Ok(message) => findings_in(codebook, message, carried.depth, Some((carried.within, carried.by))),
        Err(error) => vec![RELAYED_MESSAGE_MALFORMED.finding(error.to_string()).on(whole)],
    }
}

/// What the rules about whole messages of its protocol find.
fn look(context: &MessageContext<'_>, findings: &mut Findings) {
    finds_in_message(context.protocol()).iter().for_each(|find| find(context, findings));
}

/// Everything the rules find in a message and in those that it carries, in the order of the octets.
pub(super) fn findings(codebook: &Codebook, message: AnyMessage<'_>) -> Vec<Finding> {
    findings_in(codebook, message, 0, None)
}

fn findings_in(
    codebook: &Codebook,
    message: AnyMessage<'_>,
    depth: u8,
    mut around: Option<(Option<(Protocol, u8)>, u16)>,
) -> Vec<Finding> {
    let mut findings = Vec::new();
    let (mut message, mut base) = (message, 0);
    // Every relay header takes 38 octets, so that this ends.
    loop {
        let mut found = Findings::default();
        let mut context = context(codebook, message, depth, &mut found);
        context.around = around.take();
        look(&context, &mut found);
        // What stands in the data of a relay agent stands there however many relay agents there were.
        let by = context.around.map(|(_, by)| by).filter(|by| *by == RELAY_DATA).unwrap_or(RELAY_MESSAGE);
        around = Some((context.kind.map(|kind| (message.protocol(), kind)), by));
        for finding in &mut *found {
            finding.octets = finding.octets.take().map(|octets| base + octets.start..base + octets.end);
        }
        findings.extend(found);
        match message.relayed() {
            Some((Ok(inner), at)) => (message, base) = (inner, base + at),
            _ => break,
        }
    }
    in_order(findings)
}

/// Everything the rules find in a reply when they see what it replies to.
pub(super) fn exchange(codebook: &Codebook, request: AnyMessage<'_>, reply: AnyMessage<'_>) -> Vec<Finding> {
    let (mut request, mut reply, mut base) = (request, reply, 0);
    let mut findings = Vec::new();
    // A reply goes back through the relay agents of its request, one inside the other.
    loop {
        let mut ignored = Findings::default();
        let contexts = [request, reply].map(|one| context(codebook, one, 0, &mut ignored));
        let mut found = Findings::default();
        for check in checks() {
            if let Find::Exchange(find) = check.find {
                find(&contexts[0], &contexts[1], &mut found);
            }
        }
        for finding in &mut *found {
            finding.octets = finding.octets.take().map(|octets| base + octets.start..base + octets.end);
        }
        findings.extend(found);
        match (request.relayed(), reply.relayed()) {
            (Some((Ok(asked), _)), Some((Ok(answer), at))) => (request, reply, base) = (asked, answer, base + at),
            _ => break,
        }
    }
    in_order(findings)
}

fn in_order(mut findings: Vec<Finding>) -> Vec<Finding> {
    let start = |finding: &Finding| finding.octets.as_ref().map_or(0, |octets| octets.start);
    findings.sort_by_key(|finding| (start(finding), std::cmp::Reverse(finding.severity)));
    findings
}

/// What the rules about messages find in one that a plan comes to; what they find in single values they find in the plan.
pub(super) fn read_and_look(codebook: &Codebook, message: AnyMessage<'_>) -> Vec<Finding> {
    let mut findings = Findings::default();
    let mut context = MessageContext::new(codebook, message);
    for option in message.options() {
        context.add_unread(option, option.joined());
    }
    look(&context, &mut findings);
    findings.into_vec()
}

/// What the rules find in what a network's router advertises, besides what they find in single values, at the line that says
/// so.
pub(super) fn of_advertisement(plan: &PlanContext<'_>, network: usize) -> Vec<Finding> {
    let Some(said) = &plan.compiled.networks[network].advertises else { return Vec::new() };
    let (Ok(octets), Some(origin)) = (said.octets(), said.origin) else { return Vec::new() };
    let Ok(message) = ra::Message::read(&octets) else { return Vec::new() };
    let findings = read_and_look(&plan.plan.codebook, message.into());
    let here = |finding: Finding| Finding { octets: None, ..finding }.at(origin.spot.clone());
    findings.into_iter().map(here).collect()
}
