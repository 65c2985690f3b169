//! `oplex decode v4`, `oplex decode v6`, `oplex decode ra`, and the same with `encode`: whole messages.

use std::io::Write;
use std::path::Path;

use oplex::check;
use oplex::codebook::Codebook;
use oplex::family::Protocol;
use oplex::finding::any_error;
use oplex::packet::v4::{self, Budget, Limit};
use oplex::packet::{AnyMessage, Message as _};

use super::input::{self, Input, octets_of_text};
use super::put;
use crate::args::{Decode, Encode, Format};
use crate::exit::{DONE, ERRORS, Failure, Outcome, because};
use crate::forms::{self, EncodedForm, MessageForm, NoMessageForm};
use crate::render::message;
use crate::render::progress::{Watch, while_watched};
use crate::render::style::{AID, STRONG, in_style};
use crate::render::{budget, clean, findings};

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
    let request = args.request.as_deref().map(octets_of_text).transpose()?;
    let reader = Reader { protocol, codebook, format: args.format.format, request: request.as_deref() };
    match input::messages(&given.join(" "), protocol)? {
        Input::One(octets) => reader.one(&octets, None, out),
        Input::Lines(_) if request.is_some() => because("--request goes with one message, and these are several lines"),
        Input::Lines(lines) => reader.lines(&lines, out),
    }
}

/// Reads messages and shows them.
struct Reader<'r> {
    protocol: Protocol,
    codebook: &'r Codebook,
    format: Format,
    request: Option<&'r [u8]>,
}

impl Reader<'_> {
    /// One message; `frame` counts the line it stood in, where there are several.
    fn one(&self, octets: &[u8], frame: Option<usize>, out: &mut dyn Write) -> Outcome {
        let (protocol, codebook) = (self.protocol, self.codebook);
        let message = read(protocol, octets)?;
        let mut found = check::message(codebook, message);
        let request = self.request.map(|octets| read(protocol, octets)).transpose()?;
        found.extend(request.into_iter().flat_map(|request| check::exchange(codebook, request, message)));
        let mut budget = None;
        if let AnyMessage::V4(reply) = message {
            // What the client accepts, as far as these messages say.
            let asked = if let Some(AnyMessage::V4(request)) = request { request } else { reply };
            let said = asked.get(codebook, v4::DHCP_MAX_MSG_SIZE).ok().flatten();
            budget = Some(Budget::of_message(&reply, Limit::of_client(said)));
        }
        match self.format {
            Format::Json => {
                forms::document(
                    out,
                    "oplex-message/1",
                    &MessageForm::new(codebook, &message, budget.as_ref(), &found).frame(frame),
                )?;
            }
            Format::Text => message::draw(out, codebook, (&message, octets), budget.as_ref(), &found)?,
        }
        Ok(if any_error(&found) { ERRORS } else { DONE })
    }

    /// A message in each line. What a line that is none says goes where its message would stand.
    fn lines(&self, lines: &[input::Line], out: &mut dyn Write) -> Outcome {
        // However many there are, one is held at a time; what they come to is the first that a person reads.
        if self.format == Format::Text {
            let count = |watch: &Watch, done| watch.count("reading messages", done, lines.len());
            let (_, tally) = while_watched(|watch| self.each(lines, &mut std::io::sink(), &|done| count(watch, done)))?;
            writeln!(out, "{}", in_style(STRONG, tally))?;
        }
        Ok(self.each(lines, out, &|_| {})?.0)
    }

    /// Shows each; the exit code and the tally. `done` hears how many were read.
    fn each(&self, lines: &[input::Line], out: &mut dyn Write, done: &dyn Fn(usize)) -> Result<(u8, String), Failure> {
        let (mut wrong, mut none) = (0, 0);
        for (at, line) in lines.iter().enumerate() {
            done(at);
            let frame = line.frame;
            if self.format == Format::Text {
                writeln!(out, "\n{}", in_style(AID, format!("frame {frame}")))?;
            }
            let octets = line.octets.as_ref().map_err(Clone::clone).or_else(because);
            match octets.and_then(|octets| self.one(octets, Some(frame), out)) {
                Ok(code) => wrong += usize::from(code == ERRORS),
                Err(Failure::Because(why)) => {
                    none += 1;
                    match self.format {
                        Format::Json => forms::document(out, "oplex-message/1", &NoMessageForm { frame, error: why })?,
                        Format::Text => writeln!(out, "{}", clean::line(&why))?,
                    }
                }
                Err(other) => return Err(other),
            }
        }
        let code = if wrong + none == 0 { DONE } else { ERRORS };
        Ok((code, tally(lines.len() - none, wrong, none)))
    }
}

/// How many messages there are, and how many of them are wrong.
fn tally(messages: usize, wrong: usize, none: usize) -> String {
    let many = |count: usize, what: &str| format!("{count} {what}{}", if count == 1 { "" } else { "s" });
    let wrong = if wrong == 0 { "none with errors".to_owned() } else { format!("{wrong} with errors") };
    let none = if none == 0 {
        String::new()
    } else {
        format!("; {} of the input {} no message", many(none, "line"), if none == 1 { "is" } else { "are" })
    };
    format!("{}, {wrong}{none}", many(messages, "message"))
}

/// The octets as a message of the protocol. Those that are plainly one of another are said to be that.
fn read(protocol: Protocol, octets: &[u8]) -> Result<AnyMessage<'_>, Failure> {
    match AnyMessage::plainly(octets) {
        Some(other) if other != protocol => {
            let (what, name) = (input::message_of(other), other.name());
            because(format!("these octets are {what}; to read it: oplex decode {name} OCTETS"))
        }
        _ => AnyMessage::read(protocol, octets).or_else(because),
    }
}

pub(super) fn encode(protocol: Protocol, args: &Encode, out: &mut dyn Write) -> Outcome {
    let path = Path::new(&args.value);
    let specimen = oplex_io::files::specimen(protocol, path, args.trust.reach())?;
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
            forms::document(
                out,
                "oplex-encode/1",
                &EncodedForm::new(octets, specimen.budget.as_ref(), &specimen.codebook, &found),
            )?;
        }
        Format::Text => {
            put(out, octets, args.as_form)?;
            let mut err = clean::stderr();
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
