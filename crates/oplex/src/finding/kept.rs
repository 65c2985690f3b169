//! Findings of which no more are kept than anybody looks at.

use core::ops::{Deref, DerefMut};

use alloc::collections::BTreeMap;

use super::Finding;
use crate::prelude::*;

/// As many findings of one rule are kept; a table may have a million lines that are all wrong.
pub(crate) const MOST: usize = 10_000;

/// Findings in the order in which they were found, of each rule up to [`MOST`]. The last one of a rule says how many more
/// there are.
#[derive(Debug, Clone, Default)]
pub(crate) struct Findings {
    kept: Vec<Finding>,
    /// By the name of the rule: how many are kept, and where the last is.
    of_rules: BTreeMap<&'static str, (usize, usize)>,
}

impl Findings {
    pub(crate) fn push(&mut self, finding: Finding) {
        let (count, last) = self.of_rules.entry(finding.rule.name).or_default();
        if *count == MOST {
            self.kept[*last].more += 1 + finding.more;
            return;
        }
        (*count, *last) = (*count + 1, self.kept.len());
        self.kept.push(finding);
    }

    pub(crate) fn into_vec(self) -> Vec<Finding> {
        self.kept
    }
}

impl Extend<Finding> for Findings {
    fn extend<I: IntoIterator<Item = Finding>>(&mut self, more: I) {
        more.into_iter().for_each(|finding| self.push(finding));
    }
}

impl Deref for Findings {
    type Target = [Finding];

    fn deref(&self) -> &[Finding] {
        &self.kept
    }
}

impl DerefMut for Findings {
    fn deref_mut(&mut self) -> &mut [Finding] {
        &mut self.kept
    }
}

impl IntoIterator for Findings {
    type Item = Finding;
    type IntoIter = <Vec<Finding> as IntoIterator>::IntoIter;

    fn into_iter(self) -> Self::IntoIter {
        self.kept.into_iter()
    }
}
