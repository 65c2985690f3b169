//! Captures read and checked on all cores, in the order of time.

use std::collections::BTreeMap;
use std::sync::Mutex;
use std::sync::mpsc::{Receiver, sync_channel};
use std::time::Duration;

use oplex::audit::Checker;
use oplex::codebook::Codebook;
use oplex::finding::Finding;

use super::{Capture, Damage, Item, Message};

/// What captures have, with what the rules find in it.
#[derive(Debug)]
pub enum Checked {
    /// A message, and what is found in it alone.
    Message(Message, Vec<Finding>),
    /// Something in the file of this place that cannot be read.
    Damage(usize, Damage),
    /// Nothing came for a while: only where a capture still grows.
    Nothing,
}

/// As many messages go from one thread to another at a time, and as many such lots wait at most: together they should lie in the
/// processors' caches, and still be so many that threads seldom wait for each other.
const LOT: usize = 256;
const LOTS: usize = 4;

/// After this time without a message [`Checked::Nothing`] is said.
pub const WHILE: Duration = Duration::from_millis(500);

type Lot = Vec<(usize, Item)>;

/// Reads captures to their ends, the earliest message of all first, and checks each message by itself; `each` is given them in their
/// order. Reading, checking and what `each` does go on at the same time. Of captures that still grow, which is what `live` says,
/// every message is handed in at once.
pub fn checked(captures: Vec<Capture>, codebook: &Codebook, live: bool, each: &mut dyn FnMut(Checked)) {
    let workers = std::thread::available_parallelism().map_or(1, usize::from);
    let (lots, to_check) = sync_channel::<(u64, Lot)>(LOTS);
    let (done, checked) = sync_channel::<(u64, Vec<Checked>)>(LOTS);
    let to_check = &Mutex::new(to_check);
    std::thread::scope(|scope| {
        scope.spawn(move || {
            let lot = if live { 1 } else { LOT };
            let mut merged = Merged::new(captures);
            for number in 0.. {
                let items: Lot = merged.by_ref().take(lot).collect();
                // Whoever takes them has gone when nobody listens any more.
                if items.is_empty() || lots.send((number, items)).is_err() {
                    return;
                }
            }
        });
        for _ in 0..workers {
            let done = done.clone();
            scope.spawn(move || {
                let mut checker = Checker::new(codebook);
                while let Some((number, items)) = next(to_check) {
                    let items = items.into_iter().map(|(file, item)| check(&mut checker, file, item)).collect();
                    if done.send((number, items)).is_err() {
                        return;
                    }
                }
            });
        }
        drop(done);
        in_order(&checked, each);
    });
}

fn next(to_check: &Mutex<Receiver<(u64, Lot)>>) -> Option<(u64, Lot)> {
    to_check.lock().ok()?.recv().ok()
}

fn check(checker: &mut Checker<'_>, file: usize, item: Item) -> Checked {
    match item {
        Item::Message(message) => {
            let found = checker.findings(&message.seen);
            Checked::Message(message, found)
        }
        Item::Damage(damage) => Checked::Damage(file, damage),
    }
}

/// Passes lots on in the order in which they were read.
fn in_order(checked: &Receiver<(u64, Vec<Checked>)>, each: &mut dyn FnMut(Checked)) {
    let mut waiting: BTreeMap<u64, Vec<Checked>> = BTreeMap::new();
    let mut number = 0;
    loop {
        match checked.recv_timeout(WHILE) {
            Ok((at, items)) => {
                waiting.insert(at, items);
                while let Some(items) = waiting.remove(&number) {
                    number += 1;
                    items.into_iter().for_each(&mut *each);
                }
            }
            Err(std::sync::mpsc::RecvTimeoutError::Timeout) => each(Checked::Nothing),
            Err(std::sync::mpsc::RecvTimeoutError::Disconnected) => return,
        }
    }
}

/// Several captures in the order of time, each with what it has next.
struct Merged {
    captures: Vec<(Capture, Option<Item>)>,
}

impl Merged {
    fn new(captures: Vec<Capture>) -> Self {
        // One alone need not be looked ahead of: what comes of it is passed on at once.
        let ahead = captures.len() > 1;
        let captures = captures.into_iter().map(|mut capture| {
            let first = if ahead { capture.next() } else { None };
            (capture, first)
        });
        Self { captures: captures.collect() }
    }
}

impl Iterator for Merged {
    type Item = (usize, Item);

    fn next(&mut self) -> Option<(usize, Item)> {
        if let [(only, _)] = &mut self.captures[..] {
            return only.next().map(|item| (0, item));
        }
        let time = |item: &Item| match item {
            Item::Message(message) => message.seen.at,
            Item::Damage(_) => Duration::ZERO,
        };
        let all = self.captures.iter().enumerate();
        let (_, first) = all.filter_map(|(at, (_, next))| Some((time(next.as_ref()?), at))).min()?;
        let (capture, next) = &mut self.captures[first];
        let mut item = std::mem::replace(next, capture.next())?;
        if let Item::Message(message) = &mut item {
            message.seen.frame.file = first as u32;
        }
        Some((first, item))
    }
}
