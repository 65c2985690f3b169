//! The rules: each is one declaration with the function that finds it beside it, a file for each family.
//!
//! ```
//! use oplex::check;
//! use oplex::plan::Plan;
//!
//! let text = "[network.control-room]\nsubnet = \"10.64.4.1/23\"\n";
//! let loaded = Plan::read("plan.toml", text, &mut |path| Err(format!("{path}: no such file")));
//! let findings = check::plan(&loaded);
//! assert!(findings.iter().any(|finding| finding.rule.name == "subnet-host-bits-set"));
//! ```

mod advertisements;
mod containers;
mod expectations;
mod families;
mod fleets;
mod formats;
mod layers;
mod messages;
mod messages_v6;
mod parts;
mod payload;
mod pools;
mod prefixes;
mod replies;
mod reservations;
mod subnets;
mod timers;
mod together;
mod values;
mod values_v6;

use std::collections::HashSet;
use std::sync::LazyLock;
use std::sync::atomic::{AtomicUsize, Ordering};

use crate::answer::{Told, told_on, told_v6_on};
use crate::codebook::{Codebook, Definition};
use crate::finding::{Finding, Rule};
use crate::layout::{Topic, Value};
use crate::packet::v4::Message;
use crate::packet::{ra, v6};
use crate::parallel;
use crate::plan::{Fleet, Layer, Loaded, Network, Plan, Sent};
use advertisements::Seen as SeenRa;
use messages::Seen;
use messages_v6::Seen as SeenV6;

/// A rule and how it finds.
struct Check {
    rule: Rule,
    find: Find,
}

