//! What IPv4 and IPv6 addresses have in common, so that pools, subnets and rules are written once.

use crate::prelude::*;
use core::fmt::{Debug, Display};
use core::hash::Hash;
use core::net::{IpAddr, Ipv4Addr, Ipv6Addr};
use core::str::FromStr;

use super::Family;

/// An address of either family.
pub trait Address:
    Copy + Ord + Hash + Debug + Display + FromStr + Into<IpAddr> + Send + Sync + private::Sealed + 'static
{
    /// Its family.
    const FAMILY: Family;

    /// How many bits it has.
    const BITS: u8;

    /// How the family is called in prose: `IPv4`.
    const NAME: &'static str;

    /// An address as examples show it.
    const EXAMPLE: &'static str;

    /// A subnet or prefix as examples show it.
    const EXAMPLE_NET: &'static str;

    /// What a link's addresses are called: an IPv4 `subnet`, an IPv6 `prefix`.
    const NET_WORD: &'static str;

    /// Reads an address.
    ///
    /// # Errors
    /// What is wrong with the text and how to write it, as a sentence.
    fn parse(text: &str) -> Result<Self, String> {
        text.parse().map_err(|_| format!("`{text}` {}", Self::complaint(text)))
    }

    /// What is wrong with a text that is no address.
    #[doc(hidden)]
    fn complaint(_: &str) -> String {
        format!("is not an {} address; write it like `{}`", Self::NAME, Self::EXAMPLE)
    }

    /// The address as a number.
    fn bits(self) -> u128;

    /// The address of this number; bits that the family has not are dropped.
    fn from_bits(bits: u128) -> Self;

    /// This address, where another is of this family.
    fn of(address: IpAddr) -> Option<Self>;

    /// The one of the two that is for this family.
    fn pick<K: PerAddress>(both: &ByAddress<K>) -> &K::Of<Self>;

    /// The address after it; the last has none.
    fn next(self) -> Option<Self> {
        let next = Self::from_bits(self.bits().wrapping_add(1));
        (next > self).then_some(next)
    }

    /// The address before it; the first has none.
    fn previous(self) -> Option<Self> {
        self.bits().checked_sub(1).map(Self::from_bits)
    }
}

mod private {
    pub trait Sealed {}
    impl Sealed for core::net::Ipv4Addr {}
    impl Sealed for core::net::Ipv6Addr {}
}

/// What the two do alike.
macro_rules! of_family {
    ($variant:ident, $field:ident) => {
        const FAMILY: Family = Family::$variant;

        fn of(address: IpAddr) -> Option<Self> {
            if let IpAddr::$variant(address) = address { Some(address) } else { None }
        }

        fn pick<K: PerAddress>(both: &ByAddress<K>) -> &K::Of<Self> {
            &both.$field
        }
    };
}

impl Address for Ipv4Addr {
    of_family!(V4, v4);

    const BITS: u8 = 32;
    const NAME: &'static str = "IPv4";
    const EXAMPLE: &'static str = "10.64.4.1";
    const EXAMPLE_NET: &'static str = "10.64.4.0/23";
    const NET_WORD: &'static str = "subnet";

    fn complaint(text: &str) -> String {
        let number = |part: &str| part.parse::<u32>();
        let parts = text.split('.').count();
        if text.contains('/') {
            "is a network, not an address; remove the slash and the length".to_owned()
        } else if let Some(part) = text.split('.').find(|part| number(part).is_ok_and(|part| part > 255)) {
            format!("is not an IPv4 address: {part} is above 255")
        } else if parts != 4 && text.split('.').all(|part| number(part).is_ok()) {
            format!("is not an IPv4 address: it has {parts} of 4 numbers")
        } else {
            "is not an IPv4 address; write it like `10.64.4.1`".to_owned()
        }
    }

    fn bits(self) -> u128 {
        u32::from(self).into()
    }

    fn from_bits(bits: u128) -> Self {
        Self::from(bits as u32)
    }
}

impl Address for Ipv6Addr {
    of_family!(V6, v6);

    const BITS: u8 = 128;
    const NAME: &'static str = "IPv6";
    const EXAMPLE: &'static str = "2001:db8:64::53";
    const EXAMPLE_NET: &'static str = "2001:db8:64:4::/64";
    const NET_WORD: &'static str = "prefix";

    fn bits(self) -> u128 {
        self.into()
    }

    fn from_bits(bits: u128) -> Self {
        Self::from(bits)
    }
}

/// A kind of thing that is made of addresses, such as a list of pools.
pub trait PerAddress {
    /// The thing for one family's addresses.
    type Of<A: Address>;
}

/// Something that exists once for each family and is made of its addresses.
pub struct ByAddress<K: PerAddress> {
    /// IPv4's.
    pub v4: K::Of<Ipv4Addr>,
    /// IPv6's.
    pub v6: K::Of<Ipv6Addr>,
}

impl<K: PerAddress> ByAddress<K> {
    /// The one for this family's addresses.
    #[must_use]
    pub fn of<A: Address>(&self) -> &K::Of<A> {
        A::pick(self)
    }
}

// Derived, these would ask the same of `K`.
impl<K: PerAddress> Debug for ByAddress<K>
where
    K::Of<Ipv4Addr>: Debug,
    K::Of<Ipv6Addr>: Debug,
{
    fn fmt(&self, f: &mut core::fmt::Formatter<'_>) -> core::fmt::Result {
        f.debug_struct("ByAddress").field("v4", &self.v4).field("v6", &self.v6).finish()
    }
}

impl<K: PerAddress> Clone for ByAddress<K>
where
    K::Of<Ipv4Addr>: Clone,
    K::Of<Ipv6Addr>: Clone,
{
    fn clone(&self) -> Self {
        Self { v4: self.v4.clone(), v6: self.v6.clone() }
    }
}

impl<K: PerAddress> Default for ByAddress<K>
where
    K::Of<Ipv4Addr>: Default,
    K::Of<Ipv6Addr>: Default,
{
    fn default() -> Self {
        Self { v4: Default::default(), v6: Default::default() }
    }
}
