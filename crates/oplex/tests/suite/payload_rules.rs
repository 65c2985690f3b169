//! Each rule over one option's value: octets that it finds fault with, and octets that it lets pass.

use oplex::check;
use oplex::codebook::Codebook;
use oplex::family::Protocol;
use oplex::finding::Severity;
use oplex::layout::Input;
use oplex::octets::hex;
use oplex::packet::AnyMessage;
use oplex::plan::Plan;

/// The findings about a value, each as `severity rule: message`.
fn findings(option: &str, text: &str) -> Vec<String> {
    let codebook = Codebook::standard();
    let definition = codebook.find(option).unwrap();
    let payload = codebook.encode(definition, &Input::from_text(text));
    let payload = payload.unwrap_or_else(|wrong| panic!("{option} {text}: {wrong:?}"));
    let found = check::payload(codebook, definition, &payload.octets);
    found.iter().map(|finding| format!("{} {}: {}", finding.severity, finding.rule.name, finding.message)).collect()
}

#[track_caller]
fn finds(option: &str, text: &str, finding: &str) {
    assert_eq!(findings(option, text), [finding], "{option} {text}");
}

#[track_caller]
fn passes(option: &str, texts: &[&str]) {
    for text in texts {
        assert_eq!(findings(option, text), Vec::<String>::new(), "{option} {text}");
    }
}

#[test]
fn addresses_of_hosts() {
    finds("v4:6", "0.0.0.0", "error address-not-a-host: 0.0.0.0 is the unspecified address, not the address of a host");
    finds(
        "v4:3",
        "255.255.255.255",
        "error address-not-a-host: 255.255.255.255 is the broadcast address, not the address of a host",
    );
    finds(
        "v4:42",
        "224.0.1.1",
        "error address-not-a-host: 224.0.1.1 is a multicast address, not the address of a host",
    );
    finds(
        "v4:3",
        "240.0.0.1",
        "error address-not-a-host: 240.0.0.1 is in the reserved range 240.0.0.0/4, not the address of a host",
    );
    finds(
        "v4:138",
        "127.0.0.1",
        "error address-not-a-host: 127.0.0.1 is a loopback address, not the address of a host",
    );
    // A name that looks like an address is a name.
    passes("v4:66", &["127.0.0.1"]);
}

#[test]
fn addresses_that_need_not_be_hosts() {
    passes("v4:28", &["10.64.5.255", "255.255.255.255"]);
    passes("v4:32", &["224.0.0.2", "255.255.255.255"]);
    passes("v4:118", &["10.64.4.0"]);
    passes("v4:82", &["{ link-selection = 10.64.4.0 }"]);
    passes("v4:121", &["10.64.8.0/21 on-link"]);
    passes("v4:1", &["255.255.255.255"]);
}

#[test]
fn lists_without_doubles() {
    finds("v4:119", "a.example, b.example, a.example", "note list-item-repeated: duplicate a.example in the list");
    finds("v4:55", "1, 3, 1", "note list-item-repeated: duplicate 1 in the list");
    passes("v4:119", &["a.example, b.example"]);
}

#[test]
fn mtus() {
    finds("v4:26", "67", "error mtu-out-of-range: 67 is out of range; it must be 68 or more");
    finds("v4:26", "100", "warning mtu-out-of-range: MTU 100 is below 576, so nearly every datagram is fragmented");
    passes("v4:26", &["576", "1500", "9000"]);
    finds("v4:25", "60, 1500", "error mtu-out-of-range: 60 is out of range; it must be 68 or more");
    finds("v4:25", "1500, 296", "error mtu-plateau-out-of-order: these sizes are not in ascending order");
    passes("v4:25", &["68, 296, 1500"]);
    finds("v4:22", "500", "error value-out-of-range: 500 is out of range; it must be 576 or more");
}

