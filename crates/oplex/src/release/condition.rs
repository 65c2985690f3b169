//! What clients of a fleet are recognised by, written down so that it can be tried without a codebook.

use std::collections::BTreeMap;

use serde::{Deserialize, Serialize};

use super::parts::{OctetPart, OctetStep, part, selected};
use crate::codebook::{Codebook, Definition};
use crate::family::{Both, Family};
use crate::layout::{self, Atom, Choice, Field, Meaning, Node, Run};
use crate::plan::{Fact, Match};

/// What a client must be like.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
#[non_exhaustive]
pub enum Condition {
    /// All of these hold; none at all is no condition that holds.
    All(Vec<Self>),
    /// One of these holds.
    Any(Vec<Self>),
    /// None of these holds.
    None(Vec<Self>),
    /// The client sends something that one of the patterns fits.
    Sends {
        /// What it sends: a key of a plan's `match` (`mac`, `vendor-class`), or an option.
        what: String,
        /// Where each family has it. Of several groups the first counts that yields a text; what is in one group counts
        /// together. Empty for `mac`.
        reads: Both<Vec<Vec<Reading>>>,
        /// What the texts may look like: text with `*` and `?`, a MAC, or a range of MACs.
        patterns: Vec<String>,
    },
}

/// How octets of an option become texts.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Reading {
    /// The option, by its code among its family's own.
    pub option: u16,
    /// The number that must stand earlier in the payload.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub when: Option<When>,
    /// The way into its octets; none is the whole payload.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub steps: Vec<OctetStep>,
    /// What stands there.
    #[serde(rename = "as")]
    pub form: ReadAs,
    /// The names of numbers, each a text beside the number itself.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub names: BTreeMap<u64, String>,
}

/// A number in a payload that decides what stands behind it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct When {
    /// How many octets stand before it.
    pub skip: usize,
    /// How many octets it has.
    pub octets: usize,
    /// The bits of it that count, where not all do: then one of them must be set, or none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub mask: Option<u64>,
    /// What it must be: one of these, or with a mask 1 or 0 for set and not set.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub is: Vec<u64>,
    /// What it must not be.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub is_not: Vec<u64>,
}

/// What octets are, and which texts they become.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
#[non_exhaustive]
pub enum ReadAs {
    /// Text: itself.
    Text,
    /// Octets: the text that they spell, where that is UTF-8 without control characters, and pairs of hexadecimal digits with
    /// colons between them.
    Octets,
    /// The pairs of digits alone.
    Hex,
    /// An unsigned number: in decimal, and its name.
    Number,
    /// An IPv4 address.
    Ipv4,
    /// An IPv6 address.
    Ipv6,
    /// A domain name of labels (RFC 1035, section 3.1), without a dot behind it.
    Name,
    /// The same, which may end without the root label; with it a dot stands behind it.
    PartialName,
    /// What this layout says (docs/layouts.md), each single value in it.
    Layout(String),
}

impl Condition {
    pub(super) fn of(codebook: &Codebook, wanted: &Match) -> Self {
        let all = |several: &[Match]| several.iter().map(|one| Self::of(codebook, one)).collect();
        match wanted {
            Match::All(several) => Self::All(all(several)),
            Match::Any(several) => Self::Any(all(several)),
            Match::None(several) => Self::None(all(several)),
            Match::Sends { fact, patterns, .. } => Self::Sends {
                what: fact.to_string(),
                reads: Both::new(|family| reads(codebook, fact, family)),
                patterns: patterns.iter().map(ToString::to_string).collect(),
            },
        }
    }
}

fn reads(codebook: &Codebook, fact: &Fact, family: Family) -> Vec<Vec<Reading>> {
    let mut groups = Vec::new();
    for (code, path, whole) in fact.sources(family) {
        let Some(definition) = codebook.own(family.protocol(), code) else { continue };
        let form = if matches!(fact, Fact::Duid) { ReadAs::Hex } else { ReadAs::Octets };
        let bare = Reading { option: code, when: None, steps: Vec::new(), form, names: BTreeMap::new() };
        let parts = || Reader { codebook, definition }.all(path);
        match fact {
            Fact::Duid | Fact::ClientId => groups.push(vec![bare]),
            Fact::Option(_) => groups.push(std::iter::once(bare).chain(parts()).collect()),
            _ => {
                let parts = parts();
                let again = parts == [bare.clone()];
                groups.push(parts);
                groups.extend((whole && !again).then(|| vec![bare]));
            }
        }
    }
    groups
}

struct Reader<'r> {
    codebook: &'r Codebook,
    definition: &'r Definition,
}

