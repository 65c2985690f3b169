//! Conversations that go on, found by what distinguishes them.

use std::borrow::Borrow;
use std::hash::{Hash, Hasher};
use std::sync::Arc;

use super::clients::Map;
use super::conversation::Open;
use crate::family::Protocol;

/// What distinguishes conversations.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub(super) struct KeyOf<'k> {
    pub(super) protocol: Protocol,
    pub(super) link: u32,
    pub(super) transaction: u32,
    pub(super) client: &'k [u8],
}

/// The same as it is kept.
#[derive(Debug)]
struct Key {
    protocol: Protocol,
    link: u32,
    transaction: u32,
    client: Arc<[u8]>,
}

/// Either, so that nothing is copied to look for it.
trait AsKey {
    fn key(&self) -> KeyOf<'_>;
}

impl AsKey for KeyOf<'_> {
    fn key(&self) -> KeyOf<'_> {
        *self
    }
}

impl AsKey for Key {
    fn key(&self) -> KeyOf<'_> {
        let Self { protocol, link, transaction, ref client } = *self;
        KeyOf { protocol, link, transaction, client }
    }
}

impl<'k> Borrow<dyn AsKey + 'k> for Key {
    fn borrow(&self) -> &(dyn AsKey + 'k) {
        self
    }
}

impl Hash for dyn AsKey + '_ {
    fn hash<H: Hasher>(&self, hasher: &mut H) {
        self.key().hash(hasher);
    }
}

impl PartialEq for dyn AsKey + '_ {
    fn eq(&self, other: &Self) -> bool {
        self.key() == other.key()
    }
}

impl Eq for dyn AsKey + '_ {}

impl Hash for Key {
    fn hash<H: Hasher>(&self, hasher: &mut H) {
        self.key().hash(hasher);
    }
}

impl PartialEq for Key {
    fn eq(&self, other: &Self) -> bool {
        self.key() == other.key()
    }
}

impl Eq for Key {}

/// Where a conversation is. Its place may be another's when it has ended; its number never is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) struct ConversationId {
    at: usize,
    number: u64,
}

/// The conversations that go on.
#[derive(Debug, Default)]
pub(super) struct Opened {
    places: Map<Key, ConversationId>,
    /// Each with its number; nothing where one has ended, or is taken out while a message is added to it.
    all: Vec<(u64, Option<Box<Open>>)>,
    free: Vec<usize>,
    /// How many have begun.
    begun: u64,
}

impl Opened {
    pub(super) fn len(&self) -> usize {
        self.places.len()
    }

    pub(super) fn find(&self, key: KeyOf<'_>) -> Option<ConversationId> {
        self.places.get(&key as &dyn AsKey).copied()
    }

    /// A conversation that is not there yet.
    pub(super) fn begin(&mut self, key: KeyOf<'_>) -> ConversationId {
        let open = Box::new(Open::new(key));
        self.begun += 1;
        let number = self.begun;
        let KeyOf { protocol, link, transaction, .. } = key;
        let key = Key { protocol, link, transaction, client: Arc::clone(&open.conversation.client) };
        let new = (number, Some(open));
        let at = match self.free.pop() {
            Some(at) => {
                self.all[at] = new;
                at
            }
            None => {
                self.all.push(new);
                self.all.len() - 1
            }
        };
        let place = ConversationId { at, number };
        self.places.insert(key, place);
        place
    }

    pub(super) fn get(&self, place: ConversationId) -> Option<&Open> {
        self.all.get(place.at).filter(|(number, _)| *number == place.number)?.1.as_deref()
    }

    /// Takes a conversation out for a while: it is put back by [`Opened::put`].
    pub(super) fn take(&mut self, place: ConversationId) -> Box<Open> {
        self.all[place.at].1.take().expect("it was found, and what is taken out is put back")
    }

    pub(super) fn put(&mut self, place: ConversationId, open: Box<Open>) {
        self.all[place.at].1 = Some(open);
    }

    /// Ends a conversation.
    pub(super) fn remove(&mut self, place: ConversationId) -> Option<Box<Open>> {
        let open = self.all.get_mut(place.at).filter(|(number, _)| *number == place.number)?.1.take()?;
        self.places.remove(&open.key() as &dyn AsKey);
        self.free.push(place.at);
        Some(open)
    }

    /// Ends all of them, the one that was silent longest first.
    pub(super) fn end_all(&mut self) -> impl Iterator<Item = Box<Open>> + use<> {
        self.places.clear();
        self.free.clear();
        let mut left: Vec<_> = self.all.drain(..).filter_map(|(_, open)| open).collect();
        left.sort_by_key(|open| (open.last, open.conversation.messages.first().map(|first| first.frame)));
        left.into_iter()
    }
}
