//! Oplex is for whoever decides what the devices of a network are told by DHCP: it defines options, encodes and decodes
//! them, and checks a whole plan against the RFCs and against itself before anything is published.
//!
//! # A tour
//!
//! **An option is data.** Its [layout] is one line in a small language, and that line is all that encoding,
//! decoding, checking and explaining need. The [standard codebook](codebook::Codebook::standard) has every DHCPv4 and every
//! DHCPv6 option of the IANA registry; a vendor's or a site's own options are the same kind of file.
//!
//! ```
//! use oplex::codebook::Codebook;
//! use oplex::layout::Written;
//!
//! let codebook = Codebook::standard();
//! let routes = codebook.find("v4:classless-static-route")?;
//! assert_eq!(routes.label(), "v4:121 classless-static-route");
//! assert_eq!(&*routes.layout_text, "route4+");
//!
//! let written = Written::from_text("10.64.8.0/21 via 10.64.4.1, default via 10.64.4.1");
//! let payload = codebook.encode(routes, &written).map_err(|mut misfits| misfits.remove(0))?;
//! assert_eq!(payload.octets, [21, 10, 64, 8, 10, 64, 4, 1, 0, 10, 64, 4, 1]);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```
//!
//! **Octets are walked once**, by one piece of code that allocates nothing and tells its reader what it meets. A value,
//! the faults and the explanation of every octet are three readers of that walk.
//!
//! ```
//! # use oplex::codebook::Codebook;
//! let codebook = Codebook::standard();
//! let (value, faults) = codebook.decode(codebook.find("v4:router")?, &[10, 64, 4, 1, 10]);
//! assert_eq!(value.map(|value| value.to_string()).as_deref(), Some("10.64.4.1"));
//! assert_eq!(faults[0].octets, 4..5);
//! assert_eq!(faults[0].kind.to_string(), "an IPv4 address needs 4 octets, only 1 left");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```
//!
//! **A plan says who is told what.** [`plan::Plan::read`] keeps the place of everything in the file, [`check::plan`]
//! says what is wrong and what to write instead, [`answer::told`] says what a network's devices are told and which line
//! says so, and [`release::compile`] makes the octets of it.
//!
//! ```
//! use oplex::{answer, check, plan::Plan};
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
//! let loaded = Plan::read("plan.toml", text, &mut |path| Err(format!("no file {path}")));
//! let findings = check::plan(&loaded);
//! assert_eq!(findings[0].rule.name, "told-address-is-leasable");
//! assert_eq!(findings[0].message, "10.64.8.1 is told as router, and domes may lend it to a device");
//!
//! let plan = loaded.plan.expect("it is TOML");
//! assert_eq!(answer::told(&plan, &plan.networks[0]).len(), 3);
//! ```
//!
//! **Options share a message.** [`packet::v4::Message`] looks at one where it lies and joins what was split;
//! [`packet::v4::Composer`] writes one within what the client accepts, and says what had no room. [`check::message`] holds
//! it against the RFCs.
//!
//! ```
//! use oplex::check;
//! use oplex::codebook::Codebook;
//! use oplex::packet::v4::{Composer, Draft, Message, MessageType};
//!
//! let mut composer = Composer::default();
//! let discover = composer.compose(&Draft::new(MessageType::DISCOVER))?.octets.to_vec();
//! assert!(check::message(Codebook::standard(), Message::read(&discover)?).is_empty());
//! let silent = composer.compose(&Draft::new(MessageType::NAK))?.octets.to_vec();
//! let findings = check::message(Codebook::standard(), Message::read(&silent)?);
//! assert_eq!(findings[0].message, "v4:54 dhcp-server-id is missing in a DHCPNAK");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```
//!
//! Messages of DHCPv6 are in [`packet::v6`], and [`check::message_v6`] goes through all relays that passed one on.
//!
//! ```
//! use oplex::check;
//! use oplex::codebook::Codebook;
//! use oplex::packet::v6::Message;
//!
//! let solicit = [1, 0, 0, 7, 0, 8, 0, 2, 0, 0];
//! let findings = check::message_v6(Codebook::standard(), Message::read(&solicit)?);
//! assert_eq!(findings[0].message, "a Solicit has v6:1 clientid, and this has none");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```
//!
//! **In IPv6 the router decides who asks.** [`packet::ra`] reads and writes its announcements, a plan says what they say, and
//! [`plan::Plan::answer_v6`] what a host makes of that, with the octets in [`plan::Plan::exchange_v6`].
//!
//! ```
//! use oplex::answer::Asks;
//! use oplex::check;
//! use oplex::plan::{ClientFacts, Plan};
//!
//! let text = r#"
//! [network.mast]
//! prefix = "2001:db8:64:40::/64"
//! advertise = { name-servers = ["2001:db8:64::53"] }
//! [network.mast.send.v6]
//! ntp-server = { srv-addr = "2001:db8:64::123" }
//! "#;
//! let loaded = Plan::read("plan.toml", text, &mut |path| Err(format!("no file {path}")));
//! let findings = check::plan(&loaded);
//! assert_eq!(findings[0].rule.name, "dhcpv6-asked-by-nobody");
//!
//! let plan = loaded.plan.expect("it is TOML");
//! let sensor = ClientFacts { mac: Some([2, 0, 0x5e, 0, 0x53, 0x41]), ..ClientFacts::on(0) };
//! let answer = plan.answer_v6(&sensor).expect("the network has a prefix");
//! assert_eq!(answer.asks, Asks::Nothing);
//! let names: Vec<String> = plan.exchange_v6(&sensor, &answer)?.messages.into_iter().map(|sent| sent.name).collect();
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
//! # The rooms
//!
//! Each knows only those above it in this list: [`octets`], [`layout`], [`finding`], [`codebook`], [`packet`], [`plan`], [`answer`],
//! [`check`], [`release`], [`specimen`].

pub mod answer;
pub mod check;
pub mod codebook;
mod document;
pub mod finding;
pub mod layout;
pub mod nearest;
pub mod octets;
pub mod packet;
mod parallel;
pub mod plan;
pub mod release;
pub mod specimen;

/// The README's examples are tests.
#[cfg(doctest)]
#[doc = include_str!("../../../README.md")]
struct Readme;
