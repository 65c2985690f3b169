//! What the JSON Schemas say of keys.

use serde_json::Value;

pub(crate) const PLAN: &str = include_str!("../../schemas/plan.json");
pub(crate) const CODEBOOK: &str = include_str!("../../schemas/codebook.json");
pub(crate) const MESSAGE: &str = include_str!("../../schemas/message.json");
pub(crate) const RELEASE: &str = include_str!("../../schemas/release.json");
pub(crate) const CONTENT: &str = include_str!("../../schemas/content.json");

/// The schemas, read.
pub(super) struct Schema {
    plan: Value,
    codebook: Value,
}

impl Schema {
    pub(super) fn read() -> Self {
        // They are part of the program, and its tests read them.
        let read = |text| serde_json::from_str(text).unwrap_or_default();
        Self { plan: read(PLAN), codebook: read(CODEBOOK) }
    }

    /// The keys of a table, each with what is said of it.
    pub(super) fn keys(&self, codebook: bool, table: &str) -> impl Iterator<Item = (&str, &str)> {
        let schema = if codebook { &self.codebook } else { &self.plan };
        let table = match table {
            "plan" | "codebook" => &schema["properties"],
            "check" => &schema["properties"]["check"]["properties"],
            table => &schema["$defs"][table]["properties"],
        };
        let keys = table.as_object().into_iter().flatten();
        keys.map(|(key, own)| (key.as_str(), own["description"].as_str().unwrap_or_default()))
    }

    pub(super) fn of(&self, codebook: bool, table: &str, key: &str) -> Option<&str> {
        self.keys(codebook, table)
            .find(|(known, _)| *known == key)
            .map(|(_, said)| said)
            .filter(|said| !said.is_empty())
    }

    /// The words that a key may have as its value.
    pub(super) fn words(&self, codebook: bool, table: &str, key: &str) -> Vec<&str> {
        let schema = if codebook { &self.codebook } else { &self.plan };
        let own = match table {
            "plan" | "codebook" => &schema["properties"][key],
            table => &schema["$defs"][table]["properties"][key],
        };
        own["enum"].as_array().into_iter().flatten().filter_map(Value::as_str).collect()
    }
}
