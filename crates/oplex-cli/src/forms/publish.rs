//! A release that was made, would be made, or that there already is.

use serde::Serialize;

use super::ChangedForm;

#[derive(Serialize)]
pub(crate) struct PublishForm<'p> {
    /// The number of the release that is there now; with `--dry-run` the one that would be made.
    pub(crate) release: u32,
    /// Whether it was made now; else the plan is the same as this release, or nothing was to be made.
    pub(crate) published: bool,
    /// The digest of what clients get.
    pub(crate) content: &'p str,
    pub(crate) file: String,
    /// What changes since the release before.
    pub(crate) changed: Vec<ChangedForm>,
}