#[test]
fn doing_without_ipv4() {
    finds("v4:108", "60", "error ipv6-only-wait-too-short: 60 seconds is below the minimum of 300");
    passes("v4:108", &["0", "300", "1800"]);
}

#[test]
fn old_routes() {
    finds(
        "v4:33",
        "{ destination = 0.0.0.0, router = 10.64.4.1 }",
        "error static-route-default: 0.0.0.0 is not a destination for a static route",
    );
    passes("v4:33", &["{ destination = 10.64.8.0, router = 10.64.4.1 }"]);
}

#[test]
fn uris() {
    finds("v4:143", "http://a.example", "error uri-not-https: http://a.example does not begin with https");
    finds("v4:161", "http://a.example/m", "error uri-not-https: http://a.example/m does not begin with https");
    // Behind a space anything may stand (RFC 8520, section 10), and what stands before it is held to the same.
    passes("v4:161", &["https://a.example/m later", "{ hex = 68747470733a2f2f612e6578616d706c652f6d20ff00 }"]);
    finds(
        "v6:112",
        "{ hex = 687474703a2f2f612e6578616d706c652f6d20ff00 }",
        "error mud-url-malformed: http://a.example/m is not a URI of https",
    );
    finds("v4:114", "http://a.example/api", "warning uri-not-https: http://a.example/api does not begin with https");
    finds("v4:114", "https://10.64.0.9/api", "warning captive-portal-by-address: the host 10.64.0.9 is an address");
    finds(
        "v4:114",
        "https://[2001:db8::9]/api",
        "warning captive-portal-by-address: the host [2001:db8::9] is an address",
    );
    finds(
        "v4:114",
        "a.example",
        "error uri-malformed: this is not a URI; it needs a scheme, as in https://portal.example/api",
    );
    passes(
        "v4:114",
        &["https://portal.example/api", "https://portal.example:8443/api", "urn:ietf:params:capport:unrestricted"],
    );
    passes("v4:143", &["https://a.example, https://b.example:9"]);
}

#[test]
fn time_zones() {
    finds("v4:100", "Europe/Oslo", "error time-zone-malformed: Europe/Oslo is not a POSIX time zone");
    finds("v4:100", ":Europe/Oslo1", "error time-zone-malformed: :Europe/Oslo1 is not a POSIX time zone");
    finds(
        "v4:101",
        "CET-1CEST,M3.5.0,M10.5.0/3",
        "error time-zone-malformed: CET-1CEST,M3.5.0,M10.5.0/3 is not the name of a time zone",
    );
    passes("v4:100", &["CET-1CEST,M3.5.0,M10.5.0/3", "UTC0"]);
    passes("v4:101", &["Europe/Oslo", "UTC"]);
}

#[test]
fn boot_magic() {
    finds("v4:208", "f1:00:74:7f", "error boot-magic-wrong: this is not the magic number f1:00:74:7e");
    passes("v4:208", &["f1:00:74:7e"]);
}

#[test]
fn full_names() {
    let name = |flags: &str, name: &str| format!("{{ flags = {flags}, rcode1 = 0, rcode2 = 0, name = {name} }}");
    finds("v4:81", &name("s+n+e", "dome."), "error fqdn-flags-contradict: the flags n and s exclude each other");
    finds("v4:81", &name("s", "dome"), "warning fqdn-flags-contradict: the name is ASCII text, which is deprecated");
    finds("v4:81", &name("20", "dome"), "warning value-undefined: bits 0x10 are undefined and must be zero");
    passes("v4:81", &[&name("s+e", "dome.tarnfell.example."), &name("n+e", "dome.")]);
}

