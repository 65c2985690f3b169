//! Sets of codes, and the options in them.

use crate::prelude::*;
use alloc::sync::Arc;

use super::{Definition, Text};

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
    pub options: Vec<Arc<Definition>>,
    /// For each code up to the last, the place of its option; [`u16::MAX`] where there is none.
    pub(super) places: Vec<u16>,
}

impl Chapter {
    /// The options of a vendor's or a site's book.
    pub(super) fn of_vendor(name: Text, pad_and_end: bool, enterprise: Option<u32>) -> Self {
        let (prefix, options) = (format!("{name}:").into(), Vec::new());
        Self { name, prefix, code_octets: 1, length_octets: 1, pad_and_end, enterprise, options, places: Vec::new() }
    }

    pub(super) fn get(&self, code: u16) -> Option<&Arc<Definition>> {
        let at = usize::from(*self.places.get(usize::from(code))?);
        self.options.get(at).filter(|option| option.code == code)
    }

    pub(super) fn named(&self, name: &str) -> Option<&Arc<Definition>> {
        self.options.iter().find(|option| option.is_called(name))
    }

    pub(super) fn insert(&mut self, option: Arc<Definition>) {
        match self.options.binary_search_by_key(&option.code, |option| option.code) {
            Ok(at) => self.options[at] = option,
            Err(at) => self.options.insert(at, option),
        }
    }

    /// Notes where each code's option is; to be done when the last option is in.
    pub(super) fn index(&mut self) {
        let most = self.options.last().map_or(0, |option| usize::from(option.code) + 1);
        self.places = vec![u16::MAX; most];
        for (at, option) in self.options.iter().enumerate() {
            self.places[usize::from(option.code)] = at as u16;
        }
    }
}
