//! Reading what a codebook file has besides options: sets of codes, and names for numbers and bits.

use std::sync::Arc;

use super::CodeSpace;
use super::file::Book;
use crate::document::Table;
use crate::finding::Spot;
use crate::layout::Enumeration;

const SPACE: [&str; 7] = ["name", "inside", "prefix", "title", "code", "length", "pad-and-end"];

impl<'s> Book<'s, '_> {
    pub(super) fn spaces(&mut self, table: &Table<'s>) {
        for (space, span) in self.reader.tables(table, "spaces") {
            self.reader.only(space, &SPACE, "a space");
            let Some((name, _)) = self.reader.text(space, "name") else {
                self.reader.missing(span, "name", "\"relay-agent\"");
                continue;
            };
            let prefix = match (self.reader.text(space, "prefix"), self.reader.text(space, "inside")) {
                (Some((prefix, _)), _) => prefix.to_owned(),
                (None, Some((inside, _))) => format!("{inside}/"),
                (None, None) => format!("{name}:"),
            };
            let octets = |bits: Option<(i128, Spot)>| if bits.is_some_and(|(bits, _)| bits == 16) { 2 } else { 1 };
            let code_octets = octets(self.reader.number(space, "code", 16));
            let length_octets = octets(self.reader.number(space, "length", 16));
            self.reader.text(space, "title");
            let pad_and_end = self.reader.flag(space, "pad-and-end");
            self.codebook.push_space(CodeSpace {
                name: name.to_owned().into(),
                prefix: prefix.into(),
                code_octets,
                length_octets,
                pad_and_end,
                enterprise: None,
                options: Vec::new(),
                places: Vec::new(),
            });
        }
    }

    pub(super) fn enumerations(&mut self, table: &Table<'s>, key: &str, inner: &str) {
        let Some(named) = table.get(key).and_then(|node| self.reader.table(node, key)) else { return };
        for (name, node) in named {
            let Some(one) = self.reader.table(node, key) else { continue };
            self.reader.only(one, &[inner, "open"], "an enumeration");
            let Some(values) = one.get(inner).and_then(|node| self.reader.table(node, inner)) else {
                self.reader.missing(name.span(), inner, "{ off = 0, on = 1 }");
                continue;
            };
            let mut members = Vec::new();
            for member in values.keys() {
                let number = self.reader.number(values, member.get_ref(), u64::MAX.into());
                members.extend(number.map(|(number, _)| (number as u64, member.get_ref().as_ref().into())));
            }
            let open = self.reader.flag(one, "open");
            let enumeration = Arc::new(Enumeration { name: name.get_ref().as_ref().into(), open, members });
            let list = if key == "flags" { &mut self.codebook.flags } else { &mut self.codebook.enumerations };
            list.push(enumeration);
        }
    }
}
