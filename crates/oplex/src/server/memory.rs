//! Leases that a process remembers as long as it runs.

use std::collections::{BTreeMap, HashMap};

use super::leases::{Association, Choices, Holder, Leased, Leases, Range};

/// How long an offer is kept, in seconds.
const OFFERED: u64 = 60;

/// How long nobody is leased what somebody declined, in seconds.
const DECLINED: u64 = 3600;

/// Leases in memory. It has no clock: its owner says what time it is.
///
/// ```
/// use oplex::server::InMemory;
///
/// let mut leases = InMemory::default();
/// leases.at(1_900_000_000);
/// assert_eq!(leases.len(), 0);
/// ```
#[derive(Debug, Clone, Default)]
pub struct InMemory {
    now: u64,
    held: HashMap<Box<str>, OfNetwork>,
}

/// The leases on one network.
#[derive(Debug, Clone, Default)]
struct OfNetwork {
    by_holder: HashMap<(Association, Box<[u8]>), Leased>,
    by_lease: BTreeMap<Leased, Held>,
    /// Of a range that begins so: before this place all was taken when it was last looked for.
    taken_to: HashMap<Leased, u128>,
}

#[derive(Debug, Clone)]
struct Held {
    by: Option<(Association, Box<[u8]>)>,
    until: u64,
}

impl InMemory {
    /// Says what time it is, in seconds from any moment.
    pub fn at(&mut self, seconds: u64) {
        self.now = seconds;
    }

    /// How many leases and offers there are, with those that have ended and nobody else has had since.
    #[must_use]
    pub fn len(&self) -> usize {
        self.held.values().map(|network| network.by_lease.len()).sum()
    }

    /// Whether there is none.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }

    fn network(&mut self, name: &str) -> &mut OfNetwork {
        if !self.held.contains_key(name) {
            self.held.insert(name.into(), OfNetwork::default());
        }
        self.held.entry(name.into()).or_default()
    }
}

impl OfNetwork {
    fn is_free(&self, leased: Leased, holder: &(Association, Box<[u8]>), now: u64) -> bool {
        self.by_lease.get(&leased).is_none_or(|held| held.by.as_ref() == Some(holder) || held.until <= now)
    }

    /// The first in a range that is free, with its place.
    fn first_free(&mut self, range: Range, holder: &(Association, Box<[u8]>), now: u64) -> Option<Leased> {
        let begin = range.get(0)?;
        let from = self.taken_to.get(&begin).copied().unwrap_or(0);
        let mut place = from;
        while let Some(leased) = range.get(place) {
            if self.is_free(leased, holder, now) {
                self.taken_to.insert(begin, place);
                return Some(leased);
            }
            place += 1;
        }
        self.taken_to.insert(begin, place);
        // What has ended meanwhile.
        (0..from).filter_map(|place| range.get(place)).find(|leased| self.is_free(*leased, holder, now))
    }

    fn keep(&mut self, leased: Leased, holder: (Association, Box<[u8]>), until: u64) {
        if let Some(before) = self.by_lease.insert(leased, Held { by: Some(holder.clone()), until })
            && let Some(by) = before.by.filter(|by| *by != holder)
        {
            self.by_holder.remove(&by);
        }
        if let Some(other) = self.by_holder.insert(holder, leased).filter(|other| *other != leased) {
            self.by_lease.remove(&other);
            self.taken_to.clear();
        }
    }
}

fn owned(holder: &Holder<'_>) -> (Association, Box<[u8]>) {
    (holder.association, holder.client.into())
}

impl Leases for InMemory {
    fn find(&mut self, holder: &Holder<'_>) -> Option<Leased> {
        self.held.get(holder.network)?.by_holder.get(&owned(holder)).copied()
    }

    fn offer(&mut self, holder: &Holder<'_>, choices: &mut Choices<'_>) -> Option<Leased> {
        let (now, key) = (self.now, owned(holder));
        let network = self.network(holder.network);
        let mut found = choices.preferred().find(|leased| network.is_free(*leased, &key, now));
        while found.is_none() {
            found = network.first_free(choices.range()?, &key, now);
        }
        let leased = found?;
        let until =
            network.by_lease.get(&leased).filter(|held| held.by.as_ref() == Some(&key)).map_or(0, |held| held.until);
        network.keep(leased, key, until.max(now + OFFERED));
        Some(leased)
    }

    fn bind(&mut self, holder: &Holder<'_>, leased: Leased, seconds: u32) -> bool {
        let (now, key) = (self.now, owned(holder));
        let network = self.network(holder.network);
        let free = network.is_free(leased, &key, now);
        if free {
            network.keep(leased, key, if seconds == u32::MAX { u64::MAX } else { now + u64::from(seconds) });
        }
        free
    }

    fn free(&mut self, holder: &Holder<'_>, leased: Leased, declined: bool) {
        let (now, key) = (self.now, owned(holder));
        let network = self.network(holder.network);
        if network.by_holder.get(&key) != Some(&leased) {
            return;
        }
        network.by_holder.remove(&key);
        network.by_lease.remove(&leased);
        network.taken_to.clear();
        if declined {
            network.by_lease.insert(leased, Held { by: None, until: now + DECLINED });
        }
    }
}
