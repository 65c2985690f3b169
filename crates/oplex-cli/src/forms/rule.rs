//! A rule.

use oplex::finding::{Rule, Severity};
use serde::Serialize;

/// A rule as the catalogue has it.
#[derive(Serialize)]
pub(crate) struct RuleForm<'r> {
    pub(crate) rule: &'r str,
    pub(crate) severity: Severity,
    pub(crate) summary: &'r str,
    pub(crate) why: &'r str,
    #[serde(skip_serializing_if = "str::is_empty")]
    pub(crate) rfc: &'r str,
    pub(crate) about: String,
    pub(crate) examples: Vec<String>,
}

impl<'r> RuleForm<'r> {
    pub(crate) fn new(rule: &'r Rule, examples: Vec<String>) -> Self {
        let Rule { name, severity, about, summary, why, rfc, .. } = *rule;
        Self { rule: name, severity, summary, why, rfc, about: about.to_string(), examples }
    }
}
