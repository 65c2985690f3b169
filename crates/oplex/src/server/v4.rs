//! Replies by DHCPv4 (RFC 2131, section 4.3).

use std::net::{Ipv4Addr, SocketAddr};

use super::{Association, Destination, Holder, Ingress, Leases, Reply, Server, address, leased};
use crate::answer::v4::{ALWAYS, Play};
use crate::answer::{Answer, Identified};
use crate::family::Family;
use crate::octets::Mac;
use crate::packet::v4::{Draft, Header, Message, MessageType};
use crate::packet::{AnyMessage, Message as _};
use crate::plan::ClientFacts;

/// What a client requests.
struct Asked {
    kind: MessageType,
    header: Header,
    /// The address that it requests (50).
    requested: Option<Ipv4Addr>,
    /// The server that it means (54).
    server: Option<Ipv4Addr>,
}

/// What becomes of a request.
enum Verdict {
    /// An address, offered or leased.
    Address(MessageType, Ipv4Addr),
    /// Everything but an address.
    Settings,
    /// A refusal, and why.
    Refused(&'static str),
}

fn one_address(message: Message<'_>, code: u16) -> Option<Ipv4Addr> {
    let octets: [u8; 4] = (*message.option(code)?.joined()).try_into().ok()?;
    Some(octets.into())
}

impl<'c> Server<'c> {
    pub(super) fn answer_v4(
        &mut self,
        request: &[u8],
        ingress: &Ingress<'_>,
        leases: &mut impl Leases,
    ) -> Option<Reply<'_>> {
        let message = Message::read(request).ok()?;
        let (header, kind) = (message.header(), message.message_type()?);
        // What says of its hardware address what cannot be is none of a client: a reply would repeat it.
        if header.op != 1 || header.other_hlen().is_some() {
            return None;
        }
        let any = AnyMessage::V4(message);
        let network = self.network(any, ingress)?;
        let mut facts = ClientFacts { network, ..ClientFacts::from_message(any) };
        // What is too short to be an identifier is none, and is not repeated (RFC 2132, section 9.14).
        facts.sends.v4.retain(|(code, octets)| *code != 61 || octets.len() >= 2);
        let known = self.compiled.identify(Family::V4, &facts)?;
        let asked = Asked { kind, header, requested: one_address(message, 50), server: one_address(message, 54) };
        let hardware = [&[header.htype], header.hardware()].concat();
        let client = facts.sent(Family::V4, 61).unwrap_or(&hardware);
        let holder = Holder { network: &known.network.name, association: Association::Client, client };
        let verdict = self.verdict(&asked, network, &known, &holder, leases)?;
        match verdict {
            Verdict::Refused(why) => self.refuse(&facts, &asked, why),
            Verdict::Settings => self.acknowledge(&facts, &asked, known),
            Verdict::Address(kind, address) => self.reply_with(&facts, &asked, known, (kind, address), &holder, leases),
        }
    }

    fn own(&self) -> Ipv4Addr {
        self.compiled.server.v4.as_ref().map_or(Ipv4Addr::UNSPECIFIED, |(own, _)| *own)
    }

    fn verdict(
        &mut self,
        asked: &Asked,
        network: usize,
        known: &Identified<'c>,
        holder: &Holder<'_>,
        leases: &mut impl Leases,
    ) -> Option<Verdict> {
        match asked.kind {
            MessageType::DISCOVER => {
                let address = self.offer(network, known, holder, asked.requested, leases)?;
                Some(Verdict::Address(MessageType::OFFER, address))
            }
            MessageType::REQUEST => self.requested(asked, network, known, holder, leases),
            MessageType::INFORM => Some(Verdict::Settings),
            MessageType::DECLINE | MessageType::RELEASE => {
                let declined = asked.kind == MessageType::DECLINE;
                let given = if declined { asked.requested } else { Some(asked.header.ciaddr) };
                if asked.server.is_none_or(|server| server == self.own()) {
                    leases.free(holder, leased(given?), declined);
                }
                None
            }
            _ => None,
        }
    }

