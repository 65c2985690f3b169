//! The servers that a plan names to its clients.

use std::collections::BTreeMap;
use std::fmt;
use std::net::IpAddr;

use super::{Compiled, Layer, LayerKind, SentOption};
use crate::codebook::{Codebook, Service};
use crate::family::Family;
use crate::finding::Spot;
use crate::layout::Value;
use crate::plan::BootKey;

/// A server that a plan names to clients.
#[derive(Debug, Clone, PartialEq, Eq)]
#[non_exhaustive]
pub struct NamedServer<'p> {
    /// What it is to do for them.
    pub service: Service,
    /// Where it is.
    pub host: Host,
    /// The file that it is to have, of one to boot from.
    pub file: Option<String>,
    /// How it is reached, of a name server that is reached encrypted.
    pub encrypted: Option<Encrypted>,
    /// The option that names it: `v4:6 domain-server`.
    pub option: String,
    /// Where the plan says so first; `None` in what was read back from a release.
    pub spot: Option<&'p Spot>,
    /// The networks whose clients are sent it, by their places; empty where all are.
    pub networks: Vec<usize>,
}

/// How a name server is reached encrypted (RFC 9463, section 3.1).
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Encrypted {
    /// The name that its certificate is for.
    pub name: String,
    /// What it speaks, as TLS names it: `dot`, `h2`, `doq`.
    pub protocols: Vec<String>,
    /// The port, where it is another than that of the protocol.
    pub port: Option<u16>,
    /// The path of DNS over HTTPS: `/dns-query{?dns}`.
    pub path: Option<String>,
}

impl Encrypted {
    /// What each record of an option says, with the addresses that it names.
    fn each(value: &Value, see: &mut dyn FnMut(Self, Vec<IpAddr>)) {
        let Some(Value::Name(name)) = value.field("authentication-domain") else {
            match value {
                Value::List(values) => values.iter().for_each(|value| Self::each(value, see)),
                Value::Record(members) => members.iter().for_each(|(_, value)| Self::each(value, see)),
                _ => {}
            }
            return;
        };
        let parameter = |code| value.field("parameters").and_then(|parameters| parameters.option(code));
        let spelled = |value: &Value| match value {
            Value::Bytes(octets) => String::from_utf8(octets.clone()).ok(),
            other => other.text().map(str::to_owned),
        };
        let mut addresses = Vec::new();
        if let Some(all) = value.field("addresses") {
            all.leaves(&mut |leaf, _| {
                addresses.extend(leaf.ipv4().map(IpAddr::from).or(match leaf {
                    Value::Ipv6(address) => Some((*address).into()),
                    _ => None,
                }));
            });
        }
        let own = Self {
            name: name.clone(),
            protocols: parameter(1).map(|all| all.items().iter().filter_map(spelled).collect()).unwrap_or_default(),
            port: parameter(3).and_then(Value::number).and_then(|port| port.try_into().ok()),
            path: parameter(7).and_then(spelled),
        };
        see(own, addresses);
    }
}

/// Where a server is, as the option says it.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Host {
    /// At an address.
    Address(IpAddr),
    /// Where its name says.
    Name(String),
    /// Where a URI says.
    Uri(String),
}

impl fmt::Display for Host {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Address(address) => address.fmt(f),
            Self::Name(name) => f.write_str(name),
            Self::Uri(uri) => f.write_str(uri),
        }
    }
}

/// What distinguishes one server from another.
type Key = (Service, Host, Option<String>);

