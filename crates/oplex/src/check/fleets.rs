//! Rules about fleets: their pools, what they are told, and whether they can be told apart.

use super::{Check, Find, otherwise_fine};
use crate::codebook::Carrier;
use crate::finding::{Finding, Rule, Severity};
use crate::plan::{Fleet, FleetOn, Match, Network, Plan, Pool, Sent};

pub(super) static CHECKS: [&Check; 6] = [
    &FLEET_MATCHES_NOTHING,
    &FLEET_SHADOWED,
    &FLEET_POOL_OUTSIDE,
    &FLEET_POOLS_OVERLAP,
    &FLEETS_DISAGREE,
    &TOLD_BUT_NOT_ASKED,
];

static FLEET_MATCHES_NOTHING: Check = Check {
    rule: Rule {
        name: "fleet-matches-nothing",
        severity: Severity::Error,
        rfc: "",
        summary: "a fleet that no client can belong to",
        why: "What it is told reaches nobody, and its devices get what everybody gets.",
        example: otherwise_fine!("", "router = \"10.64.4.1\"\n[fleet.intercoms]\nmatch = { any = [] }\n"),
    },
    find: Find::Plan(|plan, findings| {
        for fleet in plan.fleets.iter().filter(|fleet| is_hopeless(&fleet.recognised)) {
            let message = format!("no client can belong to {}", fleet.name);
            let finding = FLEET_MATCHES_NOTHING.rule.finding(message).at(fleet.spot.clone());
            findings.push(finding.instead("match = { vendor-class = \"Tern *\" }, or another thing its devices send"));
        }
    }),
};

static FLEET_SHADOWED: Check = Check {
    rule: Rule {
        name: "fleet-shadowed",
        severity: Severity::Warning,
        rfc: "",
        summary: "all devices of a fleet belong to another, too, and get everything or their addresses from that",
        why: "Of several fleets the later one's values win, and the earlier one's pool is used. What this one says reaches \
              nobody.",
        example: otherwise_fine!(
            "",
            "router = \"10.64.4.1\"\n[fleet.new]\nmatch = { vendor-class = \"Tern D2\" }\n\
             send.v4 = { log-server = \"10.64.0.70\" }\n[fleet.intercoms]\nmatch = { vendor-class = \"Tern *\" }\n\
             send.v4 = { log-server = \"10.64.0.70\" }\n"
        ),
    },
    find: Find::Plan(|plan, findings| {
        for (at, fleet) in plan.fleets.iter().enumerate() {
            let around = |other: &&Fleet| fleet.recognised.is_within(&other.recognised);
            let (earlier, later) = (&plan.fleets[..at], &plan.fleets[at + 1..]);
            if let Some(other) = later.iter().filter(around).find(|other| says_all_of(other, fleet)) {
                let message = format!("{} tells all devices of {} something else instead", other.name, fleet.name);
                let finding = FLEET_SHADOWED.rule.finding(message).at(fleet.spot.clone());
                let finding = finding.related(other.spot.clone(), "it comes later, so it wins");
                findings.push(finding.instead(format!("[fleet.{}] after [fleet.{}]", fleet.name, other.name)));
            }
            for on in fleet.on.iter().filter(|on| !on.pools.is_empty()) {
                let has_pool = |other: &&Fleet| other.on(on.network).is_some_and(|there| !there.pools.is_empty());
                let Some(other) = earlier.iter().filter(around).find(has_pool) else { continue };
                let message =
                    format!("all devices of {} get their addresses from the pool of {}", fleet.name, other.name);
                let finding = FLEET_SHADOWED.rule.finding(message).at(on.pools[0].spot.clone());
                let finding = finding.related(other.spot.clone(), "it comes first, so its pool is used");
                findings.push(finding.instead(format!("[fleet.{}] before [fleet.{}]", fleet.name, other.name)));
            }
        }
    }),
};

/// Whether a fleet sends or withholds everything that another sends, which has nothing of its own on any network.
fn says_all_of(one: &Fleet, other: &Fleet) -> bool {
    let says = |sent: &Sent| {
        let mut own = one
            .layer
            .sends
            .iter()
            .map(|own| &own.definition)
            .chain(one.layer.withheld.iter().map(|out| &out.definition));
        own.any(|own| std::sync::Arc::ptr_eq(own, &sent.definition))
    };
    let sends = &other.layer.sends;
    other.on.is_empty() && !sends.is_empty() && sends.iter().all(says)
}

