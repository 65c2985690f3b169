//! What is offered for words that people write and that are called otherwise here.

use crate::marked::in_plan;

/// Where a word stands, what people write, and what they are to write: in its place, or as advice where that begins with `…`.
const WORDS: &[(&str, &str, Option<&str>)] = &[
    ("v4", "dns-servers", Some("domain-server")),
    ("v4", "dns-server", Some("domain-server")),
    ("v4", "nameservers", Some("domain-server")),
    ("v4", "domain-name-servers", Some("domain-server")),
    ("v4", "resolvers", Some("domain-server")),
    ("v4", "default-gateway", Some("router")),
    ("v4", "default-router", Some("router")),
    ("v4", "routers", Some("router")),
    ("v4", "default-route", Some("…router = ")),
    ("v4", "search-domain", Some("domain-search")),
    ("v4", "domain-list", Some("domain-search")),
    ("v4", "dns-search", Some("domain-search")),
    ("v4", "dns-suffix", Some("domain-name")),
    ("v4", "domain", Some("domain-name")),
    ("v4", "ntp-server", Some("ntp-servers")),
    ("v4", "sntp-servers", Some("ntp-servers")),
    ("v4", "wins", Some("netbios-name-srv")),
    ("v4", "wins-servers", Some("netbios-name-srv")),
    ("v4", "netbios-name-servers", Some("netbios-name-srv")),
    ("v4", "netmask", Some("…nothing: the mask follows")),
    ("v4", "interface-mtu", Some("mtu-interface")),
    ("v4", "next-server", Some("…boot = {")),
    ("v4", "boot-file", Some("bootfile-name")),
    ("v4", "bootfile-url", Some("bootfile-name")),
    ("v4", "tftp-server", Some("server-name")),
    ("v4", "tftp-servers", Some("tftp-server-address")),
    ("v4", "lease", Some("…lease = \"8h\" on the network")),
    ("v4", "lease-time", Some("…lease = \"8h\" on the network")),
    ("v4", "host-name", Some("hostname")),
    ("v4", "sip-server", Some("sip-servers")),
    ("v4", "classless-static-routes", Some("classless-static-route")),
    ("v4", "syslog", Some("log-server")),
    ("v4", "timezone", Some("tcode")),
    ("v4", "vendor-options", Some("vendor-specific")),
    ("v4", "captive-portal", Some("dhcp-captive-portal")),
    ("v4", "server-id", Some("…server = \"…\" at the top")),
    ("v4", "information-refresh-time", Some("…v6:32 information-refresh-time is no option of DHCPv4")),
    ("v4", "routre", Some("router")),
    ("v4", "zzyzx", Some("…a name known to")),
    ("v6", "domain-server", Some("dns-servers")),
    ("v6", "nameserver", Some("dns-servers")),
    ("v6", "domain-name", Some("domain-list")),
    ("v6", "search-domains", Some("domain-list")),
    ("v6", "ntp-servers", Some("ntp-server")),
    ("v6", "sntp", Some("sntp-servers")),
    ("v6", "router", Some("…nothing: by IPv6 the router advertises")),
    ("v6", "default-gateway", Some("…nothing: by IPv6 the router advertises")),
    ("v6", "mtu", Some("…mtu = … in `advertise`")),
    ("v6", "bootfile-name", Some("bootfile-url")),
    ("v6", "lease", Some("…lease = \"8h\" on the network")),
    ("v6", "tcode", Some("new-tzdb-timezone")),
    ("v6", "dhcp-captive-portal", Some("captive-portal")),
    ("network", "range", Some("pool")),
    ("network", "pools", Some("pool")),
    ("network", "cidr", Some("subnet")),
    ("network", "prefixes", Some("prefix")),
    ("network", "exclusions", Some("exclude")),
    ("network", "router", Some("…router = \"…\" in [network.yard.send.v4]")),
    ("network", "default-gateway", Some("…router = \"…\" in [network.yard.send.v4]")),
    ("network", "dns", Some("…domain-server = [\"…\"] in [network.yard.send.v4]")),
    ("network", "lease-time", Some("lease")),
    ("network", "t1", Some("renew")),
    ("network", "options", Some("…[network.yard.send.v4]")),
    ("network", "reservation", Some("…[[reservation]] at the top")),
    ("network", "netmask", Some("…the length behind the subnet")),
    ("network", "giaddr", Some("relay")),
    ("network", "ra", Some("advertise")),
    ("network", "leese", Some("lease")),
    ("advertise", "rdnss", Some("name-servers")),
    ("advertise", "dnssl", Some("search")),
    ("advertise", "slaac", Some("autonomous")),
    ("advertise", "router-lifetime", Some("lifetime")),
    ("advertise", "nat64", Some("pref64")),
    ("fleet", "vendor-class", Some("…match = {")),
    ("fleet", "pool", Some("…[fleet.terns.on.NETWORK]")),
    ("fleet", "prl", Some("requests")),
    ("reservation", "ip", Some("address")),
    ("reservation", "ip-address", Some("address")),
    ("reservation", "ipv6", Some("address-v6")),
    ("reservation", "mac-address", Some("mac")),
    ("reservation", "subnet", Some("network")),
    ("plan", "networks", Some("network")),
    ("plan", "options", Some("…[send.v4]")),
    ("plan", "gateway", Some("…the same in [send.v4]")),
];

