//! Clients as real hosts behave, and what plans say of single ones of them.

use std::net::IpAddr;

use oplex::check;
use oplex::codebook::Codebook;
use oplex::compiled::Compiled;
use oplex::family::Family;
use oplex::packet::{AnyMessage, Message as _, v4, v6};
use oplex::plan::{ClientFacts, Loaded, Plan};
use oplex::release;

use crate::marked::in_plan;

const PLAN: &str = r#"
servers = [
    { address = "10.64.0.67", duid = "00:03:00:01:00:00:5e:00:53:67" },
    { address = "10.64.0.68", duid = "00:03:00:01:00:00:5e:00:53:68" },
]
[send.v4]
domain-server = ["10.64.0.53"]
domain-name = "tarnfell.example"
[network.yard]
subnet = ["10.64.4.0/24", "10.65.4.0/23"]
pool = ["10.64.4.20-10.64.4.21", "10.65.4.20-10.65.4.90"]
relay = ["10.99.0.1", "2001:db8:99::1"]
prefix = "2001:db8:64:4::/64"
advertise = { managed = true, name-servers = ["2001:db8:64::53"], link-layer = "00:00:5e:00:53:01", routes = ["2001:db8:70::/48", { prefix = "2001:db8:71::/48", lifetime = "10m", preference = "high" }], encrypted-name-servers = [{ name = "dns.tarnfell.example", addresses = ["2001:db8:64::53"] }] }
delegate = ["2001:db8:6400::/54 as /56"]
[network.yard.send.v4]
router = ["10.64.4.1", "10.65.4.1"]
ipv6-only-preferred = "30m"
[[network.yard.pool-v6]]
"#;

fn read(more: &str) -> Loaded {
    let text = PLAN.replace("[[network.yard.pool-v6]]\n", "").replace(
        "pool = [\"10.64.4.20-10.64.4.21\"",
        "pool = [\"2001:db8:64:4::100-2001:db8:64:4::1ff\", \"10.64.4.20-10.64.4.21\"",
    );
    Plan::read("plan.toml", &(text + more), &mut |_| Err("no such file".into()))
}

fn client(more: impl Fn(&mut ClientFacts)) -> ClientFacts {
    let mut facts = ClientFacts { mac: Some("02:00:5e:00:53:11".parse().unwrap()), ..ClientFacts::on(0) };
    more(&mut facts);
    facts
}

/// The client's and the server's messages of an exchange, with their types.
fn messages(loaded: &Loaded, facts: &ClientFacts, family: Family) -> Vec<(String, Vec<u8>)> {
    let compiled = Compiled::of(loaded.plan.as_ref().unwrap());
    let answer = compiled.answer(family, facts).unwrap();
    let exchange = compiled.exchange(facts, &answer).unwrap();
    for played in exchange.messages.iter().filter(|played| !played.name.starts_with("Router")) {
        let message = AnyMessage::plainly(&played.octets).map(|_| AnyMessage::read(family.protocol(), &played.octets));
        if let Some(Ok(message)) = message {
            let found = check::message(&compiled.codebook, message);
            let errors: Vec<_> = found.iter().filter(|one| one.severity == oplex::finding::Severity::Error).collect();
            assert!(errors.is_empty(), "{}: {errors:#?}", played.name);
        }
    }
    exchange.messages.into_iter().map(|played| (played.name.into_owned(), played.octets)).collect()
}

