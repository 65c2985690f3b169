//! The error of texts that people write.

use crate::prelude::*;
use core::fmt;

/// Why a text cannot be read: what is wrong, and how it is written.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
pub struct ParseError(String);

impl fmt::Display for ParseError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.0)
    }
}

impl core::error::Error for ParseError {}

impl From<String> for ParseError {
    fn from(message: String) -> Self {
        Self(message)
    }
}

impl From<ParseError> for String {
    fn from(error: ParseError) -> Self {
        error.0
    }
}
