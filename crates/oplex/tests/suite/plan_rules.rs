//! Each rule over a plan: what it says and where, and where it keeps silent.

use crate::marked::{around, finds, in_plan, unmarked};

#[track_caller]
fn silent(text: &str) {
    let findings = in_plan(text);
    assert!(findings.is_empty(), "{text}\n{findings:#?}");
}

#[track_caller]
fn in_network(lines: &str, rule: &str, message: &str) {
    finds(in_plan, &around(lines, ""), rule, message);
}

#[track_caller]
fn in_sends(lines: &str, rule: &str, message: &str) {
    finds(in_plan, &around("", lines), rule, message);
}

#[test]
fn a_plan_without_mistakes_is_met_with_silence() {
    silent(&around("", ""));
    silent(&around("pool = \"10.64.8.20-10.64.15.254\"\nexclude = \"10.64.8.40\"\nlease = \"8h\"", "mtu = 1500"));
}

#[test]
fn pools_must_lie_in_their_subnet() {
    in_network(
        "pool = «\"10.64.16.1-10.64.16.9\"»",
        "pool-outside-subnet",
        "10.64.16.1-10.64.16.9 is outside 10.64.8.0/21, the subnet of domes",
    );
    in_network(
        "pool = \"10.64.8.20-«10.64.16.9»\"",
        "pool-outside-subnet",
        "10.64.16.9 is outside 10.64.8.0/21, the subnet of domes",
    );
    in_network(
        "pool = \"«10.64.7.250»-10.64.8.90\"\nexclude = \"10.64.8.1\"",
        "pool-outside-subnet",
        "10.64.7.250 is outside 10.64.8.0/21, the subnet of domes",
    );
    silent(&around("pool = \"10.64.8.64/26\"", ""));
    silent(&around("pool = \"10.64.8.9\"", ""));
}

#[test]
fn pools_must_not_run_backwards() {
    in_network(
        "pool = «\"10.64.8.90-10.64.8.20\"»",
        "range-backwards",
        "the range is backwards: 10.64.8.90 is above 10.64.8.20",
    );
    in_network(
        "pool = \"10.64.8.20-10.64.8.90\"\nexclude = «\"10.64.8.40-10.64.8.30\"»",
        "range-backwards",
        "the range is backwards: 10.64.8.40 is above 10.64.8.30",
    );
}

#[test]
fn the_first_and_the_last_address_of_a_subnet_are_nobodys() {
    in_network(
        "pool = \"10.64.15.1-«10.64.15.255»\"",
        "pool-includes-reserved-address",
        "the pool includes 10.64.15.255, the broadcast address of 10.64.8.0/21",
    );
    in_network(
        "pool = \"«10.64.8.0»-10.64.8.90\"\nexclude = \"10.64.8.1\"",
        "pool-includes-reserved-address",
        "the pool includes 10.64.8.0, the network address of 10.64.8.0/21",
    );
    // A subnet as a pool has both, and one correction mends both.
    let whole = in_plan(&around("pool = \"10.64.8.0/21\"\nexclude = \"10.64.8.1\"", ""));
    let tries: Vec<_> = whole.iter().map(|finding| finding.remedy().unwrap()).collect();
    assert_eq!(tries, ["\"10.64.8.1-10.64.15.254\""; 2]);
    // Excluding it is as good as leaving it out.
    silent(&around("pool = \"10.64.15.1-10.64.15.255\"\nexclude = \"10.64.15.255\"", ""));
}

/// RFC 3021: both addresses of a /31 are hosts'.
#[test]
fn a_link_of_two_addresses_lends_both() {
    silent(
        "[send.v4]\ndns = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\nrouter = \"10.64.9.1\"\n\
         [network.link]\nsubnet = \"10.64.9.0/31\"\npool = \"10.64.9.0\"\n",
    );
}

#[test]
fn pools_must_not_share_addresses() {
    in_network(
        "pool = [\"10.64.8.20-10.64.8.90\", «\"10.64.8.90-10.64.8.99\"»]",
        "pools-overlap",
        "10.64.8.90 is in two pools",
    );
    in_network(
        "pool = [\"10.64.8.50-10.64.8.60\", «\"10.64.8.20-10.64.8.90\"»]",
        "pools-overlap",
        "10.64.8.50-10.64.8.60 is in two pools",
    );
    silent(&around("pool = [\"10.64.8.20-10.64.8.89\", \"10.64.8.90-10.64.8.99\"]", ""));
}

#[test]
fn exclusions_must_exclude_something() {
    in_network(
        "pool = \"10.64.8.20-10.64.8.90\"\nexclude = «\"10.64.9.1-10.64.9.4\"»",
        "exclusion-outside-pool",
        "10.64.9.1-10.64.9.4 is outside every pool of domes, so it excludes nothing",
    );
    in_network(
        "pool = \"10.64.8.20-10.64.8.90\"\nexclude = «\"10.64.8.80-10.64.8.99\"»",
        "exclusion-outside-pool",
        "only part of 10.64.8.80-10.64.8.99 is inside a pool of domes",
    );
    in_network(
        "exclude = «\"10.64.8.80\"»",
        "exclusion-outside-pool",
        "10.64.8.80 is outside every pool of domes, so it excludes nothing",
    );
}

