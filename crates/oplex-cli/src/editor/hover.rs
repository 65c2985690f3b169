//! What stands under the pointer: an option with its octets, an address with who has it, a key, a network, a rule.

use std::net::IpAddr;
use std::ops::Range;

use oplex::check;
use oplex::codebook::{Codebook, Definition};
use oplex::compiled::{Compiled, Host};
use oplex::family::Address;
use oplex::finding::Spot;
use oplex::octets::hex;
use oplex::plan::{Loaded, Plan, Sent};

use super::documents::Document;
use super::outline::Piece;
use super::schema::Schema;
use super::table::{self, Named, Table};

/// No more octets of a value are shown.
const OCTETS: usize = 64;

/// What is to be said of an octet of the text, in Markdown, and of which characters.
pub(super) fn at(document: &Document, schema: &Schema, octet: usize) -> Option<(String, Range<usize>)> {
    let piece = document.outline.at(octet)?;
    let said = of_piece(document, schema, piece, octet)?;
    Some((said, piece.span.clone()))
}

fn of_piece(document: &Document, schema: &Schema, piece: &Piece, octet: usize) -> Option<String> {
    let loaded = document.loaded();
    let is_codebook = loaded.is_some_and(|loaded| loaded.is_codebook);
    let plan = loaded.and_then(|loaded| loaded.plan.as_ref()).filter(|_| !is_codebook);
    if let (Some(plan), Some(what)) = (plan, table::named(piece)) {
        return named(plan, what, &piece.text);
    }
    let address = (!piece.is_key).then(|| address_at(&document.text, octet)).flatten();
    let who = address.and_then(|address| Some(who_has(plan?, address)));
    let option = plan.and_then(|plan| option(document, loaded?, plan, piece));
    match (option, who) {
        (Some(option), Some(who)) => Some(format!("{who}\n\n---\n\n{option}")),
        (Some(said), None) | (None, Some(said)) => Some(said),
        (None, None) => plan.and_then(|_| rule(piece)).or_else(|| key(schema, piece, is_codebook)),
    }
}

/// The option whose name or value a piece is, or is a part of.
fn option(document: &Document, loaded: &Loaded, plan: &Plan, piece: &Piece) -> Option<String> {
    let definition = definition(&plan.codebook, piece)?;
    let mut text = described(&plan.codebook, definition);
    let current = document.checked.as_ref().is_some_and(|checked| checked.is_current && checked.loaded.plan.is_some());
    if let Some(sent) = sent(plan, document, loaded, piece).filter(|_| current) {
        text.push_str(&octets(sent));
    }
    Some(text)
}

/// The definition of the option that a piece is about.
pub(super) fn definition<'c>(codebook: &'c Codebook, piece: &Piece) -> Option<&'c Definition> {
    let (last, tables) = piece.path.split_last()?;
    let find = |protocol: Option<&str>, name: &str| {
        let prefixed = protocol.filter(|_| !name.contains(':')).map(|protocol| format!("{protocol}:{name}"));
        codebook.find(prefixed.as_deref().unwrap_or(name)).ok().map(|found| &**found)
    };
    let of_table = |tables: &[String], name: &str| match table::of_plan(tables).0 {
        Table::Options(protocol) => find(Some(protocol.name()), name),
        Table::AnyOptions => find(Some("v4"), name),
        _ => None,
    };
    if let Some(found) = of_table(tables, last) {
        return Some(found);
    }
    // Inside a value: the name of the option is further in front.
    if let (Table::Other, Some(at)) = table::of_plan(tables) {
        return of_table(&piece.path[..at], &piece.path[at]);
    }
    let names_options = matches!(last.as_str(), "withhold" | "requests" | "not-sent" | "wants");
    (names_options && !piece.is_key).then(|| find(Some("v4"), &piece.text).or_else(|| find(Some("v6"), &piece.text)))?
}

/// What a definition says: its name, summary, layout, and where it is defined.
pub(super) fn described(codebook: &Codebook, definition: &Definition) -> String {
    let mut text = format!(
        "**{}** {}\n\n{}\n\n`{}`",
        definition.id(),
        definition.name,
        definition.summary,
        definition.layout_text
    );
    if let Some(values) = super::complete::enumeration(codebook, definition) {
        let values: Vec<String> = values.iter().map(|(name, number)| format!("{name} ({number})")).collect();
        text.push_str(&format!("\n\nValues: {}", values.join(", ")));
    }
    if let Some(example) = &definition.example {
        text.push_str(&format!("\n\nExample: `{example}`"));
    }
    if !definition.reference.is_empty() {
        text.push_str(&format!("\n\n{}", definition.reference));
    }
    text
}

/// The option of the plan whose name or value a piece is.
fn sent<'p>(plan: &'p Plan, document: &Document, loaded: &Loaded, piece: &Piece) -> Option<&'p Sent> {
    let inside = |spot: &Spot| {
        spot.span.start <= piece.span.start && piece.span.end <= spot.span.end && document.owns(loaded, spot)
    };
    let all = plan.layers().flat_map(|layer| layer.all_sends());
    all.into_iter().find(|sent| inside(&sent.key) || inside(&sent.spot))
}

