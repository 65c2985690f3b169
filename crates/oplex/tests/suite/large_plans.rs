//! Plans as large as sites get: what is read in parts and found by indexes is what a slow reader would say.

use std::collections::BTreeMap;
use std::net::Ipv4Addr;

use oplex::answer::Ends;
use oplex::check;
use oplex::compiled::Compiled;
use oplex::family::Family;
use oplex::packet::Message as _;
use oplex::plan::{ClientFacts, ClientKey, Loaded, Plan};
use proptest::prelude::*;

fn read(plan: &str, csv: &str) -> Loaded {
    Plan::read("plan.toml", plan, &mut |_| Ok(csv.to_owned()))
}

fn networks(count: usize) -> String {
    let network = |at: usize| {
        format!(
            "[network.n{at}]\nsubnet = \"10.{}.{}.0/24\"\npool = \"10.{0}.{1}.200-10.{0}.{1}.250\"\nsend.v4 = {{ router = \"10.{0}.{1}.1\" }}\n",
            at >> 8,
            at & 255
        )
    };
    let head =
        "reservations = \"r.csv\"\n[send.v4]\ndomain-server = \"10.255.0.53\"\ndomain-name = \"tarnfell.example\"\n";
    head.to_owned() + &(0..count).map(network).collect::<String>()
}

/// A table of more than the few megabytes that are read at once, its lines as people have them.
fn large_table(lines: usize, end: &str) -> String {
    let mut csv = format!("# a large site{end}mac,address,name,network{end}{end}");
    for at in 0..lines {
        let (network, host) = (at / 100, at % 100 + 20);
        let [_, a, b, c] = (at as u32).to_be_bytes();
        let blank = if at % 1000 == 7 { format!("{end}# more{end} , ,,{end}") } else { String::new() };
        csv += &format!(
            "02:00:5e:{a:02x}:{b:02x}:{c:02x}, 10.{}.{}.{host} ,host {at} in the old wing,n{network}{end}{blank}",
            network >> 8,
            network & 255
        );
    }
    csv
}

#[test]
fn a_large_table_is_read_as_a_small_one() {
    const LINES: usize = 80_000;
    let plan = networks(LINES / 100);
    for end in ["\n", "\r\n", "\r"] {
        let csv = large_table(LINES, end);
        assert!(csv.len() > 4 << 20);
        let loaded = read(&plan, &csv);
        assert_eq!(check::plan(&loaded), []);
        let rows = &loaded.plan.as_ref().unwrap().reservations;
        assert_eq!(rows.len(), LINES);
        for (at, row) in rows.iter().enumerate() {
            let (network, host) = (at / 100, at % 100 + 20);
            let (address, spot) = row.address().unwrap();
            assert_eq!(
                (row.network(), address),
                (network, Ipv4Addr::new(10, (network >> 8) as u8, network as u8, host as u8))
            );
            assert_eq!(csv[spot.span], address.to_string());
            assert_eq!(csv[row.client_spot().span], row.client().to_string());
            let (name, spot) = row.name().unwrap();
            assert_eq!((name, &csv[spot.span]), (&*format!("host {at} in the old wing"), name));
        }
    }
}

/// Quotes may go over lines, so that nobody can say where one begins; such a table is read in one piece.
#[test]
fn a_large_table_with_quotes_and_mistakes_is_read_whole() {
    const LINES: usize = 80_000;
    let plan = networks(LINES / 100);
    let csv = large_table(LINES, "\n");
    let quoted = csv.replacen("host 9 in the old wing", "\"host 9, in the \"\"old\"\" wing\"", 1);
    let loaded = read(&plan, &quoted);
    assert_eq!(check::plan(&loaded), []);
    let rows = &loaded.plan.as_ref().unwrap().reservations;
    assert_eq!((rows.len(), rows[9].name().unwrap().0), (LINES, "host 9, in the \"old\" wing"));

    // Mistakes near the beginning and near the end are found at their lines, in their order.
    let broken = csv.replacen("10.0.0.30", "10.0.0.300", 1).replacen(",n799\n", ",n7999\n", 1);
    let loaded = read(&plan, &broken);
    let found = check::plan(&loaded);
    let places: Vec<(&str, String)> = found
        .iter()
        .map(|finding| (finding.message.as_str(), broken[finding.spot.clone().unwrap().span].to_owned()))
        .collect();
    assert_eq!(
        places,
        [
            ("`10.0.0.300` is not an IPv4 address: 300 is above 255", "10.0.0.300".to_owned()),
            ("unknown network `n7999`", "n7999".to_owned()),
        ]
    );
}

