//! The header in front of the options.

use crate::octets::Mac;
use core::net::Ipv4Addr;

use super::HEADER;

/// The header in front of the options, without `sname` and `file` (RFC 2131, section 2).
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Header {
    /// 1 from clients, 2 from servers.
    pub op: u8,
    /// The kind of hardware address; 1 is Ethernet.
    pub htype: u8,
    /// How many octets of `chaddr` count.
    pub hlen: u8,
    /// How many relays passed the message on.
    pub hops: u8,
    /// The transaction ID.
    pub xid: u32,
    /// Seconds since the client began.
    pub secs: u16,
    /// The highest bit requests answers by broadcast; the others are zero.
    pub flags: u16,
    /// The address the client has.
    pub ciaddr: Ipv4Addr,
    /// The address it gets.
    pub yiaddr: Ipv4Addr,
    /// The server to boot from next.
    pub siaddr: Ipv4Addr,
    /// The first relay.
    pub giaddr: Ipv4Addr,
    /// The hardware address, filled up with zeros.
    pub chaddr: [u8; 16],
}

impl Header {
    /// The flag by which a client requests answers by broadcast.
    pub const BROADCAST: u16 = 0x8000;

    fn new(op: u8, xid: u32, mac: Mac) -> Self {
        let mut chaddr = [0; 16];
        chaddr[..6].copy_from_slice(&mac);
        let [ciaddr, yiaddr, siaddr, giaddr] = [Ipv4Addr::UNSPECIFIED; 4];
        Self { op, htype: 1, hlen: 6, hops: 0, xid, secs: 0, flags: 0, ciaddr, yiaddr, siaddr, giaddr, chaddr }
    }

    /// The header of what a client on Ethernet sends.
    ///
    /// ```
    /// use oplex::packet::v4::Header;
    ///
    /// let asks = Header::from_client(7, [2, 0, 0x5e, 0, 0x53, 0x11]);
    /// assert_eq!((asks.op, asks.xid, asks.hardware()), (1, 7, &[2, 0, 0x5e, 0, 0x53, 0x11][..]));
    /// let replies = Header::from_server(7, [2, 0, 0x5e, 0, 0x53, 0x11]);
    /// assert_eq!((replies.op, replies.xid), (2, 7));
    /// ```
    #[must_use]
    pub fn from_client(xid: u32, mac: impl Into<Mac>) -> Self {
        Self::new(1, xid, mac.into())
    }

    /// The header of what a server sends to a client on Ethernet.
    #[must_use]
    pub fn from_server(xid: u32, mac: impl Into<Mac>) -> Self {
        Self::new(2, xid, mac.into())
    }

    /// The header of an answer to this one: what a server copies is copied (RFC 2131, section 4.3.1, table 3), the
    /// addresses are for the server to fill in.
    ///
    /// ```
    /// use oplex::packet::v4::Header;
    ///
    /// let request = Header::from_client(0x6411, [2, 0, 0x5e, 0, 0x53, 0x11]);
    /// let reply = request.answered();
    /// assert_eq!((reply.op, reply.xid, reply.chaddr), (2, 0x6411, request.chaddr));
    /// ```
    #[must_use]
    pub fn answered(&self) -> Self {
        let [ciaddr, yiaddr, siaddr] = [Ipv4Addr::UNSPECIFIED; 3];
        Self { op: 2, hops: 0, secs: 0, ciaddr, yiaddr, siaddr, ..*self }
    }

    /// The part of the hardware address that counts.
    ///
    /// ```
    /// use oplex::packet::v4::Header;
    ///
    /// let header = Header::from_client(7, [2, 0, 0x5e, 0, 0x53, 0x11]);
    /// assert_eq!(header.hardware(), [2, 0, 0x5e, 0, 0x53, 0x11]);
    /// ```
    #[must_use]
    pub fn hardware(&self) -> &[u8] {
        &self.chaddr[..usize::from(self.hlen).min(16)]
    }

    /// How many octets the hardware address must have by its type, and the RFC that says so, where that is not the number it has.
    pub(crate) fn other_hlen(&self) -> Option<(u8, &'static str)> {
        let (wanted, rfc) = match self.htype {
            1 => (6, "RFC 2131, section 2"),
            24 => (0, "RFC 2855, section 3"),
            32 => (0, "RFC 4390, section 2.1"),
            _ => (self.hlen.min(16), "RFC 2131, section 2"),
        };
        (self.hlen != wanted).then_some((wanted, rfc))
    }

    pub(super) fn read(octets: &[u8; HEADER]) -> Self {
        let short = |at: usize| u16::from_be_bytes([octets[at], octets[at + 1]]);
        let long = |at: usize| [octets[at], octets[at + 1], octets[at + 2], octets[at + 3]];
        let mut chaddr = [0; 16];
        chaddr.copy_from_slice(&octets[28..44]);
        Self {
            op: octets[0],
            htype: octets[1],
            hlen: octets[2],
            hops: octets[3],
            xid: u32::from_be_bytes(long(4)),
            secs: short(8),
            flags: short(10),
            ciaddr: long(12).into(),
            yiaddr: long(16).into(),
            siaddr: long(20).into(),
            giaddr: long(24).into(),
            chaddr,
        }
    }

    /// Its octets, up to where `sname` begins.
    ///
    /// ```
    /// use oplex::packet::v4::Header;
    ///
    /// let octets = Header::from_client(0x0a0b0c0d, [2, 0, 0x5e, 0, 0x53, 0x11]).octets();
    /// // op, htype, hlen, hops, and the transaction (RFC 2131, section 2).
    /// assert_eq!(octets[..8], [1, 1, 6, 0, 0x0a, 0x0b, 0x0c, 0x0d]);
    /// ```
    #[must_use]
    pub fn octets(&self) -> [u8; 44] {
        let mut octets = [0; 44];
        octets[..4].copy_from_slice(&[self.op, self.htype, self.hlen, self.hops]);
        octets[4..8].copy_from_slice(&self.xid.to_be_bytes());
        octets[8..10].copy_from_slice(&self.secs.to_be_bytes());
        octets[10..12].copy_from_slice(&self.flags.to_be_bytes());
        octets[12..16].copy_from_slice(&self.ciaddr.octets());
        octets[16..20].copy_from_slice(&self.yiaddr.octets());
        octets[20..24].copy_from_slice(&self.siaddr.octets());
        octets[24..28].copy_from_slice(&self.giaddr.octets());
        octets[28..].copy_from_slice(&self.chaddr);
        octets
    }
}
