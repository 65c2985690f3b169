//! What plans with fleets and reservations come to, and how large their answers are.

use oplex::answer::{Answer, Ends};
use oplex::check;
use oplex::codebook::Codebook;
use oplex::compiled::Compiled;
use oplex::family::Family;
use oplex::packet::AnyMessage;
use oplex::plan::{ClientFacts, Loaded, Plan};
use oplex::release::{Changed, Condition, Detail, Document, Sides, compare, compile};

/// A plan with one network of these sends, and these lines after it.
fn plan(sends: &str, more: &str) -> Loaded {
    let text = format!(
        "[send.v4]\ndomain-server = [\"10.64.0.53\"]\ndomain-name = \"tarnfell.example\"\n[network.domes]\n\
         subnet = \"10.64.8.0/21\"\npool = [\"10.64.8.32-10.64.8.63\"]\nlease = \"2d\"\n[network.domes.send.v4]\n\
         router = \"10.64.8.1\"\n{sends}\n{more}"
    );
    Plan::read("plan.toml", &text, &mut |path| Err(format!("no file {path}").into()))
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
    let document = compile(loaded.plan.as_ref().unwrap(), &loaded.sources).unwrap();
    let compiled = &document.content;
    let [boot] = &compiled.fleets[..] else { panic!("{compiled:#?}") };
    let Condition::Any(any) = &boot.recognised else { panic!("{boot:#?}") };
    let sends = any.iter().map(|one| match one {
        Condition::Sends { what, patterns, .. } => (what.as_str(), patterns.join(" ")),
        other => panic!("{other:?}"),
    });
    assert_eq!(sends.collect::<Vec<_>>(), [("arch", "x64-uefi".to_owned()), ("mac", "02:00:5e:*".to_owned())]);
    assert_eq!((boot.says.times.lease, boot.says.withheld.as_slice()), (Some(3600), &["v4:15".to_owned()][..]));
    let [server, file] = &boot.says.options.v4[..] else { panic!("{boot:#?}") };
    assert_eq!((server.option.as_str(), file.option.as_str(), file.code), ("v4:66", "v4:67", 67));
    assert_eq!((boot.on[0].network.as_str(), boot.on[0].pools[0].as_str()), ("domes", "10.64.8.40-10.64.8.47"));
    assert_eq!(boot.on[0].says.options.v4[0].hex, "0a400046");
    let [dome, other] = &compiled.reservations[..] else { panic!("{compiled:#?}") };
    assert_eq!((dome.client.as_str(), dome.address), ("02:00:5e:00:53:33", Some([10, 64, 8, 13].into())));
    assert_eq!(dome.name.as_deref(), Some("dome-3"));
    assert_eq!(dome.says.as_ref().unwrap().options.v4[0].option, "v4:12");
    assert_eq!((other.client.as_str(), &other.says, &other.address), ("client 01:aa", &None, &None));
    let json = serde_json::to_string(&document).unwrap();
    assert_eq!(serde_json::from_str::<Document>(&json).unwrap(), document);
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
            let line = by.spot.as_ref().map_or(0, |spot| loaded.sources.location(spot).line);
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
        found
            .map(|at| (at.message, loaded.sources.location(&at.spot.unwrap()).line, at.related.len()))
            .collect::<Vec<_>>()
    };
    assert_eq!(found(&long(200), ""), []);
    // 600 octets in three parts.
    let message = "domes: a client that accepts 576 octets does not receive v4:224 site-specific-224 (606 octets); the other options take 313 of 548 octets";
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
    // One side read back from its release, which must be the same as the plan itself.
    let release = compile(before.plan.as_ref().unwrap(), &before.sources).unwrap();
    compare(&release.compiled().unwrap(), &Compiled::of(after.plan.as_ref().unwrap()))
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

