//! Hardware addresses and DUIDs: what distinguishes clients.

use core::fmt;
use core::ops::Deref;
use core::str::FromStr;

use smallvec::SmallVec;

use super::hex;
use crate::ParseError;
use crate::prelude::*;

/// A hardware address of six octets, as Ethernet and Wi-Fi have.
///
/// ```
/// use oplex::octets::Mac;
///
/// let mac: Mac = "0200.5e00.5311".parse()?;
/// assert_eq!(mac, Mac([2, 0, 0x5e, 0, 0x53, 0x11]));
/// assert_eq!(mac.to_string(), "02:00:5e:00:53:11");
/// # Ok::<(), oplex::ParseError>(())
/// ```
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Mac(pub [u8; 6]);

impl From<[u8; 6]> for Mac {
    fn from(octets: [u8; 6]) -> Self {
        Self(octets)
    }
}

impl From<Mac> for [u8; 6] {
    fn from(mac: Mac) -> Self {
        mac.0
    }
}

/// Its six octets.
impl Deref for Mac {
    type Target = [u8];

    fn deref(&self) -> &[u8] {
        &self.0
    }
}

impl fmt::Display for Mac {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        const DIGITS: &[u8; 16] = b"0123456789abcdef";
        let mut text = [b':'; 17];
        for (octet, group) in self.0.iter().zip(text.chunks_mut(3)) {
            group[0] = DIGITS[usize::from(octet >> 4)];
            group[1] = DIGITS[usize::from(octet & 15)];
        }
        f.write_str(core::str::from_utf8(&text).unwrap_or_default())
    }
}

/// In any grouping that [`hex::parse`] reads.
impl FromStr for Mac {
    type Err = ParseError;

    fn from_str(text: &str) -> Result<Self, ParseError> {
        if let Some(mac) = usual_mac(text.as_bytes()) {
            return Ok(mac);
        }
        let octets = hex::parse(text.trim()).map_err(|error| format!("`{text}` is not a MAC: {error}"))?;
        let count = octets.len();
        octets.try_into().map(Self).map_err(|_| format!("`{text}` has {count} octets; a MAC has 6").into())
    }
}

/// A hardware address as almost everybody writes it: a table may have a million.
fn usual_mac(text: &[u8]) -> Option<Mac> {
    let text: &[u8; 17] = text.try_into().ok()?;
    let mut mac = [0; 6];
    for (octet, group) in mac.iter_mut().zip(text.chunks(3)) {
        let digit = |at: usize| char::from(group[at]).to_digit(16);
        if group.get(2).is_some_and(|between| *between != b':') {
            return None;
        }
        *octet = (digit(0)? << 4 | digit(1)?) as u8;
    }
    Some(Mac(mac))
}

/// A DHCP unique identifier: a type of two octets, and 1 to 128 octets more (RFC 8415, section 11.1).
///
/// ```
/// use oplex::octets::{Duid, Mac};
///
/// let duid: Duid = "00:03:00:01:02:00:5e:00:53:11".parse()?;
/// assert_eq!(duid, Duid::of_mac(Mac([2, 0, 0x5e, 0, 0x53, 0x11])));
/// assert_eq!(duid.mac().map(|mac| mac.to_string()).as_deref(), Some("02:00:5e:00:53:11"));
/// # Ok::<(), oplex::ParseError>(())
/// ```
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Duid(SmallVec<[u8; USUAL]>);

/// As many octets as the DUIDs of RFC 8415 have at most, but for those that vendors make up: they take no allocation.
const USUAL: usize = 18;

/// The hardware type of Ethernet in a DUID.
const ETHERNET: [u8; 2] = [0, 1];

impl Duid {
    /// These octets as a DUID; `None` where they are fewer than 3 or more than 130.
    ///
    /// ```
    /// use oplex::octets::Duid;
    ///
    /// // A DUID-LL: its type, the hardware type of Ethernet, and the address (RFC 8415, section 11.4).
    /// let duid = Duid::new(&[0, 3, 0, 1, 2, 0, 0x5e, 0, 0x53, 0x11]).expect("it is one");
    /// assert_eq!(duid.mac().map(|mac| mac.to_string()).as_deref(), Some("02:00:5e:00:53:11"));
    /// assert_eq!(Duid::of_mac([2, 0, 0x5e, 0, 0x53, 0x11].into()), duid);
    /// // It has at least a type and an octet, and at most 130 octets.
    /// assert!(Duid::new(&[0, 3]).is_none() && Duid::new(&[0; 131]).is_none());
    /// ```
    #[must_use]
    pub fn new(octets: &[u8]) -> Option<Self> {
        Self::is_one(octets).then(|| Self(SmallVec::from_slice(octets)))
    }

    /// Whether these octets are as many as a DUID has.
    pub(crate) fn is_one(octets: &[u8]) -> bool {
        (3..=130).contains(&octets.len())
    }

    /// The DUID-LL of an Ethernet address (RFC 8415, section 11.4).
    #[must_use]
    pub fn of_mac(mac: Mac) -> Self {
        let mut octets = SmallVec::from_slice(&[0, 3, ETHERNET[0], ETHERNET[1]]);
        octets.extend_from_slice(&mac.0);
        Self(octets)
    }

    /// The Ethernet address in a DUID-LLT or DUID-LL (RFC 8415, sections 11.2 and 11.4).
    ///
    /// ```
    /// use oplex::octets::{Duid, Mac};
    ///
    /// let mac = Mac::from([2, 0, 0x5e, 0, 0x53, 0x11]);
    /// assert_eq!(Duid::of_mac(mac).mac(), Some(mac));
    /// // One of an enterprise (DUID-EN) says nothing of hardware.
    /// assert_eq!(Duid::new(&[0, 2, 0, 0, 0x7e, 0xd9, 1]).and_then(|duid| duid.mac()), None);
    /// ```
    #[must_use]
    pub fn mac(&self) -> Option<Mac> {
        Self::mac_in(&self.0)
    }

    /// The same of octets that are one; `None` where they are none.
    pub(crate) fn mac_in(octets: &[u8]) -> Option<Mac> {
        let (kind, rest) = octets.split_first_chunk::<2>()?;
        let rest = rest.strip_prefix(&ETHERNET)?;
        let address = match kind {
            [0, 1] => rest.get(4..)?,
            [0, 3] => rest,
            _ => return None,
        };
        address.try_into().ok().map(Mac)
    }
}

/// Its octets.
impl Deref for Duid {
    type Target = [u8];

    fn deref(&self) -> &[u8] {
        &self.0
    }
}

impl fmt::Display for Duid {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&hex::colon(&self.0))
    }
}

/// In any grouping that [`hex::parse`] reads.
impl FromStr for Duid {
    type Err = ParseError;

    fn from_str(text: &str) -> Result<Self, ParseError> {
        let octets =
            hex::parse(text.trim()).map_err(|error| format!("`{text}` is not a DUID in hexadecimal: {error}"))?;
        Self::new(&octets).ok_or_else(|| format!("`{text}` has {} octets; a DUID has 3 to 130", octets.len()).into())
    }
}
