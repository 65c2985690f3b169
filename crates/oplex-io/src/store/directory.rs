//! A directory as a place of documents.

use std::fs;
use std::io::{ErrorKind, Write};
use std::path::{Path, PathBuf};
use std::time::Duration;

use super::StoreError;
use super::place::{Listed, Place};
use crate::staged;

/// No publisher writes one file for so long.
const STALE: Duration = Duration::from_secs(86_400);

/// The directory of a store.
#[derive(Debug, Clone)]
pub(super) struct Directory {
    root: PathBuf,
}

impl Directory {
    pub(super) fn new(root: PathBuf) -> Self {
        Self { root }
    }
}

impl Place for Directory {
    fn path(&self, name: &str) -> PathBuf {
        self.root.join(name)
    }

    fn get(&self, name: &str) -> Result<Option<Vec<u8>>, StoreError> {
        let path = self.path(name);
        match fs::read(&path) {
            Ok(octets) => Ok(Some(octets)),
            Err(error) if error.kind() == ErrorKind::NotFound => Ok(None),
            Err(error) => Err(StoreError::io(&path, &error)),
        }
    }

    fn create(&self, name: &str, octets: &[u8]) -> Result<bool, StoreError> {
        let path = self.path(name);
        if let Some(folder) = path.parent() {
            fs::create_dir_all(folder).map_err(|error| StoreError::io(folder, &error))?;
        }
        match staged::write(&path, false, |file| file.write_all(octets)) {
            Ok(()) => Ok(true),
            Err(error) if error.kind() == ErrorKind::AlreadyExists => Ok(false),
            Err(error) => Err(StoreError::io(&path, &error)),
        }
    }

    fn list(&self, folder: &str) -> Result<Vec<Listed>, StoreError> {
        let path = self.path(folder);
        let wrong = |error: std::io::Error| StoreError::io(&path, &error);
        let entries = match fs::read_dir(&path) {
            Ok(entries) => entries,
            Err(error) if error.kind() == ErrorKind::NotFound => return Ok(Vec::new()),
            Err(error) => return Err(wrong(error)),
        };
        let mut listed = Vec::new();
        for entry in entries {
            let entry = entry.map_err(wrong)?;
            // What is removed meanwhile is not there.
            let Ok(known) = entry.metadata() else { continue };
            let name = entry.file_name().to_string_lossy().into_owned();
            listed.push(Listed { name, modified: known.modified().ok(), octets: known.len() });
        }
        listed.sort_by(|one, other| one.name.cmp(&other.name));
        Ok(listed)
    }

    fn names(&self, folder: &str) -> Result<Vec<String>, StoreError> {
        let path = self.path(folder);
        let wrong = |error: std::io::Error| StoreError::io(&path, &error);
        match fs::read_dir(&path) {
            Ok(entries) => {
                entries.map(|entry| Ok(entry.map_err(wrong)?.file_name().to_string_lossy().into_owned())).collect()
            }
            Err(error) if error.kind() == ErrorKind::NotFound => Ok(Vec::new()),
            Err(error) => Err(wrong(error)),
        }
    }

    fn remove(&self, name: &str) -> Result<(), StoreError> {
        let path = self.path(name);
        match fs::remove_file(&path) {
            Err(error) if error.kind() != ErrorKind::NotFound => Err(StoreError::io(&path, &error)),
            _ => Ok(()),
        }
    }

    fn sweep(&self) {
        let manifests = self.names("releases").unwrap_or_default().into_iter().map(|name| format!("releases/{name}"));
        for folder in manifests.chain(["parts".to_owned()]) {
            let Ok(entries) = fs::read_dir(self.path(&folder)) else { continue };
            for entry in entries.flatten() {
                let is_staged = entry.file_name().to_string_lossy().starts_with(staged::PREFIX);
                let modified = || entry.metadata().ok().filter(fs::Metadata::is_file)?.modified().ok();
                let is_old = is_staged && modified().and_then(|at| at.elapsed().ok()).is_some_and(|age| age > STALE);
                if is_old {
                    // Another publisher may be quicker, and what cannot be removed does no harm.
                    let _ = fs::remove_file(entry.path());
                }
            }
        }
    }

    fn root(&self) -> &Path {
        &self.root
    }
}
