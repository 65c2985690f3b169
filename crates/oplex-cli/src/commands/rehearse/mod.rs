//! `oplex rehearse`: what one client gets under a plan, and why, octet for octet.

mod explain;
mod facts;
mod form;
mod frames;
mod page;

use std::io::Write;

use oplex::codebook::Codebook;
use oplex::compiled::Compiled;
use oplex::family::{Both, Family};
use oplex::plan::{ClientFacts, Plan};

use self::page::Rehearsal;
use crate::args::{Format, Rehearse};
use crate::exit::{DONE, ERRORS, Failure, Outcome, because};
use crate::render::json;
use crate::render::style::{DIM, STRONG, in_style};

pub(super) fn run(args: &Rehearse, out: &mut dyn Write) -> Outcome {
    let loaded = oplex_io::files::plan(&args.plan)?;
    let Some(plan) = &loaded.plan else {
        return because(format!(
            "{} cannot be read as a plan; run oplex check for the reason",
            super::shown(&args.plan)
        ));
    };
    let client = client(args, plan)?;
    let compiled = Compiled::of(plan);
    let mut rehearsals = Vec::new();
    for family in families(args, plan, client.network)? {
        let Some(answer) = compiled.answer(family, &client) else { return because("the network is not in the plan") };
        let exchange = compiled.exchange(&client, &answer).or_else(because)?;
        rehearsals.push(Rehearsal { loaded: &loaded, compiled: &compiled, client: &client, answer, exchange });
    }
    if let Some(path) = &args.capture {
        // By IPv6 first, as hosts do.
        let messages = rehearsals.iter().rev().flat_map(|rehearsal| &rehearsal.exchange.messages);
        frames::write(path, &client, messages)?;
    }
    match (&args.explain, args.format.format) {
        (Some(option), _) => {
            let asked = |rehearsal: &&Rehearsal<'_>| option.starts_with(&format!("{}:", rehearsal.protocol().name()));
            let chosen = rehearsals.iter().find(asked).or(rehearsals.first());
            let Some(chosen) = chosen else { return because("nothing was rehearsed") };
            chosen.explain(option, out)?;
        }
        (None, Format::Json) => json::line(out, &form::of_all(&plan.networks[client.network].name, &rehearsals))?,
        (None, Format::Text) => draw(args, &rehearsals, out)?,
    }
    Ok(if rehearsals.iter().any(Rehearsal::falls_short) { ERRORS } else { DONE })
}

/// The families that are rehearsed: those that were requested, or else those that the network has.
fn families(args: &Rehearse, plan: &Plan, network: usize) -> Result<Vec<Family>, Failure> {
    let network = &plan.networks[network];
    if args.v6 && !network.sides.has(Family::V6) {
        return because(format!("the network {} has no prefix, so nothing happens there by IPv6", network.name));
    }
    let wanted = match (args.v4, args.v6) {
        (false, false) => Both::new(|family| network.sides.has(family)),
        (v4, v6) => Both { v4, v6 },
    };
    let families: Vec<Family> = Family::ALL.into_iter().filter(|family| wanted[*family]).collect();
    Ok(if families.is_empty() { vec![Family::V4] } else { families })
}

/// One device's view: the answer of each family in a line, then what it is made of.
fn draw(args: &Rehearse, rehearsals: &[Rehearsal<'_>], out: &mut dyn Write) -> std::io::Result<()> {
    for rehearsal in rehearsals {
        writeln!(out, "{}", in_style(STRONG, rehearsal.headline()))?;
    }
    for rehearsal in rehearsals {
        match (rehearsal.answer.family, rehearsals.len()) {
            (_, 1) => writeln!(out)?,
            (Family::V4, _) => writeln!(out, "\n{}\n", in_style(DIM, "By DHCPv4"))?,
            (Family::V6, _) => writeln!(out, "\n{}\n", in_style(DIM, "By IPv6"))?,
        }
        rehearsal.draw(out)?;
    }
    if let Some(path) = &args.capture {
        writeln!(out, "  as frames in {}", super::shown(path))?;
    }
    Ok(())
}

/// The client that the flags describe.
fn client(args: &Rehearse, plan: &Plan) -> Result<ClientFacts, Failure> {
    let Some(network) = plan.network(&args.network) else {
        let known: Vec<&str> = plan.networks.iter().map(|network| network.name.as_str()).collect();
        return because(format!("unknown network `{}`; the plan has {}", args.network, known.join(", ")));
    };
    let mut client = ClientFacts::on(network);
    if let Some(text) = &args.mac {
        client.mac =
            Some(text.parse().or_else(|_| because(format!("`{text}` is not a MAC such as 02:00:5e:00:53:11")))?);
    }
    let given = [
        ("vendor-class", &args.vendor_class),
        ("user-class", &args.user_class),
        ("arch", &args.arch),
        ("hostname", &args.hostname),
        ("client-id", &args.client_id),
        ("duid", &args.duid),
        ("circuit-id", &args.circuit_id),
        ("remote-id", &args.remote_id),
    ];
    for (key, text) in given {
        if let Some(text) = text {
            client.describe(&plan.codebook, key, text).or_else(because)?;
        }
    }
    if let Some(wants) = &args.wants {
        let codes = codes(wants, &plan.codebook)?;
        // What is requested in one family says nothing of the other.
        let requests_by_dhcpv6 = !codes.v6.is_empty();
        client.wants.v4 = (!codes.v4.is_empty() || !requests_by_dhcpv6).then_some(codes.v4);
        client.wants.v6 = requests_by_dhcpv6.then_some(codes.v6);
    }
    client.rapid = args.rapid;
    client.delegation = args.delegation;
    client.max_size = args.max_size;
    client.leased = args.leased;
    Ok(client)
}

/// `1,3,router,v6:23`: codes and names, of DHCPv4 where nothing else is said.
fn codes(text: &str, codebook: &Codebook) -> Result<Both<Vec<u16>>, Failure> {
    let mut codes: Both<Vec<u16>> = Both::default();
    for word in text.split([',', ' ']).filter(|word| !word.is_empty()) {
        if let Ok(code) = word.parse::<u8>() {
            codes[Family::V4].push(code.into());
            continue;
        }
        let full = if word.contains(':') { word.to_owned() } else { format!("v4:{word}") };
        let option = codebook.find(&full).or_else(because)?;
        match Family::ALL.into_iter().find(|family| option.is_own_of(family.protocol())) {
            Some(family) => codes[family].push(option.code),
            None => return because(format!("{word} cannot be requested: it is not an option of DHCP itself")),
        }
    }
    Ok(codes)
}
