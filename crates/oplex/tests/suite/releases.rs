//! What plans with fleets and reservations come to, and how large their answers are.

use oplex::check;
use oplex::compiled::Compiled;
use oplex::family::Family;
use oplex::plan::{Loaded, Plan};
use oplex::release::{Changed, Detail, Document, Sides, compare, compile};

/// A plan with one network of these sends, and these lines after it.
fn plan(sends: &str, more: &str) -> Loaded {
    let text = format!(
        "[send.v4]\ndomain-server = [\"10.64.0.53\"]\ndomain-name = \"tarnfell.example\"\n[network.domes]\n\
         subnet = \"10.64.8.0/21\"\npool = [\"10.64.8.32-10.64.8.63\"]\nlease = \"2d\"\n[network.domes.send.v4]\n\
         router = \"10.64.8.1\"\n{sends}\n{more}"
    );
    Plan::read("plan.toml", &text, &mut |path| Err(format!("no file {path}")))
}

const MORE: &str = "[fleet.boot]\nmatch = { any = [{ arch = 7 }, { mac = \"02:00:5e:*\" }] }\nlease = \"1h\"\nwithhold = [\"domain-name\"]\n\
    [fleet.boot.send.v4]\nbootfile-name = \"domes/controller.efi\"\nserver-name = \"boot.example\"\n[fleet.boot.on.domes]\npool = [\"10.64.8.40-10.64.8.47\"]\n\
    send.v4 = { log-server = \"10.64.0.70\" }\n[[reservation]]\nnetwork = \"domes\"\nmac = \"02:00:5e:00:53:33\"\n\
    address = \"10.64.8.13\"\nname = \"dome-3\"\nsend.v4 = { hostname = \"dome-3\" }\n[[reservation]]\nnetwork = \"domes\"\n\
    client-id = \"01aa\"\n";

#[test]
fn a_release_holds_everything_that_its_plan_says() {
    let loaded = plan("", MORE);
    assert_eq!(check::plan(&loaded), []);
    let compiled = compile(loaded.plan.as_ref().unwrap(), &loaded.sources);
    let [boot] = &compiled.fleets[..] else { panic!("{compiled:#?}") };
    assert_eq!(boot.recognised, "one of (arch is 7; mac is 02:00:5e:*)");
    assert_eq!((boot.says.lease, boot.says.withheld.as_slice()), (Some(3600), &["v4:15".to_owned()][..]));
    assert_eq!((boot.says.options[0].option.as_str(), boot.says.options[0].from[0].line), ("v4:67", 16));
    assert_eq!((boot.on[0].network.as_str(), boot.on[0].pools[0].as_str()), ("domes", "10.64.8.40-10.64.8.47"));
    assert_eq!(boot.on[0].says.options[0].hex, "0a400046");
    let [dome, other] = &compiled.reservations[..] else { panic!("{compiled:#?}") };
    assert_eq!((dome.client.as_str(), dome.address.as_deref()), ("02:00:5e:00:53:33", Some("10.64.8.13")));
    assert_eq!((dome.name.as_deref(), dome.says.options[0].name.as_str()), (Some("dome-3"), "hostname"));
    assert_eq!((other.client.as_str(), &other.says, &other.address), ("client 01:aa", &Default::default(), &None));
    // What is written is read back, and a plan without any of that is written as before.
    let json = serde_json::to_string(&compiled).unwrap();
    assert_eq!(serde_json::from_str::<Document>(&json).unwrap(), compiled);
    let bare = plan("", "");
    let json = serde_json::to_value(compile(bare.plan.as_ref().unwrap(), &bare.sources)).unwrap();
    assert_eq!(json.as_object().unwrap().keys().collect::<Vec<_>>(), ["plan", "networks"]);
}

#[test]
fn what_a_network_tells_comes_with_the_lines_that_say_so() {
    let loaded = plan("mtu-interface = 9000", MORE);
    let plan = loaded.plan.as_ref().unwrap();
    let compiled = Compiled::of(plan);
    let told = compiled.payloads(Family::V4, 0).unwrap();
    let lines: Vec<(u16, &str, usize)> = told
        .iter()
        .map(|told| {
            let by = &told.from[0];
            let line = by.spot.as_ref().map_or(0, |spot| loaded.sources.place(spot).line);
            (told.code, by.layer.name, line)
        })
        .collect();
    let domes = "network domes";
    assert_eq!(
        lines,
        [
            (1, domes, 5),
            (3, domes, 9),
            (6, "everyone", 2),
            (15, "everyone", 3),
            (26, domes, 10),
            (51, domes, 7),
            (58, domes, 0),
            (59, domes, 0),
        ]
    );
}

