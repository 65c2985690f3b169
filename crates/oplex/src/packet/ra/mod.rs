//! Router advertisements, and the solicitations that request them (RFC 4861).
//!
//! They say which prefixes are on a link, and by two flags whether hosts use DHCPv6. A [`Message`] is looked at where it lies,
//! with or without the IPv6 header in front, which allocates nothing. A [`Draft`] is composed the other way.
//!
//! ```
//! use oplex::packet::ra::{self, Advertisement, Draft, Ends, Header, Message};
//! use oplex::packet::{Composer, Message as _};
//!
//! let ends = Ends { source: "fe80::1".parse()?, destination: "ff02::1".parse()? };
//! let advertisement = Advertisement { other: true, router_lifetime: 1800, ..Advertisement::default() };
//! let mtu: &[u8] = &[0, 0, 0, 0, 5, 220];
//! let mut composer = Composer::default();
//! let octets = composer.compose(&Draft { header: Header::Advertisement(advertisement), ends, options: &[(5, mtu)] })?;
//! let message = Message::read(octets)?;
//! assert_eq!(message.to_string(), "Router Advertisement, 1 option, 24 octets");
//! assert_eq!(message.advertisement(), Some(advertisement));
//! assert_eq!(message.checksum(), ra::checksum(ends, message.octets()));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod compose;
#[rustfmt::skip]
mod keys;
mod message;

use core::net::Ipv6Addr;

pub use compose::{Draft, Header};
pub use keys::*;
pub use message::{Ends, Message, Packet, Units};

/// The ICMPv6 type of a solicitation (RFC 4861, section 4.1).
pub const SOLICITATION: u8 = 133;

/// The ICMPv6 type of an advertisement (RFC 4861, section 4.2).
pub const ADVERTISEMENT: u8 = 134;

/// All nodes on the link (RFC 4291, section 2.7.1).
pub const ALL_NODES: Ipv6Addr = Ipv6Addr::new(0xff02, 0, 0, 0, 0, 0, 0, 1);

/// All routers on the link (RFC 4291, section 2.7.1).
pub const ALL_ROUTERS: Ipv6Addr = Ipv6Addr::new(0xff02, 0, 0, 0, 0, 0, 0, 2);

/// The hop limit that shows a message was not forwarded by a router (RFC 4861, section 6.1).
pub const HOP_LIMIT: u8 = 255;

/// What lengths of options count (RFC 4861, section 4.6).
pub const UNIT: usize = 8;

/// What an advertisement says in front of its options (RFC 4861, section 4.2).
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Advertisement {
    /// The hop limit that hosts should send with; 0 says nothing.
    pub hop_limit: u8,
    /// M: addresses come by DHCPv6.
    pub managed: bool,
    /// O: other things come by DHCPv6.
    pub other: bool,
    /// H: the router is a Mobile IPv6 home agent (RFC 6275, section 7.1).
    pub home_agent: bool,
    /// How the router is preferred to others (RFC 4191, section 2.1).
    pub preference: Preference,
    /// P: the router is a proxy (RFC 4389).
    pub proxy: bool,
    /// The two unused bits.
    pub unused: u8,
    /// For how many seconds the router is a default router; 0 says it is none.
    pub router_lifetime: u16,
    /// For how many milliseconds a neighbour counts as reachable; 0 says nothing.
    pub reachable_time: u32,
    /// After how many milliseconds a solicitation is sent again; 0 says nothing.
    pub retrans_timer: u32,
}

/// How a router is preferred to others (RFC 4191, section 2.1).
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Preference {
    /// After routers of medium preference.
    Low,
    /// As those that do not say.
    #[default]
    Medium,
    /// Before routers of medium preference.
    High,
    /// The reserved bits 10, which count as medium.
    Reserved,
}

impl Preference {
    /// The words that stand for it in files; [`Preference::Reserved`] has none that anybody should write.
    pub const NAMES: [&'static str; 4] = ["low", "medium", "high", "reserved"];

    /// The preference of this name.
    ///
    /// ```
    /// use oplex::packet::ra::Preference;
    ///
    /// assert_eq!(Preference::named("high"), Some(Preference::High));
    /// assert_eq!(Preference::High.name(), "high");
    /// assert!(Preference::named("highest").is_none());
    /// ```
    #[must_use]
    pub fn named(name: &str) -> Option<Self> {
        [Self::Low, Self::Medium, Self::High, Self::Reserved].into_iter().find(|one| one.name() == name)
    }

    /// Its name in files and output.
    #[must_use]
    pub fn name(self) -> &'static str {
        Self::NAMES[self as usize]
    }

