//! The lab: stand-in clients and a server, in simulated time.

use std::time::Duration;

use oplex::audit::{Audit, Policy, Summary};
use oplex::check;
use oplex::compiled::Compiled;
use oplex::finding::{Finding, Severity};
use oplex::lab::{ClientKind, Clients, End, Event, Faults, Lab, LabReport, Population, Stock, Tally};
use oplex::packet::{AnyMessage, Message as _};
use oplex::plan::Plan;
use proptest::prelude::*;

use crate::servers::demo;

const DAY: u64 = 86_400;

fn plan(text: &str) -> Plan {
    Plan::read("plan.toml", text, &mut |path| Err(format!("no file {path}").into())).plan.expect("it is TOML")
}

/// What came of a lab: what is counted, what its audit says, and all packets as one text.
fn played(compiled: &Compiled<'_>, mut lab: Lab<'_>, until: Duration) -> (Tally, Summary, Vec<(Duration, Vec<u8>)>) {
    let mut audit = Audit::against(compiled, Policy::default());
    let (mut number, mut packets) = (0, Vec::new());
    lab.run(until, &mut |report| {
        let LabReport::Packet(heard) = report else { return };
        number += 1;
        let seen = heard.seen(Duration::from_secs(1_793_599_200), number);
        let found = seen.findings(&compiled.codebook);
        audit.add(&seen, found);
        packets.push((heard.at, heard.packet.octets.clone()));
    });
    (lab.tally(), audit.finish(), packets)
}

/// The demo's networks for three days: everybody has what they need, nothing is leased twice, and the audit of what was said finds
/// nothing wrong.
#[test]
fn the_demo_lives_for_three_days() {
    let demo = demo().plan.unwrap();
    let compiled = Compiled::of(&demo);
    let population = Population::of(&compiled, 4);
    assert_eq!(population.unmatched, Vec::<String>::new());
    let time = Duration::from_secs(3 * DAY);
    let run = |seed| played(&compiled, Lab::new(&compiled, population.clone(), Faults::default(), seed), time);
    let (tally, summary, packets) = run(1);
    for group in &tally.groups {
        assert_eq!(group.content, group.clients, "{group:?}");
        assert!(group.leased + group.settings > 0, "{group:?}");
        assert_eq!((group.refused, group.unanswered), (0, 0), "{group:?}");
    }
    assert_eq!(tally.twice, []);
    assert_eq!((summary.count(Severity::Error), summary.count(Severity::Warning)), (0, 0), "{:?}", summary.kinds);
    // The same by the same chance, and another run by another.
    let (again, _, same) = run(1);
    assert_eq!((again, same == packets), (tally, true));
    assert!(run(2).2 != packets);
}

#[test]
fn what_runs_out_is_said_with_its_time() {
    let text = "server = \"10.64.0.67\"\nlease = \"1h\"\n[network.desk]\nsubnet = \"10.64.4.0/24\"\n\
                pool = \"10.64.4.20-10.64.4.24\"\nprefix = \"2001:db8:64:4::/64\"\ndelegate = [\"2001:db8:6400::/62 as /64\"]\n\
                advertise = { managed = true }\nsend.v4 = { router = \"10.64.4.1\" }\n\
                [fleet.phones]\nmatch = { vendor-class = \"Tern *\" }\n[fleet.phones.on.desk]\npool = \"10.64.4.24\"\n";
    let plan = plan(text);
    let compiled = Compiled::of(&plan);
    let clients = "[[clients]]\nnetwork = \"desk\"\nkind = \"careless\"\ncount = 5\nfamilies = [\"v4\"]\n\
                   [[clients]]\nnetwork = \"desk\"\nkind = \"phone\"\ncount = 2\nstarts = \"10m\"\nvendor-class = \"Tern D2\"\n\
                   [[clients]]\nnetwork = \"desk\"\nkind = \"router\"\ncount = 5\n";
    let population = Clients::read(&compiled, "clients.toml", clients).population.expect("nothing is wrong");
    let (tally, ..) =
        played(&compiled, Lab::new(&compiled, population, Faults::default(), 7), Duration::from_secs(1800));
    let content: Vec<_> = tally.groups.iter().map(|group| (group.content, group.clients)).collect();
    // One of the careless machines, one of the phones and one of the routers are too many.
    assert_eq!(content, [(4, 5), (1, 2), (4, 5)]);
    let mut pools =
        tally.pools.iter().map(|pool| (pool.stock, pool.fleet.as_deref(), pool.size, pool.peak, pool.empty));
    let phones = pools.find(|(_, fleet, ..)| fleet.is_some()).unwrap();
    assert_eq!((phones.1, phones.2, phones.3), (Some("phones"), 1, 1));
    let first = phones.4.expect("it ran out").1;
    // Nobody answers for two minutes.
    assert!((600..900).contains(&first.as_secs()), "{first:?}");
    let prefixes = tally.pools.iter().find(|pool| pool.stock == Stock::Prefixes).unwrap();
    assert_eq!((prefixes.size, prefixes.peak, prefixes.empty.is_some()), (4, 4, true));
}

