//! A client, described by what it sends.

use super::reservation::KeyOf;
use super::{ClientKey, Fact};
use crate::family::{Both, Family};
use crate::octets::{Duid, Mac};
use crate::packet::{AnyMessage, Message as _, v4, v6};

/// A client, described by what it sends.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct ClientFacts {
    /// The network it is on, by its place in the plan.
    pub network: usize,
    /// Its hardware address.
    pub mac: Option<Mac>,
    /// Its DUID; made of its hardware address by default (RFC 8415, section 11.4).
    pub duid: Option<Duid>,
    /// The options it sends, or a relay agent for it, by code, besides those that follow from the rest.
    pub sends: Both<Vec<(u16, Vec<u8>)>>,
    /// The codes it requests; `None` is a client that sends no list, and is sent everything.
    pub wants: Both<Option<Vec<u16>>>,
    /// The largest datagram of DHCPv4 that it accepts.
    pub max_size: Option<u16>,
    /// Number of addresses of its pool that are already leased.
    pub leased: u32,
    /// Whether it takes an address by two messages of DHCPv6 in place of four (RFC 8415, section 21.14).
    pub rapid: bool,
    /// Whether it requests a prefix to be delegated.
    pub delegation: bool,
}

impl ClientFacts {
    /// A client on the network of this place in the plan, of which nothing else is known.
    ///
    /// ```
    /// use oplex::family::Family;
    /// use oplex::plan::ClientFacts;
    ///
    /// let mut phone = ClientFacts { mac: Some([2, 0, 0x5e, 0, 0x53, 0x11].into()), ..ClientFacts::on(0) };
    /// phone.send(Family::V4, 60, b"Tern D2".to_vec());
    /// assert_eq!(phone.sent(Family::V4, 60), Some(&b"Tern D2"[..]));
    /// // Without one that it says itself, its DUID is made of its hardware address (RFC 8415, section 11.4).
    /// assert_eq!(phone.own_duid().map(|duid| duid.to_string()).as_deref(), Some("00:03:00:01:02:00:5e:00:53:11"));
    /// assert_eq!(phone.keys(Family::V4).map(|key| key.to_string()).collect::<Vec<_>>(), ["02:00:5e:00:53:11"]);
    /// ```
    #[must_use]
    pub fn on(network: usize) -> Self {
        Self { network, ..Self::default() }
    }

