//! Which layer's option counts.

use crate::compiled::{Layer, LayerRef, SentOption};
use crate::family::{Family, Protocol};

/// One option that clients are sent.
#[derive(Debug, Clone)]
pub struct Chosen<'a> {
    /// The option.
    pub option: SentOption<'a>,
    /// The layer that sends it.
    pub layer: LayerRef<'a>,
    /// What wider layers would have sent, the nearest first.
    pub overrides: Vec<(LayerRef<'a>, SentOption<'a>)>,
}

impl Chosen<'_> {
    /// The option of this code among a protocol's own, if it is sent.
    #[must_use]
    pub fn find<'c, 'a>(all: &'c [Chosen<'a>], protocol: Protocol, code: u16) -> Option<&'c Chosen<'a>> {
        all.iter().find(|chosen| chosen.option.is(protocol, code))
    }
}

/// What these layers come to in one family, from wide to narrow, in the order of the codes. What a narrower layer withholds is
/// not sent.
pub(super) fn chosen<'a>(layers: &[&Layer<'a>], family: Family) -> Vec<Chosen<'a>> {
    let most = layers.iter().map(|layer| layer.options[family].len()).sum();
    let mut all: Vec<Chosen<'a>> = Vec::with_capacity(most);
    for layer in layers {
        all.retain(|chosen| !layer.withholds(&chosen.option));
        for option in &layer.options[family] {
            match all.iter_mut().find(|chosen| chosen.option.is_same(option)) {
                Some(wider) => {
                    let option = std::mem::replace(&mut wider.option, option.clone());
                    wider.overrides.insert(0, (wider.layer, option));
                    wider.layer = layer.id;
                }
                None => all.push(Chosen { option: option.clone(), layer: layer.id, overrides: Vec::new() }),
            }
        }
    }
    all.sort_by_key(|chosen| chosen.option.definition.code);
    all
}
