//! Rules about the IPv6 addresses of a plan: prefixes, pools, reservations, what is handed on.

use std::collections::HashMap;
use std::net::Ipv6Addr;

use ipnet::Ipv6Net;

use super::{Check, Find, v6_plan};
use crate::answer::timers_v6;
use crate::finding::{Example, Finding, Rule, Severity, Spot};
use crate::layout::duration_text;
use crate::plan::{Network, Plan, PoolV6, Reservation};

pub(super) static CHECKS: [&Check; 9] = [
    &FAMILY_WITHOUT_NETWORK,
    &PREFIX_BITS_SET,
    &PREFIXES_OVERLAP,
    &V6_OUTSIDE_PREFIX,
    &V6_RANGE_BACKWARDS,
    &V6_RANGES_MEET,
    &V6_RESERVED_TWICE,
    &DELEGATES_A_LINK,
    &V6_TIMES_OUT_OF_ORDER,
];

/// Networks with a prefix.
fn prefixed(plan: &Plan) -> impl Iterator<Item = (usize, &Network, Ipv6Net)> {
    let networks = plan.networks.iter().enumerate();
    networks.filter_map(|(at, network)| Some((at, network, network.v6.prefix.as_ref()?.net.trunc())))
}

static FAMILY_WITHOUT_NETWORK: Check = Check {
    rule: Rule {
        name: "family-without-network",
        severity: Severity::Error,
        rfc: "",
        summary: "a network sends, lends or announces something of one family, and has no subnet or prefix of it",
        why: "Nobody there speaks that family, so nothing of it is ever sent. Usually the line belongs to another network, or \
              the subnet or prefix was forgotten.",
        example: Example::Plan(
            "[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n[network.control-room]\nsubnet = \"10.64.4.0/23\"\n\
             send.v4 = { router = \"10.64.4.1\" }\nsend.v6 = { dns-servers = \"2001:db8:64::53\" }\n",
        ),
    },
    find: Find::Plan(|plan, findings| {
        for network in &plan.networks {
            let v6 = &network.v6;
            // A network with neither lacks a key, and is spoken of there.
            let lacking = match (&network.subnet, &v6.prefix) {
                (Some(_), None) => {
                    let said = v6.advertise.as_deref().map(|said| &said.spot);
                    let sent = network.layer.sends_v6.first().map(|sent| &sent.key);
                    said.or(v6.delegates.first().map(|handed| &handed.spot)).or(sent).map(|at| (at, "prefix"))
                }
                (None, Some(_)) => {
                    let lent = network.pools.first().or(network.excluded.first()).map(|pool| &pool.spot);
                    lent.or(network.layer.sends.first().map(|sent| &sent.key)).map(|at| (at, "subnet"))
                }
                _ => None,
            };
            if let Some((at, what)) = lacking {
                let message = format!("{} has no {what}, so this reaches nobody", network.name);
                let finding = FAMILY_WITHOUT_NETWORK.rule.finding(message).at(at.clone());
                findings
                    .push(finding.instead(format!("{what} = \"…\" in [network.{}], or leave this out", network.name)));
            }
        }
    }),
};

static PREFIX_BITS_SET: Check = Check {
    rule: Rule {
        name: "prefix-bits-set",
        severity: Severity::Error,
        rfc: "RFC 4291, section 2.3",
        summary: "a prefix is written with an address inside it",
        why: "It is a router's address, or one with a digit too many; the prefix that was meant may be another.",
        example: Example::Plan(
            "[network.mast]\nprefix = \"2001:db8:64:40::1/64\"\nadvertise = { name-servers = \"2001:db8:64::53\" }\n",
        ),
    },
    find: Find::Plan(|plan, findings| {
        for prefix in plan.networks.iter().filter_map(|network| network.v6.prefix.as_ref()) {
            let (written, whole) = (prefix.net, prefix.net.trunc());
            if written != whole {
                let message = format!("{written} is not a prefix: {} is an address inside {whole}", written.addr());
                let finding = PREFIX_BITS_SET.rule.finding(message).at(prefix.spot.clone());
                findings.push(finding.instead(format!("\"{whole}\"")));
            }
        }
    }),
};

