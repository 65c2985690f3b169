//! Lines that fit the terminal: what is wider goes on below the column where it stands.

use std::io::{self, IsTerminal as _, Write};

use unicode_width::UnicodeWidthChar as _;

use super::clean::{Style, style};

/// The environment variable that says how wide lines may be, also where output goes to a pager or a file; 0 leaves them as they are.
pub(crate) const VARIABLE: &str = "OPLEX_WIDTH";

/// Narrower than this a table is no table any more.
const NARROWEST: usize = 40;

/// Lines of more octets than this are passed as they are.
const LONGEST: usize = 64 << 10;

/// How wide lines may be: what the environment says, else as wide as the terminal that they go to. Elsewhere there is no limit, as
/// programs read lines.
pub(crate) fn width() -> Option<usize> {
    let said = std::env::var(VARIABLE).ok().and_then(|text| text.trim().parse::<usize>().ok());
    #[expect(clippy::disallowed_methods, reason = "nothing is written there")]
    let terminal = || {
        let out = io::stdout();
        let size = out.is_terminal().then(|| terminal_size::terminal_size_of(&out))?;
        size.map(|(width, _)| usize::from(width.0))
    };
    said.or_else(terminal).filter(|width| *width > 0).map(|width| width.max(NARROWEST))
}

/// Output whose lines are no wider than that.
pub(crate) struct Wrap<W> {
    to: W,
    width: Option<usize>,
    /// The line that has not come to its end.
    line: Vec<u8>,
}

impl<W: Write> Wrap<W> {
    pub(crate) fn new(to: W, width: Option<usize>) -> Self {
        Self { to, width, line: Vec::new() }
    }
}

impl<W: Write> Write for Wrap<W> {
    fn write(&mut self, octets: &[u8]) -> io::Result<usize> {
        let Some(width) = self.width else { return self.to.write(octets) };
        for part in octets.split_inclusive(|octet| *octet == b'\n') {
            self.line.extend_from_slice(part);
            if self.line.len() > LONGEST {
                // It comes in pieces, whose seams may be inside of characters.
                self.to.write_all(&std::mem::take(&mut self.line))?;
            } else if part.ends_with(b"\n") {
                let line = std::mem::take(&mut self.line);
                self.to.write_all(folded(&String::from_utf8_lossy(&line), width).as_bytes())?;
            }
        }
        Ok(octets.len())
    }

    fn flush(&mut self) -> io::Result<()> {
        let line = std::mem::take(&mut self.line);
        self.to.write_all(&line)?;
        self.to.flush()
    }
}

/// A character that takes room on a line.
struct Visible {
    at: usize,
    c: char,
    column: usize,
}

/// A line, or as many as it takes. What is drawn has its columns for a reason, and stays as it is.
fn folded(line: &str, width: usize) -> String {
    let text = line.trim_end_matches('\n');
    let shown = visible(text);
    let end = shown.last().map_or(0, |last| last.column + last.c.width().unwrap_or(0));
    if end <= width || text.len() > LONGEST || shown.iter().any(|one| is_drawn(one.c)) {
        return line.to_owned();
    }
    let hang = hang(&shown, width);
    let mut folded = String::with_capacity(line.len() + 2 * hang);
    // The first character of the piece, and the column where it would stand on one line.
    let (mut from, mut first) = (0, 0);
    loop {
        let room = if from == 0 { width } else { width - hang };
        let base = shown[first].column;
        let fits =
            shown[first..].iter().take_while(|one| one.column + one.c.width().unwrap_or(0) - base <= room).count();
        let is_rest = first + fits == shown.len();
        // Behind a space, but for those in front of what hangs.
        let kept = if from == 0 { shown.iter().take_while(|one| one.column < hang).count() } else { first };
        let gap = (kept..first + fits).rev().find(|at| *at > kept && shown[*at].c == ' ').filter(|_| !is_rest);
        let gap = gap.or_else(|| (first + fits..shown.len()).find(|at| shown[*at].c == ' ').filter(|_| !is_rest));
        let next = gap.and_then(|gap| (gap..shown.len()).find(|at| shown[*at].c != ' '));
        let (Some(gap), Some(next)) = (gap, next) else { break };
        folded.push_str(text[from..shown[gap].at].trim_end_matches(' '));
        folded.push('\n');
        folded.extend(std::iter::repeat_n(' ', hang));
        (from, first) = (shown[next].at, next);
    }
    folded + &line[from..]
}

/// The characters that take room, without styles.
fn visible(text: &str) -> Vec<Visible> {
    let (mut shown, mut at, mut column) = (Vec::with_capacity(text.len()), 0, 0);
    while let Some(c) = text[at..].chars().next() {
        if let Style::Whole(length) = style(&text[at..]) {
            at += length;
            continue;
        }
        shown.push(Visible { at, c, column });
        column += c.width().unwrap_or(0);
        at += c.len_utf8();
    }
    shown
}

/// The column below which a line goes on: that of its last column that begins in the first half, or a little behind its first word.
fn hang(shown: &[Visible], width: usize) -> usize {
    let begins = |at: &usize| shown[*at].c != ' ' && shown[at - 2].c == ' ' && shown[at - 1].c == ' ';
    let columns = (2..shown.len()).filter(begins).map(|at| shown[at].column);
    let indent = shown.iter().take_while(|one| one.c == ' ').count();
    let last = columns.rev().find(|column| *column <= width / 2 && *column > indent);
    last.unwrap_or(if indent < width / 2 { indent + 2 } else { 0 })
}

/// Whether a character is of a drawing: frames, marks below lines, maps.
fn is_drawn(c: char) -> bool {
    matches!(c, '\u{2500}'..='\u{259f}')
}
