//! What each command prints on the demo data.

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

#[test]
fn lookup_lists_what_a_word_or_an_rfc_may_mean_and_offers_the_nearest() {
    oplex(&["lookup", "phone"]).assert().code(0).stdout_eq(file!["snapshots/lookup-phone.txt"]);
    oplex(&["lookup", "rfc", "3442"]).assert().code(0).stdout_eq(file!["snapshots/lookup-rfc.txt"]);
    oplex(&["lookup", "gatway"]).assert().code(2).stdout_eq(str![]).stderr_eq(str![[r#"
oplex: nothing is known about `gatway`; the nearest is v4:gateway

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
    oplex(&["encode", "v4:6", "-", "--json"]).stdin("[\"10.64.0.53\"]\n").assert().code(0).stdout_eq("0a400035\n");
    oplex(&["encode", "v4:6", "10.64.0.53", "--format", "json"]).assert().code(0).stdout_eq(str![[r#"
{"option":"v4:6","name":"domain-server","length":4,"hex":"0a400035","value":["10.64.0.53"],"findings":[]}

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
    oplex(&["check", "demo/plan.toml"]).assert().code(0).stdout_eq(str![[r#"
demo/plan.toml: nothing wrong (4 networks, 18 options)

"#]]);
    oplex(&["check", "demo/plan.toml", "--format", "json"]).assert().code(0).stdout_eq("");
}

#[test]
fn check_finds_what_is_wrong_with_the_broken_demo_line_by_line() {
    oplex(&["check", "demo/broken.toml"]).assert().code(1).stdout_eq(file!["snapshots/check.txt"]);
    let json = oplex(&["check", "demo/broken.toml", "--format", "json"]).assert().code(1).get_output().stdout.clone();
    let source = std::fs::read_to_string(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/broken.toml")).unwrap();
    let lines: Vec<&str> = source.lines().collect();
    let mut rules = std::collections::BTreeSet::new();
    let mut marked = String::new();
    for finding in
        String::from_utf8(json).unwrap().lines().map(|line| serde_json::from_str::<serde_json::Value>(line).unwrap())
    {
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
    oplex(&["rules", "told-address-is-leasable"]).assert().code(0).stdout_eq(file!["snapshots/rule.txt"]);
    oplex(&["rules", "no-ruter"]).assert().code(2).stderr_eq(str![[r#"
oplex: no rule is named `no-ruter`; did you mean `no-router`?
All of them: oplex rules

"#]]);
}

#[test]
fn publish_numbers_and_seals_and_refuses_what_has_errors() {
    let place = tempfile::tempdir().unwrap();
    let store = place.path().join("releases");
    let publish = |plan| oplex(&["publish", plan, "--store", store.to_str().unwrap()]).assert();
    publish("demo/broken.toml").code(1);
    assert!(!store.exists());
    publish("demo/plan.toml").code(0).stdout_eq(str![[r#"
Release 1 of Tarn Fell Observatory
  file   [..]release-000001.json
  seal   sha256:[..]
  holds  control-room (10 options), intercoms (11 options), domes (11 options), visitors (8 options)

"#]]);
    publish("demo/plan.toml").code(0).stdout_eq(str![[r#"
Release 2 of Tarn Fell Observatory
  file     [..]release-000002.json
  seal     sha256:[..]
  holds    control-room (10 options), intercoms (11 options), domes (11 options), visitors (8 options)
  same as  release 1: the plan comes to the same octets

"#]]);
    let release = oplex_io::store::Store::new(&store).load(1).unwrap();
    assert_eq!(release.seal, oplex_io::store::seal(&release.content));
    let path = store.join("release-000001.json");
    let changed = std::fs::read_to_string(&path).unwrap().replace("0a400401", "0a400402");
    std::fs::write(&path, changed).unwrap();
    let error = oplex_io::store::Store::new(&store).load(1).unwrap_err();
    assert!(error.to_string().contains("the seal is broken"), "{error}");
}

#[test]
fn publishers_at_the_same_moment_get_different_numbers() {
    let place = tempfile::tempdir().unwrap();
    let store = place.path().to_str().unwrap();
    let children: Vec<_> = (0..8)
        .map(|_| {
            let top = concat!(env!("CARGO_MANIFEST_DIR"), "/../..");
            let mut command = std::process::Command::new(snapbox::cmd::cargo_bin!("oplex"));
            command.args(["publish", "demo/plan.toml", "--store", store]).current_dir(top);
            command.stdout(std::process::Stdio::null()).spawn().unwrap()
        })
        .collect();
    for mut child in children {
        assert!(child.wait().unwrap().success());
    }
    let store = oplex_io::store::Store::new(place.path());
    assert_eq!(store.numbers().unwrap(), (1..=8).collect::<Vec<u32>>());
    assert!((1..=8).all(|number| store.load(number).is_ok()));
    assert_eq!(std::fs::read_dir(place.path()).unwrap().count(), 8);
}

#[test]
fn the_tour_tells_the_whole_story() {
    oplex(&["tour"]).assert().code(0).stdout_eq(file!["snapshots/tour.txt"]);
}
