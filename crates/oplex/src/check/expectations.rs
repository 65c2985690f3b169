//! What the author of a plan believes, held against what the plan says.

use std::net::Ipv6Addr;

use super::{Check, Find, otherwise_fine};
use crate::answer::{Answer, By, Told};
use crate::finding::{Finding, Rule, Severity, Spot};
use crate::plan::{Expect, Plan, Sent};

pub(super) static CHECKS: [&Check; 1] = [&EXPECTATION_NOT_MET];

static EXPECTATION_NOT_MET: Check = Check {
    rule: Rule {
        name: "expectation-not-met",
        severity: Severity::Error,
        rfc: "",
        summary: "the plan gives a client something other than its author expects",
        why: "The author wrote down what must hold. Either the plan is wrong, or the belief is.",
        example: otherwise_fine!(
            "pool = [\"10.64.4.20-10.64.4.200\"]\n",
            "router = \"10.64.4.1\"\n[[expect]]\nclient = { network = \"control-room\", mac = \"02:00:5e:00:53:99\" }\n\
             told = { router = \"10.64.4.2\" }\n"
        ),
    },
    find: Find::Plan(|plan, findings| {
        for expect in &plan.expectations {
            if let Some(answer) = plan.answer(&expect.client) {
                findings.extend(unmet(plan, expect, &answer));
            }
            findings.extend(unmet_v6(plan, expect));
        }
    }),
};

fn unmet(plan: &Plan, expect: &Expect, answer: &Answer<'_>) -> Vec<Finding> {
    let mut findings = Vec::new();
    let find = |message: String| EXPECTATION_NOT_MET.rule.finding(message);
    for wanted in &expect.told {
        findings.extend(untold(wanted, answer, &find));
    }
    for (definition, spot) in &expect.not_told {
        if let Some(told) = told(&answer.told, |sent| std::sync::Arc::ptr_eq(&sent.definition, definition)) {
            let finding = find(format!("{} is told: {}", definition.name, shown(told.sent))).at(spot.clone());
            findings.push(finding.related(told.sent.key.clone(), format!("{} says so", told.layer.name)));
        }
    }
    match &answer.address {
        _ if expect.address.is_empty() => {}
        Ok(given) if expect.address.iter().any(|range| range.holds(given.address)) => {}
        Ok(given) => {
            findings.push(find(format!("the address is {}", given.address)).at(expect.address[0].spot.clone()));
        }
        Err(why) => findings.push(find(format!("there is no address: {why}")).at(expect.address[0].spot.clone())),
    }
    for (name, spot) in expect.fleets.iter().flatten() {
        if !answer.fleets.iter().any(|known| known.fleet.name == *name) {
            let known = plan.fleets.iter().any(|fleet| fleet.name == *name);
            let message = if known { "the client is not recognised as" } else { "there is no fleet" };
            findings.push(find(format!("{message} {name}")).at(spot.clone()));
        }
    }
    if let Some(fleets) = &expect.fleets {
        let more = answer.fleets.iter().filter(|known| !fleets.iter().any(|(name, _)| *name == known.fleet.name));
        for known in more {
            findings
                .push(find(format!("the client is recognised as {}, too", known.fleet.name)).at(expect.spot.clone()));
        }
    }
    findings
}

