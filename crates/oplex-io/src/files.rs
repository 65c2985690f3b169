//! Reading plans and codebooks from files.

use std::collections::HashMap;
use std::fmt;
use std::io::Read;
use std::path::{Path, PathBuf};

use oplex::family::Protocol;
use oplex::plan::{Loaded, Plan};
use oplex::specimen::Specimen;

/// More octets than this are no plan with its codebooks and tables, all together; reading stops there.
const LARGEST: u64 = 256 << 20;

/// Which files a plan may name.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Reach {
    /// Those in its own folder and below, so that a plan of foreign origin shows nothing of what is elsewhere.
    #[default]
    Folder,
    /// All that can be read.
    Anywhere,
}

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
/// A file that is not there, is a directory, a device or a pipe, may not be read, is larger than 256 MB or is not UTF-8.
pub fn text(path: &Path) -> Result<String, FileError> {
    up_to(LARGEST, path).map_err(|why| FileError { path: path.to_owned(), why })
}

fn up_to(most: u64, path: &Path) -> Result<String, String> {
    let wrong = |error: std::io::Error| reason(&error);
    // Asked before it is opened: to open a FIFO is to wait for whoever writes into it.
    let known = std::fs::metadata(path).map_err(wrong)?;
    if known.is_dir() {
        return Err("this is a directory; name the file in it".to_owned());
    }
    if !known.is_file() {
        return Err("this is a device, a pipe or a socket; save its text in a file, and name that".to_owned());
    }
    let file = std::fs::File::open(path).map_err(wrong)?;
    let length = file.metadata().map_or(0, |known| known.len().min(most));
    let mut octets = Vec::with_capacity(usize::try_from(length).unwrap_or(0) + 1);
    file.take(most + 1).read_to_end(&mut octets).map_err(wrong)?;
    if octets.len() as u64 > most {
        return Err(match most {
            LARGEST => format!("the file is larger than {} MB", LARGEST >> 20),
            _ => format!("with it the files of this plan are larger than {} MB", LARGEST >> 20),
        });
    }
    String::from_utf8(octets).map_err(|error| {
        let at = error.utf8_error().valid_up_to();
        let line = error.as_bytes()[..at].iter().filter(|octet| **octet == b'\n').count() + 1;
        format!("the file is not UTF-8: line {line} (octet {at}) holds something else; save it as UTF-8")
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

/// Reads a plan, and the codebooks and tables it names, which are found beside it.
///
/// # Errors
/// A plan file that cannot be read as text. What it names and cannot be read is a finding of the plan.
pub fn plan(path: &Path, reach: Reach) -> Result<Loaded, FileError> {
    let (text, mut others) = with_others(path, reach)?;
    Ok(Plan::read(&path.display().to_string(), &text, &mut |name| others.read(name)))
}

/// Reads a plan as [`plan`] does, or a codebook. `watch` is sent the name of each file before it is read.
///
/// # Errors
/// As [`plan`].
pub fn plan_or_codebook(path: &Path, reach: Reach, watch: &mut dyn FnMut(&str)) -> Result<Loaded, FileError> {
    let name = path.display().to_string();
    watch(&name);
    let (text, mut others) = with_others(path, reach)?;
    let mut fetch = |name: &str| {
        watch(name);
        others.read(name)
    };
    Ok(Plan::read_or_codebook(&name, &text, &mut fetch))
}

/// Reads a plan or a codebook that is being edited: its text, and those that `edited` gives for other files, stand in place of
/// what is on disk.
#[must_use]
pub fn edited(path: &Path, text: &str, reach: Reach, edited: &dyn Fn(&Path) -> Option<String>) -> Loaded {
    let mut others = Others::of(path, text, reach);
    let mut fetch = |name: &str| {
        let on_disk = others.read(name)?;
        Ok(edited(&others.folder.join(name)).unwrap_or(on_disk))
    };
    Plan::read_or_codebook(&path.display().to_string(), text, &mut fetch)
}

/// Reads a message of `protocol` that was written down, and the codebooks it names, which are found beside it.
///
/// # Errors
/// A file that cannot be read as text.
pub fn specimen(protocol: Protocol, path: &Path, reach: Reach) -> Result<Specimen, FileError> {
    let (text, mut others) = with_others(path, reach)?;
    Ok(Specimen::read(protocol, &path.display().to_string(), &text, &mut |name| others.read(name)))
}

/// The files that a file names.
struct Others {
    folder: PathBuf,
    reach: Reach,
    /// How many octets they may still have.
    left: u64,
    /// Those that were read, and the names they were read by.
    read: HashMap<PathBuf, String>,
}

fn with_others(path: &Path, reach: Reach) -> Result<(String, Others), FileError> {
    let text = text(path)?;
    let others = Others::of(path, &text, reach);
    Ok((text, others))
}

impl Others {
    fn of(path: &Path, text: &str, reach: Reach) -> Self {
        let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
        let left = LARGEST.saturating_sub(text.len() as u64);
        Self { folder: folder.to_owned(), reach, left, read: HashMap::new() }
    }

    fn read(&mut self, name: &str) -> Result<String, Box<dyn std::error::Error>> {
        let real = |path: &Path| path.canonicalize().map_err(|error| reason(&error));
        // Links are followed first: one in the folder may lead out of it.
        let path = real(&self.folder.join(name))?;
        if self.reach == Reach::Folder && !path.starts_with(real(&self.folder)?) {
            let advice = "move it there, or allow such files with --trust-paths";
            return Err(format!("it is outside the folder of the file that names it; {advice}").into());
        }
        if let Some(first) = self.read.get(&path) {
            return Err(format!("it is read already, as {first}; name it once").into());
        }
        let text = up_to(self.left, &path)?;
        self.left -= text.len() as u64;
        self.read.insert(path, name.to_owned());
        Ok(text)
    }
}
