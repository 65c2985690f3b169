//! Any text as a DHCPv6 message or a router advertisement written down: every finding lies in it, and what it makes is a
//! message.

#![no_main]

use libfuzzer_sys::fuzz_target;
use oplex::specimen::Specimen;

fuzz_target!(|text: &str| {
    for read in [Specimen::read_v6, Specimen::read_ra] {
        let specimen = read("message.toml", text, &mut |_| Err("no such file".to_owned()));
        for spot in specimen.findings.iter().filter_map(|finding| finding.spot.clone()) {
            assert!(specimen.sources.get(spot.file).text.get(spot.span).is_some());
        }
        assert!(specimen.octets.is_some() || !specimen.findings.is_empty());
    }
});
