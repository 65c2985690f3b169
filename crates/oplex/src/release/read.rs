//! The compiled form, read back: it answers as the plan does, and points nowhere.

use std::borrow::Cow;
use std::collections::HashMap;
use std::fmt;
use std::net::IpAddr;
use std::sync::Arc;

use super::{
    AdvertisementEntry, AmendEntry, BookEntry, Condition, Content, Document, FleetEntry, FqdnEntry, LayerEntry,
    NetworkEntry, OptionEntry, ReservationEntry,
};
use crate::codebook::{Codebook, Definition};
use crate::compiled::{
    Advertisement, Amend, Boot, Compiled, Fleet, Layer, LayerKind, LayerRef, Network, OnNetwork, SentOption, Time,
};
use crate::family::{Address, Both, ByAddress, Net};
use crate::finding::{Severity, Sources, Spot};
use crate::layout::{Edit, Input};
use crate::octets::hex;
use crate::once::Once;
use crate::packet::ra;
use crate::plan::{
    self, ClientKey, Delegation, Match, Pools, Relays, Reservation, Reservations, Server, Side, Subnet, Withheld,
};

/// Why a document cannot be answered from.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ReadError {
    /// Where in the document: `network domes, v4:3`.
    pub place: String,
    /// What is wrong there.
    pub why: String,
}

impl fmt::Display for ReadError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}: {}", self.place, self.why)
    }
}

impl std::error::Error for ReadError {}

/// Says where in the document something is wrong.
fn at<T>(place: &str, read: Result<T, impl ToString>) -> Result<T, ReadError> {
    read.map_err(|why| ReadError { place: place.to_owned(), why: why.to_string() })
}

/// All of them, in the room that they need: a vector that grows has half as much again for nothing.
fn gathered<T>(all: impl ExactSizeIterator<Item = Result<T, ReadError>>) -> Result<Vec<T>, ReadError> {
    let mut gathered = Vec::with_capacity(all.len());
    for one in all {
        gathered.push(one?);
    }
    Ok(gathered)
}

impl Document {
    /// What clients are answered from.
    ///
    /// # Errors
    /// Something that no release holds: text that is no address, an option that no codebook knows, a network without a name.
    pub fn compiled(&self) -> Result<Compiled<'_>, ReadError> {
        let compiled = self.content.compiled(codebook(&self.codebooks)?)?;
        Ok(Compiled { title: self.title.as_deref().map(Cow::Borrowed), ..compiled })
    }
}

/// The standard codebook with these.
fn codebook(books: &[BookEntry]) -> Result<Codebook, ReadError> {
    let (mut sources, mut codebook) = (Sources::default(), Codebook::standard().clone());
    for book in books {
        let file = sources.add(&book.name, &book.text);
        let wrong = codebook.add(&sources, file).into_iter().find(|finding| finding.severity == Severity::Error);
        at(&book.name, wrong.map_or(Ok(()), |finding| Err(finding.message)))?;
    }
    Ok(codebook)
}

impl Content {
    /// What clients are answered from, with the codebook that defines its options.
    ///
    /// # Errors
    /// Something that no release holds: text that is no address, an option that the codebook does not know, a network without
    /// a name.
    pub fn compiled(&self, codebook: Codebook) -> Result<Compiled<'_>, ReadError> {
        let names = self.networks.iter().enumerate().map(|(at, network)| (network.name.as_str(), at));
        let reader = Reader { codebook, networks: names.collect() };
        let networks = self.networks.iter().enumerate().map(|(at, network)| reader.network(at, network));
        let fleets = self.fleets.iter().enumerate().map(|(at, fleet)| reader.fleet(at, fleet));
        let rows = gathered(self.reservations.iter().map(|entry| reader.reservation(entry)))?;
        let duid = self.server.duid.as_deref().map(|duid| at("server", duid.parse())).transpose()?;
        let v4 = self.server.v4.map(|address| (address, Spot::NOWHERE));
        Ok(Compiled {
            title: None,
            server: Cow::Owned(Server { v4, v6: self.server.v6.map(|server| (server, Spot::NOWHERE)), duid }),
            everyone: reader.layer(&self.everyone, LayerKind::Everyone)?,
            networks: gathered(networks)?,
            fleets: gathered(fleets)?,
            reservations: Cow::Owned(Reservations::of_rows(rows)),
            codebook: Cow::Owned(reader.codebook),
            index: Once::new(),
        })
    }
}

struct Reader<'d> {
    codebook: Codebook,
    networks: HashMap<&'d str, usize>,
}

impl<'d> Reader<'d> {
    fn named(&self, network: &str) -> Result<usize, ReadError> {
        at(network, self.networks.get(network).copied().ok_or("no network has this name"))
    }

