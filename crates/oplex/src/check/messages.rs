//! Rules over whole messages of any protocol.

use super::catalogue::checks;
use super::context::MessageContext;
use super::declare::{Find, PlanContext};
use super::options;
use super::picked::{finds_in_message, picked};
use super::rules::frames::RELAYED_MESSAGE_MALFORMED;
use super::scan::Scan;
use super::tree::{Carried, View};
use crate::codebook::{Codebook, Definition};
use crate::family::Protocol;
use crate::finding::{Finding, Findings};
use crate::layout::NestedOptions;
use crate::packet::v6::{RELAY_DATA, RELAY_MESSAGE};
use crate::packet::{AnyMessage, Message, MessageOption, ra};

/// A look at octets that stand in no message.
pub(super) fn alone(codebook: &Codebook) -> View<'_> {
    View { codebook, message: None, received: false, depth: 0, carried: of_carried }
}

/// Messages may stand in messages, in those of relay agents and of leasequeries; no real message has more of them around it.
const DEEPEST: u8 = 12;

/// Reads a message's options, each once. What is wrong with single options goes into `findings`.
fn read_options(context: &mut MessageContext<'_>, depth: u8, findings: &mut Findings) {
    // The loop is one for each protocol, as what it asks of the codebook and of the message is known then.
    match context.message {
        AnyMessage::V4(message) => read_each(context, message, depth, findings),
        AnyMessage::V6(message) => read_each(context, message, depth, findings),
        AnyMessage::Ra(message) => read_each(context, message, depth, findings),
    }
}

fn read_each<'m, M: Message<'m>>(context: &mut MessageContext<'m>, message: M, depth: u8, findings: &mut Findings) {
    let codebook = context.codebook;
    let message_type = context.kind.map(|kind| (M::PROTOCOL, kind));
    let view = View { codebook, message: message_type, received: false, depth, carried: of_carried };
    let (base, mut scan) = (message.base(), Scan::default());
    message.options().for_each(|option| {
        let known = codebook.own(M::PROTOCOL, option.code());
        match (known, option.octets()) {
            (Some(known), Some(octets)) if !known.is_of_vendors() => {
                let picked = picked(codebook, known);
                // Nothing but its form can be wrong with many an option.
                if !picked.is_of_form_alone || !codebook.layout(known).is_plain(codebook, octets, &mut ()) {
                    let found = options::read(view, known, octets, &mut scan);
                    if !found.is_empty() {
                        of_option(codebook, known, ReadOption { option: &option, octets, base }, found, findings);
                    }
                }
                context.add(&option, Some((known, picked)), octets.into());
                if !scan.finder.options.is_empty() {
                    context.add_nested(&option, &mut scan.finder.options);
                }
            }
            _ => read_rare(context, view, &option, known, findings),
        }
    });
}

/// Reads an option that was split, that no codebook knows, or that a vendor's book may read (43): few messages have one.
#[cold]
fn read_rare<'m>(
    context: &mut MessageContext<'m>,
    view: View<'m>,
    option: &MessageOption<'m>,
    known: Option<&'m Definition>,
    findings: &mut Findings,
) {
    let octets = option.joined();
    let mut nested = NestedOptions::new();
    if let Some(known) = known {
        let by_vendor = view.codebook.by_vendor(known, None).map(|(_, by_vendor)| by_vendor);
        let known = by_vendor.as_ref().unwrap_or(known);
        let mut scan = Scan::default();
        let found = options::read(view, known, &octets, &mut scan);
        if !found.is_empty() {
            let seen = ReadOption { option, octets: &octets, base: context.message.base() };
            of_option(view.codebook, known, seen, found, findings);
        }
        nested = scan.finder.options;
    }
    context.add(option, known.map(|known| (known, picked(view.codebook, known))), octets);
    context.add_nested(option, &mut nested);
}

/// An option of a message that was read at an octet.
#[derive(Clone, Copy)]
struct ReadOption<'s, 'm> {
    option: &'s MessageOption<'m>,
    octets: &'s [u8],
    base: usize,
}

/// What was found in an option, at the octets of the message.
#[cold]
fn of_option(
    codebook: &Codebook,
    definition: &Definition,
    ReadOption { option, octets, base }: ReadOption<'_, '_>,
    found: Vec<options::Found>,
    findings: &mut Findings,
) {
    // Joined, one that was meant twice is of the wrong length, and another rule says why.
    let right = |octets: &[u8]| codebook.decode(definition, octets).1.is_empty();
    let twice = option.is_split() && definition.single;
    if twice && !right(octets) && option.parts().all(|part| right(part.octets)) {
        return;
    }
    findings.extend(found.into_iter().map(|options::Found { finding, inside, .. }| {
        let name = if inside { String::new() } else { format!("{}: ", definition.name) };
        let message = format!("{name}{}", finding.message);
        let finding = finding.rebased(0..octets.len(), |within| option.rebased(&within)).further_on(base);
        Finding { message, ..finding }
    }));
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
        let mut context = MessageContext::new(codebook, message);
        read_options(&mut context, depth, &mut found);
        context.around = around.take();
        look(&context, &mut found);
        // What stands in the data of a relay agent stands there however many relay agents there were.
        let by = context.around.map(|(_, by)| by).filter(|by| *by == RELAY_DATA).unwrap_or(RELAY_MESSAGE);
        around = Some((context.kind.map(|kind| (message.protocol(), kind)), by));
        findings.extend(found.into_iter().map(|finding| finding.further_on(base)));
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
        let contexts = [request, reply].map(|one| {
            let mut context = MessageContext::new(codebook, one);
            read_options(&mut context, 0, &mut ignored);
            context
        });
        let mut found = Findings::default();
        for check in checks() {
            if let Find::Exchange(find) = check.find {
                find(&contexts[0], &contexts[1], &mut found);
            }
        }
        findings.extend(found.into_iter().map(|finding| finding.further_on(base)));
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
    let (mut context, mut nested) = (MessageContext::new(codebook, message), NestedOptions::new());
    message.each_option(|option| {
        let definition = codebook.own(message.protocol(), option.code());
        let octets = option.joined();
        let holds = definition.filter(|definition| codebook.layout(definition).holds_options());
        nested.extend(holds.into_iter().flat_map(|definition| codebook.read(definition, &octets).options));
        context.add(option, definition.map(|definition| (definition, picked(codebook, definition))), octets);
        context.add_nested(option, &mut nested);
    });
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
