//! The options as a matrix: what each network and fleet says of each, differences marked.

use std::collections::HashMap;

use maud::{Markup, html};

use super::Section;
use crate::forms::{LayerForm, PlanForm, SentForm};
use crate::render::option::shown;

/// As many layers are columns; where there are more, they are rows.
const COLUMNS: usize = 14;

/// No more cells are on a page.
const CELLS: usize = 400_000;

/// The value of an option, or what is changed of it.
pub(super) fn value(option: &SentForm<'_>) -> String {
    match (&option.changes, &option.value) {
        (Some(changes), _) => format!("changes {changes}"),
        (None, Some(value)) => shown(value),
        (None, None) => option.hex.clone().unwrap_or_default(),
    }
}

/// What one layer says of one option.
struct Cell {
    text: String,
    /// Whether a wider layer says something else.
    differs: bool,
}

struct Matrix<'f> {
    /// The options: id and name.
    options: Vec<(String, &'f str)>,
    layers: Vec<&'f LayerForm<'f>>,
    /// By layer and option.
    cells: HashMap<(usize, usize), Cell>,
}

impl<'f> Matrix<'f> {
    fn of_networks(form: &'f PlanForm<'f>) -> Self {
        let (mut it, mut places) = Self::of_everyone(form);
        for network in &form.networks {
            it.layer(&network.layer, &[0], &mut places);
        }
        it
    }

    fn of_fleets(form: &'f PlanForm<'f>) -> Self {
        let (mut it, mut places) = Self::of_everyone(form);
        for fleet in &form.fleets {
            let own = it.layers.len();
            it.layer(&fleet.layer, &[0], &mut places);
            for on in &fleet.on {
                it.layer(&on.layer, &[own, 0], &mut places);
            }
        }
        it
    }

    fn of_everyone(form: &'f PlanForm<'f>) -> (Self, HashMap<String, usize>) {
        let mut it = Self { options: Vec::new(), layers: Vec::new(), cells: HashMap::new() };
        let mut places = HashMap::new();
        it.layer(&form.everyone, &[], &mut places);
        (it, places)
    }

    /// Adds a layer, with the places of those that are wider.
    fn layer(&mut self, layer: &'f LayerForm<'f>, wider: &[usize], places: &mut HashMap<String, usize>) {
        let own = self.layers.len();
        self.layers.push(layer);
        for option in &layer.options {
            let at = self.option(&option.option, option.name, option, places);
            let text = value(option);
            let before = wider.iter().find_map(|wide| self.cells.get(&(*wide, at)));
            let differs = option.changes.is_some() || before.is_some_and(|before| before.text != text);
            self.cells.insert((own, at), Cell { text, differs });
        }
        for id in &layer.withheld {
            let known = places.get(id).copied();
            let at = known.unwrap_or_else(|| {
                self.options.push((id.clone(), ""));
                places.insert(id.clone(), self.options.len() - 1);
                self.options.len() - 1
            });
            self.cells.insert((own, at), Cell { text: "withheld".to_owned(), differs: true });
        }
    }

    fn option(&mut self, id: &str, name: &'f str, sent: &SentForm<'_>, places: &mut HashMap<String, usize>) -> usize {
        // A vendor's option may be sent by both families, and what boots stands in the header as well.
        let own = ["v4:", "v6:", "ra:"].iter().any(|prefix| id.starts_with(prefix));
        let suffix = match (sent.by, own) {
            (by @ ("boot" | "fqdn"), _) => format!(" ({by})"),
            (_, true) => String::new(),
            (_, false) => format!(" ({})", sent.family),
        };
        let key = format!("{id}{suffix}");
        if let Some(at) = places.get(&key) {
            return *at;
        }
        self.options.push((key.clone(), name));
        places.insert(key, self.options.len() - 1);
        self.options.len() - 1
    }

    fn cell(&self, layer: usize, option: usize) -> Markup {
        html! {
            @match self.cells.get(&(layer, option)) {
                None => td {},
                Some(cell) if cell.differs => td.differs { "≠ " (cell.text) },
                Some(cell) => td { (cell.text) },
            }
        }
    }
}

pub(super) fn section(form: &PlanForm<'_>) -> Section {
    let content = html! {
        p.dim {
            "What each layer says. An empty cell sends what the wider layers say; " span.differs { "≠" }
            " marks what differs from a wider one, for which it stands."
        }
        h3 { "Networks" } (table(&Matrix::of_networks(form)))
        @if !form.fleets.is_empty() { h3 { "Fleets" } (table(&Matrix::of_fleets(form))) }
    };
    Section { id: "options", title: "Options".to_owned(), content }
}

fn table(matrix: &Matrix<'_>) -> Markup {
    let across = matrix.layers.len() <= COLUMNS;
    let options = &matrix.options[..matrix.options.len().min((CELLS / matrix.layers.len().max(1)).max(1))];
    let more = matrix.options.len() - options.len();
    // The layers are named once for all by the heading above.
    let name = |layer: &str| layer.trim_start_matches("network ").trim_start_matches("fleet ").to_owned();
    html! {
        div.wide tabindex="0" { table.matrix {
            @if across {
                thead { tr { th scope="col" { "option" } @for layer in &matrix.layers { th scope="col" { (name(&layer.layer)) } } } }
                tbody { @for (at, (id, label)) in options.iter().enumerate() {
                    tr data-row { th scope="row" { (id) br; span.dim { (label) } }
                        @for layer in 0..matrix.layers.len() { (matrix.cell(layer, at)) } }
                } }
            } @else {
                thead { tr { th scope="col" { "layer" } @for (id, label) in options { th scope="col" { (id) br; (label) } } } }
                tbody { @for (at, layer) in matrix.layers.iter().enumerate() {
                    tr data-row { th scope="row" { (name(&layer.layer)) } @for option in 0..options.len() { (matrix.cell(at, option)) } }
                } }
            }
        } }
        @if more > 0 { p.dim { "and " (more) " more options, which oplex show --format csv lists" } }
    }
}
