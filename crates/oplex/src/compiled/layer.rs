//! What one layer sends, as octets.

use std::borrow::Cow;
use std::sync::Arc;

use crate::codebook::{Codebook, Definition, OptionOctets};
use crate::family::{Both, Protocol};
use crate::finding::Spot;
use crate::layout::{Edit, Value};
use crate::once::Once;
use crate::plan::{self, BootKey, Fqdn, Sent, Times};

/// What one layer sends, over those that are wider.
#[derive(Debug, Clone)]
pub struct Layer<'p> {
    /// Which layer it is.
    pub id: LayerRef<'p>,
    /// The options that it sends, in the order of the plan.
    pub options: Both<Vec<SentOption<'p>>>,
    /// What it changes in options that wider layers send, in the order of the plan.
    pub amends: Both<Vec<Amend<'p>>>,
    /// Where it has its clients boot from.
    pub boot: Vec<Boot<'p>>,
    /// The keys of `boot` that it takes away.
    pub boot_withheld: Vec<BootKey>,
    /// The full name that its clients are answered with.
    pub fqdn: Option<Cow<'p, Fqdn>>,
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

/// What a layer changes in an option that a wider layer sends.
#[derive(Debug, Clone)]
pub struct Amend<'p> {
    /// Which option it is.
    pub definition: Arc<Definition>,
    /// The changes.
    pub edits: Cow<'p, [Edit]>,
    /// Where they stand in the plan.
    pub origin: Option<&'p plan::Amendment>,
    /// What the first value that was changed became: as a rule the wider layers send one.
    first: Once<Changed>,
}

/// What octets became by the changes of a layer.
#[derive(Debug, Clone)]
struct Changed {
    before: Vec<u8>,
    /// `None` where the option's layout does not take the changes.
    octets: Option<Arc<[u8]>>,
    value: Arc<Value>,
}

/// One key of where clients boot from.
#[derive(Debug, Clone)]
pub struct Boot<'p> {
    /// The key.
    pub key: BootKey,
    /// Its value as text: what the header has.
    pub text: Cow<'p, str>,
    /// The option that says the same.
    pub option: SentOption<'p>,
}

/// What became of an option by the changes of a narrower layer.
#[derive(Debug, Clone)]
pub struct Amended<'p> {
    /// The value with the changes.
    pub value: Arc<Value>,
    /// The last of the changes, as the plan says it.
    pub by: Option<&'p plan::Amendment>,
}

/// One option that a layer sends.
#[derive(Debug, Clone)]
pub struct SentOption<'p> {
    /// Which option it is.
    pub definition: Arc<Definition>,
    /// Its octets; `None` where its value is wrong.
    pub octets: Option<OptionOctets<'p>>,
    /// Where it stands in the plan; `None` in what was read back from a release.
    pub origin: Option<&'p Sent>,
    /// What narrower layers changed in it.
    pub amended: Option<Amended<'p>>,
}

impl<'p> SentOption<'p> {
    pub(crate) fn of(sent: &'p Sent) -> Self {
        let octets = sent.payload().map(|payload| payload.octets[..].into());
        Self { definition: Arc::clone(&sent.definition), octets, origin: Some(sent), amended: None }
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
    pub fn value(&self) -> Option<&Value> {
        match &self.amended {
            Some(amended) => Some(&amended.value),
            None => Some(&self.origin?.payload()?.value),
        }
    }

    /// The changes of a narrower layer that made it what it is.
    #[must_use]
    pub fn amended_by(&self) -> Option<&'p plan::Amendment> {
        self.amended.as_ref()?.by
    }

    /// Where its name stands in the plan.
    #[must_use]
    pub fn key(&self) -> Option<&'p Spot> {
        let amended = self.amended_by().map(|by| &by.key);
        amended.or(self.origin.map(|sent| &sent.key)).and_then(Spot::somewhere)
    }

    /// Where its value stands in the plan.
    #[must_use]
    pub fn spot(&self) -> Option<&'p Spot> {
        let amended = self.amended_by().map(|by| &by.spot);
        amended.or(self.origin.map(|sent| &sent.spot)).and_then(Spot::somewhere)
    }
}

impl<'p> Amend<'p> {
    /// What a plan changes; nothing where the changes are wrong.
    fn of(amendment: &'p plan::Amendment) -> Option<Self> {
        let edits = Cow::Borrowed(&amendment.outcome.as_ref().ok()?[..]);
        Some(Self::new(Arc::clone(&amendment.definition), edits, Some(amendment)))
    }

    /// Changes of an option, and where they stand in the plan.
    #[must_use]
    pub fn new(definition: Arc<Definition>, edits: Cow<'p, [Edit]>, origin: Option<&'p plan::Amendment>) -> Self {
        Self { definition, edits, origin, first: Once::new() }
    }

    /// The option with the changes; without octets where its layout does not take them.
    #[must_use]
    pub fn apply(&self, codebook: &Codebook, option: &SentOption<'p>) -> SentOption<'p> {
        let before = option.octets.as_deref().unwrap_or_default();
        if let Some(known) = self.first.get().filter(|known| option.octets.is_some() && known.before == before) {
            return self.amended(option, known);
        }
        let read = || codebook.decode(&option.definition, option.octets.as_deref()?).0;
        // Octets that the plan has as octets are a value, too.
        let known = option.value().filter(|value| !matches!(value, Value::Raw(_)));
        let Some(value) = known.cloned().or_else(read) else { return option.clone() };
        let layout = codebook.layout(&option.definition);
        let value = layout.amended(&value, &self.edits);
        let octets = layout.encode(codebook, &value).ok().map(|encoded| encoded.octets.into());
        let changed = Changed { before: before.to_vec(), octets, value: Arc::new(value) };
        let amended = self.amended(option, &changed);
        self.first.get_or_init(|| changed);
        amended
    }

    fn amended(&self, option: &SentOption<'p>, changed: &Changed) -> SentOption<'p> {
        let octets = changed.octets.clone().map(OptionOctets::from);
        let amended = Some(Amended { value: Arc::clone(&changed.value), by: self.origin });
        SentOption { octets, amended, ..option.clone() }
    }
}

impl<'p> Boot<'p> {
    fn of(entry: &'p plan::BootEntry) -> Self {
        Self { key: entry.key, text: Cow::Borrowed(&entry.text), option: SentOption::of(&entry.sent) }
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
            amends: Both::new(|family| layer.amends[family].iter().filter_map(Amend::of).collect()),
            boot: layer.boot.entries.iter().map(Boot::of).collect(),
            boot_withheld: layer.boot.withheld.iter().map(|(key, _)| *key).collect(),
            fqdn: layer.fqdn.as_ref().map(Cow::Borrowed),
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
