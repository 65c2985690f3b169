//! What a release holds for some of its networks, found without reading the others.

use oplex::codebook::Codebook;
use oplex::packet::AnyMessage;
use oplex::release::{Content, Document, FleetEntry, LayerEntry, NetworkEntry, ReservationEntry};

use serde::de::Error as _;

use super::prepared::Root;
use super::tree::{Reader, StorePart};
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
        let mut content = beginning(&root);
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

    /// What a release holds for the client that sent a message, which comes from the network `link` where it does not say from
    /// which; `None` where it comes from none that is known. [`Server::answer`](oplex::server::Server::answer) gives it from
    /// this what it gives from the whole release.
    ///
    /// It reads all networks, and keeps a few at a time: for one client of a large release that takes little memory. Who
    /// answers many reads [the whole](Store::document) once.
    ///
    /// # Errors
    /// As of [`Store::excerpt`].
    pub fn excerpt_for(
        &self,
        release: &Release,
        message: AnyMessage<'_>,
        link: Option<&str>,
    ) -> Result<Option<Document>, StoreError> {
        let reader = self.reader();
        let root: Root = reader.document(&release.manifest.content)?;
        let mut found: Vec<String> = Vec::new();
        let mut content = Content { everyone: LayerEntry::default(), ..beginning(&root) };
        let mut look = |content: &mut Content| -> serde_json::Result<()> {
            // Nothing is read by a codebook here: what is sent was left out.
            let compiled = content.compiled(Codebook::default()).map_err(serde_json::Error::custom)?;
            found.extend(compiled.network_of(message).map(|at| compiled.networks[at].name.to_string()));
            content.networks.clear();
            Ok(())
        };
        reader.entries(&root.networks, &mut |entry| {
            content.networks.push(whence(serde_json::from_str(entry)?));
            if content.networks.len() == AT_ONCE { look(&mut content) } else { Ok(()) }
        })?;
        look(&mut content).map_err(|why| StoreError::new(&self.path(release.number()), why.to_string()))?;
        // Of several the whole release would choose one, and so does a server that answers from all of them.
        let link = link.filter(|_| found.is_empty());
        let names: Vec<&str> = found.iter().map(|name| &**name).chain(link).collect();
        if names.is_empty() { Ok(None) } else { self.excerpt(release, &names).map(Some) }
    }
}

/// As many networks are looked at together.
const AT_ONCE: usize = 64;

/// The release without its networks, fleets and reservations.
fn beginning(root: &Root) -> Content {
    Content {
        server: root.server.clone(),
        composing: root.composing.clone(),
        everyone: root.everyone.clone(),
        networks: Vec::new(),
        fleets: Vec::new(),
        reservations: Vec::new(),
    }
}

/// What of a network says which messages come from it.
fn whence(network: NetworkEntry) -> NetworkEntry {
    let NetworkEntry { name, subnets, prefixes, relays, interfaces, .. } = network;
    NetworkEntry {
        name,
        subnets,
        prefixes,
        relays,
        interfaces,
        delegates: Vec::new(),
        advertises: None,
        pools: Vec::new(),
        excluded: Vec::new(),
        says: LayerEntry::default(),
    }
}

/// All fleets, with what they have on these networks.
fn fleets(reader: Reader<'_>, root: &StorePart, names: &[&str]) -> Result<Vec<FleetEntry>, StoreError> {
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
