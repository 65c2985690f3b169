//! Writing messages.

use super::{LARGEST, MessageType, Relay};
use crate::family::Protocol;
use crate::packet::{self, ComposeError, Composer};

/// What a message is to be made of.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Draft<'d> {
    /// What it is for.
    pub message_type: MessageType,
    /// What stands in front of the options.
    pub header: Header,
    /// Its options, in this order.
    pub options: &'d [(u16, &'d [u8])],
}

/// What stands in front of the options.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Header {
    /// Three octets: the transaction, or the flags of DHCPv4 over DHCPv6 (RFC 7341, section 6.2).
    Transaction(u32),
    /// A relay's header.
    Relay(Relay),
}

impl packet::Draft for Draft<'_> {
    type Composed<'c> = &'c [u8];

    fn compose<'c>(&self, composer: &'c mut Composer) -> Result<&'c [u8], ComposeError> {
        let octets = composer.cleared();
        let kind = self.message_type;
        if kind.is_relays() != matches!(self.header, Header::Relay(_)) {
            return Err(ComposeError::WrongHeader(kind));
        }
        if let Some((code, payload)) = self.options.iter().find(|(_, payload)| payload.len() > usize::from(u16::MAX)) {
            let (protocol, code, octets, most) = (Protocol::V6, *code, payload.len(), u16::MAX.into());
            return Err(ComposeError::OptionTooLong { protocol, code, octets, most });
        }
        let all = kind.header_octets() + self.options.iter().map(|(_, payload)| 4 + payload.len()).sum::<usize>();
        if all > LARGEST {
            return Err(ComposeError::MessageTooLong { octets: all, most: LARGEST });
        }
        octets.reserve(all);
        octets.push(kind.0);
        match self.header {
            Header::Transaction(number) => octets.extend_from_slice(&number.to_be_bytes()[1..]),
            Header::Relay(relay) => {
                octets.push(relay.hops);
                octets.extend_from_slice(&relay.link.octets());
                octets.extend_from_slice(&relay.peer.octets());
            }
        }
        // Failover partners send a time with each message (RFC 8156, section 5.2).
        octets.resize(octets.len() + kind.header_octets().saturating_sub(4) * usize::from(!kind.is_relays()), 0);
        for (code, payload) in self.options {
            octets.extend_from_slice(&code.to_be_bytes());
            octets.extend_from_slice(&(payload.len() as u16).to_be_bytes());
            octets.extend_from_slice(payload);
        }
        Ok(octets)
    }
}
