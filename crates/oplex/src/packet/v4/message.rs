//! A message, looked at where it lies.

use std::borrow::Cow;
use std::fmt;
use std::net::Ipv4Addr;

use super::steps::{Field, Part, Steps};
use super::{COOKIE, Codes, FromPayload, GetError, HEADER, Header, LARGEST, MessageType, Tag};
use crate::codebook::Codebook;
use crate::octets::hex;

/// A message, looked at where it lies. Reading one copies nothing, allocates nothing, and takes time in proportion to
/// its length.
#[derive(Debug, Clone, Copy)]
pub struct Message<'o> {
    octets: &'o [u8],
    has_cookie: bool,
    /// Codes that stand in it.
    codes: Codes,
    /// Codes that stand in it more than once.
    repeated: Codes,
}

/// Why octets are no message.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[non_exhaustive]
pub enum MessageError {
    /// The header alone has more octets.
    TooShort {
        /// How many there are.
        have: usize,
    },
    /// No datagram holds so many.
    TooLong {
        /// How many there are.
        have: usize,
    },
}

impl fmt::Display for MessageError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::TooShort { have } => {
                write!(f, "{have} octets are no DHCPv4 message: its header alone has {HEADER} (RFC 2131, section 2)")
            }
            Self::TooLong { have } => write!(f, "{have} octets are more than a datagram holds ({LARGEST})"),
        }
    }
}

impl std::error::Error for MessageError {}

impl<'o> Message<'o> {
    /// Looks at a message: the payload of a UDP datagram. What is wrong inside does not keep the rest from being read.
    ///
    /// # Errors
    /// Fewer octets than the header has, or more than a datagram holds.
    pub fn read(octets: &'o [u8]) -> Result<Self, MessageError> {
        let have = octets.len();
        if have < HEADER {
            return Err(MessageError::TooShort { have });
        }
        if have > LARGEST {
            return Err(MessageError::TooLong { have });
        }
        let has_cookie = octets[HEADER..].starts_with(&COOKIE);
        let (mut codes, mut repeated) = (Codes::default(), Codes::default());
        let mut steps = Steps::new(if has_cookie { octets } else { &[] });
        while let Some(part) = steps.next_part() {
            if !codes.insert(part.code) {
                repeated.insert(part.code);
            }
        }
        Ok(Self { octets, has_cookie, codes, repeated })
    }

