//! A finding.

use oplex::finding::{Finding, Severity, Sources};
use serde::Serialize;

/// One finding. `line` and `column` count from 1, columns in characters; `end` is the place after its last character.
#[derive(Debug, Serialize)]
pub(crate) struct FindingForm<'f> {
    rule: &'f str,
    severity: Severity,
    message: &'f str,
    #[serde(skip_serializing_if = "Option::is_none")]
    replace: Option<&'f str>,
    /// Whether a program may write the replacement without asking.
    #[serde(skip_serializing_if = "std::ops::Not::not")]
    safe: bool,
    #[serde(skip_serializing_if = "Option::is_none")]
    advice: Option<&'f str>,
    #[serde(flatten, skip_serializing_if = "Option::is_none")]
    place: Option<PlaceForm>,
    #[serde(skip_serializing_if = "Option::is_none")]
    octets: Option<[usize; 2]>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    also: Vec<AlsoForm<'f>>,
    #[serde(skip_serializing_if = "str::is_empty")]
    rfc: &'f str,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    related: Vec<RelatedForm<'f>>,
    #[serde(skip_serializing_if = "is_none_more")]
    more: usize,
}

fn is_none_more(more: &usize) -> bool {
    *more == 0
}

#[derive(Debug, Serialize)]
struct PlaceForm {
    file: String,
    line: usize,
    column: usize,
    end: EndForm,
}

#[derive(Debug, Serialize)]
struct EndForm {
    line: usize,
    column: usize,
}

/// Other octets of which it says the same.
#[derive(Debug, Serialize)]
struct AlsoForm<'f> {
    message: &'f str,
    octets: [usize; 2],
}

#[derive(Debug, Serialize)]
struct RelatedForm<'f> {
    message: &'f str,
    #[serde(flatten)]
    place: PlaceForm,
}

impl<'f> FindingForm<'f> {
    pub(crate) fn new(finding: &'f Finding, sources: &Sources) -> Self {
        let place = |spot| {
            let place = sources.location(spot);
            let end = EndForm { line: place.end_line, column: place.end_column };
            PlaceForm { file: place.file, line: place.line, column: place.column, end }
        };
        Self {
            rule: finding.rule.name,
            severity: finding.severity,
            message: &finding.message,
            replace: finding.replace.as_deref(),
            safe: finding.safe,
            advice: finding.advice.as_deref(),
            place: finding.spot.as_ref().map(place),
            octets: finding.octets.as_ref().map(|octets| [octets.start, octets.end]),
            also: finding
                .also
                .iter()
                .map(|(octets, message)| AlsoForm { message, octets: [octets.start, octets.end] })
                .collect(),
            rfc: &finding.rfc,
            related: finding
                .related
                .iter()
                .map(|(spot, message)| RelatedForm { message, place: place(spot) })
                .collect(),
            more: finding.more,
        }
    }
}
