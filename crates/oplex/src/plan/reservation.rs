//! Reservations: what single clients get. A plan may have a million, so each is kept small, and found by an index.

use std::collections::HashMap;
use std::collections::hash_map::Entry;
use std::hash::{DefaultHasher, Hash, Hasher};
use std::net::{Ipv4Addr, Ipv6Addr};
use std::ops::Range;

use smol_str::SmolStr;

use super::Layer;
use super::rows::Rows;
use crate::finding::{FileId, Spot};

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
    address_v6: Option<(Ipv6Addr, Stretch)>,
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
            more: None,
            client_at: at.span.into(),
            address_at: Stretch::default(),
            name_at: Stretch::default(),
        }
    }

    /// Gives it an address, a name, and what only this client is told.
    pub(super) fn with(
        self,
        (address, address_v6): (Placed<Ipv4Addr>, Placed<Ipv6Addr>),
        name: Option<(&str, Range<usize>)>,
        layer: Option<Layer>,
    ) -> Self {
        let called =
            |client: &ClientKey| name.as_ref().map_or_else(|| client.to_string(), |(name, _)| (*name).to_owned());
        let named = |layer| Layer { name: format!("reservation {}", called(&self.client)), ..layer };
        let address_v6 = address_v6.map(|(address, span)| (address, span.into()));
        let has_more = layer.is_some() || address_v6.is_some();
        let more = has_more.then(|| Box::new(More { layer: layer.map(named), address_v6 }));
        Self {
            address: address.as_ref().map(|(address, _)| *address),
            address_at: address.map(|(_, span)| span.into()).unwrap_or_default(),
            name: name.as_ref().map(|(name, _)| (*name).into()),
            name_at: name.map(|(_, span)| span.into()).unwrap_or_default(),
            more,
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
        self.more.as_ref()?.layer.as_ref()
    }

    /// The IPv6 address it gets, and where that is written.
    #[must_use]
    pub fn address_v6(&self) -> Option<(Ipv6Addr, Spot)> {
        let (address, at) = self.more.as_ref()?.address_v6?;
        Some((address, self.spot(at)))
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
    /// By its DUID (RFC 8415, section 11).
    Duid(Box<[u8]>),
}

impl ClientKey {
    /// A number that is the same for the same client, and rarely for two.
    fn short(&self) -> u64 {
        match self {
            Self::Mac([a, b, c, d, e, f]) => u64::from_be_bytes([0, 0, *a, *b, *c, *d, *e, *f]),
            Self::ClientId(id) | Self::Duid(id) => {
                let mut hasher = DefaultHasher::new();
                id.hash(&mut hasher);
                hasher.finish()
            }
        }
    }
}

impl std::fmt::Display for ClientKey {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Mac(mac) => f.write_str(&crate::octets::hex::colon(mac)),
            Self::Duid(duid) => write!(f, "duid {}", crate::octets::hex::colon(duid)),
            Self::ClientId(id) => write!(f, "client {}", crate::octets::hex::colon(id)),
        }
    }
}

/// Where the clients of this number begin among those of one network, which are in the order of their numbers.
///
/// Devices bought together have neighbouring addresses, so the place where even steps would put it is mostly near: of
/// thousands of networks each look costs a wait for memory.
fn first_at(clients: &[(u32, u64, u32)], short: u64) -> usize {
    let (Some((_, first, _)), Some((_, last, _))) = (clients.first(), clients.last()) else { return 0 };
    if short <= *first || short > *last {
        return if short <= *first { 0 } else { clients.len() };
    }
    let steps = u128::from(short - first) * (clients.len() - 1) as u128;
    let (mut low, mut high) = (0, clients.len());
    let (mut probe, mut stride) = ((steps / u128::from(last - first)) as usize, 1);
    // From the guess outwards in steps that double, until it lies between two looks.
    loop {
        if clients[probe].1 < short {
            low = probe + 1;
            probe = probe.saturating_add(stride);
        } else {
            high = probe;
            probe = probe.wrapping_sub(stride);
        }
        if !(low..high).contains(&probe) {
            return low + clients[low..high].partition_point(|(_, known, _)| *known < short);
        }
        stride *= 2;
    }
}

