//! `oplex report`: a plan, a release or a capture as one page to look at, print and send.

use std::io::{Read as _, Write};
use std::path::Path;
use std::sync::Arc;

use oplex::audit::{Audit, Policy};
use oplex::check;
use oplex::codebook::Codebook;
use oplex::compiled::Compiled;
use oplex::finding::{Severity, Sources, any_error};
use oplex_io::capture::{Capture, Checked, Progress, checked};
use oplex_io::staged;
use oplex_io::store::{Release, Store};

use super::changes::Changes;
use super::{releases, shown};
use crate::args::Report;
use crate::exit::{DONE, ERRORS, Failure, Outcome, because};
use crate::render::progress;
use crate::render::style::{BAD, GOOD, ODD, in_style};
use crate::report::{GENERATOR, History, Page, PlanReport, Traffic, TrafficReport};

pub(super) fn run(args: &Report, out: &mut dyn Write) -> Outcome {
    may_stand(&args.output)?;
    match Capture::open(&args.subject) {
        Ok(capture) => of_capture(args, capture, out),
        Err(_) if args.plan.is_some() => {
            because(format!("{} is no capture; --plan is what a capture is held against", shown(&args.subject)))
        }
        Err(_) => of_plan(args, out),
    }
}

fn of_plan(args: &Report, out: &mut dyn Write) -> Outcome {
    let loaded = releases::plan(&args.subject, &args.store, args.trust)?;
    let checked = progress::while_watched(|watch| check::report(&loaded, &|done, of| watch.rules(done, of)));
    let plan = releases::readable(&loaded, &args.subject)?;
    let compiled = Compiled::of(plan);
    let history = args.store.path.as_deref().map(|store| history(store, &args.subject, &compiled)).transpose()?;
    let report = PlanReport {
        name: &args.subject.display().to_string(),
        plan,
        compiled: &compiled,
        sources: &loaded.sources,
        checked: &checked,
        history,
    };
    write(&args.output, &report.page(), out)?;
    Ok(if any_error(&checked.findings) { ERRORS } else { DONE })
}

/// The releases of a store, and what changed: from the latest to a plan, or from the one before to a release.
fn history(path: &Path, subject: &Path, compiled: &Compiled<'_>) -> Result<History, Failure> {
    let store = Store::open(path)?;
    let mut all: Vec<Release> = Vec::new();
    for number in store.numbers()?.into_iter().rev() {
        all.push(store.release(number)?);
    }
    let before = match releases::named(subject, &store)? {
        Some(release) => all
            .iter()
            .find(|one| Some(one.number()) == release.manifest.previous.as_ref().map(|_| release.number() - 1)),
        None => all.first(),
    };
    let (mut since, mut changed) = (None, Vec::new());
    if let Some(before) = before {
        let document = releases::document(&store, before)?;
        let unread = |why| because(format!("release {} cannot be read: {why}", before.number()));
        let was = document.compiled().or_else(unread)?;
        since = Some(format!("since release {}", before.number()));
        changed = Changes::between(&was, compiled).form();
    }
    Ok(History { releases: all.into_iter().map(|release| release.manifest).collect(), since, changed })
}

fn of_capture(args: &Report, capture: Capture, out: &mut dyn Write) -> Outcome {
    let loaded = args.plan.as_deref().map(|plan| releases::plan(plan, &args.store, args.trust)).transpose()?;
    let plan = match (&loaded, &args.plan) {
        (Some(loaded), Some(path)) => Some(releases::readable(loaded, path)?),
        _ => None,
    };
    let compiled = plan.map(Compiled::of);
    let codebook = compiled.as_ref().map_or(Codebook::standard(), |compiled| &compiled.codebook);
    let mut audit = match &compiled {
        Some(compiled) => {
            Audit::against(compiled, Policy::default()).answered_by(plan.map_or(&[], |plan| &plan.others))
        }
        None => Audit::new(codebook, Policy::default()),
    };
    let progress = Arc::new(Progress::default());
    let (mut traffic, mut damage, mut messages) = (Traffic::default(), Vec::new(), 0);
    progress::while_watched(|watch| {
        let size = std::fs::metadata(&args.subject).map_or(0, |known| known.len());
        watch.reading(&progress, size);
        checked(vec![capture.telling(&progress)], codebook, false, &mut |item| {
            match item {
                Checked::Message(message, found) => {
                    messages += 1;
                    audit.add(&message.seen, found);
                }
                Checked::Damage(_, wrong) if damage.len() < 100 => {
                    damage.push(format!("octet {}: {}", wrong.offset, wrong.why));
                }
                Checked::Damage(..) | Checked::Nothing => {}
            }
            audit.closed().for_each(|conversation| traffic.add(conversation));
        });
    });
    let summary = audit.finish();
    audit.closed().for_each(|conversation| traffic.add(conversation));
    let none = Sources::default();
    let against = args.plan.as_deref().map(shown);
    let report = TrafficReport {
        name: &args.subject.display().to_string(),
        against: against.as_deref(),
        sources: loaded.as_ref().map_or(&none, |loaded| &loaded.sources),
        summary: &summary,
        traffic: &traffic,
        messages,
        damage: &damage,
    };
    write(&args.output, &report.page(), out)?;
    Ok(if summary.count(Severity::Error) > 0 || !damage.is_empty() { ERRORS } else { DONE })
}

/// No more of a file is read to know whether it is a report.
const HEAD: u64 = 4096;

/// Whether the page may be written there: nothing is there, or an earlier report.
fn may_stand(path: &Path) -> Result<(), Failure> {
    let Ok(known) = std::fs::symlink_metadata(path) else { return Ok(()) };
    let mut head = Vec::new();
    let read = std::fs::File::open(path).and_then(|file| file.take(HEAD).read_to_end(&mut head));
    let is_report = known.is_file() && read.is_ok() && String::from_utf8_lossy(&head).contains(GENERATOR);
    match is_report {
        true => Ok(()),
        false => because(format!(
            "{}: there is something there that is no report, and it is not replaced; name another file with -o",
            shown(path)
        )),
    }
}

fn write(path: &Path, page: &Page, out: &mut dyn Write) -> Result<(), Failure> {
    crate::exit::leave_nothing_half_written();
    let html = page.html();
    staged::write(path, true, |file| file.write_all(html.as_bytes()))
        .or_else(|error| because(format!("{}: {}", shown(path), oplex_io::files::reason(&error))))?;
    let style = match page.verdict.class {
        "bad" => BAD,
        "odd" => ODD,
        _ => GOOD,
    };
    let size = html.len().div_ceil(1024);
    writeln!(out, "{}: {} ({size} kB)", shown(path), in_style(style, crate::render::clean::line(&page.verdict.text)))?;
    Ok(())
}
