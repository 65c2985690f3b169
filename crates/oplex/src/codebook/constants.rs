//! The standard codebooks as constants, so that no file is read when a program starts.
//!
//! The constants are generated from the files in `codebooks/`, by the reader that reads users' books:
//! `cargo run -p xtask -- generate`.

use crate::family::Protocol;
use crate::once::Once;
use crate::prelude::*;
use alloc::borrow::Cow;
use alloc::sync::Arc;

use super::facts::{ClosedMessage, Condition, Content, MessageFact, MessageFactKind, Service};
use super::{Chapter, Codebook, Definition, Sender, Status, Text};
use crate::layout::Enumeration;

/// One chapter of codes.
pub(super) struct ChapterRow {
    pub(super) name: &'static str,
    pub(super) prefix: &'static str,
    pub(super) octets: (usize, usize),
    pub(super) options: &'static [OptionRow],
}

/// One option. Its parts have the names of [`Definition`]'s.
///
/// All texts stand in one, with a tab behind each: whatever points somewhere is looked at by the loader before a program starts.
#[derive(Debug)]
pub(super) struct OptionRow {
    pub(super) code: u16,
    /// Name, title, aliases, words, summary, layout, what is yes or no about it by name, the option that is the same, what
    /// replaced it, reference, example: of lists the items with a comma between, and nothing where there is none.
    pub(super) texts: &'static str,
    /// Codes, least, most and reference of each.
    pub(super) holds: &'static [(&'static [u16], u16, Option<u16>, &'static str)],
    /// Kind, types, condition and reference of each.
    pub(super) messages: &'static [(MessageFactKind, &'static [u8], Option<Condition>, &'static str)],
    pub(super) within: &'static [u16],
    pub(super) sent_by: Sender,
    pub(super) status: Status,
    pub(super) rfcs: &'static [u16],
}

impl OptionRow {
    pub(super) fn name(&self) -> &'static str {
        self.texts.split('\t').next().unwrap_or_default()
    }

    /// Whether it is called so, by its name or one of its aliases.
    pub(super) fn is_called(&self, word: &str) -> bool {
        let mut texts = self.texts.split('\t');
        texts.next() == Some(word) || texts.nth(1).is_some_and(|aliases| items(aliases).any(|alias| alias == word))
    }
}

/// The items of a list of texts.
fn items(list: &'static str) -> impl Iterator<Item = &'static str> {
    list.split(',').filter(|item| !item.is_empty())
}

/// An enumeration or a set of flags.
pub(super) struct Named {
    pub(super) name: &'static str,
    pub(super) open: bool,
    pub(super) members: &'static [(u64, &'static str)],
}

/// The constants of all standard books.
pub(super) struct Tables {
    pub(super) chapters: &'static [ChapterRow],
    pub(super) enumerations: &'static [Named],
    pub(super) flags: &'static [Named],
    /// Book, number and reference of each.
    pub(super) closed: &'static [(&'static str, u8, &'static str)],
}

pub(super) fn standard(tables: &'static Tables) -> Codebook {
    let named = |named: &Named| {
        let members = named.members.iter().map(|(number, name)| (*number, (*name).into())).collect();
        Arc::new(Enumeration { name: named.name.into(), open: named.open, members })
    };
    let mut codebook = Codebook {
        enumerations: tables.enumerations.iter().map(named).collect(),
        flags: tables.flags.iter().map(named).collect(),
        closed: tables
            .closed
            .iter()
            .map(|(book, number, reference)| ClosedMessage {
                book: Text::Borrowed(book),
                number: *number,
                reference: Text::Borrowed(reference),
            })
            .collect(),
        ..Codebook::default()
    };
    for row in tables.chapters {
        let empty = Chapter::empty(Text::Borrowed(row.name), Text::Borrowed(row.prefix), row.octets);
        codebook.push_chapter(empty.with(row.options));
    }
    codebook
}

fn content(row: &(&'static [u16], u16, Option<u16>, &'static str)) -> Content {
    let (options, least, most, reference) = *row;
    Content { options: Cow::Borrowed(options), least, most, reference: Cow::Borrowed(reference) }
}

fn fact(row: &(MessageFactKind, &'static [u8], Option<Condition>, &'static str)) -> MessageFact {
    let (kind, types, when, reference) = *row;
    MessageFact { kind, types: Cow::Borrowed(types), when, reference: Cow::Borrowed(reference) }
}

pub(super) fn definition(prefix: Text, row: &'static OptionRow) -> Definition {
    let mut texts = row.texts.split('\t');
    let mut next = || texts.next().unwrap_or_default();
    let (name, title, aliases, words, summary, layout) = (next(), next(), next(), next(), next(), next());
    let (flags, same_as, replaced_by, reference, example) = (next(), next(), next(), next(), next());
    let list = |list: &'static str| items(list).map(Text::Borrowed).collect();
    let given = |text: &'static str| Some(text).filter(|text| !text.is_empty()).map(Cow::Borrowed);
    let is = |flag: &str| items(flags).any(|known| known == flag);
    Definition {
        prefix: prefix.into(),
        code: row.code,
        name: Cow::Borrowed(name),
        title: Cow::Borrowed(title),
        aliases: list(aliases),
        words: list(words),
        summary: Cow::Borrowed(summary),
        layout_text: Cow::Borrowed(layout),
        layout: Once::new(),
        picked: Once::new(),
        single: is("single"),
        sent_by: row.sent_by,
        automatic: is("automatic"),
        carries: Protocol::ALL.into_iter().find(|protocol| {
            is(match protocol {
                Protocol::V4 => "carries-v4",
                Protocol::V6 => "carries-v6",
                Protocol::Ra => "carries-ra",
            })
        }),
        joined: is("joined"),
        requestable: !is("unrequestable"),
        service: Service::ALL.into_iter().find(|service| is(service.name())),
        no_nul: is("no-nul"),
        several: is("several"),
        same_as: given(same_as),
        holds: row.holds.iter().map(content).collect(),
        messages: row.messages.iter().map(fact).collect(),
        within: Cow::Borrowed(row.within),
        status: row.status,
        replaced_by: given(replaced_by),
        reference: Cow::Borrowed(reference),
        rfcs: Cow::Borrowed(row.rfcs),
        example: given(example),
        carriers: Vec::new(),
    }
}
