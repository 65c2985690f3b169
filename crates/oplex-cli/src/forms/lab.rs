//! What came of a lab.

use std::time::Duration;

use oplex::answer::Ends;
use oplex::audit::{Conversation, Summary};
use oplex::compiled::Compiled;
use oplex::finding::Sources;
use oplex::lab::{End, Event, GroupTally, PoolTally, Stock, Tally};
use oplex::octets::hex;
use serde::Serialize;

use super::{AuditForm, FindingForm};
use crate::args::LabRun;
use crate::commands::shown;

/// A lab.
#[derive(Serialize)]
pub(crate) struct LabForm<'f> {
    plan: String,
    seconds: u64,
    seed: u64,
    requests: u64,
    replies: u64,
    groups: Vec<GroupForm<'f>>,
    pools: Vec<PoolForm<'f>>,
    twice: Vec<TwiceForm>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    events: Vec<EventForm<'f>>,
    audit: AuditForm<'f>,
}

#[derive(Serialize)]
struct GroupForm<'f> {
    network: &'f str,
    name: &'f str,
    clients: u64,
    content: u64,
    leased: u64,
    extended: u64,
    released: u64,
    expired: u64,
    refused: u64,
    unanswered: u64,
    settings: u64,
    formed: u64,
}

#[derive(Serialize)]
struct PoolForm<'f> {
    network: &'f str,
    #[serde(skip_serializing_if = "Option::is_none")]
    fleet: Option<&'f str>,
    stock: &'static str,
    /// Text, as there may be more than 2^53.
    size: String,
    peak: u64,
    #[serde(skip_serializing_if = "Option::is_none")]
    empty: Option<EmptyForm>,
}

#[derive(Serialize)]
struct EmptyForm {
    count: u64,
    first: f64,
}

#[derive(Serialize)]
struct TwiceForm {
    leased: String,
    first: String,
    second: String,
    at: f64,
}

#[derive(Serialize)]
struct EventForm<'f> {
    at: f64,
    event: &'static str,
    #[serde(skip_serializing_if = "Option::is_none")]
    family: Option<&'static str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    leased: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    seconds: Option<u32>,
    #[serde(skip_serializing_if = "Option::is_none")]
    why: Option<&'f str>,
}

