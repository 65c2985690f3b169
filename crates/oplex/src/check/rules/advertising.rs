//! Rules across what the router advertises and what DHCPv6 does.

use super::links::is_reachable;
use crate::answer::{Audience, Chosen, HostMode};
use crate::check::declare::{BothSent, check, checks, v6_plan};
use crate::compiled::{Advertisement, LayerKind, SentOption};
use crate::family::{Family, Protocol};
use crate::finding::{Findings, Severity};
use crate::layout::{Value, duration_text};
use crate::plan::Advertise;

/// What is advertised on a network with a prefix, when these are the clients of no fleet: advertisements go to all alike.
fn advertised<'a>(audience: &Audience<'a>) -> Option<(&'a Advertisement<'a>, &'a Advertise)> {
    let network = audience.network();
    let said = network.advertises.as_ref().filter(|_| audience.fleet.is_none() && network.sides.has(Family::V6))?;
    Some((said, said.origin?))
}

checks! {
    ADVERTISEMENT_MISSING, DHCPV6_NOT_USED, MANAGED_WITHOUT_POOL, ADVERTISED_AND_DHCPV6_DIFFER,
    ADVERTISED_LIFETIME_TOO_SHORT, ROUTER_LIFETIME_ZERO
}

check! { Answer(advertisement_missing),
    /// a network has a prefix, but no `advertise`
    ///
    /// The flags of the router decide whether a host uses DHCPv6. Without them it cannot be determined whether the
    /// plan's options ever reach a host.
    static ADVERTISEMENT_MISSING = "advertisement-missing", Warning, Answer, "RFC 4861, section 4.2";
    v6_plan!("[network.mast.send.v6]\ndns-servers = \"2001:db8:64::53\"\n")
}

fn advertisement_missing(audience: &Audience<'_>, _: &BothSent<'_>, findings: &mut Findings) {
    let network = audience.network();
    let prefix = network.sides.v6.subnet().filter(|_| audience.fleet.is_none());
    if let Some(prefix) = prefix.filter(|_| network.advertises.is_none()) {
        let message = format!("network {} has a prefix but no `advertise`", network.name);
        let finding = ADVERTISEMENT_MISSING.finding(message).at(prefix.spot.clone());
        findings.push(finding.advice("advertise = { other = true }, or managed = true with a pool, or {} for neither"));
    }
}

check! { Answer(dhcpv6_not_used),
    /// a network has DHCPv6 options or pools, but the advertised flags keep hosts from requesting them
    ///
    /// Without M a host requests no address, without M and O nothing at all. The server is right, and nothing of it
    /// arrives.
    static DHCPV6_NOT_USED = "dhcpv6-not-used", Warning, Answer, "RFC 4861, section 4.2";
    v6_plan!("advertise = { name-servers = \"2001:db8:64::53\" }\n[network.mast.send.v6]\n\
        dns-servers = \"2001:db8:64::53\"\n")
}

fn dhcpv6_not_used(audience: &Audience<'_>, sent: &BothSent<'_>, findings: &mut Findings) {
    // What hosts drop has no flags for them, and another rule says so.
    let Some((said, origin)) = advertised(audience).filter(|(said, _)| said.is_obeyed()) else { return };
    let network = audience.network();
    let rule = &DHCPV6_NOT_USED;
    if let Some(pool) = network.sides.v6.pools.first().filter(|_| !said.header.managed) {
        let message =
            format!("{} leases IPv6 addresses, but `managed` is not advertised, so no host requests one", network.name);
        let finding = rule.finding(message).at(pool.spot.clone());
        let finding = finding.related(origin.flag_spot("managed").clone(), "advertised here");
        // Without an address of their own making hosts have none.
        let finding = if said.is_autonomous() { finding } else { finding.as_severity(Severity::Error) };
        findings.push(finding.advice("managed = true, or no pool"));
    }
    if HostMode::on(network).uses_dhcp() {
        return;
    }
    // What everyone is sent may well be meant for other networks.
    let own = sent.v6.iter().find(|sent| sent.layer.kind == LayerKind::Network(audience.at));
    let Some((first, key)) = own.or_else(|| sent.v6.first()).and_then(|sent| Some((sent, sent.option.key()?))) else {
        return;
    };
    let mut names: Vec<&str> = sent.v6.iter().map(|sent| &*sent.option.definition.name).collect();
    names.dedup();
    let (is, names, it) = if let [one] = names[..] {
        ("is", one.to_owned(), "it")
    } else {
        let last = names.pop().unwrap_or(&first.option.definition.name);
        ("are", format!("{} and {last}", names.join(", ")), "them")
    };
    let message = format!(
        "{names} {is} sent by DHCPv6 on {}, but neither `managed` nor `other` is advertised, so no host requests {it}",
        network.name
    );
    let finding = rule.finding(message).at(origin.flag_spot("other").clone());
    let finding = finding.related(key.clone(), "sent here").advice("other = true");
    findings.push(match own {
        _ if loses_name_servers(said, sent) => finding.as_severity(Severity::Error),
        Some(_) => finding,
        None => finding.as_severity(Severity::Note),
    });
}

