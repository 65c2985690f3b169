//! `oplex probe`: whether the servers that a plan names serve what clients will request of them.

use std::io::Write;
use std::time::Duration;

use oplex::codebook::Service;
use oplex::compiled::Compiled;
use oplex::finding::Sources;
use oplex::nearest::nearest;
use oplex_io::probe::{Probed, Roots, Verdict, probe};

use crate::args::{Format, Probe};
use crate::commands::audit::subject;
use crate::commands::{releases, shown};
use crate::exit::{DONE, ERRORS, Outcome, because};
use crate::forms::{self, ProbeForm};
use crate::render::style::{BAD, DIM, GOOD, ODD, STRONG, in_style};
use crate::render::{clean, progress};

/// Hosts that are longer, as URIs are, do not move what is said of others.
const WIDEST: usize = 18;

/// No answer takes longer.
const LONGEST: u32 = 60;

pub(super) fn run(args: &Probe, out: &mut dyn Write) -> Outcome {
    let loaded = releases::plan(&args.plan, &args.store, args.trust)?;
    let plan = releases::readable(&loaded, &args.plan)?;
    let compiled = Compiled::of(plan);
    let network = args.network.as_ref().map(|name| subject::network(Some(&compiled), name)).transpose()?;
    let names = || Service::ALL.into_iter().filter(|service| *service != Service::Domain).map(Service::name);
    for only in &args.only {
        if !names().any(|name| name == only) {
            let hint = nearest(only, names()).map_or(String::new(), |near| format!("; did you mean {near}?"));
            let known: Vec<&str> = names().collect();
            return because(format!(
                "there is no service `{}`{hint} There are {}",
                clean::line(only),
                known.join(", ")
            ));
        }
    }
    if args.timeout == 0 || args.timeout > LONGEST {
        return because("--timeout is between a second and a minute");
    }
    let roots = args.ca.as_deref().map(Roots::read).transpose()?.unwrap_or_default();
    let timeout = Duration::from_secs(args.timeout.into());
    let mut all = Vec::new();
    progress::while_watched(|watch| {
        let wanted = |server: &oplex::compiled::NamedServer<'_>| {
            let of_network = network.is_none_or(|at| server.networks.is_empty() || server.networks.contains(&at));
            of_network && (args.only.is_empty() || args.only.iter().any(|only| only == server.service.name()))
        };
        all = probe(&compiled, &wanted, timeout, &roots, &|done, of| watch.count("asking", done, of));
    });
    let bad = all.iter().any(|probed| probed.verdict.is_bad());
    match args.format.format {
        Format::Json => {
            let form = ProbeForm::of(shown(&args.plan), &compiled, &all, &loaded.sources);
            forms::document(out, "oplex-probe/1", &form)?;
        }
        Format::Text => draw(&all, &loaded.sources, out)?,
    }
    Ok(if bad { ERRORS } else { DONE })
}

/// What is said first: how many do not do what they should.
fn verdict(all: &[Probed<'_>]) -> String {
    let count = |bad: fn(&Verdict) -> bool| all.iter().filter(|probed| bad(&probed.verdict)).count();
    let silent = count(|verdict| matches!(verdict, Verdict::Silent(_)));
    let wrong = count(|verdict| matches!(verdict, Verdict::Wrong(_)));
    let untried = count(|verdict| matches!(verdict, Verdict::NotTried(_)));
    let servers = match all.len() {
        0 => return "The plan names no server that could be asked".to_owned(),
        1 => "1 server".to_owned(),
        many => format!("{many} servers"),
    };
    let parts = [
        (wrong, "gives a wrong answer", "give a wrong answer"),
        (silent, "does not answer", "do not answer"),
        (untried, "was not tried", "were not tried"),
    ];
    let parts = parts.into_iter().filter(|(count, ..)| *count > 0);
    let parts: Vec<String> =
        parts.map(|(count, one, many)| format!("{count} {}", if count == 1 { one } else { many })).collect();
    match (silent + wrong, parts.is_empty()) {
        (_, true) if all.len() == 1 => in_style(GOOD, "The server answers"),
        (_, true) => in_style(GOOD, format!("All {servers} answer")),
        (0, false) => format!("{} with {servers}; {}", in_style(GOOD, "Nothing wrong"), parts.join(", ")),
        _ => format!("Of {servers} {}", in_style(STRONG, parts.join(", "))),
    }
}

fn draw(all: &[Probed<'_>], sources: &Sources, out: &mut dyn Write) -> std::io::Result<()> {
    writeln!(out, "{}", verdict(all))?;
    let host = |probed: &Probed<'_>| {
        let host = probed.server.host.to_string();
        let named = probed.server.encrypted.as_ref().map_or(&host, |encrypted| &encrypted.name);
        let named = clean::line(named).into_owned();
        match probed.address {
            Some(address) if address.to_string() != named => format!("{named} ({address})"),
            _ => named,
        }
    };
    let width = all.iter().map(|probed| host(probed).chars().count()).max().unwrap_or(0).min(WIDEST);
    let mut service = None;
    // What is wrong comes first, and then by service.
    let (bad, good): (Vec<_>, Vec<_>) = all.iter().partition(|probed| probed.verdict.is_bad());
    for probed in bad.into_iter().chain(good) {
        let group = (probed.verdict.is_bad(), probed.server.service);
        if service.replace(group) != Some(group) {
            writeln!(out)?;
        }
        let style = match probed.verdict {
            Verdict::Answers(_) => GOOD,
            Verdict::NotTried(_) => DIM,
            Verdict::Wrong(_) => BAD,
            _ => ODD,
        };
        let name = in_style(style, format!("{:<12}", probed.verdict.name()));
        let time = format!("{:.0} ms", probed.time.as_secs_f64() * 1000.0);
        let from = probed.server.spot.map(|spot| {
            let at = sources.location(spot);
            format!(", {}:{}", clean::line(&at.file), at.line)
        });
        let from = format!("{}{}, {time}", probed.server.option, from.unwrap_or_default());
        let (service, text) = (probed.server.service.name(), clean::line(probed.verdict.text()));
        writeln!(out, "{name}  {service:<6}  {:<width$}  {text}", host(probed))?;
        writeln!(out, "{:22}{}", "", in_style(DIM, from))?;
    }
    Ok(())
}
