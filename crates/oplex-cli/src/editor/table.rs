//! What the tables of a plan and of a codebook are for, by their paths.

use oplex::family::Protocol;

use super::outline::Piece;

/// What a table is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Table {
    /// One whose keys the schema knows by this name.
    Known(&'static str),
    /// `send` and `amend`, by family.
    Families,
    /// Options of a family, by name.
    Options(Protocol),
    /// Options of both families, by name, those of DHCPv6 with their prefix.
    AnyOptions,
    /// Networks by name, and fleets.
    Networks,
    Fleets,
    /// What a value is made of, or what no codebook knows.
    Other,
}

/// What the table at a path of a plan is, and where in the path the name of an option stands, if it is inside of one.
pub(super) fn of_plan(words: &[&str]) -> (Table, Option<usize>) {
    let known = |name| (Table::Known(name), None);
    // What is inside a layer, and how much of the path is in front of that.
    let (layer, before) = match *words {
        ["network", _, ..] => ("network", 2),
        ["fleet", _, "on", _, ..] => ("on", 4),
        ["fleet", _, ..] => ("fleet", 2),
        ["reservation", ..] => ("reservation", 1),
        ["expect", ..] => ("expect", 1),
        _ => ("plan", 0),
    };
    let inside = |protocol, length| match words.len() - before {
        own if own == length => (Table::Options(protocol), None),
        _ => (Table::Other, Some(before + length)),
    };
    match (layer, &words[before..]) {
        (layer, []) => known(layer),
        ("expect", ["sent"]) => (Table::AnyOptions, None),
        (_, ["send" | "amend"]) => (Table::Families, None),
        (_, ["send" | "amend" | "sent", "v4", ..]) => inside(Protocol::V4, 2),
        (_, ["send" | "amend" | "sent", "v6", ..]) => inside(Protocol::V6, 2),
        ("expect", ["sent", ..]) => (Table::Other, Some(before + 1)),
        (_, ["boot"]) => known("boot"),
        (_, ["fqdn"]) => known("fqdn"),
        ("network", ["advertise"]) => known("advertise"),
        ("network", ["advertise", "routes"]) => known("route"),
        ("network", ["prefix"]) => known("prefix"),
        ("plan", ["network"]) => (Table::Networks, None),
        ("plan", ["fleet"]) => (Table::Fleets, None),
        ("fleet", ["match", ..]) => known("match"),
        ("fleet", ["on"]) => (Table::Networks, None),
        ("expect", ["client"]) => known("client"),
        ("plan", ["servers"]) => known("server"),
        ("plan", ["reservations"]) => known("reservations"),
        ("plan", ["check"]) => known("check"),
        ("plan", ["check", "allow"]) => known("allow"),
        _ => (Table::Other, None),
    }
}

/// What the table at a path of a codebook is.
pub(super) fn of_codebook(words: &[&str]) -> Table {
    Table::Known(match *words {
        [] => "codebook",
        ["option"] => "option",
        ["option", "messages"] => "row",
        ["option", "holds"] => "content",
        ["chapter", _] => "chapter",
        ["enumeration", _] => "enumeration",
        ["flags", _] => "flags",
        ["message", _] => "message",
        _ => return Table::Other,
    })
}

/// What something names.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Named {
    Network,
    Fleet,
}

/// Whether a key or a value of a plan is the name of a network or of a fleet.
pub(super) fn named(piece: &Piece) -> Option<Named> {
    match (piece.is_key, &piece.path.names()[..]) {
        (true, ["network", _] | ["fleet", _, "on", _]) => Some(Named::Network),
        (true, ["fleet", _]) => Some(Named::Fleet),
        (false, ["reservation" | "check", .., "network"] | ["expect", "client", "network"]) => Some(Named::Network),
        (false, ["check", "allow", "fleet"] | ["expect", "fleets"]) => Some(Named::Fleet),
        _ => None,
    }
}