#[test]
fn a_link_with_several_subnets_sends_the_mask_and_the_routers_of_the_address() {
    let loaded = read("[check]\nallow = [\"ipv6-only-without-nat64\"]\n");
    assert_eq!(check::plan(&loaded), []);
    for (leased, mask, router) in [(1, [255, 255, 255, 0], [10, 64, 4, 1]), (2, [255, 255, 254, 0], [10, 65, 4, 1])] {
        let all = messages(&loaded, &client(|facts| facts.leased = leased), Family::V4);
        let ack = v4::Message::read(&all.last().unwrap().1).unwrap();
        let option = |code| ack.option(code).unwrap().joined().into_owned();
        assert_eq!((option(1), option(3)), (mask.to_vec(), router.to_vec()), "{leased}");
        // The first of the servers answers.
        assert_eq!(option(54), [10, 64, 0, 67]);
    }
    let compiled = Compiled::of(loaded.plan.as_ref().unwrap());
    let behind = |relay: &str| compiled.network_behind(relay.parse::<IpAddr>().unwrap());
    assert_eq!((behind("10.99.0.1"), behind("2001:db8:99::1"), behind("10.65.5.9")), (Some(0), Some(0), Some(0)));
    assert_eq!(behind("10.98.0.1"), None);
    // A relay agent may name an interface in place of a link.
    let named = read("[network.mast]\nprefix = \"2001:db8:64:40::/64\"\ninterface-id = [\"port 7\", \"0x0102\"]\n");
    let compiled_named = Compiled::of(named.plan.as_ref().unwrap());
    let on = |interface: &[u8]| {
        let mut composer = oplex::packet::Composer::default();
        let draft = |message_type, header, options| v6::Draft { message_type, header, options };
        let elapsed = [(8, &[0, 0][..])];
        let solicit = draft(v6::MessageType::SOLICIT, v6::Header::Transaction(7), &elapsed[..]);
        let solicit = oplex::packet::Composer::default().compose(&solicit).unwrap().to_vec();
        let relay = v6::Relay { hops: 0, link: [0; 16].into(), peer: [0xfe; 16].into() };
        let options = [(18, interface), (9, &solicit[..])];
        let octets =
            composer.compose(&draft(v6::MessageType::RELAY_FORWARD, v6::Header::Relay(relay), &options)).unwrap();
        compiled_named.network_of(AnyMessage::V6(v6::Message::read(octets).unwrap()))
    };
    assert_eq!((on(b"port 7"), on(&[1, 2]), on(b"port 8")), (Some(1), Some(1), None));
    // A release answers the same.
    let document = release::compile(loaded.plan.as_ref().unwrap(), &loaded.sources).unwrap();
    let published = document.compiled().unwrap();
    let facts = client(|facts| facts.leased = 2);
    let payloads = |compiled: &Compiled<'_>| {
        let answer = compiled.answer(Family::V4, &facts).unwrap();
        answer.payloads.iter().map(|sent| (sent.code, sent.octets.to_vec())).collect::<Vec<_>>()
    };
    assert_eq!(payloads(&compiled), payloads(&published));
}

#[test]
fn clients_of_dhcpv4_do_what_their_kind_does() {
    let loaded = read("");
    // Who requests option 108 and is sent it takes no address (RFC 8925, section 3.2).
    let names = |facts: &ClientFacts| {
        messages(&loaded, facts, Family::V4).into_iter().map(|(name, _)| name).collect::<Vec<_>>()
    };
    let without = client(|facts| facts.wants.v4 = Some(vec![1, 3, 6, 108]));
    assert_eq!(names(&without), ["DHCPDISCOVER", "DHCPOFFER"]);
    assert_eq!(names(&client(|facts| facts.wants.v4 = Some(vec![1, 3, 6]))).len(), 4);
    // A boot client says what its interface and its machine are, and requests what RFC 4578 has it request.
    let boot = client(|facts| {
        facts.describe(Codebook::standard(), "arch", "x64-uefi").unwrap();
        facts.wants.v4 = Some(facts.common_requests());
    });
    let all = messages(&loaded, &boot, Family::V4);
    let discover = v4::Message::read(&all[0].1).unwrap();
    assert!([93, 94, 97].into_iter().all(|code| discover.has(code)));
    let found = check::message(Codebook::standard(), AnyMessage::V4(discover));
    assert!(found.iter().all(|one| one.rule.name != "boot-options-incomplete"), "{found:#?}");
    // 121 stands before 3 (RFC 3442), and common systems request no more than they read.
    let plain = client(|_| {}).common_requests();
    assert!(plain.iter().position(|code| *code == 121) < plain.iter().position(|code| *code == 3));
    assert!(!plain.contains(&43) && boot.common_requests().contains(&43) && boot.common_requests().contains(&128));
    // The number of a vendor goes along with its class.
    let mut vendor = client(|_| {});
    vendor.describe(Codebook::standard(), "vendor-class", "32473:Tern D2").unwrap();
    assert_eq!(vendor.sent(Family::V4, 60).unwrap(), b"Tern D2");
    assert_eq!(vendor.sent(Family::V6, 16).unwrap()[..4], 32473u32.to_be_bytes());
    assert!(vendor.describe(Codebook::standard(), "enterprise", "-1").is_err());
}

