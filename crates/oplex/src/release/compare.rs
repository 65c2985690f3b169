//! What changes between two releases, and for which clients.

use std::cell::Cell;
use std::collections::{BTreeMap, HashMap, HashSet};
use std::fmt;
use std::net::{Ipv4Addr, Ipv6Addr};
use std::ops::ControlFlow;

use crate::answer::{Audience, HostMode, Timer};
use crate::compiled::{Advertisement, Compiled, Fleet, Layer, LayerKind};
use crate::family::{Address, Family, Protocol};
use crate::layout::{EditsText, duration_text};
use crate::plan::{Among, Meetings, Pool, Reservation, Server, Subnet};

/// Everything that changes for one network, fleet or client.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Changed {
    /// Which one.
    pub concerned: Concerned,
    /// Whether it is there only before, only after, or on both sides.
    pub sides: Sides,
    /// What is different, option by option and fact by fact.
    pub changes: Vec<Change>,
}

/// The server, a network, a fleet, or a client with a reservation.
#[derive(Debug, Clone, PartialEq, Eq, Hash, PartialOrd, Ord)]
#[non_exhaustive]
pub enum Concerned {
    /// The server: how clients know it, and in which order its fleets apply.
    Server,
    /// The network of this name.
    Network(String),
    /// The fleet of this name.
    Fleet(String),
    /// A fleet on a network.
    FleetOn(String, String),
    /// A client on a network.
    Client(String, String),
}

/// `network control-room`, `fleet intercoms on control-room`
impl fmt::Display for Concerned {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Server => f.write_str("server"),
            Self::Network(name) => write!(f, "network {name}"),
            Self::Fleet(name) => write!(f, "fleet {name}"),
            Self::FleetOn(name, network) => write!(f, "fleet {name} on {network}"),
            Self::Client(client, network) => write!(f, "{client} on {network}"),
        }
    }
}

/// On which sides something is there.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Sides {
    /// It is taken away.
    OnlyBefore,
    /// It is new.
    OnlyAfter,
    /// It is there before and after.
    Both,
}

/// One thing that is different.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Change {
    /// An option's id, or what else it is: `pool`, `lease`.
    pub what: String,
    /// What it was.
    pub before: Option<Detail>,
    /// What it is now.
    pub after: Option<Detail>,
}

impl Change {
    /// Whether it is an option.
    #[must_use]
    pub fn is_option(&self) -> bool {
        matches!(self.before.as_ref().or(self.after.as_ref()), Some(Detail::Octets(_)))
    }
}

/// What something is, on one side.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Detail {
    /// The octets of an option.
    Octets(Vec<u8>),
    /// Anything else, as text.
    Text(String),
}

/// Progress is reported once for so many networks, fleets and reservations.
const STRIDE: usize = 100;

/// Facts and options by name, in a form that does not depend on how the plan is written. Facts come first.
type Content = BTreeMap<(bool, String), Detail>;

/// What changes between two releases, networks first. Plans that come to the same octets have no change, however they are
/// written.
///
/// ```
/// use oplex::compiled::Compiled;
/// use oplex::plan::Plan;
/// use oplex::release::compare;
///
/// let read = |text: &str| {
///     Plan::read("plan.toml", text, &mut |path| Err(format!("no file {path}").into())).plan.expect("it is TOML")
/// };
/// let before = read("[network.desk]\nsubnet = \"10.64.4.0/24\"\nsend.v4 = { router = \"10.64.4.1\" }\n");
/// let after = read("[network.desk]\nsubnet = \"10.64.4.0/24\"\nsend.v4 = { router = \"10.64.4.2\" }\n");
/// let (before, after) = (Compiled::of(&before), Compiled::of(&after));
/// assert_eq!(compare(&before, &before), []);
/// let changes = compare(&before, &after);
/// assert_eq!(changes.len(), 1);
/// ```
#[must_use]
pub fn compare<'c>(before: &'c Compiled<'c>, after: &'c Compiled<'c>) -> Vec<Changed> {
    compare_with_progress(before, after, &|_, _| {})
}

