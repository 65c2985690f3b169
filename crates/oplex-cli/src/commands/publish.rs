//! `oplex publish`: a plan that has no errors becomes the next release.

use std::io::Write;

use oplex::finding::{Finding, Severity};
use oplex::plan::Loaded;
use oplex::release::{Document, compile};
use oplex_io::store::{Entry, Noted, Prepared, Release, Store};

use super::changes::Changes;
use super::{releases, shown};
use crate::args::{Format, Publish};
use crate::exit::{DONE, ERRORS, Failure, Outcome, because};
use crate::forms::{self, ChangedForm, CheckForm, PublishForm};
use crate::render::progress::while_watched;
use crate::render::style::{BAD, GOOD, STRONG, in_style};
use crate::render::{clean, findings, octets};

pub(super) fn run(args: &Publish, out: &mut dyn Write) -> Outcome {
    let said = releases::entry(&args.said)?;
    let loaded = releases::of_file(&args.plan, args.trust)?;
    let found = releases::findings(&loaded);
    let least = if args.strict { Severity::Warning } else { Severity::Error };
    let passes = found.iter().all(|finding| finding.severity < least);
    let Some(plan) = loaded.plan.as_ref().filter(|_| passes) else {
        return refuse(args, &loaded, &found, out);
    };
    let document = while_watched(|watch| {
        watch.now("putting together what is sent".to_owned());
        compile(plan, &loaded.sources).or_else(|why| nothing(&why))
    })?;
    let store = Store::open(&args.store.path)?;
    let previous = store.latest().or_else(|why| nothing(&format!("the latest release cannot be read: {why}")))?;
    belongs(args, previous.as_ref(), &document)?;
    was_seen(args, previous.as_ref())?;
    let prepared = while_watched(|watch| {
        let progress = |done, of| watch.count("putting the release into parts", done, of);
        Prepared::with_progress(&document, &loaded.sources, &progress).or_else(|why| nothing(&why))
    })?;
    let publication = Publication {
        args,
        store: &store,
        prepared: &prepared,
        loaded: &loaded,
        found: &found,
        document: &document,
        said: &said,
    };
    let Some(previous) = previous else { return publish(&publication, None, out) };
    if previous.manifest.content == prepared.content() {
        return unchanged(args, &previous, &store, out);
    }
    let (was, is) = while_watched(|watch| {
        let progress = |done, of| watch.count("reading the latest release", done, of);
        store.differing_with_progress(&previous, &document, &prepared, &progress)
    })
    .or_else(|why| nothing(&format!("the latest release cannot be read: {why}")))?;
    let unread = |why| nothing(&format!("the latest release cannot be read: {why}"));
    let (before, after) = (was.compiled().or_else(unread)?, is.compiled().or_else(unread)?);
    let changes = Changes::between(&before, &after);
    publish(&publication, Some((&previous, &changes)), out)
}

/// Fails, and says that nothing was published.
fn nothing<T>(why: &dyn std::fmt::Display) -> Result<T, Failure> {
    because(format!("nothing was published: {why}"))
}

/// A store is that of one plan: another one published into it by mistake would reach all devices of the first.
fn belongs(args: &Publish, previous: Option<&Release>, document: &Document) -> Result<(), Failure> {
    let Some(previous) = previous.filter(|previous| !args.adopt && previous.manifest.title != document.title) else {
        return Ok(());
    };
    let named = |title: &Option<String>| match title {
        Some(title) => format!("“{}”", clean::line(title)),
        None => "a plan without a title".to_owned(),
    };
    let (theirs, ours) = (named(&previous.manifest.title), named(&document.title));
    let store = shown(&args.store.path);
    nothing(&format!("{store} is the store of {theirs}, and this is {ours}; to go on with it all the same: --adopt"))
}

/// Whether the latest release is the one that the publisher says to have seen.
fn was_seen(args: &Publish, previous: Option<&Release>) -> Result<(), Failure> {
    let Some(after) = &args.after else { return Ok(()) };
    let Some(seen) = releases::number(after) else {
        return because(format!("`{after}` is no release; write it like r7, or r0 for none"));
    };
    let latest = previous.map_or(0, Release::number);
    match latest == seen {
        true => Ok(()),
        false if latest == 0 => nothing(&format!("there is no release {seen}, nor any other")),
        false => nothing(&format!(
            "the latest release is r{latest}, and not r{seen}; to see what changed since then: oplex diff r{seen} r{latest} --store {}",
            shown(&args.store.path)
        )),
    }
}

