//! The files that are open in the editor: their texts, what was found in them, and where.

use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};
use std::str::FromStr as _;

use lsp_types::{
    Diagnostic, DiagnosticRelatedInformation, DiagnosticSeverity, Location, NumberOrString,
    TextDocumentContentChangeEvent, Uri,
};
use oplex::check;
use oplex::finding::{FileId, Finding, Severity, Spot};
use oplex::plan::Loaded;
use oplex_io::files::{self, Reach};

use super::lines::Lines;
use super::outline::Outline;
use crate::commands::{is_ours, path_of};
use crate::render::clean;

/// A file that is open.
pub(super) struct Document {
    pub(super) path: PathBuf,
    pub(super) text: String,
    pub(super) lines: Lines,
    pub(super) outline: Outline,
    /// What was read of it last, which may be of an earlier text.
    pub(super) checked: Option<Checked>,
    /// The last plan that could be read, where the text is no TOML just now.
    known: Option<Loaded>,
}

/// What was read of a file, and found in it.
pub(super) struct Checked {
    pub(super) loaded: Loaded,
    pub(super) found: Vec<Finding>,
    /// Whether the text is still the one that was read.
    pub(super) is_current: bool,
}

impl Document {
    fn new(path: PathBuf, text: String) -> Self {
        let (lines, outline) = (Lines::of(&text), Outline::of(&text));
        Self { path, text, lines, outline, checked: None, known: None }
    }

    fn change(&mut self, changes: Vec<TextDocumentContentChangeEvent>) {
        for change in changes {
            match change.range {
                None => self.text = change.text,
                Some(range) => {
                    let octet = |position| self.lines.octet(&self.text, position);
                    let (start, end) = (octet(range.start), octet(range.end));
                    self.text.replace_range(start..end.max(start), &change.text);
                }
            }
            self.lines = Lines::of(&self.text);
        }
        self.outline = Outline::of(&self.text);
        if let Some(checked) = &mut self.checked {
            checked.is_current = false;
        }
    }

    /// The plan as it is, or as it was when it could be read last.
    pub(super) fn loaded(&self) -> Option<&Loaded> {
        self.known.as_ref().or_else(|| self.checked.as_ref().map(|checked| &checked.loaded))
    }

    fn read(&mut self, checked: Checked) {
        let before = self.checked.replace(checked).map(|before| before.loaded).filter(|before| before.plan.is_some());
        let is_read = self.checked.as_ref().is_some_and(|checked| checked.loaded.plan.is_some());
        self.known = if is_read { None } else { before.or_else(|| self.known.take()) };
    }

    /// Whether a spot is in this file itself, and not in one that it names.
    pub(super) fn owns(&self, loaded: &Loaded, spot: &Spot) -> bool {
        path_of(loaded, spot.file) == self.path
    }
}

/// All of them.
pub(super) struct Documents {
    reach: Reach,
    pub(super) open: BTreeMap<PathBuf, Document>,
    /// Those whose text, or that of a file that they name, was changed since they were read.
    dirty: BTreeSet<PathBuf>,
    /// For each that is open the files in which something was found.
    shown: BTreeMap<PathBuf, BTreeMap<PathBuf, Vec<Diagnostic>>>,
}

impl Documents {
    pub(super) fn new(reach: Reach) -> Self {
        Self { reach, open: BTreeMap::new(), dirty: BTreeSet::new(), shown: BTreeMap::new() }
    }

    pub(super) fn get(&self, uri: &Uri) -> Option<&Document> {
        self.open.get(&path(uri)?)
    }

    pub(super) fn opened(&mut self, uri: &Uri, text: String) {
        let Some(path) = path(uri) else { return };
        self.open.insert(path.clone(), Document::new(path.clone(), text));
        self.touched(&path);
    }

    pub(super) fn changed(&mut self, uri: &Uri, changes: Vec<TextDocumentContentChangeEvent>) {
        let Some(path) = path(uri) else { return };
        if let Some(document) = self.open.get_mut(&path) {
            document.change(changes);
            self.touched(&path);
        }
    }

    pub(super) fn closed(&mut self, uri: &Uri) {
        let Some(path) = path(uri) else { return };
        self.open.remove(&path);
        self.dirty.remove(&path);
        // What names it is read from the disk again.
        self.touched(&path);
        self.dirty.remove(&path);
    }

    /// A file was changed: it is read anew, and so are those that name it.
    pub(super) fn touched(&mut self, path: &Path) {
        self.dirty.insert(path.to_owned());
        for (own, document) in &self.open {
            let Some(checked) = &document.checked else { continue };
            let files = checked.loaded.sources.all().map(|source| &source.name);
            let folder = own.parent().unwrap_or(Path::new("."));
            if files.into_iter().any(|name| folder.join(name) == *path) {
                self.dirty.insert(own.clone());
            }
        }
    }

    pub(super) fn is_dirty(&self) -> bool {
        !self.dirty.is_empty()
    }

