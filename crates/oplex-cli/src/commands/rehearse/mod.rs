//! `oplex rehearse`: what one client gets under a plan, and why, octet for octet.

mod explain;
mod facts;
mod frames;
mod page;
mod why_not;

use std::io::Write;

use oplex::codebook::Codebook;
use oplex::compiled::Compiled;
use oplex::family::{Both, Family};
use oplex::plan::{ClientFacts, Plan};

use crate::args::{Format, Rehearse};
use crate::exit::{DONE, ERRORS, Failure, Outcome, because};
use crate::forms;
use crate::rehearsal::Rehearsal;
use crate::render::style::{DIM, STRONG, in_style};

pub(super) fn run(args: &Rehearse, out: &mut dyn Write) -> Outcome {
    let loaded = super::releases::plan(&args.plan, &args.store, args.trust)?;
    let plan = super::releases::readable(&loaded, &args.plan)?;
    let compiled = Compiled::of(plan);
    let client = client(args, plan, &compiled)?;
    let errors = super::errors(&loaded);
    if let Some(fleet) = &args.why_not {
        return why_not::run(&compiled, &client, fleet, args.format.format, out);
    }
    let mut rehearsals = Vec::new();
    for family in families(args, plan, client.network)? {
        let Some(answer) = compiled.answer(family, &client) else { return because("the network is not in the plan") };
        let exchange = compiled.exchange(&client, &answer).or_else(because)?;
        rehearsals.push(Rehearsal { loaded: &loaded, compiled: &compiled, client: &client, answer, exchange });
    }
    if let Some(path) = &args.capture {
        // By IPv6 first, as hosts do.
        let messages = rehearsals.iter().rev().flat_map(|rehearsal| &rehearsal.exchange.messages);
        frames::write(path, args.force, &client, messages)?;
    }
    match (&args.explain, args.format.format) {
        (Some(option), _) => {
            let asked = |rehearsal: &&Rehearsal<'_>| option.starts_with(&format!("{}:", rehearsal.protocol().name()));
            let chosen = rehearsals.iter().find(asked).or(rehearsals.first());
            let Some(chosen) = chosen else { return because("nothing was rehearsed") };
            chosen.explain(option, args.format.format, out)?;
        }
        (None, Format::Json) => forms::document(
            out,
            "oplex-rehearsal/1",
            &forms::rehearsal(&plan.networks[client.network].name, errors, &rehearsals),
        )?,
        (None, Format::Text) => {
            super::draw_errors(errors, "the plan", out)?;
            draw(args, &rehearsals, out)?;
        }
    }
    Ok(if errors > 0 || rehearsals.iter().any(Rehearsal::falls_short) { ERRORS } else { DONE })
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
fn client(args: &Rehearse, plan: &Plan, compiled: &Compiled<'_>) -> Result<ClientFacts, Failure> {
    let mut client = ClientFacts::on(network(args, plan, compiled)?);
    if let Some(text) = &args.mac {
        client.mac =
            Some(text.parse().or_else(|_| because(format!("`{text}` is not a MAC such as 02:00:5e:00:53:11")))?);
    }
    let given = [
        ("vendor-class", &args.vendor_class),
        ("enterprise", &args.enterprise),
        ("user-class", &args.user_class),
        ("arch", &args.arch),
        ("hostname", &args.hostname),
        ("fqdn", &args.fqdn),
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
    match args.wants.as_deref() {
        None => client.wants.v4 = Some(requests(compiled, &client)),
        // Without a list a server sends everything.
        Some("none") => {}
        Some(wants) => {
            let by_v4 = !args.v6 && plan.networks[client.network].sides.has(Family::V4);
            let codes = codes(wants, if by_v4 { Family::V4 } else { Family::V6 }, &plan.codebook)?;
            // What is requested in one family says nothing of the other.
            let requests_by_dhcpv6 = !codes.v6.is_empty();
            let v4 = if codes.v4.is_empty() { requests(compiled, &client) } else { codes.v4 };
            client.wants.v4 = Some(v4);
            client.wants.v6 = requests_by_dhcpv6.then_some(codes.v6);
        }
    }
    client.rapid = args.rapid;
    client.delegation = args.delegation;
    client.max_size = args.max_size;
    client.leased = args.leased;
    Ok(client)
}

/// The network that the flags name, or that a relay agent is on.
fn network(args: &Rehearse, plan: &Plan, compiled: &Compiled<'_>) -> Result<usize, Failure> {
    let known = || oplex::nearest::some_of(plan.networks.iter().map(|network| network.name.as_str()));
    match (&args.network, args.relay) {
        (Some(name), _) => match plan.network(name) {
            Some(network) => Ok(network),
            None => because(format!("unknown network `{name}`; the plan has {}", known())),
        },
        (None, Some(relay)) => match compiled.network_behind(relay) {
            Some(network) => Ok(network),
            None => because(format!(
                "{relay} is the relay agent of no network, and in no subnet or prefix; the plan has {}",
                known()
            )),
        },
        (None, None) => because("say which network the client is on: --network NAME, or --relay ADDRESS"),
    }
}

/// What the client requests by DHCPv4: what its fleets say that their clients request, or else what is common for its kind.
fn requests(compiled: &Compiled<'_>, client: &ClientFacts) -> Vec<u16> {
    let answer = compiled.answer(Family::V4, client);
    let fleets = answer.iter().flat_map(|answer| &answer.fleets);
    let said: Vec<&[u16]> = fleets.filter_map(|fleet| fleet.requests.as_deref()).collect();
    if said.is_empty() { client.common_requests() } else { said.concat() }
}

/// `1,3,router,v6:23`: codes and names, of the family that is rehearsed where nothing else is said.
fn codes(text: &str, rehearsed: Family, codebook: &Codebook) -> Result<Both<Vec<u16>>, Failure> {
    let mut codes: Both<Vec<u16>> = Both::default();
    for word in text.split([',', ' ']).filter(|word| !word.is_empty()) {
        if let (true, Ok(code)) = (word.bytes().all(|octet| octet.is_ascii_digit()), word.parse::<u16>()) {
            if rehearsed == Family::V4 && code > 255 {
                return because(format!("{code} is no code of DHCPv4; write v6:{code} for DHCPv6"));
            }
            codes[rehearsed].push(requestable(rehearsed, code)?);
            continue;
        }
        let other = if rehearsed == Family::V4 { Family::V6 } else { Family::V4 };
        let named = |family: Family| codebook.find(&format!("{}:{word}", family.name()));
        let option = match (word.contains(':'), named(rehearsed)) {
            (true, _) => codebook.find(word).or_else(because)?,
            (false, Ok(option)) => option,
            (false, Err(unknown)) => named(other).or_else(|_| because(unknown))?,
        };
        match Family::ALL.into_iter().find(|family| option.is_own_of(family.protocol())) {
            Some(family) => codes[family].push(requestable(family, option.code)?),
            None => return because(format!("{word} cannot be requested: it is not an option of DHCP itself")),
        }
    }
    Ok(codes)
}

/// Pad and end are octets between options, not options (RFC 2132, sections 3.1 and 3.2); 0 is reserved in DHCPv6 (IANA).
fn requestable(family: Family, code: u16) -> Result<u16, Failure> {
    match (family, code) {
        (Family::V4, 0) => because("0 cannot be requested: it is pad, which is no option"),
        (Family::V4, 255) => because("255 cannot be requested: it is end, which is no option"),
        (Family::V6, 0) => because("0 cannot be requested: DHCPv6 has no option 0"),
        _ => Ok(code),
    }
}
