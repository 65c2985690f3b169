//! A checked plan, compiled: for each network its addresses and the octets its devices are told, each with the line it
//! came from.

mod compare;

use serde::{Deserialize, Serialize};

use crate::answer::{self, SaidBy};
use crate::finding::Sources;
use crate::octets::hex;
use crate::plan::{FleetOn, Layer, Network, Plan, Pool, PoolV6};

pub use compare::{Change, Changed, Sides, compare};

/// What a plan comes to.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Compiled {
    /// What the plan calls itself.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub title: Option<String>,
    /// The plan's file.
    pub plan: String,
    /// Its networks.
    pub networks: Vec<CompiledNetwork>,
    /// Its fleets, in the order in which they apply.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub fleets: Vec<CompiledFleet>,
    /// Its reservations.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub reservations: Vec<CompiledReservation>,
}

/// What one fleet comes to.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct CompiledFleet {
    /// Its name.
    pub name: String,
    /// What its devices are recognised by, in words.
    pub recognised: String,
    /// What its devices are told, whatever wider layers say.
    #[serde(flatten)]
    pub says: CompiledLayer,
    /// What is special to it on single networks.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub on: Vec<CompiledFleetOn>,
}

/// What one fleet comes to on one network.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct CompiledFleetOn {
    /// The network's name.
    pub network: String,
    /// The addresses that it has for itself.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub pools: Vec<String>,
    /// What its devices are told there.
    #[serde(flatten)]
    pub says: CompiledLayer,
}

/// What one client comes to.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct CompiledReservation {
    /// The network's name.
    pub network: String,
    /// The client: its hardware address, or `client` and its identifier.
    pub client: String,
    /// The address it gets.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub address: Option<String>,
    /// The IPv6 address it gets.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub address_v6: Option<String>,
    /// What people call it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    /// What it is told.
    #[serde(flatten)]
    pub says: CompiledLayer,
}

/// What one layer says, over those that are wider.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct CompiledLayer {
    /// How long addresses are lent, in seconds.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lease: Option<u32>,
    /// What it sends.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub options: Vec<CompiledOption>,
    /// The options it takes away.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub withheld: Vec<String>,
}

/// What one network comes to.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct CompiledNetwork {
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
    pub options: Vec<CompiledOption>,
}

/// One option that devices are told.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct CompiledOption {
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

/// Compiles a plan. What is wrong with the plan is left out: check it first.
#[must_use]
pub fn compile(plan: &Plan, sources: &Sources) -> Compiled {
    let networks = plan.networks.iter().filter_map(|network| compile_network(plan, network, sources));
    let fleets = plan.fleets.iter().map(|fleet| CompiledFleet {
        name: fleet.name.clone(),
        recognised: fleet.recognised.to_string(),
        says: layer(sources, &fleet.layer),
        on: fleet.on.iter().map(|on| compile_on(plan, sources, on)).collect(),
    });
    let reservations = plan.reservations.iter().map(|one| CompiledReservation {
        network: plan.networks[one.network()].name.clone(),
        client: one.client().to_string(),
        address: one.address().map(|(address, _)| address.to_string()),
        address_v6: one.address_v6().map(|(address, _)| address.to_string()),
        name: one.name().map(|(name, _)| name.to_owned()),
        says: one.layer().map(|at| layer(sources, at)).unwrap_or_default(),
    });
    Compiled {
        title: plan.title.clone(),
        plan: sources.get(plan.file).name.clone(),
        networks: networks.collect(),
        fleets: fleets.collect(),
        reservations: reservations.collect(),
    }
}

fn compile_on(plan: &Plan, sources: &Sources, on: &FleetOn) -> CompiledFleetOn {
    CompiledFleetOn {
        network: plan.networks[on.network].name.clone(),
        pools: both(&on.pools, &on.pools_v6),
        says: layer(sources, &on.layer),
    }
}

/// What one layer says by itself. A vendor's options stand as they are here: what carries them is put together for each
/// client, out of all its layers.
fn layer(sources: &Sources, layer: &Layer) -> CompiledLayer {
    let option = |sent: &crate::plan::Sent| {
        let by = SaidBy { layer: &layer.name, spot: Some(sent.key.clone()) };
        Some(CompiledOption {
            option: sent.definition.id(),
            name: sent.definition.name.to_string(),
            hex: hex::plain(&sent.payload()?.octets),
            from: vec![origin(sources, &by)],
        })
    };
    CompiledLayer {
        lease: layer.lease.as_ref().map(|(lease, _)| *lease),
        options: layer.all_sends().filter_map(option).collect(),
        withheld: layer.withheld.iter().map(|out| out.definition.id()).collect(),
    }
}

fn compile_network(plan: &Plan, network: &Network, sources: &Sources) -> Option<CompiledNetwork> {
    let (v4, v6) = (&network.subnet, &network.v6);
    if v4.is_none() && v6.prefix.is_none() {
        return None;
    }
    let compiled = |id: String, octets: &[u8], from: &[SaidBy<'_>]| CompiledOption {
        name: plan.codebook.find(&id).map(|definition| definition.name.to_string()).unwrap_or_default(),
        option: id,
        hex: hex::plain(octets),
        from: from.iter().map(|by| origin(sources, by)).collect(),
    };
    let told = answer::payloads(plan, network).unwrap_or_default();
    let by_v4 = told.iter().map(|told| compiled(format!("v4:{}", told.code), &told.octets, &told.from));
    let said = v6.advertise.as_deref();
    let announced = said.into_iter().flat_map(|said| &said.sends).filter_map(|sent| {
        let by = SaidBy { layer: &network.layer.name, spot: Some(sent.key.clone()) };
        Some(compiled(sent.definition.id(), &sent.payload()?.octets, &[by]))
    });
    let told_v6 = if v6.prefix.is_some() { answer::payloads_v6(plan, network) } else { Vec::new() };
    let by_v6 = told_v6.iter().map(|told| compiled(format!("v6:{}", told.code), &told.octets, &told.from));
    Some(CompiledNetwork {
        name: network.name.clone(),
        subnet: v4.as_ref().map(|subnet| subnet.net.trunc().to_string()).unwrap_or_default(),
        prefix: v6.prefix.as_ref().map(|prefix| prefix.net.trunc().to_string()),
        delegates: v6.delegates.iter().map(ToString::to_string).collect(),
        announces: said.map(ToString::to_string),
        pools: both(&network.pools, &v6.pools),
        excluded: both(&network.excluded, &v6.excluded),
        lease: answer::timers(plan, network).lease.seconds,
        preferred: v6.prefix.as_ref().map(|_| answer::timers_v6(plan, network).preferred.0),
        options: by_v4.chain(announced).chain(by_v6).collect(),
    })
}

/// The ranges of both families.
fn both(v4: &[Pool], v6: &[PoolV6]) -> Vec<String> {
    v4.iter().map(ToString::to_string).chain(v6.iter().map(ToString::to_string)).collect()
}

fn origin(sources: &Sources, by: &SaidBy<'_>) -> Origin {
    let place = by.spot.as_ref().map(|spot| sources.place(spot));
    let (file, line) = place.map_or((String::new(), 0), |place| (place.file, place.line));
    Origin { layer: by.layer.to_owned(), file, line }
}
