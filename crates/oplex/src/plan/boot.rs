//! Where clients boot from: the header fields of DHCPv4, and the options of both families that say the same.

use super::Sent;
use crate::finding::Spot;

/// Where a layer has its clients boot from. The keys merge over the layers, each by itself.
#[derive(Debug, Clone, Default)]
pub struct Boot {
    /// The keys that it sets.
    pub entries: Vec<BootEntry>,
    /// The keys of wider layers that it takes away.
    pub withheld: Vec<(BootKey, Spot)>,
}

/// One key of `boot`.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize), serde(rename_all = "kebab-case"))]
pub enum BootKey {
    /// The server of the boot file: an address in `siaddr` (RFC 2131, section 2) and in option 150, or else a name, as `host`.
    Server,
    /// The server's name: `sname` and option 66.
    Host,
    /// The boot file: `file` and option 67.
    File,
    /// The boot file as a URL: option 59 of DHCPv6 (RFC 5970, section 3.1).
    Url,
    /// Parameters of the boot file: option 60 of DHCPv6 (RFC 5970, section 3.2).
    Params,
}

impl BootKey {
    /// All of them.
    pub const ALL: [Self; 5] = [Self::Server, Self::Host, Self::File, Self::Url, Self::Params];

    /// As a plan writes it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Server => "server",
            Self::Host => "host",
            Self::File => "file",
            Self::Url => "url",
            Self::Params => "params",
        }
    }
}

/// What one key of `boot` says.
#[derive(Debug, Clone)]
pub struct BootEntry {
    /// The key.
    pub key: BootKey,
    /// Its value as text; of several the first.
    pub text: String,
    /// The option that says the same.
    pub sent: Sent,
}
