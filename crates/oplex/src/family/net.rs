//! Subnets and prefixes: an address and how many of its bits count.

use crate::prelude::*;
use core::fmt;

use super::Address;
use crate::ParseError;
use crate::octets::decimal;

/// An address and a prefix length: an IPv4 subnet or an IPv6 prefix.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Net<A> {
    address: A,
    length: u8,
}

impl<A: Address> Net<A> {
    /// The bits of this address up to `length`; `None` where the family has fewer. The address may have bits below.
    ///
    /// ```
    /// use oplex::family::Net;
    /// use std::net::Ipv4Addr;
    ///
    /// let net = Net::new(Ipv4Addr::new(10, 64, 5, 7), 23).expect("IPv4 has 32 bits");
    /// assert_eq!((net.first(), net.last()), ([10, 64, 4, 0].into(), [10, 64, 5, 255].into()));
    /// assert_eq!(net.trunc().to_string(), "10.64.4.0/23");
    /// assert!(Net::new(Ipv4Addr::LOCALHOST, 33).is_none());
    /// ```
    #[must_use]
    pub fn new(address: A, length: u8) -> Option<Self> {
        (length <= A::BITS).then_some(Self { address, length })
    }

    /// An address alone, all of whose bits count.
    ///
    /// ```
    /// use oplex::family::Net;
    /// use std::net::Ipv6Addr;
    ///
    /// let own: Net<Ipv6Addr> = Net::single("2001:db8:64::53".parse()?);
    /// assert_eq!(own.to_string(), "2001:db8:64::53/128");
    /// # Ok::<(), std::net::AddrParseError>(())
    /// ```
    #[must_use]
    pub fn single(address: A) -> Self {
        Self { address, length: A::BITS }
    }

    /// The address as it was given.
    #[must_use]
    pub fn address(&self) -> A {
        self.address
    }

    /// How many bits count.
    #[must_use]
    pub fn length(&self) -> u8 {
        self.length
    }

    /// The bits that do not count.
    fn host_bits(&self) -> u128 {
        let below = u32::from(A::BITS - self.length);
        1u128.unbounded_shl(below).wrapping_sub(1)
    }

    /// The first address.
    #[must_use]
    pub fn first(&self) -> A {
        A::from_bits(self.address.bits() & !self.host_bits())
    }

    /// The last address.
    #[must_use]
    pub fn last(&self) -> A {
        A::from_bits(self.address.bits() | self.host_bits())
    }

    /// The mask whose ones are the bits that count.
    ///
    /// ```
    /// use oplex::family::Net;
    /// use std::net::Ipv4Addr;
    ///
    /// let net: Net<Ipv4Addr> = "10.64.4.0/23".parse()?;
    /// assert_eq!(net.mask(), Ipv4Addr::new(255, 255, 254, 0));
    /// # Ok::<(), oplex::ParseError>(())
    /// ```
    #[must_use]
    pub fn mask(&self) -> A {
        A::from_bits(!self.host_bits())
    }

    /// The same without bits below the length.
    ///
    /// ```
    /// use oplex::family::Net;
    /// use std::net::Ipv4Addr;
    ///
    /// // An address with the length of its subnet, as people write both.
    /// let net: Net<Ipv4Addr> = "10.64.4.20/23".parse()?;
    /// assert_eq!((net.address().to_string(), net.length()), ("10.64.4.20".to_owned(), 23));
    /// assert_eq!(net.trunc().to_string(), "10.64.4.0/23");
    /// assert_eq!((net.first().to_string(), net.last().to_string()), ("10.64.4.0".to_owned(), "10.64.5.255".to_owned()));
    /// assert!(net.holds("10.64.5.250".parse()?) && !net.holds("10.64.6.1".parse()?));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn trunc(&self) -> Self {
        Self { address: self.first(), length: self.length }
    }

    /// Whether the address lies in it.
    #[must_use]
    pub fn holds(&self, address: A) -> bool {
        (self.address.bits() ^ address.bits()) & !self.host_bits() == 0
    }

    /// Whether one of the two lies in the other; nets never overlap in another way.
    ///
    /// ```
    /// use oplex::family::Net;
    /// use std::net::Ipv6Addr;
    ///
    /// let (site, link): (Net<Ipv6Addr>, Net<Ipv6Addr>) = ("2001:db8:64::/48".parse()?, "2001:db8:64:40::/64".parse()?);
    /// assert!(site.meets(&link) && link.meets(&site));
    /// # Ok::<(), oplex::ParseError>(())
    /// ```
    #[must_use]
    pub fn meets(&self, other: &Self) -> bool {
        if self.length <= other.length { self.holds(other.address) } else { other.holds(self.address) }
    }

    /// Reads `10.64.4.0/23` or `2001:db8:64:4::/64`. An error completes a sentence: "`8x` is not …".
    pub(crate) fn parse(text: &str) -> Result<Self, String> {
        let Some((address, length)) = text.split_once('/') else {
            return Err(format!("`{text}` has no prefix length; write it like `{}`", A::EXAMPLE_NET));
        };
        let address = A::parse(address)?;
        let word = if A::NET_WORD == "subnet" { "a subnet" } else { "a prefix" };
        // A mask in place of a length, as IPv4 is often written.
        if let Ok(mask) = length.parse::<A>() {
            let ones = (mask.bits() << (128 - u32::from(A::BITS))).leading_ones();
            let right = Self::new(address, ones as u8).filter(|net| net.mask() == mask);
            return Err(match right {
                Some(right) => {
                    format!("`{text}` has a mask behind the slash; write the length of the prefix: `{right}`")
                }
                None => format!("`{text}` has no mask behind the slash: the one bits of a mask stand together"),
            });
        }
        let length = decimal(length).and_then(|length| Self::new(address, length));
        length.ok_or_else(|| format!("`{text}` is not {word}: after the slash stands 0 to {}", A::BITS))
    }
}

impl<A: Address> core::str::FromStr for Net<A> {
    type Err = ParseError;

    fn from_str(text: &str) -> Result<Self, ParseError> {
        Ok(Self::parse(text)?)
    }
}

/// `10.64.4.0/23`
impl<A: Address> fmt::Display for Net<A> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}/{}", self.address, self.length)
    }
}
