//! Reading what a codebook file has besides options: sets of codes, and names for numbers and bits.

use std::sync::Arc;

use super::Chapter;
use super::file::Book;
use crate::document::Table;
use crate::layout::Enumeration;

pub(super) const CHAPTER: [&str; 5] = ["inside", "title", "code-bits", "length-bits", "pad-and-end"];

impl<'s> Book<'s, '_> {
    pub(super) fn chapters(&mut self, table: &Table<'s>) {
        for (name, chapter) in self.reader.named_tables(table, "chapter") {
            let name = name.get_ref();
            self.reader.only(chapter, &CHAPTER, "a chapter");
            self.reader.text(chapter, "title");
            let inside = self.reader.text(chapter, "inside");
            let prefix = inside.map_or_else(|| format!("{name}:"), |(inside, _)| format!("{inside}/"));
            let octets = (self.width(chapter, "code-bits"), self.width(chapter, "length-bits"));
            let mut empty = Chapter::empty(name.to_string().into(), prefix.into(), octets);
            empty.pad_and_end = self.reader.flag(chapter, "pad-and-end");
            self.codebook.push_chapter(empty);
        }
    }

    /// Octets of a code or length, which a book gives in bits: 8 by default, or 16.
    fn width(&mut self, chapter: &Table<'s>, key: &str) -> usize {
        match self.reader.number(chapter, key, 16) {
            Some((16, _)) => 2,
            Some((bits, spot)) if bits != 8 => {
                self.reader.wrong_kind(spot.span, format!("`{key}` is 8 or 16, not {bits}"));
                1
            }
            _ => 1,
        }
    }

    pub(super) fn enumerations(&mut self, table: &Table<'s>, key: &str, inner: &str) {
        for (name, one) in self.reader.named_tables(table, key) {
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
