//! What servers answer, and what becomes of it.

use std::time::Duration;

use super::super::client::Host;
use super::super::{End, Event};
use super::{Binding, LEAST_REFRESH, LONGEST_MAY_BE, PAUSE, REFRESH, State, V6};
use crate::answer::v6::iaid;
use crate::family::Family;
use crate::packet::Message as _;
use crate::packet::v6::{Message, MessageType};
use crate::server::associations::{Asked, asked};

impl V6 {
    /// What a server answers.
    pub(super) fn answered(&mut self, message: Message<'_>, host: &mut Host<'_>) {
        let State::Sending(kind) = self.state else { return };
        let Some(server) = message.option(2).map(|option| option.joined().into_owned()) else { return };
        for (code, longest) in [82, 83].into_iter().zip(&mut self.longest) {
            let said = number(message, code).filter(|seconds| LONGEST_MAY_BE.contains(seconds));
            *longest = said.unwrap_or(*longest);
        }
        match (kind, message.message_type()) {
            (MessageType::SOLICIT, MessageType::ADVERTISE) => self.offered(message, server, host),
            (MessageType::SOLICIT, MessageType::REPLY) if message.option(14).is_some() && host.facts.rapid => {
                self.bind(message, server, host);
            }
            (MessageType::REQUEST | MessageType::RENEW | MessageType::REBIND, MessageType::REPLY) => {
                self.bind(message, server, host);
            }
            (MessageType::CONFIRM, MessageType::REPLY) => match status(message) {
                Some(0) | None => self.keep(host),
                Some(_) => {
                    host.out.events.push(Event::Refused { family: Family::V6, why: status_text(4).to_owned() });
                    self.lose(host, End::Refused);
                    self.begin(MessageType::SOLICIT, host);
                }
            },
            (MessageType::INFORMATION_REQUEST, MessageType::REPLY) => {
                host.out.events.push(Event::Settings(Family::V6));
                self.state = State::Informed;
                let refresh = number(message, 32).unwrap_or(REFRESH).max(LEAST_REFRESH);
                self.due = host.kind.renews.then_some(host.now + Duration::from_secs(refresh.into()));
            }
            _ => {}
        }
    }

    fn offered(&mut self, message: Message<'_>, server: Vec<u8>, host: &mut Host<'_>) {
        let associations = asked(message);
        if associations.iter().all(|one| one.wants.is_none()) {
            // What has nothing for it is not used, but for SOL_MAX_RT (RFC 8415, section 18.2.9).
            if self.tries == 1 {
                let status = associations.iter().find_map(|one| one.status).or(status(message));
                let why = status_text(status.unwrap_or_default()).to_owned();
                host.out.events.push(Event::Refused { family: Family::V6, why });
            }
            return;
        }
        let preference = message.option(7).and_then(|option| option.joined().first().copied()).unwrap_or(0);
        if self.best.as_ref().is_none_or(|(best, _)| preference > *best) {
            self.best = Some((preference, server));
        }
        // The first time it waits for others, unless nobody can be better (RFC 8415, section 18.2.1).
        if preference == u8::MAX || self.tries > 1 {
            self.due = Some(host.now);
        }
    }

    /// It goes on with what it has.
    pub(super) fn keep(&mut self, host: &Host<'_>) {
        self.state = State::Bound;
        let valid = self.bindings.iter().map(|binding| binding.until).max().unwrap_or(host.now);
        self.due =
            Some(if host.kind.renews { self.renew.min(valid) } else { valid }).filter(|due| *due != Duration::MAX);
    }

    fn bind(&mut self, message: Message<'_>, server: Vec<u8>, host: &mut Host<'_>) {
        // From when it asked, and from the whole second.
        let from = Duration::from_secs(self.sent.as_secs());
        let after = |seconds: u32| match seconds {
            u32::MAX => Duration::MAX,
            seconds => from + Duration::from_secs(seconds.into()),
        };
        let all = asked(message);
        let refused = all.iter().find_map(|one| one.status.filter(|status| *status != 0)).or(status(message));
        let before = std::mem::take(&mut self.bindings);
        let given = |one: &&Asked| one.iaid == iaid(host.facts) && one.valid > 0;
        for (one, leased) in all.iter().filter(given).filter_map(|one| Some((one, one.wants?))) {
            self.bindings.push(Binding { code: one.code, leased, until: after(one.valid) });
            let known = before.iter().any(|binding| binding.leased == leased);
            let seconds = one.valid;
            host.out.events.push(if known {
                Event::Renewed { leased, seconds }
            } else {
                Event::Leased { leased, seconds }
            });
        }
        let gone = before.iter().filter(|old| self.bindings.iter().all(|new| new.leased != old.leased));
        host.out.events.extend(gone.map(|old| Event::Ended { leased: old.leased, why: End::Refused }));
        if let Some(status) = refused.filter(|status| *status != 0) {
            host.out.events.push(Event::Refused { family: Family::V6, why: status_text(status).to_owned() });
        }
        if self.bindings.is_empty() {
            self.begin(MessageType::SOLICIT, host);
            self.due = Some(host.now + PAUSE);
            return;
        }
        self.server = Some(server);
        let times = |of: fn(&Asked) -> u32, default: f64| {
            let own = all.iter().filter(|one| one.wants.is_some());
            let seconds = own.map(|one| match of(one) {
                // The client's own choice (RFC 8415, section 21.4).
                0 if one.valid != u32::MAX => (f64::from(one.valid) * default) as u32,
                0 => u32::MAX,
                seconds => seconds,
            });
            // At once would be for ever.
            after(seconds.min().unwrap_or(u32::MAX).max(1))
        };
        (self.renew, self.rebind) = (times(|one| one.t1, 0.5), times(|one| one.t2, 0.8));
        self.keep(host);
    }
}

fn number(message: Message<'_>, code: u16) -> Option<u32> {
    Some(u32::from_be_bytes((*message.option(code)?.joined()).try_into().ok()?))
}

/// The status that a message gives as a whole (RFC 8415, section 21.13).
fn status(message: Message<'_>) -> Option<u16> {
    message.option(13)?.joined().first_chunk().map(|octets| u16::from_be_bytes(*octets))
}

/// What a status means for a client.
fn status_text(status: u16) -> &'static str {
    match status {
        2 => "no address is free (NoAddrsAvail)",
        3 => "the server does not know what it has (NoBinding)",
        4 => "what it has is not of this link (NotOnLink)",
        6 => "no prefix is free (NoPrefixAvail)",
        _ => "the server had nothing for it",
    }
}
