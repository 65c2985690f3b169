//! The words and signs of a layout's text, each with its place.

use crate::prelude::*;
use core::ops::Range;

use crate::layout::LayoutError;

#[derive(Debug, Clone, PartialEq)]
pub(in crate::layout) enum Token<'t> {
    Word(&'t str),
    Number(i128),
    /// A quoted text, without its quotes.
    Quoted(String),
    Sign(&'static str),
    End,
}

impl Token<'_> {
    pub(in crate::layout) fn describe(&self) -> String {
        match self {
            Self::Word(word) => format!("`{word}`"),
            Self::Number(number) => format!("`{number}`"),
            Self::Quoted(text) => in_quotes(text),
            Self::Sign(sign) => format!("`{sign}`"),
            Self::End => "the end of the layout".to_owned(),
        }
    }
}

/// Longer signs first, so that `..=` is not read as `..`.
const SIGNS: [&str; 16] = ["..=", "..", "=>", "{", "}", "(", ")", ",", ":", "+", "*", "?", "=", ".", "-", "!"];

pub(in crate::layout) fn tokens(text: &str) -> Result<Vec<(Token<'_>, Range<usize>)>, LayoutError> {
    let mut tokens = Vec::new();
    let mut at = 0;
    while let Some(c) = text[at..].chars().next() {
        let rest = &text[at..];
        let (token, length) = if c.is_whitespace() {
            at += c.len_utf8();
            continue;
        } else if c.is_ascii_alphabetic() || c == '_' {
            let word = leading(rest, |c| c.is_ascii_alphanumeric() || c == '-' || c == '_');
            // A name may have dashes in it, not at its end.
            let word = word.trim_end_matches('-');
            (Token::Word(word), word.len())
        } else if c.is_ascii_digit() {
            number(rest, at)?
        } else if c == '"' {
            quoted(rest, at)?
        } else if let Some(sign) = SIGNS.into_iter().find(|sign| rest.starts_with(sign)) {
            (Token::Sign(sign), sign.len())
        } else {
            return Err(LayoutError::new(at..at + c.len_utf8(), format!("unexpected {c:?} in a layout")));
        };
        tokens.push((token, at..at + length));
        at += length;
    }
    tokens.push((Token::End, at..at));
    Ok(tokens)
}

fn leading(text: &str, belongs: impl Fn(char) -> bool) -> &str {
    &text[..text.find(|c| !belongs(c)).unwrap_or(text.len())]
}

fn number(rest: &str, at: usize) -> Result<(Token<'static>, usize), LayoutError> {
    let digits = leading(rest, |c| c.is_ascii_alphanumeric() || c == '_');
    let plain = digits.replace('_', "");
    let parsed = match plain.strip_prefix("0x") {
        Some(hex) => i128::from_str_radix(hex, 16),
        None => plain.parse(),
    };
    match parsed {
        Ok(number) => Ok((Token::Number(number), digits.len())),
        Err(_) => Err(LayoutError::new(at..at + digits.len(), format!("`{digits}` is not a number"))),
    }
}

/// What stands after a backslash, and what it means there; every other character means itself.
const ESCAPES: [(char, char); 4] = [('t', '\t'), ('n', '\n'), ('r', '\r'), ('0', '\0')];

/// The text in quotes, as [`quoted`] reads it.
pub(in crate::layout) fn in_quotes(text: &str) -> String {
    let mut written = String::from("\"");
    for c in text.chars() {
        let escape = ESCAPES.iter().find(|(_, meant)| *meant == c).map(|(name, _)| *name);
        if let Some(escape) = escape.or(matches!(c, '"' | '\\').then_some(c)) {
            written.extend(['\\', escape]);
        } else {
            written.push(c);
        }
    }
    written + "\""
}

fn quoted(rest: &str, at: usize) -> Result<(Token<'static>, usize), LayoutError> {
    let mut text = String::new();
    let mut escaped = false;
    for (offset, c) in rest.char_indices().skip(1) {
        match c {
            _ if escaped => {
                let named = ESCAPES.iter().find(|(name, _)| *name == c);
                text.push(named.map_or(c, |(_, meant)| *meant));
                escaped = false;
            }
            '\\' => escaped = true,
            '"' => return Ok((Token::Quoted(text), offset + 1)),
            _ => text.push(c),
        }
    }
    Err(LayoutError::new(at..at + rest.len(), "the quote is never closed".to_owned()))
}
