//! What is remembered of octets that come again: a network's clients and servers say the same every few hours, but for the
//! transaction.

use super::clients::Map;
use std::sync::Arc;

use super::CapturedMessage;
use crate::codebook::Codebook;
use crate::family::Protocol;
use crate::finding::Finding;
use crate::packet::v6::MessageType;

/// What came of octets, bounded: when there is no room for more, what was not used since the last time is forgotten.
#[derive(Debug)]
pub(super) struct Memo<T> {
    young: Map<Box<[u8]>, T>,
    old: Map<Box<[u8]>, T>,
    /// The octets that are looked for.
    key: Vec<u8>,
    /// How many octets `young` has.
    octets: usize,
}

/// As many octets are remembered, twice.
const MOST: usize = 8 << 20;

/// What an entry takes besides its octets, about.
const ENTRY: usize = 200;

impl<T> Default for Memo<T> {
    fn default() -> Self {
        Self { young: Map::default(), old: Map::default(), key: Vec::new(), octets: 0 }
    }
}

impl<T: Clone> Memo<T> {
    /// What came of these octets, by `make` where that is not known. `key` writes the octets.
    pub(super) fn get(&mut self, key: impl FnOnce(&mut Vec<u8>), make: impl FnOnce() -> T) -> T {
        self.key.clear();
        key(&mut self.key);
        if let Some(known) = self.young.get(self.key.as_slice()) {
            return known.clone();
        }
        let known = self.old.remove(self.key.as_slice()).unwrap_or_else(make);
        if self.octets >= MOST {
            self.old = std::mem::take(&mut self.young);
            self.octets = 0;
        }
        self.octets += self.key.len() + ENTRY;
        self.young.insert(self.key.as_slice().into(), known.clone());
        known
    }
}

/// Writes a message without its transaction, on which no rule rests but those that compare two messages.
pub(super) fn without_transaction(protocol: Protocol, octets: &[u8], to: &mut Vec<u8>) {
    let begins = to.len();
    to.extend_from_slice(octets);
    let kind = octets.first().map(|kind| MessageType(*kind));
    let transaction = match protocol {
        Protocol::V4 => 4..8,
        // Of a Reconfigure a rule says that it is none (RFC 8415, section 16.11).
        Protocol::V6 if !kind.is_some_and(|kind| kind.is_relays() || kind == MessageType::RECONFIGURE) => 1..4,
        _ => return,
    };
    if let Some(transaction) = to.get_mut(begins + transaction.start..begins + transaction.end) {
        transaction.fill(0);
    }
}

/// Checks messages one by one, and remembers what came of those that come again. Each of several threads has its own.
#[derive(Debug)]
pub struct Checker<'c> {
    codebook: &'c Codebook,
    known: Memo<Arc<[Finding]>>,
}

impl<'c> Checker<'c> {
    /// One that reads options by this codebook.
    #[must_use]
    pub fn new(codebook: &'c Codebook) -> Self {
        Self { codebook, known: Memo::default() }
    }

    /// What [`CapturedMessage::findings`] has.
    pub fn findings(&mut self, seen: &CapturedMessage) -> Vec<Finding> {
        // What is cut or damaged comes seldom.
        if seen.missing > 0 || seen.checksum_wrong {
            return seen.findings(self.codebook);
        }
        let codebook = self.codebook;
        let key = |to: &mut Vec<u8>| {
            to.push(seen.protocol as u8);
            without_transaction(seen.protocol, &seen.octets, to);
        };
        self.known.get(key, || seen.findings(codebook).into()).to_vec()
    }
}
