//! The name that a client is answered with, of those that tell their server what they are called (RFC 4702; RFC 4704).

use std::borrow::Cow;

use crate::compiled::{Layer, LayerRef};
use crate::family::Family;
use crate::plan::{ClientFacts, Fqdn};

/// The code of the client FQDN option (RFC 4702, section 2; RFC 4704, section 4).
pub(crate) const fn code(family: Family) -> u16 {
    match family {
        Family::V4 => 81,
        Family::V6 => 39,
    }
}

/// The flag S: the server updates the address record.
const SERVER: u8 = 1;
/// The flag O: the server does not do as the client wishes.
const OVERRIDDEN: u8 = 2;
/// The flag E of DHCPv4: the name is in the encoding of DNS.
const ENCODED: u8 = 4;

/// The most octets of a label, and of a name (RFC 1035, section 2.3.4).
const LABEL: usize = 63;
const NAME: usize = 255;

/// The name that a layer has for its clients.
#[derive(Debug, Clone)]
pub struct AnsweredName<'a> {
    /// What the layer says.
    pub fqdn: Cow<'a, Fqdn>,
    /// The layer: the narrowest that says so.
    pub layer: LayerRef<'a>,
}

impl<'a> AnsweredName<'a> {
    /// What these layers come to, from wide to narrow; one that withholds the option of the family takes the name away.
    pub(super) fn of(layers: &[&Layer<'a>], family: Family) -> Option<Self> {
        let withholds = |layer: &Layer<'_>| {
            let mut withheld = layer.withheld.iter();
            withheld.any(|out| out.code == code(family) && out.is_own_of(family.protocol()))
        };
        layers.iter().fold(None, |wider, layer| match &layer.fqdn {
            Some(fqdn) => Some(Self { fqdn: fqdn.clone(), layer: layer.id }),
            None => wider.filter(|_| !withholds(layer)),
        })
    }

    /// The option as a server returns it to a client that sent these octets of it: in the same encoding, with both codes 255
    /// by DHCPv4 (RFC 4702, sections 2.2 and 4). `None` where the name has the client's first label and the client sends
    /// none, or where the whole is longer than a name may be.
    ///
    /// ```
    /// use oplex::compiled::Compiled;
    /// use oplex::family::Family;
    /// use oplex::plan::{ClientFacts, Plan};
    ///
    /// let text = "fqdn = \"*.tarnfell.example\"\n[network.desk]\nsubnet = \"10.64.4.0/24\"\npool = \"10.64.4.20-10.64.4.90\"\n";
    /// let plan = Plan::read("plan.toml", text, &mut |path| Err(format!("no file {path}").into())).plan.expect("it is TOML");
    /// let compiled = Compiled::of(&plan);
    /// let answer = compiled.answer(Family::V4, &ClientFacts::on(0)).expect("the network has a subnet");
    /// let name = answer.fqdn.expect("everyone has one");
    /// // `dome-3` without a root label is a partial name; the flags say that nothing updates DNS (N), in the encoding of DNS (E).
    /// let returned = name.returned(Family::V4, b"\x04\0\0\x06dome-3").expect("it has a label");
    /// assert_eq!(returned, b"\x0c\xff\xff\x06dome-3\x08tarnfell\x07example\0");
    /// ```
    #[must_use]
    pub fn returned(&self, family: Family, sent: &[u8]) -> Option<Vec<u8>> {
        let (flags, name) = match family {
            Family::V4 => (*sent.first()?, sent.get(3..)?),
            Family::V6 => (*sent.first()?, &sent[1..]),
        };
        let encoded = family == Family::V6 || flags & ENCODED != 0;
        let mut octets = vec![self.flags(family, flags)];
        if family == Family::V4 {
            octets.extend([255, 255]);
        }
        let front = octets.len();
        for label in self.fqdn.name.split('.') {
            let label = if label == "*" { first_label(name, encoded)? } else { label.as_bytes() };
            // A release may say anything.
            if !(1..=LABEL).contains(&label.len()) {
                return None;
            }
            if encoded {
                octets.push(u8::try_from(label.len()).ok()?);
            } else if octets.len() > front {
                octets.push(b'.');
            }
            octets.extend_from_slice(label);
        }
        if encoded {
            octets.push(0);
        }
        (octets.len() - front <= NAME).then_some(octets)
    }

    /// The flags of the reply. A server that updates DNS does what the client wishes; one that does not says so, and says too
    /// that it overrides a client that wishes for it.
    fn flags(&self, family: Family, sent: u8) -> u8 {
        let none = if family == Family::V4 { 8 } else { 4 };
        let encoding = if family == Family::V4 { sent & ENCODED } else { 0 };
        let wishes = sent & SERVER != 0 && sent & none == 0;
        encoding
            | match (self.fqdn.updates, wishes) {
                (true, true) => SERVER,
                (true, false) => sent & none,
                (false, true) => none | OVERRIDDEN,
                (false, false) => none,
            }
    }

    /// The same for a client: `None` where it does not send the option. By DHCPv6 it must request it, too (RFC 4704,
    /// section 6).
    #[must_use]
    pub fn for_client(&self, family: Family, facts: &ClientFacts) -> Option<Vec<u8>> {
        let sent = facts.sent(family, code(family))?;
        let requested = family == Family::V4 || facts.requests(family, code(family));
        requested.then(|| self.returned(family, sent)).flatten()
    }
}

/// The first label of a name: in the encoding of DNS, or as the text that old clients send (RFC 4702, section 2.3.1).
fn first_label(name: &[u8], encoded: bool) -> Option<&[u8]> {
    let label = if encoded {
        let (length, rest) = name.split_first()?;
        rest.get(..usize::from(*length))?
    } else {
        name.split(|octet| matches!(octet, b'.' | 0)).next()?
    };
    // What is no label of a host is not repeated: whoever reads the reply would find it there.
    let is_one = label.iter().all(|octet| octet.is_ascii_alphanumeric() || matches!(octet, b'-' | b'_'));
    is_one.then_some(label)
}

/// What a client sends of itself that is called `host`.
pub(crate) fn sample(family: Family) -> Vec<u8> {
    let front: &[u8] = if family == Family::V4 { &[ENCODED, 0, 0] } else { &[0] };
    [front, b"\x04host"].concat()
}
