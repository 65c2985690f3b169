//! Rules across what the router announces, DHCPv6 and DHCPv4.

use super::together::told as find_v4;
use super::{Check, Find, Whom, v6_plan};
use crate::answer::{Asks, Told};
use crate::finding::{Finding, Rule, Severity};
use crate::layout::{Value, duration_text};
use crate::plan::{Advertise, Sent};

pub(super) static CHECKS: [&Check; 8] = [
    &ANNOUNCEMENT_MISSING,
    &NOBODY_ASKS,
    &MANAGED_WITHOUT_POOL,
    &NO_NAME_SERVER_V6,
    &ANNOUNCED_OTHERWISE,
    &ANNOUNCED_TOO_SHORTLY,
    &FAMILIES_DISAGREE,
    &V6_ONLY_WITHOUT_NAT64,
];

/// The option of this code among what DHCPv6 tells.
fn find_v6<'t, 'p>(all: &'t [Told<'p>], code: u16) -> Option<&'t Told<'p>> {
    all.iter().find(|told| told.sent.definition.is_v6() && told.sent.definition.code == code)
}

/// Whether a single thing is of some form.
type Picks = fn(&Value) -> bool;

/// The single things in a value, as text, of this form.
fn leaves(sent: &Sent, wanted: Picks) -> Vec<String> {
    let mut found = Vec::new();
    if let Some(payload) = sent.payload() {
        payload.value.leaves(&mut |leaf, _| {
            if wanted(leaf) {
                found.push(leaf.to_string().trim_end_matches('.').to_ascii_lowercase());
            }
        });
    }
    found
}

fn is_name(leaf: &Value) -> bool {
    matches!(leaf, Value::Name(_) | Value::Text(_))
}

fn is_address(leaf: &Value) -> bool {
    matches!(leaf, Value::Ipv6(_))
}

/// What is announced, when these are the devices of no fleet: announcements go to all alike.
fn announced<'p>(whom: &Whom<'p>) -> Option<&'p Advertise> {
    whom.network.v6.advertise.as_deref().filter(|_| whom.fleet.is_none())
}

static ANNOUNCEMENT_MISSING: Check = Check {
    rule: Rule {
        name: "announcement-missing",
        severity: Severity::Warning,
        rfc: "RFC 4861, section 4.2",
        summary: "a network has a prefix, and no line says what its router announces",
        why: "The router's flags decide whether a host asks DHCPv6 for anything. Without them nobody can tell whether what \
              the plan says ever reaches a host.",
        example: v6_plan!("[network.mast.send.v6]\ndns-servers = \"2001:db8:64::53\"\n"),
    },
    find: Find::BothFamilies(|whom, _, _, findings| {
        let Some(prefix) = whom.network.v6.prefix.as_ref().filter(|_| whom.fleet.is_none()) else { return };
        if whom.network.v6.advertise.is_none() {
            let message = format!("no line says what the router of {} announces", whom.network.name);
            let finding = ANNOUNCEMENT_MISSING.rule.finding(message).at(prefix.spot.clone());
            findings.push(
                finding.instead("advertise = { other = true }, or managed = true with a pool, or {} for neither"),
            );
        }
    }),
};

static NOBODY_ASKS: Check = Check {
    rule: Rule {
        name: "dhcpv6-asked-by-nobody",
        severity: Severity::Warning,
        rfc: "RFC 4861, section 4.2",
        summary: "DHCPv6 has something to tell, and the announced flags make no host ask for it",
        why: "Without M a host asks for no address, without M and O for nothing at all. The server is right, and nothing of it \
              ever arrives.",
        example: v6_plan!(
            "advertise = { name-servers = \"2001:db8:64::53\" }\n[network.mast.send.v6]\ndns-servers = \"2001:db8:64::53\"\n"
        ),
    },
    find: Find::BothFamilies(|whom, _, told, findings| {
        let Some(said) = announced(whom) else { return };
        let network = whom.network;
        let rule = &NOBODY_ASKS.rule;
        if !said.header.managed
            && let Some(pool) = network.v6.pools.first()
        {
            let message = format!("{} lends IPv6 addresses, and `managed` is not announced: nobody asks", network.name);
            let finding = rule.finding(message).at(pool.spot.clone());
            let finding = finding.related(said.flag_spot("managed").clone(), "announced here");
            findings.push(finding.instead("managed = true, or no pool"));
        }
        if Asks::on(network) != Asks::Nothing {
            return;
        }
        // What everyone is told may well be meant for other networks.
        let own = told.iter().find(|told| std::ptr::eq(told.layer, &network.layer));
        let Some(first) = own.or_else(|| told.first()) else { return };
        let message = format!(
            "{} is told by DHCPv6 on {}, and neither `managed` nor `other` is announced: nobody asks",
            first.sent.definition.name, network.name
        );
        let finding = rule.finding(message).at(said.flag_spot("other").clone());
        let finding = finding.related(first.sent.key.clone(), "told here").instead("other = true");
        findings.push(if own.is_some() { finding } else { finding.as_severity(Severity::Note) });
    }),
};

