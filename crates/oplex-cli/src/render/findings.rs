//! Findings for people: the line, the characters underlined, what to try, and the RFC to see.

use std::io::{self, Write};
use std::ops::Range;

use annotate_snippets::renderer::DecorStyle;
use annotate_snippets::{AnnotationKind, Group, Level, Renderer, Snippet};
use oplex::finding::{FileId, Finding, Severity, Sources, Spot};

use super::style::{AID, BAD, DIM, ODD, STRONG, in_style};
use super::{clean, wrap};

/// Lines further apart than this are drawn as two pieces.
const NEAR: usize = 12;

/// Lines of more octets than this, all together, are not read.
const LONGEST: usize = 64 << 10;

/// As many findings as anybody reads; programs get all of them.
pub(crate) const MOST: usize = 200;

/// Other places of one finding that anybody looks at; a list may have thousands of items that are all wrong.
pub(crate) const MOST_PLACES: usize = 8;

/// How many of its kind a finding stands for whose places are not shown.
pub(crate) fn unshown(finding: &Finding) -> usize {
    let beyond = |places: usize| places.saturating_sub(MOST_PLACES);
    finding.more + beyond(finding.also.len()) + beyond(finding.related.len())
}

/// Which octets: `octet 4`, `octets 4 to 7`.
pub(crate) fn place(octets: &Range<usize>) -> String {
    match octets.len() {
        0 | 1 => format!("octet {}", octets.start),
        _ => format!("octets {} to {}", octets.start, octets.end - 1),
    }
}

/// The findings, one after the other, each after an empty line.
pub(crate) fn draw_all(out: &mut dyn Write, findings: &[Finding], sources: &Sources) -> io::Result<()> {
    for finding in findings.iter().take(MOST) {
        write!(out, "\n{}", draw(finding, sources))?;
    }
    draw_more(out, findings)
}

/// How many of these are not drawn.
pub(crate) fn draw_more(out: &mut dyn Write, findings: &[Finding]) -> io::Result<()> {
    let unlisted: usize = findings.iter().map(|finding| finding.more).sum();
    let most = findings.iter().take(MOST).map(|finding| finding.more).sum::<usize>();
    match (findings.len().saturating_sub(MOST) + unlisted - most, unlisted) {
        (0, _) => Ok(()),
        (more, 0) => writeln!(out, "\nand {more} more; --format json lists all"),
        (more, _) => writeln!(out, "\nand {more} more; --format json lists up to 10000 of each rule"),
    }
}

/// One finding, drawn.
pub(crate) fn draw(finding: &Finding, sources: &Sources) -> String {
    let title = format!("{} {}", in_severity(finding.severity, finding.severity), clean::line(&finding.message));
    let rule = in_style(DIM, finding.rule.name);
    let mut text = format!("{title}  {rule}\n");
    if let Some(spot) = &finding.spot {
        text.push_str(&snippets(finding, spot, sources));
    }
    for (octets, what) in finding.also.iter().take(MOST_PLACES) {
        text.push_str(&format!("  {} {}: {}\n", in_style(AID, "also"), place(octets), clean::line(what)));
    }
    let more = unshown(finding);
    if more > 0 {
        text.push_str(&format!("  and {more} more like it\n"));
    }
    if let Some(remedy) = finding.remedy() {
        text.push_str(&format!("  {} {}\n", in_style(AID, "try"), clean::line(remedy)));
    }
    if !finding.rfc.is_empty() {
        text.push_str(&format!("  {} {}\n", in_style(AID, "see"), clean::line(&finding.rfc)));
    }
    text
}

/// Text in the style of a severity.
pub(crate) fn in_severity(severity: Severity, text: impl std::fmt::Display) -> String {
    match severity {
        Severity::Error => in_style(BAD, text),
        Severity::Warning => in_style(ODD, text),
        Severity::Note => in_style(STRONG, text),
    }
}

