//! The report of a plan or a release.

use maud::html;
use oplex::check::Report;
use oplex::compiled::Compiled;
use oplex::finding::{Finding, Sources};
use oplex::plan::Plan;

use super::{History, Page, Section, counted, findings, matrix, networks, table};
use crate::forms::{FleetForm, PlanForm};
use crate::map::Maps;
use crate::render::expected::expectations;

/// As many reservations are on a page.
const RESERVATIONS: usize = 2000;

/// What a report of a plan is made of.
pub(crate) struct PlanReport<'r> {
    /// What it is called: the file, or the release.
    pub(crate) name: &'r str,
    pub(crate) plan: &'r Plan,
    pub(crate) compiled: &'r Compiled<'r>,
    pub(crate) sources: &'r Sources,
    pub(crate) checked: &'r Report,
    /// The releases of a store, and what changed, where there is one.
    pub(crate) history: Option<History>,
}

impl PlanReport<'_> {
    pub(crate) fn page(&self) -> Page {
        let form = PlanForm::new(self.plan, self.compiled, self.sources, None);
        let maps = Maps::of(self.compiled);
        let found = &self.checked.findings;
        let mut sections = Vec::new();
        sections.extend(findings::section(found, self.sources));
        sections.push(networks::section(&form, self.compiled, &maps));
        sections.push(matrix::section(&form));
        sections.extend(fleets(&form));
        sections.extend(reservations(&form));
        sections.extend(expected(self.plan, found, self.sources));
        sections.extend(self.history.as_ref().and_then(History::section));
        let title = form.title.map_or_else(|| self.name.to_owned(), str::to_owned);
        let about = format!(
            "{}: {}, {}, {}",
            self.name,
            counted(form.networks.len(), "network"),
            counted(form.fleets.len(), "fleet"),
            counted(form.reservations.len(), "reservation")
        );
        let allowed: usize = self.checked.allowed.iter().map(|(_, count)| count).sum();
        let mut verdict = findings::verdict(found, "Nothing wrong");
        if allowed > 0 {
            verdict.text.push_str(&format!("; {} allowed by the plan", counted(allowed, "finding")));
        }
        Page { title, about, verdict, sections }
    }
}

/// What each fleet is recognised by and gets.
fn fleets(form: &PlanForm<'_>) -> Option<Section> {
    if form.fleets.is_empty() {
        return None;
    }
    let own = |fleet: &FleetForm<'_>| {
        html! {
            div.card data-row {
                h3 { (fleet.fleet) } p { span.dim { "recognised by " } (fleet.recognised) }
                (sent(&fleet.layer))
                @for on in &fleet.on {
                    h3 { "on " (on.network) }
                    @if !on.pools.is_empty() { p { span.dim { "only for them " } (on.pools.join(", ")) } }
                    (sent(&on.layer))
                }
            }
        }
    };
    let content = html! {
        p.dim { "In the order in which they apply: where two fleets send an option to one client, the later one counts." }
        @for fleet in &form.fleets { (own(fleet)) }
    };
    Some(Section { id: "fleets", title: "Fleets".to_owned(), content })
}

/// What a layer sends, as a list.
fn sent(layer: &crate::forms::LayerForm<'_>) -> maud::Markup {
    html! {
        @if !layer.options.is_empty() || !layer.withheld.is_empty() {
            table { tbody {
                @for option in &layer.options {
                    tr { td { (option.option) } td { (option.name) } td { (matrix::value(option)) } td.dim { (line(option)) } }
                }
                @for option in &layer.withheld { tr { td { (option) } td {} td { "withheld" } td {} } }
            } }
        }
        @if let Some(lease) = layer.lease { p.dim { "leased for " (oplex::layout::duration_text(lease)) } }
    }
}

fn line(option: &crate::forms::SentForm<'_>) -> String {
    option.from.as_ref().map_or_else(String::new, |from| format!("{}:{}", from.file, from.line))
}

fn reservations(form: &PlanForm<'_>) -> Option<Section> {
    if form.reservations.is_empty() {
        return None;
    }
    let rows = form.reservations.iter().take(RESERVATIONS).map(|row| {
        let delegated = row.delegated.iter().map(|prefix| format!("delegated {prefix}"));
        let addresses: Vec<String> = row.addresses.iter().cloned().chain(delegated).collect();
        let sends: Vec<&str> = row.layer.iter().flat_map(|layer| &layer.options).map(|option| option.name).collect();
        let name = row.name.unwrap_or_default().to_owned();
        vec![row.client.clone(), name, row.network.to_owned(), addresses.join(", "), sends.join(", ")]
    });
    let rows: Vec<Vec<String>> = rows.collect();
    let more = form.reservations.len() - rows.len();
    let content = html! {
        (table(&["client", "name", "network", "addresses", "sends"], &rows))
        @if more > 0 { p.dim { "and " (more) " more, which oplex show --format json lists" } }
    };
    Some(Section { id: "reservations", title: "Reservations".to_owned(), content })
}

/// What the plan expects, and whether it is so.
fn expected(plan: &Plan, found: &[Finding], sources: &Sources) -> Option<Section> {
    let rows = expectations(plan, sources, found);
    if rows.is_empty() {
        return None;
    }
    let content = html! {
        div.wide tabindex="0" { table {
            thead { tr { th scope="col" { "expectation" } th scope="col" { "is" } th scope="col" { "source" } } }
            tbody { @for one in rows {
                @let why: Vec<&str> = one.unmet.iter().map(|finding| finding.message.as_str()).collect();
                tr data-row {
                    td { (one.title) }
                    @if why.is_empty() { td.good { "met" } } @else { td.bad { "not met: " (why.join("; ")) } }
                    td.dim { (one.place.file) ":" (one.place.line) }
                }
            } }
        } }
    };
    Some(Section { id: "expectations", title: "Expectations".to_owned(), content })
}
