//! A host on an IPv6 link (RFC 4861 and RFC 4862), and a client of DHCPv6 (RFC 8415, section 18.2).

mod replies;

use std::net::{Ipv6Addr, SocketAddr};
use std::time::Duration;

use super::client::Host;
use super::{End, Event, Packet};
use crate::answer::associations::{ADDRESSES, Inside, PREFIXES, Times, association};
use crate::answer::host::{host_link_local, interface_id};
use crate::answer::v6::{ALL_SERVERS, RELAYED, fits_exchange, iaid, requested_by_all};
use crate::answer::{Ends, HostMode};
use crate::compiled::AdvertisedPrefix;
use crate::family::{Address, Family};
use crate::packet::v6::{Draft, Header, Message, MessageType};
use crate::packet::{Message as _, ra};
use crate::server::Leased;

/// How a message is sent again (RFC 8415, sections 7.6 and 15): first after this time, then after twice as long each time up to
/// this limit, so often at most, and for so long.
struct Retransmission {
    first: u64,
    limit: u64,
    count: u32,
    all: Option<u64>,
}

/// How often a host looks for a router, and how long it waits for it (RFC 4861, section 10).
const SOLICITATIONS: u32 = 3;
const ROUTER: Duration = Duration::from_secs(4);

/// How long what has no other time holds until it is requested again: settings (RFC 8415, section 21.23), and the least of it.
const REFRESH: u32 = 86_400;
const LEAST_REFRESH: u32 = 600;

/// How long it waits after a server had nothing for it.
const PAUSE: Duration = Duration::from_secs(60);

/// SOL_MAX_RT and INF_MAX_RT (RFC 8415, section 7.6), and what servers may make of them (sections 21.24 and 21.25).
const LONGEST: u32 = 3600;
const LONGEST_MAY_BE: std::ops::RangeInclusive<u32> = 60..=86_400;

#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
enum State {
    #[default]
    Off,
    /// It looks for a router.
    Routers,
    /// It needs nothing of DHCPv6.
    Quiet,
    /// It sends a message until something comes of it.
    Sending(MessageType),
    Bound,
    /// It has settings, and no addresses.
    Informed,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
struct Binding {
    code: u16,
    leased: Leased,
    until: Duration,
}

#[derive(Debug)]
pub(super) struct V6 {
    state: State,
    transaction: u32,
    began: Duration,
    sent: Duration,
    tries: u32,
    timeout: Duration,
    due: Option<Duration>,
    server: Option<Vec<u8>>,
    /// The best of the advertisements that it has for its solicitation: preference, server.
    best: Option<(u8, Vec<u8>)>,
    bindings: Vec<Binding>,
    renew: Duration,
    rebind: Duration,
    longest: [u32; 2],
    mode: Option<HostMode>,
    pub(super) formed: Vec<Ipv6Addr>,
}

impl Default for V6 {
    fn default() -> Self {
        let none = Duration::ZERO;
        Self {
            state: State::Off,
            transaction: 0,
            began: none,
            sent: none,
            tries: 0,
            timeout: none,
            due: None,
            server: None,
            best: None,
            bindings: Vec::new(),
            renew: none,
            rebind: none,
            longest: [LONGEST; 2],
            mode: None,
            formed: Vec::new(),
        }
    }
}

impl V6 {
    pub(super) fn due(&self) -> Option<Duration> {
        self.due
    }

    pub(super) fn held(&self, now: Duration) -> impl Iterator<Item = Leased> {
        let using = !matches!(self.state, State::Off | State::Routers | State::Sending(MessageType::CONFIRM));
        self.bindings.iter().filter(move |binding| using && binding.until > now).map(|binding| binding.leased)
    }

    pub(super) fn is_content(&self, now: Duration) -> bool {
        match self.state {
            State::Off | State::Quiet | State::Informed => true,
            _ => self.held(now).next().is_some(),
        }
    }

    pub(super) fn start(&mut self, host: &mut Host<'_>) {
        (self.state, self.tries, self.mode) = (State::Routers, 0, None);
        let now = host.now;
        let ended = self.bindings.extract_if(.., |binding| binding.until <= now);
        host.out.events.extend(ended.map(|binding| Event::Ended { leased: binding.leased, why: End::Expired }));
        self.solicit_router(host);
    }

