//! The part of the walk that reads single things of a fixed form.

use std::net::{Ipv4Addr, Ipv6Addr};

use super::Nesting;
use super::fault::FaultKind;
use super::node::{Atom, Meaning, Number};
use super::plain;
use super::scalar::Scalar;
use super::walk::{Form, Stop, Visitor, Walked, Walker, signed};
use crate::octets::number;

impl<'l, 'o, V: Visitor<'l, 'o>, N: Nesting + ?Sized> Walker<'l, 'o, '_, V, N> {
    #[inline]
    fn array<const WIDTH: usize>(&self, at: usize) -> [u8; WIDTH] {
        let mut octets = [0; WIDTH];
        octets.copy_from_slice(&self.octets[at..at + WIDTH]);
        octets
    }

    #[inline]
    pub(super) fn atom(&mut self, atom: &'l Atom, at: usize, end: usize) -> Walked {
        let (next, scalar) = match atom {
            Atom::Ipv4(_) => {
                let next = self.need("an IPv4 address", 4, at, end)?;
                (next, Scalar::Ipv4(Ipv4Addr::from(self.array::<4>(at))))
            }
            Atom::Number(number) => return self.number(number, atom, at, end),
            Atom::Run(run, count) => return self.run(*run, *count, atom, at, end),
            Atom::Bool => {
                let next = self.need("an octet", 1, at, end)?;
                let octet = self.octets[at];
                if octet > 1 {
                    self.fault(at..next, FaultKind::NotBool { octet });
                }
                (next, Scalar::Bool(octet != 0))
            }
            Atom::Seconds(bound) => {
                let next = self.need("a number of seconds", 4, at, end)?;
                let scalar = Scalar::Seconds(u32::from_be_bytes(self.array(at)));
                if bound.is_some()
                    && let Some(kind) = plain::objection(atom, &scalar)
                {
                    self.fault(at..next, kind);
                }
                (next, scalar)
            }
            Atom::Netmask => {
                let next = self.need("a mask", 4, at, end)?;
                let mask = u32::from_be_bytes(self.array(at));
                if mask.leading_ones() + mask.trailing_zeros() < 32 {
                    self.fault(at..next, FaultKind::MaskNotContiguous);
                }
                (next, Scalar::Ipv4(Ipv4Addr::from(mask)))
            }
            Atom::Ipv6(_) => {
                let next = self.need("an IPv6 address", 16, at, end)?;
                (next, Scalar::Ipv6(Ipv6Addr::from(self.array::<16>(at))))
            }
            Atom::Mac => {
                let next = self.need("a hardware address", 6, at, end)?;
                (next, Scalar::Mac(self.array(at)))
            }
            Atom::Uuid => {
                let next = self.need("a UUID", 16, at, end)?;
                (next, Scalar::Uuid(self.array(at)))
            }
            Atom::Empty => (at, Scalar::Empty),
            Atom::Duid => {
                // RFC 8415, section 11.1: a type of two octets and 1 to 128 octets more.
                if !(3..=130).contains(&(end - at)) {
                    self.fault(at..end, FaultKind::DuidLength { have: end - at });
                }
                (end, Scalar::Bytes(&self.octets[at..end]))
            }
            Atom::Name => return self.name(Form::Atom(atom), at, end),
            Atom::PartialName => return self.partial_name(atom, at, end),
            Atom::Names(_) => return self.names(atom, at, end),
            Atom::Route4 => self.route4(at, end)?,
            Atom::Prefix6 => self.prefix6(at, end)?,
            Atom::Ipv6Head(count) => self.ipv6_head(*count, at, end)?,
        };
        self.visitor.scalar(Form::Atom(atom), scalar, at..next);
        Ok(next)
    }

    #[inline]
    fn number(&mut self, form: &'l Number, atom: &'l Atom, at: usize, end: usize) -> Walked {
        let next = self.need("a number", form.octets, at, end)?;
        let raw = number(&self.octets[at..next]);
        let signed = if form.signed { signed(raw, 8 * form.octets as u32) } else { 0 };
        let scalar = if form.signed { Scalar::Integer(signed) } else { Scalar::Number(raw) };
        // To ask takes longer than to read the number, so only those are asked that may object.
        let may_object = form.bound.is_some() || form.meaning != Meaning::Plain;
        if may_object && let Some(kind) = plain::objection(atom, &scalar) {
            self.fault(at..next, kind);
        }
        self.visitor.scalar(Form::Atom(atom), scalar, at..next);
        Ok(next)
    }

    /// RFC 3442: the prefix length, as many octets of the destination as it needs, the router.
    fn route4(&mut self, at: usize, end: usize) -> Result<(usize, Scalar<'o>), Stop> {
        let start = self.need("a route", 1, at, end)?;
        let length = self.octets[at];
        if length > 32 {
            return Err(self.stop(at..start, FaultKind::PrefixTooLong { length, max: 32 }));
        }
        let significant = usize::from(length).div_ceil(8);
        let middle = self.need("the route's destination", significant, start, end)?;
        let mut destination = [0; 4];
        destination[..significant].copy_from_slice(&self.octets[start..middle]);
        let destination = Ipv4Addr::from(destination);
        if u32::from(destination).unbounded_shl(u32::from(length)) != 0 {
            self.fault(start..middle, FaultKind::HostBits { length });
        }
        let next = self.need("the route's router", 4, middle, end)?;
        let router = Ipv4Addr::from(self.array::<4>(middle));
        Ok((next, Scalar::Route4 { destination, length, router }))
    }

    /// As many octets of an IPv6 address as there are: the count, or none, 8 or 16.
    fn ipv6_head(&mut self, count: Option<usize>, at: usize, end: usize) -> Result<(usize, Scalar<'o>), Stop> {
        let have = end - at;
        let count = count.unwrap_or(if have >= 8 { have.min(16) & !7 } else { 0 });
        let next = self.need("the address's octets", count, at, end)?;
        let mut octets = [0; 16];
        octets[..count].copy_from_slice(&self.octets[at..next]);
        Ok((next, Scalar::Ipv6(Ipv6Addr::from(octets))))
    }

    fn prefix6(&mut self, at: usize, end: usize) -> Result<(usize, Scalar<'o>), Stop> {
        let start = self.need("a prefix", 1, at, end)?;
        let length = self.octets[at];
        if length > 128 {
            return Err(self.stop(at..start, FaultKind::PrefixTooLong { length, max: 128 }));
        }
        let significant = usize::from(length).div_ceil(8);
        let next = self.need("the prefix's octets", significant, start, end)?;
        let mut prefix = [0; 16];
        prefix[..significant].copy_from_slice(&self.octets[start..next]);
        let prefix = Ipv6Addr::from(prefix);
        if u128::from(prefix).unbounded_shl(u32::from(length)) != 0 {
            self.fault(start..next, FaultKind::HostBits { length });
        }
        Ok((next, Scalar::Prefix6 { prefix, length }))
    }
}
