//! Addresses, masks, prefixes and routes: as text, on the wire, and in octets.

use crate::prelude::*;
use core::net::{Ipv4Addr, Ipv6Addr};

use crate::family::Address;
use crate::layout::Nesting;
use crate::layout::encode::{EncodeError, Encoder, wrong};
use crate::layout::fault::FaultKind;
use crate::layout::form::atom::{Atom, Head};

use crate::layout::scalar::{Prefix6, Route4, Scalar};
use crate::layout::value::Value;
use crate::layout::value::atom_error::AtomError;
use crate::layout::walk::{Stop, Visitor, Walker};
use crate::octets::decimal;

/// An address of either family.
pub(super) fn address<A: Address>(text: &str) -> Result<A, AtomError> {
    A::parse(text).map_err(|message| AtomError::all(text, message))
}

pub(super) fn netmask(text: &str) -> Result<Ipv4Addr, AtomError> {
    let Some(length) = text.strip_prefix('/') else {
        return text.parse().map_err(|_| {
            AtomError::all(text, format!("`{text}` is not a mask; write it like `255.255.254.0` or `/23`"))
        });
    };
    match decimal(length) {
        Some(length @ 0..=32) => Ok(Ipv4Addr::from(u32::MAX.unbounded_shl(32 - length))),
        _ => Err(AtomError::all(text, format!("`{text}` is not a prefix length; `/0` to `/32` are"))),
    }
}

/// `10.64.8.0/21 via 10.64.4.1`, `default via 10.64.4.1`, `10.64.8.0/21 on-link`.
pub(super) fn route4<'t>(text: &str) -> Result<Scalar<'t>, AtomError> {
    let form = "write it like `10.64.8.0/21 via 10.64.4.1`";
    let (target, router) = match text.split_once(" via ") {
        Some((target, router)) => {
            let router = router.trim();
            (target.trim(), address::<Ipv4Addr>(router).map_err(|wrong| wrong.within(router, text))?)
        }
        None => match text.trim_end().strip_suffix(" on-link") {
            Some(target) => (target.trim(), Ipv4Addr::UNSPECIFIED),
            None => return Err(AtomError::all(text, format!("`{text}` names no router; {form}"))),
        },
    };
    if target == "default" {
        return Ok(Scalar::Route4(Route4 { destination: Ipv4Addr::UNSPECIFIED, length: 0, router }));
    }
    let Some((address, length)) = target.split_once('/') else {
        return Err(AtomError::all(target, format!("`{target}` has no prefix length; {form}")).within(target, text));
    };
    let destination = self::address::<Ipv4Addr>(address).map_err(|wrong| wrong.within(address, text))?;
    match decimal(length) {
        Some(length @ 0..=32) => Ok(Scalar::Route4(Route4 { destination, length, router })),
        _ => {
            let message = format!("`/{length}` is not a prefix length; `/0` to `/32` are");
            Err(AtomError::all(length, message).within(length, text))
        }
    }
}

pub(super) fn prefix6<'t>(text: &str) -> Result<Scalar<'t>, AtomError> {
    let parsed = text.split_once('/').and_then(|(address, length)| {
        Some((address.parse::<Ipv6Addr>().ok()?, decimal::<u8>(length).filter(|length| *length <= 128)?))
    });
    match parsed {
        Some((prefix, length)) => Ok(Scalar::Prefix6(Prefix6 { prefix, length })),
        None => Err(AtomError::all(text, format!("`{text}` is not an IPv6 prefix; write it like `2001:db8:64::/48`"))),
    }
}