#[test]
fn places() {
    let civic = |country: &str| format!("{{ what = client, country = {country}, elements = [] }}");
    finds("v4:99", &civic("no"), "error country-malformed: `no` is not a country code");
    passes("v4:99", &[&civic("NO")]);
    let at = |latitude: &str| {
        format!(
            "{{ lares = 34, latitude = {latitude}, lores = 34, longitude = 9.25, atype = metres, altres = 30, altitude = 5, \
             datum = wgs84 }}"
        )
    };
    finds("v4:123", &at("90.5"), "error value-out-of-range: 90 is out of range; it must be -90 to 90");
    passes("v4:123", &[&at("90"), &at("-62.5")]);
}

#[test]
fn vendors() {
    finds(
        "v4:125",
        "{ enterprise = 32473, data = { 1 = 01 } }, { enterprise = 32473, data = { 2 = 01 } }",
        "warning enterprise-repeated: enterprise 32473 occurs twice",
    );
    finds(
        "v4:124",
        "{ enterprise = 9, data = [01] }, { enterprise = 9, data = [02] }",
        "warning enterprise-repeated: enterprise 9 occurs twice",
    );
    passes("v4:125", &["{ enterprise = 32473, data = { 1 = 01 } }, { enterprise = 9, data = { 2 = 01 } }"]);
}

#[test]
fn tunnels() {
    let tunnel = |mask: u8, length: u8, prefix: &str| {
        format!(
            "{{ ipv4-mask-len = {mask}, prefix-len = {length}, prefix = \"{prefix}\", border-relays = 10.64.0.87 }}"
        )
    };
    finds(
        "v4:212",
        &tunnel(0, 112, "2001:db8::"),
        "error sixrd-prefix-does-not-fit: 112 bits of prefix and 32 of address exceed 128",
    );
    finds(
        "v4:212",
        &tunnel(8, 32, "2001:db8:1::"),
        "error sixrd-prefix-does-not-fit: 2001:db8:1:: has bits set below its length 32",
    );
    finds("v4:212", &tunnel(33, 32, "2001:db8::"), "error value-out-of-range: 33 is out of range; it must be 0 to 32");
    passes("v4:212", &[&tunnel(8, 32, "2001:db8::"), &tunnel(16, 112, "2001:db8::")]);
}

#[test]
fn storage() {
    let isns = |admin: &str, security: &str, addresses: &str| {
        format!(
            "{{ functions = enabled, dd-access = enabled, admin-flags = {admin}, security = {security}, addresses = [{addresses}] }}"
        )
    };
    let one = "10.64.0.74";
    finds(
        "v4:83",
        &isns("enabled", "enabled+ike-ipsec+tunnel-mode", one),
        "error isns-flags-contradict: with ike-ipsec, one of main-mode and aggressive-mode must be set",
    );
    finds(
        "v4:83",
        &isns("enabled", "enabled+ike-ipsec+main-mode+tunnel-mode+transport-mode", one),
        "error isns-flags-contradict: with ike-ipsec, one of transport-mode and tunnel-mode must be set",
    );
    finds(
        "v4:83",
        &isns("enabled+heartbeat", "none", "239.0.0.9"),
        "error isns-flags-contradict: with heartbeat, the first address is for the heartbeat, and a server must follow",
    );
    passes(
        "v4:83",
        &[
            &isns("enabled+heartbeat", "none", "239.0.0.9, 10.64.0.74"),
            &isns("enabled", "enabled+ike-ipsec+main-mode+tunnel-mode", one),
        ],
    );
}

#[test]
fn first_sub_options() {
    let message = "error nwip-first-sub-option-wrong: the first sub-option must be 1, 2, 3 or 4, and 5 to 11 may only follow 2 or 3";
    finds("v4:63", "{ autoretries = 3, nwip-exist-in-options-area = true }", message);
    finds("v4:63", "{ nwip-does-not-exist = true, autoretries = 3 }", message);
    passes("v4:63", &["{ nwip-exist-in-options-area = true, autoretries = 3 }", "{ nwip-does-not-exist = true }"]);
}

