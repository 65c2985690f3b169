//! Reservations: what single clients get.

use std::net::Ipv4Addr;

use super::Layer;
use crate::finding::Spot;

/// What a single client gets.
#[derive(Debug, Clone)]
pub struct Reservation {
    /// The network, by its place in the plan.
    pub network: usize,
    /// Which client.
    pub client: ClientKey,
    /// Where that is written.
    pub client_spot: Spot,
    /// The address it gets, and where that is written.
    pub address: Option<(Ipv4Addr, Spot)>,
    /// What people call it, and where that is written.
    pub name: Option<(String, Spot)>,
    /// What it is told; most are told nothing of their own.
    pub layer: Option<Box<Layer>>,
}

/// How a server tells clients apart (RFC 2131, section 4.2).
#[derive(Debug, Clone, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum ClientKey {
    /// By hardware address.
    Mac([u8; 6]),
    /// By the identifier it sends (61).
    ClientId(Box<[u8]>),
}

impl std::fmt::Display for ClientKey {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Mac(mac) => f.write_str(&crate::octets::hex::colon(mac)),
            Self::ClientId(id) => write!(f, "client {}", crate::octets::hex::colon(id)),
        }
    }
}
