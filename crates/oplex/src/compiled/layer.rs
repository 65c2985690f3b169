//! What one layer sends, as octets.

use std::borrow::Cow;

use crate::codebook::{Carrier, Definition};
use crate::family::{Both, Protocol};
use crate::finding::Spot;
use crate::layout::Value;
use crate::plan::{self, Sent};

/// What one layer sends, over those that are wider.
#[derive(Debug, Clone)]
pub struct Layer<'p> {
    /// Which layer it is.
    pub id: LayerRef<'p>,
    /// The options that it sends, in the order of the plan.
    pub options: Both<Vec<SentOption<'p>>>,
    /// The options of wider layers that it withholds, by the same keys.
    pub withheld: Vec<(Cow<'p, str>, u16)>,
    /// The times that it sets.
    pub times: Times<'p>,
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
    /// The book it is out of, as ids have it, with what stands between: `v4:`, `v4:82/`, `tern:`.
    pub prefix: Cow<'p, str>,
    /// Its code.
    pub code: u16,
    /// Its name.
    pub name: Cow<'p, str>,
    /// The protocols whose own option it is.
    pub own: [bool; 3],
    /// What carries it besides.
    pub carriers: Cow<'p, [Carrier]>,
    /// Its octets; `None` where its value is wrong.
    pub octets: Option<Cow<'p, [u8]>>,
    /// Where it stands in the plan; `None` in what was read back from a release.
    pub origin: Option<&'p Sent>,
}

impl<'p> SentOption<'p> {
    pub(crate) fn of(sent: &'p Sent) -> Self {
        let definition: &'p Definition = &sent.definition;
        Self {
            prefix: Cow::Borrowed(definition.prefix()),
            code: definition.code,
            name: Cow::Borrowed(&definition.name),
            own: Protocol::ALL.map(|protocol| definition.is_own_of(protocol)),
            carriers: Cow::Borrowed(&definition.carriers),
            octets: sent.payload().map(|payload| Cow::Borrowed(&payload.octets[..])),
            origin: Some(sent),
        }
    }

    /// `v4:121`, `tern:4`.
    #[must_use]
    pub fn id(&self) -> String {
        format!("{}{}", self.prefix, self.code)
    }

    /// Whether it is the protocol's own option of this code.
    #[must_use]
    pub fn is(&self, protocol: Protocol, code: u16) -> bool {
        self.code == code && self.own[protocol as usize]
    }

    /// Whether it is the same option as another, whatever they hold.
    #[must_use]
    pub fn is_same(&self, other: &SentOption<'_>) -> bool {
        self.code == other.code && self.prefix == other.prefix
    }

    /// Its value, where it comes from a plan and is right.
    #[must_use]
    pub fn value(&self) -> Option<&'p Value> {
        Some(&self.origin?.payload()?.value)
    }

    /// Where its name stands in the plan.
    #[must_use]
    pub fn key(&self) -> Option<&'p Spot> {
        self.origin.map(|sent| &sent.key)
    }

    /// Where its value stands in the plan.
    #[must_use]
    pub fn spot(&self) -> Option<&'p Spot> {
        self.origin.map(|sent| &sent.spot)
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

/// The times that a layer sets.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct Times<'p> {
    /// How long an address is leased, or valid.
    pub lease: Option<Time<'p>>,
    /// How long an IPv6 address or prefix is preferred.
    pub preferred: Option<Time<'p>>,
    /// When the client starts to renew (T1).
    pub renew: Option<Time<'p>>,
    /// When it starts to rebind (T2).
    pub rebind: Option<Time<'p>>,
}

impl<'p> Layer<'p> {
    /// What a layer of a plan sends.
    #[must_use]
    pub fn of(layer: &'p plan::Layer, kind: LayerKind) -> Self {
        let time = |written: &'p Option<(u32, Spot)>| {
            written.as_ref().map(|(seconds, spot)| Time { seconds: *seconds, spot: Some(spot) })
        };
        let withheld = layer.withheld.iter();
        Self {
            id: LayerRef { name: &layer.name, kind },
            options: Both::new(|family| layer.sends[family].iter().map(SentOption::of).collect()),
            withheld: withheld.map(|out| (Cow::Borrowed(out.definition.prefix()), out.definition.code)).collect(),
            times: Times {
                lease: time(&layer.lease),
                preferred: time(&layer.preferred),
                renew: time(&layer.renew),
                rebind: time(&layer.rebind),
            },
        }
    }

    /// Whether it withholds this option.
    #[must_use]
    pub fn withholds(&self, option: &SentOption<'_>) -> bool {
        self.withheld.iter().any(|(prefix, code)| *code == option.code && *prefix == option.prefix)
    }
}
