//! A stranger: a server that knows docs/releases.md and nothing of Oplex answers from what is published, octet for octet as
//! rehearsals do. Its modules use none of Oplex's code.

#![allow(clippy::unwrap_used, reason = "a test that cannot go on should stop")]

mod answer;
mod client;
mod content;
mod message;
mod schemas;

use std::path::Path;

use oplex::compiled::Compiled;
use oplex::family::Family;
use oplex::octets::Mac;
use oplex::plan::{ClientFacts, Loaded, Plan};
use oplex::release::compile;
use oplex_io::files::{self, Reach};
use oplex_io::store::{Entry, Prepared, Store};
use proptest::prelude::*;
use proptest::strategy::ValueTree as _;

use content::Content;

/// What is published of a plan, as the stranger reads it.
fn published(loaded: &Loaded) -> Content {
    assert!(loaded.plan.is_some() && loaded.findings.is_empty(), "{:?}", loaded.findings);
    let place = tempfile::tempdir().unwrap();
    let document = compile(loaded.plan.as_ref().unwrap(), &loaded.sources).unwrap();
    let prepared = Prepared::new(&document, &loaded.sources).unwrap();
    Store::new(place.path()).publish(&prepared, None, Entry::default()).unwrap();
    Content::latest(place.path())
}

/// Holds the stranger's replies against those of a rehearsal; says how many there were.
fn agree(compiled: &Compiled<'_>, content: &Content, facts: &ClientFacts) -> usize {
    let mut replies = 0;
    for family in Family::ALL {
        let Some(answer) = compiled.answer(family, facts) else { continue };
        let exchange = compiled.exchange(facts, &answer).unwrap();
        let network = &*answer.network.name;
        let theirs = if family == Family::V4 { client::Family::V4 } else { client::Family::V6 };
        // What has no room in the options field is the server's affair.
        if exchange.room.budget.as_ref().is_some_and(|budget| budget.overload != 0 || !budget.left_out.is_empty()) {
            continue;
        }
        for pair in exchange.messages.windows(2) {
            let [request, reply] = pair else { continue };
            let icmp = matches!(request.ends, oplex::answer::Ends::Icmp(_));
            if !request.from_client || reply.from_client || icmp {
                continue;
            }
            let given = message::reply(content, theirs, &request.octets, network, facts.leased.into());
            assert_eq!(
                data_encoding::HEXLOWER.encode(&given),
                data_encoding::HEXLOWER.encode(&reply.octets),
                "{} to {facts:?} on {network}",
                reply.name
            );
            replies += 1;
        }
    }
    replies
}

fn demo() -> Loaded {
    let top = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../demo/plan.toml");
    files::plan(&top, Reach::Folder).unwrap()
}

/// Every way in which a plan may say something to its clients.
fn rich() -> Loaded {
    let plan = r#"
title = "The pier"
codebooks = ["tern.toml", "kite.toml"]
server = "10.64.0.67"
lease = "6h"
fqdn = "*.tarnfell.example"
boot = { server = "10.64.0.80", host = "boot.tarnfell.example", file = "all.efi" }
[send.v4]
dns = ["10.64.0.53"]
domain-name = "tarnfell.example"
domain-search = ["tarnfell.example"]
sip-servers = { encoding = "addresses", servers = ["10.64.0.60"] }
"tern:settings" = { SERVER = "10.64.0.70", VLAN = 64 }
"tern:pair" = { rank = 1, name = "first", port = 5060 }
"kite:tune" = 3
ntp-servers = ["10.64.0.123"]
[send.v6]
dns-servers = ["2001:db8:64::53"]
"kite:tune" = 3
[network.pier]
subnet = ["10.64.9.0/24", "10.64.10.0/24"]
prefix = "2001:db8:64:9::/64"
pool = ["10.64.9.20-10.64.9.29", "10.64.10.20-10.64.10.29", "2001:db8:64:9::100-2001:db8:64:9::1ff"]
exclude = ["10.64.9.22-10.64.9.24", "2001:db8:64:9::100"]
delegate = "2001:db8:6400::/40 as /56"
preferred = "2h"
advertise = { managed = true }
amend.v4.dns = { last = ["10.64.9.53"] }
amend.v4.domain-search = { first = ["pier.tarnfell.example"] }
amend.v4.sip-servers = { encoding = "addresses", servers = ["10.64.9.60"] }
send.v4 = { router = ["10.64.9.1", "10.64.10.1"] }
[network.yard]
subnet = "10.64.11.0/24"
pool = "10.64.11.20-10.64.11.90"
renew = "1h"
withhold = ["ntp-servers", "boot.host"]
boot.file = "yard.efi"
fqdn = { name = "*.yard.tarnfell.example", updates = true }
send.v4 = { router = "10.64.11.1", domain-search = ["yard.tarnfell.example"] }
[fleet.terns]
match = { vendor-class = "Tern ?*" }
amend.v4."tern:settings" = { VLAN = 4, PORT = 5061 }
amend.v4."tern:pair" = { name = "second" }
[fleet.terns.on.pier]
pool = ["10.64.9.28-10.64.9.29"]
lease = "1h"
amend.v4."tern:settings" = { SERVER = "10.64.9.70", PORT = { remove = true } }
amend.v4.domain-search = { last = ["desk.tarnfell.example"] }
[fleet.named]
match = { any = [{ hostname = "lab-*" }, { user-class = ["one", "two"] }, { circuit-id = "port 7" }] }
send.v4 = { root-path = "/lab" }
send.v6 = { domain-list = ["lab.tarnfell.example"] }
amend.v4."tern:pair" = { rank = 7, port = 69 }
[fleet.booting]
match = { all = [{ arch = ["x64-uefi", "16"] }], none = [{ "v4:12" = "*7" }, { mac = "02:00:5e:00:53:30-02:00:5e:00:53:3f" }] }
boot = { server = "tftp.tarnfell.example" }
withhold = ["v4:66", "kite:tune", "client-fqdn"]
[fleet.others]
match = { enterprise = 32473, client-id = "01:*" }
send.v4 = { dns = ["10.64.0.99"], "kite:tune" = 9 }
[[reservation]]
network = "pier"
mac = "02:00:5e:00:53:11"
address = "10.64.9.25"
address-v6 = "2001:db8:64:9::25"
send.v4 = { hostname = "crane" }
fqdn = "crane.pier.tarnfell.example"
amend.v4.dns = { first = ["10.64.9.99"] }
[[reservation]]
network = "pier"
client-id = "01:aa"
address = "10.64.10.25"
delegated = "2001:db8:6400::/56"
[[reservation]]
network = "yard"
circuit-id = "port 9"
address = "10.64.11.9"
"#;
    let tern = r#"
book = "tern"
carriers = ["v4:43"]
[[option]]
code = 1
name = "settings"
layout = 'pairs("," "=") { SERVER: ipv4, VLAN: u16, PORT: u16 }'
reference = "none"
[[option]]
code = 2
name = "pair"
layout = "{ rank: u8, name: len8(text), port: u16 }"
reference = "none"
"#;
    let kite = "book = \"kite\"\nenterprise = 32473\ncarriers = [\"v4:125\", \"v6:17\"]\n[[option]]\ncode = 1\nname = \"tune\"\nlayout = \"u8\"\nreference = \"none\"\n";
    Plan::read("plan.toml", plan, &mut |name| Ok(if name == "tern.toml" { tern } else { kite }.to_owned()))
}

