//! Releases: read, and published.

use std::cell::Cell;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use oplex::release::{BookEntry, Content, Document};

use super::Release;
use super::StoreError;
use super::directory::Directory;
use super::manifest::{self, FORMAT, Manifest};
use super::place::Place;
use super::prepared::{Entry, Prepared, Root};
use super::sources::{self, SourceFile, SourceKind};
use super::tree::{self, Reader};

/// A directory of releases.
#[derive(Debug, Clone)]
pub struct Store {
    pub(super) directory: Arc<dyn Place>,
}

/// The folder of manifests.
pub(super) const RELEASES: &str = "releases";

/// As many manifests lie in one folder, so that the latest is found without a look at all.
const TOGETHER: u32 = 100;

/// The name of a manifest's document.
pub(super) fn name(release: u32) -> String {
    format!("{}/{release:06}.json", folder(release / TOGETHER))
}

fn folder(number: u32) -> String {
    format!("{RELEASES}/{number:04}")
}

/// The number of a folder of manifests.
pub(super) fn folder_number(name: &str) -> Option<u32> {
    name.parse().ok().filter(|number| folder(*number).ends_with(&format!("/{name}")))
}

/// The number that a manifest's file name has.
pub(super) fn number(file: &str) -> Option<u32> {
    let digits = file.strip_suffix(".json")?;
    let number = digits.parse().ok().filter(|number| *number > 0)?;
    (format!("{number:06}") == digits).then_some(number)
}

impl Store {
    /// The store in this directory, which is made when the first release is published.
    #[must_use]
    pub fn new(directory: impl Into<PathBuf>) -> Self {
        Self { directory: Arc::new(Directory::new(directory.into())) }
    }

    /// The store of this name: a directory, or a bucket and what its documents' names begin with, `s3://bucket/prefix`, by the
    /// environment's variables `AWS_…` (docs/stores.md).
    ///
    /// # Errors
    /// A bucket, where this was built without the feature `s3`, and one that is named or described wrongly.
    pub fn open(name: impl AsRef<Path>) -> Result<Self, StoreError> {
        Self::open_with(name, std::env::vars().filter(|(key, _)| key.starts_with("AWS_")))
    }

    /// The same, with these in place of the environment's variables.
    ///
    /// # Errors
    /// As [`Store::open`].
    pub fn open_with(
        name: impl AsRef<Path>,
        options: impl IntoIterator<Item = (String, String)>,
    ) -> Result<Self, StoreError> {
        let name = name.as_ref();
        match name.to_str().filter(|text| text.contains("://")) {
            None => Ok(Self::new(name)),
            Some(text) => super::bucket::open(text, options.into_iter().collect()).map(|directory| Self { directory }),
        }
    }

    /// The directory.
    #[must_use]
    pub fn root(&self) -> &Path {
        self.directory.root()
    }

    /// Where the manifest of a release lies or would lie.
    #[must_use]
    pub fn path(&self, release: u32) -> PathBuf {
        self.directory.path(&name(release))
    }