impl<'f> LabForm<'f> {
    pub(crate) fn of(
        args: &LabRun,
        compiled: &'f Compiled<'_>,
        tally: &'f Tally,
        summary: &'f Summary,
        (packets, names): (u64, &'f [String]),
        events: &'f [(Duration, Event)],
    ) -> Self {
        let network = |at: usize| compiled.networks.get(at).map_or("", |network| &*network.name);
        let twice = tally.twice.iter().map(|(leased, first, second, at)| TwiceForm {
            leased: leased.to_string(),
            first: first.to_string(),
            second: second.to_string(),
            at: at.as_secs_f64(),
        });
        Self {
            plan: shown(&args.plan),
            seconds: 3600 * u64::from(args.hours),
            seed: args.seed,
            requests: tally.requests,
            replies: tally.replies,
            groups: tally.groups.iter().map(|group| GroupForm::of(group, network(group.network))).collect(),
            pools: tally.pools.iter().map(|pool| PoolForm::of(pool, network(pool.network))).collect(),
            twice: twice.collect(),
            events: events.iter().map(|(at, event)| EventForm::of(*at, event)).collect(),
            audit: AuditForm::of(summary, names, (packets, packets), None, &[]),
        }
    }
}

impl<'f> GroupForm<'f> {
    fn of(group: &'f GroupTally, network: &'f str) -> Self {
        Self {
            network,
            name: &group.name,
            clients: group.clients,
            content: group.content,
            leased: group.leased,
            extended: group.renewed,
            released: group.released,
            expired: group.expired,
            refused: group.refused,
            unanswered: group.unanswered,
            settings: group.settings,
            formed: group.formed,
        }
    }
}

impl<'f> PoolForm<'f> {
    fn of(pool: &'f PoolTally, network: &'f str) -> Self {
        let stock = match pool.stock {
            Stock::Addresses(family) => family.name(),
            Stock::Prefixes => "prefixes",
        };
        let empty = pool.empty.map(|(count, first)| EmptyForm { count, first: first.as_secs_f64() });
        Self { network, fleet: pool.fleet.as_deref(), stock, size: pool.size.to_string(), peak: pool.peak, empty }
    }
}

impl<'f> EventForm<'f> {
    fn of(at: Duration, event: &'f Event) -> Self {
        let none = Self { at: at.as_secs_f64(), event: "", family: None, leased: None, seconds: None, why: None };
        match event {
            Event::Leased { leased, seconds } => {
                Self { event: "leased", leased: Some(leased.to_string()), seconds: Some(*seconds), ..none }
            }
            Event::Renewed { leased, seconds } => {
                Self { event: "extended", leased: Some(leased.to_string()), seconds: Some(*seconds), ..none }
            }
            Event::Ended { leased, why } => {
                let event = match why {
                    End::Expired => "expired",
                    End::Released => "released",
                    End::Refused => "lost",
                };
                Self { event, leased: Some(leased.to_string()), ..none }
            }
            Event::Refused { family, why } => {
                Self { event: "refused", family: Some(family.name()), why: Some(why), ..none }
            }
            Event::Unanswered(family) => Self { event: "unanswered", family: Some(family.name()), ..none },
            Event::Settings(family) => Self { event: "settings", family: Some(family.name()), ..none },
            Event::Formed(address) => Self { event: "formed", leased: Some(address.to_string()), ..none },
            _ => Self { event: "without-ipv4", ..none },
        }
    }
}

/// A request that a stand-in server was sent, and what it answered.
#[derive(Serialize)]
pub(crate) struct ExchangeForm {
    at: f64,
    source: String,
    request: String,
    #[serde(skip_serializing_if = "Option::is_none")]
    reply: Option<String>,
}

#[cfg(target_os = "linux")]
impl ExchangeForm {
    pub(crate) fn of(at: Duration, exchange: &oplex_io::lab::Exchange) -> Self {
        let source = match exchange.request.ends {
            Ends::Icmp(ends) => ends.source.to_string(),
            Ends::Udp(from, _) => from.ip().to_string(),
        };
        let reply = exchange.reply.as_ref().map(|reply| hex::plain(&reply.octets));
        Self { at: at.as_secs_f64(), source, request: hex::plain(&exchange.request.octets), reply }
    }
}

/// What a stand-in client got.
#[derive(Serialize)]
pub(crate) struct ClientForm<'f> {
    has_all: bool,
    events: Vec<EventForm<'f>>,
    #[serde(skip_serializing_if = "Option::is_none")]
    findings: Option<Vec<FindingForm<'f>>>,
}

impl<'f> ClientForm<'f> {
    pub(crate) fn of(
        has_all: bool,
        events: &'f [(Duration, Event)],
        audited: Option<&'f [Conversation]>,
        sources: &Sources,
    ) -> Self {
        let reported = audited.map(|all| all.iter().flat_map(|one| &one.findings));
        let findings =
            reported.map(|reported| reported.map(|reported| FindingForm::new(&reported.finding, sources)).collect());
        Self { has_all, events: events.iter().map(|(at, event)| EventForm::of(*at, event)).collect(), findings }
    }
}

/// How much load a server bore.
#[derive(Serialize)]
pub(crate) struct LoadForm {
    clients: u32,
    leased: u64,
    replies: u64,
    lost: u64,
    seconds: f64,
    replies_per_second: f64,
    /// Of those of an echo of the same sizes.
    of_echo: f64,
    latencies: Vec<LatencyForm>,
}

/// So many replies of a hundred took no longer.
#[derive(Serialize)]
struct LatencyForm {
    percent: usize,
    seconds: f64,
}

#[cfg(target_os = "linux")]
impl LoadForm {
    pub(crate) fn of(clients: u32, loaded: &oplex_io::lab::Loaded, echo: &oplex_io::lab::Loaded) -> Self {
        let latency = |percent| LatencyForm { percent, seconds: loaded.percentile(percent).as_secs_f64() };
        Self {
            clients,
            leased: loaded.leased,
            replies: loaded.replies,
            lost: loaded.lost,
            seconds: loaded.time.as_secs_f64(),
            replies_per_second: loaded.rate(),
            of_echo: loaded.rate() / echo.rate(),
            latencies: [50, 90, 99, 100].map(latency).into(),
        }
    }
}
