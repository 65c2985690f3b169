//! Rules about pools, exclusions and the addresses that must stay out of them: the same in both families.

use crate::check::declare::{PlanContext, both, check, checks, v4_plan, v6_plan};
use crate::family::{Address, Family};
use crate::finding::{Finding, Findings, Spot};
use crate::heading;
use crate::plan::{Disjoint, Network, Plan, Pool, Ranges, Reservation, Sent, Side, Subnet, gaps};

checks! {
    RANGE_BACKWARDS, POOL_OUTSIDE_SUBNET, POOL_INCLUDES_RESERVED_ADDRESS, POOLS_OVERLAP, EXCLUSION_OUTSIDE_POOL,
    POOL_TOO_SMALL, SENT_ADDRESS_LEASABLE
}

check! { Plan(both!(backwards)),
    /// the last address of a pool or exclusion is below its first
    ///
    /// The range holds no address, so nothing is leased or excluded.
    static RANGE_BACKWARDS = "range-backwards", Error, Plan, "";
    v4_plan!("pool = [\"10.64.5.250-10.64.4.20\"]\n"),
    v6_plan!(managed, "pool = [\"2001:db8:64:40::1ff-2001:db8:64:40::100\"]\n")
}

fn backwards<A: Address>(context: &PlanContext<'_>, findings: &mut Findings) {
    let of_networks = context.plan.networks.iter().flat_map(|network| {
        let side = network.sides.of::<A>();
        side.pools.iter().chain(&side.excluded).map(move |pool| (pool, side))
    });
    let of_fleets = context.plan.fleets.iter().flat_map(|fleet| &fleet.on).flat_map(|on| {
        let side = context.plan.networks[on.network].sides.of::<A>();
        on.pools.of::<A>().iter().map(move |pool| (pool, side))
    });
    for (pool, side) in of_networks.chain(of_fleets).filter(|(pool, _)| pool.is_backwards()) {
        let message = format!("the range is backwards: {} is above {}", pool.first, pool.last);
        let finding = RANGE_BACKWARDS.finding(message).at(pool.spot.clone());
        // The right way round, the range is not to include addresses that no host can have.
        let (lowest, highest) = side.subnet_with(pool.last).map_or((pool.last, pool.first), Subnet::hosts);
        let (first, last) = (pool.last.max(lowest), pool.first.min(highest));
        findings.push(finding.replace(format!("\"{first}-{last}\"")));
    }
}

/// Every pool with the network it belongs to, but those that are backwards.
fn pools<A: Address>(plan: &Plan) -> impl Iterator<Item = (&Network, &Pool<A>)> {
    let pools =
        plan.networks.iter().flat_map(|network| network.sides.of::<A>().pools.iter().map(move |pool| (network, pool)));
    pools.filter(|(_, pool)| !pool.is_backwards())
}

check! { Plan(both!(outside)),
    /// a pool is partly or wholly outside its network's subnet
    ///
    /// A client with such an address cannot reach its own router.
    static POOL_OUTSIDE_SUBNET = "pool-outside-subnet", Error, Plan, "";
    v4_plan!("pool = [\"10.64.6.20-10.64.6.60\"]\n"),
    v6_plan!(managed, "pool = [\"2001:db8:64:4::100-2001:db8:64:4::1ff\"]\n")
}

fn outside<A: Address>(context: &PlanContext<'_>, findings: &mut Findings) {
    for (network, pool) in pools::<A>(context.plan) {
        let side = network.sides.of::<A>();
        let near = [pool.first, pool.last].into_iter().find_map(|address| side.subnet_with(address));
        let Some(subnet) = near.or_else(|| side.subnet()) else {
            findings.extend(without_subnet::<A>(network, pool));
            continue;
        };
        let whole = subnet.net.trunc();
        let (what, spot) = match (whole.holds(pool.first), whole.holds(pool.last)) {
            (true, true) => continue,
            (true, false) => (pool.last.to_string(), &pool.last_spot),
            (false, true) => (pool.first.to_string(), &pool.first_spot),
            (false, false) => (pool.to_string(), &pool.spot),
        };
        let message = format!("{what} is outside {whole}, the {} of {}", A::NET_WORD, network.name);
        let finding = POOL_OUTSIDE_SUBNET.finding(message).at(spot.clone());
        let finding = finding.related(subnet.spot.clone(), format!("the {}", A::NET_WORD));
        let finding = finding.advice({
            let (first, last) = subnet.hosts();
            format!("addresses from {first} to {last}")
        });
        findings.push(if A::FAMILY == Family::V6 { finding.by("RFC 8415, section 13.1") } else { finding });
    }
}

