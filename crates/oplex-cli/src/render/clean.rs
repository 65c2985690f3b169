//! Text from packets and files, made safe for a terminal.

use std::borrow::Cow;
use std::fmt::Write as _;
use std::io::{self, Write};

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

/// Standard output or standard error: all that is printed goes through this, so that nothing in it acts on a terminal but line
/// ends and styles, whoever forgot to make a name harmless.
pub(crate) struct Clean<W> {
    to: W,
    /// What was written of a character or a style that has not come to its end.
    begun: Vec<u8>,
}

impl<W: Write> Clean<W> {
    pub(crate) fn new(to: W) -> Self {
        Self { to, begun: Vec::new() }
    }

    /// Writes a text but for a style at its end that may go on, and says how long that is.
    fn pass(&mut self, text: &str) -> io::Result<usize> {
        let mut rest = text;
        while let Some(at) = rest.find(|c| acts(c) && c != '\n') {
            let (before, from) = rest.split_at(at);
            self.to.write_all(before.as_bytes())?;
            let length = match style(from) {
                Style::Whole(length) => {
                    self.to.write_all(&from.as_bytes()[..length])?;
                    length
                }
                Style::Begun => return Ok(from.len()),
                Style::None => {
                    let length = from.chars().next().map_or(0, char::len_utf8);
                    self.to.write_all(line(&from[..length]).as_bytes())?;
                    length
                }
            };
            rest = &from[length..];
        }
        self.to.write_all(rest.as_bytes())?;
        Ok(0)
    }

    /// Writes what never came to its end as what it is.
    pub(crate) fn end(&mut self) -> io::Result<()> {
        let begun = std::mem::take(&mut self.begun);
        self.to.write_all(line(&String::from_utf8_lossy(&begun)).as_bytes())?;
        self.to.flush()
    }
}

/// The style with which a text begins.
pub(crate) enum Style {
    None,
    /// Of so many octets: `\u{1b}[1;35m`.
    Whole(usize),
    /// One that the text is too short for.
    Begun,
}

/// No style has more octets.
const LONGEST_STYLE: usize = 24;

pub(crate) fn style(text: &str) -> Style {
    let Some(after) = text.strip_prefix('\u{1b}') else { return Style::None };
    let inner = after.trim_start_matches('[');
    let numbers = inner.trim_start_matches(|c: char| c.is_ascii_digit() || c == ';');
    match (after.len() - inner.len(), numbers.chars().next()) {
        (0 | 1, None) if text.len() < LONGEST_STYLE => Style::Begun,
        (1, Some('m')) => Style::Whole(text.len() - numbers.len() + 1),
        _ => Style::None,
    }
}

impl<W: Write> Write for Clean<W> {
    fn write(&mut self, octets: &[u8]) -> io::Result<usize> {
        let mut all = std::mem::take(&mut self.begun);
        all.extend_from_slice(octets);
        // A character may come in two pieces.
        let whole = match str::from_utf8(&all) {
            Err(error) if error.error_len().is_none() => error.valid_up_to(),
            _ => all.len(),
        };
        let kept = self.pass(&String::from_utf8_lossy(&all[..whole]))?;
        self.begun = all.split_off(whole - kept);
        Ok(octets.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        self.to.flush()
    }
}

/// Standard error, made clean.
#[expect(clippy::disallowed_methods, reason = "this is what makes it clean")]
pub(crate) fn stderr() -> Clean<anstream::AutoStream<io::Stderr>> {
    Clean::new(anstream::stderr())
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
