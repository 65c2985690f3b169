//! What the IETF's model of a DHCPv6 server can hold of a plan, as its JSON (RFC 9243, appendix; RFC 7951).

use std::borrow::Cow;
use std::collections::{BTreeMap, BTreeSet};
use std::net::Ipv6Addr;

use oplex::codebook::Carrier;
use oplex::compiled::{Compiled, Layer, Network, SentOption};
use oplex::family::{Family, Net, Protocol};
use oplex::octets::hex;
use oplex::plan::{ClientKey, Pool, Reservation};
use serde_json::{Map, Value, json};

/// The model's data, and what it has no place for.
pub(crate) struct Yang {
    pub(crate) data: Value,
    pub(crate) left_out: BTreeSet<String>,
}

/// Options of RFC 8415 that the model has: their container, and the leaf in it, where that is one number.
const NUMBERS: [(u16, &str, &str); 4] = [
    (7, "preference-option", "pref-value"),
    (32, "info-refresh-time-option", "info-refresh-time"),
    (82, "sol-max-rt-option", "sol-max-rt-value"),
    (83, "inf-max-rt-option", "inf-max-rt-value"),
];

/// The server's address for unicast, and what it accepts to be reconfigured by.
const UNICAST: u16 = 12;
const RECONFIGURE: u16 = 20;

pub(crate) fn yang(compiled: &Compiled<'_>) -> Yang {
    let mut writer = Writer { compiled, sets: Vec::new(), left_out: BTreeSet::new() };
    let mut ranges = writer.times(&compiled.everyone);
    writer.set(&compiled.everyone, &mut ranges);
    let all: Vec<Value> = (0..compiled.networks.len()).flat_map(|at| writer.network(at)).collect();
    ranges.insert("allocation-range".to_owned(), all.into());
    writer.others();
    let Writer { sets, left_out, .. } = writer;
    let mut server = Map::new();
    server.insert("enabled".to_owned(), true.into());
    server.extend(compiled.server.duid.as_ref().map(|duid| ("server-duid".to_owned(), hex::plain(duid).into())));
    if !sets.is_empty() {
        server.insert("option-sets".to_owned(), json!({ "option-set": sets }));
    }
    server.insert("allocation-ranges".to_owned(), ranges.into());
    Yang { data: json!({ "ietf-dhcpv6-server:dhcpv6-server": server }), left_out }
}

struct Writer<'c> {
    compiled: &'c Compiled<'c>,
    sets: Vec<Value>,
    left_out: BTreeSet<String>,
}