    /// Stops, and releases what it has if its kind does so.
    pub(super) fn stop(&mut self, host: &mut Host<'_>) {
        if host.kind.releases && self.held(host.now).next().is_some() {
            self.transaction = host.random.u32(..0x0100_0000);
            self.compose(MessageType::RELEASE, host);
            self.lose(host, End::Released);
        }
        self.cut(host);
    }

    /// Stops at once.
    pub(super) fn cut(&mut self, _: &mut Host<'_>) {
        (self.state, self.due) = (State::Off, None);
        self.formed.clear();
    }

    fn lose(&mut self, host: &mut Host<'_>, why: End) {
        host.out.events.extend(self.bindings.drain(..).map(|binding| Event::Ended { leased: binding.leased, why }));
    }

    fn solicit_router(&mut self, host: &mut Host<'_>) {
        let own = host.facts.own_mac();
        let option = own.as_ref().map(|mac| (1, &mac[..]));
        let ends = ra::Ends { source: host_link_local(host.facts), destination: ra::ALL_ROUTERS };
        let draft = ra::Draft { header: ra::Header::Solicitation, ends, options: option.as_slice() };
        if let Ok(octets) = host.composer.compose(&draft) {
            host.out.packets.push(Packet { from_client: true, ends: Ends::Icmp(ends), octets: octets.to_vec() });
        }
        self.tries += 1;
        self.due = Some(host.now + ROUTER);
    }

    pub(super) fn wake(&mut self, host: &mut Host<'_>) {
        if self.due.is_none_or(|due| due > host.now) {
            return;
        }
        let valid = self.bindings.iter().map(|binding| binding.until).max();
        match self.state {
            State::Off | State::Quiet => self.due = None,
            State::Routers if self.tries < SOLICITATIONS => self.solicit_router(host),
            // Nobody advertises: some hosts give up here, and others use DHCPv6 for everything.
            State::Routers => self.advertised(HostMode::Unknown, host),
            State::Informed => self.begin(MessageType::INFORMATION_REQUEST, host),
            State::Bound if valid.is_some_and(|valid| valid <= host.now) => self.expired(host),
            State::Bound if host.kind.renews => self.begin(MessageType::RENEW, host),
            State::Bound => self.due = valid,
            State::Sending(MessageType::SOLICIT) if self.best.is_some() => {
                self.server = self.best.take().map(|(_, server)| server);
                self.begin(MessageType::REQUEST, host);
            }
            State::Sending(MessageType::REBIND) if valid.is_some_and(|valid| valid <= host.now) => self.expired(host),
            State::Sending(kind) if self.gives_up(kind, host) => self.instead_of(kind, host),
            State::Sending(kind) => self.send(kind, host),
        }
    }

    fn expired(&mut self, host: &mut Host<'_>) {
        self.lose(host, End::Expired);
        self.begin(MessageType::SOLICIT, host);
    }

    /// How a message is sent again.
    fn retransmission(&self, kind: MessageType) -> Retransmission {
        let [solicit, inform] = self.longest.map(u64::from);
        let (first, limit, count, all) = match kind {
            MessageType::REQUEST => (1, 30, 10, None),
            MessageType::CONFIRM => (1, 4, u32::MAX, Some(10)),
            MessageType::RENEW | MessageType::REBIND => (10, 600, u32::MAX, None),
            MessageType::INFORMATION_REQUEST => (1, inform, u32::MAX, None),
            _ => (1, solicit, u32::MAX, None),
        };
        Retransmission { first, limit, count, all }
    }

    fn gives_up(&self, kind: MessageType, host: &Host<'_>) -> bool {
        let Retransmission { count, all, .. } = self.retransmission(kind);
        let long = all.is_some_and(|all| host.now >= self.began + Duration::from_secs(all));
        let rebinds = kind == MessageType::RENEW && self.rebind <= host.now;
        self.tries >= count || long || rebinds
    }

    /// What it does without a reply.
    fn instead_of(&mut self, kind: MessageType, host: &mut Host<'_>) {
        match kind {
            MessageType::RENEW => self.begin(MessageType::REBIND, host),
            // It uses what it has (RFC 8415, section 18.2.3).
            MessageType::CONFIRM => self.keep(host),
            _ => {
                host.out.events.push(Event::Unanswered(Family::V6));
                self.begin(MessageType::SOLICIT, host);
            }
        }
    }

