//! Captures that are read: every kind of file, link and tunnel, fragments, and what is damaged.

#![allow(clippy::unwrap_used, reason = "a test that cannot go on should stop")]

use std::io::{Cursor, Write as _};
use std::path::Path;
use std::time::Duration;

use etherparse::{IpNumber, Ipv4Header, Ipv6Header};
use oplex::family::Protocol;
use oplex::octets::Mac;
use oplex::packet::{Composer, v4};
use oplex_io::capture::{self, Capture, Checked, Item, Message, RELAY, SERVER};
use proptest::prelude::*;

fn message() -> Vec<u8> {
    let header = v4::Header::from_client(7, [2, 0, 0x5e, 0, 0x53, 0x11]);
    let draft = v4::Draft { header, options: &[(12, b"dome-3")], ..v4::Draft::new(v4::MessageType::DISCOVER) };
    Composer::default().compose(&draft).unwrap().octets.to_vec()
}

/// The message in an Ethernet frame.
fn ethernet() -> Vec<u8> {
    let end = |mac, address: &str| (mac, address.parse().unwrap());
    capture::frame(end(RELAY, "0.0.0.0:68"), end(SERVER, "255.255.255.255:67"), &message()).unwrap()
}

/// The IP packet in it.
fn packet() -> Vec<u8> {
    ethernet().split_off(14)
}

fn ipv4(number: IpNumber, payload: &[u8]) -> Vec<u8> {
    let header = Ipv4Header::new(payload.len() as u16, 64, number, [10, 64, 0, 1], [10, 64, 0, 2]).unwrap();
    [&header.to_bytes()[..], payload].concat()
}

fn ipv6(number: u8, payload: &[u8]) -> Vec<u8> {
    let header = Ipv6Header {
        payload_length: payload.len() as u16,
        next_header: IpNumber(number),
        hop_limit: 64,
        source: "2001:db8:64::1".parse::<std::net::Ipv6Addr>().unwrap().octets(),
        ..Ipv6Header::default()
    };
    [&header.to_bytes()[..], payload].concat()
}

/// A datagram of DHCPv6 from a client.
fn udp_v6() -> Vec<u8> {
    let payload = [1, 0, 0, 7, 0, 8, 0, 2, 0, 0];
    let header = etherparse::UdpHeader { source_port: 546, destination_port: 547, length: 18, checksum: 0x1234 };
    [&header.to_bytes()[..], &payload].concat()
}

/// A pcap file of one frame, of either order of octets, in micro- or nanoseconds.
fn pcap(link_type: u32, frame: &[u8], little: bool, nano: bool, sent: usize) -> Vec<u8> {
    let word = |number: u32| if little { number.to_le_bytes() } else { number.to_be_bytes() };
    let half = |number: u16| if little { number.to_le_bytes() } else { number.to_be_bytes() };
    let magic = if nano { 0xa1b2_3c4d } else { 0xa1b2_c3d4 };
    [
        &word(magic)[..],
        &half(2),
        &half(4),
        &word(0),
        &word(0),
        &word(65_535),
        &word(link_type),
        &word(1_795_000_000),
        &word(7),
        &word(frame.len() as u32),
        &word(sent as u32),
        frame,
    ]
    .concat()
}

fn items(octets: Vec<u8>) -> Vec<Item> {
    Capture::of_octets(octets, Path::new("test.pcap")).unwrap().collect()
}

/// The only message of a file.
fn only(octets: Vec<u8>) -> Message {
    match items(octets).as_slice() {
        [Item::Message(message)] => message.clone(),
        other => panic!("{other:?}"),
    }
}

fn one(link_type: u32, frame: &[u8]) -> Message {
    only(pcap(link_type, frame, true, false, frame.len()))
}

