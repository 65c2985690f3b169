//! Reading fleets, reservations and expectations from a plan's tables.

use std::net::{Ipv4Addr, Ipv6Addr};

use super::fleet::client_id;
use super::rows::Rows;
use super::{ClientKey, Fact, Fleet, FleetOn, Layer, Match, Networks, Pattern, PlanReader, Reservation};
use crate::document::{Node, Table, kind};
use crate::family::{Address, Net, Protocol};
use crate::finding::{Example, Spot, rule};
use crate::heading;
use crate::layout::{InputKind, Vocabulary as _};
use crate::nearest;

pub(super) const FLEET: [&str; 12] =
    ["match", "send", "amend", "boot", "fqdn", "withhold", "lease", "preferred", "renew", "rebind", "requests", "on"];
pub(super) const ON: [&str; 10] =
    ["pool", "send", "amend", "boot", "fqdn", "withhold", "lease", "preferred", "renew", "rebind"];
pub(super) const RESERVATION: [&str; 15] = [
    "network",
    "mac",
    "client-id",
    "duid",
    "address",
    "address-v6",
    "name",
    "send",
    "amend",
    "boot",
    "fqdn",
    "withhold",
    "circuit-id",
    "remote-id",
    "delegated",
];
impl<'s> PlanReader<'s> {
    pub(super) fn fleets(&mut self, table: &Table<'s>, networks: &Networks<'_>) -> Vec<Fleet> {
        let named = table.get("fleet").and_then(|node| self.reader.table(node, "fleet"));
        let mut fleets = Vec::new();
        for (name, node) in named.into_iter().flatten() {
            let spot = self.reader.spot(name.span());
            if let Some(inner) = self.reader.table(node, &format!("fleet.{}", heading::key(name.get_ref()))) {
                fleets.extend(self.fleet(name.get_ref(), spot, inner, networks));
            }
        }
        fleets
    }

    /// A fleet; `None` when nothing says what it is recognised by, which is a finding.
    fn fleet(&mut self, name: &str, spot: Spot, table: &Table<'s>, networks: &Networks<'_>) -> Option<Fleet> {
        self.reader.called = heading::key(name);
        self.reader.only(table, &FLEET, "a fleet");
        self.reader.called.clear();
        let recognised = match table.get("match") {
            Some(node) => self.recognised(node),
            None => {
                self.reader.missing(spot.span.clone(), "match", "{ vendor-class = \"…*\" }");
                None
            }
        };
        let requests = table.get("requests").map(|node| self.codes(node, "requests", Protocol::V4));
        let mut on = Vec::new();
        let places = table.get("on").and_then(|node| self.reader.table(node, "on"));
        for (network, node) in places.into_iter().flatten() {
            let at = self.reader.spot(network.span());
            let Some(inner) = self.reader.table(node, &format!("on.{}", network.get_ref())) else { continue };
            let Some(index) = self.network_named(network.get_ref(), &at, networks) else { continue };
            self.reader.only(inner, &ON, "a fleet on a network");
            let layer = self.layer(inner, format!("fleet {name} on {}", network.get_ref()));
            on.push(FleetOn { network: index, spot: at, pools: self.pools(inner, "pool"), layer });
        }
        on.sort_by_key(|on| on.network);
        let layer = self.layer(table, format!("fleet {name}"));
        Some(Fleet { name: name.to_owned(), spot, recognised: recognised?, layer, requests, on })
    }

    /// The network of this name.
    pub(super) fn network_named(&mut self, name: &str, spot: &Spot, networks: &Networks<'_>) -> Option<usize> {
        let at = networks.named(name);
        if at.is_none() {
            let known: Vec<&str> = networks.all.iter().map(|network| network.name.as_str()).collect();
            let finding =
                crate::document::VALUE_WRONG_KIND.finding(format!("unknown network `{name}`")).at(spot.clone());
            self.reader.findings.push(match nearest::nearest(name, known.iter().copied()) {
                Some(near) => finding.replace(near),
                None if known.is_empty() => finding,
                None => finding.advice(format!("one of {}", nearest::some_of(known))),
            });
        }
        at
    }

    /// A table of facts, all of which must hold, with `all`, `any` and `none` for more.
    fn recognised(&mut self, node: &Node<'s>) -> Option<Match> {
        let table = self.reader.table(node, "match")?;
        let (mut all, mut whole) = (Vec::new(), true);
        for (key, node) in table {
            let spot = self.reader.spot(key.span());
            match key.get_ref().as_ref() {
                "all" => all.push(Match::All(self.matches(node))),
                "any" => all.push(Match::Any(self.matches(node))),
                "none" => all.push(Match::None(self.matches(node))),
                name => match self.fact(name, &spot, node) {
                    Some(fact) => all.push(fact),
                    None => whole = false,
                },
            }
        }
        if !whole {
            return None;
        }
        Some(if all.len() == 1 { all.remove(0) } else { Match::All(all) })
    }

