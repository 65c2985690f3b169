//! The rooms of the library, and which of them know which.

/// From those that know nobody to those that know all; what is private stands where it is used first.
const ROOMS: [&str; 24] = [
    "prelude",
    "few",
    "once",
    "parse_error",
    "nearest",
    "parallel",
    "octets",
    "family",
    "layout",
    "heading",
    "finding",
    "words",
    "document",
    "codebook",
    "packet",
    "plan",
    "compiled",
    "answer",
    "server",
    "check",
    "release",
    "specimen",
    "audit",
    "lab",
];

#[test]
fn rooms_know_only_those_below_them() {
    let src = format!("{}/src", env!("CARGO_MANIFEST_DIR"));
    let mut seen = 0;
    for file in crate::rules::walk(&src) {
        let path = file.strip_prefix(&src).unwrap().trim_start_matches('/');
        let room = path.split(['/', '.']).next().unwrap();
        if room == "lib" {
            continue;
        }
        let place = ROOMS.iter().position(|known| *known == room).unwrap_or_else(|| panic!("{room} is no room"));
        let text = std::fs::read_to_string(&file).unwrap();
        let code = text.lines().filter(|line| !line.trim_start().starts_with("//"));
        for used in code.flat_map(|line| line.split("crate::").skip(1)) {
            let used = used.split(|c: char| !c.is_ascii_alphanumeric() && c != '_').next().unwrap();
            let Some(other) = ROOMS.iter().position(|known| *known == used) else { continue };
            assert!(other <= place, "{path} of {room} uses {used}");
            seen += usize::from(other < place);
        }
    }
    assert!(seen > 100);
}
