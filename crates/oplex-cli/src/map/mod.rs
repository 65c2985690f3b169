//! The map of a network: its addresses as a strip, from the first to the last, in segments of what is leased, excluded, for one
//! fleet alone, or free, with marks where reservations and the servers that the plan names are.
//!
//! A strip is not to scale: a segment is as wide as the logarithm of how many addresses it has. A /8 with a pool of two hundred
//! addresses can be read that way, and so can a /31 and a /64.

mod svg;
mod text;

use std::collections::BTreeMap;
use std::net::{IpAddr, Ipv4Addr, Ipv6Addr};

use oplex::compiled::{Compiled, Host};
use oplex::family::{Address, Net};
use oplex::plan::Pool;

pub(crate) use svg::{PALETTE, data, document, key, legend, strip as draw_strip};
pub(crate) use text::draw as draw_text;

/// A subnet or prefix with what is in it.
pub(crate) struct Strip {
    /// It, as it is written: `10.64.4.0/23`.
    pub(crate) net: String,
    pub(crate) segments: Vec<Segment>,
    pub(crate) marks: Vec<Mark>,
}

/// Addresses in a row of which all is the same.
pub(crate) struct Segment {
    pub(crate) what: What,
    /// The first and the last, as text, and how many there are.
    pub(crate) first: String,
    pub(crate) last: String,
    pub(crate) count: u128,
    /// Where it begins and ends, as shares of the strip.
    pub(crate) from: f64,
    pub(crate) to: f64,
}

/// What addresses are for.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) enum What {
    /// In no pool.
    Free,
    /// No client can have it: the network address and the like.
    Never(&'static str),
    /// Leased to whoever is in no fleet with a pool of its own.
    Pool,
    /// In a pool, and not leased.
    Excluded,
    /// Leased to clients of one fleet alone.
    Fleet(String),
    /// Ranges of several kinds, too many to be drawn: how many, and how many addresses of them are leased.
    Several { ranges: usize, leased: u128 },
}

/// Addresses of single machines, as near to each other as one column of the drawing.
pub(crate) struct Mark {
    /// Where it is, as a share of the strip.
    pub(crate) at: f64,
    pub(crate) reservations: usize,
    pub(crate) servers: usize,
    /// What they are, the first few.
    pub(crate) labels: Vec<String>,
}

/// As many segments are drawn of one strip; where there are more, neighbours become one.
const MOST: usize = 48;

/// As many columns a strip has for marks.
const COLUMNS: f64 = 120.0;

/// As many labels a mark has.
const LABELS: usize = 4;

/// A map for each network of a plan.
pub(crate) struct Maps<'c> {
    compiled: &'c Compiled<'c>,
    /// The servers that the plan names, in the order of their addresses, each with what it is for.
    servers: BTreeMap<IpAddr, String>,
    /// The fleets that have something of their own on each network, by their places.
    fleets: Vec<Vec<usize>>,
}

impl<'c> Maps<'c> {
    pub(crate) fn of(compiled: &'c Compiled<'c>) -> Self {
        let mut servers: BTreeMap<IpAddr, String> = BTreeMap::new();
        for server in compiled.servers() {
            if let Host::Address(address) = server.host {
                let what = servers.entry(address).or_default();
                if !what.is_empty() {
                    what.push_str(", ");
                }
                what.push_str(&server.option);
            }
        }
        let mut fleets = vec![Vec::new(); compiled.networks.len()];
        for (place, fleet) in compiled.fleets.iter().enumerate() {
            fleet.on.iter().for_each(|on| fleets[on.network].push(place));
        }
        Self { compiled, servers, fleets }
    }

    /// The strips of a network: of its subnets, and of its prefixes.
    pub(crate) fn network(&self, at: usize) -> Vec<Strip> {
        let (mut all, v6) = (self.strips::<Ipv4Addr>(at), self.strips::<Ipv6Addr>(at));
        all.extend(v6);
        all
    }

    fn strips<A: Address>(&self, at: usize) -> Vec<Strip>
    where
        IpAddr: From<A>,
    {
        let side = self.compiled.networks[at].sides.of::<A>();
        side.subnets
            .iter()
            .map(|subnet| self.strip(at, subnet.net.trunc(), &subnet.reserved().collect::<Vec<_>>()))
            .collect()
    }

