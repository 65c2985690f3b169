//! Rules about what a network's clients are not sent and nearly always need.

use std::net::Ipv4Addr;

use crate::answer::{Audience, Chosen, HostMode};
use crate::check::declare::{BothSent, check, checks, v4_plan, v6_plan};
use crate::family::{Both, Family, Net, Protocol};
use crate::finding::{Example, Finding, Findings, Rule, rule};
use crate::heading;
use crate::layout::{Route4, Value};

/// Whether an option of DHCPv4 is sent.
fn sends(sent: &Both<Vec<Chosen<'_>>>, code: u16) -> bool {
    Chosen::find(&sent.v4, Protocol::V4, code).is_some()
}

/// Whether these are the clients of no fleet, on a network that has a subnet.
fn is_plain(audience: &Audience<'_>) -> bool {
    audience.fleet.is_none() && audience.network().sides.has(Family::V4)
}

/// A finding about a network whose clients are not sent something, at the network's name.
fn absent(rule: &'static Rule, audience: &Audience<'_>, what: &str, instead: &str) -> Option<Finding> {
    let network = audience.network();
    let finding = rule.finding(format!("{what} is sent on {}", network.name));
    let spot = audience.spot()?;
    Some(finding.at(spot.clone()).advice(instead.replace("NETWORK", &heading::key(&network.name))))
}

// It speaks where no other rule has found an error, as those say better what is missing.
rule! {
    /// a plan without any network
    ///
    /// It answers no client. Usually the file is empty, or another one was meant.
    pub(in crate::check) static PLAN_WITHOUT_NETWORKS = "plan-without-networks", Error, Plan, "";
    Example::Plan("title = \"A plan\"\n")
}

checks! {
    NO_ROUTER, NO_NAME_SERVER, NO_DOMAIN, CLASSLESS_ROUTES_WITHOUT_DEFAULT
}

check! { Answer(no_router),
    /// no router is sent on a network
    ///
    /// Clients reach their own subnet and nothing beyond it, which is rarely intended.
    static NO_ROUTER = "no-router", Warning, Answer, "RFC 2132, section 3.5";
    v4_plan!("", "")
}

fn no_router(audience: &Audience<'_>, sent: &BothSent<'_>, findings: &mut Findings) {
    if is_plain(audience) && !sends(sent, 3) && !sends(sent, 121) {
        let instead = "router = \"…\" in [network.NETWORK.send.v4]";
        findings.extend(absent(&NO_ROUTER, audience, "no router", instead));
    }
    let side = &audience.network().sides.v4;
    let routers = Chosen::find(&sent.v4, Protocol::V4, 3).and_then(|routers| routers.option.value());
    let Some(routers) = routers.filter(|_| is_plain(audience) && side.subnets.len() > 1) else { return };
    let has = |net: &Net<Ipv4Addr>| routers.items().iter().any(|one| one.ipv4().is_some_and(|one| net.holds(one)));
    // Where none is in any of the subnets, another rule speaks of each.
    let all = side.subnets.iter().filter(|_| side.subnets.iter().any(|subnet| has(&subnet.net)));
    for subnet in all.filter(|subnet| !has(&subnet.net)) {
        let message = format!("no router is sent for {} on {}", subnet.net.trunc(), audience.network().name);
        let finding = NO_ROUTER.finding(message).at(subnet.spot.clone());
        findings.push(finding.advice("a router in each subnet, all of them in `router`"));
    }
}

check! { Answer(no_name_server),
    /// no DNS server is sent on a network
    ///
    /// Clients have an address and a router, but cannot resolve any name.
    static NO_NAME_SERVER = "no-name-server", Warning, Answer, "RFC 2132, section 3.8";
    Example::Plan("[network.control-room]\nsubnet = \"10.64.4.0/23\"\n[network.control-room.send.v4]\nrouter = \"10.64.4.1\"\n"),
    v6_plan!("advertise = {}\n")
}

