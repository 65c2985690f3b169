//! A checked plan, compiled: for each network its addresses and the octets its devices are told, each with the line it
//! came from.

use serde::{Deserialize, Serialize};

use crate::answer::{Timer, timers, told};
use crate::codebook::{Carrier, Codebook};
use crate::finding::{Sources, Spot};
use crate::octets::hex;
use crate::plan::{Network, Plan, Sent};

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
    let timers = timers(plan, network);
    let mut options =
        vec![computed(plan, sources, 1, &subnet.net.netmask().octets(), &network.layer.name, Some(&subnet.spot))];
    for (code, timer) in [(51, &timers.lease), (58, &timers.renew), (59, &timers.rebind)] {
        let Timer { seconds, spot } = timer;
        options.push(computed(plan, sources, code, &seconds.to_be_bytes(), &network.layer.name, spot.as_ref()));
    }
    let mut carried: Vec<(Carrier, Vec<(&Sent, Origin)>)> = Vec::new();
    for told in told(plan, network) {
        let Some(payload) = told.sent.payload() else { continue };
        let origin = origin(sources, &told.layer.name, Some(&told.sent.key));
        let definition = &told.sent.definition;
        if definition.is_top_level() {
            let id = format!("v4:{}", definition.code);
            options.retain(|option| option.option != id);
            options.push(CompiledOption {
                option: id,
                name: definition.name.to_string(),
                hex: hex::plain(&payload.octets),
                from: vec![origin.clone()],
            });
        }
        let vendors = definition.carriers.iter().filter(|carrier| matches!(carrier, Carrier::Vendor { .. }));
        for carrier in vendors {
            match carried.iter_mut().find(|(known, _)| known == carrier) {
                Some((_, sent)) => sent.push((told.sent, origin.clone())),
                None => carried.push((*carrier, vec![(told.sent, origin.clone())])),
            }
        }
    }
    for carried in carried.into_iter().filter_map(|(carrier, sent)| carry(&plan.codebook, carrier, sent)) {
        // Several enterprises share one option 125, one after the other (RFC 3925, section 4).
        match options.iter_mut().find(|option| option.option == carried.option) {
            Some(option) => {
                option.hex.push_str(&carried.hex);
                option.from.extend(carried.from);
            }
            None => options.push(carried),
        }
    }
    options.sort_by_key(|option| option.option.trim_start_matches("v4:").parse::<u16>().unwrap_or(u16::MAX));
    Some(CompiledNetwork {
        name: network.name.clone(),
        subnet: subnet.net.trunc().to_string(),
        pools: network.pools.iter().map(ToString::to_string).collect(),
        excluded: network.excluded.iter().map(ToString::to_string).collect(),
        lease: timers.lease.seconds,
        options,
    })
}

/// An option that follows from the network itself.
fn computed(
    plan: &Plan,
    sources: &Sources,
    code: u16,
    octets: &[u8],
    layer: &str,
    spot: Option<&Spot>,
) -> CompiledOption {
    let name = plan.codebook.v4(code).map(|definition| definition.name.to_string());
    CompiledOption {
        option: format!("v4:{code}"),
        name: name.unwrap_or_default(),
        hex: hex::plain(octets),
        from: vec![origin(sources, layer, spot)],
    }
}

/// A vendor's sub-options, in the option that carries them.
fn carry(codebook: &Codebook, carrier: Carrier, sent: Vec<(&Sent, Origin)>) -> Option<CompiledOption> {
    let Carrier::Vendor { code, .. } = carrier else { return None };
    let (sent, from): (Vec<&Sent>, Vec<Origin>) = sent.into_iter().unzip();
    let inner = sent.iter().filter_map(|sent| Some((sent.definition.code, sent.payload()?.octets.as_slice())));
    let octets = Codebook::carry(carrier, &inner.collect::<Vec<_>>());
    Some(CompiledOption {
        option: format!("v4:{code}"),
        name: codebook.v4(code).map(|definition| definition.name.to_string()).unwrap_or_default(),
        hex: hex::plain(&octets),
        from,
    })
}

fn origin(sources: &Sources, layer: &str, spot: Option<&Spot>) -> Origin {
    let place = spot.map(|spot| sources.place(spot));
    let (file, line) = place.map_or((String::new(), 0), |place| (place.file, place.line));
    Origin { layer: layer.to_owned(), file, line }
}
