//! Any text as a message written down: what can be written is a message or was cut off on purpose.

#![no_main]

use libfuzzer_sys::fuzz_target;
use oplex::finding::any_error;
use oplex::packet::v4::{HEADER, Message};
use oplex::specimen::Specimen;

fuzz_target!(|text: &str| {
    let specimen = Specimen::read("message.toml", text, &mut |_| Err("no such file".to_owned()));
    assert_eq!(specimen.octets.is_none(), any_error(&specimen.findings));
    for finding in &specimen.findings {
        let spot = finding.spot.as_ref().expect("a file is written somewhere");
        assert!(specimen.sources.get(spot.file).text.get(spot.span.clone()).is_some(), "{finding:?}");
    }
    if let Some(octets) = &specimen.octets {
        assert!(octets.len() >= HEADER);
        assert!(Message::read(octets).is_ok());
    }
});
