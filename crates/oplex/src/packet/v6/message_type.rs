//! What a DHCPv6 message is for.

use core::fmt;

/// What a DHCPv6 message is for (RFC 8415, section 7.3, and the registry).
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct MessageType(pub u8);

/// The names, as RFC 8415 spells its own and the registry the others.
const NAMES: [(u8, &str); 37] = [
    (1, "Solicit"),
    (2, "Advertise"),
    (3, "Request"),
    (4, "Confirm"),
    (5, "Renew"),
    (6, "Rebind"),
    (7, "Reply"),
    (8, "Release"),
    (9, "Decline"),
    (10, "Reconfigure"),
    (11, "Information-request"),
    (12, "Relay-forward"),
    (13, "Relay-reply"),
    (14, "Leasequery"),
    (15, "Leasequery-reply"),
    (16, "Leasequery-done"),
    (17, "Leasequery-data"),
    (18, "Reconfigure-request"),
    (19, "Reconfigure-reply"),
    (20, "DHCPv4-query"),
    (21, "DHCPv4-response"),
    (22, "Activeleasequery"),
    (23, "StartTLS"),
    (24, "BNDUPD"),
    (25, "BNDREPLY"),
    (26, "POOLREQ"),
    (27, "POOLRESP"),
    (28, "UPDREQ"),
    (29, "UPDREQALL"),
    (30, "UPDDONE"),
    (31, "CONNECT"),
    (32, "CONNECTREPLY"),
    (33, "DISCONNECT"),
    (34, "STATE"),
    (35, "CONTACT"),
    (36, "Addr-reg-inform"),
    (37, "Addr-reg-reply"),
];

macro_rules! types {
    ($($name:ident = $number:literal, $what:literal;)*) => {
        impl MessageType {
            $(#[doc = $what] pub const $name: Self = Self($number);)*
        }
    };
}

types! {
    SOLICIT = 1, "A client looks for servers.";
    ADVERTISE = 2, "A server offers.";
    REQUEST = 3, "A client requests what a server offered.";
    CONFIRM = 4, "A client verifies that its addresses still fit the link.";
    RENEW = 5, "A client extends its leases at its server.";
    REBIND = 6, "A client extends its leases at any server.";
    REPLY = 7, "A server answers.";
    RELEASE = 8, "A client releases its addresses.";
    DECLINE = 9, "A client found that an address is in use.";
    RECONFIGURE = 10, "A server makes a client renew or rebind.";
    INFORMATION_REQUEST = 11, "A client requests settings without addresses.";
    RELAY_FORWARD = 12, "A relay agent forwards a message to servers.";
    RELAY_REPLY = 13, "A server has a relay agent forward a message to a client.";
    DHCPV4_QUERY = 20, "A client speaks DHCPv4 over DHCPv6.";
    DHCPV4_RESPONSE = 21, "A server speaks DHCPv4 over DHCPv6.";
}

impl MessageType {
    /// The type of this name, in small or capital letters.
    ///
    /// ```
    /// use oplex::packet::v6::MessageType;
    ///
    /// assert_eq!(MessageType::named("information-request"), Some(MessageType::INFORMATION_REQUEST));
    /// assert_eq!(MessageType::INFORMATION_REQUEST.to_string(), "Information-request");
    /// ```
    #[must_use]
    pub fn named(name: &str) -> Option<Self> {
        NAMES.iter().find(|(_, known)| known.eq_ignore_ascii_case(name)).map(|(number, _)| Self(*number))
    }

    /// Its name, if it has one.
    #[must_use]
    pub fn name(self) -> Option<&'static str> {
        NAMES.iter().find(|(number, _)| *number == self.0).map(|(_, name)| *name)
    }

    /// All names.
    pub fn names() -> impl Iterator<Item = &'static str> {
        NAMES.iter().map(|(_, name)| *name)
    }

    /// Whether a relay made it, so that it has a relay's header.
    #[must_use]
    pub const fn is_relays(self) -> bool {
        matches!(self, Self::RELAY_FORWARD | Self::RELAY_REPLY)
    }

    /// Octets in front of its options: 4 (RFC 8415, section 8), 34 of a relay's (section 9), 8 between failover partners
    /// (RFC 8156, section 5.2).
    ///
    /// ```
    /// use oplex::packet::v6::MessageType;
    ///
    /// // The type and a transaction, or the type, the hops and two addresses (RFC 8415, sections 8 and 9).
    /// assert_eq!(MessageType::SOLICIT.header_octets(), 4);
    /// assert_eq!(MessageType::RELAY_FORWARD.header_octets(), 34);
    /// assert!(MessageType::RELAY_REPLY.is_relays() && !MessageType::REPLY.is_relays());
    /// ```
    #[must_use]
    pub const fn header_octets(self) -> usize {
        match self.0 {
            12 | 13 => 34,
            24..=35 => 8,
            _ => 4,
        }
    }
}

/// As RFC 8415 spells it: `Information-request`.
impl fmt::Display for MessageType {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self.name() {
            Some(name) => f.write_str(name),
            None => write!(f, "a message of type {}", self.0),
        }
    }
}
