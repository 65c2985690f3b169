//! `oplex decode v4`, `oplex decode v6`, `oplex decode ra`, and the same with `encode`: whole messages.

use std::io::Write;
use std::path::Path;

use oplex::check;
use oplex::codebook::Codebook;
use oplex::family::Protocol;
use oplex::finding::{Finding, Sources, any_error};
use oplex::octets::hex;
use oplex::packet::v4::{self, Budget, Limit};
use oplex::packet::{AnyMessage, Message as _};
use serde::Serialize;

use super::{put, standard_input};
use crate::args::{Decode, Encode, Format};
use crate::exit::{DONE, ERRORS, Failure, Outcome, because};
use crate::render::json::{self, FindingForm};
use crate::render::message::{self, MessageForm};
use crate::render::{budget, findings};

pub(super) fn decode(
    protocol: Protocol,
    args: &Decode,
    codebook: &Codebook,
    given: &[String],
    out: &mut dyn Write,
) -> Outcome {
    if args.request.is_some() && protocol == Protocol::Ra {
        return because("--request goes with messages of DHCPv4 and DHCPv6");
    }
    let octets = octets(&given.join(" "), protocol)?;
    let message = AnyMessage::read(protocol, &octets).or_else(because)?;
    let mut found = check::message(codebook, message);
    let request = args.request.as_deref().map(octets_of_text).transpose()?;
    let request = request.as_deref().map(|octets| AnyMessage::read(protocol, octets)).transpose().or_else(because)?;
    found.extend(request.into_iter().flat_map(|request| check::exchange(codebook, request, message)));
    let mut budget = None;
    if let AnyMessage::V4(reply) = message {
        // What the client accepts, as far as these messages say.
        let asked = if let Some(AnyMessage::V4(request)) = request { request } else { reply };
        let said = asked.get(codebook, v4::DHCP_MAX_MSG_SIZE).ok().flatten();
        budget = Some(Budget::of_message(&reply, Limit::of_client(said)));
    }
    match args.format.format {
        Format::Json => json::line(out, &MessageForm::new(codebook, &message, budget.as_ref(), &found))?,
        Format::Text => message::draw(out, codebook, (&message, &octets), budget.as_ref(), &found)?,
    }
    Ok(if any_error(&found) { ERRORS } else { DONE })
}

/// Whether a message of the protocol may begin with this octet, and no text does.
fn begins(protocol: Protocol, first: u8) -> bool {
    let message = match protocol {
        Protocol::V4 => matches!(first, 1 | 2),
        Protocol::V6 => first < 32,
        Protocol::Ra => matches!(first, 133 | 134 | 0x60),
    };
    message && !first.is_ascii_whitespace()
}

/// The octets that were given, or standard input for `-`: there they may be hexadecimal, or themselves, which a first octet
/// that no text begins with tells.
fn octets(given: &str, protocol: Protocol) -> Result<Vec<u8>, Failure> {
    if given != "-" {
        return if given.is_empty() {
            because(format!("octets are missing: oplex decode {} OCTETS", protocol.name()))
        } else {
            octets_of_text(given)
        };
    }
    let input = standard_input()?;
    match str::from_utf8(&input) {
        Ok(text) if !input.first().is_some_and(|first| begins(protocol, *first)) => octets_of_text(text),
        _ => Ok(input),
    }
}

fn octets_of_text(text: &str) -> Result<Vec<u8>, Failure> {
    hex::parse(text).or_else(|error| because(format!("the octets are not hexadecimal: {error}")))
}

pub(super) fn encode(protocol: Protocol, args: &Encode, out: &mut dyn Write) -> Outcome {
    let path = Path::new(&args.value);
    let specimen = oplex_io::files::specimen(protocol, path)?;
    let Some(octets) = &specimen.octets else {
        let drawn: Vec<String> = specimen.findings.iter().map(|at| findings::draw(at, &specimen.sources)).collect();
        let why = format!("{} is not a message\n\n{}", super::shown(path), drawn.join("\n"));
        return Err(Failure::Drawn(why));
    };
    // Octets that are cut off on purpose are no message, and there is nothing to check.
    let message = AnyMessage::read(protocol, octets).ok();
    let found = message.map(|message| check::message_to_send(&specimen.codebook, message)).unwrap_or_default();
    match args.format.format {
        Format::Json => {
            json::line(out, &EncodedForm::new(octets, specimen.budget.as_ref(), &specimen.codebook, &found))?;
        }
        Format::Text => {
            put(out, octets, args.as_form)?;
            let mut err = anstream::stderr().lock();
            if let Some(budget) = &specimen.budget {
                budget::draw_left_out(&mut err, budget, &specimen.codebook)?;
            }
            for finding in &found {
                write!(err, "{}", message::draw_finding(finding, octets))?;
            }
        }
    }
    let left_out = specimen.budget.is_some_and(|budget| !budget.left_out.is_empty());
    Ok(if left_out || any_error(&found) { ERRORS } else { DONE })
}

#[derive(Serialize)]
struct EncodedForm<'e> {
    length: usize,
    hex: String,
    #[serde(skip_serializing_if = "Option::is_none")]
    budget: Option<budget::BudgetForm>,
    findings: Vec<FindingForm<'e>>,
}

impl<'e> EncodedForm<'e> {
    fn new(octets: &[u8], budget: Option<&Budget>, codebook: &Codebook, found: &'e [Finding]) -> Self {
        let sources = Sources::default();
        Self {
            length: octets.len(),
            hex: hex::plain(octets),
            budget: budget.map(|budget| budget::BudgetForm::new(budget, codebook)),
            findings: found.iter().map(|finding| FindingForm::new(finding, &sources)).collect(),
        }
    }
}
