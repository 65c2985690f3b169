//! Any text as a plan, checked, compiled, and played by both families for a client of each network.
#![no_main]

use libfuzzer_sys::fuzz_target;
use oplex::compiled::Compiled;
use oplex::family::Family;
use oplex::plan::{ClientFacts, Plan};
use oplex::{check, release};

fuzz_target!(|text: &str| {
    let loaded = Plan::read("plan.toml", text, &mut |_| Err("no such file".into()));
    for finding in check::plan(&loaded) {
        let spot = finding.spot.as_ref().expect("every finding has a place");
        assert!(text.get(spot.span.clone()).is_some(), "{:?}", finding.message);
    }
    if let Some(plan) = &loaded.plan {
        let _ = release::compile(plan, &loaded.sources);
        let compiled = Compiled::of(plan);
        for network in 0..plan.networks.len().min(4) {
            let facts = ClientFacts {
                mac: Some([2, 0, 0x5e, 0, 0x53, 7].into()),
                delegation: true,
                ..ClientFacts::on(network)
            };
            for answer in Family::ALL.into_iter().filter_map(|family| compiled.answer(family, &facts)) {
                let _ = compiled.exchange(&facts, &answer);
            }
        }
    }
});
