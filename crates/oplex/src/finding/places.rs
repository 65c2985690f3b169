//! What a finding is about: octets, and places in texts.

use core::ops::Range;

use super::{Finding, Spot};
use crate::prelude::*;

impl Finding {
    /// Names another place that it is about.
    #[must_use]
    pub fn related(mut self, spot: Spot, text: impl Into<String>) -> Self {
        self.related.push((spot, text.into()));
        self
    }

    /// Says which octets it is about.
    #[must_use]
    pub fn on(self, octets: Range<usize>) -> Self {
        Self { octets: Some(octets), ..self }
    }

    /// The same of octets that may be missing: what stands nowhere has none.
    #[must_use]
    pub(crate) fn on_some(self, octets: Option<Range<usize>>) -> Self {
        Self { octets, ..self }
    }

    /// Says the same of other octets of its option, and what is wrong there.
    ///
    /// ```
    /// use oplex::check;
    /// use oplex::codebook::Codebook;
    ///
    /// // Two gateways of three are no hosts: one finding, with both places.
    /// let codebook = Codebook::standard();
    /// let octets = [0, 0, 0, 0, 10, 64, 4, 1, 224, 0, 0, 1];
    /// let findings = check::payload(codebook, codebook.find("v4:router")?, &octets);
    /// assert_eq!(findings.len(), 1);
    /// assert_eq!((findings[0].octets.clone(), findings[0].also[0].0.clone()), (Some(0..4), 8..12));
    /// assert_eq!(findings[0].also[0].1, "224.0.0.1 is a multicast address, not the address of a host");
    /// # Ok::<(), oplex::codebook::Unknown>(())
    /// ```
    #[must_use]
    pub fn also(mut self, octets: Range<usize>, what: impl Into<String>) -> Self {
        self.also.push((octets, what.into()));
        self
    }

    /// The same; without octets it is about these, which are all.
    #[must_use]
    pub(crate) fn on_whole(self, whole: Range<usize>) -> Self {
        let octets = self.octets.clone().unwrap_or(whole);
        self.on(octets)
    }

    /// The same with all its octets counted from somewhere else; where it has none, it is about `whole`.
    #[must_use]
    pub(crate) fn rebased(mut self, whole: Range<usize>, place: impl Fn(Range<usize>) -> Range<usize>) -> Self {
        self.octets = Some(place(self.octets.unwrap_or(whole)));
        self.moved(place)
    }

    /// The same with its other octets counted from somewhere else.
    fn moved(mut self, place: impl Fn(Range<usize>) -> Range<usize>) -> Self {
        for (octets, _) in &mut self.also {
            *octets = place(octets.clone());
        }
        self
    }

    /// The same with its octets, if it has any, so much further on.
    #[must_use]
    pub(crate) fn further_on(mut self, by: usize) -> Self {
        let place = |octets: Range<usize>| by + octets.start..by + octets.end;
        self.octets = self.octets.map(place);
        self.moved(place)
    }
}

/// The rule by its name, and no places: those need the texts they point into.
#[cfg(feature = "serde")]
impl serde::Serialize for Finding {
    fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        use serde::ser::SerializeStruct;
        let mut form = serializer.serialize_struct("Finding", 10)?;
        form.serialize_field("rule", self.rule.name)?;
        form.serialize_field("severity", &self.severity)?;
        form.serialize_field("message", &self.message)?;
        form.serialize_field("option", &self.option)?;
        form.serialize_field("replace", &self.replace)?;
        form.serialize_field("safe", &self.safe)?;
        form.serialize_field("advice", &self.advice)?;
        form.serialize_field("octets", &self.octets.as_ref().map(|octets| [octets.start, octets.end]))?;
        let also: Vec<_> = self.also.iter().map(|(octets, what)| ([octets.start, octets.end], what)).collect();
        form.serialize_field("also", &also)?;
        form.serialize_field("rfc", &self.rfc)?;
        form.end()
    }
}
