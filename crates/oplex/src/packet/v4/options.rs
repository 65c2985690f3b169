//! The options of a message, each whole.

use super::Codes;
use super::elements::{self, Elements};
use crate::packet::MessageOption;

/// The options of a message in their order; what was split is one, in the place of its first part (RFC 3396, section 7).
pub(super) struct Options<'o> {
    elements: Elements<'o>,
    /// Codes that stand in the message more than once.
    repeated: Codes,
    /// Those of them that were met.
    met: Codes,
    /// Whether each is one part in the options field.
    are_plain: bool,
}

impl<'o> Options<'o> {
    #[inline]
    pub(super) fn new(elements: Elements<'o>, repeated: Codes, are_plain: bool) -> Self {
        Self { elements, repeated, met: Codes::default(), are_plain }
    }
}

impl<'o> Iterator for Options<'o> {
    type Item = MessageOption<'o>;

    #[inline]
    fn next(&mut self) -> Option<Self::Item> {
        loop {
            let first = self.elements.next_part()?;
            let option = MessageOption::new(first.code.into(), 2, first.octets, first.at);
            if self.are_plain || !self.repeated.has(first.code) {
                return Some(option);
            }
            if self.met.insert(first.code) {
                return Some(option.split(self.elements));
            }
        }
    }

    /// Most messages are plain, and a loop over these takes half the time.
    #[inline]
    fn fold<B, F: FnMut(B, Self::Item) -> B>(mut self, init: B, mut f: F) -> B {
        let (mut all, are_plain, (mut rest, end)) = (init, self.are_plain, self.elements.rest());
        // One place calls the function, so that it becomes a part of the loop.
        while let Some(option) = if are_plain { next_plain(&mut rest, end) } else { self.next() } {
            all = f(all, option);
        }
        all
    }
}

#[inline(always)]
fn next_plain<'o>(rest: &mut &'o [u8], end: usize) -> Option<MessageOption<'o>> {
    let (code, octets, left) = elements::next_plain(rest)?;
    Some(MessageOption::new(code.into(), 2, octets, end - left))
}
