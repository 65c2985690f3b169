//! A server without sockets: requests in, replies out. It answers from [the compiled form](crate::compiled) of a plan or release, and
//! remembers leases where its owner has it do so.
//!
//! [`Server::answer`] takes the octets of a request, of either family and relayed or not, and where it came in ([`Ingress`]); it
//! gives the octets of the reply, and where they go ([`Reply`]), or nothing where none is due. It has no clock, no sockets and no
//! threads: what is leased until when is known to the leases, and what engine it is part of is its caller's affair.
//!
//! # What it answers
//!
//! | request | reply | section |
//! |---|---|---|
//! | DHCPDISCOVER | DHCPOFFER; DHCPACK by rapid commit | RFC 2131, 4.3.1; RFC 4039, 4 |
//! | DHCPREQUEST: selecting, rebooting, renewing, rebinding | DHCPACK or DHCPNAK | RFC 2131, 4.3.2 |
//! | DHCPINFORM | DHCPACK without an address | RFC 2131, 4.3.5 |
//! | DHCPDECLINE, DHCPRELEASE | none | RFC 2131, 4.3.3 and 4.3.4 |
//! | Solicit | Advertise; Reply by rapid commit | RFC 8415, 18.3.1 |
//! | Request, Renew, Rebind | Reply | RFC 8415, 18.3.2, 18.3.4, 18.3.5 |
//! | Confirm, Release, Decline, Information-request | Reply | RFC 8415, 18.3.3, 18.3.6 to 18.3.8 |
//! | Relay-forward | Relay-reply around the reply | RFC 8415, 19.3 |
//!
//! # Which network
//!
//! By DHCPv4 the relay agent's link selection (82/5, RFC 3527) comes before the subnet selection option (118, RFC 3011), that before
//! `giaddr`, and that before the interface on which the request came in. By DHCPv6 it is the link-address of the innermost relay
//! agent that gives one (RFC 8415, section 13.1), or the link on which the request came in.
//!
//! # Leases
//!
//! Whoever embeds it brings a [`Leases`]: four small questions (find, offer, bind, free). [`InMemory`] is one that ships, for labs
//! and for a start.
//!
//! # Example
//!
//! ```
//! use oplex::compiled::Compiled;
//! use oplex::packet::{Composer, Message as _, v4};
//! use oplex::plan::Plan;
//! use oplex::server::{InMemory, Ingress, Server};
//!
//! let text = "server = \"10.64.0.67\"\n[network.desk]\nsubnet = \"10.64.4.0/24\"\npool = \"10.64.4.20-10.64.4.90\"\n\
//!             send.v4 = { router = \"10.64.4.1\" }\n";
//! let plan = Plan::read("plan.toml", text, &mut |path| Err(format!("no file {path}").into())).plan.expect("it is TOML");
//! let compiled = Compiled::of(&plan);
//! let (mut server, mut leases) = (Server::new(&compiled), InMemory::default());
//!
//! let mut composer = Composer::default();
//! let header = v4::Header::from_client(7, [2, 0, 0x5e, 0, 0x53, 0x11]);
//! let discover = v4::Draft { header, ..v4::Draft::new(v4::MessageType::DISCOVER) };
//! let discover = composer.compose(&discover)?.octets;
//! let reply = server.answer(discover, &Ingress::on("desk"), &mut leases).expect("an address is free");
//! let offer = v4::Message::read(reply.octets)?;
//! assert_eq!((offer.message_type(), offer.header().yiaddr), (Some(v4::MessageType::OFFER), [10, 64, 4, 20].into()));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

pub(crate) mod associations;
mod choose;
mod leases;
mod memory;
mod prepared;
mod v4;
mod v6;

use std::net::{IpAddr, SocketAddr};

use crate::compiled::Compiled;
use crate::octets::Mac;
use crate::packet::v4::{COOKIE, HEADER};
use crate::packet::{AnyMessage, Composer};

pub use leases::{Association, Choices, Holder, Leased, Leases, Range};
pub use memory::InMemory;
use prepared::Prepared;

/// A server that answers from a plan or a release.
///
/// It keeps what it has put together for one kind of client for the next of that kind, and the buffers that replies are written to.
#[derive(Debug)]
pub struct Server<'c> {
    compiled: &'c Compiled<'c>,
    networks: foldhash::HashMap<&'c str, usize>,
    prepared: Prepared<'c>,
    composer: Composer,
    /// Where a reply lies that no composer wrote whole.
    octets: Vec<u8>,
}

/// Where a message came in.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Ingress<'i> {
    /// The network of the link it came in on; `None` for a server that only relay agents reach.
    pub network: Option<&'i str>,
    /// The address that it came from.
    pub source: Option<SocketAddr>,
}

impl<'i> Ingress<'i> {
    /// On the link of this network.
    #[must_use]
    pub fn on(network: &'i str) -> Self {
        Self { network: Some(network), source: None }
    }
}

/// A reply.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Reply<'s> {
    /// Its octets.
    pub octets: &'s [u8],
    /// Where it goes.
    pub to: Destination,
}

/// Where a reply goes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Destination {
    /// To this address.
    Address(SocketAddr),
    /// To a client that does not have its address yet: to this address at this hardware address (RFC 2131, section 4.1).
    Link(SocketAddr, Mac),
    /// To everybody on the link.
    Broadcast,
    /// Back to where the request came from.
    Source,
}

impl<'c> Server<'c> {
    /// A server that answers from this.
    #[must_use]
    pub fn new(compiled: &'c Compiled<'c>) -> Self {
        let networks = compiled.networks.iter().enumerate().map(|(at, network)| (&*network.name, at));
        Self {
            compiled,
            networks: networks.collect(),
            prepared: Prepared::default(),
            composer: Composer::default(),
            octets: Vec::new(),
        }
    }

    /// The reply to a request of either family, relayed or not; `None` where none is due: the message is for another server, is
    /// none of a client, cannot be read, or comes from a network that is not known.
    ///
    /// The network is the one that the message says (RFC 2131, section 4.3.1; RFC 3527, section 3; RFC 3011; RFC 8415, section
    /// 13.1), or else the one it came in on.
    pub fn answer(&mut self, request: &[u8], ingress: &Ingress<'_>, leases: &mut impl Leases) -> Option<Reply<'_>> {
        // Only DHCPv4 has the cookie there; by DHCPv6 only a message that is meant to be misread has.
        match request.get(HEADER..HEADER + COOKIE.len()) == Some(&COOKIE) && request[0] == 1 {
            true => self.answer_v4(request, ingress, leases),
            false => self.answer_v6(request, ingress, leases),
        }
    }

    fn network(&self, message: AnyMessage<'_>, ingress: &Ingress<'_>) -> Option<usize> {
        let link = || ingress.network.and_then(|name| self.networks.get(name).copied());
        self.compiled.network_of(message).or_else(link)
    }
}

/// Whether an address is one of a family's.
fn address<A: crate::family::Address>(leased: Leased) -> Option<A> {
    match leased {
        Leased::Address(address) => A::of(address),
        Leased::Prefix(_) => None,
    }
}

fn leased(address: impl Into<IpAddr>) -> Leased {
    Leased::Address(address.into())
}
