//! Rules about subnets and prefixes, what is delegated, and routers.

use std::net::{IpAddr, Ipv4Addr, Ipv6Addr};

use crate::answer::Audience;
use crate::check::declare::{PlanContext, both, check, checks, v6_plan};
use crate::family::{Address, Family, Net};
use crate::finding::{Example, Finding, Findings};
use crate::heading;
use crate::plan::{Delegation, Network, Sent, Subnet};

checks! {
    SUBNET_HOST_BITS_SET, NETWORKS_OVERLAP, FAMILY_WITHOUT_SUBNET, DELEGATION_OVERLAPS_NETWORK,
    DELEGATIONS_OVERLAP, SUBNET_NOT_UNICAST, ROUTER_SENT_TO_EVERY_NETWORK, SERVER_UNICAST_SENT
}

check! { Plan(both!(host_bits_set)),
    /// a subnet or prefix whose address has bits set below its length
    ///
    /// It is the address of a host, or the length is wrong; in both cases the pool and the mask are not the intended
    /// ones.
    static SUBNET_HOST_BITS_SET = "subnet-host-bits-set", Error, Plan, "RFC 4632, section 3.1";
    Example::Plan("[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n[network.control-room]\n\
     subnet = \"10.64.5.0/23\"\n[network.control-room.send.v4]\nrouter = \"10.64.4.1\"\n"),
    Example::Plan("[network.mast]\nprefix = \"2001:db8:64:40::1/64\"\nadvertise = { name-servers = \"2001:db8:64::53\" }\n")
}

fn host_bits_set<A: Address>(context: &PlanContext<'_>, findings: &mut Findings) {
    let networks = &context.plan.networks;
    for subnet in networks.iter().flat_map(|network| &network.sides.of::<A>().subnets) {
        let finding = bits_below::<A>(subnet.net).map(|finding| finding.at(subnet.spot.clone()));
        findings.extend(finding.map(|finding| finding.replace(format!("\"{}\"", subnet.net.trunc()))));
    }
    for one in networks.iter().flat_map(|network| &network.delegates).filter(|_| A::FAMILY == Family::V6) {
        let finding = bits_below::<Ipv6Addr>(one.within).map(|finding| finding.at(one.spot.clone()));
        let whole = Delegation { within: one.within.trunc(), ..one.clone() };
        findings.extend(finding.map(|finding| finding.replace(format!("\"{whole}\""))));
    }
    for (net, spot) in reserved_prefixes(context.plan).filter(|_| A::FAMILY == Family::V6) {
        let finding = bits_below::<Ipv6Addr>(net).map(|finding| finding.at(spot));
        findings.extend(finding.map(|finding| finding.replace(format!("\"{}\"", net.trunc()))));
    }
}

/// The prefixes that plans delegate to single clients, with what they are.
fn reserved_prefixes(plan: &crate::plan::Plan) -> impl Iterator<Item = (Net<Ipv6Addr>, crate::finding::Spot)> {
    plan.reservations.telling().filter_map(crate::plan::Reservation::delegated)
}

fn bits_below<A: Address>(written: Net<A>) -> Option<Finding> {
    let whole = written.trunc();
    let message = format!("{written} is not a {}: {} is an address inside {whole}", A::NET_WORD, written.address());
    let finding = (written != whole).then(|| SUBNET_HOST_BITS_SET.finding(message))?;
    Some(if A::FAMILY == Family::V6 { finding.by("RFC 4291, section 2.3") } else { finding })
}

check! { Plan(both!(not_unicast)),
    /// a subnet or prefix whose addresses no host may have
    ///
    /// Hosts refuse addresses of it, or use them on their own link or inside themselves.
    static SUBNET_NOT_UNICAST = "subnet-not-unicast", Error, Plan, "RFC 1122, section 3.2.1.3";
    Example::Plan("[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n[network.control-room]\n\
     subnet = \"0.4.0.0/23\"\n[network.control-room.send.v4]\nrouter = \"0.4.0.1\"\n"),
    Example::Plan("[network.mast]\nprefix = \"ff05:64::/64\"\nadvertise = { name-servers = \"2001:db8:64::53\" }\n")
}

