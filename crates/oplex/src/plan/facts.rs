//! What a client says of itself, and in which options of either family it says so.

use super::texts::{AtPath, OfAll, Texts};
use super::{ClientFacts, Fact};
use crate::ParseError;
use crate::codebook::{Codebook, Definition};
use crate::family::Family;
use crate::layout::{Atom, Fault, Node, PathStep, Run, Scalar, ScalarForm, SubOption, Value, Vocabulary};
use crate::nearest;
use crate::octets::Duid;
use crate::octets::decimal;
use crate::octets::hex;
use crate::packet::ClientFqdn;

/// Where a fact stands in what a client, or a relay agent for it, sends.
struct Source {
    fact: Fact,
    family: Family,
    /// The option, and the way into its value.
    code: u16,
    path: &'static [PathStep],
}

const fn source(fact: Fact, family: Family, code: u16, path: &'static [PathStep]) -> Source {
    Source { fact, family, code, path }
}

/// All of them. Of several for one fact the first that is there counts.
static SOURCES: [Source; 17] = {
    use Family::{V4, V6};
    [
        source(Fact::VendorClass, V4, 60, &[]),
        source(Fact::VendorClass, V6, 16, &[PathStep::Field("classes")]),
        source(Fact::Enterprise, V4, 124, &[PathStep::Field("enterprise")]),
        source(Fact::Enterprise, V6, 16, &[PathStep::Field("enterprise")]),
        source(Fact::UserClass, V4, 77, &[]),
        source(Fact::UserClass, V6, 15, &[]),
        source(Fact::Architecture, V4, 93, &[]),
        source(Fact::Architecture, V6, 61, &[]),
        source(Fact::Hostname, V4, 12, &[]),
        source(Fact::Hostname, V4, 81, &[PathStep::Field("name")]),
        source(Fact::Hostname, V6, 39, &[PathStep::Field("name")]),
        source(Fact::ClientId, V4, 61, &[]),
        source(Fact::CircuitId, V4, 82, &[PathStep::Option(1)]),
        source(Fact::CircuitId, V6, 18, &[]),
        source(Fact::RemoteId, V4, 82, &[PathStep::Option(2)]),
        source(Fact::RemoteId, V6, 37, &[PathStep::Field("remote-id")]),
        source(Fact::Duid, V6, 1, &[]),
    ]
};

/// The enterprise number in front of a vendor class or a remote identifier that is described by its text alone: that of
/// examples (RFC 5612).
const ENTERPRISE: u64 = 32_473;

fn sources(fact: &Fact, family: Family) -> impl Iterator<Item = &'static Source> {
    let fact = std::mem::discriminant(fact);
    SOURCES.iter().filter(move |source| source.family == family && std::mem::discriminant(&source.fact) == fact)
}

impl ClientFacts {
    /// What can be described by a text: the keys of plans and the flags of the command.
    pub const KEYS: [&'static str; 10] = [
        "vendor-class",
        "enterprise",
        "user-class",
        "arch",
        "hostname",
        "fqdn",
        "duid",
        "client-id",
        "circuit-id",
        "remote-id",
    ];

    /// Describes the client by a text under one of [the keys](ClientFacts::KEYS): it then sends the options that say so, in
    /// both families.
    ///
    /// ```
    /// use oplex::codebook::Codebook;
    /// use oplex::family::Family;
    /// use oplex::plan::ClientFacts;
    ///
    /// let mut phone = ClientFacts::on(0);
    /// phone.describe(Codebook::standard(), "vendor-class", "Tern D2")?;
    /// assert_eq!(phone.sent(Family::V4, 60), Some(&b"Tern D2"[..]));
    /// assert!(phone.describe(Codebook::standard(), "vendor-clas", "Tern D2").is_err());
    /// # Ok::<(), oplex::ParseError>(())
    /// ```
    ///
    /// # Errors
    /// A text that the option cannot hold, or a key that is none.
    pub fn describe(&mut self, codebook: &Codebook, key: &str, text: &str) -> Result<(), ParseError> {
        if key == "fqdn" {
            return self.fqdn(codebook, text);
        }
        let fact = Fact::KEYS.into_iter().find(|(known, _)| *known == key && Self::KEYS.contains(&key));
        let Some((_, fact)) = fact else {
            return Err(format!("unknown key `{key}` for a client{}", nearest::hint(key, Self::KEYS)).into());
        };
        if matches!(fact, Fact::Duid) {
            self.duid = Some(text.parse::<Duid>()?);
            return Ok(());
        }
        if matches!(fact, Fact::Enterprise) {
            let number = decimal(text).ok_or_else(|| ParseError::from(format!("`{text}` is no enterprise number")))?;
            return self.vendor(codebook, number, None);
        }
        // `32473:Tern D2`: the class of a vendor that is named by its number.
        if let (Fact::VendorClass, Some((number, class))) = (&fact, text.split_once(':'))
            && let Some(number) = decimal(number)
        {
            return self.vendor(codebook, number, Some(class));
        }
        for family in Family::ALL {
            // Of several options that say the same, a client here sends the first.
            let Some(source) = sources(&fact, family).next() else { continue };
            match self.octets(codebook, source, text) {
                Ok(octets) => self.send(family, source.code, octets),
                // Not every host name is a name of DNS, by which DHCPv6 alone sends it.
                Err(_) if matches!((&fact, family), (Fact::Hostname, Family::V6)) => {}
                Err(why) => return Err(why.into()),
            }
        }
        Ok(())
    }

