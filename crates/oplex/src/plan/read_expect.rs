//! Reading what the author of a plan expects.

use super::{Expect, Networks, PlanReader, read_fleets::quoted_first};
use crate::document::Table;
use crate::family::{Both, Family, Net, Protocol};

pub(super) const EXPECT: [&str; 8] = ["client", "address", "lease", "delegated", "sent", "not-sent", "fleets", "title"];
pub(super) const CLIENT: [&str; 15] = [
    "network",
    "mac",
    "vendor-class",
    "user-class",
    "arch",
    "hostname",
    "fqdn",
    "client-id",
    "duid",
    "enterprise",
    "circuit-id",
    "remote-id",
    "wants",
    "max-size",
    "leased",
];

impl<'s> PlanReader<'s> {
    pub(super) fn expectations(&mut self, table: &Table<'s>, networks: &Networks<'_>) -> Vec<Expect> {
        let mut expectations = Vec::new();
        for (table, span) in self.reader.tables(table, "expect") {
            self.reader.only(table, &EXPECT, "an expectation");
            let Some(client) = table.get("client").and_then(|node| self.reader.table(node, "client")) else {
                self.reader.missing(
                    span,
                    "client",
                    &format!("{{ network = {}, mac = \"…\" }}", quoted_first(networks)),
                );
                continue;
            };
            let Some(mut client) = self.client(client, &span, networks) else { continue };
            let wanted = table.get("sent").and_then(|node| self.reader.table(node, "sent"));
            let mut sent = Both::<Vec<_>>::default();
            for (key, node) in wanted.into_iter().flatten() {
                // `sent.v6."tern:ring"`, as in `send`: a vendor's option may travel in both families.
                if let Some(family) = Family::ALL.into_iter().find(|family| family.name() == key.get_ref()) {
                    let options = self.reader.table(node, &format!("sent.{}", family.name()));
                    options
                        .into_iter()
                        .flatten()
                        .for_each(|(key, node)| self.add_option(key, node, family.protocol(), &mut sent[family]));
                    continue;
                }
                let family = self.family_of(key.get_ref(), networks.all[client.network].sides.has(Family::V4));
                self.add_option(key, node, family.protocol(), &mut sent[family]);
            }
            let lease = self.duration(table, "lease");
            let delegated = self.reader.parsed(table, "delegated", Net::parse);
            client.delegation |= delegated.is_some();
            let not_sent = self.reader.texts(table, "not-sent");
            let not_sent =
                not_sent.into_iter().filter_map(|(query, spot)| Some((self.option(query, Protocol::V4, &spot)?, spot)));
            let not_sent = not_sent.collect();
            let address = self.pools(table, "address");
            let fleets = table.contains_key("fleets").then(|| {
                let names = self.reader.texts(table, "fleets").into_iter();
                names.map(|(name, spot)| (name.to_owned(), spot)).collect()
            });
            let title = self.reader.text(table, "title").map(|(title, _)| title.to_owned());
            let spot = self.reader.spot(span);
            expectations.push(Expect { title, spot, client, address, lease, delegated, sent, not_sent, fleets });
        }
        expectations
    }

    /// The family in which an option is expected: its own; of a vendor's that travels in both DHCPv4's where there is DHCPv4.
    fn family_of(&self, query: &str, has_v4: bool) -> Family {
        let (prefix, _) = query.split_once(':').unwrap_or(("v4", query));
        let travels = |family: Family| {
            let known = self.codebook.find_exact(query);
            known.is_some_and(|definition| definition.travels_in(family.protocol()))
        };
        match prefix {
            "v6" => Family::V6,
            "v4" => Family::V4,
            _ if travels(Family::V6) && !(has_v4 && travels(Family::V4)) => Family::V6,
            _ => Family::V4,
        }
    }

    /// A client as it is described.
    fn client(
        &mut self,
        table: &Table<'s>,
        span: &std::ops::Range<usize>,
        networks: &Networks<'_>,
    ) -> Option<super::ClientFacts> {
        self.reader.only(table, &CLIENT, "a client");
        let Some((name, spot)) = self.reader.text(table, "network").map(|(name, spot)| (name.to_owned(), spot)) else {
            self.reader.missing(span.clone(), "network", &quoted_first(networks));
            return None;
        };
        let mut facts = super::ClientFacts::on(self.network_named(&name, &spot, networks)?);
        if let Some((mac, _)) = self.reader.parsed(table, "mac", str::parse) {
            facts.mac = Some(mac);
        }
        for key in super::ClientFacts::KEYS {
            let at = self.reader.text(table, key).map(|(text, spot)| (text.to_owned(), spot));
            if let Some((text, spot)) = at
                && let Err(why) = facts.describe(&self.codebook, key, &text)
            {
                self.reader.wrong_kind(spot.span, why);
            }
        }
        facts.wants.v4 = table.get("wants").map(|node| self.codes(node, "wants", Protocol::V4));
        facts.max_size = self.reader.number(table, "max-size", u16::MAX.into()).map(|(size, _)| size as u16);
        facts.leased = self.reader.number(table, "leased", u32::MAX.into()).map_or(0, |(leased, _)| leased as u32);
        Some(facts)
    }
}