/// What is published.
struct Publication<'p> {
    args: &'p Publish,
    store: &'p Store,
    prepared: &'p Prepared,
    loaded: &'p Loaded,
    found: &'p [Finding],
    document: &'p Document,
    said: &'p Entry,
}

fn publish(it: &Publication<'_>, since: Option<(&Release, &Changes<'_>)>, out: &mut dyn Write) -> Outcome {
    let Publication { args, store, .. } = it;
    let (previous, changes) = (since.map(|(previous, _)| previous), since.map(|(_, changes)| changes));
    let number = previous.map_or(0, Release::number) + 1;
    // Whoever publishes sees what changes for whom, and what was found, before it is done.
    if args.format.format == Format::Text {
        foresee(it, since, out)?;
        out.flush()?;
    }
    if !args.dry_run {
        crate::exit::leave_nothing_half_written();
        let entry = Entry {
            findings: Noted::of(it.found, &it.loaded.sources),
            changes: changes.map_or(0, Changes::count),
            ..it.said.clone()
        };
        while_watched(|watch| {
            let progress = |done, of| watch.count("writing parts", done, of);
            store.publish_with_progress(it.prepared, previous, entry, &progress).or_else(|why| nothing(&why))
        })?;
    }
    match args.format.format {
        Format::Json => {
            let changed = changes.map(Changes::form).unwrap_or_default();
            form(it.prepared.content(), number, !args.dry_run, changed, store, out)?;
        }
        Format::Text => report(it, number, out)?,
    }
    Ok(DONE)
}

/// Shows what changes for whom since the latest release, and what was found in the plan.
fn foresee(it: &Publication<'_>, since: Option<(&Release, &Changes<'_>)>, out: &mut dyn Write) -> std::io::Result<()> {
    if let Some((previous, changes)) = since {
        let verdict = changes.verdict().unwrap_or_else(|| "no client is sent anything else".to_owned());
        writeln!(out, "{}", in_style(STRONG, format!("Since release {}: {verdict}", previous.number())))?;
        changes.draw(out)?;
        writeln!(out)?;
    }
    if !it.found.is_empty() {
        writeln!(out, "{}", in_style(STRONG, findings::tally(it.found)))?;
        findings::draw_all(out, it.found, &it.loaded.sources)?;
        writeln!(out)?;
    }
    Ok(())
}

/// Says that there is nothing to publish.
fn unchanged(args: &Publish, previous: &Release, store: &Store, out: &mut dyn Write) -> Outcome {
    match args.format.format {
        Format::Json => form(&previous.manifest.content, previous.number(), false, Vec::new(), store, out)?,
        Format::Text => {
            let same = in_style(GOOD, format!("Unchanged since release {}", previous.number()));
            writeln!(out, "{same}: {} sends the same octets to every client.", shown(&args.plan))?;
            writeln!(out, "Nothing was published.")?;
        }
    }
    Ok(DONE)
}

fn form(
    content: &str,
    release: u32,
    published: bool,
    changed: Vec<ChangedForm>,
    store: &Store,
    out: &mut dyn Write,
) -> std::io::Result<()> {
    let file = store.path(release).display().to_string();
    forms::document(out, "oplex-publish/2", &PublishForm { release, published, content, file, changed })
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
    match super::check::code(loaded, found) {
        // With --strict warnings are enough.
        DONE => Ok(ERRORS),
        code => Ok(code),
    }
}

fn report(it: &Publication<'_>, number: u32, out: &mut dyn Write) -> std::io::Result<()> {
    let plan = shown(&it.args.plan);
    let title = it.document.title.as_deref().map_or(plan, |title| clean::line(title).into_owned());
    match it.args.dry_run {
        false => writeln!(out, "{} of {title}", in_style(GOOD, format!("Release {number}")))?,
        true => writeln!(
            out,
            "{} of {title}. Nothing was published.",
            in_style(STRONG, format!("This would be release {number}"))
        )?,
    }
    let facts = [
        ("file", it.store.path(number).display().to_string()),
        ("content", it.prepared.content().to_owned()),
        ("holds", extent(it.document)),
    ];
    octets::facts(out, &facts)
}

fn extent(document: &Document) -> String {
    let content = &document.content;
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
