//! From a plan's text to the plan.

use std::collections::HashMap;
use std::net::{Ipv4Addr, Ipv6Addr};
use std::sync::Arc;

use super::network::{Networks, Side, Subnet};
use super::{Fetch, Layer, Loaded, Network, Plan, Relays, Reservations, Server, Times, Withheld};
use crate::codebook::{Codebook, Definition};
use crate::document::{Name, Node, Reader, Table};
use crate::family::{Address, ByAddress, Net, Protocol};
use crate::finding::{Example, FileId, Sources, Spot, rule};
use crate::heading;
use crate::layout::duration;
use crate::parallel;

rule! {
    /// a codebook that the plan names cannot be read
    ///
    /// The options it defines stay unknown, so nothing that uses them can be checked or sent.
    pub static CODEBOOK_UNREADABLE = "codebook-unreadable", Error, File, "";
    Example::Plan("codebooks = [\"codebooks/missing.toml\"]\n[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n\
         [network.control-room]\nsubnet = \"10.64.4.0/23\"\n[network.control-room.send.v4]\nrouter = \"10.64.4.1\"\n")
}

rule! {
    /// a reservation file that the plan names cannot be read
    ///
    /// The machines in it get addresses from the pool and none of their own settings.
    pub static RESERVATIONS_UNREADABLE = "reservations-unreadable", Error, File, "";
    Example::Plan("reservations = \"missing.csv\"\n[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n\
         [network.control-room]\nsubnet = \"10.64.4.0/23\"\n[network.control-room.send.v4]\nrouter = \"10.64.4.1\"\n")
}

const PLAN: [&str; 21] = [
    "title",
    "server",
    "server-v6",
    "server-duid",
    "servers",
    "codebooks",
    "send",
    "amend",
    "boot",
    "fqdn",
    "withhold",
    "lease",
    "preferred",
    "renew",
    "rebind",
    "network",
    "fleet",
    "reservation",
    "reservations",
    "expect",
    "check",
];
const NETWORK: [&str; 18] = [
    "subnet",
    "prefix",
    "pool",
    "exclude",
    "delegate",
    "relay",
    "interface-id",
    "ipv6",
    "advertise",
    "lease",
    "preferred",
    "renew",
    "rebind",
    "send",
    "amend",
    "boot",
    "fqdn",
    "withhold",
];

/// The keys that a plan may have, by the table they stand in: what an editor completes.
#[must_use]
pub fn keys() -> Vec<(&'static str, &'static [&'static str])> {
    vec![
        ("plan", &PLAN),
        ("network", &NETWORK),
        ("prefix", &super::read_advertise::PREFIX),
        ("advertise", &super::read_advertise::ADVERTISE),
        ("route", &super::read_advertise::ROUTE),
        ("fleet", &super::read_fleets::FLEET),
        ("fleet on a network", &super::read_fleets::ON),
        ("reservation", &super::read_fleets::RESERVATION),
        ("expect", &super::read_expect::EXPECT),
        ("client", &super::read_expect::CLIENT),
        ("server", &super::read_top::SERVER),
        ("allow", &super::read_top::ALLOW),
        ("reservations", &super::read_top::RESERVATIONS),
        ("fqdn", &super::read_fqdn::FQDN),
    ]
}

/// More networks than a thread takes to start.
const MANY: usize = 500;

pub(super) fn plan(name: &str, text: &str, fetch: &mut Fetch<'_>) -> Loaded {
    let mut sources = Sources::default();
    let file = sources.add(name, text);
    let mut reader = PlanReader::new(file, text);
    let table = reader.reader.parse();
    of_table(reader, table.as_ref(), sources, fetch)
}

fn of_table<'s>(
    mut reader: PlanReader<'s>,
    table: Option<&Table<'s>>,
    mut sources: Sources,
    fetch: &mut Fetch<'_>,
) -> Loaded {
    let plan = table.map(|table| {
        reader.codebooks(table, &mut sources, fetch);
        reader.plan(table, &mut sources, fetch)
    });
    let PlanReader { reader, codebook, books, .. } = reader;
    let plan = plan.map(|parts| Plan { file: reader.file, codebook, books, ..parts });
    Loaded { sources, plan, is_codebook: false, findings: reader.findings.into_vec() }
}

pub(super) fn plan_or_codebook(name: &str, text: &str, fetch: &mut Fetch<'_>) -> Loaded {
    let mut sources = Sources::default();
    let file = sources.add(name, text);
    let mut reader = PlanReader::new(file, text);
    let table = reader.reader.parse();
    let is_codebook = table.as_ref().is_some_and(|table| table.contains_key("book"));
    if !is_codebook {
        return of_table(reader, table.as_ref(), sources, fetch);
    }
    let mut codebook = Codebook::standard().clone();
    let findings = codebook.add(&sources, file);
    let plan = Plan { codebook, ..Plan::empty(file) };
    Loaded { sources, plan: Some(plan), is_codebook, findings }
}

