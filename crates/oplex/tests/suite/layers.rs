//! What layers say of the same thing: where clients boot from, what a layer changes, and options that stand several times.

use oplex::check;
use oplex::compiled::Compiled;
use oplex::family::Family;
use oplex::packet::{Message as _, v4, v6};
use oplex::plan::{ClientFacts, Plan};
use oplex::release;
use proptest::prelude::*;

const TERN: &str = "book = \"tern\"\ntitle = \"Tern\"\ncarriers = [\"v4:43\"]\n[[option]]\ncode = 1\nname = \"settings\"\n\
    layout = 'pairs(\",\" \"=\") { SERVER!: ipv4, VLAN: u16, PORT: u16 }'\nreference = \"Tern manual, page 4\"\n";

fn read(everyone: &str, network: &str, fleet: &str) -> oplex::plan::Loaded {
    let text = format!(
        "server = \"10.64.0.67\"\ncodebooks = [\"tern.toml\"]\n{everyone}\n[send.v4]\ndomain-server = [\"10.64.0.53\"]\n\
         domain-name = \"tarnfell.example\"\nntp-servers = [\"10.64.0.123\"]\n\"tern:settings\" = {{ SERVER = \"10.64.0.70\", VLAN = 64 }}\n\
         [network.yard]\nsubnet = \"10.64.4.0/24\"\npool = [\"10.64.4.20-10.64.4.90\"]\nprefix = \"2001:db8:64:4::/64\"\n\
         advertise = {{ other = true, name-servers = [\"2001:db8:64::53\"] }}\n{network}\n[network.yard.send.v4]\nrouter = \"10.64.4.1\"\n\
         [fleet.terns]\nmatch = {{ vendor-class = \"Tern *\" }}\n{fleet}\n"
    );
    Plan::read("plan.toml", &text, &mut |_| Ok(TERN.to_owned()))
}

fn tern() -> ClientFacts {
    let mut facts = ClientFacts { mac: Some("02:00:5e:00:53:11".parse().unwrap()), ..ClientFacts::on(0) };
    facts.describe(oplex::codebook::Codebook::standard(), "vendor-class", "Tern D2").unwrap();
    facts
}

/// The acknowledgement that a client gets, by the plan and by its release alike.
fn acknowledged(loaded: &oplex::plan::Loaded, facts: &ClientFacts) -> Vec<u8> {
    let plan = loaded.plan.as_ref().unwrap();
    let document = release::compile(plan, &loaded.sources).unwrap();
    let json = serde_json::to_string(&document).unwrap();
    let document: release::Document = serde_json::from_str(&json).unwrap();
    let (compiled, published) = (Compiled::of(plan), document.compiled().unwrap());
    let octets = |compiled: &Compiled<'_>| {
        let answer = compiled.answer(Family::V4, facts).unwrap();
        compiled.exchange(facts, &answer).unwrap().messages.pop().unwrap().octets
    };
    let ours = octets(&compiled);
    assert_eq!(ours, octets(&published));
    ours
}

fn header(octets: &[u8]) -> (String, String, String) {
    let message = v4::Message::read(octets).unwrap();
    let text = |field: &[u8]| String::from_utf8(field.split(|octet| *octet == 0).next().unwrap().to_vec()).unwrap();
    (message.header().siaddr.to_string(), text(message.sname()), text(message.file()))
}

fn option(octets: &[u8], code: u16) -> Option<Vec<u8>> {
    Some(v4::Message::read(octets).unwrap().option(code)?.joined().into_owned())
}

