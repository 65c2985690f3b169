//! What a message had room for, as bars for people and as JSON.

use std::io::{self, Write};

use oplex::codebook::Codebook;
use oplex::family::Protocol;
use oplex::packet::v4::{Budget, Field, FieldUse, LeftOut, LimitFrom, Line};
use serde::Serialize;

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

/// The budget as programs read it.
#[derive(Debug, Serialize)]
pub(crate) struct BudgetForm {
    limit: usize,
    used: usize,
    free: usize,
    saved: usize,
    fields: Vec<FieldForm>,
    options: Vec<LineForm>,
    left_out: Vec<LeftOutForm>,
}

#[derive(Debug, Serialize)]
struct FieldForm {
    field: &'static str,
    capacity: usize,
    used: usize,
}

#[derive(Debug, Serialize)]
struct LineForm {
    option: String,
    length: u16,
    cost: usize,
    parts: u16,
    fields: Vec<&'static str>,
}

#[derive(Debug, Serialize)]
struct LeftOutForm {
    option: String,
    name: String,
    length: u16,
    cost: usize,
    why: String,
}

impl BudgetForm {
    pub(crate) fn new(budget: &Budget, codebook: &Codebook) -> Self {
        let field = |room: &FieldUse| FieldForm { field: room.field.name(), capacity: room.capacity, used: room.used };
        let line = |line: Line| LineForm {
            option: format!("v4:{}", line.code),
            length: line.length,
            cost: line.cost(),
            parts: line.parts,
            fields: line.fields().map(Field::name).collect(),
        };
        let left_out = |out: &LeftOut| LeftOutForm {
            option: format!("v4:{}", out.code),
            name: codebook
                .own(Protocol::V4, out.code.into())
                .map(|definition| definition.name.to_string())
                .unwrap_or_default(),
            length: out.length,
            cost: out.cost,
            why: out.why.to_string(),
        };
        Self {
            limit: budget.limit.octets,
            used: budget.used,
            free: budget.free(),
            saved: budget.saved(),
            fields: budget.fields.iter().map(field).collect(),
            options: budget.lines().map(line).collect(),
            left_out: budget.left_out.iter().map(left_out).collect(),
        }
    }
}
