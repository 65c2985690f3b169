//! What can be typed of stores and releases.

use std::path::PathBuf;

use super::{Form, Trust};

#[derive(Debug, clap::Args)]
pub(crate) struct Publish {
    /// The plan file
    pub(crate) plan: PathBuf,
    #[command(flatten)]
    pub(crate) store: StoreDir,
    /// Show what would be published, and publish nothing
    #[arg(long)]
    pub(crate) dry_run: bool,
    /// Publish nothing if there are warnings
    #[arg(long)]
    pub(crate) strict: bool,
    /// The release that was seen last, r7, or r0 for none; publish nothing if there is a later one
    #[arg(long, value_name = "RELEASE")]
    pub(crate) after: Option<String>,
    /// Publish into a store that belongs to a plan of another title
    #[arg(long)]
    pub(crate) adopt: bool,
    #[command(flatten)]
    pub(crate) said: Said,
    #[command(flatten)]
    pub(crate) trust: Trust,
    #[command(flatten)]
    pub(crate) format: Form,
}

#[derive(Debug, clap::Args)]
pub(crate) struct History {
    #[command(flatten)]
    pub(crate) store: StoreDir,
    #[command(flatten)]
    pub(crate) format: Form,
}

#[derive(Debug, clap::Args)]
pub(crate) struct Revert {
    /// The release to go back to: r6
    pub(crate) to: String,
    #[command(flatten)]
    pub(crate) store: StoreDir,
    /// Write its plan, codebooks and tables into this new directory, and publish nothing
    #[arg(long, value_name = "DIR")]
    pub(crate) write: Option<PathBuf>,
    #[command(flatten)]
    pub(crate) said: Said,
    #[command(flatten)]
    pub(crate) format: Form,
}

#[derive(Debug, clap::Args)]
pub(crate) struct Verify {
    #[command(flatten)]
    pub(crate) store: StoreDir,
    /// A public Ed25519 key (PEM): each release must be signed with it, or with another that is named so
    #[arg(long, value_name = "KEYFILE")]
    pub(crate) trust: Vec<PathBuf>,
    /// Remove parts that no release names and that are older than this: 7d
    #[arg(long, value_name = "AGE")]
    pub(crate) prune: Option<String>,
    #[command(flatten)]
    pub(crate) format: Form,
}

/// The directory of the releases.
#[derive(Debug, Clone, clap::Args)]
pub(crate) struct StoreDir {
    /// The directory of the releases, or a bucket: s3://bucket/prefix
    #[arg(long = "store", value_name = "STORE", env = "OPLEX_STORE", hide_env_values = true)]
    pub(crate) path: PathBuf,
}

/// The directory of the releases, where one is named.
#[derive(Debug, Clone, clap::Args)]
pub(crate) struct Releases {
    /// The store of the releases, where a release is named
    #[arg(long = "store", value_name = "STORE", env = "OPLEX_STORE", hide_env_values = true)]
    pub(crate) path: Option<PathBuf>,
}

/// What a publisher says of a release.
#[derive(Debug, clap::Args)]
pub(crate) struct Said {
    /// What there is to say about it
    #[arg(long, value_name = "TEXT")]
    pub(crate) note: Option<String>,
    /// Who publishes it; the name of the user by default
    #[arg(long, value_name = "NAME")]
    pub(crate) author: Option<String>,
    /// Sign it with this private Ed25519 key (PEM)
    #[arg(long, value_name = "KEYFILE")]
    pub(crate) sign: Option<PathBuf>,
}
