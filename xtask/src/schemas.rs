//! JSON Schemas of plans, codebooks and messages. Their keys are those that the reader knows, and what is said of each is what
//! the pages of the documentation say, so that neither can be forgotten.

use std::collections::{BTreeMap, BTreeSet};

use oplex::codebook::{self, Codebook, Service};
use oplex::family::Protocol;
use oplex::plan::{self, BootKey};
use oplex::specimen;
use serde_json::{Value, json};

/// The text of a schema, and the name of its file.
type File = (&'static str, String);

/// The schemas, by the names of their files. `page` gives the text of a page of the documentation.
pub(crate) fn texts(codebook: &Codebook, page: &dyn Fn(&str) -> Result<String, String>) -> Result<Vec<File>, String> {
    let text = |schema: &Value| {
        serde_json::to_string_pretty(schema).map(|text| text + "\n").map_err(|error| error.to_string())
    };
    Ok(vec![
        ("plan.json", text(&plan_schema(codebook, &Page::read(&page("plans.md")?))?)?),
        ("codebook.json", text(&codebook_schema(&Page::read(&page("codebooks.md")?))?)?),
        ("message.json", text(&message_schema(codebook, &Page::read(&page("messages.md")?))?)?),
    ])
}

/// What the tables of a page say of keys, by the heading above them.
struct Page(BTreeMap<(String, String), String>);

impl Page {
    fn read(text: &str) -> Self {
        let (mut said, mut heading) = (BTreeMap::new(), String::new());
        for line in text.lines() {
            if let Some(title) = line.strip_prefix('#') {
                heading = title.trim_start_matches('#').trim().to_owned();
            } else if let Some((keys, what)) = line.strip_prefix("| ").and_then(|row| row.split_once(" | ")) {
                for word in keys.split('`').skip(1).step_by(2) {
                    let word = word.trim_start_matches('[').trim_end_matches(']');
                    let key = word.split([' ', '.']).next().unwrap_or(word);
                    let what = what.trim_end_matches('|').replace(" | ", " ").trim().replace('`', "");
                    said.entry((heading.clone(), key.to_owned())).or_insert(what);
                }
            }
        }
        Self(said)
    }

    /// What is said of a key under one of these headings.
    fn of(&self, headings: &[&str], key: &str) -> Result<String, String> {
        let found = headings.iter().find_map(|heading| self.0.get(&((*heading).to_owned(), key.to_owned())));
        found.cloned().ok_or_else(|| format!("no table under {headings:?} says what `{key}` is"))
    }

    /// A table of a file: its keys, each with its form and what is said of it, and no others.
    fn table(&self, keys: &[&str], headings: &[&str], form: &dyn Fn(&str) -> Value) -> Result<Value, String> {
        let mut properties = serde_json::Map::new();
        for key in keys {
            let mut own = form(key);
            if let Some(members) = own.as_object_mut() {
                members.insert("description".to_owned(), self.of(headings, key)?.into());
            }
            properties.insert((*key).to_owned(), own);
        }
        Ok(json!({ "type": "object", "properties": properties, "additionalProperties": false }))
    }
}

fn text() -> Value {
    json!({ "type": "string" })
}

fn number(most: u64) -> Value {
    json!({ "type": "integer", "minimum": 0, "maximum": most })
}

fn flag() -> Value {
    json!({ "type": "boolean" })
}

fn of(name: &str) -> Value {
    json!({ "$ref": format!("#/$defs/{name}") })
}

fn list(item: &Value) -> Value {
    json!({ "type": "array", "items": item })
}

/// One, or a list of them.
fn one_or_more(item: &Value) -> Value {
    json!({ "anyOf": [item, list(item)] })
}

fn tables(item: &Value) -> Value {
    json!({ "type": "object", "additionalProperties": item })
}

fn words<'w>(all: impl IntoIterator<Item = &'w str>) -> Value {
    json!({ "enum": all.into_iter().collect::<Vec<_>>() })
}

/// A name with a prefix, or a code: what stands for any option of any book.
const ANY_OPTION: &str = "^([a-z0-9][a-z0-9._-]*:.+|[0-9]+(/.+)?)$";