static PREFIXES_OVERLAP: Check = Check {
    rule: Rule {
        name: "prefixes-overlap",
        severity: Severity::Error,
        rfc: "RFC 4291, section 2.1",
        summary: "two networks have prefixes that share addresses",
        why: "A prefix belongs to one link. Routers send packets for half of the machines to the wrong one.",
        example: Example::Plan(
            "[network.mast]\nprefix = \"2001:db8:64:40::/64\"\nadvertise = { name-servers = \"2001:db8:64::53\" }\n\
             [network.yard]\nprefix = \"2001:db8:64:40::/64\"\nadvertise = { name-servers = \"2001:db8:64::53\" }\n",
        ),
    },
    find: Find::Plan(|plan, findings| {
        let mut sorted: Vec<(usize, &Network, Ipv6Net)> = prefixed(plan).collect();
        sorted.sort_by_key(|(at, _, net)| (net.network(), net.prefix_len(), *at));
        let mut widest: Option<(&Network, Ipv6Net)> = None;
        for (_, network, net) in sorted {
            let Some((other, wider)) = widest.filter(|(_, wider)| wider.contains(&net)) else {
                widest = Some((network, net));
                continue;
            };
            let message = format!("{} and {} share addresses: {net} lies inside {wider}", network.name, other.name);
            let (Some(here), Some(there)) = (&network.v6.prefix, &other.v6.prefix) else { continue };
            let finding = PREFIXES_OVERLAP.rule.finding(message).at(here.spot.clone());
            findings.push(finding.related(there.spot.clone(), format!("the prefix of {}", other.name)));
        }
    }),
};

/// Every range of a network, with what it is.
fn ranges(plan: &Plan, at: usize) -> Vec<(&PoolV6, String)> {
    let network = &plan.networks[at];
    let mut ranges: Vec<(&PoolV6, String)> = Vec::new();
    ranges.extend(network.v6.pools.iter().map(|pool| (pool, "pool".to_owned())));
    ranges.extend(network.v6.excluded.iter().map(|pool| (pool, "exclusion".to_owned())));
    for fleet in &plan.fleets {
        let own = fleet.on(at).into_iter().flat_map(|on| &on.pools_v6);
        ranges.extend(own.map(|pool| (pool, format!("pool of {}", fleet.name))));
    }
    ranges
}

static V6_OUTSIDE_PREFIX: Check = Check {
    rule: Rule {
        name: "v6-outside-prefix",
        severity: Severity::Error,
        rfc: "RFC 8415, section 13.1",
        summary: "a pool, an exclusion or a reserved address lies outside its network's prefix",
        why: "A host with such an address is not on its link: no answer ever finds it.",
        example: v6_plan!(
            "pool = [\"2001:db8:64:4::100-2001:db8:64:4::1ff\"]\nadvertise = { managed = true, name-servers = \"2001:db8:64::53\" }\n"
        ),
    },
    find: Find::Plan(|plan, findings| {
        let outside = |network: &Network, what: &str, spot: Spot| {
            let prefix = network.v6.prefix.as_ref();
            let whole = prefix.map_or_else(|| "no prefix".to_owned(), |prefix| prefix.net.trunc().to_string());
            let message = format!("{what} is outside {}, which has {whole}", network.name);
            let finding = V6_OUTSIDE_PREFIX.rule.finding(message).at(spot);
            match prefix {
                Some(prefix) => finding.related(prefix.spot.clone(), "the prefix"),
                None => finding.instead(format!("prefix = \"2001:db8::/64\" in [network.{}]", network.name)),
            }
        };
        let within = |network: &Network, pool: &PoolV6| {
            let prefix = network.v6.prefix.as_ref();
            prefix.is_some_and(|prefix| prefix.net.contains(&pool.first) && prefix.net.contains(&pool.last))
        };
        for (at, network) in plan.networks.iter().enumerate() {
            for (pool, what) in ranges(plan, at).into_iter().filter(|(pool, _)| !within(network, pool)) {
                findings.push(outside(network, &format!("the {what} {pool}"), pool.spot.clone()));
            }
        }
        for (row, address, spot) in plan.reservations.with_v6() {
            let network = &plan.networks[row.network()];
            if !network.v6.prefix.as_ref().is_some_and(|prefix| prefix.net.contains(&address)) {
                findings.push(outside(network, &format!("{address}, reserved for {},", row.client()), spot));
            }
        }
    }),
};

