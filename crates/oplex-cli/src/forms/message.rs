//! Messages: decoded and encoded.

use std::net::{Ipv4Addr, Ipv6Addr};

use oplex::codebook::Codebook;
use oplex::family::Protocol;
use oplex::finding::{Finding, Sources};
use oplex::layout::Value;
use oplex::octets::hex;
use oplex::packet::v4::{self, Budget, Field};
use oplex::packet::{AnyMessage, Message as _, MessageOption, ra, v6};
use serde::Serialize;

use super::{BudgetForm, FindingForm};
use crate::render::message::Carried;
use crate::render::option::{Inner, Meaning};

#[derive(Serialize)]
pub(crate) struct MessageForm<'m> {
    /// The line that it stood in, where there are several.
    #[serde(skip_serializing_if = "Option::is_none")]
    frame: Option<usize>,
    family: &'static str,
    #[serde(flatten)]
    body: BodyForm,
    #[serde(skip_serializing_if = "Option::is_none")]
    budget: Option<BudgetForm>,
    findings: Vec<FindingForm<'m>>,
}

#[derive(Serialize)]
struct BodyForm {
    #[serde(rename = "type")]
    message_type: Option<String>,
    length: usize,
    #[serde(flatten)]
    icmp: Option<IcmpForm>,
    #[serde(skip_serializing_if = "Option::is_none")]
    header: Option<HeaderForm>,
    options: Vec<OptionForm>,
}

#[derive(Serialize)]
struct IcmpForm {
    #[serde(skip_serializing_if = "Option::is_none")]
    packet: Option<PacketForm>,
    code: u8,
    checksum: u16,
}

#[derive(Serialize)]
struct PacketForm {
    source: Ipv6Addr,
    destination: Ipv6Addr,
    hop_limit: u8,
    checksum_right: bool,
}

#[derive(Serialize)]
#[serde(untagged)]
enum HeaderForm {
    Bootp(Box<BootpForm>),
    Relay { hops: u8, link: Ipv6Addr, peer: Ipv6Addr },
    Transaction { transaction: u32 },
    Advertisement(AdvertisementForm),
    Other { hex: String },
}

#[derive(Serialize)]
struct BootpForm {
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
struct AdvertisementForm {
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
struct OptionForm {
    code: u16,
    length: usize,
    hex: String,
    #[serde(skip_serializing_if = "Option::is_none")]
    name: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    value: Option<Value>,
    /// Where its code stands.
    at: usize,
    #[serde(skip_serializing_if = "Option::is_none")]
    field: Option<&'static str>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    options: Vec<Self>,
    #[serde(skip_serializing_if = "Option::is_none")]
    message: Option<BodyForm>,
}

impl<'m> MessageForm<'m> {
    pub(crate) fn frame(self, frame: Option<usize>) -> Self {
        Self { frame, ..self }
    }

    pub(crate) fn new(
        codebook: &Codebook,
        message: &AnyMessage<'_>,
        budget: Option<&Budget>,
        found: &'m [Finding],
    ) -> Self {
        let sources = Sources::default();
        Self {
            frame: None,
            family: message.protocol().name(),
            body: BodyForm::new(codebook, message, message.base(), 0),
            budget: budget.map(|budget| BudgetForm::new(budget, codebook)),
            findings: found.iter().map(|finding| FindingForm::new(finding, &sources)).collect(),
        }
    }
}

impl BodyForm {
    fn new(codebook: &Codebook, message: &AnyMessage<'_>, base: usize, depth: usize) -> Self {
        let carried = Carried::by(message, depth);
        let option = |option| {
            let form = OptionForm::new(codebook, message.protocol(), &option, base);
            let carried = carried.filter(|carried| carried.stands_in(&option));
            let inner = carried.map(|Carried { inner, at }| Self::new(codebook, &inner, base + at, depth + 1));
            OptionForm { message: inner, ..form }
        };
        let (message_type, header, icmp) = match message {
            AnyMessage::V4(message) => (dhcpv4_type(message), Some(HeaderForm::bootp(message)), None),
            AnyMessage::V6(message) => (Some(dhcpv6_type(message)), Some(HeaderForm::dhcpv6(message)), None),
            AnyMessage::Ra(message) => {
                let header =
                    message.advertisement().map(|said| HeaderForm::Advertisement(AdvertisementForm::new(&said)));
                let kind = if header.is_some() { "advertisement" } else { "solicitation" };
                (Some(kind.to_owned()), header, Some(IcmpForm::new(message)))
            }
        };
        let options = message.options().into_iter().map(option).collect();
        Self { message_type, length: message.octets().len(), icmp, header, options }
    }
}

/// `DHCPACK`, the number of a type without a name, or nothing for BOOTP.
fn dhcpv4_type(message: &v4::Message<'_>) -> Option<String> {
    message.message_type().map(|kind| kind.name().map_or_else(|| kind.0.to_string(), str::to_owned))
}

/// `information-request`, or the number of a type without a name.
fn dhcpv6_type(message: &v6::Message<'_>) -> String {
    let kind = message.message_type();
    kind.name().map_or_else(|| kind.0.to_string(), str::to_ascii_lowercase)
}

impl HeaderForm {
    fn bootp(message: &v4::Message<'_>) -> Self {
        let v4::Header { op, htype, hlen, hops, xid, secs, flags, ciaddr, yiaddr, siaddr, giaddr, chaddr } =
            message.header();
        let [chaddr, sname, file] = [&chaddr[..], message.sname(), message.file()].map(hex::plain);
        let form =
            BootpForm { op, htype, hlen, hops, xid, secs, flags, ciaddr, yiaddr, siaddr, giaddr, chaddr, sname, file };
        Self::Bootp(Box::new(form))
    }