impl Writer<'_> {
    /// The times that a layer sets.
    fn times(&self, layer: &Layer<'_>) -> Map<String, Value> {
        let names = [
            ("valid-lifetime", layer.times.lease),
            ("renew-time", layer.times.renew),
            ("rebind-time", layer.times.rebind),
            ("preferred-lifetime", layer.times.preferred),
        ];
        let set = names.into_iter().filter_map(|(name, time)| Some((name.to_owned(), time?.seconds.into())));
        set.collect()
    }

    /// Writes the options of a layer as a set, if the model has one of them, and names it in what the layer is for.
    fn set(&mut self, layer: &Layer<'_>, of: &mut Map<String, Value>) {
        let mut set = Map::new();
        let mut vendors: BTreeMap<u32, Vec<Value>> = BTreeMap::new();
        for option in &layer.options.v6 {
            let Some(octets) = option.octets.as_deref() else { continue };
            let number = NUMBERS.iter().find(|(code, ..)| option.is(Protocol::V6, *code));
            match (number, enterprise(option)) {
                (Some((_, container, leaf)), _) => {
                    let number = octets.iter().fold(0u64, |number, octet| number << 8 | u64::from(*octet));
                    set.insert((*container).to_owned(), json!({ *leaf: number }));
                }
                (None, Some(enterprise)) => vendors.entry(enterprise).or_default().push(json!({
                    "sub-option-code": option.definition.code,
                    "sub-option-data": data_encoding::BASE64.encode(octets),
                })),
                (None, None) if option.is(Protocol::V6, UNICAST) => {
                    let address = <[u8; 16]>::try_from(octets).map(|octets| Ipv6Addr::from(octets).to_string());
                    set.extend(
                        address
                            .map(|address| ("server-unicast-option".to_owned(), json!({ "server-address": address }))),
                    );
                }
                (None, None) if option.is(Protocol::V6, RECONFIGURE) => {
                    set.insert("reconfigure-accept-option".to_owned(), json!({}));
                }
                (None, None) => {
                    self.left_out.insert(format!("{} of {}", option.definition.label(), layer.id.name));
                }
            }
        }
        if !vendors.is_empty() {
            let each = vendors
                .into_iter()
                .map(|(enterprise, data)| json!({ "enterprise-number": enterprise, "vendor-option-data": data }));
            let each: Vec<Value> = each.collect();
            set.insert(
                "vendor-specific-information-options".to_owned(),
                json!({ "vendor-specific-information-option": each }),
            );
        }
        let withheld = layer.withheld.iter().filter(|out| out.is_own_of(Protocol::V6) || !out.is_standard());
        for (what, count) in [("changes", layer.amends.v6.len()), ("withheld options", withheld.count())] {
            if count > 0 {
                self.left_out.insert(format!("{what} of {}", layer.id.name));
            }
        }
        if !set.is_empty() {
            let mut whole = Map::from_iter([("option-set-id".to_owned(), layer.id.name.into())]);
            whole.extend(set);
            self.sets.push(whole.into());
            of.insert("option-set-id".to_owned(), json!([layer.id.name]));
        }
    }

    /// A range for each prefix of a network, as the model has a link's prefixes by themselves.
    fn network(&mut self, at: usize) -> Vec<Value> {
        let network = &self.compiled.networks[at];
        let nets: Vec<Net<Ipv6Addr>> = network.sides.v6.subnets.iter().map(|subnet| subnet.net.trunc()).collect();
        let mut options = self.times(&network.layer);
        if !nets.is_empty() {
            self.set(&network.layer, &mut options);
        }
        let ranges = nets.iter().enumerate().map(|(place, net)| {
            let id = if place == 0 { network.name.to_string() } else { format!("{} {}", network.name, place + 1) };
            let mut range = Map::from_iter([
                ("id".to_owned(), Value::from(id.as_str())),
                ("network-prefix".to_owned(), net.to_string().into()),
            ]);
            range.extend(options.clone());
            let pools = self.address_pools(at, *net, &id);
            range.extend(pools.map(|pools| ("address-pools".to_owned(), json!({ "address-pool": pools }))));
            let prefixes = if place == 0 { self.prefix_pools(at, &id) } else { Vec::new() };
            if !prefixes.is_empty() {
                range.insert("prefix-pools".to_owned(), json!({ "prefix-pool": prefixes }));
            }
            Value::from(range)
        });
        ranges.collect()
    }

    /// What is leased of a prefix: the pools without what is excluded, and the addresses that are reserved.
    fn address_pools(&mut self, at: usize, net: Net<Ipv6Addr>, id: &str) -> Option<Vec<Value>> {
        let network = &self.compiled.networks[at];
        let inside: Vec<&Pool<Ipv6Addr>> = network.sides.v6.pools.iter().filter(|pool| net.holds(pool.first)).collect();
        let left = self.compiled.leasable_on(at, &inside);
        let mut pools: Vec<Value> = left
            .iter()
            .enumerate()
            .map(|(place, (first, last))| {
                json!({
                    "pool-id": format!("{id} {}", place + 1),
                    "pool-prefix": net.to_string(),
                    "start-address": first.to_string(),
                    "end-address": last.to_string(),
                })
            })
            .collect();
        let rows = self.compiled.reservations.of_network(at);
        let mut reserved = Vec::new();
        for row in rows.filter(|row| row.address::<Ipv6Addr>().is_some_and(|(address, _)| net.holds(address))) {
            match (row.client(), row.address::<Ipv6Addr>()) {
                (ClientKey::Duid(duid), Some((address, _))) => {
                    self.own_values(network, row);
                    reserved.push(json!({ "client-duid": hex::plain(duid), "reserved-addr": address.to_string() }));
                }
                (other, _) => {
                    self.left_out
                        .insert(format!("the reservation of {other} on {}, which is not by DUID", network.name));
                }
            }
        }
        match (pools.first_mut(), reserved.is_empty()) {
            (_, true) => {}
            (Some(pool), false) => pool["host-reservations"] = json!({ "host-reservation": reserved }),
            (None, false) => drop(self.left_out.insert(format!("reservations of {id}, which has no pool"))),
        }
        (!pools.is_empty()).then_some(pools)
    }

    fn prefix_pools(&mut self, at: usize, id: &str) -> Vec<Value> {
        let network = &self.compiled.networks[at];
        let mut pools: Vec<Value> = network
            .delegates
            .iter()
            .enumerate()
            .map(|(place, one)| {
                json!({
                    "pool-id": format!("{id} delegated {}", place + 1),
                    "pool-prefix": one.within.trunc().to_string(),
                    "client-prefix-length": one.length,
                })
            })
            .collect();
        let rows = self.compiled.reservations.of_network(at).filter_map(|row| Some((row, row.delegated()?.0)));
        let mut reserved = Vec::new();
        for (row, net) in rows {
            match row.client() {
                ClientKey::Duid(duid) => {
                    self.own_values(network, row);
                    reserved.push(json!({
                        "client-duid": hex::plain(duid),
                        "reserved-prefix": net.to_string(),
                        "reserved-prefix-len": net.length(),
                    }));
                }
                other => {
                    self.left_out.insert(format!("the prefix of {other} on {}, which is not by DUID", network.name));
                }
            }
        }
        match (pools.first_mut(), reserved.is_empty()) {
            (_, true) => {}
            (Some(pool), false) => pool["host-reservations"] = json!({ "prefix-reservation": reserved }),
            (None, false) => drop(self.left_out.insert(format!("prefixes reserved on {id}, which delegates none"))),
        }
        pools
    }

    fn own_values(&mut self, network: &Network<'_>, row: &Reservation) {
        if row.layer().is_some() {
            self.left_out.insert(format!("what {} on {} is sent of its own", row.client(), network.name));
        }
    }

    /// What the model knows nothing of.
    fn others(&mut self) {
        let networks = &self.compiled.networks;
        let of = |has: &dyn Fn(&Network<'_>) -> bool| -> Vec<Cow<'_, str>> {
            networks.iter().filter(|network| has(network)).map(|network| network.name.clone()).collect()
        };
        let fleets: Vec<Cow<'_, str>> = self.compiled.fleets.iter().map(|fleet| fleet.name.clone()).collect();
        for (what, names) in [
            ("fleets", fleets),
            ("all of DHCPv4, on", of(&|network| network.sides.has(Family::V4))),
            ("what routers advertise, on", of(&|network| network.advertises.is_some())),
            ("relay agents, of", of(&|network| !network.relays.v6.is_empty() || !network.interfaces.is_empty())),
        ] {
            if !names.is_empty() {
                self.left_out.insert(format!("{what} {}", names.join(", ")));
            }
        }
    }
}

/// The enterprise in whose option for vendors (17) an option travels.
fn enterprise(option: &SentOption<'_>) -> Option<u32> {
    option.definition.carriers.iter().find_map(|carrier| match carrier {
        Carrier::Vendor { family: Family::V6, enterprise, .. } => *enterprise,
        _ => None,
    })
}
