//! Proving a whole store: every manifest, every part, and what does not belong.

use std::collections::{HashMap, HashSet};
use std::path::PathBuf;
use std::time::{Duration, SystemTime};

use super::manifest;
use super::place::Listed;
use super::prepared::Root;
use super::releases::{self, RELEASES};
use super::sources::Files;
use super::tree::{self, Node, StorePart};
use super::{Release, Store, StoreError, TrustedKey, is_digest};

/// What is wrong in a store.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Flaw {
    /// The document.
    pub path: PathBuf,
    /// What is wrong with it.
    pub why: String,
    /// The first release that needs it, if one does.
    pub release: Option<u32>,
}

/// A part that no release names: of a publisher that was stopped, or of one that is about to name it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Orphan {
    /// Its document.
    pub path: PathBuf,
    /// How many octets it has.
    pub octets: u64,
    /// When it was written.
    pub modified: Option<SystemTime>,
    name: String,
}

/// What a store was found to be.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct VerifyReport {
    /// How many releases it has.
    pub releases: usize,
    /// The number of the latest.
    pub latest: Option<u32>,
    /// How many parts they have together.
    pub parts: usize,
    /// How many octets these have, with the manifests.
    pub octets: u64,
    /// What is wrong.
    pub flaws: Vec<Flaw>,
    /// Parts that no release names.
    pub orphans: Vec<Orphan>,
}

impl Store {
    /// Reads everything, and names what was changed, is missing or does not belong. Where keys are trusted, each release must be
    /// signed with one of them.
    ///
    /// # Errors
    /// A directory that cannot be read.
    pub fn verify(&self, trusted: &[TrustedKey]) -> Result<VerifyReport, StoreError> {
        self.verify_with_progress(trusted, &|_, _| {})
    }

    /// The same with progress: `progress` is called with how many parts were read, and how many lie in the store.
    ///
    /// # Errors
    /// As [`Store::verify`].
    pub fn verify_with_progress(
        &self,
        trusted: &[TrustedKey],
        progress: &dyn Fn(usize, usize),
    ) -> Result<VerifyReport, StoreError> {
        let present: HashMap<String, Listed> =
            self.directory.list("parts")?.into_iter().map(|listed| (listed.name.clone(), listed)).collect();
        let progress = &|done| progress(done, present.len());
        let mut check = Check { store: self, trusted, report: VerifyReport::default(), seen: HashMap::new(), progress };
        check.releases()?;
        check.strangers()?;
        let Check { mut report, seen, .. } = check;
        let mut loose: Vec<_> = present.into_values().filter(|listed| !seen.contains_key(&listed.name)).collect();
        loose.sort_by(|one, other| one.name.cmp(&other.name));
        for listed in loose {
            let (name, path) = (tree::name(&listed.name), self.directory.path(&tree::name(&listed.name)));
            if is_digest(&listed.name) || listed.name.starts_with(crate::staged::PREFIX) {
                report.orphans.push(Orphan { path, octets: listed.octets, modified: listed.modified, name });
            } else {
                report.flaws.push(Flaw { path, why: "it does not belong into a store".to_owned(), release: None });
            }
        }
        report.flaws.sort_by(|one, other| (one.release, &one.path).cmp(&(other.release, &other.path)));
        Ok(report)
    }

    /// Removes the parts of a report that no release names and that are older than this. Younger ones may be about to be named.
    ///
    /// # Errors
    /// One that cannot be removed.
    pub fn prune(&self, report: &VerifyReport, older_than: Duration) -> Result<usize, StoreError> {
        let now = SystemTime::now();
        let old = |orphan: &&Orphan| {
            orphan.modified.and_then(|at| now.duration_since(at).ok()).is_some_and(|age| age >= older_than)
        };
        let mut removed = 0;
        for orphan in report.orphans.iter().filter(old) {
            self.directory.remove(&orphan.name)?;
            removed += 1;
        }
        Ok(removed)
    }
}

struct Check<'s> {
    store: &'s Store,
    trusted: &'s [TrustedKey],
    report: VerifyReport,
    /// The parts that were read, and whether they are sound.
    seen: HashMap<String, bool>,
    progress: &'s dyn Fn(usize),
}

