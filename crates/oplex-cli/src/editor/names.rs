//! Names of networks and fleets: where they are defined, and how they are changed everywhere at once. Options of vendors are defined
//! in their codebooks.

use std::ops::Range;
use std::path::PathBuf;

use lsp_types::{Location, TextEdit};
use oplex::plan::Loaded;

use super::documents::{Document, file_of, uri};
use super::hover;
use super::lines::Lines;
use super::outline::{Outline, Piece};
use super::table::{self, Named};
use crate::commands::path_of;

/// A name as a key of TOML, in quotes where it needs them.
pub(super) fn key(name: &str) -> String {
    toml_edit::Key::new(name).to_string()
}

/// A text in quotes, as TOML has it.
pub(super) fn quoted(text: &str) -> String {
    toml_edit::Value::from(text).to_string().trim().to_owned()
}

/// Where what stands at an octet is defined.
pub(super) fn definition(document: &Document, octet: usize) -> Option<Location> {
    let piece = document.outline.at(octet)?;
    let loaded = document.loaded()?;
    if let Some(what) = table::named(piece) {
        let piece = defining(&document.outline, what, &piece.text)?;
        return Some(Location::new(uri(&document.path)?, document.lines.between(&document.text, &piece.span)));
    }
    let names_file = matches!(piece.path.names().first(), Some(&("codebooks" | "reservations")));
    if names_file && !piece.is_key {
        let path = document.path.parent()?.join(&piece.text);
        return path.is_file().then(|| Some(Location::new(uri(&path)?, lsp_types::Range::default())))?;
    }
    in_codebook(loaded, piece)
}

/// The heading or key that defines a network or a fleet.
fn defining<'o>(outline: &'o Outline, what: Named, name: &str) -> Option<&'o Piece> {
    let table = match what {
        Named::Network => "network",
        Named::Fleet => "fleet",
    };
    outline.pieces.iter().find(|piece| piece.is_key && piece.text == name && piece.path.names() == [table, name])
}

/// Where the codebook that a plan names defines an option.
fn in_codebook(loaded: &Loaded, piece: &Piece) -> Option<Location> {
    let plan = loaded.plan.as_ref()?;
    let definition = hover::of_piece_in(&plan.codebook, piece).filter(|definition| !definition.is_standard())?;
    let files = plan.books.iter().map(|file| loaded.sources.get(*file));
    files.into_iter().find_map(|source| {
        let outline = Outline::of(&source.text);
        let is = |path: &[&str], text: &str| {
            outline.pieces.iter().find(|piece| !piece.is_key && piece.text == text && piece.path.names() == path)
        };
        // An option of the house's own codes stands in a book of another prefix than its own.
        let own = is(&["book"], definition.book()).is_some() || definition.book() == "v4" || definition.book() == "v6";
        let place = is(&["option", "name"], &definition.name).filter(|_| own)?;
        let path = path_of(loaded, file_of(loaded, &source.name)?);
        Some(Location::new(uri(&path)?, Lines::of(&source.text).between(&source.text, &place.span)))
    })
}

/// The name that stands at an octet, and can be changed.
pub(super) fn name_at(document: &Document, octet: usize) -> Option<(&Piece, Named)> {
    let piece = document.outline.at(octet)?;
    Some((piece, table::named(piece)?))
}

/// All that has to be written where a network or a fleet is to have another name, by file.
pub(super) fn rename(document: &Document, octet: usize, new: &str) -> Result<Vec<(PathBuf, Vec<TextEdit>)>, String> {
    let Some((piece, what)) = name_at(document, octet) else {
        return Err("only networks and fleets have names that can be changed everywhere".to_owned());
    };
    let old = piece.text.as_str();
    if new.trim().is_empty() {
        return Err("a name has one character at least".to_owned());
    }
    if defining(&document.outline, what, new).is_some() {
        return Err(format!(
            "there is a {} of the name {new} already",
            if what == Named::Network { "network" } else { "fleet" }
        ));
    }
    let own = document.outline.pieces.iter().filter(|piece| piece.text == old && table::named(piece) == Some(what));
    let own = own.map(|piece| {
        let range = document.lines.between(&document.text, &piece.span);
        TextEdit::new(range, if piece.is_key { key(new) } else { quoted(new) })
    });
    let mut files = vec![(document.path.clone(), own.collect())];
    if what == Named::Network {
        files.extend(in_tables(document, old, new)?);
    }
    Ok(files)
}

/// The same in the tables of reservations that a plan names.
fn in_tables(document: &Document, old: &str, new: &str) -> Result<Vec<(PathBuf, Vec<TextEdit>)>, String> {
    let Some(loaded) = document.loaded() else { return Ok(Vec::new()) };
    let mut files = Vec::new();
    for source in loaded.sources.all().filter(|source| !source.name.ends_with(".toml")) {
        let cells = network_cells(&source.text);
        let lines = Lines::of(&source.text);
        let own = cells.into_iter().filter(|cell| source.text[cell.clone()].trim().trim_matches('"') == old);
        let edits: Vec<TextEdit> =
            own.map(|cell| TextEdit::new(lines.between(&source.text, &cell), new.to_owned())).collect();
        if !edits.is_empty() {
            if new.contains([',', ';', '"', '\n']) || new.starts_with('#') {
                return Err(format!("{} has this network's name, and {new} cannot stand in a table", source.name));
            }
            let folder = document.path.parent().map(PathBuf::from).unwrap_or_default();
            files.push((folder.join(&source.name), edits));
        }
    }
    Ok(files)
}

/// Where the cells of the column `network` are in a table.
fn network_cells(text: &str) -> Vec<Range<usize>> {
    let mut rows = rows(text).filter(|row| !row.is_empty());
    let Some(head) = rows.next() else { return Vec::new() };
    let name = |cell: &Range<usize>| text[cell.clone()].trim().trim_matches('"').eq_ignore_ascii_case("network");
    let Some(column) = head.iter().position(name) else { return Vec::new() };
    rows.filter_map(|row| row.get(column).cloned()).collect()
}

/// The cells of each line, which commas or semicolons part; quotes hold them together.
fn rows(text: &str) -> impl Iterator<Item = Vec<Range<usize>>> {
    let mut start = 0;
    text.split_inclusive('\n').map(move |line| {
        let from = start;
        start += line.len();
        let own = line.trim_end_matches(['\n', '\r']);
        if own.trim().is_empty() || own.starts_with('#') {
            return Vec::new();
        }
        let (mut cells, mut cell, mut in_quotes) = (Vec::new(), 0, false);
        for (at, c) in own.char_indices() {
            match c {
                '"' => in_quotes = !in_quotes,
                ',' | ';' if !in_quotes => {
                    cells.push(from + cell..from + at);
                    cell = at + 1;
                }
                _ => {}
            }
        }
        cells.push(from + cell..from + own.len());
        cells
    })
}
