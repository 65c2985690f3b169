//! What pages of both families share.

use std::io::Write;

use oplex::answer::{Recognised, SaidBy, Told};
use oplex::finding::{Sources, Spot};
use oplex::plan::{Loaded, Plan, Reservation, Sent};
use serde_json::{Value as Json, json};

use crate::render::clean;
use crate::render::style::{STRONG, in_style};

/// The plan that is rehearsed, and where it stands.
#[derive(Clone, Copy)]
pub(super) struct Page<'r> {
    pub(super) loaded: &'r Loaded,
    pub(super) plan: &'r Plan,
}

impl Page<'_> {
    /// `demo/plan.toml:48`
    pub(super) fn place(&self, spot: &Spot) -> String {
        let place = self.loaded.sources.place(spot);
        format!("{}:{}", clean::line(&place.file), place.line)
    }

    /// The layer and the line that say something.
    pub(super) fn from(&self, by: &SaidBy<'_>) -> String {
        match &by.spot {
            Some(spot) => format!("{}, {}", clean::line(by.layer), self.place(spot)),
            None => "nobody says otherwise".to_owned(),
        }
    }

    /// The whole chain for one option: who says so, and who would say what otherwise.
    pub(super) fn chain(&self, out: &mut dyn Write, label: &str, told: &Told<'_>, but: &str) -> std::io::Result<()> {
        let value = |sent: &Sent| sent.payload().map(|payload| payload.value.to_string()).unwrap_or_default();
        writeln!(out, "{}{but}", in_style(STRONG, format!("{label} is {}", clean::line(&value(told.sent)))))?;
        let mut lines = vec![(told.layer, told.sent)];
        lines.extend(told.overrides.iter().copied());
        for (at, (layer, sent)) in lines.into_iter().enumerate() {
            let says = if at == 0 { "says" } else { "would say" };
            let (name, text) = (clean::line(&layer.name), value(sent));
            writeln!(out, "  {name} {says} {}  {}", clean::line(&text), self.place(&sent.spot))?;
        }
        Ok(())
    }

    /// The fleets that a client belongs to, and why.
    pub(super) fn fleets(&self, known: &[Recognised<'_>], lines: &mut Vec<(&'static str, String)>) {
        for Recognised { fleet, by } in known {
            let why: Vec<String> =
                by.iter().map(|fit| format!("{} {} fits {}", fit.fact, fit.seen, fit.pattern)).collect();
            lines.push(("fleet", format!("{}, as {}", fleet.name, why.join(", and "))));
        }
        if known.is_empty() && !self.plan.fleets.is_empty() {
            lines.push(("fleet", "none of the plan's".to_owned()));
        }
    }

    /// The reservation that names it.
    pub(super) fn reserved(&self, reservation: Option<&Reservation>, lines: &mut Vec<(&'static str, String)>) {
        if let Some(reservation) = reservation {
            let name = reservation.name().map(|(name, _)| format!(" ({name})")).unwrap_or_default();
            let place = self.place(&reservation.client_spot());
            lines.push(("reserved", format!("{}{name}, {place}", reservation.client())));
        }
    }
}

pub(super) fn fleets_as_json(known: &[Recognised<'_>]) -> Vec<Json> {
    let one = |known: &Recognised<'_>| {
        let by = known.by.iter().map(|fit| json!({"fact": fit.fact, "seen": fit.seen, "pattern": fit.pattern}));
        json!({"name": known.fleet.name, "by": by.collect::<Vec<Json>>()})
    };
    known.iter().map(one).collect()
}

/// A layer and the line that says so.
pub(super) fn origin(sources: &Sources, layer: &str, spot: Option<&Spot>) -> Json {
    let place = spot.map(|spot| sources.place(spot));
    json!({"layer": layer, "file": place.as_ref().map(|place| &place.file), "line": place.as_ref().map(|place| place.line)})
}
