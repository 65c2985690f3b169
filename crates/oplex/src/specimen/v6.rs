//! DHCPv6 messages written down by hand.

use std::net::Ipv6Addr;

use super::{assembled, cannot, named, number, octets, options};
use crate::document::Table;
use crate::family::{Address, Family, Protocol};
use crate::finding::FileId;
use crate::packet::Composer;
use crate::packet::v6::{Draft, Header, MessageType, RELAY_MESSAGE, Relay};
use crate::plan::PlanReader;

pub(super) const KEYS: [&str; 10] =
    ["title", "codebooks", "type", "transaction", "hops", "link", "peer", "options", "message", "after-options"];

/// As deep as messages may stand in each other here; more relays than that no message passes.
const DEEPEST: usize = 40;

pub(super) fn message<'s>(reader: &mut PlanReader<'s>, table: &Table<'s>, file: FileId) -> Option<Vec<u8>> {
    at_depth(reader, table, file, 0)
}

fn at_depth<'s>(reader: &mut PlanReader<'s>, table: &Table<'s>, file: FileId, depth: usize) -> Option<Vec<u8>> {
    reader.reader.only(table, &KEYS, "a message of DHCPv6");
    let message_type = message_type(reader, table)?;
    let mut parsed =
        |key| reader.reader.parsed(table, key, Ipv6Addr::parse).map_or(Ipv6Addr::UNSPECIFIED, |(at, _)| at);
    let (link, peer) = (parsed("link"), parsed("peer"));
    let hops = number(&mut reader.reader, table, "hops", u8::MAX.into()).unwrap_or(0) as u8;
    let transaction = number(&mut reader.reader, table, "transaction", 0xff_ffff).unwrap_or(0);
    let header = if message_type.is_relays() {
        Header::Relay(Relay { hops, link, peer })
    } else {
        Header::Transaction(transaction)
    };
    let sent = options(reader, table, Protocol::V6);
    let mut payloads = assembled(Family::V6, &sent);
    if let Some(inner) = table.get("message").and_then(|node| reader.reader.table(node, "message")) {
        if depth == DEEPEST {
            return cannot(reader, file, format!("messages are nested {DEEPEST} deep, more than relay agents may"));
        }
        payloads.push((RELAY_MESSAGE, at_depth(reader, inner, file, depth + 1)?));
    }
    let options: Vec<(u16, &[u8])> = payloads.iter().map(|(code, payload)| (*code, payload.as_slice())).collect();
    let draft = Draft { message_type, header, options: &options };
    let mut message = match Composer::default().compose(&draft) {
        Ok(message) => message.to_vec(),
        Err(error) => return cannot(reader, file, error.to_string()),
    };
    message.extend(octets(&mut reader.reader, table, "after-options").unwrap_or_default());
    Some(message)
}

/// A type by its name, or by a number that has none.
fn message_type<'s>(reader: &mut PlanReader<'s>, table: &Table<'s>) -> Option<MessageType> {
    let reader = &mut reader.reader;
    if !table.contains_key("type") {
        reader.missing(0..0, "type", "\"solicit\"");
        return None;
    }
    if table.get("type").is_some_and(|node| node.get_ref().is_integer()) {
        return number(reader, table, "type", u8::MAX.into()).map(|number| MessageType(number as u8));
    }
    let names: Vec<&str> = MessageType::names().collect();
    named(reader, table, MessageType::named, &names)
}
