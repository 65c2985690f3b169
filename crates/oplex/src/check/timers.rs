//! Rules about lease times.

use super::{Check, Find, otherwise_fine};
use crate::answer::{Timers, timers};
use crate::finding::{Finding, Rule, Severity};
use crate::layout::duration_text;
use crate::plan::{Network, Plan};

pub(super) static CHECKS: [&Check; 1] = [&TIMERS_OUT_OF_ORDER];

static TIMERS_OUT_OF_ORDER: Check = Check {
    rule: Rule {
        name: "timers-out-of-order",
        severity: Severity::Error,
        rfc: "RFC 2131, section 4.4.5",
        summary: "renewing must begin before rebinding, and rebinding before the lease ends",
        why: "A client that rebinds before it renews floods every server; one that renews after its lease has ended \
              drops its address first.",
        example: otherwise_fine!("lease = \"8h\"\nrenew = \"7h30m\"\nrebind = \"7h\"\n"),
    },
    find: Find::Told(|whom, _, findings| {
        if whom.fleet.is_none() {
            out_of_order(whom.plan, whom.network, findings);
        }
    }),
};

fn out_of_order(plan: &Plan, network: &Network, findings: &mut Vec<Finding>) {
    let Timers { lease, renew, rebind } = timers(plan, network);
    for ((first, earlier), (then, later)) in
        [(("renew", &renew), ("rebind", &rebind)), (("rebind", &rebind), ("lease", &lease))]
    {
        let endless = later.seconds == u32::MAX;
        let Some(spot) = earlier.spot.as_ref().or(later.spot.as_ref()) else { continue };
        if earlier.seconds < later.seconds || endless {
            continue;
        }
        let message = format!(
            "on {}, {first} ({}) must come before {then} ({})",
            network.name,
            duration_text(earlier.seconds),
            duration_text(later.seconds)
        );
        let mut finding = TIMERS_OUT_OF_ORDER.rule.finding(message).at(spot.clone());
        if let Some(other) = later.spot.as_ref().filter(|other| *other != spot) {
            finding = finding.related(other.clone(), format!("the {then} time"));
        }
        let half = duration_text(lease.seconds / 2);
        findings.push(finding.instead(format!("renew = \"{half}\" or less, rebind between the two, or neither")));
    }
}
