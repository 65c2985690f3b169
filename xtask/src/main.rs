//! Work on the project itself. `cargo run -p xtask -- generate` writes the files that are made from others.

#![allow(clippy::print_stdout, reason = "its output is what it wrote")]

mod api;
mod books;
mod captures;
mod keys;
mod ledger;
mod rules;
mod schemas;

use std::path::{Path, PathBuf};
use std::process::ExitCode;

use oplex::codebook::Codebook;
use oplex::family::Protocol;

/// The standard codebooks, in the order in which they are read.
const BOOKS: [&str; 3] = ["dhcpv4.toml", "dhcpv6.toml", "router-advertisements.toml"];

fn main() -> ExitCode {
    let result = match std::env::args().nth(1).as_deref() {
        Some("generate") => generate(),
        Some("api") => root().and_then(|root| api::lists(root, true)),
        Some("api-check") => root().and_then(|root| api::lists(root, false)).and_then(|changed| match &changed[..] {
            [] => Ok(changed),
            _ => Err(format!("not as they are to be, cargo run -p xtask -- api writes them: {changed:?}")),
        }),
        Some("capture") => captures::write(&std::env::args().skip(2).collect::<Vec<_>>()),
        _ => Err("xtask generate: writes the standard codebook, the keys of options, the schemas, and the pages of rules and RFCs\n\
                  xtask api: writes the lists of public items; xtask api-check: says whether they are as they are to be\n\
                  xtask capture morning FILE: writes the demo's capture\n\
                  xtask capture mixed|dhcp MEGABYTES FILE: writes a large one, with other traffic or without"
            .to_owned()),
    };
    match result {
        Ok(written) => {
            written.iter().for_each(|path| println!("{}", path.display()));
            ExitCode::SUCCESS
        }
        Err(why) => {
            println!("{why}");
            ExitCode::FAILURE
        }
    }
}

/// Where the project is.
fn root() -> Result<&'static Path, String> {
    Path::new(env!("CARGO_MANIFEST_DIR")).parent().ok_or_else(|| "xtask stands in no workspace".to_owned())
}

/// Writes what is not as it should be.
fn generate() -> Result<Vec<PathBuf>, String> {
    let outdated = outdated()?;
    for (path, text) in &outdated {
        std::fs::write(path, text).map_err(|error| format!("{}: {error}", path.display()))?;
    }
    Ok(outdated.into_iter().map(|(path, _)| path).collect())
}

fn read(path: &Path) -> Result<String, String> {
    std::fs::read_to_string(path).map_err(|error| format!("{}: {error}", path.display()))
}

/// The standard options, as the books in the core say them.
fn standard() -> Result<Codebook, String> {
    let folder = root()?.join("crates/oplex/codebooks");
    let texts = BOOKS.map(|name| read(&folder.join(name)).map(|text| (name, text)));
    let texts = texts.into_iter().collect::<Result<Vec<_>, _>>()?;
    let books: Vec<(&str, &str)> = texts.iter().map(|(name, text)| (*name, text.as_str())).collect();
    books::read(&books)
}

/// The generated files that are not what they should be, with what they should be.
fn outdated() -> Result<Vec<(PathBuf, String)>, String> {
    let root = root()?;
    let core = root.join("crates/oplex");
    let codebook = standard()?;
    let mut files = vec![
        (root.join("docs/rules.md"), rules::text()),
        (root.join("docs/rfcs.md"), ledger::Ledger::read(&read(&root.join("rfc-ledger.toml"))?)?.page()),
    ];
    let standard = books::files(&codebook).into_iter();
    files.extend(standard.map(|(name, text)| (core.join("src/codebook/standard").join(name), text)));
    let keys = |protocol: Protocol| core.join("src/packet").join(protocol.name()).join("keys.rs");
    files.extend(Protocol::ALL.map(|protocol| (keys(protocol), keys::text(&codebook, protocol))));
    let page = |name: &str| read(&root.join("docs").join(name));
    let schemas = schemas::texts(Codebook::standard(), &page)?;
    files.extend(schemas.into_iter().map(|(name, text)| (root.join("schemas").join(name), text)));
    files.retain(|(path, text)| read(path).ok().as_deref() != Some(text));
    Ok(files)
}

#[test]
fn generated_files_are_current() {
    let outdated: Vec<PathBuf> =
        outdated().unwrap_or_else(|why| panic!("{why}")).into_iter().map(|(path, _)| path).collect();
    assert_eq!(outdated, <[PathBuf; 0]>::default(), "cargo run -p xtask -- generate");
}
