//! Messages as they lie in memory.

use crate::prelude::*;
use core::fmt;
use core::net::Ipv6Addr;

use super::{ADVERTISEMENT, Advertisement, SOLICITATION, UNIT};
use crate::family::Protocol;
use crate::packet::{self, Elements, Framing, Message as _, MessageError, MessageOption};

/// A router advertisement or solicitation, looked at where it lies.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Message<'o> {
    octets: &'o [u8],
    packet: Option<Packet>,
}

/// The source and destination of a message.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Ends {
    /// Who sends it.
    pub source: Ipv6Addr,
    /// Who gets it.
    pub destination: Ipv6Addr,
}

/// What the IPv6 header in front of a message says.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Packet {
    /// Its source and destination.
    pub ends: Ends,
    /// How many routers may still pass it on.
    pub hop_limit: u8,
}

impl Packet {
    /// Octets of an IPv6 header (RFC 8200, section 3).
    pub const OCTETS: usize = 40;
    /// What stands in it for ICMPv6.
    const ICMPV6: u8 = 58;

    /// The packet that holds an ICMPv6 message of 65,535 octets at most.
    #[must_use]
    pub fn around(&self, message: &[u8]) -> Vec<u8> {
        let mut octets = Vec::with_capacity(40 + message.len());
        octets.extend_from_slice(&[0x60, 0, 0, 0]);
        octets.extend_from_slice(&(message.len() as u16).to_be_bytes());
        octets.extend_from_slice(&[Self::ICMPV6, self.hop_limit]);
        octets.extend_from_slice(&self.ends.source.octets());
        octets.extend_from_slice(&self.ends.destination.octets());
        octets.extend_from_slice(message);
        octets
    }
}

/// How options of advertisements are framed: their length counts units of eight octets, their own two octets included (RFC
/// 4861, section 4.6).
#[derive(Debug, Clone, Copy)]
pub struct Units;

impl Framing for Units {
    const HEAD: usize = 2;
    const LEAST: usize = UNIT;

    #[inline]
    fn head(octets: &[u8]) -> (u16, usize) {
        let [code, units] = *octets else { return (0, 0) };
        (code.into(), usize::from(units) * UNIT)
    }
}

impl<'o> Message<'o> {
    fn of_icmpv6(octets: &'o [u8], packet: Option<Packet>) -> Result<Self, MessageError> {
        // The header of IPv6 counts no more (RFC 8200, section 3).
        let most = usize::from(u16::MAX);
        if octets.len() > most {
            return Err(MessageError::TooLong { protocol: Protocol::Ra, octets: octets.len(), most });
        }
        let header = match octets.first() {
            Some(&SOLICITATION) => 8,
            Some(&ADVERTISEMENT) | None => Advertisement::OCTETS,
            Some(other) => return Err(MessageError::OtherType(*other)),
        };
        if octets.len() < header {
            return Err(MessageError::TooShort { protocol: Protocol::Ra, octets: octets.len(), header });
        }
        Ok(Self { octets, packet })
    }

    /// What the IPv6 header in front of it says, when it was read with one.
    #[must_use]
    pub fn packet(&self) -> Option<Packet> {
        self.packet
    }

    /// What an advertisement says in front of its options; `None` for a solicitation.
    ///
    /// ```
    /// use oplex::packet::{Composer, Message as _, ra};
    ///
    /// let header = ra::Header::Advertisement(ra::Advertisement { managed: true, router_lifetime: 1800, ..Default::default() });
    /// let ends = ra::Ends { source: "fe80::1".parse()?, destination: ra::ALL_NODES };
    /// let mut composer = Composer::default();
    /// let message = ra::Message::read(composer.compose(&ra::Draft { header, ends, options: &[] })?)?;
    /// let said = message.advertisement().ok_or("it is none of a host")?;
    /// assert!(said.managed && !said.other && said.router_lifetime == 1800);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn advertisement(&self) -> Option<Advertisement> {
        let header = self.octets.get(4..Advertisement::OCTETS)?.try_into().ok()?;
        (self.octets[0] == ADVERTISEMENT).then(|| Advertisement::read(header))
    }

    /// The ICMPv6 code, which must be 0.
    #[must_use]
    pub fn code(&self) -> u8 {
        self.octets[1]
    }

    /// The checksum it has; see [`checksum`](super::checksum) for the one it should have.
    #[must_use]
    pub fn checksum(&self) -> u16 {
        u16::from_be_bytes([self.octets[2], self.octets[3]])
    }

    /// The options as they stand, and what is left over when they do not end where the message does.
    ///
    /// ```
    /// use oplex::packet::{Element, Message as _, ra};
    ///
    /// // A solicitation with the sender's hardware address, whose length counts units of eight octets (RFC 4861, section 4.6).
    /// let octets = [133, 0, 0, 0, 0, 0, 0, 0, 1, 1, 2, 0, 0x5e, 0, 0x53, 0x11];
    /// let solicitation = ra::Message::read(&octets)?;
    /// let mut elements = solicitation.elements();
    /// assert!(matches!(elements.next(), Some(Element::Option(option)) if option.code() == 1 && option.length() == 6));
    /// assert!(elements.next().is_none());
    /// # Ok::<(), oplex::packet::MessageError>(())
    /// ```
    #[must_use]
    pub fn elements(&self) -> Elements<'o, Units> {
        Elements::new(self.octets, if self.octets[0] == SOLICITATION { 8 } else { Advertisement::OCTETS })
    }
}

impl<'o> packet::Message<'o> for Message<'o> {
    const PROTOCOL: Protocol = Protocol::Ra;

    /// Looks at ICMPv6, or at an IPv6 packet that holds it and nothing else in front.
    fn read(octets: &'o [u8]) -> Result<Self, MessageError> {
        let Some(0x60..=0x6f) = octets.first() else { return Self::of_icmpv6(octets, None) };
        let header = Packet::OCTETS;
        let Some((ip, inner)) = octets.split_first_chunk::<{ Packet::OCTETS }>() else {
            return Err(MessageError::TooShort { protocol: Self::PROTOCOL, octets: octets.len(), header });
        };
        if ip[6] != Packet::ICMPV6 {
            return Err(MessageError::NotIcmpV6(ip[6]));
        }
        let counted = usize::from(u16::from_be_bytes([ip[4], ip[5]]));
        // What was added on the way, as some links do for short packets, is no part of it.
        let Some(inner) = inner.get(..counted) else {
            return Err(MessageError::CutOff { octets: inner.len(), counted });
        };
        let address = |at: usize| Ipv6Addr::from(<[u8; 16]>::try_from(&ip[at..at + 16]).unwrap_or_default());
        let ends = Ends { source: address(8), destination: address(24) };
        Self::of_icmpv6(inner, Some(Packet { ends, hop_limit: ip[7] }))
    }

    /// All octets of the ICMPv6 message.
    fn octets(&self) -> &'o [u8] {
        self.octets
    }

    /// Those of the IPv6 header, or none.
    fn base(&self) -> usize {
        if self.packet.is_some() { Packet::OCTETS } else { 0 }
    }

    #[inline]
    fn options(&self) -> impl Iterator<Item = MessageOption<'o>> {
        self.elements().options()
    }
}

/// `Router Advertisement, 3 options, 96 octets`
impl fmt::Display for Message<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(if self.octets[0] == SOLICITATION { "Router Solicitation" } else { "Router Advertisement" })?;
        packet::write_size(f, self.options().count(), self.octets.len())
    }
}