/// What becomes of each kind that ships, on a network that has everything, in its first day.
#[test]
fn each_kind_behaves_as_it_says() {
    let text = "server = \"10.64.0.67\"\nlease = \"6h\"\n[network.desk]\nsubnet = \"10.64.4.0/24\"\n\
                pool = [\"10.64.4.20-10.64.4.90\", \"2001:db8:64:4::20-2001:db8:64:4::90\"]\nprefix = \"2001:db8:64:4::/64\"\n\
                delegate = [\"2001:db8:6400::/48 as /56\"]\nadvertise = { managed = true, other = true }\n\
                send.v4 = { router = \"10.64.4.1\" }\nsend.v6 = { dns-servers = \"2001:db8:64::53\" }\n";
    let plan = plan(text);
    let compiled = Compiled::of(&plan);
    // Leased, extended, released, expired, settings alone.
    let expected = [
        ("desktop", (2, 4, 0, 0, 0)),
        ("phone", (1, 7, 0, 0, 0)),
        ("uefi-boot", (2, 0, 2, 0, 0)),
        ("bios-boot", (1, 0, 0, 0, 0)),
        ("router", (2, 14, 0, 0, 0)),
        ("stateless", (0, 0, 0, 0, 1)),
        ("sensor", (2, 14, 0, 0, 0)),
        ("careless", (8, 0, 0, 6, 0)),
    ];
    for (kind, wanted) in expected {
        let clients = format!("[[clients]]\nnetwork = \"desk\"\nkind = \"{kind}\"\n");
        let population = Clients::read(&compiled, "clients.toml", &clients).population.expect("nothing is wrong");
        let lab = Lab::new(&compiled, population, Faults::default(), 3);
        let (tally, summary, _) = played(&compiled, lab, Duration::from_secs(DAY - 600));
        let group = &tally.groups[0];
        let seen = (group.leased, group.renewed, group.released, group.expired, group.settings);
        assert_eq!(seen, wanted, "{kind}");
        assert_eq!(summary.count(Severity::Error) + summary.count(Severity::Warning), 0, "{kind}: {:?}", summary.kinds);
    }
    let shipped: Vec<&str> = ClientKind::shipped().iter().map(|kind| &*kind.name).collect();
    assert!(expected.iter().all(|(kind, _)| shipped.contains(kind)), "{shipped:?}");
    assert_eq!(shipped.len(), expected.len() + 1, "all but the hostile one: {shipped:?}");
}

/// Without anything extended a lease ends with its time, counted from when it was asked for, and not a second later.
#[test]
fn leases_end_in_time() {
    let text = "server = \"10.64.0.67\"\nlease = \"6h\"\n[network.desk]\nsubnet = \"10.64.4.0/24\"\n\
                pool = [\"10.64.4.20-10.64.4.90\", \"2001:db8:64:4::20-2001:db8:64:4::90\"]\nprefix = \"2001:db8:64:4::/64\"\n\
                advertise = { managed = true }\n";
    let plan = plan(text);
    let compiled = Compiled::of(&plan);
    let clients = "[[clients]]\nnetwork = \"desk\"\nkind = \"careless\"\n";
    let population = Clients::read(&compiled, "clients.toml", clients).population.expect("nothing is wrong");
    let mut lab = Lab::new(&compiled, population, Faults::default(), 3);
    let mut ends = std::collections::HashMap::new();
    let mut ended = 0;
    lab.run(Duration::from_secs(2 * DAY), &mut |report| match report {
        LabReport::Event(at, _, Event::Leased { leased, seconds }) => {
            assert_eq!(*seconds, 6 * 3600);
            ends.insert(*leased, at + Duration::from_secs(6 * 3600));
        }
        LabReport::Event(at, _, Event::Ended { leased, why: End::Expired }) => {
            let early = ends.remove(leased).expect("it was leased").saturating_sub(at);
            assert!(early > Duration::ZERO && early <= Duration::from_secs(1), "{leased}: {early:?}");
            ended += 1;
        }
        _ => {}
    });
    assert_eq!(ended, 15);
}

