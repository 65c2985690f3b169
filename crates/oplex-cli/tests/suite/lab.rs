//! `oplex lab run`: stand-in clients on the demo's networks.

use std::fs;

use snapbox::{file, str};

use crate::oplex;

#[test]
fn a_morning_at_the_observatory() {
    let place = tempfile::tempdir().unwrap();
    let capture = place.path().join("morning.pcapng");
    let capture = capture.to_str().unwrap();
    let run = ["lab", "run", "demo/plan.toml", "--hours", "6", "--capture", capture];
    oplex(&run).assert().code(0).stdout_eq(file!["snapshots/lab-run.txt"]);
    // What it wrote says the same to whoever reads it.
    let audit = oplex(&["audit", capture, "--plan", "demo/plan.toml"]).assert().code(0);
    let audit = String::from_utf8_lossy(&audit.get_output().stdout).into_owned();
    assert!(audit.starts_with("Nothing wrong in "), "{audit}");
    // Nothing is written over.
    oplex(&run).assert().code(2).stderr_eq(str![[r#"
oplex: [..]morning.pcapng: the file already exists; choose another name, or --force to replace a capture

"#]]);
}

#[test]
fn what_runs_out_is_an_error() {
    let place = tempfile::tempdir().unwrap();
    let clients = place.path().join("clients.toml");
    let text = "[[clients]]\nnetwork = \"control-room\"\nkind = \"phone\"\ncount = 34\nvendor-class = \"Tern D2\"\n";
    fs::write(&clients, text).unwrap();
    let clients = clients.to_str().unwrap();
    let run = ["lab", "run", "demo/plan.toml", "--hours", "1", "--clients", clients];
    oplex(&run).assert().code(1).stdout_eq(str![[r#"
34 clients for 1h: 2 without what they need, 1 pool runs out; the audit of their 224 messages finds 18 warnings

  tried   demo/plan.toml
  server  154 requests, 64 replies
  chance  seed 1

network       clients      have  leased extended released expired refused unanswered settings
control-room  phone    32 of 34      32        ·        ·       ·       ·         18        ·

most used      of  pool
       32      32  IPv4 of fleet intercoms on control-room  nothing left 18 times, first after 00:02:01
        0    4096  IPv6 of control-room

         times    frame  what is wrong
warning     18       65  no server answers the DHCPDISCOVER, sent 5 times  request-unanswered

"#]]);
    let of_one = [&run[..], &["--client", "02:00:00:00:00:01"]].concat();
    let said = oplex(&of_one).assert().code(1);
    let said = String::from_utf8_lossy(&said.get_output().stdout).into_owned();
    assert!(said.contains("\n02:00:00:00:00:01\n") && said.contains("is leased 10.64.5."), "{said}");
    let json = oplex(&[&of_one[..], &["--format", "json"]].concat()).assert().code(1);
    let json: serde_json::Value = serde_json::from_slice(&json.get_output().stdout).unwrap();
    assert_eq!((&json["format"], &json["groups"][0]["content"]), (&"oplex-lab/1".into(), &32.into()));
    assert_eq!((&json["pools"][0]["size"], &json["pools"][0]["empty"]["count"]), (&"32".into(), &18.into()));
    assert_eq!((&json["events"][0]["event"], &json["events"][0]["seconds"]), (&"leased".into(), &7200.into()));
    assert_eq!(json["audit"]["kinds"][0]["rule"], "request-unanswered");
}

#[test]
fn what_cannot_be_tried_is_said() {
    let place = tempfile::tempdir().unwrap();
    let clients = place.path().join("clients.toml");
    fs::write(&clients, "[[clients]]\nnetwork = \"control-rom\"\nkind = \"phone\"\n").unwrap();
    let clients = clients.to_str().unwrap();
    oplex(&["lab", "run", "demo/plan.toml", "--clients", clients]).assert().code(2).stderr_eq(str![[r#"
oplex: the clients of [..]clients.toml cannot be used

error unknown network `control-rom`  value-wrong-kind
  ╭▸ [..]clients.toml:2:11
  │
2 │ network = "control-rom"
  ╰╴          ━━━━━━━━━━━━━
  try control-room

"#]]);
    oplex(&["lab", "run", "demo/plan.toml", "--client", "02:00:5e:00:53:ff"]).assert().code(2).stderr_eq(str![[r#"
oplex: no client of the lab has the hardware address 02:00:5e:00:53:ff

"#]]);
    oplex(&["lab", "client", "--interface", "nowhere0"]).assert().code(2).stderr_eq(str![[r#"
oplex: this machine has no interface nowhere0

"#]]);
    oplex(&["lab", "serve", "demo/plan.toml", "--interface", "nowhere0", "--network", "radio"])
        .assert()
        .code(2)
        .stderr_eq(str![[r#"
oplex: the plan has no network `radio`; did you mean `radios`?

"#]]);
}

#[test]
fn load_stays_on_this_machine_and_loses_nothing() {
    let load = ["lab", "load", "demo/plan.toml", "--network", "control-room", "--clients", "300", "--format", "json"];
    let json = oplex(&load).assert().code(0);
    let json: serde_json::Value = serde_json::from_slice(&json.get_output().stdout).unwrap();
    assert_eq!(
        (&json["format"], &json["leased"], &json["replies"], &json["lost"]),
        (&"oplex-load/1".into(), &300.into(), &600.into(), &0.into())
    );
    let mast = ["lab", "load", "demo/plan.toml", "--network", "mast"];
    oplex(&mast).assert().code(2).stderr_eq(str![[r#"
oplex: mast leases no IPv4 addresses, which is what the clients of this load request

"#]]);
}

/// A release is tried as its plan was, and what cannot be tried is said before anything is done.
#[test]
fn releases_are_tried_as_their_plans_are() {
    let place = tempfile::tempdir().unwrap();
    let store = place.path().join("store");
    let store = store.to_str().unwrap();
    oplex(&["publish", "demo/plan.toml", "--store", store]).assert().code(0);
    let tried = |of: &[&str]| {
        let run = [&["lab", "run"], of, &["--hours", "2", "--each", "2", "--format", "json"]].concat();
        let said = oplex(&run).assert().code(0);
        let mut said: serde_json::Value = serde_json::from_slice(&said.get_output().stdout).unwrap();
        said.as_object_mut().unwrap().remove("plan");
        said
    };
    let plan = tried(&["demo/plan.toml"]);
    assert_eq!(tried(&["r1", "--store", store]), plan);
    assert_eq!(tried(&["latest", "--store", store]), plan);
    // Another seed is another morning, in which the same clients get what they need.
    let other = tried(&["demo/plan.toml", "--seed", "2"]);
    assert_ne!(other, plan);
    let content = |said: &serde_json::Value| {
        let groups = said["groups"].as_array().unwrap();
        groups.iter().map(|group| (group["name"].clone(), group["content"].clone())).collect::<Vec<_>>()
    };
    assert_eq!(content(&other), content(&plan));
    oplex(&["lab", "run", "r1"]).assert().code(2).stderr_eq(str![[r#"
oplex: r1 names a release; say which store has it with --store, or ./r1 for a file

"#]]);
    oplex(&["lab", "run", "r9", "--store", store]).assert().code(2).stderr_eq(str![[r#"
oplex: [..]store has no release 9; the latest is r1

"#]]);
    // A plan with errors is rehearsed and tried, but not served.
    let interface = ["--interface", "lo", "--network", "control-room"];
    oplex(&[&["lab", "serve", "demo/broken.toml"], &interface[..]].concat()).assert().code(2).stderr_eq(str![[r#"
oplex: demo/broken.toml has errors, and is not served; run oplex check

"#]]);
    let radios = ["lab", "serve", "demo/plan.toml", "--interface", "lo", "--network", "radios", "--advertise"];
    oplex(&radios).assert().code(2).stderr_eq(str![[r#"
oplex: --advertise: the plan does not say what the router of radios advertises

"#]]);
    let mast = ["lab", "client", "demo/plan.toml", "--interface", "lo", "--network", "mast", "--kind", "phone"];
    oplex(&mast).assert().code(2).stderr_eq(str![[r#"
oplex: a client of kind phone speaks no family that the network has

"#]]);
    oplex(&["lab", "client", "--interface", "lo", "--kind", "fone"]).assert().code(2).stderr_eq(str![[r#"
oplex: there is no kind `fone`; did you mean phone? There are desktop, phone, uefi-boot, bios-boot, router, stateless, sensor, careless, hostile

"#]]);
}

/// Lost packets cost time, and nothing is leased twice by them.
#[test]
fn lost_packets_are_borne() {
    let run = ["lab", "run", "demo/plan.toml", "--hours", "12", "--each", "4", "--lost", "200", "--format", "json"];
    let output = oplex(&run).assert();
    let output = output.get_output();
    let said: serde_json::Value = serde_json::from_slice(&output.stdout).unwrap();
    assert_eq!(said["twice"].as_array().map(Vec::len), Some(0));
    assert!(said["replies"].as_u64().unwrap() > 500, "{said}");
    // Whose reply got lost asks again, before the audit expects it.
    let kinds = said["audit"]["kinds"].as_array().unwrap();
    assert!(kinds.iter().any(|kind| kind["rule"] == "renewal-out-of-time"), "{kinds:?}");
    assert!(kinds.iter().all(|kind| kind["severity"] != "error"), "{kinds:?}");
    // The same number is the same chance.
    assert_eq!(oplex(&run).assert().get_output().stdout, output.stdout);
}