/// Of IPv4 another rule speaks of pools on a network that has no subnet.
fn without_subnet<A: Address>(network: &Network, pool: &Pool<A>) -> Option<Finding> {
    let message = format!("pool {pool} is on {}, which has no {}", network.name, A::NET_WORD);
    let finding = POOL_OUTSIDE_SUBNET.finding(message).at(pool.spot.clone());
    let instead = format!("{} = \"{}\" in [network.{}]", A::NET_WORD, A::EXAMPLE_NET, heading::key(&network.name));
    (A::FAMILY == Family::V6).then(|| finding.advice(instead))
}

check! { Plan(both!(includes_reserved)),
    /// a pool includes the subnet's network address, broadcast address or subnet-router anycast address
    ///
    /// A client with such an address is unreachable and disturbs the others.
    static POOL_INCLUDES_RESERVED_ADDRESS = "pool-includes-reserved-address", Error, Plan, "RFC 1122, section 3.2.1.3";
    v4_plan!("pool = [\"10.64.5.200-10.64.5.255\"]\n"),
    v6_plan!(managed, "pool = [\"2001:db8:64:40::-2001:db8:64:40::ff\"]\n")
}

fn includes_reserved<A: Address>(context: &PlanContext<'_>, findings: &mut Findings) {
    for (network, pool) in pools::<A>(context.plan) {
        let side = network.sides.of::<A>();
        // A pool that reaches out of the subnet has a greater fault.
        let inside = |net: &crate::family::Net<A>| net.holds(pool.first) && net.holds(pool.last);
        let Some(subnet) = side.subnets.iter().find(|subnet| inside(&subnet.net)) else { continue };
        for (address, what) in subnet.reserved() {
            if pool.holds(address) && !side.excluded.iter().any(|out| out.holds(address)) {
                findings.push(reserved(pool, subnet.hosts(), address, &format!("{what} of {}", subnet.net.trunc())));
            }
        }
    }
}

fn reserved<A: Address>(pool: &Pool<A>, hosts: (A, A), address: A, what: &str) -> Finding {
    let finding = POOL_INCLUDES_RESERVED_ADDRESS.finding(format!("the pool includes {address}, {what}"));
    let ends = pool.first_spot != pool.spot;
    let finding = match address {
        _ if pool.first == pool.last => finding.at(pool.spot.clone()).advice("no pool of this address"),
        _ if ends && address == pool.first => {
            finding.at(pool.first_spot.clone()).replace_safely(address.next().unwrap_or(address).to_string())
        }
        _ if ends && address == pool.last => {
            finding.at(pool.last_spot.clone()).replace_safely(address.previous().unwrap_or(address).to_string())
        }
        // A subnet as a pool includes both ends, and one text is to mend both.
        _ => {
            let fixed = Pool { first: pool.first.max(hosts.0), last: pool.last.min(hosts.1), ..pool.clone() };
            finding.at(pool.spot.clone()).replace_safely(format!("\"{fixed}\""))
        }
    };
    if A::FAMILY == Family::V6 { finding.by("RFC 4291, section 2.6.1") } else { finding }
}

check! { Plan(both!(overlap)),
    /// two pools overlap
    ///
    /// An address in two pools is leased from one while it counts as free in the other.
    static POOLS_OVERLAP = "pools-overlap", Error, Plan, "";
    v4_plan!("pool = [\"10.64.4.20-10.64.4.99\", \"10.64.4.90-10.64.4.120\"]\n"),
    v6_plan!(managed, "pool = [\"2001:db8:64:40::100-2001:db8:64:40::1ff\", \"2001:db8:64:40::1f0-2001:db8:64:40::2ff\"]\n")
}

fn overlap<A: Address>(context: &PlanContext<'_>, findings: &mut Findings) {
    let mut sorted: Vec<(&Network, &Pool<A>)> = pools(context.plan).collect();
    sorted.sort_by_key(|(_, pool)| (pool.first, pool.last));
    let mut furthest: Option<(&Network, &Pool<A>)> = None;
    for (network, pool) in sorted {
        if let Some((other, earlier)) = furthest.filter(|(_, earlier)| earlier.meets(pool)) {
            let (at, first) = if pool.spot.span.start < earlier.spot.span.start {
                ((other, earlier), (network, pool))
            } else {
                ((network, pool), (other, earlier))
            };
            let shared = Pool { first: pool.first, last: pool.last.min(earlier.last), ..pool.clone() };
            let finding = POOLS_OVERLAP.finding(format!("{shared} is in two pools")).at(at.1.spot.clone());
            findings.push(finding.related(first.1.spot.clone(), format!("the other pool, of {}", first.0.name)));
        }
        if furthest.is_none_or(|(_, earlier)| earlier.last < pool.last) {
            furthest = Some((network, pool));
        }
    }
}

