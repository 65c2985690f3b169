//! Rust types of the options that most programs read and write: identity associations, relay agent information, full names.
//!
//! Each is read with [`Message::get`](super::Message::get), from its option and from any other whose layout is the same, and becomes
//! octets through [`Value`]:
//!
//! ```
//! use std::time::Duration;
//! use oplex::codebook::Codebook;
//! use oplex::packet::{FromPayload, IaNa, LeasedAddress};
//!
//! let codebook = Codebook::standard();
//! let hours = |hours: u64| Duration::from_secs(hours * 3600);
//! let lease = LeasedAddress::new("2001:db8:64:10::20".parse()?, hours(8), hours(12));
//! let association = IaNa { iaid: 1, t1: hours(4), t2: hours(6), addresses: vec![lease], status: None };
//!
//! let definition = codebook.find("v6:ia-na")?;
//! let octets = codebook.encode_value(definition, &(&association).into())?;
//! assert_eq!(octets.len(), 12 + 4 + 24);
//! assert_eq!(IaNa::from_payload(codebook, definition, &octets)?, association);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use core::net::{Ipv4Addr, Ipv6Addr};
use core::time::Duration;

use crate::family::Net;
use crate::layout::{SubOption, Value};
use crate::prelude::*;

/// A status code (RFC 8415, section 21.13).
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
pub struct StatusCode {
    /// 0 is success; the names of the others are the codebook's enumeration `v6-status`.
    pub code: u16,
    /// Text for people, which may be empty.
    pub message: String,
}

/// An identity association of addresses that are leased together, `v6:3` (RFC 8415, section 21.4).
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
pub struct IaNa {
    /// The number that the client gave this association.
    pub iaid: u32,
    /// The time until the client renews with the same server. [`Duration::ZERO`] leaves it to the client,
    /// [`Duration::MAX`] is never.
    pub t1: Duration,
    /// The time until the client rebinds with any server.
    pub t2: Duration,
    /// The addresses, in their order.
    pub addresses: Vec<LeasedAddress>,
    /// What went wrong with the whole association, if the server says.
    pub status: Option<StatusCode>,
}

/// An address in an identity association, `v6:5` (RFC 8415, section 21.6).
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
pub struct LeasedAddress {
    /// The address.
    pub address: Ipv6Addr,
    /// The preferred lifetime; [`Duration::MAX`] is infinity.
    pub preferred: Duration,
    /// The valid lifetime; 0 takes the address away.
    pub valid: Duration,
    /// What went wrong with this address, if the server says.
    pub status: Option<StatusCode>,
}

/// An identity association of delegated prefixes, `v6:25` (RFC 8415, section 21.21).
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
pub struct IaPd {
    /// The number that the requesting router gave this association.
    pub iaid: u32,
    /// The time until the router renews with the same server; as in [`IaNa::t1`].
    pub t1: Duration,
    /// The time until the router rebinds with any server.
    pub t2: Duration,
    /// The prefixes, in their order.
    pub prefixes: Vec<DelegatedPrefix>,
    /// What went wrong with the whole association, if the server says.
    pub status: Option<StatusCode>,
}

/// A prefix in an identity association, `v6:26` (RFC 8415, section 21.22).
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
pub struct DelegatedPrefix {
    /// The prefix.
    pub prefix: Net<Ipv6Addr>,
    /// The preferred lifetime; [`Duration::MAX`] is infinity.
    pub preferred: Duration,
    /// The valid lifetime; 0 takes the prefix away.
    pub valid: Duration,
    /// What went wrong with this prefix, if the server says.
    pub status: Option<StatusCode>,
}

/// What a relay agent says of a client, `v4:82` (RFC 3046). Sub-options that are not named here are left out on reading;
/// [`Value`] has them all.
///
/// ```
/// use oplex::codebook::Codebook;
/// use oplex::packet::v4::{self, Draft, Message, MessageType};
/// use oplex::packet::{Composer, Message as _};
///
/// // The port as text, and the subnet that an address is to be of.
/// let relayed = [&[1, 5][..], b"port7", &[5, 4, 10, 64, 4, 0]].concat();
/// let mut composer = Composer::default();
/// let draft = Draft { options: &[(82, &relayed)], ..Draft::new(MessageType::DISCOVER) };
/// let message = Message::read(composer.compose(&draft)?.octets)?;
/// let relay = message.get(Codebook::standard(), v4::RELAY_AGENT_INFORMATION)?.ok_or("a relay agent was there")?;
/// assert_eq!((relay.circuit_id.as_deref(), relay.link_selection), (Some(&b"port7"[..]), Some([10, 64, 4, 0].into())));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Debug, Clone, Default, PartialEq, Eq, Hash)]
pub struct RelayInformation {
    /// The circuit that the request came in on (section 3.1), opaque.
    pub circuit_id: Option<Vec<u8>>,
    /// The remote end of that circuit (section 3.2), opaque.
    pub remote_id: Option<Vec<u8>>,
    /// An address of the subnet to lease from (RFC 3527).
    pub link_selection: Option<Ipv4Addr>,
    /// The subscriber (RFC 3993).
    pub subscriber_id: Option<String>,
    /// The address that clients must use as the server's (RFC 5107).
    pub server_id_override: Option<Ipv4Addr>,
}

/// A client's full name and who updates DNS: `v6:39` (RFC 4704, section 4) and `v4:81` (RFC 4702, section 2), there in
/// the DNS encoding, as the ASCII one is deprecated.
#[derive(Debug, Clone, Default, PartialEq, Eq, Hash)]
pub struct ClientFqdn {
    /// The name. It ends in a dot when it is complete, and is a partial name without one.
    pub name: String,
    /// S: the server updates, or should update, the address record.
    pub server_updates: bool,
    /// O: the server has overridden the client's S.
    pub overridden: bool,
    /// N: the server makes no updates.
    pub no_updates: bool,
}

