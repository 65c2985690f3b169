//! What single clients get: fleets, reservations, addresses, exchanges.

use std::net::{IpAddr, Ipv4Addr};

use oplex::answer::NoAddress;
use oplex::check;
use oplex::compiled::Compiled;
use oplex::family::Family;
use oplex::packet::Message as _;
use oplex::packet::v4::Message;
use oplex::plan::{ClientFacts, Loaded, Plan};
use proptest::prelude::*;

use crate::marked;

/// A plan with two networks, and these lines after it.
fn plan(more: &str) -> Loaded {
    let text = format!(
        "server = \"10.64.0.67\"\n[send.v4]\ndomain-server = [\"10.64.0.53\"]\ndomain-name = \"tarnfell.example\"\n\
         [network.desk]\nsubnet = \"10.64.4.0/24\"\npool = [\"10.64.4.20-10.64.4.29\"]\nexclude = [\"10.64.4.22\"]\n\
         [network.desk.send.v4]\nrouter = \"10.64.4.1\"\n[network.domes]\nsubnet = \"10.64.8.0/24\"\n\
         [network.domes.send.v4]\nrouter = \"10.64.8.1\"\n{more}"
    );
    Plan::read("plan.toml", &text, &mut |path| Err(format!("no file {path}").into()))
}

/// A client on the network of this place, described by key and text.
fn client(network: usize, last: u8, texts: &[(&str, &str)]) -> ClientFacts {
    let codebook = oplex::codebook::Codebook::standard();
    let mut facts = ClientFacts::on(network);
    facts.mac = Some([2, 0, 0x5e, 0, 0x53, last].into());
    for (key, text) in texts {
        facts.describe(codebook, key, text).unwrap();
    }
    facts
}

/// The last octet of an IPv4 address.
fn last(address: IpAddr) -> u8 {
    match address {
        IpAddr::V4(address) => address.octets()[3],
        IpAddr::V6(address) => panic!("{address} is of the other family"),
    }
}

/// The names of the fleets that a client belongs to.
fn fleets(more: &str, client: &ClientFacts) -> Vec<String> {
    let loaded = plan(more);
    assert_eq!(loaded.findings, [], "{more}");
    let plan = loaded.plan.unwrap();
    Compiled::of(&plan).answer(Family::V4, client).unwrap().fleets.iter().map(|fleet| fleet.name.to_string()).collect()
}

/// What fits and what does not say together why a client belongs to a fleet, or does not.
#[test]
fn why_a_client_belongs_to_a_fleet_is_said() {
    let more = "[fleet.it]\nmatch = { vendor-class = [\"Gannet *\", \"Tern *\"], none = [{ arch = 7 }] }\n";
    let loaded = plan(more);
    assert_eq!(loaded.findings, [], "{more}");
    let plan = loaded.plan.unwrap();
    let compiled = Compiled::of(&plan);
    let why = |texts: &[(&str, &str)]| {
        let (fleet, client) = (&compiled.fleets[0], client(0, 0x61, texts));
        let fits = compiled.fits(fleet, &client, Family::V4).into_iter();
        let fits = fits.map(|fit| [fit.fact, fit.seen, fit.pattern].join(" "));
        let unfit = compiled.unfit(fleet, &client, Family::V4).into_iter();
        (fits.collect::<Vec<_>>(), unfit.map(|unfit| unfit.wanted).collect::<Vec<_>>())
    };
    let tern = ("vendor-class", "Tern D2");
    assert_eq!(
        why(&[tern]),
        (vec!["vendor-class Tern D2 Tern *".to_owned(), "not  arch is x64-uefi".to_owned()], vec![])
    );
    // Part of what is wanted fits, which is no reason to belong to it.
    assert_eq!(why(&[tern, ("arch", "7")]), (vec![], vec!["not arch is x64-uefi".to_owned()]));
    assert_eq!(why(&[]).0, [""; 0]);
}

