//! What a plan comes to: its layers as octets, its fleets as conditions, its networks as addresses. That is all that answering
//! needs, and everything points to where it stands in the plan.
//!
//! Rehearsals, expectations, rules over answers and releases all answer from this form. What is read back from a release has
//! the same form, and points nowhere.
//!
//! ```
//! use oplex::compiled::Compiled;
//! use oplex::family::Family;
//! use oplex::plan::{ClientFacts, Plan};
//!
//! let text = "[network.desk]\nsubnet = \"10.64.4.0/24\"\npool = \"10.64.4.20-10.64.4.90\"\nsend.v4 = { router = \"10.64.4.1\" }\n";
//! let plan = Plan::read("plan.toml", text, &mut |path| Err(format!("no file {path}").into())).plan.expect("it is TOML");
//! let compiled = Compiled::of(&plan);
//! let phone = ClientFacts { mac: Some([2, 0, 0x5e, 0, 0x53, 0x11].into()), ..ClientFacts::on(0) };
//! let answer = compiled.answer(Family::V4, &phone).expect("the network has a subnet");
//! assert_eq!(answer.address.map(|assigned| assigned.address.to_string()).as_deref(), Ok("10.64.4.20"));
//! ```

mod assemble;
mod index;
mod layer;
mod services;

use std::borrow::Cow;
use std::fmt;
use std::net::Ipv6Addr;

use smallvec::SmallVec;

use crate::codebook::Codebook;
use crate::family::{ByAddress, Net};
use crate::finding::Spot;
use crate::layout::duration_text;
use crate::once::Once;
use crate::packet::{ComposeError, Composer, ra};
use crate::plan::{Advertise, Delegation, FleetOn, Match, Plan, Pools, Relays, Reservations, Server, Sides};

pub use assemble::{Assembled, Origin};
pub(crate) use assemble::{Computed, assembled};
pub use layer::{Amend, Amended, Boot, Layer, LayerKind, LayerRef, SentOption, Time};
pub use services::{Encrypted, Host, NamedServer};

/// What a plan comes to.
#[derive(Debug, Clone)]
pub struct Compiled<'p> {
    /// What the plan calls itself.
    pub title: Option<Cow<'p, str>>,
    /// The definitions by which what clients send is read.
    pub codebook: Cow<'p, Codebook>,
    /// Who answers.
    pub server: Cow<'p, Server>,
    /// What everyone is sent.
    pub everyone: Layer<'p>,
    /// The networks, in the order of the plan.
    pub networks: Vec<Network<'p>>,
    /// The fleets, in the order in which they apply.
    pub fleets: Vec<Fleet<'p>>,
    /// What single clients get.
    pub reservations: Cow<'p, Reservations>,
    /// Made when the first client is answered: fleets and networks are not to be changed after that.
    pub(crate) index: Once<index::Index>,
}

/// What one network comes to.
#[derive(Debug, Clone)]
pub struct Network<'p> {
    /// Its name.
    pub name: Cow<'p, str>,
    /// Its addresses of each family.
    pub sides: Cow<'p, ByAddress<Sides>>,
    /// The prefixes that it delegates.
    pub delegates: Cow<'p, [Delegation]>,
    /// The addresses of its relay agents.
    pub relays: Cow<'p, Relays>,
    /// The interfaces by which relay agents name it (v6:18).
    pub interfaces: Cow<'p, [Box<[u8]>]>,
    /// Whether its hosts have IPv6 from a router that is not in the plan.
    pub ipv6_elsewhere: bool,
    /// What its router advertises; `None` where the plan does not say.
    pub advertises: Option<Advertisement<'p>>,
    /// What its clients are sent.
    pub layer: Layer<'p>,
    /// Where its name stands in the plan.
    pub spot: Option<&'p Spot>,
}

/// What a router advertises.
#[derive(Debug, Clone)]
pub struct Advertisement<'p> {
    /// What stands in front of the options.
    pub header: ra::Advertisement,
    /// Its source and destination.
    pub ends: ra::Ends,
    /// How often it is sent at least, in seconds.
    pub interval: u32,
    /// Its options.
    pub options: Vec<SentOption<'p>>,
    /// Where the plan says so.
    pub origin: Option<&'p Advertise>,
}

