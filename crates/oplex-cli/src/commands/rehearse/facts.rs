//! Who a client is, and why it gets what it gets.

use std::net::Ipv6Addr;

use oplex::answer::{AddressOrigin, Assigned, HostState};
use oplex::compiled::SentOption;
use oplex::family::Protocol;
use oplex::layout::{Value, duration_text};
use oplex::plan::ClientKey;

use crate::rehearsal::Rehearsal;
use crate::render::clean;

type Lines = Vec<(&'static str, String)>;

/// Name servers, as routers advertise them (RFC 8106) and as DHCPv6 sends them (RFC 3646).
const SERVERS: [(Protocol, u16); 2] = [(Protocol::Ra, 25), (Protocol::V6, 23)];

impl Rehearsal<'_> {
    pub(super) fn facts(&self) -> Lines {
        let Self { answer, client, .. } = self;
        let mac = client.own_mac();
        let mut lines = Vec::new();
        match &answer.host {
            None => lines.push(("client", client.mac.map(|mac| mac.to_string()).unwrap_or_default())),
            Some(host) => {
                let duid = client.own_duid().map(|duid| duid.to_string()).unwrap_or_default();
                lines.push(("client", format!("{}DUID {duid}", mac.map(|mac| format!("{mac}, ")).unwrap_or_default())));
                lines.extend(self.router());
                lines.push(("host", host.mode.to_string()));
            }
        }
        self.fleets(&mut lines);
        if let Some(reservation) = answer.reservation {
            let name = reservation.name().map(|(name, _)| format!(" ({name})")).unwrap_or_default();
            let place = self.place(&reservation.client_spot());
            let how = self.known_by(reservation.client());
            lines.push(("reserved", format!("{}{name}{how}, {place}", reservation.client())));
        }
        match &answer.host {
            None => lines.extend(answer.address.iter().map(|given| ("address", self.why(given)))),
            Some(host) => self.host_addresses(host, &mut lines),
        }
        lines.extend(self.lease());
        if answer.host.is_some() {
            lines.extend(self.name_servers());
        }
        lines
    }

    /// How a server knows by DHCPv6 the hardware address that a reservation names.
    fn known_by(&self, key: &ClientKey) -> &'static str {
        match (key, &self.answer.host, self.client.duid.as_ref().map(|duid| duid.mac())) {
            (ClientKey::Mac(_), Some(_), Some(Some(_))) => {
                ", by the hardware address in its DUID (RFC 8415, sections 11.2 and 11.4)"
            }
            (ClientKey::Mac(_), Some(_), Some(None)) => {
                ", as far as a relay agent adds the hardware address (RFC 6939)"
            }
            (ClientKey::Mac(_), Some(_), None) => ", by the hardware address that its DUID is made of",
            _ => "",
        }
    }

    /// The fleets that it belongs to, and why.
    fn fleets(&self, lines: &mut Lines) {
        for fleet in &self.answer.fleets {
            let fits = self.compiled.fits(fleet, self.client, self.answer.family);
            let why: Vec<String> = fits
                .iter()
                .map(|fit| match fit.seen.is_empty() {
                    true => format!("{} ({})", fit.fact, fit.pattern),
                    false => format!("{} {} fits {}", fit.fact, fit.seen, fit.pattern),
                })
                .collect();
            lines.push(("fleet", format!("{}, as {}", fleet.name, why.join(", and "))));
        }
        if self.answer.fleets.is_empty() && !self.compiled.fleets.is_empty() {
            lines.push(("fleet", "(none)".to_owned()));
        }
    }

    /// What its router says of itself.
    fn router(&self) -> Option<(&'static str, String)> {
        let said = self.answer.network.advertises.as_ref()?;
        let flags = [(said.header.managed, "M"), (said.header.other, "O"), (said.is_autonomous(), "A")];
        let set: Vec<&str> = flags.into_iter().filter_map(|(on, name)| on.then_some(name)).collect();
        let set = if set.is_empty() { "none".to_owned() } else { set.join(" ") };
        if !said.ends.source.is_unicast_link_local() {
            return Some((
                "router",
                format!("none: hosts drop what {} advertises, as it is not link-local", said.ends.source),
            ));
        }
        let default = if said.header.router_lifetime == 0 { "; no default router, as its lifetime is 0" } else { "" };
        let every = duration_text(said.interval);
        let place = said.origin.map(|plan| format!(", {}", self.place(&plan.spot))).unwrap_or_default();
        Some(("router", format!("{} advertises every {every}, with the flags {set}{place}{default}", said.ends.source)))
    }

    fn why(&self, given: &Assigned<'_>) -> String {
        let Some(pool) = given.pool else { return format!("{} (reserved)", given.address) };
        let whose = given.fleet.map(|fleet| format!(" of fleet {}", clean::line(fleet))).unwrap_or_default();
        let after = match self.client.leased {
            0 => "first free, of".to_owned(),
            leased => format!("first free after {leased} leased, of"),
        };
        format!(
            "{} ({after} pool {pool}{whose}, {})",
            given.address,
            pool.spot.map(|spot| self.place(spot)).unwrap_or_default()
        )
    }

    fn host_addresses(&self, host: &HostState, lines: &mut Lines) {
        for at in &host.addresses {
            let line = match (&self.answer.address, at.origin, at.address) {
                (Ok(given), AddressOrigin::Leased, _) => self.why(given),
                (_, origin, Some(address)) => format!("{address}, {origin}"),
                (_, origin, None) => format!("{}, {origin}", at.prefix),
            };
            lines.push(("address", line));
        }
        if let Err(why) = &self.answer.address
            && host.mode.requests_addresses()
        {
            lines.push(("address", format!("none by DHCPv6: {why}")));
        }
        if self.client.delegation {
            let handed = host.delegated.map_or_else(|| "no delegated prefix".to_owned(), |prefix| prefix.to_string());
            lines.push(("prefix", handed));
        }
    }

    /// How long it may keep what it was assigned.
    fn lease(&self) -> Option<(&'static str, String)> {
        let timers = &self.answer.timers;
        let time = |seconds| duration_text(seconds);
        let (lease, preferred) = (time(timers.lease.seconds), time(timers.preferred.seconds));
        let then =
            format!("renews after {}, rebinds after {}", time(timers.renew.seconds), time(timers.rebind.seconds));
        match &self.answer.host {
            None => Some(("lease", format!("{lease}; {then}"))),
            Some(host) => (self.answer.address.is_ok() || host.delegated.is_some())
                .then(|| ("lease", format!("valid for {lease}, preferred for {preferred}; {then}"))),
        }
    }

    /// Each name server, and where the host has it from. Hosts put what DHCPv6 says first (RFC 8106, section 5.3.1).
    fn name_servers(&self) -> Lines {
        let [(_, advertised), (_, sent)] = SERVERS;
        let mut servers: Vec<(Ipv6Addr, Vec<String>)> = Vec::new();
        let mut add = |value: Option<&Value>, from: &str| {
            for address in value.map(addresses).unwrap_or_default() {
                match servers.iter_mut().find(|(known, _)| *known == address) {
                    Some((_, all)) => all.push(from.to_owned()),
                    None => servers.push((address, vec![from.to_owned()])),
                }
            }
        };
        for option in self.received().into_iter().filter(|option| option.code == sent) {
            let from = option.from.first().map(|by| self.from(by)).unwrap_or_default();
            add(self.meaning(option).value.as_ref(), &format!("by DHCPv6 ({from})"));
        }
        // What is advertised for no time is to be forgotten (RFC 8106, section 5.1).
        let lasts = |option: &&SentOption<'_>| {
            option.value().and_then(|value| value.field("lifetime")) != Some(&Value::Seconds(0))
        };
        for option in self.advertised().iter().filter(|option| option.is(Protocol::Ra, advertised)).filter(lasts) {
            let place = option.spot().map(|spot| self.place(spot)).unwrap_or_default();
            add(option.value(), &format!("advertised ({place})"));
        }
        if servers.is_empty() {
            return vec![("dns", "no name server: neither the advertisement nor DHCPv6 has one".to_owned())];
        }
        servers.into_iter().map(|(address, from)| ("dns", format!("{address}, {}", from.join(" and ")))).collect()
    }
}

/// All IPv6 addresses in a value.
fn addresses(value: &Value) -> Vec<Ipv6Addr> {
    let mut found = Vec::new();
    value.leaves(&mut |leaf, _| {
        if let Value::Ipv6(address) = leaf {
            found.push(*address);
        }
    });
    found
}