#[test]
fn what_only_the_server_or_the_order_of_fleets_changes_is_a_difference() {
    let fleet =
        |name: &str, class: &str, times: &str| format!("[fleet.{name}]\nmatch.vendor-class = \"{class}\"\n{times}\n");
    let with = |top: &str, fleets: &[String]| {
        let network =
            "[network.pier]\nprefix = \"2001:db8:64:9::/64\"\npool = \"2001:db8:64:9::100-2001:db8:64:9::1ff\"\n";
        let text = format!("{top}\n{network}{}", fleets.concat());
        Plan::read("plan.toml", &text, &mut |path| Err(format!("no file {path}").into()))
    };
    let server = "server = \"10.64.0.67\"\nserver-duid = \"00:03:00:01:02:00:5e:00:53:67\"\nlease = \"4h\"";
    let (wide, narrow) = (fleet("all", "Tern *", "lease = \"2h\""), fleet("one", "Tern 5", "lease = \"3h\""));
    let other = fleet("other", "Gannet *", "lease = \"3h\"");
    let both = [wide.clone(), narrow.clone()];
    let before = with(server, &both);
    let cases = [
        (with(&server.replace("0.67", "0.68"), &both), Some("server: server")),
        (with(&server.replace("53:67", "53:68"), &both), Some("server: server-duid")),
        (with(&format!("{server}\nrenew = \"1h\""), &both), Some("network pier: renew")),
        (with(&format!("{server}\nrebind = \"3h\""), &both), Some("network pier: rebind")),
        (with(&format!("{server}\npreferred = \"1h\""), &both), Some("network pier: preferred")),
        (
            with(server, &[wide.clone(), fleet("one", "Tern 5", "lease = \"3h\"\npreferred = \"1h\"")]),
            Some("fleet one: preferred"),
        ),
        (with(server, &[narrow, wide.clone()]), Some("server: order of fleets")),
        (with(server, &both), None),
    ];
    let said = |after: &Loaded, before: &Loaded| {
        let all = difference(before, after);
        let first = all.first().map(|changed| {
            let what = changed.changes.iter().map(|change| &*change.what).collect::<Vec<_>>().join(" ");
            format!("{}: {what}", changed.concerned)
        });
        assert!(all.len() <= 1, "{all:?}");
        first
    };
    for (after, expected) in &cases {
        assert_eq!(said(after, &before).as_deref(), *expected);
    }
    // Fleets that no client belongs to at once may stand in any order.
    let apart = with(server, &[wide.clone(), other.clone()]);
    assert_eq!(said(&with(server, &[other, wide]), &apart), None);
}

/// A flag of a router decides what hosts request at all: what stops arriving is said.
#[test]
fn a_flag_that_stops_options_from_arriving_says_which() {
    let with = |flags: &str| {
        let text = format!(
            "[network.pier]\nprefix = \"2001:db8:64:9::/64\"\nadvertise = {{ {flags} }}\n\
             send.v6 = {{ dns-servers = \"2001:db8:64::53\", domain-list = \"tarnfell.example\" }}\n"
        );
        Plan::read("plan.toml", &text, &mut |_| Err(String::new().into()))
    };
    let (asked, silent) = (with("other = true"), with("other = false"));
    let text = |text: &str| Some(Detail::Text(text.to_owned()));
    let said = |before: &Loaded, after: &Loaded| {
        let changes = difference(before, after).remove(0).changes;
        changes
            .into_iter()
            .find(|change| change.what == "arrives by DHCPv6")
            .map(|change| (change.before, change.after))
    };
    assert_eq!(said(&asked, &silent), Some((text("dns-servers, domain-list"), text("nothing"))));
    assert_eq!(said(&silent, &asked), Some((text("nothing"), text("dns-servers, domain-list"))));
    assert_eq!(said(&asked, &with("managed = true")), None);
}

/// The demo's plan and the files it names.
fn demo() -> Loaded {
    let read = |path: &str| std::fs::read_to_string(format!("{}/../../demo/{path}", env!("CARGO_MANIFEST_DIR")));
    Plan::read("plan.toml", &read("plan.toml").unwrap(), &mut |path| Ok(read(path)?))
}

/// Clients of every kind that the demo's plan knows, on every network.
fn clients(codebook: &Codebook, networks: usize) -> Vec<ClientFacts> {
    let kinds: [&[(&str, &str)]; 6] = [
        &[],
        &[("vendor-class", "Tern D2")],
        &[("vendor-class", "Gannet R1"), ("hostname", "lab-7")],
        &[("arch", "x64-uefi"), ("vendor-class", "Gannet R1")],
        &[("duid", "00:03:00:01:02:00:5e:00:53:33")],
        &[("vendor-class", "Tern D2"), ("circuit-id", "port-7")],
    ];
    let each = |network: usize, last: u8, kind: &[(&str, &str)]| {
        let mut facts = ClientFacts { mac: Some([2, 0, 0x5e, 0, 0x53, last].into()), ..ClientFacts::on(network) };
        kind.iter().for_each(|(key, text)| facts.describe(codebook, key, text).unwrap());
        // A server that sees a DUID alone knows the hardware address in it, and no other.
        facts.mac = facts.mac.filter(|_| facts.duid.is_none());
        facts
    };
    let machines = (0..networks).flat_map(|network| [0x33, 0x41, 0x77].map(|last| (network, last)));
    machines.flat_map(|(network, last)| kinds.map(|kind| each(network, last, kind))).collect()
}