impl Reader<'_> {
    /// The readings of what a path leads to; of a layout that cannot be read by steps, one that names it.
    fn all(&self, path: &[layout::PathStep]) -> Vec<Reading> {
        let layout = self.codebook.layout(self.definition);
        let start = self.reading(Vec::new(), ReadAs::Octets);
        self.node(layout.root(), path, &start)
            .unwrap_or_else(|| vec![Reading { form: ReadAs::Layout(layout.to_string()), ..start }])
    }

    fn reading(&self, steps: Vec<OctetStep>, form: ReadAs) -> Reading {
        Reading { option: self.definition.code, when: None, steps, form, names: BTreeMap::new() }
    }

    fn node(&self, node: &Node, path: &[layout::PathStep], so_far: &Reading) -> Option<Vec<Reading>> {
        let then = |step: OctetStep| {
            let mut next = so_far.clone();
            next.steps.push(step);
            next
        };
        match node {
            Node::Atom(atom) => Some(vec![of_atom(atom, so_far)?]),
            Node::Optional(inner) => self.node(inner, path, so_far),
            Node::Sized(..) => {
                let Node::Sized(_, inner) = node else { return None };
                self.node(inner, path, &then(OctetStep::Take(part(node)?)))
            }
            Node::Repeat(inner, _) => {
                let item = match &**inner {
                    Node::Record(fields) => fields.iter().map(|field| part(&field.node)).collect::<Option<Vec<_>>>()?,
                    one => vec![part(one)?],
                };
                self.node(inner, path, &then(OctetStep::Each(item)))
            }
            Node::Record(fields) => self.record(fields, path, so_far),
            // Sub-options are octets here, whatever their layouts say.
            Node::Options(nested) if nested.header == 2 => {
                let [layout::PathStep::Option(code)] = path else { return None };
                Some(vec![then(OctetStep::Option(*code))])
            }
            _ => None,
        }
    }

    fn record(&self, fields: &[Field], path: &[layout::PathStep], so_far: &Reading) -> Option<Vec<Reading>> {
        let (wanted, rest) = match path {
            [] => (None, path),
            [layout::PathStep::Field(name), rest @ ..] => (Some(*name), rest),
            _ => return None,
        };
        let (mut found, mut here) = (Vec::new(), so_far.clone());
        for (at, field) in fields.iter().enumerate() {
            let (this, last) = (part(&field.node), at + 1 == fields.len());
            if wanted.is_none_or(|name| *field.name == *name) {
                let mut inside = here.clone();
                if let (Some(OctetPart::Octets(_)), Some(this)) = (this, this) {
                    inside.steps.push(OctetStep::Take(this));
                } else if this.is_none() && !last {
                    return None;
                }
                match &field.node {
                    Node::Choice(choice) => found.extend(self.choice(fields, choice, rest, &inside)?),
                    Node::Zeros(_) => {}
                    node => found.extend(self.node(node, rest, &inside)?),
                }
                if wanted.is_some() {
                    break;
                }
            }
            if !last {
                here.steps.push(OctetStep::Skip(this?));
            }
        }
        Some(found)
    }

    /// A reading for each form that a field may have.
    fn choice(
        &self,
        fields: &[Field],
        choice: &Choice,
        path: &[layout::PathStep],
        so_far: &Reading,
    ) -> Option<Vec<Reading>> {
        let (skip, octets) = selected(fields, &choice.by)?;
        let mask = choice.by.mask;
        let known: Vec<u64> = choice.arms.iter().map(|(number, _)| *number).collect();
        let arms = choice.arms.iter().map(|(number, node)| (vec![*number], Vec::new(), node));
        let otherwise = choice.otherwise.iter().map(|node| (Vec::new(), known.clone(), &**node));
        let mut found = Vec::new();
        for (is, is_not, node) in arms.chain(otherwise) {
            let when = Some(When { skip, octets, mask, is, is_not });
            found.extend(self.node(node, path, &Reading { when, ..so_far.clone() })?);
        }
        Some(found)
    }
}

/// The reading of a single thing, which ends where its octets end.
fn of_atom(atom: &Atom, so_far: &Reading) -> Option<Reading> {
    let (form, names) = match atom {
        Atom::Number(number) if !number.signed => match &number.meaning {
            Meaning::Plain => (ReadAs::Number, BTreeMap::new()),
            Meaning::Member(of) => {
                let names = of.members.iter().map(|(number, name)| (*number, name.to_string()));
                (ReadAs::Number, names.collect())
            }
            _ => return None,
        },
        Atom::Ipv4(_) => (ReadAs::Ipv4, BTreeMap::new()),
        Atom::Ipv6(_) => (ReadAs::Ipv6, BTreeMap::new()),
        Atom::Run(Run::Bytes, _) => (ReadAs::Octets, BTreeMap::new()),
        Atom::Run(..) => (ReadAs::Text, BTreeMap::new()),
        Atom::Name => (ReadAs::Name, BTreeMap::new()),
        Atom::PartialName => (ReadAs::PartialName, BTreeMap::new()),
        Atom::Empty => (ReadAs::Octets, BTreeMap::new()),
        _ => return None,
    };
    Some(Reading { form, names, ..so_far.clone() })
}
