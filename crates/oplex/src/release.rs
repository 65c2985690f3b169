//! A checked plan, compiled: for each network its addresses and the octets its devices are told, each with the line it
//! came from.

use serde::{Deserialize, Serialize};

use crate::answer::{self, SaidBy};
use crate::finding::Sources;
use crate::octets::hex;
use crate::plan::{Network, Plan};

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
}

/// What one network comes to.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct CompiledNetwork {
    /// Its name.
    pub name: String,
    /// Its subnet, `10.64.4.0/23`.
    pub subnet: String,
    /// The addresses it lends.
    pub pools: Vec<String>,
    /// Those among them that it does not lend.
    pub excluded: Vec<String>,
    /// How long addresses are lent, in seconds.
    pub lease: u32,
    /// What its devices are told, in the order of the codes.
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
    Compiled { title: plan.title.clone(), plan: sources.get(plan.file).name.clone(), networks: networks.collect() }
}

fn compile_network(plan: &Plan, network: &Network, sources: &Sources) -> Option<CompiledNetwork> {
    let subnet = network.subnet.as_ref()?;
    let told = answer::payloads(plan, network)?;
    let options = told.into_iter().map(|told| CompiledOption {
        option: format!("v4:{}", told.code),
        name: plan.codebook.v4(told.code).map(|definition| definition.name.to_string()).unwrap_or_default(),
        hex: hex::plain(&told.octets),
        from: told.from.iter().map(|by| origin(sources, by)).collect(),
    });
    Some(CompiledNetwork {
        name: network.name.clone(),
        subnet: subnet.net.trunc().to_string(),
        pools: network.pools.iter().map(ToString::to_string).collect(),
        excluded: network.excluded.iter().map(ToString::to_string).collect(),
        lease: answer::timers(plan, network).lease.seconds,
        options: options.collect(),
    })
}

fn origin(sources: &Sources, by: &SaidBy<'_>) -> Origin {
    let place = by.spot.as_ref().map(|spot| sources.place(spot));
    let (file, line) = place.map_or((String::new(), 0), |place| (place.file, place.line));
    Origin { layer: by.layer.to_owned(), file, line }
}
