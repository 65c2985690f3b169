//! What a message had room for, as bars for people and as JSON.

use std::io::{self, Write};

use oplex::codebook::Codebook;
use oplex::family::Protocol;
use oplex::packet::v4::{Budget, Field, FieldUse, LeftOut, LimitFrom};

use super::clean;
use super::style::{AID, BAD, DIM, GOOD, in_style};

/// Characters of a bar.
const WIDTH: usize = 32;

/// A bar that is full as far as `used` goes of `capacity`.
pub(crate) fn bar(used: usize, capacity: usize) -> String {
    let full = (used * WIDTH).div_ceil(capacity.max(1)).min(WIDTH);
    let style = if used > capacity { BAD } else { GOOD };
    format!("{}{}", in_style(style, "━".repeat(full)), in_style(DIM, "─".repeat(WIDTH - full)))
}

/// The bars: of the whole message, and of each field that holds options or could.
pub(crate) fn draw(out: &mut dyn Write, budget: &Budget) -> io::Result<()> {
    let Budget { limit, used, .. } = budget;
    let rest = match limit.octets.checked_sub(*used) {
        Some(free) => format!("{free} free"),
        None => in_style(BAD, format!("{} too many", used - limit.octets)),
    };
    let row = |label: &str, used: usize, capacity: usize, rest: &str| {
        let numbers = format!("{used:>4} of {capacity:<5}");
        format!("  {}  {}  {numbers} {rest}", in_style(AID, format!("{label:<8}")), bar(used, capacity))
    };
    writeln!(out, "{}", row("message", *used, limit.octets, &format!("{rest}; {}", said_by(limit.from))))?;
    for FieldUse { field, capacity, used } in &budget.fields {
        match (field, capacity) {
            (Field::Options, _) => {}
            (field, 0) => {
                writeln!(out, "  {}  a name, no room for options", in_style(AID, format!("{:<8}", field.name())))?;
            }
            (field, _) if *used == 0 => writeln!(
                out,
                "  {}  {}  {:>4} of {capacity:<5} free for options",
                in_style(AID, format!("{:<8}", field.name())),
                bar(0, *capacity),
                0
            )?,
            (field, _) => writeln!(out, "{}", row(field.name(), *used, *capacity, "octets of options"))?,
        }
    }
    Ok(())
}

/// One bar for a whole message, against what every link carries in one packet.
pub(crate) fn draw_whole(out: &mut dyn Write, used: usize, most: usize) -> io::Result<()> {
    let room = match most.checked_sub(used) {
        Some(free) => format!("{free} free in a packet that needs no fragmentation"),
        None => format!("{} too many for a packet that needs no fragmentation", used - most),
    };
    let label = in_style(AID, "message ");
    writeln!(out, "  {label}  {}  {used:>4} of {most:<5} {room}", bar(used, most))
}

fn said_by(from: LimitFrom) -> String {
    match from {
        LimitFrom::Default => "accepted by every client".to_owned(),
        LimitFrom::Client { said } => format!("accepted by the client ({said} with the headers)"),
        LimitFrom::Sender => "the sender's limit".to_owned(),
    }
}

/// What had no room, each with its size and the reason.
pub(crate) fn draw_left_out(out: &mut dyn Write, budget: &Budget, codebook: &Codebook) -> io::Result<()> {
    for LeftOut { code, length, why, .. } in &budget.left_out {
        let what =
            format!("{} ({length} octets) is left out", clean::line(&codebook.label(Protocol::V4, (*code).into())));
        writeln!(out, "{} {what}: {why}", in_style(BAD, "no room"))?;
    }
    Ok(())
}
