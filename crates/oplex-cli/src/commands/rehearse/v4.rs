//! What one client gets by DHCPv4.

use std::io::Write;

use oplex::answer::{Answer, Exchange, SaidBy, Told};
use oplex::codebook::{Assembled, Carrier};
use oplex::layout::duration_text;
use oplex::octets::hex;
use oplex::plan::ClientFacts;
use serde_json::{Value as Json, json};

use super::page::{Page, fleets_as_json, origin};
use crate::exit::{Failure, because};
use crate::render::budget::{self, BudgetForm};
use crate::render::octets::facts;
use crate::render::style::{DIM, STRONG, in_style};
use crate::render::{clean, message};

pub(super) struct Rehearsal<'r> {
    pub(super) page: Page<'r>,
    pub(super) client: &'r ClientFacts,
    pub(super) answer: Answer<'r>,
    pub(super) exchange: Exchange,
}

impl Rehearsal<'_> {
    /// The answer in a line.
    pub(super) fn headline(&self) -> String {
        let Self { answer, exchange, .. } = self;
        let network = clean::line(&answer.network.name);
        match &answer.address {
            Ok(given) => {
                let lease = duration_text(answer.timers.lease.seconds);
                let told = exchange.budget.lines().filter(|line| line.code != 53).count();
                format!("{} on {network} for {lease}, with {told} options", given.address)
            }
            Err(why) => format!("no address on {network}: {why}"),
        }
    }

    /// Whether the client is without an address, or something had no room.
    pub(super) fn falls_short(&self) -> bool {
        self.answer.address.is_err() || !self.exchange.budget.left_out.is_empty()
    }

    pub(super) fn draw(&self, out: &mut dyn Write) -> std::io::Result<()> {
        let exchange = &self.exchange;
        facts(out, &self.facts())?;
        writeln!(out, "\n{}", in_style(DIM, format!("{:>4}  {:<24}  {:<48}  from", "code", "option", "value")))?;
        for line in exchange.budget.lines().filter(|line| self.told(line.code).is_some()) {
            let Some(told) = self.told(line.code) else { continue };
            self.draw_told(told, out)?;
        }
        if !exchange.unasked.is_empty() {
            let names: Vec<String> = exchange.unasked.iter().map(|code| self.name(*code)).collect();
            writeln!(out, "\n  not asked for, so not sent: {}", names.join(", "))?;
        }
        writeln!(out)?;
        budget::draw(out, &exchange.budget)?;
        budget::draw_left_out(out, &exchange.budget, &self.page.plan.codebook)?;
        writeln!(out)?;
        for sent in &exchange.messages {
            let kind = sent.message_type.to_string();
            writeln!(out, "  {kind:<13} {:>4} octets", sent.octets.len())?;
        }
        Ok(())
    }

    /// Who the client is, and why it gets what it gets.
    fn facts(&self) -> Vec<(&'static str, String)> {
        let Self { answer, client, .. } = self;
        let mut lines = vec![("client", client.mac.map(|mac| hex::colon(&mac)).unwrap_or_default())];
        self.page.fleets(&answer.fleets, &mut lines);
        self.page.reserved(answer.reservation, &mut lines);
        if let Ok(given) = &answer.address {
            lines.push(("address", self.why(given)));
        }
        let time = |seconds| duration_text(seconds);
        let timers = &answer.timers;
        let times = format!(
            "{}; renews after {}, rebinds after {}",
            time(timers.lease.seconds),
            time(timers.renew.seconds),
            time(timers.rebind.seconds)
        );
        lines.push(("lease", times));
        lines
    }

    fn why(&self, given: &oplex::answer::Given<'_>) -> String {
        let Some(pool) = given.pool else { return format!("{}, which is reserved for it", given.address) };
        let whose = given.fleet.map(|fleet| format!(" of fleet {}", clean::line(fleet))).unwrap_or_default();
        let after = match self.client.leased {
            0 => "the first free one of".to_owned(),
            leased => format!("free after {leased} others, of"),
        };
        format!("{}, {after} the pool {pool}{whose}, {}", given.address, self.page.place(&pool.spot))
    }

    fn told(&self, code: u8) -> Option<&Assembled<SaidBy<'_>>> {
        self.answer.payloads.iter().find(|told| told.code == u16::from(code))
    }

    fn name(&self, code: u8) -> String {
        let known = self.page.plan.codebook.v4(code.into());
        known.map_or_else(|| code.to_string(), |definition| clean::line(&definition.name).into_owned())
    }

    fn draw_told(&self, told: &Assembled<SaidBy<'_>>, out: &mut dyn Write) -> std::io::Result<()> {
        let codebook = &self.page.plan.codebook;
        let (value, subs) = codebook
            .v4(told.code)
            .map(|definition| message::meaning(codebook, definition, &told.octets, self.book(told)))
            .unwrap_or_default();
        let shown =
            if subs.is_empty() { value.as_ref().map(message::shown).unwrap_or_default() } else { String::new() };
        let from = |by: &SaidBy<'_>| self.page.from(by);
        let first = told.from.first().map(from).unwrap_or_default();
        let over = self.overridden(told);
        let row = |code: String, name: &str, value: &str, from: &str| {
            format!("{code:>4}  {:<24}  {:<48}  {from}", clean::line(name), clean::line(value)).trim_end().to_owned()
        };
        let name = self.name(told.code as u8);
        let line = row(told.code.to_string(), &name, &shown, if subs.is_empty() { &first } else { "" });
        writeln!(out, "{line}")?;
        for (index, sub) in subs.iter().enumerate() {
            let value = sub.value.as_ref().map(message::shown).unwrap_or_default();
            let from = told.from.get(index).map(from).unwrap_or_default();
            let name = format!("  {}", sub.name.as_deref().unwrap_or("unknown"));
            writeln!(out, "{}", row(sub.code.to_string(), &name, &value, &from))?;
        }
        for over in over {
            writeln!(out, "{}", in_style(DIM, row(String::new(), "", "", &format!("over {over}"))))?;
        }
        Ok(())
    }

    /// The vendor whose options an option carries.
    fn book(&self, carried: &Assembled<SaidBy<'_>>) -> Option<&str> {
        let carries = |told: &&Told<'_>| {
            let carriers = &told.sent.definition.carriers;
            carriers.iter().any(|at| matches!(at, Carrier::Vendor { code, .. } if *code == carried.code))
        };
        self.answer.told.iter().find(carries).map(|told| told.sent.definition.book())
    }

    /// What wider layers would have said of an option.
    fn overridden(&self, told: &Assembled<SaidBy<'_>>) -> Vec<String> {
        let mine = |at: &&Told<'_>| at.sent.definition.is_top_level() && at.sent.definition.code == told.code;
        let own = self.answer.told.iter().find(mine);
        let over = own.into_iter().flat_map(|told| &told.overrides);
        over.map(|(layer, sent)| {
            let value = sent.payload().map(|payload| payload.value.to_string()).unwrap_or_default();
            format!("{value} of {}, {}", clean::line(&layer.name), self.page.place(&sent.key))
        })
        .collect()
    }

    /// The whole chain for one option.
    pub(super) fn explain(&self, asked: &str, out: &mut dyn Write) -> Result<(), Failure> {
        let full = if asked.contains(':') { asked.to_owned() } else { format!("v4:{asked}") };
        let definition = self.page.plan.codebook.find(&full).or_else(because)?;
        let told = self.answer.told.iter().find(|told| told.sent.definition.has_id(&definition.id()));
        let computed = self.told(definition.code as u8).filter(|_| definition.is_top_level());
        let label = clean::line(&definition.label()).into_owned();
        match (told, computed) {
            (Some(told), _) => {
                let unasked = self.exchange.unasked.contains(&(definition.code as u8)) && definition.is_top_level();
                let but = if unasked { ", but the client does not ask for it" } else { "" };
                self.page.chain(out, &label, told, but)?;
            }
            (None, Some(computed)) => {
                writeln!(out, "{}", in_style(STRONG, format!("{label} follows from the network")))?;
                self.draw_told(computed, out)?;
            }
            (None, None) => {
                writeln!(out, "{}", in_style(STRONG, format!("{label} is not told")))?;
                let layers = self
                    .page
                    .plan
                    .layers()
                    .filter(|layer| layer.withheld.iter().any(|at| at.definition.has_id(&definition.id())));
                for layer in layers {
                    writeln!(out, "  {} withholds it", clean::line(&layer.name))?;
                }
            }
        }
        Ok(())
    }

    pub(super) fn as_json(&self) -> Json {
        let Self { answer, exchange, page, .. } = self;
        let codebook = &self.page.plan.codebook;
        let by = |by: &SaidBy<'_>| origin(&page.loaded.sources, by.layer, by.spot.as_ref());
        let lines = exchange.budget.lines().filter_map(|line| self.told(line.code));
        let options: Vec<Json> = lines
            .map(|told| {
                let definition = codebook.v4(told.code);
                let value = definition.and_then(|definition| message::meaning(codebook, definition, &told.octets, self.book(told)).0);
                let over = answer.told.iter().find(|at| at.sent.definition.is_top_level() && at.sent.definition.code == told.code);
                let over = over.into_iter().flat_map(|told| &told.overrides);
                json!({
                    "option": format!("v4:{}", told.code),
                    "name": definition.map(|definition| &*definition.name),
                    "value": value,
                    "hex": hex::plain(&told.octets),
                    "from": told.from.first().map(by),
                    "overrides": over.map(|(layer, sent)| origin(&page.loaded.sources, &layer.name, Some(&sent.key))).collect::<Vec<_>>(),
                })
            })
            .collect();
        let messages: Vec<Json> = exchange
            .messages
            .iter()
            .map(|sent| json!({"type": sent.message_type.name(), "hex": hex::plain(&sent.octets)}))
            .collect();
        json!({
            "network": answer.network.name,
            "fleets": fleets_as_json(&answer.fleets),
            "address": answer.address.as_ref().ok().map(|given| given.address),
            "no_address": answer.address.as_ref().err().map(ToString::to_string),
            "lease": answer.timers.lease.seconds,
            "renew": answer.timers.renew.seconds,
            "rebind": answer.timers.rebind.seconds,
            "options": options,
            "unasked": exchange.unasked.iter().map(|code| format!("v4:{code}")).collect::<Vec<_>>(),
            "budget": json!(BudgetForm::new(&exchange.budget, codebook)),
            "exchange": messages,
        })
    }
}
