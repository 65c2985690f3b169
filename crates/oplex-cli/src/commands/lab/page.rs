//! What came of a lab, for people.

use std::io::{self, Write};
use std::time::Duration;

use oplex::compiled::Compiled;
use oplex::finding::Severity;
use oplex::lab::{End, Event, PoolTally, Stock};
use oplex::layout::duration_text;

use super::run::{Done, draw_events};
use crate::args::LabRun;
use crate::commands::audit::page::{kinds, plural};
use crate::commands::shown;
use crate::render::clean;
use crate::render::octets::facts;
use crate::render::style::{AID, BAD, DIM, GOOD, ODD, STRONG, in_style};

pub(super) struct Page<'p> {
    pub(super) args: &'p LabRun,
    pub(super) compiled: &'p Compiled<'p>,
    pub(super) done: &'p Done,
    pub(super) unmatched: &'p [String],
}

impl Page<'_> {
    /// How many clients are without what their network should have for them.
    pub(super) fn without(&self) -> u64 {
        self.done.tally.groups.iter().map(|group| group.clients - group.content).sum()
    }

    pub(super) fn draw(&self, out: &mut dyn Write) -> io::Result<()> {
        let tally = &self.done.tally;
        writeln!(out, "{}\n", self.verdict())?;
        facts(
            out,
            &[
                ("tried", self.tried()),
                ("server", format!("{} requests, {} replies", tally.requests, tally.replies)),
                (
                    "chance",
                    format!(
                        "seed {}{}",
                        self.args.seed,
                        match self.args.lost {
                            0 => String::new(),
                            lost => format!(", {lost} packets of 1000 lost"),
                        }
                    ),
                ),
            ],
        )?;
        for name in self.unmatched {
            let name = clean::line(name);
            writeln!(
                out,
                "\n{} no client could be made up that is of fleet {name}; name some with --clients",
                in_style(ODD, "note")
            )?;
        }
        self.groups(out)?;
        self.pools(out)?;
        for (leased, one, other, at) in &tally.twice {
            writeln!(
                out,
                "\n{} {leased} was leased to {one} and to {other} at {}",
                in_style(BAD, "error"),
                clock(*at)
            )?;
        }
        kinds(out, &self.done.summary, |frame| frame.to_string())?;
        if self.done.summary.count(Severity::Error) > 0 {
            let advice =
                "--capture FILE writes the packets, and oplex audit FILE --plan PLAN shows what is wrong in which";
            writeln!(out, "\n  {} {advice}", in_style(AID, "try"))?;
        }
        if let Some(mac) = self.args.client {
            writeln!(out, "\n{}", in_style(STRONG, mac))?;
            draw_events(&self.done.events, out)?;
        }
        Ok(())
    }

    /// The plan, or the release and its store.
    fn tried(&self) -> String {
        let plan = shown(&self.args.plan);
        let store = self.args.store.path.as_ref().filter(|_| !self.args.plan.exists());
        store.map_or(plan.clone(), |store| format!("{plan} of {}", shown(store)))
    }

    fn verdict(&self) -> String {
        let tally = &self.done.tally;
        let clients: u64 = tally.groups.iter().map(|group| group.clients).sum();
        let time = duration_text(self.args.hours.saturating_mul(3600));
        let without = self.without();
        let have = match without {
            0 => format!("{} what they need", in_style(GOOD, "all have")),
            without => in_style(BAD, format!("{without} without what they need")),
        };
        let empty = tally.pools.iter().filter(|pool| pool.empty.is_some()).count() as u64;
        let empty = match empty {
            0 => String::new(),
            1 => ", 1 pool runs out".to_owned(),
            count => format!(", {count} pools run out"),
        };
        let twice = match tally.twice.len() as u64 {
            0 => String::new(),
            count => format!(", {}", in_style(BAD, format!("{} leased twice", plural(count, "address")))),
        };
        let counts = [Severity::Error, Severity::Warning]
            .map(|severity| (self.done.summary.count(severity), severity.to_string()));
        let found = counts.iter().filter(|(count, _)| *count > 0).map(|(count, what)| plural(*count, what));
        let found: Vec<String> = found.collect();
        let audit = match found.is_empty() {
            true => format!("the audit of their {} messages finds nothing wrong", self.done.packets),
            false => format!("the audit of their {} messages finds {}", self.done.packets, found.join(", ")),
        };
        format!("{} for {time}: {have}{empty}{twice}; {audit}", plural(clients, "client"))
    }

    fn groups(&self, out: &mut dyn Write) -> io::Result<()> {
        let names = self.done.tally.groups.iter();
        let width = names.map(|group| self.network(group.network).len().max(7)).max().unwrap_or(7);
        let kind = self.done.tally.groups.iter().map(|group| group.name.chars().count().max(7)).max().unwrap_or(7);
        let head = format!(
            "{:<width$}  {:<kind$} {:>9}  {:>6} {:>8} {:>8} {:>7} {:>7} {:>10} {:>8}",
            "network",
            "clients",
            "have",
            "leased",
            "extended",
            "released",
            "expired",
            "refused",
            "unanswered",
            "settings"
        );
        writeln!(out, "\n{}", in_style(DIM, head))?;
        for group in &self.done.tally.groups {
            let have = format!("{:>9}", format!("{} of {}", group.content, group.clients));
            let have = if group.content < group.clients { in_style(BAD, have) } else { have };
            let name = clean::line(&group.name);
            let none = |count: u64| if count == 0 { "·".to_owned() } else { count.to_string() };
            let [leased, extended, released, expired, refused, unanswered, settings] = [
                group.leased,
                group.renewed,
                group.released,
                group.expired,
                group.refused,
                group.unanswered,
                group.settings,
            ]
            .map(none);
            writeln!(
                out,
                "{:<width$}  {name:<kind$} {have}  {leased:>6} {extended:>8} {released:>8} {expired:>7} {refused:>7} \
                 {unanswered:>10} {settings:>8}",
                self.network(group.network)
            )?;
        }
        Ok(())
    }

    fn network(&self, at: usize) -> String {
        self.compiled.networks.get(at).map(|network| clean::line(&network.name).into_owned()).unwrap_or_default()
    }

    fn pools(&self, out: &mut dyn Write) -> io::Result<()> {
        writeln!(out, "\n{}", in_style(DIM, format!("{:>9} {:>7}  pool", "most used", "of")))?;
        for pool in &self.done.tally.pools {
            let peak = format!("{:>9}", pool.peak);
            let peak = if u128::from(pool.peak) >= pool.size { in_style(BAD, peak) } else { peak };
            writeln!(out, "{peak} {:>7}  {}{}", size(pool.size), self.pool(pool), empty(pool))?;
        }
        Ok(())
    }

    fn pool(&self, pool: &PoolTally) -> String {
        let what = match pool.stock {
            Stock::Addresses(family) => {
                if family == oplex::family::Family::V4 {
                    "IPv4"
                } else {
                    "IPv6"
                }
            }
            Stock::Prefixes => "prefixes",
        };
        let network = self.network(pool.network);
        match &pool.fleet {
            Some(fleet) => format!("{what} of fleet {} on {network}", clean::line(fleet)),
            None => format!("{what} of {network}"),
        }
    }
}

