//! Stand-in clients, driven by hand: what they send, when, and what they make of replies.

use std::net::Ipv4Addr;
use std::sync::Arc;
use std::time::Duration;

use oplex::answer::Ends;
use oplex::codebook::Codebook;
use oplex::family::Both;
use oplex::lab::{Client, ClientKind, End, Event, Output, Packet, Presence};
use oplex::octets::{Duid, Mac};
use oplex::packet::{Composer, Message as _, ra, v4, v6};

const MAC: Mac = Mac([2, 0, 0x5e, 0, 0x53, 0x21]);
const SERVER: [u8; 4] = [10, 64, 0, 67];
const ADDRESS: Ipv4Addr = Ipv4Addr::new(10, 64, 4, 20);

/// A client, and how late it is.
struct Stage {
    client: Client,
    now: Duration,
}

impl Stage {
    fn new(change: impl FnOnce(&mut ClientKind), v4: bool) -> Self {
        let mut kind = ClientKind::new("machine");
        kind.families = Both { v4, v6: !v4 };
        change(&mut kind);
        let facts = kind.facts(Codebook::standard(), 0, MAC, 1).unwrap();
        let speaks = Both { v4: true, v6: true };
        Self { client: Client::new(Arc::new(kind), facts, speaks, Duration::ZERO, 9), now: Duration::ZERO }
    }

    /// What comes of waking it the next time it wants that.
    fn next(&mut self) -> Output {
        self.now = self.client.due().expect("it waits for something");
        let mut out = Output::default();
        self.client.wake(self.now, &mut out);
        out
    }

    /// The first thing that it sends, whenever that is.
    fn sends(&mut self) -> Packet {
        loop {
            let mut out = self.next();
            if !out.packets.is_empty() {
                return out.packets.remove(0);
            }
        }
    }

    fn hears(&mut self, packet: &Packet) -> Output {
        let mut out = Output::default();
        self.client.receive(self.now, packet, &mut out);
        out
    }

    fn leased(&self) -> usize {
        self.client.held(self.now).count()
    }
}

fn read(packet: &Packet) -> v4::Message<'_> {
    v4::Message::read(&packet.octets).unwrap()
}

/// A reply to a client's message.
fn reply(to: &Packet, kind: v4::MessageType, options: &[(u16, &[u8])]) -> Packet {
    let header = read(to).header().answered();
    let header = if kind == v4::MessageType::NAK { header } else { v4::Header { yiaddr: ADDRESS, ..header } };
    let options = [&[(54, &SERVER[..])], options].concat();
    let draft = v4::Draft { header, options: &options, ..v4::Draft::new(kind) };
    let octets = Composer::default().compose(&draft).unwrap().octets.to_vec();
    let ends = Ends::Udp((Ipv4Addr::from(SERVER), 67).into(), (ADDRESS, 68).into());
    Packet { from_client: false, ends, octets }
}

const HOUR: [u8; 4] = 3600u32.to_be_bytes();

/// A client that is leased its address for an hour at the beginning.
fn bound(change: impl FnOnce(&mut ClientKind)) -> Stage {
    let mut stage = Stage::new(change, true);
    let discover = stage.sends();
    let mut out = stage.hears(&reply(&discover, v4::MessageType::OFFER, &[(51, &HOUR)]));
    let request = out.packets.remove(0);
    let out = stage.hears(&reply(&request, v4::MessageType::ACK, &[(51, &HOUR)]));
    assert!(matches!(out.events[..], [Event::Leased { seconds: 3600, .. }]), "{:?}", out.events);
    assert_eq!(stage.leased(), 1);
    stage
}

#[test]
fn who_is_not_answered_asks_less_and_less_often() {
    let mut stage = Stage::new(|_| {}, true);
    let mut times = Vec::new();
    let (mut transaction, mut gave_up) = (None, None);
    while times.len() < 6 {
        let out = stage.next();
        for packet in &out.packets {
            let message = read(packet);
            assert_eq!(message.message_type(), Some(v4::MessageType::DISCOVER));
            times.push(stage.now.as_secs_f64());
            // It is one search until it gives up, and its seconds count from its beginning.
            if times.len() <= 5 {
                assert_eq!(*transaction.get_or_insert(message.header().xid), message.header().xid);
                assert_eq!(f64::from(message.header().secs), stage.now.as_secs_f64().floor());
            }
        }
        if out.events.iter().any(|event| matches!(event, Event::Unanswered(_))) {
            gave_up = Some(times.len());
        }
    }
    assert_eq!(gave_up, Some(5));
    // Four seconds and then twice as many, a second more or less each (RFC 2131, section 4.1), and after five times a pause.
    let waits: Vec<f64> = times.windows(2).map(|pair| pair[1] - pair[0]).collect();
    for (wait, about) in waits.iter().zip([4.0, 8.0, 16.0, 32.0, 364.0]) {
        assert!((wait - about).abs() <= 1.0, "{waits:?}");
    }
}

