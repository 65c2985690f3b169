//! The IPv6 side of plans: what is advertised, leased and told, and what the rules say of it.

use std::net::IpAddr;

use oplex::answer::{AddressOrigin, Ends, HostMode, NoAddress};
use oplex::check;
use oplex::codebook::Codebook;
use oplex::compiled::Compiled;
use oplex::family::{Both, Family, Protocol};
use oplex::packet::{Message as _, MessageOption, ra, v6};
use oplex::plan::{ClientFacts, Plan};
use proptest::prelude::*;

use crate::marked;

fn read(text: &str) -> Plan {
    let loaded = Plan::read("plan.toml", text, &mut |path| Err(format!("{path}: no such file").into()));
    assert_eq!(
        check::plan(&loaded).iter().filter(|one| one.severity == oplex::finding::Severity::Error).count(),
        0,
        "{text}"
    );
    loaded.plan.unwrap()
}

/// A client of the first network with this last octet of its hardware address.
fn client(plan: &Plan, last: u8, texts: &[(&str, &str)]) -> ClientFacts {
    let mut facts = ClientFacts { mac: Some([2, 0, 0x5e, 0, 0x53, last].into()), ..ClientFacts::on(0) };
    for (key, text) in texts {
        facts.describe(&plan.codebook, key, text).unwrap();
    }
    facts
}

const MANAGED: &str = "[network.desk]\nprefix = \"2001:db8:64:4::/64\"\npool = \"2001:db8:64:4::20-2001:db8:64:4::2f\"\n\
    advertise = { managed = true, name-servers = \"2001:db8:64::53\" }\nlease = \"8h\"\npreferred = \"4h\"\n\
    send.v6 = { dns-servers = \"2001:db8:64::53\" }\n";

/// RFC 4861, section 4.2: what the flags M and O make a host do, and by which messages.
#[test]
fn the_flags_decide_who_asks_for_what() {
    for (advertise, asks, messages) in [
        ("managed = true", HostMode::Stateful, &["Solicit", "Advertise", "Request", "Reply"][..]),
        ("managed = true, other = true", HostMode::Stateful, &["Solicit", "Advertise", "Request", "Reply"]),
        ("other = true", HostMode::Stateless, &["Information-request", "Reply"]),
        ("", HostMode::Autonomous, &[]),
    ] {
        let plan = read(&MANAGED.replace("managed = true", advertise).replace("{ ,", "{"));
        let facts = client(&plan, 0x11, &[]);
        let compiled = Compiled::of(&plan);
        let answer = compiled.answer(Family::V6, &facts).unwrap();
        assert_eq!(answer.host.as_ref().unwrap().mode, asks);
        assert_eq!(answer.address.is_ok(), asks == HostMode::Stateful);
        let exchange = compiled.exchange(&facts, &answer).unwrap();
        let names: Vec<&str> = exchange.messages.iter().map(|sent| &*sent.name).collect();
        assert_eq!(names, [&["Router Solicitation", "Router Advertisement"], messages].concat());
    }
    let unknown = read(&MANAGED.replace("advertise = { managed = true, name-servers = \"2001:db8:64::53\" }\n", ""));
    let compiled = Compiled::of(&unknown);
    let answer = compiled.answer(Family::V6, &client(&unknown, 0x11, &[])).unwrap();
    assert_eq!((answer.host.as_ref().unwrap().mode, answer.address.is_ok()), (HostMode::Unknown, true));
}

#[test]
fn a_host_has_the_addresses_that_it_makes_and_is_lent() {
    let plan = read(&MANAGED.replace("managed = true", "managed = true, autonomous = true"));
    let compiled = Compiled::of(&plan);
    let answer = compiled.answer(Family::V6, &client(&plan, 0x11, &[])).unwrap();
    let shown: Vec<_> = answer
        .host
        .as_ref()
        .unwrap()
        .addresses
        .iter()
        .map(|at| (at.origin, at.address.map(|at| at.to_string())))
        .collect();
    assert_eq!(
        shown,
        [
            // RFC 4291, appendix A: ff:fe in the middle, and the universal bit turned over.
            (AddressOrigin::LinkLocal, Some("fe80::5eff:fe00:5311".to_owned())),
            (AddressOrigin::HardwareAddress, Some("2001:db8:64:4:0:5eff:fe00:5311".to_owned())),
            (AddressOrigin::Secret, None),
            (AddressOrigin::Leased, Some("2001:db8:64:4::20".to_owned())),
        ]
    );
    let times = &answer.timers;
    assert_eq!(
        (times.lease.seconds, times.preferred.seconds, times.renew.seconds, times.rebind.seconds),
        (28_800, 14_400, 7_200, 11_520)
    );
}

