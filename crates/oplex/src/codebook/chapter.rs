//! Sets of codes, and the options in them.

use crate::prelude::*;
use alloc::sync::Arc;

use super::constants::{self, OptionRow};
use super::{Definition, Text};
use crate::once::Once;

/// A set of codes: the options of DHCPv4, the sub-options of one option, those of one vendor.
#[derive(Debug, Clone)]
#[non_exhaustive]
pub struct Chapter {
    /// Its name, as `options(NAME)` in layouts has it.
    pub name: Text,
    /// What stands before a code in the ids of its options: `v4:`, `v4:82/`.
    pub prefix: Text,
    /// How many octets a code takes: 1 or 2.
    pub code_octets: usize,
    /// How many octets a length takes: 1 or 2.
    pub length_octets: usize,
    /// Whether the codes 0 and 255 are pad and end, which have no length.
    pub pad_and_end: bool,
    /// The vendor whose options they are, by its enterprise number.
    pub enterprise: Option<u32>,
    /// Its options, in the order of their codes.
    slots: Vec<Slot>,
    /// For each code up to the last, the place of its option; [`u16::MAX`] where there is none.
    places: Vec<u16>,
}

/// Where one of a chapter's options is.
#[derive(Debug, Clone)]
enum Slot {
    /// What a standard book says of it becomes a definition when it is first wanted: most programs want few of hundreds.
    Standard(&'static OptionRow, Once<Arc<Definition>>),
    /// It was added to the standard ones.
    Added(Arc<Definition>),
}

impl Slot {
    fn code(&self) -> u16 {
        match self {
            Self::Standard(row, _) => row.code,
            Self::Added(option) => option.code,
        }
    }

    fn name(&self) -> &str {
        match self {
            Self::Standard(row, _) => row.name(),
            Self::Added(option) => &option.name,
        }
    }

    fn is_called(&self, word: &str) -> bool {
        match self {
            Self::Standard(row, _) => row.is_called(word),
            Self::Added(option) => option.is_called(word),
        }
    }
}

impl Chapter {
    /// A chapter without options, whose codes and lengths take as many octets.
    pub(super) fn empty(name: Text, prefix: Text, octets: (usize, usize)) -> Self {
        let (code_octets, length_octets) = octets;
        let (slots, places) = (Vec::new(), Vec::new());
        Self { name, prefix, code_octets, length_octets, pad_and_end: false, enterprise: None, slots, places }
    }

    /// The same with these options of a standard book, in the order of their codes.
    pub(super) fn with(mut self, rows: &'static [OptionRow]) -> Self {
        self.slots = rows.iter().map(|row| Slot::Standard(row, Once::new())).collect();
        self.index();
        self
    }

    /// The options of a vendor's or a site's book.
    pub(super) fn of_vendor(name: Text, pad_and_end: bool, enterprise: Option<u32>) -> Self {
        let prefix = format!("{name}:").into();
        Self { pad_and_end, enterprise, ..Self::empty(name, prefix, (1, 1)) }
    }

    /// Its options, in the order of their codes.
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    ///
    /// // What stands in the relay agent information (RFC 3046): its chapter has codes of its own.
    /// let relay = Codebook::standard().chapters().iter().find(|chapter| chapter.name == "relay-agent").expect("it is standard");
    /// let names: Vec<&str> = relay.options().take(2).map(|option| &*option.name).collect();
    /// assert_eq!(names, ["agent-circuit-id", "agent-remote-id"]);
    /// ```
    pub fn options(&self) -> impl Iterator<Item = &Arc<Definition>> {
        self.slots.iter().map(|slot| self.definition(slot))
    }

    /// Their names, in the same order.
    pub(super) fn names(&self) -> impl Iterator<Item = &str> {
        self.slots.iter().map(Slot::name)
    }

    #[inline]
    fn definition<'c>(&'c self, slot: &'c Slot) -> &'c Arc<Definition> {
        match slot {
            Slot::Standard(row, made) => made.get_or_init(|| Arc::new(constants::definition(self.prefix.clone(), row))),
            Slot::Added(option) => option,
        }
    }

    #[inline]
    pub(super) fn get(&self, code: u16) -> Option<&Arc<Definition>> {
        let at = usize::from(*self.places.get(usize::from(code))?);
        // Options may have been added since the places were noted.
        self.slots.get(at).filter(|slot| slot.code() == code).map(|slot| self.definition(slot))
    }

    pub(super) fn named(&self, name: &str) -> Option<&Arc<Definition>> {
        self.slots.iter().find(|slot| slot.is_called(name)).map(|slot| self.definition(slot))
    }

    pub(super) fn insert(&mut self, option: Arc<Definition>) {
        match self.slots.binary_search_by_key(&option.code, Slot::code) {
            Ok(at) => self.slots[at] = Slot::Added(option),
            Err(at) => self.slots.insert(at, Slot::Added(option)),
        }
    }

    /// Notes where each code's option is; to be done when the last option is in.
    pub(super) fn index(&mut self) {
        let most = self.slots.last().map_or(0, |slot| usize::from(slot.code()) + 1);
        self.places = vec![u16::MAX; most];
        for (at, slot) in self.slots.iter().enumerate() {
            self.places[usize::from(slot.code())] = at as u16;
        }
    }
}