fn not_unicast<A: Address>(context: &PlanContext<'_>, findings: &mut Findings) {
    for subnet in context.plan.networks.iter().flat_map(|network| &network.sides.of::<A>().subnets) {
        let what = match (subnet.net.first().into(), subnet.net.last().into()) {
            (IpAddr::V4(first), IpAddr::V4(last)) => special_v4(first, last),
            (IpAddr::V6(first), _) => special_v6(first),
            _ => None,
        };
        if let Some((what, rfc)) = what {
            let message = format!("{} is {what}", subnet.net.trunc());
            let finding = SUBNET_NOT_UNICAST.finding(message).at(subnet.spot.clone()).by(rfc);
            findings.push(finding.advice(match A::FAMILY {
                Family::V4 => "a subnet of your own addresses, or of 10.0.0.0/8, 172.16.0.0/12 or 192.168.0.0/16",
                Family::V6 => "a prefix of your own addresses, or of fd00::/8",
            }));
        }
    }
}

fn special_v4(first: Ipv4Addr, last: Ipv4Addr) -> Option<(&'static str, &'static str)> {
    let (low, high) = (first.octets()[0], last.octets()[0]);
    let meets = |from: u8, to: u8| low <= to && from <= high;
    Some(match () {
        () if meets(224, 239) => ("for multicast (224.0.0.0/4)", "RFC 1112, section 4"),
        () if meets(240, 255) => ("reserved (240.0.0.0/4)", "RFC 1112, section 4"),
        () if meets(127, 127) => ("for loopback (127.0.0.0/8)", "RFC 1122, section 3.2.1.3"),
        () if meets(0, 0) => ("\"this network\" (0.0.0.0/8)", "RFC 1122, section 3.2.1.3"),
        () => return None,
    })
}

fn special_v6(first: Ipv6Addr) -> Option<(&'static str, &'static str)> {
    Some(match first {
        _ if first.is_multicast() => ("for multicast (ff00::/8)", "RFC 4291, section 2.7"),
        _ if first.is_unicast_link_local() => {
            ("the link-local prefix, of which every host forms an address by itself", "RFC 4291, section 2.5.6")
        }
        _ if first.to_ipv4_mapped().is_some() => {
            ("for IPv4-mapped addresses (::ffff:0:0/96)", "RFC 4291, section 2.5.5.2")
        }
        _ if first.segments()[..4] == [0; 4] => ("reserved (0000::/8)", "RFC 4291, section 2.4"),
        _ => return None,
    })
}

check! { Plan(delegations_overlap),
    /// two ranges of delegated prefixes overlap
    ///
    /// Two routers are delegated the same prefix, and traffic for one of them goes to the other.
    static DELEGATIONS_OVERLAP = "delegations-overlap", Error, Plan, "RFC 8415, section 6.3";
    v6_plan!(managed, "pool = [\"2001:db8:64:40::100-2001:db8:64:40::1ff\"]\n\
        delegate = [\"2001:db8:6400::/40 as /56\", \"2001:db8:6480::/48 as /56\"]\n")
}

fn delegations_overlap(context: &PlanContext<'_>, findings: &mut Findings) {
    let networks = context.plan.networks.iter();
    let all = networks.flat_map(|network| network.delegates.iter().map(move |one| (one.within.trunc(), one, network)));
    let mut all: Vec<_> = all.collect();
    all.sort_by_key(|(net, ..)| (net.first(), net.length()));
    let mut widest: Option<&(Net<Ipv6Addr>, &Delegation, &Network)> = None;
    for one in &all {
        match widest.filter(|(net, ..)| net.meets(&one.0)) {
            Some((_, other, network)) => {
                let message = format!("{} of {} overlaps {other} of {}", one.1, one.2.name, network.name);
                let finding = DELEGATIONS_OVERLAP.finding(message).at(one.1.spot.clone());
                findings.push(finding.related(other.spot.clone(), "the other range"));
            }
            None => widest = Some(one),
        }
    }
}

check! { Plan(both!(overlap)),
    /// two networks of the plan overlap
    ///
    /// A client on one of them may be taken for one on the other, and two clients may get one address.
    static NETWORKS_OVERLAP = "networks-overlap", Error, Plan, "";
    Example::Plan("[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n\
     [network.control-room]\nsubnet = \"10.64.4.0/23\"\n[network.control-room.send.v4]\nrouter = \"10.64.4.1\"\n\
     [network.visitors]\nsubnet = \"10.64.5.0/24\"\n[network.visitors.send.v4]\nrouter = \"10.64.5.1\"\n"),
    Example::Plan("[network.mast]\nprefix = \"2001:db8:64:40::/64\"\nadvertise = { name-servers = \"2001:db8:64::53\" }\n\
     [network.yard]\nprefix = \"2001:db8:64:40::/64\"\nadvertise = { name-servers = \"2001:db8:64::53\" }\n")
}