#[test]
fn what_clients_ask_for() {
    finds("v4:55", "1, 80", "error request-list-inconsistent: 80 cannot be requested");
    finds("v4:55", "1, 255", "warning request-list-inconsistent: 255 cannot be requested");
    finds("v4:55", "1, 3, 121", "error request-list-inconsistent: 121 is requested after 3 or 33");
    passes("v4:55", &["1, 121, 3, 6", "1, 3, 6"]);
}

#[test]
fn encrypted_name_servers() {
    let server = |parameters: &str| {
        format!(
            "{{ priority = 1, authentication-domain = dns.example, addresses = 10.64.0.53, parameters = {parameters} }}"
        )
    };
    finds(
        "v4:162",
        &server("{ ipv4hint = 0a:40:00:35 }"),
        "error dnr-parameters-invalid: ipv4hint is not allowed here; the addresses come first",
    );
    finds(
        "v4:162",
        &server("{ ipv6hint = 20:01 }"),
        "error dnr-parameters-invalid: ipv6hint is not allowed here; the addresses come first",
    );
    finds(
        "v4:162",
        &server("{ port = 853, alpn = 64:6f:74 }"),
        "error dnr-parameters-invalid: the parameters must be in ascending order without duplicates",
    );
    passes("v4:162", &[&server("{ alpn = 64:6f:74, port = 853 }")]);
}

#[test]
fn names_and_text() {
    finds(
        "v4:15",
        "a.example b.example",
        "error name-has-separator: ' ' is not allowed in a host name; use letters, digits and hyphens",
    );
    finds(
        "v4:15",
        "a.example,b.example",
        "error name-has-separator: ',' is not allowed in a host name; use letters, digits and hyphens",
    );
    finds(
        "v4:12",
        "dome!",
        "error host-name-invalid: '!' is not allowed in a host name; use letters, digits and hyphens",
    );
    finds("v4:67", "a\u{0}", "warning text-ends-in-nul: the text ends in NUL, which senders should not add");
    finds(
        "v4:119",
        "a b.example",
        "error name-has-separator: ' ' is not allowed in a host name; use letters, digits and hyphens",
    );
    finds("v4:12", "_dome", "warning host-name-invalid: _dome has an underscore; use letters, digits and hyphens");
    passes("v4:12", &["3com-dome", "dome-3.tarnfell.example"]);
}

#[test]
fn a_rule_that_speaks_for_many_options_rests_on_the_options_own_rfc() {
    let codebook = Codebook::standard();
    let found = check::payload(codebook, codebook.find("v4:46").unwrap(), &[3]);
    assert_eq!((found[0].rfc.as_str(), found[0].severity), ("RFC 2132, section 8.7", Severity::Error));
    assert_eq!(found[0].octets, Some(0..1));
    let found = check::payload(codebook, codebook.find("v4:208").unwrap(), &[0; 4]);
    assert_eq!(found[0].rfc, "RFC 5071, section 3.2");
}

#[test]
fn shared_addresses_and_postal_ones() {
    let ports = |psid: &str| format!("{{ offset = 6, psid-len = 8, psid = {psid} }}");
    finds("v4:159", &ports("0x3401"), "error psid-too-wide: 0x3401 has bits set below its length 8");
    passes(
        "v4:159",
        &[&ports("0x3400"), "{ offset = 0, psid-len = 16, psid = 0x3401 }", "{ offset = 6, psid-len = 0, psid = 0 }"],
    );
    let civic = |parts: &str| format!("{{ what = client, country = NO, elements = [{parts}] }}");
    let (city, room) = ("{ catype = a3, value = Tarnfell }", "{ catype = room, value = \"7\" }");
    let language = "{ catype = language, value = nb }";
    finds(
        "v4:99",
        &civic(&format!("{room}, {city}")),
        "warning civic-address-out-of-order: element 3 comes after element 28",
    );
    passes("v4:99", &[&civic(&format!("{city}, {room}")), &civic(&format!("{room}, {language}, {city}"))]);
}

