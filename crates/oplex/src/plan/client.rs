//! A client, described by what it sends.

use super::ClientKey;
use crate::family::{Both, Family};

/// A client, described by what it sends.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct ClientFacts {
    /// The network it is on, by its place in the plan.
    pub network: usize,
    /// Its hardware address.
    pub mac: Option<[u8; 6]>,
    /// Its DUID; made of its hardware address by default (RFC 8415, section 11.4).
    pub duid: Option<Vec<u8>>,
    /// The options it sends, or a relay agent for it, by code, besides those that follow from the rest.
    pub sends: Both<Vec<(u16, Vec<u8>)>>,
    /// The codes it requests; `None` is a client that sends no list, and is sent everything.
    pub wants: Both<Option<Vec<u16>>>,
    /// The largest datagram of DHCPv4 that it accepts.
    pub max_size: Option<u16>,
    /// Number of addresses of its pool that are already leased.
    pub leased: u32,
    /// Whether it takes an address by two messages of DHCPv6 in place of four (RFC 8415, section 21.14).
    pub rapid: bool,
    /// Whether it requests a prefix to be delegated.
    pub delegation: bool,
}

/// Ethernet, as hardware types have it.
const ETHERNET: [u8; 2] = [0, 1];

impl ClientFacts {
    /// A client on the network of this place in the plan, of which nothing else is known.
    #[must_use]
    pub fn on(network: usize) -> Self {
        Self { network, ..Self::default() }
    }

    /// The octets of an option that it sends.
    #[must_use]
    pub fn sent(&self, family: Family, code: u16) -> Option<&[u8]> {
        self.sends[family].iter().find(|(sent, _)| *sent == code).map(|(_, octets)| octets.as_slice())
    }

    /// Whether it requests an option: a client that sends no list takes everything.
    #[must_use]
    pub fn requests(&self, family: Family, code: u16) -> bool {
        self.wants[family].as_ref().is_none_or(|wants| wants.contains(&code))
    }

    /// Its DUID: the one it has, or the one that follows from its hardware address (RFC 8415, section 11.4).
    #[must_use]
    pub fn own_duid(&self) -> Option<Vec<u8>> {
        self.duid.clone().or_else(|| Some([&[0, 3], &ETHERNET, &self.mac?[..]].concat()))
    }

    /// Its hardware address: the one that is known, or the one that its DUID is made of (RFC 8415, sections 11.2 and
    /// 11.4).
    #[must_use]
    pub fn own_mac(&self) -> Option<[u8; 6]> {
        let of_duid = |duid: &[u8]| match duid {
            [0, 1, 0, 1, _, _, _, _, mac @ ..] | [0, 3, 0, 1, mac @ ..] => mac.try_into().ok(),
            _ => None,
        };
        self.mac.or_else(|| of_duid(self.duid.as_deref()?))
    }

    /// How a server may know it: by its identifier (RFC 2131, section 4.2) or its DUID first, by its hardware address where
    /// the plan knows no other.
    pub fn keys(&self, family: Family) -> impl Iterator<Item = ClientKey> {
        let (id, mac) = match family {
            Family::V4 => (self.sent(family, 61).map(|id| ClientKey::ClientId(id.into())), self.mac),
            Family::V6 => (self.own_duid().map(|duid| ClientKey::Duid(duid.into())), self.own_mac()),
        };
        id.into_iter().chain(mac.map(ClientKey::Mac))
    }
}
