//! What is published is as the JSON Schemas say, and they describe every member that there is.

use std::path::Path;

use boon::{Compiler, SchemaIndex, Schemas};
use serde_json::Value;

use crate::content::{Content, list};

/// The schemas, and by name what each describes.
pub(crate) struct Described {
    schemas: Schemas,
    compiler: Compiler,
}

fn schema(name: &str) -> Value {
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../schemas").join(name);
    serde_json::from_str(&std::fs::read_to_string(path).unwrap()).unwrap()
}

/// Makes every member an error that is not described: readers accept more, but what is written is all described. What a layer has
/// stands beside the members of networks and fleets.
fn strict(schema: &mut Value, name: &str) {
    if let Value::Object(members) = schema {
        if members.contains_key("properties") && name != "layer" {
            members.insert("unevaluatedProperties".to_owned(), false.into());
        }
        if name == "says" {
            members.insert("unevaluatedProperties".to_owned(), false.into());
        }
        for (name, inner) in members.iter_mut() {
            strict(inner, name);
        }
    } else if let Value::Array(items) = schema {
        items.iter_mut().for_each(|item| strict(item, ""));
    }
}

impl Described {
    pub(crate) fn strictly() -> Self {
        let mut compiler = Compiler::new();
        for name in ["release.json", "content.json"] {
            let mut schema = schema(name);
            strict(&mut schema, "");
            compiler.add_resource(&format!("https://oplex.example/{name}"), schema).unwrap();
        }
        Self { schemas: Schemas::new(), compiler }
    }

    /// Why a document is not as described; `None` where it is.
    pub(crate) fn fault(&mut self, what: &str, document: &Value) -> Option<String> {
        let url = format!("https://oplex.example/{what}");
        let index: SchemaIndex = self.compiler.compile(&url, &mut self.schemas).unwrap_or_else(|why| panic!("{why}"));
        self.schemas.validate(document, index).err().map(|why| format!("{why:#}"))
    }

    /// Everything that the stranger reads of a store.
    pub(crate) fn holds_for(&mut self, content: &Content) {
        let mut all = vec![("release.json", &content.document), ("content.json", &content.root)];
        all.extend(content.nodes.iter().map(|node| ("content.json#/$defs/part", node)));
        all.extend(content.networks.iter().map(|one| ("content.json#/$defs/network", one)));
        all.extend(content.fleets.iter().map(|one| ("content.json#/$defs/fleet", one)));
        all.extend(content.reservations.iter().map(|one| ("content.json#/$defs/reservation", one)));
        all.push(("content.json#/$defs/sources", &content.sources));
        for (what, document) in all {
            if let Some(why) = self.fault(what, document) {
                panic!("{what}: {why}\n{document:#}");
            }
        }
    }
}

/// What a document is, the document, and how it is spoilt.
type Case<'c> = (&'c str, &'c Value, fn(&mut Value));

/// A document that is spoilt in one place is not as described.
pub(crate) fn spoilt(described: &mut Described, content: &Content) {
    let fleet = content.fleets.iter().find(|fleet| !list(&fleet["options"]["v4"]).is_empty()).unwrap();
    let cases: [Case<'_>; 8] = [
        ("release.json", &content.document, |one| one["manifest"]["format"] = "oplex-release/9".into()),
        ("release.json", &content.document, |one| one["sha256"] = "00".into()),
        ("content.json", &content.root, |one| drop(one.as_object_mut().unwrap().remove("networks"))),
        ("content.json#/$defs/network", &content.networks[0], |one| one["pools"] = "10.64.4.20".into()),
        ("content.json#/$defs/network", &content.networks[0], |one| one["colour"] = "green".into()),
        ("content.json#/$defs/fleet", fleet, |one| one["options"]["v4"][0]["hex"] = "0a4".into()),
        ("content.json#/$defs/fleet", fleet, |one| one["options"]["v4"][0]["code"] = 70_000.into()),
        ("content.json#/$defs/fleet", fleet, |one| one["match"] = serde_json::json!({ "some": [] })),
    ];
    for (what, document, spoil) in cases {
        let mut document = document.clone();
        spoil(&mut document);
        assert!(described.fault(what, &document).is_some(), "{what}: {document:#}");
    }
}
