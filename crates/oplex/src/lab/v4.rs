//! A client of DHCPv4 (RFC 2131, section 4.4).

use std::net::{Ipv4Addr, SocketAddr};
use std::time::Duration;

use super::client::Host;
use super::{End, Event, Packet};
use crate::answer::{Ends, v4::of_client};
use crate::family::Family;
use crate::packet::Message as _;
use crate::packet::v4::{Draft, Header, Message, MessageType};
use crate::server::Leased;

/// After the first transmission it waits so long, and then twice as long each time (RFC 2131, section 4.1).
const FIRST: Duration = Duration::from_secs(4);

/// As often it sends what is not answered, before it does something else.
const TRIES: u32 = 5;

/// How long it waits before it looks for a server again.
const PAUSE: Duration = Duration::from_secs(300);

/// How long it waits at least between two requests that extend its lease (RFC 2131, section 4.4.5).
const EXTENDING: Duration = Duration::from_secs(60);

/// For how long at least it does without IPv4 (RFC 8925, section 3.4).
const WITHOUT: u32 = 300;

#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
enum State {
    #[default]
    Off,
    Selecting,
    Requesting {
        address: Ipv4Addr,
        server: Ipv4Addr,
    },
    Rebooting,
    Bound,
    Renewing,
    Rebinding,
    /// It does without IPv4 (RFC 8925, section 3.2).
    Without,
}

#[derive(Debug, Clone, Copy)]
struct Lease {
    address: Ipv4Addr,
    server: Ipv4Addr,
    renew: Duration,
    rebind: Duration,
    until: Duration,
}

#[derive(Debug, Default)]
pub(super) struct V4 {
    state: State,
    xid: u32,
    /// When it began what it does.
    began: Duration,
    /// When it first sent what it waits for the reply to.
    sent: Duration,
    tries: u32,
    due: Option<Duration>,
    lease: Option<Lease>,
}

impl V4 {
    pub(super) fn due(&self) -> Option<Duration> {
        self.due
    }

    pub(super) fn held(&self, now: Duration) -> Option<Leased> {
        let lease = self.lease.filter(|lease| lease.until > now)?;
        let using = matches!(self.state, State::Bound | State::Renewing | State::Rebinding);
        using.then_some(Leased::Address(lease.address.into()))
    }

    pub(super) fn is_content(&self, now: Duration) -> bool {
        matches!(self.state, State::Off | State::Without) || self.held(now).is_some()
    }

    pub(super) fn start(&mut self, host: &mut Host<'_>) {
        match self.lease.filter(|lease| lease.until > host.now) {
            Some(_) => {
                self.begin(State::Rebooting, host);
                self.send(host);
            }
            None => self.look(host),
        }
    }

    /// Looks for a server.
    fn look(&mut self, host: &mut Host<'_>) {
        if let Some(lease) = self.lease.take() {
            host.out.events.push(Event::Ended { leased: Leased::Address(lease.address.into()), why: End::Expired });
        }
        self.begin(State::Selecting, host);
        self.send(host);
    }

    fn begin(&mut self, state: State, host: &mut Host<'_>) {
        self.xid = host.random.u32(..);
        (self.state, self.began, self.tries) = (state, host.now, 0);
    }

    /// Stops, and releases what it has if its kind does so.
    pub(super) fn stop(&mut self, host: &mut Host<'_>) {
        if let Some(lease) = self.lease.filter(|_| host.kind.releases && self.held(host.now).is_some()) {
            self.begin(State::Off, host);
            let server = lease.server.octets();
            let header = Header { ciaddr: lease.address, ..self.header(host) };
            let to = Some((lease.address, lease.server));
            message(host, MessageType::RELEASE, header, &[(54, &server)], to);
            self.lose(host, End::Released);
        }
        self.cut(host);
    }

    /// Stops at once.
    pub(super) fn cut(&mut self, _: &mut Host<'_>) {
        (self.state, self.due) = (State::Off, None);
    }

    fn lose(&mut self, host: &mut Host<'_>, why: End) {
        if let Some(lease) = self.lease.take() {
            host.out.events.push(Event::Ended { leased: Leased::Address(lease.address.into()), why });
        }
    }

