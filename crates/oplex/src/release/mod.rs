//! A checked plan, compiled: for each network its addresses and the octets its devices are told, each with the line it
//! came from.

mod compare;

use std::net::{Ipv4Addr, Ipv6Addr};

use serde::{Deserialize, Serialize};

use crate::answer::Audience;
use crate::compiled::{Assembled, Compiled, Fleet, Layer, LayerKind, LayerRef, SentOption};
use crate::family::Family;
use crate::finding::{Sources, Spot};
use crate::octets::hex;
use crate::plan::{Plan, Pool, Reservation};

pub use compare::{Change, Changed, Concerned, Detail, Sides, compare};

/// What a plan comes to.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Document {
    /// What the plan calls itself.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub title: Option<String>,
    /// The plan's file.
    pub plan: String,
    /// Its networks.
    pub networks: Vec<NetworkEntry>,
    /// Its fleets, in the order in which they apply.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub fleets: Vec<FleetEntry>,
    /// Its reservations.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub reservations: Vec<ReservationEntry>,
}

/// What one fleet comes to.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct FleetEntry {
    /// Its name.
    pub name: String,
    /// What its devices are recognised by, in words.
    pub recognised: String,
    /// What its devices are told, whatever wider layers say.
    #[serde(flatten)]
    pub says: LayerEntry,
    /// What is special to it on single networks.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub on: Vec<FleetOnEntry>,
}

/// What one fleet comes to on one network.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct FleetOnEntry {
    /// The network's name.
    pub network: String,
    /// The addresses that it has for itself.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub pools: Vec<String>,
    /// What its devices are told there.
    #[serde(flatten)]
    pub says: LayerEntry,
}

/// What one client comes to.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct ReservationEntry {
    /// The network's name.
    pub network: String,
    /// The client: its hardware address, or `client` and its identifier.
    pub client: String,
    /// The address it gets.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub address: Option<String>,
    /// The IPv6 address it gets.
    #[serde(rename = "address_v6", default, skip_serializing_if = "Option::is_none")]
    pub ipv6_address: Option<String>,
    /// What people call it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    /// What it is told.
    #[serde(flatten)]
    pub says: LayerEntry,
}

/// What one layer says, over those that are wider.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct LayerEntry {
    /// How long addresses are lent, in seconds.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lease: Option<u32>,
    /// What it sends.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub options: Vec<OptionEntry>,
    /// The options it takes away.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub withheld: Vec<String>,
}

/// What one network comes to.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct NetworkEntry {
    /// Its name.
    pub name: String,
    /// Its subnet, `10.64.4.0/23`; empty when it has none.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub subnet: String,
    /// Its prefix, `2001:db8:64:4::/64`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub prefix: Option<String>,
    /// The prefixes it hands on.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub delegates: Vec<String>,
    /// What stands in front of the options of its router's announcement.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub announces: Option<String>,
    /// The addresses it lends, of both families.
    pub pools: Vec<String>,
    /// Those among them that it does not lend.
    pub excluded: Vec<String>,
    /// How long addresses are lent, in seconds.
    pub lease: u32,
    /// How long IPv6 addresses are preferred, in seconds.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub preferred: Option<u32>,
    /// What its devices are told: by DHCPv4 in the order of the codes, by its router's announcement, and by DHCPv6.
    pub options: Vec<OptionEntry>,
}

/// One option that devices are told.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct OptionEntry {
    /// The option, `v4:3`.
    pub option: String,
    /// Its name.
    pub name: String,
    /// Its octets, in hexadecimal.
    pub hex: String,
    /// The lines of the plan that it comes from.
    pub from: Vec<Origin>,
}

/// A line of the plan.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Origin {
    /// The layer it stands on.
    pub layer: String,
    /// The file.
    pub file: String,
    /// The line, counted from 1; 0 for a default that no line says.
    pub line: usize,
}

/// A plan as it is published. What is wrong with it is left out: check it first.
#[must_use]
pub fn compile(plan: &Plan, sources: &Sources) -> Document {
    let compiled = Compiled::of(plan);
    let writer = Writer { compiled: &compiled, sources };
    Document {
        title: plan.title.clone(),
        plan: sources.get(plan.file).name.clone(),
        networks: (0..compiled.networks.len()).filter_map(|at| writer.network(at)).collect(),
        fleets: compiled.fleets.iter().map(|fleet| writer.fleet(fleet)).collect(),
        reservations: compiled.reservations.iter().map(|row| writer.reservation(row)).collect(),
    }
}

/// Writes the compiled form down.
struct Writer<'w> {
    compiled: &'w Compiled<'w>,
    sources: &'w Sources,
}

