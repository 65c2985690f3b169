//! `oplex check`: what is wrong with a plan or a codebook.

use std::io::Write;
use std::net::Ipv4Addr;

use oplex::answer::{Audience, HostMode, Largest};
use oplex::check;
use oplex::compiled::{Compiled, Network};
use oplex::family::Family;
use oplex::finding::{Finding, any_error};
use oplex::layout::duration_text;
use oplex::packet::v4::DATAGRAM_HEADERS;
use oplex::plan::{Allowed, Loaded, Plan};
use unicode_width::UnicodeWidthStr;

use super::shown;
use crate::args::{Check, CheckFormat};
use crate::exit::{CANNOT, DONE, ERRORS, Failure, Outcome};
use crate::forms::{self, CheckForm, PlanForm};
use crate::render::budget::bar;
use crate::render::style::{AID, BAD, DIM, GOOD, in_style};
use crate::render::{clean, findings, junit, progress};

pub(super) fn run(args: &Check, out: &mut dyn Write) -> Outcome {
    let (loaded, report) = progress::while_watched(|watch| {
        let mut watching = |path: &str| watch.now(format!("reading {path}"));
        let loaded = oplex_io::files::plan_or_codebook(&args.file, args.trust.reach(), &mut watching)?;
        let report = check::report(&loaded, &|done, of| watch.rules(done, of));
        Ok::<_, Failure>((loaded, report))
    })?;
    let found = report.findings;
    match args.format {
        CheckFormat::Junit => junit::write(out, &shown(&args.file), &loaded, &found)?,
        CheckFormat::Json => {
            let plan = loaded.plan.as_ref().filter(|_| !loaded.is_codebook);
            let compiled = plan.map(|plan| (plan, Compiled::of(plan)));
            let tables = compiled.as_ref().map(|(plan, compiled)| PlanForm::new(plan, compiled, &loaded.sources, None));
            let form = CheckForm::new(args.file.display().to_string(), &found, &loaded.sources, tables);
            let form = form.allowing(&report.allowed);
            forms::document(out, "oplex-check/1", &form)?;
        }
        CheckFormat::Text => {
            writeln!(out, "{}: {}", shown(&args.file), verdict(&loaded, &found))?;
            findings::draw_all(out, &found, &loaded.sources)?;
            if let Some(plan) = loaded.plan.as_ref().filter(|plan| !any_error(&found) && !plan.networks.is_empty()) {
                overview(out, plan)?;
            }
            draw_allowed(&report.allowed, out)?;
        }
    }
    Ok(code(&loaded, &found))
}

/// A file that is not TOML could not be checked at all.
pub(super) fn code(loaded: &Loaded, found: &[Finding]) -> u8 {
    match loaded.plan {
        None => CANNOT,
        Some(_) if any_error(found) => ERRORS,
        Some(_) => DONE,
    }
}

fn verdict(loaded: &Loaded, found: &[Finding]) -> String {
    match &loaded.plan {
        None => in_style(BAD, "cannot be read as a plan"),
        Some(plan) if found.is_empty() => format!("{} ({})", in_style(GOOD, "nothing wrong"), extent(loaded, plan)),
        Some(_) => {
            let tally = findings::tally(found);
            if any_error(found) { in_style(BAD, tally) } else { format!("{}; {tally}", in_style(GOOD, "no errors")) }
        }
    }
}

/// `4 networks, 17 options`
fn extent(loaded: &Loaded, plan: &Plan) -> String {
    let counted = |count, one: &str| if count == 1 { format!("1 {one}") } else { format!("{count} {one}s") };
    if loaded.is_codebook {
        let own = plan.codebook.definitions().filter(|definition| !definition.is_standard()).count();
        return format!("a codebook of {}", counted(own, "option"));
    }
    let options: usize = plan.layers().map(|layer| layer.sends.iter().map(Vec::len).sum::<usize>()).sum();
    let mut parts = vec![counted(plan.networks.len(), "network"), counted(options, "option")];
    let more = [
        (plan.fleets.len(), "fleet"),
        (plan.reservations.len(), "reservation"),
        (plan.expectations.len(), "expectation"),
    ];
    parts.extend(more.into_iter().filter(|(count, _)| *count > 0).map(|(count, what)| counted(count, what)));
    parts.join(", ")
}

