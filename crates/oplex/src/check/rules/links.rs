//! Rules about addresses that are sent, held against the links that the plan knows.

use std::net::{Ipv4Addr, Ipv6Addr};

use super::addresses::not_a_host;
use super::pools::{LeasedBy, sent_hosts};
use crate::check::declare::{PlanContext, SentHere, check, checks, v4_plan, v6_plan};
use crate::compiled::LayerKind;
use crate::family::{Address, Family, Protocol};
use crate::finding::{Example, Finding, Findings, Severity, Spot};
use crate::layout::Value;
use crate::plan::{Network, Plan, Ranges, Sent, Side, Subnet};

checks! {
    SUBNET_MASK_DIFFERS, BROADCAST_ADDRESS_DIFFERS, ROUTER_OUTSIDE_SUBNET, ROUTE_OFF_LINK,
    SENT_ADDRESS_OF_NO_HOST, SERVER_OF_NO_HOST, SERVER_OUT_OF_SCOPE, ADVERTISED_FROM_ELSEWHERE
}

/// The first address that an option holds.
fn first_address(here: &SentHere<'_>) -> Option<Ipv4Addr> {
    here.sent.payload()?.octets.first_chunk::<4>().copied().map(Into::into)
}

check! { Sent(&[(Protocol::V4, 1)], subnet_mask_differs),
    /// a subnet mask is sent that is not the subnet's
    ///
    /// Clients take neighbours for strangers and strangers for neighbours: they send to the router what it cannot deliver, and
    /// look on the link for who is not there.
    static SUBNET_MASK_DIFFERS = "subnet-mask-differs", Error, Plan, "RFC 2132, section 3.3";
    v4_plan!("", "router = \"10.64.4.1\"\nsubnet-mask = \"255.255.255.0\"\n")
}

fn subnet_mask_differs(here: &SentHere<'_>, findings: &mut Findings) {
    // One with gaps is said of the value itself.
    let whole = |mask: &Ipv4Addr| mask.to_bits().leading_ones() == mask.to_bits().count_ones();
    let Some(mask) = first_address(here).filter(whole) else { return };
    let other = here.network.sides.v4.subnets.iter().find(|subnet| subnet.net.mask() != mask);
    if let Some(subnet) = other {
        let (net, right) = (subnet.net.trunc(), subnet.net.mask());
        let message = format!("{mask} is not the mask of {net} on {}: {right}", here.network.name);
        let finding = SUBNET_MASK_DIFFERS.finding(message).at(here.sent.spot.clone());
        let finding = finding.related(subnet.spot.clone(), "the subnet");
        findings.push(finding.advice("remove it; clients are sent the mask that follows from the subnet"));
    }
}

check! { Sent(&[(Protocol::V4, 28)], broadcast_address_differs),
    /// a broadcast address is sent that is neither the subnet's nor 255.255.255.255
    ///
    /// What a client sends to all on the link reaches one host, or none.
    static BROADCAST_ADDRESS_DIFFERS = "broadcast-address-differs", Error, Plan, "RFC 1122, section 3.2.1.3";
    v4_plan!("", "router = \"10.64.4.1\"\nbroadcast-address = \"10.64.4.255\"\n")
}

fn broadcast_address_differs(here: &SentHere<'_>, findings: &mut Findings) {
    let address = first_address(here).filter(|address| !address.is_broadcast());
    let side = &here.network.sides.v4;
    let (Some(address), Some(subnet)) = (address, side.subnet()) else { return };
    // What can be nobody's broadcast address is said of the value itself.
    if not_a_host(address.into()).is_some() || side.subnets.iter().any(|subnet| subnet.net.last() == address) {
        return;
    }
    let (net, right) = (subnet.net.trunc(), subnet.net.last());
    let message = format!("{address} is not the broadcast address of {net} on {}: {right}", here.network.name);
    let finding = BROADCAST_ADDRESS_DIFFERS.finding(message).at(here.sent.spot.clone());
    findings.push(finding.related(subnet.spot.clone(), "the subnet").advice(format!("{right}, or remove it")));
}

