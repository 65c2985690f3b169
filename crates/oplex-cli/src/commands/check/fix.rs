//! Replacements that leave no doubt, written into the files or shown as a difference.

use std::collections::{BTreeMap, BTreeSet};
use std::io::Write;
use std::ops::Range;
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

/// Writes them; says how many that are.
pub(super) fn write(all: &[Checked]) -> Result<usize, Failure> {
    let mended = mended(all)?;
    crate::exit::leave_nothing_half_written();
    for (path, one) in &mended {
        staged::write(path, true, |file| file.write_all(one.after.as_bytes()))
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
    let mut edits: BTreeMap<PathBuf, BTreeSet<(usize, usize, String)>> = BTreeMap::new();
    for one in all {
        for finding in one.report.findings.iter().filter(|finding| finding.safe) {
            let (Some(spot), Some(text)) = (&finding.spot, &finding.replace) else { continue };
            let own = edits.entry(path_of(&one.loaded, spot.file)).or_default();
            own.insert((spot.span.start, spot.span.end, text.clone()));
        }
    }
    let mut mended = BTreeMap::new();
    for (path, edits) in edits {
        let before = files::text(&path)?;
        let edits = edits.into_iter().map(|(start, end, text)| (start..end, text)).collect();
        let (after, count) = mend(&before, edits);
        if count > 0 {
            mended.insert(path, Mended { before, after, count });
        }
    }
    Ok(mended)
}

/// As many replacements are tried one by one where they cannot all be made.
const TRIED: usize = 200;

/// The text with all replacements that leave it TOML, and how many these are: a key, say, cannot stand twice in a table.
fn mend(before: &str, edits: Vec<(Range<usize>, String)>) -> (String, usize) {
    if let Some(all) = applied(before, edits.clone()) {
        return all;
    }
    let (mut after, mut count) = (before.to_owned(), 0);
    // From the end, so that the places before stay as they are.
    for edit in edits.into_iter().rev().take(TRIED) {
        if let Some((mended, 1)) = applied(&after, vec![edit]) {
            (after, count) = (mended, count + 1);
        }
    }
    (after, count)
}

/// A text with replacements, which stand in their order, and how many these are: of two that meet the first. `None` where the
/// text is no longer that which was checked.
fn applied(text: &str, edits: Vec<(Range<usize>, String)>) -> Option<(String, usize)> {
    let (mut after, mut done, mut count) = (String::with_capacity(text.len()), 0, 0);
    for (span, new) in edits.into_iter().filter(|(span, _)| span.start < span.end) {
        if span.start < done {
            continue;
        }
        after.push_str(text.get(done..span.start)?);
        after.push_str(&new);
        (done, count) = (span.end, count + 1);
    }
    after.push_str(text.get(done..)?);
    // Nothing is written that is no TOML, whatever was thought to be exact.
    (count > 0 && toml_edit::Document::parse(after.as_str()).is_ok()).then_some((after, count))
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