check! { Plan(both!(exclusion_outside)),
    /// an exclusion outside every pool of its network
    ///
    /// Usually the pool was moved and the exclusion forgotten, or one of the two has a typing error.
    static EXCLUSION_OUTSIDE_POOL = "exclusion-outside-pool", Warning, Plan, "";
    v4_plan!("pool = [\"10.64.4.20-10.64.4.99\"]\nexclude = [\"10.64.4.140-10.64.4.149\"]\n"),
    v6_plan!(managed, "pool = [\"2001:db8:64:40::100-2001:db8:64:40::1ff\"]\nexclude = [\"2001:db8:64:40::300\"]\n")
}

fn exclusion_outside<A: Address>(context: &PlanContext<'_>, findings: &mut Findings) {
    for (at, network) in context.plan.networks.iter().enumerate() {
        let Side { pools, excluded, .. } = network.sides.of::<A>();
        let of_fleets = context.plan.fleets.iter().filter_map(|fleet| fleet.on(at)).flat_map(|on| on.pools.of::<A>());
        let all: Vec<&Pool<A>> = if excluded.is_empty() { Vec::new() } else { pools.iter().chain(of_fleets).collect() };
        let (ranges, places) = (Disjoint::of(all.iter().copied()), (0..).zip(&all));
        let ordered = Ranges::new(places.map(|(place, pool)| (pool.first, pool.last, place)));
        for out in excluded.iter().filter(|out| !out.is_backwards()) {
            if ordered.holding(out.first).any(|place| all[place].covers(out)) {
                continue;
            }
            let (first, last) = out.bits();
            let message = if ranges.meets(first, last) {
                format!("only part of {out} is inside a pool of {}", network.name)
            } else {
                format!("{out} is outside every pool of {}, so it excludes nothing", network.name)
            };
            let mut finding = EXCLUSION_OUTSIDE_POOL.finding(message).at(out.spot.clone());
            if let Some(pool) = all.first() {
                finding = finding.related(pool.spot.clone(), "the pool");
            }
            findings.push(finding.advice("addresses inside the pool, or remove it"));
        }
    }
}

check! { Plan(both!(too_small)),
    /// exclusions, reservations and fleets leave too few addresses in a pool, or none
    ///
    /// The last clients to arrive get no address, and the cause is hard to see in the plan.
    static POOL_TOO_SMALL = "pool-too-small", Warning, Plan, "";
    v4_plan!(
        "pool = [\"10.64.4.20-10.64.4.29\"]\nexclude = [\"10.64.4.20-10.64.4.28\"]\n",
        "router = \"10.64.4.1\"\n[fleet.intercoms]\nmatch = { vendor-class = \"Tern *\" }\n\
     on.control-room.pool = [\"10.64.4.29\"]\n"
    ),
    v6_plan!("pool = [\"2001:db8:64:40::100-2001:db8:64:40::1ff\"]\nexclude = [\"2001:db8:64:40::100-2001:db8:64:40::1fe\"]\n\
         advertise = { managed = true, name-servers = \"2001:db8:64::53\" }\n[fleet.radios]\nmatch = { mac = \"02:*\" }\non.mast.pool = [\"2001:db8:64:40::1ff\"]\n")
}

fn too_small<A: Address>(context: &PlanContext<'_>, findings: &mut Findings) {
    let plan = context.plan;
    of_fleets::<A>(plan, findings);
    for (at, network) in plan.networks.iter().enumerate() {
        let side = network.sides.of::<A>();
        // A pool that is backwards has a greater fault.
        if side.pools.is_empty() || side.pools.iter().any(Pool::is_backwards) {
            continue;
        }
        let (all, of_fleets) = context.compiled.leases::<A>(at);
        // A reservation with an address takes it out of the pool; one without takes any that is left.
        let reserved = plan.reservations.of_network(at);
        if all > reserved.len() as u128 {
            continue;
        }
        let leased = side.leased();
        let inside = |row: &&Reservation| row.address::<A>().is_some_and(|(address, _)| leased.holds(address.bits()));
        let taken = reserved.clone().filter(inside).count() as u128;
        let needed = reserved.filter(|row| row.address::<A>().is_none()).count() as u128;
        let left = all.saturating_sub(taken);
        if left > needed || (left > 0 && needed == left) {
            continue;
        }
        let message = match (left, needed) {
            (0, _) => format!("the pool of {} has no address left for other clients", network.name),
            _ => format!(
                "the pool of {} has {left} addresses left for {needed} reservations without an address",
                network.name
            ),
        };
        let mut finding = POOL_TOO_SMALL.finding(message).at(side.pools[0].spot.clone());
        for (fleet, own) in of_fleets.into_iter().map(|(at, own)| (&plan.fleets[at], own)) {
            finding = finding.related(fleet.spot.clone(), format!("{own} addresses are only for {}", fleet.name));
        }
        findings.push(finding.advice("a larger pool, or no pool if only known clients get addresses"));
    }
}