fn overlap<A: Address>(context: &PlanContext<'_>, findings: &mut Findings) {
    // Sorted by their first address, a subnet can only overlap the ones right after it.
    let networks = context.plan.networks.iter();
    let subnets =
        networks.flat_map(|network| network.sides.of::<A>().subnets.iter().map(move |subnet| (network, subnet)));
    let mut sorted: Vec<(&Network, &Subnet<A>)> = subnets.collect();
    sorted.sort_by_key(|(_, subnet)| (subnet.net.first(), subnet.net.length()));
    let mut widest: Option<(&Network, &Subnet<A>)> = None;
    for (network, subnet) in sorted {
        let Some((other, wider)) = widest.filter(|(_, wider)| wider.net.last() >= subnet.net.first()) else {
            widest = Some((network, subnet));
            continue;
        };
        let (inner, outer) = (subnet.net, wider.net);
        let later_first = subnet.spot.span.start < wider.spot.span.start;
        let (at, first) =
            if later_first { ((other, wider), (network, subnet)) } else { ((network, subnet), (other, wider)) };
        let message = match (at.0, first.0) {
            (one, other) if std::ptr::eq(one, other) => {
                format!("{} has {inner}, which is inside its {outer}", one.name)
            }
            (one, other) => format!("{} and {} overlap: {inner} is inside {outer}", one.name, other.name),
        };
        let finding = NETWORKS_OVERLAP.finding(message).at(at.1.spot.clone());
        let finding = finding.related(first.1.spot.clone(), format!("the {} of {}", A::NET_WORD, first.0.name));
        findings.push(if A::FAMILY == Family::V6 { finding.by("RFC 4291, section 2.1") } else { finding });
    }
}

check! { Plan(family_without_subnet),
    /// a network has settings of one family, but no subnet or prefix of it
    ///
    /// They are never sent. Usually the line belongs to another network, or the subnet or prefix was forgotten.
    static FAMILY_WITHOUT_SUBNET = "family-without-subnet", Error, Plan, "";
    Example::Plan("[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n[network.control-room]\nsubnet = \"10.64.4.0/23\"\n\
         send.v4 = { router = \"10.64.4.1\" }\nsend.v6 = { dns-servers = \"2001:db8:64::53\" }\n")
}

fn family_without_subnet(context: &PlanContext<'_>, findings: &mut Findings) {
    for network in &context.plan.networks {
        // A network with neither lacks a key, and is spoken of there.
        let lacking = match (network.sides.has(Family::V4), network.sides.has(Family::V6)) {
            (true, false) => {
                let said = network.advertise.as_deref().map(|said| &said.spot);
                let sent = network.layer.sends.v6.first().map(|sent| &sent.key);
                said.or(network.delegates.first().map(|one| &one.spot)).or(sent).map(|at| (at, "prefix"))
            }
            (false, true) => {
                let side = &network.sides.v4;
                let leased = side.pools.first().or(side.excluded.first()).map(|pool| &pool.spot);
                leased.or(network.layer.sends.v4.first().map(|sent| &sent.key)).map(|at| (at, "subnet"))
            }
            _ => None,
        };
        if let Some((at, what)) = lacking {
            let message = format!("{} has no {what}, so this is never sent", network.name);
            let finding = FAMILY_WITHOUT_SUBNET.finding(message).at(at.clone());
            findings.push(
                finding.advice(format!("{what} = \"…\" in [network.{}], or remove this", heading::key(&network.name))),
            );
        }
    }
}

check! { Plan(delegation_overlaps_network),
    /// a range of delegated prefixes overlaps the prefix of a network
    ///
    /// A router behind it advertises addresses that belong to another link.
    static DELEGATION_OVERLAPS_NETWORK = "delegation-overlaps-network", Error, Plan, "RFC 8415, section 6.3";
    v6_plan!("delegate = \"2001:db8:64::/48 as /56\"\nadvertise = { name-servers = \"2001:db8:64::53\" }\n")
}