/// What the plan allows, and why.
fn draw_allowed(allowed: &[(Allowed, usize)], out: &mut dyn Write) -> std::io::Result<()> {
    let mut head = Some("\n  allowed by the plan");
    for (entry, count) in allowed.iter().filter(|(_, count)| *count > 0) {
        if let Some(head) = head.take() {
            writeln!(out, "{}", in_style(DIM, head))?;
        }
        let why = entry.reason.as_deref().map_or_else(String::new, |why| format!(": {why}"));
        let times = if *count == 1 { String::new() } else { format!(" ({count})") };
        writeln!(out, "  {}", clean::line(&format!("{}{times}{why}", entry.rule)))?;
    }
    Ok(())
}

/// As many networks as anybody reads of.
const MOST: usize = 50;

/// What each network leases and sends, and how full its largest answer is.
fn overview(out: &mut dyn Write, plan: &Plan) -> std::io::Result<()> {
    let width = plan.networks.iter().map(|network| network.name.width()).max().unwrap_or(0).max("network".len());
    let head = format!(
        "  {:<width$}  {:>9}  {:>8}  {:>7}  largest reply, of the 576 octets that every client accepts",
        "network", "addresses", "lease", "options"
    );
    writeln!(out, "\n{}", in_style(DIM, head))?;
    let compiled = Compiled::of(plan);
    for (at, network) in compiled.networks.iter().enumerate().take(MOST) {
        let name = clean::line(&network.name).into_owned();
        let gap = " ".repeat(width.saturating_sub(name.width()));
        let mut name = format!("{}{gap}", in_style(AID, name));
        if by_dhcpv4(out, &compiled, at, &name, width)? {
            name = " ".repeat(width);
        }
        by_ipv6(out, &compiled, at, network, &name)?;
    }
    match plan.networks.len().saturating_sub(MOST) {
        0 => Ok(()),
        more => writeln!(out, "  and {more} more networks"),
    }
}

/// What it leases by DHCPv4, and to which fleets; whether there was anything to write.
fn by_dhcpv4(
    out: &mut dyn Write,
    compiled: &Compiled<'_>,
    at: usize,
    name: &str,
    width: usize,
) -> std::io::Result<bool> {
    let Some(Largest { fleet, budget, .. }) = compiled.largest_reply(at) else { return Ok(false) };
    let everyone = Audience { compiled, at, fleet: None, reservation: None };
    let timers = everyone.timers(Family::V4, &everyone.sent(Family::V4));
    let lease = duration_text(timers.lease.seconds);
    let sent = budget.lines().count();
    let used = budget.used + DATAGRAM_HEADERS;
    let bar = bar(used, budget.limit.octets + DATAGRAM_HEADERS);
    let whose = fleet.map(|fleet| format!(", to {}", clean::line(fleet))).unwrap_or_default();
    let (leases, fleets) = compiled.leases::<Ipv4Addr>(at);
    writeln!(out, "  {name}  {leases:>9}  {lease:>8}  {sent:>7}  {bar}  {used}{whose}")?;
    let all = leases + fleets.iter().map(|(_, own)| own).sum::<u128>();
    for (fleet, own) in fleets.into_iter().map(|(at, own)| (&compiled.fleets[at], own)) {
        let share = 100 * own / all.max(1);
        let alone = format!("only for {}, {share}% of all", clean::line(&fleet.name));
        writeln!(out, "  {:<width$}  {own:>9}  {}", "", in_style(DIM, alone))?;
    }
    Ok(true)
}

/// What hosts do by IPv6 on a network that has a prefix.
fn by_ipv6(
    out: &mut dyn Write,
    compiled: &Compiled<'_>,
    at: usize,
    network: &Network<'_>,
    name: &str,
) -> std::io::Result<()> {
    if network.sides.v6.subnets.is_empty() {
        return Ok(());
    }
    let prefixes: Vec<String> = network.sides.v6.subnets.iter().map(|prefix| prefix.net.trunc().to_string()).collect();
    let hosts = match HostMode::on(network) {
        HostMode::Unknown => "advertisement not planned",
        HostMode::Autonomous => "autonomous, no DHCPv6",
        HostMode::Stateless => "stateless",
        HostMode::Stateful => "stateful",
    };
    let advertised = network.advertises.as_ref().map_or(0, |said| said.options.len());
    let sent = compiled.payloads(Family::V6, at).map_or(0, |sent| sent.len());
    let line = format!("{}  {hosts}; {advertised} options advertised, {sent} by DHCPv6", prefixes.join(", "));
    writeln!(out, "  {name}  {}", in_style(DIM, line))
}
