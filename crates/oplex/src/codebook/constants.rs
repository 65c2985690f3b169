//! The standard codebooks as constants, so that no file is read when a program starts.
//!
//! The constants are generated from the files in `codebooks/`, by the reader that reads users' books, and a test proves
//! that generating them again changes nothing.

use std::borrow::Cow;
use std::fmt::Write;
use std::sync::{Arc, OnceLock};

use super::facts::{ClosedMessage, Condition, Content, MessageFact, MessageFactKind};
use super::{CodeSpace, Codebook, Definition, Sender, Status, Text};
use crate::finding::{Finding, Sources};
use crate::layout::Enumeration;

/// One space of codes.
pub(super) struct SpaceRow {
    pub(super) name: &'static str,
    pub(super) prefix: &'static str,
    pub(super) octets: (usize, usize),
    pub(super) options: &'static [Row],
}

/// One option. Its parts have the names of [`Definition`]'s.
pub(super) struct Row {
    pub(super) code: u16,
    pub(super) name: &'static str,
    pub(super) title: &'static str,
    pub(super) aliases: &'static [&'static str],
    pub(super) words: &'static [&'static str],
    pub(super) summary: &'static str,
    pub(super) layout: &'static str,
    /// Which of [`FLAGS`] are set.
    pub(super) flags: &'static [&'static str],
    pub(super) same_as: Option<&'static str>,
    /// Codes, least, most and reference of each.
    pub(super) holds: &'static [(&'static [u16], u16, Option<u16>, &'static str)],
    /// Kind, types, condition and reference of each.
    pub(super) messages: &'static [(MessageFactKind, &'static [u8], Option<Condition>, &'static str)],
    pub(super) within: &'static [u16],
    pub(super) sent_by: Sender,
    pub(super) status: Status,
    pub(super) replaced_by: Option<&'static str>,
    pub(super) reference: &'static str,
    pub(super) rfcs: &'static [u16],
    pub(super) example: Option<&'static str>,
}

/// An enumeration or a set of flags.
pub(super) struct Named {
    pub(super) name: &'static str,
    pub(super) open: bool,
    pub(super) members: &'static [(u64, &'static str)],
}

/// The constants of all standard books.
pub(super) struct Tables {
    pub(super) spaces: &'static [SpaceRow],
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
    tables.spaces.iter().map(space).for_each(|space| _ = codebook.push_space(space));
    codebook
}

/// What is yes or no about an option.
fn flags(option: &Definition) -> Vec<&'static str> {
    let all = [
        ("single", option.single),
        ("machinery", option.machinery),
        ("joined", option.joined),
        ("several", option.several),
        ("unrequestable", !option.requestable),
        ("no-nul", option.no_nul),
    ];
    all.into_iter().filter(|(_, on)| *on).map(|(name, _)| name).collect()
}

fn content(row: &(&'static [u16], u16, Option<u16>, &'static str)) -> Content {
    let (options, least, most, reference) = *row;
    Content { options: Cow::Borrowed(options), least, most, reference: Cow::Borrowed(reference) }
}

fn fact(row: &(MessageFactKind, &'static [u8], Option<Condition>, &'static str)) -> MessageFact {
    let (kind, types, when, reference) = *row;
    MessageFact { kind, types: Cow::Borrowed(types), when, reference: Cow::Borrowed(reference) }
}

fn space(row: &'static SpaceRow) -> CodeSpace {
    let mut space = CodeSpace {
        name: Cow::Borrowed(row.name),
        prefix: Cow::Borrowed(row.prefix),
        code_octets: row.octets.0,
        length_octets: row.octets.1,
        pad_and_end: false,
        enterprise: None,
        options: row.options.iter().map(|option| Arc::new(definition(row.prefix, option))).collect(),
        places: Vec::new(),
    };
    space.place();
    space
}

fn definition(prefix: &'static str, row: &'static Row) -> Definition {
    let texts = |texts: &'static [&'static str]| texts.iter().map(|text| Text::Borrowed(text)).collect();
    let is = |flag: &str| row.flags.contains(&flag);
    Definition {
        prefix: Cow::Borrowed(prefix),
        code: row.code,
        name: Cow::Borrowed(row.name),
        title: Cow::Borrowed(row.title),
        aliases: texts(row.aliases),
        words: texts(row.words),
        summary: Cow::Borrowed(row.summary),
        layout_text: Cow::Borrowed(row.layout),
        layout: OnceLock::new(),
        single: is("single"),
        sent_by: row.sent_by,
        machinery: is("machinery"),
        joined: is("joined"),
        requestable: !is("unrequestable"),
        no_nul: is("no-nul"),
        several: is("several"),
        same_as: row.same_as.map(Cow::Borrowed),
        holds: row.holds.iter().map(content).collect(),
        messages: row.messages.iter().map(fact).collect(),
        within: Cow::Borrowed(row.within),
        status: row.status,
        replaced_by: row.replaced_by.map(Cow::Borrowed),
        reference: Cow::Borrowed(row.reference),
        rfcs: Cow::Borrowed(row.rfcs),
        example: row.example.map(Cow::Borrowed),
        carriers: Vec::new(),
    }
}

