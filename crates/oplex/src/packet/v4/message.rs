//! A message, looked at where it lies.

use core::fmt;
use core::net::Ipv4Addr;

use super::codes::Codes;
use super::elements::{BEGIN, Elements, Field, Part, next_plain};
use super::options::Options;
use super::{COOKIE, HEADER, Header, LARGEST, MessageType};
use crate::family::Protocol;
use crate::octets::hex;
use crate::packet::{self, Message as _, MessageError, MessageOption};

/// A message, looked at where it lies. Reading one copies nothing, allocates nothing, and takes time in proportion to
/// its length.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Message<'o> {
    octets: &'o [u8],
    has_cookie: bool,
    /// Whether each option is one part in the options field, with no pads between.
    is_plain: bool,
    /// Whether an option stands in it in several parts.
    is_split: bool,
    /// Codes that stand in it.
    codes: Codes,
}

impl<'o> Message<'o> {
    /// The header, without `sname` and `file`.
    #[must_use]
    pub fn header(&self) -> Header {
        let header: &[u8; HEADER] = self.octets.first_chunk().unwrap_or_else(|| unreachable!("read() saw to it"));
        Header::read(header)
    }

    /// The header field `sname`: a server's name and zeros, or options.
    #[must_use]
    pub fn sname(&self) -> &'o [u8] {
        &self.octets[Field::Sname.range(0)]
    }

    /// The header field `file`: a boot file's name and zeros, or options.
    #[must_use]
    pub fn file(&self) -> &'o [u8] {
        &self.octets[Field::File.range(0)]
    }

    /// Whether the options begin with the magic cookie. Without it there are none, and the message is one of BOOTP
    /// before RFC 1497.
    ///
    /// ```
    /// use oplex::packet::v4::{Draft, Message, MessageType};
    /// use oplex::packet::{Composer, Message as _};
    ///
    /// let mut composer = Composer::default();
    /// let octets = composer.compose(&Draft::new(MessageType::DISCOVER))?.octets;
    /// assert!(Message::read(octets)?.has_cookie());
    /// // Without the cookie it is of BOOTP, and what follows the header is the vendor's own.
    /// let mut bootp = octets.to_vec();
    /// bootp[236..240].fill(0);
    /// let message = Message::read(&bootp)?;
    /// assert!(!message.has_cookie() && message.message_type().is_none());
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn has_cookie(&self) -> bool {
        self.has_cookie
    }

    /// Everything in the fields that hold options, in the order in which they are read.
    ///
    /// ```
    /// use oplex::packet::v4::{Draft, Message, MessageType, Element};
    /// use oplex::packet::{Composer, Message as _};
    ///
    /// let mut composer = Composer::default();
    /// let octets = composer.compose(&Draft { options: &[(12, b"dome-3")], ..Draft::new(MessageType::DISCOVER) })?.octets;
    /// let elements: Vec<Element<'_>> = Message::read(octets)?.elements().collect();
    /// // The message type, the host name, and the end of the field with the pads behind it.
    /// assert!(matches!(elements[..], [Element::Part(_), Element::Part(_), Element::End { .. }]));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn elements(&self) -> Elements<'o> {
        Elements::new(if self.has_cookie { self.octets } else { &[] })
    }

    /// The options field behind the cookie; nothing where there is none.
    #[inline]
    fn field(&self) -> &'o [u8] {
        self.octets.get(BEGIN..).filter(|_| self.has_cookie).unwrap_or_default()
    }

    /// The options as they stand, parts of long ones each for itself.
    pub fn parts(&self) -> impl Iterator<Item = Part<'o>> + use<'o> {
        let mut elements = self.elements();
        core::iter::from_fn(move || elements.next_part())
    }

    /// How many options it has; one that was split counts once.
    #[must_use]
    pub fn count(&self) -> usize {
        self.codes.count()
    }

    /// What the message is; `None` for one of BOOTP, and when option 53 is not one octet.
    ///
    /// ```
    /// use oplex::packet::v4::{Draft, Message, MessageType};
    /// use oplex::packet::{Composer, Message as _};
    ///
    /// let mut composer = Composer::default();
    /// let message = Message::read(composer.compose(&Draft::new(MessageType::INFORM))?.octets)?;
    /// assert_eq!(message.message_type(), Some(MessageType::INFORM));
    /// assert_eq!((message.overload(), message.count()), (0, 1));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn message_type(&self) -> Option<MessageType> {
        match self.option(53)?.octets()? {
            [number] => Some(MessageType(*number)),
            _ => None,
        }
    }

    /// Option 52, as its bits: 1 for options in `file`, 2 for options in `sname`; 0 when it is not there or is neither.
    #[must_use]
    pub fn overload(&self) -> u8 {
        let option = self.parts().find(|part| part.code == 52 && part.field == Field::Options);
        match option.map(|part| part.octets) {
            Some([bits @ 1..=3]) => *bits,
            _ => 0,
        }
    }
}

impl<'o> packet::Message<'o> for Message<'o> {
    const PROTOCOL: Protocol = Protocol::V4;

    /// Looks at the payload of a UDP datagram.
    fn read(octets: &'o [u8]) -> Result<Self, MessageError> {
        let (protocol, have) = (Self::PROTOCOL, octets.len());
        if have < HEADER {
            return Err(MessageError::TooShort { protocol, octets: have, header: HEADER });
        }
        if have > LARGEST {
            return Err(MessageError::TooLong { protocol, octets: have, most: LARGEST });
        }
        let has_cookie = octets[HEADER..].starts_with(&COOKIE);
        let mut message = Self { octets, has_cookie, is_plain: true, is_split: false, codes: Codes::default() };
        let mut rest = message.field();
        let (codes, stand_once) = Codes::of(core::iter::from_fn(|| Some(next_plain(&mut rest)?.0)));
        (message.codes, message.is_plain) = (codes, stand_once && !codes.has(52) && rest.first() != Some(&0));
        if !message.is_plain {
            let repeated;
            (message.codes, repeated) = Codes::of_all(message.elements());
            message.is_split = !repeated.is_empty();
        }
        Ok(message)
    }

    fn octets(&self) -> &'o [u8] {
        self.octets
    }

    /// What was split is one option, in the place of its first part (RFC 3396, section 7).
    #[inline]
    fn options(&self) -> impl Iterator<Item = MessageOption<'o>> {
        if self.is_plain {
            return Options::Plain(self.field(), self.octets.len());
        }
        Options::split(self.elements(), self.is_split)
    }

    fn option(&self, code: u16) -> Option<MessageOption<'o>> {
        self.has(code).then(|| self.options().find(|option| option.code() == code)).flatten()
    }

    fn has(&self, code: u16) -> bool {
        u8::try_from(code).is_ok_and(|code| self.codes.has(code))
    }
}

/// One line: type, address, client and size.
impl fmt::Display for Message<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let header = self.header();
        match self.message_type() {
            Some(message_type) => write!(f, "{message_type}")?,
            None if self.has(53) => f.write_str("DHCP message without a type")?,
            None => f.write_str(if header.op == 2 { "BOOTP reply" } else { "BOOTP request" })?,
        }
        let address = [header.yiaddr, header.ciaddr].into_iter().find(|address| *address != Ipv4Addr::UNSPECIFIED);
        if let Some(address) = address {
            write!(f, " {address}")?;
        }
        let hardware = header.hardware();
        if !hardware.is_empty() {
            write!(f, ", client {}", hex::colon(hardware))?;
        }
        packet::write_size(f, self.count(), self.octets.len())
    }
}
