//! What a release holds for some of its networks, found without reading the others.

use oplex::release::{Content, Document, FleetEntry, NetworkEntry, ReservationEntry};

use super::prepared::Root;
use super::tree::{Part, Reader};
use super::{Release, Store, StoreError};

impl Store {
    /// What a release holds for these networks: they and their reservations, and of fleets what they have there. Who answers on few
    /// networks of a large plan needs no more, and clients there get what the whole release would give them.
    ///
    /// It reads the parts that have something of these, and of what lies beside them nothing: as many as a tree is deep, not as
    /// many as there are.
    ///
    /// ```no_run
    /// use oplex_io::store::Store;
    ///
    /// let store = Store::new("releases");
    /// let latest = store.latest()?.ok_or("nothing is published")?;
    /// let document = store.excerpt(&latest, &["domes", "control-room"])?;
    /// let compiled = document.compiled()?;
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Parts that are missing or were changed, and a network that the release does not have.
    pub fn excerpt(&self, release: &Release, networks: &[&str]) -> Result<Document, StoreError> {
        let reader = self.reader();
        let root: Root = reader.document(&release.manifest.content)?;
        let mut names = networks.to_vec();
        names.sort_unstable();
        names.dedup();
        let mut content = Content {
            server: root.server,
            composing: root.composing,
            everyone: root.everyone,
            networks: Vec::with_capacity(names.len()),
            fleets: Vec::new(),
            reservations: Vec::new(),
        };
        for name in &names {
            let before = content.networks.len();
            // A name that others begin with has only itself in this range.
            let range = (*name, &*format!("{name}\0"));
            reader.within(&root.networks, range, &mut |entry| {
                let entry: NetworkEntry = serde_json::from_str(entry)?;
                content.networks.extend(Some(entry).filter(|entry| entry.name == *name));
                Ok(())
            })?;
            if content.networks.len() == before {
                let why = format!("release {} has no network `{name}`", release.number());
                return Err(StoreError::new(&self.path(release.number()), why));
            }
            // Reservations are in the order of their networks and clients, with a space between.
            let range = (&*format!("{name} "), &*format!("{name}!"));
            reader.within(&root.reservations, range, &mut |entry| {
                let entry: ReservationEntry = serde_json::from_str(entry)?;
                content.reservations.extend(Some(entry).filter(|entry| entry.network == *name));
                Ok(())
            })?;
        }
        content.fleets = fleets(reader, &root.fleets, &names)?;
        Ok(Document { title: release.manifest.title.clone(), codebooks: self.codebooks(release)?, content })
    }
}

/// All fleets, with what they have on these networks.
fn fleets(reader: Reader<'_>, root: &Part, names: &[&str]) -> Result<Vec<FleetEntry>, StoreError> {
    let mut fleets = Vec::new();
    reader.entries(root, &mut |entry| {
        let mut fleet: FleetEntry = serde_json::from_str(entry)?;
        fleet.on.retain(|on| names.binary_search(&&*on.network).is_ok());
        fleet.on.shrink_to_fit();
        fleets.push(fleet);
        Ok(())
    })?;
    Ok(fleets)
}
