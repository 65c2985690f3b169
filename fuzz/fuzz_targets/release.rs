//! Anything as what is published: what cannot be answered from is refused with the place, and the rest is answered from.

#![no_main]

use libfuzzer_sys::fuzz_target;
use oplex::family::Family;
use oplex::plan::ClientFacts;
use oplex::release::{Document, compare};

/// A release around one network and one fleet, whose members the octets are.
const HEAD: &str = r#"{"codebooks":[],"content":{"server":{},"composing":{"joined":[],"only_last":{"v4":[],"v6":[]}},
"everyone":{"layer":"everyone","options":{"v4":[],"v6":[]},"withheld":[]},"networks":[{"name":"n","subnets":["10.64.9.0/24"],
"prefixes":["2001:db8:64:9::/64"],"delegates":[],"pools":["10.64.9.20-10.64.9.29"],"excluded":[],"layer":"network n","withheld":[],"#;
const TAIL: &str = r#""options":{"v4":[],"v6":[]}}],"fleets":[],"reservations":[]}}"#;

fuzz_target!(|octets: &[u8]| {
    // As a whole, or as further members of the network.
    let Ok(text) = str::from_utf8(octets) else { return };
    for text in [text.to_owned(), format!("{HEAD}{text},{TAIL}"), format!("{HEAD}{text}")] {
        let Ok(document) = serde_json::from_str::<Document>(&text) else { continue };
        let Ok(compiled) = document.compiled() else { continue };
        assert!(compare(&compiled, &compiled).is_empty());
        for family in Family::ALL {
            let facts = ClientFacts { mac: Some([2, 0, 0x5e, 0, 0x53, 7].into()), ..ClientFacts::on(0) };
            if let Some(answer) = compiled.answer(family, &facts) {
                let _ = compiled.exchange(&facts, &answer);
            }
        }
    }
});
