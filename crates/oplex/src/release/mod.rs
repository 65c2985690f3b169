//! What is published: [the compiled form](crate::compiled) of a checked plan, written down so that clients can be answered from
//! it alone, and read back.
//!
//! A release does not need the plan, its codebooks or the rules of this library: it has networks with pools and times, layers with each
//! option's code and octets, fleets with what they match as a tree of [conditions](Condition) over the octets of a request, and how
//! all of it is put together. `docs/releases.md` describes it so that a stranger could serve from it, and `schemas/` has it as JSON
//! Schema. Unknown members are ignored, so that later versions may add some.
//!
//! What devices get is in the [`Content`], and nothing else is: comments, names of files and the order of keys do not change it, and
//! whatever changes an octet on the wire does. [`compare`] says what changes between two of them, for whom.
//!
//! # Example
//!
//! ```
//! use oplex::compiled::Compiled;
//! use oplex::plan::Plan;
//! use oplex::release::{Document, compare, compile};
//!
//! let text = "[network.desk]\nsubnet = \"10.64.4.0/24\"\npool = \"10.64.4.20-10.64.4.90\"\nsend.v4 = { router = \"10.64.4.1\" }\n";
//! let loaded = Plan::read("plan.toml", text, &mut |path| Err(format!("no file {path}").into()));
//! let plan = loaded.plan.as_ref().expect("it is TOML");
//! let json = serde_json::to_string(&compile(plan, &loaded.sources)?)?;
//!
//! let document: Document = serde_json::from_str(&json)?;
//! assert_eq!(compare(&document.compiled()?, &Compiled::of(plan)), []);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod amended;
mod compare;
mod condition;
mod document;
mod parts;
mod read;
mod write;

pub use amended::{Becomes, OctetEdit, PairEdit, TooMany};
pub use compare::{Change, Changed, Concerned, Detail, Sides, compare, compare_with_progress};
pub use condition::{Condition, ReadAs, Reading, When};
pub use document::{
    AdvertisementEntry, AmendEntry, BookEntry, BootEntry, CarrierEntry, Composing, Content, Document, FleetEntry,
    FleetOnEntry, FqdnEntry, LayerEntry, NetworkEntry, OptionEntry, ReservationEntry, ServerEntry,
};
pub use parts::{OctetPart, OctetStep};
pub use read::ReadError;
pub use write::compile;
