//! Readers of the walk: one keeps the faults, one builds a value.

use crate::prelude::*;
use core::ops::Range;

use smallvec::SmallVec;

use crate::layout::explain::{ExplainedRow, Explainer};
use crate::layout::fault::Fault;
use crate::layout::scalar::Scalar;
use crate::layout::value::{SubOption, Value};
use crate::layout::walk::plain::is_plain;
use crate::layout::walk::{Framing, ScalarForm, Shape, Visitor};
use crate::layout::{Layout, Nesting};

pub(in crate::layout) fn faults(layout: &Layout, nesting: &dyn Nesting, octets: &[u8]) -> Vec<Fault> {
    let mut faults = Faults(Vec::new());
    layout.walk(nesting, octets, &mut faults);
    faults.0
}

pub(in crate::layout) fn fits<N: Nesting + ?Sized>(layout: &Layout, nesting: &N, octets: &[u8]) -> bool {
    is_plain(layout, nesting, octets, &mut ()) || {
        let mut faults = Faults(Vec::new());
        layout.walk(nesting, octets, &mut faults);
        faults.0.is_empty()
    }
}

struct Faults(Vec<Fault>);

impl<'l, 'o> Visitor<'l, 'o> for Faults {
    fn scalar(&mut self, _: ScalarForm<'l>, _: Scalar<'o>, _: Range<usize>) {}

    fn fault(&mut self, fault: Fault) {
        self.0.push(fault);
    }
}

/// Everything that one walk over some octets came to.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Decoded {
    /// What they mean, as far as they could be read.
    pub value: Option<Value>,
    /// What is wrong with them.
    pub faults: Vec<Fault>,
    /// The options inside, however deep, in the order of the octets.
    pub options: Vec<NestedOption>,
    /// What every octet is, where that was wanted.
    pub rows: Vec<ExplainedRow>,
}

/// The options inside an option, without an allocation where they are few.
pub(crate) type NestedOptions = SmallVec<[NestedOption; 8]>;

/// An option inside another.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct NestedOption {
    /// Its code.
    pub code: u16,
    /// The chapter of codes that it is of, as the codebook counts them.
    pub chapter: Option<usize>,
    /// The option among these that it stands in; `None` for the outermost.
    pub inside: Option<usize>,
    /// From its code to the end of its payload.
    pub around: Range<usize>,
    /// Its payload.
    pub payload: Range<usize>,
}

pub(in crate::layout) fn decode(layout: &Layout, nesting: &dyn Nesting, octets: &[u8]) -> (Option<Value>, Vec<Fault>) {
    let mut builder = Builder::default();
    layout.walk(nesting, octets, &mut builder);
    (builder.whole, builder.faults)
}

pub(in crate::layout) fn decoded<'l, 'o, N: Nesting + ?Sized, V: Visitor<'l, 'o>>(
    layout: &'l Layout,
    nesting: &'l N,
    octets: &'o [u8],
    beside: &mut V,
) -> Decoded {
    let mut readers = ((Builder::default(), Finder::default()), beside);
    layout.walk(nesting, octets, &mut readers);
    let (Builder { whole: value, faults, .. }, Finder { options, .. }) = readers.0;
    Decoded { value, faults, options: options.into_vec(), rows: Vec::new() }
}

pub(in crate::layout) fn explained(layout: &Layout, nesting: &dyn Nesting, octets: &[u8]) -> Decoded {
    let mut readers = ((Builder::default(), Finder::default()), Explainer::new(nesting));
    layout.walk(nesting, octets, &mut readers);
    let ((Builder { whole: value, faults, .. }, Finder { options, .. }), explainer) = readers;
    Decoded { value, faults, options: options.into_vec(), rows: explainer.rows(octets.len()) }
}

/// The same call to each of two readers.
macro_rules! to_both {
    ($($name:ident($($argument:ident: $type:ty),+);)+) => {$(
        fn $name(&mut self, $($argument: $type),+) {
            self.0.$name($($argument.clone()),+);
            self.1.$name($($argument),+);
        }
    )+};
}

