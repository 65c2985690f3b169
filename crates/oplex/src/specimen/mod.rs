//! A whole message, written down by hand in TOML: for tests, for labs, and for asking what would happen if.
//!
//! ```
//! use oplex::specimen::Specimen;
//!
//! let specimen = Specimen::read("offer.toml", r#"
//! type = "offer"
//! xid = 0x6411
//! chaddr = "02:00:5e:00:53:11"
//! yiaddr = "10.64.4.20"
//! [options]
//! dhcp-server-id = "10.64.0.67"
//! address-time = "8h"
//! "#, &mut |path| Err(format!("no file {path}")));
//! assert!(specimen.findings.is_empty());
//! let octets = specimen.octets.expect("nothing is wrong");
//! assert_eq!(octets[240..256], [53, 1, 2, 54, 4, 10, 64, 0, 67, 51, 4, 0, 0, 112, 128, 255]);
//! ```

mod ra;
mod v6;

use std::net::Ipv4Addr;

use crate::check;
use crate::codebook::{Codebook, assemble};
use crate::document::{Reader, Table, WRONG_KIND};
use crate::finding::{FileId, Finding, Sources, any_error};
use crate::nearest;
use crate::octets::hex;
use crate::packet::v4::{Budget, Composer, Draft, HEADER, Header, Limit, MessageType, SMALLEST};
use crate::plan::{PlanReader, Sent};

/// A message as it was written down, and what came of it.
#[derive(Debug, Clone)]
pub struct Specimen {
    /// The file and the codebooks that it names.
    pub sources: Sources,
    /// The standard options, and those of the file's own codebooks.
    pub codebook: Codebook,
    /// The message; `None` when something is wrong with the file.
    pub octets: Option<Vec<u8>>,
    /// What the message had room for, unless its octets were written down themselves.
    pub budget: Option<Budget>,
    /// What is wrong with the file.
    pub findings: Vec<Finding>,
}

const KEYS: [&str; 23] = [
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
    "asks",
    "limit",
    "joins",
    "smallest",
    "after-header",
];

impl Specimen {
    /// Reads a message and writes its octets. `fetch` gives the text of a codebook that it names, or says why it cannot.
    #[must_use]
    pub fn read(name: &str, text: &str, fetch: &mut dyn FnMut(&str) -> Result<String, String>) -> Self {
        Self::made(name, text, fetch, make)
    }

    /// Reads a DHCPv6 message and writes its octets, as [`Specimen::read`] does.
    #[must_use]
    pub fn read_v6(name: &str, text: &str, fetch: &mut dyn FnMut(&str) -> Result<String, String>) -> Self {
        Self::made(name, text, fetch, |reader, table, file| Some((v6::message(reader, table, file)?, None)))
    }

    /// Reads a router advertisement or solicitation and writes its octets, as [`Specimen::read`] does; with an IPv6 header
    /// in front when the file says who sends it.
    #[must_use]
    pub fn read_ra(name: &str, text: &str, fetch: &mut dyn FnMut(&str) -> Result<String, String>) -> Self {
        Self::made(name, text, fetch, |reader, table, file| Some((ra::message(reader, table, file)?, None)))
    }

    fn made(
        name: &str,
        text: &str,
        fetch: &mut dyn FnMut(&str) -> Result<String, String>,
        make: impl for<'s> FnOnce(&mut PlanReader<'s>, &Table<'s>, FileId) -> Option<(Vec<u8>, Option<Budget>)>,
    ) -> Self {
        let mut sources = Sources::default();
        let file = sources.add(name, text);
        let mut reader = PlanReader::new(file, text);
        let made = reader.reader.parse().and_then(|table| {
            reader.codebooks(&table, &mut sources, fetch);
            make(&mut reader, &table, file)
        });
        let PlanReader { reader, codebook, .. } = reader;
        let made = made.filter(|_| !any_error(&reader.findings));
        let (octets, budget) = made.map_or((None, None), |(octets, budget)| (Some(octets), budget));
        Self { sources, codebook, octets, budget, findings: reader.findings }
    }
}

