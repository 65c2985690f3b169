//! How the command ends.

use std::fmt;
use std::io::{self, Write};

use crate::render::clean;

/// Done, and nothing at severity error.
pub(crate) const DONE: u8 = 0;
/// Done, and there are errors.
pub(crate) const ERRORS: u8 = 1;
/// It could not be done.
pub(crate) const CANNOT: u8 = 2;

/// Why something could not be done.
#[derive(Debug)]
pub(crate) enum Failure {
    /// With a reason for people, which may be several lines.
    Because(String),
    /// With findings that are drawn already.
    Drawn(String),
    /// Output could not be written.
    Output(io::Error),
}

/// What a command comes to: an exit code, or why there is none.
pub(crate) type Outcome = Result<u8, Failure>;

/// Fails with this reason.
pub(crate) fn because<T>(why: impl fmt::Display) -> Result<T, Failure> {
    Err(Failure::Because(why.to_string()))
}

impl From<io::Error> for Failure {
    fn from(error: io::Error) -> Self {
        Self::Output(error)
    }
}

impl From<oplex_io::files::FileError> for Failure {
    fn from(error: oplex_io::files::FileError) -> Self {
        Self::Because(error.to_string())
    }
}

/// The exit code of an outcome; what went wrong is said on `err`.
pub(crate) fn code(outcome: Outcome, err: &mut dyn Write) -> u8 {
    match outcome {
        Ok(code) => code,
        // Whoever reads the output has seen enough.
        Err(Failure::Output(error)) if error.kind() == io::ErrorKind::BrokenPipe => DONE,
        Err(Failure::Output(error)) => {
            let _ = writeln!(err, "oplex: the output cannot be written: {}", oplex_io::files::reason(&error));
            CANNOT
        }
        Err(Failure::Because(why)) => {
            let _ = writeln!(err, "oplex: {}", clean::lines(&why));
            CANNOT
        }
        Err(Failure::Drawn(why)) => {
            let _ = write!(err, "oplex: {why}");
            CANNOT
        }
    }
}
