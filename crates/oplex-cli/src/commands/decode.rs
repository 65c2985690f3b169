//! `oplex decode`: octets as a value, and what each octet is.

use std::io::Write;
use std::sync::Arc;

use crate::forms::{self, DecodeForm, FindingForm, FlawForm};
use oplex::check;
use oplex::codebook::{Codebook, Definition};
use oplex::family::Protocol;
use oplex::finding::{Finding, Severity, Sources, any_error};
use oplex::layout::{Decoded, Layout, Value};
use oplex::octets::hex;

use super::{argument, codebook, message, no_such};
use crate::args::{Decode, Format};
use crate::exit::{DONE, ERRORS, Failure, Outcome, because};

use crate::render::style::{DIM, GOOD, STRONG, in_style};
use crate::render::{clean, findings, octets};

/// No option is longer: a datagram has no more octets.
const LARGEST: usize = 65_535;

pub(super) fn run(args: &Decode, out: &mut dyn Write) -> Outcome {
    let codebook = codebook(&args.books)?;
    if let (None, Some((protocol, rest))) = (&args.layout, args.given.split_first())
        && let Some(protocol) = Protocol::named(protocol)
    {
        return message::decode(protocol, args, &codebook, rest, out);
    }
    if args.request.is_some() {
        return because("--request goes with a whole message: oplex decode v4 OCTETS --request OCTETS");
    }
    let (subject, rest) = subject(args, &codebook)?;
    let payload = match hex::parse(&argument(&rest.join(" "))?) {
        Ok(payload) => payload,
        Err(error) => return because(format!("the octets are not hexadecimal: {error}")),
    };
    if payload.len() > LARGEST {
        return because(format!("{} octets are more than a message can hold ({LARGEST})", payload.len()));
    }
    let read = subject.layout.explained(&*codebook, &payload);
    let found = subject.definition.as_ref().map(|definition| check::payload(&codebook, definition, &payload));
    let decoded = Reading { subject, payload, read, found: found.unwrap_or_default() };
    match args.format.format {
        Format::Json => forms::document(out, "oplex-decode/1", &form(&decoded))?,
        Format::Text => decoded.draw(&codebook, out)?,
    }
    Ok(if decoded.is_wrong() { ERRORS } else { DONE })
}

/// What the octets are read as.
struct Subject {
    /// How it is called: an option's id and name, or the layout.
    label: String,
    /// The option, unless a layout was given, or a vendor's codebook says more than the option does.
    definition: Option<Arc<Definition>>,
    layout: Layout,
}

fn subject<'a>(args: &'a Decode, codebook: &Codebook) -> Result<(Subject, &'a [String]), Failure> {
    if let Some(text) = &args.layout {
        let layout = Layout::parse_with(text, codebook).or_else(|error| {
            because(format!(
                "this is not a layout\n\n    {text}\n    {}^\n  {}",
                " ".repeat(error.span.start),
                error.message
            ))
        })?;
        // An option before the octets is named; its own layout and rules give way.
        let (option, rest) = match args.given.split_first() {
            Some((first, rest)) if !rest.is_empty() && hex::parse(first).is_err() => {
                (Some(codebook.find_or_undefined(first).or_else(|unknown| no_such(&unknown))?), rest)
            }
            _ => (None, &args.given[..]),
        };
        let label = option.map_or_else(|| text.clone(), |option| format!("{}, read as {text}", option.label()));
        return Ok((Subject { label, definition: None, layout }, rest));
    }
    let Some((query, rest)) = args.given.split_first().filter(|(_, rest)| !rest.is_empty()) else {
        return because("octets are missing: oplex decode OPTION OCTETS");
    };
    let definition = codebook.find_or_undefined(query).or_else(|unknown| no_such(&unknown))?;
    // Option 43 does not say whose it is; a codebook that was named does.
    let (label, definition) = match codebook.by_vendor(&definition, None) {
        Some((book, by_vendor)) => (format!("{}, as {book} reads it", definition.label()), Arc::new(by_vendor)),
        None => (definition.label(), definition),
    };
    let layout = codebook.layout(&definition).clone();
    Ok((Subject { label, definition: Some(definition), layout }, rest))
}

