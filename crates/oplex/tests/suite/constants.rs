//! The constants of the standard codebooks, against the files they are generated from.

use oplex::family::Protocol;

const BOOKS: [(&str, &str); 3] = [
    ("dhcpv4.toml", include_str!("../../codebooks/dhcpv4.toml")),
    ("dhcpv6.toml", include_str!("../../codebooks/dhcpv6.toml")),
    ("router-advertisements.toml", include_str!("../../codebooks/router-advertisements.toml")),
];

/// `GENERATE=1` writes the constants; otherwise they must be what would be written.
fn is_current(path: &str, text: &str) {
    let path = format!("{}/src/{path}", env!("CARGO_MANIFEST_DIR"));
    if std::env::var_os("GENERATE").is_some() {
        std::fs::write(&path, text).unwrap();
    }
    assert!(std::fs::read_to_string(path).unwrap() == text, "GENERATE=1 cargo test -p oplex constants");
}

#[test]
fn constants_are_what_the_codebooks_say() {
    is_current("codebook/standard.rs", &oplex::codebook::generate(&BOOKS).unwrap());
}

#[test]
fn constants_of_messages_are_what_the_codebook_says() {
    for protocol in Protocol::ALL {
        is_current(&format!("packet/{}/keys.rs", protocol.name()), &oplex::packet::generate(protocol));
    }
}
