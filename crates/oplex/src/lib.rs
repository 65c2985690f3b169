//! Oplex defines, encodes and decodes DHCP options, and checks a whole plan of what the devices of a network are sent against the
//! RFCs and against itself before anything is published.
//!
//! # A tour
//!
//! **An option is data.** Its [layout] is one line in a small language, and that line is all that encoding,
//! decoding, checking and explaining need. The [standard codebook](codebook::Codebook::standard) has every DHCPv4 and every
//! DHCPv6 option of the IANA registry; a vendor's or a site's own options are the same kind of file.
//!
//! ```
//! use oplex::codebook::Codebook;
//! use oplex::layout::Input;
//!
//! let codebook = Codebook::standard();
//! let routes = codebook.find("v4:classless-static-route")?;
//! assert_eq!(routes.label(), "v4:121 classless-static-route");
//! assert_eq!(&*routes.layout_text, "route4+");
//!
//! let written = Input::from_text("10.64.8.0/21 via 10.64.4.1, default via 10.64.4.1");
//! let payload = codebook.encode(routes, &written)?;
//! assert_eq!(payload.octets, [21, 10, 64, 8, 10, 64, 4, 1, 0, 10, 64, 4, 1]);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```
//!
//! **Octets are walked once**, by one piece of code that allocates nothing and reports what it meets. A value,
//! the faults and the explanation of every octet are three readers of that walk.
//!
//! ```
//! # use oplex::codebook::Codebook;
//! let codebook = Codebook::standard();
//! let read = codebook.read(codebook.find("v4:router")?, &[10, 64, 4, 1, 10]);
//! assert_eq!(read.value.map(|value| value.to_string()).as_deref(), Some("10.64.4.1"));
//! assert_eq!(read.faults[0].octets, 4..5);
//! assert_eq!(read.faults[0].kind.to_string(), "4 octets expected for an IPv4 address, 1 left");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```
//!
//! **A plan says who is sent what.** [`plan::Plan::read`] keeps the place of everything in the file, [`check::plan`]
//! says what is wrong and what to write instead, [`compiled::Compiled`] is what both families make of it, every option with the
//! line that says so, and [`release::compile`] writes that down.
//!
//! ```
//! use oplex::family::Family;
//! use oplex::{check, compiled::Compiled, plan::{ClientFacts, Plan}};
//!
//! let text = r#"
//! [send.v4]
//! domain-server = "10.64.0.53"
//! domain-name = "tarnfell.example"
//!
//! [network.domes]
//! subnet = "10.64.8.0/21"
//! pool = "10.64.8.1-10.64.8.127"
//! [network.domes.send.v4]
//! router = "10.64.8.1"
//! "#;
//! let loaded = Plan::read("plan.toml", text, &mut |path| Err(format!("no file {path}").into()));
//! let findings = check::plan(&loaded);
//! assert_eq!(findings[0].rule.name, "sent-address-leasable");
//! assert_eq!(findings[0].message, "router 10.64.8.1 is inside a pool of domes, so it may be leased to a client");
//!
//! let plan = loaded.plan.expect("it is TOML");
//! let compiled = Compiled::of(&plan);
//! let answer = compiled.answer(Family::V4, &ClientFacts::on(0)).expect("the network has a subnet");
//! assert_eq!(answer.sent.len(), 3);
//! ```
//!
//! **Options share a message.** [`packet::v4::Message`], [`packet::v6::Message`] and [`packet::ra::Message`] look at one
//! where it lies, and all three are a [`packet::Message`]: the same words reach their options. A composer writes one, in
//! IPv4 within what the client accepts, and says what had no room. [`check::message`] holds it against the RFCs, through
//! all relays that passed it on.
//!
//! ```
//! use oplex::check;
//! use oplex::codebook::Codebook;
//! use oplex::packet::{v4, v6, Composer, Message as _};
//!
//! let codebook = Codebook::standard();
//! let mut composer = Composer::default();
//! let silent = composer.compose(&v4::Draft::new(v4::MessageType::NAK))?.octets.to_vec();
//! let findings = check::message(codebook, v4::Message::read(&silent)?);
//! assert_eq!(findings[0].message, "v4:54 dhcp-server-id is missing from a DHCPNAK");
//!
//! let solicit = [1, 0, 0, 7, 0, 8, 0, 2, 0, 0];
//! let findings = check::message(codebook, v6::Message::read(&solicit)?);
//! assert_eq!(findings[0].message, "v6:1 clientid is missing from a Solicit");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```
//!
//! **In IPv6 the router decides whether hosts use DHCPv6.** [`packet::ra`] reads and writes its advertisements, a plan says what they say, and
//! [`compiled::Compiled::answer`] what a host makes of that, with the octets in [`compiled::Compiled::exchange`].
//!
//! ```
//! use oplex::answer::HostMode;
//! use oplex::family::Family;
//! use oplex::{check, compiled::Compiled, plan::{ClientFacts, Plan}};
//!
//! let text = r#"
//! [network.mast]
//! prefix = "2001:db8:64:40::/64"
//! advertise = { name-servers = ["2001:db8:64::53"] }
//! [network.mast.send.v6]
//! ntp-server = { srv-addr = "2001:db8:64::123" }
//! "#;
//! let loaded = Plan::read("plan.toml", text, &mut |path| Err(format!("no file {path}").into()));
//! let findings = check::plan(&loaded);
//! assert_eq!(findings[0].rule.name, "dhcpv6-not-used");
//!
//! let plan = loaded.plan.expect("it is TOML");
//! let compiled = Compiled::of(&plan);
//! let sensor = ClientFacts { mac: Some([2, 0, 0x5e, 0, 0x53, 0x41].into()), ..ClientFacts::on(0) };
//! let answer = compiled.answer(Family::V6, &sensor).expect("the network has a prefix");
//! assert!(answer.host.as_ref().is_some_and(|host| host.mode == HostMode::Autonomous));
//! let names: Vec<_> = compiled.exchange(&sensor, &answer)?.messages.into_iter().map(|sent| sent.name).collect();
//! assert_eq!(names, ["Router Solicitation", "Router Advertisement"]);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```
//!
//! # Input safety
//!
//! Nothing here reads files or sockets, and there is no `unsafe`. Octets, layouts, codebooks and plans from strangers
//! cost time in proportion to their length: nesting is limited, compression pointers only ever lead backwards, and no
//! input makes it panic. Large tables of reservations and plans of many networks are looked at by several threads.
//!
//! # Features
//!
//! All are on by default.
//!
//! | feature | what it adds |
//! |---|---|
//! | `std` | plans read from Rust, answers, rules, and suggestions for unknown words; without it the crate is `no_std` with `alloc` |
//! | `files` | plans, codebooks and specimens as TOML and CSV |
//! | `serde` | values and findings to JSON, Rust types to values and back; with `files`, releases |
//!
//! Without any of them octets, layouts, the standard codebook and the messages of all three protocols remain, with two
//! small dependencies: `iri-string` and `once_cell`.
//!
//! # The rooms
//!
//! Each knows only those above it in this list: [`octets`], [`family`], [`layout`], [`finding`], [`codebook`], [`packet`],
//! [`plan`], [`compiled`], [`answer`], [`server`], [`check`], [`release`], [`specimen`], [`audit`], [`lab`].