/// Two readers of one walk.
impl<'l, 'o, A: Visitor<'l, 'o>, B: Visitor<'l, 'o>> Visitor<'l, 'o> for (A, B) {
    to_both! {
        begin(shape: Shape<'l>, at: usize);
        end(at: usize);
        field(name: &'l str);
        key(name: &'o str, octets: Range<usize>);
        scalar(form: ScalarForm<'l>, scalar: Scalar<'o>, octets: Range<usize>);
        frame(frame: Framing, octets: Range<usize>);
        fault(fault: Fault);
    }
}

/// A borrowed reader.
impl<'l, 'o, V: Visitor<'l, 'o>> Visitor<'l, 'o> for &mut V {
    fn begin(&mut self, shape: Shape<'l>, at: usize) {
        (**self).begin(shape, at);
    }

    fn end(&mut self, at: usize) {
        (**self).end(at);
    }

    fn field(&mut self, name: &'l str) {
        (**self).field(name);
    }

    fn key(&mut self, name: &'o str, octets: Range<usize>) {
        (**self).key(name, octets);
    }

    fn scalar(&mut self, form: ScalarForm<'l>, scalar: Scalar<'o>, octets: Range<usize>) {
        (**self).scalar(form, scalar, octets);
    }

    fn frame(&mut self, frame: Framing, octets: Range<usize>) {
        (**self).frame(frame, octets);
    }

    fn fault(&mut self, fault: Fault) {
        (**self).fault(fault);
    }
}

/// A reader that keeps nothing.
pub(in crate::layout) struct Nothing;

impl<'l, 'o> Visitor<'l, 'o> for Nothing {
    fn scalar(&mut self, _: ScalarForm<'l>, _: Scalar<'o>, _: Range<usize>) {}

    fn fault(&mut self, _: Fault) {}
}

/// Notes where options inside an option stand.
#[derive(Default)]
pub(crate) struct Finder {
    /// How many parts are open.
    depth: usize,
    /// Those of them that are options: how deep, and which.
    open: SmallVec<[(usize, usize); 4]>,
    pub(crate) options: NestedOptions,
}

impl Finder {
    /// Forgets what it found, before another walk.
    #[cfg(feature = "std")]
    pub(crate) fn clear(&mut self) {
        self.depth = 0;
        self.open.clear();
        self.options.clear();
    }
}

impl<'l, 'o> Visitor<'l, 'o> for Finder {
    fn begin(&mut self, shape: Shape<'l>, at: usize) {
        self.depth += 1;
        if let Shape::Option { code, chapter, .. } = shape {
            let inside = self.open.last().map(|(_, place)| *place);
            self.open.push((self.depth, self.options.len()));
            self.options.push(NestedOption { code, chapter, inside, around: at..at, payload: at..at });
        }
    }

    fn end(&mut self, at: usize) {
        let ends = self.open.last().is_some_and(|(depth, _)| *depth == self.depth).then(|| self.open.pop()).flatten();
        self.depth = self.depth.saturating_sub(1);
        if let Some((_, place)) = ends {
            let NestedOption { around, payload, .. } = &mut self.options[place];
            payload.end = at.max(payload.start);
            around.end = payload.end;
        }
    }

    fn frame(&mut self, frame: Framing, octets: Range<usize>) {
        let innermost = self.open.last().filter(|(depth, _)| *depth == self.depth);
        if let (Framing::Code(_) | Framing::Length(_), Some((_, place))) = (frame, innermost) {
            let payload = &mut self.options[*place].payload;
            *payload = octets.end..octets.end.max(payload.end);
        }
    }

    fn scalar(&mut self, _: ScalarForm<'l>, _: Scalar<'o>, _: Range<usize>) {}

    fn fault(&mut self, _: Fault) {}
}

#[derive(Default)]
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
            Shape::Option { code, name, .. } => (name.map(Into::into), Value::List(vec![Value::Number(code.into())])),
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

    fn scalar(&mut self, form: ScalarForm<'l>, scalar: Scalar<'o>, _: Range<usize>) {
        let name = self.name.take();
        self.add(name, Value::of(form, scalar));
    }

    fn fault(&mut self, fault: Fault) {
        self.faults.push(fault);
    }
}
