//! What one client gets by one family, as a page.

use std::io::Write;

use oplex::answer::{AddressOrigin, Answer, BootField, Chosen, Ends, Exchange};
use oplex::codebook::Carrier;
use oplex::compiled::{Assembled, Compiled, LayerKind, Origin, SentOption};
use oplex::family::Protocol;
use oplex::finding::Spot;
use oplex::layout::duration_text;
use oplex::packet::AnyMessage;
use oplex::plan::{ClientFacts, Loaded};

use super::frames::between;
use crate::render::octets::facts;
use crate::render::option::{Meaning, shown};
use crate::render::style::{AID, DIM, in_style};
use crate::render::{budget, clean};

/// Characters of the column for values.
const VALUE: usize = 48;

/// Characters of the column behind it, on a terminal that shows a line of a rehearsal whole.
const BESIDE: usize = 56;

pub(crate) struct Rehearsal<'r> {
    pub(crate) loaded: &'r Loaded,
    pub(crate) compiled: &'r Compiled<'r>,
    pub(crate) client: &'r ClientFacts,
    pub(crate) answer: Answer<'r>,
    pub(crate) exchange: Exchange,
}

impl Rehearsal<'_> {
    pub(crate) fn protocol(&self) -> Protocol {
        self.answer.family.protocol()
    }

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

    /// Whether the client is without an address, something had no room, or never receives what the plan has for it.
    pub(crate) fn falls_short(&self) -> bool {
        let Self { answer, exchange, .. } = self;
        let alone = match &answer.host {
            Some(host) => {
                host.addresses.iter().all(|at| matches!(at.origin, AddressOrigin::LinkLocal | AddressOrigin::MadeUp))
            }
            None => answer.address.is_err(),
        };
        // What everyone is sent may well be meant for other networks.
        let in_vain = answer.host.as_ref().is_some_and(|host| !host.mode.uses_dhcp())
            && answer.sent.iter().any(|chosen| chosen.layer.kind != LayerKind::Everyone);
        let left_out = exchange.room.budget.as_ref().is_some_and(|budget| !budget.left_out.is_empty());
        alone || in_vain || left_out || exchange.room.used > exchange.room.limit
    }

    /// Whether the client sends anything by DHCP at all.
    pub(crate) fn uses_dhcp(&self) -> bool {
        self.answer.host.as_ref().is_none_or(|host| host.mode.uses_dhcp()) || self.client.delegation
    }

    /// The options that it is sent in the end, in the order of the message.
    pub(crate) fn received(&self) -> Vec<&Assembled<'_>> {
        let payloads = self.answer.payloads.iter();
        match &self.exchange.room.budget {
            Some(budget) => {
                let of = |code: u8| self.answer.payloads.iter().find(|sent| sent.code == u16::from(code));
                budget.lines().filter_map(|line| of(line.code)).collect()
            }
            None if self.uses_dhcp() => {
                payloads.filter(|sent| !self.exchange.unrequested.contains(&sent.code)).collect()
            }
            None => Vec::new(),
        }
    }

    /// What the server's last message has besides: its type, who answers, whom, and what it assigns.
    pub(crate) fn automatic(&self) -> Vec<(u16, Vec<u8>)> {
        let replies = self.exchange.messages.iter().rev().filter(|played| !played.from_client);
        let mut replies = replies.filter(|played| matches!(played.ends, Ends::Udp(..)));
        let message = replies.next().and_then(|played| AnyMessage::read(self.protocol(), &played.octets).ok());
        let Some(message) = message else { return Vec::new() };
        let inner = message.relayed().and_then(|(inner, _)| inner.ok()).unwrap_or(message);
        let planned: Vec<u16> = self.received().iter().map(|sent| sent.code).collect();
        let own = inner.options().into_iter().filter(|option| !planned.contains(&option.code()));
        own.map(|option| (option.code(), option.joined().into_owned())).collect()
    }

    /// The options that the router advertises.
    pub(crate) fn advertised(&self) -> &[SentOption<'_>] {
        let of = self.answer.host.as_ref().and(self.answer.network.advertises.as_ref());
        of.map_or(&[], |said| &said.options)
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
        for (code, octets) in self.automatic() {
            let definition = self.compiled.codebook.own(self.protocol(), code);
            let meaning = definition.map(|known| Meaning::of(&self.compiled.codebook, known, &octets, None));
            let id = format!("{}:{code}", self.protocol().name());
            let meaning = meaning.unwrap_or_default();
            row(out, &id, &self.name(code), &meaning.text(), "set by the server")?;
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
        for (layer, over) in &chosen.overrides {
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

    /// What an option of the answer means.
    pub(crate) fn meaning(&self, sent: &Assembled<'_>) -> Meaning {
        let codebook = &self.compiled.codebook;
        let definition = codebook.own(self.protocol(), sent.code);
        definition.map(|known| Meaning::of(codebook, known, &sent.octets, self.book(sent.code))).unwrap_or_default()
    }

    /// The vendor whose options an option carries.
    fn book(&self, code: u16) -> Option<&str> {
        let family = self.answer.family;
        let carries = |chosen: &&Chosen<'_>| {
            let carriers = chosen.option.definition.carriers.iter();
            carriers
                .into_iter()
                .any(|at| matches!(at, Carrier::Vendor { family: of, code: at, .. } if (*of, *at) == (family, code)))
        };
        self.answer.sent.iter().find(carries)?.option.origin.map(|sent| sent.definition.book())
    }

    /// What layers send as this option itself.
    pub(crate) fn chosen(&self, code: u16) -> Option<&Chosen<'_>> {
        Chosen::find(&self.answer.sent, self.protocol(), code)
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
