//! Some days of simulated time.

use std::io::Write;
use std::time::Duration;

use oplex::audit::{Audit, Checker, Policy, Summary};
use oplex::compiled::Compiled;
use oplex::finding::Severity;
use oplex::lab::{Client, Clients, Event, Faults, Heard, Lab, LabReport, Population, Tally};
use oplex_io::capture;

use super::page::{Page, event};
use crate::args::{Format, LabRun};
use crate::commands::{releases, shown};
use crate::exit::{DONE, ERRORS, Failure, Outcome, because};
use crate::forms::{self, LabForm};
use crate::render::{findings, progress};

/// When a lab begins, for what has times in it: the second of November 2026, 06:00 UTC.
const START: Duration = Duration::from_secs(1_793_599_200);

/// So much simulated time goes by between two looks at the progress.
const SLICE: Duration = Duration::from_secs(1800);

/// What came of a lab, and of the audit of its packets.
pub(super) struct Done {
    pub(super) tally: Tally,
    pub(super) summary: Summary,
    pub(super) packets: u64,
    /// What became of the client that was named.
    pub(super) events: Vec<(Duration, Event)>,
}

pub(super) fn run(args: &LabRun, out: &mut dyn Write) -> Outcome {
    let loaded = releases::plan(&args.plan, &args.store, args.trust)?;
    let plan = releases::readable(&loaded, &args.plan)?;
    let compiled = Compiled::of(plan);
    let population = clients(args, &compiled)?;
    if population.more {
        let most = Population::MOST;
        return because(format!(
            "there would be more than {most} clients; have fewer with --each, or name some with --clients"
        ));
    }
    if population.count() == 0 {
        return because("there are no clients: the plan has no network with addresses, and nothing else names some");
    }
    if let Some(mac) = args.client.filter(|mac| {
        let mut all = population.groups.iter().flat_map(|group| &group.members);
        !all.any(|(_, facts)| facts.own_mac() == Some(*mac))
    }) {
        return because(format!("no client of the lab has the hardware address {mac}"));
    }
    let unmatched = population.unmatched.clone();
    let mut frames = Vec::new();
    let audit = Audit::against(&compiled, Policy::default()).answered_by(&plan.others);
    let done = play(args, &compiled, population, audit, &mut frames);
    if let Some(path) = &args.capture {
        crate::exit::leave_nothing_half_written();
        // An interface for each network: that is how whoever reads it knows which network a message is of.
        let names: Vec<&str> = compiled.networks.iter().map(|network| &*network.name).collect();
        let timed = frames.iter().map(|(at, network, frame)| (*at, *network as u32, frame.as_slice()));
        capture::write_timed(path, &names, timed, args.force)?;
    }
    let page = Page { args, compiled: &compiled, done: &done, unmatched: &unmatched };
    match args.format.format {
        Format::Json => {
            let names = [args.capture.as_deref().map_or_else(|| "lab".to_owned(), shown)];
            let form = LabForm::of(args, &compiled, &done.tally, &done.summary, (done.packets, &names), &done.events);
            forms::document(out, "oplex-lab/1", &form)?;
        }
        Format::Text => page.draw(out)?,
    }
    let wrong = done.summary.count(Severity::Error) > 0 || !done.tally.twice.is_empty() || page.without() > 0;
    Ok(if wrong { ERRORS } else { DONE })
}

fn clients(args: &LabRun, compiled: &Compiled<'_>) -> Result<Population, Failure> {
    let Some(path) = &args.clients else { return Ok(Population::of(compiled, args.each)) };
    let text = oplex_io::files::text(path)?;
    let read = Clients::read(compiled, &path.display().to_string(), &text);
    read.population.ok_or_else(|| {
        let drawn: Vec<String> = read.findings.iter().map(|finding| findings::draw(finding, &read.sources)).collect();
        Failure::Drawn(format!("the clients of {} cannot be used\n\n{}", shown(path), drawn.join("\n")))
    })
}

/// Lets the time go by, and audits what is said.
fn play(
    args: &LabRun,
    compiled: &Compiled<'_>,
    population: Population,
    mut audit: Audit<'_>,
    frames: &mut Vec<(Duration, usize, Vec<u8>)>,
) -> Done {
    let mut checker = Checker::new(&compiled.codebook);
    let faults = Faults { lost: args.lost, ..Faults::default() };
    let mut lab = Lab::new(compiled, population, faults, args.seed);
    let end = Duration::from_secs(3600 * u64::from(args.hours));
    let (mut packets, mut events) = (0, Vec::new());
    let mut report = |report: LabReport<'_>| match report {
        LabReport::Packet(heard) => {
            packets += 1;
            let seen = heard.seen(START, packets);
            let found = checker.findings(&seen);
            audit.add(&seen, found);
            audit.closed().for_each(drop);
            if args.capture.is_some() {
                frames.extend(frame(&heard).map(|frame| (seen.at, heard.network, frame)));
            }
        }
        LabReport::Event(at, client, event) => {
            if is_named(args, client) {
                events.push((at, event.clone()));
            }
        }
    };
    progress::while_watched(|watch| {
        let mut until = Duration::ZERO;
        while until < end {
            until = (until + SLICE).min(end);
            lab.run(until, &mut report);
            watch.count("hours", until.as_secs() as usize / 3600, args.hours as usize);
        }
    });
    let tally = lab.tally();
    let summary = audit.finish();
    Done { tally, summary, packets, events }
}

fn is_named(args: &LabRun, client: &Client) -> bool {
    args.client.is_some_and(|mac| client.mac() == mac)
}

fn frame(heard: &Heard<'_>) -> Option<Vec<u8>> {
    let packet = heard.packet;
    capture::frame_of(packet.ends, packet.from_client, &packet.octets, heard.client)
}

/// What became of a client, a line for each thing.
pub(super) fn draw_events(events: &[(Duration, Event)], out: &mut dyn Write) -> std::io::Result<()> {
    events.iter().try_for_each(|(at, one)| writeln!(out, "{:>12}  {}", super::page::clock(*at), event(one)))
}
