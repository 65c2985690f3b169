//! All that a plan says, as tables.

use std::net::{Ipv4Addr, Ipv6Addr};

use oplex::answer::HostMode;
use oplex::codebook::Definition;
use oplex::compiled::{Advertisement, Compiled, Layer, LayerKind, Network, SentOption};
use oplex::family::{Address, Family};
use oplex::finding::{Sources, Spot};
use oplex::layout::{EditsText, Value};
use oplex::octets::hex;
use oplex::plan::{Fqdn, Plan, Pool, Reservation};
use serde::Serialize;

use super::overrides::{Narrower, Overrides, client_fqdn};

/// The tables of a plan.
#[derive(Serialize)]
pub(crate) struct PlanForm<'p> {
    pub(crate) title: Option<&'p str>,
    pub(crate) everyone: LayerForm<'p>,
    pub(crate) networks: Vec<NetworkForm<'p>>,
    pub(crate) fleets: Vec<FleetForm<'p>>,
    pub(crate) reservations: Vec<ReservationForm<'p>>,
}

#[derive(Serialize)]
pub(crate) struct NetworkForm<'p> {
    pub(crate) network: &'p str,
    pub(crate) subnets: Vec<String>,
    pub(crate) prefixes: Vec<String>,
    pub(crate) relays: Vec<String>,
    pub(crate) interfaces: Vec<String>,
    pub(crate) delegates: Vec<String>,
    pub(crate) v4: AddressesForm<'p>,
    pub(crate) v6: AddressesForm<'p>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) advertises: Option<AdvertisesForm<'p>>,
    #[serde(flatten)]
    pub(crate) layer: LayerForm<'p>,
}

/// What a network leases by one family.
#[derive(Serialize)]
pub(crate) struct AddressesForm<'p> {
    pub(crate) pools: Vec<String>,
    pub(crate) exclusions: Vec<String>,
    /// How many addresses are left for clients of no fleet with a pool of its own; text, as there may be more than 2^53.
    pub(crate) left: String,
    pub(crate) fleets: Vec<(&'p str, String)>,
}

#[derive(Serialize)]
pub(crate) struct AdvertisesForm<'p> {
    pub(crate) from: Ipv6Addr,
    pub(crate) managed: bool,
    pub(crate) other: bool,
    pub(crate) mode: &'static str,
    pub(crate) interval: u32,
    pub(crate) lifetime: u16,
    pub(crate) options: Vec<SentForm<'p>>,
}

/// What a layer says, over those that are wider.
#[derive(Serialize)]
pub(crate) struct LayerForm<'p> {
    pub(crate) layer: String,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) lease: Option<u32>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) preferred: Option<u32>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) renew: Option<u32>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) rebind: Option<u32>,
    pub(crate) options: Vec<SentForm<'p>>,
    pub(crate) withheld: Vec<String>,
}

/// An option, or a part of one, that a layer sends.
#[derive(Serialize)]
pub(crate) struct SentForm<'p> {
    pub(crate) option: String,
    pub(crate) name: &'p str,
    pub(crate) family: &'static str,
    /// `send`, `amend`, `boot`, `fqdn` or `advertise`.
    pub(crate) by: &'static str,
    pub(crate) value: Option<Value>,
    /// The changes, where it is changed.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) changes: Option<String>,
    pub(crate) hex: Option<String>,
    pub(crate) from: Option<FromForm>,
    #[serde(flatten)]
    pub(crate) overrides: Overrides,
}

/// A line of a file.
#[derive(Serialize)]
pub(crate) struct FromForm {
    pub(crate) file: String,
    pub(crate) line: usize,
}

#[derive(Serialize)]
pub(crate) struct FleetForm<'p> {
    pub(crate) fleet: &'p str,
    #[serde(rename = "match")]
    pub(crate) recognised: String,
    #[serde(flatten)]
    pub(crate) layer: LayerForm<'p>,
    pub(crate) on: Vec<OnForm<'p>>,
}

#[derive(Serialize)]
pub(crate) struct OnForm<'p> {
    pub(crate) network: &'p str,
    pub(crate) pools: Vec<String>,
    #[serde(flatten)]
    pub(crate) layer: LayerForm<'p>,
}

