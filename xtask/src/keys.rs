//! Typed keys for the options of the standard codebooks.

use oplex::codebook::{Codebook, Definition, Sender, Status};
use oplex::family::Protocol;
use oplex::layout::{Atom, Input, Node, Number, Run};

/// The text of a protocol's `keys.rs`: a constant for every option of the standard codebook.
pub(crate) fn text(codebook: &Codebook, protocol: Protocol) -> String {
    let meant = |option: &&Definition| {
        let used = matches!(option.status, Status::Current | Status::Deprecated | Status::Obsolete);
        let framing = protocol == Protocol::V4 && matches!(option.code, 0 | 255);
        used && option.is_own_of(protocol) && !framing && option.sent_by != Sender::None
    };
    let mut keys = String::new();
    for option in codebook.definitions().filter(meant) {
        let name = option.name.to_uppercase().replace('-', "_");
        let name = if name.starts_with(|c: char| c.is_ascii_digit()) { format!("OPTION_{name}") } else { name };
        let payload = own_type(protocol, option.code).unwrap_or_else(|| rust_type(codebook.layout(option).root()));
        let names = option.aliases.iter().chain(&option.words).filter(|word| ***word != *option.name);
        let aliases: Vec<String> = names.map(|word| format!("{word:?}")).collect();
        for line in documentation(codebook, option) {
            keys += format!("    /// {line}").trim_end();
            keys += "\n";
        }
        if !aliases.is_empty() {
            keys += &format!("    #[doc(alias({}))]\n", aliases.join(", "));
        }
        keys += &format!("    {name}: {payload} = {},\n", option.code);
    }
    let uses = |names: &[&str]| -> Vec<String> {
        let used = |name: &&&str| [format!(": {name} ="), format!("<{name}>")].iter().any(|form| keys.contains(form));
        names.iter().filter(used).map(|name| (*name).to_owned()).collect()
    };
    let group = |path: &str, names: &[&str]| match &uses(names)[..] {
        [] => String::new(),
        [one] => format!("use {path}::{one};\n"),
        several => format!("use {path}::{{{}}};\n", several.join(", ")),
    };
    format!(
        "//! Generated from the standard codebook: do not edit. `cargo run -p xtask -- generate` writes it anew.\n\n\
         use crate::prelude::*;\n{}{}\n{}{}{}use crate::packet::typed::keys;\n\nkeys! {{ {protocol:?}\n{keys}}}\n",
        group("core::net", &["Ipv4Addr", "Ipv6Addr"]),
        group("core::time", &["Duration"]),
        group("super", &["MessageType"]),
        group("crate::layout", &["Route4", "Value"]),
        group("crate::packet", &OWN_TYPES),
    )
}

/// What rustdoc shows of an option, a line each.
fn documentation(codebook: &Codebook, option: &Definition) -> Vec<String> {
    let mut facts = vec![
        ("Option", format!("`{}` (`{}`), {}", option.id(), option.name, option.reference)),
        ("Layout", format!("`{}`", option.layout_text)),
    ];
    if let Some(example) = &option.example {
        facts.push(("Example", format!("`{example}`")));
        if let Ok(payload) = codebook.encode(option, &Input::from_text(example)) {
            facts.push(("Its octets", format!("`{}`", hex(&payload.octets))));
        }
    }
    let who = option.sent_by.to_string();
    facts.push(("Sent by", if option.automatic { format!("{who}, automatically: no plan sends it") } else { who }));
    let inside: Vec<String> =
        option.within.iter().filter(|code| **code != 0).map(|code| format!("`v6:{code}`")).collect();
    if !inside.is_empty() {
        facts.push(("Stands in", inside.join(", ")));
    }
    match (&option.replaced_by, option.status) {
        (None, Status::Current) => {}
        (None, status) => facts.push(("Status", status.to_string())),
        (Some(by), status) => facts.push(("Status", format!("{status}; replaced by `{by}`"))),
    }
    let facts = facts.into_iter().map(|(what, fact)| format!("- {what}: {fact}"));
    [option.summary.to_string(), String::new()].into_iter().chain(facts).collect()
}

/// Octets as people read them, those of a long example cut.
fn hex(octets: &[u8]) -> String {
    const SHOWN: usize = 24;
    let shown: Vec<String> = octets.iter().take(SHOWN).map(|octet| format!("{octet:02x}")).collect();
    if octets.len() > SHOWN { format!("{} … ({} octets)", shown.join(":"), octets.len()) } else { shown.join(":") }
}

const OWN_TYPES: [&str; 7] =
    ["ClientFqdn", "DelegatedPrefix", "IaNa", "IaPd", "LeasedAddress", "RelayInformation", "StatusCode"];

/// The options that have a Rust type of their own.
fn own_type(protocol: Protocol, code: u16) -> Option<&'static str> {
    match (protocol, code) {
        (Protocol::V4, 53) => Some("MessageType"),
        (Protocol::V4, 82) => Some("RelayInformation"),
        (Protocol::V4, 81) | (Protocol::V6, 39) => Some("ClientFqdn"),
        (Protocol::V6, 3) => Some("IaNa"),
        (Protocol::V6, 5) => Some("LeasedAddress"),
        (Protocol::V6, 13) => Some("StatusCode"),
        (Protocol::V6, 25) => Some("IaPd"),
        (Protocol::V6, 26) => Some("DelegatedPrefix"),
        _ => None,
    }
}

/// The Rust type of what a layout holds.
fn rust_type(node: &Node) -> &'static str {
    match node {
        Node::Atom(Atom::Number(Number { signed: true, .. })) => "i32",
        Node::Atom(Atom::Number(Number { octets, .. })) => {
            ["u8", "u8", "u16", "u32", "u32", "Value", "Value", "Value", "Value"][*octets]
        }
        Node::Atom(Atom::Bool) => "bool",
        Node::Atom(Atom::Seconds(_)) => "Duration",
        Node::Atom(Atom::Ipv4(_) | Atom::Netmask) => "Ipv4Addr",
        Node::Atom(Atom::Ipv6(_) | Atom::Ipv6Head(_)) => "Ipv6Addr",
        Node::Atom(Atom::Run(Run::Bytes, _)) => "Vec<u8>",
        Node::Atom(Atom::Run(..) | Atom::Name | Atom::PartialName) => "String",
        Node::Atom(Atom::Names(_)) => "Vec<String>",
        Node::Repeat(item, _) => match &**item {
            Node::Atom(Atom::Ipv4(_) | Atom::Netmask) => "Vec<Ipv4Addr>",
            Node::Atom(Atom::Ipv6(_)) => "Vec<Ipv6Addr>",
            Node::Atom(Atom::Number(Number { octets: 1, .. })) => "Vec<u8>",
            Node::Atom(Atom::Number(Number { octets: 2, .. })) => "Vec<u16>",
            Node::Atom(Atom::Route4) => "Vec<Route4>",
            Node::Atom(Atom::Name) => "Vec<String>",
            _ => "Value",
        },
        _ => "Value",
    }
}
