//! Reservations: what single clients get. A plan may have a million, so each is kept small, and found by an index.

use std::hash::{BuildHasher as _, Hash};
use std::net::{Ipv4Addr, Ipv6Addr};
use std::ops::Range;

use smol_str::SmolStr;

use super::Layer;
use crate::ParseError;
use crate::family::{Address, Family, Net};
use crate::finding::{FileId, Spot};
use crate::octets::{Duid, Mac};

/// What a single client gets.
#[derive(Debug, Clone)]
pub struct Reservation {
    network: u32,
    file: FileId,
    client: ClientKey,
    address: Option<Ipv4Addr>,
    /// Short names need no memory of their own in this.
    name: Option<SmolStr>,
    /// What most have not.
    more: Option<Box<More>>,
    client_at: Stretch,
    address_at: Stretch,
    name_at: Stretch,
}

/// An address that may be written, and where.
type Placed<A> = Option<(A, Range<usize>)>;

/// What few reservations have.
#[derive(Debug, Clone, Default)]
struct More {
    layer: Option<Layer>,
    ipv6_address: Option<(Ipv6Addr, Stretch)>,
    delegated: Option<(Net<Ipv6Addr>, Stretch)>,
}

/// Characters of a file that is never larger than 4 GB.
#[derive(Debug, Clone, Copy, Default)]
struct Stretch {
    start: u32,
    end: u32,
}

impl From<Range<usize>> for Stretch {
    fn from(span: Range<usize>) -> Self {
        let [start, end] = [span.start, span.end].map(|at| u32::try_from(at).unwrap_or(u32::MAX));
        Self { start, end }
    }
}

impl Reservation {
    /// A reservation of nothing yet, for the client that is named there.
    pub(crate) fn new(network: usize, client: ClientKey, at: Spot) -> Self {
        Self {
            network: u32::try_from(network).unwrap_or(u32::MAX),
            file: at.file,
            client,
            address: None,
            name: None,
            more: None,
            client_at: at.span.into(),
            address_at: Stretch::default(),
            name_at: Stretch::default(),
        }
    }

    /// Gives it an address, a name, and what only this client is sent.
    pub(crate) fn with(
        self,
        (address, ipv6_address): (Placed<Ipv4Addr>, Placed<Ipv6Addr>),
        name: Option<(&str, Range<usize>)>,
        layer: Option<Layer>,
    ) -> Self {
        let called =
            |client: &ClientKey| name.as_ref().map_or_else(|| client.to_string(), |(name, _)| (*name).to_owned());
        let named = |layer| Layer { name: format!("reservation {}", called(&self.client)), ..layer };
        let ipv6_address = ipv6_address.map(|(address, span)| (address, span.into()));
        let has_more = layer.is_some() || ipv6_address.is_some();
        let more = has_more.then(|| Box::new(More { layer: layer.map(named), ipv6_address, delegated: None }));
        Self {
            address: address.as_ref().map(|(address, _)| *address),
            address_at: address.map(|(_, span)| span.into()).unwrap_or_default(),
            name: name.as_ref().map(|(name, _)| (*name).into()),
            name_at: name.map(|(_, span)| span.into()).unwrap_or_default(),
            more,
            ..self
        }
    }

    /// Gives it a prefix that is delegated to its client.
    pub(crate) fn delegating(self, delegated: Option<(Net<Ipv6Addr>, Range<usize>)>) -> Self {
        let Some((prefix, span)) = delegated else { return self };
        let more = self.more.unwrap_or_default();
        Self { more: Some(Box::new(More { delegated: Some((prefix, span.into())), ..*more })), ..self }
    }

    /// The prefix that is delegated to its client, and where that is written.
    #[must_use]
    pub fn delegated(&self) -> Option<(Net<Ipv6Addr>, Spot)> {
        let (prefix, at) = self.more.as_ref()?.delegated?;
        Some((prefix, self.spot(at)))
    }

    /// The network, by its place in the plan.
    #[must_use]
    pub fn network(&self) -> usize {
        self.network as usize
    }

    /// Which client.
    #[must_use]
    pub fn client(&self) -> &ClientKey {
        &self.client
    }

    /// Where it says which client.
    #[must_use]
    pub fn client_spot(&self) -> Spot {
        self.spot(self.client_at)
    }

    /// The address of this family that it gets, and where that is written.
    #[must_use]
    pub fn address<A: Address>(&self) -> Option<(A, Spot)> {
        let (address, at) = match A::FAMILY {
            Family::V4 => (self.address?.into(), self.address_at),
            Family::V6 => self.more.as_ref()?.ipv6_address.map(|(address, at)| (address.into(), at))?,
        };
        Some((A::of(address)?, self.spot(at)))
    }

