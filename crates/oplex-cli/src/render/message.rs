//! Whole messages, as tables for people and as JSON.

use std::borrow::Cow;
use std::fmt::Display;
use std::io::{self, Write};
use std::net::Ipv4Addr;
use std::ops::Range;

use oplex::codebook::{Codebook, Definition};
use oplex::finding::{Finding, Sources};
use oplex::layout::{Fault, Form, Frame, Scalar, Shape, Value, Visitor, Vocabulary};
use oplex::octets::hex;
use oplex::packet::v4::{Budget, Field, Header, Message, MessageOption};
use serde::Serialize;

use super::budget::{self, BudgetForm};
use super::clean;
use super::findings;
use super::json::FindingForm;
use super::octets::facts;
use super::style::{AID, DIM, GOOD, STRONG, in_style};

/// Octets of an option that are shown beside its value; `oplex decode v4:CODE` shows all.
const SHOWN: usize = 8;

/// Characters of a value, and options inside an option, that anybody reads; programs get all of them.
const LONGEST: usize = 400;
pub(crate) const MOST: usize = 100;

/// The message: what it is, what is wrong with it, its header, its options, and the room they take.
pub(crate) fn draw(
    out: &mut dyn Write,
    codebook: &Codebook,
    message: &Message<'_>,
    budget: &Budget,
    found: &[Finding],
) -> io::Result<()> {
    draw_head(out, message, found, &header_facts(codebook, message))?;
    let mut field = Field::Options;
    for option in message.options() {
        if option.first().field != field {
            field = option.first().field;
            writeln!(out, "{}", in_style(DIM, format!("       in the header field {}", field.name())))?;
        }
        draw_option(out, codebook, &option)?;
    }
    writeln!(out)?;
    budget::draw(out, budget)?;
    draw_findings(out, found, message.octets())
}

