//! What a `build.rs` does whose program ships a plan: it fails the build where the plan is wrong, with the line that is.
//!
//! A build script reads the file by `oplex_io::files::plan`, or as here by itself, and prints lines that Cargo understands.

#![allow(clippy::print_stdout, reason = "Cargo reads what is printed")]

use oplex::check;
use oplex::finding::Severity;
use oplex::plan::Plan;

const PLAN: &str = "[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n[network.domes]\n\
    subnet = \"10.64.8.0/21\"\npool = \"10.64.8.32-10.64.15.255\"\nsend.v4 = { router = \"10.64.8.1\" }\n";

fn main() {
    println!("cargo::rerun-if-changed=plan.toml");
    let loaded = Plan::read("plan.toml", PLAN, &mut |path| Err(format!("no file {path}").into()));
    for finding in check::plan(&loaded) {
        let place = finding.spot.as_ref().map(|spot| loaded.sources.location(spot));
        let place = place.map(|place| format!("{}:{}:{}: ", place.file, place.line, place.column)).unwrap_or_default();
        let remedy = finding.remedy().map(|remedy| format!("; try {remedy}")).unwrap_or_default();
        let kind = if finding.severity == Severity::Error { "error" } else { "warning" };
        println!("cargo::{kind}={place}{}{remedy}", finding.message);
    }
}