    fn begin(&mut self, kind: MessageType, host: &mut Host<'_>) {
        self.state = State::Sending(kind);
        self.transaction = host.random.u32(..0x0100_0000);
        (self.began, self.tries, self.best) = (host.now, 0, None);
        // The first one waits up to a second, as all hosts of a link may begin at once (RFC 8415, section 18.2.1).
        match kind {
            MessageType::SOLICIT | MessageType::CONFIRM | MessageType::INFORMATION_REQUEST => {
                self.due = Some(host.now + Duration::from_millis(host.random.u64(..1000)));
            }
            _ => self.send(kind, host),
        }
    }

    fn send(&mut self, kind: MessageType, host: &mut Host<'_>) {
        // A reply may be to the first of several: what is leased counts from that.
        if self.tries == 0 {
            (self.began, self.sent) = (host.now, host.now);
        }
        if self.tries == 4 && matches!(kind, MessageType::SOLICIT | MessageType::INFORMATION_REQUEST) {
            host.out.events.push(Event::Unanswered(Family::V6));
        }
        self.compose(kind, host);
        let Retransmission { first, limit, all, .. } = self.retransmission(kind);
        // A tenth more or less by chance; a first Solicit waits no less (RFC 8415, sections 15 and 18.2.1).
        let least = if self.tries == 0 && kind == MessageType::SOLICIT { 100 } else { 90 };
        let share = host.random.u64(least..=110);
        let base = if self.tries == 0 { Duration::from_secs(first) } else { self.timeout * 2 };
        self.timeout = base.min(Duration::from_secs(limit)) * share as u32 / 100;
        self.tries += 1;
        let end = match kind {
            MessageType::RENEW => self.rebind,
            MessageType::REBIND => self.bindings.iter().map(|binding| binding.until).max().unwrap_or(Duration::MAX),
            _ => all.map_or(Duration::MAX, |all| self.began + Duration::from_secs(all)),
        };
        self.due = Some((host.now + self.timeout).min(end));
    }

    /// The associations of a message: empty ones where it looks, with what it has where it does more.
    fn associations(&self, kind: MessageType, host: &Host<'_>) -> Vec<(u16, Vec<u8>)> {
        let leased = self.mode.is_some_and(HostMode::requests_addresses).then_some(ADDRESSES);
        let codes = leased.into_iter().chain(host.kind.delegation.then_some(PREFIXES));
        let with = codes.filter_map(|code| {
            let has = self.bindings.iter().find(|binding| binding.code == code).map(|binding| binding.leased);
            let inside = match (has, kind) {
                (_, MessageType::SOLICIT) => Inside::Nothing,
                (Some(Leased::Address(address)), _) => Inside::Address(Ipv6Addr::of(address)?),
                (Some(Leased::Prefix(net)), _) => Inside::Prefix(net),
                (None, MessageType::REQUEST | MessageType::RENEW | MessageType::REBIND) => Inside::Nothing,
                (None, _) => return None,
            };
            // Prefixes are not confirmed (RFC 8415, section 18.2.3).
            let stands = kind != MessageType::CONFIRM || code == ADDRESSES;
            stands.then(|| (code, association(iaid(host.facts), Times::default(), inside).into_vec()))
        });
        with.collect()
    }