impl LeasedAddress {
    /// An address with its lifetimes, and no status.
    ///
    /// ```
    /// use oplex::packet::{IaNa, LeasedAddress};
    /// use std::time::Duration;
    ///
    /// let (preferred, valid) = (Duration::from_secs(1800), Duration::from_secs(3600));
    /// let leased = LeasedAddress::new("2001:db8:64:40::100".parse()?, preferred, valid);
    /// let association = IaNa { iaid: 1, t1: preferred / 2, t2: preferred * 4 / 5, addresses: vec![leased], status: None };
    /// assert_eq!(association.addresses[0].valid, valid);
    /// # Ok::<(), std::net::AddrParseError>(())
    /// ```
    #[must_use]
    pub const fn new(address: Ipv6Addr, preferred: Duration, valid: Duration) -> Self {
        Self { address, preferred, valid, status: None }
    }
}

impl DelegatedPrefix {
    /// A prefix with its lifetimes, and no status.
    #[must_use]
    pub const fn new(prefix: Net<Ipv6Addr>, preferred: Duration, valid: Duration) -> Self {
        Self { prefix, preferred, valid, status: None }
    }
}

/// The codes of what stands in associations.
pub(super) const IAADDR: u16 = 5;
pub(super) const STATUS: u16 = 13;
pub(super) const IAPREFIX: u16 = 26;

fn record<const N: usize>(fields: [(&str, Value); N]) -> Value {
    Value::Record(fields.into_iter().map(|(name, value)| (name.into(), value)).collect())
}

fn option(code: u16, value: Value) -> SubOption {
    SubOption { code, name: None, value }
}

fn options(items: impl Iterator<Item = SubOption>, status: Option<&StatusCode>) -> (&'static str, Value) {
    ("options", Value::Options(items.chain(status.map(|status| option(STATUS, status.into()))).collect()))
}

impl From<&StatusCode> for Value {
    fn from(status: &StatusCode) -> Self {
        record([("status", Self::Number(status.code.into())), ("message", Self::Text(status.message.clone()))])
    }
}

impl From<&LeasedAddress> for Value {
    fn from(lease: &LeasedAddress) -> Self {
        record([
            ("address", lease.address.into()),
            ("preferred-lifetime", lease.preferred.into()),
            ("valid-lifetime", lease.valid.into()),
            options(core::iter::empty(), lease.status.as_ref()),
        ])
    }
}

impl From<&DelegatedPrefix> for Value {
    fn from(lease: &DelegatedPrefix) -> Self {
        record([
            ("preferred-lifetime", lease.preferred.into()),
            ("valid-lifetime", lease.valid.into()),
            ("prefix-length", Self::Number(lease.prefix.length().into())),
            ("prefix", lease.prefix.address().into()),
            options(core::iter::empty(), lease.status.as_ref()),
        ])
    }
}

/// The two associations differ in what they hold.
macro_rules! association {
    ($type:ident, $items:ident: $item:ident in $code:ident) => {
        impl From<&$type> for Value {
            fn from(association: &$type) -> Self {
                let items = association.$items.iter().map(|item| option($code, item.into()));
                record([
                    ("iaid", Self::Number(association.iaid.into())),
                    ("t1", association.t1.into()),
                    ("t2", association.t2.into()),
                    options(items, association.status.as_ref()),
                ])
            }
        }
    };
}

association!(IaNa, addresses: LeasedAddress in IAADDR);
association!(IaPd, prefixes: DelegatedPrefix in IAPREFIX);

impl From<&RelayInformation> for Value {
    fn from(relay: &RelayInformation) -> Self {
        let bytes = |octets: &Option<Vec<u8>>| octets.clone().map(Self::Bytes);
        let parts = [
            (1, bytes(&relay.circuit_id)),
            (2, bytes(&relay.remote_id)),
            (5, relay.link_selection.map(Self::Ipv4)),
            (6, relay.subscriber_id.clone().map(Self::Text)),
            (11, relay.server_id_override.map(Self::Ipv4)),
        ];
        Self::Options(parts.into_iter().filter_map(|(code, value)| Some(option(code, value?))).collect())
    }
}

impl ClientFqdn {
    fn number(&self, no_updates: u64) -> u64 {
        let set = |on, bit| if on { bit } else { 0 };
        set(self.server_updates, 1) | set(self.overridden, 2) | set(self.no_updates, no_updates)
    }

    /// As `v6:39` holds it.
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    /// use oplex::packet::ClientFqdn;
    ///
    /// // The client's wish: this name, with updates of DNS by the server (RFC 4704, section 4).
    /// let name = ClientFqdn { name: "dome-3.tarnfell.example.".to_owned(), server_updates: true, ..ClientFqdn::default() };
    /// let codebook = Codebook::standard();
    /// let octets = codebook.encode_value(codebook.find("v6:39")?, &name.to_v6())?;
    /// assert_eq!(octets[..8], *b"\x01\x06dome-3");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn to_v6(&self) -> Value {
        record([("flags", Value::Number(self.number(4))), ("name", Value::Name(self.name.clone()))])
    }

    /// As `v4:81` holds it: with E set, so that the name is in the DNS encoding, and both codes 255, as servers must
    /// send and all must ignore (RFC 4702, section 2.2).
    #[must_use]
    pub fn to_v4(&self) -> Value {
        record([
            ("flags", Value::Number(self.number(8) | 4)),
            ("rcode1", Value::Number(255)),
            ("rcode2", Value::Number(255)),
            ("name", Value::Name(self.name.clone())),
        ])
    }
}