/// The same with progress: `progress` is called with how many networks, fleets and reservations of both sides were looked at, and
/// how many there are.
#[must_use]
pub fn compare_with_progress<'c>(
    before: &'c Compiled<'c>,
    after: &'c Compiled<'c>,
    progress: &dyn Fn(usize, usize),
) -> Vec<Changed> {
    let (order, arrivals) = (orders(before, after), Arrivals::between(before, after));
    let size = |side: &Compiled<'_>| side.networks.len() + side.fleets.len() + side.reservations.len();
    let (sizes, done) = (size(before) + size(after), Cell::new(0usize));
    let count = || {
        done.set(done.get() + 1);
        if done.get().is_multiple_of(STRIDE) {
            progress(done.get(), sizes);
        }
    };
    let (before, after) = (contents(before, after, &count), contents(after, before, &count));
    let index = |all: &[(Concerned, Content)]| -> HashMap<Concerned, usize> {
        all.iter().enumerate().map(|(at, (concerned, _))| (concerned.clone(), at)).collect()
    };
    let (was_at, is_at) = (index(&before), index(&after));
    let new = after.iter().filter(|(concerned, _)| !was_at.contains_key(concerned));
    let mut changed = Vec::new();
    for (concerned, _) in before.iter().chain(new) {
        let was = was_at.get(concerned).map(|at| &before[*at].1);
        let is = is_at.get(concerned).map(|at| &after[*at].1);
        let sides = match (was, is) {
            (Some(_), None) => Sides::OnlyBefore,
            (None, Some(_)) => Sides::OnlyAfter,
            _ => Sides::Both,
        };
        let empty = Content::new();
        let mut changes = differences(was.unwrap_or(&empty), is.unwrap_or(&empty));
        changes.extend(order.clone().filter(|_| *concerned == Concerned::Server));
        if let Concerned::Network(name) = concerned {
            changes.extend(arrivals.change(name));
        }
        if !changes.is_empty() || sides != Sides::Both {
            changed.push(Changed { concerned: concerned.clone(), sides, changes });
        }
    }
    changed
}

