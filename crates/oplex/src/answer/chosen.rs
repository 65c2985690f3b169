//! Which layer's option counts.

use std::borrow::Cow;
use std::net::Ipv4Addr;

use smallvec::SmallVec;

use crate::codebook::Codebook;
use crate::compiled::{Boot, Layer, LayerRef, SentOption};
use crate::family::{Family, Protocol};
use crate::few::Few;
use crate::finding::Spot;
use crate::plan::BootKey;

/// One option that clients are sent.
#[derive(Debug, Clone)]
pub struct Chosen<'a> {
    /// The option.
    pub option: SentOption<'a>,
    /// The layer that sends it.
    pub layer: LayerRef<'a>,
    /// What wider layers would have sent, the nearest first.
    pub overrides: Overrides<'a>,
}

/// What wider layers would have sent, the nearest first: for most options nothing, for most others one.
#[derive(Debug, Clone)]
pub struct Overrides<'a>(Few<(LayerRef<'a>, SentOption<'a>)>);

impl<'a> std::ops::Deref for Overrides<'a> {
    type Target = [(LayerRef<'a>, SentOption<'a>)];

    fn deref(&self) -> &Self::Target {
        &self.0
    }
}

impl<'a> Chosen<'a> {
    /// Puts an option of a narrower layer in its place.
    fn replace(&mut self, option: SentOption<'a>, layer: LayerRef<'a>) {
        let wider = std::mem::replace(&mut self.option, option);
        self.overrides.0.insert(0, (self.layer, wider));
        self.layer = layer;
    }
}

impl Chosen<'_> {
    /// The option of this code among a protocol's own, if it is sent.
    #[must_use]
    pub fn find<'c, 'a>(all: &'c [Chosen<'a>], protocol: Protocol, code: u16) -> Option<&'c Chosen<'a>> {
        all.iter().find(|chosen| chosen.option.is(protocol, code))
    }
}

/// What these layers come to in one family, from wide to narrow, in the order of the codes. What a narrower layer withholds is
/// not sent, what it changes is sent with the changes, and what it sends replaces all instances of the option that wider layers
/// send. What `boot` says is sent where no layer sends the option itself.
pub(super) fn chosen<'a>(codebook: &Codebook, layers: &[&Layer<'a>], family: Family) -> Vec<Chosen<'a>> {
    let most = layers.iter().map(|layer| layer.options[family].len() + layer.boot.len()).sum();
    let mut all: Vec<Chosen<'a>> = Vec::with_capacity(most);
    for layer in layers {
        all.retain(|chosen| !layer.withholds(&chosen.option));
        for amend in &layer.amends[family] {
            for wider in all.iter_mut().filter(|chosen| chosen.option.definition.is_same(&amend.definition)) {
                let option = amend.apply(codebook, &wider.option);
                wider.replace(option, layer.id);
            }
        }
        let own = all.len();
        for option in &layer.options[family] {
            choose(&mut all, own, layer.id, option);
        }
    }
    for BootChoice { boot, layer, wider, .. } in boot_options(layers, family) {
        if !all.iter().any(|chosen| chosen.option.is_same(&boot.option)) {
            let overrides = Overrides(wider.into_iter().map(|(layer, wider)| (layer, wider.option.clone())).collect());
            all.push(Chosen { option: boot.option.clone(), layer, overrides });
        }
    }
    // Those of several books that have the same code travel in the order of their books, so that the order of keys in a plan
    // makes no difference.
    all.sort_by(|one, other| {
        let [one, other] = [one, other].map(|chosen| &chosen.option.definition);
        one.code.cmp(&other.code).then_with(|| one.book().cmp(other.book()))
    });
    all
}

/// Adds an option of a layer, of which those from `own` on are already: in place of what wider layers send, and beside its own.
fn choose<'a>(all: &mut Vec<Chosen<'a>>, own: usize, layer: LayerRef<'a>, option: &SentOption<'a>) {
    let same = |chosen: &Chosen<'_>| chosen.option.is_same(option);
    let is_own = |chosen: &Chosen<'_>| chosen.layer == layer && chosen.option.amended.is_none();
    let mut wider =
        all.iter().enumerate().take(own).filter(|(_, chosen)| same(chosen) && !is_own(chosen)).map(|(at, _)| at);
    let Some(first) = wider.next() else {
        all.push(Chosen { option: option.clone(), layer, overrides: Overrides(Few::NONE) });
        return;
    };
    let more: Vec<usize> = wider.collect();
    all[first].replace(option.clone(), layer);
    for at in more.into_iter().rev() {
        let gone = all.remove(at);
        let overrides = &mut all[first].overrides.0;
        overrides.insert(overrides.len(), (gone.layer, gone.option));
    }
}

