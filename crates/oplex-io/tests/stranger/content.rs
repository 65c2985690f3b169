//! Reading a store as docs/releases.md describes it.

use std::fs;
use std::path::{Path, PathBuf};

use serde_json::Value;

/// What devices get, with the lists put together.
pub(crate) struct Content {
    /// The manifest's document, the parts between it and the entries, and the list of files.
    pub(crate) document: Value,
    pub(crate) nodes: Vec<Value>,
    pub(crate) sources: Value,
    pub(crate) root: Value,
    pub(crate) networks: Vec<Value>,
    pub(crate) fleets: Vec<Value>,
    pub(crate) reservations: Vec<Value>,
}

impl Content {
    /// The latest release of a store.
    pub(crate) fn latest(store: &Path) -> Self {
        let last = |folder: &Path| fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path()).max().unwrap();
        let latest = last(&last(&store.join("releases")));
        let document = json(&latest);
        let part = |name: &Value| store.join("parts").join(name.as_str().unwrap());
        let root = json(&part(&document["manifest"]["content"]));
        let mut nodes = Vec::new();
        let mut list = |reference: &Value| {
            let mut all = Vec::new();
            entries(reference, &part, &mut all, &mut nodes);
            all
        };
        let [networks, fleets, reservations] = ["networks", "fleets", "reservations"].map(|name| list(&root[name]));
        let sources = json(&part(&document["manifest"]["sources"]));
        Self { nodes, sources, root, networks, fleets, reservations, document }
    }

    pub(crate) fn network(&self, name: &str) -> &Value {
        self.networks.iter().find(|network| network["name"] == name).unwrap()
    }
}

fn json(path: &Path) -> Value {
    serde_json::from_str(&fs::read_to_string(path).unwrap()).unwrap()
}

fn entries(reference: &Value, part: &dyn Fn(&Value) -> PathBuf, all: &mut Vec<Value>, nodes: &mut Vec<Value>) {
    let node = json(&part(&reference["part"]));
    all.extend(list(&node["entries"]).iter().cloned());
    list(&node["below"]).iter().for_each(|below| entries(below, part, all, nodes));
    nodes.push(node);
}

/// The items of a member that may be absent.
pub(crate) fn list(value: &Value) -> &[Value] {
    value.as_array().map_or(&[], Vec::as_slice)
}

pub(crate) fn text(value: &Value) -> &str {
    value.as_str().unwrap_or_default()
}

pub(crate) fn number(value: &Value) -> Option<usize> {
    value.as_u64().map(|number| number as usize)
}

pub(crate) fn hex(value: &Value) -> Vec<u8> {
    data_encoding::HEXLOWER.decode(text(value).as_bytes()).unwrap()
}
