//! What can be typed of labs.

use std::path::PathBuf;

use clap::Subcommand;

use super::{Form, Releases, Trust};

#[derive(Debug, Subcommand)]
pub(crate) enum Lab {
    /// Let stand-in clients live on the plan's networks for some days of simulated time
    Run(Box<LabRun>),
}

#[derive(Debug, clap::Args)]
pub(crate) struct LabRun {
    /// The plan file, or a release: r7, latest
    pub(crate) plan: PathBuf,
    /// The clients, as a file; by default some of each fleet and some that no fleet knows on each network, and those of reservations
    #[arg(long, value_name = "FILE", conflicts_with = "each")]
    pub(crate) clients: Option<PathBuf>,
    /// How many clients of each kind there are on a network by default
    #[arg(long, value_name = "COUNT", default_value = "5", value_parser = clap::value_parser!(u32).range(1..=10_000))]
    pub(crate) each: u32,
    /// How much time goes by, in hours
    #[arg(long, value_name = "HOURS", default_value = "72", value_parser = clap::value_parser!(u32).range(1..=8760))]
    pub(crate) hours: u32,
    /// What happens by chance follows from this number
    #[arg(long, value_name = "NUMBER", default_value = "1")]
    pub(crate) seed: u64,
    /// How many packets of a thousand get lost
    #[arg(long, value_name = "COUNT", default_value = "0", value_parser = clap::value_parser!(u16).range(0..=900))]
    pub(crate) lost: u16,
    /// Show what became of this client, in the order of time
    #[arg(long, value_name = "MAC")]
    pub(crate) client: Option<oplex::octets::Mac>,
    /// Write all packets as the server's link saw them to a capture file
    #[arg(long, value_name = "FILE")]
    pub(crate) capture: Option<PathBuf>,
    /// Replace the capture file, if it is a capture
    #[arg(long, requires = "capture")]
    pub(crate) force: bool,
    #[command(flatten)]
    pub(crate) store: Releases,
    #[command(flatten)]
    pub(crate) trust: Trust,
    #[command(flatten)]
    pub(crate) format: Form,
}
