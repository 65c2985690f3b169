//! Rules over one option: its octets are read once, and everything is found in that.

use std::ops::Range;
use std::sync::LazyLock;

use super::catalogue::checks;
use super::declare::{AtomSeen, Check, Find, FindInAtom, FindInValue, OptionValue};
use crate::codebook::{Codebook, Definition};
use crate::finding::{About, Finding, Severity, Spot};
use crate::layout::{Decoded, Fault, Scalar, ScalarForm, Topic, ValueError, Visitor};
use crate::plan::Sent;

/// An option's octets, read, and everything the rules find in them.
pub(super) struct Read {
    pub(super) decoded: Decoded,
    pub(super) findings: Vec<Finding>,
}

/// Reads an option's octets in one walk.
pub(super) fn read(codebook: &Codebook, definition: &Definition, octets: &[u8]) -> Read {
    let mut atoms = Atoms { findings: Vec::new() };
    let decoded = codebook.layout(definition).decoded_with(codebook, octets, &mut atoms);
    let mut findings = of_faults(definition, &decoded.faults);
    if decoded.faults.is_empty() {
        findings.extend(atoms.findings.into_iter().map(|finding| with_reference(finding, definition)));
        if let Some(value) = &decoded.value {
            findings.extend(of_value(&OptionValue { definition, value }).map(|finding| finding.on(0..octets.len())));
        }
    }
    Read { decoded, findings }
}

/// What the rules have against a value that a plan sends, each finding at the very characters.
pub(crate) fn of_sent(codebook: &Codebook, sent: &Sent) -> Vec<Finding> {
    let definition = &*sent.definition;
    let payload = match &sent.outcome {
        Ok(payload) => payload,
        Err(misfits) => return of_misfits(sent, misfits),
    };
    let at_place = |finding: Finding| match finding.octets.clone() {
        // What is about the whole value is about all of its characters.
        Some(octets) if octets != (0..payload.octets.len()) => finding.at(sent.spot_of(&octets)),
        _ => Finding { octets: None, ..finding }.at(sent.spot.clone()),
    };
    let named = |finding: Finding| {
        let message = format!("{}: {}", definition.name, finding.message);
        let octets = finding.octets.clone().unwrap_or_default();
        Finding { message, ..finding }.at(sent.spot_of(&octets))
    };
    if !payload.faults.is_empty() {
        return of_faults(definition, &payload.faults).into_iter().map(named).collect();
    }
    let mut atoms = Atoms { findings: Vec::new() };
    codebook.layout(definition).walk(codebook, &payload.octets, &mut atoms);
    let value = OptionValue { definition, value: &payload.value };
    let found = atoms.findings.into_iter().map(|finding| with_reference(finding, definition));
    found.chain(of_value(&value)).map(at_place).collect()
}

/// Why a value has no octets.
fn of_misfits(sent: &Sent, misfits: &[ValueError]) -> Vec<Finding> {
    let definition = &*sent.definition;
    let finding = |(index, misfit): (usize, &ValueError)| {
        let check = by_topic(definition, misfit.topic)?;
        let message = format!("{}: {}", definition.name, misfit.message);
        let spot = Spot { span: misfit.span.clone(), ..sent.spot.clone() };
        let finding = with_reference(check.rule.finding(message), definition).at(spot);
        // What to write instead of all of it is said once.
        let example = || definition.example.as_deref().filter(|_| index == 0 && misfit.topic == Topic::Shape);
        Some(match (&misfit.instead, example()) {
            (Some(instead), _) => finding.replace(instead),
            (None, Some(example)) => finding.advice(format!("a value such as {example}")),
            (None, None) => finding,
        })
    };
    misfits.iter().enumerate().filter_map(finding).collect()
}

fn of_faults(definition: &Definition, faults: &[Fault]) -> Vec<Finding> {
    let finding = |fault: &Fault| {
        let topic = fault.kind.topic();
        let finding = by_topic(definition, topic)?.rule.finding(fault.kind.to_string());
        // Where the option's own RFC forbids what others tolerate, it speaks.
        let forbidden = topic == Topic::Nul && definition.no_nul;
        let finding = if forbidden {
            finding.of(definition.id().to_string()).as_severity(Severity::Error).by(definition.reference.clone())
        } else {
            with_reference(finding, definition)
        };
        Some(finding.on(fault.octets.clone()))
    };
    faults.iter().filter_map(finding).collect()
}

/// The rule that speaks on a topic: one about single options before one about all.
fn by_topic(definition: &Definition, topic: Topic) -> Option<&'static Check> {
    let mut speaking = checks().iter().filter(|check| check.topics().contains(&topic) && check.picks(definition));
    let first = speaking.clone().find(|check| matches!(check.rule.about, About::Options(_)));
    first.or_else(|| speaking.next()).copied()
}

fn of_value<'v>(value: &'v OptionValue<'v>) -> impl Iterator<Item = Finding> {
    /// The rules that look at values, picked once.
    static FINDS: LazyLock<Vec<(&'static Check, FindInValue)>> = LazyLock::new(|| {
        let finds = checks().iter().filter_map(|check| match check.find {
            Find::Value(find) | Find::TopicsAndValue(_, find) => Some((*check, find)),
            _ => None,
        });
        finds.collect()
    });
    let finds = FINDS.iter().filter(|(check, _)| check.picks(value.definition));
    finds.filter_map(|(_, find)| find(value)).map(|finding| with_reference(finding, value.definition))
}

/// A rule that speaks for every option rests on the option's own RFC.
fn with_reference(finding: Finding, definition: &Definition) -> Finding {
    let finding = finding.of(definition.id().to_string());
    if finding.rfc.is_empty() { finding.by(definition.reference.clone()) } else { finding }
}

/// Shows single things to the rules about them; each finds the first of its kind in an option.
struct Atoms {
    findings: Vec<Finding>,
}

impl<'l, 'o> Visitor<'l, 'o> for Atoms {
    fn scalar(&mut self, form: ScalarForm<'l>, scalar: Scalar<'o>, octets: Range<usize>) {
        /// The rules about single things, picked once.
        static FINDS: LazyLock<Vec<FindInAtom>> = LazyLock::new(|| {
            let finds = checks().iter().filter_map(|check| match check.find {
                Find::Atom(find) => Some(find),
                _ => None,
            });
            finds.collect()
        });
        for find in FINDS.iter() {
            let Some(finding) = find(&AtomSeen { form, scalar }) else { continue };
            if !self.findings.iter().any(|known| known.rule == finding.rule) {
                self.findings.push(finding.on(octets.clone()));
            }
        }
    }

    fn fault(&mut self, _: Fault) {}
}