/// The first free address: without exclusions, reservations, fleets' pools, others' leases, and the routers' anycast.
#[test]
fn an_address_is_lent_that_nobody_else_may_have() {
    let lent = |plan: &Plan, facts: &ClientFacts| {
        Compiled::of(plan).answer(Family::V6, facts).unwrap().address.map(|given| given.address.to_string())
    };
    let plan = read(
        &(MANAGED.replace("2001:db8:64:4::20-2001:db8:64:4::2f", "2001:db8:64:4::1-2001:db8:64:4::9")
            + "exclude = \"2001:db8:64:4::1-2001:db8:64:4::2\"\n\
               [fleet.phones]\nmatch = { vendor-class = \"Tern *\" }\n[fleet.phones.on.desk]\npool = \"2001:db8:64:4::3\"\n\
               [[reservation]]\nnetwork = \"desk\"\nmac = \"02:00:5e:00:53:aa\"\naddress-v6 = \"2001:db8:64:4::4\"\n\
               [[reservation]]\nnetwork = \"desk\"\nduid = \"00:02:00:00:7e:d9:01\"\naddress-v6 = \"2001:db8:64:4::5\"\n"),
    );
    assert_eq!(lent(&plan, &client(&plan, 0x11, &[])), Ok("2001:db8:64:4::6".to_owned()));
    assert_eq!(lent(&plan, &ClientFacts { leased: 3, ..client(&plan, 0x11, &[]) }), Ok("2001:db8:64:4::9".to_owned()));
    assert_eq!(lent(&plan, &ClientFacts { leased: 4, ..client(&plan, 0x11, &[]) }), Err(NoAddress::AllTaken));
    assert_eq!(lent(&plan, &client(&plan, 0x11, &[("vendor-class", "Tern D2")])), Ok("2001:db8:64:4::3".to_owned()));
    assert_eq!(lent(&plan, &client(&plan, 0xaa, &[])), Ok("2001:db8:64:4::4".to_owned()));
    // A DUID made of the hardware address says the same (RFC 8415, sections 11.2 and 11.4).
    for duid in ["00:03:00:01:02:00:5e:00:53:aa", "00:01:00:01:2b:1f:40:80:02:00:5e:00:53:aa"] {
        let facts = ClientFacts { mac: None, ..client(&plan, 0, &[("duid", duid)]) };
        assert_eq!(lent(&plan, &facts), Ok("2001:db8:64:4::4".to_owned()));
    }
    assert_eq!(
        lent(&plan, &client(&plan, 0x11, &[("duid", "00:02:00:00:7e:d9:01")])),
        Ok("2001:db8:64:4::5".to_owned())
    );
    // Nobody counts the addresses of a whole prefix one by one.
    let whole = read(
        &MANAGED.replace("2001:db8:64:4::20-2001:db8:64:4::2f", "2001:db8:64:4::1-2001:db8:64:4:ffff:ffff:ffff:ffff"),
    );
    let far = ClientFacts { leased: u32::MAX, ..client(&whole, 0x11, &[]) };
    assert_eq!(lent(&whole, &far), Ok("2001:db8:64:4:0:1::".to_owned()));
    let without = read("[network.desk]\nprefix = \"2001:db8:64:4::/64\"\n");
    assert_eq!(lent(&without, &client(&without, 1, &[])), Err(NoAddress::NoPool(Family::V6)));
    assert!(
        Compiled::of(&read("[network.desk]\nsubnet = \"10.64.4.0/24\"\n"))
            .answer(Family::V6, &ClientFacts::on(0))
            .is_none()
    );
}

/// One description of a device is recognised in both families, by what each carries of it.
#[test]
fn fleets_are_recognised_in_both_families() {
    for (matched, key, text) in [
        ("vendor-class = \"Tern *\"", "vendor-class", "Tern D2"),
        ("user-class = \"tel\"", "user-class", "tel"),
        ("arch = \"x64-uefi\"", "arch", "x64-uefi"),
        ("hostname = \"dome-?\"", "hostname", "dome-3"),
        ("circuit-id = \"port*\"", "circuit-id", "port7"),
        ("remote-id = \"00:07\"", "remote-id", "0x0007"),
        ("mac = \"02:00:5e:00:53:10-02:00:5e:00:53:1f\"", "hostname", "dome-3"),
        ("duid = \"00:03:00:01:02:*\"", "hostname", "dome-3"),
        ("\"v6:user-class\" = \"*tel*\"", "user-class", "tel"),
        ("enterprise = 32473", "vendor-class", "Tern D2"),
    ] {
        let plan = read(&format!("{MANAGED}subnet = \"10.64.4.0/24\"\n[fleet.these]\nmatch = {{ {matched} }}\n"));
        let (this, other) = (client(&plan, 0x11, &[(key, text)]), client(&plan, 0x77, &[]));
        let names = |facts: &ClientFacts| Compiled::of(&plan).answer(Family::V6, facts).unwrap().fleets.len();
        assert_eq!(names(&this), 1, "{matched}");
        assert_eq!(names(&other), usize::from(matched.starts_with("duid")), "{matched}");
        let v4 = Compiled::of(&plan).answer(Family::V4, &this).unwrap().fleets.len();
        assert_eq!(
            v4,
            usize::from(!matched.contains("duid") && !matched.contains("v6:") && !matched.contains("enter")),
            "{matched}"
        );
    }
}

