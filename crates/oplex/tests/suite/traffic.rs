//! Captured traffic: what an audit says of it.

use std::net::SocketAddr;
use std::time::Duration;

use oplex::answer::{Ends, Played};
use oplex::audit::{Audit, CapturedMessage, Conversation, Frame, Policy, Summary};
use oplex::codebook::Codebook;
use oplex::compiled::Compiled;
use oplex::family::{Family, Protocol};
use oplex::finding::{Finding, Severity};
use oplex::octets::{Mac, hex};
use oplex::packet::{AnyMessage, Message as _, ra};
use oplex::plan::{ClientFacts, Plan};
use oplex::specimen::Specimen;

/// A message as it would be captured on the link of its client, or behind its relay agent.
pub(crate) fn seen(number: u64, at: Duration, protocol: Protocol, octets: Vec<u8>) -> CapturedMessage {
    let end = |text: &str| text.parse::<SocketAddr>().unwrap();
    let reply = |octets: &[u8]| match AnyMessage::read(protocol, octets) {
        Ok(AnyMessage::V4(message)) => message.header().op == 2,
        Ok(AnyMessage::V6(message)) => matches!(message.message_type().0, 2 | 7 | 10 | 13),
        _ => false,
    };
    let (client, server) = match protocol {
        Protocol::V4 => (end("0.0.0.0:68"), end("10.64.0.67:67")),
        Protocol::V6 => (end("[fe80::5eff:fe00:5311]:546"), end("[fe80::1]:547")),
        Protocol::Ra => {
            let packet = ra::Message::read(&octets).ok().and_then(|message| message.packet());
            let at = |address: std::net::Ipv6Addr| SocketAddr::from((address, 0));
            packet
                .map_or((end("[::]:0"), end("[::]:0")), |packet| (at(packet.ends.source), at(packet.ends.destination)))
        }
    };
    let (source, destination) = if reply(&octets) { (server, client) } else { (client, server) };
    let frame = Frame { file: 0, number };
    let (link, hardware, missing, checksum_wrong) = (0, None, 0, false);
    let octets = octets.into();
    CapturedMessage {
        at,
        frame,
        link,
        protocol,
        source,
        destination,
        hardware,
        octets,
        missing,
        checksum_wrong,
        comment: None,
    }
}

/// What an audit makes of messages, by a plan where there is one.
pub(crate) fn audit(plan: &str, messages: &[CapturedMessage]) -> (Summary, Vec<Conversation>) {
    let loaded = Plan::read("plan.toml", plan, &mut |_| Err("no such file".into()));
    assert!(plan.is_empty() || loaded.findings.is_empty(), "{:?}", loaded.findings);
    let compiled = loaded.plan.as_ref().filter(|_| !plan.is_empty()).map(Compiled::of);
    let mut audit = match &compiled {
        Some(compiled) => Audit::against(compiled, Policy::default()),
        None => Audit::new(Codebook::standard(), Policy::default()),
    };
    for message in messages {
        audit.add(message, message.findings(Codebook::standard()));
    }
    let summary = audit.finish();
    (summary, audit.closed().collect())
}

/// The messages of a rule's example.
pub(crate) fn example(messages: &[(u64, Protocol, &str)]) -> Vec<CapturedMessage> {
    let one = |(at, (second, protocol, text)): (u64, &(u64, Protocol, &str))| {
        let octets = match text.strip_prefix("# octets ") {
            Some(octets) => hex::parse(octets).unwrap(),
            None => {
                let specimen = Specimen::read(*protocol, "message.toml", text, &mut |_| Err("no such file".into()));
                specimen.octets.unwrap_or_else(|| panic!("{text}: {:?}", specimen.findings))
            }
        };
        let checksum_wrong = text.contains("# its UDP checksum is wrong");
        CapturedMessage { checksum_wrong, ..seen(at, Duration::from_secs(*second), *protocol, octets) }
    };
    (1..).zip(messages).map(one).collect()
}

/// Everything that is found in the traffic of a rule's example.
pub(crate) fn findings(plan: &str, messages: &[(u64, Protocol, &str)]) -> Vec<Finding> {
    let (summary, conversations) = audit(plan, &example(messages));
    let mut told: Vec<Finding> =
        conversations.into_iter().flat_map(|one| one.findings).map(|told| told.finding).collect();
    // Some are about no single conversation.
    told.extend(
        summary
            .kinds
            .iter()
            .filter(|kind| kind.rule.name == "option-never-sent")
            .map(|kind| kind.rule.finding(kind.message.clone())),
    );
    told
}

