//! Checks a plan and prints what is wrong with it, and what to try.

#![allow(clippy::print_stdout, reason = "an example shows what it does")]

use oplex::check;
use oplex::plan::Plan;

const PLAN: &str = r#"
[send.v4]
domain-server = ["10.64.0.53"]
domain-name = "tarnfell.example"

[network.domes]
subnet = "10.64.8.0/21"
pool = ["10.64.8.32-10.64.15.255"]

[network.domes.send.v4]
router = "10.64.16.1"
"#;

fn main() {
    let loaded = Plan::read("plan.toml", PLAN, &mut |path| Err(format!("{path} is not here").into()));
    for finding in check::plan(&loaded) {
        let place = finding.spot.as_ref().map(|spot| loaded.sources.location(spot));
        let line = place.map_or(0, |place| place.line);
        println!("line {line}: {} {}: {}", finding.severity, finding.rule.name, finding.message);
        println!("        try {}", finding.remedy().unwrap_or_default());
    }
}
