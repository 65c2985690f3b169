//! What changes for whom between two compiled plans.

use std::collections::BTreeMap;

use super::{Compiled, CompiledFleet, CompiledLayer, CompiledNetwork, CompiledOption, CompiledReservation};

/// Everything that changes for one network, fleet or client.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Changed {
    /// Whom it concerns: `network control-room`, `fleet intercoms on control-room`.
    pub whom: String,
    /// Whether it is there only before, only after, or on both sides.
    pub sides: Sides,
    /// What is different, option by option and fact by fact.
    pub changes: Vec<Change>,
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
    /// What it was: an option's octets in hexadecimal, or text.
    pub before: Option<String>,
    /// What it is now.
    pub after: Option<String>,
    /// Whether it is an option.
    pub is_option: bool,
}

/// Facts and options by name, in a form that does not depend on how the plan is written.
type Content = BTreeMap<(bool, String), String>;

/// What changes between two compiled plans, networks first. Plans that come to the same octets have no change, however
/// they are written.
#[must_use]
pub fn compare(before: &Compiled, after: &Compiled) -> Vec<Changed> {
    let (before, after) = (contents(before), contents(after));
    let mut changed = Vec::new();
    let whoms = before.iter().chain(after.iter().filter(|(whom, _)| !before.iter().any(|(known, _)| known == whom)));
    let empty = Content::new();
    for (whom, _) in whoms {
        let side = |all: &[(String, Content)]| all.iter().find(|(known, _)| known == whom).map(|(_, is)| is.clone());
        let (was, is) = (side(&before), side(&after));
        let sides = match (&was, &is) {
            (Some(_), None) => Sides::OnlyBefore,
            (None, Some(_)) => Sides::OnlyAfter,
            _ => Sides::Both,
        };
        let changes = differences(was.as_ref().unwrap_or(&empty), is.as_ref().unwrap_or(&empty));
        if !changes.is_empty() || sides != Sides::Both {
            changed.push(Changed { whom: whom.clone(), sides, changes });
        }
    }
    changed
}

fn differences(was: &Content, is: &Content) -> Vec<Change> {
    let keys = was.keys().chain(is.keys().filter(|key| !was.contains_key(*key)));
    let mut changes: Vec<Change> = keys
        .filter(|key| was.get(*key) != is.get(*key))
        .map(|key| Change {
            what: key.1.clone(),
            before: was.get(key).cloned(),
            after: is.get(key).cloned(),
            is_option: key.0,
        })
        .collect();
    let code = |change: &Change| change.what.rsplit([':', '/']).next().and_then(|code| code.parse::<u16>().ok());
    changes.sort_by_cached_key(|change| (change.is_option, code(change), change.what.clone()));
    changes
}

/// Everybody whom a plan concerns, with what it says to them.
fn contents(plan: &Compiled) -> Vec<(String, Content)> {
    let networks = plan.networks.iter().map(|network| (format!("network {}", network.name), of_network(network)));
    let fleets = plan.fleets.iter().flat_map(of_fleet);
    let reservations =
        plan.reservations.iter().map(|one| (format!("{} on {}", one.client, one.network), reserved(one)));
    networks.chain(fleets).chain(reservations).collect()
}

fn of_network(network: &CompiledNetwork) -> Content {
    let CompiledNetwork { name: _, subnet, prefix, delegates, announces, pools, excluded, lease, preferred, options } =
        network;
    let mut content = Content::new();
    let mut fact = |what: &str, text: String| {
        if !text.is_empty() {
            content.insert((false, what.to_owned()), text);
        }
    };
    fact("subnet", subnet.clone());
    fact("pool", pools.join(", "));
    fact("exclude", excluded.join(", "));
    fact("lease", crate::layout::duration_text(*lease));
    fact("prefix", prefix.clone().unwrap_or_default());
    fact("delegate", delegates.join(", "));
    fact("advertise", announces.clone().unwrap_or_default());
    fact("preferred", preferred.map(crate::layout::duration_text).unwrap_or_default());
    add_options(&mut content, options);
    content
}

fn add_options(content: &mut Content, options: &[CompiledOption]) {
    for option in options {
        // Several of one code stand for one after the other.
        let hex = content.entry((true, option.option.clone())).or_default();
        hex.push_str(&option.hex);
    }
}

fn of_layer(layer: &CompiledLayer) -> Content {
    let mut content = Content::new();
    if let Some(lease) = layer.lease {
        content.insert((false, "lease".to_owned()), crate::layout::duration_text(lease));
    }
    content.extend(layer.withheld.iter().map(|id| ((false, format!("withhold {id}")), "yes".to_owned())));
    add_options(&mut content, &layer.options);
    content
}

fn of_fleet(fleet: &CompiledFleet) -> Vec<(String, Content)> {
    let mut own = of_layer(&fleet.says);
    own.insert((false, "match".to_owned()), fleet.recognised.clone());
    let on = fleet.on.iter().map(|on| {
        let mut content = of_layer(&on.says);
        if !on.pools.is_empty() {
            content.insert((false, "pool".to_owned()), on.pools.join(", "));
        }
        (format!("fleet {} on {}", fleet.name, on.network), content)
    });
    std::iter::once((format!("fleet {}", fleet.name), own)).chain(on).collect()
}

fn reserved(one: &CompiledReservation) -> Content {
    let mut content = of_layer(&one.says);
    for (what, text) in [("address", &one.address), ("address-v6", &one.address_v6), ("name", &one.name)] {
        content.extend(text.clone().map(|text| ((false, what.to_owned()), text)));
    }
    content
}
