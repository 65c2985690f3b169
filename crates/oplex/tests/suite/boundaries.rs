//! What rules say of values on both sides of what is plainly right, which they see before they look closer.

use oplex::check;
use oplex::codebook::Codebook;
use oplex::layout::Input;
use oplex::octets::hex;

/// An option, its value as a person writes it or its octets behind `=`, and the rules that find something in it.
type Case = (&'static str, &'static str, &'static str);

const ADDRESSES: &[Case] = &[
    ("v4:3", "10.64.4.1", ""),
    ("v4:3", "10.64.4.1, 10.64.4.2", ""),
    ("v4:3", "10.64.4.1, 10.64.4.1", "list-item-repeated"),
    ("v4:3", "10.64.4.1, 10.64.4.2, 10.64.4.3, 10.64.4.1", "list-item-repeated"),
    ("v4:3", "=0a4004010a", "value-malformed"),
    ("v4:3", "=", "value-malformed"),
    ("v4:6", "0.0.0.0", "address-not-a-host"),
    ("v4:6", "0.0.0.1", ""),
    ("v4:6", "1.0.0.0", ""),
    ("v4:6", "126.255.255.255", ""),
    ("v4:6", "127.0.0.1", "address-not-a-host"),
    ("v4:6", "128.0.0.1", ""),
    ("v4:6", "223.255.255.255", ""),
    ("v4:6", "224.0.0.1", "address-not-a-host"),
    ("v4:6", "240.0.0.1", "address-not-a-host"),
    ("v4:6", "255.255.255.255", "address-not-a-host"),
    ("v4:28", "10.64.5.255", ""),
    ("v4:28", "255.255.255.255", ""),
    ("v4:28", "0.0.0.0", "broadcast-address-invalid"),
    ("v4:28", "127.255.255.255", "broadcast-address-invalid"),
    ("v4:1", "255.255.254.0", ""),
    ("v4:1", "255.254.255.0", "netmask-not-contiguous"),
    ("v4:121", "10.64.8.0/21 via 10.64.4.1", ""),
    ("v4:121", "10.64.8.0/21 on-link", ""),
    ("v4:121", "10.64.8.0/21 via 224.0.0.1", "router-of-route-not-a-host"),
    ("v4:121", "=150a40090a400401", "route-host-bits-set"),
    ("v4:121", "=210a4008000a400401", "value-malformed"),
    ("v6:23", "2001:db8:64::53, 2001:db8:64::54", ""),
    ("v6:23", "2001:db8:64::53, 2001:db8:64::53", "list-item-repeated"),
    ("v6:23", "fe80::1", ""),
    ("v6:23", "fd00::53", ""),
    ("v6:23", "::1", "address-not-a-host"),
    ("v6:23", "ff02::1", "address-not-a-host"),
    ("v6:56", "{ mc-addr = ff05::101 }", ""),
    ("v6:56", "{ mc-addr = 2001:db8::1 }", "address-not-a-group"),
    ("v6:56", "=", "value-malformed"),
];

const NAMES: &[Case] = &[
    ("v4:15", "tarnfell.example", ""),
    ("v4:15", "tarnfell.example.", ""),
    ("v4:15", ".tarnfell", "host-name-invalid"),
    ("v4:15", "tarnfell..example", "host-name-invalid"),
    ("v4:15", "-tarnfell", "host-name-invalid"),
    ("v4:15", "tarnfell-.example", "host-name-invalid"),
    ("v4:15", "tarn_fell.example", ""),
    ("v4:15", "tarnfell.example domes.example", "name-has-separator"),
    ("v4:15", "=7461726e00", "text-ends-in-nul"),
    ("v4:12", "dome-3", ""),
    ("v4:12", "dome_3", "host-name-invalid"),
    ("v4:15", "a123456789a123456789a123456789a123456789a123456789a123456789.b.c", ""),
    ("v4:15", "a123456789a123456789a123456789a123456789a123456789a123456789a12345", "name-too-long"),
    ("v4:119", "tarnfell.example, domes.tarnfell.example", ""),
    ("v4:119", "tarnfell.example, tarnfell.example", "list-item-repeated"),
    ("v6:24", "tarnfell.example, domes.tarnfell.example", ""),
    ("v6:24", "tarnfell.example, tarnfell.example", "list-item-repeated"),
    ("v6:24", "=00", "name-is-root"),
    ("v6:24", "=0474617266 00 00", "name-is-root"),
    ("v6:24", "=04746172", "value-malformed"),
    ("v6:24", "=0474612f66 00", "host-name-invalid"),
];

const URIS: &[Case] = &[
    ("v4:114", "https://portal.tarnfell.example/api", ""),
    ("v4:114", "HTTPS://portal.tarnfell.example/api", ""),
    ("v4:114", "http://portal.tarnfell.example/api", "uri-not-https"),
    ("v4:114", "https://10.64.0.9/api", "captive-portal-by-address"),
    ("v4:114", "https://10.64.0.9:8443", "captive-portal-by-address"),
    ("v4:114", "https://[2001:db8::9]/api", "captive-portal-by-address"),
    ("v4:114", "https://4domes.example/api", ""),
    ("v4:114", "https://portal.tarnfell.example/10.64.0.9", ""),
    ("v4:114", "urn:ietf:params:capport:unrestricted", ""),
    ("v4:114", "urn:ietf:params:capport:nothing", "captive-portal-name-unknown"),
    ("v4:114", "https:", "uri-malformed"),
    ("v4:114", "https://a b", "uri-malformed"),
    ("v6:103", "http://10.64.0.9/", "captive-portal-by-address uri-not-https"),
    ("v4:143", "https://b.example, https://c.example:8443", ""),
    ("v4:143", "https://b.example, http://b.example", "uri-not-https"),
    ("v4:143", "https://b.example, https://b.example", "list-item-repeated"),
    ("v4:100", "CET-1CEST,M3.5.0,M10.5.0/3", ""),
    ("v4:100", "Europe/Zurich", "time-zone-malformed"),
    ("v4:101", "Europe/Zurich", ""),
    ("v4:101", "CET-1CEST,M3.5.0,M10.5.0/3", "time-zone-malformed"),
    ("v6:41", "Europe/Zurich", "time-zone-malformed"),
    ("v6:42", "Europe, Zurich", "time-zone-malformed"),
];

const NUMBERS: &[Case] = &[
    ("v4:26", "1500", ""),
    ("v4:26", "576", ""),
    ("v4:26", "575", "mtu-out-of-range"),
    ("v4:26", "68", "mtu-out-of-range"),
    ("v4:26", "=0043", "mtu-out-of-range"),
    ("v4:61", "=0102005e005311", ""),
    ("v4:61", "=fe01", "value-unassigned"),
    ("v4:61", "=ff00000001 0003000102005e005311", ""),
    ("v4:61", "=ff00000001 0003000102005e0053", "duid-malformed"),
    ("v4:53", "=05", ""),
    ("v4:53", "=63", "value-undefined"),
    ("v6:82", "60", ""),
    ("v6:82", "=0000003b", "value-out-of-range"),
    ("ra:5", "{ mtu = 1280 }", ""),
    ("ra:5", "=0000000004ff", "value-out-of-range"),
    ("ra:5", "=0001000005dc", "value-undefined"),
];

const ASSOCIATIONS: &[Case] = &[
    ("v6:3", "{ iaid = 1, t1 = 4h, t2 = 6h, options = {} }", ""),
    ("v6:3", "{ iaid = 1, t1 = 6h, t2 = 4h, options = {} }", "message-times-out-of-order"),
    ("v6:3", "{ iaid = 1, t1 = 6h, t2 = 0, options = {} }", ""),
    ("v6:25", "{ iaid = 1, t1 = 6h, t2 = 4h, options = {} }", "message-times-out-of-order"),
    ("v6:138", "=00000001 00005460 00003840", "message-times-out-of-order"),
    ("v6:5", "{ address = 2001:db8:64::20, preferred-lifetime = 8h, valid-lifetime = 12h, options = {} }", ""),
    (
        "v6:5",
        "{ address = 2001:db8:64::20, preferred-lifetime = 8h, valid-lifetime = 0, options = {} }",
        "message-times-out-of-order",
    ),
    (
        "v6:5",
        "{ address = ff02::1, preferred-lifetime = 8h, valid-lifetime = 12h, options = {} }",
        "leased-address-invalid",
    ),
    (
        "v6:26",
        "{ preferred-lifetime = 8h, valid-lifetime = 12h, prefix-length = 56, prefix = \"2001:db8:64:100::\", options = {} }",
        "",
    ),
    (
        "v6:26",
        "{ preferred-lifetime = 8h, valid-lifetime = 12h, prefix-length = 48, prefix = \"2001:db8:64:100::\", options = {} }",
        "delegated-prefix-host-bits-set",
    ),
    ("v6:26", "=00007080 0000a8c0 81 20010db8006401000000000000000000", "value-out-of-range"),
    (
        "v6:3",
        "=00000001 00003840 00005460 0005 0018 20010db8006400000000000000000020 0000a8c0 00007080",
        "message-times-out-of-order",
    ),
    ("v6:3", "=00000001 00003840 00005460 0017 0010 20010db8006400000000000000000053", "option-misplaced"),
    ("v6:3", "=00000001 00003840 00005460 000d 0002 0000 000d 0002 0000", "option-repeated"),
    ("v6:3", "=00000001 00003840 00005460 fe00 0001 00", ""),
    ("v6:3", "=00000001 00003840 00005460 000d 0009 0000", "value-malformed"),
];

const ADVERTISED: &[Case] = &[
    ("ra:3", "{ length = 64, flags = on-link+autonomous, valid = 30d, preferred = 7d, prefix = 2001:db8:64:10:: }", ""),
    (
        "ra:3",
        "{ length = 56, flags = on-link+autonomous, valid = 30d, preferred = 7d, prefix = 2001:db8:64:: }",
        "ra-autonomous-prefix-not-64",
    ),
    (
        "ra:3",
        "{ length = 64, flags = on-link, valid = 7d, preferred = 30d, prefix = 2001:db8:64:10:: }",
        "ra-lifetimes-out-of-order",
    ),
    (
        "ra:3",
        "{ length = 64, flags = on-link, valid = 30d, preferred = 0, prefix = 2001:db8:64:10:: }",
        "ra-lifetime-zero",
    ),
    (
        "ra:3",
        "{ length = 64, flags = on-link, valid = 30d, preferred = 7d, prefix = 2001:db8:64:10::1 }",
        "ra-prefix-host-bits-set",
    ),
    ("ra:25", "{ lifetime = 30m, servers = [2001:db8:64::53, 2001:db8:64::54] }", ""),
    ("ra:25", "{ lifetime = 0, servers = [2001:db8:64::53, 2001:db8:64::53] }", "list-item-repeated ra-lifetime-zero"),
    ("ra:31", "{ lifetime = 30m, domains = [tarnfell.example, domes.tarnfell.example] }", ""),
    ("ra:31", "{ lifetime = 30m, domains = [tarnfell.example, tarnfell.example] }", "list-item-repeated"),
    ("ra:31", "=0000 00000708 047461726600 000000", "value-malformed"),
    ("ra:31", "=0000 00000708 0474617266 00 0000 0000000000000000", "ra-padding-too-long"),
    ("ra:31", "=0000 00000708 0000000000000000", "value-malformed"),
    ("ra:37", "https://portal.tarnfell.example/api", ""),
    ("ra:37", "http://10.64.0.9/api", "captive-portal-by-address uri-not-https"),
];

#[test]
fn values_beside_what_is_plainly_right_have_their_verdicts() {
    let codebook = Codebook::standard();
    let mut wrong = Vec::new();
    for (id, value, expected) in [ADDRESSES, NAMES, URIS, NUMBERS, ASSOCIATIONS, ADVERTISED].concat() {
        let definition = codebook.find(id).unwrap();
        let octets = match value.strip_prefix('=') {
            Some(octets) => hex::parse(octets).unwrap(),
            None => codebook.encode(definition, &Input::from_text(value)).unwrap().octets,
        };
        let mut found: Vec<&str> =
            check::payload(codebook, definition, &octets).iter().map(|finding| finding.rule.name).collect();
        found.sort_unstable();
        if found.join(" ") != expected {
            wrong.push(format!("{id} {value}: {}", found.join(" ")));
        }
    }
    assert!(wrong.is_empty(), "{wrong:#?}");
}

/// What is found in an option inside another stands where it stands, whether all beside it is plainly right or has to be walked
/// through: a status with a letter outside ASCII is right, and not plainly.
#[test]
fn what_stands_beside_an_option_changes_nothing() {
    let codebook = Codebook::standard();
    let status = "000d 0006 0000 c389 7461";
    let cases = [
        ("v6:3", "00000001 00003840 00005460", "0005 0018 ff020000000000000000000000000001 00000001 00000002", 16..40),
        ("v6:3", "00000001 00003840 00005460", "0005 0018 20010db8006400000000000000000020 00000002 00000001", 32..40),
        (
            "v6:25",
            "00000001 00003840 00005460",
            "001a 0019 00000001 00000002 30 20010db8006401000000000000000000",
            16..41,
        ),
        ("v6:3", "00000001 00003840 00005460", "0017 0010 20010db8006400000000000000000053", 12..32),
        (
            "v6:5",
            "20010db8006400000000000000000020 00000001 00000002",
            "0017 0010 ff020000000000000000000000000001",
            28..44,
        ),
    ];
    for (id, head, inner, place) in cases {
        let definition = codebook.find(id).unwrap();
        let found = |parts: [&str; 3]| {
            let octets = hex::parse(&parts.concat()).unwrap();
            let findings = check::payload(codebook, definition, &octets);
            findings.into_iter().map(|finding| (finding.rule.name, finding.octets.unwrap())).collect::<Vec<_>>()
        };
        let alone = found([head, inner, ""]);
        assert_eq!(
            alone.iter().map(|(_, octets)| octets.clone()).next(),
            Some(place.clone()),
            "{id} {inner}: {alone:?}"
        );
        assert_eq!(found([head, inner, status]), alone, "{id} {inner}");
        let moved =
            |(rule, octets): &(&'static str, std::ops::Range<usize>)| (*rule, octets.start + 10..octets.end + 10);
        assert_eq!(found([head, status, inner]), alone.iter().map(moved).collect::<Vec<_>>(), "{id} {inner}");
    }
}