#[test]
fn what_devices_are_told_must_not_be_lent() {
    let plan = |exclude: &str| {
        around(
            &format!("pool = \"10.64.8.20-10.64.8.90\"\nexclude = \"{exclude}\""),
            "classless-static-route = [\"10.64.4.0/23 via 10.64.8.2\", \"«0.0.0.0/0 via 10.64.8.30»\"]",
        )
    };
    finds(
        in_plan,
        &plan("10.64.8.31"),
        "sent-address-leasable",
        "classless-static-route 10.64.8.30 is inside a pool of domes, so it may be leased to a client",
    );
    silent(&plan("10.64.8.30").replace(['«', '»'], ""));
    // A destination is a place, not somebody's address.
    silent(&around(
        "pool = \"10.64.8.20-10.64.8.90\"",
        "policy-filter = [{ address = \"10.64.8.64\", mask = \"255.255.255.192\" }]",
    ));
}

#[test]
fn subnets_must_be_subnets() {
    let plan = |subnet: &str| {
        format!(
            "[send.v4]\ndns = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n[network.domes]\nsubnet = {subnet}\n\
             [network.domes.send.v4]\nrouter = \"10.64.8.1\"\n"
        )
    };
    finds(
        in_plan,
        &plan("«\"10.64.9.0/21\"»"),
        "subnet-host-bits-set",
        "10.64.9.0/21 is not a subnet: 10.64.9.0 is an address inside 10.64.8.0/21",
    );
    for (subnet, message) in [
        ("10.64.8.0", "`10.64.8.0` has no prefix length; write it like `10.64.4.0/23`"),
        ("10.64.8.0/33", "`10.64.8.0/33` is not a subnet: after the slash stands 0 to 32"),
        ("10.64.8/21", "`10.64.8` is not an IPv4 address: it has 3 of 4 numbers"),
        ("10.64.8.256/21", "`10.64.8.256` is not an IPv4 address: 256 is above 255"),
        ("2001:db8::/64", "`2001:db8::` is not an IPv4 address; write it like `10.64.4.1`"),
    ] {
        finds(in_plan, &plan(&format!("«\"{subnet}\"»")), "value-wrong-kind", message);
    }
}

#[test]
fn networks_must_not_share_addresses() {
    let plan = |first: &str, second: &str| {
        format!(
            "[send.v4]\ndns = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n\
             [network.a]\nsubnet = {first}\nsend.v4.router = \"10.64.8.1\"\n\
             [network.b]\nsubnet = {second}\nsend.v4.router = \"10.64.9.1\"\n"
        )
    };
    finds(
        in_plan,
        &plan("\"10.64.8.0/21\"", "«\"10.64.9.0/24\"»"),
        "networks-overlap",
        "b and a overlap: 10.64.9.0/24 is inside 10.64.8.0/21",
    );
    finds(
        in_plan,
        &plan("\"10.64.8.0/24\"", "«\"10.64.8.0/21\"»"),
        "networks-overlap",
        "b and a overlap: 10.64.8.0/24 is inside 10.64.8.0/21",
    );
    silent(&plan("\"10.64.8.0/24\"", "\"10.64.9.0/24\""));
}

#[test]
fn a_router_must_be_on_its_network() {
    let message = "router 10.64.16.1 is outside 10.64.8.0/21, the subnet of domes";
    finds(
        in_plan,
        &around("", "").replace("router = \"10.64.8.1\"", "router = [\"10.64.8.1\", \"«10.64.16.1»\"]"),
        "router-outside-subnet",
        message,
    );
    finds(
        in_plan,
        "[send.v4]\ndns = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\nrouter = «\"10.64.8.1\"»\n\
         [network.domes]\nsubnet = \"10.64.8.0/21\"\n[network.visitors]\nsubnet = \"10.64.16.0/22\"\n",
        "router-sent-to-every-network",
        "this router is sent to every network, but is not in visitors",
    );
    // One network, one router: where it is written makes no difference.
    silent(
        "[send.v4]\ndns = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\nrouter = \"10.64.8.1\"\n\
         [network.domes]\nsubnet = \"10.64.8.0/21\"\n",
    );
}

