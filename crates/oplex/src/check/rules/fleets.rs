//! Rules about fleets: their pools, what they are sent, and whether they can be sent apart.

use std::collections::{BTreeSet, HashMap};
use std::net::{Ipv4Addr, Ipv6Addr};
use std::ops::ControlFlow;

use crate::check::declare::{PlanContext, both, check, checks, v4_plan, v6_plan};
use crate::codebook::Carrier;
use crate::family::{Address, Family, Protocol};
use crate::finding::{Finding, Findings, Severity};
use crate::heading;
use crate::plan::{Among, Fleet, Meetings, Plan, Pool, Sent};

checks! {
    FLEET_WITHOUT_CLIENTS, FLEET_SHADOWED, FLEET_POOL_OUTSIDE, FLEET_POOLS_OVERLAP, FLEETS_DISAGREE,
    SENT_BUT_NOT_REQUESTED
}

check! { Plan(fleet_without_clients),
    /// a fleet that no client can belong to
    ///
    /// Its options are never sent, and its devices get what every client gets.
    static FLEET_WITHOUT_CLIENTS = "fleet-without-clients", Error, Plan, "";
    v4_plan!("", "router = \"10.64.4.1\"\n[fleet.intercoms]\nmatch = { any = [] }\n")
}

fn fleet_without_clients(context: &PlanContext<'_>, findings: &mut Findings) {
    for fleet in context.plan.fleets.iter().filter(|fleet| fleet.recognised.is_hopeless()) {
        let message = format!("no client can belong to {}: {}", fleet.name, fleet.recognised);
        let finding = FLEET_WITHOUT_CLIENTS.finding(message).at(fleet.spot.clone());
        findings.push(finding.advice("patterns that some client fits, all of them together"));
    }
}

check! { Plan(fleet_shadowed),
    /// all clients of a fleet also belong to another fleet, which overrides its options or its pool
    ///
    /// Among several fleets the values of the later one and the pool of the earlier one win. The settings of this fleet
    /// never apply.
    static FLEET_SHADOWED = "fleet-shadowed", Warning, Plan, "";
    v4_plan!(
        "",
        "router = \"10.64.4.1\"\n[fleet.new]\nmatch = { vendor-class = \"Tern D2\" }\n\
         send.v4 = { log-server = \"10.64.0.70\" }\n[fleet.intercoms]\nmatch = { vendor-class = \"Tern *\" }\n\
         send.v4 = { log-server = \"10.64.0.70\" }\n"
    )
}

fn fleet_shadowed(context: &PlanContext<'_>, findings: &mut Findings) {
    let fleets = &context.plan.fleets;
    let meetings = Meetings::new(fleets.iter().enumerate().map(|(at, fleet)| (at, 0, &fleet.recognised)));
    for (at, fleet) in fleets.iter().enumerate() {
        let later = Among { items: at + 1..fleets.len(), not_of: None };
        let shadows = |other: usize| sends_all_of(&fleets[other], fleet);
        if let Some(other) = around(&meetings, fleets, at, &later, shadows) {
            let message = format!("{} overrides this for all clients of {}", other.name, fleet.name);
            let finding = FLEET_SHADOWED.finding(message).at(fleet.spot.clone());
            let finding = finding.related(other.spot.clone(), "it comes later and overrides");
            findings.push(finding.advice(format!(
                "[fleet.{}] after [fleet.{}]",
                heading::key(&fleet.name),
                heading::key(&other.name)
            )));
        }
    }
    pools_shadowed::<Ipv4Addr>(context, findings);
    pools_shadowed::<Ipv6Addr>(context, findings);
}

/// One of these fleets around a fleet of which something is true.
fn around<'p>(
    meetings: &Meetings,
    fleets: &'p [Fleet],
    own: usize,
    among: &Among,
    wanted: impl Fn(usize) -> bool,
) -> Option<&'p Fleet> {
    let (recognised, mut found) = (&fleets[own].recognised, None);
    let _ = meetings.around(recognised, among, &mut |other| {
        if recognised.is_within(&fleets[other].recognised) && wanted(other) {
            found = Some(&fleets[other]);
            return ControlFlow::Break(());
        }
        ControlFlow::Continue(())
    });
    found
}

