//! Follows a store, and prints what each new release changes and for whom.
//!
//! `cargo run -p oplex-io --example follow -- STORE` goes on until it is stopped; with a number behind it, after so many releases.

#![allow(clippy::print_stdout, clippy::print_stderr, reason = "an example that prints")]

use std::time::Duration;

use oplex::release::{Document, compare};
use oplex_io::store::{Store, StoreChange, Watch};

fn main() -> Result<(), Box<dyn std::error::Error>> {
    let mut args = std::env::args().skip(1);
    let store = args.next().ok_or("name a store")?;
    let mut left: usize = args.next().map_or(Ok(usize::MAX), |count| count.parse())?;
    let mut watch = Watch::new(Store::new(store));
    let mut before: Option<Box<Document>> = None;
    while left > 0 {
        match watch.wait(Duration::from_millis(200)) {
            StoreChange::Release(release, document) => {
                println!("release {} by {}", release.number(), release.manifest.author);
                if let Some(before) = &before {
                    for changed in compare(&before.compiled()?, &document.compiled()?) {
                        let what: Vec<&str> = changed.changes.iter().map(|change| &*change.what).collect();
                        println!("  {}: {}", changed.concerned, what.join(", "));
                    }
                }
                before = Some(document);
                left -= 1;
            }
            // What was there before still serves.
            StoreChange::Broken(why) => eprintln!("not taken: {why}"),
        }
    }
    Ok(())
}
