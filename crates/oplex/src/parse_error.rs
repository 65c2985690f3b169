//! The error of texts that people write.

use crate::prelude::*;
use core::fmt;

/// No message is longer: it may repeat what was written, and that may be a whole file.
const LONGEST: usize = 1_000;

/// A message of which a long one lacks its middle.
pub(crate) fn shortened(message: String) -> String {
    if message.len() <= LONGEST {
        return message;
    }
    let whole = |at: usize| (0..=at).rev().find(|at| message.is_char_boundary(*at)).unwrap_or(0);
    let (before, behind) = (whole(LONGEST * 2 / 3), whole(message.len() - LONGEST / 3));
    format!("{} … {}", &message[..before], &message[behind..])
}

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