#[test]
fn the_largest_answer_is_looked_for_among_the_fleets() {
    let largest = |sends: &str, more: &str| {
        let loaded = plan(sends, more);
        let plan = loaded.plan.unwrap();
        let compiled = Compiled::of(&plan);
        let largest = compiled.largest_reply(0).unwrap();
        let left_out: Vec<u8> = largest.budget.left_out.iter().map(|out| out.code).collect();
        (largest.fleet.map(str::to_owned), largest.budget.used, left_out)
    };
    let (nobody, bare, _) = largest("", "");
    assert_eq!((nobody, bare), (None, 241 + 3 + 6 * 3 + 9 + 12 + 6 + 6 + 18));
    let (fleet, used, _) = largest("", MORE);
    // The boot file and the log server come in, the domain goes.
    assert_eq!((fleet.as_deref(), used), (Some("boot"), bare + 22 + 14 + 6 - 18));
    let long = |code: u16, octets: usize| format!("\"v4:{code}\" = {{ hex = \"{}\" }}\n", "aa".repeat(octets));
    let (_, used, left_out) = largest(&format!("{}{}", long(224, 120), long(225, 120)), "");
    assert_eq!((used <= 548, left_out), (true, vec![]));
    let (_, _, left_out) = largest(&[224, 225, 226, 227].map(|code| long(code, 120)).concat(), "");
    assert_eq!(left_out, [226, 227]);
}

#[test]
fn what_has_no_room_is_found_and_named() {
    let long = |octets: usize| format!("\"v4:224\" = {{ hex = \"{}\" }}\n", "aa".repeat(octets));
    let found = |sends: &str, more: &str| {
        let loaded = plan(sends, more);
        let found = check::plan(&loaded).into_iter().filter(|at| at.rule.name == "reply-over-budget");
        found.map(|at| (at.message, loaded.sources.place(&at.spot.unwrap()).line, at.related.len())).collect::<Vec<_>>()
    };
    assert_eq!(found(&long(200), ""), []);
    // 600 octets in three parts.
    let message = "domes: a client that accepts 576 octets gets no v4:224 site-specific-224 (606 octets); the rest takes 313 of 548 octets";
    assert_eq!(found(&long(600), ""), [(message.to_owned(), 10, 0)]);
    let fleet = format!(
        "[fleet.it]\nmatch = {{ arch = 7 }}\n[fleet.it.send.v4]\nroot-path = {:?}\n{}",
        "r".repeat(240),
        long(600)
    );
    let found = found("", &fleet);
    assert!(found[0].0.starts_with("domes, fleet it: ") && found[0].1 > 10, "{found:?}");
}

fn difference(before: &Loaded, after: &Loaded) -> Vec<Changed> {
    let compiled = |loaded: &Loaded| compile(loaded.plan.as_ref().unwrap(), &loaded.sources);
    compare(&compiled(before), &compiled(after))
}

#[test]
fn a_difference_says_what_changes_for_whom() {
    let before = plan("log-server = \"10.64.0.70\"\n", MORE);
    let later = MORE
        .replace("lease = \"1h\"", "lease = \"2h\"")
        .replace("controller.efi", "third.efi")
        .replace("10.64.8.47", "10.64.8.45")
        .replace("withhold = [\"domain-name\"]\n", "")
        .replace("10.64.8.13", "10.64.8.14")
        .replace("01aa", "01bb");
    let after = plan("cookie-server = \"10.64.0.71\"\n".replace("cookie", "quotes").as_str(), &later);
    let changed = difference(&before, &after);
    let told: Vec<String> = changed
        .iter()
        .flat_map(|changed| {
            let line = |change: &oplex::release::Change| {
                let side = |detail: &Option<Detail>| match detail {
                    Some(Detail::Octets(octets)) => oplex::octets::hex::plain(octets),
                    Some(Detail::Text(text)) => text.clone(),
                    None => "-".to_owned(),
                };
                format!("{}: {} {} {}", changed.concerned, change.what, side(&change.before), side(&change.after))
            };
            changed.changes.iter().map(line).collect::<Vec<_>>()
        })
        .collect();
    assert_eq!(
        told,
        [
            "network domes: v4:7 0a400046 -",
            "network domes: v4:8 - 0a400047",
            "fleet boot: lease 1h 2h",
            "fleet boot: withhold v4:15 yes -",
            "fleet boot: v4:67 646f6d65732f636f6e74726f6c6c65722e656669 646f6d65732f74686972642e656669",
            "fleet boot on domes: pool 10.64.8.40-10.64.8.47 10.64.8.40-10.64.8.45",
            "02:00:5e:00:53:33 on domes: address 10.64.8.13 10.64.8.14",
        ]
    );
    // A client without anything of its own is still there or not.
    let sides: Vec<(String, Sides)> =
        changed[4..].iter().map(|changed| (changed.concerned.to_string(), changed.sides)).collect();
    assert_eq!(
        sides,
        [
            ("client 01:aa on domes".to_owned(), Sides::OnlyBefore),
            ("client 01:bb on domes".to_owned(), Sides::OnlyAfter)
        ]
    );
}

#[test]
fn what_a_person_writes_otherwise_is_no_difference() {
    let plain = plan("log-server = [\"10.64.0.70\"]\n", MORE);
    let otherwise = plan("# the log\n\"v4:7\" = \"10.64.0.70\"\n", &format!("# more\n{}", MORE.replace("1h", "3600s")));
    assert_eq!(difference(&plain, &otherwise), []);
    assert_eq!(difference(&plain, &plain), []);
    let more = plan("", &format!("{MORE}[network.mast]\nsubnet = \"10.64.9.0/24\"\n"));
    let new = difference(&plan("", MORE), &more);
    assert_eq!((new.len(), &*new[0].concerned.to_string(), new[0].sides), (1, "network mast", Sides::OnlyAfter));
    let gone = difference(&more, &plan("", MORE));
    assert_eq!((&*gone[0].concerned.to_string(), gone[0].sides), ("network mast", Sides::OnlyBefore));
}