    /// A DHCPREQUEST: a client takes an offer, comes back to a network, or extends its lease (RFC 2131, section 4.3.2).
    fn requested(
        &mut self,
        asked: &Asked,
        network: usize,
        known: &Identified<'c>,
        holder: &Holder<'_>,
        leases: &mut impl Leases,
    ) -> Option<Verdict> {
        let has = Some(asked.header.ciaddr).filter(|has| !has.is_unspecified());
        let had = leases.find(holder).and_then(address::<Ipv4Addr>);
        if asked.server.is_some_and(|server| server != self.own()) {
            // It takes another server's offer.
            had.into_iter().for_each(|had| leases.free(holder, leased(had), false));
            return None;
        }
        let wanted = asked.requested.or(has)?;
        let on_link = known.network.sides.v4.subnet_with(wanted).is_some();
        if !on_link {
            return Some(Verdict::Refused("this address is not of this network"));
        }
        // Without a record of the client a server is silent, as another may have one; what is reserved is a record.
        let reserved = known.reservation.and_then(|row| row.address::<Ipv4Addr>()).map(|(address, _)| address);
        if asked.server.is_none() && has.is_none() && had.or(reserved).is_none() {
            return None;
        }
        if had.or(reserved).is_some_and(|known| known != wanted) || !self.may_have(network, known, wanted) {
            return Some(Verdict::Refused("this address is not the client's"));
        }
        Some(Verdict::Address(MessageType::ACK, wanted))
    }

    fn reply_with(
        &mut self,
        facts: &ClientFacts,
        asked: &Asked,
        known: Identified<'c>,
        (kind, address): (MessageType, Ipv4Addr),
        holder: &Holder<'_>,
        leases: &mut impl Leases,
    ) -> Option<Reply<'_>> {
        let answer = self.prepared.answer(self.compiled, Family::V4, facts, known, Some(address.into()));
        if kind == MessageType::ACK && !leases.bind(holder, leased(address), answer.timers.lease.seconds) {
            return self.refuse(facts, asked, "another client has this address");
        }
        let play = Play::new(self.compiled, facts, answer).replying(asked.header, address);
        let octets = play.compose(kind, &mut self.composer).ok()?.octets;
        Some(Reply { octets, to: destination(&asked.header, address) })
    }

    /// The reply to a DHCPINFORM, which has neither an address nor a lease (RFC 2131, section 4.3.5).
    fn acknowledge(&mut self, facts: &ClientFacts, asked: &Asked, known: Identified<'c>) -> Option<Reply<'_>> {
        let has = asked.header.ciaddr;
        let answer = self.prepared.answer(self.compiled, Family::V4, facts, known, Some(has.into()));
        let mut without: Answer<'c> = answer.clone();
        without.payloads.retain(|sent| !ALWAYS.contains(&sent.code));
        let play = Play::new(self.compiled, facts, &without).replying(asked.header, Ipv4Addr::UNSPECIFIED);
        let octets = play.compose(MessageType::ACK, &mut self.composer).ok()?.octets;
        Some(Reply { octets, to: destination(&asked.header, has) })
    }

    /// A DHCPNAK (RFC 2131, section 4.3.1, table 3; RFC 6842, section 3).
    fn refuse(&mut self, facts: &ClientFacts, asked: &Asked, why: &str) -> Option<Reply<'_>> {
        let own = self.own().octets();
        let client = facts.sent(Family::V4, 61).map(|id| (61, id));
        let relay = facts.sent(Family::V4, 82).map(|octets| (82, octets));
        let options: Vec<(u16, &[u8])> =
            [(54, &own[..]), (56, why.as_bytes())].into_iter().chain(client).chain(relay).collect();
        let relayed = !asked.header.giaddr.is_unspecified();
        // A relay agent is to broadcast it, as the client may have no address that it can be reached at.
        let flags = if relayed { asked.header.flags | BROADCAST } else { asked.header.flags };
        let header = Header { flags, ..asked.header.answered() };
        let draft = Draft { header, options: &options, ..Draft::new(MessageType::NAK) };
        let octets = self.composer.compose(&draft).ok()?.octets;
        let relay = SocketAddr::from((asked.header.giaddr, 67));
        Some(Reply { octets, to: if relayed { Destination::Address(relay) } else { Destination::Broadcast } })
    }
}

/// The flag by which a client says that it takes broadcasts alone.
const BROADCAST: u16 = 0x8000;

/// Where a reply goes (RFC 2131, section 4.1).
fn destination(asked: &Header, address: Ipv4Addr) -> Destination {
    let at = |address: Ipv4Addr, port| SocketAddr::from((address, port));
    let mac = || <[u8; 6]>::try_from(asked.hardware()).ok().map(Mac);
    match mac() {
        _ if !asked.giaddr.is_unspecified() => Destination::Address(at(asked.giaddr, 67)),
        _ if !asked.ciaddr.is_unspecified() => Destination::Address(at(asked.ciaddr, 68)),
        Some(mac) if asked.flags & BROADCAST == 0 => Destination::Link(at(address, 68), mac),
        _ => Destination::Broadcast,
    }
}