/// The octets of every exchange are messages that no rule has anything against, and say what the plan says.
#[test]
fn exchanges_are_messages_that_nothing_is_wrong_with() {
    let text = format!(
        "server-duid = \"00:03:00:01:00:00:5e:00:53:67\"\nserver-v6 = \"2001:db8:64::67\"\n{MANAGED}delegate = \"2001:db8:6400::/40 as /56\"\n"
    );
    let plan = read(&text);
    let codebook = Codebook::standard();
    let base = || client(&plan, 0x11, &[("vendor-class", "Tern D2"), ("user-class", "tel"), ("hostname", "desk-7")]);
    let relayed = client(&plan, 0x11, &[("circuit-id", "port7"), ("remote-id", "0x0007")]);
    for (facts, last, named) in [
        (base(), "Reply", 6),
        (ClientFacts { rapid: true, ..base() }, "Reply", 4),
        (ClientFacts { delegation: true, ..base() }, "Reply", 6),
        (ClientFacts { wants: Both { v4: None, v6: Some(vec![24]) }, ..base() }, "Reply", 6),
        (ClientFacts { leased: 16, ..base() }, "Advertise", 4),
        (relayed, "Reply, in a Relay-reply", 6),
    ] {
        let compiled = Compiled::of(&plan);
        let answer = compiled.answer(Family::V6, &facts).unwrap();
        let exchange = compiled.exchange(&facts, &answer).unwrap();
        assert_eq!((&*exchange.messages.last().unwrap().name, exchange.messages.len()), (last, named));
        for sent in &exchange.messages {
            let found = match sent.ends {
                Ends::Icmp(ends) => {
                    let packet = ra::Packet { ends, hop_limit: 255 }.around(&sent.octets);
                    check::message(codebook, ra::Message::read(&packet).unwrap())
                }
                Ends::Udp(..) => check::message(codebook, v6::Message::read(&sent.octets).unwrap()),
            };
            // What this client knows of its name is a part.
            let found: Vec<_> = found.iter().filter(|finding| finding.rule.name != "name-partial").collect();
            assert!(found.is_empty(), "{}: {found:?}", sent.name);
        }
        let reply = v6::Message::read(&exchange.messages.last().unwrap().octets).unwrap().innermost().unwrap();
        assert_eq!(reply.option(2).unwrap().octets().unwrap(), [0, 3, 0, 1, 0, 0, 0x5e, 0, 0x53, 0x67]);
        assert_eq!(reply.option(14).is_some(), facts.rapid);
        // What is not requested is not sent.
        let asked = facts.wants.v6.is_none();
        assert_eq!((reply.option(23).is_some(), exchange.unrequested.len()), (asked, usize::from(!asked)));
        let association = reply.option(3).unwrap().octets().unwrap();
        let lent = answer.address.as_ref().ok().map(|given| given.address);
        match lent {
            Some(IpAddr::V6(address)) => assert_eq!(association[16..32], address.octets()),
            _ => assert_eq!(association[12..], [0, 13, 0, 2, 0, 2]),
        }
        assert_eq!(reply.option(25).map(|option| option.octets().unwrap()[24]), facts.delegation.then_some(56));
        assert_eq!(answer.host.as_ref().unwrap().delegated.is_some(), facts.delegation);
    }
}

/// RFC 8415, sections 7.1, 7.2 and 19: a host asks all servers on its link, a relay all of the site, and each is answered.
#[test]
fn messages_go_where_they_should() {
    let plan = read(&format!("server-v6 = \"2001:db8:64::67\"\n{MANAGED}"));
    let ends = |facts: &ClientFacts| {
        let compiled = Compiled::of(&plan);
        let answer = compiled.answer(Family::V6, facts).unwrap();
        let messages = compiled.exchange(facts, &answer).unwrap().messages;
        let ends = messages.into_iter().filter_map(|sent| match sent.ends {
            Ends::Udp(from, to) => Some((sent.from_client, from.to_string(), to.to_string())),
            Ends::Icmp(_) => None,
        });
        ends.collect::<Vec<_>>()
    };
    let line = |from_host, from: &str, to: &str| (from_host, from.to_owned(), to.to_owned());
    let direct = ends(&client(&plan, 0x11, &[]));
    assert_eq!(direct[0], line(true, "[fe80::5eff:fe00:5311]:546", "[ff02::1:2]:547"));
    assert_eq!(direct[1], line(false, "[fe80::1]:547", "[fe80::5eff:fe00:5311]:546"));
    let relayed = ends(&client(&plan, 0x11, &[("remote-id", "0x07")]));
    assert_eq!(relayed[2], line(true, "[2001:db8:64:4::1]:547", "[ff05::1:3]:547"));
    assert_eq!(relayed[3], line(false, "[2001:db8:64::67]:547", "[2001:db8:64:4::1]:547"));
}

/// More than an advertisement can hold is found, and a host name is text, whatever stands in it.
#[test]
fn what_does_not_fit_is_told_and_what_is_text_stays_text() {
    let servers: Vec<String> = (1..=128).map(|at| format!("\"2001:db8::{at:x}\"")).collect();
    let plan = |count: usize| {
        format!(
            "[network.desk]\nprefix = \"2001:db8:64:4::/64\"\nadvertise = {{ name-servers = [{}] }}\n",
            servers[..count].join(", ")
        )
    };
    assert_eq!(marked::in_plan(&plan(127)), []);
    let found = marked::in_plan(&plan(128));
    assert!(found[0].message.ends_with("2054 octets; an option of a router advertisement holds 2038"), "{found:#?}");
    let codebook = Codebook::standard();
    let name = |text: &str| {
        let mut facts = ClientFacts::on(0);
        facts.describe(codebook, "hostname", text).unwrap();
        facts.sent(Family::V6, 39).map(<[u8]>::to_vec)
    };
    assert_eq!(name("desk"), Some(b"\0\x04desk".to_vec()));
    assert!(name("a, flags = s").is_none_or(|octets| octets[0] == 0));
}

/// What each key of `advertise` becomes.
#[test]
fn an_announcement_says_what_the_plan_says() {
    let plan = read(
        "[network.desk]\nprefix = \"2001:db8:64:4::/64\"\n[network.desk.advertise]\nother = true\nfrom = \"fe80::7\"\n\
         interval = \"5m\"\nlifetime = \"20m\"\npreference = \"high\"\nhop-limit = 32\nreachable = 30000\nretransmit = 1000\n\
         valid = \"2h\"\npreferred = \"1h\"\non-link = false\ndns-lifetime = \"10m\"\nname-servers = [\"2001:db8:64::53\"]\n\
         search = [\"a.example\"]\nportal = \"https://a.example\"\nmtu = 1400\npref64 = \"2001:db8:6464::/64\"\n",
    );
    let compiled = Compiled::of(&plan);
    let said = compiled.networks[0].advertises.as_ref().unwrap();
    let (octets, ends) = (said.octets().unwrap(), said.ends);
    assert_eq!((ends.source.to_string(), ends.destination.to_string()), ("fe80::7".to_owned(), "ff02::1".to_owned()));
    let message = ra::Message::read(&octets).unwrap();
    let said = message.advertisement().unwrap();
    assert_eq!((said.other, said.managed, said.router_lifetime, said.hop_limit), (true, false, 1200, 32));
    assert_eq!((said.preference.name(), said.reachable_time, said.retrans_timer), ("high", 30_000, 1000));
    let codebook = Codebook::standard();
    let shown = |option: MessageOption<'_>| {
        let definition = codebook.own(Protocol::Ra, option.code()).unwrap();
        format!("{} {}", definition.name, codebook.decode(definition, option.octets().unwrap()).0.unwrap())
    };
    assert_eq!(
        message.options().map(shown).collect::<Vec<_>>(),
        [
            "prefix-information { length = 64, flags = autonomous, valid = 2h, preferred = 1h, prefix = 2001:db8:64:4:: }",
            "rdnss { lifetime = 10m, servers = [2001:db8:64::53] }",
            "dnssl { lifetime = 10m, domains = [a.example] }",
            "captive-portal https://a.example",
            "mtu { mtu = 1400 }",
            "pref64 { scale = { lifetime = 150, length = /64 }, prefix = 2001:db8:6464:: }",
        ]
    );
}

