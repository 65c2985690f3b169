//! A bucket as a place of documents.

use std::path::{Path as FilePath, PathBuf};
use std::sync::Arc;

use futures::{StreamExt as _, TryStreamExt as _};
use object_store::path::Path;
use object_store::{Error, ObjectStore, ObjectStoreExt as _, ObjectStoreScheme, PutMode, PutOptions};
use tokio::runtime::{Builder, Runtime};

use super::StoreError;
use super::place::{Listed, Place, same};

/// So many documents are on their way at once.
const AT_ONCE: usize = 16;

/// A bucket, and what the names of its documents begin with.
#[derive(Debug)]
struct Bucket {
    url: PathBuf,
    prefix: Path,
    store: Box<dyn ObjectStore>,
    runtime: Runtime,
}

pub(super) fn open(url: &str, options: Vec<(String, String)>) -> Result<Arc<dyn Place>, StoreError> {
    let place = FilePath::new(url);
    let wrong = |error: &dyn std::fmt::Display| StoreError::new(place, format!("cannot be used: {error}"));
    let parsed = url.parse().map_err(|error| wrong(&error))?;
    let (scheme, _) = ObjectStoreScheme::parse(&parsed).map_err(|error| wrong(&error))?;
    if !matches!(scheme, ObjectStoreScheme::AmazonS3) {
        return Err(wrong(&"a bucket is named like s3://bucket/prefix"));
    }
    let options = options.into_iter().map(|(key, value)| (key.to_ascii_lowercase(), value));
    let (store, prefix) = object_store::parse_url_opts(&parsed, options).map_err(|error| wrong(&error))?;
    let runtime = Builder::new_current_thread().enable_all().build().map_err(|error| wrong(&error))?;
    Ok(Arc::new(Bucket { url: PathBuf::from(url.trim_end_matches('/')), prefix, store, runtime }))
}

impl Bucket {
    fn name(&self, name: &str) -> Path {
        name.split('/').filter(|part| !part.is_empty()).fold(self.prefix.clone(), |path, part| path.join(part))
    }

    fn wrong(&self, name: &str, error: &Error) -> StoreError {
        StoreError::new(&self.path(name), format!("cannot be used: {}", reason(&error.to_string())))
    }

    async fn read(&self, name: &str) -> Result<Option<Vec<u8>>, StoreError> {
        let read = async { self.store.get(&self.name(name)).await?.bytes().await };
        match read.await {
            Ok(octets) => Ok(Some(octets.to_vec())),
            Err(Error::NotFound { .. }) => Ok(None),
            Err(error) => Err(self.wrong(name, &error)),
        }
    }

    async fn make(&self, name: &str, octets: &[u8]) -> Result<bool, StoreError> {
        let options = PutOptions { mode: PutMode::Create, ..PutOptions::default() };
        match self.store.put_opts(&self.name(name), octets.to_vec().into(), options).await {
            Ok(_) => Ok(true),
            // A second try of a write whose answer was lost finds the first.
            Err(Error::AlreadyExists { .. } | Error::Precondition { .. }) => Ok(false),
            Err(error) => Err(self.wrong(name, &error)),
        }
    }

    async fn keep_one(&self, name: &str, octets: &[u8]) -> Result<(), StoreError> {
        let known = match self.read(name).await? {
            Some(known) => known,
            None if self.make(name, octets).await? => return Ok(()),
            None => self.read(name).await?.unwrap_or_default(),
        };
        same(&self.path(name), &known, octets)
    }
}

impl Place for Bucket {
    fn root(&self) -> &FilePath {
        &self.url
    }

    fn path(&self, name: &str) -> PathBuf {
        self.url.join(name)
    }

    fn get(&self, name: &str) -> Result<Option<Vec<u8>>, StoreError> {
        self.runtime.block_on(self.read(name))
    }

    fn create(&self, name: &str, octets: &[u8]) -> Result<bool, StoreError> {
        self.runtime.block_on(self.make(name, octets))
    }

    fn list(&self, folder: &str) -> Result<Vec<Listed>, StoreError> {
        let prefix = self.name(folder);
        let listed = self.runtime.block_on(self.store.list_with_delimiter(Some(&prefix)));
        let listed = listed.map_err(|error| self.wrong(folder, &error))?;
        let last = |path: &Path| path.filename().unwrap_or_default().to_owned();
        let folders = listed.common_prefixes.iter().map(|path| Listed { name: last(path), modified: None, octets: 0 });
        let objects = listed.objects.iter().map(|object| Listed {
            name: last(&object.location),
            modified: Some(object.last_modified.into()),
            octets: object.size,
        });
        let mut all: Vec<Listed> = folders.chain(objects).collect();
        all.sort_by(|one, other| one.name.cmp(&other.name));
        Ok(all)
    }

    fn remove(&self, name: &str) -> Result<(), StoreError> {
        match self.runtime.block_on(self.store.delete(&self.name(name))) {
            Err(Error::NotFound { .. }) | Ok(()) => Ok(()),
            Err(error) => Err(self.wrong(name, &error)),
        }
    }

    fn keep(&self, documents: &[(String, &[u8])], progress: &dyn Fn(usize)) -> Result<(), StoreError> {
        let each = futures::stream::iter(documents).map(|(name, octets)| self.keep_one(name, octets));
        let kept = each.buffer_unordered(AT_ONCE).try_fold(0, |done, ()| {
            progress(done + 1);
            futures::future::ok(done + 1)
        });
        self.runtime.block_on(kept).map(|_| ())
    }
}

/// The reason of an error in plain words: what the engine's answers say is for programs.
fn reason(text: &str) -> String {
    let says = |part: &str| text.contains(part);
    if says("403 Forbidden") || says("401 Unauthorized") {
        return "the engine refuses this access key, or what it may do (AWS_ACCESS_KEY_ID, AWS_SECRET_ACCESS_KEY)"
            .to_owned();
    }
    if says("NoSuchBucket") || says("404 Not Found") {
        return "there is no such bucket; make it first".to_owned();
    }
    if says("error sending request") {
        return "the engine does not answer (AWS_ENDPOINT)".to_owned();
    }
    let plain = text.split(" - ").last().unwrap_or_default();
    plain.split('<').next().unwrap_or_default().trim_end_matches([':', ' ']).chars().take(200).collect()
}
