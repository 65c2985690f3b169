//! Playing the messages by which a client gets its answer.

use super::{Answer, Exchange, v4, v6};
use crate::compiled::Compiled;
use crate::family::Family;
use crate::packet::ComposeError;
use crate::plan::ClientFacts;

impl<'p> Compiled<'p> {
    /// The messages by which a client gets its answer, octet for octet: of IPv6 its router's advertisement, and what follows
    /// from that by DHCPv6.
    ///
    /// # Errors
    /// Options that no message can hold.
    pub fn exchange(&self, facts: &ClientFacts, answer: &Answer<'_>) -> Result<Exchange, ComposeError> {
        match answer.family {
            Family::V4 => v4::exchange(self, facts, answer),
            Family::V6 => v6::exchange(self, facts, answer),
        }
    }
}
