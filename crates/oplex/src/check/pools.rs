//! Rules about pools, exclusions and the addresses that must stay out of them.

use ipnet::Ipv6Net;

use super::{Check, Find, otherwise_fine};
use crate::finding::{Finding, Rule, Severity};
use crate::plan::{Network, Plan, Pool, Ranges, Reservation};

pub(super) static CHECKS: [&Check; 7] = [
    &POOL_BACKWARDS,
    &POOL_OUTSIDE_SUBNET,
    &POOL_HOLDS_NETWORK_OR_BROADCAST,
    &POOLS_OVERLAP,
    &EXCLUSION_OUTSIDE_POOL,
    &TOLD_ADDRESS_IS_LEASABLE,
    &POOL_TOO_SMALL,
];

/// Every pool with the network it belongs to.
fn pools(plan: &Plan) -> impl Iterator<Item = (&Network, &Pool)> {
    plan.networks.iter().flat_map(|network| network.pools.iter().map(move |pool| (network, pool)))
}

static POOL_BACKWARDS: Check = Check {
    rule: Rule {
        name: "pool-backwards",
        severity: Severity::Error,
        rfc: "",
        summary: "a pool or exclusion whose last address comes before its first",
        why: "It holds no address at all, so nothing is lent or excluded.",
        example: otherwise_fine!("pool = [\"10.64.5.250-10.64.4.20\"]\n"),
    },
    find: Find::Plan(|plan, findings| {
        let all = plan.networks.iter().flat_map(|network| network.pools.iter().chain(&network.excluded));
        for pool in all.filter(|pool| pool.first > pool.last) {
            let message = format!("{} comes after {}, so no address lies between them", pool.first, pool.last);
            let finding = POOL_BACKWARDS.rule.finding(message).at(pool.spot.clone());
            findings.push(finding.instead(format!("\"{}-{}\"", pool.last, pool.first)));
        }
    }),
};

static POOL_OUTSIDE_SUBNET: Check = Check {
    rule: Rule {
        name: "pool-outside-subnet",
        severity: Severity::Error,
        rfc: "",
        summary: "a pool reaches out of its network's subnet",
        why: "A device with such an address cannot speak to its own router: no answer ever comes back to it.",
        example: otherwise_fine!("pool = [\"10.64.6.20-10.64.6.60\"]\n"),
    },
    find: Find::Plan(|plan, findings| {
        for (network, pool) in pools(plan).filter(|(_, pool)| pool.first <= pool.last) {
            let Some(subnet) = &network.subnet else { continue };
            let (inside, whole) = ((subnet.holds(pool.first), subnet.holds(pool.last)), subnet.net.trunc());
            let (message, spot) = match inside {
                (true, true) => continue,
                (true, false) => (format!("{} is not in {whole}", pool.last), &pool.last_spot),
                (false, true) => (format!("{} is not in {whole}", pool.first), &pool.first_spot),
                (false, false) => (format!("{pool} is not in {whole}"), &pool.spot),
            };
            let message = format!("{message}, the subnet of {}", network.name);
            let finding = POOL_OUTSIDE_SUBNET.rule.finding(message).at(spot.clone());
            let finding = finding.related(subnet.spot.clone(), "the subnet");
            findings.push(finding.instead(format!("addresses from {} to {}", whole.network(), whole.broadcast())));
        }
    }),
};

static POOL_HOLDS_NETWORK_OR_BROADCAST: Check = Check {
    rule: Rule {
        name: "pool-holds-network-or-broadcast",
        severity: Severity::Error,
        rfc: "RFC 1122, section 3.2.1.3",
        summary: "a pool holds the subnet's own address or its broadcast address",
        why: "Neither can belong to a device; whoever gets one is unreachable and disturbs the others.",
        example: otherwise_fine!("pool = [\"10.64.5.200-10.64.5.255\"]\n"),
    },
    find: Find::Plan(|plan, findings| {
        for (network, pool) in pools(plan) {
            let Some(subnet) = &network.subnet else { continue };
            // A pool that reaches out of the subnet has a greater fault.
            let inside = subnet.holds(pool.first) && subnet.holds(pool.last);
            let Some((first, last)) = subnet.reserved().filter(|_| inside) else { continue };
            for (address, what) in [(first, "the subnet's own address"), (last, "the subnet's broadcast address")] {
                let excluded = network.excluded.iter().any(|out| out.holds(address));
                if !pool.holds(address) || excluded {
                    continue;
                }
                let spot = match address {
                    _ if address == pool.first => &pool.first_spot,
                    _ if address == pool.last => &pool.last_spot,
                    _ => &pool.spot,
                };
                let fixed = Pool {
                    first: if address == pool.first { after(address) } else { pool.first },
                    last: if address == pool.last { before(address) } else { pool.last },
                    ..pool.clone()
                };
                let finding = POOL_HOLDS_NETWORK_OR_BROADCAST.rule.finding(format!("the pool lends {address}, {what}"));
                findings.push(finding.at(spot.clone()).instead(format!("\"{fixed}\"")));
            }
        }
    }),
};