#![cfg_attr(docsrs, feature(doc_cfg))]
#![cfg_attr(not(feature = "std"), no_std)]
#![cfg_attr(
    not(all(feature = "files", feature = "serde")),
    allow(dead_code, unused_imports, unused_macros, reason = "what only files and releases use")
)]

extern crate alloc;

mod few;
mod once;
mod parse_error;
mod prelude;
#[cfg(feature = "files")]
mod words;

pub use parse_error::ParseError;

#[cfg(feature = "std")]
pub mod answer;
#[cfg(feature = "std")]
pub mod audit;
#[cfg(feature = "std")]
pub mod check;
pub mod codebook;
#[cfg(feature = "std")]
pub mod compiled;
#[cfg(feature = "files")]
mod document;
pub mod family;
pub mod finding;
#[cfg(feature = "std")]
mod heading;
#[cfg(feature = "files")]
pub mod lab;
pub mod layout;
pub mod nearest;
pub mod octets;
pub mod packet;
#[cfg(feature = "std")]
mod parallel;
#[cfg(feature = "std")]
pub mod plan;
#[cfg(all(feature = "files", feature = "serde"))]
pub mod release;
#[cfg(feature = "std")]
pub mod server;
#[cfg(feature = "files")]
pub mod specimen;

/// The README's examples are tests.
#[cfg(doctest)]
#[doc = include_str!(concat!(env!("CARGO_MANIFEST_DIR"), "/../../README.md"))]
struct Readme;
