//! Hexadecimal text: read in any grouping people copy from manuals and captures, written in the three common ones.
//!
//! ```
//! use oplex::octets::hex;
//! assert_eq!(hex::parse("0x0a400401")?, [10, 64, 4, 1]);
//! assert_eq!(hex::parse("0a:40:4:1")?, hex::parse("0a 40, 04 01")?);
//! assert_eq!(hex::colon(&[10, 64]), "0a:40");
//! # Ok::<(), hex::HexError>(())
//! ```

use crate::prelude::*;
use core::fmt::{self, Write};

/// Why a text is not hexadecimal, and where.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct HexError {
    /// Byte offset of the offending character or group in the text.
    pub at: usize,
    /// What stands there.
    pub kind: HexErrorKind,
}

/// What kept a text from being hexadecimal.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum HexErrorKind {
    /// A character that is neither a hexadecimal digit nor a separator.
    NotADigit(char),
    /// A group with an odd number of digits, so that half an octet is missing.
    OddDigits(usize),
}

impl HexError {
    /// The characters it is about, in bytes of the text.
    ///
    /// ```
    /// let wrong = oplex::octets::hex::parse("0a 4g").expect_err("g is no digit");
    /// assert_eq!(wrong.span(), 4..5);
    /// ```
    #[must_use]
    pub fn span(&self) -> core::ops::Range<usize> {
        let length = match self.kind {
            HexErrorKind::NotADigit(c) => c.len_utf8(),
            HexErrorKind::OddDigits(digits) => digits,
        };
        self.at..self.at + length
    }
}

impl fmt::Display for HexError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.kind {
            HexErrorKind::NotADigit(c) => {
                write!(f, "{c:?} at character {} is not a hexadecimal digit (0-9, a-f)", self.at + 1)
            }
            HexErrorKind::OddDigits(digits) => write!(
                f,
                "the {digits} digits from character {} are an odd number, so half an octet is missing",
                self.at + 1
            ),
        }
    }
}

impl core::error::Error for HexError {}

/// Reads hexadecimal text: plain, or grouped by colons, spaces, commas, dashes or dots, with or without `0x` or `\x`.
///
/// A group of one digit beside a separator is one octet (`a:b` is `0a 0b`).
///
/// ```
/// use oplex::octets::hex;
///
/// assert_eq!(hex::parse("0a40 0401")?, [10, 64, 4, 1]);
/// assert!(hex::parse("0a4").is_err(), "an octet has two digits");
/// # Ok::<(), hex::HexError>(())
/// ```
///
/// # Errors
/// A character that is no digit, or a group with an odd number of digits above one.
pub fn parse(text: &str) -> Result<Vec<u8>, HexError> {
    let mut octets = Vec::with_capacity(text.len() / 2);
    let separator = |c: char| c.is_whitespace() || matches!(c, ':' | ',' | '-' | '.' | ';' | '\\');
    let grouped = text.trim().contains(separator);
    let mut at = 0;
    for group in text.split(separator) {
        let start = at;
        at += group.len() + text[at + group.len()..].chars().next().map_or(0, char::len_utf8);
        let (digits, skipped) = without_marker(group);
        let start = start + skipped;
        if let Some((offset, c)) = digits.char_indices().find(|(_, c)| !c.is_ascii_hexdigit()) {
            return Err(HexError { at: start + offset, kind: HexErrorKind::NotADigit(c) });
        }
        if digits.len() % 2 == 1 && !(digits.len() == 1 && grouped) {
            return Err(HexError { at: start, kind: HexErrorKind::OddDigits(digits.len()) });
        }
        octets.extend(
            digits.as_bytes().chunks(2).map(|pair| pair.iter().fold(0, |octet, digit| octet << 4 | nibble(*digit))),
        );
    }
    Ok(octets)
}

fn without_marker(group: &str) -> (&str, usize) {
    for marker in ["0x", "0X", "x"] {
        if let Some(rest) = group.strip_prefix(marker) {
            return (rest, marker.len());
        }
    }
    (group, 0)
}

fn nibble(digit: u8) -> u8 {
    match digit {
        b'0'..=b'9' => digit - b'0',
        b'a'..=b'f' => digit - b'a' + 10,
        _ => digit - b'A' + 10,
    }
}

/// `0a400401`
///
/// ```
/// use oplex::octets::hex;
///
/// let octets = [2, 0, 0x5e];
/// assert_eq!((hex::plain(&octets), hex::colon(&octets)), ("02005e".to_owned(), "02:00:5e".to_owned()));
/// assert_eq!(hex::spaced(&octets), "02 00 5e");
/// assert_eq!(hex::parse("02:00:5e")?, octets);
/// # Ok::<(), hex::HexError>(())
/// ```
#[must_use]
pub fn plain(octets: &[u8]) -> String {
    joined(octets, "")
}

/// `0a:40:04:01`
#[must_use]
pub fn colon(octets: &[u8]) -> String {
    joined(octets, ":")
}

/// `0a 40 04 01`
#[must_use]
pub fn spaced(octets: &[u8]) -> String {
    joined(octets, " ")
}

/// Printable ASCII as itself, everything else (and the backslash) as `\x0a`.
///
/// ```
/// assert_eq!(oplex::octets::hex::escaped(&[10, 64]), "\\x0a@");
/// ```
#[must_use]
pub fn escaped(octets: &[u8]) -> String {
    octets.iter().fold(String::with_capacity(octets.len()), |mut text, octet| {
        match octet {
            b' '..=b'~' if *octet != b'\\' => text.push(char::from(*octet)),
            _ => {
                let _ = write!(text, "\\x{octet:02x}");
            }
        }
        text
    })
}

/// The same as [`colon`], where it is written, without a string of its own.
pub(crate) struct Colon<'o>(pub(crate) &'o [u8]);

impl fmt::Display for Colon<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let mut text = [b':'; 3];
        for (index, octet) in self.0.iter().enumerate() {
            (text[1], text[2]) = (DIGITS[usize::from(octet >> 4)], DIGITS[usize::from(octet & 15)]);
            f.write_str(core::str::from_utf8(&text[usize::from(index == 0)..]).unwrap_or_default())?;
        }
        Ok(())
    }
}

const DIGITS: &[u8; 16] = b"0123456789abcdef";

fn joined(octets: &[u8], between: &str) -> String {
    // This runs for much of what clients send: no formatting.
    let digit = |four: u8| char::from(DIGITS[usize::from(four)]);
    let mut text = String::with_capacity(octets.len() * (2 + between.len()));
    for (index, octet) in octets.iter().enumerate() {
        if index > 0 {
            text.push_str(between);
        }
        text.push(digit(octet >> 4));
        text.push(digit(octet & 15));
    }
    text
}
