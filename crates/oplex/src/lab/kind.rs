//! How clients of one kind behave.

use std::time::Duration;

use super::read;
use crate::codebook::Codebook;
use crate::family::{Both, Family};
use crate::octets::Mac;
use crate::plan::ClientFacts;
use crate::{ParseError, once::Once};

/// How clients of one kind behave.
#[derive(Debug, Clone, PartialEq, Eq)]
#[non_exhaustive]
pub struct ClientKind {
    /// Its name.
    pub name: String,
    /// What it is, in one line.
    pub title: String,
    /// The families that it speaks.
    pub families: Both<bool>,
    /// What it says of itself, by [the keys of clients](ClientFacts::KEYS). In a text `{n}` is the number of the client.
    pub says: Vec<(String, String)>,
    /// The codes that it requests; by default, by DHCPv4 those that [its like](ClientFacts::common_requests) request.
    pub requests: Both<Option<Vec<u16>>>,
    /// The largest datagram of DHCPv4 that it accepts, where it says so.
    pub max_size: Option<u16>,
    /// Whether it takes addresses by two messages of DHCPv6.
    pub rapid: bool,
    /// Whether it requests a prefix for what is behind it.
    pub delegation: bool,
    /// Whether it never requests an address by DHCPv6, whatever its router says.
    pub stateless: bool,
    /// Whether it requests replies by broadcast, as it cannot be reached before it has an address (RFC 2131, section 4.1).
    pub broadcast: bool,
    /// Whether it extends its lease, and requests settings again.
    pub renews: bool,
    /// Whether it releases what it has when it is switched off.
    pub releases: bool,
    /// When it is on; always by default.
    pub presence: Option<Presence>,
    /// Whether it floods its network with what is wrong, and does nothing else.
    pub hostile: bool,
}

/// When a client is on.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Presence {
    /// For how long it is on.
    pub on: Duration,
    /// How long it takes from being switched on to being switched on again.
    pub every: Duration,
}

/// The kinds that ship, as the files that they are.
const SHIPPED: [(&str, &str); 9] = [
    ("desktop", include_str!("../../clients/desktop.toml")),
    ("phone", include_str!("../../clients/phone.toml")),
    ("uefi-boot", include_str!("../../clients/uefi-boot.toml")),
    ("bios-boot", include_str!("../../clients/bios-boot.toml")),
    ("router", include_str!("../../clients/router.toml")),
    ("stateless", include_str!("../../clients/stateless.toml")),
    ("sensor", include_str!("../../clients/sensor.toml")),
    ("careless", include_str!("../../clients/careless.toml")),
    ("hostile", include_str!("../../clients/hostile.toml")),
];

static KINDS: Once<Vec<ClientKind>> = Once::new();

impl ClientKind {
    /// A kind of which nothing is known but its name: it speaks both families, is always on, and extends what it is leased.
    #[must_use]
    pub fn new(name: impl Into<String>) -> Self {
        Self {
            name: name.into(),
            title: String::new(),
            families: Both { v4: true, v6: true },
            says: Vec::new(),
            requests: Both::default(),
            max_size: None,
            rapid: false,
            delegation: false,
            stateless: false,
            broadcast: false,
            renews: true,
            releases: false,
            presence: None,
            hostile: false,
        }
    }

    /// The kinds that ship: `desktop`, `phone`, `uefi-boot`, `bios-boot`, `router`, `stateless`, `sensor`, `careless`, `hostile`.
    ///
    /// ```
    /// let names: Vec<&str> = oplex::lab::ClientKind::shipped().iter().map(|kind| &*kind.name).collect();
    /// assert!(names.contains(&"phone") && names.contains(&"hostile"));
    /// ```
    #[must_use]
    pub fn shipped() -> &'static [Self] {
        KINDS.get_or_init(|| SHIPPED.iter().filter_map(|(name, text)| read::kind(name, text)).collect())
    }

    /// The kind that ships under this name.
    #[must_use]
    pub fn named(name: &str) -> Option<&'static Self> {
        Self::shipped().iter().find(|kind| kind.name == name)
    }

    /// A client of this kind on a network: what it says of itself.
    ///
    /// # Errors
    /// A text of the kind that the option for it cannot hold.
    pub fn facts(&self, codebook: &Codebook, network: usize, mac: Mac, number: u32) -> Result<ClientFacts, ParseError> {
        let mut facts = ClientFacts { mac: Some(mac), ..ClientFacts::on(network) };
        for (key, text) in &self.says {
            facts.describe(codebook, key, &text.replace("{n}", &number.to_string()))?;
        }
        let common = || facts.common_requests();
        facts.wants.v4 = Some(self.requests.v4.clone().unwrap_or_else(common));
        facts.wants.v6 = Some(self.requests.v6.clone().unwrap_or_else(|| COMMON_V6.to_vec()));
        facts.max_size = self.max_size;
        (facts.rapid, facts.delegation) = (self.rapid, self.delegation);
        Ok(facts)
    }

    /// Whether it speaks a family.
    #[must_use]
    pub fn speaks(&self, family: Family) -> bool {
        self.families[family]
    }
}

/// What hosts request by DHCPv6 as a rule: name servers, the domain search list, time servers, the captive portal.
const COMMON_V6: [u16; 4] = [23, 24, 56, 103];
