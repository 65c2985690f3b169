//! What one client gets.

use std::net::{IpAddr, Ipv6Addr};

use oplex::answer::{AddressOrigin, Chosen, Fit, HostState};
use oplex::compiled::{Assembled, LayerRef, SentOption};
use oplex::finding::Spot;
use oplex::layout::{Value, duration_text};
use oplex::octets::hex;
use serde::Serialize;

use super::BudgetForm;
use super::plan::mode;
use crate::rehearsal::{Rehearsal, between};

/// What one client gets; a family that is not rehearsed is absent.
#[derive(Serialize)]
pub(crate) struct RehearsalForm<'r> {
    network: &'r str,
    /// How many errors the plan has.
    plan_errors: usize,
    #[serde(skip_serializing_if = "Option::is_none")]
    v4: Option<SideForm<'r>>,
    #[serde(skip_serializing_if = "Option::is_none")]
    v6: Option<SideForm<'r>>,
}

/// The same by one family.
#[derive(Serialize)]
struct SideForm<'r> {
    fleets: Vec<FleetForm<'r>>,
    addresses: Vec<AddressForm>,
    /// Why DHCP assigns it no address.
    no_address: Option<String>,
    lease: TimeForm,
    preferred: TimeForm,
    renew: TimeForm,
    rebind: TimeForm,
    /// The header fields that say where it boots from.
    header: Vec<FieldForm<'r>>,
    options: Vec<OptionForm<'r>>,
    unrequested: Vec<String>,
    budget: RoomForm,
    exchange: Vec<MessageForm>,
    #[serde(flatten)]
    host: Option<HostForm<'r>>,
}

#[derive(Serialize)]
struct FleetForm<'r> {
    name: &'r str,
    by: Vec<FitForm>,
}

#[derive(Serialize)]
struct FitForm {
    fact: String,
    seen: String,
    pattern: String,
}

/// An address of the client, and how it came by it: `dhcp`, or by itself.
#[derive(Serialize)]
struct AddressForm {
    address: Option<IpAddr>,
    prefix: String,
    by: &'static str,
}

/// A time in seconds, with the text beside it.
#[derive(Serialize)]
struct TimeForm {
    seconds: u32,
    text: String,
}

#[derive(Serialize)]
struct FieldForm<'r> {
    field: &'static str,
    value: String,
    from: OriginForm<'r>,
}

#[derive(Serialize)]
struct OptionForm<'r> {
    option: String,
    name: Option<&'r str>,
    value: Option<Value>,
    hex: Option<String>,
    from: Option<OriginForm<'r>>,
    /// The layers whose values it replaces or changes, the nearest first.
    overrides: Vec<OriginForm<'r>>,
}

/// A layer, and the line that says so.
#[derive(Serialize)]
struct OriginForm<'r> {
    layer: &'r str,
    file: Option<String>,
    line: Option<usize>,
}

#[derive(Serialize)]
#[serde(untagged)]
enum RoomForm {
    Options(BudgetForm),
    Whole { limit: usize, used: usize },
}

#[derive(Serialize)]
struct MessageForm {
    #[serde(rename = "type")]
    message_type: String,
    from: IpAddr,
    to: IpAddr,
    hex: String,
}

/// What the router advertised, and what the host made of it.
#[derive(Serialize)]
struct HostForm<'r> {
    mode: &'static str,
    delegated: Option<String>,
    advertised: Vec<OptionForm<'r>>,
}

/// The document of all families that were rehearsed.
pub(crate) fn of_all<'r>(network: &'r str, plan_errors: usize, rehearsals: &'r [Rehearsal<'r>]) -> RehearsalForm<'r> {
    let side = |of_v6: bool| rehearsals.iter().find(|one| one.answer.host.is_some() == of_v6).map(Rehearsal::form);
    RehearsalForm { network, plan_errors, v4: side(false), v6: side(true) }
}

fn time(seconds: u32) -> TimeForm {
    TimeForm { seconds, text: duration_text(seconds) }
}