/// What is wrong is found, and pointed at where it is written.
#[test]
fn rules_point_at_what_is_written() {
    let fine = "name-servers = \"2001:db8:64::53\"";
    for (network, rule) in [
        ("prefix = «\"2001:db8:64:40::1/64\"»\nadvertise = { FINE }", "subnet-host-bits-set"),
        ("prefix = «\"2001:db8:64:40::/129\"»", "value-wrong-kind"),
        (
            "prefix = \"2001:db8:64:40::/64\"\npool = «\"2001:db8:64:4::1\"»\nadvertise = { managed = true, FINE }",
            "pool-outside-subnet",
        ),
        (
            "prefix = \"2001:db8:64:40::/64\"\nexclude = «\"2001:db8:64:40::1\"»\nadvertise = { FINE }",
            "exclusion-outside-pool",
        ),
        (
            "prefix = \"2001:db8:64:40::/64\"\ndelegate = «\"2001:db8:6400::/40 to 56\"»\nadvertise = { FINE }",
            "value-wrong-kind",
        ),
        (
            "prefix = \"2001:db8:64:40::/64\"\ndelegate = «\"2001:db8:6400::/40 as /32\"»\nadvertise = { FINE }",
            "value-wrong-kind",
        ),
        ("prefix = \"2001:db8:64:40::/64\"\nadvertise = { «mangaed» = true, FINE }", "unknown-key"),
        ("prefix = \"2001:db8:64:40::/64\"\nadvertise = { FINE, lifetime = «\"1d\"» }", "value-wrong-kind"),
        ("prefix = \"2001:db8:64:40::/64\"\nadvertise = { FINE, interval = «3» }", "value-wrong-kind"),
        ("prefix = \"2001:db8:64:40::/64\"\nadvertise = { FINE, valid = «\"soon\"» }", "value-wrong-kind"),
        ("prefix = \"2001:db8:64:40::/64\"\nadvertise = { preference = «\"highest\"», FINE }", "value-wrong-kind"),
        ("prefix = \"2001:db8:64:40::/64\"\nadvertise = { FINE, search = [«\"a..example\"»] }", "host-name-invalid"),
        (
            "prefix = \"2001:db8:64:40::/64\"\nadvertise = { FINE, portal = «\"http://portal.example\"» }",
            "uri-not-https",
        ),
        ("prefix = \"2001:db8:64:40::/64\"\nadvertise = { FINE, mtu = «500» }", "value-out-of-range"),
        ("prefix = \"2001:db8:64:40::/64\"\nadvertise = { FINE, pref64 = «\"64:ff9b::/95\"» }", "value-wrong-kind"),
        ("prefix = \"2001:db8:64:40::/64\"\nadvertise = { name-servers = \"«ff02::1»\" }", "address-not-a-host"),
        ("prefix = «\"2001:db8:64::/56\"»\nadvertise = { FINE }", "ra-autonomous-prefix-not-64"),
        (
            "prefix = \"2001:db8:64:40::/64\"\nadvertise = { FINE, valid = \"1h\", preferred = «\"2h\"» }",
            "ra-lifetimes-out-of-order",
        ),
        (
            "prefix = \"2001:db8:64:40::/64\"\nadvertise = { other = «false», FINE }\nsend.v6 = { dns-servers = \"2001:db8:64::53\" }",
            "dhcpv6-not-used",
        ),
        (
            "prefix = \"2001:db8:64:40::/64\"\nadvertise = { other = true, FINE }\nsend.v6 = { dns-servers = \"«fe80::1::2»\" }",
            "value-malformed",
        ),
        (
            "prefix = \"2001:db8:64:40::/64\"\nadvertise = { other = true, FINE }\nsend.v6 = { «sntp-servers» = \"2001:db8:64::123\" }",
            "option-obsolete",
        ),
        (
            "prefix = \"2001:db8:64:40::/64\"\nadvertise = { other = true, FINE }\nsend.v6 = { «elapsed-time» = 1 }",
            "automatic-option-sent",
        ),
        (
            "prefix = \"2001:db8:64:40::/64\"\nadvertise = { other = true, FINE }\nsend.v6 = { information-refresh-time = «10» }",
            "value-out-of-range",
        ),
    ] {
        let (text, span) = marked::unmarked(&format!("[network.mast]\n{}\n", network.replace("FINE", fine)));
        let found = marked::in_plan(&text);
        let [finding] = &found[..] else { panic!("{text}\n{found:#?}") };
        let at = finding.spot.as_ref().unwrap().span.clone();
        assert_eq!((finding.rule.name, &text[at]), (rule, &text[span.unwrap()]), "{text}");
    }
}

