//! The types of messages.

use core::fmt;

/// What a message is (option 53).
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct MessageType(pub u8);

/// The types of the IANA registry, by number from 1.
const NAMES: [&str; 18] = [
    "discover",
    "offer",
    "request",
    "decline",
    "ack",
    "nak",
    "release",
    "inform",
    "forcerenew",
    "leasequery",
    "leaseunassigned",
    "leaseunknown",
    "leaseactive",
    "bulkleasequery",
    "leasequerydone",
    "activeleasequery",
    "leasequerystatus",
    "tls",
];

/// The same as the RFCs write them.
const TITLES: [&str; 18] = [
    "DHCPDISCOVER",
    "DHCPOFFER",
    "DHCPREQUEST",
    "DHCPDECLINE",
    "DHCPACK",
    "DHCPNAK",
    "DHCPRELEASE",
    "DHCPINFORM",
    "DHCPFORCERENEW",
    "DHCPLEASEQUERY",
    "DHCPLEASEUNASSIGNED",
    "DHCPLEASEUNKNOWN",
    "DHCPLEASEACTIVE",
    "DHCPBULKLEASEQUERY",
    "DHCPLEASEQUERYDONE",
    "DHCPACTIVELEASEQUERY",
    "DHCPLEASEQUERYSTATUS",
    "DHCPTLS",
];

impl MessageType {
    /// A client looks for servers.
    pub const DISCOVER: Self = Self(1);
    /// A server answers that.
    pub const OFFER: Self = Self(2);
    /// A client takes an offer, or keeps an address.
    pub const REQUEST: Self = Self(3);
    /// A client found the address in use.
    pub const DECLINE: Self = Self(4);
    /// A server grants it.
    pub const ACK: Self = Self(5);
    /// A server refuses.
    pub const NAK: Self = Self(6);
    /// A client gives its address back.
    pub const RELEASE: Self = Self(7);
    /// A client that has an address requests the rest.
    pub const INFORM: Self = Self(8);
    /// A server wants a client to renew (RFC 3203).
    pub const FORCERENEW: Self = Self(9);
    /// A relay agent queries a lease (RFC 4388).
    pub const LEASEQUERY: Self = Self(10);
    /// The queried address is not leased (RFC 4388).
    pub const LEASEUNASSIGNED: Self = Self(11);
    /// The server does not know (RFC 4388).
    pub const LEASEUNKNOWN: Self = Self(12);
    /// It is leased (RFC 4388).
    pub const LEASEACTIVE: Self = Self(13);

    /// Its name: `discover`.
    #[must_use]
    pub fn name(self) -> Option<&'static str> {
        NAMES.get(usize::from(self.0).checked_sub(1)?).copied()
    }

    /// Its name as the RFCs write it: `DHCPDISCOVER`.
    ///
    /// ```
    /// use oplex::packet::v4::MessageType;
    ///
    /// assert_eq!((MessageType::ACK.name(), MessageType::ACK.title()), (Some("ack"), Some("DHCPACK")));
    /// assert_eq!((MessageType(200).title(), MessageType(200).to_string()), (None, "DHCP message of type 200".to_owned()));
    /// ```
    #[must_use]
    pub fn title(self) -> Option<&'static str> {
        TITLES.get(usize::from(self.0).checked_sub(1)?).copied()
    }

    /// The type of this name.
    #[must_use]
    pub fn named(name: &str) -> Option<Self> {
        let at = NAMES.iter().position(|known| known.eq_ignore_ascii_case(name))?;
        Some(Self(at as u8 + 1))
    }

    /// All names.
    #[must_use]
    pub fn names() -> &'static [&'static str] {
        &NAMES
    }

    /// Whether servers send it; `None` for an unknown type.
    ///
    /// ```
    /// use oplex::packet::v4::MessageType;
    ///
    /// let [offer, inform, unknown] = [MessageType::OFFER, MessageType::INFORM, MessageType(200)].map(MessageType::is_reply);
    /// assert_eq!((offer, inform, unknown), (Some(true), Some(false), None));
    /// ```
    #[must_use]
    pub fn is_reply(self) -> Option<bool> {
        match self.0 {
            2 | 5 | 6 | 9 | 11..=13 | 15 | 17 => Some(true),
            1 | 3 | 4 | 7 | 8 | 10 | 14 | 16 | 18 => Some(false),
            _ => None,
        }
    }
}

/// As the RFCs write it: `DHCPDISCOVER`.
impl fmt::Display for MessageType {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.title() {
            Some(title) => f.write_str(title),
            None => write!(f, "DHCP message of type {}", self.0),
        }
    }
}
