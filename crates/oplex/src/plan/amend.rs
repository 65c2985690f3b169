//! Changes of parts of what wider layers send.

use std::sync::Arc;

use crate::codebook::Definition;
use crate::finding::{Example, Spot, rule};
use crate::layout::{Edit, ValueErrors};

rule! {
    /// a layer changes an option that no wider layer sends, or that it sends itself
    ///
    /// There is nothing to change. The changes are lost, and devices get the option as it was, or not at all.
    pub static AMEND_WITHOUT_EFFECT = "amend-without-effect", Error, Plan, "";
    Example::Plan("[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n\
         [network.control-room]\nsubnet = \"10.64.4.0/23\"\n[network.control-room.send.v4]\nrouter = \"10.64.4.1\"\n\
         [network.control-room.amend.v4]\nntp-servers = { last = [\"10.64.0.124\"] }\n")
}

/// What a layer changes in an option that a wider one sends.
#[derive(Debug, Clone)]
pub struct Amendment {
    /// The option.
    pub definition: Arc<Definition>,
    /// Where its name stands.
    pub key: Spot,
    /// Where the changes stand.
    pub spot: Spot,
    /// The changes, or why there are none.
    pub outcome: Result<Vec<Edit>, ValueErrors>,
}
