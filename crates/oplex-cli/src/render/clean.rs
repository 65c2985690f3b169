//! Text from packets and files, made safe for a terminal.

use std::borrow::Cow;
use std::fmt::Write;

/// The text on one line, with control characters, what turns the direction of writing and what is none, shown as `\u{1b}`.
pub(crate) fn line(text: &str) -> Cow<'_, str> {
    escape(text, |_| false)
}

/// The same, with line ends kept.
pub(crate) fn lines(text: &str) -> Cow<'_, str> {
    escape(text, |c| c == '\n')
}

fn escape(text: &str, keep: impl Fn(char) -> bool) -> Cow<'_, str> {
    let acts = |c: char| {
        let turns = matches!(c, '\u{200e}' | '\u{200f}' | '\u{202a}'..='\u{202e}' | '\u{2066}'..='\u{2069}' | '\u{fffe}' | '\u{ffff}');
        (c.is_control() || turns) && !keep(c)
    };
    if !text.contains(acts) {
        return Cow::Borrowed(text);
    }
    let mut clean = String::with_capacity(text.len() + 8);
    for c in text.chars() {
        if acts(c) {
            let _ = write!(clean, "{}", c.escape_unicode());
        } else {
            clean.push(c);
        }
    }
    Cow::Owned(clean)
}
