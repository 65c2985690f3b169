//! Reservations: what single clients get. A plan may have a million, so each is kept small, and found by an index.

use std::collections::HashSet;
use std::hash::BuildHasher;
use std::net::Ipv4Addr;
use std::ops::Range;

use hashbrown::DefaultHashBuilder;
use hashbrown::hash_table::{Entry, HashTable};

use super::Layer;
use crate::finding::{FileId, Spot};

/// What a single client gets.
#[derive(Debug, Clone)]
pub struct Reservation {
    network: u32,
    file: FileId,
    client: ClientKey,
    address: Option<Ipv4Addr>,
    name: Option<Box<str>>,
    layer: Option<Box<Layer>>,
    client_at: Stretch,
    address_at: Stretch,
    name_at: Stretch,
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
    pub(super) fn new(network: usize, client: ClientKey, at: Spot) -> Self {
        Self {
            network: u32::try_from(network).unwrap_or(u32::MAX),
            file: at.file,
            client,
            address: None,
            name: None,
            layer: None,
            client_at: at.span.into(),
            address_at: Stretch::default(),
            name_at: Stretch::default(),
        }
    }

    /// Gives it an address, a name, and what only this client is told.
    pub(super) fn with(
        self,
        address: Option<(Ipv4Addr, Spot)>,
        name: Option<(&str, Spot)>,
        layer: Option<Layer>,
    ) -> Self {
        let called =
            |client: &ClientKey| name.as_ref().map_or_else(|| client.to_string(), |(name, _)| (*name).to_owned());
        let named = |layer| Box::new(Layer { name: format!("reservation {}", called(&self.client)), ..layer });
        let layer = layer.map(named);
        Self {
            address: address.as_ref().map(|(address, _)| *address),
            address_at: address.map(|(_, spot)| spot.span.into()).unwrap_or_default(),
            name: name.as_ref().map(|(name, _)| (*name).into()),
            name_at: name.map(|(_, spot)| spot.span.into()).unwrap_or_default(),
            layer,
            ..self
        }
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

    /// The address it gets, and where that is written.
    #[must_use]
    pub fn address(&self) -> Option<(Ipv4Addr, Spot)> {
        Some((self.address?, self.spot(self.address_at)))
    }

    /// What people call it, and where that is written.
    #[must_use]
    pub fn name(&self) -> Option<(&str, Spot)> {
        Some((self.name.as_deref()?, self.spot(self.name_at)))
    }

    /// What it is told; most are told nothing of their own.
    #[must_use]
    pub fn layer(&self) -> Option<&Layer> {
        self.layer.as_deref()
    }

    fn spot(&self, at: Stretch) -> Spot {
        Spot { file: self.file, span: at.start as usize..at.end as usize }
    }
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

/// All reservations of a plan, in the order written, found by client and by address without a search.
#[derive(Debug, Clone, Default)]
pub struct Reservations {
    rows: Vec<Reservation>,
    /// The ones that are told something of their own.
    telling: Vec<u32>,
    /// The first of each client on each network, and of each address.
    by_client: HashTable<u32>,
    by_address: HashTable<u32>,
    /// Later ones with the first that has the same client, or the same address.
    same_client: Vec<(u32, u32)>,
    same_address: Vec<(u32, u32)>,
    /// The networks and addresses of the latter.
    again: HashSet<(usize, Ipv4Addr)>,
    hasher: DefaultHashBuilder,
}

impl std::ops::Deref for Reservations {
    type Target = [Reservation];

    fn deref(&self) -> &[Reservation] {
        &self.rows
    }
}

impl Reservations {
    pub(super) fn new(rows: Vec<Reservation>) -> Self {
        let mut all = Self::default();
        let (mut by_client, mut by_address) =
            (HashTable::with_capacity(rows.len()), HashTable::with_capacity(rows.len()));
        for (row, at) in rows.iter().zip(0..) {
            let hash = |row: &Reservation| all.hasher.hash_one(key(row));
            let same = |known: &u32| key(&rows[*known as usize]) == key(row);
            match by_client.entry(hash(row), same, |known| hash(&rows[*known as usize])) {
                Entry::Occupied(first) => all.same_client.push((at, *first.get())),
                Entry::Vacant(free) => _ = free.insert(at),
            }
            if let Some(address) = row.address {
                let hash = |row: &Reservation| all.hasher.hash_one(row.address);
                let same = |known: &u32| rows[*known as usize].address == row.address;
                match by_address.entry(hash(row), same, |known| hash(&rows[*known as usize])) {
                    Entry::Occupied(first) => {
                        all.same_address.push((at, *first.get()));
                        all.again.insert((row.network(), address));
                    }
                    Entry::Vacant(free) => _ = free.insert(at),
                }
            }
            if row.layer.is_some() {
                all.telling.push(at);
            }
        }
        Self { rows, by_client, by_address, ..all }
    }

    /// The layers of those that are told something of their own.
    pub(super) fn layers(&self) -> impl Iterator<Item = &Layer> {
        self.telling.iter().filter_map(|at| self.rows[*at as usize].layer())
    }

    /// The reservation of a client on a network; of two the first counts, and a rule speaks of the other.
    #[must_use]
    pub fn of(&self, network: usize, client: &ClientKey) -> Option<&Reservation> {
        let wanted = (u32::try_from(network).ok()?, client);
        let found = self.by_client.find(self.hasher.hash_one(wanted), |at| key(&self.rows[*at as usize]) == wanted);
        found.map(|at| &self.rows[*at as usize])
    }

    /// The first reservation of an address, on any network.
    #[must_use]
    pub fn at(&self, address: Ipv4Addr) -> Option<&Reservation> {
        let same = |at: &u32| self.rows[*at as usize].address == Some(address);
        let found = self.by_address.find(self.hasher.hash_one(Some(address)), same);
        found.map(|at| &self.rows[*at as usize])
    }

    /// Whether a reservation on this network has the address.
    #[must_use]
    pub fn has(&self, network: usize, address: Ipv4Addr) -> bool {
        let first = self.at(address);
        first.is_some_and(|row| row.network() == network || self.again.contains(&(network, address)))
    }

    /// Each reservation whose client has an earlier one on the same network, with the first of these.
    pub fn of_one_client(&self) -> impl Iterator<Item = (&Reservation, &Reservation)> {
        self.pairs(&self.same_client)
    }

    /// Each reservation whose address another has already, with the first of these.
    pub fn of_one_address(&self) -> impl Iterator<Item = (&Reservation, &Reservation)> {
        self.pairs(&self.same_address)
    }

    fn pairs<'a>(&'a self, pairs: &'a [(u32, u32)]) -> impl Iterator<Item = (&'a Reservation, &'a Reservation)> {
        pairs.iter().map(|(later, first)| (&self.rows[*later as usize], &self.rows[*first as usize]))
    }
}

fn key(row: &Reservation) -> (u32, &ClientKey) {
    (row.network, &row.client)
}
