//! The command's tests: the built program, its output against snapshots, its exit codes.
//!
//! `SNAPSHOTS=overwrite cargo test -p oplex-cli` writes the snapshots anew.

#![allow(clippy::unwrap_used, reason = "a test that cannot go on should stop")]

mod audit;
mod bad_input;
#[path = "../browser/mod.rs"]
mod browser;
mod checks;
mod commands;
mod editing;
#[path = "../editor/mod.rs"]
mod editor;
mod hostile;
mod ipv6;
mod lab;
mod namespaces;
mod probe;
mod readme;
mod report;
mod schemas;
mod shells;
mod stores;
mod tables;

use snapbox::cmd::{Command, cargo_bin};

/// The command, to be run where a person would run it: at the top of the project.
fn oplex(args: &[&str]) -> Command {
    let top = concat!(env!("CARGO_MANIFEST_DIR"), "/../..");
    Command::new(cargo_bin!("oplex")).args(args).current_dir(top).env("NO_COLOR", "1")
}
