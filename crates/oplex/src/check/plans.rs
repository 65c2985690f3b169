//! Rules over a plan.

use std::collections::HashSet;
use std::net::Ipv4Addr;
use std::ops::Range;
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};

use super::Report;
use super::catalogue::checks;
use super::composed::{self, Composed};
use super::declare::{Find, FindInPlan, PlanContext, SentHere};
use super::picked::finds_in_sent;
use super::rules::layers::{allows, silence};
use super::rules::missing::PLAN_WITHOUT_NETWORKS;
use super::{messages, options};
use crate::answer::Audience;
use crate::codebook::Definition;
use crate::compiled::{self, Compiled, LayerKind, LayerRef};
use crate::family::{Both, Family};
use crate::finding::{Finding, Findings, Spot, any_error};
use crate::parallel;
use crate::plan::{Allowed, Layer, Loaded, Plan, Reservation, Sent};

/// More networks or reservations than a thread takes to start.
const MANY: usize = 500;

pub(super) fn report(loaded: &Loaded, progress: &(dyn Fn(usize, usize) + Sync)) -> Report {
    let mut findings = Findings::default();
    findings.extend(loaded.findings.iter().cloned());
    let mut counts = vec![0; loaded.plan.as_ref().map_or(0, |plan| plan.allowed.len())];
    if let Some(plan) = &loaded.plan {
        let compiled = Compiled::of(plan);
        let context = PlanContext::new(plan, &compiled);
        let jobs = jobs(plan.networks.len());
        let large = plan.networks.len() > MANY || plan.reservations.len() > MANY;
        let done = AtomicUsize::new(0);
        progress(0, jobs.len());
        let found = parallel::each(if large { parallel::threads() } else { 1 }, &jobs, |job| {
            let found = job.findings(&context);
            progress(done.fetch_add(1, Ordering::Relaxed) + 1, jobs.len());
            found
        });
        let (mut composed, mut seen) = (Vec::new(), HashSet::new());
        for (job, (found, of_messages)) in jobs.iter().zip(found) {
            // A line that several clients are sent is spoken of once.
            let once = matches!(job, Job::Answers(_) | Job::Links);
            findings.extend(found.into_iter().filter(|finding| {
                // What is allowed for some clients may be said of others.
                !once
                    || (!allowed_for_some(loaded, plan, finding, &mut counts)
                        && seen.insert((finding.rule.name, finding.spot.clone())))
            }));
            composed.extend(of_messages);
        }
        let unsaid = composed::unsaid(composed, &findings);
        findings.extend(unsaid);
        if plan.networks.is_empty() && !loaded.is_codebook && !any_error(&findings) {
            let start = Spot { file: plan.file, span: 0..loaded.sources.get(plan.file).text.len().min(1) };
            let finding = PLAN_WITHOUT_NETWORKS.finding("the plan has no network, so it answers no client").at(start);
            findings.push(
                finding.advice("[network.NAME] with a subnet or a prefix; oplex new writes a plan to begin with"),
            );
        }
    }
    let exact = |finding: Finding| finding.made_exact(&loaded.sources);
    let mut findings: Vec<Finding> = findings.into_vec().into_iter().map(exact).collect();
    if let Some(plan) = &loaded.plan {
        silence(loaded, plan, &mut findings, &mut counts);
    }
    let place = |finding: &Finding| finding.spot.as_ref().map_or((u32::MAX, 0), |spot| (spot.file.0, spot.span.start));
    findings.sort_by_key(|finding| (place(finding), std::cmp::Reverse(finding.severity)));
    let entries = loaded.plan.iter().flat_map(|plan| &plan.allowed).zip(counts);
    let allowed = entries.map(|(allowed, count)| (allowed.clone(), count)).collect();
    Report { findings, allowed }
}

