//! Which narrower layers override what a layer sends.

use std::collections::{BTreeMap, BTreeSet, HashMap};

use oplex::codebook::Definition;
use oplex::compiled::{Compiled, Layer, LayerKind};
use oplex::family::Family;
use serde::Serialize;

/// The narrower layers that send, change or withhold something.
#[derive(Serialize, Default)]
pub(crate) struct Overrides {
    /// The first of their names.
    pub(crate) overridden_by: Vec<String>,
    /// Whether there are more than are named.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    pub(crate) overridden_by_more: bool,
}

impl Overrides {
    fn of(mut names: Vec<String>) -> Self {
        let overridden_by_more = names.len() > NAMED;
        names.truncate(NAMED);
        Self { overridden_by: names, overridden_by_more }
    }
}

/// As many narrower layers are named for an option: of many fleets each may override each.
const NAMED: usize = 32;

/// The option by which clients are sent their full name.
pub(super) fn client_fqdn(family: Family) -> &'static str {
    match family {
        Family::V4 => "v4:81",
        Family::V6 => "v6:39",
    }
}

/// Which layers say something of an option, or of a key of `boot`.
pub(super) struct Narrower<'p> {
    compiled: &'p Compiled<'p>,
    of: HashMap<String, Speakers>,
}

/// The layers that say something of one thing, by their kinds.
#[derive(Default)]
struct Speakers {
    networks: Vec<usize>,
    /// In the order in which they apply.
    fleets: BTreeSet<usize>,
    /// Fleets on single networks, by the network.
    on: BTreeMap<usize, BTreeSet<usize>>,
    /// Those fleets, and the networks by the fleet.
    on_any: BTreeSet<usize>,
    networks_of: HashMap<usize, Vec<usize>>,
}

impl<'p> Narrower<'p> {
    /// Those of a plan, or those that concern one network.
    pub(super) fn of(compiled: &'p Compiled<'p>, only: Option<usize>) -> Self {
        let mut all = Self { compiled, of: HashMap::new() };
        let wanted = |at: usize| only.is_none_or(|only| only == at);
        for (at, network) in compiled.networks.iter().enumerate().filter(|(at, _)| wanted(*at)) {
            all.add(&network.layer, |speakers| speakers.networks.push(at));
        }
        for (at, fleet) in compiled.fleets.iter().enumerate() {
            all.add(&fleet.layer, |speakers| _ = speakers.fleets.insert(at));
            for on in fleet.on.iter().filter(|on| wanted(on.network)) {
                all.add(&on.layer, |speakers| {
                    speakers.on.entry(on.network).or_default().insert(at);
                    speakers.on_any.insert(at);
                    speakers.networks_of.entry(at).or_default().push(on.network);
                });
            }
        }
        all
    }

    fn add(&mut self, layer: &Layer<'_>, mut note: impl FnMut(&mut Speakers)) {
        let sent = layer.options.iter().flatten().map(|option| option.id().to_string());
        let amended = layer.amends.iter().flatten().map(|amend| amend.definition.id().to_string());
        let withheld = layer.withheld.iter().map(|out| out.id().to_string());
        let keys = layer.boot.iter().map(|boot| boot.key).chain(layer.boot_withheld.iter().copied());
        let named =
            Family::ALL.into_iter().filter(|_| layer.fqdn.is_some()).map(|family| client_fqdn(family).to_owned());
        let things =
            sent.chain(amended).chain(withheld).chain(named).chain(keys.map(|key| format!("boot.{}", key.name())));
        // A layer that sends several instances of an option says one thing.
        for what in things.collect::<BTreeSet<_>>() {
            note(self.of.entry(what).or_default());
        }
    }

    pub(super) fn of_option(&self, kind: LayerKind, definition: &Definition) -> Overrides {
        Overrides::of(self.below(kind, &definition.id().to_string()))
    }

    pub(super) fn of_fqdn(&self, kind: LayerKind, family: Family) -> Overrides {
        Overrides::of(self.below(kind, client_fqdn(family)))
    }

    pub(super) fn of_boot(&self, kind: LayerKind, key: &str) -> Overrides {
        Overrides::of(self.below(kind, &format!("boot.{key}")))
    }

    /// The layers that say something of it, and may be narrower than this one for some client: one more than are named.
    fn below(&self, kind: LayerKind, what: &str) -> Vec<String> {
        const MOST: usize = NAMED + 1;
        const FEW: usize = 256;
        let Some(speakers) = self.of.get(what) else { return Vec::new() };
        let (fleets, on) = (&speakers.fleets, &speakers.on);
        let known = |at: usize| &self.compiled.fleets[at];
        let network = |at: &usize| self.compiled.networks[*at].layer.id.name.to_owned();
        let fleet = |at: &usize| known(*at).layer.id.name.to_owned();
        let fleet_on = |network: usize, at: usize| Some(known(at).on(network)?.layer.id.name.to_owned());
        let all_on = on.iter().flat_map(|(network, all)| all.iter().map(move |at| (*network, *at)));
        let meeting = |own: usize, from: usize, speakers: &BTreeSet<usize>| -> Vec<usize> {
            // Of few fleets each is held against this one; of many, those that meet it are found among all.
            if speakers.len() > FEW {
                let among = from..self.compiled.fleets.len();
                return self.compiled.fleets_meeting(own, among, &|at| speakers.contains(&at), MOST);
            }
            let share = |at: &usize| known(*at).recognised.may_share_clients(&known(own).recognised);
            speakers.range(from..).copied().filter(|at| *at != own).filter(share).take(MOST).collect()
        };
        match kind {
            LayerKind::Everyone => {
                let wide = speakers.networks.iter().map(network).chain(fleets.iter().map(fleet));
                wide.chain(all_on.filter_map(|(network, at)| fleet_on(network, at))).take(MOST).collect()
            }
            LayerKind::Network(here) => {
                let on = on.get(&here).into_iter().flatten().filter_map(|at| fleet_on(here, *at));
                fleets.iter().map(fleet).chain(on).take(MOST).collect()
            }
            LayerKind::Fleet(own) => {
                let later = meeting(own, own + 1, fleets);
                let mut sharing = meeting(own, 0, &speakers.on_any);
                sharing.push(own);
                let places =
                    |at: usize| speakers.networks_of.get(&at).into_iter().flatten().map(move |network| (*network, at));
                let mut on: Vec<(usize, usize)> = sharing.into_iter().flat_map(places).collect();
                on.sort_unstable();
                let on = on.into_iter().filter_map(|(network, at)| fleet_on(network, at));
                later.iter().map(fleet).chain(on).take(MOST).collect()
            }
            LayerKind::FleetOn(own, here) => {
                let later = on.get(&here).map(|here_too| meeting(own, own + 1, here_too));
                later.into_iter().flatten().filter_map(|at| fleet_on(here, at)).collect()
            }
            _ => Vec::new(),
        }
    }
}
