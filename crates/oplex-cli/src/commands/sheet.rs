//! `oplex show --format csv`: each option of each layer on a line, for spreadsheets.

use std::io::Write;

use crate::forms::{LayerForm, PlanForm, SentForm};
use crate::render::clean;
use crate::render::option::shown;

/// What the columns hold.
const HEAD: [&str; 6] = ["network", "layer", "code", "name", "value", "hex"];

pub(super) fn write(form: &PlanForm<'_>, out: &mut dyn Write) -> std::io::Result<()> {
    let mut sheet = csv::Writer::from_writer(out);
    sheet.write_record(HEAD)?;
    let mut layer = |network: &str, layer: &LayerForm<'_>| {
        let options = layer.options.iter().map(|option| row(network, &layer.layer, option));
        let withheld = layer.withheld.iter().map(|option| {
            [network, &layer.layer, option, "", "(withheld)", ""].map(|cell| clean::line(cell).into_owned())
        });
        options.chain(withheld).try_for_each(|row| sheet.write_record(row))
    };
    layer("", &form.everyone)?;
    for network in &form.networks {
        layer(network.network, &network.layer)?;
    }
    for fleet in &form.fleets {
        layer("", &fleet.layer)?;
        fleet.on.iter().try_for_each(|on| layer(on.network, &on.layer))?;
    }
    for row in &form.reservations {
        row.layer.iter().try_for_each(|own| layer(row.network, own))?;
    }
    for network in &form.networks {
        let router = format!("router of {}", network.network);
        for option in network.advertises.iter().flat_map(|said| &said.options) {
            sheet.write_record(row(network.network, &router, option))?;
        }
    }
    sheet.flush()
}

fn row(network: &str, layer: &str, option: &SentForm<'_>) -> [String; 6] {
    let value = match (&option.changes, &option.value) {
        (Some(changes), _) => format!("changes {changes}"),
        (None, value) => value.as_ref().map(shown).unwrap_or_default(),
    };
    let hex = option.hex.as_deref().unwrap_or_default();
    [network, layer, &option.option, option.name, &value, hex].map(|cell| clean::line(cell).into_owned())
}