    /// Reads and checks one that was changed; gives the files whose findings are to be shown anew.
    pub(super) fn check_one(&mut self) -> Vec<(Uri, Vec<Diagnostic>)> {
        let Some(own) = self.dirty.pop_first() else { return Vec::new() };
        let before: BTreeSet<PathBuf> = self.shown.remove(&own).into_iter().flat_map(BTreeMap::into_keys).collect();
        let mut found = BTreeMap::new();
        if let Some(text) = self.open.get(&own).map(|document| document.text.clone()) {
            // Other TOML files are nobody's business here.
            if is_ours(&text) {
                let edited = |path: &Path| self.open.get(path).map(|document| document.text.clone());
                let loaded = files::edited(&own, &text, self.reach, &edited);
                let report = check::report(&loaded, &|_, _| {});
                found = diagnostics(&loaded, &report.findings);
                let checked = Checked { loaded, found: report.findings, is_current: true };
                if let Some(document) = self.open.get_mut(&own) {
                    document.read(checked);
                }
            }
        }
        let after: BTreeSet<PathBuf> = found.keys().cloned().collect();
        if self.open.contains_key(&own) {
            self.shown.insert(own, found);
        }
        before.union(&after).filter_map(|path| Some((uri(path)?, self.said_of(path)))).collect()
    }

    /// What is found in a file, by whichever of the open ones names it.
    fn said_of(&self, path: &Path) -> Vec<Diagnostic> {
        let mut all: Vec<Diagnostic> = Vec::new();
        for one in self.shown.values().filter_map(|files| files.get(path)).flatten() {
            if !all.contains(one) {
                all.push(one.clone());
            }
        }
        all
    }
}

/// No more findings are shown of one file.
const MOST: usize = 1000;

/// Findings as editors show them, by file; a file without any is in it, so that what was shown goes away.
fn diagnostics(loaded: &Loaded, found: &[Finding]) -> BTreeMap<PathBuf, Vec<Diagnostic>> {
    let places = Places::of(loaded);
    let mut all: BTreeMap<PathBuf, Vec<Diagnostic>> =
        places.files.iter().map(|(path, _)| (path.clone(), Vec::new())).collect();
    for finding in found {
        let Some(spot) = &finding.spot else { continue };
        let Some((path, between)) = places.between(loaded, spot) else { continue };
        let own = all.entry(path).or_default();
        if own.len() < MOST {
            own.push(diagnostic(loaded, finding, between, &places));
        }
    }
    all
}

/// The files of a plan, with where their lines begin.
struct Places {
    files: Vec<(PathBuf, Lines)>,
}

impl Places {
    fn of(loaded: &Loaded) -> Self {
        let plan = loaded.sources.all().next().map(|plan| PathBuf::from(&plan.name)).unwrap_or_default();
        let folder = plan.parent().unwrap_or(Path::new(".")).to_owned();
        // The name of the plan itself is its whole path, which stands for itself.
        let files = loaded.sources.all().map(|source| (folder.join(&source.name), Lines::of(&source.text)));
        Self { files: files.collect() }
    }

    fn between(&self, loaded: &Loaded, spot: &Spot) -> Option<(PathBuf, lsp_types::Range)> {
        let path = path_of(loaded, spot.file);
        let (path, lines) = self.files.iter().find(|(known, _)| *known == path)?;
        Some((path.clone(), lines.between(&loaded.sources.get(spot.file).text, &spot.span)))
    }
}

fn diagnostic(loaded: &Loaded, finding: &Finding, range: lsp_types::Range, places: &Places) -> Diagnostic {
    let mut message = finding.message.clone();
    for (label, what) in [("try", finding.remedy()), ("see", Some(&*finding.rfc))] {
        if let Some(what) = what.filter(|what| !what.is_empty()) {
            message.push_str(&format!("\n{label} {what}"));
        }
    }
    if finding.more > 0 {
        message.push_str(&format!("\nand {} more like it", finding.more));
    }
    let related = finding.related.iter().filter_map(|(spot, what)| {
        let (path, range) = places.between(loaded, spot)?;
        Some(DiagnosticRelatedInformation {
            location: Location::new(uri(&path)?, range),
            message: clean::lines(what).into_owned(),
        })
    });
    let related: Vec<_> = related.collect();
    Diagnostic {
        range,
        severity: Some(match finding.severity {
            Severity::Error => DiagnosticSeverity::ERROR,
            Severity::Warning => DiagnosticSeverity::WARNING,
            Severity::Note => DiagnosticSeverity::INFORMATION,
        }),
        code: Some(NumberOrString::String(finding.rule.name.to_owned())),
        source: Some("oplex".to_owned()),
        // An editor may be in a terminal.
        message: clean::lines(&message).into_owned(),
        related_information: (!related.is_empty()).then_some(related),
        ..Diagnostic::default()
    }
}

/// The file that a plan names by this number.
pub(super) fn file_of(loaded: &Loaded, name: &str) -> Option<FileId> {
    loaded.plan.as_ref()?.books.iter().copied().find(|file| loaded.sources.get(*file).name == name)
}

/// The path of a file on this machine.
pub(super) fn path(uri: &Uri) -> Option<PathBuf> {
    if !uri.scheme()?.as_str().eq_ignore_ascii_case("file") {
        return None;
    }
    let mut octets = Vec::new();
    let mut rest = uri.path().as_str().bytes();
    while let Some(octet) = rest.next() {
        match octet {
            b'%' => {
                let digits = [rest.next()?, rest.next()?];
                octets.push(u8::from_str_radix(str::from_utf8(&digits).ok()?, 16).ok()?);
            }
            octet => octets.push(octet),
        }
    }
    Some(PathBuf::from(String::from_utf8(octets).ok()?))
}

/// The reference to a file.
pub(super) fn uri(path: &Path) -> Option<Uri> {
    Uri::from_str(&crate::render::sarif::reference(&std::path::absolute(path).ok()?)).ok()
}
