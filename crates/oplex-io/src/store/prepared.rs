//! A release that is ready to be published: all its parts, and nothing of it in the store.

use std::cell::Cell;
use std::path::Path;

use oplex::finding::Sources;
use oplex::release::{Composing, Content, Document, LayerEntry, ServerEntry};
use serde::{Deserialize, Serialize};

use super::tree::{Parts, StorePart};
use super::{Noted, SigningKey, StoreError, sources};

/// What a publisher says of a release.
#[derive(Clone, Default)]
pub struct Entry {
    /// Who publishes it.
    pub author: String,
    /// What there is to say about it.
    pub note: Option<String>,
    /// What the rules found all the same.
    pub findings: Noted,
    /// How many networks, fleets and clients change, the server included.
    pub changes: usize,
    /// The release whose content it has again.
    pub reverts_to: Option<u32>,
    /// What it is signed with.
    pub sign: Option<SigningKey>,
}

/// A release that is ready to be published.
#[derive(Debug)]
pub struct Prepared {
    pub(super) title: Option<String>,
    pub(super) content: String,
    pub(super) sources: String,
    pub(super) root: Root,
    pub(super) parts: Parts,
}

/// The first part of a content: what is of bounded size by itself, and the sequences.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub(super) struct Root {
    pub(super) server: ServerEntry,
    pub(super) composing: Composing,
    pub(super) everyone: LayerEntry,
    pub(super) networks: StorePart,
    pub(super) fleets: StorePart,
    pub(super) reservations: StorePart,
}

impl Prepared {
    /// Puts what a plan comes to into parts, together with the plan and its files as they were written.
    ///
    /// # Errors
    /// None that a document from [`compile`](oplex::release::compile) has.
    pub fn new(document: &Document, sources: &Sources) -> Result<Self, StoreError> {
        Self::with_progress(document, sources, &|_, _| {})
    }

    /// The same with progress: `progress` is called with how many entries are in parts, and how many there are.
    ///
    /// # Errors
    /// As [`Prepared::new`].
    pub fn with_progress(
        document: &Document,
        sources: &Sources,
        progress: &dyn Fn(usize, usize),
    ) -> Result<Self, StoreError> {
        let mut parts = Parts::default();
        let write = |parts: &mut Parts| -> serde_json::Result<(Root, String, String)> {
            let root = root(parts, &document.content, progress)?;
            let content = parts.add(serde_json::to_vec(&root)?);
            Ok((root, content, sources::write(parts, sources, &document.codebooks)?))
        };
        let wrong = |error| StoreError::new(Path::new("release"), format!("cannot be written as JSON: {error}"));
        let (root, content, sources) = write(&mut parts).map_err(wrong)?;
        Ok(Self { title: document.title.clone(), content, sources, root, parts })
    }

    /// The digest of the content: the same for two plans that send every client the same octets.
    #[must_use]
    pub fn content(&self) -> &str {
        &self.content
    }
}

/// Progress is reported once for so many entries.
const STRIDE: usize = 1000;

fn root(parts: &mut Parts, content: &Content, progress: &dyn Fn(usize, usize)) -> serde_json::Result<Root> {
    let entries = content.networks.len() + content.fleets.len() + content.reservations.len();
    let done = Cell::new(0usize);
    let count = || {
        done.set(done.get() + 1);
        if done.get().is_multiple_of(STRIDE) {
            progress(done.get(), entries);
        }
    };
    let networks = content.networks.iter().map(|network| (Some(network.name.clone()), network));
    let reservations = content.reservations.iter().map(|row| (Some(format!("{} {}", row.network, row.client)), row));
    Ok(Root {
        server: content.server.clone(),
        composing: content.composing.clone(),
        everyone: content.everyone.clone(),
        networks: parts.sequence(networks.inspect(|_| count()))?,
        fleets: parts.sequence(content.fleets.iter().map(|fleet| (None, fleet)).inspect(|_| count()))?,
        reservations: parts.sequence(reservations.inspect(|_| count()))?,
    })
}
