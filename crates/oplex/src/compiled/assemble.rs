//! The options of an answer as they go into messages.

use super::{LayerRef, Network, SentOption};
use crate::codebook::{self, OptionToSend};
use crate::family::Family;
use crate::finding::Spot;
use std::net::Ipv4Addr;

/// An option as it goes into a message, and where it comes from.
pub type Assembled<'a> = codebook::Assembled<'a, Origin<'a>>;

/// Where an option of an answer comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Origin<'a> {
    /// The layer that sends it.
    pub layer: LayerRef<'a>,
    /// Where that stands in the plan; `None` for a default, and for what was read back from a release.
    pub spot: Option<&'a Spot>,
}

/// What follows from a network itself: its mask and the times of its leases.
pub(crate) struct Computed<'a> {
    pub(crate) code: u16,
    pub(crate) octets: [u8; 4],
    pub(crate) from: Origin<'a>,
}

impl<'a> Network<'a> {
    /// The mask of the subnet that holds an address, as DHCPv4 sends it; without an address that of the first.
    pub(crate) fn mask(&'a self, address: Option<Ipv4Addr>) -> Option<Computed<'a>> {
        let side = &self.sides.v4;
        let subnet = address.and_then(|address| side.subnet_with(address)).or_else(|| side.subnet())?;
        let from = Origin { layer: self.layer.id, spot: subnet.spot.somewhere() };
        Some(Computed { code: 1, octets: subnet.net.mask().octets(), from })
    }
}

/// Brings options to where they travel: what is computed first, then what layers send. What has no octets is left out.
pub(crate) fn assembled<'s, 'a: 's>(
    family: Family,
    computed: &'s [Computed<'a>],
    sent: impl Iterator<Item = (&'s SentOption<'a>, LayerRef<'a>)>,
) -> Vec<Assembled<'a>> {
    let computed = computed.iter().map(|one| OptionToSend {
        code: one.code,
        own: true,
        carriers: &[],
        octets: one.octets.into(),
        from: one.from,
    });
    let sent = sent.filter_map(|(option, layer)| {
        let from = Origin { layer, spot: option.key() };
        Some(OptionToSend::new(family, &option.definition, option.octets.clone()?, from))
    });
    codebook::assemble(family, computed.chain(sent))
}