/// Options by name: what the standard books know, with what they say of it, and what vendors' books may add.
fn options(codebook: &Codebook, protocol: Protocol) -> Value {
    let mut properties = serde_json::Map::new();
    let own = || codebook.definitions().filter(|option| option.is_own_of(protocol));
    for option in own() {
        let description = format!("{} {} ({})", option.label(), option.summary, option.reference);
        properties.insert(option.name.to_string(), json!({ "description": description }));
    }
    let aliases: BTreeSet<&str> = own().flat_map(|option| option.aliases.iter().map(|alias| &**alias)).collect();
    let aliases: Vec<&str> = aliases.into_iter().filter(|alias| !properties.contains_key(*alias)).collect();
    let also = aliases.iter().map(|alias| ((*alias).to_owned(), json!({})));
    properties.extend(also);
    json!({
        "type": "object",
        "properties": properties,
        "patternProperties": { ANY_OPTION: {} },
        "additionalProperties": false,
    })
}

fn schema(title: &str, page: &str, root: Value, defs: &[(&str, Value)]) -> Value {
    let mut schema = json!({
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": title,
        "description": format!("docs/{page} is its reference."),
    });
    let defs: serde_json::Map<String, Value> =
        defs.iter().map(|(name, def)| ((*name).to_owned(), def.clone())).collect();
    if let (Some(schema), Value::Object(root)) = (schema.as_object_mut(), root) {
        schema.extend(root);
        schema.insert("$defs".to_owned(), defs.into());
    }
    schema
}

/// The keys of a table that the reader knows by this name.
fn keys_of<'k>(all: &'k [(&'static str, Vec<&'static str>)], name: &str) -> &'k [&'static str] {
    all.iter().find(|(known, _)| *known == name).map_or(&[], |(_, keys)| keys)
}

const LAYER: &str = "What every layer may say";

/// The form of what every layer may say.
fn layer(key: &str) -> Option<Value> {
    Some(match key {
        "send" => of("send"),
        "amend" => of("amend"),
        "boot" => of("boot"),
        "fqdn" => json!({ "anyOf": [text(), of("fqdn")] }),
        "withhold" => one_or_more(&text()),
        "lease" | "preferred" | "renew" | "rebind" => of("time"),
        _ => return None,
    })
}

