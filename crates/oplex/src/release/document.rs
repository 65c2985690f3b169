//! What is written down: the forms of a release's parts.

use std::net::{Ipv4Addr, Ipv6Addr};

use serde::{Deserialize, Serialize};

use super::{Becomes, Condition, OctetEdit};
use crate::family::Both;
use crate::plan::{BootKey, Times};

/// What a plan comes to, and what people and Oplex know it by.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Document {
    /// What the plan calls itself.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub title: Option<String>,
    /// Its codebooks, as they are written: by them options have names and values.
    pub codebooks: Vec<BookEntry>,
    /// What its devices get.
    pub content: Content,
}

/// All that answering needs, and nothing else: two plans that send every client the same octets have the same content, in
/// whatever order and with whatever comments they are written.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Content {
    /// Who answers.
    pub server: ServerEntry,
    /// What of options is known to all who compose messages.
    pub composing: Composing,
    /// What everyone is sent.
    pub everyone: LayerEntry,
    /// Its networks, by name.
    pub networks: Vec<NetworkEntry>,
    /// Its fleets, in the order in which they apply.
    pub fleets: Vec<FleetEntry>,
    /// Its reservations, by network and client.
    pub reservations: Vec<ReservationEntry>,
}

/// What of options is known to all who compose messages.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Composing {
    /// A client of DHCPv4 that requests one of these joins options that are split (RFC 3396, section 4).
    pub joined: Vec<u16>,
    /// These stand in the message that completes an exchange (DHCPACK, Reply) and in no other.
    pub only_last: Both<Vec<u16>>,
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
    /// What it changes in options of wider layers.
    #[serde(default, skip_serializing_if = "is_nothing")]
    pub amends: Both<Vec<AmendEntry>>,
    /// Where it has its clients boot from.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub boot: Vec<BootEntry>,
    /// The keys of wider layers' `boot` that it takes away.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub boot_withheld: Vec<BootKey>,
    /// The full name that its clients are answered with.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub fqdn: Option<FqdnEntry>,
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
    /// The changes for people: `{ SERVER = 10.64.0.71, VLAN = { remove = true } }`.
    pub text: String,
    /// The changes, one after the other, where octets can be changed by themselves.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub edits: Vec<OctetEdit>,
    /// Where they cannot: what each payload that wider layers may send becomes.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub becomes: Vec<Becomes>,
}

/// The full name with which clients that send the client FQDN option are answered.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct FqdnEntry {
    /// The name; `*` as its first label stands for the first label of the name that the client sends.
    pub name: String,
    /// Whether the server updates DNS as the client wishes.
    pub updates: bool,
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
    /// The option, `v4:3`, `tern:1`: two layers send the same option when these are the same.
    pub option: String,
    /// Its code.
    pub code: u16,
    /// Its octets, in hexadecimal.
    pub hex: String,
    /// Where it travels; absent where that is among the own options of its family.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub carriers: Option<Vec<CarrierEntry>>,
}

/// Where an option of a vendor's or site's book travels.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
pub struct CarrierEntry {
    /// The option that carries it: 43, 124 or 125 of DHCPv4, 17 of DHCPv6; absent for one among its family's own.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub option: Option<u16>,
    /// The enterprise number in front; only option 43 has none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub enterprise: Option<u32>,
}
