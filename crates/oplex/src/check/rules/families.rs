//! Rules across DHCPv4, DHCPv6 and what the router advertises.

use super::advertising::meant;
use crate::answer::{Audience, Chosen, HostMode};
use crate::check::declare::{BothSent, check, checks, v4_plan, v6_plan};
use crate::family::Family;
use crate::finding::{Finding, Findings, Severity};
use crate::heading;
use crate::layout::Value;

fn find<'s, 'a>(sent: &'s BothSent<'a>, family: Family, code: u16) -> Option<&'s Chosen<'a>> {
    Chosen::find(&sent[family], family.protocol(), code)
}

checks! {
    FAMILIES_DISAGREE, IPV6_ONLY_WITHOUT_IPV6, IPV6_ONLY_WITHOUT_NAT64
}

check! { Answer(families_disagree),
    /// DHCPv4 and DHCPv6 send different values for one service
    ///
    /// Devices differ in which of the two they use, so identical devices behave differently.
    static FAMILIES_DISAGREE = "families-disagree", Warning, Answer, "";
    v6_plan!("subnet = \"10.64.40.0/24\"\nadvertise = { other = true, name-servers = \"2001:db8:64::53\" }\n\
         [network.mast.send.v4]\nrouter = \"10.64.40.1\"\ndomain-server = \"10.64.0.53\"\ndomain-search = \"tarnfell.example\"\ndomain-name = \"tarnfell.example\"\n\
         [network.mast.send.v6]\ndomain-list = \"domes.tarnfell.example\"\n")
}

fn families_disagree(audience: &Audience<'_>, sent: &BothSent<'_>, findings: &mut Findings) {
    if !audience.network().sides.has(Family::V6) {
        return;
    }
    findings.extend(portal_advertised(audience, sent));
    findings.extend(mtu_advertised(audience, sent));
    if HostMode::on(audience.network()).uses_dhcp() {
        services(audience, sent, findings);
        findings.extend(boot_files(audience, sent));
        lost_without_ipv4(audience, sent, findings);
    }
}

/// What DHCPv6 says of a portal is held against the advertisement already.
fn portal_advertised(audience: &Audience<'_>, sent: &BothSent<'_>) -> Option<Finding> {
    let advertised = audience.network().advertises.as_ref()?.option(37)?;
    let one = find(sent, Family::V4, 114).filter(|_| find(sent, Family::V6, 103).is_none())?;
    if meant(&one.option)? == meant(advertised)? {
        return None;
    }
    let finding =
        FAMILIES_DISAGREE.finding(format!("{audience}: DHCPv4 and the advertisement have different captive portals"));
    let finding = finding.at(advertised.spot()?.clone()).related(one.option.spot()?.clone(), "by DHCPv4");
    Some(finding.by("RFC 8910, section 2"))
}

/// The MTU of a link is one (RFC 2132, section 5.1; RFC 4861, section 4.6.4).
fn mtu_advertised(audience: &Audience<'_>, sent: &BothSent<'_>) -> Option<Finding> {
    let advertised = audience.network().advertises.as_ref()?.option(5)?;
    let one = find(sent, Family::V4, 26)?;
    let (ours, theirs) = (one.option.value()?.number()?, advertised.value()?.field("mtu")?.number()?);
    if ours == theirs {
        return None;
    }
    let finding = FAMILIES_DISAGREE
        .finding(format!("{audience}: DHCPv4 sends the MTU {ours}, but the router advertises {theirs}"));
    let finding = finding.at(advertised.spot()?.clone()).related(one.option.spot()?.clone(), "by DHCPv4");
    Some(finding.by("RFC 4861, section 4.6.4").advice("one MTU for the link"))
}

fn differ(audience: &Audience<'_>, what: &str, one: &Chosen<'_>, other: &Chosen<'_>) -> Option<Finding> {
    let finding = FAMILIES_DISAGREE.finding(format!("{audience}: DHCPv4 and DHCPv6 have different {what}"));
    Some(finding.at(other.option.spot()?.clone()).related(one.option.spot()?.clone(), "by DHCPv4"))
}

/// What both families send, of one service each.
fn services(audience: &Audience<'_>, sent: &BothSent<'_>, findings: &mut Findings) {
    let pairs = [(119, 24, "domains"), (114, 103, "captive portals"), (100, 41, "time zones"), (101, 42, "time zones")];
    for (code, other_code, what) in pairs {
        let (Some(one), Some(other)) = (find(sent, Family::V4, code), find(sent, Family::V6, other_code)) else {
            continue;
        };
        let (Some(ours), Some(theirs)) = (meant(&one.option), meant(&other.option)) else { continue };
        if ours != theirs {
            findings.extend(differ(audience, what, one, other));
        }
    }
    // A domain name (15) that is not among the domains of DHCPv6; where there is a search list, that was held against them.
    if let (Some(one), Some(other), None) =
        (find(sent, Family::V4, 15), find(sent, Family::V6, 24), find(sent, Family::V4, 119))
        && let (Some(ours), Some(theirs)) = (meant(&one.option), meant(&other.option))
        && ours.iter().any(|name| !theirs.contains(name))
    {
        findings.extend(differ(audience, "domains", one, other));
    }
    // The names by which encrypted name servers prove who they are (RFC 9463, sections 4.1 and 5.1).
    if let (Some(one), Some(other)) = (find(sent, Family::V4, 162), find(sent, Family::V6, 144))
        && names(one) != names(other)
    {
        findings.extend(differ(audience, "encrypted name servers", one, other));
    }
}

