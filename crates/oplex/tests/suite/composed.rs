//! The messages that a plan comes to, before anybody asks: their types, what is in them, and what is found in them.

use oplex::answer::Audience;
use oplex::check;
use oplex::compiled::Compiled;
use oplex::family::Family;
use oplex::packet::{AnyMessage, Message as _, v4, v6};
use oplex::plan::{ClientFacts, Loaded, Plan};

fn loaded(text: &str) -> Loaded {
    let loaded = Plan::read("plan.toml", text, &mut |path| Err(format!("{path}: no such file").into()));
    assert_eq!(loaded.findings, [], "{text}");
    loaded
}

/// A plan of both families, with what its router advertises and what clients are sent by DHCPv6.
fn plan(advertise: &str, sends: &str) -> String {
    format!(
        "server = \"10.64.0.67\"\n[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n\
         [network.domes]\nsubnet = \"10.64.8.0/21\"\nprefix = \"2001:db8:64:8::/64\"\nadvertise = {advertise}\n\
         pool = [\"10.64.8.20-10.64.8.90\", \"2001:db8:64:8::100-2001:db8:64:8::1ff\"]\n\
         [network.domes.send.v4]\nrouter = \"10.64.8.1\"\n\
         [network.domes.send.v6]\ndns-servers = \"2001:db8:64::53\"\ndomain-list = \"tarnfell.example\"\n{sends}\
         [fleet.intercoms]\nmatch = {{ vendor-class = \"Tern *\" }}\nsend.v4 = {{ tftp-server-address = \"10.64.0.80\" }}\n"
    )
}

/// The types of the messages to clients of no fleet, or of the first, with the codes of their options.
fn messages(text: &str, family: Family, of_fleet: bool) -> Vec<(String, Vec<u16>)> {
    let loaded = loaded(text);
    let plan = loaded.plan.unwrap();
    let compiled = Compiled::of(&plan);
    let fleet = compiled.fleets.first().filter(|_| of_fleet);
    let composed = Audience { compiled: &compiled, at: 0, fleet, reservation: None }.messages(family).unwrap();
    let read = |octets: &Vec<u8>| match AnyMessage::read(family.protocol(), octets).unwrap() {
        AnyMessage::V4(message) => {
            (message.message_type().unwrap().to_string(), codes(message.options().map(|one| one.code())))
        }
        AnyMessage::V6(message) => (message.message_type().to_string(), codes(message.options().map(|one| one.code()))),
        AnyMessage::Ra(_) => unreachable!("{octets:?}"),
    };
    composed.iter().map(read).collect()
}

fn codes(codes: impl Iterator<Item = u16>) -> Vec<u16> {
    let mut codes: Vec<u16> = codes.collect();
    codes.sort_unstable();
    codes
}

#[test]
fn dhcpv4_offers_acknowledges_and_informs() {
    let text = plan("{ managed = true }", "");
    let leased = vec![1, 3, 6, 15, 51, 53, 54, 58, 59];
    let informed = vec![1, 3, 6, 15, 53, 54];
    let expected = [("DHCPOFFER", &leased), ("DHCPACK", &leased), ("DHCPACK", &informed)];
    let found = messages(&text, Family::V4, false);
    assert_eq!(found.iter().map(|(name, codes)| (name.as_str(), codes)).collect::<Vec<_>>(), expected);
    // Those of a fleet are sent what it sends besides.
    for (name, codes) in messages(&text, Family::V4, true) {
        assert!(codes.contains(&150), "{name} {codes:?}");
    }
}

#[test]
fn dhcpv6_answers_what_hosts_on_the_network_ask() {
    let types = |advertise: &str| -> Vec<String> {
        messages(&plan(advertise, ""), Family::V6, false).into_iter().map(|(name, _)| name).collect()
    };
    assert_eq!(types("{ managed = true }"), ["Advertise", "Reply", "Reply"]);
    assert_eq!(types("{ other = true }"), ["Reply"]);
    assert_eq!(types("{}"), [""; 0]);
    let stateful = messages(&plan("{ managed = true }", ""), Family::V6, false);
    assert_eq!(stateful[1].1, [1, 2, 3, 23, 24]);
    assert_eq!(stateful[2].1, [1, 2, 23, 24]);
}

/// The refresh time is for replies to clients that request settings alone (RFC 8415, section 21.23), which is the last one.
#[test]
fn options_wait_for_the_message_that_may_have_them() {
    let sends = "information-refresh-time = \"1h\"\ninf-max-rt = 3600\n";
    let stateful = messages(&plan("{ managed = true }", sends), Family::V6, false);
    let has = |at: usize| [32, 83].map(|code| stateful[at].1.contains(&code));
    assert_eq!((has(0), has(1), has(2)), ([false; 2], [false; 2], [true; 2]));
    let found = check::plan(&loaded(&plan("{ managed = true }", sends)));
    assert!(found.iter().all(|finding| finding.rule.name != "refresh-time-with-addresses"), "{found:?}");
}

/// What is wrong with a line is said once, however many messages it stands in.
#[test]
fn a_line_is_spoken_of_once() {
    let networks: String = (0..20)
        .map(|at| {
            format!(
                "[network.n{at}]\nprefix = \"2001:db8:64:{at}::/64\"\nadvertise = {{ managed = true }}\n\
                 pool = [\"2001:db8:64:{at}::100-2001:db8:64:{at}::1ff\"]\n"
            )
        })
        .collect();
    let text = format!(
        "[send.v6]\ndns-servers = \"2001:db8:64::53\"\ndomain-list = \"tarnfell.example\"\n\
         preference = 7\n{networks}"
    );
    let found = check::plan(&loaded(&text));
    let found: Vec<_> = found.iter().filter(|one| one.rule.name == "option-not-allowed-in-message").collect();
    assert_eq!(found.len(), 1, "{found:?}");
    let spot = found[0].spot.as_ref().unwrap();
    assert_eq!((&text[spot.span.clone()], found[0].octets.clone()), ("preference", None));
}

#[test]
fn a_reply_has_what_is_requested_and_what_is_always_sent() {
    let loaded = loaded(&plan("{ managed = true }", ""));
    let plan = loaded.plan.unwrap();
    let compiled = Compiled::of(&plan);
    let reply = |family: Family, facts: &ClientFacts| {
        let answer = compiled.answer(family, facts).unwrap();
        let exchange = compiled.exchange(facts, &answer).unwrap();
        let octets = &exchange.messages.last().unwrap().octets;
        let in_message = match family {
            Family::V4 => codes(v4::Message::read(octets).unwrap().options().map(|option| option.code())),
            Family::V6 => codes(v6::Message::read(octets).unwrap().options().map(|option| option.code())),
        };
        (compiled.codes_for(facts, &answer), in_message)
    };
    let mac = "02:00:5e:00:53:11".parse().ok();
    for (wants_v4, wants_v6) in [(None, None), (Some(vec![6, 3]), Some(vec![23])), (Some(vec![]), Some(vec![]))] {
        let mut facts = ClientFacts { mac, ..ClientFacts::on(0) };
        (facts.wants.v4, facts.wants.v6) = (wants_v4, wants_v6);
        facts.sends.v4.push((61, vec![1, 2, 0, 0x5e, 0, 0x53, 0x11]));
        facts.sends.v4.push((82, vec![1, 1, 7]));
        for family in Family::ALL {
            let (said, sent) = reply(family, &facts);
            assert_eq!(said, sent, "{family:?} {:?}", facts.wants);
        }
    }
}
