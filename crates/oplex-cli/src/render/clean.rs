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

/// Whether a character acts on a terminal, cannot be seen, or turns the direction of writing, or is none.
pub(crate) fn acts(c: char) -> bool {
    let unseen = matches!(c, '\u{ad}' | '\u{61c}' | '\u{200b}'..='\u{200f}' | '\u{2028}'..='\u{202e}' | '\u{2060}'..='\u{206f}' | '\u{feff}' | '\u{fffe}' | '\u{ffff}');
    c.is_control() || unseen
}

/// A piece of a file that is shown, and where in it what stands in the file has come to be.
pub(crate) struct Excerpt<'t> {
    pub(crate) text: Cow<'t, str>,
    /// Where characters are shown escaped, and how many octets longer that is.
    grown: Vec<(usize, usize)>,
}

impl<'t> Excerpt<'t> {
    /// The control characters of ASCII are left: what draws sources draws signs for them, and they end lines.
    pub(crate) fn of(text: &'t str) -> Self {
        let hidden = |c: char| acts(c) && !c.is_ascii();
        let grown = text.char_indices().filter(|(_, c)| hidden(*c));
        let grown = grown.map(|(at, c)| (at, c.escape_unicode().count() - c.len_utf8())).collect();
        Self { text: escape(text, |c| !hidden(c)), grown }
    }

    /// Where an octet of the file stands in what is shown.
    pub(crate) fn place(&self, at: usize) -> usize {
        at + self.grown.iter().take_while(|(before, _)| *before < at).map(|(_, more)| more).sum::<usize>()
    }
}

fn escape(text: &str, keep: impl Fn(char) -> bool) -> Cow<'_, str> {
    let acts = |c: char| acts(c) && !keep(c);
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
