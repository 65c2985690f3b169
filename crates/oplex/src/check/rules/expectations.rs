//! What the author of a plan expects, held against what the plan comes to.

use std::net::IpAddr;
use std::sync::Arc;

use crate::answer::{AddressOrigin, Answer, Chosen};
use crate::check::declare::{PlanContext, check, checks, v4_plan};
use crate::codebook::{Definition, Payload};
use crate::family::Family;
use crate::finding::{Finding, Findings, Spot};
use crate::layout::duration_text;
use crate::plan::{Expect, Sent};

checks! {
    EXPECTATION_NOT_MET
}

check! { Plan(expectation_not_met),
    /// a client gets something other than the plan's author expects
    ///
    /// Either the plan is wrong, or the expectation is.
    static EXPECTATION_NOT_MET = "expectation-not-met", Error, Plan, "";
    v4_plan!(
        "pool = [\"10.64.4.20-10.64.4.200\"]\n",
        "router = \"10.64.4.1\"\n[[expect]]\nclient = { network = \"control-room\", mac = \"02:00:5e:00:53:99\" }\n\
         sent = { router = \"10.64.4.2\" }\n"
    )
}

fn expectation_not_met(context: &PlanContext<'_>, findings: &mut Findings) {
    for expect in &context.plan.expectations {
        for family in Family::ALL {
            match context.compiled.answer(family, &expect.client) {
                Some(answer) => unmet(context, expect, &answer, findings),
                None => findings.extend(nowhere(expect, family)),
            }
        }
    }
}

fn find(message: String) -> Finding {
    EXPECTATION_NOT_MET.finding(message)
}

/// What is expected by a family that the network has not.
fn nowhere(expect: &Expect, family: Family) -> Vec<Finding> {
    let what = if family == Family::V4 { "subnet" } else { "prefix" };
    let finding = |spot: &Spot| find(format!("the network has no {what}")).at(spot.clone());
    let sent = expect.sent[family].iter().map(|wanted| finding(&wanted.key));
    sent.chain(address_spot(expect, family).map(finding)).collect()
}

/// Where an address of the family is expected.
fn address_spot(expect: &Expect, family: Family) -> Option<&Spot> {
    match family {
        Family::V4 => expect.address.v4.first().map(|range| &range.spot),
        Family::V6 => expect.address.v6.first().map(|range| &range.spot),
    }
}

fn unmet(context: &PlanContext<'_>, expect: &Expect, answer: &Answer<'_>, findings: &mut Findings) {
    let family = answer.family;
    let uses_dhcp = answer.host.as_ref().is_none_or(|host| host.mode.uses_dhcp());
    // What hosts do not use DHCPv6 for is not sent.
    let all: &[Chosen<'_>] = if uses_dhcp { &answer.sent } else { &[] };
    for wanted in &expect.sent[family] {
        let finding = not_sent(wanted, all, answer);
        findings.extend(match answer.network.advertises.as_ref().and_then(|said| said.origin) {
            Some(said) if !uses_dhcp => finding.map(|finding| {
                finding.related(said.spot.clone(), "neither M nor O is advertised, so no host uses DHCPv6")
            }),
            _ => finding,
        });
    }
    for (definition, spot) in expect.not_sent.iter().filter(|(definition, _)| definition.travels_in(family.protocol()))
    {
        if let Some(chosen) = sent(all, definition).next() {
            let finding = find(format!("{} is sent: {}", definition.name, shown(chosen))).at(spot.clone());
            let related = format!("{} sends it", chosen.layer.name);
            findings.push(
                chosen.option.key().into_iter().fold(finding, |finding, at| finding.related(at.clone(), &*related)),
            );
        }
    }
    findings.extend(wrong_address(expect, answer));
    findings.extend(wrong_lease(expect, answer));
    findings.extend(wrong_delegation(expect, answer));
    // Which fleets a client belongs to is said once, by DHCPv4 where the network has it.
    if family == Family::V4 || !context.compiled.networks[expect.client.network].sides.has(Family::V4) {
        wrong_fleets(context, expect, answer, findings);
    }
}

/// The options of a definition that are sent: of one that may stand several times all of them.
fn sent<'c, 'a>(all: &'c [Chosen<'a>], definition: &'c Arc<Definition>) -> impl Iterator<Item = &'c Chosen<'a>> {
    all.iter().filter(move |chosen| Arc::ptr_eq(&chosen.option.definition, definition))
}

fn shown(chosen: &Chosen<'_>) -> String {
    chosen.option.value().map(ToString::to_string).unwrap_or_default()
}