fn plan_schema(codebook: &Codebook, page: &Page) -> Result<Value, String> {
    let keys: Vec<(&str, Vec<&str>)> = plan::keys().into_iter().map(|(name, keys)| (name, keys.to_vec())).collect();
    let table = |name: &str, headings: &[&str], form: &dyn Fn(&str) -> Value| {
        page.table(keys_of(&keys, name), headings, &|key| layer(key).unwrap_or_else(|| form(key)))
    };
    let root = table("plan", &["At the top", LAYER], &|key| match key {
        "servers" => one_or_more(&of("server")),
        "codebooks" => one_or_more(&text()),
        "network" | "fleet" => tables(&of(key)),
        "reservation" | "expect" => one_or_more(&of(key)),
        "reservations" => one_or_more(&json!({ "anyOf": [text(), of("reservations")] })),
        "check" => {
            json!({ "type": "object", "properties": { "allow": one_or_more(&json!({ "anyOf": [text(), of("allow")] })) }, "additionalProperties": false })
        }
        _ => text(),
    })?;
    let network = table("network", &["A network", LAYER], &|key| match key {
        "prefix" => one_or_more(&json!({ "anyOf": [text(), of("prefix")] })),
        "ipv6" => words(["elsewhere"]),
        "advertise" => of("advertise"),
        _ => one_or_more(&text()),
    })?;
    let advertise = table("advertise", &["What a router advertises"], &|key| match key {
        "managed" | "other" | "autonomous" | "on-link" => flag(),
        "valid" | "preferred" | "lifetime" | "interval" | "dns-lifetime" => of("time"),
        "reachable" | "retransmit" => number(u32::MAX.into()),
        "mtu" => number(u32::MAX.into()),
        "hop-limit" => number(255),
        "preference" => words(["low", "medium", "high"]),
        "name-servers" | "search" => one_or_more(&text()),
        "routes" => one_or_more(&json!({ "anyOf": [text(), of("route")] })),
        "encrypted-name-servers" => one_or_more(&json!({ "type": ["object", "string"] })),
        _ => text(),
    })?;
    let route = table("route", &["What a router advertises", "A network"], &|key| match key {
        "lifetime" => of("time"),
        "preference" => words(["low", "medium", "high"]),
        _ => text(),
    })?;
    let prefix = table("prefix", &["What a router advertises", "A network"], &|key| match key {
        "on-link" | "autonomous" => flag(),
        "valid" | "preferred" => of("time"),
        _ => text(),
    })?;
    let fleet = table("fleet", &["A fleet", LAYER], &|key| match key {
        "requests" => one_or_more(&json!({ "type": ["string", "integer"] })),
        "on" => tables(&of("on")),
        _ => of("match"),
    })?;
    let on = table("fleet on a network", &["A network", LAYER], &|_| one_or_more(&text()))?;
    let reservation = table("reservation", &["A reservation", LAYER], &|_| text())?;
    let reservations = page.table(keys_of(&keys, "reservations"), &["A reservation"], &|_| one_or_more(&text()))?;
    let server = page.table(keys_of(&keys, "server"), &["At the top"], &|_| text())?;
    let allow = page.table(keys_of(&keys, "allow"), &["What is allowed"], &|_| text())?;
    let client = page.table(keys_of(&keys, "client"), &["An expectation"], &|key| match key {
        "max-size" | "leased" => number(u32::MAX.into()),
        "wants" => {
            json!({ "anyOf": [{ "type": ["string", "integer"] }, list(&json!({ "type": ["string", "integer"] }))] })
        }
        "enterprise" | "arch" => json!({ "type": ["string", "integer"] }),
        _ => one_or_more(&text()),
    })?;
    let expect = page.table(keys_of(&keys, "expect"), &["An expectation"], &|key| match key {
        "client" => of("client"),
        "lease" => of("time"),
        "sent" => json!({ "type": "object" }),
        "address" | "not-sent" | "fleets" => one_or_more(&text()),
        _ => text(),
    })?;
    let boot = page.table(&BootKey::ALL.map(BootKey::name), &[LAYER], &|key| match key {
        "params" => one_or_more(&text()),
        _ => text(),
    })?;
    let fqdn = page.table(keys_of(&keys, "fqdn"), &[LAYER], &|key| match key {
        "updates" => flag(),
        _ => text(),
    })?;
    let by_family = |v4: &Value, v6: &Value| json!({ "type": "object", "properties": { "v4": v4, "v6": v6 }, "additionalProperties": false });
    let matched = json!({
        "type": "object",
        "properties": { "all": one_or_more(&of("match")), "any": one_or_more(&of("match")), "none": one_or_more(&of("match")) },
        "additionalProperties": one_or_more(&json!({ "type": ["string", "integer"] })),
    });
    let time = json!({ "anyOf": [number(u32::MAX.into()), text()], "description": "\"8h\", \"2d\", seconds, or \"infinite\"." });
    Ok(schema(
        "An Oplex plan",
        "plans.md",
        root,
        &[
            ("time", time),
            ("options-v4", options(codebook, Protocol::V4)),
            ("options-v6", options(codebook, Protocol::V6)),
            ("send", by_family(&of("options-v4"), &of("options-v6"))),
            ("amend", by_family(&of("options-v4"), &of("options-v6"))),
            ("boot", boot),
            ("fqdn", fqdn),
            ("network", network),
            ("advertise", advertise),
            ("route", route),
            ("prefix", prefix),
            ("fleet", fleet),
            ("on", on),
            ("match", matched),
            ("reservation", reservation),
            ("reservations", reservations),
            ("server", server),
            ("allow", allow),
            ("client", client),
            ("expect", expect),
        ],
    ))
}

