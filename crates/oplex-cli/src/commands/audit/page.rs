//! What an audit comes to, for people.

use std::fs::File;
use std::io::{self, BufWriter, Seek as _, Write};
use std::time::Duration;

use oplex::audit::{Answerer, Conversation, FindingKind, FrameFinding, Summary};
use oplex::family::Protocol;
use oplex::finding::{Severity, Sources};
use oplex::octets::hex;
use oplex::plan::Reservation;
use oplex_io::capture::Damage;

use crate::render::clean;
use crate::render::findings::{self, in_severity};
use crate::render::octets::facts;
use crate::render::option::some_octets;
use crate::render::style::{AID, BAD, DIM, GOOD, STRONG, in_style};
use crate::render::traffic::{address, client, moment, protocol_name};

/// As many conversations anybody reads; --all shows all.
const MOST: usize = 25;

/// The rule about options that clients request and no reply has.
const NEVER_SENT: &str = "option-never-sent";

/// As many names are listed on a line.
const NAMES: usize = 8;

/// Conversations that are drawn already, while it is not known yet what comes before them.
pub(super) struct Spool {
    file: BufWriter<File>,
    most: usize,
    drawn: usize,
    more: u64,
}

impl Spool {
    pub(super) fn new(all: bool) -> io::Result<Self> {
        let most = if all { usize::MAX } else { MOST };
        Ok(Self { file: BufWriter::new(tempfile::tempfile()?), most, drawn: 0, more: 0 })
    }

    pub(super) fn add(&mut self, draw: impl FnOnce(&mut dyn Write) -> io::Result<()>) -> io::Result<()> {
        if self.drawn >= self.most {
            self.more += 1;
            return Ok(());
        }
        self.drawn += 1;
        draw(&mut self.file)
    }

    /// Writes all that was drawn, and how many conversations were not.
    pub(super) fn end(self, out: &mut dyn Write) -> io::Result<()> {
        let mut file = self.file.into_inner().map_err(io::IntoInnerError::into_error)?;
        file.rewind()?;
        io::copy(&mut file, out)?;
        match self.more {
            0 => Ok(()),
            1 => writeln!(out, "\nand 1 more conversation with something to say; --all shows it"),
            more => writeln!(out, "\nand {more} more conversations with something to say; --all shows them"),
        }
    }
}

/// What is said first.
pub(super) struct Page<'p> {
    pub(super) summary: &'p Summary,
    pub(super) names: &'p [String],
    pub(super) frames: u64,
    pub(super) messages: u64,
    pub(super) against: Option<&'p str>,
    pub(super) unseen: &'p [String],
    pub(super) damage: &'p [(usize, Damage)],
}