#[test]
fn fleets_are_recognised_by_what_their_devices_send() {
    let is = |recognised: &str, texts: &[(&str, &str)]| {
        let more = format!("[fleet.it]\nmatch = {recognised}\n");
        !fleets(&more, &client(0, 0x61, texts)).is_empty()
    };
    let tern = [("vendor-class", "Tern D2")];
    for (recognised, texts) in [
        ("{ vendor-class = \"Tern *\" }", &tern[..]),
        ("{ vendor-class = [\"Gannet *\", \"*D?\"] }", &tern),
        ("{ mac = \"02:00:5e:00:53:*\" }", &[]),
        ("{ mac = \"02:00:5e:00:53:60-02:00:5e:00:53:6f\" }", &[]),
        ("{ mac = \"02-00-5E-00-53-61\" }", &[]),
        ("{ user-class = \"dome\" }", &[("user-class", "dome")]),
        ("{ arch = \"x64-uefi\" }", &[("arch", "7")]),
        ("{ arch = 7 }", &[("arch", "x64-uefi")]),
        ("{ hostname = \"dome-*\" }", &[("hostname", "dome-3")]),
        ("{ vendor-class = \"T?rn\" }", &[("vendor-class", "Tørn")]),
        ("{ client-id = \"01:02\" }", &[("client-id", "0102")]),
        ("{ circuit-id = \"port?\" }", &[("circuit-id", "port7")]),
        ("{ circuit-id = \"07:*\", remote-id = \"mast\" }", &[("circuit-id", "0x0708"), ("remote-id", "mast")]),
        ("{ \"v4:class-id\" = \"Tern D2\" }", &tern),
        ("{ any = [{ hostname = \"x\" }, { vendor-class = \"Tern*\" }] }", &tern),
        ("{ all = [{ mac = \"02:*\" }, { vendor-class = \"Tern*\" }] }", &tern),
        ("{ mac = \"02:*\", none = [{ hostname = \"*\" }] }", &[]),
    ] {
        assert!(is(recognised, texts), "{recognised} {texts:?}");
    }
    for (recognised, texts) in [
        ("{ vendor-class = \"Tern\" }", &tern[..]),
        ("{ vendor-class = \"Tern *\", hostname = \"*\" }", &tern),
        ("{ mac = \"02:00:5e:00:53:70-02:00:5e:00:53:7f\" }", &[]),
        ("{ none = [{ mac = \"02:*\" }] }", &[]),
        ("{ user-class = \"dome\" }", &[("user-class", "domes")]),
        ("{ circuit-id = \"port7\" }", &[("remote-id", "port7")]),
        ("{ arch = \"x86-bios\" }", &[]),
    ] {
        assert!(!is(recognised, texts), "{recognised} {texts:?}");
    }
}

const LAYERS: &str = "[fleet.phones]\nmatch = { vendor-class = \"Tern *\" }\nlease = \"2h\"\nwithhold = [\"domain-name\"]\n\
    [fleet.phones.send.v4]\nlog-server = \"10.64.0.70\"\nrouter = \"10.64.4.2\"\n[fleet.phones.on.desk]\npool = [\"10.64.4.25-10.64.4.27\"]\n\
    [fleet.phones.on.desk.send.v4]\nlog-server = \"10.64.0.71\"\n[fleet.late]\nmatch = { mac = \"02:*\" }\n\
    send.v4 = { log-server = \"10.64.0.72\" }\n[[reservation]]\nnetwork = \"desk\"\nmac = \"02:00:5e:00:53:11\"\n\
    address = \"10.64.4.11\"\nsend.v4 = { log-server = \"10.64.0.73\" }\n";

#[test]
fn the_narrower_layer_wins_and_says_what_it_overrode() {
    let plan = plan(LAYERS).plan.unwrap();
    let phone = client(0, 0x11, &[("vendor-class", "Tern D2")]);
    let chain = |facts: &ClientFacts, name: &str| {
        let compiled = Compiled::of(&plan);
        let answer = compiled.answer(Family::V4, facts).unwrap();
        let told = answer.sent.iter().find(|told| *told.option.definition.name == *name);
        told.map(|told| {
            let over = told.overrides.iter().map(|(layer, _)| layer.name.to_owned());
            std::iter::once(told.layer.name.to_owned()).chain(over).collect::<Vec<_>>()
        })
    };
    let logs = ["reservation 02:00:5e:00:53:11", "fleet phones on desk", "fleet late", "fleet phones"];
    assert_eq!(chain(&phone, "log-server").unwrap(), logs);
    assert_eq!(chain(&phone, "router").unwrap(), ["fleet phones", "network desk"]);
    assert_eq!(chain(&phone, "domain-name"), None);
    assert_eq!(Compiled::of(&plan).answer(Family::V4, &phone).unwrap().timers.lease.seconds, 7200);
    // On the other network neither the reservation nor the fleet's own place counts.
    assert_eq!(
        chain(&client(1, 0x11, &[("vendor-class", "Tern D2")]), "log-server").unwrap(),
        ["fleet late", "fleet phones"]
    );
}

