//! What people write for a key or an option that is called otherwise here: words that the RFCs and the trade share.
//!
//! Likeness of spelling is a poor guide to meaning: `dns-servers` is spelt like `nds-servers`. So these come first, and where an
//! option of another protocol is called so, nothing is offered for its spelling.

use crate::finding::Finding;

/// What to write in place of a word.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Instead {
    /// This word, in the same place.
    Word(&'static str),
    /// Something else, or something in another place.
    Advice(&'static str),
}

impl Instead {
    /// The word to write in its place.
    pub(crate) fn word(self) -> Option<&'static str> {
        match self {
            Self::Word(word) => Some(word),
            Self::Advice(_) => None,
        }
    }

    /// A finding that says so.
    /// `called` is the name of the network or fleet that it is about.
    pub(crate) fn offered(self, finding: Finding, called: &str) -> Finding {
        match self {
            Self::Word(word) => finding.replace_safely(word),
            Self::Advice(advice) if called.is_empty() => finding.advice(advice),
            Self::Advice(advice) => finding.advice(advice.replace("NAME", called)),
        }
    }
}

type Rows = &'static [(&'static [&'static str], Instead)];

use Instead::{Advice, Word};

/// By where they stand: what the messages of unknown keys and options call it.
static WORDS: [(&str, Rows); 10] = [
    ("v4", OPTIONS_V4),
    ("v6", OPTIONS_V6),
    ("a plan", PLAN),
    ("a network", NETWORK),
    ("`advertise`", ADVERTISE),
    ("a fleet", FLEET),
    ("a fleet on a network", FLEET),
    ("a reservation", RESERVATION),
    ("a table of reservations", RESERVATION),
    ("a client", CLIENT),
];

/// What says where to boot from, where a key is wanted; the first is `siaddr` in the words of RFC 2131, section 2.
const BOOT: (&[&str], Instead) = (&["next-server", "filename", "boot-file"], Word("boot"));

/// What says the full names of clients, where an option is wanted.
const FQDN: (&[&str], Instead) =
    (&["fqdn", "full-name"], Advice("fqdn = \"*.tarnfell.example\" on the layer, outside `send`"));

static OPTIONS_V4: Rows = &[
    (
        &[
            "dns-servers",
            "dns-server",
            "name-servers",
            "nameservers",
            "nameserver",
            "domain-servers",
            "resolvers",
            "rdnss",
        ],
        Word("domain-server"),
    ),
    (&["domain-name-servers", "domain-name-server", "recursive-name-servers"], Word("domain-server")),
    (&["default-gateway", "default-router", "gateways", "ip-gateway"], Word("router")),
    (&["default-route"], Advice("router = \"…\", or \"0.0.0.0/0 via …\" in classless-static-route")),
    (
        &["search-domain", "search-domains", "search-list", "domain-search-list", "dns-search", "domain-list", "dnssl"],
        Word("domain-search"),
    ),
    (&["domain", "dns-domain", "domain-suffix", "dns-suffix"], Word("domain-name")),
    (&["ntp-server", "ntp", "network-time", "sntp-servers"], Word("ntp-servers")),
    (
        &["wins", "wins-server", "wins-servers", "netbios-name-server", "netbios-name-servers", "nbns-servers"],
        Word("netbios-name-srv"),
    ),
    (&["netbios-node", "node-type"], Word("netbios-node-type")),
    (
        &["netmask", "mask", "subnet", "network-mask"],
        Advice("nothing: the mask follows from `subnet` of the network, and is always sent"),
    ),
    (&["interface-mtu", "link-mtu"], Word("mtu-interface")),
    (
        &["next-server", "siaddr", "boot-server"],
        Advice(
            "boot = { server = \"…\", file = \"…\" } on the layer, beside `send`; it fills the header and the options",
        ),
    ),
    (&["filename", "boot-file", "bootfile", "boot-filename", "boot-file-name", "bootfile-url"], Word("bootfile-name")),
    (&["tftp-server", "tftp-server-name", "sname"], Word("server-name")),
    (&["tftp-servers", "tftp-server-addresses"], Word("tftp-server-address")),
    (
        &["lease", "lease-time", "ip-address-lease-time"],
        Advice("lease = \"8h\" on the network or at the top of the plan, outside `send`"),
    ),
    (&["renewal", "t1", "t2", "rebinding"], Advice("renew = \"…\" and rebind = \"…\" on the network, outside `send`")),
    (&["host-name", "client-name"], Word("hostname")),
    FQDN,
    (&["sip-server", "sip-proxy"], Word("sip-servers")),
    (&["classless-static-routes", "classless-routes", "static-routes"], Word("classless-static-route")),
    (&["syslog", "syslog-server", "syslog-servers", "log-servers"], Word("log-server")),
    (&["smtp", "mail-server", "mail-servers"], Word("smtp-server")),
    (&["time-zone", "timezone", "tz", "new-tzdb-timezone"], Word("tcode")),
    (&["vendor-options", "vendor-specific-information", "vendor-opts"], Word("vendor-specific")),
    (&["wlan-controller", "capwap", "capwap-ac", "wireless-controller"], Word("capwap-ac-v4")),
    (&["server-identifier", "server-id"], Advice("server = \"…\" at the top of the plan")),
    (&["captive-portal-url", "portal"], Word("dhcp-captive-portal")),
];

static OPTIONS_V6: Rows = &[
    (
        &["domain-server", "domain-servers", "dns", "dns-server", "name-servers", "nameservers", "nameserver", "rdnss"],
        Word("dns-servers"),
    ),
    (&["domain-name-servers", "recursive-name-servers", "resolvers"], Word("dns-servers")),
    (
        &["domain", "domain-name", "dns-domain", "search", "search-domain", "search-domains", "search-list", "dnssl"],
        Word("domain-list"),
    ),
    (&["ntp", "ntp-servers", "time-servers"], Word("ntp-server")),
    (&["sntp", "sntp-server"], Word("sntp-servers")),
    (
        &["router", "routers", "gateway", "default-gateway", "default-router", "default-route"],
        Advice("nothing: by IPv6 the router advertises itself; see `advertise` of the network"),
    ),
    (&["mtu", "mtu-interface", "link-mtu", "interface-mtu"], Advice("mtu = … in `advertise` of the network")),
    (&["bootfile-name", "boot-file", "bootfile", "boot-url", "boot-file-url", "filename"], Word("bootfile-url")),
    (&["lease", "lease-time", "valid-lifetime"], Advice("lease = \"8h\" on the network, outside `send`")),
    (&["preferred", "preferred-lifetime"], Advice("preferred = \"4h\" on the network, outside `send`")),
    FQDN,
    (&["sip-servers", "sip-server"], Word("sip-server-a")),
    (&["time-zone", "timezone", "tz", "tcode"], Word("new-tzdb-timezone")),
    (&["vendor-specific", "vendor-options"], Word("vendor-opts")),
    (&["dhcp-captive-portal", "captive-portal-url", "portal"], Word("captive-portal")),
    (&["capwap-ac-v4", "capwap", "capwap-ac"], Word("capwap-ac-v6")),
];

static PLAN: Rows = &[
    (&["networks", "subnet", "subnets"], Word("network")),
    (&["fleets", "class", "classes", "group", "groups"], Word("fleet")),
    (&["option", "options"], Advice("[send.v4] and [send.v6]")),
    (&["host", "hosts"], Word("reservation")),
    (&["codebook", "vendors"], Word("codebooks")),
    (&["name", "description"], Word("title")),
    (&["server-id", "server-identifier"], Word("server")),
    (&["lease-time", "lease-duration"], Word("lease")),
    (&["pool", "pools", "range", "ranges"], Advice("pool = [\"…\"] in [network.NAME]")),
    (&["router", "gateway", "domain-server", "dns", "domain-name"], Advice("the same in [send.v4]")),
];

static NETWORK: Rows = &[
    (&["range", "ranges", "pools", "address-pool", "address-range"], Word("pool")),
    (&["network", "net", "cidr", "ipv4-subnet"], Word("subnet")),
    (&["prefixes", "ipv6-prefix"], Word("prefix")),
    (&["excluded", "exclusion", "exclusions", "exclude-range", "reserved"], Word("exclude")),
    (
        &["router", "routers", "gateway", "default-gateway", "default-router"],
        Advice("router = \"…\" in [network.NAME.send.v4]"),
    ),
    (
        &["dns", "dns-servers", "domain-server", "domain-name-servers", "name-servers", "nameservers"],
        Advice("domain-server = [\"…\"] in [network.NAME.send.v4], or in [send.v4] for every network"),
    ),
    (
        &["domain-name", "domain", "ntp-servers"],
        Advice("the same in [network.NAME.send.v4], or in [send.v4] for every network"),
    ),
    (&["lease-time", "lease-duration", "valid-lifetime"], Word("lease")),
    (&["preferred-lifetime"], Word("preferred")),
    (&["t1", "renewal-time", "renew-time", "renewal"], Word("renew")),
    (&["t2", "rebinding-time", "rebind-time", "rebinding"], Word("rebind")),
    (&["option", "options", "dhcp-options", "v4", "v6"], Advice("[network.NAME.send.v4] and [network.NAME.send.v6]")),
    (
        &["reservation", "reservations", "host", "hosts"],
        Advice("[[reservation]] at the top of the plan, with network = \"NAME\""),
    ),
    (&["giaddr", "relay-agent", "relays", "relay-agents"], Word("relay")),
    (&["ra", "router-advertisement", "advertisement"], Word("advertise")),
    (&["netmask", "mask", "subnet-mask"], Advice("the length behind the subnet: subnet = \"…/24\"")),
    (&["prefix-delegation", "pd", "delegated-prefix"], Word("delegate")),
    BOOT,
];

static ADVERTISE: Rows = &[
    (&["dns", "rdnss", "dns-servers", "nameservers", "domain-server"], Word("name-servers")),
    (&["dnssl", "domain-search", "domains", "search-domains", "domain-list"], Word("search")),
    (&["m", "managed-flag", "managed-address", "stateful"], Word("managed")),
    (&["o", "other-flag", "other-config", "other-configuration", "stateless"], Word("other")),
    (&["a", "slaac", "auto", "autoconf"], Word("autonomous")),
    (&["router-lifetime", "default-lifetime"], Word("lifetime")),
    (&["valid-lifetime"], Word("valid")),
    (&["preferred-lifetime"], Word("preferred")),
    (&["max-interval", "ra-interval"], Word("interval")),
    (&["nat64", "nat64-prefix"], Word("pref64")),
    (&["captive-portal"], Word("portal")),
    (&["router-preference"], Word("preference")),
    (&["route", "routes-information", "route-information"], Word("routes")),
    (&["source", "address", "link-local"], Word("from")),
];

static FLEET: Rows = &[
    (&["range", "ranges", "pool", "pools", "subnet"], Advice("[fleet.NAME.on.NETWORK] with pool = [\"…\"]")),
    (
        &["vendor-class", "mac", "user-class", "arch", "hostname", "circuit-id", "remote-id", "duid"],
        Advice("match = { … } with this key in it"),
    ),
    (&["matches", "when", "if", "condition"], Word("match")),
    (&["option", "options"], Advice("[fleet.NAME.send.v4]")),
    (&["parameter-request-list", "prl", "asks", "wants"], Word("requests")),
    (&["lease-time", "lease-duration"], Word("lease")),
    BOOT,
];

static RESERVATION: Rows = &[
    (&["ip", "ip-address", "ipv4", "ipv4-address", "address-v4"], Word("address")),
    (&["ip6", "ipv6", "ipv6-address", "ip6-address", "address6"], Word("address-v6")),
    (&["hwaddr", "hardware", "mac-address", "ethernet", "macaddr", "chaddr", "physical-address"], Word("mac")),
    (&["host", "host-name", "device", "comment", "description"], Word("name")),
    (&["id", "identifier", "clientid", "client-identifier"], Word("client-id")),
    (&["subnet", "vlan", "net"], Word("network")),
    (&["option", "options"], Advice("send.v4 = { … }")),
    BOOT,
];

static CLIENT: Rows = &[
    (&["requests", "prl", "parameter-request-list"], Word("wants")),
    (&["mac-address", "hwaddr", "chaddr", "hardware"], Word("mac")),
    (&["architecture"], Word("arch")),
    (&["host-name", "name"], Word("hostname")),
];

/// The words that people write for keys and options that are called otherwise here, each with what to write in its place: `within` is
/// `v4` and `v6` for options, or what stands in messages, `a network`.
pub fn other_words(within: &str) -> impl Iterator<Item = (&'static str, &'static str)> + use<> {
    let rows = WORDS.iter().find(|(place, _)| *place == within).map_or(&[][..], |(_, rows)| rows);
    rows.iter().flat_map(|(words, instead)| words.iter().filter_map(|word| Some((*word, instead.word()?))))
}

/// What is meant by a word in this place, if it is one that people often write.
pub(crate) fn instead(within: &str, word: &str) -> Option<Instead> {
    let word = word.to_ascii_lowercase().replace(['_', ' '], "-");
    let (_, rows) = WORDS.iter().find(|(place, _)| *place == within)?;
    rows.iter().find(|(words, _)| words.contains(&word.as_str())).map(|(_, instead)| *instead)
}
