//! The options of a message, each whole.

use super::codes::Codes;
use super::elements::{Elements, next_plain};
use crate::packet::MessageOption;

/// The options of a message in their order; what was split is one, in the place of its first part (RFC 3396, section 7).
pub(super) enum Options<'o> {
    /// Each is one part in the options field, of which these octets are left and which ends there, with no pads between; most
    /// messages are so.
    Plain(&'o [u8], usize),
    /// Anything else.
    Split(SplitOptions<'o>),
}

#[derive(Clone, Copy)]
pub(super) struct SplitOptions<'o> {
    elements: Elements<'o>,
    /// Codes that stand in the message more than once.
    repeated: Codes,
    /// Those of them that were met.
    met: Codes,
}

impl<'o> Options<'o> {
    /// Those of a message that is not plain, of which some may be split.
    #[cold]
    pub(super) fn split(elements: Elements<'o>, is_split: bool) -> Self {
        let repeated = if is_split { Codes::of_all(elements).1 } else { Codes::default() };
        Self::Split(SplitOptions { elements, repeated, met: Codes::default() })
    }
}

impl<'o> Iterator for Options<'o> {
    type Item = MessageOption<'o>;

    #[inline]
    fn next(&mut self) -> Option<Self::Item> {
        match self {
            Self::Plain(rest, end) => {
                let (code, octets, left) = next_plain(rest)?;
                Some(MessageOption::new(code.into(), 2, octets, *end - left))
            }
            Self::Split(split) => {
                // Handed over and back by value, so that a loop over plain options keeps these in registers.
                let (split, option) = split.next();
                *self = Self::Split(split);
                option
            }
        }
    }
}

impl<'o> SplitOptions<'o> {
    #[cold]
    fn next(mut self) -> (Self, Option<MessageOption<'o>>) {
        while let Some(first) = self.elements.next_part() {
            let option = MessageOption::new(first.code.into(), 2, first.octets, first.at);
            if !self.repeated.has(first.code) {
                return (self, Some(option));
            }
            if self.met.insert(first.code) {
                return (self, Some(option.split(self.elements)));
            }
        }
        (self, None)
    }
}
