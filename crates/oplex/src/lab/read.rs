//! Files of clients.
//!
//! ```toml
//! [[clients]]
//! network = "control-room"
//! kind = "desktop"
//! count = 40
//! over = "30m"                # they are switched on within this time
//!
//! [[clients]]
//! network = "intercoms"
//! kind = "phone"
//! vendor-class = "Tern D2"    # in place of what the kind says
//!
//! [kind.turnstile]            # a kind of one's own
//! families = ["v4"]
//! requests = ["router", 6]
//! ```

use std::sync::Arc;
use std::time::Duration;

use super::Population;
use super::kind::{ClientKind, Presence};
use super::population::{Group, Macs};
use crate::compiled::Compiled;
use crate::document::{Table, VALUE_WRONG_KIND};
use crate::family::{Family, Protocol};
use crate::finding::{Finding, Sources, any_error};
use crate::nearest;
use crate::plan::{ClientFacts, PlanReader};

/// What may stand in a kind, besides what clients say of themselves.
const KIND: [&str; 13] = [
    "title",
    "families",
    "requests",
    "requests-v6",
    "max-size",
    "rapid",
    "delegation",
    "stateless",
    "broadcast",
    "renews",
    "releases",
    "on",
    "every",
];

/// What may stand in a group besides.
const GROUP: [&str; 5] = ["network", "kind", "count", "starts", "over"];

/// Clients as they were written down, and what is wrong with that.
#[derive(Debug, Clone)]
pub struct Clients {
    /// The file.
    pub sources: Sources,
    /// The clients; `None` where something is wrong.
    pub population: Option<Population>,
    /// What is wrong.
    pub findings: Vec<Finding>,
}

impl Clients {
    /// Reads a file of clients on the networks of a plan or release.
    #[must_use]
    pub fn read(compiled: &Compiled<'_>, name: &str, text: &str) -> Self {
        let mut sources = Sources::default();
        let mut reader = PlanReader::new(sources.add(name, text), text);
        reader.codebook = compiled.codebook.clone().into_owned();
        let population = reader.reader.parse().map(|table| population(&mut reader, &table, compiled));
        let findings = reader.reader.findings.into_vec();
        let population = population.filter(|_| !any_error(&findings));
        Self { sources, population, findings }
    }
}

/// A kind as a file of its own, which ships and has nothing wrong.
pub(super) fn kind(name: &str, text: &str) -> Option<ClientKind> {
    let mut sources = Sources::default();
    let mut reader = PlanReader::new(sources.add(name, text), text);
    let table = reader.reader.parse()?;
    let kind = described(&mut reader, &table, ClientKind::new(name), &["hostile"]);
    reader.reader.findings.is_empty().then_some(kind)
}

/// The kind that a table makes of another.
fn described<'s>(reader: &mut PlanReader<'s>, table: &Table<'s>, mut kind: ClientKind, besides: &[&str]) -> ClientKind {
    let known: Vec<&str> = KIND.iter().chain(&ClientFacts::KEYS).chain(besides).copied().collect();
    reader.reader.only(table, &known, "clients of a lab");
    if let Some((title, _)) = reader.reader.text(table, "title") {
        title.clone_into(&mut kind.title);
    }
    if table.contains_key("families") {
        let named = reader.reader.texts(table, "families");
        for family in Family::ALL {
            kind.families[family] = named.iter().any(|(name, _)| *name == family.name());
        }
        for (name, spot) in named.into_iter().filter(|(name, _)| Family::ALL.iter().all(|known| known.name() != *name))
        {
            reader.reader.wrong_kind(spot.span, format!("`{name}` is no family: `v4` or `v6`"));
        }
    }
    for key in ClientFacts::KEYS {
        let Some((text, spot)) = reader.reader.text(table, key).map(|(text, spot)| (text.to_owned(), spot)) else {
            continue;
        };
        if let Err(why) = ClientFacts::default().describe(&reader.codebook, key, &text.replace("{n}", "1")) {
            reader.reader.wrong_kind(spot.span, why);
        }
        kind.says.retain(|(said, _)| said != key);
        kind.says.push((key.to_owned(), text));
    }
    for (family, key, protocol) in [(Family::V4, "requests", Protocol::V4), (Family::V6, "requests-v6", Protocol::V6)] {
        if let Some(node) = table.get(key) {
            kind.requests[family] = Some(reader.codes(node, key, protocol));
        }
    }
    let size = reader.reader.number(table, "max-size", u16::MAX.into());
    kind.max_size = size.map(|(size, _)| size as u16).or(kind.max_size);
    for (key, flag) in [
        ("rapid", &mut kind.rapid),
        ("delegation", &mut kind.delegation),
        ("stateless", &mut kind.stateless),
        ("broadcast", &mut kind.broadcast),
        ("renews", &mut kind.renews),
        ("releases", &mut kind.releases),
        ("hostile", &mut kind.hostile),
    ] {
        if table.contains_key(key) {
            *flag = reader.reader.flag(table, key);
        }
    }
    presence(reader, table, &mut kind);
    kind
}

