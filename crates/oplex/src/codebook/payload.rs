//! An option's octets, and the way back from each octet to where it was written.

use crate::prelude::*;
use core::fmt;
use core::ops::Range;

use super::{Carrier, Codebook, Definition};
use crate::family::{Family, Protocol};
use crate::layout::{EncodeError, Fault, Input, LeafSource, Topic, Value, ValueError, ValueErrors};
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

/// The octets of the option that carries these sub-options of a vendor: RFC 2132, section 8.4 for option 43; RFC 3925, section 4
/// for option 125 and section 3 for 124, which has no codes; RFC 8415, section 21.17 for option 17 of DHCPv6.
pub(super) fn encapsulate(carrier: Carrier, options: &[(u16, &[u8])]) -> Vec<u8> {
    let Carrier::Vendor { family, code: outer, enterprise } = carrier else { return Vec::new() };
    let head = enterprise.map(u32::to_be_bytes);
    let mut octets = Vec::new();
    if family == Family::V6 {
        octets.extend(head.into_iter().flatten());
        for (code, payload) in options {
            put_number(&mut octets, (*code).into(), 2);
            put_number(&mut octets, payload.len() as u64, 2);
            octets.extend_from_slice(payload);
        }
        return octets;
    }
    let coded = |(code, part): (u16, &[u8])| match outer {
        124 => part.to_vec(),
        _ => [&[code as u8, part.len() as u8], part].concat(),
    };
    let parts = options.iter().flat_map(|(code, octets)| split(octets).map(|part| coded((*code, part))));
    let Some(head) = head else { return parts.flatten().collect() };
    // The length of a block has one octet. What does not fit goes on in another block of the same enterprise.
    let mut blocks: Vec<Vec<u8>> = vec![Vec::new()];
    for part in parts {
        match blocks.last_mut().filter(|block| block.len() + part.len() <= 255) {
            Some(block) => block.extend(part),
            None => blocks.push(part),
        }
    }
    for block in blocks {
        octets.extend_from_slice(&head);
        octets.push(block.len() as u8);
        octets.extend(block);
    }
    octets
}

/// An option on its way into a message.
#[derive(Debug, Clone, Copy)]
pub struct Part<'o, T> {
    /// Its code.
    pub code: u16,
    /// Whether it is one of the family's own options.
    pub own: bool,
    /// What carries it besides.
    pub carriers: &'o [Carrier],
    /// Its octets.
    pub octets: &'o [u8],
    /// Whatever goes along with it.
    pub from: T,
}

impl<'o, T> Part<'o, T> {
    /// An option by its definition.
    #[must_use]
    pub fn new(family: Family, definition: &'o Definition, octets: &'o [u8], from: T) -> Self {
        let own = definition.is_own_of(family.protocol());
        Self { code: definition.code, own, carriers: &definition.carriers, octets, from }
    }
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

/// Brings options to where they travel in messages of a family: those of vendors into the options that carry them, one
/// after the other. Of two for one code of DHCPv4 the later counts, and they come in the order of the codes; DHCPv6 keeps
/// the order given. What does not travel there, such as sub-options of relay agents, is left out.
///
/// ```
/// use oplex::codebook::{Codebook, Part, assemble};
/// use oplex::family::Family;
///
/// let book = "book = \"tern\"\ncarriers = [\"v4:43\"]\n[[option]]\ncode = 1\nname = \"ring\"\nlayout = \"u8\"\n\
///             reference = \"Tern D2 manual, page 12\"\n";
/// let codebook = Codebook::with("tern.toml", book)?;
/// let (router, ring) = (codebook.find("v4:3")?, codebook.find("tern:ring")?);
/// let parts = [Part::new(Family::V4, router, &[10, 64, 4, 1], "router"), Part::new(Family::V4, ring, &[3], "ring")];
/// let whole = assemble(Family::V4, parts);
/// assert_eq!((whole[0].code, &*whole[0].octets), (3, &[10, 64, 4, 1][..]));
/// // The vendor's option stands in option 43, with its own code and length.
/// assert_eq!((whole[1].code, &*whole[1].octets), (43, &[1, 1, 3][..]));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
pub fn assemble<'o, T: Clone>(family: Family, parts: impl IntoIterator<Item = Part<'o, T>>) -> Vec<Assembled<T>> {
    let parts = parts.into_iter();
    let mut whole: Vec<Assembled<T>> = Vec::with_capacity(parts.size_hint().1.unwrap_or(0));
    let mut carried: Vec<Carried<'_, T>> = Vec::new();
    for Part { code, own, carriers, octets, from } in parts {
        if own {
            if family == Family::V4 {
                whole.retain(|option| option.code != code);
            }
            whole.push(Assembled { code, octets: octets.to_vec(), from: vec![from.clone()] });
        }
        let vendors = carriers.iter().filter(|carrier| matches!(carrier, Carrier::Vendor { .. }));
        for carrier in vendors.filter(|carrier| carrier.family() == family) {
            let at = carried.iter().position(|known| known.carrier == *carrier).unwrap_or_else(|| {
                carried.push(Carried { carrier: *carrier, options: Vec::new(), from: Vec::new() });
                carried.len() - 1
            });
            carried[at].options.push((code, octets));
            carried[at].from.push(from.clone());
        }
    }
    for Carried { carrier, options, from } in carried {
        let Carrier::Vendor { code, .. } = carrier else { continue };
        let octets = encapsulate(carrier, &options);
        // Several enterprises share one option 125, one after the other (RFC 3925, section 4); of DHCPv6's option 17 each
        // has one (RFC 8415, section 21.17).
        match whole.iter_mut().find(|option| option.code == code && family == Family::V4) {
            Some(option) => {
                option.octets.extend(octets);
                option.from.extend(from);
            }
            None => whole.push(Assembled { code, octets, from }),
        }
    }
    if family == Family::V4 {
        whole.sort_by_key(|option| option.code);
    }
    whole
}

/// The parts of at most 255 octets that a long payload travels in (RFC 3396, section 5); an empty one is one part.
///
/// ```
/// let parts: Vec<usize> = oplex::codebook::split(&[0; 600]).map(<[u8]>::len).collect();
/// assert_eq!(parts, [255, 255, 90]);
/// ```
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