fn delegation_overlaps_network(context: &PlanContext<'_>, findings: &mut Findings) {
    let prefixes = context.plan.networks.iter();
    let mut prefixes: Vec<_> =
        prefixes.flat_map(|one| one.sides.v6.subnets.iter().map(move |subnet| (subnet.net.trunc(), one))).collect();
    prefixes.sort_by_key(|(net, _)| *net);
    for network in &context.plan.networks {
        for delegation in &network.delegates {
            let net = delegation.within.trunc();
            // Of prefixes in their order, one that meets this lies in it, or is the last to begin before it.
            let after = prefixes.partition_point(|(link, _)| link.first() < net.first());
            let near = [after.checked_sub(1), Some(after)].into_iter().flatten();
            let meets = near.filter_map(|at| prefixes.get(at)).find(|(link, _)| net.meets(link));
            if let Some((link, other)) = meets {
                let message = format!("{delegation} overlaps {link}, the prefix of {}", other.name);
                let finding = DELEGATION_OVERLAPS_NETWORK.finding(message).at(delegation.spot.clone());
                findings.push(finding.advice("a prefix that no network uses"));
            }
        }
    }
}

check! { Plan(router_sent_to_every_network),
    /// a router is sent to every network, including those it is not in
    ///
    /// A router belongs to one subnet. Sent on the widest layer, it is unreachable from every other network.
    static ROUTER_SENT_TO_EVERY_NETWORK = "router-sent-to-every-network", Error, Plan, "RFC 2132, section 3.5";
    Example::Plan("[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\nrouter = \"10.64.4.1\"\n\
         [network.control-room]\nsubnet = \"10.64.4.0/23\"\n[network.visitors]\nsubnet = \"10.64.16.0/22\"\n")
}

fn router_sent_to_every_network(context: &PlanContext<'_>, findings: &mut Findings) {
    let everyone = &context.plan.everyone.sends.v4;
    for sent in everyone.iter().filter(|sent| sent.definition.has_id("v4:3")) {
        let routers = sent.hosts::<Ipv4Addr>(&context.plan.codebook);
        let networks = context.plan.networks.iter().enumerate();
        let stranded: Vec<&Network> =
            networks.filter(|(at, _)| is_stranded(context, *at, sent, &routers)).map(|(_, network)| network).collect();
        let Some(first) = stranded.first() else { continue };
        let names: Vec<&str> = stranded.iter().map(|network| network.name.as_str()).collect();
        let message = format!("this router is sent to every network, but is not in {}", listed(&names));
        let mut finding = ROUTER_SENT_TO_EVERY_NETWORK.finding(message).at(sent.spot.clone());
        if let Some(subnet) = first.sides.v4.subnet() {
            finding = finding.related(subnet.spot.clone(), format!("the subnet of {}", first.name));
        }
        let own = heading::key(&first.name);
        findings
            .push(finding.advice(format!("a separate router in [network.{own}.send.v4] and in every other network")));
    }
}

/// Whether the network is sent this plan-wide router, and none of its addresses is in the subnet.
fn is_stranded(
    context: &PlanContext<'_>,
    at: usize,
    router: &Sent,
    addresses: &[(Ipv4Addr, crate::finding::Spot)],
) -> bool {
    let side = &context.plan.networks[at].sides.v4;
    let near = |(address, _): &(Ipv4Addr, crate::finding::Spot)| side.subnet_with(*address).is_some();
    if side.subnets.is_empty() || addresses.is_empty() || addresses.iter().any(near) {
        return false;
    }
    let audience = Audience { compiled: context.compiled, at, fleet: None, reservation: None };
    audience.sent(Family::V4).iter().any(|sent| sent.option.origin.is_some_and(|origin| std::ptr::eq(origin, router)))
}

/// `a`, `a and b`, `a, b and 3 more`.
fn listed(names: &[&str]) -> String {
    match names {
        [] => String::new(),
        [one] => (*one).to_owned(),
        [one, two] => format!("{one} and {two}"),
        [one, two, rest @ ..] => format!("{one}, {two} and {} more", rest.len()),
    }
}

check! { Plan(server_unicast_sent),
    /// the server unicast option is sent to clients
    ///
    /// Their messages then bypass the relay agents, which add no interface, no identifier, and no route for a delegated
    /// prefix.
    static SERVER_UNICAST_SENT = "server-unicast-sent", Warning, Plan, "RFC 8415, section 21.12";
    v6_plan!("advertise = { other = true, name-servers = \"2001:db8:64::53\" }\n[network.mast.send.v6]\n\
        unicast = \"2001:db8:64::67\"\n")
}

fn server_unicast_sent(context: &PlanContext<'_>, findings: &mut Findings) {
    let sent = context.plan.layers().flat_map(|layer| &layer.sends.v6);
    for sent in sent.filter(|sent| sent.definition.has_id("v6:12")) {
        let finding =
            SERVER_UNICAST_SENT.finding("this option makes clients send to the server by unicast").at(sent.key.clone());
        findings.push(finding.advice("remove it; relay agents and multicast reach the server"));
    }
}
