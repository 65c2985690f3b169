//! Octets as numbers and as text a person can type.

pub mod hex;
mod identifiers;

use crate::prelude::*;

pub use identifiers::{Duid, Mac};

/// Reads up to eight octets as one unsigned number, most significant octet first.
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
