//! Rules about which options an advertisement has, and what they say together.

use std::net::Ipv6Addr;

use super::super::formats::{field, number};
use super::super::{Check, Find};
use crate::finding::{Example, Rule, Severity};
use crate::layout::Value;

pub(super) static CHECKS: [&Check; 6] =
    [&OPTION_TWICE, &SAID_TWICE, &ROUTE_TOO_SHORT, &NOT_IN_SOLICITATION, &FLAGS_BOTH_SET, &NO_ADDRESS_FOR_ANYBODY];

static OPTION_TWICE: Check = Check {
    rule: Rule {
        name: "ra-option-twice",
        severity: Severity::Error,
        rfc: "RFC 4861, section 4.2",
        summary: "an option that an advertisement may have once stands in it twice",
        why: "Hosts take one of them, and nobody knows which.",
        example: Example::Advertisement(
            "managed = true\n[[options]]\nmtu = { mtu = 1500 }\n[[options]]\nmtu = { mtu = 1280 }\n",
        ),
    },
    find: Find::Advertisement(|seen, findings| {
        let mut known: Vec<u8> = Vec::new();
        for option in seen.message.options() {
            let Some(definition) = seen.codebook.ra(option.code).filter(|definition| !definition.several) else {
                continue;
            };
            if known.contains(&option.code) {
                let finding = OPTION_TWICE.rule.finding(format!("{} stands here again", definition.label()));
                findings.push(finding.by(definition.reference.clone()).on(seen.whole(&option)));
            }
            known.push(option.code);
        }
    }),
};

static SAID_TWICE: Check = Check {
    rule: Rule {
        name: "ra-prefix-twice",
        severity: Severity::Error,
        rfc: "RFC 4191, section 2.3",
        summary: "an advertisement has two options about one prefix, or two routes to it",
        why: "What the second says about its lifetimes and flags takes the place of the first, or does not.",
        example: Example::Advertisement(
            "managed = true\n[[options]]\nroute-information = { length = 48, preference = \"high\", lifetime = \"30m\", prefix = \"2001:db8:64::\" }\n\
             [[options]]\nroute-information = { length = 48, preference = \"low\", lifetime = \"30m\", prefix = \"2001:db8:64::\" }\n",
        ),
    },
    find: Find::Advertisement(|seen, findings| {
        for (code, what) in [(3, "prefix"), (24, "route")] {
            let mut known: Vec<(u64, Ipv6Addr)> = Vec::new();
            for (option, value) in seen.all(code) {
                let parts = value.as_ref().and_then(|value| Some((field(value, "length")?, field(value, "prefix")?)));
                let Some((length, Value::Ipv6(prefix))) = parts else { continue };
                let this = (number(length).unwrap_or(0), *prefix);
                if known.contains(&this) {
                    let message = format!("a second {what} {prefix}/{}", this.0);
                    let finding = SAID_TWICE.rule.finding(message).on(seen.whole(&option));
                    // RFC 4861 does not forbid it for prefixes, and hosts take the last.
                    findings.push(if code == 3 {
                        finding.as_severity(Severity::Warning).by("RFC 4861, section 6.3.4")
                    } else {
                        finding
                    });
                }
                known.push(this);
            }
        }
    }),
};

static ROUTE_TOO_SHORT: Check = Check {
    rule: Rule {
        name: "route-octets-too-few",
        severity: Severity::Error,
        rfc: "RFC 4191, section 2.3",
        summary: "an advertised route has fewer octets than its prefix length needs",
        why: "A prefix of 1 to 64 bits takes 8 octets or 16, a longer one all 16. Hosts pass over the option.",
        example: Example::Advertisement(
            "managed = true\noptions = { route-information = { hex = \"600000000708fd00006400100000\" } }\n",
        ),
    },
    find: Find::Advertisement(|seen, findings| {
        for (option, value) in seen.all(24) {
            let Some(length) = value.as_ref().and_then(|value| number(field(value, "length")?)) else { continue };
            let (has, needed) = (option.octets.len().saturating_sub(6), 8 * (length as usize).div_ceil(64));
            if has < needed {
                let message = format!("a prefix of {length} bits takes {needed} octets, and {has} stand here");
                findings.push(ROUTE_TOO_SHORT.rule.finding(message).on(seen.whole(&option)));
            }
        }
    }),
};

