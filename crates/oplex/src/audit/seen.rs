//! A message as it was captured, and what it is.

use std::borrow::Cow;
use std::fmt;
use std::net::{IpAddr, SocketAddr};
use std::sync::Arc;
use std::time::Duration;

use smallvec::SmallVec;

use crate::check::{self, traffic::CHECKSUM_WRONG, traffic::MESSAGE_UNREADABLE};
use crate::codebook::Codebook;
use crate::family::Protocol;
use crate::finding::Finding;
use crate::octets::{Duid, Mac};
use crate::packet::{AnyMessage, Message as _, MessageError, v4, v6};

/// A frame of a capture.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Default)]
pub struct Frame {
    /// Which of several files it is in, counted from 0.
    pub file: u32,
    /// Its number in that, counted from 1.
    pub number: u64,
}

/// `12`
impl fmt::Display for Frame {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.number.fmt(f)
    }
}

/// A message as it was captured.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct CapturedMessage {
    /// When, since the beginning of 1970 (UTC).
    pub at: Duration,
    /// Its frame; of a message in fragments that of the last one.
    pub frame: Frame,
    /// Which link of the capture it was seen on: messages of different interfaces or VLANs have different numbers.
    pub link: u32,
    /// Its protocol.
    pub protocol: Protocol,
    /// Where it comes from; the port is 0 for router advertisements and solicitations.
    pub source: SocketAddr,
    /// Where it goes.
    pub destination: SocketAddr,
    /// The hardware address of who sent the frame, where the link has such.
    pub hardware: Option<Mac>,
    /// Its octets, as far as they were captured. Those of router advertisements and solicitations begin with an IPv6 header.
    pub octets: Arc<[u8]>,
    /// How many octets were sent after these and not captured.
    pub missing: usize,
    /// Whether the checksum of its datagram is wrong.
    pub checksum_wrong: bool,
    /// The comments about its frame in the capture. It may be anything, also what a terminal would act on.
    pub comment: Option<Arc<str>>,
}

impl CapturedMessage {
    /// The message that its octets are.
    ///
    /// # Errors
    /// Octets that cannot be a message of the protocol.
    pub fn message(&self) -> Result<AnyMessage<'_>, MessageError> {
        AnyMessage::read(self.protocol, &self.octets)
    }

    /// What the rules find in the message alone, with the severities of a reader; no finding rests on octets that were not
    /// captured. Messages do not need each other for this, so it may be done on many threads.
    #[must_use]
    pub fn findings(&self, codebook: &Codebook) -> Vec<Finding> {
        let message = match self.message() {
            Ok(message) => message,
            Err(_) if self.missing > 0 => return Vec::new(),
            Err(error) => {
                return vec![MESSAGE_UNREADABLE.finding(error.to_string()).on(0..self.octets.len())];
            }
        };
        let mut found = match self.missing {
            0 => check::message(codebook, message),
            _ => of_whole_options(codebook, message),
        };
        if self.checksum_wrong && self.missing == 0 {
            found.push(CHECKSUM_WRONG.finding("the UDP checksum is wrong"));
        }
        found
    }
}

/// What is found in the options of a message whose end was not captured, as far as they were: the last one may go on.
fn of_whole_options(codebook: &Codebook, message: AnyMessage<'_>) -> Vec<Finding> {
    let mut options = message.options();
    options.pop();
    let mut found = Vec::new();
    for option in options.iter().filter(|option| !option.is_split()) {
        let Some(definition) = codebook.own(message.protocol(), option.code()) else { continue };
        let octets = option.joined();
        for finding in check::payload(codebook, definition, &octets) {
            let finding = finding.rebased(0..octets.len(), |within| option.rebased(&within));
            found.push(finding.further_on(message.base()));
        }
    }
    found
}

/// What clients and servers are known by: few octets, as a rule, which take no allocation.
pub(super) type Short = SmallVec<[u8; 24]>;

/// What is read of a message to put it beside others.
#[derive(Debug, Clone, Copy)]
pub(super) struct Read<'o> {
    /// As it was captured, with the messages of relay agents around it.
    pub(super) whole: AnyMessage<'o>,
    /// The client's or server's own message.
    pub(super) own: AnyMessage<'o>,
    /// The number of its type; 0 for BOOTP.
    pub(super) kind: u8,
    pub(super) from_client: bool,
    pub(super) transaction: u32,
    /// The relay agent that it goes through, where there is one.
    pub(super) relay: Option<IpAddr>,
}

