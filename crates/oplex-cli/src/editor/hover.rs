//! What stands under the pointer: an option with its octets, an address with who has it, a key, a network, a rule.

use std::net::{IpAddr, Ipv4Addr};
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
use crate::render::clean;

/// No more octets of a value are shown.
const OCTETS: usize = 64;

/// What is to be said of an octet of the text, in Markdown, and of which characters.
pub(super) fn at(document: &Document, schema: &Schema, octet: usize) -> Option<(String, Range<usize>)> {
    let piece = document.outline.at(octet)?;
    let said = of_piece(document, schema, piece, octet)?;
    Some((clean::lines(&said).into_owned(), piece.span.clone()))
}

/// A text out of a file in which nothing is Markdown.
fn plain(text: &str) -> String {
    let special = |c: char| matches!(c, '\\' | '`' | '*' | '_' | '[' | ']' | '<' | '>' | '#' | '|');
    let escaped =
        text.chars().flat_map(|c| special(c).then_some('\\').into_iter().chain([if c == '\n' { ' ' } else { c }]));
    escaped.collect()
}

/// A text out of a file as code, which ends where it ends.
fn code(text: &str) -> String {
    format!("`{}`", text.replace(['`', '\n'], "'"))
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
    let definition = of_piece_in(&plan.codebook, piece)?;
    let mut text = described(&plan.codebook, definition);
    let current = document.checked.as_ref().is_some_and(|checked| checked.is_current && checked.loaded.plan.is_some());
    if let Some(sent) = sent(plan, document, loaded, piece).filter(|_| current) {
        text.push_str(&octets(sent));
    }
    Some(text)
}

/// The definition of the option that a piece is about.
pub(super) fn of_piece_in<'c>(codebook: &'c Codebook, piece: &Piece) -> Option<&'c Definition> {
    let names = piece.path.names();
    let lists_options = matches!(names.last(), Some(&("withhold" | "requests" | "not-sent" | "wants")));
    let listed = || find(codebook, "v4", &piece.text).or_else(|| find(codebook, "v6", &piece.text));
    definition(codebook, &names).or_else(|| if lists_options && !piece.is_key { listed() } else { None })
}

/// The definition of the option whose name or value a path leads to, or a part of that.
pub(super) fn definition<'c>(codebook: &'c Codebook, path: &[&str]) -> Option<&'c Definition> {
    let (last, tables) = path.split_last()?;
    let of_table = |tables: &[&str], name: &str| match table::of_plan(tables).0 {
        Table::Options(protocol) => find(codebook, protocol.name(), name),
        Table::AnyOptions => find(codebook, "v4", name),
        _ => None,
    };
    // Inside a value the name of the option is further in front.
    of_table(tables, last).or_else(|| match table::of_plan(tables) {
        (Table::Other, Some(at)) => of_table(&path[..at], path[at]),
        _ => None,
    })
}

/// An option by its name, of a protocol where that does not say of which.
fn find<'c>(codebook: &'c Codebook, protocol: &str, name: &str) -> Option<&'c Definition> {
    let own = if name.contains(':') { name.to_owned() } else { format!("{protocol}:{name}") };
    codebook.find(&own).ok().map(|found| &**found)
}

