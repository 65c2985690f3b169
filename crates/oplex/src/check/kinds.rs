//! Which networks are alike for what rules ask of answers and messages.

use std::collections::HashSet;

use crate::codebook::Definition;
use crate::compiled::{Compiled, Network, SentOption};
use crate::family::{Both, Family, Protocol};

/// The first networks of each kind, for rules about answers and for rules about messages.
pub(super) struct Kinds {
    answers: Vec<bool>,
    messages: Vec<bool>,
}

/// Options that rules about answers hold against each other, by what they are about.
const TOGETHER: [&[(Protocol, u16)]; 7] = {
    use Protocol::{Ra, V4, V6};
    [
        &[(V4, 6), (V4, 162), (V6, 23), (V6, 144), (Ra, 25)],
        &[(V4, 15), (V4, 119), (V6, 24), (Ra, 31)],
        &[(V4, 3), (V4, 33), (V4, 121)],
        &[(V4, 66), (V4, 67), (V4, 150), (V6, 59), (V6, 60)],
        &[(V4, 114), (V6, 103), (Ra, 37)],
        &[(V4, 26), (Ra, 5)],
        &[(V4, 100), (V4, 101), (V6, 41), (V6, 42)],
    ]
};

/// What networks of one kind have in common: all but values that nothing is held against.
#[derive(PartialEq, Eq, Hash)]
struct Kind<'a> {
    sides: Both<bool>,
    pools: Both<bool>,
    elsewhere: bool,
    header: Option<(bool, bool, u16, u32)>,
    times: [Option<u32>; 4],
    options: Vec<(usize, Option<&'a [u8]>, usize)>,
    withheld: Vec<usize>,
    more: String,
}

impl Kinds {
    pub(super) fn of(compiled: &Compiled<'_>) -> Self {
        let of_fleets = compiled.fleets.iter().flat_map(|fleet| {
            let on = fleet.on.iter().map(|on| &on.layer);
            std::iter::once(&fleet.layer).chain(on).flat_map(|layer| {
                let boot = layer.boot.iter().map(|boot| &boot.option.definition);
                let amended = layer.amends.iter().flatten().map(|amend| &amend.definition);
                layer.options.iter().flatten().map(|option| &option.definition).chain(boot).chain(amended)
            })
        });
        let of_fleets: Vec<&Definition> = of_fleets.map(|definition| &**definition).collect();
        let ids: HashSet<*const Definition> =
            of_fleets.iter().map(|definition| std::ptr::from_ref(*definition)).collect();
        let is =
            |definition: &Definition, one: &(Protocol, u16)| definition.code == one.1 && definition.is_own_of(one.0);
        // What a fleet sends beside it may be held against it.
        let groups: Vec<bool> = TOGETHER
            .iter()
            .map(|group| of_fleets.iter().any(|definition| group.iter().any(|one| is(definition, one))))
            .collect();
        let met = |option: &SentOption<'_>| {
            let definition = &*option.definition;
            let mut near = TOGETHER.iter().zip(&groups).filter(|(_, sent)| **sent);
            ids.contains(&std::ptr::from_ref(definition))
                || near.any(|(group, _)| group.iter().any(|one| is(definition, one)))
        };
        let firsts = |matters: &dyn Fn(&SentOption<'_>) -> bool| {
            let mut known = HashSet::with_capacity(64);
            compiled.networks.iter().map(|network| known.insert(Kind::of(network, matters))).collect()
        };
        Self { answers: firsts(&met), messages: firsts(&|_| false) }
    }

    /// Whether it is the first of those on which each fleet has answers that rules look at alike.
    pub(super) fn is_first(&self, network: usize) -> bool {
        self.answers[network]
    }

    /// Whether it is the first of those whose clients are sent messages of the same options and lengths.
    pub(super) fn is_first_of_messages(&self, network: usize) -> bool {
        self.messages[network]
    }
}

impl<'a> Kind<'a> {
    fn of(network: &'a Network<'_>, matters: &dyn Fn(&SentOption<'_>) -> bool) -> Self {
        let layer = &network.layer;
        let id = |option: &SentOption<'_>| std::sync::Arc::as_ptr(&option.definition) as usize;
        let option = |option: &'a SentOption<'_>| {
            let octets = option.octets.as_deref();
            (id(option), octets.filter(|_| matters(option)), octets.map_or(0, <[u8]>::len))
        };
        let said = network.advertises.as_ref();
        let header =
            said.map(|said| (said.header.managed, said.header.other, said.header.router_lifetime, said.interval));
        let sent = layer.options.iter().flatten().chain(said.iter().flat_map(|said| &said.options));
        let amended = layer.amends.iter().flatten().map(|amend| format!("{}{:?}", amend.definition.id(), amend.edits));
        let boot = layer.boot.iter().map(|boot| format!("{}={}", boot.key.name(), boot.text));
        let gone = layer.boot_withheld.iter().map(|key| format!("-{}", key.name()));
        let named = layer.fqdn.iter().map(|own| format!("fqdn={}", own.name));
        Self {
            sides: Both::new(|family| network.sides.has(family)),
            pools: Both::new(|family| match family {
                Family::V4 => network.sides.v4.pools.is_empty(),
                Family::V6 => network.sides.v6.pools.is_empty() && network.delegates.is_empty(),
            }),
            elsewhere: network.ipv6_elsewhere,
            header,
            times: layer.times.named().map(|(_, time)| time.map(|time| time.seconds)),
            options: sent.map(option).collect(),
            withheld: layer.withheld.iter().map(|out| std::sync::Arc::as_ptr(out) as usize).collect(),
            more: amended.chain(boot).chain(gone).chain(named).collect(),
        }
    }
}