/// A prefix that a router advertises.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct AdvertisedPrefix {
    /// The prefix.
    pub net: Net<Ipv6Addr>,
    /// Whether hosts form addresses of it by themselves.
    pub autonomous: bool,
    /// Whether its addresses are on the link.
    pub on_link: bool,
    /// For how long it is valid, in seconds.
    pub valid: u32,
    /// For how long it is preferred, in seconds.
    pub preferred: u32,
}

impl AdvertisedPrefix {
    /// Reads the payload of an option: length, flags, two lifetimes, four octets without meaning, the prefix.
    pub(crate) fn read(octets: &[u8]) -> Option<Self> {
        let (&[length, flags], rest) = octets.split_first_chunk()?;
        let number = |at: usize| Some(u32::from_be_bytes(rest.get(at..at + 4)?.try_into().ok()?));
        let address: [u8; 16] = rest.get(12..28)?.try_into().ok()?;
        let (autonomous, on_link) = (flags & 0x40 != 0, flags & 0x80 != 0);
        let net = Net::new(address.into(), length)?.trunc();
        Some(Self { net, autonomous, on_link, valid: number(0)?, preferred: number(4)? })
    }
}

/// What one fleet comes to.
#[derive(Debug, Clone)]
pub struct Fleet<'p> {
    /// Its name.
    pub name: Cow<'p, str>,
    /// What its clients are recognised by.
    pub recognised: Cow<'p, Match>,
    /// The codes that they request by DHCPv4, where the plan says so.
    pub requests: Option<Cow<'p, [u16]>>,
    /// What they are sent.
    pub layer: Layer<'p>,
    /// What is special to them on single networks, in the order of these.
    pub on: Vec<OnNetwork<'p>>,
}

/// What one fleet comes to on one network.
#[derive(Debug, Clone)]
pub struct OnNetwork<'p> {
    /// The network, by its place among all.
    pub network: usize,
    /// The addresses that the fleet has for itself there.
    pub pools: Cow<'p, Pools>,
    /// What its clients are sent there.
    pub layer: Layer<'p>,
}

impl<'p> Compiled<'p> {
    /// What a plan comes to. What is wrong with the plan is left out.
    #[must_use]
    pub fn of(plan: &'p Plan) -> Self {
        let networks = plan.networks.iter().enumerate().map(|(at, network)| Network {
            name: Cow::Borrowed(&network.name),
            sides: Cow::Borrowed(&network.sides),
            delegates: Cow::Borrowed(&network.delegates),
            relays: Cow::Borrowed(&network.relays),
            interfaces: Cow::Borrowed(&network.interfaces),
            ipv6_elsewhere: network.ipv6_elsewhere,
            advertises: network.advertise.as_deref().map(Advertisement::of),
            layer: Layer::of(&network.layer, LayerKind::Network(at)),
            spot: Some(&network.spot),
        });
        let fleets = plan.fleets.iter().enumerate().map(|(at, fleet)| Fleet {
            name: Cow::Borrowed(&fleet.name),
            recognised: Cow::Borrowed(&fleet.recognised),
            requests: fleet.requests.as_deref().map(Cow::Borrowed),
            layer: Layer::of(&fleet.layer, LayerKind::Fleet(at)),
            on: fleet.on.iter().map(|on| OnNetwork::of(on, at)).collect(),
        });
        Self {
            title: plan.title.as_deref().map(Cow::Borrowed),
            codebook: Cow::Borrowed(&plan.codebook),
            server: Cow::Borrowed(&plan.server),
            everyone: Layer::of(&plan.everyone, LayerKind::Everyone),
            networks: networks.collect(),
            fleets: fleets.collect(),
            reservations: Cow::Borrowed(&plan.reservations),
            index: Once::new(),
        }
    }
}

impl<'p> OnNetwork<'p> {
    fn of(on: &'p FleetOn, fleet: usize) -> Self {
        let layer = Layer::of(&on.layer, LayerKind::FleetOn(fleet, on.network));
        Self { network: on.network, pools: Cow::Borrowed(&on.pools), layer }
    }
}

impl<'p> Advertisement<'p> {
    fn of(plan: &'p Advertise) -> Self {
        Self {
            header: plan.header,
            ends: ra::Ends { source: plan.source, destination: ra::ALL_NODES },
            interval: plan.interval,
            options: plan.sends.iter().map(SentOption::of).collect(),
            origin: Some(plan),
        }
    }

