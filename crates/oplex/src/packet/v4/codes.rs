//! Sets of option codes.

use super::elements::Elements;

/// Codes that have been met.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(super) struct Codes([u64; 4]);

impl Codes {
    /// These codes, and whether each comes once.
    #[inline]
    pub(super) fn of(codes: impl Iterator<Item = u8>) -> (Self, bool) {
        // Nearly all codes are below 64: those are kept where a loop has them in a register.
        let (mut low, mut all, mut again) = (0, Self::default(), false);
        for code in codes {
            if code < 64 {
                again |= low & 1 << code != 0;
                low |= 1 << code;
            } else {
                again |= !all.insert(code);
            }
        }
        all.0[0] = low;
        (all, !again)
    }

    /// The codes in all fields that hold options, and those of them that stand there again.
    #[cold]
    pub(super) fn of_all(mut elements: Elements<'_>) -> (Self, Self) {
        let (mut all, mut repeated) = (Self::default(), Self::default());
        while let Some(part) = elements.next_part() {
            if !all.insert(part.code) {
                repeated.insert(part.code);
            }
        }
        (all, repeated)
    }

    /// The word and the bit of a code.
    #[inline]
    fn place(code: u8) -> (usize, u64) {
        (usize::from(code >> 6), 1 << (code & 63))
    }

    /// Notes a code, and says whether it is new.
    #[inline]
    pub(super) fn insert(&mut self, code: u8) -> bool {
        let (word, bit) = Self::place(code);
        let new = self.0[word] & bit == 0;
        self.0[word] |= bit;
        new
    }

    #[inline]
    pub(super) fn has(&self, code: u8) -> bool {
        let (word, bit) = Self::place(code);
        self.0[word] & bit != 0
    }

    pub(super) fn is_empty(&self) -> bool {
        self.0 == [0; 4]
    }

    pub(super) fn count(&self) -> usize {
        self.0.iter().map(|word| word.count_ones() as usize).sum()
    }
}
