//! From what is written to the value that a layout says it is.

use std::ops::Range;

use crate::layout::atoms;
use crate::layout::fault::Topic;
use crate::layout::form::atom::{Atom, Meaning, Run};
use crate::layout::input::{self, Input, InputKind, Key, ValueError, ValueErrors};
use crate::layout::node::{BitField, Choice, Field, Nested, Node, Pairs, SLOTS, Slots};
use crate::layout::read_atoms::{form, is_text_table, text_atom};
use crate::layout::scalar::Scalar;
use crate::layout::value::atom_error::AtomError;
use crate::layout::value::{SubOption, Value};
use crate::layout::walk::ScalarForm;
use crate::layout::{Layout, Nesting};
use crate::nearest;
use crate::octets::hex;

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
    let mut reader = Reader { nesting, slots: [0; SLOTS], leaves: Vec::new(), misfits: Vec::new() };
    match reader.node(layout.root(), written) {
        Some(value) if reader.misfits.is_empty() => Ok(Reading { value, leaves: reader.leaves }),
        _ => Err(reader.misfits.into()),
    }
}

/// What JSON has for one option, `{ code = 1, name = "agent-circuit-id", value = … }`, as its code and value.
fn option_entry(values: &[(Key, Input)]) -> Option<(Key, Input)> {
    let at = |name: &str| values.iter().find(|(key, _)| key.name == name).map(|(_, input)| input);
    let InputKind::Integer(code) = at("code")?.kind else { return None };
    let named = values.iter().all(|(key, _)| matches!(&*key.name, "code" | "name" | "value"));
    let key = Key { name: code.to_string(), span: at("code")?.span.clone() };
    named.then_some((key, at("value")?.clone()))
}

/// Whether a list may be the value itself.
fn takes_list(node: &Node) -> bool {
    match node {
        Node::Optional(inner) | Node::Sized(_, inner) | Node::Padded(_, inner) => takes_list(inner),
        Node::Record(_) | Node::Pairs(_) | Node::Bits(_) | Node::Zeros(_) => false,
        Node::Atom(Atom::Number(form)) => matches!(form.meaning, Meaning::Flags(_)),
        Node::Atom(atom) => {
            matches!(atom, Atom::Names(_) | Atom::Run(Run::Bytes, _) | Atom::Mac | Atom::Duid | Atom::Uuid)
        }
        Node::Repeat(..) | Node::Options(_) | Node::Choice(_) => true,
    }
}

fn octet(input: &Input) -> Option<u8> {
    if let InputKind::Integer(number) = input.kind { number.try_into().ok() } else { None }
}

struct Reader<'n> {
    nesting: &'n dyn Nesting,
    slots: Slots,
    leaves: Vec<LeafSource>,
    misfits: Vec<ValueError>,
}

