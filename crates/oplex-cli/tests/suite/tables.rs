//! The tables of a plan: what `show` and `check --format json` say of layers, and of which narrower ones say otherwise.

use std::path::Path;

use serde_json::Value;

use crate::oplex;

const PLAN: &str = r#"title = "Skerry Light"
server = "10.64.0.67"
lease = "8h"
boot = { server = "10.64.0.80", file = "all.efi" }
[send.v4]
domain-server = ["10.64.0.53"]
domain-name = "skerry.example"
ntp-servers = ["10.64.0.123"]
[network.jetty]
subnet = "10.64.4.0/24"
pool = ["10.64.4.20-10.64.4.99"]
exclude = ["10.64.4.30-10.64.4.39"]
send.v4 = { router = "10.64.4.1", domain-server = ["10.64.4.5"] }
[network.tower]
subnet = "10.64.5.0/24"
prefix = "2001:db8:64:5::/64"
pool = ["10.64.5.20-10.64.5.29", "2001:db8:64:5::100-2001:db8:64:5::1ff"]
delegate = "2001:db8:6400::/40 as /56"
advertise = { managed = true, name-servers = ["2001:db8:64::53"] }
lease = "1h"
send.v4 = { router = "10.64.5.1" }
[fleet.lamps]
match.vendor-class = "Lamp *"
boot.file = "lamp.efi"
send.v4 = { ntp-servers = ["10.64.0.124"] }
[fleet.lamps.on.jetty]
pool = ["10.64.4.90-10.64.4.99"]
withhold = ["domain-server"]
[fleet.horns]
match.vendor-class = "Horn *"
amend.v4.ntp-servers = { last = ["10.64.0.125"] }
[fleet.new-lamps]
match.vendor-class = "Lamp 2*"
send.v4 = { ntp-servers = ["10.64.0.126"] }
[[reservation]]
network = "jetty"
mac = "02:00:5e:00:53:11"
address = "10.64.4.9"
name = "fog-horn"
send.v4 = { hostname = "fog-horn" }
"#;

fn document(args: &[&str]) -> Value {
    let output = oplex(args).assert().code(0).get_output().stdout.clone();
    serde_json::from_slice(&output).unwrap()
}

fn plan(place: &Path) -> String {
    let path = place.join("plan.toml");
    std::fs::write(&path, PLAN).unwrap();
    path.to_str().unwrap().to_owned()
}

/// What a layer says, each option with the narrower layers that say otherwise.
fn says(layer: &Value) -> Vec<String> {
    let text = |value: &Value| value.as_str().unwrap_or_default().to_owned();
    let options = layer["options"].as_array().unwrap().iter().map(|option| {
        let by: Vec<String> = option["overridden_by"].as_array().unwrap().iter().map(text).collect();
        format!("{} {} ({}): {}", text(&option["by"]), text(&option["name"]), text(&option["family"]), by.join(", "))
    });
    options.chain(layer["withheld"].as_array().unwrap().iter().map(|out| format!("withholds {}", text(out)))).collect()
}

#[test]
fn each_layer_names_the_narrower_ones_that_may_say_otherwise() {
    let place = tempfile::tempdir().unwrap();
    let shown = document(&["show", &plan(place.path()), "--format", "json"]);
    assert_eq!((&shown["format"], &shown["title"]), (&"oplex-plan/1".into(), &"Skerry Light".into()));
    assert_eq!(
        says(&shown["everyone"]),
        [
            "send domain-server (v4): network jetty, fleet lamps on jetty",
            "send domain-name (v4): ",
            "send ntp-servers (v4): fleet lamps, fleet horns, fleet new-lamps",
            "boot tftp-server-address (v4): ",
            "boot bootfile-name (v4): fleet lamps",
        ]
    );
    let [jetty, tower] = &shown["networks"].as_array().unwrap()[..] else { panic!("{shown}") };
    assert_eq!(says(jetty), ["send router (v4): ", "send domain-server (v4): fleet lamps on jetty"]);
    assert_eq!(says(tower), ["send router (v4): "]);
    let [lamps, horns, new] = &shown["fleets"].as_array().unwrap()[..] else { panic!("{shown}") };
    // No client is a lamp and a horn.
    assert_eq!(says(lamps), ["send ntp-servers (v4): fleet new-lamps", "boot bootfile-name (v4): "]);
    assert_eq!(says(&lamps["on"][0]), ["withholds v4:6"]);
    assert_eq!(says(horns), ["amend ntp-servers (v4): "]);
    assert_eq!(says(new), ["send ntp-servers (v4): "]);
    assert_eq!(says(&shown["reservations"][0]), ["send hostname (v4): "]);
}