/// What servers say, by the rules for what is about to be sent.
fn replies_are_right(found: &[Finding]) -> Result<(), TestCaseError> {
    // What relay agents say of themselves is returned as it came (RFC 3046, section 2.2).
    let returned = |finding: &Finding| finding.option.as_ref().is_some_and(|option| option.starts_with("v4:82"));
    let wrong = found.iter().filter(|finding| finding.severity == Severity::Error && !returned(finding));
    let wrong: Vec<&Finding> = wrong.collect();
    prop_assert!(wrong.is_empty(), "{wrong:?}");
    Ok(())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(16))]

    /// Whatever gets lost, comes twice, comes late, and whoever is started anew: no address is ever held by two clients, every
    /// reply is right.
    #[test]
    fn no_fault_leases_anything_twice(
        seed in any::<u64>(),
        (lost, doubled, late) in (0u16..400, 0u16..300, 0u16..300),
        restarts in prop::collection::vec((600u64..40_000, any::<prop::sample::Index>(), any::<bool>()), 0..12),
    ) {
        let text = "server = \"10.64.0.67\"\nlease = \"40m\"\n[network.desk]\nsubnet = \"10.64.4.0/24\"\n\
                    pool = [\"10.64.4.20-10.64.4.25\", \"2001:db8:64:4::20-2001:db8:64:4::25\"]\nprefix = \"2001:db8:64:4::/64\"\n\
                    delegate = [\"2001:db8:6400::/61 as /64\"]\nadvertise = { managed = true }\n\
                    send.v4 = { router = \"10.64.4.1\" }\n";
        let clients = "[kind.brief]\non = \"50m\"\nevery = \"90m\"\n[kind.polite]\nreleases = true\non = \"30m\"\nevery = \"70m\"\n\
                       [[clients]]\nnetwork = \"desk\"\nkind = \"sensor\"\ncount = 3\n\
                       [[clients]]\nnetwork = \"desk\"\nkind = \"brief\"\ncount = 4\nover = \"1h\"\n\
                       [[clients]]\nnetwork = \"desk\"\nkind = \"polite\"\ncount = 3\nover = \"1h\"\n\
                       [[clients]]\nnetwork = \"desk\"\nkind = \"careless\"\ncount = 2\n\
                       [[clients]]\nnetwork = \"desk\"\nkind = \"router\"\ncount = 3\n\
                       [[clients]]\nnetwork = \"desk\"\nkind = \"hostile\"\ncount = 1\n";
        let plan = plan(text);
        let compiled = Compiled::of(&plan);
        let population = Clients::read(&compiled, "clients.toml", clients).population.expect("nothing is wrong");
        let count = population.groups.iter().map(|group| group.members.len()).sum::<usize>();
        let mut lab = Lab::new(&compiled, population, Faults { lost, doubled, late }, seed);
        let mut found = Vec::new();
        let mut report = |report: LabReport<'_>| match report {
            LabReport::Packet(heard) if !heard.packet.from_client => {
                let octets = heard.seen(Duration::ZERO, 1);
                if let Ok(message) = AnyMessage::read(octets.protocol, &octets.octets) {
                    found.extend(check::message_to_send(&compiled.codebook, message));
                }
            }
            _ => {}
        };
        let mut restarts = restarts;
        restarts.sort_unstable_by_key(|(at, ..)| *at);
        for (at, which, server) in restarts {
            lab.run(Duration::from_secs(at), &mut report);
            if server {
                lab.restart_server();
            } else {
                lab.restart_client(which.index(count), &mut report);
            }
        }
        lab.run(Duration::from_secs(DAY / 2), &mut report);
        prop_assert_eq!(lab.tally().twice, []);
        prop_assert!(lab.leases() < 200, "{}", lab.leases());
        replies_are_right(&found)?;
    }
}