#[test]
fn every_link_and_tunnel_is_looked_through() {
    let (frame, packet) = (ethernet(), packet());
    let before = |octets: &[u8], rest: &[u8]| [octets, rest].concat();
    let with_type = |rest: &[u8]| before(&frame[..12], rest);
    let vlan = [0x81, 0, 0, 64, 0x08, 0];
    let double = [0x88, 0xa8, 0, 64, 0x81, 0, 0, 4, 0x08, 0];
    let snap = [0, 0, 0xaa, 0xaa, 3, 0, 0, 0, 8, 0];
    let sll = [0, 0, 0, 1, 0, 6, 0, 0, 0x5e, 0, 0x53, 2, 0, 0, 8, 0];
    let sll2 = [8, 0, 0, 0, 0, 0, 0, 3, 0, 1, 0, 6, 0, 0, 0x5e, 0, 0x53, 2, 0, 0];
    let wireless = |flags: u8, addresses: usize| {
        let mut header = vec![0x88, flags, 0, 0];
        header.extend([SERVER; 3].concat());
        header.extend([0, 0]);
        header.extend(vec![0; addresses]);
        let own = if flags & 2 == 0 { 10 } else { 16 };
        header[own..own + 6].copy_from_slice(&RELAY);
        header.extend([0, 0, 0xaa, 0xaa, 3, 0, 0, 0, 8, 0]);
        header
    };
    let udp = |port: u16, rest: &[u8]| {
        let header = etherparse::UdpHeader {
            source_port: 9,
            destination_port: port,
            length: 8 + rest.len() as u16,
            checksum: 0,
        };
        [&header.to_bytes()[..], rest].concat()
    };
    let vxlan = ipv4(IpNumber::UDP, &udp(4789, &before(&[8, 0, 0, 0, 0, 0, 64, 0], &frame)));
    let options = {
        // Three words of options before the payload.
        let mut octets = packet.clone();
        octets[0] = 0x48;
        octets.splice(20..20, [1; 12]);
        let length = octets.len() as u16;
        octets[2..4].copy_from_slice(&length.to_be_bytes());
        octets
    };
    let cases: Vec<(u32, Vec<u8>, bool, &str)> = vec![
        (1, frame.clone(), true, ""),
        (1, with_type(&before(&vlan, &packet)), true, ""),
        (1, with_type(&before(&double, &packet)), true, ""),
        (1, with_type(&before(&snap, &packet)), true, ""),
        (1, with_type(&before(&[8, 0], &options)), true, ""),
        (1, with_type(&before(&[0x88, 0x64, 0x11, 0, 0, 1, 1, 44, 0, 0x21], &packet)), true, ""),
        (1, with_type(&before(&[0x88, 0x47, 0, 0, 0x10, 64, 0, 0, 0x21, 64], &packet)), true, "MPLS"),
        (113, before(&sll, &packet), true, ""),
        (276, before(&sll2, &packet), true, ""),
        (101, packet.clone(), false, ""),
        (228, packet.clone(), false, ""),
        (0, before(&[2, 0, 0, 0], &packet), false, ""),
        (108, before(&[0, 0, 0, 2], &packet), false, ""),
        (9, before(&[0xff, 3, 0, 0x21], &packet), false, ""),
        (9, before(&[0x21], &packet), false, ""),
        (105, before(&wireless(1, 0), &packet), true, ""),
        (105, before(&wireless(2, 0), &packet), true, ""),
        (127, before(&[0, 0, 10, 0, 0, 0, 0, 0, 0, 0], &before(&wireless(1, 0), &packet)), true, ""),
        (101, ipv4(IpNumber::IPV4, &packet), false, "IP in IP"),
        (101, ipv6(4, &packet), false, "IP in IP"),
        (101, ipv4(IpNumber::GRE, &before(&[0x20, 0, 8, 0, 0, 0, 0, 7], &packet)), false, "GRE"),
        (101, ipv4(IpNumber::GRE, &before(&[0, 0, 0x65, 0x58], &frame)), true, "GRE"),
        (101, vxlan, true, "VXLAN"),
    ];
    for (place, (link_type, octets, has_mac, tunnel)) in cases.iter().enumerate() {
        let found = one(*link_type, octets);
        assert_eq!(*found.seen.octets, message(), "{place}");
        assert_eq!(found.seen.hardware, has_mac.then_some(Mac(RELAY)), "{place}");
        let tunnels: Vec<String> = found.tunnels.iter().map(ToString::to_string).collect();
        assert_eq!(tunnels.join(" "), *tunnel, "{place}");
        let (at, start) = (found.at.unwrap(), found.offset as usize);
        let file = pcap(*link_type, octets, true, false, octets.len());
        assert_eq!(&file[start + at..start + at + found.seen.octets.len()], message(), "{place}");
        assert_eq!((found.seen.source.to_string(), found.seen.checksum_wrong), ("0.0.0.0:68".to_owned(), false));
    }
    let six = one(101, &ipv4(IpNumber::IPV6, &ipv6(17, &udp_v6())));
    assert_eq!((six.seen.protocol, six.seen.checksum_wrong, six.tunnels.len()), (Protocol::V6, true, 1));
    // A hop-by-hop header of eight octets, and one for destinations.
    let extended = before(&[60, 0, 1, 4, 0, 0, 0, 0, 17, 0, 1, 4, 0, 0, 0, 0], &udp_v6());
    assert_eq!(one(229, &ipv6(0, &extended)).seen.octets.len(), 10);
    // An encrypted wireless frame, a frame of a link type that nobody knows, and other traffic say nothing.
    for (link_type, frame) in
        [(105, before(&wireless(0x41, 0), &packet)), (77, packet.clone()), (101, ipv4(IpNumber::TCP, &packet))]
    {
        assert_eq!(items(pcap(link_type, &frame, true, false, frame.len())), []);
    }
}