const DESCRIBED: [(&str, &[&str]); 8] = [
    ("vendor-class", &["Tern D2", "Tern ", "Gannet R1"]),
    ("hostname", &["lab-7", "crane", "lab-"]),
    ("user-class", &["one", "three"]),
    ("arch", &["x64-uefi", "x64-uefi-http", "7"]),
    ("client-id", &["01:aa", "01:02:00:5e:00:53:11", "ff"]),
    ("circuit-id", &["port 7", "port 9"]),
    ("enterprise", &["32473"]),
    ("fqdn", &["dome-3", "dome-3.elsewhere.example"]),
];

#[derive(Debug, Clone)]
struct Someone {
    network: usize,
    last: u8,
    described: Vec<usize>,
    wants: (bool, Vec<u16>),
    max_size: Option<u16>,
    leased: u32,
    flags: (bool, bool),
}

fn someone() -> impl Strategy<Value = Someone> {
    let codes = prop::sample::subsequence(
        vec![1u16, 2, 3, 6, 12, 15, 17, 42, 43, 51, 54, 66, 67, 108, 114, 119, 120, 121, 125, 138, 150],
        0..21,
    );
    (
        0usize..8,
        prop::sample::select(vec![0x11u8, 0x33, 0x41, 0x61, 0x77]),
        DESCRIBED.iter().map(|(_, texts)| 0..=texts.len()).collect::<Vec<_>>(),
        (any::<bool>(), codes.prop_shuffle()),
        prop::option::of(576u16..1500),
        0u32..6,
        any::<(bool, bool)>(),
    )
        .prop_map(|(network, last, described, wants, max_size, leased, flags)| Someone {
            network,
            last,
            described,
            wants,
            max_size,
            leased,
            flags,
        })
}

fn facts(plan: &Plan, one: &Someone) -> ClientFacts {
    let mut facts = ClientFacts {
        mac: Some(Mac([2, 0, 0x5e, 0, 0x53, one.last])),
        max_size: one.max_size,
        leased: one.leased,
        rapid: one.flags.0,
        delegation: one.flags.1,
        ..ClientFacts::on(one.network % plan.networks.len())
    };
    for ((key, texts), at) in DESCRIBED.iter().zip(&one.described) {
        if let Some(text) = texts.get(*at) {
            facts.describe(&plan.codebook, key, text).unwrap();
        }
    }
    if one.wants.0 {
        // A list of DHCPv4 has one code at least.
        facts.wants.v4 = Some(one.wants.1.clone()).filter(|codes| !codes.is_empty());
        facts.wants.v6 = Some(vec![17, 23, 24, 39]);
    }
    facts
}

/// Each of the rehearsed clients, and a thousand others.
#[test]
fn a_stranger_answers_as_rehearsals_do() {
    let mut runner = proptest::test_runner::TestRunner::deterministic();
    for loaded in [demo(), rich()] {
        let plan = loaded.plan.as_ref().unwrap();
        let (compiled, content) = (Compiled::of(plan), published(&loaded));
        let mut replies = 0;
        for expectation in &plan.expectations {
            replies += agree(&compiled, &content, &expectation.client);
        }
        for _ in 0..1000 {
            let one = someone().new_tree(&mut runner).unwrap().current();
            replies += agree(&compiled, &content, &facts(plan, &one));
        }
        assert!(replies > 2000, "{replies}");
    }
}

/// What is published of both plans is as the schemas say.
#[test]
fn what_is_published_is_as_described() {
    let mut described = schemas::Described::strictly();
    for loaded in [demo(), rich()] {
        let content = published(&loaded);
        described.holds_for(&content);
        schemas::spoilt(&mut described, &content);
    }
}
