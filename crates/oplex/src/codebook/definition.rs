//! What a codebook says about one option.

use crate::once::Once;
use crate::prelude::*;
use alloc::borrow::Cow;
use core::fmt;

use super::facts::{Content, MessageBits, MessageFact, Service, Text};
use super::id::OptionId;
use crate::family::{Family, Protocol};
use crate::layout::{Layout, LayoutError, Vocabulary};

/// One option: its code, its name, and everything that is known about its payload.
#[derive(Debug, Clone)]
pub struct Definition {
    /// What stands before the code in its [id](Definition::id): `v4:`, `v4:82/`, `tern:`.
    pub(super) prefix: Prefix,
    /// Its code.
    pub code: u16,
    /// Its name, in kebab-case.
    pub name: Text,
    /// Its name as the registry or the vendor spells it.
    pub title: Text,
    /// Other words that may stand for its name.
    pub aliases: Vec<Text>,
    /// Words people look for it by.
    pub words: Vec<Text>,
    /// One line: what it is for.
    pub summary: Text,
    /// Its layout as text.
    pub layout_text: Text,
    pub(super) layout: Once<Result<Layout, LayoutError>>,
    /// Which rules look at it, as the room of the rules counts them: found on first use.
    #[cfg_attr(not(feature = "std"), expect(dead_code, reason = "rules need `std`"))]
    pub(crate) picked: Once<Picked>,
    /// Whether it may be sent split into several options when it is long (RFC 3396), or must fit in one.
    pub single: bool,
    /// Who sends it.
    pub sent_by: Sender,
    /// Whether servers, relays or clients fill it in by themselves, so that no plan may.
    pub automatic: bool,
    /// Whether those who read it must join it when it was split (RFC 3396, section 4), so that who requests it is known to.
    pub joined: bool,
    /// Whether a client may request it (RFC 8415, section 21.7).
    pub requestable: bool,
    /// The service that what it holds is to do for clients.
    pub service: Option<Service>,
    /// Whether its text must not end in NUL; elsewhere receivers cut it off (RFC 2132, section 2).
    pub no_nul: bool,
    /// Whether a DHCPv6 message, or what else it stands in, may have several of it.
    pub several: bool,
    /// The DHCPv6 options that it may stand in, by code, 0 for the message itself; empty where that is the only place.
    pub within: Cow<'static, [u16]>,
    /// The id of an option of another protocol that is the same thing in the same form.
    pub same_as: Option<Text>,
    /// What it must and may hold, when it holds other options.
    pub holds: Cow<'static, [Content]>,
    /// What is said of it in single types of messages.
    pub messages: Cow<'static, [MessageFact]>,
    /// The protocol of the whole message that the octets at its end are.
    pub carries: Option<Protocol>,
    /// Whether it is still to be used.
    pub status: Status,
    /// What took its place.
    pub replaced_by: Option<Text>,
    /// Where it is defined: the RFC and section, or a vendor's manual.
    pub reference: Text,
    /// The RFCs that define it.
    pub rfcs: Cow<'static, [u16]>,
    /// A value, as text.
    pub example: Option<Text>,
    /// Where it travels, for an option out of a vendor's or site's book: in all of these.
    pub carriers: Vec<Carrier>,
}

/// Which rules look at an option, as the room of the rules counts them.
#[derive(Debug, Clone, Default)]
#[cfg_attr(not(feature = "std"), expect(dead_code, reason = "rules need `std`"))]
pub(crate) struct Picked {
    /// At its value, wherever it stands.
    pub(crate) values: Box<[u16]>,
    /// At its value where it stands in no other option.
    pub(crate) at_top: Box<[u16]>,
    /// At single things in it.
    pub(crate) atoms: Box<[u16]>,
    /// Whether nothing but its form can be wrong with it where it stands in no other option.
    pub(crate) is_of_form_alone: bool,
    /// Whether it is deprecated, withdrawn or not assigned.
    pub(crate) is_not_in_use: bool,
    /// Whether it has no meaning at the top of a message of DHCPv6.
    pub(crate) is_only_inside: bool,
    /// The types of messages that its book says something against.
    pub(crate) messages: MessageBits,
}