static V6_RANGE_BACKWARDS: Check = Check {
    rule: Rule {
        name: "v6-range-backwards",
        severity: Severity::Error,
        rfc: "",
        summary: "a range of IPv6 addresses ends before it begins",
        why: "It holds no address. Usually a digit is missing at its end.",
        example: v6_plan!(
            "pool = [\"2001:db8:64:40::1ff-2001:db8:64:40::100\"]\nadvertise = { managed = true, name-servers = \"2001:db8:64::53\" }\n"
        ),
    },
    find: Find::Plan(|plan, findings| {
        for at in 0..plan.networks.len() {
            for (pool, what) in ranges(plan, at).into_iter().filter(|(pool, _)| pool.first > pool.last) {
                let message = format!("this {what} begins at {} and ends at {}", pool.first, pool.last);
                let finding = V6_RANGE_BACKWARDS.rule.finding(message).at(pool.spot.clone());
                findings.push(finding.instead(format!("\"{}-{}\"", pool.last, pool.first)));
            }
        }
    }),
};

static V6_RANGES_MEET: Check = Check {
    rule: Rule {
        name: "v6-ranges-meet",
        severity: Severity::Error,
        rfc: "",
        summary: "two pools share IPv6 addresses, or an exclusion lies in no pool",
        why: "An address of two pools is lent twice; an exclusion apart from its pool excludes nothing.",
        example: v6_plan!(
            "pool = [\"2001:db8:64:40::100-2001:db8:64:40::1ff\", \"2001:db8:64:40::1f0-2001:db8:64:40::2ff\"]\n\
             advertise = { managed = true, name-servers = \"2001:db8:64::53\" }\n"
        ),
    },
    find: Find::Plan(|plan, findings| {
        for (at, network) in plan.networks.iter().enumerate() {
            let own = plan.fleets.iter().filter_map(|fleet| fleet.on(at)).map(|on| &on.pools_v6);
            // The pools of fleets are taken out of the network's; those of two fleets may not meet.
            for pools in [vec![&network.v6.pools], own.collect()] {
                let pools: Vec<&PoolV6> = pools.into_iter().flatten().collect();
                for (index, pool) in pools.iter().enumerate() {
                    if let Some(other) = pools[..index].iter().find(|other| other.meets(pool)) {
                        let finding = V6_RANGES_MEET.rule.finding(format!("{pool} and {other} share addresses"));
                        findings.push(finding.at(pool.spot.clone()).related(other.spot.clone(), "the other pool"));
                    }
                }
            }
            for out in network.v6.excluded.iter().filter(|out| out.first <= out.last) {
                if !ranges(plan, at).iter().any(|(pool, what)| what != "exclusion" && pool.meets(out)) {
                    let finding = V6_RANGES_MEET.rule.finding(format!("{out} lies in no pool of {}", network.name));
                    let finding = finding.as_severity(Severity::Warning).at(out.spot.clone());
                    findings.push(finding.instead("leave it out, or a range inside the pool"));
                }
            }
        }
    }),
};

static V6_RESERVED_TWICE: Check = Check {
    rule: Rule {
        name: "v6-reserved-twice",
        severity: Severity::Error,
        rfc: "",
        summary: "two reservations have one IPv6 address",
        why: "Two machines answer for it, and each finds the other's address taken.",
        example: v6_plan!(
            "advertise = { managed = true, name-servers = \"2001:db8:64::53\" }\n\
             [[reservation]]\nnetwork = \"mast\"\nmac = \"02:00:5e:00:53:41\"\naddress-v6 = \"2001:db8:64:40::41\"\n\
             [[reservation]]\nnetwork = \"mast\"\nmac = \"02:00:5e:00:53:42\"\naddress-v6 = \"2001:db8:64:40::41\"\n"
        ),
    },
    find: Find::Plan(|plan, findings| {
        let mut known: HashMap<Ipv6Addr, (&Reservation, Spot)> = HashMap::new();
        for (row, address, spot) in plan.reservations.with_v6() {
            match known.get(&address) {
                Some((first, at)) => {
                    let message = format!("{address} is reserved for {} already", first.client());
                    findings.push(V6_RESERVED_TWICE.rule.finding(message).at(spot).related(at.clone(), "here"));
                }
                None => _ = known.insert(address, (row, spot)),
            }
        }
    }),
};

