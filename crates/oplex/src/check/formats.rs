//! Rules about options with fields of their own, whose parts must go together.

use std::net::Ipv6Addr;

use super::{Check, Find};
use crate::finding::{Example, Rule, Severity};
use crate::layout::Value;

pub(super) static CHECKS: [&Check; 11] = [
    &FQDN_FLAGS_CONTRADICT,
    &PLATEAU_NOT_ASCENDING,
    &COUNTRY_NOT_TWO_CAPITALS,
    &ENTERPRISE_TWICE,
    &SIXRD_DOES_NOT_FIT,
    &ISNS_FLAGS_CONTRADICT,
    &NWIP_FIRST_SUB_OPTION,
    &REQUEST_LIST_ODD,
    &DNR_PARAMETERS,
    &PSID_TOO_WIDE,
    &CIVIC_OUT_OF_ORDER,
];

/// The value of a field of a record.
pub(super) fn field<'v>(value: &'v Value, name: &str) -> Option<&'v Value> {
    let Value::Record(fields) = value else { return None };
    fields.iter().find(|(at, _)| **at == *name).map(|(_, value)| value)
}

pub(super) fn number(value: &Value) -> Option<u64> {
    match value {
        Value::Number(number) | Value::Member(number, _) | Value::Flags(number, _) => Some(*number),
        _ => None,
    }
}

fn numbers(value: &Value) -> Vec<u64> {
    if let Value::List(items) = value { items.iter().filter_map(number).collect() } else { Vec::new() }
}

/// Whether the field is a set of flags in which this one is set.
fn has_flag(value: &Value, name: &str, flag: &str) -> bool {
    matches!(field(value, name), Some(Value::Flags(_, names)) if names.iter().any(|at| **at == *flag))
}

static FQDN_FLAGS_CONTRADICT: Check = Check {
    rule: Rule {
        name: "fqdn-flags-contradict",
        severity: Severity::Error,
        rfc: "RFC 4702, section 2.1",
        summary: "the flags of a client's full name contradict each other",
        why: "N says that the server shall not update DNS, S that it shall. Each server takes one of them for the truth.",
        example: Example::Payload("v4:81", "0d000004646f6d6500"),
    },
    find: Find::Value(|one| {
        let is_v6 = one.is("v6:39");
        if !one.is("v4:81") && !is_v6 {
            return None;
        }
        if has_flag(one.value, "flags", "n") && has_flag(one.value, "flags", "s") {
            let finding = FQDN_FLAGS_CONTRADICT.rule.finding("the flags n and s exclude each other");
            return Some(if is_v6 { finding.by("RFC 4704, section 4.1") } else { finding });
        }
        if is_v6 {
            return None;
        }
        (!has_flag(one.value, "flags", "e")).then(|| {
            let finding = FQDN_FLAGS_CONTRADICT.rule.finding("the name is written as ASCII text, which is deprecated");
            finding.as_severity(Severity::Warning).instead("the flag e, and the name in wire form")
        })
    }),
};

static PLATEAU_NOT_ASCENDING: Check = Check {
    rule: Rule {
        name: "plateau-not-ascending",
        severity: Severity::Error,
        rfc: "RFC 2132, section 4.7",
        summary: "the sizes for path MTU discovery are not in ascending order",
        why: "Clients walk through them in order; out of order, they stop at a size that is too small.",
        example: Example::Payload("v4:25", "05dc0128"),
    },
    find: Find::Value(|one| {
        (one.is("v4:25") && !numbers(one.value).is_sorted())
            .then(|| PLATEAU_NOT_ASCENDING.rule.finding("these sizes do not ascend").instead("the smallest first"))
    }),
};

static COUNTRY_NOT_TWO_CAPITALS: Check = Check {
    rule: Rule {
        name: "country-not-two-capitals",
        severity: Severity::Error,
        rfc: "RFC 4776, section 3.1",
        summary: "a country that is not two capital letters",
        why: "It is the ISO 3166 code in capitals; emergency services look the rest of the address up by it.",
        example: Example::Payload("v4:99", "026e6f"),
    },
    find: Find::Value(|one| {
        let Some(Value::Text(country)) = field(one.value, "country").filter(|_| one.is("v4:99")) else { return None };
        (!country.chars().all(|c| c.is_ascii_uppercase())).then(|| {
            let finding = COUNTRY_NOT_TWO_CAPITALS.rule.finding(format!("`{country}` is not a country's code"));
            finding.instead(country.to_uppercase())
        })
    }),
};