    fn of_bits(bits: u8) -> Self {
        [Self::Medium, Self::High, Self::Reserved, Self::Low][usize::from(bits & 3)]
    }

    fn bits(self) -> u8 {
        match self {
            Self::Medium => 0,
            Self::High => 1,
            Self::Reserved => 2,
            Self::Low => 3,
        }
    }
}

impl Advertisement {
    /// Octets in front of the options, the ICMPv6 header included.
    pub const OCTETS: usize = 16;

    /// What its flags make hosts request from DHCPv6 (RFC 4861, section 4.2).
    #[must_use]
    pub fn directs(&self) -> &'static str {
        match (self.managed, self.other) {
            (true, _) => "request addresses and the rest from DHCPv6 (Solicit)",
            (false, true) => "request everything but addresses from DHCPv6 (Information-request)",
            (false, false) => "do not use DHCPv6",
        }
    }

    /// What the octets between the checksum and the options say.
    pub(crate) fn read(octets: &[u8; 12]) -> Self {
        let [hop_limit, flags, life @ ..] = *octets;
        let long = |at: usize| u32::from_be_bytes([life[at], life[at + 1], life[at + 2], life[at + 3]]);
        Self {
            hop_limit,
            managed: flags & 0x80 != 0,
            other: flags & 0x40 != 0,
            home_agent: flags & 0x20 != 0,
            preference: Preference::of_bits(flags >> 3),
            proxy: flags & 0x04 != 0,
            unused: flags & 0x03,
            router_lifetime: u16::from_be_bytes([life[0], life[1]]),
            reachable_time: long(2),
            retrans_timer: long(6),
        }
    }

    pub(crate) fn octets(&self) -> [u8; 12] {
        let flag = |on: bool, bit: u8| if on { bit } else { 0 };
        let flags = flag(self.managed, 0x80)
            | flag(self.other, 0x40)
            | flag(self.home_agent, 0x20)
            | self.preference.bits() << 3
            | flag(self.proxy, 0x04)
            | self.unused & 0x03;
        let mut octets = [0; 12];
        (octets[0], octets[1]) = (self.hop_limit, flags);
        octets[2..4].copy_from_slice(&self.router_lifetime.to_be_bytes());
        octets[4..8].copy_from_slice(&self.reachable_time.to_be_bytes());
        octets[8..].copy_from_slice(&self.retrans_timer.to_be_bytes());
        octets
    }
}

/// The checksum that an ICMPv6 message should have between these ends, whatever it has (RFC 4443, section 2.3).
///
/// ```
/// use oplex::packet::ra;
///
/// let ends = ra::Ends { source: "fe80::1".parse()?, destination: ra::ALL_NODES };
/// let mut octets = vec![134, 0, 0, 0, 64, 0, 7, 8, 0, 0, 0, 0, 0, 0, 0, 0];
/// let sum = ra::checksum(ends, &octets);
/// octets[2..4].copy_from_slice(&sum.to_be_bytes());
/// // The field of the checksum itself is not counted (RFC 4443, section 2.3).
/// assert_eq!(ra::checksum(ends, &octets), sum);
/// # Ok::<(), std::net::AddrParseError>(())
/// ```
#[must_use]
pub fn checksum(ends: Ends, message: &[u8]) -> u16 {
    let sum = |octets: &[u8]| {
        let (pairs, odd) = octets.as_chunks::<2>();
        let pairs: u64 = pairs.iter().map(|pair| u64::from(u16::from_be_bytes(*pair))).sum();
        pairs + odd.first().map_or(0, |last| u64::from(*last) << 8)
    };
    // The pseudo-header has the addresses, the length and the protocol, 58 (RFC 8200, section 8.1).
    let pseudo = sum(&ends.source.octets()) + sum(&ends.destination.octets()) + message.len() as u64 + 58;
    // The checksum itself counts as zero.
    let own = sum(message.get(2..4).unwrap_or_default());
    let mut all = pseudo + sum(message) - own;
    while all > 0xffff {
        all = (all & 0xffff) + (all >> 16);
    }
    !(all as u16)
}
