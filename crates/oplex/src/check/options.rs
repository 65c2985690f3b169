//! Rules over options, wherever they stand: an option's octets are read once, and everything is found in that, in the
//! option itself and in those inside it, however deep.

use std::ops::Range;

use smallvec::SmallVec;

use super::declare::OptionValue;
use super::firsts::Firsts;
use super::picked::{by_topic, picked};
use super::scan::{InAtom, Scan};
use super::tree::{Carried, Inner, Tree, View, overlaps};
use crate::codebook::Definition;
use crate::compiled::SentOption;
use crate::family::Protocol;
use crate::finding::{Finding, Rule, Severity, Spot};
use crate::layout::{Atom, Fault, FaultKind, Run, ScalarForm, Topic, ValueError};
use crate::plan::{Amendment, Sent};

/// What a rule finds; its octets count from the start of the outermost option's payload.
pub(super) struct Found {
    pub(super) finding: Finding,
    /// Whether it is about an option inside.
    pub(super) inside: bool,
    /// Whether it is a fault of the layout.
    pub(super) fault: bool,
}

/// So many options inside another take no allocation.
const FEW: usize = 4;

/// Everything the rules find in an option's octets, which are read in one walk; the options inside are in the scan then.
#[inline]
pub(super) fn read<'v>(
    view: View<'v>,
    definition: &'v Definition,
    octets: &'v [u8],
    scan: &mut Scan<'v>,
) -> Vec<Found> {
    let picked = picked(view.codebook, definition);
    scan.walk(view.codebook, view.codebook.layout(definition), octets, picked);
    if !scan.is_plain || !scan.found.is_empty() || !scan.finder.options.is_empty() || definition.carries.is_some() {
        return found(view, definition, octets, scan);
    }
    let mut found = Vec::new();
    if !picked.at_top.is_empty() {
        let tree = Tree::of(view.codebook, definition, octets, &[], true);
        let one = OptionValue { definition, octets, view, tree: &tree, at: None };
        of_value(&one, &mut |finding| found.push(Found { finding, inside: false, fault: false }));
    }
    found
}

/// The same of an option that stands alone.
pub(super) fn read_alone(view: View<'_>, definition: &Definition, octets: &[u8]) -> Vec<Found> {
    read(view, definition, octets, &mut Scan::default())
}

#[inline(never)]
fn found<'v>(view: View<'v>, definition: &'v Definition, octets: &'v [u8], scan: &mut Scan<'v>) -> Vec<Found> {
    let in_atoms = std::mem::take(&mut scan.found);
    let (nested, faults) = (&scan.finder.options, &scan.faults);
    let all: SmallVec<[Inner<'_>; FEW]> = nested.iter().map(|one| Inner::of(view.codebook, one, faults)).collect();
    let tree = Tree::of(view.codebook, definition, octets, &all, scan.is_plain);
    let mut all_found = of_form(&tree, faults, in_atoms);
    if faults.is_empty() {
        let one = OptionValue { definition, octets, view, tree: &tree, at: None };
        of_value(&one, &mut |finding| all_found.push(Found { finding, inside: false, fault: false }));
        of_carried(&one, &mut |found| all_found.push(found));
    }
    of_nested(view, &tree, &mut all_found);
    all_found
}

/// What is wrong with the form of an option and of those inside it, and with single things.
fn of_form(tree: &Tree<'_>, faults: &[Fault], in_atoms: Vec<InAtom>) -> Vec<Found> {
    let (mut found, mut firsts, mut shape) = (Vec::new(), Firsts::new(), None);
    for fault in faults {
        let at = tree.innermost(&fault.octets);
        let of = at.and_then(|at| tree.all[at].definition).unwrap_or(tree.definition);
        let Some(finding) = of_fault(of, fault) else { continue };
        let new = Found { inside: at.is_some(), fault: true, finding };
        if fault.kind.topic() != Topic::Shape {
            add(&mut found, &mut firsts, of, new);
            continue;
        }
        // Parts that do not fit have shapes of their own, but items of a list.
        let says_the_same =
            |known: &Finding| known.message == new.finding.message && known.option == new.finding.option;
        match shape.filter(|at: &usize| says_the_same(&found[*at].finding)) {
            Some(first) => join(&mut found[first].finding, &new.finding),
            None => {
                shape = Some(found.len());
                found.push(new);
            }
        }
    }
    for (finding, octets) in in_atoms {
        let at = tree.innermost(&octets);
        let around = at.map_or(0..octets.len(), |at| tree.all[at].around.clone());
        if faults.iter().any(|fault| at.is_none() || overlaps(&fault.octets, &around)) {
            continue;
        }
        let of = at.and_then(|at| tree.all[at].definition).unwrap_or(tree.definition);
        let finding = with_reference(finding, of).on(octets);
        add(&mut found, &mut firsts, of, Found { finding, inside: at.is_some(), fault: false });
    }
    found
}