/// Reservations in the plan and in several tables are one list, in the order written.
#[test]
fn tables_stand_one_behind_the_other() {
    let plan = "reservations = [\"a.csv\", \"none.csv\", \"b.csv\"]\n[network.a]\nsubnet = \"10.64.0.0/24\"\n\
        [[reservation]]\nnetwork = \"a\"\nmac = \"02:00:5e:00:53:00\"\naddress = \"10.64.0.10\"\n\
        [[reservation]]\nnetwork = \"a\"\nmac = \"02:00:5e:00:53:01\"\naddress = \"10.64.0.11\"\nsend.v4 = { hostname = \"one\" }\n";
    let table = |from: u8, to: u8| {
        let lines = (from..to).map(|at| format!("02:00:5e:00:53:{at:02x},10.64.0.{}\n", at + 10));
        "mac,address\n".to_owned() + &lines.collect::<String>()
    };
    let loaded = Plan::read("plan.toml", plan, &mut |path| match path {
        "a.csv" => Ok(table(2, 5)),
        "b.csv" => Ok(table(5, 9)),
        _ => Ok("mac,address\n".to_owned()),
    });
    assert_eq!(loaded.findings, []);
    let plan = loaded.plan.unwrap();
    let all = &plan.reservations;
    assert_eq!((all.len(), all.is_empty(), all.iter().count()), (9, false, 9));
    for at in 0..9u8 {
        let key = ClientKey::Mac([2, 0, 0x5e, 0, 0x53, at].into());
        assert_eq!(*all[usize::from(at)].client(), key);
        let address = Ipv4Addr::new(10, 64, 0, at + 10);
        assert_eq!(all.of(0, &key).and_then(|row| row.address()).map(|(address, _)| address), Some(address));
        assert_eq!(all.at(address).map(|row| row.client().clone()), Some(key));
    }
    assert_eq!(plan.layers().filter(|layer| layer.name.starts_with("reservation ")).count(), 1);
    assert!(all.of(0, &ClientKey::Mac([2, 0, 0x5e, 0, 0x53, 9].into())).is_none() && all.of_network(0).count() == 9);
}

/// With so many networks, what is sent on them is looked at beside the rest.
#[test]
fn many_networks_are_looked_at_one_by_one() {
    let plan = networks(700);
    let plan = plan.replace("reservations = \"r.csv\"\n", "");
    let plan = plan.replace("send.v4 = { router = \"10.2.10.1\" }", "send.v4 = { netbios-name-srv = \"10.255.0.64\" }");
    let plan = ["3", "699"]
        .iter()
        .fold(plan, |plan, at| plan.replace(&format!("[network.n{at}]\n"), &format!("[network.n{at}]\nleese = 1\n")));
    let found = check::plan(&read(&plan, ""));
    let said: Vec<(&str, &str)> = found.iter().map(|finding| (finding.rule.name, finding.message.as_str())).collect();
    assert_eq!(
        said,
        [
            ("unknown-key", "unknown key `leese` in a network"),
            ("no-router", "no router is sent on n522"),
            ("netbios-without-node-type", "n522: NetBIOS name servers are sent, but no node type"),
            ("unknown-key", "unknown key `leese` in a network"),
        ]
    );
}

