//! The octet view: every octet beside what it means.

use std::io::{self, Write};

use oplex::layout::{ExplainedRow, Fault};
use oplex::octets::hex;
use unicode_width::UnicodeWidthStr;

use super::clean;
use super::findings;
use super::style::{AID, BAD, DIM, STRONG, in_style};

/// Octets on one line of the view.
const WIDTH: usize = 8;

/// Draws a line for every row, and under it what is wrong with its octets.
pub(crate) fn draw(out: &mut dyn Write, octets: &[u8], rows: &[ExplainedRow], faults: &[Fault]) -> io::Result<()> {
    writeln!(out, "{}", in_style(DIM, format!("{:>5}  {:<23}  {}", "at", "octets", "what they are")))?;
    let label_width = rows.iter().map(|row| 2 * row.depth + row.label.width()).max().unwrap_or(0).min(32);
    let mut left: Vec<&Fault> = faults.iter().collect();
    left.sort_by_key(|fault| fault.octets.start);
    let mut left = left.into_iter().peekable();
    for row in rows {
        let what = meaning(row, label_width);
        // A heading has one line without octets.
        let mut at = row.octets.start;
        loop {
            let line = at..row.octets.end.min(at + WIDTH);
            let number = if line.is_empty() { String::new() } else { at.to_string() };
            let number = in_style(DIM, format!("{number:>5}"));
            let what = if at == row.octets.start { what.trim_end() } else { "" };
            writeln!(out, "{}", format!("{number}  {:<23}  {what}", hex::spaced(&octets[line.clone()])).trim_end())?;
            while let Some(fault) = left.next_if(|fault| line.contains(&fault.octets.start)) {
                draw_fault(out, fault, at)?;
            }
            at += WIDTH;
            if at >= row.octets.end {
                break;
            }
        }
    }
    left.try_for_each(|fault| draw_fault(out, fault, fault.octets.start))
}

/// The label, indented by its depth, and what it means.
fn meaning(row: &ExplainedRow, label_width: usize) -> String {
    let label = format!("{}{}", "  ".repeat(row.depth), clean::line(&row.label));
    let gap = " ".repeat(label_width.saturating_sub(label.width()) + 2);
    let label = if row.octets.is_empty() { in_style(STRONG, &label) } else { label };
    format!("{label}{gap}{}", clean::line(&row.meaning))
}

/// Marks the octets on a line that begins at `at`, and says what is wrong with them.
fn draw_fault(out: &mut dyn Write, fault: &Fault, at: usize) -> io::Result<()> {
    let first = fault.octets.start - at;
    let count = fault.octets.len().clamp(1, WIDTH - first);
    let marks = format!("{}{}", " ".repeat(3 * first), "^".repeat(3 * count - 1));
    let place = findings::place(&fault.octets);
    let message = clean::line(&fault.kind.to_string()).into_owned();
    writeln!(out, "       {}  {}", in_style(BAD, format!("{marks:<23}")), in_style(BAD, format!("{place}: {message}")))
}

/// `label  text` lines, the labels in one column.
pub(crate) fn facts(out: &mut dyn Write, facts: &[(&str, String)]) -> io::Result<()> {
    let width = facts.iter().map(|(label, _)| label.width()).max().unwrap_or(0);
    for (label, text) in facts {
        let gap = " ".repeat(width - label.width());
        writeln!(out, "  {}{gap}  {}", in_style(AID, label), clean::line(text))?;
    }
    Ok(())
}
