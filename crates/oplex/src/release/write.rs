//! The compiled form, written down.

use std::net::{Ipv4Addr, Ipv6Addr};

use super::{
    AdvertisementEntry, AmendEntry, BookEntry, BootEntry, Condition, Document, FleetEntry, FleetOnEntry, LayerEntry,
    NetworkEntry, OptionEntry, Origin, ReservationEntry, ServerEntry,
};
use crate::compiled::{Advertisement, Amend, Boot, Compiled, Fleet, Layer, LayerKind, Network, SentOption};
use crate::family::{Address, Both};
use crate::finding::Sources;
use crate::layout::EditsText;
use crate::octets::hex;
use crate::plan::{Match, Plan, Pool, Relays, Reservation, Subnet};

/// A plan as it is published. What is wrong with it is left out: check it first.
#[must_use]
pub fn compile(plan: &Plan, sources: &Sources) -> Document {
    let compiled = Compiled::of(plan);
    let writer = Writer { compiled: &compiled, sources };
    let books = plan.books.iter().map(|file| sources.get(*file));
    Document {
        title: plan.title.clone(),
        plan: sources.get(plan.file).name.clone(),
        codebooks: books.map(|book| BookEntry { name: book.name.clone(), text: book.text.clone() }).collect(),
        server: ServerEntry {
            v4: plan.server.v4.as_ref().map(|(address, _)| *address),
            v6: plan.server.v6.as_ref().map(|(server, _)| *server),
            duid: plan.server.duid.as_deref().map(hex::plain),
        },
        everyone: writer.layer(&compiled.everyone),
        networks: compiled.networks.iter().map(|network| writer.network(network)).collect(),
        fleets: compiled.fleets.iter().map(|fleet| writer.fleet(fleet)).collect(),
        reservations: compiled.reservations.iter().map(|row| writer.reservation(row)).collect(),
    }
}

struct Writer<'w> {
    compiled: &'w Compiled<'w>,
    sources: &'w Sources,
}

impl Writer<'_> {
    fn name(&self, network: usize) -> String {
        self.compiled.networks[network].name.to_string()
    }

    fn network(&self, network: &Network<'_>) -> NetworkEntry {
        let sides = &network.sides;
        NetworkEntry {
            name: network.name.to_string(),
            subnets: nets(&sides.v4.subnets),
            prefixes: nets(&sides.v6.subnets),
            relays: relays(&network.relays),
            interfaces: network.interfaces.iter().map(|id| hex::plain(id)).collect(),
            delegates: network.delegates.iter().map(ToString::to_string).collect(),
            advertises: network.advertises.as_ref().map(|said| self.advertisement(said)),
            pools: ranges(&sides.v4.pools, &sides.v6.pools),
            excluded: ranges(&sides.v4.excluded, &sides.v6.excluded),
            says: self.layer(&network.layer),
        }
    }

    fn advertisement(&self, said: &Advertisement<'_>) -> AdvertisementEntry {
        AdvertisementEntry {
            header: hex::plain(&said.header.octets()),
            source: said.ends.source,
            destination: said.ends.destination,
            interval: said.interval,
            options: said.options.iter().filter_map(|option| self.option(option)).collect(),
        }
    }

    fn fleet(&self, fleet: &Fleet<'_>) -> FleetEntry {
        let on = fleet.on.iter().map(|on| FleetOnEntry {
            network: self.name(on.network),
            pools: on.pools.texts().collect(),
            says: self.layer(&on.layer),
        });
        FleetEntry {
            name: fleet.name.to_string(),
            recognised: condition(&fleet.recognised),
            says: self.layer(&fleet.layer),
            on: on.collect(),
        }
    }

    fn reservation(&self, row: &Reservation) -> ReservationEntry {
        ReservationEntry {
            network: self.name(row.network()),
            client: row.client().to_string(),
            address: row.address::<Ipv4Addr>().map(|(address, _)| address),
            ipv6_address: row.address::<Ipv6Addr>().map(|(address, _)| address),
            delegated: row.delegated().map(|(prefix, _)| prefix.to_string()),
            name: row.name().map(|(name, _)| name.to_owned()),
            says: row.layer().map(|layer| self.layer(&Layer::of(layer, LayerKind::Reservation))),
        }
    }

    fn layer(&self, layer: &Layer<'_>) -> LayerEntry {
        LayerEntry {
            layer: layer.id.name.to_owned(),
            times: layer.times.map(|time| time.seconds),
            options: Both::new(|family| {
                layer.options[family].iter().filter_map(|option| self.option(option)).collect()
            }),
            amends: Both::new(|family| layer.amends[family].iter().map(amend).collect()),
            boot: layer.boot.iter().filter_map(|boot| self.boot(boot)).collect(),
            boot_withheld: layer.boot_withheld.clone(),
            withheld: layer.withheld.iter().map(|out| out.id().to_string()).collect(),
        }
    }

    fn boot(&self, boot: &Boot<'_>) -> Option<BootEntry> {
        Some(BootEntry { key: boot.key, text: boot.text.to_string(), sends: self.option(&boot.option)? })
    }

    /// One option as a layer sends it; `None` without octets.
    fn option(&self, option: &SentOption<'_>) -> Option<OptionEntry> {
        let place = option.key().map(|spot| self.sources.location(spot));
        Some(OptionEntry {
            option: option.id().to_string(),
            name: option.definition.name.to_string(),
            hex: hex::plain(option.octets.as_deref()?),
            from: place.map(|place| Origin { file: place.file, line: place.line }),
        })
    }
}

fn amend(amend: &Amend<'_>) -> AmendEntry {
    AmendEntry { option: amend.definition.id().to_string(), edits: EditsText(&amend.edits).to_string() }
}

/// The addresses of a network's relay agents, IPv4's first.
pub(super) fn relays(relays: &Relays) -> Vec<String> {
    let v4 = relays.v4.iter().map(|(address, _)| address.to_string());
    v4.chain(relays.v6.iter().map(|(address, _)| address.to_string())).collect()
}

fn nets<A: Address>(subnets: &[Subnet<A>]) -> Vec<String> {
    subnets.iter().map(|subnet| subnet.net.trunc().to_string()).collect()
}

fn ranges(v4: &[Pool<Ipv4Addr>], v6: &[Pool<Ipv6Addr>]) -> Vec<String> {
    v4.iter().map(ToString::to_string).chain(v6.iter().map(ToString::to_string)).collect()
}

fn condition(wanted: &Match) -> Condition {
    let all = |several: &[Match]| several.iter().map(condition).collect();
    match wanted {
        Match::All(several) => Condition::All(all(several)),
        Match::Any(several) => Condition::Any(all(several)),
        Match::None(several) => Condition::None(all(several)),
        Match::Sends { fact, patterns, .. } => {
            Condition::Sends { what: fact.to_string(), patterns: patterns.iter().map(ToString::to_string).collect() }
        }
    }
}