    fn matches(&mut self, node: &Node<'s>) -> Vec<Match> {
        match node.get_ref().as_array() {
            Some(items) => items.iter().filter_map(|item| self.recognised(item)).collect(),
            None => self.recognised(node).into_iter().collect(),
        }
    }

    fn fact(&mut self, name: &str, spot: &Spot, node: &Node<'s>) -> Option<Match> {
        let fact = match Fact::KEYS.into_iter().find(|(key, _)| *key == name) {
            Some((_, fact)) => fact,
            None => Fact::Option(self.option(name, Protocol::V4, spot)?),
        };
        let items: Vec<&Node<'s>> =
            node.get_ref().as_array().map_or_else(|| vec![node], |items| items.iter().collect());
        let mut patterns = Vec::new();
        for item in &items {
            let text = match self.reader.written(item).kind {
                InputKind::Text { text, .. } => text,
                InputKind::Integer(number) => number.to_string(),
                InputKind::Bool(on) => on.to_string(),
                _ => {
                    let message = format!("`{name}` is matched with text in quotes, not {}", kind(item));
                    self.reader.wrong_kind(item.span(), message);
                    continue;
                }
            };
            match self.spelled(&fact, text).and_then(|text| Pattern::parse(&text, &fact)) {
                Ok(pattern) => patterns.push(pattern),
                Err(why) => self.reader.wrong_kind(item.span(), why),
            }
        }
        let unread = patterns.len() < items.len();
        (!unread).then(|| Match::Sends { fact, patterns, spot: self.reader.spot(node.span()) })
    }

    /// A pattern as what clients send is spelled: an architecture by its name, where it has one.
    fn spelled(&self, fact: &Fact, text: String) -> Result<String, String> {
        let signs = text.contains(['*', '?']);
        let number = text.parse::<i128>();
        match fact {
            Fact::Architecture if !signs => {
                let names = self.codebook.enumeration("architecture");
                let name = |number: u64| Some(names.as_ref()?.name_of(number)?.to_owned());
                match number.map(u16::try_from) {
                    Ok(Ok(number)) => Ok(name(number.into()).unwrap_or(text)),
                    Ok(Err(_)) => {
                        Err(format!("`{text}` is no architecture; these are numbers from 0 to 65535, or names"))
                    }
                    Err(_) if names.as_ref().is_some_and(|names| names.number_of(&text).is_some()) => Ok(text),
                    Err(_) => {
                        let known = names.iter().flat_map(|names| names.members.iter().map(|(_, name)| &**name));
                        Err(format!("unknown architecture `{text}`{}", nearest::hint(&text, known)))
                    }
                }
            }
            Fact::Enterprise if !signs && number.as_ref().map_or(true, |number| u32::try_from(*number).is_err()) => {
                Err(format!("`{text}` is no enterprise number; these are numbers from 0 to {}", u32::MAX))
            }
            _ => Ok(text),
        }
    }

    /// Codes and names of options.
    pub(crate) fn codes(&mut self, node: &Node<'s>, key: &str, protocol: Protocol) -> Vec<u16> {
        let most = if protocol == Protocol::V4 { u8::MAX.into() } else { i128::from(u16::MAX) };
        let InputKind::List(items) = self.reader.written(node).kind else {
            self.reader.wrong_kind(node.span(), format!("`{key}` is a list of codes and names of options"));
            return Vec::new();
        };
        let mut codes = Vec::new();
        for item in items {
            match item.kind {
                InputKind::Integer(code) if (0..=most).contains(&code) => codes.push(code as u16),
                InputKind::Text { text, .. } => {
                    let spot = self.reader.spot(item.span);
                    codes.extend(self.option(&text, protocol, &spot).map(|definition| definition.code));
                }
                _ => {
                    let message = format!("a requested option is a code up to {most}, or a name");
                    self.reader.wrong_kind(item.span, message);
                }
            }
        }
        codes
    }

    pub(super) fn reservations(&mut self, table: &Table<'s>, networks: &Networks<'_>) -> Rows {
        let mut reservations = Vec::new();
        for (table, span) in self.reader.tables(table, "reservation") {
            self.reader.only(table, &RESERVATION, "a reservation");
            let network = self.reader.text(table, "network").map(|(name, spot)| (name.to_owned(), spot));
            if network.is_none() {
                self.reader.missing(span.clone(), "network", &quoted_first(networks));
            }
            let Some((name, spot)) = network else { continue };
            let Some(network) = self.network_named(&name, &spot, networks) else { continue };
            let Some((client, client_spot)) = self.client_key(table, &span) else { continue };
            let address = self.reader.parsed(table, "address", Ipv4Addr::parse);
            let address = address.map(|(address, spot)| (address, spot.span));
            let ipv6_address = self.reader.parsed(table, "address-v6", Ipv6Addr::parse);
            let ipv6_address = ipv6_address.map(|(address, spot)| (address, spot.span));
            let name = self.reader.text(table, "name").map(|(name, spot)| (name, spot.span));
            let layer = Some(self.layer(table, String::new())).filter(|layer| !layer.is_empty());
            let delegated = self.reader.parsed(table, "delegated", Net::parse).map(|(net, spot)| (net, spot.span));
            let row = Reservation::new(network, client, client_spot).with((address, ipv6_address), name, layer);
            reservations.push(row.delegating(delegated));
        }
        let mut rows = Rows::default();
        rows.add(reservations);
        rows
    }