impl<'l, 'o, V: Visitor<'l, 'o>, N: Nesting + ?Sized> Walker<'l, 'o, '_, V, N> {
    #[inline]
    pub(super) fn ipv4(&mut self, at: usize, end: usize) -> Result<(usize, Scalar<'o>), Stop> {
        let next = self.need("an IPv4 address", 4, at, end)?;
        Ok((next, Scalar::Ipv4(Ipv4Addr::from(self.array::<4>(at)))))
    }

    #[inline]
    pub(super) fn ipv6(&mut self, at: usize, end: usize) -> Result<(usize, Scalar<'o>), Stop> {
        let next = self.need("an IPv6 address", 16, at, end)?;
        Ok((next, Scalar::Ipv6(Ipv6Addr::from(self.array::<16>(at)))))
    }

    pub(super) fn netmask(&mut self, at: usize, end: usize) -> Result<(usize, Scalar<'o>), Stop> {
        let next = self.need("a mask", 4, at, end)?;
        let mask = u32::from_be_bytes(self.array(at));
        if mask.leading_ones() + mask.trailing_zeros() < 32 {
            self.fault(at..next, FaultKind::MaskNotContiguous);
        }
        Ok((next, Scalar::Ipv4(Ipv4Addr::from(mask))))
    }

    /// RFC 3442: the prefix length, as many octets of the destination as it needs, the router.
    pub(super) fn route4(&mut self, at: usize, end: usize) -> Result<(usize, Scalar<'o>), Stop> {
        let (middle, length, destination) = self.prefix::<4>(["a route", "the route's destination"], at, end)?;
        let next = self.need("the route's router", 4, middle, end)?;
        let router = Ipv4Addr::from(self.array::<4>(middle));
        Ok((next, Scalar::Route4(Route4 { destination: destination.into(), length, router })))
    }

    pub(super) fn prefix6(&mut self, at: usize, end: usize) -> Result<(usize, Scalar<'o>), Stop> {
        let (next, length, prefix) = self.prefix::<16>(["a prefix", "the prefix's octets"], at, end)?;
        Ok((next, Scalar::Prefix6(Prefix6 { prefix: prefix.into(), length })))
    }

    /// The prefix length, and as many octets of an address as it needs.
    #[inline]
    fn prefix<const OCTETS: usize>(
        &mut self,
        [whole, octets]: [&'static str; 2],
        at: usize,
        end: usize,
    ) -> Result<(usize, u8, [u8; OCTETS]), Stop> {
        let start = self.need(whole, 1, at, end)?;
        let (length, max) = (self.octets[at], (8 * OCTETS) as u8);
        if length > max {
            return Err(self.stop(at..start, FaultKind::PrefixTooLong { length, max }));
        }
        let significant = usize::from(length).div_ceil(8);
        let next = self.need(octets, significant, start, end)?;
        let mut prefix = [0; OCTETS];
        prefix[..significant].copy_from_slice(&self.octets[start..next]);
        // Only the last octet that is there can have bits below the length.
        if length % 8 != 0 && prefix[significant - 1] << (length % 8) != 0 {
            self.fault(start..next, FaultKind::HostBits { length });
        }
        Ok((next, length, prefix))
    }

    /// As many octets of an IPv6 address as there are: the count, or none, 8 or 16.
    pub(super) fn ipv6_head(&mut self, head: &Head, at: usize, end: usize) -> Result<(usize, Scalar<'o>), Stop> {
        let have = end - at;
        let whole = if have >= 8 { have.min(16) & !7 } else { 0 };
        let count = match head {
            Head::Octets(count) => *count,
            Head::Needed => whole,
            Head::By(by) => whole.max(Head::least(by.pick(&self.slots))),
        };
        let next = self.need("the address's octets", count, at, end)?;
        let mut octets = [0; 16];
        octets[..count].copy_from_slice(&self.octets[at..next]);
        Ok((next, Scalar::Ipv6(Ipv6Addr::from(octets))))
    }
}

impl Encoder<'_> {
    pub(super) fn address(&mut self, atom: &Atom, value: &Value) -> Result<(), EncodeError> {
        match (atom, value) {
            (Atom::Ipv4(_) | Atom::Netmask, Value::Ipv4(address)) => self.leaf(&address.octets()),
            (Atom::Ipv6(_), Value::Ipv6(address)) => self.leaf(&address.octets()),
            (Atom::Route4, Value::Route4(Route4 { destination, length, router })) if *length <= 32 => {
                let mut octets = vec![*length];
                octets.extend_from_slice(&destination.octets()[..usize::from(*length).div_ceil(8)]);
                octets.extend_from_slice(&router.octets());
                self.leaf(&octets);
            }
            (Atom::Prefix6, Value::Prefix6(Prefix6 { prefix, length })) if *length <= 128 => {
                let mut octets = vec![*length];
                octets.extend_from_slice(&prefix.octets()[..usize::from(*length).div_ceil(8)]);
                self.leaf(&octets);
            }
            (Atom::Ipv6Head(head), Value::Ipv6(address)) => {
                let octets = address.octets();
                let needed = 16 - u128::from_be_bytes(octets).trailing_zeros() as usize / 8;
                let count = match head {
                    Head::Octets(count) => *count,
                    Head::Needed => needed.next_multiple_of(8),
                    Head::By(by) => needed.next_multiple_of(8).max(Head::least(by.pick(&self.slots))),
                };
                if needed > count {
                    return wrong(format!(
                        "`{address}` has bits set after its first {count} octets, which must be zero"
                    ));
                }
                self.leaf(&octets[..count]);
            }
            (_, value) => return wrong(format!("`{value}` is not of this layout's form")),
        }
        Ok(())
    }
}