    fn dhcpv6(message: &v6::Message<'_>) -> Self {
        match (message.relay(), message.transaction()) {
            (Some(relay), _) => Self::Relay { hops: relay.hops, link: relay.link, peer: relay.peer },
            (None, Some(transaction)) => Self::Transaction { transaction },
            (None, None) => Self::Other { hex: hex::plain(&message.octets()[1..4]) },
        }
    }
}

impl IcmpForm {
    fn new(message: &ra::Message<'_>) -> Self {
        let packet = message.packet().map(|packet| PacketForm {
            source: packet.ends.source,
            destination: packet.ends.destination,
            hop_limit: packet.hop_limit,
            checksum_right: ra::checksum(packet.ends, message.octets()) == message.checksum(),
        });
        Self { packet, code: message.code(), checksum: message.checksum() }
    }
}

impl AdvertisementForm {
    fn new(said: &ra::Advertisement) -> Self {
        Self {
            hop_limit: said.hop_limit,
            managed: said.managed,
            other: said.other,
            home_agent: said.home_agent,
            preference: said.preference.name(),
            proxy: said.proxy,
            router_lifetime: said.router_lifetime,
            reachable_time: said.reachable_time,
            retrans_timer: said.retrans_timer,
        }
    }
}

impl OptionForm {
    fn new(codebook: &Codebook, protocol: Protocol, option: &MessageOption<'_>, base: usize) -> Self {
        let octets = option.joined();
        let definition = codebook.own(protocol, option.code());
        let meaning = definition.map(|known| Meaning::of(codebook, known, &octets, None)).unwrap_or_default();
        let inner = |inner: Inner| Self {
            code: inner.code,
            length: inner.payload.len(),
            hex: hex::plain(&octets[inner.payload]),
            name: inner.name,
            value: inner.value,
            at: base + option.position(inner.around.start),
            field: None,
            options: Vec::new(),
            message: None,
        };
        Self {
            code: option.code(),
            length: octets.len(),
            hex: hex::plain(&octets),
            name: definition.map(|known| known.name.to_string()),
            value: meaning.value,
            at: base + option.at(),
            field: (protocol == Protocol::V4).then(|| Field::around(option.at()).name()),
            options: meaning.inner.into_iter().map(inner).collect(),
            message: None,
        }
    }
}

/// An encoded message.
#[derive(Serialize)]
pub(crate) struct EncodedForm<'e> {
    pub(crate) length: usize,
    pub(crate) hex: String,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) budget: Option<BudgetForm>,
    pub(crate) findings: Vec<FindingForm<'e>>,
}

impl<'e> EncodedForm<'e> {
    pub(crate) fn new(octets: &[u8], budget: Option<&Budget>, codebook: &Codebook, found: &'e [Finding]) -> Self {
        let sources = Sources::default();
        Self {
            length: octets.len(),
            hex: hex::plain(octets),
            budget: budget.map(|budget| BudgetForm::new(budget, codebook)),
            findings: found.iter().map(|finding| FindingForm::new(finding, &sources)).collect(),
        }
    }
}

/// A line that is no message.
#[derive(Serialize)]
pub(crate) struct NoMessageForm {
    pub(crate) frame: usize,
    pub(crate) error: String,
}
