//! Any two texts as plans, compared both ways: what changes in one direction changes in the other, and nothing changes against
//! itself.
#![no_main]

use libfuzzer_sys::fuzz_target;
use oplex::compiled::Compiled;
use oplex::plan::Plan;
use oplex::release::compare;

fuzz_target!(|texts: (&str, &str)| {
    let read = |text: &str| Plan::read("plan.toml", text, &mut |_| Err("no such file".into()));
    let (before, after) = (read(texts.0), read(texts.1));
    let (Some(before), Some(after)) = (&before.plan, &after.plan) else { return };
    let (before, after) = (Compiled::of(before), Compiled::of(after));
    assert_eq!(compare(&before, &before), []);
    assert_eq!(compare(&before, &after).is_empty(), compare(&after, &before).is_empty());
});
