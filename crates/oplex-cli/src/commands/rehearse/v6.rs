//! What one client gets by IPv6: from the announcement of its router, and by DHCPv6.

use std::io::Write;
use std::net::Ipv6Addr;

use oplex::answer::{AnswerV6, Asks, By, Carried, ExchangeV6, SaidBy};
use oplex::codebook::Assembled;
use oplex::layout::{Value, duration_text};
use oplex::octets::hex;
use oplex::plan::{ClientFacts, Sent};
use serde_json::{Value as Json, json};

use super::page::{Page, fleets_as_json, origin};
use crate::exit::{Failure, because};
use crate::render::budget::bar;
use crate::render::octets::facts;
use crate::render::style::{AID, DIM, STRONG, in_style};
use crate::render::{clean, message};

pub(super) struct Rehearsal<'r> {
    pub(super) page: Page<'r>,
    pub(super) client: &'r ClientFacts,
    pub(super) answer: AnswerV6<'r>,
    pub(super) exchange: ExchangeV6,
}

/// Characters of the column for values.
const VALUE: usize = 48;

/// Name servers, by the codes of the announcement (RFC 8106) and of DHCPv6 (RFC 3646).
const SERVERS: (u16, u16) = (25, 23);

impl Rehearsal<'_> {
    /// The answer in a line.
    pub(super) fn headline(&self) -> String {
        let answer = &self.answer;
        let network = clean::line(&answer.network.name);
        let told = self.told().count();
        let options = match answer.asks {
            Asks::Nothing => "DHCPv6 is not asked".to_owned(),
            _ => format!("{told} option{} by DHCPv6", if told == 1 { "" } else { "s" }),
        };
        let own = answer.addresses.iter().find(|at| matches!(at.by, By::HardwareAddress | By::Secret));
        match (&answer.lent, own) {
            (Ok(given), _) => {
                let valid = duration_text(answer.timers.valid.0);
                format!("{} on {network} for {valid}, with {options}", given.address)
            }
            (Err(_), Some(own)) => {
                let address = own.address.map_or_else(|| format!("an address in {}", own.prefix), |at| at.to_string());
                format!("{address} on {network}, made by itself; {options}")
            }
            (Err(why), None) => {
                format!("no IPv6 address on {network}: {why}, and no prefix is autonomous; {options}")
            }
        }
    }

    /// Whether the host has no address, or nobody tells it what the plan has for it.
    pub(super) fn falls_short(&self) -> bool {
        let answer = &self.answer;
        let alone = answer.addresses.iter().all(|at| at.by == By::LinkLocal);
        // What everyone is told may well be meant for other networks.
        let everyone = &self.page.plan.everyone;
        let in_vain = !answer.asks.asks() && answer.told.iter().any(|told| !std::ptr::eq(told.layer, everyone));
        alone || in_vain || self.exchange.used > self.exchange.limit
    }

    /// What DHCPv6 tells it in the end.
    fn told(&self) -> impl Iterator<Item = &Assembled<SaidBy<'_>>> {
        let asks = self.answer.asks.asks() || self.client.delegation;
        self.answer.payloads.iter().filter(move |told| asks && !self.exchange.unasked.contains(&told.code))
    }

    fn announced(&self) -> &[Sent] {
        self.answer.network.v6.advertise.as_deref().map_or(&[], |said| &said.sends)
    }

    pub(super) fn draw(&self, out: &mut dyn Write) -> std::io::Result<()> {
        facts(out, &self.facts())?;
        writeln!(out, "\n{}", in_style(DIM, format!("{:>6}  {:<24}  {:<VALUE$}  from", "code", "option", "value")))?;
        for sent in self.announced() {
            let value = sent.payload().map(|payload| message::shown(&payload.value)).unwrap_or_default();
            let from = format!("announced, {}", self.page.place(&sent.spot));
            let code = format!("ra:{}", sent.definition.code);
            Self::row(out, &code, &sent.definition.name, &value, &from)?;
        }
        for told in self.told() {
            self.draw_told(told, out)?;
        }
        let never = self.answer.payloads.iter().filter(|_| !self.answer.asks.asks() && !self.client.delegation);
        let never: Vec<String> = never.map(|told| self.name(told.code)).collect();
        if !never.is_empty() {
            let why = "told by the plan, and never asked for, as neither M nor O is announced";
            writeln!(out, "\n  {}: {}", in_style(AID, why), never.join(", "))?;
        } else if !self.exchange.unasked.is_empty() {
            let names: Vec<String> = self.exchange.unasked.iter().map(|code| self.name(*code)).collect();
            writeln!(out, "\n  not asked for, so not sent: {}", names.join(", "))?;
        }
        writeln!(out)?;
        if self.exchange.used > 0 {
            let ExchangeV6 { used, limit, .. } = self.exchange;
            let room = match limit.checked_sub(used) {
                Some(free) => format!("{free} free in a packet that every link carries whole"),
                None => format!("{} too many for a packet that every link carries whole", used - limit),
            };
            writeln!(out, "  message   {}  {used:>4} of {limit}   {room}\n", bar(used, limit))?;
        }
        for sent in &self.exchange.messages {
            let (from, to) = ends(sent.carried);
            writeln!(out, "  {:<34} {:>4} octets  {from} to {to}", sent.name, sent.octets.len())?;
        }
        Ok(())
    }

    /// Who the client is, what its router says, and why it gets what it gets.
    fn facts(&self) -> Vec<(&'static str, String)> {
        let Self { answer, client, page, .. } = self;
        let duid = client.own_duid().map(|duid| hex::colon(&duid)).unwrap_or_default();
        let mac = client.own_mac().map(|mac| format!("{}, ", hex::colon(&mac))).unwrap_or_default();
        let mut lines = vec![("client", format!("{mac}DUID {duid}"))];
        if let Some(said) = &answer.network.v6.advertise {
            let flags = [(said.header.managed, "M"), (said.header.other, "O"), (said.autonomous, "A")];
            let set: Vec<&str> = flags.into_iter().filter_map(|(on, name)| on.then_some(name)).collect();
            let set = if set.is_empty() { "none".to_owned() } else { set.join(" ") };
            let every = duration_text(said.interval);
            let place = page.place(&said.spot);
            lines.push(("router", format!("{} announces every {every}, with the flags {set}, {place}", said.source)));
        }
        lines.push(("host", answer.asks.to_string()));
        page.fleets(&answer.fleets, &mut lines);
        page.reserved(answer.reservation, &mut lines);
        for at in &answer.addresses {
            let address = at.address.map_or_else(|| at.prefix.to_string(), |address| address.to_string());
            let why = match (&answer.lent, at.by) {
                (Ok(given), By::Lent) => self.why(given),
                _ => at.by.to_string(),
            };
            lines.push(("address", format!("{address}, {why}")));
        }
        if let Err(why) = &answer.lent
            && answer.asks.for_addresses()
        {
            lines.push(("address", format!("none by DHCPv6: {why}")));
        }
        if client.delegation {
            let handed = answer.delegated.map_or_else(|| "none to hand on".to_owned(), |prefix| prefix.to_string());
            lines.push(("prefix", handed));
        }
        if answer.lent.is_ok() || answer.delegated.is_some() {
            let time = duration_text;
            let timers = &answer.timers;
            let (valid, preferred) = (time(timers.valid.0), time(timers.preferred.0));
            let times = format!(
                "valid for {valid}, preferred for {preferred}; renews after {}, rebinds after {}",
                time(timers.renew),
                time(timers.rebind)
            );
            lines.push(("lease", times));
        }
        lines.extend(self.name_servers());
        lines
    }

    fn why(&self, given: &oplex::answer::GivenV6<'_>) -> String {
        let Some(pool) = given.pool else { return "reserved for it".to_owned() };
        let whose = given.fleet.map(|fleet| format!(" of fleet {}", clean::line(fleet))).unwrap_or_default();
        format!("lent by DHCPv6 out of the pool {pool}{whose}, {}", self.page.place(&pool.spot))
    }

    /// Each name server, and where the host has it from.
    fn name_servers(&self) -> Vec<(&'static str, String)> {
        let mut servers: Vec<(Ipv6Addr, Vec<String>)> = Vec::new();
        let mut add = |addresses: Vec<Ipv6Addr>, from: &str| {
            for address in addresses {
                match servers.iter_mut().find(|(known, _)| *known == address) {
                    Some((_, all)) => all.push(from.to_owned()),
                    None => servers.push((address, vec![from.to_owned()])),
                }
            }
        };
        // Hosts put what DHCPv6 says first (RFC 8106, section 5.3.1).
        let codebook = &self.page.plan.codebook;
        for told in self.told().filter(|told| told.code == SERVERS.1) {
            let value = codebook.v6(told.code).and_then(|definition| codebook.decode(definition, &told.octets).0);
            let from = told.from.first().map(|by| self.page.from(by)).unwrap_or_default();
            add(value.as_ref().map(addresses).unwrap_or_default(), &format!("by DHCPv6 ({from})"));
        }
        for sent in self.announced().iter().filter(|sent| sent.definition.code == SERVERS.0) {
            let value = sent.payload().map(|payload| addresses(&payload.value)).unwrap_or_default();
            add(value, &format!("announced ({})", self.page.place(&sent.spot)));
        }
        if servers.is_empty() {
            return vec![("dns", "no name server: neither the announcement nor DHCPv6 tells one".to_owned())];
        }
        servers.into_iter().map(|(address, from)| ("dns", format!("{address}, {}", from.join(" and ")))).collect()
    }

    fn name(&self, code: u16) -> String {
        let known = self.page.plan.codebook.v6(code);
        known.map_or_else(|| code.to_string(), |definition| clean::line(&definition.name).into_owned())
    }

    fn row(out: &mut dyn Write, code: &str, name: &str, value: &str, from: &str) -> std::io::Result<()> {
        let (name, value) = (clean::line(name), clean::line(value));
        // A long value has its line to itself.
        let (beside, below) = if value.chars().count() > VALUE { ("", from) } else { (from, "") };
        writeln!(out, "{}", format!("{code:>6}  {name:<24}  {value:<VALUE$}  {beside}").trim_end())?;
        if below.is_empty() { Ok(()) } else { writeln!(out, "{:84}{below}", "") }
    }

    fn draw_told(&self, told: &Assembled<SaidBy<'_>>, out: &mut dyn Write) -> std::io::Result<()> {
        let codebook = &self.page.plan.codebook;
        let known = codebook.v6(told.code);
        let (value, subs) =
            known.map(|definition| message::meaning(codebook, definition, &told.octets, None)).unwrap_or_default();
        let shown =
            if subs.is_empty() { value.as_ref().map(message::shown).unwrap_or_default() } else { String::new() };
        let from = |index: usize| told.from.get(index).map(|by| self.page.from(by)).unwrap_or_default();
        let first = if subs.is_empty() { from(0) } else { String::new() };
        Self::row(out, &format!("v6:{}", told.code), &self.name(told.code), &shown, &first)?;
        for (index, sub) in subs.iter().enumerate() {
            let value = sub.value.as_ref().map(message::shown).unwrap_or_default();
            let name = format!("  {}", sub.name.as_deref().unwrap_or("unknown"));
            Self::row(out, &sub.code.to_string(), &name, &value, &from(index))?;
        }
        let own = self.answer.told.iter().find(|at| at.sent.definition.is_v6() && at.sent.definition.code == told.code);
        for (layer, sent) in own.into_iter().flat_map(|told| &told.overrides) {
            let value = sent.payload().map(|payload| payload.value.to_string()).unwrap_or_default();
            let over = format!("over {value} of {}, {}", clean::line(&layer.name), self.page.place(&sent.key));
            writeln!(out, "{}", in_style(DIM, format!("{:84}{over}", "")))?;
        }
        Ok(())
    }

    /// The whole chain for one option.
    pub(super) fn explain(&self, asked: &str, out: &mut dyn Write) -> Result<(), Failure> {
        let full = if asked.contains(':') { asked.to_owned() } else { format!("v6:{asked}") };
        let definition = self.page.plan.codebook.find(&full).or_else(because)?;
        let label = clean::line(&definition.label()).into_owned();
        let Some(told) = self.answer.told.iter().find(|told| told.sent.definition.has_id(&definition.id())) else {
            writeln!(out, "{}", in_style(STRONG, format!("{label} is not told")))?;
            return Ok(());
        };
        let unasked = self.exchange.unasked.contains(&definition.code);
        let but = match (self.answer.asks.asks(), unasked) {
            (false, _) => ", but nobody asks DHCPv6 here",
            (true, true) => ", but the client does not ask for it",
            (true, false) => "",
        };
        Ok(self.page.chain(out, &label, told, but)?)
    }

    pub(super) fn as_json(&self) -> Json {
        let Self { answer, exchange, page, .. } = self;
        let codebook = &page.plan.codebook;
        let sources = &page.loaded.sources;
        let options = self.told().map(|told| {
            let definition = codebook.v6(told.code);
            let value = definition.and_then(|definition| codebook.decode(definition, &told.octets).0);
            let from = told.from.first().map(|by| origin(sources, by.layer, by.spot.as_ref()));
            json!({
                "option": format!("v6:{}", told.code),
                "name": definition.map(|definition| &*definition.name),
                "value": value,
                "hex": hex::plain(&told.octets),
                "from": from,
            })
        });
        let announced = self.announced().iter().map(|sent| {
            json!({
                "option": sent.definition.id(),
                "name": &*sent.definition.name,
                "value": sent.payload().map(|payload| &payload.value),
                "hex": sent.payload().map(|payload| hex::plain(&payload.octets)),
                "from": origin(sources, &answer.network.layer.name, Some(&sent.spot)),
            })
        });
        let addresses = answer.addresses.iter().map(|at| {
            let by = match at.by {
                By::LinkLocal => "link-local",
                By::HardwareAddress => "eui-64",
                By::Secret => "stable-private",
                By::Lent => "dhcpv6",
            };
            json!({"address": at.address, "prefix": at.prefix.to_string(), "by": by})
        });
        let asks = match answer.asks {
            Asks::Unknown => "unknown",
            Asks::Nothing => "autonomous",
            Asks::Other => "stateless",
            Asks::Addresses => "stateful",
        };
        let messages = exchange.messages.iter().map(|sent| {
            let (from, to) = ends(sent.carried);
            json!({"type": sent.name, "from": from, "to": to, "hex": hex::plain(&sent.octets)})
        });
        json!({
            "mode": asks,
            "fleets": fleets_as_json(&answer.fleets),
            "addresses": addresses.collect::<Vec<_>>(),
            "address": answer.lent.as_ref().ok().map(|given| given.address),
            "delegated": answer.delegated.map(|prefix| prefix.to_string()),
            "valid": answer.timers.valid.0,
            "preferred": answer.timers.preferred.0,
            "renew": answer.timers.renew,
            "rebind": answer.timers.rebind,
            "announced": announced.collect::<Vec<_>>(),
            "options": options.collect::<Vec<_>>(),
            "unasked": exchange.unasked.iter().map(|code| format!("v6:{code}")).collect::<Vec<_>>(),
            "budget": {"limit": exchange.limit, "used": exchange.used},
            "exchange": messages.collect::<Vec<_>>(),
        })
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

/// From whom to whom.
fn ends(carried: Carried) -> (Ipv6Addr, Ipv6Addr) {
    match carried {
        Carried::Icmp(ends) => (ends.source, ends.destination),
        Carried::Udp(from, to) => (*from.ip(), *to.ip()),
    }
}
