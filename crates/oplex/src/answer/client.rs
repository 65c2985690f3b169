//! What one client gets: which fleets it belongs to, its address, and everything it is sent.

use std::net::{Ipv4Addr, Ipv6Addr};

use smallvec::SmallVec;

use super::chosen::{BootHeader, chosen};
use super::fleets::recognised;
use super::host::host;
use super::lease::assigned;
use super::sent::{on_subnet, payloads};
use super::timers::timers;
use super::{AnsweredName, Assigned, Chosen, HostMode, HostState, NoAddress, Timers};
use crate::compiled::{Assembled, Compiled, Fleet, Layer, LayerKind, Network};
use crate::family::{Family, Net};
use crate::plan::{ClientFacts, Reservation};

/// What one client gets by one family.
#[derive(Debug, Clone)]
pub struct Answer<'a> {
    /// The family.
    pub family: Family,
    /// The network it is on.
    pub network: &'a Network<'a>,
    /// The fleets it belongs to, in the order in which they apply.
    pub fleets: Vec<&'a Fleet<'a>>,
    /// The reservation that names it.
    pub reservation: Option<&'a Reservation>,
    /// The address that DHCP assigns it, or why it gets none.
    pub address: Result<Assigned<'a>, NoAddress>,
    /// How long it may keep the address.
    pub timers: Timers<'a>,
    /// Every option there is for it, whether it requests it or not.
    pub sent: Vec<Chosen<'a>>,
    /// The payloads of these, and of what follows from the network itself.
    pub payloads: Vec<Assembled<'a>>,
    /// What the header of DHCPv4's replies says of where it boots from.
    pub boot: BootHeader<'a>,
    /// The name that it is answered with, if it sends one.
    pub fqdn: Option<AnsweredName<'a>>,
    /// What an IPv6 host makes of what its router advertises.
    pub host: Option<HostState>,
}

impl<'p> Compiled<'p> {
    /// The prefixes that are reserved for single clients of a network, where a client requests one.
    pub(crate) fn delegated_on(&self, facts: &ClientFacts) -> Vec<Net<Ipv6Addr>> {
        let rows = self.reservations.telling().filter(|row| facts.delegation && row.network() == facts.network);
        rows.filter_map(|row| Some(row.delegated()?.0)).collect()
    }

    /// What one client gets by one family; `None` when it is on no network, or on one without a subnet or prefix of it.
    ///
    /// ```
    /// use oplex::compiled::Compiled;
    /// use oplex::family::Family;
    /// use oplex::plan::ClientFacts;
    /// # use oplex::plan::Plan;
    /// # let text = "server = \"10.64.0.67\"\n[network.desk]\nsubnet = \"10.64.4.0/24\"\npool = \"10.64.4.20-10.64.4.90\"\n\
    /// #             send.v4 = { router = \"10.64.4.1\" }\n[fleet.phones]\nmatch = { vendor-class = \"Tern D2*\" }\n\
    /// #             send.v4 = { log-server = \"10.64.0.57\" }\n";
    /// # let plan = Plan::read("plan.toml", text, &mut |path| Err(format!("no file {path}").into())).plan.expect("it is TOML");
    ///
    /// let compiled = Compiled::of(&plan);
    /// let mut phone = ClientFacts { mac: Some([2, 0, 0x5e, 0, 0x53, 0x11].into()), ..ClientFacts::on(0) };
    /// phone.describe(&plan.codebook, "vendor-class", "Tern D2 4.1")?;
    /// let answer = compiled.answer(Family::V4, &phone).ok_or("the network has a subnet")?;
    /// let log = answer.sent.iter().find(|chosen| chosen.option.id().to_string() == "v4:7").ok_or("the fleet sends it")?;
    /// assert_eq!(log.option.octets.as_deref(), Some(&[10, 64, 0, 57][..]));
    /// assert_eq!(answer.fleets.len(), 1);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn answer<'a>(&'a self, family: Family, facts: &ClientFacts) -> Option<Answer<'a>> {
        let known = self.identify(family, facts)?;
        let (reservation, fleets) = (known.reservation, &known.fleets);
        let address = match family {
            Family::V4 => assigned::<Ipv4Addr>(self, facts, reservation, fleets),
            Family::V6 if HostMode::on(known.network).requests_addresses() => {
                assigned::<Ipv6Addr>(self, facts, reservation, fleets)
            }
            Family::V6 => Err(NoAddress::NotRequested),
        };
        let delegated = reservation.and_then(|row| Some(row.delegated()?.0));
        let host = (family == Family::V6)
            .then(|| host(known.network, facts, &address, (delegated, &self.delegated_on(facts))));
        Some(Answer { host, ..self.answer_of(family, facts, known, address) })
    }

    /// Which network a client is on, which fleets it belongs to, and which reservation names it; `None` as for an answer.
    pub(crate) fn identify<'a>(&'a self, family: Family, facts: &ClientFacts) -> Option<Identified<'a>> {
        let network =
            self.networks.get(facts.network).filter(|network| family == Family::V4 || network.sides.has(family))?;
        let fleets = recognised(self, facts, family);
        let reservation = self.reservations.of_client(family, facts);
        Some(Identified { network, fleets, reservation })
    }

    /// What a client gets with this address.
    pub(crate) fn answer_of<'a>(
        &'a self,
        family: Family,
        facts: &ClientFacts,
        known: Identified<'a>,
        address: Result<Assigned<'a>, NoAddress>,
    ) -> Answer<'a> {
        let Identified { network, fleets, reservation } = known;
        let of_reservation = reservation.and_then(Reservation::layer);
        let of_reservation = of_reservation.map(|layer| Layer::of(layer, LayerKind::Reservation));
        let mut layers: SmallVec<[&Layer<'a>; 8]> = SmallVec::new();
        layers.extend([&self.everyone, &network.layer]);
        layers.extend(fleets.iter().map(|fleet| &fleet.layer));
        layers.extend(fleets.iter().filter_map(|fleet| Some(&fleet.on(facts.network)?.layer)));
        layers.extend(&of_reservation);
        let sent = chosen(&self.codebook, &layers, family);
        let timers = timers(family, &layers, &sent);
        let given = address.as_ref().ok().map(|assigned| assigned.address);
        let sent = on_subnet(sent, network, given);
        Answer {
            family,
            network,
            host: None,
            payloads: payloads(family, network, given, &timers, &sent),
            boot: BootHeader::of(&layers),
            fqdn: AnsweredName::of(&layers, family),
            fleets,
            reservation,
            address,
            timers,
            sent,
        }
    }
}

/// Who a client is to a plan.
#[derive(Debug)]
pub(crate) struct Identified<'a> {
    pub(crate) network: &'a Network<'a>,
    pub(crate) fleets: Vec<&'a Fleet<'a>>,
    pub(crate) reservation: Option<&'a Reservation>,
}