/// Fleets whose own pools are excluded wholly.
fn of_fleets<A: Address>(plan: &Plan, findings: &mut Findings) {
    for (fleet, on) in plan.fleets.iter().flat_map(|fleet| fleet.on.iter().map(move |on| (fleet, on))) {
        let network = &plan.networks[on.network];
        let (pools, excluded) = (on.pools.of::<A>(), &network.sides.of::<A>().excluded);
        let Some(first) = pools.first().filter(|_| !pools.iter().any(Pool::is_backwards)) else { continue };
        let out = Disjoint::of(excluded);
        let all_out = pools.iter().all(|pool| {
            let (first, last) = pool.bits();
            gaps(first, last, out.from(first).iter().copied()).next().is_none()
        });
        if all_out {
            let message = format!("exclusions of {} leave no address in the pool of {}", network.name, fleet.name);
            let mut finding = POOL_TOO_SMALL.finding(message).at(first.spot.clone());
            if let Some(out) = excluded.iter().find(|out| out.meets(first)) {
                finding = finding.related(out.spot.clone(), "excluded here");
            }
            findings.push(finding.advice("other addresses for the fleet, or no exclusion"));
        }
    }
}

check! { Plan(both!(leasable)),
    /// an address that is sent as a router or server is inside a pool
    ///
    /// One day a laptop is leased the address of the router or the name server, and every client loses both.
    static SENT_ADDRESS_LEASABLE = "sent-address-leasable", Error, Plan, "";
    v4_plan!("pool = [\"10.64.4.1-10.64.5.250\"]\n"),
    v6_plan!("pool = [\"2001:db8:64:40::100-2001:db8:64:40::1ff\"]\n\
         advertise = { managed = true, name-servers = \"2001:db8:64:40::153\" }\n")
}

/// Which network may lease an address, found without a search.
pub(super) struct LeasedBy<A>(Ranges<A>);

impl<A: Address> LeasedBy<A> {
    pub(super) fn of(plan: &Plan) -> Self {
        let networks = plan.networks.iter().enumerate();
        let pools = networks.flat_map(|(at, network)| {
            network.sides.of::<A>().pools.iter().map(move |pool| (pool.first, pool.last, at))
        });
        Self(Ranges::new(pools))
    }

    /// The network that may lease it to any client: not if it is excluded, and not if it is reserved for one.
    pub(super) fn network<'p>(&self, plan: &'p Plan, address: A) -> Option<&'p Network> {
        let excludes = |network: &Network| network.sides.of::<A>().excluded.iter().any(|out| out.holds(address));
        let mut near = self.0.holding(address).map(|at| &plan.networks[at]);
        near.find(|network| !excludes(network)).filter(|_| plan.reservations.at(address).is_none())
    }
}

fn leasable<A: Address>(context: &PlanContext<'_>, findings: &mut Findings) {
    let plan = context.plan;
    let leased = LeasedBy::<A>::of(plan);
    for (sent, address, spot) in sent_hosts::<A>(plan) {
        let Some(network) = leased.network(plan, address) else { continue };
        let name = &sent.definition.name;
        let message = format!("{name} {address} is inside a pool of {}, so it may be leased to a client", network.name);
        let finding = SENT_ADDRESS_LEASABLE.finding(message).at(spot);
        let finding = match network.sides.of::<A>().pools.iter().find(|pool| pool.holds(address)) {
            Some(pool) => finding.related(pool.spot.clone(), format!("the pool with {address}")),
            None => finding,
        };
        let instead =
            format!("exclude = [\"{address}\"] in [network.{}], or a smaller pool", heading::key(&network.name));
        findings.push(finding.advice(instead));
    }
}

/// Every address of a host that a plan sends or a router advertises, with its place.
pub(super) fn sent_hosts<A: Address>(plan: &Plan) -> impl Iterator<Item = (&Sent, A, Spot)> {
    let sent = plan.layers().flat_map(|layer| &layer.sends[A::FAMILY]);
    let advertised = plan.networks.iter().filter_map(|network| network.advertise.as_deref());
    let advertised = advertised.flat_map(|said| &said.sends).filter(|_| A::FAMILY == Family::V6);
    sent.chain(advertised)
        .flat_map(|sent| sent.hosts::<A>(&plan.codebook).into_iter().map(move |(address, spot)| (sent, address, spot)))
}