    pub(super) fn wake(&mut self, host: &mut Host<'_>) {
        if self.due.is_none_or(|due| due > host.now) {
            return;
        }
        let lease = self.lease;
        match (self.state, lease) {
            (State::Off, _) => self.due = None,
            (State::Selecting, _) if self.tries >= TRIES => {
                host.out.events.push(Event::Unanswered(Family::V4));
                self.begin(State::Selecting, host);
                self.due = Some(host.now + PAUSE);
            }
            // Without a reply it may keep what it has (RFC 2131, section 3.2).
            (State::Rebooting, Some(lease)) if self.tries >= TRIES - 1 => {
                self.state = State::Bound;
                self.due = Some(if host.kind.renews { lease.renew } else { lease.until });
            }
            (State::Requesting { .. }, _) if self.tries >= TRIES - 1 => self.look(host),
            (State::Without, _) => self.look(host),
            (State::Bound | State::Renewing | State::Rebinding, Some(lease)) if lease.until <= host.now => {
                self.look(host);
            }
            (State::Bound, Some(_)) if host.kind.renews => {
                self.begin(State::Renewing, host);
                self.send(host);
            }
            (State::Bound, lease) => self.due = lease.map(|lease| lease.until),
            (State::Renewing, Some(lease)) if lease.rebind <= host.now => {
                self.begin(State::Rebinding, host);
                self.send(host);
            }
            _ => self.send(host),
        }
    }

    fn header(&self, host: &Host<'_>) -> Header {
        let seconds = host.now.saturating_sub(self.began).as_secs().min(u16::MAX.into()) as u16;
        let mac = host.facts.own_mac().unwrap_or_default();
        let flags = if host.kind.broadcast { Header::BROADCAST } else { 0 };
        Header { secs: seconds, flags, ..Header::from_client(self.xid, mac) }
    }

    /// Sends what it waits for the reply to, and says when it will do so again.
    fn send(&mut self, host: &mut Host<'_>) {
        let header = self.header(host);
        let has = self.lease.map_or(Ipv4Addr::UNSPECIFIED, |lease| lease.address);
        let (kind, header, own, to): (_, _, Vec<(u16, [u8; 4])>, _) = match self.state {
            State::Selecting => (MessageType::DISCOVER, header, Vec::new(), None),
            State::Requesting { address, server } => {
                (MessageType::REQUEST, header, vec![(50, address.octets()), (54, server.octets())], None)
            }
            State::Rebooting => (MessageType::REQUEST, header, vec![(50, has.octets())], None),
            State::Renewing => {
                let to = self.lease.map(|lease| (lease.address, lease.server));
                (MessageType::REQUEST, Header { ciaddr: has, ..header }, Vec::new(), to)
            }
            State::Rebinding => {
                (MessageType::REQUEST, Header { ciaddr: has, ..header }, Vec::new(), Some((has, Ipv4Addr::BROADCAST)))
            }
            State::Off | State::Bound | State::Without => return,
        };
        let own: Vec<(u16, &[u8])> = own.iter().map(|(code, octets)| (*code, &octets[..])).collect();
        message(host, kind, header, &own, to);
        // A reply may be to the first of several: what is leased counts from that.
        if self.tries == 0 {
            self.sent = host.now;
        }
        self.tries += 1;
        self.due = Some(host.now + self.patience(host));
    }

    /// How long it waits for a reply.
    fn patience(&self, host: &mut Host<'_>) -> Duration {
        let half =
            |until: Duration| (until.saturating_sub(host.now) / 2).max(EXTENDING).min(until.saturating_sub(host.now));
        match (self.state, self.lease) {
            (State::Renewing, Some(lease)) => half(lease.rebind),
            (State::Rebinding, Some(lease)) => half(lease.until),
            _ => {
                // A second more or less (RFC 2131, section 4.1).
                let chance = Duration::from_millis(host.random.u64(0..2000));
                FIRST * (1 << (self.tries - 1).min(4)) + chance - Duration::from_secs(1)
            }
        }
    }