    fn network(&self, place: usize, entry: &'d NetworkEntry) -> Result<Network<'d>, ReadError> {
        let here = &entry.says.layer;
        let (pools, excluded) = (ranges(here, &entry.pools)?, ranges(here, &entry.excluded)?);
        let sides = ByAddress {
            v4: Side { subnets: subnets(here, &entry.subnets)?, pools: pools.v4, excluded: excluded.v4 },
            v6: Side { subnets: subnets(here, &entry.prefixes)?, pools: pools.v6, excluded: excluded.v6 },
        };
        let delegates = entry.delegates.iter().map(|text| {
            let (within, length) = at(here, plan::delegation(text))?;
            Ok(Delegation { within, length, spot: Spot::NOWHERE })
        });
        Ok(Network {
            name: Cow::Borrowed(&entry.name),
            sides: Cow::Owned(sides),
            delegates: Cow::Owned(delegates.collect::<Result<_, _>>()?),
            relays: Cow::Owned(relays(here, &entry.relays)?),
            interfaces: {
                let read = entry.interfaces.iter().map(|id| at(here, hex::parse(id)).map(Vec::into_boxed_slice));
                Cow::Owned(read.collect::<Result<_, _>>()?)
            },
            ipv6_elsewhere: false,
            advertises: entry.advertises.as_ref().map(|said| self.advertisement(here, said)).transpose()?,
            layer: self.layer(&entry.says, LayerKind::Network(place))?,
            spot: None,
        })
    }

    fn advertisement(&self, here: &str, entry: &'d AdvertisementEntry) -> Result<Advertisement<'d>, ReadError> {
        let header = at(here, hex::parse(&entry.header))?;
        let header = at(here, header.as_slice().try_into().map_err(|_| "an advertisement's header has 12 octets"))?;
        let options = entry.options.iter().map(|entry| self.option(here, entry));
        Ok(Advertisement {
            header: ra::Advertisement::read(header),
            ends: ra::Ends { source: entry.source, destination: entry.destination },
            interval: entry.interval,
            options: options.collect::<Result<_, _>>()?,
            origin: None,
        })
    }

    fn fleet(&self, place: usize, entry: &'d FleetEntry) -> Result<Fleet<'d>, ReadError> {
        let here = &entry.says.layer;
        let on = entry.on.iter().map(|on| {
            let network = self.named(&on.network)?;
            let layer = self.layer(&on.says, LayerKind::FleetOn(place, network))?;
            Ok(OnNetwork { network, pools: Cow::Owned(ranges(&on.says.layer, &on.pools)?), layer })
        });
        let mut on: Vec<OnNetwork<'d>> = on.collect::<Result<_, _>>()?;
        on.sort_by_key(|on| on.network);
        Ok(Fleet {
            name: Cow::Borrowed(&entry.name),
            requests: None,
            recognised: Cow::Owned(self.condition(here, &entry.recognised)?),
            layer: self.layer(&entry.says, LayerKind::Fleet(place))?,
            on,
        })
    }

    fn condition(&self, here: &str, wanted: &Condition) -> Result<Match, ReadError> {
        let all = |several: &[Condition]| several.iter().map(|one| self.condition(here, one)).collect::<Result<_, _>>();
        Ok(match wanted {
            Condition::All(several) => Match::All(all(several)?),
            Condition::Any(several) => Match::Any(all(several)?),
            Condition::None(several) => Match::None(all(several)?),
            Condition::Sends { what, patterns, .. } => at(here, Match::sends(&self.codebook, what, patterns))?,
        })
    }

    fn reservation(&self, entry: &ReservationEntry) -> Result<Reservation, ReadError> {
        let client: ClientKey = at(&entry.client, entry.client.parse())?;
        let address = (entry.address.map(|address| (address, 0..0)), entry.ipv6_address.map(|address| (address, 0..0)));
        let name = entry.name.as_deref().map(|name| (name, 0..0));
        let layer = entry.says.as_ref().map(|says| self.plan_layer(says)).transpose()?;
        let delegated = entry.delegated.as_deref().map(|text| at(&entry.client, Net::parse(text))).transpose()?;
        let row = Reservation::new(self.named(&entry.network)?, client, Spot::NOWHERE).with(address, name, layer);
        Ok(row.delegating(delegated.map(|prefix| (prefix, 0..0))))
    }

    /// The layer of a reservation, which stays as a plan has it until it is needed.
    fn plan_layer(&self, entry: &LayerEntry) -> Result<plan::Layer, ReadError> {
        let sent = |entries: &[OptionEntry]| {
            let read = entries.iter().map(|option| self.octets(&entry.layer, option));
            read.map(|read| read.map(|(definition, octets)| plan::Sent::known(&self.codebook, definition, octets)))
                .collect::<Result<_, _>>()
        };
        let withheld = entry
            .withheld
            .iter()
            .map(|id| Ok(Withheld { definition: Arc::clone(self.definition(&entry.layer, id)?), spot: Spot::NOWHERE }));
        let amends = |entries: &[AmendEntry]| {
            let read = entries.iter().map(|amend| self.edits(&entry.layer, amend));
            let plain = |(definition, edits): (Arc<Definition>, Vec<Edit>)| plan::Amendment {
                definition,
                key: Spot::NOWHERE,
                spot: Spot::NOWHERE,
                outcome: Ok(edits),
            };
            read.map(|read| read.map(plain)).collect::<Result<_, _>>()
        };
        let boot = entry.boot.iter().map(|boot| {
            let (definition, octets) = self.octets(&entry.layer, &boot.sends)?;
            let sent = plan::Sent::known(&self.codebook, definition, octets);
            Ok(plan::BootEntry { key: boot.key, text: boot.text.clone(), sent })
        });
        let boot_withheld = entry.boot_withheld.iter().map(|key| (*key, Spot::NOWHERE)).collect();
        Ok(plan::Layer {
            name: entry.layer.clone(),
            amends: Both { v4: amends(&entry.amends.v4)?, v6: amends(&entry.amends.v6)? },
            fqdn: entry.fqdn.as_ref().map(fqdn),
            boot: plan::Boot { entries: boot.collect::<Result<_, _>>()?, withheld: boot_withheld },
            sends: Both { v4: sent(&entry.options.v4)?, v6: sent(&entry.options.v6)? },
            withheld: withheld.collect::<Result<_, _>>()?,
            times: entry.times.map(|seconds| (*seconds, Spot::NOWHERE)),
        })
    }

    fn layer(&self, entry: &'d LayerEntry, kind: LayerKind) -> Result<Layer<'d>, ReadError> {
        let here = &entry.layer;
        let sent =
            |entries: &[OptionEntry]| entries.iter().map(|entry| self.option(here, entry)).collect::<Result<_, _>>();
        let withheld = entry.withheld.iter().map(|id| self.definition(here, id).map(Arc::clone));
        let amends = |entries: &[AmendEntry]| {
            let read = entries.iter().map(|amend| self.edits(here, amend));
            let plain =
                |(definition, edits): (Arc<Definition>, Vec<Edit>)| Amend::new(definition, Cow::Owned(edits), None);
            read.map(|read| read.map(plain)).collect::<Result<_, _>>()
        };
        let boot = entry.boot.iter().map(|boot| {
            let text = Cow::Borrowed(&*boot.text);
            Ok(Boot { key: boot.key, text, option: self.option(here, &boot.sends)? })
        });
        Ok(Layer {
            id: LayerRef { name: here, kind },
            amends: Both { v4: amends(&entry.amends.v4)?, v6: amends(&entry.amends.v6)? },
            boot: boot.collect::<Result<_, _>>()?,
            boot_withheld: entry.boot_withheld.clone(),
            fqdn: entry.fqdn.as_ref().map(|own| Cow::Owned(fqdn(own))),
            options: Both { v4: sent(&entry.options.v4)?, v6: sent(&entry.options.v6)? },
            withheld: withheld.collect::<Result<_, _>>()?,
            times: entry.times.map(|seconds| Time { seconds: *seconds, spot: None }),
        })
    }

    fn option(&self, here: &str, entry: &OptionEntry) -> Result<SentOption<'d>, ReadError> {
        let (definition, octets) = self.octets(here, entry)?;
        Ok(SentOption {
            definition: Arc::clone(definition),
            octets: Some(Arc::<[u8]>::from(octets).into()),
            origin: None,
            amended: None,
        })
    }

    fn octets(&self, here: &str, entry: &OptionEntry) -> Result<(&Arc<Definition>, Vec<u8>), ReadError> {
        let octets = hex::parse(&entry.hex).map_err(|error| format!("{}: {error}", entry.option));
        Ok((self.definition(here, &entry.option)?, at(here, octets)?))
    }

    fn edits(&self, here: &str, entry: &AmendEntry) -> Result<(Arc<Definition>, Vec<Edit>), ReadError> {
        let definition = self.definition(here, &entry.option)?;
        let edits = self.codebook.layout(definition).read_edits(&self.codebook, &Input::from_text(&entry.text));
        Ok((Arc::clone(definition), at(here, edits)?))
    }

    fn definition(&self, here: &str, id: &str) -> Result<&Arc<Definition>, ReadError> {
        at(here, self.codebook.find(id))
    }
}

fn subnets<A: Address>(here: &str, texts: &[String]) -> Result<Vec<Subnet<A>>, ReadError> {
    texts.iter().map(|text| at(here, Net::parse(text)).map(|net| Subnet { net, spot: Spot::NOWHERE })).collect()
}

fn relays(here: &str, texts: &[String]) -> Result<Relays, ReadError> {
    let mut relays = Relays::default();
    for text in texts {
        match at(here, text.parse::<IpAddr>())? {
            IpAddr::V4(address) => relays.v4.push((address, Spot::NOWHERE)),
            IpAddr::V6(address) => relays.v6.push((address, Spot::NOWHERE)),
        }
    }
    Ok(relays)
}

fn ranges(here: &str, texts: &[String]) -> Result<Pools, ReadError> {
    let mut pools = Pools::default();
    texts.iter().try_for_each(|text| at(here, pools.read(text, &Spot::NOWHERE)))?;
    Ok(pools)
}

fn fqdn(entry: &FqdnEntry) -> plan::Fqdn {
    plan::Fqdn { name: entry.name.clone(), updates: entry.updates, spot: None }
}
