//! Any text as a layout. What parses must print as text that parses to the same, and read any octets.
#![no_main]

use libfuzzer_sys::fuzz_target;
use oplex::codebook::Codebook;
use oplex::layout::Layout;

fuzz_target!(|text: &str| {
    let codebook = Codebook::standard();
    match Layout::parse_with(text, codebook) {
        Ok(layout) => {
            assert_eq!(Layout::parse_with(&layout.to_string(), codebook).as_ref(), Ok(&layout));
            let _ = layout.lengths();
            let _ = layout.explained(codebook, text.as_bytes());
        }
        Err(error) => assert!(text.get(error.span.clone()).is_some(), "{error:?}"),
    }
});
