//! The plan: the TOML file in which a person says who is told what.
//!
//! A plan has layers, from wide to narrow: what everyone is told, and what a network is told. Everything in it keeps
//! its place in the file, so that whatever is said about it later can point there.

mod client;
mod client_v6;
mod csv_lines;
mod fleet;
mod network;
mod overlap;
mod ranges;
mod read;
mod read_csv;
mod read_fleets;
mod read_v6;
mod reservation;
mod rows;
mod v6;

use std::net::{Ipv4Addr, Ipv6Addr};
use std::sync::Arc;

use crate::codebook::{Codebook, Definition, Payload};
use crate::finding::{FileId, Finding, Rule, Sources, Spot};
use crate::layout::Misfit;

pub use client::{ClientFacts, Expect};
pub use client_v6::Family;
pub use fleet::{Fact, Fleet, FleetOn, Match, Pattern};
use network::Networks;
pub use network::{Network, Pool, Subnet};
pub(crate) use ranges::Ranges;
pub(crate) use read::PlanReader;
pub use read::{CODEBOOK_NOT_READ, OPTION_OF_OTHER_FAMILY, RESERVATIONS_NOT_READ, UNKNOWN_OPTION};
pub use reservation::{ClientKey, Reservation, Reservations};
pub use v6::{Advertise, Delegation, NetworkV6, PoolV6, Prefix};

pub(crate) static RULES: [&Rule; 4] =
    [&UNKNOWN_OPTION, &OPTION_OF_OTHER_FAMILY, &CODEBOOK_NOT_READ, &RESERVATIONS_NOT_READ];

/// The lease where a plan says nothing: one day.
pub const DEFAULT_LEASE: u32 = 86_400;

/// A plan, read.
#[derive(Debug, Clone)]
pub struct Plan {
    /// The file it stands in.
    pub file: FileId,
    /// What the plan calls itself.
    pub title: Option<String>,
    /// The standard options, and those of the plan's own codebooks.
    pub codebook: Codebook,
    /// The server that answers, as it calls itself (54), and where that is written.
    pub server: Option<(Ipv4Addr, Spot)>,
    /// The address from which the server answers relays by DHCPv6.
    pub server_v6: Option<Ipv6Addr>,
    /// The server's DUID, as DHCPv6 knows it.
    pub server_duid: Option<Box<[u8]>>,
    /// What everyone is told.
    pub everyone: Layer,
    /// The networks, in the order written.
    pub networks: Vec<Network>,
    /// The fleets, in the order written, which is the order they apply in.
    pub fleets: Vec<Fleet>,
    /// The reservations, in the order written.
    pub reservations: Reservations,
    /// What its author believes.
    pub expectations: Vec<Expect>,
    /// The rules whose warnings and notes it does not want to hear, and where it says so.
    pub allowed: Vec<(String, Spot)>,
}

/// What came of reading a plan file.
#[derive(Debug, Clone)]
pub struct Loaded {
    /// The plan file and its codebooks.
    pub sources: Sources,
    /// The plan, as far as it could be read; `None` when the file is not TOML.
    pub plan: Option<Plan>,
    /// Whether the file is a codebook; the plan is then empty, but for knowing it.
    pub is_codebook: bool,
    /// What is wrong with the files themselves.
    pub findings: Vec<Finding>,
}

/// What one layer of a plan says.
#[derive(Debug, Clone, Default)]
pub struct Layer {
    /// How messages call it: `everyone`, `network control-room`.
    pub name: String,
    /// The options of DHCPv4 that it sends, in the order written.
    pub sends: Vec<Sent>,
    /// The options of DHCPv6 that it sends, in the order written.
    pub sends_v6: Vec<Sent>,
    /// The options of wider layers that it takes away again.
    pub withheld: Vec<Withheld>,
    /// How long addresses are lent, in seconds.
    pub lease: Option<(u32, Spot)>,
    /// How long IPv6 addresses and prefixes are preferred, in seconds.
    pub preferred: Option<(u32, Spot)>,
    /// When clients start to renew (T1), in seconds.
    pub renew: Option<(u32, Spot)>,
    /// When clients start to rebind (T2), in seconds.
    pub rebind: Option<(u32, Spot)>,
}

impl Layer {
    /// What it sends by DHCPv4, and then by DHCPv6.
    pub fn all_sends(&self) -> impl Iterator<Item = &Sent> {
        self.sends.iter().chain(&self.sends_v6)
    }
}

/// One option that a layer sends.
#[derive(Debug, Clone)]
pub struct Sent {
    /// What it is.
    pub definition: Arc<Definition>,
    /// Where its name stands.
    pub key: Spot,
    /// Where its value stands.
    pub spot: Spot,
    /// Its octets, or why it has none.
    pub outcome: Result<Payload, Vec<Misfit>>,
}