#[test]
fn an_address_is_taken_extended_and_lost() {
    let mut stage = bound(|_| {});
    // At T1 it asks its own server, with the address that it has and no option for it (RFC 2131, section 4.4.5, table 5).
    let renew = stage.sends();
    assert_eq!(stage.now, Duration::from_secs(1800));
    let Ends::Udp(from, to) = renew.ends else { panic!("{renew:?}") };
    assert_eq!((from.ip(), to.ip()), (ADDRESS.into(), Ipv4Addr::from(SERVER).into()));
    let message = read(&renew);
    assert_eq!(
        (message.header().ciaddr, message.option(50).is_none(), message.option(54).is_none()),
        (ADDRESS, true, true)
    );
    // Half of what is left until T2 each time, and a minute at least.
    let mut times = vec![stage.now.as_secs()];
    let rebind = loop {
        let packet = stage.sends();
        let Ends::Udp(_, to) = packet.ends else { panic!("{packet:?}") };
        if to.ip() == Ipv4Addr::BROADCAST {
            break packet;
        }
        times.push(stage.now.as_secs());
    };
    assert_eq!(times, [1800, 2475, 2812, 2981, 3065, 3125], "until T2 at 3150");
    assert_eq!((stage.now.as_secs(), read(&rebind).header().ciaddr), (3150, ADDRESS));
    // Another server extends it.
    let out = stage.hears(&reply(
        &rebind,
        v4::MessageType::ACK,
        &[(51, &HOUR), (58, &[0, 0, 0, 100]), (59, &[0, 0, 0, 200])],
    ));
    assert!(matches!(out.events[..], [Event::Renewed { seconds: 3600, .. }]), "{:?}", out.events);
    assert!(stage.sends().octets.len() >= 300);
    assert_eq!(stage.now.as_secs(), 3150 + 100, "T1 as the server says");
    // Nobody does so again: its time is over, and it begins anew.
    let ended = loop {
        let out = stage.next();
        if let [Event::Ended { why, .. }] = out.events[..] {
            assert_eq!(read(&out.packets[0]).message_type(), Some(v4::MessageType::DISCOVER));
            break why;
        }
    };
    assert_eq!((ended, stage.now.as_secs(), stage.leased()), (End::Expired, 3150 + 3600, 0));
}

#[test]
fn what_is_not_for_it_is_not_taken() {
    let mut stage = Stage::new(|_| {}, true);
    let discover = stage.sends();
    let right = reply(&discover, v4::MessageType::OFFER, &[(51, &HOUR)]);
    let change = |at: usize, with: u8| {
        let mut packet = right.clone();
        packet.octets[at] = with;
        packet
    };
    let other_transaction = change(7, right.octets[7] ^ 1);
    let other_machine = change(33, 0x22);
    let request = change(0, 1);
    let cut = Packet { octets: right.octets[..200].to_vec(), ..right.clone() };
    let own = Packet { from_client: true, ..right.clone() };
    let no_lease_yet = reply(&discover, v4::MessageType::ACK, &[(51, &HOUR)]);
    for packet in [other_transaction, other_machine, request, cut, own, no_lease_yet] {
        let out = stage.hears(&packet);
        assert!(out.packets.is_empty() && out.events.is_empty(), "{packet:?}");
    }
    assert_eq!(stage.hears(&right).packets.len(), 1);
}

#[test]
fn a_refusal_is_a_new_beginning() {
    let mut stage = bound(|_| {});
    let renew = stage.sends();
    let out = stage.hears(&reply(&renew, v4::MessageType::NAK, &[(56, b"moved")]));
    assert!(
        matches!(&out.events[..], [Event::Refused { why, .. }, Event::Ended { why: End::Refused, .. }] if why == "moved"),
        "{:?}",
        out.events
    );
    assert_eq!(stage.leased(), 0);
    let again = stage.sends();
    assert_eq!(read(&again).message_type(), Some(v4::MessageType::DISCOVER));
}

