//! What clients say.

use std::time::Duration;

use super::Audit;
use super::clients::Lease;
use super::conversation::{NONE, Open};
use super::seen::{CapturedMessage, Read};
use crate::check::traffic::{ADDRESS_DECLINED, DHCPV6_WITHOUT_FLAGS, RENEWAL_OUT_OF_TIME};
use crate::family::Protocol;
use crate::octets::Duid;
use crate::packet::{AnyMessage, Message as _, v4, v6};
use crate::plan::{ClientFacts, Fact};
use crate::server::Leased;
use crate::server::associations::asked;

impl Audit<'_> {
    /// A message of a client.
    pub(super) fn request(&mut self, open: &mut Open, seen: &CapturedMessage, read: &Read<'_>) {
        open.request(seen, read);
        // A client requests the same in all messages of a conversation (RFC 2131, section 3.5).
        if open.requested.is_empty() {
            open.requested = read.requested();
        }
        let family = read.own.protocol().family();
        let machine = read.machine(&open.conversation.client);
        let machine = self.memory.machines.or_insert(&machine[..], || machine[..].into());
        if !open.requested.is_empty() && !std::mem::replace(&mut machine.requests[family], true) {
            self.classify(read, &open.requested);
        }
        if open.network.is_none()
            && let Some(network) = self.against.as_mut().and_then(|against| against.network_of(read, seen.link))
        {
            self.place(open, read, network);
        }
        match read.own {
            AnyMessage::V4(message) => self.v4_request(open, seen, message),
            AnyMessage::V6(message) => self.v6_request(open, seen, read, message),
            AnyMessage::Ra(_) => {}
        }
    }

    /// Says which network a client is on, and which fleets it belongs to: `read` is what it sent.
    pub(super) fn place(&mut self, open: &mut Open, read: &Read<'_>, network: usize) {
        let Some(against) = &mut self.against else { return };
        let (fleets, row) = against.client(read, network);
        self.reserved.extend(row);
        let name = against.compiled.networks[network].name.to_string();
        let machine = read.machine(&open.conversation.client);
        let machine = self.memory.machines.or_insert(&machine[..], || machine[..].into());
        if !std::mem::replace(&mut machine.placed, true) {
            *self.summary.networks.entry(name.clone()).or_default() += 1;
            fleets.iter().for_each(|fleet| *self.summary.fleets.entry(fleet.clone()).or_default() += 1);
        }
        open.network = Some(network);
        open.conversation.network = Some(name);
        open.conversation.fleets = fleets.to_vec();
    }

    /// Which codes clients of its vendor class request.
    fn classify(&mut self, read: &Read<'_>, requested: &[u16]) {
        let protocol = read.own.protocol();
        let facts = ClientFacts::from_message(read.own);
        let class = facts.texts(self.codebook, &Fact::VendorClass, protocol.family()).into_iter().next();
        self.summary.requested(protocol, class.unwrap_or_default(), requested);
    }

    fn v4_request(&mut self, open: &mut Open, seen: &CapturedMessage, message: v4::Message<'_>) {
        let address = |code: u16| {
            let octets = message.option(code)?.joined();
            Some(std::net::Ipv4Addr::from(<[u8; 4]>::try_from(&*octets).ok()?))
        };
        let has = Some(message.header().ciaddr).filter(|has| !has.is_unspecified());
        match message.message_type() {
            Some(v4::MessageType::DECLINE) => {
                let declined = address(50).map_or_else(|| "an address".to_owned(), |address| address.to_string());
                let finding = ADDRESS_DECLINED.finding(format!("the client declines {declined}: another host uses it"));
                self.tell(open, finding, seen, NONE);
                self.forget(open, address(50).map(|address| Leased::Address(address.into())));
            }
            Some(v4::MessageType::RELEASE) => {
                self.forget(open, has.map(|address| Leased::Address(address.into())));
            }
            // To extend a lease a client says the address that it has, and no server unless it renews.
            Some(v4::MessageType::REQUEST) if has.is_some() && address(54).is_none() => self.renewal(open, seen),
            _ => {}
        }
    }

    fn v6_request(&mut self, open: &mut Open, seen: &CapturedMessage, read: &Read<'_>, message: v6::Message<'_>) {
        let own = Duid::mac_in(&open.conversation.client);
        for mac in [seen.hardware.filter(|_| read.relay.is_none()), own].into_iter().flatten() {
            if let Some(host) = self.memory.hosts.get_mut(&(seen.link, mac)) {
                host.asks = true;
            }
        }
        match message.message_type() {
            v6::MessageType::DECLINE => {
                let associations = asked(message);
                let declined = associations.iter().find_map(|one| one.wants).map(|leased| leased.to_string());
                let declined = declined.unwrap_or_else(|| "an address".to_owned());
                let finding = ADDRESS_DECLINED
                    .finding(format!("the client declines {declined}: another host uses it"))
                    .by("RFC 8415, section 18.2.8");
                self.tell(open, finding, seen, NONE);
                associations.iter().for_each(|one| self.forget(open, one.wants));
            }
            v6::MessageType::RELEASE => asked(message).iter().for_each(|one| self.forget(open, one.wants)),
            v6::MessageType::RENEW => self.renewal(open, seen),
            v6::MessageType::SOLICIT if read.relay.is_none() => {
                let addresses = message.option(3).is_some();
                let flags = self.memory.links.get(&seen.link).copied();
                if let Some(flags) = flags.filter(|flags| addresses && !flags.managed) {
                    let other = if flags.other { "only O, for other settings" } else { "neither M nor O" };
                    let message = format!("the client requests an address, and the router sets {other}");
                    self.tell(open, DHCPV6_WITHOUT_FLAGS.finding(message), seen, NONE);
                }
            }
            _ => {}
        }
    }

    /// Whether a client comes when it should: from a little before T1 on (RFC 2131, section 4.4.5).
    fn renewal(&mut self, open: &mut Open, seen: &CapturedMessage) {
        let client = self.memory.clients.get(&*open.conversation.client);
        let Some(lease) = client.and_then(|client| client.lease).filter(|lease| lease.seconds != u32::MAX) else {
            return;
        };
        let Lease { at, t1, seconds } = lease;
        let (after, t1) = (seen.at.saturating_sub(at), Duration::from_secs(t1.into()));
        let when = match () {
            () if lease.is_over(seen.at) => format!("after the lease of {} had ended", text(seconds)),
            () if t1 > Duration::ZERO && after < t1.mul_f64(0.8) => "early".to_owned(),
            () if t1 > Duration::ZERO && after > t1.mul_f64(1.5) => "late".to_owned(),
            () => return,
        };
        let (after, due) = (text(seconds_of(after)), text(seconds_of(t1)));
        let message = format!("the client renews {when}: {after} after the lease began, with a T1 of {due}");
        let rfc = if seen.protocol == Protocol::V6 { "RFC 8415, section 18.2.4" } else { "RFC 2131, section 4.4.5" };
        self.tell(open, RENEWAL_OUT_OF_TIME.finding(message).by(rfc), seen, NONE);
    }

    /// A client gives an address back.
    fn forget(&mut self, open: &Open, leased: Option<Leased>) {
        if let Some(leased) = leased {
            self.memory.release(leased, &open.conversation.client);
        }
        let client = self.memory.clients.or_insert(&*open.conversation.client, || open.conversation.client.clone());
        client.lease = None;
    }
}

/// Whole seconds, as far as a lease can have them.
fn seconds_of(time: Duration) -> u32 {
    u32::try_from(time.as_secs()).unwrap_or(u32::MAX)
}

/// Seconds as people write them.
pub(super) fn text(seconds: u32) -> String {
    crate::layout::duration_text(seconds)
}
