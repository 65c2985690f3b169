//! Playing the messages by which a client gets its answer.

use super::{Answer, Exchange, v4, v6};
use crate::compiled::Compiled;
use crate::family::Family;
use crate::packet::ComposeError;
use crate::plan::ClientFacts;

impl<'p> Compiled<'p> {
    /// The codes of the options that the reply to a client has, in their order: those that it requests, or all when it sends no
    /// list, and those that a server sends in any case, as its identifier, the lease, and what it returns.
    ///
    /// ```
    /// use oplex::compiled::Compiled;
    /// use oplex::family::Family;
    /// use oplex::plan::{ClientFacts, Plan};
    ///
    /// let text = "server = \"10.64.0.67\"\n[send.v4]\ndomain-server = \"10.64.0.53\"\ndomain-name = \"tarnfell.example\"\n\
    ///             [network.domes]\nsubnet = \"10.64.8.0/21\"\npool = [\"10.64.8.20-10.64.8.90\"]\n";
    /// let plan = Plan::read("plan.toml", text, &mut |path| Err(format!("{path}: no such file").into())).plan.unwrap();
    /// let compiled = Compiled::of(&plan);
    /// let mut facts = ClientFacts::on(0);
    /// facts.wants.v4 = Some(vec![6, 3]);
    /// let answer = compiled.answer(Family::V4, &facts).unwrap();
    /// // 15 is not requested, 3 is not configured; the lease and the server's identifier are sent in any case.
    /// assert_eq!(compiled.codes_for(&facts, &answer), [6, 51, 53, 54, 58, 59]);
    /// ```
    #[must_use]
    pub fn codes_for(&self, facts: &ClientFacts, answer: &Answer<'_>) -> Vec<u16> {
        let mut codes = match answer.family {
            Family::V4 => v4::codes(self, facts, answer),
            Family::V6 => v6::codes(facts, answer),
        };
        codes.sort_unstable();
        codes.dedup();
        codes
    }

    /// Whether a client is offered to do without IPv4, which it requests (RFC 8925, section 3.2): it takes no address then.
    #[must_use]
    pub fn does_without_ipv4(&self, facts: &ClientFacts, answer: &Answer<'_>) -> bool {
        v4::does_without_ipv4(facts, answer)
    }

    /// The messages by which a client gets its answer, octet for octet: of IPv6 its router's advertisement, and what follows
    /// from that by DHCPv6.
    ///
    /// ```
    /// use oplex::compiled::Compiled;
    /// use oplex::family::Family;
    /// use oplex::plan::ClientFacts;
    /// # use oplex::plan::Plan;
    /// # let text = "server = \"10.64.0.67\"\n[network.desk]\nsubnet = \"10.64.4.0/24\"\npool = \"10.64.4.20-10.64.4.90\"\n\
    /// #             send.v4 = { router = \"10.64.4.1\" }\n[fleet.phones]\nmatch = { vendor-class = \"Tern D2*\" }\n\
    /// #             send.v4 = { log-server = \"10.64.0.57\" }\n";
    /// # let plan = Plan::read("plan.toml", text, &mut |path| Err(format!("no file {path}").into())).plan.expect("it is TOML");
    ///
    /// let compiled = Compiled::of(&plan);
    /// let desk = ClientFacts { mac: Some([2, 0, 0x5e, 0, 0x53, 0x11].into()), ..ClientFacts::on(0) };
    /// let answer = compiled.answer(Family::V4, &desk).ok_or("the network has a subnet")?;
    /// let exchange = compiled.exchange(&desk, &answer)?;
    /// // DHCPDISCOVER, DHCPOFFER, DHCPREQUEST, DHCPACK.
    /// assert_eq!(exchange.messages.len(), 4);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// Options that no message can hold.
    pub fn exchange(&self, facts: &ClientFacts, answer: &Answer<'_>) -> Result<Exchange, ComposeError> {
        match answer.family {
            Family::V4 => v4::exchange(self, facts, answer),
            Family::V6 => v6::exchange(self, facts, answer),
        }
    }
}