#[test]
fn what_is_forgotten_is_named_at_the_network() {
    let plan = |send: &str, own: &str| {
        format!("[send.v4]\n{send}\n[network.«domes»]\nsubnet = \"10.64.8.0/21\"\n[network.domes.send.v4]\n{own}\n")
    };
    let all = "dns = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"";
    finds(in_plan, &plan(all, ""), "no-router", "no router is sent on domes");
    finds(in_plan, &plan("", "router = \"10.64.8.1\""), "no-name-server", "no name server is sent on domes");
    finds(
        in_plan,
        &plan("dns = \"10.64.0.53\"", "router = \"10.64.8.1\""),
        "no-domain",
        "no domain name is sent on domes",
    );
    // A default route is a way out, and a search list is a domain.
    finds(
        in_plan,
        &plan("dns = \"10.64.0.53\"\n«search» = [\"tarnfell.example\"]", "routes = [\"default via 10.64.8.1\"]")
            .replace("[network.«domes»]", "[network.domes]"),
        "search-without-domain",
        "domes: a search list is sent, but no domain-name",
    );
    // Withheld is not told.
    finds(
        in_plan,
        &plan(all, "router = \"10.64.8.1\"").replace("/21\"\n", "/21\"\nwithhold = [\"dns\"]\n"),
        "no-name-server",
        "no name server is sent on domes",
    );
}

#[test]
fn layers_must_not_repeat_each_other() {
    in_sends(
        "«domain-name» = \"tarnfell.example\"",
        "same-value-on-two-layers",
        "network domes sends domain-name with the same value as a wider layer",
    );
    silent(&around("", "domain-name = \"domes.tarnfell.example\""));
    in_network(
        "withhold = [«\"ntp-servers\"»]",
        "withhold-without-effect",
        "no wider layer sends ntp-servers, so there is nothing to withhold",
    );
}

#[test]
fn routes_must_not_hide_the_router() {
    in_sends(
        "routes = «[\"10.64.4.0/23 via 10.64.8.2\"]»",
        "classless-routes-without-default",
        "these routes replace the default router for clients on domes, and none is 0.0.0.0/0",
    );
    silent(&around("", "routes = [\"10.64.4.0/23 via 10.64.8.2\", \"default via 10.64.8.1\"]"));
}

#[test]
fn some_options_are_not_a_plans_to_send() {
    for (line, message) in [
        (
            "«address-request» = \"10.64.8.9\"",
            "v4:50 address-request is set by clients for each message and cannot be sent from a plan",
        ),
        (
            "«overload» = \"file\"",
            "v4:52 overload is set by servers and clients for each message and cannot be sent from a plan",
        ),
        (
            "«dhcp-msg-type» = \"DHCPACK\"",
            "v4:53 dhcp-msg-type is set by servers and clients for each message and cannot be sent from a plan",
        ),
        (
            "«parameter-list» = [1, 3]",
            "v4:55 parameter-list is set by clients for each message and cannot be sent from a plan",
        ),
        (
            "«dhcp-max-msg-size» = 1500",
            "v4:57 dhcp-max-msg-size is set by clients for each message and cannot be sent from a plan",
        ),
        (
            "«client-id» = { type = 1, id = \"01\" }",
            "v4:61 client-id is set by servers and clients for each message and cannot be sent from a plan",
        ),
        (
            "«user-class» = [\"01\"]",
            "v4:77 user-class is set by clients for each message and cannot be sent from a plan",
        ),
        (
            "«\"v4:82\"» = { agent-circuit-id = \"01\" }",
            "v4:82 relay-agent-information is set by relay agents for each message and cannot be sent from a plan",
        ),
    ] {
        in_sends(line, "automatic-option-sent", message);
    }
}

#[test]
fn codes_that_are_nobodys_or_no_longer_used_are_named() {
    in_sends("«\"v4:190\"» = { hex = \"01\" }", "code-unassigned", "code 190 is unassigned");
    in_sends("«\"v4:96\"» = { hex = \"01\" }", "code-unassigned", "code 96 is unassigned");
    in_sends("«time-offset» = 3600", "option-obsolete", "v4:2 time-offset is deprecated");
    in_sends("«\"v4:176\"» = { hex = \"01\" }", "option-obsolete", "v4:176 tentative-176 is tentative");
    in_sends("«netinfo-address» = \"01\"", "option-obsolete", "v4:112 netinfo-address is undocumented");
    silent(&around("", "\"v4:224\" = { hex = \"01\" }"));
}

#[test]
fn times_must_be_in_order() {
    in_network(
        "lease = \"8h\"\nrenew = «\"7h30m\"»\nrebind = \"7h\"",
        "lease-times-out-of-order",
        "renewal time 7h30m is later than rebinding time 7h on domes",
    );
    in_network(
        "lease = \"8h\"\nrebind = «\"8h\"»",
        "lease-times-out-of-order",
        "rebinding time 8h is the same as lease 8h on domes",
    );
    // Seven eighths of eight hours are the default for rebinding.
    in_network(
        "lease = \"8h\"\nrenew = «\"7h\"»",
        "lease-times-out-of-order",
        "renewal time 7h is the same as rebinding time 7h on domes",
    );
    in_sends(
        "renewal-time = «\"22h\"»",
        "lease-times-out-of-order",
        "renewal time 22h is later than rebinding time 21h on domes",
    );
    silent(
        &(around("lease = \"infinite\"\nrenew = \"30d\"\nrebind = \"60d\"", "")
            + "[check]\nallow = [\"lease-unusual\"]\n"),
    );
    silent(&around("lease = 3600\nrenew = 1800", ""));
}

