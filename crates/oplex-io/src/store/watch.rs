//! Following a store: the latest release, and new ones as they come.

use std::time::Duration;

use oplex::release::Document;

use super::{Release, Store, StoreError, TrustedKey};

/// Follows a store. Whoever serves from it keeps what was seen last until something newer is seen.
///
/// ```no_run
/// use std::time::Duration;
/// use oplex_io::store::{Store, StoreChange, Watch};
///
/// let mut watch = Watch::new(Store::new("releases"));
/// loop {
///     match watch.wait(Duration::from_secs(5)) {
///         StoreChange::Release(release, document) => println!("release {}: {} networks", release.number(), document.content.networks.len()),
///         StoreChange::Broken(why) => eprintln!("kept what was there: {why}"),
///     }
/// }
/// ```
#[derive(Debug)]
pub struct Watch {
    store: Store,
    trusted: Vec<TrustedKey>,
    /// The number of the release that was seen last.
    seen: u32,
    /// What was said to be wrong last, so that it is said once.
    said: Option<String>,
}

/// What there is in a store that was not seen before.
#[derive(Debug)]
pub enum StoreChange {
    /// A release, read whole, each part of it held against its digest.
    Release(Box<Release>, Box<Document>),
    /// A release, or a store, that cannot be used. What was seen before still can.
    Broken(StoreError),
}

impl Watch {
    /// Follows a store from its latest release on.
    #[must_use]
    pub fn new(store: Store) -> Self {
        Self { store, trusted: Vec::new(), seen: 0, said: None }
    }

    /// Takes releases that are signed with one of these keys, and no others.
    #[must_use]
    pub fn trusting(self, trusted: Vec<TrustedKey>) -> Self {
        Self { trusted, ..self }
    }

    /// Looks once; `None` where there is nothing new. The first look sees the latest release, those after it each new one.
    pub fn look(&mut self) -> Option<StoreChange> {
        match self.next() {
            Ok(None) => {
                self.said = None;
                None
            }
            Ok(Some((release, document))) => {
                (self.seen, self.said) = (release.number(), None);
                Some(StoreChange::Release(Box::new(release), Box::new(document)))
            }
            Err(error) => {
                let text = error.to_string();
                let new = self.said.as_ref() != Some(&text);
                self.said = Some(text);
                new.then_some(StoreChange::Broken(error))
            }
        }
    }

    /// Looks until there is something new, with pauses in between.
    pub fn wait(&mut self, pause: Duration) -> StoreChange {
        loop {
            match self.look() {
                Some(seen) => return seen,
                None => std::thread::sleep(pause),
            }
        }
    }

    fn next(&self) -> Result<Option<(Release, Document)>, StoreError> {
        let latest = self.store.latest_number()?;
        let next = match latest {
            Some(latest) if self.seen == 0 => latest,
            Some(latest) if latest > self.seen => self.seen + 1,
            _ => return Ok(None),
        };
        let release = self.store.release(next)?;
        let signed = |key: &TrustedKey| release.signature.as_ref().is_some_and(|signature| signature.key == key.key);
        if !self.trusted.is_empty() && !self.trusted.iter().any(signed) {
            return Err(StoreError::new(&self.store.path(next), "it is not signed with a key that is trusted"));
        }
        let document = self.store.document(&release)?;
        Ok(Some((release, document)))
    }
}