/// For how long of which time it is on.
fn presence<'s>(reader: &mut PlanReader<'s>, table: &Table<'s>, kind: &mut ClientKind) {
    let seconds = |(seconds, _): (u32, _)| Duration::from_secs(seconds.into());
    let (on, every) = (reader.duration(table, "on"), reader.duration(table, "every"));
    let spot = on.as_ref().or(every.as_ref()).map(|(_, spot)| spot.clone());
    let known = kind.presence.map(|known| (known.on, known.every)).unzip();
    match (on.map(seconds).or(known.0), every.map(seconds).or(known.1)) {
        (None, None) => {}
        (Some(on), Some(every)) if !on.is_zero() && on < every => kind.presence = Some(Presence { on, every }),
        _ => {
            let message = "`on` and `every` stand together, and `on` is the shorter one";
            let finding = VALUE_WRONG_KIND.finding(message).advice("on = \"9h\" and every = \"24h\"");
            reader.reader.findings.push(spot.map_or(finding.clone(), |spot| finding.at(spot)));
        }
    }
}

fn population<'s>(reader: &mut PlanReader<'s>, table: &Table<'s>, compiled: &Compiled<'_>) -> Population {
    reader.reader.only(table, &["clients", "kind"], "a file of clients");
    let named: Vec<(String, Table<'s>)> = reader
        .reader
        .named_tables(table, "kind")
        .into_iter()
        .map(|(name, table)| (name.get_ref().to_string(), table.clone()))
        .collect();
    let mut own = Vec::new();
    for (name, table) in named {
        own.push(Arc::new(described(reader, &table, ClientKind::new(name), &["hostile"])));
    }
    let mut population = Population::default();
    let mut macs = Macs::new(compiled);
    let mut left = Population::MOST;
    for (table, span) in reader.reader.tables(table, "clients") {
        if let Some(group) = group(reader, table, span, compiled, (&own, &mut macs, left)) {
            left -= group.members.len();
            population.groups.push(group);
        }
    }
    population
}

fn group<'s>(
    reader: &mut PlanReader<'s>,
    table: &Table<'s>,
    span: std::ops::Range<usize>,
    compiled: &Compiled<'_>,
    (own, macs, left): (&[Arc<ClientKind>], &mut Macs, usize),
) -> Option<Group> {
    let name = reader.reader.text(table, "network").map(|(name, spot)| (name.to_owned(), spot));
    let Some((name, spot)) = name else {
        let first = compiled.networks.first().map_or("desk", |network| &network.name);
        reader.reader.missing(span.clone(), "network", &format!("{first:?}"));
        return None;
    };
    let names = || compiled.networks.iter().map(|network| &*network.name);
    let Some(network) = names().position(|known| known == name) else {
        unknown(reader, "network", &name, spot, names().collect());
        return None;
    };
    let kind = reader.reader.text(table, "kind").map(|(name, spot)| (name.to_owned(), spot));
    let Some((name, spot)) = kind else {
        reader.reader.missing(span.clone(), "kind", "\"desktop\"");
        return None;
    };
    let shipped = || ClientKind::named(&name).map(|kind| Arc::new(kind.clone()));
    let Some(kind) = own.iter().find(|kind| kind.name == name).cloned().or_else(shipped) else {
        let known =
            own.iter().map(|kind| &*kind.name).chain(ClientKind::shipped().iter().map(|kind| &*kind.name)).collect();
        unknown(reader, "kind", &name, spot, known);
        return None;
    };
    let count = reader.reader.number(table, "count", Population::MOST as i128).map_or(1, |(count, _)| count as u32);
    if count as usize > left {
        let most = Population::MOST;
        reader.reader.wrong_kind(span, format!("a lab has {most} clients at most; these {count} are too many"));
        return None;
    }
    let time =
        |found: Option<(u32, _)>| found.map_or(Duration::ZERO, |(seconds, _)| Duration::from_secs(seconds.into()));
    let (starts, over) = (time(reader.duration(table, "starts")), time(reader.duration(table, "over")));
    let kind = Arc::new(described(reader, table, (*kind).clone(), &GROUP));
    let mut members = Vec::new();
    for number in 0..count {
        // What it says was looked at already, but for how long it is with its number.
        let facts = kind.facts(&compiled.codebook, network, macs.next(), number + 1).ok()?;
        members.push((starts + over * number / count.max(1), facts));
    }
    Some(Group { name: kind.name.clone(), kind, network, members })
}

fn unknown(reader: &mut PlanReader<'_>, what: &str, name: &str, spot: crate::finding::Spot, known: Vec<&str>) {
    let finding = VALUE_WRONG_KIND.finding(format!("unknown {what} `{name}`")).at(spot);
    reader.reader.findings.push(match nearest::nearest(name, known.iter().copied()) {
        Some(near) => finding.replace(near),
        None => finding.advice(format!("one of {}", nearest::some_of(known.iter().copied()))),
    });
}
