//! Reading the full names that clients are answered with.

use super::{Fqdn, PlanReader};
use crate::document::{Node, Table, kind};
use crate::layout::{Layout, NameFlaw, Value};

/// The keys of the table that says so.
pub(super) const FQDN: [&str; 2] = ["name", "updates"];

impl<'s> PlanReader<'s> {
    /// `fqdn = "*.tarnfell.example"`, or a table with its `name` and `updates`.
    pub(super) fn fqdn(&mut self, table: &Table<'s>) -> Option<Fqdn> {
        let node = table.get("fqdn")?;
        let (name, updates) = match node.get_ref().as_table() {
            Some(own) => {
                self.reader.only(own, &FQDN, "`fqdn`");
                let Some(name) = own.get("name") else {
                    let why = "`fqdn` has no name; write name = \"*.tarnfell.example\"".to_owned();
                    self.reader.wrong_kind(node.span(), why);
                    return None;
                };
                (name, self.reader.flag(own, "updates"))
            }
            None => (node, false),
        };
        Some(Fqdn { name: self.full_name(name)?, updates, spot: Some(self.reader.spot(name.span())) })
    }

    /// A name of two labels or more that DNS can hold, but for a `*` in place of the first.
    fn full_name(&mut self, node: &Node<'s>) -> Option<String> {
        let Some(text) = node.get_ref().as_str() else {
            self.reader.wrong_kind(node.span(), format!("`fqdn` is text in quotes or a table, not {}", kind(node)));
            return None;
        };
        let plain = text.strip_suffix('.').unwrap_or(text);
        let any_first = plain.strip_prefix('*').filter(|rest| rest.is_empty() || rest.starts_with('.'));
        let whole = any_first.map_or_else(|| plain.to_owned(), |rest| format!("x{rest}"));
        if !whole.contains('.') {
            let why =
                format!("`{text}` is not a full name; write it with its domain, as in `{plain}.tarnfell.example`");
            self.reader.wrong_kind(node.span(), why);
            return None;
        }
        if whole.contains('*') {
            let why = format!(
                "`*` of `{text}` stands for the client's own label, so it is the first or none; write `*.tarnfell.example`"
            );
            self.reader.wrong_kind(node.span(), why);
            return None;
        }
        if let Some(why) = flaw(&whole) {
            self.reader.wrong_kind(node.span(), format!("`{text}`: {why}"));
            return None;
        }
        let encoded = "name".parse::<Layout>().map(|name| name.encode(&self.codebook, &Value::Name(whole)));
        match encoded {
            Ok(Err(why)) => {
                self.reader.wrong_kind(node.span(), why.to_string());
                None
            }
            _ => Some(plain.to_owned()),
        }
    }
}

/// What no name of a host has (RFC 1123, section 2.1), where a name has it.
fn flaw(name: &str) -> Option<String> {
    let odd = name.chars().find(|c| !c.is_ascii_alphanumeric() && !matches!(c, '-' | '_' | '.'));
    match odd {
        Some(c) if !c.is_ascii() => {
            Some(format!("{c:?} is not ASCII; write its label in the form that begins with xn--"))
        }
        Some(c) => Some(NameFlaw::Character(c).to_string()),
        None if name.split('.').any(|label| label.starts_with('-') || label.ends_with('-')) => {
            Some(NameFlaw::HyphenAtEdge.to_string())
        }
        None => None,
    }
}
