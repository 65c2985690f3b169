//! The report of a capture: what is wrong, and a time line of the conversations of each client.

use std::collections::BTreeMap;
use std::time::Duration;

use maud::{Markup, html};
use oplex::audit::{Conversation, Summary};
use oplex::finding::{Severity, Sources};

use super::{Page, Section, Verdict, counted, findings};
use crate::render::traffic::{client, moment, protocol_name};

/// As many clients have a line, and as many conversations on all lines.
const CLIENTS: usize = 300;
const DOTS: usize = 30_000;

/// As many conversations are shown message by message.
const SHOWN: usize = 200;

/// Columns of a line: conversations in one column are one dot.
const COLUMNS: f64 = 160.0;

/// What is kept of conversations while a capture is read.
#[derive(Default)]
pub(crate) struct Traffic {
    clients: BTreeMap<String, Line>,
    dots: usize,
    /// Conversations that have something to say, the first of them.
    shown: Vec<Conversation>,
    /// How many conversations have something to say and are not shown.
    more: u64,
    /// How many conversations are on no line.
    unlined: u64,
}

/// The conversations of one client.
#[derive(Default)]
struct Line {
    place: String,
    dots: Vec<(Duration, Option<Severity>)>,
}

/// What a report of a capture is made of.
pub(crate) struct TrafficReport<'r> {
    pub(crate) name: &'r str,
    /// What it is held against, where there is a plan or release.
    pub(crate) against: Option<&'r str>,
    pub(crate) sources: &'r Sources,
    pub(crate) summary: &'r Summary,
    pub(crate) traffic: &'r Traffic,
    pub(crate) messages: u64,
    /// What of the file cannot be read.
    pub(crate) damage: &'r [String],
}

impl Traffic {
    pub(crate) fn add(&mut self, conversation: Conversation) {
        let worst = conversation.findings.iter().map(|reported| reported.finding.severity).max();
        self.place(&conversation, worst);
        if worst.is_some_and(|worst| worst > Severity::Note) {
            match self.shown.len() < SHOWN {
                true => self.shown.push(conversation),
                false => self.more += 1,
            }
        }
    }

    /// Puts it on the line of its client.
    fn place(&mut self, conversation: &Conversation, worst: Option<Severity>) {
        let name = client(conversation);
        let known = self.clients.contains_key(&name);
        let began = conversation.messages.first().map(|step| step.at);
        let Some(began) = began.filter(|_| self.dots < DOTS && (known || self.clients.len() < CLIENTS)) else {
            self.unlined += 1;
            return;
        };
        let line = self.clients.entry(name).or_default();
        if line.place.is_empty() {
            let fleets = conversation.fleets.iter().map(|fleet| format!("fleet {fleet}"));
            line.place = conversation.network.iter().cloned().chain(fleets).collect::<Vec<_>>().join(", ");
        }
        line.dots.push((began, worst));
        self.dots += 1;
    }
}

impl TrafficReport<'_> {
    pub(crate) fn page(&self) -> Page {
        let mut sections = vec![self.kinds(), self.time_line()];
        sections.extend(self.conversations());
        let clients = usize::try_from(self.summary.clients).unwrap_or(usize::MAX);
        let against = self.against.map_or_else(String::new, |against| format!(", held against {against}"));
        let about = format!("{} messages of {}{against}", self.messages, counted(clients, "client"));
        let count = |severity| self.summary.count(severity);
        let words = [Severity::Error, Severity::Warning, Severity::Note].map(|severity| (severity, count(severity)));
        let words: Vec<String> = words
            .iter()
            .filter(|(_, count)| *count > 0)
            .map(|(severity, count)| counted(usize::try_from(*count).unwrap_or(usize::MAX), &severity.to_string()))
            .collect();
        let class = match (count(Severity::Error), count(Severity::Warning)) {
            (0, 0) if self.damage.is_empty() => "good",
            (0, _) if self.damage.is_empty() => "odd",
            _ => "bad",
        };
        let text = match (self.messages, words.is_empty()) {
            (0, _) => "Nothing to audit: no frame is of DHCP or of a router".to_owned(),
            (_, true) => "Nothing wrong".to_owned(),
            (_, false) => words.join(", "),
        };
        Page { title: self.name.to_owned(), about, verdict: Verdict { text, class }, sections }
    }

    /// What is wrong, a line for each kind of it.
    fn kinds(&self) -> Section {
        let content = html! {
            @for damage in self.damage { p.bad { "Damaged: " (damage) } }
            @if self.summary.kinds.is_empty() { p { "No rule has anything to say." } }
            @else { div.wide tabindex="0" { table {
                thead { tr { @for head in ["severity", "times", "first frame", "option", "what is wrong", "rule"] { th scope="col" { (head) } } } }
                tbody { @for kind in &self.summary.kinds {
                    tr data-row {
                        td.tag.(findings::class(kind.severity)) { (kind.severity) } td { (kind.count) } td { (kind.frame) }
                        td { (kind.option.as_deref().unwrap_or_default()) } td { (kind.message) } td.dim { (kind.rule.name) }
                    }
                } }
            } } }
        };
        Section { id: "wrong", title: "What is wrong".to_owned(), content }
    }

    fn time_line(&self) -> Section {
        let (first, last) = self.summary.seen.unwrap_or_default();
        // Whose conversations are worst stands first.
        let worst = |line: &Line| line.dots.iter().filter_map(|(_, worst)| *worst).max();
        let mut clients: Vec<(&String, &Line)> = self.traffic.clients.iter().collect();
        clients.sort_by_key(|(_, line)| std::cmp::Reverse(worst(line)));
        let content = html! {
            p.dim { (moment(first)) " to " (moment(last)) ". Each sign is a conversation of one client, or several at about one time." }
            ul.keys { @for (worst, label) in [(None, "nothing wrong"), (Some(Severity::Warning), "a warning"), (Some(Severity::Error), "an error")] {
                li { svg width="18" height="18" aria-hidden="true" { (sign(worst, "9", "", false)) } (label) }
            } }
            div.map { p.said role="status" {} div.wide.time tabindex="0" { table {
                thead { tr { th scope="col" { "client" } th scope="col" { "where" } th scope="col" { "conversations" } } }
                tbody { @for (name, line) in clients {
                    tr data-row { td { (name) } td { (line.place) } td { (rail(line, first, last)) } }
                } }
            } } }
            @if self.traffic.unlined > 0 { p.dim { (self.traffic.unlined) " more conversations are not drawn." } }
        };
        Section { id: "time", title: "Time line".to_owned(), content }
    }

    fn conversations(&self) -> Option<Section> {
        if self.traffic.shown.is_empty() {
            return None;
        }
        let content = html! {
            @for one in &self.traffic.shown { (conversation(one, self.sources)) }
            @if self.traffic.more > 0 { p.dim { "and " (self.traffic.more) " more, which oplex audit --all shows" } }
        };
        Some(Section { id: "conversations", title: "Conversations".to_owned(), content })
    }
}

