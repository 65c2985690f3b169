//! Rules about what one option's value may be, beyond its form: what its RFC says in words.

use std::net::{IpAddr, Ipv4Addr, Ipv6Addr};

use super::formats::field;
use super::{Check, Find};
use crate::finding::{Example, Rule, Severity};
use crate::layout::Value;

pub(super) static CHECKS: [&Check; 10] = [
    &ADDRESS_IS_NO_HOST,
    &LISTED_TWICE,
    &V6_ONLY_WAIT_TOO_SHORT,
    &STATIC_ROUTE_TO_EVERYWHERE,
    &URI_NOT_HTTPS,
    &PORTAL_IS_AN_ADDRESS,
    &TIMEZONE_FORM,
    &BOOT_MAGIC_WRONG,
    &LOGIN_NOT_A_URL,
    &ISCSI_PATH_INCOMPLETE,
];

static ADDRESS_IS_NO_HOST: Check = Check {
    rule: Rule {
        name: "address-is-no-host",
        severity: Severity::Error,
        rfc: "RFC 1122, section 3.2.1.3",
        summary: "an address that no host can have, where a host's is wanted",
        why: "0.0.0.0, 255.255.255.255, loopback and multicast addresses lead to no server or router. It is usually a \
              placeholder that was never filled in.",
        example: Example::Payload("v4:6", "7f000001"),
    },
    find: Find::Value(|one| {
        if one.definition.any_address {
            return None;
        }
        let mut found = None;
        one.value.leaves(&mut |leaf, name| {
            // What is not the address of anybody, but of a place.
            let place = matches!(name, Some("destination" | "mask" | "network" | "link-address"))
                || name.is_some_and(|name| name.ends_with("prefix"));
            let (address, what) = match leaf {
                Value::Ipv4(address) => ((*address).into(), no_host(*address)),
                Value::Ipv6(address) => ((*address).into(), no_host_v6(*address)),
                _ => return,
            };
            if let Some(what) = what.filter(|_| !place && found.is_none()) {
                found = Some((address, what));
            }
        });
        let (address, what): (IpAddr, _) = found?;
        let finding = ADDRESS_IS_NO_HOST.rule.finding(format!("{address} is {what}, not the address of a host"));
        Some(if address.is_ipv6() { finding.by("RFC 4291, section 2") } else { finding })
    }),
};

fn no_host(address: Ipv4Addr) -> Option<&'static str> {
    match address {
        _ if address.is_unspecified() => Some("the unspecified address"),
        _ if address.is_broadcast() => Some("the broadcast address"),
        _ if address.is_loopback() => Some("a loopback address"),
        _ if address.is_multicast() => Some("a multicast address"),
        // A mask is never meant as an address, unless a field calls for one.
        _ if address.octets()[0] >= 240 => Some("out of the reserved range 240.0.0.0/4"),
        _ => None,
    }
}

fn no_host_v6(address: Ipv6Addr) -> Option<&'static str> {
    match address {
        _ if address.is_unspecified() => Some("the unspecified address"),
        _ if address.is_loopback() => Some("the loopback address"),
        _ if address.is_multicast() => Some("a multicast address"),
        _ => None,
    }
}

static LISTED_TWICE: Check = Check {
    rule: Rule {
        name: "listed-twice",
        severity: Severity::Warning,
        rfc: "",
        summary: "a list holds the same thing twice",
        why: "The second costs octets and changes nothing; usually one digit of it was meant to be another.",
        example: Example::Payload("v4:6", "0a4000350a400035"),
    },
    find: Find::Value(|one| {
        let item = match one.value {
            Value::Record(fields) => fields.iter().find_map(|(_, field)| twice(field)),
            value => twice(value),
        };
        item.map(|item| LISTED_TWICE.rule.finding(format!("{item} stands in the list twice")))
    }),
};

/// The first single thing that stands in a list again.
fn twice(value: &Value) -> Option<&Value> {
    let Value::List(items) = value else { return None };
    let again = |(at, item): &(usize, &Value)| item.is_leaf() && items[..*at].contains(item);
    items.iter().enumerate().find(again).map(|(_, item)| item)
}

