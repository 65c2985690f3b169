//! DNS names between their dotted form and their labels.

use crate::layout::fault::Topic;
use crate::layout::value::atom_error::AtomError;
use crate::prelude::*;

/// The labels of a dotted name. `\.` and `\032` stand for odd characters (RFC 1035, section 5.1).
pub(in crate::layout) fn labels(text: &str) -> Result<Vec<Vec<u8>>, AtomError> {
    if text.is_empty() {
        return Err(AtomError::all(text, "an empty name; the root of all names is written `.`"));
    }
    let whole = without_final_dot(text);
    if whole.is_empty() {
        return Ok(Vec::new());
    }
    let mut labels = vec![Vec::new()];
    let mut start = 0;
    let mut characters = whole.char_indices();
    while let Some((at, c)) = characters.next() {
        let octets = match c {
            '.' => {
                finish(&labels, start..at)?;
                labels.push(Vec::new());
                start = at + 1;
                continue;
            }
            '\\' => escaped(&mut characters).ok_or_else(|| AtomError {
                at: at..text.len(),
                ..AtomError::all(text, "a backslash must be followed by a character or by three digits up to 255")
            })?,
            c => c.to_string().into_bytes(),
        };
        if let Some(label) = labels.last_mut() {
            label.extend(octets);
        }
    }
    finish(&labels, start..whole.len())?;
    let length: usize = labels.iter().map(|label| label.len() + 1).sum::<usize>() + 1;
    if length > 255 {
        let message = format!("the name takes {length} octets; 255 is the most (RFC 1035, section 2.3.4)");
        return Err(AtomError { topic: Topic::LabelLength, ..AtomError::all(text, message) });
    }
    Ok(labels)
}

fn without_final_dot(text: &str) -> &str {
    let whole = text.strip_suffix('.').unwrap_or(text);
    let backslashes = whole.bytes().rev().take_while(|octet| *octet == b'\\').count();
    if backslashes % 2 == 1 { text } else { whole }
}

fn escaped(characters: &mut core::str::CharIndices<'_>) -> Option<Vec<u8>> {
    let (_, first) = characters.next()?;
    if !first.is_ascii_digit() {
        return Some(first.to_string().into_bytes());
    }
    let digits: String = core::iter::once(first).chain(characters.by_ref().take(2).map(|(_, c)| c)).collect();
    if digits.len() == 3 { digits.parse::<u8>().ok().map(|octet| vec![octet]) } else { None }
}

fn finish(labels: &[Vec<u8>], at: core::ops::Range<usize>) -> Result<(), AtomError> {
    let length = labels.last().map_or(0, Vec::len);
    let (topic, message) = match length {
        0 => (Topic::NameSyntax, "a name with nothing between two dots".to_owned()),
        1..=63 => return Ok(()),
        _ => (
            Topic::LabelLength,
            format!(
                "a label of {length} octets; between two dots a name may have 63 at most (RFC 1035, section 2.3.4)"
            ),
        ),
    };
    Err(AtomError { at, topic, message, instead: None })
}

/// The name's labels and the root label.
pub(in crate::layout) fn put(sink: &mut Vec<u8>, labels: &[Vec<u8>]) {
    put_labels(sink, labels);
    sink.push(0);
}

/// The labels alone.
pub(in crate::layout) fn put_labels(sink: &mut Vec<u8>, labels: &[Vec<u8>]) {
    for label in labels {
        // `labels` lets no label over 63 octets through.
        sink.push(label.len() as u8);
        sink.extend_from_slice(label);
    }
}

/// Writes names with pointers to the tails already written (RFC 1035, section 4.1.4; RFC 3397, section 2).
#[derive(Default)]
pub(in crate::layout) struct Compressor {
    tails: Vec<(Vec<Vec<u8>>, usize)>,
}

impl Compressor {
    /// Appends one name to `sink`; pointers count from `base`.
    pub(in crate::layout) fn put(&mut self, sink: &mut Vec<u8>, base: usize, labels: &[Vec<u8>]) {
        for (index, label) in labels.iter().enumerate() {
            let tail = &labels[index..];
            // Only tails spelled alike: a reader should get back the capitals that were written.
            if let Some((_, at)) = self.tails.iter().find(|(known, _)| known == tail) {
                sink.extend_from_slice(&(0xc000 | *at as u16).to_be_bytes());
                return;
            }
            let at = sink.len() - base;
            if at < 0x4000 {
                self.tails.push((tail.to_vec(), at));
            }
            sink.push(label.len() as u8);
            sink.extend_from_slice(label);
        }
        sink.push(0);
    }
}
