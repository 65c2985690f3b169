//! A message of a protocol that is known only when the program runs.

use crate::prelude::*;
use core::fmt;

use super::{Element, Message, MessageError, MessageOption, ra, v4, v6};
use crate::family::Protocol;

/// A message of one of the protocols.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum AnyMessage<'o> {
    /// DHCPv4.
    V4(v4::Message<'o>),
    /// DHCPv6.
    V6(v6::Message<'o>),
    /// A router advertisement or solicitation.
    Ra(ra::Message<'o>),
}

/// The same expression for a message of whichever protocol.
macro_rules! each {
    ($any:expr, $message:ident => $work:expr) => {
        match $any {
            AnyMessage::V4($message) => $work,
            AnyMessage::V6($message) => $work,
            AnyMessage::Ra($message) => $work,
        }
    };
}

impl<'o> AnyMessage<'o> {
    /// Looks at octets as a message of this protocol.
    ///
    /// ```
    /// use oplex::family::Protocol;
    /// use oplex::packet::AnyMessage;
    ///
    /// // A Solicit with an empty Rapid Commit option.
    /// let octets = [1, 0, 0, 7, 0, 14, 0, 0];
    /// let message = AnyMessage::read(Protocol::V6, &octets)?;
    /// assert_eq!((message.type_number(), message.options()[0].code()), (Some(1), 14));
    /// assert!(AnyMessage::read(Protocol::V4, &octets).is_err(), "its header alone has 236 octets");
    /// # Ok::<(), oplex::packet::MessageError>(())
    /// ```
    ///
    /// # Errors
    /// As [`Message::read`].
    pub fn read(protocol: Protocol, octets: &'o [u8]) -> Result<Self, MessageError> {
        Ok(match protocol {
            Protocol::V4 => Self::V4(Message::read(octets)?),
            Protocol::V6 => Self::V6(Message::read(octets)?),
            Protocol::Ra => Self::Ra(Message::read(octets)?),
        })
    }

    /// The protocol whose message these octets plainly are: DHCPv4 by its magic cookie, the others by their type and by
    /// options that end where the octets do.
    ///
    /// ```
    /// use oplex::family::Protocol;
    /// use oplex::packet::AnyMessage;
    ///
    /// // A Solicit that says how long the client has tried.
    /// let octets = [1, 0, 0, 7, 0, 8, 0, 2, 0, 0];
    /// assert_eq!(AnyMessage::plainly(&octets), Some(Protocol::V6));
    /// assert_eq!(AnyMessage::plainly(&octets[..9]), None);
    /// ```
    #[must_use]
    pub fn plainly(octets: &[u8]) -> Option<Protocol> {
        let is_whole = |protocol: &Protocol| match AnyMessage::read(*protocol, octets) {
            Ok(AnyMessage::V4(message)) => message.has_cookie() && matches!(octets.first(), Some(1 | 2)),
            Ok(AnyMessage::V6(message)) => {
                let mut elements = message.elements().peekable();
                (1..=36).contains(&message.message_type().0)
                    && elements.peek().is_some()
                    && elements.all(|element| matches!(element, Element::Option { .. }))
            }
            Ok(AnyMessage::Ra(message)) => {
                message.code() == 0 && message.elements().all(|element| matches!(element, Element::Option { .. }))
            }
            Err(_) => false,
        };
        Protocol::ALL.into_iter().find(is_whole)
    }

    /// The protocol.
    ///
    /// ```
    /// use oplex::family::Protocol;
    /// use oplex::packet::AnyMessage;
    ///
    /// let renew = AnyMessage::read(Protocol::V6, &[5, 0, 0, 1])?;
    /// assert_eq!((renew.protocol(), renew.type_number()), (Protocol::V6, Some(5)));
    /// # Ok::<(), oplex::packet::MessageError>(())
    /// ```
    #[must_use]
    pub fn protocol(&self) -> Protocol {
        match self {
            Self::V4(_) => Protocol::V4,
            Self::V6(_) => Protocol::V6,
            Self::Ra(_) => Protocol::Ra,
        }
    }

    /// All octets of the message.
    #[must_use]
    pub fn octets(&self) -> &'o [u8] {
        each!(self, message => message.octets())
    }

    /// How many octets stood before it where it was read, and are counted with it.
    ///
    /// ```
    /// use oplex::family::Protocol;
    /// use oplex::packet::AnyMessage;
    ///
    /// // An option stands behind the type and the transaction, which have four octets.
    /// let renew = AnyMessage::read(Protocol::V6, &[5, 0, 0, 1, 0, 8, 0, 2, 0, 0])?;
    /// assert_eq!((renew.base(), renew.options()[0].at()), (0, 4));
    /// # Ok::<(), oplex::packet::MessageError>(())
    /// ```
    #[must_use]
    pub fn base(&self) -> usize {
        each!(self, message => message.base())
    }

    /// The options, in their order; one that was split is one option.
    ///
    /// ```
    /// use oplex::family::Protocol;
    /// use oplex::packet::AnyMessage;
    ///
    /// let renew = AnyMessage::read(Protocol::V6, &[5, 0, 0, 1, 0, 8, 0, 2, 0, 0, 0, 6, 0, 2, 0, 23])?;
    /// let codes: Vec<u16> = renew.options().iter().map(|option| option.code()).collect();
    /// assert_eq!(codes, [8, 6]);
    /// # Ok::<(), oplex::packet::MessageError>(())
    /// ```
    #[must_use]
    pub fn options(&self) -> Vec<MessageOption<'o>> {
        each!(self, message => message.options().collect())
    }

    /// Hands in each option, in their order, without a list of them.
    #[cfg(feature = "std")]
    #[inline]
    pub(crate) fn each_option(&self, mut hear: impl FnMut(&MessageOption<'o>)) {
        each!(self, message => message.options().for_each(|option| hear(&option)));
    }

    /// The number of its type, as the enumerations of the codebooks have it; `None` for BOOTP.
    #[must_use]
    pub fn type_number(&self) -> Option<u8> {
        match self {
            Self::V4(message) => message.message_type().map(|kind| kind.0),
            Self::V6(message) => Some(message.message_type().0),
            Self::Ra(message) => message.octets().first().copied(),
        }
    }

    /// The message inside it that a relay agent relays, and where that begins.
    ///
    /// ```
    /// use oplex::family::Protocol;
    /// use oplex::packet::AnyMessage;
    ///
    /// // Relay-forward, no hops, link and peer address, and in option 9 an Information-request.
    /// let octets = [&[12, 0][..], &[0; 32], &[0, 9, 0, 4, 11, 0, 0, 7]].concat();
    /// let message = AnyMessage::read(Protocol::V6, &octets)?;
    /// let (inner, at) = message.relayed().ok_or("it is relayed")?;
    /// assert_eq!((inner?.type_number(), at), (Some(11), 38));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn relayed(&self) -> Option<(Result<Self, MessageError>, usize)> {
        let Self::V6(message) = self else { return None };
        message.relayed().map(|(inner, at)| (inner.map(Self::V6), at))
    }
}

impl fmt::Display for AnyMessage<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        each!(self, message => message.fmt(f))
    }
}

impl<'o> From<v4::Message<'o>> for AnyMessage<'o> {
    fn from(message: v4::Message<'o>) -> Self {
        Self::V4(message)
    }
}

impl<'o> From<v6::Message<'o>> for AnyMessage<'o> {
    fn from(message: v6::Message<'o>) -> Self {
        Self::V6(message)
    }
}

impl<'o> From<ra::Message<'o>> for AnyMessage<'o> {
    fn from(message: ra::Message<'o>) -> Self {
        Self::Ra(message)
    }
}