/// What a definition says: its name, summary, layout, and where it is defined.
pub(super) fn described(codebook: &Codebook, definition: &Definition) -> String {
    let (id, name) = (plain(&definition.id().to_string()), plain(&definition.name));
    let mut text = format!("**{id}** {name}\n\n{}\n\n{}", plain(&definition.summary), code(&definition.layout_text));
    if let Some(values) = super::complete::enumeration(codebook, definition) {
        let values: Vec<String> = values.iter().map(|(name, number)| format!("{name} ({number})")).collect();
        text.push_str(&format!("\n\nValues: {}", plain(&values.join(", "))));
    }
    if let Some(example) = &definition.example {
        text.push_str(&format!("\n\nExample: {}", code(example)));
    }
    if !definition.reference.is_empty() {
        text.push_str(&format!("\n\n{}", plain(&definition.reference)));
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
    let s = if payload.octets.len() == 1 { "" } else { "s" };
    format!("\n\n{} octet{s}: `{shown}{more}`", payload.octets.len())
}

/// The address that stands around an octet of the text.
fn address_at(text: &str, octet: usize) -> Option<IpAddr> {
    let is_part = |c: char| c.is_ascii_hexdigit() || matches!(c, '.' | ':');
    let before = text.get(..octet)?;
    let start = octet - before.len().min(before.chars().rev().take_while(|c| is_part(*c)).count());
    let length = text.get(octet..)?.chars().take_while(|c| is_part(*c)).count();
    let address = text.get(start..octet + length)?;
    address.parse().or_else(|_| address.trim_matches(':').parse()).ok()
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
    lines.extend(sent.map(|server| format!("sent as {}", plain(&server.option))));
    if lines.len() == 1 {
        lines.push("in no network of this plan".to_owned());
    }
    lines.join("\n\n")
}

fn places<A: Address>(plan: &Plan, address: A, lines: &mut Vec<String>) {
    for (at, network) in plan.networks.iter().enumerate() {
        let side = network.sides.of::<A>();
        let Some(subnet) = side.subnets.iter().find(|subnet| subnet.net.holds(address)) else { continue };
        let mut what = Vec::new();
        if let Some((_, reserved)) = subnet.reserved().find(|(known, _)| *known == address) {
            what.push(reserved.to_owned());
        }
        let leased = side.pools.iter().any(|pool| pool.holds(address));
        let excluded = side.excluded.iter().any(|out| out.holds(address));
        let fleets = plan
            .fleets
            .iter()
            .filter(|fleet| fleet.on(at).is_some_and(|on| on.pools.of::<A>().iter().any(|pool| pool.holds(address))));
        let fleets: Vec<String> = fleets.map(|fleet| format!("in the pool of fleet {}", plain(&fleet.name))).collect();
        what.push(match (excluded, leased, fleets.is_empty()) {
            (true, ..) => "excluded".to_owned(),
            (false, _, false) => fleets.join(", "),
            (false, true, true) => "in its pool".to_owned(),
            (false, false, true) => "in no pool".to_owned(),
        });
        lines.push(format!("on {} ({}): {}", plain(&network.name), subnet.net.trunc(), what.join(", ")));
    }
    if let Some(row) = plan.reservations.at(address) {
        let client = row.client();
        let name = row.name().map_or_else(String::new, |(name, _)| format!(", {}", plain(name)));
        lines.push(format!("reserved for {}{name}", plain(&client.to_string())));
    }
}

fn named(plan: &Plan, what: Named, name: &str) -> Option<String> {
    match what {
        Named::Network => {
            let at = plan.network(name)?;
            let network = &plan.networks[at];
            let nets = network.sides.v4.subnets.iter().map(|subnet| subnet.net.trunc().to_string());
            let nets = nets.chain(network.sides.v6.subnets.iter().map(|prefix| prefix.net.trunc().to_string()));
            let compiled = Compiled::of(plan);
            let (left, _) = compiled.leases::<Ipv4Addr>(at);
            let nets: Vec<String> = nets.collect();
            Some(format!("**network {}** {}\n\n{left} IPv4 addresses to lease", plain(name), nets.join(", ")))
        }
        Named::Fleet => {
            let fleet = plan.fleets.iter().find(|fleet| fleet.name == name)?;
            Some(format!("**fleet {}**\n\nrecognised by {}", plain(name), plain(&fleet.recognised.to_string())))
        }
    }
}

/// A rule that the plan allows.
fn rule(piece: &Piece) -> Option<String> {
    let in_allow = piece.path.names().first() == Some(&"check") && !piece.is_key;
    let rule = check::catalogue().into_iter().find(|rule| in_allow && rule.name == piece.text)?;
    Some(format!("**{}** ({})\n\n{}\n\n{}", rule.name, rule.severity, rule.summary, rule.why))
}

/// What the schema says of a key.
fn key(schema: &Schema, piece: &Piece, is_codebook: bool) -> Option<String> {
    let names = piece.path.names();
    let (last, tables) = names.split_last()?;
    let table = if is_codebook { table::of_codebook(tables) } else { table::of_plan(tables).0 };
    let Table::Known(name) = table else { return None };
    let said = schema.of(is_codebook, name, last)?;
    piece.is_key.then(|| format!("**{last}**\n\n{said}"))
}