fn octets(sent: &Sent) -> String {
    let Some(payload) = sent.payload() else { return String::new() };
    let shown = hex::spaced(&payload.octets[..payload.octets.len().min(OCTETS)]);
    let more = if payload.octets.len() > OCTETS { " …" } else { "" };
    format!("\n\n{} octets: `{shown}{more}`", payload.octets.len())
}

/// The address that stands around an octet of the text.
fn address_at(text: &str, octet: usize) -> Option<IpAddr> {
    let is_part = |c: char| c.is_ascii_hexdigit() || matches!(c, '.' | ':');
    let before = text.get(..octet)?;
    let start = octet - before.len().min(before.chars().rev().take_while(|c| is_part(*c)).count());
    let length = text.get(octet..)?.chars().take_while(|c| is_part(*c)).count();
    text.get(start..octet + length)?
        .trim_matches(':')
        .parse()
        .ok()
        .or_else(|| text.get(start..octet + length)?.parse().ok())
}

/// Which network an address is in, and what it is there.
fn who_has(plan: &Plan, address: IpAddr) -> String {
    let mut lines = vec![format!("**{address}**")];
    match address {
        IpAddr::V4(address) => places(plan, address, &mut lines),
        IpAddr::V6(address) => places(plan, address, &mut lines),
    }
    let compiled = Compiled::of(plan);
    let servers = compiled.servers();
    let sent = servers.iter().filter(|server| server.host == Host::Address(address));
    lines.extend(sent.map(|server| format!("sent as {}", server.option)));
    if lines.len() == 1 {
        lines.push("in no network of this plan".to_owned());
    }
    lines.join("\n\n")
}

fn places<A: Address>(plan: &Plan, address: A, lines: &mut Vec<String>) {
    for network in &plan.networks {
        let side = network.sides.of::<A>();
        let Some(subnet) = side.subnets.iter().find(|subnet| subnet.net.holds(address)) else { continue };
        let mut what = Vec::new();
        if let Some((_, reserved)) = subnet.reserved().into_iter().find(|(known, _)| *known == address) {
            what.push(reserved.to_owned());
        }
        let leased = side.pools.iter().any(|pool| pool.holds(address));
        let excluded = side.excluded.iter().any(|out| out.holds(address));
        let fleets = plan.fleets.iter().filter(|fleet| {
            fleet.on.iter().any(|on| {
                plan.networks[on.network].name == network.name
                    && on.pools.of::<A>().iter().any(|pool| pool.holds(address))
            })
        });
        let fleets: Vec<String> = fleets.map(|fleet| format!("in the pool of fleet {}", fleet.name)).collect();
        what.push(match (excluded, leased, fleets.is_empty()) {
            (true, ..) => "excluded".to_owned(),
            (false, _, false) => fleets.join(", "),
            (false, true, true) => "in its pool".to_owned(),
            (false, false, true) => "in no pool".to_owned(),
        });
        lines.push(format!("on {} ({}): {}", network.name, subnet.net.trunc(), what.join(", ")));
    }
    if let Some(row) = plan.reservations.at(address) {
        let client = row.client();
        let name = row.name().map_or_else(String::new, |(name, _)| format!(", {name}"));
        lines.push(format!("reserved for {client}{name}"));
    }
}

fn named(plan: &Plan, what: Named, name: &str) -> Option<String> {
    match what {
        Named::Network => {
            let network = &plan.networks[plan.network(name)?];
            let nets = network.sides.v4.subnets.iter().map(|subnet| subnet.net.trunc().to_string());
            let nets = nets.chain(network.sides.v6.subnets.iter().map(|prefix| prefix.net.trunc().to_string()));
            let compiled = Compiled::of(plan);
            let (left, _) = compiled.leases::<std::net::Ipv4Addr>(plan.network(name)?);
            let nets: Vec<String> = nets.collect();
            Some(format!("**network {name}** {}\n\n{left} IPv4 addresses to lease", nets.join(", ")))
        }
        Named::Fleet => {
            let fleet = plan.fleets.iter().find(|fleet| fleet.name == name)?;
            Some(format!("**fleet {name}**\n\nrecognised by {}", fleet.recognised))
        }
    }
}

/// A rule that the plan allows.
fn rule(piece: &Piece) -> Option<String> {
    let in_allow = piece.path.first()? == "check" && !piece.is_key;
    let rule = check::catalogue().into_iter().find(|rule| in_allow && rule.name == piece.text)?;
    Some(format!("**{}** ({})\n\n{}\n\n{}", rule.name, rule.severity, rule.summary, rule.why))
}

/// What the schema says of a key.
fn key(schema: &Schema, piece: &Piece, is_codebook: bool) -> Option<String> {
    let (last, tables) = piece.path.split_last()?;
    let table = if is_codebook { table::of_codebook(tables) } else { table::of_plan(tables).0 };
    let Table::Known(name) = table else { return None };
    let said = schema.of(is_codebook, name, last)?;
    piece.is_key.then(|| format!("**{last}**\n\n{said}"))
}
