//! What one layer sends, as octets.

use std::borrow::Cow;
use std::sync::Arc;

use crate::codebook::Definition;
use crate::family::{Both, Protocol};
use crate::finding::Spot;
use crate::layout::Value;
use crate::plan::{self, Sent, Times};

/// What one layer sends, over those that are wider.
#[derive(Debug, Clone)]
pub struct Layer<'p> {
    /// Which layer it is.
    pub id: LayerRef<'p>,
    /// The options that it sends, in the order of the plan.
    pub options: Both<Vec<SentOption<'p>>>,
    /// The options of wider layers that it withholds.
    pub withheld: Vec<Arc<Definition>>,
    /// The times that it sets.
    pub times: Times<Time<'p>>,
}

/// Which layer something comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct LayerRef<'p> {
    /// How it is called: `everyone`, `network control-room`.
    pub name: &'p str,
    /// Which one it is.
    pub kind: LayerKind,
}

/// Which of a plan's layers: networks and fleets by their places.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[non_exhaustive]
pub enum LayerKind {
    /// The widest, for all.
    Everyone,
    /// That of a network.
    Network(usize),
    /// That of a fleet.
    Fleet(usize),
    /// That of a fleet on a network.
    FleetOn(usize, usize),
    /// That of a reservation.
    Reservation,
}

/// One option that a layer sends.
#[derive(Debug, Clone)]
pub struct SentOption<'p> {
    /// Which option it is.
    pub definition: Arc<Definition>,
    /// Its octets; `None` where its value is wrong.
    pub octets: Option<Cow<'p, [u8]>>,
    /// Where it stands in the plan; `None` in what was read back from a release.
    pub origin: Option<&'p Sent>,
}

impl<'p> SentOption<'p> {
    pub(crate) fn of(sent: &'p Sent) -> Self {
        let octets = sent.payload().map(|payload| Cow::Borrowed(&payload.octets[..]));
        Self { definition: Arc::clone(&sent.definition), octets, origin: Some(sent) }
    }

    /// `v4:121`, `tern:4`.
    #[must_use]
    pub fn id(&self) -> crate::codebook::OptionId {
        self.definition.id()
    }

    /// Whether it is the protocol's own option of this code.
    #[must_use]
    pub fn is(&self, protocol: Protocol, code: u16) -> bool {
        self.definition.code == code && self.definition.is_own_of(protocol)
    }

    /// Whether it is the same option as another, whatever they hold.
    #[must_use]
    pub fn is_same(&self, other: &SentOption<'_>) -> bool {
        self.definition.is_same(&other.definition)
    }

    /// Its value, where it comes from a plan and is right.
    #[must_use]
    pub fn value(&self) -> Option<&'p Value> {
        Some(&self.origin?.payload()?.value)
    }

    /// Where its name stands in the plan.
    #[must_use]
    pub fn key(&self) -> Option<&'p Spot> {
        self.origin.and_then(|sent| sent.key.somewhere())
    }

    /// Where its value stands in the plan.
    #[must_use]
    pub fn spot(&self) -> Option<&'p Spot> {
        self.origin.and_then(|sent| sent.spot.somewhere())
    }
}

/// One of the times that a layer sets.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Time<'p> {
    /// In seconds; [`u32::MAX`] is for ever.
    pub seconds: u32,
    /// Where it stands in the plan.
    pub spot: Option<&'p Spot>,
}

impl<'p> Layer<'p> {
    /// What a layer of a plan sends.
    #[must_use]
    pub fn of(layer: &'p plan::Layer, kind: LayerKind) -> Self {
        Self {
            id: LayerRef { name: &layer.name, kind },
            options: Both::new(|family| layer.sends[family].iter().map(SentOption::of).collect()),
            withheld: layer.withheld.iter().map(|out| Arc::clone(&out.definition)).collect(),
            times: layer.times.map(|(seconds, spot)| Time { seconds: *seconds, spot: spot.somewhere() }),
        }
    }

    /// Whether it withholds this option.
    #[must_use]
    pub fn withholds(&self, option: &SentOption<'_>) -> bool {
        self.withheld.iter().any(|out| out.is_same(&option.definition))
    }
}