/// What the author believes of the IPv6 side is proved like the rest; what nobody requests does not arrive.
#[test]
fn expectations_hold_for_what_arrives_by_ipv6() {
    let stateless = "[network.desk]\nprefix = \"2001:db8:64:4::/64\"\nadvertise = { FLAG, name-servers = \"2001:db8:64::53\" }\n\
        send.v6 = { dns-servers = \"2001:db8:64::53\" }\n[[expect]]\nclient = { network = \"desk\", mac = \"02:00:5e:00:53:11\" }\n";
    let own = "the IPv6 address is 2001:db8:64:4:0:5eff:fe00:5311";
    for (flag, lines, message) in [
        ("other = true", "address = \"2001:db8:64:4::/64\"\nsent = { \"v6:dns-servers\" = \"2001:db8:64::53\" }", ""),
        ("other = true", "address = «\"2001:db8:64:5::/64\"»", own),
        ("other = true, autonomous = false", "address = «\"2001:db8:64:4::/64\"»", "the IPv6 address is none"),
        (
            "other = true",
            "sent = { \"v6:dns-servers\" = «\"2001:db8:64::54\"» }",
            "dns-servers should be 2001:db8:64::54, but is 2001:db8:64::53",
        ),
        ("other = true", "sent = { «\"v6:domain-list\"» = \"tarnfell.example\" }", "domain-list is not sent"),
        ("other = true", "not-sent = [«\"v6:dns-servers\"»]", "dns-servers is sent: 2001:db8:64::53"),
        ("other = false", "sent = { «\"v6:dns-servers\"» = \"2001:db8:64::53\" }", "dns-servers is not sent"),
        ("other = false", "not-sent = [\"v6:dns-servers\"]", ""),
        ("other = true", "sent = { «\"v6:router\"» = \"10.64.4.1\" }", "unknown option `v6:router`"),
    ] {
        let (text, span) = marked::unmarked(&(stateless.replace("FLAG", flag) + lines + "\n"));
        let expected =
            |one: &&oplex::finding::Finding| matches!(one.rule.name, "expectation-not-met" | "unknown-option");
        let found = marked::in_plan(&text);
        let found: Vec<_> =
            found.iter().filter(expected).map(|one| (&*one.message, one.spot.clone().map(|at| at.span))).collect();
        assert_eq!(found, if message.is_empty() { vec![] } else { vec![(message, span)] }, "{text}");
    }
    let elsewhere = "[network.desk]\nsubnet = \"10.64.4.0/24\"\n[[expect]]\nclient = { network = \"desk\", mac = \"02:00:5e:00:53:11\" }\n\
        address = \"2001:db8:64:4::/64\"\n";
    assert!(marked::in_plan(elsewhere).iter().any(|one| one.message == "the network has no prefix"));
}

/// RFC 8415, section 11; RFC 6355, section 4: each type has its octets.
#[test]
fn duids_have_the_octets_of_their_type() {
    let codebook = Codebook::standard();
    let serverid = codebook.own(Protocol::V6, 2).unwrap();
    for (duid, wrong) in [
        ("0001 0001 2b1f4080 02005e005311", false),
        ("0001 0001 2b1f4080 02005e0053", true),
        ("0001 0020 2b1f4080 01", false),
        ("0002 00007ed9 01", false),
        ("0002 00007ed9", true),
        ("0003 0001 02005e005311", false),
        ("0003 0001 02005e00531100", true),
        ("0003 0020 01", false),
        ("0004 000102030405060708090a0b0c0d0e0f", false),
        ("0004 00010203", true),
        ("00ff 01", false),
    ] {
        let found = check::payload(codebook, serverid, &oplex::octets::hex::parse(duid).unwrap());
        assert_eq!(
            found.iter().map(|one| one.rule.name).collect::<Vec<_>>(),
            if wrong { vec!["duid-malformed"] } else { vec![] },
            "{duid}"
        );
    }
}

/// RFC 6603, section 4.2: the octets that tell the excluded prefix from others in the delegated one.
#[test]
fn an_excluded_prefix_has_the_octets_that_it_needs() {
    for (outer, excluded, subnet, wrong) in [
        (56, 64, "01", None),
        (56, 57, "80", None),
        (48, 64, "0001", None),
        (48, 64, "01", Some("pd-exclude: a prefix of 64 bits in one of 48 takes 2 octets, but 1 are present")),
        (56, 56, "01", Some("pd-exclude: a prefix of 56 bits cannot be excluded from one of 56")),
        (60, 64, "0100", Some("pd-exclude: a prefix of 64 bits in one of 60 takes 1 octet, but 2 are present")),
    ] {
        let text = format!(
            "type = \"reply\"\n[options]\nserverid = \"00:03:00:01:00:00:5e:00:53:01\"\nia-pd = {{ iaid = 1, t1 = \"4h\", t2 = \"6h\", \
             options = {{ iaprefix = {{ preferred-lifetime = \"8h\", valid-lifetime = \"12h\", prefix-length = {outer}, prefix = \"2001:db8::\", \
             options = {{ pd-exclude = {{ prefix-length = {excluded}, subnet-id = \"{subnet}\" }} }} }} }} }}\n"
        );
        let specimen =
            oplex::specimen::Specimen::read(Protocol::V6, "reply.toml", &text, &mut |_| Err(String::new().into()));
        let octets = specimen.octets.unwrap();
        let found = check::message(Codebook::standard(), v6::Message::read(&octets).unwrap());
        assert_eq!(
            found.iter().map(|one| one.message.as_str()).collect::<Vec<_>>(),
            wrong.into_iter().collect::<Vec<_>>(),
            "{text}"
        );
    }
}

