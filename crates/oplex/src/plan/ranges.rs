//! Ranges of addresses, found by an address inside them.

use std::net::Ipv4Addr;

/// Ranges that may overlap, each with the place of what it belongs to.
#[derive(Debug, Clone, Default)]
pub(crate) struct Ranges {
    /// First, last and what it belongs to, in the order of the first addresses.
    sorted: Vec<(Ipv4Addr, Ipv4Addr, usize)>,
    /// How far this range or one before it reaches.
    reach: Vec<Ipv4Addr>,
}

impl Ranges {
    pub(crate) fn new(ranges: impl IntoIterator<Item = (Ipv4Addr, Ipv4Addr, usize)>) -> Self {
        let mut sorted: Vec<(Ipv4Addr, Ipv4Addr, usize)> = ranges.into_iter().collect();
        sorted.sort_unstable();
        let reach = sorted.iter().scan(Ipv4Addr::UNSPECIFIED, |reach, (_, last, _)| {
            *reach = (*reach).max(*last);
            Some(*reach)
        });
        Self { reach: reach.collect(), sorted }
    }

    /// What the ranges that hold the address belong to, the last to begin first.
    pub(crate) fn holding(&self, address: Ipv4Addr) -> impl Iterator<Item = usize> {
        let begun = self.sorted.partition_point(|(first, ..)| *first <= address);
        let near = (0..begun).rev().take_while(move |at| self.reach[*at] >= address);
        near.filter(move |at| self.sorted[*at].1 >= address).map(|at| self.sorted[at].2)
    }
}