/// What stands before the code in an id, and what that says: rules ask it of every option of every message.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) struct Prefix {
    text: Text,
    /// The protocol, where it is the one of a protocol's own options.
    own: Option<Protocol>,
    is_standard: bool,
}

impl From<Text> for Prefix {
    fn from(text: Text) -> Self {
        let own = text.strip_suffix(':').and_then(Protocol::named);
        let is_standard = text.split(':').next().and_then(Protocol::named).is_some();
        Self { text, own, is_standard }
    }
}

impl core::ops::Deref for Prefix {
    type Target = Text;

    fn deref(&self) -> &Text {
        &self.text
    }
}

impl fmt::Display for Prefix {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        self.text.fmt(f)
    }
}

/// Where an option of a vendor's or site's book travels.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[non_exhaustive]
pub enum Carrier {
    /// Among the own options of the family's DHCP.
    Own(Family),
    /// Among the relay agent's sub-options (82).
    Relay,
    /// In an option for vendors.
    Vendor {
        /// The family whose option carries it.
        family: Family,
        /// The code of that: 43, 124 or 125 of DHCPv4, 17 of DHCPv6.
        code: u16,
        /// The enterprise number in front; only option 43 has none.
        enterprise: Option<u32>,
    },
}

impl Carrier {
    /// DHCPv4's option 43, which has no enterprise number in front.
    pub const IN_43: Self = Self::Vendor { family: Family::V4, code: 43, enterprise: None };

    /// The family in whose messages it travels.
    #[must_use]
    pub fn family(self) -> Family {
        match self {
            Self::Own(family) | Self::Vendor { family, .. } => family,
            Self::Relay => Family::V4,
        }
    }
}

/// Who sends an option.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[non_exhaustive]
pub enum Sender {
    /// Servers, to clients.
    Server,
    /// Clients, to servers.
    Client,
    /// Clients and servers.
    Both,
    /// Relay agents.
    Relay,
    /// Routers, to the hosts on their links.
    Router,
    /// No one: the code has no meaning.
    None,
}

impl fmt::Display for Sender {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            Self::Server => "servers",
            Self::Client => "clients",
            Self::Both => "clients and servers",
            Self::Relay => "relay agents",
            Self::Router => "routers",
            Self::None => "none",
        })
    }
}

/// Whether an option is still to be used.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
#[non_exhaustive]
pub enum Status {
    /// In use.
    Current,
    /// Better not used any more.
    Deprecated,
    /// Taken over by another option.
    Obsolete,
    /// Taken out of the registry.
    Removed,
    /// Never assigned.
    Unassigned,
    /// Reserved for a use that was never documented.
    Tentative,
    /// Assigned, but its payload was never published.
    Undocumented,
    /// Not in any codebook: it may be assigned all the same.
    Undefined,
}

/// The words of a status, as codebook files and messages write them.
pub(super) const STATUSES: [(&str, Status); 7] = [
    ("current", Status::Current),
    ("deprecated", Status::Deprecated),
    ("obsolete", Status::Obsolete),
    ("removed", Status::Removed),
    ("unassigned", Status::Unassigned),
    ("tentative", Status::Tentative),
    ("undocumented", Status::Undocumented),
];

/// The words of a sender in codebook files.
pub(super) const SENDERS: [(&str, Sender); 6] = [
    ("server", Sender::Server),
    ("client", Sender::Client),
    ("both", Sender::Both),
    ("relay", Sender::Relay),
    ("router", Sender::Router),
    ("none", Sender::None),
];

impl fmt::Display for Status {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let word = STATUSES.iter().find(|(_, status)| status == self).map(|(word, _)| *word);
        f.write_str(word.unwrap_or("not in any codebook"))
    }
}

