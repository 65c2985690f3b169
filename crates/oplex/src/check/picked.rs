//! Which rules look at which option: picked once for each, as there are many rules and few of them are about one option.

use std::sync::LazyLock;

use super::catalogue::checks;
use super::declare::{Check, Find, FindInAtom, FindInMessage, FindInSent, FindInValue};
use crate::codebook::{Codebook, Definition, Picked};
use crate::family::Protocol;
use crate::finding::About;
use crate::layout::Topic;

/// The rules that look at values.
static IN_VALUES: LazyLock<Vec<(&'static Check, FindInValue)>> = LazyLock::new(|| {
    let finds = checks().iter().filter_map(|check| match check.find {
        Find::Value(find) | Find::TopicsAndValue(_, find) => Some((*check, find)),
        Find::ValueIf(_, find) | Find::MessageAndValue(_, _, find) => Some((*check, find)),
        _ => None,
    });
    finds.collect()
});

/// The rules that look at single things.
static IN_ATOMS: LazyLock<Vec<(&'static Check, FindInAtom)>> = LazyLock::new(|| {
    let finds = checks().iter().filter_map(|check| match check.find {
        Find::Atom(find) => Some((*check, find)),
        _ => None,
    });
    finds.collect()
});

/// Which of both look at this option.
pub(super) fn picked<'d>(codebook: &Codebook, definition: &'d Definition) -> &'d Picked {
    definition.picked.get_or_init(|| {
        let numbered = |numbers: &mut dyn Iterator<Item = usize>| numbers.map(|at| at as u16).collect();
        let looks = |check: &Check| check.picks(definition) && wants(check, codebook, definition);
        // What stands inside is not known before it is met.
        let holds = codebook.layout(definition).holds_options();
        let mut values = IN_VALUES.iter().enumerate().filter(|(_, (check, _))| looks(check)).map(|(at, _)| at);
        let mut atoms = IN_ATOMS.iter().enumerate().filter(|(_, (check, _))| holds || looks(check)).map(|(at, _)| at);
        Picked { values: numbered(&mut values), atoms: numbered(&mut atoms) }
    })
}

impl Picked {
    /// Those that look at the option's value.
    pub(super) fn in_value(&self) -> impl Iterator<Item = FindInValue> {
        self.values.iter().map(|at| IN_VALUES[usize::from(*at)].1)
    }

    /// Those that look at single things in it.
    pub(super) fn in_atoms(&self) -> impl Iterator<Item = (&'static Check, FindInAtom)> {
        self.atoms.iter().map(|at| IN_ATOMS[usize::from(*at)])
    }
}

/// Whether a rule has anything to look for in an option's values.
fn wants(check: &Check, codebook: &Codebook, definition: &Definition) -> bool {
    match (&check.find, check.rule.about) {
        (Find::ValueIf(wants, _) | Find::MessageAndValue(_, wants, _), _) => wants(codebook, definition),
        (_, About::Atoms(words)) => words.iter().any(|word| definition.layout_text.contains(word)),
        _ => true,
    }
}

/// A rule and the options that it looks at.
type OfOptions = (&'static [(Protocol, u16)], FindInSent);

/// The rules that look at this option where clients of a network are sent it.
pub(super) fn finds_in_sent(definition: &Definition) -> impl Iterator<Item = FindInSent> {
    static FINDS: LazyLock<Vec<OfOptions>> = LazyLock::new(|| {
        let finds = checks().iter().filter_map(|check| match check.find {
            Find::Sent(options, find) => Some((options, find)),
            _ => None,
        });
        finds.collect()
    });
    let is = |(protocol, code): &(Protocol, u16)| definition.code == *code && definition.is_own_of(*protocol);
    FINDS.iter().filter(move |(options, _)| options.iter().any(is)).map(|(_, find)| *find)
}

/// The rule that speaks on a topic: one about single options before one about all.
pub(super) fn by_topic(definition: &Definition, topic: Topic) -> Option<&'static Check> {
    let mut speaking = checks().iter().filter(|check| check.topics().contains(&topic) && check.picks(definition));
    let first = speaking.clone().find(|check| matches!(check.rule.about, About::Options(_)));
    first.or_else(|| speaking.next()).copied()
}

/// The rules that look at whole messages of this protocol.
pub(super) fn finds_in_message(protocol: Protocol) -> &'static [FindInMessage] {
    static FINDS: LazyLock<[Vec<FindInMessage>; 3]> = LazyLock::new(|| {
        Protocol::ALL.map(|protocol| {
            let finds = checks().iter().filter_map(|check| match (&check.find, check.rule.about) {
                (Find::Message(find) | Find::MessageAndValue(find, ..), About::Message(protocols)) => {
                    protocols.contains(&protocol).then_some(*find)
                }
                _ => None,
            });
            finds.collect()
        })
    });
    &FINDS[protocol as usize]
}
