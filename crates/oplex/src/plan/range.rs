//! Ranges of addresses: as they are written, found by an address inside them, and counted.

use std::fmt;

use smallvec::SmallVec;

use crate::ParseError;
use crate::family::{Address, ByAddress, Net, PerAddress};
use crate::finding::Spot;

/// Addresses from first to last, both included: a pool, an exclusion, or where an address is expected to lie.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Pool<A> {
    /// The first address as written; greater than the last when the range is backwards.
    pub first: A,
    /// The last address as written.
    pub last: A,
    /// Where the range is written.
    pub spot: Spot,
    /// Where the first address is written.
    pub first_spot: Spot,
    /// Where the last address is written.
    pub last_spot: Spot,
}

/// Lists of pools, once for each family.
pub struct PoolLists;

impl PerAddress for PoolLists {
    type Of<A: Address> = Vec<Pool<A>>;
}

/// The pools of both families.
pub type Pools = ByAddress<PoolLists>;

impl Pools {
    /// Reads a range of either family behind those that are there already.
    pub(crate) fn read(&mut self, text: &str, spot: &Spot) -> Result<(), String> {
        if text.contains(':') {
            self.v6.push(Pool::parse(text, spot)?);
        } else {
            self.v4.push(Pool::parse(text, spot)?);
        }
        Ok(())
    }

    /// Whether there is none of either family.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        self.v4.is_empty() && self.v6.is_empty()
    }

    /// The ranges of both families as text, IPv4's first.
    pub fn texts(&self) -> impl Iterator<Item = String> {
        self.v4.iter().map(ToString::to_string).chain(self.v6.iter().map(ToString::to_string))
    }
}

impl<A: Address> Pool<A> {
    /// Reads `10.64.4.20-10.64.5.250`, `10.64.5.128/27` or a single address, of this family.
    fn parse(text: &str, spot: &Spot) -> Result<Self, String> {
        // The characters inside the quotes; text with escapes cannot be an address anyway.
        let inner = |from: usize, part: &str| Spot {
            span: spot.span.start + 1 + from..spot.span.start + 1 + from + part.len(),
            ..spot.clone()
        };
        let pool =
            |first, last| Self { first, last, spot: spot.clone(), first_spot: spot.clone(), last_spot: spot.clone() };
        if text.contains('/') {
            let net = Net::parse(text)?;
            return Ok(pool(net.first(), net.last()));
        }
        let Some((first, last)) = text.split_once('-') else {
            let address = A::parse(text.trim())?;
            return Ok(pool(address, address));
        };
        let last_at = first.len() + 1 + last.len() - last.trim_start().len();
        let (first, last) = (first.trim_end(), last.trim());
        Ok(Self {
            first: A::parse(first)?,
            last: A::parse(last)?,
            spot: spot.clone(),
            first_spot: inner(0, first),
            last_spot: inner(last_at, last),
        })
    }

    /// Whether the address lies in it.
    ///
    /// ```
    /// use oplex::plan::Pool;
    /// use std::net::Ipv4Addr;
    ///
    /// let pool: Pool<Ipv4Addr> = "10.64.4.20-10.64.4.90".parse()?;
    /// assert!(pool.holds([10, 64, 4, 20].into()) && !pool.holds([10, 64, 4, 91].into()));
    /// assert_eq!((pool.size(), pool.is_backwards()), (71, false));
    /// let inside: Pool<Ipv4Addr> = "10.64.4.64/28".parse()?;
    /// assert!(pool.covers(&inside) && pool.meets(&inside) && !inside.covers(&pool));
    /// # Ok::<(), oplex::ParseError>(())
    /// ```
    #[must_use]
    pub fn holds(&self, address: A) -> bool {
        self.first <= address && address <= self.last
    }

    /// Whether all of the other range lies in it.
    #[must_use]
    pub fn covers(&self, other: &Self) -> bool {
        self.holds(other.first) && self.holds(other.last)
    }

    /// Whether any address lies in both.
    #[must_use]
    pub fn meets(&self, other: &Self) -> bool {
        self.first <= other.last && other.first <= self.last
    }

    /// Whether it ends before it begins, so that no address lies in it.
    #[must_use]
    pub fn is_backwards(&self) -> bool {
        self.first > self.last
    }

    /// The first and the last address as numbers.
    #[must_use]
    pub(crate) fn bits(&self) -> (u128, u128) {
        (self.first.bits(), self.last.bits())
    }

    /// How many addresses it has, as far as 128 bits can count them.
    #[must_use]
    pub fn size(&self) -> u128 {
        if self.is_backwards() { 0 } else { (self.last.bits() - self.first.bits()).saturating_add(1) }
    }
}

/// `10.64.4.20-10.64.5.250`, `10.64.5.128/27` or a single address; it points into no text.
impl<A: Address> std::str::FromStr for Pool<A> {
    type Err = ParseError;

