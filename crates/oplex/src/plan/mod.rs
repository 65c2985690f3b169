//! The plan: the TOML file in which a person says who is sent what.
//!
//! A plan has layers, from wide to narrow: what everyone is sent, what a network is sent, what a fleet is sent (on every network, or
//! on one of them), what one reserved client is sent. Everything in it keeps its place in the file, so that whatever is said about it
//! later can point there.
//!
//! # Reading
//!
//! [`Plan::read`] takes the plan's name and text, and a function that gives the text of the files it names: codebooks, and tables of
//! reservations. What comes back is a [`Loaded`]: the texts, the plan as far as it could be read, and what is wrong with the files
//! themselves. A mistake in one line takes that line away and nothing else, so that all mistakes are found at once.
//!
//! ```
//! use oplex::check;
//! use oplex::family::Family;
//! use oplex::plan::Plan;
//!
//! let text = r#"
//! title = "Tarnfell"
//! [send.v4]
//! dns = "10.64.0.53"
//! domain-name = "tarnfell.example"
//!
//! [network.control-room]
//! subnet = "10.64.4.0/23"
//! pool = "10.64.4.20-10.64.4.90"
//! send.v4 = { router = "10.64.4.1" }
//! "#;
//! let loaded = Plan::read("plan.toml", text, &mut |path| Err(format!("no file {path}").into()));
//! let plan = loaded.plan.as_ref().expect("it is TOML");
//! let network = &plan.networks[0];
//! assert_eq!(network.name, "control-room");
//! assert_eq!(&*plan.everyone.sends[Family::V4][0].definition.name, "domain-server");
//!
//! // Everything knows where it is written.
//! let router = &network.layer.sends[Family::V4][0];
//! let source = loaded.sources.get(router.spot.file);
//! assert_eq!(&source.text[router.spot.span.clone()], "\"10.64.4.1\"");
//! assert!(check::plan(&loaded).is_empty());
//! ```
//!
//! # What a plan comes to
//!
//! The plan is what is written; [`Compiled`](crate::compiled::Compiled) is what it comes to, with names resolved and octets in
//! place. Rules look at both ([`check`](crate::check)), [answers](crate::answer) come from the compiled form alone, and a
//! [release](crate::release) is that form written down.
//!
//! # Sizes
//!
//! Reading and checking take a time that grows hardly faster than the plan's text: ten thousand networks, and a hundred thousand
//! reservations in tables beside it, are ordinary.

mod advertise;
mod amend;
mod boot;
mod client;
#[cfg(feature = "files")]
mod csv_lines;
mod expect;
mod facts;
mod fleet;
mod fqdn;
mod index;
mod meeting;
mod network;
mod overlap;
mod range;
#[cfg(feature = "files")]
mod read;
#[cfg(feature = "files")]
mod read_advertise;
#[cfg(feature = "files")]
mod read_boot;
#[cfg(feature = "files")]
mod read_csv;
#[cfg(feature = "files")]
mod read_expect;
#[cfg(feature = "files")]
mod read_fleets;
#[cfg(feature = "files")]
mod read_fqdn;
#[cfg(feature = "files")]
mod read_options;
#[cfg(feature = "files")]
mod read_top;
mod reservation;
mod rows;
mod texts;

use std::net::{IpAddr, Ipv4Addr, Ipv6Addr};
use std::ops::Range;
use std::sync::Arc;

use crate::codebook::{Codebook, Definition, Payload};
use crate::family::{Address, Both};
use crate::finding::{FileId, Finding, Rule, Sources, Spot};
use crate::layout::{Atom, Fault, Role, Scalar, ScalarForm, ValueErrors, Visitor};
use crate::octets::Duid;

pub(crate) use advertise::delegation;
pub use advertise::{Advertise, Delegation};
pub use amend::{AMEND_WITHOUT_EFFECT, Amendment};
pub use boot::{Boot, BootEntry, BootKey};
pub use client::ClientFacts;
pub use expect::Expect;
pub use fleet::{Fact, Fleet, FleetOn, Match, Pattern};
pub use fqdn::Fqdn;
pub use index::Reservations;
pub(crate) use meeting::{Among, Meetings};
use network::Networks;
pub use network::{Network, RelayLists, Relays, Side, Sides, Subnet};
pub(crate) use range::{Disjoint, Ranges, gaps, leasable};
pub use range::{Pool, PoolLists, Pools};
#[cfg(feature = "files")]
pub(crate) use read::PlanReader;
#[cfg(feature = "files")]
pub use read::{CODEBOOK_UNREADABLE, RESERVATIONS_UNREADABLE, keys};
#[cfg(feature = "files")]
pub use read_options::{OPTION_OF_OTHER_FAMILY, UNKNOWN_OPTION};
pub use reservation::{ClientKey, Reservation};
pub(crate) use texts::Texts;

