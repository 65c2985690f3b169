//! What a plan or release has to say about captured messages.

use std::collections::HashMap;
use std::net::{IpAddr, Ipv4Addr, Ipv6Addr};
use std::sync::Arc;

use crate::answer::v6::ROUTER;
use crate::check::traffic::{
    ADDRESS_NOT_OF_PLAN, ADVERTISEMENT_NOT_AS_PLANNED, LEASE_NOT_AS_PLANNED, REPLY_HAS_OTHER_OPTION,
    REPLY_LACKS_OPTION, REPLY_NOT_AS_PLANNED, ROUTER_NOT_OF_PLAN,
};
use crate::codebook::Codebook;
use crate::compiled::{Advertisement, Compiled};
use crate::family::Protocol;
use crate::finding::{Finding, Rule};
use crate::octets::hex;
use crate::packet::{AnyMessage, Message as _, ra};
use crate::plan::{self, ClientFacts};
use crate::server::associations::{AllAsked, Asked, asked};
use crate::server::{Ingress, Leased, Server};

use super::compare::{Difference, What, differences, meaning};
use super::memo::{Memo, without_transaction};
use super::seen::Read;
use super::witness::Witness;

/// A plan or release that traffic is held against.
#[derive(Debug)]
pub(super) struct Against<'c> {
    pub(super) compiled: &'c Compiled<'c>,
    server: Server<'c>,
    /// The plan's other servers, which answer the same.
    pub(super) others: &'c [plan::Server],
    /// The network of each link of the capture, as far as it was found out.
    links: HashMap<u32, usize>,
    /// The network that everything is of that says no other.
    pub(super) network: Option<usize>,
    /// What is known of the clients whose requests come again.
    placed: Memo<Placed>,
    /// What there is to say of advertisements that come again.
    advertised: Memo<Advertised>,
}

/// The fleets of a client, and where the reservation that names it stands in memory.
pub(super) type Placed = (Arc<[String]>, Option<usize>);

/// The network of an advertisement, and what in it is not as planned.
pub(super) type Advertised = (Option<usize>, Arc<[Planned]>);

/// A finding, and the octets that were seen and that the plan has in their place.
pub(super) type Planned = (Finding, Option<Octets>, Option<Octets>);

type Octets = Box<[u8]>;

/// As many links are remembered.
const LINKS: usize = 65_536;

impl<'c> Against<'c> {
    pub(super) fn new(compiled: &'c Compiled<'c>) -> Self {
        Self {
            compiled,
            server: Server::new(compiled),
            others: &[],
            links: HashMap::new(),
            network: None,
            placed: Memo::default(),
            advertised: Memo::default(),
        }
    }

    /// Whether these octets name the plan's server; `None` where the plan does not say who that is.
    pub(super) fn knows_server(&self, protocol: Protocol, server: &[u8]) -> Option<bool> {
        let is = |known: &plan::Server| match protocol {
            Protocol::V4 => known.v4.as_ref().map(|(own, _)| own.octets() == server),
            Protocol::V6 => known.duid.as_ref().map(|own| **own == *server),
            Protocol::Ra => None,
        };
        let all = std::iter::once(&*self.compiled.server).chain(self.others);
        all.filter_map(is).reduce(|one, other| one || other)
    }

    /// The network that a message is of: as it says itself, as its link is known to be, or as its addresses say.
    pub(super) fn network_of(&mut self, read: &Read<'_>, link: u32) -> Option<usize> {
        if let Some(said) = self.compiled.network_of(read.whole).filter(|_| read.from_client || read.relay.is_some()) {
            return Some(said);
        }
        if read.relay.is_some() {
            return None;
        }
        let family = read.own.protocol().family();
        if let Some(known) = self.network.or_else(|| self.links.get(&link).copied()) {
            return Some(known);
        }
        let addresses = addresses(read.own);
        let holds = |at: &usize| {
            let sides = &self.compiled.networks[*at].sides;
            addresses.iter().any(|address| match address {
                IpAddr::V4(address) => sides.v4.subnet_with(*address).is_some(),
                IpAddr::V6(address) => sides.v6.subnet_with(*address).is_some(),
            })
        };
        let all = 0..self.compiled.networks.len();
        let of_family = |at: &usize| self.compiled.networks[*at].sides.has(family);
        let mut only = all.clone().filter(of_family);
        let only = only.next().filter(|_| only.next().is_none());
        let network = all.clone().find(holds).or(only)?;
        self.is_on(link, network);
        Some(network)
    }

    /// Remembers which network a link is of.
    fn is_on(&mut self, link: u32, network: usize) {
        if self.links.len() < LINKS {
            self.links.entry(link).or_insert(network);
        }
    }