/// What follows from the network itself is sent as well, without a line that sends it.
fn not_sent(wanted: &Sent, all: &[Chosen<'_>], answer: &Answer<'_>) -> Option<Finding> {
    let name = &wanted.definition.name;
    let Payload { octets, value, .. } = wanted.payload()?;
    let mut own = sent(all, &wanted.definition).peekable();
    if let Some(first) = own.peek().copied() {
        if own.any(|chosen| chosen.option.octets.as_deref() == Some(octets)) {
            return None;
        }
        let message = format!("{name} should be {value}, but is {}", shown(first));
        let finding = find(message).at(wanted.spot.clone());
        let related = format!("{} sends it", first.layer.name);
        return Some(
            first.option.spot().into_iter().fold(finding, |finding, at| finding.related(at.clone(), &*related)),
        );
    }
    let computed = wanted.definition.is_own_of(answer.family.protocol()) && answer.family == Family::V4;
    match answer.payloads.iter().find(|one| computed && one.code == wanted.definition.code) {
        Some(computed) if *computed.octets == **octets => None,
        Some(_) => Some(find(format!("{name} is not {value}")).at(wanted.spot.clone())),
        None => Some(find(format!("{name} is not sent")).at(wanted.key.clone())),
    }
}

/// A lease of another length, in the family that leases an address.
fn wrong_lease(expect: &Expect, answer: &Answer<'_>) -> Option<Finding> {
    let (wanted, spot) = expect.lease.as_ref()?;
    let lease = answer.timers.lease;
    answer.address.as_ref().ok().filter(|_| lease.seconds != *wanted)?;
    let [is, wanted] = [lease.seconds, *wanted].map(duration_text);
    let message = format!("the lease by {} should be {wanted}, but is {is}", answer.family.protocol());
    let finding = find(message).at(spot.clone());
    Some(lease.spot.into_iter().fold(finding, |finding, at| finding.related(at.clone(), "set here")))
}

/// A delegated prefix that is not where it should be, or none.
fn wrong_delegation(expect: &Expect, answer: &Answer<'_>) -> Option<Finding> {
    let ((within, spot), host) = (expect.delegated.as_ref()?, answer.host.as_ref()?);
    match host.delegated {
        Some(prefix) if within.holds(prefix.address()) && prefix.length() >= within.length() => None,
        Some(prefix) => Some(find(format!("the delegated prefix is {prefix}")).at(spot.clone())),
        None => Some(find("no prefix is delegated".to_owned()).at(spot.clone())),
    }
}

fn wrong_address(expect: &Expect, answer: &Answer<'_>) -> Option<Finding> {
    let spot = address_spot(expect, answer.family)?;
    let is_expected = |address: IpAddr| match address {
        IpAddr::V4(address) => expect.address.v4.iter().any(|range| range.holds(address)),
        IpAddr::V6(address) => expect.address.v6.iter().any(|range| range.holds(address)),
    };
    let Some(host) = &answer.host else {
        return match &answer.address {
            Ok(assigned) if is_expected(assigned.address) => None,
            Ok(assigned) => Some(find(format!("the address is {}", assigned.address)).at(spot.clone())),
            Err(why) => Some(find(format!("there is no address: {why}")).at(spot.clone())),
        };
    };
    // What a host makes of a prefix lies anywhere in it.
    let own = host.addresses.iter().filter(|one| one.origin != AddressOrigin::LinkLocal);
    let own: Vec<IpAddr> = own.filter_map(|one| Some(one.address?.into())).collect();
    (!own.iter().copied().any(is_expected)).then(|| {
        let has: Vec<String> = own.iter().map(ToString::to_string).collect();
        let has = if has.is_empty() { "none".to_owned() } else { has.join(" and ") };
        find(format!("the IPv6 address is {has}")).at(spot.clone())
    })
}

fn wrong_fleets(context: &PlanContext<'_>, expect: &Expect, answer: &Answer<'_>, findings: &mut Findings) {
    let Some(expected) = &expect.fleets else { return };
    for (name, spot) in expected {
        if !answer.fleets.iter().any(|fleet| fleet.name == *name) {
            let known = context.plan.fleets.iter().any(|fleet| fleet.name == *name);
            let message = if known { "the client does not belong to fleet" } else { "there is no fleet" };
            findings.push(find(format!("{message} {name}")).at(spot.clone()));
        }
    }
    for more in answer.fleets.iter().filter(|fleet| !expected.iter().any(|(name, _)| *name == fleet.name)) {
        let message = format!("the client also belongs to fleet {}", more.name);
        findings.push(find(message).at(expect.spot.clone()));
    }
}
