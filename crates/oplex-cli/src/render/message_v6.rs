//! Whole messages of DHCPv6, as tables for people and as JSON.

use std::borrow::Cow;
use std::io::{self, Write};
use std::net::Ipv6Addr;

use oplex::codebook::Codebook;
use oplex::finding::{Finding, Sources};
use oplex::layout::Value;
use oplex::octets::hex;
use oplex::packet::v6::{Message, MessageOption, MessageType, RELAY_MESSAGE, UNFRAGMENTED};
use serde::Serialize;

use super::budget::bar;
use super::json::FindingForm;
use super::message::{MOST, draw_findings, draw_head, draw_line, meaning, shown};
use super::style::{DIM, in_style};

/// As many relays as are drawn inside each other; more no message passes.
const DEEPEST: usize = 40;

/// The message: what it is, what is wrong with it, and its options, with those of the message it carries.
pub(crate) fn draw(
    out: &mut dyn Write,
    codebook: &Codebook,
    message: &Message<'_>,
    found: &[Finding],
) -> io::Result<()> {
    draw_head(out, message, found, &header_facts(message))?;
    draw_options(out, codebook, message, 0, 0)?;
    let (used, most) = (message.octets().len(), UNFRAGMENTED);
    let room = match most.checked_sub(used) {
        Some(free) => format!("{free} free in a packet that every link carries whole"),
        None => format!("{} too many for a packet that every link carries whole", used - most),
    };
    writeln!(out, "\n  message   {}  {used:>4} of {most}   {room}", bar(used, most))?;
    draw_findings(out, found, message.octets())
}

fn header_facts(message: &Message<'_>) -> Vec<(&'static str, String)> {
    match (message.relay(), message.transaction()) {
        (Some(relay), _) => {
            vec![("hops", relay.hops.to_string()), ("link", relay.link.to_string()), ("peer", relay.peer.to_string())]
        }
        (None, Some(transaction)) => vec![("transaction", format!("{transaction:#08x}"))],
        (None, None) => vec![("flags", hex::plain(&message.octets()[1..4]))],
    }
}

fn draw_options(
    out: &mut dyn Write,
    codebook: &Codebook,
    message: &Message<'_>,
    base: usize,
    depth: usize,
) -> io::Result<()> {
    for option in message.options() {
        let at = base + option.at;
        let inner = carried(message, &option).filter(|_| depth < DEEPEST);
        let (name, text, subs) = match codebook.v6(option.code) {
            Some(definition) => {
                let (value, subs) = meaning(codebook, definition, option.octets, None);
                let has_inner = !subs.is_empty() || inner.is_some();
                let outer = value.as_ref().filter(|_| inner.is_none()).and_then(|value| own(value, has_inner));
                (&*definition.name, outer.unwrap_or_default(), subs)
            }
            None => ("not assigned", String::new(), Vec::new()),
        };
        draw_line(out, (at, option.code, depth), name, "", option.octets, &text)?;
        let more = subs.len().saturating_sub(MOST);
        for sub in subs.into_iter().take(MOST) {
            // What holds options shows what else it says.
            let text = sub.value.as_ref().and_then(|value| own(value, holds_options(value))).unwrap_or_default();
            let name = sub.name.as_deref().unwrap_or("unknown");
            let at = at + sub.octets.start;
            draw_line(out, (at, sub.code, depth + 1 + sub.depth), name, "", &option.octets[sub.octets], &text)?;
        }
        if more > 0 {
            writeln!(out, "{}", in_style(DIM, format!("               and {more} more, which --format json gives")))?;
        }
        if let Some(inner) = inner {
            let indent = "  ".repeat(depth + 1);
            let facts: Vec<String> = header_facts(&inner).iter().map(|(what, text)| format!("{what} {text}")).collect();
            let facts = if inner.relay().is_some() { format!(", {}", facts.join(", ")) } else { String::new() };
            writeln!(out, "{}", in_style(DIM, format!("             {indent}{inner}{facts}")))?;
            draw_options(out, codebook, &inner, at + 4, depth + 1)?;
        }
    }
    Ok(())
}

/// The message that an option carries.
fn carried<'o>(message: &Message<'_>, option: &MessageOption<'o>) -> Option<Message<'o>> {
    let relays = message.message_type().is_relays() && option.code == RELAY_MESSAGE;
    Message::read(option.octets).ok().filter(|_| relays)
}

