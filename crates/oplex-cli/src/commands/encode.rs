//! `oplex encode`: a value as octets.

use std::io::Write;

use oplex::check;
use oplex::codebook::Definition;
use oplex::family::Protocol;
use oplex::finding::{Sources, any_error};
use oplex::layout::{Input, ValueError};
use oplex::octets::hex;

use super::{argument, codebook, message, option, put};
use crate::args::{Encode, Format};
use crate::exit::{DONE, ERRORS, Failure, Outcome, because};

use crate::forms::{self, EncodeForm, FindingForm};
use crate::render::{clean, findings};

pub(super) fn run(args: &Encode, out: &mut dyn Write) -> Outcome {
    if let Some(protocol) = Protocol::named(&args.option) {
        return message::encode(protocol, args, out);
    }
    let codebook = codebook(&args.books)?;
    let definition = option(&codebook, &args.option)?;
    let text = argument(&args.value)?;
    let written = if args.json { from_json(&text)? } else { Input::from_text(&text) };
    // Octets that are written as such stay what they are, whosoever reads them.
    let is_octets = codebook.encode(definition, &written).is_ok();
    let by_vendor = codebook.by_vendor(definition, None).filter(|_| !is_octets).map(|(_, by_vendor)| by_vendor);
    let definition = by_vendor.as_ref().unwrap_or(definition);
    let payload = match codebook.encode(definition, &written) {
        Ok(payload) => payload,
        Err(misfits) => return because(explained(definition, &text, &misfits)),
    };
    let found = check::payload_to_send(&codebook, definition, &payload.octets);
    let octets = if args.framed { codebook.framed(definition, &payload.octets) } else { payload.octets };
    let sources = Sources::default();
    match args.format.format {
        Format::Text => put(out, &octets, args.as_form)?,
        Format::Json => forms::document(
            out,
            "oplex-encode/1",
            &EncodeForm {
                option: definition.id().to_string(),
                name: &definition.name,
                length: octets.len(),
                hex: hex::plain(&octets),
                value: &payload.value,
                findings: found.iter().map(|finding| FindingForm::new(finding, &sources)).collect(),
            },
        )?,
    }
    if args.format.format == Format::Text {
        let mut err = clean::stderr();
        for finding in &found {
            write!(err, "{}", findings::draw(finding, &sources))?;
        }
    }
    Ok(if any_error(&found) { ERRORS } else { DONE })
}

fn from_json(text: &str) -> Result<Input, Failure> {
    serde_json::from_str(text).or_else(|error| because(format!("the value is not JSON: {error}")))
}

/// As many mistakes in one value anybody reads.
const SHOWN: usize = 20;

/// The value with what does not fit underlined.
fn explained(definition: &Definition, text: &str, misfits: &[ValueError]) -> String {
    let mut lines = vec![format!("this is not a value of {}", definition.label())];
    for misfit in misfits.iter().take(SHOWN) {
        let marked =
            text.get(misfit.span.clone()).filter(|part| !part.is_empty() && !text.contains('\n') && text.len() < 160);
        if marked.is_some() {
            let before = clean::line(&text[..misfit.span.start]).chars().count();
            let marks = clean::line(&text[misfit.span.clone()]).chars().count();
            lines.push(format!("\n    {}\n    {}{}", clean::line(text), " ".repeat(before), "^".repeat(marks)));
        }
        let place = match marked {
            None if !misfit.span.is_empty() && misfit.span.len() < text.len() => {
                format!("octets {} to {}: ", misfit.span.start, misfit.span.end - 1)
            }
            _ => String::new(),
        };
        lines.push(format!("  {place}{}", clean::line(&misfit.to_string())));
    }
    match misfits.len().saturating_sub(SHOWN) {
        0 => {}
        more => lines.push(format!("  and {more} more mistakes")),
    }
    lines.push(format!("  layout   {}", definition.layout_text));
    if let Some(example) = &definition.example {
        lines.push(format!("  example  {example}"));
    }
    lines.join("\n")
}