/// Reads what a plan has in common with other files that send options.
pub(crate) struct PlanReader<'s> {
    pub(crate) reader: Reader<'s>,
    pub(crate) codebook: Codebook,
    /// The codebooks that were read.
    books: Vec<FileId>,
    /// The options that were requested already: thousands of networks send the same few.
    pub(super) known: HashMap<String, Arc<Definition>>,
}

impl<'s> PlanReader<'s> {
    pub(crate) fn new(file: FileId, text: &'s str) -> Self {
        Self {
            reader: Reader::new(file, text),
            codebook: Codebook::standard().clone(),
            books: Vec::new(),
            known: HashMap::new(),
        }
    }

    /// Reads the codebooks that the file names.
    pub(crate) fn codebooks(&mut self, table: &Table<'s>, sources: &mut Sources, fetch: &mut Fetch<'_>) {
        for (path, spot) in self.reader.texts(table, "codebooks") {
            self.codebook(path, spot, sources, fetch);
        }
    }

    fn codebook(&mut self, path: &str, spot: Spot, sources: &mut Sources, fetch: &mut Fetch<'_>) {
        match fetch(path) {
            Ok(text) => {
                let file = sources.add(path, text);
                let findings = self.codebook.add(sources, file);
                self.books.push(file);
                // A book may put its own option where a standard one was.
                self.known.clear();
                self.reader.findings.extend(findings);
            }
            Err(why) => {
                let finding = CODEBOOK_UNREADABLE.finding(format!("the codebook {path} cannot be read: {why}"));
                self.reader.findings.push(finding.at(spot));
            }
        }
    }

    /// The plan, but for its file and its codebook.
    fn plan(&mut self, table: &Table<'s>, sources: &mut Sources, fetch: &mut Fetch<'_>) -> Plan {
        self.reader.only(table, &PLAN, "a plan");
        let title = self.reader.text(table, "title").map(|(title, _)| title.to_owned());
        let everyone = self.layer(table, "everyone".to_owned());
        let networks = self.networks(table);
        let known = Networks::new(&networks);
        let fleets = self.fleets(table, &known);
        let mut reservations = self.reservations(table, &known);
        for (path, spot, ignored) in self.reservation_files(table) {
            match fetch(path) {
                Ok(text) => {
                    let file = sources.add(path, text);
                    let text = sources.get(file).text.as_str();
                    self.csv(file, text, &ignored, &known, &mut reservations);
                }
                Err(why) => {
                    let finding =
                        RESERVATIONS_UNREADABLE.finding(format!("the reservations {path} cannot be read: {why}"));
                    self.reader.findings.push(finding.at(spot));
                }
            }
        }
        let expectations = self.expectations(table, &known);
        drop(known);
        let mut servers = self.servers(table);
        let others = servers.split_off(servers.len().min(1));
        let server = servers.pop().unwrap_or_else(|| Server {
            v4: self.reader.parsed(table, "server", Ipv4Addr::parse),
            duid: self.reader.parsed(table, "server-duid", str::parse).map(|(duid, _)| duid),
            v6: self.reader.parsed(table, "server-v6", Ipv6Addr::parse),
        });
        let allowed = self.allowed(table, &networks, &fleets);
        let empty = Plan::empty(self.reader.file);
        Plan {
            title,
            server,
            others,
            everyone,
            networks,
            fleets,
            reservations: Reservations::new(reservations),
            expectations,
            allowed,
            ..empty
        }
    }

    /// The networks; of thousands each thread reads a share.
    fn networks(&mut self, table: &Table<'s>) -> Vec<Network> {
        let Some(named) = table.get("network").and_then(|node| self.reader.table(node, "network")) else {
            return Vec::new();
        };
        let named: Vec<_> = named.iter().collect();
        if named.len() < MANY {
            return named.into_iter().filter_map(|(name, node)| self.one_network(name, node)).collect();
        }
        let threads = parallel::threads();
        let shares: Vec<_> = named.chunks(named.len().div_ceil(threads)).collect();
        let read = parallel::each(threads, &shares, |share| {
            let mut other = self.fork();
            let networks: Vec<_> = share.iter().filter_map(|(name, node)| other.one_network(name, node)).collect();
            (networks, other.reader.findings)
        });
        let mut networks = Vec::with_capacity(named.len());
        for (share, findings) in read {
            networks.extend(share);
            self.reader.findings.extend(findings);
        }
        networks
    }

    /// One that knows the same, and has found nothing yet.
    fn fork(&self) -> Self {
        Self {
            reader: self.reader.fork(),
            codebook: self.codebook.clone(),
            books: Vec::new(),
            known: self.known.clone(),
        }
    }

