//! What can be typed of reports.

use std::path::PathBuf;

use super::{Releases, Trust};

#[derive(Debug, clap::Args)]
pub(crate) struct Report {
    /// The plan file, a release (r7, latest), or a capture
    pub(crate) subject: PathBuf,
    /// The page to write; an earlier report of that name is replaced
    #[arg(short, long, value_name = "FILE", default_value = "report.html")]
    pub(crate) output: PathBuf,
    /// Hold a capture against this plan or release
    #[arg(long, value_name = "PLAN")]
    pub(crate) plan: Option<PathBuf>,
    #[command(flatten)]
    pub(crate) store: Releases,
    #[command(flatten)]
    pub(crate) trust: Trust,
}