/// Across what is advertised, DHCPv6 and DHCPv4: what is right is met with silence, and each contradiction is named.
#[test]
fn families_and_announcements_are_held_against_each_other() {
    let both = "[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"a.example\"\n[network.desk]\nsubnet = \"10.64.4.0/24\"\nprefix = \"2001:db8:64:4::/64\"\n\
        advertise = { other = true, name-servers = [\"2001:db8:64::53\"] ANNOUNCED }\n[network.desk.send.v4]\nrouter = \"10.64.4.1\"\nV4\n[network.desk.send.v6]\ndns-servers = [\"2001:db8:64::53\"]\nV6\n";
    for (announced, v4, v6, rules) in [
        ("", "", "", &[][..]),
        (", search = \"a.example\"", "domain-search = \"a.example\"", "domain-list = \"a.example\"", &[]),
        (", search = \"b.example\"", "", "domain-list = \"a.example\"", &["advertised-and-dhcpv6-differ"]),
        (
            ", portal = \"https://a.example\"",
            "",
            "captive-portal = \"https://b.example\"",
            &["advertised-and-dhcpv6-differ"],
        ),
        ("", "domain-search = \"A.example\"", "domain-list = \"a.example\"", &[]),
        ("", "domain-search = \"b.example\"", "domain-list = \"a.example\"", &["families-disagree"]),
        (
            "",
            "dhcp-captive-portal = \"https://a.example\"",
            "captive-portal = \"https://b.example\"",
            &["families-disagree"],
        ),
        ("", "tcode = \"Europe/Oslo\"", "new-tzdb-timezone = \"Europe/Rome\"", &["families-disagree"]),
        (
            "",
            "server-name = \"boot.example\"\nbootfile-name = \"x/a.efi\"",
            "bootfile-url = \"http://boot.example/b.efi\"",
            &["families-disagree"],
        ),
        (
            "",
            "server-name = \"boot.example\"\nbootfile-name = \"x/a.efi\"",
            "bootfile-url = \"http://boot.example/a.efi\"",
            &[],
        ),
        (", portal = \"https://a.example\"", "dhcp-captive-portal = \"https://b.example\"", "", &["families-disagree"]),
        (", portal = \"https://a.example\"", "dhcp-captive-portal = \"https://a.example\"", "", &[]),
        ("", "ipv6-only-preferred = 1800", "", &["ipv6-only-without-nat64"]),
        (
            ", pref64 = \"64:ff9b::/96\"",
            "ipv6-only-preferred = 1800\nntp-servers = \"10.64.0.123\"",
            "",
            &["families-disagree"],
        ),
        (
            ", pref64 = \"64:ff9b::/96\"",
            "ipv6-only-preferred = 1800\nntp-servers = \"10.64.0.123\"",
            "ntp-server = { srv-addr = \"2001:db8:64::123\" }",
            &[],
        ),
        ("", "v4-dnr = DNR4", "v6-dnr = { priority = 1, authentication-domain = \"a.example\" }", &[]),
        (
            "",
            "v4-dnr = DNR4",
            "v6-dnr = { priority = 1, authentication-domain = \"b.example\" }",
            &["families-disagree"],
        ),
        (", pref64 = \"64:ff9b::/96\"", "ipv6-only-preferred = 1800", "", &[]),
        (", interval = \"1h\", dns-lifetime = \"30m\"", "", "", &["advertised-lifetime-too-short"]),
        (", interval = \"1h\", valid = \"30m\"", "", "", &["advertised-lifetime-too-short"]),
        (", lifetime = 0", "", "", &["router-lifetime-zero"]),
        (", interval = \"20m\", dns-lifetime = \"30m\"", "", "", &["advertised-lifetime-too-short"]),
        (", interval = \"20m\", preferred = \"15m\"", "", "", &["advertised-lifetime-too-short"]),
        (", preferred = 0", "", "", &["ra-lifetime-zero"]),
        (", mtu = 1280", "mtu-interface = 1500", "", &["families-disagree"]),
        (", mtu = 1500", "mtu-interface = 1500", "", &[]),
        ("", "", "domain-list = \"b.example\"", &["families-disagree"]),
        (
            ", lifetime = 0, pref64 = \"64:ff9b::/96\"",
            "ipv6-only-preferred = 1800",
            "",
            &["router-lifetime-zero", "ipv6-only-without-ipv6"],
        ),
        (", from = \"2001:db8::1\"", "", "", &["advertised-from-elsewhere"]),
    ] {
        let dnr = "[{ priority = 1, authentication-domain = \"a.example\" }]";
        let text = both.replace("ANNOUNCED", announced).replace("V4", v4).replace("DNR4", dnr).replace("V6", v6);
        let found = marked::in_plan(&text);
        assert_eq!(found.iter().map(|one| one.rule.name).collect::<Vec<_>>(), rules, "{text}\n{found:#?}");
    }
}

/// A spreadsheet may name clients by DUID and give them addresses of both families.
#[test]
fn spreadsheets_reserve_ipv6_addresses() {
    let plan = "reservations = \"r.csv\"\n[network.desk]\nsubnet = \"10.64.4.0/24\"\nprefix = \"2001:db8:64:4::/64\"\n";
    let csv = "duid;address-v6;address;mac;name;network;v6:domain-list\n\
        00:03:00:01:02:00:5e:00:53:11;2001:db8:64:4::11;;;one;desk;\n\
        ;2001:db8:64:4::12;10.64.4.12;02:00:5e:00:53:12;two;desk;\n\
        00:01;2001:db8:64:4::13;;;three;desk;\n\
        ;2001:db8:64:4:13;;02:00:5e:00:53:14;four;desk;\n";
    let csv = csv.replace(";v6:domain-list", "").replace(";desk;\n", ";desk\n");
    let loaded = Plan::read("plan.toml", plan, &mut |_| Ok(csv.clone()));
    let messages: Vec<&str> = loaded.findings.iter().map(|one| one.message.as_str()).collect();
    assert_eq!(
        messages,
        [
            "`00:01` has 2 octets; a DUID has 3 to 130",
            "`2001:db8:64:4:13` is not an IPv6 address; write it like `2001:db8:64::53`",
        ]
    );
    let plan = loaded.plan.unwrap();
    for (last, address, v4) in [(0x11, "2001:db8:64:4::11", None), (0x12, "2001:db8:64:4::12", Some("10.64.4.12"))] {
        let facts = client(&plan, last, &[]);
        assert_eq!(
            Compiled::of(&plan).answer(Family::V6, &facts).unwrap().address.unwrap().address.to_string(),
            address
        );
        let given =
            Compiled::of(&plan).answer(Family::V4, &facts).unwrap().address.ok().map(|given| given.address.to_string());
        assert_eq!(given.as_deref(), v4);
    }
}