    fn one_network(&mut self, name: &Name<'s>, node: &Node<'s>) -> Option<Network> {
        let spot = self.reader.spot(name.span());
        let inner = self.reader.table(node, &format!("network.{}", heading::key(name.get_ref())))?;
        Some(self.network(name.get_ref(), spot, inner))
    }

    fn network(&mut self, name: &str, spot: Spot, table: &Table<'s>) -> Network {
        self.reader.called = heading::key(name);
        self.reader.only(table, &NETWORK, "a network");
        self.reader.called.clear();
        if !table.contains_key("subnet") && !table.contains_key("prefix") {
            self.reader.missing(spot.span.clone(), "subnet", "\"ADDRESS/LENGTH\"");
        }
        let (pools, excluded) = (self.pools(table, "pool"), self.pools(table, "exclude"));
        let v4 = Side { subnets: self.subnets(table), pools: pools.v4, excluded: excluded.v4 };
        let prefixes = self.prefixes(table);
        let subnets = prefixes.iter().map(|prefix| prefix.subnet.clone()).collect();
        let v6 = Side { subnets, pools: pools.v6, excluded: excluded.v6 };
        Network {
            name: name.to_owned(),
            delegates: self.delegates(table),
            advertise: self.advertise(table, &prefixes).map(Box::new),
            ipv6_elsewhere: self.ipv6_elsewhere(table, &v6),
            relays: self.relays(table),
            interfaces: self.interfaces(table),
            sides: ByAddress { v4, v6 },
            layer: self.layer(table, format!("network {name}")),
            spot,
        }
    }

    /// Whether the network says that another router gives its hosts IPv6.
    fn ipv6_elsewhere(&mut self, table: &Table<'s>, side: &Side<Ipv6Addr>) -> bool {
        let Some((text, spot)) = self.reader.text(table, "ipv6") else { return false };
        if text != "elsewhere" {
            let message =
                format!("`ipv6` is \"elsewhere\" where a router that is not in the plan gives IPv6, not `{text}`");
            self.reader.wrong_kind(spot.span, message);
        } else if !side.subnets.is_empty() {
            self.reader.wrong_kind(spot.span, "the network has a `prefix`, so its IPv6 is not elsewhere");
        }
        text == "elsewhere"
    }

    /// The interfaces that relay agents name: text, or octets as `0x…`.
    fn interfaces(&mut self, table: &Table<'s>) -> Vec<Box<[u8]>> {
        let mut interfaces = Vec::new();
        for (text, spot) in self.reader.texts(table, "interface-id") {
            match super::facts::identifier(text) {
                Ok(octets) => interfaces.push(octets.into()),
                Err(why) => self.reader.wrong_kind(spot.span, why),
            }
        }
        interfaces
    }

    /// The relay agents of both families.
    fn relays(&mut self, table: &Table<'s>) -> Relays {
        let mut relays = Relays::default();
        for (text, spot) in self.reader.texts(table, "relay") {
            let read = if text.contains(':') {
                Ipv6Addr::parse(text).map(|address| relays.v6.push((address, spot.clone())))
            } else {
                Ipv4Addr::parse(text).map(|address| relays.v4.push((address, spot.clone())))
            };
            if let Err(why) = read {
                self.reader.wrong_kind(spot.span, why);
            }
        }
        relays
    }

    /// The network's subnets.
    fn subnets(&mut self, table: &Table<'s>) -> Vec<Subnet<Ipv4Addr>> {
        let mut subnets = Vec::new();
        for (text, spot) in self.reader.texts(table, "subnet") {
            match Net::parse(text) {
                Ok(net) => subnets.push(Subnet { net, spot }),
                Err(why) => self.reader.wrong_kind(spot.span, why),
            }
        }
        subnets
    }

    pub(super) fn layer(&mut self, table: &Table<'s>, name: String) -> Layer {
        let sends = self.sends(table);
        let amends = self.amends(table, &sends);
        let boot = self.boot(table);
        let fqdn = self.fqdn(table);
        let withheld = self.reader.texts(table, "withhold").into_iter().filter_map(|(query, spot)| {
            if query.starts_with("boot.") {
                return None;
            }
            let definition = self.option(query, Protocol::V4, &spot)?;
            Some(Withheld { definition, spot })
        });
        Layer {
            name,
            sends,
            amends,
            boot,
            fqdn,
            withheld: withheld.collect(),
            times: Times {
                preferred: self.duration(table, "preferred"),
                lease: self.duration(table, "lease"),
                renew: self.duration(table, "renew"),
                rebind: self.duration(table, "rebind"),
            },
        }
    }

    /// A duration as text, or a number of seconds.
    pub(crate) fn duration(&mut self, table: &Table<'s>, key: &str) -> Option<(u32, Spot)> {
        let node = table.get(key)?;
        if node.get_ref().is_integer() {
            let (seconds, spot) = self.reader.number(table, key, (u32::MAX - 1).into())?;
            return Some((seconds as u32, spot));
        }
        self.reader.parsed(table, key, duration)
    }
}