impl Writer<'_> {
    fn fleet(&self, fleet: &Fleet<'_>) -> FleetEntry {
        let on = fleet.on.iter().map(|on| FleetOnEntry {
            network: self.compiled.networks[on.network].name.to_string(),
            pools: on.pools.texts().collect(),
            says: self.layer(&on.layer),
        });
        FleetEntry {
            name: fleet.name.to_string(),
            recognised: fleet.recognised.to_string(),
            says: self.layer(&fleet.layer),
            on: on.collect(),
        }
    }

    fn reservation(&self, row: &Reservation) -> ReservationEntry {
        let layer = row.layer().map(|layer| Layer::of(layer, LayerKind::Reservation));
        ReservationEntry {
            network: self.compiled.networks[row.network()].name.to_string(),
            client: row.client().to_string(),
            address: row.address::<Ipv4Addr>().map(|(address, _)| address.to_string()),
            ipv6_address: row.address::<Ipv6Addr>().map(|(address, _)| address.to_string()),
            name: row.name().map(|(name, _)| name.to_owned()),
            says: layer.as_ref().map(|layer| self.layer(layer)).unwrap_or_default(),
        }
    }

    /// What one layer sends by itself. A vendor's options stand as they are here: what carries them is put together for each
    /// client, out of all its layers.
    fn layer(&self, layer: &Layer<'_>) -> LayerEntry {
        let options = layer.options.iter().flatten().filter_map(|option| self.option(option, layer.id));
        LayerEntry {
            lease: layer.times.lease.map(|time| time.seconds),
            options: options.collect(),
            withheld: layer.withheld.iter().map(|(prefix, code)| format!("{prefix}{code}")).collect(),
        }
    }

    /// One option as a layer sends it; `None` without octets.
    fn option(&self, option: &SentOption<'_>, layer: LayerRef<'_>) -> Option<OptionEntry> {
        Some(OptionEntry {
            option: option.id(),
            name: option.name.to_string(),
            hex: hex::plain(option.octets.as_deref()?),
            from: vec![self.origin(layer, option.key())],
        })
    }

    fn network(&self, at: usize) -> Option<NetworkEntry> {
        let network = &self.compiled.networks[at];
        let (v4, v6) = (network.has(Family::V4), network.has(Family::V6));
        if !v4 && !v6 {
            return None;
        }
        let audience = Audience { compiled: self.compiled, at, fleet: None };
        let timers = |family| audience.timers(family, &audience.sent(family));
        let sides = &network.sides;
        let pools = |v4: &[Pool<Ipv4Addr>], v6: &[Pool<Ipv6Addr>]| {
            v4.iter().map(ToString::to_string).chain(v6.iter().map(ToString::to_string)).collect()
        };
        let said = network.advertises.as_ref();
        let advertised = said.into_iter().flat_map(|said| &said.options);
        let advertised = advertised.filter_map(|option| self.option(option, network.layer.id));
        let [by_v4, by_v6] = Family::ALL.map(|family| self.payloads(family, at));
        Some(NetworkEntry {
            name: network.name.to_string(),
            subnet: sides.v4.subnet.as_ref().map(|subnet| subnet.net.trunc().to_string()).unwrap_or_default(),
            prefix: sides.v6.subnet.as_ref().map(|prefix| prefix.net.trunc().to_string()),
            delegates: network.delegates.iter().map(ToString::to_string).collect(),
            announces: said.and_then(|said| said.origin).map(ToString::to_string),
            pools: pools(&sides.v4.pools, &sides.v6.pools),
            excluded: pools(&sides.v4.excluded, &sides.v6.excluded),
            lease: timers(Family::V4).lease.seconds,
            preferred: v6.then(|| timers(Family::V6).preferred.seconds),
            options: by_v4.into_iter().chain(advertised).chain(by_v6).collect(),
        })
    }

    /// What all clients on a network are sent by a family.
    fn payloads(&self, family: Family, at: usize) -> Vec<OptionEntry> {
        let payloads = self.compiled.payloads(family, at).unwrap_or_default();
        let option = |sent: &Assembled<'_>| OptionEntry {
            option: format!("{}:{}", family.name(), sent.code),
            name: self
                .compiled
                .codebook
                .own(family.protocol(), sent.code)
                .map(|known| known.name.to_string())
                .unwrap_or_default(),
            hex: hex::plain(&sent.octets),
            from: sent.from.iter().map(|from| self.origin(from.layer, from.spot)).collect(),
        };
        payloads.iter().map(option).collect()
    }

    fn origin(&self, layer: LayerRef<'_>, spot: Option<&Spot>) -> Origin {
        let place = spot.map(|spot| self.sources.place(spot));
        let (file, line) = place.map_or((String::new(), 0), |place| (place.file, place.line));
        Origin { layer: layer.name.to_owned(), file, line }
    }
}
