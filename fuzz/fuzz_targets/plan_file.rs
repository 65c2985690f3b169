//! Any text as a plan, checked and compiled.
#![no_main]

use libfuzzer_sys::fuzz_target;
use oplex::plan::Plan;
use oplex::{check, release};

fuzz_target!(|text: &str| {
    let loaded = Plan::read("plan.toml", text, &mut |_| Err("no such file".to_owned()));
    for finding in check::plan(&loaded) {
        let spot = finding.spot.as_ref().expect("every finding has a place");
        assert!(text.get(spot.span.clone()).is_some(), "{:?}", finding.message);
    }
    if let Some(plan) = &loaded.plan {
        let _ = release::compile(plan, &loaded.sources);
    }
});
