//! Rules about what one option of an advertisement may say.

use std::net::Ipv6Addr;

use super::super::formats::{field, number};
use super::super::{Check, Find};
use crate::finding::{Example, Rule, Severity};
use crate::layout::Value;

pub(super) static CHECKS: [&Check; 5] =
    [&PREFERRED_OVER_VALID, &BITS_BELOW_PREFIX, &PREFIX_LINK_LOCAL, &AUTONOMOUS_NOT_64, &ALREADY_OVER];

fn lifetime(value: &Value, name: &str) -> Option<u32> {
    match field(value, name)? {
        Value::Seconds(seconds) => Some(*seconds),
        _ => None,
    }
}

/// The prefix that the option is about.
fn prefix(value: &Value) -> Option<(Ipv6Addr, u8)> {
    let Value::Ipv6(prefix) = field(value, "prefix")? else { return None };
    Some((*prefix, number(field(value, "length")?)? as u8))
}

fn flags(value: &Value) -> u64 {
    field(value, "flags").and_then(number).unwrap_or(0)
}

static PREFERRED_OVER_VALID: Check = Check {
    rule: Rule {
        name: "prefix-preferred-over-valid",
        severity: Severity::Error,
        rfc: "RFC 4861, section 4.6.2",
        summary: "a prefix is preferred for longer than it is valid",
        why: "Hosts make no address of such a prefix (RFC 4862, section 5.5.3).",
        example: Example::Payload("ra:3", "40c000000e1000001c200000000020010db8006400100000000000000000"),
    },
    find: Find::Value(|one| {
        let (valid, preferred) = (lifetime(one.value, "valid")?, lifetime(one.value, "preferred")?);
        if !one.is("ra:3") || preferred <= valid {
            return None;
        }
        let shown = |seconds| Value::Seconds(seconds).to_string();
        let message = format!("preferred for {}, and valid for {}", shown(preferred), shown(valid));
        Some(PREFERRED_OVER_VALID.rule.finding(message).instead(format!("preferred = {} or less", shown(valid))))
    }),
};

static BITS_BELOW_PREFIX: Check = Check {
    rule: Rule {
        name: "ra-bits-below-prefix",
        severity: Severity::Error,
        rfc: "RFC 4861, section 4.6.2",
        summary: "bits are set below the length of an advertised prefix or route",
        why: "They must be zero. Mostly the router's own address was written where its prefix should be.",
        example: Example::Payload("ra:3", "40c000278d0000093a800000000020010db8006400100000000000000001"),
    },
    find: Find::Value(|one| {
        let (prefix, length) = prefix(one.value).filter(|_| one.definition.is_ra())?;
        // With R set, the router's whole address stands there (RFC 6275, section 7.2).
        let is_address = one.is("ra:3") && flags(one.value) & 0x20 != 0;
        let kept = u128::MAX.unbounded_shl(u32::from(128u8.saturating_sub(length)));
        let network = Ipv6Addr::from(u128::from(prefix) & kept);
        (!is_address && network != prefix).then(|| {
            let finding = BITS_BELOW_PREFIX.rule.finding(format!("{prefix} has bits set below the length {length}"));
            finding.instead(network.to_string())
        })
    }),
};

static PREFIX_LINK_LOCAL: Check = Check {
    rule: Rule {
        name: "prefix-link-local",
        severity: Severity::Warning,
        rfc: "RFC 4861, section 4.6.2",
        summary: "the link-local prefix is advertised",
        why: "Every host has it already, and passes over it.",
        example: Example::Payload("ra:3", "40c000278d0000093a8000000000fe800000000000000000000000000000"),
    },
    find: Find::Value(|one| {
        let (prefix, length) = prefix(one.value).filter(|_| one.is("ra:3"))?;
        let local = prefix.is_unicast_link_local() && length >= 10;
        local.then(|| PREFIX_LINK_LOCAL.rule.finding(format!("{prefix}/{length} is the link-local prefix")))
    }),
};

static AUTONOMOUS_NOT_64: Check = Check {
    rule: Rule {
        name: "autonomous-prefix-not-64",
        severity: Severity::Error,
        rfc: "RFC 4862, section 5.5.3",
        summary: "hosts should make addresses of a prefix that is not 64 bits long",
        why: "On Ethernet and Wi-Fi the other half of an address has 64 bits, so hosts pass over the prefix and get none.",
        example: Example::Payload("ra:3", "38c000278d0000093a800000000020010db8006400000000000000000000"),
    },
    find: Find::Value(|one| {
        let (prefix, length) = prefix(one.value).filter(|_| one.is("ra:3"))?;
        (flags(one.value) & 0x40 != 0 && length != 64).then(|| {
            let finding = AUTONOMOUS_NOT_64.rule.finding(format!("{prefix}/{length} is autonomous"));
            finding.instead("a prefix of 64 bits, or leave `autonomous` away")
        })
    }),
};

static ALREADY_OVER: Check = Check {
    rule: Rule {
        name: "ra-lifetime-zero",
        severity: Severity::Note,
        rfc: "RFC 8106, section 5.1",
        summary: "an advertisement takes something back: its lifetime is 0",
        why: "Hosts forget the servers, domains, route or prefix at once. That is right when they go away, and only then.",
        example: Example::Payload("ra:25", "00000000000020010db8006400000000000000000053"),
    },
    find: Find::Value(|one| {
        let over = ["lifetime", "valid"].into_iter().find(|name| lifetime(one.value, name) == Some(0));
        over.filter(|_| one.definition.is_ra()).map(|name| {
            let rule = ALREADY_OVER.rule.finding(format!("{name} is 0: hosts forget this"));
            if one.is("ra:3") { rule.by("RFC 4861, section 6.3.4") } else { rule }
        })
    }),
};
