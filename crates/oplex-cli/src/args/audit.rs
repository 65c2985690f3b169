//! What can be typed of captures.

use std::path::PathBuf;

use super::{Books, Form, Trust};

#[derive(Debug, clap::Args)]
pub(crate) struct Audit {
    /// The captures: pcap or pcapng, plain or compressed by gzip, or - for standard input; several are taken in the order of time
    #[arg(required = true, value_name = "CAPTURE")]
    pub(crate) captures: Vec<PathBuf>,
    /// Hold them against this plan
    #[arg(long, value_name = "PLAN", conflicts_with_all = ["store", "release"])]
    pub(crate) plan: Option<PathBuf>,
    /// Hold them against the latest release of this store
    #[arg(long, value_name = "STORE")]
    pub(crate) store: Option<PathBuf>,
    /// Hold them against this release of the store, which OPLEX_STORE may name: r7, latest
    #[arg(long, value_name = "RELEASE")]
    pub(crate) release: Option<String>,
    /// The network of the plan that was captured, where the messages do not say which one that is
    #[arg(long, value_name = "NAME")]
    pub(crate) network: Option<String>,
    /// Show all conversations, not just the first of those that have something to say
    #[arg(long)]
    pub(crate) all: bool,
    /// Only this client: its hardware address, or its DUID
    #[arg(long, value_name = "MAC|DUID")]
    pub(crate) client: Option<String>,
    /// Only what this rule finds (may be given several times)
    #[arg(long, value_name = "RULE", add = clap_complete::ArgValueCandidates::new(crate::shell::rules))]
    pub(crate) only: Vec<String>,
    /// Wait for more at the end of the capture, which still grows, until interrupted
    #[arg(long)]
    pub(crate) follow: bool,
    /// Write what clients got as expectations for a plan into this new file
    #[arg(long, value_name = "FILE")]
    pub(crate) expectations: Option<PathBuf>,
    /// List which options the clients of each vendor class request
    #[arg(long)]
    pub(crate) codes: bool,
    #[command(flatten)]
    pub(crate) books: Books,
    #[command(flatten)]
    pub(crate) trust: Trust,
    #[command(flatten)]
    pub(crate) format: Form,
}
