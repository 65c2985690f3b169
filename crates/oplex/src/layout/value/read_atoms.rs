//! Single things from what is written, and how messages describe what should have been written.

use crate::layout::form::atom::{Atom, Run};
use crate::layout::input::{Input, InputKind, Key};
use crate::layout::name;
use crate::layout::node::Node;
use crate::layout::scalar::NameRef;
use crate::layout::value::Value;
use crate::layout::value::atom_error::AtomError;
use crate::layout::walk::ScalarForm;
use crate::octets::hex;
use crate::prelude::*;

/// `{ text = "…" }`: the octets of a text, where octets are wanted.
pub(in crate::layout) fn is_text_table(fields: &[(Key, Input)]) -> bool {
    matches!(fields, [(key, Input { kind: InputKind::Text { .. }, .. })] if key.name == "text")
}

pub(in crate::layout) fn text_atom(atom: &Atom, text: &str) -> Result<Value, AtomError> {
    match atom {
        Atom::Run(Run::Bytes, _) => {
            octets(text, "; for the characters themselves write `{ text = \"…\" }`").map(Value::Bytes)
        }
        Atom::Duid => octets(text, "").map(Value::Bytes),
        Atom::PartialName if text.is_empty() => Ok(Value::Name(String::new())),
        Atom::Name | Atom::PartialName | Atom::Names(_) => {
            let labels = name::labels(text)?;
            Ok(Value::Name(dotted(&labels, *atom == Atom::PartialName && text.ends_with('.'))))
        }
        _ => atom.scalar(text).map(|scalar| Value::of(ScalarForm::Atom(atom), scalar)),
    }
}

/// The labels in the one dotted form that names are shown in.
pub(in crate::layout) fn dotted(labels: &[Vec<u8>], final_dot: bool) -> String {
    let mut wire = Vec::new();
    name::put(&mut wire, labels);
    let text = NameRef::new(&wire, 0, true).to_string();
    if final_dot && text != "." { text + "." } else { text }
}

pub(in crate::layout) fn octets(text: &str, instead: &str) -> Result<Vec<u8>, AtomError> {
    hex::parse(text).map_err(|error| AtomError {
        at: error.span(),
        ..AtomError::all(text, format!("octets are written in hexadecimal, like `0a:40:04:01`: {error}{instead}"))
    })
}

pub(in crate::layout) fn form(node: &Node) -> &'static str {
    match node {
        Node::Record(_) | Node::Bits(_) => "a table, `{ field = value, … }`",
        Node::Options(_) => "a table of options, `{ name = value, … }`",
        Node::Pairs(_) => "a table, `{ KEY = value, … }`, or the text as the device reads it",
        _ => "a single value",
    }
}
