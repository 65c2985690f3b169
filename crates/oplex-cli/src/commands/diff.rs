//! `oplex diff`: what changes between two plans, and for which clients.

use std::io::Write;
use std::net::Ipv4Addr;
use std::path::Path;

use oplex::codebook::Codebook;
use oplex::compiled::Compiled;
use oplex::octets::hex;
use oplex::plan::{Loaded, Plan};
use oplex::release::{Change, Changed, Concerned, Detail, Sides, compare};
use oplex_io::files;

use crate::args::{Diff, Format};
use crate::exit::{DONE, ERRORS, Failure, Outcome, because};
use crate::forms::{self, ChangeForm, ChangedForm, ChangesForm};
use crate::render::style::{AID, BAD, DIM, GOOD, STRONG, in_style};
use crate::render::{clean, option};

pub(super) fn run(args: &Diff, out: &mut dyn Write) -> Outcome {
    let load = |path: &Path| files::plan(path, args.trust.reach());
    let (old, new) = (load(&args.old)?, load(&args.new)?);
    let (before, after) = (plan(&old, &args.old)?, plan(&new, &args.new)?);
    let sides = [Compiled::of(before), Compiled::of(after)];
    let changed = compare(&sides[0], &sides[1]);
    let shower = Shower { before, after, sides };
    let errors = [super::errors(&old), super::errors(&new)];
    match args.format.format {
        Format::Json => {
            let (old, new) = (args.old.display().to_string(), args.new.display().to_string());
            let changed = changed.iter().map(|changed| shower.form(changed)).collect();
            forms::document(out, "oplex-diff/1", &ChangesForm { old, new, errors, changed })?;
        }
        Format::Text => {
            let (old, new) = (super::shown(&args.old), super::shown(&args.new));
            super::draw_errors(errors[0], &old, out)?;
            super::draw_errors(errors[1], &new, out)?;
            let server = changed.iter().any(|changed| changed.concerned == Concerned::Server);
            let verdict = match (server, changed.len() - usize::from(server)) {
                (false, 0) => format!("{old} and {new} send the same octets to every client"),
                (true, 0) => format!("{old} and {new}: the server changes"),
                (false, 1) => format!("{old} and {new}: 1 network, fleet or client changes"),
                (false, many) => format!("{old} and {new}: {many} networks, fleets or clients change"),
                (true, more) => {
                    format!("{old} and {new}: the server changes, and {more} of the networks, fleets and clients")
                }
            };
            writeln!(out, "{}", in_style(STRONG, verdict))?;
            changed.iter().try_for_each(|changed| shower.draw(changed, out))?;
        }
    }
    Ok(if errors == [0, 0] { DONE } else { ERRORS })
}

fn plan<'l>(loaded: &'l Loaded, path: &Path) -> Result<&'l Plan, Failure> {
    let why = || because(format!("{} cannot be read as a plan; run oplex check for the reason", super::shown(path)));
    loaded.plan.as_ref().map_or_else(why, Ok)
}

struct Shower<'p> {
    before: &'p Plan,
    after: &'p Plan,
    sides: [Compiled<'p>; 2],
}

impl Shower<'_> {
    fn draw(&self, changed: &Changed, out: &mut dyn Write) -> std::io::Result<()> {
        let sides = match changed.sides {
            Sides::Both => String::new(),
            Sides::OnlyBefore => in_style(BAD, "  is removed"),
            Sides::OnlyAfter => in_style(GOOD, "  is new"),
        };
        let addresses =
            self.addresses(&changed.concerned).map(|count| format!("  {count} addresses")).unwrap_or_default();
        let concerned = in_style(AID, clean::line(&changed.concerned.to_string()));
        writeln!(out, "\n{concerned}{sides}{}", in_style(DIM, addresses))?;
        for change in &changed.changes {
            let what = self.name(change);
            let (before, after) = (self.text(change, true), self.text(change, false));
            let line = match (before, after) {
                (Some(before), Some(after)) => format!("  {what:<26}  {before}  →  {after}"),
                (Some(before), None) => in_style(BAD, format!("- {what:<26}  {before}")),
                (None, after) => in_style(GOOD, format!("+ {what:<26}  {}", after.unwrap_or_default())),
            };
            writeln!(out, "{line}")?;
        }
        Ok(())
    }

    fn form(&self, changed: &Changed) -> ChangedForm {
        let change = |change: &Change| ChangeForm {
            what: change.what.clone(),
            name: self.name(change),
            before: change.before.as_ref().map(written),
            after: change.after.as_ref().map(written),
            before_value: self.text(change, true),
            after_value: self.text(change, false),
        };
        let sides = match changed.sides {
            Sides::Both => "changed",
            Sides::OnlyBefore => "removed",
            Sides::OnlyAfter => "added",
        };
        ChangedForm {
            concerned: changed.concerned.to_string(),
            is: sides,
            addresses: self.addresses(&changed.concerned).map(|count| count.to_string()),
            changes: changed.changes.iter().map(change).collect(),
        }
    }

    /// How many addresses a network leases by DHCPv4.
    fn addresses(&self, concerned: &Concerned) -> Option<u128> {
        let Concerned::Network(name) = concerned else { return None };
        let leases = |plan: &Plan, compiled: &Compiled<'_>| {
            let (own, fleets) = compiled.leases::<Ipv4Addr>(plan.network(name)?);
            Some(own + fleets.iter().map(|(_, count)| count).sum::<u128>()).filter(|count| *count > 0)
        };
        leases(self.after, &self.sides[1]).or_else(|| leases(self.before, &self.sides[0]))
    }

    fn name(&self, change: &Change) -> String {
        let named = |codebook: &Codebook| codebook.find(&change.what).map(|option| option.name.to_string()).ok();
        let of_option = || named(&self.after.codebook).or_else(|| named(&self.before.codebook));
        let name = change.is_option().then(of_option).flatten().unwrap_or_else(|| change.what.clone());
        clean::line(&name).into_owned()
    }

    /// What it was or is: an option's value, or its octets where no codebook defines it.
    fn text(&self, change: &Change, before: bool) -> Option<String> {
        let detail = if before { &change.before } else { &change.after }.as_ref()?;
        let codebook = if before { &self.before.codebook } else { &self.after.codebook };
        let value = |octets: &[u8]| {
            let definition = codebook.find(&change.what).ok()?;
            Some(option::shown(&codebook.read(definition, octets).value?))
        };
        let text = match detail {
            Detail::Octets(octets) => value(octets),
            Detail::Text(_) => None,
        };
        Some(clean::line(&text.unwrap_or_else(|| written(detail))).into_owned())
    }
}

/// The octets as hexadecimal, or the text.
fn written(detail: &Detail) -> String {
    match detail {
        Detail::Octets(octets) => hex::plain(octets),
        Detail::Text(text) => text.clone(),
    }
}