fn holds_options(value: &Value) -> bool {
    match value {
        Value::Options(_) => true,
        Value::Record(fields) => fields.iter().any(|(_, field)| holds_options(field)),
        Value::List(items) => items.iter().any(holds_options),
        _ => false,
    }
}

/// A value as text, without the options inside it when these have lines of their own.
fn own(value: &Value, has_inner: bool) -> Option<String> {
    match value {
        value if !has_inner && !holds_options(value) => Some(shown(value)),
        Value::Record(fields) => {
            let fields = fields.iter().filter(|(_, field)| !holds_options(field));
            Some(shown(&Value::Record(fields.cloned().collect())))
        }
        _ => None,
    }
}

/// A message as programs read it.
#[derive(Serialize)]
pub(crate) struct MessageForm<'m> {
    family: &'static str,
    #[serde(flatten)]
    body: BodyForm<'m>,
    findings: Vec<FindingForm<'m>>,
}

#[derive(Serialize)]
struct BodyForm<'m> {
    #[serde(rename = "type")]
    message_type: Cow<'static, str>,
    length: usize,
    header: HeaderForm,
    options: Vec<OptionForm<'m>>,
}

#[derive(Serialize)]
#[serde(untagged)]
enum HeaderForm {
    Relay { hops: u8, link: Ipv6Addr, peer: Ipv6Addr },
    Transaction { transaction: u32 },
    Other { hex: String },
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
    #[serde(skip_serializing_if = "Vec::is_empty")]
    options: Vec<Self>,
    #[serde(skip_serializing_if = "Option::is_none")]
    message: Option<BodyForm<'m>>,
}

impl<'m> MessageForm<'m> {
    pub(crate) fn new(codebook: &'m Codebook, message: &Message<'m>, found: &'m [Finding]) -> Self {
        let sources = Sources::default();
        let findings = found.iter().map(|finding| FindingForm::new(finding, &sources)).collect();
        Self { family: "v6", body: BodyForm::new(codebook, message, 0, 0), findings }
    }
}

impl<'m> BodyForm<'m> {
    fn new(codebook: &'m Codebook, message: &Message<'m>, base: usize, depth: usize) -> Self {
        let kind = message.message_type();
        let header = match (message.relay(), message.transaction()) {
            (Some(relay), _) => HeaderForm::Relay { hops: relay.hops, link: relay.link, peer: relay.peer },
            (None, Some(transaction)) => HeaderForm::Transaction { transaction },
            (None, None) => HeaderForm::Other { hex: hex::plain(&message.octets()[1..4]) },
        };
        let option = |option: MessageOption<'m>| OptionForm::new(codebook, message, &option, base, depth);
        Self {
            message_type: type_name(kind),
            length: message.octets().len(),
            header,
            options: message.options().map(option).collect(),
        }
    }
}

/// `information-request`, or the number of a type without a name.
fn type_name(kind: MessageType) -> Cow<'static, str> {
    Cow::Owned(kind.name().map_or_else(|| kind.0.to_string(), str::to_ascii_lowercase))
}

impl<'m> OptionForm<'m> {
    fn new(
        codebook: &'m Codebook,
        message: &Message<'m>,
        option: &MessageOption<'m>,
        base: usize,
        depth: usize,
    ) -> Self {
        let definition = codebook.v6(option.code);
        let (value, subs) =
            definition.map(|definition| meaning(codebook, definition, option.octets, None)).unwrap_or_default();
        let at = base + option.at;
        let inner = subs.into_iter().map(|sub| Self {
            code: sub.code,
            length: sub.octets.len(),
            hex: hex::plain(&option.octets[sub.octets.clone()]),
            name: sub.name.map(Cow::Owned),
            value: sub.value,
            // The code of an option inside another, as of this one.
            at: at + sub.octets.start,
            options: Vec::new(),
            message: None,
        });
        let carried = carried(message, option).filter(|_| depth < DEEPEST);
        Self {
            code: option.code,
            length: option.octets.len(),
            hex: hex::plain(option.octets),
            name: definition.map(|definition| Cow::Borrowed(&*definition.name)),
            value,
            at,
            options: inner.collect(),
            message: carried.map(|inner| BodyForm::new(codebook, &inner, at + 4, depth + 1)),
        }
    }
}
