//! Which options the clients of each vendor class request.

use std::io::{self, Write};

use oplex::audit::Summary;
use oplex::codebook::Codebook;

use crate::render::clean;
use crate::render::style::{DIM, STRONG, in_style};

/// As many clients, their codes and what these are called; a line that a plan's fleet can have.
pub(super) fn draw(out: &mut dyn Write, summary: &Summary, codebook: &Codebook) -> io::Result<()> {
    let count = summary.classes.len();
    let kinds =
        if count == 1 { "1 kind of client requests".to_owned() } else { format!("{count} kinds of clients request") };
    writeln!(out, "{}", in_style(STRONG, format!("{kinds} options")))?;
    for ((protocol, class), codes) in &summary.classes {
        let class = if class.is_empty() {
            "without a vendor class".to_owned()
        } else {
            format!("“{}”", clean::line(class))
        };
        writeln!(out, "\n{class}, {protocol}")?;
        let list: Vec<String> = codes.iter().map(u16::to_string).collect();
        writeln!(out, "  requests = [{}]", list.join(", "))?;
        for code in codes {
            let name = codebook.own(*protocol, *code).map_or("undefined", |definition| &definition.name);
            writeln!(out, "  {}", in_style(DIM, format!("{code:>5}  {}", clean::line(name))))?;
        }
    }
    Ok(())
}
