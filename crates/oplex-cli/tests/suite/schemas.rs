//! The JSON Schemas of what people write: they take what the reader takes, and refuse what it does not know.

use std::collections::BTreeSet;
use std::fs;
use std::path::Path;

use boon::{Compiler, SchemaIndex, Schemas};
use oplex::check;
use oplex::codebook::Codebook;
use oplex::family::Protocol;
use oplex::finding::{Example, Sources};
use oplex::plan::Plan;
use oplex::specimen::Specimen;
use serde_json::Value;

const TOP: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../..");

/// What the reader says of keys and forms, which schemas are about; all else is about values.
const OF_FORM: [&str; 3] = ["unknown-key", "value-wrong-kind", "key-missing"];

struct Described(Schemas, SchemaIndex);

impl Described {
    fn read(name: &str) -> Self {
        let (mut schemas, mut compiler) = (Schemas::new(), Compiler::new());
        let text = fs::read_to_string(format!("{TOP}/schemas/{name}")).unwrap();
        compiler.add_resource(name, serde_json::from_str(&text).unwrap()).unwrap();
        let index = compiler.compile(name, &mut schemas).unwrap();
        Self(schemas, index)
    }

    /// Why a text in TOML is not as described.
    fn fault(&self, text: &str) -> Option<String> {
        let value: Value = toml::from_str(text).unwrap();
        self.0.validate(&value, self.1).err().map(|why| format!("{why:#}\n{text}"))
    }
}

fn demo(name: &str) -> String {
    fs::read_to_string(Path::new(TOP).join("demo").join(name)).unwrap()
}

#[test]
fn what_the_demo_has_is_described() {
    for (schema, files) in [
        ("plan.json", &["plan.toml"][..]),
        (
            "codebook.json",
            &["codebooks/tern-intercoms.toml", "codebooks/gannet-radios.toml", "codebooks/tarnfell-domes.toml"],
        ),
        (
            "message.json",
            &[
                "intercom-ack.toml",
                "intercom-request.toml",
                "mast-relayed.toml",
                "visitor-advertisement.toml",
                "visitor-reply.toml",
            ],
        ),
    ] {
        let described = Described::read(schema);
        for file in files {
            assert_eq!(described.fault(&demo(file)), None, "{file}");
        }
    }
    let books = ["dhcpv4.toml", "dhcpv6.toml", "router-advertisements.toml"];
    let described = Described::read("codebook.json");
    for book in books {
        let text = fs::read_to_string(format!("{TOP}/crates/oplex/codebooks/{book}")).unwrap();
        assert_eq!(described.fault(&text), None, "{book}");
    }
}

/// Each rule's own examples: what the reader has nothing against is as described, and a key that it does not know is not.
#[test]
fn the_reader_and_the_schemas_agree() {
    let (plans, books, messages) =
        (Described::read("plan.json"), Described::read("codebook.json"), Described::read("message.json"));
    let (mut fit, mut unknown) = (0, 0);
    let mut agree = |described: &Described, text: &str, found: BTreeSet<&str>| {
        if toml::from_str::<Value>(text).is_err() {
            return;
        }
        if OF_FORM.iter().all(|rule| !found.contains(rule)) {
            // An option that nobody knows has a name that no schema has.
            let fault = described
                .fault(text)
                .filter(|_| !found.contains("unknown-option") && !found.contains("option-of-other-family"));
            assert_eq!(fault, None, "{found:?}");
            fit += 1;
        } else if found.contains("unknown-key") {
            assert!(described.fault(text).is_some(), "{text}");
            unknown += 1;
        }
    };
    let mut fetch = |_: &str| Err("no such file".into());
    for example in check::catalogue().into_iter().flat_map(|rule| rule.examples) {
        match *example {
            Example::Plan(text) | Example::PlanAndCodebook(text, _) => {
                let loaded = Plan::read("plan.toml", text, &mut fetch);
                let found = check::plan(&loaded);
                agree(&plans, text, found.iter().map(|finding| finding.rule.name).collect());
            }
            Example::Codebook(text) => {
                let mut sources = Sources::default();
                let file = sources.add("book.toml", text);
                let found = Codebook::standard().clone().add(&sources, file);
                agree(&books, text, found.iter().map(|finding| finding.rule.name).collect());
            }
            Example::Message(protocol, text) => {
                let found = Specimen::read(protocol, "message.toml", text, &mut fetch).findings;
                agree(&messages, text, found.iter().map(|finding| finding.rule.name).collect());
            }
            _ => {}
        }
    }
    assert!(fit > 150 && unknown > 0, "{fit} texts fit, {unknown} have unknown keys");
}

/// A key that is not known is refused in each table, and each that is known is described.
#[test]
fn every_key_and_no_other() {
    let schema = |name: &str| -> Value {
        serde_json::from_str(&fs::read_to_string(format!("{TOP}/schemas/{name}")).unwrap()).unwrap()
    };
    let same = |table: &Value, keys: &[&str], what: &str| {
        let described: BTreeSet<&str> = table["properties"].as_object().unwrap().keys().map(String::as_str).collect();
        assert_eq!(described, keys.iter().copied().collect(), "{what}");
        assert_eq!(table["additionalProperties"], false, "{what}");
        let all = table["properties"].as_object().unwrap();
        assert!(all.values().all(|own| own["description"].as_str().is_some_and(|text| text.len() > 3)), "{what}");
    };
    let plan = schema("plan.json");
    for (name, keys) in oplex::plan::keys() {
        let table = match name {
            "plan" => &plan,
            "fleet on a network" => &plan["$defs"]["on"],
            name => &plan["$defs"][name],
        };
        same(table, keys, name);
    }
    let book = schema("codebook.json");
    for (name, keys) in oplex::codebook::file_keys() {
        let table = match name {
            "codebook" => &book,
            "row of messages" => &book["$defs"]["row"],
            name => &book["$defs"][name],
        };
        same(table, &keys, name);
    }
    let message = schema("message.json");
    for protocol in Protocol::ALL {
        same(&message["$defs"][protocol.name()], oplex::specimen::keys(protocol), protocol.name());
    }
    for text in [
        "zzyzx = 1\n",
        "[network.a]\nzzyzx = 1\n",
        "[network.a.advertise]\nzzyzx = 1\n",
        "[fleet.a]\nzzyzx = 1\n",
        "[fleet.a.on.b]\nzzyzx = 1\n",
        "[[reservation]]\nzzyzx = 1\n",
        "[[expect]]\nzzyzx = 1\n",
        "[[expect]]\nclient = { zzyzx = 1 }\n",
        "[send]\nzzyzx = {}\n",
        "[send.v4]\nzzyzx = 1\n",
        "[boot]\nzzyzx = \"a\"\n",
        "[check]\nzzyzx = 1\n",
    ] {
        assert!(Described::read("plan.json").fault(text).is_some(), "{text}");
    }
}
