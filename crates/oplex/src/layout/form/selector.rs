//! What an earlier field of a payload decides.

use crate::prelude::*;

/// How many fields of one layout may decide something later.
pub(in crate::layout) const SLOTS: usize = 4;

/// The numbers that a walk keeps for later choices.
pub type Slots = [u64; SLOTS];

/// An earlier field that decides something later.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Selector {
    /// The field, and the flag in it: `encoding`, `flags.e`.
    pub text: Box<str>,
    /// Where the walk kept the field's number.
    pub slot: u8,
    /// The bits of one flag, when a flag decides; the choice then sees 0 or 1.
    pub mask: Option<u64>,
}

impl Selector {
    /// The number that decides, from what the walk kept.
    #[inline]
    #[must_use]
    pub fn pick(&self, slots: &Slots) -> u64 {
        let number = slots[usize::from(self.slot)];
        self.mask.map_or(number, |mask| u64::from(number & mask != 0))
    }
}
