//! From what is written to the value that a layout says it is.

use crate::prelude::*;
use core::ops::Range;

use crate::layout::atoms;
use crate::layout::fault::Topic;
use crate::layout::form::atom::{Atom, Meaning, Run};
use crate::layout::input::{self, Input, InputKind, Key, ValueError, ValueErrors};
use crate::layout::node::{Choice, Field, Node, SLOTS, Slots};
use crate::layout::read_atoms::{form, is_text_table, text_atom};
use crate::layout::value::Value;
use crate::layout::value::atom_error::AtomError;
use crate::layout::walk::ScalarForm;
use crate::layout::{Layout, Nesting};
use crate::nearest;
use crate::octets::hex;
use crate::parse_error::shortened;

/// A value, and where each of its leaves was written.
#[derive(Debug, Clone, PartialEq)]
pub struct Reading {
    /// The value.
    pub value: Value,
    /// For each value without values inside, in order, where it stands.
    pub leaves: Vec<LeafSource>,
}

/// Where a leaf of a value was written.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct LeafSource {
    /// The whole of it; text without its quotes.
    pub span: Range<usize>,
    /// Whether it is text that stands there byte for byte.
    pub exact: bool,
}

pub(in crate::layout) fn read(layout: &Layout, nesting: &dyn Nesting, written: &Input) -> Result<Reading, ValueErrors> {
    let mut reader = Reader::new(nesting);
    let value = reader.node(layout.root(), written);
    let leaves = core::mem::take(&mut reader.leaves);
    Ok(Reading { value: reader.finish(value)?, leaves })
}

/// Whether a list may be the value itself.
pub(in crate::layout) fn takes_list(node: &Node) -> bool {
    match node {
        Node::Optional(inner) | Node::Sized(_, inner) | Node::Padded(_, inner) => takes_list(inner),
        Node::Record(_) | Node::Pairs(_) | Node::Bits(_) | Node::Zeros(_) => false,
        Node::Atom(Atom::Number(form)) => matches!(form.meaning, Meaning::Flags(_)),
        Node::Atom(atom) => {
            matches!(atom, Atom::Names(_) | Atom::Run(Run::Bytes, _) | Atom::Mac | Atom::Duid | Atom::Uuid | Atom::Guid)
        }
        Node::Repeat(..) | Node::Options(_) | Node::Choice(_) => true,
    }
}

fn octet(input: &Input) -> Option<u8> {
    if let InputKind::Integer(number) = input.kind { number.try_into().ok() } else { None }
}

/// As many errors in one value are listed.
const MOST: usize = 100;

pub(in crate::layout) struct Reader<'n> {
    pub(super) nesting: &'n dyn Nesting,
    pub(super) slots: Slots,
    leaves: Vec<LeafSource>,
    misfits: Vec<ValueError>,
}

impl<'n> Reader<'n> {
    pub(in crate::layout) fn new(nesting: &'n dyn Nesting) -> Self {
        Self { nesting, slots: [0; SLOTS], leaves: Vec::new(), misfits: Vec::new() }
    }

    /// What was read, unless something is wrong with it.
    pub(in crate::layout) fn finish<T>(self, read: Option<T>) -> Result<T, ValueErrors> {
        read.filter(|_| self.misfits.is_empty()).ok_or_else(|| self.misfits.into())
    }
}