/// Looks at one value.
type FindInValue = fn(&OneValue<'_>) -> Option<Finding>;

enum Find {
    /// It speaks of mistakes on these topics, in the options that the function picks.
    Topics(&'static [Topic], fn(&Definition) -> bool),
    /// It does both.
    Either(&'static [Topic], fn(&Definition) -> bool, FindInValue),
    /// It looks at the value of an option that has no mistake on any topic.
    Value(FindInValue),
    /// It looks at the whole plan.
    Plan(fn(&Plan, &mut Vec<Finding>)),
    /// It looks at what a network's devices are told, those of no fleet and those of each.
    Told(fn(&Whom<'_>, &[Told<'_>], &mut Vec<Finding>)),
    /// It looks at what a network's devices are told by DHCPv4 and by DHCPv6, where there is a prefix.
    BothFamilies(fn(&Whom<'_>, &[Told<'_>], &[Told<'_>], &mut Vec<Finding>)),
    /// It looks at a whole message.
    Message(fn(&Seen<'_>, &mut Vec<Finding>)),
    /// It looks at a whole message of DHCPv6, without the ones that it carries.
    MessageV6(fn(&SeenV6<'_>, &mut Vec<Finding>)),
    /// It looks at a whole router advertisement or solicitation.
    Advertisement(fn(&SeenRa<'_>, &mut Vec<Finding>)),
    /// It looks at a request and its answer.
    Exchange(fn(&Seen<'_>, &Seen<'_>, &mut Vec<Finding>)),
}

/// An option's value, wherever it came from.
struct OneValue<'v> {
    definition: &'v Definition,
    value: &'v Value,
}

impl OneValue<'_> {
    /// Whether it is this option, or one that is the same thing in DHCPv6 or in advertisements.
    fn is(&self, id: &str) -> bool {
        self.definition.has_id(id) || TWINS.iter().any(|(v4, twin)| *v4 == id && self.definition.has_id(twin))
    }
}

/// Options with a value of the same form and meaning as one of DHCPv4's.
const TWINS: [(&str, &str); 10] = [
    ("v4:90", "v6:11"),
    ("v4:99", "v6:36"),
    ("v4:100", "v6:41"),
    ("v4:101", "v6:42"),
    ("v4:114", "v6:103"),
    ("v4:114", "ra:37"),
    ("v4:143", "v6:136"),
    ("v4:159", "v6:93"),
    ("v4:161", "v6:112"),
    ("v4:221", "v6:68"),
];

/// Who is told something.
struct Whom<'p> {
    plan: &'p Plan,
    network: &'p Network,
    /// The fleet; `None` for devices of none.
    fleet: Option<&'p Fleet>,
}

impl<'p> Whom<'p> {
    /// The fleets before this one that some of its devices may belong to, too.
    fn earlier_fleets(&self) -> impl Iterator<Item = &'p Fleet> {
        let own = self.fleet;
        let before = self.plan.fleets.iter().take_while(move |fleet| own.is_some_and(|own| !std::ptr::eq(*fleet, own)));
        before.filter(move |fleet| own.is_some_and(|own| own.recognised.may_share_clients(&fleet.recognised)))
    }
}

/// `intercoms on control-room`
impl std::fmt::Display for Whom<'_> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self.fleet {
            Some(fleet) => write!(f, "{} on {}", fleet.name, self.network.name),
            None => f.write_str(&self.network.name),
        }
    }
}

/// Topic rules that pick some options stand before those that take all.
static CHECKS: [&[&Check]; 17] = [
    &parts::CHECKS,
    &payload::CHECKS,
    &values::CHECKS,
    &values_v6::CHECKS,
    &formats::CHECKS,
    &containers::CHECKS,
    &subnets::CHECKS,
    &pools::CHECKS,
    &prefixes::CHECKS,
    &families::CHECKS,
    &layers::CHECKS,
    &timers::CHECKS,
    &replies::CHECKS,
    &fleets::CHECKS,
    &reservations::CHECKS,
    &expectations::CHECKS,
    &together::CHECKS,
];

fn checks() -> impl Iterator<Item = &'static Check> {
    CHECKS
        .iter()
        .chain(&messages::CHECKS)
        .chain(&messages_v6::CHECKS)
        .chain(&advertisements::CHECKS)
        .flat_map(|family| family.iter().copied())
}

/// Every rule there is, in the order of their names.
#[must_use]
pub fn catalogue() -> Vec<&'static Rule> {
    let own = [&together::ALLOW_SILENCES_NOTHING];
    let reading = crate::document::RULES.iter().chain(&crate::plan::RULES).copied().chain(own);
    let mut rules: Vec<&Rule> =
        reading.chain(crate::codebook::rules()).chain(checks().map(|check| &check.rule)).collect();
    rules.sort_by_key(|rule| rule.name);
    rules
}

/// Everything the rules find in a plan, in the order of its lines.
#[must_use]
pub fn plan(loaded: &Loaded) -> Vec<Finding> {
    watched(loaded, &|_, _| {})
}

/// The same, for somebody who waits: `watch` is told how many rules have looked at the plan, and how many there are.
#[must_use]
pub fn watched(loaded: &Loaded, watch: &(dyn Fn(usize, usize) + Sync)) -> Vec<Finding> {
    let mut findings = loaded.findings.clone();
    if let Some(plan) = &loaded.plan {
        let jobs = jobs();
        let large = plan.networks.len() > MANY || plan.reservations.len() > MANY;
        let done = AtomicUsize::new(0);
        watch(0, jobs.len());
        let found = parallel::each(if large { parallel::threads() } else { 1 }, &jobs, |job| {
            let found = job.findings(plan);
            watch(done.fetch_add(1, Ordering::Relaxed) + 1, jobs.len());
            found
        });
        findings.extend(found.into_iter().flatten());
        together::silence(plan, &mut findings);
    }
    let place = |finding: &Finding| finding.spot.as_ref().map_or((u32::MAX, 0), |spot| (spot.file.0, spot.span.start));
    findings.sort_by_key(|finding| (place(finding), std::cmp::Reverse(finding.severity)));
    findings
}

/// More networks or reservations than a thread takes to start.
const MANY: usize = 500;

/// A look at a plan that needs no other.
enum Job {
    /// At each single value.
    Values,
    /// At what each network's devices are told.
    Told,
    /// A rule's at the plan as a whole.
    Whole(fn(&Plan, &mut Vec<Finding>)),
}

/// All there is to do, the longest first.
fn jobs() -> Vec<Job> {
    let whole =
        checks().filter_map(|check| if let Find::Plan(find) = check.find { Some(Job::Whole(find)) } else { None });
    [Job::Told, Job::Values].into_iter().chain(whole).collect()
}

impl Job {
    fn findings(&self, plan: &Plan) -> Vec<Finding> {
        let mut findings = Vec::new();
        match self {
            Self::Told => findings = told_findings(plan),
            Self::Values => {
                let expected = plan.expectations.iter().flat_map(|expect| expect.told.iter().chain(&expect.told_v6));
                let announced = plan.networks.iter().filter_map(|network| network.v6.advertise.as_deref());
                let announced = announced.flat_map(|said| &said.sends);
                for sent in plan.layers().flat_map(Layer::all_sends).chain(announced).chain(expected) {
                    findings.extend(one_sent(sent));
                }
            }
            Self::Whole(find) => find(plan, &mut findings),
        }
        findings
    }
}

/// What the rules find in what a plan tells anybody; a line that several are told is spoken of once.
fn told_findings(plan: &Plan) -> Vec<Finding> {
    let mut findings = Vec::new();
    let finds = checks().filter_map(|check| if let Find::Told(find) = check.find { Some(find) } else { None });
    let finds: Vec<_> = finds.collect();
    let both = checks().filter_map(|check| if let Find::BothFamilies(find) = check.find { Some(find) } else { None });
    let both: Vec<_> = both.collect();
    for network in &plan.networks {
        for fleet in std::iter::once(None).chain(plan.fleets.iter().map(Some)) {
            let whom = Whom { plan, network, fleet };
            let told = told_on(plan, network, fleet);
            for find in &finds {
                find(&whom, &told, &mut findings);
            }
            if fleet.is_none() {
                findings.extend(advertisements::of_network(plan, network));
            }
            if network.v6.prefix.is_some() {
                let told_v6 = told_v6_on(plan, network, fleet);
                for find in &both {
                    find(&whom, &told, &told_v6, &mut findings);
                }
            }
        }
    }
    let mut seen = HashSet::new();
    findings.retain(|finding: &Finding| {
        let place = finding.spot.as_ref().map(|spot| (spot.file, spot.span.start, spot.span.end));
        seen.insert((finding.rule.name, place))
    });
    findings
}

/// Everything the rules find in one option's octets.
#[must_use]
pub fn payload(codebook: &Codebook, definition: &Definition, octets: &[u8]) -> Vec<Finding> {
    let (value, faults) = codebook.decode(definition, octets);
    let mut findings: Vec<Finding> = faults
        .iter()
        .filter_map(|fault| {
            let finding = by_topic(definition, fault.kind.topic())?.finding(fault.kind.to_string());
            Some(rests_on(finding, definition).on(fault.octets.clone()))
        })
        .collect();
    if faults.is_empty()
        && let Some(value) = &value
    {
        findings.extend(
            by_value(&OneValue { definition, value }).map(|finding| rests_on(finding, definition).on(0..octets.len())),
        );
    }
    findings
}

/// Everything the rules find in a message, in the order of its octets, which the findings count from its start.
#[must_use]
pub fn message(codebook: &Codebook, message: Message<'_>) -> Vec<Finding> {
    messages::message(codebook, message)
}

/// Everything the rules find in a message of DHCPv6 and in the one that it carries, in the order of its octets, which the
/// findings count from its start.
#[must_use]
pub fn message_v6(codebook: &Codebook, message: v6::Message<'_>) -> Vec<Finding> {
    messages_v6::message(codebook, message)
}

/// Everything the rules find in a router advertisement or solicitation, in the order of its octets, which the findings count
/// from its start, or from that of the IPv6 header it was read with.
#[must_use]
pub fn advertisement(codebook: &Codebook, message: ra::Message<'_>) -> Vec<Finding> {
    advertisements::message(codebook, message)
}

/// What the rules find in an answer only when they see what it answers; the octets are the answer's.
#[must_use]
pub fn exchange(codebook: &Codebook, request: Message<'_>, reply: Message<'_>) -> Vec<Finding> {
    messages::exchange(codebook, request, reply)
}

/// What the rules have against a value that a plan sends, each finding at the very characters.
pub(crate) fn one_sent(sent: &Sent) -> Vec<Finding> {
    let definition = &*sent.definition;
    let about = |topic, message: &str| {
        Some(rests_on(by_topic(definition, topic)?.finding(format!("{}: {message}", definition.name)), definition))
    };
    let payload = match &sent.outcome {
        Ok(payload) => payload,
        Err(misfits) => {
            let finding = |(index, misfit): (usize, &crate::layout::Misfit)| {
                let spot = crate::finding::Spot { span: misfit.span.clone(), ..sent.spot.clone() };
                let finding = about(misfit.topic, &misfit.message)?.at(spot);
                // What to write instead of all of it is said once.
                let example = || definition.example.as_deref().filter(|_| index == 0 && misfit.topic == Topic::Shape);
                Some(match (&misfit.instead, example()) {
                    (Some(instead), _) => finding.instead(instead),
                    (None, Some(example)) => finding.instead(format!("a value such as {example}")),
                    (None, None) => finding,
                })
            };
            return misfits.iter().enumerate().filter_map(finding).collect();
        }
    };
    let faults = payload.faults.iter().filter_map(|fault| {
        let finding = about(fault.kind.topic(), &fault.kind.to_string())?;
        Some(finding.at(sent.spot_of(&fault.octets)).on(fault.octets.clone()))
    });
    let mut findings: Vec<Finding> = faults.collect();
    if findings.is_empty() {
        let value = OneValue { definition, value: &payload.value };
        findings.extend(by_value(&value).map(|finding| rests_on(finding, definition).at(sent.spot.clone())));
    }
    findings
}

fn by_topic(definition: &Definition, topic: Topic) -> Option<&'static Rule> {
    let speaks = |check: &&Check| match check.find {
        Find::Topics(topics, picks) | Find::Either(topics, picks, _) => topics.contains(&topic) && picks(definition),
        _ => false,
    };
    checks().find(speaks).map(|check| &check.rule)
}