#[test]
fn log_ins_and_disks() {
    finds("v4:98", "login.example", "error login-url-malformed: `login.example` is not a URL of http or https");
    finds(
        "v4:98",
        "https://a.example  https://b.example",
        "error login-url-malformed: `` is not a URL of http or https",
    );
    passes("v4:98", &["https://a.example/uap", "http://a.example https://b.example:9/uap"]);
    finds("v4:17", "iscsi:10.64.0.74:::", "error iscsi-path-incomplete: the target's name is missing");
    passes(
        "v4:17",
        &[
            "10.64.0.80:/export/dome",
            "iscsi:10.64.0.74:6:3260:0:iqn.2026-11.example.tarnfell:dome",
            "iscsi:10.64.0.74::::iqn.example:a",
        ],
    );
}

#[test]
fn scopes_and_parts_of_addresses_are_in_their_form() {
    let scopes = |list: &str| format!("{{ mandatory = yes, scopes = \"{list}\" }}");
    finds("v4:79", &scopes("dome+mast"), "error service-scope-not-escaped: `+` must be escaped in a scope");
    finds("v4:79", &scopes(r"dome\\2"), r"error service-scope-not-escaped: `\\` must be escaped in a scope");
    passes("v4:79", &[&scopes("domes,visitors"), &scopes(r"dome\\2bmast"), "{ mandatory = yes, scopes = \"\" }"]);
    let civic = |kind: &str, value: &str| {
        format!("{{ what = client, country = NO, elements = [{{ catype = {kind}, value = \"{value}\" }}] }}")
    };
    finds("v4:99", &civic("script", "latn"), "error civic-address-malformed: `latn` is not a script code");
    finds(
        "v4:99",
        &civic("extension", "urn:x y"),
        "error civic-address-malformed: `urn:x y` does not have the three parts of an extension",
    );
    passes("v4:99", &[&civic("script", "Latn"), &civic("extension", "urn:x dome The third"), &civic("a3", "latn")]);
    finds(
        "v4:99",
        "{ what = network-element, country = NO, elements = [] }",
        "warning civic-address-not-the-clients: this is the address of the network-element",
    );
}

#[test]
fn parts_that_belong_together() {
    let proof = |protocol: u8, algorithm: u8, method: u8| {
        format!(
            "{{ hex = {protocol:02x}{algorithm:02x}{method:02x}0000000000000001{} }}",
            if protocol == 3 { "01".repeat(17) } else { String::new() }
        )
    };
    finds("v4:90", &proof(0, 1, 0), "error authentication-inconsistent: algorithm 1 with protocol 0, which has 0");
    assert_eq!(
        findings("v4:90", &proof(3, 1, 1)),
        [
            "error authentication-inconsistent: protocol 3 detects replays with a counter (0)",
            "note value-unassigned: rdm 1 is not assigned"
        ]
    );
    passes("v4:90", &[&proof(0, 0, 0), &proof(1, 1, 0), &proof(3, 1, 0)]);
    let network = "access-network-name = fell";
    let alone = "error relay-sub-option-alone: sub-option 14 without the access technology (13)";
    finds("v4:82", &format!("{{ {network} }}"), alone);
    finds(
        "v4:82",
        "{ hex = 97020061 }",
        "note relay-sub-option-alone: a virtual subnet (151) without its control (152)",
    );
    passes("v4:82", &["{ hex = 0d0200040e046665666c }", "{ hex = 970200619800 }", "{ link-selection = 10.64.4.0 }"]);
    let realm = |realm: &str| format!("{{ tsps-kerberos-realm-name = {realm} }}");
    finds(
        "v4:122",
        &realm("Tarnfell.EXAMPLE"),
        "error realm-not-upper-case: tsps-kerberos-realm-name: Tarnfell.EXAMPLE has lower-case letters",
    );
    passes("v4:122", &[&realm("TARNFELL.EXAMPLE")]);
    passes("v4:77", &["05:64:6f:6d:65:73"]);
}