#[derive(Serialize)]
pub(crate) struct ReservationForm<'p> {
    pub(crate) client: String,
    pub(crate) name: Option<&'p str>,
    pub(crate) network: &'p str,
    pub(crate) addresses: Vec<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) delegated: Option<String>,
    #[serde(flatten)]
    pub(crate) layer: Option<LayerForm<'p>>,
}

impl<'p> PlanForm<'p> {
    /// The tables of a plan, of one network where one is named.
    pub(crate) fn new(plan: &'p Plan, compiled: &'p Compiled<'p>, sources: &'p Sources, only: Option<usize>) -> Self {
        let tables = Tables { plan, compiled, sources, narrower: Narrower::of(compiled, only) };
        let wanted = |at: &usize| only.is_none_or(|only| only == *at);
        let networks = (0..compiled.networks.len()).filter(wanted).map(|at| tables.network(at));
        let fleets = compiled.fleets.iter().map(|fleet| {
            let on = fleet.on.iter().filter(|on| wanted(&on.network)).map(|on| OnForm {
                network: &compiled.networks[on.network].name,
                pools: on.pools.texts().collect(),
                layer: tables.layer(&on.layer),
            });
            let (layer, recognised) = (tables.layer(&fleet.layer), fleet.recognised.to_string());
            FleetForm { fleet: &fleet.name, recognised, layer, on: on.collect() }
        });
        let reservations = plan.reservations.iter().filter(|row| wanted(&row.network()));
        Self {
            title: plan.title.as_deref(),
            everyone: tables.layer(&compiled.everyone),
            networks: networks.collect(),
            fleets: fleets.collect(),
            reservations: reservations.map(|row| tables.reservation(row)).collect(),
        }
    }
}

struct Tables<'p> {
    plan: &'p Plan,
    compiled: &'p Compiled<'p>,
    sources: &'p Sources,
    narrower: Narrower<'p>,
}

