//! What can be written somewhere: keys, options by any of their names, values, networks and fleets.

use std::collections::BTreeSet;
use std::ops::Range;

use lsp_types::{
    CompletionItem, CompletionItemKind, CompletionItemLabelDetails, CompletionTextEdit, Documentation, MarkupContent,
    MarkupKind, TextEdit,
};
use oplex::check;
use oplex::codebook::{Codebook, Definition};
use oplex::family::Protocol;
use oplex::layout::{Atom, Enumeration, Meaning, Node};
use oplex::plan::{ClientFacts, Plan, other_words};

use super::documents::Document;
use super::hover;
use super::names::{key, quoted};
use super::outline::Place;
use super::schema::Schema;
use super::table::{self, Table};

/// What can be written at an octet.
pub(super) fn at(document: &Document, schema: &Schema, octet: usize) -> Vec<CompletionItem> {
    let own = document.outline.at(octet);
    // In front of a value there is nothing of it yet.
    let span = own.map_or(octet..octet, |piece| piece.span.clone());
    let is_quoted = document.text.get(span.clone()).is_some_and(|text| text.starts_with(['"', '\'']));
    let mut all = Completing { document, schema, span, is_quoted, items: Vec::new() };
    match document.outline.place(octet.saturating_sub(usize::from(own.is_some()))) {
        Place::Key(table) => {
            all.keys(&own.filter(|piece| piece.is_key).map_or(table, |piece| piece.path.above()).names());
        }
        Place::Heading(table) => all.keys(&own.map_or(table, |piece| piece.path.above()).names()),
        Place::Value(path) => all.values(&path.names()),
    }
    all.items
}

struct Completing<'d> {
    document: &'d Document,
    schema: &'d Schema,
    span: Range<usize>,
    is_quoted: bool,
    items: Vec<CompletionItem>,
}