/// Of several fleets with pools on a network the first gives the address.
fn pools_shadowed<A: Address>(context: &PlanContext<'_>, findings: &mut Findings) {
    let fleets = &context.plan.fleets;
    for network in 0..context.plan.networks.len() {
        let on = context.compiled.fleets_on(network).map(|(fleet, on)| (fleet.place(), on.pools.of::<A>()));
        let own: Vec<(usize, &Pool<A>)> = on.filter_map(|(at, pools)| Some((at?, pools.first()?))).collect();
        if own.len() < 2 {
            continue;
        }
        let meetings = Meetings::new(own.iter().map(|(at, _)| (*at, 0, &fleets[*at].recognised)));
        for (at, pool) in own {
            let earlier = Among { items: 0..at, not_of: None };
            let Some(other) = around(&meetings, fleets, at, &earlier, |_| true) else { continue };
            let name = &fleets[at].name;
            let message = format!("all clients of {name} get their addresses from the pool of {}", other.name);
            let finding = FLEET_SHADOWED.finding(message).at(pool.spot.clone());
            let finding = finding.related(other.spot.clone(), "it comes first, so its pool is used");
            let (name, other) = (heading::key(name), heading::key(&other.name));
            findings.push(finding.advice(format!("[fleet.{name}] before [fleet.{other}]")));
        }
    }
}

/// Whether a fleet sends or withholds everything that another sends, which has nothing of its own on any network.
fn sends_all_of(one: &Fleet, other: &Fleet) -> bool {
    let sends = |sent: &Sent| {
        let own = one.layer.all_sends().map(|own| &own.definition);
        let mut own = own.chain(one.layer.withheld.iter().map(|out| &out.definition));
        own.any(|own| std::sync::Arc::ptr_eq(own, &sent.definition))
    };
    let mut all = other.layer.all_sends().peekable();
    other.on.is_empty() && all.peek().is_some() && all.all(sends)
}

check! { Plan(both!(outside)),
    /// a fleet's pool is outside the network's subnet, or outside the network's pools
    ///
    /// Clients with an address of another subnet cannot communicate. Addresses outside the network's pools were
    /// probably meant for something else.
    static FLEET_POOL_OUTSIDE = "fleet-pool-outside", Error, Plan, "";
    v4_plan!(
        "pool = [\"10.64.4.20-10.64.4.200\"]\n",
        "router = \"10.64.4.1\"\n[fleet.intercoms]\nmatch = { vendor-class = \"Tern *\" }\n\
     [fleet.intercoms.on.control-room]\npool = [\"10.64.6.20-10.64.6.30\"]\n"
    ),
    v6_plan!("pool = [\"2001:db8:64:40::100-2001:db8:64:40::1ff\"]\n\
         advertise = { managed = true, name-servers = \"2001:db8:64::53\" }\n\
         [fleet.radios]\nmatch = { mac = \"02:*\" }\non.mast.pool = [\"2001:db8:64:41::20-2001:db8:64:41::30\"]\n")
}

/// Every fleet with a network on which it has pools of its own of a family, but those that are backwards.
fn pools<A: Address>(plan: &Plan) -> impl Iterator<Item = (&Fleet, usize, &Pool<A>)> {
    let on = plan.fleets.iter().flat_map(|fleet| fleet.on.iter().map(move |on| (fleet, on)));
    let pools = on.flat_map(|(fleet, on)| on.pools.of::<A>().iter().map(move |pool| (fleet, on.network, pool)));
    pools.filter(|(_, _, pool)| !pool.is_backwards())
}

fn outside<A: Address>(context: &PlanContext<'_>, findings: &mut Findings) {
    for (fleet, network, pool) in pools::<A>(context.plan) {
        let network = &context.plan.networks[network];
        let side = network.sides.of::<A>();
        let finding = |message: String| FLEET_POOL_OUTSIDE.finding(message).at(pool.spot.clone());
        let Some(subnet) = side.subnet_with(pool.first).or_else(|| side.subnet()) else {
            let message = format!("{} has a pool {pool} on {}, which has no {}", fleet.name, network.name, A::NET_WORD);
            findings.push(finding(message));
            continue;
        };
        if !subnet.net.holds(pool.first) || !subnet.net.holds(pool.last) {
            let message = format!("the pool {pool} of {} is outside {}", fleet.name, subnet.net);
            findings.push(finding(message).related(subnet.spot.clone(), format!("the {}", A::NET_WORD)));
        } else if let Some(first) = side.pools.first().filter(|_| !side.pools.iter().any(|known| known.covers(pool))) {
            let message = format!("the pool {pool} of {} is outside the pool of {}", fleet.name, network.name);
            let finding = finding(message).as_severity(Severity::Warning);
            findings.push(finding.related(first.spot.clone(), "the network's pool"));
        }
    }
}