/// A flood of strangers takes what there is, and no more memory than that.
#[test]
fn a_flood_is_bounded() {
    flood(40, 12, 300_000);
}

/// The same with sixty million messages, which takes minutes: `cargo test --release -p oplex --test suite flood -- --ignored`.
#[test]
#[ignore = "takes minutes"]
fn a_long_flood_is_bounded() {
    flood(400, 250, 60_000_000);
}

fn flood(count: u32, hours: u64, requests: u64) {
    let text = "server = \"10.64.0.67\"\nlease = \"10m\"\n[network.desk]\nsubnet = \"10.64.4.0/24\"\npool = \"10.64.4.20-10.64.4.90\"\n\
                prefix = \"2001:db8:64:4::/64\"\n[network.desk.advertise]\nmanaged = true\n";
    let text =
        text.replace("pool = \"", "pool = [\"2001:db8:64:4:1::-2001:db8:64:4:ffff::\", \"").replace(".90\"", ".90\"]");
    let plan = plan(&text);
    let compiled = Compiled::of(&plan);
    let clients = format!(
        "[[clients]]\nnetwork = \"desk\"\nkind = \"hostile\"\ncount = {count}\n\
         [[clients]]\nnetwork = \"desk\"\nkind = \"sensor\"\n"
    );
    let population = Clients::read(&compiled, "clients.toml", &clients).population.expect("nothing is wrong");
    let mut lab = Lab::new(&compiled, population, Faults::default(), 5);
    let mut most = 0;
    for hour in 1..=hours {
        lab.run(Duration::from_secs(3600 * hour), &mut |_| {});
        most = most.max(lab.leases());
    }
    let tally = lab.tally();
    assert!(tally.requests > requests, "{}", tally.requests);
    // Ten minutes of strangers, and twice as many at most before they are forgotten.
    assert!(most < 2 * 600 / 5 * count as usize, "{most}");
    assert_eq!((tally.twice, tally.groups[1].content), (vec![], 1));
}

#[test]
fn what_is_wrong_with_a_file_of_clients_is_said_where_it_is() {
    let plan = plan("[network.desk]\nsubnet = \"10.64.4.0/24\"\n");
    let compiled = Compiled::of(&plan);
    let cases = [
        ("[[clients]]\nkind = \"phone\"\n", "1: key `network` is missing"),
        ("[[clients]]\nnetwork = \"desk\"\n", "1: key `kind` is missing"),
        ("[[clients]]\nnetwork = \"dusk\"\nkind = \"phone\"\n", "2: unknown network `dusk`, try desk"),
        ("[[clients]]\nnetwork = \"desk\"\nkind = \"phones\"\n", "3: unknown kind `phones`, try phone"),
        (
            "[[clients]]\nnetwork = \"desk\"\nkind = \"phone\"\nrenew = false\n",
            "4: unknown key `renew` in clients of a lab, try renews",
        ),
        ("[[clients]]\nnetwork = \"desk\"\nkind = \"phone\"\non = \"9h\"\n", "4: `on` and `every` stand together"),
        ("[kind.mill]\nfamilies = [\"v5\"]\n", "2: `v5` is no family: `v4` or `v6`"),
        ("[kind.mill]\nrequests = [300]\n", "2: a requested option is a code up to 255, or a name"),
        ("[kind.mill]\narch = \"steam\"\n", "2: unknown architecture `steam`"),
        (
            "[[clients]]\nnetwork = \"desk\"\nkind = \"phone\"\ncount = 1000000\n",
            "4: `count` is 1000000, outside 0 to 100000",
        ),
        (
            "[[clients]]\nnetwork = \"desk\"\nkind = \"phone\"\ncount = 60000\n[[clients]]\nnetwork = \"desk\"\nkind = \"phone\"\ncount = 60000\n",
            "5: a lab has 100000 clients at most; these 60000 are too many",
        ),
    ];
    for (text, expected) in cases {
        let read = Clients::read(&compiled, "clients.toml", text);
        let said: Vec<String> = read
            .findings
            .iter()
            .map(|finding| {
                let line = finding.spot.as_ref().map_or(0, |spot| read.sources.location(spot).line);
                let remedy = finding.replace.as_ref().map(|with| format!(", try {with}")).unwrap_or_default();
                format!("{line}: {}{remedy}", finding.message)
            })
            .collect();
        assert!(said.first().is_some_and(|first| first.starts_with(expected)), "{text}: {said:?}");
        assert!(read.population.is_none(), "{text}");
    }
}

