//! Router advertisements written down by hand.

use std::net::Ipv6Addr;

use super::{cannot, number, octets, options};
use crate::document::{Table, VALUE_WRONG_KIND};
use crate::family::{Address, Protocol};
use crate::finding::FileId;
use crate::nearest;
use crate::packet::Composer;
use crate::packet::ra::{ALL_NODES, Advertisement, Draft, Ends, HOP_LIMIT, Header, Packet, Preference};
use crate::plan::PlanReader;

pub(super) const KEYS: [&str; 19] = [
    "title",
    "type",
    "hop-limit",
    "managed",
    "other",
    "home-agent",
    "preference",
    "proxy",
    "lifetime",
    "reachable",
    "retransmit",
    "options",
    "source",
    "destination",
    "ip-hop-limit",
    "code",
    "checksum",
    "after-options",
    "unused",
];

/// Where the checksum stands in an ICMPv6 message.
const CHECKSUM: std::ops::Range<usize> = 2..4;

pub(super) fn message<'s>(reader: &mut PlanReader<'s>, table: &Table<'s>, file: FileId) -> Option<Vec<u8>> {
    reader.reader.only(table, &KEYS, "a router advertisement");
    let header = header(reader, table)?;
    let source = reader.reader.parsed(table, "source", Ipv6Addr::parse);
    let destination = reader.reader.parsed(table, "destination", Ipv6Addr::parse).map_or(ALL_NODES, |(at, _)| at);
    let ends = Ends { source: source.as_ref().map_or(Ipv6Addr::UNSPECIFIED, |(at, _)| *at), destination };
    let sent = options(reader, table, Protocol::Ra);
    let payloads = sent.iter().filter_map(|sent| Some((sent.definition.code, &sent.payload()?.octets[..])));
    let payloads: Vec<(u16, &[u8])> = payloads.collect();
    let mut message = match Composer::default().compose(&Draft { header, ends, options: &payloads }) {
        Ok(message) => message.to_vec(),
        Err(error) => return cannot(reader, file, error.to_string()),
    };
    message.extend(octets(&mut reader.reader, table, "after-options").unwrap_or_default());
    if let Some(code) = number(&mut reader.reader, table, "code", u8::MAX.into()) {
        message[1] = code as u8;
    }
    let right = crate::packet::ra::checksum(ends, &message);
    let sum = number(&mut reader.reader, table, "checksum", u16::MAX.into()).map_or(right, |sum| sum as u16);
    message[CHECKSUM].copy_from_slice(&sum.to_be_bytes());
    let hop_limit = number(&mut reader.reader, table, "ip-hop-limit", u8::MAX.into()).map_or(HOP_LIMIT, |at| at as u8);
    // Without a source it is the ICMPv6 message alone.
    Some(if source.is_some() { Packet { ends, hop_limit }.around(&message) } else { message })
}

fn header<'s>(reader: &mut PlanReader<'s>, table: &Table<'s>) -> Option<Header> {
    let reader = &mut reader.reader;
    match reader.text(table, "type").map(|(text, spot)| (text.to_owned(), spot)) {
        Some((kind, _)) if kind == "solicitation" => return Some(Header::Solicitation),
        Some((kind, spot)) if kind != "advertisement" => {
            let message = format!("unknown type `{kind}`; expected `advertisement` or `solicitation`");
            reader.findings.push(VALUE_WRONG_KIND.finding(message).at(spot));
            return None;
        }
        _ => {}
    }
    let preference = |name: &str| {
        Preference::named(name)
            .ok_or_else(|| format!("unknown preference `{name}`{}", nearest::hint(name, Preference::NAMES)))
    };
    let mut said = Advertisement {
        managed: reader.flag(table, "managed"),
        other: reader.flag(table, "other"),
        home_agent: reader.flag(table, "home-agent"),
        proxy: reader.flag(table, "proxy"),
        preference: reader.parsed(table, "preference", preference).map(|(at, _)| at).unwrap_or_default(),
        ..Advertisement::default()
    };
    let mut given = |key: &str, most: u32| number(reader, table, key, most);
    said.hop_limit = given("hop-limit", u8::MAX.into()).unwrap_or(64) as u8;
    said.unused = given("unused", 3).unwrap_or(0) as u8;
    said.router_lifetime = given("lifetime", u16::MAX.into()).unwrap_or(1800) as u16;
    said.reachable_time = given("reachable", u32::MAX).unwrap_or(0);
    said.retrans_timer = given("retransmit", u32::MAX).unwrap_or(0);
    Some(Header::Advertisement(said))
}
