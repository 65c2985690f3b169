//! Writing messages: what all protocols have in common.

use crate::prelude::*;
use core::fmt;

use super::v4::Field;
use crate::family::Protocol;

/// What a message is to be made of: a header and options, by code and payload.
pub trait Draft {
    /// What comes of it.
    type Composed<'c>;

    /// Writes the message with the buffers of a composer.
    ///
    /// # Errors
    /// A draft that no message can be made of.
    fn compose<'c>(&self, composer: &'c mut Composer) -> Result<Self::Composed<'c>, ComposeError>;
}

/// Writes messages. It keeps its buffers, so that only the first message costs an allocation.
#[derive(Debug, Default)]
pub struct Composer {
    pub(super) octets: Vec<u8>,
    pub(super) packing: super::v4::Packing,
}

impl Composer {
    /// Writes a message.
    ///
    /// ```
    /// use oplex::packet::v6::{Draft, Header, MessageType};
    /// use oplex::packet::Composer;
    ///
    /// let mut composer = Composer::default();
    /// let header = Header::Transaction(7);
    /// let draft = Draft { message_type: MessageType::RENEW, header, options: &[(8, &[0, 0])] };
    /// assert_eq!(composer.compose(&draft)?, [5, 0, 0, 7, 0, 8, 0, 2, 0, 0]);
    /// # Ok::<(), oplex::packet::ComposeError>(())
    /// ```
    ///
    /// # Errors
    /// A draft that no message can be made of.
    pub fn compose<D: Draft>(&mut self, draft: &D) -> Result<D::Composed<'_>, ComposeError> {
        draft.compose(self)
    }

    /// Where a message of nothing but octets is written.
    pub(super) fn cleared(&mut self) -> &mut Vec<u8> {
        self.octets.clear();
        &mut self.octets
    }
}

/// Why no message can be made of a draft.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[non_exhaustive]
pub enum ComposeError {
    /// The composer sets this option itself, or it is none.
    Automatic {
        /// Its code: 0, 52, 53 or 255 of DHCPv4.
        code: u16,
    },
    /// Two payloads for one option that stands once.
    Repeated {
        /// Its code.
        code: u16,
    },
    /// No option of the protocol holds so much.
    OptionTooLong {
        /// The protocol.
        protocol: Protocol,
        /// Its code.
        code: u16,
        /// Its octets.
        octets: usize,
        /// How many it may have.
        most: usize,
    },
    /// The message would be longer than a datagram.
    MessageTooLong {
        /// Its octets.
        octets: usize,
        /// How many a datagram holds.
        most: usize,
    },
    /// An option of an advertisement with its type and length is no multiple of eight octets.
    NotPadded {
        /// Its type.
        code: u16,
        /// Its octets, type and length included.
        octets: usize,
    },
    /// The header is not the one that messages of this type have.
    WrongHeader(super::v6::MessageType),
    /// The text for a header field is too long, or has a NUL in it.
    NotText {
        /// The field.
        field: Field,
        /// The most octets it may have.
        most: usize,
    },
    /// The code does not fit in the protocol's options.
    CodeTooLarge {
        /// The code.
        code: u16,
    },
}

impl fmt::Display for ComposeError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Automatic { code: 53 } => f.write_str("option 53 follows from the type of the message"),
            Self::Automatic { code: 52 } => f.write_str("option 52 follows from where the options find room"),
            Self::Automatic { code } => write!(f, "{code} is no option, but what stands between and after options"),
            Self::Repeated { code } => write!(f, "option {code} is given twice; what belongs together is one payload"),
            Self::OptionTooLong { protocol, code, octets, most } => {
                write!(f, "option {code} has {octets} octets, and an option of {protocol} holds {most}")
            }
            Self::MessageTooLong { octets, most } => {
                write!(f, "the message has {octets} octets, and a datagram holds {most}")
            }
            Self::NotPadded { code, octets } => {
                write!(f, "option {code} has {octets} octets with its type and length, which is no multiple of 8")
            }
            Self::WrongHeader(kind) if kind.is_relays() => write!(f, "a {kind} has a relay's header"),
            Self::WrongHeader(kind) => write!(f, "a {kind} has no relay's header"),
            Self::NotText { field, most } => {
                write!(f, "`{}` takes {most} octets without a NUL (RFC 2131, section 2)", field.name())
            }
            Self::CodeTooLarge { code } => write!(f, "option {code}: a code of this protocol has one octet, 0 to 255"),
        }
    }
}

impl core::error::Error for ComposeError {}