fn is_hopeless(wanted: &Match) -> bool {
    match wanted {
        Match::All(all) => all.is_empty() || all.iter().any(is_hopeless),
        Match::Any(any) => any.iter().all(is_hopeless),
        Match::None(_) => false,
        Match::Sends { patterns, .. } => patterns.is_empty(),
    }
}

/// Every fleet with a network on which it has something of its own.
fn places(plan: &Plan) -> impl Iterator<Item = (&Fleet, &FleetOn, &Network)> {
    let on = plan.fleets.iter().flat_map(|fleet| fleet.on.iter().map(move |on| (fleet, on)));
    on.map(|(fleet, on)| (fleet, on, &plan.networks[on.network]))
}

static FLEET_POOL_OUTSIDE: Check = Check {
    rule: Rule {
        name: "fleet-pool-outside",
        severity: Severity::Error,
        rfc: "",
        summary: "a fleet's pool reaches out of the network's subnet, or lies beside the network's pool",
        why: "Devices with an address of another subnet reach nobody. Beside the pool lie addresses that were meant for \
              something else.",
        example: otherwise_fine!(
            "pool = [\"10.64.4.20-10.64.4.200\"]\n",
            "router = \"10.64.4.1\"\n[fleet.intercoms]\nmatch = { vendor-class = \"Tern *\" }\n\
             [fleet.intercoms.on.control-room]\npool = [\"10.64.6.20-10.64.6.30\"]\n"
        ),
    },
    find: Find::Plan(|plan, findings| {
        for (fleet, on, network) in places(plan) {
            for pool in &on.pools {
                findings.extend(outside(fleet, network, pool));
            }
        }
    }),
};

fn outside(fleet: &Fleet, network: &Network, pool: &Pool) -> Option<Finding> {
    let subnet = network.subnet.as_ref()?;
    let finding = |message: String| FLEET_POOL_OUTSIDE.rule.finding(message).at(pool.spot.clone());
    if !subnet.holds(pool.first) || !subnet.holds(pool.last) {
        let message = format!("the pool {pool} of {} is not in {}", fleet.name, subnet.net);
        return Some(finding(message).related(subnet.spot.clone(), "the subnet"));
    }
    let inside = network.pools.iter().any(|known| known.holds(pool.first) && known.holds(pool.last));
    (!inside && !network.pools.is_empty()).then(|| {
        let message = format!("the pool {pool} of {} is not in the pool of {}", fleet.name, network.name);
        finding(message).as_severity(Severity::Warning).related(network.pools[0].spot.clone(), "the network's pool")
    })
}

static FLEET_POOLS_OVERLAP: Check = Check {
    rule: Rule {
        name: "fleet-pools-overlap",
        severity: Severity::Error,
        rfc: "",
        summary: "two fleets have the same addresses for themselves",
        why: "Each is to have them alone; devices of the one take them from the other.",
        example: otherwise_fine!(
            "pool = [\"10.64.4.20-10.64.4.200\"]\n",
            "router = \"10.64.4.1\"\n[fleet.intercoms]\nmatch = { vendor-class = \"Tern *\" }\n\
             on.control-room.pool = [\"10.64.4.30-10.64.4.40\"]\n[fleet.radios]\nmatch = { vendor-class = \"Gannet *\" }\n\
             on.control-room.pool = [\"10.64.4.40-10.64.4.50\"]\n"
        ),
    },
    find: Find::Plan(|plan, findings| {
        let all: Vec<(&Fleet, usize, &Pool)> = places(plan)
            .flat_map(|(fleet, on, _)| on.pools.iter().map(move |pool| (fleet, on.network, pool)))
            .collect();
        for (at, (fleet, network, pool)) in all.iter().enumerate() {
            let meets = |(_, other, known): &&(&Fleet, usize, &Pool)| other == network && pool.meets(known);
            if let Some((other, _, known)) = all[..at].iter().find(meets) {
                let message = format!("{} has addresses in {pool} that {} has, too", fleet.name, other.name);
                let finding = FLEET_POOLS_OVERLAP.rule.finding(message).at(pool.spot.clone());
                findings.push(finding.related(known.spot.clone(), "these"));
            }
        }
    }),
};