static V6_ONLY_WAIT_TOO_SHORT: Check = Check {
    rule: Rule {
        name: "v6-only-wait-too-short",
        severity: Severity::Error,
        rfc: "RFC 8925, section 3.4",
        summary: "a client is told to do without IPv4 for less than 300 seconds",
        why: "It would ask again and again all day; clients take 300 instead, whatever is written.",
        example: Example::Payload("v4:108", "0000003c"),
    },
    find: Find::Value(|one| match one.value {
        Value::Number(wait @ 1..300) if one.is("v4:108") => {
            let finding = V6_ONLY_WAIT_TOO_SHORT.rule.finding(format!("{wait} seconds are too few"));
            Some(finding.instead("300 or more; 1800 is usual, and 0 leaves it to the client"))
        }
        _ => None,
    }),
};

static STATIC_ROUTE_TO_EVERYWHERE: Check = Check {
    rule: Rule {
        name: "static-route-to-everywhere",
        severity: Severity::Error,
        rfc: "RFC 2132, section 5.8",
        summary: "a static route whose destination is 0.0.0.0",
        why: "It is not a legal destination here. A default route is the router option's to tell, or a classless route's.",
        example: Example::Payload("v4:33", "000000000a400401"),
    },
    find: Find::Value(|one| {
        let Value::List(routes) = one.value else { return None };
        let everywhere = |route: &Value| field(route, "destination") == Some(&Value::Ipv4(Ipv4Addr::UNSPECIFIED));
        (one.is("v4:33") && routes.iter().any(everywhere)).then(|| {
            let finding = STATIC_ROUTE_TO_EVERYWHERE.rule.finding("0.0.0.0 is not a destination for a static route");
            finding.instead("router, or classless-static-route with 0.0.0.0/0")
        })
    }),
};

static URI_NOT_HTTPS: Check = Check {
    rule: Rule {
        name: "uri-not-https",
        severity: Severity::Error,
        rfc: "",
        summary: "a URI that must be fetched safely does not begin with https",
        why: "Devices trust what they fetch there with their configuration, and refuse any other scheme.",
        example: Example::Payload(
            "v4:143",
            "001168747470733a2f2f622e6578616d706c650010687474703a2f2f622e6578616d706c65",
        ),
    },
    find: Find::Value(|one| {
        let known = [
            ("v4:143", "RFC 8572, section 8.3", Severity::Error),
            ("v4:161", "RFC 8520, section 10", Severity::Error),
            // RFC 8910 leaves the scheme open; the API it leads to does not.
            ("v4:114", "RFC 8908, section 4", Severity::Warning),
        ];
        let (_, rfc, severity) = known.into_iter().find(|(id, ..)| one.is(id))?;
        let mut plain = None;
        one.value.leaves(&mut |leaf, _| {
            if let Value::Text(uri) = leaf
                && !uri.to_ascii_lowercase().starts_with("https:")
                && !uri.starts_with("urn:ietf:params:capport:")
            {
                plain.get_or_insert(uri);
            }
        });
        let finding = URI_NOT_HTTPS.rule.finding(format!("{} does not begin with https", plain?));
        Some(finding.as_severity(severity).by(rfc).instead("https://…"))
    }),
};

static PORTAL_IS_AN_ADDRESS: Check = Check {
    rule: Rule {
        name: "portal-is-an-address",
        severity: Severity::Warning,
        rfc: "RFC 8910, section 2",
        summary: "a captive portal is told by its address, not by its name",
        why: "Its certificate is checked against a name, so devices warn their users or refuse.",
        example: Example::Payload("v4:114", "68747470733a2f2f31302e36342e302e392f617069"),
    },
    find: Find::Value(|one| {
        let Value::Text(uri) = one.value else { return None };
        let host = uri.split("://").nth(1)?.split(['/', '?', '#']).next()?;
        let literal = host.starts_with('[') || host.split(':').next()?.parse::<Ipv4Addr>().is_ok();
        (one.is("v4:114") && literal).then(|| {
            PORTAL_IS_AN_ADDRESS
                .rule
                .finding(format!("{host} is an address"))
                .instead("the portal's name, as in its certificate")
        })
    }),
};