#[test]
fn an_address_is_reserved_or_the_first_free_one() {
    let plan =
        plan(&format!("{LAYERS}[[reservation]]\nnetwork = \"desk\"\nclient-id = \"0102\"\naddress = \"10.64.4.20\"\n"));
    let plan = plan.plan.unwrap();
    let address = |facts: &ClientFacts, leased| {
        let facts = ClientFacts { leased, ..facts.clone() };
        Compiled::of(&plan)
            .answer(Family::V4, &facts)
            .unwrap()
            .address
            .map(|given| (last(given.address), given.fleet.map(str::to_owned)))
    };
    let (laptop, phone) = (client(0, 0x99, &[]), client(0, 0x99, &[("vendor-class", "Tern D2")]));
    assert_eq!(address(&client(0, 0x11, &[]), 5), Ok((11, None)));
    assert_eq!(address(&client(0, 0x99, &[("client-id", "0102")]), 0), Ok((20, None)));
    // 20 is reserved, 22 is excluded, 25 to 27 are the phones'.
    assert_eq!([0, 1, 2, 3, 4].map(|leased| address(&laptop, leased).unwrap().0), [21, 23, 24, 28, 29]);
    assert_eq!(address(&laptop, 5), Err(NoAddress::AllTaken));
    assert_eq!(address(&phone, 2), Ok((27, Some("phones".to_owned()))));
    assert_eq!(address(&phone, 3), Err(NoAddress::AllTaken));
    assert_eq!(address(&client(1, 0x99, &[]), 0), Err(NoAddress::NoPool(Family::V4)));
    let compiled = Compiled::of(&plan);
    let (leases, fleets) = compiled.leases::<Ipv4Addr>(0);
    assert_eq!(
        (leases, fleets.iter().map(|(at, own)| (&*compiled.fleets[*at].name, *own)).collect::<Vec<_>>()),
        (6, vec![("phones", 3)])
    );
}

#[test]
fn an_exchange_has_what_was_asked_for_and_echoes_what_was_sent() {
    let plan = plan(LAYERS).plan.unwrap();
    let mut facts = client(0, 0x61, &[("vendor-class", "Tern D2"), ("client-id", "01aa"), ("circuit-id", "port7")]);
    facts.wants.v4 = Some(vec![6, 3, 7]);
    let compiled = Compiled::of(&plan);
    let answer = compiled.answer(Family::V4, &facts).unwrap();
    let exchange = compiled.exchange(&facts, &answer).unwrap();
    let messages: Vec<Message<'_>> =
        exchange.messages.iter().map(|sent| Message::read(&sent.octets).unwrap()).collect();
    for message in &messages {
        assert_eq!(check::message(&plan.codebook, *message), [], "{message}");
    }
    assert_eq!(check::exchange(&plan.codebook, messages[0], messages[1]), []);
    assert_eq!(check::exchange(&plan.codebook, messages[2], messages[3]), []);
    let codes: Vec<u16> = messages[3].options().map(|option| option.code()).collect();
    assert_eq!(codes, [53, 54, 51, 61, 6, 3, 7, 58, 59, 82]);
    assert_eq!((exchange.unrequested, messages[3].header().yiaddr), (vec![1], Ipv4Addr::new(10, 64, 4, 25)));
    // Without an address nothing is offered.
    let nowhere = client(1, 0x61, &[]);
    let silent = compiled.exchange(&nowhere, &Compiled::of(&plan).answer(Family::V4, &nowhere).unwrap()).unwrap();
    assert_eq!(silent.messages.len(), 1);
}

#[test]
fn expectations_are_held_against_the_plan() {
    let expects = |lines: &str| {
        let client = "client = { network = \"desk\", mac = \"02:00:5e:00:53:61\", vendor-class = \"Tern D2\" }";
        let loaded = plan(&format!("{LAYERS}[[expect]]\n{client}\n{lines}\n"));
        let found = check::plan(&loaded).into_iter().filter(|at| at.rule.name == "expectation-not-met");
        found.map(|finding| finding.message).collect::<Vec<_>>()
    };
    let met = "sent = { log-server = \"10.64.0.71\", subnet-mask = \"255.255.255.0\" }\nnot-told = [\"domain-name\"]\n\
               address = [\"10.64.4.25-10.64.4.27\"]\nfleets = [\"phones\", \"late\"]";
    assert_eq!(expects(met), Vec::<String>::new());
    assert_eq!(
        expects("sent = { log-server = \"10.64.0.70\" }"),
        ["log-server should be 10.64.0.70, but is 10.64.0.71"]
    );
    assert_eq!(expects("sent = { domain-name = \"x.example\" }"), ["domain-name is not sent"]);
    assert_eq!(expects("sent = { subnet-mask = \"255.255.0.0\" }"), ["subnet-mask is not 255.255.0.0"]);
    assert_eq!(expects("not-sent = [\"router\"]"), ["router is sent: 10.64.4.2"]);
    assert_eq!(expects("address = \"10.64.4.20\""), ["the address is 10.64.4.25"]);
    assert_eq!(expects("fleets = [\"phones\"]"), ["the client also belongs to fleet late"]);
    assert_eq!(expects("fleets = [\"phones\", \"late\", \"boats\"]"), ["there is no fleet boats"]);
}

