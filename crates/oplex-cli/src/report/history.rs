//! The releases of a store on a page, and what changed since the one before.

use maud::html;
use oplex_io::store::Manifest;

use super::{Section, counted, table};
use crate::forms::ChangedForm;

/// As many releases are on a page, and as many changes.
const MOST: usize = 100;
const CHANGES: usize = 400;

/// The releases of a store, the latest first, and what changed.
pub(crate) struct History {
    pub(crate) releases: Vec<Manifest>,
    /// Which two are compared: `since release 3`.
    pub(crate) since: Option<String>,
    pub(crate) changed: Vec<ChangedForm>,
}

impl History {
    pub(super) fn section(&self) -> Option<Section> {
        if self.releases.is_empty() {
            return None;
        }
        let rows = self.releases.iter().take(MOST).map(|one| {
            let change = match (one.reverts_to, one.previous.is_none()) {
                (Some(to), _) => format!("back to r{to}"),
                (None, true) => "the first".to_owned(),
                (None, false) => counted(one.changes, "change"),
            };
            let time = one.published.replace('T', " ").replace('Z', " UTC");
            vec![format!("r{}", one.release), time, one.author.clone(), change, one.note.clone().unwrap_or_default()]
        });
        let rows: Vec<Vec<String>> = rows.collect();
        let more = self.releases.len() - rows.len();
        let content = html! {
            (table(&["release", "published", "by", "changes", "note"], &rows))
            @if more > 0 { p.dim { "and " (counted(more, "earlier release")) } }
            @if let Some(since) = &self.since {
                h3 { "What changes " (since) }
                @if self.changed.is_empty() { p { "No client is sent anything else." } }
                @for changed in self.changed.iter().take(CHANGES) {
                    div.card data-row {
                        p { b { (changed.concerned) } " " span.dim { (changed.is) } }
                        (changes(changed))
                    }
                }
                @if self.changed.len() > CHANGES { p.dim { "and " (self.changed.len() - CHANGES) " more, which oplex diff lists" } }
            }
        };
        Some(Section { id: "history", title: "Releases".to_owned(), content })
    }
}

fn changes(changed: &ChangedForm) -> maud::Markup {
    let text = |value: &Option<String>, octets: &Option<String>| value.clone().or_else(|| octets.clone());
    html! {
        @if !changed.changes.is_empty() {
            div.wide tabindex="0" { table {
                thead { tr { th scope="col" { "what" } th scope="col" { "before" } th scope="col" { "after" } } }
                tbody { @for change in &changed.changes {
                    @let before = text(&change.before_value, &change.before);
                    @let after = text(&change.after_value, &change.after);
                    tr { td { (change.name) } td { (before.as_deref().unwrap_or("–")) } td { (after.as_deref().unwrap_or("–")) } }
                } }
            } }
        }
    }
}