#[cfg(feature = "files")]
pub use crate::words::other_words;

#[cfg(feature = "files")]
pub(crate) static RULES: [&Rule; 6] = [
    &UNKNOWN_OPTION,
    &AMEND_WITHOUT_EFFECT,
    &OPTION_OF_OTHER_FAMILY,
    &CODEBOOK_UNREADABLE,
    &RESERVATIONS_UNREADABLE,
    &read_fleets::RESERVATION_KEY_IGNORED,
];

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
    /// Who answers; of several servers the first.
    pub server: Server,
    /// The other servers, which answer the same.
    pub others: Vec<Server>,
    /// What everyone is sent.
    pub everyone: Layer,
    /// The networks, in the order written.
    pub networks: Vec<Network>,
    /// The fleets, in the order written, which is the order they apply in.
    pub fleets: Vec<Fleet>,
    /// The reservations, in the order written.
    pub reservations: Reservations,
    /// The codebooks that it names, as they could be read.
    pub books: Vec<FileId>,
    /// What its author believes.
    pub expectations: Vec<Expect>,
    /// The rules whose warnings and notes it does not want to hear.
    pub allowed: Vec<Allowed>,
}

/// A rule whose warnings and notes a plan does not want to hear.
#[derive(Debug, Clone)]
pub struct Allowed {
    /// Its name.
    pub rule: String,
    /// Where that is written.
    pub spot: Spot,
    /// Why, in its author's words.
    pub reason: Option<String>,
    /// The network on which it is allowed, by its place; everywhere where there is none.
    pub network: Option<usize>,
    /// The fleet for which it is allowed, by its place.
    pub fleet: Option<usize>,
}

impl Allowed {
    /// Whether it is for one network or fleet alone.
    #[must_use]
    pub fn is_scoped(&self) -> bool {
        self.network.is_some() || self.fleet.is_some()
    }
}

/// Who answers, as the plan says.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Server {
    /// The address by which it identifies itself to clients of DHCPv4 (54), and where that is written.
    pub v4: Option<(Ipv4Addr, Spot)>,
    /// The address from which it answers relays by DHCPv6.
    pub v6: Option<(Ipv6Addr, Spot)>,
    /// Its DUID, by which it identifies itself to clients of DHCPv6.
    pub duid: Option<Duid>,
}

/// Gives the text of a file that a plan names, by its path as it is written there, or the reason why it cannot.
pub type Fetch<'f> = dyn FnMut(&str) -> Result<String, Box<dyn std::error::Error>> + 'f;

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
    /// The options that it sends, in the order written.
    pub sends: Both<Vec<Sent>>,
    /// What it changes in options that wider layers send.
    pub amends: Both<Vec<Amendment>>,
    /// Where it has its clients boot from.
    pub boot: Boot,
    /// The full name that its clients are answered with.
    pub fqdn: Option<Fqdn>,
    /// The options of wider layers that it takes away again.
    pub withheld: Vec<Withheld>,
    /// The times that it sets, in seconds, each with its place.
    pub times: Times<(u32, Spot)>,
}

/// The times that a layer sets. In seconds [`u32::MAX`] is for ever.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Times<T> {
    /// How long an address is leased, or valid.
    #[cfg_attr(feature = "serde", serde(skip_serializing_if = "Option::is_none"))]
    pub lease: Option<T>,
    /// How long an IPv6 address or prefix is preferred.
    #[cfg_attr(feature = "serde", serde(skip_serializing_if = "Option::is_none"))]
    pub preferred: Option<T>,
    /// When the client starts to renew (T1).
    #[cfg_attr(feature = "serde", serde(skip_serializing_if = "Option::is_none"))]
    pub renew: Option<T>,
    /// When it starts to rebind (T2).
    #[cfg_attr(feature = "serde", serde(skip_serializing_if = "Option::is_none"))]
    pub rebind: Option<T>,
}

// Derived, it would ask the same of `T`.
impl<T> Default for Times<T> {
    fn default() -> Self {
        Self { lease: None, preferred: None, renew: None, rebind: None }
    }
}

impl<T> Times<T> {
    /// The same times in another form.
    pub fn map<'t, U>(&'t self, mut form: impl FnMut(&'t T) -> U) -> Times<U> {
        let [lease, preferred, renew, rebind] = self.named().map(|(_, time)| time.map(&mut form));
        Times { lease, preferred, renew, rebind }
    }