impl<'d> Completing<'d> {
    fn plan(&self) -> Option<&'d Plan> {
        self.document.loaded()?.plan.as_ref()
    }

    fn is_codebook(&self) -> bool {
        self.document.outline.pieces.iter().any(|piece| piece.path.names() == ["book"])
    }

    fn codebook(&self) -> &'d Codebook {
        self.plan().map_or(Codebook::standard(), |plan| &plan.codebook)
    }

    /// The keys of a table.
    fn keys(&mut self, path: &[&str]) {
        if self.is_codebook() {
            if let Table::Known(name) = table::of_codebook(path) {
                self.known(true, name);
            }
            return;
        }
        match table::of_plan(path).0 {
            Table::Known("match") => {
                let known = ClientFacts::KEYS.into_iter().filter(|key| *key != "fqdn");
                let own = ["mac", "all", "any", "none"].into_iter().chain(known);
                own.for_each(|word| self.add(word, word, CompletionItemKind::PROPERTY, "", true));
            }
            Table::Known(name) => self.known(false, name),
            Table::Families => {
                ["v4", "v6"].into_iter().for_each(|word| self.add(word, word, CompletionItemKind::PROPERTY, "", true));
            }
            Table::Options(protocol) => self.options(Some(protocol), true),
            Table::AnyOptions => self.options(None, true),
            Table::Networks => self.networks(true),
            Table::Fleets => self.fleets(true),
            Table::Other => self.fields(path),
        }
    }

    fn known(&mut self, codebook: bool, table: &str) {
        let schema = self.schema;
        for (word, said) in schema.keys(codebook, table) {
            self.add(word, word, CompletionItemKind::PROPERTY, said, true);
        }
        if !codebook {
            // Their words, under which they are found as well.
            for (word, own) in other_words(&format!("a {table}")) {
                self.add(word, own, CompletionItemKind::PROPERTY, "", true);
            }
        }
    }

    /// What the value of a key may be.
    fn values(&mut self, path: &[&str]) {
        let Some((last, tables)) = path.split_last() else { return };
        if self.is_codebook() {
            if let Table::Known(name) = table::of_codebook(tables) {
                let words = self.schema.words(true, name, last);
                words.into_iter().for_each(|word| self.add(word, word, CompletionItemKind::ENUM_MEMBER, "", false));
            }
            return;
        }
        match *path {
            ["reservation" | "check", .., "network"] | ["expect", "client", "network"] => return self.networks(false),
            ["check", "allow", "fleet"] | ["expect", "fleets"] => return self.fleets(false),
            ["check", "allow" | "rule"] | ["check", "allow", "rule"] => {
                for rule in check::catalogue() {
                    self.add(rule.name, rule.name, CompletionItemKind::ENUM_MEMBER, rule.summary, false);
                }
                return;
            }
            [.., "withhold" | "requests" | "wants" | "not-sent"] => return self.options(None, false),
            _ => {}
        }
        if let Table::Known(name) = table::of_plan(tables).0 {
            let words = self.schema.words(false, name, last);
            words.into_iter().for_each(|word| self.add(word, word, CompletionItemKind::ENUM_MEMBER, "", false));
            return;
        }
        let Some(definition) = hover::definition(self.codebook(), path) else { return };
        let part = inner(self.codebook().layout(definition).root(), path, definition);
        for (name, number) in part.and_then(named_values).unwrap_or_default() {
            self.add(&name, &name, CompletionItemKind::ENUM_MEMBER, &number.to_string(), false);
        }
    }

    /// The fields of a value that is a record.
    fn fields(&mut self, path: &[&str]) {
        let Some(definition) = hover::definition(self.codebook(), path) else { return };
        let part = inner(self.codebook().layout(definition).root(), path, definition);
        let Some(Part::Node(node)) = part else { return };
        for (name, _) in fields_of(node) {
            self.add(name, name, CompletionItemKind::FIELD, "", true);
        }
    }

    fn networks(&mut self, as_key: bool) {
        for network in self.plan().map_or(&[][..], |plan| &plan.networks) {
            self.add(&network.name, &network.name, CompletionItemKind::VALUE, "network", as_key);
        }
    }

    fn fleets(&mut self, as_key: bool) {
        for fleet in self.plan().map_or(&[][..], |plan| &plan.fleets) {
            self.add(&fleet.name, &fleet.name, CompletionItemKind::VALUE, "fleet", as_key);
        }
    }

    /// Options of one protocol, or of both families: by their names, by those that the other family or the trade has for them, and
    /// vendors' with their prefix.
    fn options(&mut self, protocol: Option<Protocol>, as_key: bool) {
        let codebook = self.codebook();
        for definition in codebook.definitions() {
            let own = [Protocol::V4, Protocol::V6].into_iter().find(|own| definition.is_own_of(*own));
            let name = match (own, protocol) {
                (Some(own), Some(wanted)) if own != wanted => continue,
                (Some(Protocol::V6), None) => format!("v6:{}", definition.name),
                (Some(_), _) => definition.name.to_string(),
                (None, Some(wanted)) if definition.is_standard() || !definition.travels_in(wanted) => continue,
                (None, None) if definition.is_standard() => continue,
                (None, _) => format!("{}:{}", definition.book(), definition.name),
            };
            if definition.automatic || definition.id().outer().is_some() {
                continue;
            }
            self.option(&name, &name, definition, as_key);
            let other =
                definition.same_as.as_ref().and_then(|id| codebook.find(id).ok()).map(|other| other.name.to_string());
            let others = definition.aliases.iter().chain(&definition.words).map(|word| word.replace(' ', "-"));
            let trade = own.map_or("", Protocol::name);
            let trade =
                other_words(trade).filter(|(_, own)| *own == &*definition.name).map(|(word, _)| word.to_owned());
            let others: BTreeSet<String> = others.chain(other).chain(trade).filter(|word| *word != name).collect();
            for word in others {
                self.option(&word, &name, definition, as_key);
            }
        }
    }

    /// An option under a word by which it is found.
    fn option(&mut self, word: &str, name: &str, definition: &Definition, as_key: bool) {
        self.add(word, name, CompletionItemKind::PROPERTY, "", as_key);
        let described = hover::described(self.codebook(), definition);
        if let Some(item) = self.items.last_mut() {
            let is_other = word != name;
            item.label_details = Some(CompletionItemLabelDetails {
                detail: is_other.then(|| format!(" → {name}")),
                description: Some(definition.id().to_string()),
            });
            item.documentation =
                Some(Documentation::MarkupContent(MarkupContent { kind: MarkupKind::Markdown, value: described }));
            // What is called so comes before what is also called so.
            item.sort_text = Some(format!("{}{word}", u8::from(is_other)));
        }
    }

    /// A text that replaces what is being written: as a key, or as a value in quotes.
    fn add(&mut self, word: &str, text: &str, kind: CompletionItemKind, said: &str, as_key: bool) {
        let written = |text: &str| match (as_key, self.is_quoted) {
            (true, false) => key(text),
            _ => quoted(text),
        };
        let range = self.document.lines.between(&self.document.text, &self.span);
        self.items.push(CompletionItem {
            label: word.to_owned(),
            kind: Some(kind),
            detail: (!said.is_empty()).then(|| said.to_owned()),
            filter_text: Some(written(word)),
            text_edit: Some(CompletionTextEdit::Edit(TextEdit::new(range, written(text)))),
            ..CompletionItem::default()
        });
    }
}