impl<'p> Compiled<'p> {
    /// The servers that a plan names to clients: each once, with the line that names it first.
    ///
    /// ```
    /// use oplex::codebook::Service;
    /// use oplex::compiled::Compiled;
    /// use oplex::plan::Plan;
    ///
    /// let text = "send.v4 = { domain-server = [\"10.64.0.53\"], domain-name = \"tarnfell.example\" }\n[network.desk]\nsubnet = \"10.64.4.0/24\"\n";
    /// let plan = Plan::read("plan.toml", text, &mut |path| Err(format!("no file {path}").into())).plan.expect("it is TOML");
    /// let compiled = Compiled::of(&plan);
    /// let servers = compiled.servers();
    /// assert_eq!((servers[0].service, servers[0].host.to_string()), (Service::Dns, "10.64.0.53".to_owned()));
    /// assert_eq!(compiled.domains(), ["tarnfell.example"]);
    /// ```
    #[must_use]
    pub fn servers<'a>(&'a self) -> Vec<NamedServer<'a>> {
        let mut all = Servers { codebook: &self.codebook, found: BTreeMap::new(), files: Vec::new() };
        all.layer(&self.everyone, None);
        for (at, network) in self.networks.iter().enumerate() {
            all.layer(&network.layer, Some(at));
            if let Some(said) = &network.advertises {
                said.options.iter().for_each(|option| all.option(option, Some(at)));
            }
        }
        for fleet in &self.fleets {
            all.layer(&fleet.layer, None);
            fleet.on.iter().for_each(|on| all.layer(&on.layer, Some(on.network)));
        }
        for row in self.reservations.telling() {
            // Its layer is made here and points to the plan, so what is found in it is kept without it.
            if let Some(layer) = row.layer() {
                all.layer(&Layer::of(layer, LayerKind::Reservation), Some(row.network()));
            }
        }
        all.boot_files();
        let mut found: Vec<NamedServer<'a>> = all.found.into_values().collect();
        for server in &mut found {
            server.networks.sort_unstable();
            server.networks.dedup();
        }
        found
    }

    /// The domains that clients are in, or look names up in, each once.
    #[must_use]
    pub fn domains(&self) -> Vec<String> {
        let networks = self.networks.iter().map(|network| &network.layer);
        let fleets = self.fleets.iter().map(|fleet| &fleet.layer);
        let layers = std::iter::once(&self.everyone).chain(networks).chain(fleets);
        let mut domains = Vec::new();
        for option in layers.flat_map(|layer| layer.options.v4.iter().chain(&layer.options.v6)) {
            let is = option.definition.service == Some(Service::Domain);
            let Some(octets) = option.octets.as_deref().filter(|_| is) else { continue };
            let (value, _) = self.codebook.decode(&option.definition, octets);
            value.iter().for_each(|value| {
                value.leaves(&mut |leaf, _| match leaf {
                    Value::Name(name) | Value::Text(name) if !domains.contains(name) => domains.push(name.clone()),
                    _ => {}
                });
            });
        }
        domains
    }
}

struct Servers<'c, 'p> {
    codebook: &'c Codebook,
    found: BTreeMap<Key, NamedServer<'p>>,
    /// Files to boot from of layers that name no server beside them: where, and on which network.
    files: Vec<(String, Option<&'p Spot>, Option<usize>)>,
}

impl<'p> Servers<'_, 'p> {
    fn layer(&mut self, layer: &Layer<'p>, network: Option<usize>) {
        for family in Family::ALL {
            layer.options[family].iter().for_each(|option| self.option(option, network));
        }
        let text = |key| layer.boot.iter().find(|boot| boot.key == key);
        let file = text(BootKey::File);
        let server = text(BootKey::Server).or_else(|| text(BootKey::Host));
        match (server, file) {
            (Some(server), file) => {
                let named = file.map(|file| file.text.to_string());
                let option = server.option.definition.label();
                self.add(Service::Tftp, host(&server.text), named, option, server.option.spot(), network);
            }
            (None, Some(file)) => self.files.push((file.text.to_string(), file.option.spot(), network)),
            (None, None) => {}
        }
        for boot in layer.boot.iter().filter(|boot| boot.key == BootKey::Url) {
            let option = boot.option.definition.label();
            self.add(Service::File, host(&boot.text), None, option, boot.option.spot(), network);
        }
    }

