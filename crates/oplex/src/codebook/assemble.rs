//! Options on their way into messages: those of vendors into the options that carry them.

use crate::prelude::*;
use core::fmt;

use alloc::sync::Arc;

use smallvec::SmallVec;

use super::{Carrier, Definition};
use crate::family::Family;
use crate::few::Few;
use crate::octets::put_number;

/// The octets of the option that carries these sub-options of a vendor.
pub(super) fn encapsulate(carrier: Carrier, options: &[(u16, &[u8])]) -> Vec<u8> {
    let mut block = Encapsulated::new(carrier, Vec::new());
    options.iter().for_each(|(code, payload)| block.push(*code, payload));
    block.octets
}

/// Sub-options of a vendor in the option that carries them, one after the other: RFC 2132, section 8.4 for option 43; RFC 3925,
/// section 4 for option 125 and section 3 for 124, which has no codes; RFC 8415, section 21.17 for option 17 of DHCPv6.
struct Encapsulated {
    carrier: Carrier,
    octets: Vec<u8>,
    /// Where the length of the last block stands, in an option of DHCPv4 that has such blocks.
    length: Option<usize>,
}

impl Encapsulated {
    /// Without any of them, in `octets`, which are empty.
    fn new(carrier: Carrier, octets: Vec<u8>) -> Self {
        let mut block = Self { carrier, octets, length: None };
        let Carrier::Vendor { family, enterprise: Some(enterprise), .. } = carrier else { return block };
        match family {
            Family::V4 => block.begin(enterprise),
            Family::V6 => block.octets.extend(enterprise.to_be_bytes()),
        }
        block
    }

    fn begin(&mut self, enterprise: u32) {
        self.octets.extend(enterprise.to_be_bytes());
        self.length = Some(self.octets.len());
        self.octets.push(0);
    }

    fn push(&mut self, code: u16, payload: &[u8]) {
        let Carrier::Vendor { family, code: outer, enterprise } = self.carrier else { return };
        if family == Family::V6 {
            put_number(&mut self.octets, code.into(), 2);
            put_number(&mut self.octets, payload.len() as u64, 2);
            return self.octets.extend_from_slice(payload);
        }
        let has_codes = outer != 124;
        // A block counts its octets in one, those of the code and the length included.
        let most = if enterprise.is_some() && has_codes { 253 } else { 255 };
        for part in split_by(payload, most) {
            let more = part.len() + if has_codes { 2 } else { 0 };
            // The length of a block has one octet. What does not fit goes on in another block of the same enterprise.
            if let (Some(at), Some(enterprise)) = (self.length, enterprise)
                && self.octets.len() - at - 1 + more > 255
            {
                self.begin(enterprise);
            }
            if has_codes {
                self.octets.extend([code as u8, part.len() as u8]);
            }
            self.octets.extend_from_slice(part);
            if let Some(at) = self.length {
                self.octets[at] += more as u8;
            }
        }
    }
}

/// An option on its way into a message.
#[derive(Debug, Clone)]
pub struct OptionToSend<'o, 'd, T> {
    /// Its code.
    pub code: u16,
    /// Whether it is one of the family's own options.
    pub own: bool,
    /// What carries it besides.
    pub carriers: &'d [Carrier],
    /// Its octets.
    pub octets: OptionOctets<'o>,
    /// Whatever goes along with it.
    pub from: T,
}

impl<'o, 'd, T> OptionToSend<'o, 'd, T> {
    /// An option by its definition.
    #[must_use]
    pub fn new(family: Family, definition: &'d Definition, octets: impl Into<OptionOctets<'o>>, from: T) -> Self {
        let own = definition.is_own_of(family.protocol());
        Self { code: definition.code, own, carriers: &definition.carriers, octets: octets.into(), from }
    }
}

/// An option as it goes into a message, and what it was made of.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Assembled<'o, T> {
    /// Its code among its family's own options.
    pub code: u16,
    /// Its octets.
    pub octets: OptionOctets<'o>,
    /// Whatever went along with the options in it.
    pub from: Origins<T>,
}

/// The octets of an option on its way into a message: borrowed from where the option was defined, so that an answer of twenty
/// options copies none of them, or put together here.
#[derive(Clone)]
pub struct OptionOctets<'o>(Stored<'o>);

#[derive(Clone)]
enum Stored<'o> {
    Borrowed(&'o [u8]),
    /// A number or an address, which needs no allocation.
    Four([u8; 4]),
    Owned(Vec<u8>),
    /// Many answers have the same.
    Shared(Arc<[u8]>),
}

impl OptionOctets<'_> {
    /// The octets as their own: a copy where they are borrowed.
    ///
    /// ```
    /// use oplex::codebook::OptionOctets;
    ///
    /// let (borrowed, number) = (OptionOctets::from(&[10, 64, 4, 1]), OptionOctets::from(3600u32.to_be_bytes()));
    /// assert_eq!((&*borrowed, &*number), (&[10, 64, 4, 1][..], &[0, 0, 14, 16][..]));
    /// assert_eq!(number.into_vec(), [0, 0, 14, 16]);
    /// ```
    #[must_use]
    pub fn into_vec(self) -> Vec<u8> {
        match self.0 {
            Stored::Owned(octets) => octets,
            other => OptionOctets(other).to_vec(),
        }
    }
}

impl core::ops::Deref for OptionOctets<'_> {
    type Target = [u8];

    fn deref(&self) -> &[u8] {
        match &self.0 {
            Stored::Borrowed(octets) => octets,
            Stored::Four(octets) => octets,
            Stored::Owned(octets) => octets,
            Stored::Shared(octets) => octets,
        }
    }
}

impl fmt::Debug for OptionOctets<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        (**self).fmt(f)
    }
}