/// A plan in which a word stands, without the key that is wanted in its place.
fn plan(place: &str, word: &str, wanted: &str) -> String {
    let base = "[network.yard]\nsubnet = \"10.64.4.0/24\"\nprefix = \"2001:db8:64:4::/64\"\n";
    let text = match place {
        "v4" | "v6" => format!("{base}[network.yard.send.{place}]\n{word} = \"x\"\n"),
        "network" => format!("{base}{word} = \"x\"\n"),
        "advertise" => format!("{base}advertise = {{ {word} = \"x\" }}\n"),
        "fleet" => format!("{base}[fleet.terns]\nmatch = {{ vendor-class = \"Tern *\" }}\n{word} = \"x\"\n"),
        "reservation" => {
            format!("{base}[[reservation]]\nnetwork = \"yard\"\nmac = \"02:00:5e:00:53:11\"\n{word} = \"x\"\n")
        }
        _ if wanted == "network" => format!("{word} = \"x\"\n"),
        _ => format!("{word} = \"x\"\n{base}"),
    };
    let is_wanted = |line: &&str| line.starts_with(&format!("{wanted} = ")) && !line.ends_with("= \"x\"");
    text.lines().filter(|line| !is_wanted(line)).map(|line| format!("{line}\n")).collect()
}

#[test]
fn the_trades_words_are_understood() {
    for (place, word, wanted) in WORDS {
        let found = in_plan(&plan(place, word, wanted.unwrap_or_default()));
        let unknown = found.iter().find(|one| matches!(one.rule.name, "unknown-key" | "unknown-option"));
        let unknown = unknown.unwrap_or_else(|| panic!("{word} is known in {place}: {found:#?}"));
        match wanted.map(|wanted| wanted.strip_prefix('…').ok_or(wanted)) {
            Some(Ok(advice)) => {
                let given = unknown.advice.as_deref().unwrap_or_default();
                assert!(given.starts_with(advice) && unknown.replace.is_none(), "{word} in {place}: {unknown:?}");
            }
            Some(Err(word_instead)) => {
                assert_eq!(unknown.replace.as_deref(), Some(word_instead), "{word} in {place}");
                // What is offered is known where it is offered.
                let mended = in_plan(&plan(place, word_instead, word_instead));
                assert!(
                    mended.iter().all(|one| !one.rule.name.starts_with("unknown")),
                    "{word_instead} in {place}: {mended:?}"
                );
            }
            None => assert_eq!((&unknown.replace, &unknown.advice), (&None, &None)),
        }
    }
}

#[test]
fn forms_of_other_files_are_understood() {
    let found =
        |text: &str| in_plan(text).into_iter().find(|one| one.severity == oplex::finding::Severity::Error).unwrap();
    for (line, bare) in [
        ("subnet = 10.64.4.0/24", "10.64.4.0/24"),
        ("pool = [10.64.4.2-10.64.4.9]", "10.64.4.2-10.64.4.9"),
        ("prefix = 2001:db8:64:4::/64", "2001:db8:64:4::/64"),
        ("lease = 8h", "8h"),
    ] {
        let finding = found(&format!("[network.yard]\n{line}\n"));
        let quoted = format!("\"{bare}\"");
        assert_eq!((finding.rule.name, finding.replace.as_deref()), ("file-not-toml", Some(quoted.as_str())), "{line}");
    }
    let masked = found("[network.yard]\nsubnet = \"10.20.0.0/255.255.255.0\"\n");
    assert!(masked.message.ends_with("write the length of the prefix: `10.20.0.0/24`"), "{masked:?}");
    let started = found(
        &plan("fleet", "requests", "")
            .replace("requests = \"x\"", "")
            .replace("vendor-class = \"Tern *\"", "mac = \"02:00:5e\""),
    );
    assert!(started.message.ends_with("for all that begin so write `02:00:5e:*`"), "{started:?}");
}

/// The words that an editor completes by are those that findings offer, and what stands in their place is known there.
#[test]
fn the_words_that_are_offered_can_be_listed() {
    let keys = oplex::plan::keys();
    let mut count = 0;
    for (within, table) in
        [("a plan", "plan"), ("a network", "network"), ("a fleet", "fleet"), ("a reservation", "reservation")]
    {
        let (_, known) = keys.iter().find(|(name, _)| *name == table).unwrap();
        for (word, own) in oplex::plan::other_words(within) {
            assert!(known.contains(&own) && !known.contains(&word), "{word} for {own} in {within}");
            count += 1;
        }
    }
    for family in ["v4", "v6"] {
        for (word, own) in oplex::plan::other_words(family) {
            let found = oplex::codebook::Codebook::standard().find(&format!("{family}:{own}"));
            assert_eq!(found.map(|option| &*option.name), Ok(own), "{word} for {own} of {family}");
            count += 1;
        }
    }
    assert!(count > 100, "{count} words");
    assert_eq!(oplex::plan::other_words("nowhere").count(), 0);
    // The rules in no order are those of the catalogue.
    let mut rules: Vec<&str> = oplex::check::rules().map(|rule| rule.name).collect();
    rules.sort_unstable();
    assert_eq!(rules, oplex::check::catalogue().iter().map(|rule| rule.name).collect::<Vec<_>>());
}
