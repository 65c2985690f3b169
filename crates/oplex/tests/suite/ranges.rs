//! Networks, subnets and pools of either family against sets of single addresses, which need no arithmetic of prefixes.

use std::collections::BTreeSet;
use std::net::{IpAddr, Ipv4Addr, Ipv6Addr};

use oplex::compiled::Compiled;
use oplex::family::{Address, Net};
use oplex::plan::{Plan, Pool, Subnet};
use proptest::prelude::*;

/// The addresses of 10.64.4.0/24, or of the last octet of 2001:db8:64:40::/64.
fn address<A: Address>(last: u8) -> A {
    match A::FAMILY {
        oplex::family::Family::V4 => A::of(IpAddr::from(Ipv4Addr::new(10, 64, 4, last))),
        oplex::family::Family::V6 => {
            A::of(IpAddr::from(Ipv6Addr::new(0x2001, 0xdb8, 0x64, 0x40, 0, 0, 0, last.into())))
        }
    }
    .unwrap()
}

/// Which of the 256 addresses are in something.
fn members<A: Address>(holds: impl Fn(A) -> bool) -> BTreeSet<u8> {
    (0..=255).filter(|last| holds(address(*last))).collect()
}

fn net<A: Address>(last: u8, short_of_all: u8) -> Net<A> {
    let length = A::BITS - short_of_all;
    format!("{}/{length}", address::<A>(last)).parse().unwrap_or_else(|why| panic!("{last}/{length}: {why}"))
}

fn pool<A: Address>(first: u8, last: u8) -> Pool<A> {
    let text = format!("{}-{}", address::<A>(first), address::<A>(last));
    text.parse().unwrap_or_else(|why| panic!("{text}: {why}"))
}

fn nets_hold_what_they_should<A: Address>(last: u8, room: u8, other: u8, other_room: u8) {
    let (one, two) = (net::<A>(last, room), net::<A>(other, other_room));
    let [in_one, in_two] = [&one, &two].map(|net| members::<A>(|address| net.holds(address)));
    // As many as the octets behind the prefix can count, in one row, and the first is a multiple of that.
    let count = 1usize << room;
    assert_eq!(in_one.len(), count);
    let first = *in_one.first().unwrap();
    assert_eq!((usize::from(first) % count, usize::from(*in_one.last().unwrap())), (0, usize::from(first) + count - 1));
    assert_eq!((one.first(), one.trunc().address()), (address(first), address(first)));
    assert_eq!(one.last(), address(*in_one.last().unwrap()));
    assert_eq!(one.meets(&two), !in_one.is_disjoint(&in_two), "{one} and {two}");
    // What is written is read back, with the address that was in it.
    assert_eq!(one.to_string().parse::<Net<A>>().unwrap(), one);
    assert_eq!((one.address(), one.length()), (address(last), A::BITS - room));
}

fn pools_hold_what_they_should<A: Address>(first: u8, last: u8, other: (u8, u8)) {
    let (one, two) = (pool::<A>(first, last), pool::<A>(other.0, other.1));
    let [in_one, in_two] = [&one, &two].map(|pool| members::<A>(|address| pool.holds(address)));
    assert_eq!((one.is_backwards(), in_one.is_empty()), (first > last, first > last));
    if one.is_backwards() || two.is_backwards() {
        return;
    }
    assert_eq!(one.size(), in_one.len() as u128);
    assert_eq!(one.meets(&two), !in_one.is_disjoint(&in_two));
    assert_eq!(one.covers(&two), in_one.is_superset(&in_two));
}

