//! What a check found as SARIF 2.1.0 (OASIS, 2020), which systems read that show the findings of analysers beside the code.

use std::io::{self, Write};
use std::path::Path;

use oplex::check;
use oplex::finding::{Finding, Location, Rule, Severity, Spot};
use serde_json::{Value, json};

use crate::commands::{Checked, path_of};
use crate::forms;

const SCHEMA: &str = "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json";

pub(crate) fn write(out: &mut dyn Write, all: &[Checked]) -> io::Result<()> {
    let catalogue = check::catalogue();
    let results = all.iter().flat_map(|one| one.report.findings.iter().map(|finding| result(finding, one, &catalogue)));
    let rules: Vec<Value> = catalogue.iter().map(|rule| description(rule)).collect();
    let driver = json!({
        "name": "oplex",
        "version": env!("CARGO_PKG_VERSION"),
        "semanticVersion": env!("CARGO_PKG_VERSION"),
        "rules": rules,
    });
    // Columns are counted in characters, and a file that cannot be read as a plan is no success.
    let read = all.iter().all(|one| one.loaded.plan.is_some());
    let run = json!({
        "tool": { "driver": driver },
        "columnKind": "unicodeCodePoints",
        "invocations": [{ "executionSuccessful": read }],
        "results": results.collect::<Vec<_>>(),
    });
    forms::plain(out, &json!({ "$schema": SCHEMA, "version": "2.1.0", "runs": [run] }))
}

fn level(severity: Severity) -> &'static str {
    match severity {
        Severity::Error => "error",
        Severity::Warning => "warning",
        Severity::Note => "note",
    }
}

fn description(rule: &Rule) -> Value {
    let help = if rule.rfc.is_empty() { rule.why.to_owned() } else { format!("{}\n\nSee {}.", rule.why, rule.rfc) };
    json!({
        "id": rule.name,
        "shortDescription": { "text": rule.summary },
        "fullDescription": { "text": rule.why },
        "help": { "text": help },
        "defaultConfiguration": { "level": level(rule.severity) },
    })
}

fn result(finding: &Finding, one: &Checked, catalogue: &[&'static Rule]) -> Value {
    let mut text = finding.message.clone();
    for (label, what) in [("Try: ", finding.remedy()), ("See ", Some(&*finding.rfc))] {
        if let Some(what) = what.filter(|what| !what.is_empty()) {
            text.push_str(&format!("\n{label}{what}"));
        }
    }
    if finding.more > 0 {
        text.push_str(&format!("\nAnd {} more like it.", finding.more));
    }
    let mut result = json!({
        "ruleId": finding.rule.name,
        "level": level(finding.severity),
        "message": { "text": text },
        "locations": [],
    });
    if let Ok(index) = catalogue.binary_search_by_key(&finding.rule.name, |rule| rule.name) {
        result["ruleIndex"] = index.into();
    }
    match &finding.spot {
        Some(spot) => result["locations"] = json!([{ "physicalLocation": place(spot, one) }]),
        None => result["locations"] = json!([{ "physicalLocation": { "artifactLocation": artifact(&one.path) } }]),
    }
    let related = finding.related.iter().zip(1..);
    let related = related.map(
        |((spot, what), id)| json!({ "id": id, "physicalLocation": place(spot, one), "message": { "text": what } }),
    );
    let related: Vec<Value> = related.collect();
    if !related.is_empty() {
        result["relatedLocations"] = related.into();
    }
    if let (Some(new), Some(spot)) = (&finding.replace, &finding.spot) {
        let replacement =
            json!({ "deletedRegion": region(&one.loaded.sources.location(spot)), "insertedContent": { "text": new } });
        let change =
            json!({ "artifactLocation": artifact(&path_of(&one.loaded, spot.file)), "replacements": [replacement] });
        result["fixes"] = json!([{ "description": { "text": format!("Write {new}") }, "artifactChanges": [change] }]);
    }
    result
}

fn place(spot: &Spot, one: &Checked) -> Value {
    let region = region(&one.loaded.sources.location(spot));
    json!({ "artifactLocation": artifact(&path_of(&one.loaded, spot.file)), "region": region })
}

fn region(place: &Location) -> Value {
    json!({ "startLine": place.line, "startColumn": place.column, "endLine": place.end_line, "endColumn": place.end_column })
}

fn artifact(path: &Path) -> Value {
    json!({ "uri": reference(path) })
}

/// A file by a reference relative to where the command runs, or an absolute one (RFC 3986).
pub(crate) fn reference(path: &Path) -> String {
    let unreserved = |octet: u8| octet.is_ascii_alphanumeric() || b"-._~/".contains(&octet);
    let mut uri = if path.is_absolute() { "file://".to_owned() } else { String::new() };
    for octet in path.as_os_str().as_encoded_bytes() {
        match unreserved(*octet) {
            true => uri.push(char::from(*octet)),
            false => uri.push_str(&format!("%{octet:02X}")),
        }
    }
    uri
}