/// What a message is, what is wrong with it, what its header says, and the head of the table of its options.
pub(crate) fn draw_head(
    out: &mut dyn Write,
    message: &dyn Display,
    found: &[Finding],
    header: &[(&'static str, String)],
) -> io::Result<()> {
    writeln!(out, "{}", in_style(STRONG, message))?;
    let verdict =
        if found.is_empty() { in_style(GOOD, "nothing wrong") } else { in_style(STRONG, findings::tally(found)) };
    writeln!(out, "{verdict}\n")?;
    facts(out, header)?;
    let head = format!("{:>5}  {:>4}  {:<28}  {:<26}  value", "at", "code", "option", "octets");
    writeln!(out, "\n{}", in_style(DIM, head))
}

/// The findings with their octets, as many as anybody reads.
pub(crate) fn draw_findings(out: &mut dyn Write, found: &[Finding], message: &[u8]) -> io::Result<()> {
    for finding in found.iter().take(findings::MOST) {
        write!(out, "\n{}", draw_finding(finding, message))?;
    }
    findings::draw_more(out, found.len())
}

/// A finding with the octets it is about.
pub(crate) fn draw_finding(finding: &Finding, message: &[u8]) -> String {
    let mut drawn = findings::draw(finding, &Sources::default());
    let place = finding.octets.clone().filter(|octets| octets.len() < message.len() && !octets.is_empty());
    if let (Some(place), Some(line)) = (place, drawn.find('\n')) {
        let octets = message.get(place.clone()).unwrap_or_default();
        let at = match place.len() {
            1 => format!("octet {}", place.start),
            _ => format!("octets {} to {}", place.start, place.end - 1),
        };
        drawn.insert_str(line + 1, &format!("  {} {at}: {}\n", in_style(AID, "at"), some_octets(octets)));
    }
    drawn
}

/// What stands in the header, but for zeros.
fn header_facts(codebook: &Codebook, message: &Message<'_>) -> Vec<(&'static str, String)> {
    let header = message.header();
    let Header { op, htype, hlen, hops, xid, secs, flags, .. } = header;
    let named = |enumeration: &str, number: u8| {
        let name = codebook.enumeration(enumeration).and_then(|of| of.name_of(number.into()).map(str::to_owned));
        name.unwrap_or_else(|| number.to_string())
    };
    let op = named("message-op", op);
    let flags = match flags {
        0 => "no flags".to_owned(),
        Header::BROADCAST => "flags BROADCAST".to_owned(),
        other => format!("flags {other:#06x}"),
    };
    let hardware = format!("{}, {hlen} octets", named("client-id-type", htype));
    let mut lines = vec![
        ("header", format!("{op}, xid {xid:#010x}, secs {secs}, hops {hops}, {flags}")),
        ("chaddr", format!("{} ({hardware})", hex::colon(header.hardware()))),
    ];
    let addresses =
        [("ciaddr", header.ciaddr), ("yiaddr", header.yiaddr), ("siaddr", header.siaddr), ("giaddr", header.giaddr)];
    lines.extend(addresses.into_iter().filter(|(_, at)| !at.is_unspecified()).map(|(name, at)| (name, at.to_string())));
    let overload = message.overload();
    for (name, octets, bit) in [("sname", message.sname(), 2), ("file", message.file(), 1)] {
        let end = octets.iter().position(|octet| *octet == 0).unwrap_or(octets.len());
        match (overload & bit != 0, end) {
            (true, _) => lines.push((name, "holds options".to_owned())),
            (false, 0) => {}
            (false, end) => lines.push((name, String::from_utf8_lossy(&octets[..end]).into_owned())),
        }
    }
    lines
}

fn draw_option(out: &mut dyn Write, codebook: &Codebook, option: &MessageOption<'_>) -> io::Result<()> {
    let octets = option.joined();
    let definition = codebook.v4(option.code().into());
    let name = definition.map_or("not assigned", |definition| &definition.name);
    let (value, subs) = definition.map(|definition| meaning(codebook, definition, &octets, None)).unwrap_or_default();
    let parts = option.parts().count();
    let parts = if parts > 1 { format!("{parts} parts, ") } else { String::new() };
    let text = if subs.is_empty() { value.as_ref().map(shown).unwrap_or_default() } else { String::new() };
    draw_line(out, (option.first().at, option.code().into(), 0), name, &parts, &octets, &text)?;
    let more = subs.len().saturating_sub(MOST);
    for sub in subs.into_iter().take(MOST) {
        let at = option.place(sub.octets.start);
        let text = sub.value.as_ref().map(shown).unwrap_or_default();
        let name = sub.name.as_deref().unwrap_or("unknown");
        draw_line(out, (at.saturating_sub(2), sub.code, 1 + sub.depth), name, "", &octets[sub.octets], &text)?;
    }
    if more > 0 {
        writeln!(out, "{}", in_style(DIM, format!("               and {more} more, which --format json gives")))?;
    }
    Ok(())
}

/// The value; octets that spell something, as what they spell, as their hexadecimal stands beside it.
pub(crate) fn shown(value: &Value) -> String {
    match value {
        Value::Bytes(octets) if octets.len() > 1 && octets.iter().all(|octet| (b' '..=b'~').contains(octet)) => {
            format!("{:?}", String::from_utf8_lossy(octets))
        }
        value => {
            let text = value.to_string();
            match text.char_indices().nth(LONGEST) {
                Some((end, _)) => format!("{} … ({} characters)", &text[..end], text.chars().count()),
                None => text,
            }
        }
    }
}

pub(crate) fn draw_line(
    out: &mut dyn Write,
    (at, code, depth): (usize, u16, usize),
    name: &str,
    parts: &str,
    octets: &[u8],
    value: &str,
) -> io::Result<()> {
    let name = format!("{}{}", "  ".repeat(depth), clean::line(name));
    let octets = format!("{parts}{}", some_octets(octets));
    let at = in_style(DIM, format!("{at:>5}"));
    let line = format!("{at}  {code:>4}  {name:<28}  {octets:<26}  {}", clean::line(value));
    writeln!(out, "{}", line.trim_end())
}

/// The first octets, and how many there are when these are not all.
fn some_octets(octets: &[u8]) -> String {
    match octets.len() {
        0 => "none".to_owned(),
        length if length <= SHOWN => hex::spaced(octets),
        length => format!("{} … ({length})", hex::spaced(&octets[..SHOWN - 3])),
    }
}

/// An option inside another's payload.
pub(crate) struct Sub {
    pub(crate) code: u16,
    pub(crate) name: Option<String>,
    pub(crate) depth: usize,
    pub(crate) octets: Range<usize>,
    pub(crate) value: Option<Value>,
}

/// What an option means, and the options inside it in the order of their octets. Option 43 does not say whose it is; a
/// codebook that was named does.
pub(crate) fn meaning(
    codebook: &Codebook,
    definition: &Definition,
    octets: &[u8],
    book: Option<&str>,
) -> (Option<Value>, Vec<Sub>) {
    let vendors = codebook.vendor_layout(definition, book).map(|(_, layout)| layout);
    let layout = vendors.as_ref().unwrap_or_else(|| codebook.layout(definition));
    let mut finder = Finder::default();
    layout.walk(codebook, octets, &mut finder);
    let value = layout.decode(codebook, octets).0;
    let mut values = Vec::new();
    if let Some(value) = &value {
        sub_values(value, &mut values);
    }
    for (sub, value) in finder.subs.iter_mut().zip(values) {
        sub.value = value;
    }
    (value, finder.subs)
}

/// The values of nested options, an option with options inside having none of its own.
fn sub_values(value: &Value, values: &mut Vec<Option<Value>>) {
    match value {
        Value::Options(options) => {
            for option in options {
                let holds_options = matches!(option.value, Value::Options(_));
                values.push((!holds_options).then(|| option.value.clone()));
                sub_values(&option.value, values);
            }
        }
        Value::List(items) => items.iter().for_each(|item| sub_values(item, values)),
        Value::Record(fields) => fields.iter().for_each(|(_, field)| sub_values(field, values)),
        _ => {}
    }
}

/// Notes where options inside a payload begin and end.
#[derive(Default)]
struct Finder {
    subs: Vec<Sub>,
    /// Which of them are open; `None` for parts that are no options.
    open: Vec<Option<usize>>,
}

impl<'l, 'o> Visitor<'l, 'o> for Finder {
    fn begin(&mut self, shape: Shape<'l>, at: usize) {
        let sub = match shape {
            Shape::Option { code, name } => {
                let depth = self.open.iter().flatten().count();
                let name = name.map(str::to_owned);
                self.subs.push(Sub { code, name, depth, octets: at..at, value: None });
                Some(self.subs.len() - 1)
            }
            _ => None,
        };
        self.open.push(sub);
    }

    fn end(&mut self, at: usize) {
        if let Some(Some(sub)) = self.open.pop() {
            self.subs[sub].octets.end = at.max(self.subs[sub].octets.start);
        }
    }

    fn frame(&mut self, frame: Frame, octets: Range<usize>) {
        // The payload begins after the length.
        if let (Frame::Code(_) | Frame::Length(_), Some(Some(sub))) = (frame, self.open.last()) {
            self.subs[*sub].octets.start = octets.end;
        }
    }

    fn scalar(&mut self, _: Form<'l>, _: Scalar<'o>, _: Range<usize>) {}

    fn fault(&mut self, _: Fault) {}
}

/// A message as programs read it.
#[derive(Serialize)]
pub(crate) struct MessageForm<'m> {
    family: &'static str,
    #[serde(rename = "type")]
    message_type: Option<String>,
    length: usize,
    header: HeaderForm,
    options: Vec<OptionForm<'m>>,
    budget: BudgetForm,
    findings: Vec<FindingForm<'m>>,
}

#[derive(Serialize)]
struct HeaderForm {
    op: u8,
    htype: u8,
    hlen: u8,
    hops: u8,
    xid: u32,
    secs: u16,
    flags: u16,
    ciaddr: Ipv4Addr,
    yiaddr: Ipv4Addr,
    siaddr: Ipv4Addr,
    giaddr: Ipv4Addr,
    chaddr: String,
    sname: String,
    file: String,
}

#[derive(Serialize)]
struct OptionForm<'m> {
    code: u16,
    length: usize,
    hex: String,
    #[serde(skip_serializing_if = "Option::is_none")]
    name: Option<Cow<'m, str>>,
    #[serde(skip_serializing_if = "Option::is_none")]
    value: Option<Value>,
    at: usize,
    #[serde(skip_serializing_if = "Option::is_none")]
    field: Option<&'static str>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    options: Vec<Self>,
}

