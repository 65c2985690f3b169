//! A lab: a stand-in server and stand-in clients, to try a plan or release with packets before it is published. No sockets and no
//! clock: octets in, octets out, and times that whoever runs it hands in.
//!
//! ```
//! use std::time::Duration;
//! use oplex::compiled::Compiled;
//! use oplex::lab::{Faults, Lab, Population};
//! use oplex::plan::Plan;
//!
//! let text = "server = \"10.64.0.67\"\nlease = \"1h\"\n[network.desk]\nsubnet = \"10.64.4.0/24\"\npool = \"10.64.4.20-10.64.4.21\"\n\
//!             send.v4 = { router = \"10.64.4.1\" }\n";
//! let plan = Plan::read("plan.toml", text, &mut |path| Err(format!("no file {path}").into())).plan.expect("it is TOML");
//! let compiled = Compiled::of(&plan);
//! // Three desktops, where two have room.
//! let mut lab = Lab::new(&compiled, Population::of(&compiled, 3), Faults::default(), 1);
//! lab.run(Duration::from_secs(3600), &mut |_| {});
//! let tally = lab.tally();
//! assert_eq!((tally.groups[0].clients, tally.groups[0].content), (3, 2));
//! assert_eq!(tally.pools[0].empty.map(|(_, first)| first > Duration::from_secs(400)), Some(true));
//! ```

mod client;
mod hostile;
mod kind;
mod population;
mod read;
mod relay;
mod run;
mod tally;
mod v4;
mod v6;

use std::net::Ipv6Addr;

use crate::answer::Ends;
use crate::family::Family;
use crate::server::Leased;

pub use client::{Client, Output};
pub use kind::{ClientKind, Presence};
pub use population::{Group, Population};
pub use read::Clients;
pub use run::{Faults, Heard, Lab, LabReport};
pub use tally::{GroupTally, PoolTally, Stock, Tally};

/// A message between a client and the server that answers it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Packet {
    /// Whether a client sends it, or a relay agent for it.
    pub from_client: bool,
    /// What it travels in, with its source and destination.
    pub ends: Ends,
    /// Its octets.
    pub octets: Vec<u8>,
}

/// What becomes of a client.
#[derive(Debug, Clone, PartialEq, Eq)]
#[non_exhaustive]
pub enum Event {
    /// It is leased something that it did not have.
    Leased {
        /// What.
        leased: Leased,
        /// For how long, in seconds; [`u32::MAX`] is for ever.
        seconds: u32,
    },
    /// What it has was extended.
    Renewed {
        /// What.
        leased: Leased,
        /// For how long, in seconds.
        seconds: u32,
    },
    /// It has something no longer.
    Ended {
        /// What.
        leased: Leased,
        /// Why.
        why: End,
    },
    /// A server refused it something.
    Refused {
        /// The family.
        family: Family,
        /// What the server says.
        why: String,
    },
    /// No server answers it.
    Unanswered(Family),
    /// It got settings without an address.
    Settings(Family),
    /// It formed an address by itself.
    Formed(Ipv6Addr),
    /// It does without IPv4, as its network offers that (RFC 8925).
    WithoutIpv4,
}

/// Why a client has something no longer.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum End {
    /// Its time was over.
    Expired,
    /// The client gave it back.
    Released,
    /// The server took it away.
    Refused,
}
