//! All rules, in the order of their names, so that nothing depends on the order of files.

use std::sync::LazyLock;

use super::declare::Check;
use super::rules;
use crate::finding::Rule;

/// Every rule with a function of its own.
pub(super) fn checks() -> &'static [&'static Check] {
    static CHECKS: LazyLock<Vec<&'static Check>> = LazyLock::new(|| {
        let mut checks: Vec<&Check> = rules::ALL.iter().flat_map(|subject| subject.iter().copied()).collect();
        checks.sort_by_key(|check| check.rule.name);
        checks
    });
    &CHECKS
}

/// These, and the rules that reading files speaks for.
pub(super) fn all() -> Vec<&'static Rule> {
    let mut rules: Vec<&Rule> = unsorted().collect();
    rules.sort_by_key(|rule| rule.name);
    rules
}

/// The same, in no order.
pub(super) fn unsorted() -> impl Iterator<Item = &'static Rule> {
    #[cfg(feature = "files")]
    let reading = crate::document::RULES.iter().chain(&crate::plan::RULES).copied().chain(crate::codebook::rules());
    #[cfg(not(feature = "files"))]
    let reading = std::iter::empty();
    let own = [&rules::layers::ALLOW_WITHOUT_EFFECT, &rules::missing::PLAN_WITHOUT_NETWORKS];
    let checks = rules::ALL.iter().flat_map(|subject| subject.iter()).map(|check| &check.rule);
    let traffic = rules::traffic::RULES.iter().copied();
    reading.chain(own).chain(checks).chain(traffic)
}
