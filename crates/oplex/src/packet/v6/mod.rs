//! DHCPv6 messages (RFC 8415).
//!
//! A [`Message`] is looked at where it lies, which allocates nothing; [`Message::relayed`] goes into what a relay agent
//! relays. A [`Draft`] is composed the other way.
//!
//! ```
//! use oplex::packet::v6::{Draft, Header, Message, MessageType};
//! use oplex::packet::{Composer, Message as _};
//!
//! let duid = [0, 3, 0, 1, 2, 0, 0x5e, 0, 0x53, 0x11];
//! let mut composer = Composer::default();
//! let octets = composer.compose(&Draft {
//!     message_type: MessageType::INFORMATION_REQUEST,
//!     header: Header::Transaction(0x6411),
//!     options: &[(1, &duid), (6, &[0, 23, 0, 24]), (8, &[0, 0])],
//! })?;
//! let message = Message::read(octets)?;
//! assert_eq!(message.to_string(), "Information-request 0x006411, 3 options, 32 octets");
//! assert_eq!(message.option(6).and_then(|option| option.octets()), Some(&[0, 23, 0, 24][..]));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod compose;
#[rustfmt::skip]
mod keys;
mod message;
mod message_type;

pub use compose::{Draft, Header};
pub use keys::*;
pub use message::{Message, Relay, TwoOctets};
pub use message_type::MessageType;

/// More than a datagram holds is no message: 65,535 less the UDP header (RFC 768).
pub const LARGEST: usize = 65_527;

/// What fits in a packet that every link carries whole: 1280 octets (RFC 8200, section 5) less the IPv6 and UDP headers.
pub const UNFRAGMENTED: usize = 1232;

/// The option that holds the message a relay relays (RFC 8415, section 21.10).
pub const RELAY_MESSAGE: u16 = 9;

/// The option of a leasequery reply that holds what a relay agent relayed, without the client's message (RFC 5007, section
/// 4.1.2.4).
pub const RELAY_DATA: u16 = 47;

/// As many relays may pass a message on (`HOP_COUNT_LIMIT`; RFC 8415, section 7.6).
pub const MOST_HOPS: u8 = 8;
