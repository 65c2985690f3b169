//! What is published: [the compiled form](crate::compiled) of a checked plan, written down so that clients can be answered from
//! it alone, and read back.
//!
//! ```
//! use oplex::compiled::Compiled;
//! use oplex::plan::Plan;
//! use oplex::release::{Document, compare, compile};
//!
//! let text = "[network.desk]\nsubnet = \"10.64.4.0/24\"\npool = \"10.64.4.20-10.64.4.90\"\nsend.v4 = { router = \"10.64.4.1\" }\n";
//! let loaded = Plan::read("plan.toml", text, &mut |path| Err(format!("no file {path}").into()));
//! let plan = loaded.plan.as_ref().expect("it is TOML");
//! let json = serde_json::to_string(&compile(plan, &loaded.sources))?;
//!
//! let document: Document = serde_json::from_str(&json)?;
//! assert_eq!(compare(&document.compiled()?, &Compiled::of(plan)), []);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod compare;
mod read;
mod write;

use std::net::{Ipv4Addr, Ipv6Addr};

use serde::{Deserialize, Serialize};

use crate::family::Both;
use crate::plan::{BootKey, Times};

pub use compare::{Change, Changed, Concerned, Detail, Sides, compare};
pub use read::ReadError;
pub use write::compile;

/// What a plan comes to.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Document {
    /// What the plan calls itself.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub title: Option<String>,
    /// The plan's file.
    pub plan: String,
    /// Its codebooks, as they are written: clients' options are read by them.
    pub codebooks: Vec<BookEntry>,
    /// Who answers.
    pub server: ServerEntry,
    /// What everyone is sent.
    pub everyone: LayerEntry,
    /// Its networks.
    pub networks: Vec<NetworkEntry>,
    /// Its fleets, in the order in which they apply.
    pub fleets: Vec<FleetEntry>,
    /// Its reservations.
    pub reservations: Vec<ReservationEntry>,
}

/// A codebook.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct BookEntry {
    /// The file's name, as the plan has it.
    pub name: String,
    /// Its text.
    pub text: String,
}

/// Who answers.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct ServerEntry {
    /// The address that clients of DHCPv4 know it by (54).
    #[serde(skip_serializing_if = "Option::is_none")]
    pub v4: Option<Ipv4Addr>,
    /// The address from which it answers relay agents by DHCPv6.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub v6: Option<Ipv6Addr>,
    /// Its DUID, in hexadecimal.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub duid: Option<String>,
}

/// What one fleet comes to.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct FleetEntry {
    /// Its name.
    pub name: String,
    /// What its clients are recognised by.
    #[serde(rename = "match")]
    pub recognised: Condition,
    /// What they are sent.
    #[serde(flatten)]
    pub says: LayerEntry,
    /// What is special to it on single networks.
    pub on: Vec<FleetOnEntry>,
}

/// What a client must be like.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
#[non_exhaustive]
pub enum Condition {
    /// All of these hold.
    All(Vec<Self>),
    /// One of these holds.
    Any(Vec<Self>),
    /// None of these holds.
    None(Vec<Self>),
    /// The client sends something that one of the patterns fits.
    Sends {
        /// What it sends: a key of a plan's `match` (`mac`, `vendor-class`), or an option.
        what: String,
        /// What that may look like: text with `*` and `?`, a MAC, or a range of MACs.
        patterns: Vec<String>,
    },
}

/// What one fleet comes to on one network.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct FleetOnEntry {
    /// The network's name.
    pub network: String,
    /// The addresses that it has for itself.
    pub pools: Vec<String>,
    /// What its clients are sent there.
    #[serde(flatten)]
    pub says: LayerEntry,
}

/// What one client comes to.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct ReservationEntry {
    /// The network's name.
    pub network: String,
    /// The client: its hardware address, `duid` and its DUID, or `client` and its identifier.
    pub client: String,
    /// The IPv4 address it gets.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub address: Option<Ipv4Addr>,
    /// The IPv6 address it gets.
    #[serde(rename = "address_v6", skip_serializing_if = "Option::is_none")]
    pub ipv6_address: Option<Ipv6Addr>,
    /// The prefix that is delegated to it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub delegated: Option<String>,
    /// What people call it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    /// What it is sent; most are sent nothing of their own.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub says: Option<LayerEntry>,
}

/// What one layer says, over those that are wider.
#[derive(Debug, Clone, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct LayerEntry {
    /// How it is called: `everyone`, `network control-room`.
    pub layer: String,
    /// The times that it sets, in seconds.
    #[serde(flatten)]
    pub times: Times<u32>,
    /// What it sends by each family. A vendor's options stand as they are here: what carries them is put together for each
    /// client, out of all its layers.
    pub options: Both<Vec<OptionEntry>>,
    /// What it changes in options of wider layers: the option, and the changes as a plan writes them.
    #[serde(default, skip_serializing_if = "is_nothing")]
    pub amends: Both<Vec<AmendEntry>>,
    /// Where it has its clients boot from.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub boot: Vec<BootEntry>,
    /// The keys of wider layers' `boot` that it takes away.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub boot_withheld: Vec<BootKey>,
    /// The options of wider layers that it takes away.
    pub withheld: Vec<String>,
}

fn is_nothing<T>(both: &Both<Vec<T>>) -> bool {
    both.v4.is_empty() && both.v6.is_empty()
}

/// What a layer changes in an option that a wider layer sends.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct AmendEntry {
    /// The option, `tern:1`.
    pub option: String,
    /// The changes: `{ SERVER = 10.64.0.71, VLAN = { remove = true } }`.
    pub edits: String,
}

/// One key of where a layer has its clients boot from.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct BootEntry {
    /// The key.
    pub key: BootKey,
    /// What the header has.
    pub text: String,
    /// The option that says the same.
    pub sends: OptionEntry,
}

/// What one network comes to.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct NetworkEntry {
    /// Its name.
    pub name: String,
    /// Its subnets, `10.64.4.0/23`.
    pub subnets: Vec<String>,
    /// Its prefixes, `2001:db8:64:4::/64`.
    pub prefixes: Vec<String>,
    /// The addresses of its relay agents.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub relays: Vec<String>,
    /// The interfaces by which relay agents name it, in hexadecimal.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub interfaces: Vec<String>,
    /// The prefixes it delegates.
    pub delegates: Vec<String>,
    /// What its router advertises.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub advertises: Option<AdvertisementEntry>,
    /// The addresses it leases, of both families.
    pub pools: Vec<String>,
    /// Those among them that it does not lease.
    pub excluded: Vec<String>,
    /// What its clients are sent.
    #[serde(flatten)]
    pub says: LayerEntry,
}

/// What a router advertises.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct AdvertisementEntry {
    /// The octets between its checksum and its options, in hexadecimal.
    pub header: String,
    /// The address it advertises from.
    pub source: Ipv6Addr,
    /// The address it advertises to.
    pub destination: Ipv6Addr,
    /// How often it advertises at least, in seconds.
    pub interval: u32,
    /// Its options.
    pub options: Vec<OptionEntry>,
}

/// One option that a layer sends.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct OptionEntry {
    /// The option, `v4:3`.
    pub option: String,
    /// Its name.
    pub name: String,
    /// Its octets, in hexadecimal.
    pub hex: String,
    /// The line of the plan that it comes from.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub from: Option<Origin>,
}

/// A line of the plan.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Origin {
    /// The file.
    pub file: String,
    /// The line, counted from 1.
    pub line: usize,
}
