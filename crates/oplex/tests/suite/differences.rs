//! What changes for some client is seen by a comparison of two plans: each key that a plan can have is changed by itself.

use oplex::answer::Played;
use oplex::compiled::Compiled;
use oplex::family::Family;
use oplex::plan::{ClientFacts, Loaded, Plan};
use oplex::release::{compare, compile};
use proptest::prelude::*;

/// What may stand at one place of a plan: alternatives, of which the empty one leaves the key out.
type Place = &'static [&'static str];

/// The places of a plan in their order; what has no alternative frames the others.
const PLACES: &[Place] = &[
    &["server = \"10.64.0.67\"", "server = \"10.64.0.68\""],
    &["server-v6 = \"2001:db8:64::67\"", "server-v6 = \"2001:db8:64::68\""],
    &["server-duid = \"00:03:00:01:02:00:5e:00:53:67\"", "server-duid = \"00:03:00:01:02:00:5e:00:53:68\""],
    &["", "lease = \"4h\"", "lease = \"6h\""],
    &["", "renew = \"1h\"", "renew = \"90m\""],
    &["", "rebind = \"2h\"", "rebind = \"3h\""],
    &["", "preferred = \"2h\"", "preferred = \"100m\""],
    &["", "boot = { server = \"10.64.0.80\" }", "boot = { server = \"10.64.0.81\", host = \"boot.tarnfell.example\" }"],
    &["[send.v4]"],
    &[
        "domain-server = [\"10.64.0.53\"]",
        "domain-server = [\"10.64.0.54\"]",
        "domain-server = [\"10.64.0.53\", \"10.64.0.54\"]",
    ],
    &["", "ntp-servers = [\"10.64.0.123\"]", "ntp-servers = [\"10.64.0.124\"]"],
    &["", "domain-search = [\"tarnfell.example\"]"],
    &["[send.v6]"],
    &["dns-servers = [\"2001:db8:64::53\"]", "dns-servers = [\"2001:db8:64::54\"]"],
    &["", "vendor-opts = [{ enterprise = 32473, options = {} }]"],
    &["[network.pier]\nsubnet = \"10.64.9.0/24\"\nprefix = \"2001:db8:64:9::/64\""],
    &[
        "pool = [\"10.64.9.20-10.64.9.90\", \"2001:db8:64:9::100-2001:db8:64:9::1ff\"]",
        "pool = [\"10.64.9.30-10.64.9.90\", \"2001:db8:64:9::100-2001:db8:64:9::1ff\"]",
        "pool = [\"10.64.9.20-10.64.9.90\", \"2001:db8:64:9::180-2001:db8:64:9::1ff\"]",
    ],
    &["", "exclude = [\"10.64.9.20\"]", "exclude = [\"2001:db8:64:9::100\"]"],
    &["", "delegate = \"2001:db8:6400::/40 as /56\"", "delegate = \"2001:db8:6500::/40 as /56\""],
    &["", "lease = \"5h\"", "lease = \"8h\""],
    &["", "renew = \"2h\""],
    &["", "withhold = [\"ntp-servers\"]", "withhold = [\"boot.server\"]"],
    &["", "boot.file = \"pier.efi\"", "boot.file = \"yard.efi\"", "boot.url = \"http://boot.tarnfell.example/pier\""],
    &[
        "",
        "amend.v4.domain-server = { last = [\"10.64.0.55\"] }",
        "amend.v4.domain-server = { first = [\"10.64.0.55\"] }",
    ],
    &[
        "advertise = { managed = true }",
        "advertise = { other = true }",
        "advertise = { managed = true, lifetime = 0 }",
        "advertise = { managed = true, interval = \"5m\" }",
        "advertise = { managed = true, mtu = 1400 }",
        "advertise = { managed = true, valid = \"2h\", preferred = \"1h\" }",
        "advertise = { managed = true, autonomous = false }",
        "advertise = { managed = true, from = \"fe80::9\" }",
        "advertise = { managed = true, hop-limit = 32, preference = \"high\" }",
        "advertise = { managed = true, routes = [\"2001:db8:99::/48\"] }",
        "advertise = { managed = true, name-servers = [\"2001:db8:64::53\"], search = [\"tarnfell.example\"] }",
    ],
    &["send.v4 = { router = \"10.64.9.1\" }", "send.v4 = { router = \"10.64.9.2\" }"],
    &["[fleet.wide]"],
    &["match.vendor-class = \"Tern *\"", "match.vendor-class = \"Tern D*\"", "match.mac = \"02:00:5e:00:53:*\""],
    &["", "lease = \"1h\"", "lease = \"30m\""],
    &["", "send.v4 = { log-server = \"10.64.0.70\" }", "send.v6 = { sntp-servers = \"2001:db8:64::123\" }"],
    &["", "boot.file = \"tern.efi\""],
    &["", "on.pier.pool = [\"10.64.9.60-10.64.9.69\"]", "on.pier.pool = [\"10.64.9.70-10.64.9.79\"]"],
    &["[fleet.narrow]"],
    &["match.vendor-class = \"Tern D2\"", "match.hostname = \"lab-*\""],
    &["", "withhold = [\"domain-server\"]", "send.v4 = { log-server = \"10.64.0.71\" }"],
    &["", "preferred = \"30m\"", "renew = \"10m\""],
    &["[[reservation]]\nnetwork = \"pier\""],
    &["mac = \"02:00:5e:00:53:11\"", "client-id = \"0102005e005311\"", "duid = \"00:03:00:01:02:00:5e:00:53:12\""],
    &["address = \"10.64.9.9\"", "address = \"10.64.9.10\"", "address-v6 = \"2001:db8:64:9::9\""],
    &["", "delegated = \"2001:db8:6400:700::/56\""],
    &["", "send.v4 = { hostname = \"pier-1\" }", "send.v4 = { hostname = \"pier-2\" }"],
];