impl Reader<'_> {
    fn misfit<T>(&mut self, span: &Range<usize>, message: impl Into<String>) -> Option<T> {
        self.misfits.push(ValueError {
            span: span.clone(),
            topic: Topic::Shape,
            message: message.into(),
            instead: None,
        });
        None
    }

    /// Nothing is known by this name.
    fn unknown(&mut self, key: &Key, what: &str, known: &[&str]) {
        let instead = nearest::nearest(&key.name, known.iter().copied()).map(str::to_owned);
        let message = match known {
            [] => format!("unknown {what} `{}`", key.name),
            known => format!("unknown {what} `{}`; expected one of {}", key.name, known.join(", ")),
        };
        self.misfits.push(ValueError { span: key.span.clone(), topic: Topic::Shape, message, instead });
    }

    fn leaf(&mut self, written: &Input, value: Value) -> Option<Value> {
        self.leaves.push(match &written.kind {
            InputKind::Text { text, start: Some(start) } if !text.is_empty() => {
                LeafSource { span: *start..start + text.len(), exact: true }
            }
            _ => LeafSource { span: written.span.clone(), exact: false },
        });
        Some(value)
    }

    fn node(&mut self, node: &Node, written: &Input) -> Option<Value> {
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
                    self.misfits.push(misfit);
                    return None;
                }
            },
            // One value where several could stand is a list of one.
            _ => std::slice::from_ref(written),
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
                    self.misfits.push(misfit);
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
    fn unknown_names(&mut self, values: &[(Key, Input)], known: &[&str], what: &str) {
        for (at, (key, _)) in values.iter().enumerate() {
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
        let mut record = Vec::new();
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
            let value = self.node(&field.node, written)?;
            if let (Some(slot), Value::Number(raw) | Value::Member(raw, _) | Value::Flags(raw, _)) =
                (field.keep, &value)
            {
                self.slots[usize::from(slot)] = *raw;
            }
            record.push((field.name.clone(), value));
        }
        Some(Value::Record(record))
    }

    /// Whether a field may be left out: it is optional, or holds nothing as things stand.
    fn may_be_absent(&self, node: &Node) -> bool {
        match node {
            Node::Optional(_) | Node::Atom(Atom::Empty) => true,
            Node::Choice(choice) => {
                choice.arm(choice.by.pick(&self.slots)).is_some_and(|node| *node == Node::Atom(Atom::Empty))
            }
            _ => false,
        }
    }

    fn options(&mut self, nested: &Nested, values: &[(Key, Input)]) -> Option<Value> {
        let chosen = nested.by.as_ref().map(|by| by.pick(&self.slots));
        let chapter = self.nesting.chapter(nested, chosen);
        let mut options = Vec::new();
        for (key, written) in values {
            let Some(code) = key.name.parse().ok().or_else(|| self.nesting.code(chapter, &key.name)) else {
                self.unknown(key, "option here", &self.nesting.names(chapter));
                continue;
            };
            let known = self.nesting.definition(chapter, code);
            // A list where the option holds none: several options of one code.
            let each = match (&known, &written.kind) {
                (Some(known), InputKind::List(items)) if !takes_list(known.layout.root()) => &items[..],
                _ => std::slice::from_ref(written),
            };
            for written in each {
                let outer = self.slots;
                let value = match &known {
                    Some(known) => self.node(known.layout.root(), written),
                    None => self.atom(&Atom::Run(Run::Bytes, crate::layout::form::atom::Count::ANY), written),
                };
                self.slots = outer;
                let name = known.as_ref().map(|known| known.name.into());
                options.extend(value.map(|value| SubOption { code, name, value }));
            }
        }
        Some(Value::Options(options))
    }

    /// Options as a list of tables, so that one may stand twice.
    fn option_list(&mut self, nested: &Nested, items: &[Input]) -> Option<Value> {
        let mut options = Vec::new();
        for item in items {
            let InputKind::Table(values) = &item.kind else {
                return self.misfit(&item.span, "expected a table of options, `{ name = value }`");
            };
            let entry = option_entry(values);
            if let Some(Value::Options(more)) =
                self.options(nested, entry.as_ref().map_or(values, std::slice::from_ref))
            {
                options.extend(more);
            }
        }
        Some(Value::Options(options))
    }

    fn pairs(&mut self, pairs: &Pairs, values: &[(Key, Input)], whole: &Input) -> Option<Value> {
        let known: Vec<&str> = pairs.keys.iter().map(|key| &*key.name).collect();
        if !pairs.open {
            self.unknown_names(values, &known, "key");
        }
        for key in pairs.keys.iter().filter(|key| key.required) {
            if !values.iter().any(|(given, _)| *given.name == *key.name) {
                self.misfit::<()>(&whole.span, format!("the key `{}` must be given", key.name));
            }
        }
        let mut record = Vec::new();
        for (key, written) in values {
            let known = pairs.keys.iter().find(|known| *known.name == *key.name);
            if known.is_none() && !pairs.open {
                continue;
            }
            let text = Atom::Run(Run::Utf8, crate::layout::form::atom::Count::ANY);
            let value = self.atom(known.map_or(&text, |known| &known.atom), written);
            let separates = |text: &str| text.contains(&*pairs.between) || text.contains(&*pairs.equals);
            if value.as_ref().is_some_and(|value| separates(&value.to_string())) {
                let message = format!(
                    "{:?} and {:?} separate pairs here and cannot stand in a value",
                    pairs.between, pairs.equals
                );
                self.misfit::<()>(&written.span, message);
            }
            record.extend(value.map(|value| (key.name.as_str().into(), value)));
        }
        Some(Value::Record(record))
    }

    /// The text as the device will read it, taken apart to find what does not fit.
    fn pair_text(&mut self, pairs: &Pairs, text: &str, start: Option<usize>, whole: &Input) -> Option<Value> {
        let mut values = Vec::new();
        let mut at = 0;
        for pair in text.split(&*pairs.between) {
            let Some((key, value)) = pair.split_once(&*pairs.equals) else {
                let message = format!("no value is given for this key; write `KEY{}value`", pairs.equals);
                return self.misfit(&whole.part(at..at + pair.len()), message);
            };
            let value_at = at + key.len() + pairs.equals.len();
            values.push((
                Key { name: key.to_owned(), span: whole.part(at..at + key.len()) },
                Input {
                    span: whole.part(value_at..value_at + value.len()),
                    kind: InputKind::Text { text: value.to_owned(), start: start.map(|start| start + value_at) },
                },
            ));
            at += pair.len() + pairs.between.len();
        }
        self.pairs(pairs, &values, whole)
    }

    fn bits(&mut self, fields: &[BitField], values: &[(Key, Input)], whole: &Input) -> Option<Value> {
        let known: Vec<&str> = fields.iter().map(|field| &*field.name).collect();
        self.unknown_names(values, &known, "field");
        let mut record = Vec::new();
        for field in fields {
            match values.iter().find(|(key, _)| *key.name == *field.name) {
                Some((_, written)) => {
                    let value = self.bit_field(field, written)?;
                    record.push((field.name.clone(), value));
                }
                None if field.is_reserved() => {}
                None => {
                    self.misfit::<()>(&whole.span, format!("the field `{}` is missing", field.name));
                }
            }
        }
        Some(Value::Record(record))
    }

    fn bit_field(&mut self, field: &BitField, written: &Input) -> Option<Value> {
        let number = match (&written.kind, &field.of) {
            (InputKind::Integer(number), _) => *number as f64,
            (InputKind::Float(number), _) => *number,
            (InputKind::Text { text, .. }, Some(of)) => match atoms::member(of, text) {
                Ok(number) => number as f64,
                Err(wrong) => return self.wrong(written, wrong),
            },
            (InputKind::Text { text, .. }, None) => {
                match atoms::integer(text).map(|n| n as f64).or(text.parse().ok()) {
                    Some(number) => number,
                    None => return self.misfit(&written.span, format!("`{text}` is not a number")),
                }
            }
            _ => return self.misfit(&written.span, format!("{} is not a number", written.describe())),
        };
        let unit = (1u64 << field.fraction.unwrap_or(0)) as f64;
        let span = 2f64.powi(field.width as i32) / unit;
        let (min, past) = if field.signed { (-span / 2.0, span / 2.0) } else { (0.0, span) };
        if number < min || number >= past || (field.fraction.is_none() && number.fract() != 0.0) {
            let message = format!("{number} does not fit in this field of {} bits", field.width);
            return self.misfit(&written.span, message);
        }
        let scalar = match field.fraction {
            // Rounded to what the field can hold, so that the value is the one that will be read back.
            Some(_) => Scalar::Decimal((number * unit).round() / unit),
            None if field.signed => Scalar::Integer(number as i64),
            None => Scalar::Number(number as u64),
        };
        self.leaf(written, Value::of(ScalarForm::Bits(field), scalar))
    }

    fn wrong<T>(&mut self, written: &Input, wrong: AtomError) -> Option<T> {
        let span = written.part(wrong.at);
        let AtomError { topic, message, instead, .. } = wrong;
        self.misfits.push(ValueError { span, topic, message, instead });
        None
    }

    fn atom(&mut self, atom: &Atom, written: &Input) -> Option<Value> {
        let value = match (&written.kind, atom) {
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
            (InputKind::List(items), Atom::Run(Run::Bytes, _) | Atom::Mac | Atom::Duid | Atom::Uuid) => {
                match items.iter().map(octet).collect::<Option<Vec<u8>>>() {
                    Some(octets) => text_atom(atom, &hex::colon(&octets)),
                    None => Err(AtomError::all("", "octets as a list are numbers from 0 to 255")),
                }
            }
            (InputKind::Table(fields), Atom::Run(Run::Bytes, _)) if is_text_table(fields) => {
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