impl<'p> Tables<'p> {
    fn network(&self, at: usize) -> NetworkForm<'p> {
        let network: &'p Network<'p> = &self.compiled.networks[at];
        let relays = &network.relays;
        let v4 = relays.v4.iter().map(|(address, _)| address.to_string());
        NetworkForm {
            network: &network.name,
            subnets: network.sides.v4.subnets.iter().map(|subnet| subnet.net.trunc().to_string()).collect(),
            prefixes: network.sides.v6.subnets.iter().map(|prefix| prefix.net.trunc().to_string()).collect(),
            relays: v4.chain(relays.v6.iter().map(|(address, _)| address.to_string())).collect(),
            interfaces: network.interfaces.iter().map(|id| hex::plain(id)).collect(),
            delegates: network.delegates.iter().map(ToString::to_string).collect(),
            v4: self.addresses::<Ipv4Addr>(at),
            v6: self.addresses::<Ipv6Addr>(at),
            advertises: network.advertises.as_ref().map(|said| self.advertises(network, said)),
            layer: self.layer(&network.layer),
        }
    }

    fn addresses<A: Address>(&self, at: usize) -> AddressesForm<'p> {
        let side = self.compiled.networks[at].sides.of::<A>();
        let texts = |pools: &[Pool<A>]| pools.iter().map(ToString::to_string).collect();
        let (left, fleets) = self.compiled.leases::<A>(at);
        let fleets = fleets.into_iter().map(|(at, count)| (&*self.compiled.fleets[at].name, count.to_string()));
        AddressesForm {
            pools: texts(&side.pools),
            exclusions: texts(&side.excluded),
            left: left.to_string(),
            fleets: fleets.collect(),
        }
    }

    fn advertises(&self, network: &Network<'_>, said: &'p Advertisement<'p>) -> AdvertisesForm<'p> {
        AdvertisesForm {
            from: said.ends.source,
            managed: said.header.managed,
            other: said.header.other,
            mode: mode(HostMode::on(network)),
            interval: said.interval,
            lifetime: said.header.router_lifetime,
            options: said
                .options
                .iter()
                .map(|option| self.sent(option, "ra", "advertise", Overrides::default()))
                .collect(),
        }
    }

    fn layer(&self, layer: &Layer<'p>) -> LayerForm<'p> {
        let mut options = Vec::new();
        for family in Family::ALL {
            let by = |option: &SentOption<'_>| self.narrower.of_option(layer.id.kind, &option.definition);
            options.extend(
                layer.options[family].iter().map(|option| self.sent(option, family.name(), "send", by(option))),
            );
            options.extend(layer.amends[family].iter().map(|amend| SentForm {
                option: amend.definition.id().to_string(),
                name: self.name(&amend.definition),
                family: family.name(),
                by: "amend",
                value: None,
                changes: Some(EditsText(&amend.edits).to_string()),
                hex: None,
                from: amend.origin.map(|origin| self.from(&origin.key)),
                overrides: self.narrower.of_option(layer.id.kind, &amend.definition),
            }));
        }
        options.extend(layer.boot.iter().map(|boot| {
            let family = if boot.option.definition.id().book() == "v6" { "v6" } else { "v4" };
            self.sent(&boot.option, family, "boot", self.narrower.of_boot(layer.id.kind, boot.key.name()))
        }));
        options.extend(layer.fqdn.as_deref().into_iter().flat_map(|own| self.fqdn(layer.id.kind, own)));
        let withheld = layer.withheld.iter().map(|out| out.id().to_string());
        let keys = layer.boot_withheld.iter().map(|key| format!("boot.{}", key.name()));
        let time = |time: Option<oplex::compiled::Time<'_>>| time.map(|time| time.seconds);
        LayerForm {
            layer: layer.id.name.to_owned(),
            lease: time(layer.times.lease),
            preferred: time(layer.times.preferred),
            renew: time(layer.times.renew),
            rebind: time(layer.times.rebind),
            options,
            withheld: withheld.chain(keys).collect(),
        }
    }

    /// The full name that a layer's clients are answered with, by the families that its network has.
    fn fqdn(&self, kind: LayerKind, own: &Fqdn) -> Vec<SentForm<'p>> {
        let network = match kind {
            LayerKind::Network(at) | LayerKind::FleetOn(_, at) => self.plan.networks.get(at),
            _ => None,
        };
        let families = Family::ALL.into_iter().filter(|family| network.is_none_or(|on| on.sides.has(*family)));
        let value = own.to_string();
        let form = |family| SentForm {
            option: client_fqdn(family).to_owned(),
            name: self.plan.codebook.find(client_fqdn(family)).map_or("", |known| &known.name),
            family: family.name(),
            by: "fqdn",
            value: Some(Value::Text(value.clone())),
            changes: None,
            hex: None,
            from: own.spot.as_ref().map(|spot| self.from(spot)),
            overrides: self.narrower.of_fqdn(kind, family),
        };
        families.map(form).collect()
    }

    fn sent(
        &self,
        option: &SentOption<'p>,
        family: &'static str,
        by: &'static str,
        overrides: Overrides,
    ) -> SentForm<'p> {
        SentForm {
            option: option.id().to_string(),
            name: self.name(&option.definition),
            family,
            by,
            value: option.value().cloned(),
            changes: None,
            hex: option.octets.as_deref().map(hex::plain),
            from: option.key().map(|key| self.from(key)),
            overrides,
        }
    }

    /// The name of an option as the plan's own codebook has it, which lives as long as the plan.
    fn name(&self, definition: &Definition) -> &'p str {
        let known = self.plan.codebook.find(&definition.id().to_string());
        known.map_or("", |known| &*known.name)
    }

    fn from(&self, spot: &Spot) -> FromForm {
        let place = self.sources.location(spot);
        FromForm { file: place.file, line: place.line }
    }

    fn reservation(&self, row: &'p Reservation) -> ReservationForm<'p> {
        let v4 = row.address::<Ipv4Addr>().map(|(address, _)| address.to_string());
        let v6 = row.address::<Ipv6Addr>().map(|(address, _)| address.to_string());
        ReservationForm {
            client: row.client().to_string(),
            name: row.name().map(|(name, _)| name),
            network: &self.plan.networks[row.network()].name,
            addresses: v4.into_iter().chain(v6).collect(),
            delegated: row.delegated().map(|(prefix, _)| prefix.to_string()),
            layer: row.layer().map(|layer| self.layer(&Layer::of(layer, LayerKind::Reservation))),
        }
    }
}

/// What hosts use DHCPv6 for.
pub(crate) fn mode(mode: HostMode) -> &'static str {
    match mode {
        HostMode::Unknown => "unknown",
        HostMode::Autonomous => "autonomous",
        HostMode::Stateless => "stateless",
        HostMode::Stateful => "stateful",
    }
}
