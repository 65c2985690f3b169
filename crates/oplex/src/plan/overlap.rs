//! What two descriptions of clients have in common, as far as the patterns show.

use std::mem::discriminant;

use super::{Fact, Match, Pattern};

impl Match {
    /// Whether some client could be like both. It says yes wherever the patterns do not rule it out.
    #[must_use]
    pub fn may_share_clients(&self, other: &Self) -> bool {
        // Things that a client has one of: two lists of patterns for it that no text fits both of tell clients apart.
        [Fact::Mac, Fact::VendorClass, Fact::Hostname, Fact::ClientId].iter().all(|fact| {
            let (Some(one), Some(other)) = (self.wants(fact), other.wants(fact)) else { return true };
            one.iter().any(|one| other.iter().any(|other| one.may_meet(other)))
        })
    }

    /// The patterns of which one must fit this thing.
    fn wants(&self, wanted: &Fact) -> Option<&[Pattern]> {
        match self {
            Self::Sends { fact, patterns, .. } if discriminant(fact) == discriminant(wanted) => Some(patterns),
            Self::All(all) => all.iter().find_map(|one| one.wants(wanted)),
            _ => None,
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
            // Which addresses a pattern with signs in it stands for is not worked out.
            _ => true,
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
            (Self::Macs(first, last), Self::Text(_)) => first == last && other.fits(&crate::octets::hex::colon(first)),
            (Self::Text(_), Self::Macs(..)) => false,
        }
    }
}

/// Where in a pattern the first sign stands for others.
fn open(pattern: &str) -> Option<usize> {
    pattern.find(['*', '?'])
}