/// What is found by one rule in options of one definition.
type OfOne = (*const Rule, *const Definition, Severity);

/// Adds a finding; one that says of more octets what another says becomes a part of that.
fn add(found: &mut Vec<Found>, firsts: &mut Firsts<OfOne, usize>, of: &Definition, new: Found) {
    let finding = &new.finding;
    match firsts.first((finding.rule, of, finding.severity), found.len()) {
        None => found.push(new),
        Some(first) => join(&mut found[first].finding, &new.finding),
    }
}

fn join(known: &mut Finding, finding: &Finding) {
    known.also.extend(finding.octets.clone().map(|octets| (octets, finding.message.clone())));
}

/// What the rules find in the values of the options inside, and in the messages that these carry.
fn of_nested(view: View<'_>, tree: &Tree<'_>, found: &mut Vec<Found>) {
    for (at, inner) in tree.all.iter().enumerate().filter(|(_, inner)| !inner.is_broken) {
        let Some(of) = inner.definition else { continue };
        let octets = tree.octets.get(inner.payload.clone()).unwrap_or_default();
        let one = OptionValue { definition: of, octets, view, tree, at: Some(at) };
        let rebased = |finding: Finding| {
            let start = inner.payload.start;
            let place = |octets: Range<usize>| match octets.is_empty() {
                true => inner.around.clone(),
                false => start + octets.start..start + octets.end,
            };
            Found { finding: finding.rebased(0..0, place), inside: true, fault: false }
        };
        of_value(&one, &mut |finding| found.push(rebased(finding)));
        of_carried(&one, &mut |carried| found.push(rebased(carried.finding)));
    }
    for one in found.iter_mut().filter(|one| one.inside) {
        let named = one.finding.option.as_deref().and_then(|id| view.codebook.find(id).ok());
        if let Some(named) = named {
            one.finding.message = format!("{}: {}", named.name, one.finding.message);
        }
    }
}

/// What is wrong with the message that an option carries.
#[inline]
fn of_carried(one: &OptionValue<'_>, found: &mut dyn FnMut(Found)) {
    if let Some(protocol) = one.definition.carries {
        of_message(one, protocol, found);
    }
}

fn of_message(one: &OptionValue<'_>, protocol: Protocol, found: &mut dyn FnMut(Found)) {
    let View { codebook, message, depth, carried, .. } = one.view;
    // A relay's message is looked at where its own message is.
    if one.at.is_none() && message.is_some() && one.definition.is_own_of(Protocol::V6) && one.definition.code == 9 {
        return;
    }
    let mut last = None;
    one.each_thing(|thing| {
        if let ScalarForm::Atom(Atom::Run(Run::Bytes, _)) = thing.form {
            last = Some(thing.octets.clone());
        }
    });
    let Some(place) = last else { return };
    let (octets, by) = (&one.octets[place.clone()], one.definition.code);
    for finding in carried(codebook, Carried { protocol, octets, by, within: message, depth: depth + 1 }) {
        let finding = finding.on_whole(0..place.len()).further_on(place.start);
        found(Found { finding, inside: false, fault: false });
    }
}

/// What the rules have against a value that a plan sends, each finding at the very characters.
pub(super) fn of_sent(view: View<'_>, sent: &Sent) -> Vec<Finding> {
    let definition = &*sent.definition;
    let payload = match &sent.outcome {
        Ok(payload) => payload,
        Err(misfits) => return of_misfits(definition, &sent.spot, misfits, true),
    };
    let at_place = |Found { finding, fault, inside }: Found| {
        let octets = finding.octets.clone().unwrap_or_default();
        // What is about the whole value is about all of its characters.
        let all = octets.is_empty() || octets == (0..payload.octets.len());
        let spot = if all && !fault { sent.spot.clone() } else { sent.spot_of(&octets) };
        let message = match fault && !inside {
            true => format!("{}: {}", definition.name, finding.message),
            false => finding.message.clone(),
        };
        let also =
            |finding: Finding, (octets, what): &(Range<usize>, String)| finding.related(sent.spot_of(octets), what);
        let others = finding.also.clone();
        let octets = finding.octets.clone().filter(|_| !all || fault);
        others.iter().fold(Finding { message, octets, also: Vec::new(), ..finding }.at(spot), also)
    };
    let by_vendor = view.codebook.by_vendor(definition, None).map(|(_, by_vendor)| by_vendor);
    let by_vendor = by_vendor.as_ref().unwrap_or(definition);
    let found = read_alone(view, by_vendor, &payload.octets);
    found.into_iter().map(at_place).collect()
}

