//! Option 43, which does not say whose it is: a codebook that was named does.

use crate::prelude::*;

use super::{Carrier, Chapter, Codebook, Definition};
use crate::layout::Layout;

impl Codebook {
    /// An option for vendors (43) as the codebook reads it that has options travelling in it, and that book's name, when
    /// there is exactly one such book, or when it is the one of this name.
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    ///
    /// let book = "book = \"tern\"\ncarriers = [\"v4:43\"]\n[[option]]\ncode = 1\nname = \"ring\"\nlayout = \"u8\"\n\
    ///             reference = \"Tern D2 manual, page 12\"\n";
    /// let codebook = Codebook::with("tern.toml", book)?;
    /// let (name, option) = codebook.by_vendor(codebook.find("v4:43")?, None).ok_or("there is one book")?;
    /// assert_eq!(name, "tern");
    /// let value = codebook.read(&option, &[1, 1, 3]).value.ok_or("it can be read")?;
    /// assert_eq!(value.to_string(), "{ ring = 3 }");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn by_vendor(&self, definition: &Definition, book: Option<&str>) -> Option<(&str, Definition)> {
        if !definition.is_of_vendors() {
            return None;
        }
        let travels = |chapter: &&Chapter| chapter.options().any(|at| at.carriers.contains(&Carrier::IN_43));
        let named = |chapter: &&Chapter| book.is_none_or(|book| *chapter.name == *book);
        // The standard's own chapters come first, and none of them is a vendor's.
        let others = self.chapters.iter().skip(Self::standard().chapters.len());
        let mut books = others.filter(travels).filter(named);
        let book = books.next().filter(|_| books.next().is_none())?;
        let layout = Layout::parse_with(&format!("options({})", book.name), self).ok()?;
        Some((&book.name, definition.laid_out(layout)))
    }
}
