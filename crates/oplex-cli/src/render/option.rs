//! An option's value and the options inside it, as every command shows them.

use std::ops::Range;

use oplex::codebook::{Codebook, Definition};
use oplex::layout::Value;
use oplex::octets::hex;

/// Octets of an option that are shown beside its value; `oplex decode v4:CODE` shows all.
const SHOWN: usize = 8;

/// Characters of a line of a value that has several parts.
const WIDE: usize = 64;

/// Characters of a value that anybody reads; programs get all of them.
const LONGEST: usize = 400;

/// What an option means.
#[derive(Default)]
pub(crate) struct Meaning {
    /// Its value, as far as it can be read.
    pub(crate) value: Option<Value>,
    /// The same with names beside codes and times beside counts, where it is of such.
    spelled: Option<String>,
    /// The options inside it, however deep, in the order of their octets.
    pub(crate) inner: Vec<Inner>,
}

/// An option inside another's payload.
pub(crate) struct Inner {
    pub(crate) code: u16,
    pub(crate) name: Option<String>,
    pub(crate) depth: usize,
    /// From its code to its end.
    pub(crate) around: Range<usize>,
    pub(crate) payload: Range<usize>,
    pub(crate) value: Option<Value>,
}

impl Meaning {
    /// Reads an option. Option 43 does not say whose it is; a codebook that was named does, or `book`.
    pub(crate) fn of(codebook: &Codebook, definition: &Definition, octets: &[u8], book: Option<&str>) -> Self {
        let vendors = codebook.by_vendor(definition, book).map(|(_, definition)| definition);
        let layout = codebook.layout(vendors.as_ref().unwrap_or(definition));
        let read = layout.decoded(codebook, octets);
        let spelled = read.value.as_ref().and_then(|value| layout.spelled(codebook, value));
        let mut values = Vec::new();
        if let Some(value) = &read.value {
            inner_values(value, &mut values);
        }
        let mut values = values.into_iter();
        let mut inner: Vec<Inner> = Vec::with_capacity(read.options.len());
        for nested in read.options {
            let depth = nested.inside.and_then(|outer| inner.get(outer)).map_or(0, |outer| outer.depth + 1);
            inner.push(Inner {
                code: nested.code,
                name: codebook.nested(nested.chapter, nested.code).map(|known| known.name.to_string()),
                depth,
                around: nested.around,
                payload: nested.payload,
                value: values.next().flatten(),
            });
        }
        Self { value: read.value, spelled, inner }
    }

    /// The value as text, without the options inside it, which have lines of their own.
    pub(crate) fn text(&self) -> String {
        let spelled = self.spelled.as_deref().map(shortened);
        spelled.or_else(|| self.value.as_ref().and_then(own_text)).unwrap_or_default()
    }
}

impl Inner {
    /// As [`Meaning::text`].
    pub(crate) fn text(&self) -> String {
        self.value.as_ref().and_then(own_text).unwrap_or_default()
    }

    pub(crate) fn name(&self) -> &str {
        self.name.as_deref().unwrap_or("undefined")
    }
}

/// The values of nested options, an option of nothing but options having none of its own.
fn inner_values(value: &Value, values: &mut Vec<Option<Value>>) {
    match value {
        Value::Options(options) => {
            for option in options {
                let holds_options = matches!(option.value, Value::Options(_));
                values.push((!holds_options).then(|| option.value.clone()));
                inner_values(&option.value, values);
            }
        }
        Value::List(items) => items.iter().for_each(|item| inner_values(item, values)),
        Value::Record(fields) => fields.iter().for_each(|(_, field)| inner_values(field, values)),
        _ => {}
    }
}

fn holds_options(value: &Value) -> bool {
    match value {
        Value::Options(_) => true,
        Value::Record(fields) => fields.iter().any(|(_, field)| holds_options(field)),
        Value::List(items) => items.iter().any(holds_options),
        _ => false,
    }
}

/// A value as text, without the options inside it.
fn own_text(value: &Value) -> Option<String> {
    match value {
        value if !holds_options(value) => Some(shown(value)),
        Value::Record(fields) => {
            let fields = fields.iter().filter(|(_, field)| !holds_options(field));
            Some(shown(&Value::Record(fields.cloned().collect())))
        }
        _ => None,
    }
}

/// The value; octets that spell something, as what they spell, as their hexadecimal stands beside it.
pub(crate) fn shown(value: &Value) -> String {
    match value {
        Value::Bytes(octets) if octets.len() > 1 && octets.iter().all(|octet| (b' '..=b'~').contains(octet)) => {
            format!("{:?}", String::from_utf8_lossy(octets))
        }
        value => shortened(&value.to_string()),
    }
}

/// A value in lines that a terminal has room for beside what stands in front, broken between its parts.
pub(crate) fn in_lines(text: &str) -> Vec<String> {
    let mut lines = vec![String::new()];
    for part in text.split_inclusive(", ") {
        match lines.last_mut() {
            Some(line) if line.is_empty() || line.chars().count() + part.trim_end().chars().count() <= WIDE => {
                line.push_str(part);
            }
            _ => lines.push(part.to_owned()),
        }
    }
    lines
}

fn shortened(text: &str) -> String {
    match text.char_indices().nth(LONGEST) {
        Some((end, _)) => format!("{} … ({} characters)", &text[..end], text.chars().count()),
        None => text.to_owned(),
    }
}

/// The first octets, and how many there are when these are not all.
pub(crate) fn some_octets(octets: &[u8]) -> String {
    match octets.len() {
        0 => "none".to_owned(),
        length if length <= SHOWN => hex::spaced(octets),
        length => format!("{} … ({length})", hex::spaced(&octets[..SHOWN - 3])),
    }
}