/// What is expected by IPv6, where anything is.
fn unmet_v6(plan: &Plan, expect: &Expect) -> Vec<Finding> {
    let find = |message: String| EXPECTATION_NOT_MET.rule.finding(message);
    let about = |wanted: &Sent| find(format!("{} is not told", wanted.definition.name)).at(wanted.key.clone());
    let Some(answer) = plan.answer_v6(&expect.client) else {
        let nowhere = |spot: &Spot| find("the network has no prefix".to_owned()).at(spot.clone());
        let told = expect.told_v6.iter().map(|wanted| nowhere(&wanted.key));
        return told.chain(expect.address_v6.first().map(|range| nowhere(&range.spot))).collect();
    };
    let mut findings = Vec::new();
    // What nobody asks for is not told.
    let all: &[Told<'_>] = if answer.asks.asks() { &answer.told } else { &[] };
    for wanted in &expect.told_v6 {
        match told(all, |sent| std::sync::Arc::ptr_eq(&sent.definition, &wanted.definition)) {
            Some(told) => findings.extend(otherwise(wanted, told, &find)),
            None if answer.asks.asks() => findings.push(about(wanted)),
            None => {
                let said = answer.network.v6.advertise.as_deref().map(|said| said.spot.clone());
                let finding = about(wanted);
                findings.push(match said {
                    Some(said) => finding.related(said, "neither M nor O is announced, so nobody asks"),
                    None => finding,
                });
            }
        }
    }
    for (definition, spot) in expect.not_told.iter().filter(|(definition, _)| definition.travels_in_v6()) {
        if let Some(told) = told(all, |sent| std::sync::Arc::ptr_eq(&sent.definition, definition)) {
            let finding = find(format!("{} is told: {}", definition.name, shown(told.sent))).at(spot.clone());
            findings.push(finding.related(told.sent.key.clone(), format!("{} says so", told.layer.name)));
        }
    }
    if let Some(range) = expect.address_v6.first() {
        let in_range = |address: Ipv6Addr| expect.address_v6.iter().any(|range| range.holds(address));
        // What a host makes of a prefix lies anywhere in it.
        let own = answer.addresses.iter().filter(|at| at.by != By::LinkLocal);
        let own: Vec<Ipv6Addr> = own.filter_map(|at| at.address).collect();
        if !own.iter().copied().any(in_range) {
            let has: Vec<String> = own.iter().map(ToString::to_string).collect();
            let has = if has.is_empty() { "none".to_owned() } else { has.join(" and ") };
            findings.push(find(format!("the IPv6 address is {has}")).at(range.spot.clone()));
        }
    }
    findings
}

/// What is told, when it is not what is wanted.
fn otherwise(wanted: &Sent, told: &Told<'_>, find: &dyn Fn(String) -> Finding) -> Option<Finding> {
    let octets = |sent: &Sent| sent.payload().map(|payload| payload.octets.clone());
    let wanted_octets = octets(wanted)?;
    (octets(told.sent) != Some(wanted_octets)).then(|| {
        let name = &wanted.definition.name;
        let message = format!("{name} should be {}, and is {}", shown(wanted), shown(told.sent));
        let says = format!("{} says so", told.layer.name);
        find(message).at(wanted.spot.clone()).related(told.sent.spot.clone(), says)
    })
}

fn told<'a, 'p>(all: &'a [Told<'p>], is: impl Fn(&Sent) -> bool) -> Option<&'a Told<'p>> {
    all.iter().find(|told| is(told.sent))
}

fn shown(sent: &Sent) -> String {
    sent.payload().map(|payload| payload.value.to_string()).unwrap_or_default()
}

/// What follows from the network itself is told as well, without a line that sends it.
fn untold(wanted: &Sent, answer: &Answer<'_>, find: &dyn Fn(String) -> Finding) -> Option<Finding> {
    let name = &wanted.definition.name;
    let octets = &wanted.payload()?.octets;
    if let Some(told) = told(&answer.told, |sent| std::sync::Arc::ptr_eq(&sent.definition, &wanted.definition)) {
        return otherwise(wanted, told, find);
    }
    let computed =
        answer.payloads.iter().find(|at| wanted.definition.is_top_level() && at.code == wanted.definition.code);
    match computed {
        Some(computed) if computed.octets == *octets => None,
        Some(_) => Some(find(format!("{name} is not {}", shown(wanted))).at(wanted.spot.clone())),
        None => Some(find(format!("{name} is not told")).at(wanted.key.clone())),
    }
}
