//! Reading what a network leases and delegates, and what its router advertises.

use std::net::Ipv6Addr;
use std::ops::RangeInclusive;

use super::advertise::{Advertise, Delegation, INTERVAL, ROUTER, delegation};
use super::{PlanReader, Pools, Sent, Subnet};
use crate::document::{Node, Table, VALUE_WRONG_KIND, kind};
use crate::family::{Address, Net, Protocol};
use crate::finding::Spot;
use crate::layout::{Input, InputKind, Key, duration, duration_text};
use crate::nearest;
use crate::packet::ra::{Advertisement, Preference};

pub(super) const ADVERTISE: [&str; 22] = [
    "managed",
    "other",
    "autonomous",
    "on-link",
    "valid",
    "preferred",
    "lifetime",
    "interval",
    "preference",
    "hop-limit",
    "reachable",
    "retransmit",
    "name-servers",
    "search",
    "dns-lifetime",
    "portal",
    "pref64",
    "mtu",
    "from",
    "routes",
    "encrypted-name-servers",
    "link-layer",
];

pub(super) const ROUTE: [&str; 3] = ["prefix", "lifetime", "preference"];

pub(super) const PREFIX: [&str; 5] = ["prefix", "on-link", "autonomous", "valid", "preferred"];

/// Lifetimes of a prefix where nothing is set (RFC 4861, section 6.2.1).
const VALID: u32 = 2_592_000;
const PREFERRED: u32 = 604_800;

/// The items of a list under a key; one alone is a list of one.
pub(super) fn items<'d, 's>(table: &'d Table<'s>, key: &str) -> Vec<&'d Node<'s>> {
    let Some(node) = table.get(key) else { return Vec::new() };
    node.get_ref().as_array().map_or_else(|| vec![node], |all| all.iter().collect())
}

/// A prefix of a network as it is written: alone, or with flags and lifetimes of its own.
pub(super) struct Prefix<'d, 's> {
    pub(super) subnet: Subnet<Ipv6Addr>,
    own: Option<&'d Table<'s>>,
}

