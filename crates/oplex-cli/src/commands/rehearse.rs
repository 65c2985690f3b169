//! `oplex rehearse`: what one client gets under a plan, and why, octet for octet.

use std::io::Write;
use std::path::Path;
use std::time::SystemTime;

use oplex::answer::{Answer, Exchange, Recognised, SaidBy, Told};
use oplex::codebook::{Assembled, Carrier, Codebook};
use oplex::finding::{Sources, Spot};
use oplex::layout::duration_text;
use oplex::octets::hex;
use oplex::plan::{ClientFacts, Loaded, Plan};
use oplex_io::capture;
use serde_json::{Value as Json, json};

use crate::args::{Format, Rehearse};
use crate::exit::{DONE, ERRORS, Failure, Outcome, because};
use crate::render::budget::{self, BudgetForm};
use crate::render::json;
use crate::render::octets::facts;
use crate::render::style::{DIM, STRONG, in_style};
use crate::render::{clean, message};

pub(super) fn run(args: &Rehearse, out: &mut dyn Write) -> Outcome {
    let loaded = oplex_io::files::plan(&args.plan)?;
    let Some(plan) = &loaded.plan else {
        return because(format!("{} cannot be read as a plan; oplex check says why", super::shown(&args.plan)));
    };
    let client = client(args, plan)?;
    let Some(answer) = plan.answer(&client) else { return because("the network is not in the plan") };
    let exchange = plan.exchange(&client, &answer).or_else(because)?;
    if let Some(path) = &args.capture {
        write_capture(path, &client, &exchange)?;
    }
    let rehearsal = Rehearsal {
        loaded: &loaded,
        plan,
        client: &client,
        answer: &answer,
        exchange: &exchange,
        capture: args.capture.as_deref(),
    };
    match (&args.explain, args.format.format) {
        (Some(option), _) => rehearsal.explain(option, out)?,
        (None, Format::Json) => json::line(out, &rehearsal.as_json())?,
        (None, Format::Text) => rehearsal.draw(out)?,
    }
    Ok(if answer.address.is_err() || !exchange.budget.left_out.is_empty() { ERRORS } else { DONE })
}

/// The exchange as frames, a millisecond apart.
fn write_capture(path: &Path, client: &ClientFacts, exchange: &Exchange) -> Result<(), Failure> {
    let frames = exchange.messages.iter().map(|sent| {
        let near =
            if sent.source.port() == sent.destination.port() { capture::RELAY } else { client.mac.unwrap_or_default() };
        let far = if sent.destination.ip().is_broadcast() { [0xff; 6] } else { capture::SERVER };
        let reply = sent.message_type.is_reply() == Some(true);
        let (from, to) = if reply { (capture::SERVER, near) } else { (near, far) };
        capture::frame((from, sent.source.into()), (to, sent.destination.into()), &sent.octets)
    });
    let Some(frames) = frames.collect::<Option<Vec<_>>>() else {
        return because("a message is longer than a datagram");
    };
    Ok(capture::write(path, SystemTime::now(), &frames)?)
}

/// The client that the flags describe.
fn client(args: &Rehearse, plan: &Plan) -> Result<ClientFacts, Failure> {
    let Some(network) = plan.network(&args.network) else {
        let known: Vec<&str> = plan.networks.iter().map(|network| network.name.as_str()).collect();
        return because(format!("no network of the plan is called `{}`; there are {}", args.network, known.join(", ")));
    };
    let mut client = ClientFacts::on(network);
    let mac = hex::parse(&args.mac).ok().and_then(|octets| <[u8; 6]>::try_from(octets).ok());
    client.mac =
        Some(mac.map_or_else(|| because(format!("`{}` is not a MAC such as 02:00:5e:00:53:11", args.mac)), Ok)?);
    let given = [
        ("vendor-class", &args.vendor_class),
        ("user-class", &args.user_class),
        ("arch", &args.arch),
        ("hostname", &args.hostname),
        ("client-id", &args.client_id),
        ("circuit-id", &args.circuit_id),
        ("remote-id", &args.remote_id),
    ];
    for (key, text) in given {
        let set = ClientFacts::TEXTS.iter().find(|(known, _)| *known == key).map(|(_, set)| set);
        if let (Some(text), Some(set)) = (text, set) {
            set(&mut client, &plan.codebook, text).or_else(because)?;
        }
    }
    client.wants = args.wants.as_deref().map(|wants| codes(wants, &plan.codebook)).transpose()?;
    client.max_size = args.max_size;
    client.leased = args.leased;
    Ok(client)
}