/// On a network with a relay agent the server sees what that sends on, but for what a client sends to the server itself.
#[test]
fn relay_agents_stand_between() {
    let demo = demo().plan.unwrap();
    let compiled = Compiled::of(&demo);
    let clients = "[[clients]]\nnetwork = \"domes\"\nkind = \"sensor\"\ncount = 2\ncircuit-id = \"dome-{n}\"\nremote-id = \"mast\"\n";
    let population = Clients::read(&compiled, "clients.toml", clients).population.expect("nothing is wrong");
    let mut lab = Lab::new(&compiled, population, Faults::default(), 1);
    let (mut forwarded, mut direct, mut around) = (0, 0, 0);
    lab.run(Duration::from_secs(2 * DAY), &mut |report| {
        let LabReport::Packet(heard) = report else { return };
        let seen = heard.seen(Duration::ZERO, 1);
        match AnyMessage::read(seen.protocol, &seen.octets) {
            Ok(AnyMessage::V4(message)) if heard.packet.from_client => {
                let header = message.header();
                if header.ciaddr.is_unspecified() {
                    let relay = message.option(82).expect("the relay agent says where the client is");
                    assert_eq!((header.giaddr.octets(), header.hops), ([10, 64, 8, 1], 1));
                    assert_eq!(relay.joined()[..7], *b"\x01\x06dome-");
                    forwarded += 1;
                } else {
                    assert!(message.option(82).is_none() && header.giaddr.is_unspecified());
                    direct += 1;
                }
            }
            Ok(AnyMessage::V4(message)) if message.header().ciaddr.is_unspecified() => {
                // What the relay agent said is returned (RFC 3046, section 2.2).
                assert_eq!(message.option(82).is_some(), !message.header().giaddr.is_unspecified());
            }
            Ok(AnyMessage::V6(message)) => {
                assert!(message.message_type().is_relays(), "{message}");
                let mut codes: Vec<u16> = message.options().map(|option| option.code()).collect();
                codes.sort_unstable();
                assert_eq!(codes, if heard.packet.from_client { vec![9, 18, 37] } else { vec![9, 18] });
                around += 1;
            }
            _ => {}
        }
    });
    let tally = lab.tally();
    assert!(forwarded >= 4 && direct >= 2 && around >= 8, "{forwarded} {direct} {around}");
    assert_eq!((tally.groups[0].content, tally.groups[0].leased, tally.twice), (2, 4, vec![]));
}

/// Who is of a fleet is made up of what the fleet is recognised by; what cannot be made up is said.
#[test]
fn fleets_have_clients_of_their_own() {
    let fleets = [
        ("by-class", "match = { vendor-class = \"Tern ?*\" }", true),
        ("by-mac", "match = { mac = \"02:00:5e:00:53:80-02:00:5e:00:53:8f\" }", true),
        ("by-prefix", "match = { mac = \"02:00:5e:*\" }", true),
        ("by-name", "match = { all = [{ hostname = \"mill-*\" }, { arch = \"x64-uefi\" }] }", true),
        ("by-place", "match = { any = [{ circuit-id = \"dome-*\" }, { user-class = \"x\" }] }", true),
        ("by-absence", "match = { none = [{ hostname = \"mill-*\" }] }", true),
        ("by-contradiction", "match = { all = [{ hostname = \"a\" }, { none = [{ hostname = \"a\" }] }] }", false),
    ];
    for (name, wanted, made) in fleets {
        let text = format!(
            "server = \"10.64.0.67\"\n[network.desk]\nsubnet = \"10.64.4.0/24\"\npool = \"10.64.4.20-10.64.4.90\"\n\
             [fleet.{name}]\n{wanted}\nrequests = [1, 3]\n"
        );
        let plan = plan(&text);
        let compiled = Compiled::of(&plan);
        let population = Population::of(&compiled, 3);
        let group = population.groups.iter().find(|group| group.name == name);
        assert_eq!(
            (group.is_some(), population.unmatched.is_empty()),
            (made, made),
            "{name}: {:?}",
            population.unmatched
        );
        let Some(group) = group else { continue };
        let mut macs: Vec<_> = group.members.iter().map(|(_, facts)| facts.own_mac()).collect();
        macs.dedup();
        assert_eq!((macs.len(), group.members[0].1.wants.v4.as_deref()), (3, Some(&[1, 3][..])), "{name}");
        let (tally, ..) =
            played(&compiled, Lab::new(&compiled, population, Faults::default(), 1), Duration::from_secs(900));
        assert!(tally.groups.iter().all(|group| group.content == group.clients), "{name}: {:?}", tally.groups);
    }
}

