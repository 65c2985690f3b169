//! What numbers count: time in units that an RFC chose.

use crate::layout::value::duration::{parts, spell};
use crate::prelude::*;

/// A unit of time that a number counts.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[non_exhaustive]
pub enum Unit {
    /// 1 s.
    Seconds,
    /// 10 ms, as the time that a DHCPv6 client has tried (RFC 8415, section 21.9).
    Centiseconds,
    /// 1 ms.
    Milliseconds,
    /// 8 s, as the lifetime of a NAT64 prefix (RFC 8781, section 4).
    EightSeconds,
}

impl Unit {
    /// All of them, with the words that layouts write for them and how many milliseconds they are.
    pub const ALL: [(&'static str, Self, i128); 4] = [
        ("seconds", Self::Seconds, 1000),
        ("centiseconds", Self::Centiseconds, 10),
        ("milliseconds", Self::Milliseconds, 1),
        ("eight-seconds", Self::EightSeconds, 8000),
    ];

    /// The word that layouts write for it.
    #[must_use]
    pub fn word(self) -> &'static str {
        Self::ALL[self as usize].0
    }

    /// How long so many of it are.
    ///
    /// ```
    /// use oplex::layout::Unit;
    ///
    /// assert_eq!(Unit::Centiseconds.duration(250), "2s500ms");
    /// assert_eq!(Unit::Seconds.duration(-14_400), "-4h");
    /// ```
    #[must_use]
    pub fn duration(self, count: i128) -> String {
        let total = count.unsigned_abs().saturating_mul(Self::ALL[self as usize].2.unsigned_abs());
        let sign = if count < 0 { "-" } else { "" };
        let whole = if total >= 1000 || total == 0 { spell(total / 1000) } else { String::new() };
        let rest = if total.is_multiple_of(1000) { String::new() } else { format!("{}ms", total % 1000) };
        format!("{sign}{whole}{rest}")
    }

    /// The number that a duration comes to in this unit.
    pub(in crate::layout) fn count(self, text: &str) -> Result<i128, String> {
        let (sign, rest) = text.strip_prefix('-').map_or((1, text), |rest| (-1, rest));
        let total =
            parts(rest).ok_or_else(|| format!("`{text}` is neither a number nor a duration such as `1h30m`"))?;
        let size = Self::ALL[self as usize].2;
        match i128::try_from(total).ok().filter(|total| total % size == 0) {
            Some(total) => Ok(sign * total / size),
            None => Err(format!("`{text}` is no whole number of {}", self.word())),
        }
    }
}
