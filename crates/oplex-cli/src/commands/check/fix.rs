//! Replacements that leave no doubt, written into the files or shown as a difference.

use std::collections::{BTreeMap, BTreeSet};
use std::io::Write;
use std::path::PathBuf;

use oplex::finding::FileId;
use oplex::plan::Loaded;
use oplex_io::{files, staged};
use similar::TextDiff;

use super::Checked;
use crate::commands::shown;
use crate::exit::{Failure, because};

/// A file as it is and as it is to be.
struct Mended {
    before: String,
    after: String,
    count: usize,
}

/// What is written in place of some characters.
#[derive(Clone, PartialEq, Eq, PartialOrd, Ord)]
struct Edit {
    start: usize,
    /// What stood there when the file was checked.
    old: String,
    new: String,
}

/// The replacements of a file, in their order.
#[derive(Default)]
struct Edits {
    all: BTreeSet<Edit>,
    /// Whether it is a table of reservations, and no TOML.
    is_table: bool,
}

/// Writes them; says how many that are.
pub(super) fn write(all: &[Checked]) -> Result<usize, Failure> {
    let mended = mended(all)?;
    crate::exit::leave_nothing_half_written();
    for (path, one) in &mended {
        staged::rewrite(path, |file| file.write_all(one.after.as_bytes()))
            .or_else(|error| because(format!("{}: {}", shown(path), files::reason(&error))))?;
    }
    Ok(mended.values().map(|one| one.count).sum())
}

/// Shows them, and writes nothing.
pub(super) fn show(all: &[Checked], out: &mut dyn Write) -> Result<(), Failure> {
    for (path, one) in &mended(all)? {
        let name = shown(path);
        let diff = TextDiff::from_lines(&one.before, &one.after);
        write!(out, "{}", diff.unified_diff().header(&name, &name))?;
    }
    Ok(())
}

/// The files that have something to mend.
fn mended(all: &[Checked]) -> Result<BTreeMap<PathBuf, Mended>, Failure> {
    // The same codebook may be named by several plans: what is found in it is mended once.
    let mut edits: BTreeMap<PathBuf, Edits> = BTreeMap::new();
    for one in all {
        for finding in one.report.findings.iter().filter(|finding| finding.safe) {
            let (Some(spot), Some(new)) = (&finding.spot, &finding.replace) else { continue };
            let Some(old) = one.loaded.sources.get(spot.file).text.get(spot.span.clone()) else { continue };
            let own = edits.entry(path_of(&one.loaded, spot.file)).or_default();
            own.is_table = is_table(&one.loaded, spot.file);
            own.all.insert(Edit { start: spot.span.start, old: old.to_owned(), new: new.clone() });
        }
    }
    let mut mended = BTreeMap::new();
    for (path, edits) in edits {
        let before = files::text(&path)?;
        let (after, count) = mend(&before, &edits);
        if count > 0 {
            mended.insert(path, Mended { before, after, count });
        }
    }
    Ok(mended)
}

/// Whether a file that a plan names is neither the plan nor one of its codebooks.
fn is_table(loaded: &Loaded, file: FileId) -> bool {
    loaded.plan.as_ref().is_some_and(|plan| file != plan.file && !plan.books.contains(&file))
}

/// As many replacements are tried one by one where they cannot all be made.
const TRIED: usize = 200;

/// The text with all replacements that leave it TOML, and how many these are: a key, say, cannot stand twice in a table.
fn mend(before: &str, edits: &Edits) -> (String, usize) {
    // Nothing is written that is no TOML, whatever was thought to be exact.
    let stands = |(text, count): &(String, usize)| {
        *count > 0 && (edits.is_table || toml_edit::Document::parse(text.as_str()).is_ok())
    };
    let whole = applied(before, edits.all.iter());
    if stands(&whole) {
        return whole;
    }
    let (mut after, mut count) = (before.to_owned(), 0);
    // From the end, so that the places before stay as they are.
    for edit in edits.all.iter().rev().take(TRIED) {
        let one = applied(&after, std::iter::once(edit));
        if stands(&one) {
            (after, count) = (one.0, count + 1);
        }
    }
    (after, count)
}

/// A text with replacements, which are in their order, and how many these are: of two that meet the first, and none where
/// something else stands than what was checked, as it was edited meanwhile.
fn applied<'e>(text: &str, edits: impl Iterator<Item = &'e Edit>) -> (String, usize) {
    let (mut after, mut done, mut count) = (String::with_capacity(text.len()), 0, 0);
    for Edit { start, old, new } in edits {
        let still = text.get(*start..).is_some_and(|rest| rest.starts_with(old.as_str()));
        if *start < done || old.is_empty() || !still {
            continue;
        }
        after.push_str(&text[done..*start]);
        after.push_str(new);
        (done, count) = (start + old.len(), count + 1);
    }
    after.push_str(&text[done..]);
    (after, count)
}

/// Where a file is that a plan names, or the plan itself.
pub(crate) fn path_of(loaded: &Loaded, file: FileId) -> PathBuf {
    let name = PathBuf::from(&loaded.sources.get(file).name);
    let plan = loaded.sources.all().next().map(|plan| PathBuf::from(&plan.name)).unwrap_or_default();
    match plan.parent().filter(|_| name != plan) {
        Some(folder) => folder.join(name),
        None => name,
    }
}
