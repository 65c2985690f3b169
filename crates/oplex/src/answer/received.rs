//! Which network a client is on, found from its message.

use std::net::{IpAddr, Ipv4Addr, Ipv6Addr};

use crate::compiled::{Compiled, Network};
use crate::family::Address;
use crate::packet::{AnyMessage, Message as _, v4, v6};

impl Compiled<'_> {
    /// The network that a client's message comes from, by its place among all: of DHCPv4 by the link selection (82/5), the
    /// subnet selection (118), the relay agent (giaddr) or the address that the client has (RFC 3527, section 3; RFC 3011;
    /// RFC 2131, section 4.3.1); of DHCPv6 by the link address of the relay agent nearest to the client, or by
    /// the interface that it names (RFC 8415, sections 13.1 and 21.18). `None` where the message does not say: it was not
    /// relayed then, and came from the server's own link.
    #[must_use]
    pub fn network_of(&self, message: AnyMessage<'_>) -> Option<usize> {
        match message {
            AnyMessage::V4(message) => self.network_behind(address_v4(message)?.into()),
            AnyMessage::V6(message) => match link_of(message) {
                Some(link) => self.network_behind(link.into()),
                None => self.network_at(&interface_of(message)?),
            },
            AnyMessage::Ra(_) => None,
        }
    }

    /// The network that relay agents name by this interface (v6:18).
    fn network_at(&self, interface: &[u8]) -> Option<usize> {
        self.networks.iter().position(|network| network.interfaces.iter().any(|known| **known == *interface))
    }

    /// The network behind a relay agent of this address: the one that names it, or else the one whose subnet or prefix it is in.
    #[must_use]
    pub fn network_behind(&self, relay: IpAddr) -> Option<usize> {
        let named = |network: &Network<'_>| match relay {
            IpAddr::V4(relay) => network.relays.v4.iter().any(|(known, _)| *known == relay),
            IpAddr::V6(relay) => network.relays.v6.iter().any(|(known, _)| *known == relay),
        };
        self.networks.iter().position(named).or_else(|| match relay {
            IpAddr::V4(relay) => self.holding(relay),
            IpAddr::V6(relay) => self.holding(relay),
        })
    }

    fn holding<A: Address>(&self, address: A) -> Option<usize> {
        self.networks.iter().position(|network| network.sides.of::<A>().subnet_with(address).is_some())
    }
}

fn address_v4(message: v4::Message<'_>) -> Option<Ipv4Addr> {
    let codebook = crate::codebook::Codebook::standard();
    let header = message.header();
    let selected = message.value(codebook, "v4:82/5").or_else(|| message.value(codebook, "v4:118"));
    let selected = selected.and_then(|value| value.ipv4());
    selected.into_iter().chain([header.giaddr, header.ciaddr]).find(|address| !address.is_unspecified())
}

fn link_of(message: v6::Message<'_>) -> Option<Ipv6Addr> {
    let mut around = message;
    let mut link = None;
    while let Some(relay) = around.relay() {
        link = Some(relay.link).filter(|link| !link.is_unspecified()).or(link);
        around = around.relayed()?.0.ok()?;
    }
    link
}

/// The interface that the relay agent nearest to the client names.
fn interface_of(message: v6::Message<'_>) -> Option<Vec<u8>> {
    let mut around = message;
    let mut interface = None;
    while around.relay().is_some() {
        interface = around.option(18).map(|option| option.joined().into_owned()).or(interface);
        around = around.relayed()?.0.ok()?;
    }
    interface
}
