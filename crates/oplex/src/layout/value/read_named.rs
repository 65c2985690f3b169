//! Options, `KEY=value` pairs and bits: the parts of a value that have names of their own.

use crate::layout::atoms;
use crate::layout::form::atom::{Atom, Count, Run};
use crate::layout::input::{Input, InputKind, Key};
use crate::layout::node::{BitField, Nested, Pairs};
use crate::layout::scalar::{Scalar, nearest_integer};
use crate::layout::value::{SubOption, Value};
use crate::layout::walk::ScalarForm;
use crate::prelude::*;

use super::read::{Reader, takes_list};

/// What JSON has for one option, `{ code = 1, name = "agent-circuit-id", value = … }`, as its code and value.
fn option_entry(values: &[(Key, Input)]) -> Option<(Key, Input)> {
    let at = |name: &str| values.iter().find(|(key, _)| key.name == name).map(|(_, input)| input);
    let InputKind::Integer(code) = at("code")?.kind else { return None };
    let named = values.iter().all(|(key, _)| matches!(&*key.name, "code" | "name" | "value"));
    let key = Key { name: code.to_string(), span: at("code")?.span.clone() };
    named.then_some((key, at("value")?.clone()))
}

impl Reader<'_> {
    pub(super) fn options(&mut self, nested: &Nested, values: &[(Key, Input)]) -> Option<Value> {
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
                _ => core::slice::from_ref(written),
            };
            for written in each {
                let outer = self.slots;
                let value = match &known {
                    Some(known) => self.node(known.layout.root(), written),
                    None => self.atom(&Atom::Run(Run::Bytes, Count::ANY), written),
                };
                self.slots = outer;
                let name = known.as_ref().map(|known| known.name.into());
                options.extend(value.map(|value| SubOption { code, name, value }));
            }
        }
        Some(Value::Options(options))
    }

    /// Options as a list of tables, so that one may stand twice.
    pub(super) fn option_list(&mut self, nested: &Nested, items: &[Input]) -> Option<Value> {
        let mut options = Vec::new();
        for item in items {
            let InputKind::Table(values) = &item.kind else {
                return self.misfit(&item.span, "expected a table of options, `{ name = value }`");
            };
            let entry = option_entry(values);
            if let Some(Value::Options(more)) =
                self.options(nested, entry.as_ref().map_or(values, core::slice::from_ref))
            {
                options.extend(more);
            }
        }
        Some(Value::Options(options))
    }

    pub(super) fn pairs(&mut self, pairs: &Pairs, values: &[(Key, Input)], whole: &Input) -> Option<Value> {
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
            let text = Atom::Run(Run::Utf8, Count::ANY);
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
    pub(super) fn pair_text(
        &mut self,
        pairs: &Pairs,
        text: &str,
        start: Option<usize>,
        whole: &Input,
    ) -> Option<Value> {
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

    pub(super) fn bits(&mut self, fields: &[BitField], values: &[(Key, Input)], whole: &Input) -> Option<Value> {
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
        let span = (1u128 << field.width) as f64 / unit;
        let (min, past) = if field.signed { (-span / 2.0, span / 2.0) } else { (0.0, span) };
        if number < min || number >= past || (field.fraction.is_none() && number as i128 as f64 != number) {
            let message = format!("{number} does not fit in this field of {} bits", field.width);
            return self.misfit(&written.span, message);
        }
        let scalar = match field.fraction {
            // Rounded to what the field can hold, so that the value is the one that will be read back.
            Some(_) => Scalar::Decimal(nearest_integer(number * unit) as f64 / unit),
            None if field.signed => Scalar::Integer(number as i64),
            None => Scalar::Number(number as u64),
        };
        self.leaf(written, Value::of(ScalarForm::Bits(field), scalar))
    }
}
