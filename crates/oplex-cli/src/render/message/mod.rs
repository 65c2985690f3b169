//! Whole messages of every protocol, as tables.

mod carried;
mod header;

use std::io::{self, Write};

use oplex::codebook::Codebook;
use oplex::family::Protocol;
use oplex::finding::{Finding, Sources};
use oplex::packet::v4::{Budget, Field};
use oplex::packet::{AnyMessage, MessageOption, v6};

use super::octets::facts;
use super::option::{Meaning, in_lines, some_octets};
use super::style::{AID, DIM, GOOD, STRONG, in_style};
use super::{budget, clean, findings};

pub(crate) use carried::Carried;

/// Options inside an option that anybody reads; programs get all of them.
const MOST: usize = 100;

/// The message: what it is, what is wrong with it, its header, its options, and the room they take. `octets` are those it
/// was read from, which begin with an IPv6 header where one stands before it.
pub(crate) fn draw(
    out: &mut dyn Write,
    codebook: &Codebook,
    (message, octets): (&AnyMessage<'_>, &[u8]),
    budget: Option<&Budget>,
    found: &[Finding],
) -> io::Result<()> {
    writeln!(out, "{}", in_style(STRONG, message))?;
    let verdict =
        if found.is_empty() { in_style(GOOD, "nothing wrong") } else { in_style(STRONG, findings::tally(found)) };
    writeln!(out, "{verdict}\n")?;
    facts(out, &header::facts(codebook, message))?;
    let head = format!("{:>5}  {:>4}  {:<28}  {:<26}  value", "at", "code", "option", "octets");
    writeln!(out, "\n{}", in_style(DIM, head))?;
    draw_options(out, codebook, message, message.base(), 0)?;
    match budget {
        Some(budget) => {
            writeln!(out)?;
            budget::draw(out, budget)?;
        }
        None if message.protocol() == Protocol::V6 => {
            writeln!(out)?;
            budget::draw_whole(out, message.octets().len(), v6::UNFRAGMENTED)?;
        }
        None => {}
    }
    for finding in found.iter().take(findings::MOST) {
        write!(out, "\n{}", draw_finding(finding, octets))?;
    }
    findings::draw_more(out, found)
}

/// A finding with the octets it is about.
pub(crate) fn draw_finding(finding: &Finding, message: &[u8]) -> String {
    let mut drawn = findings::draw(finding, &Sources::default());
    let place = finding.octets.clone().filter(|octets| octets.len() < message.len() && !octets.is_empty());
    if let (Some(place), Some(line)) = (place, drawn.find('\n')) {
        let octets = message.get(place.clone()).unwrap_or_default();
        let at = findings::place(&place);
        drawn.insert_str(line + 1, &format!("  {} {at}: {}\n", in_style(AID, "at"), some_octets(octets)));
    }
    drawn
}

/// The options of a message that begins at octet `base`, and those of the message it carries.
fn draw_options(
    out: &mut dyn Write,
    codebook: &Codebook,
    message: &AnyMessage<'_>,
    base: usize,
    depth: usize,
) -> io::Result<()> {
    let mut field = Field::Options;
    let carried = Carried::by(message, depth);
    for option in message.options() {
        if message.protocol() == Protocol::V4 && Field::around(option.at()) != field {
            field = Field::around(option.at());
            writeln!(out, "{}", in_style(DIM, format!("       in the header field {}", field.name())))?;
        }
        let carried = carried.filter(|carried| carried.stands_in(&option));
        draw_option(out, codebook, message.protocol(), &option, (base, depth), carried.is_some())?;
        if let Some(Carried { inner, at }) = carried {
            let indent = "  ".repeat(depth + 1);
            writeln!(out, "{}", in_style(DIM, format!("             {indent}{inner}{}", header::aside(&inner))))?;
            draw_options(out, codebook, &inner, base + at, depth + 1)?;
        }
    }
    Ok(())
}

/// An option, and the options inside it. One that carries a message shows nothing else of it.
fn draw_option(
    out: &mut dyn Write,
    codebook: &Codebook,
    protocol: Protocol,
    option: &MessageOption<'_>,
    (base, depth): (usize, usize),
    carries: bool,
) -> io::Result<()> {
    let octets = option.joined();
    let definition = codebook.own(protocol, option.code());
    let meaning = definition.filter(|_| !carries).map(|known| Meaning::of(codebook, known, &octets, None));
    let meaning = meaning.unwrap_or_default();
    let parts = if option.is_split() { format!("{} parts, ", option.parts().count()) } else { String::new() };
    let name = definition.map_or("undefined", |known| &known.name);
    let place = (base + option.at(), option.code(), depth);
    draw_line(out, place, name, &format!("{parts}{}", some_octets(&octets)), &in_lines(&meaning.text()))?;
    for inner in meaning.inner.iter().take(MOST) {
        let place = (base + option.position(inner.around.start), inner.code, depth + 1 + inner.depth);
        draw_line(out, place, inner.name(), &some_octets(&octets[inner.payload.clone()]), &in_lines(&inner.text()))?;
    }
    match meaning.inner.len().saturating_sub(MOST) {
        0 => Ok(()),
        more => {
            writeln!(out, "{}", in_style(DIM, format!("               and {more} more; --format json lists all")))
        }
    }
}

fn draw_line(
    out: &mut dyn Write,
    (at, code, depth): (usize, u16, usize),
    name: &str,
    octets: &str,
    values: &[String],
) -> io::Result<()> {
    let name = format!("{}{}", "  ".repeat(depth), clean::line(name));
    let at = in_style(DIM, format!("{at:>5}"));
    let (first, others) = values.split_first().map_or(("", &[][..]), |(first, others)| (first, others));
    let line = format!("{at}  {code:>4}  {name:<28}  {octets:<26}  {}", clean::line(first));
    writeln!(out, "{}", line.trim_end())?;
    others.iter().try_for_each(|value| writeln!(out, "{:71}{}", "", clean::line(value).trim_end()))
}