/// The conversations of a client on their line.
fn rail(line: &Line, first: Duration, last: Duration) -> Markup {
    let length = last.saturating_sub(first).as_secs_f64().max(0.001);
    let mut columns: BTreeMap<u32, (Option<Severity>, usize, Duration)> = BTreeMap::new();
    for (at, worst) in &line.dots {
        let share = (at.saturating_sub(first).as_secs_f64() / length).min(1.0);
        let column = columns.entry((share * COLUMNS) as u32).or_insert((None, 0, *at));
        *column = (column.0.max(*worst), column.1 + 1, column.2);
    }
    html! {
        svg height="22" width="100%" role="group" aria-label="conversations over time" {
            rect.rail x="0" y="10" width="100%" height="2" {}
            @for (column, (worst, count, at)) in &columns {
                @let place = format!("{:.2}%", 1.0 + 98.0 * f64::from(*column) / COLUMNS);
                @let what = worst.map_or_else(|| "nothing wrong".to_owned(), |worst| format!("at worst {worst}"));
                @let said = format!("{}: {}, {what}", moment(*at), counted(*count, "conversation"));
                (sign(*worst, &place, &said, true))
            }
        }
    }
}

/// The sign of a conversation, by the worst that is wrong with it: its form says as much as its colour.
fn sign(worst: Option<Severity>, x: &str, said: &str, reached: bool) -> Markup {
    let tab = reached.then_some("0");
    html! {
        @match worst {
            Some(Severity::Error) => rect.dot-bad tabindex=[tab] role="img" x=(x) y="5" width="12" height="12"
                transform="translate(-6 0)" { title { (said) } },
            Some(Severity::Warning) => circle.dot-odd tabindex=[tab] role="img" cx=(x) cy="11" r="4.5" { title { (said) } },
            _ => circle.dot-ok tabindex=[tab] role="img" cx=(x) cy="11" r="6" { title { (said) } },
        }
    }
}

/// A conversation, message by message, and what is wrong with it.
fn conversation(one: &Conversation, sources: &Sources) -> Markup {
    let began = one.messages.first().map_or(Duration::ZERO, |step| step.at);
    let fleets = one.fleets.iter().map(|fleet| format!("fleet {fleet}"));
    let place = one.network.iter().cloned().chain(fleets).collect::<Vec<_>>().join(", ");
    html! {
        div.card data-row {
            p { b { (client(one)) } " " (place) " " span.dim { (protocol_name(one.protocol)) " " (moment(began)) } }
            ul.steps { @for step in &one.messages {
                li { span.dim { "frame " (step.frame) " +" (format!("{:.3}", step.at.saturating_sub(began).as_secs_f64())) } " "
                    (step.name) " " span.dim { (step.source.ip()) " → " (step.destination.ip()) } }
            } }
            @for reported in &one.findings { p.dim { "in frame " (reported.frame) } (findings::one(&reported.finding, sources)) }
        }
    }
}