/// The text of `standard.rs` for the standard codebooks, which are given as name and text.
///
/// # Errors
/// What is wrong with the codebooks.
pub fn generate(books: &[(&str, &str)]) -> Result<String, Vec<Finding>> {
    let mut codebook = Codebook::default();
    let mut sources = Sources::default();
    for (name, text) in books {
        let file = sources.add(*name, *text);
        let findings = codebook.add(&sources, file);
        if !findings.is_empty() {
            return Err(findings);
        }
    }
    let mut text = String::from(
        "//! Generated from `codebooks/*.toml`: do not edit. `GENERATE=1 cargo test -p oplex constants` writes it anew.\n\n\
         use super::constants::{Named, Row, SpaceRow, Tables};\nuse super::facts::Condition::{Informing, Leasing};\n\
         use super::facts::MessageFactKind::{Allowed, Barred, Discouraged, Required, Several};\nuse super::{Sender, Status};\n\n",
    );
    let _ = writeln!(text, "pub(super) static SPACES: [SpaceRow; {}] = [", codebook.spaces.len());
    for space in &codebook.spaces {
        let octets = (space.code_octets, space.length_octets);
        let _ = writeln!(
            text,
            "    SpaceRow {{ name: {:?}, prefix: {:?}, octets: {octets:?}, options: &[",
            space.name, space.prefix
        );
        for option in &space.options {
            let _ = writeln!(text, "        {},", generate_row(option));
        }
        text.push_str("    ] },\n");
    }
    text.push_str("];\n");
    for (what, list) in [("ENUMERATIONS", &codebook.enumerations), ("FLAGS", &codebook.flags)] {
        let _ = writeln!(text, "\npub(super) static {what}: [Named; {}] = [", list.len());
        for named in list {
            let Enumeration { name, open, members } = &**named;
            let _ = writeln!(text, "    Named {{ name: {name:?}, open: {open}, members: &{members:?} }},");
        }
        text.push_str("];\n");
    }
    let _ = writeln!(text, "\npub(super) static CLOSED: [(&str, u8, &str); {}] = [", codebook.closed.len());
    for ClosedMessage { book, number, reference } in &codebook.closed {
        let _ = writeln!(text, "    ({book:?}, {number}, {reference:?}),");
    }
    text.push_str("];\n\npub(super) static TABLES: Tables =\n");
    text.push_str("    Tables { spaces: &SPACES, enumerations: &ENUMERATIONS, flags: &FLAGS, closed: &CLOSED };\n");
    Ok(text)
}

/// A list, each item as this writes it.
fn listed<T>(items: &[T], item: impl Fn(&T) -> String) -> String {
    format!("&[{}]", items.iter().map(item).collect::<Vec<_>>().join(", "))
}

fn generate_row(option: &Definition) -> String {
    let flags = flags(option);
    let holds = listed(&option.holds, |one| {
        format!("(&{:?}, {}, {:?}, {:?})", one.options, one.least, one.most, one.reference)
    });
    let messages = listed(&option.messages, |one| {
        format!("({:?}, &{:?}, {:?}, {:?})", one.kind, one.types, one.when, one.reference)
    });
    format!(
        "Row {{ code: {}, name: {:?}, title: {:?}, aliases: &{:?}, words: &{:?}, summary: {:?}, layout: {:?}, \
         flags: &{flags:?}, same_as: {:?}, holds: {holds}, messages: {messages}, within: &{:?}, sent_by: Sender::{:?}, status: Status::{:?}, replaced_by: {:?}, reference: {:?}, rfcs: &{:?}, \
         example: {:?} }}",
        option.code,
        option.name,
        option.title,
        option.aliases,
        option.words,
        option.summary,
        option.layout_text,
        option.same_as,
        option.within,
        option.sent_by,
        option.status,
        option.replaced_by,
        option.reference,
        option.rfcs,
        option.example,
    )
}