    fn compose(&self, kind: MessageType, host: &mut Host<'_>) {
        let alone = kind == MessageType::INFORMATION_REQUEST;
        let mut options: Vec<(u16, Vec<u8>)> = Vec::new();
        options.extend(host.facts.own_duid().map(|duid| (1, duid.to_vec())));
        if matches!(kind, MessageType::REQUEST | MessageType::RENEW | MessageType::RELEASE) {
            options.extend(self.server.clone().map(|server| (2, server)));
        }
        if !alone {
            options.extend(self.associations(kind, host));
        }
        let hundredths = (host.now.saturating_sub(self.began).as_millis() / 10).min(0xffff) as u16;
        options.push((8, hundredths.to_be_bytes().to_vec()));
        // What it requests and says of itself has no place in the others (RFC 8415, appendix B).
        if !matches!(kind, MessageType::CONFIRM | MessageType::RELEASE) {
            let mut list = host.facts.wants.v6.clone().unwrap_or_default();
            list.extend(
                requested_by_all(alone).iter().filter(|code| !list.contains(code)).copied().collect::<Vec<_>>(),
            );
            list.retain(|code| fits_exchange(*code, alone));
            options.push((6, list.iter().flat_map(|code| code.to_be_bytes()).collect()));
            options.extend((host.facts.rapid && kind == MessageType::SOLICIT).then(|| (14, Vec::new())));
            // RFC 4704, section 5: the name stands in requests for addresses alone.
            let stands = |code: &u16| !RELAYED.contains(code) && (*code != 39 || !alone);
            options.extend(host.facts.sends.v6.iter().filter(|(code, _)| stands(code)).cloned());
        }
        let options: Vec<(u16, &[u8])> = options.iter().map(|(code, octets)| (*code, octets.as_slice())).collect();
        let draft = Draft { message_type: kind, header: Header::Transaction(self.transaction), options: &options };
        let Ok(composed) = host.composer.compose(&draft) else { return };
        let own = SocketAddr::from((host_link_local(host.facts), 546));
        let ends = Ends::Udp(own, SocketAddr::from((ALL_SERVERS, 547)));
        host.out.packets.push(Packet { from_client: true, ends, octets: composed.to_vec() });
    }

    pub(super) fn receive(&mut self, packet: &Packet, host: &mut Host<'_>) {
        match packet.ends {
            Ends::Icmp(ends) if ends.source.is_unicast_link_local() => {
                if let Ok(message) = ra::Message::read(&packet.octets) {
                    self.heard(message, host);
                }
            }
            Ends::Udp(SocketAddr::V6(_), _) => {
                let Ok(message) = Message::read(&packet.octets) else { return };
                let own = host.facts.own_duid();
                let to = message.option(1).map(|option| option.joined());
                // A host that has no identifier sends none, and is sent none.
                if message.transaction() == Some(self.transaction) && to.as_deref() == own.as_ref().map(|own| &own[..])
                {
                    self.answered(message, host);
                }
            }
            _ => {}
        }
    }

    /// What a router advertises.
    fn heard(&mut self, message: ra::Message<'_>, host: &mut Host<'_>) {
        let Some(said) = message.advertisement() else { return };
        let prefixes = message.options().filter(|option| option.code() == 3);
        let prefixes = prefixes.filter_map(|option| AdvertisedPrefix::read(&option.joined()));
        let own = host.facts.own_mac().map(interface_id).unwrap_or_default();
        for prefix in prefixes.filter(|prefix| prefix.autonomous && prefix.valid > 0 && prefix.net.length() == 64) {
            let address = Ipv6Addr::from_bits(prefix.net.address().bits() | u128::from(own));
            if self.state != State::Off && !self.formed.contains(&address) {
                self.formed.push(address);
                host.out.events.push(Event::Formed(address));
            }
        }
        let mode = match (said.managed, said.other) {
            (true, _) if !host.kind.stateless => HostMode::Stateful,
            (true, _) | (_, true) => HostMode::Stateless,
            (false, false) => HostMode::Autonomous,
        };
        // What it began it ends first; what changes afterwards counts from then on.
        if matches!(self.state, State::Routers | State::Quiet | State::Informed) && self.mode != Some(mode) {
            self.advertised(mode, host);
        }
    }

    fn advertised(&mut self, mode: HostMode, host: &mut Host<'_>) {
        self.mode = Some(mode);
        let leases = mode.requests_addresses() || host.kind.delegation;
        let has = self.bindings.iter().any(|binding| binding.until > host.now);
        match mode {
            // What it had may be of another link by now; prefixes are asked for again (RFC 8415, section 18.2.12).
            _ if leases && has && host.kind.delegation => self.begin(MessageType::REBIND, host),
            _ if leases && has => self.begin(MessageType::CONFIRM, host),
            _ if leases => self.begin(MessageType::SOLICIT, host),
            HostMode::Stateless => self.begin(MessageType::INFORMATION_REQUEST, host),
            _ => (self.state, self.due) = (State::Quiet, None),
        }
    }
}