#[test]
fn every_kind_of_file_is_read() {
    let frame = ethernet();
    let check = |octets: Vec<u8>, nanos: u32| {
        let found = only(octets);
        assert_eq!(found.seen.at, Duration::new(1_795_000_000, nanos));
        assert_eq!((&*found.seen.octets, found.seen.frame.number), (&*message(), 1));
    };
    for little in [false, true] {
        check(pcap(1, &frame, little, false, frame.len()), 7_000);
        check(pcap(1, &frame, little, true, frame.len()), 7);
        // One that says to have been shorter than it is.
        check(pcap(1, &frame, little, false, 3), 7_000);
        for compressed in [false, true] {
            let file = pcapng(&frame, little);
            let file = if compressed { gzip(&file) } else { file };
            let found: Vec<Message> = items(file)
                .into_iter()
                .map(|item| match item {
                    Item::Message(message) => message,
                    Item::Damage(damage) => panic!("{damage:?}"),
                })
                .collect();
            assert_eq!(found.len(), 4);
            assert!(found.iter().all(|one| *one.seen.octets == *message()));
            // Two interfaces, of which the second section has the third.
            assert_eq!(found.iter().map(|one| one.seen.link).collect::<Vec<_>>(), [0, 1, 1, 2]);
            assert_eq!(found[0].seen.at, Duration::new(1_795_000_000, 7_000));
        }
    }
    let error = Capture::read(Cursor::new(b"title = \"x\"".to_vec()), Path::new("plan.toml")).err().unwrap();
    assert!(error.why.starts_with("it is no capture"), "{error}");
    assert!(Capture::read(Cursor::new(Vec::new()), Path::new("empty")).is_err());
}

fn gzip(octets: &[u8]) -> Vec<u8> {
    let mut encoder = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::fast());
    encoder.write_all(octets).unwrap();
    encoder.finish().unwrap()
}

