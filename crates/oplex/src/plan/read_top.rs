//! Reading what stands at the top of a plan beside its layers: servers, tables of reservations, and what is allowed.

use std::net::{Ipv4Addr, Ipv6Addr};

use super::read_advertise::items;
use super::{Allowed, Fleet, Network, PlanReader, Server};
use crate::document::{Node, Table, kind};
use crate::family::Address;
use crate::finding::Spot;

pub(super) const SERVER: [&str; 3] = ["address", "address-v6", "duid"];
pub(super) const ALLOW: [&str; 4] = ["rule", "reason", "network", "fleet"];
pub(super) const RESERVATIONS: [&str; 2] = ["file", "ignore"];

impl<'s> PlanReader<'s> {
    /// The servers of a plan with several, as `servers` lists them.
    pub(super) fn servers(&mut self, table: &Table<'s>) -> Vec<Server> {
        let Some(node) = table.get("servers") else { return Vec::new() };
        for key in ["server", "server-v6", "server-duid"] {
            if let Some((beside, _)) = table.get_key_value(key) {
                self.reader.wrong_kind(beside.span(), format!("`{key}` and `servers` say the same; write one of them"));
            }
        }
        let Some(tables) = self.reader.table_or_tables(node, "servers") else { return Vec::new() };
        let servers = tables.into_iter().map(|one| {
            self.reader.only(one, &SERVER, "a server");
            Server {
                v4: self.reader.parsed(one, "address", Ipv4Addr::parse),
                duid: self.reader.parsed(one, "duid", str::parse).map(|(duid, _)| duid),
                v6: self.reader.parsed(one, "address-v6", Ipv6Addr::parse),
            }
        });
        servers.collect()
    }

    /// The tables of reservations: each a path, or a table with its `file` and the columns to `ignore`.
    pub(super) fn reservation_files<'d>(&mut self, table: &'d Table<'s>) -> Vec<(&'d str, Spot, Vec<String>)> {
        let mut files = Vec::new();
        for item in items(table, "reservations") {
            let Some(own) = item.get_ref().as_table() else {
                match item.get_ref().as_str() {
                    Some(path) => files.push((path, self.reader.spot(item.span()), Vec::new())),
                    None => {
                        let message = format!("`reservations` is the path of a table in quotes, not {}", kind(item));
                        self.reader.wrong_kind(item.span(), message);
                    }
                }
                continue;
            };
            self.reader.only(own, &RESERVATIONS, "`reservations`");
            let ignored =
                self.reader.texts(own, "ignore").into_iter().map(|(name, _)| name.to_ascii_lowercase()).collect();
            match self.reader.text(own, "file") {
                Some((path, spot)) => files.push((path, spot, ignored)),
                None => self.reader.missing(item.span(), "file", "\"reservations.csv\""),
            }
        }
        files
    }

    /// The rules that the plan does not want to hear of.
    pub(super) fn allowed(&mut self, table: &Table<'s>, networks: &[Network], fleets: &[Fleet]) -> Vec<Allowed> {
        let Some(check) = table.get("check").and_then(|node| self.reader.table(node, "check")) else {
            return Vec::new();
        };
        self.reader.only(check, &["allow"], "check");
        items(check, "allow").into_iter().filter_map(|node| self.one_allowed(node, networks, fleets)).collect()
    }

    /// The name of a rule, or a table with its `rule`, where it is allowed, and why.
    fn one_allowed(&mut self, node: &Node<'s>, networks: &[Network], fleets: &[Fleet]) -> Option<Allowed> {
        let Some(own) = node.get_ref().as_table() else {
            let Some(rule) = node.get_ref().as_str() else {
                self.reader
                    .wrong_kind(node.span(), format!("`allow` holds names of rules in quotes, not {}", kind(node)));
                return None;
            };
            let spot = self.reader.spot(node.span());
            return Some(Allowed { rule: rule.to_owned(), spot, reason: None, network: None, fleet: None });
        };
        self.reader.only(own, &ALLOW, "an allowed rule");
        let Some((rule, spot)) = self.reader.text(own, "rule") else {
            self.reader.missing(node.span(), "rule", "\"reservation-in-pool\"");
            return None;
        };
        let mut named = |key: &str, names: Vec<&str>| {
            let Some((name, at)) = self.reader.text(own, key) else { return Some(None) };
            let found = names.iter().position(|known| *known == name);
            if found.is_none() {
                self.reader.wrong_kind(at.span, format!("unknown {key} `{name}`"));
            }
            found.map(Some)
        };
        let network = named("network", networks.iter().map(|network| network.name.as_str()).collect())?;
        let fleet = named("fleet", fleets.iter().map(|fleet| fleet.name.as_str()).collect())?;
        let reason = self.reader.text(own, "reason").map(|(reason, _)| reason.to_owned());
        Some(Allowed { rule: rule.to_owned(), spot, reason, network, fleet })
    }
}
