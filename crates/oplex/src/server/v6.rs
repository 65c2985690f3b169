//! Replies by DHCPv6 (RFC 8415, section 18.3).

use std::net::{IpAddr, Ipv6Addr};

use super::associations::{Asked, asked};
use super::{Destination, Holder, Ingress, Leased, Leases, Reply, Server, leased};
use smallvec::SmallVec;

use crate::answer::Identified;
use crate::answer::associations::{Inside, NO_ADDRESS, NO_PREFIX, PREFIXES, association};
use crate::answer::exchange::stands_in;
use crate::answer::fqdn;
use crate::answer::v6::{SERVER, fits_exchange};
use crate::family::{Family, Protocol};
use crate::octets::Duid;
use crate::packet::v6::{Draft, Header, Message, MessageType, RELAY_MESSAGE, Relay};
use crate::packet::{AnyMessage, Message as _};
use crate::plan::ClientFacts;

/// The codes of the client's and the server's identifiers.
const CLIENT: u16 = 1;
const SERVER_ID: u16 = 2;

/// That what a client has is not of this link, or of no association here (RFC 8415, section 21.13).
const SUCCESS: u64 = 0;
const NO_BINDING: u64 = 3;
const NOT_ON_LINK: u64 = 4;

impl<'c> Server<'c> {
    pub(super) fn answer_v6(
        &mut self,
        request: &[u8],
        ingress: &Ingress<'_>,
        leases: &mut impl Leases,
    ) -> Option<Reply<'_>> {
        let message = Message::read(request).ok()?;
        let any = AnyMessage::V6(message);
        let inner = message.innermost()?;
        let network = self.network(any, ingress)?;
        let facts = ClientFacts { network, ..ClientFacts::from_message(any) };
        let duid = payload(inner, CLIENT);
        let kind = self.is_for_this(inner, duid)?;
        let known = self.compiled.identify(Family::V6, &facts)?;
        self.reply((inner, duid.unwrap_or_default()), kind, &facts, known, leases)?;
        self.around(message)?;
        Some(Reply { octets: &self.octets, to: Destination::Source })
    }

    fn own_duid(&self) -> &'c [u8] {
        self.compiled.server.duid.as_deref().unwrap_or(&SERVER)
    }

    /// The type of a reply to a message, if one is due: it is for any server or for this one (RFC 8415, section 16).
    fn is_for_this(&self, message: Message<'_>, client: Option<&[u8]>) -> Option<MessageType> {
        // Whoever says of itself what is no DUID is not known, and a reply would repeat it (RFC 8415, section 11.1).
        if client.is_some_and(|client| !Duid::is_one(client)) {
            return None;
        }
        let client = client.is_some();
        let server = payload(message, SERVER_ID);
        let own = server == Some(self.own_duid());
        let kind = message.message_type();
        match kind {
            MessageType::SOLICIT if client && server.is_none() => {
                Some(if message.option(14).is_some() { MessageType::REPLY } else { MessageType::ADVERTISE })
            }
            MessageType::REQUEST | MessageType::RENEW | MessageType::RELEASE | MessageType::DECLINE
                if client && own =>
            {
                Some(MessageType::REPLY)
            }
            MessageType::CONFIRM | MessageType::REBIND if client && server.is_none() => Some(MessageType::REPLY),
            MessageType::INFORMATION_REQUEST if server.is_none() || own => Some(MessageType::REPLY),
            _ => None,
        }
    }

    fn reply(
        &mut self,
        (message, duid): (Message<'_>, &[u8]),
        kind: MessageType,
        facts: &ClientFacts,
        known: Identified<'c>,
        leases: &mut impl Leases,
    ) -> Option<()> {
        let asked_by = message.message_type();
        let associations = asked(message);
        let mut given: SmallVec<[(&Asked, Inside); 2]> = SmallVec::new();
        let mut status = None;
        match asked_by {
            MessageType::CONFIRM => {
                let mut hints = associations.iter().filter_map(|one| one.wants).peekable();
                hints.peek()?;
                let side = &known.network.sides.v6;
                let on_link =
                    hints.all(|hint| super::address(hint).is_some_and(|address| side.subnet_with(address).is_some()));
                status = Some(if on_link { SUCCESS } else { NOT_ON_LINK });
            }
            MessageType::RELEASE | MessageType::DECLINE => {
                for one in &associations {
                    let holder = holder(&known, one, duid);
                    let declined = asked_by == MessageType::DECLINE;
                    one.wants.into_iter().for_each(|leased| leases.free(&holder, leased, declined));
                }
                status = Some(SUCCESS);
            }
            MessageType::INFORMATION_REQUEST => {}
            _ => {
                for (at, one) in associations.iter().enumerate() {
                    // What is reserved is one address and one prefix: the first association of a kind has it.
                    let first = associations[..at].iter().all(|other| other.code != one.code);
                    let holder = holder(&known, one, duid);
                    given.push((one, self.inside(asked_by, one, first, &known, facts.network, &holder, leases)));
                }
            }
        }
        let network = &*known.network.name;
        let address = given.iter().find_map(|(_, inside)| match inside {
            Inside::Address(address) => Some(IpAddr::from(*address)),
            _ => None,
        });
        let settings = status.is_none();
        let own = self.own_duid();
        let answer = self.prepared.answer(self.compiled, Family::V6, facts, known, address);
        if kind == MessageType::REPLY {
            for (one, inside) in &given {
                if let Some(leased) = leased_by(*inside) {
                    let holder = Holder { network, association: one.association(), client: duid };
                    leases.bind(&holder, leased, answer.timers.lease.seconds);
                }
            }
        }
        let seconds = answer.timers.seconds();
        let mut associations: SmallVec<[_; 2]> = SmallVec::new();
        for (one, inside) in &given {
            associations.push((one.code, association(one.iaid, seconds, *inside)));
        }
        let status = status.map(|status| (status as u16).to_be_bytes());
        let named = answer.fqdn.as_ref().filter(|_| settings && asked_by != MessageType::INFORMATION_REQUEST);
        let named = named.and_then(|name| name.for_client(Family::V6, facts));
        // Pushed one by one, which takes less time than to extend it by as few.
        let mut all: SmallVec<[(u16, &[u8]); 16]> = SmallVec::new();
        if !duid.is_empty() {
            all.push((CLIENT, duid));
        }
        all.push((SERVER_ID, own));
        for (code, octets) in &associations {
            all.push((*code, octets.as_slice()));
        }
        if let Some(status) = &status {
            all.push((13, &status[..]));
        }
        if asked_by == MessageType::SOLICIT && kind == MessageType::REPLY {
            all.push((14, &[]));
        }
        let alone = asked_by == MessageType::INFORMATION_REQUEST;
        let stands = |code| {
            stands_in(&self.compiled.codebook, Protocol::V6, code, MessageType::REPLY.0, kind.0)
                && fits_exchange(code, alone)
        };
        let wanted = answer
            .payloads
            .iter()
            .filter(|sent| settings && facts.requests(Family::V6, sent.code) && stands(sent.code));
        for sent in wanted {
            all.push((sent.code, &*sent.octets));
        }
        if let Some(name) = &named {
            all.push((fqdn::code(Family::V6), name));
        }
        let header = Header::Transaction(message.transaction()?);
        let composed = self.composer.compose(&Draft { message_type: kind, header, options: &all }).ok()?;
        self.octets.clear();
        self.octets.extend_from_slice(composed);
        Some(())
    }

    /// What an association gets.
    #[expect(clippy::too_many_arguments, reason = "all of what decides it")]
    fn inside(
        &mut self,
        asked_by: MessageType,
        one: &Asked,
        first: bool,
        known: &Identified<'c>,
        network: usize,
        holder: &Holder<'_>,
        leases: &mut impl Leases,
    ) -> Inside {
        let extends = matches!(asked_by, MessageType::RENEW | MessageType::REBIND);
        // A client that extends what nobody here has leased it is told so (RFC 8415, section 18.3.4).
        if extends && leases.find(holder).is_none() && known.reservation.is_none() {
            return Inside::Status(NO_BINDING);
        }
        let reservation = known.reservation.filter(|_| first);
        let known = Identified { network: known.network, fleets: known.fleets.clone(), reservation };
        match one.code {
            PREFIXES => {
                let wanted = one.wants.and_then(|leased| match leased {
                    Leased::Prefix(net) => Some(net),
                    Leased::Address(_) => None,
                });
                let prefix = self.delegate(network, &known, holder, wanted, leases);
                prefix.map_or(Inside::Status(NO_PREFIX), Inside::Prefix)
            }
            _ => {
                let wanted = one.wants.and_then(super::address::<Ipv6Addr>);
                let address = self.offer::<Ipv6Addr>(network, &known, holder, wanted, leases);
                address.map_or(Inside::Status(NO_ADDRESS), Inside::Address)
            }
        }
    }

    /// Puts the reply into a Relay-reply for each Relay-forward around the request (RFC 8415, section 19.3).
    fn around(&mut self, request: Message<'_>) -> Option<()> {
        let mut relays = Vec::new();
        let mut at = request;
        while let Some(relay) = at.relay() {
            relays.push((relay, payload(at, 18)));
            at = at.relayed()?.0.ok()?;
        }
        for (relay, interface) in relays.into_iter().rev() {
            let Relay { hops, link, peer } = relay;
            let mut options: Vec<(u16, &[u8])> = interface.iter().map(|octets| (18, *octets)).collect();
            options.push((RELAY_MESSAGE, &self.octets));
            let header = Header::Relay(Relay { hops, link, peer });
            let draft = Draft { message_type: MessageType::RELAY_REPLY, header, options: &options };
            self.octets = self.composer.compose(&draft).ok()?.to_vec();
        }
        Some(())
    }
}

/// What an option of a message holds: by DHCPv6 it is never split.
fn payload<'m>(message: Message<'m>, code: u16) -> Option<&'m [u8]> {
    message.option(code)?.octets()
}

fn holder<'h>(known: &Identified<'h>, one: &Asked, duid: &'h [u8]) -> Holder<'h> {
    Holder { network: &known.network.name, association: one.association(), client: duid }
}

fn leased_by(inside: Inside) -> Option<Leased> {
    match inside {
        Inside::Address(address) => Some(leased(address)),
        Inside::Prefix(net) => Some(Leased::Prefix(net)),
        Inside::Nothing | Inside::Status(_) => None,
    }
}
