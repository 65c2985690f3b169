//! TOML with the place of every key and value: what plans and codebooks are read through.

use std::ops::Range;

use toml::Spanned;
use toml::de::{DeTable, DeValue};

use crate::finding::{Example, FileId, Finding, Findings, Rule, Spot, rule};
use crate::layout::{Input, InputKind, Key};
use crate::nearest;
use crate::words;

rule! {
    /// the file is not TOML
    ///
    /// Nothing after the mistake can be trusted, so nothing in the file is used.
    pub(crate) static FILE_NOT_TOML = "file-not-toml", Error, File, "";
    Example::Plan("[network.control-room\nsubnet = \"10.64.4.0/23\"\n")
}

rule! {
    /// an unknown key
    ///
    /// A misspelled key would otherwise be ignored in silence, and its setting would never apply.
    pub(crate) static UNKNOWN_KEY = "unknown-key", Error, File, "";
    Example::Plan("[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n[network.control-room]\nsubnet = \"10.64.4.0/23\"\n\
         leese = \"8h\"\n[network.control-room.send.v4]\nrouter = \"10.64.4.1\"\n")
}

rule! {
    /// a key has a value of the wrong kind
    ///
    /// The intended value cannot be derived from what is written.
    pub(crate) static VALUE_WRONG_KIND = "value-wrong-kind", Error, File, "";
    Example::Plan("[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n[network.control-room]\nsubnet = \"10.64.4.0/23\"\n\
         lease = \"soon\"\n[network.control-room.send.v4]\nrouter = \"10.64.4.1\"\n")
}

rule! {
    /// a required key is missing
    ///
    /// Without it the rest of the table has no meaning.
    pub(crate) static KEY_MISSING = "key-missing", Error, File, "";
    Example::Plan("[network.control-room]\nlease = \"8h\"\n")
}

pub(crate) static RULES: [&Rule; 4] = [&FILE_NOT_TOML, &UNKNOWN_KEY, &VALUE_WRONG_KIND, &KEY_MISSING];

/// Texts longer than this are not read as TOML: a plan of ten thousand networks has a fifth of it.
const LONGEST: usize = 16 << 20;

pub(crate) type Table<'t> = DeTable<'t>;
pub(crate) type Node<'t> = Spanned<DeValue<'t>>;
pub(crate) type Name<'t> = Spanned<std::borrow::Cow<'t, str>>;

/// Reads one document, and keeps what it finds wrong.
pub(crate) struct Reader<'s> {
    pub(crate) file: FileId,
    text: &'s str,
    /// What the table that is being read is called, where advice names it.
    pub(crate) called: String,
    pub(crate) findings: Findings,
}

impl<'s> Reader<'s> {
    pub(crate) fn new(file: FileId, text: &'s str) -> Self {
        Self { file, text, called: String::new(), findings: Findings::default() }
    }

    /// One of the same document that has found nothing yet.
    pub(crate) fn fork(&self) -> Self {
        Self::new(self.file, self.text)
    }

