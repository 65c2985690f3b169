//! What can be typed of labs.

use std::path::PathBuf;

use clap::Subcommand;

use super::{Form, Releases, Trust};

#[derive(Debug, Subcommand)]
pub(crate) enum Lab {
    /// Let stand-in clients live on the plan's networks for some days of simulated time
    Run(Box<LabRun>),
    /// Answer on an interface as a stand-in server, on a bench or in a network namespace
    Serve(Box<LabServe>),
    /// Be one stand-in client on an interface, and show what it gets
    Client(Box<LabClient>),
    /// See how many replies a second there are over UDP on the loopback interface of this machine
    Load(Box<LabLoad>),
}

#[derive(Debug, clap::Args)]
pub(crate) struct LabLoad {
    /// The plan file, or a release: r7, latest
    pub(crate) plan: PathBuf,
    /// The network that the clients are on
    #[arg(long, value_name = "NAME")]
    pub(crate) network: String,
    /// How many clients request an address
    #[arg(long, value_name = "COUNT", default_value = "100000", value_parser = clap::value_parser!(u32).range(1..=10_000_000))]
    pub(crate) clients: u32,
    /// For how long at most, up to ten minutes
    #[arg(long = "for", value_name = "TIME", default_value = "10s", value_parser = oplex::layout::duration)]
    pub(crate) time: u32,
    #[command(flatten)]
    pub(crate) store: Releases,
    #[command(flatten)]
    pub(crate) trust: Trust,
    #[command(flatten)]
    pub(crate) format: Form,
}

#[derive(Debug, clap::Args)]
pub(crate) struct LabServe {
    /// The plan file, or a release: r7, latest
    pub(crate) plan: PathBuf,
    /// The interface to answer on
    #[arg(long, value_name = "NAME")]
    pub(crate) interface: String,
    /// A network to serve (may be given several times): the first is that of the interface, the others are behind relay agents
    #[arg(long, value_name = "NAME", required = true)]
    pub(crate) network: Vec<String>,
    /// Advertise as the router of the first network, as the plan says
    #[arg(long)]
    pub(crate) advertise: bool,
    /// For how long
    #[arg(long = "for", value_name = "TIME", default_value = "10m", value_parser = oplex::layout::duration)]
    pub(crate) time: u32,
    #[command(flatten)]
    pub(crate) store: Releases,
    #[command(flatten)]
    pub(crate) trust: Trust,
    #[command(flatten)]
    pub(crate) format: Form,
}

#[derive(Debug, clap::Args)]
pub(crate) struct LabClient {
    /// A plan file or release to compare with what it gets
    #[arg(requires = "network")]
    pub(crate) plan: Option<PathBuf>,
    /// The interface that it is on
    #[arg(long, value_name = "NAME")]
    pub(crate) interface: String,
    /// The network of the plan that it is on
    #[arg(long, value_name = "NAME", requires = "plan")]
    pub(crate) network: Option<String>,
    /// How it behaves: one of the kinds that ship
    #[arg(long, value_name = "KIND", default_value = "desktop")]
    pub(crate) kind: String,
    /// Its hardware address; that of the interface by default
    #[arg(long, value_name = "MAC")]
    pub(crate) mac: Option<oplex::octets::Mac>,
    /// Its vendor class (60, v6:16), also with the enterprise number in front: 32473:Tern D2
    #[arg(long, value_name = "TEXT")]
    pub(crate) vendor_class: Option<String>,
    /// The architecture it boots by (93, v6:61): a name such as x64-uefi, or a number
    #[arg(long, value_name = "NAME")]
    pub(crate) arch: Option<String>,
    /// Its host name (12, v6:39)
    #[arg(long, value_name = "NAME")]
    pub(crate) hostname: Option<String>,
    /// For how long it waits to get what it needs
    #[arg(long = "for", value_name = "TIME", default_value = "30s", value_parser = oplex::layout::duration)]
    pub(crate) time: u32,
    #[command(flatten)]
    pub(crate) store: Releases,
    #[command(flatten)]
    pub(crate) trust: Trust,
    #[command(flatten)]
    pub(crate) format: Form,
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