/// Every key of a kind does something, and a group's own win over those of its kind.
#[test]
fn every_key_of_a_kind_counts() {
    let plan = plan("[network.desk]\nsubnet = \"10.64.4.0/24\"\n");
    let compiled = Compiled::of(&plan);
    let text = "[kind.mill]\ntitle = \"a mill\"\nfamilies = \"v4\"\nvendor-class = \"Wheel\"\nuser-class = \"flour\"\narch = \"x64-uefi\"\n\
                hostname = \"mill-{n}\"\nclient-id = \"01:02:03\"\nrequests = [1, \"router\"]\nrequests-v6 = [\"dns-servers\", 65000]\n\
                max-size = 1400\nrapid = true\ndelegation = true\nstateless = true\nbroadcast = true\nrenews = false\n\
                releases = true\non = \"2h\"\nevery = \"12h\"\n\
                [[clients]]\nnetwork = \"desk\"\nkind = \"mill\"\ncount = 2\nstarts = \"10m\"\nover = \"20m\"\n\
                [[clients]]\nnetwork = \"desk\"\nkind = \"mill\"\nvendor-class = \"Stone\"\nrenews = true\nevery = \"3h\"\n\
                [[clients]]\nnetwork = \"desk\"\nkind = \"sensor\"\n";
    let read = Clients::read(&compiled, "clients.toml", text);
    assert!(read.findings.is_empty(), "{:?}", read.findings);
    let population = read.population.unwrap();
    let [two, other, shipped] = &population.groups[..] else { panic!("{population:?}") };
    let kind = &two.kind;
    assert_eq!((&*kind.title, kind.families.v4, kind.families.v6), ("a mill", true, false));
    assert_eq!(kind.requests.v4.as_deref(), Some(&[1, 3][..]));
    assert_eq!(kind.requests.v6.as_deref(), Some(&[23, 65_000][..]));
    assert_eq!((kind.max_size, kind.rapid, kind.delegation, kind.stateless), (Some(1400), true, true, true));
    assert_eq!((kind.broadcast, kind.renews, kind.releases, kind.hostile), (true, false, true, false));
    let hours = |hours: u64| Duration::from_secs(3600 * hours);
    assert_eq!(kind.presence.map(|presence| (presence.on, presence.every)), Some((hours(2), hours(12))));
    let starts: Vec<u64> = two.members.iter().map(|(at, _)| at.as_secs()).collect();
    assert_eq!(starts, [600, 1200]);
    let sent = |group: &oplex::lab::Group, member: usize, code| {
        let facts = &group.members[member].1;
        String::from_utf8_lossy(facts.sent(oplex::family::Family::V4, code).unwrap_or_default()).into_owned()
    };
    assert_eq!(
        (sent(two, 0, 60), sent(two, 0, 12), sent(two, 1, 12)),
        ("Wheel".into(), "mill-1".into(), "mill-2".into())
    );
    assert_eq!(two.members[0].1.sent(oplex::family::Family::V4, 61), Some(&[1, 2, 3][..]));
    assert_ne!(two.members[0].1.mac, two.members[1].1.mac);
    assert_eq!((sent(other, 0, 60), sent(other, 0, 12)), ("Stone".into(), "mill-1".into()));
    assert_eq!(other.kind.presence.map(|presence| (presence.on, presence.every)), Some((hours(2), hours(3))));
    assert!(other.kind.renews && other.kind.releases);
    assert_eq!((&*shipped.name, shipped.members.len()), ("sensor", 1));
}