/// Two sections with three interfaces in all; an enhanced block with a comment, an old one, a simple one, and an enhanced one.
fn pcapng(frame: &[u8], little: bool) -> Vec<u8> {
    let word = |number: u32| if little { number.to_le_bytes() } else { number.to_be_bytes() };
    let half = |number: u16| if little { number.to_le_bytes() } else { number.to_be_bytes() };
    let block = |kind: u32, body: &[u8]| {
        let padding = vec![0; body.len().wrapping_neg() % 4];
        let length = word((12 + body.len() + padding.len()) as u32);
        [&word(kind)[..], &length, body, &padding, &length].concat()
    };
    let section = block(0x0a0d_0d0a, &[&word(0x1a2b_3c4d)[..], &half(1), &half(0), &[0xff; 8]].concat());
    let interface = block(1, &[&half(1)[..], &half(0), &word(0)].concat());
    let micros = 1_795_000_000u64 * 1_000_000 + 7;
    let (high, low) = ((micros >> 32) as u32, micros as u32);
    let length = word(frame.len() as u32);
    let padded = [frame, &vec![0; frame.len().wrapping_neg() % 4]].concat();
    let comment = [&half(1)[..], &half(6), b"\x1b[2J\0\x7f\0\0", &half(0), &half(0)].concat();
    let enhanced = |id: u32, options: &[u8]| {
        block(6, &[&word(id)[..], &word(high), &word(low), &length, &length, &padded, options].concat())
    };
    let old = block(2, &[&half(1)[..], &half(0), &word(high), &word(low), &length, &length, &padded].concat());
    let simple = block(3, &[&length[..], &padded].concat());
    // A block of a kind that nobody knows is passed over; the simple one is of the first interface of its section.
    let unknown = block(0x0bad, b"whatever");
    [
        &section[..],
        &interface,
        &interface,
        &enhanced(0, &comment),
        &old,
        &unknown,
        &enhanced(1, &[]),
        &section,
        &interface,
        &simple,
    ]
    .concat()
}

/// Several captures are one in the order of time, and each message says which file its frame is in.
#[test]
fn captures_are_merged_in_the_order_of_time() {
    let frame = ethernet();
    let record = |second: u32| {
        let mut record = pcap(1, &frame, true, false, frame.len())[24..].to_vec();
        record[..4].copy_from_slice(&second.to_le_bytes());
        record
    };
    let header = pcap(1, &[], true, false, 0)[..24].to_vec();
    let file = |seconds: &[u32]| {
        let records: Vec<u8> = seconds.iter().flat_map(|second| record(*second)).collect();
        Capture::of_octets([header.clone(), records].concat(), Path::new("x")).unwrap()
    };
    let progress = std::sync::Arc::default();
    let captures = vec![file(&[1, 4, 5]).telling(&progress), file(&[2, 3, 9]).telling(&progress)];
    let mut seen = Vec::new();
    capture::checked(captures, oplex::codebook::Codebook::standard(), false, &mut |item| match item {
        Checked::Message(message, _) => {
            seen.push((message.seen.at.as_secs(), message.seen.frame.file, message.seen.frame.number));
        }
        other => panic!("{other:?}"),
    });
    assert_eq!(seen, [(1, 0, 1), (2, 1, 1), (3, 1, 2), (4, 0, 2), (5, 0, 3), (9, 1, 3)]);
    assert_eq!(progress.frames.load(std::sync::atomic::Ordering::Relaxed), 6);
}

/// IPv4 and IPv6 packets in fragments, in any order; one that never comes whole is forgotten.
#[test]
fn fragments_are_put_together() {
    let whole = packet();
    let piece = |from: usize, to: usize| {
        let mut octets = [&whole[..20], &whole[20 + from..20 + to]].concat();
        let length = octets.len() as u16;
        octets[2..4].copy_from_slice(&length.to_be_bytes());
        octets[4..6].copy_from_slice(&[0x64, 0x11]);
        let more = if 20 + to < whole.len() { 0x2000 } else { 0 };
        octets[6..8].copy_from_slice(&(more | (from / 8) as u16).to_be_bytes());
        octets
    };
    let (one, two, three) = (piece(0, 80), piece(80, 160), piece(160, whole.len() - 20));
    let header = pcap(101, &[], true, false, 0)[..24].to_vec();
    let record = |frame: &[u8]| pcap(101, frame, true, false, frame.len())[24..].to_vec();
    let file = [header.clone(), record(&three), record(&one), record(&two)].concat();
    let found = only(file);
    assert_eq!(
        (found.seen.octets.to_vec(), found.seen.frame.number, found.at, found.seen.checksum_wrong),
        (message(), 3, None, false)
    );
    let udp = udp_v6();
    let half = |offset: u16, more: u16, octets: &[u8]| {
        let header = [&[17, 0][..], &(offset | more).to_be_bytes(), &[0, 0, 0, 9]].concat();
        ipv6(44, &[&header[..], octets].concat())
    };
    let file = [header.clone(), record(&half(0, 1, &udp[..8])), record(&half(8, 0, &udp[8..]))].concat();
    assert_eq!(only(file).seen.octets.len(), 10);
    // A fragment that is never followed, and one that contradicts the one before.
    assert_eq!(items([header.clone(), record(&one)].concat()), []);
    assert_eq!(items([header, record(&three), record(&piece(160, 200)), record(&two)].concat()), []);
}