#[test]
fn keys_and_kinds_are_told_apart() {
    in_network("«leese» = \"8h\"", "unknown-key", "unknown key `leese` in a network");
    in_network(
        "lease = «\"soon\"»",
        "value-wrong-kind",
        "`soon` is not a duration; write seconds (`28800`) or a duration such as `8h`, `1d12h`, `infinite`",
    );
    in_network("lease = «-5»", "value-wrong-kind", "`lease` is -5, outside 0 to 4294967294");
    in_network("lease = «true»", "value-wrong-kind", "`lease` is text in quotes, not true or false");
    in_network("pool = [«7»]", "value-wrong-kind", "`pool` holds text in quotes, not a number");
    in_network(
        "pool = «\"10.64.8.20 to 10.64.8.90\"»",
        "value-wrong-kind",
        "`10.64.8.20 to 10.64.8.90` is not an IPv4 address; write it like `10.64.4.1`",
    );
    in_sends("«domain_name» = \"a.example\"", "unknown-option", "unknown option `domain_name`");
    in_sends("«\"tern:settings\"» = \"a\"", "unknown-option", "unknown option `tern:settings`");
    in_sends("«gateway» = \"10.64.8.2\"", "value-wrong-kind", "v4:3 router is sent twice here, under two names");
    finds(in_plan, "«colour» = 1\n", "unknown-key", "unknown key `colour` in a plan");
    finds(in_plan, "[network.«domes»]\n", "key-missing", "key `subnet` is missing");
    finds(
        in_plan,
        "[«send»]\nv5.router = 1\n".replace("[«send»]\nv5", "[send]\n«v5»").as_str(),
        "unknown-key",
        "unknown key `v5` in send",
    );
    finds(
        in_plan,
        "codebooks = [«\"none.toml\"»]\n",
        "codebook-unreadable",
        "the codebook none.toml cannot be read: no such file",
    );
}

#[test]
fn values_are_marked_at_the_very_characters() {
    for (line, rule, message) in [
        (
            "ntp = [\"10.64.0.123\", \"«10.64.0»\"]",
            "value-malformed",
            "ntp-servers: `10.64.0` is not an IPv4 address: it has 3 of 4 numbers",
        ),
        ("ntp = «[]»", "value-malformed", "ntp-servers: at least 1 expected, found 0"),
        ("mtu = «70000»", "mtu-out-of-range", "mtu-interface: 70000 is outside 0 to 65535"),
        ("mtu = «60»", "mtu-out-of-range", "mtu-interface: 60 is out of range; it must be 68 or more"),
        ("mtu = \"«big»\"", "value-malformed", "mtu-interface: `big` is not a whole number"),
        ("default-ip-ttl = «0»", "value-out-of-range", "default-ip-ttl: 0 is out of range; it must be 1 or more"),
        (
            "forward-on-off = «2»",
            "value-malformed",
            "forward-on-off: the number 2 is not allowed here; write `true` or `false`",
        ),
        (
            "netbios-node-type = \"«c-node»\"",
            "value-undefined",
            "netbios-node-type: unknown value `c-node`; expected one of b-node (1), p-node (2), m-node (4), h-node (8)",
        ),
        (
            "root-path = \"a«\\u00e9»\"",
            "text-not-ascii",
            "root-path: a character outside ASCII; this text is NVT ASCII",
        ),
        (
            "root-path = \"domes/a«é»b\"",
            "text-not-ascii",
            "root-path: a character outside ASCII; this text is NVT ASCII",
        ),
        (
            "routes = [\"10.64.4.0/23 via «10.64.8.300»\"]",
            "value-malformed",
            "classless-static-route: `10.64.8.300` is not an IPv4 address: 300 is above 255",
        ),
        (
            "routes = [\"«10.64.4.0» via 10.64.8.2\"]",
            "value-malformed",
            "classless-static-route: `10.64.4.0` has no prefix length; write it like `10.64.8.0/21 via 10.64.4.1`",
        ),
        (
            "ntp = { hex = \"0a40«x»\" }",
            "value-malformed",
            "ntp-servers: 'x' at character 5 is not a hexadecimal digit (0-9, a-f)",
        ),
        (
            "ntp = { hex = «\"0a4000\"» }",
            "value-malformed",
            "ntp-servers: 4 octets expected for an IPv4 address, 3 left",
        ),
        ("ntp = «\"127.0.0.1\"»", "address-not-a-host", "127.0.0.1 is a loopback address, not the address of a host"),
        ("ntp = «[\"10.64.0.123\", \"10.64.0.123\"]»", "list-item-repeated", "duplicate 10.64.0.123 in the list"),
    ] {
        // An escape keeps characters from standing one for one, so all of the value is marked.
        let line = if line.contains("\\u00e9") { "root-path = «\"a\\u00e9\"»" } else { line };
        in_sends(line, rule, message);
    }
}

