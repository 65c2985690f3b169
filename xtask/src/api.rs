//! The public items of the libraries, as lists that are part of the project: a change of what others use is a change of a file.
//!
//! rustdoc writes them as JSON, whose form goes with the compiler: where that is another, nothing is compared.

use std::path::{Path, PathBuf};
use std::process::Command;

use public_api::{Builder, MINIMUM_NIGHTLY_RUST_VERSION};

/// The libraries, and the features that their documentation has.
const LIBRARIES: [&str; 2] = ["oplex", "oplex-io"];

/// Writes the lists, or compares them where nothing is to be `written`; gives those that were not as they are to be.
pub(crate) fn lists(root: &Path, written: bool) -> Result<Vec<PathBuf>, String> {
    let mut changed = Vec::new();
    for library in LIBRARIES {
        let path = root.join("docs/api").join(format!("{library}.txt"));
        let Some(text) = list(root, library)? else { continue };
        if std::fs::read_to_string(&path).ok().as_deref() == Some(text.as_str()) {
            continue;
        }
        if written {
            std::fs::write(&path, text).map_err(|error| format!("{}: {error}", path.display()))?;
        }
        changed.push(path);
    }
    Ok(changed)
}

/// The items of a library, a line each; `None` where this compiler's JSON is of another form than is read here.
fn list(root: &Path, library: &str) -> Result<Option<String>, String> {
    let target = std::env::var_os("CARGO_TARGET_DIR").map_or_else(|| root.join("target"), PathBuf::from);
    let said = Command::new(env!("CARGO"))
        .current_dir(root)
        .env("RUSTC_BOOTSTRAP", "1")
        .args(["rustdoc", "--quiet", "--locked", "--lib", "-p", library])
        .args(["--target-dir".as_ref(), target.join("api").as_os_str()])
        .args(["--", "-Zunstable-options", "--output-format", "json", "--cap-lints", "allow"])
        .status()
        .map_err(|error| format!("cargo rustdoc: {error}"))?;
    if !said.success() {
        return Err(format!("cargo rustdoc does not document {library}"));
    }
    let json = target.join("api/doc").join(format!("{}.json", library.replace('-', "_")));
    let read = Builder::from_rustdoc_json(json).omit_blanket_impls(true).omit_auto_trait_impls(true).build();
    match read {
        Ok(api) => Ok(Some(format!("{api}"))),
        Err(why) => {
            println!(
                "{library}: the items are not compared: {why} (read here: that of {MINIMUM_NIGHTLY_RUST_VERSION})"
            );
            Ok(None)
        }
    }
}