static FLEETS_DISAGREE: Check = Check {
    rule: Rule {
        name: "fleets-disagree",
        severity: Severity::Warning,
        rfc: "",
        summary: "two fleets tell the same option differently, and one device could belong to both",
        why: "The later one wins, which depends on the order in the file and is easily changed by accident.",
        example: otherwise_fine!(
            "",
            "router = \"10.64.4.1\"\n[fleet.intercoms]\nmatch = { vendor-class = \"Tern *\" }\n\
             send.v4 = { log-server = \"10.64.0.70\" }\n[fleet.new]\nmatch = { mac = \"02:00:5e:00:53:*\" }\n\
             send.v4 = { log-server = \"10.64.0.71\" }\n"
        ),
    },
    find: Find::Plan(|plan, findings| {
        for (at, later) in plan.fleets.iter().enumerate() {
            for earlier in
                plan.fleets[..at].iter().filter(|known| known.recognised.may_share_clients(&later.recognised))
            {
                findings.extend(disagreements(earlier, later));
            }
        }
    }),
};

fn disagreements(earlier: &Fleet, later: &Fleet) -> Vec<Finding> {
    let octets = |sent: &Sent| sent.payload().map(|payload| payload.octets.clone());
    let mut findings = Vec::new();
    let by_v4 = later.layer.sends.iter().map(|sent| (sent, &earlier.layer.sends));
    let by_v6 = later.layer.sends_v6.iter().map(|sent| (sent, &earlier.layer.sends_v6));
    for (sent, others) in by_v4.chain(by_v6) {
        let same = |known: &&Sent| std::sync::Arc::ptr_eq(&known.definition, &sent.definition);
        let Some(known) = others.iter().find(same).filter(|known| octets(known) != octets(sent)) else {
            continue;
        };
        let message = format!(
            "{} and {} tell {} differently, and a device could be both",
            earlier.name, later.name, sent.definition.name
        );
        let finding = FLEETS_DISAGREE.rule.finding(message).at(sent.key.clone());
        findings.push(finding.related(known.key.clone(), "told here, and lost for such a device"));
    }
    findings
}

static TOLD_BUT_NOT_ASKED: Check = Check {
    rule: Rule {
        name: "told-but-not-asked",
        severity: Severity::Warning,
        rfc: "RFC 2131, section 4.3.1",
        summary: "a fleet is told an option that its devices do not ask for",
        why: "Servers send what clients ask for. The value stands in the plan, and no device ever sees it.",
        example: otherwise_fine!(
            "",
            "router = \"10.64.4.1\"\n[fleet.intercoms]\nmatch = { vendor-class = \"Tern *\" }\nasks = [1, 3, 6, 15]\n\
             send.v4 = { log-server = \"10.64.0.70\" }\n"
        ),
    },
    find: Find::Plan(|plan, findings| {
        for fleet in &plan.fleets {
            let Some(asks) = &fleet.asks else { continue };
            let layers = std::iter::once(&fleet.layer).chain(fleet.on.iter().map(|on| &on.layer));
            for sent in layers.flat_map(|layer| &layer.sends) {
                let codes = codes(sent);
                if !codes.iter().any(|code| asks.iter().any(|asked| u16::from(*asked) == *code)) {
                    let code = codes.first().copied().unwrap_or_default();
                    let message = format!("{} is told {}, and asks for no {code}", fleet.name, sent.definition.name);
                    let finding = TOLD_BUT_NOT_ASKED.rule.finding(message).at(sent.key.clone());
                    findings.push(finding.instead(format!("{code} among what it asks for, if its devices do")));
                }
            }
        }
    }),
};

/// The codes by which a client asks for an option: its own, or that of what carries it.
fn codes(sent: &Sent) -> Vec<u16> {
    let definition = &sent.definition;
    let carried = definition.carriers.iter().filter_map(|carrier| match carrier {
        Carrier::Vendor { code, .. } => Some(*code),
        _ => None,
    });
    definition.is_top_level().then_some(definition.code).into_iter().chain(carried).collect()
}