    fn from_str(text: &str) -> Result<Self, ParseError> {
        Ok(Self::parse(text, &Spot::NOWHERE)?)
    }
}

/// As it is shown: `10.64.4.20-10.64.5.250`.
impl<A: Address> fmt::Display for Pool<A> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if self.first == self.last { write!(f, "{}", self.first) } else { write!(f, "{}-{}", self.first, self.last) }
    }
}

/// Ranges that may overlap, each with the place of what it belongs to, found by an address inside them.
#[derive(Debug, Clone)]
pub(crate) struct Ranges<A> {
    /// First, last and what it belongs to, in the order of the first addresses.
    sorted: Vec<(A, A, usize)>,
    /// How far this range or one before it reaches.
    reach: Vec<A>,
}

impl<A: Address> Ranges<A> {
    pub(crate) fn new(ranges: impl IntoIterator<Item = (A, A, usize)>) -> Self {
        let mut sorted: Vec<(A, A, usize)> = ranges.into_iter().collect();
        sorted.sort_unstable();
        let reach = sorted.iter().scan(A::from_bits(0), |reach, (_, last, _)| {
            *reach = (*reach).max(*last);
            Some(*reach)
        });
        Self { reach: reach.collect(), sorted }
    }

    /// What the ranges that hold the address belong to, the last to begin first.
    pub(crate) fn holding(&self, address: A) -> impl Iterator<Item = usize> {
        let begun = self.sorted.partition_point(|(first, ..)| *first <= address);
        let near = (0..begun).rev().take_while(move |at| self.reach[*at] >= address);
        near.filter(move |at| self.sorted[*at].1 >= address).map(|at| self.sorted[at].2)
    }
}

/// Ranges of numbers, both ends included, in their order and apart from each other, so that one is found without a search.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub(crate) struct Disjoint(SmallVec<[(u128, u128); 4]>);

impl Disjoint {
    pub(crate) fn new(ranges: impl IntoIterator<Item = (u128, u128)>) -> Self {
        let mut sorted: SmallVec<[(u128, u128); 4]> =
            ranges.into_iter().filter(|(first, last)| first <= last).collect();
        sorted.sort_unstable();
        sorted.dedup_by(|(from, to), (_, last)| {
            let meets = *from <= *last;
            *last = if meets { (*last).max(*to) } else { *last };
            meets
        });
        Self(sorted)
    }

    /// Those of pools; one that is backwards holds nothing.
    pub(crate) fn of<'p, A: Address>(pools: impl IntoIterator<Item = &'p Pool<A>>) -> Self {
        Self::new(pools.into_iter().map(Pool::bits))
    }

    pub(crate) fn holds(&self, number: u128) -> bool {
        self.from(number).first().is_some_and(|(first, _)| *first <= number)
    }

    /// Whether it has a number from first to last.
    pub(crate) fn meets(&self, first: u128, last: u128) -> bool {
        self.from(first).first().is_some_and(|(from, _)| *from <= last)
    }

    /// Those that end at this number or behind it.
    pub(crate) fn from(&self, number: u128) -> &[(u128, u128)] {
        &self.0[self.0.partition_point(|(_, last)| *last < number)..]
    }

    /// What is left of them without others.
    fn without(&self, taken: &Self) -> Self {
        let left = self.0.iter().flat_map(|(first, last)| gaps(*first, *last, taken.from(*first).iter().copied()));
        Self(left.collect())
    }

    /// All of them.
    pub(crate) fn ranges(&self) -> &[(u128, u128)] {
        &self.0
    }

    /// How many numbers they have.
    pub(crate) fn count(&self) -> u128 {
        self.0.iter().fold(0, |count, (from, to)| count.saturating_add((to - from).saturating_add(1)))
    }
}

/// What of some pools is not taken by others.
pub(crate) fn leasable<'p, A: Address>(
    pools: impl IntoIterator<Item = &'p Pool<A>>,
    taken: impl IntoIterator<Item = &'p Pool<A>>,
) -> Disjoint {
    Disjoint::of(pools).without(&Disjoint::of(taken))
}

/// What is left of the numbers from first to last, both included, without the ranges taken out, which are in the order of
/// their beginnings and may overlap: each gap by its first and last number.
pub(crate) fn gaps(
    first: u128,
    last: u128,
    mut taken: impl Iterator<Item = (u128, u128)>,
) -> impl Iterator<Item = (u128, u128)> {
    let mut next = (first <= last).then_some(first);
    std::iter::from_fn(move || {
        loop {
            let at = next.filter(|at| *at <= last)?;
            match taken.next() {
                Some((_, to)) if to < at => {}
                Some((from, to)) => {
                    next = to.checked_add(1);
                    if from > at {
                        let end = last.min(from - 1);
                        next = next.filter(|_| from <= last);
                        return Some((at, end));
                    }
                }
                None => {
                    next = None;
                    return Some((at, last));
                }
            }
        }
    })
}
