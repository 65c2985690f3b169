//! Reading what a codebook file says about options besides their payload.

use super::facts::{CONDITIONS, ClosedMessage, Content, KINDS, MessageFact, MessageFactKind};
use super::file::{Book, numbers, word};
use crate::document::Table;
use crate::layout::Vocabulary;
use crate::nearest;

pub(super) const CONTENT: [&str; 4] = ["options", "least", "most", "reference"];

impl<'s> Book<'s, '_> {
    /// Where the option is documented, and the numbers of the RFCs that are.
    pub(super) fn reference(&mut self, table: &Table<'s>) -> (String, Vec<u16>) {
        let reader = &mut self.reader;
        let rfcs = numbers(reader, table, "rfc", "the numbers of RFCs");
        let section = reader.text(table, "section").map(|(section, _)| section);
        let reference = match (reader.text(table, "reference"), rfcs.first(), section) {
            (Some((reference, _)), _, _) => reference.to_owned(),
            (None, Some(rfc), Some(section)) if section.starts_with(|c: char| c.is_ascii_digit()) => {
                format!("RFC {rfc}, section {section}")
            }
            (None, Some(rfc), Some(section)) => format!("RFC {rfc}, \"{section}\""),
            (None, Some(rfc), None) => format!("RFC {rfc}"),
            (None, None, _) => String::new(),
        };
        (reference, rfcs)
    }

    /// `holds = [{ options = [89], least = 1, reference = "RFC …" }]`
    pub(super) fn holds(&mut self, table: &Table<'s>, own: &str) -> Vec<Content> {
        let mut contents = Vec::new();
        for (row, _) in self.reader.tables(table, "holds") {
            self.reader.only(row, &CONTENT, "what an option holds");
            let mut count = |key: &str| self.reader.number(row, key, u16::MAX.into()).map(|(count, _)| count as u16);
            let (least, most) = (count("least").unwrap_or(0), count("most"));
            let options = numbers(&mut self.reader, row, "options", "the codes of options").into();
            let reference = self.reader.text(row, "reference").map_or(own, |(text, _)| text).to_owned().into();
            contents.push(Content { options, least, most, reference });
        }
        contents
    }

    /// `messages = [{ barred = ["DHCPINFORM"], reference = "RFC …" }]`
    pub(super) fn messages(&mut self, table: &Table<'s>, own: &str) -> Vec<MessageFact> {
        let mut facts = Vec::new();
        let keys: Vec<&str> = KINDS.iter().map(|(word, _)| *word).chain(["when", "reference"]).collect();
        for (row, _) in self.reader.tables(table, "messages") {
            self.reader.only(row, &keys, "a row of `messages`");
            let when = word(&mut self.reader, row, "when", &CONDITIONS);
            let reference = self.reader.text(row, "reference").map_or(own, |(text, _)| text).to_owned();
            for (key, kind) in KINDS {
                facts.extend(self.fact(row, (key, kind)).map(|types| MessageFact {
                    kind,
                    types: types.into(),
                    when,
                    reference: reference.clone().into(),
                }));
            }
        }
        facts
    }

    fn fact(&mut self, row: &Table<'s>, (key, _): (&str, MessageFactKind)) -> Option<Vec<u8>> {
        row.get(key)?;
        let names = self.reader.texts(row, key);
        Some(names.into_iter().filter_map(|(name, spot)| self.message_type(name, spot.span)).collect())
    }

    /// The number of a type of message: the enumerations of the standard books have their names.
    fn message_type(&mut self, name: &str, span: std::ops::Range<usize>) -> Option<u8> {
        let enumerations = ["message-type", "v6-message-type"].map(|at| self.codebook.enumeration(at));
        let found = enumerations.iter().flatten().find_map(|types| types.number_of(name));
        if found.is_none() {
            let known = enumerations.iter().flatten().flat_map(|types| types.members.iter().map(|(_, name)| &**name));
            let message = format!("unknown message type `{name}`{}", nearest::hint(name, known));
            self.reader.wrong_kind(span, message);
        }
        found.and_then(|number| u8::try_from(number).ok())
    }

    /// `[message.DHCPNAK] closed = "RFC …"`: types of messages that take only the options which are allowed in them.
    pub(super) fn closed_messages(&mut self, table: &Table<'s>, book: &str) {
        for (name, inner) in self.reader.named_tables(table, "message") {
            self.reader.only(inner, &["closed"], "a type of message");
            let number = self.message_type(name.get_ref(), name.span());
            let closed = self.reader.text(inner, "closed").map(|(reference, _)| reference.to_owned());
            if let (Some(number), Some(reference)) = (number, closed) {
                let (book, reference) = (book.to_owned().into(), reference.into());
                self.codebook.closed.push(ClosedMessage { book, number, reference });
            }
        }
    }
}
