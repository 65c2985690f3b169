//! What changes for whom between two releases.

use std::collections::{BTreeMap, HashMap};
use std::fmt;

use super::{Document, FleetEntry, LayerEntry, NetworkEntry, OptionEntry, ReservationEntry};
use crate::layout::duration_text;
use crate::octets::hex;

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

/// A network, a fleet, or a client with a reservation.
#[derive(Debug, Clone, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Concerned {
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

/// Facts and options by name, in a form that does not depend on how the plan is written. Facts come first.
type Content = BTreeMap<(bool, String), Detail>;

/// What changes between two releases, networks first. Plans that come to the same octets have no change, however they are
/// written.
#[must_use]
pub fn compare(before: &Document, after: &Document) -> Vec<Changed> {
    let (before, after) = (contents(before), contents(after));
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
        let changes = differences(was.unwrap_or(&empty), is.unwrap_or(&empty));
        if !changes.is_empty() || sides != Sides::Both {
            changed.push(Changed { concerned: concerned.clone(), sides, changes });
        }
    }
    changed
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

/// Everything that a release is about, with what it says of that.
fn contents(document: &Document) -> Vec<(Concerned, Content)> {
    let networks = document.networks.iter();
    let networks = networks.map(|network| (Concerned::Network(network.name.clone()), of_network(network)));
    let fleets = document.fleets.iter().flat_map(of_fleet);
    let reservations = document.reservations.iter();
    let reservations =
        reservations.map(|one| (Concerned::Client(one.client.clone(), one.network.clone()), reserved(one)));
    networks.chain(fleets).chain(reservations).collect()
}

fn add_fact(content: &mut Content, what: &str, text: String) {
    if !text.is_empty() {
        content.insert((false, what.to_owned()), Detail::Text(text));
    }
}

fn of_network(network: &NetworkEntry) -> Content {
    let NetworkEntry { name: _, subnet, prefix, delegates, announces, pools, excluded, lease, preferred, options } =
        network;
    let mut content = Content::new();
    for (what, text) in [
        ("subnet", subnet.clone()),
        ("pool", pools.join(", ")),
        ("exclude", excluded.join(", ")),
        ("lease", duration_text(*lease)),
        ("prefix", prefix.clone().unwrap_or_default()),
        ("delegate", delegates.join(", ")),
        ("advertise", announces.clone().unwrap_or_default()),
        ("preferred", preferred.map(duration_text).unwrap_or_default()),
    ] {
        add_fact(&mut content, what, text);
    }
    add_options(&mut content, options);
    content
}

fn add_options(content: &mut Content, options: &[OptionEntry]) {
    for option in options {
        let octets = hex::parse(&option.hex).unwrap_or_default();
        let known = content.entry((true, option.option.clone())).or_insert_with(|| Detail::Octets(Vec::new()));
        // Several of one code stand one after the other.
        if let Detail::Octets(all) = known {
            all.extend(octets);
        }
    }
}

fn of_layer(layer: &LayerEntry) -> Content {
    let mut content = Content::new();
    add_fact(&mut content, "lease", layer.lease.map(duration_text).unwrap_or_default());
    for id in &layer.withheld {
        add_fact(&mut content, &format!("withhold {id}"), "yes".to_owned());
    }
    add_options(&mut content, &layer.options);
    content
}

fn of_fleet(fleet: &FleetEntry) -> Vec<(Concerned, Content)> {
    let mut own = of_layer(&fleet.says);
    add_fact(&mut own, "match", fleet.recognised.clone());
    let on = fleet.on.iter().map(|on| {
        let mut content = of_layer(&on.says);
        add_fact(&mut content, "pool", on.pools.join(", "));
        (Concerned::FleetOn(fleet.name.clone(), on.network.clone()), content)
    });
    std::iter::once((Concerned::Fleet(fleet.name.clone()), own)).chain(on).collect()
}

fn reserved(one: &ReservationEntry) -> Content {
    let mut content = of_layer(&one.says);
    for (what, text) in [("address", &one.address), ("address-v6", &one.ipv6_address), ("name", &one.name)] {
        add_fact(&mut content, what, text.clone().unwrap_or_default());
    }
    content
}
