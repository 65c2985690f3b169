//! A client, described by what it sends.

use std::sync::Arc;

use super::{ClientKey, Fact, Family, Pool, PoolV6, Sent};
use crate::codebook::{Codebook, Definition};
use crate::finding::Spot;
use crate::layout::{Value, Vocabulary};
use crate::octets::hex;

/// A client, described by what it sends.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct ClientFacts {
    /// The network it is on, by its place in the plan.
    pub network: usize,
    /// Its hardware address.
    pub mac: Option<[u8; 6]>,
    /// The options it sends, by code, besides those that follow from the rest.
    pub sends: Vec<(u8, Vec<u8>)>,
    /// Its DUID; made of its hardware address where nothing is said (RFC 8415, section 11.4).
    pub duid: Option<Vec<u8>>,
    /// The options of DHCPv6 that it sends, by code, besides those that follow from the rest.
    pub sends_v6: Vec<(u16, Vec<u8>)>,
    /// The codes of DHCPv6 it asks for; `None` is a client that does not say, and is told everything.
    pub wants_v6: Option<Vec<u16>>,
    /// Whether it takes an address by two messages of DHCPv6 in place of four (RFC 8415, section 21.14).
    pub rapid: bool,
    /// Whether it asks for a prefix to hand on.
    pub delegation: bool,
    /// The codes it asks for; `None` is a client that does not say, and is told everything.
    pub wants: Option<Vec<u8>>,
    /// The largest datagram it accepts.
    pub max_size: Option<u16>,
    /// How many addresses of its pool others have already.
    pub leased: u32,
}

/// Sets what a text describes.
type Set = fn(&mut ClientFacts, &Codebook, &str) -> Result<(), String>;