static TIMEZONE_FORM: Check = Check {
    rule: Rule {
        name: "timezone-form",
        severity: Severity::Error,
        rfc: "RFC 4833, section 4",
        summary: "a time zone that is written in the other option's form",
        why: "One option takes a POSIX rule (CET-1CEST,…), the other a name (Europe/Oslo). Clients ignore what they \
              cannot read, and their clocks stay where they were.",
        example: Example::Payload("v4:100", "4575726f70652f4f736c6f"),
    },
    find: Find::Value(|one| {
        let Value::Text(zone) = one.value else { return None };
        let posix = zone.chars().any(|c| c.is_ascii_digit()) && !zone.starts_with(':');
        let message = match one.definition.id().as_str() {
            _ if one.is("v4:100") && !posix => format!("{zone} is not a POSIX time zone"),
            _ if one.is("v4:101") && zone.contains([',', ' ']) => format!("{zone} is not the name of a time zone"),
            _ => return None,
        };
        let finding = TIMEZONE_FORM.rule.finding(message);
        Some(finding.instead("CET-1CEST,M3.5.0,M10.5.0/3 in pcode, Europe/Oslo in tcode"))
    }),
};

static BOOT_MAGIC_WRONG: Check = Check {
    rule: Rule {
        name: "boot-magic-wrong",
        severity: Severity::Error,
        rfc: "RFC 5071, section 3.2",
        summary: "option 208 holds something other than its one value",
        why: "Boot loaders ignore it then, and with it, the older ones, the options 209 to 211.",
        example: Example::Payload("v4:208", "f100747f"),
    },
    find: Find::Value(|one| match one.value {
        Value::Bytes(octets) if one.is("v4:208") && octets[..] != [0xf1, 0, 0x74, 0x7e] => {
            Some(BOOT_MAGIC_WRONG.rule.finding("this is not the magic number").instead("f1:00:74:7e"))
        }
        _ => None,
    }),
};

static LOGIN_NOT_A_URL: Check = Check {
    rule: Rule {
        name: "login-not-a-url",
        severity: Severity::Error,
        rfc: "RFC 2485, \"User Authentication Protocol Option\"",
        summary: "option 98 holds something other than URLs with single spaces between them",
        why: "Devices try the URLs one after the other and give up at the first that is none.",
        example: Example::Payload("v4:98", "6c6f67696e2e6578616d706c65"),
    },
    find: Find::Value(|one| {
        let Value::Text(list) = one.value else { return None };
        let wrong = list
            .split(' ')
            .find(|url| !matches!(url.split_once("://"), Some(("http" | "https", rest)) if !rest.is_empty()))?;
        one.is("v4:98").then(|| LOGIN_NOT_A_URL.rule.finding(format!("`{wrong}` is not a URL")).instead("https://…"))
    }),
};

static ISCSI_PATH_INCOMPLETE: Check = Check {
    rule: Rule {
        name: "iscsi-path-incomplete",
        severity: Severity::Error,
        rfc: "RFC 4173, section 5",
        summary: "a root path that begins with iscsi: lacks some of its six parts",
        why: "The boot loader takes the parts by their place; with one missing it looks for the wrong disk, or for none.",
        example: Example::Payload("v4:17", "69736373693a31302e36342e302e37343a3a3a"),
    },
    find: Find::Value(|one| {
        let Value::Text(path) = one.value else { return None };
        let rest = path.strip_prefix("iscsi:").filter(|_| one.is("v4:17"))?;
        // An address in brackets and the target's name may hold colons of their own.
        let after_server =
            rest.strip_prefix('[').map_or(rest, |rest| rest.split_once(']').map_or("", |(_, rest)| rest));
        let target = after_server.splitn(5, ':').nth(4).unwrap_or_default();
        target.is_empty().then(|| {
            let finding = ISCSI_PATH_INCOMPLETE.rule.finding("the target's name is missing");
            finding.instead("iscsi:SERVER:PROTOCOL:PORT:LUN:TARGET, of which only SERVER and TARGET must be filled in")
        })
    }),
};
