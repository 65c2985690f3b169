//! Rules about what layers change and take away of wider ones.

use std::collections::HashMap;

use crate::check::declare::{PlanContext, check, checks, v4_plan};
use crate::codebook::Definition;
use crate::compiled::LayerKind;
use crate::finding::Findings;
use crate::plan::{AMEND_WITHOUT_EFFECT, BootKey, Layer, Plan};

checks! {
    WITHHOLD_WITHOUT_EFFECT
}

check! { Plan(without_effect),
    /// a layer withholds an option that no wider layer sends
    ///
    /// Either the option's name is wrong, and the intended option is still sent, or the line is a leftover.
    static WITHHOLD_WITHOUT_EFFECT = "withhold-without-effect", Warning, Plan, "";
    v4_plan!("withhold = [\"ntp-servers\"]\n")
}

/// Something that a layer sends: an option, a key of `boot`, or the clients' full name.
#[derive(Clone, Copy, PartialEq, Eq, Hash)]
enum Thing {
    Option(*const Definition),
    Boot(BootKey),
    Fqdn,
}

fn things(layer: &Layer) -> impl Iterator<Item = Thing> {
    let options = layer.all_sends().map(|sent| Thing::Option(std::sync::Arc::as_ptr(&sent.definition)));
    let boot = layer.boot.entries.iter().map(|entry| Thing::Boot(entry.key));
    options.chain(boot).chain(layer.fqdn.iter().map(|_| Thing::Fqdn))
}

/// What the layers of a plan send, to know what is wider than another.
struct Sends<'p> {
    plan: &'p Plan,
    /// What some network sends.
    by_networks: HashMap<Thing, usize>,
    /// What fleets send, with the first of them.
    by_fleets: HashMap<Thing, usize>,
    /// The same on single networks.
    on: HashMap<(usize, Thing), usize>,
}

impl<'p> Sends<'p> {
    fn of(plan: &'p Plan) -> Self {
        let mut sends = Self { plan, by_networks: HashMap::new(), by_fleets: HashMap::new(), on: HashMap::new() };
        for (at, network) in plan.networks.iter().enumerate() {
            for thing in things(&network.layer) {
                sends.by_networks.entry(thing).or_insert(at);
            }
        }
        for (at, fleet) in plan.fleets.iter().enumerate() {
            for thing in things(&fleet.layer) {
                sends.by_fleets.entry(thing).or_insert(at);
            }
            for on in &fleet.on {
                for thing in things(&on.layer) {
                    sends.on.entry((on.network, thing)).or_insert(at);
                }
            }
        }
        sends
    }

    /// Whether a layer that may be wider than this one sends it.
    fn wider(&self, kind: LayerKind, network: usize, thing: Thing) -> bool {
        let everyone = || things(&self.plan.everyone).any(|known| known == thing);
        let here = || self.plan.networks.get(network).is_some_and(|one| things(&one.layer).any(|known| known == thing));
        let fleets = |before: usize| self.by_fleets.get(&thing).is_some_and(|first| *first < before);
        let on = |before: usize| self.on.get(&(network, thing)).is_some_and(|first| *first < before);
        match kind {
            LayerKind::Everyone => false,
            LayerKind::Network(_) => everyone(),
            LayerKind::Fleet(at) => everyone() || self.by_networks.contains_key(&thing) || fleets(at),
            LayerKind::FleetOn(at, _) => everyone() || here() || fleets(usize::MAX) || on(at),
            LayerKind::Reservation => everyone() || here() || fleets(usize::MAX) || on(usize::MAX),
        }
    }
}

fn without_effect(context: &PlanContext<'_>, findings: &mut Findings) {
    let plan = context.plan;
    let sends = Sends::of(plan);
    let mut look = |layer: &Layer, kind: LayerKind, network: usize| of_layer(&sends, layer, kind, network, findings);
    look(&plan.everyone, LayerKind::Everyone, 0);
    for (at, network) in plan.networks.iter().enumerate() {
        look(&network.layer, LayerKind::Network(at), at);
    }
    for (at, fleet) in plan.fleets.iter().enumerate() {
        look(&fleet.layer, LayerKind::Fleet(at), 0);
        fleet.on.iter().for_each(|on| look(&on.layer, LayerKind::FleetOn(at, on.network), on.network));
    }
    for row in plan.reservations.telling() {
        row.layer().into_iter().for_each(|layer| look(layer, LayerKind::Reservation, row.network()));
    }
}

fn of_layer(sends: &Sends<'_>, layer: &Layer, kind: LayerKind, network: usize, findings: &mut Findings) {
    let option = |definition: &std::sync::Arc<Definition>| Thing::Option(std::sync::Arc::as_ptr(definition));
    // Whoever withholds the client FQDN withholds the name that a wider layer has for it.
    let named = |definition: &Definition| definition.has_id("v4:81") || definition.has_id("v6:39");
    let withheld = layer.withheld.iter().map(|out| {
        let thing = if named(&out.definition) { Thing::Fqdn } else { option(&out.definition) };
        (thing, &*out.definition.name, &out.spot)
    });
    let keys = layer.boot.withheld.iter().map(|(key, spot)| (Thing::Boot(*key), key.name(), spot));
    for (thing, name, spot) in withheld.chain(keys) {
        if !sends.wider(kind, network, thing) {
            let message = format!("no wider layer sends {name}, so there is nothing to withhold");
            let finding = WITHHOLD_WITHOUT_EFFECT.finding(message).at(spot.clone());
            findings.push(finding.advice("an option that a wider layer sends, or remove the line"));
        }
    }
    for amendment in layer.amends.iter().flatten() {
        if !sends.wider(kind, network, option(&amendment.definition)) {
            let label = amendment.definition.label();
            let message = format!("no wider layer sends {label}, so there is nothing to change");
            let finding = AMEND_WITHOUT_EFFECT.finding(message).at(amendment.key.clone());
            findings.push(finding.advice("`send` in place of `amend`, or an option that a wider layer sends"));
        }
    }
}
