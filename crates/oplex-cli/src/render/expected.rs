//! What a plan expects, each with what was found about it.

use oplex::finding::{Finding, Location, Sources};
use oplex::plan::Plan;

/// The rule whose findings belong to expectations.
pub(crate) const EXPECTED: &str = "expectation-not-met";

/// An expectation, and why it is not met, if it is not.
pub(crate) struct Expected<'f> {
    pub(crate) title: String,
    pub(crate) place: Location,
    pub(crate) unmet: Vec<&'f Finding>,
}

/// All of them, in the order of the plan.
pub(crate) fn expectations<'f>(plan: &Plan, sources: &Sources, found: &'f [Finding]) -> Vec<Expected<'f>> {
    let start = |finding: &&Finding| finding.spot.as_ref().map_or(0, |spot| spot.span.start);
    let mut unmet: Vec<&Finding> = found.iter().filter(|finding| finding.rule.name == EXPECTED).collect();
    unmet.sort_by_key(start);
    let from = |place: usize| unmet.partition_point(|finding| start(finding) < place);
    let expected = plan.expectations.iter().enumerate().map(|(at, expect)| {
        // What is found about an expectation stands between its beginning and that of the next.
        let end = plan.expectations.get(at + 1).map_or(unmet.len(), |next| from(next.spot.span.start));
        let place = sources.location(&expect.spot);
        Expected {
            title: expect.title.clone().unwrap_or_else(|| format!("expectation in line {}", place.line)),
            place,
            unmet: unmet[from(expect.spot.span.start).min(end)..end].to_vec(),
        }
    });
    expected.collect()
}