    /// All its octets.
    #[must_use]
    pub fn octets(&self) -> &'o [u8] {
        self.octets
    }

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
    #[must_use]
    pub fn has_cookie(&self) -> bool {
        self.has_cookie
    }

    /// Everything in the fields that hold options, in the order in which they are read.
    #[must_use]
    pub fn steps(&self) -> Steps<'o> {
        Steps::new(if self.has_cookie { self.octets } else { &[] })
    }

    /// The options as they stand, parts of long ones each for itself.
    pub fn parts(&self) -> impl Iterator<Item = Part<'o>> + use<'o> {
        let mut steps = self.steps();
        std::iter::from_fn(move || steps.next_part())
    }

    /// The options as they are meant: what was split is one option, in the place of its first part (RFC 3396,
    /// section 7).
    pub fn options(&self) -> impl Iterator<Item = MessageOption<'o>> + use<'o> {
        let (mut steps, mut seen, repeated) = (self.steps(), Codes::default(), self.repeated);
        let none_repeated = repeated == Codes::default();
        std::iter::from_fn(move || {
            loop {
                let first = steps.next_part()?;
                if none_repeated || !repeated.has(first.code) {
                    return Some(MessageOption { first, rest: None });
                }
                if seen.insert(first.code) {
                    return Some(MessageOption { first, rest: Some(steps) });
                }
            }
        })
    }

    /// The option of this code.
    #[must_use]
    pub fn option(&self, code: u8) -> Option<MessageOption<'o>> {
        self.has(code).then(|| self.options().find(|option| option.first.code == code)).flatten()
    }

    /// Whether an option of this code stands in it.
    #[must_use]
    pub fn has(&self, code: u8) -> bool {
        self.codes.has(code)
    }

    /// How many options it has; one that was split counts once.
    #[must_use]
    pub fn count(&self) -> usize {
        self.codes.count()
    }

    /// An option as a Rust type, with everything about it checked.
    ///
    /// # Errors
    /// Octets that do not fit the option's layout, with the octet of the message that is wrong.
    pub fn get<T: FromPayload>(&self, tag: Tag<T>) -> Result<Option<T>, GetError> {
        let Some(option) = self.option(tag.code()) else { return Ok(None) };
        let codebook = Codebook::standard();
        let Some(definition) = codebook.v4(tag.code().into()) else { return Ok(None) };
        let octets = option.joined();
        T::from_payload(codebook, definition, &octets).map(Some).map_err(|error| GetError::new(&option, error))
    }

    /// What the message is; `None` for one of BOOTP, and when option 53 is not one octet.
    #[must_use]
    pub fn message_type(&self) -> Option<MessageType> {
        let option = self.option(53)?;
        match (option.first.octets, option.is_split()) {
            ([number], false) => Some(MessageType(*number)),
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

/// An option as it is meant: whole, however many parts it came in.
#[derive(Debug, Clone, Copy)]
pub struct MessageOption<'o> {
    first: Part<'o>,
    /// What follows the first part, when there may be more.
    rest: Option<Steps<'o>>,
}

impl<'o> MessageOption<'o> {
    /// Its code.
    #[must_use]
    pub fn code(&self) -> u8 {
        self.first.code
    }

    /// Its first part, which is all of it unless it was split.
    #[must_use]
    pub fn first(&self) -> Part<'o> {
        self.first
    }

    /// Whether it came in more parts than one.
    #[must_use]
    pub fn is_split(&self) -> bool {
        self.rest.is_some()
    }

    /// Its octets where they lie, unless it was split.
    #[must_use]
    pub fn octets(&self) -> Option<&'o [u8]> {
        (!self.is_split()).then_some(self.first.octets)
    }

    /// Its parts, in the order in which they are joined.
    pub fn parts(&self) -> impl Iterator<Item = Part<'o>> + use<'o> {
        let (code, mut rest) = (self.first.code, self.rest);
        let more = std::iter::from_fn(move || rest.as_mut().and_then(Steps::next_part));
        std::iter::once(self.first).chain(more.filter(move |part| part.code == code))
    }

    /// How many octets it has in all.
    #[must_use]
    pub fn length(&self) -> usize {
        self.octets().map_or_else(|| self.parts().map(|part| part.octets.len()).sum(), <[u8]>::len)
    }

    /// Its octets, joined if it was split.
    #[must_use]
    pub fn joined(&self) -> Cow<'o, [u8]> {
        match self.octets() {
            Some(octets) => Cow::Borrowed(octets),
            None => Cow::Owned(self.parts().flat_map(|part| part.octets).copied().collect()),
        }
    }

    /// Its octets, joined in `buffer` if it was split: for who reads many messages and keeps one buffer.
    #[inline]
    pub fn joined_in<'b>(&self, buffer: &'b mut Vec<u8>) -> &'b [u8]
    where
        'o: 'b,
    {
        if let Some(octets) = self.octets() {
            return octets;
        }
        self.join_in(buffer);
        buffer
    }

    #[cold]
    fn join_in(&self, buffer: &mut Vec<u8>) {
        buffer.clear();
        self.parts().for_each(|part| buffer.extend_from_slice(part.octets));
    }

    /// Where in the message one of its octets stands; for an octet after the last, where it ends.
    #[must_use]
    pub fn place(&self, octet: usize) -> usize {
        let (mut left, mut end) = (octet, 0);
        for part in self.parts() {
            if left < part.octets.len() {
                return part.at + 2 + left;
            }
            left -= part.octets.len();
            end = part.at + 2 + part.octets.len();
        }
        end
    }
}

/// One line: what it is, for whom, and how large.
impl fmt::Display for Message<'_> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let header = self.header();
        match self.message_type() {
            Some(message_type) => write!(f, "{message_type}")?,
            None if self.has(53) => f.write_str("DHCP message of no type")?,
            None => f.write_str(if header.op == 2 { "BOOTP reply" } else { "BOOTP request" })?,
        }
        let hardware = header.hardware();
        if !hardware.is_empty() {
            write!(f, " {} {}", if header.op == 2 { "to" } else { "from" }, hex::colon(hardware))?;
        }
        let address = [header.yiaddr, header.ciaddr].into_iter().find(|address| *address != Ipv4Addr::UNSPECIFIED);
        if let Some(address) = address {
            write!(f, ": {address}")?;
        }
        let count = self.count();
        write!(f, ", {count} option{}, {} octets", if count == 1 { "" } else { "s" }, self.octets.len())
    }
}
