//! What a client sends by DHCPv6.

use super::client::{architectures, numbers, spelled};
use super::{ClientFacts, ClientKey, Fact};
use crate::codebook::{Codebook, Definition};
use crate::layout::Value;
use crate::octets::hex;

/// By which protocol.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Family {
    /// DHCPv4.
    V4,
    /// DHCPv6.
    V6,
}

/// Whose number stands in front of a vendor class or a remote identifier when nobody says: that of examples (RFC 5612).
const ENTERPRISE: u32 = 32_473;

/// Ethernet, as hardware types have it.
const ETHERNET: [u8; 2] = [0, 1];

impl ClientFacts {
    pub(super) fn send_v6(&mut self, code: u16, octets: Vec<u8>) {
        self.sends_v6.retain(|(sent, _)| *sent != code);
        self.sends_v6.push((code, octets));
    }

    /// RFC 8415, section 21.16: an enterprise number, and each class with its length in front.
    pub(super) fn send_vendor_class_v6(&mut self, text: &str) -> Result<(), String> {
        let length = u16::try_from(text.len()).map_err(|_| "a vendor class has 65,535 octets at most".to_owned())?;
        self.send_v6(16, [&ENTERPRISE.to_be_bytes()[..], &length.to_be_bytes(), text.as_bytes()].concat());
        Ok(())
    }

    /// RFC 4649, section 3: an enterprise number and the identifier.
    pub(super) fn send_remote_id_v6(&mut self, identifier: &[u8]) {
        self.send_v6(37, [&ENTERPRISE.to_be_bytes()[..], identifier].concat());
    }

    /// RFC 4704, section 4: flags and a name, where the text is one.
    pub(super) fn send_hostname_v6(&mut self, codebook: &Codebook, text: &str) {
        let Some(definition) = codebook.v6(39) else { return };
        let (flags, name) = (Value::Flags(0, Vec::new()), Value::Name(text.to_owned()));
        let value = Value::Record(vec![("flags".into(), flags), ("name".into(), name)]);
        if let Ok(octets) = codebook.encode_value(definition, &value) {
            self.send_v6(39, octets);
        }
    }

    /// The octets of an option of DHCPv6 that it sends.
    #[must_use]
    pub fn sent_v6(&self, code: u16) -> Option<&[u8]> {
        self.sends_v6.iter().find(|(sent, _)| *sent == code).map(|(_, octets)| octets.as_slice())
    }

    /// Its DUID: the one it has, or the one that follows from its hardware address (RFC 8415, section 11.4).
    #[must_use]
    pub fn own_duid(&self) -> Option<Vec<u8>> {
        self.duid.clone().or_else(|| Some([&[0, 3], &ETHERNET, &self.mac?[..]].concat()))
    }

    /// Its hardware address: the one that is known, or the one that its DUID is made of (RFC 8415, sections 11.2 and
    /// 11.4).
    #[must_use]
    pub fn own_mac(&self) -> Option<[u8; 6]> {
        let of_duid = |duid: &[u8]| match duid {
            [0, 1, 0, 1, _, _, _, _, mac @ ..] | [0, 3, 0, 1, mac @ ..] => mac.try_into().ok(),
            _ => None,
        };
        self.mac.or_else(|| of_duid(self.duid.as_deref()?))
    }

    /// How a server of DHCPv6 may know it: by its DUID, or by its hardware address where the plan knows no other.
    pub fn keys_v6(&self) -> impl Iterator<Item = ClientKey> {
        let duid = self.own_duid().map(|duid| ClientKey::Duid(duid.into()));
        duid.into_iter().chain(self.own_mac().map(ClientKey::Mac))
    }

    pub(super) fn texts_v6(&self, codebook: &Codebook, fact: &Fact) -> Vec<String> {
        let decoded = |code: u16| codebook.decode(codebook.v6(code)?, self.sent_v6(code)?).0;
        // The enterprise number in front is another fact.
        let parts = |code: u16| decoded(code).map(|value| parts_of(&value, false)).unwrap_or_default();
        match fact {
            Fact::Mac => self.own_mac().iter().map(|mac| hex::colon(mac)).collect(),
            Fact::Duid => self.own_duid().iter().map(|duid| hex::colon(duid)).collect(),
            Fact::VendorClass => parts(16),
            Fact::Enterprise => decoded(16).map(|value| numbers(&value)).unwrap_or_default(),
            Fact::UserClass => parts(15),
            Fact::Architecture => self.sent_v6(61).map(|octets| architectures(codebook, octets)).unwrap_or_default(),
            Fact::Hostname => match decoded(39) {
                Some(Value::Record(fields)) => {
                    fields.iter().filter(|(name, _)| **name == *"name").map(|(_, name)| name.to_string()).collect()
                }
                _ => Vec::new(),
            },
            Fact::ClientId => Vec::new(),
            Fact::CircuitId => self.sent_v6(18).map(spelled).unwrap_or_default(),
            Fact::RemoteId => self.sent_v6(37).and_then(|octets| octets.get(4..)).map(spelled).unwrap_or_default(),
            Fact::Option(definition) => self.option_v6(codebook, definition),
        }
    }

    /// The value of any option, and each single thing in it.
    fn option_v6(&self, codebook: &Codebook, definition: &Definition) -> Vec<String> {
        let Some(octets) = self.sent_v6(definition.code).filter(|_| definition.is_v6()) else { return Vec::new() };
        let mut texts = spelled(octets);
        if let (Some(value), _) = codebook.decode(definition, octets) {
            texts.push(value.to_string());
            texts.extend(parts_of(&value, true));
        }
        texts
    }
}

/// Every run of octets in a value, as what it spells, and every other single thing where those are wanted.
fn parts_of(value: &Value, others: bool) -> Vec<String> {
    let mut texts = Vec::new();
    value.leaves(&mut |leaf, _| match leaf {
        Value::Bytes(octets) => texts.extend(spelled(octets)),
        other if others => texts.push(other.to_string()),
        _ => {}
    });
    texts
}