check! { Sent(&[(Protocol::V4, 3)], router_outside_subnet),
    /// a network's router is not in its subnet
    ///
    /// Clients cannot reach a router outside their own subnet, so they cannot leave the link.
    static ROUTER_OUTSIDE_SUBNET = "router-outside-subnet", Error, Plan, "RFC 2132, section 3.5";
    v4_plan!("", "router = \"10.64.6.1\"\n")
}

fn router_outside_subnet(here: &SentHere<'_>, findings: &mut Findings) {
    // Those of the whole plan are another rule's.
    if here.layer.kind != LayerKind::Everyone {
        let strangers = off_link(here, |_| true);
        findings.extend(strangers.into_iter().map(|(address, spot, subnet)| {
            let (net, network) = (subnet.net.trunc(), &here.network.name);
            let message = format!("router {address} is outside {net}, the subnet of {network}");
            beside(ROUTER_OUTSIDE_SUBNET.finding(message).at(spot), subnet)
        }));
    }
}

check! { Sent(&[(Protocol::V4, 121), (Protocol::V4, 33)], route_off_link),
    /// a route by way of an address that is not on the client's link
    ///
    /// The client has no way to that router, and drops the route or everything that it sends there.
    static ROUTE_OFF_LINK = "route-off-link", Error, Plan, "RFC 3442, \"DHCP Client Behavior\"";
    v4_plan!("", "router = \"10.64.4.1\"\nclassless-static-route = [\"0.0.0.0/0 via 10.64.4.1\", \"10.64.8.0/21 via 10.64.6.2\"]\n")
}

fn route_off_link(here: &SentHere<'_>, findings: &mut Findings) {
    let routers = here.sent.payload().map(|payload| routers_of(&payload.value)).unwrap_or_default();
    let strangers = off_link(here, |address| routers.contains(&address) && not_a_host(address.into()).is_none());
    findings.extend(strangers.into_iter().map(|(address, spot, subnet)| {
        let (net, network) = (subnet.net.trunc(), &here.network.name);
        let message = format!("the router {address} is outside {net}, the subnet of {network}");
        let finding = beside(ROUTE_OFF_LINK.finding(message).at(spot), subnet);
        if here.is(Protocol::V4, 33) { finding.by("RFC 2132, section 5.8") } else { finding }
    }));
}

/// The routers of routes with and without masks.
fn routers_of(value: &Value) -> Vec<Ipv4Addr> {
    let router = |route: &Value| match route {
        Value::Route4(route) => Some(route.router),
        record => record.field("router")?.ipv4(),
    };
    value.items().iter().filter_map(router).collect()
}

/// The addresses in an option that are in none of the network's subnets, with their places, and the first subnet.
fn off_link<'p>(here: &SentHere<'p>, wanted: impl Fn(Ipv4Addr) -> bool) -> Vec<(Ipv4Addr, Spot, &'p Subnet<Ipv4Addr>)> {
    let side: &'p Side<Ipv4Addr> = &here.network.sides.v4;
    let Some(subnet) = side.subnet() else { return Vec::new() };
    let hosts = here.sent.hosts::<Ipv4Addr>(here.codebook).into_iter();
    let strangers = hosts.filter(|(address, _)| wanted(*address) && side.subnet_with(*address).is_none());
    strangers.map(|(address, spot)| (address, spot, subnet)).collect()
}

fn beside(finding: Finding, subnet: &Subnet<Ipv4Addr>) -> Finding {
    let (first, last) = subnet.hosts();
    finding.related(subnet.spot.clone(), "the subnet").advice(format!("an address between {first} and {last}"))
}

