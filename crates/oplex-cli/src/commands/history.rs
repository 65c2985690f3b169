//! `oplex history`: which releases there are.

use std::io::Write;

use oplex_io::store::Store;

use crate::args::{Format, History};
use crate::exit::{DONE, Outcome};
use crate::forms::{self, HistoryForm, ReleaseForm};
use crate::render::clean;
use crate::render::style::{DIM, STRONG, in_style};

pub(super) fn run(args: &History, out: &mut dyn Write) -> Outcome {
    let store = Store::open(&args.store.path)?;
    let mut releases = Vec::new();
    for number in store.numbers()?.into_iter().rev() {
        releases.push(store.release(number)?.manifest);
    }
    match args.format.format {
        Format::Json => {
            let releases = releases.iter().map(ReleaseForm::of).collect();
            forms::document(
                out,
                "oplex-history/1",
                &HistoryForm { store: args.store.path.display().to_string(), releases },
            )?;
        }
        Format::Text => {
            let store = super::shown(&args.store.path);
            let Some(latest) = releases.first() else {
                writeln!(out, "{store} has no release. The first is made by oplex publish PLAN --store {store}")?;
                return Ok(DONE);
            };
            let (count, s) = (releases.len(), if releases.len() == 1 { "" } else { "s" });
            let title = latest.title.as_deref().map(|title| format!("{}: ", clean::line(title))).unwrap_or_default();
            writeln!(out, "{}", in_style(STRONG, format!("{title}{count} release{s} in {store}")))?;
            for manifest in &releases {
                let change = match (manifest.reverts_to, manifest.changes) {
                    (Some(to), _) => format!("back to r{to}"),
                    (None, _) if manifest.previous.is_none() => "the first".to_owned(),
                    (None, 1) => "1 change".to_owned(),
                    (None, changes) => format!("{changes} changes"),
                };
                let author = clean::line(&manifest.author).into_owned();
                let note = manifest.note.as_deref().map(|note| format!("  {}", clean::line(note))).unwrap_or_default();
                let number = format!("r{}", manifest.release);
                let time = manifest.published.replace('T', " ").replace('Z', " UTC");
                writeln!(out, "{number:<6} {}  {author:<12} {change:<14}{note}", in_style(DIM, time))?;
            }
        }
    }
    Ok(DONE)
}