/// Where nobody says which clients there are, a network has those that it is for.
#[test]
fn a_network_has_the_clients_it_is_for() {
    let rows: String = (0..30u8)
        .map(|last| {
            format!(
                "[[reservation]]\nnetwork = \"both\"\nmac = \"02:00:5e:00:53:{last:02x}\"\naddress = \"10.64.4.{}\"\n",
                last + 100
            )
        })
        .collect();
    let text = format!(
        "[network.both]\nsubnet = \"10.64.4.0/24\"\nprefix = \"2001:db8:64:4::/64\"\npool = \"10.64.4.20-10.64.4.90\"\n\
         [network.alone]\nprefix = \"2001:db8:64:5::/64\"\n\
         [network.behind]\nprefix = \"2001:db8:64:6::/64\"\ndelegate = [\"2001:db8:6400::/48 as /56\"]\n\
         [fleet.mills]\nmatch = {{ vendor-class = \"Mill *\" }}\n[fleet.mills.on.both]\nlease = \"1h\"\n\
         [fleet.alone]\nmatch = {{ hostname = \"a-*\" }}\n[fleet.anywhere]\nmatch = {{ hostname = \"b-*\" }}\n{rows}"
    );
    let plan = plan(&text);
    let compiled = Compiled::of(&plan);
    let population = Population::of(&compiled, 2);
    let groups: Vec<(&str, &str, usize)> = population
        .groups
        .iter()
        .map(|group| (&*plan.networks[group.network].name, &*group.name, group.members.len()))
        .collect();
    let expected = [
        ("both", "desktop", 2),
        ("both", "mills", 2),
        ("both", "anywhere", 2),
        // The first of many.
        ("both", "reserved", 20),
        ("alone", "sensor", 2),
        ("alone", "alone", 2),
        ("behind", "router", 2),
    ];
    assert_eq!(groups, expected);
    // Nobody has the hardware address of another, nor one that is reserved.
    let mut macs: Vec<_> =
        population.groups.iter().flat_map(|group| &group.members).map(|(_, facts)| facts.mac).collect();
    let all = macs.len();
    macs.sort_unstable();
    macs.dedup();
    assert_eq!(macs.len(), all);
}

/// A server that has nothing left says so, and the audit takes its word for it, unless something is reserved for the client.
#[test]
fn what_is_left_only_the_server_knows() {
    let text = "server-duid = \"00:03:00:01:00:00:5e:00:53:67\"\n[network.desk]\nprefix = \"2001:db8:64:4::/64\"\n\
                pool = \"2001:db8:64:4::20-2001:db8:64:4::21\"\nadvertise = { managed = true }\n\
                [[reservation]]\nnetwork = \"desk\"\nmac = \"02:00:5e:00:53:44\"\naddress-v6 = \"2001:db8:64:4::44\"\n";
    let plan = plan(text);
    let compiled = Compiled::of(&plan);
    let clients = "[[clients]]\nnetwork = \"desk\"\nkind = \"sensor\"\ncount = 3\n";
    let population = Clients::read(&compiled, "clients.toml", clients).population.expect("nothing is wrong");
    let rules = |plan: &Compiled<'_>, packets: &[(Duration, oplex::lab::Packet, oplex::octets::Mac)]| {
        let mut audit = Audit::against(plan, Policy::default());
        for (number, (at, packet, client)) in (1..).zip(packets) {
            let seen = oplex::lab::Heard { at: *at, network: 0, client: *client, packet }.seen(Duration::ZERO, number);
            let found = seen.findings(&plan.codebook);
            audit.add(&seen, found);
        }
        let kinds = audit.finish().kinds;
        kinds.iter().filter(|kind| kind.severity > Severity::Note).map(|kind| kind.rule.name).collect::<Vec<_>>()
    };
    let mut packets = Vec::new();
    let mut lab = Lab::new(&compiled, population, Faults::default(), 1);
    lab.run(Duration::from_secs(30), &mut |report| {
        if let LabReport::Packet(heard) = report {
            packets.push((heard.at, heard.packet.clone(), heard.client));
        }
    });
    assert_eq!(lab.tally().groups[0].refused, 1);
    assert_eq!(rules(&compiled, &packets), ["request-refused"]);
    // The same beside a plan that has an address for each of them.
    let reserved = [1, 2, 3].map(|last| {
        format!("[[reservation]]\nnetwork = \"desk\"\nmac = \"02:00:00:00:00:0{last}\"\naddress-v6 = \"2001:db8:64:4::5{last}\"\n")
    });
    let other = self::plan(&(text.to_owned() + &reserved.concat()));
    let found = rules(&Compiled::of(&other), &packets);
    assert!(found.contains(&"reply-not-as-planned") && found.contains(&"address-not-of-plan"), "{found:?}");
}

