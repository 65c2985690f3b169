//! The compiled form, written down.

use std::net::{Ipv4Addr, Ipv6Addr};

use super::amended::Changes;
use super::{
    AdvertisementEntry, BookEntry, BootEntry, CarrierEntry, Composing, Condition, Content, Document, FleetEntry,
    FleetOnEntry, FqdnEntry, LayerEntry, NetworkEntry, OptionEntry, ReservationEntry, ServerEntry, TooMany,
};
use crate::codebook::{Carrier, Codebook};
use crate::compiled::{Advertisement, Boot, Compiled, Fleet, Layer, LayerKind, Network, SentOption};
use crate::family::{Address, Both, Family};
use crate::finding::Sources;
use crate::octets::hex;
use crate::packet::{v4, v6};
use crate::plan::{Plan, Pool, Relays, Reservation, Server, Subnet};

/// A plan as it is published. What is wrong with it is left out: check it first.
///
/// ```
/// use oplex::family::Family;
/// use oplex::plan::{ClientFacts, Plan};
/// use oplex::release;
///
/// let text = "[network.desk]\nsubnet = \"10.64.4.0/24\"\npool = \"10.64.4.20-10.64.4.90\"\nsend.v4 = { router = \"10.64.4.1\" }\n";
/// let loaded = Plan::read("plan.toml", text, &mut |path| Err(format!("no file {path}").into()));
/// let plan = loaded.plan.as_ref().expect("it is TOML");
/// let document = release::compile(plan, &loaded.sources)?;
/// // What is read back answers as the plan does.
/// let compiled = document.compiled()?;
/// let answer = compiled.answer(Family::V4, &ClientFacts::on(0)).expect("the network has a subnet");
/// assert!(answer.payloads.iter().any(|option| option.code == 3 && *option.octets == [10, 64, 4, 1]));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
///
/// # Errors
/// A change that may meet more different values than a release writes down.
pub fn compile(plan: &Plan, sources: &Sources) -> Result<Document, TooMany> {
    let books = plan.books.iter().map(|file| sources.get(*file));
    Ok(Document {
        title: plan.title.clone(),
        codebooks: books.map(|book| BookEntry { name: book.name.clone(), text: book.text.clone() }).collect(),
        content: content(&Compiled::of(plan))?,
    })
}

fn content(compiled: &Compiled<'_>) -> Result<Content, TooMany> {
    let mut writer = Writer { compiled, changes: Changes::new(compiled) };
    let mut networks =
        compiled.networks.iter().map(|network| writer.network(network)).collect::<Result<Vec<_>, _>>()?;
    networks.sort_by(|one, other| one.name.cmp(&other.name));
    let mut reservations =
        compiled.reservations.iter().map(|row| writer.reservation(row)).collect::<Result<Vec<_>, _>>()?;
    reservations.sort_by(|one, other| (&one.network, &one.client).cmp(&(&other.network, &other.client)));
    Ok(Content {
        server: server(&compiled.server),
        composing: composing(&compiled.codebook),
        everyone: writer.layer(&compiled.everyone, None)?,
        networks,
        fleets: compiled.fleets.iter().map(|fleet| writer.fleet(fleet)).collect::<Result<_, _>>()?,
        reservations,
    })
}

fn server(server: &Server) -> ServerEntry {
    ServerEntry {
        v4: server.v4.as_ref().map(|(address, _)| *address),
        v6: server.v6.as_ref().map(|(server, _)| *server),
        duid: server.duid.as_deref().map(hex::plain),
    }
}

fn composing(codebook: &Codebook) -> Composing {
    let own = |family: Family| codebook.own_definitions(family.protocol());
    let joined = Codebook::standard().own_definitions(crate::family::Protocol::V4).filter(|known| known.joined);
    let mut joined: Vec<u16> = joined.map(|known| known.code).collect();
    joined.sort_unstable();
    let only_last = Both::new(|family| {
        let (last, other) = match family {
            Family::V4 => (v4::MessageType::ACK.0, v4::MessageType::OFFER.0),
            Family::V6 => (v6::MessageType::REPLY.0, v6::MessageType::ADVERTISE.0),
        };
        let mut codes: Vec<u16> =
            own(family).filter(|known| known.waits_for(last, other)).map(|known| known.code).collect();
        codes.sort_unstable();
        codes.dedup();
        codes
    });
    Composing { joined, only_last }
}

struct Writer<'w> {
    compiled: &'w Compiled<'w>,
    changes: Changes<'w>,
}

