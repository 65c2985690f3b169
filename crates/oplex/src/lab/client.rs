//! A stand-in client: a machine that is switched on, gets its configuration, keeps it, and goes away again.

use std::net::Ipv6Addr;
use std::sync::Arc;
use std::time::Duration;

use fastrand::Rng;

use super::hostile::Hostile;
use super::v4::V4;
use super::v6::V6;
use super::{ClientKind, Event, Packet};
use crate::family::{Both, Family};
use crate::octets::Mac;
use crate::packet::Composer;
use crate::plan::ClientFacts;
use crate::server::Leased;

/// How long a client may take to get what it needs.
const SETTLING: Duration = Duration::from_secs(60);

/// What a client sends, and what becomes of it.
#[derive(Debug, Default)]
pub struct Output {
    /// What it sends, in this order.
    pub packets: Vec<Packet>,
    /// What became of it.
    pub events: Vec<Event>,
}

/// A client without sockets or a clock: its owner says what time it is, takes what it sends, and hands it what arrives. Times
/// count from a moment that all of them share.
#[derive(Debug)]
pub struct Client {
    kind: Arc<ClientKind>,
    facts: ClientFacts,
    random: Rng,
    composer: Composer,
    v4: Option<V4>,
    v6: Option<V6>,
    hostile: Option<Hostile>,
    on: bool,
    /// When it was switched on.
    since: Duration,
    /// Whether it had what it needs when it was switched off.
    had: bool,
    /// When it is switched on or off next.
    switch: Option<Duration>,
}

/// What the protocols of a client share while it does something.
pub(super) struct Host<'h> {
    pub(super) facts: &'h ClientFacts,
    pub(super) kind: &'h ClientKind,
    pub(super) random: &'h mut Rng,
    pub(super) composer: &'h mut Composer,
    pub(super) now: Duration,
    pub(super) out: &'h mut Output,
}

impl Client {
    /// A client of a kind, that is switched on at this time. It speaks the families of its kind that `speaks` has as well; what
    /// it does by chance follows from the seed.
    #[must_use]
    pub fn new(kind: Arc<ClientKind>, facts: ClientFacts, speaks: Both<bool>, on: Duration, seed: u64) -> Self {
        let with = |family: Family| kind.families[family] && speaks[family] && !kind.hostile;
        let (v4, v6) = (with(Family::V4).then(V4::default), with(Family::V6).then(V6::default));
        let hostile = kind.hostile.then(Hostile::default);
        let (random, composer) = (Rng::with_seed(seed), Composer::default());
        Self { kind, facts, random, composer, v4, v6, hostile, on: false, since: on, had: true, switch: Some(on) }
    }

    /// What it says of itself.
    #[must_use]
    pub fn facts(&self) -> &ClientFacts {
        &self.facts
    }

    /// Its hardware address.
    #[must_use]
    pub fn mac(&self) -> Mac {
        self.facts.own_mac().unwrap_or_default()
    }

    /// Its kind.
    #[must_use]
    pub fn kind(&self) -> &ClientKind {
        &self.kind
    }

    /// Whether it is switched on.
    #[must_use]
    pub fn is_on(&self) -> bool {
        self.on
    }

    /// When it wants to be woken.
    #[must_use]
    pub fn due(&self) -> Option<Duration> {
        let all = [
            self.switch,
            self.v4.as_ref().and_then(V4::due),
            self.v6.as_ref().and_then(V6::due),
            self.hostile.as_ref().and_then(Hostile::due),
        ];
        all.into_iter().flatten().min()
    }

    /// Does what it is time for.
    pub fn wake(&mut self, now: Duration, out: &mut Output) {
        if self.switch.is_some_and(|at| at <= now) {
            return if self.on { self.leave(now, out) } else { self.start(now, out) };
        }
        if self.on {
            self.each(now, out, V4::wake, V6::wake, Hostile::wake);
        }
    }

    fn each(
        &mut self,
        now: Duration,
        out: &mut Output,
        v4: impl FnOnce(&mut V4, &mut Host<'_>),
        v6: impl FnOnce(&mut V6, &mut Host<'_>),
        hostile: impl FnOnce(&mut Hostile, &mut Host<'_>),
    ) {
        let Self { kind, facts, random, composer, .. } = self;
        let mut host = Host { facts, kind, random, composer, now, out };
        if let Some(machine) = &mut self.v4 {
            v4(machine, &mut host);
        }
        if let Some(machine) = &mut self.v6 {
            v6(machine, &mut host);
        }
        if let Some(machine) = &mut self.hostile {
            hostile(machine, &mut host);
        }
    }

    fn start(&mut self, now: Duration, out: &mut Output) {
        (self.on, self.since) = (true, now);
        self.switch = self.kind.presence.map(|presence| now + presence.on);
        self.each(now, out, V4::start, V6::start, Hostile::start);
    }

    /// Switches it off: it releases what it has if its kind does so.
    pub fn leave(&mut self, now: Duration, out: &mut Output) {
        self.had = self.is_content(now);
        self.on = false;
        self.switch = self.kind.presence.map(|presence| now + presence.every.saturating_sub(presence.on));
        self.each(now, out, V4::stop, V6::stop, Hostile::stop);
    }

    /// Pulls its plug, and puts it in again: it knows what it had, and requests that.
    pub fn restart(&mut self, now: Duration, out: &mut Output) {
        if self.on {
            self.each(now, out, V4::cut, V6::cut, Hostile::stop);
            self.each(now, out, V4::start, V6::start, Hostile::start);
        }
    }

    /// Takes what arrives for it.
    pub fn receive(&mut self, now: Duration, packet: &Packet, out: &mut Output) {
        if self.on && !packet.from_client {
            self.each(
                now,
                out,
                |v4, host| v4.receive(packet, host),
                |v6, host| v6.receive(packet, host),
                |hostile, _| hostile.receive(packet),
            );
        }
    }

    /// What it is leased now.
    pub fn held(&self, now: Duration) -> impl Iterator<Item = Leased> {
        let v4 = self.v4.iter().filter_map(move |machine| machine.held(now));
        let v6 = self.v6.iter().flat_map(move |machine| machine.held(now));
        v4.chain(v6).filter(|_| self.on)
    }

    /// The addresses that it forms by itself.
    pub fn formed(&self) -> impl Iterator<Item = Ipv6Addr> {
        self.v6.iter().flat_map(|machine| machine.formed.iter().copied())
    }

    /// Whether it has what its network has for it: an address or settings by each family, or nothing to request. Of one
    /// that is off it counts whether it had; one that was switched on just now may get it yet.
    #[must_use]
    pub fn is_content(&self, now: Duration) -> bool {
        match self.on && now.saturating_sub(self.since) >= SETTLING {
            true => self.has_all(now),
            false => self.had,
        }
    }

    /// Whether it has all of it now.
    #[must_use]
    pub fn has_all(&self, now: Duration) -> bool {
        let v4 = self.v4.as_ref().is_none_or(|machine| machine.is_content(now));
        self.on && v4 && self.v6.as_ref().is_none_or(|machine| machine.is_content(now))
    }
}