struct Reading {
    subject: Subject,
    payload: Vec<u8>,
    read: Decoded,
    /// What the rules say; they need an option.
    found: Vec<Finding>,
}

impl Reading {
    /// Whether anything is wrong at severity error. Without an option the severity of a fault is unknown.
    fn is_wrong(&self) -> bool {
        any_error(&self.found) || (self.subject.definition.is_none() && !self.read.faults.is_empty())
    }

    fn draw(&self, codebook: &Codebook, out: &mut dyn Write) -> std::io::Result<()> {
        let shown = self.read.value.as_ref().map(Value::to_string).filter(|shown| !shown.is_empty());
        let so_far = if self.is_wrong() && shown.is_some() { "  (as far as it can be read)" } else { "" };
        let nothing = || if self.is_wrong() { "nothing could be read" } else { "no octets" }.to_owned();
        let shown = shown.unwrap_or_else(nothing);
        // What a single number comes to; those of a list stand in the rows.
        let single = self.read.value.as_ref().filter(|value| !matches!(value, Value::List(_)));
        let spelled = single.and_then(|value| self.subject.layout.spelled(codebook, value));
        let aside = spelled.as_deref().and_then(|spelled| spelled.strip_prefix(&*shown)).unwrap_or_default();
        let aside = format!("{aside}{so_far}");
        writeln!(out, "{}{}", in_style(STRONG, clean::line(&shown)), in_style(DIM, aside))?;
        let count = self.payload.len();
        let count = if count == 1 { "1 octet".to_owned() } else { format!("{count} octets") };
        writeln!(out, "{}, {count}, {}\n", clean::line(&self.subject.label), self.verdict())?;
        octets::draw(out, &self.payload, &self.read.rows, &self.read.faults)?;
        // Faults were drawn at their octets. Without any, what the rules say is about the value as a whole.
        if self.read.faults.is_empty() {
            findings::draw_all(out, &self.found, &Sources::default())?;
        }
        if self.is_wrong() {
            let reference = self.subject.definition.as_deref().map_or("", |definition| &definition.reference);
            let layout = self
                .subject
                .definition
                .as_deref()
                .map_or_else(|| self.subject.layout.to_string(), |at| at.layout_text.to_string());
            let reference =
                if reference.is_empty() { String::new() } else { format!("  {}", in_style(DIM, reference)) };
            writeln!(out, "\nexpected {layout}{reference}")?;
        }
        Ok(())
    }

    fn verdict(&self) -> String {
        match (&self.found[..], &self.read.faults[..]) {
            ([], []) => in_style(GOOD, "nothing wrong"),
            ([], [_]) => in_style(STRONG, "1 fault"),
            ([], faults) => in_style(STRONG, format!("{} faults", faults.len())),
            (found, _) => in_style(STRONG, findings::tally(found)),
        }
    }
}

fn form(decoded: &Reading) -> DecodeForm<'_> {
    let definition = decoded.subject.definition.as_deref();
    let sources = Sources::default();
    let findings = decoded.found.iter().map(|finding| FlawForm::Finding(FindingForm::new(finding, &sources)));
    // Without an option no rule speaks, and the faults stand for themselves.
    let faults = decoded.read.faults.iter().filter(|_| definition.is_none()).map(|fault| {
        let octets = [fault.octets.start, fault.octets.end];
        FlawForm::Fault { severity: Severity::Error, message: fault.kind.to_string(), octets }
    });
    DecodeForm {
        option: definition.map(|definition| definition.id().to_string()),
        name: definition.map(|definition| &*definition.name),
        length: decoded.payload.len(),
        hex: hex::plain(&decoded.payload),
        value: decoded.read.value.as_ref(),
        findings: findings.chain(faults).collect(),
    }
}