impl Page<'_> {
    pub(super) fn draw(&self, out: &mut dyn Write) -> io::Result<()> {
        writeln!(out, "{}", self.verdict())?;
        writeln!(out)?;
        facts(out, &self.seen())?;
        for (file, damage) in self.damage {
            let (name, why) = (clean::line(&self.names[*file]), clean::line(&damage.why));
            writeln!(out, "\n{} {name}, octet {}: {why}", in_style(BAD, "damaged"), damage.offset)?;
        }
        kinds(out, self.summary, |frame| self.frame(frame))
    }

    /// A frame, with its file where there are several.
    fn frame(&self, frame: oplex::audit::Frame) -> String {
        match self.names.len() {
            1 => frame.to_string(),
            _ => format!("{}:{frame}", frame.file + 1),
        }
    }

    fn verdict(&self) -> String {
        let counts = [Severity::Error, Severity::Warning, Severity::Note]
            .map(|severity| (severity, self.summary.count(severity)));
        let words = counts
            .into_iter()
            .filter(|(_, count)| *count > 0)
            .map(|(severity, count)| plural(count, &severity.to_string()));
        let words: Vec<String> = words.collect();
        let among = format!("in {} of {}", plural(self.messages, "message"), plural(self.summary.clients, "client"));
        if self.messages == 0 {
            return format!(
                "{}: none of {} is of DHCP or of a router",
                in_style(STRONG, "Nothing to audit"),
                plural(self.frames, "frame")
            );
        }
        match counts[0].1 + counts[1].1 {
            0 if words.is_empty() => format!("{} {among}", in_style(GOOD, "Nothing wrong")),
            0 => format!("{} {among}, {}", in_style(GOOD, "Nothing wrong"), words.join(", ")),
            _ => format!("{} {among}", in_style(STRONG, words.join(", "))),
        }
    }

    fn seen(&self) -> Vec<(&'static str, String)> {
        let mut lines = vec![("captured", some(self.names.iter().cloned()))];
        if let Some(against) = self.against {
            lines.push(("against", against.to_owned()));
        }
        if let Some((first, last)) = self.summary.seen {
            lines.push(("time", format!("{} to {}", moment(first), moment(last))));
        }
        for protocol in Protocol::ALL {
            let counts: Vec<String> = self
                .summary
                .messages
                .iter()
                .filter(|((of, _), _)| *of == protocol)
                .map(|((_, name), count)| format!("{count} {name}"))
                .collect();
            if !counts.is_empty() {
                lines.push((
                    if protocol == Protocol::Ra { "routers" } else { protocol_name(protocol) },
                    some(counts.into_iter()),
                ));
            }
        }
        let servers = self.summary.servers.iter().map(server);
        lines.push(("answers", some(servers)));
        let counted = |map: &std::collections::BTreeMap<String, u64>| {
            some(map.iter().map(|(name, count)| format!("{name} {count}")))
        };
        if !self.summary.networks.is_empty() {
            lines.push(("networks", counted(&self.summary.networks)));
        }
        if !self.summary.fleets.is_empty() {
            lines.push(("fleets", counted(&self.summary.fleets)));
        }
        if self.against.is_some() && !self.unseen.is_empty() {
            lines.push(("not seen", some(self.unseen.iter().cloned())));
        }
        let never = self.summary.kinds.iter().filter(|kind| kind.rule.name == NEVER_SENT);
        lines.push(("never sent", some(never.filter_map(|kind| kind.option.clone()))));
        if self.summary.forgotten > 0 {
            lines.push((
                "forgotten",
                format!("{} clients, hosts and leases, as there were more than are remembered", self.summary.forgotten),
            ));
        }
        lines.retain(|(_, text)| !text.is_empty());
        lines
    }
}

/// What is wrong, a line for each kind of it. What no client sends is left out: it is one line, however many options that are.
pub(in crate::commands) fn kinds(
    out: &mut dyn Write,
    summary: &Summary,
    frame: impl Fn(oplex::audit::Frame) -> String,
) -> io::Result<()> {
    let kinds: Vec<&FindingKind> = summary.kinds.iter().filter(|kind| kind.rule.name != NEVER_SENT).collect();
    if kinds.is_empty() {
        return Ok(());
    }
    writeln!(out, "\n{}", in_style(DIM, format!("{:<8} {:>5}  {:>7}  what is wrong", "", "times", "frame")))?;
    for kind in kinds {
        let severity = in_severity(kind.severity, format!("{:<8}", kind.severity.to_string()));
        let option = kind.option.as_ref().map(|option| format!("{option} ")).unwrap_or_default();
        let rule = in_style(DIM, kind.rule.name);
        let (count, message, frame) = (kind.count, clean::line(&kind.message), frame(kind.frame));
        writeln!(out, "{severity} {count:>5}  {frame:>7}  {option}{message}  {rule}")?;
    }
    Ok(())
}

pub(in crate::commands) fn plural(count: u64, what: &str) -> String {
    if count == 1 { format!("1 {what}") } else { format!("{count} {what}s") }
}

/// The first of many, and how many more there are.
fn some(all: impl Iterator<Item = String>) -> String {
    let all: Vec<String> = all.collect();
    let more = all.len().saturating_sub(NAMES);
    let shown = all.into_iter().take(NAMES).collect::<Vec<_>>().join(", ");
    if more > 0 { format!("{shown} and {more} more") } else { shown }
}

