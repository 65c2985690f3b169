//! `oplex decode`: octets as a value, and what each octet is.

use std::io::Write;

use oplex::check;
use oplex::finding::{Finding, Sources, any_error};
use oplex::layout::Value;
use oplex::octets::hex;
use serde::Serialize;

use super::{argument, codebook, option};
use crate::args::{Decode, Format};
use crate::exit::{DONE, ERRORS, Outcome, because};
use crate::render::json::{self, FindingForm};
use crate::render::style::{DIM, GOOD, STRONG, in_style};
use crate::render::{clean, findings, octets};

pub(super) fn run(args: &Decode, out: &mut dyn Write) -> Outcome {
    let codebook = codebook(&args.books)?;
    let definition = option(&codebook, &args.option)?;
    let text = argument(&args.octets.join(" "))?;
    let payload = match hex::parse(&text) {
        Ok(payload) => payload,
        Err(error) => return because(format!("the octets are not hexadecimal: {error}")),
    };
    let (value, _) = codebook.decode(definition, &payload);
    let found = check::payload(&codebook, definition, &payload);
    let code = if any_error(&found) { ERRORS } else { DONE };
    if args.format.format == Format::Json {
        let sources = Sources::default();
        json::line(
            out,
            &DecodeForm {
                option: definition.id(),
                name: &definition.name,
                length: payload.len(),
                hex: hex::plain(&payload),
                value: value.as_ref(),
                findings: found.iter().map(|finding| FindingForm::new(finding, &sources)).collect(),
            },
        )?;
        return Ok(code);
    }
    let (rows, faults) = codebook.layout(definition).explain(&codebook, &payload);
    let shown = value.as_ref().map(Value::to_string).filter(|shown| !shown.is_empty());
    let nothing = || if any_error(&found) { "nothing could be read" } else { "no octets" }.to_owned();
    let so_far = if any_error(&found) && shown.is_some() { "  (as far as it can be read)" } else { "" };
    writeln!(out, "{}{}", in_style(STRONG, clean::line(&shown.unwrap_or_else(nothing))), in_style(DIM, so_far))?;
    let octet_count = if payload.len() == 1 { "1 octet".to_owned() } else { format!("{} octets", payload.len()) };
    writeln!(out, "{}, {octet_count}, {}\n", definition.label(), verdict(&found))?;
    octets::draw(out, &payload, &rows, &faults)?;
    for finding in found.iter().filter(|finding| !faults.iter().any(|fault| speaks_of(finding, fault))) {
        write!(out, "\n{}", findings::draw(finding, &Sources::default()))?;
    }
    if any_error(&found) {
        writeln!(out, "\nexpected {}  {}", definition.layout_text, in_style(DIM, &definition.reference))?;
    }
    Ok(code)
}

fn speaks_of(finding: &Finding, fault: &oplex::layout::Fault) -> bool {
    finding.octets.as_ref() == Some(&fault.octets) && finding.message == fault.kind.to_string()
}

fn verdict(found: &[Finding]) -> String {
    if found.is_empty() { in_style(GOOD, "nothing wrong") } else { in_style(STRONG, findings::tally(found)) }
}

#[derive(Serialize)]
struct DecodeForm<'d> {
    option: String,
    name: &'d str,
    length: usize,
    hex: String,
    value: Option<&'d Value>,
    findings: Vec<FindingForm<'d>>,
}