fn plan(chosen: &[usize]) -> Loaded {
    let lines: Vec<&str> = PLACES.iter().zip(chosen).map(|(place, at)| place[at % place.len()]).collect();
    let text = lines.join("\n");
    let loaded = Plan::read("plan.toml", &text, &mut |path| Err(format!("no file {path}").into()));
    let sends = loaded.plan.iter().flat_map(Plan::layers).flat_map(|layer| layer.sends.iter().flatten());
    assert!(loaded.findings.is_empty() && sends.map(|sent| &sent.outcome).all(Result::is_ok), "{text}");
    loaded
}

/// Clients that differ in all that a plan of these places can ask for.
fn clients(loaded: &Loaded) -> Vec<ClientFacts> {
    let codebook = &loaded.plan.as_ref().unwrap().codebook;
    let kinds: [&[(&str, &str)]; 6] = [
        &[],
        &[("vendor-class", "Tern D2")],
        &[("vendor-class", "Tern 5"), ("hostname", "lab-7")],
        &[("hostname", "lab-1"), ("arch", "x64-uefi")],
        &[("client-id", "0102005e005311")],
        &[("duid", "00:03:00:01:02:00:5e:00:53:12")],
    ];
    let of_kind = |(last, kind): (u8, &[(&str, &str)])| {
        let mut facts = ClientFacts { mac: Some([2, 0, 0x5e, 0, 0x53, last].into()), ..ClientFacts::on(0) };
        kind.iter().for_each(|(key, text)| facts.describe(codebook, key, text).unwrap());
        facts.delegation = last == 0x11;
        facts.wants.v4 = None;
        facts
    };
    let machines = [0x11, 0x77].into_iter().flat_map(|last| kinds.map(|kind| (last, kind)));
    machines.map(of_kind).collect()
}

/// Everything that these clients see, octet for octet.
fn seen(loaded: &Loaded) -> Vec<Vec<Played>> {
    let compiled = Compiled::of(loaded.plan.as_ref().unwrap());
    let play = |facts: ClientFacts| {
        let compiled = &compiled;
        Family::ALL.map(move |family| {
            let answer = compiled.answer(family, &facts).unwrap();
            compiled.exchange(&facts, &answer).unwrap().messages
        })
    };
    clients(loaded).into_iter().flat_map(play).collect()
}

