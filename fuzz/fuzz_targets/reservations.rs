//! Any text as a spreadsheet of reservations: every finding lies in it, and what is read can be answered from.

#![no_main]

use libfuzzer_sys::fuzz_target;
use oplex::check;
use oplex::compiled::Compiled;
use oplex::family::Family;
use oplex::plan::{ClientFacts, Plan};

const PLAN: &str =
    "reservations = \"r.csv\"\n[network.domes]\nsubnet = \"10.64.8.0/21\"\npool = \"10.64.8.32-10.64.8.63\"\n";

fuzz_target!(|text: &str| {
    let loaded = Plan::read("plan.toml", PLAN, &mut |_| Ok(text.to_owned()));
    for finding in check::plan(&loaded) {
        for spot in finding.spot.iter().chain(finding.related.iter().map(|(spot, _)| spot)) {
            assert!(loaded.sources.get(spot.file).text.get(spot.span.clone()).is_some(), "{finding:?}");
        }
    }
    let plan = loaded.plan.expect("the plan itself is right");
    let compiled = Compiled::of(&plan);
    for reservation in plan.reservations.iter() {
        let mut facts = ClientFacts::on(reservation.network());
        facts.mac = Some([2, 0, 0x5e, 0, 0x53, 0x11].into());
        assert!(compiled.answer(Family::V4, &facts).is_some());
    }
});