/// The demo's plan, and clients of every network and fleet, with the messages that they and the plan's server exchange.
fn demo(each: &mut dyn FnMut(&Compiled<'_>, &[CapturedMessage])) {
    let text = std::fs::read_to_string("../../demo/plan.toml").unwrap();
    let find = |path: &str| std::fs::read_to_string(format!("../../demo/{path}")).map_err(|why| why.to_string().into());
    let plan = Plan::read("plan.toml", &text, &mut { find }).plan.unwrap();
    let compiled = Compiled::of(&plan);
    let classes = [None, Some("Tern D2"), Some("Gannet A1")];
    for (network, (place, class)) in
        (0..compiled.networks.len()).flat_map(|at| (0..).zip(classes).map(move |one| (at, one)))
    {
        for boots in [false, true] {
            let mac = Mac([2, 0, 0x5e, 0, 0x53, 0x80 + 8 * place + u8::from(boots)]);
            let mut facts = ClientFacts { mac: Some(mac), delegation: boots, rapid: boots, ..ClientFacts::on(network) };
            if let Some(class) = class {
                facts.describe(&compiled.codebook, "vendor-class", class).unwrap();
            }
            if boots {
                facts.describe(&compiled.codebook, "arch", "x64-uefi").unwrap();
            }
            facts.wants.v4 = Some(facts.common_requests());
            for family in [Family::V4, Family::V6] {
                let Some(answer) = compiled.answer(family, &facts) else { continue };
                let played = compiled.exchange(&facts, &answer).unwrap().messages;
                each(&compiled, &(1..).zip(played).map(|(frame, played)| captured(frame, played)).collect::<Vec<_>>());
            }
        }
    }
}

/// A message of a rehearsal as it would be captured.
fn captured(frame: u64, played: Played) -> CapturedMessage {
    let at = Duration::from_secs(1_795_000_000) + Duration::from_millis(frame);
    match played.ends {
        Ends::Icmp(ends) => seen(frame, at, Protocol::Ra, ra::Packet { ends, hop_limit: 255 }.around(&played.octets)),
        Ends::Udp(source, destination) => {
            let protocol = if source.is_ipv4() { Protocol::V4 } else { Protocol::V6 };
            CapturedMessage { source, destination, ..seen(frame, at, protocol, played.octets) }
        }
    }
}

fn told(compiled: &Compiled<'_>, messages: &[CapturedMessage]) -> Vec<Finding> {
    let mut audit = Audit::against(compiled, Policy::default());
    for message in messages {
        audit.add(message, message.findings(&compiled.codebook));
    }
    audit.finish();
    let told = audit.closed().flat_map(|one| one.findings).map(|told| told.finding);
    told.filter(|finding| finding.severity != Severity::Note).collect()
}

/// What a rehearsal plays is what the plan says.
#[test]
fn rehearsals_audit_clean_against_their_own_plan() {
    let mut count = 0;
    demo(&mut |compiled, messages| {
        count += 1;
        assert_eq!(told(compiled, messages), [], "{messages:?}");
    });
    assert!(count > 30, "{count}");
}

/// Any octet of any option that a server or router sends is missed when it is another, and the option is named.
#[test]
fn a_changed_octet_of_a_reply_is_named_by_its_option() {
    let (mut count, mut free) = (0u32, 0u32);
    demo(&mut |compiled, messages| {
        for (place, message) in messages.iter().enumerate() {
            let any = message.message().unwrap();
            let (own, base) = match any {
                AnyMessage::V6(whole) => {
                    let own = whole.innermost().unwrap();
                    (AnyMessage::V6(own), own.octets().as_ptr().addr() - message.octets.as_ptr().addr())
                }
                _ => (any, any.base()),
            };
            let by_server = match own {
                AnyMessage::V4(own) => own.header().op == 2,
                AnyMessage::V6(own) => matches!(own.message_type().0, 2 | 7),
                AnyMessage::Ra(own) => own.advertisement().is_some(),
            };
            for option in own.options().into_iter().filter(|_| by_server) {
                for part in option.parts() {
                    let first = part.octets.as_ptr().addr() - own.octets().as_ptr().addr();
                    // Not every octet of every message each time; over all messages every place comes.
                    for at in (first..first + part.octets.len()).filter(|at| (at + place) % 3 == 0) {
                        count += 1;
                        let mut changed = messages.to_vec();
                        let mut octets = changed[place].octets.to_vec();
                        octets[base + at] ^= 1 << (count % 8);
                        changed[place].octets = octets.into();
                        let found = told(compiled, &changed);
                        let id = format!("{}:{}", own.protocol().name(), option.code());
                        let name =
                            compiled.codebook.own(own.protocol(), option.code()).map(|known| known.name.to_string());
                        let is_named = |one: &Finding| {
                            one.option.as_ref() == Some(&id)
                                || name.as_ref().is_some_and(|name| one.message.contains(name.as_str()))
                        };
                        // Another address or prefix of the same pool is as good, where the client asked for none.
                        let leased = matches!(id.as_str(), "v6:3" | "v6:25") && found.is_empty();
                        assert!(leased || found.iter().any(is_named), "{id} at {at}: {found:#?}");
                        free += u32::from(leased);
                    }
                }
            }
        }
    });
    assert!(count > 2000 && free < 20, "{count}, {free}");
}

/// Every code that there can be is counted.
#[test]
fn the_last_code_is_requested_as_well() {
    let solicit = "type = \"solicit\"\ntransaction = 7\n[options]\nclientid = \"00:03:00:01:02:00:5e:00:53:11\"\n\
                   elapsed-time = 0\noro = [65535]\n";
    let reply = "type = \"advertise\"\ntransaction = 7\n[options]\nclientid = \"00:03:00:01:02:00:5e:00:53:11\"\n\
                 serverid = \"00:03:00:01:00:00:5e:00:53:67\"\n";
    let (summary, _) = audit("", &example(&[(0, Protocol::V6, solicit), (0, Protocol::V6, reply)]));
    assert!(summary.kinds.iter().any(|kind| kind.option.as_deref() == Some("v6:65535")), "{:?}", summary.kinds);
}

/// A DHCPDISCOVER or another message of a client by its number, with these lines.
fn from_client(kind: &str, number: u8, lines: &str) -> String {
    format!("type = \"{kind}\"\nxid = {number}\nchaddr = \"02:00:5e:00:53:{number:02x}\"\n{lines}")
}

/// What a policy allows is remembered, and no more; what was seen first is forgotten first, and that is said.
#[test]
fn what_is_remembered_is_bounded() {
    let mut policy = Policy::default();
    (policy.open, policy.remembered) = (8, 16);
    let mut audit = Audit::new(Codebook::standard(), policy);
    let mut open = 0usize;
    for number in 0..200u8 {
        let text = from_client("discover", number, "");
        let messages = example(&[(u64::from(number) / 100, Protocol::V4, &text)]);
        audit.add(&messages[0], Vec::new());
        open += 1;
        open -= audit.closed().count();
        assert!(open <= 9, "{open}");
    }
    let summary = audit.finish();
    assert_eq!((summary.clients, summary.conversations.0, summary.forgotten), (200, 200, 200 - 16));
    // A client that floods has one conversation all the same, which ends when it is silent.
    let mut audit = Audit::new(Codebook::standard(), policy);
    let text = from_client("discover", 1, "");
    for second in 0..1000 {
        audit.add(&example(&[(second / 100, Protocol::V4, &text)])[0], Vec::new());
    }
    audit.pass(Duration::from_secs(61));
    let ended: Vec<_> = audit.closed().collect();
    assert_eq!((ended.len(), ended[0].count, ended[0].messages.len()), (1, 1000, Conversation::MOST));
    // So has one whose requests are larger than all together may be.
    policy.octets = 600;
    let mut audit = Audit::new(Codebook::standard(), policy);
    let counts = [1u8, 2, 3].map(|number| {
        audit.add(&example(&[(0, Protocol::V4, &from_client("discover", number, ""))])[0], Vec::new());
        audit.closed().count()
    });
    assert_eq!(counts, [0, 0, 1]);
}

/// The copies of a message on the client's link and behind the relay agent are one conversation, and each reply is held against
/// the request that went its way.
#[test]
fn messages_are_put_together_through_relay_agents() {
    let own = "type = \"solicit\"\ntransaction = 7\n[options]\nclientid = \"00:03:00:01:02:00:5e:00:53:11\"\nelapsed-time = 0\n\
               oro = [23, 82]\nia-na = { iaid = 1, t1 = 0, t2 = 0, options = [] }\n";
    let reply = "type = \"advertise\"\ntransaction = 7\n[options]\nclientid = \"00:03:00:01:02:00:5e:00:53:11\"\n\
                 serverid = \"00:03:00:01:00:00:5e:00:53:67\"\ndns-servers = \"2001:db8:64::53\"\n\
                 ia-na = { iaid = 1, t1 = 60, t2 = 90, options = [{ code = 5, value = { address = \"2001:db8:64:4::1000\", \
                 preferred-lifetime = 120, valid-lifetime = 120 } }] }\n";
    let whole = |text: &str| example(&[(0, Protocol::V6, text)])[0].octets.to_vec();
    let relayed = |kind: u8, inner: &[u8]| {
        let link: std::net::Ipv6Addr = "2001:db8:64:4::1".parse().unwrap();
        let peer: std::net::Ipv6Addr = "fe80::5eff:fe00:5311".parse().unwrap();
        let length = (inner.len() as u16).to_be_bytes();
        [&[kind, 0][..], &link.octets(), &peer.octets(), &[0, 9], &length, inner].concat()
    };
    let (own, reply) = (whole(own), whole(reply));
    let all = [own.clone(), relayed(12, &own), relayed(13, &reply), reply];
    let messages: Vec<CapturedMessage> =
        (1..).zip(all).map(|(frame, octets)| seen(frame, Duration::from_millis(frame), Protocol::V6, octets)).collect();
    let (summary, conversations) = audit("", &messages);
    assert_eq!((conversations.len(), summary.clients, conversations[0].count), (1, 1, 4));
    let worse: Vec<_> =
        conversations[0].findings.iter().filter(|told| told.finding.severity > Severity::Note).collect();
    assert!(worse.is_empty(), "{worse:#?}");
    assert!(summary.kinds.iter().all(|kind| kind.rule.name != "reply-lacks-option"));
}

/// A machine that is a client of both families is one, and each router's advertisements are one conversation however long they go on.
#[test]
fn machines_and_routers_are_counted_once() {
    let discover = from_client("discover", 0x11, "");
    let solicit = "type = \"solicit\"\ntransaction = 7\n[options]\nclientid = \"00:03:00:01:02:00:5e:00:53:11\"\nelapsed-time = 0\n\
                   oro = [23, 82]\n";
    let said = "type = \"advertisement\"\nlifetime = 1800\nsource = \"fe80::1\"\n";
    let other = said.replace("fe80::1", "fe80::2");
    let messages = [
        (0, Protocol::V4, discover.as_str()),
        (0, Protocol::V6, solicit),
        (0, Protocol::Ra, said),
        (600, Protocol::Ra, said),
        (900, Protocol::Ra, other.as_str()),
        (1200, Protocol::Ra, said),
    ];
    let (summary, conversations) = audit("", &example(&messages));
    assert_eq!((summary.clients, summary.servers.len()), (1, 2));
    let routers: Vec<u64> =
        conversations.iter().filter(|one| one.protocol == Protocol::Ra).map(|one| one.count).collect();
    assert_eq!(routers.iter().sum::<u64>(), 4);
    assert_eq!(routers.len(), 2);
}

/// A client that gives its address back frees it for others, and one that keeps it does not.
#[test]
fn addresses_are_of_one_client_until_they_are_given_back() {
    let lease = "yiaddr = \"10.64.4.20\"\n[options]\ndhcp-server-id = \"10.64.0.67\"\nsubnet-mask = \"255.255.254.0\"\n\
                 address-time = \"8h\"\n";
    let wish = "[options]\naddress-request = \"10.64.4.20\"\ndhcp-server-id = \"10.64.0.67\"\n";
    let release = "ciaddr = \"10.64.4.20\"\n[options]\ndhcp-server-id = \"10.64.0.67\"\n";
    let texts = [
        (0, from_client("request", 1, wish)),
        (0, from_client("ack", 1, lease)),
        (9, from_client("release", 1, release)),
        (10, from_client("request", 2, wish)),
        (10, from_client("ack", 2, lease)),
        (20, from_client("request", 3, wish)),
        (20, from_client("ack", 3, lease)),
        (40_000, from_client("request", 4, wish)),
        (40_000, from_client("ack", 4, lease)),
    ];
    let messages: Vec<(u64, Protocol, &str)> =
        texts.iter().map(|(second, text)| (*second, Protocol::V4, text.as_str())).collect();
    let (_, conversations) = audit("", &example(&messages));
    let twice: Vec<u32> = conversations
        .iter()
        .filter(|one| one.findings.iter().any(|told| told.finding.rule.name == "address-of-two-clients"))
        .map(|one| one.transaction)
        .collect();
    assert_eq!(twice, [3]);
}

/// Captures may have times without end, and an audit may go from one thread to another.
#[test]
fn times_without_end_are_borne() {
    fn moves<T: Send>(_: &T) {}
    let mut audit = Audit::new(Codebook::standard(), Policy::default());
    moves(&audit);
    let lease = "yiaddr = \"10.64.4.20\"\n[options]\ndhcp-server-id = \"10.64.0.67\"\naddress-time = \"8h\"\n";
    let solicitation =
        "type = \"solicitation\"\nsource = \"fe80::1\"\n[options]\nsource-link-layer-address = \"02:00:5e:00:53:01\"\n";
    for at in [Duration::MAX, Duration::ZERO, Duration::MAX] {
        let texts = [
            from_client("request", 1, ""),
            from_client("ack", 1, lease),
            from_client("request", 1, "ciaddr = \"10.64.4.20\"\n"),
        ];
        for text in &texts {
            audit.add(&CapturedMessage { at, ..example(&[(0, Protocol::V4, text)])[0].clone() }, Vec::new());
        }
        audit.add(&CapturedMessage { at, ..example(&[(0, Protocol::Ra, solicitation)])[0].clone() }, Vec::new());
    }
    audit.pass(Duration::from_secs(1));
    assert_eq!(audit.finish().clients, 1);
}