impl<'r> Rehearsal<'r> {
    fn form(&'r self) -> SideForm<'r> {
        let Self { answer, exchange, .. } = self;
        let name = self.protocol().name();
        let fleets = answer.fleets.iter().map(|fleet| {
            let by = self.compiled.fits(fleet, self.client, answer.family).into_iter();
            let by = by.map(|Fit { fact, seen, pattern }| FitForm { fact, seen, pattern });
            FleetForm { name: &fleet.name, by: by.collect() }
        });
        let messages = exchange.messages.iter().map(|played| {
            let (from, to) = between(played.ends);
            MessageForm { message_type: played.name.to_string(), from, to, hex: hex::plain(&played.octets) }
        });
        let budget = match &exchange.room.budget {
            Some(budget) => RoomForm::Options(BudgetForm::new(budget, &self.compiled.codebook)),
            None => RoomForm::Whole { limit: exchange.room.limit, used: exchange.room.used },
        };
        let header = answer.boot.fields().filter(|_| answer.host.is_none()).map(|field| FieldForm {
            field: field.value.0,
            value: field.value.1,
            from: self.origin(field.layer, field.spot),
        });
        SideForm {
            fleets: fleets.collect(),
            addresses: self.addresses(),
            no_address: answer.address.as_ref().err().map(ToString::to_string),
            lease: time(answer.timers.lease.seconds),
            preferred: time(answer.timers.preferred.seconds),
            renew: time(answer.timers.renew.seconds),
            rebind: time(answer.timers.rebind.seconds),
            header: header.collect(),
            options: self.received().into_iter().map(|sent| self.option_form(sent)).chain(self.name_form()).collect(),
            unrequested: exchange.unrequested.iter().map(|code| format!("{name}:{code}")).collect(),
            budget,
            exchange: messages.collect(),
            host: answer.host.as_ref().map(|host| self.host_form(host)),
        }
    }

    fn addresses(&self) -> Vec<AddressForm> {
        let Some(host) = &self.answer.host else {
            let assigned = self.answer.address.as_ref().ok().map(|given| given.address);
            let form =
                |address: IpAddr| AddressForm { address: Some(address), prefix: format!("{address}/32"), by: "dhcp" };
            return assigned.map(form).into_iter().collect();
        };
        let form = |at: &oplex::answer::HostAddress| AddressForm {
            address: at.address.map(|address: Ipv6Addr| address.into()),
            prefix: at.prefix.to_string(),
            by: match at.origin {
                AddressOrigin::LinkLocal => "link-local",
                AddressOrigin::MadeUp => "link-local-made-up",
                AddressOrigin::HardwareAddress => "eui-64",
                AddressOrigin::Secret => "stable-private",
                AddressOrigin::Leased => "dhcp",
            },
        };
        host.addresses.iter().map(form).collect()
    }

    fn host_form(&'r self, host: &HostState) -> HostForm<'r> {
        HostForm {
            mode: mode(host.mode),
            delegated: host.delegated.map(|prefix| prefix.to_string()),
            advertised: self.advertised().iter().map(|option| self.advertised_form(option)).collect(),
        }
    }

    fn option_form(&'r self, sent: &Assembled<'r>) -> OptionForm<'r> {
        let overrides = self.chosen(sent.code).into_iter().flat_map(|chosen: &'r Chosen<'r>| chosen.overrides.iter());
        let overrides = overrides.map(|(layer, over)| self.origin(*layer, over.key()));
        OptionForm {
            option: format!("{}:{}", self.protocol().name(), sent.code),
            name: self.compiled.codebook.own(self.protocol(), sent.code).map(|known| &*known.name),
            value: self.meaning(sent).value,
            hex: Some(hex::plain(&sent.octets)),
            from: sent.from.first().map(|by| self.origin(by.layer, by.spot)),
            overrides: overrides.collect(),
        }
    }

    /// The name that the client is answered with.
    fn name_form(&'r self) -> Option<OptionForm<'r>> {
        self.answered_name().map(|name| self.option_form(&name))
    }

    fn advertised_form(&'r self, option: &'r SentOption<'r>) -> OptionForm<'r> {
        OptionForm {
            option: option.id().to_string(),
            name: Some(&option.definition.name),
            value: option.value().cloned(),
            hex: option.octets.as_deref().map(hex::plain),
            from: Some(self.origin(self.answer.network.layer.id, option.spot())),
            overrides: Vec::new(),
        }
    }

    fn origin(&self, layer: LayerRef<'r>, spot: Option<&Spot>) -> OriginForm<'r> {
        let place = spot.map(|spot| self.loaded.sources.location(spot));
        let (file, line) = place.map(|place| (place.file, place.line)).unzip();
        OriginForm { layer: layer.name, file, line }
    }
}
