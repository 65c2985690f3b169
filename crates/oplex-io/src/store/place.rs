//! Where the documents of a store lie: each is created once, and never changed.

use std::fmt::Debug;
use std::path::{Path, PathBuf};
use std::time::SystemTime;

use super::StoreError;

/// What lies in a folder.
pub(super) struct Listed {
    pub(super) name: String,
    pub(super) modified: Option<SystemTime>,
    pub(super) octets: u64,
}

/// A place of documents. All that it must be able to do is to create one only if none of its name is there.
pub(super) trait Place: Debug + Send + Sync {
    /// The place itself, for people.
    fn root(&self) -> &Path;

    /// Where a document lies or would lie, for people.
    fn path(&self, name: &str) -> PathBuf;

    /// The octets of a document; `None` where it is not there.
    fn get(&self, name: &str) -> Result<Option<Vec<u8>>, StoreError>;

    /// Makes a document; `false` where one is there already, which stays as it is.
    fn create(&self, name: &str, octets: &[u8]) -> Result<bool, StoreError>;

    /// What lies in a folder, by name; nothing where the folder is not there.
    fn list(&self, folder: &str) -> Result<Vec<Listed>, StoreError>;

    /// The names alone, which may cost less.
    fn names(&self, folder: &str) -> Result<Vec<String>, StoreError> {
        Ok(self.list(folder)?.into_iter().map(|listed| listed.name).collect())
    }

    /// Takes a document away, if it is there.
    fn remove(&self, name: &str) -> Result<(), StoreError>;

    /// Removes what publishers that were stopped long ago had not written to its end, where such can be left behind.
    fn sweep(&self) {}

    /// Makes documents that are the same wherever they are made, or proves that they are there already; `progress` is called with how
    /// many are there.
    fn keep(&self, documents: &[(String, &[u8])], progress: &dyn Fn(usize)) -> Result<(), StoreError> {
        for (done, (name, octets)) in documents.iter().enumerate() {
            progress(done);
            let known = match self.get(name)? {
                Some(known) => known,
                None if self.create(name, octets)? => continue,
                // Another publisher had the same part.
                None => self.get(name)?.unwrap_or_default(),
            };
            same(&self.path(name), &known, octets)?;
        }
        Ok(())
    }
}

/// Proves that a part is what its publisher would write.
pub(super) fn same(path: &Path, known: &[u8], octets: &[u8]) -> Result<(), StoreError> {
    if known == octets {
        return Ok(());
    }
    let why = "this part was changed after it was written, and the release would use it; `oplex verify` names all such";
    Err(StoreError::new(path, why))
}