impl Definition {
    /// An option of a book, by its code, name and layout; servers send it, and nothing carries it yet.
    ///
    /// ```
    /// use oplex::codebook::{Carrier, Codebook, Definition};
    /// use oplex::layout::{Input, Layout};
    ///
    /// // A vendor's option in Rust, which travels in option 43.
    /// let layout: Layout = "u8 of { quiet = 0, loud = 1 }".parse()?;
    /// let mut codebook = Codebook::standard().clone();
    /// codebook.define(Definition::new("tern", 1, "ring", layout).carried(Carrier::IN_43));
    /// let ring = codebook.find("tern:ring")?;
    /// assert_eq!((ring.book(), ring.label(), ring.is_standard()), ("tern", "tern:1 ring".to_owned(), false));
    /// assert_eq!(codebook.encode(ring, &Input::from_text("loud"))?.octets, [1]);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn new(book: &str, code: u16, name: &str, layout: Layout) -> Self {
        let name = Text::from(name.to_owned());
        Self {
            prefix: Text::from(format!("{book}:")).into(),
            code,
            title: name.clone(),
            name,
            aliases: Vec::new(),
            words: Vec::new(),
            summary: Text::default(),
            layout_text: layout.to_string().into(),
            layout: Once::from(Ok(layout)),
            picked: Once::new(),
            carries: None,
            single: false,
            sent_by: Sender::Server,
            automatic: false,
            joined: false,
            requestable: true,
            service: None,
            no_nul: false,
            several: false,
            within: Cow::Borrowed(&[]),
            same_as: None,
            holds: Cow::Borrowed(&[]),
            messages: Cow::Borrowed(&[]),
            status: Status::Current,
            replaced_by: None,
            reference: Text::default(),
            rfcs: Cow::Borrowed(&[]),
            example: None,
            carriers: Vec::new(),
        }
    }

    /// The same option with a layout that says more of its octets.
    pub(super) fn laid_out(&self, layout: Layout) -> Self {
        let layout_text = layout.to_string().into();
        Self { layout_text, layout: Once::from(Ok(layout)), picked: Once::new(), example: None, ..self.clone() }
    }

    /// The same, which also travels in this.
    #[must_use]
    pub fn carried(mut self, carrier: Carrier) -> Self {
        self.carriers.push(carrier);
        self
    }

    /// How it is written everywhere: `v4:121`, `v4:82/1`, `tern:4`.
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    ///
    /// let circuit = Codebook::standard().find("v4:82/agent-circuit-id")?;
    /// assert_eq!(circuit.id().to_string(), "v4:82/1");
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn id(&self) -> OptionId {
        OptionId::new(self.prefix.text.clone(), self.code)
    }

    /// Whether it is the same option as another, though another edition of its book may say otherwise what it is like.
    #[must_use]
    pub fn is_same(&self, other: &Self) -> bool {
        self.code == other.code && self.prefix == other.prefix
    }

    /// The book it is out of, as ids have it: `v4`, `tern`.
    #[must_use]
    pub fn book(&self) -> &str {
        self.prefix.split(':').next().unwrap_or_default()
    }

    /// Whether it is out of one of the codebooks that come with Oplex.
    #[must_use]
    pub fn is_standard(&self) -> bool {
        self.prefix.is_standard
    }

    /// What stands before the code in its [id](Definition::id): `v4:`, `v4:82/`, `tern:`.
    #[must_use]
    pub fn prefix(&self) -> &str {
        &self.prefix
    }

    /// Whether it is one of the protocol's own options, at the top of a message or in another.
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    /// use oplex::family::Protocol;
    ///
    /// let codebook = Codebook::standard();
    /// let (router, circuit) = (codebook.find("v4:router")?, codebook.find("v4:82/1")?);
    /// assert!(router.is_own_of(Protocol::V4) && !router.is_own_of(Protocol::V6));
    /// // A sub-option stands in an option, and in no message.
    /// assert!(!circuit.is_own_of(Protocol::V4) && circuit.has_id("v4:82/1"));
    /// # Ok::<(), oplex::codebook::Unknown>(())
    /// ```
    #[must_use]
    #[inline]
    pub fn is_own_of(&self, protocol: Protocol) -> bool {
        self.prefix.own == Some(protocol)
            || (protocol != Protocol::Ra && self.carriers.contains(&Carrier::Own(protocol.family())))
    }

    /// Whether it is DHCPv4's option for vendors (43), which does not say whose octets it has.
    #[must_use]
    #[inline]
    pub fn is_of_vendors(&self) -> bool {
        self.code == 43 && self.is_own_of(Protocol::V4)
    }

    /// Whether it can travel in messages of the protocol: by itself, or in an option that carries it.
    #[must_use]
    pub fn travels_in(&self, protocol: Protocol) -> bool {
        let carried = || self.carriers.iter().any(|carrier| carrier.family() == protocol.family());
        match protocol {
            // Sub-options of DHCPv4's own options travel in these; DHCPv6's stand in their books as own options.
            Protocol::V4 => self.book() == protocol.name() || carried(),
            Protocol::V6 => self.is_own_of(protocol) || carried(),
            Protocol::Ra => self.is_own_of(protocol),
        }
    }

    /// Whether this is its [id](Definition::id).
    #[must_use]
    pub fn has_id(&self, id: &str) -> bool {
        id.strip_prefix(&**self.prefix).is_some_and(|code| code.parse() == Ok(self.code))
    }

    /// Whether this is its id, or that of the option of another protocol that is the same thing.
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    ///
    /// // The captive portal is one thing in three protocols.
    /// let portal = Codebook::standard().find("v6:103")?;
    /// assert!(portal.is("v4:114") && portal.is("v6:103") && !portal.is("v4:6"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn is(&self, id: &str) -> bool {
        self.has_id(id) || self.same_as.as_deref() == Some(id)
    }

    /// What is said of it in messages of this type.
    ///
    /// ```
    /// use oplex::codebook::{Codebook, MessageFactKind};
    /// use oplex::packet::v4::MessageType;
    ///
    /// // A DHCPNAK has no lease time, as it gives no address.
    /// let lease = Codebook::standard().find("v4:51")?;
    /// assert!(lease.in_message(MessageType::ACK.0).any(|fact| fact.kind == MessageFactKind::Required));
    /// assert!(!lease.in_message(MessageType::NAK.0).any(|fact| fact.kind == MessageFactKind::Required));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn in_message(&self, number: u8) -> impl Iterator<Item = &MessageFact> {
        self.messages.iter().filter(move |fact| fact.types.contains(&number))
    }

    /// Whether a server leaves it out of this type of message, though it sends it in the one that completes the exchange.
    pub(crate) fn waits_for(&self, last: u8, number: u8) -> bool {
        let barred = |number| {
            self.in_message(number).any(|fact| fact.kind == super::MessageFactKind::Barred && fact.when.is_none())
        };
        barred(number) && !barred(last)
    }

    /// The id and the name: `v4:121 classless-static-route`.
    #[must_use]
    pub fn label(&self) -> String {
        format!("{} {}", self.id(), self.name)
    }

    /// What may stand in a plan: the name with its prefix, `v4:router`.
    #[must_use]
    pub fn spelled(&self) -> String {
        format!("{}{}", self.prefix, self.name)
    }

    /// Whether `word` is its name or one of its aliases.
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    ///
    /// let option = Codebook::standard().find("v4:3")?;
    /// assert!(option.is_called("router") && option.is_called("gateway"));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn is_called(&self, word: &str) -> bool {
        *self.name == *word || self.aliases.iter().any(|alias| alias == word)
    }

    /// The layout; parsed when first requested.
    #[inline]
    pub(super) fn layout_or_error(&self, vocabulary: &dyn Vocabulary) -> &Result<Layout, LayoutError> {
        if let Some(layout) = self.layout.get() {
            return layout;
        }
        self.layout.get_or_init(|| Layout::parse_with(&self.layout_text, vocabulary))
    }
}
