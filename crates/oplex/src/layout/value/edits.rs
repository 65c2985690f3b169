//! Changes of parts of a value: keys of a record or of `KEY=value` text, and items of a list.

use crate::prelude::*;

use crate::layout::input::{self, Input, InputKind, Key, ValueErrors};
use crate::layout::node::{Choice, Node};
use crate::layout::read::{Reader, takes_list};
use crate::layout::value::Value;
use crate::layout::{Layout, Nesting};

/// One change of a value.
#[derive(Debug, Clone, PartialEq)]
#[non_exhaustive]
pub enum Edit {
    /// A key gets this value, in place of the one it has.
    Set(Box<str>, Value),
    /// A key that may be missing is taken away.
    Remove(Box<str>),
    /// These items come before those that are there.
    First(Vec<Value>),
    /// These items come behind those that are there.
    Last(Vec<Value>),
}

/// Changes as they are written: `{ SERVER = 10.64.0.71, VLAN = { remove = true } }`.
pub struct EditsText<'e>(pub &'e [Edit]);

impl core::fmt::Display for EditsText<'_> {
    fn fmt(&self, f: &mut core::fmt::Formatter<'_>) -> core::fmt::Result {
        f.write_str("{ ")?;
        for (at, edit) in self.0.iter().enumerate() {
            f.write_str(if at > 0 { ", " } else { "" })?;
            match edit {
                Edit::Set(name, value) => {
                    write!(f, "{name} = ")?;
                    value.inside(f)?;
                }
                Edit::Remove(name) => write!(f, "{name} = {{ remove = true }}")?,
                Edit::First(items) | Edit::Last(items) => {
                    f.write_str(if matches!(edit, Edit::First(_)) { "first = " } else { "last = " })?;
                    Value::List(items.clone()).inside(f)?;
                }
            }
        }
        f.write_str(" }")
    }
}

/// What stands inside sizes and paddings.
fn inner(node: &Node) -> &Node {
    match node {
        Node::Optional(of) | Node::Sized(_, of) | Node::Padded(_, of) => inner(of),
        node => node,
    }
}

pub(in crate::layout) fn read(
    layout: &Layout,
    nesting: &dyn Nesting,
    written: &Input,
) -> Result<Vec<Edit>, ValueErrors> {
    let mut reader = Reader::new(nesting);
    let edits = edits(&mut reader, inner(layout.root()), written);
    reader.finish(edits)
}

fn edits(reader: &mut Reader<'_>, node: &Node, written: &Input) -> Option<Vec<Edit>> {
    let parsed;
    let written = match &written.kind {
        InputKind::Text { text, start } => match input::list(text, *start, &written.span) {
            Ok(mut items) if items.len() == 1 => {
                parsed = items.remove(0);
                &parsed
            }
            _ => written,
        },
        _ => written,
    };
    let InputKind::Table(changes) = &written.kind else {
        return reader.misfit(&written.span, "a change is a table: `{ KEY = value }`, or `{ last = […] }` for a list");
    };
    let kept = kept(reader, node, changes);
    let edit = |reader: &mut Reader<'_>, (key, value): &(Key, Input)| match node {
        Node::Record(_) | Node::Pairs(_) => of_key(reader, node, &kept, key, value),
        node if takes_list(node) => of_list(reader, node, key, value),
        _ => reader.misfit(&key.span, "this option has no parts that can be changed; send it whole"),
    };
    let edits = changes.iter().map(|change| edit(reader, change));
    // What is wrong with each is wanted.
    edits.collect::<Vec<_>>().into_iter().collect()
}

/// The slots of the fields among the changes that decide the form of others, with the numbers kept in them.
fn kept(reader: &mut Reader<'_>, node: &Node, changes: &[(Key, Input)]) -> Vec<u8> {
    let Node::Record(fields) = node else { return Vec::new() };
    let mut kept = Vec::new();
    for field in fields.iter().filter(|field| field.keep.is_some()) {
        let written = changes.iter().find(|(key, value)| *key.name == *field.name && !removes(value));
        // One that is wrong is said to be when its turn comes.
        let value = written.and_then(|(_, written)| {
            let mut alone = Reader::new(reader.nesting);
            let value = alone.node(&field.node, written);
            alone.finish(value).ok()
        });
        if let Some(value) = value {
            reader.keep(field, &value);
            kept.extend(field.keep);
        }
    }
    kept
}