fn make<'s>(reader: &mut PlanReader<'s>, table: &Table<'s>, file: FileId) -> Option<(Vec<u8>, Option<Budget>)> {
    reader.reader.only(table, &KEYS, "a message");
    let message_type = message_type(&mut reader.reader, table);
    let header = header(&mut reader.reader, table, message_type);
    let [sname, sname_raw] = text_field(&mut reader.reader, table, "sname", 64);
    let [file_name, file_raw] = text_field(&mut reader.reader, table, "file", 128);
    let smallest = number(&mut reader.reader, table, "smallest", 65_507).map_or(SMALLEST, |number| number as usize);
    if let Some(rest) = octets(&mut reader.reader, table, "after-header") {
        let mut octets = raw(&header, [&sname, &sname_raw], [&file_name, &file_raw], &rest);
        octets.resize(octets.len().max(smallest), 0);
        return Some((octets, None));
    }
    let sent = options(reader, table);
    let payload = |sent: &'_ Sent| sent.payload().map(|payload| payload.octets.clone());
    let payloads: Vec<Vec<u8>> = sent.iter().filter_map(payload).collect();
    let known = sent.iter().filter(|sent| sent.payload().is_some()).zip(&payloads);
    let wanted: Vec<u16> = sent.iter().map(|sent| sent.definition.code).collect();
    let mut assembled = assemble(known.map(|(sent, octets)| (&*sent.definition, &octets[..], ())));
    // They stand in the order written; what carries vendors' options stands last.
    assembled.sort_by_key(|option| wanted.iter().position(|code| *code == option.code).unwrap_or(usize::MAX));
    let given: Vec<(u8, &[u8])> =
        assembled.iter().map(|option| (option.code as u8, option.octets.as_slice())).collect();
    let draft = Draft {
        header,
        message_type,
        sname: &sname,
        file: &file_name,
        options: &given,
        asked: &table.get("asks").map(|node| reader.codes(node, "asks")).unwrap_or_default(),
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
        Err(error) => {
            let spot = crate::finding::Spot { file, span: 0..0 };
            reader.reader.findings.push(WRONG_KIND.finding(error.to_string()).at(spot));
            None
        }
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

fn message_type<'s>(reader: &mut Reader<'s>, table: &Table<'s>) -> Option<MessageType> {
    let named = |name: &str| {
        MessageType::named(name).ok_or_else(|| {
            let near = nearest::nearest(name, MessageType::names().iter().copied());
            match near {
                Some(near) => format!("no message is of the type `{name}`; did you mean `{near}`?"),
                None => format!("no message is of the type `{name}`; there are {}", MessageType::names().join(", ")),
            }
        })
    };
    reader.parsed(table, "type", named).map(|(message_type, _)| message_type)
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
        *field =
            reader.parsed(table, key, crate::layout::address).map_or(Ipv4Addr::UNSPECIFIED, |(address, _)| address);
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

fn number<'s>(reader: &mut Reader<'s>, table: &Table<'s>, key: &str, most: u32) -> Option<u32> {
    reader.number(table, key, most.into()).map(|(number, _)| number as u32)
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

fn octets<'s>(reader: &mut Reader<'s>, table: &Table<'s>, key: &str) -> Option<Vec<u8>> {
    let parse = |text: &str| hex::parse(text).map_err(|error| format!("`{key}` is not hexadecimal: {error}"));
    reader.parsed(table, key, parse).map(|(octets, _)| octets)
}

fn options<'s>(reader: &mut PlanReader<'s>, table: &Table<'s>) -> Vec<Sent> {
    let Some(options) = table.get("options").and_then(|node| reader.reader.table(node, "options")) else {
        return Vec::new();
    };
    let sent = reader.options(options, "v4");
    without_octets(reader, &sent);
    sent
}

/// What is wrong with options that have no octets. The specimen may be meant to be wrong; only these cannot be shown.
fn without_octets(reader: &mut PlanReader<'_>, sent: &[Sent]) {
    for sent in sent.iter().filter(|sent| sent.outcome.is_err()) {
        reader.reader.findings.extend(check::one_sent(sent));
    }
}

/// How large the datagram may become.
fn limit<'s>(reader: &mut Reader<'s>, table: &Table<'s>) -> Limit {
    number(reader, table, "limit", 65_535).map_or(Limit::DEFAULT, |octets| Limit::of_datagram(octets as usize))
}