static MANAGED_WITHOUT_POOL: Check = Check {
    rule: Rule {
        name: "managed-without-pool",
        severity: Severity::Error,
        rfc: "RFC 4861, section 4.2",
        summary: "hosts are sent to DHCPv6 for addresses, and the network lends none",
        why: "They ask again and again, and those that make no address of their own stay without one.",
        example: v6_plan!("advertise = { managed = true, name-servers = \"2001:db8:64::53\" }\n"),
    },
    find: Find::BothFamilies(|whom, _, _, findings| {
        let Some(said) = announced(whom).filter(|said| said.header.managed) else { return };
        let network = whom.network;
        let own = whom.plan.fleets.iter().flat_map(|fleet| &fleet.on);
        let of_fleets = own.filter(|on| std::ptr::eq(&whom.plan.networks[on.network], network));
        let pools = !network.v6.pools.is_empty() || of_fleets.into_iter().any(|on| !on.pools_v6.is_empty());
        let reserved = || {
            let mut rows = whom.plan.reservations.with_v6();
            rows.any(|(row, ..)| std::ptr::eq(&whom.plan.networks[row.network()], network))
        };
        if !pools && !reserved() {
            let message = format!("`managed` is announced on {}, and it lends no IPv6 addresses", network.name);
            let finding = MANAGED_WITHOUT_POOL.rule.finding(message).at(said.flag_spot("managed").clone());
            findings.push(finding.instead("a pool of IPv6 addresses, or other = true in place of managed"));
        }
    }),
};

static NO_NAME_SERVER_V6: Check = Check {
    rule: Rule {
        name: "no-name-server-v6",
        severity: Severity::Warning,
        rfc: "RFC 8106, section 1",
        summary: "neither the announcement nor DHCPv6 tells hosts a name server",
        why: "They have addresses and find nothing by name, unless IPv4 beside it helps out.",
        example: v6_plan!("advertise = {}\n"),
    },
    find: Find::BothFamilies(|whom, _, told, findings| {
        let Some(said) = announced(whom).filter(|said| said.sent(25).is_none()) else { return };
        if find_v6(told, 23).is_some() && Asks::on(whom.network).asks() {
            return;
        }
        let message = format!("hosts on {} are told no name server by IPv6", whom.network.name);
        let finding = NO_NAME_SERVER_V6.rule.finding(message).at(said.spot.clone());
        findings.push(finding.instead("name-servers = [\"…\"] in what is advertised"));
    }),
};

static ANNOUNCED_OTHERWISE: Check = Check {
    rule: Rule {
        name: "announced-otherwise",
        severity: Severity::Warning,
        rfc: "RFC 8106, section 5.3.2",
        summary: "the announcement and DHCPv6 tell hosts different name servers, domains or portals",
        why: "Which of them counts differs from host to host, so some find what others do not.",
        example: v6_plan!(
            "advertise = { other = true, name-servers = \"2001:db8:64::53\" }\n[network.mast.send.v6]\ndns-servers = \"2001:db8:64::54\"\n"
        ),
    },
    find: Find::BothFamilies(|whom, _, told, findings| {
        let Some(said) = whom.network.v6.advertise.as_deref() else { return };
        let pairs: [(u16, u16, &str, Picks); 3] =
            [(25, 23, "name servers", is_address), (31, 24, "domains", is_name), (37, 103, "portals", is_name)];
        for (announced, option, what, wanted) in pairs {
            let (Some(announced), Some(told)) = (said.sent(announced), find_v6(told, option)) else { continue };
            if announced.payload().is_none() || told.sent.payload().is_none() || !Asks::on(whom.network).asks() {
                continue;
            }
            let (one, other) = (leaves(announced, wanted), leaves(told.sent, wanted));
            if one != other {
                let message = format!("{whom}: other {what} are announced than DHCPv6 tells");
                let finding = ANNOUNCED_OTHERWISE.rule.finding(message).at(announced.spot.clone());
                let finding = finding.related(told.sent.spot.clone(), "told here").instead(other.join(", "));
                findings.push(if what == "portals" { finding.by("RFC 8910, section 2") } else { finding });
            }
        }
    }),
};