#[test]
fn who_comes_back_asks_for_what_it_had() {
    let on = Presence { on: Duration::from_secs(600), every: Duration::from_secs(1200) };
    let mut stage = bound(|kind| kind.presence = Some(on));
    let out = stage.next();
    assert_eq!((stage.now.as_secs(), out.packets.len(), stage.client.is_on(), stage.leased()), (600, 0, false, 0));
    let back = stage.sends();
    assert_eq!(stage.now.as_secs(), 1200);
    let message = read(&back);
    let wanted = message.option(50).map(|option| option.joined().into_owned());
    assert_eq!((message.message_type(), wanted), (Some(v4::MessageType::REQUEST), Some(ADDRESS.octets().to_vec())));
    assert!(message.option(54).is_none() && message.header().ciaddr.is_unspecified());
    // Nobody answers: it may keep what it has as long as that is valid (RFC 2131, section 3.2).
    while stage.leased() == 0 {
        stage.next();
    }
    assert!(stage.now.as_secs() < 1300, "{:?}", stage.now);
    // A machine that is polite says when it goes.
    let mut stage = bound(|kind| (kind.presence, kind.releases) = (Some(on), true));
    let release = stage.sends();
    let message = read(&release);
    assert_eq!((message.message_type(), message.header().ciaddr), (Some(v4::MessageType::RELEASE), ADDRESS));
    let Ends::Udp(_, to) = release.ends else { panic!("{release:?}") };
    assert_eq!(to, (Ipv4Addr::from(SERVER), 67).into());
}

/// RFC 8925, section 3.2.
#[test]
fn who_can_does_without_ipv4() {
    let mut stage = Stage::new(|kind| kind.requests.v4 = Some(vec![1, 3, 108]), true);
    let discover = stage.sends();
    let out = stage.hears(&reply(&discover, v4::MessageType::OFFER, &[(51, &HOUR), (108, &1000u32.to_be_bytes())]));
    assert!(out.packets.is_empty() && out.events == [Event::WithoutIpv4], "{:?}", out.events);
    assert!(stage.client.is_content(Duration::from_secs(100)));
    stage.sends();
    assert_eq!(stage.now.as_secs(), 1000);
}

/// An advertisement of a router.
fn advertisement(managed: bool, other: bool) -> Packet {
    let prefix: Vec<u8> = [
        &[64, 0xc0][..],
        &3600u32.to_be_bytes(),
        &1800u32.to_be_bytes(),
        &[0; 4],
        &[0x20, 0x01, 0x0d, 0xb8, 0, 0x64, 0, 4],
        &[0; 8],
    ]
    .concat();
    let ends = ra::Ends { source: "fe80::1".parse().unwrap(), destination: ra::ALL_NODES };
    let header = ra::Advertisement { managed, other, router_lifetime: 1800, ..ra::Advertisement::default() };
    let draft = ra::Draft { header: ra::Header::Advertisement(header), ends, options: &[(3, &prefix)] };
    let octets = Composer::default().compose(&draft).unwrap().to_vec();
    Packet { from_client: false, ends: Ends::Icmp(ends), octets }
}

/// A reply of a DHCPv6 server to a client's message.
fn reply_v6(to: &Packet, kind: v6::MessageType, options: &[(u16, &[u8])]) -> Packet {
    let message = v6::Message::read(&to.octets).unwrap();
    let duid = Duid::of_mac(MAC);
    let server: [u8; 7] = [0, 2, 0, 0, 0x7e, 0xd9, 1];
    let options = [&[(1, &duid[..]), (2, &server[..])], options].concat();
    let header = v6::Header::Transaction(message.transaction().unwrap());
    let draft = v6::Draft { message_type: kind, header, options: &options };
    let octets = Composer::default().compose(&draft).unwrap().to_vec();
    let Ends::Udp(host, _) = to.ends else { panic!("{to:?}") };
    Packet { from_client: false, ends: Ends::Udp("[fe80::1]:547".parse().unwrap(), host), octets }
}

/// The association of the client with an address that is valid for so long, T1 and T2 as the server likes.
fn leased(valid: u32, t1: u32, t2: u32) -> Vec<u8> {
    let address = [0x20, 0x01, 0x0d, 0xb8, 0, 0x64, 0, 4, 0, 0, 0, 0, 0, 0, 0x10, 0];
    [
        &[0, 0, 0x53, 0x21][..],
        &t1.to_be_bytes(),
        &t2.to_be_bytes(),
        &[0, 5, 0, 24],
        &address,
        &valid.to_be_bytes(),
        &valid.to_be_bytes(),
    ]
    .concat()
}

