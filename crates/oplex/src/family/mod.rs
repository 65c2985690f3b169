//! The two families of addresses, the three protocols, and things that exist once for each family.
//!
//! What holds in both families is written once, over [`Address`], which `Ipv4Addr` and `Ipv6Addr` implement; what exists for each
//! is a [`Both`], indexed by a [`Family`]. Router advertisements are a third protocol beside the two DHCPs, as they have options
//! of their own and decide whether hosts ask DHCPv6 at all.
//!
//! ```
//! use oplex::family::{Both, Family, Net, Protocol};
//!
//! let names = Both::new(|family: Family| family.protocol().name());
//! assert_eq!((names[Family::V4], names[Family::V6]), ("v4", "v6"));
//! assert_eq!(Protocol::ALL.map(Protocol::name), ["v4", "v6", "ra"]);
//!
//! let net: Net<std::net::Ipv4Addr> = "10.64.4.0/23".parse()?;
//! assert!(net.holds([10, 64, 5, 255].into()) && !net.holds([10, 64, 6, 0].into()));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod address;
mod net;

use core::fmt;
use core::ops::{Index, IndexMut};

pub use address::{Address, ByAddress, PerAddress};
pub use net::Net;

/// A family of addresses, and the DHCP that goes with it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Family {
    /// IPv4 and DHCPv4.
    V4,
    /// IPv6 and DHCPv6.
    V6,
}

impl Family {
    /// Both of them.
    pub const ALL: [Self; 2] = [Self::V4, Self::V6];

    /// Its name in ids, files and output: `v4`, `v6`.
    #[must_use]
    pub const fn name(self) -> &'static str {
        self.protocol().name()
    }

    /// The DHCP of this family.
    #[must_use]
    pub const fn protocol(self) -> Protocol {
        match self {
            Self::V4 => Protocol::V4,
            Self::V6 => Protocol::V6,
        }
    }
}

/// The DHCP of the family: `DHCPv4`.
impl fmt::Display for Family {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.protocol().fmt(f)
    }
}

/// A protocol whose messages carry options.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Protocol {
    /// DHCPv4 (RFC 2131).
    V4,
    /// DHCPv6 (RFC 8415).
    V6,
    /// Router advertisements and solicitations (RFC 4861).
    Ra,
}

impl Protocol {
    /// All of them.
    pub const ALL: [Self; 3] = [Self::V4, Self::V6, Self::Ra];

    /// Its name in ids, files and output: `v4`, `v6`, `ra`.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::V4 => "v4",
            Self::V6 => "v6",
            Self::Ra => "ra",
        }
    }

    /// The protocol of this name.
    ///
    /// ```
    /// use oplex::family::{Family, Protocol};
    ///
    /// assert_eq!(["v4", "v6", "ra"].map(Protocol::named), [Some(Protocol::V4), Some(Protocol::V6), Some(Protocol::Ra)]);
    /// assert_eq!((Protocol::Ra.name(), Protocol::Ra.family()), ("ra", Family::V6));
    /// assert_eq!((Family::V4.name(), Family::V4.protocol()), ("v4", Protocol::V4));
    /// ```
    #[must_use]
    pub fn named(name: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|protocol| protocol.name() == name)
    }

    /// The family whose addresses its messages carry.
    #[must_use]
    pub const fn family(self) -> Family {
        match self {
            Self::V4 => Family::V4,
            Self::V6 | Self::Ra => Family::V6,
        }
    }
}

/// As prose has it: `DHCPv4`, `DHCPv6`, `router advertisements`.
impl fmt::Display for Protocol {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            Self::V4 => "DHCPv4",
            Self::V6 => "DHCPv6",
            Self::Ra => "router advertisements",
        })
    }
}

/// Something that exists once for each family.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Both<T> {
    /// DHCPv4's.
    pub v4: T,
    /// DHCPv6's.
    pub v6: T,
}

impl<T> Both<T> {
    /// What `make` makes for each family.
    ///
    /// ```
    /// use oplex::family::{Both, Family};
    ///
    /// let names = Both::new(|family| family.name());
    /// assert_eq!((names.v4, names[Family::V6]), ("v4", "v6"));
    /// assert_eq!(names.iter().count(), 2);
    /// ```
    pub fn new(mut make: impl FnMut(Family) -> T) -> Self {
        Self { v4: make(Family::V4), v6: make(Family::V6) }
    }

    /// DHCPv4's, and then DHCPv6's.
    pub fn iter(&self) -> impl Iterator<Item = &T> + Clone {
        [&self.v4, &self.v6].into_iter()
    }
}

impl<T> Index<Family> for Both<T> {
    type Output = T;

    #[inline]
    fn index(&self, family: Family) -> &T {
        match family {
            Family::V4 => &self.v4,
            Family::V6 => &self.v6,
        }
    }
}

impl<T> IndexMut<Family> for Both<T> {
    #[inline]
    fn index_mut(&mut self, family: Family) -> &mut T {
        match family {
            Family::V4 => &mut self.v4,
            Family::V6 => &mut self.v6,
        }
    }
}
