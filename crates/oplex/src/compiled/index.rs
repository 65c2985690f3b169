//! Fleets and networks found without a look at each of them.

use std::collections::{BTreeSet, HashMap};
use std::net::{IpAddr, Ipv4Addr, Ipv6Addr};
use std::ops::{ControlFlow, Range};

use super::{Compiled, Fleet, Network, OnNetwork};
use smallvec::SmallVec;

use crate::family::Address;
use crate::plan::{Among, Fact, Meetings, Pool, Ranges, Texts, leasable};

/// Fleets by what they are recognised by, and by the networks on which they have something of their own; networks by what
/// messages say of where they come from.
#[derive(Debug, Clone)]
pub(crate) struct Index {
    meetings: Meetings,
    relays: HashMap<IpAddr, usize>,
    interfaces: HashMap<Box<[u8]>, usize>,
    v4: Ranges<Ipv4Addr>,
    v6: Ranges<Ipv6Addr>,
    /// By network: the fleets, in the order in which they apply, and where among their networks it is.
    on: Vec<Vec<(usize, usize)>>,
}

impl Index {
    fn of(compiled: &Compiled<'_>) -> Self {
        let fleets = || compiled.fleets.iter().enumerate();
        let mut on = vec![Vec::new(); compiled.networks.len()];
        for (at, fleet) in fleets() {
            for (place, here) in fleet.on.iter().enumerate() {
                on[here.network].push((at, place));
            }
        }
        let (mut relays, mut interfaces) = (HashMap::new(), HashMap::new());
        let networks = || compiled.networks.iter().enumerate();
        for (at, network) in networks() {
            let v6 = network.relays.v6.iter().map(|(relay, _)| IpAddr::from(*relay));
            for relay in network.relays.v4.iter().map(|(relay, _)| IpAddr::from(*relay)).chain(v6) {
                relays.entry(relay).or_insert(at);
            }
            for interface in network.interfaces.iter() {
                interfaces.entry(interface.clone()).or_insert(at);
            }
        }
        Self {
            meetings: Meetings::new(fleets().map(|(at, fleet)| (at, 0, &*fleet.recognised))),
            relays,
            interfaces,
            v4: nets(networks()),
            v6: nets(networks()),
            on,
        }
    }
}

/// The subnets or prefixes of all networks.
fn nets<'c, 'p: 'c, A: Address>(networks: impl Iterator<Item = (usize, &'c Network<'p>)>) -> Ranges<A> {
    let nets = networks.flat_map(|(at, network)| network.sides.of::<A>().subnets.iter().map(move |one| (at, one)));
    Ranges::new(nets.map(|(at, subnet)| (subnet.net.first(), subnet.net.last(), at)))
}

impl<'p> Compiled<'p> {
    /// The network that relay agents name by this interface (v6:18).
    pub(crate) fn network_at(&self, interface: &[u8]) -> Option<usize> {
        self.index().interfaces.get(interface).copied()
    }

    /// The network behind a relay agent of this address: the one that names it, or else the one whose subnet or prefix it is in.
    ///
    /// ```
    /// use oplex::compiled::Compiled;
    /// use oplex::plan::Plan;
    ///
    /// let text = "[network.desk]\nsubnet = \"10.64.4.0/24\"\n[network.dome]\nsubnet = \"10.64.8.0/21\"\nrelay = \"10.64.0.2\"\n";
    /// let plan = Plan::read("plan.toml", text, &mut |path| Err(format!("no file {path}").into())).plan.expect("it is TOML");
    /// let compiled = Compiled::of(&plan);
    /// // A relay agent's own address lies in the network as a rule; one that does not is named.
    /// assert_eq!(compiled.network_behind("10.64.4.1".parse()?), Some(0));
    /// assert_eq!(compiled.network_behind("10.64.0.2".parse()?), Some(1));
    /// assert_eq!(compiled.network_behind("192.0.2.1".parse()?), None);
    /// # Ok::<(), std::net::AddrParseError>(())
    /// ```
    #[must_use]
    pub fn network_behind(&self, relay: IpAddr) -> Option<usize> {
        let index = self.index();
        index.relays.get(&relay).copied().or_else(|| match relay {
            IpAddr::V4(relay) => index.v4.holding(relay).min(),
            IpAddr::V6(relay) => index.v6.holding(relay).min(),
        })
    }