static DELEGATES_A_LINK: Check = Check {
    rule: Rule {
        name: "delegates-a-link",
        severity: Severity::Error,
        rfc: "RFC 8415, section 6.3",
        summary: "a prefix that is handed on holds, or lies in, the prefix of a network",
        why: "The router behind it announces addresses that are another link's.",
        example: v6_plan!(
            "delegate = \"2001:db8:64::/48 as /56\"\nadvertise = { name-servers = \"2001:db8:64::53\" }\n"
        ),
    },
    find: Find::Plan(|plan, findings| {
        for network in &plan.networks {
            for handed in &network.v6.delegates {
                let net = handed.within.trunc();
                let meets = prefixed(plan).find(|(_, _, link)| net.contains(link) || link.contains(&net));
                if let Some((_, other, link)) = meets {
                    let message = format!("{handed} and {link}, the prefix of {}, share addresses", other.name);
                    let finding = DELEGATES_A_LINK.rule.finding(message).at(handed.spot.clone());
                    findings.push(finding.instead("a prefix that no link has"));
                }
            }
        }
    }),
};

static V6_TIMES_OUT_OF_ORDER: Check = Check {
    rule: Rule {
        name: "v6-lease-times-out-of-order",
        severity: Severity::Error,
        rfc: "RFC 8415, section 21.4",
        summary: "an IPv6 address is preferred for longer than it is valid, or renewed too late",
        why: "Clients drop an association whose T1 is over its T2, and addresses that are preferred for longer than valid.",
        example: v6_plan!(
            "pool = [\"2001:db8:64:40::100-2001:db8:64:40::1ff\"]\nlease = \"8h\"\npreferred = \"12h\"\n\
             advertise = { managed = true, name-servers = \"2001:db8:64::53\" }\n"
        ),
    },
    find: Find::Plan(|plan, findings| {
        for (_, network, _) in prefixed(plan).filter(|(_, network, _)| !network.v6.pools.is_empty()) {
            out_of_order(plan, network, findings);
        }
    }),
};

fn out_of_order(plan: &Plan, network: &Network, findings: &mut Vec<Finding>) {
    let times = timers_v6(plan, network);
    let steps = [
        ("renew", times.renew, "rebind", times.rebind),
        ("rebind", times.rebind, "preferred", times.preferred.0),
        ("preferred", times.preferred.0, "lease", times.valid.0),
    ];
    let layers = [&network.layer, &plan.everyone];
    let spot = |name: &str| {
        let of = layers.iter().find_map(|layer| match name {
            "renew" => layer.renew.as_ref(),
            "rebind" => layer.rebind.as_ref(),
            "preferred" => layer.preferred.as_ref(),
            _ => layer.lease.as_ref(),
        });
        of.map(|(_, spot)| spot.clone())
    };
    for (first, earlier, then, later) in steps {
        // What follows from other times is in order with them.
        let Some(at) = spot(first).filter(|_| earlier > later) else { continue };
        // DHCPv4 has the same two times, and its own rule for them.
        if (first, then) == ("renew", "rebind") && network.subnet.is_some() && spot(then).is_some() {
            continue;
        }
        let message = format!(
            "on {}, {first} ({}) is over {then} ({}) for what is lent by DHCPv6",
            network.name,
            duration_text(earlier),
            duration_text(later)
        );
        let finding = V6_TIMES_OUT_OF_ORDER.rule.finding(message).at(at);
        findings.push(finding.instead(format!("{first} = \"{}\" or less", duration_text(later))));
    }
}
