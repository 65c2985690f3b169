//! Octets as numbers and as text a person can type, and the identifiers that are made of them.
//!
//! ```
//! use oplex::octets::{Duid, Mac, hex, number, put_number};
//!
//! let mac: Mac = "02-00-5E-00-53-11".parse()?;
//! assert_eq!(mac.to_string(), "02:00:5e:00:53:11");
//! // DUID-LL: the type, the hardware's type, the address (RFC 8415, section 11.4).
//! assert_eq!(Duid::of_mac(mac).to_string(), "00:03:00:01:02:00:5e:00:53:11");
//!
//! let mut octets = Vec::new();
//! put_number(&mut octets, 1500, 2);
//! assert_eq!((hex::colon(&octets), number(&octets)), ("05:dc".to_owned(), 1500));
//! # Ok::<(), oplex::ParseError>(())
//! ```

pub mod hex;
mod identifiers;

use crate::prelude::*;

pub use identifiers::{Duid, Mac};

/// Reads up to eight octets as one unsigned number, most significant octet first.
///
/// ```
/// use oplex::octets::{number, put_number};
///
/// assert_eq!(number(&[0, 0, 0x0e, 0x10]), 3600);
/// let mut sink = vec![51, 4];
/// put_number(&mut sink, 3600, 4);
/// assert_eq!(sink, [51, 4, 0, 0, 0x0e, 0x10]);
/// ```
#[inline]
#[must_use]
pub fn number(octets: &[u8]) -> u64 {
    octets.iter().fold(0, |sum, octet| sum << 8 | u64::from(*octet))
}

/// A number written in decimal digits and nothing else: what parses numbers takes a sign in front of them.
pub(crate) fn decimal<T: core::str::FromStr>(text: &str) -> Option<T> {
    text.bytes().all(|octet| octet.is_ascii_digit()).then(|| text.parse().ok())?
}

/// Appends the lowest `width` octets of `number`, most significant first.
pub fn put_number(sink: &mut Vec<u8>, number: u64, width: usize) {
    sink.extend_from_slice(&number.to_be_bytes()[8 - width..]);
}