static ENTERPRISE_TWICE: Check = Check {
    rule: Rule {
        name: "enterprise-twice",
        severity: Severity::Warning,
        rfc: "RFC 3925, section 3",
        summary: "the same enterprise number stands twice in one option",
        why: "What readers do then is not defined: some take the first block, some the last, some both.",
        example: Example::Payload("v4:125", "00007ed9030101050000 7ed903020106"),
    },
    find: Find::Value(|one| {
        let Value::List(blocks) = one.value else { return None };
        let enterprises: Vec<u64> = blocks.iter().filter_map(|block| number(field(block, "enterprise")?)).collect();
        let twice = enterprises.iter().enumerate().find(|(at, enterprise)| enterprises[..*at].contains(enterprise));
        twice.map(|(_, enterprise)| {
            let finding = ENTERPRISE_TWICE.rule.finding(format!("the enterprise {enterprise} stands here twice"));
            finding.instead("all of it in one block")
        })
    }),
};

static SIXRD_DOES_NOT_FIT: Check = Check {
    rule: Rule {
        name: "sixrd-does-not-fit",
        severity: Severity::Error,
        rfc: "RFC 5969, section 7.1.1",
        summary: "a 6rd prefix that leaves no room for the IPv4 address, or has bits below its length",
        why: "The bits of the IPv4 address follow the prefix; together they must fit in an IPv6 address.",
        example: Example::Payload("v4:212", "007020010db80000000000000000000000000a400057"),
    },
    find: Find::Value(|one| {
        if !one.is("v4:212") {
            return None;
        }
        let ipv4 = number(field(one.value, "ipv4-mask-len")?)?;
        let length = number(field(one.value, "prefix-len")?)?;
        let Value::Ipv6(prefix) = field(one.value, "prefix")? else { return None };
        let left_over = u128::from(*prefix).unbounded_shl(length as u32) != 0;
        let message = match (32 - ipv4) + length > 128 {
            true => format!("{length} bits of prefix and {} of address are more than 128", 32 - ipv4),
            false if left_over => format!("{prefix} has bits below its length {length}"),
            false => return None,
        };
        let kept = u128::from(*prefix) & u128::MAX.unbounded_shl(128 - length as u32);
        let finding = SIXRD_DOES_NOT_FIT.rule.finding(message);
        Some(if left_over { finding.instead(Ipv6Addr::from(kept).to_string()) } else { finding })
    }),
};

static ISNS_FLAGS_CONTRADICT: Check = Check {
    rule: Rule {
        name: "isns-flags-contradict",
        severity: Severity::Error,
        rfc: "RFC 4174, section 2",
        summary: "the security flags or the addresses of an iSNS option do not go together",
        why: "With IPsec exactly one mode of each pair must be chosen, and a heartbeat takes the first address for itself.",
        example: Example::Payload("v4:83", "000100010001000000030a40004a"),
    },
    find: Find::Value(|one| {
        if !one.is("v4:83") {
            return None;
        }
        let flag = |name| has_flag(one.value, "security", name);
        let addresses = if let Some(Value::List(items)) = field(one.value, "addresses") { items.len() } else { 0 };
        let message = match () {
            () if flag("ike-ipsec") && flag("main-mode") == flag("aggressive-mode") => {
                "with ike-ipsec, one of main-mode and aggressive-mode must be set"
            }
            () if flag("ike-ipsec") && flag("transport-mode") == flag("tunnel-mode") => {
                "with ike-ipsec, one of transport-mode and tunnel-mode must be set"
            }
            () if has_flag(one.value, "admin-flags", "heartbeat") && addresses < 2 => {
                "with heartbeat, the first address is the heartbeat's and a server must follow"
            }
            () => return None,
        };
        Some(ISNS_FLAGS_CONTRADICT.rule.finding(message))
    }),
};

static NWIP_FIRST_SUB_OPTION: Check = Check {
    rule: Rule {
        name: "nwip-first-sub-option",
        severity: Severity::Error,
        rfc: "RFC 2242, section 3",
        summary: "option 63 does not begin with the sub-option that says where its settings are",
        why: "Exactly one of the sub-options 1 to 4 must stand first, and 5 to 11 only follow 2 or 3.",
        example: Example::Payload("v4:63", "080103"),
    },
    find: Find::Value(|one| {
        let Value::Options(options) = one.value else { return None };
        let codes: Vec<u16> = options.iter().map(|option| option.code).collect();
        let (first, rest) = codes.split_first()?;
        let wrong = !(1..=4).contains(first)
            || rest.iter().any(|code| (1..=4).contains(code))
            || (!rest.is_empty() && !matches!(first, 2 | 3));
        (one.is("v4:63") && wrong).then(|| {
            let finding = NWIP_FIRST_SUB_OPTION.rule.finding("the first sub-option does not say where the others are");
            finding.instead("{ nwip-exist-in-options-area = true, … }")
        })
    }),
};

