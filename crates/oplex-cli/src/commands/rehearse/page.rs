//! What one client gets by one family, as a page.

use std::io::Write;

use oplex::answer::{AddressOrigin, BootField, Chosen};
use oplex::compiled::{Assembled, Origin};
use oplex::family::Protocol;
use oplex::finding::Spot;
use oplex::layout::duration_text;

use crate::rehearsal::{Rehearsal, between};
use crate::render::octets::facts;
use crate::render::option::{Meaning, shown};
use crate::render::style::{AID, DIM, in_style};
use crate::render::{budget, clean};

/// Characters of the column for values.
const VALUE: usize = 48;

/// Characters of the column behind it, on a terminal that shows a line of a rehearsal whole.
const BESIDE: usize = 56;

impl Rehearsal<'_> {
    /// The answer in a line.
    pub(crate) fn headline(&self) -> String {
        let Self { answer, .. } = self;
        let network = clean::line(&answer.network.name);
        let count = self.received().len() + self.automatic().len();
        let options = match self.uses_dhcp() {
            true => format!("{count} option{} by {}", if count == 1 { "" } else { "s" }, self.protocol()),
            false => format!("{} is not used", self.protocol()),
        };
        let mut own = answer.host.iter().flat_map(|host| &host.addresses);
        let own = own.find(|at| matches!(at.origin, AddressOrigin::HardwareAddress | AddressOrigin::Secret));
        match (&answer.address, own) {
            (Ok(_), _) if answer.host.is_none() && self.compiled.does_without_ipv4(self.client, answer) => {
                let wait =
                    answer.payloads.iter().find(|sent| sent.code == 108).and_then(|sent| sent.octets.first_chunk());
                let wait = wait.map_or_else(String::new, |wait| {
                    format!(" for {}", duration_text(u32::from_be_bytes(*wait).max(300)))
                });
                format!(
                    "no IPv4 address on {network}: the client requests option 108 and is sent it, so it does without{wait}"
                )
            }
            (Ok(given), _) => {
                let lease = duration_text(answer.timers.lease.seconds);
                format!("{} on {network} for {lease}, with {options}", given.address)
            }
            (Err(_), Some(own)) => {
                let address = own.address.map_or_else(|| format!("an address in {}", own.prefix), |at| at.to_string());
                format!("{address} on {network}, formed by the host; {options}")
            }
            (Err(why), None) if answer.host.is_some() => {
                format!("no IPv6 address on {network}: {why}, and no prefix is autonomous; {options}")
            }
            (Err(why), None) => format!("no address on {network}: {why}"),
        }
    }

    pub(crate) fn draw(&self, out: &mut dyn Write) -> std::io::Result<()> {
        facts(out, &self.facts())?;
        writeln!(out, "\n{}", in_style(DIM, format!("{:>6}  {:<24}  {:<VALUE$}  from", "code", "option", "value")))?;
        for option in self.advertised() {
            let value = option.value().map(shown).unwrap_or_default();
            let from = option.spot().map(|spot| format!("advertised, {}", self.place(spot))).unwrap_or_default();
            row(out, &option.id().to_string(), &option.definition.name, &value, &from)?;
        }
        if self.protocol() == Protocol::V4 {
            self.draw_header(out)?;
        }
        let name = self.answered_name();
        for (code, octets) in self.automatic() {
            let definition = self.compiled.codebook.own(self.protocol(), code);
            let meaning = definition.map(|known| Meaning::of(&self.compiled.codebook, known, &octets, None));
            let id = format!("{}:{code}", self.protocol().name());
            let meaning = meaning.unwrap_or_default();
            let named = name.as_ref().filter(|known| known.code == code).and_then(|known| known.from.first());
            let from = named.map_or_else(|| "set by the server".to_owned(), |by| self.from(by));
            row(out, &id, &self.name(code), &meaning.text(), &from)?;
            for inner in &meaning.inner {
                let name = format!("  {}{}", "  ".repeat(inner.depth), inner.name());
                row(out, &inner.code.to_string(), &name, &inner.text(), "")?;
            }
        }
        for sent in self.received() {
            self.draw_sent(sent, out)?;
        }
        self.draw_unrequested(out)?;
        writeln!(out)?;
        let room = &self.exchange.room;
        match &room.budget {
            Some(of_v4) => {
                budget::draw(out, of_v4)?;
                budget::draw_left_out(out, of_v4, &self.compiled.codebook)?;
                writeln!(out)?;
            }
            None if room.used > 0 => {
                budget::draw_whole(out, room.used, room.limit)?;
                writeln!(out)?;
            }
            None => {}
        }
        for played in &self.exchange.messages {
            let (from, to) = between(played.ends);
            writeln!(out, "  {:<34} {:>4} octets  {from} to {to}", played.name, played.octets.len())?;
        }
        Ok(())
    }

    /// What there is for the client, and does not reach it.
    fn draw_unrequested(&self, out: &mut dyn Write) -> std::io::Result<()> {
        let names =
            |codes: &mut dyn Iterator<Item = u16>| codes.map(|code| self.name(code)).collect::<Vec<_>>().join(", ");
        if !self.uses_dhcp() {
            let never = names(&mut self.answer.payloads.iter().map(|sent| sent.code));
            let why = "sent by the plan, but never requested, as neither M nor O is advertised";
            return if never.is_empty() { Ok(()) } else { writeln!(out, "\n  {}: {never}", in_style(AID, why)) };
        }
        match names(&mut self.exchange.unrequested.iter().copied()) {
            none if none.is_empty() => Ok(()),
            names => writeln!(out, "\n  not requested, so not sent: {names}"),
        }
    }

    /// An option, the options inside it, and what wider layers would have sent.
    pub(crate) fn draw_sent(&self, sent: &Assembled<'_>, out: &mut dyn Write) -> std::io::Result<()> {
        let meaning = self.meaning(sent);
        let from = |index: usize| sent.from.get(index).map(|by| self.from(by)).unwrap_or_default();
        let first = if meaning.inner.is_empty() { from(0) } else { String::new() };
        let id = format!("{}:{}", self.protocol().name(), sent.code);
        row(out, &id, &self.name(sent.code), &meaning.text(), &first)?;
        let mut origins = 0..;
        for inner in &meaning.inner {
            let name = format!("  {}{}", "  ".repeat(inner.depth), inner.name());
            // What carries the plan's options comes from no line.
            let index = if inner.depth == 0 { origins.next() } else { None };
            row(out, &inner.code.to_string(), &name, &inner.text(), &index.map(from).unwrap_or_default())?;
            let by = index.and_then(|index| sent.from.get(index)?.spot);
            let chosen = by.and_then(|by| self.answer.sent.iter().find(|chosen| chosen.option.key() == Some(by)));
            self.draw_overrides(chosen, out)?;
        }
        self.draw_overrides(self.chosen(sent.code), out)
    }

    /// What wider layers would have sent.
    fn draw_overrides(&self, chosen: Option<&Chosen<'_>>, out: &mut dyn Write) -> std::io::Result<()> {
        let Some(chosen) = chosen else { return Ok(()) };
        let mut changed = chosen.option.amended_by().is_some();
        for (layer, over) in chosen.overrides.iter() {
            let place = over.key().map(|key| self.place(key)).unwrap_or_default();
            let verb = if changed { "changes" } else { "overrides" };
            let text = |value: &str| format!("{verb} {value} of {}, {place}", clean::line(layer.name));
            // A long value would not fit beside where it comes from; `--explain` has it.
            let whole =
                over.value().map(|value| text(&value.to_string())).filter(|whole| whole.chars().count() <= BESIDE);
            let over_text = whole.unwrap_or_else(|| text("the value"));
            writeln!(out, "{}", in_style(DIM, format!("{:84}{over_text}", "")))?;
            changed = over.amended_by().is_some();
        }
        Ok(())
    }

    /// What the header of DHCPv4's replies says of where the client boots from.
    fn draw_header(&self, out: &mut dyn Write) -> std::io::Result<()> {
        for BootField { value: (name, value), layer, spot } in self.answer.boot.fields() {
            let from = self.from(&Origin { layer, spot });
            row(out, "header", name, &value, &from)?;
        }
        Ok(())
    }

    pub(crate) fn name(&self, code: u16) -> String {
        let known = self.compiled.codebook.own(self.protocol(), code);
        known.map_or_else(|| code.to_string(), |definition| clean::line(&definition.name).into_owned())
    }

    /// `demo/plan.toml:48`
    pub(crate) fn place(&self, spot: &Spot) -> String {
        let place = self.loaded.sources.location(spot);
        format!("{}:{}", clean::line(&place.file), place.line)
    }

    /// The layer and the line that say something.
    pub(crate) fn from(&self, by: &Origin<'_>) -> String {
        match by.spot {
            Some(spot) => format!("{}, {}", clean::line(by.layer.name), self.place(spot)),
            None => "default".to_owned(),
        }
    }
}

fn row(out: &mut dyn Write, code: &str, name: &str, value: &str, from: &str) -> std::io::Result<()> {
    let (name, value) = (clean::line(name), clean::line(value));
    // A long value has its line to itself.
    let (beside, below) = if value.chars().count() > VALUE { ("", from) } else { (from, "") };
    writeln!(out, "{}", format!("{code:>6}  {name:<24}  {value:<VALUE$}  {beside}").trim_end())?;
    if below.is_empty() { Ok(()) } else { writeln!(out, "{:84}{below}", "") }
}