/// A release has both sides, is read back as it was, and differs where either does.
#[test]
fn releases_hold_and_compare_the_ipv6_side() {
    use oplex::release::{Document, compare, compile};
    let text = format!(
        "codebooks = [\"hill.toml\"]\n{MANAGED}delegate = \"2001:db8:6400::/40 as /56\"\n[send.v6]\n\"hill:slope\" = 7\n\
         [fleet.phones]\nmatch = {{ duid = \"00:03:*\" }}\nsend.v6 = {{ domain-list = \"a.example\" }}\n\
         [fleet.phones.on.desk]\npool = \"2001:db8:64:4::90\"\n\
         [[reservation]]\nnetwork = \"desk\"\nduid = \"00:02:00:00:7e:d9:07\"\naddress-v6 = \"2001:db8:64:4::7\"\n"
    );
    let book = "book = \"hill\"\nenterprise = 32473\ncarriers = [\"v6:17\"]\n[[option]]\ncode = 1\nname = \"slope\"\nlayout = \"u8\"\nreference = \"notes\"\n";
    let compiled = |text: &str| {
        let loaded = Plan::read("plan.toml", text, &mut |_| Ok(book.to_owned()));
        assert_eq!(loaded.findings, []);
        compile(loaded.plan.as_ref().unwrap(), &loaded.sources).unwrap()
    };
    let one = compiled(&text);
    let content = &one.content;
    let network = &content.networks[0];
    assert_eq!((&network.subnets, &network.prefixes), (&vec![], &vec!["2001:db8:64:4::/64".to_owned()]));
    assert_eq!(network.delegates, ["2001:db8:6400::/40 as /56"]);
    assert_eq!(network.says.times.preferred, Some(14_400));
    let said = network.advertises.as_ref().unwrap();
    let ids = said.options.iter().chain(&content.everyone.options.v6).map(|option| option.option.as_str());
    assert_eq!(ids.collect::<Vec<_>>(), ["ra:3", "ra:25", "hill:1"]);
    assert_eq!(content.fleets[0].on[0].pools, ["2001:db8:64:4::90"]);
    assert_eq!(content.reservations[0].client, "duid 00:02:00:00:7e:d9:07");
    let changes = |other: &Document| compare(&one.compiled().unwrap(), &other.compiled().unwrap());
    assert_eq!(changes(&compiled(&text.replace("  ", " "))), []);
    for (was, is, whom, what) in [
        ("\"hill:slope\" = 7", "\"hill:slope\" = 8", "network desk", "v6:17"),
        ("managed = true", "other = true", "network desk", "advertise"),
        ("preferred = \"4h\"", "preferred = \"5h\"", "network desk", "preferred"),
        ("as /56", "as /60", "network desk", "delegate"),
        ("a.example", "b.example", "fleet phones", "v6:24"),
        ("::90", "::91", "fleet phones on desk", "pool"),
        ("::7\"", "::8\"", "duid 00:02:00:00:7e:d9:07 on desk", "address-v6"),
        ("64:4::/64", "64:4::/63", "network desk", "prefix"),
    ] {
        let changed = changes(&compiled(&text.replace(was, is)));
        let said: Vec<_> = changed
            .iter()
            .map(|one| (one.concerned.to_string(), one.changes.iter().any(|at| at.what == what)))
            .collect();
        assert_eq!(said, [(whom.to_owned(), true)], "{was}: {changed:#?}");
    }
}

/// What two layers and two fleets say alike or differently is found in DHCPv6, too.
#[test]
fn layers_and_fleets_are_compared_in_dhcpv6() {
    let fine = "[network.desk]\nprefix = \"2001:db8:64:4::/64\"\nadvertise = { other = true, name-servers = \"2001:db8:64::53\" }\n";
    let fleets = "[fleet.a]\nmatch = { vendor-class = \"A*\" }\nsend.v6 = { sip-server-d = \"a.example\" }\n\
        [fleet.b]\nmatch = { mac = \"02:*\" }\nsend.v6 = { «sip-server-d» = \"b.example\" }\n";
    for (text, rule) in [
        (
            format!(
                "[send.v6]\ndns-servers = \"2001:db8:64::53\"\n{fine}send.v6 = {{ «dns-servers» = \"2001:db8:64::53\" }}\n"
            ),
            "same-value-on-two-layers",
        ),
        (format!("{fine}withhold = [«\"v6:domain-list\"»]\n"), "withhold-without-effect"),
        (format!("{fine}{fleets}"), "fleets-disagree"),
        (format!("{fine}send.v6 = {{ «\"v4:router\"» = \"10.64.4.1\" }}\n"), "option-of-other-family"),
        (format!("{fine}send.v6 = {{ «\"ra:mtu\"» = {{ mtu = 1500 }} }}\n"), "option-of-other-family"),
        (format!("{fine}send.v6 = {{ «\"v6:199\"» = {{ hex = \"01\" }} }}\n"), "unknown-option"),
    ] {
        let (text, span) = marked::unmarked(&text);
        let found = marked::in_plan(&text);
        let [finding] = &found[..] else { panic!("{text}\n{found:#?}") };
        let at = finding.spot.as_ref().unwrap().span.clone();
        assert_eq!((finding.rule.name, &text[at]), (rule, &text[span.unwrap()]), "{text}");
    }
    let leases = "[network.desk]\nprefix = \"2001:db8:64:4::/64\"\npool = \"2001:db8:64:4::20-2001:db8:64:4::2f\"\nEXCLUDE\n\
        advertise = { managed = true, name-servers = [\"SERVER\"] }\nsend.v6 = { dns-servers = \"SERVER\" }\n";
    for (server, exclude, count) in [
        ("2001:db8:64:4::20", "", 2),
        ("2001:db8:64:4::20", "exclude = \"2001:db8:64:4::20\"", 0),
        ("2001:db8:64:4::30", "", 0),
        ("2001:db8:64:3::20", "", 0),
    ] {
        let found = marked::in_plan(&leases.replace("SERVER", server).replace("EXCLUDE", exclude));
        let rules: Vec<&str> = found.iter().map(|one| one.rule.name).collect();
        assert_eq!(rules, vec!["sent-address-leasable"; count], "{server} {exclude}: {found:#?}");
    }
    let withheld = format!("[send.v6]\ndomain-list = \"a.example\"\n{fine}withhold = [\"v6:domain-list\"]\n");
    let plan = read(&withheld);
    assert!(Compiled::of(&plan).answer(Family::V6, &client(&plan, 1, &[])).unwrap().sent.is_empty());
}