#[test]
fn addresses_are_counted_without_what_is_excluded_or_a_fleets() {
    let place = tempfile::tempdir().unwrap();
    let path = plan(place.path());
    let shown = document(&["show", &path, "--format", "json"]);
    let side = |network: usize, family: &str| {
        let side = &shown["networks"][network][family];
        (side["pools"].as_array().unwrap().len(), side["left"].as_str().unwrap().to_owned(), side["fleets"].to_string())
    };
    // 80 addresses, of which 10 are excluded and 10 are the lamps'.
    assert_eq!(side(0, "v4"), (1, "60".to_owned(), r#"[["lamps","10"]]"#.to_owned()));
    assert_eq!(side(0, "v6"), (0, "0".to_owned(), "[]".to_owned()));
    assert_eq!(side(1, "v4"), (1, "10".to_owned(), "[]".to_owned()));
    assert_eq!(side(1, "v6"), (1, "256".to_owned(), "[]".to_owned()));
    // What `check` has of a plan is the same.
    let checked = document(&["check", &path, "--format", "json"]);
    assert_eq!(checked["networks"], shown["networks"]);
    assert_eq!(checked["fleets"], shown["fleets"]);
}

#[test]
fn one_network_is_shown_with_what_concerns_it() {
    let place = tempfile::tempdir().unwrap();
    let path = plan(place.path());
    let shown = document(&["show", &path, "--network", "tower", "--format", "json"]);
    assert_eq!(shown["networks"].as_array().unwrap().len(), 1);
    assert_eq!(shown["reservations"], Value::Array(Vec::new()));
    assert_eq!(says(&shown["everyone"])[0], "send domain-server (v4): ", "the jetty's is not the tower's");
    assert_eq!(shown["fleets"][0]["on"], Value::Array(Vec::new()));
    let text = oplex(&["show", &path, "--network", "tower"]).assert().code(0).get_output().stdout.clone();
    let text = String::from_utf8(text).unwrap();
    assert!(text.starts_with("network tower\n"), "{text}");
    for line in ["  tower    10.64.5.0/24", "2001:db8:64:5::/64", "delegates 2001:db8:6400::/40 as /56"] {
        assert!(text.contains(line), "{line}\n{text}");
    }
    assert!(!text.contains("jetty"), "{text}");
}

/// The same options on lines for a spreadsheet, and each distinct reply once in a capture.
#[test]
fn options_are_shown_to_spreadsheets_and_replies_to_packet_analysers() {
    let sheet = oplex(&["show", "demo/plan.toml", "--format", "csv"]).assert().code(0).get_output().stdout.clone();
    let sheet = String::from_utf8(sheet).unwrap();
    let lines: Vec<&str> = sheet.lines().collect();
    assert_eq!(
        lines[..3],
        [
            "network,layer,code,name,value,hex",
            ",everyone,v4:6,domain-server,\"10.64.0.53, 10.64.0.54\",0a4000350a400036",
            ",everyone,v4:15,domain-name,tarnfell.example,7461726e66656c6c2e6578616d706c65",
        ]
    );
    for line in [
        "control-room,fleet intercoms on control-room,tern:224,settings,changes { VLAN = 4 },",
        "visitors,network visitors,v4:42,,(withheld),",
        "mast,router of mast,ra:5,mtu,{ mtu = 1280 },000000000500",
    ] {
        assert!(lines.contains(&line), "{line}\n{sheet}");
    }
    let place = tempfile::tempdir().unwrap();
    let file = place.path().join("replies.pcapng");
    let typed = ["show", "demo/plan.toml", "--network", "mast", "--capture", file.to_str().unwrap()];
    oplex(&typed).assert().code(0).stdout_eq("[..]replies.pcapng: [..] frames, every distinct reply once\n");
    let octets = std::fs::read(&file).unwrap();
    let mut capture = pcap_file::pcapng::PcapNgReader::new(&octets[..]).unwrap();
    let mut frames = std::collections::BTreeSet::new();
    while let Some(block) = capture.next_block() {
        if let pcap_file::pcapng::Block::EnhancedPacket(packet) = block.unwrap().0 {
            assert!(frames.insert(packet.data.to_vec()), "each is there once");
        }
    }
    assert!(frames.len() > 1, "{}", frames.len());
    oplex(&typed).assert().code(2);
}

/// What the model of a DHCPv6 server holds, and what it does not.
#[test]
fn a_plan_is_shown_by_the_model_of_a_dhcpv6_server() {
    let output = oplex(&["show", "demo/plan.toml", "--format", "yang"]).assert().code(0).get_output().clone();
    let data: Value = serde_json::from_slice(&output.stdout).unwrap();
    let server = &data["ietf-dhcpv6-server:dhcpv6-server"];
    assert_eq!(server["server-duid"], "0003000100005e005367");
    let ranges = &server["allocation-ranges"];
    assert_eq!((&ranges["valid-lifetime"], ranges["allocation-range"].as_array().unwrap().len()), (&43_200.into(), 6));
    let huts = ranges["allocation-range"].as_array().unwrap().iter().find(|range| range["id"] == "huts").unwrap();
    let prefixes = &huts["prefix-pools"]["prefix-pool"][0];
    assert_eq!(
        (&prefixes["pool-prefix"], &prefixes["client-prefix-length"]),
        (&"2001:db8:6400::/40".into(), &56.into())
    );
    assert_eq!(
        prefixes["host-reservations"]["prefix-reservation"][0],
        serde_json::json!({
            "client-duid": "0003000102005e005361", "reserved-prefix": "2001:db8:6400:100::/56", "reserved-prefix-len": 56
        })
    );
    let vendors = &server["option-sets"]["option-set"][0]["vendor-specific-information-options"];
    assert_eq!(vendors["vendor-specific-information-option"][0]["enterprise-number"], 32_473);
    let left_out = String::from_utf8(output.stderr).unwrap();
    for line in [
        "not in this form: fleets intercoms, radios, boot",
        "not in this form: v6:23 dns-servers of everyone",
        "not in this form: the reservation of 02:00:5e:00:53:33 on domes, which is not by DUID",
    ] {
        assert!(left_out.lines().any(|seen| seen == line), "{line}\n{left_out}");
    }
    assert!(!left_out.contains("withheld"), "{left_out}");
}

/// The full names of clients stand where options do: with their layer and line, and with the narrower layers that say otherwise.
#[test]
fn full_names_are_shown_and_compared() {
    let place = tempfile::tempdir().unwrap();
    let write = |name: &str, text: &str| {
        let path = place.path().join(name);
        std::fs::write(&path, text).unwrap();
        path.display().to_string()
    };
    let desk = "[network.desk]\nsubnet = \"10.64.4.0/24\"\npool = \"10.64.4.20-10.64.4.90\"\nsend.v4 = { router = \"10.64.4.1\" }\n";
    let mast = "[network.mast]\nprefix = \"2001:db8:64:40::/64\"\nfqdn = { name = \"*.mast.tarnfell.example\", updates = true }\n";
    let before = write("before.toml", &format!("fqdn = \"*.tarnfell.example\"\n{desk}{mast}"));
    let after = write("after.toml", &format!("fqdn = \"*.fell.example\"\n{desk}withhold = [\"client-fqdn\"]\n{mast}"));
    let shown = document(&["show", &before, "--format", "json"]);
    let names = |layer: &Value| -> Vec<String> {
        let options = layer["options"].as_array().unwrap().iter().filter(|option| option["by"] == "fqdn");
        options
            .map(|option| {
                let (id, value, line) = (&option["option"], &option["value"], &option["from"]["line"]);
                let by = option["overridden_by"].as_array().unwrap();
                format!("{} {} {line} {by:?}", id.as_str().unwrap(), value.as_str().unwrap())
            })
            .collect()
    };
    assert_eq!(
        names(&shown["everyone"]),
        [
            "v4:81 *.tarnfell.example 1 [String(\"network mast\")]",
            "v6:39 *.tarnfell.example 1 [String(\"network mast\")]",
        ]
    );
    // A network without IPv4 has a name by DHCPv6 alone.
    assert_eq!(names(&shown["networks"][1]), ["v6:39 *.mast.tarnfell.example, with updates of DNS 8 []"]);
    let changed = document(&["diff", &before, &after, "--format", "json"]);
    let said: Vec<String> = changed["changed"]
        .as_array()
        .unwrap()
        .iter()
        .flat_map(|one| {
            let all = one["changes"].as_array().unwrap().iter();
            all.map(move |change| {
                format!("{}: {}", one["concerned"].as_str().unwrap(), change["what"].as_str().unwrap())
            })
        })
        .collect();
    // What everyone is sent is said of each network whose clients are sent something else.
    assert_eq!(said, ["network desk: fqdn"], "{changed}");
}
