//! Writing messages.

use super::{ADVERTISEMENT, Advertisement, Ends, SOLICITATION, UNIT, checksum};
use crate::family::Protocol;
use crate::packet::{self, ComposeError, Composer};

/// What a message is to be made of.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Draft<'d> {
    /// What stands in front of the options.
    pub header: Header,
    /// Its source and destination, which its checksum covers.
    pub ends: Ends,
    /// Its options, in this order: type, and what stands after the length, padded.
    pub options: &'d [(u16, &'d [u8])],
}

/// What stands in front of the options.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Header {
    /// A solicitation's, which says nothing.
    Solicitation,
    /// An advertisement's.
    Advertisement(Advertisement),
}

impl packet::Draft for Draft<'_> {
    type Composed<'c> = &'c [u8];

    /// With the checksum that it should have between these ends.
    fn compose<'c>(&self, composer: &'c mut Composer) -> Result<&'c [u8], ComposeError> {
        let octets = composer.cleared();
        for (code, payload) in self.options {
            let (code, length) = (*code, payload.len() + 2);
            let most = UNIT * usize::from(u8::MAX) - 2;
            if payload.len() > most {
                let (protocol, octets) = (Protocol::Ra, payload.len());
                return Err(ComposeError::OptionTooLong { protocol, code, octets, most });
            }
            if code > u8::MAX.into() {
                return Err(ComposeError::CodeTooLarge { code });
            }
            if length % UNIT != 0 {
                return Err(ComposeError::NotPadded { code, octets: length });
            }
        }
        let start = octets.len();
        octets
            .reserve(Advertisement::OCTETS + self.options.iter().map(|(_, payload)| payload.len() + 2).sum::<usize>());
        match &self.header {
            Header::Solicitation => octets.extend_from_slice(&[SOLICITATION, 0, 0, 0, 0, 0, 0, 0]),
            Header::Advertisement(said) => {
                octets.extend_from_slice(&[ADVERTISEMENT, 0, 0, 0]);
                octets.extend_from_slice(&said.octets());
            }
        }
        for (code, payload) in self.options {
            octets.extend_from_slice(&[*code as u8, ((payload.len() + 2) / UNIT) as u8]);
            octets.extend_from_slice(payload);
        }
        let sum = checksum(self.ends, &octets[start..]);
        octets[start + 2..start + 4].copy_from_slice(&sum.to_be_bytes());
        Ok(octets)
    }
}