static REQUEST_LIST_ODD: Check = Check {
    rule: Rule {
        name: "request-list-odd",
        severity: Severity::Warning,
        rfc: "RFC 2132, section 9.8",
        summary: "a client asks for what nobody can send, for half of a pair, or for routes after the router",
        why: "Pad, end and rapid commit cannot be asked for; and classless routes asked for after the router may not \
              fit into the answer.",
        example: Example::Payload("v4:55", "010306 50"),
    },
    find: Find::Value(|one| {
        if !one.is("v4:55") {
            return None;
        }
        let asked = numbers(one.value);
        let place = |code| asked.iter().position(|at| *at == code);
        if let Some(code) = asked.iter().find(|code| matches!(code, 0 | 80 | 255)) {
            let (severity, rfc) =
                if *code == 80 { (Severity::Error, "RFC 4039, section 3") } else { (Severity::Warning, "") };
            let finding = REQUEST_LIST_ODD.rule.finding(format!("{code} is nothing that can be asked for"));
            return Some(if rfc.is_empty() { finding } else { finding.by(rfc).as_severity(severity) });
        }
        if let [Some(_), None] | [None, Some(_)] = [place(147), place(148)] {
            let finding = REQUEST_LIST_ODD.rule.finding("one of 147 and 148 is asked for without the other");
            return Some(
                finding.as_severity(Severity::Error).by("RFC 8973, section 5.2.3").instead("both, or neither"),
            );
        }
        let routes = place(121)?;
        let late = [3, 33].into_iter().filter_map(place).any(|other| other < routes);
        late.then(|| {
            let finding = REQUEST_LIST_ODD.rule.finding("121 is asked for after 3 or 33");
            finding.as_severity(Severity::Error).by("RFC 3442, \"DHCP Client Behavior\"").instead("121 before both")
        })
    }),
};

static DNR_PARAMETERS: Check = Check {
    rule: Rule {
        name: "dnr-parameters",
        severity: Severity::Error,
        rfc: "RFC 9463, section 3.1.8",
        summary: "the service parameters of an encrypted DNS server are out of order, doubled, or address hints",
        why: "Clients must throw the whole option away then, and fall back to DNS that anybody can read.",
        example: Example::Payload("v4:162", "001500010503646e7300040a400035000400040a400035"),
    },
    find: Find::Value(|one| {
        let Value::List(servers) = one.value else { return None };
        if !one.is("v4:162") {
            return None;
        }
        servers.iter().find_map(|server| {
            let Some(Value::Options(parameters)) = field(server, "parameters") else { return None };
            let codes: Vec<u16> = parameters.iter().map(|parameter| parameter.code).collect();
            let message = match codes.iter().find(|code| matches!(code, 4 | 6)) {
                Some(4) => "ipv4hint must not stand here; the addresses are in front",
                Some(_) => "ipv6hint must not stand here; the addresses are in front",
                None if !codes.is_sorted_by(|a, b| a < b) => "the parameters must stand in ascending order, each once",
                None => return None,
            };
            Some(DNR_PARAMETERS.rule.finding(message))
        })
    }),
};

static PSID_TOO_WIDE: Check = Check {
    rule: Rule {
        name: "psid-too-wide",
        severity: Severity::Error,
        rfc: "RFC 7618, section 9",
        summary: "a port set identifier has bits below its length",
        why: "It is written from the left, and what follows its length must be zero; readers otherwise take another set \
              of ports than the server meant.",
        example: Example::Payload("v4:159", "06083401"),
    },
    find: Find::Value(|one| {
        let length = number(field(one.value, "psid-len")?)? as u32;
        let psid = number(field(one.value, "psid")?)? as u16;
        (one.is("v4:159") && psid.unbounded_shl(length) != 0).then(|| {
            let kept = psid & u16::MAX.unbounded_shl(16 - length);
            let finding = PSID_TOO_WIDE.rule.finding(format!("{psid:#06x} has bits below its {length}"));
            finding.instead(format!("{kept:#06x}"))
        })
    }),
};

static CIVIC_OUT_OF_ORDER: Check = Check {
    rule: Rule {
        name: "civic-out-of-order",
        severity: Severity::Warning,
        rfc: "RFC 4776, section 3.4",
        summary: "the parts of a postal address are not in ascending order",
        why: "They should ascend within one language, so that readers can tell where another language begins.",
        example: Example::Payload("v4:99", "024e4f1c01370304546172 6e"),
    },
    find: Find::Value(|one| {
        let Some(Value::List(parts)) = field(one.value, "elements").filter(|_| one.is("v4:99")) else { return None };
        let kinds: Vec<u64> = parts.iter().filter_map(|part| number(field(part, "catype")?)).collect();
        // A language (0) or a script (128) begins the parts anew.
        let falls = |pair: &&[u64]| pair[0] > pair[1] && !matches!(pair[1], 0 | 128) && pair[0] != 128;
        let pair = kinds.windows(2).find(falls)?;
        Some(CIVIC_OUT_OF_ORDER.rule.finding(format!("part {} stands after part {}", pair[1], pair[0])))
    }),
};
