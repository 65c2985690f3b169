//! Rules about whole messages.

mod exchange;
mod frames;
mod headers;
mod options;
mod tables;

use std::net::Ipv4Addr;
use std::ops::Range;

use super::{Check, Find, checks};
use crate::codebook::Codebook;
use crate::finding::Finding;
use crate::packet::v4::{Header, Message, MessageOption, MessageType};

pub(super) static CHECKS: [&[&Check]; 5] =
    [&frames::CHECKS, &headers::CHECKS, &tables::CHECKS, &options::CHECKS, &exchange::CHECKS];

/// A message, and what its rules ask about most.
pub(super) struct Seen<'m> {
    pub(super) message: Message<'m>,
    pub(super) header: Header,
    pub(super) message_type: Option<MessageType>,
    pub(super) codebook: &'m Codebook,
}

impl<'m> Seen<'m> {
    fn new(codebook: &'m Codebook, message: Message<'m>) -> Self {
        Self { message, header: message.header(), message_type: message.message_type(), codebook }
    }

    fn is(&self, message_type: MessageType) -> bool {
        self.message_type == Some(message_type)
    }

    /// Whether it comes from a server, by its type, or by its header when it has none.
    fn is_reply(&self) -> bool {
        self.message_type.and_then(MessageType::is_reply).unwrap_or(self.header.op == 2)
    }

    /// What it is called in a finding.
    fn called(&self) -> String {
        self.message_type.map_or_else(|| "a message without a type".to_owned(), |kind| format!("a {kind}"))
    }

    /// The octets from an option's code to the end of its first part.
    fn place(&self, code: u8) -> Option<Range<usize>> {
        self.message.option(code).map(|option| around(&option))
    }

    /// How an option is called: `v4:54 dhcp-server-id`.
    fn label(&self, code: u8) -> String {
        let known = self.codebook.v4(code.into());
        known.map_or_else(|| format!("v4:{code}"), |definition| format!("v4:{code} {}", definition.name))
    }

    /// A time in seconds.
    fn seconds(&self, code: u8) -> Option<u32> {
        self.four(code).map(u32::from_be_bytes)
    }

    fn four(&self, code: u8) -> Option<[u8; 4]> {
        self.message.option(code)?.octets()?.try_into().ok()
    }
}

/// The octets from an option's code to the end of its first part.
fn around(option: &MessageOption<'_>) -> Range<usize> {
    let first = option.first();
    first.at..first.at + 2 + first.octets.len()
}

/// A finding about the whole message.
fn whole(seen: &Seen<'_>, finding: Finding) -> Finding {
    finding.on(0..seen.message.octets().len())
}

/// Where the header's addresses stand.
const ADDRESSES: [(&str, usize); 4] = [("ciaddr", 12), ("yiaddr", 16), ("siaddr", 20), ("giaddr", 24)];

/// The header's address of this name.
fn address(header: &Header, name: &str) -> Ipv4Addr {
    match name {
        "ciaddr" => header.ciaddr,
        "yiaddr" => header.yiaddr,
        "siaddr" => header.siaddr,
        _ => header.giaddr,
    }
}

/// Everything the rules find in a message, in the order of its octets.
pub(super) fn message(codebook: &Codebook, message: Message<'_>) -> Vec<Finding> {
    let seen = Seen::new(codebook, message);
    let mut findings = Vec::new();
    for check in checks() {
        if let Find::Message(find) = check.find {
            find(&seen, &mut findings);
        }
    }
    for option in message.options() {
        payload(&seen, &option, &mut findings);
    }
    in_order(findings)
}

/// Everything the rules find in an answer when they see what it answers.
pub(super) fn exchange(codebook: &Codebook, request: Message<'_>, reply: Message<'_>) -> Vec<Finding> {
    let (request, reply) = (Seen::new(codebook, request), Seen::new(codebook, reply));
    let mut findings = Vec::new();
    for check in checks() {
        if let Find::Exchange(find) = check.find {
            find(&request, &reply, &mut findings);
        }
    }
    in_order(findings)
}

fn in_order(mut findings: Vec<Finding>) -> Vec<Finding> {
    let start = |finding: &Finding| finding.octets.as_ref().map_or(0, |octets| octets.start);
    findings.sort_by_key(|finding| (start(finding), std::cmp::Reverse(finding.severity)));
    findings
}

/// What is wrong with one option, with the octets of the message.
fn payload(seen: &Seen<'_>, option: &MessageOption<'_>, findings: &mut Vec<Finding>) {
    let Some(definition) = seen.codebook.v4(option.code().into()) else { return };
    // Joined, it is of the wrong length, and another rule says why.
    if option.is_split() && definition.single {
        return;
    }
    let octets = option.joined();
    findings.extend(super::payload(seen.codebook, definition, &octets).into_iter().map(|finding| {
        let inside = finding.octets.clone().unwrap_or(0..octets.len());
        let whole = inside == (0..octets.len());
        // What is about all of an option, or stands where octets are missing, is about the option with its head.
        let place = if whole || inside.is_empty() {
            around(option)
        } else {
            option.place(inside.start)..option.place(inside.end - 1) + 1
        };
        let place = if place.start < place.end { place } else { around(option) };
        let message = format!("{}: {}", definition.name, finding.message);
        Finding { message, ..finding }.on(place)
    }));
}
