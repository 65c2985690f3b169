//! Which of several things stands there again: most messages have few of anything, and nothing is allocated for these.

use std::collections::HashMap;
use std::hash::Hash;

use smallvec::SmallVec;

/// So many are compared with each other.
const FEW: usize = 16;

/// What was met, by a key, with where it was met first.
pub(super) struct Firsts<K, V> {
    few: SmallVec<[(K, V); FEW]>,
    /// All of them, where there are more.
    many: HashMap<K, V>,
}

impl<K: Eq + Hash + Copy, V: Copy> Firsts<K, V> {
    pub(super) fn new() -> Self {
        Self { few: SmallVec::new(), many: HashMap::new() }
    }

    /// What is known of the first of this key, where this is a later one.
    pub(super) fn first(&mut self, key: K, here: V) -> Option<V> {
        if self.many.is_empty() {
            let known = self.few.iter().find(|(known, _)| *known == key).map(|(_, first)| *first);
            if known.is_some() || self.few.len() < FEW {
                if known.is_none() {
                    self.few.push((key, here));
                }
                return known;
            }
            self.many = self.few.drain(..).collect();
        }
        match self.many.get(&key) {
            Some(first) => Some(*first),
            None => {
                self.many.insert(key, here);
                None
            }
        }
    }
}