/// `1,3,router`: codes and names.
fn codes(text: &str, codebook: &Codebook) -> Result<Vec<u8>, Failure> {
    let code = |word: &str| match word.parse() {
        Ok(code) => Ok(code),
        Err(_) => match codebook.find(&if word.contains(':') { word.to_owned() } else { format!("v4:{word}") }) {
            Ok(option) => u8::try_from(option.code).or_else(|_| because(format!("{word} cannot be asked for"))),
            Err(unknown) => because(unknown),
        },
    };
    text.split([',', ' ']).filter(|word| !word.is_empty()).map(code).collect()
}

struct Rehearsal<'r> {
    loaded: &'r Loaded,
    plan: &'r Plan,
    client: &'r ClientFacts,
    answer: &'r Answer<'r>,
    exchange: &'r Exchange,
    /// The file with its frames.
    capture: Option<&'r Path>,
}

impl Rehearsal<'_> {
    fn draw(&self, out: &mut dyn Write) -> std::io::Result<()> {
        let Self { answer, exchange, .. } = self;
        let network = clean::line(&answer.network.name);
        match &answer.address {
            Ok(given) => {
                let lease = duration_text(answer.timers.lease.seconds);
                let told = exchange.budget.lines().filter(|line| line.code != 53).count();
                let line = format!("{} on {network} for {lease}, with {told} options", given.address);
                writeln!(out, "{}", in_style(STRONG, line))?;
            }
            Err(why) => writeln!(out, "{}", in_style(STRONG, format!("no address on {network}: {why}")))?,
        }
        writeln!(out)?;
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
        budget::draw_left_out(out, &exchange.budget, &self.plan.codebook)?;
        writeln!(out)?;
        for sent in &exchange.messages {
            let kind = sent.message_type.to_string();
            writeln!(out, "  {kind:<13} {:>4} octets", sent.octets.len())?;
        }
        if let Some(path) = self.capture {
            writeln!(out, "  as frames in {}", super::shown(path))?;
        }
        Ok(())
    }

    /// Who the client is, and why it gets what it gets.
    fn facts(&self) -> Vec<(&'static str, String)> {
        let Self { answer, client, .. } = self;
        let mut lines = vec![("client", client.mac.map(|mac| hex::colon(&mac)).unwrap_or_default())];
        for Recognised { fleet, by } in &answer.fleets {
            let why: Vec<String> =
                by.iter().map(|fit| format!("{} {} fits {}", fit.fact, fit.seen, fit.pattern)).collect();
            lines.push(("fleet", format!("{}, as {}", fleet.name, why.join(", and "))));
        }
        if answer.fleets.is_empty() && !self.plan.fleets.is_empty() {
            lines.push(("fleet", "none of the plan's".to_owned()));
        }
        if let Some(reservation) = answer.reservation {
            let name = reservation.name().map(|(name, _)| format!(" ({name})")).unwrap_or_default();
            lines.push((
                "reserved",
                format!("{}{name}, {}", reservation.client(), self.place(&reservation.client_spot())),
            ));
        }
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
        format!("{}, {after} the pool {pool}{whose}, {}", given.address, self.place(&pool.spot))
    }

    fn told(&self, code: u8) -> Option<&Assembled<SaidBy<'_>>> {
        self.answer.payloads.iter().find(|told| told.code == u16::from(code))
    }

    fn name(&self, code: u8) -> String {
        let known = self.plan.codebook.v4(code.into());
        known.map_or_else(|| code.to_string(), |definition| clean::line(&definition.name).into_owned())
    }

    fn place(&self, spot: &Spot) -> String {
        let place = self.loaded.sources.place(spot);
        format!("{}:{}", clean::line(&place.file), place.line)
    }

    fn draw_told(&self, told: &Assembled<SaidBy<'_>>, out: &mut dyn Write) -> std::io::Result<()> {
        let codebook = &self.plan.codebook;
        let (value, subs) = codebook
            .v4(told.code)
            .map(|definition| message::meaning(codebook, definition, &told.octets, self.book(told)))
            .unwrap_or_default();
        let shown =
            if subs.is_empty() { value.as_ref().map(message::shown).unwrap_or_default() } else { String::new() };
        let from = |by: &SaidBy<'_>| match &by.spot {
            Some(spot) => format!("{}, {}", clean::line(by.layer), self.place(spot)),
            None => "nobody says otherwise".to_owned(),
        };
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
            format!("{value} of {}, {}", clean::line(&layer.name), self.place(&sent.key))
        })
        .collect()
    }

    /// The whole chain for one option.
    fn explain(&self, asked: &str, out: &mut dyn Write) -> Result<(), Failure> {
        let full = if asked.contains(':') { asked.to_owned() } else { format!("v4:{asked}") };
        let definition = self.plan.codebook.find(&full).or_else(because)?;
        let told = self.answer.told.iter().find(|told| told.sent.definition.has_id(&definition.id()));
        let computed = self.told(definition.code as u8).filter(|_| definition.is_top_level());
        let label = clean::line(&definition.label()).into_owned();
        match (told, computed) {
            (Some(told), _) => {
                let value = |sent: &oplex::plan::Sent| {
                    sent.payload().map(|payload| payload.value.to_string()).unwrap_or_default()
                };
                let unasked = self.exchange.unasked.contains(&(definition.code as u8)) && definition.is_top_level();
                let sent = if unasked { ", but the client does not ask for it" } else { "" };
                writeln!(out, "{}{sent}", in_style(STRONG, format!("{label} is {}", clean::line(&value(told.sent)))))?;
                let mut lines = vec![(told.layer, told.sent)];
                lines.extend(told.overrides.iter().copied());
                for (at, (layer, sent)) in lines.into_iter().enumerate() {
                    let says = if at == 0 { "says" } else { "would say" };
                    let (name, text) = (clean::line(&layer.name), value(sent));
                    writeln!(out, "  {name} {says} {}  {}", clean::line(&text), self.place(&sent.spot))?;
                }
            }
            (None, Some(computed)) => {
                writeln!(out, "{}", in_style(STRONG, format!("{label} follows from the network")))?;
                self.draw_told(computed, out)?;
            }
            (None, None) => {
                writeln!(out, "{}", in_style(STRONG, format!("{label} is not told")))?;
                let layers = self
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

    fn as_json(&self) -> Json {
        let Self { answer, exchange, loaded, .. } = self;
        let codebook = &self.plan.codebook;
        let by = |by: &SaidBy<'_>| origin(&loaded.sources, by.layer, by.spot.as_ref());
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
                    "overrides": over.map(|(layer, sent)| origin(&loaded.sources, &layer.name, Some(&sent.key))).collect::<Vec<_>>(),
                })
            })
            .collect();
        let fleets: Vec<Json> = answer
            .fleets
            .iter()
            .map(|known| {
                let by: Vec<Json> = known
                    .by
                    .iter()
                    .map(|fit| json!({"fact": fit.fact, "seen": fit.seen, "pattern": fit.pattern}))
                    .collect();
                json!({"name": known.fleet.name, "by": by})
            })
            .collect();
        let messages: Vec<Json> = exchange
            .messages
            .iter()
            .map(|sent| json!({"type": sent.message_type.name(), "hex": hex::plain(&sent.octets)}))
            .collect();
        json!({
            "network": answer.network.name,
            "fleets": fleets,
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

/// A layer and the line that says so.
fn origin(sources: &Sources, layer: &str, spot: Option<&Spot>) -> Json {
    let place = spot.map(|spot| sources.place(spot));
    json!({"layer": layer, "file": place.as_ref().map(|place| &place.file), "line": place.as_ref().map(|place| place.line)})
}
