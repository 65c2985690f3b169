//! Release stores: directories, or with the feature `s3` buckets, from which any program can serve, and in which nothing is ever changed.
//!
//! A release is a *manifest* `releases/0000/000007.json` and the *parts* that it names, `parts/` and the SHA-256 of their octets each.
//! A part is never larger than its largest entry needs, and is written once: releases that have something in common have its
//! parts in common. All parts are there before the manifest is, which is put in place under the next number only if no other
//! is there, so a reader sees a whole release or none, and of several publishers one gets each number.
//!
//! ```no_run
//! use oplex_io::store::Store;
//!
//! let store = Store::new("releases");
//! let latest = store.latest()?.ok_or("nothing is published")?;
//! let document = store.document(&latest)?;
//! let compiled = document.compiled()?;
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

#[cfg_attr(feature = "s3", path = "bucket.rs")]
#[cfg_attr(not(feature = "s3"), path = "no_bucket.rs")]
mod bucket;
mod differing;
mod directory;
mod error;
mod excerpt;
mod manifest;
mod place;
mod prepared;
mod releases;
mod signature;
mod sources;
mod tree;
mod verify;
mod watch;

pub use error::StoreError;
pub use manifest::{KeptFinding, Manifest, Noted, Release};
pub use prepared::{Entry, Prepared};
pub use releases::Store;
pub use signature::{Signature, SigningKey, TrustedKey};
pub use sources::{SourceFile, SourceKind};
pub use tree::StorePart;
pub use verify::{Flaw, Orphan, VerifyReport};
pub use watch::{StoreChange, Watch};

use sha2::{Digest as _, Sha256};

/// The name of octets: their SHA-256 in hexadecimal.
fn digest(octets: &[u8]) -> String {
    data_encoding::HEXLOWER.encode(&Sha256::digest(octets))
}

/// Whether text is a [`digest`].
fn is_digest(text: &str) -> bool {
    text.len() == 64 && text.bytes().all(|digit| matches!(digit, b'0'..=b'9' | b'a'..=b'f'))
}
