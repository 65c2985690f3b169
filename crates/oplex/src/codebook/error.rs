//! What is wrong with a codebook, and what no codebook knows.

use crate::prelude::*;
use core::fmt;

use crate::finding::{Finding, Sources};

/// What is wrong with a codebook.
#[derive(Debug, Clone)]
pub struct CodebookError {
    /// The findings of severity error, one at least.
    pub findings: Vec<Finding>,
    /// The text that they point into.
    pub sources: Sources,
}

/// The first of them, with its line.
impl fmt::Display for CodebookError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Some(first) = self.findings.first() else { return Ok(()) };
        if let Some(spot) = &first.spot {
            let location = self.sources.location(spot);
            write!(f, "{}:{}:{}: ", location.file, location.line, location.column)?;
        }
        f.write_str(&first.message)?;
        match self.findings.len() - 1 {
            0 => Ok(()),
            more => write!(f, " (and {more} more)"),
        }
    }
}

impl core::error::Error for CodebookError {}

/// An option that no codebook defines.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Unknown {
    /// What was requested.
    pub query: String,
    /// The nearest that is known.
    pub near: Option<String>,
}

impl fmt::Display for Unknown {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "unknown option `{}`", self.query)?;
        match &self.near {
            Some(near) => write!(f, "; did you mean `{near}`?"),
            None => Ok(()),
        }
    }
}

impl core::error::Error for Unknown {}