    /// What people call it, and where that is written.
    #[must_use]
    pub fn name(&self) -> Option<(&str, Spot)> {
        Some((self.name.as_deref()?, self.spot(self.name_at)))
    }

    /// What it is sent; most are sent nothing of their own.
    #[must_use]
    pub fn layer(&self) -> Option<&Layer> {
        self.more.as_ref()?.layer.as_ref()
    }

    /// Whether it has more than most: an IPv6 address, or something of its own that the client is sent.
    pub(super) fn has_more(&self) -> bool {
        self.more.is_some()
    }

    /// Whether both are an address and a name alone, and the same.
    pub(crate) fn plainly_equals(&self, other: &Self) -> bool {
        !self.has_more() && !other.has_more() && self.address == other.address && self.name == other.name
    }

    fn spot(&self, at: Stretch) -> Spot {
        Spot { file: self.file, span: at.start as usize..at.end as usize }
    }
}

/// How a server distinguishes clients (RFC 2131, section 4.2).
#[derive(Debug, Clone, PartialEq, Eq, Hash, PartialOrd, Ord)]
#[non_exhaustive]
pub enum ClientKey {
    /// By hardware address.
    Mac(Mac),
    /// By the identifier it sends (61).
    ClientId(Box<[u8]>),
    /// By its DUID (RFC 8415, section 11).
    Duid(Duid),
    /// By the circuit on which its relay agent has it (82/1, v6:18).
    CircuitId(Box<[u8]>),
    /// By the remote identifier that its relay agent adds (82/2, v6:37).
    RemoteId(Box<[u8]>),
}

/// What a client is known by, where it stands in what it sent.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum KeyOf<'k> {
    Mac(Mac),
    ClientId(&'k [u8]),
    Duid(&'k Duid),
    CircuitId(&'k [u8]),
    RemoteId(&'k [u8]),
}

impl<'k> From<&'k ClientKey> for KeyOf<'k> {
    fn from(key: &'k ClientKey) -> Self {
        match key {
            ClientKey::Mac(mac) => Self::Mac(*mac),
            ClientKey::ClientId(id) => Self::ClientId(id),
            ClientKey::Duid(duid) => Self::Duid(duid),
            ClientKey::CircuitId(id) => Self::CircuitId(id),
            ClientKey::RemoteId(id) => Self::RemoteId(id),
        }
    }
}

impl From<KeyOf<'_>> for ClientKey {
    fn from(key: KeyOf<'_>) -> Self {
        match key {
            KeyOf::Mac(mac) => Self::Mac(mac),
            KeyOf::ClientId(id) => Self::ClientId(id.into()),
            KeyOf::Duid(duid) => Self::Duid(duid.clone()),
            KeyOf::CircuitId(id) => Self::CircuitId(id.into()),
            KeyOf::RemoteId(id) => Self::RemoteId(id.into()),
        }
    }
}

impl KeyOf<'_> {
    /// A number that is the same for the same client, and rarely for two.
    pub(super) fn short(self) -> u64 {
        match self {
            Self::Mac(Mac([a, b, c, d, e, f])) => u64::from_be_bytes([0, 0, a, b, c, d, e, f]),
            Self::ClientId(id) | Self::CircuitId(id) | Self::RemoteId(id) => hashed(id),
            Self::Duid(duid) => hashed(duid),
        }
    }
}

/// The same in every run, as indexes are sorted by it; whoever has a plan of many that agree in it waits for each other's alone.
fn hashed(octets: &[u8]) -> u64 {
    foldhash::fast::FixedState::with_seed(0).hash_one(octets)
}

/// A MAC, `duid 00:03:…`, `client` and an identifier, or `circuit` or `remote` and octets.
impl std::str::FromStr for ClientKey {
    type Err = ParseError;

    fn from_str(text: &str) -> Result<Self, ParseError> {
        Ok(match text.split_once(' ') {
            Some(("duid", duid)) => Self::Duid(duid.parse()?),
            Some(("client", id)) => Self::ClientId(super::fleet::client_id(id)?),
            Some(("circuit", id)) => Self::CircuitId(super::facts::identifier(id)?.into()),
            Some(("remote", id)) => Self::RemoteId(super::facts::identifier(id)?.into()),
            _ => Self::Mac(text.parse()?),
        })
    }
}

impl std::fmt::Display for ClientKey {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Mac(mac) => write!(f, "{mac}"),
            Self::Duid(duid) => write!(f, "duid {duid}"),
            Self::ClientId(id) => write!(f, "client {}", crate::octets::hex::colon(id)),
            Self::CircuitId(id) => write!(f, "circuit {}", super::facts::identifier_text(id)),
            Self::RemoteId(id) => write!(f, "remote {}", super::facts::identifier_text(id)),
        }
    }
}
