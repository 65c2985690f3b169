//! A release that was made, or that there already is.

use serde::Serialize;

use super::ChangedForm;

#[derive(Serialize)]
pub(crate) struct PublishForm<'p> {
    pub(crate) release: u32,
    /// Whether it was made now; else the plan is the same as this release.
    pub(crate) published: bool,
    pub(crate) seal: &'p str,
    pub(crate) file: String,
    /// What changes since the release before.
    pub(crate) changed: Vec<ChangedForm>,
}
