//! `oplex rehearse`: what one client gets under a plan, and why, octet for octet.

mod page;
mod v4;
mod v6;

use std::io::Write;
use std::path::Path;
use std::time::SystemTime;

use oplex::answer::{Carried, Exchange, ExchangeV6};
use oplex::codebook::Codebook;
use oplex::octets::hex;
use oplex::plan::{ClientFacts, Plan};
use oplex_io::capture;
use serde_json::json;

use self::page::Page;
use crate::args::{Format, Rehearse};
use crate::exit::{DONE, ERRORS, Failure, Outcome, because};
use crate::render::json;
use crate::render::style::{DIM, STRONG, in_style};

pub(super) fn run(args: &Rehearse, out: &mut dyn Write) -> Outcome {
    let loaded = oplex_io::files::plan(&args.plan)?;
    let Some(plan) = &loaded.plan else {
        return because(format!("{} cannot be read as a plan; oplex check says why", super::shown(&args.plan)));
    };
    let client = client(args, plan)?;
    let page = Page { loaded: &loaded, plan };
    let network = &plan.networks[client.network];
    let (by_v4, by_v6) = match (args.v4, args.v6) {
        (false, false) => (network.subnet.is_some(), network.v6.prefix.is_some()),
        wanted => wanted,
    };
    if by_v6 && network.v6.prefix.is_none() {
        return because(format!("the network {} has no prefix, so nothing happens there by IPv6", network.name));
    }
    let by_v4 = by_v4 || !by_v6;
    let v4 = if by_v4 { Some(rehearse_v4(page, &client)?) } else { None };
    let v6 = if by_v6 { Some(rehearse_v6(page, &client)?) } else { None };
    if let Some(path) = &args.capture {
        let v4 = v4.as_ref().map(|v4| &v4.exchange);
        write_capture(path, &client, v4, v6.as_ref().map(|v6| &v6.exchange))?;
    }
    match (&args.explain, args.format.format) {
        (Some(option), _) => match (&v4, &v6) {
            (_, Some(v6)) if option.starts_with("v6:") || v4.is_none() => v6.explain(option, out)?,
            (Some(v4), _) => v4.explain(option, out)?,
            _ => return because("nothing was rehearsed"),
        },
        (None, Format::Json) => {
            let mut whole = v4.as_ref().map_or_else(|| json!({"network": network.name}), v4::Rehearsal::as_json);
            if let (Some(v6), Some(whole)) = (&v6, whole.as_object_mut()) {
                whole.insert("v6".to_owned(), v6.as_json());
            }
            json::line(out, &whole)?;
        }
        (None, Format::Text) => draw(args, v4.as_ref(), v6.as_ref(), out)?,
    }
    let short = v4.is_some_and(|v4| v4.falls_short()) || v6.is_some_and(|v6| v6.falls_short());
    Ok(if short { ERRORS } else { DONE })
}

/// One device's view: the answer of each family in a line, then what it is made of.
fn draw(
    args: &Rehearse,
    v4: Option<&v4::Rehearsal<'_>>,
    v6: Option<&v6::Rehearsal<'_>>,
    out: &mut dyn Write,
) -> std::io::Result<()> {
    let headlines = [v4.map(v4::Rehearsal::headline), v6.map(v6::Rehearsal::headline)];
    for line in headlines.into_iter().flatten() {
        writeln!(out, "{}", in_style(STRONG, line))?;
    }
    let both = v4.is_some() && v6.is_some();
    let title = |out: &mut dyn Write, text: &str| {
        if both { writeln!(out, "\n{}\n", in_style(DIM, text)) } else { writeln!(out) }
    };
    if let Some(v4) = v4 {
        title(out, "By DHCPv4")?;
        v4.draw(out)?;
    }
    if let Some(v6) = v6 {
        title(out, "By IPv6")?;
        v6.draw(out)?;
    }
    if let Some(path) = &args.capture {
        writeln!(out, "  as frames in {}", super::shown(path))?;
    }
    Ok(())
}

fn rehearse_v4<'r>(page: Page<'r>, client: &'r ClientFacts) -> Result<v4::Rehearsal<'r>, Failure> {
    let Some(answer) = page.plan.answer(client) else { return because("the network is not in the plan") };
    let exchange = page.plan.exchange(client, &answer).or_else(because)?;
    Ok(v4::Rehearsal { page, client, answer, exchange })
}