/// `3 errors, 1 warning`
pub(crate) fn tally(findings: &[Finding]) -> String {
    let count = |severity| {
        let own = findings.iter().filter(|finding| finding.severity == severity);
        own.map(|finding| 1 + finding.more).sum::<usize>()
    };
    let mut parts = Vec::new();
    for severity in [Severity::Error, Severity::Warning, Severity::Note] {
        match count(severity) {
            0 => {}
            1 => parts.push(format!("1 {severity}")),
            several => parts.push(format!("{several} {severity}s")),
        }
    }
    parts.join(", ")
}

/// The places of a finding, with the characters underlined.
fn snippets(finding: &Finding, spot: &Spot, sources: &Sources) -> String {
    let mut pieces: Vec<Piece<'_>> = vec![Piece::new(spot, None, sources)];
    for (spot, label) in finding.related.iter().take(MOST_PLACES) {
        let label = clean::line(label).into_owned();
        match pieces.iter_mut().find(|piece| piece.near(spot)) {
            Some(piece) => piece.marks.push((spot.span.clone(), Some(label))),
            None => pieces.push(Piece::new(spot, Some(label), sources)),
        }
    }
    if pieces.iter().any(|piece| piece.text.len() > LONGEST) {
        return places(&pieces, sources);
    }
    let level = match finding.severity {
        Severity::Error => Level::ERROR,
        Severity::Warning => Level::WARNING,
        Severity::Note => Level::NOTE,
    };
    let mut group = Group::with_level(level);
    for (index, piece) in pieces.iter().enumerate() {
        group = group.element(piece.snippet(index == 0, sources));
    }
    let renderer =
        Renderer::styled().decor_style(DecorStyle::Unicode).error(BAD).warning(ODD).note(STRONG).line_num(DIM);
    // Of lines that are wider it shows the part that matters.
    let renderer = match wrap::width() {
        Some(width) => renderer.term_width(width),
        None => renderer,
    };
    renderer.render(&[group]) + "\n"
}

/// Where the marked characters stand, without the lines themselves: they are too long to be drawn.
fn places(pieces: &[Piece<'_>], sources: &Sources) -> String {
    let mut text = String::new();
    for piece in pieces {
        for (span, label) in &piece.marks {
            let place = sources.location(&Spot { file: piece.file, span: span.clone() });
            let (file, label) = (clean::line(&place.file), label.as_deref().unwrap_or_default());
            let place = format!("  in {file}:{}:{}  {label}", place.line, place.column);
            text.push_str(place.trim_end());
            text.push('\n');
        }
    }
    text
}

/// A few lines of a file, and the characters in them that matter.
struct Piece<'s> {
    file: FileId,
    text: &'s str,
    start: usize,
    line: usize,
    marks: Vec<(Range<usize>, Option<String>)>,
}

impl<'s> Piece<'s> {
    fn new(spot: &Spot, label: Option<String>, sources: &'s Sources) -> Self {
        let source = sources.get(spot.file);
        // Only the lines around are given to be drawn: a plan may have a hundred thousand.
        let lines = source.lines_around(spot.span.start, NEAR);
        let line = sources.location(&Spot { file: spot.file, span: lines.start..lines.start }).line;
        let text = source.text[lines.clone()].trim_end_matches(['\n', '\r']);
        Self { file: spot.file, text, start: lines.start, line, marks: vec![(spot.span.clone(), label)] }
    }

    fn near(&self, spot: &Spot) -> bool {
        spot.file == self.file && spot.span.start >= self.start && spot.span.end <= self.start + self.text.len()
    }

    fn snippet(&self, primary: bool, sources: &'s Sources) -> Snippet<'s, annotate_snippets::Annotation<'s>> {
        let name = clean::line(&sources.get(self.file).name).into_owned();
        let shown = clean::Excerpt::of(self.text);
        let marks = self.marks.iter().enumerate().map(|(index, (span, label))| {
            let kind = if primary && index == 0 { AnnotationKind::Primary } else { AnnotationKind::Context };
            // What is missing at the end of a file stands behind its last line.
            let place = |at: usize| shown.place((at - self.start).min(self.text.len()));
            kind.span(place(span.start)..place(span.end.max(span.start))).label(label.clone())
        });
        let marks: Vec<_> = marks.collect();
        Snippet::source(shown.text).path(name).line_start(self.line).fold(true).annotations(marks)
    }
}