#[test]
fn reservations_are_held_against_their_networks() {
    let reserved = |lines: &str| {
        let text = around("pool = [\"10.64.8.32-10.64.8.63\"]", "")
            + "[[reservation]]\nnetwork = \"domes\"\nmac = \"02:00:5e:00:53:11\"\n"
            + lines;
        let (text, span) = unmarked(&text);
        let found = in_plan(&text);
        for finding in &found {
            assert_eq!(finding.spot.as_ref().map(|spot| spot.span.clone()), span, "{lines}");
        }
        found.into_iter().map(|finding| format!("{}: {}", finding.rule.name, finding.message)).collect::<Vec<_>>()
    };
    assert_eq!(reserved("address = \"10.64.8.13\""), [""; 0]);
    assert_eq!(reserved("name = \"dome-3\""), [""; 0]);
    assert_eq!(
        reserved("address = «\"10.64.16.13\"»"),
        ["reservation-outside-subnet: 10.64.16.13 is not in 10.64.8.0/21"]
    );
    assert_eq!(
        reserved("address = «\"10.64.15.255\"»"),
        ["reservation-outside-subnet: 10.64.15.255 is the broadcast address of 10.64.8.0/21"]
    );
    assert_eq!(
        reserved("address = «\"10.64.8.0\"»"),
        ["reservation-outside-subnet: 10.64.8.0 is the network address of 10.64.8.0/21"]
    );
    assert_eq!(reserved("address = «\"10.64.8.40\"»"), ["reservation-in-pool: 10.64.8.40 is inside the pool of domes"]);
    assert_eq!(
        reserved("address = «\"10.64.8.1\"»"),
        ["sent-address-reserved: 10.64.8.1 is sent as router, but reserved for a client"]
    );
    assert_eq!(
        reserved(
            "address = \"10.64.8.13\"\n[[reservation]]\nnetwork = \"domes\"\nmac = \"02:00:5e:00:53:12\"\naddress = «\"10.64.8.13\"»"
        ),
        ["reservation-repeated: 10.64.8.13 is already reserved for 02:00:5e:00:53:11"]
    );
}

#[test]
fn faults_in_fleets_reservations_and_expectations_are_found_where_they_are_written() {
    for (lines, rule, message) in [
        ("[fleet.«it»]\n", "key-missing", "key `match` is missing"),
        ("[fleet.it]\nmatch = «3»\n", "value-wrong-kind", "match is a table, `[match]`, not a number"),
        ("[fleet.it]\nmatch = { arch = 7 }\n«macth» = 1\n", "unknown-key", "unknown key `macth` in a fleet"),
        ("[fleet.it]\nmatch = { «vendor-clas» = \"x\" }\n", "unknown-option", "unknown option `vendor-clas`"),
        (
            "[fleet.it]\nmatch = { mac = «\"02:00\"» }\n",
            "value-wrong-kind",
            "`02:00` has 2 of 6 octets; for all that begin so write `02:00:*`",
        ),
        (
            "[fleet.it]\nmatch = { mac = «\"02:00:5e:00:53:20-02:00:5e:00:53:10\"» }\n",
            "value-wrong-kind",
            "`02:00:5e:00:53:20-02:00:5e:00:53:10` ends before it begins",
        ),
        (
            "[fleet.it]\nmatch = { mac = «\"02:zz:*\"» }\n",
            "value-wrong-kind",
            "`z` cannot stand in a pattern for hardware addresses, `02:00:5e:*`",
        ),
        ("[fleet.it]\nmatch = { arch = 7 }\non.«dome» = {}\n", "value-wrong-kind", "unknown network `dome`"),
        (
            "[fleet.it]\nmatch = { arch = 7 }\nrequests = «3»\n",
            "value-wrong-kind",
            "`requests` is a list of codes and names of options",
        ),
        ("[[«reservation»]]\nmac = \"02:00:5e:00:53:11\"\n", "key-missing", "key `network` is missing"),
        (
            "[[reservation]]\nnetwork = \"domes\"\nmac = «\"zy\"»\n",
            "value-wrong-kind",
            "`zy` is not a MAC: 'z' at character 1 is not a hexadecimal digit (0-9, a-f)",
        ),
        (
            "[[reservation]]\nnetwork = \"domes\"\nclient-id = «\"\"»\n",
            "value-wrong-kind",
            "a client identifier has an octet at least",
        ),
        ("[[expect]]\nclient = { network = «\"dome\"» }\n", "value-wrong-kind", "unknown network `dome`"),
        (
            "[[expect]]\nclient = { network = \"domes\", arch = «\"x64\"» }\n",
            "value-wrong-kind",
            "unknown architecture `x64`; did you mean `x64-uefi`?",
        ),
        (
            "[[expect]]\nclient = { network = \"domes\" }\naddress = «\"10.64\"»\n",
            "value-wrong-kind",
            "`10.64` is not an IPv4 address: it has 2 of 4 numbers",
        ),
        (
            "[[expect]]\nclient = { network = \"domes\" }\nsent = { router = \"«10.64»\" }\n",
            "value-malformed",
            "router: `10.64` is not an IPv4 address: it has 2 of 4 numbers",
        ),
        (
            "reservations = «\"r.csv\"»\n",
            "reservations-unreadable",
            "the reservations r.csv cannot be read: no such file",
        ),
    ] {
        let text =
            if lines.starts_with("reservations") { lines.to_owned() + &around("", "") } else { around("", "") + lines };
        let (text, span) = unmarked(&text);
        let found = in_plan(&text);
        assert_eq!((found[0].rule.name, found[0].message.as_str()), (rule, message), "{lines}\n{found:#?}");
        let at = found[0].spot.clone().unwrap().span;
        let span = span.unwrap();
        assert!(at == span || (rule == "key-missing" && at.start <= span.start), "{lines}: {}", &text[at]);
    }
}

