//! The identity associations of DHCPv6, which every reply has.

use std::net::Ipv6Addr;

use super::{Answer, NoAddress};
use smallvec::SmallVec;

use crate::family::{Address, Net};

/// `NoAddrsAvail`, `NoPrefixAvail` (RFC 8415, section 21.13).
pub(crate) const NO_ADDRESS: u64 = 2;
pub(crate) const NO_PREFIX: u64 = 6;

/// How much an identity association says.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(super) enum Filled {
    /// Nothing: what a client sends first.
    Empty,
    /// What the client would like, with times of zero, as a server ignores its times (RFC 8415, sections 21.4 and 21.6).
    Wish,
    /// What is assigned.
    Assigned,
}

/// What stands in an identity association.
#[derive(Clone, Copy)]
pub(crate) enum Inside {
    Nothing,
    Address(Ipv6Addr),
    Prefix(Net<Ipv6Addr>),
    Status(u64),
}

/// The times of an association and of what it holds, in seconds. A client that has no wish sends zeros (RFC 8415, sections 21.4
/// and 21.6).
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(crate) struct Times {
    pub(crate) renew: u32,
    pub(crate) rebind: u32,
    pub(crate) preferred: u32,
    pub(crate) valid: u32,
}

/// One identity association, for addresses or for prefixes (RFC 8415, sections 21.4, 21.6, 21.21 and 21.22): IAID, T1, T2, and an
/// option with what is assigned. It is part of every reply, and written as it travels.
pub(crate) fn association(iaid: u32, times: Times, inside: Inside) -> SmallVec<[u8; 64]> {
    let (mut octets, mut length) = ([0; 64], 0);
    let mut write = |part: &[u8]| {
        octets[length..length + part.len()].copy_from_slice(part);
        length += part.len();
    };
    let time = |seconds: u32| seconds.to_be_bytes();
    // Behind a code and a length.
    let head = |code: u16, length: u16| time(u32::from(code) << 16 | u32::from(length));
    write([iaid.to_be_bytes(), time(times.renew), time(times.rebind)].as_flattened());
    match inside {
        Inside::Nothing => {}
        Inside::Address(address) => {
            write(&head(5, 24));
            write(&address.octets());
            write([time(times.preferred), time(times.valid)].as_flattened());
        }
        Inside::Prefix(net) => {
            write([head(26, 25), time(times.preferred), time(times.valid)].as_flattened());
            write(&[net.length()]);
            write(&net.address().octets());
        }
        // A number, and no text for people (RFC 8415, section 21.13).
        Inside::Status(number) => {
            write(&head(13, 2));
            write(&(number as u16).to_be_bytes());
        }
    }
    SmallVec::from_buf_and_len(octets, length)
}

/// The codes of associations for addresses, and for prefixes.
pub(crate) const ADDRESSES: u16 = 3;
pub(crate) const PREFIXES: u16 = 25;

/// One identity association with its code.
pub(super) type Association = (u16, SmallVec<[u8; 64]>);

/// The identity associations for an address and for a prefix, empty as a client sends them first, or with what is assigned.
pub(super) fn associations(
    answer: &Answer<'_>,
    iaid: u32,
    delegation: bool,
    filled: Filled,
) -> SmallVec<[Association; 2]> {
    let times = if filled == Filled::Assigned { answer.timers.seconds() } else { Times::default() };
    let one = |inside| {
        let inside = if filled == Filled::Empty { Inside::Nothing } else { inside };
        association(iaid, times, inside)
    };
    let address = match &answer.address {
        Err(NoAddress::NotRequested) => None,
        Ok(assigned) => Ipv6Addr::of(assigned.address).map(Inside::Address),
        Err(_) => Some(Inside::Status(NO_ADDRESS)),
    };
    let delegated = answer.host.as_ref().and_then(|host| host.delegated);
    let prefix = delegation.then(|| delegated.map_or(Inside::Status(NO_PREFIX), Inside::Prefix));
    address
        .map(|inside| (ADDRESSES, one(inside)))
        .into_iter()
        .chain(prefix.map(|inside| (PREFIXES, one(inside))))
        .collect()
}
