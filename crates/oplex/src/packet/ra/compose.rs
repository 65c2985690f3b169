//! Writing messages.

use std::fmt;

use super::{ADVERTISEMENT, Advertisement, Ends, SOLICITATION, UNIT, checksum};

/// What a message is to be made of.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Draft<'d> {
    /// What stands in front of the options.
    pub header: Header,
    /// Its options, in this order: type, and what stands after the length, padded.
    pub options: &'d [(u8, &'d [u8])],
}

/// What stands in front of the options.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Header {
    /// A solicitation's, which says nothing.
    Solicitation,
    /// An advertisement's.
    Advertisement(Advertisement),
}

/// Why a message cannot be written.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum ComposeError {
    /// An option with its type and length is no multiple of eight octets.
    NotPadded {
        /// Its type.
        code: u8,
        /// Its octets, type and length included.
        octets: usize,
    },
    /// An option has 2040 octets at most.
    OptionTooLong {
        /// Its type.
        code: u8,
        /// Its octets, type and length included.
        octets: usize,
    },
}

impl fmt::Display for ComposeError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::NotPadded { code, octets } => {
                write!(f, "option {code} has {octets} octets with its type and length, which is no multiple of 8")
            }
            Self::OptionTooLong { code, octets } => {
                write!(f, "option {code} has {octets} octets, and an option of an advertisement has 2040 at most")
            }
        }
    }
}

impl std::error::Error for ComposeError {}

/// Writes a message with its checksum at the end of `octets`, which allocates only when they have no room.
///
/// # Errors
/// An option that is too long or not padded; nothing is written then.
pub fn compose(draft: &Draft<'_>, ends: Ends, octets: &mut Vec<u8>) -> Result<(), ComposeError> {
    for (code, payload) in draft.options {
        let (code, length) = (*code, payload.len() + 2);
        if length > UNIT * usize::from(u8::MAX) {
            return Err(ComposeError::OptionTooLong { code, octets: length });
        }
        if length % UNIT != 0 {
            return Err(ComposeError::NotPadded { code, octets: length });
        }
    }
    let start = octets.len();
    octets.reserve(Advertisement::OCTETS + draft.options.iter().map(|(_, payload)| payload.len() + 2).sum::<usize>());
    match &draft.header {
        Header::Solicitation => octets.extend_from_slice(&[SOLICITATION, 0, 0, 0, 0, 0, 0, 0]),
        Header::Advertisement(said) => {
            octets.extend_from_slice(&[ADVERTISEMENT, 0, 0, 0]);
            octets.extend_from_slice(&said.octets());
        }
    }
    for (code, payload) in draft.options {
        octets.extend_from_slice(&[*code, ((payload.len() + 2) / UNIT) as u8]);
        octets.extend_from_slice(payload);
    }
    let sum = checksum(ends, &octets[start..]);
    octets[start + 2..start + 4].copy_from_slice(&sum.to_be_bytes());
    Ok(())
}
