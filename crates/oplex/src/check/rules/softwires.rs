//! Rules about the options of IPv4 over IPv6: port sets, mapping rules, translation prefixes.

use std::net::{Ipv4Addr, Ipv6Addr};

use crate::check::declare::{OptionValue, check, checks};
use crate::family::Net;
use crate::finding::{Example, Finding};
use crate::layout::Value;

checks! { PORT_SET_TOO_LARGE, MAPPING_RULE_INVALID, TRANSLATION_PREFIX_INVALID }

fn number(value: &Value, field: &str) -> Option<u64> {
    value.field(field)?.number()
}

check! { Value(port_set_too_large),
    /// the offset and the length of a port set identifier have more than 16 bits together
    ///
    /// A port has 16 bits, so there would be no port in the set.
    static PORT_SET_TOO_LARGE = "port-set-too-large", Error, Options("v4:159"), "RFC 7597, section 5.1";
    Example::Payload("v4:159", "0f024000")
}

fn port_set_too_large(one: &OptionValue<'_>) -> Option<Finding> {
    let (offset, length) = (number(one.value(), "offset")?, number(one.value(), "psid-len")?);
    (offset + length > 16).then(|| {
        PORT_SET_TOO_LARGE.finding(format!("offset {offset} and psid-len {length} exceed the 16 bits of a port"))
    })
}

check! { Value(mapping_rule_invalid),
    /// a mapping rule with bits below a prefix's length, or with more embedded bits than there can be
    ///
    /// Clients compute the wrong IPv4 address or port set, or ignore the rule.
    static MAPPING_RULE_INVALID = "mapping-rule-invalid", Error, Options("v6:89", "v6:98"), "";
    Example::Payload("v6:89", "011018c00002012020010db8")
}

fn mapping_rule_invalid(one: &OptionValue<'_>) -> Option<Finding> {
    let Value::Ipv4(address) = one.value().field("ipv4-prefix")? else { return None };
    let length = number(one.value(), "ipv4-prefix-len").or_else(|| number(one.value(), "prefix4-len"))?;
    let net = Net::<Ipv4Addr>::new(*address, u8::try_from(length).ok()?)?;
    let embedded = number(one.value(), "ea-len")?;
    let rule = &MAPPING_RULE_INVALID;
    // What is left of the IPv4 address, and up to 16 bits of a port set identifier (RFC 7597, section 5.2).
    let most = 32 - length + 16;
    if net.trunc() != net {
        let message = format!("{address} has bits set below its length {length}");
        return Some(rule.finding(message).advice(net.first().to_string()));
    }
    (embedded > most).then(|| {
        rule.finding(format!("ea-len is {embedded}; with an IPv4 prefix of {length} bits it is at most {most}"))
    })
}

check! { Value(translation_prefix_invalid),
    /// a prefix for NAT64 that has bits below its length, or is no unicast prefix
    ///
    /// Hosts make addresses of IPv4 destinations with it that lead nowhere.
    static TRANSLATION_PREFIX_INVALID = "translation-prefix-invalid", Error, Options("ra:38"), "RFC 8781, section 4";
    Example::Payload("ra:38", "070d20010db80001000000000000")
}

fn translation_prefix_invalid(one: &OptionValue<'_>) -> Option<Finding> {
    let Value::Ipv6(address) = one.value().field("prefix")? else { return None };
    let code = number(one.value().field("scale")?, "length")?;
    let length = *[96u8, 64, 56, 48, 40, 32].get(usize::try_from(code).ok()?)?;
    let net = Net::<Ipv6Addr>::new(*address, length)?;
    let finding = |message: String| Some(TRANSLATION_PREFIX_INVALID.finding(message));
    match () {
        () if address.is_multicast() || address.is_loopback() || address.is_unspecified() => {
            finding(format!("{address} is not a unicast prefix"))
        }
        () if net.trunc() != net => {
            let found = finding(format!("{address} has bits set below its length {length}"));
            found.map(|finding| finding.advice(net.first().to_string()))
        }
        // Bits 64 to 71 are for hosts that need them zero (RFC 6052, section 2.2).
        () if length == 96 && address.octets()[8] != 0 => {
            let found = finding(format!("bits 64 to 71 of {net} are not zero"));
            found.map(|finding| finding.by("RFC 6052, section 2.2"))
        }
        () => None,
    }
}