/// Whether DHCPv6 is the only way by which hosts could learn of name servers.
fn loses_name_servers(said: &Advertisement<'_>, sent: &BothSent<'_>) -> bool {
    said.option(25).is_none() && Chosen::find(&sent.v6, Protocol::V6, 23).is_some()
}

check! { Answer(managed_without_pool),
    /// the advertised flags send hosts to DHCPv6 for addresses, but the network has no IPv6 pool
    ///
    /// They retry forever, and those that form no address of their own have none.
    static MANAGED_WITHOUT_POOL = "managed-without-pool", Error, Answer, "RFC 4861, section 4.2";
    v6_plan!("advertise = { managed = true, name-servers = \"2001:db8:64::53\" }\n")
}

fn managed_without_pool(audience: &Audience<'_>, _: &BothSent<'_>, findings: &mut Findings) {
    let Some((_, origin)) = advertised(audience).filter(|(said, _)| said.header.managed) else { return };
    let (network, at) = (audience.network(), audience.at);
    let mut of_fleets = audience.compiled.fleets.iter().filter_map(|fleet| fleet.on(at));
    let pools = !network.sides.v6.pools.is_empty() || of_fleets.any(|on| !on.pools.v6.is_empty());
    let reserved = || audience.compiled.reservations.addresses_on::<std::net::Ipv6Addr>(at).next().is_some();
    if !pools && !reserved() {
        let message = format!("`managed` is advertised on {}, which leases no IPv6 addresses", network.name);
        let finding = MANAGED_WITHOUT_POOL.finding(message).at(origin.flag_spot("managed").clone());
        findings.push(finding.advice("a pool of IPv6 addresses, or other = true in place of managed"));
    }
}

check! { Answer(advertised_and_dhcpv6_differ),
    /// name servers, domains or portals differ between the advertisement and DHCPv6
    ///
    /// Hosts differ in which of them they use, so some find what others do not.
    static ADVERTISED_AND_DHCPV6_DIFFER = "advertised-and-dhcpv6-differ", Warning, Answer, "RFC 8106, section 5.3.2";
    v6_plan!("advertise = { other = true, name-servers = \"2001:db8:64::53\" }\n[network.mast.send.v6]\n\
        dns-servers = \"2001:db8:64::54\"\n")
}

fn advertised_and_dhcpv6_differ(audience: &Audience<'_>, sent: &BothSent<'_>, findings: &mut Findings) {
    let network = audience.network();
    let Some(said) = network.advertises.as_ref().filter(|_| network.sides.has(Family::V6)) else { return };
    for (advertised, option, what) in [(25, 23, "name servers"), (31, 24, "domains"), (37, 103, "portals")] {
        let sent = Chosen::find(&sent.v6, Protocol::V6, option).filter(|_| HostMode::on(network).uses_dhcp());
        let (Some(one), Some(other)) = (said.option(advertised), sent) else { continue };
        let (Some(spot), Some(there)) = (one.spot(), other.option.spot()) else { continue };
        let (Some(ours), Some(theirs)) = (meant(one), meant(&other.option)) else { continue };
        if ours != theirs {
            let message = format!("{audience}: the advertised {what} differ from those sent by DHCPv6");
            let finding = ADVERTISED_AND_DHCPV6_DIFFER.finding(message).at(spot.clone());
            let finding = finding.related(there.clone(), "sent here");
            // What is wrong itself is no advice.
            let right = theirs.iter().all(|text| text.parse().map_or(true, is_reachable));
            let finding =
                finding.advice(if right { theirs.join(", ") } else { format!("the same {what} in both places") });
            findings.push(if what == "portals" { finding.by("RFC 8910, section 2") } else { finding });
        }
    }
}

