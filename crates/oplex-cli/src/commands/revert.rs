//! `oplex revert`: an earlier release once more, or its plan as it was written.

use std::io::Write;
use std::path::{Component, Path};

use oplex_io::staged;
use oplex_io::store::{Entry, Release, Store};

use super::changes::Changes;
use super::releases;
use crate::args::{Format, Revert};
use crate::exit::{DONE, Failure, Outcome, because};
use crate::forms::{self, ReleaseForm, RevertForm};
use crate::render::progress::while_watched;
use crate::render::style::{GOOD, STRONG, in_style};

pub(super) fn run(args: &Revert, out: &mut dyn Write) -> Outcome {
    let store = Store::open(&args.store.path)?;
    let Some(to) = releases::named(Path::new(&args.to), &store)? else {
        return because(format!("`{}` is no release; write it like r6", args.to));
    };
    if let Some(folder) = &args.write {
        return write(&store, &to, folder, args.format.format, out);
    }
    let Some(latest) = store.latest()? else { return because("the store has no release") };
    if latest.manifest.content == to.manifest.content && latest.manifest.sources == to.manifest.sources {
        return unchanged(&latest, &to, args.format.format, out);
    }
    let (before, after) = (releases::document(&store, &latest)?, releases::document(&store, &to)?);
    let unread = |release: &Release, why| because(format!("release {} cannot be read: {why}", release.number()));
    let was = before.compiled().or_else(|why| unread(&latest, why))?;
    let is = after.compiled().or_else(|why| unread(&to, why))?;
    let changes = Changes::between(&was, &is);
    crate::exit::leave_nothing_half_written();
    let entry = Entry {
        changes: changes.count(),
        reverts_to: Some(to.number()),
        findings: to.manifest.findings.clone(),
        ..releases::entry(&args.said)?
    };
    let release = while_watched(|watch| {
        let progress = |done, of| watch.count("proving what is there", done, of);
        store.revert_with_progress(&to, &latest, entry, &progress)
    })?;
    match args.format.format {
        Format::Json => {
            let form = RevertForm { release: ReleaseForm::of(&release.manifest), changed: changes.form() };
            forms::document(out, "oplex-revert/1", &form)?;
        }
        Format::Text => {
            let number = in_style(GOOD, format!("Release {}", release.number()));
            writeln!(out, "{number} sends what release {} sent.", to.number())?;
            let verdict = changes.verdict().unwrap_or_else(|| "the same octets, from another plan".to_owned());
            writeln!(out, "\n{}", in_style(STRONG, format!("Since release {}: {verdict}", latest.number())))?;
            changes.draw(out)?;
        }
    }
    Ok(DONE)
}

fn unchanged(latest: &Release, to: &Release, format: Format, out: &mut dyn Write) -> Outcome {
    match format {
        Format::Json => {
            let form = RevertForm { release: ReleaseForm::of(&latest.manifest), changed: Vec::new() };
            forms::document(out, "oplex-revert/1", &form)?;
        }
        Format::Text => {
            writeln!(out, "Release {} is what release {} was. Nothing was published.", latest.number(), to.number())?;
        }
    }
    Ok(DONE)
}

/// Writes the files of a release into a directory that is not there yet.
fn write(store: &Store, release: &Release, folder: &Path, format: Format, out: &mut dyn Write) -> Outcome {
    let files = store.sources(release)?;
    let outside: Vec<&str> = files.iter().map(|file| file.name.as_str()).filter(|name| !stays(name)).collect();
    if let Some(name) = outside.first() {
        let shown = crate::render::clean::line(name);
        return because(format!(
            "{shown} was outside the folder of its plan, and is not written outside {}",
            super::shown(folder)
        ));
    }
    let wrong = |path: &Path, error: std::io::Error| {
        Failure::Because(format!("{}: {}", super::shown(path), oplex_io::files::reason(&error)))
    };
    if folder.exists() {
        return because(format!("{} is there already; name a new directory", super::shown(folder)));
    }
    crate::exit::leave_nothing_half_written();
    for file in &files {
        let path = folder.join(&file.name);
        let parent = path.parent().unwrap_or(folder);
        std::fs::create_dir_all(parent).map_err(|error| wrong(parent, error))?;
        staged::write(&path, false, |to| to.write_all(file.text.as_bytes())).map_err(|error| wrong(&path, error))?;
    }
    let names: Vec<String> = files.iter().map(|file| folder.join(&file.name).display().to_string()).collect();
    match format {
        Format::Json => {
            forms::document(out, "oplex-written/1", &forms::WrittenForm { release: release.number(), files: names })?;
        }
        Format::Text => {
            let count = names.len();
            let s = if count == 1 { "" } else { "s" };
            writeln!(out, "{} of release {} written:", in_style(STRONG, format!("{count} file{s}")), release.number())?;
            for name in names {
                writeln!(out, "  {}", crate::render::clean::line(&name))?;
            }
        }
    }
    Ok(DONE)
}

/// Whether a path stays below where it starts.
fn stays(name: &str) -> bool {
    Path::new(name).components().all(|part| matches!(part, Component::Normal(_) | Component::CurDir))
}
