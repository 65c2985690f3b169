//! One mistake is one mistake in either family: plans that say the same of IPv4 and of IPv6 meet the same verdict.

use std::collections::BTreeSet;

use oplex::check;
use oplex::codebook::Codebook;
use oplex::family::Family;
use oplex::finding::{Example, Finding, Rule, Sources};
use oplex::plan::Plan;
use proptest::prelude::*;
use proptest::strategy::ValueTree;

/// A plan without a family: addresses count from the first of its subnets.
#[derive(Debug, Clone)]
struct Outline {
    /// Where each network begins, and how many bits it leaves to its hosts.
    networks: Vec<(u16, u8)>,
    /// Bits below the first network's length, which should be zero.
    host_bits: u16,
    pools: Vec<(u16, u16)>,
    excluded: Vec<(u16, u16)>,
    fleets: Vec<(u16, u16)>,
    reserved: Vec<u16>,
    servers: Vec<u16>,
    times: (&'static str, &'static str),
}

impl Outline {
    /// The same on the same lines in either family.
    fn written(&self, family: Family) -> String {
        let address = |at: u16| match family {
            Family::V4 => format!("10.64.{}.{}", 8 + (at >> 8), at & 255),
            Family::V6 => format!("2001:db8:64:8::{at:x}"),
        };
        let list = |key: &str, ranges: &[(u16, u16)]| {
            let range = |(first, last): &(u16, u16)| format!("\"{}-{}\",\n", address(*first), address(*last));
            format!("{key} = [\n{}]\n", ranges.iter().map(range).collect::<String>())
        };
        let [net, bits, advertise, reserved] = match family {
            Family::V4 => ["subnet", "32", "", "address"],
            Family::V6 => ["prefix", "128", "advertise = { managed = true }", "address-v6"],
        };
        let length = |hosts: u8| bits.parse::<u8>().unwrap() - hosts;
        let (sends, server) = match family {
            Family::V4 => ("send.v4", "domain-server"),
            Family::V6 => ("send.v6", "dns-servers"),
        };
        let servers: String = self.servers.iter().map(|at| format!("\"{}\",\n", address(*at))).collect();
        let mut text = match servers.is_empty() {
            true => String::new(),
            false => format!("[{sends}]\n{server} = [\n{servers}]\n"),
        };
        for (place, (first, hosts)) in self.networks.iter().enumerate() {
            let first = if place == 0 { first | self.host_bits } else { *first };
            text += &format!("[network.n{place}]\n{net} = \"{}/{}\"\n{advertise}\n", address(first), length(*hosts));
            if place == 0 {
                text += &list("pool", &self.pools);
                text += &list("exclude", &self.excluded);
                text += &format!("lease = \"8h\"\n{}\n{}\n", self.times.0, self.times.1);
            }
        }
        for (place, pool) in self.fleets.iter().enumerate() {
            text += &format!("[fleet.f{place}]\nmatch = {{ vendor-class = \"F{place}\" }}\n[fleet.f{place}.on.n0]\n");
            text += &list("pool", &[*pool]);
        }
        for (place, at) in self.reserved.iter().enumerate() {
            let mac = format!("02:00:5e:00:53:{place:02x}");
            text += &format!("[[reservation]]\nnetwork = \"n0\"\nmac = \"{mac}\"\n{reserved} = \"{}\"\n", address(*at));
        }
        text
    }

    /// The rules of both families that find something, with the lines they point at.
    fn verdict(&self, family: Family) -> BTreeSet<(&'static str, usize)> {
        let text = self.written(family);
        let loaded = Plan::read("plan.toml", &text, &mut |_| Err("no such file".into()));
        let both = of_both();
        let found = check::plan(&loaded).into_iter().filter(|finding| both.contains(finding.rule.name));
        let place = |at: &Finding| match at.rule.name {
            // What is missing is missed where it would be written: in IPv6, in what the router advertises.
            "no-name-server" => 0,
            _ => loaded.sources.location(at.spot.as_ref().unwrap()).line,
        };
        found.map(|at| (at.rule.name, place(&at))).collect()
    }
}

/// Rules with an example in each family.
fn of_both() -> BTreeSet<&'static str> {
    let has = |rule: &Rule, key: &str| {
        rule.examples.iter().any(|example| matches!(example, Example::Plan(text) if text.contains(key)))
    };
    let alike = |rule: &&Rule| has(rule, "\nsubnet = ") && has(rule, "\nprefix = ") && rule.examples.len() > 1;
    // Which addresses are for something else differs between the families.
    let alike = |rule: &&Rule| alike(rule) && rule.name != "subnet-not-unicast";
    check::catalogue().into_iter().filter(alike).map(|rule| rule.name).collect()
}

