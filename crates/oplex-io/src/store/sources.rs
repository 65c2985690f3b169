//! The plan and its files as they were written, so that the plan of any release can be had back.

use oplex::finding::Sources;
use oplex::release::BookEntry;
use serde::{Deserialize, Serialize};

use super::tree::{Parts, Reader, StorePart, ends_with};
use super::{StoreError, digest};

/// A file that a release was made of.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SourceFile {
    /// Its name, as the plan has it; the plan's own without folders.
    pub name: String,
    /// What it is to the plan.
    pub kind: SourceKind,
    /// Its text.
    pub text: String,
}

/// What a file is to the plan.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
#[non_exhaustive]
pub enum SourceKind {
    /// The plan itself.
    Plan,
    /// A codebook.
    Codebook,
    /// A table of reservations.
    Reservations,
}

/// All files, the plan first.
#[derive(Debug, Serialize, Deserialize)]
pub(super) struct Files {
    pub(super) files: Vec<FileEntry>,
}

#[derive(Debug, Serialize, Deserialize)]
pub(super) struct FileEntry {
    pub(super) name: String,
    pub(super) kind: SourceKind,
    /// How many octets it has.
    pub(super) octets: usize,
    pub(super) sha256: String,
    /// Its text in pieces: each entry of these parts names a part that is nothing but text.
    pub(super) text: StorePart,
}

/// A piece of a text ends at the end of a line, so that a change of a line changes one piece.
fn pieces(text: &str) -> impl Iterator<Item = &str> {
    const LEAST: usize = 8 << 10;
    const MOST: usize = 64 << 10;
    let mut rest = text;
    std::iter::from_fn(move || {
        if rest.is_empty() {
            return None;
        }
        let mut end = 0;
        for line in rest.split_inclusive('\n') {
            if end > 0 && end + line.len() > MOST {
                break;
            }
            end += line.len();
            if end >= LEAST && ends_with(line.as_bytes()) {
                break;
            }
        }
        // A line that is too long by itself is cut where characters end.
        if end > MOST {
            end = (1..=MOST).rev().find(|at| rest.is_char_boundary(*at)).unwrap_or(end);
        }
        let (piece, more) = rest.split_at(end);
        rest = more;
        Some(piece)
    })
}

pub(super) fn write(parts: &mut Parts, sources: &Sources, books: &[BookEntry]) -> serde_json::Result<String> {
    let mut files = Vec::new();
    for (at, source) in sources.all().enumerate() {
        let names: Vec<String> = pieces(&source.text).map(|piece| parts.add(piece.as_bytes().to_vec())).collect();
        let own = std::path::Path::new(&source.name).file_name().map(|name| name.to_string_lossy().into_owned());
        let kind = match at {
            0 => SourceKind::Plan,
            _ if books.iter().any(|book| book.name == source.name) => SourceKind::Codebook,
            _ => SourceKind::Reservations,
        };
        files.push(FileEntry {
            kind,
            name: own.filter(|_| at == 0).unwrap_or_else(|| source.name.clone()),
            octets: source.text.len(),
            sha256: digest(source.text.as_bytes()),
            text: parts.sequence(names.into_iter().map(|name| (None, name)))?,
        });
    }
    Ok(parts.add(serde_json::to_vec(&Files { files })?))
}

pub(super) fn read(reader: Reader<'_>, root: &str) -> Result<Vec<SourceFile>, StoreError> {
    only(reader, root, &|_| true)
}

/// Those of some kinds.
pub(super) fn only(
    reader: Reader<'_>,
    root: &str,
    wanted: &dyn Fn(SourceKind) -> bool,
) -> Result<Vec<SourceFile>, StoreError> {
    let Files { files } = reader.document(root)?;
    files.into_iter().filter(|file| wanted(file.kind)).map(|file| one(reader, root, file)).collect()
}

fn one(reader: Reader<'_>, root: &str, file: FileEntry) -> Result<SourceFile, StoreError> {
    let mut octets = Vec::new();
    for piece in reader.all::<String>(&file.text)? {
        octets.extend(reader.octets(&piece)?);
    }
    let wrong = |why: &str| {
        let path = reader.directory.path(&super::tree::name(root));
        StoreError::new(&path, format!("the text of {} {why}", file.name))
    };
    if digest(&octets) != file.sha256 {
        return Err(wrong("is not the one that was published"));
    }
    let text = String::from_utf8(octets).map_err(|_| wrong("is not UTF-8"))?;
    Ok(SourceFile { name: file.name, kind: file.kind, text })
}
