//! What layers change in options of wider layers, written down so that it can be done without a codebook.

use std::collections::{BTreeMap, BTreeSet};
use std::fmt;

use serde::{Deserialize, Serialize};

use super::AmendEntry;
use super::parts::{OctetPart, part};
use crate::codebook::{Codebook, OptionOctets};
use crate::compiled::{Amend, Compiled, Fleet, Layer, LayerKind, SentOption};
use crate::family::Family;
use crate::layout::{Edit, EditsText, Node, Value, encode_part};
use crate::octets::hex;

/// One change of an option's octets.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case")]
#[non_exhaustive]
pub enum OctetEdit {
    /// These octets come before those that are there.
    First(String),
    /// These octets come behind those that are there.
    Last(String),
    /// A part is replaced, or taken away.
    Set {
        /// The parts before it.
        skip: Vec<OctetPart>,
        /// The part, with its length where it has one in front; absent for all that is left.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        part: Option<OctetPart>,
        /// What stands there then, with its length; empty where the part is taken away.
        hex: String,
    },
    /// A pair of `KEY=value` text gets another value, comes in behind the others, or is taken away.
    Pair(PairEdit),
}

/// A change of `KEY=value` text.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct PairEdit {
    /// What stands between two pairs.
    pub between: String,
    /// What stands between a key and its value.
    pub equals: String,
    /// The key.
    pub key: String,
    /// Its value; absent where the pair is taken away.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub value: Option<String>,
}

/// What one payload becomes.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Becomes {
    /// The octets that a wider layer sends.
    pub from: String,
    /// Those that are sent in their place.
    pub to: String,
}

/// More payloads that a change may meet than a release writes down.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct TooMany {
    /// The layer that changes the option.
    pub layer: String,
    /// The option.
    pub option: String,
}

/// The most payloads whose changes are written down one by one.
const MOST: usize = 4096;

impl fmt::Display for TooMany {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Self { layer, option } = self;
        write!(
            f,
            "{layer} changes {option}, of which wider layers send more than {MOST} different values, and a release \
             holds each by itself; send {option} whole there"
        )
    }
}

impl std::error::Error for TooMany {}

/// The changes as edits of octets; `None` where the layout does not tell the parts apart without reading them.
fn edits(codebook: &Codebook, amend: &Amend<'_>) -> Option<Vec<OctetEdit>> {
    let mut root = codebook.layout(&amend.definition).root();
    while let Node::Optional(inner) = root {
        root = inner;
    }
    amend.edits.iter().map(|edit| octet_edit(codebook, root, edit)).collect()
}

fn octet_edit(codebook: &Codebook, root: &Node, edit: &Edit) -> Option<OctetEdit> {
    let octets = |node: &Node, value: &Value| {
        (!node.any(&|node| matches!(node, Node::Choice(_) | Node::Options(_))))
            .then(|| encode_part(node, codebook, value).ok())
            .flatten()
            .map(|encoded| encoded.octets)
    };
    match (root, edit) {
        (Node::Repeat(..), Edit::First(items)) => {
            Some(OctetEdit::First(hex::plain(&octets(root, &Value::List(items.clone()))?)))
        }
        (Node::Repeat(..), Edit::Last(items)) => {
            Some(OctetEdit::Last(hex::plain(&octets(root, &Value::List(items.clone()))?)))
        }
        (Node::Record(fields), Edit::Set(name, _) | Edit::Remove(name)) => {
            let at = fields.iter().position(|field| field.name == *name)?;
            let skip = fields[..at].iter().map(|field| part(&field.node)).collect::<Option<Vec<_>>>()?;
            let last = at + 1 == fields.len();
            let own = part(&fields[at].node).filter(|_| !last);
            (last || own.is_some()).then_some(())?;
            let new = match edit {
                Edit::Set(_, value) => octets(&fields[at].node, value)?,
                _ => Vec::new(),
            };
            Some(OctetEdit::Set { skip, part: own, hex: hex::plain(&new) })
        }
        (Node::Pairs(pairs), Edit::Set(name, _) | Edit::Remove(name)) => {
            let value = match edit {
                Edit::Set(_, value) => {
                    let alone = octets(root, &Value::Record(vec![(name.clone(), value.clone())]))?;
                    Some(str::from_utf8(&alone[name.len() + pairs.equals.len()..]).ok()?.to_owned())
                }
                _ => None,
            };
            let (between, equals) = (pairs.between.to_string(), pairs.equals.to_string());
            Some(OctetEdit::Pair(PairEdit { between, equals, key: name.to_string(), value }))
        }
        _ => None,
    }
}

/// The changes of all layers of a plan.
pub(super) struct Changes<'c> {
    compiled: &'c Compiled<'c>,
    /// By option: what wider layers may send, where that has to be known.
    reaching: BTreeMap<String, Reaching>,
}

/// The payloads of one option that may reach layers of a kind.
#[derive(Default)]
struct Reaching {
    /// By network: with what everyone and the network say.
    networks: Vec<BTreeSet<Vec<u8>>>,
    /// What fleets make of that, or send, in the order in which they apply: what the fleets before each may send.
    fleets: Vec<BTreeSet<Vec<u8>>>,
}

impl<'c> Changes<'c> {
    pub(super) fn new(compiled: &'c Compiled<'c>) -> Self {
        Self { compiled, reaching: BTreeMap::new() }
    }