/// The addresses, or else the names and texts, in an option's value, in one spelling; `None` where that is wrong.
pub(super) fn meant(option: &SentOption<'_>) -> Option<Vec<String>> {
    let value = option.value()?;
    let texts = |wanted: fn(&Value) -> bool| {
        let mut found = Vec::new();
        value.leaves(&mut |leaf, _| {
            if wanted(leaf) {
                found.push(leaf.to_string().trim_end_matches('.').to_ascii_lowercase());
            }
        });
        found
    };
    let addresses = texts(|leaf| matches!(leaf, Value::Ipv4(_) | Value::Ipv6(_)));
    let names = || texts(|leaf| matches!(leaf, Value::Name(_) | Value::Text(_)));
    Some(if addresses.is_empty() { names() } else { addresses })
}

check! { Answer(advertised_lifetime_too_short),
    /// a lifetime in an advertisement is shorter than the advertisement interval
    ///
    /// Between two advertisements hosts lose their router, their prefix or their name servers, and then get them back.
    static ADVERTISED_LIFETIME_TOO_SHORT = "advertised-lifetime-too-short", Error, Answer, "RFC 4861, section 6.2.1";
    v6_plan!("advertise = { name-servers = \"2001:db8:64::53\", interval = \"20m\", lifetime = \"15m\" }\n")
}

fn advertised_lifetime_too_short(audience: &Audience<'_>, _: &BothSent<'_>, findings: &mut Findings) {
    let Some((said, origin)) = advertised(audience) else { return };
    let every = said.interval;
    let mut find = |what: &str, seconds: u32, option: Option<&SentOption<'_>>| {
        let of_names = option.is_some_and(|option| matches!(option.definition.code, 25 | 31));
        let least = if of_names { every.saturating_mul(3) } else { every };
        if seconds == 0 || seconds >= least {
            return false;
        }
        let (lasts, shown) = (duration_text(seconds), duration_text(every));
        let than = if of_names { "three times the advertisement interval" } else { "the advertisement interval" };
        let message = format!("{what} {lasts} is shorter than {than} {shown}");
        let spot = option.and_then(SentOption::spot).unwrap_or(&origin.spot);
        let finding = ADVERTISED_LIFETIME_TOO_SHORT.finding(message).at(spot.clone());
        let finding = finding.advice(format!("{} or more", duration_text(every.saturating_mul(3))));
        findings.push(match what {
            _ if of_names => finding.as_severity(Severity::Warning).by("RFC 8106, section 5.1"),
            // Hosts keep the addresses of the prefix, and stop using them for what is new.
            _ if what.starts_with("preferred") => finding.as_severity(Severity::Warning).by("RFC 4862, section 5.5.4"),
            _ => finding,
        });
        true
    };
    find("router lifetime", said.header.router_lifetime.into(), None);
    for option in &said.options {
        let fields: &[&str] = if option.definition.code == 3 { &["valid", "preferred"] } else { &["lifetime"] };
        let seconds = |field: &&str| match option.value()?.field(field)? {
            Value::Seconds(seconds) => Some((format!("{field} of {}", option.definition.name), *seconds)),
            _ => None,
        };
        // Where a prefix is not valid for long enough, it is not preferred for long enough either.
        let _ = fields.iter().filter_map(seconds).any(|(what, seconds)| find(&what, seconds, Some(option)));
    }
}

check! { Answer(router_lifetime_zero),
    /// a router advertises that it is no default router
    ///
    /// Hosts use its prefixes and options, and leave the link by another router, if there is one.
    static ROUTER_LIFETIME_ZERO = "router-lifetime-zero", Note, Answer, "RFC 4861, section 4.2";
    v6_plan!("advertise = { name-servers = \"2001:db8:64::53\", lifetime = 0 }\n")
}

fn router_lifetime_zero(audience: &Audience<'_>, _: &BothSent<'_>, findings: &mut Findings) {
    let Some((_, origin)) = advertised(audience).filter(|(said, _)| said.header.router_lifetime == 0) else { return };
    let message = format!("the router of {} is no default router: its lifetime is 0", audience.network().name);
    findings.push(ROUTER_LIFETIME_ZERO.finding(message).at(origin.flag_spot("lifetime").clone()));
}
