//! Structs out of octets, without a tree of values between.
//!
//! The layout of an option says whether its octets are right, as everywhere. Where it is the layout of the struct's own option,
//! every field has its place, which the struct's RFC gives.

use core::net::{Ipv4Addr, Ipv6Addr};
use core::time::Duration;

use super::structs::{
    ClientFqdn, DelegatedPrefix, IAADDR, IAPREFIX, IaNa, IaPd, LeasedAddress, RelayInformation, STATUS, StatusCode,
};
use super::v6::TwoOctets;
use super::{Elements, FromPayload};
use crate::codebook::{Codebook, Definition};
use crate::family::{Net, Protocol};
use crate::layout::{Layout, TypedError, Value};
use crate::prelude::*;

/// Refuses octets that do not fit the option's layout, and a layout that is not that of the option which a struct was made for.
fn see_to(
    codebook: &Codebook,
    definition: &Definition,
    octets: &[u8],
    made_for: (Protocol, u16),
    named: &'static str,
) -> Result<(), TypedError> {
    let layout = codebook.layout(definition);
    if !layout.fits(codebook, octets)
        && let Some(fault) = layout.faults(codebook, octets).into_iter().next()
    {
        return Err(TypedError::Fault(fault));
    }
    if is_of_form(layout, definition, made_for) { Ok(()) } else { Err(TypedError::OtherType(named)) }
}

fn is_of_form(layout: &Layout, definition: &Definition, (protocol, code): (Protocol, u16)) -> bool {
    let standard = Codebook::standard();
    standard.own(protocol, code).is_some_and(|made_for| {
        core::ptr::eq(made_for, definition)
            || made_for.layout_text == definition.layout_text
            || standard.layout(made_for) == layout
    })
}

fn number(octets: &[u8], at: usize) -> Option<u32> {
    octets.get(at..at + 4)?.try_into().ok().map(u32::from_be_bytes)
}

fn time(octets: &[u8], at: usize) -> Option<Duration> {
    let seconds = number(octets, at)?;
    Some(if seconds == u32::MAX { Duration::MAX } else { Duration::from_secs(seconds.into()) })
}

fn ipv6(octets: &[u8], at: usize) -> Option<Ipv6Addr> {
    let octets: [u8; 16] = octets.get(at..at + 16)?.try_into().ok()?;
    Some(octets.into())
}

fn ipv4(octets: &[u8]) -> Option<Ipv4Addr> {
    let octets: [u8; 4] = octets.try_into().ok()?;
    Some(octets.into())
}

fn text(octets: &[u8]) -> Option<String> {
    core::str::from_utf8(octets).ok().map(ToOwned::to_owned)
}

/// The options of DHCPv6 behind the fields of another.
fn options(octets: &[u8], at: usize) -> impl Iterator<Item = (u16, &[u8])> {
    let options = Elements::<TwoOctets>::new(octets, at).options();
    options.map(|option| (option.code(), option.octets().unwrap_or_default()))
}

impl StatusCode {
    /// RFC 8415, section 21.13.
    fn read(octets: &[u8]) -> Option<Self> {
        let (code, message) = octets.split_first_chunk()?;
        Some(Self { code: u16::from_be_bytes(*code), message: text(message)? })
    }

    /// The first status counts.
    fn read_into(status: &mut Option<Self>, octets: &[u8]) -> Option<()> {
        if status.is_none() {
            *status = Some(Self::read(octets)?);
        }
        Some(())
    }
}

impl LeasedAddress {
    /// RFC 8415, section 21.6.
    fn read(octets: &[u8]) -> Option<Self> {
        let mut lease = Self::new(ipv6(octets, 0)?, time(octets, 16)?, time(octets, 20)?);
        for (_, status) in options(octets, 24).filter(|(code, _)| *code == STATUS) {
            StatusCode::read_into(&mut lease.status, status)?;
        }
        Some(lease)
    }
}