/// Whether an entry for a network or a fleet allows a finding, which is then counted.
fn allowed_for_some(loaded: &Loaded, plan: &Plan, finding: &Finding, counts: &mut [usize]) -> bool {
    let entries = plan.allowed.iter().zip(counts).filter(|(allowed, _)| allowed.is_scoped());
    let mut hit = entries.filter(|(allowed, _)| allows(loaded, plan, allowed, finding));
    hit.next().map(|(_, count)| *count += 1 + finding.more).is_some()
}

/// A look at a plan that needs no other.
enum Job {
    /// At each single value.
    Values,
    /// At what the clients of some networks are sent.
    Answers(Range<usize>),
    /// At what reservations send.
    Reservations,
    /// At what fleets are sent, held against the links of networks on which nothing else is to be looked at.
    Links,
    /// A rule's at the plan as a whole.
    Whole(FindInPlan),
}

/// All there is to do, the longest first.
fn jobs(networks: usize) -> Vec<Job> {
    let whole = checks().iter().filter_map(|check| match check.find {
        Find::Plan(find) | Find::AnswerAndPlan(_, find) => Some(Job::Whole(find)),
        _ => None,
    });
    let parts = (0..networks).step_by(MANY).map(|from| Job::Answers(from..networks.min(from + MANY)));
    parts.chain([Job::Links, Job::Values, Job::Reservations]).chain(whole).collect()
}

impl Job {
    /// What it finds, and what of that it finds in composed messages.
    fn findings(&self, context: &PlanContext<'_>) -> (Findings, Vec<Composed>) {
        let (mut findings, mut composed) = (Findings::default(), Vec::new());
        match self {
            Self::Answers(networks) => findings = of_answers(context, networks.clone(), &mut composed),
            Self::Values => {
                let plan = context.plan;
                for amendment in plan.layers().flat_map(|layer| layer.amends.iter().flatten()) {
                    findings.extend(options::of_amendment(amendment));
                }
                let expected = plan.expectations.iter().flat_map(|expect| expect.sent.iter().flatten());
                let advertised = plan.networks.iter().filter_map(|network| network.advertise.as_deref());
                let advertised = advertised.flat_map(|said| &said.sends);
                for sent in plan.layers().flat_map(Layer::all_sends).chain(advertised).chain(expected) {
                    findings.extend(options::of_sent(messages::alone(&plan.codebook), sent));
                }
            }
            Self::Reservations => {
                for row in context.plan.reservations.telling() {
                    let Some(layer) = row.layer() else { continue };
                    let id = LayerRef { name: &layer.name, kind: LayerKind::Reservation };
                    for sent in layer.all_sends() {
                        look_at_sent(context, row.network(), id, sent, &mut findings);
                    }
                }
            }
            Self::Links => of_fleets_options(context, &mut findings),
            Self::Whole(find) => find(context, &mut findings),
        }
        (findings, composed)
    }
}

/// What the rules about single options find in one that clients of a network are sent.
fn look_at_sent<'p>(
    context: &PlanContext<'p>,
    network: usize,
    layer: LayerRef<'p>,
    sent: &'p Sent,
    findings: &mut Findings,
) {
    let plan = context.plan;
    let here = SentHere { codebook: &plan.codebook, network: &plan.networks[network], layer, sent };
    finds_in_sent(&sent.definition).for_each(|find| find(&here, findings));
}