#[test]
fn options_that_belong_together_are_missed() {
    let found = |network: &str, sends: &str, more: &str| {
        let found = in_plan(&(around(network, sends) + more));
        found.into_iter().map(|finding| format!("{} {}", finding.severity, finding.rule.name)).collect::<Vec<_>>()
    };
    let none = Vec::<String>::new();
    let (file, server) = ("bootfile-name = \"domes/controller.efi\"\n", "server-name = \"boot.tarnfell.example\"\n");
    assert_eq!(found("", &format!("{file}{server}"), ""), none);
    assert_eq!(found("", &format!("{file}tftp-server-address = \"10.64.0.80\""), ""), none);
    assert_eq!(found("", "bootfile-name = \"https://boot.tarnfell.example/x\"", ""), none);
    assert_eq!(found("", file, ""), ["warning boot-file-without-server"]);
    assert_eq!(found("", server, ""), ["note boot-file-without-server"]);
    // What a fleet adds counts for the fleet alone.
    let fleet = format!("[fleet.boot]\nmatch = {{ arch = 7 }}\n[fleet.boot.send.v4]\n{server}");
    assert_eq!(found("", file, &fleet), ["warning boot-file-without-server"]);
    assert_eq!(found("", "", &format!("{fleet}{file}")), none);
    assert_eq!(found("", "netbios-name-srv = \"10.64.0.64\"", ""), ["note netbios-without-node-type"]);
    assert_eq!(found("", "netbios-name-srv = \"10.64.0.64\"\nnetbios-node-type = \"h-node\"", ""), none);
    for (lease, odd) in [("4m59s", true), ("5m", false), ("90d", false), ("91d", true), ("infinite", true)] {
        let expected = if odd { vec!["warning lease-unusual".to_owned()] } else { vec![] };
        assert_eq!(found(&format!("lease = \"{lease}\""), "", ""), expected, "{lease}");
    }
}

#[test]
fn a_plan_may_silence_warnings_and_notes_but_no_errors() {
    let found = |sends: &str, allow: &str| {
        let found = in_plan(&format!("{}[check]\nallow = {allow}\n", around("", sends)));
        found.into_iter().map(|finding| finding.rule.name).collect::<Vec<_>>()
    };
    let netbios = "netbios-name-srv = \"10.64.0.64\"";
    assert_eq!(found(netbios, "[]"), ["netbios-without-node-type"]);
    assert_eq!(found(netbios, "[\"netbios-without-node-type\"]"), [""; 0]);
    assert_eq!(found("", "[\"netbios-without-node-type\"]"), ["allow-without-effect"]);
    let error = "ntp-servers = \"127.0.0.1\"";
    assert_eq!(found(error, "[\"address-not-a-host\"]"), ["address-not-a-host", "allow-without-effect"]);
    assert_eq!(found("", "3"), ["value-wrong-kind"]);
}

/// What a plan around these lines is found to be, by severity and rule.
fn rules_of(network: &str, sends: &str, more: &str) -> Vec<String> {
    let found = in_plan(&(around(network, sends) + more));
    found.into_iter().map(|finding| format!("{} {}", finding.severity, finding.rule.name)).collect()
}

