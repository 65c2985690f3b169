//! A reader of the walk that explains every octet.

use crate::prelude::*;
use core::ops::Range;

use crate::layout::fault::Fault;
use crate::layout::form::atom::{Atom, Meaning, Number};
use crate::layout::node::{Nested, Node};
use crate::layout::scalar::{NameRef, Route4, Scalar};
use crate::layout::value::{Value, printable};
use crate::layout::walk::{Framing, ScalarForm, Shape, Visitor};
use crate::layout::{Layout, Nesting};

/// Some octets and what they are.
#[derive(Debug, Clone, PartialEq)]
pub struct ExplainedRow {
    /// The octets; empty for a heading.
    pub octets: Range<usize>,
    /// How deep it stands in the parts around it.
    pub depth: usize,
    /// What it is: a field's name, `length`, `2.` for the second of a list.
    pub label: String,
    /// What it means.
    pub meaning: String,
}

/// Octets that no row speaks of, because a fault kept the walk from them.
fn unread(rows: &mut Vec<ExplainedRow>, length: usize) {
    let mut at = 0;
    let mut gaps = Vec::new();
    for (index, row) in rows.iter().enumerate().filter(|(_, row)| !row.octets.is_empty()) {
        if row.octets.start > at {
            gaps.push((index, at..row.octets.start));
        }
        at = at.max(row.octets.end);
    }
    if at < length {
        gaps.push((rows.len(), at..length));
    }
    for (index, octets) in gaps.into_iter().rev() {
        rows.insert(index, ExplainedRow { octets, depth: 0, label: "unread".to_owned(), meaning: String::new() });
    }
}

pub(in crate::layout) struct Explainer<'n> {
    nesting: &'n dyn Nesting,
    rows: Vec<ExplainedRow>,
    /// The parts that are open, each with the depth outside it and, for a list, how many items it has had.
    open: Vec<(usize, Option<usize>)>,
    depth: usize,
    name: Option<String>,
}

impl<'n> Explainer<'n> {
    pub(in crate::layout) fn new(nesting: &'n dyn Nesting) -> Self {
        Self { nesting, rows: Vec::new(), open: Vec::new(), depth: 0, name: None }
    }

    /// A row for every octet, in order.
    pub(in crate::layout) fn rows(mut self, length: usize) -> Vec<ExplainedRow> {
        unread(&mut self.rows, length);
        self.rows
    }

    fn row(&mut self, octets: Range<usize>, label: impl Into<String>, meaning: impl Into<String>) {
        self.rows.push(ExplainedRow { octets, depth: self.depth, label: label.into(), meaning: meaning.into() });
    }

    /// The name of the next part: its field's, or its number in a list.
    fn label(&mut self) -> String {
        if let Some((_, Some(count))) = self.open.last_mut() {
            *count += 1;
            let number = format!("{count}.");
            return self.name.take().map_or(number.clone(), |name| format!("{name} {number}"));
        }
        self.name.take().unwrap_or_default()
    }

    fn name_rows(&mut self, name: NameRef<'_>, octets: Range<usize>, label: &str) {
        self.row(octets.start..octets.start, label, name.to_string());
        self.depth += 1;
        let mut at = octets.start;
        for text in name.labels_in_place() {
            let next = at + 1 + text.len();
            let text = String::from_utf8_lossy(text).into_owned();
            self.row(at..next, format!("label of {}", next - at - 1), text);
            at = next;
        }
        match octets.end - at {
            0 => {}
            1 => self.row(at..octets.end, "root label", "the name ends"),
            _ => self.row(at..octets.end, "pointer", "the rest stands earlier"),
        }
        self.depth -= 1;
    }
}

