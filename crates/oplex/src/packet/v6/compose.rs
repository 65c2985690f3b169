//! Writing messages.

use std::fmt;

use super::{LARGEST, MessageType, Relay};

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

/// Why a message cannot be written.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ComposeError {
    /// An option holds 65,535 octets at most, and DHCPv6 splits none (RFC 8415, section 21.1).
    OptionTooLong {
        /// Its code.
        code: u16,
        /// Its octets.
        octets: usize,
    },
    /// The message would be longer than a datagram.
    MessageTooLong {
        /// Its octets.
        octets: usize,
    },
    /// The header is not the one that messages of this type have.
    WrongHeader(MessageType),
}

impl fmt::Display for ComposeError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::OptionTooLong { code, octets } => {
                write!(f, "option {code} has {octets} octets, and an option of DHCPv6 holds 65,535")
            }
            Self::MessageTooLong { octets } => {
                write!(f, "the message has {octets} octets, and a datagram holds {LARGEST}")
            }
            Self::WrongHeader(kind) if kind.is_relays() => write!(f, "a {kind} has a relay's header"),
            Self::WrongHeader(kind) => write!(f, "a {kind} has no relay's header"),
        }
    }
}

impl std::error::Error for ComposeError {}

/// Writes a message at the end of `octets`, which allocates only when they have no room.
///
/// # Errors
/// An option or a message that is too long, or a header that goes with another type; nothing is written then.
pub fn compose(draft: &Draft<'_>, octets: &mut Vec<u8>) -> Result<(), ComposeError> {
    let kind = draft.message_type;
    if kind.is_relays() != matches!(draft.header, Header::Relay(_)) {
        return Err(ComposeError::WrongHeader(kind));
    }
    if let Some((code, payload)) = draft.options.iter().find(|(_, payload)| payload.len() > usize::from(u16::MAX)) {
        return Err(ComposeError::OptionTooLong { code: *code, octets: payload.len() });
    }
    let all = kind.header_octets() + draft.options.iter().map(|(_, payload)| 4 + payload.len()).sum::<usize>();
    if all > LARGEST {
        return Err(ComposeError::MessageTooLong { octets: all });
    }
    octets.reserve(all);
    octets.push(kind.0);
    match draft.header {
        Header::Transaction(number) => octets.extend_from_slice(&number.to_be_bytes()[1..]),
        Header::Relay(relay) => {
            octets.push(relay.hops);
            octets.extend_from_slice(&relay.link.octets());
            octets.extend_from_slice(&relay.peer.octets());
        }
    }
    // Failover partners send a time with each message (RFC 8156, section 5.2).
    octets.resize(octets.len() + kind.header_octets().saturating_sub(4) * usize::from(!kind.is_relays()), 0);
    for (code, payload) in draft.options {
        octets.extend_from_slice(&code.to_be_bytes());
        octets.extend_from_slice(&(payload.len() as u16).to_be_bytes());
        octets.extend_from_slice(payload);
    }
    Ok(())
}