fn by_value<'v>(value: &'v OneValue<'v>) -> impl Iterator<Item = Finding> {
    /// The rules that look at values, picked once.
    static FINDS: LazyLock<Vec<FindInValue>> = LazyLock::new(|| {
        let finds = checks().filter_map(|check| match check.find {
            Find::Value(find) | Find::Either(_, _, find) => Some(find),
            _ => None,
        });
        finds.collect()
    });
    FINDS.iter().filter_map(|find| find(value))
}

/// A rule that speaks for every option rests on the option's own RFC.
fn rests_on(finding: Finding, definition: &Definition) -> Finding {
    if finding.rfc.is_empty() { finding.by(definition.reference.clone()) } else { finding }
}

/// A plan that nothing is wrong with, around the line that an example is about.
macro_rules! otherwise_fine {
    ($lines:literal) => {
        otherwise_fine!($lines, "router = \"10.64.4.1\"\n")
    };
    ($lines:literal, $sent:literal) => {
        crate::finding::Example::Plan(concat!(
            "[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n",
            "[network.control-room]\nsubnet = \"10.64.4.0/23\"\n",
            $lines,
            "[network.control-room.send.v4]\n",
            $sent
        ))
    };
}
use otherwise_fine;

/// A plan with one IPv6 network, which goes on with these lines.
macro_rules! v6_plan {
    ($lines:literal) => {
        crate::finding::Example::Plan(concat!("[network.mast]\nprefix = \"2001:db8:64:40::/64\"\n", $lines))
    };
}
use v6_plan;
