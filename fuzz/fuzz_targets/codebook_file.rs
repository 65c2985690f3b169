//! Any text as a codebook, and every option it defines put to use.
#![no_main]

use libfuzzer_sys::fuzz_target;
use oplex::codebook::Codebook;
use oplex::finding::Sources;

fuzz_target!(|text: &str| {
    let mut sources = Sources::default();
    let file = sources.add("book.toml", text);
    let mut codebook = Codebook::standard().clone();
    for finding in codebook.add(&sources, file) {
        let spot = finding.spot.as_ref().expect("every finding has a place");
        assert!(text.get(spot.span.clone()).is_some(), "{finding:?}");
    }
    for option in codebook.definitions().filter(|option| option.book() != "v4").take(20) {
        let _ = codebook.decode(option, text.as_bytes());
    }
});
