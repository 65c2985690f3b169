//! The constants of the standard codebooks, against the files they are generated from.

const BOOKS: [(&str, &str); 1] = [("dhcpv4.toml", include_str!("../../codebooks/dhcpv4.toml"))];

/// `GENERATE=1` writes the constants; otherwise they must be what would be written.
#[test]
fn constants_are_what_the_codebooks_say() {
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/src/codebook/standard.rs");
    let text = oplex::codebook::generate(&BOOKS).unwrap();
    if std::env::var_os("GENERATE").is_some() {
        std::fs::write(path, &text).unwrap();
    }
    let committed = std::fs::read_to_string(path).unwrap();
    assert!(committed == text, "GENERATE=1 cargo test -p oplex constants");
}
