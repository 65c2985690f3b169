//! Leases that a process remembers as long as it runs.

use std::collections::{BTreeMap, HashMap};

use super::leases::{Association, Choices, Holder, Leased, Leases, Range};

/// How long an offer is kept, in seconds.
const OFFERED: u64 = 60;

/// How long what a client declined is not leased, in seconds.
const DECLINED: u64 = 3600;

/// As many leases and offers of one network are kept at least, before those that have ended are forgotten.
const FEW: usize = 1024;

/// As many leases and offers of one network there may be at most.
const MOST: usize = 1 << 20;

/// Leases in memory. It has no clock: its owner says what time it is. What has ended is kept until another client needs it or there
/// is too much of it. Of one network there are about a million leases at most; whoever comes after that is leased nothing.
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
    /// By the names of networks, which are the plan's own: no client chooses them so that they fall together.
    places: foldhash::HashMap<Box<str>, usize>,
    /// Each with its name.
    held: Vec<(Box<str>, OfNetwork)>,
    /// The place that was looked for last, as it mostly is again.
    last: usize,
    /// Where the holder that is looked for is put together.
    key: Vec<u8>,
}

/// The leases on one network.
#[derive(Debug, Clone, Default)]
struct OfNetwork {
    /// Clients choose who they say to be, so its hashing is one that cannot be played with.
    by_holder: HashMap<Box<[u8]>, Leased>,
    by_lease: BTreeMap<Leased, Held>,
    /// Of a range that begins so: before this place all was taken when it was last looked for.
    taken_to: foldhash::HashMap<Leased, u128>,
    /// How many there were when those that had ended were last forgotten, and when that was.
    swept: usize,
    swept_at: u64,
}

#[derive(Debug, Clone)]
struct Held {
    /// `None` where it was declined.
    by: Option<Box<[u8]>>,
    until: u64,
}

/// A holder as one piece: the association, and the client.
fn key<'k>(holder: &Holder<'_>, buffer: &'k mut Vec<u8>) -> &'k [u8] {
    let (kind, iaid) = match holder.association {
        Association::Client => (0, 0),
        Association::Addresses(iaid) => (1, iaid),
        Association::Prefixes(iaid) => (2, iaid),
    };
    buffer.clear();
    buffer.push(kind);
    buffer.extend(iaid.to_be_bytes());
    buffer.extend_from_slice(holder.client);
    buffer
}

impl InMemory {
    /// Says what time it is, in seconds from any moment.
    ///
    /// ```
    /// use oplex::server::InMemory;
    ///
    /// // Time is handed in, so that a test need not wait: leases end, and what has ended is leased anew.
    /// let mut leases = InMemory::default();
    /// leases.at(1_785_000_000);
    /// assert!(leases.is_empty());
    /// ```
    pub fn at(&mut self, seconds: u64) {
        self.now = seconds;
    }

    /// How many leases and offers there are, with those that have ended and no other client has had since.
    #[must_use]
    pub fn len(&self) -> usize {
        self.held.iter().map(|(_, network)| network.by_lease.len()).sum()
    }

    /// Whether there is none.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.len() == 0
    }

    /// The leases of the holder's network, the holder's key, and the time.
    fn of(&mut self, holder: &Holder<'_>) -> (&mut OfNetwork, &[u8], u64) {
        let place = self.place(holder.network).unwrap_or_else(|| {
            self.places.insert(holder.network.into(), self.held.len());
            self.held.push((holder.network.into(), OfNetwork::default()));
            self.held.len() - 1
        });
        self.last = place;
        (&mut self.held[place].1, key(holder, &mut self.key), self.now)
    }

    fn place(&self, network: &str) -> Option<usize> {
        let is_last = self.held.get(self.last).is_some_and(|(name, _)| **name == *network);
        if is_last { Some(self.last) } else { self.places.get(network).copied() }
    }
}

impl OfNetwork {
    /// Makes room for one more: forgets what has ended when there is twice as much as the last time. `false` where there is none.
    fn has_room(&mut self, now: u64) -> bool {
        // Where all of many are valid there is nothing to forget, however often clients ask within a second.
        if self.by_lease.len() >= (2 * self.swept).clamp(FEW, MOST) && (self.swept == 0 || self.swept_at != now) {
            let Self { by_lease, by_holder, .. } = self;
            by_lease.retain(|_, held| {
                let live = held.until > now;
                if let Some(by) = held.by.as_ref().filter(|_| !live) {
                    by_holder.remove(by);
                }
                live
            });
            (self.swept, self.swept_at) = (self.by_lease.len(), now);
            self.taken_to.clear();
        }
        self.by_lease.len() < MOST
    }

    fn is_free(&self, leased: Leased, holder: &[u8], now: u64) -> bool {
        self.by_lease.get(&leased).is_none_or(|held| held.by.as_deref() == Some(holder) || held.until <= now)
    }

    /// The first in a range that is free.
    fn first_free(&mut self, range: Range, holder: &[u8], now: u64) -> Option<Leased> {
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

    /// Notes who has something, and until when: `until` is called with when that was before, if it is the same holder.
    fn keep(&mut self, leased: Leased, holder: &[u8], until: impl FnOnce(u64) -> u64) {
        if let Some(held) = self.by_lease.get_mut(&leased) {
            if held.by.as_deref() == Some(holder) {
                held.until = until(held.until);
                return;
            }
            if let Some(by) = &held.by {
                self.by_holder.remove(by);
            }
        }
        self.by_lease.insert(leased, Held { by: Some(holder.into()), until: until(0) });
        if let Some(other) = self.by_holder.insert(holder.into(), leased).filter(|other| *other != leased) {
            self.by_lease.remove(&other);
            self.taken_to.clear();
        }
    }
}

impl Leases for InMemory {
    fn find(&mut self, holder: &Holder<'_>) -> Option<Leased> {
        let place = self.place(holder.network)?;
        self.held[place].1.by_holder.get(key(holder, &mut self.key)).copied()
    }

    fn offer(&mut self, holder: &Holder<'_>, choices: &mut Choices<'_>) -> Option<Leased> {
        let (network, key, now) = self.of(holder);
        if !network.has_room(now) && !network.by_holder.contains_key(key) {
            return None;
        }
        let mut found = choices.preferred().find(|leased| network.is_free(*leased, key, now));
        while found.is_none() {
            found = network.first_free(choices.range()?, key, now);
        }
        network.keep(found?, key, |until| until.max(now + OFFERED));
        found
    }

    fn bind(&mut self, holder: &Holder<'_>, leased: Leased, seconds: u32) -> bool {
        let (network, key, now) = self.of(holder);
        let free = network.is_free(leased, key, now) && (network.has_room(now) || network.by_holder.contains_key(key));
        if free {
            let until = if seconds == u32::MAX { u64::MAX } else { now + u64::from(seconds) };
            network.keep(leased, key, |_| until);
        }
        free
    }

    fn free(&mut self, holder: &Holder<'_>, leased: Leased, declined: bool) {
        let (network, key, now) = self.of(holder);
        if network.by_holder.get(key) != Some(&leased) {
            return;
        }
        network.by_holder.remove(key);
        network.by_lease.remove(&leased);
        network.taken_to.clear();
        if declined {
            network.by_lease.insert(leased, Held { by: None, until: now + DECLINED });
        }
    }
}