/// What holds for an option of DHCPv4 holds for the one that is the same thing in DHCPv6.
#[test]
fn options_of_both_families_are_held_to_the_same() {
    for (option, text, finding) in [
        ("v6:23", "ff02::1", "error address-not-a-host: ff02::1 is a multicast address, not the address of a host"),
        ("v6:23", "\"::\"", "error address-not-a-host: :: is the unspecified address, not the address of a host"),
        ("v6:22", "\"::1\"", "error address-not-a-host: ::1 is a loopback address, not the address of a host"),
        ("v6:41", "Europe/Zurich", "error time-zone-malformed: Europe/Zurich is not a POSIX time zone"),
        (
            "v6:39",
            "{ flags = s+n, name = dome-3. }",
            "error fqdn-flags-contradict: the flags n and s exclude each other",
        ),
        (
            "v6:103",
            "http://portal.tarnfell.example",
            "warning uri-not-https: http://portal.tarnfell.example does not begin with https",
        ),
        (
            "v6:103",
            "https://[2001:db8::1]/api",
            "warning captive-portal-by-address: the host [2001:db8::1] is an address",
        ),
        (
            "v6:136",
            "http://boot.tarnfell.example",
            "error uri-not-https: http://boot.tarnfell.example does not begin with https",
        ),
        (
            "v6:93",
            "{ offset = 6, psid-len = 8, psid = 0x3401 }",
            "error psid-too-wide: 0x3401 has bits set below its length 8",
        ),
    ] {
        finds(option, text, finding);
    }
    passes("v6:23", &["2001:db8:64::53, fe80::1"]);
    passes("v6:88", &["ff02::1:2"]);
    passes("v6:ntp-server", &["{ mc-addr = ff05::101 }"]);
    passes("v6:39", &["{ flags = none, name = dome-3. }"]);
    finds(
        "v6:39",
        "{ flags = none, name = dome-3 }",
        "note name-partial: `dome-3` is a partial name: it ends without the root label",
    );
}

#[test]
fn containers_hold_what_they_must() {
    let rule = "{ flags = f, ea-len = 16, ipv4-prefix-len = 24, ipv4-prefix = 192.0.2.0, ipv6-prefix = 2001:db8::/40, options = {} }";
    let (rule, relay) = (format!("s46-rule = {rule}"), "s46-br = 2001:db8::1");
    let (dmr, bind) = (
        "s46-dmr = 2001:db8:ff00::/64",
        "s46-v4v6bind = { ipv4-address = 192.0.2.4, ipv6-prefix = 2001:db8::/64, options = {} }",
    );
    passes("v6:94", &[&format!("{{ {rule}, {relay} }}")]);
    passes("v6:95", &[&format!("{{ {rule}, {dmr} }}")]);
    passes("v6:96", &[&format!("{{ {relay} }}"), &format!("{{ {bind}, {relay} }}")]);
    for (option, inside, message) in [
        ("v6:94", rule.clone(), "it holds 0 of s46-br, but must hold at least 1"),
        ("v6:94", relay.to_owned(), "it holds 0 of s46-rule, but must hold at least 1"),
        ("v6:94", format!("{rule}, {relay}, {dmr}"), "it holds 1 of s46-dmr or s46-v4v6bind, but must hold none"),
        ("v6:95", rule.clone(), "it holds 0 of s46-dmr, but must hold 1"),
        ("v6:96", bind.to_owned(), "it holds 0 of s46-br, but must hold at least 1"),
    ] {
        finds(option, &format!("{{ {inside} }}"), &format!("error container-content-wrong: {message}"));
    }
}