    /// The fleets that the client belongs to which sent a request, and the reservation that names it.
    pub(super) fn client(&mut self, read: &Read<'_>, network: usize) -> Placed {
        let mut placed = std::mem::take(&mut self.placed);
        let key = |to: &mut Vec<u8>| {
            to.extend((network as u32).to_be_bytes());
            without_transaction(read.whole.protocol(), read.whole.octets(), to);
        };
        let found = placed.get(key, || self.fleets_of(read, network));
        self.placed = placed;
        found
    }

    fn fleets_of(&self, read: &Read<'_>, network: usize) -> Placed {
        let facts = ClientFacts { network, ..ClientFacts::from_message(read.whole) };
        let family = read.own.protocol().family();
        let known = self.compiled.identify(family, &facts);
        let fleets = known.iter().flat_map(|known| known.fleets.iter().map(|fleet| fleet.name.to_string()));
        let fleets: Arc<[String]> = fleets.collect();
        let row = known.and_then(|known| known.reservation).map(|row| std::ptr::from_ref(row).addr());
        (fleets, row)
    }

    /// Whether a server of the plan answers a request at all.
    pub(super) fn answers(&mut self, request: &[u8], network: Option<usize>) -> bool {
        let ingress = network.map(|at| Ingress::on(&self.compiled.networks[at].name)).unwrap_or_default();
        self.server.answer(request, &ingress, &mut Witness::default()).is_some()
    }

    /// What in a captured reply is not as the plan has it, and whether the plan's reply refuses something as well.
    pub(super) fn reply(&mut self, request: &[u8], network: usize, reply: &Read<'_>) -> (Vec<Planned>, bool) {
        let compiled = self.compiled;
        let ingress = Ingress::on(&compiled.networks[network].name);
        let mut witness = Witness::of(reply.own);
        let refuses = witness.with_all_free().is_some_and(|mut free| {
            let octets = self.server.answer(request, &ingress, &mut free).map(|planned| planned.octets);
            let planned = octets.and_then(|octets| AnyMessage::read(reply.own.protocol(), octets).ok());
            planned.and_then(Read::of).is_some_and(|planned| refuses(planned.own))
        });
        let Some(planned) = self.server.answer(request, &ingress, &mut witness) else { return Default::default() };
        let Ok(planned) = AnyMessage::read(reply.own.protocol(), planned.octets) else {
            return Default::default();
        };
        let Some(planned) = Read::of(planned) else { return Default::default() };
        if planned.kind != reply.kind {
            return Default::default();
        }
        let base = base_of(reply);
        let mut found = Vec::new();
        if let (AnyMessage::V4(one), AnyMessage::V4(other)) = (reply.own, planned.own)
            && one.header().yiaddr != other.header().yiaddr
        {
            found.push((of_address(&one.header().yiaddr, &other.header().yiaddr, None).on(16..20), None, None));
        }
        let leases = match (reply.own, planned.own) {
            (AnyMessage::V6(one), AnyMessage::V6(other)) => (asked(one), asked(other)),
            _ => Default::default(),
        };
        for difference in differences(reply.own, planned.own, base) {
            let finding = match difference.what {
                // Where options stand is the server's affair, unless both put them elsewhere.
                What::Option(52) if difference.seen.is_none() || difference.planned.is_none() => continue,
                What::Option(code @ (3 | 25)) if reply.own.protocol() == Protocol::V6 => {
                    of_association(code, &leases, &difference)
                }
                _ => None,
            };
            let finding = finding.unwrap_or_else(|| of_difference(&compiled.codebook, reply.own, &difference));
            found.push((finding, difference.seen, difference.planned));
        }
        let refuses = refuses || (witness.with_all_free().is_none() && self::refuses(planned.own));
        self.point(&mut found, request, network, reply.own.protocol());
        (found, refuses)
    }

    /// Says where the plan sends the options that are not as planned.
    fn point(&self, found: &mut [Planned], request: &[u8], network: usize, protocol: Protocol) {
        if found.iter().all(|(one, ..)| one.option.is_none()) {
            return;
        }
        let Ok(request) = AnyMessage::read(protocol, request) else { return };
        let facts = ClientFacts { network, ..ClientFacts::from_message(request) };
        let Some(answer) = self.compiled.answer(protocol.family(), &facts) else { return };
        for (finding, ..) in found {
            let is = |code: u16| {
                finding.option.as_ref().is_some_and(|option| *option == format!("{}:{code}", protocol.name()))
            };
            let sent = answer.payloads.iter().find(|sent| is(sent.code));
            let spot = sent.and_then(|sent| sent.from.iter().find_map(|from| from.spot));
            finding.spot = spot.cloned().or(finding.spot.take());
        }
    }

