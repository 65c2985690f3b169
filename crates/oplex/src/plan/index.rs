//! All reservations of a plan, found by client and by address without a scan.

use std::collections::HashMap;
use std::collections::hash_map::Entry;
use std::ops::Range;

use super::reservation::KeyOf;
use super::rows::Rows;
use super::{ClientFacts, ClientKey, Layer, Reservation};
use crate::family::{Address, ByAddress, Family, PerAddress};
use crate::finding::Spot;

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
    /// By address, once for each family.
    addresses: ByAddress<Indexes>,
}

/// Indexes by address, once for each family.
struct Indexes;

impl PerAddress for Indexes {
    type Of<A: Address> = AddressIndex<A>;
}

/// Reservations by their addresses of one family.
#[derive(Debug, Clone)]
struct AddressIndex<A> {
    /// The addresses, those of one in the order written; each with its row and its network.
    sorted: Vec<(A, u32, u32)>,
    /// For each network its places among all addresses, and those of others between them: few, as a rule.
    places: Vec<Range<u32>>,
}

// Derived, it would ask the same of `A`.
impl<A> Default for AddressIndex<A> {
    fn default() -> Self {
        Self { sorted: Vec::new(), places: Vec::new() }
    }
}

impl<A: Address> AddressIndex<A> {
    /// `most` rows at most.
    fn new<'r>(rows: impl Iterator<Item = (u32, &'r Reservation)>, most: usize) -> Self {
        let (mut sorted, mut networks) = (Vec::with_capacity(most), 0);
        for (at, row) in rows {
            if let Some((address, _)) = row.address::<A>() {
                networks = networks.max(row.network() + 1);
                sorted.push((address, at, row.network() as u32));
            }
        }
        sorted.sort_unstable();
        let mut places = vec![0..0; networks];
        for ((.., network), place) in sorted.iter().zip(0..) {
            let known: &mut Range<u32> = &mut places[*network as usize];
            *known = if known.start == known.end { place..place + 1 } else { known.start..place + 1 };
        }
        sorted.shrink_to_fit();
        Self { sorted, places }
    }

    fn at(&self, address: A) -> impl Iterator<Item = &(A, u32, u32)> {
        let begin = self.sorted.partition_point(|(known, ..)| *known < address);
        self.sorted[begin..].iter().take_while(move |(known, ..)| *known == address)
    }

    /// The addresses of a network from this one on, in their order.
    fn of_network(&self, network: usize, first: A) -> impl Iterator<Item = A> {
        let places = self.places.get(network).map_or(0..0, |places| places.start as usize..places.end as usize);
        let here = &self.sorted[places];
        let begin = here.partition_point(|(known, ..)| *known < first);
        here[begin..].iter().filter(move |(.., of)| *of as usize == network).map(|(address, ..)| *address)
    }
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
    /// An index of these rows.
    pub(crate) fn of_rows(rows: Vec<Reservation>) -> Self {
        let mut all = Rows::default();
        all.add(rows);
        Self::new(all)
    }

    pub(super) fn new(rows: Rows) -> Self {
        let numbered = || rows.iter().zip(0u32..);
        let addresses = || {
            let telling = rows.iter().zip(0u32..).filter(|(row, _)| row.has_more());
            ByAddress {
                v4: AddressIndex::new(rows.iter().zip(0u32..).map(|(row, at)| (at, row)), rows.len()),
                v6: AddressIndex::new(telling.map(|(row, at)| (at, row)), 0),
            }
        };
        let clients = || {
            let (mut by_client, mut telling) = (Vec::with_capacity(rows.len()), Vec::new());
            for (row, at) in numbered() {
                by_client.push((row.network() as u32, KeyOf::from(row.client()).short(), at));
                if row.has_more() {
                    telling.push(at);
                }
            }
            by_client.sort_unstable();
            (by_client, telling)
        };
        let ((by_client, telling), addresses) = if rows.len() < MANY {
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
        Self { telling, by_client, networks, addresses, rows }
    }

    /// Those that have more than most: an IPv6 address, or something that only they are sent.
    pub(crate) fn telling(&self) -> impl Iterator<Item = &Reservation> {
        self.telling.iter().map(|at| self.row(*at))
    }

    /// The layers of those that are sent something of their own.
    pub(super) fn layers(&self) -> impl Iterator<Item = &Layer> {
        self.telling().filter_map(Reservation::layer)
    }

    /// The reservations with an address of this family, in the order of the addresses.
    pub fn with_address<A: Address>(&self) -> impl Iterator<Item = (&Reservation, A, Spot)> {
        let rows = self.addresses.of::<A>().sorted.iter().map(|(_, at, _)| self.row(*at));
        rows.filter_map(|row| row.address().map(|(address, spot)| (row, address, spot)))
    }

    /// The reserved addresses of a network from this one on, in their order.
    pub fn addresses_from<A: Address>(&self, network: usize, first: A) -> impl Iterator<Item = A> {
        self.addresses.of::<A>().of_network(network, first)
    }

    /// The reserved addresses of a network, in their order.
    pub fn addresses_on<A: Address>(&self, network: usize) -> impl Iterator<Item = A> {
        self.addresses_from(network, A::from_bits(0))
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
        Self::among(self.clients_of(network), client.into(), |at| self.row(at))
    }

    /// The reservation of the client that sent this, by what it is known by first.
    pub(crate) fn of_client(&self, family: Family, facts: &ClientFacts) -> Option<&Reservation> {
        let here = self.clients_of(facts.network);
        if here.is_empty() {
            return None;
        }
        facts.find_key(family, &mut |key| Self::among(here, key, |at| self.row(at)))
    }

    fn among<'r>(
        here: &[(u32, u64, u32)],
        client: KeyOf<'_>,
        row: impl Fn(u32) -> &'r Reservation,
    ) -> Option<&'r Reservation> {
        let short = client.short();
        let begin = first_at(here, short);
        let near = here[begin..].iter().take_while(|(_, known, _)| *known == short);
        near.map(|(.., at)| row(*at)).find(|row| KeyOf::from(row.client()) == client)
    }

    /// The clients of a network, in the order of their numbers.
    fn clients_of(&self, network: usize) -> &[(u32, u64, u32)] {
        let bounds = self.networks.get(network).zip(self.networks.get(network + 1));
        bounds.map_or(&[][..], |(from, to)| &self.by_client[*from as usize..*to as usize])
    }

    /// The first reservation of an address, on any network.
    #[must_use]
    pub fn at<A: Address>(&self, address: A) -> Option<&Reservation> {
        self.addresses.of::<A>().at(address).next().map(|(_, at, _)| self.row(*at))
    }

    /// The reservations on a network.
    pub fn of_network(&self, network: usize) -> impl ExactSizeIterator<Item = &Reservation> + Clone {
        self.clients_of(network).iter().map(|(.., at)| self.row(*at))
    }

    /// Each reservation whose name another has already, with the first of these.
    #[must_use]
    pub fn of_one_name(&self) -> Vec<(&Reservation, &Reservation)> {
        let named = || self.rows.iter().filter_map(|row| Some((row.name()?.0, row)));
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
            let pairs = rows.filter_map(move |row| match first.entry(row.client()) {
                Entry::Occupied(known) => Some((row, *known.get())),
                Entry::Vacant(free) => {
                    free.insert(row);
                    None
                }
            });
            pairs.collect::<Vec<_>>()
        })
    }

    /// Each reservation whose address of this family another has already, with the first of these.
    pub fn of_one_address<A: Address>(&self) -> impl Iterator<Item = (&Reservation, &Reservation)> {
        let same = self.addresses.of::<A>().sorted.chunk_by(|(one, ..), (next, ..)| one == next);
        same.flat_map(|same| {
            let (first, later) = same.split_first().unwrap_or((&same[0], &[]));
            later.iter().map(|(_, at, _)| (self.row(*at), self.row(first.1)))
        })
    }
}