    /// The prefixes that it has, as hosts read them (RFC 4861, section 4.6.2).
    pub fn prefixes(&self) -> impl Iterator<Item = AdvertisedPrefix> {
        let octets = self.options.iter().filter(|option| option.definition.code == 3).map(|option| &option.octets);
        octets.filter_map(|octets| AdvertisedPrefix::read(octets.as_deref()?))
    }

    /// Whether hosts obey it: what is not from a link-local address they drop (RFC 4861, section 6.1.2).
    #[must_use]
    pub fn is_obeyed(&self) -> bool {
        self.ends.source.is_unicast_link_local()
    }

    /// Whether hosts form addresses of one of its prefixes by themselves.
    ///
    /// ```
    /// use oplex::compiled::Compiled;
    /// use oplex::plan::Plan;
    ///
    /// let text = "[network.mast]\nprefix = \"2001:db8:64:40::/64\"\nadvertise = { other = true }\n";
    /// let plan = Plan::read("plan.toml", text, &mut |path| Err(format!("no file {path}").into())).plan.expect("it is TOML");
    /// let compiled = Compiled::of(&plan);
    /// let said = compiled.networks[0].advertises.as_ref().expect("it does");
    /// // Hosts form addresses of the prefix, and request the rest.
    /// assert!(said.is_autonomous() && said.is_obeyed() && said.header.other);
    /// assert_eq!(said.prefixes().count(), 1);
    /// ```
    #[must_use]
    pub fn is_autonomous(&self) -> bool {
        self.prefixes().any(|prefix| prefix.autonomous)
    }

    /// The option of this type.
    #[must_use]
    pub fn option(&self, code: u16) -> Option<&SentOption<'p>> {
        self.options.iter().find(|option| option.definition.code == code)
    }

    /// The ICMPv6 message. Options that have no octets are left out.
    ///
    /// # Errors
    /// An option that no advertisement can hold.
    pub fn octets(&self) -> Result<Vec<u8>, ComposeError> {
        self.compose(&mut Composer::default()).map(<[u8]>::to_vec)
    }

    /// The same with the buffers of a composer.
    pub(crate) fn compose<'c>(&self, composer: &'c mut Composer) -> Result<&'c [u8], ComposeError> {
        let options =
            self.options.iter().filter_map(|option| Some((option.definition.code, option.octets.as_deref()?)));
        let options: SmallVec<[(u16, &[u8]); 16]> = options.collect();
        let draft = ra::Draft { header: ra::Header::Advertisement(self.header), ends: self.ends, options: &options };
        composer.compose(&draft)
    }
}

/// What it says in front of its options: `managed, router for 30m, every 10m, from fe80::1`.
impl fmt::Display for Advertisement<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let ra::Advertisement {
            managed,
            other,
            preference,
            router_lifetime,
            hop_limit,
            reachable_time,
            retrans_timer,
            ..
        } = self.header;
        match (managed, other) {
            (true, true) => f.write_str("managed, other")?,
            (true, false) => f.write_str("managed")?,
            (false, true) => f.write_str("other")?,
            (false, false) => f.write_str("no flag")?,
        }
        let (lifetime, every) = (duration_text(router_lifetime.into()), duration_text(self.interval));
        write!(f, ", router for {lifetime}, every {every}, from {}", self.ends.source)?;
        if preference != ra::Preference::Medium {
            write!(f, ", preference {}", preference.name())?;
        }
        write!(f, ", hop limit {hop_limit}")?;
        for (what, milliseconds) in [("reachable", reachable_time), ("retransmit", retrans_timer)] {
            if milliseconds > 0 {
                write!(f, ", {what} {milliseconds} ms")?;
            }
        }
        Ok(())
    }
}

impl<'p> Fleet<'p> {
    /// Its place among all.
    pub(crate) fn place(&self) -> Option<usize> {
        match self.layer.id.kind {
            LayerKind::Fleet(at) => Some(at),
            _ => None,
        }
    }

    /// What is special to the fleet on this network.
    #[must_use]
    pub fn on(&self, network: usize) -> Option<&OnNetwork<'p>> {
        let at = self.on.binary_search_by_key(&network, |on| on.network).ok()?;
        self.on.get(at)
    }
}
