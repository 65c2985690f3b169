//! Plans: layers, places, and what they compile to.

use oplex::answer::Audience;
use oplex::compiled::Compiled;
use oplex::family::Family;
use oplex::finding::Spot;
use oplex::octets::hex;
use oplex::plan::{Loaded, Plan};
use oplex::release::compile;
use proptest::prelude::proptest;

fn read(text: &str) -> Loaded {
    Plan::read("plan.toml", text, &mut |path| match path {
        "tern.toml" => Ok(TERN.to_owned()),
        _ => Err("no such file".into()),
    })
}

const TERN: &str = "book = \"tern\"\ntitle = \"Tern\"\nenterprise = 32473\ncarriers = [\"v4:43\"]\n\
    [[option]]\ncode = 1\nname = \"volume\"\nlayout = \"u8\"\nreference = \"manual\"\n[[option]]\ncode = 2\nname = \"page\"\nlayout = \"uri\"\nreference = \"manual\"\n\
    [[option]]\ncode = 224\ncarrier = \"v4\"\nname = \"settings\"\nlayout = 'pairs(\",\" \"=\") { PORT: u16 }'\nreference = \"manual\"\n";

const PLAN: &str = "codebooks = [\"tern.toml\"]\n[send.v4]\ndns = [\"10.64.0.53\"]\nntp = [\"10.64.0.123\"]\n\
    [network.domes]\nsubnet = \"10.64.8.0/21\"\nlease = \"2h\"\nwithhold = [\"ntp\"]\n\
    [network.domes.send.v4]\ngateway = \"10.64.8.1\"\ndomain-server = [\"10.64.0.54\"]\n\
    \"tern:page\" = \"https://a.example\"\n\"tern:volume\" = 7\n\"tern:settings\" = { PORT = 5061 }\n";

#[test]
fn the_narrower_layer_wins_and_what_it_withholds_is_not_told() {
    let loaded = read(PLAN);
    let plan = loaded.plan.unwrap();
    assert_eq!(loaded.findings, []);
    let compiled = Compiled::of(&plan);
    let told = Audience { compiled: &compiled, at: 0, fleet: None, reservation: None }.sent(Family::V4);
    let shown: Vec<String> = told
        .iter()
        .filter(|told| told.option.id().book() == "v4")
        .map(|told| format!("{} {} {}", told.option.id(), told.layer.name, told.overrides.len()))
        .collect();
    assert_eq!(shown, ["v4:3 network domes 0", "v4:6 network domes 1"]);
}

#[test]
fn a_compiled_network_has_its_own_times_its_mask_and_its_vendors_options_in_their_carrier() {
    let loaded = read(PLAN);
    let compiled = Compiled::of(loaded.plan.as_ref().unwrap());
    let payloads = compiled.payloads(Family::V4, 0).unwrap();
    let line = |spot: Option<&Spot>| spot.map_or(0, |spot| loaded.sources.location(spot).line);
    let options: Vec<(String, String, usize)> = payloads
        .iter()
        .map(|option| (format!("v4:{}", option.code), hex::plain(&option.octets), line(option.from[0].spot)))
        .collect();
    let options: Vec<(&str, &str, usize)> = options.iter().map(|(id, hex, line)| (&**id, &**hex, *line)).collect();
    let page = "021168747470733a2f2f612e6578616d706c65";
    assert_eq!(
        options,
        [
            ("v4:1", "fffff800", 6),
            ("v4:3", "0a400801", 10),
            ("v4:6", "0a400036", 11),
            ("v4:43", &*format!("010107{page}"), 13),
            ("v4:51", "00001c20", 7),
            ("v4:58", "00000e10", 0),
            ("v4:59", "0000189c", 0),
            ("v4:224", "504f52543d35303631", 14),
        ]
    );
}

#[test]
fn a_finding_counts_columns_in_characters_after_a_byte_order_mark_and_with_windows_line_ends() {
    let text = "\u{feff}title = \"é\"\r\n[network.a]\r\nsubnet = \"10.64.5.0/23\"\r\n";
    let loaded = read(text);
    let finding = oplex::check::plan(&loaded).into_iter().find(|finding| finding.rule.name == "subnet-host-bits-set");
    let place = loaded.sources.location(&finding.unwrap().spot.unwrap());
    assert_eq!((place.line, place.column, place.end_column), (3, 10, 24));
}

proptest! {
    #[test]
    fn any_text_is_read_as_a_plan_or_refused_with_a_place(text in "(\\PC|\n|\\[|=|\"){0,120}") {
        let loaded = read(&text);
        for finding in oplex::check::plan(&loaded) {
            let spot = finding.spot.unwrap();
            assert!(loaded.sources.get(spot.file).text.get(spot.span).is_some());
        }
    }
}

