//! Changes of parts of what wider layers send.

use std::sync::Arc;

use crate::codebook::Definition;
use crate::finding::Spot;
use crate::layout::{Edit, ValueErrors};

/// What a layer changes in an option that a wider one sends.
#[derive(Debug, Clone)]
pub struct Amendment {
    /// The option.
    pub definition: Arc<Definition>,
    /// Where its name stands.
    pub key: Spot,
    /// Where the changes stand.
    pub spot: Spot,
    /// The changes, or why there are none.
    pub outcome: Result<Vec<Edit>, ValueErrors>,
}
