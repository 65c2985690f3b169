//! An option's octets, and the way back from each octet to where it was written.

use std::fmt;
use std::ops::Range;

use super::{Carrier, Codebook, Definition};
use crate::layout::{EncodeError, Fault, LeafSource, Misfit, Topic, Value, Written};
use crate::octets::put_number;

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

impl std::error::Error for EncodeFailure {}

pub(super) fn encode(codebook: &Codebook, definition: &Definition, written: &Written) -> Result<Payload, Vec<Misfit>> {
    let layout = codebook.layout(definition);
    let reading = layout.read(codebook, written)?;
    let whole =
        |message: String| vec![Misfit { span: written.span.clone(), topic: Topic::Shape, message, instead: None }];
    let encoded = layout.encode(codebook, &reading.value).map_err(|error| whole(error.to_string()))?;
    let length = encoded.octets.len();
    if definition.single && length > 255 {
        let name = &definition.name;
        return Err(whole(format!("{length} octets; {name} must fit in one option, and one option holds 255")));
    }
    // Lengths of these count eight octets in an octet, the option's own two included (RFC 4861, section 4.6).
    if definition.is_ra() && length > 2038 {
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
    let octets = layout.encode(codebook, value).map_err(EncodeFailure::Value)?.octets;
    match layout.faults(codebook, &octets).into_iter().next() {
        Some(fault) => Err(EncodeFailure::Fault(fault)),
        None => Ok(octets),
    }
}

/// RFC 2132, section 8.4 for option 43; RFC 3925, section 4 for option 125 and section 3 for 124, which has no codes.
pub(super) fn carry(carrier: Carrier, options: &[(u16, &[u8])]) -> Vec<u8> {
    let Carrier::Vendor { code: outer, enterprise } = carrier else { return Vec::new() };
    let coded = |(code, part): (u16, &[u8])| match outer {
        124 => part.to_vec(),
        _ => [&[code as u8, part.len() as u8], part].concat(),
    };
    let parts = options.iter().flat_map(|(code, octets)| split(octets).map(|part| coded((*code, part))));
    let Some(enterprise) = enterprise else { return parts.flatten().collect() };
    // The length of a block has one octet. What does not fit goes on in another block of the same enterprise.
    let mut blocks: Vec<Vec<u8>> = vec![Vec::new()];
    for part in parts {
        match blocks.last_mut().filter(|block| block.len() + part.len() <= 255) {
            Some(block) => block.extend(part),
            None => blocks.push(part),
        }
    }
    let whole = |block: &Vec<u8>| [&enterprise.to_be_bytes()[..], &[block.len() as u8], block].concat();
    blocks.iter().flat_map(whole).collect()
}

/// An option as it goes into a message, and what it was made of.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Assembled<T> {
    /// Its code among its family's own options.
    pub code: u16,
    /// Its octets.
    pub octets: Vec<u8>,
    /// Whatever went along with the options in it.
    pub from: Vec<T>,
}

/// The options of one vendor on their way into the option that carries them.
struct Carried<'o, T> {
    carrier: Carrier,
    options: Vec<(u16, &'o [u8])>,
    from: Vec<T>,
}

/// Brings options to where they travel: those of vendors into the options that carry them, one after the other. Of
/// two for one code the later counts. Sub-options of relays travel in nothing that a server begins.
pub fn assemble<'o, T: Clone>(options: impl IntoIterator<Item = (&'o Definition, &'o [u8], T)>) -> Vec<Assembled<T>> {
    let mut whole: Vec<Assembled<T>> = Vec::new();
    let mut carried: Vec<Carried<'_, T>> = Vec::new();
    for (definition, octets, from) in options {
        if definition.is_top_level() {
            whole.retain(|option| option.code != definition.code);
            whole.push(Assembled { code: definition.code, octets: octets.to_vec(), from: vec![from.clone()] });
        }
        for carrier in definition.carriers.iter().filter(|carrier| matches!(carrier, Carrier::Vendor { .. })) {
            let at = carried.iter().position(|known| known.carrier == *carrier).unwrap_or_else(|| {
                carried.push(Carried { carrier: *carrier, options: Vec::new(), from: Vec::new() });
                carried.len() - 1
            });
            carried[at].options.push((definition.code, octets));
            carried[at].from.push(from.clone());
        }
    }
    for Carried { carrier, options, from } in carried {
        let Carrier::Vendor { code, .. } = carrier else { continue };
        let octets = carry(carrier, &options);
        // Several enterprises share one option 125, one after the other (RFC 3925, section 4).
        match whole.iter_mut().find(|option| option.code == code) {
            Some(option) => {
                option.octets.extend(octets);
                option.from.extend(from);
            }
            None => whole.push(Assembled { code, octets, from }),
        }
    }
    whole.sort_by_key(|option| option.code);
    whole
}

/// The same for DHCPv6, in the order given: options of vendors go into option 17, one for each enterprise (RFC 8415, section
/// 21.17), which stand last. What does not travel there is left out.
pub fn assemble_v6<'o, T: Clone>(
    options: impl IntoIterator<Item = (&'o Definition, &'o [u8], T)>,
) -> Vec<Assembled<T>> {
    let mut whole: Vec<Assembled<T>> = Vec::new();
    let mut carried: Vec<(u32, Assembled<T>)> = Vec::new();
    for (definition, octets, from) in options {
        if definition.is_v6() {
            whole.push(Assembled { code: definition.code, octets: octets.to_vec(), from: vec![from.clone()] });
        }
        for carrier in &definition.carriers {
            let Carrier::VendorV6 { enterprise } = *carrier else { continue };
            let at = carried.iter().position(|(known, _)| *known == enterprise).unwrap_or_else(|| {
                let octets = enterprise.to_be_bytes().to_vec();
                carried.push((enterprise, Assembled { code: 17, octets, from: Vec::new() }));
                carried.len() - 1
            });
            let option = &mut carried[at].1;
            put_number(&mut option.octets, definition.code.into(), 2);
            put_number(&mut option.octets, octets.len() as u64, 2);
            option.octets.extend_from_slice(octets);
            option.from.push(from.clone());
        }
    }
    whole.extend(carried.into_iter().map(|(_, option)| option));
    whole
}

/// The parts of at most 255 octets that a long payload travels in (RFC 3396, section 5); an empty one is one part.
pub fn split(octets: &[u8]) -> impl Iterator<Item = &[u8]> {
    let empty = octets.is_empty().then_some(octets);
    octets.chunks(255).chain(empty)
}

impl Payload {
    /// Where the value that became these octets was written, as exactly as that is known.
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
