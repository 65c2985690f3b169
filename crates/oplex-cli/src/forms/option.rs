//! Options: looked up, encoded and decoded.

use oplex::codebook::{Codebook, Definition};
use oplex::finding::Severity;
use oplex::layout::Value;
use serde::Serialize;

use super::FindingForm;

/// What is known of an option.
#[derive(Serialize)]
pub(crate) struct LookupForm<'d> {
    pub(crate) option: String,
    pub(crate) name: &'d str,
    pub(crate) title: &'d str,
    pub(crate) summary: &'d str,
    pub(crate) layout: &'d str,
    pub(crate) min_length: usize,
    pub(crate) max_length: Option<usize>,
    pub(crate) sent_by: String,
    pub(crate) status: String,
    pub(crate) reference: &'d str,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) stands: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) example: Option<&'d str>,
}

impl<'d> LookupForm<'d> {
    pub(crate) fn new(codebook: &Codebook, definition: &'d Definition, stands: Option<String>) -> Self {
        let (min_length, max_length) = codebook.layout(definition).lengths();
        Self {
            option: definition.id().to_string(),
            name: &definition.name,
            title: &definition.title,
            summary: &definition.summary,
            layout: &definition.layout_text,
            min_length,
            max_length,
            sent_by: definition.sent_by.to_string(),
            status: definition.status.to_string(),
            reference: &definition.reference,
            stands,
            example: definition.example.as_deref(),
        }
    }
}

/// An encoded value.
#[derive(Serialize)]
pub(crate) struct EncodeForm<'e> {
    pub(crate) option: String,
    pub(crate) name: &'e str,
    pub(crate) length: usize,
    pub(crate) hex: String,
    pub(crate) value: &'e Value,
    pub(crate) findings: Vec<FindingForm<'e>>,
}

/// A decoded value.
#[derive(Serialize)]
pub(crate) struct DecodeForm<'d> {
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) option: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    pub(crate) name: Option<&'d str>,
    pub(crate) length: usize,
    pub(crate) hex: String,
    pub(crate) value: Option<&'d Value>,
    pub(crate) findings: Vec<FlawForm<'d>>,
}

/// What is wrong with octets: a rule's finding, or a fault of the layout where there is no option and so no rule.
#[derive(Serialize)]
#[serde(untagged)]
pub(crate) enum FlawForm<'d> {
    Finding(FindingForm<'d>),
    Fault { severity: Severity, message: String, octets: [usize; 2] },
}

/// How many options are known.
#[derive(Serialize)]
pub(crate) struct CountForm {
    pub(crate) options: usize,
    pub(crate) sub_options: usize,
}
