//! What a message of DHCPv4 had room for.

use oplex::codebook::Codebook;
use oplex::family::Protocol;
use oplex::packet::v4::{Budget, Field, FieldUse, LeftOut, Line};
use serde::Serialize;

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