    /// Sends its full name, or as much of it as it knows, and leaves the updates of DNS to the server (RFC 4702, section 3.3): in
    /// options 81, which takes the place of the host name (12), and v6:39.
    fn fqdn(&mut self, codebook: &Codebook, name: &str) -> Result<(), ParseError> {
        // Of one label it is a part, of several the whole.
        let name = if name.contains('.') && !name.ends_with('.') { format!("{name}.") } else { name.to_owned() };
        let own = ClientFqdn { name, server_updates: true, ..ClientFqdn::default() };
        let v4 = match own.to_v4() {
            Value::Record(members) => Value::Record(
                members
                    .into_iter()
                    .map(|(key, value)| if key.starts_with("rcode") { (key, 0u8.into()) } else { (key, value) })
                    .collect(),
            ),
            other => other,
        };
        for (family, code, value) in [(Family::V4, 81, v4), (Family::V6, 39, own.to_v6())] {
            let definition = codebook.own(family.protocol(), code);
            let definition = definition.ok_or_else(|| ParseError::from(format!("no option has the code {code}")))?;
            let encoded = codebook.layout(definition).encode(codebook, &value);
            let encoded = encoded.map_err(|why| ParseError::from(format!("{}: {why}", definition.label())))?;
            self.send(family, code, encoded.octets);
        }
        self.sends.v4.retain(|(code, _)| *code != 12);
        Ok(())
    }

    /// Sends the class of a vendor by its enterprise number: in options 124 and v6:16, and the class alone in 60.
    fn vendor(&mut self, codebook: &Codebook, enterprise: u32, class: Option<&str>) -> Result<(), ParseError> {
        if let Some(class) = class {
            self.describe(codebook, "vendor-class", class)?;
        }
        let known = self.sent(Family::V4, 60).map(<[u8]>::to_vec);
        let class = class.map(|class| class.as_bytes().to_vec()).or(known).unwrap_or_default();
        let (number, class) = (Value::Number(enterprise.into()), Value::List(vec![Value::Bytes(class)]));
        let v4 = Value::List(vec![Value::record([("enterprise", number.clone()), ("data", class.clone())])]);
        let v6 = Value::record([("enterprise", number), ("classes", class)]);
        for (family, code, value) in [(Family::V4, 124, v4), (Family::V6, 16, v6)] {
            let definition = codebook.own(family.protocol(), code);
            let octets = definition.map(|definition| codebook.layout(definition).encode(codebook, &value));
            let octets = octets.and_then(Result::ok).map(|encoded| encoded.octets);
            self.send(family, code, octets.ok_or_else(|| ParseError::from("the class is too long".to_owned()))?);
        }
        Ok(())
    }