    fn client_key(&mut self, table: &Table<'s>, span: &std::ops::Range<usize>) -> Option<(ClientKey, Spot)> {
        let mac = self.reader.parsed(table, "mac", str::parse).map(|(mac, spot)| (ClientKey::Mac(mac), spot.span));
        let id =
            self.reader.parsed(table, "client-id", client_id).map(|(id, spot)| (ClientKey::ClientId(id), spot.span));
        let duid = self.reader.parsed(table, "duid", str::parse).map(|(duid, spot)| (ClientKey::Duid(duid), spot.span));
        let mut relayed = |key: &str, of: fn(Box<[u8]>) -> ClientKey| {
            let read = self.reader.parsed(table, key, super::facts::identifier);
            read.map(|(octets, spot)| (of(octets.into()), spot.span))
        };
        let circuit = relayed("circuit-id", ClientKey::CircuitId);
        let remote = relayed("remote-id", ClientKey::RemoteId);
        let keys = mac.into_iter().chain(id).chain(duid).chain(circuit).chain(remote);
        let (client, ignored) = counting(keys.collect());
        for (message, span) in ignored {
            let finding = RESERVATION_KEY_IGNORED.finding(message).at(self.reader.spot(span));
            self.reader.findings.push(finding);
        }
        if client.is_none()
            && !["mac", "client-id", "duid", "circuit-id", "remote-id"].iter().any(|key| table.contains_key(*key))
        {
            self.reader.missing(span.clone(), "mac", "\"…\"");
        }
        client.map(|(client, span)| (client, self.reader.spot(span)))
    }
}

rule! {
    /// a reservation names its client in several ways, of which one counts
    ///
    /// An identifier counts before a hardware address (RFC 2131, section 4.2), and a DUID before both. What is ignored is never
    /// compared with what the client sends.
    pub(crate) static RESERVATION_KEY_IGNORED = "reservation-key-ignored", Warning, File, "RFC 2131, section 4.2";
    Example::Plan("[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n\
         [network.control-room]\nsubnet = \"10.64.4.0/23\"\n[network.control-room.send.v4]\nrouter = \"10.64.4.1\"\n\
         [[reservation]]\nnetwork = \"control-room\"\nmac = \"02:00:5e:00:53:11\"\nclient-id = \"01:02\"\naddress = \"10.64.4.11\"\n")
}

/// A client by a key, and where that is written.
pub(super) type Keyed = (ClientKey, std::ops::Range<usize>);

/// Of several keys of one client the one that counts, and of the others what to say.
pub(super) fn counting(mut keys: Vec<Keyed>) -> (Option<Keyed>, Vec<(String, std::ops::Range<usize>)>) {
    if keys.len() < 2 {
        return (keys.pop(), Vec::new());
    }
    let rank = |key: &ClientKey| match key {
        ClientKey::Mac(_) => (2, "mac"),
        ClientKey::ClientId(_) => (3, "client-id"),
        ClientKey::Duid(_) => (4, "duid"),
        ClientKey::CircuitId(_) => (0, "circuit-id"),
        ClientKey::RemoteId(_) => (1, "remote-id"),
    };
    keys.sort_by_key(|(key, _)| rank(key).0);
    let counts = keys.pop();
    let by = counts.as_ref().map_or("", |(key, _)| rank(key).1);
    let ignored = keys.into_iter().map(|(key, span)| (format!("`{}` is ignored beside `{by}`", rank(&key).1), span));
    (counts, ignored.collect())
}

/// The name of some network of the plan, in quotes.
pub(super) fn quoted_first(networks: &Networks<'_>) -> String {
    let name = networks.all.first().map_or("…", |network| network.name.as_str());
    format!("\"{name}\"")
}

impl Layer {
    /// Whether it says nothing.
    pub(super) fn is_empty(&self) -> bool {
        self.sends.iter().all(Vec::is_empty)
            && self.amends.iter().all(Vec::is_empty)
            && self.boot.entries.is_empty()
            && self.boot.withheld.is_empty()
            && self.fqdn.is_none()
            && self.withheld.is_empty()
            && self.times.named().iter().all(|(_, time)| time.is_none())
    }
}