impl<'o> Read<'o> {
    pub(super) fn of(whole: AnyMessage<'o>) -> Option<Self> {
        match whole {
            AnyMessage::V4(message) => {
                let header = message.header();
                let kind = message.message_type().map_or(0, |kind| kind.0);
                let relay = Some(header.giaddr).filter(|relay| !relay.is_unspecified()).map(IpAddr::V4);
                let from_client = header.op == 1;
                Some(Self { whole, own: whole, kind, from_client, transaction: header.xid, relay })
            }
            AnyMessage::V6(message) => {
                let own = message.innermost()?;
                let kind = own.message_type();
                let relay = message.relay().map(|relay| IpAddr::V6(relay.link));
                let from_client =
                    !matches!(kind, v6::MessageType::ADVERTISE | v6::MessageType::REPLY | v6::MessageType::RECONFIGURE);
                let transaction = own.transaction()?;
                Some(Self { whole, own: AnyMessage::V6(own), kind: kind.0, from_client, transaction, relay })
            }
            AnyMessage::Ra(_) => None,
        }
    }

    /// What the client is known by in messages of both directions: its hardware address with the type in front, or its DUID.
    pub(super) fn client(&self) -> Short {
        match self.own {
            AnyMessage::V4(message) => {
                let header = message.header();
                let mut client = Short::from_slice(&[header.htype]);
                client.extend_from_slice(header.hardware());
                client
            }
            AnyMessage::V6(message) => message.option(1).map_or_else(Short::new, |option| (&*option.joined()).into()),
            AnyMessage::Ra(_) => Short::new(),
        }
    }

    /// The machine that a client is: what it is known by, or the hardware address in its DUID with the type in front.
    pub(super) fn machine(&self, client: &[u8]) -> Short {
        let mac = (self.own.protocol() == Protocol::V6).then(|| Duid::mac_in(client)).flatten();
        mac.map_or_else(|| client.into(), |mac| [&[1], &mac[..]].into_iter().flatten().copied().collect())
    }

    /// The octets by which a server names itself.
    pub(super) fn server(&self) -> Option<Cow<'_, [u8]>> {
        let option = match self.own {
            AnyMessage::V4(message) => message.option(54),
            AnyMessage::V6(message) => message.option(2),
            AnyMessage::Ra(_) => None,
        };
        option.map(|option| option.joined())
    }

    /// The codes that a client requests.
    pub(super) fn requested(&self) -> Vec<u16> {
        match self.own {
            AnyMessage::V4(message) => {
                let list = message.option(55).map(|option| option.joined()).unwrap_or_default();
                list.iter().map(|code| u16::from(*code)).collect()
            }
            AnyMessage::V6(message) => {
                let list = message.option(6).map(|option| option.joined()).unwrap_or_default();
                list.chunks_exact(2).map(|code| u16::from_be_bytes([code[0], code[1]])).collect()
            }
            AnyMessage::Ra(_) => Vec::new(),
        }
    }

    /// Whether this is a reply to a request of that type.
    pub(super) fn replies_to(&self, asked: u8) -> bool {
        match self.own {
            AnyMessage::V4(_) => match v4::MessageType(self.kind) {
                v4::MessageType::OFFER => asked == v4::MessageType::DISCOVER.0,
                v4::MessageType::ACK => [1, 3, 8].contains(&asked),
                v4::MessageType::NAK => asked == v4::MessageType::REQUEST.0,
                _ => self.kind == 0 && asked == 0,
            },
            _ => match v6::MessageType(self.kind) {
                v6::MessageType::ADVERTISE => asked == v6::MessageType::SOLICIT.0,
                v6::MessageType::REPLY => true,
                _ => false,
            },
        }
    }

    /// Whether a client that sends this waits for a reply.
    pub(super) fn wants_reply(&self) -> bool {
        match self.own {
            AnyMessage::V4(_) => matches!(self.kind, 1 | 3 | 8),
            AnyMessage::V6(_) => matches!(self.kind, 1 | 3 | 4 | 5 | 6 | 8 | 9 | 11),
            AnyMessage::Ra(_) => false,
        }
    }
}

/// The number of what is no message.
pub(super) const UNREADABLE: u16 = 256;

/// What messages of a type are called: `DHCPOFFER`, `Reply`.
pub(super) fn name(protocol: Protocol, number: u16) -> Cow<'static, str> {
    let number = u8::try_from(number);
    let known = match (protocol, number) {
        (_, Err(_)) => Some("unreadable"),
        (Protocol::V4, Ok(0)) => Some("BOOTP"),
        (Protocol::V4, Ok(number)) => v4::MessageType(number).title(),
        (Protocol::V6, Ok(number)) => v6::MessageType(number).name(),
        (Protocol::Ra, Ok(134)) => Some("Router Advertisement"),
        (Protocol::Ra, _) => Some("Router Solicitation"),
    };
    match (known, number) {
        (Some(name), _) => Cow::Borrowed(name),
        (None, Ok(number)) if protocol == Protocol::V4 => Cow::Owned(v4::MessageType(number).to_string()),
        (None, number) => Cow::Owned(v6::MessageType(number.unwrap_or_default()).to_string()),
    }
}