/// Options of two enterprises share one option 125, and an option of a book with two carriers travels in both.
#[test]
fn vendors_options_are_joined_in_what_carries_them() {
    let book = |name: &str, enterprise: u32, carriers: &str| {
        format!(
            "book = \"{name}\"\nenterprise = {enterprise}\ncarriers = [{carriers}]\n[[option]]\ncode = 1\nname = \"level\"\n\
             layout = \"u8\"\nreference = \"manual\"\n"
        )
    };
    let text = "codebooks = [\"a\", \"b\"]\n[network.domes]\nsubnet = \"10.64.8.0/21\"\n[network.domes.send.v4]\n\
                \"hill:level\" = 7\n\"mast:level\" = 9\n";
    let loaded = Plan::read("plan.toml", text, &mut |path| {
        Ok(match path {
            "a" => book("hill", 32473, "\"v4:43\", \"v4:125\""),
            _ => book("mast", 9, "\"v4:125\""),
        })
    });
    assert_eq!(loaded.findings, []);
    let compiled = Compiled::of(loaded.plan.as_ref().unwrap());
    let payloads = compiled.payloads(Family::V4, 0).unwrap();
    let hex = |code: u16| payloads.iter().find(|option| option.code == code).map(|option| hex::plain(&option.octets));
    assert_eq!(hex(43).as_deref(), Some("010107"));
    assert_eq!(hex(125).as_deref(), Some("00007ed903010107000000090301 0109".replace(' ', "").as_str()));
}

#[test]
fn times_come_from_the_network_the_plan_or_the_lease() {
    let times = |lines: &str, network: &str| {
        let text = format!("{lines}\n[network.domes]\nsubnet = \"10.64.8.0/21\"\n{network}\n");
        let loaded = read(&text);
        let plan = loaded.plan.unwrap();
        let compiled = Compiled::of(&plan);
        let everyone = Audience { compiled: &compiled, at: 0, fleet: None, reservation: None };
        let times = everyone.timers(Family::V4, &everyone.sent(Family::V4));
        (times.lease.seconds, times.renew.seconds, times.rebind.seconds)
    };
    assert_eq!(times("", ""), (86_400, 43_200, 75_600));
    assert_eq!(times("lease = \"8h\"", ""), (28_800, 14_400, 25_200));
    assert_eq!(times("lease = \"8h\"", "lease = \"2h\""), (7_200, 3_600, 6_300));
    assert_eq!(times("lease = \"8h\"\nrenew = \"1h\"", "rebind = 7200"), (28_800, 3_600, 7_200));
    assert_eq!(times("lease = \"infinite\"", ""), (u32::MAX, u32::MAX, u32::MAX));
    // What a layer sends itself is what devices are sent.
    assert_eq!(times("[send.v4]\nrenewal-time = \"2h\"", ""), (86_400, 7_200, 75_600));
}

#[test]
fn the_same_plan_compiles_to_the_same_whatever_its_spacing() {
    let spaced = PLAN.replace(" = ", "   =   ").replace("[network", "\n\n[network");
    let compiled = |text: &str| {
        let loaded = read(text);
        let compiled = compile(loaded.plan.as_ref().unwrap(), &loaded.sources).unwrap();
        let octets: Vec<(String, String)> = compiled.content.networks[0]
            .says
            .options
            .v4
            .iter()
            .map(|option| (option.option.clone(), option.hex.clone()))
            .collect();
        octets
    };
    assert_eq!(compiled(PLAN), compiled(&spaced));
}

/// The sends of a network and what it withholds, made up from these.
const OFFERED: [(&str, &str); 6] = [
    ("ntp", "\"10.64.0.123\""),
    ("dns", "\"10.64.0.53\""),
    ("domain-name", "\"a.example\""),
    ("mtu", "1500"),
    ("bootfile-name", "\"a.efi\""),
    ("default-ip-ttl", "64"),
];

fn plan_of(everyone: &[usize], network: &[usize], withheld: &[usize]) -> Plan {
    let sends = |chosen: &[usize]| {
        let line = |at: &usize| format!("{} = {}\n", OFFERED[*at].0, OFFERED[*at].1);
        chosen.iter().map(line).collect::<String>()
    };
    let withheld: Vec<String> = withheld.iter().map(|at| format!("\"{}\"", OFFERED[*at].0)).collect();
    let text = format!(
        "[send.v4]\n{}[network.domes]\nsubnet = \"10.64.8.0/21\"\nwithhold = [{}]\n[network.domes.send.v4]\n{}",
        sends(everyone),
        withheld.join(", "),
        sends(network)
    );
    read(&text).plan.unwrap()
}

fn told_names(plan: &Plan) -> Vec<String> {
    let compiled = Compiled::of(plan);
    let told = Audience { compiled: &compiled, at: 0, fleet: None, reservation: None }.sent(Family::V4);
    told.iter().map(|told| told.option.id().to_string()).collect()
}

proptest! {
    /// What is withheld and not sent again by the network itself is not told; everything else that is sent is, once.
    #[test]
    fn told_is_what_is_sent_less_what_is_withheld(everyone: u8, network: u8, withheld: u8) {
        let chosen = |bits: u8| (0..OFFERED.len()).filter(|at| bits >> at & 1 == 1).collect::<Vec<_>>();
        let (everyone, network, withheld) = (chosen(everyone), chosen(network), chosen(withheld));
        let plan = plan_of(&everyone, &network, &withheld);
        let expected = (0..OFFERED.len())
            .filter(|at| network.contains(at) || (everyone.contains(at) && !withheld.contains(at)))
            .count();
        assert_eq!(told_names(&plan).len(), expected);
        // The order in which options are written makes no difference.
        let turned = |chosen: &[usize]| chosen.iter().rev().copied().collect::<Vec<_>>();
        assert_eq!(told_names(&plan), told_names(&plan_of(&turned(&everyone), &turned(&network), &turned(&withheld))));
    }
}