impl PartialEq for OptionOctets<'_> {
    fn eq(&self, other: &Self) -> bool {
        **self == **other
    }
}

impl Eq for OptionOctets<'_> {}

impl<'o> From<&'o [u8]> for OptionOctets<'o> {
    fn from(octets: &'o [u8]) -> Self {
        Self(Stored::Borrowed(octets))
    }
}

impl<'o, const N: usize> From<&'o [u8; N]> for OptionOctets<'o> {
    fn from(octets: &'o [u8; N]) -> Self {
        Self(Stored::Borrowed(octets))
    }
}

impl<'o> From<&'o Vec<u8>> for OptionOctets<'o> {
    fn from(octets: &'o Vec<u8>) -> Self {
        Self(Stored::Borrowed(octets))
    }
}

impl From<[u8; 4]> for OptionOctets<'_> {
    fn from(octets: [u8; 4]) -> Self {
        Self(Stored::Four(octets))
    }
}

impl From<Vec<u8>> for OptionOctets<'_> {
    fn from(octets: Vec<u8>) -> Self {
        Self(Stored::Owned(octets))
    }
}

impl From<Arc<[u8]>> for OptionOctets<'_> {
    fn from(octets: Arc<[u8]>) -> Self {
        Self(Stored::Shared(octets))
    }
}

/// Whatever went along with the options that became one: most are made of one, and then there is no allocation.
#[derive(Clone, PartialEq, Eq)]
pub struct Origins<T>(Few<T>);

impl<T> Origins<T> {
    /// That of an option which was made of one.
    pub fn one(from: T) -> Self {
        Self(Few::One(from))
    }
}

impl<T> core::ops::Deref for Origins<T> {
    type Target = [T];

    fn deref(&self) -> &[T] {
        &self.0
    }
}

impl<T: fmt::Debug> fmt::Debug for Origins<T> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.0.fmt(f)
    }
}

impl<T> From<Vec<T>> for Origins<T> {
    fn from(all: Vec<T>) -> Self {
        Self(Few::Many(all))
    }
}

/// The options of one vendor in the option that carries them, and whatever went along with them.
struct Carried<T> {
    options: Encapsulated,
    from: Vec<T>,
}

/// Octets that hold what most vendors' options take together, and so many of these.
const ROOM: usize = 96;
const FEW: usize = 8;

/// Brings options to where they travel in messages of a family: those of vendors into the options that carry them, one
/// after the other. Of two for one code of DHCPv4 the later counts, and they come in the order of the codes; DHCPv6 keeps
/// the order given. What does not travel there, such as sub-options of relay agents, is left out.
///
/// ```
/// use oplex::codebook::{Codebook, OptionToSend, assemble};
/// use oplex::family::Family;
///
/// let book = "book = \"tern\"\ncarriers = [\"v4:43\"]\n[[option]]\ncode = 1\nname = \"ring\"\nlayout = \"u8\"\n\
///             reference = \"Tern D2 manual, page 12\"\n";
/// let codebook = Codebook::with("tern.toml", book)?;
/// let (router, ring) = (codebook.find("v4:3")?, codebook.find("tern:ring")?);
/// let parts = [OptionToSend::new(Family::V4, router, &[10, 64, 4, 1], "router"), OptionToSend::new(Family::V4, ring, &[3], "ring")];
/// let whole = assemble(Family::V4, parts);
/// assert_eq!((whole[0].code, &*whole[0].octets), (3, &[10, 64, 4, 1][..]));
/// // The vendor's option stands in option 43, with its own code and length.
/// assert_eq!((whole[1].code, &*whole[1].octets), (43, &[1, 1, 3][..]));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
pub fn assemble<'o, 'd, T: Clone>(
    family: Family,
    parts: impl IntoIterator<Item = OptionToSend<'o, 'd, T>>,
) -> Vec<Assembled<'o, T>> {
    let parts = parts.into_iter();
    let mut whole: Vec<Assembled<'o, T>> = Vec::with_capacity(parts.size_hint().1.unwrap_or(0));
    let mut carried: SmallVec<[Carried<T>; 2]> = SmallVec::new();
    for OptionToSend { code, own, carriers, octets, from } in parts {
        let vendors = carriers.iter().filter(|carrier| matches!(carrier, Carrier::Vendor { .. }));
        for carrier in vendors.filter(|carrier| carrier.family() == family) {
            let at = carried.iter().position(|known| known.options.carrier == *carrier).unwrap_or_else(|| {
                let options = Encapsulated::new(*carrier, Vec::with_capacity(ROOM));
                carried.push(Carried { options, from: Vec::with_capacity(FEW) });
                carried.len() - 1
            });
            carried[at].options.push(code, &octets);
            carried[at].from.push(from.clone());
        }
        if own {
            if family == Family::V4 {
                whole.retain(|option| option.code != code);
            }
            whole.push(Assembled { code, octets, from: Origins::one(from) });
        }
    }
    for Carried { options: Encapsulated { carrier, octets, .. }, from } in carried {
        let Carrier::Vendor { code, .. } = carrier else { continue };
        // Several enterprises share one option 125, one after the other (RFC 3925, section 4); of DHCPv6's option 17 each
        // has one (RFC 8415, section 21.17).
        match whole.iter_mut().find(|option| option.code == code && family == Family::V4) {
            Some(option) => {
                option.octets = [&*option.octets, &octets].concat().into();
                option.from = option.from.iter().cloned().chain(from).collect::<Vec<_>>().into();
            }
            None => whole.push(Assembled { code, octets: octets.into(), from: from.into() }),
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
    split_by(octets, 255)
}

fn split_by(octets: &[u8], most: usize) -> impl Iterator<Item = &[u8]> {
    let empty = octets.is_empty().then_some(octets);
    octets.chunks(most).chain(empty)
}