/// All reservations of a plan, in the order written, found by client and by address without a scan.
///
/// The indexes are sorted, not hashed: tables mostly come in order already, and then cost next to nothing to sort.
#[derive(Debug, Clone, Default)]
pub struct Reservations {
    rows: Rows,
    /// The ones that have more than most.
    telling: Vec<u32>,
    /// By network and client, those of one in the order written.
    by_client: Vec<(u32, u64, u32)>,
    /// Where each network begins in that.
    networks: Vec<u32>,
    /// By address, those of one in the order written; each with its network.
    by_address: Vec<(Ipv4Addr, u32, u32)>,
    /// For each network where its addresses lie.
    reach: Vec<Reach>,
}

/// Where the reserved addresses of a network lie: few, as a rule, and near each other.
#[derive(Debug, Clone)]
struct Reach {
    first: Ipv4Addr,
    last: Ipv4Addr,
    /// Their places among all addresses, and those of others between them.
    places: Range<u32>,
}

impl std::ops::Index<usize> for Reservations {
    type Output = Reservation;

    fn index(&self, at: usize) -> &Reservation {
        self.rows.get(at).expect("a place of a reservation")
    }
}

/// More reservations than a thread takes to start.
const MANY: usize = 50_000;

impl Reservations {
    pub(super) fn new(rows: Rows) -> Self {
        let numbered = || rows.iter().zip(0u32..);
        let addresses = || {
            let mut by_address = Vec::with_capacity(rows.iter().filter(|row| row.address.is_some()).count());
            by_address.extend(numbered().filter_map(|(row, at)| Some((row.address?, at, row.network))));
            by_address.sort_unstable();
            by_address
        };
        let clients = || {
            let (mut by_client, mut telling) = (Vec::with_capacity(rows.len()), Vec::new());
            for (row, at) in numbered() {
                by_client.push((row.network, row.client.short(), at));
                if row.more.is_some() {
                    telling.push(at);
                }
            }
            by_client.sort_unstable();
            (by_client, telling)
        };
        let ((by_client, telling), by_address) = if rows.len() < MANY {
            (clients(), addresses())
        } else {
            std::thread::scope(|scope| {
                let beside = scope.spawn(addresses);
                let of_clients = clients();
                (of_clients, beside.join().unwrap_or_else(|panic| std::panic::resume_unwind(panic)))
            })
        };
        let mut networks = vec![0];
        for of_one in by_client.chunk_by(|(one, ..), (next, ..)| one == next) {
            let begin = networks.last().copied().unwrap_or(0);
            networks.resize(of_one[0].0 as usize + 1, begin);
            networks.push(begin + of_one.len() as u32);
        }
        let nowhere = Reach { first: Ipv4Addr::BROADCAST, last: Ipv4Addr::UNSPECIFIED, places: 0..0 };
        let mut reach = vec![nowhere; networks.len()];
        for ((address, _, network), place) in by_address.iter().zip(0..) {
            let Reach { first, last, places } = &mut reach[*network as usize];
            // The addresses come in order.
            *places = if places.start == places.end { place..place + 1 } else { places.start..place + 1 };
            (*first, *last) = ((*first).min(*address), *address);
        }
        Self { telling, by_client, networks, by_address, reach, rows }
    }

    /// The layers of those that are told something of their own.
    pub(super) fn layers(&self) -> impl Iterator<Item = &Layer> {
        self.telling.iter().filter_map(|at| self.row(*at).layer())
    }

    /// The reservations with an IPv6 address.
    pub fn with_v6(&self) -> impl Iterator<Item = (&Reservation, Ipv6Addr, Spot)> {
        let rows = self.telling.iter().map(|at| self.row(*at));
        rows.filter_map(|row| row.address_v6().map(|(address, spot)| (row, address, spot)))
    }

    fn row(&self, at: u32) -> &Reservation {
        &self[at as usize]
    }

    /// How many there are.
    #[must_use]
    pub fn len(&self) -> usize {
        self.rows.len()
    }

    /// Whether there is none.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }

