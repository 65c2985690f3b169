//! Reading plans and codebooks from files.

use std::fmt;
use std::io::Read;
use std::path::{Path, PathBuf};

use oplex::family::Protocol;
use oplex::plan::{Loaded, Plan};
use oplex::specimen::Specimen;

/// A file larger than this is not a plan, a codebook or a payload; reading stops there.
const LARGEST: u64 = 256 << 20;

/// Why a file could not be read.
#[derive(Debug)]
pub struct FileError {
    /// The file.
    pub path: PathBuf,
    /// What is wrong, and what to do about it.
    pub why: String,
}

impl fmt::Display for FileError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}: {}", self.path.display(), self.why)
    }
}

impl std::error::Error for FileError {}

/// Reads a text file.
///
/// # Errors
/// A file that is not there, is a directory, a device or a pipe, may not be read, is too large or is not UTF-8.
pub fn text(path: &Path) -> Result<String, FileError> {
    let wrong = |why: String| FileError { path: path.to_owned(), why };
    let reason = |error: std::io::Error| wrong(reason(&error));
    // Asked before it is opened: to open a FIFO is to wait for whoever writes into it.
    let known = std::fs::metadata(path).map_err(reason)?;
    if known.is_dir() {
        return Err(wrong("this is a directory; name the file in it".to_owned()));
    }
    if !known.is_file() {
        return Err(wrong("this is a device, a pipe or a socket; save its text in a file, and name that".to_owned()));
    }
    let file = std::fs::File::open(path).map_err(reason)?;
    let length = file.metadata().map_or(0, |known| known.len().min(LARGEST));
    let mut octets = Vec::with_capacity(usize::try_from(length).unwrap_or(0) + 1);
    file.take(LARGEST + 1).read_to_end(&mut octets).map_err(reason)?;
    if octets.len() as u64 > LARGEST {
        return Err(wrong(format!("the file is larger than {} MB", LARGEST >> 20)));
    }
    String::from_utf8(octets).map_err(|error| {
        let at = error.utf8_error().valid_up_to();
        let line = error.as_bytes()[..at].iter().filter(|octet| **octet == b'\n').count() + 1;
        wrong(format!("the file is not UTF-8: line {line} (octet {at}) holds something else; save it as UTF-8"))
    })
}

/// The reason of an I/O error in plain words.
#[must_use]
pub fn reason(error: &std::io::Error) -> String {
    match error.kind() {
        std::io::ErrorKind::NotFound => "no such file".to_owned(),
        std::io::ErrorKind::PermissionDenied => "permission denied".to_owned(),
        std::io::ErrorKind::IsADirectory => "this is a directory".to_owned(),
        std::io::ErrorKind::NotADirectory => "part of the path is a file, not a directory".to_owned(),
        std::io::ErrorKind::StorageFull => "the disk is full".to_owned(),
        std::io::ErrorKind::FileTooLarge => "no more may be written here (a size limit was reached)".to_owned(),
        _ => error.to_string(),
    }
}

/// Reads a plan and the codebooks it names, which are found beside it.
///
/// # Errors
/// A plan file that cannot be read as text. A codebook that cannot is a finding of the plan.
pub fn plan(path: &Path) -> Result<Loaded, FileError> {
    Ok(Plan::read(&path.display().to_string(), &text(path)?, &mut |book| Ok(beside(path, book)?)))
}

/// Reads a plan as [`plan`] does, or a codebook. `watch` is sent of each file before it is read.
///
/// # Errors
/// As [`plan`].
pub fn plan_or_codebook(path: &Path, watch: &mut dyn FnMut(&str)) -> Result<Loaded, FileError> {
    let name = path.display().to_string();
    watch(&name);
    let mut fetch = |book: &str| {
        watch(book);
        Ok(beside(path, book)?)
    };
    Ok(Plan::read_or_codebook(&name, &text(path)?, &mut fetch))
}

/// Reads a message of `protocol` that was written down, and the codebooks it names, which are found beside it.
///
/// # Errors
/// A file that cannot be read as text.
pub fn specimen(protocol: Protocol, path: &Path) -> Result<Specimen, FileError> {
    Ok(Specimen::read(protocol, &path.display().to_string(), &text(path)?, &mut |book| Ok(beside(path, book)?)))
}

fn beside(path: &Path, book: &str) -> Result<String, String> {
    text(&path.parent().unwrap_or(Path::new("")).join(book)).map_err(|error| error.why)
}