impl Writer<'_> {
    fn name(&self, network: usize) -> String {
        self.compiled.networks[network].name.to_string()
    }

    fn network(&mut self, network: &Network<'_>) -> Result<NetworkEntry, TooMany> {
        let sides = &network.sides;
        Ok(NetworkEntry {
            name: network.name.to_string(),
            subnets: nets(&sides.v4.subnets),
            prefixes: nets(&sides.v6.subnets),
            relays: relays(&network.relays),
            interfaces: network.interfaces.iter().map(|id| hex::plain(id)).collect(),
            delegates: network.delegates.iter().map(ToString::to_string).collect(),
            advertises: network.advertises.as_ref().map(advertisement),
            pools: ranges(&sides.v4.pools, &sides.v6.pools),
            excluded: ranges(&sides.v4.excluded, &sides.v6.excluded),
            says: self.layer(&network.layer, None)?,
        })
    }

    fn fleet(&mut self, fleet: &Fleet<'_>) -> Result<FleetEntry, TooMany> {
        let mut on = Vec::with_capacity(fleet.on.len());
        for one in &fleet.on {
            on.push(FleetOnEntry {
                network: self.name(one.network),
                pools: one.pools.texts().collect(),
                says: self.layer(&one.layer, None)?,
            });
        }
        on.sort_by(|one, other| one.network.cmp(&other.network));
        Ok(FleetEntry {
            name: fleet.name.to_string(),
            recognised: Condition::of(&self.compiled.codebook, &fleet.recognised),
            says: self.layer(&fleet.layer, None)?,
            on,
        })
    }

    fn reservation(&mut self, row: &Reservation) -> Result<ReservationEntry, TooMany> {
        let says = row.layer().map(|layer| Layer::of(layer, LayerKind::Reservation));
        Ok(ReservationEntry {
            network: self.name(row.network()),
            client: row.client().to_string(),
            address: row.address::<Ipv4Addr>().map(|(address, _)| address),
            ipv6_address: row.address::<Ipv6Addr>().map(|(address, _)| address),
            delegated: row.delegated().map(|(prefix, _)| prefix.to_string()),
            name: row.name().map(|(name, _)| name.to_owned()),
            says: says.map(|layer| self.layer(&layer, Some(row.network()))).transpose()?,
        })
    }

    /// What a layer says, in an order that does not depend on that of the plan's keys. `at` is a reservation's network.
    fn layer(&mut self, layer: &Layer<'_>, at: Option<usize>) -> Result<LayerEntry, TooMany> {
        let options = Both::new(|family| {
            let own = layer.options[family].iter();
            let mut own: Vec<OptionEntry> = own.filter_map(|sent| option(sent, Some(family))).collect();
            own.sort_by(|one, other| (one.code, &one.option).cmp(&(other.code, &other.option)));
            own
        });
        let mut boot: Vec<BootEntry> = layer.boot.iter().filter_map(boot).collect();
        boot.sort_by_key(|boot| boot.key as usize);
        let mut boot_withheld = layer.boot_withheld.clone();
        boot_withheld.sort_by_key(|key| *key as usize);
        let mut withheld: Vec<String> = layer.withheld.iter().map(|out| out.id().to_string()).collect();
        withheld.sort();
        Ok(LayerEntry {
            layer: layer.id.name.to_owned(),
            times: layer.times.map(|time| time.seconds),
            options,
            amends: Both { v4: self.changes.of(layer, at, Family::V4)?, v6: self.changes.of(layer, at, Family::V6)? },
            boot,
            boot_withheld,
            fqdn: layer.fqdn.as_ref().map(|own| FqdnEntry { name: own.name.clone(), updates: own.updates }),
            withheld,
        })
    }
}

fn advertisement(said: &Advertisement<'_>) -> AdvertisementEntry {
    AdvertisementEntry {
        header: hex::plain(&said.header.octets()),
        source: said.ends.source,
        destination: said.ends.destination,
        interval: said.interval,
        options: said.options.iter().filter_map(|sent| option(sent, None)).collect(),
    }
}

fn boot(boot: &Boot<'_>) -> Option<BootEntry> {
    let family = if boot.option.definition.is_own_of(Family::V6.protocol()) { Family::V6 } else { Family::V4 };
    Some(BootEntry { key: boot.key, text: boot.text.to_string(), sends: option(&boot.option, Some(family))? })
}

/// One option as a layer sends it; `None` without octets. Those of a router's advertisement are of no family.
fn option(option: &SentOption<'_>, family: Option<Family>) -> Option<OptionEntry> {
    let definition = &option.definition;
    let own = family.is_none_or(|family| definition.is_own_of(family.protocol()));
    let vendors = definition.carriers.iter().filter_map(|carrier| match *carrier {
        Carrier::Vendor { family: of, code, enterprise } if Some(of) == family => {
            Some(CarrierEntry { option: Some(code), enterprise })
        }
        _ => None,
    });
    let among_own = own.then_some(CarrierEntry { option: None, enterprise: None });
    let carriers: Vec<CarrierEntry> = among_own.into_iter().chain(vendors).collect();
    let plain = own && carriers.len() == 1;
    Some(OptionEntry {
        option: option.id().to_string(),
        code: definition.code,
        hex: hex::plain(option.octets.as_deref()?),
        carriers: (!plain).then_some(carriers),
    })
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