/// `10.64.0.67, 24 replies`
fn server(one: &Answerer) -> String {
    let known = match one.known {
        Some(false) => ", not of the plan",
        _ => "",
    };
    let name = address(&one.id, one.protocol == Protocol::V6);
    let what = if one.protocol == Protocol::Ra { "advertises" } else { "replies" };
    format!("{name} ({what} {}×{known})", one.messages)
}

/// A reservation whose client was not seen.
pub(super) fn reservation(row: &Reservation) -> String {
    row.name().map_or_else(|| row.client().to_string(), |(name, _)| name.to_owned())
}

/// A conversation: whose it is, its messages, and what is wrong.
pub(in crate::commands) fn conversation(out: &mut dyn Write, one: &Conversation, sources: &Sources) -> io::Result<()> {
    let network = one.network.iter().map(|name| format!("on {name}"));
    let place = network.chain(one.fleets.iter().map(|name| format!("fleet {name}"))).collect::<Vec<_>>().join(", ");
    let place = if place.is_empty() { place } else { format!("  {}", clean::line(&place)) };
    let what = match one.protocol {
        Protocol::Ra if one.messages.first().is_none_or(|step| step.from_client) => "host".to_owned(),
        Protocol::Ra => "router".to_owned(),
        protocol => format!("{} 0x{:x}", protocol_name(protocol), one.transaction),
    };
    let at = one.messages.first().map(|step| format!("  {}", moment(step.at))).unwrap_or_default();
    writeln!(out, "\n{}{place}  {}", in_style(STRONG, client(one)), in_style(DIM, format!("{what}{at}")))?;
    let began = one.messages.first().map_or(Duration::ZERO, |step| step.at);
    for step in &one.messages {
        let after = step.at.saturating_sub(began).as_secs_f64();
        let (from, to) = (step.source.ip(), step.destination.ip());
        let line =
            format!("{:>7}  +{after:<9.3} {:<22} {from} → {to}", step.frame.to_string(), clean::line(&step.name));
        writeln!(out, "{}", in_style(DIM, line))?;
        if let Some(comment) = &step.comment {
            writeln!(out, "         “{}”", clean::line(comment))?;
        }
    }
    for reported in &one.findings {
        write!(out, "{}", finding(reported, sources))?;
    }
    Ok(())
}

/// A finding with its frame and octets, and what the plan has in place of these.
fn finding(reported: &FrameFinding, sources: &Sources) -> String {
    let mut drawn = findings::draw(&reported.finding, sources);
    let Some(line) = drawn.find('\n') else { return drawn };
    let place = reported.finding.octets.clone().map(|place| format!(", octet {}", place.start)).unwrap_or_default();
    let mut lines = format!("  {} frame {}{place}\n", in_style(AID, "in"), reported.frame);
    match &reported.planned {
        Some(planned) => {
            let differs = reported.octets.iter().zip(planned).take_while(|(one, other)| one == other).count();
            for (what, octets) in [("seen   ", &reported.octets), ("planned", planned)] {
                lines += &format!("  {} {}\n", in_style(AID, what), around(octets, differs));
            }
        }
        None if reported.octets.is_empty() => {}
        None => lines += &format!("  {} {}\n", in_style(AID, "octets"), some_octets(&reported.octets)),
    }
    drawn.insert_str(line + 1, &lines);
    drawn
}

/// Octets around the place where they differ from others.
const AROUND: usize = 8;

fn around(octets: &[u8], differs: usize) -> String {
    if octets.is_empty() {
        return "nothing".to_owned();
    }
    let from = differs.saturating_sub(AROUND / 2).min(octets.len());
    let to = (from + 2 * AROUND).min(octets.len());
    let (before, after) = (if from > 0 { "… " } else { "" }, if to < octets.len() { " …" } else { "" });
    let place = differs.clamp(from, to);
    let marked = octets.get(place).filter(|_| place < to).map(|octet| in_style(STRONG, hex::spaced(&[*octet])));
    let parts = [
        hex::spaced(&octets[from..place]),
        marked.unwrap_or_default(),
        hex::spaced(octets.get(place + 1..to).unwrap_or_default()),
    ];
    let parts: Vec<String> = parts.into_iter().filter(|part| !part.is_empty()).collect();
    format!("{before}{}{after}", parts.join(" "))
}