fn ranges(most: usize) -> impl Strategy<Value = Vec<(u16, u16)>> {
    // Now and then a range runs backwards or leaves its subnet.
    prop::collection::vec((0u16..300, -3i32..40), 0..=most).prop_map(|all| {
        let range = |(first, more): (u16, i32)| (first, u16::try_from(i32::from(first) + more).unwrap_or(0));
        all.into_iter().map(range).collect()
    })
}

fn outlines() -> impl Strategy<Value = Outline> {
    let networks = prop::sample::subsequence(vec![(0x100, 8u8), (0x80, 7), (0x200, 8)], 0..=3);
    let renew = prop::sample::select(vec!["", "renew = \"2h\"", "renew = \"7h30m\""]);
    let rebind = prop::sample::select(vec!["", "rebind = \"7h45m\"", "rebind = \"1h\"", "rebind = \"9h\""]);
    let host_bits = prop::sample::select(vec![0, 0, 0, 5]);
    let hosts = || prop::collection::vec(0u16..300, 0..4);
    (networks, host_bits, ranges(3), ranges(2), ranges(2), hosts(), hosts(), (renew, rebind)).prop_map(
        |(more, host_bits, pools, excluded, fleets, reserved, servers, times)| Outline {
            networks: std::iter::once((0, 8)).chain(more).collect(),
            host_bits,
            // The broadcast address is IPv4's alone.
            pools: pools.into_iter().map(|(first, last)| (first, if last == 255 { 254 } else { last })).collect(),
            excluded,
            fleets: fleets.into_iter().map(|(first, last)| (first, if last == 255 { 254 } else { last })).collect(),
            reserved: reserved.into_iter().filter(|at| *at != 255).collect(),
            servers,
            times,
        },
    )
}

proptest! {
    #[test]
    fn a_mistake_meets_one_verdict_in_either_family(outline in outlines()) {
        let (v4, v6) = (outline.verdict(Family::V4), outline.verdict(Family::V6));
        prop_assert_eq!(v4, v6, "{}", outline.written(Family::V4));
    }
}

/// The property above means nothing for rules that it never meets.
#[test]
fn the_outlines_meet_every_rule_of_both_families() {
    let mut runner = proptest::test_runner::TestRunner::deterministic();
    let mut met = BTreeSet::new();
    for _ in 0..400 {
        let outline = outlines().new_tree(&mut runner).unwrap().current();
        met.extend(outline.verdict(Family::V6).into_iter().map(|(rule, _)| rule));
    }
    assert_eq!(met, of_both());
}

/// What an address is for stands in a layout, not in the name of a field.
#[test]
fn fields_of_any_name_meet_one_verdict() {
    let verdict = |layout: &str, octets: &[u8]| {
        let text = format!(
            "book = \"hill\"\ntitle = \"Hill\"\ncarriers = [\"v4\"]\n[[option]]\ncode = 224\nname = \"door\"\n\
             layout = \"{layout}\"\nreference = \"the hill's notes\"\n"
        );
        let (mut sources, mut codebook) = (Sources::default(), Codebook::standard().clone());
        let file = sources.add("hill.toml", text);
        assert_eq!(codebook.add(&sources, file), [], "{layout}");
        let found = check::payload(&codebook, codebook.find("hill:door").unwrap(), octets);
        found.iter().map(|finding| finding.rule.name).collect::<Vec<_>>()
    };
    for (role, address, rules) in [
        ("", [127, 0, 0, 1], &["address-not-a-host"][..]),
        ("", [224, 0, 0, 1], &["address-not-a-host"]),
        ("", [10, 64, 8, 1], &[]),
        (" as network", [0, 0, 0, 0], &[]),
        (" as any", [127, 0, 0, 1], &[]),
        (" as group", [224, 0, 1, 84], &[]),
    ] {
        for name in ["subnet", "network", "router", "group"] {
            let layout = format!("{{ {name}: ipv4{role}, port: u16 }}");
            let octets = [&address[..], &[0, 80]].concat();
            assert_eq!(verdict(&layout, &octets), rules, "{layout} {address:?}");
        }
    }
}
