//! What each command prints about IPv6: DHCPv6, router advertisements, and both sides of the demo plan.

use etherparse::{NetSlice, SlicedPacket, TransportSlice};
use pcap_file::pcapng::{Block, PcapNgReader};
use snapbox::{file, str};

use crate::oplex;

/// Every frame of a rehearsal by IPv6 adds up, goes where it should, and holds the octets that the page for programs shows.
#[test]
fn rehearsals_by_ipv6_are_captured_with_right_checksums() {
    let place = tempfile::tempdir().unwrap();
    let path = place.path().join("host.pcapng");
    let frames = |more: &[&str]| {
        let all = [
            "rehearse",
            "demo/plan.toml",
            "--mac",
            "02:00:5e:00:53:41",
            "--v6",
            "--format",
            "json",
            "--force",
            "--capture",
        ];
        let run = oplex(&[&all[..], &[path.to_str().unwrap()], more].concat()).assert().code(0);
        let json: serde_json::Value = serde_json::from_slice(&run.get_output().stdout).unwrap();
        let mut reader = PcapNgReader::new(std::fs::File::open(&path).unwrap()).unwrap();
        let mut frames = Vec::new();
        while let Some(block) = reader.next_block() {
            if let (Block::EnhancedPacket(packet), _) = block.unwrap() {
                frames.push(packet.data.to_vec());
            }
        }
        let sent = json["v6"]["exchange"].as_array().unwrap().iter();
        let sent: Vec<String> = sent.map(|one| one["hex"].as_str().unwrap().to_owned()).collect();
        (frames, sent)
    };
    for (more, ports, count) in [
        (&["--network", "mast"][..], [(546, 547), (547, 546)], 4),
        (&["--network", "domes"], [(546, 547), (547, 546)], 6),
        (&["--network", "domes", "--rapid"], [(546, 547), (547, 546)], 4),
        (&["--network", "mast", "--circuit-id", "port7"], [(547, 547), (547, 547)], 4),
    ] {
        let (frames, sent) = frames(more);
        assert_eq!((frames.len(), sent.len()), (count, count), "{more:?}");
        for (at, (frame, sent)) in frames.iter().zip(sent).enumerate() {
            let packet = SlicedPacket::from_ethernet(frame).unwrap();
            let Some(NetSlice::Ipv6(ip)) = &packet.net else { panic!("{packet:?}") };
            let (source, destination) = (ip.header().source(), ip.header().destination());
            let payload = match &packet.transport {
                Some(TransportSlice::Icmpv6(icmp)) => {
                    assert!(icmp.is_checksum_valid(source, destination) && ip.header().hop_limit() == 255 && at < 2);
                    icmp.slice()
                }
                Some(TransportSlice::Udp(udp)) => {
                    let right = udp.to_header().calc_checksum_ipv6(&ip.header().to_header(), udp.payload()).unwrap();
                    assert_eq!((udp.checksum(), (udp.source_port(), udp.destination_port())), (right, ports[at % 2]));
                    udp.payload()
                }
                other => panic!("{other:?}"),
            };
            assert_eq!(oplex::octets::hex::plain(payload), sent);
            // RFC 2464, section 7: what goes to many has a hardware address of many.
            let to_many = destination[0] == 0xff;
            assert_eq!(frame[..2] == [0x33, 0x33], to_many, "{more:?} {at}");
            assert_eq!(frame[6..12] == [2, 0, 0x5e, 0, 0x53, 0x41], at % 2 == 0 && (at == 0 || ports[0].0 == 546));
        }
    }
}

/// A message of DHCPv6, with what a relay carries; its octets in either form.
#[test]
fn messages_of_dhcpv6_are_written_and_read() {
    let hex = oplex(&["encode", "v6", "demo/mast-relayed.toml"]).assert().code(0);
    let hex = String::from_utf8(hex.get_output().stdout.clone()).unwrap();
    oplex(&["decode", "v6", hex.trim()]).assert().code(0).stdout_eq(file!["snapshots/decode-v6-relayed.txt"]);
    oplex(&["decode", "v6", "-", "--format", "json"])
        .stdin(&hex)
        .assert()
        .code(0)
        .stdout_eq(file!["snapshots/decode-v6-relayed.json"]);
    let raw = oplex(&["encode", "v6", "demo/visitor-reply.toml", "--as", "raw"]).assert().code(0);
    oplex(&["decode", "v6", "-"])
        .stdin(raw.get_output().stdout.clone())
        .assert()
        .code(0)
        .stdout_eq(file!["snapshots/decode-v6-reply.txt"]);
}