    /// The document's top table; `None` when the text is not TOML, which is then a finding.
    pub(crate) fn parse(&mut self) -> Option<Table<'s>> {
        if self.text.len() > LONGEST {
            let message = format!("the file has {} MB; the limit is 16 MB", self.text.len() >> 20);
            self.findings.push(FILE_NOT_TOML.finding(message).at(self.spot(0..0)));
            return None;
        }
        match DeTable::parse(self.text) {
            Ok(table) => Some(table.into_inner()),
            Err(error) => {
                // A parser that ran out of text points between characters; people look at one.
                let at = error.span().unwrap_or(0..0);
                let length = self.text[at.start..].chars().next().map_or(0, char::len_utf8);
                let at = if at.is_empty() { at.start..at.start + length } else { at };
                let message = format!("this is not TOML: {}", error.message());
                let finding = FILE_NOT_TOML.finding(message);
                self.findings.push(match self.unquoted(at.start) {
                    Some(bare) => {
                        let text = &self.text[bare.clone()];
                        let quoted = format!("\"{text}\"");
                        let message = format!("`{text}` is text, and text stands in quotes");
                        Finding { message, ..finding }.at(self.spot(bare)).replace(quoted)
                    }
                    None => finding.at(self.spot(at)),
                });
                None
            }
        }
    }

    /// An address, a name or a duration around this place that lacks its quotes.
    fn unquoted(&self, at: usize) -> Option<Range<usize>> {
        let line = self.text[..at].rfind('\n').map_or(0, |newline| newline + 1);
        let is_bare = |c: char| c.is_alphanumeric() || ".:/-_*".contains(c);
        let before = self.text[line..at].chars().rev().take_while(|c| is_bare(*c)).map(char::len_utf8).sum::<usize>();
        let behind = self.text[at..].chars().take_while(|c| is_bare(*c)).map(char::len_utf8).sum::<usize>();
        let bare = at - before..at + behind;
        let before = self.text[line..bare.start].trim_end();
        let value = before.contains('=') && before.ends_with(['=', '[', ',']);
        // What has no digit, dot or colon is something else than an address.
        let text = &self.text[bare.clone()];
        let like = text.contains(['.', ':', '/']) || (text.starts_with(|c: char| c.is_ascii_digit()) && text.len() > 1);
        (value && like && self.text[line..bare.start].matches('"').count().is_multiple_of(2)).then_some(bare)
    }

    pub(crate) fn spot(&self, span: Range<usize>) -> Spot {
        Spot { file: self.file, span }
    }

    pub(crate) fn wrong_kind(&mut self, span: Range<usize>, message: impl Into<String>) {
        self.findings.push(VALUE_WRONG_KIND.finding(message).at(self.spot(span)));
    }

    pub(crate) fn missing(&mut self, span: Range<usize>, key: &str, example: &str) {
        let finding = KEY_MISSING.finding(format!("key `{key}` is missing")).at(self.spot(span));
        self.findings.push(finding.advice(format!("{key} = {example}")));
    }

    /// Reports every key of `table` that is not one of `known`.
    pub(crate) fn only(&mut self, table: &Table<'s>, known: &[&str], within: &str) {
        for (key, value) in table.iter().filter(|(key, _)| !known.contains(&key.get_ref().as_ref())) {
            let name = key.get_ref();
            let is_table = value.get_ref().is_table();
            let finding = UNKNOWN_KEY.finding(format!("unknown key `{name}` in {within}")).at(self.spot(key.span()));
            let near = nearest::nearest(name, known.iter().copied());
            let instead = words::instead(within, name);
            let meant = instead.and_then(words::Instead::word).or(near);
            self.findings.push(match (instead, near) {
                // One key cannot stand there twice, unless its tables have headings of their own.
                _ if !is_table && meant.is_some_and(|meant| table.contains_key(meant)) => {
                    finding.advice(format!("one `{}` with what both say", meant.unwrap_or_default()))
                }
                (Some(instead), _) => instead.offered(finding, &self.called),
                (None, Some(near)) => finding.replace(near),
                (None, None) => finding.advice(format!("one of {}", nearest::some_of(known.iter().copied()))),
            });
        }
    }

    pub(crate) fn table<'d>(&mut self, node: &'d Node<'s>, what: &str) -> Option<&'d Table<'s>> {
        let table = node.get_ref().as_table();
        if table.is_none() {
            self.wrong_kind(node.span(), format!("{what} is a table, `[{what}]`, not {}", kind(node)));
        }
        table
    }

    /// A table, or the tables of a list of tables.
    pub(crate) fn table_or_tables<'d>(&mut self, node: &'d Node<'s>, what: &str) -> Option<Vec<&'d Table<'s>>> {
        match node.get_ref().as_array() {
            Some(items) => Some(items.iter().filter_map(|item| self.table(item, what)).collect()),
            None => self.table(node, what).map(|table| vec![table]),
        }
    }

    /// The text under a key.
    pub(crate) fn text<'d>(&mut self, table: &'d Table<'s>, key: &str) -> Option<(&'d str, Spot)> {
        let node = table.get(key)?;
        let text = node.get_ref().as_str();
        if text.is_none() {
            self.wrong_kind(node.span(), format!("`{key}` is text in quotes, not {}", kind(node)));
        }
        Some((text?, self.spot(node.span())))
    }

    /// The text under a key, read by `parse`, whose error completes "`8x` …".
    pub(crate) fn parsed<T, E: Into<String>>(
        &mut self,
        table: &Table<'s>,
        key: &str,
        parse: impl FnOnce(&str) -> Result<T, E>,
    ) -> Option<(T, Spot)> {
        let (text, spot) = self.text(table, key)?;
        match parse(text) {
            Ok(value) => Some((value, spot)),
            Err(why) => {
                self.wrong_kind(spot.span, why);
                None
            }
        }
    }

    pub(crate) fn number(&mut self, table: &Table<'s>, key: &str, most: i128) -> Option<(i128, Spot)> {
        let node = table.get(key)?;
        let InputKind::Integer(number) = self.written(node).kind else {
            self.wrong_kind(node.span(), format!("`{key}` is a whole number, not {}", kind(node)));
            return None;
        };
        if !(0..=most).contains(&number) {
            self.wrong_kind(node.span(), format!("`{key}` is {number}, outside 0 to {most}"));
            return None;
        }
        Some((number, self.spot(node.span())))
    }

    pub(crate) fn flag(&mut self, table: &Table<'s>, key: &str) -> bool {
        let Some(node) = table.get(key) else { return false };
        let on = node.get_ref().as_bool();
        if on.is_none() {
            self.wrong_kind(node.span(), format!("`{key}` is `true` or `false`, not {}", kind(node)));
        }
        on.unwrap_or(false)
    }

    /// The texts under a key; one text is a list of one.
    pub(crate) fn texts<'d>(&mut self, table: &'d Table<'s>, key: &str) -> Vec<(&'d str, Spot)> {
        let Some(node) = table.get(key) else { return Vec::new() };
        let items: Vec<&Node<'s>> = match node.get_ref() {
            DeValue::Array(items) => items.iter().collect(),
            _ => vec![node],
        };
        let mut texts = Vec::new();
        for item in items {
            match item.get_ref().as_str() {
                Some(text) => texts.push((text, self.spot(item.span()))),
                None => self.wrong_kind(item.span(), format!("`{key}` holds text in quotes, not {}", kind(item))),
            }
        }
        texts
    }

    /// The tables of a list of tables, `[[key]]`.
    pub(crate) fn tables<'d>(&mut self, table: &'d Table<'s>, key: &str) -> Vec<(&'d Table<'s>, Range<usize>)> {
        let Some(node) = table.get(key) else { return Vec::new() };
        let Some(items) = node.get_ref().as_array() else {
            self.wrong_kind(node.span(), format!("`{key}` is a list of tables, `[[{key}]]`, not {}", kind(node)));
            return Vec::new();
        };
        let tables = items.iter().filter_map(|item| Some((self.table(item, key)?, item.span())));
        tables.collect()
    }

    /// The tables under a key, by their names: `[key.name]`.
    pub(crate) fn named_tables<'d>(&mut self, table: &'d Table<'s>, key: &str) -> Vec<(&'d Name<'s>, &'d Table<'s>)> {
        let named = table.get(key).and_then(|node| self.table(node, key));
        named.into_iter().flatten().filter_map(|(name, node)| Some((name, self.table(node, key)?))).collect()
    }

    /// The value as a layout reads it.
    pub(crate) fn written(&self, node: &Node<'s>) -> Input {
        let span = node.span();
        let kind = match node.get_ref() {
            DeValue::String(text) => InputKind::Text { start: self.text_start(&span, text), text: text.to_string() },
            DeValue::Integer(number) => match i128::from_str_radix(&number.as_str().replace('_', ""), number.radix()) {
                Ok(number) => InputKind::Integer(number),
                Err(_) => InputKind::Text { text: number.as_str().to_owned(), start: None },
            },
            DeValue::Float(number) => match number.as_str().replace('_', "").parse() {
                Ok(number) => InputKind::Float(number),
                Err(_) => InputKind::Text { text: number.as_str().to_owned(), start: None },
            },
            DeValue::Boolean(on) => InputKind::Bool(*on),
            DeValue::Datetime(when) => InputKind::Text { text: when.to_string(), start: Some(span.start) },
            DeValue::Array(items) => InputKind::List(items.iter().map(|item| self.written(item)).collect()),
            DeValue::Table(table) => InputKind::Table(
                table
                    .iter()
                    .map(|(key, value)| {
                        let key = Key { name: key.get_ref().to_string(), span: key.span() };
                        (key, self.written(value))
                    })
                    .collect(),
            ),
        };
        Input { kind, span }
    }

    /// Where the characters of a text begin, if no escape keeps them from standing one for one in the file.
    fn text_start(&self, span: &Range<usize>, text: &str) -> Option<usize> {
        [1, 3, 4].into_iter().map(|quotes| span.start + quotes).find(|start| {
            self.text.get(*start..*start + text.len()).is_some_and(|found| found == text)
                && start + text.len() < span.end
        })
    }
}

/// What stands there, for a message: `a number`, `a list`.
pub(crate) fn kind(node: &Node<'_>) -> &'static str {
    match node.get_ref() {
        DeValue::String(_) => "text",
        DeValue::Integer(_) | DeValue::Float(_) => "a number",
        DeValue::Boolean(_) => "true or false",
        DeValue::Datetime(_) => "a date",
        DeValue::Array(_) => "a list",
        DeValue::Table(_) => "a table",
    }
}
