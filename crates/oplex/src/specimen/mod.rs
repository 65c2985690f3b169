//! A whole message, written down by hand in TOML: for tests, for labs, and for asking what would happen if.
//!
//! ```
//! use oplex::family::Protocol;
//! use oplex::specimen::Specimen;
//!
//! let specimen = Specimen::read(Protocol::V4, "offer.toml", r#"
//! type = "offer"
//! xid = 0x6411
//! chaddr = "02:00:5e:00:53:11"
//! yiaddr = "10.64.4.20"
//! [options]
//! dhcp-server-id = "10.64.0.67"
//! address-time = "8h"
//! "#, &mut |path| Err(format!("no file {path}").into()));
//! assert!(specimen.findings.is_empty());
//! let octets = specimen.octets.expect("nothing is wrong");
//! assert_eq!(octets[240..256], [53, 1, 2, 54, 4, 10, 64, 0, 67, 51, 4, 0, 0, 112, 128, 255]);
//! ```

mod ra;
mod v4;
mod v6;

use crate::check;
use crate::codebook::{Codebook, OptionToSend, assemble};
use crate::document::{Reader, Table, VALUE_WRONG_KIND};
use crate::family::{Family, Protocol};
use crate::finding::{FileId, Finding, Sources, Spot, any_error};
use crate::nearest;
use crate::octets::hex;
use crate::packet::v4::Budget;
use crate::plan::{Fetch, PlanReader, Sent};

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

impl Specimen {
    /// Reads a message of a protocol and writes its octets; of a router advertisement with an IPv6 header in front when the
    /// file says who sends it. `fetch` gives the text of a codebook that it names, or says why it cannot.
    #[must_use]
    pub fn read(protocol: Protocol, name: &str, text: &str, fetch: &mut Fetch<'_>) -> Self {
        Self::made(name, text, fetch, |reader, table, file| match protocol {
            Protocol::V4 => v4::message(reader, table, file),
            Protocol::V6 => Some((v6::message(reader, table, file)?, None)),
            Protocol::Ra => Some((ra::message(reader, table, file)?, None)),
        })
    }

    fn made(
        name: &str,
        text: &str,
        fetch: &mut Fetch<'_>,
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
        Self { sources, codebook, octets, budget, findings: reader.findings.into_vec() }
    }
}

/// The keys that a message of a protocol may have: what an editor completes.
///
/// ```
/// use oplex::family::Protocol;
/// use oplex::specimen;
///
/// assert!(specimen::keys(Protocol::V4).contains(&"chaddr"));
/// assert!(!specimen::keys(Protocol::V6).contains(&"chaddr"));
/// ```
#[must_use]
pub fn keys(protocol: Protocol) -> &'static [&'static str] {
    match protocol {
        Protocol::V4 => &v4::KEYS,
        Protocol::V6 => &v6::KEYS,
        Protocol::Ra => &ra::KEYS,
    }
}

fn number<'s>(reader: &mut Reader<'s>, table: &Table<'s>, key: &str, most: u32) -> Option<u32> {
    reader.number(table, key, most.into()).map(|(number, _)| number as u32)
}

fn octets<'s>(reader: &mut Reader<'s>, table: &Table<'s>, key: &str) -> Option<Vec<u8>> {
    let parse = |text: &str| hex::parse(text).map_err(|error| format!("`{key}` is not hexadecimal: {error}"));
    reader.parsed(table, key, parse).map(|(octets, _)| octets)
}

/// The options of a message in the order written: a table, or a list of tables where one is a duplicate. What has no octets is a
/// finding: the specimen may be meant to be wrong; only these cannot be shown.
fn options<'s>(reader: &mut PlanReader<'s>, table: &Table<'s>, protocol: Protocol) -> Vec<Sent> {
    let tables = table.get("options").and_then(|node| reader.reader.table_or_tables(node, "options"));
    let sent: Vec<Sent> = tables.into_iter().flatten().flat_map(|table| reader.options(table, protocol)).collect();
    for sent in sent.iter().filter(|sent| sent.outcome.is_err()) {
        let findings = check::of_sent(&reader.codebook, sent);
        reader.reader.findings.extend(findings);
    }
    sent
}

/// The options as they go into a message of a family, vendors' in what carries them.
fn assembled(family: Family, sent: &[Sent]) -> Vec<(u16, Vec<u8>)> {
    let parts =
        sent.iter().filter_map(|sent| Some(OptionToSend::new(family, &sent.definition, &sent.payload()?.octets, ())));
    assemble(family, parts).into_iter().map(|option| (option.code, option.octets.into_vec())).collect()
}

/// Why no message can be made of what is written.
fn cannot<'s, T>(reader: &mut PlanReader<'s>, file: FileId, message: String) -> Option<T> {
    reader.reader.findings.push(VALUE_WRONG_KIND.finding(message).at(Spot { file, span: 0..0 }));
    None
}

/// A type of message by its name.
fn named<'s, T>(
    reader: &mut Reader<'s>,
    table: &Table<'s>,
    find: impl Fn(&str) -> Option<T>,
    names: &[&str],
) -> Option<T> {
    let found = |name: &str| {
        find(name).ok_or_else(|| {
            let all = || format!("; there are {}", names.join(", "));
            let hint = Some(nearest::hint(name, names.iter().copied())).filter(|hint| !hint.is_empty());
            format!("unknown message type `{name}`{}", hint.unwrap_or_else(all))
        })
    };
    reader.parsed(table, "type", found).map(|(kind, _)| kind)
}