#[test]
fn a_pool_must_have_room_for_whom_it_is_for() {
    let ten = "pool = \"10.64.8.20-10.64.8.29\"";
    let reserve = |clients: std::ops::Range<u8>, address: bool| -> String {
        let one = |last: u8| {
            let address = if address { format!("address = \"10.64.8.{last}\"\n") } else { String::new() };
            format!("[[reservation]]\nnetwork = \"domes\"\nmac = \"02:00:5e:00:53:{last}\"\n{address}")
        };
        clients.map(one).collect()
    };
    let small = |network: &str, more: &str| {
        let found = rules_of(network, "", more);
        assert!(
            found.iter().all(|rule| rule.ends_with("pool-too-small") || rule.ends_with("reservation-in-pool")),
            "{found:?}"
        );
        found.iter().any(|rule| rule == "warning pool-too-small")
    };
    assert!(
        !small(ten, "") && small(&format!("{ten}\nexclude = \"10.64.8.16/28\"").replace("16/28", "20-10.64.8.29"), "")
    );
    assert!(!small(ten, &reserve(20..29, true)) && small(ten, &reserve(20..30, true)));
    assert!(!small(ten, &reserve(20..30, false)) && small(ten, &reserve(20..31, false)));
    let fleet = "[fleet.boot]\nmatch = { arch = 7 }\non.domes.pool = \"10.64.8.20-10.64.8.2X\"\n";
    assert!(!small(ten, &fleet.replace('X', "8")) && small(ten, &fleet.replace('X', "9")));
}

#[test]
fn names_are_used_once() {
    let one = |network: &str, mac: u8, name: &str| {
        format!("[[reservation]]\nnetwork = \"{network}\"\nmac = \"02:00:5e:00:53:{mac:02x}\"\nname = \"{name}\"\n")
    };
    let other = "[network.desk]\nsubnet = \"10.64.4.0/24\"\nsend.v4 = { router = \"10.64.4.1\" }\n";
    let found = |rows: &[String]| rules_of("", "", &(other.to_owned() + &rows.concat()));
    assert_eq!(found(&[one("domes", 1, "b"), one("domes", 2, "a"), one("domes", 3, "c")]), [""; 0]);
    assert_eq!(
        found(&[one("domes", 1, "a"), one("domes", 2, "b"), one("domes", 3, "a")]),
        ["warning reservation-name-repeated"]
    );
    assert_eq!(found(&[one("domes", 1, "a"), one("desk", 1, "a")]), ["note reservation-name-repeated"]);
    finds(
        in_plan,
        &(around("", "") + &one("domes", 1, "a") + &one("domes", 2, "a").replace("\"a\"", "«\"a\"»")),
        "reservation-name-repeated",
        "02:00:5e:00:53:01 also has the name a",
    );
}

#[test]
fn a_fleet_inside_another_keeps_what_it_says() {
    let fleet = |name: &str, by: &str, more: &str| {
        format!("[fleet.{name}]\nmatch = {{ {by} }}\nsend.v4 = {{ log-server = \"10.64.0.70\" }}\n{more}")
    };
    let found = |first: &str, then: &str, more: &str| {
        rules_of("", "", &(fleet("one", first, more) + &fleet("two", then, more)))
    };
    let all = "vendor-class = \"Tern *\"";
    for within in [
        "vendor-class = \"Tern D2\"",
        "vendor-class = \"Tern D*\"",
        "vendor-class = [\"Tern D2\", \"Tern D3\"]",
        "all = [{ vendor-class = \"Tern D2\" }, { arch = 7 }]",
        "any = [{ vendor-class = \"Tern D2\" }, { vendor-class = \"Tern E\" }]",
        all,
    ] {
        assert_eq!(found(within, all, ""), ["warning fleet-shadowed"], "{within}");
    }
    for beside in [
        "vendor-class = \"Tern\"",
        "vendor-class = [\"Tern D2\", \"Gannet\"]",
        "mac = \"02:*\"",
        "vendor-class = \"*\"",
    ] {
        assert_eq!(found(beside, all, ""), [""; 0], "{beside}");
    }
    let macs = |first: &str, last: &str| format!("mac = \"02:00:5e:00:53:{first}-02:00:5e:00:53:{last}\"");
    assert_eq!(found(&macs("10", "1f"), &macs("10", "2f"), ""), ["warning fleet-shadowed"]);
    assert_eq!(found(&macs("10", "30"), &macs("10", "2f"), ""), [""; 0]);
    // The narrow one after the wide one is as it should be, but then the wide one's pool is used.
    assert_eq!(found(all, "vendor-class = \"Tern D2\"", ""), [""; 0]);
    let pools = |text: &str| text.replacen("POOL", "10.64.8.20", 1).replacen("POOL", "10.64.8.21", 1);
    let text = fleet("one", all, "on.domes.pool = \"POOL\"\n")
        + &fleet("two", "vendor-class = \"Tern D2\"", "on.domes.pool = \"POOL\"\n");
    assert_eq!(rules_of("", "", &pools(&text)), ["warning fleet-shadowed"]);
}