check! { Plan(both!(overlap)),
    /// the pools of two fleets overlap
    ///
    /// Each fleet should have its pool for itself; clients of one take addresses of the other.
    static FLEET_POOLS_OVERLAP = "fleet-pools-overlap", Error, Plan, "";
    v4_plan!(
        "pool = [\"10.64.4.20-10.64.4.200\"]\n",
        "router = \"10.64.4.1\"\n[fleet.intercoms]\nmatch = { vendor-class = \"Tern *\" }\n\
     on.control-room.pool = [\"10.64.4.30-10.64.4.40\"]\n[fleet.radios]\nmatch = { vendor-class = \"Gannet *\" }\n\
     on.control-room.pool = [\"10.64.4.40-10.64.4.50\"]\n"
    ),
    v6_plan!("pool = [\"2001:db8:64:40::100-2001:db8:64:40::1ff\"]\n\
         advertise = { managed = true, name-servers = \"2001:db8:64::53\" }\n\
         [fleet.radios]\nmatch = { vendor-class = \"Gannet *\" }\non.mast.pool = [\"2001:db8:64:40::120-2001:db8:64:40::130\"]\n\
         [fleet.intercoms]\nmatch = { vendor-class = \"Tern *\" }\non.mast.pool = [\"2001:db8:64:40::130-2001:db8:64:40::140\"]\n")
}

fn overlap<A: Address>(context: &PlanContext<'_>, findings: &mut Findings) {
    let mut sorted: Vec<(&Fleet, usize, &Pool<A>)> = pools(context.plan).collect();
    sorted.sort_by_key(|(_, network, pool)| (*network, pool.first, pool.last));
    let mut furthest: Option<(&Fleet, usize, &Pool<A>)> = None;
    for one in sorted {
        let (_, network, pool) = one;
        let near = furthest.filter(|(_, at, _)| *at == network);
        if let Some(other) = near.filter(|(_, _, known)| known.meets(pool)) {
            let (at, first) = if pool.spot.span.start < other.2.spot.span.start { (other, one) } else { (one, other) };
            let message = format!("{} has addresses in {} that {} has, too", at.0.name, at.2, first.0.name);
            let finding = FLEET_POOLS_OVERLAP.finding(message).at(at.2.spot.clone());
            findings.push(finding.related(first.2.spot.clone(), "these"));
        }
        if near.is_none_or(|(_, _, known)| known.last < pool.last) {
            furthest = Some(one);
        }
    }
}

check! { Plan(fleets_disagree),
    /// two fleets send different values of one option, and a client may belong to both
    ///
    /// The later one wins, which depends on the order in the file and is easily changed by accident. Each fleet is held against
    /// up to 16 others.
    static FLEETS_DISAGREE = "fleets-disagree", Warning, Plan, "";
    v4_plan!(
        "",
        "router = \"10.64.4.1\"\n[fleet.intercoms]\nmatch = { vendor-class = \"Tern *\" }\n\
         send.v4 = { log-server = \"10.64.0.70\" }\n[fleet.new]\nmatch = { mac = \"02:00:5e:00:53:*\" }\n\
         send.v4 = { log-server = \"10.64.0.71\" }\n"
    )
}

/// A fleet is held against as many others as anybody reads.
const PARTNERS: usize = 16;

/// What a fleet sends of one option: the first of its instances, and the octets of all.
struct Sends<'p> {
    fleet: usize,
    first: &'p Sent,
    octets: Vec<Option<&'p [u8]>>,
}

