//! Octets of any option: the first two choose it. What reads without a fault must write and read the same
//! again, what fits at a glance has none, and what becomes a struct has none either.
#![no_main]

use libfuzzer_sys::fuzz_target;
use oplex::codebook::{Codebook, Definition};
use oplex::packet::{DelegatedPrefix, FromPayload, IaNa, IaPd, LeasedAddress, RelayInformation};
use std::sync::LazyLock;

static OPTIONS: LazyLock<Vec<&'static Definition>> = LazyLock::new(|| Codebook::standard().definitions().collect());

fuzz_target!(|octets: &[u8]| {
    let [high, low, octets @ ..] = octets else { return };
    let codebook = Codebook::standard();
    let option = OPTIONS[usize::from(u16::from_be_bytes([*high, *low])) % OPTIONS.len()];
    let layout = codebook.layout(option);
    let oplex::layout::Decoded { value, faults, rows, .. } = layout.explained(codebook, octets);
    assert_eq!(layout.fits(codebook, octets), faults.is_empty());
    assert_eq!(rows.iter().map(|row| row.octets.len()).sum::<usize>(), octets.len());
    let structs = [
        IaNa::from_payload(codebook, option, octets).is_ok(),
        IaPd::from_payload(codebook, option, octets).is_ok(),
        LeasedAddress::from_payload(codebook, option, octets).is_ok(),
        DelegatedPrefix::from_payload(codebook, option, octets).is_ok(),
        RelayInformation::from_payload(codebook, option, octets).is_ok(),
    ];
    assert!(faults.is_empty() || structs == [false; 5]);
    if let (Some(value), true) = (value, faults.is_empty()) {
        let again = layout.encode(codebook, &value).expect("what was read can be written").octets;
        assert_eq!(layout.decode(codebook, &again), (Some(value), vec![]));
    }
});