impl Check<'_> {
    fn flaw(&mut self, error: StoreError, release: Option<u32>) {
        self.report.flaws.push(Flaw { path: error.path, why: error.why, release });
    }

    fn releases(&mut self) -> Result<(), StoreError> {
        let mut before: Option<(u32, String)> = None;
        for number in self.store.numbers()? {
            self.report.releases += 1;
            self.report.latest = Some(number);
            let path = self.store.path(number);
            let expected = before.as_ref().map_or(1, |(before, _)| before + 1);
            for missing in expected..number {
                let path = self.store.path(missing);
                self.flaw(StoreError { path, why: "this release is missing".to_owned() }, Some(missing));
            }
            let octets = self.store.directory.get(&releases::name(number))?.unwrap_or_default();
            self.report.octets += octets.len() as u64;
            before = Some(match manifest::read(&octets) {
                Ok(release) => {
                    self.one(&release, number, before.as_ref());
                    (number, release.digest)
                }
                Err(why) => {
                    self.flaw(StoreError { path, why }, Some(number));
                    (number, String::new())
                }
            });
        }
        Ok(())
    }

    fn one(&mut self, release: &Release, number: u32, before: Option<&(u32, String)>) {
        let path = self.store.path(number);
        let mut wrong = |why: String| self.report.flaws.push(Flaw { path: path.clone(), why, release: Some(number) });
        if release.number() != number {
            wrong(format!("this is the manifest of release {}", release.number()));
        }
        match (before, &release.manifest.previous) {
            (Some((last, digest)), Some(previous))
                if last + 1 == number && !digest.is_empty() && digest != previous =>
            {
                wrong(format!(
                    "it follows another release {last} than the one in this store: one of the two was changed"
                ));
            }
            (Some((last, _)), None) => wrong(format!("it does not say which release {last} it follows")),
            _ => {}
        }
        match &release.signature {
            _ if self.trusted.is_empty() => {}
            None => wrong("it is not signed".to_owned()),
            Some(signature) if self.trusted.iter().any(|trusted| trusted.key == signature.key) => {}
            Some(signature) => wrong(format!("it is signed with another key than those trusted: {}", signature.key)),
        }
        self.content(&release.manifest.content, number);
        self.sources(&release.manifest.sources, number);
    }

    /// The octets of a part that was not seen before, if it is sound.
    fn part(&mut self, part: &str, release: u32) -> Option<Vec<u8>> {
        if self.seen.contains_key(part) {
            return None;
        }
        let read = self.store.reader().octets(part);
        self.seen.insert(part.to_owned(), read.is_ok());
        (self.progress)(self.seen.len());
        match read {
            Ok(octets) => {
                self.report.parts += 1;
                self.report.octets += octets.len() as u64;
                Some(octets)
            }
            Err(error) => {
                self.flaw(error, Some(release));
                None
            }
        }
    }

    fn read<'o, T: serde::Deserialize<'o>>(&mut self, part: &str, octets: &'o [u8], release: u32) -> Option<T> {
        match serde_json::from_slice(octets) {
            Ok(read) => Some(read),
            Err(error) => {
                let path = self.store.directory.path(&tree::name(part));
                let why = format!("not a part of a release: {error}");
                self.flaw(StoreError { path, why }, Some(release));
                None
            }
        }
    }

    fn content(&mut self, part: &str, release: u32) {
        let Some(octets) = self.part(part, release) else { return };
        let Some(root) = self.read::<Root>(part, &octets, release) else { return };
        for sequence in [&root.networks, &root.fleets, &root.reservations] {
            self.sequence((sequence, 0), release, false);
        }
    }

    fn sources(&mut self, part: &str, release: u32) {
        let Some(octets) = self.part(part, release) else { return };
        let Some(files) = self.read::<Files>(part, &octets, release) else { return };
        for file in &files.files {
            self.sequence((&file.text, 0), release, true);
        }
    }

    /// A sequence, whose entries name further parts if they are `pieces` of a text.
    fn sequence(&mut self, (root, depth): (&StorePart, usize), release: u32, pieces: bool) {
        if let Err(error) = self.store.reader().not_too_deep(root, depth) {
            return self.flaw(error, Some(release));
        }
        let Some(octets) = self.part(&root.part, release) else { return };
        let Some(node) = self.read::<Node<'_>>(&root.part, &octets, release) else { return };
        for entry in node.entries.iter().filter(|_| pieces) {
            if let Some(piece) = self.read::<String>(&root.part, entry.get().as_bytes(), release) {
                self.part(&piece, release);
            }
        }
        for part in &node.below {
            self.sequence((part, depth + 1), release, pieces);
        }
    }

    /// What lies beside manifests and is none.
    fn strangers(&mut self) -> Result<(), StoreError> {
        let known: HashSet<&str> = [RELEASES, "parts"].into();
        let mut strange = Vec::new();
        for listed in self.store.directory.list("")? {
            if !known.contains(listed.name.as_str()) {
                strange.push(listed.name);
            }
        }
        for listed in self.store.directory.list(RELEASES)? {
            let folder = format!("{RELEASES}/{}", listed.name);
            if releases::folder_number(&listed.name).is_none() {
                strange.push(folder);
                continue;
            }
            for listed in self.store.directory.list(&folder)? {
                let name = format!("{folder}/{}", listed.name);
                match releases::number(&listed.name) {
                    Some(number) if releases::name(number) == name => {}
                    None if listed.name.starts_with(crate::staged::PREFIX) => {
                        let path = self.store.directory.path(&name);
                        let Listed { octets, modified, .. } = listed;
                        self.report.orphans.push(Orphan { path, octets, modified, name });
                    }
                    _ => strange.push(name),
                }
            }
        }
        for name in strange {
            let path = self.store.directory.path(&name);
            self.flaw(StoreError { path, why: "it does not belong into a store".to_owned() }, None);
        }
        Ok(())
    }
}
