//! What a check finds.

use oplex::finding::{Finding, Sources};
use serde::Serialize;

use super::{FindingForm, PlanForm};

/// The findings, and what the plan says, where it could be read.
#[derive(Serialize)]
pub(crate) struct CheckForm<'c> {
    pub(crate) file: String,
    pub(crate) findings: Vec<FindingForm<'c>>,
    #[serde(flatten)]
    pub(crate) plan: Option<PlanForm<'c>>,
}

impl<'c> CheckForm<'c> {
    pub(crate) fn new(file: String, found: &'c [Finding], sources: &Sources, plan: Option<PlanForm<'c>>) -> Self {
        let findings = found.iter().map(|finding| FindingForm::new(finding, sources)).collect();
        Self { file, findings, plan }
    }
}
