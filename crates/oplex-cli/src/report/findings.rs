//! Findings on a page: what is wrong, the line that says so, and what to write instead.

use maud::{Markup, html};
use oplex::finding::{Finding, Severity, Sources, Spot};

use super::{Section, Verdict, counted};
use crate::render::findings::{MOST_PLACES, tally, unshown};

/// As many findings are on a page.
const MOST: usize = 500;

/// No more of a line is shown.
const LINE: usize = 400;

pub(super) fn class(severity: Severity) -> &'static str {
    match severity {
        Severity::Error => "bad",
        Severity::Warning => "odd",
        Severity::Note => "dim",
    }
}

/// What the findings come to in a line.
pub(super) fn verdict(found: &[Finding], none: &str) -> Verdict {
    let worst = found.iter().map(|finding| finding.severity).max();
    let text = match worst {
        None => none.to_owned(),
        Some(Severity::Error) => format!("{}: this cannot be published", tally(found)),
        Some(_) => format!("No errors; {}", tally(found)),
    };
    let class = match worst {
        Some(Severity::Error) => "bad",
        Some(Severity::Warning) => "odd",
        _ => "good",
    };
    Verdict { text, class }
}

/// All of them, the worst first.
pub(super) fn section(found: &[Finding], sources: &Sources) -> Option<Section> {
    if found.is_empty() {
        return None;
    }
    let mut sorted: Vec<&Finding> = found.iter().collect();
    sorted.sort_by_key(|finding| std::cmp::Reverse(finding.severity));
    let more = found.len().saturating_sub(MOST);
    let content = html! {
        @for finding in sorted.into_iter().take(MOST) { (one(finding, sources)) }
        @if more > 0 { p.dim { "and " (counted(more, "finding")) " more, which oplex check lists" } }
    };
    Some(Section { id: "findings", title: "Findings".to_owned(), content })
}

/// One of them.
pub(super) fn one(finding: &Finding, sources: &Sources) -> Markup {
    let class = class(finding.severity);
    html! {
        div.card.finding.(class) data-row {
            p { span.tag.(class) { (finding.severity) } " " (finding.message) " " span.dim { (finding.rule.name) } }
            @if let Some(spot) = &finding.spot { (source(spot, sources)) }
            @for (_, what) in finding.also.iter().take(MOST_PLACES) { p.dim { "also " (what) } }
            @for (spot, label) in finding.related.iter().take(MOST_PLACES) {
                @let place = sources.location(spot);
                p.dim { (place.file) ":" (place.line) "  " (label) }
            }
            @if unshown(finding) > 0 { p.dim { "and " (unshown(finding)) " more like it" } }
            @if let Some(remedy) = finding.remedy() { p { span.dim { "try " } (remedy) } }
            @if !finding.rfc.is_empty() { p { span.dim { "see " } (finding.rfc) } }
        }
    }
}

/// The line, with the characters marked.
fn source(spot: &Spot, sources: &Sources) -> Markup {
    let place = sources.location(spot);
    let source = sources.get(spot.file);
    let text = &source.text;
    let line = source.lines_around(spot.span.start, 0);
    let (begin, end) = (line.start, line.start + text[line].trim_end_matches(['\n', '\r']).len());
    let start = spot.span.start.min(end);
    let marked = start..spot.span.end.clamp(start, end);
    let short = end - begin <= LINE;
    html! {
        @if short {
            pre { span.dim { (place.file) ":" (place.line) "  " }
                (text[begin..marked.start]) mark { (text[marked.clone()]) } (text[marked.end..end]) }
        } @else {
            pre { span.dim { (place.file) ":" (place.line) ":" (place.column) } }
        }
    }
}
