//! Reading where clients boot from, and what a layer changes in the options of wider layers.

use std::net::Ipv4Addr;

use super::{Amendment, Boot, BootEntry, BootKey, PlanReader, Sent};
use crate::document::{Node, Table, kind};
use crate::family::{Both, Family, Protocol};
use crate::finding::Spot;
use crate::nearest;

impl<'s> PlanReader<'s> {
    /// What a layer says under `boot`, and which keys of it its `withhold` takes away.
    pub(super) fn boot(&mut self, table: &Table<'s>) -> Boot {
        let mut boot = Boot { withheld: self.boot_withheld(table), ..Boot::default() };
        let Some(own) = table.get("boot").and_then(|node| self.reader.table(node, "boot")) else { return boot };
        self.reader.only(own, &BootKey::ALL.map(BootKey::name), "`boot`");
        for (key, node) in own {
            let Some(known) = BootKey::ALL.into_iter().find(|known| *known.name() == **key.get_ref()) else { continue };
            let spot = self.reader.spot(key.span());
            boot.entries.extend(self.boot_entry(known, spot, node));
        }
        boot.entries.sort_by_key(|entry| entry.key as u8);
        boot
    }

    fn boot_entry(&mut self, key: BootKey, key_spot: Spot, node: &Node<'s>) -> Option<BootEntry> {
        let first = node.get_ref().as_array().filter(|_| key == BootKey::Params).map_or(Some(node), |all| all.first());
        let Some(text) = first.and_then(|first| first.get_ref().as_str()) else {
            let wanted = if key == BootKey::Params { "a list of texts in quotes" } else { "text in quotes" };
            self.reader.wrong_kind(node.span(), format!("`{}` is {wanted}, not {}", key.name(), kind(node)));
            return None;
        };
        let is_address = text.parse::<Ipv4Addr>().is_ok();
        let (protocol, code) = match key {
            BootKey::Server if is_address => (Protocol::V4, 150),
            BootKey::Server | BootKey::Host => (Protocol::V4, 66),
            BootKey::File => (Protocol::V4, 67),
            BootKey::Url => (Protocol::V6, 59),
            BootKey::Params => (Protocol::V6, 60),
        };
        let definition = self.option(&code.to_string(), protocol, &key_spot)?;
        let outcome = self.codebook.encode(&definition, &self.reader.written(node));
        let sent = Sent { definition, key: key_spot, spot: self.reader.spot(node.span()), outcome };
        Some(BootEntry { key, text: text.to_owned(), sent })
    }

    /// `withhold = ["boot.file"]`
    fn boot_withheld(&mut self, table: &Table<'s>) -> Vec<(BootKey, Spot)> {
        let mut withheld = Vec::new();
        for (query, spot) in self.reader.texts(table, "withhold") {
            let Some(key) = query.strip_prefix("boot.") else { continue };
            match BootKey::ALL.into_iter().find(|known| known.name() == key) {
                Some(key) => withheld.push((key, spot)),
                None => {
                    let hint = nearest::hint(key, BootKey::ALL.map(BootKey::name));
                    self.reader.wrong_kind(spot.span, format!("`boot` has no key `{key}`{hint}"));
                }
            }
        }
        withheld
    }

    /// `amend.v4."tern:settings" = { SERVER = "…" }`
    pub(super) fn amends(&mut self, table: &Table<'s>, sends: &Both<Vec<Sent>>) -> Both<Vec<Amendment>> {
        let Some(amend) = table.get("amend").and_then(|node| self.reader.table(node, "amend")) else {
            return Both::default();
        };
        self.reader.only(amend, &Family::ALL.map(Family::name), "amend");
        Both::new(|family| {
            let key = family.name();
            let options = amend.get(key).and_then(|node| self.reader.table(node, &format!("amend.{key}")));
            let amendments = options.into_iter().flatten();
            amendments.filter_map(|(name, node)| self.amendment(name, node, family, &sends[family])).collect()
        })
    }

    fn amendment(
        &mut self,
        name: &crate::document::Name<'s>,
        node: &Node<'s>,
        family: Family,
        sends: &[Sent],
    ) -> Option<Amendment> {
        let key = self.reader.spot(name.span());
        let definition = self.option(name.get_ref(), family.protocol(), &key)?;
        if let Some(beside) = sends.iter().find(|sent| sent.definition.is_same(&definition)) {
            let message = format!("{} is sent and changed on one layer", definition.label());
            let finding = super::AMEND_WITHOUT_EFFECT.finding(message).at(key);
            let finding = finding.related(beside.key.clone(), "sent here");
            self.reader.findings.push(finding.advice("the changes in the value that is sent"));
            return None;
        }
        let outcome = self.codebook.layout(&definition).read_edits(&self.codebook, &self.reader.written(node));
        Some(Amendment { definition, key, spot: self.reader.spot(node.span()), outcome })
    }
}