fn kind_of(packet: &Packet) -> v6::MessageType {
    v6::Message::read(&packet.octets).unwrap().message_type()
}

/// A host whose router says that it is to use DHCPv6, as far as its first Solicit.
fn soliciting(change: impl FnOnce(&mut ClientKind)) -> (Stage, Packet) {
    let mut stage = Stage::new(change, false);
    stage.sends();
    let out = stage.hears(&advertisement(true, false));
    assert!(matches!(out.events[..], [Event::Formed(_)]), "{:?}", out.events);
    let solicit = stage.sends();
    assert!(stage.now <= Duration::from_secs(1), "{:?}", stage.now);
    assert_eq!(kind_of(&solicit), v6::MessageType::SOLICIT);
    (stage, solicit)
}

#[test]
fn hosts_do_what_their_router_says() {
    // Without a router three solicitations, four seconds apart (RFC 4861, section 6.3.7), and then DHCPv6 for everything.
    let mut stage = Stage::new(|_| {}, false);
    let mut times = Vec::new();
    let first = loop {
        let packet = stage.sends();
        if matches!(packet.ends, Ends::Udp(..)) {
            break packet;
        }
        times.push(stage.now.as_secs());
    };
    assert_eq!((times, kind_of(&first)), (vec![0, 4, 8], v6::MessageType::SOLICIT));
    let after = |managed, other| {
        let mut stage = Stage::new(|_| {}, false);
        stage.sends();
        stage.hears(&advertisement(managed, other));
        stage.client.due().map(|_| kind_of(&stage.sends()))
    };
    assert_eq!(after(true, false), Some(v6::MessageType::SOLICIT));
    assert_eq!(after(false, true), Some(v6::MessageType::INFORMATION_REQUEST));
    assert_eq!(after(false, false), None);
    // What changes its mind afterwards counts.
    let mut stage = Stage::new(|_| {}, false);
    stage.sends();
    stage.hears(&advertisement(false, false));
    assert!(stage.client.due().is_none() && stage.client.is_content(Duration::from_secs(99)));
    stage.hears(&advertisement(true, false));
    assert_eq!(kind_of(&stage.sends()), v6::MessageType::SOLICIT);
}

#[test]
fn solicits_are_repeated_as_servers_wish() {
    let (mut stage, solicit) = soliciting(|_| {});
    // Who has nothing may still say how long to wait at most (RFC 8415, section 18.2.9).
    let none = [&[0, 0, 0x53, 0x21][..], &[0; 8], &[0, 13, 0, 2, 0, 2]].concat();
    let out = stage.hears(&reply_v6(&solicit, v6::MessageType::ADVERTISE, &[(3, &none), (82, &60u32.to_be_bytes())]));
    assert!(
        matches!(&out.events[..], [Event::Refused { why, .. }] if why.contains("NoAddrsAvail")),
        "{:?}",
        out.events
    );
    let mut times = vec![stage.now.as_secs_f64()];
    while times.len() < 10 {
        stage.sends();
        times.push(stage.now.as_secs_f64());
    }
    let waits: Vec<f64> = times.windows(2).map(|pair| pair[1] - pair[0]).collect();
    assert!((1.0..=1.1).contains(&waits[0]), "the first one waits no less than a second: {waits:?}");
    for pair in waits.windows(2).take(5) {
        assert!((1.6..=2.4).contains(&(pair[1] / pair[0])), "{waits:?}");
    }
    assert!(waits[6..].iter().all(|wait| (54.0..=66.0).contains(wait)), "no more than the server says: {waits:?}");
}

