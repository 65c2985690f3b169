//! `oplex decode v4`, `oplex decode v6`, `oplex decode ra`, and the same with `encode`: whole messages.

use std::io::Write;
use std::path::Path;

use oplex::check;
use oplex::codebook::Codebook;
use oplex::finding::{Finding, Sources, any_error};
use oplex::octets::hex;
use oplex::packet::v4::{Budget, Limit, Message};
use oplex::packet::{ra, v6};
use oplex::specimen::Specimen;
use oplex_io::files::FileError;
use serde::Serialize;

use super::encode::put;
use super::standard_input;
use crate::args::{Decode, Encode, Format};
use crate::exit::{DONE, ERRORS, Failure, Outcome, because};
use crate::render::json::{self, FindingForm};
use crate::render::message::{self, MessageForm};
use crate::render::{advertisement, budget, findings, message_v6};

/// What kind of messages.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(super) enum Family {
    /// DHCPv4.
    V4,
    /// DHCPv6.
    V6,
    /// Router advertisements and solicitations.
    Ra,
}

impl Family {
    pub(super) fn named(word: &str) -> Option<Self> {
        match word {
            "v4" => Some(Self::V4),
            "v6" => Some(Self::V6),
            "ra" => Some(Self::Ra),
            _ => None,
        }
    }

    fn read_specimen(self, path: &Path) -> Result<Specimen, FileError> {
        match self {
            Self::V4 => oplex_io::files::specimen(path),
            Self::V6 => oplex_io::files::specimen_v6(path),
            Self::Ra => oplex_io::files::specimen_ra(path),
        }
    }

    /// What the rules find; octets that are cut off on purpose are no message, and there is nothing to check.
    fn findings(self, codebook: &Codebook, octets: &[u8]) -> Vec<Finding> {
        match self {
            Self::V4 => Message::read(octets).map(|message| check::message(codebook, message)).unwrap_or_default(),
            Self::V6 => {
                v6::Message::read(octets).map(|message| check::message_v6(codebook, message)).unwrap_or_default()
            }
            Self::Ra => {
                ra::Message::read(octets).map(|message| check::advertisement(codebook, message)).unwrap_or_default()
            }
        }
    }
}

pub(super) fn decode(
    family: Family,
    args: &Decode,
    codebook: &Codebook,
    given: &[String],
    out: &mut dyn Write,
) -> Outcome {
    if args.request.is_some() && family != Family::V4 {
        return because("--request goes with messages of DHCPv4");
    }
    match family {
        Family::V4 => decode_v4(args, codebook, given, out),
        Family::V6 => decode_v6(args, codebook, given, out),
        Family::Ra => decode_ra(args, codebook, given, out),
    }
}

fn decode_v4(args: &Decode, codebook: &Codebook, given: &[String], out: &mut dyn Write) -> Outcome {
    let octets = octets(&given.join(" "), "v4", |first| matches!(first, 1 | 2))?;
    let message = read(&octets)?;
    let mut found = check::message(codebook, message);
    let request = args.request.as_deref().map(octets_of_text).transpose()?;
    if let Some(request) = &request {
        found.extend(check::exchange(codebook, read(request)?, message));
    }
    let budget = Budget::of_message(&message, limit(request.as_deref(), &message));
    match args.format.format {
        Format::Json => json::line(out, &MessageForm::new(codebook, &message, &budget, &found))?,
        Format::Text => message::draw(out, codebook, &message, &budget, &found)?,
    }
    Ok(if any_error(&found) { ERRORS } else { DONE })
}

fn decode_v6(args: &Decode, codebook: &Codebook, given: &[String], out: &mut dyn Write) -> Outcome {
    let octets = octets(&given.join(" "), "v6", |first| first < 32)?;
    let message = v6::Message::read(&octets).or_else(because)?;
    let found = check::message_v6(codebook, message);
    match args.format.format {
        Format::Json => json::line(out, &message_v6::MessageForm::new(codebook, &message, &found))?,
        Format::Text => message_v6::draw(out, codebook, &message, &found)?,
    }
    Ok(if any_error(&found) { ERRORS } else { DONE })
}

fn decode_ra(args: &Decode, codebook: &Codebook, given: &[String], out: &mut dyn Write) -> Outcome {
    let octets = octets(&given.join(" "), "ra", |first| matches!(first, 133 | 134 | 0x60))?;
    let message = ra::Message::read(&octets).or_else(because)?;
    let found = check::advertisement(codebook, message);
    match args.format.format {
        Format::Json => json::line(out, &advertisement::MessageForm::new(codebook, &message, &found))?,
        Format::Text => advertisement::draw(out, codebook, &message, &octets, &found)?,
    }
    Ok(if any_error(&found) { ERRORS } else { DONE })
}

/// What the client accepts, as far as these messages say.
fn limit(request: Option<&[u8]>, message: &Message<'_>) -> Limit {
    let request = request.and_then(|octets| Message::read(octets).ok());
    let said = request.unwrap_or(*message).get(oplex::packet::v4::DHCP_MAX_MSG_SIZE);
    Limit::of_client(said.ok().flatten())
}

fn read(octets: &[u8]) -> Result<Message<'_>, Failure> {
    Message::read(octets).or_else(because)
}

/// The octets that were given, or standard input for `-`: there they may be hexadecimal, or themselves, which a first octet
/// that no text begins with tells.
fn octets(given: &str, family: &str, begins: impl Fn(u8) -> bool) -> Result<Vec<u8>, Failure> {
    if given != "-" {
        return if given.is_empty() {
            because(format!("octets are missing: oplex decode {family} OCTETS"))
        } else {
            octets_of_text(given)
        };
    }
    let input = standard_input()?;
    match str::from_utf8(&input) {
        Ok(text) if !input.first().is_some_and(|first| begins(*first) && !first.is_ascii_whitespace()) => {
            octets_of_text(text)
        }
        _ => Ok(input),
    }
}

fn octets_of_text(text: &str) -> Result<Vec<u8>, Failure> {
    hex::parse(text).or_else(|error| because(format!("the octets are not hexadecimal: {error}")))
}

pub(super) fn encode(family: Family, args: &Encode, out: &mut dyn Write) -> Outcome {
    let path = Path::new(&args.value);
    let specimen = family.read_specimen(path)?;
    let Some(octets) = &specimen.octets else {
        let drawn: Vec<String> = specimen.findings.iter().map(|at| findings::draw(at, &specimen.sources)).collect();
        let why = format!("no message can be made of {}\n\n{}", super::shown(path), drawn.join("\n"));
        return Err(Failure::Drawn(why));
    };
    let found = family.findings(&specimen.codebook, octets);
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