/// Lines of standard input are messages each, unless only together they are one; those of another protocol are said to be.
#[test]
fn lines_are_messages() {
    let [reply, ack] = [("v6", "visitor-reply"), ("v4", "intercom-ack")].map(|(protocol, name)| {
        let run = oplex(&["encode", protocol, &format!("demo/{name}.toml")]).assert().code(0);
        String::from_utf8(run.get_output().stdout.clone()).unwrap()
    });
    let lines = format!("010000010008 00020000\n\n{reply}{ack}zz\n");
    oplex(&["decode", "v6", "-"]).stdin(&lines).assert().code(1).stdout_eq(file!["snapshots/decode-lines.txt"]);
    let json = oplex(&["decode", "v6", "-", "--format", "json"]).stdin(&lines).assert().code(1);
    let json = String::from_utf8(json.get_output().stdout.clone()).unwrap();
    let frames: Vec<serde_json::Value> = json.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    let found: Vec<_> = frames.iter().map(|one| (one["frame"].as_u64().unwrap(), one.get("error").is_some())).collect();
    assert_eq!(found, [(1, false), (3, false), (4, true), (5, true)]);
    let folded = reply.trim().as_bytes().chunks(60).map(|part| [part, b"\n"].concat()).collect::<Vec<_>>().concat();
    let whole = oplex(&["decode", "v6", "-"]).stdin(folded).assert().code(0);
    assert!(whole.get_output().stdout.starts_with(b"Reply 0x006477"));
    oplex(&["decode", "v6", "-", "--request", reply.trim()]).stdin(&lines).assert().code(2);
    let other = oplex(&["decode", "ra", ack.trim()]).assert().code(2);
    assert_eq!(
        String::from_utf8_lossy(&other.get_output().stderr),
        "oplex: these octets are a DHCPv4 message; to read it: oplex decode v4 OCTETS\n"
    );
}

#[test]
fn what_is_wrong_with_a_message_of_dhcpv6_is_shown_at_its_octets() {
    oplex(&["decode", "v6", "01000001", "0008 0002 0000", "0003 0010 00000001"])
        .assert()
        .code(1)
        .stdout_eq(file!["snapshots/decode-v6-broken.txt"]);
    for (args, why) in [
        (&["decode", "v6", "0c00"][..], "these 2 octets are no DHCPv6 message: its header alone has 34"),
        (&["decode", "v6"], "octets are missing: oplex decode v6 OCTETS"),
        (&["decode", "v6", "0g"], "the octets are not hexadecimal"),
        (&["decode", "v6", "01000001", "--request", "00"], "this octet is no DHCPv6 message: its header alone has 4"),
    ] {
        let run = oplex(args).assert().code(2);
        let err = String::from_utf8_lossy(&run.get_output().stderr).into_owned();
        assert!(err.starts_with(&format!("oplex: {why}")), "{err}");
    }
}

