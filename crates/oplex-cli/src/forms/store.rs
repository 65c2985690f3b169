//! Releases, and what a store was found to be.

use oplex_io::store::{Manifest, Noted};
use serde::Serialize;

use super::ChangedForm;

/// What a release says of itself.
#[derive(Serialize)]
pub(crate) struct ReleaseForm<'m> {
    pub(crate) release: u32,
    pub(crate) published: &'m str,
    pub(crate) author: &'m str,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) note: Option<&'m str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) title: Option<&'m str>,
    pub(crate) changes: usize,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) reverts_to: Option<u32>,
    /// The digest of what clients get.
    pub(crate) content: &'m str,
    pub(crate) findings: &'m Noted,
}

impl<'m> ReleaseForm<'m> {
    pub(crate) fn of(manifest: &'m Manifest) -> Self {
        Self {
            release: manifest.release,
            published: &manifest.published,
            author: &manifest.author,
            note: manifest.note.as_deref(),
            title: manifest.title.as_deref(),
            changes: manifest.changes,
            reverts_to: manifest.reverts_to,
            content: &manifest.content,
            findings: &manifest.findings,
        }
    }
}

#[derive(Serialize)]
pub(crate) struct HistoryForm<'m> {
    pub(crate) store: String,
    /// The latest first.
    pub(crate) releases: Vec<ReleaseForm<'m>>,
}

#[derive(Serialize)]
pub(crate) struct RevertForm<'m> {
    #[serde(flatten)]
    pub(crate) release: ReleaseForm<'m>,
    pub(crate) changed: Vec<ChangedForm>,
}

/// The files of a release that were written.
#[derive(Serialize)]
pub(crate) struct WrittenForm {
    pub(crate) release: u32,
    pub(crate) files: Vec<String>,
}

/// What a store was found to be.
#[derive(Serialize)]
pub(crate) struct VerifyForm {
    pub(crate) store: String,
    pub(crate) releases: usize,
    pub(crate) latest: Option<u32>,
    pub(crate) parts: usize,
    pub(crate) octets: u64,
    pub(crate) flaws: Vec<WrongForm>,
    /// Parts that no release names.
    pub(crate) loose: Vec<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) pruned: Option<usize>,
}

/// Something in a store that is wrong.
#[derive(Serialize)]
pub(crate) struct WrongForm {
    pub(crate) path: String,
    pub(crate) why: String,
    pub(crate) release: Option<u32>,
}

/// What is sent of one option.
#[derive(Serialize)]
pub(crate) struct SentOctetsForm {
    pub(crate) network: String,
    pub(crate) option: String,
    /// The octets; several where the option stands several times.
    pub(crate) hex: Vec<String>,
}
