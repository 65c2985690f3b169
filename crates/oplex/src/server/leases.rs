//! What a server remembers: who has which address.

use std::net::{IpAddr, Ipv4Addr, Ipv6Addr};

use crate::family::{Address, Net};

/// What clients are leased or delegated.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Leased {
    /// An address.
    Address(IpAddr),
    /// A prefix.
    Prefix(Net<Ipv6Addr>),
}

/// The address, or the prefix.
impl std::fmt::Display for Leased {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Address(address) => address.fmt(f),
            Self::Prefix(net) => net.fmt(f),
        }
    }
}

/// Who holds a lease: a client on a network, and which of its associations.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct Holder<'r> {
    /// The name of the network.
    pub network: &'r str,
    /// What it is held by.
    pub association: Association,
    /// By DHCPv4 the client's identifier (61), or without one its hardware address with the type in front; by DHCPv6 its DUID.
    pub client: &'r [u8],
}

/// What of a client holds a lease.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Association {
    /// The client itself (DHCPv4).
    Client,
    /// Its association for addresses of this IAID (RFC 8415, section 21.4).
    Addresses(u32),
    /// Its association for prefixes of this IAID (RFC 8415, section 21.21).
    Prefixes(u32),
}

/// What a client may be leased, the best first.
pub struct Choices<'c> {
    /// What is reserved for it: nothing else will do where there is something.
    pub(super) reserved: Option<Leased>,
    /// What it had, or would like, as far as its pools have that.
    pub(super) wanted: Option<Leased>,
    pub(super) ranges: &'c mut dyn Iterator<Item = Range>,
}

/// Addresses or prefixes that follow each other, both ends included.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Range {
    first: u128,
    last: u128,
    form: Numbers,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Numbers {
    V4,
    V6,
    /// Prefixes of this length, counted from one of them to the next.
    Prefixes(u8),
}

impl Range {
    pub(super) fn of<A: Address>(first: u128, last: u128) -> Self {
        Self { first, last, form: if A::BITS == 32 { Numbers::V4 } else { Numbers::V6 } }
    }

    /// Prefixes of a length, by their numbers among all of it.
    pub(super) fn prefixes(first: u128, last: u128, length: u8) -> Self {
        Self { first, last, form: Numbers::Prefixes(length) }
    }

    /// How many there are, less one.
    #[must_use]
    pub fn count_less_one(&self) -> u128 {
        self.last - self.first
    }

    /// The one of this place, from 0.
    #[must_use]
    pub fn get(&self, place: u128) -> Option<Leased> {
        let number = self.first.checked_add(place).filter(|number| *number <= self.last)?;
        Some(match self.form {
            Numbers::V4 => Leased::Address(Ipv4Addr::from_bits(number as u32).into()),
            Numbers::V6 => Leased::Address(Ipv6Addr::from_bits(number).into()),
            Numbers::Prefixes(length) => {
                let address = number.unbounded_shl(128 - u32::from(length));
                Leased::Prefix(Net::new(Ipv6Addr::from_bits(address), length)?)
            }
        })
    }
}

impl Choices<'_> {
    /// What is reserved for the client.
    #[must_use]
    pub fn reserved(&self) -> Option<Leased> {
        self.reserved
    }

    /// What is reserved for the client, or else what it had or would like.
    pub fn preferred(&self) -> impl Iterator<Item = Leased> {
        self.reserved.into_iter().chain(self.wanted.filter(|_| self.reserved.is_none()))
    }

    /// The next range that it may be leased from.
    pub fn range(&mut self) -> Option<Range> {
        self.ranges.next().filter(|_| self.reserved.is_none())
    }
}

/// What a server remembers. [`InMemory`](super::InMemory) is one; others keep it where several servers see it.
///
/// What is found or offered belongs to the holder until it is bound, freed or forgotten; how long an offer is kept, and when a
/// lease has ended, is for whoever implements this to say.
pub trait Leases {
    /// What the holder has, or had last if no other holder has it now.
    fn find(&mut self, holder: &Holder<'_>) -> Option<Leased>;

    /// Chooses something that no other holder has, and keeps it for the holder for a while.
    fn offer(&mut self, holder: &Holder<'_>, choices: &mut Choices<'_>) -> Option<Leased>;

    /// Leases something for so many seconds, of which [`u32::MAX`] are for ever; `false` where another holder has it.
    fn bind(&mut self, holder: &Holder<'_>, leased: Leased, seconds: u32) -> bool;

    /// Takes something back from the holder, which releases it, or has `declined` it because another host uses it.
    fn free(&mut self, holder: &Holder<'_>, leased: Leased, declined: bool);
}
