//! Any text as a value of any option: the first two octets choose it.
#![no_main]

use libfuzzer_sys::fuzz_target;
use oplex::codebook::{Codebook, Definition};
use oplex::layout::Input;
use std::sync::LazyLock;

static OPTIONS: LazyLock<Vec<&'static Definition>> = LazyLock::new(|| Codebook::standard().definitions().collect());

fuzz_target!(|input: (u16, &str)| {
    let (choice, text) = input;
    let codebook = Codebook::standard();
    let option = OPTIONS[usize::from(choice) % OPTIONS.len()];
    match codebook.encode(option, &Input::from_text(text)) {
        Ok(payload) if payload.faults.is_empty() => {
            assert!(codebook.decode(option, &payload.octets).1.is_empty());
        }
        Ok(_) => {}
        Err(misfits) => {
            for misfit in misfits {
                assert!(text.get(misfit.span.clone()).is_some(), "{misfit:?}");
            }
        }
    }
});
