//! DHCPv6 messages written down by hand.

use std::net::Ipv6Addr;

use super::{number, octets, without_octets};
use crate::codebook::assemble_v6;
use crate::document::{Table, WRONG_KIND};
use crate::finding::{FileId, Spot};
use crate::nearest;
use crate::packet::v6::{Draft, Header, MessageType, RELAY_MESSAGE, Relay, compose};
use crate::plan::{PlanReader, Sent};

const KEYS: [&str; 10] =
    ["title", "codebooks", "type", "transaction", "hops", "link", "peer", "options", "message", "after-options"];

/// As deep as messages may stand in each other here; more relays than that no message passes.
const DEEPEST: usize = 40;

pub(super) fn message<'s>(reader: &mut PlanReader<'s>, table: &Table<'s>, file: FileId) -> Option<Vec<u8>> {
    at_depth(reader, table, file, 0)
}

fn at_depth<'s>(reader: &mut PlanReader<'s>, table: &Table<'s>, file: FileId, depth: usize) -> Option<Vec<u8>> {
    reader.reader.only(table, &KEYS, "a message of DHCPv6");
    let message_type = message_type(reader, table)?;
    let address = |text: &str| {
        text.parse::<Ipv6Addr>().map_err(|_| format!("`{text}` is not an IPv6 address such as `2001:db8:64:10::1`"))
    };
    let mut parsed = |key| reader.reader.parsed(table, key, address).map_or(Ipv6Addr::UNSPECIFIED, |(at, _)| at);
    let (link, peer) = (parsed("link"), parsed("peer"));
    let hops = number(&mut reader.reader, table, "hops", u8::MAX.into()).unwrap_or(0) as u8;
    let transaction = number(&mut reader.reader, table, "transaction", 0xff_ffff).unwrap_or(0);
    let header = if message_type.is_relays() {
        Header::Relay(Relay { hops, link, peer })
    } else {
        Header::Transaction(transaction)
    };
    let sent = options(reader, table);
    without_octets(reader, &sent);
    let written = sent.iter().filter_map(|sent| Some((&*sent.definition, &sent.payload()?.octets[..], ())));
    let mut payloads: Vec<(u16, Vec<u8>)> =
        assemble_v6(written).into_iter().map(|option| (option.code, option.octets)).collect();
    if let Some(inner) = table.get("message").and_then(|node| reader.reader.table(node, "message")) {
        if depth == DEEPEST {
            let spot = Spot { file, span: 0..0 };
            let message = format!("messages stand {DEEPEST} deep in each other, which no relays do");
            reader.reader.findings.push(WRONG_KIND.finding(message).at(spot));
            return None;
        }
        payloads.push((RELAY_MESSAGE, at_depth(reader, inner, file, depth + 1)?));
    }
    let options: Vec<(u16, &[u8])> = payloads.iter().map(|(code, payload)| (*code, payload.as_slice())).collect();
    let mut message = Vec::new();
    if let Err(error) = compose(&Draft { message_type, header, options: &options }, &mut message) {
        let spot = Spot { file, span: 0..0 };
        reader.reader.findings.push(WRONG_KIND.finding(error.to_string()).at(spot));
        return None;
    }
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
    let named = |name: &str| {
        MessageType::named(name).ok_or_else(|| {
            let hint = nearest::hint(name, MessageType::names());
            format!("no message of DHCPv6 is of the type `{name}`{hint}")
        })
    };
    reader.parsed(table, "type", named).map(|(message_type, _)| message_type)
}

/// The options in the order written: a table, or a list of tables where one stands twice.
fn options<'s>(reader: &mut PlanReader<'s>, table: &Table<'s>) -> Vec<Sent> {
    let tables = table.get("options").and_then(|node| reader.reader.table_or_tables(node, "options"));
    tables.into_iter().flatten().flat_map(|table| reader.options(table, "v6")).collect()
}
