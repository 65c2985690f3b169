//! Identity associations as messages have them (RFC 8415, sections 21.4 and 21.21).

use std::net::IpAddr;

use super::{Association, Leased};
use smallvec::SmallVec;

use crate::answer::associations::{ADDRESSES, PREFIXES};
use crate::family::Net;
use crate::packet::Message as _;
use crate::packet::v6::Message;

/// An identity association of a message.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct Asked {
    pub(crate) code: u16,
    pub(crate) iaid: u32,
    /// When its client is to renew, in seconds.
    pub(crate) t1: u32,
    /// When its client is to ask any server.
    pub(crate) t2: u32,
    /// What it holds first: what its client has or would like, or is leased.
    pub(crate) wants: Option<Leased>,
    /// For how long that is valid, in seconds.
    pub(crate) valid: u32,
    /// The status that a server gives it.
    pub(crate) status: Option<u16>,
}

impl Asked {
    pub(crate) fn association(&self) -> Association {
        if self.code == PREFIXES { Association::Prefixes(self.iaid) } else { Association::Addresses(self.iaid) }
    }
}

/// The codes of an address, a status and a prefix in associations.
const ADDRESS: usize = 5;
const STATUS: usize = 13;
const PREFIX: usize = 26;

/// The associations of a message: most have one or two.
pub(crate) type AllAsked = SmallVec<[Asked; 2]>;

/// The associations of a message: IAID, T1, T2, and options.
pub(crate) fn asked(message: Message<'_>) -> AllAsked {
    let mut all = AllAsked::new();
    for option in message.options().filter(|option| matches!(option.code(), ADDRESSES | PREFIXES)) {
        let head = option.octets().and_then(|octets| octets.split_first_chunk::<12>());
        let Some((head, mut rest)) = head else { continue };
        let number = |at: usize| u32::from_be_bytes([head[at], head[at + 1], head[at + 2], head[at + 3]]);
        let code = option.code();
        let (iaid, t1, t2) = (number(0), number(4), number(8));
        let mut one = Asked { code, iaid, t1, t2, wants: None, valid: 0, status: None };
        while let [a, b, c, d, more @ ..] = rest {
            let (code, length) = (usize::from(*a) << 8 | usize::from(*b), usize::from(*c) << 8 | usize::from(*d));
            let Some(inner) = more.get(..length) else { break };
            one.take(code, inner);
            rest = &more[length..];
        }
        all.push(one);
    }
    all
}

impl Asked {
    /// Reads an option of the association (RFC 8415, sections 21.6, 21.13 and 21.22).
    fn take(&mut self, code: usize, octets: &[u8]) {
        let number = |at: usize| Some(u32::from_be_bytes(octets.get(at..at + 4)?.try_into().ok()?));
        let held = match code {
            ADDRESS => leased_address(octets).zip(number(20)),
            PREFIX => leased_prefix(octets).zip(number(4)),
            STATUS => {
                self.status = octets.first_chunk().map(|octets| u16::from_be_bytes(*octets));
                None
            }
            _ => None,
        };
        if let (None, Some((leased, valid))) = (self.wants, held) {
            (self.wants, self.valid) = (Some(leased), valid);
        }
    }
}

fn leased_address(octets: &[u8]) -> Option<Leased> {
    Some(Leased::Address(IpAddr::from(<[u8; 16]>::try_from(octets.get(..16)?).ok()?)))
}

fn leased_prefix(octets: &[u8]) -> Option<Leased> {
    let address: [u8; 16] = octets.get(9..25)?.try_into().ok()?;
    Net::new(address.into(), octets[8]).map(|net| Leased::Prefix(net.trunc()))
}
