//! Messages as they lie in memory.

use std::fmt;
use std::net::Ipv6Addr;

use super::{LARGEST, MessageType, RELAY_MESSAGE};

/// A DHCPv6 message, looked at where it lies.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Message<'o> {
    octets: &'o [u8],
}

/// Why octets are no DHCPv6 message.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum MessageError {
    /// There are fewer than its header has.
    TooShort {
        /// How many there are.
        octets: usize,
        /// How many the header of its type has.
        header: usize,
    },
    /// There are more than a datagram holds.
    TooLong {
        /// How many there are.
        octets: usize,
    },
}

impl fmt::Display for MessageError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::TooShort { octets, header } => write!(
                f,
                "these {octets} octets are no DHCPv6 message: its header alone has {header} (RFC 8415, sections 8 and 9)"
            ),
            Self::TooLong { octets } => {
                write!(f, "these {octets} octets are no DHCPv6 message: a datagram has {LARGEST} at most")
            }
        }
    }
}

impl std::error::Error for MessageError {}

/// What a relay's header says (RFC 8415, section 9).
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Relay {
    /// How many relays have passed the message on before.
    pub hops: u8,
    /// An address on the client's link.
    pub link: Ipv6Addr,
    /// Whom the relay had the message from, or passes it on to.
    pub peer: Ipv6Addr,
}

/// One option, where it lies.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct MessageOption<'o> {
    /// Its code.
    pub code: u16,
    /// Its payload.
    pub octets: &'o [u8],
    /// Where its code begins, counted from the start of the message.
    pub at: usize,
}

/// One step through the options.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Step<'o> {
    /// An option.
    Option(MessageOption<'o>),
    /// Octets that are no whole option; nothing comes after them.
    Cut {
        /// Where they begin.
        at: usize,
        /// How many there are.
        octets: usize,
        /// How many the option would have, its head of 4 included.
        needed: usize,
    },
}

/// Goes through options that stand one after the other.
#[derive(Debug, Clone)]
pub struct Steps<'o> {
    rest: &'o [u8],
    at: usize,
}

impl<'o> Iterator for Steps<'o> {
    type Item = Step<'o>;

    #[inline]
    fn next(&mut self) -> Option<Step<'o>> {
        let (at, rest) = (self.at, self.rest);
        let needed = match rest {
            [] => return None,
            [a, b, c, d, after @ ..] => {
                let length = usize::from(u16::from_be_bytes([*c, *d]));
                if let Some((octets, rest)) = after.split_at_checked(length) {
                    (self.rest, self.at) = (rest, at + 4 + length);
                    let code = u16::from_be_bytes([*a, *b]);
                    return Some(Step::Option(MessageOption { code, octets, at }));
                }
                4 + length
            }
            _ => 4,
        };
        self.rest = &[];
        Some(Step::Cut { at, octets: rest.len(), needed })
    }
}

impl<'o> Message<'o> {
    /// Looks at octets as a message: the payload of a UDP datagram.
    ///
    /// # Errors
    /// Fewer octets than the header of its type has, or more than a datagram holds.
    pub fn read(octets: &'o [u8]) -> Result<Self, MessageError> {
        let header = octets.first().map_or(4, |number| MessageType(*number).header_octets());
        match octets.len() {
            length if length < header => Err(MessageError::TooShort { octets: length, header }),
            length if length > LARGEST => Err(MessageError::TooLong { octets: length }),
            _ => Ok(Self { octets }),
        }
    }

    /// All its octets.
    #[must_use]
    pub fn octets(&self) -> &'o [u8] {
        self.octets
    }

    /// What it is for.
    #[must_use]
    pub fn message_type(&self) -> MessageType {
        MessageType(self.octets[0])
    }

    /// By what its sender knows the answer again; relays' messages have none, nor has DHCPv4 over DHCPv6.
    #[must_use]
    pub fn transaction(&self) -> Option<u32> {
        let kind = self.message_type();
        let has_none = kind.is_relays() || matches!(kind, MessageType::DHCPV4_QUERY | MessageType::DHCPV4_RESPONSE);
        (!has_none).then(|| u32::from_be_bytes([0, self.octets[1], self.octets[2], self.octets[3]]))
    }

    /// What a relay's header says.
    #[must_use]
    pub fn relay(&self) -> Option<Relay> {
        let address = |at: usize| <[u8; 16]>::try_from(self.octets.get(at..at + 16)?).ok().map(Ipv6Addr::from);
        if !self.message_type().is_relays() {
            return None;
        }
        Some(Relay { hops: self.octets[1], link: address(2)?, peer: address(18)? })
    }

    /// The options as they stand, and what is left over when they do not end where the message does.
    #[must_use]
    pub fn steps(&self) -> Steps<'o> {
        let at = self.message_type().header_octets();
        Steps { rest: &self.octets[at..], at }
    }

    /// The options, in their order.
    pub fn options(&self) -> impl Iterator<Item = MessageOption<'o>> + use<'o> {
        self.steps().filter_map(|step| match step {
            Step::Option(option) => Some(option),
            Step::Cut { .. } => None,
        })
    }

    /// The first option of this code.
    #[must_use]
    pub fn option(&self, code: u16) -> Option<MessageOption<'o>> {
        self.options().find(|option| option.code == code)
    }

    /// The message that a relay passes on (RFC 8415, section 21.10), and where it begins.
    #[must_use]
    pub fn relayed(&self) -> Option<(Result<Self, MessageError>, usize)> {
        let option = self.option(RELAY_MESSAGE).filter(|_| self.message_type().is_relays())?;
        Some((Self::read(option.octets), option.at + 4))
    }

    /// The message that a client or server sent, however many relays passed it on; itself when none did. `None` when it
    /// is not there or cannot be read.
    #[must_use]
    pub fn innermost(&self) -> Option<Self> {
        let mut message = *self;
        // Every relay takes 38 octets, so that this ends.
        while message.message_type().is_relays() {
            message = message.relayed()?.0.ok()?;
        }
        Some(message)
    }
}

/// `Solicit 0x006411, 4 options, 54 octets`
impl fmt::Display for Message<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.message_type().fmt(f)?;
        if let Some(transaction) = self.transaction() {
            write!(f, " {transaction:#08x}")?;
        }
        if let Some(inner) = self.innermost().filter(|_| self.message_type().is_relays()) {
            write!(f, " of {}", inner.message_type())?;
        }
        let count = self.options().count();
        write!(f, ", {count} option{}, {} octets", if count == 1 { "" } else { "s" }, self.octets.len())
    }
}