/// A second is short, and no reason to ask without end.
#[test]
fn the_shortest_lease_is_extended_once_a_second() {
    let text = "server = \"10.64.0.67\"\nlease = \"1s\"\n[network.desk]\nsubnet = \"10.64.4.0/24\"\n\
                pool = [\"10.64.4.20-10.64.4.90\", \"2001:db8:64:4::20-2001:db8:64:4::90\"]\nprefix = \"2001:db8:64:4::/64\"\n\
                advertise = { managed = true }\n";
    let plan = plan(text);
    let compiled = Compiled::of(&plan);
    let clients = "[[clients]]\nnetwork = \"desk\"\nkind = \"sensor\"\n";
    let population = Clients::read(&compiled, "clients.toml", clients).population.expect("nothing is wrong");
    let mut lab = Lab::new(&compiled, population, Faults::default(), 1);
    lab.run(Duration::from_secs(60), &mut |_| {});
    let requests = lab.tally().requests;
    assert!((60..300).contains(&requests), "{requests}");
    // Of too many networks not all have clients.
    assert!(Population::of(&compiled, 10_000).count() == 10_000 && !Population::of(&compiled, 10_000).more);
    assert!(Population::of(&compiled, 200_000).more);
}

/// Stand-in clients that say their names get the full ones, each its own, and the audit of what was said finds nothing wrong.
#[test]
fn clients_with_names_are_answered_them() {
    let plan = plan(
        "server = \"10.64.0.67\"\nlease = \"1h\"\nfqdn = { name = \"*.tarnfell.example\", updates = true }\n\
         [network.desk]\nsubnet = \"10.64.4.0/24\"\npool = [\"10.64.4.20-10.64.4.90\", \"2001:db8:64:4::100-2001:db8:64:4::1ff\"]\n\
         prefix = \"2001:db8:64:4::/64\"\nadvertise = { managed = true }\nsend.v4 = { router = \"10.64.4.1\" }\n",
    );
    let compiled = Compiled::of(&plan);
    let clients = "[[clients]]\nnetwork = \"desk\"\nkind = \"desktop\"\ncount = 3\nfqdn = \"desk-{n}\"\n\
                   [[clients]]\nnetwork = \"desk\"\nkind = \"desktop\"\ncount = 1\nhostname = \"quiet\"\n";
    let read = Clients::read(&compiled, "clients.toml", clients);
    let population = read.population.unwrap_or_else(|| panic!("{:?}", read.findings));
    let lab = Lab::new(&compiled, population, Faults::default(), 3);
    let (tally, summary, packets) = played(&compiled, lab, Duration::from_secs(600));
    assert!(tally.groups.iter().all(|group| group.content == group.clients), "{:?}", tally.groups);
    assert_eq!(summary.count(Severity::Error), 0, "{:?}", summary.kinds);
    let names = |packet: &[u8]| -> Vec<String> {
        let parts = packet.windows(2).enumerate().filter(|(_, part)| *part == b"\x06d" || *part == b"\x06q");
        let name = |(at, _): (usize, &[u8])| {
            let end = packet[at..].windows(9).position(|part| part == b"\x07example\0")?;
            let label = &packet[at + 1..at + 7];
            (packet[at + 7..at + end] == *b"\x08tarnfell").then(|| String::from_utf8_lossy(label).into_owned())
        };
        parts.filter_map(name).collect()
    };
    let mut answered: Vec<String> = packets.iter().flat_map(|(_, packet)| names(packet)).collect();
    answered.sort();
    answered.dedup();
    // The one that says a host name alone (12) is answered none by DHCPv4, and by DHCPv6 it has no other way to say it.
    let of_desks = answered.iter().filter(|name| name.starts_with("desk-")).count();
    assert_eq!(of_desks, 3, "{answered:?}");
}