    fn strip<A: Address>(&self, at: usize, net: Net<A>, never: &[(A, &'static str)]) -> Strip
    where
        IpAddr: From<A>,
    {
        let side = self.compiled.networks[at].sides.of::<A>();
        let mut edges = Edges { first: net.first().bits(), last: net.last().bits(), all: Vec::new() };
        edges.add(&side.pools, &Kind::Pool);
        edges.add(&side.excluded, &Kind::Excluded);
        for place in &self.fleets[at] {
            if let Some(on) = self.compiled.fleets[*place].on(at) {
                edges.add(on.pools.of::<A>(), &Kind::Fleet(*place));
            }
        }
        for (place, (address, _)) in never.iter().enumerate() {
            edges.range(address.bits(), address.bits(), Kind::Never(place));
        }
        let what = |kind: Option<&Kind>| match kind {
            None => What::Free,
            Some(Kind::Pool) => What::Pool,
            Some(Kind::Excluded) => What::Excluded,
            Some(Kind::Fleet(place)) => What::Fleet(self.compiled.fleets[*place].name.to_string()),
            Some(Kind::Never(place)) => What::Never(never[*place].1),
        };
        let runs = edges.runs().into_iter().map(|(first, last, kind)| (first, last, what(kind.as_ref()))).collect();
        let placed = placed(fold(runs));
        let marks = self.marks::<A>(at, net, &placed);
        let text = |bits: u128| A::from_bits(bits).to_string();
        let segments = placed.into_iter().map(|run| Segment {
            first: text(run.first),
            last: text(run.last),
            count: run.count(),
            what: run.what,
            from: run.from,
            to: run.to,
        });
        Strip { net: net.to_string(), segments: segments.collect(), marks }
    }

    fn marks<A: Address>(&self, at: usize, net: Net<A>, placed: &[Run]) -> Vec<Mark>
    where
        IpAddr: From<A>,
    {
        let mut columns: BTreeMap<u32, Mark> = BTreeMap::new();
        let mut mark = |address: A, label: &dyn Fn() -> String, reserved: bool| {
            let place = share(placed, address.bits());
            // Shares are from 0 to 1.
            let column = (place * COLUMNS) as u32;
            let mark = columns.entry(column).or_insert_with(|| Mark {
                at: place,
                reservations: 0,
                servers: 0,
                labels: Vec::new(),
            });
            *(if reserved { &mut mark.reservations } else { &mut mark.servers }) += 1;
            if mark.labels.len() < LABELS {
                mark.labels.push(format!("{address} {}", label()));
            }
        };
        for row in self.compiled.reservations.of_network(at) {
            if let Some((address, _)) = row.address::<A>().filter(|(address, _)| net.holds(*address)) {
                let name = || row.name().map_or_else(|| row.client().to_string(), |(name, _)| name.to_owned());
                mark(address, &|| format!("reserved for {}", name()), true);
            }
        }
        for (address, what) in self.servers.range(IpAddr::from(net.first())..=IpAddr::from(net.last())) {
            if let Some(address) = A::of(*address) {
                mark(address, &|| format!("sent as {what}"), false);
            }
        }
        columns.into_values().collect()
    }
}

/// What a range of addresses is, the last being what counts where several meet.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord)]
enum Kind {
    Pool,
    Fleet(usize),
    Excluded,
    Never(usize),
}

/// Where ranges begin and end.
struct Edges {
    first: u128,
    last: u128,
    /// The first address for which a range counts or no longer counts.
    all: Vec<(u128, bool, Kind)>,
}

impl Edges {
    fn add<A: Address>(&mut self, pools: &[Pool<A>], kind: &Kind) {
        for pool in pools {
            self.range(pool.first.bits(), pool.last.bits(), kind.clone());
        }
    }

    /// What of a range is in the net.
    fn range(&mut self, first: u128, last: u128, kind: Kind) {
        let (first, last) = (first.max(self.first), last.min(self.last));
        if first > last {
            return;
        }
        self.all.push((first, true, kind.clone()));
        if last < self.last {
            self.all.push((last + 1, false, kind));
        }
    }

    /// The net in pieces of which all is the same.
    fn runs(mut self) -> Vec<(u128, u128, Option<Kind>)> {
        self.all.sort_unstable();
        let mut open: BTreeMap<Kind, usize> = BTreeMap::new();
        let mut runs: Vec<(u128, u128, Option<Kind>)> = Vec::new();
        let mut push = |first: u128, last: u128, kind: Option<Kind>| match runs.last_mut() {
            Some((_, end, same)) if *same == kind => *end = last,
            _ => runs.push((first, last, kind)),
        };
        let mut next = self.first;
        for (at, begins, kind) in self.all {
            if at > next {
                push(next, at - 1, open.keys().next_back().cloned());
                next = at;
            }
            let count = open.entry(kind.clone()).or_default();
            *count = if begins { *count + 1 } else { count.saturating_sub(1) };
            if *count == 0 {
                open.remove(&kind);
            }
        }
        push(next, self.last, open.keys().next_back().cloned());
        runs
    }
}

/// A segment by its numbers.
struct Run {
    first: u128,
    last: u128,
    what: What,
    from: f64,
    to: f64,
}

impl Run {
    fn count(&self) -> u128 {
        (self.last - self.first).saturating_add(1)
    }
}

/// The same, with neighbours as one where there are too many.
fn fold(runs: Vec<(u128, u128, What)>) -> Vec<(u128, u128, What)> {
    if runs.len() <= MOST {
        return runs;
    }
    let leased = |runs: &[(u128, u128, What)]| {
        let leased = runs.iter().filter(|(.., what)| matches!(what, What::Pool | What::Fleet(_)));
        leased.fold(0u128, |sum, (first, last, _)| sum.saturating_add((last - first).saturating_add(1)))
    };
    let chunks = runs.chunks(runs.len().div_ceil(MOST));
    let several = |chunk: &[(u128, u128, What)]| match chunk {
        [one] => one.clone(),
        [(first, ..), .., (_, last, _)] => {
            (*first, *last, What::Several { ranges: chunk.len(), leased: leased(chunk) })
        }
        [] => (0, 0, What::Free),
    };
    chunks.map(several).collect()
}

/// Where each begins and ends.
fn placed(runs: Vec<(u128, u128, What)>) -> Vec<Run> {
    // An address that nobody can have is a hair's breadth.
    let weight = |(first, last, what): &(u128, u128, What)| match what {
        What::Never(_) => 0.4,
        _ => f64::from((last - first).saturating_add(1).ilog2()) + 1.6,
    };
    let whole: f64 = runs.iter().map(weight).sum();
    let mut from = 0.0;
    let place = |run: (u128, u128, What)| {
        let to = from + weight(&run) / whole;
        let (first, last, what) = run;
        Run { first, last, what, from: std::mem::replace(&mut from, to), to }
    };
    runs.into_iter().map(place).collect()
}

/// Where an address is, as a share of the strip.
fn share(placed: &[Run], address: u128) -> f64 {
    let at = placed.partition_point(|run| run.last < address);
    let Some(run) = placed.get(at) else { return 1.0 };
    let inside = (address.saturating_sub(run.first) as f64 + 0.5) / (run.last - run.first + 1).max(1) as f64;
    run.from + (run.to - run.from) * inside
}

impl Strip {
    /// Whether nothing in it is leased, excluded or reserved, and no server is in it.
    pub(crate) fn is_bare(&self) -> bool {
        self.marks.is_empty() && self.segments.iter().all(|one| matches!(one.what, What::Free | What::Never(_)))
    }
}

impl Segment {
    /// `10.64.4.20-10.64.5.127: pool, 364 addresses`
    pub(crate) fn sentence(&self) -> String {
        let range = if self.first == self.last { self.first.clone() } else { format!("{}-{}", self.first, self.last) };
        let s = if self.count == 1 { "" } else { "es" };
        match &self.what {
            What::Never(what) => format!("{range}: {what}"),
            What::Several { ranges, leased } => format!("{range}: {ranges} ranges, {leased} addresses of them leased"),
            what => format!("{range}: {}, {} address{s}", what.name(), self.count),
        }
    }
}

impl What {
    pub(crate) fn name(&self) -> String {
        match self {
            Self::Free => "in no pool".to_owned(),
            Self::Never(what) => (*what).to_owned(),
            Self::Pool => "pool".to_owned(),
            Self::Excluded => "excluded".to_owned(),
            Self::Fleet(name) => format!("only for {}", crate::render::clean::line(name)),
            Self::Several { .. } => "several ranges".to_owned(),
        }
    }
}

impl Mark {
    /// `10.64.8.13 reserved for dome-3`, a line for each.
    pub(crate) fn sentence(&self) -> String {
        let more = (self.reservations + self.servers).saturating_sub(self.labels.len());
        let mut text = self.labels.join("\n");
        if more > 0 {
            text.push_str(&format!("\nand {more} more"));
        }
        crate::render::clean::lines(&text).into_owned()
    }
}
