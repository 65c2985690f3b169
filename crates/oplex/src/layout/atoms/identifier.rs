//! What identifies a device: hardware addresses, DUIDs and UUIDs, as text and on the wire.

use crate::layout::Nesting;
use crate::layout::fault::FaultKind;
use crate::layout::form::atom::Atom;
use crate::layout::scalar::Scalar;
use crate::layout::value::atom_error::AtomError;
use crate::layout::walk::{Stop, Visitor, Walker};
use crate::prelude::*;

/// A six-octet hardware address in any common grouping.
pub(super) fn mac(text: &str) -> Result<[u8; 6], AtomError> {
    let wrong = || {
        let why = "is not a hardware address of six octets; write it like `02:00:5e:00:53:11`";
        AtomError::all(text, format!("`{text}` {why}"))
    };
    let octets = crate::octets::hex::parse(text).map_err(|_| wrong())?;
    octets.try_into().map_err(|_| wrong())
}

pub(super) fn uuid(text: &str) -> Result<[u8; 16], AtomError> {
    let digits: String = text.chars().filter(|c| !matches!(c, '-' | '{' | '}')).collect();
    let octets = crate::octets::hex::parse(&digits).ok().and_then(|octets| octets.try_into().ok());
    octets.ok_or_else(|| {
        let form = "32 hexadecimal digits, like `123e4567-e89b-12d3-a456-426614174000`";
        AtomError::all(text, format!("`{text}` is not a UUID of {form}"))
    })
}

/// A UUID as EFI stores it, or back: the first three fields have their octets in the other order.
pub(super) fn swapped([a, b, c, d, e, f, g, h, rest @ ..]: [u8; 16]) -> [u8; 16] {
    let [i, j, k, l, m, n, o, p] = rest;
    [d, c, b, a, f, e, h, g, i, j, k, l, m, n, o, p]
}

impl<'l, 'o, V: Visitor<'l, 'o>, N: Nesting + ?Sized> Walker<'l, 'o, '_, V, N> {
    pub(super) fn mac(&mut self, at: usize, end: usize) -> Result<(usize, Scalar<'o>), Stop> {
        let next = self.need("a hardware address", 6, at, end)?;
        Ok((next, Scalar::Mac(self.array(at))))
    }

    pub(super) fn uuid(&mut self, atom: &Atom, at: usize, end: usize) -> Result<(usize, Scalar<'o>), Stop> {
        let next = self.need("a UUID", 16, at, end)?;
        let octets = self.array(at);
        Ok((next, Scalar::Uuid(if *atom == Atom::Guid { swapped(octets) } else { octets })))
    }

    /// RFC 8415, section 11.1: a type of two octets and 1 to 128 octets more.
    pub(super) fn duid(&mut self, at: usize, end: usize) -> (usize, Scalar<'o>) {
        if !(3..=130).contains(&(end - at)) {
            self.fault(at..end, FaultKind::DuidLength { have: end - at });
        }
        (end, Scalar::Bytes(&self.octets[at..end]))
    }
}
