//! What differs between a release and what is to follow it, found without reading what they share.

use std::collections::{BTreeMap, BTreeSet, HashMap, HashSet};

use oplex::release::{Content, Document, FleetEntry, NetworkEntry, ReservationEntry};
use serde::de::DeserializeOwned;

use super::prepared::{Prepared, Root};
use super::tree::StorePart;
use super::{Release, Store, StoreError};

/// The entries of two sequences that are not on both sides.
struct Unlike<T> {
    before: Vec<T>,
    after: Vec<T>,
}

/// What is not the same on both sides.
struct Changed {
    networks: Unlike<NetworkEntry>,
    reservations: Unlike<ReservationEntry>,
}

impl Changed {
    /// The networks that have to be there to say what changes, given the fleets before and after.
    fn names<'c>(&'c self, before: &'c [FleetEntry], after: &'c [FleetEntry]) -> BTreeSet<&'c str> {
        let Self { networks, reservations } = self;
        let mut names: BTreeSet<&str> = BTreeSet::new();
        names.extend(networks.before.iter().chain(&networks.after).map(|network| network.name.as_str()));
        names.extend(reservations.before.iter().chain(&reservations.after).map(|row| row.network.as_str()));
        let others: HashMap<&str, &FleetEntry> = after.iter().map(|fleet| (fleet.name.as_str(), fleet)).collect();
        let known: HashMap<&str, &FleetEntry> = before.iter().map(|fleet| (fleet.name.as_str(), fleet)).collect();
        let unlike = |fleet: &&FleetEntry, others: &HashMap<&str, &FleetEntry>| {
            others.get(fleet.name.as_str()).is_none_or(|other| *other != *fleet)
        };
        let unlike = before
            .iter()
            .filter(|fleet| unlike(fleet, &others))
            .chain(after.iter().filter(|fleet| unlike(fleet, &known)));
        names.extend(unlike.flat_map(|fleet| &fleet.on).map(|on| on.network.as_str()));
        names
    }
}

impl Store {
    /// A release, and a document that is to follow it, without the networks and reservations that are the same in both: what
    /// is compared of two large plans that differ little.
    ///
    /// # Errors
    /// Parts that are missing, or were changed.
    pub fn differing(
        &self,
        before: &Release,
        after: &Document,
        prepared: &Prepared,
    ) -> Result<(Document, Document), StoreError> {
        self.differing_with_progress(before, after, prepared, &|_, _| {})
    }

    /// The same with progress: where the release has to be read whole, `progress` is called with how many of its entries were read, and
    /// how many there are.
    ///
    /// # Errors
    /// As [`Store::differing`].
    pub fn differing_with_progress(
        &self,
        before: &Release,
        after: &Document,
        prepared: &Prepared,
        progress: &dyn Fn(usize, usize),
    ) -> Result<(Document, Document), StoreError> {
        let root: Root = self.reader().document(&before.manifest.content)?;
        let (one, other) = (&root, &prepared.root);
        // What everyone is sent is a part of what every network comes to.
        if one.everyone != other.everyone || one.composing != other.composing {
            return Ok((self.document_with_progress(before, progress)?, after.clone()));
        }
        let networks: Unlike<NetworkEntry> = self.unlike(&one.networks, &other.networks, prepared)?;
        let reservations: Unlike<ReservationEntry> = self.unlike(&one.reservations, &other.reservations, prepared)?;
        let fleets = if one.fleets == other.fleets {
            after.content.fleets.clone()
        } else {
            self.reader().all::<FleetEntry>(&one.fleets)?
        };
        let changed = Changed { networks, reservations };
        let names = changed.names(&fleets, &after.content.fleets);
        let same: Vec<&NetworkEntry> = after
            .content
            .networks
            .iter()
            .filter(|network| names.contains(network.name.as_str()))
            .filter(|network| !changed.networks.after.iter().any(|own| own.name == network.name))
            .collect();
        let side = |networks: &[NetworkEntry], rows: Vec<ReservationEntry>, fleets: &[FleetEntry], server| {
            let mut all: BTreeMap<&str, &NetworkEntry> = same.iter().map(|one| (one.name.as_str(), *one)).collect();
            all.extend(networks.iter().map(|one| (one.name.as_str(), one)));
            let fleets = fleets.iter().map(|fleet| FleetEntry {
                on: fleet.on.iter().filter(|on| all.contains_key(on.network.as_str())).cloned().collect(),
                ..fleet.clone()
            });
            Content {
                server,
                composing: one.composing.clone(),
                everyone: one.everyone.clone(),
                fleets: fleets.collect(),
                networks: all.values().map(|network| (*network).clone()).collect(),
                reservations: rows,
            }
        };
        let was = side(&changed.networks.before, changed.reservations.before.clone(), &fleets, one.server.clone());
        let is = side(
            &changed.networks.after,
            changed.reservations.after.clone(),
            &after.content.fleets,
            other.server.clone(),
        );
        let codebooks = after.codebooks.clone();
        Ok((
            Document { title: before.manifest.title.clone(), codebooks: self.codebooks(before)?, content: was },
            Document { title: after.title.clone(), codebooks, content: is },
        ))
    }

    fn unlike<T: DeserializeOwned>(
        &self,
        before: &StorePart,
        after: &StorePart,
        prepared: &Prepared,
    ) -> Result<Unlike<T>, StoreError> {
        let (mut was, mut is) = (BTreeSet::new(), BTreeSet::new());
        let mut beside = HashSet::new();
        let known = |part: &str| prepared.parts.all.contains_key(part);
        let mut see = |entry: &str| {
            was.insert(entry.to_owned());
            Ok(())
        };
        self.reader().unlike((before, 0), &known, &mut beside, &mut see)?;
        let wrong = |error| StoreError::new(self.directory.root(), format!("not a part of a release: {error}"));
        let mut see = |entry: &str| {
            is.insert(entry.to_owned());
            Ok(())
        };
        prepared.parts.unlike(after, &beside, &mut see).map_err(wrong)?;
        let read = |all: &BTreeSet<String>, others: &BTreeSet<String>| {
            all.difference(others)
                .map(|entry| serde_json::from_str(entry))
                .collect::<Result<Vec<T>, _>>()
                .map_err(wrong)
        };
        Ok(Unlike { before: read(&was, &is)?, after: read(&is, &was)? })
    }
}
