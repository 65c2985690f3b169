//! A value as is written it: in TOML, in JSON, or as text; with the place of every part.

use crate::prelude::*;
use core::fmt;
use core::ops::Range;

use crate::layout::fault::Topic;

/// A value as it was written, before a layout has said what it means.
#[derive(Debug, Clone, PartialEq)]
pub struct Input {
    /// What was written.
    pub kind: InputKind,
    /// Where, in bytes of the text it came from.
    pub span: Range<usize>,
}

/// What was written.
#[derive(Debug, Clone, PartialEq)]
#[non_exhaustive]
pub enum InputKind {
    /// Text, which a layout may read further.
    Text {
        /// The text itself.
        text: String,
        /// Where its first character stands, when every byte of the text is one byte of the source.
        start: Option<usize>,
    },
    /// A whole number.
    Integer(i128),
    /// A number with a fraction.
    Float(f64),
    /// True or false.
    Bool(bool),
    /// Several values.
    List(Vec<Input>),
    /// Named values, in the order written.
    Table(Vec<(Key, Input)>),
}

/// A name in a table, and where it stands.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Key {
    /// The name.
    pub name: String,
    /// Where it stands.
    pub span: Range<usize>,
}

/// Why something written cannot become a value, and where.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ValueError {
    /// The characters it is about.
    pub span: Range<usize>,
    /// What kind of mistake it is.
    pub topic: Topic,
    /// What is wrong.
    pub message: String,
    /// What was probably meant.
    pub instead: Option<String>,
}

impl fmt::Display for ValueError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.message)?;
        self.instead.iter().try_for_each(|instead| write!(f, "; did you mean `{instead}`?"))
    }
}

impl core::error::Error for ValueError {}

/// All that is wrong with something written: one error at least, in the order in which it is written.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ValueErrors(Vec<ValueError>);

impl From<Vec<ValueError>> for ValueErrors {
    fn from(errors: Vec<ValueError>) -> Self {
        Self(errors)
    }
}

impl core::ops::Deref for ValueErrors {
    type Target = [ValueError];

    fn deref(&self) -> &[ValueError] {
        &self.0
    }
}

impl IntoIterator for ValueErrors {
    type Item = ValueError;
    type IntoIter = vec::IntoIter<ValueError>;

    fn into_iter(self) -> Self::IntoIter {
        self.0.into_iter()
    }
}

impl fmt::Display for ValueErrors {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.0.iter().enumerate().try_for_each(|(at, error)| write!(f, "{}{error}", if at > 0 { "; " } else { "" }))
    }
}

impl core::error::Error for ValueErrors {}

impl Input {
    /// Text from the command line: a layout's single thing as it stands, or lists and records in this form:
    /// `10.64.0.53, 10.64.0.54` and `{ destination = 10.64.8.0, router = 10.64.4.1 }`. `{ hex = 0a400401 }` is raw octets
    /// whatever the layout is.
    #[must_use]
    pub fn from_text(text: &str) -> Self {
        if text.trim_start().starts_with('{')
            && let Ok(mut items) = list(text, Some(0), &(0..text.len()))
            && let [Self { kind: InputKind::Table(fields), .. }] = &items[..]
            && let [(Key { name, .. }, Self { kind: InputKind::Text { .. }, .. })] = &fields[..]
            && name == "hex"
        {
            return items.remove(0);
        }
        Self { span: 0..text.len(), kind: InputKind::Text { text: text.to_owned(), start: Some(0) } }
    }

    /// Raw octets, which stand in for a value of any layout.
    #[must_use]
    pub fn from_octets(octets: &[u8]) -> Self {
        let hex = Self::from_text(&crate::octets::hex::plain(octets));
        let key = Key { name: "hex".to_owned(), span: 0..0 };
        Self { span: hex.span.clone(), kind: InputKind::Table(vec![(key, hex)]) }
    }

    pub(in crate::layout) fn is_table(&self) -> bool {
        matches!(self.kind, InputKind::Table(_))
    }

    /// What it is, for a message: `a list`, `the text "x"`.
    #[must_use]
    pub fn describe(&self) -> String {
        match &self.kind {
            InputKind::Text { text, .. } => format!("the text {text:?}"),
            InputKind::Integer(number) => format!("the number {number}"),
            InputKind::Float(number) => format!("the number {number}"),
            InputKind::Bool(on) => format!("`{on}`"),
            InputKind::List(_) => "a list".to_owned(),
            InputKind::Table(_) => "a table".to_owned(),
        }
    }

    /// The places of a part of this text, as exactly as they are known.
    pub(in crate::layout) fn part(&self, at: Range<usize>) -> Range<usize> {
        match &self.kind {
            InputKind::Text { start: Some(start), .. } if at.start < at.end => start + at.start..start + at.end,
            _ => self.span.clone(),
        }
    }
}

/// Lists and tables in each other, more than any layout has; keeps hostile text from exhausting the stack.
const DEPTH: usize = 48;

/// No option has more octets, and so none holds more values.
const VALUES: usize = 65_535;