/// What reading and checking a plan finds that has these reservations.
fn in_csv(csv: &str) -> Vec<oplex::finding::Finding> {
    let text = marked::around("", "").replacen("[send.v4]", "reservations = \"r.csv\"\n[send.v4]", 1);
    check::plan(&Plan::read("plan.toml", &text, &mut |_| Ok(csv.to_owned())))
}

#[test]
fn reservations_are_read_as_people_keep_them() {
    let text = marked::around("", "").replacen("[send.v4]", "reservations = \"r.csv\"\n[send.v4]", 1);
    let csv = "\u{feff}# the workshop's\r\nMAC;address;name;network;hostname\r\n\r\n02-00-5E-00-53-11;10.64.8.11;\"door; east\";domes;\"east\"\r\n\
               02:00:5e:00:53:12;10.64.8.12;;;\r\n";
    let loaded = Plan::read("plan.toml", &text, &mut |_| Ok(csv.to_owned()));
    assert_eq!(check::plan(&loaded), []);
    let plan = loaded.plan.unwrap();
    let (door, other) = (&plan.reservations[0], &plan.reservations[1]);
    assert_eq!(plan.reservations.len(), 2);
    assert_eq!((door.name().unwrap().0, door.layer().unwrap().sends.v4.len()), ("door; east", 1));
    // Its network follows from the address.
    assert_eq!(
        (other.network(), other.address::<Ipv4Addr>().unwrap().0, other.layer().is_none()),
        (0, [10, 64, 8, 12].into(), true)
    );
    let place = loaded.sources.location(&other.client_spot());
    assert_eq!((place.file.as_str(), place.line, place.column), ("r.csv", 5, 1));
}

#[test]
fn columns_may_be_ignored_and_may_be_of_ipv6() {
    let file = "reservations = { file = \"r.csv\", ignore = [\"serial\", \"remark\"] }\n[send.v4]";
    let text = marked::around("prefix = \"2001:db8:64:8::/64\"\nadvertise = { managed = true }", "").replacen(
        "[send.v4]",
        file,
        1,
    );
    let csv = "mac,Serial,remark,address-v6,network,v6:bootfile-url\n\
               02:00:5e:00:53:11,9,\"in two\nlines\",2001:db8:64:8::11,domes,http://boot.tarnfell.example/a\n";
    let loaded = Plan::read("plan.toml", &text, &mut |_| Ok(csv.to_owned()));
    assert!(loaded.findings.is_empty(), "{:?}", loaded.findings);
    let plan = loaded.plan.unwrap();
    let sends = &plan.reservations[0].layer().unwrap().sends;
    assert_eq!((sends.v4.len(), sends.v6.len()), (0, 1));
}

