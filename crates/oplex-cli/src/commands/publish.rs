//! `oplex publish`: a plan that has no errors becomes the next release.

use std::io::Write;

use crate::forms::{self, CheckForm, PublishForm};
use oplex::finding::any_error;
use oplex::release::{Document, compile};
use oplex::{check, plan::Loaded};
use oplex_io::store::{Release, Store};

use super::shown;
use crate::args::{Format, Publish};
use crate::exit::{DONE, Outcome, because};

use crate::render::style::{BAD, GOOD, in_style};
use crate::render::{clean, findings, octets};

pub(super) fn run(args: &Publish, out: &mut dyn Write) -> Outcome {
    let loaded = oplex_io::files::plan(&args.plan, args.trust.reach())?;
    let found = check::plan(&loaded);
    let Some(plan) = loaded.plan.as_ref().filter(|_| !any_error(&found)) else {
        return refuse(args, &loaded, &found, out);
    };
    let store = Store::new(&args.store);
    let previous = match store.numbers() {
        Ok(numbers) => numbers.last().and_then(|last| store.load(*last).ok()),
        Err(error) => return because(error),
    };
    crate::exit::leave_nothing_half_written();
    let release = match store.publish(compile(plan, &loaded.sources)) {
        Ok(release) => release,
        Err(error) => return because(format!("nothing was published: {error}")),
    };
    match args.format.format {
        Format::Json => forms::document(
            out,
            "oplex-publish/1",
            &PublishForm {
                release: release.release,
                seal: &release.seal,
                file: store.path(release.release).display().to_string(),
            },
        )?,
        Format::Text => report(out, &release, previous.as_ref(), &store)?,
    }
    Ok(DONE)
}

fn refuse(args: &Publish, loaded: &Loaded, found: &[oplex::finding::Finding], out: &mut dyn Write) -> Outcome {
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

fn report(out: &mut dyn Write, release: &Release, previous: Option<&Release>, store: &Store) -> std::io::Result<()> {
    let title = release.content.title.as_deref().unwrap_or(&release.content.plan);
    writeln!(out, "{} of {}", in_style(GOOD, format!("Release {}", release.release)), clean::line(title))?;
    let mut facts = vec![
        ("file", store.path(release.release).display().to_string()),
        ("seal", release.seal.clone()),
        ("holds", extent(&release.content)),
    ];
    if let Some(previous) = previous.filter(|previous| previous.seal == release.seal) {
        facts.push(("same as", format!("release {}: the plan sends the same octets", previous.release)));
    }
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
