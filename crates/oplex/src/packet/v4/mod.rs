//! DHCPv4 messages (RFC 2131).
//!
//! [`Message::read`] looks at octets where they lie: [`Message::parts`] goes through the options as they stand,
//! [`Message::options`] through what they mean after RFC 3396, and [`Message::get`] fetches one as a Rust type.
//! [`Composer::compose`] goes the other way and says what the message had room for.
//!
//! ```
//! use oplex::packet::v4::{self, Composer, Draft, Header, Message, MessageType};
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
//! assert_eq!(message.get(v4::ROUTER)?, Some(vec![router.into()]));
//! assert_eq!(message.to_string(), "DHCPACK to 02:00:5e:00:53:11: 10.64.4.20, 4 options, 300 octets");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod budget;
mod compose;
mod header;
mod known;
mod message;
mod message_type;
mod place;
mod steps;
#[rustfmt::skip]
mod tags;

pub use budget::{Budget, FieldUse, LeftOut, Limit, LimitFrom, Line, Why};
pub use compose::{ComposeError, Composed, Composer, Draft};
pub use header::Header;
#[doc(hidden)]
pub use known::generate;
pub use known::{FromPayload, GetError, Tag};
pub use message::{Message, MessageError, MessageOption};
pub use message_type::MessageType;
pub use steps::{Field, Part, Step, Steps};
pub use tags::*;

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

/// Options whose definitions require their receivers to join what was split (RFC 3396, section 4). Who asks for one of
/// them is known to do so.
pub const JOINING: [u8; 20] = [
    81,  // RFC 4702, section 2
    87,  // RFC 2241, section 4
    88,  // RFC 4280, section 4.1
    99,  // RFC 4776, section 1
    119, // RFC 3397, section 2
    120, // RFC 3361, section 3.1
    121, // RFC 3442
    122, // RFC 3495, section 4
    124, // RFC 3925, section 3
    125, // RFC 3925, section 4
    139, // RFC 5678, section 2
    140, // RFC 5678, section 3
    141, // RFC 6011, section 4.1
    143, // RFC 8572, section 8.1
    146, // RFC 6731, section 4.3
    148, // RFC 8973, section 5.2.2
    158, // RFC 7291, section 4.1
    162, // RFC 9463, section 5.1
    89,  // RFC 4280, section 4.3, which answers for 88
    220, // RFC 6656, section 3
];

/// Codes that have been met.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
struct Codes([u64; 4]);

impl Codes {
    /// Notes a code, and says whether it is new.
    #[inline]
    fn insert(&mut self, code: u8) -> bool {
        let (word, bit) = (usize::from(code >> 6), 1 << (code & 63));
        let new = self.0[word] & bit == 0;
        self.0[word] |= bit;
        new
    }

    #[inline]
    fn has(&self, code: u8) -> bool {
        self.0[usize::from(code >> 6)] & 1 << (code & 63) != 0
    }

    fn count(&self) -> usize {
        self.0.iter().map(|word| word.count_ones() as usize).sum()
    }
}
