//! A directory as a place of documents that are created once and never changed.

use std::fs;
use std::io::{ErrorKind, Write};
use std::path::{Path, PathBuf};
use std::time::SystemTime;

use super::StoreError;
use crate::staged;

/// The directory of a store.
#[derive(Debug, Clone)]
pub(super) struct Directory {
    root: PathBuf,
}

/// What lies in a folder.
pub(super) struct Listed {
    pub(super) name: String,
    pub(super) modified: Option<SystemTime>,
    pub(super) octets: u64,
}

impl Directory {
    pub(super) fn new(root: PathBuf) -> Self {
        Self { root }
    }

    /// Where a document lies or would lie.
    pub(super) fn path(&self, name: &str) -> PathBuf {
        self.root.join(name)
    }

    /// The octets of a document; `None` where it is not there.
    pub(super) fn get(&self, name: &str) -> Result<Option<Vec<u8>>, StoreError> {
        let path = self.path(name);
        match fs::read(&path) {
            Ok(octets) => Ok(Some(octets)),
            Err(error) if error.kind() == ErrorKind::NotFound => Ok(None),
            Err(error) => Err(StoreError::io(&path, &error)),
        }
    }

    /// Makes a document; `false` where one is there already, which stays as it is.
    pub(super) fn create(&self, name: &str, octets: &[u8]) -> Result<bool, StoreError> {
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

    /// What lies in a folder, by name; nothing where the folder is not there.
    pub(super) fn list(&self, folder: &str) -> Result<Vec<Listed>, StoreError> {
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

    /// The names alone, which costs less.
    pub(super) fn names(&self, folder: &str) -> Result<Vec<String>, StoreError> {
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

    pub(super) fn remove(&self, name: &str) -> Result<(), StoreError> {
        let path = self.path(name);
        match fs::remove_file(&path) {
            Err(error) if error.kind() != ErrorKind::NotFound => Err(StoreError::io(&path, &error)),
            _ => Ok(()),
        }
    }

    pub(super) fn root(&self) -> &Path {
        &self.root
    }
}