    /// What in an advertisement is not as the plan has it, and the network that it is of.
    pub(super) fn advertisement(&mut self, message: ra::Message<'_>, link: u32) -> Advertised {
        let known = self.network.or_else(|| self.links.get(&link).copied());
        let key = |to: &mut Vec<u8>| {
            to.extend(known.map_or(u32::MAX, |at| at as u32).to_be_bytes());
            let ends = message.packet().map(|packet| packet.ends.source.octets());
            to.extend(ends.unwrap_or_default());
            to.extend_from_slice(message.octets());
        };
        let mut advertised = std::mem::take(&mut self.advertised);
        let found = advertised.get(key, || {
            let (network, found) = self.of_router(message, known);
            (network, found.into())
        });
        self.advertised = advertised;
        found.0.inspect(|network| self.is_on(link, *network));
        found
    }

    fn of_router(&self, message: ra::Message<'_>, known: Option<usize>) -> (Option<usize>, Vec<Planned>) {
        let source = message.packet().map(|packet| packet.ends.source);
        let prefixes = prefixes(message);
        let networks = &self.compiled.networks;
        let has = |at: usize| prefixes.iter().any(|prefix| networks[at].sides.v6.subnet_with(*prefix).is_some());
        let said = |at: usize| networks[at].advertises.as_ref();
        // Where plans do not say where routers advertise from, all do from the same address.
        let source = source.filter(|source| *source != ROUTER);
        let by = |at: usize| said(at).is_some_and(|said| Some(said.ends.source) == source);
        let known = known.filter(|at| has(*at) || by(*at));
        let all = 0..networks.len();
        let mut named = all.clone().filter(|at| by(*at));
        let named = named.next().filter(|_| named.next().is_none());
        let mut advertised = all.clone().filter(|at| said(*at).is_some());
        let only = advertised.next().filter(|_| prefixes.is_empty() && advertised.next().is_none());
        let network = known.or_else(|| all.clone().find(|at| has(*at))).or(named).or(only);
        let Some(network) = network else {
            let whose = match prefixes.as_slice() {
                [] => "it advertises no prefix, so that its network is not known".to_owned(),
                all => format!(
                    "no network of the plan has {}",
                    all.iter().map(ToString::to_string).collect::<Vec<_>>().join(", ")
                ),
            };
            let place = message.options().find(|option| option.code() == 3).map(|option| option.around());
            let place = place.unwrap_or(0..message.octets().len());
            let place = message.base() + place.start..message.base() + place.end;
            let finding =
                ROUTER_NOT_OF_PLAN.finding(format!("a router that the plan does not know advertises: {whose}"));
            return (None, vec![(finding.of("ra:3").on(place), None, None)]);
        };
        let planned = said(network);
        let Some(planned) = planned else { return (Some(network), Vec::new()) };
        (Some(network), not_as_planned(&self.compiled.codebook, planned, message))
    }
}

/// Whether a reply refuses an association something.
fn refuses(reply: AnyMessage<'_>) -> bool {
    let AnyMessage::V6(message) = reply else { return false };
    asked(message).iter().any(|one| one.status.is_some_and(|status| status != 0))
}

/// What in an advertisement is not as planned.
fn not_as_planned(codebook: &Codebook, said: &Advertisement<'_>, message: ra::Message<'_>) -> Vec<Planned> {
    let Ok(octets) = said.octets() else { return Vec::new() };
    let Ok(planned) = ra::Message::read(&octets) else { return Vec::new() };
    let seen = AnyMessage::Ra(message);
    let mut found = Vec::new();
    for difference in differences(seen, planned.into(), message.base()) {
        // The plan says the router's hardware address only where somebody wrote it down (RFC 4861, section 6.2.1).
        if difference.what == What::Option(1) && difference.planned.is_none() {
            continue;
        }
        let finding = worded(codebook, seen, &difference, |_| &ADVERTISEMENT_NOT_AS_PLANNED, "advertises");
        let spot = said.origin.map(|origin| origin.spot.clone());
        found.push((Finding { spot, ..finding }, difference.seen, difference.planned));
    }
    found
}

/// The prefixes that an advertisement has.
fn prefixes(message: ra::Message<'_>) -> Vec<Ipv6Addr> {
    let options = message.options().filter(|option| option.code() == 3);
    let prefix = |octets: &[u8]| <[u8; 16]>::try_from(octets.get(14..30)?).ok().map(Ipv6Addr::from);
    options.filter_map(|option| prefix(&option.joined())).collect()
}

/// How many octets of relay agents stand before a client's or server's own message.
fn base_of(read: &Read<'_>) -> usize {
    read.own.octets().as_ptr().addr() - read.whole.octets().as_ptr().addr()
}