/// What arrives by DHCPv6 where routers advertise other flags than before: hosts whose router says that they use it for nothing do not request what
/// the plan still sends.
struct Arrivals<'c> {
    sides: [(&'c Compiled<'c>, HashMap<&'c str, usize>); 2],
}

impl<'c> Arrivals<'c> {
    fn between(before: &'c Compiled<'c>, after: &'c Compiled<'c>) -> Self {
        let places = |compiled: &'c Compiled<'c>| {
            compiled.networks.iter().enumerate().map(|(at, network)| (&*network.name, at)).collect()
        };
        Self { sides: [(before, places(before)), (after, places(after))] }
    }

    fn change(&self, network: &str) -> Option<Change> {
        let [was, is] = self.sides.each_ref().map(|(compiled, places)| Some((compiled, *places.get(network)?)));
        let (was, is) = (was?, is?);
        let mode = |(compiled, at): (&&Compiled<'_>, usize)| HostMode::on(&compiled.networks[at]);
        if mode(was).uses_dhcp() == mode(is).uses_dhcp() {
            return None;
        }
        let text = |(compiled, at): (&&Compiled<'_>, usize)| {
            let sent = compiled.payloads(Family::V6, at).unwrap_or_default();
            let names = sent.iter().map(|sent| match compiled.codebook.own(Protocol::V6, sent.code) {
                Some(known) => known.name.to_string(),
                None => format!("v6:{}", sent.code),
            });
            let names = if mode((compiled, at)).uses_dhcp() { listed(names) } else { String::new() };
            Detail::Text(if names.is_empty() { "nothing".to_owned() } else { names })
        };
        let (before, after) = (text(was), text(is));
        let differ = before != after;
        differ.then(|| Change { what: "arrives by DHCPv6".to_owned(), before: Some(before), after: Some(after) })
    }
}

/// The fleets that stand on both sides, where their order differs and matters: of several that know a client, the later wins.
fn orders(before: &Compiled<'_>, after: &Compiled<'_>) -> Option<Change> {
    fn common<'c, 'p>(compiled: &'c Compiled<'p>, other: &Compiled<'_>) -> Vec<&'c Fleet<'p>> {
        let known: HashSet<&str> = other.fleets.iter().map(|fleet| &*fleet.name).collect();
        compiled.fleets.iter().filter(|fleet| known.contains(&*fleet.name)).collect()
    }
    let (was, is) = (common(before, after), common(after, before));
    let differ = |(was, is): (&&Fleet<'_>, &&Fleet<'_>)| was.name != is.name;
    let first = was.iter().zip(&is).position(differ)?;
    let last = was.iter().zip(&is).rposition(differ)?;
    let (was, is) = (&was[first..=last], &is[first..=last]);
    let place: HashMap<&str, usize> = is.iter().enumerate().map(|(at, fleet)| (&*fleet.name, at)).collect();
    let turned = |one: &Fleet<'_>, other: &Fleet<'_>| {
        place.get(&*one.name) > place.get(&*other.name) && one.recognised.may_share_clients(&other.recognised)
    };
    let meetings = Meetings::new(was.iter().enumerate().map(|(at, fleet)| (at, 0, &*fleet.recognised)));
    let matters = |(at, one): (usize, &&Fleet<'_>)| {
        let later = Among { items: at + 1..was.len(), not_of: None };
        let found = meetings.near(&one.recognised, &later, &mut |other| match turned(one, was[other]) {
            true => ControlFlow::Break(()),
            false => ControlFlow::Continue(()),
        });
        found.is_break()
    };
    let text = |fleets: &[&Fleet<'_>]| {
        Some(Detail::Text(fleets.iter().map(|fleet| &*fleet.name).collect::<Vec<_>>().join(", ")))
    };
    let change = || Change { what: "order of fleets".to_owned(), before: text(was), after: text(is) };
    was.iter().enumerate().any(matters).then(change)
}

fn differences(was: &Content, is: &Content) -> Vec<Change> {
    let keys = was.keys().chain(is.keys().filter(|key| !was.contains_key(*key)));
    let differ = keys.filter(|key| was.get(*key) != is.get(*key));
    let mut changes: Vec<Change> = differ
        .map(|key| Change { what: key.1.clone(), before: was.get(key).cloned(), after: is.get(key).cloned() })
        .collect();
    let code = |change: &Change| change.what.rsplit([':', '/']).next().and_then(|code| code.parse::<u16>().ok());
    changes.sort_by_cached_key(|change| (change.is_option(), code(change), change.what.clone()));
    changes
}

/// Everything that a release is about, with what it says of that. Clients with a reservation of an address and a name alone, the
/// same in the other, are left out: there may be a million.
fn contents(compiled: &Compiled<'_>, other: &Compiled<'_>, count: &dyn Fn()) -> Vec<(Concerned, Content)> {
    let places: HashMap<&str, usize> = other.networks.iter().zip(0..).map(|(one, at)| (&*one.name, at)).collect();
    let places: Vec<Option<usize>> = compiled.networks.iter().map(|one| places.get(&*one.name).copied()).collect();
    let unchanged = |row: &&Reservation| {
        let theirs = places[row.network()].and_then(|network| other.reservations.of(network, row.client()));
        theirs.is_some_and(|theirs| row.plainly_equals(theirs))
    };
    let networks = (0..compiled.networks.len()).inspect(|_| count()).map(|at| {
        let name = compiled.networks[at].name.to_string();
        (Concerned::Network(name), of_network(compiled, at))
    });
    let fleets = compiled.fleets.iter().inspect(|_| count()).flat_map(|fleet| of_fleet(compiled, fleet));
    let reservations = compiled.reservations.iter().inspect(|_| count()).filter(|row| !unchanged(row)).map(|row| {
        let network = compiled.networks[row.network()].name.to_string();
        (Concerned::Client(row.client().to_string(), network), reserved(row))
    });
    let server = std::iter::once((Concerned::Server, of_server(compiled.server.as_ref())));
    server.chain(networks).chain(fleets).chain(reservations).collect()
}

fn of_server(server: &Server) -> Content {
    let mut content = Content::new();
    let v4 = server.v4.as_ref().map(|(address, _)| address.to_string());
    let v6 = server.v6.as_ref().map(|(address, _)| address.to_string());
    add_fact(&mut content, "server", listed(v4.into_iter().chain(v6)));
    add_fact(&mut content, "server-duid", server.duid.as_ref().map(ToString::to_string).unwrap_or_default());
    content
}

fn add_fact(content: &mut Content, what: &str, text: String) {
    if !text.is_empty() {
        content.insert((false, what.to_owned()), Detail::Text(text));
    }
}

/// Several of one code stand one after the other.
fn add_option(content: &mut Content, id: String, octets: &[u8]) {
    let known = content.entry((true, id)).or_insert_with(|| Detail::Octets(Vec::new()));
    if let Detail::Octets(all) = known {
        all.extend_from_slice(octets);
    }
}

/// What all clients on a network get.
fn of_network(compiled: &Compiled<'_>, at: usize) -> Content {
    let network = &compiled.networks[at];
    let audience = Audience { compiled, at, fleet: None, reservation: None };
    let mut content = Content::new();
    for family in Family::ALL.into_iter().filter(|family| network.sides.has(*family)) {
        let timers = audience.timers(family, &audience.sent(family));
        add_fact(&mut content, "lease", duration_text(timers.lease.seconds));
        // What follows from the lease is no change of its own.
        let set = |timer: &Timer<'_>| timer.layer.is_some();
        for (what, time, own) in [
            ("preferred", timers.preferred, timers.preferred.seconds != timers.lease.seconds),
            ("renew", timers.renew, set(&timers.renew)),
            ("rebind", timers.rebind, set(&timers.rebind)),
        ] {
            add_fact(&mut content, what, if own { duration_text(time.seconds) } else { String::new() });
        }
        let of_times = |code: u16| family == Family::V4 && matches!(code, 51 | 58 | 59);
        for sent in compiled.payloads(family, at).unwrap_or_default().into_iter().filter(|sent| !of_times(sent.code)) {
            add_option(&mut content, format!("{}:{}", family.name(), sent.code), &sent.octets);
        }
    }
    let sides = &network.sides;
    names(&mut content, audience);
    add_fact(&mut content, "subnet", listed(nets(&sides.v4.subnets)));
    add_fact(&mut content, "prefix", listed(nets(&sides.v6.subnets)));
    add_fact(&mut content, "relay", listed(super::write::relays(&network.relays).into_iter()));
    add_fact(&mut content, "interface-id", listed(network.interfaces.iter().map(|id| crate::octets::hex::plain(id))));
    add_fact(&mut content, "pool", listed(texts(&sides.v4.pools).chain(texts(&sides.v6.pools))));
    add_fact(&mut content, "exclude", listed(texts(&sides.v4.excluded).chain(texts(&sides.v6.excluded))));
    add_fact(&mut content, "delegate", listed(network.delegates.iter().map(ToString::to_string)));
    if let Some(said) = &network.advertises {
        advertised(&mut content, said);
    }
    content
}

/// The full name that clients of a network are answered, by each family where the two differ.
fn names(content: &mut Content, audience: Audience<'_>) {
    let sides = &audience.network().sides;
    let name = |family: Family| audience.fqdn(family).map(|name| name.fqdn.to_string()).unwrap_or_default();
    let mut families = Family::ALL.into_iter().filter(|family| sides.has(*family));
    let same = families.clone().map(name).collect::<Vec<_>>().windows(2).all(|two| two[0] == two[1]);
    let of_one = |family: Family| (format!("fqdn by {}", family.protocol()), name(family));
    match same {
        true => families.next().into_iter().for_each(|family| add_fact(content, "fqdn", name(family))),
        false => families.map(of_one).for_each(|(what, text)| add_fact(content, &what, text)),
    }
}

fn advertised(content: &mut Content, said: &Advertisement<'_>) {
    add_fact(content, "advertise", said.to_string());
    for option in &said.options {
        add_option(content, option.id().to_string(), option.octets.as_deref().unwrap_or_default());
    }
}

fn nets<A: Address>(subnets: &[Subnet<A>]) -> impl Iterator<Item = String> {
    subnets.iter().map(|subnet| subnet.net.trunc().to_string())
}

fn texts<A: Address>(pools: &[Pool<A>]) -> impl Iterator<Item = String> {
    pools.iter().map(ToString::to_string)
}

fn listed(texts: impl Iterator<Item = String>) -> String {
    texts.collect::<Vec<_>>().join(", ")
}

fn of_layer(layer: &Layer<'_>) -> Content {
    let mut content = Content::new();
    for (what, time) in layer.times.named() {
        add_fact(&mut content, what, time.map(|time| duration_text(time.seconds)).unwrap_or_default());
    }
    for out in &layer.withheld {
        add_fact(&mut content, &format!("withhold {}", out.id()), "yes".to_owned());
    }
    for (amend, family) in
        Family::ALL.into_iter().flat_map(|family| layer.amends[family].iter().map(move |one| (one, family)))
    {
        let what = format!("amend {}:{}", family.name(), amend.definition.spelled());
        add_fact(&mut content, &what, EditsText(&amend.edits).to_string());
    }
    for boot in &layer.boot {
        add_fact(&mut content, &format!("boot.{}", boot.key.name()), boot.text.to_string());
    }
    for key in &layer.boot_withheld {
        add_fact(&mut content, &format!("withhold boot.{}", key.name()), "yes".to_owned());
    }
    if let Some(own) = &layer.fqdn {
        add_fact(&mut content, "fqdn", own.to_string());
    }
    for option in layer.options.iter().flatten() {
        if let Some(octets) = &option.octets {
            add_option(&mut content, option.id().to_string(), octets);
        }
    }
    content
}

fn of_fleet(compiled: &Compiled<'_>, fleet: &Fleet<'_>) -> Vec<(Concerned, Content)> {
    let mut own = of_layer(&fleet.layer);
    add_fact(&mut own, "match", fleet.recognised.to_string());
    let on = fleet.on.iter().map(|on| {
        let mut content = of_layer(&on.layer);
        add_fact(&mut content, "pool", listed(on.pools.texts()));
        (Concerned::FleetOn(fleet.name.to_string(), compiled.networks[on.network].name.to_string()), content)
    });
    std::iter::once((Concerned::Fleet(fleet.name.to_string()), own)).chain(on).collect()
}

fn reserved(row: &Reservation) -> Content {
    let mut content = row.layer().map(|layer| of_layer(&Layer::of(layer, LayerKind::Reservation))).unwrap_or_default();
    let v4 = row.address::<Ipv4Addr>().map(|(address, _)| address.to_string());
    let v6 = row.address::<Ipv6Addr>().map(|(address, _)| address.to_string());
    let name = row.name().map(|(name, _)| name.to_owned());
    let delegated = row.delegated().map(|(prefix, _)| prefix.to_string());
    for (what, text) in [("address", v4), ("address-v6", v6), ("delegated", delegated), ("name", name)] {
        add_fact(&mut content, what, text.unwrap_or_default());
    }
    content
}