#[test]
fn the_best_advertisement_wins_at_its_time() {
    let (mut stage, solicit) = soliciting(|_| {});
    let association = leased(3600, 0, 0);
    let out = stage.hears(&reply_v6(&solicit, v6::MessageType::ADVERTISE, &[(3, &association)]));
    assert!(out.packets.is_empty(), "the first second is for others");
    let request = stage.sends();
    assert_eq!(kind_of(&request), v6::MessageType::REQUEST);
    // With the highest preference there is nothing to wait for.
    let (mut stage, solicit) = soliciting(|_| {});
    let before = stage.now;
    stage.hears(&reply_v6(&solicit, v6::MessageType::ADVERTISE, &[(7, &[255]), (3, &association)]));
    let request = stage.sends();
    assert_eq!((kind_of(&request), stage.now), (v6::MessageType::REQUEST, before));
    let out = stage.hears(&reply_v6(&request, v6::MessageType::REPLY, &[(3, &association)]));
    assert!(matches!(out.events[..], [Event::Leased { seconds: 3600, .. }]), "{:?}", out.events);
    // Times of zero leave T1 and T2 to the client (RFC 8415, section 21.4).
    let asked = stage.now.as_secs();
    assert_eq!(kind_of(&stage.sends()), v6::MessageType::RENEW);
    assert_eq!(stage.now.as_secs(), asked + 1800);
    let rebind = loop {
        let packet = stage.sends();
        if kind_of(&packet) == v6::MessageType::REBIND {
            break packet;
        }
    };
    assert_eq!(stage.now.as_secs(), asked + 2880);
    // A server that does not know it says so, and it begins anew after a while.
    let none = [&[0, 0, 0x53, 0x21][..], &[0; 8], &[0, 13, 0, 2, 0, 3]].concat();
    let out = stage.hears(&reply_v6(&rebind, v6::MessageType::REPLY, &[(3, &none)]));
    assert!(
        matches!(&out.events[..], [Event::Ended { why: End::Refused, .. }, Event::Refused { why, .. }] if why.contains("NoBinding")),
        "{:?}",
        out.events
    );
    assert_eq!((kind_of(&stage.sends()), stage.leased()), (v6::MessageType::SOLICIT, 0));
}

#[test]
fn two_messages_are_enough_for_who_is_quick() {
    let (mut stage, solicit) = soliciting(|kind| kind.rapid = true);
    assert!(v6::Message::read(&solicit.octets).unwrap().option(14).is_some());
    let association = leased(3600, 100, 200);
    // A reply that does not say so is none to a Solicit (RFC 8415, section 18.2.10).
    let plain = stage.hears(&reply_v6(&solicit, v6::MessageType::REPLY, &[(3, &association)]));
    assert!(plain.events.is_empty());
    let out = stage.hears(&reply_v6(&solicit, v6::MessageType::REPLY, &[(14, &[]), (3, &association)]));
    assert!(matches!(out.events[..], [Event::Leased { .. }]), "{:?}", out.events);
    // After its power was gone it asks whether its address is still of its link (RFC 8415, section 18.2.3).
    let mut out = Output::default();
    stage.client.restart(stage.now, &mut out);
    stage.hears(&advertisement(true, false));
    let confirm = stage.sends();
    assert_eq!((kind_of(&confirm), stage.leased()), (v6::MessageType::CONFIRM, 0));
    stage.hears(&reply_v6(&confirm, v6::MessageType::REPLY, &[(13, &[0, 0])]));
    assert_eq!(stage.leased(), 1);
    // And the next time it is on another one.
    stage.client.restart(stage.now, &mut out);
    stage.hears(&advertisement(true, false));
    let confirm = stage.sends();
    let out = stage.hears(&reply_v6(&confirm, v6::MessageType::REPLY, &[(13, &[0, 4])]));
    assert!(out.events.iter().any(|event| matches!(event, Event::Ended { why: End::Refused, .. })), "{:?}", out.events);
    assert_eq!(kind_of(&stage.sends()), v6::MessageType::SOLICIT);
}

#[test]
fn settings_are_asked_for_again_in_time() {
    let mut stage = Stage::new(|_| {}, false);
    stage.sends();
    stage.hears(&advertisement(false, true));
    let request = stage.sends();
    let asked = v6::Message::read(&request.octets).unwrap().option(6).unwrap().joined().into_owned();
    let codes: Vec<u16> = asked.chunks(2).map(|code| u16::from_be_bytes([code[0], code[1]])).collect();
    assert!(codes.contains(&32) && codes.contains(&83) && !codes.contains(&82), "RFC 8415, section 21.7: {codes:?}");
    // A minute is less than the least there is (RFC 8415, section 21.23).
    let out = stage.hears(&reply_v6(&request, v6::MessageType::REPLY, &[(32, &60u32.to_be_bytes())]));
    assert_eq!(out.events, [Event::Settings(oplex::family::Family::V6)]);
    let then = stage.now;
    assert_eq!(kind_of(&stage.sends()), v6::MessageType::INFORMATION_REQUEST);
    assert!((600..=601).contains(&(stage.now - then).as_secs()), "{:?}", stage.now - then);
}