    /// What a relay agent says of where it is: its circuit, or its remote identifier.
    pub(super) fn relayed(&self, family: Family, fact: &Fact) -> Option<&[u8]> {
        let source = sources(fact, family).next()?;
        let octets = self.sent(family, source.code)?;
        let codebook = Codebook::standard();
        let definition = codebook.own(family.protocol(), source.code)?;
        let mut first = None;
        let mut see = |_: ScalarForm<'_>, scalar| {
            first.get_or_insert(scalar);
        };
        codebook.layout(definition).walk(codebook, octets, &mut AtPath::new(source.path, &mut see));
        if let Some(Scalar::Bytes(octets)) = first { Some(octets) } else { None }
    }

    /// Adds an option, in place of one of the same code.
    pub fn send(&mut self, family: Family, code: u16, octets: Vec<u8>) {
        self.sends[family].retain(|(sent, _)| *sent != code);
        self.sends[family].push((code, octets));
    }

    /// The octets of the option that says this.
    fn octets(&self, codebook: &Codebook, source: &Source, text: &str) -> Result<Vec<u8>, String> {
        if matches!(source.fact, Fact::ClientId) {
            return super::fleet::client_id(text).map(<[u8]>::into_vec);
        }
        let definition = codebook.own(source.family.protocol(), source.code);
        let definition = definition.ok_or_else(|| format!("no option has the code {}", source.code))?;
        let layout = codebook.layout(definition);
        let leaf = |atom: &Atom| leaf(codebook, source, atom, text);
        let mut value = filled(layout.root(), source.path, &leaf)?;
        if let (Value::Options(new), Some(octets)) = (&mut value, self.sent(source.family, source.code)) {
            // What the relay agent adds besides stays.
            if let (Some(Value::Options(mut all)), _) = codebook.decode(definition, octets) {
                all.retain(|known| new.iter().all(|new| new.code != known.code));
                all.append(new);
                value = Value::Options(all);
            }
        }
        let encoded = layout.encode(codebook, &value);
        encoded.map(|encoded| encoded.octets).map_err(|error| format!("{}: {error}", definition.label()))
    }

    /// What it sends of this fact, as the texts that patterns are held against.
    #[must_use]
    pub fn texts(&self, codebook: &Codebook, fact: &Fact, family: Family) -> Vec<String> {
        self.texts_of(codebook, fact, family).iter().map(str::to_owned).collect()
    }

    /// The same without a string for each.
    pub(crate) fn texts_of(&self, codebook: &Codebook, fact: &Fact, family: Family) -> Texts {
        let mut texts = Texts::default();
        match (fact, family) {
            (Fact::Mac, Family::V4) => self.mac.iter().for_each(|mac| texts.push(mac)),
            (Fact::Mac, Family::V6) => self.own_mac().iter().for_each(|mac| texts.push(mac)),
            (Fact::Duid, Family::V6) => self.own_duid().iter().for_each(|duid| texts.push(duid)),
            (Fact::ClientId, Family::V4) => self.sent(family, 61).iter().for_each(|id| texts.spell(id)),
            (Fact::ClientId, Family::V6) => {}
            (Fact::Option(definition), _) => {
                let own = definition.is_own_of(family.protocol());
                if let Some(octets) = self.sent(family, definition.code).filter(|_| own) {
                    texts.spell(octets);
                    codebook.layout(definition).walk(codebook, octets, &mut OfAll(&mut texts));
                }
            }
            _ => {
                for source in sources(fact, family) {
                    self.read_texts(codebook, source, &mut texts);
                    if !texts.is_empty() {
                        break;
                    }
                }
            }
        }
        texts
    }

    fn read_texts(&self, codebook: &Codebook, source: &Source, texts: &mut Texts) {
        // Most clients do not send it, and nothing is looked up then.
        let Some(octets) = self.sent(source.family, source.code) else { return };
        let Some(definition) = codebook.own(source.family.protocol(), source.code) else { return };
        let mut see = |form: ScalarForm<'_>, scalar: Scalar<'_>| texts.scalar(form, scalar);
        let mut reader = AtPath::new(source.path, &mut see);
        codebook.layout(definition).walk(codebook, octets, &mut reader);
        if reader.is_odd {
            texts.clear();
            read_odd(codebook, definition, octets, source.path, texts);
        }
    }
}

/// The texts of what has faults.
#[cold]
fn read_odd(codebook: &Codebook, definition: &Definition, octets: &[u8], path: &[PathStep], texts: &mut Texts) {
    let read = codebook.read(definition, octets);
    // Many clients send the bare text of a class where the class should have its length in front.
    if !read.faults.is_empty() && path.is_empty() {
        return texts.spell(octets);
    }
    let broken = read.options.iter().any(|inner| {
        let is_it = inner.inside.is_none() && path.first() == Some(&PathStep::Option(inner.code));
        let meets = |fault: &Fault| fault.octets.start < inner.around.end && inner.around.start < fault.octets.end;
        is_it && read.faults.iter().any(meets)
    });
    let value = read.value.filter(|_| !broken).unwrap_or(Value::Empty);
    value.at(path).into_iter().for_each(|leaf| texts.value(leaf));
}

