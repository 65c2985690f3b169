//! Why a client does not belong to a fleet.

use std::io::Write;

use oplex::answer::Unfit;
use oplex::compiled::Compiled;
use oplex::family::Family;
use oplex::plan::ClientFacts;

use crate::args::Format;
use crate::exit::{DONE, Outcome, because};
use crate::forms::{self, BelongsForm, WhyNotForm};
use crate::render::clean;
use crate::render::style::{STRONG, in_style};

/// What of a fleet's conditions the client does not meet, in each family that its network has.
pub(super) fn run(
    compiled: &Compiled<'_>,
    client: &ClientFacts,
    name: &str,
    format: Format,
    out: &mut dyn Write,
) -> Outcome {
    let Some(fleet) = compiled.fleets.iter().find(|fleet| *fleet.name == *name) else {
        let known: Vec<&str> = compiled.fleets.iter().map(|fleet| &*fleet.name).collect();
        return because(format!("unknown fleet `{name}`; the plan has {}", oplex::nearest::some_of(known)));
    };
    let network = &compiled.networks[client.network];
    let families = Family::ALL.into_iter().filter(|family| network.sides.has(*family));
    let unfit = families.map(|family| (family, compiled.unfit(fleet, client, family)));
    if format == Format::Json {
        let families = unfit.map(|(family, unfit)| BelongsForm {
            family: family.name(),
            belongs: unfit.is_empty(),
            unfit: unfit.into_iter().map(Into::into).collect(),
        });
        let form = WhyNotForm { fleet: name, families: families.collect() };
        forms::document(out, "oplex-why-not/1", &form)?;
        return Ok(DONE);
    }
    let name = clean::line(name);
    for (family, unfit) in unfit {
        let by = family.protocol();
        if unfit.is_empty() {
            writeln!(out, "{}", in_style(STRONG, format!("by {by} the client belongs to {name}")))?;
            continue;
        }
        writeln!(out, "{}", in_style(STRONG, format!("by {by} the client does not belong to {name}")))?;
        for Unfit { wanted, seen } in unfit {
            let seen =
                if seen.is_empty() { "it sends none".to_owned() } else { format!("it sends {}", seen.join(", ")) };
            writeln!(out, "  {}: {}", clean::line(&wanted), clean::line(&seen))?;
        }
    }
    Ok(DONE)
}
