//! Captures: what is written is read back, frame by frame, with right checksums.

#![allow(clippy::unwrap_used, reason = "a test that cannot go on should stop")]

use std::time::{Duration, SystemTime};

use etherparse::{NetSlice, SlicedPacket, TransportSlice};
use oplex::packet::Composer;
use oplex::packet::ra::{self, Ends};
use oplex_io::capture::{self, RELAY, SERVER};
use pcap_file::pcapng::{Block, PcapNgReader};

#[test]
fn frames_come_back_with_their_times_and_checksums() {
    let end = |mac, address: &str| (mac, address.parse().unwrap());
    let (payload, long) = ([1, 2, 3, 4, 5], vec![7; 1400]);
    let frames: Vec<Vec<u8>> = [
        capture::frame(end(RELAY, "0.0.0.0:68"), end([0xff; 6], "255.255.255.255:67"), &payload),
        capture::frame(end(SERVER, "10.64.0.67:67"), end(RELAY, "10.64.4.1:67"), &long),
        capture::frame(end(SERVER, "[2001:db8:64::67]:547"), end(RELAY, "[fe80::1]:546"), &payload),
    ]
    .into_iter()
    .map(Option::unwrap)
    .collect();
    // Nothing travels from one family to the other, or in a datagram that is too long.
    assert_eq!(capture::frame(end(SERVER, "10.64.0.67:67"), end(RELAY, "[fe80::1]:546"), &payload), None);
    assert_eq!(capture::frame(end(SERVER, "10.64.0.67:67"), end(RELAY, "10.64.4.1:67"), &[0; 65_508]), None);

    let place = tempfile::tempdir().unwrap();
    let path = place.path().join("exchange.pcapng");
    let start = SystemTime::UNIX_EPOCH + Duration::from_millis(1_795_000_000_123);
    capture::write(&path, start, &frames, false).unwrap();
    let mut reader = PcapNgReader::new(std::fs::File::open(&path).unwrap()).unwrap();
    let mut seen = Vec::new();
    while let Some(block) = reader.next_block() {
        if let (Block::EnhancedPacket(packet), _) = block.unwrap() {
            let at = Duration::from_millis(1_795_000_000_123 + seen.len() as u64);
            assert_eq!((packet.timestamp, packet.original_len as usize), (at, packet.data.len()));
            seen.push(packet.data.into_owned());
        }
    }
    assert_eq!(seen, frames);
    for (frame, message) in frames.iter().zip([&payload[..], &long, &payload]) {
        let packet = SlicedPacket::from_ethernet(frame).unwrap();
        let Some(TransportSlice::Udp(udp)) = &packet.transport else { panic!("{packet:?}") };
        assert_eq!(udp.payload(), message);
        let expected = match packet.net.as_ref().unwrap() {
            NetSlice::Ipv4(ip) => {
                assert_eq!(ip.header().header_checksum(), ip.header().to_header().calc_header_checksum());
                udp.to_header().calc_checksum_ipv4(&ip.header().to_header(), message)
            }
            NetSlice::Ipv6(ip) => udp.to_header().calc_checksum_ipv6(&ip.header().to_header(), message),
            NetSlice::Arp(_) => panic!("{packet:?}"),
        };
        assert_eq!(udp.checksum(), expected.unwrap());
    }

    // Neighbor Discovery travels with the hop limit 255, and hosts find the checksum right (RFC 4861, section 6.1.2).
    let ends = Ends { source: "fe80::1".parse().unwrap(), destination: "ff02::1".parse().unwrap() };
    let draft = ra::Draft { header: ra::Header::Solicitation, ends, options: &[(1, &SERVER)] };
    let message = Composer::default().compose(&draft).unwrap().to_vec();
    let group = capture::multicast(ends.destination).unwrap();
    assert_eq!((group, capture::multicast(ends.source)), ([0x33, 0x33, 0, 0, 0, 1], None));
    let frame = capture::frame_icmpv6((SERVER, ends.source), (group, ends.destination), &message).unwrap();
    let packet = SlicedPacket::from_ethernet(&frame).unwrap();
    let (Some(NetSlice::Ipv6(ip)), Some(TransportSlice::Icmpv6(icmp))) = (&packet.net, &packet.transport) else {
        panic!("{packet:?}")
    };
    assert_eq!((ip.header().hop_limit(), icmp.slice()), (255, &message[..]));
    assert!(icmp.is_checksum_valid(ip.header().source(), ip.header().destination()));
    assert_eq!(capture::frame_icmpv6((SERVER, ends.source), (group, ends.destination), &[0; 65_536]), None);

    let nowhere = place.path().join("none").join("exchange.pcapng");
    assert!(
        capture::write(&nowhere, start, &frames, false)
            .unwrap_err()
            .to_string()
            .ends_with("exchange.pcapng: no such file")
    );
}

/// No file is lost: what is there already stays, unless it is a capture that may be replaced.
#[test]
fn a_file_that_is_there_already_is_not_overwritten() {
    let place = tempfile::tempdir().unwrap();
    let path = place.path().join("exchange.pcapng");
    let write = |path: &std::path::Path, replace: bool| {
        capture::write(path, SystemTime::UNIX_EPOCH, &[vec![0; 60]], replace).map_err(|error| error.to_string())
    };
    write(&path, false).unwrap();
    assert!(
        write(&path, false)
            .unwrap_err()
            .ends_with("the file already exists; choose another name, or --force to replace a capture")
    );
    write(&path, true).unwrap();
    let plan = place.path().join("plan.toml");
    std::fs::write(&plan, "title = \"x\"").unwrap();
    assert!(write(&plan, true).unwrap_err().ends_with("the file is no capture, and is not replaced"));
    assert_eq!(std::fs::read_to_string(&plan).unwrap(), "title = \"x\"");
    #[cfg(unix)]
    {
        let link = place.path().join("link.pcapng");
        std::os::unix::fs::symlink(&plan, &link).unwrap();
        assert!(write(&link, true).unwrap_err().ends_with("there is something there that is no file"));
    }
    // Nothing is left beside them.
    assert_eq!(
        std::fs::read_dir(place.path())
            .unwrap()
            .filter(|one| one.as_ref().unwrap().file_name().to_string_lossy().starts_with('.'))
            .count(),
        0
    );
}