/// What fleets that some client can belong to send, by option.
fn by_option(plan: &Plan) -> Vec<Vec<Sends<'_>>> {
    let (mut places, mut all) = (HashMap::new(), Vec::new());
    let possible = plan.fleets.iter().enumerate().filter(|(_, fleet)| !fleet.recognised.is_hopeless());
    for (at, fleet) in possible {
        for sent in fleet.layer.all_sends() {
            let place = *places.entry(std::sync::Arc::as_ptr(&sent.definition)).or_insert(all.len());
            if place == all.len() {
                all.push(Vec::new());
            }
            let octets = sent.payload().map(|payload| &payload.octets[..]);
            let of_option: &mut Vec<Sends<'_>> = &mut all[place];
            match of_option.last_mut().filter(|last| last.fleet == at) {
                Some(last) => last.octets.push(octets),
                None => of_option.push(Sends { fleet: at, first: sent, octets: vec![octets] }),
            }
        }
    }
    all
}

fn fleets_disagree(context: &PlanContext<'_>, findings: &mut Findings) {
    let fleets = &context.plan.fleets;
    for sends in by_option(context.plan) {
        let mut values = HashMap::new();
        let classes: Vec<usize> = sends
            .iter()
            .map(|one| {
                let next = values.len();
                *values.entry(&one.octets).or_insert(next)
            })
            .collect();
        if values.len() < 2 {
            continue;
        }
        let recognised = |at: usize| &fleets[sends[at].fleet].recognised;
        let meetings = Meetings::new((0..sends.len()).map(|at| (at, classes[at], recognised(at))));
        for (at, later) in sends.iter().enumerate() {
            let among = Among { items: 0..at, not_of: Some(classes[at]) };
            let mut earlier = BTreeSet::new();
            let _ = meetings.near(recognised(at), &among, &mut |other| {
                if recognised(at).may_share_clients(recognised(other)) {
                    earlier.insert(other);
                }
                if earlier.len() == PARTNERS { ControlFlow::Break(()) } else { ControlFlow::Continue(()) }
            });
            findings.extend(earlier.into_iter().map(|other| disagreement(fleets, &sends[other], later)));
        }
    }
}

fn disagreement(fleets: &[Fleet], earlier: &Sends<'_>, later: &Sends<'_>) -> Finding {
    let [one, other] = [earlier, later].map(|sends| &fleets[sends.fleet].name);
    let name = &later.first.definition.name;
    let message = format!("{one} and {other} send different values of {name}, and a client may belong to both");
    let finding = FLEETS_DISAGREE.finding(message).at(later.first.key.clone());
    finding.related(earlier.first.key.clone(), "sent here, but not to such a client")
}

check! { Plan(sent_but_not_requested),
    /// a fleet is sent an option that its clients do not request
    ///
    /// Servers send what clients request. The value is in the plan, but no client ever receives it.
    static SENT_BUT_NOT_REQUESTED = "sent-but-not-requested", Warning, Plan, "RFC 2131, section 4.3.1";
    v4_plan!(
        "",
        "router = \"10.64.4.1\"\n[fleet.intercoms]\nmatch = { vendor-class = \"Tern *\" }\nrequests = [1, 3, 6, 15]\n\
         send.v4 = { log-server = \"10.64.0.70\" }\n"
    )
}

fn sent_but_not_requested(context: &PlanContext<'_>, findings: &mut Findings) {
    for fleet in &context.plan.fleets {
        let Some(requested) = &fleet.requests else { continue };
        let layers = std::iter::once(&fleet.layer).chain(fleet.on.iter().map(|on| &on.layer));
        for sent in layers.flat_map(|layer| &layer.sends.v4) {
            let codes = codes(sent);
            if !codes.iter().any(|code| requested.contains(code)) {
                let code = codes.first().copied().unwrap_or_default();
                let message = format!("{} is sent {}, but does not request {code}", fleet.name, sent.definition.name);
                let finding = SENT_BUT_NOT_REQUESTED.finding(message).at(sent.key.clone());
                findings.push(finding.advice(format!("{code} in its `requests`, if its clients request it")));
            }
        }
    }
}

/// The codes by which a client requests an option: its own, or that of what carries it.
fn codes(sent: &Sent) -> Vec<u16> {
    let definition = &sent.definition;
    let carried = definition.carriers.iter().filter_map(|carrier| match carrier {
        Carrier::Vendor { family: Family::V4, code, .. } => Some(*code),
        _ => None,
    });
    definition.is_own_of(Protocol::V4).then_some(definition.code).into_iter().chain(carried).collect()
}