fn codebook_schema(page: &Page) -> Result<Value, String> {
    let keys = codebook::file_keys();
    let table =
        |name: &str, heading: &str, form: &dyn Fn(&str) -> Value| page.table(keys_of(&keys, name), &[heading], form);
    let root = table("codebook", "The book", &|key| match key {
        "enterprise" => number(u32::MAX.into()),
        "carriers" | "carrier" => one_or_more(&of("carrier")),
        "chapter" | "enumeration" | "flags" | "message" => tables(&of(key)),
        "option" => one_or_more(&of("option")),
        _ => text(),
    })?;
    let option = table("option", "An option", &|key| match key {
        "code" => number(65_535),
        "carrier" => one_or_more(&of("carrier")),
        "single" | "automatic" | "joined" | "requestable" | "several" => flag(),
        "within" => one_or_more(&number(65_535)),
        "rfc" => one_or_more(&number(u32::MAX.into())),
        "sent-by" => words(["server", "client", "both", "relay", "router", "none"]),
        "status" => words(["current", "deprecated", "obsolete", "removed", "unassigned", "tentative", "undocumented"]),
        "service" => words(Service::ALL.map(Service::name)),
        "nul" => words(["forbidden"]),
        "carries" => words(["v4", "v6"]),
        "holds" => one_or_more(&of("content")),
        "messages" => one_or_more(&of("row")),
        "words" | "aliases" => one_or_more(&text()),
        _ => text(),
    })?;
    let chapter = table("chapter", "A chapter", &|key| match key {
        "code-bits" | "length-bits" => json!({ "enum": [8, 16] }),
        "pad-and-end" => flag(),
        _ => text(),
    })?;
    let row = table("row of messages", "In messages", &|key| match key {
        "when" => words(["leasing", "informing"]),
        "reference" => text(),
        _ => one_or_more(&text()),
    })?;
    let content = table("content", "An option", &|key| match key {
        "options" => one_or_more(&number(65_535)),
        "reference" => text(),
        _ => number(65_535),
    })?;
    let numbers = |key: &str| json!({ "type": "object", "properties": { key: tables(&number(u64::MAX)), "open": flag() }, "required": [key], "additionalProperties": false });
    let carrier = words(["v4", "v4:43", "v4:82", "v4:124", "v4:125", "v6", "v6:17"]);
    let message = json!({ "type": "object", "properties": { "closed": text() }, "additionalProperties": false });
    let mut schema = schema(
        "An Oplex codebook",
        "codebooks.md",
        root,
        &[
            ("carrier", carrier),
            ("option", option),
            ("chapter", chapter),
            ("enumeration", numbers("values")),
            ("flags", numbers("bits")),
            ("message", message),
            ("row", row),
            ("content", content),
        ],
    );
    schema["required"] = json!(["book"]);
    schema["$defs"]["option"]["required"] = json!(["name", "layout"]);
    Ok(schema)
}

fn message_schema(codebook: &Codebook, page: &Page) -> Result<Value, String> {
    let octets = json!({ "type": "object", "properties": { "hex": text() }, "additionalProperties": false });
    let message = |protocol: Protocol, heading: &str| {
        page.table(specimen::keys(protocol), &[heading, "Messages"], &|key| match key {
            "codebooks" => one_or_more(&text()),
            "options" => one_or_more(&of(&format!("options-{}", protocol.name()))),
            "requests" => one_or_more(&json!({ "type": ["string", "integer"] })),
            "message" => of("v6"),
            "managed" | "other" | "home-agent" | "proxy" | "joins" => flag(),
            "sname" | "file" => json!({ "anyOf": [text(), octets] }),
            "type" | "flags" | "lifetime" | "preference" => json!({ "type": ["string", "integer"] }),
            "op" | "htype" | "hlen" | "hops" | "xid" | "secs" | "limit" | "smallest" | "transaction" | "hop-limit"
            | "reachable" | "retransmit" | "ip-hop-limit" | "code" | "checksum" | "unused" => number(u32::MAX.into()),
            _ => text(),
        })
    };
    let defs = [
        ("v4", message(Protocol::V4, "Messages")?),
        ("v6", message(Protocol::V6, "DHCPv6")?),
        ("ra", message(Protocol::Ra, "Router advertisements")?),
        ("options-v4", options(codebook, Protocol::V4)),
        ("options-v6", options(codebook, Protocol::V6)),
        ("options-ra", options(codebook, Protocol::Ra)),
    ];
    Ok(schema("A message for Oplex", "messages.md", json!({ "anyOf": [of("v4"), of("v6"), of("ra")] }), &defs))
}