/// What is read back from a release answers every client as its plan does, octet for octet.
#[test]
fn a_release_read_back_answers_as_its_plan_does() {
    let loaded = demo();
    let plan = loaded.plan.as_ref().unwrap();
    let json = serde_json::to_string(&compile(plan, &loaded.sources).unwrap()).unwrap();
    let document: Document = serde_json::from_str(&json).unwrap();
    let (of_plan, of_release) = (Compiled::of(plan), document.compiled().unwrap());
    assert_eq!(compare(&of_plan, &of_release), []);
    let mut answered = 0;
    for facts in clients(&plan.codebook, plan.networks.len()) {
        for family in Family::ALL {
            let name = &*of_plan.networks[facts.network].name;
            let play = |compiled: &Compiled<'_>| {
                let network = compiled.networks.iter().position(|network| *network.name == *name).unwrap();
                let facts = ClientFacts { network, ..facts.clone() };
                let answer = compiled.answer(family, &facts)?;
                let messages = compiled.exchange(&facts, &answer).unwrap().messages;
                let fleets: Vec<String> = answer.fleets.iter().map(|fleet| fleet.name.to_string()).collect();
                Some((messages, fleets, answer.address.map(|assigned| assigned.address), answer.timers.rebind.seconds))
            };
            assert_eq!(play(&of_plan), play(&of_release), "{facts:?}");
            answered += usize::from(play(&of_plan).is_some());
        }
    }
    assert!(answered > 150, "{answered}");
}

#[test]
fn a_document_that_no_plan_comes_to_is_refused_with_the_place() {
    let loaded = demo();
    let whole = compile(loaded.plan.as_ref().unwrap(), &loaded.sources).unwrap();
    let why = |change: &dyn Fn(&mut Document)| {
        let mut document = whole.clone();
        change(&mut document);
        document.compiled().map(|_| ()).unwrap_err().to_string()
    };
    assert_eq!(
        why(&|one| one.content.networks[0].subnets = vec!["10.64".to_owned()]),
        "network control-room: `10.64` has no prefix length; write it like `10.64.4.0/23`"
    );
    assert_eq!(
        why(&|one| one.content.everyone.options.v4[0].hex.push('0')),
        "everyone: v4:6: the 17 digits from character 1 are an odd number, so half an octet is missing"
    );
    assert_eq!(
        why(&|one| one.content.everyone.options.v4[0].option = "tern:99".to_owned()),
        "everyone: unknown option `tern:99`"
    );
    assert_eq!(
        why(&|one| one.content.reservations[0].network = "cellar".to_owned()),
        "cellar: no network has this name"
    );
    assert_eq!(
        why(&|one| one.codebooks[0].text = "book =".to_owned()),
        "codebooks/tern-intercoms.toml: this is not TOML: string values must be quoted, expected literal string"
    );
}

/// A client is known from its own messages as it was described, and found on its network where a relay agent says so.
#[test]
fn clients_are_described_by_their_messages() {
    let loaded = demo();
    let plan = loaded.plan.as_ref().unwrap();
    let compiled = Compiled::of(plan);
    let mut relayed = 0;
    for facts in clients(&plan.codebook, plan.networks.len()) {
        for family in Family::ALL {
            let Some(answer) = compiled.answer(family, &facts) else { continue };
            let messages = compiled.exchange(&facts, &answer).unwrap().messages;
            for sent in messages.iter().filter(|sent| sent.from_client && !matches!(sent.ends, Ends::Icmp(_))) {
                let message = AnyMessage::read(family.protocol(), &sent.octets).unwrap();
                let mut told = ClientFacts::from_message(message);
                if let Some(network) = compiled.network_of(message).filter(|_| sent.name != "DHCPREQUEST") {
                    assert_eq!(network, facts.network, "{}", sent.name);
                    relayed += 1;
                }
                told.network = facts.network;
                // A host gives its name only where it requests an address (RFC 4704, section 5).
                if let Some(name) = facts.sent(family, 39).filter(|_| told.sent(family, 39).is_none()) {
                    told.send(family, 39, name.to_vec());
                }
                let again = compiled.answer(family, &told).unwrap();
                let fleets =
                    |answer: &Answer<'_>| answer.fleets.iter().map(|fleet| fleet.name.to_string()).collect::<Vec<_>>();
                assert_eq!(
                    (fleets(&again), again.payloads),
                    (fleets(&answer), answer.payloads.clone()),
                    "{} {facts:?}",
                    sent.name
                );
            }
        }
    }
    assert!(relayed > 10, "{relayed}");
}
