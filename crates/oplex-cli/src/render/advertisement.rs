//! Router advertisements, as tables for people and as JSON.

use std::borrow::Cow;
use std::io::{self, Write};
use std::net::Ipv6Addr;

use oplex::codebook::Codebook;
use oplex::finding::{Finding, Sources};
use oplex::layout::Value;
use oplex::octets::hex;
use oplex::packet::ra::{Advertisement, Message, MessageOption, checksum};
use serde::Serialize;

use super::json::FindingForm;
use super::message::{draw_findings, draw_head, draw_line, shown};

/// The message: what it is, what is wrong with it, what hosts take from its flags, and its options.
pub(crate) fn draw(
    out: &mut dyn Write,
    codebook: &Codebook,
    message: &Message<'_>,
    octets: &[u8],
    found: &[Finding],
) -> io::Result<()> {
    draw_head(out, message, found, &header_facts(message))?;
    for option in message.options() {
        let (name, value) = meaning(codebook, &option);
        let text = value.as_ref().map(shown).unwrap_or_default();
        let place = (message.base() + option.at, option.code.into(), 0);
        draw_line(out, place, name.as_deref().unwrap_or("not known"), "", option.octets, &text)?;
    }
    draw_findings(out, found, octets)
}

/// An option's name and its value, as far as it can be read.
fn meaning<'c>(codebook: &'c Codebook, option: &MessageOption<'_>) -> (Option<Cow<'c, str>>, Option<Value>) {
    let definition = codebook.ra(option.code);
    let value = definition.and_then(|definition| codebook.decode(definition, option.octets).0);
    (definition.map(|definition| Cow::Borrowed(&*definition.name)), value)
}

fn header_facts(message: &Message<'_>) -> Vec<(&'static str, String)> {
    let mut lines = Vec::new();
    if let Some(packet) = message.packet() {
        lines.push(("packet", format!("from {} to {}", packet.ends.source, packet.ends.destination)));
        let right = checksum(packet.ends, message.octets()) == message.checksum();
        let verdict = if right { "right" } else { "wrong" };
        lines.push(("checksum", format!("{:#06x}, {verdict}", message.checksum())));
    } else {
        let why = "the addresses it covers stand in the IPv6 header";
        lines.push(("checksum", format!("{:#06x}, not checked: {why}", message.checksum())));
    }
    if let Some(said) = message.advertisement() {
        lines.push(("hosts", said.directs().to_owned()));
        lines.push(("flags", flags(&said)));
        lines.push(("router", router(&said)));
        let time = |milliseconds: u32| match milliseconds {
            0 => "not said".to_owned(),
            time => format!("{time} ms"),
        };
        let limit = if said.hop_limit == 0 { "not said".to_owned() } else { said.hop_limit.to_string() };
        let (reachable, retransmit) = (time(said.reachable_time), time(said.retrans_timer));
        lines.push(("hop limit", format!("{limit}; reachable time {reachable}; retransmission {retransmit}")));
    }
    lines
}

fn flags(said: &Advertisement) -> String {
    let named = [
        (said.managed, "M (addresses by DHCPv6)"),
        (said.other, "O (other things by DHCPv6)"),
        (said.home_agent, "H (home agent)"),
        (said.proxy, "P (proxy)"),
    ];
    let set: Vec<&str> = named.into_iter().filter_map(|(on, name)| on.then_some(name)).collect();
    if set.is_empty() { "none: hosts are not sent to DHCPv6".to_owned() } else { set.join(", ") }
}

fn router(said: &Advertisement) -> String {
    let preference = said.preference.name();
    match said.router_lifetime {
        0 => "no default router".to_owned(),
        seconds => format!("default router for {}, preference {preference}", Value::Seconds(seconds.into())),
    }
}

/// A message as programs read it.
#[derive(Serialize)]
pub(crate) struct MessageForm<'m> {
    family: &'static str,
    #[serde(rename = "type")]
    kind: &'static str,
    length: usize,
    #[serde(skip_serializing_if = "Option::is_none")]
    packet: Option<PacketForm>,
    code: u8,
    checksum: u16,
    #[serde(skip_serializing_if = "Option::is_none")]
    header: Option<HeaderForm>,
    options: Vec<OptionForm<'m>>,
    findings: Vec<FindingForm<'m>>,
}

#[derive(Serialize)]
struct PacketForm {
    source: Ipv6Addr,
    destination: Ipv6Addr,
    hop_limit: u8,
    checksum_right: bool,
}

#[derive(Serialize)]
struct HeaderForm {
    hop_limit: u8,
    managed: bool,
    other: bool,
    home_agent: bool,
    preference: &'static str,
    proxy: bool,
    router_lifetime: u16,
    reachable_time: u32,
    retrans_timer: u32,
}

#[derive(Serialize)]
struct OptionForm<'m> {
    code: u8,
    length: usize,
    hex: String,
    #[serde(skip_serializing_if = "Option::is_none")]
    name: Option<Cow<'m, str>>,
    #[serde(skip_serializing_if = "Option::is_none")]
    value: Option<Value>,
    at: usize,
}

impl<'m> MessageForm<'m> {
    pub(crate) fn new(codebook: &'m Codebook, message: &Message<'_>, found: &'m [Finding]) -> Self {
        let sources = Sources::default();
        let packet = message.packet().map(|packet| PacketForm {
            source: packet.ends.source,
            destination: packet.ends.destination,
            hop_limit: packet.hop_limit,
            checksum_right: checksum(packet.ends, message.octets()) == message.checksum(),
        });
        let header = message.advertisement().map(|said| HeaderForm {
            hop_limit: said.hop_limit,
            managed: said.managed,
            other: said.other,
            home_agent: said.home_agent,
            preference: said.preference.name(),
            proxy: said.proxy,
            router_lifetime: said.router_lifetime,
            reachable_time: said.reachable_time,
            retrans_timer: said.retrans_timer,
        });
        let option = |option: MessageOption<'_>| {
            let (name, value) = meaning(codebook, &option);
            let (length, hex) = (option.octets.len(), hex::plain(option.octets));
            OptionForm { code: option.code, length, hex, name, value, at: message.base() + option.at }
        };
        Self {
            family: "ra",
            kind: if header.is_some() { "advertisement" } else { "solicitation" },
            length: message.octets().len(),
            packet,
            code: message.code(),
            checksum: message.checksum(),
            header,
            options: message.options().map(option).collect(),
            findings: found.iter().map(|finding| FindingForm::new(finding, &sources)).collect(),
        }
    }
}
