//! Readers of the walk: one keeps the faults, one builds a value.

use std::ops::Range;

use super::fault::Fault;
use super::scalar::Scalar;
use super::value::{SubOption, Value};
use super::walk::{Form, Shape, Visitor};
use super::{Layout, Nesting};

pub(super) fn faults(layout: &Layout, nesting: &dyn Nesting, octets: &[u8]) -> Vec<Fault> {
    let mut faults = Faults(Vec::new());
    layout.walk(nesting, octets, &mut faults);
    faults.0
}

struct Faults(Vec<Fault>);

impl<'l, 'o> Visitor<'l, 'o> for Faults {
    fn scalar(&mut self, _: Form<'l>, _: Scalar<'o>, _: Range<usize>) {}

    fn fault(&mut self, fault: Fault) {
        self.0.push(fault);
    }
}

pub(super) fn decode(layout: &Layout, nesting: &dyn Nesting, octets: &[u8]) -> (Option<Value>, Vec<Fault>) {
    let mut builder = Builder { open: Vec::new(), name: None, whole: None, faults: Vec::new() };
    layout.walk(nesting, octets, &mut builder);
    (builder.whole, builder.faults)
}

struct Builder {
    /// The parts that have begun, each with the name it will have in the part around it.
    open: Vec<(Option<Box<str>>, Value)>,
    name: Option<Box<str>>,
    whole: Option<Value>,
    faults: Vec<Fault>,
}

impl Builder {
    fn add(&mut self, name: Option<Box<str>>, value: Value) {
        match self.open.last_mut().map(|(_, around)| around) {
            Some(Value::List(items)) => items.push(value),
            Some(Value::Record(fields)) => fields.push((name.unwrap_or_default(), value)),
            Some(Value::Options(options)) => match value {
                // An option opens as a list of one, see `begin`.
                Value::List(mut one) => {
                    if let (Some(Value::Number(code)), Some(value)) = (one.first().cloned(), one.pop()) {
                        options.push(SubOption { code: code as u16, name, value });
                    }
                }
                other => options.push(SubOption { code: 0, name, value: other }),
            },
            _ => self.whole = Some(value),
        }
    }
}

impl<'l, 'o> Visitor<'l, 'o> for Builder {
    fn begin(&mut self, shape: Shape<'l>, _: usize) {
        let (name, value) = match shape {
            Shape::Record | Shape::Pairs | Shape::Bits => (self.name.take(), Value::Record(Vec::new())),
            Shape::List => (self.name.take(), Value::List(Vec::new())),
            Shape::Options => (self.name.take(), Value::Options(Vec::new())),
            Shape::Option { code, name } => (name.map(Into::into), Value::List(vec![Value::Number(code.into())])),
        };
        self.open.push((name, value));
    }

    fn end(&mut self, _: usize) {
        if let Some((name, value)) = self.open.pop() {
            self.add(name, value);
        }
    }

    fn field(&mut self, name: &'l str) {
        self.name = Some(name.into());
    }

    fn key(&mut self, name: &'o str, _: Range<usize>) {
        self.name = Some(name.into());
    }

    fn scalar(&mut self, form: Form<'l>, scalar: Scalar<'o>, _: Range<usize>) {
        let name = self.name.take();
        self.add(name, Value::of(form, scalar));
    }

    fn fault(&mut self, fault: Fault) {
        self.faults.push(fault);
    }
}