#[test]
fn boot_keys_merge_over_the_layers_and_stand_where_clients_look() {
    let all = "boot = { server = \"10.64.0.80\", host = \"boot.tarnfell.example\", file = \"all.efi\" }";
    let loaded = read(all, "boot.file = \"yard.efi\"", "boot.host = \"terns.tarnfell.example\"");
    assert_eq!(check::plan(&loaded), []);
    let reply = acknowledged(&loaded, &tern());
    let expected = ("10.64.0.80", "terns.tarnfell.example", "yard.efi");
    assert_eq!(header(&reply), (expected.0.to_owned(), expected.1.to_owned(), expected.2.to_owned()));
    assert_eq!(option(&reply, 66).unwrap(), b"terns.tarnfell.example");
    assert_eq!(option(&reply, 67).unwrap(), b"yard.efi");
    assert_eq!(option(&reply, 150).unwrap(), [10, 64, 0, 80]);
    // Options only where they are requested, the header always.
    let mut facts = tern();
    facts.wants.v4 = Some(vec![1, 3]);
    let reply = acknowledged(&loaded, &facts);
    assert_eq!((header(&reply).2.as_str(), option(&reply, 67)), ("yard.efi", None));
    // A key can be withheld, and so can the option alone.
    let withheld = read(all, "", "withhold = [\"boot.file\", \"boot.host\"]");
    let reply = acknowledged(&withheld, &tern());
    assert_eq!((header(&reply).1.as_str(), header(&reply).2.as_str(), option(&reply, 67)), ("", "", None));
    let reply = acknowledged(&read(all, "", "withhold = [\"bootfile-name\"]"), &tern());
    assert_eq!((header(&reply).2.as_str(), option(&reply, 67)), ("all.efi", None));
    // A name is no address, and a long file's name fits into the option alone.
    let long = "d/".repeat(80) + "a.efi";
    let reply = acknowledged(
        &read(&format!("boot = {{ server = \"boot.tarnfell.example\", file = \"{long}\" }}"), "", ""),
        &tern(),
    );
    assert_eq!(header(&reply), ("0.0.0.0".to_owned(), "boot.tarnfell.example".to_owned(), String::new()));
    assert_eq!(option(&reply, 67).unwrap(), long.as_bytes());
    // By DHCPv6 the same are options.
    let loaded =
        read("boot = { url = \"http://boot.tarnfell.example/a.efi\", params = [\"quiet\", \"serial\"] }", "", "");
    assert_eq!(check::plan(&loaded), []);
    let compiled = Compiled::of(loaded.plan.as_ref().unwrap());
    let codes: Vec<u16> = compiled.payloads(Family::V6, 0).unwrap().iter().map(|sent| sent.code).collect();
    assert_eq!(codes, [59, 60]);
}

#[test]
fn what_is_wrong_with_boot_keys_is_found() {
    let rules = |everyone: &str, network: &str, fleet: &str| {
        check::plan(&read(everyone, network, fleet)).iter().map(|one| one.rule.name).collect::<Vec<_>>()
    };
    let boot = "boot = { server = \"10.64.0.80\", file = \"a.efi\" }";
    assert_eq!(rules(boot, "", ""), [""; 0]);
    assert_eq!(rules("boot = { file = \"a.efi\" }", "", ""), ["boot-file-without-server"]);
    assert_eq!(
        rules("boot = { server = \"boot.tarnfell.example\", file = \"a.efi\" }", "", ""),
        ["boot-server-by-name"]
    );
    assert_eq!(rules(boot, "", "send.v4 = { bootfile-name = \"b.efi\" }"), ["boot-option-differs"]);
    assert_eq!(rules(boot, "", "send.v4 = { bootfile-name = \"a.efi\" }"), [""; 0]);
    assert_eq!(rules("boot = { sever = \"10.64.0.80\" }", "", ""), ["unknown-key"]);
    assert_eq!(rules("boot = { server = \"10.64.0.80\", file = 7 }", "", ""), ["value-wrong-kind"]);
    assert_eq!(rules("", "withhold = [\"boot.file\"]", ""), ["withhold-without-effect"]);
    assert_eq!(rules(boot, "withhold = [\"boot.fiel\"]", ""), ["value-wrong-kind"]);
    // The field of the file is not for options while there is other room.
    let root = |octets: usize| format!("{boot}\nsend.v4 = {{ root-path = \"{}\" }}", "x".repeat(octets));
    let full = |octets: usize| read("", "", &root(octets));
    let overload = |octets: usize| option(&acknowledged(&full(octets), &tern()), 52);
    assert_eq!(overload(40), None);
    let first = (40..250).find(|octets| overload(*octets).is_some()).unwrap();
    assert_eq!(overload(first).unwrap(), [2]);
    // Where it must be, the option says the file, and a rule says what that costs.
    let file = (first..400).find(|octets| overload(*octets).is_some_and(|bits| bits[0] & 1 == 1)).unwrap();
    let reply = acknowledged(&full(file), &tern());
    assert_eq!(option(&reply, 67).as_deref(), Some(&b"a.efi"[..]));
    assert!(check::plan(&full(file)).iter().any(|one| one.rule.name == "boot-file-overloaded"));
}