    /// All of them, in the order written.
    pub fn iter(&self) -> impl Iterator<Item = &Reservation> + Clone {
        self.rows.iter()
    }

    /// The reservation of a client on a network; of two the first counts, and a rule speaks of the other.
    #[must_use]
    pub fn of(&self, network: usize, client: &ClientKey) -> Option<&Reservation> {
        let (from, to) = (*self.networks.get(network)?, *self.networks.get(network + 1)?);
        let here = &self.by_client[from as usize..to as usize];
        let short = client.short();
        let begin = first_at(here, short);
        let near = here[begin..].iter().take_while(|(_, known, _)| *known == short);
        near.map(|(.., at)| self.row(*at)).find(|row| row.client == *client)
    }

    /// The first reservation of an address, on any network.
    #[must_use]
    pub fn at(&self, address: Ipv4Addr) -> Option<&Reservation> {
        all_at(address, &self.by_address).next().map(|(_, at, _)| self.row(*at))
    }

    /// Whether a reservation on this network has the address.
    #[must_use]
    pub fn has(&self, network: usize, address: Ipv4Addr) -> bool {
        let reach = self.reach.get(network).filter(|reach| reach.first <= address && address <= reach.last);
        reach.is_some_and(|Reach { places, .. }| {
            let near = &self.by_address[places.start as usize..places.end as usize];
            all_at(address, near).any(|(_, _, of)| *of as usize == network)
        })
    }

    /// The reservations on a network.
    pub fn of_network(&self, network: usize) -> impl ExactSizeIterator<Item = &Reservation> + Clone {
        let bounds = self.networks.get(network).zip(self.networks.get(network + 1));
        let here = bounds.map_or(&[][..], |(from, to)| &self.by_client[*from as usize..*to as usize]);
        here.iter().map(|(.., at)| self.row(*at))
    }

    /// Each reservation whose name another has already, with the first of these.
    #[must_use]
    pub fn of_one_name(&self) -> Vec<(&Reservation, &Reservation)> {
        let named = || self.rows.iter().filter_map(|row| Some((row.name.as_deref()?, row)));
        // A table in the order of its names has none, and needs no index to know.
        if named().is_sorted_by(|(one, _), (next, _)| one < next) {
            return Vec::new();
        }
        let mut first: HashMap<&str, &Reservation> = HashMap::with_capacity(self.rows.len());
        let mut pairs = Vec::new();
        for (name, row) in named() {
            match first.entry(name) {
                Entry::Occupied(known) => pairs.push((row, *known.get())),
                Entry::Vacant(free) => _ = free.insert(row),
            }
        }
        pairs
    }

    /// Each reservation whose client has an earlier one on the same network, with the first of these.
    pub fn of_one_client(&self) -> impl Iterator<Item = (&Reservation, &Reservation)> {
        let near = self.by_client.chunk_by(|one, next| (one.0, one.1) == (next.0, next.1));
        near.filter(|near| near.len() > 1).flat_map(|near| {
            let mut first: HashMap<&ClientKey, &Reservation> = HashMap::new();
            let rows = near.iter().map(|(.., at)| self.row(*at));
            let pairs = rows.filter_map(move |row| match first.entry(&row.client) {
                Entry::Occupied(known) => Some((row, *known.get())),
                Entry::Vacant(free) => {
                    free.insert(row);
                    None
                }
            });
            pairs.collect::<Vec<_>>()
        })
    }

    /// Each reservation whose address another has already, with the first of these.
    pub fn of_one_address(&self) -> impl Iterator<Item = (&Reservation, &Reservation)> {
        let same = self.by_address.chunk_by(|(one, ..), (next, ..)| one == next);
        same.flat_map(|same| {
            let (first, later) = same.split_first().unwrap_or((&same[0], &[]));
            later.iter().map(|(_, at, _)| (self.row(*at), self.row(first.1)))
        })
    }
}

fn all_at(address: Ipv4Addr, among: &[(Ipv4Addr, u32, u32)]) -> impl Iterator<Item = &(Ipv4Addr, u32, u32)> {
    let begin = among.partition_point(|(known, ..)| *known < address);
    among[begin..].iter().take_while(move |(known, ..)| *known == address)
}
