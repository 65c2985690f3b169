//! Rules about encrypted DNS servers, and about names that are none.

use crate::check::declare::{OptionValue, check, checks};
use crate::check::scalars;
use crate::check::scan::Thing;
use crate::codebook::{Codebook, Definition};
use crate::finding::{Example, Finding};
use crate::layout::{Atom, NameRef, Node, Scalar, SubOption, Value};

checks! { DNR_PARAMETERS_INVALID, DNR_ALIAS_MODE, DOH_PATH_INVALID, NAME_IS_ROOT }

/// All lists of service parameters in a value.
fn parameters(value: &Value) -> Vec<&[SubOption]> {
    match value {
        Value::List(items) => items.iter().flat_map(parameters).collect(),
        Value::Record(fields) => {
            let own = fields.iter().flat_map(|(name, value)| match value {
                Value::Options(options) if **name == *"parameters" => vec![&options[..]],
                inner => parameters(inner),
            });
            own.collect()
        }
        _ => Vec::new(),
    }
}

check! { Value(dnr_parameters_invalid),
    /// the service parameters of an encrypted DNS server are out of order, repeated, or address hints
    ///
    /// Clients must discard the whole option, and fall back to unencrypted DNS.
    static DNR_PARAMETERS_INVALID = "dnr-parameters-invalid", Error, Options("v4:162", "v6:144", "ra:144"),
        "RFC 9463, section 3.1.8";
    Example::Payload("v4:162", "001500010503646e7300040a400035000400040a400035")
}

fn dnr_parameters_invalid(one: &OptionValue<'_>) -> Option<Finding> {
    parameters(one.value()).into_iter().find_map(|parameters| {
        let codes: Vec<u16> = parameters.iter().map(|parameter| parameter.code).collect();
        let message = match codes.iter().find(|code| matches!(code, 4 | 6)) {
            Some(4) => "ipv4hint is not allowed here; the addresses come first".to_owned(),
            Some(_) => "ipv6hint is not allowed here; the addresses come first".to_owned(),
            None if !codes.is_sorted_by(|a, b| a < b) => {
                "the parameters must be in ascending order without duplicates".to_owned()
            }
            None => missing_mandatory(parameters, &codes)?,
        };
        Some(DNR_PARAMETERS_INVALID.finding(message))
    })
}

/// A parameter that must be understood, and that is not there (RFC 9460, section 8).
fn missing_mandatory(parameters: &[SubOption], codes: &[u16]) -> Option<String> {
    let mandatory = &parameters.iter().find(|parameter| parameter.code == 0)?.value;
    let keys: Vec<u64> = match mandatory {
        Value::List(keys) => keys.iter().filter_map(Value::number).collect(),
        Value::Bytes(octets) => octets.chunks(2).map(crate::octets::number).collect(),
        _ => return None,
    };
    let absent = keys.iter().find(|key| **key == 0 || !codes.iter().any(|code| u64::from(*code) == **key))?;
    Some(format!("mandatory names the parameter {absent}, which is not here"))
}

check! { Value(dnr_alias_mode),
    /// an encrypted DNS server with the priority 0
    ///
    /// Priority 0 is an alias, which this option does not support: clients ignore the server.
    static DNR_ALIAS_MODE = "dnr-alias-mode", Error, Options("v4:162", "v6:144", "ra:144"), "RFC 9463, section 3.1.5";
    Example::Payload("v4:162", "000d00000503646e7300040a400035"),
    Example::Payload("v6:144", "0000000503646e7300")
}

fn dnr_alias_mode(one: &OptionValue<'_>) -> Option<Finding> {
    let servers = if one.value().items().is_empty() { std::slice::from_ref(one.value()) } else { one.value().items() };
    let zero = servers.iter().any(|server| server.field("priority").and_then(Value::number) == Some(0));
    zero.then(|| DNR_ALIAS_MODE.finding("priority is 0; it must be 1 or more").advice("priority = 1"))
}

check! { Value(doh_path_invalid),
    /// a path for DNS over HTTPS that is not a relative template with the variable dns
    ///
    /// Clients put their query there, and have nowhere to put it.
    static DOH_PATH_INVALID = "doh-path-invalid", Error, Options("v4:162/7"), "RFC 9461, section 5";
    Example::Payload("v4:162/7", "646e732d7175657279")
}

fn doh_path_invalid(one: &OptionValue<'_>) -> Option<Finding> {
    let path = one.value().text()?;
    // `{?dns}`, `{&dns}`, or a variable among others.
    let mut inside = path.split('{').skip(1).filter_map(|rest| rest.split_once('}'));
    let variable =
        |(names, _): (&str, &str)| names.trim_start_matches(['?', '&', '/', '#']).split(',').any(|name| name == "dns");
    if path.starts_with('/') && inside.any(variable) {
        return None;
    }
    Some(DOH_PATH_INVALID.finding(format!("`{path}` is not a relative template")).advice("/dns-query{?dns}"))
}

check! { ValueIf(has_names, name_is_root),
    /// the root of all names, where the name of a server or domain is wanted
    ///
    /// Clients look it up and get nothing.
    static NAME_IS_ROOT = "name-is-root", Error, AnyOption, "";
    Example::Payload("v6:24", "00")
}

fn has_names(codebook: &Codebook, definition: &Definition) -> bool {
    let is_name = |node: &Node| matches!(node, Node::Atom(Atom::Name | Atom::PartialName | Atom::Names(_)));
    codebook.layout(definition).has(&is_name)
}

fn name_is_root(one: &OptionValue<'_>) -> Option<Finding> {
    let is_root = |name: NameRef<'_>| name.is_absolute() && name.labels().next().is_none();
    let root = match scalars::names(one.view.codebook.layout(one.definition), one.octets) {
        Some(mut names) => names.any(|name| name == [0]),
        None => {
            let root = |thing: &Thing<'_>| matches!(thing.scalar, Scalar::Name(name) if is_root(name)).then_some(());
            one.find_thing(root).is_some()
        }
    };
    // The root may stand for all domains that a server knows (RFC 6731, section 4.2).
    if !root
        || one.is("v4:146")
        || one.is("v6:74")
        || one.is("v4:81")
        || one.is("v6:39")
        || matches!(one.view.codebook.layout(one.definition).root(), Node::Options(_))
    {
        return None;
    }
    Some(NAME_IS_ROOT.finding("the name is the root alone").borne())
}