#[test]
fn faults_in_reservations_are_found_at_their_cells() {
    for (csv, rule, message) in [
        ("mac,addr«ess»x\n", "unknown-option", ""),
        (
            "mac,address\n02:00:5e:00:53:11,«10.64.8.300»\n",
            "value-wrong-kind",
            "`10.64.8.300` is not an IPv4 address: 300 is above 255",
        ),
        ("mac,address\n# x\n\n«02:00:5e»,10.64.8.11\n", "value-wrong-kind", "`02:00:5e` has 3 octets; a MAC has 6"),
        ("mac,name,network\n02:00:5e:00:53:11,\"a, b\",«dome»\n", "value-wrong-kind", "unknown network `dome`"),
        (
            "mac,address,name\n02:00:5e:00:53:11,10.64.8.11,x,«y»\n",
            "value-wrong-kind",
            "4 cells, but the first line has 3 columns",
        ),
        ("mac,hostname,network\n02:00:5e:00:53:11,«dome!»,domes\n", "host-name-invalid", ""),
        ("mac,name,network,«name»\n02:00:5e:00:53:11,a,domes,b\n", "value-wrong-kind", "two columns `name`"),
        (
            "mac,name,network\n02:00:5e:00:53:11,«\"»a,domes\n02:00:5e:00:53:12,b,domes\n",
            "value-wrong-kind",
            "a quote that is not closed on its line; what follows is read as part of this cell",
        ),
        ("mac,«ip»,network\n02:00:5e:00:53:11,10.64.8.11,domes\n", "unknown-key", "unknown column `ip`"),
        (
            "mac,client-id,network\n«02:00:5e:00:53:11»,01:02,domes\n",
            "reservation-key-ignored",
            "`mac` is ignored beside `client-id`",
        ),
        (
            "«address»,name\n",
            "key-missing",
            "no column says which client it is: `mac`, `client-id`, `duid`, `circuit-id` or `remote-id`",
        ),
        (
            "mac,address\n02:00:5e:00:53:11,10.64.8.11\n«02:00:5e:00:53:11»,10.64.8.12\n",
            "reservation-repeated",
            "02:00:5e:00:53:11 already has a reservation on domes",
        ),
    ] {
        let (text, span) = marked::unmarked(csv);
        let found = in_csv(&text);
        let [finding] = &found[..] else { panic!("{csv}\n{found:#?}") };
        assert_eq!(finding.rule.name, rule, "{csv}");
        assert!(message.is_empty() || finding.message == message, "{}", finding.message);
        let at = finding.spot.as_ref().unwrap().span.clone();
        let (at, wanted) = (&text[at], &text[span.unwrap()]);
        assert!(at.contains(wanted), "{csv}: {at}");
    }
}

#[test]
fn fleets_that_get_in_each_others_way_are_found() {
    let rules = |more: &str| {
        let found = check::plan(&plan(more));
        found.into_iter().map(|finding| finding.rule.name).collect::<Vec<_>>()
    };
    let two = |first: &str, second: &str| {
        rules(&format!(
            "[fleet.one]\nmatch = {first}\nsend.v4 = {{ log-server = \"10.64.0.70\" }}\n[fleet.two]\nmatch = {second}\n\
             send.v4 = {{ log-server = \"10.64.0.71\" }}\n"
        ))
    };
    assert_eq!(two("{ vendor-class = \"Tern *\" }", "{ mac = \"02:*\" }"), ["fleets-disagree"]);
    assert_eq!(two("{ vendor-class = \"Tern\" }", "{ vendor-class = \"Gannet\" }"), [""; 0]);
    assert_eq!(two("{ hostname = [\"a\", \"b\"] }", "{ all = [{ hostname = \"c\" }, { arch = 7 }] }"), [""; 0]);
    assert_eq!(two("{ hostname = [\"a\", \"b\"] }", "{ hostname = \"b\" }"), ["fleets-disagree"]);
    let pool = |pool: &str| rules(&format!("[fleet.one]\nmatch = {{ arch = 7 }}\non.desk.pool = \"{pool}\"\n"));
    assert_eq!(pool("10.64.4.24-10.64.4.26"), [""; 0]);
    assert_eq!(pool("10.64.4.28-10.64.4.31"), ["fleet-pool-outside"]);
    assert_eq!(pool("10.64.5.1-10.64.5.2"), ["fleet-pool-outside"]);
    let asks = |asks: &str| {
        rules(&format!(
            "[fleet.one]\nmatch = {{ arch = 7 }}\nrequests = {asks}\nsend.v4 = {{ log-server = \"10.64.0.70\" }}\n"
        ))
    };
    assert_eq!((asks("[1, \"log-server\"]"), asks("[1, 3]")), (vec![], vec!["sent-but-not-requested"]));
}

