//! Options of messages that the plan does not send, made by their layouts.

use super::{Answer, NoAddress};
use crate::codebook::Codebook;
use crate::family::Protocol;
use crate::layout::{SubOption, Value};

/// The octets of a standard option that holds this value, which is of its layout.
pub(super) fn octets(protocol: Protocol, code: u16, value: &Value) -> Vec<u8> {
    let codebook = Codebook::standard();
    let definition = codebook.own(protocol, code);
    let encoded = definition.and_then(|definition| codebook.layout(definition).encode(codebook, value).ok());
    encoded.map(|encoded| encoded.octets).unwrap_or_else(|| unreachable!("{value} is a value of option {code}"))
}

fn sub_option(code: u16, value: Value) -> SubOption {
    SubOption { code, name: None, value }
}

/// That nothing is assigned (RFC 8415, section 21.13).
fn status(status: u64) -> SubOption {
    let message = Value::Text(String::new());
    sub_option(13, Value::record([("status", Value::Number(status)), ("message", message)]))
}

/// `NoAddrsAvail`, `NoPrefixAvail`.
const NO_ADDRESS: u64 = 2;
const NO_PREFIX: u64 = 6;

/// How much an identity association says.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(super) enum Filled {
    /// Nothing: what a client sends first.
    Empty,
    /// What the client would like, with times of zero, as a server ignores its times (RFC 8415, sections 21.4 and 21.6).
    Wish,
    /// What is assigned.
    Assigned,
}

/// The identity associations for an address and for a prefix, empty as a client sends them first, or with what is assigned
/// (RFC 8415, sections 21.4, 21.6, 21.21 and 21.22).
pub(super) fn associations(answer: &Answer<'_>, iaid: u32, delegation: bool, filled: Filled) -> Vec<(u16, Vec<u8>)> {
    let times = &answer.timers;
    let seconds = |seconds: u32| Value::Seconds(if filled == Filled::Assigned { seconds } else { 0 });
    let association = |code: u16, inside: Vec<SubOption>| {
        let value = Value::record([
            ("iaid", Value::Number(iaid.into())),
            ("t1", seconds(times.renew.seconds)),
            ("t2", seconds(times.rebind.seconds)),
            ("options", Value::Options(inside)),
        ]);
        (code, octets(Protocol::V6, code, &value))
    };
    let lifetimes = [
        ("preferred-lifetime", seconds(times.preferred.seconds)),
        ("valid-lifetime", seconds(times.lease.seconds)),
        ("options", Value::Options(Vec::new())),
    ];
    let with_lifetimes = |fields: Vec<(&str, Value)>| {
        let all = fields.into_iter().chain(lifetimes.clone());
        Value::Record(all.map(|(name, value)| (name.into(), value)).collect())
    };
    let mut options = Vec::new();
    if !matches!(answer.address, Err(NoAddress::NotRequested)) {
        options.push(association(
            3,
            match &answer.address {
                _ if filled == Filled::Empty => Vec::new(),
                Ok(assigned) => {
                    let address = match assigned.address {
                        std::net::IpAddr::V6(address) => Value::Ipv6(address),
                        std::net::IpAddr::V4(address) => Value::Ipv4(address),
                    };
                    vec![sub_option(5, with_lifetimes(vec![("address", address)]))]
                }
                Err(_) => vec![status(NO_ADDRESS)],
            },
        ));
    }
    if delegation {
        let delegated = answer.host.as_ref().and_then(|host| host.delegated);
        options.push(association(
            25,
            match delegated {
                _ if filled == Filled::Empty => Vec::new(),
                Some(net) => {
                    let length = Value::Number(net.length().into());
                    let fields = vec![("prefix-length", length), ("prefix", Value::Ipv6(net.address()))];
                    vec![sub_option(26, with_lifetimes(fields))]
                }
                None => vec![status(NO_PREFIX)],
            },
        ));
    }
    options
}
