//! The whole chain for one option: who sends it, and who would send what otherwise.

use std::borrow::Cow;
use std::io::Write;

use oplex::answer::Chosen;
use oplex::codebook::Definition;
use oplex::compiled::{Assembled, Layer, LayerRef, SentOption};
use oplex::finding::Spot;
use oplex::octets::hex;

use crate::args::Format;
use crate::exit::{Failure, because};
use crate::forms::{self, ExplanationForm, FromForm, SaysForm, State};
use crate::rehearsal::Rehearsal;
use crate::render::clean;
use crate::render::style::{STRONG, in_style};

/// What there is to say of one option.
struct Explanation<'r> {
    definition: &'r Definition,
    state: State,
    /// What a layer sends, and what it overrides.
    chosen: Option<&'r Chosen<'r>>,
    /// What follows from the network, or from the client's own name.
    computed: Option<Cow<'r, Assembled<'r>>>,
}

impl Rehearsal<'_> {
    pub(super) fn explain(&self, query: &str, format: Format, out: &mut dyn Write) -> Result<(), Failure> {
        let full = if query.contains(':') { query.to_owned() } else { format!("{}:{query}", self.protocol().name()) };
        let definition = self.compiled.codebook.find(&full).or_else(because)?;
        let said = self.explanation(definition);
        match format {
            Format::Json => forms::document(out, "oplex-explanation/1", &self.explanation_form(&said))?,
            Format::Text => self.draw_explanation(&said, out)?,
        }
        Ok(())
    }

    fn explanation<'r>(&'r self, definition: &'r Definition) -> Explanation<'r> {
        let own = definition.is_own_of(self.protocol());
        let chosen = self.answer.sent.iter().find(|chosen| chosen.option.id() == definition.id());
        let is_it = |sent: &Assembled<'_>| own && sent.code == definition.code;
        let computed = self.answer.payloads.iter().find(|sent| is_it(sent)).map(Cow::Borrowed);
        let computed = computed.or_else(|| self.answered_name().filter(|name| is_it(name)).map(Cow::Owned));
        let requested = !(own && self.exchange.unrequested.contains(&definition.code));
        let state = match (chosen, &computed, self.uses_dhcp()) {
            (None, None, _) => State::NotSent,
            (None, Some(_), _) => State::Derived,
            (Some(_), _, false) => State::NotUsed,
            (Some(_), _, true) => {
                if requested {
                    State::Sent
                } else {
                    State::NotRequested
                }
            }
        };
        Explanation { definition, state, chosen, computed: computed.filter(|_| chosen.is_none()) }
    }

    fn explanation_form<'r>(&'r self, said: &Explanation<'r>) -> ExplanationForm<'r> {
        let from = |spot: &Spot| {
            let place = self.loaded.sources.location(spot);
            FromForm { file: place.file, line: place.line }
        };
        let hex = |option: &SentOption<'_>| option.octets.as_deref().map(hex::plain);
        let says = |(layer, option): (LayerRef<'r>, &SentOption<'_>)| SaysForm {
            layer: layer.name,
            value: option.value().cloned(),
            hex: hex(option),
            from: option.spot().map(from),
        };
        let own = said.chosen.map(|chosen| &chosen.option);
        ExplanationForm {
            option: said.definition.id().to_string(),
            name: &said.definition.name,
            state: said.state,
            value: own.and_then(SentOption::value).cloned().or_else(|| self.meaning(said.computed.as_deref()?).value),
            hex: own.and_then(hex).or_else(|| said.computed.as_ref().map(|sent| hex::plain(&sent.octets))),
            layers: said.chosen.into_iter().flat_map(senders).map(says).collect(),
            withheld_by: self.withholding(said).map(|layer| layer.id.name).collect(),
        }
    }

    fn draw_explanation<'r>(&'r self, said: &Explanation<'r>, out: &mut dyn Write) -> std::io::Result<()> {
        let label = clean::line(&said.definition.label()).into_owned();
        let but = match said.state {
            State::NotUsed => ", but no host uses DHCPv6 here",
            State::NotRequested => ", but the client does not request it",
            State::Sent | State::Derived | State::NotSent => "",
        };
        match (said.chosen, &said.computed) {
            (Some(chosen), _) => self.chain(&label, chosen, but, out),
            (None, Some(computed)) => {
                let named = matches!(computed, Cow::Owned(_));
                let of = if named { "name that the client sends" } else { "network" };
                writeln!(out, "{}", in_style(STRONG, format!("{label} is derived from the {of}")))?;
                self.draw_sent(computed, out)
            }
            (None, None) => {
                writeln!(out, "{}", in_style(STRONG, format!("{label} is not sent")))?;
                self.withholding(said)
                    .try_for_each(|layer| writeln!(out, "  {} withholds it", clean::line(layer.id.name)))
            }
        }
    }

    /// The layers that withhold what is not sent.
    fn withholding<'r>(&'r self, said: &Explanation<'r>) -> impl Iterator<Item = &'r Layer<'r>> {
        let (definition, not_sent) = (said.definition, matches!(said.state, State::NotSent));
        self.layers().filter(move |layer| not_sent && withholds(layer, definition))
    }

    fn chain(&self, label: &str, chosen: &Chosen<'_>, but: &str, out: &mut dyn Write) -> std::io::Result<()> {
        let value = |option: &SentOption<'_>| option.value().map(ToString::to_string).unwrap_or_default();
        let title = format!("{label} is {}", clean::line(&value(&chosen.option)));
        writeln!(out, "{}{but}", in_style(STRONG, title))?;
        for (at, (layer, option)) in senders(chosen).enumerate() {
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

/// The layers that send an option, the narrowest first.
fn senders<'r>(chosen: &'r Chosen<'r>) -> impl Iterator<Item = (LayerRef<'r>, &'r SentOption<'r>)> {
    let others = chosen.overrides.iter().map(|(layer, option)| (*layer, option));
    std::iter::once((chosen.layer, &chosen.option)).chain(others)
}

fn withholds(layer: &Layer<'_>, definition: &Definition) -> bool {
    layer.withheld.iter().any(|out| out.is_same(definition))
}