/// What is wrong with the changes themselves.
pub(super) fn of_amendment(amendment: &Amendment) -> Vec<Finding> {
    let Err(misfits) = &amendment.outcome else { return Vec::new() };
    of_misfits(&amendment.definition, &amendment.spot, misfits, false)
}

/// What the rules have against a value that a layer changed, at the changes.
pub(super) fn of_amended(view: View<'_>, option: &SentOption<'_>) -> Vec<Finding> {
    let (Some(amended), Some(spot)) = (&option.amended, option.spot()) else { return Vec::new() };
    let definition = &*option.definition;
    let finding = |finding: Finding| {
        let message = format!("{}: {}", definition.name, finding.message);
        Finding { octets: None, also: Vec::new(), message, ..finding }.at(spot.clone())
    };
    let Some(octets) = &option.octets else {
        let encoded = view.codebook.layout(definition).encode(view.codebook, &amended.value);
        let why = encoded.err().map(|error| error.to_string()).unwrap_or_default();
        let check = by_topic(definition, Topic::Shape);
        return check.map(|check| finding(with_reference(check.rule.finding(why), definition))).into_iter().collect();
    };
    let found = read_alone(view, definition, octets);
    found.into_iter().map(|found| finding(found.finding)).collect()
}

/// Why a value has no octets.
fn of_misfits(definition: &Definition, at: &Spot, misfits: &[ValueError], whole: bool) -> Vec<Finding> {
    let finding = |(index, misfit): (usize, &ValueError)| {
        let check = by_topic(definition, misfit.topic)?;
        let message = format!("{}: {}", definition.name, misfit.message);
        let spot = Spot { span: misfit.span.clone(), ..at.clone() };
        let finding = with_reference(check.rule.finding(message), definition).at(spot);
        // What to write instead of all of it is said once.
        let example = || definition.example.as_deref().filter(|_| whole && index == 0 && misfit.topic == Topic::Shape);
        Some(match (&misfit.instead, example()) {
            (Some(instead), _) => finding.replace(instead),
            (None, Some(example)) => finding.advice(format!("a value such as {example}")),
            (None, None) => finding,
        })
    };
    misfits.iter().enumerate().filter_map(finding).collect()
}

fn of_fault(definition: &Definition, fault: &Fault) -> Option<Finding> {
    let topic = fault.kind.topic();
    let finding = by_topic(definition, topic)?.rule.finding(fault.kind.to_string());
    // Where the option's own RFC forbids what others tolerate, it speaks.
    let finding = if topic == Topic::Nul && definition.no_nul {
        finding.of(definition.id().to_string()).as_severity(Severity::Error).by(definition.reference.clone())
    } else {
        with_reference(finding, definition)
    };
    // NVT ASCII has these control characters (RFC 854), though they have no place in most text.
    let finding = match fault.kind {
        FaultKind::ControlCharacter { octet: 7..=13 } => finding.as_severity(Severity::Warning),
        _ => finding,
    };
    let finding = if fault.kind.is_borne() { finding.borne() } else { finding };
    Some(finding.on(fault.octets.clone()))
}

fn of_value(one: &OptionValue<'_>, found: &mut impl FnMut(Finding)) {
    for find in picked(one.view.codebook, one.definition).in_value(one.at.is_some()) {
        if let Some(finding) = find(one) {
            found(with_reference(finding, one.definition).on_whole(0..one.octets.len()));
        }
    }
}

/// A rule that speaks for every option rests on the option's own RFC.
fn with_reference(finding: Finding, definition: &Definition) -> Finding {
    let finding = finding.of(definition.id().to_string());
    if finding.rfc.is_empty() { finding.by(definition.reference.clone()) } else { finding }
}
