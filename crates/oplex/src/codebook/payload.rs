//! An option's octets, and the way back from each octet to where it was written.

use crate::prelude::*;
use core::fmt;
use core::ops::Range;

use super::{Codebook, Definition};
use crate::family::Protocol;
use crate::layout::{EncodeError, Fault, Input, LeafSource, Topic, Value, ValueError, ValueErrors};

/// An encoded option.
#[derive(Debug, Clone, PartialEq)]
pub struct Payload {
    /// What it means.
    pub value: Value,
    /// Its octets.
    pub octets: Vec<u8>,
    /// What is wrong with the octets, although they could be written.
    pub faults: Vec<Fault>,
    leaves: Vec<(LeafSource, Range<usize>)>,
}

impl Payload {
    /// Octets that were encoded before.
    pub(crate) fn known(codebook: &Codebook, definition: &Definition, octets: Vec<u8>) -> Self {
        let value = codebook.read(definition, &octets).value.unwrap_or_else(|| Value::Raw(octets.clone()));
        Self { value, octets, faults: Vec::new(), leaves: Vec::new() }
    }
}

/// Why a value was not encoded.
#[derive(Debug, Clone, PartialEq)]
#[non_exhaustive]
pub enum EncodeFailure {
    /// It has no octets under the layout.
    Value(EncodeError),
    /// It has octets, but the layout forbids them.
    Fault(Fault),
}

impl fmt::Display for EncodeFailure {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Value(error) => error.fmt(f),
            Self::Fault(fault) => fault.kind.fmt(f),
        }
    }
}

impl core::error::Error for EncodeFailure {}

pub(super) fn encode(codebook: &Codebook, definition: &Definition, written: &Input) -> Result<Payload, ValueErrors> {
    let layout = codebook.layout(definition);
    let reading = layout.read(codebook, written)?;
    let whole = |message: String| {
        vec![ValueError { span: written.span.clone(), topic: Topic::Shape, message, instead: None }].into()
    };
    let encoded = layout.encode(codebook, &reading.value).map_err(|error| whole(error.to_string()))?;
    let length = encoded.octets.len();
    if definition.single && length > 255 {
        let name = &definition.name;
        return Err(whole(format!("{length} octets; {name} must fit in one option, and one option holds 255")));
    }
    // Lengths of these count eight octets in an octet, the option's own two included (RFC 4861, section 4.6).
    if definition.is_own_of(Protocol::Ra) && length > 2038 {
        return Err(whole(format!("{length} octets; an option of a router advertisement holds 2038")));
    }
    // RFC 3396 sets no limit of its own, but nothing larger fits in a datagram.
    if length > 65_535 {
        return Err(whole(format!("{length} octets are more than a message can hold (65,535)")));
    }
    Ok(Payload {
        faults: layout.faults(codebook, &encoded.octets),
        leaves: reading.leaves.into_iter().zip(encoded.leaves).collect(),
        value: reading.value,
        octets: encoded.octets,
    })
}

pub(super) fn encode_value(
    codebook: &Codebook,
    definition: &Definition,
    value: &Value,
) -> Result<Vec<u8>, EncodeFailure> {
    let layout = codebook.layout(definition);
    let named = |error| EncodeFailure::Value(EncodeError::of(&definition.label(), error));
    let octets = layout.encode(codebook, value).map_err(named)?.octets;
    match layout.faults(codebook, &octets).into_iter().next() {
        Some(fault) => Err(EncodeFailure::Fault(fault)),
        None => Ok(octets),
    }
}

impl Payload {
    /// Where the value that became these octets was written, as exactly as that is known.
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    /// use oplex::layout::Input;
    ///
    /// let codebook = Codebook::standard();
    /// let servers = codebook.encode(codebook.find("v4:dns")?, &Input::from_text("10.64.0.53, 10.64.0.54"))?;
    /// // The last four octets are the second address, which stands behind the comma.
    /// assert_eq!(servers.source_of(&(4..8)), Some(12..22));
    /// assert_eq!(servers.sources().count(), 2);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn source_of(&self, octets: &Range<usize>) -> Option<Range<usize>> {
        let (source, leaf) = self.leaves.iter().find(|(_, leaf)| {
            leaf.start <= octets.start && octets.start < leaf.end.max(leaf.start + 1) && octets.end <= leaf.end
        })?;
        // Text stands one octet for one character, and only then are some of its octets some of its characters.
        if !source.exact || leaf.len() != source.span.len() || octets.is_empty() {
            return Some(source.span.clone());
        }
        let first = source.span.start + octets.start - leaf.start;
        Some(first..first + octets.len())
    }

    /// Every leaf of the value in order, with where it was written.
    pub fn sources(&self) -> impl Iterator<Item = Range<usize>> {
        self.leaves.iter().map(|(source, _)| source.span.clone())
    }
}