fn after(address: std::net::Ipv4Addr) -> std::net::Ipv4Addr {
    u32::from(address).saturating_add(1).into()
}

fn before(address: std::net::Ipv4Addr) -> std::net::Ipv4Addr {
    u32::from(address).saturating_sub(1).into()
}

static POOLS_OVERLAP: Check = Check {
    rule: Rule {
        name: "pools-overlap",
        severity: Severity::Error,
        rfc: "",
        summary: "two pools share addresses",
        why: "An address in two places is lent from one while the other believes it is free.",
        example: otherwise_fine!("pool = [\"10.64.4.20-10.64.4.99\", \"10.64.4.90-10.64.4.120\"]\n"),
    },
    find: Find::Plan(pools_overlap),
};

fn pools_overlap(plan: &Plan, findings: &mut Vec<Finding>) {
    let mut sorted: Vec<(&Network, &Pool)> = pools(plan).filter(|(_, pool)| pool.first <= pool.last).collect();
    sorted.sort_by_key(|(_, pool)| (pool.first, pool.last));
    let mut furthest: Option<(&Network, &Pool)> = None;
    for (network, pool) in sorted {
        if let Some((other, earlier)) = furthest.filter(|(_, earlier)| earlier.meets(pool)) {
            let (at, first) = if pool.spot.span.start < earlier.spot.span.start {
                ((other, earlier), (network, pool))
            } else {
                ((network, pool), (other, earlier))
            };
            let shared = Pool { first: pool.first, last: pool.last.min(earlier.last), ..pool.clone() };
            let finding = POOLS_OVERLAP.rule.finding(format!("{shared} is in two pools")).at(at.1.spot.clone());
            findings.push(finding.related(first.1.spot.clone(), format!("the other pool, of {}", first.0.name)));
        }
        if furthest.is_none_or(|(_, earlier)| earlier.last < pool.last) {
            furthest = Some((network, pool));
        }
    }
}

static EXCLUSION_OUTSIDE_POOL: Check = Check {
    rule: Rule {
        name: "exclusion-outside-pool",
        severity: Severity::Warning,
        rfc: "",
        summary: "an exclusion that excludes nothing, as it is in no pool of its network",
        why: "Usually the pool was moved and the exclusion forgotten, or one of the two has a typing error.",
        example: otherwise_fine!("pool = [\"10.64.4.20-10.64.4.99\"]\nexclude = [\"10.64.4.140-10.64.4.149\"]\n"),
    },
    find: Find::Plan(|plan, findings| {
        for network in &plan.networks {
            for out in network.excluded.iter().filter(|out| out.first <= out.last) {
                if network.pools.iter().any(|pool| pool.holds(out.first) && pool.holds(out.last)) {
                    continue;
                }
                let partly = network.pools.iter().any(|pool| pool.meets(out));
                let message = if partly {
                    format!("only part of {out} lies in a pool of {}", network.name)
                } else {
                    format!("{out} lies in no pool of {}, so it excludes nothing", network.name)
                };
                let mut finding = EXCLUSION_OUTSIDE_POOL.rule.finding(message).at(out.spot.clone());
                if let Some(pool) = network.pools.first() {
                    finding = finding.related(pool.spot.clone(), "the pool");
                }
                findings.push(finding.instead("addresses of the pool, or leave it out"));
            }
        }
    }),
};

static POOL_TOO_SMALL: Check = Check {
    rule: Rule {
        name: "pool-too-small",
        severity: Severity::Warning,
        rfc: "",
        summary: "exclusions, reservations and fleets leave a pool no address, or fewer than its clients are known to need",
        why: "The last devices that come get no address, and nobody looks for the reason in the plan.",
        example: otherwise_fine!(
            "pool = [\"10.64.4.20-10.64.4.29\"]\nexclude = [\"10.64.4.20-10.64.4.28\"]\n",
            "router = \"10.64.4.1\"\n[fleet.intercoms]\nmatch = { vendor-class = \"Tern *\" }\n\
             on.control-room.pool = [\"10.64.4.29\"]\n"
        ),
    },
    find: Find::Plan(|plan, findings| {
        // A pool that runs backwards has a greater fault.
        let lending = |network: &Network| network.pools.iter().map(Pool::size).min().is_some_and(|least| least > 0);
        for (at, network) in plan.networks.iter().enumerate().filter(|(_, network)| lending(network)) {
            let (all, of_fleets) = plan.lends(at);
            // Whoever has a reservation with an address takes it out of the pool; without one, out of what is left.
            let reserved = plan.reservations.of_network(at);
            if all > reserved.len() as u64 {
                continue;
            }
            let inside = |row: &Reservation| row.address().is_some_and(|(address, _)| network.lends(address));
            let taken = reserved.clone().filter(|row| inside(row)).count() as u64;
            let needed = reserved.filter(|row| row.address().is_none()).count() as u64;
            let left = all.saturating_sub(taken);
            if left > needed || (left > 0 && needed == left) {
                continue;
            }
            let message = match (left, needed) {
                (0, _) => format!("the pool of {} has no address left for anybody else", network.name),
                _ => format!("the pool of {} has {left} addresses for {needed} reservations without one", network.name),
            };
            let mut finding = POOL_TOO_SMALL.rule.finding(message).at(network.pools[0].spot.clone());
            for (fleet, own) in of_fleets {
                finding = finding.related(fleet.spot.clone(), format!("{own} addresses are for {} alone", fleet.name));
            }
            findings.push(finding.instead("a larger pool, or none where only known devices are to get addresses"));
        }
    }),
};

