//! Sequences as trees of parts of bounded size. Where a part ends depends on the entries around that place alone, so that one
//! entry more or less changes one part, and those above it.

use std::collections::{HashMap, HashSet};

use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};
use serde_json::value::RawValue;

use super::place::Place;
use super::{StoreError, digest, is_digest};

/// A part has so many octets before it may end, and ends at the latest where it has more than the most.
const LEAST: usize = 4 << 10;
const MOST: usize = 64 << 10;

/// Parts lie so deep in each other at most. Each level has half as many as the one below, or fewer.
const DEEPEST: usize = 32;

/// Of the name of a first entry so many characters are known.
const NAME: usize = 200;

/// Room is made for so many entries at once.
const MANY: usize = 1 << 16;

/// One in so many entries is one that a part may end with.
const ONE_IN: u64 = 16;

/// A part, and what is known of it without reading it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct StorePart {
    /// The SHA-256 of its octets, by which it is named.
    pub part: String,
    /// How many entries it has, with all parts below it.
    pub count: u64,
    /// The name of its first entry, where entries are in the order of their names.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub first: Option<String>,
}

/// What a part holds: entries, or parts below it.
#[derive(Deserialize)]
pub(super) struct Node<'n> {
    #[serde(borrow, default)]
    pub(super) entries: Vec<&'n RawValue>,
    #[serde(default)]
    pub(super) below: Vec<StorePart>,
}

/// Parts on their way into a store.
#[derive(Debug, Default)]
pub(super) struct Parts {
    pub(super) all: HashMap<String, Vec<u8>>,
}

impl Parts {
    /// Adds a part, and says its name.
    pub(super) fn add(&mut self, octets: Vec<u8>) -> String {
        let name = digest(&octets);
        self.all.insert(name.clone(), octets);
        name
    }

    /// Adds a sequence of entries, each with its name if they are ordered by names.
    pub(super) fn sequence<T: Serialize>(
        &mut self,
        entries: impl Iterator<Item = (Option<String>, T)>,
    ) -> serde_json::Result<StorePart> {
        let mut leaves = Builder::new(self, "entries");
        for (name, entry) in entries {
            leaves.push(name, 1, &serde_json::to_vec(&entry)?);
        }
        let parts = leaves.end();
        self.above(parts)
    }

    /// The part that leads to all of these.
    fn above(&mut self, mut parts: Vec<StorePart>) -> serde_json::Result<StorePart> {
        while parts.len() > 1 {
            let mut level = Builder::new(self, "below");
            for part in &parts {
                level.push(part.first.clone(), part.count, &serde_json::to_vec(part)?);
            }
            parts = level.end();
        }
        Ok(parts.remove(0))
    }
}

/// One level of a tree.
struct Builder<'p> {
    parts: &'p mut Parts,
    member: &'static str,
    octets: Vec<u8>,
    count: u64,
    first: Option<String>,
    ended: Vec<StorePart>,
    /// Entries in the part that is being made.
    here: usize,
}

impl<'p> Builder<'p> {
    fn new(parts: &'p mut Parts, member: &'static str) -> Self {
        Self { parts, member, octets: Vec::new(), count: 0, first: None, ended: Vec::new(), here: 0 }
    }

    fn push(&mut self, name: Option<String>, count: u64, entry: &[u8]) {
        if self.here > 0 && self.octets.len() + entry.len() > MOST {
            self.cut();
        }
        if self.here == 0 {
            self.octets = format!("{{\"{}\":[", self.member).into_bytes();
            // A name that nobody would read whole does not make parts above longer than those below.
            self.first = name.map(|name| name.chars().take(NAME).collect());
        } else {
            self.octets.push(b',');
        }
        self.octets.extend_from_slice(entry);
        (self.count, self.here) = (self.count + count, self.here + 1);
        // Two at least, so that each level is smaller than the one below.
        if self.octets.len() >= LEAST && self.here > 1 && ends_with(entry) {
            self.cut();
        }
    }

    fn cut(&mut self) {
        let mut octets = std::mem::take(&mut self.octets);
        octets.extend_from_slice(b"]}");
        let part = self.parts.add(octets);
        self.ended.push(StorePart { part, count: self.count, first: self.first.take() });
        (self.count, self.here) = (0, 0);
    }

    fn end(mut self) -> Vec<StorePart> {
        if self.here == 0 && self.ended.is_empty() {
            self.octets = format!("{{\"{}\":[", self.member).into_bytes();
        }
        if self.here > 0 || self.ended.is_empty() {
            self.cut();
        }
        self.ended
    }
}

/// Whether a part may end with this entry: a matter of its octets alone (FNV-1a).
pub(super) fn ends_with(entry: &[u8]) -> bool {
    let hash = entry
        .iter()
        .fold(0xcbf2_9ce4_8422_2325_u64, |hash, octet| (hash ^ u64::from(*octet)).wrapping_mul(0x0100_0000_01b3));
    (hash >> 24).is_multiple_of(ONE_IN)
}

/// Parts read from a store, each held against its name.
#[derive(Clone, Copy)]
pub(super) struct Reader<'s> {
    pub(super) directory: &'s dyn Place,
    /// Called with how many entries a part has that was read.
    pub(super) progress: &'s dyn Fn(usize),
}

/// The name of a part's document.
pub(super) fn name(part: &str) -> String {
    format!("parts/{part}")
}