impl<'l, 'o> Visitor<'l, 'o> for Explainer<'_> {
    fn begin(&mut self, shape: Shape<'l>, at: usize) {
        let outside = self.depth;
        let label = self.label();
        let (label, meaning) = match shape {
            Shape::Option { code, name: Some(name), .. } => (format!("option {code}"), name),
            Shape::Option { code, name: None, .. } => (format!("option {code}"), "not in the codebook"),
            _ => (label, ""),
        };
        // What has no name adds no level.
        if !label.is_empty() {
            self.row(at..at, label, meaning);
            self.depth += 1;
        }
        self.open.push((outside, (shape == Shape::List).then_some(0)));
    }

    fn end(&mut self, _: usize) {
        if let Some((outside, _)) = self.open.pop() {
            self.depth = outside;
        }
    }

    fn field(&mut self, name: &'l str) {
        self.name = Some(name.to_owned());
    }

    fn key(&mut self, name: &'o str, octets: Range<usize>) {
        self.row(octets, "key", name);
        self.name = Some("value".to_owned());
    }

    fn scalar(&mut self, form: ScalarForm<'l>, scalar: Scalar<'o>, octets: Range<usize>) {
        if let ScalarForm::Bits(field) = form {
            let label = format!("{} ({} bits)", self.label(), field.width);
            // An octet that two fields share is shown with the first.
            let shown = self.rows.last().map_or(0, |row| row.octets.end).clamp(octets.start, octets.end);
            let value = Value::of(form, scalar);
            let aside = field.unit.and_then(|unit| Some(unit.duration(value.number()?.into())));
            return self.row(shown..octets.end, label, with_aside(&value, aside));
        }
        let label = Some(self.label()).filter(|label| !label.is_empty()).unwrap_or_else(|| "value".to_owned());
        let value = Value::of(form, scalar);
        match scalar {
            Scalar::Name(name) if !octets.is_empty() => self.name_rows(name, octets, &label),
            Scalar::Route4(Route4 { destination, length, router }) => {
                let (at, end) = (octets.start, octets.end);
                self.row(at..at, label, value.to_string());
                self.depth += 1;
                self.row(at..at + 1, "prefix length", length.to_string());
                if end - 5 > at {
                    self.row(at + 1..end - 4, "destination", destination.to_string());
                }
                self.row(end - 4..end, "router", router.to_string());
                self.depth -= 1;
            }
            Scalar::Bytes(bytes) if printable(bytes).is_some() => {
                self.row(octets, label, format!("{:?}", String::from_utf8_lossy(bytes)));
            }
            _ => {
                let aside = aside(self.nesting, form, &value);
                self.row(octets, label, with_aside(&value, aside));
            }
        }
    }

    fn frame(&mut self, frame: Framing, octets: Range<usize>) {
        let (label, meaning) = match frame {
            Framing::Length(length) => ("length", length.to_string()),
            Framing::Code(code) => ("code", code.to_string()),
            Framing::Pad => ("pad", String::new()),
            Framing::Reserved => ("reserved", String::new()),
            Framing::End => ("end", "of these options".to_owned()),
            Framing::AfterEnd => ("after the end", "not read".to_owned()),
            Framing::Sign => ("sign", String::new()),
        };
        self.row(octets, label, meaning);
    }

    fn fault(&mut self, _: Fault) {}
}

fn with_aside(value: &Value, aside: Option<String>) -> String {
    aside.map_or_else(|| value.to_string(), |aside| format!("{value}  {aside}"))
}

/// What a person wants to know of a number besides: how long it is, or which option has this code.
fn aside(nesting: &dyn Nesting, form: ScalarForm<'_>, value: &Value) -> Option<String> {
    let ScalarForm::Atom(Atom::Number(number)) = form else { return None };
    match (&number.meaning, value) {
        (Meaning::Unit(unit), Value::Number(count)) => Some(unit.duration((*count).into())),
        (Meaning::Unit(unit), Value::Integer(count)) => Some(unit.duration((*count).into())),
        (Meaning::Code(chapter), Value::Number(code)) => {
            let chapter = nesting.chapter(&Nested::all_of(chapter), None);
            Some(nesting.definition(chapter, u16::try_from(*code).ok()?)?.name.to_owned())
        }
        _ => None,
    }
}

impl Layout {
    /// A number or a list of numbers with what a person wants to know of each besides: how long so many seconds are, which
    /// option has a code. `None` for all other layouts, and where there is nothing to know.
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    ///
    /// let codebook = Codebook::standard();
    /// let requested = codebook.layout(codebook.find("v4:55")?);
    /// let value = requested.decode(codebook, &[1, 3, 252]).0.expect("numbers are always read");
    /// assert_eq!(requested.spelled(codebook, &value).as_deref(), Some("1 subnet-mask, 3 router, 252 site-specific-252"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn spelled(&self, nesting: &dyn Nesting, value: &Value) -> Option<String> {
        let one = |atom, value: &Value| {
            let aside = aside(nesting, ScalarForm::Atom(atom), value);
            let is_time = matches!(atom, Atom::Number(Number { meaning: Meaning::Unit(_), .. }));
            let spelled = aside.as_ref().map(|aside| match is_time {
                true => format!("{value} ({aside})"),
                false => format!("{value} {aside}"),
            });
            (aside.is_some(), spelled.unwrap_or_else(|| value.to_string()))
        };
        let shown = match (self.root(), value) {
            (Node::Atom(atom), value) => vec![one(atom, value)],
            (Node::Repeat(inner, _), Value::List(items)) => match &**inner {
                Node::Atom(atom) => items.iter().map(|item| one(atom, item)).collect(),
                _ => return None,
            },
            _ => return None,
        };
        let any = shown.iter().any(|(known, _)| *known);
        any.then(|| shown.into_iter().map(|(_, text)| text).collect::<Vec<_>>().join(", "))
    }
}