impl Sent {
    /// Its octets, if it has any.
    #[must_use]
    pub fn payload(&self) -> Option<&Payload> {
        self.outcome.as_ref().ok()
    }

    /// Where the value that became these octets stands, as exactly as that is known.
    #[must_use]
    pub fn spot_of(&self, octets: &std::ops::Range<usize>) -> Spot {
        let span = self.payload().and_then(|payload| payload.source_of(octets));
        span.map_or_else(|| self.spot.clone(), |span| Spot { span, ..self.spot.clone() })
    }

    /// The IPv6 addresses in its value, each with the name of the field it stands in and its place.
    pub fn addresses_v6(&self) -> Vec<(Ipv6Addr, Option<&str>, Spot)> {
        let Some(payload) = self.payload() else { return Vec::new() };
        let mut leaves = Vec::new();
        payload.value.leaves(&mut |leaf, name| leaves.push((leaf, name)));
        let placed = leaves.into_iter().zip(payload.sources());
        let address = |((leaf, name), span): ((&crate::layout::Value, Option<_>), _)| match leaf {
            crate::layout::Value::Ipv6(address) => Some((*address, name, Spot { span, ..self.spot.clone() })),
            _ => None,
        };
        placed.filter_map(address).collect()
    }

    /// The IPv4 addresses in its value, each with the name of the field it stands in and its place.
    pub fn addresses(&self) -> Vec<(Ipv4Addr, Option<&str>, Spot)> {
        let Some(payload) = self.payload() else { return Vec::new() };
        let mut leaves = Vec::new();
        payload.value.leaves(&mut |leaf, name| leaves.push((leaf, name)));
        let placed = leaves.into_iter().zip(payload.sources());
        placed
            .filter_map(|((leaf, name), span)| match leaf {
                crate::layout::Value::Ipv4(address) => Some((*address, name, Spot { span, ..self.spot.clone() })),
                crate::layout::Value::Route4 { router, .. } => {
                    Some((*router, Some("router"), Spot { span, ..self.spot.clone() }))
                }
                _ => None,
            })
            .collect()
    }
}

/// An option that a layer takes away again.
#[derive(Debug, Clone)]
pub struct Withheld {
    /// What it is.
    pub definition: Arc<Definition>,
    /// Where it is written.
    pub spot: Spot,
}

impl Plan {
    /// A plan that says nothing.
    fn empty(file: FileId) -> Self {
        Self {
            file,
            title: None,
            codebook: Codebook::default(),
            everyone: Layer::default(),
            networks: Vec::new(),
            fleets: Vec::new(),
            reservations: Reservations::default(),
            expectations: Vec::new(),
            allowed: Vec::new(),
            server: None,
            server_v6: None,
            server_duid: None,
        }
    }

    /// Reads a plan. `fetch` gives the text of a codebook that the plan names, by its path as written there, or says
    /// why it cannot.
    #[must_use]
    pub fn read(name: &str, text: &str, fetch: &mut dyn FnMut(&str) -> Result<String, String>) -> Loaded {
        read::plan(name, text, fetch)
    }

    /// Reads a file that is a plan or a codebook: what has a `book` is a codebook.
    #[must_use]
    pub fn read_or_codebook(name: &str, text: &str, fetch: &mut dyn FnMut(&str) -> Result<String, String>) -> Loaded {
        read::plan_or_codebook(name, text, fetch)
    }

    /// Every layer, from wide to narrow.
    pub fn layers(&self) -> impl Iterator<Item = &Layer> {
        let networks = self.networks.iter().map(|network| &network.layer);
        let fleets = self.fleets.iter().map(|fleet| &fleet.layer);
        let on = self.fleets.iter().flat_map(|fleet| fleet.on.iter().map(|on| &on.layer));
        std::iter::once(&self.everyone).chain(networks).chain(fleets).chain(on).chain(self.reservations.layers())
    }

    /// The network of this name, by its place in the plan.
    #[must_use]
    pub fn network(&self, name: &str) -> Option<usize> {
        self.networks.iter().position(|network| network.name == name)
    }

    /// How many addresses a network lends to devices of no fleet with a pool of its own there, and how many to each
    /// that has one.
    #[must_use]
    pub fn lends(&self, network: usize) -> (u64, Vec<(&Fleet, u64)>) {
        let at = &self.networks[network];
        let on: Vec<(&Fleet, &FleetOn)> =
            self.fleets.iter().filter_map(|fleet| Some((fleet, fleet.on(network)?))).collect();
        let taken: Vec<Pool> = at.excluded.iter().chain(on.iter().flat_map(|(_, on)| &on.pools)).cloned().collect();
        let own = on.iter().filter(|(_, on)| !on.pools.is_empty());
        let fleets = own.map(|(fleet, on)| (*fleet, network::lendable(&on.pools, &at.excluded))).collect();
        (network::lendable(&at.pools, &taken), fleets)
    }
}