impl ClientFacts {
    /// What can be described by a text, by the keys of plans and the flags of the command.
    pub const TEXTS: [(&'static str, Set); 8] = [
        ("vendor-class", |facts, _, text| {
            facts.send_vendor_class_v6(text)?;
            facts.send(60, text.as_bytes().to_vec())
        }),
        // RFC 3004, section 4: each class has its length in front.
        ("user-class", |facts, _, text| {
            let length = u8::try_from(text.len()).map_err(|_| "a user class has 255 octets at most".to_owned())?;
            // RFC 8415, section 21.15: there it has two octets.
            facts.send_v6(15, [&[0, length], text.as_bytes()].concat());
            facts.send(77, [&[length], text.as_bytes()].concat())
        }),
        ("arch", |facts, codebook, text| {
            let octets = architecture(codebook, text)?.to_be_bytes().to_vec();
            facts.send_v6(61, octets.clone());
            facts.send(93, octets)
        }),
        ("hostname", |facts, codebook, text| {
            facts.send_hostname_v6(codebook, text);
            facts.send(12, text.as_bytes().to_vec())
        }),
        ("duid", |facts, _, text| {
            facts.duid = Some(super::fleet::duid(text)?.into_vec());
            Ok(())
        }),
        ("client-id", |facts, _, text| facts.send(61, super::read_fleets::client_id(text)?.into_vec())),
        ("circuit-id", |facts, _, text| {
            facts.send_v6(18, identifier(text)?);
            facts.relay(1, text)
        }),
        ("remote-id", |facts, _, text| {
            facts.send_remote_id_v6(&identifier(text)?);
            facts.relay(2, text)
        }),
    ];

    /// A client on the network of this place in the plan, of which nothing else is known.
    #[must_use]
    pub fn on(network: usize) -> Self {
        Self { network, ..Self::default() }
    }

    fn send(&mut self, code: u8, octets: Vec<u8>) -> Result<(), String> {
        self.sends.retain(|(sent, _)| *sent != code);
        self.sends.push((code, octets));
        Ok(())
    }

    /// Adds a sub-option that the relay puts in (82): text, or octets as `0x…`.
    fn relay(&mut self, code: u8, text: &str) -> Result<(), String> {
        let octets = identifier(text)?;
        let length = u8::try_from(octets.len()).map_err(|_| "a sub-option has 255 octets at most".to_owned())?;
        let mut all = self.sent(82).map(<[u8]>::to_vec).unwrap_or_default();
        all.extend([code, length]);
        all.extend(octets);
        self.send(82, all)
    }

    /// The octets of an option that it sends.
    #[must_use]
    pub fn sent(&self, code: u8) -> Option<&[u8]> {
        self.sends.iter().find(|(sent, _)| *sent == code).map(|(_, octets)| octets.as_slice())
    }

    /// How a server may know it: by its identifier first (RFC 2131, section 4.2), by its hardware address where the
    /// plan knows no other.
    pub fn keys(&self) -> impl Iterator<Item = ClientKey> {
        let id = self.sent(61).map(|id| ClientKey::ClientId(id.into()));
        id.into_iter().chain(self.mac.map(ClientKey::Mac))
    }

    /// What it sends by DHCPv4 or DHCPv6, as the texts that patterns are held against.
    #[must_use]
    pub fn texts(&self, codebook: &Codebook, fact: &Fact, family: Family) -> Vec<String> {
        if family == Family::V6 {
            return self.texts_v6(codebook, fact);
        }
        match fact {
            Fact::Duid => Vec::new(),
            Fact::Mac => self.mac.iter().map(|mac| hex::colon(mac)).collect(),
            Fact::VendorClass => self.sent(60).map(spelled).unwrap_or_default(),
            Fact::Enterprise => self.decoded(codebook, 124).map(|value| numbers(&value)).unwrap_or_default(),
            Fact::UserClass => self.sent(77).map(classes).unwrap_or_default(),
            Fact::Architecture => self.sent(93).map(|octets| architectures(codebook, octets)).unwrap_or_default(),
            Fact::Hostname => self.hostname(codebook).into_iter().collect(),
            Fact::ClientId => self.sent(61).map(spelled).unwrap_or_default(),
            Fact::CircuitId => self.sent(82).map(|octets| sub_option(octets, 1)).unwrap_or_default(),
            Fact::RemoteId => self.sent(82).map(|octets| sub_option(octets, 2)).unwrap_or_default(),
            Fact::Option(definition) => self.option(codebook, definition),
        }
    }

    fn decoded(&self, codebook: &Codebook, code: u8) -> Option<Value> {
        codebook.decode(codebook.v4(code.into())?, self.sent(code)?).0
    }

    fn hostname(&self, codebook: &Codebook) -> Option<String> {
        let plain = self.sent(12).map(|octets| String::from_utf8_lossy(octets).into_owned());
        plain.or_else(|| match self.decoded(codebook, 81)? {
            Value::Record(fields) => {
                fields.iter().find(|(name, _)| **name == *"name").map(|(_, name)| name.to_string())
            }
            _ => None,
        })
    }

    /// The value of any option, and each item of a list.
    fn option(&self, codebook: &Codebook, definition: &Definition) -> Vec<String> {
        let code = u8::try_from(definition.code).ok().filter(|_| definition.is_top_level());
        let Some(octets) = code.and_then(|code| self.sent(code)) else { return Vec::new() };
        let mut texts = spelled(octets);
        if let (Some(value), _) = codebook.decode(definition, octets) {
            texts.push(value.to_string());
            if let Value::List(items) = value {
                texts.extend(items.iter().map(ToString::to_string));
            }
        }
        texts
    }
}

/// What a relay says: text, or octets as `0x…`.
fn identifier(text: &str) -> Result<Vec<u8>, String> {
    match text.strip_prefix("0x") {
        Some(digits) => hex::parse(digits).map_err(|error| format!("`{text}` is not hexadecimal: {error}")),
        None => Ok(text.as_bytes().to_vec()),
    }
}

/// Octets as what they spell, if they spell something, and in hexadecimal.
pub(super) fn spelled(octets: &[u8]) -> Vec<String> {
    let text = str::from_utf8(octets).ok().filter(|text| !text.chars().any(char::is_control));
    text.map(str::to_owned).into_iter().chain([hex::colon(octets)]).collect()
}

/// The classes of option 77; where the lengths do not fit, the whole is taken for one (which many clients send).
fn classes(octets: &[u8]) -> Vec<String> {
    let mut classes = Vec::new();
    let mut rest = octets;
    while let [length, after @ ..] = rest {
        let Some(class) = after.get(..usize::from(*length)).filter(|class| !class.is_empty()) else {
            return spelled(octets);
        };
        classes.extend(spelled(class));
        rest = &after[class.len()..];
    }
    classes
}

pub(super) fn architectures(codebook: &Codebook, octets: &[u8]) -> Vec<String> {
    let names = codebook.enumeration("architecture");
    let mut texts = Vec::new();
    for pair in octets.chunks_exact(2) {
        let number = u16::from_be_bytes([pair[0], pair[1]]);
        texts.push(number.to_string());
        texts.extend(names.as_ref().and_then(|names| names.name_of(number.into()).map(str::to_owned)));
    }
    texts
}

/// An architecture by its name or number.
fn architecture(codebook: &Codebook, text: &str) -> Result<u16, String> {
    let names = codebook.enumeration("architecture");
    let named = names.as_ref().and_then(|names| {
        let member = names.members.iter().find(|(_, name)| **name == *text)?;
        u16::try_from(member.0).ok()
    });
    named.or_else(|| text.parse().ok()).ok_or_else(|| {
        let known = names.iter().flat_map(|names| names.members.iter().map(|(_, name)| &**name));
        let near = crate::nearest::nearest(text, known).map(|near| format!("; did you mean `{near}`?"));
        format!("`{text}` is no architecture of option 93{}", near.unwrap_or_default())
    })
}

fn sub_option(octets: &[u8], wanted: u8) -> Vec<String> {
    let mut rest = octets;
    while let [code, length, after @ ..] = rest {
        let Some(payload) = after.get(..usize::from(*length)) else { break };
        if *code == wanted {
            return spelled(payload);
        }
        rest = &after[payload.len()..];
    }
    Vec::new()
}

/// All numbers in a value.
pub(super) fn numbers(value: &Value) -> Vec<String> {
    let mut numbers = Vec::new();
    value.leaves(&mut |leaf, name| {
        if let (Value::Number(number), Some("enterprise")) = (leaf, name) {
            numbers.push(number.to_string());
        }
    });
    numbers
}

/// What the author of a plan believes about one client.
#[derive(Debug, Clone)]
pub struct Expect {
    /// What its author calls it.
    pub title: Option<String>,
    /// Where it is written.
    pub spot: Spot,
    /// The client.
    pub client: ClientFacts,
    /// Where its address must come from; any where nothing is said.
    pub address: Vec<Pool>,
    /// Where its IPv6 address must come from; any where nothing is said.
    pub address_v6: Vec<PoolV6>,
    /// What it must be told by DHCPv4.
    pub told: Vec<Sent>,
    /// What it must be told by DHCPv6.
    pub told_v6: Vec<Sent>,
    /// What it must not be told.
    pub not_told: Vec<(Arc<Definition>, Spot)>,
    /// The fleets it must be recognised as, all of them.
    pub fleets: Option<Vec<(String, Spot)>>,
}