    /// What an option names.
    fn option(&mut self, option: &SentOption<'p>, network: Option<usize>) {
        let service = option.definition.service.filter(|service| *service != Service::Domain);
        let (Some(service), Some(octets)) = (service, option.octets.as_deref()) else { return };
        let (value, _) = self.codebook.decode(&option.definition, octets);
        if service == Service::Dnr {
            return self.encrypted(value.as_ref(), option, network);
        }
        let mut hosts = Vec::new();
        value.iter().for_each(|value| {
            value.leaves(&mut |leaf, _| {
                hosts.extend(match leaf {
                    Value::Ipv4(address) => Some(Host::Address((*address).into())),
                    Value::Ipv6(address) => Some(Host::Address((*address).into())),
                    Value::Name(text) | Value::Text(text) => Some(host(text)),
                    // Octets that may be anything name a server where they are a URI.
                    Value::Bytes(octets) => {
                        std::str::from_utf8(octets).ok().map(host).filter(|host| matches!(host, Host::Uri(_)))
                    }
                    _ => None,
                });
            });
        });
        for host in hosts {
            let on_disks = matches!(&host, Host::Uri(uri) if is_disk(uri));
            let service = match service {
                // A boot file may be a disk; the path of a root file system need not be.
                Service::File | Service::Iscsi if on_disks => Service::Iscsi,
                Service::Iscsi if !matches!(host, Host::Address(_)) => continue,
                other => other,
            };
            self.add(service, host, None, option.definition.label(), option.spot(), network);
        }
    }

    /// The name servers that an option says how to reach encrypted; one without an address is found by its name.
    fn encrypted(&mut self, value: Option<&Value>, option: &SentOption<'p>, network: Option<usize>) {
        let mut all = Vec::new();
        value.iter().for_each(|value| Encrypted::each(value, &mut |own, addresses| all.push((own, addresses))));
        for (own, addresses) in all {
            let by_name = addresses.is_empty().then(|| Host::Name(own.name.clone()));
            for host in addresses.into_iter().map(Host::Address).chain(by_name) {
                // Two at one address have names, which stand where the files of others do.
                let key = (Service::Dnr, host.clone(), Some(own.name.clone()));
                let (file, option, spot) = (key.2.clone(), option.definition.label(), option.spot());
                self.add(Service::Dnr, host, file, option, spot, network);
                if let Some(server) = self.found.get_mut(&key) {
                    (server.file, server.encrypted) = (None, Some(own.clone()));
                }
            }
        }
    }

    fn add(
        &mut self,
        service: Service,
        host: Host,
        file: Option<String>,
        option: String,
        spot: Option<&'p Spot>,
        network: Option<usize>,
    ) {
        // A multicast group is nobody's address.
        let many = matches!(host, Host::Address(address) if address.is_multicast() || address.is_unspecified());
        if many {
            return;
        }
        let new = !self.found.contains_key(&(service, host.clone(), file.clone()));
        let server = self.found.entry((service, host.clone(), file.clone())).or_insert_with(|| NamedServer {
            service,
            host,
            file,
            encrypted: None,
            option,
            spot,
            networks: Vec::new(),
        });
        match network {
            // A network is named only as long as not everyone is sent it.
            Some(at) if new || !server.networks.is_empty() => server.networks.push(at),
            Some(_) => {}
            None => server.networks.clear(),
        }
    }

    /// Files of layers that name no server are on those that other layers name.
    fn boot_files(&mut self) {
        let servers = self.found.values().filter(|server| server.service == Service::Tftp && server.file.is_some());
        let servers: Vec<(Host, String)> = servers.map(|server| (server.host.clone(), server.option.clone())).collect();
        for (file, spot, network) in std::mem::take(&mut self.files) {
            for (host, option) in &servers {
                self.add(Service::Tftp, host.clone(), Some(file.clone()), option.clone(), spot, network);
            }
        }
    }
}

/// A text as where a server is.
fn host(text: &str) -> Host {
    match text.parse() {
        Ok(address) => Host::Address(address),
        Err(_) if text.contains("://") || is_disk(text) => Host::Uri(text.to_owned()),
        Err(_) => Host::Name(text.to_owned()),
    }
}

/// Whether a text names a disk: `iscsi:10.64.0.80::::iqn.2026-01.example.tarnfell:dome` (RFC 4173, section 5).
fn is_disk(text: &str) -> bool {
    text.get(..6).is_some_and(|scheme| scheme.eq_ignore_ascii_case("iscsi:"))
}
