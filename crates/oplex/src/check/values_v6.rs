//! Rules about what one value of DHCPv6 may be: who somebody is, and prefixes.

use std::net::Ipv6Addr;

use super::formats::{field, number};
use super::{Check, Find, v6_plan};
use crate::finding::{Example, Rule, Severity};
use crate::layout::Value;

pub(super) static CHECKS: [&Check; 4] = [&DUID_FORM, &LENT_PREFIX_BITS, &MULTICAST_PREFIXES, &UNICAST_TOLD];

static DUID_FORM: Check = Check {
    rule: Rule {
        name: "duid-form",
        severity: Severity::Warning,
        rfc: "RFC 8415, section 11",
        summary: "a DUID is not of the form that its type has",
        why: "It still tells one machine from another, as long as nobody takes it apart; what looks for a hardware address in \
              it finds none.",
        example: Example::Payload("v6:1", "0003000102005e"),
    },
    find: Find::Value(|one| {
        let Value::Bytes(octets) = one.value else { return None };
        if *one.definition.layout_text != *"duid" {
            return None;
        }
        let (kind, rest) = (u16::from_be_bytes([*octets.first()?, *octets.get(1)?]), octets.len() - 2);
        let ethernet = octets.get(2..4) == Some(&[0, 1]);
        // A hardware type and a time, an enterprise number, a hardware type; RFC 6355, section 4 for the UUID.
        let (name, wanted, fits) = match kind {
            1 if ethernet => ("by hardware address and time", "12 on Ethernet", rest == 12),
            1 => ("by hardware address and time", "7 or more", rest > 6),
            2 => ("by enterprise number", "5 or more", rest > 4),
            3 if ethernet => ("by hardware address", "8 on Ethernet", rest == 8),
            3 => ("by hardware address", "3 or more", rest > 2),
            4 => ("by UUID", "16", rest == 16),
            _ => return None,
        };
        (!fits).then(|| {
            DUID_FORM.rule.finding(format!("a DUID {name} has {wanted} octets after its type, and this has {rest}"))
        })
    }),
};

static LENT_PREFIX_BITS: Check = Check {
    rule: Rule {
        name: "lent-prefix-bits",
        severity: Severity::Warning,
        rfc: "RFC 8415, section 21.22",
        summary: "a prefix that is handed on has bits below its length",
        why: "They should be zero. Usually an address was written, or a length that is too short.",
        example: Example::Payload("v6:26", "000070800000a8c03820010db8006401000000000000000001"),
    },
    find: Find::Value(|one| {
        let (Value::Ipv6(prefix), length) = (field(one.value, "prefix")?, number(field(one.value, "prefix-length")?)?)
        else {
            return None;
        };
        let kept = u128::MAX.unbounded_shl(128 - length.min(128) as u32);
        let network = Ipv6Addr::from(u128::from(*prefix) & kept);
        (one.is("v6:26") && network != *prefix).then(|| {
            let finding = LENT_PREFIX_BITS.rule.finding(format!("{prefix} has bits set below the length {length}"));
            finding.instead(network.to_string())
        })
    }),
};

static MULTICAST_PREFIXES: Check = Check {
    rule: Rule {
        name: "multicast-prefix-form",
        severity: Severity::Error,
        rfc: "RFC 8115, section 3",
        summary: "a prefix for multicast through IPv6 has a length or a range that none may have",
        why: "Clients drop the option, and groups of IPv4 stay out of reach.",
        example: Example::Payload("v6:113", "40ff0e0db80001000060ff3e00000000000000000000600064ff9b0000000000000000"),
    },
    find: Find::Value(|one| {
        if !one.is("v6:113") {
            return None;
        }
        let prefix = |name: &str| match field(one.value, name) {
            Some(Value::Prefix6 { prefix, length }) => Some((*prefix, *length)),
            _ => None,
        };
        let wrong = |name: &str, (prefix, length): (Ipv6Addr, u8)| {
            let first = prefix.segments()[0];
            // The ranges of RFC 4291, section 2.7 and RFC 4607, section 1.
            let is_ssm = first & 0xfff0 == 0xff30;
            match name {
                _ if length == 0 => None,
                "unicast-prefix" if ![32, 40, 48, 56, 64, 96].contains(&length) => {
                    Some("its length is none of 32, 40, 48, 56, 64 and 96")
                }
                "unicast-prefix" => None,
                _ if length != 96 => Some("its length is not 96"),
                _ if !prefix.is_multicast() => Some("it is not a multicast prefix"),
                "asm-prefix" if is_ssm => Some("it is out of the range for single sources, ff3x::/32"),
                "ssm-prefix" if !is_ssm => Some("it is not out of the range for single sources, ff3x::/32"),
                _ => None,
            }
        };
        ["asm-prefix", "ssm-prefix", "unicast-prefix"].into_iter().find_map(|name| {
            let (prefix, length) = prefix(name)?;
            let why = wrong(name, (prefix, length))?;
            Some(MULTICAST_PREFIXES.rule.finding(format!("{name} is {prefix}/{length}: {why}")))
        })
    }),
};

static UNICAST_TOLD: Check = Check {
    rule: Rule {
        name: "server-unicast-told",
        severity: Severity::Warning,
        rfc: "RFC 8415, section 21.12",
        summary: "clients are told to send to the server by unicast",
        why: "Their messages pass the relays by, which then add nothing to them: no interface, no identifier, and no route for \
              a prefix that is handed on.",
        example: v6_plan!(
            "advertise = { other = true, name-servers = \"2001:db8:64::53\" }\n[network.mast.send.v6]\nunicast = \"2001:db8:64::67\"\n"
        ),
    },
    find: Find::Plan(|plan, findings| {
        for sent in plan.layers().flat_map(|layer| &layer.sends_v6).filter(|sent| sent.definition.has_id("v6:12")) {
            let finding = UNICAST_TOLD.rule.finding("clients send to the server by unicast").at(sent.key.clone());
            findings.push(finding.instead("leave it out; relays and multicast reach the server as well"));
        }
    }),
};