#[test]
fn clients_of_dhcpv6_do_what_the_rfcs_have_them_do() {
    let loaded = read("");
    let facts = client(|facts| facts.describe(Codebook::standard(), "hostname", "desk.tarnfell.example").unwrap());
    let all = messages(&loaded, &facts, Family::V6);
    let of = |name: &str| v6::Message::read(&all.iter().find(|(known, _)| known == name).unwrap().1).unwrap();
    let xid = |name: &str| of(name).transaction().unwrap();
    assert_eq!((xid("Solicit"), xid("Request")), (xid("Advertise"), xid("Reply")));
    assert_ne!(xid("Solicit"), xid("Request"));
    // Times are the server's to set (RFC 8415, section 21.4).
    let association = of("Request").option(3).unwrap().joined().into_owned();
    assert_eq!(association[4..12], [0; 8]);
    assert_eq!(association[32..40], [0; 8]);
    // A name stands where an address is requested (RFC 4704, section 5).
    assert!(of("Solicit").has(39));
    let stateless = PLAN
        .replace("managed = true", "other = true")
        .replace("[[network.yard.pool-v6]]\n", "")
        .replace("delegate", "# delegate");
    let stateless = Plan::read("plan.toml", &stateless, &mut |_| Err("no such file".into()));
    let all = messages(&stateless, &facts, Family::V6);
    let request = v6::Message::read(&all.iter().find(|(name, _)| name == "Information-request").unwrap().1).unwrap();
    assert!(!request.has(39));
    // A client of which only the DUID is known has some link-local address all the same.
    let unknown = ClientFacts { duid: Some("00:02:00:00:7e:d9:01:02".parse().unwrap()), ..ClientFacts::on(0) };
    let compiled = Compiled::of(loaded.plan.as_ref().unwrap());
    let host = compiled.answer(Family::V6, &unknown).unwrap().host.unwrap();
    assert_eq!(host.addresses[0].origin, oplex::answer::AddressOrigin::MadeUp);
    assert!(host.addresses[0].address.unwrap().is_unicast_link_local());
}

#[test]
fn prefixes_are_delegated_around_those_that_are_reserved() {
    let reserved = "[[reservation]]\nnetwork = \"yard\"\nduid = \"00:03:00:01:02:00:5e:00:53:61\"\ndelegated = \"2001:db8:6400::/56\"\n\
                    [[reservation]]\nnetwork = \"yard\"\ncircuit-id = \"port 7\"\naddress = \"10.64.4.99\"\n";
    let loaded = read(&format!("{reserved}[check]\nallow = [\"ipv6-only-without-nat64\"]\n"));
    assert_eq!(check::plan(&loaded), []);
    let compiled = Compiled::of(loaded.plan.as_ref().unwrap());
    let delegated = |facts: ClientFacts| {
        let facts = ClientFacts { delegation: true, ..facts };
        compiled.answer(Family::V6, &facts).unwrap().host.unwrap().delegated.map(|net| net.to_string())
    };
    let own = ClientFacts { duid: Some("00:03:00:01:02:00:5e:00:53:61".parse().unwrap()), ..ClientFacts::on(0) };
    assert_eq!(delegated(own).as_deref(), Some("2001:db8:6400::/56"));
    let nth = |leased: u32| delegated(client(|facts| facts.leased = leased));
    // Of four one is reserved.
    assert_eq!(nth(0).as_deref(), Some("2001:db8:6400:100::/56"));
    assert_eq!((nth(2).as_deref(), nth(3)), (Some("2001:db8:6400:300::/56"), None));
    // Whoever is on the circuit has its address, unless something else says who it is.
    let mut there = client(|_| {});
    there.describe(Codebook::standard(), "circuit-id", "port 7").unwrap();
    let address = compiled.answer(Family::V4, &there).unwrap().address.unwrap().address;
    assert_eq!(address.to_string(), "10.64.4.99");
    let twice = format!(
        "{reserved}[[reservation]]\nnetwork = \"yard\"\nmac = \"02:00:5e:00:53:12\"\ndelegated = \"2001:db8:6400::/58\"\n"
    );
    assert!(check::plan(&read(&twice)).iter().any(|one| one.rule.name == "reservation-repeated"));
}