#[test]
fn layers_change_parts_of_what_wider_ones_send() {
    let settings = |everyone: &str, network: &str, fleet: &str| {
        let loaded = read(everyone, network, fleet);
        let found = check::plan(&loaded);
        assert!(found.is_empty(), "{found:#?}");
        let octets = option(&acknowledged(&loaded, &tern()), 43).unwrap();
        String::from_utf8(octets[2..].to_vec()).unwrap()
    };
    assert_eq!(settings("", "", ""), "SERVER=10.64.0.70,VLAN=64");
    assert_eq!(
        settings("", "", "amend.v4.\"tern:settings\" = { SERVER = \"10.64.0.71\" }"),
        "SERVER=10.64.0.71,VLAN=64"
    );
    assert_eq!(
        settings(
            "",
            "amend.v4.\"tern:settings\" = { PORT = 5061 }",
            "amend.v4.\"tern:settings\" = { VLAN = { remove = true } }"
        ),
        "SERVER=10.64.0.70,PORT=5061"
    );
    let lists = read(
        "",
        "amend.v4.ntp-servers = { first = [\"10.64.0.122\"] }",
        "amend.v4.ntp-servers = { last = \"10.64.0.124\" }",
    );
    assert_eq!(check::plan(&lists), []);
    assert_eq!(option(&acknowledged(&lists, &tern()), 42).unwrap(), [10, 64, 0, 122, 10, 64, 0, 123, 10, 64, 0, 124]);
    // Both lines are known.
    let plan = lists.plan.as_ref().unwrap();
    let compiled = Compiled::of(plan);
    let answer = compiled.answer(Family::V4, &tern()).unwrap();
    let ntp = answer.sent.iter().find(|chosen| chosen.option.id().to_string() == "v4:42").unwrap();
    let layers: Vec<&str> =
        std::iter::once(ntp.layer.name).chain(ntp.overrides.iter().map(|(layer, _)| layer.name)).collect();
    assert_eq!(layers, ["fleet terns", "network yard", "everyone"]);

    let wrong = |network: &str, fleet: &str| {
        let found = check::plan(&read("", network, fleet));
        found.iter().map(|one| format!("{}: {}", one.rule.name, one.message)).collect::<Vec<_>>()
    };
    for (fleet, message) in [
        (
            "amend.v4.log-server = { last = \"10.64.0.9\" }",
            "amend-without-effect: no wider layer sends v4:7 log-server, so there is nothing to change",
        ),
        (
            "amend.v4.ntp-servers = { last = \"10.64.0.9\" }\nsend.v4 = { ntp-servers = \"10.64.0.8\" }",
            "amend-without-effect: v4:42 ntp-servers is sent and changed on one layer",
        ),
        (
            "amend.v4.ntp-servers = { next = \"10.64.0.9\" }",
            "value-malformed: ntp-servers: unknown change of a list `next`; expected one of first, last",
        ),
        (
            "amend.v4.\"tern:settings\" = { SERVER = { remove = true } }",
            "value-malformed: settings: `SERVER` must be there, so it cannot be removed",
        ),
        (
            "amend.v4.\"tern:settings\" = { PROT = 5061 }",
            "value-malformed: settings: unknown key `PROT`; expected one of SERVER, VLAN, PORT",
        ),
        (
            "amend.v4.ntp-servers = { last = \"127.0.0.1\" }",
            "address-not-a-host: ntp-servers: 127.0.0.1 is a loopback address, not the address of a host",
        ),
    ] {
        assert_eq!(wrong("", fleet), [message], "{fleet}");
    }
    assert_eq!(
        wrong("", "send.v4.\"tern:settings\" = { SERVER = \"10.64.0.71\" }"),
        ["keys-lost: terns on yard: tern:settings is sent without VLAN, which everyone sends"]
    );
}

#[test]
fn an_option_may_stand_several_times() {
    let two = "[send.v6]\nntp-server = [{ srv-addr = \"2001:db8:64::123\" }, { srv-addr = \"2001:db8:64::124\" }]";
    let loaded = read(two, "", "send.v6 = { ntp-server = { srv-addr = \"2001:db8:64::125\" } }");
    assert_eq!(check::plan(&loaded), []);
    let compiled = Compiled::of(loaded.plan.as_ref().unwrap());
    let instances = |facts: &ClientFacts| {
        let answer = compiled.answer(Family::V6, facts).unwrap();
        let reply = compiled.exchange(facts, &answer).unwrap().messages.pop().unwrap().octets;
        let message = v6::Message::read(&reply).unwrap();
        let overridden: usize = answer.sent.iter().map(|chosen| chosen.overrides.len()).sum();
        (message.options().filter(|option| option.code() == 56).count(), overridden)
    };
    let mut other = tern();
    other.sends = oplex::family::Both::default();
    assert_eq!(instances(&other), (2, 0));
    // The fleet's own replaces both.
    let mut fleet = tern();
    fleet.describe(oplex::codebook::Codebook::standard(), "vendor-class", "Tern D2").unwrap();
    assert_eq!(instances(&fleet), (1, 2));
}

proptest! {
    /// Whatever is set by a change is what the narrower layer would have sent whole.
    #[test]
    fn a_change_is_the_whole_value_with_the_key(vlan in 0u16.., port in proptest::option::of(0u16..)) {
        let port_text = port.map(|port| format!(", PORT = {port}")).unwrap_or_default();
        let amended = read("", "", &format!("amend.v4.\"tern:settings\" = {{ VLAN = {vlan}{port_text} }}"));
        let whole = read("", "", &format!("send.v4.\"tern:settings\" = {{ SERVER = \"10.64.0.70\", VLAN = {vlan}{port_text} }}"));
        prop_assert_eq!(acknowledged(&amended, &tern()), acknowledged(&whole, &tern()));
    }
}