impl<'m> MessageForm<'m> {
    pub(crate) fn new(codebook: &'m Codebook, message: &Message<'m>, budget: &Budget, found: &'m [Finding]) -> Self {
        let sources = Sources::default();
        Self {
            family: "v4",
            message_type: message.message_type().map(|at| at.name().map_or_else(|| at.0.to_string(), str::to_owned)),
            length: message.octets().len(),
            header: HeaderForm::new(message),
            options: message.options().map(|option| OptionForm::new(codebook, &option)).collect(),
            budget: BudgetForm::new(budget, codebook),
            findings: found.iter().map(|finding| FindingForm::new(finding, &sources)).collect(),
        }
    }
}

impl HeaderForm {
    fn new(message: &Message<'_>) -> Self {
        let Header { op, htype, hlen, hops, xid, secs, flags, ciaddr, yiaddr, siaddr, giaddr, chaddr } =
            message.header();
        let [chaddr, sname, file] = [&chaddr[..], message.sname(), message.file()].map(hex::plain);
        Self { op, htype, hlen, hops, xid, secs, flags, ciaddr, yiaddr, siaddr, giaddr, chaddr, sname, file }
    }
}

impl<'m> OptionForm<'m> {
    fn new(codebook: &'m Codebook, option: &MessageOption<'m>) -> Self {
        let octets = option.joined();
        let definition = codebook.v4(option.code().into());
        let (value, subs) =
            definition.map(|definition| meaning(codebook, definition, &octets, None)).unwrap_or_default();
        let inner = subs.into_iter().map(|sub| Self {
            code: sub.code,
            length: sub.octets.len(),
            hex: hex::plain(&octets[sub.octets.clone()]),
            name: sub.name.map(Cow::Owned),
            value: sub.value,
            at: option.place(sub.octets.start),
            field: None,
            options: Vec::new(),
        });
        Self {
            code: option.code().into(),
            length: octets.len(),
            hex: hex::plain(&octets),
            name: definition.map(|definition| Cow::Borrowed(&*definition.name)),
            value,
            at: option.first().at,
            field: Some(option.first().field.name()),
            options: inner.collect(),
        }
    }
}
