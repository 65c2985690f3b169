//! The options of a message, each whole.

use super::Codes;
use super::elements::{Elements, fold_plain};
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
    pub(super) fn new(elements: Elements<'o>, codes: Codes, repeated: Codes) -> Self {
        let are_plain = repeated == Codes::default() && !codes.has(52);
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
    fn fold<B, F: FnMut(B, Self::Item) -> B>(self, init: B, mut f: F) -> B {
        if self.are_plain {
            let (rest, end) = self.elements.rest();
            return fold_plain(rest, init, |all, code, octets, left| {
                f(all, MessageOption::new(code.into(), 2, octets, end - left))
            });
        }
        let mut all = init;
        for option in self {
            all = f(all, option);
        }
        all
    }
}