static NOT_IN_SOLICITATION: Check = Check {
    rule: Rule {
        name: "ra-option-in-solicitation",
        severity: Severity::Error,
        rfc: "RFC 4861, section 4.1",
        summary: "a solicitation has an option other than the sender's hardware address, or has that without an address",
        why: "Routers pass over the option, or drop a solicitation that gives a hardware address for no address at all.",
        example: Example::Advertisement("type = \"solicitation\"\noptions = { mtu = { mtu = 1500 } }\n"),
    },
    find: Find::Advertisement(|seen, findings| {
        if seen.message.advertisement().is_some() {
            return;
        }
        let nameless = seen.message.packet().is_some_and(|packet| packet.ends.source.is_unspecified());
        for option in seen.message.options() {
            let label = seen.codebook.ra(option.code).map(|definition| definition.label());
            let message = match label {
                Some(label) if option.code != 1 => format!("{label} does not belong into a solicitation"),
                Some(label) if nameless => format!("{label}, and the packet comes from no address"),
                _ => continue,
            };
            findings.push(NOT_IN_SOLICITATION.rule.finding(message).on(seen.whole(&option)));
        }
    }),
};

static FLAGS_BOTH_SET: Check = Check {
    rule: Rule {
        name: "ra-addresses-two-ways",
        severity: Severity::Note,
        rfc: "RFC 4861, section 4.2",
        summary: "hosts get addresses by DHCPv6, and make others of a prefix by themselves",
        why: "Each then has several. That is often wanted; where only the lent ones should be used, the prefix should not be \
              autonomous.",
        example: Example::Advertisement(
            "managed = true\n[options]\nprefix-information = { length = 64, flags = \"on-link+autonomous\", valid = \"30d\", preferred = \"7d\", prefix = \"2001:db8:64:10::\" }\n",
        ),
    },
    find: Find::Advertisement(|seen, findings| {
        let managed = seen.message.advertisement().is_some_and(|said| said.managed);
        if let Some((option, _)) = seen.all(3).find(|(_, value)| managed && is_autonomous(value.as_ref())) {
            let message = "M is set, and the prefix is autonomous";
            findings.push(FLAGS_BOTH_SET.rule.finding(message).on(seen.whole(&option)));
        }
    }),
};

static NO_ADDRESS_FOR_ANYBODY: Check = Check {
    rule: Rule {
        name: "ra-addresses-no-way",
        severity: Severity::Warning,
        rfc: "RFC 4861, section 4.2",
        summary: "no flag sends hosts to DHCPv6 for addresses, and no prefix is autonomous",
        why: "Hosts stay with their link-local addresses, and reach nothing beyond the link.",
        example: Example::Advertisement("other = true\n"),
    },
    find: Find::Advertisement(|seen, findings| {
        let Some(said) = seen.message.advertisement() else { return };
        let autonomous = seen.all(3).any(|(_, value)| is_autonomous(value.as_ref()));
        // Without a default router it may only add to what another says.
        if !said.managed && !autonomous && said.router_lifetime > 0 {
            let message = "M is not set, and no prefix is autonomous: hosts get no address";
            let finding = NO_ADDRESS_FOR_ANYBODY.rule.finding(message).on(seen.at(5..6));
            findings.push(finding.instead("an autonomous prefix, or M and addresses by DHCPv6"));
        }
    }),
};

fn is_autonomous(value: Option<&Value>) -> bool {
    value.and_then(|value| field(value, "flags")).and_then(number).is_some_and(|flags| flags & 0x40 != 0)
}