    /// Each with the key that plans have for it.
    #[must_use]
    pub fn named(&self) -> [(&'static str, Option<&T>); 4] {
        let Self { lease, preferred, renew, rebind } = self;
        [("lease", lease), ("preferred", preferred), ("renew", renew), ("rebind", rebind)]
            .map(|(name, time)| (name, time.as_ref()))
    }
}

impl Layer {
    /// What it sends by DHCPv4, and then by DHCPv6, and what it says under `boot`.
    pub fn all_sends(&self) -> impl Iterator<Item = &Sent> {
        self.sends.iter().flatten().chain(self.boot.entries.iter().map(|entry| &entry.sent))
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
    pub outcome: Result<Payload, ValueErrors>,
}

impl Sent {
    /// An option by its definition and octets, which no plan says.
    pub(crate) fn known(codebook: &Codebook, definition: &Arc<Definition>, octets: Vec<u8>) -> Self {
        let outcome = Ok(Payload::known(codebook, definition, octets));
        Self { definition: Arc::clone(definition), key: Spot::NOWHERE, spot: Spot::NOWHERE, outcome }
    }

    /// Its octets, if it has any.
    #[must_use]
    pub fn payload(&self) -> Option<&Payload> {
        self.outcome.as_ref().ok()
    }

    /// Where the value that became these octets stands, as exactly as that is known.
    #[must_use]
    pub fn spot_of(&self, octets: &Range<usize>) -> Spot {
        let span = self.payload().and_then(|payload| payload.source_of(octets));
        span.map_or_else(|| self.spot.clone(), |span| Spot { span, ..self.spot.clone() })
    }

    /// The addresses of hosts in its value, of one family, each with its place. Networks and groups are none, nor is what may
    /// be anybody's.
    pub fn hosts<A: Address>(&self, codebook: &Codebook) -> Vec<(A, Spot)> {
        let Some(payload) = self.payload() else { return Vec::new() };
        let mut hosts = Hosts(Vec::new());
        codebook.layout(&self.definition).walk(codebook, &payload.octets, &mut hosts);
        let own = hosts.0.into_iter().filter_map(|(address, octets)| Some((A::of(address)?, octets)));
        own.map(|(address, octets)| (address, self.spot_of(&octets))).collect()
    }
}

/// Keeps the addresses of hosts, with the octets that they stand in.
struct Hosts(Vec<(IpAddr, Range<usize>)>);

impl<'l, 'o> Visitor<'l, 'o> for Hosts {
    fn scalar(&mut self, form: ScalarForm<'l>, scalar: Scalar<'o>, octets: Range<usize>) {
        let address = match (form, scalar) {
            (ScalarForm::Atom(Atom::Ipv4(Role::Host)), Scalar::Ipv4(address)) => address.into(),
            (ScalarForm::Atom(Atom::Ipv6(Role::Host)), Scalar::Ipv6(address)) => address.into(),
            (_, Scalar::Route4(route)) => route.router.into(),
            _ => return,
        };
        self.0.push((address, octets));
    }

    fn fault(&mut self, _: Fault) {}
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
            books: Vec::new(),
            expectations: Vec::new(),
            allowed: Vec::new(),
            server: Server::default(),
            others: Vec::new(),
        }
    }

    /// Reads a plan. `fetch` gives the text of a codebook that the plan names, by its path as written there, or says
    /// why it cannot.
    ///
    /// ```
    /// use oplex::plan::Plan;
    ///
    /// let text = "title = \"Tarn Fell\"\n[network.desk]\nsubnet = \"10.64.4.0/24\"\npol = \"10.64.4.20-10.64.4.90\"\n";
    /// let loaded = Plan::read("plan.toml", text, &mut |path| Err(format!("no file {path}").into()));
    /// // What is wrong with the file is said, and the rest is read.
    /// assert_eq!(loaded.findings[0].message, "unknown key `pol` in a network");
    /// assert_eq!(loaded.findings[0].replace.as_deref(), Some("pool"));
    /// let plan = loaded.plan.expect("it is TOML");
    /// assert_eq!((plan.title.as_deref(), plan.network("desk")), (Some("Tarn Fell"), Some(0)));
    /// ```
    #[cfg(feature = "files")]
    #[must_use]
    pub fn read(name: &str, text: &str, fetch: &mut Fetch<'_>) -> Loaded {
        read::plan(name, text, fetch)
    }

    /// Reads a file that is a plan or a codebook: what has a `book` is a codebook.
    #[cfg(feature = "files")]
    #[must_use]
    pub fn read_or_codebook(name: &str, text: &str, fetch: &mut Fetch<'_>) -> Loaded {
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
}
