//! What is remembered of clients and addresses from one conversation to the next.

use std::borrow::Borrow;
use std::collections::{HashMap, VecDeque};
use std::hash::Hash;
use std::sync::Arc;
use std::time::Duration;

use super::seen::{Frame, Short};
use crate::family::Both;
use crate::octets::Mac;
use crate::server::Leased;

/// A map whose hashing is quick, and begins with a number that is not known outside.
pub(super) type Map<K, V> = HashMap<K, V, foldhash::fast::RandomState>;

/// A map with a bound: what was added first is forgotten first.
#[derive(Debug)]
pub(super) struct Bounded<K, V> {
    /// By how many were added before.
    places: Map<K, u64>,
    /// In the order in which they were added, without those that were forgotten.
    all: VecDeque<(K, V)>,
    most: usize,
    /// How many were forgotten.
    pub(super) forgotten: u64,
}

impl<K: Eq + Hash + Clone, V> Bounded<K, V> {
    pub(super) fn new(most: usize) -> Self {
        Self { places: Map::default(), all: VecDeque::new(), most: most.max(1), forgotten: 0 }
    }

    fn at<Q: Eq + Hash + ?Sized>(&self, key: &Q) -> Option<usize>
    where
        K: Borrow<Q>,
    {
        self.places.get(key).map(|before| (before - self.forgotten) as usize)
    }

    pub(super) fn get<Q: Eq + Hash + ?Sized>(&self, key: &Q) -> Option<&V>
    where
        K: Borrow<Q>,
    {
        Some(&self.all[self.at(key)?].1)
    }

    pub(super) fn get_mut<Q: Eq + Hash + ?Sized>(&mut self, key: &Q) -> Option<&mut V>
    where
        K: Borrow<Q>,
    {
        let at = self.at(key)?;
        Some(&mut self.all[at].1)
    }

    /// What there is for a key, which `owned` gives again where it is to be kept.
    pub(super) fn or_insert_with<Q: Eq + Hash + ?Sized>(
        &mut self,
        key: &Q,
        owned: impl FnOnce() -> K,
        make: impl FnOnce() -> V,
    ) -> &mut V
    where
        K: Borrow<Q>,
    {
        let at = self.at(key).unwrap_or_else(|| {
            if self.all.len() >= self.most
                && let Some((first, _)) = self.all.pop_front()
            {
                self.places.remove(first.borrow());
                self.forgotten += 1;
            }
            let key = owned();
            self.places.insert(key.clone(), self.forgotten + self.all.len() as u64);
            self.all.push_back((key, make()));
            self.all.len() - 1
        });
        &mut self.all[at].1
    }

    /// The same where nothing is known yet of what is new.
    pub(super) fn or_insert<Q: Eq + Hash + ?Sized>(&mut self, key: &Q, owned: impl FnOnce() -> K) -> &mut V
    where
        K: Borrow<Q>,
        V: Default,
    {
        self.or_insert_with(key, owned, V::default)
    }

    pub(super) fn len(&self) -> usize {
        self.all.len()
    }

    /// All that is known, in the order in which it was added.
    pub(super) fn iter(&self) -> impl Iterator<Item = &(K, V)> {
        self.all.iter()
    }
}

/// A client.
#[derive(Debug, Default)]
pub(super) struct Client {
    /// What it was offered last.
    pub(super) offer: Option<Offer>,
    pub(super) lease: Option<Lease>,
}

/// A machine, which may be a client of both families.
#[derive(Debug, Default)]
pub(super) struct Machine {
    /// Whether its networks and fleets are counted already.
    pub(super) placed: bool,
    /// Whether what it requests is known already, by family.
    pub(super) requests: Both<bool>,
}

/// What a server offered a client: the octets by which it names itself, and its message as it was captured.
#[derive(Debug)]
pub(super) struct Offer {
    pub(super) by: Short,
    pub(super) octets: Arc<[u8]>,
}

/// A lease as its reply has it.
#[derive(Debug, Clone, Copy)]
pub(super) struct Lease {
    pub(super) at: Duration,
    pub(super) t1: u32,
    pub(super) seconds: u32,
}

impl Lease {
    /// Whether it has ended by then.
    pub(super) fn is_over(&self, now: Duration) -> bool {
        self.seconds != u32::MAX && self.at.saturating_add(Duration::from_secs(self.seconds.into())) <= now
    }
}

/// Who has an address: by which protocol's client, and until when.
#[derive(Debug, Clone)]
pub(super) struct Held {
    pub(super) by: Arc<[u8]>,
    pub(super) lease: Lease,
}

/// Everything that is remembered.
#[derive(Debug)]
pub(super) struct Memory {
    pub(super) clients: Bounded<Arc<[u8]>, Client>,
    pub(super) machines: Bounded<Arc<[u8]>, Machine>,
    pub(super) held: Bounded<Leased, Held>,
    pub(super) hosts: Bounded<(u32, Mac), Host>,
    pub(super) links: Bounded<u32, Flags>,
}

/// A host that looked for a router.
#[derive(Debug)]
pub(super) struct Host {
    pub(super) at: Duration,
    pub(super) frame: Frame,
    /// Whether it uses DHCPv6.
    pub(super) asks: bool,
}

/// What routers of a link advertise.
#[derive(Debug, Clone, Copy, Default)]
pub(super) struct Flags {
    pub(super) managed: bool,
    pub(super) other: bool,
}

impl Memory {
    pub(super) fn new(most: usize) -> Self {
        Self {
            clients: Bounded::new(most),
            machines: Bounded::new(most),
            held: Bounded::new(most),
            hosts: Bounded::new(most),
            links: Bounded::new(most),
        }
    }

    /// Remembers who holds an address; the one who held it until now, where that is another and its lease goes on.
    pub(super) fn hold(&mut self, leased: Leased, by: &Arc<[u8]>, lease: Lease, now: Duration) -> Option<Arc<[u8]>> {
        let held = self.held.or_insert_with(&leased, || leased, || Held { by: Arc::clone(by), lease });
        let before = Some(&held.by).filter(|before| *before != by && !held.lease.is_over(now)).cloned();
        *held = Held { by: Arc::clone(by), lease };
        before
    }

    /// Forgets that a client holds an address, which it gives back.
    pub(super) fn release(&mut self, leased: Leased, by: &[u8]) {
        if let Some(held) = self.held.get_mut(&leased).filter(|held| *held.by == *by) {
            held.lease.seconds = 0;
        }
    }
}