    pub(super) fn receive(&mut self, packet: &Packet, host: &mut Host<'_>) {
        if !matches!(packet.ends, Ends::Udp(..)) {
            return;
        }
        let Ok(message) = Message::read(&packet.octets) else { return };
        let header = message.header();
        let own = host.facts.own_mac().unwrap_or_default();
        if header.op != 2 || header.xid != self.xid || header.hardware() != &own[..] {
            return;
        }
        let address = |code| one::<4>(message, code).map(Ipv4Addr::from);
        match (self.state, message.message_type(), address(54)) {
            (State::Selecting, Some(MessageType::OFFER), Some(server)) => {
                let wants = host.facts.wants.v4.as_ref().is_some_and(|wants| wants.contains(&108));
                if let Some(seconds) = one::<4>(message, 108).map(u32::from_be_bytes).filter(|_| wants) {
                    self.state = State::Without;
                    self.due = Some(host.now + Duration::from_secs(seconds.max(WITHOUT).into()));
                    host.out.events.push(Event::WithoutIpv4);
                    return;
                }
                (self.state, self.tries) = (State::Requesting { address: header.yiaddr, server }, 0);
                self.send(host);
            }
            (
                State::Requesting { .. } | State::Rebooting | State::Renewing | State::Rebinding,
                Some(MessageType::ACK),
                Some(server),
            ) => self.bind(message, server, host),
            (
                State::Requesting { .. } | State::Rebooting | State::Renewing | State::Rebinding,
                Some(MessageType::NAK),
                _,
            ) => {
                let why = message.option(56).map(|option| String::from_utf8_lossy(&option.joined()).into_owned());
                host.out.events.push(Event::Refused { family: Family::V4, why: why.unwrap_or_default() });
                self.lose(host, End::Refused);
                // It begins anew, but not at once: whoever refuses may do so again.
                self.begin(State::Selecting, host);
                self.due = Some(host.now + Duration::from_secs(1));
            }
            _ => {}
        }
    }

    fn bind(&mut self, message: Message<'_>, server: Ipv4Addr, host: &mut Host<'_>) {
        let seconds = |code| one::<4>(message, code).map(u32::from_be_bytes);
        // A lease of no time is none, and times of zero would have it ask again at once, for ever.
        let Some(lease) = seconds(51).filter(|lease| *lease > 0) else { return };
        // Counted from when it asked (RFC 2131, section 4.4.1), and from the whole second.
        let from = Duration::from_secs(self.sent.as_secs());
        let after = |seconds: u32| match seconds {
            u32::MAX => Duration::MAX,
            seconds => from + Duration::from_secs(seconds.into()),
        };
        let part = |share: f64| if lease == u32::MAX { lease } else { (f64::from(lease) * share) as u32 };
        let rebind = seconds(59).filter(|rebind| *rebind < lease).unwrap_or_else(|| part(0.875));
        let renew = seconds(58).filter(|renew| *renew < rebind).unwrap_or_else(|| part(0.5).min(rebind));
        let address = message.header().yiaddr;
        let before = self.lease.replace(Lease {
            address,
            server,
            renew: after(renew.max(1)),
            rebind: after(rebind.max(1)),
            until: after(lease),
        });
        let leased = Leased::Address(address.into());
        match before {
            Some(before) if before.address == address => {
                host.out.events.push(Event::Renewed { leased, seconds: lease });
            }
            before => {
                let other = before.map(|before| Leased::Address(before.address.into()));
                host.out.events.extend(other.map(|leased| Event::Ended { leased, why: End::Refused }));
                host.out.events.push(Event::Leased { leased, seconds: lease });
            }
        }
        self.state = State::Bound;
        let due = if host.kind.renews { after(renew.max(1)) } else { after(lease) };
        self.due = Some(due).filter(|due| *due != Duration::MAX);
    }
}

/// The payload of an option that has so many octets.
fn one<const N: usize>(message: Message<'_>, code: u16) -> Option<[u8; N]> {
    (*message.option(code)?.joined()).try_into().ok()
}

/// Sends a message: from its address to a server, or from a client without one to everybody.
fn message(
    host: &mut Host<'_>,
    kind: MessageType,
    header: Header,
    own: &[(u16, &[u8])],
    to: Option<(Ipv4Addr, Ipv4Addr)>,
) {
    let mut options = of_client(host.facts);
    if kind == MessageType::RELEASE {
        // RFC 2131, section 4.4.1, table 5.
        options.retain(|(code, _)| *code == 61);
    }
    let all = options.iter().map(|(code, octets)| (*code, &**octets)).chain(own.iter().copied());
    let all: Vec<(u16, &[u8])> = all.collect();
    let draft = Draft { header, options: &all, ..Draft::new(kind) };
    // What a kind says of itself was checked when it was read: it has room.
    let Ok(composed) = host.composer.compose(&draft) else { return };
    let (from, to) = to.unwrap_or((Ipv4Addr::UNSPECIFIED, Ipv4Addr::BROADCAST));
    let ends = Ends::Udp(SocketAddr::from((from, 68)), SocketAddr::from((to, 67)));
    host.out.packets.push(Packet { from_client: true, ends, octets: composed.octets.to_vec() });
}
