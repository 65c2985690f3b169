//! A release that was made.

use serde::Serialize;

#[derive(Serialize)]
pub(crate) struct PublishForm<'p> {
    pub(crate) release: u32,
    pub(crate) seal: &'p str,
    pub(crate) file: String,
}