impl DelegatedPrefix {
    /// RFC 8415, section 21.22.
    fn read(octets: &[u8]) -> Option<Self> {
        let prefix = Net::new(ipv6(octets, 9)?, octets[8])?;
        let mut lease = Self::new(prefix, time(octets, 0)?, time(octets, 4)?);
        for (_, status) in options(octets, 25).filter(|(code, _)| *code == STATUS) {
            StatusCode::read_into(&mut lease.status, status)?;
        }
        Some(lease)
    }
}

/// The two associations differ in what they hold (RFC 8415, sections 21.4 and 21.21).
macro_rules! association {
    ($type:ident, $items:ident: $item:ident in $code:ident) => {
        impl $type {
            fn read(octets: &[u8]) -> Option<Self> {
                let (iaid, t1, t2) = (number(octets, 0)?, time(octets, 4)?, time(octets, 8)?);
                let mut association = Self { iaid, t1, t2, $items: Vec::new(), status: None };
                for (code, octets) in options(octets, 12) {
                    match code {
                        $code => association.$items.push($item::read(octets)?),
                        STATUS => StatusCode::read_into(&mut association.status, octets)?,
                        _ => {}
                    }
                }
                Some(association)
            }
        }
    };
}

association!(IaNa, addresses: LeasedAddress in IAADDR);
association!(IaPd, prefixes: DelegatedPrefix in IAPREFIX);

impl RelayInformation {
    /// RFC 3046, section 2.0; the first of each counts.
    fn read(mut octets: &[u8]) -> Option<Self> {
        let mut relay = Self::default();
        while let [code, length, after @ ..] = octets {
            let (value, rest) = after.split_at_checked(usize::from(*length))?;
            match code {
                1 if relay.circuit_id.is_none() => relay.circuit_id = Some(value.to_vec()),
                2 if relay.remote_id.is_none() => relay.remote_id = Some(value.to_vec()),
                5 if relay.link_selection.is_none() => relay.link_selection = Some(ipv4(value)?),
                6 if relay.subscriber_id.is_none() => relay.subscriber_id = Some(text(value)?),
                11 if relay.server_id_override.is_none() => relay.server_id_override = Some(ipv4(value)?),
                _ => {}
            }
            octets = rest;
        }
        Some(relay)
    }
}

macro_rules! from_payload {
    ($($type:ident: $made_for:expr, $named:literal;)+) => {$(
        impl FromPayload for $type {
            fn from_payload(codebook: &Codebook, definition: &Definition, octets: &[u8]) -> Result<Self, TypedError> {
                see_to(codebook, definition, octets, $made_for, $named)?;
                Self::read(octets).ok_or(TypedError::OtherType($named))
            }
        }
    )+};
}

from_payload! {
    StatusCode: (Protocol::V6, STATUS), "a status code";
    IaNa: (Protocol::V6, 3), "an identity association of addresses";
    LeasedAddress: (Protocol::V6, IAADDR), "a leased address";
    IaPd: (Protocol::V6, 25), "an identity association of prefixes";
    DelegatedPrefix: (Protocol::V6, IAPREFIX), "a delegated prefix";
    RelayInformation: (Protocol::V4, 82), "relay agent information";
}

/// Of two options that differ in their flags' bits; these have names, which are what counts.
impl FromPayload for ClientFqdn {
    fn from_payload(codebook: &Codebook, definition: &Definition, octets: &[u8]) -> Result<Self, TypedError> {
        let value = Value::from_payload(codebook, definition, octets)?;
        let (Some(flags), Some(name)) = (value.field("flags"), value.field("name")) else {
            return Err(TypedError::OtherType("a client's name"));
        };
        let [server_updates, overridden, no_updates] = ["s", "o", "n"].map(|flag| flags.flag(flag));
        let name = name.items().first().unwrap_or(name).text().unwrap_or_default().to_owned();
        Ok(Self { name, server_updates, overridden, no_updates })
    }
}