static ANNOUNCED_TOO_SHORTLY: Check = Check {
    rule: Rule {
        name: "announced-too-shortly",
        severity: Severity::Error,
        rfc: "RFC 4861, section 6.2.1",
        summary: "something announced is over before the router announces it again",
        why: "Between two announcements hosts lose their router, their prefix or their name servers, and get them back.",
        example: v6_plan!(
            "advertise = { name-servers = \"2001:db8:64::53\", interval = \"20m\", lifetime = \"15m\" }\n"
        ),
    },
    find: Find::BothFamilies(|whom, _, _, findings| {
        let Some(said) = announced(whom) else { return };
        let every = said.interval;
        let mut find = |what: &str, seconds: u32, sent: Option<&Sent>| {
            if seconds == 0 || seconds >= every {
                return;
            }
            let (lasts, shown) = (duration_text(seconds), duration_text(every));
            let message = format!("{what} lasts {lasts}, and is announced every {shown}");
            let spot = sent.map_or(&said.spot, |sent| &sent.spot);
            let finding = ANNOUNCED_TOO_SHORTLY.rule.finding(message).at(spot.clone());
            let finding = finding.instead(format!("{} or more", duration_text(every.saturating_mul(3))));
            findings.push(match sent.map(|sent| sent.definition.code) {
                Some(25 | 31) => finding.as_severity(Severity::Warning).by("RFC 8106, section 5.1"),
                _ => finding,
            });
        };
        find("being a default router", said.header.router_lifetime.into(), None);
        for sent in &said.sends {
            let name = &sent.definition.name;
            let field = if sent.definition.code == 3 { "valid" } else { "lifetime" };
            let Some(Value::Record(fields)) = sent.payload().map(|payload| &payload.value) else { continue };
            if let Some((_, Value::Seconds(seconds))) = fields.iter().find(|(known, _)| **known == *field) {
                find(name, *seconds, Some(sent));
            }
        }
    }),
};

static FAMILIES_DISAGREE: Check = Check {
    rule: Rule {
        name: "families-disagree",
        severity: Severity::Note,
        rfc: "",
        summary: "DHCPv4 and DHCPv6 tell a device different things about one service",
        why: "It takes the one or the other, by chance or by taste, and two of a kind behave differently.",
        example: v6_plan!(
            "subnet = \"10.64.40.0/24\"\nadvertise = { other = true, name-servers = \"2001:db8:64::53\" }\n\
             [network.mast.send.v4]\nrouter = \"10.64.40.1\"\ndomain-server = \"10.64.0.53\"\ndomain-search = \"tarnfell.example\"\ndomain-name = \"tarnfell.example\"\n\
             [network.mast.send.v6]\ndomain-list = \"domes.tarnfell.example\"\n"
        ),
    },
    find: Find::BothFamilies(|whom, v4, v6, findings| {
        portal_announced(whom, v4, v6, findings);
        if Asks::on(whom.network).asks() {
            services(whom, v4, v6, findings);
            lost_without_ipv4(whom, v4, v6, findings);
        }
    }),
};

fn portal_announced(whom: &Whom<'_>, v4: &[Told<'_>], v6: &[Told<'_>], findings: &mut Vec<Finding>) {
    // What DHCPv6 says of a portal is held against the announcement already.
    let announced = whom.network.v6.advertise.as_deref().and_then(|said| said.sent(37));
    if let (Some(one), Some(announced), None) = (find_v4(v4, 114), announced, find_v6(v6, 103)) {
        let both = one.sent.payload().is_some() && announced.payload().is_some();
        if both && leaves(one.sent, is_name) != leaves(announced, is_name) {
            let message = format!("{whom}: another portal by DHCPv4 than is announced");
            let finding = FAMILIES_DISAGREE.rule.finding(message).at(announced.spot.clone());
            let finding = finding.related(one.sent.spot.clone(), "by DHCPv4");
            findings.push(finding.by("RFC 8910, section 2"));
        }
    }
}

