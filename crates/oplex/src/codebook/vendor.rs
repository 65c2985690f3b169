//! Option 43, which does not say whose it is: a codebook that was named does.

use crate::prelude::*;

use super::{Carrier, Chapter, Codebook, Definition};
use crate::family::Protocol;
use crate::layout::Layout;

impl Codebook {
    /// An option for vendors (43) as the codebook reads it that has options travelling in it, and that book's name, when
    /// there is exactly one such book, or when it is the one of this name.
    #[must_use]
    pub fn by_vendor(&self, definition: &Definition, book: Option<&str>) -> Option<(&str, Definition)> {
        if !(definition.is_own_of(Protocol::V4) && definition.code == 43) {
            return None;
        }
        let travels = |chapter: &&Chapter| chapter.options.iter().any(|at| at.carriers.contains(&Carrier::IN_43));
        let named = |chapter: &&Chapter| book.is_none_or(|book| *chapter.name == *book);
        // The standard's own chapters come first, and none of them is a vendor's.
        let others = self.chapters.iter().skip(Self::standard().chapters.len());
        let mut books = others.filter(travels).filter(named);
        let book = books.next().filter(|_| books.next().is_none())?;
        let layout = Layout::parse_with(&format!("options({})", book.name), self).ok()?;
        Some((&book.name, definition.laid_out(layout)))
    }
}
