//! Which network a client is on, found from its message.

use std::net::{Ipv4Addr, Ipv6Addr};

use crate::compiled::Compiled;
use crate::packet::{AnyMessage, Message as _, v4, v6};

impl Compiled<'_> {
    /// The network that a client's message comes from, by its place among all: of DHCPv4 by the link selection (82/5), the
    /// subnet selection (118), the relay agent (giaddr) or the address that the client has (RFC 3527, section 3; RFC 3011;
    /// RFC 2131, section 4.3.1); of DHCPv6 by the link address of the relay agent nearest to the client, or by
    /// the interface that it names (RFC 8415, sections 13.1 and 21.18). `None` where the message does not say: it was not
    /// relayed then, and came from the server's own link.
    ///
    /// ```
    /// use oplex::compiled::Compiled;
    /// use oplex::packet::{Composer, Message as _, v4};
    /// # use oplex::plan::Plan;
    /// # let text = "server = \"10.64.0.67\"\n[network.desk]\nsubnet = \"10.64.4.0/24\"\npool = \"10.64.4.20-10.64.4.90\"\n\
    /// #             send.v4 = { router = \"10.64.4.1\" }\n[fleet.phones]\nmatch = { vendor-class = \"Tern D2*\" }\n\
    /// #             send.v4 = { log-server = \"10.64.0.57\" }\n";
    /// # let plan = Plan::read("plan.toml", text, &mut |path| Err(format!("no file {path}").into())).plan.expect("it is TOML");
    ///
    /// let compiled = Compiled::of(&plan);
    /// let relayed = v4::Header { giaddr: [10, 64, 4, 1].into(), ..v4::Header::from_client(7, [2, 0, 0x5e, 0, 0x53, 0x11]) };
    /// let draft = v4::Draft { header: relayed, ..v4::Draft::new(v4::MessageType::DISCOVER) };
    /// let mut composer = Composer::default();
    /// let message = v4::Message::read(composer.compose(&draft)?.octets)?;
    /// assert_eq!(compiled.network_of(message.into()), Some(0));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn network_of(&self, message: AnyMessage<'_>) -> Option<usize> {
        match message {
            AnyMessage::V4(message) => self.network_behind(address_v4(message)?.into()),
            AnyMessage::V6(message) => match link_of(message) {
                Some(link) => self.network_behind(link.into()),
                None => self.network_at(interface_of(message)?),
            },
            AnyMessage::Ra(_) => None,
        }
    }
}

fn address_v4(message: v4::Message<'_>) -> Option<Ipv4Addr> {
    let header = message.header();
    let selected = selected(message);
    selected.into_iter().chain([header.giaddr, header.ciaddr]).find(|address| !address.is_unspecified())
}

/// The link or subnet that a relay agent or the client selects; most do not, and nothing is decoded then.
fn selected(message: v4::Message<'_>) -> Option<Ipv4Addr> {
    let codebook = crate::codebook::Codebook::standard();
    let value = |code: u16, id: &str| message.option(code).and_then(|_| message.value(codebook, id)?.ipv4());
    value(82, "v4:82/5").or_else(|| value(118, "v4:118"))
}

fn link_of(message: v6::Message<'_>) -> Option<Ipv6Addr> {
    let mut around = message;
    let mut link = None;
    while let Some(relay) = around.relay() {
        link = Some(relay.link).filter(|link| !link.is_unspecified()).or(link);
        around = around.relayed()?.0.ok()?;
    }
    link
}

/// The interface that the relay agent nearest to the client names.
fn interface_of(message: v6::Message<'_>) -> Option<&[u8]> {
    let mut around = message;
    let mut interface = None;
    while around.relay().is_some() {
        interface = around.option(18).and_then(|option| option.octets()).or(interface);
        around = around.relayed()?.0.ok()?;
    }
    interface
}