/// What both families tell, of one service each.
fn services(whom: &Whom<'_>, v4: &[Told<'_>], v6: &[Told<'_>], findings: &mut Vec<Finding>) {
    let mut find = |what: &str, one: &Told<'_>, other: &Told<'_>| {
        let message = format!("{whom}: {what} by DHCPv4 than by DHCPv6");
        let finding = FAMILIES_DISAGREE.rule.finding(message).at(other.sent.spot.clone());
        findings.push(finding.related(one.sent.spot.clone(), "by DHCPv4"));
    };
    let pairs = [
        (119, 24, "other domains"),
        (114, 103, "another portal"),
        (100, 41, "another time zone"),
        (101, 42, "another time zone"),
    ];
    for (code, code_v6, what) in pairs {
        let (Some(one), Some(other)) = (find_v4(v4, code), find_v6(v6, code_v6)) else { continue };
        let both = one.sent.payload().is_some() && other.sent.payload().is_some();
        if both && leaves(one.sent, is_name) != leaves(other.sent, is_name) {
            find(what, one, other);
        }
    }
    // The names by which encrypted name servers prove who they are (RFC 9463, sections 4.1 and 5.1).
    if let (Some(one), Some(other)) = (find_v4(v4, 162), find_v6(v6, 144)) {
        let is_wire_name: Picks = |leaf| matches!(leaf, Value::Name(_));
        if leaves(one.sent, is_wire_name) != leaves(other.sent, is_wire_name) {
            find("another encrypted name server", one, other);
        }
    }
    // The file of DHCPv4 is the end of DHCPv6's URL (RFC 5970, section 3.1).
    if let (Some(file), Some(url)) = (find_v4(v4, 67), find_v6(v6, 59)) {
        let ends = |texts: Vec<String>| texts.first().and_then(|text| text.rsplit('/').next().map(str::to_owned));
        let (file_end, url_end) = (ends(leaves(file.sent, is_name)), ends(leaves(url.sent, is_name)));
        if file_end.is_some() && url_end.is_some() && file_end != url_end {
            find("another boot file", file, url);
        }
    }
}

fn lost_without_ipv4(whom: &Whom<'_>, v4: &[Told<'_>], v6: &[Told<'_>], findings: &mut Vec<Finding>) {
    // What only DHCPv4 tells is lost for those who do without IPv4.
    if let Some(only) = find_v4(v4, 108) {
        for (code, codes_v6) in [(42, &[56, 31][..]), (119, &[24]), (101, &[42]), (67, &[59])] {
            let missing = !codes_v6.iter().any(|code| find_v6(v6, *code).is_some());
            if let Some(alone) = find_v4(v4, code).filter(|_| missing) {
                let name = &alone.sent.definition.name;
                let message = format!("{whom}: {name} is told by DHCPv4 alone, and devices should do without IPv4");
                let finding = FAMILIES_DISAGREE.rule.finding(message).at(alone.sent.key.clone());
                findings.push(finding.related(only.sent.key.clone(), "told here"));
            }
        }
    }
}

static V6_ONLY_WITHOUT_NAT64: Check = Check {
    rule: Rule {
        name: "v6-only-without-nat64",
        severity: Severity::Warning,
        rfc: "RFC 8925, section 4",
        summary: "devices are told to do without IPv4, and no prefix is announced by which they reach it",
        why: "They turn IPv4 off, and everything that has no IPv6 address is gone for them.",
        example: v6_plan!(
            "subnet = \"10.64.40.0/24\"\nadvertise = { name-servers = \"2001:db8:64::53\" }\n\
             [network.mast.send.v4]\nrouter = \"10.64.40.1\"\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\nipv6-only-preferred = 1800\n"
        ),
    },
    find: Find::Told(|whom, told, findings| {
        let Some(only) = find_v4(told, 108) else { return };
        let has = whom.network.v6.advertise.as_deref().is_some_and(|said| said.sent(38).is_some());
        if !has {
            findings.push(without_nat64(whom, only));
        }
    }),
};

fn without_nat64(whom: &Whom<'_>, only: &Told<'_>) -> Finding {
    let message =
        format!("devices on {} are told to do without IPv4, and no NAT64 prefix is announced there", whom.network.name);
    let finding = V6_ONLY_WITHOUT_NAT64.rule.finding(message).at(only.sent.key.clone());
    finding.instead("pref64 = \"64:ff9b::/96\" in what is advertised, or no v4:108")
}