proptest! {
    #[test]
    fn a_reservation_changes_nobody_elses_answer_but_its_address(last in 0u8..=255, other in 0u8..=255, host in 10u8..40) {
        prop_assume!(last != other);
        let one = format!(
            "[[reservation]]\nnetwork = \"desk\"\nmac = \"02:00:5e:00:53:{last:02x}\"\naddress = \"10.64.4.{host}\"\n\
             send.v4 = {{ log-server = \"10.64.0.99\" }}\n"
        );
        let (before, after) = (plan(LAYERS).plan.unwrap(), plan(&format!("{LAYERS}{one}")).plan.unwrap());
        let facts = client(0, other, &[("vendor-class", "Tern D2")]);
        let told = |plan: &Plan| {
            let compiled = Compiled::of(plan);
            let answer = compiled.answer(Family::V4, &facts).unwrap();
            answer.payloads.iter().map(|told| (told.code, told.octets.to_vec())).collect::<Vec<_>>()
        };
        assert_eq!(told(&before), told(&after));
    }

    #[test]
    fn the_order_of_keys_in_a_table_does_not_matter(order in Just([0, 1, 2, 3]).prop_shuffle()) {
        let lines = ["router = \"10.64.4.2\"", "log-server = \"10.64.0.70\"", "ntp-servers = \"10.64.0.123\"", "mtu-interface = 1400"];
        let more = format!("[fleet.it]\nmatch = {{ mac = \"02:*\" }}\n[fleet.it.send.v4]\n{}\n", order.map(|at| lines[at]).join("\n"));
        let plan = plan(&more).plan.unwrap();
        let compiled = Compiled::of(&plan);
        let answer = compiled.answer(Family::V4, &client(0, 1, &[])).unwrap();
        let codes: Vec<u16> = answer.payloads.iter().map(|told| told.code).collect();
        assert_eq!(codes, [1, 3, 6, 7, 15, 26, 42, 51, 58, 59]);
    }

    #[test]
    fn any_pattern_is_held_against_any_text(pattern in "[ab*?]{0,8}", text in "[ab]{0,10}") {
        let more = format!("[fleet.it]\nmatch = {{ hostname = \"{pattern}\" }}\n");
        let fits = !fleets(&more, &client(0, 1, &[("hostname", &text)])).is_empty();
        assert_eq!(fits, slow(pattern.as_bytes(), text.as_bytes()), "{pattern} {text}");
    }
}

/// The same by trying everything.
fn slow(pattern: &[u8], text: &[u8]) -> bool {
    match (pattern, text) {
        ([], []) => true,
        ([b'*', rest @ ..], text) => (0..=text.len()).any(|at| slow(rest, &text[at..])),
        ([b'?', rest @ ..], [_, more @ ..]) => slow(rest, more),
        ([wanted, rest @ ..], [found, more @ ..]) => wanted == found && slow(rest, more),
        _ => false,
    }
}

/// Options that a layer may send, each with a value.
const SENDS: [(&str, &str); 5] = [
    ("log-server", "10.64.0.70"),
    ("ntp-servers", "10.64.0.123"),
    ("time-server", "10.64.0.37"),
    ("lpr-server", "10.64.0.51"),
    ("swap-server", "10.64.0.62"),
];

/// The lines of a layer that sends some of these and withholds some.
fn layer(table: &str, sends: &[usize], withholds: &[usize]) -> String {
    let names: Vec<String> = withholds.iter().map(|at| format!("{:?}", SENDS[*at].0)).collect();
    let lines: Vec<String> = sends.iter().map(|at| format!("{} = {:?}", SENDS[*at].0, SENDS[*at].1)).collect();
    let head = if table == "fleet.it" { "match = { mac = \"02:*\" }\n" } else { "" };
    format!("[{table}]\n{head}withhold = [{}]\n[{table}.send.v4]\n{}\n", names.join(", "), lines.join("\n"))
}

fn some() -> impl Strategy<Value = Vec<usize>> {
    prop::sample::subsequence(vec![0, 1, 2, 3, 4], 0..=5)
}