    /// The client that sent a message, as far as the message says; the messages around it, of relay agents, are looked through.
    /// The network is the first: [`Compiled::network_of`](crate::compiled::Compiled::network_of) finds the right one.
    ///
    /// ```
    /// use oplex::octets::Mac;
    /// use oplex::packet::{AnyMessage, Composer, Message as _, v4};
    /// use oplex::plan::ClientFacts;
    ///
    /// let mut composer = Composer::default();
    /// let header = v4::Header::from_client(7, [2, 0, 0x5e, 0, 0x53, 0x11]);
    /// let draft = v4::Draft { header, options: &[(55, &[1, 3, 6])], ..v4::Draft::new(v4::MessageType::DISCOVER) };
    /// let message = v4::Message::read(composer.compose(&draft)?.octets)?;
    /// let facts = ClientFacts::from_message(AnyMessage::V4(message));
    /// assert_eq!((facts.mac, facts.wants.v4), (Some(Mac([2, 0, 0x5e, 0, 0x53, 0x11])), Some(vec![1, 3, 6])));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn from_message(message: AnyMessage<'_>) -> Self {
        let mut facts = Self::default();
        match message {
            AnyMessage::V4(message) => facts.read_v4(message),
            AnyMessage::V6(message) => facts.read_v6(message),
            AnyMessage::Ra(message) => {
                // The source link-layer address (RFC 4861, section 4.6.1).
                let own = message.option(1).map(|option| option.joined());
                facts.mac = own.and_then(|octets| (&*octets).try_into().ok().map(Mac));
            }
        }
        facts
    }

    fn read_v4(&mut self, message: v4::Message<'_>) {
        let header = message.header();
        self.mac = (header.htype == 1).then(|| header.hardware().try_into().ok().map(Mac)).flatten();
        for option in message.options() {
            let octets = option.joined();
            match option.code() {
                // What one message asks of the server is no fact about the client (RFC 2131, section 4.4.1, table 5).
                50..=54 => {}
                55 => self.wants.v4 = Some(octets.iter().map(|code| u16::from(*code)).collect()),
                57 => self.max_size = octets.first_chunk().map(|octets| u16::from_be_bytes(*octets)),
                code => self.sends.v4.push((code, octets.into_owned())),
            }
        }
    }

    fn read_v6(&mut self, message: v6::Message<'_>) {
        let mut around = Some(message);
        while let Some(relay) = around.filter(|message| message.message_type().is_relays()) {
            // The relay agent nearest to the client knows it best (RFC 8415, section 19.1.2).
            for option in relay.options().filter(|option| option.code() != v6::RELAY_MESSAGE) {
                self.send(Family::V6, option.code(), option.joined().into_owned());
            }
            around = relay.relayed().and_then(|(inner, _)| inner.ok());
        }
        let Some(own) = around else { return };
        for option in own.options() {
            let octets = option.octets().unwrap_or_default();
            match option.code() {
                1 => self.duid = Duid::new(octets),
                // Associations, times and the server are of this message (RFC 8415, section 21).
                2..=5 | 8 | 26 => {}
                6 => {
                    self.wants.v6 =
                        Some(octets.chunks_exact(2).map(|code| u16::from_be_bytes([code[0], code[1]])).collect());
                }
                14 => self.rapid = true,
                25 => self.delegation = true,
                code => self.sends.v6.push((code, octets.to_vec())),
            }
        }
    }

    /// The octets of an option that it sends.
    #[must_use]
    pub fn sent(&self, family: Family, code: u16) -> Option<&[u8]> {
        self.sends[family].iter().find(|(sent, _)| *sent == code).map(|(_, octets)| octets.as_slice())
    }

    /// Whether it requests an option: a client that sends no list takes everything.
    ///
    /// ```
    /// use oplex::family::Family;
    /// use oplex::plan::ClientFacts;
    ///
    /// let mut sensor = ClientFacts::on(0);
    /// assert!(sensor.requests(Family::V4, 6));
    /// sensor.wants[Family::V4] = Some(vec![1, 3]);
    /// assert!(sensor.requests(Family::V4, 3) && !sensor.requests(Family::V4, 6));
    /// ```
    #[must_use]
    pub fn requests(&self, family: Family, code: u16) -> bool {
        self.wants[family].as_ref().is_none_or(|wants| wants.contains(&code))
    }

    /// What clients of its kind request by DHCPv4 as a rule: the options that common systems request, those of a boot client (RFC
    /// 4578, section 2.4) where it says what it boots by, and those of a vendor's device where it says whose it is.
    ///
    /// ```
    /// use oplex::family::Family;
    /// use oplex::plan::ClientFacts;
    ///
    /// let mut client = ClientFacts::on(0);
    /// assert!(!client.common_requests().contains(&67));
    /// // One that names its architecture boots from the network, and requests where from.
    /// client.send(Family::V4, 93, vec![0, 7]);
    /// assert!(client.common_requests().contains(&67));
    /// ```
    #[must_use]
    pub fn common_requests(&self) -> Vec<u16> {
        let mut codes = vec![1, 3, 6, 12, 15, 26, 28, 33, 42, 44, 46, 47, 51, 54, 58, 59, 114, 119, 121];
        if self.sent(Family::V4, 60).is_some() || self.sent(Family::V4, 93).is_some() {
            codes.extend([43, 66, 67]);
        }
        if self.sent(Family::V4, 124).is_some() {
            codes.push(125);
        }
        if self.sent(Family::V4, 93).is_some() {
            codes.extend([60, 97, 150]);
            codes.extend(128..=135);
        }
        codes.sort_unstable();
        // 121 before 3 (RFC 3442).
        codes.retain(|code| *code != 121);
        codes.insert(1, 121);
        codes
    }

    /// Its DUID: the one it has, or the one that follows from its hardware address (RFC 8415, section 11.4).
    #[must_use]
    pub fn own_duid(&self) -> Option<Duid> {
        self.duid.clone().or_else(|| self.mac.map(Duid::of_mac))
    }

    /// Its hardware address: the one that is known, or the one that its DUID is made of (RFC 8415, sections 11.2 and
    /// 11.4).
    #[must_use]
    pub fn own_mac(&self) -> Option<Mac> {
        self.mac.or_else(|| self.duid.as_ref()?.mac())
    }

    /// How a server may know it: by its identifier (RFC 2131, section 4.2) or its DUID first, by its hardware address where
    /// the plan knows no other.
    pub fn keys(&self, family: Family) -> impl Iterator<Item = ClientKey> {
        let mut all = Vec::new();
        // Nothing is found by any of them, so that each is shown.
        self.find_key(family, &mut |key| -> Option<()> {
            all.push(key.into());
            None
        });
        all.into_iter()
    }

    /// The first of [its keys](ClientFacts::keys) by which something is found.
    pub(super) fn find_key<T>(&self, family: Family, look: &mut dyn FnMut(KeyOf<'_>) -> Option<T>) -> Option<T> {
        let own = match (family, &self.duid) {
            (Family::V4, _) => self.sent(family, 61).map(KeyOf::ClientId).and_then(&mut *look),
            (Family::V6, Some(duid)) => look(KeyOf::Duid(duid)),
            (Family::V6, None) => self.own_duid().and_then(|duid| look(KeyOf::Duid(&duid))),
        };
        let mac = || if family == Family::V4 { self.mac } else { self.own_mac() };
        let known = own.or_else(|| mac().map(KeyOf::Mac).and_then(&mut *look));
        // Where it is says who it is only when nothing else does.
        let mut relayed = |fact, key: for<'k> fn(&'k [u8]) -> KeyOf<'k>| look(key(self.relayed(family, &fact)?));
        known
            .or_else(|| relayed(Fact::CircuitId, |id| KeyOf::CircuitId(id)))
            .or_else(|| relayed(Fact::RemoteId, |id| KeyOf::RemoteId(id)))
    }
}
