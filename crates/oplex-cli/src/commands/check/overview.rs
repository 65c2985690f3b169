//! What each network of a plan without errors leases and sends.

use std::io::Write;
use std::net::Ipv4Addr;

use oplex::answer::{Audience, HostMode, Largest};
use oplex::compiled::{Compiled, Network};
use oplex::family::Family;
use oplex::layout::duration_text;
use oplex::packet::v4::DATAGRAM_HEADERS;
use oplex::plan::Plan;
use unicode_width::UnicodeWidthStr;

use crate::render::budget::bar;
use crate::render::clean;
use crate::render::style::{AID, DIM, in_style};

/// As many networks as anybody reads of.
const MOST: usize = 50;

/// What each network leases and sends, and how full its largest answer is.
pub(super) fn draw(out: &mut dyn Write, plan: &Plan) -> std::io::Result<()> {
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
