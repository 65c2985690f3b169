//! From a value to octets.

use crate::prelude::*;
use core::fmt;
use core::ops::Range;

use crate::layout::form::atom::Atom;
use crate::layout::node::padding;
use crate::layout::node::{BitField, Nested, Node, Pairs, Prefix, SLOTS, Slots};
use crate::layout::scalar::nearest_integer;
use crate::layout::value::{SubOption, Value};
use crate::layout::{Layout, Nesting};
use crate::octets::{number, put_number};

/// Octets, and which of them each leaf of the value became.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Encoded {
    /// The payload.
    pub octets: Vec<u8>,
    /// For each value without values inside, in order, the octets it became.
    pub leaves: Vec<Range<usize>>,
}

/// Why a value has no octets under a layout.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct EncodeError {
    /// The fields and options down to the value, like `servers.2`; empty for the whole.
    pub path: String,
    /// What is wrong.
    pub message: String,
}

impl EncodeError {
    /// The same, of this option.
    pub(crate) fn of(option: &str, error: Self) -> Self {
        at(option)(error)
    }
}

impl fmt::Display for EncodeError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if self.path.is_empty() { f.write_str(&self.message) } else { write!(f, "{}: {}", self.path, self.message) }
    }
}

impl core::error::Error for EncodeError {}

pub(in crate::layout) fn encode(layout: &Layout, nesting: &dyn Nesting, value: &Value) -> Result<Encoded, EncodeError> {
    encode_part(layout.root(), nesting, value)
}

/// Encodes a part of a layout by itself, which no earlier field decides.
pub(crate) fn encode_part(node: &Node, nesting: &dyn Nesting, value: &Value) -> Result<Encoded, EncodeError> {
    let mut encoder = Encoder { out: Encoded::default(), nesting, base: 0, slots: [0; SLOTS] };
    encoder.node(node, value)?;
    Ok(encoder.out)
}

pub(in crate::layout) struct Encoder<'n> {
    pub(in crate::layout) out: Encoded,
    nesting: &'n dyn Nesting,
    /// Where compression pointers count from.
    pub(in crate::layout) base: usize,
    pub(in crate::layout) slots: Slots,
}

type Done = Result<(), EncodeError>;

pub(in crate::layout) fn wrong<T>(message: impl Into<String>) -> Result<T, EncodeError> {
    Err(EncodeError { path: String::new(), message: message.into() })
}

pub(in crate::layout) fn at(step: impl fmt::Display) -> impl FnOnce(EncodeError) -> EncodeError {
    move |error| {
        let path = if error.path.is_empty() { step.to_string() } else { format!("{step}.{}", error.path) };
        EncodeError { path, ..error }
    }
}

/// Refuses names that nothing has, and names that are repeated.
fn only(values: &[(Box<str>, Value)], is_known: impl Fn(&str) -> bool) -> Done {
    for (index, (name, _)) in values.iter().enumerate() {
        if !is_known(name) {
            return wrong(format!("unknown field `{name}`"));
        }
        if values[..index].iter().any(|(earlier, _)| earlier == name) {
            return wrong(format!("the field `{name}` is repeated"));
        }
    }
    Ok(())
}