proptest! {
    /// The indexes against looking at every row.
    #[test]
    fn reservations_are_found_as_by_looking_at_all(
        rows in prop::collection::vec((0usize..3, 0u8..16, prop::option::of(0u8..8), prop::option::of(0u8..4), any::<bool>()), 0..60),
    ) {
        let plan = "[network.a]\nsubnet = \"10.64.0.0/24\"\n[network.b]\nsubnet = \"10.64.1.0/24\"\n[network.c]\nsubnet = \"10.64.2.0/24\"\n";
        let plan = format!("reservations = \"r.csv\"\n{plan}");
        let mut csv = "network,mac,client-id,address,name\n".to_owned();
        for (network, client, host, name, by_id) in &rows {
            let network_name = ["a", "b", "c"][*network];
            let client = if *by_id { format!(",{client:02x}") } else { format!("02:00:5e:00:53:{:02x},", client * client) };
            let host = host.map(|host| format!("10.64.{}.{}", host & 1, host + 10)).unwrap_or_default();
            csv += &format!("{network_name},{client},{host},{}\n", name.map(|name| format!("name{name}")).unwrap_or_default());
        }
        let loaded = read(&plan, &csv);
        assert_eq!(loaded.findings, []);
        let all = &loaded.plan.as_ref().unwrap().reservations;
        assert_eq!(all.len(), rows.len());
        for network in 0..4 {
            for client in 0..16u8 {
                for key in [ClientKey::Mac([2, 0, 0x5e, 0, 0x53, client * client].into()), ClientKey::ClientId([client].into())] {
                    let slow = all.iter().find(|row| row.network() == network && *row.client() == key);
                    assert_eq!(all.of(network, &key).map(|row| row.client_spot()), slow.map(|row| row.client_spot()));
                }
            }
            for host in 0..20u8 {
                for third in 0..2 {
                    let address = Ipv4Addr::new(10, 64, third, host);
                    let at = |row: &oplex::plan::Reservation| row.address::<Ipv4Addr>().is_some_and(|(known, _)| known == address);
                    assert_eq!(all.addresses_on::<Ipv4Addr>(network).any(|known| known == address), all.iter().any(|row| row.network() == network && at(row)));
                    assert_eq!(all.at(address).map(|row| row.client_spot()), all.iter().find(|row| at(row)).map(|row| row.client_spot()));
                }
            }
            let mut here: Vec<_> = all.of_network(network).map(|row| row.client_spot().span.start).collect();
            here.sort_unstable();
            let slow: Vec<_> = all.iter().filter(|row| row.network() == network).map(|row| row.client_spot().span.start).collect();
            assert_eq!(here, slow);
        }
        // Each that comes later, with the first of its kind.
        let firsts = |key: &dyn Fn(&oplex::plan::Reservation) -> Option<String>| {
            let mut first: BTreeMap<String, usize> = BTreeMap::new();
            let mut pairs = Vec::new();
            for row in all.iter() {
                let Some(key) = key(row) else { continue };
                let here = row.client_spot().span.start;
                match first.get(&key) {
                    Some(known) => pairs.push((here, *known)),
                    None => _ = first.insert(key, here),
                }
            }
            pairs
        };
        let starts = |pairs: Vec<(&oplex::plan::Reservation, &oplex::plan::Reservation)>| {
            let mut pairs: Vec<_> = pairs.iter().map(|(later, first)| (later.client_spot().span.start, first.client_spot().span.start)).collect();
            pairs.sort_unstable();
            pairs
        };
        assert_eq!(starts(all.of_one_client().collect()), firsts(&|row| Some(format!("{} {}", row.network(), row.client()))));
        assert_eq!(starts(all.of_one_address::<Ipv4Addr>().collect()), firsts(&|row| row.address::<Ipv4Addr>().map(|(address, _)| address.to_string())));
        assert_eq!(starts(all.of_one_name()), firsts(&|row| row.name().map(|(name, _)| name.to_owned())));
    }
}

/// Behind a relay, messages go between relay and server, and the relay says who it is (RFC 3046, section 2.1).
#[test]
fn a_rehearsal_behind_a_relay_has_the_relays_address() {
    let plan = "server = \"10.64.0.67\"\n[network.desk]\nsubnet = \"10.64.4.0/24\"\npool = \"10.64.4.20\"\nsend.v4 = { router = \"ROUTER\" }\n";
    for (router, relay) in [("10.64.4.9", [10, 64, 4, 9]), ("10.64.9.9", [10, 64, 4, 1])] {
        let loaded = read(&plan.replace("ROUTER", router), "");
        let plan = loaded.plan.unwrap();
        let mut facts = ClientFacts { mac: Some([2, 0, 0x5e, 0, 0x53, 0x11].into()), ..ClientFacts::on(0) };
        let ends = |facts: &ClientFacts| {
            let compiled = Compiled::of(&plan);
            let answer = compiled.answer(Family::V4, facts).unwrap();
            let exchange = compiled.exchange(facts, &answer).unwrap();
            let ends = exchange.messages.iter().map(|sent| {
                let message = oplex::packet::v4::Message::read(&sent.octets).unwrap();
                let Ends::Udp(from, to) = sent.ends else { panic!("DHCPv4 travels in UDP") };
                (from.to_string(), to.to_string(), message.header().giaddr)
            });
            ends.collect::<Vec<_>>()
        };
        let direct = ends(&facts);
        assert_eq!(direct[0], ("0.0.0.0:68".to_owned(), "255.255.255.255:67".to_owned(), Ipv4Addr::UNSPECIFIED));
        assert_eq!(direct[3], ("10.64.0.67:67".to_owned(), "10.64.4.20:68".to_owned(), Ipv4Addr::UNSPECIFIED));
        facts.send(Family::V4, 82, vec![1, 1, 7]);
        let relay = Ipv4Addr::from(relay);
        let (near, far) = (format!("{relay}:67"), "10.64.0.67:67".to_owned());
        assert_eq!(ends(&facts)[2], (near.clone(), far.clone(), relay));
        assert_eq!(ends(&facts)[3], (far, near, relay));
    }
}
