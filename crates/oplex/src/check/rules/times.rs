//! Rules about lease times.

use crate::answer::{Audience, Chosen, Timer, Timers};
use crate::check::declare::{BothSent, PlanContext, check, checks, v4_plan, v6_plan};
use crate::family::{Both, Family};
use crate::finding::Findings;
use crate::layout::duration_text;

checks! {
    LEASE_TIMES_OUT_OF_ORDER, LEASE_UNUSUAL
}

check! { Answer(lease_times_out_of_order),
    /// renewal time, rebinding time and lease are not in ascending order
    ///
    /// A client that rebinds before it renews floods every server; one that renews after its lease has expired loses
    /// its address first.
    static LEASE_TIMES_OUT_OF_ORDER = "lease-times-out-of-order", Error, Answer, "RFC 2131, section 4.4.5";
    v4_plan!("lease = \"8h\"\nrenew = \"7h30m\"\nrebind = \"7h\"\n"),
    v6_plan!(managed, "pool = [\"2001:db8:64:40::100-2001:db8:64:40::1ff\"]\nlease = \"8h\"\npreferred = \"12h\"\n")
}

fn lease_times_out_of_order(audience: &Audience<'_>, sent: &BothSent<'_>, findings: &mut Findings) {
    // What fleets set is held against what their networks set, which is looked at once.
    if audience.fleet.is_none() {
        for family in Family::ALL.into_iter().filter(|family| audience.network().sides.has(*family)) {
            out_of_order(audience, family, sent, findings);
        }
    }
}

/// Each time with its name, in the order in which they must come.
fn in_order<'a>(family: Family, times: &Timers<'a>) -> Vec<(&'static str, Timer<'a>)> {
    let mut all = vec![("renew", times.renew), ("rebind", times.rebind)];
    if family == Family::V6 {
        all.push(("preferred", times.preferred));
    }
    all.push(("lease", times.lease));
    all
}

fn out_of_order(audience: &Audience<'_>, family: Family, sent: &Both<Vec<Chosen<'_>>>, findings: &mut Findings) {
    let times = audience.timers(family, &sent[family]);
    for pair in in_order(family, &times).windows(2) {
        let [(first, earlier), (then, later)] = *pair else { continue };
        // Clients of DHCPv4 must renew before they rebind and so on; those of DHCPv6 may do two things at one time.
        let right = match family {
            Family::V4 => earlier.seconds < later.seconds || later.seconds == u32::MAX,
            Family::V6 => earlier.seconds <= later.seconds,
        };
        let Some(spot) = earlier.spot.or(later.spot).filter(|_| !right) else { continue };
        let (name, [sooner, latter]) =
            (&audience.network().name, [earlier, later].map(|time| duration_text(time.seconds)));
        let called = |key| match key {
            "renew" => "renewal time",
            "rebind" => "rebinding time",
            "preferred" => "preferred lifetime",
            _ => "lease",
        };
        // DHCPv4 wants them apart.
        let relation = if sooner == latter { "is the same as" } else { "is later than" };
        let message = format!("{} {sooner} {relation} {} {latter} on {name}", called(first), called(then));
        let mut finding = LEASE_TIMES_OUT_OF_ORDER.finding(message).at(spot.clone());
        if let Some(other) = later.spot.filter(|other| *other != spot) {
            finding = finding.related(other.clone(), format!("the {}", called(then)));
        }
        let half = duration_text(times.preferred.seconds / 2);
        findings.push(match (family, first) {
            (Family::V4, _) => {
                finding.advice(format!("renew = \"{half}\" or less, rebind between the two, or neither"))
            }
            (Family::V6, _) => finding.advice(format!("{first} = \"{latter}\" or less")).by("RFC 8415, section 21.4"),
        });
    }
}

check! { Plan(lease_unusual),
    /// a lease shorter than five minutes, or longer than ninety days, or without end
    ///
    /// Short leases load clients and servers, and every server outage becomes a network outage. Long ones hold
    /// addresses of machines that are long gone, and keep old values alive.
    static LEASE_UNUSUAL = "lease-unusual", Warning, Plan, "";
    v4_plan!("lease = \"2m\"\n")
}

fn lease_unusual(context: &PlanContext<'_>, findings: &mut Findings) {
    for layer in context.plan.layers() {
        let Some((lease, spot)) = &layer.times.lease else { continue };
        let short = *lease < 300;
        if short || *lease > 90 * 86_400 {
            let lasts =
                if *lease == u32::MAX { "for ever".to_owned() } else { format!("for {}", duration_text(*lease)) };
            let message = format!("{} leases addresses {lasts}", layer.name);
            let finding = LEASE_UNUSUAL.finding(message).at(spot.clone());
            findings.push(finding.advice(if short { "lease = \"1h\", or more" } else { "lease = \"30d\", or less" }));
        }
    }
}
