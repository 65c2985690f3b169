//! The full names that clients which send the client FQDN option are answered with (RFC 4702; RFC 4704).

use core::fmt;

use crate::finding::Spot;
use crate::prelude::*;

/// The name with which a server answers clients that send the client FQDN option (81, v6:39).
///
/// Servers SHOULD send the complete name (RFC 4702, section 4; RFC 4704, section 6), and a client often knows only the first
/// label of its own: a layer of a plan has the rest.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Fqdn {
    /// The full name; `*` as its first label stands for the first label of the name that the client sends.
    pub name: String,
    /// Whether the server updates DNS as the client wishes. Without, it says that it updates nothing (the flag N).
    pub updates: bool,
    /// Where the name stands; `None` in what was read back from a release.
    pub spot: Option<Spot>,
}

/// `*.tarnfell.example, with updates of DNS`
impl fmt::Display for Fqdn {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.name)?;
        if self.updates { f.write_str(", with updates of DNS") } else { Ok(()) }
    }
}
