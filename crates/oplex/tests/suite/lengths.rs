//! How long the options of RFC 2132 may be, as its sections say it, one after the other: "the length of this option is 4 octets",
//! "its minimum length is 4, and the length MUST always be a multiple of 4".

use oplex::check;
use oplex::codebook::Codebook;
use oplex::finding::Severity;

/// What a section says of a length.
#[derive(Debug, Clone, Copy)]
enum Length {
    Is(usize),
    AtLeast(usize),
    /// At least one of so many octets.
    Each(usize),
    /// The same, or none at all.
    AnyOf(usize),
}
use Length::{AnyOf, AtLeast, Each, Is};

impl Length {
    fn allows(self, length: usize) -> bool {
        match self {
            Is(exact) => length == exact,
            AtLeast(least) => length >= least,
            Each(size) => length >= size && length.is_multiple_of(size),
            AnyOf(size) => length.is_multiple_of(size),
        }
    }
}

/// The code, the section, what it says, and octets that mean something there, over and over.
const OPTIONS: [(u16, &str, Length, &[u8]); 75] = [
    (1, "3.3", Is(4), &[255, 255, 254, 0]),
    (2, "3.4", Is(4), &[0, 0, 14, 16]),
    (3, "3.5", Each(4), &[10, 64, 4, 1, 10, 64, 4, 2, 10, 64, 4, 3, 10, 64, 4, 4, 10, 64, 4, 5]),
    (4, "3.6", Each(4), &[10, 64, 0, 4]),
    (5, "3.7", Each(4), &[10, 64, 0, 5]),
    (6, "3.8", Each(4), &[10, 64, 0, 6]),
    (7, "3.9", Each(4), &[10, 64, 0, 7]),
    (8, "3.10", Each(4), &[10, 64, 0, 8]),
    (9, "3.11", Each(4), &[10, 64, 0, 9]),
    (10, "3.12", Each(4), &[10, 64, 0, 10]),
    (11, "3.13", Each(4), &[10, 64, 0, 11]),
    (12, "3.14", AtLeast(1), b"a"),
    (13, "3.15", Is(2), &[0, 160]),
    (14, "3.16", AtLeast(1), b"/dump"),
    (15, "3.17", AtLeast(1), b"a"),
    (16, "3.18", Is(4), &[10, 64, 0, 16]),
    (17, "3.19", AtLeast(1), b"/root"),
    (18, "3.20", AtLeast(1), b"ext.bin"),
    (19, "4.1", Is(1), &[1]),
    (20, "4.2", Is(1), &[0]),
    (21, "4.3", Each(8), &[10, 64, 8, 0, 255, 255, 248, 0]),
    (22, "4.4", Is(2), &[2, 64]),
    (23, "4.5", Is(1), &[64]),
    (24, "5.1", Is(4), &[0, 0, 2, 88]),
    (25, "5.2", Each(2), &[0, 68]),
    (26, "5.3", Is(2), &[5, 220]),
    (27, "5.4", Is(1), &[1]),
    (28, "5.5", Is(4), &[10, 64, 5, 255]),
    (29, "5.6", Is(1), &[0]),
    (30, "5.7", Is(1), &[1]),
    (31, "5.8", Is(1), &[1]),
    (32, "5.9", Is(4), &[224, 0, 0, 2]),
    (33, "5.10", Each(8), &[10, 64, 8, 9, 10, 64, 4, 1]),
    (34, "6.1", Is(1), &[0]),
    (35, "6.2", Is(4), &[0, 0, 0, 60]),
    (36, "6.3", Is(1), &[1]),
    (37, "7.1", Is(1), &[64]),
    (38, "7.2", Is(4), &[0, 0, 28, 32]),
    (39, "7.3", Is(1), &[1]),
    (40, "8.1", AtLeast(1), b"a"),
    (41, "8.2", Each(4), &[10, 64, 0, 41]),
    (42, "8.3", Each(4), &[10, 64, 0, 42]),
    (44, "8.5", Each(4), &[10, 64, 0, 44]),
    (45, "8.6", Each(4), &[10, 64, 0, 45]),
    (46, "8.7", Is(1), &[8]),
    (48, "8.9", Each(4), &[10, 64, 0, 48]),
    (49, "8.10", Each(4), &[10, 64, 0, 49]),
    (64, "8.11", AtLeast(1), b"a"),
    (65, "8.12", Each(4), &[10, 64, 0, 65]),
    (68, "8.13", AnyOf(4), &[10, 64, 0, 68]),
    (69, "8.14", Each(4), &[10, 64, 0, 69]),
    (70, "8.15", Each(4), &[10, 64, 0, 70]),
    (71, "8.16", Each(4), &[10, 64, 0, 71]),
    (72, "8.17", Each(4), &[10, 64, 0, 72]),
    (73, "8.18", Each(4), &[10, 64, 0, 73]),
    (74, "8.19", Each(4), &[10, 64, 0, 74]),
    (75, "8.20", Each(4), &[10, 64, 0, 75]),
    (76, "8.21", Each(4), &[10, 64, 0, 76]),
    (50, "9.1", Is(4), &[10, 64, 4, 20]),
    (51, "9.2", Is(4), &[0, 0, 112, 128]),
    (52, "9.3", Is(1), &[1]),
    (66, "9.4", AtLeast(1), b"a"),
    (67, "9.5", AtLeast(1), b"dome.efi"),
    (53, "9.6", Is(1), &[1]),
    (54, "9.7", Is(4), &[10, 64, 0, 67]),
    (55, "9.8", AtLeast(1), &[1, 3, 6, 12, 15, 26, 28, 33, 42, 44, 46, 47, 51, 54, 58, 59, 114, 119, 43, 66]),
    (56, "9.9", AtLeast(1), b"a"),
    (57, "9.10", Is(2), &[2, 64]),
    (58, "9.11", Is(4), &[0, 0, 56, 64]),
    (59, "9.12", Is(4), &[0, 0, 98, 112]),
    (60, "9.13", AtLeast(1), b"Tern"),
    (61, "9.14", AtLeast(2), &[0, 97, 98, 99]),
    // Options of later RFCs that say it in the same words: RFC 2563, section 2; RFC 3011, section 2; RFC 4833, section 2.
    (116, "RFC 2563", Is(1), &[1]),
    (118, "RFC 3011", Is(4), &[10, 64, 4, 0]),
    (108, "RFC 8925", Is(4), &[0, 0, 7, 8]),
];

#[test]
fn lengths_are_those_of_the_sections() {
    let codebook = Codebook::standard();
    let mut wrong = Vec::new();
    for (code, section, length, octets) in OPTIONS {
        let definition = codebook.find(&format!("v4:{code}")).unwrap();
        for count in 0..=20 {
            let payload: Vec<u8> = octets.iter().copied().cycle().take(count).collect();
            // A name that is cut where a dot stands is another matter.
            let (_, faults) = codebook.decode(definition, &payload);
            if faults.is_empty() != length.allows(count) {
                wrong.push(format!("v4:{code} with {count} octets, section {section}, {length:?}: {faults:?}"));
            }
            // What is too short or too long is an error to whoever sends it, and to whoever reads it.
            let errors = |findings: Vec<oplex::finding::Finding>| {
                findings.iter().any(|finding| finding.severity == Severity::Error)
            };
            if !length.allows(count) {
                assert!(errors(check::payload(codebook, definition, &payload)), "v4:{code} with {count} octets");
                assert!(
                    errors(check::payload_to_send(codebook, definition, &payload)),
                    "v4:{code} with {count} octets"
                );
            }
        }
    }
    assert!(wrong.is_empty(), "{wrong:#?}");
}