impl Reader<'_> {
    pub(in crate::layout) fn misfit<T>(&mut self, span: &Range<usize>, message: impl Into<String>) -> Option<T> {
        self.push(ValueError { span: span.clone(), topic: Topic::Shape, message: message.into(), instead: None });
        None
    }

    /// Keeps an error; of very many the last one that is kept says so.
    pub(super) fn push(&mut self, mut error: ValueError) {
        error.message = shortened(error.message);
        match self.misfits.len() {
            0..MOST => self.misfits.push(error),
            MOST => {
                error.message = "there are more mistakes than these, which are not listed".to_owned();
                error.instead = None;
                self.misfits.push(error);
            }
            _ => {}
        }
    }

    /// Nothing is known by this name.
    pub(in crate::layout) fn unknown(&mut self, key: &Key, what: &str, known: &[&str]) {
        let instead = nearest::nearest(&key.name, known.iter().copied()).map(str::to_owned);
        let message = match known {
            [] => format!("unknown {what} `{}`", key.name),
            known => {
                format!("unknown {what} `{}`; expected one of {}", key.name, nearest::some_of(known.iter().copied()))
            }
        };
        self.push(ValueError { span: key.span.clone(), topic: Topic::Shape, message, instead });
    }

    pub(super) fn leaf(&mut self, written: &Input, value: Value) -> Option<Value> {
        self.leaves.push(match &written.kind {
            InputKind::Text { text, start: Some(start) } if !text.is_empty() => {
                LeafSource { span: *start..start + text.len(), exact: true }
            }
            _ => LeafSource { span: written.span.clone(), exact: false },
        });
        Some(value)
    }

    pub(in crate::layout) fn node(&mut self, node: &Node, written: &Input) -> Option<Value> {
        if let Some(raw) = self.raw(node, written) {
            return raw;
        }
        match node {
            Node::Atom(Atom::Names(_)) => self.repeat(&Node::Atom(Atom::Name), written),
            Node::Atom(atom) => self.atom(atom, written),
            Node::Repeat(item, _) => self.repeat(item, written),
            Node::Optional(inner) | Node::Sized(_, inner) | Node::Padded(_, inner) => self.node(inner, written),
            Node::Zeros(_) => self.misfit(&written.span, "these octets are zero, and hold no value"),
            Node::Choice(choice) => self.choice(choice, written),
            Node::Record(_) | Node::Options(_) | Node::Pairs(_) | Node::Bits(_) => self.composite(node, written),
        }
    }

    /// `{ hex = "…" }`, which may stand for a value of any form.
    fn raw(&mut self, node: &Node, written: &Input) -> Option<Option<Value>> {
        let own_field = matches!(node, Node::Record(fields) if fields.iter().any(|field| &*field.name == "hex"));
        let inner = match &written.kind {
            InputKind::Table(fields) if !own_field => match &fields[..] {
                [(key, value)] if key.name == "hex" => value,
                _ => return None,
            },
            _ => return None,
        };
        let InputKind::Text { text, .. } = &inner.kind else {
            return Some(self.misfit(&inner.span, "hexadecimal octets are written in quotes: `hex = \"0a400401\"`"));
        };
        Some(match hex::parse(text) {
            Ok(octets) => {
                self.leaves.push(LeafSource { span: inner.span.clone(), exact: false });
                Some(Value::Raw(octets))
            }
            Err(error) => self.misfit(&inner.part(error.span()), error.to_string()),
        })
    }

    fn repeat(&mut self, item: &Node, written: &Input) -> Option<Value> {
        let parsed;
        let items = match &written.kind {
            InputKind::List(items) => items,
            InputKind::Text { text, start } => match input::list(text, *start, &written.span) {
                Ok(items) => {
                    parsed = items;
                    &parsed
                }
                Err(misfit) => {
                    self.push(misfit);
                    return None;
                }
            },
            // One value where several could stand is a list of one.
            _ => core::slice::from_ref(written),
        };
        let values: Vec<Option<Value>> = items.iter().map(|written| self.node(item, written)).collect();
        values.into_iter().collect::<Option<Vec<Value>>>().map(Value::List)
    }

    fn choice(&mut self, choice: &Choice, written: &Input) -> Option<Value> {
        let number = choice.by.pick(&self.slots);
        match choice.arm(number) {
            Some(node) => self.node(node, written),
            None => {
                self.misfit(&written.span, format!("nothing can stand here while `{}` is {number}", choice.by.text))
            }
        }
    }

    fn composite(&mut self, node: &Node, written: &Input) -> Option<Value> {
        let parsed;
        let written = match (&written.kind, node) {
            (InputKind::Text { text, start }, Node::Pairs(pairs)) if !text.trim_start().starts_with('{') => {
                return self.pair_text(pairs, text, *start, written);
            }
            (InputKind::Text { text, start }, _) => match input::list(text, *start, &written.span) {
                Ok(mut items) if items.len() == 1 => {
                    parsed = items.remove(0);
                    &parsed
                }
                Ok(_) => return self.misfit(&written.span, format!("expected {}", form(node))),
                Err(misfit) => {
                    self.push(misfit);
                    return None;
                }
            },
            _ => written,
        };
        match (node, &written.kind) {
            (Node::Record(fields), InputKind::Table(values)) => self.record(fields, values, written),
            (Node::Options(nested), InputKind::Table(values)) => self.options(nested, values),
            (Node::Options(nested), InputKind::List(items)) => self.option_list(nested, items),
            (Node::Pairs(pairs), InputKind::Table(values)) => self.pairs(pairs, values, written),
            (Node::Bits(fields), InputKind::Table(values)) => self.bits(fields, values, written),
            _ => {
                self.misfit(&written.span, format!("{} is not allowed here; write {}", written.describe(), form(node)))
            }
        }
    }

    /// Reports every name in `values` that is not in `known`.
    pub(super) fn unknown_names(&mut self, values: &[(Key, Input)], known: &[&str], what: &str) {
        for (at, (key, _)) in values.iter().enumerate() {
            if self.misfits.len() > MOST {
                break;
            }
            if !known.contains(&key.name.as_str()) {
                self.unknown(key, what, known);
            } else if values[..at].iter().any(|(earlier, _)| earlier.name == key.name) {
                self.misfit::<()>(&key.span, format!("`{}` is already given", key.name));
            }
        }
    }

    fn record(&mut self, fields: &[Field], values: &[(Key, Input)], whole: &Input) -> Option<Value> {
        let telling = fields.iter().filter(|field| !matches!(field.node, Node::Zeros(_)));
        let known: Vec<&str> = telling.clone().map(|field| &*field.name).collect();
        self.unknown_names(values, &known, "field");
        let (mut record, mut is_right) = (Vec::new(), true);
        for field in telling {
            let found = values.iter().find(|(key, _)| *key.name == *field.name);
            let Some((_, written)) = found else {
                if matches!(&field.node, Node::Options(nested) if nested.count.min == 0) {
                    record.push((field.name.clone(), Value::Options(Vec::new())));
                } else if !self.may_be_absent(&field.node) {
                    self.misfit::<()>(&whole.span, format!("the field `{}` is missing", field.name));
                }
                continue;
            };
            let Some(value) = self.node(&field.node, written) else {
                // Where it decides the form of a later field, nothing can be said of that.
                if field.keep.is_some() {
                    return None;
                }
                is_right = false;
                continue;
            };
            self.keep(field, &value);
            record.push((field.name.clone(), value));
        }
        is_right.then_some(Value::Record(record))
    }

    /// Keeps what decides the form of a later field.
    pub(in crate::layout) fn keep(&mut self, field: &Field, value: &Value) {
        if let (Some(slot), Value::Number(raw) | Value::Member(raw, _) | Value::Flags(raw, _)) = (field.keep, value) {
            self.slots[usize::from(slot)] = *raw;
        }
    }

    /// Whether a field may be left out: it is optional, or holds nothing as things stand.
    fn may_be_absent(&self, node: &Node) -> bool {
        match node {
            Node::Optional(_) | Node::Atom(Atom::Empty) => true,
            Node::Atom(Atom::Run(Run::Bytes, count)) => count.min == 0,
            Node::Choice(choice) => {
                choice.arm(choice.by.pick(&self.slots)).is_some_and(|node| self.may_be_absent(node))
            }
            _ => false,
        }
    }

    pub(super) fn wrong<T>(&mut self, written: &Input, wrong: AtomError) -> Option<T> {
        let span = written.part(wrong.at);
        let AtomError { topic, message, instead, .. } = wrong;
        self.push(ValueError { span, topic, message, instead });
        None
    }

    pub(super) fn atom(&mut self, atom: &Atom, written: &Input) -> Option<Value> {
        let value = match (&written.kind, atom) {
            (InputKind::Text { text, start }, Atom::Run(Run::Bytes, _) | Atom::Duid) => {
                // A value of nothing but octets is not taken apart before it comes here.
                match &input::list(text, *start, &written.span).unwrap_or_default()[..] {
                    [table @ Input { kind: InputKind::Table(fields), .. }] if is_text_table(fields) => {
                        return self.atom(atom, table);
                    }
                    _ => text_atom(atom, text),
                }
            }
            (InputKind::Text { text, .. }, _) => text_atom(atom, text),
            (InputKind::Integer(number), Atom::Number(form)) => atoms::fit(form, *number)
                .map(|scalar| Value::of(ScalarForm::Atom(atom), scalar))
                .map_err(|message| AtomError { topic: Topic::Bound, ..AtomError::all("", message) }),
            (InputKind::Integer(number), Atom::Seconds(_)) => atoms::seconds(&number.to_string()).map(Value::Seconds),
            (InputKind::Bool(on), Atom::Bool) => Ok(Value::Bool(*on)),
            (InputKind::Bool(true), Atom::Empty) => Ok(Value::Empty),
            (InputKind::List(items), Atom::Number(form)) if matches!(form.meaning, Meaning::Flags(_)) => {
                let names = items.iter().map(|item| match &item.kind {
                    InputKind::Text { text, .. } => text.as_str(),
                    _ => "?",
                });
                text_atom(atom, &names.collect::<Vec<_>>().join("+"))
            }
            (InputKind::List(items), Atom::Run(Run::Bytes, _) | Atom::Mac | Atom::Duid | Atom::Uuid | Atom::Guid) => {
                match items.iter().map(octet).collect::<Option<Vec<u8>>>() {
                    Some(octets) => text_atom(atom, &hex::colon(&octets)),
                    None => Err(AtomError::all("", "octets as a list are numbers from 0 to 255")),
                }
            }
            (InputKind::Table(fields), Atom::Run(Run::Bytes, _) | Atom::Duid) if is_text_table(fields) => {
                let InputKind::Text { text, .. } = &fields[0].1.kind else { return None };
                Ok(Value::Bytes(text.as_bytes().to_vec()))
            }
            _ => Err(AtomError::all("", format!("{} is not allowed here; write {}", written.describe(), atom.form()))),
        };
        match value {
            Ok(value) => self.leaf(written, value),
            Err(wrong) => self.wrong(written, wrong),
        }
    }
}
