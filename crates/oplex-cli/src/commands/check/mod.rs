//! `oplex check`: what is wrong with plans and codebooks, and what of it can be mended without asking.

pub(crate) mod files;
pub(crate) mod fix;
mod overview;

use std::io::Write;
use std::path::{Path, PathBuf};

use oplex::check::{self, Report};
use oplex::compiled::Compiled;
use oplex::finding::{Finding, any_error};
use oplex::plan::{Allowed, Loaded, Plan};

use super::shown;
use crate::args::{Check, CheckFormat};
use crate::exit::{CANNOT, DONE, ERRORS, Failure, Outcome};
use crate::forms::{self, CheckForm, PlanForm};
use crate::render::style::{BAD, DIM, GOOD, STRONG, in_style};
use crate::render::{clean, findings, junit, progress, sarif};

use files::Files;

/// A file, and what was found in it.
pub(crate) struct Checked {
    pub(crate) path: PathBuf,
    pub(crate) loaded: Loaded,
    pub(crate) report: Report,
}

impl Checked {
    fn of(path: &Path, args: &Check) -> Result<Self, Failure> {
        progress::while_watched(|watch| {
            let mut watching = |path: &str| watch.now(format!("reading {path}"));
            let loaded = oplex_io::files::plan_or_codebook(path, args.trust.reach(), &mut watching)?;
            let report = check::report(&loaded, &|done, of| watch.rules(done, of));
            Ok(Self { path: path.to_owned(), loaded, report })
        })
    }

    fn code(&self) -> u8 {
        code(&self.loaded, &self.report.findings)
    }
}

pub(super) fn run(args: &Check, out: &mut dyn Write) -> Outcome {
    let files = Files::of(&args.files)?;
    let check = |path: &PathBuf| Checked::of(path, args);
    let mut all = files.all.iter().map(check).collect::<Result<Vec<_>, _>>()?;
    if args.diff {
        fix::show(&all, out)?;
        return Ok(worst(&all));
    }
    let mended = if args.fix { fix::write(&all)? } else { 0 };
    if mended > 0 {
        all = files.all.iter().map(check).collect::<Result<Vec<_>, _>>()?;
    }
    match args.format {
        CheckFormat::Junit => junit::write(out, &all)?,
        CheckFormat::Sarif => sarif::write(out, &all)?,
        CheckFormat::Json => all.iter().try_for_each(|one| json(one, out))?,
        CheckFormat::Text => text(&all, &files, args.fix.then_some(mended), out)?,
    }
    Ok(worst(&all))
}

/// The worst that is to be said of any of them.
fn worst(all: &[Checked]) -> u8 {
    all.iter().map(Checked::code).max().unwrap_or(DONE)
}

/// One document for each file.
fn json(one: &Checked, out: &mut dyn Write) -> std::io::Result<()> {
    let Checked { path, loaded, report } = one;
    let plan = loaded.plan.as_ref().filter(|_| !loaded.is_codebook);
    let compiled = plan.map(|plan| (plan, Compiled::of(plan)));
    let tables = compiled.as_ref().map(|(plan, compiled)| PlanForm::new(plan, compiled, &loaded.sources, None));
    let form = CheckForm::new(path.display().to_string(), &report.findings, &loaded.sources, tables);
    forms::document(out, "oplex-check/1", &form.allowing(&report.allowed))
}

fn text(all: &[Checked], files: &Files, mended: Option<usize>, out: &mut dyn Write) -> std::io::Result<()> {
    if let [one] = all {
        page(one, true, mended, out)?;
    } else {
        let wrong = all.iter().filter(|one| one.code() != DONE).count();
        let verdict = match wrong {
            0 => in_style(GOOD, format!("{} files, none with errors", all.len())),
            _ => in_style(BAD, format!("{wrong} of {} files with errors", all.len())),
        };
        let mended = mended.map(|count| format!("; {count} mended")).unwrap_or_default();
        writeln!(out, "{verdict}{mended}")?;
        for one in all {
            writeln!(out)?;
            page(one, false, None, out)?;
        }
    }
    match files.others {
        0 => Ok(()),
        1 => writeln!(out, "\n{}", in_style(DIM, "1 other TOML file is neither a plan nor a codebook")),
        more => {
            writeln!(out, "\n{}", in_style(DIM, format!("{more} other TOML files are neither plans nor codebooks")))
        }
    }
}

