//! What two descriptions of clients have in common, as far as the patterns show.

use super::{Fact, Match, Pattern};
use crate::octets::Mac;

/// Things that a client has one of: two lists of patterns for it that no text fits both of tell clients apart. Of architectures a
/// client may send several, and those that boot send one.
pub(super) const SINGLE: [Fact; 6] =
    [Fact::Mac, Fact::VendorClass, Fact::Hostname, Fact::ClientId, Fact::Duid, Fact::Architecture];

/// Whether conditions that must all hold cannot: two want different values of one thing, or one takes away all that another leaves.
fn excludes_itself(all: &[Match]) -> bool {
    let mut flat = Vec::new();
    all.iter().for_each(|one| one.conjuncts(&mut flat));
    let apart = |one: &Match, other: &Match| {
        let fact = |fact: &&Fact| one.wants(fact).is_some() && other.wants(fact).is_some();
        SINGLE.iter().any(|single| {
            fact(&single) && {
                let (ours, theirs) = (one.wants(single).unwrap_or_default(), other.wants(single).unwrap_or_default());
                !ours.iter().any(|one| theirs.iter().any(|other| one.may_meet(other)))
            }
        })
    };
    let excluded = |one: &Match, none: &[Match]| none.iter().any(|none| one.is_within(none));
    flat.iter().enumerate().any(|(at, one)| {
        flat[at + 1..].iter().any(|other| apart(one, other))
            || flat.iter().any(|other| matches!(other, Match::None(none) if excluded(one, none)))
    })
}

impl Match {
    /// Whether some client could be like both. It says yes wherever the patterns do not rule it out.
    #[must_use]
    pub fn may_share_clients(&self, other: &Self) -> bool {
        !self.is_hopeless()
            && !other.is_hopeless()
            && SINGLE.iter().all(|fact| {
                let (Some(one), Some(other)) = (self.wants(fact), other.wants(fact)) else { return true };
                one.iter().any(|one| other.iter().any(|other| one.may_meet(other)))
            })
    }

    /// Whether no client can be like this: it has no condition, or conditions that exclude each other.
    #[must_use]
    pub fn is_hopeless(&self) -> bool {
        match self {
            Self::All(all) => all.is_empty() || all.iter().any(Self::is_hopeless) || excludes_itself(all),
            Self::Any(any) => any.iter().all(Self::is_hopeless),
            Self::None(_) => false,
            Self::Sends { patterns, .. } => patterns.is_empty(),
        }
    }

    /// The conditions that must all hold, however they are nested.
    fn conjuncts<'m>(&'m self, into: &mut Vec<&'m Self>) {
        match self {
            Self::All(all) => all.iter().for_each(|one| one.conjuncts(into)),
            one => into.push(one),
        }
    }

    /// Whether every client that is like this is surely like the other, too.
    #[must_use]
    pub fn is_within(&self, other: &Self) -> bool {
        match (self, other) {
            (Self::Any(any), _) => !any.is_empty() && any.iter().all(|one| one.is_within(other)),
            (_, Self::All(all)) => !all.is_empty() && all.iter().all(|one| self.is_within(one)),
            (_, Self::Any(any)) if any.iter().any(|one| self.is_within(one)) => true,
            (Self::All(all), _) => all.iter().any(|one| one.is_within(other)),
            (Self::Sends { fact, patterns, .. }, Self::Sends { fact: wider, patterns: around, .. }) => {
                let covered = |pattern: &Pattern| around.iter().any(|wider| pattern.is_within(wider));
                fact.to_string() == wider.to_string() && !patterns.is_empty() && patterns.iter().all(covered)
            }
            _ => false,
        }
    }
}

impl Pattern {
    /// Whether some text could fit both.
    fn may_meet(&self, other: &Self) -> bool {
        match (self, other) {
            (Self::Macs(first, last), Self::Macs(from, to)) => first <= to && from <= last,
            (Self::Text(one), Self::Text(text)) => match (open(one), open(text)) {
                (None, _) => other.fits(one),
                (_, None) => self.fits(text),
                // What stands before the first signs must agree; what comes after may.
                (Some(begins), Some(starts)) => {
                    let shared = begins.min(starts);
                    one.as_bytes()[..shared] == text.as_bytes()[..shared]
                }
            },
            (Self::Macs(..), Self::Text(text)) | (Self::Text(text), Self::Macs(..)) => {
                let macs = if matches!(self, Self::Macs(..)) { self } else { other };
                begun(text).is_none_or(|(from, to)| macs.may_meet(&Self::Macs(from, to)))
            }
        }
    }

    /// Whether whatever fits this surely fits the other.
    fn is_within(&self, other: &Self) -> bool {
        match (self, other) {
            (Self::Macs(first, last), Self::Macs(from, to)) => from <= first && last <= to,
            (Self::Text(one), Self::Text(wider)) => {
                let begins = wider.strip_suffix('*').filter(|begins| open(begins).is_none());
                one == wider
                    || (open(one).is_none() && other.fits(one))
                    || begins.is_some_and(|begins| one.starts_with(begins))
            }
            (Self::Macs(first, last), Self::Text(text)) => {
                begun(text).is_some_and(|(from, to)| from <= *first && *last <= to)
                    || (first == last && other.fits(&crate::octets::hex::colon(first)))
            }
            (Self::Text(text), Self::Macs(from, to)) => {
                begun(text).is_some_and(|(first, last)| *from <= first && last <= *to)
            }
        }
    }
}

/// The hardware addresses that begin so, where a pattern says no more than that: `02:00:5e:*`.
pub(super) fn begun(pattern: &str) -> Option<(Mac, Mac)> {
    let octets = pattern.strip_suffix('*')?;
    let octets: Vec<u8> = octets.strip_suffix(':').unwrap_or(octets).split(':').map(octet).collect::<Option<_>>()?;
    let filled = |rest: u8| {
        let mut mac = [rest; 6];
        mac.get_mut(..octets.len())?.copy_from_slice(&octets);
        Some(Mac(mac))
    };
    Some((filled(0)?, filled(0xff)?))
}

fn octet(digits: &str) -> Option<u8> {
    u8::from_str_radix(digits, 16).ok().filter(|_| digits.len() == 2)
}

/// Where in a pattern the first sign stands for others.
fn open(pattern: &str) -> Option<usize> {
    pattern.find(['*', '?'])
}
