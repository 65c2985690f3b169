//! `oplex publish`: a plan that has no errors becomes the next release.

use std::io::Write;

use oplex::check;
use oplex::compiled::Compiled;
use oplex::finding::{Finding, any_error};
use oplex::plan::Loaded;
use oplex::release::{Document, compile};
use oplex_io::store::{Release, Store, StoreError};

use super::changes::Changes;
use super::shown;
use crate::args::{Format, Publish};
use crate::exit::{DONE, Outcome, because};
use crate::forms::{self, ChangedForm, CheckForm, PublishForm};
use crate::render::style::{BAD, GOOD, STRONG, in_style};
use crate::render::{clean, findings, octets};

pub(super) fn run(args: &Publish, out: &mut dyn Write) -> Outcome {
    let loaded = oplex_io::files::plan(&args.plan, args.trust.reach())?;
    let found = check::plan(&loaded);
    let Some(plan) = loaded.plan.as_ref().filter(|_| !any_error(&found)) else {
        return refuse(args, &loaded, &found, out);
    };
    let store = Store::new(&args.store);
    let previous = match latest(&store) {
        Ok(previous) => previous,
        Err(why) => return because(format!("nothing was published, as the latest release cannot be read: {why}")),
    };
    let after = Compiled::of(plan);
    let before = match previous.as_ref().map(|previous| previous.content.compiled()).transpose() {
        Ok(before) => before,
        Err(why) => return because(format!("nothing was published, as the latest release cannot be read: {why}")),
    };
    let changes = before.as_ref().map(|before| Changes::between(before, &after));
    if let (Some(previous), Some(changes)) = (&previous, &changes)
        && changes.is_empty()
    {
        return unchanged(args, previous, &store, out);
    }
    crate::exit::leave_nothing_half_written();
    let after_number = previous.as_ref().map_or(0, |previous| previous.release);
    let release = match store.publish(compile(plan, &loaded.sources), after_number) {
        Ok(release) => release,
        Err(error) => return because(format!("nothing was published: {error}")),
    };
    match args.format.format {
        Format::Json => form(&release, true, changes.iter().flat_map(Changes::form).collect(), &store, out)?,
        Format::Text => {
            report(out, &release, &store)?;
            if let (Some(previous), Some(changes)) = (&previous, &changes) {
                let verdict = changes.verdict().unwrap_or_default();
                let since = in_style(STRONG, format!("Since release {}: {verdict}", previous.release));
                writeln!(out, "\n{since}")?;
                changes.draw(out)?;
            }
        }
    }
    Ok(DONE)
}

fn latest(store: &Store) -> Result<Option<Release>, StoreError> {
    store.numbers()?.last().map(|last| store.load(*last)).transpose()
}

/// Says that there is nothing to publish.
fn unchanged(args: &Publish, previous: &Release, store: &Store, out: &mut dyn Write) -> Outcome {
    match args.format.format {
        Format::Json => form(previous, false, Vec::new(), store, out)?,
        Format::Text => {
            let number = previous.release;
            let same = in_style(GOOD, format!("Unchanged since release {number}"));
            writeln!(out, "{same}: {} sends the same octets to every client.", shown(&args.plan))?;
            writeln!(out, "Nothing was published.")?;
        }
    }
    Ok(DONE)
}

fn form(
    release: &Release,
    published: bool,
    changed: Vec<ChangedForm>,
    store: &Store,
    out: &mut dyn Write,
) -> std::io::Result<()> {
    let file = store.path(release.release).display().to_string();
    let form = PublishForm { release: release.release, published, seal: &release.seal, file, changed };
    forms::document(out, "oplex-publish/1", &form)
}

fn refuse(args: &Publish, loaded: &Loaded, found: &[Finding], out: &mut dyn Write) -> Outcome {
    match args.format.format {
        Format::Json => {
            let form = CheckForm::new(args.plan.display().to_string(), found, &loaded.sources, None);
            forms::document(out, "oplex-check/1", &form)?;
        }
        Format::Text => {
            let refused = in_style(BAD, "Nothing was published");
            writeln!(out, "{refused}: {} has {}.", shown(&args.plan), findings::tally(found))?;
            findings::draw_all(out, found, &loaded.sources)?;
        }
    }
    Ok(super::check::code(loaded, found))
}

fn report(out: &mut dyn Write, release: &Release, store: &Store) -> std::io::Result<()> {
    let title = release.content.title.as_deref().unwrap_or(&release.content.plan);
    writeln!(out, "{} of {}", in_style(GOOD, format!("Release {}", release.release)), clean::line(title))?;
    let facts = [
        ("file", store.path(release.release).display().to_string()),
        ("seal", release.seal.clone()),
        ("holds", extent(&release.content)),
    ];
    octets::facts(out, &facts)
}

fn extent(content: &Document) -> String {
    let networks = content.networks.iter().map(|network| &network.says);
    let fleets =
        content.fleets.iter().flat_map(|fleet| std::iter::once(&fleet.says).chain(fleet.on.iter().map(|on| &on.says)));
    let reservations = content.reservations.iter().filter_map(|row| row.says.as_ref());
    let layers = std::iter::once(&content.everyone).chain(networks).chain(fleets).chain(reservations);
    let options: usize = layers.flat_map(|layer| layer.options.iter()).map(Vec::len).sum();
    let counts = [
        ("network", content.networks.len()),
        ("fleet", content.fleets.len()),
        ("reservation", content.reservations.len()),
        ("option", options),
    ];
    let counted = counts.iter().filter(|(_, count)| *count > 0);
    counted
        .map(|(what, count)| format!("{count} {what}{}", if *count == 1 { "" } else { "s" }))
        .collect::<Vec<_>>()
        .join(", ")
}
