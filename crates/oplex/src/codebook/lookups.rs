//! What layouts ask of a codebook: enumerations by name, options by chapter and code.

use crate::prelude::*;
use alloc::sync::Arc;

use super::{Chapter, Codebook};
use crate::layout::{ChapterRef, DefinitionRef, Enumeration, Nested, Nesting, Vocabulary};

impl Vocabulary for Codebook {
    fn enumeration(&self, name: &str) -> Option<Arc<Enumeration>> {
        self.enumerations.iter().find(|at| *at.name == *name).cloned()
    }

    fn flags(&self, name: &str) -> Option<Arc<Enumeration>> {
        self.flags.iter().find(|at| *at.name == *name).cloned()
    }

    fn chapter_header(&self, name: &str) -> Option<(usize, usize)> {
        let index = self.chapters.iter().position(|chapter| *chapter.name == *name)?;
        let chapter = &self.chapters[index];
        Some((index, chapter.code_octets + chapter.length_octets))
    }

    fn names(&self) -> Vec<&str> {
        self.enumerations.iter().chain(&self.flags).map(|at| &*at.name).collect()
    }

    fn chapters(&self) -> Vec<&str> {
        self.chapters.iter().map(|chapter| &*chapter.name).collect()
    }
}

impl Nesting for Codebook {
    fn chapter(&self, nested: &Nested, chosen: Option<u64>) -> ChapterRef {
        // Chapters are only ever added, so a layout's own codebook has it where it was. Another one may not.
        let right = |chapter: &Chapter| *chapter.name == *nested.chapter;
        let there = self.chapters.get(nested.index).is_some_and(right);
        let named = if there { Some(nested.index) } else { self.chapters.iter().position(right) };
        let (code_octets, length_octets, pad_and_end) = named.map_or((1, 1, false), |at| {
            let chapter = &self.chapters[at];
            (chapter.code_octets, chapter.length_octets, chapter.pad_and_end)
        });
        // A number in the payload picks whose options these are; how they stand is the carrier's affair.
        let index = match chosen {
            Some(number) => {
                self.chapters.iter().position(|chapter| chapter.enterprise.is_some_and(|at| u64::from(at) == number))
            }
            None => named,
        };
        ChapterRef { index, code_octets, length_octets, pad_and_end }
    }

    #[inline]
    fn definition(&self, chapter: ChapterRef, code: u16) -> Option<DefinitionRef<'_>> {
        let option = &**self.chapters.get(chapter.index?)?.get(code)?;
        Some(DefinitionRef { name: &option.name, layout: self.layout(option) })
    }

    fn code(&self, chapter: ChapterRef, name: &str) -> Option<u16> {
        self.chapters[chapter.index?].named(name).map(|option| option.code)
    }

    fn names(&self, chapter: ChapterRef) -> Vec<&str> {
        chapter.index.into_iter().flat_map(|index| self.chapters[index].names()).collect()
    }
}