static TOLD_ADDRESS_IS_LEASABLE: Check = Check {
    rule: Rule {
        name: "told-address-is-leasable",
        severity: Severity::Error,
        rfc: "",
        summary: "an address that devices are told as a router or server may be lent to a device",
        why: "One day a laptop gets the address of the router or of the name server, and everyone else loses both.",
        example: otherwise_fine!("pool = [\"10.64.4.1-10.64.5.250\"]\n"),
    },
    find: Find::Plan(|plan, findings| {
        let lenders = plan
            .networks
            .iter()
            .enumerate()
            .flat_map(|(at, network)| network.pools.iter().map(move |pool| (pool.first, pool.last, at)));
        let lenders = Ranges::new(lenders);
        for sent in plan.layers().flat_map(|layer| &layer.sends) {
            for (address, field, spot) in sent.addresses() {
                let a_place = matches!(field, Some("destination" | "mask" | "network" | "prefix"));
                let lender = lenders.holding(address).map(|at| &plan.networks[at]).find(|at| at.lends(address));
                let Some(network) = lender.filter(|_| !a_place && !sent.definition.any_address) else { continue };
                let message = format!(
                    "{} is told as {}, and {} may lend it to a device",
                    address, sent.definition.name, network.name
                );
                let finding = TOLD_ADDRESS_IS_LEASABLE.rule.finding(message).at(spot);
                let finding = match network.pools.iter().find(|pool| pool.holds(address)) {
                    Some(pool) => finding.related(pool.spot.clone(), format!("the pool that holds {address}")),
                    None => finding,
                };
                findings.push(
                    finding
                        .instead(format!("exclude = [\"{address}\"] in [network.{}], or a smaller pool", network.name)),
                );
            }
        }
        leasable_v6(plan, findings);
    }),
};

/// The same for IPv6, and for what routers announce.
fn leasable_v6(plan: &Plan, findings: &mut Vec<Finding>) {
    let lending = plan.networks.iter().filter(|network| !network.v6.pools.is_empty());
    let mut lending: Vec<(Ipv6Net, &Network)> =
        lending.filter_map(|network| Some((network.v6.prefix.as_ref()?.net.trunc(), network))).collect();
    // Prefixes do not overlap, or that is an error already: an address lies in the last one that begins before it.
    lending.sort_by_key(|(net, _)| (net.network(), net.prefix_len()));
    let announced = plan.networks.iter().filter_map(|network| network.v6.advertise.as_deref());
    let announced = announced.flat_map(|said| &said.sends).filter(|sent| sent.definition.code == 25);
    for sent in plan.layers().flat_map(|layer| &layer.sends_v6).chain(announced) {
        for (address, field, spot) in sent.addresses_v6() {
            let place = field.is_some_and(|field| field.ends_with("prefix"));
            let at = lending.partition_point(|(net, _)| net.network() <= address);
            let near = at.checked_sub(1).map(|at| lending[at].1).filter(|_| !place && !sent.definition.any_address);
            let Some(network) = near.filter(|near| near.v6.lends(address)) else { continue };
            let name = &sent.definition.name;
            let message = format!("{address} is told as {name}, and {} may lend it to a device", network.name);
            let finding = TOLD_ADDRESS_IS_LEASABLE.rule.finding(message).at(spot);
            let finding = match network.v6.pools.iter().find(|pool| pool.holds(address)) {
                Some(pool) => finding.related(pool.spot.clone(), format!("the pool that holds {address}")),
                None => finding,
            };
            let instead = format!("exclude = [\"{address}\"] in [network.{}], or a smaller pool", network.name);
            findings.push(finding.instead(instead));
        }
    }
}