/// How large a pool is; beyond what anybody counts, by the power of two.
fn size(size: u128) -> String {
    if size >= 10_000_000 { format!("2^{}", size.ilog2()) } else { size.to_string() }
}

/// That nothing was left, and when first.
fn empty(pool: &PoolTally) -> String {
    pool.empty.map_or(String::new(), |(count, first)| {
        let times = if count == 1 { "once".to_owned() } else { format!("{count} times") };
        format!("  {}", in_style(BAD, format!("nothing left {times}, first after {}", clock(first))))
    })
}

/// A time in a lab: `2d 04:07:31`.
pub(super) fn clock(at: Duration) -> String {
    let seconds = at.as_secs();
    let (days, rest) = (seconds / 86_400, seconds % 86_400);
    let time = format!("{:02}:{:02}:{:02}", rest / 3600, rest / 60 % 60, rest % 60);
    if days == 0 { time } else { format!("{days}d {time}") }
}

/// What became of a client, in words.
pub(super) fn event(event: &Event) -> String {
    match event {
        Event::Leased { leased, seconds } => format!("is leased {leased} for {}", duration_text(*seconds)),
        Event::Renewed { leased, seconds } => format!("extends {leased} for {}", duration_text(*seconds)),
        Event::Ended { leased, why: End::Expired } => format!("has {leased} no longer: its time was over"),
        Event::Ended { leased, why: End::Released } => format!("releases {leased}"),
        Event::Ended { leased, why: End::Refused } => format!("has {leased} no longer: the server took it away"),
        Event::Refused { family, why } => format!("is refused by {}: {}", family.protocol(), clean::line(why)),
        Event::Unanswered(family) => format!("gets no reply by {}", family.protocol()),
        Event::Settings(_) => "gets settings without an address".to_owned(),
        Event::Formed(address) => format!("forms {address} of what its router advertises"),
        Event::WithoutIpv4 => "does without IPv4, as its network offers that".to_owned(),
        _ => String::new(),
    }
}