/// Reads text as the list of items it is: `a, b, { c = d }`.
pub(in crate::layout) fn list(text: &str, start: Option<usize>, span: &Range<usize>) -> Result<Vec<Input>, ValueError> {
    let mut reader = Reader { text, at: 0, depth: 0, start, outer: span };
    let mut items = Vec::new();
    reader.blanks();
    while reader.at < text.len() {
        reader.room(&items)?;
        items.push(reader.item(&[','])?);
        reader.blanks();
        if reader.at < text.len() && !reader.eat(',') {
            return Err(reader.wrong(reader.at..text.len(), "a comma must stand between two values"));
        }
        reader.blanks();
    }
    // `[a, b]` alone is the list itself, not a list with a list in it.
    if let [Input { kind: InputKind::List(_), .. }] = &items[..]
        && let Some(Input { kind: InputKind::List(inner), .. }) = items.pop()
    {
        return Ok(inner);
    }
    Ok(items)
}

struct Reader<'t> {
    text: &'t str,
    at: usize,
    depth: usize,
    start: Option<usize>,
    outer: &'t Range<usize>,
}

impl Reader<'_> {
    fn span(&self, at: Range<usize>) -> Range<usize> {
        self.start.map_or_else(|| self.outer.clone(), |start| start + at.start..start + at.end)
    }

    fn wrong(&self, at: Range<usize>, message: &str) -> ValueError {
        ValueError { span: self.span(at), topic: Topic::Shape, message: message.to_owned(), instead: None }
    }

    fn peek(&self) -> Option<char> {
        self.text[self.at..].chars().next()
    }

    fn eat(&mut self, c: char) -> bool {
        let found = self.peek() == Some(c);
        if found {
            self.at += c.len_utf8();
        }
        found
    }

    fn blanks(&mut self) {
        let rest = &self.text[self.at..];
        self.at += rest.len() - rest.trim_start().len();
    }

    /// Whether one more value has room in a list or a table.
    fn room<T>(&self, items: &[T]) -> Result<(), ValueError> {
        if items.len() < VALUES {
            return Ok(());
        }
        Err(self.wrong(self.at..self.text.len(), &format!("a list of more than {VALUES} values fits in no option")))
    }

    fn item(&mut self, stops: &[char]) -> Result<Input, ValueError> {
        let start = self.at;
        if self.depth == DEPTH {
            let next = self.peek().map_or(0, char::len_utf8);
            return Err(self.wrong(start..start + next, &format!("values may be nested {DEPTH} deep, this is deeper")));
        }
        self.depth += 1;
        let kind = match self.peek() {
            Some('{') => self.table()?,
            Some('[') => self.bracketed()?,
            Some('"') => {
                let (text, exact) = self.quoted()?;
                InputKind::Text { text, start: exact }
            }
            _ => {
                let rest = &self.text[self.at..];
                let bare = rest[..rest.find(stops).unwrap_or(rest.len())].trim_end();
                self.at += bare.len();
                InputKind::Text { text: bare.to_owned(), start: self.start.map(|at| at + start) }
            }
        };
        self.depth -= 1;
        Ok(Input { kind, span: self.span(start..self.at) })
    }

    fn bracketed(&mut self) -> Result<InputKind, ValueError> {
        let open = self.at;
        self.eat('[');
        let mut items = Vec::new();
        loop {
            self.blanks();
            if self.eat(']') {
                return Ok(InputKind::List(items));
            }
            if self.at == self.text.len() {
                return Err(self.wrong(open..self.at, "this `[` is never closed"));
            }
            self.room(&items)?;
            items.push(self.item(&[',', ']'])?);
            self.blanks();
            if !self.eat(',') && !matches!(self.peek(), Some(']') | None) {
                return Err(self.wrong(open..self.at, "expected `,` or `]` in this list"));
            }
        }
    }

    fn table(&mut self) -> Result<InputKind, ValueError> {
        let open = self.at;
        self.eat('{');
        let mut fields = Vec::new();
        loop {
            self.blanks();
            if self.eat('}') {
                return Ok(InputKind::Table(fields));
            }
            let start = self.at;
            if start == self.text.len() {
                return Err(self.wrong(open..start, "this `{` is never closed"));
            }
            let name = if self.peek() == Some('"') {
                self.quoted()?.0
            } else {
                let rest = &self.text[self.at..];
                let bare = rest[..rest.find(['=', ',', '}']).unwrap_or(rest.len())].trim_end();
                self.at += bare.len();
                bare.to_owned()
            };
            let key = Key { name, span: self.span(start..self.at) };
            self.blanks();
            if !self.eat('=') {
                return Err(self.wrong(open..self.at, "expected `{ name = value, … }`"));
            }
            self.blanks();
            self.room(&fields)?;
            fields.push((key, self.item(&[',', '}'])?));
            self.blanks();
            if !self.eat(',') && !matches!(self.peek(), Some('}') | None) {
                return Err(self.wrong(open..self.at, "expected `,` or `}` after this value"));
            }
        }
    }

    fn quoted(&mut self) -> Result<(String, Option<usize>), ValueError> {
        let open = self.at;
        self.eat('"');
        let mut text = String::new();
        let mut escapes = false;
        while let Some(c) = self.peek() {
            self.at += c.len_utf8();
            match c {
                '"' => return Ok((text, self.start.filter(|_| !escapes).map(|start| start + open + 1))),
                '\\' => {
                    escapes = true;
                    if let Some(c) = self.peek() {
                        self.at += c.len_utf8();
                        text.push(c);
                    }
                }
                c => text.push(c),
            }
        }
        Err(self.wrong(open..self.at, "this quote is never closed"))
    }
}