impl Fact {
    /// Where clients of a family say it: the option's code, the way into its value, and whether the whole payload says it where
    /// that way leads nowhere.
    pub(crate) fn sources(&self, family: Family) -> Vec<(u16, &'static [PathStep], bool)> {
        match self {
            Self::Option(definition) if definition.is_own_of(family.protocol()) => vec![(definition.code, &[], true)],
            Self::Option(_) => Vec::new(),
            fact => sources(fact, family).map(|source| (source.code, source.path, source.path.is_empty())).collect(),
        }
    }
}

/// A value that holds nothing but what stands at the end of the path; fields beside it are zero, but for an enterprise.
fn filled(node: &Node, path: &[PathStep], leaf: &dyn Fn(&Atom) -> Result<Value, String>) -> Result<Value, String> {
    let astray = || "the option's layout has no place for it".to_owned();
    match (node, path) {
        (Node::Sized(_, inner) | Node::Optional(inner) | Node::Padded(_, inner), _) => filled(inner, path, leaf),
        (Node::Repeat(inner, _), _) => Ok(Value::List(vec![filled(inner, path, leaf)?])),
        (Node::Record(fields), [PathStep::Field(name), rest @ ..]) => {
            let one = |field: &crate::layout::Field| {
                let value = match &*field.name {
                    known if known == *name => filled(&field.node, rest, leaf)?,
                    "enterprise" => Value::Number(ENTERPRISE),
                    _ => Value::Number(0),
                };
                Ok((field.name.clone(), value))
            };
            fields.iter().map(one).collect::<Result<_, _>>().map(Value::Record)
        }
        // Which layout the nested option has is not asked: these are octets.
        (Node::Options(_), [PathStep::Option(code)]) => {
            let value = leaf(&Atom::Run(Run::Bytes, crate::layout::Count { min: 1, max: None }))?;
            Ok(Value::Options(vec![SubOption { code: *code, name: None, value }]))
        }
        (Node::Atom(atom), []) => leaf(atom),
        _ => Err(astray()),
    }
}

/// The text as what its atom holds.
fn leaf(codebook: &Codebook, source: &Source, atom: &Atom, text: &str) -> Result<Value, String> {
    Ok(match (&source.fact, atom) {
        (Fact::CircuitId | Fact::RemoteId, _) => Value::Bytes(identifier(text)?),
        (Fact::Architecture, _) => Value::Number(architecture(codebook, text)?.into()),
        (_, Atom::Run(Run::Bytes, _)) => Value::Bytes(text.as_bytes().to_vec()),
        (_, Atom::Name | Atom::PartialName) => Value::Name(text.to_owned()),
        _ => Value::Text(text.to_owned()),
    })
}

/// What a relay agent says, as [`identifier`] reads it: text where it is nothing but text.
pub(super) fn identifier_text(octets: &[u8]) -> String {
    let plain = |octet: &u8| octet.is_ascii_graphic() || *octet == b' ';
    match str::from_utf8(octets).ok().filter(|text| text.bytes().all(|octet| plain(&octet)) && !text.starts_with("0x"))
    {
        Some(text) if !text.is_empty() => text.to_owned(),
        _ => format!("0x{}", hex::plain(octets)),
    }
}

/// What a relay agent says: text, or octets as `0x…`.
pub(super) fn identifier(text: &str) -> Result<Vec<u8>, String> {
    match text.strip_prefix("0x") {
        Some(digits) => hex::parse(digits).map_err(|error| format!("`{text}` is not hexadecimal: {error}")),
        None => Ok(text.as_bytes().to_vec()),
    }
}

/// An architecture by its name or number.
fn architecture(codebook: &Codebook, text: &str) -> Result<u16, String> {
    let names = codebook.enumeration("architecture");
    let named = names.as_ref().and_then(|names| names.number_of(text)).and_then(|number| u16::try_from(number).ok());
    named.or_else(|| decimal(text)).ok_or_else(|| {
        let known = names.iter().flat_map(|names| names.members.iter().map(|(_, name)| &**name));
        format!("unknown architecture `{text}`{}", nearest::hint(text, known))
    })
}
