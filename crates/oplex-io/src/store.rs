//! A release store: a directory with one sealed JSON document for each release.
//!
//! A release is never changed once it is there. It is written beside its place, flushed, and then linked into place
//! under its number, so a reader sees a whole release or none, and two writers never get the same number.

use std::fmt;
use std::fs;
use std::io::Write;
use std::path::{Path, PathBuf};

use oplex::release::Document;
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};

use crate::files::reason;
use crate::staged;

/// The form of the documents; a later form gets a later number.
const FORMAT: &str = "oplex-release/2";

/// A published plan.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Release {
    /// The form of this document.
    pub format: String,
    /// Its number, counted from 1.
    pub release: u32,
    /// When it was published.
    pub published: String,
    /// `sha256:` and the digest of `content` as compact JSON.
    pub seal: String,
    /// The compiled plan.
    pub content: Document,
}

/// Why a release could not be written or read.
#[derive(Debug)]
pub struct StoreError {
    /// The directory or file.
    pub path: PathBuf,
    /// What is wrong.
    pub why: String,
}

impl fmt::Display for StoreError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}: {}", self.path.display(), self.why)
    }
}

impl std::error::Error for StoreError {}

/// A directory of releases.
#[derive(Debug, Clone)]
pub struct Store {
    directory: PathBuf,
}

impl Store {
    /// The store in this directory, which is made when the first release is published.
    #[must_use]
    pub fn new(directory: impl Into<PathBuf>) -> Self {
        Self { directory: directory.into() }
    }

    /// Where a release lies or would lie.
    #[must_use]
    pub fn path(&self, release: u32) -> PathBuf {
        self.directory.join(format!("release-{release:06}.json"))
    }

    /// The numbers of the releases, in order.
    ///
    /// # Errors
    /// A directory that cannot be read. One that is not there has no releases.
    pub fn numbers(&self) -> Result<Vec<u32>, StoreError> {
        let entries = match fs::read_dir(&self.directory) {
            Ok(entries) => entries,
            Err(error) if error.kind() == std::io::ErrorKind::NotFound => return Ok(Vec::new()),
            Err(error) => return Err(wrong(&self.directory, &error)),
        };
        let mut numbers = Vec::new();
        for entry in entries {
            let name = entry.map_err(|error| wrong(&self.directory, &error))?.file_name();
            let number: Option<u32> =
                name.to_str().and_then(|name| name.strip_prefix("release-")?.strip_suffix(".json")?.parse().ok());
            numbers.extend(number);
        }
        numbers.sort_unstable();
        Ok(numbers)
    }

    /// Reads a release and proves its seal.
    ///
    /// # Errors
    /// A release that is not there, is not such a document, or was changed after it was published.
    pub fn load(&self, release: u32) -> Result<Release, StoreError> {
        let path = self.path(release);
        let text = fs::read_to_string(&path).map_err(|error| wrong(&path, &error))?;
        let found: Release = serde_json::from_str(&text)
            .map_err(|error| StoreError { path: path.clone(), why: format!("not a release: {error}") })?;
        if seal(&found.content) != found.seal {
            let why = "the seal does not match: the content was changed after it was published".to_owned();
            return Err(StoreError { path, why });
        }
        Ok(found)
    }

    /// Publishes a compiled plan as the release after one that the publisher has seen; 0 is before all of them.
    ///
    /// # Errors
    /// A directory that cannot be written to, and a release that somebody else published meanwhile: what it changes is to be
    /// seen first. Nothing is left behind then.
    pub fn publish(&self, content: Document, after: u32) -> Result<Release, StoreError> {
        fs::create_dir_all(&self.directory).map_err(|error| wrong(&self.directory, &error))?;
        let release =
            Release { format: FORMAT.to_owned(), release: after + 1, published: now(), seal: seal(&content), content };
        let path = self.path(release.release);
        match self.write(&release, &path) {
            Ok(()) => Ok(release),
            Err(error) if error.kind() == std::io::ErrorKind::AlreadyExists => {
                let why =
                    "somebody else published this release meanwhile; publish again to see what changes since then";
                Err(StoreError { path, why: why.to_owned() })
            }
            Err(error) => Err(wrong(&path, &error)),
        }
    }

    fn write(&self, release: &Release, path: &Path) -> std::io::Result<()> {
        staged::write(path, false, |file| {
            let mut file = std::io::BufWriter::new(file);
            serde_json::to_writer_pretty(&mut file, release)?;
            file.write_all(b"\n")?;
            file.flush()
        })
    }
}

fn wrong(path: &Path, error: &std::io::Error) -> StoreError {
    StoreError { path: path.to_owned(), why: format!("cannot be used: {}", reason(error)) }
}

/// To the second, in UTC.
fn now() -> String {
    let now = jiff::Timestamp::now();
    jiff::Timestamp::from_second(now.as_second()).unwrap_or(now).to_string()
}

/// `sha256:` and the digest of the content as compact JSON.
#[must_use]
pub fn seal(content: &Document) -> String {
    let text = serde_json::to_vec(content).unwrap_or_default();
    format!("sha256:{}", data_encoding::HEXLOWER.encode(&Sha256::digest(&text)))
}
