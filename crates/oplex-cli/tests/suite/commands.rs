//! What each command prints on the demo data.

use oplex::packet::Message as _;
use snapbox::{file, str};

use crate::oplex;

#[test]
fn lookup_shows_one_option_whole() {
    oplex(&["lookup", "v4:121"]).assert().code(0).stdout_eq(file!["snapshots/lookup.txt"]);
    oplex(&["lookup", "gateway"]).assert().code(0).stdout_eq(file!["snapshots/lookup-gateway.txt"]);
    oplex(&["lookup", "classless-static-route", "--format", "json"])
        .assert()
        .code(0)
        .stdout_eq(file!["snapshots/lookup.json"]);
}

/// What a layout calls by a name is spelled out, and so are the rules that are about this option alone.
#[test]
fn lookup_spells_out_named_values_and_rules() {
    for (option, snapshot) in [
        ("v4:53", file!["snapshots/lookup-enumeration.txt"]),
        ("v4:123", file!["snapshots/lookup-bits.txt"]),
        ("v4:108", file!["snapshots/lookup-rules.txt"]),
    ] {
        oplex(&["lookup", option]).assert().code(0).stdout_eq(snapshot);
    }
    oplex(&["lookup", "v4:46"]).assert().code(0).stdout_eq(str![[r#"
v4:46  netbios-node-type  NETBIOS Node Type
How the client resolves NetBIOS names.

  layout   u8 of { b-node = 1, p-node = 2, m-node = 4, h-node = 8 }
  length   1 octet
  sent by  servers
  status   current
  defined  RFC 2132, section 8.7
  example  h-node
  octets   08

"#]]);
}

#[test]
fn lookup_lists_what_a_word_or_an_rfc_may_mean_and_offers_the_nearest() {
    oplex(&["lookup", "phone"]).assert().code(0).stdout_eq(file!["snapshots/lookup-phone.txt"]);
    oplex(&["lookup", "rfc", "3442"]).assert().code(0).stdout_eq(file!["snapshots/lookup-rfc.txt"]);
    oplex(&["lookup", "gatway"]).assert().code(2).stdout_eq(str![]).stderr_eq(str![[r#"
oplex: no match for `gatway`; the nearest is v4:gateway

"#]]);
}

#[test]
fn encode_prints_the_octets_and_nothing_else() {
    let routes = "10.64.8.0/21 via 10.64.4.1, 0.0.0.0/0 via 10.64.4.1";
    for (form, octets) in [
        ("hex", "150a40080a400401000a400401\n"),
        ("colon", "15:0a:40:08:0a:40:04:01:00:0a:40:04:01\n"),
        ("spaced", "15 0a 40 08 0a 40 04 01 00 0a 40 04 01\n"),
        ("base64", "FQpACApABAEACkAEAQ==\n"),
        ("escaped", "\\x15\\x0a@\\x08\\x0a@\\x04\\x01\\x00\\x0a@\\x04\\x01\n"),
    ] {
        oplex(&["encode", "v4:121", routes, "--as", form])
            .assert()
            .code(0)
            .stdout_eq(snapbox::Data::text(octets).raw())
            .stderr_eq("");
    }
    oplex(&["encode", "v4:121", routes, "--framed"]).assert().code(0).stdout_eq("790d150a40080a400401000a400401\n");
    oplex(&["encode", "v4:162/port", "853", "--framed"]).assert().code(0).stdout_eq("000300020355\n");
    oplex(&["encode", "v4:80", "true", "--framed"]).assert().code(0).stdout_eq("5000\n");
    oplex(&["encode", "v4:6", "-", "--json"]).stdin("[\"10.64.0.53\"]\n").assert().code(0).stdout_eq("0a400035\n");
    oplex(&["encode", "v4:6", "10.64.0.53", "--format", "json"]).assert().code(0).stdout_eq(str![[r#"
{"format":"oplex-encode/1","option":"v4:6","name":"domain-server","length":4,"hex":"0a400035","value":["10.64.0.53"],"findings":[]}

"#]]);
}

#[test]
fn encode_splits_what_is_longer_than_one_option() {
    let servers = vec!["10.64.0.53"; 70].join(",");
    let framed = format!("06ff{}06{:02x}{}\n", &"0a400035".repeat(70)[..510], 25, &"0a400035".repeat(70)[510..]);
    oplex(&["encode", "v4:6", &servers, "--framed"]).assert().code(0).stdout_eq(framed);
}

#[test]
fn encode_uses_a_vendors_codebook() {
    oplex(&[
        "encode",
        "--codebook",
        "demo/codebooks/tern-intercoms.toml",
        "--as",
        "escaped",
        "tern:settings",
        "{ SERVER = 10.64.0.70, PORT = 5061 }",
    ])
    .assert()
    .code(0)
    .stdout_eq("SERVER=10.64.0.70,PORT=5061\n");
}

#[test]
fn decode_explains_every_octet_in_any_grouping() {
    for octets in [
        "150a40080a400401000a400401",
        "15:0a:40:08:0a:40:04:01:00:0a:40:04:01",
        "0x15,0x0a,0x40,0x08 0x0a400401000a400401",
    ] {
        oplex(&["decode", "v4:121", octets]).assert().code(0).stdout_eq(file!["snapshots/decode.txt"]);
    }
    oplex(&["decode", "v4:121", "-"])
        .stdin("15 0a40 08 0a400401\n000a400401\n")
        .assert()
        .code(0)
        .stdout_eq(file!["snapshots/decode.txt"]);
    oplex(&["decode", "v4:121", "150a40080a400401", "--format", "json"])
        .assert()
        .code(0)
        .stdout_eq(file!["snapshots/decode.json"]);
    oplex(&["decode", "v4:82", "0105706f7274370206", "02005e0053fe"])
        .assert()
        .code(0)
        .stdout_eq(file!["snapshots/decode-nested.txt"]);
}

#[test]
fn decode_shows_what_could_be_read_and_where_it_broke() {
    oplex(&["decode", "v4:121", "150a40080a400402000a4004"])
        .assert()
        .code(1)
        .stdout_eq(file!["snapshots/decode-broken.txt"]);
    oplex(&["decode", "v4:121", "150a40080a400402000a4004", "--format", "json"])
        .assert()
        .code(1)
        .stdout_eq(file!["snapshots/decode-broken.json"]);
}

#[test]
fn check_says_nothing_is_wrong_with_the_demo() {
    oplex(&["check", "demo/plan.toml"]).assert().code(0).stdout_eq(file!["snapshots/check-demo.txt"]);
    let json = document(&["check", "demo/plan.toml", "--format", "json"], 0);
    assert_eq!((json["format"].as_str(), json["findings"].as_array().map(Vec::len)), (Some("oplex-check/1"), Some(0)));
    assert_eq!(json["networks"][0]["v4"]["left"].as_str(), Some("445"));
}

#[test]
fn check_finds_what_is_wrong_with_the_broken_demo_line_by_line() {
    oplex(&["check", "demo/broken.toml"]).assert().code(1).stdout_eq(file!["snapshots/check.txt"]);
    let json = document(&["check", "demo/broken.toml", "--format", "json"], 1);
    let source = std::fs::read_to_string(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/broken.toml")).unwrap();
    let lines: Vec<&str> = source.lines().collect();
    let mut rules = std::collections::BTreeSet::new();
    let mut marked = String::new();
    for finding in json["findings"].as_array().unwrap() {
        let number = |key: &str| finding[key].as_u64().unwrap() as usize;
        let line: Vec<char> = lines[number("line") - 1].chars().collect();
        let end = finding["end"]["column"].as_u64().unwrap() as usize;
        let characters: String = line[number("column") - 1..end - 1].iter().collect();
        let rule = finding["rule"].as_str().unwrap().to_owned();
        marked.push_str(&format!("{}:{} {rule} {characters}\n", number("line"), number("column")));
        rules.insert(rule);
    }
    assert!(rules.len() >= 8, "{rules:?}");
    snapbox::assert_data_eq!(marked, file!["snapshots/check-marked.txt"]);
}

#[test]
fn rules_are_listed_and_explained() {
    oplex(&["rules"]).assert().code(0).stdout_eq(file!["snapshots/rules.txt"]);
    oplex(&["rules", "sent-address-leasable"]).assert().code(0).stdout_eq(file!["snapshots/rule.txt"]);
    oplex(&["rules", "no-ruter"]).assert().code(2).stderr_eq(str![[r#"
oplex: unknown rule `no-ruter`; did you mean `no-router`?
To list all rules: oplex rules

"#]]);
}

#[test]
fn the_tour_tells_the_whole_story() {
    oplex(&["tour"]).assert().code(0).stdout_eq(file!["snapshots/tour.txt"]);
}

#[test]
fn check_reads_a_codebook_by_its_own_rules() {
    oplex(&["check", "demo/codebooks/tern-intercoms.toml"]).assert().code(0).stdout_eq(str![[r#"
demo/codebooks/tern-intercoms.toml: nothing wrong (a codebook of 3 options)

"#]]);
    let place = tempfile::tempdir().unwrap();
    let book = place.path().join("book.toml");
    let text =
        "book = \"hill\"\ncarriers = [\"v4:43\"]\n\n[[option]]\ncode = 255\nname = \"servers\"\nlayout = \"ipv4*\"\n";
    std::fs::write(&book, text).unwrap();
    oplex(&["check", book.to_str().unwrap()]).assert().code(1).stdout_eq(file!["snapshots/check-codebook.txt"]);
}

#[test]
fn decode_reads_by_a_layout_that_nobody_has_defined() {
    oplex(&["decode", "--layout", "{ level: u8 in 1..=9, servers: ipv4+ }", "05", "0a400035"])
        .assert()
        .code(0)
        .stdout_eq(file!["snapshots/decode-layout.txt"]);
    // The layout goes before that of the option.
    oplex(&["decode", "v4:250", "0102", "--layout", "u16"]).assert().code(0).stdout_eq(str![[r#"
258
v4:250 site-specific-250, read as u16, 2 octets, nothing wrong

   at  octets                   what they are
    0  01 02                    value  258

"#]]);
    oplex(&["decode", "--layout", "u8 in 1..=9", "0a", "--format", "json"]).assert().code(1).stdout_eq(str![[r#"
{"format":"oplex-decode/1","length":1,"hex":"0a","value":10,"findings":[{"severity":"error","message":"10 is out of range; it must be 1 to 9","octets":[0,1]}]}

"#]]);
    oplex(&["decode", "--layout", "{ a: ipv5 }", "00"]).assert().code(2).stderr_eq(str![[r#"
oplex: this is not a layout

    { a: ipv5 }
         ^
  unknown layout `ipv5`; did you mean `ipv4`?

"#]]);
    oplex(&["decode", "v4:3"]).assert().code(2).stderr_eq(str![[r#"
oplex: octets are missing: oplex decode OPTION OCTETS

"#]]);
}

#[test]
fn decode_reads_a_vendors_option_by_its_codebook() {
    let octets = "07:04:0a:40:00:5a:08:02:4e:4f:ff:00";
    oplex(&["decode", "v4:43", "--codebook", "demo/codebooks/gannet-radios.toml", octets])
        .assert()
        .code(0)
        .stdout_eq(file!["snapshots/decode-vendor.txt"]);
    oplex(&["decode", "v4:43", octets]).assert().code(0).stdout_eq(file!["snapshots/decode-opaque.txt"]);
    oplex(&["decode", "v4:125", "--codebook", "demo/codebooks/tarnfell-domes.toml", "00007ed9 05 0103 00b405"])
        .assert()
        .code(0)
        .stdout_eq(file!["snapshots/decode-enterprise.txt"]);
}

#[test]
fn decode_speaks_of_what_reads_well_and_is_wrong_all_the_same() {
    oplex(&["decode", "v4:6", "0a400035 0a400035"]).assert().code(0).stdout_eq(file!["snapshots/decode-twice.txt"]);
    oplex(&["decode", "v4:123", "8a7d00000089128000001f 05c800 00 01"])
        .assert()
        .stdout_eq(file!["snapshots/decode-bits.txt"]);
}

/// What `encode` takes is what `decode` shows, for the options that carry a vendor's.
#[test]
fn carriers_are_written_as_they_are_read() {
    for (book, option, value, octets) in [
        ("tern-intercoms", "v4:43", "{ ring = bell }", "010101"),
        (
            "tarnfell-domes",
            "v4:125",
            "{ enterprise = 32473, data = { park = { azimuth = 180, altitude = 5 } } }",
            "00007ed905010300b405",
        ),
        (
            "tarnfell-domes",
            "v6:17",
            "{ enterprise = 32473, options = { park = { azimuth = 180, altitude = 5 } } }",
            "00007ed90001000300b405",
        ),
        ("tarnfell-domes", "v4:124", "{ enterprise = 32473, data = [{ text = Dome }] }", "00007ed90504446f6d65"),
        ("tarnfell-domes", "v6:16", "{ enterprise = 32473, classes = [{ text = Dome }] }", "00007ed90004446f6d65"),
    ] {
        let book = format!("demo/codebooks/{book}.toml");
        oplex(&["encode", option, value, "--codebook", &book]).assert().code(0).stdout_eq(format!("{octets}\n"));
        let shown = oplex(&["decode", option, octets, "--codebook", &book]).assert().code(0);
        assert!(String::from_utf8_lossy(&shown.get_output().stdout).starts_with(&format!("{value}\n")), "{option}");
    }
    // Octets stay what they are, and are held to the vendor's rules all the same.
    let book = "demo/codebooks/tern-intercoms.toml";
    oplex(&["encode", "v4:43", "010109", "--codebook", book]).assert().code(1).stdout_eq("010109\n");
}

/// Codes that no codebook defines are shown as octets, with who assigns them.
#[test]
fn what_no_codebook_defines_is_shown_all_the_same() {
    for (option, says) in [
        ("v6:65000", "no codebook defines it; IANA assigns such codes to options of DHCPv6"),
        ("ra:14", "no codebook defines it; IANA assigns such types to options of Neighbor Discovery"),
        ("v4:230", "code 230 is for the site to define, and no codebook here does"),
        ("v4:84", "code 84 is removed; once the relay agent option in a draft"),
        ("v4:82/77", "no codebook defines it; the RFCs about v4:82 assign such codes"),
        ("v4:43/9", "no codebook defines it; the vendor does"),
    ] {
        let shown = oplex(&["decode", option, "0a0b0c0d0e0f"]).assert().code(0).get_output().stdout.clone();
        let shown = String::from_utf8(shown).unwrap();
        assert!(shown.starts_with("0a:0b:0c:0d:0e:0f\n") && shown.contains(&format!("note {says}")), "{shown}");
    }
    oplex(&["decode", "ra:256", "00"]).assert().code(2);
    oplex(&["decode", "v4:82/300", "00"]).assert().code(2);
    oplex(&["lookup", "65000"]).assert().code(0).stdout_eq(str![[r#"
v6:65000  undefined-65000
No codebook defines it; IANA assigns such codes to options of DHCPv6.

  layout   bytes*
  length   0 octets or more
  sent by  not known
  status   not in any codebook
  defined  RFC 8415, section 24

"#]]);
}

#[test]
fn lookup_counts_what_it_knows() {
    oplex(&["lookup", "--count"]).assert().code(0).stdout_eq("418 options, 70 sub-options\n");
    oplex(&["lookup", "--count", "--format", "json"]).assert().code(0).stdout_eq(str![[r#"
{"format":"oplex-lookup/1","options":418,"sub_options":70}

"#]]);
    oplex(&["lookup", "tern", "--codebook", "demo/codebooks/tern-intercoms.toml"])
        .assert()
        .code(0)
        .stdout_eq(file!["snapshots/lookup-book.txt"]);
    oplex(&["lookup", "tern:settings", "--codebook", "demo/codebooks/tern-intercoms.toml"])
        .assert()
        .code(0)
        .stdout_eq(file!["snapshots/lookup-vendor.txt"]);
    oplex(&["lookup", "v4:33"]).assert().code(0).stdout_eq(file!["snapshots/lookup-obsolete.txt"]);
    oplex(&["lookup", "v4:82"]).assert().code(0).stdout_eq(file!["snapshots/lookup-relay.txt"]);
}

#[test]
fn every_command_has_its_help() {
    for command in [
        "lookup", "encode", "decode", "new", "check", "show", "diff", "rehearse", "publish", "history", "revert",
        "verify", "rules", "tour",
    ] {
        let help = oplex(&[command, "--help"]).assert().code(0).get_output().stdout.clone();
        let help = String::from_utf8(help).unwrap();
        assert!(help.contains(&format!("Usage: oplex {command}")), "{help}");
        assert!(help.lines().all(|line| line.len() <= 100), "{help}");
    }
}

#[test]
fn rules_are_given_to_programs_one_a_line() {
    let output = oplex(&["rules", "--format", "json"]).assert().code(0).get_output().stdout.clone();
    let lines: Vec<serde_json::Value> =
        String::from_utf8(output).unwrap().lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    assert!(lines.len() > 60);
    for rule in lines {
        for key in ["rule", "severity", "summary", "why", "about"] {
            assert!(rule[key].as_str().is_some_and(|text| !text.is_empty()), "{rule}");
        }
        assert!(rule["examples"].as_array().is_some_and(|examples| !examples.is_empty()), "{rule}");
    }
}

/// What comes out of a file or a packet never acts on the terminal it is shown on.
#[test]
fn control_characters_are_shown_not_obeyed() {
    let place = tempfile::tempdir().unwrap();
    let plan = place.path().join("plan.toml");
    std::fs::write(&plan, "title = \"\\u001b[31m\"\n[send.v4]\nhostname = \"\\u001b[31m\\u202e\"\n").unwrap();
    for args in [
        vec!["check", plan.to_str().unwrap()],
        vec!["decode", "v4:15", "1b5b33316d"],
        vec!["decode", "v4:43", "1b5b33316d"],
        vec!["lookup", "\u{1b}[31m"],
        vec!["encode", "v4:3", "\u{1b}[31m"],
    ] {
        let output = oplex(&args).assert().get_output().clone();
        let said = [output.stdout, output.stderr].concat();
        assert!(!said.contains(&0x1b) && !String::from_utf8_lossy(&said).contains('\u{202e}'), "{args:?}");
    }
}

/// The octets of a message of the demo, in hexadecimal.
fn demo_message(name: &str) -> String {
    let path = format!("demo/{name}.toml");
    let output = oplex(&["encode", "v4", &path]).assert().code(0).get_output().stdout.clone();
    String::from_utf8(output).unwrap().trim_end().to_owned()
}

#[test]
fn a_message_is_shown_option_by_option_with_its_room() {
    let (ack, request) = (demo_message("intercom-ack"), demo_message("intercom-request"));
    let book = "demo/codebooks/tern-intercoms.toml";
    let shown = oplex(&["decode", "v4", &ack, "--codebook", book, "--request", &request]).assert().code(0);
    shown.stdout_eq(file!["snapshots/decode-message.txt"]);
    oplex(&["decode", "v4", "-", "--codebook", book, "--request", &request])
        .stdin(hex(&ack))
        .assert()
        .code(0)
        .stdout_eq(file!["snapshots/decode-message.txt"]);
    oplex(&["decode", "v4", "-", "--format", "json"])
        .stdin(request)
        .assert()
        .code(0)
        .stdout_eq(file!["snapshots/decode-message.json"]);
}

fn hex(text: &str) -> Vec<u8> {
    oplex::octets::hex::parse(text).unwrap()
}

#[test]
fn what_is_wrong_with_a_message_is_shown_at_its_octets() {
    let message = demo_message("intercom-ack");
    let broken = message.replacen("0201", "0101", 1).replacen("03040a400601", "03030a4006010101", 1);
    oplex(&["decode", "v4", &broken]).assert().code(1).stdout_eq(file!["snapshots/decode-message-broken.txt"]);
    oplex(&["decode", "v4", &message[..200]]).assert().code(2).stderr_eq(str![[r#"
oplex: these 100 octets are no DHCPv4 message: its header alone has 236 (RFC 2131, section 2)

"#]]);
}

#[test]
fn a_message_written_down_becomes_octets() {
    let place = tempfile::tempdir().unwrap();
    let path = place.path().join("offer.toml");
    let offer = "type = \"offer\"\nyiaddr = \"10.64.4.20\"\nchaddr = \"02:00:5e:00:53:11\"\n[options]\n\
                 dhcp-server-id = \"10.64.0.67\"\naddress-time = \"8h\"\n";
    std::fs::write(&path, format!("{offer}bootfile-name = {:?}\nroot-path = {:?}\n", "b".repeat(200), "r".repeat(200)))
        .unwrap();
    let path = path.to_str().unwrap();
    oplex(&["encode", "v4", path, "--as", "colon"]).assert().code(1).stderr_eq(str![[r#"
no room v4:17 root-path (200 octets) is left out: no field has more than 127 octets left, and the client may not join parts (RFC 3396)

"#]]);
    let json = oplex(&["encode", "v4", path, "--format", "json"]).assert().code(1).get_output().stdout.clone();
    let json: serde_json::Value = serde_json::from_slice(&json).unwrap();
    assert_eq!(json["budget"]["left_out"][0]["option"], "v4:17");
    assert_eq!((json["budget"]["limit"].as_u64(), json["length"].as_u64()), (Some(548), Some(458)));
    let raw = oplex(&["encode", "v4", path, "--as", "raw"]).assert().code(1).get_output().stdout.clone();
    assert_eq!((raw.len(), &raw[..3]), (458, &[2, 1, 6][..]));
    std::fs::write(path, offer.replace("yiaddr", "yiadr")).unwrap();
    oplex(&["encode", "v4", path]).assert().code(2).stderr_eq(str![[r#"
oplex: [..]/offer.toml is not a message

error unknown key `yiadr` in a message  unknown-key
  ╭▸ [..]/offer.toml:2:1
  │
2 │ yiadr = "10.64.4.20"
  ╰╴━━━━━
  try yiaddr

"#]]);
}

#[test]
fn the_demos_message_is_what_its_plan_tells() {
    let (ack, rehearsed) = (hex(&demo_message("intercom-ack")), rehearse(&["--vendor-class", "Tern D2"]));
    let message = oplex::packet::v4::Message::read(&ack).unwrap();
    // The relay's information is the only thing the plan does not have.
    let told: Vec<(String, String)> = message
        .options()
        .filter(|option| ![53, 54, 61, 82].contains(&option.code()))
        .map(|option| (format!("v4:{}", option.code()), oplex::octets::hex::plain(&option.joined())))
        .collect();
    let mut planned: Vec<(String, String)> = rehearsed["v4"]["options"]
        .as_array()
        .unwrap()
        .iter()
        .map(|option| (option["option"].as_str().unwrap().to_owned(), option["hex"].as_str().unwrap().to_owned()))
        .collect();
    planned.sort();
    let mut told = told;
    told.sort();
    assert_eq!(told, planned);
}

/// The one document that a command writes.
fn document(args: &[&str], code: i32) -> serde_json::Value {
    let output = oplex(args).assert().code(code).get_output().stdout.clone();
    serde_json::from_slice(&output).unwrap()
}

#[test]
fn show_has_all_that_a_plan_says() {
    oplex(&["show", "demo/plan.toml"]).assert().code(0).stdout_eq(file!["snapshots/show.txt"]);
    oplex(&["show", "demo/plan.toml", "--network", "domes"])
        .assert()
        .code(0)
        .stdout_eq(file!["snapshots/show-domes.txt"]);
    oplex(&["show", "demo/plan.toml", "--network", "dome"]).assert().code(2).stderr_eq(
        "oplex: unknown network `dome`; the plan has control-room, intercoms, radios, domes, visitors, huts, mast\n",
    );
    oplex(&["show", "demo/plan.toml", "--network", "huts", "--format", "json"])
        .assert()
        .code(0)
        .stdout_eq(file!["snapshots/show-huts.json"]);
    oplex(&["show", "demo/broken.toml"])
        .assert()
        .code(1)
        .stdout_eq("the plan has [..] errors; run oplex check. [..]\n...\n");
}

/// Every document says its format and its version.
#[test]
fn documents_say_what_they_are() {
    for (args, format, code) in [
        (&["lookup", "v4:6"][..], "oplex-lookup/1", 0),
        (&["lookup", "--count"], "oplex-lookup/1", 0),
        (&["encode", "v4:6", "10.64.0.53"], "oplex-encode/1", 0),
        (&["decode", "v4:6", "0a400035"], "oplex-decode/1", 0),
        (&["rules", "pools-overlap"], "oplex-rule/1", 0),
        (&["check", "demo/plan.toml"], "oplex-check/1", 0),
        (&["show", "demo/plan.toml"], "oplex-plan/1", 0),
        (&["diff", "demo/plan.toml", "demo/plan.toml"], "oplex-diff/1", 0),
        (&["rehearse", "demo/plan.toml", "--network", "mast", "--mac", "02:00:5e:00:53:41"], "oplex-rehearsal/1", 0),
        (&["publish", "demo/broken.toml", "--store", "nowhere"], "oplex-check/1", 1),
    ] {
        assert_eq!(document(&[args, &["--format", "json"]].concat(), code)["format"], format, "{args:?}");
    }
    let page = include_str!("../../../../docs/json.md");
    for format in [
        "lookup",
        "encode",
        "decode",
        "message",
        "rule",
        "check",
        "plan",
        "diff",
        "rehearsal",
        "explanation",
        "why-not",
        "history",
        "revert",
        "written",
        "verify",
        "sent",
    ] {
        assert!(page.contains(&format!("`oplex-{format}/1`")), "{format}");
    }
    assert!(page.contains("`oplex-publish/2`"));
}

/// Where one option comes from, and why a client is in no fleet, as programs get it.
#[test]
fn explanations_are_documents_too() {
    let dome = |more: &[&str]| {
        let client = ["rehearse", "demo/plan.toml", "--network", "domes", "--mac", "02:00:5e:00:53:33"];
        document(&[&client, more, &["--format", "json"]].concat(), 0)
    };
    let file = dome(&["--arch", "x64-uefi", "--explain", "bootfile-name"]);
    let layers = file["layers"].as_array().unwrap();
    assert_eq!((&file["format"], &file["state"]), (&"oplex-explanation/1".into(), &"sent".into()));
    assert_eq!((&file["value"], layers.len()), (&layers[0]["value"], 2));
    assert_eq!((&layers[1]["layer"], &layers[1]["from"]["file"]), (&"fleet boot".into(), &"demo/plan.toml".into()));
    for (more, state) in [
        (&["--explain", "subnet-mask"][..], "derived"),
        (&["--explain", "domain-search"], "not-sent"),
        (&["--wants", "1", "--explain", "router"], "not-requested"),
    ] {
        assert_eq!(dome(more)["state"], state, "{more:?}");
    }
    let why = dome(&["--why-not", "intercoms"]);
    assert_eq!((&why["format"], &why["families"][0]["belongs"]), (&"oplex-why-not/1".into(), &false.into()));
    assert_eq!(why["families"][0]["unfit"][0]["wanted"], "vendor-class is Tern *");
}

/// What an intercom on its own network is sent, as programs get it.
fn rehearse(more: &[&str]) -> serde_json::Value {
    let client =
        ["rehearse", "demo/plan.toml", "--network", "intercoms", "--mac", "02:00:5e:00:53:61", "--format", "json"];
    let output = oplex(&[&client, more].concat()).assert().code(0).get_output().stdout.clone();
    serde_json::from_slice(&output).unwrap()
}

#[test]
fn a_rehearsal_says_what_a_client_gets_and_why() {
    let rehearsal =
        |more: &[&str]| oplex(&[&["rehearse", "demo/plan.toml", "--mac", "02:00:5e:00:53:33"], more].concat());
    rehearsal(&["--network", "domes", "--arch", "x64-uefi", "--wants", "1,3,router,12,67,125"])
        .assert()
        .code(0)
        .stdout_eq(file!["snapshots/rehearse.txt"]);
    rehearsal(&["--network", "domes", "--arch", "7", "--explain", "bootfile-name"]).assert().code(0).stdout_eq(str![[
        r#"
v4:67 bootfile-name is domes/third.efi
  reservation dome-3 sends domes/third.efi  demo/plan.toml:159
  fleet boot would send domes/controller.efi  demo/plan.toml:149

"#
    ]]);
    rehearsal(&["--network", "visitors", "--explain", "ntp"]).assert().code(0).stdout_eq(str![[r#"
v4:42 ntp-servers is not sent
  network visitors withholds it

"#]]);
    rehearsal(&["--network", "visitors", "--explain", "subnet-mask"]).assert().code(0);
    // Every address of the fleet's pool is taken.
    rehearsal(&["--network", "control-room", "--vendor-class", "Tern D2", "--leased", "32"])
        .assert()
        .code(1)
        .stdout_eq(str![[r#"
no address on control-room: every address of its pool is leased
...
"#]]);
}

#[test]
fn a_rehearsal_for_programs_has_the_exchange() {
    let json = rehearse(&["--vendor-class", "Tern D2", "--wants", "43,3", "--leased", "3", "--client-id", "0102"]);
    let json = &json["v4"];
    let address = json["addresses"][0]["address"].as_str();
    assert_eq!((address, json["fleets"][0]["name"].as_str()), (Some("10.64.6.23"), Some("intercoms")));
    let types: Vec<&str> = json["exchange"].as_array().unwrap().iter().map(|at| at["type"].as_str().unwrap()).collect();
    assert_eq!(types, ["DHCPDISCOVER", "DHCPOFFER", "DHCPREQUEST", "DHCPACK"]);
    for sent in json["exchange"].as_array().unwrap() {
        oplex(&["decode", "v4", sent["hex"].as_str().unwrap()]).assert().code(0);
    }
    assert_eq!(json["options"][0]["option"], "v4:51");
    assert_eq!(json["options"][1]["from"]["layer"], "fleet intercoms");
    assert!(json["unrequested"].as_array().unwrap().contains(&"v4:6".into()));
}

#[test]
fn a_rehearsal_of_nobody_is_refused() {
    let refused = |more: &[&str], why: &str| {
        oplex(&[&["rehearse", "demo/plan.toml"], more].concat()).assert().code(2).stderr_eq(format!("oplex: {why}\n"));
    };
    let mac = ["--mac", "02:00:5e:00:53:33"];
    refused(
        &[&mac[..], &["--network", "visitor"]].concat(),
        "unknown network `visitor`; the plan has control-room, intercoms, radios, domes, visitors, huts, mast",
    );
    refused(&["--mac", "02:00", "--network", "domes"], "`02:00` is not a MAC such as 02:00:5e:00:53:11");
    let on = [&mac[..], &["--network", "domes"]].concat();
    refused(&[&on[..], &["--arch", "x64-uefy"]].concat(), "unknown architecture `x64-uefy`; did you mean `x64-uefi`?");
    refused(&[&on[..], &["--wants", "ruter"]].concat(), "unknown option `v4:ruter`; did you mean `v4:router`?");
    refused(
        &[&on[..], &["--circuit-id", "0xz"]].concat(),
        "`0xz` is not hexadecimal: 'z' at character 1 is not a hexadecimal digit (0-9, a-f)",
    );
}

#[test]
fn a_new_plan_is_one_that_nothing_is_wrong_with() {
    let place = tempfile::tempdir().unwrap();
    let path = place.path().join("plan.toml");
    let path = path.to_str().unwrap();
    for (network, subnet) in [("office", "10.64.0.0/24"), ("lab", "192.0.2.7/28"), ("campus", "10.0.0.0/8")] {
        let text =
            oplex(&["new", "--network", network, "--subnet", subnet]).assert().code(0).get_output().stdout.clone();
        std::fs::write(path, text).unwrap();
        let checked = document(&["check", path, "--format", "json"], 0);
        assert_eq!(checked["findings"].as_array().map(Vec::len), Some(0));
    }
    for family in ["--v6", "--dual"] {
        let text = oplex(&["new", family]).assert().code(0).get_output().stdout.clone();
        std::fs::write(path, text).unwrap();
        let checked = document(&["check", path, "--format", "json"], 0);
        assert_eq!(checked["findings"].as_array().map(Vec::len), Some(0), "{checked}");
    }
    oplex(&["new", "--v6", "--prefix", "2001:db8::/56"])
        .assert()
        .code(2)
        .stderr_eq("oplex: `2001:db8::/56` is not a prefix such as 2001:db8:64:4::/64\n");
    std::fs::remove_file(path).unwrap();
    oplex(&["new", path]).assert().code(0).stdout_eq(str![[r#"
[..]plan.toml: a starter plan for 10.64.0.0/24
[..]plan.schema.json: what editors complete it by
Next: oplex check [..]plan.toml

"#]]);
    assert!(std::fs::read_to_string(path).unwrap().starts_with("#:schema plan.schema.json\n"));
    let book = place.path().join("book.toml");
    let book = book.to_str().unwrap();
    oplex(&["new", "--codebook", book]).assert().code(0);
    oplex(&["check", book]).assert().code(0).stdout_eq("[..]book.toml: nothing wrong (a codebook of 5 options)\n");
    for (option, value, hex) in [
        ("server", "10.64.0.70", "0a400046"),
        ("tone", "chime", "02"),
        ("port", "{ keys = open, vlan = 64 }", "010040"),
    ] {
        let said = oplex(&["encode", &format!("kestrel:{option}"), value, "--codebook", book]).assert().code(0);
        said.stdout_eq(format!("{hex}\n"));
    }
    oplex(&["new", path])
        .assert()
        .code(2)
        .stderr_eq("oplex: [..]plan.toml: the file already exists; choose another name, or remove it\n");
    oplex(&["new", "--subnet", "10.64.0.0/30"])
        .assert()
        .code(2)
        .stderr_eq("oplex: `10.64.0.0/30` is not a subnet such as 10.64.4.0/24, from /8 to /28\n");
}

#[test]
fn a_difference_is_shown_by_whom_it_concerns() {
    let place = tempfile::tempdir().unwrap();
    let path = place.path().join("plan.toml");
    let path = path.to_str().unwrap();
    let new = oplex(&["new"]).assert().code(0).get_output().stdout.clone();
    let new = String::from_utf8(new).unwrap();
    std::fs::write(path, &new).unwrap();
    let old = format!("{path}.old");
    std::fs::write(
        &old,
        new.replace("12h", "2h").replace("# ntp-servers", "ntp-servers").replace("10.64.0.2\"", "10.64.0.9\""),
    )
    .unwrap();
    oplex(&["diff", &old, path]).assert().code(0).stdout_eq(str![[r#"
[..]plan.toml.old and [..]plan.toml: 2 networks, fleets or clients change

network office  223 addresses
  lease                       2h  →  12h
- ntp-servers                 10.64.0.1

02:00:5e:00:53:01 on office
  address                     10.64.0.9  →  10.64.0.2

"#]]);
    oplex(&["diff", path, path]).assert().code(0).stdout_eq("[..] send the same octets to every client\n");
    let same = document(&["diff", path, path, "--format", "json"], 0);
    assert_eq!((same["format"].as_str(), same["changed"].as_array().map(Vec::len)), (Some("oplex-diff/1"), Some(0)));
    let json = document(&["diff", &old, path, "--format", "json"], 0);
    let changed = json["changed"].as_array().unwrap();
    assert_eq!((changed.len(), changed[0]["changes"][1]["what"].as_str()), (2, Some("v4:42")));
    assert_eq!((changed[0]["addresses"].as_str(), changed[0]["is"].as_str()), (Some("223"), Some("changed")));
    std::fs::write(&old, "title = ").unwrap();
    oplex(&["diff", &old, path])
        .assert()
        .code(2)
        .stderr_eq("oplex: [..]plan.toml.old cannot be read as a plan; run oplex check for the reason\n");
}

/// For systems that show test results: a test for each rule and for each expectation, and errors as failures.
#[test]
fn check_says_what_holds_as_tests() {
    let whole = oplex(&["check", "demo/plan.toml", "--format", "junit"]).assert().code(0);
    let text = String::from_utf8(whole.get_output().stdout.clone()).unwrap();
    let held =
        "<testcase classname=\"expectations\" name=\"visitors learn nothing of the house\" file=\"demo/plan.toml\"";
    assert!(
        text.contains(held) && text.contains("<testcase classname=\"rules\" name=\"pool-outside-subnet\"/>"),
        "{text}"
    );
    assert!(!text.contains("<failure") && !text.contains("relay-information-misplaced"), "{text}");

    let place = snapbox::dir::DirRoot::mutable_temp().unwrap();
    let plan = place.path().unwrap().join("plan.toml");
    let text = "[send.v4]\ndomain-server = \"10.64.0.53\"\n[network.desk]\nsubnet = \"10.64.4.0/24\"\nsend.v4 = { router = \"10.64.4.1\" }\n\
                [[expect]]\ntitle = \"printers & <plotters>\"\nclient = { network = \"desk\", mac = \"02:00:5e:00:53:01\" }\nsent = { router = \"10.64.4.2\" }\n";
    std::fs::write(&plan, text).unwrap();
    oplex(&["check", plan.to_str().unwrap(), "--format", "junit"]).assert().code(1).stdout_eq(str![[r#"
...
    <testcase classname="rules" name="no-domain">
      <system-out>[..]plan.toml:3:10: note: no domain name is sent on desk
  try domain-name = &quot;…&quot; in [send.v4]
  see RFC 2132, section 3.17
</system-out>
    </testcase>
...
  <testsuite name="expectations" tests="1" failures="1">
    <testcase classname="expectations" name="printers &amp; &lt;plotters&gt;" file="[..]plan.toml" line="6">
      <failure message="router should be 10.64.4.2, but is 10.64.4.1" type="expectation-not-met">[..]plan.toml:9:19: error: router should be 10.64.4.2, but is 10.64.4.1
  [..]plan.toml:5:22: network desk sends it
</failure>
    </testcase>
  </testsuite>
</testsuites>

"#]]);
}

/// The frames of a rehearsal go into a file; what is wrong with that is said.
#[test]
fn rehearse_writes_a_capture() {
    let place = snapbox::dir::DirRoot::mutable_temp().unwrap();
    let path = place.path().unwrap().join("dome.pcapng");
    let rehearse =
        ["rehearse", "demo/plan.toml", "--network", "domes", "--mac", "02:00:5e:00:53:33", "--force", "--capture"];
    let frames = |more: &[&str]| {
        let run = oplex(&[&rehearse[..], &[path.to_str().unwrap()], more].concat()).assert().code(0);
        assert!(String::from_utf8_lossy(&run.get_output().stdout).contains("as frames in"));
        std::fs::read(&path).unwrap()
    };
    let (direct, relayed) = (frames(&[]), frames(&["--circuit-id", "port7"]));
    // From nobody to everybody; and from the relay, which is the network's router, to the server.
    let has = |capture: &[u8], addresses: [u8; 8]| capture.windows(8).any(|octets| octets == addresses);
    assert!(has(&direct, [0, 0, 0, 0, 255, 255, 255, 255]) && has(&direct, [10, 64, 0, 67, 10, 64, 8, 13]));
    assert!(has(&relayed, [10, 64, 8, 1, 10, 64, 0, 67]) && has(&relayed, [10, 64, 0, 67, 10, 64, 8, 1]));
    let lost = place.path().unwrap().join("none").join("dome.pcapng");
    let run = oplex(&[&rehearse[..], &[lost.to_str().unwrap()]].concat()).assert().code(2);
    assert!(String::from_utf8_lossy(&run.get_output().stderr).contains("dome.pcapng: no such file"));
}