proptest! {
    /// What one host is sent does not depend on the order of keys, and another's reservation changes nothing of it but
    /// its address.
    #[test]
    fn answers_stay_as_they_are(last in 0u8..4, other in 4u8..8, address in 0x20u16..0x30, flags in prop::sample::subsequence(vec!["managed = true", "other = true", "autonomous = true"], 0..3)) {
        let flags = [&flags[..], &["name-servers = \"2001:db8:64::53\""]].concat();
        let turned: Vec<&str> = flags.iter().rev().copied().collect();
        let with = |flags: &[&str], more: &str| {
            let advertise = format!("advertise = {{ {} }}", flags.join(", "));
            let text = MANAGED.replace("advertise = { managed = true, name-servers = \"2001:db8:64::53\" }", &advertise) + more;
            Plan::read("plan.toml", &text, &mut |path| Err(path.into())).plan.unwrap()
        };
        let octets = |plan: &Plan| {
            let facts = client(plan, last, &[]);
            let compiled = Compiled::of(plan);
            let answer = compiled.answer(Family::V6, &facts).unwrap();
            let messages = compiled.exchange(&facts, &answer).unwrap().messages;
            let told: Vec<_> = answer.payloads.iter().map(|told| (told.code, told.octets.to_vec())).collect();
            (messages, told, answer.host.as_ref().unwrap().mode)
        };
        let plain = octets(&with(&flags, ""));
        prop_assert_eq!(&plain, &octets(&with(&turned, "")));
        let reserved = format!("[[reservation]]\nnetwork = \"desk\"\nmac = \"02:00:5e:00:53:0{other}\"\naddress-v6 = \"2001:db8:64:4::{address:x}\"\n");
        let (messages, told, asks) = octets(&with(&flags, &reserved));
        prop_assert_eq!((messages.len(), told, asks), (plain.0.len(), plain.1, plain.2));
    }

    /// The address that is leased, against trying one after the other.
    #[test]
    fn the_first_free_address_is_lent(
        pools in prop::collection::vec((0u16..40, 0u16..12), 1..4),
        excluded in prop::collection::vec((0u16..40, 0u16..6), 0..3),
        own in prop::collection::vec((0u16..40, 0u16..6), 0..2),
        reserved in prop::collection::btree_set(0u16..40, 0..5),
        leased in 0u32..6,
    ) {
        let range = |(first, more): &(u16, u16)| format!("\"2001:db8:64:4::{first:x}-2001:db8:64:4::{:x}\"", first + more);
        let ranges = |all: &[(u16, u16)]| all.iter().map(range).collect::<Vec<_>>().join(", ");
        let rows = reserved.iter().enumerate().map(|(at, address)| {
            format!("[[reservation]]\nnetwork = \"desk\"\nmac = \"02:00:5e:00:53:{:02x}\"\naddress-v6 = \"2001:db8:64:4::{address:x}\"\n", at + 0x80)
        });
        let text = format!(
            "[network.desk]\nprefix = \"2001:db8:64:4::/64\"\npool = [{}]\nexclude = [{}]\nadvertise = {{ managed = true }}\n\
             [fleet.own]\nmatch = {{ vendor-class = \"Tern\" }}\n[fleet.own.on.desk]\npool = [{}]\n{}",
            ranges(&pools), ranges(&excluded), ranges(&own), rows.collect::<String>()
        );
        let plan = Plan::read("plan.toml", &text, &mut |path| Err(path.into())).plan.unwrap();
        let within = |all: &[(u16, u16)], at: u16| all.iter().any(|(first, more)| (*first..=first + more).contains(&at));
        let free = |of: &[(u16, u16)], also: &[(u16, u16)]| {
            let tried = of.iter().flat_map(|(first, more)| *first..=first + more);
            let mut free = tried.filter(|at| *at > 0 && !within(&excluded, *at) && !within(also, *at) && !reserved.contains(at));
            free.nth(leased as usize).map(|at| format!("2001:db8:64:4::{at:x}"))
        };
        for (texts, expected) in [(&[][..], free(&pools, &own)), (&[("vendor-class", "Tern")], if own.is_empty() { free(&pools, &own) } else { free(&own, &[]) })] {
            let facts = ClientFacts { leased, ..client(&plan, 0x11, texts) };
            let compiled = Compiled::of(&plan);
            let lent = compiled.answer(Family::V6, &facts).unwrap().address;
            prop_assert_eq!(lent.ok().map(|given| given.address.to_string()), expected, "{}", text);
        }
    }
}
