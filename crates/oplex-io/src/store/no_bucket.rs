//! Buckets, where this was built without them.

use std::path::Path;
use std::sync::Arc;

use super::StoreError;
use super::place::Place;

pub(super) fn open(url: &str, _: Vec<(String, String)>) -> Result<Arc<dyn Place>, StoreError> {
    let why = "this build keeps stores in directories only; build it with --features s3 for buckets";
    Err(StoreError::new(Path::new(url), why))
}
