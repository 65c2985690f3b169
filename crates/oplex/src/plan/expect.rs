//! What the author of a plan expects.

use std::net::Ipv6Addr;
use std::sync::Arc;

use super::{ClientFacts, Pools, Sent};
use crate::codebook::Definition;
use crate::family::{Both, Net};
use crate::finding::Spot;

/// What the author of a plan expects one client to get.
#[derive(Debug, Clone)]
pub struct Expect {
    /// What its author calls it.
    pub title: Option<String>,
    /// Where it is written.
    pub spot: Spot,
    /// The client.
    pub client: ClientFacts,
    /// Where its addresses must lie; anywhere of a family for which there is none.
    pub address: Pools,
    /// For how long its addresses must be leased, by each family that leases it one.
    pub lease: Option<(u32, Spot)>,
    /// Where the prefix that is delegated to it must lie.
    pub delegated: Option<(Net<Ipv6Addr>, Spot)>,
    /// The options that it must be sent.
    pub sent: Both<Vec<Sent>>,
    /// The options that it must not be sent.
    pub not_sent: Vec<(Arc<Definition>, Spot)>,
    /// The fleets it must be recognised as, all of them.
    pub fleets: Option<Vec<(String, Spot)>>,
}
