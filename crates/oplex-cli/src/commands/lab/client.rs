//! One stand-in client on an interface.

use std::io::Write;
use std::sync::Arc;
use std::time::{Duration, SystemTime};

use oplex::audit::{Audit, Conversation, Policy};
use oplex::codebook::Codebook;
use oplex::compiled::Compiled;
use oplex::family::{Both, Family};
use oplex::finding::{Severity, Sources};
use oplex::lab::{Client, ClientKind, Event, Heard, Packet};
use oplex::nearest::nearest;
use oplex::packet::AnyMessage;
use oplex::plan::Plan;
use oplex_io::lab::{Activity, Interface, live};

use super::page::{clock, event};
use super::serve::message;
use crate::args::{Format, LabClient};
use crate::commands::audit::page;
use crate::commands::releases;
use crate::exit::{DONE, ERRORS, Failure, Outcome, because};
use crate::forms::{self, ClientForm, MessageForm};
use crate::render;
use crate::render::style::{BAD, DIM, GOOD, STRONG, in_style};

pub(super) fn run(args: &LabClient, out: &mut dyn Write) -> Outcome {
    let loaded = args.plan.as_ref().map(|plan| releases::plan(plan, &args.store, args.trust)).transpose()?;
    let plan = match (&loaded, &args.plan) {
        (Some(loaded), Some(path)) => Some(releases::readable(loaded, path)?),
        _ => None,
    };
    let compiled = plan.map(Compiled::of);
    let network = match (&compiled, &args.network) {
        (Some(compiled), Some(name)) => Some(super::network(compiled, name)?),
        _ => None,
    };
    let interface = Interface::named(&args.interface)?;
    let client = client(args, &interface, plan, network)?;
    let seen = seen(args, client, &interface)?;
    let audited = compiled.as_ref().zip(network).map(|(compiled, network)| audited(compiled, network, &seen));
    let codebook = compiled.as_ref().map_or(Codebook::standard(), |compiled| &compiled.codebook);
    let sources = loaded.as_ref().map_or_else(Sources::default, |loaded| loaded.sources.clone());
    let wrong = audited
        .iter()
        .flatten()
        .flat_map(|one| &one.findings)
        .any(|reported| reported.finding.severity == Severity::Error);
    match args.format.format {
        Format::Json => in_json(&seen, codebook, audited.as_deref(), &sources, out)?,
        Format::Text => draw(args, &seen, codebook, audited.as_deref(), &sources, out)?,
    }
    Ok(if seen.has_all && !wrong { DONE } else { ERRORS })
}

/// What a client saw and sent.
struct Observed {
    /// When it began, since the beginning of 1970 (UTC).
    began: Duration,
    packets: Vec<(Duration, Packet)>,
    events: Vec<(Duration, Event)>,
    has_all: bool,
    mac: oplex::octets::Mac,
}

fn client(
    args: &LabClient,
    interface: &Interface,
    plan: Option<&Plan>,
    network: Option<usize>,
) -> Result<Client, Failure> {
    let Some(kind) = ClientKind::named(&args.kind) else {
        let names = || ClientKind::shipped().iter().map(|kind| &*kind.name);
        let hint = nearest(&args.kind, names()).map_or(String::new(), |near| format!("; did you mean {near}?"));
        let known: Vec<&str> = names().collect();
        return because(format!("there is no kind `{}`{hint} There are {}", args.kind, known.join(", ")));
    };
    let mut kind = kind.clone();
    // Nothing but broadcasts reaches a machine by the address that it does not have yet.
    kind.broadcast = true;
    kind.presence = None;
    for (key, text) in [("vendor-class", &args.vendor_class), ("arch", &args.arch), ("hostname", &args.hostname)] {
        if let Some(text) = text {
            kind.says.retain(|(said, _)| said != key);
            kind.says.push((key.to_owned(), text.clone()));
        }
    }
    let codebook = plan.map_or(Codebook::standard(), |plan| &plan.codebook);
    let facts =
        kind.facts(codebook, network.unwrap_or_default(), args.mac.unwrap_or(interface.mac), 1).or_else(because)?;
    let speaks = plan.zip(network).map_or(Both { v4: true, v6: true }, |(plan, network)| {
        Both::new(|family| plan.networks[network].sides.has(family))
    });
    kind.families = Both::new(|family| kind.families[family] && speaks[family]);
    if Family::ALL.into_iter().all(|family| !kind.families[family]) {
        return because(format!("a client of kind {} speaks no family that the network has", args.kind));
    }
    let seed = SystemTime::now().duration_since(SystemTime::UNIX_EPOCH).map_or(1, |since| since.subsec_nanos().into());
    Ok(Client::new(Arc::new(kind), facts, speaks, Duration::ZERO, seed))
}