check! { Plan(sent_address_of_no_host),
    /// an address that is sent as a router or server is the network or broadcast address of a subnet
    ///
    /// No machine has it, and nothing that clients send there is answered.
    static SENT_ADDRESS_OF_NO_HOST = "sent-address-of-no-host", Error, Plan, "RFC 1122, section 3.2.1.3";
    v4_plan!("", "router = \"10.64.4.0\"\n")
}

fn sent_address_of_no_host(context: &PlanContext<'_>, findings: &mut Findings) {
    let subnets = subnets(context.plan);
    let hosts = sent_hosts::<Ipv4Addr>(context.plan).filter(|(sent, ..)| !sent.definition.has_id("v4:28"));
    for (sent, address, spot) in hosts {
        if let Some((subnet, what)) = reserved_in(context.plan, &subnets, address) {
            let message = format!("{} {address} is {what} of {}", sent.definition.name, subnet.net.trunc());
            findings.push(beside(SENT_ADDRESS_OF_NO_HOST.finding(message).at(spot), subnet));
        }
    }
}

/// The subnets of all networks, found by an address.
fn subnets(plan: &Plan) -> Ranges<Ipv4Addr> {
    let networks = plan.networks.iter().enumerate();
    let nets = networks.flat_map(|(at, network)| {
        network.sides.v4.subnets.iter().map(move |subnet| (subnet.net.first(), subnet.net.last(), at))
    });
    Ranges::new(nets)
}

/// The subnet of which an address is the network or the broadcast address.
fn reserved_in<'p>(
    plan: &'p Plan,
    subnets: &Ranges<Ipv4Addr>,
    address: Ipv4Addr,
) -> Option<(&'p Subnet<Ipv4Addr>, &'static str)> {
    subnets.holding(address).find_map(|at| {
        let subnet = plan.networks[at].sides.v4.subnet_with(address)?;
        let (_, what) = subnet.reserved().find(|(known, _)| *known == address)?;
        Some((subnet, what))
    })
}

check! { Plan(server_of_no_host),
    /// the server's own address is one that no server can have, or may be leased to a client
    ///
    /// Clients renew with the address in option 54. If no server has it, every lease runs out.
    static SERVER_OF_NO_HOST = "server-of-no-host", Error, Plan, "RFC 2132, section 9.7";
    Example::Plan("server = \"10.64.5.255\"\n[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n\
         [network.control-room]\nsubnet = \"10.64.4.0/23\"\n[network.control-room.send.v4]\nrouter = \"10.64.4.1\"\n")
}

fn server_of_no_host(context: &PlanContext<'_>, findings: &mut Findings) {
    let plan = context.plan;
    let subnets = subnets(plan);
    let servers = || std::iter::once(&plan.server).chain(&plan.others);
    findings.extend(no_servers(plan, servers().filter_map(|server| server.v4.as_ref()), |address| {
        let (subnet, what) = reserved_in(plan, &subnets, address)?;
        Some(format!("{what} of {}", subnet.net.trunc()))
    }));
    findings.extend(no_servers(plan, servers().filter_map(|server| server.v6.as_ref()), |_| None));
}

/// Those of the servers' addresses that no server can have, or that may be leased. `reserved` says what an address is that no host
/// of its subnet has.
fn no_servers<'p, A: Address>(
    plan: &Plan,
    servers: impl Iterator<Item = &'p (A, Spot)>,
    reserved: impl Fn(A) -> Option<String>,
) -> Vec<Finding> {
    let mut servers = servers.peekable();
    if servers.peek().is_none() {
        return Vec::new();
    }
    let leased = LeasedBy::<A>::of(plan);
    servers.filter_map(|(address, spot)| no_server(plan, &leased, *address, spot, reserved(*address))).collect()
}

fn no_server<A: Address>(
    plan: &Plan,
    leased: &LeasedBy<A>,
    address: A,
    spot: &Spot,
    own: Option<String>,
) -> Option<Finding> {
    let leased = || leased.network(plan, address);
    let what = not_a_host(address.into()).map(str::to_owned).or(own);
    let what = what.or_else(|| Some(format!("in a pool of {}, so it may be leased to a client", leased()?.name)))?;
    let finding = SERVER_OF_NO_HOST.finding(format!("the server's address {address} is {what}")).at(spot.clone());
    Some(finding.advice("the address from which the server answers"))
}