#[test]
fn what_is_cut_is_read_as_far_as_it_is_there() {
    let frame = ethernet();
    let cut = only(pcap(1, &frame[..200], true, false, frame.len()));
    assert_eq!((cut.seen.octets.len(), cut.seen.missing), (200 - 42, frame.len() - 200));
    assert_eq!(cut.seen.findings(oplex::codebook::Codebook::standard()), []);
}

#[test]
fn damage_is_reported_with_its_place_and_the_rest_is_read() {
    let frame = ethernet();
    let file = pcap(1, &frame, true, false, frame.len());
    let cut = [file.clone(), file[24..70].to_vec()].concat();
    match items(cut).as_slice() {
        [Item::Message(_), Item::Damage(damage)] => assert_eq!(damage.offset, file.len() as u64),
        other => panic!("{other:?}"),
    }
    // A frame that says to be larger than anything.
    let mut lying = [file.clone(), file[24..].to_vec()].concat();
    lying[file.len() + 8..file.len() + 12].copy_from_slice(&[0xff; 4]);
    assert!(matches!(items(lying).as_slice(), [Item::Message(_), Item::Damage(_)]));
    // A block of an interface that nobody described: what follows is read.
    let mut blocks = pcapng(&frame, true);
    let first = blocks.windows(4).position(|word| word == 6u32.to_le_bytes()).unwrap();
    blocks[first + 8] = 9;
    let found = items(blocks);
    assert!(matches!(&found[0], Item::Damage(damage) if damage.offset == first as u64), "{found:?}");
    assert_eq!(found.len(), 4);
    let half = gzip(&file);
    assert!(items(half[..half.len() - 12].to_vec()).iter().any(|item| matches!(item, Item::Damage(_))));
}

proptest! {
    /// Whatever a file holds, it is read to its end.
    #[test]
    fn nothing_a_file_holds_stops_the_reader(
        edits in proptest::collection::vec((any::<prop::sample::Index>(), any::<u8>()), 0..12), ng in any::<bool>(), little in any::<bool>(),
    ) {
        let frame = ethernet();
        let mut file = if ng { pcapng(&frame, little) } else { pcap(1, &frame, little, false, frame.len()) };
        for (at, octet) in edits {
            let at = at.index(file.len());
            file[at] = octet;
        }
        if let Ok(capture) = Capture::read(Cursor::new(file), Path::new("x")) {
            prop_assert!(capture.count() < 20);
        }
    }
}

/// An interface for each link that a capture is of: what is written on one is read back as of one link.
#[test]
fn interfaces_are_links() {
    let place = tempfile::tempdir().unwrap();
    let path = place.path().join("seen.pcapng");
    let frame = ethernet();
    let at = |second: u64, interface: u32| (Duration::from_secs(second), interface, frame.as_slice());
    capture::write_timed(&path, &["control-room", "domes"], [at(1, 0), at(2, 1), at(3, 0)].into_iter(), false).unwrap();
    let octets = std::fs::read(&path).unwrap();
    assert!(octets.windows(12).any(|octets| octets == b"control-room"));
    let messages = Capture::open(&path).unwrap().map(|item| match item {
        Item::Message(message) => message,
        Item::Damage(damage) => panic!("{damage:?}"),
    });
    let links: Vec<u32> = messages.map(|message| message.seen.link).collect();
    assert_eq!(links.len(), 3);
    assert!(links[0] == links[2] && links[0] != links[1], "{links:?}");
    // Nothing is written over a file that is there.
    assert!(capture::write_timed(&path, &[""], std::iter::empty(), false).is_err());
}
