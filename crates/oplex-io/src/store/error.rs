//! What can be wrong with a store.

use std::fmt;
use std::path::{Path, PathBuf};

use crate::files::reason;

/// Why a release could not be written or read.
#[derive(Debug)]
pub struct StoreError {
    /// The directory or file.
    pub path: PathBuf,
    /// What is wrong.
    pub why: String,
}

impl StoreError {
    pub(super) fn new(path: &Path, why: impl Into<String>) -> Self {
        Self { path: path.to_owned(), why: why.into() }
    }

    pub(super) fn io(path: &Path, error: &std::io::Error) -> Self {
        Self::new(path, format!("cannot be used: {}", reason(error)))
    }
}

impl fmt::Display for StoreError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}: {}", self.path.display(), self.why)
    }
}

impl std::error::Error for StoreError {}
