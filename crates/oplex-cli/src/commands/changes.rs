//! What changes between two plans, or since a release, shown for people and for programs.

use std::collections::HashMap;
use std::io::Write;
use std::net::Ipv4Addr;

use oplex::codebook::Codebook;
use oplex::compiled::Compiled;
use oplex::octets::hex;
use oplex::release::{Change, Changed, Concerned, Detail, Sides, compare_with_progress};

use crate::forms::{ChangeForm, ChangedForm};
use crate::render::progress::while_watched;
use crate::render::style::{AID, BAD, DIM, GOOD, in_style};
use crate::render::{clean, option};

/// Two plans, or a release and a plan, whose differences are shown.
pub(crate) struct Changes<'c> {
    /// What was, with the places of its networks, and what is.
    sides: [(&'c Compiled<'c>, HashMap<&'c str, usize>); 2],
    changed: Vec<Changed>,
}

impl<'c> Changes<'c> {
    pub(crate) fn between(before: &'c Compiled<'c>, after: &'c Compiled<'c>) -> Self {
        let places = |compiled: &'c Compiled<'c>| {
            compiled.networks.iter().enumerate().map(|(at, network)| (&*network.name, at)).collect()
        };
        let changed = while_watched(|watch| {
            compare_with_progress(before, after, &|done, of| {
                watch.count("comparing networks, fleets and clients", done, of);
            })
        });
        Self { sides: [(before, places(before)), (after, places(after))], changed }
    }

    /// How many networks, fleets and clients change, the server included.
    pub(crate) fn count(&self) -> usize {
        self.changed.len()
    }

    /// `2 networks, fleets or clients change`; `None` where nothing does.
    pub(crate) fn verdict(&self) -> Option<String> {
        let server = self.changed.iter().any(|changed| changed.concerned == Concerned::Server);
        match (server, self.changed.len() - usize::from(server)) {
            (false, 0) => None,
            (true, 0) => Some("the server changes".to_owned()),
            (false, 1) => Some("1 network, fleet or client changes".to_owned()),
            (false, many) => Some(format!("{many} networks, fleets or clients change")),
            (true, more) => Some(format!("the server changes, and {more} of the networks, fleets and clients")),
        }
    }

    pub(crate) fn draw(&self, out: &mut dyn Write) -> std::io::Result<()> {
        self.changed.iter().try_for_each(|changed| self.draw_one(changed, out))
    }

    pub(crate) fn form(&self) -> Vec<ChangedForm> {
        self.changed.iter().map(|changed| self.form_of(changed)).collect()
    }

    fn draw_one(&self, changed: &Changed, out: &mut dyn Write) -> std::io::Result<()> {
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

    fn form_of(&self, changed: &Changed) -> ChangedForm {
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
        let leases = |(compiled, places): &(&Compiled<'_>, HashMap<&str, usize>)| {
            let (own, fleets) = compiled.leases::<Ipv4Addr>(*places.get(name.as_str())?);
            Some(own + fleets.iter().map(|(_, count)| count).sum::<u128>()).filter(|count| *count > 0)
        };
        leases(&self.sides[1]).or_else(|| leases(&self.sides[0]))
    }

    fn name(&self, change: &Change) -> String {
        let named = |codebook: &Codebook| codebook.find(&change.what).map(|option| option.name.to_string()).ok();
        let of_option = || self.sides.iter().rev().find_map(|(compiled, _)| named(&compiled.codebook));
        let name = change.is_option().then(of_option).flatten().unwrap_or_else(|| change.what.clone());
        clean::line(&name).into_owned()
    }

    /// What it was or is: an option's value, or its octets where no codebook defines it.
    fn text(&self, change: &Change, before: bool) -> Option<String> {
        let detail = if before { &change.before } else { &change.after }.as_ref()?;
        let codebook = &self.sides[usize::from(!before)].0.codebook;
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