fn rehearse_v6<'r>(page: Page<'r>, client: &'r ClientFacts) -> Result<v6::Rehearsal<'r>, Failure> {
    let Some(answer) = page.plan.answer_v6(client) else { return because("the network has no prefix") };
    let exchange = page.plan.exchange_v6(client, &answer).or_else(because)?;
    Ok(v6::Rehearsal { page, client, answer, exchange })
}

/// The exchanges as frames, a millisecond apart; by IPv6 first, as hosts do.
fn write_capture(
    path: &Path,
    client: &ClientFacts,
    v4: Option<&Exchange>,
    v6: Option<&ExchangeV6>,
) -> Result<(), Failure> {
    let own = client.own_mac().unwrap_or_default();
    let frames_v4 = v4.into_iter().flat_map(|exchange| &exchange.messages).map(|sent| {
        let near = if sent.source.port() == sent.destination.port() { capture::RELAY } else { own };
        let far = if sent.destination.ip().is_broadcast() { [0xff; 6] } else { capture::SERVER };
        let reply = sent.message_type.is_reply() == Some(true);
        let (from, to) = if reply { (capture::SERVER, near) } else { (near, far) };
        capture::frame((from, sent.source.into()), (to, sent.destination.into()), &sent.octets)
    });
    let frames_v6 = v6.into_iter().flat_map(|exchange| &exchange.messages).map(|sent| {
        let (source, destination) = match sent.carried {
            Carried::Icmp(ends) => (ends.source, ends.destination),
            Carried::Udp(from, to) => (*from.ip(), *to.ip()),
        };
        // The host's own messages come from its own card; a relay's from the relay's.
        let relayed = matches!(sent.carried, Carried::Udp(from, to) if from.port() == to.port());
        let near = if relayed { capture::RELAY } else { own };
        let from = if sent.from_host { near } else { capture::SERVER };
        let to = capture::multicast(destination).unwrap_or(if sent.from_host { capture::SERVER } else { near });
        match sent.carried {
            Carried::Icmp(_) => capture::frame_icmpv6((from, source), (to, destination), &sent.octets),
            Carried::Udp(source, destination) => {
                capture::frame((from, source.into()), (to, destination.into()), &sent.octets)
            }
        }
    });
    let Some(frames) = frames_v6.chain(frames_v4).collect::<Option<Vec<_>>>() else {
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
    if let Some(text) = &args.mac {
        let mac = hex::parse(text).ok().and_then(|octets| <[u8; 6]>::try_from(octets).ok());
        client.mac = Some(mac.map_or_else(|| because(format!("`{text}` is not a MAC such as 02:00:5e:00:53:11")), Ok)?);
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
        let set = ClientFacts::TEXTS.iter().find(|(known, _)| *known == key).map(|(_, set)| set);
        if let (Some(text), Some(set)) = (text, set) {
            set(&mut client, &plan.codebook, text).or_else(because)?;
        }
    }
    if let Some(wants) = &args.wants {
        let (v4, v6) = codes(wants, &plan.codebook)?;
        let says_v6 = !v6.is_empty();
        // What is asked for in one family says nothing of the other.
        client.wants = (!v4.is_empty() || !says_v6).then_some(v4);
        client.wants_v6 = says_v6.then_some(v6);
    }
    client.rapid = args.rapid;
    client.delegation = args.delegation;
    client.max_size = args.max_size;
    client.leased = args.leased;
    Ok(client)
}

/// `1,3,router,v6:23`: codes and names; those of DHCPv6 by themselves.
fn codes(text: &str, codebook: &Codebook) -> Result<(Vec<u8>, Vec<u16>), Failure> {
    let (mut v4, mut v6) = (Vec::new(), Vec::new());
    for word in text.split([',', ' ']).filter(|word| !word.is_empty()) {
        if let Ok(code) = word.parse() {
            v4.push(code);
            continue;
        }
        let full = if word.contains(':') { word.to_owned() } else { format!("v4:{word}") };
        let option = codebook.find(&full).or_else(because)?;
        if option.is_v6() {
            v6.push(option.code);
        } else {
            v4.push(u8::try_from(option.code).or_else(|_| because(format!("{word} cannot be asked for")))?);
        }
    }
    Ok((v4, v6))
}
