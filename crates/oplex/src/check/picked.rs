//! Which rules look at which option: picked once for each, as there are many rules and few of them are about one option.

use std::sync::LazyLock;

use super::catalogue::checks;
use super::declare::{Check, Find, FindInAtom, FindInMessage, FindInSent, FindInValue};
use super::rules::registry::is_not_in_use;
use crate::codebook::{Codebook, Definition, MessageBits, MessageFact, MessageFactKind, Picked};
use crate::family::Protocol;
use crate::finding::About;
use crate::layout::{Atom, Role, Scalar, ScalarForm, Topic};

/// The rules that look at values.
static IN_VALUES: LazyLock<Vec<(&'static Check, FindInValue)>> = LazyLock::new(|| {
    let finds = checks().iter().filter_map(|check| match check.find {
        Find::Value(find) => Some((*check, find)),
        Find::ValueIf(_, find)
        | Find::TopicsAndValue(_, _, find)
        | Find::MessageAndValue(_, _, find)
        | Find::MessageAndInside(_, _, find) => Some((*check, find)),
        _ => None,
    });
    finds.collect()
});

/// The rules that look at single things.
static IN_ATOMS: LazyLock<Vec<(&'static Check, FindInAtom, u8)>> = LazyLock::new(|| {
    let finds = checks().iter().filter_map(|check| match check.find {
        Find::Atom(find) => Some((*check, find, kinds_of(check))),
        _ => None,
    });
    finds.collect()
});

/// Which of both look at this option.
pub(super) fn picked<'d>(codebook: &Codebook, definition: &'d Definition) -> &'d Picked {
    definition.picked.get_or_init(|| {
        let numbered =
            |numbers: &mut dyn Iterator<Item = usize>| -> Box<[u16]> { numbers.map(|at| at as u16).collect() };
        let looks = |check: &Check| check.picks(definition) && wants(check, codebook, definition);
        // What stands inside is not known before it is met.
        let holds = codebook.layout(definition).holds_options();
        let mut values = IN_VALUES.iter().enumerate().filter(|(_, (check, _))| looks(check)).map(|(at, _)| at);
        let mut atoms = IN_ATOMS.iter().enumerate().filter(|(_, (check, ..))| holds || looks(check)).map(|(at, _)| at);
        let values = numbered(&mut values);
        let at_top = values.iter().copied().filter(|at| {
            // What is about options inside others finds nothing at the top.
            !matches!(IN_VALUES[usize::from(*at)].0.find, Find::MessageAndInside(..))
        });
        let against = |fact: &&MessageFact| matches!(fact.kind, MessageFactKind::Barred | MessageFactKind::Discouraged);
        let mut messages = MessageBits::default();
        for fact in definition.messages.iter().filter(against) {
            messages.add(fact.when, fact.types.iter().copied());
        }
        let atoms = numbered(&mut atoms);
        let at_top: Box<[u16]> = at_top.collect();
        let has_more = holds || definition.carries.is_some();
        Picked {
            is_of_form_alone: !has_more && at_top.is_empty() && atoms.is_empty(),
            at_top,
            values,
            atoms,
            is_not_in_use: is_not_in_use(definition),
            is_only_inside: !definition.within.is_empty() && !definition.within.contains(&0),
            messages,
        }
    })
}

impl Picked {
    /// Those that look at the option's value, inside another or not.
    pub(super) fn in_value(&self, is_inside: bool) -> impl Iterator<Item = FindInValue> {
        let looking = if is_inside { &self.values } else { &self.at_top };
        looking.iter().map(|at| IN_VALUES[usize::from(*at)].1)
    }

    /// Those that look at a single thing of this kind in it.
    pub(super) fn in_atoms(&self, kind: u8) -> impl Iterator<Item = FindInAtom> {
        self.atoms.iter().filter_map(move |at| {
            let (_, find, kinds) = IN_ATOMS[usize::from(*at)];
            (kinds & kind != 0).then_some(find)
        })
    }
}

/// Kinds of single things that rules look at, a bit for each: addresses, routes and octets. There are no rules for others, nor for
/// addresses that any host may have where a host's may stand, as most are.
#[inline]
pub(super) fn kind_of(form: ScalarForm<'_>, scalar: Scalar<'_>) -> u8 {
    let is_group = || matches!(form, ScalarForm::Atom(Atom::Ipv4(Role::Group) | Atom::Ipv6(Role::Group)));
    match scalar {
        Scalar::Ipv4(address) if matches!(address.octets()[0], 1..=126 | 128..=223) => u8::from(is_group()),
        // 2000::/3 (RFC 4291, section 2.4).
        Scalar::Ipv6(address) if address.octets()[0] >> 5 == 1 => u8::from(is_group()),
        Scalar::Ipv4(_) | Scalar::Ipv6(_) => 1,
        Scalar::Route4(_) => 2,
        Scalar::Bytes(_) => 4,
        _ => 0,
    }
}

/// What a rule about single things looks at, by the words of layouts that it names.
fn kinds_of(check: &Check) -> u8 {
    let About::Atoms(words) = check.rule.about else { return u8::MAX };
    let kind = |word: &str| match word {
        "ipv4" | "ipv6" => 1,
        "route4" => 2,
        "duid" => 4,
        other => unreachable!("no rule looks at `{other}`: say in `kind_of` what that is"),
    };
    words.iter().fold(0, |all, word| all | kind(word))
}

/// Whether a rule has anything to look for in an option's values.
fn wants(check: &Check, codebook: &Codebook, definition: &Definition) -> bool {
    match (&check.find, check.rule.about) {
        (
            Find::ValueIf(wants, _)
            | Find::TopicsAndValue(_, wants, _)
            | Find::MessageAndValue(_, wants, _)
            | Find::MessageAndInside(_, wants, _),
            _,
        ) => wants(codebook, definition),
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
                (
                    Find::Message(find) | Find::MessageAndValue(find, ..) | Find::MessageAndInside(find, ..),
                    About::Message(protocols),
                ) => protocols.contains(&protocol).then_some(*find),
                _ => None,
            });
            finds.collect()
        })
    });
    &FINDS[protocol as usize]
}
