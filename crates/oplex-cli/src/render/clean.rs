//! Text from packets and files, made safe for a terminal.

use std::borrow::Cow;
use std::fmt::Write;

/// The text on one line, with control characters, what cannot be seen or turns the direction of writing, and what is no
/// character, shown as `\u{1b}`.
pub(crate) fn line(text: &str) -> Cow<'_, str> {
    escape(text, |_| false)
}

/// The same, with line ends kept.
pub(crate) fn lines(text: &str) -> Cow<'_, str> {
    escape(text, |c| c == '\n')
}

fn escape(text: &str, keep: impl Fn(char) -> bool) -> Cow<'_, str> {
    let acts = |c: char| {
        let unseen = matches!(c, '\u{ad}' | '\u{61c}' | '\u{200b}'..='\u{200f}' | '\u{2028}'..='\u{202e}' | '\u{2060}'..='\u{206f}' | '\u{feff}' | '\u{fffe}' | '\u{ffff}');
        (c.is_control() || unseen) && !keep(c)
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