/// How many things change from one plan to the other, each of them read back from its release.
fn changes(before: &Loaded, after: &Loaded) -> usize {
    let [before, after] =
        [before, after].map(|loaded| compile(loaded.plan.as_ref().unwrap(), &loaded.sources).unwrap());
    compare(&before.compiled().unwrap(), &after.compiled().unwrap()).len()
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 400, ..ProptestConfig::default() })]

    #[test]
    fn what_a_client_sees_a_comparison_sees(
        chosen in prop::collection::vec(0..60usize, PLACES.len()),
        place in 0..PLACES.len(),
        other in 1..60usize,
    ) {
        let mut changed = chosen.clone();
        changed[place] += other;
        let (before, after) = (plan(&chosen), plan(&changed));
        let line = PLACES[place][changed[place] % PLACES[place].len()];
        if seen(&before) != seen(&after) {
            prop_assert!(changes(&before, &after) > 0, "{line}");
        }
        prop_assert_eq!(changes(&before, &after) > 0, changes(&after, &before) > 0, "{}", line);
        prop_assert_eq!(changes(&before, &before), 0);
    }
}

/// Each alternative of each place, against the first, with the rest as it stands in the first column: so none is left to chance.
#[test]
fn each_key_by_itself_is_seen_where_a_client_sees_it() {
    let first = vec![0; PLACES.len()];
    let before = plan(&first);
    let of_before = seen(&before);
    let mut alike = Vec::new();
    for (at, place) in PLACES.iter().enumerate() {
        for other in 1..place.len() {
            let mut chosen = first.clone();
            chosen[at] = other;
            let after = plan(&chosen);
            let (sees, says) = (of_before != seen(&after), changes(&before, &after) > 0);
            assert!(says || !sees, "a client sees what a comparison does not: {}", place[other]);
            if !says {
                alike.push(place[other]);
            }
        }
    }
    // There is nothing to withhold yet, and where addresses are leased by DHCPv6 none are formed anyway.
    let nothing = [
        "withhold = [\"ntp-servers\"]",
        "withhold = [\"boot.server\"]",
        "advertise = { managed = true, autonomous = false }",
    ];
    assert_eq!(alike, nothing);
}

/// What no client of a rehearsal sees, as it needs a full pool, another relay agent, or a client that nobody described.
#[test]
fn what_only_a_comparison_can_see() {
    let base = "[send.v4]\ndomain-server = [\"10.64.0.53\"]\n[network.pier]\nsubnet = \"10.64.9.0/24\"\n\
                pool = [\"10.64.9.20-10.64.9.90\"]\nexclude = [\"10.64.9.80\"]\nrelay = \"10.64.9.3\"\n\
                interface-id = \"port 9\"\n[fleet.wide]\nmatch.vendor-class = \"Tern *\"\n[fleet.wide.on.pier]\n\
                pool = [\"10.64.9.60-10.64.9.69\"]\n[[reservation]]\nnetwork = \"pier\"\nmac = \"02:00:5e:00:53:11\"\n\
                address = \"10.64.9.9\"\nname = \"pier-1\"\n";
    let read = |text: &str| Plan::read("plan.toml", text, &mut |path| Err(format!("no file {path}").into()));
    let before = read(base);
    for (from, to, says) in [
        ("20-10.64.9.90", "20-10.64.9.91", "network pier: pool"),
        ("exclude = [\"10.64.9.80\"]", "exclude = [\"10.64.9.81\"]", "network pier: exclude"),
        ("10.64.9.3\"", "10.64.9.4\"", "network pier: relay"),
        ("port 9", "port 8", "network pier: interface-id"),
        ("60-10.64.9.69", "60-10.64.9.70", "fleet wide on pier: pool"),
        ("Tern *", "Tern 5*", "fleet wide: match"),
        ("pier-1", "pier-2", "02:00:5e:00:53:11 on pier: name"),
    ] {
        assert!(base.contains(from), "{from}");
        let after = read(&base.replace(from, to));
        let (before, after) = [&before, &after].map(|loaded| Compiled::of(loaded.plan.as_ref().unwrap())).into();
        let all = compare(&before, &after);
        let said = all.iter().map(|one| format!("{}: {}", one.concerned, one.changes[0].what));
        assert_eq!(said.collect::<Vec<_>>(), [says], "{to}");
    }
}