proptest! {
    #[test]
    fn what_a_layer_withholds_is_told_only_when_a_narrower_one_sends_it(
        wide in some(), fleet in some(), fleet_out in some(), place in some(), place_out in some(),
    ) {
        let everyone: Vec<String> = wide.iter().map(|at| format!("{} = {:?}\n", SENDS[*at].0, SENDS[*at].1)).collect();
        let text = format!(
            "[send.v4]\n{}[network.desk]\nsubnet = \"10.64.4.0/24\"\n{}{}",
            everyone.concat(),
            layer("fleet.it", &fleet, &fleet_out),
            layer("fleet.it.on.desk", &place, &place_out),
        );
        let read = |text: &str| Plan::read("plan.toml", text, &mut |_| Err(String::new().into()));
        let released = |loaded: &Loaded| oplex::release::compile(loaded.plan.as_ref().unwrap(), &loaded.sources).unwrap();
        let loaded = read(&text);
        // Input otherwise it is the same plan, and nothing changes for anybody.
        let otherwise = read(&format!("# The same.\n\n{}", text.replace(" = ", "=").replace('\n', "  # so\n")));
        let (document, same) = (released(&loaded), released(&otherwise));
        let plan = loaded.plan.unwrap();
        let compiled = Compiled::of(&plan);
        assert_eq!(oplex::release::compare(&compiled, &same.compiled().unwrap()), []);
        // What is read back from a release answers alike.
        let released = document.compiled().unwrap();
        assert_eq!(
            released.answer(Family::V4, &client(0, 1, &[])).unwrap().payloads.iter().map(|one| (one.code, &one.octets)).collect::<Vec<_>>(),
            compiled.answer(Family::V4, &client(0, 1, &[])).unwrap().payloads.iter().map(|one| (one.code, &one.octets)).collect::<Vec<_>>()
        );
        let answer = compiled.answer(Family::V4, &client(0, 1, &[])).unwrap();
        for (at, (name, _)) in SENDS.iter().enumerate() {
            let told = answer.sent.iter().any(|told| *told.option.definition.name == **name);
            // Within one layer, what it sends counts, not what it withholds of wider ones.
            let after_fleet = fleet.contains(&at) || (wide.contains(&at) && !fleet_out.contains(&at));
            let expected = place.contains(&at) || (after_fleet && !place_out.contains(&at));
            assert_eq!(told, expected, "{name}\n{text}");
        }
    }

    #[test]
    fn a_spreadsheet_says_what_tables_in_the_plan_say(
        rows in prop::collection::btree_map(0u8..=255, (2u8..=250, "[a-z][a-z ;,\"]{0,8}[a-z]", any::<bool>()), 1..8),
        semicolons: bool, blank: bool,
    ) {
        let (mut csv, mut toml) = (String::from("mac,name,address,hostname\n"), String::new());
        for (mac, (host, name, named)) in &rows {
            let hostname = if *named { format!("dome-{host}") } else { String::new() };
            let quoted = format!("\"{}\"", name.replace('"', "\"\""));
            csv += &format!("02:00:5e:00:53:{mac:02x},{quoted},10.64.4.{host},{hostname}\n{}", if blank { "\n" } else { "" });
            let sends = if *named { format!("send.v4 = {{ hostname = \"{hostname}\" }}\n") } else { String::new() };
            toml += &format!(
                "[[reservation]]\nnetwork = \"desk\"\nmac = \"02:00:5e:00:53:{mac:02x}\"\naddress = \"10.64.4.{host}\"\nname = {name:?}\n{sends}"
            );
        }
        if semicolons && !rows.values().any(|(_, name, _)| name.contains([',', ';'])) {
            csv = csv.replace(',', ";");
        }
        let head = "[network.desk]\nsubnet = \"10.64.4.0/24\"\n";
        let read = |text: &str| Plan::read("plan.toml", text, &mut |_| Ok(csv.clone()));
        let (sheet, tables) = (read(&format!("reservations = \"r.csv\"\n{head}")), read(&format!("{head}{toml}")));
        assert_eq!((sheet.findings.len(), tables.findings.len()), (0, 0), "{csv}\n{:#?}", sheet.findings);
        let said = |loaded: &Loaded| {
            let plan = loaded.plan.as_ref().unwrap();
            let mut said: Vec<_> = plan
                .reservations
                .iter()
                .map(|one| {
                    let octets = one.layer().map(|layer| layer.sends.v4[0].payload().unwrap().octets.clone());
                    (one.client().clone(), one.network(), one.address::<Ipv4Addr>().unwrap().0, one.name().unwrap().0.to_owned(), octets)
                })
                .collect();
            said.sort();
            said
        };
        assert_eq!(said(&sheet), said(&tables), "{csv}");
        // Each cell is found where it stands.
        for one in sheet.plan.as_ref().unwrap().reservations.iter() {
            let text = |spot: &oplex::finding::Spot| sheet.sources.get(spot.file).text[spot.span.clone()].to_owned();
            let (address, spot) = one.address::<Ipv4Addr>().unwrap();
            assert_eq!((text(&spot), text(&one.client_spot())), (address.to_string(), one.client().to_string()));
        }
    }
}