check! { Plan(server_out_of_scope),
    /// clients on several links are sent an IPv6 address that only one link knows, or that no packet can have
    ///
    /// A link-local address is another machine on each link. Site-local addresses are withdrawn (RFC 3879), and an IPv4-mapped
    /// one exists inside a host only.
    static SERVER_OUT_OF_SCOPE = "server-out-of-scope", Warning, Plan, "RFC 4291, section 2.5.6";
    Example::Plan("[send.v6]\ndns-servers = \"fe80::53\"\n[network.mast]\nprefix = \"2001:db8:64:40::/64\"\nadvertise = { other = true }\n\
        [network.yard]\nprefix = \"2001:db8:64:41::/64\"\nadvertise = { other = true }\n")
}

fn server_out_of_scope(context: &PlanContext<'_>, findings: &mut Findings) {
    let plan = context.plan;
    let links = plan.networks.iter().filter(|network: &&Network| network.sides.has(Family::V6)).count();
    let of_all = |sent: &Sent| plan.everyone.sends.v6.iter().any(|own| std::ptr::eq(own, sent));
    for (sent, address, spot) in sent_hosts::<Ipv6Addr>(plan) {
        let finding = |message: String| SERVER_OUT_OF_SCOPE.finding(message).at(spot.clone());
        let name = &sent.definition.name;
        if let Some(inner) = address.to_ipv4_mapped() {
            let finding =
                finding(format!("{name} {address} is an IPv4-mapped address, which no packet can be sent to"));
            let finding = finding.as_severity(Severity::Error).by("RFC 4291, section 2.5.5.2");
            findings.push(finding.advice(format!("the server's IPv6 address, or {inner} sent by DHCPv4")));
        } else if is_site_local(address) {
            let finding = finding(format!("{name} {address} is a site-local address; these are withdrawn"));
            findings
                .push(finding.by("RFC 3879, section 4").advice("the server's address in fd00::/8, or a global one"));
        } else if address.is_unicast_link_local() && links > 1 && of_all(sent) {
            let finding = finding(format!("{name} {address} is another machine on each of {links} links"));
            findings.push(finding.advice("an address that every link reaches, or a separate one on each network"));
        }
    }
}

/// Whether an address is of fec0::/10, which is withdrawn (RFC 3879).
fn is_site_local(address: Ipv6Addr) -> bool {
    address.segments()[0] & 0xffc0 == 0xfec0
}

/// Whether clients reach a server by this address, as far as the address shows.
pub(super) fn is_reachable(address: Ipv6Addr) -> bool {
    not_a_host(address.into()).is_none() && address.to_ipv4_mapped().is_none() && !is_site_local(address)
}

check! { Plan(advertised_from_elsewhere),
    /// a router that advertises from an address that is not link-local
    ///
    /// Hosts drop the advertisement: they have no default router, no prefix, and none of its options.
    static ADVERTISED_FROM_ELSEWHERE = "advertised-from-elsewhere", Error, Plan, "RFC 4861, section 6.1.2";
    v6_plan!("advertise = { name-servers = \"2001:db8:64::53\", from = \"2001:db8:64:40::1\" }\n")
}

fn advertised_from_elsewhere(context: &PlanContext<'_>, findings: &mut Findings) {
    let said = context.plan.networks.iter().filter_map(|network| network.advertise.as_deref());
    for said in said.filter(|said| !said.source.is_unicast_link_local()) {
        let message = format!("{} is not a link-local address, so hosts drop the advertisement", said.source);
        let finding = ADVERTISED_FROM_ELSEWHERE.finding(message).at(said.flag_spot("from").clone());
        findings.push(finding.advice("the router's own address in fe80::/10, or nothing for fe80::1"));
    }
}