impl Encoder<'_> {
    pub(in crate::layout) fn leaf(&mut self, octets: &[u8]) {
        let start = self.out.octets.len();
        self.out.octets.extend_from_slice(octets);
        self.out.leaves.push(start..self.out.octets.len());
    }

    fn node(&mut self, node: &Node, value: &Value) -> Done {
        if let Value::Raw(octets) = value {
            self.leaf(octets);
            return Ok(());
        }
        match (node, value) {
            (Node::Atom(atom @ Atom::Names(_)), _) => self.names(atom, value),
            (Node::Atom(atom), _) => self.atom(atom, value),
            (Node::Record(fields), Value::Record(values)) => {
                only(values, |name| fields.iter().any(|field| *field.name == *name))?;
                for field in fields {
                    let found = values.iter().find(|(name, _)| *name == field.name).map(|(_, value)| value);
                    let start = self.out.octets.len();
                    match (found, &field.node) {
                        (Some(value), node) => self.node(node, value).map_err(at(&field.name))?,
                        (None, Node::Optional(_) | Node::Choice(_)) => {}
                        (None, Node::Options(nested)) if nested.count.min == 0 => {}
                        (None, Node::Zeros(count)) => self.out.octets.resize(start + count, 0),
                        (None, _) => return wrong(format!("the field `{}` is missing", field.name)),
                    }
                    if let Some(slot) = field.keep {
                        self.slots[usize::from(slot)] = number(&self.out.octets[start..]);
                    }
                }
                Ok(())
            }
            // One value where several could stand is a list of one.
            (Node::Repeat(item, _), value) if !matches!(value, Value::List(_)) => self.node(item, value),
            (Node::Repeat(item, _), Value::List(items)) => {
                for (index, value) in items.iter().enumerate() {
                    self.node(item, value).map_err(at(index + 1))?;
                }
                Ok(())
            }
            (Node::Optional(inner), _) => self.node(inner, value),
            (Node::Sized(prefix, inner), _) => self.sized(*prefix, |encoder| encoder.node(inner, value)),
            (Node::Padded(before, inner), _) => {
                let start = self.out.octets.len();
                self.node(inner, value)?;
                let zeros = padding(before + self.out.octets.len() - start);
                self.out.octets.resize(self.out.octets.len() + zeros, 0);
                Ok(())
            }
            (Node::Options(nested), Value::Options(options)) => self.options(nested, options),
            (Node::Choice(choice), _) => match choice.arm(choice.by.pick(&self.slots)) {
                Some(node) => self.node(node, value),
                None => wrong(format!("no form is defined for this `{}`", choice.by.text)),
            },
            (Node::Pairs(pairs), Value::Record(values)) => self.pairs(pairs, values),
            (Node::Bits(fields), Value::Record(values)) => self.bits(fields, values),
            (_, value) => wrong(format!("`{value}` is not of this layout's form")),
        }
    }

    fn sized(&mut self, prefix: Prefix, put: impl FnOnce(&mut Self) -> Done) -> Done {
        let start = self.out.octets.len();
        put_number(&mut self.out.octets, 0, prefix.octets);
        let first = self.out.octets.len();
        put(self)?;
        let length = self.out.octets.len() - first + prefix.extra;
        let most = (1usize << (8 * prefix.octets)) - 1;
        if length > most {
            return wrong(format!("{length} octets, but the length in front can count at most {most}"));
        }
        let octets = length.to_be_bytes();
        self.out.octets[start..first].copy_from_slice(&octets[octets.len() - prefix.octets..]);
        Ok(())
    }

    fn options(&mut self, nested: &Nested, options: &[SubOption]) -> Done {
        let chosen = nested.by.as_ref().map(|by| by.pick(&self.slots));
        let chapter = self.nesting.chapter(nested, chosen);
        for option in options {
            put_number(&mut self.out.octets, option.code.into(), chapter.code_octets);
            let known = self.nesting.definition(chapter, option.code);
            let outer = (self.base, self.slots);
            let length = Prefix { octets: chapter.length_octets, extra: 0 };
            self.sized(length, |encoder| {
                encoder.base = encoder.out.octets.len();
                match (known, &option.value) {
                    (Some(known), value) => encoder.node(known.layout.root(), value),
                    (None, Value::Bytes(octets) | Value::Raw(octets)) => {
                        encoder.leaf(octets);
                        Ok(())
                    }
                    (None, _) => wrong("this option is not in the codebook, so its value must be octets"),
                }
            })
            .map_err(at(option.key()))?;
            (self.base, self.slots) = outer;
        }
        Ok(())
    }

    fn pairs(&mut self, pairs: &Pairs, values: &[(Box<str>, Value)]) -> Done {
        only(values, |name| pairs.open || pairs.keys.iter().any(|key| *key.name == *name))?;
        for (index, (key, value)) in values.iter().enumerate() {
            if index > 0 {
                self.out.octets.extend_from_slice(pairs.between.as_bytes());
            }
            self.out.octets.extend_from_slice(key.as_bytes());
            self.out.octets.extend_from_slice(pairs.equals.as_bytes());
            let text = match value {
                Value::Bool(on) => u8::from(*on).to_string(),
                Value::Seconds(seconds) if *seconds != u32::MAX => seconds.to_string(),
                Value::Text(text) => text.clone(),
                value if value.is_leaf() => value.to_string(),
                _ => return wrong(format!("{key}: KEY=value text holds single values only")),
            };
            if let Some(sign) = [&pairs.between, &pairs.equals].into_iter().find(|sign| text.contains(&***sign)) {
                return wrong(format!("{key}: the value holds {sign:?}, which separates the pairs of this option"));
            }
            self.leaf(text.as_bytes());
        }
        Ok(())
    }

    fn bits(&mut self, fields: &[BitField], values: &[(Box<str>, Value)]) -> Done {
        only(values, |name| fields.iter().any(|field| *field.name == *name))?;
        let mut all = 0u128;
        let width: u32 = fields.iter().map(|field| field.width).sum();
        let start = self.out.octets.len();
        let mut left = width;
        for field in fields {
            let found = values.iter().find(|(name, _)| *name == field.name).map(|(_, value)| value);
            let raw = match found {
                Some(value) => bit_field(field, value).map_err(at(&field.name))?,
                None if field.is_reserved() => 0,
                None => return wrong(format!("the field `{}` is missing", field.name)),
            };
            let first = start + ((width - left) / 8) as usize;
            left -= field.width;
            all |= u128::from(raw) << left;
            if found.is_some() {
                self.out.leaves.push(first..start + (width - left).div_ceil(8) as usize);
            }
        }
        let octets = all.to_be_bytes();
        self.out.octets.extend_from_slice(&octets[octets.len() - width as usize / 8..]);
        Ok(())
    }
}

fn bit_field(field: &BitField, value: &Value) -> Result<u64, EncodeError> {
    let number = match (field.fraction, value) {
        (Some(fraction), Value::Decimal(number)) => nearest_integer(number * (1u64 << fraction) as f64),
        (Some(fraction), Value::Integer(number)) => i128::from(*number) << fraction,
        (None, Value::Number(number) | Value::Member(number, _)) => i128::from(*number),
        (None, Value::Integer(number)) => i128::from(*number),
        _ => return wrong(format!("`{value}` is not a number of this field's form")),
    };
    let (min, max) = if field.signed {
        (-(1i128 << (field.width - 1)), (1i128 << (field.width - 1)) - 1)
    } else {
        (0, (1i128 << field.width) - 1)
    };
    if number < min || number > max {
        return wrong(format!("`{value}` does not fit in {} bits", field.width));
    }
    Ok(number as u64 & (u64::MAX >> (64 - field.width)))
}
