//! What clients are sent, and which layer sends it: the one place that answers, from [the compiled form](crate::compiled) of a
//! plan or release.

pub(crate) mod associations;
mod chosen;
mod client;
pub(crate) mod exchange;
mod fleets;
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
pub use chosen::{BootField, BootHeader, Chosen};
pub use client::Answer;
pub(crate) use client::Known;
pub use exchange::{Ends, Exchange, Played, Room};
pub use fleets::{Fit, Recognised, Unfit};
pub use host::{HostAddress, HostMode, HostState, Origin as AddressOrigin};
pub use largest::Largest;
pub(crate) use largest::surely_fits;
pub use lease::{AnyPool, Assigned, NoAddress};
pub use sent::Audience;
pub use timers::{Timer, Timers};