fn seen(args: &LabClient, client: Client, interface: &Interface) -> Result<Observed, Failure> {
    let began = SystemTime::now().duration_since(SystemTime::UNIX_EPOCH).unwrap_or_default();
    let mut seen = Observed { began, packets: Vec::new(), events: Vec::new(), has_all: false, mac: client.mac() };
    let time = Duration::from_secs(args.time.into());
    seen.has_all = live(client, interface, time, &mut |at, step| match step {
        Activity::Sent(packet) | Activity::Heard(packet) => seen.packets.push((at, packet.clone())),
        Activity::Became(event) => seen.events.push((at, event.clone())),
    })?;
    Ok(seen)
}

/// What was said, held against the plan.
fn audited(compiled: &Compiled<'_>, network: usize, seen: &Observed) -> Vec<Conversation> {
    let mut audit = Audit::against(compiled, Policy::default()).on(network);
    for (number, (at, packet)) in (1..).zip(&seen.packets) {
        let heard = Heard { at: *at, network, client: seen.mac, packet };
        let one = heard.seen(seen.began, number);
        let found = one.findings(&compiled.codebook);
        audit.add(&one, found);
    }
    audit.finish();
    audit.closed().collect()
}

/// The replies that count: the last of each protocol.
fn last(seen: &Observed) -> impl Iterator<Item = AnyMessage<'_>> {
    let replies: Vec<AnyMessage<'_>> = seen
        .packets
        .iter()
        .filter(|(_, packet)| !packet.from_client)
        .filter_map(|(_, packet)| message(packet))
        .collect();
    oplex::family::Protocol::ALL
        .into_iter()
        .filter_map(move |protocol| replies.iter().rev().find(|message| message.protocol() == protocol).copied())
}

fn draw(
    args: &LabClient,
    seen: &Observed,
    codebook: &Codebook,
    audited: Option<&[Conversation]>,
    sources: &Sources,
    out: &mut dyn Write,
) -> std::io::Result<()> {
    let has = match seen.has_all {
        true => in_style(GOOD, "has what it needs"),
        false => in_style(BAD, "does not get what it needs"),
    };
    let reported = || audited.unwrap_or_default().iter().flat_map(|one| &one.findings);
    let differs = reported().filter(|reported| reported.finding.severity > Severity::Note).count() as u64;
    let compared = match (audited, differs) {
        (None, _) => String::new(),
        (Some(_), 0) => format!(", {}", in_style(GOOD, "as the plan has it")),
        (Some(_), count) => format!(", {}", in_style(BAD, format!("{} about it", page::plural(count, "finding")))),
    };
    writeln!(out, "A client of kind {} on {} {has}{compared}\n", args.kind, args.interface)?;
    for (at, packet) in &seen.packets {
        let said = message(packet).map_or_else(|| "what cannot be read".to_owned(), |message| message.to_string());
        let way = if packet.from_client { "sends" } else { "hears" };
        writeln!(out, "{}  {way}  {}", in_style(DIM, clock(*at)), render::clean::line(&said))?;
    }
    if !seen.events.is_empty() {
        writeln!(out)?;
    }
    for (_, one) in &seen.events {
        writeln!(out, "  it {}", in_style(STRONG, event(one)))?;
    }
    for message in last(seen) {
        writeln!(out)?;
        render::message::draw(out, codebook, (&message, message.octets()), None, &[])?;
    }
    let says = |one: &&Conversation| one.findings.iter().any(|reported| reported.finding.severity > Severity::Note);
    for conversation in audited.unwrap_or_default().iter().filter(says) {
        page::conversation(out, conversation, sources)?;
    }
    Ok(())
}

fn in_json(
    seen: &Observed,
    codebook: &Codebook,
    audited: Option<&[Conversation]>,
    sources: &Sources,
    out: &mut dyn Write,
) -> std::io::Result<()> {
    for message in last(seen) {
        forms::document(out, "oplex-message/1", &MessageForm::new(codebook, &message, None, &[]))?;
    }
    forms::document(out, "oplex-lab-client/1", &ClientForm::of(seen.has_all, &seen.events, audited, sources))
}