/// A part of a layout.
#[derive(Clone, Copy)]
enum Part<'l> {
    Node(&'l Node),
    /// The value of a key in `KEY=value` text.
    Atom(&'l Atom),
}

/// The part of a layout that a path leads to, from the name of the option on.
fn inner<'l>(root: &'l Node, path: &[&str], definition: &Definition) -> Option<Part<'l>> {
    let is_name = |word: &&str| definition.is_called(word) || word.ends_with(&format!(":{}", definition.name));
    let at = path.iter().position(is_name)?;
    path[at + 1..].iter().try_fold(Part::Node(root), |part, word| match part {
        Part::Node(node) => fields_of(node).into_iter().find(|(name, _)| name == word).map(|(_, part)| part),
        Part::Atom(_) => None,
    })
}

/// The fields of a record, or the keys of `KEY=value` text.
fn fields_of(node: &Node) -> Vec<(&str, Part<'_>)> {
    match node {
        Node::Record(fields) => fields.iter().map(|field| (&*field.name, Part::Node(&field.node))).collect(),
        Node::Pairs(pairs) => pairs.keys.iter().map(|key| (&*key.name, Part::Atom(&key.atom))).collect(),
        Node::Repeat(inner, _) | Node::Optional(inner) | Node::Sized(_, inner) | Node::Padded(_, inner) => {
            fields_of(inner)
        }
        _ => Vec::new(),
    }
}

/// The names that the value of an option may have, where it is one of named numbers.
pub(super) fn enumeration(codebook: &Codebook, definition: &Definition) -> Option<Vec<(String, u64)>> {
    named_values(Part::Node(codebook.layout(definition).root()))
}

fn named_values(part: Part<'_>) -> Option<Vec<(String, u64)>> {
    let named = |of: &Enumeration| of.members.iter().map(|(number, name)| (name.to_string(), *number)).collect();
    match part {
        Part::Atom(Atom::Number(number)) | Part::Node(Node::Atom(Atom::Number(number))) => match &number.meaning {
            Meaning::Member(of) | Meaning::Flags(of) => Some(named(of)),
            _ => None,
        },
        Part::Node(Node::Repeat(inner, _) | Node::Optional(inner) | Node::Sized(_, inner) | Node::Padded(_, inner)) => {
            named_values(Part::Node(inner))
        }
        _ => None,
    }
}
