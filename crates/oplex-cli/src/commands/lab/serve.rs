//! A stand-in server on an interface.

use std::io::Write;
use std::time::{Duration, Instant};

use oplex::answer::Ends;
use oplex::compiled::Compiled;
use oplex::family::Protocol;
use oplex::lab::Packet;
use oplex::layout::duration_text;
use oplex::octets::hex;
use oplex::packet::AnyMessage;
use oplex::plan::ClientFacts;
use oplex_io::lab::{Exchange, Interface, Serving, serve};

use super::page::clock;
use crate::args::{Format, LabServe};
use crate::commands::{errors, releases, shown};
use crate::exit::{DONE, Outcome, because};
use crate::forms::{self, ExchangeForm};
use crate::render::clean;
use crate::render::style::{DIM, GOOD, ODD, STRONG, in_style};

pub(super) fn run(args: &LabServe, out: &mut dyn Write) -> Outcome {
    let loaded = releases::plan(&args.plan, &args.store, args.trust)?;
    let plan = releases::readable(&loaded, &args.plan)?;
    if errors(&loaded) > 0 {
        return because(format!("{} has errors, and is not served; run oplex check", shown(&args.plan)));
    }
    let compiled = Compiled::of(plan);
    let networks = args.network.iter().map(|name| super::network(&compiled, name)).collect::<Result<Vec<_>, _>>()?;
    let first = networks.first().map(|at| &compiled.networks[*at]);
    if args.advertise && first.is_some_and(|network| network.advertises.is_none()) {
        return because(format!(
            "--advertise: the plan does not say what the router of {} advertises",
            args.network[0]
        ));
    }
    let (interface, time) = (Interface::named(&args.interface)?, Duration::from_secs(args.time.into()));
    let serving = Serving { compiled: &compiled, interface, networks: &networks, advertise: args.advertise, time };
    let text = args.format.format == Format::Text;
    if text {
        writeln!(
            out,
            "{}",
            in_style(ODD, "This is a lab, and no server for people: leases are in memory and end with it.")
        )?;
        writeln!(out, "asking whether another server answers on {} already", args.interface)?;
        out.flush()?;
    }
    let (start, mut failed, mut exchanges) = (Instant::now(), None, 0u64);
    let to = std::cell::RefCell::new(out);
    serve(
        &serving,
        &mut || {
            if text {
                let (names, time) = (args.network.join(", "), duration_text(args.time));
                let router = if args.advertise { " as server and router" } else { "" };
                let line = format!("answering on {} for {time}{router}: {}", args.interface, clean::line(&names));
                let mut out = to.borrow_mut();
                failed = writeln!(out, "{}\n", in_style(STRONG, line)).and_then(|()| out.flush()).err();
            }
        },
        &mut |exchange| {
            exchanges += u64::from(exchange.reply.is_some());
            let mut out = to.borrow_mut();
            let at = start.elapsed();
            let written = match text {
                true => writeln!(out, "{}", line(at, exchange)),
                false => forms::document(&mut **out, "oplex-exchange/1", &ExchangeForm::of(at, exchange)),
            };
            // Whoever watches sees each exchange at once.
            let _ = written.and_then(|()| out.flush());
        },
    )?;
    if text {
        writeln!(to.into_inner(), "\n{exchanges} requests answered; the lab is over, and its leases are gone")?;
    }
    failed.map_or(Ok(DONE), |error| Err(error.into()))
}

/// The message that a packet has.
pub(super) fn message(packet: &Packet) -> Option<AnyMessage<'_>> {
    let protocol = match packet.ends {
        Ends::Icmp(_) => Protocol::Ra,
        Ends::Udp(from, _) if from.is_ipv4() => Protocol::V4,
        Ends::Udp(..) => Protocol::V6,
    };
    AnyMessage::read(protocol, &packet.octets).ok()
}

/// An exchange in one line: when, whose, what was asked, what was answered.
fn line(at: Duration, exchange: &Exchange) -> String {
    let asked = message(&exchange.request);
    let client = asked.map(ClientFacts::from_message).and_then(|facts| {
        let mac = facts.own_mac().map(|mac| mac.to_string());
        mac.or_else(|| facts.own_duid().map(|duid| hex::colon(&duid)))
    });
    let client = client.unwrap_or_else(|| match exchange.request.ends {
        Ends::Icmp(ends) => ends.source.to_string(),
        Ends::Udp(from, _) => from.ip().to_string(),
    });
    let said = |packet: &Packet| {
        message(packet).map_or_else(|| "what cannot be read".to_owned(), |message| message.to_string())
    };
    let asked = said(&exchange.request);
    let asked = asked.split(',').next().unwrap_or_default().to_owned();
    let reply = match &exchange.reply {
        Some(reply) => in_style(GOOD, clean::line(&said(reply))),
        None => in_style(DIM, "no reply is due"),
    };
    format!("{}  {client:<17}  {asked} → {reply}", in_style(DIM, clock(at)))
}
