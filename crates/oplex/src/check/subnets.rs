//! Rules about subnets and their routers.

use super::{Check, Find, otherwise_fine};
use crate::answer::told;
use crate::finding::{Example, Finding, Rule, Severity};
use crate::plan::{Network, Plan, Subnet};

pub(super) static CHECKS: [&Check; 4] =
    [&SUBNET_HOST_BITS_SET, &NETWORKS_OVERLAP, &ROUTER_OUTSIDE_SUBNET, &ROUTER_FOR_EVERY_NETWORK];

static SUBNET_HOST_BITS_SET: Check = Check {
    rule: Rule {
        name: "subnet-host-bits-set",
        severity: Severity::Error,
        rfc: "RFC 4632, section 3.1",
        summary: "a subnet whose address has bits below its prefix length",
        why: "It is either the address of a host or has the wrong length; whichever it is, the pool and the mask that \
              follow from it are not the ones that were meant.",
        example: Example::Plan(
            "[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n[network.control-room]\n\
             subnet = \"10.64.5.0/23\"\n[network.control-room.send.v4]\nrouter = \"10.64.4.1\"\n",
        ),
    },
    find: Find::Plan(|plan, findings| {
        for subnet in plan.networks.iter().filter_map(|network| network.subnet.as_ref()) {
            let (written, whole) = (subnet.net, subnet.net.trunc());
            if written != whole {
                let message = format!("{written} is not a subnet: {} is an address inside {whole}", written.addr());
                let finding = SUBNET_HOST_BITS_SET.rule.finding(message).at(subnet.spot.clone());
                findings.push(finding.instead(format!("\"{whole}\"")));
            }
        }
    }),
};

static NETWORKS_OVERLAP: Check = Check {
    rule: Rule {
        name: "networks-overlap",
        severity: Severity::Error,
        rfc: "",
        summary: "two networks of the plan share addresses",
        why: "A device on one of them would be taken for one on the other, and two devices may get one address.",
        example: Example::Plan(
            "[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n\
             [network.control-room]\nsubnet = \"10.64.4.0/23\"\n[network.control-room.send.v4]\nrouter = \"10.64.4.1\"\n\
             [network.visitors]\nsubnet = \"10.64.5.0/24\"\n[network.visitors.send.v4]\nrouter = \"10.64.5.1\"\n",
        ),
    },
    find: Find::Plan(networks_overlap),
};

fn networks_overlap(plan: &Plan, findings: &mut Vec<Finding>) {
    // Sorted by their first address, a subnet can only overlap the ones right after it.
    let subnets = plan.networks.iter().filter_map(|network| Some((network, network.subnet.as_ref()?)));
    let mut sorted: Vec<(&Network, &Subnet)> = subnets.collect();
    sorted.sort_by_key(|(_, subnet)| (subnet.net.network(), subnet.net.prefix_len()));
    let mut widest: Option<(&Network, &Subnet)> = None;
    for (network, subnet) in sorted {
        if let Some((other, wider)) = widest.filter(|(_, wider)| wider.net.broadcast() >= subnet.net.network()) {
            let later_first = subnet.spot.span.start < wider.spot.span.start;
            let (at, first) =
                if later_first { ((other, wider), (network, subnet)) } else { ((network, subnet), (other, wider)) };
            let message =
                format!("{} and {} share addresses: {} lies inside {}", at.0.name, first.0.name, subnet.net, wider.net);
            let finding = NETWORKS_OVERLAP.rule.finding(message).at(at.1.spot.clone());
            findings.push(finding.related(first.1.spot.clone(), format!("the subnet of {}", first.0.name)));
        } else {
            widest = Some((network, subnet));
        }
    }
}

static ROUTER_OUTSIDE_SUBNET: Check = Check {
    rule: Rule {
        name: "router-outside-subnet",
        severity: Severity::Error,
        rfc: "RFC 2132, section 3.5",
        summary: "a network's router is not in its subnet",
        why: "Devices cannot reach a router that is not on their own subnet, so they get no further than the link.",
        example: otherwise_fine!("", "router = \"10.64.6.1\"\n"),
    },
    find: Find::Plan(|plan, findings| {
        for network in &plan.networks {
            let Some(subnet) = &network.subnet else { continue };
            for sent in network.layer.sends.iter().filter(|sent| sent.definition.has_id("v4:3")) {
                for (address, _, spot) in sent.addresses() {
                    if !subnet.holds(address) {
                        let message = format!(
                            "the router {address} is not in {}, the subnet of {}",
                            subnet.net.trunc(),
                            network.name
                        );
                        let finding = ROUTER_OUTSIDE_SUBNET.rule.finding(message).at(spot);
                        let finding = finding.related(subnet.spot.clone(), "the subnet");
                        findings.push(finding.instead(format!("an address between {}", between(subnet))));
                    }
                }
            }
        }
    }),
};

/// `10.64.4.1 and 10.64.5.254`
fn between(subnet: &Subnet) -> String {
    let mut hosts = subnet.net.hosts();
    let first = hosts.next().unwrap_or(subnet.net.addr());
    format!("{first} and {}", hosts.next_back().unwrap_or(first))
}

static ROUTER_FOR_EVERY_NETWORK: Check = Check {
    rule: Rule {
        name: "router-for-every-network",
        severity: Severity::Error,
        rfc: "RFC 2132, section 3.5",
        summary: "a router told to everyone reaches networks that it is not on",
        why: "A router belongs to one subnet. Told on the widest layer, every other network gets one it cannot reach.",
        example: Example::Plan(
            "[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\nrouter = \"10.64.4.1\"\n\
             [network.control-room]\nsubnet = \"10.64.4.0/23\"\n[network.visitors]\nsubnet = \"10.64.16.0/22\"\n",
        ),
    },
    find: Find::Plan(|plan, findings| {
        for sent in plan.everyone.sends.iter().filter(|sent| sent.definition.has_id("v4:3")) {
            let stranded: Vec<&Network> =
                plan.networks.iter().filter(|network| stranded(plan, network, sent)).collect();
            let Some(first) = stranded.first() else { continue };
            let names: Vec<&str> = stranded.iter().map(|network| network.name.as_str()).collect();
            let message = format!("everyone is told this router, and it is not on {}", listed(&names));
            let mut finding = ROUTER_FOR_EVERY_NETWORK.rule.finding(message).at(sent.spot.clone());
            if let Some(subnet) = &first.subnet {
                finding = finding.related(subnet.spot.clone(), format!("{} has this subnet", first.name));
            }
            findings.push(
                finding.instead(format!("a router of its own in [network.{}.send.v4] and in each other", first.name)),
            );
        }
    }),
};

/// Whether the network is told this plan-wide router, and none of its addresses is in the subnet.
fn stranded(plan: &Plan, network: &Network, router: &crate::plan::Sent) -> bool {
    let Some(subnet) = &network.subnet else { return false };
    let addresses = router.addresses();
    let told = told(plan, network).iter().any(|told| std::ptr::eq(told.sent, router));
    told && !addresses.is_empty() && !addresses.iter().any(|(address, ..)| subnet.holds(*address))
}

/// `a`, `a and b`, `a, b and 3 more`.
pub(super) fn listed(names: &[&str]) -> String {
    match names {
        [] => String::new(),
        [one] => (*one).to_owned(),
        [one, two] => format!("{one} and {two}"),
        [one, two, rest @ ..] => format!("{one}, {two} and {} more", rest.len()),
    }
}