proptest! {
    #[test]
    fn a_net_is_a_set_of_addresses(last: u8, room in 0u8..=8, other: u8, other_room in 0u8..=8) {
        nets_hold_what_they_should::<Ipv4Addr>(last, room, other, other_room);
        nets_hold_what_they_should::<Ipv6Addr>(last, room, other, other_room);
    }

    #[test]
    fn a_pool_is_a_set_of_addresses(first: u8, last: u8, other: (u8, u8)) {
        pools_hold_what_they_should::<Ipv4Addr>(first, last, other);
        pools_hold_what_they_should::<Ipv6Addr>(first, last, other);
    }

    /// What a network leases: what its pools have, without exclusions; what is reserved is leased as well, to one client.
    #[test]
    fn what_is_leased_is_what_is_left(
        pools in prop::collection::vec((1u8..=254, 1u8..=254), 1..4),
        excluded in prop::collection::vec((1u8..=254, 1u8..=254), 0..4),
        reserved in prop::collection::btree_set(1u8..=254, 0..6),
    ) {
        let upright = |(one, two): &(u8, u8)| (*one.min(two), *one.max(two));
        let text = |ranges: &[(u8, u8)]| {
            let one = |range| { let (first, last) = upright(range); format!("\"10.64.4.{first}-10.64.4.{last}\"") };
            ranges.iter().map(one).collect::<Vec<_>>().join(", ")
        };
        let rows: String = reserved.iter().map(|last| format!(
            "[[reservation]]\nnetwork = \"desk\"\nmac = \"02:00:5e:00:53:{last:02x}\"\naddress = \"10.64.4.{last}\"\n"
        )).collect();
        let plan = format!(
            "[network.desk]\nsubnet = \"10.64.4.0/24\"\npool = [{}]\nexclude = [{}]\n{rows}", text(&pools), text(&excluded)
        );
        let plan = Plan::read("plan.toml", &plan, &mut |path| Err(format!("no file {path}").into())).plan.unwrap();
        let compiled = Compiled::of(&plan);
        let all = |ranges: &[(u8, u8)]| -> BTreeSet<u8> {
            ranges.iter().map(upright).flat_map(|(first, last)| first..=last).collect()
        };
        let left: BTreeSet<u8> = &all(&pools) - &all(&excluded);
        let (count, _) = compiled.leases::<Ipv4Addr>(0);
        assert_eq!(count, left.len() as u128);
        let of_network: Vec<&Pool<Ipv4Addr>> = plan.networks[0].sides.v4.pools.iter().collect();
        let ranges = compiled.leasable_on(0, &of_network);
        let listed: BTreeSet<u8> =
            ranges.iter().flat_map(|(first, last)| first.octets()[3]..=last.octets()[3]).collect();
        assert_eq!(listed, left);
    }
}

/// RFC 3021 and RFC 6164: a subnet for two has no addresses of its own, and neither has one for a single host.
#[test]
fn subnets_keep_their_own_addresses() {
    for (subnet, own, hosts) in [
        ("10.64.4.0/24", &["10.64.4.0", "10.64.4.255"][..], ("10.64.4.1", "10.64.4.254")),
        ("10.64.4.128/25", &["10.64.4.128", "10.64.4.255"], ("10.64.4.129", "10.64.4.254")),
        ("10.64.4.8/30", &["10.64.4.8", "10.64.4.11"], ("10.64.4.9", "10.64.4.10")),
        ("10.64.4.8/31", &[], ("10.64.4.8", "10.64.4.9")),
        ("10.64.4.8/32", &[], ("10.64.4.8", "10.64.4.8")),
    ] {
        let text = format!("[network.desk]\nsubnet = \"{subnet}\"\n");
        let plan = Plan::read("plan.toml", &text, &mut |path| Err(format!("no file {path}").into())).plan.unwrap();
        let known: &Subnet<Ipv4Addr> = plan.networks[0].sides.v4.subnet().unwrap();
        let reserved: Vec<String> = known.reserved().map(|(address, _)| address.to_string()).collect();
        assert_eq!(reserved, own, "{subnet}");
        assert_eq!(known.hosts(), (hosts.0.parse().unwrap(), hosts.1.parse().unwrap()), "{subnet}");
    }
    for (prefix, own) in [("2001:db8:64:40::/64", 1), ("2001:db8:64:40::/127", 0), ("2001:db8:64:40::/128", 0)] {
        let text = format!("[network.mast]\nprefix = \"{prefix}\"\n");
        let plan = Plan::read("plan.toml", &text, &mut |path| Err(format!("no file {path}").into())).plan.unwrap();
        assert_eq!(plan.networks[0].sides.v6.subnet().unwrap().reserved().count(), own, "{prefix}");
    }
}