/// As many keys as `boot` has, so that what it comes to takes no allocation.
const FEW: usize = 6;

/// A key of `boot` that counts.
pub(crate) struct BootChoice<'l, 'a> {
    pub(crate) boot: &'l Boot<'a>,
    layer: LayerRef<'a>,
    /// How narrow the layer is.
    depth: usize,
    /// What wider layers say under the same key, the nearest first.
    wider: SmallVec<[(LayerRef<'a>, &'l Boot<'a>); 1]>,
}

/// What `boot` of these layers comes to, key by key: the narrowest layer's entry for each that no narrower one withholds.
pub(crate) fn boot<'l, 'a>(layers: &'l [&'l Layer<'a>]) -> SmallVec<[BootChoice<'l, 'a>; FEW]> {
    let mut choices: SmallVec<[BootChoice<'l, 'a>; FEW]> = SmallVec::new();
    for (depth, layer) in layers.iter().enumerate() {
        choices.retain(|known| !layer.boot_withheld.contains(&known.boot.key));
        for own in &layer.boot {
            match choices.iter_mut().find(|known| known.boot.key == own.key) {
                Some(known) => {
                    known.wider.insert(0, (known.layer, known.boot));
                    (known.boot, known.layer, known.depth) = (own, layer.id, depth);
                }
                None => choices.push(BootChoice { boot: own, layer: layer.id, depth, wider: SmallVec::new() }),
            }
        }
    }
    choices
}

/// One thing that `boot` says in the header of replies.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct BootField<'a, T> {
    /// What it says.
    pub value: T,
    /// The layer that says so.
    pub layer: LayerRef<'a>,
    /// Where that stands in the plan.
    pub spot: Option<&'a Spot>,
}

/// What `boot` comes to in the header of DHCPv4's replies (RFC 2131, section 2).
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct BootHeader<'a> {
    /// The address of the server that has the boot file, `siaddr`.
    pub server: Option<BootField<'a, Ipv4Addr>>,
    /// The server's name, `sname`; one of more than 63 octets goes in option 66 alone.
    pub host: Option<BootField<'a, Cow<'a, str>>>,
    /// The boot file, `file`; one of more than 127 octets goes in option 67 alone.
    pub file: Option<BootField<'a, Cow<'a, str>>>,
}

impl<'a> BootHeader<'a> {
    /// Each field that is set, with its name in the header and its value as text.
    pub fn fields(&self) -> impl Iterator<Item = BootField<'a, (&'static str, String)>> {
        let text = |name: &'static str, field: &BootField<'a, Cow<'a, str>>| BootField {
            value: (name, field.value.to_string()),
            layer: field.layer,
            spot: field.spot,
        };
        let server = self.server.as_ref().map(|field| BootField {
            value: ("siaddr", field.value.to_string()),
            layer: field.layer,
            spot: field.spot,
        });
        let (host, file) =
            (self.host.as_ref().map(|host| text("sname", host)), self.file.as_ref().map(|file| text("file", file)));
        [server, host, file].into_iter().flatten()
    }

    pub(super) fn of(layers: &[&Layer<'a>]) -> Self {
        let mut header = Self::default();
        for BootChoice { boot, layer, .. } in boot(layers) {
            let spot = boot.option.key();
            let text = |most: usize| Some(boot.text.clone()).filter(|text| text.len() <= most && !text.contains('\0'));
            let field = |text: Cow<'a, str>| BootField { value: text, layer, spot };
            match (boot.key, boot.text.parse()) {
                (BootKey::Server, Ok(value)) => header.server = Some(BootField { value, layer, spot }),
                // A name beside another is the `host`.
                (BootKey::Server, Err(_)) => header.host = header.host.take().or_else(|| text(63).map(field)),
                (BootKey::Host, _) => header.host = text(63).map(field),
                (BootKey::File, _) => header.file = text(127).map(field),
                _ => {}
            }
        }
        header
    }
}

/// The options that say what `boot` says; what a narrower layer withholds is none. A name beside another is the `host`.
fn boot_options<'l, 'a>(layers: &'l [&'l Layer<'a>], family: Family) -> impl Iterator<Item = BootChoice<'l, 'a>> {
    let choices = boot(layers);
    let named = choices.iter().any(|choice| choice.boot.key == BootKey::Host);
    choices.into_iter().filter(move |BootChoice { boot, depth, .. }| {
        let withheld = layers[depth + 1..].iter().any(|layer| layer.withholds(&boot.option));
        let second = named && boot.key == BootKey::Server && boot.option.is(Protocol::V4, 66);
        boot.option.definition.is_own_of(family.protocol()) && !withheld && !second
    })
}
