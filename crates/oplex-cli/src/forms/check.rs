//! What a check finds.

use oplex::finding::{Finding, Sources};
use oplex::plan::Allowed;
use serde::Serialize;

use super::{FindingForm, PlanForm};

/// A rule that the plan allows, and how many of its findings that takes away.
#[derive(Serialize)]
pub(crate) struct AllowedForm<'c> {
    rule: &'c str,
    reason: Option<&'c str>,
    count: usize,
}

/// The findings, and what the plan says, where it could be read.
#[derive(Serialize)]
pub(crate) struct CheckForm<'c> {
    pub(crate) file: String,
    pub(crate) findings: Vec<FindingForm<'c>>,
    pub(crate) allowed: Vec<AllowedForm<'c>>,
    #[serde(flatten)]
    pub(crate) plan: Option<PlanForm<'c>>,
}

impl<'c> CheckForm<'c> {
    pub(crate) fn new(file: String, found: &'c [Finding], sources: &Sources, plan: Option<PlanForm<'c>>) -> Self {
        let findings = found.iter().map(|finding| FindingForm::new(finding, sources)).collect();
        Self { file, findings, allowed: Vec::new(), plan }
    }

    /// The same, with what the plan allows.
    pub(crate) fn allowing(self, allowed: &'c [(Allowed, usize)]) -> Self {
        let form = |(entry, count): &'c (Allowed, usize)| AllowedForm {
            rule: &entry.rule,
            reason: entry.reason.as_deref(),
            count: *count,
        };
        Self { allowed: allowed.iter().map(form).collect(), ..self }
    }
}
