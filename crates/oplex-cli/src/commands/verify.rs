//! `oplex verify`: whether a store is what was published.

use std::io::Write;
use std::time::Duration;

use oplex_io::store::{Store, TrustedKey, VerifyReport};

use crate::args::{Format, Verify};
use crate::exit::{DONE, ERRORS, Failure, Outcome, because};
use crate::forms::{self, VerifyForm, WrongForm};
use crate::render::clean;
use crate::render::progress::while_watched;
use crate::render::style::{BAD, DIM, GOOD, in_style};

pub(super) fn run(args: &Verify, out: &mut dyn Write) -> Outcome {
    let age = args.prune.as_deref().map(age).transpose()?;
    let store = Store::open(&args.store.path)?;
    let trusted = args.trust.iter().map(|path| TrustedKey::read(path)).collect::<Result<Vec<_>, _>>()?;
    let report = while_watched(|watch| {
        store.verify_with_progress(&trusted, &|done, of| watch.count("reading parts", done, of))
    })?;
    let pruned = match age {
        // What is wrong is looked at first: parts may be needed to mend it.
        Some(age) if report.flaws.is_empty() => Some(store.prune(&report, age)?),
        _ => None,
    };
    match args.format.format {
        Format::Json => json(args, &report, pruned, out)?,
        Format::Text => text(args, &report, pruned, out)?,
    }
    Ok(if report.flaws.is_empty() { DONE } else { ERRORS })
}

fn age(text: &str) -> Result<Duration, Failure> {
    match oplex::layout::duration(text) {
        Ok(seconds) if seconds != u32::MAX => Ok(Duration::from_secs(seconds.into())),
        _ => because(format!("`{text}` is no age; write it like 7d or 12h")),
    }
}

fn text(args: &Verify, report: &VerifyReport, pruned: Option<usize>, out: &mut dyn Write) -> std::io::Result<()> {
    let store = super::shown(&args.store.path);
    let s = |count: usize| if count == 1 { "" } else { "s" };
    let VerifyReport { releases, parts, octets, flaws, orphans, .. } = report;
    let extent = format!("{releases} release{}, {parts} part{}, {octets} octets", s(*releases), s(*parts));
    match flaws.len() {
        0 if *releases == 0 => writeln!(out, "{store} has no release.")?,
        0 => writeln!(out, "{}: {extent}", in_style(GOOD, format!("{store} is what was published")))?,
        1 => writeln!(out, "{}: {extent}", in_style(BAD, format!("1 thing is wrong in {store}")))?,
        count => writeln!(out, "{}: {extent}", in_style(BAD, format!("{count} things are wrong in {store}")))?,
    }
    for flaw in flaws {
        let of = flaw.release.map(|release| format!(" (release {release})")).unwrap_or_default();
        writeln!(out, "  {}{of}\n    {}", clean::line(&flaw.path.display().to_string()), clean::line(&flaw.why))?;
    }
    // What is wrong may be a manifest, whose parts nobody names then.
    if !orphans.is_empty() && flaws.is_empty() {
        let octets: u64 = orphans.iter().map(|orphan| orphan.octets).sum();
        let count = orphans.len();
        let line = format!(
            "{count} part{} with {octets} octets that no release names: harmless, and removed with --prune 7d",
            s(count)
        );
        writeln!(out, "{}", in_style(DIM, line))?;
    }
    match (pruned, &args.prune) {
        (Some(count), _) => writeln!(out, "{count} part{} removed.", s(count)),
        (None, Some(_)) => writeln!(out, "Nothing was removed, as something is wrong."),
        (None, None) => Ok(()),
    }
}

fn json(args: &Verify, report: &VerifyReport, pruned: Option<usize>, out: &mut dyn Write) -> std::io::Result<()> {
    let flaw = |flaw: &oplex_io::store::Flaw| WrongForm {
        path: flaw.path.display().to_string(),
        why: flaw.why.clone(),
        release: flaw.release,
    };
    let form = VerifyForm {
        store: args.store.path.display().to_string(),
        releases: report.releases,
        latest: report.latest,
        parts: report.parts,
        octets: report.octets,
        flaws: report.flaws.iter().map(flaw).collect(),
        loose: report.orphans.iter().map(|orphan| orphan.path.display().to_string()).collect(),
        pruned,
    };
    forms::document(out, "oplex-verify/1", &form)
}