fn no_name_server(audience: &Audience<'_>, sent: &BothSent<'_>, findings: &mut Findings) {
    if is_plain(audience) && !sends(sent, 6) {
        let instead = "domain-server = [\"…\"] in [send.v4]";
        findings.extend(absent(&NO_NAME_SERVER, audience, "no name server", instead));
    }
    findings.extend(no_name_server_by_ipv6(audience, sent));
}

/// In IPv6 name servers come from the router's advertisement, or from DHCPv6 where hosts use it.
fn no_name_server_by_ipv6(audience: &Audience<'_>, sent: &Both<Vec<Chosen<'_>>>) -> Option<Finding> {
    let network = audience.network();
    let said = network.advertises.as_ref().filter(|_| audience.fleet.is_none() && network.sides.has(Family::V6))?;
    let by_dhcp = Chosen::find(&sent.v6, Protocol::V6, 23).is_some() && HostMode::on(network).uses_dhcp();
    // Of those that no host requests another rule speaks.
    if said.option(25).is_some() || by_dhcp || Chosen::find(&sent.v6, Protocol::V6, 23).is_some() {
        return None;
    }
    let finding = NO_NAME_SERVER.finding(format!("no name server is sent by IPv6 on {}", network.name));
    let finding = finding.at(said.origin?.spot.clone()).by("RFC 8106, section 1");
    Some(finding.advice("name-servers = [\"…\"] in `advertise`"))
}

check! { Answer(no_domain),
    /// name servers are sent on a network, but no domain name
    ///
    /// Short names (`printer`) are then looked up as they are, and are not found.
    static NO_DOMAIN = "no-domain", Note, Answer, "RFC 2132, section 3.17";
    Example::Plan("[send.v4]\ndomain-server = \"10.64.0.53\"\n[network.control-room]\nsubnet = \"10.64.4.0/23\"\n\
         [network.control-room.send.v4]\nrouter = \"10.64.4.1\"\n")
}

fn no_domain(audience: &Audience<'_>, sent: &BothSent<'_>, findings: &mut Findings) {
    if is_plain(audience) && sends(sent, 6) && !sends(sent, 15) && !sends(sent, 119) {
        findings.extend(absent(&NO_DOMAIN, audience, "no domain name", "domain-name = \"…\" in [send.v4]"));
    }
}

check! { Answer(classless_routes_without_default),
    /// classless routes without a default route are sent along with a router
    ///
    /// A client that reads classless routes must ignore the router option, so it loses its default route; older clients
    /// keep theirs, and the fault shows on some devices only.
    static CLASSLESS_ROUTES_WITHOUT_DEFAULT = "classless-routes-without-default", Warning, Answer,
        "RFC 3442, \"DHCP Client Behavior\"";
    v4_plan!("", "router = \"10.64.4.1\"\nclassless-static-route = [\"10.64.8.0/21 via 10.64.4.2\"]\n")
}

fn classless_routes_without_default(audience: &Audience<'_>, sent: &BothSent<'_>, findings: &mut Findings) {
    let find = |code| Chosen::find(&sent.v4, Protocol::V4, code);
    let (Some(routes), Some(router)) = (find(121), find(3)) else { return };
    let (Some(spot), Some(ignored)) = (routes.option.spot(), router.option.spot()) else { return };
    if routes.option.octets.is_none() || has_default_route(routes) {
        return;
    }
    let name = &audience.network().name;
    let message = format!("these routes replace the default router for clients on {name}, and none is 0.0.0.0/0");
    let finding = CLASSLESS_ROUTES_WITHOUT_DEFAULT.finding(message).at(spot.clone());
    let finding = finding.related(ignored.clone(), "ignored by clients that use the routes");
    let gateway = router.option.value().and_then(|value| value.items().first()).map(ToString::to_string);
    let gateway = gateway.unwrap_or_else(|| "…".to_owned());
    findings.push(finding.advice(format!("\"0.0.0.0/0 via {gateway}\" as an additional route")));
}

/// Whether the routes lead anywhere: `0.0.0.0/0` is among them.
fn has_default_route(routes: &Chosen<'_>) -> bool {
    let items = routes.option.value().map(Value::items).unwrap_or_default();
    items.iter().any(|route| matches!(route, Value::Route4(Route4 { length: 0, .. })))
}
