//! Fragments of IP packets, put together.

use std::collections::{HashMap, VecDeque};
use std::net::IpAddr;
use std::time::Duration;

use etherparse::defrag::IpDefragBuf;
use etherparse::{IpFragOffset, IpNumber};

/// What the fragments of one packet have in common: addresses, identification, protocol, interface and VLANs.
type Key = (IpAddr, IpAddr, u32, IpNumber, u32, u64);

/// A part of a packet.
pub(super) struct Piece<'f> {
    pub(super) offset: IpFragOffset,
    pub(super) more: bool,
    pub(super) octets: &'f [u8],
}

/// A fragment.
pub(super) struct Fragment<'f> {
    pub(super) key: Key,
    pub(super) piece: Piece<'f>,
}

/// Packets of which some fragments are missing yet.
#[derive(Default)]
pub(super) struct Fragments {
    open: HashMap<Key, (IpDefragBuf, Duration)>,
    order: VecDeque<(Key, Duration)>,
}

/// No more packets are waited for, each of 65,535 octets at most: 16 MB.
const MOST: usize = 256;

/// And none for longer (RFC 1122, section 3.3.2; RFC 8200, section 4.5).
const LONGEST: Duration = Duration::from_secs(60);

impl Fragments {
    /// Adds a fragment; the payload of its packet when that is whole with it.
    pub(super) fn add(&mut self, fragment: Fragment<'_>, at: Duration) -> Option<Vec<u8>> {
        while let Some((_, since)) = self.order.front() {
            if self.open.len() < MOST && since.saturating_add(LONGEST) >= at {
                break;
            }
            let Some((key, since)) = self.order.pop_front() else { break };
            if self.open.get(&key).is_some_and(|(_, known)| *known == since) {
                self.open.remove(&key);
            }
        }
        let Fragment { key, piece } = fragment;
        if !self.open.contains_key(&key) {
            self.order.push_back((key, at));
            self.open.insert(key, (IpDefragBuf::new(key.3, Vec::new(), Vec::new()), at));
        }
        let (buffer, _) = self.open.get_mut(&key)?;
        let added = buffer.add(piece.offset, piece.more, piece.octets);
        if added.is_err() {
            self.open.remove(&key);
            return None;
        }
        if !buffer.is_complete() {
            return None;
        }
        self.open.remove(&key).map(|(buffer, _)| buffer.take_bufs().0)
    }
}