fn page(one: &Checked, alone: bool, mended: Option<usize>, out: &mut dyn Write) -> std::io::Result<()> {
    let Checked { path, loaded, report } = one;
    let found = &report.findings;
    let mended = mended.map(|count| format!("; {count} mended")).unwrap_or_default();
    writeln!(out, "{}: {}{mended}", shown(path), verdict(loaded, found))?;
    findings::draw_all(out, found, &loaded.sources)?;
    let plan = loaded.plan.as_ref().filter(|plan| alone && !any_error(found) && !plan.networks.is_empty());
    if let Some(plan) = plan {
        overview::draw(out, plan)?;
    }
    let safe = found.iter().filter(|finding| finding.safe && finding.replace.is_some()).count();
    if safe > 0 {
        let (s, them) = if safe == 1 { ("", "it") } else { ("s", "them") };
        let what = format!("\n{safe} finding{s} can be mended without asking: --fix mends {them}, --diff shows how");
        writeln!(out, "{}", in_style(STRONG, what))?;
    }
    draw_allowed(&report.allowed, out)
}

/// A file that is not TOML could not be checked at all.
pub(super) fn code(loaded: &Loaded, found: &[Finding]) -> u8 {
    match loaded.plan {
        None => CANNOT,
        Some(_) if any_error(found) => ERRORS,
        Some(_) => DONE,
    }
}

fn verdict(loaded: &Loaded, found: &[Finding]) -> String {
    match &loaded.plan {
        None => in_style(BAD, "cannot be read as a plan"),
        Some(plan) if found.is_empty() => format!("{} ({})", in_style(GOOD, "nothing wrong"), extent(loaded, plan)),
        Some(_) => {
            let tally = findings::tally(found);
            if any_error(found) { in_style(BAD, tally) } else { format!("{}; {tally}", in_style(GOOD, "no errors")) }
        }
    }
}

/// `4 networks, 17 options`
fn extent(loaded: &Loaded, plan: &Plan) -> String {
    let counted = |count, one: &str| if count == 1 { format!("1 {one}") } else { format!("{count} {one}s") };
    if loaded.is_codebook {
        let own = plan.codebook.definitions().filter(|definition| !definition.is_standard()).count();
        return format!("a codebook of {}", counted(own, "option"));
    }
    let options: usize = plan.layers().map(|layer| layer.sends.iter().map(Vec::len).sum::<usize>()).sum();
    let mut parts = vec![counted(plan.networks.len(), "network"), counted(options, "option")];
    let more = [
        (plan.fleets.len(), "fleet"),
        (plan.reservations.len(), "reservation"),
        (plan.expectations.len(), "expectation"),
    ];
    parts.extend(more.into_iter().filter(|(count, _)| *count > 0).map(|(count, what)| counted(count, what)));
    parts.join(", ")
}

/// What the plan allows, and why.
fn draw_allowed(allowed: &[(Allowed, usize)], out: &mut dyn Write) -> std::io::Result<()> {
    let mut head = Some("\n  allowed by the plan");
    for (entry, count) in allowed.iter().filter(|(_, count)| *count > 0) {
        if let Some(head) = head.take() {
            writeln!(out, "{}", in_style(DIM, head))?;
        }
        let why = entry.reason.as_deref().map_or_else(String::new, |why| format!(": {why}"));
        let times = if *count == 1 { String::new() } else { format!(" ({count})") };
        writeln!(out, "  {}", clean::line(&format!("{}{times}{why}", entry.rule)))?;
    }
    Ok(())
}
