//! Names as they stand in the headings of a TOML file.

use core::fmt::Write as _;

use crate::prelude::*;

/// A name as a key: in quotes where it holds more than letters, digits, hyphens and underscores.
pub(crate) fn key(name: &str) -> String {
    let is_bare = |octet: u8| octet.is_ascii_alphanumeric() || matches!(octet, b'-' | b'_');
    if !name.is_empty() && name.bytes().all(is_bare) { name.to_owned() } else { quoted(name) }
}

/// A text in quotes, as a TOML file has it.
pub(crate) fn quoted(name: &str) -> String {
    let mut text = "\"".to_owned();
    for c in name.chars() {
        match c {
            '"' | '\\' => text.extend(['\\', c]),
            c if c.is_control() => _ = write!(text, "\\u{:04x}", u32::from(c)),
            c => text.push(c),
        }
    }
    text + "\""
}

/// Without files no line has a heading before it.
#[cfg(not(feature = "files"))]
pub(crate) fn names(_: &str) -> Option<Vec<String>> {
    None
}

/// The names in a line that is the heading of a table, `[network.office.send.v4]`.
#[cfg(feature = "files")]
pub(crate) fn names(line: &str) -> Option<Vec<String>> {
    let line = line.trim_start();
    if !line.starts_with('[') {
        return None;
    }
    let mut tables = toml::de::DeTable::parse(line).ok()?.into_inner();
    let mut names = Vec::new();
    while let Some((name, inner)) = core::mem::take(&mut tables).into_iter().next() {
        names.push(name.into_inner().into_owned());
        if let toml::de::DeValue::Table(inner) = inner.into_inner() {
            tables = inner;
        }
    }
    Some(names)
}