/// The demo: its devices get what its story says.
#[test]
fn the_demo_holds_what_it_promises() {
    let read = |path: &str| std::fs::read_to_string(format!("{}/../../demo/{path}", env!("CARGO_MANIFEST_DIR")));
    let text = read("plan.toml").unwrap();
    let loaded = Plan::read("plan.toml", &text, &mut |path| Ok(read(path)?));
    assert_eq!(check::plan(&loaded), []);
    let plan = loaded.plan.unwrap();
    let answer = |network: &str, last: u8, texts: &[(&str, &str)]| {
        let facts = client(plan.network(network).unwrap(), last, texts);
        let compiled = Compiled::of(&plan);
        let answer = compiled.answer(Family::V4, &facts).unwrap();
        let address = answer.address.as_ref().unwrap().address.to_string();
        let fleets: Vec<&str> = answer.fleets.iter().map(|fleet| &*fleet.name).collect();
        let codes: Vec<u16> = answer.payloads.iter().map(|told| told.code).collect();
        (address, fleets.join(" "), codes)
    };
    let (address, fleets, codes) = answer("control-room", 0x61, &[("vendor-class", "Tern D2")]);
    assert_eq!((address.as_str(), fleets.as_str()), ("10.64.5.128", "intercoms"));
    assert!([43, 150, 224].iter().all(|code| codes.contains(code)));
    let (address, fleets, codes) = answer("domes", 0x33, &[("arch", "x64-uefi")]);
    assert_eq!((address.as_str(), fleets.as_str(), codes.contains(&67)), ("10.64.8.13", "boot", true));
    let (address, fleets, codes) = answer("visitors", 0x77, &[("hostname", "laptop")]);
    assert_eq!((address.as_str(), fleets.as_str()), ("10.64.16.10", ""));
    assert!(codes.contains(&114) && ![42, 43, 121, 224].iter().any(|code| codes.contains(code)));
    // A machine out of the spreadsheet.
    assert_eq!(answer("control-room", 0x12, &[]).0, "10.64.4.12");
}

#[test]
fn a_fleet_adds_no_second_vendor_to_what_its_network_tells() {
    let book = |name: &str| {
        format!(
            "book = \"{name}\"\ntitle = \"x\"\ncarriers = [\"v4:43\"]\n[[option]]\ncode = 1\nname = \"one\"\nlayout = \"u8\"\nreference = \"manual\"\n"
        )
    };
    let rules = |fleet: &str| {
        let text = marked::around("", "\"tern:one\" = 1").replacen(
            "[send.v4]",
            "codebooks = [\"tern\", \"gannet\"]\n[send.v4]",
            1,
        );
        let text = format!(
            "{text}[fleet.radios]\nmatch = {{ vendor-class = \"Gannet *\" }}\nsend.v4 = {{ \"{fleet}\" = 2 }}\n"
        );
        let found = check::plan(&Plan::read("plan.toml", &text, &mut |name| Ok(book(name))));
        found.into_iter().map(|finding| finding.message).collect::<Vec<_>>()
    };
    assert_eq!(rules("gannet:one"), ["radios on domes: option 43 holds sub-options of both gannet and tern"]);
    assert_eq!(rules("tern:one"), [""; 0]);
}

/// A fleet changes what several networks send, each network something else: what became of one is not taken for the other,
/// whichever is asked for first, and octets that the option does not take are not sent.
#[test]
fn changes_of_a_fleet_follow_what_the_network_sends() {
    let network = |name: &str, third: u8, servers: &str| {
        format!(
            "[network.{name}]\nsubnet = \"10.64.{third}.0/24\"\npool = \"10.64.{third}.20-10.64.{third}.90\"\n\
             send.v4 = {{ domain-server = {servers} }}\n"
        )
    };
    let text = [
        network("desk", 4, "[\"10.64.0.53\"]"),
        network("dome", 8, "[\"10.64.8.53\", \"10.64.0.53\"]"),
        network("odd", 9, "{ hex = \"0a400035ff\" }"),
        "[fleet.phones]\nmatch = { vendor-class = \"Tern*\" }\namend.v4.domain-server = { first = [\"10.64.0.99\"] }\n"
            .to_owned(),
    ]
    .concat();
    let loaded = Plan::read("plan.toml", &text, &mut |path| Err(format!("no file {path}").into()));
    let plan = loaded.plan.as_ref().unwrap_or_else(|| panic!("{:#?}", loaded.findings));
    let [own, desk, dome] = [[10, 64, 0, 99], [10, 64, 0, 53], [10, 64, 8, 53]];
    let expected = [Some([own, desk].concat()), Some([own, dome, desk].concat())];
    for order in [[0, 1, 2], [1, 0, 2], [2, 1, 0], [0, 2, 1]] {
        let compiled = Compiled::of(plan);
        for network in order.into_iter().chain(order) {
            let phone = client(network, 7, &[("vendor-class", "Tern D2")]);
            let answer = compiled.answer(Family::V4, &phone).unwrap();
            let servers = answer.payloads.iter().find(|sent| sent.code == 6).map(|sent| sent.octets.to_vec());
            assert_eq!(Some(&servers), expected.get(network).or(Some(&servers)), "{network} in {order:?}");
            let plain = compiled.answer(Family::V4, &client(network, 7, &[])).unwrap();
            let plain = plain.payloads.iter().find(|sent| sent.code == 6).map(|sent| sent.octets.len());
            assert_eq!(plain, [Some(4), Some(8), plain][network]);
        }
    }
}