#[test]
fn fleets_that_no_device_can_share_do_not_disagree() {
    let pair = |one: &str, other: &str| {
        let fleet = |name: &str, by: &str, server: u8| {
            format!("[fleet.{name}]\nmatch = {{ {by} }}\nsend.v4 = {{ log-server = \"10.64.0.{server}\" }}\n")
        };
        rules_of("", "", &(fleet("one", one, 70) + &fleet("two", other, 71)))
    };
    for (one, other) in [
        ("vendor-class = \"Tern *\"", "vendor-class = \"Gannet *\""),
        ("vendor-class = \"Tern D2\"", "vendor-class = \"Gannet *\""),
        ("hostname = \"dome-?\"", "hostname = \"desk-*\""),
        ("mac = \"02:00:5e:00:53:10-02:00:5e:00:53:1f\"", "mac = \"02:00:5e:00:53:20\""),
    ] {
        assert_eq!(pair(one, other), [""; 0], "{one} and {other}");
    }
    for (one, other) in [
        ("vendor-class = \"Tern *\"", "vendor-class = \"T*\""),
        ("vendor-class = \"* D2\"", "vendor-class = \"Gannet *\""),
        ("vendor-class = \"Tern *\"", "arch = 7"),
        ("user-class = \"a\"", "user-class = \"b\""),
    ] {
        assert!(pair(one, other).contains(&"warning fleets-disagree".to_owned()), "{one} and {other}");
    }
}

#[test]
fn boot_servers_agree_and_a_device_of_two_vendors_is_found() {
    let boot = |name: &str| {
        let sends = format!(
            "bootfile-name = \"a.efi\"\nserver-name = \"{name}\"\ntftp-server-address = [\"10.64.0.80\", \"10.64.0.81\"]"
        );
        rules_of("", &sends, "")
    };
    assert_eq!(boot("10.64.0.82"), ["warning boot-servers-differ"]);
    assert_eq!((boot("10.64.0.81"), boot("boot.tarnfell.example")), (vec![], vec![]));

    let book = |name: &str| {
        format!(
            "book = \"{name}\"\ntitle = \"{name}\"\ncarriers = [\"v4:43\"]\n[[option]]\ncode = 1\nname = \"led\"\nlayout = \"u8\"\nreference = \"its manual\"\n"
        )
    };
    let found = |one: &str, other: &str| {
        let text = format!(
            "codebooks = [\"tern\", \"gannet\"]\n{}[fleet.one]\nmatch = {{ {one} }}\nsend.v4 = {{ \"tern:led\" = 1 }}\n\
             [fleet.two]\nmatch = {{ {other} }}\nsend.v4 = {{ \"gannet:led\" = 1 }}\n",
            around("", "")
        );
        let loaded = oplex::plan::Plan::read("plan.toml", &text, &mut |path| Ok(book(path)));
        oplex::check::plan(&loaded).iter().map(|finding| finding.rule.name).collect::<Vec<_>>()
    };
    assert_eq!(found("vendor-class = \"Tern *\"", "vendor-class = \"Gannet *\""), [""; 0]);
    assert_eq!(found("vendor-class = \"Tern *\"", "mac = \"02:*\""), ["option-43-of-two-vendors"]);
}

#[test]
fn options_of_the_other_family_are_told_from_this_one() {
    let message = "v6:23 dns-servers cannot be sent by DHCPv4";
    finds(in_plan, &around("", "«\"v6:23\"» = \"2001:db8:64::53\""), "option-of-other-family", message);
    finds(in_plan, &around("", "«\"v6:dns-servers\"» = \"2001:db8:64::53\""), "option-of-other-family", message);
    let fleet = "[fleet.boot]\nmatch = { arch = 7 }\n[fleet.boot.send.v4]\n«\"v6:bootfile-url\"» = \"http://boot.tarnfell.example/a.efi\"\n";
    finds(in_plan, &(around("", "") + fleet), "option-of-other-family", "v6:59 bootfile-url cannot be sent by DHCPv4");
    // A vendor's option that travels in DHCPv6 alone is none of DHCPv4's either.
    let found = |carriers: &str| {
        let book = format!(
            "book = \"tern\"\ntitle = \"Tern\"\nenterprise = 32473\ncarriers = {carriers}\n[[option]]\ncode = 1\nname = \"led\"\nlayout = \"u8\"\nreference = \"its manual\"\n"
        );
        let text = format!("codebooks = [\"tern\"]\n{}", around("", "\"tern:led\" = 1"));
        let loaded = oplex::plan::Plan::read("plan.toml", &text, &mut |_| Ok(book.clone()));
        oplex::check::plan(&loaded).iter().map(|finding| finding.rule.name).collect::<Vec<_>>()
    };
    assert_eq!(found("[\"v6:17\"]"), ["option-of-other-family"]);
    assert_eq!(found("[\"v4:125\", \"v6:17\"]"), [""; 0]);
}