/// Whether it is `{ remove = true }`.
fn removes(value: &Input) -> bool {
    let InputKind::Table(fields) = &value.kind else { return false };
    let [(key, on)] = &fields[..] else { return false };
    let on = match &on.kind {
        InputKind::Bool(on) => *on,
        InputKind::Text { text, .. } => text == "true",
        _ => false,
    };
    key.name == "remove" && on
}

/// A change of a key. `kept` are the slots of what changes with it, and decides the forms of other fields.
fn of_key(reader: &mut Reader<'_>, node: &Node, kept: &[u8], key: &Key, value: &Input) -> Option<Edit> {
    let name = || key.name.as_str().into();
    let (optional, part) = match node {
        Node::Record(fields) => {
            let Some(field) = fields.iter().find(|field| *field.name == *key.name) else {
                let known: Vec<&str> = fields.iter().map(|field| &*field.name).collect();
                reader.unknown(key, "field", &known);
                return None;
            };
            (matches!(field.node, Node::Optional(_)), field.node.clone())
        }
        Node::Pairs(pairs) => match pairs.keys.iter().find(|known| *known.name == *key.name) {
            Some(known) => (!known.required, Node::Atom(known.atom.clone())),
            None if pairs.open => {
                (true, Node::Atom(crate::layout::Atom::Run(crate::layout::Run::Utf8, crate::layout::Count::ANY)))
            }
            None => {
                let known: Vec<&str> = pairs.keys.iter().map(|known| &*known.name).collect();
                reader.unknown(key, "key", &known);
                return None;
            }
        },
        _ => return None,
    };
    if removes(value) {
        if optional {
            return Some(Edit::Remove(name()));
        }
        return reader.misfit(&value.span, format!("`{}` must be there, so it cannot be removed", key.name));
    }
    if let Node::Choice(Choice { by, .. }) = inner(&part)
        && !kept.contains(&by.slot)
    {
        let decides = by.text.split('.').next().unwrap_or_default();
        let message = format!("the form of `{}` depends on `{decides}`; change `{decides}` together with it", key.name);
        return reader.misfit(&key.span, message);
    }
    Some(Edit::Set(name(), reader.node(&part, value)?))
}

fn of_list(reader: &mut Reader<'_>, node: &Node, key: &Key, value: &Input) -> Option<Edit> {
    let edit = match &*key.name {
        "first" => Edit::First,
        "last" => Edit::Last,
        _ => {
            reader.unknown(key, "change of a list", &["first", "last"]);
            return None;
        }
    };
    Some(edit(match reader.node(node, value)? {
        Value::List(items) => items,
        one => vec![one],
    }))
}

pub(in crate::layout) fn amended(layout: &Layout, value: &Value, edits: &[Edit]) -> Value {
    let mut value = value.clone();
    for edit in edits {
        match (edit, &mut value) {
            (Edit::Set(name, new), Value::Record(fields)) => match fields.iter_mut().find(|(known, _)| known == name) {
                Some((_, old)) => old.clone_from(new),
                None => fields.push((name.clone(), new.clone())),
            },
            (Edit::Remove(name), Value::Record(fields)) => fields.retain(|(known, _)| known != name),
            (Edit::First(items), Value::List(all)) => {
                all.splice(0..0, items.iter().cloned());
            }
            (Edit::Last(items), Value::List(all)) => all.extend(items.iter().cloned()),
            // One value where several could stand is a list of one.
            (Edit::First(items) | Edit::Last(items), only) => {
                let only = core::mem::replace(only, Value::Empty);
                let first = matches!(edit, Edit::First(_));
                let ends = if first { [&items[..], &[only]] } else { [&[only][..], &items[..]] };
                value = Value::List(ends.concat());
            }
            // Octets that are no value of the layout have no keys.
            (Edit::Set(..) | Edit::Remove(_), _) => {}
        }
    }
    in_order(layout.root(), value)
}

/// The fields of a record in the order of their layout.
fn in_order(node: &Node, value: Value) -> Value {
    match (inner(node), value) {
        (Node::Record(known), Value::Record(mut fields)) => {
            fields.sort_by_key(|(name, _)| known.iter().position(|field| field.name == *name));
            Value::Record(fields)
        }
        (_, value) => value,
    }
}