/// The names in an option's value, in one spelling.
fn names(chosen: &Chosen<'_>) -> Vec<String> {
    let mut names = Vec::new();
    if let Some(value) = chosen.option.value() {
        value.leaves(&mut |leaf, _| {
            if let Value::Name(name) = leaf {
                names.push(name.trim_end_matches('.').to_ascii_lowercase());
            }
        });
    }
    names
}

/// The file of DHCPv4 is the end of DHCPv6's URL (RFC 5970, section 3.1).
fn boot_files(audience: &Audience<'_>, sent: &BothSent<'_>) -> Option<Finding> {
    let (file, url) = (find(sent, Family::V4, 67)?, find(sent, Family::V6, 59)?);
    let end = |chosen: &Chosen<'_>| {
        let texts = meant(&chosen.option)?;
        Some(texts.first()?.rsplit('/').next()?.to_owned())
    };
    if end(file)? == end(url)? {
        return None;
    }
    Some(differ(audience, "boot files", file, url)?.as_severity(Severity::Note))
}

/// What only DHCPv4 sends is lost for those who do without IPv4.
fn lost_without_ipv4(audience: &Audience<'_>, sent: &BothSent<'_>, findings: &mut Findings) {
    let Some(only) = find(sent, Family::V4, 108).and_then(|only| only.option.key()) else { return };
    for (code, others) in [(42, &[56, 31][..]), (119, &[24]), (101, &[42]), (67, &[59])] {
        let missing = !others.iter().any(|code| find(sent, Family::V6, *code).is_some());
        let Some(alone) = find(sent, Family::V4, code).filter(|_| missing) else { continue };
        let Some(key) = alone.option.key() else { continue };
        let name = &alone.option.definition.name;
        let message = format!("{audience}: {name} is sent by DHCPv4 only, but option 108 lets clients turn IPv4 off");
        let finding = FAMILIES_DISAGREE.finding(message).at(key.clone());
        findings.push(finding.related(only.clone(), "sent here").as_severity(Severity::Note));
    }
}

check! { Answer(ipv6_only_without_ipv6),
    /// clients are sent option 108 (IPv6-only) on a network for which the plan has no IPv6, or no IPv6 router
    ///
    /// They turn IPv4 off and have nothing else. Where a router of another operator advertises, `ipv6 = "elsewhere"` on the network says
    /// so.
    static IPV6_ONLY_WITHOUT_IPV6 = "ipv6-only-without-ipv6", Warning, Answer, "RFC 8925, section 3.3";
    v4_plan!("", "router = \"10.64.4.1\"\nipv6-only-preferred = \"30m\"\n")
}

fn ipv6_only_without_ipv6(audience: &Audience<'_>, sent: &BothSent<'_>, findings: &mut Findings) {
    let network = audience.network();
    let Some(key) = find(sent, Family::V4, 108).and_then(|only| only.option.key()) else { return };
    if network.ipv6_elsewhere {
        return;
    }
    let name = &network.name;
    let finding = |message: String| IPV6_ONLY_WITHOUT_IPV6.finding(message).at(key.clone());
    if !network.sides.has(Family::V6) {
        let finding =
            finding(format!("option 108 lets clients on {name} turn IPv4 off, but the plan has no IPv6 there"));
        let instead = format!(
            "a prefix and `advertise` in [network.{}], or ipv6 = \"elsewhere\" if another router advertises",
            heading::key(name)
        );
        findings.push(finding.advice(instead));
    } else if let Some(said) = network.advertises.as_ref().filter(|said| said.header.router_lifetime == 0) {
        let finding = finding(format!(
            "option 108 lets clients on {name} turn IPv4 off, but its router is no IPv6 default router"
        ));
        let finding = finding.as_severity(Severity::Error);
        let lifetime = said.origin.map(|origin| origin.flag_spot("lifetime").clone());
        findings.push(
            lifetime.into_iter().fold(finding, |finding, spot| finding.related(spot, "the router lifetime is 0")),
        );
    }
}

check! { Answer(ipv6_only_without_nat64),
    /// clients are sent option 108 (IPv6-only), but no NAT64 prefix is advertised
    ///
    /// They turn IPv4 off, and everything without an IPv6 address becomes unreachable.
    static IPV6_ONLY_WITHOUT_NAT64 = "ipv6-only-without-nat64", Warning, Answer, "RFC 8925, section 4";
    v6_plan!("subnet = \"10.64.40.0/24\"\nadvertise = { name-servers = \"2001:db8:64::53\" }\n\
         [network.mast.send.v4]\nrouter = \"10.64.40.1\"\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\nipv6-only-preferred = 1800\n")
}

fn ipv6_only_without_nat64(audience: &Audience<'_>, sent: &BothSent<'_>, findings: &mut Findings) {
    let network = audience.network();
    let has = network.advertises.as_ref().is_some_and(|said| said.option(38).is_some());
    let only = find(sent, Family::V4, 108).and_then(|only| only.option.key());
    if let Some(key) = only.filter(|_| !has && network.sides.has(Family::V6)) {
        let message =
            format!("option 108 lets clients on {} turn IPv4 off, but no NAT64 prefix is advertised", network.name);
        let finding = IPV6_ONLY_WITHOUT_NAT64.finding(message).at(key.clone());
        findings.push(finding.advice("pref64 = \"64:ff9b::/96\" in `advertise`, or remove v4:108"));
    }
}