    /// The changes of a layer in one family.
    pub(super) fn of(
        &mut self,
        layer: &Layer<'_>,
        at: Option<usize>,
        family: Family,
    ) -> Result<Vec<AmendEntry>, TooMany> {
        let mut entries = Vec::new();
        for amend in &layer.amends[family] {
            let (option, text) = (amend.definition.id().to_string(), EditsText(&amend.edits).to_string());
            let edits = edits(&self.compiled.codebook, amend);
            let becomes = match &edits {
                Some(_) => Vec::new(),
                None => self.becomes(layer, at, family, amend)?,
            };
            entries.push(AmendEntry { option, text, edits: edits.unwrap_or_default(), becomes });
        }
        entries.sort_by(|one, other| one.option.cmp(&other.option));
        Ok(entries)
    }

    /// What each payload that may reach a layer becomes there. `at` is the network of a reservation.
    fn becomes(
        &mut self,
        layer: &Layer<'_>,
        at: Option<usize>,
        family: Family,
        amend: &Amend<'_>,
    ) -> Result<Vec<Becomes>, TooMany> {
        let (id, compiled) = (amend.definition.id().to_string(), self.compiled);
        let too_many = || TooMany { layer: layer.id.name.to_owned(), option: id.clone() };
        let known = self.reaching.entry(id.clone());
        let reaching = known.or_insert_with(|| Reaching::of(compiled, family, amend));
        let nothing = BTreeSet::new();
        let networks = |at: usize| reaching.networks.get(at).unwrap_or(&nothing);
        let fleets = |place: usize| reaching.fleets.get(place).unwrap_or(&nothing);
        let all = compiled.fleets.len();
        let mut from = match (layer.id.kind, at) {
            (LayerKind::Everyone, _) => BTreeSet::new(),
            (LayerKind::Network(at), _) => {
                sent(&compiled.everyone, family, amend).into_iter().chain(networks(at).iter().cloned()).collect()
            }
            (LayerKind::Fleet(place), _) => fleets(place).clone(),
            (LayerKind::FleetOn(_, at), _) | (_, Some(at)) => {
                let own = compiled.fleets_on(at).flat_map(|(_, on)| sent(&on.layer, family, amend));
                fleets(all).iter().chain(networks(at)).cloned().chain(own).collect()
            }
            _ => fleets(all).clone(),
        };
        // Fleets on the same network change it one after the other.
        if let (LayerKind::FleetOn(_, at), _) | (LayerKind::Reservation, Some(at)) = (layer.id.kind, at) {
            let changes: Vec<&Amend<'_>> = compiled
                .fleets_on(at)
                .flat_map(|(_, on)| &on.layer.amends[family])
                .filter(|one| same(one, amend))
                .collect();
            for one in changes {
                let more: Vec<Vec<u8>> = from.iter().filter_map(|octets| apply(compiled, one, octets)).collect();
                from.extend(more);
                if from.len() > MOST {
                    return Err(too_many());
                }
            }
        }
        if from.len() > MOST {
            return Err(too_many());
        }
        let changed = from.into_iter().filter_map(|octets| {
            let to = apply(compiled, amend, &octets)?;
            Some(Becomes { from: hex::plain(&octets), to: hex::plain(&to) })
        });
        Ok(changed.collect())
    }
}

impl Reaching {
    fn of(compiled: &Compiled<'_>, family: Family, amend: &Amend<'_>) -> Self {
        let wide = after(compiled, &compiled.everyone, family, amend, &BTreeSet::new(), false);
        let networks: Vec<BTreeSet<Vec<u8>>> =
            compiled.networks.iter().map(|one| after(compiled, &one.layer, family, amend, &wide, false)).collect();
        let mut now: BTreeSet<Vec<u8>> = networks.iter().flatten().cloned().collect();
        let mut fleets = vec![now.clone()];
        for Fleet { layer, .. } in &compiled.fleets {
            // A client may belong to a fleet or not.
            if now.len() <= MOST {
                now = after(compiled, layer, family, amend, &now, true);
            }
            fleets.push(now.clone());
        }
        Self { networks, fleets }
    }
}

fn same(one: &Amend<'_>, other: &Amend<'_>) -> bool {
    one.definition.is_same(&other.definition)
}

/// What a layer sends of the option that is changed.
fn sent(layer: &Layer<'_>, family: Family, amend: &Amend<'_>) -> Vec<Vec<u8>> {
    let own = layer.options[family].iter().filter(|option| option.definition.is_same(&amend.definition));
    own.filter_map(|option| Some(option.octets.as_deref()?.to_vec())).collect()
}

fn apply(compiled: &Compiled<'_>, amend: &Amend<'_>, octets: &[u8]) -> Option<Vec<u8>> {
    let option =
        SentOption { definition: amend.definition.clone(), octets: Some(octets.into()), origin: None, amended: None };
    amend.apply(&compiled.codebook, &option).octets.map(OptionOctets::into_vec)
}

/// What may be sent behind a layer, given what may be sent before it; `perhaps` where not every client has the layer.
fn after(
    compiled: &Compiled<'_>,
    layer: &Layer<'_>,
    family: Family,
    amend: &Amend<'_>,
    before: &BTreeSet<Vec<u8>>,
    perhaps: bool,
) -> BTreeSet<Vec<u8>> {
    let own = sent(layer, family, amend);
    let mut now: BTreeSet<Vec<u8>> = if perhaps || own.is_empty() { before.clone() } else { BTreeSet::new() };
    for change in layer.amends[family].iter().filter(|one| same(one, amend)) {
        let changed: Vec<Vec<u8>> = before.iter().filter_map(|octets| apply(compiled, change, octets)).collect();
        if !perhaps {
            now.clear();
        }
        now.extend(changed);
    }
    now.extend(own);
    now
}
