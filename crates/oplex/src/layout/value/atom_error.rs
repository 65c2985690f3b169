//! Why a text is not what it should be.

use crate::prelude::*;
use core::ops::Range;

use crate::layout::fault::Topic;

/// Why a text is not what it should be.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(in crate::layout) struct AtomError {
    /// The characters it is about, within the text.
    pub(in crate::layout) at: Range<usize>,
    pub(in crate::layout) topic: Topic,
    pub(in crate::layout) message: String,
    /// What was probably meant.
    pub(in crate::layout) instead: Option<String>,
}

impl AtomError {
    pub(in crate::layout) fn all(text: &str, message: impl Into<String>) -> Self {
        Self { at: 0..text.len(), topic: Topic::Shape, message: message.into(), instead: None }
    }

    /// What is wrong with a part, as what is wrong with the whole it stands in.
    pub(in crate::layout) fn within(self, part: &str, whole: &str) -> Self {
        let start = part.as_ptr() as usize - whole.as_ptr() as usize;
        Self { at: start + self.at.start..start + self.at.end, ..self }
    }
}