/// What the rules find in what a plan sends to the clients of these networks.
fn of_answers(context: &PlanContext<'_>, networks: Range<usize>, composed: &mut Vec<Composed>) -> Findings {
    let mut findings = Findings::default();
    let finds = checks().iter().filter_map(|check| match check.find {
        Find::Answer(find) | Find::AnswerAndPlan(find, _) => Some(find),
        _ => None,
    });
    let finds: Vec<_> = finds.collect();
    let compiled = context.compiled;
    let mut seen = HashSet::new();
    let scoped = context.plan.allowed.iter().any(Allowed::is_scoped);
    let mut look = |audience: Audience<'_>, all: &mut Findings| {
        let by = |family: Family| {
            let sent = family == Family::V4 || audience.network().sides.has(family);
            if sent { audience.sent(family) } else { Vec::new() }
        };
        let sent = Both::new(by);
        let mut findings = Findings::default();
        for find in &finds {
            find(&audience, &sent, &mut findings);
        }
        for chosen in sent.iter().flatten() {
            findings.extend(options::of_amended(messages::alone(&context.plan.codebook), &chosen.option));
            let Some(sent) = chosen.option.origin else { continue };
            look_at_sent(context, audience.at, chosen.layer, sent, &mut findings);
        }
        let own = (Some(audience.at), audience.fleet.and_then(compiled::Fleet::place));
        findings.iter_mut().for_each(|finding| finding.audience = own);
        // The same is found for thousands of clients, and is of no more use, but that it may be allowed for some of them.
        let of = scoped.then_some(own);
        all.extend(findings.into_iter().filter(|finding| seen.insert((finding.rule.name, finding.spot.clone(), of))));
        let special =
            audience.reservation.is_some() || audience.fleet.is_some_and(|fleet| fleet.on(audience.at).is_some());
        if special || context.kinds.is_first_of_messages(audience.at) {
            composed::of_audience(context, &audience, &sent, composed);
        }
    };
    for at in networks {
        look(Audience { compiled, at, fleet: None, reservation: None }, &mut findings);
        // What a fleet is sent on networks of one kind is looked at on the first of them.
        let first = context.kinds.is_first(at);
        let all = compiled.fleets.iter().filter(|_| first);
        let on = compiled.fleets_on(at).filter(|_| !first).map(|(fleet, _)| fleet);
        for fleet in all.chain(on) {
            look(Audience { compiled, at, fleet: Some(fleet), reservation: None }, &mut findings);
        }
        for (row, layer) in kinds_of_reservations(context, at) {
            let fleet = compiled.fleets_of(row).last();
            look(Audience { compiled, at, fleet, reservation: Some(&layer) }, &mut findings);
        }
        findings.extend(messages::of_advertisement(context, at));
    }
    findings
}

/// What the rules about single options find in what fleets are sent on networks that are like others: these hold it against the
/// network's links.
fn of_fleets_options(context: &PlanContext<'_>, findings: &mut Findings) {
    for fleet in &context.compiled.fleets {
        let sent = fleet.layer.options.iter().flatten().filter_map(|option| option.origin);
        for sent in sent.filter(|sent| finds_in_sent(&sent.definition).next().is_some()) {
            let mut spots = HashSet::new();
            let all = sent.hosts::<Ipv4Addr>(&context.plan.codebook).len().max(1);
            let others = (0..context.plan.networks.len()).filter(|at| !context.kinds.is_first(*at));
            for network in others.filter(|at| fleet.on(*at).is_none()) {
                let before = findings.len();
                look_at_sent(context, network, fleet.layer.id, sent, findings);
                // A place is spoken of once, so that there is nothing more to find when each is.
                spots.extend(findings[before..].iter().map(|finding| finding.spot.clone()));
                if spots.len() >= all {
                    break;
                }
            }
        }
    }
}

/// What the reservations of a network send, once for each set of options: rules about answers ask which options stand beside each
/// other, and thousands of machines are sent the same few.
fn kinds_of_reservations<'p>(context: &PlanContext<'p>, network: usize) -> Vec<(&'p Reservation, compiled::Layer<'p>)> {
    let mut kinds: HashSet<Vec<*const Definition>> = HashSet::new();
    let layers = context.of_reservations[network].iter().filter_map(|row| Some((*row, row.layer()?)));
    let new = layers.filter(|(_, layer)| {
        let options = layer.all_sends().map(|sent| Arc::as_ptr(&sent.definition));
        kinds.insert(options.chain(layer.withheld.iter().map(|out| Arc::as_ptr(&out.definition))).collect())
    });
    new.map(|(row, layer)| (row, compiled::Layer::of(layer, LayerKind::Reservation))).collect()
}
