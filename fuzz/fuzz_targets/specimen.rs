//! Any text as a message of any protocol written down: every finding lies in it, and what it makes can be read.

#![no_main]

use libfuzzer_sys::fuzz_target;
use oplex::family::Protocol;
use oplex::finding::any_error;
use oplex::packet::v4::HEADER;
use oplex::packet::{AnyMessage, MessageError};
use oplex::specimen::Specimen;

fuzz_target!(|text: &str| {
    for protocol in Protocol::ALL {
        let specimen = Specimen::read(protocol, "message.toml", text, &mut |_| Err("no such file".into()));
        assert_eq!(specimen.octets.is_none(), any_error(&specimen.findings));
        for finding in &specimen.findings {
            let spot = finding.spot.as_ref().expect("a file is written somewhere");
            assert!(specimen.sources.get(spot.file).text.get(spot.span.clone()).is_some(), "{finding:?}");
        }
        let Some(octets) = &specimen.octets else { continue };
        assert!(protocol != Protocol::V4 || octets.len() >= HEADER);
        // Octets that were written down themselves may be of another type.
        let read = AnyMessage::read(protocol, octets);
        assert!(
            read.is_ok() || protocol != Protocol::V4 || matches!(read, Err(MessageError::TooLong { .. })),
            "{read:?}"
        );
    }
});