fn of_address(seen: &dyn std::fmt::Display, planned: &dyn std::fmt::Display, code: Option<u16>) -> Finding {
    let message = format!("{seen} is not for this client; it might have {planned}");
    let finding = ADDRESS_NOT_OF_PLAN.finding(message);
    match code {
        Some(code) => finding.of(format!("v6:{code}")),
        None => finding,
    }
}

/// What is wrong with an identity association; `None` where it is nothing special.
fn of_association(code: u16, (seen, planned): &(AllAsked, AllAsked), difference: &Difference) -> Option<Finding> {
    let iaid = |octets: &Option<Box<[u8]>>| Some(u32::from_be_bytes(octets.as_ref()?.get(..4)?.try_into().ok()?));
    let of = |all: &[Asked], iaid: u32| all.iter().find(|one| one.code == code && one.iaid == iaid).copied();
    let (one, other) = (of(seen, iaid(&difference.seen)?)?, of(planned, iaid(&difference.planned)?)?);
    let option = format!("v6:{code}");
    if one.wants != other.wants {
        // Where nothing is leased the status says why, which another rule speaks of.
        let (Some(have), Some(want)) = (one.wants, other.wants) else { return None };
        return Some(of_address(&have, &want, Some(code)).on(difference.at.clone()));
    }
    let times = |one: &Asked| (one.t1, one.t2, one.valid);
    if times(&one) == times(&other) {
        return None;
    }
    let message = format!(
        "T1 {}, T2 {} and the valid lifetime {} are {}, {} and {} in the plan, in seconds",
        one.t1, one.t2, one.valid, other.t1, other.t2, other.valid
    );
    Some(LEASE_NOT_AS_PLANNED.finding(message).of(option).on(difference.at.clone()))
}

/// The rule that a difference in a reply breaks.
fn rule_of(protocol: Protocol, difference: &Difference) -> &'static Rule {
    match (difference.what, &difference.seen, &difference.planned) {
        (What::Option(51 | 58 | 59), Some(_), Some(_)) if protocol == Protocol::V4 => &LEASE_NOT_AS_PLANNED,
        (What::Option(_), None, _) => &REPLY_LACKS_OPTION,
        (What::Option(_), _, None) => &REPLY_HAS_OTHER_OPTION,
        _ => &REPLY_NOT_AS_PLANNED,
    }
}

fn of_difference(codebook: &Codebook, message: AnyMessage<'_>, difference: &Difference) -> Finding {
    worded(codebook, message, difference, |difference| rule_of(message.protocol(), difference), "sends")
}

/// A difference in words, value beside value.
fn worded(
    codebook: &Codebook,
    message: AnyMessage<'_>,
    difference: &Difference,
    rule: impl Fn(&Difference) -> &'static Rule,
    verb: &str,
) -> Finding {
    let name = match difference.what {
        What::Option(code) => codebook
            .own(message.protocol(), code)
            .map_or_else(|| format!("option {code}"), |definition| definition.name.to_string()),
        What::Field(name) => format!("the header's {name}"),
    };
    let means = |octets: &[u8]| meaning(codebook, message, difference.what, octets);
    let text = match (&difference.seen, &difference.planned) {
        (Some(seen), Some(planned)) => match (means(seen), means(planned)) {
            (one, other) if one == other => {
                let (one, other) = (hex::colon(seen), hex::colon(planned));
                format!("{name} is {one}; the plan {verb} {other}, which means the same")
            }
            (one, other) => format!("{name} is {one}; the plan {verb} {other}"),
        },
        (None, Some(planned)) => format!("{name} is missing; the plan {verb} {}", means(planned)),
        (Some(seen), None) => format!("{name} is {}; the plan {verb} none", means(seen)),
        (None, None) => name,
    };
    let finding = rule(difference).finding(text).on(difference.at.clone());
    match difference.what {
        What::Option(code) => finding.of(format!("{}:{code}", message.protocol().name())),
        What::Field(_) => finding,
    }
}

/// The addresses that a message has of its client, of which any says on which network that is.
fn addresses(message: AnyMessage<'_>) -> Vec<IpAddr> {
    match message {
        AnyMessage::V4(message) => {
            let header = message.header();
            let requested = message.option(50).and_then(|option| <[u8; 4]>::try_from(&*option.joined()).ok());
            let known = [header.ciaddr, header.yiaddr, requested.map_or(Ipv4Addr::UNSPECIFIED, Ipv4Addr::from)];
            known.into_iter().filter(|address| !address.is_unspecified()).map(IpAddr::V4).collect()
        }
        AnyMessage::V6(message) => {
            let leased = asked(message).into_iter().filter_map(|one| one.wants);
            leased
                .filter_map(|leased| match leased {
                    Leased::Address(address) => Some(address),
                    Leased::Prefix(_) => None,
                })
                .collect()
        }
        AnyMessage::Ra(_) => Vec::new(),
    }
}