    fn index(&self) -> &Index {
        self.index.get_or_init(|| Index::of(self))
    }

    /// The fleets that have something of their own on a network, in the order in which they apply.
    pub(crate) fn fleets_on<'a>(
        &'a self,
        network: usize,
    ) -> impl Iterator<Item = (&'a Fleet<'a>, &'a OnNetwork<'a>)> + Clone {
        let on = self.index().on.get(network).map_or(&[][..], Vec::as_slice);
        on.iter().map(|(at, place)| {
            let fleet: &'a Fleet<'a> = &self.fleets[*at];
            (fleet, &fleet.on[*place])
        })
    }

    /// Up to `most` of the `wanted` fleets that may share clients with one, all by their places, in the order in which they
    /// apply. They are looked for in the range `among`.
    #[must_use]
    pub fn fleets_meeting(
        &self,
        place: usize,
        among: Range<usize>,
        wanted: &dyn Fn(usize) -> bool,
        most: usize,
    ) -> Vec<usize> {
        let (own, mut found) = (&self.fleets[place].recognised, BTreeSet::new());
        let among = Among { items: among, not_of: None };
        let _ = self.index().meetings.near(own, &among, &mut |at| {
            if at != place && wanted(at) && own.may_share_clients(&self.fleets[at].recognised) {
                found.insert(at);
            }
            if found.len() < most { ControlFlow::Continue(()) } else { ControlFlow::Break(()) }
        });
        found.into_iter().collect()
    }

    /// What a network leases of these of its pools to clients of no fleet: each range by its first and last address, without what is
    /// excluded or fleets have for themselves.
    #[must_use]
    pub fn leasable_on<A: Address>(&self, network: usize, pools: &[&Pool<A>]) -> Vec<(A, A)> {
        let side = self.networks[network].sides.of::<A>();
        let taken = side.excluded.iter().chain(self.fleets_on(network).flat_map(|(_, on)| on.pools.of::<A>()));
        let left = leasable(pools.iter().copied(), taken);
        left.ranges().iter().map(|(first, last)| (A::from_bits(*first), A::from_bits(*last))).collect()
    }

    /// How many addresses a network leases to clients of no fleet with a pool of its own there, and how many to each fleet
    /// that has one, by its place among all.
    #[must_use]
    pub fn leases<A: Address>(&self, network: usize) -> (u128, Vec<(usize, u128)>) {
        let side = self.networks[network].sides.of::<A>();
        let own = self.fleets_on(network).filter_map(|(fleet, on)| Some((fleet.place()?, on.pools.of::<A>())));
        let of_fleets = own.clone().filter(|(_, pools)| !pools.is_empty());
        let of_fleets = of_fleets.map(|(at, pools)| (at, leasable(pools, &side.excluded).count())).collect();
        let taken = side.excluded.iter().chain(own.flat_map(|(_, pools)| pools));
        (leasable(&side.pools, taken).count(), of_fleets)
    }

    /// The fleets that a client may belong to, in the order in which they apply; the others it surely does not. `texts` is what it
    /// sends of a fact.
    pub(crate) fn candidates<'a>(
        &'a self,
        texts: impl Fn(&Fact, &mut dyn FnMut(&Texts)),
    ) -> impl Iterator<Item = &'a Fleet<'a>> {
        let mut found: SmallVec<[usize; 8]> = SmallVec::new();
        self.index().meetings.of_client(texts, &mut |at| found.push(at));
        found.sort_unstable();
        found.dedup();
        found.into_iter().map(|at| &self.fleets[at])
    }
}
