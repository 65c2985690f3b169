//! DHCPv4 messages written down by hand.

use std::net::Ipv4Addr;

use super::{assembled, cannot, named, number, octets, options};
use crate::document::{Reader, Table};
use crate::family::{Address, Family, Protocol};
use crate::finding::FileId;
use crate::octets::hex;
use crate::packet::Composer;
use crate::packet::v4::{Budget, Draft, HEADER, Header, Limit, MessageType, SMALLEST};
use crate::plan::PlanReader;

pub(super) const KEYS: [&str; 23] = [
    "title",
    "type",
    "op",
    "htype",
    "hlen",
    "hops",
    "xid",
    "secs",
    "flags",
    "ciaddr",
    "yiaddr",
    "siaddr",
    "giaddr",
    "chaddr",
    "sname",
    "file",
    "codebooks",
    "options",
    "requests",
    "limit",
    "joins",
    "smallest",
    "after-header",
];

pub(super) fn message<'s>(
    reader: &mut PlanReader<'s>,
    table: &Table<'s>,
    file: FileId,
) -> Option<(Vec<u8>, Option<Budget>)> {
    reader.reader.only(table, &KEYS, "a message");
    let message_type = named(&mut reader.reader, table, MessageType::named, MessageType::names());
    let header = header(&mut reader.reader, table, message_type);
    let [sname, sname_raw] = text_field(&mut reader.reader, table, "sname", 64);
    let [file_name, file_raw] = text_field(&mut reader.reader, table, "file", 128);
    let smallest = number(&mut reader.reader, table, "smallest", 65_507).map_or(SMALLEST, |number| number as usize);
    if let Some(rest) = octets(&mut reader.reader, table, "after-header") {
        let mut octets = raw(&header, [&sname, &sname_raw], [&file_name, &file_raw], &rest);
        octets.resize(octets.len().max(smallest), 0);
        return Some((octets, None));
    }
    let sent = options(reader, table, Protocol::V4);
    let wanted: Vec<u16> = sent.iter().map(|sent| sent.definition.code).collect();
    let mut assembled = assembled(Family::V4, &sent);
    // They stand in the order written; what carries vendors' options stands last.
    assembled.sort_by_key(|(code, _)| wanted.iter().position(|known| known == code).unwrap_or(usize::MAX));
    let given: Vec<(u16, &[u8])> = assembled.iter().map(|(code, octets)| (*code, octets.as_slice())).collect();
    let draft = Draft {
        header,
        message_type,
        sname: &sname,
        file: &file_name,
        options: &given,
        requested: &table.get("requests").map(|node| reader.codes(node, "requests", Protocol::V4)).unwrap_or_default(),
        limit: limit(&mut reader.reader, table),
        joins: reader.reader.flag(table, "joins"),
        smallest,
    };
    let mut composer = Composer::default();
    match composer.compose(&draft) {
        Ok(composed) => {
            let (mut octets, budget) = (composed.octets.to_vec(), composed.budget.clone());
            for (at, raw) in [(44, &sname_raw), (108, &file_raw)] {
                octets[at..at + raw.len()].copy_from_slice(raw);
            }
            Some((octets, Some(budget)))
        }
        Err(error) => cannot(reader, file, error.to_string()),
    }
}

/// A message whose octets after the header were written down themselves.
fn raw(header: &Header, sname: [&[u8]; 2], file: [&[u8]; 2], rest: &[u8]) -> Vec<u8> {
    let mut octets = header.octets().to_vec();
    for (texts, end) in [(sname, 108), (file, HEADER)] {
        octets.extend_from_slice(&texts.concat());
        octets.resize(end, 0);
    }
    octets.extend_from_slice(rest);
    octets
}

fn header<'s>(reader: &mut Reader<'s>, table: &Table<'s>, message_type: Option<MessageType>) -> Header {
    let reply = message_type.and_then(MessageType::is_reply) == Some(true);
    let mut header = if reply { Header::from_server(0, [0; 6]) } else { Header::from_client(0, [0; 6]) };
    let hardware = |text: &str| match hex::parse(text) {
        Ok(octets) if octets.len() <= 16 => Ok(octets),
        Ok(octets) => Err(format!("`{text}` has {} octets, and a hardware address has 16 at most", octets.len())),
        Err(error) => Err(format!("`{text}` is not a hardware address: {error}")),
    };
    if let Some((octets, _)) = reader.parsed(table, "chaddr", hardware) {
        header.chaddr[..octets.len()].copy_from_slice(&octets);
    }
    for (key, field) in [
        ("ciaddr", &mut header.ciaddr),
        ("yiaddr", &mut header.yiaddr),
        ("siaddr", &mut header.siaddr),
        ("giaddr", &mut header.giaddr),
    ] {
        *field = reader.parsed(table, key, Ipv4Addr::parse).map_or(Ipv4Addr::UNSPECIFIED, |(address, _)| address);
    }
    for (key, field) in
        [("op", &mut header.op), ("htype", &mut header.htype), ("hlen", &mut header.hlen), ("hops", &mut header.hops)]
    {
        *field = number(reader, table, key, u8::MAX.into()).map_or(*field, |number| number as u8);
    }
    header.xid = number(reader, table, "xid", u32::MAX).unwrap_or(0);
    header.secs = number(reader, table, "secs", u16::MAX.into()).unwrap_or(0) as u16;
    header.flags = match table.get("flags").and_then(|node| node.get_ref().as_str()) {
        Some("broadcast") => Header::BROADCAST,
        _ => number(reader, table, "flags", u16::MAX.into()).unwrap_or(0) as u16,
    };
    header
}

/// Text for a header field, or its octets themselves.
fn text_field<'s>(reader: &mut Reader<'s>, table: &Table<'s>, key: &str, size: usize) -> [Vec<u8>; 2] {
    let Some(node) = table.get(key) else { return Default::default() };
    if let Some(inner) = node.get_ref().as_table() {
        let octets = octets(reader, inner, "hex").unwrap_or_default();
        if octets.len() > size {
            reader.wrong_kind(node.span(), format!("`{key}` has {size} octets, and these are {}", octets.len()));
            return Default::default();
        }
        return [Vec::new(), octets];
    }
    let fits = |text: &str| match text.len() {
        length if length < size && !text.contains('\0') => Ok(text.as_bytes().to_vec()),
        length => Err(format!("`{key}` takes {} octets and a NUL after them, and these are {length}", size - 1)),
    };
    [reader.parsed(table, key, fits).map(|(text, _)| text).unwrap_or_default(), Vec::new()]
}

/// How large the datagram may become.
fn limit<'s>(reader: &mut Reader<'s>, table: &Table<'s>) -> Limit {
    number(reader, table, "limit", 65_535).map_or(Limit::DEFAULT, |octets| Limit::of_datagram(octets as usize))
}
