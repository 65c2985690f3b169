//! Which files are checked: those that are named, and in folders those that are plans or codebooks.

use std::path::{Path, PathBuf};

use crate::commands::shown;
use crate::exit::{Failure, because};

/// The files to check, in the order in which they were named, those of a folder by their names.
pub(super) struct Files {
    pub(super) all: Vec<PathBuf>,
    /// How many TOML files of folders are neither plans nor codebooks.
    pub(super) others: usize,
}

/// No more files are looked at in folders.
const MOST: usize = 100_000;

/// Folders inside of folders are not followed deeper.
const DEEPEST: usize = 64;

/// The keys by one of which a file is a plan or a codebook.
const KEYS: [&str; 6] = ["network", "fleet", "reservation", "reservations", "send", "book"];

impl Files {
    pub(super) fn of(named: &[PathBuf]) -> Result<Self, Failure> {
        let mut files = Self { all: Vec::new(), others: 0 };
        for path in named {
            if path.is_dir() {
                files.folder(path, 0)?;
            } else {
                files.all.push(path.clone());
            }
        }
        if files.all.is_empty() {
            let folders: Vec<String> = named.iter().map(|path| shown(path)).collect();
            return because(format!("no plan and no codebook in {}", folders.join(", ")));
        }
        Ok(files)
    }

    /// Adds those of a folder, and of the folders in it. Links to folders are not followed, as they may lead around in a circle.
    fn folder(&mut self, folder: &Path, depth: usize) -> Result<(), Failure> {
        let unread =
            |error: std::io::Error| Failure::Because(format!("{}: {}", shown(folder), oplex_io::files::reason(&error)));
        let listed = std::fs::read_dir(folder).and_then(Iterator::collect::<std::io::Result<Vec<_>>>);
        let mut listed = listed.map_err(unread)?;
        listed.sort_by_key(std::fs::DirEntry::file_name);
        for entry in listed {
            let (path, kind) = (entry.path(), entry.file_type().map_err(unread)?);
            let hidden = entry.file_name().as_encoded_bytes().starts_with(b".");
            if kind.is_dir() && !hidden && depth < DEEPEST {
                self.folder(&path, depth + 1)?;
            } else if !kind.is_dir() && path.extension().is_some_and(|extension| extension == "toml") {
                match oplex_io::files::text(&path).map_or(true, |text| is_ours(&text)) {
                    true => self.all.push(path),
                    false => self.others += 1,
                }
                if self.all.len() > MOST {
                    return because(format!("{}: there are more than {MOST} plans and codebooks", shown(folder)));
                }
            }
        }
        Ok(())
    }
}

/// Whether a text is that of a plan or a codebook; what is no TOML is one, so that the reason is said.
pub(crate) fn is_ours(text: &str) -> bool {
    match toml_edit::Document::parse(text) {
        Ok(document) => KEYS.iter().any(|key| document.contains_key(key)),
        Err(_) => true,
    }
}