    pub(super) fn reader(&self) -> Reader<'_> {
        Reader { directory: &*self.directory, progress: &|_| {} }
    }

    /// The numbers of the releases, in order.
    ///
    /// # Errors
    /// A directory that cannot be read. One that is not there has no releases.
    pub fn numbers(&self) -> Result<Vec<u32>, StoreError> {
        let mut numbers = Vec::new();
        for folder in self.folders()? {
            numbers.extend(self.numbers_in(folder)?);
        }
        Ok(numbers)
    }

    /// The number of the latest release, if there is one.
    ///
    /// # Errors
    /// As [`Store::numbers`].
    pub fn latest_number(&self) -> Result<Option<u32>, StoreError> {
        for folder in self.folders()?.into_iter().rev() {
            if let Some(last) = self.numbers_in(folder)?.last() {
                return Ok(Some(*last));
            }
        }
        Ok(None)
    }

    /// The numbers of the folders of manifests, in order.
    pub(super) fn folders(&self) -> Result<Vec<u32>, StoreError> {
        let mut folders: Vec<u32> =
            self.directory.names(RELEASES)?.iter().filter_map(|name| folder_number(name)).collect();
        folders.sort_unstable();
        Ok(folders)
    }

    fn numbers_in(&self, number: u32) -> Result<Vec<u32>, StoreError> {
        let names = self.directory.names(&folder(number))?;
        let here = |release: &u32| release / TOGETHER == number;
        let mut numbers: Vec<u32> = names.iter().filter_map(|file| self::number(file)).filter(here).collect();
        numbers.sort_unstable();
        Ok(numbers)
    }

    /// The release of this number.
    ///
    /// # Errors
    /// One that is not there, is no manifest, or is of a later form.
    pub fn release(&self, release: u32) -> Result<Release, StoreError> {
        let path = self.path(release);
        let octets = self.directory.get(&name(release))?;
        let octets = octets.ok_or_else(|| StoreError::new(&path, "there is no such release"))?;
        manifest::read(&octets).map_err(|why| StoreError::new(&path, why)).and_then(|found| {
            if found.number() == release {
                return Ok(found);
            }
            Err(StoreError::new(&path, format!("this is the manifest of release {}", found.number())))
        })
    }

    /// The latest release, if there is one.
    ///
    /// # Errors
    /// As [`Store::numbers`] and [`Store::release`].
    pub fn latest(&self) -> Result<Option<Release>, StoreError> {
        self.latest_number()?.map(|last| self.release(last)).transpose()
    }

    /// What a release holds. Each part is held against its name as it is read.
    ///
    /// # Errors
    /// Parts that are missing, or were changed.
    pub fn document(&self, release: &Release) -> Result<Document, StoreError> {
        self.document_with_progress(release, &|_, _| {})
    }

    /// The same with progress: `progress` is called with how many entries were read, and how many there are.
    ///
    /// # Errors
    /// As [`Store::document`].
    pub fn document_with_progress(
        &self,
        release: &Release,
        progress: &dyn Fn(usize, usize),
    ) -> Result<Document, StoreError> {
        let root: Root = self.reader().document(&release.manifest.content)?;
        let entries = [&root.networks, &root.fleets, &root.reservations].iter().map(|part| part.count).sum::<u64>();
        let done = Cell::new(0);
        let count = |read: usize| {
            done.set(done.get() + read);
            progress(done.get(), usize::try_from(entries).unwrap_or(usize::MAX));
        };
        let reader = Reader { progress: &count, ..self.reader() };
        let content = Content {
            server: root.server,
            composing: root.composing,
            everyone: root.everyone,
            networks: reader.all(&root.networks)?,
            fleets: reader.all(&root.fleets)?,
            reservations: reader.all(&root.reservations)?,
        };
        Ok(Document { title: release.manifest.title.clone(), codebooks: self.codebooks(release)?, content })
    }

    /// The codebooks of a release.
    pub(super) fn codebooks(&self, release: &Release) -> Result<Vec<BookEntry>, StoreError> {
        let books = sources::only(self.reader(), &release.manifest.sources, &|kind| kind == SourceKind::Codebook)?;
        Ok(books.into_iter().map(|book| BookEntry { name: book.name, text: book.text }).collect())
    }

    /// The plan and its files as they were when a release was published, the plan first.
    ///
    /// # Errors
    /// Parts that are missing, or were changed.
    pub fn sources(&self, release: &Release) -> Result<Vec<SourceFile>, StoreError> {
        sources::read(self.reader(), &release.manifest.sources)
    }

    /// Publishes a release as the one after that which the publisher has seen; `None` is before all of them.
    ///
    /// # Errors
    /// A directory that cannot be written to, a part that was changed and would be used again, and a release that another publisher
    /// else published meanwhile: what it changes is to be seen first. What was written then is harmless.
    pub fn publish(&self, prepared: &Prepared, after: Option<&Release>, entry: Entry) -> Result<Release, StoreError> {
        self.publish_with_progress(prepared, after, entry, &|_, _| {})
    }

    /// The same with progress: `progress` is called with how many parts are in the store, and how many the release has.
    ///
    /// # Errors
    /// As [`Store::publish`].
    pub fn publish_with_progress(
        &self,
        prepared: &Prepared,
        after: Option<&Release>,
        entry: Entry,
        progress: &dyn Fn(usize, usize),
    ) -> Result<Release, StoreError> {
        self.directory.sweep();
        let parts = prepared.parts.all.iter().map(|(part, octets)| (tree::name(part), octets.as_slice()));
        let parts: Vec<_> = parts.collect();
        self.directory.keep(&parts, &|done| progress(done, parts.len()))?;
        let like = Like { title: &prepared.title, content: &prepared.content, sources: &prepared.sources };
        self.append(like, after, entry)
    }

    /// Publishes what a release holds once more, after the one that the publisher has seen.
    ///
    /// # Errors
    /// As [`Store::publish`], and parts of the release that are missing or were changed.
    pub fn revert(&self, to: &Release, after: &Release, entry: Entry) -> Result<Release, StoreError> {
        self.revert_with_progress(to, after, entry, &|_, _| {})
    }

    /// The same with progress: `progress` is called with how many entries were read, and how many there are.
    ///
    /// # Errors
    /// As [`Store::revert`].
    pub fn revert_with_progress(
        &self,
        to: &Release,
        after: &Release,
        entry: Entry,
        progress: &dyn Fn(usize, usize),
    ) -> Result<Release, StoreError> {
        self.document_with_progress(to, progress)?;
        self.sources(to)?;
        let Manifest { title, content, sources, .. } = &to.manifest;
        self.append(Like { title, content, sources }, Some(after), entry)
    }

    fn append(&self, like: Like<'_>, after: Option<&Release>, entry: Entry) -> Result<Release, StoreError> {
        if let Some(after) = after {
            self.prove_end(after)?;
        }
        let manifest = Manifest {
            format: FORMAT.to_owned(),
            release: after.map_or(0, Release::number) + 1,
            previous: after.map(|after| after.digest.clone()),
            nonce: nonce(),
            title: like.title.clone(),
            author: entry.author,
            note: entry.note,
            published: now(),
            tool: concat!("oplex ", env!("CARGO_PKG_VERSION")).to_owned(),
            reverts_to: entry.reverts_to,
            changes: entry.changes,
            findings: entry.findings,
            content: like.content.clone(),
            sources: like.sources.clone(),
        };
        let path = self.path(manifest.release);
        let (release, octets) = manifest::write(manifest, entry.sign.as_ref())
            .map_err(|error| StoreError::new(&path, format!("cannot be written as JSON: {error}")))?;
        if self.directory.create(&name(release.number()), &octets)? {
            return Ok(release);
        }
        // A write that ended in doubt may have been this one.
        let there = self.release(release.number());
        if there.is_ok_and(|there| there.manifest.nonce == release.manifest.nonce) {
            return Ok(release);
        }
        let why = "another publisher wrote this release meanwhile; publish again to see what changes since then";
        Err(StoreError::new(&path, why))
    }

    /// Proves that a release is the one that was seen, and follows the one before it.
    fn prove_end(&self, after: &Release) -> Result<(), StoreError> {
        let path = self.path(after.number());
        if self.release(after.number())? != *after {
            return Err(StoreError::new(&path, "this release was changed since it was read"));
        }
        let before = after.number() - 1;
        let known = if before > 0 { Some(self.release(before)?.digest) } else { None };
        match (&after.manifest.previous, known) {
            (None, None) => Ok(()),
            (Some(previous), Some(known)) if known == *previous => Ok(()),
            _ => {
                let why = format!(
                    "it does not follow release {before} as that stands in the store; `oplex verify` says more"
                );
                Err(StoreError::new(&path, why))
            }
        }
    }
}

/// What a new manifest has of an earlier one, or of what was prepared.
struct Like<'l> {
    title: &'l Option<String>,
    content: &'l String,
    sources: &'l String,
}

/// To the second, in UTC.
fn now() -> String {
    let now = jiff::Timestamp::now();
    jiff::Timestamp::from_second(now.as_second()).unwrap_or(now).to_string()
}

/// A number that no other publisher has: its process, the moment, and what the system makes of a new hasher.
fn nonce() -> String {
    use std::hash::{BuildHasher, Hasher, RandomState};
    let [one, other] = [0, 1].map(|number: u8| {
        let mut hasher = RandomState::new().build_hasher();
        hasher.write_u8(number);
        hasher.write_u32(std::process::id());
        hasher.write_i128(jiff::Timestamp::now().as_nanosecond());
        hasher.finish()
    });
    format!("{one:016x}{other:016x}")
}
