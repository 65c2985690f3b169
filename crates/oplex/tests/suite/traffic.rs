//! Captured traffic: what an audit says of it.

use std::net::SocketAddr;
use std::time::Duration;

use oplex::answer::{Ends, Played};
use oplex::audit::{Audit, Conversation, Frame, Policy, Seen, Summary};
use oplex::codebook::Codebook;
use oplex::compiled::Compiled;
use oplex::family::{Family, Protocol};
use oplex::finding::{Finding, Severity};
use oplex::octets::{Mac, hex};
use oplex::packet::{AnyMessage, Message as _, ra};
use oplex::plan::{ClientFacts, Plan};
use oplex::specimen::Specimen;

/// A message as it would be captured on the link of its client, or behind its relay agent.
pub(crate) fn seen(number: u64, at: Duration, protocol: Protocol, octets: Vec<u8>) -> Seen {
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
    Seen { at, frame, link, protocol, source, destination, hardware, octets, missing, checksum_wrong }
}

/// What an audit makes of messages, by a plan where there is one.
pub(crate) fn audit(plan: &str, messages: &[Seen]) -> (Summary, Vec<Conversation>) {
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
pub(crate) fn example(messages: &[(u64, Protocol, &str)]) -> Vec<Seen> {
    let one = |(at, (second, protocol, text)): (u64, &(u64, Protocol, &str))| {
        let octets = match text.strip_prefix("# octets ") {
            Some(octets) => hex::parse(octets).unwrap(),
            None => {
                let specimen = Specimen::read(*protocol, "message.toml", text, &mut |_| Err("no such file".into()));
                specimen.octets.unwrap_or_else(|| panic!("{text}: {:?}", specimen.findings))
            }
        };
        let checksum_wrong = text.contains("# its UDP checksum is wrong");
        Seen { checksum_wrong, ..seen(at, Duration::from_secs(*second), *protocol, octets) }
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
fn demo(each: &mut dyn FnMut(&Compiled<'_>, &[Seen])) {
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
fn captured(frame: u64, played: Played) -> Seen {
    let at = Duration::from_secs(1_795_000_000) + Duration::from_millis(frame);
    match played.ends {
        Ends::Icmp(ends) => seen(frame, at, Protocol::Ra, ra::Packet { ends, hop_limit: 255 }.around(&played.octets)),
        Ends::Udp(source, destination) => {
            let protocol = if source.is_ipv4() { Protocol::V4 } else { Protocol::V6 };
            Seen { source, destination, ..seen(frame, at, protocol, played.octets) }
        }
    }
}

fn told(compiled: &Compiled<'_>, messages: &[Seen]) -> Vec<Finding> {
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
