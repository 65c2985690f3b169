//! What the author of a plan expects, held against what the plan comes to.

use std::net::IpAddr;
use std::sync::Arc;

use crate::answer::{AddressOrigin, Answer, Chosen};
use crate::check::declare::{PlanContext, check, checks, v4_plan};
use crate::family::Family;
use crate::finding::{Finding, Spot};
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

fn expectation_not_met(context: &PlanContext<'_>, findings: &mut Vec<Finding>) {
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

fn unmet(context: &PlanContext<'_>, expect: &Expect, answer: &Answer<'_>, findings: &mut Vec<Finding>) {
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
        if let Some((chosen, sent)) = sent(all, definition) {
            let finding = find(format!("{} is sent: {}", definition.name, shown(sent))).at(spot.clone());
            findings.push(finding.related(sent.key.clone(), format!("{} sends it", chosen.layer.name)));
        }
    }
    findings.extend(wrong_address(expect, answer));
    // Which fleets a client belongs to is said once, by DHCPv4 where the network has it.
    if family == Family::V4 || !context.compiled.networks[expect.client.network].sides.has(Family::V4) {
        wrong_fleets(context, expect, answer, findings);
    }
}

fn sent<'c, 'a>(
    all: &'c [Chosen<'a>],
    definition: &Arc<crate::codebook::Definition>,
) -> Option<(&'c Chosen<'a>, &'a Sent)> {
    all.iter().find_map(|chosen| {
        let origin = chosen.option.origin.filter(|sent| Arc::ptr_eq(&sent.definition, definition))?;
        Some((chosen, origin))
    })
}

fn shown(sent: &Sent) -> String {
    sent.payload().map(|payload| payload.value.to_string()).unwrap_or_default()
}

/// What follows from the network itself is sent as well, without a line that sends it.
fn not_sent(wanted: &Sent, all: &[Chosen<'_>], answer: &Answer<'_>) -> Option<Finding> {
    let name = &wanted.definition.name;
    let octets = &wanted.payload()?.octets;
    if let Some((chosen, sent)) = sent(all, &wanted.definition) {
        return (sent.payload().map(|payload| &payload.octets) != Some(octets)).then(|| {
            let message = format!("{name} should be {}, but is {}", shown(wanted), shown(sent));
            let related = format!("{} sends it", chosen.layer.name);
            find(message).at(wanted.spot.clone()).related(sent.spot.clone(), related)
        });
    }
    let own = wanted.definition.is_own_of(answer.family.protocol()) && answer.family == Family::V4;
    match answer.payloads.iter().find(|computed| own && computed.code == wanted.definition.code) {
        Some(computed) if computed.octets == *octets => None,
        Some(_) => Some(find(format!("{name} is not {}", shown(wanted))).at(wanted.spot.clone())),
        None => Some(find(format!("{name} is not sent")).at(wanted.key.clone())),
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

fn wrong_fleets(context: &PlanContext<'_>, expect: &Expect, answer: &Answer<'_>, findings: &mut Vec<Finding>) {
    let Some(expected) = &expect.fleets else { return };
    for (name, spot) in expected {
        if !answer.fleets.iter().any(|known| known.fleet.name == *name) {
            let known = context.plan.fleets.iter().any(|fleet| fleet.name == *name);
            let message = if known { "the client does not belong to fleet" } else { "there is no fleet" };
            findings.push(find(format!("{message} {name}")).at(spot.clone()));
        }
    }
    for more in answer.fleets.iter().filter(|known| !expected.iter().any(|(name, _)| *name == known.fleet.name)) {
        let message = format!("the client also belongs to fleet {}", more.fleet.name);
        findings.push(find(message).at(expect.spot.clone()));
    }
}
