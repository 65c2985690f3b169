//! DHCPv4 messages (RFC 2131).
//!
//! [`Message`] looks at octets where they lie: [`Message::parts`] goes through the options as they stand,
//! [`Message::options`](super::Message::options) through what they mean after RFC 3396, and [`Message::get`](super::Message::get)
//! fetches one as a Rust type. Composing a [`Draft`] goes the other way and says what the message had room for.
//!
//! ```
//! use oplex::codebook::Codebook;
//! use oplex::packet::v4::{self, Draft, Header, Message, MessageType};
//! use oplex::packet::{Composer, Message as _};
//!
//! let mac = [0x02, 0, 0x5e, 0, 0x53, 0x11];
//! let router = [10, 64, 4, 1];
//! let mut composer = Composer::default();
//! let composed = composer.compose(&Draft {
//!     header: Header { yiaddr: [10, 64, 4, 20].into(), ..Header::from_server(0x0064_0411, mac) },
//!     options: &[(54, &[10, 64, 0, 67]), (51, &[0, 0, 112, 128]), (3, &router)],
//!     ..Draft::new(MessageType::ACK)
//! })?;
//! assert_eq!((composed.octets.len(), composed.budget.used), (300, 262));
//!
//! let message = Message::read(composed.octets)?;
//! assert_eq!(message.get(Codebook::standard(), v4::ROUTER)?, Some(vec![router.into()]));
//! assert_eq!(message.to_string(), "DHCPACK 10.64.4.20, client 02:00:5e:00:53:11, 4 options, 300 octets");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod allocate;
mod budget;
mod codes;
mod compose;
mod header;
#[rustfmt::skip]
mod keys;
mod elements;
mod message;
mod message_type;
mod options;

pub(super) use budget::Packing;
pub use budget::{Budget, FieldUse, LeftOut, Limit, LimitFrom, Line, Reason};
pub use compose::{Composed, Draft};
pub use elements::{Element, Elements, Field, Part};
pub use header::Header;
pub use keys::*;
pub use message::Message;
pub use message_type::MessageType;

/// Octets of the header in front of the options: everything up to and with `file` (RFC 2131, section 2).
pub const HEADER: usize = 236;

/// What the options begin with (RFC 2131, section 3).
pub const COOKIE: [u8; 4] = [99, 130, 83, 99];

/// More than a datagram holds is no message.
pub const LARGEST: usize = 65_535;

/// What every receiver of BOOTP and DHCP messages may insist on (RFC 1542, section 2.1).
pub const SMALLEST: usize = 300;

/// Octets of the IPv4 and UDP headers, which option 57 counts and a message does not.
pub const DATAGRAM_HEADERS: usize = 28;