/// Of several items that are wrong in one way: how the first of them is found, and the octets of all.
#[test]
fn one_finding_has_all_the_places() {
    let codebook = Codebook::standard();
    for (option, octets, rule, places) in [
        ("v4:3", "00000000 0a400401 e0000001 7f000001", "address-not-a-host", &[0..4, 8..12, 12..16][..]),
        ("v4:121", "08 0a e0000001 08 0c 0a400401 08 0b 7f000001", "router-of-route-not-a-host", &[0..6, 12..18]),
        ("v4:25", "0000 0044 0001", "mtu-out-of-range", &[0..2, 4..6]),
        ("v4:117", "0006 ff00 002c ff01", "value-undefined", &[2..4, 6..8]),
        ("v4:143", "0000 0000", "value-malformed", &[2..2, 4..4]),
        (
            "v6:23",
            "ff020000000000000000000000000001 00000000000000000000000000000000",
            "address-not-a-host",
            &[0..16, 16..32],
        ),
    ] {
        let octets = hex::parse(octets).unwrap();
        let found = check::payload(codebook, codebook.find(option).unwrap(), &octets);
        let found = found.iter().find(|finding| finding.rule.name == rule);
        let all = found.iter().flat_map(|found| found.octets.iter().chain(found.also.iter().map(|(octets, _)| octets)));
        assert_eq!(all.cloned().collect::<Vec<_>>(), places, "{option}");
    }
}

/// The places count from the start of the message, however deep the option stands in it, and in a plan they are its characters.
#[test]
fn all_places_are_where_the_items_stand() {
    let codebook = Codebook::standard();
    let group = "ff020000000000000000000000000001";
    let reply = format!(
        "07000001 0001 000a 00030001 02005e005307 0002 000a 00030001 02005e005301 0017 0030 {group} 20010db8000000000000000000000053 {group}"
    );
    let reply = hex::parse(&reply).unwrap();
    let relayed = [&[13, 0][..], &[0; 32], &[0, 9, 0, reply.len() as u8], &reply].concat();
    for message in [reply.clone(), relayed] {
        let read = AnyMessage::read(Protocol::V6, &message).unwrap();
        let found = check::message(codebook, read);
        let found = found.iter().find(|finding| finding.rule.name == "address-not-a-host").unwrap();
        let places = [found.octets.clone().unwrap(), found.also[0].0.clone()];
        assert_eq!(
            (found.also.len(), places.map(|place| hex::plain(&message[place]))),
            (1, [group, group].map(str::to_owned))
        );
    }
    let plan = "[network.yard]\nsubnet = \"10.64.4.0/23\"\nsend.v4.domain-server = [\"0.0.0.0\", \"10.64.0.53\", \"224.0.0.1\"]\n";
    let loaded = Plan::read("plan.toml", plan, &mut |_| Err(String::new().into()));
    let found = check::plan(&loaded);
    let found = found.iter().find(|finding| finding.rule.name == "address-not-a-host").unwrap();
    let places = [&found.spot, &Some(found.related[0].0.clone())].map(|spot| &plan[spot.clone().unwrap().span]);
    assert_eq!((found.related.len(), found.also.len(), places), (1, 0, ["0.0.0.0", "224.0.0.1"]));
}

/// A finding says on one line, and in JSON, which option it is about and what it rests on.
#[test]
fn findings_are_shown_and_serialized() {
    let codebook = Codebook::standard();
    let routes = codebook.find("v4:121").unwrap();
    let found = check::payload(codebook, routes, &[8, 10, 64, 4]);
    let shown: Vec<String> = found.iter().map(ToString::to_string).collect();
    assert_eq!(
        shown,
        [
            "error: v4:121: 4 octets expected for the route's router, 2 left (value-malformed; RFC 3442, \"Classless Route Option Format\")"
        ]
    );
    let json = serde_json::to_value(&found[0]).unwrap();
    assert_eq!(
        (&json["option"], &json["rule"], &json["octets"][0]),
        (&"v4:121".into(), &"value-malformed".into(), &2.into())
    );
}
