//! Fleets are found by indexes; what comes of it is what a look at each would say.

use std::collections::BTreeSet;

use oplex::check;
use oplex::compiled::Compiled;
use oplex::family::Family;
use oplex::plan::{ClientFacts, Loaded, Plan};
use proptest::prelude::*;

/// What fleets may be recognised by, so that many of them meet.
const FACTS: [(&str, &[&str]); 5] = [
    ("vendor-class", &["Tern D2", "Tern *", "Tern ?2", "Tern D*", "Gannet", "*", "*2", "T*"]),
    (
        "mac",
        &[
            "02:00:5e:*",
            "02:00:5e:00:53:11",
            "02:*",
            "02:00:5e:00:53:00-02:00:5e:00:53:1f",
            "*:11",
            "02:00:5e:00:00:00-02:00:5e:ff:ff:ff",
            "04:*",
        ],
    ),
    ("hostname", &["desk", "desk*", "lamp", "*k"]),
    ("user-class", &["blue", "b*"]),
    ("circuit-id", &["port7", "port*"]),
];

type Conditions = Vec<(usize, Vec<usize>)>;

fn conditions() -> impl Strategy<Value = Conditions> {
    let one = (0..FACTS.len(), prop::collection::vec(0usize..8, 1..3));
    prop::collection::vec(one, 1..3)
}

fn written(conditions: &Conditions, any: bool) -> String {
    let one = |(fact, patterns): &(usize, Vec<usize>)| {
        let (key, texts) = FACTS[*fact];
        let texts: Vec<String> = patterns.iter().map(|at| format!("{:?}", texts[at % texts.len()])).collect();
        format!("{{ {key} = [{}] }}", texts.join(", "))
    };
    let all: Vec<String> = conditions.iter().map(one).collect();
    format!("match = {{ {} = [{}] }}", if any { "any" } else { "all" }, all.join(", "))
}

fn plan(fleets: &[(Conditions, bool, u8)]) -> Loaded {
    let mut text = "[network.yard]\nsubnet = \"10.64.0.0/24\"\npool = \"10.64.0.20-10.64.0.200\"\n".to_owned();
    for (at, (conditions, any, server)) in fleets.iter().enumerate() {
        let (wanted, server) = (written(conditions, *any), server % 3);
        text += &format!("[fleet.f{at}]\n{wanted}\nsend.v4 = {{ log-server = \"10.9.0.{server}0\" }}\n");
        let pool = 20 + 10 * at;
        text += &format!("[fleet.f{at}.on.yard]\npool = \"10.64.0.{pool}-10.64.0.{}\"\n", pool + 4);
    }
    Plan::read("plan.toml", &text, &mut |_| Ok(String::new()))
}

proptest! {
    #[test]
    fn fleets_that_meet_are_those_that_a_look_at_each_pair_finds(
        fleets in prop::collection::vec((conditions(), any::<bool>(), any::<u8>()), 1..9),
    ) {
        let loaded = plan(&fleets);
        let known = &loaded.plan.as_ref().unwrap().fleets;
        prop_assert_eq!(known.len(), fleets.len());
        let found = check::plan(&loaded);
        let said = |rule: &str| {
            found.iter().filter(|one| one.rule.name == rule).map(|one| one.message.clone()).collect::<BTreeSet<_>>()
        };
        let (mut disagree, mut shadowed) = (BTreeSet::new(), BTreeSet::new());
        for (at, later) in known.iter().enumerate() {
            for (before, earlier) in known[..at].iter().enumerate() {
                let (one, other) = (&earlier.name, &later.name);
                let differ = fleets[at].2 % 3 != fleets[before].2 % 3;
                if differ && earlier.recognised.may_share_clients(&later.recognised) {
                    disagree.insert(format!("{one} and {other} send different values of log-server, and a client may belong to both"));
                }
                if later.recognised.is_within(&earlier.recognised) {
                    shadowed.insert(other.clone());
                }
            }
        }
        prop_assert_eq!(said("fleets-disagree"), disagree);
        // Any of the earlier fleets around it may be named.
        let pools = said("fleet-shadowed").iter().map(|one| one.split(' ').nth(3).unwrap().to_owned()).collect::<BTreeSet<_>>();
        prop_assert_eq!(pools, shadowed);
    }

    #[test]
    fn clients_belong_to_the_fleets_whose_conditions_they_meet(
        fleets in prop::collection::vec((conditions(), any::<bool>(), any::<u8>()), 1..9),
        class in prop::sample::select(vec!["Tern D2", "Tern", "Gannet", "Heron 2"]),
        name in prop::sample::select(vec!["desk", "desk2", "lamp", "peak"]),
        mac in prop::sample::select(vec![[2, 0, 0x5e, 0, 0x53, 0x11], [2, 9, 9, 9, 9, 0x11], [6, 0, 0, 0, 0, 1]]),
    ) {
        let loaded = plan(&fleets);
        let plan = loaded.plan.as_ref().unwrap();
        let compiled = Compiled::of(plan);
        let mut client = ClientFacts { mac: Some(mac.into()), ..ClientFacts::on(0) };
        for (key, text) in [("vendor-class", class), ("hostname", name), ("user-class", "blue"), ("circuit-id", "port7")] {
            client.describe(&plan.codebook, key, text).unwrap();
        }
        let answer = compiled.answer(Family::V4, &client).unwrap();
        let names: Vec<&str> = answer.fleets.iter().map(|fleet| &*fleet.name).collect();
        let meets = |fleet: &&oplex::compiled::Fleet<'_>| compiled.unfit(fleet, &client, Family::V4).is_empty();
        let slow: Vec<&str> = compiled.fleets.iter().filter(meets).map(|fleet| &*fleet.name).collect();
        prop_assert_eq!(names, slow);
    }
}
