//! From the options that a plan's layer sends to their definitions and octets.

use std::sync::Arc;

use super::Sent;
use super::read::PlanReader;
use crate::codebook::Definition;
use crate::document::{Name, Node, Table, VALUE_WRONG_KIND};
use crate::family::{Both, Family, Protocol};
use crate::finding::{Example, Finding, Spot, rule};
use crate::words;

rule! {
    /// an option that no codebook defines
    ///
    /// Without a definition the intended octets cannot be determined.
    pub static UNKNOWN_OPTION = "unknown-option", Error, File, "";
    Example::Plan("[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\nntp-servrs = \"10.64.0.123\"\n\
         [network.control-room]\nsubnet = \"10.64.4.0/23\"\n[network.control-room.send.v4]\nrouter = \"10.64.4.1\"\n")
}

rule! {
    /// an option of one protocol (DHCPv4, DHCPv6, router advertisements) among those of another
    ///
    /// The same code means different things in each protocol, and the option would never be sent.
    pub static OPTION_OF_OTHER_FAMILY = "option-of-other-family", Error, File, "";
    Example::Plan("[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n\"v6:dns-servers\" = \"2001:db8:64::53\"\n\
         [network.control-room]\nsubnet = \"10.64.4.0/23\"\n[network.control-room.send.v4]\nrouter = \"10.64.4.1\"\n")
}

impl<'s> PlanReader<'s> {
    /// What it sends, by DHCPv4 and by DHCPv6.
    pub(super) fn sends(&mut self, table: &Table<'s>) -> Both<Vec<Sent>> {
        let Some(send) = table.get("send").and_then(|node| self.reader.table(node, "send")) else {
            return Both::default();
        };
        self.reader.only(send, &Family::ALL.map(Family::name), "send");
        Both::new(|family| {
            let key = family.name();
            let options = send.get(key).and_then(|node| self.reader.table(node, &format!("send.{key}")));
            options.map(|options| self.options(options, family.protocol())).unwrap_or_default()
        })
    }

    /// Options by name or id, with their values.
    pub(crate) fn options(&mut self, options: &Table<'s>, protocol: Protocol) -> Vec<Sent> {
        let mut sends: Vec<Sent> = Vec::new();
        for (key, node) in options {
            self.add_option(key, node, protocol, &mut sends);
        }
        sends
    }

    /// One option, behind those that stand before it.
    pub(super) fn add_option(&mut self, key: &Name<'s>, node: &Node<'s>, protocol: Protocol, sends: &mut Vec<Sent>) {
        let spot = self.reader.spot(key.span());
        let Some(definition) = self.option(key.get_ref(), protocol, &spot) else { return };
        if !definition.travels_in(protocol) {
            let message = format!("{} cannot be sent by {protocol}", definition.label());
            self.reader.findings.push(OPTION_OF_OTHER_FAMILY.finding(message).at(spot));
            return;
        }
        if let Some(earlier) = sends.iter().find(|sent| Arc::ptr_eq(&sent.definition, &definition)) {
            let message = format!("{} is sent twice here, under two names", definition.label());
            self.reader
                .findings
                .push(VALUE_WRONG_KIND.finding(message).at(spot).related(earlier.key.clone(), "first here"));
            return;
        }
        // Of an option that may stand several times a list of values is one for each.
        let several = node.get_ref().as_array().filter(|items| definition.several && !items.is_empty());
        let instances: Vec<&Node<'s>> = several.map_or_else(|| vec![node], |items| items.iter().collect());
        for instance in instances {
            let outcome = self.codebook.encode(&definition, &self.reader.written(instance));
            let at = self.reader.spot(instance.span());
            sends.push(Sent { definition: Arc::clone(&definition), key: spot.clone(), spot: at, outcome });
        }
    }

    /// The option of this name or id; names without a prefix are the protocol's own.
    pub(crate) fn option(&mut self, query: &str, protocol: Protocol, spot: &Spot) -> Option<Arc<Definition>> {
        let family = protocol.name();
        let full = if query.contains(':') { query.to_owned() } else { format!("{family}:{query}") };
        if let Some(definition) = self.known.get(&full) {
            return Some(definition.clone());
        }
        match self.codebook.find(&full) {
            Ok(definition) => {
                self.known.insert(full, definition.clone());
                Some(definition.clone())
            }
            Err(unknown) => {
                let finding: Finding = UNKNOWN_OPTION.finding(format!("unknown option `{query}`")).at(spot.clone());
                let elsewhere = || self.in_another(query, protocol);
                self.reader.findings.push(if let Some(instead) = words::instead(family, query) {
                    instead.offered(finding, "")
                } else if let Some((same, definition)) = elsewhere() {
                    match same {
                        Some(own) => finding.replace(own),
                        None => {
                            let label = definition.label();
                            finding.advice(format!(
                                "{label} is no option of {protocol}; it can only be sent in [send.{}]",
                                definition.prefix().trim_end_matches(':')
                            ))
                        }
                    }
                } else {
                    // Of vendors' books those that are spelt alike are meant; of the others' options none is.
                    let near = unknown.near.and_then(|near| match query.contains(':') {
                        true => Some(near),
                        false => near.strip_prefix(family)?.strip_prefix(':').map(str::to_owned),
                    });
                    match near {
                        Some(near) => finding.replace(near),
                        None => finding.advice("a name known to `oplex lookup`, or a definition in a codebook"),
                    }
                });
                None
            }
        }
    }

    /// The option that another protocol calls so, and what the same thing is called in this one.
    fn in_another(&self, query: &str, protocol: Protocol) -> Option<(Option<String>, Arc<Definition>)> {
        let others = [Protocol::V4, Protocol::V6].into_iter().filter(|other| *other != protocol);
        let mut named = others.filter_map(|other| self.codebook.find_exact(&format!("{}:{query}", other.name())));
        let definition = named.next().filter(|_| query.parse::<u16>().is_err())?;
        let same = |own: &&Definition| own.is(&definition.id().to_string()) || definition.is(&own.id().to_string());
        let own = self.codebook.definitions().filter(|own| own.is_own_of(protocol)).find(same);
        Some((own.map(|own| own.name.to_string()), definition))
    }
}
