//! What can be typed of rehearsals.

use std::path::PathBuf;

use clap_complete::ArgValueCandidates;

use super::{Form, Releases, Trust};

#[derive(Debug, clap::Args)]
pub(crate) struct Rehearse {
    /// The plan file, or a release: r7, latest
    pub(crate) plan: PathBuf,
    /// The network the client is on
    #[arg(long, value_name = "NAME", required_unless_present = "relay")]
    pub(crate) network: Option<String>,
    /// The relay agent that forwards its messages; it says which network the client is on
    #[arg(long, value_name = "ADDRESS", conflicts_with = "network")]
    pub(crate) relay: Option<std::net::IpAddr>,
    /// The client's hardware address
    #[arg(long, required_unless_present = "duid")]
    pub(crate) mac: Option<String>,
    /// Its DUID (DHCPv6), in hexadecimal; DUID-LL of its hardware address by default
    #[arg(long, value_name = "OCTETS")]
    pub(crate) duid: Option<String>,
    /// Rehearse DHCPv4 only; by default both families of the network
    #[arg(long, conflicts_with = "v6")]
    pub(crate) v4: bool,
    /// Rehearse IPv6 only: the router advertisement and DHCPv6
    #[arg(long)]
    pub(crate) v6: bool,
    /// Use the two-message exchange of DHCPv6 (Rapid Commit)
    #[arg(long)]
    pub(crate) rapid: bool,
    /// Request a delegated prefix by DHCPv6
    #[arg(long)]
    pub(crate) delegation: bool,
    /// Its vendor class (60, v6:16), also with the enterprise number in front: 32473:Tern D2
    #[arg(long, value_name = "TEXT")]
    pub(crate) vendor_class: Option<String>,
    /// Its user class (77, v6:15)
    #[arg(long, value_name = "TEXT")]
    pub(crate) user_class: Option<String>,
    /// The architecture it boots by (93, v6:61): a name such as x64-uefi, or a number
    #[arg(long, value_name = "NAME")]
    pub(crate) arch: Option<String>,
    /// Its host name (12, v6:39)
    #[arg(long, value_name = "NAME")]
    pub(crate) hostname: Option<String>,
    /// What it wants its full name to be (81, v6:39): one label, or all of it
    #[arg(long, value_name = "NAME")]
    pub(crate) fqdn: Option<String>,
    /// Its identifier (61), in hexadecimal
    #[arg(long, value_name = "OCTETS")]
    pub(crate) client_id: Option<String>,
    /// Its circuit ID, set by the relay agent (82, v6:18): text, or 0x and hexadecimal
    #[arg(long, value_name = "TEXT")]
    pub(crate) circuit_id: Option<String>,
    /// Its remote ID, set by the relay agent (82, v6:37): text, or 0x and hexadecimal
    #[arg(long, value_name = "TEXT")]
    pub(crate) remote_id: Option<String>,
    /// The enterprise number of its vendor (124, v6:16)
    #[arg(long, value_name = "NUMBER")]
    pub(crate) enterprise: Option<String>,
    /// Say why the client does not belong to a fleet
    #[arg(long, value_name = "FLEET")]
    pub(crate) why_not: Option<String>,
    /// The options it requests (55, v6:6): codes and names, separated by commas, or none; what its kind requests by default
    #[arg(long, value_name = "CODES")]
    pub(crate) wants: Option<String>,
    /// The largest datagram it accepts (57), 576 octets or more
    #[arg(long, value_name = "OCTETS", value_parser = clap::value_parser!(u16).range(576..))]
    pub(crate) max_size: Option<u16>,
    /// Number of addresses of its pool that are already leased
    #[arg(long, value_name = "COUNT", default_value_t = 0)]
    pub(crate) leased: u32,
    /// Write the messages as frames to a capture file
    #[arg(long, value_name = "FILE")]
    pub(crate) capture: Option<PathBuf>,
    /// Replace the capture file, if it is a capture
    #[arg(long, requires = "capture")]
    pub(crate) force: bool,
    /// Show where one option comes from, and what it overrides
    #[arg(long, value_name = "OPTION", add = ArgValueCandidates::new(crate::shell::options))]
    pub(crate) explain: Option<String>,
    #[command(flatten)]
    pub(crate) store: Releases,
    #[command(flatten)]
    pub(crate) trust: Trust,
    #[command(flatten)]
    pub(crate) format: Form,
}
