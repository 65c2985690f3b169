//! What one client gets, as programs read it.

use oplex::answer::{AddressOrigin, HostMode, HostState};
use oplex::compiled::{Assembled, LayerRef, SentOption};
use oplex::finding::Spot;
use oplex::octets::hex;
use serde_json::{Value as Json, json};

use super::frames::between;
use super::page::Rehearsal;
use crate::render::budget::BudgetForm;

/// The document: what DHCPv4 comes to, and under `v6` what IPv6 comes to.
pub(super) fn of_all(network: &str, rehearsals: &[Rehearsal<'_>]) -> Json {
    let mut whole = json!({ "network": network });
    for rehearsal in rehearsals {
        match &rehearsal.answer.host {
            Some(host) => {
                let mut form = rehearsal.form();
                merge(&mut form, rehearsal.host_form(host));
                merge(&mut whole, json!({ "v6": form }));
            }
            None => merge(&mut whole, rehearsal.form()),
        }
    }
    whole
}

fn merge(into: &mut Json, from: Json) {
    if let (Some(into), Json::Object(from)) = (into.as_object_mut(), from) {
        into.extend(from);
    }
}

impl Rehearsal<'_> {
    /// What both families have.
    fn form(&self) -> Json {
        let Self { answer, exchange, .. } = self;
        let name = self.protocol().name();
        let fleets = answer.fleets.iter().map(|known| {
            let by = known.by.iter().map(|fit| json!({"fact": fit.fact, "seen": fit.seen, "pattern": fit.pattern}));
            json!({"name": known.fleet.name, "by": by.collect::<Vec<Json>>()})
        });
        let messages = exchange.messages.iter().map(|played| {
            let (from, to) = between(played.ends);
            json!({"type": played.name, "from": from, "to": to, "hex": hex::plain(&played.octets)})
        });
        let budget = match &exchange.room.budget {
            Some(budget) => json!(BudgetForm::new(budget, &self.compiled.codebook)),
            None => json!({"limit": exchange.room.limit, "used": exchange.room.used}),
        };
        json!({
            "fleets": fleets.collect::<Vec<_>>(),
            "address": answer.address.as_ref().ok().map(|given| given.address),
            "no_address": answer.address.as_ref().err().map(ToString::to_string),
            "lease": answer.timers.lease.seconds,
            "renew": answer.timers.renew.seconds,
            "rebind": answer.timers.rebind.seconds,
            "options": self.received().into_iter().map(|sent| self.option_form(sent)).collect::<Vec<_>>(),
            "unrequested": exchange.unrequested.iter().map(|code| format!("{name}:{code}")).collect::<Vec<_>>(),
            "budget": budget,
            "exchange": messages.collect::<Vec<_>>(),
        })
    }

    /// What IPv6 has besides.
    fn host_form(&self, host: &HostState) -> Json {
        let addresses = host.addresses.iter().map(|at| {
            let by = match at.origin {
                AddressOrigin::LinkLocal => "link-local",
                AddressOrigin::MadeUp => "link-local-made-up",
                AddressOrigin::HardwareAddress => "eui-64",
                AddressOrigin::Secret => "stable-private",
                AddressOrigin::Leased => "dhcpv6",
            };
            json!({"address": at.address, "prefix": at.prefix.to_string(), "by": by})
        });
        let mode = match host.mode {
            HostMode::Unknown => "unknown",
            HostMode::Autonomous => "autonomous",
            HostMode::Stateless => "stateless",
            HostMode::Stateful => "stateful",
        };
        json!({
            "mode": mode,
            "addresses": addresses.collect::<Vec<_>>(),
            "delegated": host.delegated.map(|prefix| prefix.to_string()),
            "preferred": self.answer.timers.preferred.seconds,
            "advertised": self.advertised().iter().map(|option| self.advertised_form(option)).collect::<Vec<_>>(),
        })
    }

    fn option_form(&self, sent: &Assembled<'_>) -> Json {
        let overrides = self.chosen(sent.code).into_iter().flat_map(|chosen| &chosen.overrides);
        let overrides = overrides.map(|(layer, over)| self.origin(*layer, over.key()));
        json!({
            "option": format!("{}:{}", self.protocol().name(), sent.code),
            "name": self.compiled.codebook.own(self.protocol(), sent.code).map(|known| &*known.name),
            "value": self.meaning(sent).value,
            "hex": hex::plain(&sent.octets),
            "from": sent.from.first().map(|by| self.origin(by.layer, by.spot)),
            "overrides": overrides.collect::<Vec<_>>(),
        })
    }

    fn advertised_form(&self, option: &SentOption<'_>) -> Json {
        json!({
            "option": option.id().to_string(),
            "name": option.definition.name,
            "value": option.value(),
            "hex": option.octets.as_deref().map(hex::plain),
            "from": self.origin(self.answer.network.layer.id, option.spot()),
        })
    }

    /// A layer and the line that says so.
    fn origin(&self, layer: LayerRef<'_>, spot: Option<&Spot>) -> Json {
        let place = spot.map(|spot| self.loaded.sources.location(spot));
        let (file, line) = (place.as_ref().map(|place| &place.file), place.as_ref().map(|place| place.line));
        json!({"layer": layer.name, "file": file, "line": line})
    }
}
