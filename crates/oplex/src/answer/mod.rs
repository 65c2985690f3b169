//! What clients are sent, and which layer sends it: the one place that answers, from [the compiled form](crate::compiled) of a
//! plan or release.
//!
//! Everything that says what a client gets asks here: rehearsal, the rules over answers, the [server](crate::server), the audit of
//! captured traffic, what a page shows. So they cannot differ.
//!
//! # How an answer comes about
//!
//! 1. **Who is it?** A client is known by its hardware address or DUID, and by what its message says of it. A reservation is
//!    found by the identifier; fleets are recognised by what the message holds, in the order in which the plan has them
//!    ([`Fit`] says what fits; [`Unfit`] why another one does not).
//! 2. **What is it sent?** Layers, from wide to narrow: everyone, the network, each fleet, each fleet on this network, the
//!    reservation. Of one option the narrowest layer that has it decides ([`Chosen`], with that layer and the line of the plan); what a
//!    layer withholds is not sent, and what it amends is changed in the octets.
//! 3. **Which address?** That of the reservation, or one of a pool: that of the fleet where there is one, else the network's
//!    ([`Assigned`]; [`NoAddress`] says why there is none).
//! 4. **How long?** Lease and times ([`Timers`]), each from the narrowest layer that has it, else the defaults of RFC 2131 (section
//!    4.4.5) and RFC 8415 (section 21.4).
//! 5. **What fits?** A message has the room that the client allows, and options it did not request give way to those it did.
//!
//! In IPv6 the router's advertisement comes first: its flags decide whether a host asks DHCPv6 at all ([`HostMode`]), and addresses
//! may come from the prefix without any server ([`AddressOrigin`], [`HostState`]).
//!
//! # Shapes
//!
//! An [`Answer`] is for one client of one family. An [`Audience`] is for all clients who are sent the same: those of a network in no
//! fleet, those of each fleet there, those of a reservation with options of its own. An [`Exchange`] has the octets of all
//! messages, from the first request to the last reply, with their [ends](Ends) on the wire and the [room](Room) that was left.

pub(crate) mod associations;
mod chosen;
mod client;
pub(crate) mod exchange;
mod fleets;
pub(crate) mod fqdn;
pub(crate) mod host;
mod largest;
pub(crate) mod lease;
mod messages;
mod play;
mod received;
mod sent;
mod timers;
pub(crate) mod v4;
pub(crate) mod v6;

pub(crate) use chosen::boot;
pub use chosen::{BootField, BootHeader, Chosen, Overrides};
pub use client::Answer;
pub(crate) use client::Identified;
pub use exchange::{Ends, Exchange, Played, Room};
pub use fleets::{Fit, Unfit};
pub use fqdn::AnsweredName;
pub use host::{AddressOrigin, HostAddress, HostMode, HostState};
pub use largest::Largest;
pub(crate) use largest::surely_fits;
pub use lease::{AnyPool, Assigned, NoAddress};
pub use sent::Audience;
pub use timers::{Timer, Timers};