#[test]
fn expectations_hold_leases_and_delegated_prefixes() {
    let unmet = |more: &str| {
        let expect = format!(
            "[[expect]]\nclient = {{ network = \"yard\", mac = \"02:00:5e:00:53:11\", enterprise = \"32473\", duid = \"00:03:00:01:02:00:5e:00:53:11\" }}\n\
             {more}\n[check]\nallow = [\"ipv6-only-without-nat64\"]\n"
        );
        check::plan(&read(&expect)).into_iter().map(|one| one.message).collect::<Vec<_>>()
    };
    let none = Vec::<String>::new();
    assert_eq!(unmet("lease = \"1d\""), none);
    assert_eq!(
        unmet("lease = \"8h\""),
        ["the lease by DHCPv4 should be 8h, but is 1d", "the lease by DHCPv6 should be 8h, but is 1d"]
    );
    assert_eq!(unmet("delegated = \"2001:db8:6400::/40\""), none);
    assert_eq!(unmet("delegated = \"2001:db8:65::/48\""), ["the delegated prefix is 2001:db8:6400::/56"]);
    assert_eq!(unmet("sent.v4 = { router = \"10.64.4.1\" }"), none);
    assert_eq!(unmet("sent.v4 = { router = \"10.64.4.9\" }"), ["router should be 10.64.4.9, but is 10.64.4.1"]);
}

#[test]
fn advertisements_have_routes_encrypted_name_servers_and_a_hardware_address() {
    let loaded = read("");
    let compiled = Compiled::of(loaded.plan.as_ref().unwrap());
    let said = compiled.networks[0].advertises.as_ref().unwrap();
    let codes: Vec<u16> = said.options.iter().map(|option| option.definition.code).collect();
    assert_eq!(codes, [3, 25, 1, 24, 24, 144]);
    let route = |at: usize| said.options[at].value().unwrap().to_string();
    assert_eq!(route(3), "{ length = 48, preference = medium, lifetime = 30m, prefix = 2001:db8:70:: }");
    assert_eq!(route(4), "{ length = 48, preference = high, lifetime = 10m, prefix = 2001:db8:71:: }");
    assert!(said.octets().is_ok());
}

#[test]
fn rules_are_allowed_for_one_network_or_fleet() {
    let two = |allow: &str| {
        let network = |name: &str, third: u8| {
            format!(
                "[network.{name}]\nsubnet = \"10.64.{third}.0/24\"\nlease = \"2m\"\n[network.{name}.send.v4]\nlog-server = \"10.9.0.1\"\n"
            )
        };
        let text = format!(
            "[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n{}{}[check]\nallow = [{allow}]\n",
            network("yard", 4),
            network("\"the.mast 2\"", 5)
        );
        let found = in_plan(&text);
        // Names stand in quotes where a heading needs them.
        let advice: Vec<_> = found.iter().filter_map(|one| one.advice.as_deref()).collect();
        if allow.is_empty() {
            assert!(advice.contains(&"router = \"…\" in [network.\"the.mast 2\".send.v4]"), "{advice:?}");
        }
        found.into_iter().map(|one| format!("{} {}", one.rule.name, one.message)).collect::<Vec<_>>()
    };
    let (router, lease) = ("no-router no router is sent on", "lease-unusual network");
    let all = two("");
    assert_eq!(all.len(), 4, "{all:#?}");
    let left = two("{ rule = \"no-router\", network = \"yard\", reason = \"a closed one\" }");
    assert_eq!(
        left.iter().filter(|one| one.starts_with(router)).collect::<Vec<_>>(),
        [&format!("{router} the.mast 2")]
    );
    let left = two("{ rule = \"lease-unusual\", network = \"the.mast 2\" }, \"no-router\"");
    assert_eq!(left, [format!("{lease} yard leases addresses for 2m")]);
    assert_eq!(two("{ rule = \"no-router\", network = \"nowhere\" }").len(), 5);
    assert!(
        two("{ rule = \"no-domain\", network = \"yard\" }").iter().any(|one| one.starts_with("allow-without-effect"))
    );
}
