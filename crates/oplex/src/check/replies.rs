//! Rules about the answers that a plan comes to.

use super::{Check, Find, otherwise_fine};
use crate::answer::{Largest, largest_reply, surely_fits};
use crate::finding::{Finding, Rule, Severity, Spot};
use crate::packet::v4::LeftOut;
use crate::plan::{Network, Plan};

pub(super) static CHECKS: [&Check; 1] = [&REPLY_OVER_BUDGET];

static REPLY_OVER_BUDGET: Check = Check {
    rule: Rule {
        name: "reply-over-budget",
        severity: Severity::Warning,
        rfc: "RFC 2131, section 2",
        summary: "a network's devices are told more than a datagram of 576 octets holds",
        why: "A client that does not say it accepts more gets the answer without what has no room, and nobody hears of \
              that. Clients that say 1500, as many do, get all of it.",
        example: otherwise_fine!(
            "",
            "router = \"10.64.4.1\"\n\
             merit-dump-file = \"/a/long/way/down/the/tree/of/boot/files/to/the/one/that/the/controllers/of/the/third/dome/load/when/they/start/first.efi\"\n\
             root-path = \"10.64.0.80:/export/observatory/domes/third/controllers/with/a/name/that/goes/on/for/a/good/while/and/then/some/more/root\"\n\
             \"v4:224\" = { hex = \"00010203040506070809101112131415161718192021222324252627282930313233343536373839404142434445464748495051525354555657585960616263646566676869707172737475767778798081828384858687888990919293949596979899\" }\n\
             \"v4:225\" = { hex = \"00010203040506070809101112131415161718192021222324252627282930313233343536373839404142434445464748495051525354555657585960616263646566676869707172737475767778798081828384858687888990919293949596979899\" }\n"
        ),
    },
    find: Find::Told(|whom, told, findings| {
        // The largest of the network's answers is spoken of, once.
        if !surely_fits(told) {
            findings.extend(over_budget(whom.plan, whom.network));
        }
    }),
};

fn over_budget(plan: &Plan, network: &Network) -> Option<Finding> {
    let Largest { fleet, payloads, budget } = largest_reply(plan, network)?;
    let named: Vec<(String, Option<Spot>)> = budget
        .left_out
        .iter()
        .map(|LeftOut { code, cost, .. }| {
            let told = payloads.iter().find(|told| told.code == u16::from(*code));
            let name = plan.codebook.v4((*code).into()).map(|definition| definition.label()).unwrap_or_default();
            let spot = told.and_then(|told| told.from.first()?.spot.clone());
            (format!("{name} ({cost} octets)"), spot)
        })
        .collect();
    let (_, first) = named.first()?;
    let names: Vec<&str> = named.iter().map(|(name, _)| name.as_str()).collect();
    let message = format!(
        "{}{}: a client that accepts 576 octets gets no {}; the rest takes {} of {} octets",
        network.name,
        fleet.map(|fleet| format!(", fleet {fleet}")).unwrap_or_default(),
        names.join(", no "),
        budget.used,
        budget.limit.octets
    );
    let mut finding = REPLY_OVER_BUDGET.rule.finding(message).at(first.clone().unwrap_or_else(|| network.spot.clone()));
    for (name, spot) in &named[1..] {
        if let Some(spot) = spot {
            finding = finding.related(spot.clone(), format!("no room for {name} either"));
        }
    }
    Some(finding.instead("fewer or shorter values, or the larger ones only to the devices that use them"))
}