impl Reader<'_> {
    /// The octets of a part.
    pub(super) fn octets(&self, part: &str) -> Result<Vec<u8>, StoreError> {
        let path = self.directory.path(&name(part));
        if !is_digest(part) {
            return Err(StoreError::new(self.directory.root(), format!("`{part}` is no name of a part")));
        }
        let octets = self.directory.get(&name(part))?.ok_or_else(|| StoreError::new(&path, "this part is missing"))?;
        if digest(&octets) != part {
            return Err(StoreError::new(
                &path,
                "this part was changed after it was written: its octets are not those of its name",
            ));
        }
        Ok(octets)
    }

    /// A part that is one document.
    pub(super) fn document<T: DeserializeOwned>(&self, part: &str) -> Result<T, StoreError> {
        self.read(part, &self.octets(part)?)
    }

    fn read<'o, T: Deserialize<'o>>(&self, part: &str, octets: &'o [u8]) -> Result<T, StoreError> {
        let wrong =
            |error| StoreError::new(&self.directory.path(&name(part)), format!("not a part of a release: {error}"));
        serde_json::from_slice(octets).map_err(wrong)
    }

    /// Calls `see` with the octets of each entry below a part, in their order.
    pub(super) fn entries(
        &self,
        root: &StorePart,
        see: &mut dyn FnMut(&str) -> serde_json::Result<()>,
    ) -> Result<(), StoreError> {
        self.below((root, 0), &|_, _| true, see)
    }

    /// The same for the parts that may have entries whose names are in a range: from one name on, and up to another that is not in it.
    /// Entries that lie beside these in their parts are seen, too.
    pub(super) fn within(
        &self,
        root: &StorePart,
        (from, to): (&str, &str),
        see: &mut dyn FnMut(&str) -> serde_json::Result<()>,
    ) -> Result<(), StoreError> {
        let wanted = |part: &StorePart, next: Option<&StorePart>| {
            let begins_after = part.first.as_deref().is_some_and(|first| first >= to);
            // Of a long name only its beginning is known.
            let known = next.and_then(|next| next.first.as_deref()).filter(|first| first.chars().count() < NAME);
            !begins_after && known.is_none_or(|next| next > from)
        };
        self.below((root, 0), &wanted, see)
    }

    /// `wanted` is asked of each part and the next one beside it.
    fn below(
        &self,
        (root, depth): (&StorePart, usize),
        wanted: &dyn Fn(&StorePart, Option<&StorePart>) -> bool,
        see: &mut dyn FnMut(&str) -> serde_json::Result<()>,
    ) -> Result<(), StoreError> {
        let octets = self.octets(&root.part)?;
        let node: Node<'_> = self.read(&root.part, &octets)?;
        let wrong = |why: String| StoreError::new(&self.directory.path(&name(&root.part)), why);
        self.not_too_deep(root, depth)?;
        for entry in &node.entries {
            see(entry.get()).map_err(|error| wrong(format!("not a part of a release: {error}")))?;
        }
        (self.progress)(node.entries.len());
        let next = node.below.iter().skip(1).map(Some).chain([None]);
        let mut wanted_below = node.below.iter().zip(next).filter(|(part, next)| wanted(part, *next));
        wanted_below.try_for_each(|(part, _)| self.below((part, depth + 1), wanted, see))
    }

    /// Refuses parts that lie deeper in each other than any release has them: whoever wrote them means harm.
    pub(super) fn not_too_deep(&self, root: &StorePart, depth: usize) -> Result<(), StoreError> {
        let why = "parts lie deeper in each other than any release has them";
        if depth > DEEPEST { Err(StoreError::new(&self.directory.path(&name(&root.part)), why)) } else { Ok(()) }
    }

    /// All entries below a part.
    pub(super) fn all<T: DeserializeOwned>(&self, root: &StorePart) -> Result<Vec<T>, StoreError> {
        // A part that says more than there is makes no room for it: what lies behind it would have to be read first.
        let mut all = Vec::with_capacity(usize::try_from(root.count).unwrap_or(0).min(MANY));
        self.entries(root, &mut |entry| {
            all.push(serde_json::from_str(entry)?);
            Ok(())
        })?;
        all.shrink_to_fit();
        Ok(all)
    }

    /// Calls `see` with the entries of all parts that are not among `known`, and adds the names of all parts that lie
    /// side by side with these to `beside`.
    pub(super) fn unlike(
        &self,
        (root, depth): (&StorePart, usize),
        known: &dyn Fn(&str) -> bool,
        beside: &mut HashSet<String>,
        see: &mut dyn FnMut(&str) -> serde_json::Result<()>,
    ) -> Result<(), StoreError> {
        self.not_too_deep(root, depth)?;
        beside.insert(root.part.clone());
        if known(&root.part) {
            return Ok(());
        }
        let octets = self.octets(&root.part)?;
        let node: Node<'_> = self.read(&root.part, &octets)?;
        let wrong = |error| {
            StoreError::new(&self.directory.path(&name(&root.part)), format!("not a part of a release: {error}"))
        };
        node.entries.iter().try_for_each(|entry| see(entry.get())).map_err(wrong)?;
        node.below.iter().try_for_each(|part| self.unlike((part, depth + 1), known, beside, see))
    }
}

impl Parts {
    /// Calls `see` with the entries of all parts below one that are not among `known`.
    pub(super) fn unlike(
        &self,
        root: &StorePart,
        known: &HashSet<String>,
        see: &mut dyn FnMut(&str) -> serde_json::Result<()>,
    ) -> serde_json::Result<()> {
        let Some(octets) = self.all.get(&root.part).filter(|_| !known.contains(&root.part)) else { return Ok(()) };
        let node: Node<'_> = serde_json::from_slice(octets)?;
        node.entries.iter().try_for_each(|entry| see(entry.get()))?;
        node.below.iter().try_for_each(|part| self.unlike(part, known, see))
    }
}