/// Options of DHCPv6 say where they may stand, and are found by the names that people use for both families.
#[test]
fn lookup_shows_options_of_dhcpv6() {
    oplex(&["lookup", "v6:iaaddr"]).assert().code(0).stdout_eq(str![[r#"
v6:5  iaaddr  OPTION_IAADDR
One address in an identity association, with its lifetimes.

  layout   { address: ipv6 as any, preferred-lifetime: seconds, valid-lifetime: seconds, options: options(v6)* }
  length   24 octets or more
  sent by  clients and servers, automatically; cannot be sent from a plan
  status   current
  defined  RFC 8415, section 21.6
  stands   any number of times, in v6:3 ia-na, v6:4 ia-ta, v6:44 lq-query, v6:45 client-data
  rules    leased-address-invalid
  example  { address = 2001:db8:64:10::20, preferred-lifetime = 8h, valid-lifetime = 12h, options = {} }
  octets   20 01 0d b8 00 64 00 10 00 00 00 00 00 00 00 20 00 00 70 80 00 00 a8 c0

"#]]);
    let both = oplex(&["lookup", "captive"]).assert().code(0);
    let text = String::from_utf8_lossy(&both.get_output().stdout).into_owned();
    assert!(text.contains("v4:114") && text.contains("v6:103"), "{text}");
    oplex(&["encode", "v6:dns", "2001:db8:64::53"]).assert().code(0).stdout_eq("20010db8006400000000000000000053\n");
    oplex(&["encode", "v6:23", "2001:db8:64::53", "--framed"])
        .assert()
        .code(0)
        .stdout_eq("0017001020010db8006400000000000000000053\n");
    oplex(&["decode", "v6:23", "20010db80064"]).assert().code(1).stdout_eq(file!["snapshots/decode-v6-option.txt"]);
}

/// A router's advertisement, with its IPv6 header and without.
#[test]
fn router_advertisements_are_written_and_read() {
    let hex = oplex(&["encode", "ra", "demo/visitor-advertisement.toml"]).assert().code(0);
    let hex = String::from_utf8(hex.get_output().stdout.clone()).unwrap();
    oplex(&["decode", "ra", hex.trim()]).assert().code(0).stdout_eq(file!["snapshots/decode-ra.txt"]);
    oplex(&["decode", "ra", hex[80..].trim(), "--format", "json"])
        .assert()
        .code(0)
        .stdout_eq(file!["snapshots/decode-ra.json"]);
    oplex(&[
        "decode",
        "ra",
        "8600 0000 40c8 0000 00000000 00000000",
        "1903 0000 00000000 20010db8000000000000000000000053",
        "0500",
    ])
    .assert()
    .code(1)
    .stdout_eq(file!["snapshots/decode-ra-broken.txt"]);
    // Behind an IPv6 header, octets are counted from its first.
    let packet = "6000000000103afffe800000000000000000000000000001ff020000000000000000000000000001";
    let run = oplex(&["decode", "ra", &format!("{packet}8600000040100708 0000000000000000")]).assert().code(1);
    let text = String::from_utf8_lossy(&run.get_output().stdout).into_owned();
    assert!(text.contains("ra-preference-invalid\n  at octet 45: 10\n"), "{text}");
    for (args, why) in [
        (&["decode", "ra", "8600"][..], "these 2 octets are no router advertisement: its header alone has 16"),
        (&["decode", "ra"], "octets are missing: oplex decode ra OCTETS"),
        (&["decode", "ra", "8700000000000000"], "these octets begin with 87, so they are no router advertisement"),
    ] {
        let run = oplex(args).assert().code(2);
        let err = String::from_utf8_lossy(&run.get_output().stderr).into_owned();
        assert!(err.starts_with(&format!("oplex: {why}")), "{err}");
    }
}

/// IPv6 alone, by a network that has nothing else; both families in one page; and for programs.
#[test]
fn a_rehearsal_shows_what_happens_by_ipv6() {
    let sensor = ["rehearse", "demo/plan.toml", "--network", "mast", "--mac", "02:00:5e:00:53:41"];
    oplex(&sensor).assert().code(0).stdout_eq(file!["snapshots/rehearse-v6.txt"]);
    let json = oplex(&[&sensor[..], &["--format", "json"]].concat()).assert().code(0);
    let json: serde_json::Value = serde_json::from_slice(&json.get_output().stdout).unwrap();
    let v6 = &json["v6"];
    assert_eq!((&json["network"], &v6["mode"]), (&"mast".into(), &"stateless".into()));
    let by = |key: &str, what: &str| -> Vec<String> {
        v6[key].as_array().unwrap().iter().map(|one| one[what].as_str().unwrap_or("-").to_owned()).collect()
    };
    assert_eq!(by("addresses", "by"), ["link-local", "eui-64", "stable-private"]);
    assert_eq!(by("addresses", "address"), ["fe80::5eff:fe00:5341", "2001:db8:64:40:0:5eff:fe00:5341", "-"]);
    assert_eq!(by("advertised", "option"), ["ra:3", "ra:25", "ra:31", "ra:5"]);
    assert_eq!(by("options", "option"), ["v6:23", "v6:24", "v6:32", "v6:56"]);
    assert_eq!(by("exchange", "type"), ["Router Solicitation", "Router Advertisement", "Information-request", "Reply"]);
    assert_eq!(v6["options"][3]["from"]["line"], v6["options"][2]["from"]["line"].as_u64().unwrap() - 1);
    assert_eq!(v6["budget"]["limit"], 1232);

    let dome = ["rehearse", "demo/plan.toml", "--network", "domes", "--mac", "02:00:5e:00:53:33", "--arch", "x64-uefi"];
    oplex(&dome).assert().code(0).stdout_eq(file!["snapshots/rehearse-both.txt"]);
    let one = |flag: &str| {
        let run = oplex(&[&dome[..], &[flag]].concat()).assert().code(0);
        String::from_utf8(run.get_output().stdout.clone()).unwrap()
    };
    let (v4, v6) = (one("--v4"), one("--v6"));
    assert!(
        v4.starts_with("10.64.8.13 on domes for 2d") && !v4.contains("DHCPv6") && !v4.contains("By DHCPv4"),
        "{v4}"
    );
    assert!(v6.starts_with("2001:db8:64:8::13 on domes for 2d") && !v6.contains("DHCPOFFER"), "{v6}");
}

#[test]
fn a_rehearsal_by_ipv6_explains_and_refuses() {
    let mast = ["rehearse", "demo/plan.toml", "--network", "mast"];
    let with = |more: &[&str]| oplex(&[&mast[..], more].concat());
    with(&["--duid", "00:02:00:00:7e:d9:07", "--explain", "dns-servers"]).assert().code(0).stdout_eq(str![[r#"
v6:23 dns-servers is 2001:db8:64::53, 2001:db8:64::54
  everyone sends 2001:db8:64::53, 2001:db8:64::54  demo/plan.toml:20

"#]]);
    let unrequested = with(&["--mac", "02:00:5e:00:53:41", "--wants", "v6:56", "--explain", "v6:23"]).assert().code(0);
    let text = String::from_utf8_lossy(&unrequested.get_output().stdout).into_owned();
    assert!(
        text.starts_with("v6:23 dns-servers is 2001:db8:64::53, 2001:db8:64::54, but the client does not request it"),
        "{text}"
    );
    let page = with(&["--mac", "02:00:5e:00:53:41", "--wants", "v6:56", "--delegation", "--rapid"]).assert().code(0);
    let text = String::from_utf8_lossy(&page.get_output().stdout).into_owned();
    assert!(text.contains("not requested, so not sent: dns-servers, domain-list, information-refresh-time"), "{text}");
    assert!(text.contains("no delegated prefix") && text.contains("Solicit") && !text.contains("Advertise "), "{text}");
    for (args, why) in [
        (&["--duid", "00:01"][..], "oplex: `00:01` has 2 octets; a DUID has 3 to 130"),
        (&[], "error: the following required arguments were not provided"),
        (&["--mac", "02:00:5e:00:53:41", "--v4", "--v6"], "error: the argument '--v4' cannot be used with '--v6'"),
    ] {
        let run = with(args).assert().code(2);
        let err = String::from_utf8_lossy(&run.get_output().stderr).into_owned();
        assert!(err.starts_with(why), "{err}");
    }
    let run = oplex(&["rehearse", "demo/plan.toml", "--network", "radios", "--mac", "02:00:5e:00:53:41", "--v6"])
        .assert()
        .code(2);
    assert!(String::from_utf8_lossy(&run.get_output().stderr).contains("the network radios has no prefix"));
}

/// Hosts without an address, and what the plan says in vain, end with 1 and say why.
#[test]
fn a_rehearsal_by_ipv6_says_what_falls_short() {
    let place = tempfile::tempdir().unwrap();
    let plan = place.path().join("plan.toml");
    let run = |advertise: &str, pool: &str| {
        let text = format!(
            "[network.desk]\nprefix = \"2001:db8:64:4::/64\"\n{pool}{advertise}\nsend.v6 = {{ dns-servers = \"2001:db8:64::53\" }}\n"
        );
        std::fs::write(&plan, text).unwrap();
        let path = plan.to_str().unwrap();
        let run = oplex(&["rehearse", path, "--network", "desk", "--mac", "02:00:5e:00:53:11"]).assert();
        (run.get_output().status.code(), String::from_utf8_lossy(&run.get_output().stdout).into_owned())
    };
    let (code, text) = run("advertise = {}", "");
    assert_eq!(code, Some(1), "{text}");
    assert!(
        text.contains("formed by the host; DHCPv6 is not used")
            && text.contains("neither M nor O is advertised: dns-servers"),
        "{text}"
    );
    assert!(text.contains("no name server: neither the advertisement nor DHCPv6 has one"), "{text}");
    let (code, text) = run("advertise = { managed = true }", "");
    assert_eq!(code, Some(1), "{text}");
    assert!(
        text.contains("no IPv6 address on desk: the network leases no IPv6 addresses, and no prefix is autonomous"),
        "{text}"
    );
    let (code, text) = run("", "pool = \"2001:db8:64:4::20\"\n");
    assert_eq!(code, Some(0), "{text}");
    assert!(text.contains("the plan has no `advertise`; assumed to use DHCPv6 for everything"), "{text}");
}

/// What changes by IPv6 is sent like everything else, and is part of a release.
#[test]
fn differences_by_ipv6_are_told_and_published() {
    let place = tempfile::tempdir().unwrap();
    let next = place.path().join("next.toml");
    let text = std::fs::read_to_string("../../demo/plan.toml").unwrap();
    let text = text
        .replace("codebooks/", "../../demo/codebooks/")
        .replace("\"reservations.csv\"", "\"../../demo/reservations.csv\"");
    let here = std::env::current_dir().unwrap().join("../../demo");
    let text = text.replace("../../demo", here.to_str().unwrap());
    let text = text
        .replace("information-refresh-time = \"12h\"", "information-refresh-time = \"1d\"")
        .replace("search = [\"visitors.tarnfell.example\"]", "search = [\"tarnfell.example\"]")
        .replace("2001:db8:64:8::13", "2001:db8:64:8::14")
        .replace("advertise = { other = true, name-servers", "advertise = { managed = true, name-servers");
    std::fs::write(&next, text).unwrap();
    let run = oplex(&["diff", "demo/plan.toml", next.to_str().unwrap(), "--trust-paths"]).assert();
    let said = String::from_utf8_lossy(&run.get_output().stdout).into_owned();
    for line in [
        "information-refresh-time    12h  →  1d",
        "domains = [visitors.tarnfell.example] }  →  { lifetime = 30m, domains = [tarnfell.example] }",
        "advertise                   other, router for 30m, every 10m, from fe80::1, hop limit 64  →  managed,",
        "address-v6                  2001:db8:64:8::13  →  2001:db8:64:8::14",
    ] {
        assert!(said.contains(line), "{line}\n{said}");
    }
    assert_eq!(said.matches("\nnetwork ").count(), 2, "{said}");
    let store = place.path().join("releases");
    oplex(&["publish", "demo/plan.toml", "--store", store.to_str().unwrap()]).assert().code(0);
    let parts = std::fs::read_dir(store.join("parts")).unwrap();
    let release: String = parts.map(|part| std::fs::read_to_string(part.unwrap().path()).unwrap()).collect();
    for part in
        ["2001:db8:64:40::/64", "\"ra:25\"", "\"v6:56\"", "\"address_v6\"", "2001:db8:64:8::20-2001:db8:64:8::7f"]
    {
        assert!(release.contains(part), "{part}");
    }
}

/// What is written down wrongly on purpose is written all the same; what cannot be read makes no message.
#[test]
fn advertisements_written_down_wrongly_are_refused() {
    let place = tempfile::tempdir().unwrap();
    let path = place.path().join("ra.toml");
    let encode = |text: &str, code: i32| {
        std::fs::write(&path, text).unwrap();
        let run = oplex(&["encode", "ra", path.to_str().unwrap()]).assert().code(code);
        let [out, err] = [&run.get_output().stdout, &run.get_output().stderr];
        (String::from_utf8(out.clone()).unwrap(), String::from_utf8_lossy(err).into_owned())
    };
    let (out, err) = encode("managed = true\nhop-limit = 64\nlifetime = 0\n", 0);
    // The checksum of a message without a packet is that between nobody and all nodes.
    assert_eq!((out.trim().len(), &out[8..], err.as_str()), (32, "408000000000000000000000\n", ""));
    let (out, err) = encode("managed = true\nsource = \"2001:db8::1\"\n", 1);
    assert!(out.starts_with("6000000000103aff20010db8"), "{out}");
    assert!(err.starts_with("error source address 2001:db8::1 is not link-local  ra-source-not-link-local"), "{err}");
    let (out, err) = encode("managed = true\noptions = { mtu = { mtu = \"big\" } }\n", 2);
    assert_eq!(out, "");
    assert!(err.contains("is not a message") && err.contains("`big` is not a whole number"), "{err}");
    let missing = place.path().join("none.toml");
    let run = oplex(&["encode", "ra", missing.to_str().unwrap()]).assert().code(2);
    assert!(String::from_utf8_lossy(&run.get_output().stderr).contains("no such file"));
}
