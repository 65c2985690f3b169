//! The whole chain for one option: who sends it, and who would send what otherwise.

use std::io::Write;

use oplex::answer::Chosen;
use oplex::codebook::Definition;
use oplex::compiled::{Layer, SentOption};

use crate::exit::{Failure, because};
use crate::rehearsal::Rehearsal;
use crate::render::clean;
use crate::render::style::{STRONG, in_style};

impl Rehearsal<'_> {
    pub(super) fn explain(&self, query: &str, out: &mut dyn Write) -> Result<(), Failure> {
        let full = if query.contains(':') { query.to_owned() } else { format!("{}:{query}", self.protocol().name()) };
        let definition = self.compiled.codebook.find(&full).or_else(because)?;
        let own = definition.is_own_of(self.protocol());
        let is_it = |option: &SentOption<'_>| option.id() == definition.id();
        let label = clean::line(&definition.label()).into_owned();
        let computed = self.answer.payloads.iter().find(|sent| own && sent.code == definition.code);
        match (self.answer.sent.iter().find(|chosen| is_it(&chosen.option)), computed) {
            (Some(chosen), _) => self.chain(&label, chosen, self.but(definition, own), out)?,
            (None, Some(computed)) => {
                writeln!(out, "{}", in_style(STRONG, format!("{label} is derived from the network")))?;
                self.draw_sent(computed, out)?;
            }
            (None, None) => {
                writeln!(out, "{}", in_style(STRONG, format!("{label} is not sent")))?;
                for layer in self.layers().filter(|layer| withholds(layer, definition)) {
                    writeln!(out, "  {} withholds it", clean::line(layer.id.name))?;
                }
            }
        }
        Ok(())
    }

    /// Why it does not reach the client, though it is there for it.
    fn but(&self, definition: &Definition, own: bool) -> &'static str {
        match (self.uses_dhcp(), own && self.exchange.unrequested.contains(&definition.code)) {
            (false, _) => ", but no host uses DHCPv6 here",
            (true, true) => ", but the client does not request it",
            (true, false) => "",
        }
    }

    fn chain(&self, label: &str, chosen: &Chosen<'_>, but: &str, out: &mut dyn Write) -> std::io::Result<()> {
        let value = |option: &SentOption<'_>| option.value().map(ToString::to_string).unwrap_or_default();
        let title = format!("{label} is {}", clean::line(&value(&chosen.option)));
        writeln!(out, "{}{but}", in_style(STRONG, title))?;
        let first = (chosen.layer, &chosen.option);
        let others = chosen.overrides.iter().map(|(layer, option)| (*layer, option));
        for (at, (layer, option)) in std::iter::once(first).chain(others).enumerate() {
            let verb = if at == 0 { "sends" } else { "would send" };
            let place = option.spot().map(|spot| self.place(spot)).unwrap_or_default();
            writeln!(out, "  {} {verb} {}  {place}", clean::line(layer.name), clean::line(&value(option)))?;
        }
        Ok(())
    }

    /// All layers of the plan but those of reservations.
    fn layers(&self) -> impl Iterator<Item = &Layer<'_>> {
        let networks = self.compiled.networks.iter().map(|network| &network.layer);
        let fleets = self.compiled.fleets.iter();
        let fleets = fleets.flat_map(|fleet| std::iter::once(&fleet.layer).chain(fleet.on.iter().map(|on| &on.layer)));
        std::iter::once(&self.compiled.everyone).chain(networks).chain(fleets)
    }
}

fn withholds(layer: &Layer<'_>, definition: &Definition) -> bool {
    layer.withheld.iter().any(|out| out.is_same(definition))
}
