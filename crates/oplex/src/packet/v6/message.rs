//! Messages as they lie in memory.

use core::fmt;
use core::net::Ipv6Addr;

use super::{LARGEST, MessageType, RELAY_MESSAGE};
use crate::family::Protocol;
use crate::packet::{self, Elements, Framing, Message as _, MessageError, MessageOption};

/// A DHCPv6 message, looked at where it lies.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Message<'o> {
    octets: &'o [u8],
}

/// What a relay's header says (RFC 8415, section 9).
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Relay {
    /// How many relays have passed the message on before.
    pub hops: u8,
    /// An address on the client's link.
    pub link: Ipv6Addr,
    /// The address the message was received from, or is forwarded to.
    pub peer: Ipv6Addr,
}

/// How options of DHCPv6 are framed (RFC 8415, section 21.1).
#[derive(Debug, Clone, Copy)]
pub struct TwoOctets;

impl Framing for TwoOctets {
    const HEAD: usize = 4;
    const LEAST: usize = 4;

    #[inline]
    fn head(octets: &[u8]) -> (u16, usize) {
        let [a, b, c, d] = *octets else { return (0, 0) };
        (u16::from_be_bytes([a, b]), 4 + usize::from(u16::from_be_bytes([c, d])))
    }
}

impl<'o> Message<'o> {
    /// What it is for.
    #[must_use]
    pub fn message_type(&self) -> MessageType {
        MessageType(self.octets[0])
    }

    /// By what its sender knows the answer again; relays' messages have none, nor has DHCPv4 over DHCPv6.
    ///
    /// ```
    /// use oplex::packet::{Message as _, v6};
    ///
    /// let renew = v6::Message::read(&[5, 0, 0x64, 0x11])?;
    /// assert_eq!((renew.message_type(), renew.transaction()), (v6::MessageType::RENEW, Some(0x6411)));
    /// // The messages of relay agents have hops and addresses in its place.
    /// let mut relayed = vec![12, 0];
    /// relayed.extend([0; 32]);
    /// assert_eq!(v6::Message::read(&relayed)?.transaction(), None);
    /// # Ok::<(), oplex::packet::MessageError>(())
    /// ```
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
    pub fn elements(&self) -> Elements<'o, TwoOctets> {
        Elements::new(self.octets, self.message_type().header_octets())
    }

    /// The message that a relay relays (RFC 8415, section 21.10), and where it begins.
    #[must_use]
    pub fn relayed(&self) -> Option<(Result<Self, MessageError>, usize)> {
        let option = self.message_type().is_relays().then(|| self.option(RELAY_MESSAGE))??;
        Some((Self::read(option.octets()?), option.at() + option.head()))
    }

    /// The message that a client or server sent, however many relays passed it on; itself when none did. `None` when it
    /// is not there or cannot be read.
    ///
    /// ```
    /// use oplex::packet::v6::{Draft, Header, Message, MessageType, RELAY_MESSAGE, Relay};
    /// use oplex::packet::{Composer, Message as _};
    ///
    /// let relay = Relay { hops: 0, link: "2001:db8:64:40::1".parse()?, peer: "fe80::5eff:fe00:5311".parse()? };
    /// let solicit = [1, 0, 0, 7];
    /// let draft = Draft {
    ///     message_type: MessageType::RELAY_FORWARD,
    ///     header: Header::Relay(relay),
    ///     options: &[(RELAY_MESSAGE, &solicit)],
    /// };
    /// let mut composer = Composer::default();
    /// let message = Message::read(composer.compose(&draft)?)?;
    /// assert_eq!(message.relay().map(|relay| relay.hops), Some(0));
    /// // However many relay agents there were, this is what the client sent.
    /// assert_eq!(message.innermost().map(|inner| inner.message_type()), Some(MessageType::SOLICIT));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
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

impl<'o> packet::Message<'o> for Message<'o> {
    const PROTOCOL: Protocol = Protocol::V6;

    /// Looks at the payload of a UDP datagram.
    fn read(octets: &'o [u8]) -> Result<Self, MessageError> {
        let (protocol, have) = (Self::PROTOCOL, octets.len());
        let header = octets.first().map_or(4, |number| MessageType(*number).header_octets());
        if have < header {
            return Err(MessageError::TooShort { protocol, octets: have, header });
        }
        if have > LARGEST {
            return Err(MessageError::TooLong { protocol, octets: have, most: LARGEST });
        }
        Ok(Self { octets })
    }

    fn octets(&self) -> &'o [u8] {
        self.octets
    }

    #[inline]
    fn options(&self) -> impl Iterator<Item = MessageOption<'o>> {
        self.elements().options()
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
        packet::write_size(f, self.options().count(), self.octets.len())
    }
}