impl<'s> PlanReader<'s> {
    /// The network's prefixes.
    pub(super) fn prefixes<'d>(&mut self, network: &'d Table<'s>) -> Vec<Prefix<'d, 's>> {
        items(network, "prefix").into_iter().filter_map(|item| self.prefix(item)).collect()
    }

    fn prefix<'d>(&mut self, node: &'d Node<'s>) -> Option<Prefix<'d, 's>> {
        let own = node.get_ref().as_table();
        let (text, spot) = if let Some(table) = own {
            self.reader.only(table, &PREFIX, "a prefix");
            if !table.contains_key("prefix") {
                self.reader.missing(node.span(), "prefix", "\"2001:db8:64:4::/64\"");
            }
            self.reader.text(table, "prefix")?
        } else if let Some(text) = node.get_ref().as_str() {
            (text, self.reader.spot(node.span()))
        } else {
            let message = format!("a prefix is text in quotes, or a table with `prefix`, not {}", kind(node));
            self.reader.wrong_kind(node.span(), message);
            return None;
        };
        match Net::parse(text) {
            Ok(net) => Some(Prefix { subnet: Subnet { net, spot }, own }),
            Err(why) => {
                self.reader.wrong_kind(spot.span, why);
                None
            }
        }
    }

    /// The prefixes that a network delegates.
    pub(super) fn delegates(&mut self, table: &Table<'s>) -> Vec<Delegation> {
        let mut delegates = Vec::new();
        for (text, spot) in self.reader.texts(table, "delegate") {
            match delegation(text) {
                Ok((within, length)) => delegates.push(Delegation { within, length, spot }),
                Err(why) => self.reader.wrong_kind(spot.span, why),
            }
        }
        delegates
    }

    /// The ranges under a key, each with the family that it is of.
    pub(super) fn pools(&mut self, table: &Table<'s>, key: &str) -> Pools {
        let mut pools = Pools::default();
        for (text, spot) in self.reader.texts(table, key) {
            if let Err(why) = pools.read(text, &spot) {
                self.reader.wrong_kind(spot.span, why);
            }
        }
        pools
    }

    /// What a network's router advertises.
    pub(super) fn advertise(&mut self, network: &Table<'s>, prefixes: &[Prefix<'_, 's>]) -> Option<Advertise> {
        let node = network.get("advertise")?;
        let table = self.reader.table(node, "advertise")?;
        self.reader.only(table, &ADVERTISE, "`advertise`");
        let key_spot = network.get_key_value("advertise").map_or(node.span(), |(key, _)| key.span());
        let spot = self.reader.spot(key_spot);
        // RFC 4861, section 6.2.1, with the upper end that RFC 8319 gave it.
        let interval = self.seconds_in(table, "interval", 4..=u16::MAX.into()).unwrap_or(INTERVAL);
        let header = self.header(table, interval);
        let flags = ["managed", "other", "autonomous", "from", "lifetime"].into_iter();
        let flags = flags.filter_map(|flag| Some((flag, self.reader.spot(table.get(flag)?.span())))).collect();
        let source = self.reader.parsed(table, "from", Ipv6Addr::parse).map_or(ROUTER, |(source, _)| source);
        let mut sends = Vec::new();
        for prefix in prefixes {
            sends.extend(self.announced_prefix(table, prefix, !header.managed));
        }
        self.announced_options(table, interval, &header, &mut sends);
        self.announced_more(table, interval, &header, &mut sends);
        Some(Advertise { spot, header, source, interval, flags, sends })
    }

    fn header(&mut self, table: &Table<'s>, interval: u32) -> Advertisement {
        let preference = |name: &str| {
            let known = [Preference::Low, Preference::Medium, Preference::High];
            known.into_iter().find(|one| one.name() == name).ok_or_else(|| {
                format!("unknown preference `{name}`{}", nearest::hint(name, known.map(Preference::name)))
            })
        };
        let mut given = |key: &str, most: u32| self.reader.number(table, key, most.into()).map(|(it, _)| it as u32);
        let hop_limit = given("hop-limit", u8::MAX.into()).unwrap_or(64) as u8;
        let (reachable, retransmit) = (given("reachable", u32::MAX), given("retransmit", u32::MAX));
        // RFC 4861, section 6.2.1: three intervals, of what the field can hold.
        let lifetime = self.seconds_in(table, "lifetime", 0..=u16::MAX.into());
        let lifetime = lifetime.unwrap_or_else(|| interval.saturating_mul(3));
        Advertisement {
            hop_limit,
            managed: self.reader.flag(table, "managed"),
            other: self.reader.flag(table, "other"),
            preference: self.reader.parsed(table, "preference", preference).map(|(at, _)| at).unwrap_or_default(),
            router_lifetime: u16::try_from(lifetime).unwrap_or(u16::MAX),
            reachable_time: reachable.unwrap_or(0),
            retrans_timer: retransmit.unwrap_or(0),
            ..Advertisement::default()
        }
    }

    /// A duration as text, or a number of seconds.
    fn seconds(&mut self, table: &Table<'s>, key: &str) -> Option<u32> {
        let node = table.get(key)?;
        if node.get_ref().is_integer() {
            return self.reader.number(table, key, u32::MAX.into()).map(|(seconds, _)| seconds as u32);
        }
        self.reader.parsed(table, key, duration).map(|(seconds, _)| seconds)
    }

    /// The same, of what the field or its RFC has room for.
    fn seconds_in(&mut self, table: &Table<'s>, key: &str, range: RangeInclusive<u32>) -> Option<u32> {
        let seconds = self.seconds(table, key)?;
        if range.contains(&seconds) {
            return Some(seconds);
        }
        let (least, most) = (duration_text(*range.start()), duration_text(*range.end()));
        let message = format!("`{key}` lies between {least} and {most}, {} does not", duration_text(seconds));
        self.reader.wrong_kind(table.get(key)?.span(), message);
        None
    }

    /// A prefix as its router advertises it: with its own flags and lifetimes, or else those of `advertise`.
    fn announced_prefix(&mut self, table: &Table<'s>, prefix: &Prefix<'_, 's>, by_default: bool) -> Option<Sent> {
        let of = |key: &str| prefix.own.filter(|own| own.contains_key(key)).unwrap_or(table);
        let mut flag = |key: &str, otherwise: bool| {
            if of(key).contains_key(key) { self.reader.flag(of(key), key) } else { otherwise }
        };
        let (on_link, autonomous) = (flag("on-link", true), flag("autonomous", by_default));
        let valid = self.seconds(of("valid"), "valid").unwrap_or(VALID);
        let preferred = self.seconds(of("preferred"), "preferred").unwrap_or_else(|| PREFERRED.min(valid));
        let lifetime = ["preferred", "valid"].into_iter().find_map(|key| of(key).get(key));
        let prefix = &prefix.subnet;
        let flags = u64::from(on_link) << 7 | u64::from(autonomous) << 6;
        let network = prefix.net.trunc();
        // What is wrong with the lifetimes is shown where they are written.
        let place = lifetime.map_or(prefix.spot.span.clone(), |at| at.span());
        let spot = Spot { span: place, ..prefix.spot.clone() };
        let fields = [
            ("length", InputKind::Integer(network.length().into())),
            ("flags", InputKind::Integer(flags.into())),
            ("valid", InputKind::Integer(valid.into())),
            ("preferred", InputKind::Integer(preferred.into())),
            ("prefix", InputKind::Text { text: network.address().to_string(), start: None }),
        ];
        let fields = fields.map(|(name, kind)| (name, Input { kind, span: spot.span.clone() }));
        self.advertised(3, fields.to_vec(), &spot)
    }

    fn announced_options(&mut self, table: &Table<'s>, interval: u32, said: &Advertisement, sends: &mut Vec<Sent>) {
        let number = |number: u32, at: &Spot| Input { kind: InputKind::Integer(number.into()), span: at.span.clone() };
        // RFC 8106, section 5.1.
        let dns = self.seconds(table, "dns-lifetime").unwrap_or_else(|| interval.saturating_mul(3));
        for (key, code, field) in [("name-servers", 25, "servers"), ("search", 31, "domains")] {
            let Some(node) = table.get(key) else { continue };
            let spot = self.reader.spot(node.span());
            let fields = vec![("lifetime", number(dns, &spot)), (field, self.reader.written(node))];
            sends.extend(self.advertised(code, fields, &spot));
        }
        if let Some(node) = table.get("portal") {
            let spot = self.reader.spot(node.span());
            let written = self.reader.written(node);
            sends.extend(self.announced_value(37, &written, &spot));
        }
        if let Some(node) = table.get("mtu") {
            let spot = self.reader.spot(node.span());
            let fields = vec![("mtu", self.reader.written(node))];
            sends.extend(self.advertised(5, fields, &spot));
        }
        if let Some((prefix, spot)) = self.reader.parsed(table, "pref64", Net::<Ipv6Addr>::parse) {
            // RFC 8781, section 4.1: three intervals, and no less than the router's lifetime; in units of 8 seconds, rounded
            // up, of what 13 bits hold.
            let lasts = u64::from(interval).saturating_mul(3).max(said.router_lifetime.into());
            let units = lasts.div_ceil(8).clamp(1, 8191);
            match [96, 64, 56, 48, 40, 32].iter().position(|length| *length == prefix.length()) {
                None => {
                    let message =
                        format!("{prefix} cannot stand for IPv4; a NAT64 prefix has 32, 40, 48, 56, 64 or 96 bits");
                    self.reader.findings.push(VALUE_WRONG_KIND.finding(message).at(spot));
                }
                Some(length) => {
                    let scale = (units << 3 | length as u64) as u16;
                    let octets = [&scale.to_be_bytes()[..], &prefix.first().octets()[..12]].concat();
                    let text = InputKind::Text { text: crate::octets::hex::plain(&octets), start: None };
                    let hex = Input { kind: text, span: spot.span.clone() };
                    sends.extend(self.advertised(38, vec![("hex", hex)], &spot));
                }
            }
        }
    }

    /// Routes, encrypted name servers, and the router's own hardware address.
    fn announced_more(&mut self, table: &Table<'s>, interval: u32, said: &Advertisement, sends: &mut Vec<Sent>) {
        if let Some(node) = table.get("link-layer") {
            let written = self.reader.written(node);
            let spot = self.reader.spot(node.span());
            sends.extend(self.announced_value(1, &written, &spot));
        }
        for node in items(table, "routes") {
            sends.extend(self.announced_route(node, said.router_lifetime.into()));
        }
        for node in items(table, "encrypted-name-servers") {
            let spot = self.reader.spot(node.span());
            let Input { kind: InputKind::Table(mut fields), span } = self.reader.written(node) else {
                self.reader.wrong_kind(
                    node.span(),
                    "an encrypted name server is a table: `{ priority = 1, name = \"…\", addresses = [\"…\"] }`",
                );
                continue;
            };
            // RFC 9463, section 6.1: the lifetime is that of other name servers (RFC 8106, section 5.1).
            let lifetime = InputKind::Integer(interval.saturating_mul(3).into());
            let mut take = |name: &str| {
                let at = fields.iter().position(|(key, _)| key.name == name);
                at.map(|at| fields.remove(at).1)
            };
            let (priority, own) = (take("priority"), take("lifetime"));
            if let Some((key, _)) = fields.iter_mut().find(|(key, _)| key.name == "name") {
                key.name = "authentication-domain".to_owned();
            }
            let rest = Input { kind: InputKind::Table(fields), span: span.clone() };
            let all = [
                ("priority", priority.unwrap_or(Input { kind: InputKind::Integer(1), span: span.clone() })),
                ("lifetime", own.unwrap_or(Input { kind: lifetime, span })),
                ("rest", rest),
            ];
            sends.extend(self.advertised(144, all.to_vec(), &spot));
        }
    }

    /// A route through the router: a prefix, or a table with its lifetime and preference (RFC 4191, section 2.3). It lasts as
    /// long as the router by default.
    fn announced_route(&mut self, node: &Node<'s>, lasts: u32) -> Option<Sent> {
        let spot = self.reader.spot(node.span());
        let number = |number: u32| Input { kind: InputKind::Integer(number.into()), span: node.span() };
        let (prefix, lifetime, preference) = match (node.get_ref().as_table(), node.get_ref().as_str()) {
            (Some(table), _) => {
                self.reader.only(table, &ROUTE, "a route");
                let lifetime = table.get("lifetime").map(|node| self.reader.written(node));
                let preference = table.get("preference").map(|node| self.reader.written(node));
                (self.reader.parsed(table, "prefix", Net::<Ipv6Addr>::parse)?.0, lifetime, preference)
            }
            (None, Some(text)) => match Net::parse(text) {
                Ok(net) => (net, None, None),
                Err(why) => {
                    self.reader.wrong_kind(node.span(), why);
                    return None;
                }
            },
            _ => {
                let message = format!("a route is a prefix in quotes, or a table with `prefix`, not {}", kind(node));
                self.reader.wrong_kind(node.span(), message);
                return None;
            }
        };
        let text = |text: String| Input { kind: InputKind::Text { text, start: None }, span: node.span() };
        let fields = vec![
            ("length", number(prefix.length().into())),
            ("preference", preference.unwrap_or_else(|| text("medium".to_owned()))),
            ("lifetime", lifetime.unwrap_or_else(|| number(lasts))),
            ("prefix", text(prefix.address().to_string())),
        ];
        self.advertised(24, fields, &spot)
    }

    /// An option of an advertisement, of these fields.
    fn advertised(&mut self, code: u8, fields: Vec<(&str, Input)>, spot: &Spot) -> Option<Sent> {
        let key = |name: &str| Key { name: name.to_owned(), span: spot.span.clone() };
        let fields = fields.into_iter().map(|(name, written)| (key(name), written)).collect();
        self.announced_value(code, &Input { kind: InputKind::Table(fields), span: spot.span.clone() }, spot)
    }

    fn announced_value(&mut self, code: u8, written: &Input, spot: &Spot) -> Option<Sent> {
        let definition = self.option(&code.to_string(), Protocol::Ra, spot)?;
        let outcome = self.codebook.encode(&definition, written);
        Some(Sent { definition, key: spot.clone(), spot: spot.clone(), outcome })
    }
}
